package ear_test

import (
	"maps"
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/ear"
	"glossator/core/hear"
	"glossator/core/meaning"
	q "glossator/core/quantity"
	"glossator/core/synth"
	"glossator/testutil/testrack"
)

// Of every patch of the demo there is something to practise; moved by so many just-noticeable differences a part lies that far off, by the measure that the sheets use, and no other does; all sounds are as loud
// (ITU-R BS.1770), quiet, and below the ceiling.
func TestSoundsToTellApart(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	total := 0
	for _, id := range slices.Sorted(maps.Keys(patches)) {
		p := patches[id]
		layers, err := audition.Layers(rack[p.Panel], p, "")
		if err != nil {
			t.Fatal(err)
		}
		m := layers[0].Meaning
		notes, _, err := audition.Notes(p, "", 0)
		if err != nil {
			t.Fatal(err)
		}
		note := ear.Note(notes)
		parts, err := ear.Heard(m, layers[0].Transpose, note, 4, nil)
		if err != nil || len(parts) == 0 {
			t.Errorf("%s: nothing to practise: %v", id, err)
			continue
		}
		total += len(parts)
		for _, x := range parts {
			for _, up := range []bool{true, false} {
				moved, did := ear.Changed(m, x, 2, up)
				if got := math.Abs(did) / x.Differs.Size; math.Abs(got-2) > 1e-9 {
					t.Errorf("%s %s: moved by %.2f just-noticeable differences instead of 2", id, x.ID, got)
				}
				others(t, m, moved, x.ID)
			}
			moved, did := ear.Changed(m, x, x.Most, true)
			if says := ear.Says(x, did); !strings.ContainsAny(says, "+-") {
				t.Errorf("%s is said as %q", x.ID, says)
			}
			left, right, err := ear.Sound(moved, layers[0].Transpose, note)
			if err != nil {
				t.Fatal(err)
			}
			s := compare.Sketched(hear.Wave{Rate: synth.Rate, Left: left, Right: right})
			peak := 0.0
			for k := range left {
				peak = max(peak, math.Abs(left[k]), math.Abs(right[k]))
			}
			if s.Loudness > ear.Loudness+0.3 || s.Loudness < ear.Loudness-3 || 20*math.Log10(peak) > float64(ear.Peak)+1e-6 || len(left) > 3*synth.Rate {
				t.Errorf("%s %s: %.1f LUFS, peak %.1f dBFS, %d samples", id, x.ID, s.Loudness, 20*math.Log10(peak), len(left))
			}
		}
	}
	if total < 20 {
		t.Errorf("%d parts of %d patches", total, len(patches))
	}
}

// others fails where anything but one part differs between two meanings.
func others(t *testing.T, a, b *meaning.Meaning, part string) {
	t.Helper()
	n := 0
	for i := range a.Modules {
		for name, v := range a.Modules[i].Params {
			if w := b.Modules[i].Params[name]; v.Quantity != w.Quantity {
				n++
				if meaning.Ref(a.Modules[i].ID, name) != part {
					t.Errorf("%s.%s differs, not %s alone", a.Modules[i].ID, name, part)
				}
			}
		}
	}
	for i := range a.Routes {
		if a.Routes[i].Depth.Quantity != b.Routes[i].Depth.Quantity {
			n++
		}
	}
	if n != 1 {
		t.Errorf("%s: %d things differ", part, n)
	}
}

// Silence cannot be practised on, and a resonance is never moved to where a filter oscillates by itself.
func TestSafeSounds(t *testing.T) {
	m := &meaning.Meaning{Modules: []meaning.Module{{ID: "f", Kind: meaning.Filter, Label: "Filter", Params: map[meaning.ParamName]meaning.Value{meaning.PResonance: {Quantity: q.Quantity{Dim: q.DimResonance, Value: 0.85}}, meaning.PCutoff: {Quantity: q.Quantity{Dim: q.DimFrequency, Value: 500}}}}}}
	if _, _, err := ear.Sound(m, 0, nil); err == nil {
		t.Error("silence is made a sound")
	}
	found := false
	for _, x := range ear.Parts(m) {
		if x.Differs.Name != "resonance" {
			continue
		}
		found = true
		for _, up := range []bool{true, false} {
			moved, _ := ear.Changed(m, x, ear.Largest, up)
			if v := moved.Modules[0].Params[meaning.PResonance].Value; v > 0.9 || v < 0 {
				t.Errorf("a resonance of %v", v)
			}
		}
	}
	if !found {
		t.Error("a resonance is no part")
	}
}

// A sitting is made of its answers alone, asks of its parts in turn, and ends; it takes no answer after that.
func TestSittings(t *testing.T) {
	parts := []string{"a", "b", "c"}
	far := func(string) float64 { return ear.Largest }
	s, err := ear.Replay(9, parts, far, nil)
	if err != nil {
		t.Fatal(err)
	}
	asked := map[string]int{}
	for n := 0; ; n++ {
		x, ok := s.Next()
		if !ok {
			break
		}
		if x.Number != n || n > 400 {
			t.Fatal(n, x)
		}
		asked[x.Part]++
		s.Answer(ear.Answer{Right: x.Size > 1 || n%3 == 0, Named: parts[n%2]})
	}
	again, err := ear.Replay(9, parts, far, s.Answers)
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range parts {
		a, _ := s.Stair(p).Threshold()
		b, ok := again.Stair(p).Threshold()
		if !ok || a != b || asked[p] < 14 || a.Size < 0.4 || a.Size > 2 {
			t.Errorf("%s: %+v, %+v after %d", p, a, b, asked[p])
		}
	}
	if right, of := again.Named("a"); of == 0 || right > of {
		t.Error(right, of)
	}
	if again.Answer(ear.Answer{}) {
		t.Error("an answer after the end is taken")
	}
	if _, err := ear.Replay(9, parts, far, append(s.Answers, ear.Answer{})); err == nil {
		t.Error("too many answers are taken")
	}
	if _, err := ear.Replay(9, nil, far, nil); err == nil {
		t.Error("a sitting without parts")
	}
}
