package panel

import "testing"

func TestBlankHasNoFaults(t *testing.T) {
	c, err := Compile(Blank("new-one", "New one"))
	if err != nil {
		t.Fatal(err)
	}
	if len(c.Controls) < 8 || len(Diff(c.Panel, Blank("new-one", "New one"))) != 0 {
		t.Errorf("%d controls; two blanks differ by %v", len(c.Controls), Diff(c.Panel, Blank("new-one", "New one")))
	}
}
