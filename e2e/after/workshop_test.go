package after

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"glossator/core/patch"
	"glossator/core/wire"
	"glossator/e2e/browser"
	"glossator/e2e/desk"
	"glossator/formats/smf"
	"glossator/testutil/testrack"
)

// A new panel from blank to its second revision: by the keyboard but for what only a mouse or
// a file can do.
func TestWorkshop(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/panels")
	d.Sees("Kedge")
	d.Press("n")
	d.Holds("document.activeElement.id === 'new-panel-name'")
	d.Put("Sea Room")
	d.Press("Enter")
	d.Holds("location.pathname === '/panels/sea-room/workshop'")
	d.Sees("new panel, not saved yet", "No faults.")

	// find the cutoff, go in, and change its init: a reading it cannot show is a fault there
	d.Press("Escape", "/")
	d.Put("cutoff")
	d.Press("ArrowDown", "Enter")
	d.Holds("document.activeElement.id === 'first-field' && document.activeElement.value === 'Cutoff'")
	d.Focus(desk.Field("Init"))
	d.Put("900")
	d.Sees("0 to 127")
	d.Press("Enter")
	d.Sees("1 fault; it stops only the saving")
	d.Press("Escape")
	d.Holds("document.activeElement.id === 'o-controls:filter.cutoff'")
	d.Press("Ctrl+z")
	d.Sees("No faults.")

	// the rule is drawn as the law is typed, before anything is stored
	d.Focus(desk.Field("At the top"))
	d.Put("5000")
	d.Holds(`(s => s.includes("112: ") && !s.includes("112: 8"))(document.querySelector(".rule svg").getAttribute("aria-label"))`)
	d.Press("Enter")
	d.Holds("document.querySelector('header .tools').innerText.includes('at the top')")

	// a law from printed marks
	d.Press("Escape")
	_, err := browser.Eval[bool](d.Browser, `[...document.querySelectorAll(".editor button")].find(b => b.textContent.includes("From printed marks")).click(), true`)
	d.Must(err)
	d.Focus("document.querySelector('#marks-0')")
	d.Set("document.activeElement", "0 = 30 Hz\n64 = 500 Hz\n127 = 9 kHz")
	d.Press("Ctrl+Enter")
	d.Holds(`document.querySelector(".marks .reason")?.textContent.length > 10`)
	d.Holds(`document.querySelector(".rule svg").getAttribute("aria-label").includes("29.4 Hz")`) // equal ratios, within what the marks say
	d.Set(desk.Field("Known from"), "measured")
	d.Focus(desk.Field("Give or take, two times of three"))
	d.Put("3 %")
	d.Press("Enter")
	d.Holds(`document.querySelector(".rule div.soft").innerText.includes("measured") && document.querySelector(".rule div.soft").innerText.includes("±6 %")`) // k = 2

	// a new control of its section, in the table; an id that another has is a fault at its place
	d.Press("Escape", "n")
	d.Holds("document.activeElement.id === 't-label-+filter'")
	d.Put("Snarl")
	d.Press("Tab")
	d.Put("0-10")
	d.Press("Tab")
	d.Put("drive filt")
	d.Press("Enter")
	d.Holds("document.getElementById('t-sets-filter.snarl')?.value === 'drive of filter'")
	d.Press("Escape")
	d.Visit("/panels/sea-room/workshop?line=controls:filter.snarl")
	d.Focus(desk.Field("Short name"))
	d.Put("filter.cutoff")
	d.Press("Enter")
	d.Sees("has the same short name as another control")
	d.Press("Escape", "Ctrl+z")
	d.Sees("No faults.")
	d.Press("/")
	d.Put("modules oscillator")
	d.Press("ArrowDown", "Delete")
	d.Sees("Took out Oscillator", "only the saving")
	d.Press("f")
	d.Holds("document.querySelector('.faults li')")
	d.Press("Ctrl+z")
	d.Sees("No faults.")
	d.Press("s")
	d.Sees("Saved as revision 1", "revision 1, nothing edited")

	// a condition by text, and the second revision with its difference
	d.Visit("/panels/sea-room/workshop?line=controls:filter.resonance")
	d.Sees("Resonance")
	d.Focus(desk.Field("Only while"))
	d.Put("osc.wave")
	d.Press("Enter")
	d.Sees("expected control = reading | reading")
	d.Put("osc.wave = saw | pulse")
	d.Press("Enter")
	d.Sees("1 change")
	d.Press("Escape", "s")
	d.Sees("Saved as revision 2")
	d.Press("h")
	d.Sees("Make it the draft", "osc.wave at saw or pulse")
	d.Press("h", "Escape")
	d.Holds("location.pathname === '/panels/sea-room'")
	d.Press("w")
	d.Holds("location.pathname === '/panels/sea-room/workshop'")

	// the controls table: one with a fault names its row, a good one is read
	table, err := browser.Await[string](d.Browser, "fetch('/api/v1/panels/sea-room/controls.csv').then(r => r.text())")
	d.Must(err)
	file := filepath.Join(t.TempDir(), "controls.csv")
	d.Must(os.WriteFile(file, []byte(strings.Replace(table, ",filter,", ",filtre,", 1)), 0o600))
	d.Must(d.Upload("input[aria-label='Controls table']", file))
	d.Sees("controls.csv", "row ")
	d.Must(os.WriteFile(file, []byte(strings.Replace(table, ",Cutoff,", ",Brightness,", 1)), 0o600))
	d.Must(d.Upload("input[aria-label='Controls table']", file))
	d.Sees("controls read")
	d.Holds("[...document.querySelectorAll('.row')].some(r => r.innerText.includes('Brightness'))")
}

