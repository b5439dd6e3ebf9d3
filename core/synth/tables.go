package synth

import (
	"math"
	"sync"

	"gonum.org/v1/gonum/dsp/fourier"

	"glossator/core/dsp"
	q "glossator/core/quantity"
)

// Rate is the rate of everything that is rendered, in samples a second.
const Rate = 48000

const (
	tableSize = 4096
	// bandsPerOctave is how many tables an octave has: the highest harmonic lies within a quarter
	// octave of topHarmonic.
	bandsPerOctave = 4
	lowestBand     = 8.0 // Hz
	bandCount      = 12 * bandsPerOctave
	topHarmonic    = 22000.0 // Hz
	maxHarmonics   = 1400
)

// table is one cycle with a guard sample at its end.
type table [tableSize + 1]float32

// at reads the table at a phase of 0 to 1 by linear interpolation.
func (t *table) at(phase float64) float64 {
	x := phase * tableSize
	i := int(x)
	if uint(i) >= tableSize {
		i = tableSize - 1
	}
	a := float64(t[i])
	return a + (x-float64(i))*(float64(t[i+1])-a)
}

// shape is a wave of one cycle by its harmonics, with tables that have as many of them as fit
// below topHarmonic at the frequency played.
type shape struct {
	re, im []float64 // of harmonic n: re cos + im sin
	mu     sync.Mutex
	bands  [bandCount]*table
}

func bandOf(f float64) int {
	if f <= lowestBand {
		return 0
	}
	return min(bandCount-1, int(bandsPerOctave*math.Log2(f/lowestBand))+0)
}

// harmonicsIn gives how many harmonics a band may have.
func harmonicsIn(band int) int {
	top := lowestBand * math.Exp2(float64(band+1)/bandsPerOctave)
	return min(maxHarmonics, max(1, int(topHarmonic/top)))
}

// band gives the table for a frequency.
func (s *shape) band(f float64) *table {
	b := bandOf(math.Abs(f))
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.bands[b] == nil {
		s.bands[b] = s.table(min(harmonicsIn(b), len(s.re)-1))
	}
	return s.bands[b]
}

// table adds up the first n harmonics.
func (s *shape) table(n int) *table {
	c := make([]complex128, tableSize/2+1)
	for h := 1; h <= n && h < tableSize/2; h++ {
		c[h] = complex(s.re[h]/2, -s.im[h]/2)
	}
	seq := fourier.NewFFT(tableSize).Sequence(nil, c)
	t := &table{}
	for i, x := range seq {
		t[i] = float32(x)
	}
	t[tableSize] = t[0]
	return t
}

// harmonicShape makes a shape of harmonics as they are in quantity.Wave.
func harmonicShape(list []q.Harmonic) *shape {
	s := &shape{re: make([]float64, len(list)+1), im: make([]float64, len(list)+1)}
	for i, h := range list {
		s.re[i+1], s.im[i+1] = h.Amplitude*math.Sin(h.Phase), h.Amplitude*math.Cos(h.Phase)
	}
	return s
}

// plain has the waves that every engine shares; they do not change once they are made.
var plain = sync.OnceValue(func() map[string]*shape {
	out := map[string]*shape{}
	for _, w := range []string{q.WaveSaw, q.WaveTriangle, q.WaveSine} {
		n := maxHarmonics
		if w == q.WaveSine {
			n = 1
		}
		out[w] = harmonicShape(q.Wave{Name: w}.Harmonics(n))
	}
	return out
})

// Frames is the table that is played where a panel does not say what its own holds.
const Frames = "sine, triangle, saw, pulse 50 %, pulse 10 %"

// frame gives the harmonics at a position (0 to 1) of a table, all in sine phase, so that what two waves
// share does not cancel.
func frame(table string, pos, width float64) []q.Harmonic {
	waves, err := q.ParseTable(table)
	if err != nil {
		waves, _ = q.ParseTable(Frames)
	}
	out := make([]q.Harmonic, maxHarmonics)
	for n, a := range q.TableAmplitudes(waves, pos, q.Ratio(width), maxHarmonics) {
		out[n].Amplitude = a
	}
	return out
}

