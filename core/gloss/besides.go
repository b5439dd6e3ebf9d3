package gloss

import (
	"fmt"
	"math"
	"math/cmplx"
	"slices"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/plan"
	q "glossator/core/quantity"
)

// OrderLine is the id of the line that tells that effects stand in another order.
const OrderLine = "order"

// PlaceLine begins the id of a line that tells that an effect stands on the other side of the amplifier; what follows is the target's module.
const PlaceLine = "place:"

// silentWords are words that change nothing that is heard of a part by themselves.
var silentWords = map[meaning.ParamName]bool{meaning.PTable: true, meaning.PPhase: true, meaning.PScope: true, meaning.PTo: true, meaning.POn: true, meaning.PGlideLaw: true, meaning.PGlideWhen: true, meaning.PToneMode: true, meaning.PRouting: true,
	meaning.PFrame: true, meaning.PWarp: true} // the line of the wave tells what a table plays

// besides gives lines for what the target's parts do that nothing of the source asks for and no line tells so far: a control that means something else as
// another one stands, a property that the source has not, a place on the other side of the amplifier.
func (in *Input) besides(lines []Gloss) []Gloss {
	told := map[string]bool{}
	for i := range lines {
		told[lines[i].TargetParam] = true
		for _, a := range lines[i].Also {
			ref, _, _ := in.Plan.Where(a.Param)
			id, name := meaning.Split(ref)
			if j, ok := in.Plan.Best.Module[id]; ok {
				told[meaning.Ref(in.Target.Modules[j].ID, name)] = true
			}
		}
	}
	out := append(in.routesBesides(lines), in.filtersBesides(lines)...)
	out = append(out, in.orderBesides()...)
	out = append(out, in.extras()...)
	there, here := in.Plan.Cast.Graph(), in.Got.Graph()
	n := 0
	for i := range in.Plan.Cast.Modules {
		m := &in.Plan.Cast.Modules[i]
		if _, placed := in.Plan.Best.Module[m.ID]; placed && m.Used() && (m.Kind == meaning.Osc || m.Kind == meaning.Operator || m.Kind == meaning.Sub) {
			n++
		}
	}
	tones := n > 1 // where they begin to each other is heard
	for i := range in.Plan.Cast.Modules {
		m := &in.Plan.Cast.Modules[i]
		j, placed := in.Plan.Best.Module[m.ID]
		if !placed || !m.Used() {
			continue
		}
		d := in.Got.Module(in.Target.Modules[j].ID)
		if d == nil || !d.Used() {
			continue
		}
		spec := meaning.SpecOf(m.Kind)
		for _, p := range spec.Params {
			ref := meaning.Ref(d.ID, p.Name)
			got, has := d.Params[p.Name]
			want, asked := m.Params[p.Name]
			woken := asked && !p.Heard(m) // it does nothing there, and does here: the priority of notes of one voice, the width of what was no pulse
			made := asked && m.Made()     // a rule asks for it, and no control of the source
			adjusted, moved := in.Adjusted[meaning.Ref(m.ID, p.Name)]
			if asked && !woken && !made && !moved || !has && (!made || p.Stays) || told[ref] || p.Name == meaning.PPlace || p.Name == meaning.PCount || !p.Heard(d) || p.Unplayed != "" {
				continue
			}
			if silentWords[p.Name] && (p.Name != meaning.PPhase || !tones) {
				continue
			}
			switch {
			case !has:
				got.Quantity = p.Neutral
			case !asked:
				want.Quantity = p.Neutral
			}
			if want.Name == plan.Any || want.Name == plan.Both {
				continue
			}
			want.Quantity = asWanted(p, want.Quantity, m, d)
			dist, jnds := in.compare(p, want.Quantity, got.Quantity, m, d)
			if jnds <= 1 && !moved {
				continue
			}
			g := Gloss{ID: "target:" + ref, Step: spec.Step, Section: d.Label, Label: p.Label, Source: []Reading{}, Target: in.shownBy(ref), TargetParam: ref, Wanted: figure(want.Quantity), Reached: figure(got.Quantity),
				Verdict: Bent, Diff: difference(p, want.Quantity, got.Quantity, dist), JNDs: shownJNDs(p, want.Quantity, jnds), Reason: "nothing of the source asks for it"}
			switch {
			case moved:
				if g.Reason = forWhat(adjusted.Notes); jnds <= 1 {
					g.Verdict = Held
				}
			case woken:
				g.Reason = "it does nothing there, and does here"
			case made:
				g.Reason = "what stands for " + in.labelOf(m.Source()) + " asks for it"
			}
			if len(g.Target) == 0 {
				g.Reason += ": fixed on " + in.Target.Name
			}
			for _, t := range g.Target {
				if t.set() {
					g.Reason += "; " + in.byHand(t)
					break
				}
			}
			out = append(out, g)
		}
		if m.Kind == meaning.Drive && !m.Made() && there.Behind(m.ID) != here.Behind(d.ID) {
			before, after := "before", "behind"
			if there.Behind(m.ID) {
				before, after = after, before
			}
			out = append(out, Gloss{ID: PlaceLine + d.ID, Step: spec.Step, Section: m.Label, Label: "place", Source: []Reading{}, Target: []Reading{}, Verdict: Bent,
				Reason: fmt.Sprintf("it stands %s the amplifier there and %s it here: it distorts by another level, and what the envelope does to it is heard otherwise", before, after)})
		}
	}
	return out
}

