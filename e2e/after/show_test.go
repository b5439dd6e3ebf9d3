package after

import (
	"fmt"
	"testing"
	"time"

	"glossator/e2e/browser"
	"glossator/e2e/desk"
)

// By keys: a show is begun, its cues are written, an instrument is hired, and the plan says which plays what; a cue that makes no sense is named at its place, and the rest is planned; undo takes each step back.
func TestShowByKeys(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/")
	d.Press("g", "s")
	d.Sees("The Lamp at Skerry Point")
	d.Press("n")
	d.Put("A night of my own")
	d.Press("Enter")
	d.Sees("A night of my own", "No cue yet", "The house")
	d.Set(`[...document.querySelectorAll("label")].find((l) => l.innerText.includes("Another instrument"))?.querySelector("select")`, "kedge")
	d.Sees("Not there")
	cue := func(name, patch, from, to, player string) {
		d.T.Helper()
		d.Press("n")
		d.Holds(`document.activeElement?.value === "New cue"`)
		d.Put(name)
		d.Picks("Patch", patch)
		d.Picks("From", from)
		d.Picks("To", to)
		d.Picks("Player", player)
		d.Press("Enter")
		d.Holds(`!document.querySelector("form.fields button") && document.body.innerText.includes("` + name + `")`)
	}
	cue("First", "keel", "0:30", "2:00", "one")
	cue("Second", "gulls", "5:00", "6:00", "one")
	d.Sees("to change from First")
	cue("Third", "keel", "noon", "7:00", "one")
	d.Sees("Left aside: expected a time such as 12:30", "to change from First")
	cue("Fourth", "keel", "6:05", "8:00", "one")
	d.Sees("Evening 1 does not fit", "Second, Fourth cannot all be played", "Do so")
	d.Does("click", "Do so")
	d.Holds(`!document.body.innerText.includes("does not fit")`)
	d.Press("Ctrl+z")
	d.Sees("Took back: change the show", "Evening 1 does not fit")
	d.Press("Escape")
	d.Holds(`location.pathname === "/shows"`)
	d.Drops(`document.querySelector("input[type=file]")`, "diary.json", "application/json", "dear diary")
	d.Sees("diary.json")
	d.Visit("/shows/1/h2/hire")
	d.Sees("What each carries of the whole book", "play the whole book", "not on Sundays")
	d.Press("3")
	d.Holds(`[...document.querySelectorAll("table")].at(-1).innerText.includes("Thole + Coracle + Sheave")`)
	d.Press("Escape")
	d.Sees("Evening 2")
	d.Press("ArrowDown", "o")
	d.Holds(`location.pathname === "/sheets/1"`)
}

// Two browsers on one running order see each other's ticks; without the program what is done is kept, and sent when it answers again; a tick of a rehearsal that was begun anew elsewhere is not taken.
func TestRunningOrderOnTwoDevices(t *testing.T) {
	d := desk.Open(t, true)
	const path = "/shows/1/h1/rehearse/1"
	d.Visit(path)
	d.Sees("Running order", "Begin")
	d.Press("s")
	d.Sees("Hold the clock")
	d.Press("Space", "Space")
	b, err := browser.Open(390, 844)
	d.Must(err)
	defer b.Close()
	other := &desk.Desk{Browser: b, T: t, Server: d.Server}
	done := func(x *desk.Desk, n int) {
		t.Helper()
		x.Holds(fmt.Sprintf(`document.querySelectorAll(".moves input:checked").length === %d`, n))
	}
	other.Visit(path)
	done(other, 2)
	other.Sees("Hold the clock")
	other.Click(".moves li:nth-child(4) input")
	done(d, 3)
	d.Press("Backspace")
	done(other, 2)

	d.Down.Store(true)
	d.Press("Space", "Space", "Space")
	done(d, 5)
	d.Sees("The program does not answer", "kept here and sent when it does")
	d.Press("ArrowRight") // the clock goes on by itself, and by hand
	time.Sleep(2500 * time.Millisecond)
	d.Down.Store(false)
	d.Holds(`!document.body.innerText.includes("does not answer")`)
	done(other, 5)
	run, err := d.Store.Run(1, "h1", 1)
	d.Must(err)
	ticks, err := d.Store.RunTicks(run.ID)
	d.Must(err)
	if len(ticks) != 5 || !run.Going {
		t.Errorf("%d ticks are kept, going %v", len(ticks), run.Going)
	}
	for _, x := range ticks {
		if x.Who != "keys one" || x.Of == 0 || time.Since(x.At) > time.Minute {
			t.Errorf("%+v", x)
		}
	}
	d.Visit(path) // it is with the program, not with the page
	done(d, 5)
	other.Press("a")
	done(other, 0)
	done(d, 0)
	d.Down.Store(true) // begun without the program
	time.Sleep(2500 * time.Millisecond)
	d.Sees("The program does not answer")
	d.Late.Store(int64(500 * time.Millisecond)) // and it takes a while until that is known: what is pressed meanwhile counts, each key once
	d.Press("a", "s", "Space", "Space")
	done(d, 2)
	d.Late.Store(0)
	d.Down.Store(false)
	done(other, 2)
	other.Sees("Hold the clock")
	if next, err := d.Store.Run(1, "h1", 1); err != nil || next.ID == run.ID || !next.Going {
		t.Errorf("%+v, %v", next, err)
	}
	d.Press("w")
	d.Holds(`document.querySelector("label select[value], .bar select") && [...document.querySelectorAll(".bar select")].at(-1).value === "keys one"`)
}

