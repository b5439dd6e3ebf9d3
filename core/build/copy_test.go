package build_test

import (
	"strings"
	"testing"

	"glossator/core/build"
	"glossator/core/panel"
	"glossator/testutil/testrack"
)

func began(t *testing.T, start string) *panel.Panel {
	t.Helper()
	p, err := build.Begin(start, "mine", "Mine", "")
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// Every section of every demo panel goes into a blank panel and into a full one, and leaves no fault that was not there.
func TestSectionsOfOtherPanelsAreBlocks(t *testing.T) {
	for _, to := range []string{"blank", "poly"} {
		into := began(t, to)
		for id, from := range testrack.Panels(t) {
			for _, s := range build.Owned(from.Panel) {
				now, section, left, err := build.Copy(into, from.Panel, s.Section, "")
				if err != nil {
					t.Errorf("%s of %s into %s: %v", s.Label, id, to, err)
					continue
				}
				if _, err := panel.Compile(now); err != nil {
					t.Errorf("%s of %s into %s: %v", s.Label, id, to, err)
				}
				n := 0
				for _, c := range now.Controls {
					if c.Section == section {
						n++
						if c.MIDI != nil {
							t.Errorf("%s of %s brings a MIDI address along", c.Label, id)
						}
					}
				}
				if n < s.Controls {
					t.Errorf("%s of %s into %s: %d controls of %d", s.Label, id, to, n, s.Controls)
				}
				_ = left
			}
		}
	}
	if _, _, _, err := build.Copy(began(t, "blank"), began(t, "mono"), "gone", ""); err == nil || !strings.Contains(err.Error(), "Mine has no such section") {
		t.Errorf("a section that is gone: %v", err)
	}
}
