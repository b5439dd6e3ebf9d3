package rules

var _ = heard(&initTraps,
	said{"a trap of init", &Line{Init: "20 %"}, "init holds 20 %"},
	said{"no trap", &Line{}, ""},
)
