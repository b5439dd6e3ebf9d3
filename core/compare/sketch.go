package compare

import (
	"cmp"
	"math"
	"slices"
	"sync"

	"glossator/core/dsp"
	"glossator/core/hear"
	q "glossator/core/quantity"
)

// Sketch is what the distance needs of a sound: of one rendering, or of the mean of several with other phases.
type Sketch struct {
	Loudness float64 // LUFS; -90 where there is nothing
	// Levels in decibels of each auditory band, in frames of Hop seconds.
	Levels [][]float64
	Hop    float64
	// Contour is the loudness of each frame in decibels, Centre the middle of its spectrum in auditory bands (NaN
	// where it is silent).
	Contour, Centre []float64
	// Mean level of each band over the frames that sound.
	Mean []float64
	// Motion of each band: how much it moves at each of the modulation rates (share).
	Motion [][]float64
	// places are what is heard at places pitchStep apart from the beginning
	places [][]partial
	power  [][]float64 // by frame and band
	loud   []float64   // by frame, under the K weighting
}

// rates are the middles of the bands of modulation, in hertz: an octave apart.
var rates = []float64{0.5, 1, 2, 4, 8, 16}

// floor is how far below the loudest a frame or band counts as silent, in decibels.
const floor = 50.0

// weights of the auditory bands by A-weighting, in decibels.
var weights = sync.OnceValue(func() [hear.Bands]float64 {
	var w [hear.Bands]float64
	for b := range w {
		w[b] = q.AWeight(max(30, hear.ERBFrequency(float64(b)+0.5)))
	}
	return w
})

// gains are weights as factors on power.
var gains = sync.OnceValue(func() [hear.Bands]float64 {
	g := weights()
	for b := range g {
		g[b] = math.Pow(10, g[b]/10)
	}
	return g
})

// sketchRate is the rate at which sounds are compared; others are brought to it.
const sketchRate = 48000

// channels gives the channels whose powers are added up, each with how often it counts: one channel counts as two of the same.
func channels(w hear.Wave) (list [][]float64, times float64) {
	if w.Right == nil || slices.Equal(w.Left, w.Right) {
		return [][]float64{w.Left}, 2
	}
	return [][]float64{w.Left, w.Right}, 1
}

// Sketched makes the sketch of a sound, or of several renderings of one sound with other phases (Mean).
func Sketched(waves ...hear.Wave) *Sketch {
	list := make([]*Sketch, len(waves))
	for i, w := range waves {
		list[i] = sketched(w)
	}
	if len(list) == 1 {
		return list[0]
	}
	return Mean(list)
}

func sketched(w hear.Wave) *Sketch { return SketchedBy(1, w) }

// SketchedBy makes the sketch of a sound on so many goroutines.
func SketchedBy(workers int, w hear.Wave) *Sketch {
	w = w.At(sketchRate)
	if w.Right == nil {
		w.Right = w.Left
	}
	s := &Sketch{Hop: float64(frameHop) / w.Rate}
	s.power, s.loud = framesOf(w, workers)
	beside(workers, func() { s.listen(w) }, func() {
		s.Loudness = gated(s.loud, s.Hop)
		s.fill(s.power)
		s.moves()
	})
	return s
}

// beside does two things, on so many goroutines.
func beside(workers int, one, other func()) {
	if workers < 2 {
		one()
		other()
		return
	}
	var fault any
	done := make(chan struct{})
	go func() {
		defer close(done)
		defer func() { fault = recover() }()
		other()
	}()
	one()
	<-done
	if fault != nil {
		panic(fault) // to fall where somebody may catch it
	}
}

// Mean is the sketch of several renderings of one sound: levels are the means of their powers, so that what hangs on where a beat stands averages out; how
// much they move is the mean of how much each does, as a mean of powers does not beat.
func Mean(list []*Sketch) *Sketch {
	s := &Sketch{Loudness: -90}
	if len(list) == 0 {
		return s
	}
	n := float64(len(list))
	s.Hop = list[0].Hop
	for _, x := range list {
		for i := range x.power {
			if i == len(s.power) {
				s.power, s.loud = append(s.power, make([]float64, hear.Bands)), append(s.loud, 0)
			}
			s.loud[i] += x.loud[i] / n
			for b, p := range x.power[i] {
				s.power[i][b] += p / n
			}
		}
		for i, at := range x.places {
			for len(s.places) <= i {
				s.places = append(s.places, nil)
			}
			s.places[i] = append(s.places[i], at...)
		}
	}
	s.Loudness = gated(s.loud, s.Hop)
	s.fill(s.power)
	s.Motion = make([][]float64, hear.Bands)
	for b := range s.Motion {
		s.Motion[b] = make([]float64, len(rates))
		for _, x := range list {
			for r := range rates {
				s.Motion[b][r] += x.Motion[b][r] / n
			}
		}
	}
	for i := range s.places {
		// all of every take: the strongest of all takes together would be the first few of each
		slices.SortFunc(s.places[i], func(a, b partial) int { return cmp.Compare(a.hz, b.hz) })
	}
	return s
}

