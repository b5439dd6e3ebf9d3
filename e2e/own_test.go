package e2e

import (
	"encoding/json"
	"strings"
	"testing"

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
	d.holds("!document.querySelector('tr.coming') && performance.getEntriesByType('resource').length > 0")
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
	d.holds("document.querySelector('#new-panel-name') || true")
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
	p := d.draft("ketch")
	// what is printed otherwise than usual
	for _, c := range [][3]string{{"filter.cutoff", "printed", "20 Hz ... 20 kHz"}, {"lfo.rate", "printed", "0.1 Hz - 30 Hz"}, {"filter-envelope.attack", "printed", "1 ms 10 100 1 s 10 s"}, {"osc2.fine", "printed", "±7"}, {"osc1.wave", "printed", "tri/saw/pulse"}, {"osc1.range", "printed", "16' 8' 4' 2'"}, {"osc1.range", "label", "Octave"}, {"osc3.fine", "sets", "det osc 3"}} {
		d.focus(`document.getElementById("t-` + c[1] + `-` + c[0] + `")`)
		k.text(c[2])
		k.keys("Enter")
	}
	d.settled()
	p = d.draft("ketch")
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
