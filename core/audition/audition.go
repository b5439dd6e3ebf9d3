// Package audition makes ready what is listened to: the layers of a patch, the target as a sheet sets it, the
// notes that are played, and both with parts switched off.
//
// Its neighbours: synth renders it, compare sets two of them side by side, refine and ablation work on it.
package audition

import (
	"fmt"
	"math"
	"slices"

	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/core/synth"
)

// Layers reads the layers of a patch for rendering; one of them where layer names it.
func Layers(c *panel.Compiled, p *patch.Patch, layer string) ([]synth.Layer, error) {
	var out []synth.Layer
	for i := range p.Layers {
		y := &p.Layers[i]
		if layer != "" && y.ID != layer {
			continue
		}
		s, err := c.Read(y, fmt.Sprintf("/layers/%d", i))
		if err != nil {
			return nil, err
		}
		out = append(out, Placed(c.Interpret(s, q.Tempo(p.Tempo)), y))
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("expected a layer of the patch, got %q", layer)
	}
	return out, nil
}

// Placed gives a meaning the transposition and level of its layer.
func Placed(m *meaning.Meaning, y *patch.Layer) synth.Layer {
	out := synth.Layer{Meaning: m}
	if e, err := q.Parse(y.Transpose); err == nil && e.Form == q.FormInterval {
		out.Transpose = q.Interval(e.Value)
	}
	if e, err := q.Parse(y.Level); err == nil && e.Form == q.FormLevel {
		out.Level = q.Level(e.Value)
	}
	return out
}

// State is where a sheet sets the controls of its target.
func State(dst *panel.Compiled, s *gloss.Sheet) (*panel.State, error) {
	y := patch.Layer{ID: "a", Readings: map[string]string{}}
	for _, x := range s.Settings {
		y.Readings[x.Control] = x.Reading
	}
	for _, k := range s.Cables {
		y.Cables = append(y.Cables, patch.Cable{From: k.From, To: k.To})
	}
	return dst.Read(&y, "")
}

// Target gives the target as a sheet sets it, with the transposition and level of the layer that it is of.
func Target(dst *panel.Compiled, p *patch.Patch, s *gloss.Sheet) (synth.Layer, error) {
	state, err := State(dst, s)
	if err != nil {
		return synth.Layer{}, err
	}
	m := dst.Interpret(state, q.Tempo(p.Tempo))
	m.Hands = s.Hands
	for i := range p.Layers {
		if p.Layers[i].ID == s.Layer || s.Layer == "" && i == 0 {
			return Placed(m, &p.Layers[i]), nil
		}
	}
	return synth.Layer{Meaning: m}, nil
}

// WithRack puts the outboard rack of a sheet, set as the sheet says, behind a meaning.
func WithRack(m *meaning.Meaning, rack *panel.Compiled, rig *gloss.Rig, tempo q.Tempo) (*meaning.Meaning, error) {
	y := patch.Layer{ID: "a", Readings: map[string]string{}}
	for _, x := range rig.Settings {
		y.Readings[x.Control] = x.Reading
	}
	s, err := rack.Read(&y, "")
	if err != nil {
		return nil, err
	}
	behind := rack.Interpret(s, tempo)
	out := *m
	out.Modules, out.Audio = slices.Clone(m.Modules), slices.Clone(m.Audio)
	name := func(id string) string { return RackPrefix + id }
	for _, d := range behind.Modules {
		d.ID = name(d.ID)
		d.Label = rack.Name + " " + d.Label
		out.Modules = append(out.Modules, d)
	}
	for _, e := range behind.Audio {
		out.Audio = append(out.Audio, meaning.Edge{From: name(e.From), To: name(e.To)})
	}
	return &out, nil
}

// RackPrefix stands before the ids of a rack's modules in a meaning that it is put behind.
const RackPrefix = "rack:"

// roots are the notes on which a sound without a phrase is tried, by the kind of patch (common practice, no
// source).
var roots = map[string]int{"bass": 36, "lead": 60, "pad": 48, "pluck": 60}

