package rules

import (
	"fmt"
	"strings"
)

var layer = Rule{ID: "layer", Name: "Second layer or second pass",
	Needs: "oscillators, noise or operators that are left out", Uses: "a second layer of the target, or a second recording",
	Penalty: 0.3, Why: "two sounds to set, to play and to balance where there was one", Source: "common practice, no source",
	says: func(l *Line) string {
		if len(l.Missing) == 0 {
			return ""
		}
		list := l.Missing
		if more := len(list) - 4; more > 0 {
			list = append(append([]string{}, list[:4]...), fmt.Sprintf("%d more", more))
		}
		return fmt.Sprintf("Not played here: %s. A second layer of %s, or a second pass when recording, can bring that in.", strings.Join(list, ", "), l.Panel)
	}}
