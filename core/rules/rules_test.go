package rules

import (
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
	"glossator/testutil/build"
)

// sound is a small meaning: modules by id, kind and parameters; texts are words and waves.
func sound(mods []meaning.Module, routes ...meaning.Route) *meaning.Meaning {
	return &meaning.Meaning{Tempo: 120, Modules: mods, Routes: routes}
}

var mod = build.Module

func way(id, from, to string, depth float64, polarity string) meaning.Route {
	return meaning.Route{ID: id, Label: id, From: from, To: []string{to}, Polarity: polarity, Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: depth}}}
}

// madeFor makes a route one that a rule has added for a part.
func madeFor(part string, r meaning.Route) meaning.Route {
	r.Origin = meaning.Origin{Part: part}
	return r
}

type p = build.Params

// target describes what a target has: how many of each kind, and which parameters.
type targetOf struct {
	have    map[meaning.Kind]int
	params  []string // "osc.unison"
	words   []string // "filter.mode=lowpass"
	reached map[string]float64
}

func (t targetOf) case_(m *meaning.Meaning, lost ...string) *Case {
	c := &Case{Meaning: m, Lost: map[string]bool{}, Have: func(k meaning.Kind) int { return t.have[k] },
		Param: func(k meaning.Kind, name meaning.ParamName) bool {
			return strings.Contains(" "+strings.Join(t.params, " ")+" ", " "+meaning.Ref(string(k), name)+" ")
		},
		Word: func(k meaning.Kind, name meaning.ParamName, word string) bool {
			return slices.Contains(t.words, meaning.Ref(string(k), name)+"="+word)
		},
		Reached: func(id string, param meaning.ParamName) (float64, bool) {
			v, ok := t.reached[meaning.Ref(id, param)]
			return v, ok
		},
		Weight: func(string) float64 { return 10 }}
	for _, id := range lost {
		c.Lost[id] = true
	}
	return c
}

