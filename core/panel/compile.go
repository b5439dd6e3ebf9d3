package panel

import (
	"fmt"
	"slices"
	"sort"
	"strconv"
	"strings"
	"sync"

	"glossator/core/fault"
	"glossator/core/meaning"
	"glossator/core/patch"
	q "glossator/core/quantity"
	"glossator/core/scale"
)

// Compiled is a panel that has been checked, with the look-ups that reading and setting need.
// It is not changed after Compile and may be shared.
type Compiled struct {
	*Panel
	control map[string]int
	module  map[string]int
	route   map[string]int
	slot    map[string]int
	dest    map[string]int
	point   map[string]int
	inits   []scale.Position
	places  [][]scale.Position // of each control's face
	tables  []table            // of each control
	params  [][]paramOf        // of each module, in the vocabulary's order
	binds   map[string][]BindRef
	whens   map[*When]cond
	chooses map[int]bool // controls that conditions depend on
	pivots  []q.Note
	depths  map[string]q.Quantity // fixed depths of routes, full depths of destinations and points
	Order   []int                 // controls in working order
	expects []string
	ids     []string
	// structural controls of each module; see Structural.
	structural [][]int
	decided    [][]int
	stepOf     map[string]meaning.Step
	sectionN   map[string]string
}

// BindRef points at one binding of one control.
type BindRef struct{ Control, Bind int }

// table has what is worked out of a control when it is first asked for.
type table struct {
	once  sync.Once
	laws  []*scale.Worked
	index map[string]int // reading to position
}

// paramOf is a parameter of a module as this panel has it.
type paramOf struct {
	meaning.Param
	binds []BindRef
	fixed *q.Quantity
}

type cond struct {
	control int
	in      map[int]bool
}

// Compile checks a panel and prepares it. The error is a fault.List that names each fault
// by its place.
func Compile(p *Panel) (*Compiled, error) {
	c := &Compiled{Panel: p, control: map[string]int{}, module: map[string]int{}, route: map[string]int{}, slot: map[string]int{},
		dest: map[string]int{}, point: map[string]int{}, binds: map[string][]BindRef{}, whens: map[*When]cond{}, chooses: map[int]bool{},
		depths: map[string]q.Quantity{}, stepOf: map[string]meaning.Step{}, sectionN: map[string]string{}}
	var l fault.List
	c.head(&l)
	c.names(&l)
	c.controls(&l)
	c.conditions(&l)
	c.bindings(&l)
	c.routing(&l)
	c.loops(&l)
	if err := l.Err(); err != nil {
		return nil, err
	}
	c.order()
	c.workOut()
	return c, nil
}

func (c *Compiled) head(l *fault.List) {
	if c.Format != Format {
		l.Add("/format", "expected %q, got %q", Format, c.Format)
	}
	if c.Version != Version {
		l.Add("/version", "expected version %d, got %d: this program reads no other", Version, c.Version)
	}
	if !patch.ValidID(c.ID) {
		l.Add("/id", "expected lower-case letters, figures and hyphens, at most 64, got %q", c.ID)
	}
	if strings.TrimSpace(c.Name) == "" {
		l.Add("/name", "expected a name")
	}
	if c.Kind != "instrument" && c.Kind != "rack" {
		l.Add("/kind", "expected instrument or rack, got %q", c.Kind)
	}
	if c.Dump != nil {
		if _, err := c.Dump.HeaderBytes(); err != nil {
			l.Add("/dump/header", "%v", err)
		}
		if c.Dump.Length < 1 || c.Dump.Length > 65536 {
			l.Add("/dump/length", "expected 1 to 65536 bytes, got %d", c.Dump.Length)
		}
	}
}

