package rules

import (
	"maps"
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var asOperator = Rule{ID: "as-operator", Name: "Oscillator by an operator, and its envelope by the operator's",
	Needs: "an oscillator, and operators left on the target", Uses: "one operator for each, and the envelopes of their levels",
	Penalty: 0.1, Why: "an operator has no pulse width and no hard sync", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		ways := []bool{false}
		if c.Have(meaning.Env) > len(c.used(meaning.Env)) {
			ways = append(ways, true) // each with an envelope of its own, alike, where each is wired to one
		}
		if c.Have(meaning.Operator) > len(c.used(meaning.Operator)) {
			for _, m := range c.lost(meaning.Osc, meaning.Sub) {
				for _, own := range ways {
					e := c.begin("%s is played by an operator", m.Label)
					o := e.replace(m.ID, meaning.Operator, m.Label+" as operator", func(name meaning.ParamName) meaning.ParamName {
						switch name {
						case meaning.PWave, meaning.PInterval, meaning.PFixed, meaning.PKey, meaning.PPan, meaning.PTo, meaning.POn:
							return name
						case meaning.PLevel:
							return meaning.POutput
						}
						return ""
					})
					for _, name := range []meaning.ParamName{meaning.PWave, meaning.PInterval, meaning.PFixed, meaning.PKey, meaning.PPan, meaning.PTo} {
						take(o, m, name, name)
					}
					take(o, m, meaning.PLevel, meaning.POutput)
					put(o, meaning.PLevel, 0)
					if w := plainWave(m); w != "" {
						word(o, meaning.PWave, w)
						e.Text += ": " + article(w) + " is nearest to its table there"
					}
					if alike := c.likeOthers(e, o.ID, o.Label, own); own && !alike {
						continue
					}
					out = append(out, e.Recast)
				}
			}
		}
		// where no envelope reaches the amplifier, each operator takes it
		ops := c.used(meaning.Operator)
		for _, r := range c.lostRoutes() {
			env := c.Meaning.Module(r.From)
			if len(ops) == 0 || env == nil || !c.Meaning.Opens(r) {
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

// nearestWave finds the plain wave whose spectrum is nearest to an operator with what modulates
// it, at its full depth.
func (c *Case) nearestWave(m *meaning.Module) (wave, with string) {
	if v := named(m, meaning.PWave); v != "" && v != q.WaveSine {
		return v, ""
	}
	index, ratio, _ := c.modulated(m)
	if index < 0.1 {
		return q.WaveSine, ""
	}
	spectrum := Sidebands(ratio, index, 24)
	if spectrum == nil {
		return q.WaveSine, ", whose clang of an odd ratio is lost"
	}
	best := math.Inf(1)
	for _, w := range []string{q.WaveSine, q.WaveTriangle, q.WavePulse, q.WaveSaw} {
		if d := q.WaveDistance(spectrum, (q.Wave{Name: w, Width: 0.5}).Amplitudes(24)); d < best {
			best, wave = d, w
		}
	}
	return wave, " at an index of " + q.Number(index, 2)
}

// modulated gives the index of an operator's strongest modulation, the ratio of its modulator's frequency, and the modulator; nil where
// nothing modulates it.
func (c *Case) modulated(m *meaning.Module) (index, ratio float64, by *meaning.Module) {
	for _, r := range c.into(m.ID, meaning.PPM) {
		from := c.Meaning.Module(r.From)
		if from == nil || from.Kind != meaning.Operator {
			continue
		}
		i := math.Abs(r.Depth.Value) * indexAtFull
		if !off(from, meaning.PLevel) {
			i *= q.Level(get(from, meaning.PLevel)).Amplitude()
		}
		if i > index {
			index, ratio, by = i, math.Exp2((get(from, meaning.PInterval)-get(m, meaning.PInterval))/1200), from
		}
	}
	return index, ratio, by
}

// Sidebands gives the amplitudes of the first n harmonics of a sine carrier whose phase is
// modulated by a sine at a whole-number ratio of its frequency: J_k(index) at |1 + k ratio|
// times the carrier, those below zero folded back with their sign turned (Chowning, JAES 21(7),
// 1973). It gives nil where the ratio is not within 1 % of a whole number.
func Sidebands(ratio, index float64, n int) []float64 {
	whole := math.Round(ratio)
	if whole < 1 || math.Abs(ratio-whole) > 0.01*whole {
		return nil
	}
	out := make([]float64, n)
	for k := -40; k <= 40; k++ {
		h := 1 + k*int(whole)
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
