package translate_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/settle"
	"glossator/core/translate"
	"glossator/testutil/instruments"
	"glossator/testutil/testrack"
)

// made translates by numbers and gives what was wanted, the plan, and what the target means.
func made(t testing.TB, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled) (*gloss.Input, *gloss.Sheet) {
	t.Helper()
	in, s, err := translate.Made(src, p, dst, translate.Options{School: plan.Numbers})
	if err != nil {
		t.Fatal(err)
	}
	return in, s
}

// invented is a patch on an invented instrument, and another instrument.
func invented(t testing.TB, seed uint64) (src *panel.Compiled, p *patch.Patch, dst *panel.Compiled) {
	t.Helper()
	src, p, dst, err := instruments.Pair(seed, seed+3000)
	if err != nil {
		t.Fatal(err)
	}
	return src, p, dst
}

// total is where an oscillator of a meaning sounds, in cents from the key: transposition, tuning, footage, semitones and cents are one sum.
func total(m *meaning.Meaning, d *meaning.Module) float64 {
	sum := 0.0
	for i := range m.Modules {
		if v := &m.Modules[i]; v.Kind == meaning.Voice && v.Used() {
			a, _ := v.Get(meaning.PTranspose)
			b, _ := v.Get(meaning.PTune)
			sum += a.Value + b.Value
		}
	}
	x, _ := d.Get(meaning.PInterval)
	return sum + x.Value
}

// What sounds is in tune: each part of the cast that has a place sounds where the source's sum has it, within half a step of what the target can set; nothing is an octave off
// without being said to be. Over patches on the demo's keyboards, transposed and not, and over invented ones.
func TestInTune(t *testing.T) {
	check := func(name string, in *gloss.Input, s *gloss.Sheet) {
		byHand := false
		for _, r := range s.Recasts {
			byHand = byHand || r.Player
		}
		for i := range in.Plan.Cast.Modules {
			m := &in.Plan.Cast.Modules[i]
			j, ok := in.Plan.Best.Module[m.ID]
			if !ok || !m.Used() || byHand {
				continue
			}
			switch m.Kind {
			case meaning.Osc, meaning.Sub, meaning.Operator:
			default:
				continue
			}
			got := in.Got.Module(in.Target.Modules[j].ID)
			if _, has := got.Params[meaning.PInterval]; got == nil || !has {
				continue
			}
			if off := math.Abs(total(in.Got, got) - total(in.Plan.Cast, m)); off > 100 {
				told := false
				for k := range s.Glosses {
					g := &s.Glosses[k]
					id, _ := meaning.Split(g.TargetParam)
					told = told || id == got.ID && (g.Verdict == gloss.Bent || strings.Contains(g.Reason, "asked for there"))
				}
				if !told {
					t.Errorf("%s: %s is %.0f ct off, and no line says so", name, m.Label, off)
				}
			}
		}
	}
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	for _, id := range []string{"foghorn", "tide-pool"} {
		for _, transposed := range []string{"-12", "0", "+12"} {
			p := *patches[id]
			y := p.Layers[0]
			y.Readings = map[string]string{}
			for k, v := range p.Layers[0].Readings {
				y.Readings[k] = v
			}
			for _, c := range rack[p.Panel].Controls {
				for _, b := range c.Means {
					if b.Param == "voice.transpose" {
						y.Readings[c.ID] = transposed
						if k, ok := rack[p.Panel].ControlIndex(c.ID); ok {
							if _, err := rack[p.Panel].Parse(k, transposed); err != nil {
								delete(y.Readings, c.ID)
							}
						}
					}
				}
			}
			p.Layers = []patch.Layer{y}
			for _, to := range testrack.IDs(rack) {
				in, s := made(t, rack[p.Panel], &p, rack[to])
				check(id+" "+transposed+" to "+to, in, s)
			}
		}
	}
	for seed := range seeds(60) {
		src, p, dst := invented(t, seed)
		in, s := made(t, src, p, dst)
		check(p.ID+" to "+dst.ID, in, s)
	}
}

