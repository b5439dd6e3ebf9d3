package translate

import (
	"sort"

	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
)

// Rank translates a patch to several targets and puts them in order, that which carries most of
// it first; of equals the one that comes first by id.
func Rank(src *panel.Compiled, p *patch.Patch, targets []*panel.Compiled, opt Options) ([]gloss.Carried, error) {
	out := make([]gloss.Carried, 0, len(targets))
	for _, dst := range targets {
		s, err := Translate(src, p, dst, Options{School: opt.School, Layer: opt.Layer})
		if err != nil {
			return nil, err
		}
		out = append(out, gloss.CarriedBy(s))
	}
	sort.SliceStable(out, func(a, b int) bool {
		if out[a].Share != out[b].Share {
			return out[a].Share > out[b].Share
		}
		return out[a].Target.ID < out[b].Target.ID
	})
	return out, nil
}
