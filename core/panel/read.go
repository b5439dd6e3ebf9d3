package panel

import (
	"fmt"
	"math"
	"strings"

	"glossator/core/fault"
	"glossator/core/meaning"
	"glossator/core/patch"
	q "glossator/core/quantity"
	"glossator/core/scale"
)

// DefaultTempo is taken where a patch gives no tempo (MIDI 1.0's default of 120).
const DefaultTempo q.Tempo = 120

// State is where every control of a panel stands.
type State struct {
	// At has the position of each control, by its index.
	At []scale.Position
	// Given tells which controls the patch names.
	Given  []bool
	Cables []patch.Cable
}

// InitState gives the panel as init leaves it.
func (c *Compiled) InitState() *State {
	s := &State{At: make([]scale.Position, len(c.inits)), Given: make([]bool, len(c.inits))}
	copy(s.At, c.inits)
	return s
}

// Read gives the state that a layer's readings describe. The error is a fault.List.
func (c *Compiled) Read(layer *patch.Layer, path string) (*State, error) {
	s := c.InitState()
	var l fault.List
	for i := range c.Controls {
		text, ok := layer.Readings[c.Controls[i].ID]
		if !ok {
			continue
		}
		pos, err := c.Parse(i, text)
		if err != nil {
			l.Add(path+"/readings"+fault.Path(c.Controls[i].ID), "%v", err)
			continue
		}
		s.At[i], s.Given[i] = pos, true
	}
	for id := range layer.Readings {
		if _, ok := c.control[id]; !ok {
			l.Add(path+"/readings"+fault.Path(id), "expected a control of %s: it has none with this id", c.Name)
		}
	}
	for i, id := range layer.Taste {
		if _, ok := c.control[id]; !ok {
			l.Add(fmt.Sprintf("%s/taste/%d", path, i), "expected a control of %s, got %q", c.Name, id)
		}
	}
	s.Cables = layer.Cables
	for i, k := range layer.Cables {
		at := fmt.Sprintf("%s/cables/%d", path, i)
		if n, ok := c.point[k.From]; !ok || c.Points[n].Dir != "out" {
			l.Add(at+"/from", "expected an output point of %s, got %q", c.Name, k.From)
		}
		if n, ok := c.point[k.To]; !ok || c.Points[n].Dir != "in" {
			l.Add(at+"/to", "expected an input point of %s, got %q", c.Name, k.To)
		}
		for j := range i {
			if layer.Cables[j].To == k.To {
				l.Add(at+"/to", "expected one cable an input: %q already has one; an output may go to several inputs, two signals are brought together by an attenuator or a mixer", k.To)
			}
		}
	}
	if len(l) == 0 {
		c.cableLoops(s, path, &l)
	}
	if err := l.Err(); err != nil {
		return nil, err
	}
	return s, nil
}

// cableLoops finds cables that lead an attenuator back to itself.
func (c *Compiled) cableLoops(s *State, path string, l *fault.List) {
	for i, k := range s.Cables {
		seen := map[string]bool{}
		at := k
		for {
			of := c.Points[c.point[at.From]].Of
			if !c.isAttenuator(of) {
				break
			}
			if seen[of] {
				l.Add(fmt.Sprintf("%s/cables/%d", path, i), "expected no way back: the cables lead %s to itself", of)
				break
			}
			seen[of] = true
			in, ok := c.cableInto(s, of)
			if !ok {
				break
			}
			at = in
		}
	}
}

// cableInto finds the cable into an attenuator.
func (c *Compiled) cableInto(s *State, atten string) (patch.Cable, bool) {
	for _, k := range s.Cables {
		to := c.Points[c.point[k.To]].To
		if len(to) == 1 && to[0] == meaning.Ref(atten, meaning.PIn) {
			return k, true
		}
	}
	return patch.Cable{}, false
}

// Holds tells whether all conditions hold in a state.
func (c *Compiled) Holds(ws []When, s *State) bool {
	for i := range ws {
		k := c.whens[&ws[i]]
		if !k.in[s.At[k.control].Index] {
			return false
		}
	}
	return true
}