// Where a level lies beyond the top of the target's scale all go down together: what the oscillators are to each other is kept to a decibel, and the volume makes up for it
// as far as it goes.
func TestLevelsGoDownTogether(t *testing.T) {
	rack := testrack.Panels(t)
	src := rack["kedge"]
	level := func(m *meaning.Meaning, id string) float64 {
		v, _ := m.Module(id).Get(meaning.PLevel)
		return v.Value
	}
	p := testrack.Generate(src, 7, 0)
	p.Layers[0].Readings = map[string]string{"mix.osc1": "3:00", "mix.osc2": "10:00"}
	for _, to := range []string{"halyard", "thole", "windlass"} {
		in, _ := made(t, src, p, rack[to])
		var is []float64
		for _, id := range []string{"osc1", "osc2"} {
			j, ok := in.Plan.Placed(id)
			if !ok {
				t.Fatalf("%s: %s has no place", to, id)
			}
			is = append(is, level(in.Got, in.Target.Modules[j].ID))
		}
		if want := level(in.Plan.Wanted, "osc1") - level(in.Plan.Wanted, "osc2"); math.Abs(is[0]-is[1]-want) > 1 {
			t.Errorf("%s: the two lie %.1f dB apart, want %.1f", to, is[0]-is[1], want)
		}
	}
}

// What the source does not state stays where init has it, never at the bottom of the scale; over every pair of the demo's instruments.
func TestUnstatedStays(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	n := 0
	for _, p := range patches {
		for _, to := range testrack.IDs(rack) {
			in, _ := made(t, rack[p.Panel], p, rack[to])
			if in.SamePanel() {
				continue
			}
			for i := range in.Plan.Cast.Modules {
				m := &in.Plan.Cast.Modules[i]
				j, ok := in.Plan.Best.Module[m.ID]
				if !ok || !m.Used() {
					continue
				}
				for _, param := range meaning.SpecOf(m.Kind).Params {
					if _, stated := m.Params[param.Name]; stated || !param.Stays || param.Name == meaning.PPlace { // the order is kept as a whole
						continue
					}
					for _, b := range in.Target.Binds(meaning.Ref(in.Target.Modules[j].ID, param.Name)) {
						if n++; len(in.Target.Controls[b.Control].Means) == 1 && in.Set.State.At[b.Control].Index != in.Target.Init(b.Control).Index {
							t.Errorf("%s to %s: %s stands at %s, init has %s", p.ID, to, in.Target.Controls[b.Control].ID, in.Set.State.At[b.Control].Reading, in.Target.Init(b.Control).Reading)
						}
					}
				}
			}
		}
	}
	if n < 10 {
		t.Errorf("only %d such controls were met", n)
	}
}

// "Near" covers a few just-noticeable differences at the most; and what a switch is printed with, or noon of a control about a centre, is exact, whatever is assumed.
func TestDoubtIsBounded(t *testing.T) {
	for seed := range seeds(40) {
		src, p, dst := invented(t, seed)
		_, s := made(t, src, p, dst)
		for i := range s.Glosses {
			if g := &s.Glosses[i]; g.Verdict == gloss.Near && g.JNDs > 3 {
				t.Errorf("%s to %s: %s is near at %.1f just-noticeable differences", p.ID, dst.ID, g.ID, g.JNDs)
			}
			for _, f := range []*gloss.Figure{s.Glosses[i].Wanted, s.Glosses[i].Reached} {
				if f != nil && f.Quantity.Dim == q.DimLevel && f.Quantity.Tol > 8 {
					t.Errorf("%s: %s is known to %s only", p.ID, s.Glosses[i].ID, f.Tol)
				}
			}
		}
	}
}

// An envelope that is wired to open what sounds and plays no part takes nothing away: its sustain is full, its attack the shortest. On every invented pair.
func TestNoEnvelopeIsLeftAtInit(t *testing.T) {
	met := 0
	for seed := range seeds(120) {
		src, p, dst := invented(t, seed)
		in, _ := made(t, src, p, dst)
		for i := range in.Got.Routes {
			r := &in.Got.Routes[i]
			id, param := meaning.Split(append(r.To, "")[0])
			d, e := in.Got.Module(id), in.Got.Module(r.From)
			if !r.Used() || d == nil || e == nil || e.Kind != meaning.Env || param != meaning.PLevel || d.Kind != meaning.Operator || in.Plan.Makes(in.Target, r.ID) {
				continue
			}
			j, _ := in.Target.ModuleIndex(e.ID)
			k, _ := in.Target.ModuleIndex(d.ID)
			if in.Set.Playing(j) || !in.Set.Playing(k) {
				continue
			}
			met++
			s, _ := e.Get(meaning.PSustain)
			a, _ := e.Get(meaning.PAttack)
			if s.Value < 0.97 || a.Value > 0.01 {
				t.Errorf("%s to %s: %s opens %s with sustain %.2f and attack %.3f s", p.ID, dst.ID, e.ID, d.ID, s.Value, a.Value)
			}
		}
	}
	if met == 0 {
		t.Error("no such envelope was met")
	}
}