// Every rule on a sound that calls for it: what it makes, by figures worked out beside it.
func TestRules(t *testing.T) {
	type figures map[string]float64 // parameter of the new meaning, and its value
	osc := func(id string, interval float64) meaning.Module {
		return mod(id, meaning.Osc, p{"wave": "saw", "interval": interval, "level": -3.0})
	}
	env := mod("env", meaning.Env, p{"attack": 0.001, "decay": 0.25, "sustain": 0.0, "release": 0.3})
	held := mod("held", meaning.Env, p{"attack": 0.002, "decay": 0.1, "sustain": 0.9, "release": 0.3})
	lfo := mod("lfo", meaning.LFO, p{"rate": 2.0, "wave": "saw", "cycle": "once"})
	amp := mod("amp", meaning.Amp, p{"level": 0.0})
	cut := mod("filter", meaning.Filter, p{"mode": "lowpass", "poles": 4, "cutoff": 500.0, "resonance": 0.2})
	for _, x := range []struct {
		name string
		rule *Rule
		c    *Case
		want figures
		gone []string // ids that are no longer there
		says string
	}{
		{"a control at half of two octaves opens the filter one octave", &macros, targetOf{}.case_(sound([]meaning.Module{mod("m1", meaning.Macro, p{"value": 0.5}), cut}, way("r", "m1", "filter.cutoff", 2, "unipolar")), "m1"),
			figures{"filter~.cutoff": 1000}, []string{"m1"}, "50 %"},
		{"a gate is an envelope that stays up", &gate, targetOf{}.case_(sound([]meaning.Module{amp}, way("g", "gate", "amp.level", 1, "unipolar")), "g"),
			figures{"g~env.sustain": 1, "g~env.attack": 0.002}, nil, "full sustain"},
		{"one envelope for both", &sharedEnvelope, targetOf{}.case_(sound([]meaning.Module{env, held, cut, amp}, way("a", "held", "amp.level", 1, "unipolar"), way("f", "env", "filter.cutoff", 2, "unipolar")), "env"),
			figures{"held.decay": 0.1}, []string{"env"}, "held moves what env moved too"},
		{"a saw that runs once at 2 Hz falls in half a second", &envelopeLFO, targetOf{}.case_(sound([]meaning.Module{lfo, cut}, way("r", "lfo", "filter.cutoff", 2, "bipolar")), "lfo"),
			figures{"lfo~.decay": 0.5, "lfo~.sustain": 0}, []string{"lfo"}, "500 ms"},
		{"an envelope of a quarter second is an LFO of 4 Hz", &envelopeLFO, targetOf{}.case_(sound([]meaning.Module{env, cut}, way("r", "env", "filter.cutoff", 2, "unipolar")), "env"),
			figures{"env~.rate": 4}, []string{"env"}, "250 ms"},
		{"hold and delay go into decay and attack", &stages, targetOf{}.case_(sound([]meaning.Module{mod("e", meaning.Env, p{"delay": 0.2, "attack": 0.1, "hold": 0.3, "decay": 0.4, "sustain": 0.5})})),
			figures{"e~.attack": 0.3, "e~.decay": 0.7}, nil, "delay of 200 ms added to the attack"},
		{"an oscillator an octave below is a sub", &sub, targetOf{have: map[meaning.Kind]int{meaning.Sub: 1}}.case_(sound([]meaning.Module{osc("o1", 0), osc("o2", -1200)}), "o2"),
			figures{"o2~.interval": -1200, "o2~.level": -3}, []string{"o2"}, "sub oscillator"},
		{"a sub is an oscillator", &sub, targetOf{}.case_(sound([]meaning.Module{mod("s", meaning.Sub, p{"interval": -1200.0, "level": -6.0})}), "s"),
			figures{"s~.interval": -1200, "s~.level": -6}, []string{"s"}, "by an oscillator"},
		{"a pair 10 ct apart is unison about its middle", &unison, targetOf{params: []string{"osc.unison"}}.case_(sound([]meaning.Module{osc("o1", 0), osc("o2", 10)}), "o2"),
			figures{"o1~.unison": 2, "o1~.spread": 10, "o1~.interval": 5}, []string{"o2"}, "beats as they did"},
		{"unison of 12 ct is a pair, each 3 dB down", &unison, targetOf{}.case_(sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "saw", "interval": 0.0, "unison": 4, "spread": 12.0, "level": 0.0})})),
			figures{"o~.interval": -6, "o~2.interval": 6, "o~.level": -3, "o~2.level": -3}, nil, "two oscillators"},
		{"two notes of a chord, one oscillator to spare", &chord, targetOf{have: map[meaning.Kind]int{meaning.Osc: 2}}.case_(sound([]meaning.Module{mod("v", meaning.Voice, p{"chord": "on", "chord2": 400.0, "chord3": 700.0}), osc("o", 0)})),
			figures{"o~chord2.interval": 400}, nil, "one note of the chord played by oscillators at their intervals, one note left out"},
		{"a lone operator is a sine", &operators, targetOf{have: map[meaning.Kind]int{meaning.Osc: 1}}.case_(sound([]meaning.Module{mod("a", meaning.Operator, p{"interval": 1200.0, "output": -6.0, "wave": "sine"})}), "a"),
			figures{"a~.interval": 1200, "a~.level": -6}, []string{"a"}, "a sine"},
		{"an oscillator is an operator", &asOperator, targetOf{have: map[meaning.Kind]int{meaning.Operator: 1}}.case_(sound([]meaning.Module{osc("o", -1200)}), "o"),
			figures{"o~.interval": -1200, "o~.output": -3}, []string{"o"}, "by an operator"},
		{"the amplifier's envelope moves each operator", &asOperator, targetOf{}.case_(sound([]meaning.Module{mod("a", meaning.Operator, p{"output": 0.0}), mod("b", meaning.Operator, p{"output": 0.0}), held, amp}, way("r", "held", "amp.level", 1, "unipolar")), "r"),
			figures{"r~a": 1, "r~b": 1}, []string{"r"}, "each operator"},
		{"a second oscillator as operator has the envelope of the first", &asOperator, targetOf{have: map[meaning.Kind]int{meaning.Operator: 2}}.case_(sound([]meaning.Module{mod("a", meaning.Operator, p{"output": 0.0}), osc("o", 0), held}, madeFor("r", way("r~a", "held", "a.level", 1, "unipolar"))), "o"),
			figures{"o~.output": -3, "r~o~": 1}, []string{"o"}, "by an operator"},
		{"sync by modulation", &sync, targetOf{params: []string{"osc.fm"}}.case_(sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "saw", "sync": "osc1", "level": 0.0})})),
			figures{"o~.fm": 0.4}, nil, "no sync"},
		// J0(1.4347) = J1(1.4347) = 0.5475 (Abramowitz & Stegun, table 9.1, between its entries)
		{"ring by modulation", &ring, targetOf{params: []string{"osc.fm"}}.case_(sound([]meaning.Module{mod("r", meaning.Ring, p{"level": 0.0}), osc("o", 0)}), "r"),
			figures{"o~.fm": 1.4347 / math.Pi}, []string{"r"}, "first sidebands"},
		{"a band-pass is two filters", &bands, targetOf{have: map[meaning.Kind]int{meaning.Filter: 2}, words: []string{"filter.mode=lowpass", "filter.mode=highpass"}}.case_(sound([]meaning.Module{mod("f", meaning.Filter, p{"mode": "bandpass", "cutoff": 900.0, "track": 0.5})})),
			figures{"f~.cutoff": 900, "f~high.cutoff": 900, "f~high.track": 0.5}, nil, "900 Hz"},
		// 8 ct at 220 Hz beat 1.02 times a second, and a chorus swings twice a period
		{"a pair is a slow chorus", &unison, targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1}}.case_(sound([]meaning.Module{osc("o1", 0), osc("o2", 8)}), "o2"),
			figures{"o2~chorus.rate": 220 * (math.Exp2(8.0/1200) - 1) / 2}, []string{"o2"}, "slow chorus"},
		// 2400 ct asked for, 1200 ct the most there is: a key an octave up, and a filter that follows half
		// of the keys half an octave down
		{"out of the footages, an octave up the keyboard", &octave, targetOf{reached: map[string]float64{"o1.interval": 1200, "o2.interval": 0}}.case_(sound([]meaning.Module{osc("o1", 2400), osc("o2", 0), mod("f", meaning.Filter, p{"mode": "lowpass", "cutoff": 800.0, "track": 0.5})})),
			figures{"o1~.interval": 1200, "o2~.interval": -1200, "f~.cutoff": 800 / math.Sqrt2}, nil, "play one octave higher"},
		{"two routes in one", &combined, targetOf{}.case_(sound([]meaning.Module{cut}, way("a", "velocity", "filter.cutoff", 1, "unipolar"), way("b", "velocity", "filter.cutoff", 0.5, "unipolar")), "b"),
			figures{"a~": 1.5}, []string{"b"}, "in one"},
		// an oscillator an octave below middle C: 130.8 Hz
		{"an oscillator at the filter is a fast LFO", &filterFM, targetOf{have: map[meaning.Kind]int{meaning.LFO: 1}}.case_(sound([]meaning.Module{osc("o", -1200), cut}, way("r", "o", "filter.cutoff", 1, "bipolar")), "r"),
			figures{"r~lfo.rate": 130.8128, "r~lfo.key": 1, "r~": 1}, []string{"r"}, "middle C"},
		{"a peak of Q 4 is a band of Q 4, 18 dB up", &kind, targetOf{have: map[meaning.Kind]int{meaning.EQ: 1}}.case_(sound([]meaning.Module{mod("f", meaning.Filter, p{"mode": "peak", "cutoff": 800.0, "resonance": float64(q.ResonanceOfQ(2.5))})}), "f"),
			figures{"f~.freq": 800, "f~.q": 2.5, "f~.gain": 20 * math.Log10(5)}, []string{"f"}, "800 Hz"},
		{"a comb at 250 Hz is a delay of 4 ms", &comb, targetOf{have: map[meaning.Kind]int{meaning.Delay: 1}}.case_(sound([]meaning.Module{mod("f", meaning.Filter, p{"mode": "comb", "cutoff": 250.0, "feedback": 0.7})}), "f"),
			figures{"f~.time": 0.004, "f~.feedback": 0.7}, []string{"f"}, "one period"},
		{"drive goes into the filter", &drive, targetOf{params: []string{"filter.drive"}}.case_(sound([]meaning.Module{mod("d", meaning.Drive, p{"gain": 9.0}), cut}), "d"),
			figures{"filter~.drive": 9}, []string{"d"}, "turn the level down first"},
		{"pressure becomes the wheel", &source, targetOf{}.case_(sound([]meaning.Module{cut}, way("r", "aftertouch", "filter.cutoff", 1, "unipolar")), "r"),
			figures{"r~": 1}, []string{"r"}, "played by the wheel"},
		{"both ways by 1 oct is up by 2 oct from an octave below", &polarity, targetOf{}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 1.0}), cut}, way("r", "lfo", "filter.cutoff", 1, "bipolar")), "r"),
			figures{"filter~.cutoff": 250, "r~": 2}, []string{"r"}, "the low end"},
		{"up by 2 oct is both ways by 1 from an octave above", &polarity, targetOf{}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 1.0}), cut}, way("r", "lfo", "filter.cutoff", 2, "unipolar")), "r"),
			figures{"filter~.cutoff": 1000, "r~": 1}, []string{"r"}, "the middle"},
		{"a late LFO comes by the wheel", &fade, targetOf{}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 5.0, "delay": 0.5, "fade": 1.0}), cut}, way("r", "lfo", "filter.cutoff", 1, "bipolar"))),
			figures{"lfo~.rate": 5}, nil, "1.5 s after the note"},
		{"a rate that follows the key by a route", &keyRate, targetOf{}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 5.0, "key": 1.0})})),
			figures{"lfo~key": 1}, nil, "100 %"},
		// a width that moves 20 % either way at 1 Hz as a triangle drifts 0.8 of a cycle a second: 6.3 ct at 220 Hz
		{"a moving width is unison", &pwm, targetOf{params: []string{"osc.unison"}}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 1.0}), osc("o", 0)}, way("r", "lfo", "o.width", 0.2, "bipolar")), "r"),
			figures{"o~.spread": 1200 * math.Log2(220.8/220), "o~.unison": 2}, []string{"r"}, "+6.3 ct"},
		{"a moving width is a chorus", &pwm, targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1}}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 1.5}), osc("o", 0)}, way("r", "lfo", "o.width", 0.2, "bipolar")), "r"),
			figures{"r~chorus.rate": 1.5}, []string{"r"}, "chorus"},
		{"a chorus is a flanger without feedback", &chorus, targetOf{have: map[meaning.Kind]int{meaning.Flanger: 1}}.case_(sound([]meaning.Module{mod("c", meaning.Chorus, p{"rate": 0.5, "depth": 0.002, "mix": 0.4, "feedback": 0.3})}), "c"),
			figures{"c~.feedback": 0, "c~.rate": 0.5, "c~.mix": 0.4}, []string{"c"}, "one voice"},
		// 2 pi 0.5 Hz 2 ms: the pitch is bent by 0.63 %
		{"a chorus is unison as wide as it bent the pitch", &chorus, targetOf{params: []string{"osc.unison"}}.case_(sound([]meaning.Module{mod("c", meaning.Chorus, p{"rate": 0.5, "depth": 0.002, "mix": 0.4}), osc("o", 0)}), "c"),
			figures{"o~.spread": 1200 * math.Log2(1.0062832)}, []string{"c"}, "+10.8 ct"},
		// Schroeder: g = 10^(-3 t/T60) for echoes of t = 67 ms and T60 = 2 s
		{"a reverb of 2 s is a delay that dies as fast", &reverb, targetOf{have: map[meaning.Kind]int{meaning.Delay: 1}}.case_(sound([]meaning.Module{mod("r", meaning.Reverb, p{"t60": 2.0, "mix": 0.5})}), "r"),
			figures{"r~.feedback": math.Pow(10, -3*0.067/2), "r~.time": 0.067}, []string{"r"}, "67 ms"},
		{"a send of 0 dB is a mix of half", &send, targetOf{}.case_(sound([]meaning.Module{mod("s", meaning.Send, p{"level": 0.0, "to": "reverb"}), mod("r", meaning.Reverb, p{"t60": 2.0, "mix": 1.0})}), "s"),
			figures{"r~.mix": 0.5}, []string{"s"}, "50 %"},
		// the two at one cutoff and one Q add to (1 + s^2)/D
		{"a notch is a low-pass and a high-pass beside one another", &notch, targetOf{have: map[meaning.Kind]int{meaning.Filter: 2}, words: []string{"filter.mode=lowpass", "filter.mode=highpass", "filter.routing=parallel"}}.case_(sound([]meaning.Module{env, mod("f", meaning.Filter, p{"mode": "notch", "cutoff": 700.0, "resonance": 0.3})}, way("r", "env", "f.cutoff", 1, "unipolar"))),
			figures{"f~.cutoff": 700, "f~high.cutoff": 700, "f~.resonance": 0.3, "f~high.resonance": 0.3, "f~.poles": 2, "r~high": 1}, nil, "700 Hz"},
		{"brown noise is white noise through a low-pass of its own", &colour, targetOf{have: map[meaning.Kind]int{meaning.Filter: 2}, words: []string{"noise.to=filter 2", "noise.colour=white", "filter.mode=lowpass"}}.case_(sound([]meaning.Module{mod("n", meaning.Noise, p{"colour": "brown", "level": -12.0}), cut})),
			figures{"n~filter.cutoff": 100, "n~.level": -12}, nil, "nearly brown"},
		// 12 dB down: two octaves by half the decibels, 10^(-12/40)
		{"a click is a fall of the pitch", &click, targetOf{}.case_(sound([]meaning.Module{mod("v", meaning.Voice, p{}), mod("n", meaning.Noise, p{"level": -12.0}), mod("ce", meaning.Env, p{"decay": 0.013, "sustain": 0.0}), osc("o", 0)}, way("r", "ce", "n.level", 1, "unipolar")), "n"),
			figures{"r~": 2400 * math.Pow(10, -0.3)}, []string{"n"}, "13 ms"},
		{"sync is a resonant filter at the slave's pitch, swept as far", &resonant, targetOf{have: map[meaning.Kind]int{meaning.Filter: 2}, params: []string{"filter.resonance"}}.case_(sound([]meaning.Module{env, mod("o", meaning.Osc, p{"wave": "saw", "sync": "osc1", "interval": 1900.0, "level": 0.0}), cut},
			meaning.Route{ID: "r", Label: "r", From: "env", To: []string{"o.interval"}, Polarity: "unipolar", Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimInterval, Value: 2400}}})),
			// a fifth and an octave above middle C, 261.626 Hz (ISO 16): 784.0 Hz; 2400 ct are two octaves
			figures{"o~sweep.cutoff": 261.6256 * math.Exp2(19.0/12), "o~sweep.track": 1, "o~.interval": 0, "r~": 2}, nil, "784 Hz"},
		// Abramowitz & Stegun, table 9.1: J0(0.5) = 0.93847, J1(0.5) = 0.24227
		{"little modulation is a ring modulator", &lowIndex, targetOf{have: map[meaning.Kind]int{meaning.Ring: 1}}.case_(sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "sine", "fm": 0.5 / math.Pi, "level": -6.0})})),
			figures{"o~ring.level": -6 + 20*math.Log10(2*0.242268/0.938470), "o~.level": -6}, nil, "first sidebands"},
		{"a pair is a width that moves", &movedWidth, targetOf{have: map[meaning.Kind]int{meaning.LFO: 1}, params: []string{"osc.width"}, words: []string{"osc.wave=pulse"}}.case_(sound([]meaning.Module{osc("o1", 0), osc("o2", 8)}), "o2"),
			// 8 ct at 220 Hz beat 1.019 times a second
			figures{"o2~lfo.rate": 220 * (math.Exp2(8.0/1200) - 1) / 1.4, "o1~.width": 0.5, "o2~width": 0.35}, []string{"o2"}, "beat against"},
		// 6 dB: 1/(1 - a) = 1.995
		{"drive by feedback", &overflow, targetOf{have: map[meaning.Kind]int{meaning.Feedback: 1}}.case_(sound([]meaning.Module{mod("d", meaning.Drive, p{"gain": 6.0}), cut}), "d"),
			figures{"d~.level": 20 * math.Log10(1-math.Pow(10, -0.3))}, []string{"d"}, "turn the monitors and headphones down first"},
		{"fast steps by noise", &roughNoise, targetOf{have: map[meaning.Kind]int{meaning.Noise: 1}}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 30.0, "wave": "sample and hold"}), cut}, way("r", "lfo", "filter.cutoff", 1, "bipolar")), "lfo"),
			figures{"lfo~.level": -60, "r": 1}, []string{"lfo"}, "noise moves"},
		{"a late LFO comes by an envelope", &fade, targetOf{have: map[meaning.Kind]int{meaning.Env: 2}}.case_(sound([]meaning.Module{env, mod("lfo", meaning.LFO, p{"rate": 5.0, "delay": 0.5, "fade": 1.0}), cut}, way("r", "lfo", "filter.cutoff", 1, "bipolar"))),
			figures{"lfo~fade.attack": 1, "lfo~fade.delay": 0.5, "lfo~fade.sustain": 1, "r~": 1}, nil, "an envelope that rises in 1.5 s"},
		// sin(x + sin 2x): odd harmonics of J1, J2 and on (A&S, table 9.1), nearest to a pulse behind a low-pass, which the modulator's envelope
		// opens from middle C's fundamental by the octaves at which the distance is least (2.25, by a search beside this)
		{"an operator and its modulator are a wave behind a filter", &operators, targetOf{have: map[meaning.Kind]int{meaning.Osc: 1, meaning.Filter: 1}}.case_(sound([]meaning.Module{env,
			mod("a", meaning.Operator, p{"interval": 0.0, "output": 0.0, "wave": "sine"}), mod("b", meaning.Operator, p{"interval": 1200.0, "level": 0.0, "wave": "sine"})},
			way("m", "b", "a.pm", 1/math.Pi, "bipolar"), way("l", "env", "b.level", 1, "unipolar")), "a", "b"),
			figures{"a~filter.cutoff": 261.6256, "a~filter.track": 1, "a~filter.poles": 2, "a~open": 2.25}, []string{"a", "b"}, "opened by env as it moved the modulation"},
		{"a chorus is a width that moves as fast", &movedWidth, targetOf{have: map[meaning.Kind]int{meaning.LFO: 1}, params: []string{"osc.width"}, words: []string{"osc.wave=pulse"}}.case_(sound([]meaning.Module{mod("c", meaning.Chorus, p{"rate": 0.7, "depth": 0.002, "mix": 0.5}), osc("o", 0)}), "c"),
			figures{"c~lfo.rate": 0.7, "o~.width": 0.5, "c~width": 0.35}, []string{"c"}, "as thick as"},
		// 2400 ct asked for, 1200 ct the most there is: 61 keys from C2 to C7, one octave up
		{"out of the footages, it says which keys still play", &octave, targetOf{reached: map[string]float64{"o1.interval": 1200}}.case_(sound([]meaning.Module{osc("o1", 2400)})),
			figures{"o1~.interval": 1200}, nil, "of 61 keys from C2 to C7 a part from C2 to C6 still plays"},
		// a chorus that a rule adds does not take bass to the sides, where the target's has a width; without bass it is as wide as ever
		{"a pair over bass is a chorus in the middle", &unison, targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1}, params: []string{"chorus.stereo"}}.case_(sound([]meaning.Module{osc("o1", 0), osc("o2", 8), osc("b", -1200)}), "o2"),
			figures{"o2~chorus.stereo": 0}, []string{"o2"}, "the low oscillator left in the middle"},
		{"a pair without bass is a wide chorus", &unison, targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1}, params: []string{"chorus.stereo"}}.case_(sound([]meaning.Module{osc("o1", 0), osc("o2", 8)}), "o2"),
			figures{"o2~chorus.stereo": 1}, []string{"o2"}, "beat"},
		{"a width that moves over bass is a chorus in the middle", &pwm, targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1}, params: []string{"chorus.stereo"}}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 1.5}), osc("o", -1200)}, way("r", "lfo", "o.width", 0.2, "bipolar")), "r"),
			figures{"r~chorus.stereo": 0}, []string{"r"}, "the low oscillator left in the middle"},
		{"a square is two saws half a cycle and a half apart", &pulseSaws, targetOf{have: map[meaning.Kind]int{meaning.Osc: 2}, words: []string{"osc.wave=saw", "osc.phase=reset at 270"}}.case_(sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "pulse", "width": 0.25, "level": -3.0, "interval": 0.0})})),
			figures{"o~.level": -3, "o~2.level": -3, "o~2.interval": 0}, nil, "270 degrees"},
		{"a ping-pong is a plain delay", &echoes, targetOf{words: []string{"delay.pattern=stereo"}}.case_(sound([]meaning.Module{mod("d", meaning.Delay, p{"time": 0.375, "feedback": 0.3, "cross": 0.2, "pattern": "cross"})})),
			figures{"d~.feedback": 0.5, "d~.time": 0.375}, nil, "no longer change sides"},
		{"width is unison apart, not of the bass", &width, targetOf{params: []string{"osc.stereo"}}.case_(sound([]meaning.Module{mod("w", meaning.Widener, p{"width": 0.6}), mod("o", meaning.Osc, p{"unison": 3, "interval": 0.0}), mod("b", meaning.Osc, p{"unison": 2, "interval": -1200.0})}), "w"),
			figures{"o~.stereo": 0.6, "b.interval": -1200}, []string{"w"}, "in the middle"},
		{"width is voices apart", &width, targetOf{params: []string{"amp.spread"}}.case_(sound([]meaning.Module{mod("w", meaning.Widener, p{"width": 0.6}), amp}), "w"),
			figures{"amp~.spread": 0.6}, []string{"w"}, "60 %"},
		{"the wheel's hand goes to the knob", &byHand, targetOf{}.case_(sound([]meaning.Module{cut}, way("r", "wheel", "filter.cutoff", 2, "unipolar")), "r"),
			figures{"filter.cutoff": 500}, []string{"r"}, "by hand"},
	} {
		for range 2 { // in both orders of modules and routes
			slices.Reverse(x.c.Meaning.Modules)
			slices.Reverse(x.c.Meaning.Routes)
			before := len(x.c.Meaning.Modules)
			hit := false
			var told []string
			for _, r := range x.rule.Try(x.c) {
				told = append(told, r.Text)
				ok := strings.Contains(r.Text, x.says)
				for ref, want := range x.want {
					got := math.NaN()
					if way := r.Meaning.Route(ref); way != nil {
						got = way.Depth.Value
					}
					id, name := meaning.Split(ref)
					if m := r.Meaning.Module(id); m != nil {
						got = get(m, name)
					}
					ok = ok && math.Abs(got-want) <= 1e-4*math.Max(1, math.Abs(want))
				}
				for _, id := range x.gone {
					ok = ok && r.Meaning.Module(id) == nil && r.Meaning.Route(id) == nil
				}
				for _, w := range r.Meaning.Routes { // nothing is left hanging
					for _, d := range w.To {
						id, name := meaning.Split(d)
						if m := r.Meaning.Module(id); m == nil {
							t.Errorf("%s: %s moves %s, which is gone", x.name, w.ID, d)
						} else if _, is := meaning.SpecOf(m.Kind).Param(name); !is {
							t.Errorf("%s: %s moves %s, which a %s has not", x.name, w.ID, d, m.Kind)
						}
					}
					if !meaning.IsSource(w.From) && r.Meaning.Module(w.From) == nil {
						t.Errorf("%s: %s comes from %s, which is gone", x.name, w.ID, w.From)
					}
				}
				for from, to := range r.Map { // what a part has become is there
					id, name := meaning.Split(to)
					if way := r.Meaning.Route(id); way != nil {
						continue
					}
					m := r.Meaning.Module(id)
					if m == nil {
						t.Errorf("%s: %s has become %s, which is not there", x.name, from, to)
					} else if _, is := meaning.SpecOf(m.Kind).Param(name); !is {
						t.Errorf("%s: %s has become %s, which a %s has not", x.name, from, to, m.Kind)
					}
				}
				if len(r.Parts) == 0 || r.Penalty <= 0 {
					t.Errorf("%s: made by other means %v at a penalty of %v", x.name, r.Parts, r.Penalty)
				}
				hit = hit || ok
			}
			if !hit {
				t.Errorf("%s: got %q, want %v and %q", x.name, told, x.want, x.says)
			}
			if len(x.c.Meaning.Modules) != before {
				t.Errorf("%s: the meaning that was given has been changed", x.name)
			}
		}
	}
}

