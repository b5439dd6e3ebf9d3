package panel_test

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	q "glossator/core/quantity"
	"glossator/core/scale"
	"glossator/testutil/testrack"
)

// Every control of every shipped panel: its readings round-trip, its laws are finite and
// monotone, and the inverse of what a law gives is within half a step.
func TestEveryControlOfEveryPanel(t *testing.T) {
	for id, c := range testrack.Panels(t) {
		for i := range c.Controls {
			d := &c.Controls[i]
			name := id + " " + d.ID
			for n := range d.Face.Len() {
				at := d.Face.At(n)
				if p, err := d.Face.Parse(at.Reading); err != nil || p.Index != n {
					t.Errorf("%s: %q reads back as place %d (%v), want %d", name, at.Reading, p.Index, err, n)
				}
			}
			for j := range d.Means {
				law := d.Means[j].Law
				var last q.Quantity
				rising := 0.0
				for n := range d.Face.Len() {
					v, set := law.Quantity(d.Face.At(n))
					if !set {
						continue
					}
					if !v.Finite() || v.Tol < 0 {
						t.Errorf("%s at %s is %v", name, d.Face.At(n).Reading, v)
					}
					if law.Kind != "list" && !last.Off && !v.Off && last.Dim != "" {
						step := v.Value - last.Value
						if step*rising < 0 {
							t.Errorf("%s is not monotone at %s", name, d.Face.At(n).Reading)
						}
						if step != 0 {
							rising = step
						}
					}
					last = v
					if law.Dim().Named() {
						continue
					}
					s, err := law.Inverse(d.Face, v)
					if err != nil || math.Abs(s.Error) > s.Step/2+1e-9 {
						t.Errorf("%s: the inverse of %v at %s is %s, off by %v (%v)", name, v, d.Face.At(n).Reading, s.Reading, s.Error, err)
					}
				}
			}
		}
	}
}

// What is always so of a generated patch: its meaning is finite, every control it names is
// in it, and idle is said with a reason.
func TestMeaningsAreFinite(t *testing.T) {
	for id, c := range testrack.Panels(t) {
		for seed := range uint64(40) {
			p := testrack.Generate(c, seed, 0.7)
			s, err := c.Read(&p.Layers[0], "")
			if err != nil {
				t.Fatalf("%s: %v", id, err)
			}
			m := c.Interpret(s, q.Tempo(p.Tempo))
			for _, d := range m.Modules {
				for name, v := range d.Params {
					if !v.Finite() {
						t.Errorf("%s, seed %d: %s.%s is %v", id, seed, d.ID, name, v.Quantity)
					}
				}
			}
			for _, r := range m.Routes {
				if !r.Depth.Finite() || r.Used() && (r.From == "" || len(r.To) == 0) {
					t.Errorf("%s, seed %d: route %s is %v from %q", id, seed, r.ID, r.Depth.Quantity, r.From)
				}
			}
		}
	}
}

// Key tracking (design 4): the meaning keeps hertz at middle C. With full tracking and the
// pivot an octave below, a printed cutoff is an octave higher at middle C.
func TestPivot(t *testing.T) {
	for _, c := range []struct {
		track float64
		pivot q.Note
		want  float64
	}{{0, 48, 1}, {1, 48, 2}, {0.5, 48, math.Sqrt2}, {1, 60, 1}, {1, 72, 0.5}} {
		if got := panel.AtMiddleC(c.track, c.pivot); math.Abs(got-c.want) > 1e-12 {
			t.Errorf("tracking %v about %v: %v, want %v", c.track, c.pivot, got, c.want)
		}
	}
	w := testrack.Panels(t)["windlass"]
	read := func(track string) float64 {
		s, err := w.Read(&patch.Layer{Readings: map[string]string{"filter.cutoff": "5", "filter.track": track}}, "")
		if err != nil {
			t.Fatal(err)
		}
		return w.Interpret(s, 0).Module("filter").Params["cutoff"].Value
	}
	if r := read("full") / read("off"); math.Abs(r-2) > 1e-9 {
		t.Errorf("full tracking about C3 gives %v times the cutoff at C4, want 2", r)
	}
}

