package build

import (
	"encoding/json"
	"strings"
	"testing"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/scale"
)

// Every starting point is a panel without faults, and the same one again.
func TestStartsHaveNoFaults(t *testing.T) {
	for _, s := range Starts {
		p, err := Begin(s.ID, "mine", "Mine", "")
		if err != nil {
			t.Errorf("%s: %v", s.ID, err)
			continue
		}
		c, err := panel.Compile(p)
		if err != nil {
			t.Errorf("%s: %v", s.ID, err)
			continue
		}
		again, _ := Begin(s.ID, "mine", "Mine", "")
		if d := panel.Diff(p, again); len(d) > 0 {
			t.Errorf("%s twice differs: %v", s.ID, d)
		}
		t.Logf("%s: %d controls, %d modules, %d routes", s.ID, len(c.Controls), len(c.Modules), len(c.Routes))
	}
	if _, err := Begin("nonsense", "a", "A", ""); err == nil || !strings.Contains(err.Error(), "mono") {
		t.Errorf("a start that is none: %v", err)
	}
}

// Every block with all its pieces goes into every starting point, twice where there can be two, with any usual scale, and leaves no fault; what it was put into stays as it was.
func TestBlocksFitEverywhere(t *testing.T) {
	for i, s := range Starts {
		for _, b := range Blocks {
			for _, usual := range []string{"0 to 10", "clock", "0 to 99"}[:max(1, 3-3*i)] {
				p, err := Begin(s.ID, "mine", "Mine", usual)
				if err != nil {
					t.Fatal(err)
				}
				before, _ := json.Marshal(p)
				w := Want{Usual: usual}
				for _, x := range b.Pieces {
					w.With = append(w.With, x.Label)
				}
				for range 2 {
					now, section, err := Add(p, b.ID, w)
					if err != nil {
						if !strings.Contains(err.Error(), "has one already") {
							t.Errorf("%s into %s: %v", b.ID, s.ID, err)
						}
						break
					}
					after, _ := json.Marshal(p)
					if string(before) != string(after) {
						t.Fatalf("%s into %s changed what it was put into", b.ID, s.ID)
					}
					if s.ID == "rack" && b.kind != meaning.Drive && b.step != meaning.StepEffects {
						break // an oscillator in a rack: what comes of it is for whoever does it
					}
					if _, err := panel.Compile(now); err != nil {
						t.Errorf("%s into %s with %s: %v", b.ID, s.ID, usual, err)
						break
					}
					if len(now.Controls) <= len(p.Controls) && len(b.Pieces) > 0 && b.kind != meaning.Mixer {
						t.Errorf("%s into %s brought no control", b.ID, s.ID)
					}
					if section == "" {
						t.Errorf("%s into %s stands nowhere", b.ID, s.ID)
					}
					p = now
					before, _ = json.Marshal(p)
				}
			}
		}
	}
}

// A second oscillator makes the first "Oscillator 1"; both go into the filter, and a mixer put in afterwards takes both.
func TestBlocksWireThemselves(t *testing.T) {
	p := must(Begin("blank", "mine", "Mine", ""))
	for _, b := range []string{"osc", "osc", "noise", "mixer", "highpass", "ring", "delay", "reverb", "drive"} {
		now, _, err := Add(p, b, Want{})
		if err != nil {
			t.Fatal(err)
		}
		p = now
	}
	var path []string
	for _, e := range p.Audio {
		path = append(path, e.From+" > "+e.To)
	}
	all := strings.Join(path, ", ")
	for _, want := range []string{"osc > mixer", "osc2 > mixer", "osc3 > mixer", "noise > mixer", "ring > mixer", "osc > ring", "osc2 > ring", "mixer > filter", "filter > highpass", "highpass > amp", "amp > delay", "delay > reverb", "reverb > drive", "drive > out"} {
		if !strings.Contains(all+",", want+",") {
			t.Errorf("no %s in %s", want, all)
		}
	}
	if len(p.Audio) != 14 {
		t.Errorf("%d connections: %s", len(p.Audio), all)
	}
	var labels []string
	for _, m := range p.Modules {
		labels = append(labels, m.Label)
	}
	if got := strings.Join(labels, ", "); !strings.Contains(got, "Oscillator 1, ") || !strings.Contains(got, "Oscillator 3") {
		t.Errorf("modules are called %s", got)
	}
	// the second envelope is for the filter, and says how much
	p, _, err := Add(p, "env", Want{})
	if err != nil {
		t.Fatal(err)
	}
	found := false
	for _, c := range p.Controls {
		found = found || c.Label == "Envelope amount" && c.Section == "filter"
	}
	if !found {
		t.Error("a second envelope does not reach the filter")
	}
}

func must(p *panel.Panel, err error) *panel.Panel {
	if err != nil {
		panic(err)
	}
	return p
}

func said(s string) *string { return &s }

