package gloss

import (
	"fmt"
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// BetweenLine begins the id of a line that tells how two oscillators stand to each other.
const BetweenLine = "between:"

// The residue from whole octaves, in cents, between which two oscillators are heard to beat (common practice, no source: below it takes seconds, beyond it is an interval).
const (
	leastBeat = 0.3
	mostBeat  = 60.0
)

// How far beats may be off, as a share, to be held, and to be near (common practice, no source).
const (
	sameBeats = 0.1
	nearBeats = 0.3
)

// between gives a line for each oscillator that beats against the first: the interval between the two with its beats a second at the middle of the patch's notes, and what
// has become of both. A detune that comes to nothing on the target's steps says how to set it by ear.
func (in *Input) between() (out []Gloss) {
	var first *meaning.Module
	for i := range in.Plan.Wanted.Modules {
		m := &in.Plan.Wanted.Modules[i]
		if !m.Used() || m.Kind != meaning.Osc && m.Kind != meaning.Sub && (m.Kind != meaning.Operator || m.Params[meaning.POutput].Off) || m.Silence() != "" {
			continue
		}
		if first == nil {
			first = m
			continue
		}
		if g := in.interval(first, m); g != nil {
			out = append(out, *g)
		}
	}
	return out
}

func (in *Input) interval(a, b *meaning.Module) *Gloss {
	x, _ := a.Get(meaning.PInterval)
	y, _ := b.Get(meaning.PInterval)
	octaves := math.Round((y.Value - x.Value) / 1200)
	wanted := y.Value - x.Value - 1200*octaves
	i, ok := in.Plan.Placed(a.ID)
	j, both := in.Plan.Placed(b.ID)
	if !ok || !both || math.Abs(wanted) < leastBeat || math.Abs(wanted) > mostBeat || in.Plan.Cast.Module(a.ID) == nil || in.Plan.Cast.Module(b.ID) == nil {
		return nil
	}
	c, d := in.Got.Module(in.Target.Modules[i].ID), in.Got.Module(in.Target.Modules[j].ID)
	if c == nil || d == nil {
		return nil
	}
	v, _ := c.Get(meaning.PInterval)
	w, _ := d.Get(meaning.PInterval)
	reached := w.Value - v.Value - 1200*octaves
	// the upper one beats against the partial of the lower one that is nearest to it
	low := float64(in.Note.Frequency()) * math.Exp2((in.transposed()+math.Min(x.Value, y.Value))/1200) * math.Exp2(math.Abs(octaves))
	beats := func(cents float64) float64 { return low * (math.Exp2(math.Abs(cents)/1200) - 1) }
	want, got := beats(wanted), beats(reached)
	g := &Gloss{ID: BetweenLine + a.ID + "," + b.ID, Step: meaning.StepOsc, Section: b.Label, Label: "beats", Source: []Reading{}, Target: []Reading{}, Verdict: Held,
		Wanted: figure(q.Quantity{Dim: q.DimInterval, Value: y.Value - x.Value}), Reached: figure(q.Quantity{Dim: q.DimInterval, Value: w.Value - v.Value})}
	at := in.Note.NoteName()
	g.Reason = fmt.Sprintf("against %s it beats %s times a second at %s there, %s here", a.Label, q.Number(want, 2), at, q.Number(got, 2))
	list := in.shownBy(meaning.Ref(d.ID, meaning.PInterval))
	if len(list) > 0 {
		g.beatBy, g.beat = list[len(list)-1].Control, beatsAs(a.Label, q.Number(want, 2), at, "")
	}
	switch off := math.Abs(got-want) / want; {
	case off <= sameBeats:
	case off <= nearBeats:
		g.Verdict = Near
	default:
		g.Verdict = Bent
		side := "sharp"
		if wanted < reached {
			side = "flat"
		}
		if len(list) > 0 {
			g.Target = list[len(list)-1:]
			g.beat = beatsAs(a.Label, q.Number(want, 2), at, fmt.Sprintf("a hair %s of %s", side, g.Target[0].Reading))
			g.Reason += fmt.Sprintf("; by ear: %s a hair %s of %s, until it beats %s times a second at %s", g.Target[0].Label, side, g.Target[0].Reading, q.Number(want, 2), at)
		}
	}
	return g
}

// transposed is how far the whole voice of the source is transposed, in cents.
func (in *Input) transposed() float64 {
	sum := 0.0
	for i := range in.Plan.Wanted.Modules {
		if m := &in.Plan.Wanted.Modules[i]; m.Kind == meaning.Voice && m.Used() {
			a, _ := m.Get(meaning.PTranspose)
			b, _ := m.Get(meaning.PTune)
			sum += a.Value + b.Value
		}
	}
	return sum
}
