package plan

import (
	"cmp"
	"maps"
	"math"
	"slices"
	"sort"

	"glossator/core/meaning"
)

// NodeLimit is how many partial plans a search looks at before it settles for the
// best it has.
const NodeLimit = 200000

// sameCost is how near two plans' costs are taken for equal, in the unit of meaning's
// weights: of equals the first found stands, which keeps modules in their places.
const sameCost = 1e-4

// Allocation is an assignment in indices: for each used module and route of the source, who plays
// it, or nobody.
type Allocation struct {
	Module map[string]int // source module id to target module
	Route  []Choice       // by source route
	Cost   float64
	Nodes  int
	Exact  bool
	Pair   map[string]float64      // what the chosen pairs cost, by source module id
	Fit    map[string][]Assignment // how the chosen pairs are set
	// Unasked is what of the cost is for what the target moves and the source does not: with other parts, or other routes, that may go
	Unasked float64
	// Wiring has the positions of the controls that choose between ways of the audio path, where the plan has to.
	Wiring map[int]int
}

// moduleSearch is the branch and bound over the modules; the routes of each full assignment are
// settled by another at the leaf. "Place" is a place in mods.
type moduleSearch struct {
	t       *Target
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
	best    Allocation
	found   bool
	nodes   int
	lines   []inLine
	now     []int  // by place: the target module, or -1
	chosen  []int  // the same in the best plan
	busy    []bool // by target module
	known   *knownFits
	limit   int // of nodes
	bans    []ban
	ranks   map[string]int // by id of the source's module: how many of its kind come before it, where the meaning lists only some
	cut     bool           // a leaf has met its own limit
	graph   *meaning.Graph // of the source; see path
	fm      []int          // by place: that of the oscillator that modulates its frequency, -1 for none
}

// looseKey is a route and the modules that play its ends.
type looseKey struct {
	route int
	ends  [6]int16
}

// allocate assigns every used module of the source to a module of the same kind, or to nothing, at least total cost;
// exactly, unless the node limit is met. It looks for a plan below a limit that keeps clear of some pairs; ok is false
// where it found none.
func allocate(t *Target, src *meaning.Meaning, ranks map[string]int, known *knownFits, limit float64, nodes int, bans []ban) (a Allocation, ok bool) {
	s := newSearch(t, src, ranks, known, nodes, bans)
	s.best.Cost = limit
	s.walk(0, 0, s.ripeCost(0), Locks{})
	s.best.Nodes, s.best.Exact = s.nodes, s.nodes < nodes && !s.cut
	if s.found {
		s.keep()
	}
	return s.best, s.found
}

func newSearch(t *Target, src *meaning.Meaning, ranks map[string]int, known *knownFits, nodes int, bans []ban) *moduleSearch {
	s := &moduleSearch{t: t, src: src, place: map[string]int{}, busy: make([]bool, len(t.Modules)),
		loose: map[looseKey]float64{}, known: known, limit: nodes, bans: bans, ranks: ranks}
	s.prepare()
	s.prepareLines()
	s.prepareRoutes()
	s.now = make([]int, len(s.mods))
	for i := range s.now {
		s.now[i] = -1
	}
	return s
}

// keep writes the best assignment down by the ids of the source's modules.
func (s *moduleSearch) keep() {
	s.best.Module, s.best.Pair, s.best.Fit = map[string]int{}, map[string]float64{}, map[string][]Assignment{}
	for i, j := range s.chosen {
		if j >= 0 {
			id := s.src.Modules[s.mods[i]].ID
			s.best.Module[id], s.best.Pair[id], s.best.Fit[id] = j, s.cost[i][j], s.fits[i][j].best
			s.best.Unasked += s.unasked(&s.src.Modules[s.mods[i]], j)
		}
	}
	copy(s.now, s.chosen)
	for _, h := range s.t.held {
		s.best.Unasked += s.heldCost(h, len(s.now), -1)
	}
	for i := range s.t.wirings {
		if w := &s.t.wirings[i]; maps.Equal(w.at, s.best.Wiring) {
			s.best.Unasked += s.miswired(w)
		}
	}
}

// always tells of what every instrument has one of: a voice that plays otherwise is still better than its set-up left to chance.
func always(k meaning.Kind) bool {
	return k == meaning.Voice
}