// orderBesides tells where two effects stand the other way round. Linear ones sound alike either way; what distorts or follows the level does not.
func (in *Input) orderBesides() []Gloss {
	chain := in.Got.Graph().Chain()
	type played struct {
		label string
		at    int
		bends bool
	}
	var list []played
	for _, d := range in.Plan.Wanted.Graph().Chain() {
		j, ok := in.Plan.Placed(d.ID) // by other means, too: it stands for what it is made of
		if !ok {
			continue
		}
		if at := slices.IndexFunc(chain, func(x *meaning.Module) bool { return x.ID == in.Target.Modules[j].ID }); at >= 0 {
			list = append(list, played{d.Label, at, d.Kind == meaning.Drive || d.Kind == meaning.Compressor || d.Kind == meaning.Multiband})
		}
	}
	var told []string
	v := Near
	for i, a := range list {
		for _, b := range list[i+1:] {
			if b.at < a.at {
				told = append(told, a.label+" before "+b.label+" there, behind it here")
				if a.bends || b.bends {
					v = Bent
				}
			}
		}
	}
	if len(told) == 0 {
		return nil
	}
	why := strings.Join(told, "; ")
	if v == Near {
		why += ": both pass sound on as it comes, and sound nearly alike either way"
	}
	return []Gloss{{ID: OrderLine, Step: meaning.StepEffects, Section: "Effects", Label: "order", Source: []Reading{}, Target: []Reading{}, Verdict: v, Reason: why}}
}

// asWanted is what a parameter has to be on the target for what is wanted of it.
func asWanted(p meaning.Param, want q.Quantity, m, d *meaning.Module) q.Quantity {
	if p.Name == meaning.PResonance {
		return plan.OnTarget(p, m, d)
	}
	return want
}

// labelOf gives the label of a part of the source.
func (in *Input) labelOf(id string) string {
	if m := in.Plan.Wanted.Module(id); m != nil {
		return m.Label
	}
	if r := in.Plan.Wanted.Route(id); r != nil {
		return r.Label
	}
	return id
}

