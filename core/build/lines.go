package build

import (
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"glossator/core/fault"
	"glossator/core/meaning"
	"glossator/core/panel"
	q "glossator/core/quantity"
	"glossator/core/scale"
)

// Said is one control as it is said: what it is called, what is printed beside it, what it sets. A field that is nil stays as it is; for a new control it is worked out of the rest.
type Said struct {
	// Control is the id of the control that changes; empty for a new one.
	Control string `json:"control,omitempty"`
	// After is the control behind which a new one stands; empty for the end of the section.
	After string `json:"after,omitempty"`
	// Section is where a new one stands: an id of a section.
	Section string  `json:"section,omitempty"`
	Label   *string `json:"label,omitempty"`
	// Printed is its face, as scale.ReadFace reads it.
	Printed *string `json:"printed,omitempty"`
	// Sets is what it sets in the trade's words ("fine tune of oscillator 2", "osc 2 fine", "det"); "nothing" for what is only written down.
	Sets *string `json:"sets,omitempty"`
	Init *string `json:"init,omitempty"`
}

// nothing tells whether a text says that a control sets nothing.
func nothing(text string) bool {
	switch strings.ToLower(strings.TrimSpace(text)) {
	case "-", "–", "nothing", "only written down", "note", "none":
		return true
	}
	return false
}

// Say changes a control, or adds one: its face from what is printed, and by which law it sets what it sets from both (Assume). What is stated or measured stays, unless what it
// was stated for is gone. It gives the new panel, the control's id, and doubts in words: positions that say nothing. The error is a fault.List whose paths
// are "label", "printed", "sets" and "init".
func Say(p *panel.Panel, l Said) (out *panel.Panel, id string, doubts []string, err error) {
	at := &builder{p: clone(p), usual: Usual(p)}
	if id, doubts, err = at.say(l); err != nil {
		return nil, "", nil, err
	}
	return at.p, id, doubts, nil
}

// say is Say on the builder's own panel; where it fails, nothing of that has changed.
func (at *builder) say(l Said) (id string, doubts []string, err error) {
	routes := len(at.p.Routes)
	defer func() {
		if err != nil {
			at.p.Routes = at.p.Routes[:routes]
		}
	}()
	var faults fault.List
	i := slices.IndexFunc(at.p.Controls, func(c panel.Control) bool { return c.ID == l.Control })
	if l.Control != "" && i < 0 {
		return "", nil, errors.New("the control is not there any more: reload, then edit again")
	}
	if has := func(x panel.Section) bool { return x.ID == l.Section }; l.Section != "" && i < 0 && !slices.ContainsFunc(at.p.Sections, has) {
		return "", nil, errors.New("the section is not there any more: reload, then edit again")
	}
	var was panel.Control
	if i >= 0 {
		was = at.p.Controls[i]
	} else {
		was = at.fresh(l)
	}
	c := was
	c.Means = slices.Clone(was.Means)
	if l.Label != nil {
		if c.Label = strings.TrimSpace(*l.Label); c.Label == "" {
			faults.Add("label", "a control needs a label")
		}
	}
	if l.Sets == nil && i < 0 {
		found := at.byPiece(c.Label, c.Section)
		if len(found) == 0 {
			found = at.p.FindSets(c.Label, c.Section, true)
		}
		if len(found) > 0 && found[0].Taken == 0 {
			c.Means = []panel.Bind{{Param: found[0].Param, Part: found[0].Part}}
		}
	}
	if l.Sets != nil {
		switch text := strings.TrimSpace(*l.Sets); {
		case text == "", nothing(text):
			c.Means = nil
		default:
			found := at.p.FindSets(text, c.Section, false)
			if len(found) == 0 {
				found = at.byPiece(text, c.Section)
			}
			if len(found) == 0 {
				faults.Add("sets", "nothing on this panel is called %q: %s", text, at.offers(c.Section))
				break
			}
			b := panel.Bind{Param: found[0].Param, Part: found[0].Part}
			if len(c.Means) == 0 {
				c.Means = []panel.Bind{b}
			} else if c.Means[0].Param != b.Param || c.Means[0].Part != b.Part {
				c.Means = append([]panel.Bind{b}, c.Means[1:]...)
			}
		}
	}
	if l.Printed != nil || i < 0 {
		text := at.usual
		if l.Printed != nil && strings.TrimSpace(*l.Printed) != "" {
			text = *l.Printed
		} else if len(c.Means) > 0 {
			text = usualFace(at, c.Means[0])
		}
		f, err := scale.ReadFace(text)
		if err != nil {
			faults.Add("printed", "%v", err)
		} else {
			c.Face = f
		}
	}
	if len(faults) > 0 {
		return "", nil, faults
	}
	if len(c.Means) > 0 {
		_, name := meaning.Split(c.Means[0].Param)
		if counts(name, c.Means[0].Part) {
			c.Face = c.Face.Counts()
		}
	}
	for j := range c.Means {
		b := &c.Means[j]
		fresh := j >= len(was.Means) || was.Means[j].Param != b.Param || was.Means[j].Part != b.Part
		law, missing, err := at.relaw(*b, was.Face, c.Face, fresh)
		if err != nil {
			faults.Add("sets", "%v", err)
			continue
		}
		b.Law = law
		if bad := law.Check(c.Face); fresh && len(bad) > 0 && c.Face.Kind != scale.Text {
			faults.Add("printed", "%s", at.misfits(*b, c.Face, bad))
			continue
		}
		if len(missing) > 0 {
			setting, _ := at.p.SetsOf(b.Param, b.Part)
			doubts = append(doubts, fmt.Sprintf("%s: %s say nothing about the %s that is known here", c.Label, some(missing), setting.Label))
		}
	}
	if c.Face.Kind == scale.Text {
		if len(c.Means) > 0 {
			faults.Add("sets", "a text has no travel, so it sets nothing: leave this empty, or say what is printed")
		}
	}
	want := c.Init
	if l.Init != nil {
		want = strings.TrimSpace(*l.Init)
	}
	switch pos, err := c.Face.Parse(want); {
	case err == nil && c.Face.Kind != scale.Text:
		c.Init = pos.Reading
	case l.Init != nil && c.Face.Kind != scale.Text:
		faults.Add("init", "%v", err)
	default:
		c.Init = initOf(at.p, c, "")
	}
	if len(faults) > 0 {
		return "", nil, faults
	}
	if i < 0 && len(c.Means) == 1 {
		if also := alsoSets(at.p, &c); also != nil {
			c.Means = append(c.Means, *also)
		}
	}
	if i >= 0 {
		at.p.Controls[i] = c
		return c.ID, doubts, nil
	}
	c.ID = at.controlID(c.Section, c.Label)
	at.p.Controls = slices.Insert(at.p.Controls, at.place(l.After, c.Section), c)
	return c.ID, doubts, nil
}

