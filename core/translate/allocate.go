package translate

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"reflect"
	"slices"
	"sort"
	"strconv"

	"glossator/core/meaning"
	"glossator/core/panel"
	q "glossator/core/quantity"
	"glossator/core/rules"
)

// NodeLimit is how many partial plans a search looks at before it settles for the
// best it has.
const NodeLimit = 200000

// sameCost is how near two plans' costs are taken for equal, in the unit of meaning's
// weights: of equals the first found stands, which keeps modules in their places.
const sameCost = 1e-4

// allocation is a plan in indices: for each used module and route of the source, who plays
// it, or nobody.
type allocation struct {
	module map[string]int // source module id to target module
	route  []routeChoice  // by source route
	cost   float64
	nodes  int
	exact  bool
	pair   map[string]float64      // what the chosen pairs cost, by source module id
	fit    map[string][]assignment // how the chosen pairs are set
}

// routeChoice is how one route of the source is made on the target.
type routeChoice struct {
	kind   string // "wired", "slot", "cable" or "" for left out
	index  int    // of the route, slot or input point
	out    int    // the output point of a cable
	atten  int    // the attenuator a cable goes through, or -1
	dest   int    // the destination of a slot
	class  int    // the slots that are alike of which it is one
	cost   float64
	reason string
}

// search is the branch and bound over the modules; the routes of each full assignment are
// settled by another at the leaf. "Place" is a place in mods.
type search struct {
	t       *target
	src     *meaning.Meaning
	mods    []int          // indices of used source modules, dearest first
	place   map[string]int // of a source module, by its id
	lost    []float64      // by place
	domain  [][]int        // by place: target modules of the kind, cheapest first
	cost    [][]float64    // by place and target module
	fits    [][]*knownFit  // by place and target module
	bound   []float64      // by place: least cost of the modules from there on
	routes  []int          // indices of used source routes, dearest first
	rweight []float64
	ends    [][]int   // by route in that order: the places of the modules it needs
	ripe    [][]int   // by place: the routes whose last module is decided there
	rleast  []float64 // by route: the least it can cost on this target
	rrest   []float64 // by place: the least cost of the routes not ripe before it
	loose   map[looseKey]float64
	best    allocation
	found   bool
	nodes   int
	now     []int  // by place: the target module, or -1
	chosen  []int  // the same in the best plan
	busy    []bool // by target module
	depthC  map[[2]int]float64
	known   *knownFits
	limit   int // of nodes
	bans    []ban
	cut     bool // a leaf has met its own limit
}

// looseKey is a route and the modules that play its ends.
type looseKey struct {
	route int
	ends  [6]int16
}

// knownFits keeps how near modules of the target come to modules of the source, from one search to the next over
// meanings that are mostly the same. What is asked for tells them apart, not the id: two recasts may give one id to
// different modules.
type knownFits struct {
	number map[string]int // what is asked for, in bytes
	shared map[uintptr]asked
	fits   []map[int]*knownFit // by number: by target module
}

// asked is a set of parameters that has been looked at; it is held so that its address stays its own.
type asked struct {
	params map[meaning.ParamName]meaning.Value
	kind   meaning.Kind
	factor float64
	number int
}

type knownFit struct {
	best []assignment
	cost float64
}

func newKnownFits() *knownFits {
	return &knownFits{number: map[string]int{}, shared: map[uintptr]asked{}}
}

// of gives the fits of what a module asks for.
func (k *knownFits) of(pol *policy, w *meaning.Module) map[int]*knownFit {
	at, factor := reflect.ValueOf(w.Params).Pointer(), pol.chosen(w.Source())
	if a, ok := k.shared[at]; ok && a.kind == w.Kind && a.factor == factor {
		return k.fits[a.number]
	}
	key := make([]byte, 0, 256)
	key = append(append(key, w.Kind...), '|')
	key = strconv.AppendFloat(key, factor, 'g', -1, 64)
	for i := range meaning.SpecOf(w.Kind).Params {
		v, ok := w.Params[meaning.SpecOf(w.Kind).Params[i].Name]
		if !ok {
			key = append(key, '-')
			continue
		}
		key = append(append(append(key, '|'), v.Name...), ' ')
		key = strconv.AppendFloat(key, v.Value, 'g', -1, 64)
		key = strconv.AppendFloat(append(key, ' '), v.Tol, 'g', -1, 64)
		key = strconv.AppendBool(key, v.Off)
		for _, part := range slices.Sorted(maps.Keys(v.Parts)) {
			key = strconv.AppendFloat(append(append(key, part...), ' '), v.Parts[part].Value, 'g', -1, 64)
		}
	}
	n, ok := k.number[string(key)]
	if !ok {
		n = len(k.fits)
		k.number[string(key)] = n
		k.fits = append(k.fits, map[int]*knownFit{})
	}
	k.shared[at] = asked{w.Params, w.Kind, factor, n}
	return k.fits[n]
}

