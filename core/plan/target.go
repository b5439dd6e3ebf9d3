package plan

import (
	"slices"

	"glossator/core/meaning"
	"glossator/core/panel"
	q "glossator/core/quantity"
)

// Target is a panel to be set, with what a search over it needs.
type Target struct {
	*panel.Compiled
	Tempo   q.Tempo
	scratch meaning.Module // for looks that are not kept
	classes []slotClass
	// slotShares has, by slot, the controls that choose for others too, and what they choose
	slotShares []map[int]meaning.ParamName
	wired      []Way    // by route
	home       []int    // by control: the position to take of equals
	pitchRef   []string // by module: its pitch, where it is an oscillator
	Policy     *Policy
	frames     map[string]float64 // nearest positions in tables
	stuck      []int              // routes from envelopes that nothing can take away
	same       bool               // it is the source's own panel
	wirings    []wiring           // choices of how sound goes, where they matter
	held       []heldRoute        // routes from one module that plays to another that nothing can take away
	start      *panel.State       // init
	depths     map[wiredKey]float64
	ofKind     map[meaning.Kind][]int
	ins        []inlet
	outlets    map[string][]int           // output points by what they are of
	cables     []Way                      // made so far, by their two points and the attenuator
	passes     []int                      // attenuators that a cable can go through
	fulls      []q.Quantity               // by destination of the matrix: what an amount of one moves
	ranks      []int                      // by module: how many of its kind come before it
	modulator  map[int]int                // by oscillator whose frequency another modulates: which, -1 for its neighbour
	switched   map[int]bool               // oscillators that can be switched off
	drives     map[string]map[string]bool // by kind of module or player's source: what its routes can move (driveKey)
	through    map[int][]int              // by source of sound: the amplifiers that it goes through, where there are several
}

// heldRoute is a route of the target, by the modules at its ends, that sounds whenever both play.
type heldRoute struct {
	from, to int
	param    meaning.ParamName
}

// NewTarget prepares a panel to be set. Of equals the position at init is taken, or, where the
// source is the same panel, the one that the source has.
func NewTarget(dst *panel.Compiled, tempo q.Tempo, src *panel.Compiled, from *panel.State, pol *Policy) *Target {
	t := &Target{Compiled: dst, Policy: pol, Tempo: tempo, frames: map[string]float64{}, scratch: meaning.Module{Params: map[meaning.ParamName]meaning.Value{}}, pitchRef: make([]string, len(dst.Modules))}
	for i := range dst.Modules {
		switch dst.Modules[i].Kind {
		case meaning.Osc, meaning.Sub, meaning.Operator:
			t.pitchRef[i] = meaning.Ref(dst.Modules[i].ID, meaning.PInterval)
		}
	}
	t.same = src.ID == dst.ID && src.Revision == dst.Revision
	t.depths = map[wiredKey]float64{}
	t.start, t.ofKind, t.drives = dst.InitState(), map[meaning.Kind][]int{}, map[string]map[string]bool{}
	for i := range dst.Modules {
		k := dst.Modules[i].Kind
		t.ranks = append(t.ranks, len(t.ofKind[k]))
		t.ofKind[k] = append(t.ofKind[k], i)
	}
	t.findDrives()
	t.findModulators()
	t.findSlotShares()
	t.findWirings()
	t.findAmps()
	t.inlets()
	if dst.Matrix != nil {
		for i := range dst.Matrix.Destinations {
			t.fulls = append(t.fulls, dst.Full(dst.Matrix.Destinations[i].Name))
		}
	}
	t.classes = t.slotClasses()
	for i := range dst.Routes {
		t.wired = append(t.wired, wired(i))
	}
	for i := range dst.Routes {
		r := &dst.Routes[i]
		k, ok := dst.ModuleIndex(r.From)
		if !ok || len(r.When) > 0 || r.Normal != "" || r.Via != "" || len(dst.Binds(meaning.Ref(r.ID, meaning.PDepth))) > 0 || len(dst.Binds(meaning.Ref(r.ID, meaning.POn))) > 0 {
			continue
		}
		if dst.Modules[k].Kind == meaning.Env {
			t.stuck = append(t.stuck, i)
			continue
		}
		t.held = t.ends(t.held, i)
	}
	t.home = make([]int, len(dst.Controls))
	for k := range t.home {
		t.home[k] = dst.Init(k).Index
		if t.same {
			t.home[k] = from.At[k].Index
		}
	}
	return t
}

// Same tells whether the target is the source's own panel.
func (t *Target) Same() bool { return t.same }

// findModulators notes for oscillators whose frequency another can modulate which one a route leads from; -1 for the neighbour.
func (t *Target) findModulators() {
	t.modulator, t.switched = map[int]int{}, map[int]bool{}
	for _, k := range t.ofKind[meaning.Osc] {
		id := t.Modules[k].ID
		t.switched[k] = len(t.Binds(meaning.Ref(id, meaning.POn))) > 0
		to := meaning.Ref(id, meaning.PFM)
		if len(t.Binds(to)) > 0 {
			t.modulator[k] = -1
		}
		for i := range t.Routes {
			if j, ok := t.ModuleIndex(t.Routes[i].From); ok && t.Modules[j].Kind == meaning.Osc && slices.Contains(t.Routes[i].To, to) {
				t.modulator[k] = j
			}
		}
	}
}

// modulatorOf gives the oscillator that modulates another, as meaning.Modulator does, where some play; -1 for none. One that does not play is not there if it can be switched off.
func (t *Target) modulatorOf(k int, playing []bool) int {
	by, able := t.modulator[k]
	if !able {
		return -1
	}
	if by >= 0 {
		return by
	}
	var list []int
	for _, j := range t.ofKind[meaning.Osc] {
		if playing[j] || !t.switched[j] {
			list = append(list, j)
		}
	}
	if at := meaning.Beside(slices.Index(list, k), len(list)); at >= 0 {
		return list[at]
	}
	return -1
}

// findDrives notes what the routes of the target can come from and move.
func (t *Target) findDrives() {
	note := func(from string, to []string) {
		if j, ok := t.ModuleIndex(from); ok {
			from = string(t.Modules[j].Kind)
		}
		if t.drives[from] == nil {
			t.drives[from] = map[string]bool{}
		}
		for _, ref := range to {
			id, param := meaning.Split(ref)
			if j, ok := t.ModuleIndex(id); ok {
				t.drives[from][driveKey(t.Modules[j].Kind, param)] = true
			}
		}
	}
	for i := range t.Routes {
		note(t.Routes[i].From, t.Routes[i].To)
	}
	if t.Matrix != nil {
		for _, id := range t.Matrix.Sources {
			for i := range t.Matrix.Destinations {
				note(id, t.Matrix.Destinations[i].To)
			}
		}
		for i := range t.Matrix.Slots {
			for k := range t.Matrix.Destinations {
				note(t.Matrix.Slots[i].Source, t.Matrix.Destinations[k].To)
			}
		}
	}
	for _, out := range t.Points {
		if out.Dir != "out" {
			continue
		}
		for _, in := range t.Points {
			if in.Dir == "in" {
				note(out.Of, in.To)
			}
		}
	}
}

// leastOfRoute gives the least share of its weight that a route can cost on this target, whoever plays its ends: all
// of it where nothing leads from such a source to such a parameter.
func (t *Target) leastOfRoute(src *meaning.Meaning, r *meaning.Route) float64 {
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

// Words lists the words that the controls of a slot have positions for.
func (t *Target) Words(ref string) map[string]bool {
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