// Notes gives what is played: the patch's own phrase, or a preset where one is named or the patch has none,
// moved by octaves. name is what it is called.
func Notes(p *patch.Patch, preset string, octaves int) (notes []phrase.Note, name string, err error) {
	if octaves < -4 || octaves > 4 {
		return nil, "", fmt.Errorf("expected -4 to 4 octaves, got %d", octaves)
	}
	ph := p.Phrase
	if ph == nil && preset == "" {
		preset = phrase.Presets[0].ID
	}
	if preset != "" {
		root := roots[p.Kind]
		if root == 0 {
			root = 48
		}
		if ph, err = phrase.Make(preset, root); err != nil {
			return nil, "", err
		}
		for _, x := range phrase.Presets {
			if x.ID == preset {
				name = x.Name
			}
		}
	} else if name = ph.Name; name == "" {
		name = "Phrase of the patch"
	}
	tempo := q.Tempo(p.Tempo)
	if tempo <= 0 {
		tempo = panel.DefaultTempo
	}
	if notes, err = phrase.Timeline(ph, tempo); err != nil {
		return nil, "", err
	}
	for i := range notes {
		notes[i].Key += float64(12 * octaves)
		if notes[i].Key < 0 || notes[i].Key > 127 {
			return nil, "", fmt.Errorf("expected notes from C-1 to G9: %d octaves take one to %v", octaves, notes[i].Key)
		}
	}
	return notes, name, nil
}

// Off is when the last key is let go, in seconds.
func Off(notes []phrase.Note) float64 {
	end := 0.0
	for _, n := range notes {
		end = max(end, n.End)
	}
	return end
}

// Times gives when the notes of a phrase begin and when the last key is let go, for what is measured of single notes. Notes within 20 ms of each
// other begin together.
func Times(notes []phrase.Note) compare.Times {
	t := compare.Times{Off: Off(notes)}
	if len(notes) == 0 {
		return t
	}
	starts := make([]float64, len(notes))
	for i, n := range notes {
		starts[i] = n.Start
	}
	slices.Sort(starts)
	last := starts[0]
	for _, s := range starts {
		if s > last+0.02 {
			if t.Second == 0 {
				t.Second = s
			}
			t.Last, last = s, s
		}
	}
	return t
}

// Part is a part of the sound that can be switched off on both sides.
type Part struct {
	// ID is that of the source's module.
	ID    string       `json:"id"`
	Label string       `json:"label"`
	Kind  meaning.Kind `json:"kind"`
	Step  meaning.Step `json:"step"`
	// Target lists the target's modules that play it; empty where none does.
	Target []string `json:"target"`
}

// switchable are the kinds that can be heard to be missing.
var switchable = []meaning.Kind{meaning.Osc, meaning.Sub, meaning.Noise, meaning.Ring, meaning.Operator, meaning.Feedback, meaning.Filter, meaning.Env, meaning.LFO,
	meaning.Drive, meaning.EQ, meaning.Compressor, meaning.Multiband, meaning.Chorus, meaning.Flanger, meaning.Phaser, meaning.Delay, meaning.Reverb, meaning.Widener, meaning.Send}

// sounding are the kinds that sound by themselves.
var sounding = []meaning.Kind{meaning.Osc, meaning.Sub, meaning.Noise, meaning.Ring, meaning.Operator}

// Parts lists the parts of a meaning that can be switched off, in working order; sheet may be nil.
func Parts(m *meaning.Meaning, sheet *gloss.Sheet) []Part {
	out := []Part{}
	for _, step := range meaning.Steps {
		for i := range m.Modules {
			d := &m.Modules[i]
			spec := meaning.SpecOf(d.Kind)
			if !d.Used() || spec == nil || spec.Step != step.Step || !slices.Contains(switchable, d.Kind) {
				continue
			}
			p := Part{ID: d.ID, Label: d.Label, Kind: d.Kind, Step: spec.Step, Target: []string{}}
			if sheet != nil {
				for _, x := range sheet.Plan.Modules {
					if x.Source == d.ID && x.Outside != "" {
						p.Target = append(p.Target, RackPrefix+x.Outside)
					}
					if x.Source == d.ID && x.Target != "" {
						p.Target = append(p.Target, x.Target)
					}
				}
			}
			out = append(out, p)
		}
	}
	return out
}

