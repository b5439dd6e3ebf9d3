package translate

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// NodeLimit is how many partial plans a search looks at before it settles for the
// best it has.
const NodeLimit = 200000

// sameCost is how near two plans' costs are taken for equal, in the unit of meaning's
// weights: of equals the first found stands, which keeps modules in their places.
const sameCost = 1e-4

// allocation is a plan in indices: for each used module and route of the source, who plays
// it, or -1.
type allocation struct {
	module map[string]int // source module id to target module
	route  []routeChoice  // by source route
	cost   float64
	nodes  int
	exact  bool
	pairs  map[[2]int]float64 // cost of source module i played by target module j
	fits   map[[2]int][]assignment
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

// search is the branch and bound over the modules; routes are settled at the leaves.
type search struct {
	t       *target
	src     *meaning.Meaning
	mods    []int // indices of used source modules, dearest first
	lost    []float64
	domain  [][]int // target modules of the kind, cheapest first
	cost    map[[2]int]float64
	bound   []float64 // least cost of the modules from i on
	routes  []int     // indices of used source routes, dearest first
	rweight []float64
	ends    [][]int   // by route in that order: the places in mods of the modules it needs
	ripe    [][]int   // by place in mods: the routes whose last module is decided there
	rleast  []float64 // by route: the least it can cost on this target
	rrest   []float64 // by place in mods: the least cost of the routes not ripe before it
	loose   map[string]float64
	fits    map[[2]int][]assignment
	best    allocation
	nodes   int
	now     map[string]int
	busy    map[int]bool
	depthC  map[[2]int]float64 // cached depth cost of a wired route
	known   knownFits
	limit   int // of nodes
	bans    []ban
}

// allocate assigns every used module of the source to a module of the same kind, or to
// nothing, at least total cost; exactly, unless the node limit is met.
func allocate(t *target, src *meaning.Meaning) allocation {
	a, _ := allocateBelow(t, src, knownFits{}, math.Inf(1), NodeLimit)
	return a
}

// knownFits keeps how near modules of the target come to modules of the source, by the source's
// id, from one search to the next over a meaning that is mostly the same.
type knownFits map[string]map[int]knownFit

type knownFit struct {
	best []assignment
	cost float64
}

// allocateBelow looks for a plan that costs less than a limit; ok is false where it found none.
func allocateBelow(t *target, src *meaning.Meaning, known knownFits, limit float64, nodes int) (a allocation, ok bool) {
	return allocateBanned(t, src, known, limit, nodes, nil)
}

// allocateBanned looks for a plan below a limit that keeps clear of some pairs.
func allocateBanned(t *target, src *meaning.Meaning, known knownFits, limit float64, nodes int, bans []ban) (a allocation, ok bool) {
	s := &search{t: t, src: src, cost: map[[2]int]float64{}, now: map[string]int{}, busy: map[int]bool{}, depthC: map[[2]int]float64{},
		loose: map[string]float64{}, fits: map[[2]int][]assignment{}, known: known, limit: nodes, bans: bans}
	s.prepare()
	s.prepareRoutes()
	s.best.cost = limit
	s.walk(0, 0, 0, locks{})
	s.best.nodes, s.best.exact = s.nodes, s.nodes < nodes
	s.best.pairs, s.best.fits = s.cost, s.fits
	return s.best, s.best.module != nil
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
	start := s.t.InitState()
	for _, e := range list {
		w := &s.src.Modules[e.i]
		var domain []int
		for j := range s.t.Modules {
			if s.t.Modules[j].Kind != string(w.Kind) {
				continue
			}
			k, have := s.known[w.ID][j]
			if !have {
				l, st := locks{}, start
				if len(s.t.Modules[j].When) > 0 {
					if !l.add(s.t.Compiled, s.t.Modules[j].When) {
						continue
					}
					st = s.t.InitState()
					l.apply(s.t.Compiled, st)
				}
				k.best, k.cost = s.t.fit(j, w, st, l, nil)
				if s.known[w.ID] == nil {
					s.known[w.ID] = map[int]knownFit{}
				}
				s.known[w.ID][j] = k
			}
			c := k.cost + s.unasked(w, j)
			s.fits[[2]int{e.i, j}] = k.best
			// of equals, the one in the same place; then the earlier one
			c += 1e-6 * (math.Abs(float64(rank(s.src, w)-s.t.rank(j))) + 0.1*float64(s.t.rank(j)))
			s.cost[[2]int{e.i, j}] = c
			if c < e.lost && !slices.Contains(s.bans, ban{w.ID, j}) {
				domain = append(domain, j)
			}
		}
		sort.SliceStable(domain, func(a, b int) bool {
			return s.cost[[2]int{e.i, domain[a]}] < s.cost[[2]int{e.i, domain[b]}]
		})
		if slices.Contains(s.bans, ban{w.ID, -1}) {
			e.lost = math.Inf(1)
		}
		s.mods, s.lost, s.domain = append(s.mods, e.i), append(s.lost, e.lost), append(s.domain, domain)
	}
	s.bound = make([]float64, len(s.mods)+1)
	for i := len(s.mods) - 1; i >= 0; i-- {
		least := s.lost[i]
		if len(s.domain[i]) > 0 {
			least = math.Min(least, s.cost[[2]int{s.mods[i], s.domain[i][0]}])
		}
		s.bound[i] = s.bound[i+1] + least
	}
}

// prepareRoutes orders the routes and works out what each can cost at the least.
func (s *search) prepareRoutes() {
	w := map[int]float64{}
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
	place := map[string]int{}
	for n, i := range s.mods {
		place[s.src.Modules[i].ID] = n
	}
	s.ripe = make([][]int, len(s.mods)+1)
	s.rrest = make([]float64, len(s.mods)+1)
	for n, i := range s.routes {
		r := &s.src.Routes[i]
		s.rweight = append(s.rweight, w[i])
		var ends []int
		last := 0
		need := func(id string) {
			if p, ok := place[id]; ok {
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
		s.rleast = append(s.rleast, w[i]*s.leastOnTarget(r))
		for p := range last {
			s.rrest[p] += s.rleast[n]
		}
	}
}

// leastOnTarget gives the least share of its weight that a route can cost on this target,
// whoever plays its ends.
func (s *search) leastOnTarget(r *meaning.Route) float64 {
	kind := func(m *meaning.Module, id string) string {
		if m != nil {
			return string(m.Kind)
		}
		return id
	}
	targetKind := func(id string) string {
		if j, ok := s.t.ModuleIndex(id); ok {
			return s.t.Modules[j].Kind
		}
		return id
	}
	from := kind(s.src.Module(r.From), r.From)
	for i := range s.t.Routes {
		if targetKind(s.t.Routes[i].From) == from {
			return 0
		}
	}
	if s.t.Matrix != nil {
		for _, id := range s.t.Matrix.Sources {
			if targetKind(id) == from {
				return 0
			}
		}
	}
	for _, p := range s.t.Points {
		if p.Dir == "out" && targetKind(p.Of) == from {
			return 0
		}
	}
	return 1
}

// ripeCost gives the least that the routes that have just become decided can cost: their
// best option, whatever else they move and whoever else wants it.
func (s *search) ripeCost(i int) float64 {
	sum := 0.0
	for _, n := range s.ripe[i] {
		key := make([]byte, 0, 16)
		key = append(key, byte(n))
		for _, e := range s.ends[n] {
			j, ok := s.now[s.src.Modules[s.mods[e]].ID]
			if !ok {
				j = -1
			}
			key = append(key, byte(j+1), byte((j+1)>>8))
		}
		c, ok := s.loose[string(key)]
		if !ok {
			c = s.rweight[n]
			options, _ := s.options(&s.src.Routes[s.routes[n]], true)
			for _, o := range options {
				c = math.Min(c, o.cost*s.rweight[n])
			}
			s.loose[string(key)] = c
		}
		sum += c
	}
	return sum
}

// rank counts the modules of the same kind before one.
func rank(m *meaning.Meaning, d *meaning.Module) int {
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

func (t *target) rank(j int) int {
	n := 0
	for i := range j {
		if t.Modules[i].Kind == t.Modules[j].Kind {
			n++
		}
	}
	return n
}

// walk decides who plays the i-th module. cost is that of the modules decided so far, routes
// the least that of the routes decided with them.
func (s *search) walk(i int, cost, routes float64, l locks) {
	if s.nodes++; s.nodes > s.limit && (s.best.module != nil || s.limit < NodeLimit) {
		return
	}
	if cost+s.bound[i]+s.rrest[i] >= s.best.cost-sameCost {
		return
	}
	routes += s.ripeCost(i)
	if cost+routes+s.bound[i]+s.rrest[i] >= s.best.cost-sameCost {
		return
	}
	if i == len(s.mods) {
		s.leaf(cost, l)
		return
	}
	id := s.src.Modules[s.mods[i]].ID
	for _, j := range s.domain[i] {
		if s.busy[j] {
			continue
		}
		next := l
		if len(s.t.Modules[j].When) > 0 {
			next = l.copy()
			if !next.add(s.t.Compiled, s.t.Modules[j].When) {
				continue
			}
		}
		s.now[id], s.busy[j] = j, true
		s.walk(i+1, cost+s.cost[[2]int{s.mods[i], j}], routes, next)
		delete(s.now, id)
		delete(s.busy, j)
	}
	s.walk(i+1, cost+s.lost[i], routes, l)
}

// leaf finds the routes for a full assignment of modules, dearest first, each by its
// cheapest means that is still free.
func (s *search) leaf(cost float64, l locks) {
	l = l.copy()
	choices := make([]routeChoice, len(s.src.Routes))
	usedRoute, usedSlot, usedPoint, usedAtten := map[int]bool{}, map[int]bool{}, map[int]bool{}, map[int]bool{}
	for n, i := range s.routes {
		r := &s.src.Routes[i]
		best := routeChoice{cost: s.rweight[n], atten: -1}
		options, why := s.options(r, false)
		best.reason = why
		if len(options) > 0 {
			best.reason = "what there is would be further off than nothing, or is taken by another route"
		}
		for _, o := range options {
			o.cost *= s.rweight[n]
			if o.cost >= best.cost {
				continue
			}
			switch o.kind {
			case "wired":
				if usedRoute[o.index] || !l.copy().add(s.t.Compiled, s.t.Routes[o.index].When) {
					continue
				}
				if p := s.t.Routes[o.index].Normal; p != "" && usedPoint[s.t.PointIndex(p)] {
					continue
				}
			case "slot":
				free := s.freeSlot(o.class, r, usedSlot)
				if free < 0 || !l.copy().add(s.t.Compiled, s.t.Matrix.Slots[free].When) {
					continue
				}
				o.index = free
			case "cable":
				if usedPoint[o.index] || o.atten >= 0 && usedAtten[o.atten] || s.breaks(o.index, usedRoute) {
					continue
				}
			}
			best = o
		}
		switch best.kind {
		case "wired":
			usedRoute[best.index] = true
			l.add(s.t.Compiled, s.t.Routes[best.index].When)
		case "slot":
			usedSlot[best.index] = true
			l.add(s.t.Compiled, s.t.Matrix.Slots[best.index].When)
		case "cable":
			usedPoint[best.index] = true
			if best.atten >= 0 {
				usedAtten[best.atten] = true
			}
		}
		choices[i] = best
		cost += best.cost
		if cost >= s.best.cost-sameCost {
			return
		}
	}
	s.best.cost, s.best.route = cost, choices
	s.best.module = make(map[string]int, len(s.now))
	for k, v := range s.now {
		s.best.module[k] = v
	}
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
			if !ok || s.asks(w.ID, meaning.Kind(s.t.Modules[k].Kind), param) {
				continue
			}
			sum += meaning.SpecOf(meaning.RouteKind).Weight
			if s.t.Modules[k].Kind == string(meaning.Amp) && param == "level" {
				sum += 9 // in all as losing the route that opens the amplifier
			}
		}
	}
	return sum
}

// asks tells whether the source has a route from a module to a parameter of a kind of module.
func (s *search) asks(from string, kind meaning.Kind, param string) bool {
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
	if j, ok := s.now[from]; ok {
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
		if j, ok := s.now[id]; ok {
			to = append(to, s.t.Modules[j].ID+"."+param)
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
	sort.SliceStable(out, func(a, b int) bool { return out[a].cost < out[b].cost })
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
			for j := range s.busy {
				if ref := s.t.pitchRef[j]; ref != "" {
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
	if param != "tune" {
		return false
	}
	i, ok := s.t.ModuleIndex(id)
	return ok && s.t.Modules[i].Kind == string(meaning.Voice)
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
	return ok && (param == "interval" || param == "tune" && s.t.Modules[i].Kind == string(meaning.Voice))
}

// wiredDepth gives how badly a wired route can be as deep as wanted, 0 to 1.
func (s *search) wiredDepth(i int, r *meaning.Route) float64 {
	key := [2]int{i, routeIndex(s.src, r)}
	if c, ok := s.depthC[key]; ok {
		return c
	}
	d := &s.t.Routes[i]
	p, err := s.t.Param(d.ID + ".depth")
	c := 1.0
	if err == nil && p.Dim == r.Depth.Dim {
		got := q.Quantity{}
		if refs := s.t.Binds(d.ID + ".depth"); len(refs) > 0 {
			if set, err := s.t.Scale(refs[0]).Inverse(r.Depth.Quantity); err == nil {
				got = set.Reached
			}
		} else {
			m := s.t.Route(i, s.t.InitState(), s.t.tempo)
			got = m.Depth.Quantity
		}
		c = depthLoss(r.Depth.Quantity, got, p.JND)
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
			full := s.t.Full(d.Name)
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
		c := slotClass{slots: []int{i}, sources: t.words(d.ID + ".source"), dests: t.words(d.ID + ".dest"), scalers: t.words(d.ID + ".scaler"), polarity: len(t.Binds(d.ID+".polarity")) > 0}
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

func (s *search) cableOptions(r *meaning.Route, from string, shape func([]string, string) (float64, bool)) []routeChoice {
	var out []routeChoice
	for o := range s.t.Points {
		if s.t.Points[o].Dir != "out" || s.t.Points[o].Of != from {
			continue
		}
		for i := range s.t.Points {
			in := &s.t.Points[i]
			if in.Dir != "in" || s.t.AttenuatorIn(i) >= 0 {
				continue
			}
			full := s.t.PointDepth(in.ID)
			c, ok := shape(in.To, in.Polarity)
			if !ok || full.Dim != r.Depth.Dim || full.Value == 0 {
				continue
			}
			// a cable is more to do than a switch
			c += 0.05
			p, _ := s.t.Param(in.To[0])
			j := meaning.DepthParam(p.Dim).JND
			out = append(out, routeChoice{kind: "cable", index: i, out: o, atten: -1, cost: c + depthLoss(r.Depth.Quantity, full, j)})
			if share := r.Depth.Value / full.Value; share > 0 && share < 1 {
				for a := range s.t.Modules {
					if s.t.Modules[a].Kind == string(meaning.Atten) && s.t.AttenuatorPoints(a) {
						out = append(out, routeChoice{kind: "cable", index: i, out: o, atten: a, cost: c + 0.05})
					}
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
