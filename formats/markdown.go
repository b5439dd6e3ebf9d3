package formats

import (
	"fmt"
	"strings"

	"glossator/core/gloss"
	"glossator/core/meaning"
)

// SheetMarkdown writes a sheet for people: the glosses in working order, then what to leave
// and what to switch off, then the audit.
func SheetMarkdown(s *gloss.Sheet) string {
	var b strings.Builder
	fmt.Fprintf(&b, "# %s: %s to %s\n\n", cell(s.PatchName), cell(s.Source.Name), cell(s.Target.Name))
	fmt.Fprintf(&b, "%s, tempo %g, school: %s; panels at revisions %d and %d.\n\n", s.PatchKind, s.Tempo, s.School, s.Source.Revision, s.Target.Revision)
	var sum []string
	for _, v := range gloss.Verdicts {
		sum = append(sum, fmt.Sprintf("%d %s", s.Summary[v], v))
	}
	fmt.Fprintf(&b, "%s.\n\n", strings.Join(sum, ", "))
	for _, n := range s.Notes {
		fmt.Fprintf(&b, "- %s\n", cell(n))
	}
	for _, step := range meaning.Steps {
		var rows strings.Builder
		for i := range s.Glosses {
			g := &s.Glosses[i]
			if g.Step != step.Step || g.Verdict == gloss.Idle {
				continue
			}
			fmt.Fprintf(&rows, "| %s: %s | %s | %s | %s | %s | %s | %s |\n", cell(g.Section), cell(g.Label), readings(g.Source), figureText(g.Wanted), readings(g.Target), figureText(g.Reached), g.Verdict, cell(reasonOf(g)))
		}
		if rows.Len() > 0 {
			fmt.Fprintf(&b, "\n## %s\n\n| control | %s | meaning | %s | reached | verdict | reason |\n|---|---|---|---|---|---|---|\n%s", step.Title, cell(s.Source.Name), cell(s.Target.Name), rows.String())
		}
	}
	if len(s.Recasts) > 0 {
		fmt.Fprintf(&b, "\n## By other means\n\n")
		for _, r := range s.Recasts {
			fmt.Fprintf(&b, "- %s (%s): %s. %s.\n", cell(strings.Join(r.Parts, ", ")), cell(r.Name), cell(r.Text), cell(r.Why))
		}
	}
	if len(s.Moves) > 0 {
		fmt.Fprintf(&b, "\n## While playing\n\n| when | %s | from | to | %s | verdict | reason |\n|---|---|---|---|---|---|---|\n", cell(s.Source.Name), cell(s.Target.Name))
		for _, m := range s.Moves {
			fmt.Fprintf(&b, "| %s | %s | %s | %s | %s | %s | %s |\n", cell(m.When), cell(m.Label), cell(m.From), cell(m.To), cell(moved(m.Target)), m.Verdict, cell(m.Reason))
		}
	}
	if len(s.Flavours) > 0 {
		fmt.Fprintf(&b, "\n## Flavours\n\n| flavour | %s | %s | verdict | reason |\n|---|---|---|---|---|\n", cell(s.Source.Name), cell(s.Target.Name))
		for _, f := range s.Flavours {
			to := append([]string{}, f.Cables...)
			fmt.Fprintf(&b, "| %s | %s | %s | %s | %s |\n", cell(f.Name), cell(moved(f.Source)), cell(strings.Join(append([]string{moved(f.Target)}, to...), "; ")), f.Verdict, cell(f.Reason))
		}
	}
	if len(s.Measure) > 0 {
		fmt.Fprintf(&b, "\n## To measure\n\n")
		for _, m := range s.Measure {
			fmt.Fprintf(&b, "- %s, %s: %s\n", cell(m.Panel), cell(m.Label), cell(m.Why))
		}
	}
	fmt.Fprintf(&b, "\n## Dial in\n\n")
	for _, x := range s.Settings {
		switch x.Action {
		case gloss.Set:
			fmt.Fprintf(&b, "- [ ] %s: set %s to %s\n", cell(x.Section), cell(x.Label), cell(x.Reading))
		case gloss.Off:
			fmt.Fprintf(&b, "- [ ] %s: switch off: %s to %s\n", cell(x.Section), cell(x.Label), cell(x.Reading))
		}
		if x.Caution != "" {
			fmt.Fprintf(&b, "  - %s\n", x.Caution)
		}
	}
	for _, c := range s.Cables {
		fmt.Fprintf(&b, "- [ ] patch %s into %s\n", cell(c.FromLabel), cell(c.ToLabel))
	}
	if s.Rig != nil {
		fmt.Fprintf(&b, "\nOutside, on %s:\n\n", cell(s.Rig.Rack.Name))
		for _, x := range s.Rig.Settings {
			if x.Action != gloss.Leave {
				fmt.Fprintf(&b, "- [ ] %s: set %s to %s\n", cell(x.Section), cell(x.Label), cell(x.Reading))
			}
		}
	}
	var leave []string
	for _, x := range s.Settings {
		if x.Action == gloss.Leave {
			leave = append(leave, cell(x.Section+" "+x.Label))
		}
	}
	if len(leave) > 0 {
		fmt.Fprintf(&b, "\nLeave as they are: %s.\n", strings.Join(leave, ", "))
	}
	fmt.Fprintf(&b, "\n## Audit\n\n")
	for _, c := range s.Audit {
		fmt.Fprintf(&b, "- %s %s: %s%s\n", c.ID, map[bool]string{true: "holds", false: "FAILS"}[c.OK], c.What, cell(map[bool]string{true: "", false: ": " + c.Detail}[c.OK || c.Detail == ""]))
	}
	return b.String()
}

