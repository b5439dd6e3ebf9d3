package heard

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/rules"
)

// Remains makes of what was wanted what a sheet says is left of it: parts made by other means as the rules make them, parameters that are bent at the
// figure that their line shows, and what is left out taken away. It reads the sheet's lines, and not where the controls stand.
func Remains(in *gloss.Input, s *gloss.Sheet) *meaning.Meaning {
	r := &remains{in: in, sheet: s, out: &meaning.Meaning{Tempo: in.Plan.Wanted.Tempo, Hands: in.Plan.Cast.Hands}}
	r.modules()
	r.routes()
	r.lines()
	r.hardly()
	r.unheard()
	r.out.Audio = edges(in.Plan.Wanted, in.Plan.Cast, in.Plan.Uses)
	r.gone()
	r.displaced()
	r.places()
	for _, held := range r.in.HeldOpen() { // the notes tell of them
		r.addedRoute(&gloss.Gloss{Route: held.ID, TargetParam: meaning.Ref(held.ID, meaning.PDepth), Reached: &gloss.Figure{Quantity: held.Depth.Quantity}})
	}
	r.bring()
	r.order()
	// what is not there stays in the path as something that is not used: nothing goes through a ring modulator that is gone
	for _, from := range []*meaning.Meaning{in.Plan.Cast, in.Plan.Wanted} {
		for i := range from.Modules {
			if m := from.Modules[i]; r.out.Module(m.ID) == nil {
				m.Idle = "left out"
				r.out.Modules = append(r.out.Modules, m)
			}
		}
	}
	return r.out
}

type remains struct {
	in    *gloss.Input
	sheet *gloss.Sheet
	out   *meaning.Meaning
	// brought are modules of the target that play no part of the source
	brought []string
}

// modules takes the parts that have a place, as they are wanted.
func (r *remains) modules() {
	cast := r.in.Plan.Cast
	for i := range cast.Modules {
		m := cast.Modules[i]
		j, placed := r.in.Plan.Best.Module[m.ID]
		if !m.Used() || !placed && !r.outside(&m) {
			continue
		}
		if m.Params = maps.Clone(m.Params); placed {
			r.table(&m, r.in.Got.Module(r.in.Target.Modules[j].ID))
		}
		for name, v := range m.Params {
			if v.Name == plan.Any {
				delete(m.Params, name)
			}
		}
		r.out.Modules = append(r.out.Modules, m)
	}
}

// table gives a part that is played by a table of waves the table of the target, and its place in it: no line tells what a table holds.
func (r *remains) table(m, got *meaning.Module) {
	if got == nil || got.Params[meaning.PWave].Name != "table" || m.Params[meaning.PWave].Name == "table" && m.Params[meaning.PTable].Name == got.Params[meaning.PTable].Name {
		return
	}
	for _, name := range []meaning.ParamName{meaning.PWave, meaning.PTable, meaning.PFrame} {
		if v, ok := got.Params[name]; ok {
			m.Params[name] = v
		} else {
			delete(m.Params, name)
		}
	}
}

// outside tells whether the outboard rack plays a part.
func (r *remains) outside(m *meaning.Module) bool {
	for _, x := range r.sheet.Plan.Modules {
		if x.Source == m.Source() && x.Outside != "" {
			return true
		}
	}
	return false
}

// routes takes the routes that are made, as deep as they are wanted.
func (r *remains) routes() {
	cast := r.in.Plan.Cast
	for i := range cast.Routes {
		if w := cast.Routes[i]; w.Used() && i < len(r.in.Plan.Best.Route) && r.in.Plan.Best.Route[i].Made() {
			r.out.Routes = append(r.out.Routes, w)
		}
	}
}

