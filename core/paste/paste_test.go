package paste_test

import (
	"strings"
	"testing"

	"glossator/core/paste"
	"glossator/testutil/testrack"
)

// Lines as programmers write them; common practice, no source.
func TestNotes(t *testing.T) {
	rack := testrack.Panels(t)
	for _, c := range []struct{ panel, text, control, reading string }{
		{"halyard", "Osc 2 level ~ 3/4", "osc2.level", "~3/4"},
		{"halyard", "cutoff 61", "filter.cutoff", "61"},
		{"halyard", "reso 20", "filter.resonance", "20"},
		{"halyard", "OSC1 wave = saw", "osc1.wave", "saw"},
		{"halyard", "lfo1 wave tri", "lfo1.wave", "triangle"},
		{"halyard", "LFO 1 division: 1/8.", "lfo1.division", "1/8."},
		{"halyard", "Envelope 2 attack at 84", "env2.attack", "84"},
		{"halyard", "Osc 3 range 16'", "osc3.range", "16'"},
		{"kedge", "Low-pass cutoff ~350 Hz", "lowpass.cutoff", "~350 Hz"},
		{"kedge", "attack 9:30", "env.attack", "9:30"},
		{"kedge", "Osc 2 tune about 12:15", "osc2.tune", "~about 12:15"},
		{"windlass", "filter envelope decay 300 ms", "fenv.decay", "300 ms"},
		{"windlass", "osc 1 wave: narrow pulse", "osc1.wave", "narrow pulse"},
		{"windlass", "key tracking 1/3", "filter.track", "1/3"},
		{"fairlead", "Operator II ratio 3", "opr2.ratio", "3"},
		{"bowline", "Filter resonance 70", "filter.resonance", "70"},
	} {
		r := paste.Read(rack[c.panel], c.text)
		if len(r.Guesses) != 1 || r.Guesses[0].Control != c.control {
			t.Errorf("%s, %q: %+v, %+v", c.panel, c.text, r.Guesses, r.Unmatched)
			continue
		}
		if g := r.Guesses[0]; g.Reading != c.reading && !strings.HasPrefix(c.reading, "~about") || g.Certainty <= 0 || g.Certainty > 1 {
			t.Errorf("%s, %q: reading %q, certainty %v", c.panel, c.text, g.Reading, g.Certainty)
		}
	}
}

// A line keeps its section: "Envelope 1 attack 20, decay 40" is one envelope throughout.
func TestALineKeepsItsSection(t *testing.T) {
	h := testrack.Panels(t)["halyard"]
	r := paste.Read(h, "Envelope 1 attack 20, decay 40; sustain 60\nEnvelope 2 attack 10, decay 30")
	want := []string{"env1.attack 20", "env1.decay 40", "env1.sustain 60", "env2.attack 10", "env2.decay 30"}
	if len(r.Guesses) != len(want) {
		t.Fatalf("%+v %+v", r.Guesses, r.Unmatched)
	}
	for i, g := range r.Guesses {
		if g.Control+" "+g.Reading != want[i] {
			t.Errorf("%q was taken for %s %s, want %s", g.Text, g.Control, g.Reading, want[i])
		}
	}
}

// What fits several controls is less sure and says so; what fits none says why.
func TestDoubtIsSaid(t *testing.T) {
	h := testrack.Panels(t)["halyard"]
	sure, vague := paste.Read(h, "envelope 1 attack 20").Guesses[0], paste.Read(h, "attack 20").Guesses[0]
	if vague.Certainty >= sure.Certainty || len(vague.Others) == 0 || len(sure.Others) != 0 {
		t.Errorf("sure %v %v, vague %v %v", sure.Certainty, sure.Others, vague.Certainty, vague.Others)
	}
	for text, says := range map[string]string{"flux capacitor 88": "no control", "cutoff": "no control", "filter cutoff 900": "out of range", "hello": "no control"} {
		r := paste.Read(h, text)
		if len(r.Guesses) != 0 || len(r.Unmatched) != 1 || !strings.Contains(r.Unmatched[0].Why, says) {
			t.Errorf("%q: %+v, %+v", text, r.Guesses, r.Unmatched)
		}
	}
	if r := paste.Read(h, "\n\n , ;\n"); len(r.Guesses)+len(r.Unmatched) != 0 {
		t.Errorf("blank notes gave %+v", r)
	}
}

func FuzzRead(f *testing.F) {
	c := testrack.Panels(f)["kedge"]
	for _, s := range []string{"Osc 2 level ~ 3/4", "cutoff 61, reso 20", "LFO1 tri 1/8.", "=:=", "é 3"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for _, g := range paste.Read(c, s).Guesses {
			if k, ok := c.ControlIndex(g.Control); !ok {
				t.Errorf("%q gave a control %q", s, g.Control)
			} else if _, err := c.Parse(k, g.Reading); err != nil {
				t.Errorf("%q gave a reading that does not read back: %v", s, err)
			}
		}
	})
}
