package meaning

import (
	"math/cmplx"
	"slices"
)

// Out stands in a Path for the amplifier.
const Out = -1

// Path is how sound goes through a voice, by the audio edges: from what makes it through mixers, filters and drives to the amplifier, side by side
// where it forks. The choices of a source ("filter 2", "past") and of a filter's routing ("parallel") are worked into it.
type Path struct {
	// Nodes come each after what leads to it.
	Nodes []PathNode
	// From gives where each source of sound goes in.
	From map[string][]Entry
	// Return lists what the sound passes on its way back to the feedback path, Tap where it is taken: a place in Nodes, or Out.
	Return []*Module
	Tap    int
}

// PathNode is a used filter or drive of the voice, an amplifier before the last or beside another one, or a mixer that one of these leads to.
type PathNode struct {
	Module *Module
	// To are places in Nodes, or Out.
	To []int
}

// Entry is where a source goes in: through a mixer (nil for none), at a place in Nodes or Out.
type Entry struct {
	Mixer *Module
	To    int
}

// Path gives the path of a voice. It holds as long as the graph.
func (g *Graph) Path() *Path {
	if g.path == nil {
		g.path = g.makePath()
	}
	return g.path
}

// pathMaker is a path on its way.
type pathMaker struct {
	g     *Graph
	next  map[string][]string // the audio edges with parallel routings worked in
	place map[string]int      // in nodes, once they are ordered
	nodes []*Module           // those found, later ones first
	out   *Path
}

func (g *Graph) makePath() *Path {
	w := &pathMaker{g: g, next: map[string][]string{}, place: map[string]int{}, out: &Path{From: map[string][]Entry{}, Tap: Out}}
	for from, to := range g.next {
		w.next[from] = slices.Clone(to)
	}
	w.sideBySide()
	seen, first := map[string]bool{}, []string{}
	for i := range g.m.Modules {
		if d := &g.m.Modules[i]; makesSound(d.Kind) || d.Kind == Mixer {
			first = append(first, w.follow(d.ID, nil)...)
		}
	}
	for i := len(first) - 1; i >= 0; i-- { // the last first, as the list is turned round
		w.order(first[i], seen)
	}
	slices.Reverse(w.nodes)
	for i, d := range w.nodes {
		w.place[d.ID] = i
	}
	for _, d := range w.nodes {
		w.out.Nodes = append(w.out.Nodes, PathNode{Module: d, To: w.places(w.follow(d.ID, nil))})
	}
	w.sources()
	w.feedback()
	return w.out
}

func makesSound(k Kind) bool {
	switch k {
	case Osc, Sub, Operator, Noise, Ring, Feedback:
		return true
	}
	return false
}

// sideBySide works the filters whose routing says so in beside the one before them.
func (w *pathMaker) sideBySide() {
	for _, f := range w.g.filters {
		v, _ := f.Get(PRouting)
		if v.Name != "parallel" {
			continue
		}
		for _, before := range w.g.filters {
			k := slices.Index(w.next[before.ID], f.ID)
			if k < 0 || before == f {
				continue
			}
			w.next[before.ID] = slices.Delete(w.next[before.ID], k, k+1)
			for _, to := range w.next[f.ID] {
				if !slices.Contains(w.next[before.ID], to) {
					w.next[before.ID] = append(w.next[before.ID], to)
				}
			}
			for from, list := range w.next {
				if slices.Contains(list, before.ID) && !slices.Contains(list, f.ID) {
					w.next[from] = append(list, f.ID)
				}
			}
		}
	}
}