// names fills the look-ups and finds ids that are missing or used twice.
func (c *Compiled) names(l *fault.List) {
	taken := map[string]string{}
	claim := func(path, id string, index map[string]int, i int) {
		if strings.TrimSpace(id) == "" {
			l.Add(path, "expected an id")
			return
		}
		if other, dup := taken[id]; dup {
			l.Add(path, "expected an id that nothing else has: %q is also at %s", id, other)
			return
		}
		taken[id], index[id] = path, i
	}
	for i, s := range c.Sections {
		path := fmt.Sprintf("/sections/%d", i)
		if _, dup := c.stepOf[s.ID]; dup || s.ID == "" {
			l.Add(path+"/id", "expected an id that no other section has, got %q", s.ID)
		}
		c.stepOf[s.ID], c.sectionN[s.ID] = s.Step, s.Label
		if stepIndex(s.Step) < 0 {
			l.Add(path+"/step", "expected a step of the work, got %q", s.Step)
		}
	}
	for i, m := range c.Modules {
		path := fmt.Sprintf("/modules/%d", i)
		claim(path+"/id", m.ID, c.module, i)
		if strings.Contains(m.ID, ".") {
			l.Add(path+"/id", "expected no full stop in a module's id, got %q", m.ID)
		}
		if meaning.IsSource(m.ID) || m.ID == "out" {
			l.Add(path+"/id", "expected another id: %q is a source of play", m.ID)
		}
		pivot := middleC
		if m.Pivot != "" {
			e, err := q.Parse(m.Pivot)
			if err != nil || e.Form != q.FormNote {
				l.Add(path+"/pivot", "expected a note such as C4, got %q", m.Pivot)
			} else {
				pivot = q.Frequency(e.Value).Note()
			}
		}
		c.pivots = append(c.pivots, pivot)
		spec := meaning.SpecOf(m.Kind)
		if spec == nil || spec.Kind == meaning.RouteKind {
			l.Add(path+"/kind", "expected a kind of module, got %q", m.Kind)
			continue
		}
		for name, text := range m.Fixed {
			p, ok := spec.Param(name)
			if !ok {
				l.Add(path+"/fixed/"+pointer(string(name)), "expected a parameter of %s (%s)", m.Kind, strings.Join(spec.Names(), ", "))
			} else if _, err := fixedValue(p, text); err != nil {
				l.Add(path+"/fixed/"+pointer(string(name)), "%v", err)
			}
		}
	}
	for i, r := range c.Routes {
		claim(fmt.Sprintf("/routes/%d/id", i), r.ID, c.route, i)
	}
	if c.Matrix != nil {
		for i, s := range c.Matrix.Slots {
			claim(fmt.Sprintf("/matrix/slots/%d/id", i), s.ID, c.slot, i)
		}
		for i, d := range c.Matrix.Destinations {
			if _, dup := c.dest[d.Name]; dup || d.Name == "" || d.Name == "none" {
				l.Add(fmt.Sprintf("/matrix/destinations/%d/name", i), "expected a name that no other destination has, got %q", d.Name)
			}
			c.dest[d.Name] = i
		}
	}
	for i, p := range c.Points {
		if _, dup := c.point[p.ID]; dup || p.ID == "" {
			l.Add(fmt.Sprintf("/points/%d/id", i), "expected an id that no other point has, got %q", p.ID)
		}
		c.point[p.ID] = i
	}
}

const middleC = q.MiddleC

// maxPlaces is the most positions, times the laws on them, that a panel may have: they are
// all worked out when it is loaded.
const maxPlaces = 400000

func fixedValue(p meaning.Param, text string) (q.Quantity, error) {
	if p.Name == meaning.PTable {
		_, err := q.ParseTable(text)
		return q.Named(p.Dim, text), err
	}
	if p.Dim.Named() {
		if p.Dim == q.DimWave {
			if _, _, err := q.ParseDrawn(text); err != nil {
				return q.Quantity{}, err
			}
		}
		return q.Named(p.Dim, text), nil
	}
	e, err := q.Parse(text)
	if err != nil {
		return q.Quantity{}, err
	}
	switch {
	case e.Form == q.FormOff:
		return q.OffOf(p.Dim), nil
	case e.Form == q.FormNumber:
		return q.Quantity{Dim: p.Dim, Value: e.Value}, nil
	}
	v, err := e.Quantity()
	if err == nil && v.Dim != p.Dim {
		err = q.Mismatch{Want: p.Dim, Got: v.Dim}
	}
	v.Tol = 0
	return v, err
}

