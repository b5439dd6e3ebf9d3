package heard_test

import (
	"maps"
	"slices"
	"strings"
	"testing"

	"glossator/core/audition"
	"glossator/core/gloss"
	"glossator/core/heard"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/translate"
	"glossator/testutil/hearing"
	"glossator/testutil/instruments"
	"glossator/testutil/testrack"
)

// broughtIn makes the sheet by ear of the plan of numbers with some readings found by ear.
func broughtIn(t testing.TB, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, readings map[string]string) (*gloss.Input, *gloss.Sheet) {
	t.Helper()
	opt := translate.Options{School: plan.Ear, Choices: plan.Choices{Tuned: &plan.Tuned{Plain: true}}}
	plain, err := translate.Translate(src, p, dst, opt)
	if err != nil {
		t.Fatal(err)
	}
	opt.Choices.Tuned = &plan.Tuned{Plain: true, Plan: plain.Mark, Readings: readings}
	in, s, err := translate.Made(src, p, dst, opt)
	if err != nil {
		t.Fatal(err)
	}
	return in, s
}

// What is brought in by ear stands in the sheet's story where the target has it: what is in line there is in line here and does not double the sound, a ring modulator
// listens to what plays its oscillators, and what replaces a route that a switch has taken away is told.
func TestWhatIsBroughtInIsTold(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	for _, x := range []struct {
		patch, to string
		at        map[string]string
		line      string // that tells it
	}{
		{"keel", "bowline", map[string]string{"drive": "64"}, "target:drive"},
		{"lamp-room", "bowline", map[string]string{"filter.cutoff": "150", "drive": "40"}, "target:filter.cutoff"},
		{"lamp-room", "bowline", map[string]string{"osc2.link": "ring", "filter.cutoff": "150", "drive": "40"}, "target:osc2.link"},
		{"lamp-room", "bowline", map[string]string{"env.mode": "destination only"}, "target:gate-amp.depth"},
		{"lamp-room", "windlass", map[string]string{"filter.cutoff": "6.0"}, "target:filter.cutoff"},
		{"lamp-room", "sheave", map[string]string{"cutoff": "6.0"}, "target:cutoff"},
		{"lamp-room", "kedge", map[string]string{"lowpass.cutoff": "600 Hz"}, "target:lowpass.cutoff"},
	} {
		p := patches[x.patch]
		src, dst := rack[p.Panel], rack[x.to]
		in, s := broughtIn(t, src, p, dst, x.at)
		if !slices.ContainsFunc(s.Glosses, func(g gloss.Gloss) bool { // a line of its own, or that of a part which a rule has sent there
			return g.ID == x.line && g.Verdict == gloss.Bent ||
				g.Verdict == gloss.Recast && g.JNDs > 1 && slices.ContainsFunc(g.Target, func(r gloss.Reading) bool { return "target:"+r.Control == x.line })
		}) {
			t.Errorf("%s on %s with %v: no line %s", x.patch, x.to, x.at, x.line)
		}
		notes, _, err := audition.Notes(p, "", 0)
		if err != nil {
			t.Fatal(err)
		}
		r, err := heard.Of(heard.Task{In: in, Sheet: s, Notes: notes})
		if err != nil {
			t.Fatal(err)
		}
		if i8 := hearing.Check(r, "I8"); !i8.OK || r.Silent != "" {
			t.Errorf("%s on %s with %v: %s %s", x.patch, x.to, x.at, r.Silent, i8.Detail)
		}
	}
}

// A ring modulator that is brought in comes with what it listens to, even with an oscillator that plays nothing of the source and is silent.
func TestARingListens(t *testing.T) {
	dst := testrack.Panels(t)["thole"]
	src, err := instruments.Panel(1411)
	if err != nil {
		t.Fatal(err)
	}
	p := instruments.Patch(src, 1411)
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		t.Fatal(err)
	}
	in, s := broughtIn(t, src, p, dst, map[string]string{"ring.level": "50"})
	if r := in.Got.Module("ring"); !r.Used() {
		t.Fatalf("the ring is %q", r.Idle)
	}
	r, err := heard.Of(heard.Task{In: in, Sheet: s, Notes: notes})
	if err != nil {
		t.Fatal(err)
	}
	if c := hearing.Check(r, "I8"); !c.OK {
		t.Error(c.Detail)
	}
}

