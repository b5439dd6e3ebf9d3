package steps_test

import (
	"maps"
	"slices"
	"strings"
	"testing"

	"glossator/core/dialin"
	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/scale"
	"glossator/core/synth"
	"glossator/testutil/hearing"
	"glossator/testutil/instruments"
	"glossator/testutil/testrack"
	"glossator/testutil/whole"
)

// What a control is tried with: short are two notes, the second slid into, soft and hard, and two together; long what a control is tried with that changes nothing
// there (a sustain is reached late).
var (
	short = []phrase.Note{{Start: 0, End: 0.3, Key: 45, Velocity: 50}, {Start: 0.25, End: 0.5, Key: 52, Velocity: 110, Slide: true},
		{Start: 0.6, End: 0.8, Key: 57, Velocity: 80}, {Start: 0.6, End: 0.8, Key: 64, Velocity: 80}}
	long = []phrase.Note{{Start: 0, End: 0.1, Key: 48, Velocity: 80}, {Start: 1, End: 5, Key: 45, Velocity: 90}}
)

// trial renders a panel with one control elsewhere, to the sample.
type trial struct {
	t     *testing.T
	on    *panel.Compiled
	state *panel.State
	tempo q.Tempo
	bank  *synth.Bank
	whole [2][]float64
}

func (x *trial) samples(m *meaning.Meaning, n int) []float64 {
	x.t.Helper()
	s, err := synth.Render([]synth.Layer{{Meaning: m}}, [][]phrase.Note{short, long}[n], synth.Options{Wheel: 0.5, Tail: 2, Raw: true, Bank: x.bank, Unmetered: true})
	if err != nil {
		x.t.Fatal(err)
	}
	defer x.bank.Leave(s)
	return append(slices.Clone(s.Left), s.Right...)
}

// changes tells whether a control at another place changes what is heard.
func (x *trial) changes(k int, at scale.Position) bool {
	x.t.Helper()
	st := *x.state
	st.At = slices.Clone(st.At)
	st.At[k] = at
	m := x.on.Interpret(&st, x.tempo)
	for n := range x.whole {
		if x.whole[n] == nil {
			x.whole[n] = x.samples(x.on.Interpret(x.state, x.tempo), n)
		}
		if !slices.Equal(x.whole[n], x.samples(m, n)) {
			return true
		}
	}
	return false
}

// forPlaying tells whether a control is there for the player's hands or ways: its difference is in how it is played.
func forPlaying(p *panel.Compiled, got *meaning.Meaning, k int) bool {
	for _, b := range p.Controls[k].Means {
		id, _ := meaning.Split(b.Param)
		if i, ok := p.ModuleIndex(id); ok && p.Modules[i].Kind == meaning.Voice {
			return true
		}
		for _, r := range p.Routes {
			if r.ID == id && (meaning.IsSource(r.From) || r.Via != "") {
				return true
			}
		}
	}
	for i := range got.Routes { // pressure is not tried
		r := &got.Routes[i]
		if r.Used() && meaning.IsSource(r.From) && strings.HasPrefix(p.Controls[k].ID, r.ID+".") {
			return true
		}
	}
	return false
}

// silentSteps lists the steps of a sheet's list that change nothing when they are taken back to init, or, where init has the same, put to the other end.
func silentSteps(t *testing.T, in *gloss.Input, s *gloss.Sheet, bank *synth.Bank) (nothing []string, steps int) {
	t.Helper()
	dst := in.Target.Compiled
	x := trial{t: t, on: dst, state: in.Set.State, tempo: in.Target.Tempo, bank: bank}
	list := dialin.Of(s)
	if !dst.Memory { // it may stand anyhow: what the list leaves alone is put elsewhere first, one at a time, and must not be heard
		loose := *in.Set.State
		loose.At = slices.Clone(loose.At)
		for _, l := range list.Leave {
			k, _ := dst.ControlIndex(l.Control)
			if all := dst.Places(k); len(all) > 0 && l.Why == "does nothing here" {
				at := elsewhere(all, l.Reading)
				if x.changes(k, at) {
					nothing = append(nothing, "left as it is, and heard: "+l.Control+" at "+at.Reading)
					continue
				}
				loose.At[k] = at
			}
		}
		x.state, x.whole = &loose, [2][]float64{}
	}
	for _, g := range list.Groups {
		for _, l := range g.Lines {
			k, ok := dst.ControlIndex(l.Key)
			if !ok || l.Caution != "" || forPlaying(dst, in.Got, k) {
				continue
			}
			at := dst.Init(k)
			if at.Reading == l.Reading {
				all := dst.Places(k)
				if len(all) == 0 {
					continue
				}
				at = elsewhere(all, l.Reading)
			}
			if steps++; !x.changes(k, at) {
				nothing = append(nothing, l.Text+": "+l.Why)
			}
		}
	}
	return nothing, steps
}