// Controls as they are said, on an instrument of three oscillators: what each sets and by which law follows from the words (common practice, no source).
func TestLinesAsTheyAreSaid(t *testing.T) {
	p := must(Begin("mono", "mine", "Mine", ""))
	p, _, err := Add(p, "osc", Want{Label: "Oscillator 3"})
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		section, label, printed, sets string
		param, law                    string
	}{
		{"filter", "Cutoff", "20 Hz ... 20 kHz", "", "filter.cutoff", "segments 0: 20, 1: 20000 Hz stated"},
		{"filter", "Cutoff", "0 to 10", "cut", "filter.cutoff", "exponential 20 to 20000 Hz assumed"},
		{"filter", "Emphasis", "0 to 10", "res", "filter.resonance", "linear 0 to 1 fraction assumed"},
		{"osc3", "Fine", "-7 to +7", "det osc 3", "osc3.interval fine", "bipolar ±100 ct assumed"},
		{"osc3", "Detune", "-50 to +50", "det", "osc3.interval fine", "linear -50 to 50 ct assumed"},
		{"osc3", "Pitch", "-12 to +12", "osc 3 semi", "osc3.interval semi", "linear -1200 to 1200 ct stated"},
		{"osc2", "Tune", "-100 ct to +100 ct", "fine", "osc2.interval fine", "linear -100 to 100 ct stated"},
		{"osc2", "Register", "32' 16' 8' 4' 2'", "octave", "osc2.interval octave", "list -2400, -1200, 0, 1200, 2400 ct stated"},
		{"osc2", "Waveform", "tri / ramp / square / sin", "wave", "osc2.wave", "list triangle, saw, pulse, sine wave stated"},
		{"osc2", "PW", "50 % to 90 %", "width", "osc2.width", "linear 50 to 90 % stated"},
		{"filter-envelope", "A", "5 ms 50 500 5 s", "attack", "filter-envelope.attack", "segments 0: 5, 0.333333: 50, 0.666667: 500, 1: 5000 ms stated"},
		{"filter-envelope", "Decay time", "0 to 10", "", "filter-envelope.decay", "exponential 5 to 15000 ms assumed"},
		{"amplifier-envelope", "Sustain", "0 to 10", "", "amplifier-envelope.sustain", "linear 0 to 100 % assumed"},
		{"lfo", "Speed", "0.1 Hz to 30 Hz", "", "lfo.rate", "segments 0: 0.1, 1: 30 Hz stated"},
		{"filter", "Kbd", "off / half / full", "key tr", "filter.track", "list 0, 50, 100 % stated"},
		{"filter", "Slope", "12 dB / 24 dB", "slope", "filter.poles", "list 2, 4 count stated"},
		{"filter", "Mode", "LP / BP / HP", "", "filter.mode", "list lowpass, bandpass, highpass name stated"},
		{"amp", "Volume", "-60 dB to 0 dB", "level amp", "amp.level", "linear -60 to 0 dB stated"},
		{"filter", "Env", "clock", "filter envelope to cutoff", "filter-envelope-cutoff.depth", "bipolar ±5 oct assumed"},
		{"voice", "Glide", "0 to 10", "", "voice.glide", "exponential 5 to 3000 ms assumed"},
	} {
		// as if no other control set it: the words decide
		l := Said{Section: c.section, Label: said(c.label), Printed: said(c.printed)}
		if c.sets != "" {
			l.Sets = said(c.sets)
		}
		bare := clone(p)
		for i := range bare.Controls {
			bare.Controls[i].Means = nil
		}
		now, id, _, err := Say(bare, l)
		if err != nil {
			t.Errorf("%s, %s: %v", c.label, c.printed, err)
			continue
		}
		k := controlOf(now, id)
		if len(k.Means) == 0 {
			t.Errorf("%s sets nothing, want %s", c.label, c.param)
			continue
		}
		b := k.Means[0]
		if got := strings.TrimSpace(b.Param + " " + b.Part); got != c.param {
			t.Errorf("%s (%q) sets %s, want %s", c.label, c.sets, got, c.param)
		}
		if got := string(b.Law.Kind) + " " + b.Law.NumbersText() + " " + string(b.Law.Source); got != c.law {
			t.Errorf("%s: law %s, want %s", c.label, got, c.law)
		}
		if l := b.Law.Check(k.Face); len(l) > 0 {
			t.Errorf("%s: %v", c.label, l)
		}
	}
}

func controlOf(p *panel.Panel, id string) panel.Control {
	for _, c := range p.Controls {
		if c.ID == id {
			return c
		}
	}
	return panel.Control{}
}

