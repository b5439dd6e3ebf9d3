package translate

import (
	"slices"

	"glossator/core/meaning"
)

// sounding are the kinds that a second layer can bring in.
var sounding = []meaning.Kind{meaning.Osc, meaning.Sub, meaning.Noise, meaning.Operator}

const byFirst = "played by the first layer"

// elsewhere takes out of a meaning what another layer or the rack plays, and what moves nothing then.
func elsewhere(m *meaning.Meaning, ids []string, why string) {
	if len(ids) == 0 {
		return
	}
	for i := range m.Modules {
		if d := &m.Modules[i]; d.Used() && slices.Contains(ids, d.ID) {
			d.Idle = why
		}
	}
	for range 4 { // chains of movers settle in as many passes as they are long
		heard := map[string]bool{}
		for i := range m.Routes {
			r := &m.Routes[i]
			if !r.Used() {
				continue
			}
			any := false
			for _, to := range r.To {
				id, _ := meaning.Split(to)
				d := m.Module(id)
				any = any || d == nil || d.Used()
			}
			if !any {
				r.Idle = "what it moves is " + why
				continue
			}
			heard[r.From], heard[r.Via] = true, true
		}
		for i := range m.Modules {
			if d := &m.Modules[i]; d.Used() && (d.Kind == meaning.Env || d.Kind == meaning.LFO) && !heard[d.ID] {
				d.Idle = "nothing listens to it in this layer"
			}
		}
	}
}

// Missing lists the sources of sound that a sheet leaves out, and Played those that it plays: what a second layer
// would bring in, and what it would leave to the first.
func (s *Sheet) Missing(kindOf func(id string) meaning.Kind) (missing, played []string) {
	missing, played = []string{}, []string{}
	for _, x := range s.Plan.Modules {
		switch {
		case !slices.Contains(sounding, kindOf(x.Source)):
		case x.Target == "" && x.Rule == "":
			missing = append(missing, x.Source)
		default:
			played = append(played, x.Source)
		}
	}
	return missing, played
}
