package translate

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"sort"
	"strings"

	"glossator/core/meaning"
	q "glossator/core/quantity"
	"glossator/core/rules"
)

// candidateNodes is how far a search looks into one recast of the meaning.
const candidateNodes = 8000

// worthwhile is how much each use of a rule has to save, in the unit of meaning's weights.
const worthwhile = 0.05

// leastPenalty is the least share of a module's weight that a rule costs that makes it by other means.
const leastPenalty = 0.05

// castLimit is how many sets of uses of rules a search looks at before it settles for the best it has.
const castLimit = 40

// cast is the wanted meaning with some of its parts made by other means, and its best plan.
type cast struct {
	meaning *meaning.Meaning
	plan    allocation
	uses    []*rules.Recast
	keys    []string // of the uses
	penalty float64
	next    []use // what can be done further, most to gain first
}

// use is a use of a rule that can be made of a cast.
type use struct {
	*rules.Recast
	key string
	// most holds the most that can be saved by each part: what it weighs, less the penalty and what the new parts cost
	most []saving
}

// saving is the most that can be saved by a part.
type saving struct {
	part string
	most float64
}

// total is what a cast costs in all.
func (c *cast) total() float64 {
	return c.plan.cost + c.penalty + worthwhile*float64(len(c.uses))
}

// castSearch is the branch and bound over the sets of uses of rules. A use is taken or refused; of a set, the order
// in which it was first found stands.
//
// The bound: in the best plan of a meaning, parts that were not there any more would save no more than what it costs
// to leave them out, as the plan without them is also a plan for the whole. So whatever else is recast saves no more
// than the weight of its parts, less the penalties. Which parts can still be recast is known from the uses that are
// open and from those that any set looked at so far has opened.
type castSearch struct {
	j      *job
	wheel  float64
	known  *knownFits
	best   *cast
	seen   map[string]bool
	opened []use // every use that any set looked at so far has opened
	looked int
	cut    bool
}

// recast allocates the wanted meaning and looks for the set of uses of rules with which it costs least.
func (j *job) recast(wheel float64) {
	s := &castSearch{j: j, wheel: wheel, known: newKnownFits(), seen: map[string]bool{}}
	start := &cast{meaning: j.lean()}
	start.plan, _ = allocateBanned(j.t, start.meaning, s.known, math.Inf(1), NodeLimit, j.bans)
	s.best = start
	s.explore(start, nil)
	j.cast, j.plan, j.recasts, j.penalty = s.best.meaning, s.best.plan, s.best.uses, s.best.penalty
	j.looked, j.cut = s.looked, s.cut
}

// lean gives the wanted meaning without what is not used: rules copy it again and again.
func (j *job) lean() *meaning.Meaning {
	m := *j.wanted
	m.Modules, m.Routes = nil, nil
	needed := map[string]bool{}
	for i := range j.wanted.Routes {
		r := &j.wanted.Routes[i]
		if !r.Used() {
			continue
		}
		m.Routes = append(m.Routes, *r)
		needed[r.From], needed[r.Via] = true, true
		for _, d := range r.To {
			id, _ := meaning.Split(d)
			needed[id] = true
		}
	}
	for i := range j.wanted.Modules {
		d := &j.wanted.Modules[i]
		if j.t.sourceRank[d.ID] = rankIn(j.wanted, d); d.Used() || needed[d.ID] {
			m.Modules = append(m.Modules, *d)
		}
	}
	return &m
}

// open lists what can be done further with a cast.
func (s *castSearch) open(c *cast) {
	k, keys := s.j.caseOf(c, s.wheel), map[string]bool{}
	for _, rule := range rules.Table {
		for _, r := range rule.Try(k) {
			if s.j.refused(&r) {
				continue
			}
			u := use{Recast: &r, key: useKey(&r)}
			for n := 1; keys[u.key]; n++ { // the same parts another way
				u.key = fmt.Sprint(useKey(&r), "|", n)
			}
			keys[u.key] = true
			saved := 0.0
			for _, id := range r.Parts {
				w := k.Weight(id)
				saved += w
				if !r.Gone[id] {
					u.most = append(u.most, saving{id, w * (1 - rule.Penalty)})
				}
			}
			if r.Penalty >= saved-worthwhile {
				continue
			}
			if !u.less(s.least(c, &r)) {
				continue
			}
			c.next = append(c.next, u)
			if !slices.ContainsFunc(s.opened, func(o use) bool { return o.key == u.key }) {
				s.opened = append(s.opened, u)
			}
		}
	}
	slices.SortStableFunc(c.next, func(a, b use) int { return cmp.Compare(b.gain(), a.gain()) })
}

