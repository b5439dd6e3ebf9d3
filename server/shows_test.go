package server

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"glossator/core/show"
)

// sends makes a request, and reads the answer into a value; it fails where the status is not as wanted.
func sends[T any](t *testing.T, c *client, method, path string, body any, status int) (out T) {
	t.Helper()
	text := ""
	if body != nil {
		b, err := json.Marshal(body)
		if err != nil {
			t.Fatal(err)
		}
		text = string(b)
	}
	res, got := c.do(method, Base+path, text, nil)
	if res.StatusCode != status {
		t.Fatalf("%s %s: %d %.300s", method, path, res.StatusCode, got)
	}
	if len(got) > 0 {
		if err := json.Unmarshal(got, &out); err != nil {
			t.Fatalf("%s %s: %v in %.300s", method, path, err, got)
		}
	}
	return out
}

// planOf plans a house of the first show.
func planOf(t *testing.T, c *client, house string) ShowPlan {
	return sends[ShowPlan](t, c, "GET", "/shows/1/plan?house="+house, nil, 200)
}

// A show goes out as a file and comes back the same; what is wrong with a cue, a patch that was deleted among it, is told at its place and the rest is planned; what cannot be at all is refused and changes nothing;
// two tabs change different cues, and both is kept; deleting and undo.
func TestShowsAreKept(t *testing.T) {
	c := newClient(t, true)
	list := sends[ShowList](t, c, "GET", "/shows", nil, 200)
	if len(list.Shows) != 1 || list.Shows[0].Cues < 12 || list.Shows[0].Evenings != 2 || list.Shows[0].Houses != 3 {
		t.Fatalf("%+v", list.Shows)
	}
	for house, conflicts := range map[string]int{"h1": 1, "h2": 0, "h3": 0} {
		p := planOf(t, c, house)
		if len(p.Conflicts) != conflicts || p.Heard || p.Pairs == 0 || p.Listened != 0 || len(p.Overs) != len(p.Cues) {
			t.Errorf("%s: %+v", house, p.Conflicts)
		}
		for i, x := range p.Cues {
			if x.On >= 0 && x.From >= 0 && !p.Instruments[x.On].Memory && (p.Overs[i].Count() != x.Moves || x.Takes > x.Gap) {
				t.Errorf("%s, %s: %d moves, %d listed", house, x.Name, x.Moves, p.Overs[i].Count())
			}
		}
	}
	_, file := c.do("GET", Base+"/shows/1/export", "", nil)
	made := sends[ShowRow](t, c, "POST", "/shows/import?file=lamp.json", json.RawMessage(file), 201)
	_, again := c.do("GET", Base+fmt.Sprintf("/shows/%d/export", made.ID), "", nil)
	if string(file) != string(again) {
		t.Error("what comes in differs from what went out")
	}
	taken := sends[Imported](t, c, "POST", "/import?file=any.json", json.RawMessage(file), 200)
	if taken.Kind != "show" || taken.Did != "new" {
		t.Errorf("%+v", taken)
	}

	a, b := newTab(c), newTab(c)
	var v ShowView
	for _, x := range []*tab{a, b} {
		if err := json.Unmarshal(x.must("GET", "/shows/1", ""), &v); err != nil {
			t.Fatal(err)
		}
	}
	late := newTab(c) // was shown the same, and comes last
	late.shown["/shows/1"] = a.shown["/shows/1"]
	put := func(x *tab, change func(d *show.Doc)) (int, []byte) {
		d := v.Doc
		d.Cues, d.Houses = slices.Clone(v.Doc.Cues), slices.Clone(v.Doc.Houses)
		change(&d)
		body, err := json.Marshal(d)
		if err != nil {
			t.Fatal(err)
		}
		return x.ask("PUT", "/shows/1", string(body))
	}
	if status, got := put(a, func(d *show.Doc) { d.Cues[0].Name = "Prologue" }); status != 200 {
		t.Fatalf("%d %s", status, got)
	}
	if status, got := put(b, func(d *show.Doc) { d.Cues[1].Player = "third chair" }); status != 200 {
		t.Fatalf("%d %s", status, got)
	}
	now := sends[ShowView](t, c, "GET", "/shows/1", nil, 200)
	if now.Doc.Cues[0].Name != "Prologue" || now.Doc.Cues[1].Player != "third chair" {
		t.Errorf("%+v", now.Doc.Cues[:2])
	}
	if status, got := put(late, func(d *show.Doc) { d.Cues[0].Name = "Overture" }); status != http.StatusPreconditionFailed || !strings.Contains(string(got), "Prologue") {
		t.Errorf("%d %s", status, got)
	}

	v = now
	fresh := newTab(c)
	for says, change := range map[string]func(d *show.Doc){
		"expected 0 to 600":   func(d *show.Doc) { d.Pace = -3 },
		"is there already":    func(d *show.Doc) { d.Houses[1].Name = d.Houses[0].Name },
		"expected a name":     func(d *show.Doc) { d.Name = " " },
		"at most 400":         func(d *show.Doc) { d.Cues = make([]show.CueDoc, 401) },
		"control character":   func(d *show.Doc) { d.Cues[3].Name = "Gulls\x07" },
		"at most 16":          func(d *show.Doc) { d.Houses[0].Hire = make([]show.HireDoc, 17) },
		"glossator-show":      func(d *show.Doc) { d.Format = "theirs" },
		"/houses/2/instrume":  func(d *show.Doc) { d.Houses[2].Hire = []show.HireDoc{{Panel: "kedge", Price: -1}} },
		"text of at most 200": func(d *show.Doc) { d.Cues[0].Player = strings.Repeat("x", 300) },
	} {
		if status, got := put(fresh, change); status < 400 || status > 422 || !strings.Contains(string(got), says) {
			t.Errorf("%s: %d %.300s", says, status, got)
		}
	}
	if same := sends[ShowView](t, c, "GET", "/shows/1", nil, 200); same.tag != now.tag || len(same.Doc.Cues) != len(now.Doc.Cues) {
		t.Error("what was refused has changed something")
	}
	if status, got := put(fresh, func(d *show.Doc) {
		d.Cues[2].End, d.Cues[4].Start = "8:00", "late"
		d.Cues[5].Player = "a stranger"
		d.Houses[0].Hire = append(slices.Clone(d.Houses[0].Hire), show.HireDoc{Panel: "nobody"})
		for i := range d.Houses[0].Hire {
			d.Houses[0].Hire[i].Player = "keys one"
		}
	}); status != 200 {
		t.Fatalf("%d %s", status, got)
	}
	sends[any](t, c, "DELETE", "/patches/gulls", nil, 204)
	p := planOf(t, c, "h1")
	faults := map[string]string{}
	for _, x := range p.Cues {
		if x.Fault != "" {
			faults[x.Name] = x.Fault
		}
	}
	for name, says := range map[string]string{"The lamp room": "ends before it begins", "Foghorn, far": "late", "Gulls": `no patch "gulls"`, "The tide pool": "a stranger has no instrument"} {
		if !strings.Contains(faults[name], says) {
			t.Errorf("%s: %q", name, faults[name])
		}
	}
	if played := slices.ContainsFunc(p.Cues, func(x show.PlannedCue) bool { return x.On >= 0 }); !played || len(p.Aside) != 1 {
		t.Errorf("the rest is not planned: %v, %v", p.Aside, slices.Collect(maps.Keys(faults)))
	}
	if now := sends[ShowView](t, c, "GET", "/shows/1", nil, 200); len(now.Faults) != 3 {
		t.Errorf("%v", now.Faults)
	}
	sends[Done](t, c, "DELETE", "/shows/1", nil, 200)
	sends[any](t, c, "GET", "/shows/1", nil, 404)
	sends[Done](t, c, "POST", "/undo", nil, 200)
	if back := sends[ShowView](t, c, "GET", "/shows/1", nil, 200); len(back.Doc.Cues) != len(v.Doc.Cues) {
		t.Error("undo does not bring it back")
	}
	for _, path := range []string{"/shows/9", "/shows/1/plan?house=h9", "/shows/1/hire?house=h9", "/shows/1/papers/order.doc", "/shows/1/papers/tea.pdf", "/shows/9/run", "/shows/9/listen"} {
		sends[any](t, c, "GET", path, nil, 404)
	}
	sends[any](t, c, "GET", "/shows/1/hire?rack=kedge", nil, 422)
}

