package rules

import (
	"fmt"
	"maps"
	"math"
	"slices"
	once "sync"

	"glossator/core/dsp"
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

const asOperatorPenalty = 0.1

var asOperator = Rule{ID: "as-operator", Name: "Oscillator by an operator, and its envelope by the operator's",
	Needs: "an oscillator, and operators left on the target", Uses: "one operator for each, and the envelopes of their levels",
	Penalty: asOperatorPenalty, Why: "an operator has no pulse width and no hard sync", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		ways := []bool{false}
		if c.Have(meaning.Env) > len(c.used(meaning.Env)) {
			ways = append(ways, true) // each with an envelope of its own, alike, where each is wired to one
		}
		if c.Have(meaning.Operator) > len(c.used(meaning.Operator)) {
			lost := c.lost(meaning.Osc, meaning.Sub)
			if e := c.operatorsFor(lost); e != nil {
				out = append(out, e.Recast)
			}
			for _, m := range lost {
				for _, own := range ways {
					if e := c.operatorFor(m, own); e != nil {
						out = append(out, e.Recast)
						if x := c.withModulator(m, own); x != nil {
							out = append(out, x.Recast)
						}
						if x := c.modulatedFor(m, own); x != nil {
							out = append(out, x.Recast)
						}
						if x := c.openedFor(m, own); x != nil {
							out = append(out, x.Recast)
						}
					}
				}
			}
		}
		// where no envelope reaches the amplifier, each operator takes it
		for _, r := range c.lostRoutes() {
			env := c.Meaning.Module(r.From)
			if env == nil || !c.Meaning.Opens(r) {
				continue
			}
			amp, _ := meaning.Split(r.To[0])
			// what only modulates keeps its level, and what goes through another amplifier has that one's envelope
			ops := slices.DeleteFunc(c.used(meaning.Operator), func(m *meaning.Module) bool { return !m.Sounds() || c.pastAmp(m, amp) })
			if len(ops) == 0 {
				continue
			}
			for _, own := range ways {
				if own && len(ops) < 2 {
					continue
				}
				e := c.begin("%s moves the level of each operator instead of the amplifier's", env.Label)
				e.dropRoute(r.ID)
				for i, o := range ops {
					n := *r
					n.Label, n.To = env.Label+" to "+o.Label, []string{meaning.Ref(o.ID, meaning.PLevel)}
					n.Depth = meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: 1}}
					if own && i > 0 {
						n.From = e.alike(env, o.ID, o.Label)
					}
					e.connect(route(r), o.ID, n)
					first, _ := route(r).added(ops[0].ID)
					e.Map[meaning.Ref(r.ID, meaning.PDepth)] = meaning.Ref(first, meaning.PDepth)
				}
				if own {
					e.Text += ", each by an envelope of its own that is set alike"
				}
				out = append(out, e.Recast)
			}
		}
		return out
	}}

// pastAmp tells whether what sounds goes through amplifiers, and not through one of them.
func (c *Case) pastAmp(m *meaning.Module, amp string) bool {
	return !c.Meaning.Leads(m.ID, amp) && slices.ContainsFunc(c.used(meaning.Amp), func(x *meaning.Module) bool { return c.Meaning.Leads(m.ID, x.ID) })
}

// operatorFor puts an operator in the place of an oscillator, of its wave as near as a table has it; nil where an envelope of its own has nothing to be alike to.
func (c *Case) operatorFor(m *meaning.Module, own bool) *edit {
	e := c.begin("%s is played by an operator", m.Label)
	if alike := c.oneOperator(e, m, own); own && !alike {
		return nil
	}
	return e
}

// manyLost is how many oscillators without a place are put on operators in one go: one by one, and in every order, they would use up the sets of rules that are looked at.
const manyLost = 3

// operatorsFor puts an operator in the place of each of many oscillators that nothing modulates; nil where there are fewer, or not as many operators.
func (c *Case) operatorsFor(list []*meaning.Module) *edit {
	list = slices.DeleteFunc(slices.Clone(list), func(m *meaning.Module) bool { return syncs(m) || c.Meaning.ModulatedBy(m) != "" })
	if len(list) < manyLost || c.Have(meaning.Operator) < len(c.used(meaning.Operator))+len(list) {
		return nil
	}
	e := c.begin("")
	var names []string
	for _, m := range list {
		c.oneOperator(e, m, false)
		names = append(names, m.Label)
	}
	e.Text = And(names) + " are played by an operator each"
	return e
}

