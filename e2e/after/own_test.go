package after

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"glossator/core/panel"
	"glossator/e2e/browser"
	"glossator/e2e/desk"
)

// typing counts what is typed: each character, each Tab, Enter and arrow is one keystroke.
type typing struct {
	*desk.Desk
	n int
}

func (k *typing) keys(all ...string) {
	k.T.Helper()
	k.n += len(all)
	k.Press(all...)
}

func (k *typing) text(s string) {
	k.T.Helper()
	for _, c := range s {
		k.keys(string(c))
	}
}

// An instrument of three oscillators and forty controls, with modules, routes and path, by keyboard alone: at most 400 keystrokes.
func TestAnInstrumentInFourHundredKeys(t *testing.T) {
	d := desk.Open(t, false)
	k := &typing{Desk: d}
	d.Visit("/panels")

	k.keys("n")
	d.Holds("document.activeElement.id === 'new-panel-name'")
	k.text("Ketch")
	k.keys("Tab", "M") // Mono analogue
	k.keys("Tab", "Enter")
	d.Holds("location.pathname === '/panels/ketch/workshop'")
	d.Holds("document.activeElement.id === 'add-block'") // a new panel begins with what to put in
	for _, name := range []string{"osc", "delay", "matr"} {
		if d.Focused() != "add-block" {
			k.keys("a")
		}
		d.Holds("document.activeElement.id === 'add-block'")
		if name == "matr" {
			break
		}
		k.text(name)
		d.Holds("document.querySelector('#add-offers li')")
		k.keys("Enter")
		d.Holds("document.activeElement.type === 'submit'")
		k.keys("Enter")
		d.Holds("document.activeElement.id === 'add-block' && document.activeElement.value === ''")
	}
	k.keys("Escape")
	// a control of its own: label, what is printed, what it sets
	k.keys("n")
	d.Holds("document.activeElement.id.startsWith('t-label-+')")
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
	d.Settled()
	// what is printed otherwise than usual
	for _, c := range [][3]string{{"filter.cutoff", "printed", "20 Hz ... 20 kHz"}, {"lfo.rate", "printed", "0.1 Hz - 30 Hz"}, {"filter-envelope.attack", "printed", "1 ms 10 100 1 s 10 s"}, {"osc2.fine", "printed", "±7"}, {"osc1.wave", "printed", "tri/saw/pulse"}, {"osc1.range", "printed", "16' 8' 4' 2'"}, {"osc1.range", "label", "Octave"}, {"osc3.fine", "sets", "det osc 3"}} {
		d.Focus(`document.getElementById("t-` + c[1] + `-` + c[0] + `")`)
		k.text(c[2])
		k.keys("Enter")
	}
	d.Settled()
	p := d.Draft("ketch")
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
	d.Sees("Saved as revision 1")
}

