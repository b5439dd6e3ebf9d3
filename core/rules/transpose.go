package rules

var transpose = Rule{ID: "transpose", Name: "Transposition split otherwise between footage, semitones and keyboard",
	Needs: "a pitch that the source sums of other parts than the target", Uses: "every control of the target that adds to the pitch",
	Penalty: 0.01, Why: "the sum is the same, no single control shows the same number", Source: "arithmetic: footage, semitones and cents add up",
	says: func(l *Line) string {
		if !l.Sum {
			return ""
		}
		return "set as one sum: the target splits it in other parts"
	}}