// oneOperator puts an operator in the place of an oscillator in an edit; it tells whether an envelope that moves other operators moves it, or with own one that is set alike.
func (c *Case) oneOperator(e *edit, m *meaning.Module, own bool) (alike bool) {
	o := c.operator(e, m)
	alike = c.likeOthers(e, o.ID, o.Label, own)
	if wave := named(o, meaning.PWave); wave != "" && wave != q.WaveSine && !c.Word(meaning.Operator, meaning.PWave, wave) {
		if harmonics := Harmonics(m, modulatedHarmonics); harmonics != nil { // a sine stands for it
			e.worse(c, asOperatorPenalty, q.WaveDistance(harmonics, (q.Wave{Name: q.WaveSine}).Amplitudes(modulatedHarmonics))/offShare)
		}
	}
	return alike
}

// operator puts an operator in an oscillator's place: what both have goes over, its level to the output.
func (c *Case) operator(e *edit, m *meaning.Module) *meaning.Module {
	master := c.Meaning.SyncedTo(m)
	o := e.replace(m.ID, meaning.Operator, m.Label+" as operator", func(name meaning.ParamName) meaning.ParamName {
		if name == meaning.PInterval && syncs(m) { // what moves its pitch moves its colour
			return ""
		}
		switch name {
		case meaning.PWave, meaning.PInterval, meaning.PFixed, meaning.PKey, meaning.PPan, meaning.PTo, meaning.PPhase, meaning.POn:
			return name
		case meaning.PLevel:
			return meaning.POutput
		}
		return ""
	})
	for _, name := range []meaning.ParamName{meaning.PWave, meaning.PInterval, meaning.PFixed, meaning.PKey, meaning.PPan, meaning.PTo, meaning.PPhase} {
		take(o, m, name, name)
	}
	take(o, m, meaning.PLevel, meaning.POutput)
	put(o, meaning.PLevel, 0)
	if syncs(m) {
		put(o, meaning.PInterval, c.soundsAt(m))
		e.Map[meaning.Ref(m.ID, meaning.PSync)] = meaning.Ref(o.ID, meaning.PInterval)
		e.Text += " at the note of the oscillator that it was synced to"
		e.unneeded(master)
	}
	if w := plainWave(m); w != "" {
		word(o, meaning.PWave, w)
		e.Text += ": " + article(w) + " is nearest to its table there"
	}
	return o
}

// withModulator puts two operators in the place of an oscillator and of the one that modulates it, by as much; what moves how much moves the modulator's level. nil where nothing
// modulates it, or no operators are left for both.
func (c *Case) withModulator(m *meaning.Module, own bool) *edit {
	x := c.Meaning.Module(c.Meaning.ModulatedBy(m))
	if x == nil || x.Changed() || c.Have(meaning.Operator) < len(c.used(meaning.Operator))+2 {
		return nil
	}
	share := get(m, meaning.PFM)
	var moved *meaning.Route
	for _, r := range c.into(m.ID, meaning.PFM) {
		if env := c.Meaning.Module(r.From); env != nil && env.Kind == meaning.Env && len(r.To) == 1 && share == 0 && moved == nil {
			moved = r
		}
	}
	if moved != nil {
		share = moved.Depth.Value
	}
	if share <= 0 {
		return nil
	}
	e := c.operatorFor(m, own)
	if e == nil || e.Meaning.Module(x.ID) == nil {
		return nil
	}
	to, level, silent := e.Moved[m.ID], get(x, meaning.PLevel), off(x, meaning.PLevel)
	by := c.operator(e, x)
	put(by, meaning.PLevel, 20*math.Log10(share))
	if !silent { // it is taken before its level
		put(by, meaning.POutput, level-20*math.Log10(share))
	}
	e.connect(module(m), "index", meaning.Route{Label: by.Label + " into " + m.Label, From: by.ID, To: []string{meaning.Ref(to, meaning.PPM)}, Polarity: "bipolar",
		Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: 1}}})
	e.Map[meaning.Ref(m.ID, meaning.PFM)] = meaning.Ref(by.ID, meaning.PLevel)
	if moved != nil {
		n := *moved
		n.Label, n.To, n.Depth = moved.Label, []string{meaning.Ref(by.ID, meaning.PLevel)}, meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: 1}}
		e.connect(route(moved), by.ID, n)
		delete(e.Gone, moved.ID)
	}
	e.Text += fmt.Sprintf(", and %s, which modulates it, by another", x.Label)
	return e
}

