// Package patch is one sound on one panel: the readings as they stand on the instrument.
//
// Its neighbours: panel knows what the readings may be and turns them into a meaning.
package patch

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"glossator/core/fault"
	"glossator/core/quantity"
)

// Format and Version name the JSON format of a patch; see docs/formats/patch.schema.json.
const (
	Format  = "glossator-patch"
	Version = 1
)

// Kinds are the kinds of patch that the program weighs by.
var Kinds = []string{"bass", "lead", "pad", "pluck", "other"}

// Patch is the readings of one sound on one panel, with tempo, notes and a test phrase.
type Patch struct {
	Format  string `json:"format" jsonschema:"const=glossator-patch"`
	Version int    `json:"version" jsonschema:"const=1"`
	ID      string `json:"id" jsonschema:"pattern=^[a-z0-9][a-z0-9-]*$,maxLength=64"`
	Name    string `json:"name" jsonschema:"minLength=1,maxLength=120"`
	// Panel is the id of the panel that the readings stand on.
	Panel string `json:"panel"`
	// PanelRevision is the revision the readings were made with; 0 for the newest.
	PanelRevision int    `json:"panelRevision,omitempty" jsonschema:"minimum=0"`
	Kind          string `json:"kind" jsonschema:"enum=bass,enum=lead,enum=pad,enum=pluck,enum=other"`
	// Tempo in quarter notes a minute.
	Tempo float64  `json:"tempo,omitempty" jsonschema:"minimum=10,maximum=400"`
	Tags  []string `json:"tags,omitempty" jsonschema:"maxItems=20"`
	Notes string   `json:"notes,omitempty" jsonschema:"maxLength=20000"`
	// Wheel is the state of the modulation wheel as the sound is played, 0 to 1.
	Wheel  float64 `json:"wheel,omitempty" jsonschema:"minimum=0,maximum=1"`
	Layers []Layer `json:"layers" jsonschema:"minItems=1,maxItems=8"`
	Phrase *Phrase `json:"phrase,omitempty"`
	// Flavours are variants of the sound: what is set otherwise in each.
	Flavours []Flavour `json:"flavours,omitempty" jsonschema:"maxItems=24"`
}

// Layer is one set of readings; most patches have one.
type Layer struct {
	ID    string `json:"id" jsonschema:"pattern=^[a-z0-9][a-z0-9-]*$,maxLength=64"`
	Label string `json:"label,omitempty" jsonschema:"maxLength=120"`
	// Transpose and Level of the layer as a whole, as texts such as "-12 st" and "-3 dB".
	Transpose string `json:"transpose,omitempty"`
	Level     string `json:"level,omitempty"`
	// Readings by control id, as the instrument shows them; a control that is not named
	// stands at init.
	Readings map[string]string `json:"readings"`
	Cables   []Cable           `json:"cables,omitempty" jsonschema:"maxItems=200"`
	// Taste lists the controls whose readings are to taste: what of them is lost counts least.
	Taste []string `json:"taste,omitempty" jsonschema:"maxItems=2000"`
}

// Cable joins two patch points of the panel, an output to an input.
type Cable struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// Phrase is what the sound is tried with.
type Phrase struct {
	Name  string       `json:"name,omitempty"`
	Notes []PhraseNote `json:"notes" jsonschema:"minItems=1,maxItems=2000"`
	// Moves are what is moved while it is played.
	Moves []Move `json:"moves,omitempty" jsonschema:"maxItems=500"`
}

// Move is something that is moved while a phrase is played: one of the player's means (PlayersMeans), or a control of the panel by its id. It goes from From to To in a straight line of
// the hand's travel, beginning at At and lasting For; before it, it stands where it stood, after it where it was left.
type Move struct {
	What string `json:"what"`
	// Layer is the id of the layer whose control is moved; empty for the first.
	Layer string `json:"layer,omitempty"`
	// At and For are note values such as "1/4" and "2/1"; "0" for the beginning, and for a jump.
	At  string `json:"at"`
	For string `json:"for"`
	// From and To are per cent of the way for the player's means ("-100 %" to "100 %" for the bender), readings for controls.
	From string `json:"from"`
	To   string `json:"to"`
}

// The player's means that are not sources of the vocabulary by themselves: the hold pedal lets notes ring on.
const Hold = "hold"

// PlayersMeans lists what a player moves beside the controls: the names are those of the vocabulary's sources.
var PlayersMeans = []string{"wheel", "bend", "aftertouch", "pedal", "breath", Hold}

// ByPlayer tells whether a move is of one of the player's means, and not of a control.
func (m *Move) ByPlayer() bool { return slices.Contains(PlayersMeans, m.What) }

// PhraseNote is one note; At and For are note values such as "1/4", "3/8".
type PhraseNote struct {
	At   string `json:"at"`
	For  string `json:"for"`
	Note string `json:"note"`
	// Velocity 1 to 127.
	Velocity int `json:"velocity" jsonschema:"minimum=1,maximum=127"`
	// Accent marks a note played harder, Slide one that the note before is held into, so that
	// it glides where the instrument glides.
	Accent bool `json:"accent,omitempty"`
	Slide  bool `json:"slide,omitempty"`
}

