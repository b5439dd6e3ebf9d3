package compare_test

import (
	"fmt"
	"math"
	"reflect"
	"testing"

	"glossator/core/compare"
	"glossator/core/hear"
	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/core/synth"
)

// sound is a small patch with things to change.
type sound struct{ cutoff, detune, decay, level, res, pitch, rate float64 }

var plain = sound{cutoff: 800, detune: 8, decay: 0.5, level: -3, res: 0.2, rate: 0}

func (s sound) wave(t testing.TB, seed uint64) hear.Wave {
	t.Helper()
	num := func(d q.Dim, x float64) meaning.Value { return meaning.Value{Quantity: q.Quantity{Dim: d, Value: x}} }
	word := func(d q.Dim, x string) meaning.Value { return meaning.Value{Quantity: q.Named(d, x)} }
	osc := func(id string, cents float64) meaning.Module {
		return meaning.Module{ID: id, Kind: meaning.Osc, Label: id, Params: map[meaning.ParamName]meaning.Value{"wave": word(q.DimWave, "saw"), "interval": num(q.DimInterval, cents+s.pitch), "level": num(q.DimLevel, -6)}}
	}
	m := &meaning.Meaning{Tempo: 120,
		Modules: []meaning.Module{osc("o1", 0), osc("o2", s.detune),
			{ID: "f", Kind: meaning.Filter, Params: map[meaning.ParamName]meaning.Value{"mode": word(q.DimName, "lowpass"), "poles": num(q.DimCount, 4), "cutoff": num(q.DimFrequency, s.cutoff), "resonance": num(q.DimResonance, s.res)}},
			{ID: "e", Kind: meaning.Env, Params: map[meaning.ParamName]meaning.Value{"attack": num(q.DimDuration, 0.005), "decay": num(q.DimDuration, s.decay), "sustain": num(q.DimRatio, 0.3), "release": num(q.DimDuration, 0.2)}},
			{ID: "a", Kind: meaning.Amp, Params: map[meaning.ParamName]meaning.Value{"level": num(q.DimLevel, s.level)}}},
		Routes: []meaning.Route{{ID: "r", From: "e", To: []string{"a.level"}, Depth: num(q.DimRatio, 1), Polarity: "unipolar"}},
		Audio:  []meaning.Edge{{From: "o1", To: "f"}, {From: "o2", To: "f"}, {From: "f", To: "a"}}}
	r, err := synth.Render([]synth.Layer{{Meaning: m}}, []phrase.Note{{Start: 0, End: 2, Key: 45, Velocity: 100}}, synth.Options{Seed: seed})
	if err != nil {
		t.Fatal(err)
	}
	return hear.Wave{Rate: synth.Rate, Left: r.Left, Right: r.Right}
}

// seeds are those of the renderings whose mean is compared.
var seeds = []uint64{0, 1, 2, 3, 4}

func (s sound) sketch(t testing.TB, seeds ...uint64) *compare.Sketch {
	var waves []hear.Wave
	for _, seed := range seeds {
		waves = append(waves, s.wave(t, seed))
	}
	return compare.Sketched(waves...)
}

func apart(t testing.TB, a, b sound) compare.Distance {
	return compare.Apart(a.sketch(t, seeds...), b.sketch(t, seeds...), false)
}

// The same sound has a distance of nothing, whichever is asked, and errors weigh more the larger they are.
func TestDistanceGrowsWithErrors(t *testing.T) {
	if d := apart(t, plain, plain); d.Total != 0 {
		t.Errorf("the same sound is %+v from itself", d)
	}
	for _, x := range []struct {
		name   string
		change func(s *sound, by float64)
		steps  []float64
	}{
		{"cutoff, in semitones", func(s *sound, by float64) { s.cutoff *= math.Exp2(by / 12) }, []float64{0.1, 0.5, 1, 2, 4, 8, 16}},
		{"cutoff down", func(s *sound, by float64) { s.cutoff *= math.Exp2(-by / 12) }, []float64{0.1, 0.5, 1, 2, 4, 8, 16}},
		{"detune, in cents more", func(s *sound, by float64) { s.detune += by }, []float64{0.5, 2, 4, 8, 16}},
		{"decay, in ratios", func(s *sound, by float64) { s.decay *= by }, []float64{1.02, 1.1, 1.3, 1.7, 2.5}},
		{"decay shorter", func(s *sound, by float64) { s.decay /= by }, []float64{1.02, 1.1, 1.3, 1.7, 2.5, 5}},
		{"level, in decibels", func(s *sound, by float64) { s.level -= by }, []float64{0.1, 0.5, 1, 3, 6, 12}},
		{"pitch, in cents", func(s *sound, by float64) { s.pitch += by }, []float64{1, 3, 10, 30, 100}},
		{"resonance", func(s *sound, by float64) { s.res += by }, []float64{0.02, 0.1, 0.3, 0.6}},
	} {
		last := 0.0
		for _, by := range x.steps {
			s := plain
			x.change(&s, by)
			d := apart(t, plain, s)
			if d.Total <= last {
				t.Errorf("%s: a change by %v is %.3f away, a smaller one %.3f: %+v", x.name, by, d.Total, last, d)
			}
			last = d.Total
		}
	}
}