func (c *Compiled) controls(l *fault.List) {
	midi := map[string]string{}
	c.inits = make([]scale.Position, len(c.Controls))
	places := 0
	for i := range c.Controls {
		k := &c.Controls[i]
		path := fmt.Sprintf("/controls/%d", i)
		if _, dup := c.control[k.ID]; dup || strings.TrimSpace(k.ID) == "" {
			l.Add(path+"/id", "expected an id that no other control has, got %q", k.ID)
		}
		c.control[k.ID] = i
		if strings.TrimSpace(k.Label) == "" {
			l.Add(path+"/label", "expected a label")
		}
		if _, ok := c.stepOf[k.Section]; !ok {
			l.Add(path+"/section", "expected the id of a section, got %q", k.Section)
		}
		faults := k.Face.Check()
		l.Under(path+"/face", faults)
		if len(faults) > 0 {
			continue
		}
		if places += k.Face.Len() * (1 + len(k.Means)); places > maxPlaces {
			l.Add(path+"/face", "expected at most %d positions over all controls of a panel and their laws", maxPlaces)
			return
		}
		k.Face = k.Face.Ready()
		pos, err := k.Face.Parse(k.Init)
		if err != nil {
			l.Add(path+"/init", "%v", err)
		}
		c.inits[i] = pos
		for j := range k.Means {
			l.Under(fmt.Sprintf("%s/means/%d/law", path, j), k.Means[j].Law.Check(k.Face))
		}
		if k.MIDI != nil {
			for kind, n := range map[string]*int{"cc": k.MIDI.CC, "nrpn": k.MIDI.NRPN, "byte": k.MIDI.Byte} {
				if n == nil {
					continue
				}
				key := fmt.Sprintf("%s %d", kind, *n)
				if other, dup := midi[key]; dup {
					l.Add(path+"/midi/"+kind, "expected an address of its own: %s is also at %s", key, other)
				}
				midi[key] = path
			}
			l.Under(path+"/midi", c.checkMIDI(k))
		}
	}
}

// checkMIDI finds addresses that cannot be sent.
func (c *Compiled) checkMIDI(k *Control) fault.List {
	var l fault.List
	m, n := k.MIDI, k.Face.Len()
	for name, at := range map[string]struct {
		at  *int
		top int
	}{"/cc": {m.CC, 127}, "/nrpn": {m.NRPN, 16383}, "/byte": {m.Byte, 65535}} {
		if at.at != nil && (*at.at < 0 || *at.at > at.top) {
			l.Add(name, "expected 0 to %d, got %d", at.top, *at.at)
		}
	}
	if m.Values != "" && m.Values != "full" && m.Values != "index" {
		l.Add("/values", "expected full or index, got %q", m.Values)
	}
	if m.CC != nil && m.Values == "index" && n > 128 {
		l.Add("/values", "expected full: a CC carries 128 numbers, the control has %d positions", n)
	}
	if m.Byte == nil {
		return l
	}
	wide := 1
	if n > 128 {
		wide = 2
	}
	switch {
	case c.Dump == nil:
		l.Add("/byte", "expected the panel to describe its dump (header and length)")
	case *m.Byte+wide > c.Dump.Length:
		l.Add("/byte", "expected a place within the %d bytes of the dump, got %d", c.Dump.Length, *m.Byte)
	}
	return l
}

// HeaderBytes gives the dump's header; the error says what is wrong with its text.
func (d *Dump) HeaderBytes() ([]byte, error) {
	var out []byte
	for _, word := range strings.Fields(d.Header) {
		v, err := strconv.ParseUint(word, 16, 8)
		if err != nil || v > 127 || len(word) > 2 {
			return nil, fmt.Errorf("expected bytes from 00 to 7F in hexadecimal, got %q", word)
		}
		out = append(out, byte(v))
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("expected at least the maker's byte, such as 7D (for private use)")
	}
	return out, nil
}

// eachWhen visits every condition of the panel with its path.
func (c *Compiled) eachWhen(visit func(path string, w *When)) {
	list := func(path string, ws []When) {
		for i := range ws {
			visit(fmt.Sprintf("%s/when/%d", path, i), &ws[i])
		}
	}
	for i := range c.Modules {
		list(fmt.Sprintf("/modules/%d", i), c.Modules[i].When)
	}
	for i := range c.Controls {
		for j := range c.Controls[i].Means {
			list(fmt.Sprintf("/controls/%d/means/%d", i, j), c.Controls[i].Means[j].When)
		}
	}
	for i := range c.Routes {
		list(fmt.Sprintf("/routes/%d", i), c.Routes[i].When)
	}
	for i := range c.Audio {
		list(fmt.Sprintf("/audio/%d", i), c.Audio[i].When)
	}
	if c.Matrix != nil {
		for i := range c.Matrix.Slots {
			list(fmt.Sprintf("/matrix/slots/%d", i), c.Matrix.Slots[i].When)
		}
	}
}

