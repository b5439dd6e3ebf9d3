package fault

import (
	"errors"
	"fmt"
	"testing"
)

// Faults name file, place and what was expected; those of a part stand below its place.
func TestFaults(t *testing.T) {
	var part List
	part.Add("/min", "expected %d, got %q", 3, "x")
	part.Add("", "expected something")
	var l List
	if l.Err() != nil {
		t.Error("no fault is an error")
	}
	l.Under("/controls/4/law", part)
	l.Add("/name", "expected a name")
	want := []Fault{{Path: "/controls/4/law/min", Message: `expected 3, got "x"`}, {Path: "/controls/4/law", Message: "expected something"}, {Path: "/name", Message: "expected a name"}}
	for i, f := range want {
		if l[i] != f {
			t.Errorf("fault %d is %+v, want %+v", i, l[i], f)
		}
	}
	if part[0].Path != "/min" {
		t.Error("the faults of the part have been changed")
	}
	err := fmt.Errorf("read: %w", l.In("keel.json").Err())
	var got List
	if !errors.As(err, &got) || len(got) != 3 || got[0].File != "keel.json" {
		t.Errorf("the faults are not found in %v", err)
	}
	for text, f := range map[string]Fault{
		"expected a name":                  {Message: "expected a name"},
		"/a: expected a name":              {Path: "/a", Message: "expected a name"},
		"keel.json: /a: expected a name":   {File: "keel.json", Path: "/a", Message: "expected a name"},
		"keel.json: a file without places": {File: "keel.json", Message: "a file without places"},
	} {
		if f.String() != text {
			t.Errorf("%q, want %q", f.String(), text)
		}
	}
	if (List{{Message: "one"}, {Message: "two"}}).Error() != "one\ntwo" {
		t.Error("faults do not stand one a line")
	}
}
