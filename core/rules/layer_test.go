package rules

var _ = heard(&layer,
	said{"oscillators left out", &Line{Missing: []string{"A", "B", "C", "D", "E", "F"}, Panel: "Thole"}, "A, B, C, D, 2 more. A second layer of Thole"},
	said{"nothing left out", &Line{}, ""},
)