// A rule asks for nothing where nothing is missing, and every rule says what it is.
func TestRulesHoldBack(t *testing.T) {
	whole := sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "saw", "level": 0.0}), mod("amp", meaning.Amp, p{"level": 0.0})}, way("g", "gate", "amp.level", 1, "unipolar"))
	seen := map[string]bool{}
	for _, r := range Table {
		if got := r.Try(targetOf{}.case_(whole)); len(got) > 0 {
			t.Errorf("%s: %q where nothing is left out", r.ID, got[0].Text)
		}
		if seen[r.ID] || r.Name == "" || r.Needs == "" || r.Uses == "" || r.Why == "" || r.Source == "" || !(r.Penalty > 0 && r.Penalty < 1) {
			t.Errorf("rule %q does not say what it is: %+v", r.ID, r)
		}
		seen[r.ID] = true
	}
}

// What the rules by which single settings go over say, each where it applies and not where nothing differs.
func TestRulesInPlace(t *testing.T) {
	of := func(k meaning.Kind, name meaning.ParamName) meaning.Param {
		v, _ := meaning.SpecOf(k).Param(name)
		return v
	}
	line := func(k meaning.Kind, name meaning.ParamName, from, to meaning.Module) *Line {
		want, _ := from.Get(name)
		got, _ := to.Get(name)
		return &Line{Param: of(k, name), Want: want, Got: got, From: &from, To: &to, Tempo: 120, Bent: true, FromPivot: 60, ToPivot: 60}
	}
	saw, sine := mod("o", meaning.Osc, p{"wave": "saw"}), mod("o", meaning.Osc, p{"wave": "sine"})
	table := func(frame float64, waves string) meaning.Module {
		return mod("o", meaning.Osc, p{"wave": "table", "frame": frame, "table": waves})
	}
	ladder, two := mod("f", meaning.Filter, p{"poles": 4, "resonance": 0.5}), mod("f", meaning.Filter, p{"poles": 2, "resonance": 0.5})
	cut := mod("f", meaning.Filter, p{"cutoff": 500.0})
	rate, steps, curves := mod("l", meaning.LFO, p{"rate": 2.0}), mod("l", meaning.LFO, p{"wave": "sample and hold"}), mod("l", meaning.LFO, p{"wave": "smooth random"})
	time := func(law, when string) meaning.Module {
		return mod("v", meaning.Voice, p{"glide": 0.12, "glideLaw": law, "glideWhen": when})
	}
	tied, again := mod("v", meaning.Voice, p{"trigger": "legato"}), mod("v", meaning.Voice, p{"trigger": "retrigger"})
	pivots := line(meaning.Filter, "cutoff", cut, cut)
	pivots.ToPivot = 36
	synced, freed := line(meaning.LFO, "rate", rate, rate), line(meaning.LFO, "rate", rate, rate)
	synced.Got.Beats, freed.Want.Beats = 1, 1
	wired := &Line{Route: &meaning.Route{From: "velocity"}, Means: "switch", By: "VEL>VCF"}
	said := map[string]bool{}
	for _, x := range []struct {
		name string
		rule *Rule
		l    *Line
		says string // empty: nothing
	}{
		{"a saw for a sine", &nearestWave, line(meaning.Osc, "wave", saw, sine), "% of its harmonics"},
		{"a level is no wave", &nearestWave, line(meaning.Osc, "level", saw, sine), ""},
		{"another table", &tableFrame, line(meaning.Osc, "frame", table(0.5, "sine, saw"), table(0.2, "saw, triangle")), "% of the harmonics"},
		{"the same table", &tableFrame, line(meaning.Osc, "frame", table(0.5, "sine, saw"), table(0.2, "sine, saw")), ""},
		{"a saw in a table", &tableFrame, line(meaning.Osc, "frame", saw, table(0.2, "saw, triangle")), "nearest to the wave there"},
		{"four poles by two", &slopes, line(meaning.Filter, "resonance", ladder, two), "4 poles there, 2 here"},
		{"four by four", &slopes, line(meaning.Filter, "resonance", ladder, ladder), ""},
		{"another pivot", &pivot, pivots, "C4 there, C2 here"},
		{"the same pivot", &pivot, line(meaning.Filter, "cutoff", cut, cut), ""},
		{"a division for a free rate", &divisions, synced, "it moves with the tempo"},
		{"a free rate for a division", &divisions, freed, "drifts if the tempo moves"},
		{"free for free", &divisions, line(meaning.LFO, "rate", rate, rate), ""},
		{"steps by curves", &chance, line(meaning.LFO, "wave", steps, curves), "glides by chance"},
		{"curves by steps", &chance, line(meaning.LFO, "wave", curves, steps), "jumps by chance"},
		{"steps by steps", &chance, line(meaning.LFO, "wave", steps, steps), ""},
		{"steps by a triangle", &chance, line(meaning.LFO, "wave", steps, rate), ""},
		{"a constant time by a constant rate", &glide, line(meaning.Voice, "glideLaw", time("time", "always"), time("rate", "always")), "a fifth takes 70 ms here, 120 ms there"},
		{"a constant rate by a constant time", &glide, line(meaning.Voice, "glideLaw", time("rate", "always"), time("time", "always")), "a fifth takes 120 ms here, 70 ms there"},
		{"a glide of tied notes always", &glide, line(meaning.Voice, "glideWhen", time("time", "legato"), time("time", "always")), "between all notes"},
		{"a glide always of tied notes", &glide, line(meaning.Voice, "glideWhen", time("time", "always"), time("time", "legato")), "play them over one another"},
		{"the same glide", &glide, line(meaning.Voice, "glideLaw", time("time", "always"), time("time", "always")), ""},
		{"legato for retrigger", &trigger, line(meaning.Voice, "trigger", again, tied), "lift each key"},
		{"retrigger for legato", &trigger, line(meaning.Voice, "trigger", tied, again), "a shorter attack"},
		{"both retrigger", &trigger, line(meaning.Voice, "trigger", again, again), ""},
		{"bass left in the middle", &middle, &Line{Low: 2}, "the low oscillators left in the middle"},
		{"one of it", &middle, &Line{Low: 1}, "the low oscillator left in the middle"},
		{"no bass", &middle, &Line{}, ""},
		{"a sum", &transpose, &Line{Sum: true}, "one sum"},
		{"no sum", &transpose, &Line{}, ""},
		{"a trap of init", &initTraps, &Line{Init: "20 %"}, "init holds 20 %"},
		{"no trap", &initTraps, &Line{}, ""},
		{"a cable", &cable, &Line{Route: &meaning.Route{From: "key"}, Means: "cable", By: "KBD to VCF"}, "by cable: KBD to VCF"},
		{"a switch", &cable, wired, "by the switch: VEL>VCF"},
		{"wired for good", &cable, &Line{Route: &meaning.Route{From: "key"}, Means: "wired"}, ""},
		{"a slot", &slot, &Line{Route: &meaning.Route{From: "key"}, Means: "slot", By: "Slot 3"}, "in the matrix: Slot 3"},
		{"a slot for a slot", &slot, &Line{Route: &meaning.Route{From: "key", Extra: map[meaning.ParamName]meaning.Value{"dest": {Quantity: q.Named(q.DimName, "cutoff")}}}, Means: "slot", By: "Slot 3"}, ""},
		{"oscillators left out", &layer, &Line{Missing: []string{"A", "B", "C", "D", "E", "F"}, Panel: "Thole"}, "A, B, C, D, 2 more. A second layer of Thole"},
		{"nothing left out", &layer, &Line{}, ""},
		{"outside", &rack, &Line{Rack: "Ballast"}, "outside, on Ballast"},
		{"inside", &rack, &Line{}, ""},
	} {
		got := x.rule.Says(x.l)
		if x.says == "" && got != "" || x.says != "" && !strings.Contains(got, x.says) || strings.Contains(got, "%!") {
			t.Errorf("%s: %s says %q, want %q", x.name, x.rule.ID, got, x.says)
		}
		said[x.rule.ID] = said[x.rule.ID] || got != ""
	}
	for _, r := range InPlace {
		if !said[r.ID] {
			t.Errorf("the rule %s has not been heard", r.ID)
		}
		if Named(r.ID) != r || r.Name == "" || r.Needs == "" || r.Uses == "" || r.Why == "" || r.Source == "" || !(r.Penalty > 0 && r.Penalty < 1) {
			t.Errorf("rule %q does not say what it is: %+v", r.ID, r)
		}
	}
	if Named("nobody's rule") != nil {
		t.Error("a rule that is not there was found")
	}
}