// Layers, cables, versions, readings by MIDI and the phrase, on the patch desk.
func TestPatchInFull(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/patches/foghorn")
	d.Sees("only what differs from init")
	d.Press("k")
	d.Holds("document.activeElement.id === 'cable-from'")
	d.Set(`document.querySelectorAll("form.fields select")[0]`, "out-noise")
	d.Set(`document.querySelectorAll("form.fields select")[1]`, "in-rate")
	d.Click("form.fields button[type=submit]")
	d.Holds("document.querySelectorAll('.cables li').length === 3")
	d.Click("button[aria-label^='take out the cable into']")
	d.Holds("document.querySelectorAll('.cables li').length === 2")
	d.Press("Escape")

	d.Press("y")
	d.Holds("document.activeElement.id === 'layer-label'")
	d.Put("Low horn")
	d.Press("Enter", "Tab")
	d.Put("-12 st")
	d.Press("Enter")
	d.Sees("Layer changed")
	d.Press("Tab")
	d.Put("loud")
	d.Press("Enter")
	d.Sees("The input is at fault")
	d.Press("Escape")
	_, err := browser.Eval[bool](d.Browser, `document.querySelector("#layer-label") || [...document.querySelectorAll("button")].find(b => b.textContent === "Layers").click(), true`)
	d.Must(err)
	d.Holds("[...document.querySelectorAll('button')].find(b => b.textContent === 'Add one like this')")
	_, err = browser.Eval[bool](d.Browser, `[...document.querySelectorAll("button")].find(b => b.textContent === "Add one like this").click(), true`)
	d.Must(err)
	d.Sees("Layer added")
	d.Holds("document.querySelector('.bar .bx--select select, .bar select') && document.body.innerText.includes('Low horn, -12 st')")

	d.Visit("/patches/fog-bank")
	d.Sees("only what differs from init")
	d.Press("v")
	d.Holds("document.activeElement.id === 'version-note'")
	d.Put("before the hall")
	d.Press("Enter")
	d.Sees("Version 1 kept", "nothing has changed")
	d.Press("Escape")
	d.Visit("/patches/fog-bank?line=filter.cutoff")
	d.Holds("document.querySelector('tr[aria-selected=true]')?.id === 'r-filter.cutoff'")
	d.Press("9", "9", "Enter")
	d.Holds("document.getElementById('r-filter.cutoff').innerText.includes('99')")
	d.Press("v")
	d.Sees("1 difference")
	d.Click("section[aria-label=Versions] td button.linkish")
	d.Holds("document.querySelector('section[aria-label=Versions] dl').innerText.includes('99')")
	d.Click("section[aria-label=Versions] td:last-child button.linkish")
	d.Sees("Back to version 1")
	d.Holds("!document.getElementById('r-filter.cutoff').innerText.includes('99')")
	d.Press("Escape")

	// a MIDI file: what it says is shown, chosen, and only then stored
	rack := testrack.Panels(t)
	w, err := wire.Write(rack["halyard"], &patch.Layer{ID: "a", Readings: map[string]string{"filter.cutoff": "12", "filter.resonance": "77"}}, 1)
	d.Must(err)
	file := filepath.Join(t.TempDir(), "from the hall.mid")
	d.Must(os.WriteFile(file, smf.OfMessages(append(w.Messages, wire.Message{Status: 0xB0, Data: []byte{3, 4}})).Write(), 0o600))
	d.Must(d.Upload("input[aria-label='MIDI file of readings']", file))
	d.Sees("from the hall.mid", "nothing is stored", "no control of the panel")
	d.Holds("[...document.querySelectorAll('section[aria-label=\"From MIDI\"] tr')].some(r => r.innerText.includes('12'))")
	d.Click("section[aria-label='From MIDI'] .bar:last-child button")
	d.Sees("readings taken")
	d.Visit("/patches/fog-bank?line=filter.cutoff")
	d.Holds("document.getElementById('r-filter.cutoff')?.innerText.replace(/\\s+/g, ' ').includes(' 12 ')")
	d.Must(os.WriteFile(file, []byte("no MIDI"), 0o600))
	d.Must(d.Upload("input[aria-label='MIDI file of readings']", file))
	d.Sees("The input is at fault", "from the hall.mid")
}

