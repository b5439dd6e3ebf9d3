package build_test

import (
	"math"
	"strings"
	"testing"

	"glossator/core/audition"
	"glossator/core/build"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	"glossator/core/synth"
	"glossator/testutil/hearing"
	"glossator/testutil/testrack"
)

// played renders a note of a panel with some readings.
func played(t *testing.T, c *panel.Compiled, readings map[string]string) []float64 {
	t.Helper()
	p := &patch.Patch{ID: "p", Name: "P", Panel: c.ID, Kind: "lead", Layers: []patch.Layer{{ID: "a", Readings: readings}}}
	layers, err := audition.Layers(c, p, "a")
	if err != nil {
		t.Fatal(err)
	}
	s, err := synth.Render(layers, []phrase.Note{{End: 0.4, Key: 57, Velocity: 100}}, synth.Options{Seed: 1, Tail: 0.5, Raw: true})
	if err != nil {
		t.Fatal(err)
	}
	return s.Left
}

func peak(x []float64) float64 {
	top := 0.0
	for _, v := range x {
		top = max(top, math.Abs(v))
	}
	return top
}

// begun are the starting points that sound, as they stand.
func begun(t *testing.T) (out []*panel.Compiled) {
	t.Helper()
	for _, s := range build.Starts {
		if s.ID == "rack" {
			continue
		}
		p, err := build.Begin(s.ID, "begun-"+s.ID, s.Label, "")
		if err != nil {
			t.Fatal(err)
		}
		c, err := panel.Compile(p)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, c)
	}
	return out
}

// The second witness of a starting point: it sounds as it stands at init, and what its main controls do is heard when they are moved to the other end.
func TestStartsAreHeard(t *testing.T) {
	for _, c := range begun(t) {
		at := played(t, c, nil)
		if db := 20 * math.Log10(peak(at)+1e-12); db < -30 || db > 6 {
			t.Errorf("%s: a note at init has a peak of %.1f dB", c.ID, db)
		}
		moved := 0
		for i := range c.Controls {
			k := &c.Controls[i]
			param := ""
			if len(k.Means) > 0 {
				param = k.Means[0].Param
			}
			must := false
			for _, end := range []string{"filter.cutoff", "osc.wave", "osc1.wave", "oscillator-1.frame", "osc1.interval", "osc.interval", "operator-1.interval", "tone-1.wave", "amp.level", "amplifier-envelope.attack", "env.attack", "lfo-tune.depth", "lfo-cutoff.depth", "operator1.interval", "operator2-pm.depth"} {
				must = must || param == end
			}
			if !must {
				continue
			}
			f := &k.Face
			to := f.At(0)
			if c.Init(i).Travel < 0.5 {
				to = f.At(f.Len() - 1)
			}
			now := played(t, c, map[string]string{k.ID: to.Reading})
			diff := 0.0
			for n := range min(len(now), len(at)) {
				diff = max(diff, math.Abs(now[n]-at[n]))
			}
			if diff < 1e-3 {
				t.Errorf("%s: %s (%s) at %s changes nothing that is heard", c.ID, k.Label, param, to.Reading)
			}
			moved++
		}
		if moved < 4 {
			t.Errorf("%s: only %d controls were moved", c.ID, moved)
		}
	}
}

// A patch on an instrument that was described by blocks is translated, audited and heard as any other; and the other way, a demo patch onto it.
func TestBuiltInstrumentsTranslate(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	for _, id := range []string{"mono", "poly"} {
		c, err := panel.Compile(began(t, id))
		if err != nil {
			t.Fatal(err)
		}
		p := &patch.Patch{ID: "p", Name: "P", Panel: c.ID, Kind: "lead", Layers: []patch.Layer{{ID: "a"}}}
		p.Layers[0].Readings = map[string]string{}
		_, s, r := hearing.Listen(t, c, p, rack["halyard"], plan.Numbers, false)
		if r.Silent != "" || !s.Clean() {
			t.Errorf("%s onto Halyard: silent %q, audit %+v", id, r.Silent, s.Audit)
		}
		_, s, r = hearing.Listen(t, rack["windlass"], patches["keel"], c, plan.Numbers, false)
		if r.Silent != "" || strings.Contains(r.Headline, "cannot be heard") || !s.Clean() {
			t.Errorf("Keel onto %s: silent %q, %s", id, r.Silent, r.Headline)
		}
	}
}
