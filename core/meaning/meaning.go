package meaning

import (
	"slices"

	q "glossator/core/quantity"
)

// Value is a parameter's quantity and the controls whose readings made it.
type Value struct {
	q.Quantity
	// Beats is set where the value was given as a note value and is known in time only
	// through the tempo.
	Beats float64 `json:"beats,omitempty"`
	// Parts holds what each part (octave, semi, fine) adds to a sum.
	Parts map[string]q.Quantity `json:"parts,omitempty"`
	// From lists the controls, in panel order; empty for a fixed property.
	From []string `json:"from,omitempty"`
}

// Module is one module of a patch.
type Module struct {
	ID     string              `json:"id"`
	Kind   Kind                `json:"kind"`
	Label  string              `json:"label"`
	Params map[ParamName]Value `json:"params"`
	// Idle says why the module does nothing audible in this patch; empty where it does.
	Idle string `json:"idle,omitempty"`
	// Absent is set where the module is not there at all as the panel stands: another is in its place.
	Absent bool `json:"-"`
	// Moved are the parameters that a route in use moves, as the meaning was read.
	Moved map[ParamName]bool `json:"-"`
	// Origin is where a module comes from that a rule has made.
	Origin `json:"-"`
}

// Origin is where a module or route comes from that a rule has changed or added; empty for a part of the source as it is.
type Origin struct {
	// Part is the id of the part of the source that it stands for, or was added for.
	Part string
	// First is the id under which it was before it was changed; empty where it has not been.
	First string
}

// Made tells whether a rule has made it: changed it, put it in the place of a part, or added it.
func (o *Origin) Made() bool { return o.Part != "" }

// Changed tells whether a rule has changed it, or put it in the place of a part.
func (o *Origin) Changed() bool { return o.First != "" }

// Source gives the id of the part of the source that the module is, stands for or was added for.
func (m *Module) Source() string { return m.Origin.of(m.ID) }

// Source gives the id of the part of the source that the route is, stands for or was added for.
func (r *Route) Source() string { return r.Origin.of(r.ID) }

func (o *Origin) of(id string) string {
	if o.Part != "" {
		return o.Part
	}
	return id
}

// ChangedFrom gives the origin of what is changed from something of this origin and id.
func (o Origin) ChangedFrom(id string) Origin {
	first := o.First
	if first == "" {
		first = id
	}
	return Origin{Part: o.of(id), First: first}
}

// AddedFor gives the origin of what is added for something of this origin and id.
func (o Origin) AddedFor(id string) Origin { return Origin{Part: o.of(id)} }

// Used tells whether the module takes part in the sound.
func (m *Module) Used() bool { return m.Idle == "" }

// Get gives a parameter, or its neutral value and false where the module has none.
func (m *Module) Get(param ParamName) (Value, bool) {
	if v, ok := m.Params[param]; ok {
		return v, true
	}
	if s := SpecOf(m.Kind); s != nil {
		if p, ok := s.Param(param); ok {
			return Value{Quantity: p.Neutral}, false
		}
	}
	return Value{}, false
}

// Sounds tells whether a source of sound is heard itself, and does not only modulate: by its level, which is full where it is not stated; of an operator by its output, which is
// none where it is not.
func (m *Module) Sounds() bool {
	level := m.Loud()
	if m.Kind == Operator {
		v, _ := m.Get(POutput)
		level = v.Quantity
	}
	return !level.Off && level.Value > -60
}

// ModulatesPhase tells whether a route leads to the phase of an operator: from another, its depth and that one's level make the index.
func (r *Route) ModulatesPhase() bool {
	_, name := Split(r.To[0])
	return name == PPM
}

// Loud gives the level of what sounds: one that is not stated is full.
func (m *Module) Loud() q.Quantity {
	if v, stated := m.Params[PLevel]; stated {
		return v.Quantity
	}
	return q.Quantity{Dim: q.DimLevel}
}

// Silence says why a module gives no sound by its own parameters, or "".
func (m *Module) Silence() string {
	if v, ok := m.Params[POn]; ok && v.Name == "off" {
		return "switched off"
	}
	for _, name := range SpecOf(m.Kind).Silence {
		if why := m.SilencedBy(name); why != "" {
			return why
		}
	}
	return ""
}

