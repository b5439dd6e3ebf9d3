package phrase

import (
	"math"
	"reflect"
	"testing"

	"glossator/core/patch"
)

func TestTimeline(t *testing.T) {
	p := &patch.Phrase{Notes: []patch.PhraseNote{
		{At: "1/4", For: "1/8.", Note: "A2 +13 ct", Velocity: 100, Accent: true},
		{At: "0", For: "1/4", Note: "E2", Velocity: 90},
		{At: "0", For: "1/4", Note: "C2", Velocity: 80},
		{At: "1/2", For: "1/4", Note: "C3", Velocity: 120, Accent: true, Slide: true},
	}}
	// MIDI 1.0: a quarter lasts 60/BPM s; a dotted eighth at 96 is 0.46875 s
	got, err := Timeline(p, 96)
	if err != nil {
		t.Fatal(err)
	}
	want := []Note{
		{0, 0.625, 36, 80, false}, {0, 0.625, 40, 90, false},
		{0.625, 1.25 + Overlap*2.5, 45.13, 100 + Accented, false}, // held into the slide
		{1.25, 1.875, 48, 127, true},
	}
	if len(got) != len(want) {
		t.Fatalf("%d notes, want %d", len(got), len(want))
	}
	for i := range want {
		g, w := got[i], want[i]
		if math.Abs(g.Start-w.Start) > 1e-9 || math.Abs(g.End-w.End) > 1e-9 || math.Abs(g.Key-w.Key) > 1e-6 || g.Velocity != w.Velocity || g.Slide != w.Slide {
			t.Errorf("note %d: %+v, want %+v", i, g, w)
		}
	}
}

// Every preset on every note can be laid out, has the checks of a patch, and stays in the
// range of MIDI.
func TestPresets(t *testing.T) {
	for _, preset := range Presets {
		for root := 12; root <= 108; root++ {
			p, err := Make(preset.ID, root)
			if err != nil {
				t.Fatal(err)
			}
			whole := patch.Patch{Format: patch.Format, Version: patch.Version, ID: "x", Name: "X", Kind: "bass", Layers: []patch.Layer{{ID: "a"}}, Phrase: p}
			if l := whole.Check(); len(l) > 0 {
				t.Fatalf("%s on %d: %v", preset.ID, root, l)
			}
			beats, err := Beats(p)
			if err != nil || len(beats) == 0 || p.Name != preset.Name {
				t.Fatalf("%s on %d: %d notes, %v", preset.ID, root, len(beats), err)
			}
			for _, b := range beats {
				if b.Key < 0 || b.Key > 127 || b.End <= b.At {
					t.Fatalf("%s on %d: %+v", preset.ID, root, b)
				}
			}
		}
	}
	for _, bad := range []struct {
		id   string
		root int
	}{{"held", 5}, {"held", 120}, {"scale", 60}} {
		if _, err := Make(bad.id, bad.root); err == nil {
			t.Errorf("%s on %d was made", bad.id, bad.root)
		}
	}
}

// Text and Value undo each other for every fraction that a MIDI tick can hold.
func TestTextRoundTrip(t *testing.T) {
	for n := range 3840 * 3 {
		whole := float64(n) / 3840
		got, err := Value(Text(whole))
		if err != nil || math.Abs(got-whole) > 1e-12 {
			t.Fatalf("%v is written %q and read %v (%v)", whole, Text(whole), got, err)
		}
	}
}

func TestBadNotes(t *testing.T) {
	for _, n := range []patch.PhraseNote{{At: "x", For: "1/4", Note: "A2"}, {At: "0", For: "0", Note: "A2"}, {At: "0", For: "1/4", Note: "440 ms"}, {At: "5 ms", For: "1/4", Note: "A2"}} {
		if _, err := Timeline(&patch.Phrase{Notes: []patch.PhraseNote{n}}, 120); err == nil {
			t.Errorf("%+v was laid out", n)
		}
	}
	if l, err := Length(&patch.Phrase{Notes: []patch.PhraseNote{{At: "1/4", For: "1/2", Note: "A2", Velocity: 1}, {At: "1/2", For: "1/16", Note: "A2", Velocity: 1}}}); err != nil || l != 0.75 {
		t.Errorf("length %v, %v", l, err)
	}
}

// A line in numbers says what its phrase says, and its words stay as long as they do.
func TestLineKeepsItsWords(t *testing.T) {
	p := &patch.Phrase{Name: "x", Notes: []patch.PhraseNote{
		{At: "0", For: "1/8.", Note: "Bb2", Velocity: 90}, {At: "1/4t", For: "1/8", Note: "A2 +13 ct", Velocity: 80, Accent: true, Slide: true}}}
	line, err := Line(p)
	if err != nil {
		t.Fatal(err)
	}
	if back := OfLine(p.Name, line); !reflect.DeepEqual(back, p) {
		t.Errorf("%v came back as %v", p, back)
	}
	if line[0].Key != 46 || line[0].For != Whole*3/16 || line[1].At != Whole/6 || line[1].Key != 45 {
		t.Errorf("in numbers: %+v", line)
	}
	line[1].Key, line[1].At, line[0].For = 46, Whole/2, Whole/4
	n := OfLine("x", line).Notes
	if n[1].Note != "A#2" || n[1].At != "1/2" || n[1].For != "1/8" || n[0].For != "1/4" || n[0].Note != "Bb2" {
		t.Errorf("changed: %+v", n)
	}
	if n := OfLine("", []LineNote{{At: Whole, For: 1, Key: 60, Velocity: 1}}).Notes[0]; n.At != "1/1" || n.Note != "C4" {
		t.Errorf("without words: %+v", n)
	}
	if _, err := Line(&patch.Phrase{Notes: []patch.PhraseNote{{At: "0", For: "0", Note: "A1"}}}); err == nil {
		t.Error("a note without length was read")
	}
}
