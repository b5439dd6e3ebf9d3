package hear

import (
	"math"

	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/stat"
)

// beating is how the harmonics of two voices beat: the n-th n times as fast as the first.
type beating struct {
	ok   bool
	rate float64 // of the first harmonic, hertz
	u    float64 // its uncertainty
	span float64 // of the sound that it was taken from, in seconds
	// by harmonic, the mean energy and the cosine and sine of what beats, for time from the start of the sound
	mean, cos, sin []float64
	sum            float64 // of the means
	why            string  // where it is not ok
}

// Beat gives how often in a second the first harmonics of two voices beat, the n-th n times as often; 0 and why where no beat is found.
func (e *Ear) Beat() (rate float64, why string) {
	if b := e.beat(); b.ok {
		return b.rate, ""
	}
	return 0, e.beat().why
}

// at gives the energy at a time in seconds, 1 in the mean: what the beat makes of the energy of a steady sound.
func (b *beating) at(t float64) float64 {
	sum := 0.0
	for h := range b.mean {
		sum += b.energy(h, t)
	}
	return max(sum/b.sum, 0.02)
}

func (b *beating) energy(h int, t float64) float64 {
	sin, cos := math.Sincos(2 * math.Pi * b.rate * float64(h+1) * t)
	return max(0, b.mean[h]+b.cos[h]*cos+b.sin[h]*sin)
}

const (
	// beatFits is how much of the movement of the harmonics a beat has to explain, beatFaint the share of the strongest below which a harmonic is not asked,
	// beatDeep the least depth that counts as a beat.
	beatFits     = 0.75
	beatFitsSlow = 0.92 // where the first harmonic does not go round
	beatFaint    = 0.03
	beatDeep     = 0.1
	// leastBeats is how often the first harmonic has to beat within the sound: the others beat oftener.
	leastBeats = 0.35
	// beatsSurely is how many beats of the first harmonic no steps are taken for, stepsLikely what steps have to explain of fewer.
	beatsSurely = 1.5
	stepsLikely = 0.65
	// mostOfBeat is how much of a sound is looked at, in seconds.
	mostOfBeat = 12.0
)

