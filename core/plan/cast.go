package plan

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"sync"

	"glossator/core/meaning"
	"glossator/core/panel"
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
	plan    Allocation
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
	return c.plan.Cost + c.penalty + worthwhile*float64(len(c.uses))
}

// castSearch is the branch and bound over the sets of uses of rules. A use is taken or refused; of a set, the order
// in which it was first found stands.
//
// The bound: in the best plan of a meaning, parts that were not there any more would save no more than what it costs
// to leave them out, as the plan without them is also a plan for the whole; what the target moves without being asked may go besides. So whatever else is recast saves no more
// than the weight of its parts, less the penalties. Which parts can still be recast is known from the uses that are
// open and from those that any set looked at so far has opened.
type castSearch struct {
	*Problem
	known  *knownFits
	ranks  map[string]int // of the source's modules
	best   *cast
	seen   map[string]bool
	opened []use // every use that any set looked at so far has opened
	looked int
	cut    bool
	asked  [2]targetAsked // by goroutine
}

// Problem is what a plan is looked for.
type Problem struct {
	T      *Target
	Wanted *meaning.Meaning
	// Wheel is where the modulation wheel is held, 0 to 1.
	Wheel float64
	// Note is the middle of the notes that the patch is played at.
	Note q.Note
	// Refuse lists, by part of the source, the rules that it is not to be made by.
	Refuse map[string][]string
	// Bans are pairs that are not to be.
	Bans []Ban
	// Carry gives where the target's controls stand that an allocation needs: a switch may serve two oscillators, and only the whole tells how a part is tuned.
	Carry func(m *meaning.Meaning, a *Allocation) *panel.State
}

// Find allocates the wanted meaning and looks for the set of uses of rules with which it costs least.
func (p *Problem) Find() *Plan {
	p.listen()
	s := p.search()
	if !s.best.sounds() && s.best.asks() { // better otherwise than not at all
		p.T.Policy.mustSound = true
		s = p.search()
	}
	if !s.best.sounds() && s.best.asks() { // and at another pitch
		p.T.Policy.anyPitch = true
		s = p.search()
	}
	return &Plan{Wanted: p.Wanted, Cast: s.best.meaning, Uses: s.best.uses, Best: s.best.plan, Penalty: s.best.penalty, Looked: s.looked, Cut: s.cut}
}

// listen reckons how loud the sources of sound are, where nobody has listened.
func (p *Problem) listen() {
	if p.T.Policy.heard == nil {
		p.T.Policy.loud = loudness(p.Wanted, p.Note)
	}
}

// search looks at the sets of uses of rules.
func (p *Problem) search() *castSearch {
	s := &castSearch{Problem: p, known: newKnownFits(), seen: map[string]bool{}}
	start := &cast{}
	start.meaning, s.ranks = p.lean()
	for _, r := range rules.Moved(p.caseOf(&cast{meaning: start.meaning, plan: Allocation{Route: make([]Choice, len(start.meaning.Routes))}}, &s.asked[0])) {
		start.meaning, start.uses, start.keys = r.Meaning, append(start.uses, &r), append(start.keys, useKey(&r))
	}
	start.plan, _ = s.allocate(start.meaning, math.Inf(1), NodeLimit)
	s.best = start
	s.explore(start, nil)
	return s
}

// sounds tells whether anything plays a source of sound, asks whether anything has to.
func (c *cast) sounds() bool {
	return c.source(func(id string) bool { _, ok := c.plan.Module[id]; return ok })
}

func (c *cast) asks() bool { return c.source(func(string) bool { return true }) }

func (c *cast) source(is func(id string) bool) bool {
	for i := range c.meaning.Modules {
		m := &c.meaning.Modules[i]
		if m.Used() && source(m) && (m.Sounds() || c.meaning.BroughtIn(m)) && is(m.ID) {
			return true
		}
	}
	return false
}

// allocate looks for a plan of a meaning below a limit, within a number of nodes.
func (s *castSearch) allocate(m *meaning.Meaning, limit float64, nodes int) (Allocation, bool) {
	return allocate(s.T, m, s.ranks, s.known, limit, nodes, bansOn(s.Bans, s.T))
}