// offShare turns how far off a wave is (quantity.WaveDistance) into the share of an oscillator that it costs by an operator: a fifth where nothing is in common.
const offShare = 5

// modulatedFor puts an operator that another one modulates in the place of an oscillator: a sine whose sidebands come nearest to the harmonics of its wave. nil where
// the target has none left for it, or where a sine alone is as near.
func (c *Case) modulatedFor(m *meaning.Module, own bool) *edit {
	harmonics := Harmonics(m, modulatedHarmonics)
	if transforms(named(m, meaning.PWarp)) {
		harmonics = warpedHarmonics(m, c.heldAt(m, meaning.PWarpAmount))
	}
	if c.Have(meaning.Operator) < len(c.used(meaning.Operator))+2 || harmonics == nil {
		return nil
	}
	best, off := byModulation(harmonics, c.soundsAt(m))
	e, _ := c.modulatedBy(m, own, harmonics, best, off)
	return e
}

// modulatedBy puts an operator modulated so in the place of an oscillator, with its modulator; nil where a sine alone is as near to the harmonics.
func (c *Case) modulatedBy(m *meaning.Module, own bool, harmonics []float64, best modulation, off float64) (*edit, *meaning.Module) {
	if plain := q.WaveDistance(harmonics, (q.Wave{Name: q.WaveSine}).Amplitudes(modulatedHarmonics)); off > plain-0.05 {
		return nil, nil
	}
	e := c.operatorFor(m, own)
	if e == nil {
		return nil, nil
	}
	e.Penalty = 0 // nor is it that sine
	to := e.Moved[m.ID]
	o := e.Meaning.Module(to)
	word(o, meaning.PWave, q.WaveSine)
	e.Map[meaning.Ref(m.ID, meaning.PWave)] = meaning.Ref(to, meaning.PWave)
	interval := get(o, meaning.PInterval)
	by := e.add(module(m), "by", meaning.Operator, "Modulator for "+m.Label)
	word(by, meaning.PWave, q.WaveSine)
	put(by, meaning.PInterval, interval+1200*math.Log2(best.ratio))
	put(by, meaning.PLevel, 20*math.Log10(best.index/indexAtFull))
	by.Params[meaning.POutput] = meaning.Value{Quantity: q.OffOf(q.DimLevel)}
	e.connect(module(m), "index", meaning.Route{Label: by.Label + " into " + o.Label, From: by.ID, To: []string{meaning.Ref(to, meaning.PPM)}, Polarity: "bipolar",
		Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: 1}}})
	e.Text = fmt.Sprintf("%s is played by an operator that another one modulates, at %s times its frequency with an index of %s: nearest to its harmonics", m.Label, q.Number(best.ratio, 1), q.Number(best.index, 2))
	e.worse(c, asOperatorPenalty, off/offShare) // as a wave that is so far off costs an operator
	return e, e.Meaning.Module(by.ID)
}

// opening is what opens the harmonics of an oscillator: a low-pass that the target has not, or a transformation of its wave.
type opening struct {
	by      string
	through func(by float64) []float64 // the harmonics where what moves it has it so far open
	opens   *meaning.Route             // by an envelope; nil for none
	rests   float64                    // how far what is not that envelope has it open
}

// openingOf finds what opens the harmonics of an oscillator; nil for nothing.
func (c *Case) openingOf(m *meaning.Module) *opening {
	x := &opening{}
	var id string
	var name meaning.ParamName
	if transforms(named(m, meaning.PWarp)) && (get(m, meaning.PWarpAmount) > 0.02 || len(c.into(m.ID, meaning.PWarpAmount)) > 0) {
		id, name, x.by, x.rests = m.ID, meaning.PWarpAmount, "its transformation", get(m, meaning.PWarpAmount)
		x.through = func(by float64) []float64 { return warpedHarmonics(m, by) }
	} else {
		wave := Harmonics(m, modulatedHarmonics)
		var filter *meaning.Module
		for _, f := range c.lost(meaning.Filter) {
			if named(f, meaning.PMode) == "lowpass" && get(f, meaning.PCutoff) > 0 && filter == nil {
				filter = f
			}
		}
		if filter == nil || wave == nil {
			return nil
		}
		id, name, x.by = filter.ID, meaning.PCutoff, filter.Label
		x.through = func(octaves float64) []float64 { return c.letThrough(filter, m, wave, octaves) }
	}
	for _, r := range c.routes() {
		env := c.Meaning.Module(r.From)
		if env != nil && env.Kind == meaning.Env && r.Via == "" && len(r.To) == 1 && r.To[0] == meaning.Ref(id, name) && r.Depth.Value > 0 && (x.opens == nil || r.Depth.Value > x.opens.Depth.Value) {
			x.opens = r
		}
	}
	return x
}

