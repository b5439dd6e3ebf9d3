package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"glossator/core/patch"
	"glossator/core/wire"
	"glossator/e2e/browser"
	"glossator/formats/smf"
	"glossator/testutil/testrack"
)

// put types a text in place of what stands in the field that has the focus.
func (d *desk) put(text string) {
	d.t.Helper()
	_, err := browser.Eval[bool](d.Browser, "document.activeElement.select(), true")
	d.must(err)
	for _, c := range text {
		d.press(string(c))
	}
}

// field is a JavaScript expression for the field with a label in the editor.
func field(label string) string {
	return `[...document.querySelectorAll(".editor label")].find(l => l.textContent.trim() === "` + label + `")?.parentElement.querySelector("input, select, textarea")`
}

func (d *desk) focus(js string) {
	d.t.Helper()
	d.holds(js)
	_, err := browser.Eval[bool](d.Browser, "("+js+").focus(), true")
	d.must(err)
}

// A new panel from blank to its second revision: by the keyboard but for what only a mouse or
// a file can do.
func TestWorkshop(t *testing.T) {
	d := open(t, true)
	d.visit("/panels")
	d.sees("Kedge")
	d.press("n")
	d.holds("document.activeElement.id === 'new-panel-name'")
	d.put("Sea Room")
	d.press("Enter")
	d.holds("location.pathname === '/panels/sea-room/workshop'")
	d.sees("new panel, not saved yet", "No faults.")

	// find the cutoff, go in, and change its init: a reading it cannot show is a fault there
	d.press("Escape", "/")
	d.put("cutoff")
	d.press("ArrowDown", "Enter")
	d.holds("document.activeElement.id === 'first-field' && document.activeElement.value === 'Cutoff'")
	d.focus(field("Init"))
	d.put("900")
	d.sees("0 to 127")
	d.press("Enter")
	d.sees("1 fault; it stops only the saving")
	d.press("Escape")
	d.holds("document.activeElement.id === 'o-controls:filter.cutoff'")
	d.press("Ctrl+z")
	d.sees("No faults.")

	// the rule is drawn as the law is typed, before anything is stored
	d.focus(field("At the top"))
	d.put("5000")
	d.holds(`(s => s.includes("112: ") && !s.includes("112: 8"))(document.querySelector(".rule svg").getAttribute("aria-label"))`)
	d.press("Enter")
	d.holds("document.querySelector('header .tools').innerText.includes('at the top')")

	// a law from printed marks
	d.press("Escape")
	_, err := browser.Eval[bool](d.Browser, `[...document.querySelectorAll(".editor button")].find(b => b.textContent.includes("From printed marks")).click(), true`)
	d.must(err)
	d.focus("document.querySelector('#marks-0')")
	d.set("document.activeElement", "0 = 30 Hz\n64 = 500 Hz\n127 = 9 kHz")
	d.press("Ctrl+Enter")
	d.holds(`document.querySelector(".marks .reason")?.textContent.length > 10`)
	d.holds(`document.querySelector(".rule svg").getAttribute("aria-label").includes("29.4 Hz")`) // equal ratios, within what the marks say
	d.set(field("Known from"), "measured")
	d.focus(field("Give or take, two times of three"))
	d.put("3 %")
	d.press("Enter")
	d.holds(`document.querySelector(".rule div.soft").innerText.includes("measured") && document.querySelector(".rule div.soft").innerText.includes("±6 %")`) // k = 2

	// a new control of its section, in the table; an id that another has is a fault at its place
	d.press("Escape", "n")
	d.holds("document.activeElement.id === 't-label-+filter'")
	d.put("Snarl")
	d.press("Tab")
	d.put("0-10")
	d.press("Tab")
	d.put("drive filt")
	d.press("Enter")
	d.holds("document.getElementById('t-sets-filter.snarl')?.value === 'drive of filter'")
	d.press("Escape")
	d.visit("/panels/sea-room/workshop?line=controls:filter.snarl")
	d.focus(field("Short name"))
	d.put("filter.cutoff")
	d.press("Enter")
	d.sees("has the same short name as another control")
	d.press("Escape", "Ctrl+z")
	d.sees("No faults.")
	d.press("/")
	d.put("modules oscillator")
	d.press("ArrowDown", "Delete")
	d.sees("Took out Oscillator", "only the saving")
	d.press("f")
	d.holds("document.querySelector('.faults li')")
	d.press("Ctrl+z")
	d.sees("No faults.")
	d.press("s")
	d.sees("Saved as revision 1", "revision 1, nothing edited")

	// a condition by text, and the second revision with its difference
	d.visit("/panels/sea-room/workshop?line=controls:filter.resonance")
	d.sees("Resonance")
	d.focus(field("Only while"))
	d.put("osc.wave")
	d.press("Enter")
	d.sees("expected control = reading | reading")
	d.put("osc.wave = saw | pulse")
	d.press("Enter")
	d.sees("1 change")
	d.press("Escape", "s")
	d.sees("Saved as revision 2")
	d.press("h")
	d.sees("Make it the draft", "osc.wave at saw or pulse")
	d.press("h", "Escape")
	d.holds("location.pathname === '/panels/sea-room'")
	d.press("w")
	d.holds("location.pathname === '/panels/sea-room/workshop'")

	// the controls table: one with a fault names its row, a good one is read
	table, err := browser.Await[string](d.Browser, "fetch('/api/v1/panels/sea-room/controls.csv').then(r => r.text())")
	d.must(err)
	file := filepath.Join(t.TempDir(), "controls.csv")
	d.must(os.WriteFile(file, []byte(strings.Replace(table, ",filter,", ",filtre,", 1)), 0o600))
	d.must(d.Upload("input[aria-label='Controls table']", file))
	d.sees("controls.csv", "row ")
	d.must(os.WriteFile(file, []byte(strings.Replace(table, ",Cutoff,", ",Brightness,", 1)), 0o600))
	d.must(d.Upload("input[aria-label='Controls table']", file))
	d.sees("controls read")
	d.holds("[...document.querySelectorAll('.row')].some(r => r.innerText.includes('Brightness'))")
}

