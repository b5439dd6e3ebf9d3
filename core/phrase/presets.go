package phrase

import (
	"fmt"

	"glossator/core/patch"
	q "glossator/core/quantity"
)

// Preset is a line for inspecting a sound with.
type Preset struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// For says what it is good for.
	For string `json:"for"`
}

// Presets lists the lines that Make can make.
var Presets = []Preset{
	{"held", "Held note", "the stages of the envelopes, and motion"},
	{"octaves", "Octave ladder", "key tracking, and the range that still plays"},
	{"velocities", "Velocity ladder", "what velocity does"},
	{"chord", "Chord", "definition, number of voices, level"},
	{"slurs", "Slurred and struck", "glide, legato and retrigger"},
}

// Make makes a preset on a note (MIDI number 12 to 108).
func Make(id string, root int) (*patch.Phrase, error) {
	if root < 12 || root > 108 {
		return nil, fmt.Errorf("expected a note from C0 to C8")
	}
	p := &patch.Phrase{}
	add := func(at, length string, key, velocity int) {
		if key >= 0 && key <= 127 {
			p.Notes = append(p.Notes, patch.PhraseNote{At: at, For: length, Note: q.Note(key).NoteName(), Velocity: velocity})
		}
	}
	for _, k := range Presets {
		if k.ID == id {
			p.Name = k.Name
		}
	}
	switch id {
	case "held":
		add("0", "2/1", root, 100)
	case "octaves":
		for i := -2; i <= 2; i++ {
			add(Text(float64(i+2)/2), "3/8", root+12*i, 100)
		}
	case "velocities":
		for i, v := range []int{1, 20, 40, 64, 90, 110, 127} {
			add(Text(float64(i)/4), "3/16", root, v)
		}
	case "chord":
		for _, k := range []int{0, 4, 7, 12} {
			add("0", "1/1", root+k, 100)
		}
	case "slurs":
		for i, k := range []int{0, 7, 12, 0} {
			add(Text(float64(i)/4), "1/4", root+k, 100)
		}
		for i, k := range []int{0, 7, 12, 0} {
			add(Text(1+float64(i)/4), "1/8", root+k, 100)
		}
		for i := 1; i < 4; i++ {
			p.Notes[i].Slide = true
		}
	default:
		return nil, fmt.Errorf("expected one of held, octaves, velocities, chord, slurs, got %q", id)
	}
	return p, nil
}