// gone takes filters that are left out of the path: what stood in a row goes past them, what stood beside another goes through that one alone.
func (r *remains) gone() {
	graph := r.in.Plan.Wanted.Graph()
	alive := func(id string) bool {
		return slices.ContainsFunc(r.out.Modules, func(m meaning.Module) bool { return m.ID == id || m.Changed() && m.First == id })
	}
	for _, f := range graph.Filters() {
		if alive(f.ID) {
			continue
		}
		beside := slices.ContainsFunc(graph.Filters(), func(x *meaning.Module) bool { return alive(x.ID) && graph.SideBySide(f, x) })
		r.splice(f.ID, func(a string) bool {
			d := r.out.Module(a) // by a switch the one before it stands beside it, and goes on
			return !beside || d != nil && d.Kind == meaning.Filter
		})
	}
}

// order puts the effects in the order in which a line says that they stand.
func (r *remains) order() {
	if !slices.ContainsFunc(r.sheet.Glosses, func(g gloss.Gloss) bool { return g.ID == gloss.OrderLine }) {
		return
	}
	for i, d := range r.in.Got.Graph().Chain() {
		m := r.player(d.ID)
		if m == nil {
			m = r.out.Module(own(d.ID))
		}
		if m != nil {
			m.Params = maps.Clone(m.Params)
			m.Params[meaning.PPlace] = meaning.Value{Quantity: q.Quantity{Dim: q.DimCount, Value: float64(i + 1)}}
		}
	}
}

// soundKind tells whether a kind of module makes sound.
func soundKind(k meaning.Kind) bool {
	switch k {
	case meaning.Osc, meaning.Sub, meaning.Noise, meaning.Operator, meaning.Ring:
		return true
	}
	return false
}

// own is the id here of a module of the target that plays no part of the source, which may have one by the same name.
func own(id string) string { return "here:" + id }

// bring puts what has been brought in where the target has it: behind what leads to it there, before what that leads to here.
func (r *remains) bring() {
	sounds := func(id string) int {
		if soundKind(r.out.Module(own(id)).Kind) {
			return 1
		}
		return 0
	}
	// what makes sound comes last: it goes into what stands in line
	slices.SortStableFunc(r.brought, func(a, b string) int { return cmp.Compare(sounds(a), sounds(b)) })
	wired := map[string]bool{}
	for _, id := range r.brought {
		r.wire(id, own(id), wired)
		wired[id] = true
	}
}

// displaced takes what has no place of its own in the source's path - a feedback path that stands for another part, an effect that stands for a source of sound -
// and leads it where the target has it.
func (r *remains) displaced() {
	for i := range r.out.Modules {
		m := &r.out.Modules[i]
		j, placed := r.in.Plan.Best.Module[m.ID]
		d := r.in.Plan.Wanted.Module(m.Source())
		effect := slices.Contains(meaning.EffectKinds, m.Kind) && m.Made() && (d == nil || soundKind(d.Kind))
		if !placed || !effect && (m.Kind != meaning.Feedback || !m.Changed()) {
			continue
		}
		r.splice(m.ID, func(string) bool { return true })
		r.wire(r.in.Target.Modules[j].ID, m.ID, nil)
	}
}

// splice takes a module out of the path; what comes from where past says so goes past it.
func (r *remains) splice(id string, past func(from string) bool) {
	var in, to []string
	r.out.Audio = slices.DeleteFunc(r.out.Audio, func(e meaning.Edge) bool {
		if e.To == id {
			in = append(in, e.From)
		}
		if e.From == id {
			to = append(to, e.To)
		}
		return e.To == id || e.From == id
	})
	for _, a := range in {
		for _, b := range to {
			if e := (meaning.Edge{From: a, To: b}); past(a) && !slices.Contains(r.out.Audio, e) {
				r.out.Audio = append(r.out.Audio, e)
			}
		}
	}
}

