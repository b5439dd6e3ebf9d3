package synth

import (
	"math"

	q "glossator/core/quantity"
)

// crush lessens word length and rate.
func crush(left, right []float64, bits, down float64) {
	if bits <= 0 && down <= 0 {
		return
	}
	steps := math.Exp2(15 - 12*clamp(bits, 0, 1))
	hold := 1 + int(31*clamp(down, 0, 1))
	for _, x := range [][]float64{left, right} {
		var y float64
		for k := range x {
			if k%hold == 0 {
				y = x[k]
				if bits > 0 {
					y = math.Round(y*steps) / steps
				}
			}
			x[k] = y
		}
	}
}

// finish takes direct current away, sets the starting level and limits.
func (s *Sound) finish(opt Options) {
	g := Start.Amplitude()
	if opt.Raw {
		g = 1
	}
	channels := [][]float64{s.Left, s.Right}
	if s.same {
		channels = channels[:1]
		defer func() { copy(s.Right, s.Left) }()
	}
	for _, x := range channels {
		// a high-pass of one pole at 3 Hz
		const c = 1 - 2*math.Pi*3/Rate
		var in, out float64
		for k, now := range x {
			out = now - in + c*out
			in = now
			if out < 1e-15 && out > -1e-15 { // no denormal numbers
				out = 0
			}
			x[k] = g * out
		}
	}
	// what is left of the tail below -90 dB goes
	n := len(s.Left)
	for n > s.Loop && math.Abs(s.Left[n-1]) < 3e-5*g && math.Abs(s.Right[n-1]) < 3e-5*g {
		n--
	}
	s.Left, s.Right = s.Left[:n], s.Right[:n]
	fadeEnd(s.Left, s.Loop)
	fadeEnd(s.Right, s.Loop)
	if opt.Raw {
		return
	}
	peak := peakOf(s.Left, s.Right)
	if !opt.Unmetered {
		s.stage("output", peak/g, 0)
	}
	if peak > Ceiling.Amplitude() {
		s.Limited = Limit(s.Left, s.Right, Ceiling)
	}
}

// fadeEnd takes the end of the tail down over 50 ms, so that it does not end with a click.
func fadeEnd(x []float64, loop int) {
	n := min(len(x)-loop, Rate/20)
	for k := range max(n, 0) {
		x[len(x)-1-k] *= float64(k) / float64(n)
	}
}

// Limit turns both channels down together where they would pass a ceiling, in time before they do
// (5 ms), and lets go in 80 ms. It gives the most that it turned down, in decibels.
func Limit(left, right []float64, ceiling q.Level) float64 {
	top := ceiling.Amplitude()
	const ahead = Rate / 200
	n := len(left)
	if peakOf(left, right) <= top {
		return 0
	}
	need := make([]float64, n) // gain that each sample needs
	for k := range need {
		need[k] = 1
		if p := max(math.Abs(left[k]), math.Abs(right[k])); p > top {
			need[k] = top / p
		}
	}
	// the least of the samples ahead, so that a straight way down ends in time
	held := make([]float64, n)
	var queue []int
	for k := n - 1; k >= 0; k-- {
		for len(queue) > 0 && need[queue[len(queue)-1]] >= need[k] {
			queue = queue[:len(queue)-1]
		}
		queue = append(queue, k)
		for queue[0] > k+ahead {
			queue = queue[1:]
		}
		held[k] = need[queue[0]]
	}
	up := 1 - math.Exp(-1.0/(0.08*Rate))
	least, g := 1.0, 1.0
	sum := float64(ahead)
	ring := make([]float64, ahead)
	for i := range ring {
		ring[i] = 1
	}
	env := 1.0
	for k := range left {
		if held[k] < env {
			env = held[k]
		} else {
			env += (held[k] - env) * up
		}
		// the mean of the last 5 ms never lies over what the sample needs
		i := k % ahead
		sum += env - ring[i]
		ring[i] = env
		g = min(sum/ahead, need[k])
		least = min(least, g)
		left[k] *= g
		right[k] *= g
	}
	return -20 * math.Log10(least)
}

// Looped folds the tail of a sound onto its beginning, so that it can be played round and round
// without a seam.
func (s *Sound) Looped() (left, right []float64) {
	left, right = make([]float64, s.Loop), make([]float64, s.Loop)
	for k := range s.Left {
		left[k%s.Loop] += s.Left[k]
		right[k%s.Loop] += s.Right[k]
	}
	Limit(left, right, Ceiling)
	return left, right
}

// peakOf gives the highest level of two channels.
func peakOf(left, right []float64) float64 {
	hi := 0.0
	for _, x := range [][]float64{left, right} {
		for _, y := range x {
			if y = math.Abs(y); y > hi {
				hi = y
			}
		}
	}
	return hi
}