// follow lists what comes next after a module: nodes of the path, "" for the amplifier. A mixer that no node leads to is passed; so is what is not
// used, but for a filter beside another way: nothing comes through one that is off. through is told of mixers on the way.
func (w *pathMaker) follow(id string, through *[]*Module) (out []string) {
	add := func(id string) {
		if !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	seen := map[string]bool{}
	var walk func(id string)
	walk = func(id string) {
		if seen[id] {
			return
		}
		seen[id] = true
		for _, n := range w.next[id] {
			d := w.g.m.Module(n)
			switch {
			case d != nil && w.g.inner[n]:
				add(n)
			case n == "out" || d != nil && d.Kind == Amp:
				add("")
			case d == nil: // taken out of the meaning: it is passed
				walk(n)
			case d.Kind == Feedback || d.Kind == Ring:
			case (d.Kind == Filter || d.Kind == Drive) && d.Used() && !w.g.behind[n]:
				add(n)
			case d.Kind == Mixer && d.Used() && w.mixesNodes(d.ID):
				add(n)
			case d.Kind == Filter && len(w.next[id]) > 1 && !d.Used() && w.usedBeside(id, n):
			default:
				if d.Kind == Mixer && through != nil {
					*through = append(*through, d)
				}
				walk(n)
			}
		}
	}
	walk(id)
	return out
}

// usedBeside tells whether another filter in use stands beside one.
func (w *pathMaker) usedBeside(from, filter string) bool {
	return slices.ContainsFunc(w.next[from], func(n string) bool {
		d := w.g.m.Module(n)
		return n != filter && d != nil && d.Kind == Filter && d.Used()
	})
}

// mixesNodes tells whether a filter or drive leads straight into a mixer.
func (w *pathMaker) mixesNodes(mixer string) bool {
	for from, list := range w.next {
		if slices.Contains(list, mixer) {
			if d := w.g.m.Module(from); d != nil && ((d.Kind == Filter || d.Kind == Drive) && !w.g.behind[from] || w.g.inner[from]) {
				return true
			}
		}
	}
	return false
}

// order adds a node and those behind it, last first.
func (w *pathMaker) order(id string, seen map[string]bool) {
	if id == "" || seen[id] {
		return
	}
	seen[id] = true
	next := w.follow(id, nil)
	for i := len(next) - 1; i >= 0; i-- { // so that of what stands side by side the first comes first
		w.order(next[i], seen)
	}
	w.nodes = append(w.nodes, w.g.m.Module(id))
}

func (w *pathMaker) places(ids []string) []int {
	out := make([]int, 0, len(ids))
	for _, id := range ids {
		if id == "" {
			out = append(out, Out)
		} else {
			out = append(out, w.place[id])
		}
	}
	return out
}

// sources finds where each source goes in. One that leads nowhere goes where the others do.
func (w *pathMaker) sources() {
	var usual []Entry
	var lost []*Module
	for i := range w.g.m.Modules {
		d := &w.g.m.Modules[i]
		if !makesSound(d.Kind) || !d.Used() {
			continue
		}
		list := w.entries(d)
		if len(list) == 0 {
			lost = append(lost, d)
			continue
		}
		w.out.From[d.ID] = w.chosen(d, list)
		if usual == nil {
			usual = list
		}
	}
	if usual == nil {
		usual = []Entry{{To: Out}}
		for i := range w.g.m.Modules {
			if d := &w.g.m.Modules[i]; d.Kind == Mixer && d.Used() {
				usual = w.through(d.ID, d)
				break
			}
		}
		if len(usual) == 0 {
			usual = []Entry{{To: Out}}
		}
	}
	for _, d := range lost {
		w.out.From[d.ID] = w.chosen(d, usual)
	}
}

// entries gives where a source goes in by the edges.
func (w *pathMaker) entries(d *Module) []Entry {
	var out []Entry
	for _, n := range w.next[d.ID] {
		m := w.g.m.Module(n)
		if m != nil && m.Kind == Mixer && (!m.Used() || !w.mixesNodes(n)) {
			out = append(out, w.through(n, m)...)
			continue
		}
		if m != nil && m.Kind == Filter && !m.Used() && w.usedBeside(d.ID, n) {
			continue // nothing comes through it
		}
		one := &pathMaker{g: w.g, next: map[string][]string{d.ID: {n}}, place: w.place}
		for from, to := range w.next {
			if from != d.ID {
				one.next[from] = to
			}
		}
		var mixers []*Module
		for _, to := range one.places(one.follow(d.ID, &mixers)) {
			e := Entry{To: to}
			if len(mixers) > 0 {
				e.Mixer = mixers[0]
			}
			if !slices.Contains(out, e) { // two ways past what is not in use are one
				out = append(out, e)
			}
		}
	}
	return out
}

// through gives what lies behind a mixer of sources.
func (w *pathMaker) through(id string, m *Module) (out []Entry) {
	for _, to := range w.places(w.follow(id, nil)) {
		out = append(out, Entry{m, to})
	}
	return out
}

// chosen applies a source's choice of filter to where it goes in.
func (w *pathMaker) chosen(d *Module, list []Entry) []Entry {
	v, ok := d.Params[PTo]
	if !ok || d.Kind == Feedback || d.Kind == Ring {
		return list
	}
	filters := w.out.filtersFrom(list)
	isFilter := func(e Entry) bool { return e.To != Out && w.nodes[e.To].Kind == Filter }
	switch {
	case v.Name == "past":
		var out []Entry
		for _, e := range list {
			for _, to := range w.pastFilters(e.To) {
				if x := (Entry{e.Mixer, to}); !slices.Contains(out, x) {
					out = append(out, x)
				}
			}
		}
		return out
	case (v.Name == "filter" || v.Name == "filter 1") && len(filters) > 1:
		return slices.DeleteFunc(slices.Clone(list), func(e Entry) bool {
			return isFilter(e) && e.To == filters[1] && slices.ContainsFunc(list, func(x Entry) bool { return x.To == filters[0] })
		})
	case v.Name == "filter 2" && len(filters) > 1:
		if slices.ContainsFunc(list, func(e Entry) bool { return e.To == filters[1] }) {
			return slices.DeleteFunc(slices.Clone(list), func(e Entry) bool { return isFilter(e) && e.To != filters[1] })
		}
		return []Entry{{list[0].Mixer, filters[1]}}
	}
	return list
}

// pastFilters follows the path to the first places that are no filters.
func (w *pathMaker) pastFilters(i int) []int {
	if i == Out || w.nodes[i].Kind != Filter {
		return []int{i}
	}
	var out []int
	for _, n := range w.out.Nodes[i].To {
		for _, x := range w.pastFilters(n) {
			if !slices.Contains(out, x) {
				out = append(out, x)
			}
		}
	}
	return out
}

// feedback finds where what comes back is taken, and what it passes.
func (w *pathMaker) feedback() {
	for i := range w.g.m.Modules {
		d := &w.g.m.Modules[i]
		if d.Kind != Feedback || !d.Used() {
			continue
		}
		id := d.ID
		for range len(w.g.m.Modules) {
			k := slices.IndexFunc(w.g.prev[id], func(p string) bool { x := w.g.m.Module(p); return x != nil && x.Kind != Feedback })
			if k < 0 {
				return
			}
			from := w.g.m.Module(w.g.prev[id][k])
			if n, is := w.place[from.ID]; is {
				w.out.Tap = n
				return
			}
			if from.Kind == Amp { // an inner one has its place
				return
			}
			if from.Used() && w.g.returns[from.ID] {
				w.out.Return = append([]*Module{from}, w.out.Return...)
			}
			id = from.ID
		}
	}
}

// at gives the place of a module, or Out.
func (p *Path) at(d *Module) int {
	return slices.IndexFunc(p.Nodes, func(n PathNode) bool { return n.Module.ID == d.ID })
}

// leads tells whether a way leads from one place to another.
func (p *Path) leads(from, to int) bool {
	return from != Out && slices.ContainsFunc(p.Nodes[from].To, func(n int) bool { return n == to || p.leads(n, to) })
}

// misses tells whether a way leads from a place to the amplifier that does not go through another place.
func (p *Path) misses(from, place int) bool {
	if from == Out {
		return true
	}
	return from != place && slices.ContainsFunc(p.Nodes[from].To, func(n int) bool { return p.misses(n, place) })
}

// FiltersOf lists the filters that the sound of a source goes through, in the order of the path.
func (p *Path) FiltersOf(source string) (out []*Module) {
	for _, i := range p.filtersFrom(p.From[source]) {
		out = append(out, p.Nodes[i].Module)
	}
	return out
}

// Forks tells whether a source goes into two filters or more side by side.
func (p *Path) Forks(source string) bool {
	n := 0
	for i, e := range p.From[source] {
		if e.To != Out && p.Nodes[e.To].Module.Kind == Filter && !slices.ContainsFunc(p.From[source][:i], func(x Entry) bool { return x.To == e.To }) {
			n++
		}
	}
	return n > 1
}

// filtersFrom gives the places of the filters that entries lead to, in the order of the path.
func (p *Path) filtersFrom(list []Entry) (out []int) {
	seen := make([]bool, len(p.Nodes))
	for _, e := range list {
		if e.To != Out {
			seen[e.To] = true
		}
	}
	for i := range p.Nodes { // they come each after what leads to it
		if !seen[i] {
			continue
		}
		if p.Nodes[i].Module.Kind == Filter {
			out = append(out, i)
		}
		for _, n := range p.Nodes[i].To {
			if n != Out {
				seen[n] = true
			}
		}
	}
	return out
}

// Shut tells whether a filter stands beside another way and lets nothing through that is heard beside that: 40 dB less.
func (p *Path) Shut(f *Module) bool {
	i := p.at(f)
	if i < 0 || !slices.ContainsFunc(p.Nodes, func(n PathNode) bool { k := p.at(n.Module); return k != i && !p.leads(i, k) && !p.leads(k, i) }) {
		return false
	}
	for _, hz := range []float64{80, 300, 1000, 3000, 8000, 12000} {
		if cmplx.Abs(f.FilterGain(60, hz)) > 0.01 {
			return false
		}
	}
	return true
}

// Gain gives what a source's sound is multiplied by on its way to the amplifier, where gain says it of each filter: what goes side by side is added.
func (p *Path) Gain(source string, gain func(f *Module) complex128) complex128 {
	sum := make([]complex128, len(p.Nodes))
	total := complex128(0)
	put := func(to int, x complex128) {
		if to == Out {
			total += x
		} else {
			sum[to] += x
		}
	}
	for _, e := range p.From[source] {
		put(e.To, 1)
	}
	for i := range p.Nodes {
		x := sum[i]
		if d := p.Nodes[i].Module; d.Kind == Filter && x != 0 {
			x *= gain(d)
		}
		for _, to := range p.Nodes[i].To {
			put(to, x)
		}
	}
	return total
}
