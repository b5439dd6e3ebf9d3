package translate

import (
	"math"
	"slices"
	"sort"
	"strings"

	"glossator/core/meaning"
	q "glossator/core/quantity"
	"glossator/core/translate/rules"
)

// candidateNodes is how far a search looks into one recast of the meaning.
const candidateNodes = 8000

// worthwhile is how much a recast has to save, in the unit of meaning's weights.
const worthwhile = 0.05

// recast allocates the wanted meaning, and where parts of it are left out tries the rules in
// their order: each is kept that lessens the whole cost by more than its penalty. Rules are
// tried again while one of them has helped.
func (j *job) recast(wheel float64) {
	known := knownFits{}
	j.cast = j.wanted
	j.plan, _ = allocateBanned(j.t, j.wanted, known, math.Inf(1), NodeLimit, j.bans)
	for range 2 {
		if !j.tryRules(known, wheel) {
			return
		}
	}
}

func (j *job) tryRules(known knownFits, wheel float64) (helped bool) {
	for _, rule := range rules.Table {
		for range 8 { // a rule may serve several parts
			best, plan := j.bestOf(rule, known, wheel)
			if best == nil {
				break
			}
			helped = true
			j.recasts = append(j.recasts, best)
			j.cast, j.plan, j.penalty = best.Meaning, plan, j.penalty+best.Penalty
		}
	}
	return helped
}

// bestOf gives the recast by a rule that saves most, or nil where none is worth it.
func (j *job) bestOf(rule *rules.Rule, known knownFits, wheel float64) (best *rules.Recast, plan allocation) {
	c := j.caseOf(wheel)
	limit := j.plan.cost - worthwhile
	for _, r := range rule.Try(c) {
		if j.refused(&r) {
			continue
		}
		saved := 0.0 // what the parts themselves cost now is the most that can be saved
		for _, id := range r.Parts {
			saved += c.Weight(id)
		}
		if r.Penalty >= saved-worthwhile {
			continue
		}
		a, ok := allocateBanned(j.t, r.Meaning, known, limit-r.Penalty, candidateNodes, j.bans)
		if !a.exact {
			j.cut++
		}
		if !ok {
			continue
		}
		if j.outOfTune(&r, a) {
			continue
		}
		limit = a.cost + r.Penalty
		best, plan = &r, a
		plan.exact, plan.nodes = j.plan.exact, j.plan.nodes+a.nodes
	}
	return best, plan
}

// outOfTune tells whether a recast plays a part at another pitch than it asks for by more than a
// quarter of a tone: a part in the wrong place is worse than none.
func (j *job) outOfTune(r *rules.Recast, a allocation) bool {
	var got *meaning.Meaning
	for i := range r.Meaning.Modules {
		m := &r.Meaning.Modules[i]
		switch m.Kind {
		case meaning.Osc, meaning.Sub, meaning.Operator:
		default:
			continue
		}
		k, placed := a.module[m.ID]
		if !strings.Contains(m.ID, "~") || !m.Used() || !placed {
			continue // it is the source's own, or not played
		}
		if got == nil { // a switch may serve two oscillators: only the whole tells
			got = j.t.Mean(settle(j.t, r.Meaning, a).state, j.t.tempo)
		}
		if v, ok := got.Module(j.t.Modules[k].ID).Params["interval"]; ok {
			if want, _ := m.Get("interval"); math.Abs(v.Value-want.Value) > 50 {
				return true
			}
		}
	}
	return false
}

// reachedBy gives the number that a parameter comes to in an allocation, for the ith module of the
// meaning that was allocated; ok is false where it is not played.
func reachedBy(t *target, a allocation, i int, id, param string) (float64, bool) {
	k, ok := a.module[id]
	if !ok {
		return 0, false
	}
	st := t.InitState()
	l := locks{}
	l.add(t.Compiled, t.Modules[k].When)
	l.apply(t.Compiled, st)
	for _, x := range a.fits[[2]int{i, k}] {
		st.At[x.control] = x.at
	}
	m := t.Module(k, st, t.tempo)
	v, ok := m.Params[param]
	return v.Value, ok
}

