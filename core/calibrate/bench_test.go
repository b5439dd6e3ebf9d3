package calibrate_test

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/calibrate"
	"glossator/core/hear"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/phrase"
	"glossator/core/scale"
	"glossator/testutil/sounds"
	"glossator/testutil/testrack"
)

func begin(t *testing.T, panel, control, recipe string) *calibrate.Bench {
	t.Helper()
	b, err := calibrate.Begin(testrack.Panels(t)[panel], control, recipe)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// tone is a plain sound: harmonics of a sawtooth, as loud as it is told.
func tone(hz, seconds, gain float64) hear.Wave {
	w := hear.Wave{Rate: 48000, Left: make([]float64, int(seconds*48000))}
	for i := range w.Left {
		for n := 1.0; n*hz < 12000; n++ {
			w.Left[i] += gain * math.Sin(2*math.Pi*n*hz*float64(i)/48000) / n
		}
	}
	return w
}

// What spoils a take is said with what to do, and the take says nothing then.
func TestSpoiltTakes(t *testing.T) {
	level, tune := begin(t, "kedge", "mix.osc1", ""), begin(t, "kedge", "osc2.tune", "")
	held := func(b *calibrate.Bench, reading string) []phrase.Note {
		at, err := b.Position(reading)
		if err != nil {
			t.Fatal(err)
		}
		return b.Notes(at)
	}
	clipped := tone(220, 1.5, 1.5)
	for i, x := range clipped.Left {
		clipped.Left[i] = min(max(x, -1), 1)
	}
	for _, x := range []struct {
		name, reading, says string
		b                   *calibrate.Bench
		w                   hear.Wave
	}{
		{"silence", "12:00", "silent", level, hear.Wave{Rate: 48000, Left: make([]float64, 48000)}},
		{"nothing at all", "12:00", "empty", level, hear.Wave{}},
		{"clipping", "12:00", "clips", level, clipped},
		{"another note", "12:00", "+3 semitones", level, tone(220*math.Exp2(3.0/12), 1.5, 0.1)},
		{"the end that means none", "7:00", "means none", level, tone(220, 1.5, 0.1)},
		{"a noise for a pitch", "12:00", "", tune, tone(220, 0.02, 0.1)},
	} {
		got, err := x.b.Hear(x.reading, &calibrate.Sound{Wave: x.w, Notes: held(x.b, x.reading)})
		if err != nil || got.Why == "" || !strings.Contains(got.Why, x.says) {
			t.Errorf("%s: got %q (%v), want %q", x.name, got.Why, err, x.says)
		}
		if r := x.b.Fit(x.b.Takes([]calibrate.Recorded{got})); r.Note == "" || r.Law.Source == scale.Measured {
			t.Errorf("%s: the law is called %s", x.name, r.Law.Source)
		}
	}
	if _, err := level.Hear("6:30", &calibrate.Sound{Wave: tone(220, 1, 0.1)}); err == nil {
		t.Error("a reading that the control does not take is taken")
	}
	// rate and channels of the recording make no difference
	one := tone(220, 1.5, 0.1)
	both := hear.Wave{Rate: one.Rate, Left: one.Left, Right: one.Left}
	a, _ := level.Hear("12:00", &calibrate.Sound{Wave: one, Notes: held(level, "12:00")})
	c, _ := level.Hear("12:00", &calibrate.Sound{Wave: both, Notes: held(level, "12:00")})
	d, _ := level.Hear("12:00", &calibrate.Sound{Wave: one.At(44100), Notes: held(level, "12:00")})
	if a.Why != "" || math.Abs(a.Figure-c.Figure) > 0.05 || math.Abs(a.Figure-d.Figure) > 0.1 {
		t.Errorf("one channel %+v, two %+v, at 44.1 kHz %+v", a, c, d)
	}
}

// What cannot be measured is said with the reason.
func TestWhatHasNoRecipe(t *testing.T) {
	rack := testrack.Panels(t)
	for _, x := range []struct{ panel, control, recipe, says string }{
		{"kedge", "osc1.wave", "", "a value for each position"}, {"kedge", "amp.by", "", "sets nothing that sounds"}, {"kedge", "osc9", "", "has no control"},
		{"kedge", "lfo.rate", "attack", "is not for"}, {"kedge", "lfo.rate", "divining", "expected a recipe"}, {"sheave", "lfo2.osc1.frame", "", "it is not built for"}, {"binnacle", "chorus.voices", "", "counts"}, {"coracle", "filter.cutoff", "cutoff-noise", "needs a noise source"},
	} {
		_, err := calibrate.Begin(rack[x.panel], x.control, x.recipe)
		if err == nil || !strings.Contains(err.Error(), x.says) {
			t.Errorf("%s %s %s: got %v, want %q", x.panel, x.control, x.recipe, err, x.says)
		}
	}
	if _, err := calibrate.Begin(rack["kedge"], "osc1.wave", ""); !errors.Is(err, calibrate.ErrNoRecipe) {
		t.Errorf("got %v", err)
	}
}

// The filters within an effect stand open while another of its parameters is measured, also where their scale has no off: the high cut of an echo at the bottom of its scale
// leaves nothing to hear. A low cut stands at its bottom.
func TestEffectsAreOpen(t *testing.T) {
	rack := testrack.Panels(t)
	for _, x := range []struct{ panel, control, filter string }{
		{"fairlead", "delay.feedback", "delay.tone"}, {"fairlead", "delay.time", "delay.tone"}, {"fairlead", "chorus.rate", "delay.tone"}, {"binnacle", "delay.feedback", "delay.tone"}, {"binnacle", "delay.feedback", "delay.lowcut"}, {"binnacle", "reverb.t60", "reverb.lowcut"},
	} {
		c := rack[x.panel]
		b, err := calibrate.Begin(c, x.control, "")
		if err != nil {
			t.Fatal(err)
		}
		k, ok := c.ControlIndex(x.filter)
		if !ok {
			t.Fatalf("%s has no %s", x.panel, x.filter)
		}
		reading := ""
		for _, s := range b.Settings() {
			if s.Control == x.filter {
				reading = s.Reading
			}
		}
		at, err := c.Parse(k, reading)
		if err != nil {
			t.Errorf("%s, measuring %s: %s stands at %q: %v", x.panel, x.control, x.filter, reading, err)
			continue
		}
		v, _ := c.Scale(panel.BindRef{Control: k}).Quantity(at)
		low := strings.HasSuffix(x.filter, "lowcut")
		if !v.Off && (!low && v.Value < 18000 || low && v.Value > 25) {
			t.Errorf("%s, measuring %s: %s stands at %s", x.panel, x.control, x.filter, reading)
		}
	}
}

// What has no difference that is just noticed, such as a Q, is known to half of one and not to a millionth.
func TestDifferenceOfACount(t *testing.T) {
	b, err := calibrate.Begin(testrack.Panels(t)["binnacle"], "eqhigh.q", "")
	if err != nil {
		t.Fatal(err)
	}
	if d := b.JND(); d < 0.1 || d > 1 {
		t.Errorf("a Q is told apart by %v", d)
	}
}

// A set-up leaves only what is measured to be heard: nothing else moves, no effect is in, and the control itself is not on the list.
func TestSetUpsAreQuiet(t *testing.T) {
	for _, x := range [][2]string{{"kedge", "lowpass.cutoff"}, {"halyard", "filter.cutoff"}, {"bowline", "osc1.level"}, {"sheave", "env2.attack"}, {"windlass", "osc2.tune"}} {
		c := testrack.Panels(t)[x[0]]
		b := begin(t, x[0], x[1], "")
		st := c.InitState()
		for _, s := range b.Settings() {
			k, ok := c.ControlIndex(s.Control)
			if !ok || k == b.Control {
				t.Fatalf("%v: the list has %s", x, s.Control)
			}
			at, err := c.Parse(k, s.Reading)
			if err != nil {
				t.Fatal(err)
			}
			st.At[k] = at
		}
		m := c.Interpret(st, panel.DefaultTempo)
		sounding := 0
		for i := range m.Modules {
			d := &m.Modules[i]
			spec := meaning.SpecOf(d.Kind)
			switch {
			case !d.Used():
			case spec.Step == meaning.StepEffects:
				t.Errorf("%v: %s is in", x, d.Label)
			case d.Kind == meaning.Osc || d.Kind == meaning.Noise || d.Kind == meaning.Sub || d.Kind == meaning.Operator:
				sounding++
			}
		}
		for i := range m.Routes {
			if r := &m.Routes[i]; r.Used() && m.Module(r.From) != nil && m.Module(r.From).Kind == meaning.LFO && math.Abs(r.Depth.Value) > 1e-3 {
				t.Errorf("%v: %s moves %s by %v", x, r.From, r.To, r.Depth)
			}
		}
		if sounding > 1 {
			t.Errorf("%v: %d sources sound", x, sounding)
		}
		if len(b.Recipe.Traps) == 0 || b.Recipe.Needs == "" || b.Figure == "" {
			t.Errorf("%v: the recipe says too little: %+v", x, b.Recipe)
		}
	}
}

// A recording of several takes is cut at its silences.
func TestCutting(t *testing.T) {
	gap := make([]float64, 48000*6/10)
	var all []float64
	lengths := []float64{0.8, 1.5, 0.3}
	for i, n := range lengths {
		all = append(append(all, gap...), tone(110*float64(i+1), n, 0.1).Left...)
	}
	for _, noise := range []float64{0, 1e-4} {
		w := hear.Wave{Rate: 48000, Left: slices.Clone(append(all, gap...))}
		for i := range w.Left {
			w.Left[i] += noise * math.Sin(float64(i)*0.7)
		}
		parts := calibrate.Cut(&calibrate.Sound{Wave: w})
		if len(parts) != len(lengths) {
			t.Fatalf("noise %g: %d takes", noise, len(parts))
		}
		for i, p := range parts {
			if n := p.Seconds(); n < lengths[i]-0.05 || n > lengths[i]+0.4 {
				t.Errorf("noise %g: take %d lasts %.2f s, not %.2f", noise, i, n, lengths[i])
			}
		}
	}
	if got := calibrate.Cut(&calibrate.Sound{Wave: hear.Wave{Rate: 48000, Left: gap}}); len(got) != 0 {
		t.Errorf("silence holds %d takes", len(got))
	}
}

// Recordings that another program made (sox) of an instrument whose law is known, a rate that goes in equal ratios, a tuning that is straight: the bench finds the law.
func TestLawsOfRecordingsBySox(t *testing.T) {
	recorded := func(b *calibrate.Bench, reading, args string) calibrate.Recorded {
		t.Helper()
		got, err := b.Hear(reading, &calibrate.Sound{Wave: sounds.Sox(t, 48000, args)})
		if err != nil {
			t.Fatal(err)
		}
		return got
	}
	for _, x := range []struct {
		panel, control, unit string
		law                  func(travel float64) float64
		make                 func(v float64) string
		tol                  float64 // in just-noticeable differences
	}{
		{"kedge", "lfo.rate", "Hz", func(p float64) float64 { return 0.3 * math.Pow(60, p) }, func(v float64) string {
			return fmt.Sprintf("synth %.3f sawtooth 220 gain -12 tremolo %.5f 60", math.Max(2, 6/v), v)
		}, 1},
		{"kedge", "osc2.tune", "ct", func(p float64) float64 { return 1500 * (p - 0.5) }, func(v float64) string {
			return fmt.Sprintf("synth 1.5 sawtooth %.5f gain -12", 220*math.Exp2(v/1200))
		}, 1.5},
	} {
		b := begin(t, x.panel, x.control, "")
		var all []calibrate.Recorded
		for _, reading := range []string{"7:15", "8:30", "10:00", "11:00", "12:00", "1:30", "3:00", "4:45"} {
			at, err := b.Position(reading)
			if err != nil {
				t.Fatal(err)
			}
			all = append(all, recorded(b, reading, x.make(x.law(at.Travel))))
		}
		r := b.Fit(b.Takes(all))
		for _, k := range r.Takes {
			if k.Why != "" {
				t.Errorf("%s at %s: %s", x.control, k.Reading, k.Why)
			}
		}
		worst := 0.0
		for _, y := range r.Band() {
			at, _ := b.Position(y.Reading)
			want := x.law(at.Travel)
			off := (*y.Value - want) / b.JND()
			if b.Law().Dim().Geometric() {
				off = math.Log2(*y.Value/want) / b.JND()
			}
			worst = max(worst, math.Abs(off))
		}
		t.Logf("%s %s: %s, the worst is %.2f just-noticeable differences off", x.panel, x.control, r.Law.String(), worst)
		if worst > x.tol {
			t.Errorf("%s %s: %.2f just-noticeable differences off at the worst", x.panel, x.control, worst)
		}
	}
}

// A take is measured, a law fitted and the next take planned while one waits; the figures are in the note.
func BenchmarkTakeFitAndPlan(b *testing.B) {
	c := testrack.Panels(b)["kedge"]
	x, err := calibrate.Begin(c, "lowpass.amount", "")
	if err != nil {
		b.Fatal(err)
	}
	at, _ := x.Position("1:00")
	w := tone(55, 5, 0.1)
	var one calibrate.Recorded
	b.Run("take of 5 s", func(b *testing.B) {
		for b.Loop() {
			if one, err = x.Hear("1:00", &calibrate.Sound{Wave: w, Notes: x.Notes(at)}); err != nil {
				b.Fatal(err)
			}
		}
	})
	var all []calibrate.Recorded
	for i, p := range c.Places(x.Control) {
		all = append(all, calibrate.Recorded{Reading: p.Reading, Travel: p.Travel, Figure: 9 + 4*(p.Travel-0.5) + 0.01*float64(i%3), U: 0.05})
	}
	var r *calibrate.Result
	b.Run("fit of 41 takes", func(b *testing.B) {
		for b.Loop() {
			r = x.Fit(x.Takes(all))
		}
	})
	b.Run("next", func(b *testing.B) {
		for b.Loop() {
			r.Next()
		}
	})
	_ = one
}

// Recordings of which nobody has said what was played, of an amount: cutoffs of a noise (csound's own filter) that lie octaves apart are read as octaves, not as hertz.
func TestAmountsOfRecordingsByCsound(t *testing.T) {
	b := begin(t, "kedge", "lowpass.amount", "")
	var all []calibrate.Recorded
	for _, x := range []struct {
		reading string
		octaves float64
	}{{"12:00", 0}, {"1:30", 1}, {"3:00", 2}, {"9:45", -1.5}, {"4:00", 2.7}} {
		w := sounds.Csound(t, 48000, 2, fmt.Sprintf("a0 rand 0.2\na1 moogladder2 a0, %.2f, 0.02\n", 500*math.Exp2(x.octaves)))
		got, err := b.Hear(x.reading, &calibrate.Sound{Wave: w})
		if err != nil {
			t.Fatal(err)
		}
		all = append(all, got)
	}
	for i, k := range b.Takes(all) {
		want := []float64{0, 1, 2, -1.5, 2.7}[i]
		if k.Why != "" || math.Abs(k.Value-want) > 0.35 {
			t.Errorf("%s: %.2f oct (%s), want %.2f", k.Reading, k.Value, k.Why, want)
		}
	}
}