// kWeights are the gains of the K weighting on power at the bins of a spectrum.
var kWeights = sync.OnceValue(func() []float64 {
	out := make([]float64, frameSize/2+1)
	k := dsp.KWeighting(sketchRate)
	for i := range out {
		g := k[0].Gain(float64(i)*sketchRate/frameSize, sketchRate) * k[1].Gain(float64(i)*sketchRate/frameSize, sketchRate)
		out[i] = g * g
	}
	return out
})

// bandOfBin is the auditory band of each bin of a spectrum.
var bandOfBin = sync.OnceValue(func() []int {
	out := make([]int, frameSize/2+1)
	for i := range out {
		out[i] = int(hear.ERBNumber(float64(i) * sketchRate / frameSize))
	}
	return out
})

// frameSize is the length of a frame in samples, about 43 ms; frameHop how far they lie apart.
const (
	frameSize = 2048
	frameHop  = frameSize / 2
)

// framing is what all spectra of frames share.
var framing = sync.OnceValue(func() *dsp.Frames { return dsp.NewFrames(frameSize) })

// framesOf gives the power of each auditory band in each frame, both channels together, and that of the whole under the K weighting.
func framesOf(w hear.Wave, workers int) (bands [][]float64, weighted []float64) {
	list, times := channels(w)
	band, kw := bandOfBin(), kWeights()
	unit := times / frameSize / frameSize
	// of a sine of power p the bins' squares sum to p/2 frameSize times the sum of the window's squares, which is 3/8 frameSize
	whole := 16.0 / 3 * unit
	// half a frame of silence before, so that the first attack has its frame
	n := 0
	if len(w.Left) > 0 {
		n = (len(w.Left)-1)/frameHop + 2
	}
	bands, weighted = make([][]float64, n), make([]float64, n)
	power := make([]float64, n*hear.Bands)
	part := func(from, to int) func() {
		return func() {
			frames, both := framing().Beside(), make([]float64, frameSize/2+1)
			for a := from; a < to; a++ {
				for _, x := range list {
					for i, c := range frames.Coefficients(x, (a-1)*frameHop) {
						both[i] += real(c)*real(c) + imag(c)*imag(c)
					}
				}
				out, sum := power[a*hear.Bands:(a+1)*hear.Bands:(a+1)*hear.Bands], 0.0
				for i, p := range both {
					sum += kw[i] * p
					if b := band[i]; b < hear.Bands {
						out[b] += unit * p
					}
				}
				clear(both)
				bands[a], weighted[a] = out, whole*sum
			}
		}
	}
	beside(workers, part(0, n/2), part(n/2, n))
	return bands, weighted
}

// gated gives the loudness of frames in LUFS by ITU-R BS.1770: the mean over stretches of 400 ms above -70 LUFS and above 10 LU below the mean of those.
// A stretch begins with every frame, so that a sound that begins a little later is as loud. -90 where there is nothing.
func gated(frames []float64, hop float64) float64 {
	for top := slices.Max(append(slices.Clone(frames), 0)); len(frames) > 0 && frames[0] <= 1e-6*top; {
		frames = frames[1:] // what is silent before is none of it
	}
	n := min(len(frames), max(1, int(math.Round(0.4/hop))))
	var blocks []float64
	sum := 0.0
	for i, p := range frames {
		if sum += p; i >= n {
			sum -= frames[i-n]
		}
		if i >= n-1 {
			blocks = append(blocks, max(0, sum/float64(n)))
		}
	}
	mean := func(over float64) float64 {
		sum, count := 0.0, 0
		for _, b := range blocks {
			if b > over {
				sum += b
				count++
			}
		}
		return sum / float64(max(count, 1))
	}
	of := func(lufs float64) float64 { return math.Pow(10, (lufs+0.691)/10) }
	first := mean(of(-70))
	if first == 0 {
		return -90
	}
	return -0.691 + 10*math.Log10(mean(max(of(-70), first/10)))
}