// lean gives the wanted meaning without what is not used, as rules copy it again and again, and how many of its kind come before each module.
func (p *Problem) lean() (*meaning.Meaning, map[string]int) {
	m, ranks := *p.Wanted, map[string]int{}
	m.Modules, m.Routes = nil, nil
	needed := map[string]bool{}
	for i := range p.Wanted.Routes {
		r := &p.Wanted.Routes[i]
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
	for i := range p.Wanted.Modules {
		d := &p.Wanted.Modules[i]
		if ranks[d.ID] = rankIn(p.Wanted, d); d.Used() || needed[d.ID] {
			m.Modules = append(m.Modules, *d)
		}
	}
	graph := p.Wanted.Graph()
	for i := range m.Modules { // what goes into two filters side by side goes into both of them where that is a choice
		d := &m.Modules[i]
		if _, ok := meaning.SpecOf(d.Kind).Param(meaning.PTo); ok && d.Used() && d.Kind != meaning.Send && graph.Path().Forks(d.ID) {
			d.Params = maps.Clone(d.Params)
			d.Params[meaning.PTo] = meaning.Value{Quantity: q.Named(q.DimName, Both)}
		}
	}
	for i := range m.Modules { // an oscillator is synced to another of its own instrument: which one goes with the oscillators
		if d := &m.Modules[i]; !p.T.same && d.Kind == meaning.Osc {
			if v, has := d.Params[meaning.PSync]; has && v.Name != "" && v.Name != "off" && v.Name != "on" {
				d.Params = maps.Clone(d.Params)
				d.Params[meaning.PSync] = meaning.Value{Quantity: q.Named(q.DimName, "on")}
			}
		}
	}
	for i := range m.Modules { // the order of effects is kept as a whole (settle), not place by place
		if d := &m.Modules[i]; !p.T.same && slices.Contains(meaning.EffectKinds, d.Kind) {
			if _, has := d.Params[meaning.PPlace]; has {
				d.Params = maps.Clone(d.Params)
				delete(d.Params, meaning.PPlace)
			}
		}
	}
	if list := graph.Filters(); len(list) == 1 {
		f := m.Module(list[0].ID)
		f.Params = maps.Clone(f.Params)
		f.Params[meaning.PRouting] = meaning.Value{Quantity: q.Named(q.DimName, Any)}
	}
	return &m, ranks
}

// tryAll tries every rule on a cast, half of them beside the other half, and gives what each can do.
func (s *castSearch) tryAll(c *cast) (*rules.Case, [][]rules.Recast) {
	found := make([][]rules.Recast, len(rules.Table))
	some := func(first int) *rules.Case {
		k := s.caseOf(c, &s.asked[first])
		for i := first; i < len(rules.Table); i += 2 {
			found[i] = rules.Table[i].Try(k)
		}
		return k
	}
	var wg sync.WaitGroup
	var fault any
	wg.Go(func() {
		defer func() { fault = recover() }() // to fall where somebody may catch it
		some(1)
	})
	k := some(0)
	wg.Wait()
	if fault != nil {
		panic(fault)
	}
	return k, found
}

// open lists what can be done further with a cast.
func (s *castSearch) open(c *cast) {
	keys := map[string]bool{}
	k, found := s.tryAll(c)
	for i, rule := range rules.Table {
		for _, r := range found[i] {
			u := use{Recast: &r, key: useKey(&r)}
			for n := 1; keys[u.key]; n++ { // the same parts another way
				u.key = fmt.Sprint(useKey(&r), "|", n)
			}
			keys[u.key], r.Key = true, u.key
			for _, other := range found[i] {
				if useKey(&other) == useKey(&r) {
					r.Ways++
				}
			}
			if s.refused(&r) {
				continue
			}
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
			if k := slices.IndexFunc(s.opened, func(o use) bool { return o.key == u.key }); k < 0 {
				s.opened = append(s.opened, u)
			} else if u.gain() > s.opened[k].gain() { // it may save more beside other uses
				s.opened[k] = u
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
		least := leastPenalty * s.T.Policy.LeaveOut(m)
		known := s.known.of(s.T.Policy, m)
		for _, k := range s.T.ofKind[m.Kind] {
			if f := s.T.fitOnce(known, k, m); f != nil {
				least = math.Min(least, f.cost)
			}
		}
		sum += least
	}
	for i := range r.Meaning.Routes {
		if x := &r.Meaning.Routes[i]; x.Used() && c.meaning.Route(x.ID) == nil {
			sum += s.T.leastOfRoute(r.Meaning, x) * s.T.Policy.RouteWeight(r.Meaning, x)
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
	sum := c.plan.Unasked
	for _, x := range best {
		sum += x.most
	}
	return sum
}

// explore looks at the sets that hold the uses of a cast and none of the refused ones.
func (s *castSearch) explore(c *cast, refused []string) {
	if n := len(c.uses); n > 0 && s.outOfTune(c.uses[n-1], &c.plan) {
		return
	}
	if c.total() < s.best.total()-sameCost && !c.idle() {
		s.best = c
	}
	if c.penalty+worthwhile*float64(len(c.uses)) >= s.best.total()-sameCost {
		return // even if all the rest cost nothing
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
	idle := make([]int, len(children)) // what has come to nothing looks cheaper than it is
	for i, x := range children {
		if x.idle() {
			idle[i] = 1
		}
	}
	slices.SortStableFunc(order, func(a, b int) int {
		return cmp.Or(cmp.Compare(idle[a], idle[b]), cmp.Compare(children[a].total(), children[b].total()))
	})
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
				if _, placed := c.plan.Module[to]; placed {
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
	if x.plan, ok = s.allocate(x.meaning, better, candidateNodes); !ok {
		x.plan, ok = s.allocate(x.meaning, limit, candidateNodes)
	}
	if !x.plan.Exact {
		s.cut = true
	}
	if !ok {
		return nil
	}
	x.plan.Exact, x.plan.Nodes = c.plan.Exact, c.plan.Nodes+x.plan.Nodes
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
func (p *Problem) outOfTune(r *rules.Recast, a *Allocation) bool {
	var state *panel.State
	for i := range r.Meaning.Modules {
		m := &r.Meaning.Modules[i]
		switch m.Kind {
		case meaning.Osc, meaning.Sub, meaning.Operator:
		default:
			continue
		}
		k, placed := a.Module[m.ID]
		if !m.Made() || !m.Used() || !placed {
			continue // it is the source's own, or not played
		}
		if state == nil { // a switch may serve two oscillators: only the whole tells
			state = p.Carry(r.Meaning, a)
		}
		if p.T.Policy.anyPitch {
			continue
		}
		if v, ok := p.T.Module(k, state, p.T.Tempo).Params[meaning.PInterval]; ok {
			if want, _ := m.Get(meaning.PInterval); math.Abs(v.Value-want.Value) > 50 {
				return true
			}
		}
	}
	return false
}

// reached gives the number that a parameter of a module of the allocated meaning comes to; ok is false where it is not played.
func (a *Allocation) reached(t *Target, id string, param meaning.ParamName) (float64, bool) {
	k, ok := a.Module[id]
	if !ok {
		return 0, false
	}
	st := t.InitState()
	l := Locks{}
	l.Add(t.Compiled, t.Modules[k].When)
	l.Apply(t.Compiled, st)
	for _, x := range a.Fit[id] {
		st.At[x.Control] = x.At
	}
	m := t.Module(k, st, t.Tempo)
	v, ok := m.Params[param]
	return v.Value, ok
}

// askedOf is a question about the target: whether a module of a kind has a parameter, or can have a word for it.
type askedOf struct {
	kind  meaning.Kind
	param meaning.ParamName
	word  string
}

// targetAsked keeps the answers to what rules ask again and again. It is for one goroutine.
type targetAsked map[askedOf]bool

func (a *targetAsked) once(about askedOf, find func() bool) bool {
	is, ok := (*a)[about]
	if !ok {
		if *a == nil {
			*a = targetAsked{}
		}
		is = find()
		(*a)[about] = is
	}
	return is
}

// caseOf tells the rules how things stand.
func (p *Problem) caseOf(of *cast, asked *targetAsked) *rules.Case {
	c := &rules.Case{Meaning: of.meaning, Lost: map[string]bool{}, Wheel: p.Wheel, Note: p.Note}
	for i := range of.meaning.Modules {
		if m := &of.meaning.Modules[i]; m.Used() && m.Kind != meaning.Atten {
			if _, ok := of.plan.Module[m.ID]; !ok {
				c.Lost[m.ID] = true
			}
		}
	}
	for i := range of.meaning.Routes {
		if r := &of.meaning.Routes[i]; r.Used() && !of.plan.Route[i].Made() {
			c.Lost[r.ID] = true
		}
	}
	c.Have = func(k meaning.Kind) int {
		n := 0
		for i := range p.T.Modules {
			if p.T.Modules[i].Kind == k {
				n++
			}
		}
		return n
	}
	c.Param = func(k meaning.Kind, name meaning.ParamName) bool {
		return asked.once(askedOf{k, name, ""}, func() bool {
			for i := range p.T.Modules {
				if p.T.Modules[i].Kind == k && len(p.T.Binds(meaning.Ref(p.T.Modules[i].ID, name))) > 0 {
					return true
				}
			}
			return false
		})
	}
	c.Moves = func(by, k meaning.Kind, name meaning.ParamName) bool {
		return p.T.drives[string(by)][driveKey(k, name)]
	}
	c.Reached = func(id string, param meaning.ParamName) (float64, bool) { return of.plan.reached(p.T, id, param) }
	c.Word = func(k meaning.Kind, param meaning.ParamName, word string) bool {
		return asked.once(askedOf{k, param, "=" + word}, func() bool {
			for i := range p.T.Modules {
				m := &p.T.Modules[i]
				has := func(word string) bool {
					return m.Fixed[param] == word || p.T.Words(meaning.Ref(m.ID, param))[word]
				}
				if m.Kind != k {
					continue
				}
				if _, morphed := meaning.MorphPlaces[word]; has(word) || morphed && k == meaning.Filter && param == meaning.PMode && has("morph") {
					return true
				}
			}
			return false
		})
	}
	c.Weight = func(id string) float64 {
		if m := of.meaning.Module(id); m != nil {
			return p.T.Policy.LeaveOut(m)
		}
		if r := of.meaning.Route(id); r != nil && len(r.To) > 0 {
			return p.T.Policy.RouteWeight(of.meaning, r)
		}
		return 0
	}
	return c
}

// refused tells whether a use makes a part by a rule that it is not to be made by.
func (p *Problem) refused(r *rules.Recast) bool {
	return slices.ContainsFunc(r.Parts, func(id string) bool {
		list := p.Refuse[r.Source(id)]
		return slices.Contains(list, r.Rule.ID) || slices.Contains(list, r.Key)
	})
}