func readKedge(t *testing.T, readings map[string]string, cables ...patch.Cable) *meaning.Meaning {
	t.Helper()
	k := testrack.Panels(t)["kedge"]
	s, err := k.Read(&patch.Layer{Readings: readings, Cables: cables}, "")
	if err != nil {
		t.Fatal(err)
	}
	return k.Interpret(s, 0)
}

func TestCablesAndNormals(t *testing.T) {
	m := readKedge(t, map[string]string{"lowpass.amount": "2:00", "att": "12:00"},
		patch.Cable{From: "out-velocity", To: "in-att"}, patch.Cable{From: "out-att", To: "in-cutoff"})
	if r := m.Route("env-cutoff"); r.Used() || !strings.Contains(r.Idle, "Cutoff in") {
		t.Errorf("a cable into the normalled input left the envelope on: %q", r.Idle)
	}
	r := m.Route("cable:in-cutoff")
	if r == nil || r.From != "velocity" || math.Abs(r.Depth.Value-2.5) > 1e-9 || r.Polarity != "unipolar" {
		t.Fatalf("velocity by half an attenuator into 5 oct is %+v, want 2.5 oct, one way", r)
	}
	if len(r.Depth.From) != 1 || r.Depth.From[0] != "att" {
		t.Errorf("the depth comes from %v, want the attenuator", r.Depth.From)
	}
	if m.Module("att").Idle != "" {
		t.Errorf("the attenuator is idle: %s", m.Module("att").Idle)
	}
	if readKedge(t, nil).Route("env-cutoff").Idle != "its depth is 0" {
		t.Error("an amount at noon still moves the cutoff")
	}
}

func TestConditionsAndIdle(t *testing.T) {
	w := testrack.Panels(t)["windlass"]
	mean := func(readings map[string]string) *meaning.Meaning {
		s, err := w.Read(&patch.Layer{Readings: readings}, "")
		if err != nil {
			t.Fatal(err)
		}
		return w.Interpret(s, 0)
	}
	on := map[string]string{"mix.osc3": "5", "mix.osc3.on": "on", "osc3.tune": "2:00"}
	if m := mean(on); !m.Module("osc3").Used() || m.Module("lfo3").Used() {
		t.Error("at 8' the third oscillator sounds and is no LFO")
	}
	on["osc3.range"], on["mod.pitch"], on["mod.depth"] = "low", "on", "4"
	m := mean(on)
	if m.Module("osc3").Used() || !m.Module("lfo3").Used() || m.Route("lfo3-pitch").Via != "wheel" {
		t.Errorf("at low it is an LFO by the wheel: %q, %q", m.Module("osc3").Idle, m.Module("lfo3").Idle)
	}
	on["mod.pitch"] = "off"
	if m := mean(on); m.Module("lfo3").Idle != "nothing listens to it" {
		t.Errorf("an LFO that nothing listens to is %q", m.Module("lfo3").Idle)
	}
	if m := mean(map[string]string{"mix.osc1": "8"}); m.Module("osc1").Idle != "switched off" {
		t.Errorf("a raised level with its switch off is %q", m.Module("osc1").Idle)
	}
	release := mean(map[string]string{"aenv.decay": "1 s", "aenv.release": "decay"}).Module("aenv")
	if a, b := release.Params["decay"].Value, release.Params["release"].Value; a != b {
		t.Errorf("with the switch at decay the release is %v, the decay %v", b, a)
	}
}

func TestDivisionsBecomeTimes(t *testing.T) {
	h := testrack.Panels(t)["halyard"]
	s, err := h.Read(&patch.Layer{Readings: map[string]string{"lfo1.clock": "tempo", "lfo1.division": "1/8.", "lfo1.dest": "cutoff", "lfo1.amount": "40"}}, "")
	if err != nil {
		t.Fatal(err)
	}
	// MIDI 1.0: a dotted eighth at 96 BPM is 2.1333 Hz
	rate := h.Interpret(s, 96).Module("lfo1").Params["rate"]
	if math.Abs(rate.Value-2.1333) > 5e-5 || rate.Beats != 0.75 {
		t.Errorf("a dotted eighth at 96 is %v Hz, %v quarter notes", rate.Value, rate.Beats)
	}
}

