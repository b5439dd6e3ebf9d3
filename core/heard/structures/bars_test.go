package structures

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/testutil/hearing"
	"glossator/testutil/testrack"
)

// bars is an instrument of our own for this test: four sines through one amplifier that a key opens for as long as it is held, one that dies away through its own, and a click through a third.
func bars(t *testing.T) *panel.Compiled {
	t.Helper()
	var modules, controls, edges []string
	for i, cents := range []int{-1200, 0, 702, 1200} {
		modules = append(modules, fmt.Sprintf(`{"id":"b%d","kind":"osc","label":"Bar %d","fixed":{"wave":"sine","interval":"%d ct","phase":"free"}}`, i, i, cents))
		controls = append(controls, fmt.Sprintf(`{"id":"bar%d","label":"Bar %d","section":"s","face":{"kind":"list","entries":["0","1","2"]},"means":[{"param":"b%d.level","law":{"kind":"list","unit":"dB","values":["off",-6,0],"source":"stated"}}],"init":"0"}`, i, i, i))
		edges = append(edges, fmt.Sprintf(`{"from":"b%d","to":"held"}`, i))
	}
	text := `{"format":"glossator-panel","version":2,"id":"bars","name":"Bars","revision":1,"kind":"instrument","memory":true,"sections":[{"id":"s","label":"Bars","step":"oscillators"}],"modules":[
		{"id":"voice","kind":"voice","label":"Voice","fixed":{"count":"8","glide":"0 ms"}},` + strings.Join(modules, ",") + `,
		{"id":"p","kind":"osc","label":"Struck","fixed":{"wave":"sine","interval":"1902 ct","phase":"free"}},{"id":"k","kind":"noise","label":"Click"},
		{"id":"ge","kind":"env","label":"Key","fixed":{"attack":"2 ms","decay":"1 ms","sustain":"100 %","release":"20 ms","curve":"exponential"}},
		{"id":"pe","kind":"env","label":"Struck envelope","fixed":{"attack":"1 ms","decay":"300 ms","sustain":"0 %","release":"300 ms","curve":"exponential"}},
		{"id":"ke","kind":"env","label":"Click envelope","fixed":{"attack":"1 ms","decay":"12 ms","sustain":"0 %","release":"10 ms","curve":"exponential"}},
		{"id":"held","kind":"amp","label":"Held"},{"id":"struck","kind":"amp","label":"Struck amplifier"},{"id":"clicked","kind":"amp","label":"Click amplifier"},{"id":"last","kind":"amp","label":"Output"}],
		"controls":[` + strings.Join(controls, ",") + `,
		{"id":"struck.level","label":"Struck","section":"s","face":{"kind":"list","entries":["0","1"]},"means":[{"param":"p.level","law":{"kind":"list","unit":"dB","values":["off",-3],"source":"stated"}}],"init":"0"},
		{"id":"click.level","label":"Click","section":"s","face":{"kind":"list","entries":["0","1"]},"means":[{"param":"k.level","law":{"kind":"list","unit":"dB","values":["off",-20],"source":"stated"}}],"init":"0"}],
		"routes":[{"id":"r1","label":"Key to held","from":"ge","to":["held.level"],"depth":"100 %","polarity":"unipolar"},{"id":"r2","label":"Struck to its amplifier","from":"pe","to":["struck.level"],"depth":"100 %","polarity":"unipolar"},
		{"id":"r3","label":"Click to its amplifier","from":"ke","to":["clicked.level"],"depth":"100 %","polarity":"unipolar"}],
		"audio":[` + strings.Join(edges, ",") + `,{"from":"p","to":"struck"},{"from":"k","to":"clicked"},{"from":"held","to":"last"},{"from":"struck","to":"last"},{"from":"clicked","to":"last"},{"from":"last","to":"out"}]}`
	var p panel.Panel
	if err := json.Unmarshal([]byte(text), &p); err != nil {
		t.Fatal(err)
	}
	c, err := panel.Compile(&p)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// Bars and a click by numbers. On operators all of them are there, and what is struck falls by its own envelope; where there is one envelope, or one for each of two lines, the click does not
// shut the bars, and is not held as a hiss: it is left out. The render is the witness. Before there were rules for it the first lay 24 apart, with a bar left out for want of sets of
// rules; the second 50, shut after the click, and hissing (a triangle in place of a sine, without a filter for each, is most of what is left).
func TestBarsAndAClick(t *testing.T) {
	src, rack := bars(t), testrack.Panels(t)
	on := func(id string, readings map[string]string) *patch.Patch {
		p := onLines(id, readings)
		p.Panel = "bars"
		return p
	}
	all := on("all", map[string]string{"bar0": "2", "bar1": "2", "bar2": "1", "struck.level": "1"})
	clicked := on("clicked", map[string]string{"bar0": "2", "bar1": "2", "click.level": "1"})
	for _, x := range []struct {
		p    *patch.Patch
		on   *panel.Compiled
		most float64
	}{{all, rack["fairlead"], 6}, {clicked, rack["kedge"], 35}, {clicked, lined(t), 16}} {
		in, s, r := hearing.Listen(t, src, x.p, x.on, plan.Numbers, false)
		if r.Silent != "" || r.Apart.Total > x.most {
			t.Errorf("%s on %s: %+v, silent: %q", x.p.ID, x.on.ID, r.Apart, r.Silent)
		}
		for _, g := range s.Glosses {
			if strings.HasPrefix(g.ID, "bar") && g.Verdict == "left out" {
				t.Errorf("%s on %s: %s is left out: %s", x.p.ID, x.on.ID, g.ID, g.Reason)
			}
		}
		for i := range in.Got.Modules {
			if d := &in.Got.Modules[i]; d.Kind == meaning.Noise && d.Used() {
				t.Errorf("%s on %s: the click is held as a hiss", x.p.ID, x.on.ID)
			}
		}
	}
}
