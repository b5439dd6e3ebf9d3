package server

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"glossator/core/panel"
	"glossator/core/paste"
	"glossator/core/patch"
)

// FlavourView is a flavour with what its controls are called and stand at in the patch.
type FlavourView struct {
	Name string    `json:"name"`
	Note string    `json:"note,omitempty"`
	Sets []SetView `json:"sets"`
}

// SetView is a reading of a flavour: Label with its section, Was the reading of the patch.
type SetView struct {
	patch.Set
	Label string `json:"label"`
	Was   string `json:"was"`
}

func flavourViews(c *panel.Compiled, p *patch.Patch) []FlavourView {
	out := []FlavourView{}
	for _, f := range p.Flavours {
		v := FlavourView{Name: f.Name, Note: f.Note, Sets: []SetView{}}
		for _, x := range f.Sets {
			w := SetView{Set: x, Label: x.Control}
			if k, ok := c.ControlIndex(x.Control); ok {
				w.Label = strings.TrimSpace(c.SectionLabel(k) + " " + c.Controls[k].Label)
				w.Was = c.Controls[k].Init
				n := max(0, slices.IndexFunc(p.Layers, func(y patch.Layer) bool { return y.ID == x.Layer }))
				if at, ok := p.Layers[n].Readings[x.Control]; ok {
					w.Was = at
				}
			}
			v.Sets = append(v.Sets, w)
		}
		out = append(out, v)
	}
	return out
}

// FlavoursBody carries the flavours of a patch, and a line that says one in words.
type FlavoursBody struct {
	Flavours []patch.Flavour `json:"flavours"`
	// Line names a flavour and says what is set otherwise in it, "darker: cutoff 45, resonance 20"; one that is there already gets what is said as well. Layer whose controls it is of.
	Line  string `json:"line,omitempty"`
	Layer string `json:"layer,omitempty"`
}

type flavoursRequest struct {
	ID   string `path:"id"`
	Body FlavoursBody
}

// flavoursSet stores the flavours of a patch.
func (s *Server) flavoursSet(ctx context.Context, in flavoursRequest) (none PatchView, err error) {
	p, c, err := s.patchOn(in.ID)
	if err != nil {
		return none, err
	}
	next, what := slices.Clone(in.Body.Flavours), "change the flavours"
	if line := strings.TrimSpace(in.Body.Line); line != "" {
		if next, err = withLine(c, p, next, line, in.Body.Layer); err != nil {
			return none, err
		}
		what = "flavour: " + line
	}
	return s.changePatch(ctx, in.ID, what, func(p *patch.Patch) error {
		p.Flavours = next
		return nil
	})
}

// withLine adds to flavours what a line says.
func withLine(c *panel.Compiled, p *patch.Patch, all []patch.Flavour, line, layer string) ([]patch.Flavour, error) {
	name, said, ok := strings.Cut(line, ":")
	name = strings.TrimSpace(name)
	if !ok || name == "" || strings.TrimSpace(said) == "" {
		return nil, badRequest{errors.New(`expected a name, a colon and what is set otherwise: "darker: cutoff 45, resonance 20"`)}
	}
	got := paste.Read(c, said)
	if len(got.Unmatched) > 0 {
		return nil, badRequest{fmt.Errorf("%q: %s", got.Unmatched[0].Text, got.Unmatched[0].Why)}
	}
	if len(got.Guesses) == 0 {
		return nil, badRequest{fmt.Errorf("expected readings after %q", name+":")}
	}
	n := max(0, slices.IndexFunc(p.Layers, func(y patch.Layer) bool { return y.ID == layer }))
	of := ""
	if n > 0 {
		of = p.Layers[n].ID
	}
	all = slices.Clone(all)
	k := slices.IndexFunc(all, func(f patch.Flavour) bool { return strings.EqualFold(strings.TrimSpace(f.Name), name) })
	if k < 0 {
		all, k = append(all, patch.Flavour{Name: name}), len(all)
	}
	f := &all[k]
	f.Sets = slices.Clone(f.Sets)
	for _, g := range got.Guesses {
		if !g.Sure {
			return nil, badRequest{fmt.Errorf("%q could be %s %s or %s: write more of its name", g.Text, g.Section, g.Label, strings.Join(g.Others, ", "))}
		}
		f.Sets = slices.DeleteFunc(f.Sets, func(x patch.Set) bool {
			return x.Control == g.Control && (x.Layer == of || n == 0 && x.Layer == p.Layers[0].ID)
		})
		f.Sets = append(f.Sets, patch.Set{Layer: of, Control: g.Control, Reading: g.Reading})
	}
	return all, nil
}

// FlavourName names a flavour of a patch.
type FlavourName struct {
	Name string `json:"name"`
}

type flavourCopyRequest struct {
	ID   string `path:"id"`
	Body FlavourName
}

// flavourCopy makes a patch of its own of a flavour.
func (s *Server) flavourCopy(ctx context.Context, in flavourCopyRequest) (none PatchRow, err error) {
	p, err := s.patch(in.ID)
	if err != nil {
		return none, err
	}
	as, err := p.As(in.Body.Name)
	if err != nil {
		return none, badRequest{err}
	}
	if as.Name += ", " + strings.TrimSpace(in.Body.Name); len(as.Name) > 120 {
		as.Name = strings.TrimSpace(in.Body.Name)
	}
	return s.newPatch(as)
}
