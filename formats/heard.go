package formats

import (
	"fmt"
	"strings"

	"glossator/core/gloss"
	"glossator/core/heard"
)

// Listened is a sheet with what listening to it has shown.
type Listened struct {
	*gloss.Sheet
	Heard *heard.Report `json:"heard"`
}

// HeardMarkdown tells what listening has shown, as the end of a sheet in Markdown; empty where nobody has listened.
func HeardMarkdown(s *gloss.Sheet, r *heard.Report) string {
	if r == nil {
		return ""
	}
	var b strings.Builder
	fmt.Fprintf(&b, "\n## As it sounds\n\n%s\n\n", r.Headline)
	for _, c := range r.Checks {
		state := "holds"
		if !c.OK {
			state = "fails: " + c.Detail
		}
		fmt.Fprintf(&b, "- %s (%s): %s\n", c.ID, c.What, state)
	}
	for _, x := range r.Lines {
		if x.Apart < 0.5 {
			continue
		}
		for i := range s.Glosses {
			if g := &s.Glosses[i]; g.ID == x.ID {
				with := ""
				if x.With > 0 {
					with = fmt.Sprintf(" together with %d more lines", x.With)
				}
				fmt.Fprintf(&b, "- %.1f: %s, %s is %s%s\n", x.Apart, g.Section, g.Label, g.Verdict, with)
			}
		}
	}
	return b.String()
}
