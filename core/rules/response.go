package rules

import (
	"maps"
	"math"
	"math/cmplx"
	"slices"

	"glossator/core/dsp"
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

const responsePenalty = 0.1

var response = Rule{ID: "response", Name: "Filter by the one whose response is nearest",
	Needs: "a filter whose mode the target has not", Uses: "a filter of another mode, with its cutoff where the phrase's notes come out nearest",
	Penalty: responsePenalty, Why: "it is nearest at the notes of the phrase; another slope and another peak stay heard", Source: "circuit theory: least squares in decibels over the harmonics of a note",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Filter) {
			mode := named(m, meaning.PMode)
			if m.Changed() || c.Word(meaning.Filter, meaning.PMode, mode) {
				continue
			}
			gain := c.gainOf(m)
			x := c.nearestFilter(m, gain)
			if x == nil || x.apart >= x.open-0.5 { // none is as near
				continue
			}
			e := c.begin("%s is not there: a %s at %s is nearest to it at %s", mode, x.mode, text(q.DimFrequency, x.cutoff), c.note().NoteName())
			e.part(m.ID)
			x.into(e.change(m.ID))
			e.worse(c, responsePenalty, x.share())
			out = append(out, e.Recast)
		}
		return out
	}}

var oneFilter = Rule{ID: "one-filter", Name: "Two filters by one",
	Needs: "two filters side by side where the target has them in a row, or the other way round, or one", Uses: "one filter, set so that the phrase's notes come out nearest to what the two do together",
	Penalty: responsePenalty, Why: "one slope and one peak where there were two", Source: "circuit theory: gains of filters side by side add, in a row they multiply",
	try: func(c *Case) []Recast {
		if len(c.lost(meaning.Filter)) == 0 {
			return nil
		}
		graph := c.Meaning.Graph()
		path, voiced := graph.Path(), graph.Filters()
		if len(voiced) != 2 || voiced[0].Changed() || voiced[1].Changed() || !c.Lost[voiced[0].ID] && !c.Lost[voiced[1].ID] {
			return nil
		}
		a, b := voiced[0], voiced[1]
		// the one that is moved more stays itself
		keep, gone := a, b
		if len(c.into(b.ID, meaning.PCutoff)) > len(c.into(a.ID, meaning.PCutoff)) {
			keep, gone = b, a
		}
		gains := map[string]func(float64) complex128{a.ID: c.gainOf(a), b.ID: c.gainOf(b)}
		sources := c.soundingBy(path)
		if len(sources) == 0 {
			return nil
		}
		ids, spectra := slices.Sorted(maps.Keys(sources)), map[string][]float64{}
		for _, id := range ids {
			spectra[id] = Harmonics(c.Meaning.Module(id), HarmonicsCompared)
		}
		x := c.nearestFilter(keep, func(hz float64) complex128 { // of the power of all sources together there, each by its own way
			sum, all := 0.0, 0.0
			for _, id := range ids {
				power := sources[id] * c.reaches(hz, spectra[id], c.Meaning.Module(id))
				g := path.Gain(id, func(f *meaning.Module) complex128 { return gains[f.ID](hz) })
				sum, all = sum+power*(real(g)*real(g)+imag(g)*imag(g)), all+power
			}
			return complex(math.Sqrt(sum/max(all, 1e-12)), 0)
		})
		if x == nil {
			return nil
		}
		how := "in a row"
		if graph.SideBySide(a, b) {
			how = "side by side"
		}
		e := c.begin("%s and %s %s come out nearest at %s by one %s at %s", a.Label, b.Label, how, c.note().NoteName(), x.mode, text(q.DimFrequency, x.cutoff))
		e.part(keep.ID)
		n := e.change(keep.ID)
		x.into(n)
		delete(n.Params, meaning.PRouting)
		e.drop(gone.ID)
		e.Moved[gone.ID] = n.ID
		e.Map[meaning.Ref(gone.ID, meaning.PCutoff)] = meaning.Ref(n.ID, meaning.PCutoff)
		e.worse(c, responsePenalty, x.share())
		return e.done()
	}}

// reaches gives what a source's power counts for about a frequency: whole where it has harmonics there, at the middle of the notes played, next to nothing where they have ended, as a sine's have far above its own.
func (c *Case) reaches(hz float64, harmonics []float64, m *meaning.Module) float64 {
	const faint, ended = 1e-2, 1e-6
	k := hz / c.hertzOf(m)
	for n := max(1, int(k/1.5)); n <= int(math.Ceil(1.5*k)); n++ {
		if harmonics == nil || n > len(harmonics) && harmonics[len(harmonics)-1] > faint/4 || n <= len(harmonics) && harmonics[n-1] > faint {
			return 1
		}
	}
	return ended
}

// soundingBy gives the power of each oscillator whose sound goes through a filter.
func (c *Case) soundingBy(path *meaning.Path) map[string]float64 {
	out := map[string]float64{}
	for _, k := range []meaning.Kind{meaning.Osc, meaning.Sub, meaning.Operator} {
		for _, m := range c.used(k) {
			name := meaning.PLevel
			if k == meaning.Operator {
				name = meaning.POutput
			}
			if !off(m, name) && len(path.FiltersOf(m.ID)) > 0 {
				out[m.ID] = math.Pow(10, get(m, name)/10)
			}
		}
	}
	return out
}

