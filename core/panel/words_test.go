package panel

import (
	"reflect"
	"slices"
	"testing"

	"glossator/core/meaning"
	"glossator/core/quantity"
)

// What is written in words is read back the same, whatever marks its names hold.
func TestConditionsInWords(t *testing.T) {
	for _, ws := range [][]When{
		nil,
		{{Control: "wave", In: []string{"saw"}}},
		{{Control: "wave", In: []string{"saw", "pulse | square"}}, {Control: "a=b", In: []string{"on; off", `back\slash`}}},
	} {
		text := WhenText(ws)
		got, err := ReadWhen(text)
		if err != nil || !reflect.DeepEqual(got, ws) {
			t.Errorf("%v is %q and comes back as %v (%v)", ws, text, got, err)
		}
	}
	for _, wrong := range []string{"wave", "= saw", "wave =", "wave = |", "wave = saw; x", "a = b = c"} {
		if ws, err := ReadWhen(wrong); err == nil {
			t.Errorf("%q was read as %v", wrong, ws)
		}
	}
	if ws, err := ReadWhen(" ; wave=saw|pulse ;"); err != nil || len(ws) != 1 || len(ws[0].In) != 2 {
		t.Errorf("without spaces: %v, %v", ws, err)
	}
}

func TestSettableOfABlankPanel(t *testing.T) {
	p := blank("x", "X")
	var all []string
	for _, x := range p.Settable() {
		all = append(all, x.Ref)
		if x.Ref == "filter.cutoff" && (x.Dim != quantity.DimFrequency || x.Depth) || x.Ref == "env-amp.depth" && !x.Depth {
			t.Errorf("%+v", x)
		}
	}
	for _, c := range p.Controls {
		for _, b := range c.Means {
			if !slices.Contains(all, b.Param) {
				t.Errorf("%s sets %s, which is not offered", c.ID, b.Param)
			}
		}
	}
	if !slices.Contains(all, meaning.Ref("env-amp", meaning.PDepth)) {
		t.Error("the depth of a route is not offered")
	}
}
