package nearest

import (
	"slices"
	"strings"

	"glossator/core/compare"
)

// Begun gives the plans that a task compares before any is searched: their distances, what each sets, and how many were asked for by refusing one way of a rule.
func Begun(t Task) (apart []compare.Distance, sets []string, ways int, err error) {
	t.Options.School = "ear"
	f := &finder{Task: &t, seen: map[string]bool{}}
	if err := f.candidates(); err != nil {
		return nil, nil, 0, err
	}
	for _, c := range f.list {
		apart, sets = append(apart, c.walk.Distance()), append(sets, same(c.sheet))
		for _, list := range c.tuned.Refuse {
			if slices.ContainsFunc(list, func(x string) bool { return strings.Contains(x, "|") }) {
				ways++
			}
		}
	}
	return apart, sets, ways, nil
}
