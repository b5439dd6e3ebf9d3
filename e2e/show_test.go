package e2e

import (
	"fmt"
	"testing"
	"time"

	"glossator/e2e/browser"
)

// picks puts a field of a form that is labelled so to a value.
func (d *desk) picks(label, value string) {
	d.t.Helper()
	d.set(`[...document.querySelectorAll("form.fields label")].find((l) => l.innerText.trim().startsWith("`+label+`"))?.querySelector("input, select")`, value)
}

// By keys: a show is begun, its cues are written, an instrument is hired, and the plan says which plays what; a cue that makes no sense is named at its place, and the rest is planned; undo takes each step back.
func TestShowByKeys(t *testing.T) {
	d := open(t, true)
	d.visit("/")
	d.press("g", "s")
	d.sees("The Lamp at Skerry Point")
	d.press("n")
	d.put("A night of my own")
	d.press("Enter")
	d.sees("A night of my own", "No cue yet", "The house")
	d.set(`[...document.querySelectorAll("label")].find((l) => l.innerText.includes("Another instrument"))?.querySelector("select")`, "kedge")
	d.sees("Not there")
	cue := func(name, patch, from, to, player string) {
		d.t.Helper()
		d.press("n")
		d.holds(`document.activeElement?.value === "New cue"`)
		d.put(name)
		d.picks("Patch", patch)
		d.picks("From", from)
		d.picks("To", to)
		d.picks("Player", player)
		d.press("Enter")
		d.holds(`!document.querySelector("form.fields button") && document.body.innerText.includes("` + name + `")`)
	}
	cue("First", "keel", "0:30", "2:00", "one")
	cue("Second", "gulls", "5:00", "6:00", "one")
	d.sees("to change from First")
	cue("Third", "keel", "noon", "7:00", "one")
	d.sees("Left aside: expected a time such as 12:30", "to change from First")
	cue("Fourth", "keel", "6:05", "8:00", "one")
	d.sees("Evening 1 does not fit", "Second, Fourth cannot all be played", "Do so")
	d.does("click", "Do so")
	d.holds(`!document.body.innerText.includes("does not fit")`)
	d.press("Ctrl+z")
	d.sees("Took back: change the show", "Evening 1 does not fit")
	d.press("Escape")
	d.holds(`location.pathname === "/shows"`)
	d.drops(`document.querySelector("input[type=file]")`, "diary.json", "application/json", "dear diary")
	d.sees("diary.json")
	d.visit("/shows/1/h2/hire")
	d.sees("What each carries of the whole book", "play the whole book", "not on Sundays")
	d.press("3")
	d.holds(`[...document.querySelectorAll("table")].at(-1).innerText.includes("Thole + Coracle + Sheave")`)
	d.press("Escape")
	d.sees("Evening 2")
	d.press("ArrowDown", "o")
	d.holds(`location.pathname === "/sheets/1"`)
}

// Two browsers on one running order see each other's ticks; without the program what is done is kept, and sent when it answers again; a tick of a rehearsal that was begun anew elsewhere is not taken.
func TestRunningOrderOnTwoDevices(t *testing.T) {
	d := open(t, true)
	const path = "/shows/1/h1/rehearse/1"
	d.visit(path)
	d.sees("Running order", "Begin")
	d.press("s")
	d.sees("Hold the clock")
	d.press("Space", "Space")
	b, err := browser.Open(390, 844)
	d.must(err)
	defer b.Close()
	other := &desk{Browser: b, t: t, srv: d.srv}
	done := func(x *desk, n int) {
		t.Helper()
		x.holds(fmt.Sprintf(`document.querySelectorAll(".moves input:checked").length === %d`, n))
	}
	other.visit(path)
	done(other, 2)
	other.sees("Hold the clock")
	other.click(".moves li:nth-child(4) input")
	done(d, 3)
	d.press("Backspace")
	done(other, 2)

	d.down.Store(true)
	d.press("Space", "Space", "Space")
	done(d, 5)
	d.sees("The program does not answer", "kept here and sent when it does")
	d.press("ArrowRight") // the clock goes on by itself, and by hand
	time.Sleep(2500 * time.Millisecond)
	d.down.Store(false)
	d.holds(`!document.body.innerText.includes("does not answer")`)
	done(other, 5)
	run, err := d.st.Run(1, "h1", 1)
	d.must(err)
	ticks, err := d.st.RunTicks(run.ID)
	d.must(err)
	if len(ticks) != 5 || !run.Going {
		t.Errorf("%d ticks are kept, going %v", len(ticks), run.Going)
	}
	for _, x := range ticks {
		if x.Who != "keys one" || x.Of == 0 || time.Since(x.At) > time.Minute {
			t.Errorf("%+v", x)
		}
	}
	d.visit(path) // it is with the program, not with the page
	done(d, 5)
	other.press("a")
	done(other, 0)
	done(d, 0)
	d.down.Store(true) // begun without the program
	time.Sleep(2500 * time.Millisecond)
	d.press("a")
	d.sees("The program does not answer")
	d.press("s", "Space", "Space")
	done(d, 2)
	d.down.Store(false)
	done(other, 2)
	other.sees("Hold the clock")
	if next, err := d.st.Run(1, "h1", 1); err != nil || next.ID == run.ID || !next.Going {
		t.Errorf("%+v, %v", next, err)
	}
	d.press("w")
	d.holds(`document.querySelector("label select[value], .bar select") && [...document.querySelectorAll(".bar select")].at(-1).value === "keys one"`)
}

