package server

import (
	"fmt"
	"math"
	"testing"

	"glossator/core/compare"
	"glossator/core/hear"
	"glossator/formats/wav"
)

// liveOf asks for what is heard now.
func liveOf(t *testing.T, c *client, path, body string) hear.Wave {
	t.Helper()
	res, data := c.do("POST", Base+path, body, nil)
	if res.StatusCode != 200 {
		t.Fatalf("%s %s: %d %s", path, body, res.StatusCode, data)
	}
	s, err := wav.Read(data)
	if err != nil {
		t.Fatal(err)
	}
	return hear.Wave{Rate: float64(s.Rate), Left: s.Left, Right: s.Right}
}

func cutWave(w hear.Wave, from, to float64) hear.Wave {
	a, b := int(from*w.Rate), min(int(to*w.Rate), len(w.Left))
	out := hear.Wave{Rate: w.Rate, Left: w.Left[a:b]}
	if w.Right != nil {
		out.Right = w.Right[a:b]
	}
	return out
}

// A stretch that is heard at once is that part of the whole, as near as other start phases are; with another reading it is what is heard once that is set; what is not ticked stands at init.
func TestAStretchIsAPartOfTheWhole(t *testing.T) {
	c := newClient(t, true)
	apart := func(a, b hear.Wave) float64 {
		return compare.Apart(compare.Sketched(a), compare.Sketched(b), false).Total
	}
	for _, x := range []struct {
		patch string
		from  float64
	}{{"undertow", 0.5}, {"keel", 1.25}, {"foghorn", 0}, {"gulls", 0.75}} {
		at := "/patches/" + x.patch + "/live"
		whole := liveOf(t, c, at, `{"from": 0, "seconds": 0}`)
		part := liveOf(t, c, at, fmt.Sprintf(`{"from": %g, "seconds": 1.5}`, x.from))
		if got := len(part.Left); got != int(1.5*part.Rate) {
			t.Errorf("%s: %d samples", x.patch, got)
		}
		same, other := apart(part, cutWave(whole, x.from, x.from+1.5)), apart(part, cutWave(whole, x.from+0.4, x.from+1.9))
		t.Logf("%s: %.1f from its part of the whole, %.1f from 0.4 s later", x.patch, same, other)
		if same > 6 || same > 0.8*other {
			t.Errorf("%s: the stretch is %.1f just-noticeable differences from that part of the whole, %.1f from 0.4 s later", x.patch, same, other)
		}
	}
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	now := liveOf(t, c, "/sheets/1/live", `{"from": 0, "seconds": 1.5, "side": "target"}`)
	open := liveOf(t, c, "/sheets/1/live", `{"from": 0, "seconds": 1.5, "side": "target", "control": "filter.cutoff", "reading": "100"}`)
	ask[SheetView](c, "PUT", "/sheets/1/overrides/filter.cutoff", `{"reading": "100"}`, 200)
	set := liveOf(t, c, "/sheets/1/live", `{"from": 0, "seconds": 1.5, "side": "target"}`)
	if a, b := apart(open, set), apart(now, open); a > 0.5 || b < 3 {
		t.Errorf("under the hairline it sounds %.2f from the one that is set, and %.1f from before", a, b)
	}
	// nothing is ticked: the target at init; all ticked: the sheet
	none := liveOf(t, c, "/sheets/1/live", `{"from": 0, "seconds": 1.5, "ticked": true}`)
	for _, g := range ask[SheetView](c, "GET", "/sheets/1", "", 200).DialIn.Groups {
		for _, l := range g.Lines {
			ask[Ticks](c, "PUT", "/sheets/1/ticks/"+l.Key, "", 200)
		}
	}
	all := liveOf(t, c, "/sheets/1/live", `{"from": 0, "seconds": 1.5, "ticked": true}`)
	if a, b := apart(all, set), apart(none, set); a > 0.5 || b < 3 {
		t.Errorf("dialled in it sounds %.2f from the sheet, before %.1f", a, b)
	}
	// one of its parts alone, as one builds: what is left when the level of the others is at nothing
	alone := liveOf(t, c, "/sheets/1/live", `{"from": 0, "seconds": 1.5, "ticked": true, "only": "osc1"}`)
	for _, control := range []string{"osc2.level", "osc3.level", "noise.level"} {
		c.do("PUT", Base+"/sheets/1/overrides/"+control, `{"reading": "0"}`, nil)
	}
	down := liveOf(t, c, "/sheets/1/live", `{"from": 0, "seconds": 1.5, "ticked": true}`)
	if a, b := apart(alone, down), apart(alone, all); a > 1 || b < 1.5*a || b < 1 {
		t.Errorf("alone it sounds %.2f from the one whose other oscillator is down, and %.2f from all", a, b)
	}
	ask[Problem](c, "POST", "/sheets/1/live", `{"from": 0, "seconds": 1, "ticked": true, "only": "filter"}`, 422)
	for _, w := range []hear.Wave{now, open, set, none, all, alone} {
		for i := range w.Left {
			if math.Abs(w.Left[i]) > math.Pow(10, -1.0/20)+1e-3 {
				t.Fatalf("sample %d is %v: over the limiter", i, w.Left[i])
			}
		}
	}
	for body, status := range map[string]int{`{"from": -1, "seconds": 1}`: 422, `{"from": 0, "seconds": 99}`: 422, `{"from": 0, "seconds": 1, "side": "left"}`: 422, `{"from": 0, "seconds": 1, "control": "attic", "reading": "1"}`: 422,
		`{"from": 0, "seconds": 1, "control": "filter.cutoff", "reading": "900"}`: 422} {
		ask[Problem](c, "POST", "/sheets/1/live", body, status)
	}
	ask[Problem](c, "POST", "/sheets/9/live", `{"from": 0, "seconds": 1}`, 404)
}