// wire puts a module into the path where one of the target stands; wired are those of the target that have been.
func (r *remains) wire(target, id string, wired map[string]bool) {
	in := r.around(target, wired, func(e meaning.Edge) (at, next string) { return e.To, e.From })
	out := r.around(target, wired, func(e meaning.Edge) (at, next string) { return e.From, e.To })
	var add []meaning.Edge
	put := func(from, to string) {
		if e := (meaning.Edge{From: from, To: to}); !slices.Contains(add, e) {
			add = append(add, e)
		}
	}
	for _, from := range in {
		put(from, id)
	}
	kind := r.out.Module(id).Kind
	beside := kind == meaning.Ring || kind == meaning.Feedback || r.beside(target, wired) // it listens, and what it listens to goes on as before
	r.out.Audio = slices.DeleteFunc(r.out.Audio, func(e meaning.Edge) bool {
		d := r.out.Module(e.To)
		if beside || !slices.Contains(in, e.From) || d != nil && (d.Kind == meaning.Ring || d.Kind == meaning.Feedback) {
			return false
		}
		put(id, e.To)
		return true
	})
	if len(in) == 0 || beside { // it makes sound itself
		for _, to := range out {
			put(id, to)
		}
	}
	r.out.Audio = append(r.out.Audio, add...)
}

// beside tells whether a filter of the target stands beside one that plays a part or has been wired.
func (r *remains) beside(id string, wired map[string]bool) bool {
	graph, f := r.in.Got.Graph(), r.in.Got.Module(id)
	return f.Kind == meaning.Filter && slices.ContainsFunc(r.in.Got.Modules, func(d meaning.Module) bool {
		return d.Kind == meaning.Filter && d.ID != id && (r.player(d.ID) != nil || wired[d.ID]) && graph.SideBySide(f, r.in.Got.Module(d.ID))
	})
}

// around lists what a module of the target leads to, or comes from, of what stands in what remains; what does not stand there is passed.
func (r *remains) around(id string, wired map[string]bool, way func(e meaning.Edge) (at, next string)) (list []string) {
	seen := map[string]bool{}
	path := r.in.Got.Graph().Path()
	var walk func(id string)
	walk = func(id string) {
		for _, e := range r.in.Got.Audio {
			at, next := way(e)
			if at != id || seen[next] {
				continue
			}
			seen[next] = true
			m := r.player(next)
			switch d := r.in.Got.Module(next); {
			case d != nil && d.Kind == meaning.Feedback:
			case d != nil && d.Kind == meaning.Filter && d.Used() && path.Shut(d): // nothing goes that way
			case m != nil && m.Used():
				list = append(list, m.ID)
			case wired[next]:
				list = append(list, own(next))
			case next == "out":
				list = append(list, next)
			default:
				walk(next)
			}
		}
	}
	walk(id)
	return list
}

// places puts a drive on the other side of the amplifier where a line says that it stands there.
func (r *remains) places() {
	for i := range r.sheet.Glosses {
		id, is := strings.CutPrefix(r.sheet.Glosses[i].ID, gloss.PlaceLine)
		m := r.player(id)
		amp := slices.IndexFunc(r.out.Modules, func(d meaning.Module) bool { return d.Kind == meaning.Amp })
		if !is || m == nil || amp < 0 {
			continue
		}
		behind := r.out.Graph().Behind(m.ID)
		var in, out []string
		r.out.Audio = slices.DeleteFunc(r.out.Audio, func(e meaning.Edge) bool {
			if e.To == m.ID {
				in = append(in, e.From)
			}
			if e.From == m.ID {
				out = append(out, e.To)
			}
			return e.To == m.ID || e.From == m.ID
		})
		for _, a := range in {
			for _, b := range out {
				r.out.Audio = append(r.out.Audio, meaning.Edge{From: a, To: b})
			}
		}
		a := r.out.Modules[amp].ID
		for k := range r.out.Audio {
			e := &r.out.Audio[k]
			switch {
			case behind && e.To == a:
				e.To = m.ID
			case !behind && e.From == a:
				if d := r.out.Module(e.To); d == nil || d.Kind != meaning.Feedback {
					e.From = m.ID
				}
			}
		}
		if behind {
			r.out.Audio = append(r.out.Audio, meaning.Edge{From: m.ID, To: a})
		} else {
			r.out.Audio = append(r.out.Audio, meaning.Edge{From: a, To: m.ID})
		}
	}
}