// allocateBanned assigns every used module of the source to a module of the same kind, or to nothing, at least total cost;
// exactly, unless the node limit is met. It looks for a plan below a limit that keeps clear of some pairs; ok is false
// where it found none.
func allocateBanned(t *target, src *meaning.Meaning, known *knownFits, limit float64, nodes int, bans []ban) (a allocation, ok bool) {
	s := newSearch(t, src, known, nodes, bans)
	s.best.cost = limit
	s.walk(0, 0, s.ripeCost(0), locks{})
	s.best.nodes, s.best.exact = s.nodes, s.nodes < nodes && !s.cut
	if s.found {
		s.keep()
	}
	return s.best, s.found
}

func newSearch(t *target, src *meaning.Meaning, known *knownFits, nodes int, bans []ban) *search {
	s := &search{t: t, src: src, place: map[string]int{}, busy: make([]bool, len(t.Modules)), depthC: map[[2]int]float64{},
		loose: map[looseKey]float64{}, known: known, limit: nodes, bans: bans}
	s.prepare()
	s.prepareRoutes()
	s.now = make([]int, len(s.mods))
	for i := range s.now {
		s.now[i] = -1
	}
	return s
}

// keep writes the best assignment down by the ids of the source's modules.
func (s *search) keep() {
	s.best.module, s.best.pair, s.best.fit = map[string]int{}, map[string]float64{}, map[string][]assignment{}
	for i, j := range s.chosen {
		if j >= 0 {
			id := s.src.Modules[s.mods[i]].ID
			s.best.module[id], s.best.pair[id], s.best.fit[id] = j, s.cost[i][j], s.fits[i][j].best
		}
	}
}

func (s *search) prepare() {
	type entry struct {
		i    int
		lost float64
	}
	var list []entry
	for i := range s.src.Modules {
		if m := &s.src.Modules[i]; m.Used() && m.Kind != meaning.Atten {
			list = append(list, entry{i, s.t.policy.leaveOut(m)})
		}
	}
	sort.SliceStable(list, func(a, b int) bool {
		if list[a].lost != list[b].lost {
			return list[a].lost > list[b].lost
		}
		return s.src.Modules[list[a].i].ID < s.src.Modules[list[b].i].ID
	})
	for n, e := range list {
		w := &s.src.Modules[e.i]
		s.place[w.ID] = n
		known := s.known.of(s.t.policy, w)
		cost, fits := make([]float64, len(s.t.Modules)), make([]*knownFit, len(s.t.Modules))
		var domain []int
		rank, own := s.t.sourceRank[w.ID]
		if !own {
			rank = rankIn(s.src, w)
		}
		for _, j := range s.t.ofKind[w.Kind] {
			k := s.t.fitOnce(known, j, w)
			if k == nil {
				continue // nothing brings it in
			}
			c := k.cost + s.unasked(w, j)
			// of equals, the one in the same place; then the earlier one
			c += 1e-6 * (math.Abs(float64(rank-s.t.ranks[j])) + 0.1*float64(s.t.ranks[j]))
			cost[j], fits[j] = c, k
			if c < e.lost && !s.banned(w, j) {
				domain = append(domain, j)
			}
		}
		sort.SliceStable(domain, func(a, b int) bool { return cost[domain[a]] < cost[domain[b]] })
		if s.banned(w, -1) {
			e.lost = math.Inf(1)
		}
		s.mods, s.lost, s.domain = append(s.mods, e.i), append(s.lost, e.lost), append(s.domain, domain)
		s.cost, s.fits = append(s.cost, cost), append(s.fits, fits)
	}
	s.bound = make([]float64, len(s.mods)+1)
	for i := len(s.mods) - 1; i >= 0; i-- {
		least := s.lost[i]
		if len(s.domain[i]) > 0 {
			least = math.Min(least, s.cost[i][s.domain[i][0]])
		}
		s.bound[i] = s.bound[i+1] + least
	}
}