// One audible step counts for more than an inaudible one, for every pair of kinds of change.
func TestAudibleStepsCountForMore(t *testing.T) {
	heard, unheard := map[string]float64{}, map[string]float64{}
	with := func(change func(s *sound)) float64 {
		s := plain
		change(&s)
		return apart(t, plain, s).Total
	}
	// two just-noticeable differences (Zwicker & Fastl, from memory: level 1 dB, duration 10 %, 5 ct; cutoff
	// about a semitone, common practice, no source) against a quarter of one
	for name, two := range map[string]func(s *sound, n float64){
		"level":  func(s *sound, n float64) { s.level -= n },
		"decay":  func(s *sound, n float64) { s.decay *= 1 + 0.1*n },
		"cutoff": func(s *sound, n float64) { s.cutoff *= math.Exp2(n / 12) },
		"pitch":  func(s *sound, n float64) { s.pitch += 5 * n },
	} {
		heard[name] = with(func(s *sound) { two(s, 2) })
		unheard[name] = with(func(s *sound) { two(s, 0.25) })
	}
	for a, x := range heard {
		for b, y := range unheard {
			if x <= y {
				t.Errorf("two steps of %s are %.3f away, a quarter of one of %s %.3f", a, x, b, y)
			}
		}
	}
}

// Another seed moves phases, not the sound: it is nearer than any change that is heard.
func TestPhasesHardlyCount(t *testing.T) {
	d := compare.Apart(compare.Sketched(plain.wave(t, 1)), compare.Sketched(plain.wave(t, 2)), false)
	louder := plain
	louder.cutoff *= 1.5
	if far := apart(t, plain, louder); d.Total >= far.Total {
		t.Errorf("other phases are %.2f away (%+v), a cutoff half as high again %.2f", d.Total, d, far.Total)
	}
}

// A sound that begins later is shifted back, and the table gives what it differs in.
func TestTableAndShift(t *testing.T) {
	a := plain.wave(t, 1)
	other := plain
	other.level -= 4
	other.pitch = 20
	b := other.wave(t, 1)
	late := hear.Wave{Rate: b.Rate, Left: append(make([]float64, 9600), b.Left...), Right: append(make([]float64, 9600), b.Right...)}
	d := compare.Apart(compare.Sketched(a), compare.Sketched(late), true)
	if math.Abs(d.Shift-0.2) > 0.025 {
		t.Errorf("shifted by %.3f s, want 0.2", d.Shift)
	}
	if math.Abs(d.Gain-4) > 0.3 {
		t.Errorf("made louder by %.2f dB, want 4", d.Gain)
	}
	rows := map[string]compare.Contrast{}
	for _, r := range compare.Table(a, b, compare.Times{Off: 2}) {
		rows[r.Label] = r
	}
	if r := rows["loudness"]; !r.Known || math.Abs(r.Diff+4) > 0.1 || math.Abs(r.JNDs-4) > 0.1 {
		t.Errorf("loudness: %+v", r)
	}
	for _, what := range []string{"loudness", "pitch"} {
		if !rows[what].Sure {
			t.Errorf("%s: %+v is not sure", what, rows[what])
		}
	}
	for _, r := range compare.Table(a, a, compare.Times{Off: 0.5}) {
		if r.Sure || r.JNDs != 0 {
			t.Errorf("a sound beside itself: %+v", r)
		}
	}
	if r := rows["pitch"]; !r.Known || math.Abs(r.Diff-20) > 1 || r.Unit != "ct" {
		t.Errorf("pitch: %+v", r)
	}
	silent := hear.Wave{Rate: 48000, Left: make([]float64, 48000)}
	for _, r := range compare.Table(a, silent, compare.Times{Off: 0}) {
		if r.Known {
			t.Errorf("%s is known of silence: %+v", r.Label, r)
		}
	}
	if d := compare.Apart(compare.Sketched(a), compare.Sketched(silent), false); d.Total < 20 {
		t.Errorf("silence is only %.1f away", d.Total)
	}
}

