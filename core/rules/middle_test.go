package rules

var _ = heard(&middle,
	said{"bass left in the middle", &Line{Low: 2}, "the low oscillators left in the middle"},
	said{"one of it", &Line{Low: 1}, "the low oscillator left in the middle"},
	said{"no bass", &Line{}, ""},
)