// Others lists the parts of a meaning that sound by themselves beside one of them: with these off it is heard alone. ok is false where it does not sound by itself.
func Others(m *meaning.Meaning, only string) (others []string, ok bool) {
	for i := range m.Modules {
		switch d := &m.Modules[i]; {
		case !slices.Contains(sounding, d.Kind):
		case d.ID == only:
			ok = true
		default:
			others = append(others, d.ID)
		}
	}
	return others, ok
}

// Without gives a meaning with some of its modules or routes switched off. A filter is bypassed; an envelope that
// opens the amplifier gives way to the key alone.
func Without(m *meaning.Meaning, ids ...string) *meaning.Meaning {
	if len(ids) == 0 {
		return m
	}
	out := *m
	out.Modules, out.Routes = slices.Clone(m.Modules), nil
	for i := range out.Modules {
		if d := &out.Modules[i]; slices.Contains(ids, d.ID) {
			d.Idle = "switched off"
		}
	}
	for _, r := range m.Routes {
		switch {
		case slices.Contains(ids, r.ID):
			continue
		case slices.Contains(ids, r.From):
			if d := m.Module(r.From); d == nil || d.Kind != meaning.Env || !m.Shapes(&r) {
				continue
			}
			r.From, r.Via = "gate", ""
		case r.Via != "" && slices.Contains(ids, r.Via):
			continue
		}
		out.Routes = append(out.Routes, r)
	}
	return &out
}

// Period gives how long one period of the lowest tone lasts that sounds at a time, both in seconds: of the lowest note held there (of the last before it, where none is), on
// the oscillator that stands lowest. It is 0 where nothing has a pitch.
func Period(m *meaning.Meaning, notes []phrase.Note, at float64) float64 {
	key, held := math.NaN(), false
	for _, n := range notes {
		if n.Start > at {
			break
		}
		sounds := n.End > at
		if math.IsNaN(key) || sounds && !held || sounds == held && n.Key < key {
			key, held = n.Key, sounds
		}
	}
	lowest := math.NaN()
	for i := range m.Modules {
		d := &m.Modules[i]
		if d.Idle != "" || d.Kind != meaning.Osc && d.Kind != meaning.Sub && d.Kind != meaning.Operator {
			continue
		}
		if v, ok := d.Get(meaning.PInterval); ok && !v.Off && !(v.Value >= lowest) {
			lowest = v.Value
		}
	}
	if math.IsNaN(key) || math.IsNaN(lowest) {
		return 0
	}
	return 1 / float64(q.Note(key+lowest/100).Frequency())
}

// Curve gives the gain of a meaning's filters on a note, in decibels at each frequency: those in the voice,
// as they stand without envelopes, in series or side by side, for the source that goes through most of them.
func Curve(m *meaning.Meaning, key float64, hz []float64) []float64 {
	out := make([]float64, len(hz))
	path := m.Graph().Path()
	through, most := "", 0 // the source that goes through the most filters
	for i := range m.Modules {
		if n := len(path.FiltersOf(m.Modules[i].ID)); n > most {
			through, most = m.Modules[i].ID, n
		}
	}
	for i, f := range hz {
		g := complex(1, 0)
		if most > 0 {
			g = path.Gain(through, func(x *meaning.Module) complex128 { return synth.FilterGain(x, key, f) })
		}
		out[i] = 20 * math.Log10(max(math.Hypot(real(g), imag(g)), 1e-5))
	}
	return out
}
