package standin_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"math"
	"path/filepath"
	"strings"
	"testing"

	"glossator/core/calibrate"
	"glossator/core/hear"
	"glossator/core/panel"
	"glossator/core/phrase"
	"glossator/core/wire"
	"glossator/standin"
	"glossator/testutil/testrack"
)

func unit(t *testing.T, c *panel.Compiled, number int) *standin.Unit {
	t.Helper()
	u, err := standin.New(c, number)
	if err != nil {
		t.Fatal(err)
	}
	return u
}

func note(key, seconds float64) []phrase.Note {
	return []phrase.Note{{End: seconds, Key: key, Velocity: 100}}
}

// Every panel has stand-ins; a unit is the same each time, another one is another, and each of its laws goes one way.
func TestUnitsOfEveryPanel(t *testing.T) {
	for id, c := range testrack.Panels(t) {
		a, again, b := unit(t, c, 7).Truth(), unit(t, c, 7).Truth(), unit(t, c, 8).Truth()
		same, n := true, 0
		for control, all := range a.Controls {
			if len(all) > calibrate.MostPlaces {
				t.Errorf("%s %s: %d places", id, control, len(all))
			}
			k, _ := c.ControlIndex(control)
			var prev *float64
			way := 0.0
			for i, v := range all {
				if w := again.Controls[control][i]; (v.Value == nil) != (w.Value == nil) || v.Value != nil && *v.Value != *w.Value {
					t.Fatalf("%s %s at %s: not the same twice", id, control, v.Reading)
				}
				if w := b.Controls[control][i]; v.Value != nil && w.Value != nil {
					n++
					same = same && *v.Value == *w.Value
				}
				if v.Value != nil && prev != nil {
					step := *v.Value - *prev
					if math.Abs(step) > 1e-9 && way*step < 0 {
						t.Errorf("%s %s turns back at %s", id, c.Controls[k].Label, v.Reading)
						break
					}
					if math.Abs(step) > 1e-9 {
						way = step
					}
				}
				prev = v.Value
			}
		}
		if n > 0 && same {
			t.Errorf("%s: two units have the same laws", id)
		}
	}
}

// The laws of units of one panel lie about what it says: the half of them within what it states, nearly all within three times that and a curve.
func TestUnitsLieAboutTheirPanel(t *testing.T) {
	c := testrack.Panels(t)["kedge"]
	k, _ := c.ControlIndex("lfo.rate")
	l := c.Controls[k].Means[0].Law
	within, n := 0, 0
	for number := 1; number <= 60; number++ {
		for _, v := range unit(t, c, number).Truth().Controls["lfo.rate"] {
			at, err := c.Parse(k, v.Reading)
			if err != nil {
				t.Fatal(err)
			}
			want, _ := l.Raw(at.Travel)
			off := math.Abs(math.Log(*v.Value / want))
			if n++; off < 2*l.Uncertainty.U {
				within++
			}
			if off > 1.2 {
				t.Errorf("unit %d at %s: %g Hz, the panel says %g", number, v.Reading, *v.Value, want)
			}
		}
	}
	if share := float64(within) / float64(n); share < 0.5 || share > 0.99 {
		t.Errorf("%.0f %% of the values lie within twice what the panel states", 100*share)
	}
}

// A hand sets a knob a little off, and a number or an end of the travel exactly; a reading that the control does not take is refused in its words.
func TestAHandIsALittleOff(t *testing.T) {
	c := testrack.Panels(t)["kedge"]
	loud := func(u *standin.Unit, reading string) float64 {
		t.Helper()
		if err := u.Hand("mix.osc1", reading); err != nil {
			t.Fatal(err)
		}
		w, err := u.Play(note(57, 0.5), 0)
		if err != nil {
			t.Fatal(err)
		}
		l, _ := hear.Loudness(w)
		return l
	}
	u := unit(t, c, 5)
	var middle, top []float64
	for range 6 {
		middle, top = append(middle, loud(u, "12:00")), append(top, loud(u, "5:00"))
	}
	spread := func(x []float64) float64 {
		lo, hi := x[0], x[0]
		for _, v := range x {
			lo, hi = min(lo, v), max(hi, v)
		}
		return hi - lo
	}
	if a := spread(middle); a < 0.05 || a > 2 {
		t.Errorf("the middle is set within %.2f dB", a)
	}
	if a := spread(top); a > 0.1 {
		t.Errorf("the stop is set within %.2f dB", a)
	}
	if err := u.Hand("mix.osc1", "6:30"); err == nil || !strings.Contains(err.Error(), "7:00") {
		t.Errorf("expected what it takes, got %v", err)
	}
	if err := u.Hand("mix.osc9", "6:30"); err == nil || !strings.Contains(err.Error(), "no control") {
		t.Errorf("expected that it has none, got %v", err)
	}
}

