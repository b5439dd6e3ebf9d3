package panel

import (
	"errors"
	"fmt"
	"slices"
	"sort"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"

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
	choosing   []choosing
	wirings    []atomic.Pointer[Wiring]
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
	// wired is set where it follows from which way of the audio path is chosen
	wired bool
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
		if _, err := c.Dump.RequestBytes(); err != nil {
			l.Add("/dump/request", "%v", err)
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
				l.Add(path+"/fixed"+fault.Path(string(name)), "expected a parameter of %s (%s)", m.Kind, strings.Join(spec.Names(), ", "))
			} else if _, err := fixedValue(p, text); err != nil {
				l.Add(path+"/fixed"+fault.Path(string(name)), "%v", err)
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
	out, err := hexBytes(d.Header)
	if err == nil && len(out) == 0 {
		err = errors.New("expected at least the maker's byte, such as 7D (for private use)")
	}
	return out, err
}

// RequestBytes gives the message that asks for the dump, none where nothing does; the error says what is wrong with its text.
func (d *Dump) RequestBytes() ([]byte, error) { return hexBytes(d.Request) }

func hexBytes(text string) (out []byte, err error) {
	for _, word := range strings.Fields(text) {
		v, err := strconv.ParseUint(word, 16, 8)
		if err != nil || v > 127 || len(word) > 2 {
			return nil, fmt.Errorf("expected bytes from 00 to 7F in hexadecimal, got %q", word)
		}
		out = append(out, byte(v))
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
				l.Add(path+"/law/unit", "expected a unit of %s (%s) for %s, got %q", p.Dim, q.Symbols(p.Dim), b.Param, b.Law.Unit)
			}
			if id, name := meaning.Split(b.Param); name == meaning.PSync {
				for n, v := range b.Law.Values {
					if word, ok := v.(string); ok && !c.syncsTo(id, word) {
						l.Add(fmt.Sprintf("%s/law/values/%d", path, n), "%s, got %q", expectedSync, word)
					}
				}
			}
			if b.Part != "" && !p.Sums {
				l.Add(path+"/part", "expected none: %s is not a sum", b.Param)
			}
			c.binds[b.Param] = append(c.binds[b.Param], BindRef{i, j})
		}
	}
	for i := range c.Modules {
		if word, ok := c.Modules[i].Fixed[meaning.PSync]; ok && c.Modules[i].Kind == meaning.Osc && !c.syncsTo(c.Modules[i].ID, word) {
			l.Add(fmt.Sprintf("/modules/%d/fixed/sync", i), "%s, got %q", expectedSync, word)
		}
		for id, reading := range c.Modules[i].Quiet {
			path := fault.Path("modules", i, "quiet", id)
			k, ok := c.control[id]
			if !ok {
				l.Add(path, "expected the id of a control")
			} else if _, err := c.Controls[k].Face.Parse(reading); err != nil {
				l.Add(path, "%v", err)
			}
		}
	}
}

const expectedSync = "expected off, on or the id of another oscillator"

// syncsTo tells whether a word may say what an oscillator is synced to.
func (c *Compiled) syncsTo(slave, word string) bool {
	i, ok := c.module[word]
	return word == "off" || word == "on" || ok && word != slave && c.Modules[i].Kind == meaning.Osc
}

// workOut prepares what reading and setting look up.
func (c *Compiled) workOut() {
	c.places, c.tables = make([][]scale.Position, len(c.Controls)), make([]table, len(c.Controls))
	for i := range c.Controls {
		k := &c.Controls[i]
		c.places[i] = scale.Places(k.Face)
		c.expects, c.ids = append(c.expects, k.Face.Expects()), append(c.ids, k.ID)
	}
	c.findWirings()
	any := func([]When) bool { return true }
	beside := c.wiring(func(ws []When) bool { return len(ws) == 0 }, any).besides
	maybe := c.wiring(any, any).besides
	for i := range c.Modules {
		d := &c.Modules[i]
		var list []paramOf
		for _, p := range meaning.SpecOf(d.Kind).Params {
			x := paramOf{Param: p, binds: c.binds[meaning.Ref(d.ID, p.Name)]}
			if text, ok := d.Fixed[p.Name]; ok {
				if p.Name == meaning.PSync {
					text = c.syncWord(d.ID, text)
				}
				v, _ := fixedValue(p, text)
				x.fixed = &v
			} else if p.Name == meaning.PRouting && beside(i) {
				v := q.Named(q.DimName, "parallel")
				x.fixed = &v
			} else if p.Name == meaning.PRouting && len(x.binds) == 0 {
				x.wired = maybe(i)
			} else if p.Name == meaning.POutput && d.Kind == meaning.Operator && len(x.binds) == 0 {
				x.wired = slices.ContainsFunc(c.Audio, func(e Edge) bool { return e.From == d.ID })
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