// Layers, cables, versions, readings by MIDI and the phrase, on the patch desk.
func TestPatchInFull(t *testing.T) {
	d := open(t, true)
	d.visit("/patches/foghorn")
	d.sees("only what differs from init")
	d.press("k")
	d.holds("document.activeElement.id === 'cable-from'")
	d.set(`document.querySelectorAll("form.fields select")[0]`, "out-noise")
	d.set(`document.querySelectorAll("form.fields select")[1]`, "in-rate")
	d.click("form.fields button[type=submit]")
	d.holds("document.querySelectorAll('.cables li').length === 3")
	d.click("button[aria-label^='take out the cable into']")
	d.holds("document.querySelectorAll('.cables li').length === 2")
	d.press("Escape")

	d.press("y")
	d.holds("document.activeElement.id === 'layer-label'")
	d.put("Low horn")
	d.press("Enter", "Tab")
	d.put("-12 st")
	d.press("Enter")
	d.sees("Layer changed")
	d.press("Tab")
	d.put("loud")
	d.press("Enter")
	d.sees("The input is at fault")
	d.press("Escape")
	_, err := browser.Eval[bool](d.Browser, `document.querySelector("#layer-label") || [...document.querySelectorAll("button")].find(b => b.textContent === "Layers").click(), true`)
	d.must(err)
	d.holds("[...document.querySelectorAll('button')].find(b => b.textContent === 'Add one like this')")
	_, err = browser.Eval[bool](d.Browser, `[...document.querySelectorAll("button")].find(b => b.textContent === "Add one like this").click(), true`)
	d.must(err)
	d.sees("Layer added")
	d.holds("document.querySelector('.bar .bx--select select, .bar select') && document.body.innerText.includes('Low horn, -12 st')")

	d.visit("/patches/fog-bank")
	d.sees("only what differs from init")
	d.press("v")
	d.holds("document.activeElement.id === 'version-note'")
	d.put("before the hall")
	d.press("Enter")
	d.sees("Version 1 kept", "nothing has changed")
	d.press("Escape")
	d.visit("/patches/fog-bank?line=filter.cutoff")
	d.holds("document.querySelector('tr[aria-selected=true]')?.id === 'r-filter.cutoff'")
	d.press("9", "9", "Enter")
	d.holds("document.getElementById('r-filter.cutoff').innerText.includes('99')")
	d.press("v")
	d.sees("1 difference")
	d.click("section[aria-label=Versions] td button.linkish")
	d.holds("document.querySelector('section[aria-label=Versions] dl').innerText.includes('99')")
	d.click("section[aria-label=Versions] td:last-child button.linkish")
	d.sees("Back to version 1")
	d.holds("!document.getElementById('r-filter.cutoff').innerText.includes('99')")
	d.press("Escape")

	// a MIDI file: what it says is shown, chosen, and only then stored
	rack := testrack.Panels(t)
	w, err := wire.Write(rack["halyard"], &patch.Layer{ID: "a", Readings: map[string]string{"filter.cutoff": "12", "filter.resonance": "77"}}, 1)
	d.must(err)
	file := filepath.Join(t.TempDir(), "from the hall.mid")
	d.must(os.WriteFile(file, smf.OfMessages(append(w.Messages, wire.Message{Status: 0xB0, Data: []byte{3, 4}})).Write(), 0o600))
	d.must(d.Upload("input[aria-label='MIDI file of readings']", file))
	d.sees("from the hall.mid", "nothing is stored", "no control of the panel")
	d.holds("[...document.querySelectorAll('section[aria-label=\"From MIDI\"] tr')].some(r => r.innerText.includes('12'))")
	d.click("section[aria-label='From MIDI'] .bar:last-child button")
	d.sees("readings taken")
	d.visit("/patches/fog-bank?line=filter.cutoff")
	d.holds("document.getElementById('r-filter.cutoff')?.innerText.replace(/\\s+/g, ' ').includes(' 12 ')")
	d.must(os.WriteFile(file, []byte("no MIDI"), 0o600))
	d.must(d.Upload("input[aria-label='MIDI file of readings']", file))
	d.sees("The input is at fault", "from the hall.mid")
}

