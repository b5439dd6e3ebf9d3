// Package dialin turns a sheet into the list that a person sets the instrument by: one
// line a control, in the order of work.
package dialin

import (
	"fmt"
	"slices"
	"strings"

	"glossator/core/gloss"
	"glossator/core/meaning"
)

// Line is one thing to do.
type Line struct {
	// Key names the line for its tick: the control, or "cable:FROM>TO".
	Key     string `json:"key"`
	Section string `json:"section"`
	Label   string `json:"label"`
	Reading string `json:"reading"`
	// Verb is "set", "switch off" or "patch".
	Verb    string `json:"verb"`
	Text    string `json:"text"`
	Why     string `json:"why"`
	Caution string `json:"caution,omitempty"`
	Hidden  bool   `json:"hidden,omitempty"`
	// Listen says what to listen for, Where how to get to what the panel does not show.
	Listen string `json:"listen,omitempty"`
	Where  string `json:"where,omitempty"`
	// Place is where the control stands on the panel, from 0; -1 for a cable and for what stands outside.
	Place int `json:"place"`
	// Part is the part of the target that the control belongs to, where that can be heard alone.
	Part string `json:"part,omitempty"`
}

// Left is a control to leave as it is.
type Left struct {
	Control string `json:"control"`
	Section string `json:"section"`
	Label   string `json:"label"`
	Reading string `json:"reading"`
	Why     string `json:"why"`
}

// Group is the lines of one step of the work.
type Group struct {
	Step  meaning.Step `json:"step"`
	Title string       `json:"title"`
	Lines []Line       `json:"lines"`
	// Save says that now is a time to save, before what comes next; empty where it is not.
	Save string `json:"save,omitempty"`
}

// DialIn is the whole list.
type DialIn struct {
	// First says what to do before the first line.
	First  []string `json:"first"`
	Groups []Group  `json:"groups"`
	Leave  []Left   `json:"leave"`
	// Playing says what the player has to do that the source did by itself, or otherwise.
	Playing []string `json:"playing"`
	Count   int      `json:"count"`
}

// Of makes the list of a sheet. Every control of the target is in exactly one line or in
// Leave.
func Of(s *gloss.Sheet) DialIn {
	out := DialIn{Leave: []Left{}, Groups: []Group{}, Playing: []string{}}
	for _, r := range s.Recasts {
		if r.Player {
			out.Playing = append(out.Playing, strings.Join(r.Parts, ", ")+": "+r.Text)
		}
	}
	for _, m := range s.Moves {
		if text := Moving(&m); text != "" {
			out.Playing = append(out.Playing, text)
		}
	}
	for i := range s.Flavours {
		if text := Flavoured(&s.Flavours[i]); text != "" {
			out.Playing = append(out.Playing, text)
		}
	}
	if s.Target.Memory {
		out.First = []string{"Turn monitors and headphones down.", fmt.Sprintf("Initialise %s in a slot that may be overwritten.", s.Target.Name)}
	} else {
		out.First = []string{"Turn monitors and headphones down.", fmt.Sprintf("%s has no memory: every control that matters is on the list.", s.Target.Name)}
	}
	if len(s.Cables) > 0 {
		out.First = append(out.First, "Pull every patch cable; run cables from outputs to inputs only.")
	}
	for _, n := range s.Notes {
		if strings.HasPrefix(n, gloss.LayerNote) || strings.HasPrefix(n, gloss.TempoNote) {
			out.First = append(out.First, n)
		}
	}
	for _, step := range meaning.Steps {
		g := Group{Step: step.Step, Title: step.Title, Lines: []Line{}}
		for _, x := range s.Settings {
			if x.Step != step.Step {
				continue
			}
			if x.Action == gloss.Leave {
				out.Leave = append(out.Leave, Left{Control: x.Control, Section: x.Section, Label: x.Label, Reading: x.Reading, Why: x.Why})
				continue
			}
			l := Line{Key: x.Control, Section: x.Section, Label: x.Label, Reading: x.Reading, Why: x.Why, Caution: x.Caution, Hidden: x.Hidden, Verb: "set", Listen: x.Listen, Where: x.Where, Place: x.Place, Part: x.Part}
			l.Text = fmt.Sprintf("Set %s to %s", x.Label, x.Reading)
			if x.Action == gloss.Off {
				l.Verb, l.Text = "switch off", fmt.Sprintf("Switch off %s: set it to %s", x.Label, x.Reading)
			}
			g.Lines = append(g.Lines, l)
		}
		if step.Step == meaning.StepLFO {
			for _, c := range s.Cables {
				g.Lines = append(g.Lines, Line{Key: "cable:" + c.From + ">" + c.To, Section: "Cables", Label: c.FromLabel, Reading: c.ToLabel, Verb: "patch", Place: -1,
					Text: fmt.Sprintf("Patch %s into %s", c.FromLabel, c.ToLabel)})
			}
		}
		if len(g.Lines) > 0 {
			out.Groups = append(out.Groups, g)
			out.Count += len(g.Lines)
		}
	}
	if s.Rig != nil { // what stands outside comes last
		g := Group{Step: "outside", Title: "Outside: " + s.Rig.Rack.Name, Lines: []Line{}}
		for _, x := range s.Rig.Settings {
			if x.Action == gloss.Leave {
				continue
			}
			l := Line{Key: "outside:" + x.Control, Section: x.Section, Label: x.Label, Reading: x.Reading, Why: x.Why, Caution: x.Caution, Hidden: x.Hidden, Verb: "set", Place: -1, Text: fmt.Sprintf("On %s set %s to %s", s.Rig.Rack.Name, x.Label, x.Reading)}
			if x.Action == gloss.Off {
				l.Verb, l.Text = "switch off", fmt.Sprintf("On %s switch off %s: set it to %s", s.Rig.Rack.Name, x.Label, x.Reading)
			}
			g.Lines = append(g.Lines, l)
		}
		if len(g.Lines) > 0 {
			out.Groups = append(out.Groups, g)
			out.Count += len(g.Lines)
			out.First = append(out.First, fmt.Sprintf("Connect %s behind %s, outputs to inputs only, with both turned down.", s.Rig.Rack.Name, s.Target.Name))
		}
	}
	if s.Target.Memory {
		save(out.Groups)
	}
	return out
}

