package rules

import "fmt"

var initTraps = Rule{ID: "init", Name: "What init leaves on is switched off",
	Needs: "a control of the target that does something at init which the patch has not", Uses: "that control",
	Penalty: 0.01, Why: "one more thing to set, and a sound that is wrong where it is forgotten", Source: "common practice, no source",
	says: func(l *Line) string {
		if l.Init == "" {
			return ""
		}
		return fmt.Sprintf("init holds %s, the patch has none: switched off", l.Init)
	}}