// filtersBesides tells of the filters of the target that no part is played by and that cut all the same, as open as they go: their line says so where they were
// switched off as far as that goes, else they get one. lines are changed in place.
func (in *Input) filtersBesides(lines []Gloss) (out []Gloss) {
	path := in.Got.Graph()
	for j := range in.Target.Modules {
		d := in.Got.Module(in.Target.Modules[j].ID)
		if d == nil || d.Kind != meaning.Filter || !d.Used() || in.Set.Playing(j) || !path.Voiced(d.ID) && !path.Behind(d.ID) {
			continue
		}
		ref := meaning.Ref(d.ID, meaning.PCutoff)
		if slices.ContainsFunc(lines, func(g Gloss) bool { return g.TargetParam == ref }) {
			continue // brought in by ear: that is told
		}
		most, at := 0.0, 0.0
		for _, hz := range []float64{40, 100, 300, 1000, 3000, 8000, 12000} {
			if db := 20 * math.Log10(math.Max(1e-6, cmplx.Abs(d.FilterGain(float64(q.MiddleC), hz)))); math.Abs(db) > math.Abs(most) {
				most, at = db, hz
			}
		}
		if math.Abs(most) <= 1 || path.Path().Shut(d) {
			continue
		}
		cutoff, _ := d.Get(meaning.PCutoff)
		why := fmt.Sprintf("nothing of the source asks for it, and it goes no further: %s dB at %s Hz", q.Number(most, 2), q.Number(at, 2))
		shown := in.shownBy(ref)
		k := slices.IndexFunc(lines, func(g Gloss) bool {
			return len(g.Source) == 0 && g.Verdict == Held && len(g.Target) == 1 && len(shown) > 0 && g.Target[0].Control == shown[0].Control
		})
		if k >= 0 {
			g := &lines[k]
			g.Verdict, g.TargetParam, g.Reached, g.Reason = Bent, ref, figure(cutoff.Quantity), g.Reason+"; "+why
			continue
		}
		if len(shown) == 0 {
			why += ": fixed on " + in.Target.Name
		}
		out = append(out, Gloss{ID: "target:" + ref, Step: meaning.StepFilter, Section: d.Label, Label: "cutoff", Source: []Reading{}, Target: shown, TargetParam: ref, Reached: figure(cutoff.Quantity), Verdict: Bent, Reason: why})
	}
	return out
}

// tuned tells whether a module of the target that plays no part has a control that was set by ear.
func (in *Input) tuned(id string) bool {
	j, is := in.Target.ModuleIndex(id)
	if !is || in.Set.Playing(j) {
		return false
	}
	for k := range in.Tuned {
		if in.byEar(k) && slices.ContainsFunc(in.Target.Controls[k].Means, func(b panel.Bind) bool { of, _ := meaning.Split(b.Param); return of == id }) {
			return true
		}
	}
	return false
}

// extras gives lines for what routes that a rule has added move on the target besides.
func (in *Input) extras() (out []Gloss) {
	for i := range in.Plan.Cast.Routes {
		r := &in.Plan.Cast.Routes[i]
		if c := &in.Plan.Best.Route[i]; !r.Used() || !c.Made() || !r.Made() || r.Changed() {
			continue
		} else if got, _, _ := in.made(c.Way); got != nil && got.Used() {
			wanted := map[string]bool{}
			for _, to := range r.To {
				id, name := meaning.Split(to)
				if j, ok := in.Plan.Best.Module[id]; ok {
					wanted[meaning.Ref(in.Target.Modules[j].ID, name)] = true
				}
			}
			for _, to := range got.To {
				id, name := meaning.Split(to)
				d := in.Got.Module(id)
				if wanted[to] || d == nil || !d.Used() || !in.plays(id) || name == meaning.PTune || !d.Heard(name) {
					continue
				}
				out = append(out, Gloss{ID: "target:" + got.ID + ">" + to, Step: meaning.StepLFO, Section: "Routes", Label: got.Label, Source: []Reading{}, Target: []Reading{}, TargetParam: to, Route: got.ID,
					Wanted: figure(q.Quantity{Dim: got.Depth.Dim}), Reached: figure(got.Depth.Quantity), Verdict: Bent, Reason: "it moves the " + string(name) + " of " + d.Label + " as well"})
			}
		}
	}
	return out
}

