package e2e

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"glossator/core/panel"
	"glossator/e2e/browser"
)

// typing counts what is typed: each character, each Tab, Enter and arrow is one keystroke.
type typing struct {
	*desk
	n int
}

func (k *typing) keys(all ...string) {
	k.t.Helper()
	k.n += len(all)
	k.press(all...)
}

func (k *typing) text(s string) {
	k.t.Helper()
	for _, c := range s {
		k.keys(string(c))
	}
}

// settled waits until everything that was typed has been answered.
func (d *desk) settled() {
	d.t.Helper()
	d.holds("!document.querySelector('tr.coming')")
	d.holds(`document.querySelector(".page").dataset.busy !== "yes"`)
}

func (d *desk) draft(id string) *panel.Panel {
	d.t.Helper()
	row, err := d.st.Draft(id)
	d.must(err)
	var p panel.Panel
	d.must(json.Unmarshal(row.Document, &p))
	return &p
}

// An instrument of three oscillators and forty controls, with modules, routes and path, by keyboard alone: at most 400 keystrokes.
func TestAnInstrumentInFourHundredKeys(t *testing.T) {
	d := open(t, false)
	k := &typing{desk: d}
	d.visit("/panels")

	k.keys("n")
	d.holds("document.activeElement.id === 'new-panel-name'")
	k.text("Ketch")
	k.keys("Tab", "M") // Mono analogue
	k.keys("Tab", "Enter")
	d.holds("location.pathname === '/panels/ketch/workshop'")
	d.holds("document.activeElement.id === 'add-block'") // a new panel begins with what to put in
	for _, name := range []string{"osc", "delay", "matr"} {
		if d.focused() != "add-block" {
			k.keys("a")
		}
		d.holds("document.activeElement.id === 'add-block'")
		if name == "matr" {
			break
		}
		k.text(name)
		d.holds("document.querySelector('#add-offers li')")
		k.keys("Enter")
		d.holds("document.activeElement.type === 'submit'")
		k.keys("Enter")
		d.holds("document.activeElement.id === 'add-block' && document.activeElement.value === ''")
	}
	k.keys("Escape")
	// a control of its own: label, what is printed, what it sets
	k.keys("n")
	d.holds("document.activeElement.id.startsWith('t-label-+')")
	before := k.n
	k.text("Contour")
	k.keys("Tab")
	k.text("0-10")
	k.keys("Tab")
	k.text("driv filt")
	k.keys("Enter")
	if k.n-before+1 > 25 {
		t.Errorf("one control took %d keystrokes", k.n-before+1)
	}
	d.settled()
	// what is printed otherwise than usual
	for _, c := range [][3]string{{"filter.cutoff", "printed", "20 Hz ... 20 kHz"}, {"lfo.rate", "printed", "0.1 Hz - 30 Hz"}, {"filter-envelope.attack", "printed", "1 ms 10 100 1 s 10 s"}, {"osc2.fine", "printed", "±7"}, {"osc1.wave", "printed", "tri/saw/pulse"}, {"osc1.range", "printed", "16' 8' 4' 2'"}, {"osc1.range", "label", "Octave"}, {"osc3.fine", "sets", "det osc 3"}} {
		d.focus(`document.getElementById("t-` + c[1] + `-` + c[0] + `")`)
		k.text(c[2])
		k.keys("Enter")
	}
	d.settled()
	p := d.draft("ketch")
	if k.n > 400 || len(p.Controls) < 39 {
		t.Errorf("%d controls in %d keystrokes", len(p.Controls), k.n)
	}
	t.Logf("%d controls, %d modules, %d routes, %d connections in %d keystrokes", len(p.Controls), len(p.Modules), len(p.Routes), len(p.Audio), k.n)
	if _, err := panel.Compile(p); err != nil {
		t.Error(err)
	}
	for id, want := range map[string]string{"filter.cutoff": "segments", "lfo.rate": "segments", "filter-envelope.attack": "segments", "osc2.fine": "bipolar", "osc1.wave": "list"} {
		for _, c := range p.Controls {
			if c.ID == id && string(c.Means[0].Law.Kind) != want {
				t.Errorf("%s has a law %s, want %s", id, c.Means[0].Law.Kind, want)
			}
		}
	}
	k.keys("Escape", "s")
	d.sees("Saved as revision 1")
}

// focused is the id of the element that has the focus.
func (d *desk) focused() string {
	d.t.Helper()
	id, err := browser.Eval[string](d.Browser, "document.activeElement.id")
	d.must(err)
	return strings.TrimSpace(id)
}

