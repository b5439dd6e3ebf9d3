package rules

var _ = heard(&rack,
	said{"outside", &Line{Rack: "Ballast"}, "outside, on Ballast"},
	said{"inside", &Line{}, ""},
)
