package paste

import (
	"math"
	"strings"
	"testing"

	q "glossator/core/quantity"
	"glossator/testutil/testrack"
)

// lines are notes as people write them beside an instrument, line after line, with the readings that they are (common practice, no source).
var lines = []struct {
	panel string
	lines [][2]string
}{
	{"halyard", [][2]string{
		{`osc 1 saw 16'`, `osc1.wave=saw; osc1.range=16'`},
		{`osc 2: pulse, width 40, level 3/4`, `osc2.wave=pulse; osc2.width=40; osc2.level=3/4`},
		{`fine +5`, `osc2.detune=5`},
		{`filter env: A 0 D 52 S 20 R 30`, `env1.attack=0; env1.decay=52; env1.sustain=20; env1.release=30`},
		{`cutoff about 11 o'clock`, `filter.cutoff=~11 o'clock`},
		{`reso a touch`, `filter.resonance=a touch`},
		{`env amount 80`, `filter.amount=80`},
		{`osc 3 off`, `osc3.level=0`},
		{`LFO 1 rate 5 Hz`, `lfo1.rate=85`},
		{`lfo1 triangle`, `lfo1.wave=triangle`},
		{`amp env adsr 0/60/100/30`, `env2.attack=0; env2.decay=60; env2.sustain=100; env2.release=30`},
		{`Mode mono`, `voice.mode=mono`},
		{`unison 4`, `voice.unison=4`},
		{`unison detune = 12`, `voice.spread=12`},
		{`Noise level: 20`, `noise.level=20`},
		{`glide: none`, `glide=0`},
		{`resonance 30-40`, `filter.resonance=30-40`},
		{`cutoff ~61, reso 20`, `filter.cutoff=~61; filter.resonance=20`},
		{`velocity to cutoff all the way up`, `velocity.cutoff=127`},
		{`delay time dotted eighth at 96`, `space.time=104`},
		{`volume 100`, `volume=100`},
		{`- osc 1: triangle 8' level max`, `osc1.wave=triangle; osc1.range=8'; osc1.level=127`},
		{`* lfo 2 rate 0.5 Hz`, `lfo2.rate=42`},
		{`key tracking 50 %`, `filter.track=63`},
		{`LFO 1 amount: 12`, `lfo1.amount=12`},
		{`glide 30 ms`, `glide=33`},
		{`filter drive a bit`, `filter.drive=a bit`},
		{`Filter`, ``},
		{`cutoff 40`, `filter.cutoff=40`},
		{`Envelope 2`, ``},
		{`attack 10`, `env2.attack=10`},
		{`release 45`, `env2.release=45`},
	}},
	{"kedge", [][2]string{
		{`VCO1 32' saw`, `osc1.range=32'; osc1.wave=saw`},
		{`VCO 2 tune just past noon`, `osc2.tune=just past noon`},
		{`osc 2 level 2 o'clock; noise level 8:30`, `mix.osc2=2:00; mix.noise=8:30`},
		{`cutoff 600 Hz`, `lowpass.cutoff=600 Hz`},
		{`res between 9 and 10`, `lowpass.resonance=between 9 and 10`},
		{`envelope amount quite high`, `lowpass.amount=quite high`},
		{`env: A 7:00 D 10 o'clock S max R 8 o'clock`, `env.attack=7:00; env.decay=10:00; env.sustain=5:00; env.release=8:00`},
		{`key tracking half`, `lowpass.track=half`},
		{`lfo rate 5 Hz`, `lfo.rate=1:30`},
		{`LFO square`, `lfo.wave=square`},
		{`glide off`, `glide=7:00`},
		{`spring reverb a little`, `spring=a little`},
		{`amp by gate`, `amp.by=gate`},
		{`attack 20 ms`, `env.attack=10:15`},
		{`volume 12`, `volume=12:00`},
	}},
	{"windlass", [][2]string{
		{`osc 1: range 16', wave saw`, `osc1.range=16'; osc1.wave=saw`},
		{`osc 2 range 8' , wave square`, `osc2.range=8'; osc2.wave=square`},
		{`osc 3 triangle 32'`, `osc3.wave=triangle; osc3.range=32'`},
		{`cutoff 400 Hz`, `filter.cutoff=4.7`},
		{`emphasis 3`, `filter.resonance=3.0`},
		{`filter envelope attack 10 ms decay 400 ms sustain 4`, `fenv.attack=10 ms; fenv.decay=400 ms; fenv.sustain=4.0`},
		{`loudness: A 10 ms D 1 s S 10`, `aenv.attack=10 ms; aenv.decay=1 s; aenv.sustain=10.0`},
		{`glide 2.5`, `glide=2.5`},
		{`noise off`, `mix.noise.on=off`},
		{`feedback level 3`, `mix.feedback=3.0`},
		{`keyboard control off`, `osc3.key=off`},
		{`cutoff half; env amount 7`, `filter.cutoff=5.0; filter.amount=7.0`},
	}},
	{"thole", [][2]string{
		{`osc1 square, width 30`, `osc1.wave=square; osc1.width=30`},
		{`osc 2 semi -12, fine +7`, `osc2.semi=-12; osc2.fine=+7`},
		{`sync on`, `osc2.sync=on`},
		{`cutoff 64 reso 40 env 30`, `filter.cutoff=64; filter.resonance=40; filter.amount=+30`},
		{`env 2 a 0 d 50 s 99 r 20`, `env2.attack=0; env2.decay=50; env2.sustain=99; env2.release=20`},
		{`delay 1/8.`, `delay.division=1/8.`},
		{`lfo 1 s&h`, `lfo1.wave=sample and hold`},
		{`tempo 96`, `tempo=96`},
		{`unison detune medium`, `voice.spread=medium`},
		{`width by lfo 1 a little`, `osc1.lfo=a little`},
		{`ring level none`, `ring.level=0`},
		{`vibrato rate 5 Hz`, `vibrato.rate=68`},
		{`osc 1 level full, osc 2 level half`, `osc1.level=99; osc2.level=half`},
		{`glide a hint`, `glide=a hint`},
	}},
	{"coracle", [][2]string{
		{`speed just past noon`, `mod.rate=just past noon`},
		{`brightness quite low`, `filter.cutoff=quite low`},
		{`peak a touch`, `filter.resonance=a touch`},
		{`low tremolo off`, `low.tremolo=bottom`},
		{`filter env decay 9 o'clock`, `fenv.decay=9 o'clock`},
		{`reverb 30 %`, `reverb=quarter + 1/4`},
	}},
}