func (c *Compiled) conditions(l *fault.List) {
	c.eachWhen(func(path string, w *When) {
		i, ok := c.control[w.Control]
		if !ok {
			l.Add(path+"/control", "expected the id of a control, got %q", w.Control)
			return
		}
		f := c.Controls[i].Face
		if !f.Discrete() {
			l.Add(path+"/control", "expected a control with named positions, got %q", w.Control)
			return
		}
		in := map[int]bool{}
		for j, text := range w.In {
			pos, err := f.Parse(text)
			if err != nil {
				l.Add(fmt.Sprintf("%s/in/%d", path, j), "%v", err)
				continue
			}
			in[pos.Index] = true
		}
		if len(w.In) == 0 {
			l.Add(path+"/in", "expected at least one reading")
		}
		c.whens[w] = cond{control: i, in: in}
		c.chooses[i] = true
	})
}

func (c *Compiled) bindings(l *fault.List) {
	for i := range c.Controls {
		for j := range c.Controls[i].Means {
			b := &c.Controls[i].Means[j]
			path := fmt.Sprintf("/controls/%d/means/%d", i, j)
			p, err := c.Param(b.Param)
			if err != nil {
				l.Add(path+"/param", "%v", err)
				continue
			}
			d := b.Law.Dim()
			viaTempo := d == q.DimBeats && (p.Dim == q.DimFrequency || p.Dim == q.DimDuration)
			if d != p.Dim && !viaTempo && d != "" {
				l.Add(path+"/law/unit", "expected a unit of %s for %s, got %q", p.Dim, b.Param, b.Law.Unit)
			}
			if b.Part != "" && !p.Sums {
				l.Add(path+"/part", "expected none: %s is not a sum", b.Param)
			}
			c.binds[b.Param] = append(c.binds[b.Param], BindRef{i, j})
		}
	}
	for i := range c.Modules {
		for id, reading := range c.Modules[i].Quiet {
			path := fmt.Sprintf("/modules/%d/quiet/%s", i, pointer(id))
			k, ok := c.control[id]
			if !ok {
				l.Add(path, "expected the id of a control")
			} else if _, err := c.Controls[k].Face.Parse(reading); err != nil {
				l.Add(path, "%v", err)
			}
		}
	}
}

// Param gives the vocabulary's entry for a parameter of this panel.
func (c *Compiled) Param(ref string) (meaning.Param, error) {
	owner, name := meaning.Split(ref)
	if i, ok := c.module[owner]; ok {
		spec := meaning.SpecOf(c.Modules[i].Kind)
		if spec == nil {
			return meaning.Param{}, fmt.Errorf("module %q has no kind", owner)
		}
		if p, ok := spec.Param(name); ok {
			return p, nil
		}
		return meaning.Param{}, fmt.Errorf("expected a parameter of %s (%s), got %q", spec.Kind, strings.Join(spec.Names(), ", "), name)
	}
	spec := meaning.SpecOf(meaning.RouteKind)
	if i, ok := c.route[owner]; ok && (name == meaning.PDepth || name == meaning.POn || name == meaning.PCurve || name == meaning.PPolarity) {
		if name == meaning.PDepth && len(c.Routes[i].To) > 0 {
			return c.depthParam(c.Routes[i].To[0])
		}
		p, _ := spec.Param(name)
		return p, nil
	}
	if _, ok := c.slot[owner]; ok && (name == meaning.PSource || name == meaning.PDest || name == meaning.PAmount || name == meaning.PScaler || name == meaning.POn || name == meaning.PPolarity || name == meaning.PCurve) {
		p, _ := spec.Param(name)
		return p, nil
	}
	return meaning.Param{}, fmt.Errorf("expected MODULE.PARAMETER, ROUTE.depth, ROUTE.on or SLOT.source, dest, amount, got %q", ref)
}