// letThrough gives what a low-pass that is open by so many octaves lets through of an oscillator's harmonics, at the middle of the notes played.
func (c *Case) letThrough(f, m *meaning.Module, harmonics []float64, octaves float64) []float64 {
	cutoff := get(f, meaning.PCutoff) * math.Exp2(get(f, meaning.PTrack)*float64(c.note()-q.MiddleC)/12+octaves)
	hz, poles, resonance := c.hertzOf(m), int(get(f, meaning.PPoles)), get(f, meaning.PResonance)
	out := make([]float64, len(harmonics))
	for i, a := range harmonics {
		out[i] = a * dsp.LowpassGain(poles, resonance, float64(i+1)*hz/cutoff)
	}
	return out
}

// openedFor has what a low-pass that the target has not lets through of an oscillator's harmonics, or what its transformation makes, made by the index of a modulation: at the notes played as far as it
// is open and, where an envelope opens it, by that envelope at the modulator. nil where nothing opens it, or a sine alone is as near.
func (c *Case) openedFor(m *meaning.Module, own bool) *edit {
	x := c.openingOf(m)
	if x == nil || c.Have(meaning.Operator) < len(c.used(meaning.Operator))+2 {
		return nil
	}
	depth := 0.0
	if x.opens != nil {
		depth = x.opens.Depth.Value
	}
	harmonics := x.through(x.rests + depth)
	best, off := byModulation(harmonics, c.soundsAt(m))
	e, by := c.modulatedBy(m, own, harmonics, best, off)
	if e == nil || x.opens == nil {
		if e != nil {
			e.Text += ", as " + x.by + " lets them through"
		}
		return e
	}
	env := c.Meaning.Module(x.opens.From)
	rests := x.through(x.rests + depth*get(env, meaning.PSustain))
	held, least := 0.0, q.WaveDistance(rests, Sidebands(best.ratio, 0, modulatedHarmonics)) // how much of the index is left where the envelope rests
	for _, y := range modulations() {
		if d := q.WaveDistance(rests, y.harmonics); y.ratio == best.ratio && y.index <= best.index && d < least {
			held, least = y.index/best.index, d
		}
	}
	id := x.opens.ID
	if e.Meaning.Route(id) == nil { // it went with the oscillator
		delete(e.Gone, id)
		e.Meaning.Routes = append(e.Meaning.Routes, *x.opens)
	}
	way := e.route(id)
	way.To, way.Polarity, way.Depth = []string{meaning.Ref(by.ID, meaning.PLevel)}, "unipolar", meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: 1}}
	if len(c.from(env.ID)) > 1 {
		way.From = e.alike(env, by.ID, by.Label)
		put(e.Meaning.Module(way.From), meaning.PSustain, held)
	} else {
		put(e.change(env.ID), meaning.PSustain, held)
	}
	e.Text += fmt.Sprintf(" when %s has %s open; it falls with it", env.Label, x.by)
	return e
}

// alike adds an envelope that is set as another one, for an operator, and gives its id.
func (e *edit) alike(env *meaning.Module, operator, label string) string {
	x := e.add(module(env), operator, meaning.Env, env.Label+" for "+label)
	x.Params = maps.Clone(env.Params)
	return x.ID
}

// likeOthers lets the envelope that moves other operators in the amplifier's stead move a new one too, or one of its own that is set
// alike; it tells whether there is any.
func (c *Case) likeOthers(e *edit, id, label string, own bool) (alike bool) {
	seen := map[string]bool{}
	for _, r := range c.routes() {
		to, name := meaning.Split(r.To[0])
		from := r.From
		if e := c.Meaning.Module(from); e != nil {
			from = e.Source()
		}
		m, env := c.Meaning.Module(to), c.Meaning.Module(from)
		if m == nil || m.Kind != meaning.Operator || name != meaning.PLevel || env == nil || env.Kind != meaning.Env || !r.Made() || seen[from] {
			continue
		}
		seen[from], alike = true, true
		n := *r
		n.Label, n.To, n.From = env.Label+" to "+label, []string{meaning.Ref(id, meaning.PLevel)}, from
		if own {
			n.From = e.alike(env, id, label)
		}
		e.connect(part{id: r.Source()}, id, n)
	}
	if own && alike {
		e.Text += ", with an envelope of its own that is set alike"
	}
	return alike
}