// What is stated stays when a scale is printed otherwise; what was assumed is assumed anew; what is wrong says so in words at its field, and nothing changes.
func TestLinesThatChange(t *testing.T) {
	p := must(Begin("mono", "mine", "Mine", "0 to 10"))
	i := 0
	for n, c := range p.Controls {
		if c.ID == "filter.cutoff" {
			i = n
		}
	}
	p.Controls[i].Means[0].Law = scale.Law{Kind: scale.Exponential, Unit: "Hz", Min: 31, Max: 14000, Source: scale.Measured, Uncertainty: &scale.Uncertainty{U: 0.02, Relative: true}}
	now, id, _, err := Say(p, Said{Control: "filter.cutoff", Printed: said("0 to 100")})
	if err != nil {
		t.Fatal(err)
	}
	if c := controlOf(now, id); c.Means[0].Law.Min != 31 || c.Face.Max != 100 || c.Init != "10" && c.Init != "100" {
		t.Errorf("a measured law did not stay: %+v, init %s", c.Means[0].Law, c.Init)
	}
	now, id, _, err = Say(p, Said{Control: "lfo.rate", Printed: said("0.1 Hz to 20 Hz"), Label: said("Speed")})
	if err != nil {
		t.Fatal(err)
	}
	if c := controlOf(now, id); c.Means[0].Law.Source != scale.Stated || c.Label != "Speed" || c.ID != "lfo.rate" {
		t.Errorf("what is printed now is not taken: %+v", c)
	}
	now, id, _, err = Say(p, Said{Control: "osc1.wave", Printed: said("saw / square / tri / sine")})
	if err != nil {
		t.Fatal(err)
	}
	if c := controlOf(now, id); len(c.Means[0].Law.Values) != 4 || c.Means[0].Law.Values[2] != "triangle" {
		t.Errorf("waves %v", c.Means[0].Law.Values)
	}
	if _, _, doubts, err := Say(p, Said{Control: "osc1.wave", Printed: said("saw / strings / choir")}); err != nil || len(doubts) != 1 || !strings.Contains(doubts[0], "strings, choir say nothing about the wave of oscillator 1") {
		t.Errorf("waves that are none: %v, %v", doubts, err)
	}
	for what, l := range map[string]Said{
		"a control needs a label":  {Control: "lfo.rate", Label: said("  ")},
		"expected what is printed": {Control: "lfo.rate", Printed: said("between")},
		"nothing on this panel":    {Control: "lfo.rate", Sets: said("hovercraft")},
		"out of range":             {Control: "lfo.rate", Init: said("11")},
		"a text has no travel":     {Control: "lfo.rate", Printed: said("text")},
		"chosen, not turned":       {Control: "lfo.rate", Sets: said("sync osc 2")},
		"the control is not there": {Control: "gone", Label: said("x")},
	} {
		_, _, _, err := Say(p, l)
		if err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("want an error with %q, got %v", what, err)
			continue
		}
		for _, bad := range []string{"/controls", "null", "JSON", "param"} {
			if strings.Contains(err.Error(), bad) {
				t.Errorf("the error %q has %q in it", err, bad)
			}
		}
	}
}

// A route is made once, however often it is said; what an LFO does to "the cutoff" it does to the low-pass, wherever the high-pass was put in.
func TestRoutesAreMadeOnce(t *testing.T) {
	p := must(Begin("mono", "mine", "Mine", ""))
	routes := len(p.Routes)
	for _, l := range []Said{{Section: "filter", Label: said("Envelope amount")}, {Section: "filter", Label: said("More of it"), Sets: said("env amount")}, {Section: "lfo", Label: said("To pitch")}} {
		now, _, _, err := Say(p, l)
		if err != nil {
			t.Fatal(err)
		}
		if p = now; len(p.Routes) != routes {
			t.Errorf("%s made a route again: %d, want %d", *l.Label, len(p.Routes), routes)
		}
		if _, err := panel.Compile(p); err != nil {
			t.Errorf("%s: %v", *l.Label, err)
		}
	}
	p = must(Begin("blank", "mine", "Mine", ""))
	for _, b := range []string{"highpass", "lfo"} {
		now, _, err := Add(p, b, Want{})
		if err != nil {
			t.Fatal(err)
		}
		p = now
	}
	for _, r := range p.Routes {
		if r.From == "lfo" && strings.HasSuffix(r.To[0], ".cutoff") && r.To[0] != "filter.cutoff" {
			t.Errorf("the LFO moves %s", r.To[0])
		}
	}
}

// A second filter goes behind the first one, or beside it: the path that is played forks then (meaning.Path).
func TestAFilterBesideAnother(t *testing.T) {
	p, err := Begin("mono", "one", "One", "")
	if err != nil {
		t.Fatal(err)
	}
	for _, beside := range []bool{false, true} {
		now, _, err := Add(p, "filter", Want{Beside: beside})
		if err != nil {
			t.Fatal(err)
		}
		c, err := panel.Compile(now)
		if err != nil {
			t.Fatal(err)
		}
		m := c.Interpret(c.InitState(), 120)
		filters := 0
		for i := range m.Modules {
			if m.Modules[i].Kind == meaning.Filter && m.Modules[i].Used() {
				filters++
			}
		}
		path := m.Graph().Path()
		for i := range m.Modules {
			if d := &m.Modules[i]; d.Kind == meaning.Osc && d.Used() && path.Forks(d.ID) != beside && filters > 1 {
				t.Errorf("beside %v: %s forks %v over %d filters", beside, d.ID, path.Forks(d.ID), filters)
			}
		}
		if filters < 2 {
			t.Logf("beside %v: %d filters are in use at init", beside, filters)
		}
	}
	if _, _, err := Add(p, "lfo", Want{Beside: true}); err == nil {
		t.Error("an LFO beside a filter")
	}
}
