package gloss

import (
	"cmp"
	"slices"
	"strings"

	"glossator/core/meaning"
)

// PathNode is a module of a signal path, or its end.
type PathNode struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	// Column counts from the sources, Row within the column.
	Column int `json:"column"`
	Row    int `json:"row"`
	// Plays lists the parts of the source that a module of the target plays, or who plays a part of the source; empty where nothing does.
	Plays string `json:"plays"`
}

// Path is the way of the sound through what does something in a patch.
type Path struct {
	Panel string     `json:"panel"`
	Nodes []PathNode `json:"nodes"`
	Edges [][2]int   `json:"edges"` // places in Nodes
	// Text says the same in words.
	Text string `json:"text"`
}

// Paths are the ways of the sound on both sides.
type Paths struct {
	Source Path `json:"source"`
	Target Path `json:"target"`
}

// PathsOf draws the signal paths of source and target, with who plays what.
func (in *Input) PathsOf(s *Sheet) Paths {
	by, plays := map[string]string{}, map[string][]string{}
	for _, p := range s.Plan.Modules {
		switch {
		case p.Target != "":
			by[p.Source] = p.TargetLabel
			plays[p.Target] = append(plays[p.Target], p.SourceLabel)
		case p.Rule != "":
			by[p.Source] = "by other means"
		default:
			by[p.Source] = "left out"
		}
	}
	out := Paths{Source: pathOf(in.Plan.Wanted, in.Source.Name), Target: pathOf(in.Got, in.Target.Name)}
	for i := range out.Source.Nodes {
		out.Source.Nodes[i].Plays = by[out.Source.Nodes[i].ID]
	}
	for i := range out.Target.Nodes {
		out.Target.Nodes[i].Plays = strings.Join(plays[out.Target.Nodes[i].ID], ", ")
	}
	return out
}

// pathOf lays a meaning's signal path out in columns: what goes into a module stands before it. What does nothing is passed where the sound goes through it, and left away where it would begin there.
func pathOf(m *meaning.Meaning, panel string) Path {
	const end = "out"
	from := wiresOf(m) // what goes into each
	used := func(id string) bool {
		d := m.Module(id)
		return id == end || d != nil && d.Used()
	}
	// the nearest that do something before a module
	var before func(id string, seen map[string]bool) []string
	before = func(id string, seen map[string]bool) (out []string) {
		for _, p := range from[id] {
			if seen[p] {
				continue
			}
			seen[p] = true
			if used(p) {
				out = append(out, p)
			} else {
				out = append(out, before(p, seen)...)
			}
		}
		return out
	}
	prev := map[string][]string{}
	var order []string
	state := map[string]int{} // 1 on the way, 2 done
	var visit func(id string)
	visit = func(id string) {
		if state[id] != 0 {
			return
		}
		state[id] = 1
		for _, p := range before(id, map[string]bool{id: true}) {
			if state[p] == 1 || slices.Contains(prev[id], p) { // a loop is drawn without the edge that closes it
				continue
			}
			visit(p)
			prev[id] = append(prev[id], p)
		}
		state[id] = 2
		order = append(order, id)
	}
	visit(end)
	p := Path{Panel: panel, Nodes: []PathNode{}, Edges: [][2]int{}}
	at, column := map[string]int{}, map[string]int{}
	for _, id := range order {
		for _, q := range prev[id] {
			column[id] = max(column[id], column[q]+1)
		}
	}
	// sources stand right before what they go into
	for i := len(order) - 1; i >= 0; i-- {
		id := order[i]
		if len(prev[id]) > 0 {
			continue
		}
		next := -1
		for _, to := range order {
			if slices.Contains(prev[to], id) && (next < 0 || column[to] < next) {
				next = column[to]
			}
		}
		column[id] = max(0, next-1)
	}
	rows := map[int]int{}
	slices.SortStableFunc(order, func(a, b string) int { return cmp.Compare(column[a], column[b]) })
	for _, id := range order {
		label := "output"
		if d := m.Module(id); d != nil {
			label = d.Label
		}
		at[id] = len(p.Nodes)
		p.Nodes = append(p.Nodes, PathNode{ID: id, Label: label, Column: column[id], Row: rows[column[id]]})
		rows[column[id]]++
	}
	for _, id := range order {
		for _, q := range prev[id] {
			p.Edges = append(p.Edges, [2]int{at[q], at[id]})
		}
	}
	p.Text = pathText(&p)
	return p
}

// wiresOf gives what goes into each module: in the voice as its path has it, with the choices of sources and routings worked in, behind the amplifier by the audio edges.
func wiresOf(m *meaning.Meaning) map[string][]string {
	from := map[string][]string{}
	wire := func(a, b string) {
		if a != b && !slices.Contains(from[b], a) {
			from[b] = append(from[b], a)
		}
	}
	k := slices.IndexFunc(m.Modules, func(d meaning.Module) bool { return d.Kind == meaning.Amp && d.Used() })
	if k < 0 {
		for _, e := range m.Audio {
			wire(e.From, e.To)
		}
		return from
	}
	amp := m.Modules[k].ID
	graph := m.Graph()
	if last := graph.Amplifier(); last != nil {
		amp = last.ID
	} else if slices.ContainsFunc(graph.Path().Nodes, func(n meaning.PathNode) bool { return n.Module.ID == amp }) {
		amp = "out" // several side by side
	}
	path := graph.Path()
	name := func(place int) string {
		if place == meaning.Out {
			return amp
		}
		return path.Nodes[place].Module.ID
	}
	for i := range m.Modules { // in the order of the panel
		id := m.Modules[i].ID
		for _, e := range path.From[id] {
			if e.Mixer != nil {
				wire(id, e.Mixer.ID)
				id := e.Mixer.ID
				wire(id, name(e.To))
				continue
			}
			wire(id, name(e.To))
		}
	}
	for _, n := range path.Nodes {
		for _, to := range n.To {
			wire(n.Module.ID, name(to))
		}
	}
	behind := map[string]bool{amp: true}
	for grown := true; grown; {
		grown = false
		for _, e := range m.Audio {
			if behind[e.From] && !behind[e.To] {
				behind[e.To], grown = true, true
			}
		}
	}
	for _, e := range m.Audio {
		if behind[e.From] {
			wire(e.From, e.To)
		}
	}
	return from
}

// pathText says a path in words: what goes into each module that something goes into.
func pathText(p *Path) string {
	var parts []string
	for i := range p.Nodes {
		var in []string
		for _, e := range p.Edges {
			if e[1] == i {
				in = append(in, p.Nodes[e[0]].Label)
			}
		}
		if len(in) == 0 {
			continue
		}
		joined := strings.Join(in, " and ")
		if len(in) > 2 {
			joined = strings.Join(in[:len(in)-1], ", ") + " and " + in[len(in)-1]
		}
		parts = append(parts, joined+" into "+p.Nodes[i].Label)
	}
	if len(parts) == 0 {
		return "nothing sounds"
	}
	return strings.Join(parts, "; ")
}