// save marks the points at which the trade saves: early, and before each big step, which is one that can jump in level, the modulation and the effects.
func save(groups []Group) {
	early := true
	for i := range groups {
		if i+1 == len(groups) {
			continue // compared first, and saved then
		}
		next := &groups[i+1]
		big := next.Step == meaning.StepLFO || next.Step == meaning.StepEffects || slices.ContainsFunc(next.Lines, func(l Line) bool { return l.Caution != "" })
		switch {
		case early && groups[i].Step != meaning.StepVoice:
			groups[i].Save, early = "Save now: what makes the sound is there.", false
		case big:
			groups[i].Save, early = fmt.Sprintf("Save now, before %s.", strings.ToLower(next.Title[:1])+next.Title[1:]), false
		}
	}
}

// Keys lists the keys of all lines.
func (l *DialIn) Keys() (out []string) {
	for _, g := range l.Groups {
		for _, x := range g.Lines {
			out = append(out, x.Key)
		}
	}
	return out
}

// Labels lists the labels of all lines, in the order of Keys.
func (l *DialIn) Labels() (out []string) {
	for _, g := range l.Groups {
		for _, x := range g.Lines {
			out = append(out, x.Label)
		}
	}
	return out
}

// Has tells whether a key is a line of the list.
func (l *DialIn) Has(key string) bool {
	for _, g := range l.Groups {
		for _, x := range g.Lines {
			if x.Key == key {
				return true
			}
		}
	}
	return false
}

// Moving says what is to be moved on the target while the phrase is played; empty where nothing is.
func Moving(m *gloss.Moving) string {
	when := strings.ToUpper(m.When[:1]) + m.When[1:]
	if len(m.Target) == 0 {
		switch m.Verdict {
		case gloss.Idle:
			return ""
		case gloss.LeftOut:
			return fmt.Sprintf("%s: %s from %s to %s is left out (%s)", when, m.Label, m.From, m.To, m.Reason)
		}
		if m.From == m.To {
			return fmt.Sprintf("%s: %s at %s", when, m.Label, m.To)
		}
		return fmt.Sprintf("%s: %s from %s to %s", when, m.Label, m.From, m.To)
	}
	var parts []string
	for _, t := range m.Target {
		parts = append(parts, fmt.Sprintf("%s %s from %s to %s", t.Section, t.Label, t.From, t.To))
	}
	return fmt.Sprintf("%s: move %s (for %s from %s to %s)", when, strings.Join(parts, ", "), m.Label, m.From, m.To)
}

// Flavoured says what is to be set otherwise on the target for a flavour; empty where nothing of it is in this layer.
func Flavoured(f *gloss.Flavoured) string {
	if len(f.Source) == 0 {
		return ""
	}
	parts := append([]string{}, f.Cables...)
	for _, t := range f.Target {
		parts = append(parts, fmt.Sprintf("%s %s to %s (from %s)", t.Section, t.Label, t.To, t.From))
	}
	if len(parts) == 0 {
		return fmt.Sprintf("For %q: nothing is set otherwise (%s)", f.Name, f.Verdict)
	}
	return fmt.Sprintf("For %q: %s", f.Name, strings.Join(parts, ", "))
}
