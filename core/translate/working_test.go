package translate_test

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"testing"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/hear"
	"glossator/core/heard"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/scale"
	"glossator/core/synth"
	"glossator/testutil/testrack"
)

// heldNote renders a layer on a held note.
func heldNote(t testing.TB, y synth.Layer) *compare.Sketch {
	t.Helper()
	s, err := synth.Render([]synth.Layer{y}, []phrase.Note{{Start: 0, End: 0.8, Key: 48, Velocity: 100}}, synth.Options{Tail: 0.2})
	if err != nil {
		t.Fatal(err)
	}
	return compare.Sketched(hear.Wave{Rate: synth.Rate, Left: s.Left, Right: s.Right})
}

// A part that is not heard itself may work: an oscillator whose level is down and that resets another, or modulates it in frequency. It is in use, its pitch
// has lines that are not idle and is set, and where the target can do the same the render is as with it.
func TestSilentPartsThatWork(t *testing.T) {
	rack := testrack.Panels(t)
	for _, x := range []struct {
		name, panel, master string
		readings            map[string]string
		moved               map[string]string // what works, set otherwise: it is heard
		to                  []string          // targets that have the same
	}{
		{"a sync master", "kedge", "osc1", map[string]string{"mix.osc1": "7:00", "mix.osc2": "12:00", "osc2.sync": "on", "osc2.range": "8'", "osc2.tune": "3:00", "lowpass.cutoff": "8 kHz"},
			map[string]string{"osc1.range": "16'"}, []string{"halyard", "thole"}},
		{"a modulator", "halyard", "osc2", map[string]string{"osc1.fm": "60", "osc2.level": "0", "osc1.level": "100", "osc2.range": "4'"},
			map[string]string{"osc2.range": "16'"}, []string{"binnacle"}},
	} {
		t.Run(x.name, func(t *testing.T) {
			src := rack[x.panel]
			p := &patch.Patch{ID: "working", Name: "Working", Panel: src.ID, Kind: "lead", Tempo: 120, Layers: []patch.Layer{{Readings: x.readings}}}
			of := func(readings map[string]string) synth.Layer {
				other := *p
				other.Layers = []patch.Layer{{Readings: map[string]string{}}}
				for _, list := range []map[string]string{x.readings, readings} {
					for k, v := range list {
						other.Layers[0].Readings[k] = v
					}
				}
				y, err := audition.Layers(src, &other, "")
				if err != nil {
					t.Fatal(err)
				}
				return y[0]
			}
			plain := of(nil)
			if d := plain.Meaning.Module(x.master); !d.Used() {
				t.Fatalf("%s is %q", x.master, d.Idle)
			}
			there := heldNote(t, plain)
			if d := compare.Apart(there, heldNote(t, of(x.moved)), false).Total; d < 3 {
				t.Errorf("%v changes the sound by %.1f", x.moved, d)
			}
			for _, id := range x.to {
				in, s := made(t, src, p, rack[id])
				told := false
				for i := range s.Glosses {
					if m, _ := meaning.Split(s.Glosses[i].Param); m == x.master && s.Glosses[i].Verdict != gloss.Idle {
						told = true
					}
				}
				if !told {
					t.Errorf("to %s: nothing of %s has a line", id, x.master)
				}
				r, err := heard.Of(heard.Task{In: in, Sheet: s, Notes: []phrase.Note{{Start: 0, End: 0.8, Key: 48, Velocity: 100}}, Held: true})
				if err != nil {
					t.Fatal(err)
				}
				if r.Apart.Total > 4 || !r.Checks[0].OK {
					t.Errorf("to %s: %+v apart, %+v", id, r.Apart, r.Checks)
					for i := range s.Glosses {
						if g := &s.Glosses[i]; g.Verdict != gloss.Held && g.Verdict != gloss.Idle {
							t.Log(g.ID, g.Verdict, g.Reason, g.Diff)
						}
					}
				}
			}
		})
	}
}