// The place in a table that is nearest to a wave is where that wave stands.
func TestNearestFrame(t *testing.T) {
	table := mod("t", meaning.Osc, p{"wave": "table", "table": "sine, triangle, saw, pulse 50 %"})
	for wave, want := range map[string]float64{"sine": 0, "triangle": 1.0 / 3, "saw": 2.0 / 3, "pulse": 1} {
		w := mod("o", meaning.Osc, p{"wave": wave, "width": 0.5})
		if at, ok := NearestFrame(&w, &table, 0.5); !ok || math.Abs(at-want) > 1.0/framesTried {
			t.Errorf("a %s is nearest at %v, want %v", wave, at, want)
		}
		if d := WaveDistance(&w, &w); d != 0 {
			t.Errorf("a %s is %v from itself", wave, d)
		}
	}
	if _, ok := NearestFrame(&table, &table, 0.5); ok {
		t.Error("a table needs no other place in itself")
	}
	plain := mod("o", meaning.Osc, p{"wave": "saw"})
	if _, ok := NearestFrame(&plain, &plain, 0.5); ok {
		t.Error("a place was found in a table that is not there")
	}
}

// Bessel functions of the first kind to 4 decimals, Abramowitz & Stegun, table 9.1 and 9.2:
// with a modulator far above the carrier no sidebands fold into one another.
func TestSidebandsAgainstTables(t *testing.T) {
	for _, x := range []struct {
		index          float64
		j0, j1, j2, j3 float64
	}{
		{0.5, 0.9385, 0.2423, 0.0306, 0.0026}, {1, 0.7652, 0.4401, 0.1149, 0.0196}, {2, 0.2239, 0.5767, 0.3528, 0.1289}, {3, 0.2601, 0.3391, 0.4861, 0.3091},
	} {
		got := Sidebands(20, x.index, 70)
		for h, want := range map[int]float64{1: x.j0, 21: x.j1, 19: x.j1, 41: x.j2, 39: x.j2, 61: x.j3, 59: x.j3, 5: 0} {
			if math.Abs(got[h-1]-want) > 6e-5 {
				t.Errorf("index %v: harmonic %d is %.4f, want %.4f", x.index, h, got[h-1], want)
			}
		}
	}
	if Sidebands(1.41, 1, 10) != nil {
		t.Error("a ratio that is not whole gave harmonics")
	}
}

