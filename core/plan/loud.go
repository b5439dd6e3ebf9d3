package plan

import (
	"maps"
	"math"
	"math/cmplx"
	"slices"

	"glossator/core/meaning"
	q "glossator/core/quantity"
	"glossator/core/rules"
)

// leastLoud is the least that a source of sound counts for, as a share of the loudest; a part forty decibels below it is as little.
const leastLoud = 0.1

// loudness gives, by id, how much each oscillator, sub oscillator, noise and operator of a patch counts beside the loudest of them, from leastLoud to 1: by its level at the
// amplifier, through the filters at rest and with what envelopes and velocity add, whichever is more. It is reckoned, not rendered: the harmonics of its wave on the
// middle of the phrase's notes times the response of its path. Where there is one alone, it counts whole.
func loudness(m *meaning.Meaning, note q.Note) map[string]float64 {
	path, key := m.Graph().Path(), float64(note)
	moved := map[string]*meaning.Module{}
	for _, f := range m.Graph().Filters() {
		moved[f.ID] = opened(m, f)
	}
	works := m.Working()
	levels, top := map[string]float64{}, math.Inf(-1)
	for i := range m.Modules {
		d := &m.Modules[i]
		if !d.Used() || d.Kind != meaning.Osc && d.Kind != meaning.Sub && d.Kind != meaning.Noise && d.Kind != meaning.Operator {
			continue
		}
		level := d.Loud()
		if d.Kind == meaning.Operator {
			out, _ := d.Get(meaning.POutput)
			level.Off, level.Value = level.Off || out.Off, level.Value+out.Value
		} else if works[d.ID] {
			continue // it is used for what it moves
		}
		if d.Kind != meaning.Operator {
			level = m.Loudest(d)
		}
		if level.Off {
			continue
		}
		list := spectrum(d, key)
		rest, open := 0.0, 0.0
		for _, x := range list {
			a := cmplx.Abs(path.Gain(d.ID, func(f *meaning.Module) complex128 { return f.FilterGain(key, x.hz) }))
			b := cmplx.Abs(path.Gain(d.ID, func(f *meaning.Module) complex128 { return moved[f.ID].FilterGain(key, x.hz) }))
			rest, open = rest+x.power*a*a, open+x.power*b*b
		}
		db := level.Value + 10*math.Log10(math.Max(math.Max(rest, open), 1e-12))
		levels[d.ID], top = db, math.Max(top, db)
	}
	modulators(m, levels)
	out := make(map[string]float64, len(levels))
	for id, db := range levels {
		out[id] = math.Max(leastLoud, math.Pow(10, (db-top)/40))
	}
	ofLines(m, out)
	return out
}

// faintLine is the share up to which a line is faint beside others, as a click is beside what it belongs to: sixteen decibels below. One that is hardly softer keeps its envelope as the loudest does.
const faintLine = 0.4

// ofLines adds the amplifiers of faint single lines, with what opens each: they count for as much as the loudest of what goes through them.
func ofLines(m *meaning.Meaning, loud map[string]float64) {
	for i := range m.Modules {
		amp := &m.Modules[i]
		if amp.Kind != meaning.Amp || !amp.Used() {
			continue
		}
		most := 0.0
		for k := range m.Modules {
			if s := &m.Modules[k]; s.Used() && source(s) && m.Leads(s.ID, amp.ID) {
				if x, known := loud[s.ID]; known {
					most = math.Max(most, x)
				} else {
					most = 1
				}
			}
		}
		if most == 0 || most > faintLine {
			continue
		}
		loud[amp.ID] = most
		for j := range m.Routes {
			r := &m.Routes[j]
			if !r.Used() || !m.Opens(r) || !slices.Equal(r.To, []string{meaning.Ref(amp.ID, meaning.PLevel)}) {
				continue
			}
			loud[r.ID] = most
			if !slices.ContainsFunc(m.Routes, func(x meaning.Route) bool { return x.Used() && x.ID != r.ID && (x.From == r.From || x.Via == r.From) }) {
				loud[r.From] = most
			}
		}
	}
}

// modulators adds the operators that modulate others, by the level of their first sidebands beside what they modulate: half of the index, at the most as loud.
func modulators(m *meaning.Meaning, levels map[string]float64) {
	for range m.Modules { // a stack settles in as many passes as it is high
		settled := true
		for i := range m.Routes {
			r := &m.Routes[i]
			by := m.Module(r.From)
			if !r.Used() || by == nil || by.Kind != meaning.Operator || len(r.To) == 0 {
				continue
			}
			id, name := meaning.Split(r.To[0])
			of, known := levels[id]
			if !known || name != meaning.PPM || id == by.ID {
				continue
			}
			level := by.Loud()
			if level.Off {
				continue
			}
			db := of + 20*math.Log10(math.Min(1, math.Max(1e-6, rules.Index(r.Depth.Value, q.Level(level.Value))/2)))
			if was, ok := levels[by.ID]; !ok || db > was+1e-9 {
				levels[by.ID], settled = db, false
			}
		}
		if settled {
			return
		}
	}
}

// opened is a filter with its cutoff where the envelopes and the velocity that move it have it at the most.
func opened(m *meaning.Meaning, f *meaning.Module) *meaning.Module {
	cutoff, ok := f.Params[meaning.PCutoff]
	octaves := 0.0
	for i := range m.Routes {
		r := &m.Routes[i]
		if d := m.Module(r.From); !r.Used() || r.Via != "" || (d == nil || d.Kind != meaning.Env) && r.From != "velocity" {
			continue
		}
		for _, to := range r.To {
			if to == meaning.Ref(f.ID, meaning.PCutoff) {
				octaves += r.Depth.Value
			}
		}
	}
	if !ok || cutoff.Off || octaves == 0 {
		return f
	}
	x := *f
	x.Params = maps.Clone(f.Params)
	cutoff.Value *= math.Exp2(octaves)
	x.Params[meaning.PCutoff] = cutoff
	return &x
}

// component is a part of a spectrum.
type component struct{ hz, power float64 }

// spectrum gives the harmonics of an oscillator on a key, or a noise in bands of a third of an octave (a noise as loud as a saw).
func spectrum(d *meaning.Module, key float64) (out []component) {
	if d.Kind == meaning.Noise {
		const bands = 28
		for k := range bands {
			hz := 40 * math.Exp2(float64(k)/3)
			power := 0.5 * hz / (40 * math.Exp2(bands/3.0) * 3 / math.Ln2) // white: as much in each hertz
			if c, _ := d.Get(meaning.PColour); c.Name == "pink" {
				power = 0.2 / bands
			}
			out = append(out, component{hz, power})
		}
		return out
	}
	interval, _ := d.Get(meaning.PInterval)
	f := 440 * math.Exp2((key-69)/12+interval.Value/1200)
	list := rules.Harmonics(d, rules.HarmonicsCompared)
	if list == nil {
		list = q.Wave{Name: q.WaveSaw}.Amplitudes(rules.HarmonicsCompared)
	}
	for h, a := range list {
		if hz := f * float64(h+1); hz < 20000 {
			out = append(out, component{hz, a * a / 2})
		}
	}
	return out
}
