package panel

import (
	"encoding/json"

	"glossator/core/meaning"
	"glossator/core/scale"
)

// Format and Version name the JSON format of a panel; see docs/formats/panel.schema.json.
const (
	Format  = "glossator-panel"
	Version = 2
)

// Oldest is the oldest version of the format that is read. Until version 2 the beats of a law were whole notes; they are quarter notes now, as a tempo counts them.
const Oldest = 1

// Panel is one instrument's description.
type Panel struct {
	Format  string `json:"format" jsonschema:"const=glossator-panel"`
	Version int    `json:"version" jsonschema:"enum=1,enum=2"`
	ID      string `json:"id" jsonschema:"pattern=^[a-z0-9][a-z0-9-]*$,maxLength=64"`
	Name    string `json:"name" jsonschema:"minLength=1,maxLength=120"`
	// Revision counts up with each stored change.
	Revision int `json:"revision" jsonschema:"minimum=1"`
	// Kind is "instrument" or "rack".
	Kind    string `json:"kind" jsonschema:"enum=instrument,enum=rack"`
	Summary string `json:"summary,omitempty" jsonschema:"maxLength=2000"`
	// Memory tells whether the instrument has an init to start from; without one every
	// control is set by hand.
	Memory   bool      `json:"memory"`
	Sections []Section `json:"sections" jsonschema:"minItems=1,maxItems=200"`
	Modules  []Module  `json:"modules" jsonschema:"minItems=1,maxItems=400"`
	Controls []Control `json:"controls" jsonschema:"minItems=1,maxItems=2000"`
	Routes   []Route   `json:"routes,omitempty" jsonschema:"maxItems=2000"`
	Matrix   *Matrix   `json:"matrix,omitempty"`
	Points   []Point   `json:"points,omitempty" jsonschema:"maxItems=400"`
	// Audio is the signal path; "out" is the output.
	Audio []Edge `json:"audio" jsonschema:"maxItems=2000"`
	// Dump is how the instrument sends its readings as one message, where it does.
	Dump *Dump `json:"dump,omitempty"`
	// Hidden lists parameters that the panel does not show, and other traps.
	Hidden []Note `json:"hidden,omitempty" jsonschema:"maxItems=200"`
}

// UnmarshalJSON reads a panel of this version of the format or of an older one, which is brought to this one.
func (p *Panel) UnmarshalJSON(data []byte) error {
	type plain Panel
	if err := json.Unmarshal(data, (*plain)(p)); err != nil {
		return err
	}
	p.Upgrade()
	return nil
}

// Upgrade brings a panel of an older version of the format to this one.
func (p *Panel) Upgrade() {
	if p.Version != 1 {
		return
	}
	p.Version = Version
	for i := range p.Controls {
		for k := range p.Controls[i].Means {
			p.Controls[i].Means[k].Law.Quarters()
		}
	}
}

// Section groups controls as the panel does.
type Section struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	// Step is the stage of the work at which the section is set.
	Step meaning.Step `json:"step" jsonschema:"enum=voice,enum=oscillators,enum=mixer,enum=filter,enum=envelopes,enum=modulation,enum=feel,enum=effects,enum=level"`
}

// When is a condition: the control stands at one of the readings.
type When struct {
	Control string   `json:"control"`
	In      []string `json:"in" jsonschema:"minItems=1"`
}

// Module is something that sounds or moves.
type Module struct {
	ID    string       `json:"id"`
	Kind  meaning.Kind `json:"kind"`
	Label string       `json:"label"`
	// Fixed properties by parameter name, as texts: {"poles": "4", "curve": "exponential"}.
	Fixed map[meaning.ParamName]string `json:"fixed,omitempty"`
	// Pivot is the note at which a key-tracked frequency is as printed; absent is C4.
	Pivot string `json:"pivot,omitempty"`
	// When lists what must hold for the module to be there at all (all of it).
	When []When `json:"when,omitempty"`
	// Quiet gives the readings that take the module out of the sound, by control, where the
	// parameters do not say it.
	Quiet map[string]string `json:"quiet,omitempty"`
}

// Control is one thing that can be set.
type Control struct {
	ID      string     `json:"id"`
	Label   string     `json:"label"`
	Section string     `json:"section"`
	Aliases []string   `json:"aliases,omitempty"`
	Face    scale.Face `json:"face"`
	// Means says which parameters the control sets, and by which law. Empty for a
	// control that is only written down.
	Means []Bind `json:"means,omitempty"`
	// Init is the reading after initialising, or the neutral one where there is no init.
	Init string `json:"init"`
	MIDI *MIDI  `json:"midi,omitempty"`
	// Hidden is set for menu pages and shift functions.
	Hidden bool   `json:"hidden,omitempty"`
	Note   string `json:"note,omitempty"`
}