// The faults of a panel, each made by one change to a good one.
func TestPanelFaults(t *testing.T) {
	type change func(p *panel.Panel)
	type fault struct {
		name, path, says string
		do               change
	}
	number := func(n int) *int { return &n }
	check := func(id string, list []fault) {
		good := testrack.Panels(t)[id].Panel
		for _, c := range list {
			var p panel.Panel
			b, err := json.Marshal(good)
			if err == nil {
				err = json.Unmarshal(b, &p)
			}
			if err != nil {
				t.Fatal(err)
			}
			c.do(&p)
			_, err = panel.Compile(&p)
			if err == nil {
				t.Errorf("%s: no fault", c.name)
				continue
			}
			if !strings.Contains(err.Error(), c.path) || !strings.Contains(err.Error(), c.says) {
				t.Errorf("%s: got %v, want a fault at %s that says %q", c.name, err, c.path, c.says)
			}
		}
		if _, err := panel.Compile(good); err != nil {
			t.Errorf("the changes reached the good panel: %v", err)
		}
	}
	check("kedge", []fault{
		{"wrong format", "/format", "glossator-panel", func(p *panel.Panel) { p.Format = "x" }},
		{"wrong version", "/version", "reads no other", func(p *panel.Panel) { p.Version = 3 }},
		{"bad id", "/id", "lower-case", func(p *panel.Panel) { p.ID = "Kedge One" }},
		{"no name", "/name", "a name", func(p *panel.Panel) { p.Name = " " }},
		{"kind", "/kind", "rack", func(p *panel.Panel) { p.Kind = "toy" }},
		{"unknown step", "/sections/0/step", "step of the work", func(p *panel.Panel) { p.Sections[0].Step = "x" }},
		{"section twice", "/sections/1/id", "no other", func(p *panel.Panel) { p.Sections[1].ID = p.Sections[0].ID }},
		{"module twice", "/modules/1/id", "also at", func(p *panel.Panel) { p.Modules[1].ID = p.Modules[0].ID }},
		{"module named as a source", "/modules/0/id", "source of play", func(p *panel.Panel) { p.Modules[0].ID = "velocity" }},
		{"module with a full stop", "/modules/0/id", "full stop", func(p *panel.Panel) { p.Modules[0].ID = "a.b" }},
		{"kind of module", "/modules/0/kind", "kind of module", func(p *panel.Panel) { p.Modules[0].Kind = "kazoo" }},
		{"fixed parameter", "/modules/0/fixed/reeds", "parameter of voice", func(p *panel.Panel) { p.Modules[0].Fixed["reeds"] = "2" }},
		{"a drawn wave that is silent", "/modules/1/fixed/wave", "silent", func(p *panel.Panel) { p.Modules[1].Fixed = map[meaning.ParamName]string{"wave": "drawn 5 5 5"} }},
		{"a sync to nothing", "/modules/1/fixed/sync", "another oscillator", func(p *panel.Panel) { p.Modules[1].Fixed = map[meaning.ParamName]string{"sync": "banana"} }},
		{"a sync to itself", "/modules/1/fixed/sync", "another oscillator", func(p *panel.Panel) {
			p.Modules[1].Fixed = map[meaning.ParamName]string{"sync": p.Modules[1].ID}
		}},
		{"fixed value", "/modules/0/fixed/bend", "interval", func(p *panel.Panel) { p.Modules[0].Fixed["bend"] = "2 Hz" }},
		{"pivot", "/modules/5/pivot", "a note", func(p *panel.Panel) { p.Modules[5].Pivot = "H4" }},
		{"control twice", "/controls/1/id", "no other", func(p *panel.Panel) { p.Controls[1].ID = p.Controls[0].ID }},
		{"control without label", "/controls/0/label", "a label", func(p *panel.Panel) { p.Controls[0].Label = "" }},
		{"section of a control", "/controls/0/section", "id of a section", func(p *panel.Panel) { p.Controls[0].Section = "attic" }},
		{"init off the face", "/controls/0/init", "out of range", func(p *panel.Panel) { p.Controls[0].Init = "6:30" }},
		{"unknown parameter", "/controls/0/means/0/param", "parameter of voice", func(p *panel.Panel) { p.Controls[0].Means[0].Param = "voice.colour" }},
		{"unknown module", "/controls/0/means/0/param", "MODULE.PARAMETER", func(p *panel.Panel) { p.Controls[0].Means[0].Param = "osc9.level" }},
		{"unit of another dimension", "/controls/0/means/0/law/unit", "unit of interval", func(p *panel.Panel) { p.Controls[0].Means[0].Law.Unit = "dB" }},
		{"part of no sum", "/controls/8/means/0/part", "not a sum", func(p *panel.Panel) { p.Controls[8].Means[0].Part = "fine" }},
		{"condition on nothing", "/routes/1/when/0/control", "id of a control", func(p *panel.Panel) { p.Routes[1].When[0].Control = "x" }},
		{"condition on a dial", "/routes/1/when/0/control", "named positions", func(p *panel.Panel) { p.Routes[1].When[0].Control = "tune" }},
		{"condition on no such position", "/routes/1/when/0/in/0", "one of envelope, gate", func(p *panel.Panel) { p.Routes[1].When[0].In[0] = "lever" }},
		{"route from nowhere", "/routes/0/from", "source of play", func(p *panel.Panel) { p.Routes[0].From = "moon" }},
		{"route to nowhere", "/routes/0/to/0", "parameter of filter", func(p *panel.Panel) { p.Routes[0].To[0] = "lowpass.glow" }},
		{"route without depth", "/routes/1/depth", "fixed depth", func(p *panel.Panel) { p.Routes[1].Depth = "" }},
		{"depth in another unit", "/routes/3/depth", "depth in interval", func(p *panel.Panel) { p.Routes[3].Depth = "3 dB" }},
		{"normal of no point", "/routes/0/normal", "patch point", func(p *panel.Panel) { p.Routes[0].Normal = "x" }},
		{"point in no direction", "/points/0/dir", "in or out", func(p *panel.Panel) { p.Points[0].Dir = "up" }},
		{"point twice", "/points/1/id", "no other", func(p *panel.Panel) { p.Points[1].ID = p.Points[0].ID }},
		{"audio to nowhere", "/audio/0/to", "module or out", func(p *panel.Panel) { p.Audio[0].To = "attic" }},
		{"audio in a circle", "/audio/", "closes a loop", func(p *panel.Panel) { p.Audio = append(p.Audio, panel.Edge{From: "spring", To: "mixer"}) }},
		{"address twice", "/controls/1/midi/cc", "address of its own", func(p *panel.Panel) {
			n := 7
			p.Controls[0].MIDI, p.Controls[1].MIDI = &panel.MIDI{CC: &n}, &panel.MIDI{CC: &n}
		}},
		{"module without an id", "/modules/0/id", "an id", func(p *panel.Panel) { p.Modules[0].ID = " " }},
		{"condition without readings", "/routes/1/when/0/in", "at least one", func(p *panel.Panel) { p.Routes[1].When[0].In = nil }},
		{"route to nothing at all", "/routes/0/to", "at least one", func(p *panel.Panel) { p.Routes[0].To = nil }},
		{"route scaled by nothing known", "/routes/0/via", "source of play", func(p *panel.Panel) { p.Routes[0].Via = "moon" }},
		{"output of nothing known", "/of", "source of play", func(p *panel.Panel) {
			for i := range p.Points {
				if p.Points[i].Dir == "out" {
					p.Points[i].Of = "moon"
					return
				}
			}
		}},
		{"attenuator that is none", "/to/0", "attenuator", func(p *panel.Panel) { p.Points[11].To = []string{"lowpass.in"} }},
		{"sound into a filter by cable", "/points/1/to/0", "not sound", func(p *panel.Panel) {
			p.Points[1].To = []string{"lowpass.in"}
			p.Points[1].Dir = "in"
		}},
		{"a choice of words that is moved", "/routes/0/to/0", "choice of words", func(p *panel.Panel) { p.Routes[0].To = []string{"osc1.sync"} }},
		{"audio from nowhere", "/audio/0/from", "id of a module", func(p *panel.Panel) { p.Audio[0].From = "attic" }},
		{"quiet by no control", "/modules/0/quiet/x", "id of a control", func(p *panel.Panel) { p.Modules[0].Quiet = map[string]string{"x": "1"} }},
		{"quiet at no position", "/modules/0/quiet/osc1.wave", "triangle, saw, pulse", func(p *panel.Panel) { p.Modules[0].Quiet = map[string]string{"osc1.wave": "bell"} }},
		{"an address beyond the last", "/controls/0/midi/cc", "0 to 127", func(p *panel.Panel) { p.Controls[0].MIDI = &panel.MIDI{CC: number(128)} }},
		{"an address below the first", "/controls/0/midi/nrpn", "0 to 16383", func(p *panel.Panel) { p.Controls[0].MIDI = &panel.MIDI{NRPN: number(-1)} }},
		{"numbers that count otherwise", "/controls/0/midi/values", "full or index", func(p *panel.Panel) { p.Controls[0].MIDI = &panel.MIDI{CC: number(3), Values: "half"} }},
		{"more positions than a message carries", "/controls/0/midi/values", "128 numbers", func(p *panel.Panel) {
			p.Controls[0].Face = scale.Face{Kind: scale.Numeric, Max: 200, Step: 1}
			p.Controls[0].Init = "0"
			p.Controls[0].MIDI = &panel.MIDI{CC: number(3), Values: "index"}
		}},
		{"a place in no dump", "/controls/0/midi/byte", "describe its dump", func(p *panel.Panel) { p.Controls[0].MIDI = &panel.MIDI{Byte: number(3)} }},
		{"more positions than are worked out", "/face", "positions over all", func(p *panel.Panel) {
			for i := range p.Controls {
				p.Controls[i].Face, p.Controls[i].Init = scale.Face{Kind: scale.Numeric, Max: 16000, Step: 1}, "0"
			}
		}},
	})
	check("halyard", []fault{
		{"destination twice", "/matrix/destinations/1/name", "no other", func(p *panel.Panel) { p.Matrix.Destinations[1].Name = p.Matrix.Destinations[0].Name }},
		{"destination called none", "/matrix/destinations/0/name", "no other", func(p *panel.Panel) { p.Matrix.Destinations[0].Name = "none" }},
		{"destination that is nothing", "/matrix/destinations/0/to/0", "MODULE.PARAMETER", func(p *panel.Panel) { p.Matrix.Destinations[0].To = []string{"attic"} }},
		{"full swing in another unit", "/matrix/destinations/0/full", "depth in", func(p *panel.Panel) { p.Matrix.Destinations[0].Full = "3 m" }},
		{"source of nothing", "/matrix/sources/moon", "source of play", func(p *panel.Panel) { p.Matrix.Sources["moon"] = "moon" }},
		{"slot from nowhere", "/matrix/slots/0/source", "source of play", func(p *panel.Panel) { p.Matrix.Slots[0].Source = "moon" }},
		{"slot to nowhere", "/matrix/slots/0/dest", "name of a destination", func(p *panel.Panel) { p.Matrix.Slots[0].Dest = "attic" }},
		{"slot scaled by nothing known", "/matrix/slots/0/via", "source of play", func(p *panel.Panel) { p.Matrix.Slots[0].Via = "moon" }},
		{"slot twice", "/matrix/slots/1/id", "also at", func(p *panel.Panel) { p.Matrix.Slots[1].ID = p.Matrix.Slots[0].ID }},
		{"slot on nothing", "/matrix/slots/0/when/0/control", "id of a control", func(p *panel.Panel) {
			p.Matrix.Slots[0].When = []panel.When{{Control: "x", In: []string{"on"}}}
		}},
	})
	check("fairlead", []fault{
		{"a header that is no number", "/dump/header", "hexadecimal", func(p *panel.Panel) { p.Dump.Header = "7D xy" }},
		{"a header with the eighth bit", "/dump/header", "00 to 7F", func(p *panel.Panel) { p.Dump.Header = "F0" }},
		{"a header of nothing", "/dump/header", "at least the maker's", func(p *panel.Panel) { p.Dump.Header = " " }},
		{"a dump of nothing", "/dump/length", "1 to 65536", func(p *panel.Panel) { p.Dump.Length = 0 }},
		{"a dump without end", "/dump/length", "1 to 65536", func(p *panel.Panel) { p.Dump.Length = 70000 }},
		{"a place behind the dump", "/midi/byte", "within the 4 bytes", func(p *panel.Panel) { p.Dump.Length = 4 }},
	})
}