// Filters side by side come out side by side, or as one filter, or one of them is told to be left out: never one behind the other with both lines held.
func TestSideBySideStays(t *testing.T) {
	met := 0
	for seed := range seeds(160) {
		src, p, dst := invented(t, seed)
		in, s := made(t, src, p, dst)
		graph := in.Plan.Wanted.Graph()
		list := graph.Filters()
		if len(list) != 2 || !graph.SideBySide(list[0], list[1]) {
			continue
		}
		var here []*meaning.Module
		for _, f := range list {
			if j, ok := in.Plan.Placed(f.ID); ok {
				here = append(here, in.Got.Module(in.Target.Modules[j].ID))
			}
		}
		met++
		if len(here) == 2 && here[0].ID != here[1].ID && !in.Got.Graph().SideBySide(here[0], here[1]) {
			t.Errorf("%s to %s: %s and %s stand in a row; %v", p.ID, dst.ID, here[0].ID, here[1].ID, s.Summary)
		}
	}
	if met < 10 {
		t.Errorf("only %d pairs of filters side by side were met", met)
	}
}

// The order of the effects is kept where the target has places for them, and else a line says which stand the other way round.
func TestOrderOfEffects(t *testing.T) {
	binnacle := testrack.Panels(t)["binnacle"]
	kept, told := 0, 0
	check := func(p *patch.Patch, in *gloss.Input, s *gloss.Sheet, places bool) {
		chain := in.Got.Graph().Chain()
		last, turned, n := -1, false, 0
		for _, d := range in.Plan.Wanted.Graph().Chain() {
			j, ok := in.Plan.Placed(d.ID)
			if !ok {
				continue
			}
			at := slices.IndexFunc(chain, func(x *meaning.Module) bool { return x.ID == in.Target.Modules[j].ID })
			if at >= 0 {
				turned, last, n = turned || at < last, max(at, last), n+1
			}
		}
		says := slices.ContainsFunc(s.Glosses, func(g gloss.Gloss) bool { return g.ID == gloss.OrderLine })
		if turned != says || turned && places {
			t.Errorf("%s to %s: turned round %v, a line says so: %v", p.ID, in.Target.ID, turned, says)
		}
		if n > 1 && places {
			kept++
		}
		if says {
			told++
		}
	}
	for seed := range uint64(120) {
		src, p, dst := invented(t, seed)
		in, s := made(t, src, p, dst)
		check(p, in, s, false)
		in, s = made(t, src, p, binnacle)
		check(p, in, s, true)
	}
	if kept < 8 || told < 1 {
		t.Errorf("%d chains of several effects were kept, %d told to be turned round", kept, told)
	}
}

// An envelope that moves two things keeps both where the target has two envelopes, each wired to one: the second is set alike. Over invented pairs no envelope leaves the
// amplifier without one that it had, and a copy is set like the first within a just-noticeable difference or its line says so.
func TestEnvelopesAreCopied(t *testing.T) {
	met := 0
	for seed := range seeds(180) {
		src, p, dst := invented(t, seed)
		in, s := made(t, src, p, dst)
		for _, u := range in.Plan.Uses {
			if u.Rule.ID != "copied" {
				continue
			}
			for i := range in.Plan.Cast.Modules {
				x := &in.Plan.Cast.Modules[i]
				j, placed := in.Plan.Best.Module[x.ID]
				if !placed || x.Kind != meaning.Env || x.Changed() || !x.Made() || u.Meaning.Module(x.ID) == nil || u.Before.Module(x.ID) != nil {
					continue
				}
				met++
				got := in.Got.Module(in.Target.Modules[j].ID)
				for _, name := range []meaning.ParamName{meaning.PAttack, meaning.PDecay, meaning.PSustain} {
					param, _ := meaning.SpecOf(meaning.Env).Param(name)
					a, b := x.Params[name], got.Params[name]
					if _, jnds := plan.Compare(param, a.Quantity, b.Quantity, x, got); jnds > 1 && !slices.ContainsFunc(s.Glosses, func(g gloss.Gloss) bool { return g.TargetParam == meaning.Ref(got.ID, name) }) {
						t.Errorf("%s to %s: the %s of the second is %.1f away, and no line says so", p.ID, dst.ID, name, jnds)
					}
				}
			}
		}
	}
	if met < 5 {
		t.Errorf("only %d envelopes were copied", met)
	}
}