// modulates tells whether a route of the target makes one thing that sounds move another, which nothing switches off.
func (in *Input) modulates(r *meaning.Route) bool {
	from := in.Got.Module(r.From)
	return from != nil && from.Used() && (from.Kind == meaning.Osc || from.Kind == meaning.Operator || from.Kind == meaning.Noise) && slices.ContainsFunc(r.To, func(to string) bool {
		id, _ := meaning.Split(to)
		d := in.Got.Module(id)
		return d != nil && d.Used()
	})
}

// plays tells whether a module of the target plays a part; what is no module plays.
func (in *Input) plays(id string) bool {
	j, is := in.Target.ModuleIndex(id)
	return !is || in.Set.Playing(j)
}

// routesBesides gives a line for each route of the target that nothing can take away between what plays parts, and for each that moves what a route of the plan should,
// which is off as the target is set: what opens the amplifier in place of an envelope that has been taken off it, by hand or by ear.
func (in *Input) routesBesides(lines []Gloss) []Gloss {
	off := map[string]string{} // what it should move, and by what
	for i := range in.Plan.Cast.Routes {
		r := &in.Plan.Cast.Routes[i]
		c := &in.Plan.Best.Route[i]
		if !r.Used() || !c.Made() {
			continue
		}
		if got, _, _ := in.made(c.Way); got != nil && got.Used() {
			continue
		}
		for _, to := range r.To {
			id, name := meaning.Split(to)
			if j, ok := in.Plan.Best.Module[id]; ok {
				off[meaning.Ref(in.Target.Modules[j].ID, name)] = r.Label
			}
		}
	}
	stuck := map[string]bool{}
	for _, k := range in.Set.Always {
		r := &in.Target.Routes[k]
		stuck[r.ID] = in.plays(r.From) && slices.ContainsFunc(r.To, func(to string) bool { id, _ := meaning.Split(to); return in.plays(id) })
	}
	opened := slices.ContainsFunc(in.Got.Routes, func(r meaning.Route) bool {
		return r.Used() && in.Got.Opens(&r) && r.From != "gate" && r.Depth.Value > 0.99
	}) // what opens it by a part alone does not shut it
	var out []Gloss
	for i := range in.Got.Routes {
		r := &in.Got.Routes[i]
		if !r.Used() || in.Plan.Makes(in.Target, r.ID) || math.Abs(r.Depth.Value) <= depthParamOf(r).JND.Size || slices.ContainsFunc(lines, func(g Gloss) bool { return g.Route == r.ID }) {
			continue
		}
		k := slices.IndexFunc(r.To, func(to string) bool { return off[to] != "" })
		why := ""
		switch {
		case k >= 0:
			why = "in place of " + off[r.To[k]] + ", which is off as the target is set"
		case in.Got.Opens(r) && (r.From == "gate" && !opened || r.From != "gate" && in.Got.Module(r.From) != nil && in.plays(r.From)):
			why = "it opens the amplifier on " + in.Target.Name
		case in.tuned(r.From):
			why = "nothing of the source asks for it, and what moves it has been set by ear"
		case in.Got.Module(r.From) != nil && slices.ContainsFunc(r.To, func(to string) bool { id, _ := meaning.Split(to); return in.tuned(id) }):
			why = "it moves what has been brought in by ear"
		case stuck[r.ID], in.modulates(r):
			why = "nothing of the source asks for it, and it cannot be switched off on " + in.Target.Name
		default:
			continue
		}
		ref := meaning.Ref(r.ID, meaning.PDepth)
		out = append(out, Gloss{ID: "target:" + ref, Step: meaning.StepLFO, Section: "Routes", Label: r.Label, Source: []Reading{}, Target: in.shownBy(ref), TargetParam: ref, Route: r.ID,
			Wanted: figure(q.Quantity{Dim: r.Depth.Dim}), Reached: figure(r.Depth.Quantity), Verdict: Bent, Reason: why})
	}
	return out
}