// Interpret reads a state into its meaning. tempo may be 0 for the default.
func (c *Compiled) Interpret(s *State, tempo q.Tempo) *meaning.Meaning {
	if tempo <= 0 {
		tempo = DefaultTempo
	}
	m := &meaning.Meaning{Tempo: tempo}
	for i := range c.Modules {
		m.Modules = append(m.Modules, c.readModule(i, s, tempo))
	}
	for i := range c.Routes {
		m.Routes = append(m.Routes, c.readRoute(&c.Routes[i], s, tempo))
	}
	if c.Matrix != nil {
		for i := range c.Matrix.Slots {
			m.Routes = append(m.Routes, c.readSlot(&c.Matrix.Slots[i], s, tempo))
		}
	}
	for _, k := range s.Cables {
		if r, ok := c.readCable(k, s, tempo); ok {
			m.Routes = append(m.Routes, r)
		}
	}
	for _, e := range c.Audio {
		if c.Holds(e.When, s) {
			m.Audio = append(m.Audio, meaning.Edge{From: e.From, To: e.To})
		}
	}
	m.MarkIdle(func(point string) string {
		if i, ok := c.point[point]; ok {
			return c.Points[i].Of
		}
		return ""
	})
	return m
}

// Module reads one module in a state, without asking whether anything hears it.
func (c *Compiled) Module(i int, s *State, tempo q.Tempo) meaning.Module {
	return c.readModule(i, s, tempo)
}

// ModuleInto is Module into a module that was read before, whose map is used again.
func (c *Compiled) ModuleInto(m *meaning.Module, i int, s *State, tempo q.Tempo) {
	clear(m.Params)
	c.readInto(m, i, s, tempo)
}

// value reads one parameter: the sum of its active bindings; ok is false where none is.
func (c *Compiled) value(ref string, s *State, tempo q.Tempo, p meaning.Param) (meaning.Value, bool) {
	return c.sum(c.binds[ref], s, tempo, &p)
}

func (c *Compiled) sum(binds []BindRef, s *State, tempo q.Tempo, p *meaning.Param) (out meaning.Value, found bool) {
	for _, b := range binds {
		bind := c.Bind(b)
		if !c.Holds(bind.When, s) {
			continue
		}
		v, set := c.Scale(b).Quantity(s.At[b.Control])
		if !set {
			continue
		}
		v, beats := Adapt(v, p.Dim, tempo)
		if beats > 0 {
			out.Beats = beats
		}
		if out.From == nil {
			out.From = c.ids[b.Control : b.Control+1 : b.Control+1]
		} else {
			out.From = append(out.From, c.Controls[b.Control].ID)
		}
		if bind.Part != "" {
			if out.Parts == nil {
				out.Parts = make(map[string]q.Quantity, len(binds))
			}
			out.Parts[bind.Part] = v
		}
		if !found || !p.Sums {
			out.Quantity = v
		} else {
			out.Value += v.Value
			out.Quantity = out.WithTol(v.Tol)
		}
		found = true
	}
	return out, found
}

// Adapt turns a note value into the dimension wanted, by the tempo; other quantities are
// given back as they are. beats is the note value, or 0.
func Adapt(v q.Quantity, want q.Dim, tempo q.Tempo) (out q.Quantity, beats float64) {
	if v.Dim != q.DimBeats || v.Off {
		if v.Off {
			v.Dim = want
		}
		return v, 0
	}
	beats = v.Value
	d := q.Beats(v.Value).At(tempo)
	switch want {
	case q.DimFrequency:
		return q.Quantity{Dim: want, Value: float64(d.Rate()), Tol: v.Tol}, beats
	case q.DimDuration:
		return q.Quantity{Dim: want, Value: float64(d), Tol: v.Tol}, beats
	}
	return v, beats
}

func (c *Compiled) readModule(i int, s *State, tempo q.Tempo) meaning.Module {
	m := meaning.Module{Params: make(map[meaning.ParamName]meaning.Value, len(c.params[i]))}
	c.readInto(&m, i, s, tempo)
	return m
}

func (c *Compiled) readInto(m *meaning.Module, i int, s *State, tempo q.Tempo) {
	d := &c.Modules[i]
	m.ID, m.Kind, m.Label, m.Idle, m.Absent = d.ID, d.Kind, d.Label, "", false
	if !c.Holds(d.When, s) {
		m.Idle, m.Absent = "not there: "+c.whenText(d.When, s), true
	}
	for n := range c.params[i] {
		p := &c.params[i][n]
		if v, ok := c.sum(p.binds, s, tempo, &p.Param); ok {
			m.Params[p.Name] = v
		} else if p.fixed != nil {
			m.Params[p.Name] = meaning.Value{Quantity: *p.fixed}
		} else if p.wired {
			if v, ok := c.byWiring(i, p.Name, s); ok {
				m.Params[p.Name] = meaning.Value{Quantity: v}
			}
		}
	}
	if cut, ok := m.Params[meaning.PCutoff]; ok && !cut.Off {
		track, _ := m.Get(meaning.PTrack)
		cut.Value *= AtMiddleC(track.Value, c.pivots[i])
		// the tracking's own uncertainty moves the cutoff too, the more so the further the pivot
		cut.Quantity = cut.WithTol(track.Tol * math.Abs(float64(q.MiddleC-c.pivots[i])) / 12 * math.Ln2)
		m.Params[meaning.PCutoff] = cut
	}
}