// player gives the part that a module of the target plays.
func (r *remains) player(target string) *meaning.Module {
	j, ok := r.in.Target.ModuleIndex(target)
	if !ok {
		return nil
	}
	for id, k := range r.in.Plan.Best.Module {
		if k == j {
			return r.out.Module(id)
		}
	}
	return nil
}

// lines applies what the lines say.
func (r *remains) lines() {
	for i := range r.sheet.Glosses {
		g := &r.sheet.Glosses[i]
		v := g.Verdict
		if v == gloss.LeftOut && g.Reached != nil && len(g.Also) > 0 {
			v = gloss.Bent // what is left out is a second parameter of its control
		}
		if g.Param == "" {
			if v == gloss.Bent && g.TargetParam != "" {
				r.added(g)
			}
			continue
		}
		r.line(v, g.Param, g.TargetParam, g.Route, g.Wanted, g.Reached)
		for _, a := range g.Also {
			r.line(a.Verdict, a.Param, "", "", a.Wanted, a.Reached)
		}
	}
}

// unheard takes out the LFOs that move nothing any more: where one that runs free begins hangs on how many there are.
func (r *remains) unheard() {
	r.out.Modules = slices.DeleteFunc(r.out.Modules, func(m meaning.Module) bool {
		return m.Kind == meaning.LFO && !slices.ContainsFunc(r.out.Routes, func(x meaning.Route) bool { return x.Used() && (x.From == m.ID || x.Via == m.ID) })
	})
}

// hardly takes what a part reaches within a just-noticeable difference where no line says more of it: it is as good as held.
func (r *remains) hardly() {
	for i := range r.out.Modules {
		m := &r.out.Modules[i]
		j, placed := r.in.Plan.Best.Module[m.ID]
		if !placed {
			continue
		}
		d := r.in.Got.Module(r.in.Target.Modules[j].ID)
		if d == nil {
			continue
		}
		for _, p := range meaning.SpecOf(m.Kind).Params {
			want, asked := m.Params[p.Name]
			got, has := d.Params[p.Name]
			if m.Kind == meaning.Voice && p.Name == meaning.PCount && has && m.Params[meaning.PMode].Name != r.in.Plan.Cast.Module(m.ID).Params[meaning.PMode].Name {
				m.Params[p.Name] = got // another mode, which its line tells of, comes with the voices that it has there
				continue
			}
			if m.Kind == meaning.LFO && !asked && has && (p.Name == meaning.PScope || p.Name == meaning.PPhase) {
				m.Params[p.Name] = got // where it starts is open
			}
			if c := r.in.Plan.Cast.Module(m.ID); asked && !has && p.Name == meaning.PResonance && plan.OnTarget(p, c, d).Value < 0.01 {
				delete(m.Params, p.Name) // its peak is none with the poles of the target
			}
			if asked && !has && p.Stays {
				delete(m.Params, p.Name) // nobody sets it there
			}
			if !asked || !has || want.Quantity == got.Quantity || want.Dim.Named() {
				continue
			}
			if _, jnds := plan.Compare(p, plan.OnTarget(p, m, d), got.Quantity, m, d); jnds < 1 {
				want.Quantity = got.Quantity
				m.Params[p.Name] = want
			}
		}
	}
}