// A line is entered note by note on the keyboard, and kept.
func TestPhraseByKeyboard(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/patches")
	d.Sees("Foghorn")
	d.Press("n")
	d.Holds("document.activeElement.id === 'new-name'")
	d.Put("Spray")
	d.Press("Enter")
	d.Sees("Everything stands at init")
	d.Press("f")
	d.Holds("document.activeElement.id === 'phrase-grid'")
	line := "document.getElementById('phrase-line').innerText"
	d.Press("a") // A2, as the octave stands
	d.Sees("1 notes, 1/8 long")
	d.Press("c", "ArrowLeft")
	d.Holds(line + ".startsWith('C3 at 1/8 for 1/8')")
	d.Press("+", "x", "s", ".")
	d.Holds(line + " === 'C3 at 1/8 for 1/4, velocity 108, accented, slid into'")
	d.Press("h") // a third above
	d.Holds(line + ".includes('E3') && " + line + ".includes('note 2 of 2')")
	d.Press("ArrowDown", "End", "g")
	d.Holds("document.querySelector('.steps').innerText.replace(/\\s+/g, '').startsWith('A2C3›~D#3›~G')")
	d.Press("ArrowLeft", "Delete")
	d.Holds("!document.querySelector('.steps').innerText.includes('G')")
	d.Press("Escape")
	d.Sees("0 A2 for 1/8 at 100", "1/8 C3 for 1/4 at 108 accented slid", "1/8 D#3 for 1/4 at 108 accented slid")
	d.Must(d.Reload())
	d.Sees("0 A2 for 1/8 at 100", "1/8 D#3 for 1/4 at 108")
	d.Press("f")
	d.Sees("Octave ladder")
	d.Click("section[aria-label=Phrase] .bar .end button:nth-of-type(2)")
	d.Sees("5 notes")
	d.Press("Escape")
	d.Sees("A1 for 3/8", "A3 for 3/8")
	d.Press("Ctrl+z")
	d.Sees("0 A2 for 1/8 at 100")
}

// The reckoner takes the value of the line that is chosen.
func TestReckonerTakesTheLine(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/patches/foghorn?line=lowpass.cutoff")
	d.Holds("document.querySelector('tr[aria-selected=true]')?.id === 'r-lowpass.cutoff'")
	d.Press("=")
	d.Sees("600 Hz of Foghorn: Filter Cutoff", "they come first")
	d.Holds("document.querySelector('input[data-sum=comb]').value === '1.6667 ms'")
	d.Holds("document.querySelectorAll('input[data-sum=comb]')[1].value === '600 Hz'")
	d.Holds("document.querySelectorAll('tr.taken').length >= 4 && document.querySelector('tbody tr').classList.contains('taken')")
	d.Press("Escape")
	d.Holds("location.pathname === '/patches/foghorn'")
}