// With nothing here the views of a show say what to do; a show that is not there, an instrument and a patch that have gone, and a name of any length are shown as what they are; an instrument with memory is changed over by its program.
func TestOddShows(t *testing.T) {
	d := open(t, false)
	d.visit("/shows")
	d.sees("No show yet")
	d.visit("/shows/7")
	d.sees("No such show", "All shows")
	d.visit("/shows/7/h1/hire")
	d.sees("No such house")
	d.visit("/shows/7/h1/rehearse/1")
	d.sees("No such rehearsal")
	d.visit("/ear")
	d.sees("There is no patch to practise on yet")
	d.visit("/ear/7")
	d.sees("No such sitting")
	d.visit("/shows")
	long := ""
	for range 12 {
		long += "The Lamp at Skerry "
	}
	d.drops(`document.querySelector("input[type=file]")`, "odd.json", "application/json", fmt.Sprintf(`{\"format\": \"glossator-show\", \"version\": 1, \"name\": \"%.190s\", \"cues\": [{\"name\": \"%.190s\", \"patch\": \"nobody\", \"start\": \"0:10\", \"end\": \"1:00\"}], \"houses\": [{\"name\": \"%.190s\", \"instruments\": [{\"panel\": \"unheard-of\"}]}]}`, long, long, long))
	d.sees("there is no patch", "Left aside: unheard-of", "which is gone")
	d.holds(`document.documentElement.scrollWidth <= innerWidth`)
	d.must(d.Size(390, 844))
	d.holds(`document.documentElement.scrollWidth <= innerWidth`)
	d.must(d.Size(1280, 800))
	d.press("w")
	d.sees("This house has no instrument yet")
	d.press("Escape")
	d.sees("Evening 1", "which is gone")
	d.press("r")
	d.sees("Nothing is played on evening 1")
	d.press("Escape")
	d.sees("Evening 1", "which is gone")
	d.does("click", "More")
	d.holds(`(() => { const b = [...document.querySelectorAll("[role=menuitem], .bx--overflow-menu-options__btn")].find((x) => x.innerText.trim() === "Delete"); b?.click(); return !!b; })()`)
	d.sees("The show is deleted")
	d.press("Ctrl+z")
	d.sees("Took back: delete the show")
}

// A house whose instruments remember is rehearsed by programs: each is one move; a player's own part alone is shown where they say who they are, and stays so over a reload.
func TestRehearsalByPrograms(t *testing.T) {
	d := open(t, true)
	d.visit("/shows/1/h3/rehearse/2")
	d.sees("The big stage", "Begin")
	moves := `[...document.querySelectorAll(".moves li")].map((x) => x.innerText.replace(/\s+/g, " "))`
	d.holds(`(` + moves + `).length === 1 && (` + moves + `)[0].includes("Program")`)
	d.press("Space")
	d.holds(`document.querySelectorAll(".order .small").length > 3 && [...document.querySelectorAll(".order .small")].some((x) => x.innerText.includes("done,"))`)
	d.press("Backspace")
	d.holds(`![...document.querySelectorAll(".order .small")].some((x) => x.innerText.includes("done,"))`)
	d.press("w", "w")
	d.holds(`[...document.querySelectorAll(".bar select")].at(-1).selectedIndex === 2`)
	d.visit("/shows/1/h3/rehearse/2")
	d.holds(`[...document.querySelectorAll(".bar select")].at(-1).selectedIndex === 2`)
	before, err := browser.Eval[string](d.Browser, `document.querySelector("time").innerText`)
	d.must(err)
	d.press("ArrowRight", "ArrowRight")
	d.holds(fmt.Sprintf(`document.querySelector("time").innerText !== %q`, before))
	d.press("s")
	d.sees("Hold the clock")
	d.press("s")
	d.sees("Go on")
}