// The index of the ring rule: carrier and first sidebands alike.
func TestRingIndex(t *testing.T) {
	s := Sidebands(20, 1.4347, 21)
	if math.Abs(s[0]-s[20]) > 1e-4 || math.Abs(s[0]-s[18]) > 1e-4 {
		t.Errorf("the carrier is %.4f, its sidebands %.4f and %.4f", s[0], s[18], s[20])
	}
}

// The same by sampling: the harmonics of sin(x + I sin(r x)) by a discrete Fourier sum.
func TestSidebandsAgainstSampling(t *testing.T) {
	const n = 4096
	for _, ratio := range []float64{1, 2, 3, 5} {
		for _, index := range []float64{0.3, 1, 2.2, 4} {
			got := Sidebands(ratio, index, 24)
			for h := 1; h <= 24; h++ {
				var re, im float64
				for i := range n {
					x := 2 * math.Pi * float64(i) / n
					y := math.Sin(x + index*math.Sin(ratio*x))
					re += y * math.Cos(float64(h)*x)
					im += y * math.Sin(float64(h)*x)
				}
				if want := 2 * math.Hypot(re, im) / n; math.Abs(got[h-1]-want) > 1e-9 {
					t.Errorf("ratio %v, index %v: harmonic %d is %v, sampled %v", ratio, index, h, got[h-1], want)
				}
			}
		}
	}
}

