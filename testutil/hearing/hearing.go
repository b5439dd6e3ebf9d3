// Package hearing makes sheets and listens to them, for the tests that do so over many pairs.
package hearing

import (
	"testing"

	"glossator/core/audition"
	"glossator/core/gloss"
	"glossator/core/heard"
	"glossator/core/nearest"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/translate"
)

// Made makes a sheet, by ear too.
func Made(t testing.TB, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, school plan.School) (*gloss.Input, *gloss.Sheet) {
	t.Helper()
	opt := translate.Options{School: school}
	if school == plan.Ear {
		notes, _, err := audition.Notes(p, "", 0)
		if err == nil {
			opt.Choices.Tuned, err = nearest.Find(nearest.Task{Source: src, Target: dst, Patch: p, Notes: notes})
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	in, s, err := translate.Made(src, p, dst, opt)
	if err != nil {
		t.Fatal(err)
	}
	return in, s
}

// Listen makes a sheet and listens to it.
func Listen(t testing.TB, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, school plan.School, lines bool) (*gloss.Input, *gloss.Sheet, *heard.Report) {
	t.Helper()
	in, s := Made(t, src, p, dst, school)
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		t.Fatal(err)
	}
	r, err := heard.Of(heard.Task{In: in, Sheet: s, Notes: notes, Lines: lines, Held: true})
	if err != nil {
		t.Fatal(err)
	}
	return in, s, r
}

// Check gives a check of a report; nil where it was not asked.
func Check(r *heard.Report, id string) *gloss.Check {
	for i := range r.Checks {
		if r.Checks[i].ID == id {
			return &r.Checks[i]
		}
	}
	return nil
}