// A line is entered note by note on the keyboard, and kept.
func TestPhraseByKeyboard(t *testing.T) {
	d := open(t, true)
	d.visit("/patches")
	d.sees("Foghorn")
	d.press("n")
	d.holds("document.activeElement.id === 'new-name'")
	d.put("Spray")
	d.press("Enter")
	d.sees("Everything stands at init")
	d.press("f")
	d.holds("document.activeElement.id === 'phrase-grid'")
	line := "document.getElementById('phrase-line').innerText"
	d.press("a") // A2, as the octave stands
	d.sees("1 notes, 1/8 long")
	d.press("c", "ArrowLeft")
	d.holds(line + ".startsWith('C3 at 1/8 for 1/8')")
	d.press("+", "x", "s", ".")
	d.holds(line + " === 'C3 at 1/8 for 1/4, velocity 108, accented, slid into'")
	d.press("h") // a third above
	d.holds(line + ".includes('E3') && " + line + ".includes('note 2 of 2')")
	d.press("ArrowDown", "End", "g")
	d.holds("document.querySelector('.steps').innerText.replace(/\\s+/g, '').startsWith('A2C3›~D#3›~G')")
	d.press("ArrowLeft", "Delete")
	d.holds("!document.querySelector('.steps').innerText.includes('G')")
	d.press("Escape")
	d.sees("0 A2 for 1/8 at 100", "1/8 C3 for 1/4 at 108 accented slid", "1/8 D#3 for 1/4 at 108 accented slid")
	d.must(d.Reload())
	d.sees("0 A2 for 1/8 at 100", "1/8 D#3 for 1/4 at 108")
	d.press("f")
	d.sees("Octave ladder")
	d.click("section[aria-label=Phrase] .bar .end button:nth-of-type(2)")
	d.sees("5 notes")
	d.press("Escape")
	d.sees("A1 for 3/8", "A3 for 3/8")
	d.press("Ctrl+z")
	d.sees("0 A2 for 1/8 at 100")
}

// The reckoner takes the value of the line that is chosen.
func TestReckonerTakesTheLine(t *testing.T) {
	d := open(t, true)
	d.visit("/patches/foghorn?line=lowpass.cutoff")
	d.holds("document.querySelector('tr[aria-selected=true]')?.id === 'r-lowpass.cutoff'")
	d.press("=")
	d.sees("600 Hz of Foghorn: Filter Cutoff", "they come first")
	d.holds("document.querySelector('input[data-sum=comb]').value === '1.6667 ms'")
	d.holds("document.querySelectorAll('input[data-sum=comb]')[1].value === '600 Hz'")
	d.holds("document.querySelectorAll('tr.taken').length >= 4 && document.querySelector('tbody tr').classList.contains('taken')")
	d.press("Escape")
	d.holds("location.pathname === '/patches/foghorn'")
}

