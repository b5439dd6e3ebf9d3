package build

import (
	"fmt"
	"slices"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
)

// Copy puts a section of another panel in as a block: its modules, its controls with their faces and laws, and what they route, connected as a block of their kind is. So what has been
// described once, trimmed and measured, is a building block of one's own. It gives the new panel, the id of the section, and what could not come along, in words. MIDI addresses stay
// behind: they are another instrument's.
func Copy(p, from *panel.Panel, section, label string) (out *panel.Panel, id string, left []string, err error) {
	si := slices.IndexFunc(from.Sections, func(s panel.Section) bool { return s.ID == section })
	if si < 0 {
		return nil, "", nil, fmt.Errorf("%s has no such section any more", from.Name)
	}
	src := clone(from)
	var controls []panel.Control
	for _, c := range src.Controls {
		if c.Section == section {
			controls = append(controls, c)
		}
	}
	own := map[string]bool{}
	for _, c := range controls {
		for _, b := range c.Means {
			owner, _ := meaning.Split(b.Param)
			own[owner] = true
		}
	}
	at := &builder{p: clone(p), usual: Usual(p)}
	if label = strings.TrimSpace(label); label == "" {
		label = src.Sections[si].Label
	}
	at.label = at.freeLabel(label)
	step := &Block{step: src.Sections[si].Step}
	at.module = Slug(at.label)
	if at.module == "" {
		at.module = "section"
	}
	at.section = at.sectionFor(step, at.label)
	ids := map[string]string{} // of modules and routes, old to new
	modules := 0
	for _, m := range src.Modules {
		if own[m.ID] && m.Kind != meaning.Mixer || own[m.ID] && len(at.all(meaning.Mixer)) == 0 {
			modules++
		}
	}
	for _, m := range src.Modules {
		if !own[m.ID] {
			continue
		}
		single := m.Kind == meaning.Voice || m.Kind == meaning.Amp || m.Kind == meaning.Mixer
		if there := at.all(m.Kind); single && len(there) > 0 {
			ids[m.ID] = there[0]
			continue
		}
		now := m
		if now.Label = m.Label; modules == 1 || strings.EqualFold(m.Label, src.Sections[si].Label) {
			now.Label = at.label
		} else {
			now.Label = at.freeModuleLabel(m.Label)
		}
		base := Slug(now.Label)
		if base == "" {
			base = m.ID
		}
		if !at.taken(m.ID) {
			base = m.ID
		}
		now.ID = at.freeModule(base)
		now.Quiet = nil
		ids[m.ID] = now.ID
		at.p.Modules = append(at.p.Modules, now)
		at.module = now.ID
		at.wire(now)
	}
	end := func(id string) (string, bool) {
		if n, ok := ids[id]; ok {
			return n, true
		}
		if meaning.IsSource(id) {
			return id, true
		}
		kind := meaning.Kind("")
		for _, m := range src.Modules {
			if m.ID == id {
				kind = m.Kind
			}
		}
		if kind == meaning.Env {
			e := at.envelopeFor("filter")
			return e, e != ""
		}
		if there := at.all(kind); len(there) > 0 {
			for _, m := range at.p.Modules {
				if m.ID == id && m.Kind == kind {
					return id, true
				}
			}
			return there[len(there)-1], true
		}
		return "", false
	}
	for _, r := range src.Routes {
		if !own[r.ID] {
			continue
		}
		f, ok := end(r.From)
		var to []string
		for _, t := range r.To {
			owner, name := meaning.Split(t)
			if n, is := end(owner); is {
				to = append(to, meaning.Ref(n, name))
			}
		}
		if !ok || len(to) == 0 {
			continue
		}
		r.From, r.To, r.Normal = f, to, ""
		if r.Via != "" {
			if v, ok := end(r.Via); ok {
				r.Via = v
			} else {
				r.Via = ""
			}
		}
		old := r.ID
		r.ID = free(old, at.taken)
		ids[old] = r.ID
		at.p.Routes = append(at.p.Routes, r)
	}
	names := map[string]string{} // of controls
	for i := range controls {
		c := &controls[i]
		_, tail, ok := strings.Cut(c.ID, ".")
		if !ok {
			tail = Slug(c.Label)
		}
		names[c.ID] = free(at.section+"."+tail, func(id string) bool {
			return slices.ContainsFunc(at.p.Controls, func(k panel.Control) bool { return k.ID == id }) || slices.ContainsFunc(controls[:i], func(k panel.Control) bool { return names[k.ID] == id })
		})
	}
	conditions := func(ws []panel.When) ([]panel.When, bool) {
		var out []panel.When
		for _, w := range ws {
			n, ok := names[w.Control]
			if !ok {
				return nil, false
			}
			out = append(out, panel.When{Control: n, In: w.In})
		}
		return out, true
	}
	for i := range at.p.Modules {
		if m := &at.p.Modules[i]; i >= len(p.Modules) {
			m.When, _ = conditions(m.When) // one that does not hold here is none
		}
	}
	for i := range at.p.Routes {
		if r := &at.p.Routes[i]; i >= len(p.Routes) {
			r.When, _ = conditions(r.When)
		}
	}
	for _, c := range controls {
		before := len(c.Means)
		c.ID, c.Section, c.MIDI = names[c.ID], at.section, nil
		var means []panel.Bind
		for _, b := range c.Means {
			owner, name := meaning.Split(b.Param)
			n, ok := ids[owner]
			when, fits := conditions(b.When)
			if ok && fits {
				b.Param, b.When = meaning.Ref(n, name), when
				means = append(means, b)
			}
		}
		if c.Means = means; len(means) < before {
			left = append(left, fmt.Sprintf("%s: some of what it sets belongs to parts that are not here", c.Label))
		}
		at.p.Controls = append(at.p.Controls, c)
	}
	at.open()
	at.known()
	return at.p, at.section, left, nil
}