// banned tells whether a pair is forbidden; a part stays itself where a rule has changed it.
func (s *search) banned(w *meaning.Module, target int) bool {
	return slices.ContainsFunc(s.bans, func(b ban) bool {
		return b.target == target && (b.source == w.ID || w.Changed() && b.source == w.First)
	})
}

// fitOnce fits a module of the target to a module of the source with nothing else set, where that is not known yet;
// nil where it cannot be brought in.
func (t *target) fitOnce(known map[int]*knownFit, j int, w *meaning.Module) *knownFit {
	if k, ok := known[j]; ok {
		return k
	}
	known[j] = nil
	l, st := locks{}, t.start
	if len(t.Modules[j].When) > 0 {
		if !l.add(t.Compiled, t.Modules[j].When) {
			return nil
		}
		st = t.InitState()
		l.apply(t.Compiled, st)
	}
	k := &knownFit{}
	k.best, k.cost = t.fit(j, w, st, l, nil)
	known[j] = k
	return k
}

// prepareRoutes orders the routes and works out what each can cost at the least.
func (s *search) prepareRoutes() {
	w := make([]float64, len(s.src.Routes))
	for i := range s.src.Routes {
		if s.src.Routes[i].Used() {
			s.routes = append(s.routes, i)
			w[i] = s.t.policy.routeWeight(s.src, &s.src.Routes[i])
		}
	}
	sort.SliceStable(s.routes, func(a, b int) bool {
		x, y := s.routes[a], s.routes[b]
		if w[x] != w[y] {
			return w[x] > w[y]
		}
		return s.src.Routes[x].ID < s.src.Routes[y].ID
	})
	s.ripe = make([][]int, len(s.mods)+1)
	s.rrest = make([]float64, len(s.mods)+1)
	for n, i := range s.routes {
		r := &s.src.Routes[i]
		s.rweight = append(s.rweight, w[i])
		var ends []int
		last := 0
		need := func(id string) {
			if p, ok := s.place[id]; ok {
				ends = append(ends, p)
				last = max(last, p+1)
			}
		}
		need(r.From)
		need(r.Via)
		for _, d := range r.To {
			id, _ := meaning.Split(d)
			need(id)
		}
		s.ends = append(s.ends, ends)
		s.ripe[last] = append(s.ripe[last], n)
		s.rleast = append(s.rleast, w[i]*s.t.leastOfRoute(s.src, r))
		for p := range last {
			s.rrest[p] += s.rleast[n]
		}
	}
}

// leastOfRoute gives the least share of its weight that a route can cost on this target, whoever plays its ends: all
// of it where nothing leads from such a source to such a parameter.
func (t *target) leastOfRoute(src *meaning.Meaning, r *meaning.Route) float64 {
	from := r.From
	if m := src.Module(r.From); m != nil {
		from = string(m.Kind)
	}
	to := t.drives[from]
	if to == nil {
		return 1
	}
	for _, d := range r.To {
		id, param := meaning.Split(d)
		m := src.Module(id)
		if m == nil || !m.Used() {
			continue
		}
		if !to[driveKey(m.Kind, param)] {
			return 1
		}
	}
	return 0
}

// driveKey names a parameter of a kind of module; the tuning of the whole voice is the pitch of every oscillator.
func driveKey(k meaning.Kind, param meaning.ParamName) string {
	if param == meaning.PInterval || k == meaning.Voice && param == meaning.PTune {
		return "pitch"
	}
	return meaning.Ref(string(k), param)
}

// ripeCost gives the least that the routes that have just become decided can cost: their
// best option, whatever else they move and whoever else wants it.
func (s *search) ripeCost(i int) float64 {
	sum := 0.0
	for _, n := range s.ripe[i] {
		sum += s.looseCost(n)
	}
	return sum
}

