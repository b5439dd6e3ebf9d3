package build_test

import (
	"slices"
	"strings"
	"testing"

	"glossator/core/audition"
	"glossator/core/build"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/phrase"
	"glossator/core/plan"
	"glossator/core/refine"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/testutil/instruments"
	"glossator/testutil/testrack"
)

// No patch on an instrument that has been begun falls silent on another one, as somebody would enter them: the render is asked, not the audit.
func TestNothingThatIsBegunFallsSilent(t *testing.T) {
	rack := testrack.Panels(t)
	var targets []*panel.Compiled
	for _, id := range testrack.IDs(rack) {
		targets = append(targets, rack[id])
	}
	sources := begun(t)
	targets = append(targets, sources...)
	heard := 0
	for k, src := range sources {
		for j, dst := range targets {
			if dst.ID == src.ID {
				continue
			}
			p := instruments.Patch(src, uint64(k+j)%5)
			source, err := audition.Layers(src, p, "")
			if err != nil {
				t.Fatal(err)
			}
			notes, play := []phrase.Note{{End: 1, Key: 48, Velocity: 100}}, refine.Hear(p.Wheel)
			a, err := play.Take(source[:1], notes, 0, 2)
			if err != nil {
				t.Fatal(err)
			}
			if a.Loudness < -55 {
				continue
			}
			s, err := translate.Translate(src, p, dst, translate.Options{School: plan.Numbers})
			if err != nil {
				t.Fatal(err)
			}
			y, err := audition.Target(dst, p, s)
			if err != nil {
				t.Fatal(err)
			}
			b, err := play.Take([]synth.Layer{y}, notes, 0, 2)
			if err != nil {
				t.Fatal(err)
			}
			if heard++; b.Loudness < -65 {
				t.Errorf("%s, seed %d, on %s: %.0f LUFS, its source %.0f", src.ID, (k+j)%5, dst.ID, b.Loudness, a.Loudness)
			}
		}
	}
	if heard < 40 {
		t.Errorf("only %d sounds were heard", heard)
	}
}

// Operators that are wired on and have no control for how loud they come out sound at full; those that are wired nowhere only modulate.
func TestOperatorsWithoutAnOutputSound(t *testing.T) {
	p, err := build.Begin("operators", "mine", "Mine", "")
	if err != nil {
		t.Fatal(err)
	}
	p.Controls = slices.DeleteFunc(p.Controls, func(c panel.Control) bool {
		return len(c.Means) > 0 && strings.HasSuffix(c.Means[0].Param, ".output")
	})
	wired := slices.Clone(p.Audio)
	for _, x := range []struct {
		audio []panel.Edge
		heard bool
	}{{wired, true}, {slices.DeleteFunc(slices.Clone(wired), func(e panel.Edge) bool { return strings.HasPrefix(e.From, "operator") && e.From != "operator1" }), true}} {
		p.Audio = x.audio
		c, err := panel.Compile(p)
		if err != nil {
			t.Fatal(err)
		}
		if top := peak(played(t, c, nil)); top > 0.02 != x.heard {
			t.Errorf("with %d wires it has a peak of %.3f", len(x.audio), top)
		}
		m := c.Interpret(c.InitState(), 0)
		for i := range m.Modules {
			d := &m.Modules[i]
			on := slices.ContainsFunc(x.audio, func(e panel.Edge) bool { return e.From == d.ID })
			if v, ok := d.Params[meaning.POutput]; d.Kind == meaning.Operator && (ok != on || ok && (v.Off || v.Value != 0)) {
				t.Errorf("with %d wires %s has an output of %v, %v", len(x.audio), d.ID, v, ok)
			}
		}
	}
}
