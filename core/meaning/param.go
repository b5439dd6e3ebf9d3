package meaning

import (
	"math"
	"strings"

	"glossator/core/jnd"
	q "glossator/core/quantity"
)

// Param is one parameter that modules of a kind may have: its row holds what is known of it.
type Param struct {
	Name  ParamName
	Label string
	Dim   q.Dim
	// Neutral is the value that does nothing: what holds where a panel lacks the parameter.
	Neutral q.Quantity
	// Weight is how much it matters that the parameter is right, as a share of its module.
	Weight float64
	// JND is the just-noticeable difference, in the sense of quantity.Distance.
	JND jnd.Difference
	// Sums is set where several controls may add to the value (footage, semitones, fine).
	Sums bool
	// Matters tells whether the parameter is heard as its module stands; nil for always.
	Matters func(m *Module) bool
	// OffAs gives the value that does the same as off; nil where off is a value like others.
	OffAs func(m *Module) q.Quantity
	// Floor is the value below which nothing is told apart; 0 for none.
	Floor float64
	// Mirrored is set for the duty of a pulse: d and 1 - d have one spectrum, one of them upside down.
	Mirrored bool
	// Rest is the value at which the module gives no sound by this parameter, beside off; nil for none.
	Rest *float64
	// Mute gives the value by which the module is taken out of the sound; nil for Neutral. It is asked of the parameters in the kind's Silence.
	Mute func(m *Module) q.Quantity
	// Stays is set where a source that does not state the parameter leaves it at the target's init: its neutral value is no use to anybody.
	Stays bool
	// Harm is what being wrong costs beyond Weight, in the same unit: a filter of another kind is worse than none. It counts from HarmFrom on, in
	// just-noticeable differences.
	Harm, HarmFrom float64
	// Unplayed says why the engine does not play the parameter; empty where it does.
	Unplayed string
}

// Heard tells whether the parameter matters in the sound that a module makes.
func (p *Param) Heard(m *Module) bool { return p.Matters == nil || p.Matters(m) }

// Effective gives the value that does what "off" does, where there is one: a high cut at 20 kHz and a low cut at 20 Hz take nothing of what is
// heard, and a right time that is not set is the left one. m may be nil.
func (p *Param) Effective(v q.Quantity, m *Module) q.Quantity {
	if !v.Off || m == nil || p.OffAs == nil {
		return v
	}
	return p.OffAs(m)
}

// Told gives a value as it is told from others: none and what is below the floor are the floor.
func (p *Param) Told(v q.Quantity) q.Quantity {
	if p.Floor > 0 && (v.Off || v.Value < p.Floor) {
		v.Off, v.Value = false, p.Floor
	}
	return v
}

// Muted gives the value at which the parameter takes its module out of the sound.
func (p *Param) Muted(m *Module) q.Quantity {
	if p.Mute == nil {
		return p.Neutral
	}
	return p.Mute(m)
}

// Silences says why a value of the parameter leaves its module without sound; empty where it does not.
func (p *Param) Silences(v q.Quantity) string {
	switch {
	case v.Dim.Named():
		if p.Name == POn && v.Name == "off" {
			return "switched off"
		}
	case v.Off:
		return p.Label + " is off"
	case p.Rest != nil && v.Value == *p.Rest:
		return p.Label + " is " + q.Number(*p.Rest, 3)
	}
	return ""
}

// instant is the time below which nothing is heard to take any, in seconds (common practice, no source).
const instant = 0.001

// shortestGlide is the time below which a glide is heard as a step, in seconds (common practice, no source).
const shortestGlide = 0.006

// highest and lowest are the ends of what is heard, in hertz: cuts there take nothing (ISO 226's range; common practice).
const (
	highest = 20000.0
	lowest  = 20.0
)

// told sets the value below which nothing is told apart.
func (p Param) told(floor float64) Param { p.Floor = floor; return p }

func (p Param) when(f func(m *Module) bool) Param { p.Matters = f; return p }

func (p Param) mutedBy(f func(m *Module) q.Quantity) Param { p.Mute = f; return p }

func (p Param) rests(x float64) Param {
	p.Rest, p.Mute = &x, at(num(p.Dim, x))
	return p
}

func (p Param) offIs(x float64) Param {
	p.OffAs = at(num(p.Dim, x))
	return p
}

// offLike makes off the same as another parameter's value, where the module has that.
func (p Param) offLike(other ParamName) Param {
	p.OffAs = func(m *Module) q.Quantity {
		if v, ok := m.Params[other]; ok {
			return v.Quantity
		}
		return q.OffOf(p.Dim)
	}
	return p
}

// harms makes being wrong by so many just-noticeable differences cost more than the parameter's weight.
func (p Param) harms(by, from float64) Param { p.Harm, p.HarmFrom = by, from; return p }

// stays leaves the parameter at the target's init where the source does not state it.
func (p Param) stays() Param { p.Stays = true; return p }

func (p Param) unplayed(why string) Param { p.Unplayed = why; return p }

func at(v q.Quantity) func(*Module) q.Quantity { return func(*Module) q.Quantity { return v } }

// openFilter takes a filter out of the sound: as open as it goes, a high-pass as low.
func openFilter(m *Module) q.Quantity {
	if m.Params[PMode].Name == "highpass" {
		return q.OffOf(q.DimFrequency)
	}
	return num(q.DimFrequency, 1e6)
}

func never(*Module) bool { return false }

