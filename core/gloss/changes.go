package gloss

import "cmp"

// Change is a setting that is not the same on two sheets of one patch on one target.
type Change struct {
	Control string `json:"control"`
	Label   string `json:"label"`
	Was     string `json:"was"`
	Is      string `json:"is"`
	Why     string `json:"why"`
}

// Changes lists the settings in which a sheet differs from another one, in working order;
// a control that does nothing on it is not among them.
func Changes(was, is *Sheet) []Change {
	old := map[string]string{}
	for _, s := range was.Settings {
		old[s.Control] = s.Reading
	}
	why := map[string]string{}
	for i := range is.Glosses {
		for _, r := range is.Glosses[i].Target {
			if why[r.Control] == "" {
				why[r.Control] = is.Glosses[i].Reason
			}
		}
	}
	out := []Change{}
	for _, s := range is.Settings {
		if before, ok := old[s.Control]; ok && before != s.Reading && !s.Idle {
			reason := why[s.Control]
			if reason = cmp.Or(reason, s.Why); reason == "" && s.Reading == s.Init {
				reason = "left as init has it: nothing of this plan asks for it"
			}
			reason = cmp.Or(reason, "the part that it sets is played otherwise")
			out = append(out, Change{s.Control, s.Section + ": " + s.Label, before, s.Reading, reason})
		}
	}
	return out
}