func (c *Compiled) depthParam(dest string) (meaning.Param, error) {
	p, err := c.Param(dest)
	if err != nil {
		return meaning.Param{}, err
	}
	return meaning.DepthParam(p.Dim), nil
}

func (c *Compiled) knownSource(from string) bool {
	_, ok := c.module[from]
	return ok || meaning.IsSource(from)
}

func (c *Compiled) routing(l *fault.List) {
	ends := func(path string, to []string) bool {
		ok := true
		for i, d := range to {
			if _, err := c.Param(d); err != nil {
				l.Add(fmt.Sprintf("%s/%d", path, i), "%v", err)
				ok = false
			}
		}
		if len(to) == 0 {
			l.Add(path, "expected at least one destination")
		}
		return ok && len(to) > 0
	}
	depth := func(path, key, text, dest string) {
		p, err := c.depthParam(dest)
		if err != nil {
			return
		}
		v, err := fixedValue(p, text)
		if err != nil {
			l.Add(path, "expected a depth in %s such as %q: %v", p.Dim, "50 %", err)
			return
		}
		c.depths[key] = v
	}
	for i := range c.Routes {
		r := &c.Routes[i]
		path := fmt.Sprintf("/routes/%d", i)
		if !c.knownSource(r.From) {
			l.Add(path+"/from", "expected a module or a source of play, got %q", r.From)
		}
		if r.Via != "" && !c.knownSource(r.Via) {
			l.Add(path+"/via", "expected a module or a source of play, got %q", r.Via)
		}
		if ends(path+"/to", r.To) {
			bound := len(c.binds[meaning.Ref(r.ID, meaning.PDepth)]) > 0
			switch {
			case r.Depth == "" && !bound:
				l.Add(path+"/depth", "expected a fixed depth, or a control bound to %s.depth", r.ID)
			case r.Depth != "":
				depth(path+"/depth", r.ID, r.Depth, r.To[0])
			}
		}
		if r.Normal != "" {
			if _, ok := c.point[r.Normal]; !ok {
				l.Add(path+"/normal", "expected the id of a patch point, got %q", r.Normal)
			}
		}
	}
	if m := c.Matrix; m != nil {
		for name, from := range m.Sources {
			if !c.knownSource(from) {
				l.Add("/matrix/sources/"+pointer(name), "expected a module or a source of play, got %q", from)
			}
		}
		for i, d := range m.Destinations {
			path := fmt.Sprintf("/matrix/destinations/%d", i)
			if ends(path+"/to", d.To) {
				depth(path+"/full", "dest:"+d.Name, d.Full, d.To[0])
			}
		}
		for i, s := range m.Slots {
			path := fmt.Sprintf("/matrix/slots/%d", i)
			if s.Source != "" && !c.knownSource(s.Source) {
				l.Add(path+"/source", "expected a module or a source of play, got %q", s.Source)
			}
			if s.Via != "" && !c.knownSource(s.Via) {
				l.Add(path+"/via", "expected a module or a source of play, got %q", s.Via)
			}
			if _, ok := c.dest[s.Dest]; s.Dest != "" && !ok {
				l.Add(path+"/dest", "expected the name of a destination, got %q", s.Dest)
			}
		}
	}
	for i, p := range c.Points {
		path := fmt.Sprintf("/points/%d", i)
		switch {
		case p.Dir == "out":
			if !c.knownSource(p.Of) {
				l.Add(path+"/of", "expected a module or a source of play, got %q", p.Of)
			}
		case p.Dir == "in":
			if len(p.To) == 1 && strings.HasSuffix(p.To[0], ".in") {
				if id, _ := meaning.Split(p.To[0]); !c.isAttenuator(id) {
					l.Add(path+"/to/0", "expected an attenuator before .in, got %q", p.To[0])
				}
			} else if ends(path+"/to", p.To) {
				depth(path+"/full", "point:"+p.ID, p.Full, p.To[0])
			}
		default:
			l.Add(path+"/dir", "expected in or out, got %q", p.Dir)
		}
	}
	for i, e := range c.Audio {
		path := fmt.Sprintf("/audio/%d", i)
		if _, ok := c.module[e.From]; !ok {
			l.Add(path+"/from", "expected the id of a module, got %q", e.From)
		}
		if _, ok := c.module[e.To]; !ok && e.To != "out" {
			l.Add(path+"/to", "expected the id of a module or out, got %q", e.To)
		}
	}
}