// opened gives how many octaves what moves a filter's cutoff has it open while a note is held.
func (c *Case) opened(f *meaning.Module) float64 { return c.openedBy(f.ID, meaning.PCutoff) }

// openedBy gives by how much what moves a parameter moves it while a note is held: envelopes a third of the way from their sustain to full, velocity
// at 100 (common practice, no source).
func (c *Case) openedBy(id string, name meaning.ParamName) float64 {
	sum := 0.0
	for _, r := range c.into(id, name) {
		switch e := c.Meaning.Module(r.From); {
		case r.Via != "":
		case r.From == "velocity":
			sum += r.Depth.Value * 100 / 127
		case e != nil && e.Kind == meaning.Env:
			s := get(e, meaning.PSustain)
			sum += r.Depth.Value * (s + (1-s)/3)
		}
	}
	return sum
}

// gainOf gives the gain of a filter on the note, held.
func (c *Case) gainOf(f *meaning.Module) func(hz float64) complex128 {
	held := *f
	held.Params = maps.Clone(f.Params)
	if !off(f, meaning.PCutoff) {
		put(&held, meaning.PCutoff, get(f, meaning.PCutoff)*math.Exp2(c.opened(f)))
	}
	return func(hz float64) complex128 { return held.FilterGain(float64(c.note()), hz) }
}

// note is the middle of the notes played.
func (c *Case) note() q.Note {
	if c.Note == 0 {
		return q.MiddleC
	}
	return c.Note
}

// nearest is a filter that comes near to a response: apart in decibels, effective, open the same of no filter.
type nearest struct {
	mode        string
	cutoff, res float64
	apart, open float64
}

// share turns how far it is apart into a share of what is lost.
func (x *nearest) share() float64 { return x.apart / (x.apart + 6) }

func (x *nearest) into(m *meaning.Module) {
	word(m, meaning.PMode, x.mode)
	put(m, meaning.PCutoff, x.cutoff)
	put(m, meaning.PResonance, x.res)
	delete(m.Params, meaning.PMorph)
}

// nearestFilter looks for the mode, of those that the target has, and the cutoff at middle C whose response is nearest to one at the harmonics of the note;
// tracking and poles are those of like. nil where none is nearer than no filter.
func (c *Case) nearestFilter(like *meaning.Module, want func(hz float64) complex128) *nearest {
	key := float64(c.note())
	f0 := float64(c.note().Frequency())
	var hz, level, weight []float64
	for n := 1; n <= 40 && float64(n)*f0 < 14000; n++ {
		if n > 12 && n%4 != 0 {
			continue
		}
		f := float64(n) * f0
		hz = append(hz, f)
		level = append(level, math.Max(-60, 20*math.Log10(cmplx.Abs(want(f))+1e-9)))
		// as loud as a harmonic of a saw is through it (Stevens' law)
		weight = append(weight, math.Pow(10, 0.03*(level[len(level)-1]+q.AWeight(f)-20*math.Log10(float64(n)))))
	}
	apart := func(gain func(f float64) float64) float64 {
		var sum, all, first float64
		for i, f := range hz {
			got := math.Max(-60, gain(f))
			d, w := got-level[i], weight[i]
			if got > level[i] { // what it lets through besides is heard, too
				w *= math.Pow(10, 0.03*(got-level[i]))
			}
			first += w * d
			all += w
			sum += w * d * d
		}
		if all == 0 {
			return 0
		}
		louder := math.Max(-6, math.Min(6, first/all)) // the level can be put right
		return math.Sqrt(math.Max(0, sum/all-2*louder*first/all+louder*louder))
	}
	best := &nearest{apart: math.Inf(1), open: apart(func(float64) float64 { return 0 })}
	track := get(like, meaning.PTrack)
	poles := max(1, int(math.Round(get(like, meaning.PPoles))))
	for _, mode := range []string{"lowpass", "highpass", "bandpass", "notch"} {
		if !c.Word(meaning.Filter, meaning.PMode, mode) {
			continue
		}
		for _, res := range []float64{0, math.Min(0.6, get(like, meaning.PResonance))} {
			for i := range 36 {
				cutoff := 40 * math.Pow(400, float64(i)/35)
				r := dsp.Response{Mode: dsp.Modes[mode], Poles: poles, Cutoff: cutoff * math.Exp2(track*(key-float64(q.MiddleC))/12), Resonance: res}
				if d := apart(func(f float64) float64 { return 20 * math.Log10(cmplx.Abs(r.Gain(f))+1e-9) }); d < best.apart-1e-9 {
					best.mode, best.cutoff, best.res, best.apart = mode, cutoff, res, d
				}
			}
			if get(like, meaning.PResonance) == 0 {
				break
			}
		}
	}
	if best.mode == "" {
		return nil
	}
	best.cutoff *= math.Exp2(-c.opened(like)) // what moves it goes on moving it
	return best
}