// The figures behind two rules: two saws d + 1/2 of a cycle apart have the odd harmonics of a pulse of
// duty d (Fourier series, Bronshtein); a low-pass and a high-pass of one Q add to a notch (circuit theory).
func TestMadeWavesAndNotches(t *testing.T) {
	for _, d := range []float64{0.1, 0.25, 0.5} {
		saw := q.Wave{Name: q.WaveSaw}.Amplitudes(15)
		pulse := q.Wave{Name: q.WavePulse, Width: q.Ratio(d)}.Amplitudes(15)
		for n := 1; n <= 15; n += 2 {
			x := 2 * math.Pi * float64(n) * (d + 0.5)
			two := saw[n-1] * math.Hypot(1+math.Cos(x), math.Sin(x))
			if math.Abs(two-pulse[n-1]) > 1e-9 {
				t.Errorf("duty %v, harmonic %d: two saws %v, pulse %v", d, n, two, pulse[n-1])
			}
		}
	}
	for _, quality := range []float64{0.5, 0.7, 3} {
		for _, w := range []float64{0.1, 0.5, 1, 2, 10} {
			s := complex(0, w)
			den := s*s + s/complex(quality, 0) + 1
			sum := 1/den + s*s/den
			want := math.Abs(1-w*w) / math.Hypot(1-w*w, w/quality)
			if got := math.Hypot(real(sum), imag(sum)); math.Abs(got-want) > 1e-12 || w == 1 && got > 1e-12 {
				t.Errorf("Q %v at %v of the cutoff: %v, want %v", quality, w, got, want)
			}
		}
	}
}

