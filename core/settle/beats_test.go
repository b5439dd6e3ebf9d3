package settle_test

import (
	"encoding/json"
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// oneTuned is Kedge with a first oscillator that plays pulses alone and a second that plays saws alone: a detuned pulse can only go to the one that has no fine tuning. Without the control
// that tunes the whole, nothing can tune that back.
func oneTuned(t *testing.T, rack map[string]*panel.Compiled, whole bool) *panel.Compiled {
	t.Helper()
	var p panel.Panel
	b, err := json.Marshal(rack["kedge"].Panel)
	if err == nil {
		err = json.Unmarshal(b, &p)
	}
	if err != nil {
		t.Fatal(err)
	}
	p.ID = "one-tuned"
	p.Controls = slices.DeleteFunc(p.Controls, func(c panel.Control) bool {
		return c.ID == "osc1.wave" || c.ID == "osc2.wave" || c.ID == "osc2.width" || c.ID == "tune" && !whole
	})
	for i := range p.Controls {
		for k := range p.Controls[i].Means {
			p.Controls[i].Means[k].When = nil
		}
	}
	for i := range p.Modules {
		if m := &p.Modules[i]; m.ID == "osc1" || m.ID == "osc2" {
			if m.Fixed == nil {
				m.Fixed = map[meaning.ParamName]string{}
			}
			m.Fixed[meaning.PWave] = map[string]string{"osc1": "pulse", "osc2": "saw"}[m.ID]
		}
	}
	for i := range p.Routes {
		r := &p.Routes[i]
		r.To = slices.DeleteFunc(r.To, func(to string) bool { return to == "osc2.width" })
	}
	for i := range p.Points {
		p.Points[i].To = slices.DeleteFunc(p.Points[i].To, func(to string) bool { return to == "osc2.width" })
	}
	c, err := panel.Compile(&p)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// A detuning is kept by the oscillator that can be moved, whichever was moved there. The controls as they are read back tell the interval, and the sound tells how much it moves: against the same sheet
// with the oscillators left in tune.
func TestDetuningIsKeptByWhatCanBeTuned(t *testing.T) {
	rack := testrack.Panels(t)
	keel := testrack.Patches(t)["keel"]
	src := rack[keel.Panel]
	from, err := src.Read(&keel.Layers[0], "")
	if err != nil {
		t.Fatal(err)
	}
	there := src.Interpret(from, 96)
	wanted := cents(there, "osc2", meaning.PInterval) - cents(there, "osc1", meaning.PInterval)
	for _, whole := range []bool{true, false} {
		c := oneTuned(t, rack, whole)
		for _, school := range []plan.School{plan.Numbers, plan.Feel} {
			s, err := translate.Translate(src, keel, c, translate.Options{School: school})
			if err != nil {
				t.Fatal(err)
			}
			at := map[string]string{}
			for _, x := range s.Settings {
				at[x.Control] = x.Reading
			}
			st, err := c.Read(&patch.Layer{ID: "a", Readings: at}, "")
			if err != nil {
				t.Fatal(err)
			}
			here := c.Interpret(st, 96)
			pulse, saw := cents(here, "osc1", meaning.PInterval), cents(here, "osc2", meaning.PInterval)
			if apart := math.Abs(pulse - saw); math.Abs(apart-math.Abs(wanted)) > 8 {
				t.Errorf("%s, whole can be tuned: %v: %.1f ct apart, wanted %.1f", school, whole, pulse-saw, wanted)
			}
			// tuned as a whole: what the two have in the middle is where it was
			middle := (pulse+saw)/2 + cents(here, "voice", meaning.PTune)
			if want := (cents(there, "osc1", meaning.PInterval) + cents(there, "osc2", meaning.PInterval)) / 2; math.Abs(middle-want) > 8 {
				t.Errorf("%s, whole can be tuned: %v: the pair stands at %.1f ct, wanted %.1f", school, whole, middle, want)
			}
			told := slices.ContainsFunc(s.Glosses, func(g gloss.Gloss) bool { return strings.Contains(g.Reason, "moved against it") })
			if !told {
				t.Errorf("%s: no line says what was moved", school)
			}
			// heard without the envelope, and against the same with the oscillators left in tune
			at["lowpass.amount"], at["lowpass.cutoff"], at["att"] = "12:00", "20 kHz", "7:00"
			kept := swells(t, c, at)
			if at["osc2.tune"] = "12:00"; whole {
				at["tune"] = "12:00"
			}
			if left := swells(t, c, at); kept < 6 || left > 3 {
				t.Errorf("%s, whole can be tuned: %v: the fundamental swells by %.1f dB, by %.1f dB where the two are left in tune", school, whole, kept, left)
			}
		}
	}
}

// swells gives by how many decibels the fundamental of a held A1 comes and goes, in windows of a fifth of a second.
func swells(t *testing.T, c *panel.Compiled, at map[string]string) float64 {
	t.Helper()
	st, err := c.Read(&patch.Layer{ID: "a", Readings: at}, "")
	if err != nil {
		t.Fatal(err)
	}
	x, err := synth.Render([]synth.Layer{{Meaning: c.Interpret(st, 96)}}, []phrase.Note{{End: 2.8, Key: 45, Velocity: 100}}, synth.Options{Seed: 3, Raw: true})
	if err != nil {
		t.Fatal(err)
	}
	least, most := math.Inf(1), 0.0
	const window = synth.Rate / 5
	for from := window; from+window < 5*synth.Rate/2; from += window / 4 {
		a, b := 0.0, 0.0
		for k := range window {
			w := 1 - math.Cos(2*math.Pi*float64(k)/window)
			p := 2 * math.Pi * 55 * float64(k) / synth.Rate
			a, b = a+w*x.Left[from+k]*math.Cos(p), b+w*x.Left[from+k]*math.Sin(p)
		}
		least, most = math.Min(least, math.Hypot(a, b)), math.Max(most, math.Hypot(a, b))
	}
	return 20 * math.Log10(most/least)
}

func cents(m *meaning.Meaning, id string, name meaning.ParamName) float64 {
	d := m.Module(id)
	if d == nil {
		return 0
	}
	v, _ := d.Get(name)
	return v.Value
}