// Which instrument carries a patch best, the plan of a sheet, and the whole bank, by keyboard.
func TestTargetsPlanAndBank(t *testing.T) {
	d := open(t, true)
	d.visit("/patches/morning-light")
	d.sees("only what differs from init")
	d.press("b")
	d.holds("location.pathname === '/patches/morning-light/targets'")
	d.sees("Halyard", "What Halyard leaves out", "By other means")
	shares, err := browser.Eval[[]float64](d.Browser, "[...document.querySelectorAll('td.share .num')].map(x => parseFloat(x.textContent))")
	d.must(err)
	if len(shares) != 8 {
		t.Fatalf("shares %v", shares)
	}
	for i := 1; i < len(shares); i++ {
		if shares[i] > shares[i-1] {
			t.Errorf("not in order: %v", shares)
		}
	}
	d.press("ArrowDown", "ArrowUp", "Enter")
	d.holds("location.pathname === '/sheets/1'")
	d.sees("Sheave to", "checks hold", "recast")
	d.press("p")
	d.sees("Carried by weight", "By other means", "played by an oscillator")
	d.holds("document.querySelector('section[aria-label=Plan]').innerText.includes('left out')")
	d.click("section[aria-label=Plan] .next button")
	d.holds("document.querySelectorAll('section[aria-label=Plan] .next .num').length === 2")
	d.press("p")

	// another way for a part, a part that does not matter, and back by undo
	d.visit("/sheets/1?line=sub.level")
	d.holds("document.querySelector('tr[aria-selected=true]')?.id === 'g-sub.level'")
	d.holds("document.querySelector('aside .part')?.innerText.includes('Sub oscillator')")
	d.click("aside .part button.linkish")
	d.holds("document.querySelectorAll('aside .part tbody tr').length >= 2")
	d.click("aside .part tbody tr:nth-child(2) button")
	d.holds("document.getElementById('g-sub.level').innerText.includes('left out')")
	d.press("Ctrl+z")
	d.holds("document.getElementById('g-sub.level').innerText.includes('recast')")
	d.click("aside .part .row button:nth-child(3)")
	d.holds("document.querySelector('aside .part .row button:nth-child(3)').getAttribute('aria-pressed') === 'true'")
	d.press("s")
	d.holds("location.pathname === '/sheets/2'")
	d.sees("by feel: how it plays")
	d.press("g", "b")
	d.holds("location.pathname === '/bank'")
	d.sees("Translate all", "Instruments", "Undertow")
	d.press("r")
	d.sees("10 of 10")
	d.holds("document.querySelectorAll('button.cell').length === 81")
	d.press("ArrowDown", "ArrowDown", "ArrowRight")
	d.holds("document.activeElement.matches('button.cell') && document.activeElement.getAttribute('aria-label').includes('%')")
	d.press("Enter")
	d.holds("location.pathname.startsWith('/sheets/')")
	d.sees("checks hold")
}

// Edits that are made before the answers to the last ones have come take nothing of each other back.
func TestEditsFasterThanTheAnswers(t *testing.T) {
	d := open(t, true)
	d.visit("/panels/halyard/workshop?line=controls:filter.cutoff")
	d.holds(field("Known from"))
	d.answers = make(chan struct{})
	d.focus(field("Aliases, by commas"))
	d.put("fc")
	d.press("Enter")
	d.set(field("Known from"), "assumed")
	d.answers <- struct{}{}
	d.sees("Undo: Halyard: Cutoff: aliases") // the form is as the first edit left it, the second is on its way
	d.focus(field("Give or take, two times of three"))
	d.put("7 %")
	d.press("Enter")
	d.answers <- struct{}{}
	d.answers <- struct{}{}
	d.sees("Undo: Halyard: Cutoff: uncertainty")
	d.visit("/panels/halyard/workshop?line=controls:filter.cutoff")
	d.holds(field("Known from") + `?.value === "assumed"`)
	d.holds(field("Aliases, by commas") + `.value === "fc"`)
	d.holds(field("Give or take, two times of three") + `.value.includes("7")`)
}