func TestReadingFaults(t *testing.T) {
	k := testrack.Panels(t)["kedge"]
	for _, c := range []struct {
		name       string
		layer      patch.Layer
		path, says string
	}{
		{"unknown control", patch.Layer{Readings: map[string]string{"osc9.level": "7"}}, "/layers/0/readings/osc9.level", "none with this id"},
		{"out of range", patch.Layer{Readings: map[string]string{"lfo.rate": "6:00"}}, "/layers/0/readings/lfo.rate", "7:00 to 5:00"},
		{"not a position", patch.Layer{Readings: map[string]string{"osc1.wave": "bell"}}, "/layers/0/readings/osc1.wave", "triangle, saw, pulse"},
		{"not a number", patch.Layer{Readings: map[string]string{"lfo.rate": "NaN"}}, "/layers/0/readings/lfo.rate", "clock position"},
		{"empty", patch.Layer{Readings: map[string]string{"lfo.rate": ""}}, "/layers/0/readings/lfo.rate", "a reading"},
		{"cable from an input", patch.Layer{Cables: []patch.Cable{{From: "in-pitch", To: "in-cutoff"}}}, "/layers/0/cables/0/from", "output point"},
		{"cable into nothing", patch.Layer{Cables: []patch.Cable{{From: "out-lfo", To: "in-attic"}}}, "/layers/0/cables/0/to", "input point"},
		{"two into one", patch.Layer{Cables: []patch.Cable{{From: "out-lfo", To: "in-cutoff"}, {From: "out-key", To: "in-cutoff"}}}, "/layers/0/cables/1/to", "one cable an input"},
		{"attenuator into itself", patch.Layer{Cables: []patch.Cable{{From: "out-att", To: "in-att"}}}, "/layers/0/cables/0", "no way back"},
	} {
		_, err := k.Read(&c.layer, "/layers/0")
		if err == nil || !strings.Contains(err.Error(), c.path) || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: got %v, want a fault at %s that says %q", c.name, err, c.path, c.says)
		}
	}
}