// Sheets are broken in ways that no line shows: the controls' meaning is changed behind their back. Each is found by I8.
func TestBrokenSheetsAreFound(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	p := patches["keel"]
	src, dst := rack[p.Panel], rack["halyard"]
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		t.Fatal(err)
	}
	put := func(m *meaning.Meaning, ref string, v float64) {
		id, name := meaning.Split(ref)
		d := m.Module(id)
		if d == nil {
			t.Fatalf("no %s", id)
		}
		d.Params = maps.Clone(d.Params)
		x := d.Params[name]
		x.Value, x.Off = v, false
		d.Params[name] = x
	}
	word := func(m *meaning.Meaning, ref, w string) {
		id, name := meaning.Split(ref)
		d := m.Module(id)
		d.Params = maps.Clone(d.Params)
		x := d.Params[name]
		x.Quantity = q.Named(x.Dim, w)
		d.Params[name] = x
	}
	drop := func(m *meaning.Meaning, kind meaning.Kind, param meaning.ParamName) {
		m.Routes = slices.DeleteFunc(slices.Clone(m.Routes), func(r meaning.Route) bool {
			if !r.Used() {
				return false
			}
			id, name := meaning.Split(r.To[0])
			d := m.Module(id)
			return d != nil && d.Kind == kind && name == param
		})
	}
	oscillators := func(m *meaning.Meaning) (out []*meaning.Module) {
		for i := range m.Modules {
			if m.Modules[i].Kind == meaning.Osc && m.Modules[i].Used() {
				out = append(out, &m.Modules[i])
			}
		}
		return out
	}
	for name, damage := range map[string]func(m *meaning.Meaning){
		"an octave off":                func(m *meaning.Meaning) { put(m, "voice.transpose", 1200) },
		"30 ct off":                    func(m *meaning.Meaning) { put(m, "voice.tune", 30) },
		"silent":                       func(m *meaning.Meaning) { put(m, "amp.level", -119) },
		"3 dB down":                    func(m *meaning.Meaning) { put(m, "amp.level", m.Module("amp").Params["level"].Value-3) },
		"the filter open":              func(m *meaning.Meaning) { put(m, "filter.cutoff", 15000) },
		"a high-pass in its place":     func(m *meaning.Meaning) { word(m, "filter.mode", "highpass") },
		"no envelope at the filter":    func(m *meaning.Meaning) { drop(m, meaning.Filter, meaning.PCutoff) },
		"no envelope at the amplifier": func(m *meaning.Meaning) { drop(m, meaning.Amp, meaning.PLevel) },
		"one oscillator gone":          func(m *meaning.Meaning) { oscillators(m)[0].Idle = "broken" },
		"two oscillators a fifth apart": func(m *meaning.Meaning) {
			d := oscillators(m)[1]
			put(m, d.ID+".interval", d.Params["interval"].Value+700)
		},
		"other waves": func(m *meaning.Meaning) {
			for _, d := range oscillators(m) {
				word(m, d.ID+".wave", "sine")
			}
		},
		"a long release": func(m *meaning.Meaning) { put(m, "env2.release", 3) },
		"a slow attack":  func(m *meaning.Meaning) { put(m, "env2.attack", 0.5) },
		"the path past the filter as well": func(m *meaning.Meaning) {
			m.Audio = append(slices.Clone(m.Audio), meaning.Edge{From: "mixer", To: "amp"})
		},
	} {
		in, s, err := translate.Made(src, p, dst, translate.Options{School: plan.Numbers})
		if err != nil {
			t.Fatal(err)
		}
		broken := *in.Got
		broken.Modules, broken.Routes = slices.Clone(broken.Modules), slices.Clone(broken.Routes)
		damage(&broken)
		in.Got = &broken
		r, err := heard.Of(heard.Task{In: in, Sheet: s, Notes: notes})
		if err != nil {
			t.Fatal(err)
		}
		c := hearing.Check(r, "I8")
		if c.OK {
			t.Errorf("%s: nothing was found: %.2f apart", name, r.Told.Total)
		}
		if name == "silent" && r.Silent != "target" {
			t.Errorf("silent: %q", r.Silent)
		}
		if strings.Contains(name, " off") && !strings.Contains(c.Detail, "ct out of tune") {
			t.Errorf("%s: %s", name, c.Detail)
		}
	}
}