// What a rehearsal shows is kept with the program: two devices tick, a device that was away tells later when it was; a rehearsal that was begun anew takes no ticks of the one before; how long hands took
// goes into the plan, and what ran over is told the next time.
func TestRehearsals(t *testing.T) {
	c := newClient(t, true)
	const run = "/shows/1/run?house=h1&evening=1"
	v := sends[RunView](t, c, "GET", run, nil, 200)
	if v.State.Run != 0 || len(v.Cues) < 8 || len(v.Dropped) != 1 || v.HouseName != "The harbour room" || !slices.Equal(v.Evenings, []int{1, 2}) {
		t.Fatalf("%+v", v)
	}
	i := slices.IndexFunc(v.Cues, func(x RunCue) bool { return x.Name == "The lamp room" })
	cue := v.Cues[i]
	if len(cue.Moves) < 10 || cue.From != "Prologue, fog" || cue.Takes != 4*float64(len(cue.Moves)) || cue.Begin != cue.FromEnd {
		t.Fatalf("%+v", cue)
	}
	begun := sends[RunState](t, c, "POST", run, nil, 200)
	at := func(path string) string { return "/shows/1/run/" + path + "?house=h1&evening=1" }
	going := sends[RunState](t, c, "PUT", at("clock"), ClockBody{begun.Run, true, 250}, 200)
	if !going.Going || going.Clock < 250 || going.Clock > 260 {
		t.Errorf("%+v", going)
	}
	// a little more than four seconds a control, told later by a device that was away
	n := len(cue.Moves)
	for k, m := range cue.Moves {
		ago := 4.4 * float64(n-k)
		sends[RunState](t, c, "PUT", at("ticks"), RunTickBody{Run: begun.Run, Cue: cue.ID, Key: m.Key, Done: true, Who: cue.Player, Clock: cue.Start - 100 + 4.4*float64(k), Ago: ago, Of: n, Start: cue.Start}, 200)
	}
	other := sends[RunState](t, c, "GET", at("state"), nil, 200)
	if len(other.Ticks) != n {
		t.Errorf("%d of %d ticks are seen elsewhere", len(other.Ticks), n)
	}
	sends[RunState](t, c, "PUT", at("ticks"), RunTickBody{Run: begun.Run, Cue: cue.ID, Key: cue.Moves[0].Key, Done: false, Of: n}, 200)
	if s := sends[RunState](t, c, "PUT", at("ticks"), RunTickBody{Run: begun.Run, Cue: cue.ID, Key: cue.Moves[0].Key, Done: true, Who: cue.Player, Clock: cue.Start + 80, Of: n, Start: cue.Start}, 200); len(s.Ticks) != n {
		t.Errorf("%d ticks", len(s.Ticks))
	}
	if p := planOf(t, c, "h1"); len(p.Paces) != 0 {
		t.Errorf("the rehearsal that is on changes its own plan: %+v", p.Paces)
	}
	next := sends[RunState](t, c, "POST", run, nil, 200)
	if next.Run == begun.Run || len(next.Ticks) != 0 || next.Going {
		t.Errorf("%+v", next)
	}
	sends[any](t, c, "PUT", at("ticks"), RunTickBody{Run: begun.Run, Cue: cue.ID, Key: "x", Done: true, Of: 1}, 404)
	sends[any](t, c, "PUT", at("clock"), ClockBody{begun.Run, true, 0}, 404)
	for _, bad := range []RunTickBody{{Run: next.Run, Key: "x"}, {Run: next.Run, Cue: "a", Key: strings.Repeat("k", 400)}, {Run: next.Run, Cue: "a", Key: "b", Ago: -1}, {Run: next.Run, Cue: "a", Key: "b", Clock: 1e9}, {Run: next.Run, Cue: "a", Key: "b\x00"}} {
		sends[any](t, c, "PUT", at("ticks"), bad, 422)
	}
	sends[any](t, c, "PUT", at("clock"), ClockBody{next.Run, true, 1e9}, 422)
	sends[any](t, c, "POST", "/shows/1/run?house=h1", nil, 422)
	now := sends[RunView](t, c, "GET", run, nil, 200)
	i = slices.IndexFunc(now.Cues, func(x RunCue) bool { return x.ID == cue.ID })
	if i < 0 || now.Cues[i].Over < 79 {
		t.Errorf("what ran over is not told: %d", i)
	}
	p := planOf(t, c, "h1")
	if len(p.Paces) != 1 || p.Paces[0].Player != cue.Player || math.Abs(p.Paces[0].Pace.Each-4.4) > 0.2 {
		t.Fatalf("%+v", p.Paces)
	}
	slow := false
	for _, x := range p.Cues {
		if x.Player == cue.Player && x.Moves > 0 {
			slow = true
			if each := x.Takes / float64(x.Moves); math.Abs(each-4.4) > 0.2 {
				t.Errorf("%s: %v s a control", x.Name, each)
			}
		}
	}
	if !slow {
		t.Errorf("slower hands change nothing: %+v", p.Cues)
	}
}