func is(p ParamName, word string) func(*Module) bool {
	return func(m *Module) bool { v, _ := m.Get(p); return v.Name == word }
}

func not(p ParamName, word string) func(*Module) bool {
	return func(m *Module) bool { v, _ := m.Get(p); return v.Name != word }
}

func on(p ParamName) func(*Module) bool {
	return func(m *Module) bool { v, _ := m.Get(p); return !v.Off }
}

func above(p ParamName) func(*Module) bool {
	return func(m *Module) bool { v, _ := m.Get(p); return !v.Off && v.Value > 0 }
}

func several(p ParamName) func(*Module) bool {
	return func(m *Module) bool { v, _ := m.Get(p); return v.Value > 1 }
}

// pulses tells whether a pulse of no duty of its own is played: the wave itself, or one beside the position of a table.
func pulses(m *Module) bool {
	w, _ := m.Get(PWave)
	if w.Name != "table" {
		return w.Name == q.WavePulse
	}
	t, _ := m.Get(PTable)
	if !strings.Contains(t.Name, q.WavePulse) {
		return false
	}
	table, err := q.ParseTable(t.Name)
	if err != nil {
		return false
	}
	f, _ := m.Get(PFrame)
	x := f.Value * float64(len(table)-1)
	for i, w := range table {
		if w.Name == q.WavePulse && w.Width == 0 && math.Abs(x-float64(i)) < 1 {
			return true
		}
	}
	return false
}

// warps tells whether a transformation of a wave does anything: by its amount, or by what moves that.
func warps(m *Module) bool {
	v, _ := m.Get(PWarpAmount)
	return v.Value != 0 || m.Moved[PWarpAmount]
}

// falls tells whether an envelope falls after its attack: not where it stays at full for good.
func falls(m *Module) bool {
	s, _ := m.Get(PSustain)
	b, _ := m.Get(PBreak)
	return s.Value < 1 || b.Value < 1 || m.Moved[PSustain] || m.Moved[PBreak]
}

// duty is the width of a pulse.
func duty(weight float64) Param {
	return Param{Name: PWidth, Label: "pulse width", Dim: q.DimRatio, Neutral: num(q.DimRatio, 0.5), Weight: weight, JND: jnd.Width, Mirrored: true, Matters: pulses}
}

func name(n string) q.Quantity          { return q.Named(q.DimName, n) }
func num(d q.Dim, v float64) q.Quantity { return q.Quantity{Dim: d, Value: v} }

func words(n ParamName, label, neutral string, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimName, Neutral: name(neutral), Weight: weight, JND: jnd.Exact}
}

func share(n ParamName, label string, neutral, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimRatio, Neutral: num(q.DimRatio, neutral), Weight: weight, JND: jnd.Share}
}

func count(n ParamName, label string, neutral, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimCount, Neutral: num(q.DimCount, neutral), Weight: weight, JND: jnd.Exact}
}

func cents(n ParamName, label string, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimInterval, Neutral: num(q.DimInterval, 0), Weight: weight, JND: jnd.Pitch, Sums: true}
}

func decibels(n ParamName, label string, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimLevel, Neutral: num(q.DimLevel, 0), Weight: weight, JND: jnd.Level}
}

func gain(n ParamName, label string, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimLevel, Neutral: q.OffOf(q.DimLevel), Weight: weight, JND: jnd.Level, Mute: at(q.OffOf(q.DimLevel))}
}

// span is a time that does nothing when off.
func span(n ParamName, label string, weight float64, d jnd.Difference) Param {
	return Param{Name: n, Label: label, Dim: q.DimDuration, Neutral: q.OffOf(q.DimDuration), Weight: weight, JND: d, Floor: instant}
}

// hertz is a frequency; where the neutral is off, a filter is open.
func hertz(n ParamName, label string, weight float64, d jnd.Difference) Param {
	return Param{Name: n, Label: label, Dim: q.DimFrequency, Neutral: q.OffOf(q.DimFrequency), Weight: weight, JND: d}
}

func resonance(weight float64) Param {
	return Param{Name: PResonance, Label: "resonance", Dim: q.DimResonance, Neutral: num(q.DimResonance, 0), Weight: weight, JND: jnd.Resonance}
}

var (
	onSwitch = words(POn, "on", "on", 1).mutedBy(func(*Module) q.Quantity { return name("off") })
	place    = count(PPlace, "place in the chain", 0, 0.1).stays()
)

func lfoRate() Param {
	return Param{Name: PRate, Label: "rate", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 1), Weight: 0.6, JND: jnd.Rate}
}

// DepthDim gives the dimension in which a route moves a parameter of dimension d: octaves
// for frequencies and times, cents for pitch, shares for levels and shares.
func DepthDim(d q.Dim) q.Dim {
	switch d {
	case q.DimFrequency, q.DimDuration, q.DimBeats:
		return q.DimOctaves
	case q.DimInterval, q.DimResonance, q.DimCount:
		return d
	}
	return q.DimRatio
}

// DepthParam is the depth of a route whose destination has dimension d.
func DepthParam(d q.Dim) Param {
	dim := DepthDim(d)
	told := map[q.Dim]jnd.Difference{q.DimOctaves: jnd.Octaves, q.DimInterval: jnd.Pitch, q.DimRatio: jnd.Share, q.DimResonance: jnd.Resonance, q.DimCount: jnd.Count}[dim]
	return Param{Name: PDepth, Label: "depth", Dim: dim, Neutral: num(dim, 0), Weight: 1, JND: told}
}