// added takes what has been brought in by ear: a parameter of what plays a part, or a module of the target as the line has it.
func (r *remains) added(g *gloss.Gloss) {
	id, name := meaning.Split(g.TargetParam)
	if g.Reached == nil {
		return
	}
	if g.Route != "" {
		r.addedRoute(g)
		return
	}
	m := r.player(id)
	if m == nil {
		if m = r.out.Module(own(id)); m == nil || !m.Used() {
			if d := r.in.Got.Module(id); d != nil {
				if d.Kind == meaning.Ring { // with what it listens to, which may be silent itself
					for _, e := range r.in.Got.Audio {
						if src := r.in.Got.Module(e.From); e.To == id && src != nil && src.Used() && soundKind(src.Kind) && r.player(src.ID) == nil && r.out.Module(own(src.ID)) == nil {
							r.take(src)
						}
					}
				}
				r.take(d)
			}
			return
		}
	}
	v := m.Params[name]
	v.Quantity = g.Reached.Quantity
	m.Params[name] = v
	if name == meaning.PWarpAmount { // of the transformation that the target has
		if w, ok := r.in.Got.Module(id).Params[meaning.PWarp]; ok {
			m.Params[meaning.PWarp] = w
		}
	}
}

// take takes a module of the target as it stands.
func (r *remains) take(d *meaning.Module) {
	x := *d
	x.ID, x.Params = own(d.ID), maps.Clone(d.Params)
	r.out.Modules = append(r.out.Modules, x)
	r.brought = append(r.brought, d.ID)
}

// addedRoute takes a route of the target that a line brings in, between what plays its ends here.
func (r *remains) addedRoute(g *gloss.Gloss) {
	got := r.in.Got.Route(g.Route)
	if got == nil || r.out.Route(own(g.Route)) != nil {
		return
	}
	here := func(id string) string {
		if m := r.player(id); m != nil {
			return m.ID
		}
		if r.in.Got.Module(id) != nil {
			return own(id)
		}
		return id
	}
	x := *got
	x.ID, x.From, x.Via, x.To, x.Depth.Quantity = own(got.ID), here(got.From), here(got.Via), nil, g.Reached.Quantity
	for _, to := range got.To {
		if id, name := meaning.Split(to); to == g.TargetParam || !slices.Contains(got.To, g.TargetParam) { // a line may tell of one of what it moves
			x.To = append(x.To, meaning.Ref(here(id), name))
		}
	}
	r.out.Routes = append(r.out.Routes, x)
	for _, id := range []string{got.From, got.Via} { // what moves it comes along
		if d := r.in.Got.Module(id); d != nil && r.player(id) == nil && r.out.Module(own(id)) == nil && !soundKind(d.Kind) {
			m := *d
			m.ID = own(id)
			r.out.Modules = append(r.out.Modules, m)
		}
	}
}

func (r *remains) line(v gloss.Verdict, param, target, route string, wanted, reached *gloss.Figure) {
	switch {
	case v == gloss.LeftOut:
		ref, _, _ := r.in.Plan.Where(param)
		id, name := meaning.Split(ref)
		if m := r.out.Module(id); m != nil {
			delete(m.Params, name)
		}
		r.out.Routes = slices.DeleteFunc(r.out.Routes, func(x meaning.Route) bool { return x.ID == id })
	case reached == nil || v != gloss.Bent && v != gloss.Recast && v != gloss.Near && v != gloss.Held:
	case route != "":
		for i := range r.in.Plan.Cast.Routes {
			c := r.in.Plan.Best.Route[i]
			if !c.Made() {
				continue
			}
			if id, _ := c.Way.Made(r.in.Target); id != route {
				continue
			}
			if w := r.out.Route(r.in.Plan.Cast.Routes[i].ID); w != nil && w.Depth.Dim == reached.Quantity.Dim {
				w.Depth.Quantity = reached.Quantity
				r.asMade(w, route)
			}
		}
	default:
		id, name := meaning.Split(target)
		m := r.player(id)
		if m == nil { // a second parameter of a control: the line does not say where it went
			ref, _, _ := r.in.Plan.Where(param)
			id, name = meaning.Split(ref)
			m = r.out.Module(id)
		}
		if m == nil {
			return
		}
		p, ok := meaning.SpecOf(m.Kind).Param(name)
		if !ok || p.Dim != reached.Quantity.Dim {
			return
		}
		x := m.Params[name]
		if p.Sums && wanted != nil && len(x.Parts) > 1 { // a part of a sum: by as much as it is off
			x.Value += reached.Quantity.Value - wanted.Quantity.Value
		} else {
			x.Quantity = reached.Quantity
		}
		m.Params[name] = x
	}
}