// less takes what a use costs at the least off what it saves; false where nothing is left.
func (u *use) less(cost float64) bool {
	sum := u.gain()
	if sum <= cost {
		return false
	}
	for i := range u.most {
		u.most[i].most *= (sum - cost) / (sum + worthwhile)
	}
	return true
}

// least gives what the parts that a use brings in cost at the least on the target, whatever else plays; a module may
// be made by other means in turn.
func (s *castSearch) least(c *cast, r *rules.Recast) float64 {
	sum := 0.0
	changed := map[string]bool{} // they are there already: what they cost now is not counted as saved
	for id, to := range r.Moved {
		changed[to] = !slices.Contains(r.Parts, id)
	}
	for i := range r.Meaning.Modules {
		m := &r.Meaning.Modules[i]
		if !m.Used() || m.Kind == meaning.Atten || c.meaning.Module(m.ID) != nil || changed[m.ID] {
			continue
		}
		least := leastPenalty * s.j.t.policy.leaveOut(m)
		known := s.known.of(s.j.t.policy, m)
		for _, k := range s.j.t.ofKind[m.Kind] {
			if f := s.j.t.fitOnce(known, k, m); f != nil {
				least = math.Min(least, f.cost)
			}
		}
		sum += least
	}
	for i := range r.Meaning.Routes {
		if x := &r.Meaning.Routes[i]; x.Used() && c.meaning.Route(x.ID) == nil {
			sum += s.j.t.leastOfRoute(r.Meaning, x) * s.j.t.policy.routeWeight(r.Meaning, x)
		}
	}
	return sum
}

func (u *use) gain() float64 {
	sum := 0.0
	for _, x := range u.most {
		sum += x.most
	}
	return sum - worthwhile
}

// left gives the most that can be saved by what is not refused.
func (s *castSearch) left(c *cast, refused []string) float64 {
	var best []saving // of each part the most
	note := func(u *use) {
		if slices.Contains(refused, u.key) {
			return
		}
	parts:
		for _, x := range u.most {
			for i := range best {
				if best[i].part == x.part {
					best[i].most = max(best[i].most, x.most)
					continue parts
				}
			}
			best = append(best, x)
		}
	}
	for i := range c.next {
		note(&c.next[i])
	}
	for i := range s.opened {
		if !slices.Contains(c.keys, s.opened[i].key) {
			note(&s.opened[i])
		}
	}
	sum := 0.0
	for _, x := range best {
		sum += x.most
	}
	return sum
}

// explore looks at the sets that hold the uses of a cast and none of the refused ones.
func (s *castSearch) explore(c *cast, refused []string) {
	if n := len(c.uses); n > 0 && s.j.outOfTune(c.uses[n-1], c.plan) {
		return
	}
	if c.total() < s.best.total()-sameCost && !c.idle() {
		s.best = c
	}
	s.open(c)
	if c.total()-s.left(c, refused) >= s.best.total()-sameCost {
		return
	}
	var children []*cast
	var keys []string
	for i := range c.next {
		u := &c.next[i]
		if slices.Contains(refused, u.key) {
			continue
		}
		if x := s.take(c, u, refused); x != nil {
			children, keys = append(children, x), append(keys, u.key)
		}
	}
	order := make([]int, len(children))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(children[a].total(), children[b].total()) })
	for _, i := range order {
		if c.total()-s.left(c, refused) >= s.best.total()-sameCost {
			return
		}
		s.explore(children[i], refused)
		refused = append(slices.Clone(refused), keys[i])
	}
}