// looseCost gives the least that a route can cost whose ends are decided, whatever else its means move and whoever
// else wants them.
func (s *search) looseCost(n int) float64 {
	key := looseKey{route: n}
	short := len(s.ends[n]) <= len(key.ends)
	if short {
		for k, e := range s.ends[n] {
			key.ends[k] = int16(s.now[e] + 1)
		}
		if c, ok := s.loose[key]; ok {
			return c
		}
	}
	c := s.rweight[n]
	options, _ := s.options(&s.src.Routes[s.routes[n]], true)
	for _, o := range options {
		c = math.Min(c, o.cost*s.rweight[n])
	}
	if short {
		s.loose[key] = c
	}
	return c
}

// at gives who plays a module of the source in the assignment as it stands.
func (s *search) at(id string) (int, bool) {
	p, ok := s.place[id]
	if !ok || s.now[p] < 0 {
		return -1, false
	}
	return s.now[p], true
}

// rankIn counts the modules of the same kind before one.
func rankIn(m *meaning.Meaning, d *meaning.Module) int {
	n := 0
	for i := range m.Modules {
		if m.Modules[i].ID == d.ID {
			return n
		}
		if m.Modules[i].Kind == d.Kind {
			n++
		}
	}
	return n
}

// child is one way to decide who plays a module: -1 for nobody.
type child struct {
	target       int
	cost, routes float64 // of this decision alone
}

// walk decides who plays the i-th module. cost is that of the modules decided so far, routes
// the least that of the routes decided with them. The ways are tried in the order of what they cost with the routes
// that they decide, so that the first way down is a good one.
func (s *search) walk(i int, cost, routes float64, l locks) {
	if s.nodes++; s.nodes > s.limit && (s.found || s.limit < NodeLimit) {
		return
	}
	if cost+routes+s.bound[i]+s.rrest[i] >= s.best.cost-sameCost {
		return
	}
	if i == len(s.mods) {
		s.leaf(cost, l)
		return
	}
	rest := s.bound[i+1] + s.rrest[i+1]
	var few [12]child
	ways := few[:0]
	try := func(j int, c float64) {
		if cost+c+routes+rest >= s.best.cost-sameCost {
			return
		}
		s.now[i] = j
		ways = append(ways, child{j, c, s.ripeCost(i + 1)})
	}
	for _, j := range s.domain[i] {
		if !s.busy[j] {
			try(j, s.cost[i][j])
		}
	}
	try(-1, s.lost[i])
	s.now[i] = -1
	slices.SortStableFunc(ways, func(a, b child) int { return cmp.Compare(a.cost+a.routes, b.cost+b.routes) })
	for _, w := range ways {
		if cost+w.cost+routes+w.routes+rest >= s.best.cost-sameCost {
			continue
		}
		next := l
		if w.target >= 0 && len(s.t.Modules[w.target].When) > 0 {
			next = l.copy()
			if !next.add(s.t.Compiled, s.t.Modules[w.target].When) {
				continue
			}
		}
		if s.now[i] = w.target; w.target >= 0 {
			s.busy[w.target] = true
		}
		s.walk(i+1, cost+w.cost, routes+w.routes, next)
		if s.now[i] = -1; w.target >= 0 {
			s.busy[w.target] = false
		}
	}
}

// leafNodes is how many ways to share the means of routes are looked at for one assignment of the modules.
const leafNodes = 2000