// Listening to a show finds for each pair what listening to the pair by itself finds; the plan is in sound then, also after a restart and for a copy of the show; a patch that has changed since was not heard.
// It can be stopped, and what was heard is kept.
func TestListeningToAShow(t *testing.T) {
	c := newClient(t, true)
	d := show.Doc{Format: show.Format, Version: show.Version, Name: "short", Cues: []show.CueDoc{{ID: "a", Name: "One", Patch: "undertow", Start: "0:10", End: "1:00"}}, Houses: []show.HouseDoc{{ID: "h", Name: "hall", Hire: []show.HireDoc{{Panel: "kedge"}, {Panel: "thole"}}}}}
	made := sends[ShowRow](t, c, "POST", "/shows/import?file=short.json", d, 201)
	path := fmt.Sprintf("/shows/%d", made.ID)
	if h := sends[Hearing](t, c, "GET", path+"/listen", nil, 200); h.Running {
		t.Error("it listens by itself")
	}
	if h := sends[Hearing](t, c, "POST", path+"/listen", nil, 200); h.Most != 2 {
		t.Errorf("%+v", h)
	}
	c.until(func() bool { return !sends[Hearing](t, c, "GET", path+"/listen", nil, 200).Running })
	p := sends[ShowPlan](t, c, "GET", path+"/plan", nil, 200)
	if !p.Heard || p.Listened != 2 || p.Cues[0].Loss == nil {
		t.Fatalf("%+v", p)
	}
	alone := map[string]float64{}
	best := math.Inf(1)
	for _, id := range []string{"kedge", "thole"} {
		alone[id] = sends[TargetHeard](t, c, "GET", "/patches/undertow/targets/"+id+"/heard", nil, 200).Apart
		best = min(best, alone[id])
	}
	if got := *p.Cues[0].Loss; math.Abs(got-best) > 0.06 || math.Abs(alone[p.Instruments[p.Cues[0].On].Panel]-got) > 0.06 {
		t.Errorf("%v lost on %s, by themselves %v", got, p.Instruments[p.Cues[0].On].Name, alone)
	}
	again := &client{t, serverOn(t, c.st), c.st, c.db}
	if p := sends[ShowPlan](t, again, "GET", path+"/plan", nil, 200); !p.Heard {
		t.Error("after a restart nobody has listened")
	}
	hire := sends[ShowHire](t, again, "GET", path+"/hire", nil, 200)
	if !hire.Heard || len(hire.Each) != 2 || math.Abs(hire.Each[0].Loss-best) > 0.06 {
		t.Errorf("%+v", hire.Each)
	}
	sends[any](t, c, "PUT", "/patches/undertow/layers/a/readings/filter.cutoff", map[string]string{"reading": "20"}, 200)
	if p := sends[ShowPlan](t, c, "GET", path+"/plan", nil, 200); p.Heard || p.Listened != 0 {
		t.Error("a patch that has changed counts as heard")
	}
	sends[Hearing](t, c, "POST", "/shows/1/listen", nil, 200)
	time.Sleep(50 * time.Millisecond)
	if h := sends[Hearing](t, c, "DELETE", "/shows/1/listen", nil, 200); h.Running || h.Error != "" {
		t.Errorf("%+v", h)
	}
}