// Bind ties a control to a parameter: "osc1.width", or "route.depth" for a route.
type Bind struct {
	Param string `json:"param"`
	// Part names what the control adds to a sum: octave, semi, fine.
	Part string    `json:"part,omitempty" jsonschema:"enum=octave,enum=semi,enum=fine"`
	Law  scale.Law `json:"law"`
	When []When    `json:"when,omitempty"`
}

// MIDI is where a control can be reached, by any of the three.
type MIDI struct {
	CC   *int `json:"cc,omitempty" jsonschema:"minimum=0,maximum=127"`
	NRPN *int `json:"nrpn,omitempty" jsonschema:"minimum=0,maximum=16383"`
	// Byte is the place in the panel's dump, counted from 0 after its header. A control of
	// more than 128 positions takes two bytes, the higher seven bits first.
	Byte *int `json:"byte,omitempty" jsonschema:"minimum=0,maximum=65535"`
	// Values says how numbers count positions: "full" spreads the positions over all that the
	// message can carry (the default of a CC), "index" sends the position's own number, from
	// 0 (the default of NRPN and dump).
	Values string `json:"values,omitempty" jsonschema:"enum=full,enum=index"`
}

// Dump is a system exclusive message that holds readings at fixed places.
type Dump struct {
	// Header is what follows F0, in hexadecimal: "7D 01".
	Header string `json:"header" jsonschema:"maxLength=200"`
	// Length counts the bytes between header and F7.
	Length int `json:"length" jsonschema:"minimum=1,maximum=65536"`
	// Request is the message that asks for it, without F0 and F7, in hexadecimal: "7D 01". Empty where the instrument sends it by itself only.
	Request string `json:"request,omitempty" jsonschema:"maxLength=200"`
}

// Route is a modulation that is always wired, or switched by a control bound to
// "ID.on"; its depth is fixed, or set by a control bound to "ID.depth".
type Route struct {
	ID    string   `json:"id"`
	Label string   `json:"label"`
	From  string   `json:"from"`
	To    []string `json:"to" jsonschema:"minItems=1"`
	// Depth where it is fixed, as a text such as "2 oct".
	Depth    string `json:"depth,omitempty"`
	Polarity string `json:"polarity,omitempty" jsonschema:"enum=bipolar,enum=unipolar"`
	Via      string `json:"via,omitempty"`
	Curve    string `json:"curve,omitempty"`
	When     []When `json:"when,omitempty"`
	// Normal is the input point whose cable breaks this route.
	Normal string `json:"normal,omitempty"`
}

// Matrix is a set of free slots. Controls bind to "SLOT.source", "SLOT.dest",
// "SLOT.amount" and "SLOT.scaler".
type Matrix struct {
	Slots []Slot `json:"slots" jsonschema:"minItems=1,maxItems=200"`
	// Sources by the name used in laws; the value is a module or one of the sources of play.
	Sources      map[string]string `json:"sources"`
	Destinations []Destination     `json:"destinations" jsonschema:"minItems=1"`
}

// Slot is one free route; Source or Dest fix one end.
type Slot struct {
	ID     string `json:"id"`
	Label  string `json:"label"`
	Source string `json:"source,omitempty"`
	Dest   string `json:"dest,omitempty"`
	// Via fixes what scales the slot.
	Via  string `json:"via,omitempty"`
	When []When `json:"when,omitempty"`
}

// Destination is something that slots can move.
type Destination struct {
	Name string   `json:"name"`
	To   []string `json:"to" jsonschema:"minItems=1"`
	// Full is the peak swing at an amount of 100 %, as a text such as "5 oct".
	Full string `json:"full"`
	// Polarity where it is not that of the source.
	Polarity string `json:"polarity,omitempty" jsonschema:"enum=bipolar,enum=unipolar"`
}

// Point is a patch point.
type Point struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	Dir   string `json:"dir" jsonschema:"enum=in,enum=out"`
	// Of is what an output gives: a module or a source of play.
	Of string `json:"of,omitempty"`
	// To is what an input moves, or "MODULE.in" for an attenuator.
	To []string `json:"to,omitempty"`
	// Full is the peak swing at full signal.
	Full     string `json:"full,omitempty"`
	Polarity string `json:"polarity,omitempty" jsonschema:"enum=bipolar,enum=unipolar"`
}

// Edge is an audio connection, there while When holds.
type Edge struct {
	From string `json:"from"`
	To   string `json:"to"`
	When []When `json:"when,omitempty"`
}

// Note tells of something the panel does not show.
type Note struct {
	About string `json:"about"`
	Text  string `json:"text"`
}