// open gives the routes that were copied without what set their depth a depth of their own, which is none.
func (at *builder) open() {
	for i := range at.p.Routes {
		if r := &at.p.Routes[i]; r.Depth == "" && !at.bound(meaning.Ref(r.ID, meaning.PDepth)) {
			if x, _, err := at.p.Lookup(meaning.Ref(r.ID, meaning.PDepth)); err == nil {
				r.Depth = "0 " + unitFor(x.Dim)
			}
		}
	}
}

// freeLabel numbers a label that a section has already.
func (at *builder) freeLabel(label string) string {
	has := func(l string) bool {
		return slices.ContainsFunc(at.p.Sections, func(s panel.Section) bool { return strings.EqualFold(s.Label, l) })
	}
	return numbered(label, has)
}

func (at *builder) freeModuleLabel(label string) string {
	return numbered(label, func(l string) bool {
		return slices.ContainsFunc(at.p.Modules, func(m panel.Module) bool { return strings.EqualFold(m.Label, l) })
	})
}

func numbered(label string, has func(string) bool) string {
	base := trailing.ReplaceAllString(label, "")
	out := label
	for n := 2; has(out); n++ {
		out = fmt.Sprintf("%s %d", base, n)
	}
	return out
}

// Own tells of a section that can be put in as a block.
type Own struct {
	Panel    string `json:"panel"`
	Name     string `json:"name"`
	Section  string `json:"section"`
	Label    string `json:"label"`
	Controls int    `json:"controls"`
}

// Owned lists the sections of a panel that hold controls.
func Owned(p *panel.Panel) []Own {
	count := map[string]int{}
	for _, c := range p.Controls {
		if len(c.Means) > 0 {
			count[c.Section]++
		}
	}
	var out []Own
	for _, s := range p.Sections {
		if count[s.ID] > 0 {
			out = append(out, Own{Panel: p.ID, Name: p.Name, Section: s.ID, Label: s.Label, Controls: count[s.ID]})
		}
	}
	return out
}