// Which instrument carries a patch best, the plan of a sheet, and the whole bank, by keyboard.
func TestTargetsPlanAndBank(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/patches/morning-light")
	d.Sees("only what differs from init")
	d.Press("b")
	d.Holds("location.pathname === '/patches/morning-light/targets'")
	d.Sees("Halyard", "What Halyard leaves out", "By other means")
	shares, err := browser.Eval[[]float64](d.Browser, "[...document.querySelectorAll('td.share .num')].map(x => parseFloat(x.textContent))")
	d.Must(err)
	if len(shares) != 8 {
		t.Fatalf("shares %v", shares)
	}
	for i := 1; i < len(shares); i++ {
		if shares[i] > shares[i-1] {
			t.Errorf("not in order: %v", shares)
		}
	}
	d.Press("ArrowDown", "ArrowUp", "Enter")
	d.Holds("location.pathname === '/sheets/1'")
	d.Sees("Sheave to", "checks hold", "recast")
	d.Press("p")
	d.Sees("Carried by weight", "By other means", "played by an oscillator")
	d.Holds("document.querySelector('section[aria-label=Plan]').innerText.includes('left out')")
	d.Click("section[aria-label=Plan] .next button")
	d.Holds("document.querySelectorAll('section[aria-label=Plan] .next .num').length === 2")
	d.Press("p")

	// another way for a part, a part that does not matter, and back by undo
	d.Visit("/sheets/1?line=sub.level")
	d.Holds("document.querySelector('tr[aria-selected=true]')?.id === 'g-sub.level'")
	d.Holds("document.querySelector('aside .part')?.innerText.includes('Sub oscillator')")
	d.Click("aside .part button.linkish")
	d.Holds("document.querySelectorAll('aside .part tbody tr').length >= 2")
	d.Click("aside .part tbody tr:nth-child(2) button")
	d.Holds("document.getElementById('g-sub.level').innerText.includes('left out')")
	d.Press("Ctrl+z")
	d.Holds("document.getElementById('g-sub.level').innerText.includes('recast')")
	d.Click("aside .part .row button:nth-child(3)")
	d.Holds("document.querySelector('aside .part .row button:nth-child(3)').getAttribute('aria-pressed') === 'true'")
	d.Press("s")
	d.Holds("location.pathname === '/sheets/2'")
	d.Sees("by feel: how it plays")
	d.Press("g", "b")
	d.Holds("location.pathname === '/bank'")
	d.Sees("Translate all", "Instruments", "Undertow")
	d.Press("r")
	d.Sees("10 of 10")
	d.Holds("document.querySelectorAll('button.cell').length === 81")
	d.Press("ArrowDown", "ArrowDown", "ArrowRight")
	d.Holds("document.activeElement.matches('button.cell') && document.activeElement.getAttribute('aria-label').includes('%')")
	d.Press("Enter")
	d.Holds("location.pathname.startsWith('/sheets/')")
	d.Sees("checks hold")
}

// Edits that are made before the answers to the last ones have come take nothing of each other back.
func TestEditsFasterThanTheAnswers(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/panels/halyard/workshop?line=controls:filter.cutoff")
	d.Holds(desk.Field("Known from"))
	d.Answers = make(chan struct{})
	d.Focus(desk.Field("Aliases, by commas"))
	d.Put("fc")
	d.Press("Enter")
	d.Set(desk.Field("Known from"), "assumed")
	d.Answers <- struct{}{}
	d.Sees("Undo: Halyard: Cutoff: aliases") // the form is as the first edit left it, the second is on its way
	d.Focus(desk.Field("Give or take, two times of three"))
	d.Put("7 %")
	d.Press("Enter")
	d.Answers <- struct{}{}
	d.Answers <- struct{}{}
	d.Sees("Undo: Halyard: Cutoff: uncertainty")
	d.Visit("/panels/halyard/workshop?line=controls:filter.cutoff")
	d.Holds(desk.Field("Known from") + `?.value === "assumed"`)
	d.Holds(desk.Field("Aliases, by commas") + `.value === "fc"`)
	d.Holds(desk.Field("Give or take, two times of three") + `.value.includes("7")`)
}