// Each line that is not held says how much it is heard, the most first; a part that is heard and told by no line is found by I9.
func TestLinesAreHeard(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	p := patches["keel"]
	in, s, r := hearing.Listen(t, rack[p.Panel], p, rack["kedge"], plan.Numbers, true)
	if len(r.Lines) == 0 || !slices.IsSortedFunc(r.Lines, func(a, b heard.LineHeard) int {
		switch {
		case a.Apart > b.Apart:
			return -1
		case a.Apart < b.Apart:
			return 1
		}
		return 0
	}) {
		t.Fatalf("%+v", r.Lines)
	}
	if !hearing.Check(r, "I9").OK {
		t.Errorf("I9: %s", hearing.Check(r, "I9").Detail)
	}
	of := map[string]gloss.Verdict{}
	for i := range s.Glosses {
		of[s.Glosses[i].ID] = s.Glosses[i].Verdict
	}
	for _, x := range r.Lines {
		if !slices.Contains(gloss.Losses, of[x.ID]) {
			t.Errorf("%s is heard and is %s", x.ID, of[x.ID])
		}
	}
	if r.Lines[0].Apart < 2 {
		t.Errorf("the most that a line makes is %.1f of %.1f", r.Lines[0].Apart, r.Apart.Total)
	}
	for i := range s.Glosses { // the lines of the first oscillator are taken away
		if id, _ := meaning.Split(s.Glosses[i].Param); id == "osc1" {
			s.Glosses[i].Verdict = gloss.Idle
		}
	}
	notes, _, _ := audition.Notes(p, "", 0)
	again, err := heard.Of(heard.Task{In: in, Sheet: s, Notes: notes, Lines: true})
	if err != nil {
		t.Fatal(err)
	}
	if c := hearing.Check(again, "I9"); c.OK || !strings.Contains(c.Detail, "Oscillator 1") {
		t.Errorf("an oscillator without a line: %+v", c)
	}
}

// What a line that goes over by a rule makes is of that rule alone: whether another part goes by one too, or is left out, changes nothing of it.
func TestARecastIsHeardAlone(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	p := patches["lamp-room"]
	src, dst := rack[p.Panel], rack["thole"]
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		t.Fatal(err)
	}
	of := func(opt translate.Options) map[string]float64 { // by control
		opt.School = plan.Numbers
		in, s, err := translate.Made(src, p, dst, opt)
		if err != nil {
			t.Fatal(err)
		}
		r, err := heard.Of(heard.Task{In: in, Sheet: s, Notes: notes, Lines: true})
		if err != nil {
			t.Fatal(err)
		}
		out := map[string]float64{}
		for _, x := range r.Lines {
			out[x.ID] = x.Apart
		}
		return out
	}
	all := of(translate.Options{})
	without := of(translate.Options{Choices: plan.Choices{Refuse: map[string][]string{"opr2": {"operator"}, "opr4": {"operator"}}}})
	compared := 0
	for id, a := range all {
		if b, ok := without[id]; ok && strings.HasPrefix(id, "reverb") {
			compared++
			if a != b {
				t.Errorf("%s makes %.1f, and %.1f where the operators go otherwise", id, a, b)
			}
		}
	}
	if compared == 0 {
		t.Fatalf("no line of the reverb in %v and %v", all, without)
	}
}

func BenchmarkHeard(b *testing.B) {
	rack, patches := testrack.Panels(b), testrack.Patches(b)
	p := patches["keel"]
	for b.Loop() {
		hearing.Listen(b, rack[p.Panel], p, rack["halyard"], plan.Numbers, true)
	}
}
