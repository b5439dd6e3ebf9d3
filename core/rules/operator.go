package rules

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"sort"
	"strings"
	once "sync"

	"glossator/core/dsp"
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// indexAtFull is the modulation index that a depth of 100 % is counted as (common practice, no
// source: instruments differ by a factor of four).
const indexAtFull = math.Pi

// Index gives the modulation index that an operator at a level makes by a route of some depth.
func Index(depth float64, level q.Level) float64 {
	return math.Abs(depth) * indexAtFull * level.Amplitude()
}

const operatorPenalty = 0.3

var operators = Rule{ID: "operator", Name: "Operators to the nearest wave",
	Needs: "operators that are heard, and none on the target", Uses: "one oscillator for each, and a filter where one is left",
	Penalty: operatorPenalty, Why: "a wave is fixed where modulation moves with its envelopes; clangs of odd ratios become plain", Source: "Chowning, JAES 21(7), 1973: sidebands by Bessel functions",
	try: func(c *Case) []Recast {
		heard := c.carriers()
		if len(heard) == 0 || c.Have(meaning.Osc) == 0 {
			return nil
		}
		// what is dearest goes first
		sort.SliceStable(heard, func(a, b int) bool { return c.Weight(heard[a].ID) > c.Weight(heard[b].ID) })
		var out []Recast
		for _, m := range heard {
			e, spare := c.waves(operatorPenalty, nil, m)
			var opened []Recast
			if c.sounding() == 1 {
				opened = c.wavesAndFilter(e, spare, m)
			}
			for _, id := range spare {
				e.drop(id) // it moved nothing else
			}
			e.Penalty += (1 - operatorPenalty) * c.moving(m) * c.Weight(m.ID)
			if x := c.clang(m, false); x.harmonics != nil && x.down == 0 {
				e.offWave(c, loudnessApart(x.harmonics, Harmonics(e.Meaning.Module(e.Moved[m.ID]), 24)), m)
			}
			out = append(append(out, e.Recast), opened...)
		}
		if len(heard) > 1 && c.sounding() == len(heard) { // all that sounds goes through the one filter
			e, spare := c.waves(operatorPenalty, nil, heard...)
			out = append(out, c.wavesAndFilter(e, spare, heard...)...)
		}
		return out
	}}

// moving tells how much the spectrum of an operator moves while a note is held, 0 to 1: by how far the envelope of what modulates it most lets the index fall.
func (c *Case) moving(m *meaning.Module) float64 {
	index, _, by := c.modulated(m)
	if by == nil {
		return 0
	}
	most := 0.0
	for _, r := range c.into(by.ID, meaning.PLevel) {
		if env := c.Meaning.Module(r.From); env != nil && env.Kind == meaning.Env {
			most = max(most, min(1, r.Depth.Value*(1-get(env, meaning.PSustain))))
		}
	}
	return min(1, index*most)
}

// carriers are the operators without a place that are heard themselves.
func (c *Case) carriers() (out []*meaning.Module) {
	for _, m := range c.lost(meaning.Operator) {
		if m.Sounds() {
			out = append(out, m)
		}
	}
	return out
}