// What is typed is never eaten: at 20 ms a key and answers that take a second, through the table and through the fields of a control, with Tab and with the mouse.
func TestTypingIsNeverEaten(t *testing.T) {
	d := open(t, false)
	d.visit("/panels")
	d.press("n")
	d.holds("document.activeElement.id === 'new-panel-name'")
	d.put("Yawl")
	d.press("Enter")
	d.holds("document.activeElement.id === 'add-block'")
	before := len(d.draft("yawl").Controls)
	d.late = time.Second
	at20 := func(text string) {
		t.Helper()
		for _, c := range text {
			d.press(string(c))
			time.Sleep(20 * time.Millisecond) // as a fast hand types
		}
	}
	d.press("Escape", "n")
	d.holds("document.activeElement.id.startsWith('t-label-+')")
	for _, c := range [][3]string{{"Snarl", "0-10", "drive of filter"}, {"Nose", "clock", "key tr filt"}, {"Scan rate", "off/on", "sync osc"}} {
		for i, cell := range c {
			if i > 0 {
				d.press("Tab")
			}
			at20(cell)
		}
		d.press("Enter")
	}
	d.settled()
	p := d.draft("yawl")
	if len(p.Controls) != before+3 {
		t.Errorf("%d controls, want %d", len(p.Controls), before+3)
	}
	for _, c := range p.Controls[before:] {
		switch want := map[string]string{"Snarl": "filter.drive", "Nose": "filter.track", "Scan rate": "osc.sync"}[c.Label]; {
		case want == "":
		case len(c.Means) != 1 || c.Means[0].Param != want:
			t.Errorf("%s sets %v, want %s", c.Label, c.Means, want)
		}
	}
	// the fields of a control: its short name is changed, and one goes on at once by Tab, and by a click
	d.visit("/panels/yawl/workshop?line=controls:filter.cutoff")
	d.focus(field("Label"))
	d.put("")
	at20("Sparkle")
	d.press("Tab", "Tab")
	at20("50")
	d.press("Tab")
	at20("bright, sheen")
	d.press("Tab")
	d.settled()
	d.focus(field("Short name"))
	d.put("")
	at20("filter.sparkle")
	d.press("Tab")
	at20("Snow") // into whatever comes next, or nowhere, but no command
	d.settled()
	p = d.draft("yawl")
	if len(p.Controls) != before+3 {
		t.Errorf("letters made a control: %d, want %d", len(p.Controls), before+3)
	}
	found := false
	for _, c := range p.Controls {
		if c.ID == "filter.sparkle" {
			found = true
			if c.Label != "Sparkle" || c.Init != "50" || strings.Join(c.Aliases, ", ") != "bright, sheen" {
				t.Errorf("typed away: %+v", c)
			}
		}
	}
	if !found {
		t.Error("the short name was not taken")
	}
	d.late = 0
	// Esc drops what is typed, says so, and one key brings it back
	d.focus(field("Init"))
	d.put("77")
	d.press("Escape")
	d.sees("Dropped “77”")
	d.press("ArrowUp", "Enter")
	d.holds(`document.activeElement.value === "77"`)
	d.settled()
	// a letter where the focus is on nothing, or just after a field has been left by Tab, is no command
	n := len(d.draft("yawl").Controls)
	_, err := browser.Eval[bool](d.Browser, "document.activeElement.blur(), true")
	d.must(err)
	d.press("n", "c")
	d.settled()
	if now := len(d.draft("yawl").Controls); now != n {
		t.Errorf("%d controls after letters into nothing, want %d", now, n)
	}
	if len(d.Errors) > 0 {
		t.Errorf("the page threw: %v", d.Errors)
	}
}

// The same by the mouse: blocks, faces and what controls set are picked; only names are typed.
func TestAnInstrumentByMouse(t *testing.T) {
	d := open(t, false)
	d.visit("/panels")
	began := time.Now()
	clicks := 0
	click := func(css string) {
		t.Helper()
		d.holds(`document.querySelector(` + "`" + css + "`" + `)`)
		d.click(css)
		clicks++
	}
	// pick clicks the option of an open list that begins with a text.
	pick := func(list, text string) {
		t.Helper()
		d.holds(`[...document.querySelectorAll("` + list + ` li")].some(x => x.textContent.trim().startsWith("` + text + `"))`)
		n, err := browser.Eval[int](d.Browser, `[...document.querySelectorAll("`+list+` li")].findIndex(x => x.textContent.trim().startsWith("`+text+`")) + 1`)
		d.must(err)
		click(fmt.Sprintf("%s li:nth-child(%d)", list, n))
	}
	click(".bar .end button.bx--btn--primary")
	d.holds("document.activeElement.id === 'new-panel-name'")
	d.put("Cutter")
	d.set(`document.querySelector("form.make select")`, "+mono")
	click("form.make button[type=submit]")
	d.holds("location.pathname === '/panels/cutter/workshop'")
	for _, b := range []string{"Oscillator range", "Delay", "Reverb"} {
		click("#add-block")
		pick("#add-offers", b)
		click(".add form button[type=submit]")
		d.holds("!document.querySelector('.add form')")
	}
	for _, c := range [][2]string{{"t-printed-filter.cutoff", "20 Hz to 20 kHz"}, {"t-printed-voice.glide", "clock"}, {"t-printed-osc1.wave", "saw / pulse"}} {
		click(`[id="` + c[0] + `"]`)
		pick("#t-offers", c[1])
	}
	click(`[id="t-label-+filter"]`)
	d.put("Snarl")
	click(`[id="t-printed-+filter"]`)
	pick("#t-offers", "clock")
	click(`[id="t-sets-+filter"]`)
	d.put("drive")
	pick("#t-offers", "drive of filter")
	click("h1") // away from the line: it is taken
	d.holds("document.getElementById('t-sets-filter.snarl')?.value === 'drive of filter'")
	d.settled()
	p := d.draft("cutter")
	if _, err := panel.Compile(p); err != nil {
		t.Error(err)
	}
	t.Logf("%d controls in %d clicks, %.0f s", len(p.Controls), clicks, time.Since(began).Seconds())
	if len(p.Controls) < 40 || clicks > 60 {
		t.Errorf("%d controls in %d clicks", len(p.Controls), clicks)
	}
	for id, want := range map[string]string{"filter.cutoff": "20 kHz", "voice.glide": "7:00", "filter.snarl": "7:00"} {
		for _, c := range p.Controls {
			if c.ID == id && c.Init != want {
				t.Errorf("%s stands at %s, want %s", id, c.Init, want)
			}
		}
	}
	click(".bar .end button.bx--btn--primary")
	d.sees("Saved as revision 1")
}