// AtMiddleC gives the factor from a printed cutoff, true at the pivot, to the cutoff at
// middle C with a tracking of the share given (1 is an octave per octave).
//
//	2^(track (60 - pivot)/12)
func AtMiddleC(track float64, pivot q.Note) float64 {
	return math.Exp2(track * float64(q.MiddleC-pivot) / 12)
}

// whenText says which condition does not hold.
func (c *Compiled) whenText(ws []When, s *State) string {
	for i := range ws {
		k := c.whens[&ws[i]]
		if !k.in[s.At[k.control].Index] {
			return fmt.Sprintf("%s is at %s", c.Controls[k.control].Label, s.At[k.control].Reading)
		}
	}
	return ""
}

// swing gives the polarity that a source has by nature: envelopes, velocity and the wheel
// move one way, LFOs, the key and the bender both.
func (c *Compiled) swing(from string) string {
	if i, ok := c.module[from]; ok && c.Modules[i].Kind == meaning.Env {
		return "unipolar"
	}
	switch from {
	case "gate", "velocity", "release velocity", "wheel", "aftertouch", "pedal", "breath":
		return "unipolar"
	}
	return "bipolar"
}

func orDefault(s, d string) string {
	if s == "" {
		return d
	}
	return s
}

func (c *Compiled) readRoute(r *Route, s *State, tempo q.Tempo) meaning.Route {
	out := meaning.Route{ID: r.ID, Label: r.Label, From: r.From, To: r.To, Polarity: orDefault(r.Polarity, c.swing(r.From)), Via: r.Via, Curve: r.Curve}
	p, _ := c.depthParam(r.To[0])
	if v, ok := c.value(meaning.Ref(r.ID, meaning.PDepth), s, tempo, p); ok {
		out.Depth = v
	} else {
		out.Depth = meaning.Value{Quantity: c.depths[r.ID]}
	}
	onParam, _ := meaning.SpecOf(meaning.RouteKind).Param(meaning.POn)
	if v, ok := c.value(meaning.Ref(r.ID, meaning.POn), s, tempo, onParam); ok {
		out.On = &v
		if v.Name == "off" {
			out.Idle = "switched off"
		}
	}
	if !c.Holds(r.When, s) {
		out.Idle = "not there: " + c.whenText(r.When, s)
	}
	if r.Normal != "" {
		for _, k := range s.Cables {
			if k.To == r.Normal {
				out.Idle = "broken by the cable into " + c.Points[c.point[r.Normal]].Label
			}
		}
	}
	return out
}

func (c *Compiled) readSlot(slot *Slot, s *State, tempo q.Tempo) meaning.Route {
	out := meaning.Route{ID: slot.ID, Label: slot.Label, From: slot.Source, Via: slot.Via, Extra: map[meaning.ParamName]meaning.Value{}}
	spec := meaning.SpecOf(meaning.RouteKind)
	dest := slot.Dest
	amount := q.Quantity{Dim: q.DimRatio, Value: 1}
	for _, name := range []meaning.ParamName{meaning.PSource, meaning.PDest, meaning.PAmount, meaning.PScaler, meaning.POn, meaning.PPolarity, meaning.PCurve} {
		p, _ := spec.Param(name)
		v, ok := c.value(meaning.Ref(slot.ID, name), s, tempo, p)
		if !ok {
			continue
		}
		out.Extra[name] = v
		switch name {
		case meaning.PSource:
			out.From = c.Matrix.Sources[v.Name]
		case meaning.PDest:
			dest = v.Name
		case meaning.PAmount:
			amount = v.Quantity
			out.Depth.From = v.From
		case meaning.PScaler:
			out.Via = c.Matrix.Sources[v.Name]
		case meaning.POn:
			on := v
			out.On = &on
		case meaning.PCurve:
			out.Curve = v.Name
		}
	}
	if i, ok := c.dest[dest]; ok {
		d := &c.Matrix.Destinations[i]
		out.To, out.Polarity = d.To, orDefault(d.Polarity, c.swing(out.From))
		out.Depth.Quantity = c.depths["dest:"+dest]
		out.Depth.Value *= amount.Value
		out.Depth.Tol = math.Abs(c.depths["dest:"+dest].Value) * amount.Tol
		if amount.Off {
			out.Depth.Quantity = q.OffOf(out.Depth.Dim)
		}
	}
	if v, ok := out.Extra[meaning.PPolarity]; ok {
		out.Polarity = v.Name
	}
	switch {
	case out.On != nil && out.On.Name == "off":
		out.Idle = "switched off"
	case out.From == "":
		out.Idle = "no source is chosen"
	case len(out.To) == 0:
		out.Idle = "no destination is chosen"
	case !c.Holds(slot.When, s):
		out.Idle = "not there: " + c.whenText(slot.When, s)
	}
	return out
}

