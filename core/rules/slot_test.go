package rules

import (
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var _ = heard(&slot,
	said{"a slot", &Line{Route: &meaning.Route{From: "key"}, Means: "slot", By: "Slot 3"}, "in the matrix: Slot 3"},
	said{"a slot for a slot", &Line{Route: &meaning.Route{From: "key", Extra: map[meaning.ParamName]meaning.Value{"dest": {Quantity: q.Named(q.DimName, "cutoff")}}}, Means: "slot", By: "Slot 3"}, ""},
)
