package rules

var cable = Rule{ID: "cable", Name: "Route by a cable, or by a switch that wires it",
	Needs: "a route of velocity, keys or another source, and points or a switch for it", Uses: "two points and a cable, or the switch",
	Penalty: CableCost, Why: "a cable is more to do than a switch, and it is pulled out again by the next patch", Source: "common practice, no source",
	says: func(l *Line) string {
		switch {
		case l.Route == nil:
			return ""
		case l.Means == "cable":
			return "by cable: " + l.By
		case l.Means == "switch" && (l.Route.From == "velocity" || l.Route.From == "key"):
			return "by the switch: " + l.By
		}
		return ""
	}}

// CableCost is what a cable costs where a switch or a slot would do, as a share of losing the route.
const CableCost = 0.05