// idle tells whether a use of a rule has come to nothing: of what it has put in the place of parts nothing is played either. Such a set may
// only lead to others.
func (c *cast) idle() bool {
	for _, u := range c.uses {
		put, played := 0, 0
		for _, id := range u.Parts {
			to, ok := u.Moved[id]
			if !ok || u.Meaning.Module(id) != nil {
				continue
			}
			if m := c.meaning.Module(to); m != nil && m.Used() {
				put++
				if _, placed := c.plan.module[to]; placed {
					played++
				}
			}
		}
		if put > 0 && played == 0 {
			return true
		}
	}
	return false
}

// take makes one more use of a rule; nil where that set has been looked at, or is shown not to lead to the best.
func (s *castSearch) take(c *cast, u *use, refused []string) *cast {
	keys := append(slices.Clone(c.keys), u.key)
	set := strings.Join(slices.Sorted(slices.Values(keys)), ";")
	if s.seen[set] {
		return nil
	}
	s.seen[set] = true
	if s.looked == castLimit {
		s.cut = true
		return nil
	}
	s.looked++
	x := &cast{meaning: u.Meaning, uses: append(slices.Clone(c.uses), u.Recast), keys: keys, penalty: c.penalty + u.Penalty}
	limit := s.best.total() - x.penalty - worthwhile*float64(len(x.uses)) + s.left(c, append(slices.Clone(refused), u.key))
	// first below the best there is: most that is good is found so, in few nodes
	better := s.best.total() - x.penalty - worthwhile*float64(len(x.uses))
	var ok bool
	if x.plan, ok = allocateBanned(s.j.t, x.meaning, s.known, better, candidateNodes, s.j.bans); !ok {
		x.plan, ok = allocateBanned(s.j.t, x.meaning, s.known, limit, candidateNodes, s.j.bans)
	}
	if !x.plan.exact {
		s.cut = true
	}
	if !ok {
		return nil
	}
	x.plan.exact, x.plan.nodes = c.plan.exact, c.plan.nodes+x.plan.nodes
	return x
}

// useKey names a use by its rule and the source's parts that it makes and changes.
func useKey(r *rules.Recast) string {
	parts := map[string]bool{}
	for _, id := range r.Parts {
		parts[r.Source(id)] = true
	}
	for id := range r.Moved {
		parts[r.Source(id)] = true
	}
	return r.Rule.ID + "|" + strings.Join(slices.Sorted(maps.Keys(parts)), ",")
}

// outOfTune tells whether a recast plays a part at another pitch than it asks for by more than a
// quarter of a tone: a part in the wrong place is worse than none.
func (j *job) outOfTune(r *rules.Recast, a allocation) bool {
	var set *settled
	for i := range r.Meaning.Modules {
		m := &r.Meaning.Modules[i]
		switch m.Kind {
		case meaning.Osc, meaning.Sub, meaning.Operator:
		default:
			continue
		}
		k, placed := a.module[m.ID]
		if !m.Made() || !m.Used() || !placed {
			continue // it is the source's own, or not played
		}
		if set == nil { // a switch may serve two oscillators: only the whole tells
			set, _, _ = carry(j.t, r.Meaning, a)
		}
		if v, ok := j.t.Module(k, set.state, j.t.tempo).Params[meaning.PInterval]; ok {
			if want, _ := m.Get(meaning.PInterval); math.Abs(v.Value-want.Value) > 50 {
				return true
			}
		}
	}
	return false
}

// reachedBy gives the number that a parameter comes to in an allocation, for the ith module of the
// meaning that was allocated; ok is false where it is not played.
func reachedBy(t *target, a allocation, i int, id string, param meaning.ParamName) (float64, bool) {
	k, ok := a.module[id]
	if !ok {
		return 0, false
	}
	st := t.InitState()
	l := locks{}
	l.add(t.Compiled, t.Modules[k].When)
	l.apply(t.Compiled, st)
	for _, x := range a.fit[id] {
		st.At[x.control] = x.at
	}
	m := t.Module(k, st, t.tempo)
	v, ok := m.Params[param]
	return v.Value, ok
}

