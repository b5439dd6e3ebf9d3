package dialin

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"glossator/core/gloss"
	"glossator/core/panel"
)

// Changeover is what has to be changed on an instrument between two patches, in the order of its panel.
type Changeover struct {
	From  string `json:"from"`
	To    string `json:"to"`
	On    string `json:"on"`
	Moves []Turn `json:"moves"`
	// Pull and Run are cables that go and come, as "OUTPUT to INPUT".
	Pull []string `json:"pull"`
	Run  []string `json:"run"`
	// Same counts the controls that matter and stand right already.
	Same int `json:"same"`
}

// Turn is one control of a changeover.
type Turn struct {
	Control string `json:"control"`
	Section string `json:"section"`
	Label   string `json:"label"`
	// From is where it stands, empty where that is not known: it did nothing before, and may stand anywhere.
	From    string `json:"from"`
	To      string `json:"to"`
	Caution string `json:"caution,omitempty"`
	Hidden  bool   `json:"hidden,omitempty"`
}

// Between lists the changeover from one sheet to another on the same target. A control that does nothing in the second is left where it is; on an instrument without memory one that did nothing in the first stands anywhere, and is set. The error says that the targets differ.
func Between(c *panel.Compiled, from, to *gloss.Sheet) (out Changeover, err error) {
	if from.Target.ID != to.Target.ID {
		return out, fmt.Errorf("expected two sheets on one instrument, got %s and %s", from.Target.Name, to.Target.Name)
	}
	out = Changeover{From: from.PatchName, To: to.PatchName, On: to.Target.Name, Moves: []Turn{}, Pull: []string{}, Run: []string{}}
	stood := map[string]*gloss.Setting{}
	for i := range from.Settings {
		stood[from.Settings[i].Control] = &from.Settings[i]
	}
	for i := range to.Settings {
		x := &to.Settings[i]
		was := stood[x.Control]
		if anywhere(to, x) {
			continue
		}
		at := ""
		if was != nil && !anywhere(from, was) {
			at = was.Reading
		}
		if at == x.Reading {
			out.Same++
			continue
		}
		out.Moves = append(out.Moves, Turn{Control: x.Control, Section: x.Section, Label: x.Label, From: at, To: x.Reading, Caution: x.Caution, Hidden: x.Hidden})
	}
	place := func(id string) int {
		k, _ := c.ControlIndex(id)
		return k
	}
	sort.SliceStable(out.Moves, func(i, k int) bool { return place(out.Moves[i].Control) < place(out.Moves[k].Control) })
	before, after := cables(from), cables(to)
	for _, x := range before {
		if !slices.Contains(after, x) {
			out.Pull = append(out.Pull, x)
		}
	}
	for _, x := range after {
		if !slices.Contains(before, x) {
			out.Run = append(out.Run, x)
		}
	}
	return out, nil
}

// anywhere tells whether a sheet leaves a control wherever it stands: on an instrument without memory, where it does nothing.
func anywhere(s *gloss.Sheet, x *gloss.Setting) bool {
	return !s.Target.Memory && x.Action == gloss.Leave
}

func cables(s *gloss.Sheet) (out []string) {
	for _, c := range s.Cables {
		out = append(out, c.FromLabel+" to "+c.ToLabel)
	}
	return out
}

// Count is how many moves of the hand it takes: a cable that goes and comes elsewhere is two.
func (x *Changeover) Count() int { return len(x.Moves) + len(x.Pull) + len(x.Run) }

// Markdown writes the changeover for a music stand.
func (x *Changeover) Markdown() string {
	var b strings.Builder
	fmt.Fprintf(&b, "# %s: from %s to %s\n\n%d to change, %d stand right already. Turn down first.\n", x.On, x.From, x.To, x.Count(), x.Same)
	for _, c := range x.Pull {
		fmt.Fprintf(&b, "\n- [ ] pull %s", c)
	}
	section := ""
	for _, m := range x.Moves {
		if m.Section != section {
			section = m.Section
			fmt.Fprintf(&b, "\n\n## %s\n", section)
		}
		from := m.From
		if from == "" {
			from = "anywhere"
		}
		fmt.Fprintf(&b, "\n- [ ] %s: %s to **%s**", m.Label, from, m.To)
		if m.Caution != "" {
			fmt.Fprintf(&b, " (%s)", m.Caution)
		}
	}
	for _, c := range x.Run {
		fmt.Fprintf(&b, "\n- [ ] run %s", c)
	}
	return b.String() + "\n"
}
