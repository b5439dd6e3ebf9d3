// Package phrase makes the lines that a sound is tried with, and lays them out in time.
//
// Its neighbours: patch has the form in which a phrase is kept; formats/smf reads and writes
// Standard MIDI Files of it.
package phrase

import (
	"fmt"
	"math"
	"math/big"
	"sort"

	"glossator/core/patch"
	q "glossator/core/quantity"
)

// MaxNotes is the most notes that a phrase may have.
const MaxNotes = 2000

// Accented is how much an accent adds to the velocity of a note where only velocities can be
// sent (common practice, no source).
const Accented = 24

// Overlap is how long, in whole notes, the note before a slide is held into it.
const Overlap = 1.0 / 128

// Note is a note laid out in time: seconds, MIDI note number (with a fraction where the note
// was written with cents), velocity 1 to 127 with its accent in it.
type Note struct {
	Start, End float64
	Key        float64
	Velocity   int
	Slide      bool
}

// Timeline lays a phrase out at a tempo (quarter notes a minute), in order of time; of notes
// that begin together the lowest comes first. A note before a slide is held Overlap into it.
func Timeline(p *patch.Phrase, tempo q.Tempo) ([]Note, error) {
	beats, err := lay(p)
	if err != nil {
		return nil, err
	}
	if beats, err = held(p, beats); err != nil {
		return nil, err
	}
	out := make([]Note, len(beats))
	for i, b := range beats {
		out[i] = Note{Start: float64(q.Beats(4 * b.at).At(tempo)), End: float64(q.Beats(4 * b.end).At(tempo)), Key: b.key, Velocity: b.velocity, Slide: b.slide}
	}
	return out, nil
}

// Beat is a note laid out in whole notes.
type Beat struct {
	At, End  float64
	Key      int
	Velocity int
}

// Beats lays a phrase out in whole notes, as it is sent by MIDI: keys are whole numbers, accents
// are in the velocities.
func Beats(p *patch.Phrase) ([]Beat, error) {
	beats, err := lay(p)
	if err != nil {
		return nil, err
	}
	out := make([]Beat, len(beats))
	for i, b := range beats {
		out[i] = Beat{b.at, b.end, int(math.Round(b.key)), b.velocity}
	}
	return out, nil
}

type laid struct {
	at, end, key float64
	velocity     int
	slide        bool
}

func lay(p *patch.Phrase) ([]laid, error) {
	var out []laid
	for i, n := range p.Notes {
		at, length, key, err := read(i, n)
		if err != nil {
			return nil, err
		}
		b := laid{at: at, end: at + length, key: key, velocity: n.Velocity, slide: n.Slide}
		if n.Accent {
			b.velocity = min(b.velocity+Accented, 127)
		}
		out = append(out, b)
	}
	sort.SliceStable(out, func(a, b int) bool {
		if out[a].at != out[b].at {
			return out[a].at < out[b].at
		}
		return out[a].key < out[b].key
	})
	for i := range out {
		if !out[i].slide {
			continue
		}
		for j := i - 1; j >= 0; j-- { // the last note that began before
			if out[j].at < out[i].at {
				out[j].end = math.Max(out[j].end, out[i].at+Overlap)
				break
			}
		}
	}
	return out, nil
}

// Value reads a place or a length in whole notes: "0", "1/4", "3/8", "1/8.".
func Value(text string) (float64, error) {
	if text == "0" {
		return 0, nil
	}
	e, err := q.Parse(text)
	if err != nil {
		return 0, err
	}
	if e.Form != q.FormBeats {
		return 0, fmt.Errorf("expected a note value such as 3/8, got %q", text)
	}
	return e.Value, nil
}

// Whole is how many units of a line make a whole note: ticks of MIDI at 960 to the quarter.
const Whole = 3840

// LineNote is a note of a phrase in numbers, for an editor: At and For in units of 1/Whole of a whole note, Key a MIDI
// note number. The words beside them are those of the phrase, and stay as long as they say the same.
type LineNote struct {
	At       int    `json:"at"`
	For      int    `json:"for"`
	Key      int    `json:"key"`
	Velocity int    `json:"velocity"`
	Accent   bool   `json:"accent,omitempty"`
	Slide    bool   `json:"slide,omitempty"`
	Begins   string `json:"begins,omitempty"`
	Lasts    string `json:"lasts,omitempty"`
	Note     string `json:"note,omitempty"`
}

// Line gives a phrase in numbers, its notes in their order. A note that cannot be read is an error that names it.
func Line(p *patch.Phrase) ([]LineNote, error) {
	out := make([]LineNote, len(p.Notes))
	for i, n := range p.Notes {
		at, length, key, err := read(i, n)
		if err != nil {
			return nil, err
		}
		out[i] = LineNote{At: units(at), For: units(length), Key: int(math.Round(key)), Velocity: n.Velocity, Accent: n.Accent, Slide: n.Slide, Begins: n.At, Lasts: n.For, Note: n.Note}
	}
	return out, nil
}

// OfLine gives the phrase of a line in numbers.
func OfLine(name string, line []LineNote) *patch.Phrase {
	p := &patch.Phrase{Name: name}
	for i, l := range line {
		n := patch.PhraseNote{At: l.Begins, For: l.Lasts, Note: l.Note, Velocity: l.Velocity, Accent: l.Accent, Slide: l.Slide}
		at, length, key, err := read(i, n)
		if err != nil || units(at) != l.At {
			n.At = Text(float64(l.At) / Whole)
		}
		if err != nil || units(length) != l.For {
			n.For = Text(float64(l.For) / Whole)
		}
		if err != nil || int(math.Round(key)) != l.Key {
			n.Note = q.Note(l.Key).NoteName()
		}
		p.Notes = append(p.Notes, n)
	}
	return p
}

func units(whole float64) int { return int(math.Round(whole * Whole)) }

// read gives a note's place and length in whole notes and its MIDI note number.
func read(i int, n patch.PhraseNote) (at, length, key float64, err error) {
	if at, err = Value(n.At); err != nil {
		return 0, 0, 0, fmt.Errorf("note %d: %w", i+1, err)
	}
	if length, err = Value(n.For); err != nil || length <= 0 {
		return 0, 0, 0, fmt.Errorf("note %d: expected a length such as 1/8, got %q", i+1, n.For)
	}
	e, err := q.Parse(n.Note)
	if err != nil || e.Form != q.FormNote {
		return 0, 0, 0, fmt.Errorf("note %d: expected a note such as A1, got %q", i+1, n.Note)
	}
	return at, length, float64(q.Frequency(e.Value).Note()), nil
}

// Text writes a place or a length in whole notes as a fraction, exact for fractions of up to
// 1/3840 (a MIDI tick of 960 to the quarter) and the nearest of these for others.
func Text(whole float64) string {
	n := int64(math.Round(whole * Whole))
	if n <= 0 {
		return "0"
	}
	return big.NewRat(n, Whole).String()
}

// Length gives where the last note of a phrase ends, in whole notes.
func Length(p *patch.Phrase) (float64, error) {
	beats, err := lay(p)
	end := 0.0
	for _, b := range beats {
		end = math.Max(end, b.end)
	}
	return end, err
}
