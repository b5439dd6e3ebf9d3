package synth

import (
	"math"

	"glossator/core/dsp"
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// compress turns both channels down by what the louder of the keys asks for.
func compress(left, right, keyL, keyR []float64, threshold setting, ratio, attack, release float64, makeup, mix setting) step {
	a := math.Exp(-1 / (max(attack/math.Ln10, 0.0001) * Rate))
	r := math.Exp(-1 / (max(release/math.Ln10, 0.001) * Rate))
	slope := 1 - 1/ratio
	env := 0.0 // decibels of reduction
	gain, last := makeup.at(0), 0.0
	top := q.Level(threshold.at(0)).Amplitude()
	return func(from, to int) {
		for k := from; k < to; k++ {
			if threshold.turns(k) {
				top = q.Level(threshold.at(k)).Amplitude()
			}
			p := max(math.Abs(keyL[k]), math.Abs(keyR[k]))
			want := 0.0
			if p > top {
				want = slope * 20 * math.Log10(p/top)
			}
			if want > env {
				env = want + (env-want)*a
			} else {
				env = want + (env-want)*r
			}
			if math.Abs(env-last) > 0.005 || makeup.turns(k) {
				last = env
				gain = makeup.at(k) * math.Exp(-env*math.Ln10/20)
			}
			m := mix.at(k)
			left[k] += m * (left[k]*gain - left[k])
			right[k] += m * (right[k]*gain - right[k])
		}
	}
}

// beats is what stands in for a side-chain input: on every quarter note a knock at full level that falls by 60 dB in 300 ms
// (common practice, no source).
func (e *engine) beats(frames int) []float64 {
	out := make([]float64, frames)
	tempo := float64(e.m.Tempo)
	if tempo <= 0 {
		tempo = 120
	}
	every := 60 / tempo * Rate
	fall := math.Pow(10, -3/(0.3*Rate))
	for n := 0; ; n++ {
		from := int(math.Round(float64(n) * every))
		if from >= frames {
			return out
		}
		g := 1.0
		for k := from; k < min(frames, int(math.Round(float64(n+1)*every))); k++ {
			out[k] = g
			g *= fall
		}
	}
}

// multiband parts the sound in three by pairs of equal low- and high-passes whose sum is flat, and
// compresses each.
func (e *engine) multiband(d *meaning.Module, left, right []float64) step {
	mix := e.mixSetting(d)
	low, high := hertz(d, meaning.PLow, 200), hertz(d, meaning.PHigh, 2000)
	ratio := max(1, num(d, meaning.PRatio))
	var bands [3][2][]float64 // low, middle, high
	var press [3]step
	for b, x := range []struct{ threshold, gain meaning.ParamName }{{meaning.PThresholdLow, meaning.PGainLow}, {meaning.PThresholdMid, meaning.PGainMid}, {meaning.PThresholdHigh, meaning.PGainHigh}} {
		l, r := floats(len(left)), floats(len(left))
		bands[b] = [2][]float64{l, r}
		press[b] = compress(l, r, l, r, setting{base: num(d, x.threshold)}, ratio, num(d, meaning.PAttack), num(d, meaning.PRelease), setting{base: amplitude(d, x.gain)}, setting{base: 1})
	}
	part := eachChannel(left, right, func(c int, x []float64) step {
		first, second, again := splitAt(low), splitAt(high), splitAt(high)
		rest, over := floats(stretch), floats(stretch)
		return func(from, to int) {
			rest, over := rest[:to-from], over[:to-from]
			lo, mid, hi := bands[0][c][from:to], bands[1][c][from:to], bands[2][c][from:to]
			first(x[from:to], lo, rest)
			second(rest, mid, hi)
			// the low band goes through the second split too, or the phases would not meet
			again(lo, lo, over)
			for k := range lo {
				lo[k] += over[k]
			}
		}
	})
	return func(from, to int) {
		part(from, to)
		for _, run := range press {
			run(from, to)
		}
		for k := from; k < to; k++ {
			m := mix.at(k)
			left[k] += m * (bands[0][0][k] + bands[1][0][k] + bands[2][0][k] - left[k])
			right[k] += m * (bands[0][1][k] + bands[1][1][k] + bands[2][1][k] - right[k])
		}
	}
}

// splitAt parts x at a frequency in hertz by two equal sections each way; lo may be x.
func splitAt(f float64) func(x, lo, hi []float64) {
	l, h := dsp.EQ("low-pass", f, 0, math.Sqrt2/2, Rate), dsp.EQ("high-pass", f, 0, math.Sqrt2/2, Rate)
	var state [4][2]float64
	return func(x, lo, hi []float64) {
		copy(hi, x)
		copy(lo, x)
		for i := range 2 {
			l.From(lo, &state[i])
			h.From(hi, &state[2+i])
		}
	}
}