// What is typed is never eaten: at 20 ms a key and answers that take a second, through the table and through the fields of a control, with Tab and with the mouse.
func TestTypingIsNeverEaten(t *testing.T) {
	d := desk.Open(t, false)
	d.Visit("/panels")
	d.Press("n")
	d.Holds("document.activeElement.id === 'new-panel-name'")
	d.Put("Yawl")
	d.Press("Enter")
	d.Holds("document.activeElement.id === 'add-block'")
	before := len(d.Draft("yawl").Controls)
	d.Late.Store(int64(time.Second))
	at20 := func(text string) {
		t.Helper()
		for _, c := range text {
			d.Press(string(c))
			time.Sleep(20 * time.Millisecond) // as a fast hand types
		}
	}
	d.Press("Escape", "n")
	d.Holds("document.activeElement.id.startsWith('t-label-+')")
	for _, c := range [][3]string{{"Snarl", "0-10", "drive of filter"}, {"Nose", "clock", "key tr filt"}, {"Scan rate", "off/on", "sync osc"}} {
		for i, cell := range c {
			if i > 0 {
				d.Press("Tab")
			}
			at20(cell)
		}
		d.Press("Enter")
	}
	d.Settled()
	p := d.Draft("yawl")
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
	d.Visit("/panels/yawl/workshop?line=controls:filter.cutoff")
	d.Focus(desk.Field("Label"))
	d.Put("")
	at20("Sparkle")
	d.Press("Tab", "Tab")
	at20("50")
	d.Press("Tab")
	at20("bright, sheen")
	d.Press("Tab")
	d.Settled()
	d.Focus(desk.Field("Short name"))
	d.Put("")
	at20("filter.sparkle")
	d.Press("Tab")
	at20("Snow") // into whatever comes next, or nowhere, but no command
	d.Settled()
	p = d.Draft("yawl")
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
	d.Late.Store(0)
	// Esc drops what is typed, says so, and one key brings it back
	d.Focus(desk.Field("Init"))
	d.Put("77")
	d.Press("Escape")
	d.Sees("Dropped “77”")
	d.Press("ArrowUp", "Enter")
	d.Holds(`document.activeElement.value === "77"`)
	d.Settled()
	// a letter where the focus is on nothing, or just after a field has been left by Tab, is no command
	n := len(d.Draft("yawl").Controls)
	_, err := browser.Eval[bool](d.Browser, "document.activeElement.blur(), true")
	d.Must(err)
	d.Press("n", "c")
	d.Settled()
	if now := len(d.Draft("yawl").Controls); now != n {
		t.Errorf("%d controls after letters into nothing, want %d", now, n)
	}
	if len(d.Errors) > 0 {
		t.Errorf("the page threw: %v", d.Errors)
	}
}

// The same by the mouse: blocks, faces and what controls set are picked; only names are typed.
func TestAnInstrumentByMouse(t *testing.T) {
	d := desk.Open(t, false)
	d.Visit("/panels")
	began := time.Now()
	clicks := 0
	click := func(css string) {
		t.Helper()
		d.Holds(`document.querySelector(` + "`" + css + "`" + `)`)
		d.Click(css)
		clicks++
	}
	// pick clicks the option of an open list that begins with a text.
	pick := func(list, text string) {
		t.Helper()
		d.Holds(`[...document.querySelectorAll("` + list + ` li")].some(x => x.textContent.trim().startsWith("` + text + `"))`)
		n, err := browser.Eval[int](d.Browser, `[...document.querySelectorAll("`+list+` li")].findIndex(x => x.textContent.trim().startsWith("`+text+`")) + 1`)
		d.Must(err)
		click(fmt.Sprintf("%s li:nth-child(%d)", list, n))
	}
	click(".bar .end button.bx--btn--primary")
	d.Holds("document.activeElement.id === 'new-panel-name'")
	d.Put("Cutter")
	d.Set(`document.querySelector("form.make select")`, "+mono")
	click("form.make button[type=submit]")
	d.Holds("location.pathname === '/panels/cutter/workshop'")
	for _, b := range []string{"Oscillator range", "Delay", "Reverb"} {
		click("#add-block")
		pick("#add-offers", b)
		click(".add form button[type=submit]")
		d.Holds("!document.querySelector('.add form')")
	}
	for _, c := range [][2]string{{"t-printed-filter.cutoff", "20 Hz to 20 kHz"}, {"t-printed-voice.glide", "clock"}, {"t-printed-osc1.wave", "saw / pulse"}} {
		click(`[id="` + c[0] + `"]`)
		pick("#t-offers", c[1])
	}
	click(`[id="t-label-+filter"]`)
	d.Put("Snarl")
	click(`[id="t-printed-+filter"]`)
	pick("#t-offers", "clock")
	click(`[id="t-sets-+filter"]`)
	d.Put("drive")
	pick("#t-offers", "drive of filter")
	click("h1") // away from the line: it is taken
	d.Holds("document.getElementById('t-sets-filter.snarl')?.value === 'drive of filter'")
	d.Settled()
	p := d.Draft("cutter")
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
	d.Sees("Saved as revision 1")
}