// What is pointed at in an open list is taken by Enter, by leaving the cell and by a click, and never another; Esc in the line of a new control makes none, and ↑ brings the line back.
func TestPickingInTheTable(t *testing.T) {
	d := open(t, true)
	d.visit("/panels/windlass/workshop")
	sets := func(id string) string { return `document.getElementById("t-sets-` + id + `").value` }
	d.holds(sets("filter.resonance") + " === 'resonance of low-pass filter'")
	d.focus(`document.getElementById("t-sets-filter.resonance")`)
	d.put("osc 3")
	// the list of all that was typed, not of its beginning
	d.holds("document.querySelectorAll('#t-offers li').length > 3 && [...document.querySelectorAll('#t-offers li')].every(o => o.textContent.includes('oscillator 3'))")
	third, err := browser.Eval[string](d.Browser, "document.querySelector('#t-offers li:nth-child(3)').textContent.trim()")
	d.must(err)
	d.click("#t-offers li:nth-child(3)")
	d.settled()
	d.holds(sets("filter.resonance") + ` === "` + third + `"`)
	d.focus(`document.getElementById("t-sets-filter.resonance")`)
	d.put("reso")
	d.holds("document.querySelector('#t-offers li[aria-selected=true]')?.textContent.trim() === 'resonance of low-pass filter'")
	d.press("Tab")
	d.settled()
	d.holds(sets("filter.resonance") + " === 'resonance of low-pass filter'")
	// by arrows alone, where nothing was typed
	d.focus(`document.getElementById("t-printed-filter.resonance")`)
	d.click(`[id="t-printed-filter.resonance"]`)
	d.holds("document.querySelectorAll('#t-offers li').length > 3")
	d.press("ArrowDown", "ArrowDown")
	second, err := browser.Eval[string](d.Browser, "document.querySelector('#t-offers li[aria-selected=true]').textContent.trim()")
	d.must(err)
	d.press("Enter")
	d.settled()
	d.holds(`document.getElementById("t-printed-filter.resonance").value === "` + second + `"`)

	before := len(d.draft("windlass").Controls)
	d.focus(`document.getElementById("t-label-+filter")`)
	d.put("Snarl")
	d.press("Tab")
	d.put("0-10")
	d.press("Escape")
	d.sees("Dropped “0-10”")
	d.holds(`document.getElementById("t-label-+filter").value === ""`)
	d.settled()
	if now := len(d.draft("windlass").Controls); now != before {
		t.Errorf("Esc made a control: %d of %d", now, before)
	}
	d.press("ArrowUp")
	d.holds(`document.getElementById("t-label-+filter").value === "Snarl" && document.getElementById("t-printed-+filter").value === "0-10"`)
	d.press("Enter")
	d.settled()
	if now := len(d.draft("windlass").Controls); now != before+1 {
		t.Errorf("%d controls, want %d", now, before+1)
	}
	if len(d.Errors) > 0 {
		t.Errorf("the page threw: %v", d.Errors)
	}
}

// On a phone nothing of what describes an instrument is wider than the page.
func TestWorkshopOnAPhone(t *testing.T) {
	d := open(t, true)
	d.must(d.Size(390, 800))
	for _, path := range []string{"/panels/kedge/workshop", "/panels/halyard/workshop?line=controls:filter.cutoff", "/panels/halyard/workshop?line=modules:filter", "/panels?line=new"} {
		d.visit(path)
		d.holds("!document.body.innerText.includes('Loading')")
		wide, err := browser.Eval[int](d.Browser, "document.documentElement.scrollWidth")
		d.must(err)
		if wide > 390 {
			t.Errorf("%s is %d wide", path, wide)
		}
	}
}