// On two goroutines the sketch is the same, to the last bit.
func TestSketchByTwo(t *testing.T) {
	w := plain.wave(t, 1)
	silent := hear.Wave{Rate: 48000, Left: make([]float64, 30000)}
	for _, x := range []hear.Wave{w, {Rate: w.Rate, Left: w.Left}, {Rate: 44100, Left: w.Left, Right: w.Right}, silent, {Rate: 48000, Left: w.Left[:700]}} {
		if one, two := compare.Sketched(x), compare.SketchedBy(2, x); !reflect.DeepEqual(fmt.Sprintf("%+v", one), fmt.Sprintf("%+v", two)) {
			t.Errorf("%d samples at %v Hz: on one goroutine %d frames and %.3f LUFS, on two %d and %.3f, or what hangs on them differs", len(x.Left), x.Rate, len(one.Levels), one.Loudness, len(two.Levels), two.Loudness)
		}
	}
}

// A silent stretch before a sound is as many frames longer, and moves nothing else.
func TestSketchOfALaterSound(t *testing.T) {
	w := plain.wave(t, 1)
	const late = 8
	hop := int(compare.Sketched(w).Hop * w.Rate)
	after := hear.Wave{Rate: w.Rate, Left: append(make([]float64, late*hop), w.Left...), Right: append(make([]float64, late*hop), w.Right...)}
	a, b := compare.Sketched(w), compare.Sketched(after)
	if len(b.Levels) != len(a.Levels)+late || math.Abs(a.Loudness-b.Loudness) > 0.01 {
		t.Fatalf("%d frames and %.2f LUFS, later %d and %.2f", len(a.Levels), a.Loudness, len(b.Levels), b.Loudness)
	}
	for i, list := range a.Levels {
		for k, x := range list {
			if y := b.Levels[i+late][k]; math.Abs(x-y) > 1e-6 && x > -120 {
				t.Fatalf("frame %d, band %d: %.4f dB, later %.4f", i, k, x, y)
			}
		}
	}
}

func BenchmarkSketch(b *testing.B) {
	w := plain.wave(b, 1)
	for b.Loop() {
		compare.Sketched(w)
	}
}

// Two renderings of one phrase that differ in which note is loudest are in tune; one that is 30 ct off is out of tune by that at every
// note; a phrase of other notes is not.
func TestPitchAtTheSamePlaces(t *testing.T) {
	const rate = 48000
	phrase := func(cents float64, loud int, keys ...float64) hear.Wave {
		n := int(0.4 * rate)
		x := make([]float64, n*len(keys))
		for i, key := range keys {
			f := 440 * math.Exp2((key-69)/12+cents/1200)
			g := 0.2
			if i == loud {
				g = 0.5
			}
			for k := range n {
				edge := math.Min(1, math.Min(float64(k), float64(n-k))/480)
				for h := 1; h <= 8; h++ {
					x[i*n+k] += g * edge * math.Sin(2*math.Pi*f*float64(h)*float64(k)/rate) / float64(h)
				}
			}
		}
		return hear.Wave{Rate: rate, Left: x, Right: x}
	}
	sketch := func(cents float64, loud int, keys ...float64) *compare.Sketch {
		return compare.Sketched(phrase(cents, loud, keys...))
	}
	one := sketch(0, 0, 57, 61, 64, 59, 62)
	if d := compare.Apart(one, sketch(0, 3, 57, 61, 64, 59, 62), false); d.Pitch > 0.3 {
		t.Errorf("another note louder: %.2f just-noticeable differences out of tune", d.Pitch)
	}
	if d := compare.Apart(one, sketch(30, 2, 57, 61, 64, 59, 62), false); math.Abs(d.Pitch-6) > 0.7 {
		t.Errorf("30 ct off: %.2f just-noticeable differences, want 6", d.Pitch)
	}
	if d := compare.Apart(one, sketch(0, 0, 58, 62, 65, 60, 63), false); d.Pitch < 15 {
		t.Errorf("a semitone off: %.2f just-noticeable differences", d.Pitch)
	}
	// octaves up and down are as far as can be
	for _, by := range []float64{-12, 12, 24} {
		if d := compare.Apart(one, sketch(0, 0, 57+by, 61+by, 64+by, 59+by, 62+by), false); d.Pitch < 19 {
			t.Errorf("%+v st: pitch %.2f", by, d.Pitch)
		}
	}
}

