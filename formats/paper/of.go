package paper

import (
	"fmt"
	"strings"

	"glossator/core/dialin"
	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/formats"
)

// Sheet is a sheet as a document.
func Sheet(s *gloss.Sheet) *Paper {
	p := &Paper{
		Title: fmt.Sprintf("%s: %s to %s", s.PatchName, s.Source.Name, s.Target.Name), Wide: true,
		Columns: []string{"Section", "Control", s.Source.Name, "Meaning", s.Target.Name, "Reached", "Verdict", "Reason"}, Widths: []float64{12, 14, 14, 13, 22, 13, 8, 34},
	}
	var sum []string
	for _, v := range gloss.Verdicts {
		sum = append(sum, fmt.Sprintf("%d %s", s.Summary[v], v))
	}
	p.About = append([]string{fmt.Sprintf("%s, tempo %g, school: %s; panels at revisions %d and %d. %s.", s.PatchKind, s.Tempo, s.School, s.Source.Revision, s.Target.Revision, strings.Join(sum, ", "))}, s.Notes...)
	for _, step := range meaning.Steps {
		x := Part{Title: step.Title}
		for i := range s.Glosses {
			if g := &s.Glosses[i]; g.Step == step.Step && g.Verdict != gloss.Idle {
				x.Rows = append(x.Rows, formats.GlossCells(g))
			}
		}
		p.add(x)
	}
	means := Part{Title: "By other means"}
	for _, r := range s.Recasts {
		means.Lines = append(means.Lines, fmt.Sprintf("%s (%s): %s. %s.", strings.Join(r.Parts, ", "), r.Name, r.Text, r.Why))
	}
	playing := Part{Title: "While playing"}
	for i := range s.Moves {
		if t := dialin.Moving(&s.Moves[i]); t != "" {
			playing.Lines = append(playing.Lines, t)
		}
	}
	for i := range s.Flavours {
		if t := dialin.Flavoured(&s.Flavours[i]); t != "" {
			playing.Lines = append(playing.Lines, t)
		}
	}
	measure := Part{Title: "To measure"}
	for _, m := range s.Measure {
		measure.Lines = append(measure.Lines, fmt.Sprintf("%s, %s: %s", m.Panel, m.Label, m.Why))
	}
	audit := Part{Title: "Audit"}
	for _, c := range s.Audit {
		said := "holds"
		if !c.OK {
			said = strings.TrimSuffix("fails: "+c.Detail, ": ")
		}
		audit.Lines = append(audit.Lines, fmt.Sprintf("%s %s: %s", c.ID, c.What, said))
	}
	for _, x := range []Part{means, playing, measure, audit} {
		p.add(x)
	}
	return p
}

func (p *Paper) add(x Part) {
	if len(x.Rows)+len(x.Lines) > 0 {
		p.Parts = append(p.Parts, x)
	}
}

// DialIn is a dial-in list as a document, large, with boxes to tick.
func DialIn(s *gloss.Sheet, l *dialin.DialIn, ticked func(key string) bool) *Paper {
	p := &Paper{Title: fmt.Sprintf("Dial in: %s on %s", s.PatchName, s.Target.Name), Ticks: true, Large: true, Columns: []string{"Section", "Do", "Control", "Reading", "Hidden", "Where", "Listen for", "Why", "Caution"}, Widths: []float64{20, 12, 26, 22, 0, 0, 0, 0, 20}}
	p.add(Part{Title: "First", Lines: l.First})
	for _, g := range l.Groups {
		x := Part{Title: g.Title}
		for _, y := range g.Lines {
			x.Rows = append(x.Rows, []string{y.Section, y.Verb, y.Label, y.Reading, map[bool]string{true: "yes"}[y.Hidden], y.Where, y.Listen, y.Why, y.Caution})
			x.Done = append(x.Done, ticked(y.Key))
		}
		p.add(x)
		if g.Save != "" {
			p.add(Part{Title: "Save", Lines: []string{g.Save}})
		}
	}
	p.add(Part{Title: "While playing", Lines: l.Playing})
	var leave []string
	for _, x := range l.Leave {
		leave = append(leave, strings.TrimSpace(x.Section+" "+x.Label))
	}
	if len(leave) > 0 {
		p.add(Part{Title: "Leave as they are", Lines: []string{strings.Join(leave, ", ")}})
	}
	return p
}

// Changeover is a changeover as a document, large, with boxes to tick.
func Changeover(x *dialin.Changeover) *Paper {
	p := &Paper{Title: fmt.Sprintf("%s: from %s to %s", x.On, x.From, x.To), About: []string{fmt.Sprintf("%d to change, %d stand right already. Turn down first.", x.Count(), x.Same)}, Ticks: true, Large: true,
		Columns: []string{"Control", "From", "To", "Caution"}, Widths: []float64{30, 24, 24, 22}}
	cables := func(title string, all []string) {
		y := Part{Title: title}
		for _, c := range all {
			from, to, _ := strings.Cut(c, " to ")
			y.Rows = append(y.Rows, []string{"cable", from, to, ""})
		}
		p.add(y)
	}
	cables("Pull", x.Pull)
	var y Part
	for _, m := range x.Moves {
		if m.Section != y.Title {
			p.add(y)
			y = Part{Title: m.Section}
		}
		from := m.From
		if from == "" {
			from = "anywhere"
		}
		y.Rows = append(y.Rows, []string{m.Label, from, m.To, m.Caution})
	}
	p.add(y)
	cables("Run", x.Run)
	return p
}
