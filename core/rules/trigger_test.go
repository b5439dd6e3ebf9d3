package rules

import "glossator/core/meaning"

var tied, again = mod("v", meaning.Voice, p{"trigger": "legato"}), mod("v", meaning.Voice, p{"trigger": "retrigger"})

var _ = heard(&trigger,
	said{"legato for retrigger", line(meaning.Voice, "trigger", again, tied), "lift each key"},
	said{"retrigger for legato", line(meaning.Voice, "trigger", tied, again), "a shorter attack"},
	said{"both retrigger", line(meaning.Voice, "trigger", again, again), ""},
)
