// Package sampled makes an instrument of samples out of a sound: notes over the keyboard, rendered, with what carries over of how they are played.
package sampled

import (
	"fmt"
	"math"
	"slices"

	"golang.org/x/sync/errgroup"

	"glossator/core/audition"
	"glossator/core/meaning"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/quantity"
	"glossator/core/synth"
)

// How samples are taken (common practice, no source).
const (
	Apart    = 3    // semitones between them
	held     = 3.5  // seconds that a key is held
	loopFor  = 1.0  // seconds of what is repeated
	fade     = 0.25 // seconds over which the end of a loop becomes its beginning
	sounding = -45  // decibels below the loudest down to which a held note goes on
	gone     = -60  // decibels below what it was at which a note has ended
	short    = 0.002
)

// Set is an instrument of samples.
type Set struct {
	Name    string
	Regions []Region
	// Mono lets one note sound at a time; Bend is the bend range in cents.
	Mono bool
	Bend float64
	// Left says what does not carry over.
	Left []string
}

// Region is a sample and where it plays.
type Region struct {
	Key, Low, High   int
	Velocity         int
	Softest, Hardest int
	Left, Right      []float64 // at synth.Rate
	LoopFrom, LoopTo int       // in samples, the last included; both 0 where it ends by itself
	Release          float64   // seconds until it is gone after the key is left
}

// Task is what to make it of.
type Task struct {
	Name   string
	Layers []synth.Layer
	// Low and High are the keys that it is to cover, 0 to 127.
	Low, High int
	// Wheel is where the modulation wheel is held, 0 to 1.
	Wheel float64
	Seed  uint64
	// Progress is told how far it is, 0 to 1; Stop asked whether to give up. Both may be nil.
	Progress func(share float64)
	Stop     func() bool
}

// Make renders the samples. It refuses a range without a key, and a sound that is silent on all of them.
func Make(t Task) (*Set, error) {
	if t.Low < 0 || t.High > 127 || t.Low > t.High {
		return nil, fmt.Errorf("expected keys from 0 to 127, the lowest first, got %d to %d", t.Low, t.High)
	}
	if len(t.Layers) == 0 {
		return nil, synth.ErrNothing
	}
	velocities := []int{100}
	answers, err := answersToVelocity(&t)
	if err != nil {
		return nil, err
	}
	if answers {
		velocities = []int{45, 85, 120}
	}
	out := &Set{Name: t.Name}
	for key := t.Low + Apart/2; ; key += Apart {
		last := key+Apart/2 >= t.High
		for i, v := range velocities {
			r := Region{Key: min(key, t.High), Low: key - Apart/2, High: key + Apart/2, Velocity: v, Softest: 1, Hardest: 127}
			if last {
				r.High = t.High
			}
			if i > 0 {
				r.Softest = (velocities[i-1]+v)/2 + 1
			}
			if i+1 < len(velocities) {
				r.Hardest = (v + velocities[i+1]) / 2
			}
			out.Regions = append(out.Regions, r)
		}
		if last {
			break
		}
	}
	var g errgroup.Group
	g.SetLimit(2)
	done := make(chan struct{}, len(out.Regions))
	for i := range out.Regions {
		g.Go(func() error {
			err := out.Regions[i].render(&t)
			done <- struct{}{}
			return err
		})
	}
	if t.Progress != nil {
		for i := range out.Regions {
			<-done
			t.Progress(float64(i+1) / float64(len(out.Regions)))
		}
	}
	if err := g.Wait(); err != nil {
		return nil, err
	}
	out.Regions = slices.DeleteFunc(out.Regions, func(r Region) bool { return peak(r.Left, r.Right) < 1e-5 })
	if len(out.Regions) == 0 {
		return nil, synth.ErrNothing
	}
	out.say(t.Layers)
	return out, nil
}

// answersToVelocity tells whether how hard a key is struck changes what is heard.
func answersToVelocity(t *Task) (bool, error) {
	var two [2]*synth.Sound
	for i, v := range []int{30, 120} {
		var err error
		if two[i], err = synth.Render(still(t.Layers), []phrase.Note{{End: 0.5, Key: float64((t.Low + t.High) / 2), Velocity: v}}, synth.Options{Seed: t.Seed, Wheel: t.Wheel, Tail: 1, Stop: t.Stop}); err != nil {
			return false, err
		}
	}
	return !slices.Equal(two[0].Left, two[1].Left) || !slices.Equal(two[0].Right, two[1].Right), nil
}

// still gives layers without what is moved in a phrase, which is not played here.
func still(layers []synth.Layer) []synth.Layer {
	out := slices.Clone(layers)
	for i := range out {
		out[i].Played, out[i].Moved = nil, nil
	}
	return out
}

