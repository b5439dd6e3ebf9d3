package rules

import "glossator/core/meaning"

var rate = mod("l", meaning.LFO, p{"rate": 2.0})

// synced gives the line of a rate, in beats there or here.
func synced(there, here float64) *Line {
	l := line(meaning.LFO, "rate", rate, rate)
	l.Want.Beats, l.Got.Beats = there, here
	return l
}

var _ = heard(&divisions,
	said{"a division for a free rate", synced(0, 1), "it moves with the tempo"},
	said{"a free rate for a division", synced(1, 0), "drifts if the tempo moves"},
	said{"free for free", line(meaning.LFO, "rate", rate, rate), ""},
)