// A depth that the wheel brings in is rather set beyond what the wheel needs than short of it, and the line says how far the wheel is turned: with 42.9 ct
// wanted of a switch that gives none or 100 ct, 42.9 % of its way.
func TestTheWheelIsTurnedLess(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	src := rack["halyard"]
	dst := changed(t, src, func(p *panel.Panel) {
		p.ID = "other"
		for i := range p.Controls {
			if c := &p.Controls[i]; c.ID == "wlfo.pitch" {
				c.Face, c.Init, c.MIDI = scale.Face{Kind: "list", Entries: []string{"off", "on"}}, "off", nil
				c.Means[0].Law = scale.Law{Kind: "list", Unit: "ct", Values: []any{0.0, 100.0}, Source: "stated"}
			}
		}
	})
	_, s := made(t, src, patches["fog-bank"], dst)
	g := line(t, s, "wlfo.pitch")
	want, err := strconv.ParseFloat(strings.Fields(g.Wanted.Text)[0], 64)
	if err != nil {
		t.Fatal(err)
	}
	if len(g.Target) != 1 || g.Target[0].Reading != "on" || !strings.Contains(g.Reason, fmt.Sprintf("turn the wheel to %.0f %%", want)) {
		t.Errorf("%+v", g)
	}
}

// Where velocity does not reach the level on the target, notes of usual strength are as loud as they were.
func TestLevelOfUsualNotes(t *testing.T) {
	src := testrack.Panels(t)["halyard"]
	var control string
	plain := changed(t, src, func(p *panel.Panel) {
		p.ID = "plain"
		p.Routes = slices.DeleteFunc(p.Routes, func(r panel.Route) bool {
			if r.From != "velocity" || !slices.Contains(r.To, "amp.level") {
				return false
			}
			p.Controls = slices.DeleteFunc(p.Controls, func(c panel.Control) bool {
				is := slices.ContainsFunc(c.Means, func(b panel.Bind) bool { return b.Param == r.ID+".depth" })
				if is {
					control = c.ID
				}
				return is
			})
			return true
		})
	})
	for _, reading := range []string{"64", "127"} {
		p := &patch.Patch{ID: "struck", Name: "Struck", Panel: src.ID, Kind: "lead", Tempo: 120, Layers: []patch.Layer{{Readings: map[string]string{"osc1.level": "100", "volume": "100", control: reading}}}}
		there, err := audition.Layers(src, p, "")
		if err != nil {
			t.Fatal(err)
		}
		in, s := made(t, src, p, plain)
		here := there[0]
		here.Meaning = in.Got
		if d := compare.Apart(heldNote(t, there[0]), heldNote(t, here), false); d.Level > 0.5 {
			t.Errorf("velocity to the level at %s: %.1f dB apart on a note of usual strength", reading, d.Gain)
		}
		if g := line(t, s, "volume"); !strings.Contains(g.Reason, "as loud at a velocity of 100") {
			t.Errorf("%+v", g)
		}
	}
}

// Where the pitch of an oscillator follows the keys otherwise on the target, it stands at the notes played where it stood: a patch on an instrument with a key
// follow of its own, onto the same without one. What the lines say is what is made.
func TestPitchWhereTheNotesAre(t *testing.T) {
	src := changed(t, testrack.Panels(t)["halyard"], func(p *panel.Panel) {
		p.ID = "followed"
		p.Controls = append(p.Controls, panel.Control{ID: "osc1.key", Label: "Key follow", Section: "osc1", Face: scale.Face{Kind: "list", Entries: []string{"half", "full"}}, Init: "full",
			Means: []panel.Bind{{Param: "osc1.key", Law: scale.Law{Kind: "list", Unit: "%", Values: []any{50.0, 100.0}, Source: "stated"}}}})
	})
	dst := testrack.Panels(t)["halyard"]
	for _, kind := range []string{"bass", "lead"} {
		p := &patch.Patch{ID: "followed", Name: "Followed", Panel: src.ID, Kind: kind, Tempo: 120, Layers: []patch.Layer{{Readings: map[string]string{"osc1.level": "100", "osc1.key": "half", "osc1.range": "8'"}}}}
		in, s := made(t, src, p, dst)
		notes, _, err := audition.Notes(p, "", 0)
		if err != nil {
			t.Fatal(err)
		}
		r, err := heard.Of(heard.Task{In: in, Sheet: s, Notes: notes})
		if err != nil {
			t.Fatal(err)
		}
		if !r.Checks[0].OK {
			t.Errorf("%s: %+v", kind, r.Checks)
		}
		there, _ := src.Read(&p.Layers[0], "")
		a, b := src.Interpret(there, 120).Module("osc1"), in.Got.Module("osc1")
		mid := float64(in.Note - 60)
		x, _ := a.Get(meaning.PInterval)
		y, _ := b.Get(meaning.PInterval)
		if want, got := x.Value+50*mid, y.Value+100*mid; math.Abs(want-got) > 30 {
			t.Errorf("%s: at %s it stands at %.0f ct, there at %.0f", kind, in.Note.NoteName(), got, want)
		}
		if g := line(t, s, "osc1.range"); !strings.Contains(g.Reason, "follows the keys otherwise") {
			t.Errorf("%s: %+v", kind, g)
		}
	}
}