// fill works out what hangs on the powers of the bands.
func (s *Sketch) fill(power [][]float64) {
	g := gains()
	top := math.Inf(-1)
	for _, list := range power {
		var sum, first, comp float64
		levels := make([]float64, hear.Bands)
		for b, p := range list {
			levels[b] = 10 * math.Log10(p+1e-13)
			p *= g[b]
			sum += p
			if p > 0 {
				l := math.Exp(0.3 * math.Log(p)) // loudness of a band (Stevens' law, from memory)
				first += l * (float64(b) + 0.5)
				comp += l
			}
		}
		c := 10 * math.Log10(sum+1e-13)
		top = max(top, c)
		s.Levels, s.Contour = append(s.Levels, levels), append(s.Contour, c)
		centre := math.NaN()
		if comp > 0 {
			centre = first / comp
		}
		s.Centre = append(s.Centre, centre)
	}
	s.Mean = make([]float64, hear.Bands)
	n := 0.0
	for i, c := range s.Contour {
		if c < top-floor {
			s.Centre[i] = math.NaN()
			continue
		}
		n++
		for b, p := range power[i] {
			s.Mean[b] += p
		}
	}
	for b := range s.Mean {
		s.Mean[b] = 10 * math.Log10(s.Mean[b]/max(n, 1)+1e-13)
	}
}

// moves finds how much each band moves at each rate, about its own course smoothed over a second.
func (s *Sketch) moves() {
	top := loudest(s)
	n := len(s.Levels)
	series, sums, means := make([]float64, n), make([]float64, n+1), [2][]float64{make([]float64, n), make([]float64, n)}
	for b := range hear.Bands {
		out := make([]float64, len(rates))
		peak := math.Inf(-1)
		for i := range series {
			series[i] = max(s.Levels[i][b], top-60)
			peak = max(peak, series[i])
		}
		if peak > top-floor {
			for k, y := range series {
				sums[k+1] = sums[k] + y
			}
			lo, hi := means[0], means[1]
			smooth(series, sums, 1/rates[0]/s.Hop, hi)
			for r, rate := range rates {
				// the energy that is left when the mean over one period is taken from the mean over half of one, which is a period of the next rate
				lo, hi = hi, lo
				smooth(series, sums, 0.5/rate/s.Hop, hi)
				sum, c := 0.0, 0.0
				for i := range series {
					if s.Contour[i] > top-30 {
						d := hi[i] - lo[i]
						sum += d * d
						c++
					}
				}
				if c > 0 {
					out[r] = math.Sqrt(sum / c) // decibels, effective
				}
			}
		}
		s.Motion = append(s.Motion, out)
	}
}

// smooth puts the running mean over n frames (not a whole number) in out; sum has the sums of the frames before each.
func smooth(x, sum []float64, n float64, out []float64) {
	last := float64(len(x))
	at := func(p float64) float64 {
		i := int(p)
		if i >= len(x) {
			return sum[len(x)]
		}
		return sum[i] + (p-float64(i))*x[i]
	}
	for k := range x {
		middle := float64(k) + 0.5
		a, b := middle-n/2, middle+n/2
		if a < 0 {
			a = 0
		}
		if b > last {
			b = last
		}
		if b-a < 1e-9 {
			out[k] = x[k]
			continue
		}
		out[k] = (at(b) - at(a)) / (b - a)
	}
}

// Difference gives by how many decibels each auditory band of each frame of a lies above b, as they are heard: under A-weighting, what is more than floor below
// the loudest of a counts as that. Frames beyond the end of a are left out. One frame follows the other, band by band.
func Difference(a, b *Sketch) []float64 {
	w := weights()
	top := math.Inf(-1)
	for _, list := range a.Levels {
		for i, x := range list {
			top = max(top, x+w[i])
		}
	}
	least := top - floor
	out := make([]float64, 0, len(a.Levels)*hear.Bands)
	for i, list := range a.Levels {
		for k, x := range list {
			y := least
			if i < len(b.Levels) {
				y = max(least, b.Levels[i][k]+w[k])
			}
			out = append(out, max(least, x+w[k])-y)
		}
	}
	return out
}