// findBeat looks for two voices: the energy of the n-th harmonic is then a steady part and one that goes round n times as often as that of the first (the sum of two
// cosines, trigonometry), all by one envelope. Envelope and beat are found in turn, by least squares.
func (e *Ear) findBeat() beating {
	p := e.parts()
	if len(p.amp) == 0 {
		return beating{why: "no tone is found"}
	}
	from, to := loudSpan(p.level)
	to = min(to, from+int(mostOfBeat/p.hop))
	n := to - from
	if n < 24 {
		return beating{why: "the sound is too short"}
	}
	energy := make([][]float64, 0, len(p.amp)) // of each harmonic that counts
	var of []int
	most := 0.0
	for h := range p.amp {
		most = max(most, mean(p.amp[h][from:to]))
	}
	for h := range p.amp {
		if mean(p.amp[h][from:to]) < beatFaint*most {
			continue
		}
		s := make([]float64, n)
		for i := range s {
			a := p.amp[h][from+i]
			s[i] = a * a
		}
		energy, of = append(energy, s), append(of, h)
	}
	if len(of) < 2 {
		return beating{why: "there is one harmonic alone: a beat and a tremolo are alike in it"}
	}
	time := func(i int) float64 { return p.from + float64(from+i)*p.hop }
	// the rate by each harmonic's own
	envelope := straight(energy, p.hop)
	span := float64(n) * p.hop
	var rates []float64
	for k := range energy {
		y := make([]float64, n)
		for i := range y {
			y[i] = energy[k][i] / envelope[i]
		}
		if m, ok := periodic(y, p.hop); ok && m.share > 0.4 && m.depth > beatDeep*mean(y) {
			rates = append(rates, m.rate/float64(of[k]+1))
		}
	}
	if len(rates) == 0 {
		return beating{why: "nothing beats often enough within the sound"}
	}
	try := func(rate float64, rounds int) (beating, float64) {
		b := beating{rate: rate, mean: make([]float64, len(p.amp)), cos: make([]float64, len(p.amp)), sin: make([]float64, len(p.amp))}
		env := append([]float64(nil), envelope...)
		share := 0.0
		turns := make([][]complex128, len(of))
		for k, h := range of {
			turns[k] = make([]complex128, n)
			for i := range n {
				sin, cos := math.Sincos(2 * math.Pi * rate * float64(h+1) * time(i))
				turns[k][i] = complex(cos, sin)
			}
		}
		for range rounds {
			share = b.fit(energy, of, env, turns)
			for i := range env { // the envelope by all harmonics together
				var has, model float64
				for k, h := range of {
					has += energy[k][i]
					model += max(0, b.mean[h]+b.cos[h]*real(turns[k][i])+b.sin[h]*imag(turns[k][i]))
				}
				if model > 0.05*b.sum {
					env[i] = has / model
				}
			}
			smoothed(env, max(1, int(0.02/p.hop)))
		}
		return b, share
	}
	var best beating
	top := math.Inf(-1)
	for _, first := range append(rates, median(rates)) {
		if first*span < leastBeats {
			continue
		}
		rate, step := first, 0.04
		if b, share := try(rate, 2); share > top {
			best, top = b, share
		} else {
			continue
		}
		for ; step > 0.0005; step /= 2 {
			for _, r := range []float64{best.rate * (1 - step), best.rate * (1 + step)} {
				if b, share := try(r, 2); share > top {
					best, top = b, share
				}
			}
		}
	}
	if math.IsInf(top, -1) {
		return beating{why: "it beats less than once within the sound: hold the note longer, or play it an octave higher, where it beats twice as fast"}
	}
	best, top = try(best.rate, 6)
	depth := 0.0
	for _, h := range of {
		depth = max(depth, math.Hypot(best.cos[h], best.sin[h])/max(best.mean[h], 1e-18))
	}
	switch {
	case depth < beatDeep:
		best.why = "nothing beats"
	case inStep(energy) < beatDeep:
		best.why = "all harmonics move alike: the level is modulated"
	case top < beatFits, best.rate*span < 0.9 && top < beatFitsSlow:
		best.why = "the harmonics do not beat in the proportion of two voices"
	case best.rate*span < beatsSurely && stepsExplain(energy, envelope) > stepsLikely:
		best.why = "its harmonics change at once and then stay: an echo may have come"
	default:
		best.ok, best.span = true, span
		best.u = best.rate * (0.01 + 0.1*math.Sqrt(1-top)/(best.rate*span*float64(of[len(of)-1]+1)))
		if best.rate*span < 2 { // of hardly a round
			best.u = max(best.u, 0.05/span)
		}
	}
	return best
}

// stepsExplain gives how much of all movement is explained where each harmonic stays on three levels, one after the other, and all change at the same two times, as where
// an echo comes in and the sound itself ends.
func stepsExplain(energy [][]float64, envelope []float64) float64 {
	const most = 40 // places
	n := len(envelope)
	stride := max(1, n/most)
	var sums, squares [][]float64 // up to each place
	for _, y := range energy {
		s, q := []float64{0}, []float64{0}
		var a, b float64
		for i, x := range y {
			x /= envelope[i]
			a, b = a+x, b+x*x
			if (i+1)%stride == 0 || i == n-1 {
				s, q = append(s, a), append(q, b)
			}
		}
		sums, squares = append(sums, s), append(squares, q)
	}
	at := func(k int) float64 { return float64(min(k*stride, n)) }
	last := len(sums[0]) - 1
	left := func(h, from, to int) float64 {
		if to <= from {
			return 0
		}
		d := sums[h][to] - sums[h][from]
		return squares[h][to] - squares[h][from] - d*d/(at(to)-at(from))
	}
	best := 0.0
	for a := 1; a < last; a++ {
		for b := a; b <= last; b++ {
			sum, all := 0.0, 0.0
			for h := range sums {
				w := 1 / max(sums[h][last]*sums[h][last], 1e-30) // each harmonic counts alike
				sum += w * (left(h, 0, a) + left(h, a, b) + left(h, b, last))
				all += w * left(h, 0, last)
			}
			best = max(best, 1-sum/max(all, 1e-30))
		}
	}
	return best
}

