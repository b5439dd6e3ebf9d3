package patch

import (
	"strings"
	"testing"
)

func good() *Patch {
	return &Patch{Format: Format, Version: Version, ID: "x", Name: "X", Panel: "kedge", Kind: "bass", Tempo: 96,
		Layers: []Layer{{ID: "a", Transpose: "-12 st", Level: "-3 dB"}, {ID: "b"}},
		Phrase: &Phrase{Notes: []PhraseNote{{At: "0", For: "1/4", Note: "A1", Velocity: 100}, {At: "3/8", For: "1/8.", Note: "Bb2", Velocity: 1}}}}
}

func TestChecks(t *testing.T) {
	if l := good().Check(); len(l) > 0 {
		t.Fatalf("the good patch has faults: %v", l)
	}
	for _, c := range []struct {
		path, says string
		do         func(p *Patch)
	}{
		{"/format", "glossator-patch", func(p *Patch) { p.Format = "song" }},
		{"/version", "reads no other", func(p *Patch) { p.Version = 3 }},
		{"/id", "lower-case", func(p *Patch) { p.ID = "Fog Bank" }},
		{"/id", "at most 64", func(p *Patch) { p.ID = strings.Repeat("x", 65) }},
		{"/name", "a name", func(p *Patch) { p.Name = "\t" }},
		{"/kind", "bass, lead, pad, pluck, other", func(p *Patch) { p.Kind = "drone" }},
		{"/tempo", "10 to 400", func(p *Patch) { p.Tempo = 1000 }},
		{"/wheel", "0 to 1", func(p *Patch) { p.Wheel = 2 }},
		{"/layers", "at least one", func(p *Patch) { p.Layers = nil }},
		{"/layers/1/id", "no other layer", func(p *Patch) { p.Layers[1].ID = "a" }},
		{"/layers/0/transpose", "an interval", func(p *Patch) { p.Layers[0].Transpose = "3 dB" }},
		{"/layers/0/level", "a unit", func(p *Patch) { p.Layers[0].Level = "3 furlongs" }},
		{"/phrase/notes/0/at", "a note value", func(p *Patch) { p.Phrase.Notes[0].At = "A1" }},
		{"/phrase/notes/0/for", "a note value", func(p *Patch) { p.Phrase.Notes[0].For = "" }},
		{"/phrase/notes/1/note", "such as A1", func(p *Patch) { p.Phrase.Notes[1].Note = "" }},
		{"/phrase/notes/1/velocity", "1 to 127", func(p *Patch) { p.Phrase.Notes[1].Velocity = 0 }},
	} {
		p := good()
		c.do(p)
		found := false
		for _, f := range p.Check() {
			found = found || f.Path == c.path && strings.Contains(f.Message, c.says)
		}
		if !found {
			t.Errorf("got %v, want a fault at %s that says %q", p.Check(), c.path, c.says)
		}
	}
}

func TestIDs(t *testing.T) {
	for id, ok := range map[string]bool{"a": true, "fog-bank": true, "2": true, "": false, "-a": false, "A": false, "a b": false, "a/b": false, "é": false} {
		if ValidID(id) != ok {
			t.Errorf("%q is valid: %v, want %v", id, !ok, ok)
		}
	}
}