func article(wave string) string {
	if wave == "" {
		return "a wave"
	}
	return "a " + wave
}

// clang is the spectrum of an operator with what modulates it most.
type clang struct {
	index, ratio float64
	by           *meaning.Module
	// harmonics are the amplitudes of the harmonics of the fundamental, which lies down cents below the operator itself; nil where there is none.
	harmonics []float64
	down      float64
}

// mostCarrier is the highest harmonic at which a carrier is looked for.
const mostCarrier = 12

// heldFor is how long a note is taken to be held where a wave has to stand for a modulation that an envelope moves, in seconds (common practice, no source).
const heldFor = 0.5

// heldShare gives how much of its level a modulator has on average while a note is held, by the envelopes that move it: more of it counts where what it modulates is loud.
func (c *Case) heldShare(by, carrier *meaning.Module) float64 {
	const steps = 50
	sum, all := 0.0, 0.0
	for k := range steps {
		t := heldFor * (float64(k) + 0.5) / steps
		loud := c.levelAt(carrier, t)
		sum, all = sum+loud*c.levelAt(by, t), all+loud
	}
	if all <= 0 {
		return 1
	}
	return sum / all
}

// levelAt gives how much of its level an operator has so many seconds after a note has begun: a straight attack, and a decay that goes 90 % of its way to the sustain in its
// time.
func (c *Case) levelAt(m *meaning.Module, t float64) float64 {
	level := 1.0
	for _, r := range c.into(m.ID, meaning.PLevel) {
		env := c.Meaning.Module(r.From)
		if env == nil || env.Kind != meaning.Env || r.Depth.Value <= 0 {
			continue
		}
		attack, tau, s := get(env, meaning.PAttack), math.Max(1e-6, get(env, meaning.PDecay)/q.TausTo90), get(env, meaning.PSustain)
		x := s + (1-s)*math.Exp(-(t-attack)/tau)
		if fall := get(env, meaning.PDecay2); fall > 0 { // first to where it breaks
			corner := get(env, meaning.PBreak)
			at := attack + get(env, meaning.PDecay)
			x = corner + (1-corner)*math.Exp(-(math.Min(t, at)-attack)/tau)
			if t > at {
				x = s + (x-s)*math.Exp(-(t-at)*q.TausTo90/fall)
			}
		}
		if t < attack {
			x = t / attack
		}
		depth := math.Min(1, r.Depth.Value)
		level *= 1 - depth + depth*x
	}
	return level
}

// clang gives the spectrum of an operator by its strongest modulation: at its full depth, or as its modulator stands on average while a note is held. Where the two frequencies stand as small whole numbers c to m, the sidebands are harmonics of
// the one that both are multiples of (Chowning, JAES 21(7), 1973).
func (c *Case) clang(m *meaning.Module, held bool) clang {
	x := clang{}
	if x.index, x.ratio, x.by = c.modulated(m); held && x.by != nil {
		x.index *= c.heldShare(x.by, m)
	}
	for carrier := 1; carrier <= mostCarrier && x.by != nil; carrier++ {
		if x.harmonics = sidebands(carrier, x.ratio*float64(carrier), x.index, 24); x.harmonics != nil {
			x.down = 1200 * math.Log2(float64(carrier))
			break
		}
	}
	return x
}

// nearestWave finds the plain wave whose spectrum is nearest to an operator with what modulates it, as that is while a note is held, by how many cents below the operator it
// stands, and by how many decibels it has to be louder.
func (c *Case) nearestWave(m *meaning.Module) (wave, with string, down, louder float64) {
	if v := named(m, meaning.PWave); v != "" && v != q.WaveSine {
		return v, "", 0, 0
	}
	x := c.clang(m, true)
	if x.index < 0.1 {
		return q.WaveSine, "", 0, 0
	}
	if x.harmonics == nil {
		return q.WaveSine, ", whose clang of an odd ratio is lost", 0, 0
	}
	best, heard, loud := math.Inf(1), heardBy(c.hertzOf(m)/math.Exp2(x.down/1200), len(x.harmonics)), loudnesses(x.harmonics)
	every := []int{1}
	if step := int(math.Round(math.Exp2(x.down / 1200))); step > 1 {
		every = append(every, step) // or where the operator itself stands
	}
	for _, step := range every {
		for _, w := range []string{q.WaveSine, q.WaveTriangle, q.WavePulse, q.WaveSaw} {
			there := make([]float64, len(x.harmonics))
			for i, a := range (q.Wave{Name: w, Width: 0.5}).Amplitudes(len(there)) {
				if h := (i + 1) * step; h <= len(there) {
					there[h-1] = a
				}
			}
			if d := apartBy(heard, loud, loudnesses(there)); d < best-1e-9 {
				best, wave, down, louder = d, w, x.down-1200*math.Log2(float64(step)), louderBy(x.harmonics, there)
			}
		}
	}
	return wave, " at an index of " + q.Number(x.index, 2), down, louder
}

