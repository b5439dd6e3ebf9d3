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
// by an effect of the same kind, most of them first.
func Racks(src *panel.Compiled, p *patch.Patch, s *Sheet, racks []*panel.Compiled, opt Options) ([]Outboard, error) {
	out := []Outboard{}
	for _, rack := range racks {
		if rack.Kind != "rack" || rack.ID == s.Target.ID || rack.ID == src.ID {
			continue
		}
		ids, err := rackPlays(src, p, s, rack, opt)
		if err != nil {
			return nil, err
		}
		o := Outboard{Rack: ref(rack), Parts: []string{}}
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