// caseOf tells the rules how things stand.
func (j *job) caseOf(wheel float64) *rules.Case {
	c := &rules.Case{Meaning: j.cast, Lost: map[string]bool{}, Wheel: wheel}
	for i := range j.cast.Modules {
		if m := &j.cast.Modules[i]; m.Used() && m.Kind != meaning.Atten {
			if _, ok := j.plan.module[m.ID]; !ok {
				c.Lost[m.ID] = true
			}
		}
	}
	for i := range j.cast.Routes {
		if r := &j.cast.Routes[i]; r.Used() && j.plan.route[i].kind == "" {
			c.Lost[r.ID] = true
		}
	}
	c.Have = func(k meaning.Kind) int {
		n := 0
		for i := range j.t.Modules {
			if j.t.Modules[i].Kind == string(k) {
				n++
			}
		}
		return n
	}
	c.Param = func(k meaning.Kind, name string) bool {
		for i := range j.t.Modules {
			if j.t.Modules[i].Kind == string(k) && len(j.t.Binds(j.t.Modules[i].ID+"."+name)) > 0 {
				return true
			}
		}
		return false
	}
	c.Reached = func(id, param string) (float64, bool) {
		for i := range j.cast.Modules {
			if j.cast.Modules[i].ID == id {
				return reachedBy(j.t, j.plan, i, id, param)
			}
		}
		return 0, false
	}
	c.Word = func(k meaning.Kind, param, word string) bool {
		for i := range j.t.Modules {
			m := &j.t.Modules[i]
			if m.Kind == string(k) && (m.Fixed[param] == word || j.t.words(m.ID + "." + param)[word]) {
				return true
			}
		}
		return false
	}
	c.Weight = func(id string) float64 {
		if m := j.cast.Module(id); m != nil {
			return j.t.policy.leaveOut(m)
		}
		if r := j.cast.Route(id); r != nil && len(r.To) > 0 {
			return j.t.policy.routeWeight(j.cast, r)
		}
		return 0
	}
	return c
}

// where follows a parameter of the source's meaning ("osc3.level") through the recasts. by is
// the last of them that makes its part by other means; ref is empty where the parameter goes
// with the whole, or, with lost, where what makes the part has nothing for it.
func (j *job) where(ref string) (now string, by *rules.Recast, lost bool) {
	for _, r := range j.recasts {
		id, _ := meaning.Split(ref)
		is := slices.Contains(r.Parts, id)
		to, mapped := r.Map[ref]
		_, moved := r.Moved[id]
		switch {
		case is:
			by = r
		case !mapped && !moved:
			continue
		}
		if !mapped {
			if by == nil {
				by = r
			}
			return "", by, moved
		}
		ref = to
	}
	return ref, by, false
}

// castID follows a module through the recasts; ok is false where it has been dropped.
func (j *job) castID(id string) (now string, ok bool) {
	for _, r := range j.recasts {
		if to, moved := r.Moved[id]; moved {
			id = to
		} else if slices.Contains(r.Parts, id) && r.Meaning.Module(id) == nil {
			return "", false
		}
	}
	return id, true
}

// placed gives the module of the target that plays a module of the source.
func (j *job) placed(id string) (target int, ok bool) {
	id, ok = j.castID(id)
	if !ok {
		return -1, false
	}
	target, ok = j.plan.module[id]
	return target, ok
}

// recastOf gives the last recast that makes a module or route by other means, or nil.
func (j *job) recastOf(id string) *rules.Recast {
	var by *rules.Recast
	for _, r := range j.recasts {
		if slices.Contains(r.Parts, id) {
			by = r
		}
		if to, ok := r.Moved[id]; ok {
			id = to
		} else if to, ok := r.Map[id+".depth"]; ok {
			id, _ = meaning.Split(to)
		}
	}
	return by
}

// choice gives how a route of the source is made; none where it has been made by other means.
func (j *job) choice(r *meaning.Route) routeChoice {
	ref, _, _ := j.where(r.ID + ".depth")
	id, _ := meaning.Split(ref)
	for i := range j.cast.Routes {
		if j.cast.Routes[i].ID == id {
			return j.plan.route[i]
		}
	}
	return routeChoice{atten: -1}
}

// recastLine fills the line of a parameter that is made by other means. It gives false where
// the parameter has not been touched, and the line is made as ever. The key is set where the line
// stands for a whole sum.
func (j *job) recastLine(g *Gloss, m *meaning.Module, name string) (key string, is bool) {
	ref, by, lost := j.where(m.ID + "." + name)
	if ref == m.ID+"."+name {
		return "", false
	}
	v := m.Params[name]
	id, param := meaning.Split(ref)
	n, r := j.cast.Module(id), j.cast.Route(id)
	if by == nil { // a module that was adjusted for the sake of another part
		if n == nil {
			return "", false
		}
		now, ok := n.Params[param]
		if ok && alike(now.Quantity, v.Quantity) {
			return "", false
		}
		for _, x := range j.recasts {
			if _, moved := x.Moved[m.ID]; moved {
				by = x
			}
		}
		if by == nil {
			return "", false
		}
	}
	p, _ := meaning.SpecOf(m.Kind).Param(name)
	if _, jnds := compare(p, v.Quantity, p.Neutral, m, m); ref == "" && jnds < 0.01 && p.Dim != q.DimWave {
		g.Verdict, g.Reason = Idle, "adds nothing, and goes with "+m.Label+", which is made by other means"
		return key, true
	}
	g.Verdict, g.Reason = Recast, by.Text
	if p.Sums && len(v.Parts) > 0 { // the parts of a sum go over together
		g.Wanted, key = figure(v.Quantity), g.Param
	}
	switch {
	case lost:
		g.Verdict, g.Reason = LeftOut, by.Text+": there it has no "+p.Label
	case n != nil:
		j.recastOnto(g, n, param)
	case r != nil:
		j.recastOntoRoute(g, r)
	}
	return key, true
}

