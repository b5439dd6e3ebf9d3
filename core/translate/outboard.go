package translate

import (
	"slices"
	"sort"

	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/rules"
)

// Outboard says which parts that a sheet leaves out, or makes by other means, a rack could play as
// they are.
type Outboard struct {
	Rack  gloss.PanelRef `json:"rack"`
	Parts []string       `json:"parts"`
}

// effects are the kinds that can stand outside of the instrument: they take its sound as a whole.
var effects = map[meaning.Kind]bool{meaning.Drive: true, meaning.EQ: true, meaning.Compressor: true, meaning.Multiband: true, meaning.Chorus: true, meaning.Flanger: true,
	meaning.Phaser: true, meaning.Delay: true, meaning.Reverb: true, meaning.Widener: true, meaning.Send: true}

// Racks looks for outboard for what a sheet leaves out: each rack with the effects that it would play
// by an effect of the same kind, most of them first.
func Racks(src *panel.Compiled, p *patch.Patch, s *gloss.Sheet, racks []*panel.Compiled, opt Options) ([]Outboard, error) {
	out := []Outboard{}
	for _, rack := range racks {
		if rack.Kind != "rack" || rack.ID == s.Target.ID || rack.ID == src.ID {
			continue
		}
		ids, err := rackPlays(src, p, s, rack, opt)
		if err != nil {
			return nil, err
		}
		o := Outboard{Rack: gloss.RefOf(rack), Parts: []string{}}
		for _, id := range ids {
			i, _ := src.ModuleIndex(id)
			o.Parts = append(o.Parts, src.Modules[i].Label)
		}
		if len(o.Parts) > 0 {
			out = append(out, o)
		}
	}
	sort.SliceStable(out, func(a, b int) bool { return len(out[a].Parts) > len(out[b].Parts) })
	return out, nil
}

// outside finds what a rack would play, by the same means, of what the target leaves out or makes by other
// means; nil where it has nothing to play.
func outside(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) (*gloss.Outside, error) {
	alone := opt
	alone.Rack = nil
	here, err := Translate(src, p, dst, alone)
	if err != nil {
		return nil, err
	}
	ids, err := rackPlays(src, p, here, opt.Rack, opt)
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	// the rack's sheet of these alone: the rest is the instrument's
	var rest []string
	for i := range src.Modules {
		if id := src.Modules[i].ID; !slices.Contains(ids, id) {
			rest = append(rest, id)
		}
	}
	there, err := Translate(src, p, opt.Rack, Options{School: opt.School, Layer: opt.Layer, Choices: plan.Choices{Elsewhere: rest}})
	if err != nil {
		return nil, err
	}
	return &gloss.Outside{Rack: opt.Rack, Parts: ids, Sheet: there}, nil
}

// rackPlays lists what a rack plays by its own effect of the same kind of what a sheet leaves out, and, where
// it needs no other means, of what the sheet makes by other means, or plays so badly that the rack is worth its penalty.
func rackPlays(src *panel.Compiled, p *patch.Patch, s *gloss.Sheet, rack *panel.Compiled, opt Options) (ids []string, err error) {
	missing := missingEffects(src, s)
	out, cost := map[string]bool{}, map[string]float64{}
	for _, x := range s.Plan.Modules {
		out[x.Source], cost[x.Source] = x.Target == "" && x.Rule == "", x.Cost
		if i, ok := src.ModuleIndex(x.Source); ok && effects[src.Modules[i].Kind] && x.Target != "" && x.Rule == "" && x.Cost > 0 {
			missing[x.Source] = true // played, but perhaps nearer on the rack
		}
	}
	if len(missing) == 0 {
		return nil, nil
	}
	there, err := Translate(src, p, rack, Options{School: opt.School, Layer: opt.Layer})
	if err != nil {
		return nil, err
	}
	for _, x := range there.Plan.Modules {
		if !missing[x.Source] || x.Target == "" || x.Rule != "" && !out[x.Source] {
			continue
		}
		if c := cost[x.Source]; c > 0 && x.Cost+rules.Named(gloss.OutboardRule).Penalty*x.Weight >= c {
			continue // the target's own is near enough for what the rack costs
		}
		a, _ := src.ModuleIndex(x.Source)
		b, ok := rack.ModuleIndex(x.Target)
		if ok && src.Modules[a].Kind == rack.Modules[b].Kind {
			ids = append(ids, x.Source)
		}
	}
	return ids, nil
}

// missingEffects lists the effects of the source that a sheet leaves out or makes by other means.
func missingEffects(src *panel.Compiled, s *gloss.Sheet) map[string]bool {
	out := map[string]bool{}
	for _, x := range s.Plan.Modules {
		if i, ok := src.ModuleIndex(x.Source); ok && effects[src.Modules[i].Kind] && x.Outside == "" && (x.Target == "" || x.Rule != "") {
			out[x.Source] = true
		}
	}
	return out
}