// leaf finds the routes for a full assignment of modules at least cost: a branch and bound over the means of each,
// dearest route first, cheapest means first.
func (s *search) leaf(cost float64, l locks) {
	n := len(s.routes)
	options, why := make([][]routeChoice, n), make([]string, n)
	rest := make([]float64, n+1) // the least that the routes from one on can cost
	for k := n - 1; k >= 0; k-- {
		rest[k] = rest[k+1] + s.looseCost(k)
	}
	if cost+rest[0] >= s.best.cost-sameCost {
		return
	}
	sum := cost
	for k := range n {
		options[k], why[k] = s.options(&s.src.Routes[s.routes[k]], false)
		least := s.rweight[k]
		for i := range options[k] {
			options[k][i].cost *= s.rweight[k]
			least = math.Min(least, options[k][i].cost)
		}
		if sum += least; sum+rest[k+1] >= s.best.cost-sameCost {
			return
		}
		rest[k] = least
	}
	for k := n - 1; k >= 0; k-- {
		rest[k] += rest[k+1]
	}
	u := routesUse{route: map[int]bool{}, slot: map[int]bool{}, point: map[int]bool{}, atten: map[int]bool{}}
	choices := make([]routeChoice, len(s.src.Routes))
	nodes := 0
	var walk func(k int, cost float64, l locks)
	walk = func(k int, cost float64, l locks) {
		if nodes++; nodes > leafNodes {
			s.cut = true
			return
		}
		if cost+rest[k] >= s.best.cost-sameCost {
			return
		}
		if k == n {
			s.best.cost, s.best.route, s.found = cost, slices.Clone(choices), true
			s.chosen = append(s.chosen[:0], s.now...)
			return
		}
		i := s.routes[k]
		for _, o := range options[k] {
			if o.cost >= s.rweight[k] {
				break // they are in the order of cost
			}
			next, ok := s.take(&o, &s.src.Routes[i], &u, l)
			if !ok {
				continue
			}
			choices[i] = o
			walk(k+1, cost+o.cost, next)
			u.set(&o, false)
			if o.cost+cost+rest[k+1] >= s.best.cost-sameCost {
				return // nothing that is dearer can do better
			}
		}
		reason := why[k]
		if len(options[k]) > 0 {
			reason = "what there is would be further off than nothing, or is taken by another route"
		}
		choices[i] = routeChoice{cost: s.rweight[k], atten: -1, reason: reason}
		walk(k+1, cost+s.rweight[k], l)
	}
	walk(0, cost, l)
}

// routesUse is what of the target's means for routes is taken.
type routesUse struct{ route, slot, point, atten map[int]bool }

func (u *routesUse) set(o *routeChoice, taken bool) {
	put := func(m map[int]bool, k int) {
		if taken {
			m[k] = true
		} else {
			delete(m, k)
		}
	}
	switch o.kind {
	case "wired":
		put(u.route, o.index)
	case "slot":
		put(u.slot, o.index)
	case "cable":
		put(u.point, o.index)
		if o.atten >= 0 {
			put(u.atten, o.atten)
		}
	}
}

// take takes a means for a route, where it is free; a slot is picked from its class.
func (s *search) take(o *routeChoice, r *meaning.Route, u *routesUse, l locks) (locks, bool) {
	var when []panel.When
	switch o.kind {
	case "wired":
		if p := s.t.Routes[o.index].Normal; u.route[o.index] || p != "" && u.point[s.t.PointIndex(p)] {
			return nil, false
		}
		when = s.t.Routes[o.index].When
	case "slot":
		if o.index = s.freeSlot(o.class, r, u.slot); o.index < 0 {
			return nil, false
		}
		when = s.t.Matrix.Slots[o.index].When
	case "cable":
		if u.point[o.index] || o.atten >= 0 && u.atten[o.atten] || s.breaks(o.index, u.route) {
			return nil, false
		}
	}
	if len(when) > 0 {
		l = l.copy()
		if !l.add(s.t.Compiled, when) {
			return nil, false
		}
	}
	u.set(o, true)
	return l, true
}

// unasked gives what it costs that a module plays where a route that nothing can take away leads on to what it is not
// to move: an envelope for the filter on one that is wired to the amplifier.
func (s *search) unasked(w *meaning.Module, target int) float64 {
	sum := 0.0
	for _, i := range s.t.stuck {
		r := &s.t.Routes[i]
		if r.From != s.t.Modules[target].ID {
			continue
		}
		for _, to := range r.To {
			id, param := meaning.Split(to)
			k, ok := s.t.ModuleIndex(id)
			if !ok || s.asks(w.ID, s.t.Modules[k].Kind, param) {
				continue
			}
			sum += meaning.SpecOf(meaning.RouteKind).Weight
			if meaning.Opens(r.From, meaning.Env, s.t.Modules[k].Kind, param) {
				sum += 9 // in all as losing the route that opens the amplifier
			}
		}
	}
	return sum
}

