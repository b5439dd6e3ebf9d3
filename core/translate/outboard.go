package translate

import (
	"sort"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
)

// Outboard says which parts that a sheet leaves out, or makes by other means, a rack could play as
// they are.
type Outboard struct {
	Rack  PanelRef `json:"rack"`
	Parts []string `json:"parts"`
}

// effects are the kinds that can stand outside of the instrument: they take its sound as a whole.
var effects = map[meaning.Kind]bool{meaning.Drive: true, meaning.EQ: true, meaning.Compressor: true, meaning.Multiband: true, meaning.Chorus: true, meaning.Flanger: true,
	meaning.Phaser: true, meaning.Delay: true, meaning.Reverb: true, meaning.Widener: true, meaning.Send: true}

// Racks looks for outboard for what a sheet leaves out: each rack with the effects that it would play
// by the same means, most of them first.
func Racks(src *panel.Compiled, p *patch.Patch, s *Sheet, racks []*panel.Compiled, opt Options) ([]Outboard, error) {
	out := []Outboard{}
	missing := map[string]bool{}
	for _, x := range s.Plan.Modules {
		if i, ok := src.ModuleIndex(x.Source); ok && effects[meaning.Kind(src.Modules[i].Kind)] && (x.Target == "" || x.Rule != "") {
			missing[x.Source] = true
		}
	}
	for _, rack := range racks {
		if len(missing) == 0 || rack.Kind != "rack" || rack.ID == s.Target.ID || rack.ID == src.ID {
			continue
		}
		there, err := Translate(src, p, rack, Options{School: opt.School, Layer: opt.Layer})
		if err != nil {
			return nil, err
		}
		o := Outboard{Rack: there.Target, Parts: []string{}}
		for _, x := range there.Plan.Modules {
			if missing[x.Source] && x.Target != "" && x.Rule == "" {
				o.Parts = append(o.Parts, x.SourceLabel)
			}
		}
		if len(o.Parts) > 0 {
			out = append(out, o)
		}
	}
	sort.SliceStable(out, func(a, b int) bool { return len(out[a].Parts) > len(out[b].Parts) })
	return out, nil
}
