package dialin_test

import (
	"strings"
	"testing"

	"glossator/core/dialin"
	"glossator/core/meaning"
	"glossator/core/patch"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// The list of every demo patch on every panel: working order, every line with its verb, a
// count that is right, cautions where level can jump, and instruments without memory set in full.
func TestListsOfTheDemo(t *testing.T) {
	rack := testrack.Panels(t)
	order := map[meaning.Step]int{}
	for i, s := range meaning.Steps {
		order[s.Step] = i
	}
	for _, p := range testrack.Patches(t) {
		for _, id := range testrack.IDs(rack) {
			dst := rack[id]
			s, err := translate.Translate(rack[p.Panel], p, dst, translate.Options{})
			if err != nil {
				t.Fatal(err)
			}
			if !s.Clean() {
				t.Errorf("%s to %s: %+v", p.ID, id, s.Audit)
			}
			l := dialin.Of(s)
			last, n := -1, 0
			for _, g := range l.Groups {
				if at := order[g.Step]; at <= last {
					t.Errorf("%s to %s: %s comes out of order", p.ID, id, g.Title)
				} else {
					last = at
				}
				for _, x := range g.Lines {
					n++
					k, isControl := dst.ControlIndex(x.Key)
					switch {
					case x.Verb == "patch":
						if !strings.HasPrefix(x.Key, "cable:") || !strings.Contains(x.Text, " into ") {
							t.Errorf("%s to %s: cable line %+v", p.ID, id, x)
						}
					case !isControl:
						t.Errorf("%s to %s: no control %s", p.ID, id, x.Key)
					default:
						if _, err := dst.Parse(k, x.Reading); err != nil || !strings.Contains(x.Text, x.Reading) {
							t.Errorf("%s to %s: %q: %v", p.ID, id, x.Text, err)
						}
						if dst.Memory && x.Reading == dst.Init(k).Reading {
							t.Errorf("%s to %s: %s is set to what init holds", p.ID, id, x.Label)
						}
					}
					if !l.Has(x.Key) {
						t.Errorf("%s is not found on its own list", x.Key)
					}
				}
			}
			if n != l.Count {
				t.Errorf("%s to %s: %d lines, the list says %d", p.ID, id, n, l.Count)
			}
			for _, x := range l.Leave {
				if k, _ := dst.ControlIndex(x.Control); dst.Memory && x.Reading != dst.Init(k).Reading {
					t.Errorf("%s to %s: %s is left at %s, init holds %s", p.ID, id, x.Label, x.Reading, dst.Init(k).Reading)
				}
			}
			if len(l.First) == 0 || !strings.Contains(l.First[0], "down") {
				t.Errorf("%s to %s: nothing is said first about level", p.ID, id)
			}
			if l.Has("no-such-line") {
				t.Error("a line that is not there was found")
			}
		}
	}
}

// Kedge takes velocity to its cutoff by two cables through the attenuator.
func TestCablesAreLines(t *testing.T) {
	rack, fog := testrack.Panels(t), testrack.Patches(t)["foghorn"]
	s, err := translate.Translate(rack["kedge"], fog, rack["kedge"], translate.Options{})
	if err != nil {
		t.Fatal(err)
	}
	l := dialin.Of(s)
	for _, key := range []string{"cable:out-velocity>in-att", "cable:out-att>in-cutoff"} {
		if !l.Has(key) {
			t.Errorf("no line %s", key)
		}
	}
	if !strings.Contains(strings.Join(l.First, " "), "outputs to inputs only") {
		t.Errorf("no caution on cables: %v", l.First)
	}
}

// What the player has to do on the target is on the list: Gulls, whose pressure the wheel takes
// over on Halyard, and nothing where no rule asks for a hand.
func TestWhilePlaying(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	for _, x := range []struct {
		patch, target, says string
	}{{"gulls", "halyard", "played by the wheel where it was aftertouch"}, {"fog-bank", "kedge", "by hand"}, {"keel", "halyard", ""}} {
		p := patches[x.patch]
		s, err := translate.Translate(rack[p.Panel], p, rack[x.target], translate.Options{})
		if err != nil {
			t.Fatal(err)
		}
		got := strings.Join(dialin.Of(s).Playing, "\n")
		if !strings.Contains(got, x.says) || x.says == "" && got != "" {
			t.Errorf("%s on %s: %q, want %q", x.patch, x.target, got, x.says)
		}
	}
}

// How a layer stands in its patch is said on its sheet and before the first line of its list, or it would be dialled in an octave off.
func TestLayersSayHowTheyStand(t *testing.T) {
	rack := testrack.Panels(t)
	for _, x := range []struct {
		label, transpose, level string
		says                    []string
	}{
		{"Low", "-12 st", "-6 dB", []string{`"Low"`, "-12 st", "-6 dB"}},
		{"", "+12 st", "", []string{"+12 st"}},
		{"", "0 st", "0 dB", nil},
		{"", "", "", nil},
	} {
		p := *testrack.Patches(t)["foghorn"]
		y := p.Layers[0]
		y.Label, y.Transpose, y.Level = x.label, x.transpose, x.level
		p.Layers = []patch.Layer{y}
		if x.label != "" {
			z := y
			z.ID = "other"
			p.Layers = append(p.Layers, z)
		}
		s, err := translate.Translate(rack[p.Panel], &p, rack["thole"], translate.Options{})
		if err != nil {
			t.Fatal(err)
		}
		for _, list := range [][]string{s.Notes, dialin.Of(s).First} {
			text := strings.Join(list, " ")
			for _, w := range x.says {
				if !strings.Contains(text, w) {
					t.Errorf("%+v: %q does not say %s", x, text, w)
				}
			}
			if x.says == nil && strings.Contains(text, "This layer") {
				t.Errorf("%+v: %q", x, text)
			}
		}
	}
}

// Each step says what to listen for where there is something, places are those of the panel, what is hidden says how to get there where the panel knows, and it is time to save on instruments that can: early, and before what can jump in level.
func TestWhatToListenFor(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	said, lines := 0, 0
	for _, p := range patches {
		for _, id := range testrack.IDs(rack) {
			dst := rack[id]
			s, err := translate.Translate(rack[p.Panel], p, dst, translate.Options{School: "numbers"})
			if err != nil {
				t.Fatal(err)
			}
			l := dialin.Of(s)
			places := map[int]bool{}
			saves := 0
			for i, g := range l.Groups {
				if g.Save != "" {
					saves++
				}
				if i > 0 && dst.Memory && g.Step != "outside" {
					for _, x := range g.Lines {
						if x.Caution != "" && l.Groups[i-1].Save == "" {
							t.Errorf("%s on %s: %s can jump in level, and it is not saved before", p.ID, id, x.Label)
						}
					}
				}
				for _, x := range g.Lines {
					if strings.HasPrefix(x.Key, "outside:") || strings.HasPrefix(x.Key, "cable:") {
						continue
					}
					k, ok := dst.ControlIndex(x.Key)
					if !ok || x.Place != k || places[k] {
						t.Errorf("%s on %s: %s is at %d, its place is %d", p.ID, id, x.Label, x.Place, k)
					}
					places[k] = true
					if lines++; x.Listen != "" {
						said++
					}
					if c := dst.Controls[k]; c.Hidden && c.Note != "" && x.Where != c.Note || !c.Hidden && x.Where != "" {
						t.Errorf("%s on %s: %s is at %q", p.ID, id, x.Label, x.Where)
					}
				}
			}
			if !dst.Memory && saves > 0 || dst.Memory && dst.Kind == "instrument" && len(l.Groups) > 3 && saves == 0 {
				t.Errorf("%s on %s: %d times to save in %d groups", p.ID, id, saves, len(l.Groups))
			}
		}
	}
	if said < lines*6/10 {
		t.Errorf("%d of %d lines say what to listen for", said, lines)
	}
	p := patches["keel"] // two oscillators 28 cents apart, the lower at 27.5 Hz: 27.5 (2^(28.3/1200) - 1) = 0.45 beats a second
	s, err := translate.Translate(rack[p.Panel], p, rack["kedge"], translate.Options{School: "numbers"})
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range s.Settings {
		if x.Control == "osc2.tune" && x.Listen != "beats against Oscillator 1: 0.45 a second at A1" {
			t.Errorf("%q", x.Listen)
		}
	}
}