// asks tells whether the source has a route from a module to a parameter of a kind of module.
func (s *search) asks(from string, kind meaning.Kind, param meaning.ParamName) bool {
	for i := range s.src.Routes {
		r := &s.src.Routes[i]
		if !r.Used() || r.From != from {
			continue
		}
		for _, to := range r.To {
			id, name := meaning.Split(to)
			if m := s.src.Module(id); m != nil && m.Kind == kind && name == param {
				return true
			}
		}
	}
	return false
}

// freeSlot picks a slot of a class: the one of the same name where there is one, else the
// first that no other route of the source is named after, else the first.
func (s *search) freeSlot(class int, r *meaning.Route, used map[int]bool) int {
	first, calm := -1, -1
	for _, i := range s.t.classes[class].slots {
		if used[i] {
			continue
		}
		id := s.t.Matrix.Slots[i].ID
		if id == r.ID {
			return i
		}
		if first < 0 {
			first = i
		}
		if other := s.src.Route(id); calm < 0 && (other == nil || !other.Used()) {
			calm = i
		}
	}
	if calm >= 0 {
		return calm
	}
	return first
}

// breaks tells whether a cable into a point would cut a wired route that is in use.
func (s *search) breaks(point int, used map[int]bool) bool {
	for i := range used {
		if n := s.t.Routes[i].Normal; n != "" && s.t.PointIndex(n) == point {
			return true
		}
	}
	return false
}

// source gives the target's name for what drives a route, or "" where it is not there.
func (s *search) source(from string) string {
	if meaning.IsSource(from) {
		return from
	}
	if j, ok := s.at(from); ok {
		return s.t.Modules[j].ID
	}
	return ""
}

// options lists the ways to make a route on the target with the modules as they are now
// assigned; cost is a share of the route's weight. why says what is missing if none is. A
// loose look takes no account of what else the ways move, for a bound before all is assigned.
func (s *search) options(r *meaning.Route, loose bool) (out []routeChoice, why string) {
	from := s.source(r.From)
	if from == "" {
		return nil, s.label(r.From) + " has no place"
	}
	via := ""
	if r.Via != "" {
		if via = s.source(r.Via); via == "" {
			return nil, "what scales it has no place"
		}
	}
	var to []string
	for _, d := range r.To {
		id, param := meaning.Split(d)
		if m := s.src.Module(id); m != nil && !m.Used() {
			continue
		}
		if j, ok := s.at(id); ok {
			to = append(to, meaning.Ref(s.t.Modules[j].ID, param))
		}
	}
	if len(to) == 0 {
		return nil, "what it moves has no place"
	}
	shape := func(have []string, polarity string) (float64, bool) {
		extra, ok := s.covers(have, to, loose)
		c := 0.3 * float64(min(extra, 2))
		if !slices.Equal(have, to) {
			c += 1e-5 // of equals, the one that names just what is wanted
		}
		if polarity != "" && polarity != r.Polarity {
			c += 0.3
		}
		return c, ok
	}
	for i := range s.t.Routes {
		d := &s.t.Routes[i]
		if d.From != from || d.Via != via {
			continue
		}
		if c, ok := shape(d.To, d.Polarity); ok {
			out = append(out, routeChoice{kind: "wired", index: i, atten: -1, cost: c + s.wiredDepth(i, r)})
		}
	}
	out = append(out, s.slotOptions(r, from, via, shape)...)
	if via == "" {
		out = append(out, s.cableOptions(r, from, shape)...)
	}
	if len(out) == 0 {
		why = "there is no way from " + s.targetLabel(from) + " to it"
		if via != "" {
			why += " scaled by " + s.targetLabel(via)
		}
	}
	slices.SortStableFunc(out, func(a, b routeChoice) int { return cmp.Compare(a.cost, b.cost) })
	return out, why
}

// covers tells whether destinations have reach all that is wanted, and how many used
// modules beyond it they move. The tuning of the whole voice is the same as the pitch of
// every oscillator in use.
func (s *search) covers(have, want []string, loose bool) (extra int, ok bool) {
	if loose {
		return 0, s.couldCover(have, want)
	}
	h, w := s.expand(have), s.expand(want)
	for _, r := range w {
		if !slices.Contains(h, r) {
			return 0, false
		}
	}
	for _, r := range h {
		id, _ := meaning.Split(r)
		if i, is := s.t.ModuleIndex(id); is && s.busy[i] && !slices.Contains(w, r) {
			extra++
		}
	}
	return extra, true
}