// GlossCells gives a line of a sheet as plain cells: section, control, source, meaning, target, reached, verdict, reason.
func GlossCells(g *gloss.Gloss) []string {
	figure := func(f *gloss.Figure) string {
		if f == nil {
			return ""
		}
		return strings.TrimSpace(f.Text + " " + f.Tol)
	}
	return []string{g.Section, g.Label, plainReadings(g.Source), figure(g.Wanted), plainReadings(g.Target), figure(g.Reached), string(g.Verdict), reasonOf(g)}
}

func plainReadings(rs []gloss.Reading) string {
	out := make([]string, len(rs))
	for i, r := range rs {
		out[i] = r.Reading
		if len(rs) > 1 {
			out[i] = r.Label + " " + r.Reading
		}
		if r.Overridden {
			out[i] += " (by hand)"
		}
	}
	return strings.Join(out, ", ")
}

func cell(s string) string {
	return strings.NewReplacer("|", "\\|", "\n", " ", "<", "&lt;").Replace(s)
}

func readings(rs []gloss.Reading) string {
	if len(rs) == 0 {
		return "-"
	}
	return cell(plainReadings(rs))
}

func figureText(f *gloss.Figure) string {
	if f == nil {
		return "-"
	}
	return strings.TrimSpace(cell(f.Text) + " " + f.Tol)
}

func reasonOf(g *gloss.Gloss) string {
	var parts []string
	if g.Diff != "" && g.Diff != "0" {
		d := g.Diff
		if g.JNDs > 0 {
			d += fmt.Sprintf(" (%g jnd)", g.JNDs)
		}
		parts = append(parts, d)
	}
	if g.Reason != "" {
		parts = append(parts, g.Reason)
	}
	return strings.Join(parts, "; ")
}

// moved writes readings that are moved, in a line.
func moved(all []gloss.MovedTo) string {
	var out []string
	for _, t := range all {
		out = append(out, fmt.Sprintf("%s %s: %s to %s", t.Section, t.Label, t.From, t.To))
	}
	return strings.Join(out, "; ")
}
