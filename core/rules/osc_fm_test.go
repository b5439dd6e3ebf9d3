package rules

import (
	"math"
	"testing"

	"glossator/core/meaning"
)

// fmPair is a carrier that b modulates with an index of pi/2 (half of the phase's full swing at -6.02 dB), by an envelope that holds 40 % of it.
func fmPair(more ...meaning.Module) *meaning.Meaning {
	return sound(append([]meaning.Module{mod("e", meaning.Env, p{"decay": 0.2, "sustain": 0.4}),
		mod("a", meaning.Operator, p{"interval": 0.0, "output": -3.0, "wave": "sine"}), mod("b", meaning.Operator, p{"interval": 1902.0, "level": 20 * math.Log10(0.5), "wave": "sine"})}, more...),
		way("m", "b", "a.pm", 1, "bipolar"), way("l", "e", "b.level", 1, "unipolar"))
}

var (
	fmTarget = targetOf{have: map[meaning.Kind]int{meaning.Osc: 3}, params: []string{"osc.fm"}}
	fmMoved  = targetOf{have: map[meaning.Kind]int{meaning.Osc: 3}, params: []string{"osc.fm"}, moves: []string{"env osc.fm"}}
)

var _ = used(&oscFM,
	use{"the envelope moves the amount", fmMoved.case_(fmPair(), "a", "b"), figures{"a~.interval": 0, "a~.level": -3, "a~.fm": 0, "a~index": 0.5, "b~osc.interval": 1902}, []string{"a", "b"}, "a as an oscillator that b modulates, by as much as e has it"},
	// 0.5 of what it is at its most: 0.4 and a third of the rest, while a note is held
	use{"no envelope can", fmTarget.case_(fmPair(), "a", "b"), figures{"a~.fm": 0.5 * (0.4 + 0.6/3), "b~osc.interval": 1902}, []string{"a", "b"}, "by as much as while a note is held: e does not move it"},
)

// A carrier that an envelope opens is opened by it as an oscillator, too: it rests at nothing, and the envelope brings it to its level (what moves an operator's level multiplies it, what moves an
// oscillator's adds to it). At a level of its own it would sound before the envelope and after it.
func TestAModulatedOscillatorIsOpenedByItsEnvelope(t *testing.T) {
	m := fmPair(mod("e2", meaning.Env, p{"attack": 1.0, "sustain": 1.0, "release": 2.0}), mod("x", meaning.Noise, p{"level": -30.0}))
	m.Routes = append(m.Routes, way("o", "e2", "a.level", 1, "unipolar"))
	put(m.Module("a"), meaning.PLevel, -6)
	target := fmTarget
	target.moves = []string{"env osc.level"}
	tried := 0
	for _, r := range oscFM.try(target.case_(m, "a", "b")) {
		a := r.Meaning.Module("a~")
		if a == nil || a.Kind != meaning.Osc {
			continue
		}
		tried++
		if v := a.Params[meaning.PLevel]; !v.Off {
			t.Errorf("%s: it rests at %v", r.Text, v.Quantity)
		}
		for i := range r.Meaning.Routes {
			if w := &r.Meaning.Routes[i]; w.From == "e2" && math.Abs(w.Depth.Value-math.Pow(10, -9.0/20)) > 1e-9 {
				t.Errorf("%s: %s has a depth of %v, want -9 dB", r.Text, w.ID, w.Depth.Value)
			}
		}
	}
	if tried == 0 {
		t.Error("no such use")
	}
}

// What modulates is silent and stands where the carrier's neighbour is; there is no such use where the oscillators do not suffice, nothing can be modulated, or the modulator is heard itself.
func TestOscillatorsThatModulate(t *testing.T) {
	for _, r := range oscFM.try(fmMoved.case_(fmPair(), "a", "b")) {
		m := r.Meaning
		if by := m.ModulatedBy(m.Module("a~")); by != "b~osc" {
			t.Errorf("%s: %q modulates", r.Text, by)
		}
		if v := m.Module("b~osc").Params[meaning.PLevel]; !v.Off {
			t.Errorf("%s: the modulator is heard at %v", r.Text, v)
		}
	}
	heard := fmPair()
	heard.Module("b").Params[meaning.POutput] = heard.Module("a").Params[meaning.POutput]
	two := fmPair(osc("x", 0), osc("y", 0))
	for name, c := range map[string]*Case{
		"no modulation": targetOf{have: map[meaning.Kind]int{meaning.Osc: 3}}.case_(fmPair(), "a", "b"), "one oscillator": targetOf{have: map[meaning.Kind]int{meaning.Osc: 1}, params: []string{"osc.fm"}}.case_(fmPair(), "a", "b"),
		"others sound": fmTarget.case_(two, "a", "b"), "a modulator that is heard": fmTarget.case_(heard, "a", "b"),
	} {
		for _, r := range oscFM.try(c) {
			if m := r.Meaning.Module("a~"); m != nil && m.Kind == meaning.Osc {
				t.Errorf("%s: %s", name, r.Text)
			}
		}
	}
}