// expand writes the tuning of the voice as the pitch of every oscillator in use.
func (s *search) expand(refs []string) []string {
	for n, r := range refs {
		if !s.isTune(r) {
			continue
		}
		out := append(make([]string, 0, len(refs)+4), refs[:n]...)
		for _, r := range refs[n:] {
			if !s.isTune(r) {
				out = append(out, r)
				continue
			}
			for j, busy := range s.busy {
				if ref := s.t.pitchRef[j]; busy && ref != "" {
					out = append(out, ref)
				}
			}
		}
		return out
	}
	return refs
}

func (s *search) isTune(ref string) bool {
	id, param := meaning.Split(ref)
	if param != meaning.PTune {
		return false
	}
	i, ok := s.t.ModuleIndex(id)
	return ok && s.t.Modules[i].Kind == meaning.Voice
}

// couldCover tells whether destinations may have reach all that is wanted, once it is known
// which oscillators are in use.
func (s *search) couldCover(have, want []string) bool {
	for _, w := range want {
		ok := false
		for _, h := range have {
			ok = ok || h == w || s.pitch(h) && s.pitch(w)
		}
		if !ok {
			return false
		}
	}
	return true
}

// pitch tells whether a destination is the pitch of an oscillator or of the whole voice.
func (s *search) pitch(ref string) bool {
	id, param := meaning.Split(ref)
	i, ok := s.t.ModuleIndex(id)
	return ok && (param == meaning.PInterval || param == meaning.PTune && s.t.Modules[i].Kind == meaning.Voice)
}

// wiredDepth gives how badly a wired route can be as deep as wanted, 0 to 1.
func (s *search) wiredDepth(i int, r *meaning.Route) float64 {
	key := [2]int{i, routeIndex(s.src, r)}
	if c, ok := s.depthC[key]; ok {
		return c
	}
	d := &s.t.Routes[i]
	p, err := s.t.Param(meaning.Ref(d.ID, meaning.PDepth))
	c := 1.0
	if err == nil && p.Dim == r.Depth.Dim {
		got := q.Quantity{}
		if refs := s.t.Binds(meaning.Ref(d.ID, meaning.PDepth)); len(refs) > 0 {
			if set, err := s.t.Scale(refs[0]).Inverse(r.Depth.Quantity); err == nil {
				got = set.Reached
			}
		} else {
			m := s.t.Route(i, s.t.InitState(), s.t.tempo)
			got = m.Depth.Quantity
		}
		c = depthLoss(r.Depth.Quantity, got, p.JND.Size)
	}
	s.depthC[key] = c
	return c
}

// depthLoss gives how bad a depth is, as a share of losing the route. One that goes
// twice as far as wanted is worse than none.
func depthLoss(want, got q.Quantity, jnd float64) float64 {
	c := loss(math.Abs(q.Distance(want, got)) / jnd)
	if math.Abs(got.Value) > 2*math.Abs(want.Value) {
		c += 0.5
	}
	return c
}

func routeIndex(m *meaning.Meaning, r *meaning.Route) int {
	for i := range m.Routes {
		if &m.Routes[i] == r {
			return i
		}
	}
	return -1
}

func (s *search) slotOptions(r *meaning.Route, from, via string, shape func([]string, string) (float64, bool)) []routeChoice {
	m := s.t.Matrix
	if m == nil {
		return nil
	}
	var out []routeChoice
	for n := range s.t.classes {
		k := &s.t.classes[n]
		slot := &m.Slots[k.slots[0]]
		if slot.Source != "" && slot.Source != from || slot.Source == "" && !k.sources[m.SourceName(from)] {
			continue
		}
		if slot.Via != via && (via == "" || !k.scalers[m.SourceName(via)]) {
			continue
		}
		for j := range m.Destinations {
			d := &m.Destinations[j]
			if slot.Dest != "" && slot.Dest != d.Name || slot.Dest == "" && !k.dests[d.Name] {
				continue
			}
			full := s.t.fulls[j]
			if full.Dim != r.Depth.Dim || full.Value == 0 {
				continue
			}
			polarity := d.Polarity
			if k.polarity {
				polarity = "" // the slot can be set to either
			}
			c, ok := shape(d.To, polarity)
			if !ok {
				continue
			}
			if over := math.Abs(r.Depth.Value/full.Value) - 1; over > 0 {
				c += loss(over * 20)
			}
			out = append(out, routeChoice{kind: "slot", class: n, dest: j, atten: -1, cost: c})
		}
	}
	return out
}