// MIDI sets what has an address, a program change brings init back, and a unit with a dump answers with it: read as any dump it holds what was set. (MIDI 1.0: controllers and system exclusive.)
func TestUnitsListenToMIDI(t *testing.T) {
	for _, id := range []string{"halyard", "fairlead"} {
		c := testrack.Panels(t)[id]
		u := unit(t, c, 4)
		p := testrack.Generate(c, 3, 0.5)
		sent, err := wire.Write(c, &p.Layers[0], 1)
		if err != nil {
			t.Fatal(err)
		}
		before, err := u.Play(note(57, 0.3), 0)
		if err != nil {
			t.Fatal(err)
		}
		u.MIDI(sent.Messages)
		after, err := u.Play(note(57, 0.3), 0)
		if err != nil {
			t.Fatal(err)
		}
		if level(before) == level(after) {
			t.Errorf("%s: what was sent is not heard", id)
		}
		if c.Dump == nil {
			continue
		}
		request, err := c.Dump.RequestBytes()
		if err != nil {
			t.Fatal(err)
		}
		answer := u.MIDI([]wire.Message{{Status: 0xF0, Data: request}})
		if len(answer) != 1 {
			t.Fatalf("%s: %d answers to a dump request", id, len(answer))
		}
		found := wire.Read(c, answer)
		st, err := c.Read(&p.Layers[0], "")
		if err != nil {
			t.Fatal(err)
		}
		found.Against(c, st)
		for _, x := range found.Taken {
			if !x.Same {
				t.Errorf("%s: its dump has %s at %s, %s was sent", id, x.Label, x.Reading, x.Stands)
			}
		}
		u.MIDI([]wire.Message{{Status: 0xC0, Data: []byte{0}}})
		for _, x := range wire.Read(c, u.MIDI([]wire.Message{{Status: 0xF0, Data: request}})).Taken {
			if k, _ := c.ControlIndex(x.Control); x.Reading != c.Init(k).Reading {
				t.Errorf("%s: after a program change %s stands at %s", id, x.Label, x.Reading)
			}
		}
	}
}

func level(w hear.Wave) float64 {
	sum := 0.0
	for _, x := range w.Left {
		sum += x * x
	}
	return sum
}

// A unit that warms up comes into tune; a recording of it has its noise, and never leaves full level.
func TestUnitsWarmUp(t *testing.T) {
	c := testrack.Panels(t)["kedge"]
	farther := 0
	for number := 1; number <= 12; number++ {
		pitch := func(minutes float64) float64 {
			u := unit(t, c, number)
			u.Wait(minutes)
			if err := u.Hand("mix.osc1", "12:00"); err != nil {
				t.Fatal(err)
			}
			w, err := u.Play(note(57, 0.6), 0)
			if err != nil {
				t.Fatal(err)
			}
			for _, x := range w.Left {
				if math.Abs(x) > 1 {
					t.Fatal("beyond full level")
				}
			}
			p := hear.Listen(w).Pitch()
			return math.Abs(1200 * math.Log2(p.Value/220))
		}
		if pitch(0) > pitch(40) {
			farther++
		}
	}
	if farther < 8 {
		t.Errorf("only %d of 12 units were farther out of tune when cold", farther)
	}
	w, err := unit(t, c, 1).Play(note(57, 0.5), 0)
	if err != nil {
		t.Fatal(err)
	}
	if db := 10 * math.Log10(level(w)/float64(len(w.Left))); db < -100 || db > -70 {
		t.Errorf("a unit that plays nothing is heard at %.0f dBFS", db)
	}
}

// Nothing in the program but its own package knows the laws of a stand-in: only the command that is asked for them tells them, and tests.
func TestNobodyKnowsTheLaws(t *testing.T) {
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			return filepath.SkipDir
		}
		if d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") || strings.HasPrefix(path, "../standin/") {
			return nil
		}
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		if err != nil {
			return err
		}
		for _, i := range f.Imports {
			if strings.HasPrefix(path, "../core/") && strings.Contains(i.Path.Value, "glossator/standin") {
				t.Errorf("%s imports the stand-ins", path)
			}
		}
		ast.Inspect(f, func(n ast.Node) bool {
			if x, ok := n.(*ast.SelectorExpr); ok && x.Sel.Name == "Truth" && path != "../cmd/glossator/bench.go" {
				t.Errorf("%s asks for the truth", path)
			}
			return true
		})
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}
