package rules

import "glossator/core/meaning"

var steps, curves = mod("l", meaning.LFO, p{"wave": "sample and hold"}), mod("l", meaning.LFO, p{"wave": "smooth random"})

var _ = heard(&chance,
	said{"steps by curves", line(meaning.LFO, "wave", steps, curves), "glides by chance"},
	said{"curves by steps", line(meaning.LFO, "wave", curves, steps), "jumps by chance"},
	said{"steps by steps", line(meaning.LFO, "wave", steps, steps), ""},
	said{"steps by a triangle", line(meaning.LFO, "wave", steps, rate), ""},
)
