package hear

import "math"

// Weighted runs the K weighting of ITU-R BS.1770 over a channel: a high shelf of 4 dB and a high-pass, by
// their analogue prototypes so that any rate will do (constants from memory; they give the standard's own
// coefficients at 48 kHz).
func weighted(x []float64, rate float64) []float64 {
	k := math.Tan(math.Pi * 1681.974450955533 / rate)
	const quality, gain = 0.7071752369554196, 3.999843853973347
	vh := math.Pow(10, gain/20)
	vb := math.Pow(vh, 0.4996667741545416)
	a0 := 1 + k/quality + k*k
	s1 := [5]float64{(vh + vb*k/quality + k*k) / a0, 2 * (k*k - vh) / a0, (vh - vb*k/quality + k*k) / a0, 2 * (k*k - 1) / a0, (1 - k/quality + k*k) / a0}
	k = math.Tan(math.Pi * 38.13547087602444 / rate)
	const low = 0.5003270373238773
	a0 = 1 + k/low + k*k
	s2 := [5]float64{1, -2, 1, 2 * (k*k - 1) / a0, (1 - k/low + k*k) / a0}
	out := make([]float64, len(x))
	var p1, p2, r1, r2 float64
	for i, in := range x {
		y := s1[0]*in + p1
		p1 = s1[1]*in - s1[3]*y + p2
		p2 = s1[2]*in - s1[4]*y
		z := s2[0]*y + r1
		r1 = s2[1]*y - s2[3]*z + r2
		r2 = s2[2]*y - s2[4]*z
		out[i] = z
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