// louderBy gives by how many decibels a spectrum has to be louder to lie nearest to another: the gain of least squares.
func louderBy(a, b []float64) float64 {
	var ab, bb float64
	for i := range min(len(a), len(b)) {
		ab += math.Abs(a[i] * b[i])
		bb += b[i] * b[i]
	}
	if ab == 0 || bb == 0 {
		return 0
	}
	return 20 * math.Log10(ab/bb)
}

// modulatedHarmonics is how many harmonics of a modulated sine are compared with a wave's.
const modulatedHarmonics = 24

// modulation is a sine modulated by another: at so many times its frequency, by an index, with the harmonics that come of it.
type modulation struct {
	ratio, index float64
	harmonics    []float64
}

// modulations are those that are tried for a wave.
var modulations = once.OnceValue(func() (out []modulation) {
	for _, r := range []float64{1, 2, 3} {
		for i := 0.2; i <= indexAtFull; i += 0.1 {
			out = append(out, modulation{r, i, Sidebands(r, i, modulatedHarmonics)})
		}
	}
	return out
})

// byModulation finds how a sine that lies so many cents from the key has to be modulated by another for the harmonics of a wave, and how near it comes
// (quantity.WaveDistance). Operators are tuned in halves and whole numbers of the key as a rule (common practice, no source): other ratios are left.
func byModulation(harmonics []float64, interval float64) (best modulation, off float64) {
	off = math.Inf(1)
	carrier := math.Exp2(interval / 1200)
	for _, m := range modulations() {
		if usualRatio(carrier) && !usualRatio(carrier*m.ratio) {
			continue
		}
		if d := q.WaveDistance(harmonics, m.harmonics); d < off {
			best, off = m, d
		}
	}
	return best, off
}

// usualRatio tells whether a ratio to the key is a half or a whole number, as near as 2 %.
func usualRatio(x float64) bool {
	to := math.Max(0.5, math.Round(x))
	if x < 0.75 {
		to = 0.5
	}
	return math.Abs(x-to) < 0.02*to
}

// modulated gives the index of an operator's strongest modulation, the ratio of its modulator's frequency, and the modulator; nil where
// nothing modulates it.
func (c *Case) modulated(m *meaning.Module) (index, ratio float64, by *meaning.Module) {
	for _, r := range c.into(m.ID, meaning.PPM) {
		from := c.Meaning.Module(r.From)
		if from == nil || from.Kind != meaning.Operator {
			continue
		}
		if i := Index(r.Depth.Value, q.Level(from.Loud().Value)); i > index {
			index, ratio, by = i, math.Exp2((get(from, meaning.PInterval)-get(m, meaning.PInterval))/1200), from
		}
	}
	return index, ratio, by
}

// Sidebands gives the amplitudes of the first n harmonics of a sine carrier whose phase is
// modulated by a sine at a whole-number ratio of its frequency: J_k(index) at |1 + k ratio|
// times the carrier, those below zero folded back with their sign turned (Chowning, JAES 21(7),
// 1973). It gives nil where the ratio is not within 1 % of a whole number.
func Sidebands(ratio, index float64, n int) []float64 { return sidebands(1, ratio, index, n) }

// sidebands gives them for a carrier that is itself a harmonic, modulated at so many times the fundamental.
func sidebands(carrier int, modulator, index float64, n int) []float64 {
	whole := math.Round(modulator)
	if whole < 1 || math.Abs(modulator-whole) > 0.01*whole {
		return nil
	}
	out := make([]float64, n)
	for k := -40; k <= 40; k++ {
		h := carrier + k*int(whole)
		// J_-k = (-1)^k J_k
		a := math.Jn(int(math.Abs(float64(k))), index)
		if k < 0 && k%2 != 0 {
			a = -a
		}
		if h < 0 {
			h, a = -h, -a
		}
		if h >= 1 && h <= n {
			out[h-1] += a
		}
	}
	for i := range out {
		out[i] = math.Abs(out[i])
	}
	return out
}