// A voice is set in every school, on every pair: by feel, too, it is what is kept first.
func TestTheVoiceIsAlwaysSet(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	for _, id := range slices.Sorted(maps.Keys(patches)) {
		p := patches[id]
		for _, to := range testrack.IDs(rack) {
			for _, school := range []plan.School{plan.Numbers, plan.Ear, plan.Feel} {
				in, _, err := translate.Made(rack[p.Panel], p, rack[to], translate.Options{School: school})
				if err != nil {
					t.Fatal(err)
				}
				for i := range in.Plan.Cast.Modules {
					m := &in.Plan.Cast.Modules[i]
					if _, placed := in.Plan.Best.Module[m.ID]; m.Kind == meaning.Voice && m.Used() && !placed && rack[to].Kind == "instrument" {
						t.Errorf("%s to %s by %s: the voice has no place", id, to, school)
					}
				}
			}
		}
	}
}

// No two parts are put on operators between which a modulation stands for good that nothing asks for, where that can be helped: not on the target that has them free.
func TestOperatorsDoNotModulateUnasked(t *testing.T) {
	met, unasked := 0, 0
	for seed := range seeds(300) {
		src, p, dst := invented(t, seed)
		if !slices.ContainsFunc(dst.Modules, func(d panel.Module) bool { return d.Kind == meaning.Operator }) {
			continue
		}
		met++
		in, s := made(t, src, p, dst)
		for i := range in.Got.Routes {
			r := &in.Got.Routes[i]
			id, name := meaning.Split(append(r.To, "")[0])
			from, to := in.Got.Module(r.From), in.Got.Module(id)
			if !r.Used() || name != meaning.PPM || from == nil || !from.Used() || to == nil || !to.Used() || in.Plan.Makes(in.Target, r.ID) {
				continue
			}
			unasked++
			if !slices.ContainsFunc(s.Glosses, func(g gloss.Gloss) bool { return g.Route == r.ID }) {
				t.Errorf("%s to %s: %s modulates %s unasked, and no line says so", p.ID, dst.ID, r.From, id)
			}
		}
	}
	t.Logf("of %d, %d modulations that nothing asks for", met, unasked)
	if met < 10 || unasked > met/5 {
		t.Errorf("of %d, %d modulations that nothing asks for", met, unasked)
	}
}

// The interval between two oscillators that beat has a line of its own, with the beats as the difference of the two frequencies, counted here from the notes themselves; a detune that
// the target's steps make nothing of is bent, and the line says how to set it by ear. Over invented pairs and the demo's.
func TestBeatsBetweenOscillators(t *testing.T) {
	lines, none := 0, 0
	check := func(in *gloss.Input, s *gloss.Sheet) {
		for i := range s.Glosses {
			g := &s.Glosses[i]
			pair, is := strings.CutPrefix(g.ID, gloss.BetweenLine)
			if !is {
				continue
			}
			lines++
			a, b, _ := strings.Cut(pair, ",")
			hz := func(m *meaning.Meaning, id string) float64 {
				return float64(in.Note.Frequency()) * math.Exp2(total(m, m.Module(id))/1200)
			}
			f, h := hz(in.Plan.Wanted, a), hz(in.Plan.Wanted, b)
			lo, hi := min(f, h), max(f, h)
			if want := fmt.Sprintf("it beats %s times", q.Number(math.Abs(hi-lo*math.Round(hi/lo)), 2)); !strings.Contains(g.Reason, want) {
				t.Errorf("%s to %s: %s: %q, want %q (%v and %v Hz)", in.Patch.ID, in.Target.ID, g.ID, g.Reason, want, f, h)
			}
			if d := g.Reached.Quantity.Value; math.Abs(d-1200*math.Round(d/1200)) < 0.01 {
				none++
				if g.Verdict != gloss.Bent || len(g.Target) > 0 && !strings.Contains(g.Reason, "until it beats") {
					t.Errorf("%s to %s: %s comes to nothing: %s, %q", in.Patch.ID, in.Target.ID, g.ID, g.Verdict, g.Reason)
				}
			}
		}
	}
	for seed := range seeds(80) {
		src, p, dst := invented(t, seed)
		check(made(t, src, p, dst))
	}
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	for _, id := range slices.Sorted(maps.Keys(patches)) {
		for _, to := range testrack.IDs(rack) {
			check(made(t, rack[patches[id].Panel], patches[id], rack[to]))
		}
	}
	t.Logf("%d lines, %d of which come to nothing", lines, none)
	if lines < 30 || none < 1 {
		t.Errorf("%d lines, %d of which come to nothing", lines, none)
	}
}