// In a phrase the attack is the first note's, and pitch, decay and release are the last one's, on both sides: which note happens to be the
// loudest does not matter. With one note, or times that are not known, all is of the whole.
func TestTableOfAPhrase(t *testing.T) {
	const rate = 48000.0
	phrase := func(loud int) hear.Wave { // three plucks of 220, 330 and 440 Hz, one of them louder
		x := make([]float64, 2*rate)
		for n, f := range []float64{220, 330, 440} {
			g := 0.2
			if n == loud {
				g = 0.4
			}
			from := int(float64(n) * 0.5 * rate)
			for k := from; k < len(x); k++ {
				s := float64(k-from) / rate
				for h := 1.0; h <= 6; h++ {
					x[k] += g / h * min(1, s/0.01) * math.Exp(-s/0.06) * math.Sin(2*math.Pi*f*h*s)
				}
			}
		}
		return hear.Wave{Rate: rate, Left: x}
	}
	times := compare.Times{Off: 1.9, Second: 0.5, Last: 1}
	rows := map[string]compare.Contrast{}
	for _, r := range compare.Table(phrase(0), phrase(2), times) {
		rows[r.Label] = r
	}
	for label, want := range map[string]struct {
		of    string
		value float64
	}{"pitch": {"last", 440}, "attack (10-90 %)": {"first", 0.008}, "decay to 90 %": {"last", 0.06 * math.Ln10}} {
		r := rows[label]
		if !r.Known || r.Of != want.of || math.Abs(r.A.Value/want.value-1) > 0.3 || r.JNDs > 1.5 {
			t.Errorf("%s: %+v, want %v of the %s note on both sides", label, r, want.value, want.of)
		}
	}
	if r := rows["peak"]; r.Of != "" {
		t.Errorf("the peak is of %q", r.Of)
	}
	for _, r := range compare.Table(phrase(0), phrase(2), compare.Times{Off: 1.9}) {
		if r.Of != "" {
			t.Errorf("%s is of %q where nothing is known of notes", r.Label, r.Of)
		}
		if r.Label == "pitch" && r.Known && r.JNDs < 10 {
			t.Errorf("without times the loudest notes are compared: %+v", r)
		}
	}
}

// The loudness of a sketch is that of hear (ITU-R BS.1770 by filters over time, held against an implementation from outside in its own tests) to a
// quarter of a decibel: one is taken from spectra, the other from samples.
func TestLoudnessByTwoWays(t *testing.T) {
	for _, s := range []sound{plain, {cutoff: 200, decay: 0.1, level: -12, res: 0.7}, {cutoff: 6000, decay: 2, level: 0, detune: 30}} {
		w := s.wave(t, 3)
		want, ok := hear.Loudness(w)
		if got := compare.Sketched(w).Loudness; !ok || math.Abs(got-want) > 0.3 {
			t.Errorf("%+v: %.2f LUFS, want %.2f", s, got, want)
		}
	}
}

// Where a beat stands, which channel is the louder at equal loudness, whether one is upside down, and whether there are one or two of the same do not
// count; and of other seeds no more is left than is heard.
func TestWhatDoesNotCount(t *testing.T) {
	for name, s := range map[string]sound{"slow beat": {cutoff: 800, detune: 3, decay: 0.5, level: -3}, "two a second": {cutoff: 2000, detune: 20, decay: 1, level: -3}, "one wave": {cutoff: 500, decay: 0.3, level: -3, res: 0.8}} {
		w := s.wave(t, 1)
		a := compare.Sketched(w)
		gain := func(x []float64, g float64) []float64 {
			out := make([]float64, len(x))
			for k := range x {
				out[k] = g * x[k]
			}
			return out
		}
		for how, b := range map[string]hear.Wave{
			"one channel":        {Rate: w.Rate, Left: w.Left},
			"upside down":        {Rate: w.Rate, Left: w.Left, Right: gain(w.Right, -1)},
			"to the left":        {Rate: w.Rate, Left: gain(w.Left, math.Sqrt(1.5)), Right: gain(w.Right, math.Sqrt(0.5))},
			"channels exchanged": {Rate: w.Rate, Left: w.Right, Right: w.Left},
		} {
			if d := compare.Apart(a, compare.Sketched(b), false); d.Total > 0.05 {
				t.Errorf("%s, %s: %+v", name, how, d)
			}
		}
		if d := compare.Apart(s.sketch(t, seeds...), s.sketch(t, 5, 6, 7, 8, 9), false); d.Total > 1 {
			t.Errorf("%s with other seeds: %.2f apart: %+v", name, d.Total, d)
		}
	}
}