func (c *Compiled) isAttenuator(id string) bool {
	i, ok := c.module[id]
	return ok && c.Modules[i].Kind == meaning.Atten
}

// loops finds audio paths that return to themselves other than through a feedback path.
func (c *Compiled) loops(l *fault.List) {
	next := map[string][]int{}
	for i, e := range c.Audio {
		if m, ok := c.module[e.To]; ok && c.Modules[m].Kind == meaning.Feedback {
			continue
		}
		next[e.From] = append(next[e.From], i)
	}
	state := map[string]int{}
	var walk func(id string)
	walk = func(id string) {
		state[id] = 1
		for _, i := range next[id] {
			switch to := c.Audio[i].To; state[to] {
			case 0:
				walk(to)
			case 1:
				l.Add(fmt.Sprintf("/audio/%d", i), "expected no way back: %s to %s closes a loop without a feedback module", id, to)
			}
		}
		state[id] = 2
	}
	for _, m := range c.Modules {
		if state[m.ID] == 0 {
			walk(m.ID)
		}
	}
}

// workOut prepares what reading and setting look up.
func (c *Compiled) workOut() {
	c.places, c.tables = make([][]scale.Position, len(c.Controls)), make([]table, len(c.Controls))
	for i := range c.Controls {
		k := &c.Controls[i]
		c.places[i] = scale.Places(k.Face)
		c.expects, c.ids = append(c.expects, k.Face.Expects()), append(c.ids, k.ID)
	}
	for i := range c.Modules {
		d := &c.Modules[i]
		var list []paramOf
		for _, p := range meaning.SpecOf(d.Kind).Params {
			x := paramOf{Param: p, binds: c.binds[meaning.Ref(d.ID, p.Name)]}
			if text, ok := d.Fixed[p.Name]; ok {
				v, _ := fixedValue(p, text)
				x.fixed = &v
			}
			list = append(list, x)
		}
		c.params = append(c.params, list)
		c.structural = append(c.structural, c.findStructural(i))
		c.decided = append(c.decided, c.findDecided(i))
	}
}

func stepIndex(s meaning.Step) int {
	for i, t := range meaning.Steps {
		if t.Step == s {
			return i
		}
	}
	return -1
}

func (c *Compiled) order() {
	c.Order = make([]int, len(c.Controls))
	section := map[string]int{}
	for i, s := range c.Sections {
		section[s.ID] = i
	}
	for i := range c.Order {
		c.Order[i] = i
	}
	sort.SliceStable(c.Order, func(a, b int) bool {
		x, y := c.Controls[c.Order[a]].Section, c.Controls[c.Order[b]].Section
		if s, t := stepIndex(c.stepOf[x]), stepIndex(c.stepOf[y]); s != t {
			return s < t
		}
		return section[x] < section[y]
	})
}

// pointer escapes a name for a JSON Pointer (RFC 6901).
func pointer(name string) string {
	return strings.ReplaceAll(strings.ReplaceAll(name, "~", "~0"), "/", "~1")
}

// ControlIndex finds a control by its id.
func (c *Compiled) ControlIndex(id string) (int, bool) { i, ok := c.control[id]; return i, ok }

// ModuleIndex finds a module by its id.
func (c *Compiled) ModuleIndex(id string) (int, bool) { i, ok := c.module[id]; return i, ok }

// RouteIndex finds a wired or switched route by its id.
func (c *Compiled) RouteIndex(id string) (int, bool) { i, ok := c.route[id]; return i, ok }

// Binds lists the bindings of a parameter, in panel order.
func (c *Compiled) Binds(ref string) []BindRef { return c.binds[ref] }

// Bind gives a binding.
func (c *Compiled) Bind(r BindRef) *Bind { return &c.Controls[r.Control].Means[r.Bind] }

// Parse reads a text as a control shows it.
func (c *Compiled) Parse(control int, text string) (scale.Position, error) {
	if i, ok := c.table(control).index[text]; ok {
		return c.places[control][i], nil
	}
	return c.Controls[control].Face.Parse(text)
}