// SilencedBy says why the module is silent by one parameter, "" where it is not.
func (m *Module) SilencedBy(name ParamName) string {
	v, ok := m.Params[name]
	if !ok {
		return ""
	}
	if name == POn {
		if v.Name == "off" {
			return "switched off"
		}
		return ""
	}
	p, _ := SpecOf(m.Kind).Param(name)
	return p.Silences(v.Quantity)
}

// Heard tells whether a parameter matters in the sound that the module makes.
func (m *Module) Heard(param ParamName) bool {
	if s := SpecOf(m.Kind); s != nil {
		if p, ok := s.Param(param); ok {
			return p.Heard(m)
		}
	}
	return true
}

// Route is a modulation edge.
type Route struct {
	ID    string   `json:"id"`
	Label string   `json:"label"`
	From  string   `json:"from"`
	To    []string `json:"to"`
	// Depth is the peak swing in DepthDim of the destination.
	Depth Value `json:"depth"`
	// Polarity is "bipolar" (both ways about the base) or "unipolar" (from the base one way).
	Polarity string `json:"polarity"`
	// Via is what scales the depth: "wheel", "velocity", a module; empty for nothing.
	Via string `json:"via,omitempty"`
	// Curve of the route; empty is linear.
	Curve string `json:"curve,omitempty"`
	// On is the switch, where there is one.
	On   *Value `json:"on,omitempty"`
	Idle string `json:"idle,omitempty"`
	// Deaf is set where the route is idle because what it moves does nothing as its module stands.
	Deaf bool `json:"-"`
	// Extra are other values of the route that controls made (source and destination of a
	// slot), by name.
	Extra map[ParamName]Value `json:"extra,omitempty"`
	// Cable lists the patch points of a route made by hand: out and in, in turn.
	Cable []string `json:"cable,omitempty"`
	// Origin is where a route comes from that a rule has made.
	Origin `json:"-"`
}

// Used tells whether the route moves anything.
func (r *Route) Used() bool { return r.Idle == "" }

// Edge is an audio connection.
type Edge struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// Meaning is what a patch means, whatever instrument it stands on.
type Meaning struct {
	Tempo   q.Tempo  `json:"tempo"`
	Modules []Module `json:"modules"`
	Routes  []Route  `json:"routes"`
	Audio   []Edge   `json:"audio"`
	// Hands is how the player's hands make up for what the instrument has not; nil where the line is played as it stands.
	Hands *Hands `json:"hands,omitempty"`
}

// Hands is how a line is played otherwise than it stands.
type Hands struct {
	// Octaves is how many octaves higher it is played.
	Octaves int `json:"octaves,omitempty"`
	// Chord are the keys that are held with each key, in semitones above it.
	Chord []int `json:"chord,omitempty"`
	// Wheel is where the modulation wheel is left, above 0 to 1; 0 where it goes as the line has it.
	Wheel float64 `json:"wheel,omitempty"`
}

// With adds another thing to do.
func (h *Hands) With(octaves int, chord ...int) *Hands {
	var out Hands
	if h != nil {
		out = *h
	}
	out.Octaves, out.Chord = out.Octaves+octaves, slices.Concat(out.Chord, chord)
	return &out
}

// Module finds a module by its id.
func (m *Meaning) Module(id string) *Module {
	for i := range m.Modules {
		if m.Modules[i].ID == id {
			return &m.Modules[i]
		}
	}
	return nil
}

// Route finds a route by its id.
func (m *Meaning) Route(id string) *Route {
	for i := range m.Routes {
		if m.Routes[i].ID == id {
			return &m.Routes[i]
		}
	}
	return nil
}

// ChordNotes are the intervals of a chord memory, in its order.
var ChordNotes = []ParamName{PChord2, PChord3, PChord4, PChord5}

// Chord lists the notes that a voice's chord memory adds to each key, by the names of their intervals; none where it has none or it is off.
func (m *Module) Chord() (notes []ParamName) {
	if m.Kind != Voice {
		return nil
	}
	if v, ok := m.Params[PChord]; !ok || v.Name == "off" || v.Name == "" {
		return nil
	}
	for _, name := range ChordNotes {
		if v, ok := m.Params[name]; ok && v.Value != 0 {
			notes = append(notes, name)
		}
	}
	return notes
}