// A panel of version 1 wrote beats as whole notes: read now, it gives the times it gave then (MIDI 1.0: a quarter at 120 lasts 500 ms).
func TestOlderPanelsKeepTheirTimes(t *testing.T) {
	old := `{"format": "glossator-panel", "version": 1, "id": "x", "controls": [{"id": "d", "label": "Division", "face": {"kind": "list", "entries": ["1/4", "1/8.", "off"]},
		"means": [{"param": "l.rate", "law": {"kind": "list", "unit": "beats", "values": [0.25, 0.1875, "off"], "uncertainty": {"u": 0.01}}},
			{"param": "l.delay", "law": {"kind": "linear", "unit": "s", "min": 1, "max": 2}}, {"param": "l.fade", "law": {"kind": "segments", "unit": "beats", "points": [[0, 0.25], [1, 1]]}}]}]}`
	for _, version := range []string{"1", "2"} {
		var p panel.Panel
		if err := json.Unmarshal([]byte(strings.Replace(old, `"version": 1`, `"version": `+version, 1)), &p); err != nil {
			t.Fatal(err)
		}
		means, by := p.Controls[0].Means, map[string]float64{"1": 4, "2": 1}[version]
		if p.Version != panel.Version || means[0].Law.Values[0] != 0.25*by || means[0].Law.Values[1] != 0.1875*by || means[0].Law.Values[2] != "off" || means[0].Law.Uncertainty.U != 0.01*by ||
			means[1].Law.Max != 2 || means[2].Law.Points[1][1] != by {
			t.Errorf("version %s: %+v", version, means)
		}
		if by == 4 {
			v, set := means[0].Law.Quantity(p.Controls[0].Face.At(0))
			if !set || math.Abs(float64(q.Beats(v.Value).At(120))-0.5) > 1e-12 {
				t.Errorf("a quarter at 120 lasts %v", v)
			}
		}
	}
}