// inStep gives by how much the harmonics move against each other: the root of the mean square of each over what they have in common.
func inStep(energy [][]float64) float64 {
	n := len(energy[0])
	means := make([]float64, len(energy))
	for k := range energy {
		means[k] = mean(energy[k])
	}
	sum, count, top := 0.0, 0.0, 0.0
	common := make([]float64, n)
	for i := range common {
		for k := range energy {
			common[i] += energy[k][i] / means[k] / float64(len(energy))
		}
		top = max(top, common[i])
	}
	for i, c := range common {
		if c < 0.05*top {
			continue
		}
		for k := range energy {
			d := energy[k][i]/means[k]/c - 1
			sum += d * d
			count++
		}
	}
	return math.Sqrt(sum / max(1, count))
}

// fit finds the beat of each harmonic for an envelope of energy, and tells how much of all movement it explains: the mean over the harmonics that move, by how strong they are.
func (b *beating) fit(energy [][]float64, of []int, envelope []float64, turns [][]complex128) (share float64) {
	b.sum = 0
	var explained, moves float64
	for k, h := range of {
		var sums [3][3]float64
		var rights, base [3]float64
		for i, y := range energy[k] {
			base = [3]float64{1, real(turns[k][i]), imag(turns[k][i])}
			y /= envelope[i]
			for r := range 3 {
				rights[r] += base[r] * y
				for c := r; c < 3; c++ {
					sums[r][c] += base[r] * base[c]
				}
			}
		}
		normal, right := mat.NewSymDense(3, nil), mat.NewVecDense(3, rights[:])
		for r := range 3 {
			for c := r; c < 3; c++ {
				normal.SetSym(r, c, sums[r][c])
			}
		}
		var x mat.VecDense
		if err := x.SolveVec(normal, right); err != nil {
			return 0
		}
		b.mean[h], b.cos[h], b.sin[h] = max(x.AtVec(0), 0), x.AtVec(1), x.AtVec(2)
		b.sum += b.mean[h]
		var left, all float64
		for i, y := range energy[k] {
			y /= envelope[i]
			d := y - x.AtVec(0)
			all += d * d
			d -= real(turns[k][i])*x.AtVec(1) + imag(turns[k][i])*x.AtVec(2)
			left += d * d
		}
		if all > 0 { // each harmonic by the root of how strong it is: the higher ones tell as much
			w := math.Sqrt(b.mean[h]) / max(b.mean[h]*b.mean[h], 1e-30)
			explained, moves = explained+w*(all-left), moves+w*all
		}
	}
	if moves == 0 {
		return 0
	}
	return explained / moves
}

// straight gives an exponential through the sum of energies, as a first guess at their envelope.
func straight(energy [][]float64, hop float64) []float64 {
	n := len(energy[0])
	x, y := make([]float64, n), make([]float64, n)
	for i := range x {
		sum := 0.0
		for k := range energy {
			sum += energy[k][i]
		}
		x[i], y[i] = float64(i)*hop, math.Log(max(sum, 1e-18))
	}
	alpha, beta := stat.LinearRegression(x, y, nil, false)
	for i := range y {
		y[i] = math.Exp(alpha + beta*x[i])
	}
	return y
}

// smoothed takes the mean over 2n+1 places, in place.
func smoothed(x []float64, n int) {
	sum := make([]float64, len(x)+1)
	for i, y := range x {
		sum[i+1] = sum[i] + y
	}
	for i := range x {
		a, b := max(0, i-n), min(len(x), i+n+1)
		x[i] = (sum[b] - sum[a]) / float64(b-a)
	}
}