// slotClass is a set of slots that are alike.
type slotClass struct {
	slots                   []int
	sources, dests, scalers map[string]bool
	polarity                bool
}

// slotClasses groups the slots of a panel's matrix by what they can do.
func (t *target) slotClasses() []slotClass {
	if t.Matrix == nil {
		return nil
	}
	var out []slotClass
	index := map[string]int{}
	for i := range t.Matrix.Slots {
		d := &t.Matrix.Slots[i]
		c := slotClass{slots: []int{i}, sources: t.words(meaning.Ref(d.ID, meaning.PSource)), dests: t.words(meaning.Ref(d.ID, meaning.PDest)), scalers: t.words(meaning.Ref(d.ID, meaning.PScaler)), polarity: len(t.Binds(meaning.Ref(d.ID, meaning.PPolarity))) > 0}
		key := fmt.Sprint(d.Source, "|", d.Dest, "|", d.Via, "|", d.When, "|", c.sources, c.dests, c.scalers, c.polarity)
		if n, ok := index[key]; ok {
			out[n].slots = append(out[n].slots, i)
			continue
		}
		index[key] = len(out)
		out = append(out, c)
	}
	return out
}

// words lists the words that the controls of a slot have positions for.
func (t *target) words(ref string) map[string]bool {
	out := map[string]bool{}
	for _, b := range t.Binds(ref) {
		for _, v := range t.Bind(b).Law.Values {
			if w, ok := v.(string); ok {
				out[w] = true
			}
		}
	}
	return out
}

// inlet is a point of the target that a cable can go into.
type inlet struct {
	index int
	full  q.Quantity // what a full voltage moves
	jnd   float64
}

// inlets lists the points that cables can go into, those of attenuators left aside, and the outlets by what they are
// of; passes lists the attenuators that a cable can go through.
func (t *target) inlets() {
	t.outlets = map[string][]int{}
	for i := range t.Points {
		p := &t.Points[i]
		if p.Dir == "out" {
			t.outlets[p.Of] = append(t.outlets[p.Of], i)
		}
		if p.Dir != "in" || t.AttenuatorIn(i) >= 0 {
			continue
		}
		d, _ := t.Param(p.To[0])
		t.ins = append(t.ins, inlet{i, t.PointDepth(p.ID), meaning.DepthParam(d.Dim).JND.Size})
	}
	for a := range t.Modules {
		if t.Modules[a].Kind == meaning.Atten && t.AttenuatorPoints(a) {
			t.passes = append(t.passes, a)
		}
	}
}

func (s *search) cableOptions(r *meaning.Route, from string, shape func([]string, string) (float64, bool)) []routeChoice {
	var out []routeChoice
	for _, o := range s.t.outlets[from] {
		for _, in := range s.t.ins {
			if in.full.Dim != r.Depth.Dim || in.full.Value == 0 {
				continue
			}
			c, ok := shape(s.t.Points[in.index].To, s.t.Points[in.index].Polarity)
			if !ok {
				continue
			}
			// a cable is more to do than a switch
			c += rules.CableCost
			out = append(out, routeChoice{kind: "cable", index: in.index, out: o, atten: -1, cost: c + depthLoss(r.Depth.Quantity, in.full, in.jnd)})
			if share := r.Depth.Value / in.full.Value; share > 0 && share < 1 {
				for _, a := range s.t.passes {
					out = append(out, routeChoice{kind: "cable", index: in.index, out: o, atten: a, cost: c + rules.CableCost})
				}
			}
		}
	}
	return out
}

func (s *search) label(source string) string {
	if m := s.src.Module(source); m != nil {
		return m.Label
	}
	return source
}

func (s *search) targetLabel(id string) string {
	if i, ok := s.t.ModuleIndex(id); ok {
		return s.t.Modules[i].Label
	}
	return id
}