const (
	frameSteps = 64
	warpSteps  = 32
	sampled    = 16384 // points at which a warped wave is taken
)

// shapeKey names a wave that is made on demand; positions are in steps.
type shapeKey struct {
	wave, table   string
	frame, amount int
	width         int
	warp          string
}

// Bank keeps waves that are made on demand, from one rendering to the next where it is handed on (Options.Bank). Several goroutines may use it.
type Bank struct {
	mu    sync.Mutex
	made  map[shapeKey]*shape
	rooms sync.Pool // of *[]float64: what one rendering has filled, for the next
}

// NewBank makes an empty bank.
func NewBank() *Bank { return &Bank{made: map[shapeKey]*shape{}} }

// room gives n zeros, of what leave has given back where that is enough.
func (b *Bank) room(n int) []float64 {
	if x, _ := b.rooms.Get().(*[]float64); x != nil && cap(*x) >= n {
		clear((*x)[:n])
		return (*x)[:n]
	}
	return make([]float64, n, (n/roomStep+1)*roomStep)
}

// roomStep is what room comes in, in samples: enough that a tail that is a little longer still fits, little where a sound is kept.
const roomStep = 1 << 13

// leave gives room back. Nobody may look at it after that.
func (b *Bank) leave(x []float64) {
	if cap(x) > 0 {
		b.rooms.Put(&x)
	}
}

// Leave gives back the room of a sound that has been rendered with the bank and is done with: a search renders hundreds.
func (b *Bank) Leave(s *Sound) {
	b.leave(s.Left)
	b.leave(s.Right)
	s.Left, s.Right = nil, nil
}

// bankSize is how many waves a bank keeps: of each a few tables of 16 kB are made.
const bankSize = 600

func (b *Bank) get(k shapeKey) *shape {
	if k.warp == "none" || k.amount == 0 {
		k.warp, k.amount = "", 0
	}
	if k.warp == "" && k.wave != waveTable && k.wave != q.WavePulse {
		if s := plain()[k.wave]; s != nil {
			return s
		}
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	if s, ok := b.made[k]; ok {
		return s
	}
	var s *shape
	switch k.wave {
	case waveTable:
		s = harmonicShape(frame(k.table, float64(k.frame)/frameSteps, float64(k.width)/frameSteps))
	case q.WavePulse:
		s = harmonicShape(q.Wave{Name: q.WavePulse, Width: q.Ratio(float64(k.width) / frameSteps)}.Harmonics(maxHarmonics))
	default:
		s = plain()[k.wave]
		if s == nil {
			if list := (q.Wave{Name: k.wave}).Harmonics(maxHarmonics); list != nil { // drawn
				s = harmonicShape(list)
			} else {
				s = plain()[q.WaveTriangle]
			}
		}
	}
	if k.warp != "" {
		s = warped(s, k.warp, float64(k.amount)/warpSteps)
	}
	if len(b.made) >= bankSize {
		clear(b.made)
	}
	b.made[k] = s
	return s
}

const waveTable = "table"

// warped changes the shape of a cycle (dsp.Warp). The result is analysed again, so that it stays band-limited.
func warped(s *shape, kind string, amount float64) *shape {
	c := make([]complex128, sampled/2+1)
	for h := 1; h < len(s.re) && h < len(c); h++ {
		c[h] = complex(s.re[h]/2, -s.im[h]/2)
	}
	fft := fourier.NewFFT(sampled)
	out := dsp.Warp(fft.Sequence(nil, c), kind, amount)
	co := fft.Coefficients(nil, out)
	made := &shape{re: make([]float64, maxHarmonics+1), im: make([]float64, maxHarmonics+1)}
	for h := 1; h <= maxHarmonics; h++ {
		made.re[h], made.im[h] = 2*real(co[h])/sampled, -2*imag(co[h])/sampled
	}
	return made
}
