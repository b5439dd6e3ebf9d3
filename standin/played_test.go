package standin_test

import (
	"encoding/json"
	"math"
	"slices"
	"testing"

	"glossator/core/calibrate"
	"glossator/core/panel"
	"glossator/core/scale"
	"glossator/standin"
	"glossator/testutil/testrack"
)

// playedPanel is a demo panel whose pressure moves something else by another of the player's means.
func playedPanel(t *testing.T, from, to string, law scale.Law) *panel.Compiled {
	t.Helper()
	var p panel.Panel
	b, err := json.Marshal(testrack.Panels(t)["sheave"].Panel)
	if err == nil {
		err = json.Unmarshal(b, &p)
	}
	if err != nil {
		t.Fatal(err)
	}
	p.Routes = slices.DeleteFunc(p.Routes, func(r panel.Route) bool { return r.ID == "touch-morph" })
	for i := range p.Routes {
		if r := &p.Routes[i]; r.ID == "touch-low" {
			r.From, r.To, r.When, r.Polarity = from, []string{to}, nil, ""
		}
	}
	for i := range p.Controls {
		if x := &p.Controls[i]; x.ID == "pressure" {
			x.Means = x.Means[:1]
			x.Means[0].Law = law
		}
	}
	c, err := panel.Compile(&p)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// What the player's means move is measured with them held all the way: the take names what to hold, and nothing is heard of it where it is let go. The truth lies in the band.
func TestWhatThePlayerMoves(t *testing.T) {
	cents := scale.Law{Kind: scale.Linear, Unit: "ct", Min: 0, Max: 1200, Source: scale.Stated}
	for _, x := range []struct {
		from, to, recipe, label string
		law                     scale.Law
		most                    float64 // half the band, at the most
	}{
		{"bend", "voice.tune", "player-pitch", "Bender, upwards", cents, 12},
		{"breath", "voice.tune", "player-pitch", "Breath", cents, 12},
		{"aftertouch", "lowpass.cutoff", "player-cutoff", "Pressure on the key", scale.Law{Kind: scale.Linear, Unit: "oct", Min: 0, Max: 4, Source: scale.Stated}, 0.5},
	} {
		c := playedPanel(t, x.from, x.to, x.law)
		b, err := calibrate.Begin(c, "pressure", "")
		if err != nil {
			t.Errorf("%s to %s: %v", x.from, x.to, err)
			continue
		}
		if what, label := b.Held(); what != x.from || label != x.label || b.Recipe.Name != x.recipe {
			t.Errorf("%s to %s: by %s, %q (%q) is held", x.from, x.to, b.Recipe.Name, what, label)
		}
		u, err := standin.New(c, 5)
		if err != nil {
			t.Fatal(err)
		}
		r, err := u.Sit(b, 0)
		if err != nil {
			t.Fatal(err)
		}
		in, n := 0, 0
		truth := u.Truth().Controls["pressure"]
		for i, y := range r.Band() {
			if y.Value == nil || truth[i].Value == nil {
				continue
			}
			n++
			v := *truth[i].Value
			if v >= *y.Low-1e-9 && v <= *y.High+1e-9 {
				in++
			}
			if half := (*y.High - *y.Low) / 2; half > x.most || math.Abs(*y.Value-v) > x.most {
				t.Errorf("%s at %s: %.2f to %.2f, truly %.2f", x.from, y.Reading, *y.Low, *y.High, v)
				break
			}
		}
		t.Logf("%s to %s by %s, %d takes: the truth in the band at %d of %d", x.from, x.to, b.Recipe.Name, len(r.Takes), in, n)
		if n < 50 || 100*in < 93*n {
			t.Errorf("%s to %s: the truth lies in the band at %d of %d places", x.from, x.to, in, n)
		}
		// let go, the control does nothing
		var between [2]float64
		for k, hold := range []string{x.from, ""} {
			u.Hold(hold)
			for _, reading := range []string{"2", "9"} {
				got, err := u.Take(b, reading)
				if err != nil {
					t.Fatal(err)
				}
				between[k] = got.Figure - between[k]
			}
		}
		if math.Abs(between[1]) > 0.1*math.Abs(between[0]) {
			t.Errorf("%s: two readings are %.3g apart, let go %.3g", x.from, between[0], between[1])
		}
	}
}