// With nothing here the views of a show say what to do; a show that is not there, an instrument and a patch that have gone, and a name of any length are shown as what they are; an instrument with memory is changed over by its program.
func TestOddShows(t *testing.T) {
	d := desk.Open(t, false)
	d.Visit("/shows")
	d.Sees("No show yet")
	d.Visit("/shows/7")
	d.Sees("No such show", "All shows")
	d.Visit("/shows/7/h1/hire")
	d.Sees("No such house")
	d.Visit("/shows/7/h1/rehearse/1")
	d.Sees("No such rehearsal")
	d.Visit("/ear")
	d.Sees("There is no patch to practise on yet")
	d.Visit("/ear/7")
	d.Sees("No such sitting")
	d.Visit("/shows")
	long := ""
	for range 12 {
		long += "The Lamp at Skerry "
	}
	d.Drops(`document.querySelector("input[type=file]")`, "odd.json", "application/json", fmt.Sprintf(`{\"format\": \"glossator-show\", \"version\": 1, \"name\": \"%.190s\", \"cues\": [{\"name\": \"%.190s\", \"patch\": \"nobody\", \"start\": \"0:10\", \"end\": \"1:00\"}], \"houses\": [{\"name\": \"%.190s\", \"instruments\": [{\"panel\": \"unheard-of\"}]}]}`, long, long, long))
	d.Sees("there is no patch", "Left aside: unheard-of", "which is gone")
	d.Holds(`document.documentElement.scrollWidth <= innerWidth`)
	d.Must(d.Size(390, 844))
	d.Holds(`document.documentElement.scrollWidth <= innerWidth`)
	d.Must(d.Size(1280, 800))
	d.Press("w")
	d.Sees("This house has no instrument yet")
	d.Press("Escape")
	d.Sees("Evening 1", "which is gone")
	d.Press("r")
	d.Sees("Nothing is played on evening 1")
	d.Press("Escape")
	d.Sees("Evening 1", "which is gone")
	d.Does("click", "More")
	d.Holds(`(() => { const b = [...document.querySelectorAll("[role=menuitem], .bx--overflow-menu-options__btn")].find((x) => x.innerText.trim() === "Delete"); b?.click(); return !!b; })()`)
	d.Sees("The show is deleted")
	d.Press("Ctrl+z")
	d.Sees("Took back: delete the show")
}

// A house whose instruments remember is rehearsed by programs: each is one move; a player's own part alone is shown where they say who they are, and stays so over a reload.
func TestRehearsalByPrograms(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/shows/1/h3/rehearse/2")
	d.Sees("The big stage", "Begin")
	moves := `[...document.querySelectorAll(".moves li")].map((x) => x.innerText.replace(/\s+/g, " "))`
	d.Holds(`(` + moves + `).length === 1 && (` + moves + `)[0].includes("Program")`)
	d.Press("Space")
	d.Holds(`document.querySelectorAll(".order .small").length > 3 && [...document.querySelectorAll(".order .small")].some((x) => x.innerText.includes("done,"))`)
	d.Press("Backspace")
	d.Holds(`![...document.querySelectorAll(".order .small")].some((x) => x.innerText.includes("done,"))`)
	d.Press("w", "w")
	d.Holds(`[...document.querySelectorAll(".bar select")].at(-1).selectedIndex === 2`)
	d.Visit("/shows/1/h3/rehearse/2")
	d.Holds(`[...document.querySelectorAll(".bar select")].at(-1).selectedIndex === 2`)
	before, err := browser.Eval[string](d.Browser, `document.querySelector("time").innerText`)
	d.Must(err)
	d.Press("ArrowRight", "ArrowRight")
	d.Holds(fmt.Sprintf(`document.querySelector("time").innerText !== %q`, before))
	d.Press("s")
	d.Sees("Hold the clock")
	d.Press("s")
	d.Sees("Go on")
}
