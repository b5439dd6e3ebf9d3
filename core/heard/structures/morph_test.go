package structures

import (
	"encoding/json"
	"fmt"
	"slices"
	"testing"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/scale"
	"glossator/testutil/hearing"
	"glossator/testutil/testrack"
)

// kedgeWith is Kedge with something changed, under another id.
func kedgeWith(t *testing.T, id string, change func(p *panel.Panel)) *panel.Compiled {
	t.Helper()
	var p panel.Panel
	b, err := json.Marshal(testrack.Panels(t)["kedge"].Panel)
	if err == nil {
		err = json.Unmarshal(b, &p)
	}
	if err != nil {
		t.Fatal(err)
	}
	p.ID = id
	change(&p)
	c, err := panel.Compile(&p)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// withFilter is Kedge with a filter of two poles of one kind in the place of its low-pass, or one that goes from low-pass over band-pass to high-pass by a knob.
func withFilter(t *testing.T, mode string) *panel.Compiled {
	return kedgeWith(t, "of-"+mode, func(p *panel.Panel) {
		i := slices.IndexFunc(p.Modules, func(m panel.Module) bool { return m.ID == "lowpass" })
		if p.Modules[i].Fixed == nil {
			p.Modules[i].Fixed = map[meaning.ParamName]string{}
		}
		p.Modules[i].Fixed[meaning.PMode], p.Modules[i].Fixed[meaning.PPoles] = mode, "2"
		if mode == "morph" {
			p.Controls = append(p.Controls, panel.Control{ID: "morph", Label: "Morph", Section: "filter", Face: scale.Face{Kind: scale.Numeric, Max: 100, Step: 1}, Init: "0",
				Means: []panel.Bind{{Param: "lowpass.morph", Law: scale.Law{Kind: scale.Linear, Unit: "%", Max: 100, Source: scale.Stated}}}})
		}
	})
}

// An envelope that falls at once goes to one in stages whose second decay cannot be taken away, and back: it breaks where the one stops. The renders are the witness: before, it stood at its break until the second
// decay had it gone in a thousandth of a second.
func TestOneFallInStages(t *testing.T) {
	plain := testrack.Panels(t)["kedge"]
	staged := kedgeWith(t, "in-stages", func(p *panel.Panel) {
		p.Controls = append(p.Controls,
			panel.Control{ID: "env.break", Label: "Break", Section: "env", Face: scale.Face{Kind: scale.Numeric, Max: 100, Step: 1}, Init: "99", Means: []panel.Bind{{Param: "env.break", Law: scale.Law{Kind: scale.Linear, Unit: "%", Max: 100, Source: scale.Stated}}}},
			panel.Control{ID: "env.fall", Label: "Second decay", Section: "env", Face: scale.Face{Kind: scale.Numeric, Max: 100, Step: 1}, Init: "50", Means: []panel.Bind{{Param: "env.decay2", Law: scale.Law{Kind: scale.Exponential, Unit: "s", Min: 0.001, Max: 20, Source: scale.Stated}}}})
	})
	for _, sustain := range []string{"7:00", "9:00", "12:00", "17:00"} {
		p := &patch.Patch{Format: patch.Format, Version: patch.Version, ID: "falls", Name: "falls", Panel: plain.ID, PanelRevision: plain.Revision, Kind: "pluck", Tempo: 120,
			Layers: []patch.Layer{{ID: "a", Readings: map[string]string{"osc1.wave": "saw", "mix.osc1": "14:00", "lowpass.cutoff": "600 Hz", "lowpass.amount": "14:00", "env.decay": "13:00", "env.sustain": sustain}}},
			Phrase: &patch.Phrase{Notes: []patch.PhraseNote{{At: "0", For: "1/2", Note: "A2", Velocity: 100}, {At: "1/2", For: "1/2", Note: "E3", Velocity: 100}}}}
		_, s, r := hearing.Listen(t, plain, p, staged, plan.Numbers, false)
		if x := hearing.Check(r, "I8"); r.Apart.Total > 1 || r.Silent != "" || x == nil || !x.OK {
			t.Errorf("sustain at %s: %+v, silent: %q, %+v", sustain, r.Apart, r.Silent, x)
		}
		back := *p
		back.Panel, back.PanelRevision, back.Layers = staged.ID, staged.Revision, []patch.Layer{{ID: "a", Readings: map[string]string{}}}
		for _, x := range s.Settings {
			back.Layers[0].Readings[x.Control] = x.Reading
		}
		if _, _, r := hearing.Listen(t, staged, &back, plain, plan.Numbers, false); r.Apart.Total > 2 || r.Silent != "" {
			t.Errorf("back, sustain at %s: %+v, silent: %q", sustain, r.Apart, r.Silent)
		}
	}
}

// A filter of one kind goes to one that morphs, at the place where that one is of its kind, and back: nothing is left out, and the two sound alike. The renders are the witness: before, all of the filter was lost.
func TestMorphAtItsPlaces(t *testing.T) {
	morphing := withFilter(t, "morph")
	for mode, at := range meaning.MorphPlaces {
		plain := withFilter(t, mode)
		p := &patch.Patch{Format: patch.Format, Version: patch.Version, ID: "swept", Name: "swept", Panel: plain.ID, PanelRevision: 1, Kind: "bass", Tempo: 120,
			Layers: []patch.Layer{{ID: "a", Readings: map[string]string{"osc1.wave": "saw", "mix.osc1": "14:00", "lowpass.cutoff": "600 Hz", "lowpass.resonance": "11:00", "lowpass.amount": "14:00", "lowpass.track": "half", "amp.by": "gate", "env.decay": "13:00", "env.sustain": "9:00"}}},
			Phrase: &patch.Phrase{Notes: []patch.PhraseNote{{At: "0", For: "1/4", Note: "A2", Velocity: 100}, {At: "1/4", For: "1/4", Note: "E3", Velocity: 100}}}}
		there, _, r := hearing.Listen(t, plain, p, morphing, plan.Numbers, false)
		if r.Apart.Total > 1 || r.Silent != "" {
			t.Errorf("%s by a morph: %+v, silent: %q", mode, r.Apart, r.Silent)
		}
		if v, _ := there.Got.Module("lowpass").Get(meaning.PMorph); v.Value != at {
			t.Errorf("%s: the morph is at %v, want %v", mode, v.Value, at)
		}
		back := *p
		back.Panel, back.Layers = morphing.ID, []patch.Layer{{ID: "a", Readings: map[string]string{"morph": fmt.Sprint(100 * at)}}}
		for id, x := range p.Layers[0].Readings {
			back.Layers[0].Readings[id] = x
		}
		_, s, r := hearing.Listen(t, morphing, &back, plain, plan.Numbers, false)
		if r.Apart.Total > 1 || r.Silent != "" || s.Summary["left out"] > 0 {
			t.Errorf("a morph by a %s: %+v, silent: %q, %v", mode, r.Apart, r.Silent, s.Summary)
		}
		for other := range meaning.MorphPlaces {
			if _, _, r := hearing.Listen(t, plain, p, withFilter(t, other), plan.Numbers, false); other != mode && r.Apart.Total < 2 {
				t.Errorf("a %s is %.1f from a %s: the test tells nothing", other, r.Apart.Total, mode)
			}
		}
	}
}