// waves replaces operators by oscillators with the waves that are nearest to their spectra, for a rule of some penalty. The waves stand for what
// modulates them too, or for one of those alone; spare are the envelopes that then move nothing.
func (c *Case) waves(penalty float64, alone *meaning.Module, list ...*meaning.Module) (e *edit, spare []string) {
	e = c.begin("")
	var says []string
	x := c.carried()
	if x != nil { // an oscillator's level has no envelope of its own as an operator's has
		x.apply(c, e)
		e.Also = append(e.Also, &carriers)
		for _, id := range e.Parts { // what the other rule costs, not what this one does
			e.Penalty -= (penalty - carriersPenalty) * c.Weight(id)
		}
	}
	for _, m := range list {
		wave, with, down, louder := c.nearestWave(m)
		say := fmt.Sprintf("%s as %s: nearest to its spectrum%s", m.Label, article(wave), with)
		o := e.replace(m.ID, meaning.Osc, m.Label+" as oscillator", func(name meaning.ParamName) meaning.ParamName {
			switch name {
			case meaning.PInterval, meaning.PFixed, meaning.PLevel, meaning.PKey, meaning.PPan, meaning.PTo, meaning.PPhase, meaning.POn:
				return name
			case meaning.POutput:
				return meaning.PLevel
			}
			return ""
		})
		word(o, meaning.PWave, wave)
		for _, name := range []meaning.ParamName{meaning.PInterval, meaning.PFixed, meaning.PKey, meaning.PPan, meaning.PTo, meaning.PPhase} {
			take(o, m, name, name)
		}
		if down != 0 {
			put(o, meaning.PInterval, get(m, meaning.PInterval)-down)
			say += fmt.Sprintf(", %s st below it, where its sidebands have their fundamental", q.Number(down/100, 2))
		}
		put(o, meaning.PLevel, loudOf(m)+louder)
		if x == nil {
			c.openedByEnvelope(e, m, o)
		}
		e.Map[meaning.Ref(m.ID, meaning.PWave)] = meaning.Ref(o.ID, meaning.PWave)
		e.Map[meaning.Ref(m.ID, meaning.POutput)] = meaning.Ref(o.ID, meaning.PLevel)
		e.Map[meaning.Ref(m.ID, meaning.PLevel)] = meaning.Ref(o.ID, meaning.PLevel)
		for _, r := range c.into(m.ID, meaning.PPM) {
			if alone == nil || r.From == alone.ID {
				delete(e.Gone, r.ID) // the wave has it in it
			}
		}
		// what only modulated them goes with them: the waves stand for it
		for _, r := range c.into(m.ID, meaning.PPM) {
			if x := c.Meaning.Module(r.From); x != nil && (alone == nil || x == alone) && x.ID != m.ID && c.Lost[x.ID] && off(x, meaning.POutput) && !c.elsewhere(x.ID, list) && e.Meaning.Module(x.ID) != nil {
				e.drop(x.ID)
				for _, way := range c.into(x.ID, meaning.PLevel) {
					if env := c.Meaning.Module(way.From); env != nil && env.Kind == meaning.Env && len(c.from(env.ID)) == 1 {
						spare = append(spare, env.ID)
					}
				}
			}
		}
		says = append(says, say)
	}
	e.Text = strings.Join(says, "; ")
	if x != nil {
		e.Text += fmt.Sprintf("; %s, which moved the levels, opens the amplifier", c.Meaning.Module(x.env).Label)
	}
	return e, spare
}

// openedByEnvelope has the envelope of an operator's level open the oscillator that stands for it, where the target can: what moves an operator's level multiplies it, what
// moves an oscillator's adds to it, so that the oscillator rests at nothing.
func (c *Case) openedByEnvelope(e *edit, m, o *meaning.Module) {
	if !c.Moves(meaning.Env, meaning.Osc, meaning.PLevel) {
		return
	}
	var opens *meaning.Route
	for _, r := range c.into(m.ID, meaning.PLevel) {
		env := c.Meaning.Module(r.From)
		if env == nil || env.Kind != meaning.Env || opens != nil || len(r.To) != 1 || r.Via != "" || r.Depth.Value < 0.95 {
			return
		}
		opens = r
	}
	if opens == nil {
		return
	}
	e.route(opens.ID).Depth.Value = math.Min(1, q.Level(get(o, meaning.PLevel)).Amplitude())
	o.Params[meaning.PLevel] = meaning.Value{Quantity: q.OffOf(q.DimLevel)}
}

// elsewhere tells whether a module moves anything besides a parameter of some modules.
func (c *Case) elsewhere(id string, list []*meaning.Module) bool {
	for _, r := range c.from(id) {
		for _, to := range r.To {
			if at, _ := meaning.Split(to); !slices.ContainsFunc(list, func(m *meaning.Module) bool { return m.ID == at }) {
				return true
			}
		}
	}
	return false
}