// What is pointed at in an open list is taken by Enter, by leaving the cell and by a click, and never another; Esc in the line of a new control makes none, and ↑ brings the line back.
func TestPickingInTheTable(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/panels/windlass/workshop")
	sets := func(id string) string { return `document.getElementById("t-sets-` + id + `").value` }
	d.Holds(sets("filter.resonance") + " === 'resonance of low-pass filter'")
	d.Focus(`document.getElementById("t-sets-filter.resonance")`)
	d.Put("osc 3")
	// the list of all that was typed, not of its beginning
	d.Holds("document.querySelectorAll('#t-offers li').length > 3 && [...document.querySelectorAll('#t-offers li')].every(o => o.textContent.includes('oscillator 3'))")
	third, err := browser.Eval[string](d.Browser, "document.querySelector('#t-offers li:nth-child(3)').textContent.trim()")
	d.Must(err)
	d.Click("#t-offers li:nth-child(3)")
	d.Settled()
	d.Holds(sets("filter.resonance") + ` === "` + third + `"`)
	d.Focus(`document.getElementById("t-sets-filter.resonance")`)
	d.Put("reso")
	d.Holds("document.querySelector('#t-offers li[aria-selected=true]')?.textContent.trim() === 'resonance of low-pass filter'")
	d.Press("Tab")
	d.Settled()
	d.Holds(sets("filter.resonance") + " === 'resonance of low-pass filter'")
	// by arrows alone, where nothing was typed
	d.Focus(`document.getElementById("t-printed-filter.resonance")`)
	d.Click(`[id="t-printed-filter.resonance"]`)
	d.Holds("document.querySelectorAll('#t-offers li').length > 3")
	d.Press("ArrowDown", "ArrowDown")
	second, err := browser.Eval[string](d.Browser, "document.querySelector('#t-offers li[aria-selected=true]').textContent.trim()")
	d.Must(err)
	d.Press("Enter")
	d.Settled()
	d.Holds(`document.getElementById("t-printed-filter.resonance").value === "` + second + `"`)

	before := len(d.Draft("windlass").Controls)
	d.Focus(`document.getElementById("t-label-+filter")`)
	d.Put("Snarl")
	d.Press("Tab")
	d.Put("0-10")
	d.Press("Escape")
	d.Sees("Dropped “0-10”")
	d.Holds(`document.getElementById("t-label-+filter").value === ""`)
	d.Settled()
	if now := len(d.Draft("windlass").Controls); now != before {
		t.Errorf("Esc made a control: %d of %d", now, before)
	}
	d.Press("ArrowUp")
	d.Holds(`document.getElementById("t-label-+filter").value === "Snarl" && document.getElementById("t-printed-+filter").value === "0-10"`)
	d.Press("Enter")
	d.Settled()
	if now := len(d.Draft("windlass").Controls); now != before+1 {
		t.Errorf("%d controls, want %d", now, before+1)
	}
	if len(d.Errors) > 0 {
		t.Errorf("the page threw: %v", d.Errors)
	}
}

// On a phone nothing of what describes an instrument is wider than the page.
func TestWorkshopOnAPhone(t *testing.T) {
	d := desk.Open(t, true)
	d.Must(d.Size(390, 800))
	for _, path := range []string{"/panels/kedge/workshop", "/panels/halyard/workshop?line=controls:filter.cutoff", "/panels/halyard/workshop?line=modules:filter", "/panels?line=new"} {
		d.Visit(path)
		d.Holds("!document.body.innerText.includes('Loading')")
		wide, err := browser.Eval[int](d.Browser, "document.documentElement.scrollWidth")
		d.Must(err)
		if wide > 390 {
			t.Errorf("%s is %d wide", path, wide)
		}
	}
}
