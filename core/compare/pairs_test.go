package compare_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"glossator/core/compare"
	"glossator/core/hear"
	"glossator/testutil/sounds"
	"glossator/testutil/whole"
)

// take is how one patch is played for a recording; another program plays it.
type take struct {
	f, cents, detune   float64 // of the second voice, 0 for one voice
	phase, balance     float64
	rise, decay, hold  float64 // time constants of the latter two in seconds
	sustain, fall      float64
	cutoff, q          float64
	vibrato, vibRate   float64
	tremolo, tremRate  float64
	width              float64 // of a pulse, 0 for a saw
	level              float64 // decibels
	echo, back, behind float64
	lead               float64
}

// pad and pluck are the two patches that the pairs are made of.
var (
	pad   = take{f: 220, detune: 9, balance: 1, rise: 0.12, decay: 0.2, hold: 2.4, sustain: 0.6, fall: 0.15, cutoff: 1500, q: 1.5}
	pluck = take{f: 147, balance: 1, rise: 0.004, decay: 0.12, hold: 1.8, sustain: 0.25, fall: 0.08, cutoff: 1200, q: 1.5}
	pulse = take{f: 110, balance: 1, rise: 0.02, decay: 0.15, hold: 2, sustain: 0.7, fall: 0.1, width: 0.3}
)

func (x take) wave(t testing.TB) hear.Wave {
	var b strings.Builder
	fmt.Fprintf(&b, "kt timeinsts\nkt = kt-%v\n", x.lead)
	fmt.Fprintf(&b, "k1 = (kt < 0 ? 0 : (kt < %[1]v ? kt/%[1]v : (kt < %[2]v ? %[3]v+(1-%[3]v)*exp(-(kt-%[1]v)/%[4]v) : %[3]v*exp(-(kt-%[2]v)/%[5]v))))\n", x.rise, x.hold, x.sustain, x.decay, x.fall)
	fmt.Fprintf(&b, "kv oscili %v, %v\nkw oscili %v, %v\nkc = cent(kv+%v)\n", x.vibrato, max(x.vibRate, 1), x.tremolo, max(x.tremRate, 1), x.cents)
	g := 0.2 * math.Pow(10, x.level/20)
	wave := func(f, phase float64) string {
		if x.width > 0 {
			return fmt.Sprintf("vco2 %v*k1*(1+kw), %v*kc, 2, %v", g, f, x.width)
		}
		return fmt.Sprintf("vco2 %v*k1*(1+kw), %v*kc, 16, 0.5, %v", g, f, phase)
	}
	fmt.Fprintf(&b, "a0 %s\n", wave(x.f, 0))
	if x.detune > 0 {
		fmt.Fprintf(&b, "ax %s\na0 = a0+%v*ax\n", wave(x.f*math.Exp2(x.detune/1200), x.phase), x.balance)
	}
	if x.cutoff > 0 {
		fmt.Fprintf(&b, "a0 lowpass2 a0, %v, %v\n", x.cutoff, x.q)
	}
	if x.echo > 0 {
		fmt.Fprintf(&b, "ab init 0\nab delay a0+ab*%v, %v\na0 = a0+%v*ab\n", x.back, x.echo, x.behind)
	}
	b.WriteString("a1 = a0")
	return sounds.Csound(t, 48000, x.lead+x.hold+1.6, b.String())
}

// Two takes of one patch: where their beat stands, how much silence is before them, one channel or two do not count.
func TestTakesOfOnePatch(t *testing.T) {
	for name, base := range map[string]take{"pad": pad, "pluck": pluck, "pulse": pulse} {
		a := base.wave(t)
		for how, change := range map[string]func(x *take){
			"a third of a beat later": func(x *take) { x.phase = 1.0 / 3 }, "half of a beat later": func(x *take) { x.phase = 0.5 }, "most of a beat later": func(x *take) { x.phase = 0.83 },
			"0.2 s later": func(x *take) { x.lead = 0.2 },
		} {
			x := base
			change(&x)
			b := x.wave(t)
			for _, r := range compare.Table(a, b, compare.Times{}) {
				if r.Known && r.Sure && r.JNDs > 1 {
					t.Errorf("%s, %s: %s %.4g and %.4g %s: %.1f just-noticeable differences", name, how, r.Label, r.A.Value, r.B.Value, r.A.Unit, r.JNDs)
				}
			}
			if d := compare.Recordings(a, b); d.Total > 1.8 {
				t.Errorf("%s, %s: %.2f apart: %+v", name, how, d.Total, d)
			}
		}
		for how, b := range map[string]hear.Wave{
			"two channels of the same": {Rate: a.Rate, Left: a.Left, Right: a.Left},
			"one turned over":          {Rate: a.Rate, Left: a.Left, Right: times(a.Left, -1)},
			"more to the left":         {Rate: a.Rate, Left: times(a.Left, math.Sqrt(1.5)), Right: times(a.Left, math.Sqrt(0.5))},
		} {
			for _, r := range compare.Table(hear.Wave{Rate: a.Rate, Left: a.Left, Right: a.Left}, b, compare.Times{}) {
				if r.Known && r.Sure && r.JNDs > 1 && r.Label != "stereo width" && r.Label != "peak" && r.Label != "true peak" {
					t.Errorf("%s, %s: %s %.4g and %.4g %s: %.1f just-noticeable differences", name, how, r.Label, r.A.Value, r.B.Value, r.A.Unit, r.JNDs)
				}
			}
		}
	}
}