// byPiece makes the route that a piece of the section's block stands for, where the words are that piece's: "Envelope amount" of a filter that no envelope reaches yet.
func (at *builder) byPiece(text, section string) []panel.Sets {
	own := at.p.ModulesOf(section)
	for i := range at.p.Modules {
		m := at.p.Modules[i]
		if !own[m.ID] {
			continue
		}
		for k := range Blocks {
			b := &Blocks[k]
			if b.kind != m.Kind {
				continue
			}
			for _, x := range b.Pieces {
				if x.from == "" || !sameWords(text, x.Label) {
					continue
				}
				at.module, at.label = m.ID, m.Label
				id, ok := at.route(b, x)
				if !ok {
					continue
				}
				if s, is := at.p.SetsOf(meaning.Ref(id, meaning.PDepth), ""); is {
					return []panel.Sets{s}
				}
			}
		}
	}
	return nil
}

// sameWords tells whether a text has the words of a label, as far as they are written: "env amt" is "Envelope amount".
func sameWords(text, label string) bool {
	want, have := strings.Fields(strings.ToLower(text)), strings.Fields(strings.ToLower(label))
	if len(want) == 0 || len(want) != len(have) {
		return false
	}
	short := map[string]string{"amt": "amount", "eg": "envelope", "kbd": "key", "vel": "velocity", "lfo": "lfo", "freq": "frequency"}
	for i, w := range want {
		if long, ok := short[strings.Trim(w, ".")]; ok {
			w = long
		}
		if !strings.HasPrefix(have[i], w) {
			return false
		}
	}
	return true
}

// misfits says why what is printed is no scale for what is set.
func (at *builder) misfits(b panel.Bind, f scale.Face, bad fault.List) string {
	x, _, err := at.p.Lookup(b.Param)
	set, _ := at.p.SetsOf(b.Param, b.Part)
	if err == nil && x.Dim.Named() && !f.Discrete() {
		words := knownFor(x)
		if x.Dim == q.DimWave {
			words = []string{q.WaveSaw, q.WavePulse, q.WaveTriangle, q.WaveSine}
		}
		if len(words) < 2 {
			words = []string{"off", "on"}
		}
		return fmt.Sprintf("the %s is chosen, not turned: write its positions, as in %s", set.Label, strings.Join(words, " / "))
	}
	return fmt.Sprintf("this is no scale for the %s: %s", set.Label, bad[0].Message)
}