// What moves a pitch and does not reach it on the target is in its tuning: envelopes where they hold it, velocity as strong as it is usually played. The render tells: on each kind of target (the
// oscillators tuned one by one, all of them by the master tuning) a held note is in tune; where one oscillator cannot go along, all stay, and the intervals between them are kept.
func TestHeldPitchThatIsNotThere(t *testing.T) {
	rack := testrack.Panels(t)
	plain := func(p *panel.Panel) {}
	coarse := func(p *panel.Panel) { // the second oscillator goes by semitones only, and nothing tunes the whole
		p.Controls = slices.DeleteFunc(p.Controls, func(c panel.Control) bool { return c.ID == "osc2.detune" })
	}
	for _, x := range []struct {
		name, from string
		readings   map[string]string
		target     string
		change     func(p *panel.Panel)
		tuned      bool
	}{
		{"oscillators one by one", "env2", map[string]string{"env2.sustain": "100"}, "halyard", plain, true},
		{"by the master tuning", "env2", map[string]string{"env2.sustain": "100"}, "windlass", plain, true},
		{"velocity", "velocity", map[string]string{}, "windlass", plain, true},
		{"one that cannot go along", "env2", map[string]string{"env2.sustain": "100"}, "halyard", coarse, false},
		{"one that falls to nothing", "env2", map[string]string{"env2.sustain": "0"}, "halyard", plain, false},
	} {
		t.Run(x.name, func(t *testing.T) {
			src := changed(t, rack["halyard"], func(p *panel.Panel) {
				p.ID = "risen"
				p.Routes = append(p.Routes, panel.Route{ID: "rise", Label: "Rise", From: x.from, To: []string{"voice.tune"}, Depth: "90 ct", Polarity: "unipolar"})
			})
			dst := changed(t, rack[x.target], func(p *panel.Panel) { p.ID = "level"; x.change(p) })
			readings := map[string]string{"osc1.level": "100", "osc2.level": "90", "osc2.semi": "71", "env2.attack": "0", "filter.cutoff": "100"}
			for k, v := range x.readings {
				readings[k] = v
			}
			p := &patch.Patch{ID: "risen", Name: "Risen", Panel: src.ID, Kind: "lead", Tempo: 120, Layers: []patch.Layer{{Readings: readings}}}
			in, s := made(t, src, p, dst)
			moved := slices.ContainsFunc(s.Glosses, func(g gloss.Gloss) bool { return strings.Contains(g.Reason, "while a note is held") })
			if moved != x.tuned {
				t.Errorf("it is tuned: %v", moved)
			}
			there, err := src.Read(&p.Layers[0], "")
			if err != nil {
				t.Fatal(err)
			}
			wanted := src.Interpret(there, 120)
			apart := compare.Apart(heldNote(t, synth.Layer{Meaning: wanted}), heldNote(t, synth.Layer{Meaning: in.Got}), false)
			if x.tuned && apart.Pitch > 3 { // the master tuning goes by 25 ct
				t.Errorf("held notes are %.1f just-noticeable differences out of tune", apart.Pitch)
			}
			between := func(m *meaning.Meaning, a, b string) float64 {
				x, _ := m.Module(a).Get(meaning.PInterval)
				y, _ := m.Module(b).Get(meaning.PInterval)
				return y.Value - x.Value
			}
			if want, got := between(wanted, "osc1", "osc2"), between(in.Got, "osc1", "osc2"); math.Abs(want-got) > 15 {
				t.Errorf("the oscillators stand %.0f ct apart, there %.0f", got, want)
			}
			for _, step := range s.Settings { // what is tuned has a line
				c := dst.Controls[slices.IndexFunc(dst.Controls, func(c panel.Control) bool { return c.ID == step.Control })]
				pitch := slices.ContainsFunc(c.Means, func(b panel.Bind) bool {
					return slices.Contains([]string{"voice.tune", "osc1.interval", "osc2.interval"}, b.Param)
				})
				if pitch && step.Reading != step.Init && !slices.ContainsFunc(s.Glosses, func(g gloss.Gloss) bool {
					return slices.ContainsFunc(g.Target, func(r gloss.Reading) bool { return r.Control == step.Control })
				}) {
					t.Errorf("%s is set to %s, and no line says so", step.Control, step.Reading)
				}
			}
		})
	}
}
