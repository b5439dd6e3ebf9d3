package hear

import (
	"math"
	"slices"

	"glossator/core/dsp"
)

// weighted gives a channel under the K weighting of ITU-R BS.1770.
func weighted(x []float64, rate float64) []float64 {
	out := slices.Clone(x)
	for _, section := range dsp.KWeighting(rate) {
		section.Run(out)
	}
	return out
}

// Loudness gives the integrated loudness in LUFS (ITU-R BS.1770: blocks of 400 ms, gated at -70 LUFS and at
// 10 LU below the mean of what is left). A sound of one channel counts as one of two that is silent in the
// other.
func (e *Ear) Loudness() Measured {
	l, ok := Loudness(e.Wave)
	if !ok {
		return cannot("level", "loudness", "LUFS", "nothing is louder than -70 LUFS")
	}
	return known("level", "loudness", l, "LUFS", 0.05)
}

// Loudness is Ear.Loudness of a wave; ok is false for what is quieter than -70 LUFS.
func Loudness(w Wave) (lufs float64, ok bool) {
	var channels [][]float64
	for _, c := range [][]float64{w.Left, w.Right} {
		if c != nil {
			channels = append(channels, weighted(c, w.Rate))
		}
	}
	if len(channels) == 0 || len(w.Left) == 0 {
		return 0, false
	}
	n := int(0.4 * w.Rate)
	step := n / 4
	if len(w.Left) < n { // a sound shorter than a block is one
		n = len(w.Left)
		step = n
	}
	var blocks []float64
	cumulative := make([]float64, len(w.Left)+1)
	for k := range w.Left {
		s := 0.0
		for _, c := range channels {
			s += c[k] * c[k]
		}
		cumulative[k+1] = cumulative[k] + s
	}
	for a := 0; a+n <= len(w.Left); a += max(step, 1) {
		blocks = append(blocks, (cumulative[a+n]-cumulative[a])/float64(n))
	}
	gate := func(over float64) (mean float64, any bool) {
		sum, count := 0.0, 0
		for _, b := range blocks {
			if b > 0 && -0.691+10*math.Log10(b) > over {
				sum += b
				count++
			}
		}
		if count == 0 {
			return 0, false
		}
		return -0.691 + 10*math.Log10(sum/float64(count)), true
	}
	first, any := gate(-70)
	if !any {
		return 0, false
	}
	return gate(max(-70, first-10))
}