// CableID gives the id of the route that a cable into a point makes.
func CableID(point string) string { return "cable:" + point }

// readCable follows a cable back through attenuators; a cable into an attenuator is
// part of the route that leaves it and gives none of its own.
func (c *Compiled) readCable(k patch.Cable, s *State, tempo q.Tempo) (meaning.Route, bool) {
	in := &c.Points[c.point[k.To]]
	if len(in.To) == 1 && strings.HasSuffix(in.To[0], ".in") {
		return meaning.Route{}, false
	}
	out := meaning.Route{ID: CableID(k.To), To: in.To, Polarity: in.Polarity, Cable: []string{k.From, k.To}}
	out.Depth.Quantity = c.depths["point:"+in.ID]
	at := k
	for {
		of := c.Points[c.point[at.From]].Of
		if !c.isAttenuator(of) {
			out.From = of
			break
		}
		p, _ := meaning.SpecOf(meaning.Atten).Param(meaning.PGain)
		g, ok := c.value(meaning.Ref(of, meaning.PGain), s, tempo, p)
		if ok {
			out.Depth.Tol = q.RSS(out.Depth.Tol*math.Abs(g.Value), out.Depth.Value*g.Tol)
			out.Depth.Value *= g.Value
			out.Depth.From = append(out.Depth.From, g.From...)
		}
		in, ok := c.cableInto(s, of)
		if !ok {
			out.Idle = "nothing is plugged into " + c.Modules[c.module[of]].Label
			break
		}
		out.Cable = append([]string{in.From, in.To}, out.Cable...)
		at = in
	}
	out.Polarity = orDefault(out.Polarity, c.swing(out.From))
	out.Label = c.pointLabel(out.Cable[0]) + " to " + c.pointLabel(k.To)
	return out, true
}

func (c *Compiled) pointLabel(id string) string { return c.Points[c.point[id]].Label }

// Route reads one wired route in a state.
func (c *Compiled) Route(i int, s *State, tempo q.Tempo) meaning.Route {
	return c.readRoute(&c.Routes[i], s, tempo)
}

// Opens tells whether a wired route opens an amplifier (meaning.Opens): it is never switched off for tidiness.
func (c *Compiled) Opens(route int) bool {
	r := &c.Routes[route]
	kind := func(id string) meaning.Kind {
		if i, ok := c.module[id]; ok {
			return c.Modules[i].Kind
		}
		return ""
	}
	id, param := meaning.Split(r.To[0])
	return meaning.Opens(r.From, kind(r.From), kind(id), param)
}

// PointIndex finds a patch point by its id; -1 where there is none.
func (c *Compiled) PointIndex(id string) int {
	if i, ok := c.point[id]; ok {
		return i
	}
	return -1
}

// AttenuatorIn gives the attenuator that an input point leads to, or -1.
func (c *Compiled) AttenuatorIn(point int) int {
	to := c.Points[point].To
	if len(to) != 1 || !strings.HasSuffix(to[0], ".in") {
		return -1
	}
	id, _ := meaning.Split(to[0])
	return c.module[id]
}

// AttenuatorPoints tells whether an attenuator has both an input and an output point.
func (c *Compiled) AttenuatorPoints(module int) bool {
	in, out := c.AttenuatorThrough(module)
	return in >= 0 && out >= 0
}

// AttenuatorThrough gives the input and output points of an attenuator, -1 where it lacks one.
func (c *Compiled) AttenuatorThrough(module int) (in, out int) {
	in, out = -1, -1
	for i := range c.Points {
		if c.Points[i].Dir == "out" && c.Points[i].Of == c.Modules[module].ID {
			out = i
		}
		if c.Points[i].Dir == "in" && c.AttenuatorIn(i) == module {
			in = i
		}
	}
	return in, out
}

// SourceName gives the name that the matrix has for a source, or "".
func (m *Matrix) SourceName(from string) string {
	best := ""
	for name, id := range m.Sources {
		if id == from && (best == "" || name < best) {
			best = name
		}
	}
	return best
}