// caseOf tells the rules how things stand.
func (j *job) caseOf(of *cast, wheel float64) *rules.Case {
	c := &rules.Case{Meaning: of.meaning, Lost: map[string]bool{}, Wheel: wheel}
	for i := range of.meaning.Modules {
		if m := &of.meaning.Modules[i]; m.Used() && m.Kind != meaning.Atten {
			if _, ok := of.plan.module[m.ID]; !ok {
				c.Lost[m.ID] = true
			}
		}
	}
	for i := range of.meaning.Routes {
		if r := &of.meaning.Routes[i]; r.Used() && of.plan.route[i].kind == "" {
			c.Lost[r.ID] = true
		}
	}
	c.Have = func(k meaning.Kind) int {
		n := 0
		for i := range j.t.Modules {
			if j.t.Modules[i].Kind == k {
				n++
			}
		}
		return n
	}
	c.Param = func(k meaning.Kind, name meaning.ParamName) bool {
		for i := range j.t.Modules {
			if j.t.Modules[i].Kind == k && len(j.t.Binds(meaning.Ref(j.t.Modules[i].ID, name))) > 0 {
				return true
			}
		}
		return false
	}
	c.Reached = func(id string, param meaning.ParamName) (float64, bool) {
		for i := range of.meaning.Modules {
			if of.meaning.Modules[i].ID == id {
				return reachedBy(j.t, of.plan, i, id, param)
			}
		}
		return 0, false
	}
	c.Word = func(k meaning.Kind, param meaning.ParamName, word string) bool {
		for i := range j.t.Modules {
			m := &j.t.Modules[i]
			if m.Kind == k && (m.Fixed[param] == word || j.t.words(meaning.Ref(m.ID, param))[word]) {
				return true
			}
		}
		return false
	}
	c.Weight = func(id string) float64 {
		if m := of.meaning.Module(id); m != nil {
			return j.t.policy.leaveOut(m)
		}
		if r := of.meaning.Route(id); r != nil && len(r.To) > 0 {
			return j.t.policy.routeWeight(of.meaning, r)
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
		} else if to, ok := r.Map[meaning.Ref(id, meaning.PDepth)]; ok {
			id, _ = meaning.Split(to)
		}
	}
	return by
}

// choice gives how a route of the source is made; none where it has been made by other means.
func (j *job) choice(r *meaning.Route) routeChoice {
	ref, _, _ := j.where(meaning.Ref(r.ID, meaning.PDepth))
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
func (j *job) recastLine(g *Gloss, m *meaning.Module, name meaning.ParamName) (key string, is bool) {
	ref, by, lost := j.where(meaning.Ref(m.ID, name))
	if ref == meaning.Ref(m.ID, name) {
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
	g.recast(by)
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
func (j *job) recastOnto(g *Gloss, n *meaning.Module, param meaning.ParamName) {
	ti, ok := j.plan.module[n.ID]
	if !ok {
		g.Verdict, g.Reason = LeftOut, "even by other means there is no place for it: "+j.noPlace(n)
		return
	}
	tm := &j.t.Modules[ti]
	got := j.got.Module(tm.ID)
	v, have := got.Params[param]
	p, _ := meaning.SpecOf(n.Kind).Param(param)
	want := onTarget(p, n, got)
	if !have {
		if _, jnds := compare(p, want, p.Neutral, n, n); jnds >= 0.01 {
			g.Verdict = LeftOut
			g.Reason += fmt.Sprintf(": %s of %s has no %s", tm.Label, j.t.Name, p.Label)
		}
		return
	}
	g.TargetParam = meaning.Ref(tm.ID, param)
	g.Target = j.shownBy(g.TargetParam)
	g.Reached = figure(v.Quantity)
	d, jnds := compare(p, want, v.Quantity, n, got)
	if p.JND.Size > 1e-5 {
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
	g.Target = append(j.routeControls(c, meaning.PDepth), j.routeControls(c, meaning.POn)...)
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
		return id
	}
	for _, r := range j.recasts {
		x := Recasting{Rule: r.Rule.ID, Name: r.Rule.Name, Parts: []string{}, By: []string{}, Text: r.Text, Why: r.Rule.Why, Source: r.Rule.Source, Penalty: round(r.Penalty, 3), Player: r.Rule.Player}
		for _, id := range r.Parts {
			x.Parts = append(x.Parts, label(r.First(id)))
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
	place := map[string]int{}
	for i, r := range rules.Table {
		place[r.ID] = i
	}
	slices.SortStableFunc(out, func(a, b Recasting) int { return cmp.Compare(place[a.Rule], place[b.Rule]) })
	return out
}