func (s *moduleSearch) prepare() {
	type entry struct {
		i    int
		lost float64
	}
	var list []entry
	for i := range s.src.Modules {
		if m := &s.src.Modules[i]; Counts(m) {
			list = append(list, entry{i, s.t.Policy.LeaveOut(m)})
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
		known := s.known.of(s.t.Policy, w)
		cost, fits := make([]float64, len(s.t.Modules)), make([]*knownFit, len(s.t.Modules))
		var domain []int
		rank, own := s.ranks[w.ID]
		if !own {
			rank = rankIn(s.src, w)
		}
		for _, j := range s.t.ofKind[w.Kind] {
			k := s.t.fitOnce(known, j, w)
			if k == nil {
				continue // nothing brings it in
			}
			c := k.cost + s.unasked(w, j)
			if always(w.Kind) {
				c = math.Min(c, 0.9*e.lost)
			}
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
	for _, i := range s.mods {
		by := -1
		if w := &s.src.Modules[i]; w.Kind == meaning.Osc {
			if k, ok := s.place[s.src.ModulatedBy(w)]; ok {
				by = k
			}
		}
		s.fm = append(s.fm, by)
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
func (s *moduleSearch) banned(w *meaning.Module, target int) bool {
	return slices.ContainsFunc(s.bans, func(b ban) bool {
		return b.target == target && (b.source == w.ID || w.Changed() && b.source == w.First)
	})
}

// prepareRoutes orders the routes and works out what each can cost at the least.
func (s *moduleSearch) prepareRoutes() {
	w := make([]float64, len(s.src.Routes))
	for i := range s.src.Routes {
		if s.src.Routes[i].Used() {
			s.routes = append(s.routes, i)
			w[i] = s.t.Policy.RouteWeight(s.src, &s.src.Routes[i])
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

// ripeCost gives the least that the routes that have just become decided can cost: their
// best option, whatever else they move and whoever else wants it.
func (s *moduleSearch) ripeCost(i int) float64 {
	sum := 0.0
	for _, n := range s.ripe[i] {
		sum += s.looseCost(n)
	}
	return sum
}

// looseCost gives the least that a route can cost whose ends are decided, whatever else its means move and whoever
// else wants them.
func (s *moduleSearch) looseCost(n int) float64 {
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
		c = math.Min(c, o.Cost*s.rweight[n])
	}
	if short {
		s.loose[key] = c
	}
	return c
}

// at gives who plays a module of the source in the assignment as it stands.
func (s *moduleSearch) at(id string) (int, bool) {
	p, ok := s.place[id]
	if !ok || s.now[p] < 0 {
		return -1, false
	}
	return s.now[p], true
}

// child is one way to decide who plays a module: -1 for nobody.
type child struct {
	target       int
	cost, routes float64 // of this decision alone
}

// walk decides who plays the i-th module. cost is that of the modules decided so far, routes
// the least that of the routes decided with them. The ways are tried in the order of what they cost with the routes
// that they decide, so that the first way down is a good one.
func (s *moduleSearch) walk(i int, cost, routes float64, l Locks) {
	if s.nodes++; s.nodes > s.limit && (s.found || s.limit < NodeLimit) {
		return
	}
	if cost+routes+s.bound[i]+s.rrest[i] >= s.best.Cost-sameCost {
		return
	}
	if i == len(s.mods) {
		s.leaf(cost+s.modulated()+s.misled(), l)
		return
	}
	rest := s.bound[i+1] + s.rrest[i+1]
	var few [12]child
	ways := few[:0]
	try := func(j int, c float64) {
		if cost+c+routes+rest >= s.best.Cost-sameCost {
			return
		}
		s.now[i] = j
		ways = append(ways, child{j, c, s.ripeCost(i + 1)})
	}
	for _, j := range s.domain[i] {
		if !s.busy[j] {
			try(j, s.cost[i][j]+s.between(i, j))
		}
	}
	try(-1, s.lost[i])
	s.now[i] = -1
	slices.SortStableFunc(ways, func(a, b child) int { return cmp.Compare(a.cost+a.routes, b.cost+b.routes) })
	for _, w := range ways {
		if cost+w.cost+routes+w.routes+rest >= s.best.Cost-sameCost {
			continue
		}
		next := l
		if w.target >= 0 && len(s.t.Modules[w.target].When) > 0 {
			next = l.copy()
			if !next.Add(s.t.Compiled, s.t.Modules[w.target].When) {
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

// unasked gives what it costs that a module plays where a route that nothing can take away leads on to what it is not
// to move: an envelope for the filter on one that is wired to the amplifier.
func (s *moduleSearch) unasked(w *meaning.Module, target int) float64 {
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

// unaskedBetween is what it costs that one part moves another for good: what modulates a frequency or a phase at audio rate makes another tone of it. It is as much as to lose a part.
const unaskedBetween = 7.0

// between gives what it costs to play the i-th module by a module of the target beside those that are decided: where a route that nothing can take away leads from
// one to the other, and the source has none.
func (s *moduleSearch) between(i, target int) float64 {
	sum := 0.0
	for _, h := range s.t.held {
		if h.from == target || h.to == target {
			sum += s.heldCost(h, i, target)
		}
	}
	return sum
}

// heldCost gives what it costs that a route leads from one module of the target to another for good, where the i-th module of the source is played by a target's: nothing
// where one of them does not play or the source has such a route.
func (s *moduleSearch) heldCost(h heldRoute, i, target int) float64 {
	from, to := s.playing(h.from, i, target), s.playing(h.to, i, target)
	if from == "" || to == "" || slices.ContainsFunc(s.src.Routes, func(r meaning.Route) bool {
		return r.Used() && r.From == from && slices.Contains(r.To, meaning.Ref(to, h.param))
	}) {
		return 0
	}
	return unaskedBetween
}

// wrongModulator is what it costs that an oscillator is modulated by another than it was, or by none: it is another tone.
const wrongModulator = 4.0

// modulated gives what it costs that oscillators are modulated by others than in the source, or by none beside a silent one that is there for nothing, in the assignment
// as it stands. What is heard and modulates nothing there costs what the amount of the modulation does.
func (s *moduleSearch) modulated() float64 {
	sum := 0.0
	for p, by := range s.fm {
		if by < 0 || s.now[p] < 0 || s.now[by] < 0 {
			continue
		}
		is, silent := s.t.modulatorOf(s.now[p], s.busy), false
		if v, ok := s.src.Modules[s.mods[by]].Get(meaning.PLevel); ok {
			silent = v.Off
		}
		if is >= 0 && is != s.now[by] || is < 0 && silent {
			sum += wrongModulator
		}
	}
	return sum
}

// playing gives the module of the source that one of the target plays where the i-th is played by another; "" for none.
func (s *moduleSearch) playing(module, i, target int) string {
	if module == target {
		return s.src.Modules[s.mods[i]].ID
	}
	for p := range i {
		if s.now[p] == module {
			return s.src.Modules[s.mods[p]].ID
		}
	}
	return ""
}

// asks tells whether the source has a route from a module to a parameter of a kind of module.
func (s *moduleSearch) asks(from string, kind meaning.Kind, param meaning.ParamName) bool {
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
