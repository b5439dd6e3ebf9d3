package translate

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
)

// movesOf says what of the phrase's moves is to be moved on the target: a control is read at both ends of its move, and what the target would be set to there is what is moved on it.
func movesOf(w *worked, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) ([]gloss.Moving, error) {
	if p.Phrase == nil || len(p.Phrase.Moves) == 0 {
		return nil, nil
	}
	all, err := phrase.Moves(p.Phrase)
	if err != nil {
		return nil, err
	}
	plain, opt, err := w.plainly(src, p, dst, opt)
	if err != nil {
		return nil, err
	}
	layer := w.in.Layer
	first := layer == &p.Layers[0]
	var out []gloss.Moving
	ends := map[[2]string]*worked{} // what the target is set to, by control and reading
	for _, m := range all {
		g := gloss.Moving{Index: m.Index, What: m.What, At: m.At, For: m.For, When: phrase.Bars(m.Start, m.End), From: m.From, To: m.To, Target: []gloss.MovedTo{}, Verdict: gloss.Idle}
		if m.ByPlayer() {
			g.Label = gloss.MeansLabel(m.What)
			w.byPlayer(&g)
			out = append(out, g)
			continue
		}
		if m.Layer != layer.ID && (m.Layer != "" || !first) {
			continue
		}
		k, ok := src.ControlIndex(m.What)
		if !ok {
			return nil, fmt.Errorf("move %d: %s has no control %q", m.Index+1, src.Name, m.What)
		}
		g.Label = strings.TrimSpace(src.SectionLabel(k) + " " + src.Controls[k].Label)
		if len(ends) >= maxEnds {
			g.Reason = fmt.Sprintf("not looked at: of the moves of controls those to the first %d readings are", maxEnds)
			out = append(out, g)
			continue
		}
		if err := w.byHand(&g, k, plain, src, p, dst, opt, ends); err != nil {
			return nil, err
		}
		out = append(out, g)
	}
	return out, nil
}

// worst gives a move a verdict, with its reason, where that is worse than the one that it has; idle gives way to every other.
func worst(g *gloss.Moving, v gloss.Verdict, reason string) {
	if g.Verdict == gloss.Idle && v != gloss.Idle || gloss.Worse(v, g.Verdict) {
		g.Verdict, g.Reason = v, reason
	}
}

// byPlayer gives a move of a player's means the worst verdict of what it drives.
func (w *worked) byPlayer(g *gloss.Moving) {
	var carried, lost []string
	note := func(verdict gloss.Verdict, label string) {
		worst(g, verdict, "")
		if verdict == gloss.LeftOut {
			lost = append(lost, label)
		} else if verdict != gloss.Idle {
			carried = append(carried, label)
		}
	}
	if g.What == patch.Hold { // notes ring on: every keyboard does that
		g.Verdict, g.Reason = gloss.Held, "the notes ring on"
		return
	}
	for i := range w.in.Plan.Wanted.Routes {
		r := &w.in.Plan.Wanted.Routes[i]
		if r.Used() && (r.From == g.What || r.Via == g.What) {
			for j := range w.sheet.Glosses {
				if x := &w.sheet.Glosses[j]; x.Param == meaning.Ref(r.Source(), meaning.PDepth) {
					note(x.Verdict, r.Label)
				}
			}
		}
	}
	if g.What == "bend" {
		for j := range w.sheet.Glosses {
			if x := &w.sheet.Glosses[j]; strings.HasSuffix(x.Param, "."+string(meaning.PBend)) {
				note(x.Verdict, "the pitch, by its range")
			}
		}
		if g.Verdict == gloss.Idle {
			g.Verdict, g.Reason = gloss.Held, "neither panel says how far it bends: two semitones are usual"
			return
		}
	}
	switch {
	case len(carried) == 0 && len(lost) == 0:
		g.Reason = "it moves nothing in this patch"
	case len(lost) == 0:
		g.Reason = "it moves " + strings.Join(carried, ", ")
	case len(carried) == 0:
		g.Reason = "nothing here is moved by it: " + strings.Join(lost, ", ")
	default:
		g.Reason = "it moves " + strings.Join(carried, ", ") + ", but not " + strings.Join(lost, ", ")
	}
}

// maxEnds is at how many readings of moved controls a translation is looked at: each is one of its own.
const maxEnds = 60

// byHand finds what is to be moved on the target for a control of the source.
func (w *worked) byHand(g *gloss.Moving, k int, plain *worked, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options, known map[[2]string]*worked) error {
	n := slices.IndexFunc(p.Layers, func(y patch.Layer) bool { return y.ID == w.in.Layer.ID })
	var ends [2]*worked
	for i, text := range []string{g.From, g.To} {
		pos, err := src.Parse(k, text)
		if err != nil {
			return fmt.Errorf("move %d: %w", g.Index+1, err)
		}
		key := [2]string{g.What, pos.Reading}
		if ends[i] = known[key]; ends[i] == nil {
			ends[i], err = workAt(n, src.Controls[k].ID, pos.Reading, src, p, dst, opt)
			if err != nil {
				return err
			}
			known[key] = ends[i]
		}
		for j := range ends[i].sheet.Glosses {
			x := &ends[i].sheet.Glosses[j]
			if !slices.ContainsFunc(x.Source, func(r gloss.Reading) bool { return r.Control == g.What }) {
				continue
			}
			worst(g, x.Verdict, x.Reason)
		}
	}
	at := map[string]string{}
	for _, x := range ends[0].sheet.Settings {
		at[x.Control] = x.Reading
	}
	base, now := map[string]string{}, map[string]string{}
	for _, x := range plain.sheet.Settings {
		base[x.Control] = x.Reading
	}
	for _, x := range w.sheet.Settings {
		now[x.Control] = x.Reading
	}
	for _, x := range ends[1].sheet.Settings {
		if was, ok := at[x.Control]; ok && was != x.Reading {
			to := x.Reading
			if b := base[x.Control]; b != now[x.Control] { // by as much as the sheet has it elsewhere
				was, to = dst.Beside(x.Control, now[x.Control], b, was), dst.Beside(x.Control, now[x.Control], b, to)
			}
			g.Target = append(g.Target, gloss.MovedTo{Control: x.Control, Section: x.Section, Label: x.Label, From: was, To: to})
		}
	}
	switch {
	case len(g.Target) == 0 && g.Verdict == gloss.Idle:
		g.Reason = "it does nothing in this patch"
	case len(g.Target) == 0 && g.Verdict != gloss.LeftOut:
		g.Verdict, g.Reason = gloss.LeftOut, fmt.Sprintf("nothing of %s is set otherwise from one end to the other", dst.Name)
	case len(g.Target) > 2:
		g.Reason = strings.TrimPrefix(g.Reason+fmt.Sprintf("; %d controls have to be moved together", len(g.Target)), "; ")
	}
	return nil
}

// workAt translates a patch with one control of a layer at another reading, and nothing moved.
func workAt(layer int, control, reading string, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) (*worked, error) {
	end := *still(p)
	end.Layers = slices.Clone(p.Layers)
	end.Layers[layer].Readings = maps.Clone(p.Layers[layer].Readings)
	if end.Layers[layer].Readings == nil {
		end.Layers[layer].Readings = map[string]string{}
	}
	end.Layers[layer].Readings[control] = reading
	return work(src, &end, dst, opt)
}
