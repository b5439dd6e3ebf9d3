package panel

import (
	"slices"
	"sync/atomic"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// Wiring is how sound goes on a panel as the controls stand that choose between ways of the audio path.
type Wiring struct {
	// Out tells of each source of sound whether it goes anywhere by the audio path.
	Out []bool
	// Beside has the pairs of filters of each voice that stand side by side, by their places, the earlier one first.
	Beside map[[2]int]bool
}

// mostWirings is how many wirings of a panel are kept once they are worked out.
const mostWirings = 4096

// choosing is a control that chooses between ways of the audio path, and how far apart its positions lie among the wirings.
type choosing struct{ control, stride int }

// findWirings lists the controls that choose between ways of the audio path before the amplifier: conditions of edges, and of filters.
func (c *Compiled) findWirings() {
	var list []int
	note := func(ws []When) {
		for i := range ws {
			if k := c.whens[&ws[i]].control; !slices.Contains(list, k) {
				list = append(list, k)
			}
		}
	}
	for i := range c.Audio {
		note(c.Audio[i].When)
	}
	if len(list) > 0 {
		for i := range c.Modules {
			if c.Modules[i].Kind == meaning.Filter {
				note(c.Modules[i].When)
			}
		}
	}
	slices.Sort(list)
	stride := 1
	for _, k := range list {
		c.choosing = append(c.choosing, choosing{k, stride})
		stride *= max(1, len(c.places[k]))
		if stride > mostWirings {
			stride = mostWirings + 1
		}
	}
	if stride <= mostWirings {
		c.wirings = make([]atomic.Pointer[Wiring], stride)
	}
}

// Choosing lists the controls that choose between ways of the audio path before the amplifier.
func (c *Compiled) Choosing() []int {
	out := make([]int, len(c.choosing))
	for i, x := range c.choosing {
		out[i] = x.control
	}
	return out
}

// WiringAt gives how sound goes in a state.
func (c *Compiled) WiringAt(s *State) *Wiring {
	holds := func(ws []When) bool { return c.Holds(ws, s) }
	if len(c.wirings) == 0 {
		return c.wiring(holds, holds)
	}
	at := 0
	for _, x := range c.choosing {
		at += x.stride * s.At[x.control].Index
	}
	if w := c.wirings[at].Load(); w != nil {
		return w
	}
	w := c.wiring(holds, holds)
	c.wirings[at].Store(w)
	return w
}

// wiring works out how sound goes by the edges whose conditions hold, through the filters that are there.
func (c *Compiled) wiring(edge, filter func([]When) bool) *Wiring {
	w := &Wiring{Out: make([]bool, len(c.Modules)), Beside: map[[2]int]bool{}}
	m := &meaning.Meaning{}
	for i := range c.Modules {
		if d := &c.Modules[i]; d.Kind != meaning.Filter || filter(d.When) {
			m.Modules = append(m.Modules, meaning.Module{ID: d.ID, Kind: d.Kind})
		}
	}
	for i := range c.Audio {
		e := &c.Audio[i]
		if !edge(e.When) {
			continue
		}
		if k, ok := c.module[e.From]; ok && sourceOfSound(c.Modules[k].Kind) {
			w.Out[k] = true
		}
		m.Audio = append(m.Audio, meaning.Edge{From: e.From, To: e.To})
	}
	graph := m.Graph()
	nodes := graph.Path().Nodes
	for i := range nodes {
		for j := range i {
			a, b := nodes[i].Module, nodes[j].Module
			if a.Kind == meaning.Filter && b.Kind == meaning.Filter && graph.SideBySide(a, b) {
				x, y := c.module[a.ID], c.module[b.ID]
				w.Beside[[2]int{min(x, y), max(x, y)}] = true
			}
		}
	}
	return w
}

func sourceOfSound(k meaning.Kind) bool {
	switch k {
	case meaning.Osc, meaning.Sub, meaning.Operator, meaning.Noise, meaning.Ring:
		return true
	}
	return false
}

// besides tells whether a filter stands beside another one.
func (w *Wiring) besides(k int) bool {
	for pair := range w.Beside {
		if pair[0] == k || pair[1] == k {
			return true
		}
	}
	return false
}

// byWiring gives a parameter that follows from which way of the audio path is chosen: what is wired on and says nothing of how loud is at full, what is wired nowhere
// only modulates; a filter beside another is in parallel.
func (c *Compiled) byWiring(module int, name meaning.ParamName, s *State) (q.Quantity, bool) {
	w := c.WiringAt(s)
	switch {
	case name == meaning.POutput && w.Out[module]:
		return q.Quantity{Dim: q.DimLevel}, true
	case name == meaning.POutput:
		return q.OffOf(q.DimLevel), true
	case w.besides(module):
		return q.Named(q.DimName, "parallel"), true
	}
	return q.Quantity{}, false
}

// ByWiring tells whether a parameter of a module follows from which way of the audio path is chosen: an operator's output, a filter's routing.
func (c *Compiled) ByWiring(module int, name meaning.ParamName) bool {
	for i := range c.params[module] {
		if p := &c.params[module][i]; p.Name == name {
			return p.wired
		}
	}
	return false
}