// The plain wave that is nearest to a place in a table.
func TestPlainWave(t *testing.T) {
	for frame, want := range map[float64]string{0: "sine", 0.24: "saw", 0.5: "pulse", 1: "triangle"} {
		m := mod("o", meaning.Osc, p{"wave": "table", "table": "sine, saw, pulse 50 %, pulse 20 %, triangle", "frame": frame})
		if got := plainWave(&m); got != want {
			t.Errorf("at %v it is nearest to a %s, want %s", frame, got, want)
		}
	}
	for _, m := range []meaning.Module{mod("o", meaning.Osc, p{"wave": "saw"}), mod("o", meaning.Osc, p{"wave": "table"}), mod("o", meaning.Osc, p{"wave": "table", "table": "humming"})} {
		if got := plainWave(&m); got != "" {
			t.Errorf("%v gives %q", m.Params, got)
		}
	}
}

// Carriers: the envelope that moves them opens the amplifier, the strongest one's where they have several, and the more the others differ the
// more it costs; not where the amplifier has one, where others than operators sound, or where all has its place.
func TestCarriers(t *testing.T) {
	amp := mod("amp", meaning.Amp, p{"level": 0.0})
	op := func(id string, output float64) meaning.Module {
		return mod(id, meaning.Operator, p{"wave": "sine", "output": output, "level": 0.0})
	}
	env := func(id string, decay float64) meaning.Module {
		return mod(id, meaning.Env, p{"attack": 0.001, "decay": decay, "sustain": 0.0, "release": 0.1})
	}
	gated := way("g", "gate", "amp.level", 1, "unipolar")
	one, two := way("r1", "e1", "a.level", 1, "unipolar"), way("r2", "e2", "b.level", 1, "unipolar")
	both := way("r2", "e1", "b.level", 1, "unipolar")
	for _, x := range []struct {
		name string
		m    *meaning.Meaning
		lost string
		env  string // that opens the amplifier; empty for no use
		gone []string
	}{
		{"one for both", sound([]meaning.Module{op("a", 0), op("b", -3), env("e1", 0.8), amp}, one, both, gated), "e1", "e1", []string{"r1", "r2", "g"}},
		{"the stronger's", sound([]meaning.Module{op("a", 0), op("b", -6), env("e1", 0.8), env("e2", 0.2), amp}, one, two, gated), "e2", "e1", []string{"r1", "r2", "e2"}},
		{"the stronger's, the other way round", sound([]meaning.Module{op("a", -6), op("b", 0), env("e1", 0.8), env("e2", 0.2), amp}, one, two, gated), "e2", "e2", []string{"r1", "r2", "e1"}},
		{"nothing is lost", sound([]meaning.Module{op("a", 0), env("e1", 0.8), amp}, one, gated), "", "", nil},
		{"the amplifier has an envelope", sound([]meaning.Module{op("a", 0), env("e1", 0.8), env("e2", 1), amp}, one, way("g", "e2", "amp.level", 1, "unipolar")), "e1", "", nil},
		{"noise sounds too", sound([]meaning.Module{op("a", 0), mod("n", meaning.Noise, p{"level": -20.0}), env("e1", 0.8), amp}, one, gated), "e1", "", nil},
		{"the weaker alone", sound([]meaning.Module{op("a", -12), op("b", 0), env("e1", 0.8), amp}, one, gated), "e1", "", nil},
		{"little depth", sound([]meaning.Module{op("a", 0), env("e1", 0.8), amp}, way("r1", "e1", "a.level", 0.4, "unipolar"), gated), "e1", "", nil},
	} {
		out := carriers.Try(targetOf{}.case_(x.m, x.lost))
		if x.env == "" {
			if len(out) > 0 {
				t.Errorf("%s: %s", x.name, out[0].Text)
			}
			continue
		}
		if len(out) != 1 {
			t.Errorf("%s: %d uses", x.name, len(out))
			continue
		}
		m := out[0].Meaning
		if r := m.Route("g~"); r == nil || r.From != x.env || r.To[0] != "amp.level" {
			t.Errorf("%s: the amplifier is opened by %+v", x.name, r)
		}
		for _, id := range x.gone {
			if m.Route(id) != nil || m.Module(id) != nil {
				t.Errorf("%s: %s is still there", x.name, id)
			}
			if !slices.Contains(out[0].Parts, id) {
				t.Errorf("%s: %s is no part of it: %v", x.name, id, out[0].Parts)
			}
		}
	}
	cost := func(decay float64) float64 {
		m := sound([]meaning.Module{op("a", 0), op("b", -3), env("e1", 0.8), env("e2", decay), amp}, one, two, gated)
		return carriers.Try(targetOf{}.case_(m, "e2"))[0].Penalty
	}
	if !(cost(0.8) < cost(0.5) && cost(0.5) < cost(0.1)) {
		t.Errorf("envelopes alike cost %v, further apart %v and %v", cost(0.8), cost(0.5), cost(0.1))
	}
	// an operator that becomes an oscillator brings the amplifier its envelope: an oscillator's level has none that multiplies
	m := sound([]meaning.Module{op("a", -2), mod("m", meaning.Operator, p{"wave": "sine", "level": 0.0, "output": -100.0}), env("e1", 0.8), env("e2", 0.2), amp},
		one, way("pm", "m", "a.pm", 0.5, "unipolar"), way("r2", "e2", "m.level", 1, "unipolar"), gated)
	mo := m.Module("m")
	mo.Params["output"] = meaning.Value{Quantity: q.OffOf(q.DimLevel)}
	out := operators.Try(targetOf{have: map[meaning.Kind]int{meaning.Osc: 2}}.case_(m, "a", "m", "e1", "e2", "r1", "r2", "pm"))
	if len(out) == 0 {
		t.Fatal("no use")
	}
	r := out[0]
	if g := r.Meaning.Route("g~"); g == nil || g.From != "e1" || r.Meaning.Route("r1") != nil {
		t.Errorf("the amplifier is opened by %+v", g)
	}
	for _, id := range []string{"m", "e2"} { // the wave has the modulator in it, and its envelope moved nothing else
		if r.Meaning.Module(id) != nil || !slices.Contains(r.Parts, id) {
			t.Errorf("%s is still there, or no part: %v", id, r.Parts)
		}
	}
	if !slices.Contains(r.Also, &carriers) || !strings.Contains(r.Text, "opens the amplifier") || r.Penalty <= 0 {
		t.Errorf("%q with %v at %v", r.Text, r.Also, r.Penalty)
	}
}