// asMade gives a route the way it swings and what it moves besides as it is made on the target: its line says both.
func (r *remains) asMade(w *meaning.Route, made string) {
	got := r.in.Got.Route(made)
	if got == nil {
		return
	}
	w.Polarity = got.Polarity
	w.To = slices.Clone(w.To)
	for _, to := range got.To {
		id, name := meaning.Split(to)
		if m := r.player(id); m != nil && !slices.Contains(w.To, meaning.Ref(m.ID, name)) && name != meaning.PTune {
			w.To = append(w.To, meaning.Ref(m.ID, name))
		}
	}
}

// behind lists what a filter that a rule has brought in stands behind: the oscillators that the same use of the rule has made of operators, or the one part.
func behind(filter, part string, uses []*rules.Recast) []string {
	for _, u := range uses {
		if u.Meaning.Module(filter) == nil || u.Before.Module(filter) != nil {
			continue
		}
		var list []string
		for a, b := range u.Moved {
			if d := u.Before.Module(a); d != nil && d.Kind == meaning.Operator {
				list = append(list, b)
			}
		}
		if len(list) > 1 {
			slices.Sort(list)
			return list
		}
	}
	return []string{part}
}

// edges gives the audio path of a meaning whose parts have been made by other means: what stands for a part stands in its place, and what has been added for
// one goes beside it where it makes sound, behind it where it passes sound on.
func edges(from, to *meaning.Meaning, uses []*rules.Recast) []meaning.Edge {
	moved := map[string]string{} // old id to new
	for _, u := range uses {
		for a, b := range u.Moved {
			for k, v := range moved {
				if v == a {
					moved[k] = b
				}
			}
			moved[a] = b
		}
	}
	now := func(id string) string {
		if b, ok := moved[id]; ok {
			return b
		}
		return id
	}
	var out []meaning.Edge
	for _, e := range from.Audio { // two parts that have become one are joined once, and not to themselves
		if x := (meaning.Edge{From: now(e.From), To: now(e.To)}); x.From != x.To && !slices.Contains(out, x) {
			out = append(out, x)
		}
	}
	has := func(id string) bool {
		return slices.ContainsFunc(out, func(e meaning.Edge) bool { return e.From == id || e.To == id })
	}
	for i := range to.Modules {
		m := &to.Modules[i]
		if !m.Used() || has(m.ID) || !m.Made() {
			continue
		}
		at := now(m.Source())
		switch m.Kind {
		case meaning.Osc, meaning.Sub, meaning.Noise, meaning.Operator, meaning.Ring: // beside it
			for _, e := range slices.Clone(out) {
				if e.From == at {
					out = append(out, meaning.Edge{From: m.ID, To: e.To})
				}
			}
		case meaning.Env, meaning.LFO, meaning.Voice, meaning.Macro, meaning.Atten:
		default:
			if d := from.Module(m.Source()); slices.Contains(meaning.EffectKinds, m.Kind) && (d == nil || soundKind(d.Kind)) { // an effect for what is none: behind all
				at = ""
				for k := range out {
					if out[k].To == "out" {
						at, out[k].To = out[k].From, m.ID
					}
				}
				if at != "" {
					out = append(out, meaning.Edge{From: m.ID, To: "out"})
				}
				continue
			}
			all := []string{at}
			if m.Kind == meaning.Filter {
				all = behind(m.ID, at, uses)
			}
			var on []meaning.Edge
			for k := range out {
				if slices.Contains(all, out[k].From) {
					if x := (meaning.Edge{From: m.ID, To: out[k].To}); !slices.Contains(on, x) {
						on = append(on, x)
					}
					out[k].To = m.ID
				}
			}
			out = append(out, on...)
		}
	}
	return out
}