// wavesAndFilter are uses of the rule with a filter besides, of two poles and of four: the waves whose filtered harmonics are nearest to the
// operators' spectra, and where an envelope moves a modulator's level, the same envelope opens the filter from the fundamental; and one with a filter that stands as the modulation does on average while a
// note is held. There is none where the target has no filter left, or where it would be no nearer. spare are the envelopes that move nothing where they do not open it. Nothing else may sound: it would
// go through the same filter.
func (c *Case) wavesAndFilter(plain *edit, spare []string, list ...*meaning.Module) (out []Recast) {
	if c.Have(meaning.Filter) <= len(c.used(meaning.Filter)) {
		return nil
	}
	full := c.filteredVoices(plain, false, list)
	if full == nil {
		return nil
	}
	for _, poles := range []int{2, 4} {
		if x := nearestFiltered(full.voices, poles, full.plainly-0.05); x != nil {
			e := c.behindFilter(plain, spare, full, x)
			e.offWave(c, x.off, list...) // as far off as its waves are
			out = append(out, e.Recast)
		}
	}
	if moves := c.moving(full.first); moves > movesMatters {
		if still := c.filteredVoices(plain, true, list); still != nil {
			for _, poles := range []int{2, 4} {
				if x := nearestFiltered(still.voices, poles, still.plainly-0.02); x != nil {
					e := c.behindFilter(plain, spare, still, x)
					e.offWave(c, x.off, list...)
					e.Penalty += (1 - operatorPenalty) * moves * c.Weight(full.first.ID)
					out = append(out, e.Recast)
				}
			}
		}
	}
	return out
}

// movesMatters is how far a spectrum has to move, as Case.moving has it, to be another one on average (common practice, no source).
const movesMatters = 0.2

// filteredAll are operators that are to be waves behind one filter.
type filteredAll struct {
	voices  []filteredVoice
	first   *meaning.Module // the one that is modulated most
	from    *meaning.Module // what modulates it
	index   float64
	held    bool    // they stand as on average while a note is held
	plainly float64 // how far off the waves are without a filter
	lowest  float64 // cents from the note
}

// filteredVoices gives the spectra of operators, at the full depth of what modulates them or as it stands on average; nil where none is modulated, or one has no spectrum of whole harmonics.
func (c *Case) filteredVoices(plain *edit, held bool, list []*meaning.Module) *filteredAll {
	x := &filteredAll{held: held, lowest: math.Inf(1)}
	most, sum := 0.1, 0.0
	if held {
		most = -1
	}
	for _, m := range list {
		index, ratio, by := c.modulated(m)
		if held && by != nil {
			index *= c.heldShare(by, m)
		}
		v := filteredVoice{m: m, spectrum: Sidebands(ratio, index, 24)}
		if by == nil {
			v.spectrum = Harmonics(m, 24)
		}
		if v.spectrum == nil || !off(m, meaning.PFixed) {
			return nil
		}
		if by != nil && index > most {
			most, x.first, x.from = index, m, by
		}
		v.loud, v.weight = loudnesses(v.spectrum), math.Pow(10, loudOf(m)/10)
		x.plainly += v.weight * apartBy(v.heard, v.loud, loudnesses(Harmonics(plain.Meaning.Module(plain.Moved[m.ID]), 24)))
		sum += v.weight
		x.lowest = min(x.lowest, get(m, meaning.PInterval))
		x.voices = append(x.voices, v)
	}
	if x.first == nil {
		return nil
	}
	x.index, x.plainly = most, x.plainly/sum
	for k := range x.voices {
		x.voices[k].weight /= sum
		x.voices[k].up = q.Interval(get(x.voices[k].m, meaning.PInterval) - x.lowest).Ratio()
	}
	return x
}