// Where anything of the target hangs on its tempo the sheet says at which it has to run, and nowhere else: what hangs on it is what is another when the same readings
// are read at twice the tempo.
func TestTempoIsAskedFor(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	asked, own := 0, 0
	for _, id := range slices.Sorted(maps.Keys(patches)) {
		for _, to := range testrack.IDs(rack) {
			in, s := made(t, rack[patches[id].Panel], patches[id], rack[to])
			fast := in.Target.Interpret(in.Set.State, 2*in.Target.Tempo)
			hangs := false
			for i := range in.Got.Modules {
				m, d := &in.Got.Modules[i], fast.Module(in.Got.Modules[i].ID)
				for name, v := range m.Params {
					hangs = hangs || m.Used() && m.Heard(name) && !v.Off && math.Abs(v.Value-d.Params[name].Value) > 1e-9
				}
			}
			says := slices.ContainsFunc(s.Notes, func(n string) bool { return strings.HasPrefix(n, gloss.TempoNote) })
			for _, x := range s.Settings { // where it has a control of its own that is a step of the list
				if x.Control == "tempo" && x.Action == gloss.Set && to != patches[id].Panel {
					own++
					says = true
					if x.Reading != fmt.Sprint(math.Round(float64(in.Target.Tempo))) {
						t.Errorf("%s to %s: the tempo is set to %s, the patch has %g", id, to, x.Reading, in.Target.Tempo)
					}
				}
			}
			if hangs != says {
				t.Errorf("%s to %s: the tempo matters: %v, the sheet asks for it: %v", id, to, hangs, says)
			}
			if says {
				asked++
			}
		}
	}
	if asked < 4 || own < 1 {
		t.Errorf("only %d sheets ask for a tempo, %d by a control", asked, own)
	}
}

