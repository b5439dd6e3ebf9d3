package meaning

import (
	"testing"

	q "glossator/core/quantity"
)

// What is heard itself: an oscillator that says nothing of its level is at full, an operator that says nothing of its output only modulates, whatever its level is; what is 60 dB
// down is not heard.
func TestSounds(t *testing.T) {
	db := func(x float64) Value { return Value{Quantity: q.Quantity{Dim: q.DimLevel, Value: x}} }
	none := Value{Quantity: q.OffOf(q.DimLevel)}
	for _, x := range []struct {
		kind   Kind
		params map[ParamName]Value
		want   bool
	}{
		{Osc, nil, true}, {Sub, nil, true}, {Noise, nil, true}, {Operator, nil, false},
		{Osc, map[ParamName]Value{PLevel: none}, false}, {Osc, map[ParamName]Value{PLevel: db(-61)}, false}, {Noise, map[ParamName]Value{PLevel: db(-40)}, true},
		{Operator, map[ParamName]Value{PLevel: db(0)}, false}, {Operator, map[ParamName]Value{PLevel: db(-20), POutput: db(0)}, true},
		{Operator, map[ParamName]Value{PLevel: db(0), POutput: none}, false}, {Operator, map[ParamName]Value{POutput: db(-70)}, false},
	} {
		if m := (&Module{Kind: x.kind, Params: x.params}); m.Sounds() != x.want {
			t.Errorf("%s %v: heard %v", x.kind, x.params, !x.want)
		}
	}
}