// ParamBinds lists the bindings of a module's n-th parameter in the vocabulary's order.
func (c *Compiled) ParamBinds(module, n int) []BindRef { return c.params[module][n].binds }

// Structural lists the controls of a module that have to be tried in every position: those
// that its bindings depend on, and lists that set several parameters or a wave.
func (c *Compiled) Structural(module int) []int { return c.structural[module] }

func (c *Compiled) findStructural(module int) []int {
	count := map[int]int{}
	structural := map[int]bool{}
	for _, p := range c.params[module] {
		for _, ref := range p.binds {
			count[ref.Control]++
			b := c.Bind(ref)
			for i := range b.When {
				structural[c.whens[&b.When[i]].control] = true
			}
			if c.Controls[ref.Control].Face.Discrete() && (count[ref.Control] > 1 || p.Dim == q.DimWave) {
				structural[ref.Control] = true
			}
		}
	}
	out := make([]int, 0, len(structural))
	for k := range structural {
		out = append(out, k)
	}
	sort.Ints(out)
	return out
}

// Decided lists the module's parameters, by their place in the vocabulary, that the structural
// controls alone decide.
func (c *Compiled) Decided(module int) []int { return c.decided[module] }

func (c *Compiled) findDecided(module int) []int {
	var out []int
	for n, p := range c.params[module] {
		all := len(p.binds) > 0
		for _, ref := range p.binds {
			_, in := slices.BinarySearch(c.structural[module], ref.Control)
			all = all && in
		}
		if all {
			out = append(out, n)
		}
	}
	return out
}

// Expects says in words what a control takes.
func (c *Compiled) Expects(control int) string { return c.expects[control] }

// Scale gives the worked-out scale of a binding.
func (c *Compiled) Scale(r BindRef) *scale.Worked { return c.table(r.Control).laws[r.Bind] }

// table works a control's scales out, once; it may be called from several goroutines.
func (c *Compiled) table(control int) *table {
	t := &c.tables[control]
	t.once.Do(func() {
		k := &c.Controls[control]
		for j := range k.Means {
			t.laws = append(t.laws, scale.WorkOutAt(c.places[control], k.Means[j].Law))
		}
		t.index = make(map[string]int, len(c.places[control]))
		for n, p := range c.places[control] {
			t.index[p.Reading] = n
		}
	})
	return t
}

// Places lists the positions of a control's face.
func (c *Compiled) Places(control int) []scale.Position { return c.places[control] }

// Init gives the position of a control at init.
func (c *Compiled) Init(i int) scale.Position { return c.inits[i] }

// AtInit tells whether a position of a control is what init holds. A text has no travel: its
// words count.
func (c *Compiled) AtInit(control int, at scale.Position) bool {
	init := c.inits[control]
	if c.Controls[control].Face.Kind == scale.Text {
		return at.Reading == init.Reading
	}
	return at.Index == init.Index && at.Travel == init.Travel
}

// OnlyWritten tells whether a control is only written down: it sets no parameter, and nothing
// depends on where it stands.
func (c *Compiled) OnlyWritten(control int) bool {
	return len(c.Controls[control].Means) == 0 && !c.chooses[control]
}

// StepOf gives the stage of the work of a control.
func (c *Compiled) StepOf(i int) meaning.Step { return c.stepOf[c.Controls[i].Section] }

// SectionLabel gives the label of a control's section.
func (c *Compiled) SectionLabel(i int) string { return c.sectionN[c.Controls[i].Section] }

// Cond gives a condition's control and the positions at which it holds.
func (c *Compiled) Cond(w *When) (control int, in map[int]bool) {
	k := c.whens[w]
	return k.control, k.in
}

// Full gives the depth of a destination of the matrix at an amount of 100 %.
func (c *Compiled) Full(dest string) q.Quantity { return c.depths["dest:"+dest] }

// PointDepth gives the depth of an input point at full signal.
func (c *Compiled) PointDepth(point string) q.Quantity { return c.depths["point:"+point] }

// Pivot gives the note at which a module's frequency is as printed.
func (c *Compiled) Pivot(module int) q.Note { return c.pivots[module] }