// behindFilter is the use of the rule with some waves behind a filter.
func (c *Case) behindFilter(plain *edit, spare []string, all *filteredAll, by *filteredWaves) *edit {
	voices, first, from, lowest := all.voices, all.first, all.from, all.lowest
	e := *plain
	x := *plain.Meaning
	x.Modules, x.Routes = slices.Clone(x.Modules), slices.Clone(x.Routes)
	e.Meaning, e.Map, e.Parts, e.Gone = &x, maps.Clone(e.Map), slices.Clone(e.Parts), maps.Clone(e.Gone)
	var names, as []string
	for k, v := range voices {
		n := e.Meaning.Module(plain.Moved[v.m.ID])
		n.Params = maps.Clone(n.Params)
		word(n, meaning.PWave, filterable[by.waves[k]])
		put(n, meaning.PLevel, loudOf(v.m)+by.louder[k])
		names, as = append(names, v.m.Label), append(as, article(filterable[by.waves[k]]))
	}
	note := 440 * math.Exp2(-9.0/12) * q.Interval(lowest).Ratio()
	rest := restsAt[by.poles]
	cutoff, opened := note*math.Exp2(by.at), ""
	called, origin := module(first).added("filter")
	f := meaning.Module{ID: called, Kind: meaning.Filter, Label: "Filter for " + first.Label, Params: map[meaning.ParamName]meaning.Value{}, Origin: origin}
	for _, r := range c.into(from.ID, meaning.PLevel) {
		if env := c.Meaning.Module(r.From); env != nil && env.Kind == meaning.Env && by.at > rest+0.25 && !all.held {
			cutoff, opened = note*math.Exp2(rest), ", opened by "+env.Label+" as it moved the modulation"
			e.connect(module(first), "open", meaning.Route{Label: env.Label + " to the cutoff for " + first.Label, From: r.From, Via: r.Via, To: []string{meaning.Ref(f.ID, meaning.PCutoff)}, Polarity: "unipolar",
				Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimOctaves, Value: by.at - rest}}})
			break
		}
	}
	word(&f, meaning.PMode, "lowpass")
	put(&f, meaning.PPoles, float64(by.poles))
	put(&f, meaning.PCutoff, cutoff)
	put(&f, meaning.PTrack, 1)
	e.Meaning.Modules = append(e.Meaning.Modules, f)
	for _, id := range spare {
		if opened == "" {
			e.drop(id) // it moved nothing else
		}
	}
	e.Text = fmt.Sprintf("%s as %s through a low-pass at %s for middle C%s: nearest to its spectrum at an index of %s", And(names), And(as), text(q.DimFrequency, cutoff), opened, q.Number(all.index, 2))
	if len(voices) > 1 {
		e.Text = fmt.Sprintf("%s as %s through a low-pass at %s for middle C%s: nearest to their spectra", And(names), And(as), text(q.DimFrequency, cutoff), opened)
	}
	if slices.Contains(e.Parts, from.ID) {
		e.Map[meaning.Ref(from.ID, meaning.PLevel)] = meaning.Ref(f.ID, meaning.PCutoff)
	}
	return &e
}

// loudOf gives the level at which an operator is heard, in decibels.
func loudOf(m *meaning.Module) float64 {
	level := get(m, meaning.POutput)
	if !off(m, meaning.PLevel) {
		level += get(m, meaning.PLevel)
	}
	return level
}

// offWave notes that operators come out worse by how far off the waves are that stand for them (loudnessApart).
func (e *edit) offWave(c *Case, off float64, list ...*meaning.Module) {
	for _, m := range list {
		e.Penalty += (1 - operatorPenalty) * off * 1.5 * c.Weight(m.ID)
	}
}

// loudnessApart gives how unlike two sets of amplitudes sound, 0 to 1: quantity.WaveDistance of their loudness, which grows with the power 0.6 of an amplitude
// (Stevens, Psychological Review 64(3), 1957, from memory), so that weak harmonics count as they are heard.
func loudnessApart(a, b []float64) float64 { return q.WaveDistance(loudnesses(a), loudnesses(b)) }

func loudnesses(list []float64) []float64 {
	out := make([]float64, len(list))
	for i, x := range list {
		out[i] = math.Pow(math.Abs(x), 0.6)
	}
	return out
}

// apartBy is quantity.WaveDistance where each harmonic counts for something of its own.
func apartBy(heard, a, b []float64) float64 {
	if heard == nil {
		return q.WaveDistance(a, b)
	}
	var aa, bb, ab float64
	for i, w := range heard[:min(len(heard), len(a), len(b))] {
		aa += w * a[i] * a[i]
		bb += w * b[i] * b[i]
		ab += w * a[i] * b[i]
	}
	if aa == 0 || bb == 0 {
		return 1
	}
	return math.Sqrt(math.Max(0, 1-ab*ab/(aa*bb)))
}