// recastOnto shows the parameter of the target that a recast came to.
func (j *job) recastOnto(g *Gloss, n *meaning.Module, param string) {
	ti, ok := j.plan.module[n.ID]
	if !ok {
		g.Verdict, g.Reason = LeftOut, "even by other means there is no place for it: "+j.noPlace(n)
		return
	}
	tm := &j.t.Modules[ti]
	got := j.got.Module(tm.ID)
	v, have := got.Params[param]
	if !have {
		return
	}
	p, _ := meaning.SpecOf(n.Kind).Param(param)
	want := onTarget(p, n, got)
	g.TargetParam = tm.ID + "." + param
	g.Target = j.shownBy(g.TargetParam)
	g.Reached = figure(v.Quantity)
	d, jnds := compare(p, want, v.Quantity, n, got)
	if p.JND > 1e-5 {
		g.JNDs = round(jnds, 2)
	}
	if jnds > 1 {
		g.Diff = difference(p, want, v.Quantity, d)
		g.Reason += "; asked for there: " + want.String()
	}
	for _, t := range g.Target {
		if t.Overridden {
			g.Reason += "; set by hand"
			break
		}
	}
}

// recastOntoRoute shows the route of the target that a recast came to.
func (j *job) recastOntoRoute(g *Gloss, r *meaning.Route) {
	c := j.plan.route[routeIndex(j.cast, r)]
	if c.kind == "" {
		g.Verdict, g.Reason = LeftOut, c.reason
		return
	}
	got, ref, _ := j.made(c)
	if got == nil || !got.Used() {
		g.Verdict, g.Reason = LeftOut, "off on the target"
		return
	}
	g.TargetParam, g.route = ref, got.ID
	g.Target = append(j.routeControls(c, "depth"), j.routeControls(c, "on")...)
	g.Reached = figure(got.Depth.Quantity)
}

// Recasting is one use of a rule, for people.
type Recasting struct {
	Rule string `json:"rule"`
	Name string `json:"name"`
	// Parts are the labels of what is made by other means, By those of what makes it.
	Parts   []string `json:"parts"`
	By      []string `json:"by"`
	Text    string   `json:"text"`
	Why     string   `json:"why"`
	Source  string   `json:"source"`
	Penalty float64  `json:"penalty"`
	// Player is set where the player has something to do while playing.
	Player bool `json:"player"`
}

func (j *job) recastings() []Recasting {
	out := []Recasting{}
	label := func(id string) string {
		for _, m := range []*meaning.Meaning{j.wanted, j.cast} {
			if x := m.Module(id); x != nil {
				return x.Label
			}
			if x := m.Route(id); x != nil {
				return x.Label
			}
		}
		return strings.TrimRight(id, "~")
	}
	for _, r := range j.recasts {
		x := Recasting{Rule: r.Rule.ID, Name: r.Rule.Name, Parts: []string{}, By: []string{}, Text: r.Text, Why: r.Rule.Why, Source: r.Rule.Source, Penalty: round(r.Penalty, 3), Player: r.Rule.Player}
		for _, id := range r.Parts {
			x.Parts = append(x.Parts, label(strings.TrimRight(id, "~")))
		}
		seen := map[string]bool{}
		for _, id := range r.Parts {
			for ref, to := range r.Map {
				if from, _ := meaning.Split(ref); from != id {
					continue
				}
				tid, _ := meaning.Split(to)
				for _, later := range j.recasts {
					if next, ok := later.Moved[tid]; ok && later != r {
						tid = next
					}
				}
				by := ""
				if k, ok := j.plan.module[tid]; ok {
					by = j.t.Modules[k].Label
				}
				for i := range j.cast.Routes {
					if j.cast.Routes[i].ID == tid && j.plan.route[i].kind != "" {
						_, _, by = j.made(j.plan.route[i])
					}
				}
				if by != "" && !seen[by] {
					seen[by] = true
					x.By = append(x.By, by)
				}
			}
		}
		sort.Strings(x.By)
		out = append(out, x)
	}
	return out
}
