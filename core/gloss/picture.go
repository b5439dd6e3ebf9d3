package gloss

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
	"glossator/core/synth"
)

// Picture shows what the part of a line does on both sides, over each other.
type Picture struct {
	Gloss string `json:"gloss"`
	// Shape is what is drawn; empty where the part has no picture.
	Shape synth.Shape `json:"shape,omitempty"`
	Title string      `json:"title"`
	// Unit is what the values are in, Along what they stand along: "s", "Hz" or "periods".
	Unit  string `json:"unit"`
	Along string `json:"along"`
	// End is the end of what is drawn where it goes along time, in seconds.
	End float64 `json:"end"`
	// Low and High are the ends of the upright axis.
	Low  float64 `json:"low"`
	High float64 `json:"high"`
	// Source and Target are places along and values; empty where a side has nothing there.
	Source      [][2]float64 `json:"source"`
	Target      [][2]float64 `json:"target"`
	SourceLabel string       `json:"sourceLabel"`
	TargetLabel string       `json:"targetLabel"`
}

// drawn is a module, or what a route makes of it.
type drawn struct {
	module *meaning.Module
	times  float64
	route  *meaning.Route
}

// part finds what is drawn for a parameter of a meaning.
func part(m *meaning.Meaning, ref string) (d drawn, ok bool) {
	id, _ := meaning.Split(ref)
	if d.module = m.Module(id); d.module != nil {
		return drawn{d.module, 1, nil}, true
	}
	r := m.Route(id)
	if r == nil || r.Idle != "" {
		return d, false
	}
	d = drawn{m.Module(r.From), r.Depth.Value, r}
	return d, d.module != nil && (d.module.Kind == meaning.Env || d.module.Kind == meaning.LFO)
}

// PictureOf draws the part that a line is about: source and target on the key that the patch is mostly played at.
func (in *Input) PictureOf(g *Gloss) *Picture {
	p := &Picture{Gloss: g.ID, Source: [][2]float64{}, Target: [][2]float64{}, SourceLabel: in.Source.Name, TargetLabel: in.Target.Name}
	from, ok := part(in.Plan.Wanted, g.Param)
	var to drawn
	there := false
	if g.TargetParam != "" {
		to, there = part(in.Got, g.TargetParam)
	}
	if !ok && !there {
		return p
	}
	lead := from
	if !ok {
		lead = to
	}
	span, shape, can := synth.SpanOf(lead.module)
	if !can {
		return p
	}
	if there && ok {
		s, of, can := synth.SpanOf(to.module)
		if there = can && of == shape; there {
			span = span.Over(s)
		}
	}
	key := float64(in.Note)
	draw := func(d drawn) [][2]float64 {
		out := synth.Sketch(d.module, key, span)
		if out == nil {
			return [][2]float64{}
		}
		if d.route != nil {
			for i := range out {
				if d.route.Polarity == "unipolar" && d.module.Kind == meaning.LFO {
					out[i][1] = (out[i][1] + 1) / 2
				}
				out[i][1] *= d.times
			}
		}
		return out
	}
	if ok {
		p.Source = draw(from)
	}
	if there {
		p.Target = draw(to)
	}
	p.Shape, p.Title, p.End = shape, lead.module.Label, span.Whole
	p.Low, p.High = -1, 1
	switch shape {
	case synth.ShapeEnvelope:
		p.Unit, p.Along, p.Low = "level", "s", 0
	case synth.ShapeLFO:
		p.Unit, p.Along = "swing", "s"
	case synth.ShapeEchoes:
		p.Unit, p.Along, p.Low, p.High = "dB", "s", -60, 0
	case synth.ShapeFilter:
		p.Unit, p.Along, p.Low, p.High = "dB at "+q.Note(key).NoteName(), "Hz", -60, 24
	case synth.ShapeWave:
		p.Unit, p.Along, p.High = "two periods", "periods", 1.1
		for _, list := range [][][2]float64{p.Source, p.Target} { // edges overshoot (Gibbs)
			for _, x := range list {
				p.High = max(p.High, math.Abs(x[1]))
			}
		}
		p.Low = -p.High
	}
	if lead.route != nil {
		p.Title = lead.route.Label
		p.Unit = depthUnit(lead.route.Depth.Dim)
		p.Low, p.High = 0, 0
		for _, list := range [][][2]float64{p.Source, p.Target} {
			for i := range list {
				if lead.route.Depth.Dim == q.DimRatio {
					list[i][1] *= 100
				}
				p.Low, p.High = min(p.Low, list[i][1]), max(p.High, list[i][1])
			}
		}
		if p.Low == p.High {
			p.High = 1
		}
	}
	return p
}

// depthUnit names what a depth is drawn in.
func depthUnit(d q.Dim) string {
	switch d {
	case q.DimInterval:
		return "ct"
	case q.DimOctaves:
		return "oct"
	case q.DimLevel:
		return "dB"
	case q.DimRatio:
		return "%"
	}
	return ""
}
