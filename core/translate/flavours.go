package translate

import (
	"fmt"
	"slices"
	"strings"

	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
)

// flavoursOf translates each flavour of a patch, and gives what is set otherwise for it than the sheet has it. A flavour of another layer sets nothing here. What somebody or the search by ear has
// moved on the sheet is moved by as much in a flavour: the two are compared without it.
func flavoursOf(w *worked, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) ([]gloss.Flavoured, error) {
	if len(p.Flavours) == 0 {
		return nil, nil
	}
	plain, opt, err := w.plainly(src, p, dst, opt)
	if err != nil {
		return nil, err
	}
	var out []gloss.Flavoured
	first := w.in.Layer == &p.Layers[0]
	for i := range p.Flavours {
		f := &p.Flavours[i]
		g := gloss.Flavoured{Name: f.Name, Note: f.Note, Source: []gloss.MovedTo{}, Target: []gloss.MovedTo{}, Verdict: gloss.Idle}
		differs := map[string]bool{}
		for _, x := range f.Sets {
			if x.Layer != w.in.Layer.ID && (x.Layer != "" || !first) {
				continue
			}
			k, ok := src.ControlIndex(x.Control)
			if !ok {
				return nil, fmt.Errorf("flavour %q: %s has no control %q", f.Name, src.Name, x.Control)
			}
			to, err := src.Parse(k, x.Reading)
			if err != nil {
				return nil, fmt.Errorf("flavour %q: %w", f.Name, err)
			}
			if from := w.in.From.At[k].Reading; from != to.Reading {
				g.Source = append(g.Source, gloss.MovedTo{Control: x.Control, Section: src.SectionLabel(k), Label: src.Controls[k].Label, From: from, To: to.Reading})
				differs[x.Control] = true
			}
		}
		if len(g.Source) == 0 {
			g.Reason = "nothing differs from the patch in this layer"
			out = append(out, g)
			continue
		}
		if err := w.flavour(&g, plain, differs, src, p, dst, opt); err != nil {
			return nil, err
		}
		out = append(out, g)
	}
	return out, nil
}

// flavour translates one flavour beside the sheet.
func (w *worked) flavour(g *gloss.Flavoured, plain *worked, differs map[string]bool, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) error {
	as, err := p.As(g.Name)
	if err != nil {
		return err
	}
	made, err := work(src, still(as), dst, opt)
	if err != nil {
		return fmt.Errorf("flavour %q: %w", g.Name, err)
	}
	m := gloss.Moving{Verdict: gloss.Idle}
	for i := range made.sheet.Glosses {
		x := &made.sheet.Glosses[i]
		if slices.ContainsFunc(x.Source, func(r gloss.Reading) bool { return differs[r.Control] }) {
			worst(&m, x.Verdict, x.Reason)
		}
	}
	g.Verdict, g.Reason = m.Verdict, m.Reason
	at, base := map[string]string{}, map[string]string{}
	for _, x := range w.sheet.Settings {
		at[x.Control] = x.Reading
	}
	for _, x := range plain.sheet.Settings {
		base[x.Control] = x.Reading
	}
	for _, x := range made.sheet.Settings {
		was := base[x.Control]
		if was == x.Reading {
			continue
		}
		to := x.Reading
		if at[x.Control] != was {
			to = dst.Beside(x.Control, at[x.Control], was, to)
		}
		if to != at[x.Control] {
			g.Target = append(g.Target, gloss.MovedTo{Control: x.Control, Section: x.Section, Label: x.Label, From: at[x.Control], To: to})
		}
	}
	cable := func(c gloss.Connection) string { return c.FromLabel + " to " + c.ToLabel }
	for _, side := range []struct {
		verb       string
		its, other []gloss.Connection
	}{{"pull", plain.sheet.Cables, made.sheet.Cables}, {"patch", made.sheet.Cables, plain.sheet.Cables}} {
		for _, c := range side.its {
			if !slices.ContainsFunc(side.other, func(o gloss.Connection) bool { return o.From == c.From && o.To == c.To }) {
				g.Cables = append(g.Cables, side.verb+" "+cable(c))
			}
		}
	}
	if len(g.Target) == 0 && len(g.Cables) == 0 && g.Verdict != gloss.LeftOut && g.Verdict != gloss.Idle {
		g.Reason = strings.TrimPrefix(g.Reason+"; the nearest reading there is the same", "; ")
	}
	return nil
}

// plainly gives the translation and its options without what somebody or the search by ear has moved on the sheet: what is set otherwise elsewhere is told against it. Without such it is w itself.
func (w *worked) plainly(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) (*worked, Options, error) {
	t := opt.Choices.Tuned
	opt.Flavours = false
	if (t == nil || len(t.Readings) == 0) && len(opt.Overrides) == 0 {
		return w, opt, nil
	}
	opt.Overrides = nil
	if t != nil {
		bare := *t
		bare.Readings = nil
		opt.Choices.Tuned = &bare
	}
	plain, err := work(src, still(p), dst, opt)
	return plain, opt, err
}

// still gives a patch without moves and flavours.
func still(p *patch.Patch) *patch.Patch {
	out := *p
	out.Flavours = nil
	if p.Phrase != nil {
		phrase := *p.Phrase
		phrase.Moves = nil
		out.Phrase = &phrase
	}
	return &out
}
