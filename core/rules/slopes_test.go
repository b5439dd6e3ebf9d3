package rules

import "glossator/core/meaning"

var ladder, two = mod("f", meaning.Filter, p{"poles": 4, "resonance": 0.5}), mod("f", meaning.Filter, p{"poles": 2, "resonance": 0.5})

var _ = heard(&slopes,
	said{"four poles by two", line(meaning.Filter, "resonance", ladder, two), "4 poles there, 2 here"},
	said{"four by four", line(meaning.Filter, "resonance", ladder, ladder), ""},
)
