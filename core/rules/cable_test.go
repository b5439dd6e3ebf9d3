package rules

import "glossator/core/meaning"

var _ = heard(&cable,
	said{"a cable", &Line{Route: &meaning.Route{From: "key"}, Means: "cable", By: "KBD to VCF"}, "by cable: KBD to VCF"},
	said{"a switch", &Line{Route: &meaning.Route{From: "velocity"}, Means: "switch", By: "VEL>VCF"}, "by the switch: VEL>VCF"},
	said{"wired for good", &Line{Route: &meaning.Route{From: "key"}, Means: "wired"}, ""},
)