// render plays the key, and finds where it can be repeated and how long it rings on.
func (r *Region) render(t *Task) error {
	s, err := synth.Render(still(t.Layers), []phrase.Note{{End: held, Key: float64(r.Key), Velocity: r.Velocity}}, synth.Options{Seed: t.Seed, Wheel: t.Wheel, Tail: 8, Workers: 1, Stop: t.Stop})
	if err != nil {
		return err
	}
	r.Left, r.Right = s.Left, s.Right
	up := min(int(held*synth.Rate), len(r.Left))
	loudest, atUp := envelope(r.Left, r.Right, 0, up), level(r.Left, r.Right, up-int(0.1*synth.Rate), up)
	r.Release = ringing(r.Left, r.Right, up, atUp)
	if atUp < loudest*math.Pow(10, sounding/20.0) { // it has ended by itself
		return nil
	}
	period := synth.Rate / float64(quantity.Note(r.Key).Frequency())
	n := int(math.Round(math.Round(loopFor*synth.Rate/period) * period))
	r.LoopTo = up - 1 - int(0.01*synth.Rate)
	r.LoopFrom = r.LoopTo - n + 1
	f := int(fade * synth.Rate)
	for _, x := range [][]float64{r.Left, r.Right} {
		for i := range f { // the end of the loop becomes what comes before its beginning
			w := float64(i+1) / float64(f)
			at := r.LoopTo - f + 1 + i
			x[at] = x[at]*math.Cos(w*math.Pi/2) + x[at-n]*math.Sin(w*math.Pi/2)
		}
	}
	if last := r.LoopTo + 1 + int(0.01*synth.Rate); last < len(r.Left) { // what rings on is played by the release
		r.Left, r.Right = r.Left[:last], r.Right[:last]
	}
	return nil
}

// envelope gives the loudest twentieth of a second.
func envelope(a, b []float64, from, to int) float64 {
	most, n := 0.0, int(0.05*synth.Rate)
	for i := from; i+n <= to; i += n {
		most = max(most, level(a, b, i, i+n))
	}
	return most
}

// level gives the root of the mean square of both sides.
func level(a, b []float64, from, to int) float64 {
	sum := 0.0
	for i := max(from, 0); i < to; i++ {
		sum += a[i]*a[i] + b[i]*b[i]
	}
	return math.Sqrt(sum / float64(max(1, 2*(to-max(from, 0)))))
}

// ringing gives how long a sound goes on from a place until it is gone.
func ringing(a, b []float64, from int, was float64) float64 {
	n := int(0.005 * synth.Rate)
	last := from
	for i := from; i+n <= len(a); i += n {
		if level(a, b, i, i+n) > was*math.Pow(10, gone/20.0) {
			last = i + n
		}
	}
	return max(short, float64(last-from)/synth.Rate)
}

func peak(a, b []float64) (most float64) {
	for i := range a {
		most = max(most, math.Abs(a[i]), math.Abs(b[i]))
	}
	return most
}

// say takes over what the voices say of playing, and lists what samples have no way for.
func (s *Set) say(layers []synth.Layer) {
	s.Left = []string{"What moves the sound (LFOs, envelopes, chance) is in the samples, and begins with each note.", "Effects are in the samples: what rings on ends with the release."}
	for _, y := range layers {
		for i := range y.Meaning.Modules {
			m := &y.Meaning.Modules[i]
			if m.Kind != meaning.Voice {
				continue
			}
			if mode, ok := m.Get(meaning.PMode); ok && mode.Name == "mono" {
				s.Mono = true
			}
			if b, ok := m.Get(meaning.PBend); ok {
				s.Bend = max(s.Bend, b.Value)
			}
			if g, ok := m.Get(meaning.PGlide); ok && !g.Off && g.Value > 0 {
				s.Left = append(s.Left, "Glide: a sample has none.")
			}
		}
		for _, r := range y.Meaning.Routes {
			for _, by := range []string{r.From, r.Via} {
				if by == "wheel" || by == "pressure" {
					if text := fmt.Sprintf("What the %s does: the samples have it as it was held.", by); !slices.Contains(s.Left, text) {
						s.Left = append(s.Left, text)
					}
				}
			}
		}
	}
	if slices.ContainsFunc(s.Regions, func(r Region) bool { return r.LoopTo > 0 }) {
		s.Left = append(s.Left, "Held notes repeat their last second: slower movement starts over.")
	}
}

// Range is what an instrument of samples covers: an octave about the notes of the patch's line, two octaves at least.
func Range(p *patch.Patch) (low, high int) {
	low, high = 48, 72
	notes, _, err := audition.Notes(p, "", 0)
	if err == nil && len(notes) > 0 {
		low, high = 127, 0
		for _, n := range notes {
			low, high = min(low, int(n.Key)), max(high, int(n.Key))
		}
		low, high = low-12, high+12
	}
	for high-low < 24 {
		low, high = low-1, high+1
	}
	return max(low, 0), min(high, 127)
}