// heardBy gives what the loudness of each harmonic of a frequency counts for, squared: by the A-weighting.
func heardBy(hz float64, n int) []float64 {
	one := make([]float64, n)
	for i := range one {
		one[i] = 1
	}
	out := loudnesses(q.AsHeard(one, hz))
	for i, x := range out {
		out[i] = x * x
	}
	return out
}

// filteredVoice is an operator that becomes a wave behind a filter.
type filteredVoice struct {
	m        *meaning.Module
	spectrum []float64
	loud     []float64 // how loud its harmonics are
	weight   float64   // its share of the power
	up       float64   // how many times the lowest one's frequency
	heard    []float64 // what each harmonic counts for, squared; nil where all are alike
}

// filteredWaves are waves behind a low-pass that stand for operators.
type filteredWaves struct {
	poles  int
	off    float64   // quantity.WaveDistance, by their power
	at     float64   // octaves of the cutoff above the lowest fundamental
	waves  []int     // in filterable
	louder []float64 // decibels
}

// nearestFiltered finds the waves behind a filter of some poles that lie nearest to voices, below a distance; nil for none.
func nearestFiltered(voices []filteredVoice, poles int, limit float64) *filteredWaves {
	table := filteredTable()[poles]
	var best *filteredWaves
	for step := 0; step <= filteredMost*filteredSteps; step++ {
		total, now := 0.0, filteredWaves{poles, 0, float64(step) / filteredSteps, make([]int, len(voices)), make([]float64, len(voices))}
		for k, v := range voices {
			at := max(0, filteredLeast*filteredSteps+step-int(math.Round(filteredSteps*math.Log2(v.up))))
			nearest := math.Inf(1)
			for w := range filterable {
				x := &table[w][at]
				if d := apartBy(v.heard, v.loud, x.loud); d < nearest-1e-9 {
					nearest, now.waves[k], now.louder[k] = d, w, louderBy(v.spectrum, x.amplitudes)
				}
			}
			total += v.weight * nearest
		}
		if total < limit-1e-9 {
			now.off = total
			best, limit = &now, total
		}
	}
	return best
}

// The cutoffs that are tried: from so many octaves below a fundamental to so many above the lowest, in steps of an eighth.
const (
	filteredLeast = 6
	filteredMost  = 5
	filteredSteps = 8
)

// filteredWave is a wave behind a filter: its amplitudes, and how loud they are.
type filteredWave struct{ amplitudes, loud []float64 }

// filteredTable holds the waves behind low-passes of two and of four poles, by poles, wave and cutoff.
var filteredTable = once.OnceValue(func() map[int][][]filteredWave {
	out := map[int][][]filteredWave{}
	for poles := range restsAt {
		for _, name := range filterable {
			all := (q.Wave{Name: name, Width: 0.5}).Amplitudes(24)
			var list []filteredWave
			for step := -filteredLeast * filteredSteps; step <= filteredMost*filteredSteps; step++ {
				x := filteredWave{amplitudes: make([]float64, len(all))}
				for i, a := range all {
					x.amplitudes[i] = a * dsp.LowpassGain(poles, 0, float64(i+1)/math.Exp2(float64(step)/filteredSteps))
				}
				x.loud = loudnesses(x.amplitudes)
				list = append(list, x)
			}
			out[poles] = append(out[poles], list)
		}
	}
	return out
})

// restsAt is how many octaves above the fundamental a filter rests that an envelope opens, by its poles: there the fundamental passes.
var restsAt = map[int]float64{2: 0.5, 4: 1}

// filterable are the waves that are tried behind a filter.
var filterable = []string{q.WaveSaw, q.WavePulse, q.WaveTriangle, q.WaveSine}

// sounding counts the sources of sound that are heard.
func (c *Case) sounding() int {
	n := len(c.used(meaning.Osc)) + len(c.used(meaning.Sub)) + len(c.used(meaning.Noise)) + len(c.used(meaning.Ring))
	for _, m := range c.used(meaning.Operator) {
		if m.Sounds() {
			n++
		}
	}
	return n
}