// changed compiles a panel anew with something else about it.
func changed(t testing.TB, c *panel.Compiled, change func(p *panel.Panel)) *panel.Compiled {
	t.Helper()
	var p panel.Panel
	b, err := json.Marshal(c.Panel)
	if err == nil {
		err = json.Unmarshal(b, &p)
	}
	if err != nil {
		t.Fatal(err)
	}
	change(&p)
	out, err := panel.Compile(&p)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// Slots that share the control of their source carry one source: no route that is made on the target begins elsewhere than it should, and where all slots share one some are left out.
func TestSlotsThatShareASource(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	for _, shared := range []int{2, 6} { // of the six slots of Thole
		dst := changed(t, rack["thole"], func(p *panel.Panel) {
			first := -1
			p.Controls = slices.DeleteFunc(p.Controls, func(c panel.Control) bool {
				var n int
				_, err := fmt.Sscanf(c.ID, "r%d.source", &n)
				return err == nil && n > 1 && n <= shared
			})
			for i := range p.Controls {
				if p.Controls[i].ID == "r1.source" {
					first = i
				}
			}
			c := &p.Controls[first]
			for n := 2; n <= shared; n++ {
				b := c.Means[0]
				b.Param = fmt.Sprintf("r%d.source", n)
				c.Means = append(c.Means, b)
			}
		})
		checked, wired := 0, 0
		for _, id := range slices.Sorted(maps.Keys(patches)) {
			p := patches[id]
			in, s := made(t, rack[p.Panel], p, dst)
			if !s.Clean() {
				t.Errorf("%s: %+v", id, s.Audit)
			}
			begins := map[string]bool{}
			for i := range in.Plan.Cast.Routes {
				r, c := &in.Plan.Cast.Routes[i], &in.Plan.Best.Route[i]
				if !r.Used() || !c.Made() || c.Way.Means(in.Target) != plan.BySlot {
					continue
				}
				way, _ := c.Way.Made(in.Target)
				got := in.Got.Route(way)
				from := r.From
				if k, ok := in.Plan.Best.Module[r.From]; ok {
					from = in.Target.Modules[k].ID
				}
				if got == nil || got.From != from {
					t.Errorf("%d share: %s to Thole: %s begins at %+v, not at %s", shared, id, r.ID, got, from)
				}
				checked++
				if len(way) == 2 && int(way[1]-'0') <= shared {
					begins[from] = true
				}
			}
			if wired++; len(begins) > 1 {
				t.Errorf("%d share: %s to Thole: one control stands at %v", shared, id, slices.Sorted(maps.Keys(begins)))
			}
		}
		if checked < 6 {
			t.Errorf("%d share: only %d routes were made by slots", shared, checked)
		}
	}
}

// Where two filters have become one its base is moved once.
func TestBaseIsMovedOnce(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	moved := 0
	for _, id := range slices.Sorted(maps.Keys(patches)) {
		for _, to := range testrack.IDs(rack) {
			p := *patches[id]
			if id == "storm-front" { // both filters follow the key, far from the middle
				p.Kind, p.Phrase = "bass", nil
				y := p.Layers[0]
				y.Readings = maps.Clone(y.Readings)
				y.Readings["filter1.track"], y.Readings["filter2.track"] = "100 %", "100 %"
				p.Layers = []patch.Layer{y}
			}
			in, _ := made(t, rack[p.Panel], &p, rack[to])
			for ref, a := range in.Adjusted {
				n := 0
				for _, x := range a.Notes {
					if x.Code == settle.ForNotes {
						n++
					}
				}
				if moved += n; n > 1 {
					t.Errorf("%s to %s: %s is moved %d times", id, to, ref, n)
				}
			}
		}
	}
	if moved < 5 {
		t.Errorf("only %d bases are moved", moved)
	}
}

// Tracking that the target has not moves the base of the cutoff to where the notes played have it, in the school of numbers too; the line says so.
func TestBaseWhereTheNotesAre(t *testing.T) {
	rack := testrack.Panels(t)
	src := rack["halyard"]
	// Halyard without its key tracking
	plain := changed(t, src, func(p *panel.Panel) {
		p.ID = "plain"
		p.Controls = slices.DeleteFunc(p.Controls, func(c panel.Control) bool {
			return slices.ContainsFunc(c.Means, func(b panel.Bind) bool {
				return b.Param == "filter.track"
			})
		})
	})
	for _, kind := range []string{"bass", "lead"} {
		p := &patch.Patch{Format: "glossator-patch", Version: 1, ID: "tracked", Name: "Tracked", Panel: src.ID, Kind: kind,
			Layers: []patch.Layer{{ID: "main", Readings: map[string]string{"filter.cutoff": "70", "osc1.level": "127", "filter.track": "127"}}}}
		from, err := src.Read(&p.Layers[0], "/layers/0")
		if err != nil {
			t.Fatal(err)
		}
		there := src.Interpret(from, 120).Module("filter")
		track, _ := there.Get(meaning.PTrack)
		in, s := made(t, src, p, plain)
		here := in.Got.Module("filter")
		key := map[string]float64{"bass": 33, "lead": 69}[kind]
		want := there.Params[meaning.PCutoff].Value * math.Exp2(track.Value*(key-60)/12)
		if got := here.Params[meaning.PCutoff].Value; math.Abs(math.Log2(got/want)) > 0.15 {
			t.Errorf("%s: the cutoff is at %.0f Hz, %.0f at the notes there (tracking %.2f)", kind, got, want, track.Value)
		}
		if i := slices.IndexFunc(s.Glosses, func(g gloss.Gloss) bool { return g.Param == "filter.cutoff" }); !strings.Contains(s.Glosses[i].Reason, "where it is at") {
			t.Errorf("%s: %q", kind, s.Glosses[i].Reason)
		}
	}
}