func times(x []float64, g float64) []float64 {
	out := make([]float64, len(x))
	for k := range x {
		out[k] = g * x[k]
	}
	return out
}

// One known change between two takes is named first, with its size.
func TestTheChangeIsNamedFirst(t *testing.T) {
	type change struct {
		base  string
		label string
		diff  float64 // in the row's unit: percent for shares, cents for pitch
		do    func(x *take)
	}
	var list []change
	percent := func(by float64) float64 { return 100 * (by - 1) }
	for _, base := range []string{"pad", "pluck"} {
		for _, by := range []float64{0.6, 1.6} {
			list = append(list, change{base, "cutoff", percent(by), func(x *take) { x.cutoff *= by }},
				change{base, "decay to 90 %", percent(by), func(x *take) { x.decay *= by }},
				change{base, "release to 10 %", percent(2 * by), func(x *take) { x.fall *= 2 * by }})
		}
		for _, db := range []float64{-6, 5} {
			list = append(list, change{base, "loudness", db, func(x *take) { x.level += db }})
		}
		for _, ct := range []float64{-30, 25, 100} {
			list = append(list, change{base, "pitch", ct, func(x *take) { x.cents += ct }})
		}
		list = append(list, change{base, "resonant peak", 20 * math.Log10(math.Sqrt((5*5+0.25)/(1.5*1.5+0.25))), func(x *take) { x.cutoff, x.q = x.cutoff*math.Sqrt((1+1/(4*1.5*1.5))/(1+1/(4*25.0))), 5 }})
	}
	for _, by := range []float64{0.4, 2.5, 4} {
		list = append(list, change{"pad", "attack (10-90 %)", percent(by), func(x *take) { x.rise *= by }})
	}
	for _, rise := range []float64{0.05, 0.15} {
		list = append(list, change{"pulse", "attack (10-90 %)", percent(rise / 0.02), func(x *take) { x.rise = rise }})
	}
	for _, ct := range []float64{4, 18} {
		list = append(list, change{"pad", "detune", ct - 9, func(x *take) { x.detune = ct }})
	}
	for _, w := range []float64{0.12, 0.2, 0.45} {
		list = append(list, change{"pulse", "pulse width", 100 * (w - 0.3), func(x *take) { x.width = w }})
	}
	for _, db := range []float64{-4, 8} {
		list = append(list, change{"pulse", "loudness", db, func(x *take) { x.level += db }})
	}
	for _, ct := range []float64{-50, 20} {
		list = append(list, change{"pulse", "pitch", ct, func(x *take) { x.cents += ct }})
	}
	list = append(list, change{"pulse", "release to 10 %", 200, func(x *take) { x.fall *= 3 }}, change{"pulse", "decay to 90 %", 100, func(x *take) { x.decay *= 2 }})
	if len(list) < 38 {
		t.Fatalf("%d pairs", len(list))
	}
	if !whole.Asked() { // every other one in CI
		some := list[:0]
		for i := range list {
			if i%2 == 0 {
				some = append(some, list[i])
			}
		}
		list = some
	}
	bases := map[string]take{"pad": pad, "pluck": pluck, "pulse": pulse}
	first := 0
	for _, c := range list {
		x := bases[c.base]
		a := x
		c.do(&x)
		rows := compare.Table(a.wave(t), x.wave(t), compare.Times{Off: 0})
		r := rows[0]
		size := math.Abs(r.Diff-c.diff) <= max(0.12*math.Abs(c.diff), 0.05*(100+math.Abs(c.diff))) || r.Unit != "%" && math.Abs(r.Diff-c.diff) < max(1.5, 0.12*math.Abs(c.diff))
		if r.Label == c.label && size {
			first++
			continue
		}
		text := ""
		for _, r := range rows[:min(4, len(rows))] {
			text += fmt.Sprintf("\n   %s %.4g -> %.4g ± %.2g: %.1f %s, %.1f", r.Label, r.A.Value, r.B.Value, r.B.Uncertainty, r.Diff, r.Unit, r.JNDs)
		}
		for _, r := range rows {
			if r.Label == c.label {
				text += fmt.Sprintf("\n   : %s %.4g (%v %s) -> %.4g (%v %s) ± %.2g: %.1f %s, %.1f", r.Label, r.A.Value, r.A.Known, r.A.Why, r.B.Value, r.B.Known, r.B.Why, r.B.Uncertainty, r.Diff, r.Unit, r.JNDs)
			}
		}
		t.Logf("%s, %s by %.1f is not named first:%s", c.base, c.label, c.diff, text)
	}
	if t.Logf("%d of %d changes are named first, with their size", first, len(list)); first < (len(list)*95+99)/100 {
		t.Errorf("%d of %d changes are named first, with their size", first, len(list))
	}
}
