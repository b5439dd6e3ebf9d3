package patch

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"glossator/core/fault"
)

// MaxFlavours is how many variants of its sound a patch carries.
const MaxFlavours = 24

// Flavour is a variant of a patch's sound: everything stands as in the patch but what it lists.
type Flavour struct {
	Name string `json:"name" jsonschema:"minLength=1,maxLength=60"`
	Note string `json:"note,omitempty" jsonschema:"maxLength=2000"`
	Sets []Set  `json:"sets" jsonschema:"minItems=1,maxItems=2000"`
}

// Set is a reading of a flavour.
type Set struct {
	// Layer is the id of the layer whose control is set; empty for the first.
	Layer   string `json:"layer,omitempty"`
	Control string `json:"control"`
	Reading string `json:"reading"`
}

// Flavour finds a flavour by its name, without regard to case.
func (p *Patch) Flavour(name string) (*Flavour, bool) {
	i := slices.IndexFunc(p.Flavours, func(f Flavour) bool { return strings.EqualFold(f.Name, strings.TrimSpace(name)) })
	if i < 0 {
		return nil, false
	}
	return &p.Flavours[i], true
}

// As gives the patch as it stands in a flavour, without flavours of its own; p stays as it is. The error names the flavours that there are.
func (p *Patch) As(name string) (*Patch, error) {
	f, ok := p.Flavour(name)
	if !ok {
		var names []string
		for _, x := range p.Flavours {
			names = append(names, fmt.Sprintf("%q", x.Name))
		}
		if len(names) == 0 {
			return nil, fmt.Errorf("%s has no flavours, got %q", p.Name, name)
		}
		return nil, fmt.Errorf("expected a flavour of %s: %s, got %q", p.Name, strings.Join(names, ", "), name)
	}
	out := *p
	out.Flavours = nil
	out.Layers = slices.Clone(p.Layers)
	own := map[int]bool{}
	for _, x := range f.Sets {
		n := max(0, slices.IndexFunc(p.Layers, func(y Layer) bool { return y.ID == x.Layer }))
		y := &out.Layers[n]
		if !own[n] {
			own[n], y.Readings = true, maps.Clone(y.Readings)
		}
		if y.Readings == nil {
			y.Readings = map[string]string{}
		}
		y.Readings[x.Control] = x.Reading
	}
	return &out, nil
}

// checkFlavours gives the faults of the flavours that can be seen without the panel.
func (p *Patch) checkFlavours(l *fault.List) {
	if len(p.Flavours) > MaxFlavours {
		l.Add("/flavours", "expected at most %d flavours, got %d", MaxFlavours, len(p.Flavours))
	}
	named := map[string]bool{}
	for i, f := range p.Flavours {
		at := fmt.Sprintf("/flavours/%d", i)
		name := strings.ToLower(strings.TrimSpace(f.Name))
		switch {
		case name == "":
			l.Add(at+"/name", "expected a name")
		case named[name]:
			l.Add(at+"/name", "expected a name that no other flavour has, got %q", f.Name)
		}
		named[name] = true
		if len(f.Sets) == 0 {
			l.Add(at+"/sets", "expected at least one reading that differs")
		}
		set := map[[2]string]bool{}
		for k, x := range f.Sets {
			here := fmt.Sprintf("%s/sets/%d", at, k)
			layer := x.Layer
			if layer == "" && len(p.Layers) > 0 {
				layer = p.Layers[0].ID
			}
			if !slices.ContainsFunc(p.Layers, func(y Layer) bool { return y.ID == layer }) {
				l.Add(here+"/layer", "expected a layer of the patch, got %q", x.Layer)
			}
			if set[[2]string{layer, x.Control}] {
				l.Add(here+"/control", "expected each control once, got %q again", x.Control)
			}
			set[[2]string{layer, x.Control}] = true
		}
	}
}
