package rules

var _ = heard(&transpose,
	said{"a sum", &Line{Sum: true}, "one sum"},
	said{"no sum", &Line{}, ""},
)