// Envelopes are as far apart as their shapes: 0 for the same, at most 1, the same both ways, more for more.
func TestEnvelopesApart(t *testing.T) {
	env := func(a, d, s, r float64) *meaning.Module {
		m := mod("e", meaning.Env, p{"attack": a, "decay": d, "sustain": s, "release": r})
		return &m
	}
	list := []*meaning.Module{env(0.001, 0.3, 0, 0.1), env(0.001, 0.3, 0.8, 0.1), env(0.5, 0.3, 1, 2), env(0.01, 3, 0.2, 0.3), &open, env(2, 0.01, 0, 0.01)}
	for i, a := range list {
		for k, b := range list {
			d := apart(a, b)
			if d < 0 || d > 1 || math.Abs(d-apart(b, a)) > 1e-12 || (d < 1e-9) != (i == k) {
				t.Errorf("%d and %d are %v apart, the other way %v", i, k, d, apart(b, a))
			}
		}
	}
	last := -1.0
	for _, s := range []float64{0.8, 0.7, 0.5, 0.3} {
		d := apart(env(0.001, 0.3, 0.8, 0.1), env(0.001, 0.3, s, 0.1))
		if d <= last {
			t.Errorf("a sustain of %v is %v apart, one nearer %v", s, d, last)
		}
		last = d
	}
}
