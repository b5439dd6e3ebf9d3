package rules

import "glossator/core/meaning"

func glides(law, when string) meaning.Module {
	return mod("v", meaning.Voice, p{"glide": 0.12, "glideLaw": law, "glideWhen": when})
}

var _ = heard(&glide,
	said{"a constant time by a constant rate", line(meaning.Voice, "glideLaw", glides("time", "always"), glides("rate", "always")), "a fifth takes 70 ms here, 120 ms there"},
	said{"a constant rate by a constant time", line(meaning.Voice, "glideLaw", glides("rate", "always"), glides("time", "always")), "a fifth takes 120 ms here, 70 ms there"},
	said{"a glide of tied notes always", line(meaning.Voice, "glideWhen", glides("time", "legato"), glides("time", "always")), "between all notes"},
	said{"a glide always of tied notes", line(meaning.Voice, "glideWhen", glides("time", "always"), glides("time", "legato")), "play them over one another"},
	said{"the same glide", line(meaning.Voice, "glideLaw", glides("time", "always"), glides("time", "always")), ""},
)