var idPattern = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,63}$`)

// ValidID tells whether a text can be the id of a patch, panel or layer.
func ValidID(s string) bool { return idPattern.MatchString(s) }

// Check gives the faults that can be seen without the panel.
func (p *Patch) Check() fault.List {
	var l fault.List
	if p.Format != Format {
		l.Add("/format", "expected %q, got %q", Format, p.Format)
	}
	if p.Version != Version {
		l.Add("/version", "expected version %d, got %d: this program reads no other", Version, p.Version)
	}
	if !ValidID(p.ID) {
		l.Add("/id", "expected lower-case letters, figures and hyphens, at most 64, got %q", p.ID)
	}
	if strings.TrimSpace(p.Name) == "" {
		l.Add("/name", "expected a name")
	}
	ok := false
	for _, k := range Kinds {
		ok = ok || k == p.Kind
	}
	if !ok {
		l.Add("/kind", "expected one of %s, got %q", strings.Join(Kinds, ", "), p.Kind)
	}
	if p.Tempo != 0 && !(p.Tempo >= 10 && p.Tempo <= 400) {
		l.Add("/tempo", "expected 10 to 400 quarter notes a minute, got %v", p.Tempo)
	}
	if !(p.Wheel >= 0 && p.Wheel <= 1) {
		l.Add("/wheel", "expected 0 to 1, got %v", p.Wheel)
	}
	if len(p.Layers) == 0 {
		l.Add("/layers", "expected at least one layer")
	}
	p.checkFlavours(&l)
	seen := map[string]bool{}
	for i, y := range p.Layers {
		at := fmt.Sprintf("/layers/%d", i)
		if !ValidID(y.ID) || seen[y.ID] {
			l.Add(at+"/id", "expected an id that no other layer has, got %q", y.ID)
		}
		seen[y.ID] = true
		textIs(&l, at+"/transpose", y.Transpose, quantity.FormInterval, "an interval such as -12 st")
		textIs(&l, at+"/level", y.Level, quantity.FormLevel, "a level such as -3 dB")
	}
	if p.Phrase != nil {
		for i, n := range p.Phrase.Notes {
			at := fmt.Sprintf("/phrase/notes/%d", i)
			if n.At != "0" {
				textIs(&l, at+"/at", n.At, quantity.FormBeats, "a note value such as 3/8, or 0")
			}
			if n.For == "" {
				l.Add(at+"/for", "expected a note value such as 1/4")
			}
			textIs(&l, at+"/for", n.For, quantity.FormBeats, "a note value such as 1/4")
			textIs(&l, at+"/note", n.Note, quantity.FormNote, "a note such as A1")
			if n.Note == "" {
				l.Add(at+"/note", "expected a note such as A1")
			}
			if n.Velocity < 1 || n.Velocity > 127 {
				l.Add(at+"/velocity", "expected 1 to 127, got %d", n.Velocity)
			}
		}
		for i := range p.Phrase.Moves {
			p.Phrase.Moves[i].check(&l, fmt.Sprintf("/phrase/moves/%d", i))
		}
	}
	return l
}

// textIs notes a fault where a text is given and is not of the form.
func textIs(l *fault.List, path, text string, form quantity.Form, expected string) {
	if text == "" {
		return
	}
	e, err := quantity.Parse(text)
	if err != nil {
		l.Add(path, "%v", err)
	} else if e.Form != form {
		l.Add(path, "expected %s, got %q", expected, text)
	}
}

// check gives the faults of a move that can be seen without the panel.
func (m *Move) check(l *fault.List, at string) {
	for _, x := range []struct{ name, text, example string }{{"at", m.At, "3/8"}, {"for", m.For, "1/1"}} {
		if x.text != "0" {
			textIs(l, at+"/"+x.name, x.text, quantity.FormBeats, "a note value such as "+x.example+", or 0")
		}
		if x.text == "" {
			l.Add(at+"/"+x.name, "expected a note value such as %s, or 0", x.example)
		}
	}
	if m.What == "" {
		l.Add(at+"/what", "expected what is moved: %s, or a control", strings.Join(PlayersMeans, ", "))
	}
	for _, x := range []struct{ name, text string }{{"from", m.From}, {"to", m.To}} {
		if !m.ByPlayer() {
			if x.text == "" {
				l.Add(at+"/"+x.name, "expected a reading")
			}
			continue
		}
		low := 0.0
		if m.What == "bend" {
			low = -1
		}
		e, err := quantity.Parse(x.text)
		if err != nil || e.Form != quantity.FormPercent || e.Value < low || e.Value > 1 {
			l.Add(at+"/"+x.name, "expected %g to 100 %%, got %q", 100*low, x.text)
		}
	}
}
