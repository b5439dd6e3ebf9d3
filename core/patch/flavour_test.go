package patch

import (
	"strings"
	"testing"
)

func two() *Patch {
	return &Patch{Format: Format, Version: Version, ID: "p", Name: "P", Panel: "x", Kind: "pad", Layers: []Layer{{ID: "a", Readings: map[string]string{"cutoff": "60"}}, {ID: "b"}},
		Flavours: []Flavour{{Name: "Dark", Sets: []Set{{Control: "cutoff", Reading: "30"}, {Layer: "b", Control: "level", Reading: "5"}}}}}
}

// A patch as a flavour has it differs in what the flavour lists, in the layer that it is of, and the patch itself stays.
func TestAsAFlavourHasIt(t *testing.T) {
	p := two()
	if l := p.Check(); len(l) > 0 {
		t.Fatal(l)
	}
	as, err := p.As(" dark ")
	if err != nil {
		t.Fatal(err)
	}
	if as.Layers[0].Readings["cutoff"] != "30" || as.Layers[1].Readings["level"] != "5" || len(as.Flavours) > 0 {
		t.Errorf("as %+v", as)
	}
	if p.Layers[0].Readings["cutoff"] != "60" || p.Layers[1].Readings != nil || len(p.Flavours) != 1 {
		t.Errorf("the patch has changed: %+v", p)
	}
	if _, err := p.As("light"); err == nil || !strings.Contains(err.Error(), `"Dark"`) {
		t.Errorf("expected the flavours that there are, got %v", err)
	}
}

func TestFaultsOfFlavours(t *testing.T) {
	for _, x := range []struct {
		at  string
		bad func(p *Patch)
	}{
		{"/flavours/0/name", func(p *Patch) { p.Flavours[0].Name = " " }},
		{"/flavours/1/name", func(p *Patch) {
			p.Flavours = append(p.Flavours, Flavour{Name: "DARK", Sets: []Set{{Control: "cutoff", Reading: "1"}}})
		}},
		{"/flavours/0/sets", func(p *Patch) { p.Flavours[0].Sets = nil }},
		{"/flavours/0/sets/1/layer", func(p *Patch) { p.Flavours[0].Sets[1].Layer = "c" }},
		{"/flavours/0/sets/2/control", func(p *Patch) {
			p.Flavours[0].Sets = append(p.Flavours[0].Sets, Set{Layer: "a", Control: "cutoff", Reading: "2"})
		}},
		{"/flavours", func(p *Patch) {
			for i := range MaxFlavours {
				p.Flavours = append(p.Flavours, Flavour{Name: strings.Repeat("x", i+1), Sets: p.Flavours[0].Sets})
			}
		}},
	} {
		p := two()
		x.bad(p)
		if l := p.Check(); len(l) != 1 || l[0].Path != x.at {
			t.Errorf("expected one fault at %s, got %v", x.at, l)
		}
	}
}