// elsewhere gives the end of a scale where a control does not stand.
func elsewhere(all []scale.Position, reading string) scale.Position {
	if last := all[len(all)-1]; last.Reading != reading {
		return last
	}
	return all[0]
}

// I9 on the list: every step changes what is heard when it is taken back, or is there for playing. Thirteen of the demo did not when this was written, one in 150.
func TestEveryStepIsHeard(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	bank := synth.NewBank()
	all, nothing, n := 0, 0, 0
	try := func(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled) {
		in, s := hearing.Made(t, src, p, dst, plan.Numbers)
		none, steps := silentSteps(t, in, s, bank)
		for _, x := range none {
			t.Logf("%s to %s: %s", p.ID, dst.ID, x)
		}
		all, nothing = all+steps, nothing+len(none)
	}
	for _, id := range slices.Sorted(maps.Keys(patches)) {
		p := patches[id]
		for _, to := range testrack.IDs(rack) {
			if n++; rack[p.Panel].Kind == "rack" || rack[to].Kind == "rack" || n%14 != 0 && !whole.Asked() {
				continue
			}
			try(rack[p.Panel], p, rack[to])
		}
	}
	for seed := range uint64(3) {
		src, p, dst, err := instruments.Pair(seed, seed+500)
		if err != nil {
			t.Fatal(err)
		}
		try(src, p, dst)
	}
	t.Logf("%d of %d steps do nothing", nothing, all)
	if nothing*80 > all {
		t.Errorf("%d of %d steps do nothing", nothing, all)
	}
}

// I9 on the source: every control that changes what is heard when it is put to init has a line that is not idle, on every target.
func TestEverySourceControlHasALine(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	bank := synth.NewBank()
	controls := 0
	for n, id := range slices.Sorted(maps.Keys(patches)) {
		p := patches[id]
		src := rack[p.Panel]
		if src.Kind == "rack" || n%2 == 1 && !whole.Asked() {
			continue
		}
		from, err := src.Read(&p.Layers[0], "/layers/0")
		if err != nil {
			t.Fatal(err)
		}
		x := trial{t: t, on: src, state: from, tempo: q.Tempo(p.Tempo), bank: bank}
		var heard []string
		for k := range src.Controls {
			if from.At[k].Reading != src.Init(k).Reading && x.changes(k, src.Init(k)) {
				heard = append(heard, src.Controls[k].ID)
			}
		}
		controls += len(heard)
		for at, to := range testrack.IDs(rack) {
			if rack[to].Kind == "rack" || to == src.ID || (n+at)%3 != 0 { // a third of the sheets: the lines hang on the target little
				continue
			}
			_, s := hearing.Made(t, src, p, rack[to], plan.Numbers)
			told := map[string]bool{}
			for i := range s.Glosses {
				g := &s.Glosses[i]
				for _, r := range g.Source {
					told[r.Control] = told[r.Control] || g.Verdict != gloss.Idle
				}
			}
			for _, c := range heard {
				if !told[c] {
					t.Errorf("%s to %s: %s is heard and has no line", id, to, c)
				}
			}
		}
	}
	t.Logf("%d controls are heard", controls)
	if controls < 70 || whole.Asked() && controls < 150 {
		t.Errorf("only %d controls are heard", controls)
	}
}
