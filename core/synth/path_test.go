package synth

import (
	"fmt"
	"math"
	"math/cmplx"
	"slices"
	"strings"
	"testing"

	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

// Filters side by side by the wiring alone, without any parameter that says so, add up for a sine by the closed forms, whichever comes first; the silent row of a
// low-pass of 150 Hz and a high-pass of 1.5 kHz is loud side by side.
func TestFiltersByTheWiring(t *testing.T) {
	const hz, key = 1000.0, 60
	low := part("f", meaning.Filter, params{"mode": "lowpass", "poles": 2.0, "cutoff": 150.0})
	high := part("g", meaning.Filter, params{"mode": "highpass", "poles": 2.0, "cutoff": 1500.0})
	a, b := FilterGain(&low, key, hz), FilterGain(&high, key, hz)
	for edges, want := range map[string]complex128{"o>m m>f m>g f>amp g>amp": a + b, "o>m m>g m>f g>amp f>amp": a + b, "o>f o>g f>amp g>amp": a + b, "o>m m>f f>g g>amp": a * b, "o>f f>m m>amp": a, "o>m m>f f>amp m>amp": a + 1} {
		m := &meaning.Meaning{Tempo: 120, Modules: []meaning.Module{sine(params{"fixed": hz, "level": -20.0}), part("m", meaning.Mixer, nil), low, high, part("amp", meaning.Amp, nil)}}
		m.Modules[0].ID = "o"
		if !strings.Contains(edges, "g") {
			m.Module("g").Idle = "off"
		}
		m.Audio = splitEdges(edges)
		s := play(t, m, key, 0.8)
		got := cmplx.Abs(bin(s.Left[Rate/4:Rate/4+Rate/2], hz)) / 0.1
		if math.Abs(decibels(got/cmplx.Abs(want))) > 0.1 {
			t.Errorf("%s: %.2f dB, want %.2f dB", edges, decibels(got), decibels(cmplx.Abs(want)))
		}
	}
}

func splitEdges(text string) (out []meaning.Edge) {
	var from, to string
	for text != "" {
		var word string
		if n, _ := fmt.Sscan(text, &word); n == 0 {
			break
		}
		text = text[min(len(text), len(word)+1):]
		for i := range word {
			if word[i] == '>' {
				from, to = word[:i], word[i+1:]
			}
		}
		out = append(out, meaning.Edge{From: from, To: to})
	}
	return out
}

// Over a set of takes the beat of two oscillators stands evenly spread: the mean power of each of the first harmonics but the multiples of the set is that of the two
// added without regard to phase, for every set. Which oscillator of an instrument is which, and the order of layers, change nothing.
func TestTakes(t *testing.T) {
	two := func(first, second float64) *meaning.Meaning {
		return simple(nil, part("o1", meaning.Osc, params{"wave": "saw", "level": -12.0, "interval": first}), part("o2", meaning.Osc, params{"wave": "saw", "level": -12.0, "interval": second}))
	}
	one := simple(nil, part("o1", meaning.Osc, params{"wave": "saw", "level": -12.0}))
	notes := []phrase.Note{note(0, 1, 57)}
	sound := func(seed uint64, layers ...Layer) []float64 {
		s, err := Render(layers, notes, Options{Seed: seed, Raw: true})
		if err != nil {
			t.Fatal(err)
		}
		return s.Left[Rate/4 : Rate/4+Rate/2]
	}
	alone := sound(0, Layer{Meaning: one})
	for _, set := range []uint64{0, 3, 11} {
		for n := 1; n <= 9; n++ {
			if n%Takes == 0 {
				continue
			}
			mean := 0.0
			for k := range uint64(Takes) {
				x := bin(sound(set*Takes+k, Layer{Meaning: two(0, 0)}), 220*float64(n))
				mean += (real(x)*real(x) + imag(x)*imag(x)) / Takes
			}
			x := bin(alone, 220*float64(n))
			if want := 2 * (real(x)*real(x) + imag(x)*imag(x)); math.Abs(10*math.Log10(mean/want)) > 0.1 {
				t.Errorf("set %d, harmonic %d: %.2f dB off", set, n, 10*math.Log10(mean/want))
			}
		}
	}
	same := func(name string, a, b []float64) {
		for k := range a {
			if math.Abs(a[k]-b[k]) > 1e-9 {
				t.Errorf("%s: sample %d is %v, not %v", name, k, b[k], a[k])
				return
			}
		}
	}
	same("oscillators exchanged", sound(2, Layer{Meaning: two(0, 9)}), sound(2, Layer{Meaning: two(9, 0)}))
	up := Layer{Meaning: one, Transpose: q.Interval(1200)}
	same("layers exchanged", sound(2, Layer{Meaning: two(0, 9)}, up), sound(2, up, Layer{Meaning: two(0, 9)}))
}

// Filters and a drive in the way back are heard: a feedback through a low-pass of 100 Hz brings back less of the highs than one without.
func TestFeedbackPassesItsFilter(t *testing.T) {
	sum := map[bool]float64{}
	for _, with := range []bool{false, true} {
		m := &meaning.Meaning{Tempo: 120, Modules: []meaning.Module{part("o", meaning.Osc, params{"wave": "saw", "level": -12.0}), part("m", meaning.Mixer, nil), part("amp", meaning.Amp, nil),
			part("f", meaning.Filter, params{"mode": "lowpass", "poles": 4.0, "cutoff": 100.0}), part("fb", meaning.Feedback, params{"level": -3.0})}}
		edges := "o>m fb>m m>amp amp>out amp>fb"
		if with {
			edges = "o>m fb>m m>amp amp>out amp>f f>fb"
		}
		m.Audio = splitEdges(edges)
		s := play(t, m, 57, 0.8)
		for n := 4; n < 20; n++ {
			sum[with] += math.Pow(cmplx.Abs(bin(s.Left[Rate/4:Rate/4+Rate/2], 220*float64(n))), 2)
		}
	}
	if math.Abs(10*math.Log10(sum[true]/sum[false])) < 0.5 {
		t.Errorf("with and without its filter the highs are %v and %v", sum[true], sum[false])
	}
}

// The estimate of the work of a rendering grows with all that takes work.
func TestEffort(t *testing.T) {
	notes := []phrase.Note{note(0, 1, 57)}
	base := Effort([]Layer{{Meaning: simple(nil, sine(nil))}}, notes, 0.5)
	driven := part("f", meaning.Filter, params{"drive": 12.0})
	spread := part("amp", meaning.Amp, params{"spread": 0.5})
	for name, m := range map[string]*meaning.Meaning{"a filter that is driven": simple(nil, sine(nil), driven), "unison": simple(nil, sine(params{"unison": 4.0})), "an operator": simple(nil, sine(nil), part("op", meaning.Operator, params{"output": 0.0})),
		"a chorus": simple(nil, sine(nil), part("c", meaning.Chorus, params{"mix": 0.5, "voices": 3.0})), "a drive": simple(nil, sine(nil), part("d", meaning.Drive, params{"gain": 12.0})), "another oscillator": simple(nil, sine(nil), part("o2", meaning.Osc, nil)), "a filter": simple(nil, sine(nil), part("f", meaning.Filter, nil)), "a reverb": simple(nil, sine(nil), part("r", meaning.Reverb, params{"mix": 0.5}))} {
		if x := Effort([]Layer{{Meaning: m}}, notes, 0.5); x <= base {
			t.Errorf("%s: %v, without %v", name, x, base)
		}
	}
	if x := Effort([]Layer{{Meaning: simple(nil, sine(nil))}}, append(notes, note(0, 1, 60)), 0.5); x <= base {
		t.Errorf("two notes: %v, one %v", x, base)
	}
	one := Layer{Meaning: simple(nil, sine(nil))}
	if n := Channels([]Layer{one}); n != 1 {
		t.Errorf("a sine alone has %d channels", n)
	}
	for name, list := range map[string][]Layer{"two layers": {one, one}, "a reverb": {{Meaning: simple(nil, sine(nil), part("r", meaning.Reverb, params{"mix": 0.5}))}}, "voices in turn": {{Meaning: &meaning.Meaning{Tempo: 120, Modules: []meaning.Module{sine(nil), spread}, Audio: splitEdges("o>amp amp>out")}}}} {
		if n := Channels(list); n != 2 {
			t.Errorf("%s: %d channels", name, n)
		}
	}
}

// A rendering whose room has been given back leaves nothing behind in the next, and what is not metered sounds the same.
func TestRoomIsGivenBack(t *testing.T) {
	bank := NewBank()
	notes := []phrase.Note{note(0, 0.3, 57), note(0.1, 0.4, 64)}
	reverb := simple(nil, sine(nil), part("r", meaning.Reverb, params{"mix": 0.5, "t60": 1.0}))
	for round, m := range []*meaning.Meaning{reverb, ladderPatch(), simple(nil, sine(params{"pan": 0.7})), reverb, ladderPatch()} {
		want, err := Render([]Layer{{Meaning: m}, {Meaning: ladderPatch(), Level: -6}}, notes, Options{Seed: 3, Tail: 0.5})
		if err != nil {
			t.Fatal(err)
		}
		got, err := Render([]Layer{{Meaning: m}, {Meaning: ladderPatch(), Level: -6}}, notes, Options{Seed: 3, Tail: 0.5, Bank: bank, Unmetered: round%2 == 0})
		if err != nil {
			t.Fatal(err)
		}
		if !slices.Equal(want.Left, got.Left) || !slices.Equal(want.Right, got.Right) || want.Limited != got.Limited {
			t.Errorf("round %d: what was rendered before is heard in it", round)
		}
		if (len(got.Stages) == 0) != (round%2 == 0) {
			t.Errorf("round %d: stages %v", round, got.Stages)
		}
		bank.Leave(got)
		if got.Left != nil || got.Right != nil {
			t.Error("a sound whose room has been given back still has it")
		}
	}
}

// Two lines with an amplifier and an envelope each, through a third or side by side: each is as loud as its own envelope and the levels in its way have it, and a voice goes on as long as either does.
func TestLinesWithAmplifiersOfTheirOwn(t *testing.T) {
	const low, high = 300.0, 1100.0
	short := part("e1", meaning.Env, params{"attack": 0.001, "decay": 0.1, "sustain": 0.0, "release": 0.01})
	long := part("e2", meaning.Env, params{"attack": 0.001, "decay": 0.1, "sustain": 0.5, "release": 0.4})
	for edges, all := range map[string]float64{"x>a y>b a>all b>all all>out": -6, "x>a y>b a>out b>out": 0} {
		m := &meaning.Meaning{Tempo: 120, Modules: []meaning.Module{sine(params{"fixed": low, "level": -20.0}), sine(params{"fixed": high, "level": -20.0}), short, long,
			part("a", meaning.Amp, params{"level": -2.0}), part("b", meaning.Amp, params{"level": -8.0}), part("all", meaning.Amp, params{"level": all})},
			Routes: []meaning.Route{way("e1", "a.level", 1), way("e2", "b.level", 1)}, Audio: splitEdges(edges)}
		m.Modules[0].ID, m.Modules[1].ID = "x", "y"
		if all == 0 {
			m.Module("all").Idle = "not there"
		}
		s := play(t, m, 60, 1)
		at := func(from float64, hz float64) float64 {
			i := int(from * Rate)
			return decibels(cmplx.Abs(bin(s.Left[i:i+Rate/4], hz)))
		}
		// at a sustain of half the level is 6.02 dB lower (arithmetic)
		if got, want := at(0.6, high), -20-8+all+20*math.Log10(0.5); math.Abs(got-want) > 0.2 {
			t.Errorf("%s: the held line is at %.2f dB, want %.2f", edges, got, want)
		}
		if got := at(0.6, low); got > -70 {
			t.Errorf("%s: the line that has ended is at %.1f dB", edges, got)
		}
		if got := at(0, low); got < -55 {
			t.Errorf("%s: the line that ends is at %.1f dB as it begins", edges, got)
		}
		// 90 % of the way in 0.4 s: 0.15 s on it is 10^(-0.15/0.4) of what it was
		if got, want := at(1.025, high)-at(0.7, high), -20*0.15/0.4; math.Abs(got-want) > 1 {
			t.Errorf("%s: the line goes on by %.1f dB after the key is let go, want %.1f", edges, got, want)
		}
	}
}