// fresh is a control that is not there yet.
func (at *builder) fresh(l Said) panel.Control {
	c := panel.Control{Label: "New control", Section: l.Section}
	has := func(id string) bool {
		return slices.ContainsFunc(at.p.Sections, func(s panel.Section) bool { return s.ID == id })
	}
	if n := slices.IndexFunc(at.p.Controls, func(c panel.Control) bool { return c.ID == l.After }); n >= 0 && !has(c.Section) {
		c.Section = at.p.Controls[n].Section
	}
	if !has(c.Section) {
		if len(at.p.Sections) == 0 {
			at.p.Sections = []panel.Section{{ID: "panel", Label: "Panel", Step: meaning.StepOsc}}
		}
		c.Section = at.p.Sections[0].ID
	}
	return c
}

// place is where a new control stands in the panel's list.
func (at *builder) place(after, section string) int {
	n := len(at.p.Controls)
	for i, c := range at.p.Controls {
		if c.ID == after && c.Section == section {
			return i + 1
		}
		if c.Section == section {
			n = i + 1
		}
	}
	return n
}

// usualFace is what is printed beside a control of which only what it sets is known: that of the block's piece.
func usualFace(at *builder, b panel.Bind) string {
	owner, name := meaning.Split(b.Param)
	kind := at.kindOf(owner)
	for i := range Blocks {
		for _, x := range Blocks[i].Pieces {
			if Blocks[i].kind == kind && x.param == name && x.part == b.Part && x.from == "" {
				switch x.Face {
				case "":
					return at.usual
				case BothWays:
					return bothWays(at.usual)
				}
				return x.Face
			}
		}
	}
	if p, _, err := at.p.Lookup(b.Param); err == nil && p.Dim == q.DimName && len(knownFor(p)) > 1 {
		return "list " + strings.Join(knownFor(p), " / ")
	}
	return at.usual
}

// relaw gives the law of a binding on a new face. One that was assumed or came from what was printed is made anew; what somebody stated or measured stays where it can.
func (at *builder) relaw(b panel.Bind, was, now scale.Face, fresh bool) (scale.Law, []string, error) {
	law, missing, err := Assume(at.p, b.Param, b.Part, now)
	if err != nil || fresh || b.Law.Kind == "" {
		return law, missing, err
	}
	if sameFace(was, now) && len(b.Law.Check(now)) == 0 {
		return b.Law, nil, nil
	}
	made, _, _ := Assume(at.p, b.Param, b.Part, was)
	if reflect.DeepEqual(made, b.Law) || b.Law.Source == scale.Assumed {
		return law, missing, nil
	}
	if b.Law.Kind == scale.Listed && now.Discrete() && was.Discrete() { // what each name says stays with the name
		kept := b.Law
		kept.Values = nil
		for i := range now.Len() {
			var v any
			if i < len(law.Values) {
				v = law.Values[i]
			}
			for k := range min(was.Len(), len(b.Law.Values)) {
				if strings.EqualFold(was.At(k).Reading, now.At(i).Reading) {
					v = b.Law.Values[k]
				}
			}
			kept.Values = append(kept.Values, v)
		}
		if len(kept.Check(now)) == 0 {
			return kept, missing, nil
		}
	}
	if len(b.Law.Check(now)) == 0 && now.Discrete() == was.Discrete() {
		return b.Law, nil, nil
	}
	return law, missing, nil
}

func sameFace(a, b scale.Face) bool {
	return a.Kind == b.Kind && a.Printed() == b.Printed() && a.Printed() != ""
}

// some lists a few of many.
func some(all []string) string {
	if len(all) > 3 {
		return fmt.Sprintf("%s and %d more", strings.Join(all[:3], ", "), len(all)-3)
	}
	return strings.Join(all, ", ")
}

// offers says what could be meant.
func (at *builder) offers(section string) string {
	found := at.p.FindSets("", section, false)
	var all []string
	for _, s := range found[:min(4, len(found))] {
		all = append(all, s.Label)
	}
	if len(all) == 0 {
		return "add the block that it belongs to first"
	}
	return "write it as in " + strings.Join(all, ", ") + ", or add the block that it belongs to"
}
