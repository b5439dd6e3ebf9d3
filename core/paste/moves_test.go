package paste_test

import (
	"fmt"
	"strings"
	"testing"

	"glossator/core/paste"
	"glossator/testutil/testrack"
)

// Lines that say what is moved, in several ways of writing; what is not understood says what was expected. Bars of four quarters, counted from 1 (common practice, no source).
func TestMovesAreReadAsTheyAreSaid(t *testing.T) {
	panels := testrack.Panels(t)
	for _, x := range []struct{ panel, line, want string }{
		{"windlass", "cutoff 4.0 to 9.0, bars 5 to 8", "filter.cutoff 4/1 4/1 4.0>9.0"},
		{"windlass", "cutoff from 4 to 9 from bar 5 to bar 8", "filter.cutoff 4/1 4/1 4.0>9.0"},
		{"windlass", "filter cutoff to 9 over bar 2", "filter.cutoff 1/1 1/1 now>9.0"},
		{"windlass", "resonance 7 at bar 3", "filter.resonance 2/1 0 now>7.0"},
		{"halyard", "cutoff 40 to 90 at bar 2 for 2 bars", "filter.cutoff 1/1 2/1 40>90"},
		{"halyard", "cutoff 40 to 90 at bar 2, beat 3 for 3 beats", "filter.cutoff 3/2 3/4 40>90"},
		{"halyard", "cutoff 40 to 90 at 17 for 2 bars", "filter.cutoff 16/1 2/1 40>90"},
		{"halyard", "wheel 0 to 100 %, bars 1-2", "wheel 0 2/1 0 %>100 %"},
		{"halyard", "mod wheel to full at bar 2 for 1/2", "wheel 1/1 1/2 0 %>100 %"},
		{"halyard", "wheel: half at 1/4", "wheel 1/4 0 0 %>50 %"},
		{"halyard", "bend 0 to -50 % at 1/2 for 1/8", "bend 1/2 1/8 0 %>-50 %"},
		{"halyard", "pitch bend down to 0 at bar 1 for 1 beat", "bend 0 1/4 -100 %>0 %"},
		{"halyard", "pressure off to max in bar 3", "aftertouch 2/1 1/1 0 %>100 %"},
		{"halyard", "expression 30 to 80, bar 1 to 4", "pedal 0 4/1 30 %>80 %"},
		{"halyard", "hold, bar 3", "hold 2/1 0 0 %>100 %; hold 3/1 0 100 %>0 %"},
		{"halyard", "sustain pedal down at bar 2 for 2 beats", "hold 1/1 0 0 %>100 %; hold 3/2 0 100 %>0 %"},
		{"halyard", "breath 20 % to 60 % at 3/8 for 1/4.", "breath 3/8 3/8 20 %>60 %"},
		{"halyard", "cutoff 40 to 90", "? when it is moved"},
		{"halyard", "wheel 0 to 300 %, bar 1", "? 0 to 100 % of the way"},
		{"halyard", "bend 0 to 2 st, bar 1", "? in per cent of its way"},
		{"halyard", "glow 4 to 9, bar 1", "? no control of Halyard"},
		{"halyard", "cutoff 40 to 900, bar 1", "? "},
		{"halyard", "cutoff 40 to 90, bars 8 to 5", "? the later one last"},
		{"halyard", "", "? when it is moved"}, {"halyard", ", bar 1", "? "},
	} {
		c := panels[x.panel]
		all, err := paste.ReadMoves(c, x.line, func(int) string { return "now" })
		got := ""
		for i, m := range all {
			if i > 0 {
				got += "; "
			}
			got += fmt.Sprintf("%s %s %s %s>%s", m.What, m.At, m.For, m.From, m.To)
		}
		if err != nil {
			got = "? " + err.Error()
		}
		if got != x.want && !(strings.HasPrefix(x.want, "?") && strings.HasPrefix(got, "?") && strings.Contains(got, x.want[2:])) {
			t.Errorf("%q on %s: %s, want %s", x.line, x.panel, got, x.want)
		}
	}
}

func FuzzReadMoves(f *testing.F) {
	for _, x := range []string{"cutoff 40 to 90, bars 5 to 8", "wheel to full at bar 2 for 2 bars", "bend 0 to -50 % at 1/2 for 1/8", "hold, bar 3"} {
		f.Add(x)
	}
	c := testrack.Panels(f)["halyard"]
	f.Fuzz(func(t *testing.T, line string) {
		all, err := paste.ReadMoves(c, line, func(k int) string { return c.Controls[k].Init })
		if (err == nil) != (len(all) > 0) {
			t.Errorf("%q: %v, %v", line, all, err)
		}
	})
}