// Lines in several ways of writing, over several panels: each lands on its controls, sure enough to be taken unasked, and nothing else does.
func TestLinesOfNotes(t *testing.T) {
	rack := testrack.Panels(t)
	total, landed := 0, 0
	for _, x := range lines {
		c := rack[x.panel]
		var notes []string
		for _, l := range x.lines {
			notes = append(notes, l[0])
		}
		r := Read(c, strings.Join(notes, "\n"))
		for i, l := range x.lines {
			total++
			var got []string
			for _, g := range r.Guesses {
				if g.Line != i+1 {
					continue
				}
				got = append(got, g.Control+"="+g.Reading)
				if !g.Sure || g.Certainty > 1 {
					t.Errorf("%s, %q: %s=%s is not sure (%.2f)", x.panel, l[0], g.Control, g.Reading, g.Certainty)
				}
			}
			for _, u := range r.Unmatched {
				if u.Line == i+1 {
					got = append(got, "?"+u.Text+": "+u.Why)
				}
			}
			if text := strings.Join(got, "; "); text != l[1] {
				t.Errorf("%s, %q: %s, want %s", x.panel, l[0], text, l[1])
				continue
			}
			landed++
		}
	}
	if total < 60 {
		t.Errorf("only %d lines", total)
	}
	t.Logf("%d of %d lines", landed, total)
}

// What notes say in hertz, seconds and cents is what the readings mean.
func TestQuantitiesInNotes(t *testing.T) {
	rack := testrack.Panels(t)
	for _, x := range []struct {
		panel, note string
		want        q.Quantity
	}{
		{"halyard", "lfo 1 rate 5 Hz", q.Quantity{Dim: q.DimFrequency, Value: 5}}, {"halyard", "lfo 2 rate 0.5 Hz", q.Quantity{Dim: q.DimFrequency, Value: 0.5}}, {"kedge", "lfo rate 5 Hz", q.Quantity{Dim: q.DimFrequency, Value: 5}}, {"windlass", "cutoff 400 Hz", q.Quantity{Dim: q.DimFrequency, Value: 400}},
		{"thole", "vibrato rate 5 Hz", q.Quantity{Dim: q.DimFrequency, Value: 5}}, {"halyard", "delay time dotted eighth at 96", q.Quantity{Dim: q.DimDuration, Value: 60. / 96 * 0.75}}, {"thole", "osc 2 semi -12", q.Quantity{Dim: q.DimInterval, Value: -1200}},
	} {
		c := rack[x.panel]
		r := Read(c, x.note)
		if len(r.Guesses) != 1 {
			t.Errorf("%s, %q: %+v", x.panel, x.note, r)
			continue
		}
		i, _ := c.ControlIndex(r.Guesses[0].Control)
		at, err := c.Parse(i, r.Guesses[0].Reading)
		if err != nil {
			t.Fatal(err)
		}
		found := false
		for _, b := range c.Controls[i].Means {
			if v, ok := b.Law.Quantity(at); ok && v.Dim == x.want.Dim && math.Abs(q.Distance(v, x.want)) < map[q.Dim]float64{q.DimInterval: 1}[v.Dim]+0.06 {
				found = true
			}
		}
		if !found {
			t.Errorf("%s, %q is %s, which is not %v", x.panel, x.note, r.Guesses[0].Reading, x.want)
		}
	}
}

// What does not land says whether the name or the reading failed.
func TestWhatFailedInNotes(t *testing.T) {
	c := testrack.Panels(t)["thole"]
	for note, want := range map[string]string{"hovercraft 12": "no control of Thole is called so", "cutoff brown": `Cutoff: "brown" does not fit: expected 0 to 99`, "cutoff 200": "write 99", "mod mix 5 kg": "no control of Thole is called so"} {
		r := Read(c, note)
		if len(r.Unmatched) != 1 || !strings.Contains(r.Unmatched[0].Why, want) {
			t.Errorf("%q: %+v, want %q", note, r, want)
		}
	}
}

// However many words there are to be parted, it is not tried for ever; what is written one reading a piece is still read.
func TestNotesWithoutEnd(t *testing.T) {
	c := testrack.Panels(t)["binnacle"]
	r := Read(c, strings.Repeat("osc 1 on off on off on off on off on off on off\n", 250)+"osc 1 level 50 %")
	last := r.Guesses[len(r.Guesses)-1]
	if last.Control != "osc1.level" || last.Line != 251 {
		t.Errorf("the last line is %+v", last)
	}
	if len(r.Unmatched) == 0 {
		t.Error("all of it was parted")
	}
}
