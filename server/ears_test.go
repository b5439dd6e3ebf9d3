package server

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"glossator/core/ear"
	"glossator/formats/wav"
)

// A sitting: of the two sounds one is the patch as it is, to the last sample, and the other differs; which it is, nothing tells but the sounds. A listener of a known threshold (Weibull) is found out; what was
// found judges the lines of a sheet when asked to, and no longer when not, and how the patch is translated stays the same.
func TestEarSittings(t *testing.T) {
	c := newClient(t, true)
	desk := sends[EarDesk](t, c, "GET", "/ear", nil, 200)
	if len(desk.People) != 0 || len(desk.Patches) < 5 || desk.Listener != "" {
		t.Fatalf("%+v", desk)
	}
	for says, bad := range map[string]EarBegin{"who": {Patch: "keel", Parts: 2}, "parts": {Who: "a", Patch: "keel", Parts: 9}} {
		res, got := c.do("POST", Base+"/ear", fmt.Sprintf(`{"who": %q, "patch": %q, "parts": %d}`, bad.Who, bad.Patch, bad.Parts), nil)
		if res.StatusCode != 422 || !strings.Contains(string(got), says) {
			t.Errorf("%s: %d %s", says, res.StatusCode, got)
		}
	}
	sends[any](t, c, "POST", "/ear", EarBegin{"a", "nobody", 2}, 404)
	sends[any](t, c, "PUT", "/ear/listener", EarListener{"nobody"}, 422)
	v := sends[EarView](t, c, "POST", "/ear", EarBegin{"keys one", "undertow", 2}, 201)
	sound := func(trial int, which string) *wav.Sound {
		t.Helper()
		res, got := c.do("GET", fmt.Sprintf("%s/ear/%d/trials/%d/%s", Base, v.ID, trial, which), "", nil)
		if res.StatusCode != 200 {
			t.Fatalf("%s: %d %s", which, res.StatusCode, got)
		}
		s, err := wav.Read(got)
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	apart := func(a, b *wav.Sound) (most float64) {
		for k := range min(len(a.Left), len(b.Left)) {
			most = max(most, math.Abs(a.Left[k]-b.Left[k]), math.Abs(a.Left[k])-0.36) // below -9 dBFS
		}
		return most
	}
	// by ear: whichever differs from the patch as it is
	for range 4 {
		x, a, b := sound(v.Trial, "x"), sound(v.Trial, "a"), sound(v.Trial, "b")
		first, second := apart(x, a), apart(x, b)
		if (first == 0) == (second == 0) {
			t.Fatalf("trial %d: the first differs by %v, the second by %v", v.Trial, first, second)
		}
		v = sends[EarView](t, c, "POST", fmt.Sprintf("/ear/%d/answers", v.ID), EarAnswer{Trial: v.Trial, Second: second > 0, Named: v.Parts[0].ID}, 200)
		if v.Last == nil || !v.Last.Right || v.Last.Second != (second > 0) || v.Last.By == "" || math.Abs(v.Last.Size-ear.Start) > 1e-9 && v.Trial < 4 {
			t.Errorf("%+v", v.Last)
		}
	}
	sends[any](t, c, "GET", fmt.Sprintf("/ear/%d/trials/%d/a", v.ID, v.Trial-1), nil, 404) // what is over is not told again
	sends[any](t, c, "POST", fmt.Sprintf("/ear/%d/answers", v.ID), EarAnswer{Trial: v.Trial - 1}, 412)
	sends[any](t, c, "POST", fmt.Sprintf("/ear/%d/answers", v.ID), EarAnswer{Trial: v.Trial, Named: "the weather"}, 422)

	// the rest by somebody who hears twice the published difference; how large the next one is, the staircase says
	r := rand.New(rand.NewPCG(1, 5))
	answered := 0
	for ; v.Trial > 0 && answered < 400; answered++ {
		row, err := c.st.EarSitting(v.ID)
		if err != nil {
			t.Fatal(err)
		}
		x, err := New(Config{Store: c.st}).earSitting(row.ID)
		if err != nil {
			t.Fatal(err)
		}
		next, _ := x.Next()
		right := r.Float64() < 0.5+0.5*(1-math.Exp(-math.Pow(next.Size/2, 3)))
		v = sends[EarView](t, c, "POST", fmt.Sprintf("/ear/%d/answers", v.ID), EarAnswer{Trial: v.Trial, Second: next.Second == right}, 200)
	}
	again := &client{t, serverOn(t, c.st), c.st, c.db}
	desk = sends[EarDesk](t, again, "GET", "/ear", nil, 200)
	if len(desk.People) != 1 || len(desk.People[0].Finds) == 0 {
		t.Fatalf("%+v after %d", desk.People, answered)
	}
	truly := 2 * math.Cbrt(-math.Log(1-2*(ear.Aim-0.5)))
	for _, f := range desk.People[0].Finds {
		if f.Sittings == 0 || f.Factor < truly/2 || f.Factor > truly*2 || f.Low > f.Factor || f.High < f.Factor {
			t.Errorf("%+v, truly %.2f", f, truly)
		}
	}

	opened := sends[Opened](t, c, "POST", "/sheets", OpenSheet{Patch: "undertow", Target: "kedge", School: "numbers"}, 200)
	path := fmt.Sprintf("/sheets/%d", opened.ID)
	before := sends[SheetView](t, c, "GET", path, nil, 200)
	sends[EarDesk](t, c, "PUT", "/ear/listener", EarListener{"keys one"}, 200)
	after := sends[SheetView](t, c, "GET", path, nil, 200)
	if before.Sheet.Ears != "" || after.Sheet.Ears != "keys one" || len(before.Sheet.Glosses) != len(after.Sheet.Glosses) {
		t.Errorf("%q, %q", before.Sheet.Ears, after.Sheet.Ears)
	}
	changed := 0
	for i := range before.Sheet.Glosses {
		a, b := &before.Sheet.Glosses[i], &after.Sheet.Glosses[i]
		if fmt.Sprint(a.Target) != fmt.Sprint(b.Target) {
			t.Errorf("%s is set otherwise", a.ID)
		}
		if a.JNDs == b.JNDs {
			continue
		}
		changed++
		ok := false
		for _, f := range desk.People[0].Finds {
			ok = ok || math.Abs(a.JNDs/f.Factor-b.JNDs) < 0.02*max(1, a.JNDs)
		}
		if !ok {
			t.Errorf("%s: %v published differences, %v of one's own", a.ID, a.JNDs, b.JNDs)
		}
	}
	if changed == 0 {
		t.Error("one's own differences change no line")
	}
	sends[EarDesk](t, c, "PUT", "/ear/listener", EarListener{}, 200)
	if back := sends[SheetView](t, c, "GET", path, nil, 200); back.Sheet.Ears != "" || fmt.Sprint(back.Sheet.Summary) != fmt.Sprint(before.Sheet.Summary) {
		t.Error("the published differences do not judge again")
	}
	if d := sends[EarDesk](t, c, "DELETE", fmt.Sprintf("/ear/%d", v.ID), nil, 200); len(d.People) != 0 || len(d.Sittings) != 0 {
		t.Errorf("%+v", d)
	}
}
