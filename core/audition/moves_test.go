package audition_test

import (
	"fmt"
	"math"
	"testing"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/hear"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// cutOf gives a stretch of a sound, in seconds.
func cutOf(s *synth.Sound, from, to float64) hear.Wave {
	a, b := int(from*synth.Rate), int(to*synth.Rate)
	return hear.Wave{Rate: synth.Rate, Left: s.Left[a:b], Right: s.Right[a:b]}
}

// held is a patch with one long note at 120, and moves.
func heldPatch(t *testing.T, id string, key string, moves ...patch.Move) *patch.Patch {
	t.Helper()
	for _, p := range testrack.Patches(t) {
		if p.ID == id {
			q := *p
			q.Tempo, q.Wheel = 120, 0
			q.Phrase = &patch.Phrase{Notes: []patch.PhraseNote{{At: "0", For: "2/1", Note: key, Velocity: 100}}, Moves: moves}
			if l := q.Check(); len(l) > 0 {
				t.Fatal(l)
			}
			return &q
		}
	}
	t.Fatalf("no patch %s", id)
	return nil
}

func playedSound(t *testing.T, p *patch.Patch) *synth.Sound {
	t.Helper()
	layers, err := audition.Played(testrack.Panels(t)[p.Panel], p, "")
	if err != nil {
		t.Fatal(err)
	}
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		t.Fatal(err)
	}
	s, err := synth.Render(layers, notes, synth.Options{Seed: 1, Wheel: p.Wheel, Raw: true})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// A control that is moved sounds, where it has been left, as it does where it is set so from the beginning; before the move as it stood, and in its middle between the two.
func TestAMovedControlSoundsAsTheSetOne(t *testing.T) {
	for _, x := range []struct{ patch, key, control, from, to string }{
		{"keel", "A1", "filter.cutoff", "2.0", "7.0"}, {"keel", "A1", "filter.resonance", "0.0", "6.0"}, {"undertow", "A1", "filter.cutoff", "", ""}, {"morning-light", "C4", "filter.cutoff", "", ""},
	} {
		p := heldPatch(t, x.patch, x.key)
		c := testrack.Panels(t)[p.Panel]
		k, ok := c.ControlIndex(x.control)
		if !ok {
			t.Logf("%s has no %s", c.Name, x.control)
			continue
		}
		if x.from == "" {
			f := c.Controls[k].Face
			x.from, x.to = f.Nearest(0.2).Reading, f.Nearest(0.75).Reading
		}
		set := func(reading string) *synth.Sound {
			q := *p
			q.Layers = append([]patch.Layer{}, p.Layers...)
			q.Layers[0].Readings = map[string]string{}
			for id, r := range p.Layers[0].Readings {
				q.Layers[0].Readings[id] = r
			}
			q.Layers[0].Readings[x.control] = reading
			return playedSound(t, &q)
		}
		moved := playedSound(t, heldPatch(t, x.patch, x.key, patch.Move{What: x.control, At: "1/4", For: "1/1", From: x.from, To: x.to}))
		low, high := set(x.from), set(x.to)
		differ := func(one, other *synth.Sound, start, stop float64) float64 {
			return compare.Apart(compare.Sketched(cutOf(one, start, stop)), compare.Sketched(cutOf(other, start, stop)), false).Total
		}
		// the move goes from 0.5 s to 2.5 s of the 4 s
		end, wide := differ(moved, high, 2.8, 3.9), differ(low, high, 2.8, 3.9)
		t.Logf("%s %s %s to %s: %.2f at its end, both ends %.2f apart", x.patch, x.control, x.from, x.to, end, wide)
		if end > 1 && end > 0.1*wide {
			t.Errorf("%s %s: after the move it sounds %.1f just-noticeable differences from the one that was set so, where both ends are %.1f apart", x.patch, x.control, end, wide)
		}
		if mid := differ(moved, high, 1.0, 1.6); wide > 3 && mid < end {
			t.Errorf("%s %s: in the middle of the move it sounds as at its end (%.2f)", x.patch, x.control, mid)
		}
	}
}

// The bender goes as far as its range (common practice, no source: two semitones where nothing is said), the wheel brings what it drives, and the hold pedal lets notes ring on.
func TestThePlayersMeansAreHeard(t *testing.T) {
	pitch := func(w hear.Wave) float64 {
		f := hear.Listen(w).Measure("pitch", 0)
		if len(f) == 0 || !f[0].Known {
			return math.NaN()
		}
		return f[0].Value
	}
	p := heldPatch(t, "undertow", "A2", patch.Move{What: "bend", At: "1/4", For: "1/4", From: "0 %", To: "100 %"})
	s := playedSound(t, p)
	c := testrack.Panels(t)[p.Panel]
	state, err := c.Read(&p.Layers[0], "")
	if err != nil {
		t.Fatal(err)
	}
	want := float64(synth.UsualBend)
	m := c.Interpret(state, 120)
	for i := range m.Modules {
		if v, ok := m.Modules[i].Params["bend"]; ok {
			want = v.Value
		}
	}
	rest := playedSound(t, heldPatch(t, "undertow", "A2"))
	a, b := pitch(cutOf(rest, 1.5, 3.5)), pitch(cutOf(s, 1.5, 3.5))
	if got := 1200 * math.Log2(b/a); math.IsNaN(got) || math.Abs(got-want) > 10 {
		t.Errorf("the bender moved the pitch by %.1f ct (from %.2f to %.2f Hz), want %.1f", got, a, b, want)
	}
	// half a bar is held by the pedal until its end
	short := heldPatch(t, "keel", "A1", patch.Move{What: patch.Hold, At: "0", For: "0", From: "0 %", To: "100 %"}, patch.Move{What: patch.Hold, At: "3/4", For: "0", From: "100 %", To: "0 %"})
	short.Phrase.Notes[0].For = "1/4"
	notes, _, err := audition.Notes(short, "", 0)
	if err != nil || math.Abs(notes[0].End-1.5) > 1e-9 {
		t.Errorf("held by the pedal the note ends at %v (%v), want 1.5 s", notes, err)
	}
	again := *short.Phrase
	again.Notes = append(again.Notes, patch.PhraseNote{At: "1/2", For: "1/8", Note: "A1", Velocity: 90})
	if list, err := phrase.Timeline(&again, 120); err != nil || math.Abs(list[0].End-1) > 1e-9 || math.Abs(list[1].End-1.5) > 1e-9 {
		t.Errorf("struck again the notes are %v (%v)", list, err)
	}
}

// On every target of the demo a moved cutoff is read at both ends, the readings at the ends are those of the sheets that stand there, and what the target is said to move is heard.
func TestMovesGoOver(t *testing.T) {
	panels := testrack.Panels(t)
	p := heldPatch(t, "keel", "A1", patch.Move{What: "filter.cutoff", At: "1/2", For: "1/2", From: "2.0", To: "7.0"}, patch.Move{What: "wheel", At: "0", For: "1/1", From: "0 %", To: "100 %"})
	src := panels[p.Panel]
	carried := 0
	for id, dst := range panels {
		if dst.Kind != "instrument" {
			continue
		}
		s, err := translate.Translate(src, p, dst, translate.Options{School: plan.Numbers})
		if err != nil {
			t.Fatal(err)
		}
		if len(s.Moves) != 2 || s.Moves[1].What != "filter.cutoff" || s.Moves[1].When != "bar 1, beat 3 to bar 2" || s.Moves[0].What != "wheel" {
			t.Fatalf("%s: moves %+v", id, s.Moves)
		}
		m := s.Moves[1]
		if m.Verdict == gloss.Idle || (len(m.Target) == 0) != (m.Verdict == gloss.LeftOut) {
			t.Errorf("%s: %+v", id, m)
		}
		for i, end := range []string{"2.0", "7.0"} {
			q := *p
			q.Phrase = nil
			q.Layers = append([]patch.Layer{}, p.Layers...)
			q.Layers[0].Readings = map[string]string{}
			for k, r := range p.Layers[0].Readings {
				q.Layers[0].Readings[k] = r
			}
			q.Layers[0].Readings["filter.cutoff"] = end
			there, err := translate.Translate(src, &q, dst, translate.Options{School: plan.Numbers})
			if err != nil {
				t.Fatal(err)
			}
			for _, to := range m.Target {
				for _, x := range there.Settings {
					if x.Control == to.Control && x.Reading != []string{to.From, to.To}[i] {
						t.Errorf("%s: at %s the %s is %s, the move says %+v", id, end, to.Label, x.Reading, to)
					}
				}
			}
		}
		if len(m.Target) == 0 {
			continue
		}
		carried++
		y, err := audition.PlayedTarget(dst, p, s)
		if err != nil {
			t.Fatal(err)
		}
		if len(y.Moved) == 0 || len(y.Played) != 1 {
			t.Errorf("%s: %d gestures of parameters, %d of the player", id, len(y.Moved), len(y.Played))
			continue
		}
		notes, _, _ := audition.Notes(p, "", 0)
		sound, err := synth.Render([]synth.Layer{y}, notes, synth.Options{Seed: 1})
		if err != nil {
			t.Fatal(err)
		}
		bright := func(from, to float64) float64 {
			sk := compare.Sketched(cutOf(sound, from, to))
			sum, n := 0.0, 0
			for _, c := range sk.Centre {
				if !math.IsNaN(c) {
					sum += c
					n++
				}
			}
			return sum / float64(max(n, 1))
		}
		if a, b := bright(0.5, 0.95), bright(2.2, 3.5); b <= a+0.5 {
			t.Errorf("%s: the middle of its spectrum goes from band %.1f to %.1f where the cutoff goes up (%s)", id, a, b, fmt.Sprint(m.Target))
		}
	}
	if carried < 8 {
		t.Errorf("the move goes over to %d targets", carried)
	}
}

// Two controls that are moved at once add up, a part that only a move brings in is heard as long as it is brought in, and a move back to where a control stood ends there: at each of these times the sound is that of the
// patch which is set so.
func TestMovesAddUpAndComeBack(t *testing.T) {
	p := heldPatch(t, "keel", "A1",
		patch.Move{What: "mix.osc1", At: "1/4", For: "0", From: "8.0", To: "0.0"}, patch.Move{What: "mix.osc1", At: "5/4", For: "0", From: "0.0", To: "8.0"},
		patch.Move{What: "filter.cutoff", At: "1/4", For: "0", From: "3.2", To: "7.0"}, patch.Move{What: "filter.cutoff", At: "3/2", For: "0", From: "3.2", To: "3.2"})
	c := testrack.Panels(t)[p.Panel]
	for _, m := range p.Phrase.Moves {
		if _, ok := c.ControlIndex(m.What); !ok {
			t.Fatalf("no %s", m.What)
		}
	}
	moved := playedSound(t, p)
	set := func(readings map[string]string) *synth.Sound {
		q := *p
		still := *p.Phrase
		still.Moves = nil
		q.Phrase = &still
		q.Layers = append([]patch.Layer{}, p.Layers...)
		q.Layers[0].Readings = map[string]string{}
		for id, r := range p.Layers[0].Readings {
			q.Layers[0].Readings[id] = r
		}
		for id, r := range readings {
			q.Layers[0].Readings[id] = r
		}
		return playedSound(t, &q)
	}
	stands, both := set(nil), set(map[string]string{"mix.osc1": "0.0", "filter.cutoff": "7.0"})
	differ := func(one *synth.Sound, start, stop float64) float64 {
		return compare.Apart(compare.Sketched(cutOf(moved, start, stop)), compare.Sketched(cutOf(one, start, stop)), false).Total
	}
	// at 120 the moves are at 0.5 s, 2.5 s and 3 s
	for _, x := range []struct {
		name        string
		as, not     *synth.Sound
		start, stop float64
	}{{"before", stands, both, 0, 0.45}, {"both moved", both, stands, 0.9, 2.4}, {"both back", stands, both, 3.2, 3.95}} {
		near, far := differ(x.as, x.start, x.stop), differ(x.not, x.start, x.stop)
		t.Logf("%s: %.2f from what is set so, %.2f from the other", x.name, near, far)
		if near > 0.1*far || far < 3 {
			t.Errorf("%s: it sounds %.2f just-noticeable differences from what is set so, %.2f from the other", x.name, near, far)
		}
	}
}
