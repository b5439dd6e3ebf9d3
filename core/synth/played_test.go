package synth

import (
	"fmt"
	"math"
	"testing"

	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

// inUse is a meaning in which a module of a kind is at work, by its parameters; the module is called "x".
func inUse(k meaning.Kind, p meaning.ParamName, ps params) *meaning.Meaning {
	env := part("env", meaning.Env, params{"attack": 0.01, "decay": 0.2, "sustain": 0.5, "release": 0.1})
	opens := way("env", "amp.level", 1)
	saw := func(id string, more params) meaning.Module {
		all := params{"wave": "saw", "level": -6.0, "phase": "reset"}
		for n, v := range more {
			all[n] = v
		}
		return part(id, meaning.Osc, all)
	}
	x := part("x", k, ps)
	all := []meaning.Module{env, saw("o", nil)}
	routes := []meaning.Route{opens}
	switch p { // what the parameter is told by
	case meaning.PTo, meaning.PRouting:
		if k != meaning.Send {
			side := part("f2", meaning.Filter, params{"mode": "highpass", "poles": 2, "cutoff": 3000.0, "routing": "parallel"})
			if p == meaning.PRouting {
				return simple(routes, env, saw("o", nil), part("f1", meaning.Filter, params{"mode": "lowpass", "poles": 2, "cutoff": 400.0}), x)
			}
			return simple(routes, env, x, part("f1", meaning.Filter, params{"mode": "lowpass", "poles": 2, "cutoff": 400.0}), side)
		}
		m := simple(routes, env, saw("o", nil), x, part("r", meaning.Reverb, params{"t60": 1.0, "mix": 1.0}))
		m.Audio = m.Audio[:len(m.Audio)-1]
		m.Audio = append(m.Audio[:1:1], meaning.Edge{From: "mixer", To: "amp"})
		return m
	case meaning.PPlace, meaning.PSidechain:
		all = append(all, part("before", meaning.Drive, params{"gain": 18.0, "mix": 1.0, "place": 3}), saw("p", params{"pan": 0.5, "interval": 700.0}))
	case meaning.PTrigger:
		if k == meaning.Env {
			all = append(all, part("v", meaning.Voice, params{"mode": "mono", "trigger": "retrigger"}))
		}
	}
	switch k {
	case meaning.Widener:
		all = append(all, saw("q", params{"pan": 0.8, "interval": 400.0}), x)
	case meaning.Osc:
		all = []meaning.Module{env, x, saw("o", params{"interval": 300.0})}
	case meaning.Operator:
		all = []meaning.Module{env, x, part("m", meaning.Operator, params{"level": -3.0, "output": nil, "interval": 700.0})}
		routes = append(routes, way("m", "x.pm", 0.5))
	case meaning.Ring:
		all = []meaning.Module{env, saw("o", nil), saw("p", params{"interval": 500.0}), x}
	case meaning.Amp, meaning.Mixer:
		m := simple(routes, all...)
		for i := range m.Modules {
			if m.Modules[i].Kind == k {
				id := m.Modules[i].ID
				m.Modules[i] = x
				m.Modules[i].ID = id
			}
		}
		return m
	case meaning.Feedback:
		m := simple(routes, append(all, x)...)
		m.Audio = append(m.Audio, meaning.Edge{From: "amp", To: "x"}, meaning.Edge{From: "x", To: "mixer"})
		return m
	case meaning.Env:
		routes = append(routes, way("x", "o.interval", 700))
		all = append(all, x)
	case meaning.LFO, meaning.Macro:
		w := way("x", "o.interval", 300)
		w.Polarity = "bipolar"
		routes = append(routes, w)
		all = append(all, x)
	case meaning.Send:
		all = append(all, x, part("r", meaning.Reverb, params{"t60": 1.0, "mix": 1.0}))
		m := simple(routes, all...)
		m.Audio = append(m.Audio, meaning.Edge{From: "x", To: "r"})
		return m
	default:
		all = append(all, x)
	}
	return simple(routes, all...)
}

// working are parameters at which a module of a kind is at work, so that each other parameter can be told.
var working = map[meaning.Kind]params{
	meaning.Osc:        {"wave": "pulse", "level": -6.0, "width": 0.3, "phase": "reset", "unison": 3, "spread": 20.0},
	meaning.Sub:        {"wave": "pulse", "level": -6.0, "interval": -1200.0},
	meaning.Noise:      {"colour": "white", "level": -6.0},
	meaning.Ring:       {"level": -6.0},
	meaning.Operator:   {"wave": "sine", "level": 0.0, "output": -3.0},
	meaning.Mixer:      {"drive": 3.0},
	meaning.Feedback:   {"level": -12.0},
	meaning.Filter:     {"mode": "lowpass", "poles": 2, "cutoff": 900.0, "resonance": 0.4, "mix": 1.0},
	meaning.Env:        {"attack": 0.05, "decay": 0.1, "sustain": 0.5, "release": 0.1},
	meaning.LFO:        {"wave": "pulse", "rate": 6.0, "phase": "reset"},
	meaning.Macro:      {"value": 0.3},
	meaning.Voice:      {"mode": "mono", "unison": 3, "spread": 20.0, "glide": 0.1, "chord": "on", "chord2": 400.0},
	meaning.Amp:        {"level": -6.0, "drive": 3.0},
	meaning.Drive:      {"gain": 12.0, "mix": 0.8, "tone": 3000.0, "curve": "hard"},
	meaning.EQ:         {"mode": "peak", "freq": 900.0, "gain": 9.0, "q": 2},
	meaning.Compressor: {"threshold": -30.0, "ratio": 4, "attack": 0.01, "release": 0.1, "mix": 1.0},
	meaning.Multiband:  {"thresholdLow": -40.0, "thresholdMid": -40.0, "thresholdHigh": -40.0, "ratio": 4, "attack": 0.01, "release": 0.1, "mix": 1.0},
	meaning.Chorus:     {"rate": 1.0, "depth": 0.003, "delay": 0.01, "mix": 0.5},
	meaning.Flanger:    {"rate": 1.0, "depth": 0.002, "delay": 0.003, "mix": 0.5, "feedback": 0.3},
	meaning.Phaser:     {"rate": 1.0, "depth": 0.7, "mix": 0.5},
	meaning.Delay:      {"time": 0.11, "timeRight": 0.17, "feedback": 0.5, "mix": 0.4},
	meaning.Reverb:     {"t60": 1.2, "mix": 0.4},
	meaning.Widener:    {"width": 0.5},
	meaning.Send:       {"level": -6.0},
}

// situations are what a parameter needs beside it to be told: other parameters, by kind and name.
var situations = map[string]params{
	"osc.width": {"wave": "pulse"}, "osc.frame": {"wave": "table"}, "osc.table": {"wave": "table", "frame": 0.4, "table": "sine, saw"}, "osc.warpAmount": {"warp": "fold"}, "osc.warp": {"warpAmount": 0.5},
	"filter.morph": {"mode": "morph"}, "filter.feedback": {"mode": "comb"}, "filter.track": {"cutoff": 600.0}, "voice.count": {"mode": "poly", "chord": "off", "glide": nil}, "voice.width": {"spread": 30.0},
	"env.slope": {"attack": 0.005, "decay": 0.01}, "env.loop": {"attack": 0.02, "decay": 0.05}, "noise.interval": {"colour": "grit"}, "noise.key": {"colour": "grit"}, "lfo.scope": {"phase": "free", "wave": "sine"}, "osc.to": {"to": "filter 1"}, "sub.to": {"to": "filter 1"}, "noise.to": {"to": "filter 1"}, "operator.to": {"to": "filter 1"}, "env.break": {"decay2": 0.3}, "env.decay2": {"break": 0.7}, "multiband.low": {}, "delay.cross": {"pattern": "cross"}, "delay.rate": {"depth": 0.003},
	"filter.offset": {"cutoff": 700.0}, "filter.routing": {}, "osc.stereo": {"spread": 30.0}, "lfo.width": {"wave": "pulse"}, "reverb.lowcut": {}, "amp.spread": {},
}

// other gives a value of a parameter that is plainly not the one it has.
func other(k meaning.Kind, p meaning.Param, now meaning.Value) meaning.Value {
	words := map[string]string{
		"osc.wave": "sine", "sub.wave": "sine", "operator.wave": "saw", "lfo.wave": "sine", "osc.table": "saw, pulse 20 %", "osc.warp": "mirror", "osc.sync": "o", "osc.phase": "reset at 90", "osc.to": "filter 2", "sub.to": "filter 2", "noise.to": "filter 2", "operator.to": "filter 2", "lfo.scope": "global",
		"noise.colour": "brown", "filter.mode": "highpass", "filter.routing": "parallel", "env.curve": "linear", "env.trigger": "legato", "env.loop": "on", "lfo.phase": "free", "lfo.cycle": "once",
		"drive.curve": "fold", "drive.toneMode": "before", "eq.mode": "high shelf", "compressor.sidechain": "dry", "delay.pattern": "pingpong", "send.to": "reverb",
		"voice.mode": "poly", "voice.priority": "low", "voice.trigger": "legato", "voice.glideLaw": "rate", "voice.glideWhen": "legato", "voice.chord": "off", "operator.phase": "reset",
	}
	ref := meaning.Ref(string(k), p.Name)
	switch {
	case p.Name == meaning.POn:
		return meaning.Value{Quantity: q.Named(p.Dim, "off")}
	case p.Dim.Named():
		return meaning.Value{Quantity: q.Named(p.Dim, words[ref])}
	}
	v := q.Quantity{Dim: p.Dim, Value: now.Value}
	switch p.Dim {
	case q.DimInterval:
		v.Value += 250
	case q.DimLevel:
		if v.Value -= 9; p.Name == meaning.PDrive {
			v.Value = now.Value + 12
		}
	case q.DimFrequency:
		if v.Value = 300; now.Value == 300 {
			v.Value = 900
		}
	case q.DimDuration:
		v.Value = now.Value + 0.07
	case q.DimCount:
		v.Value = now.Value + 2
	case q.DimResonance:
		v.Value = 0.8
	default:
		if v.Value = 0.75; math.Abs(now.Value-0.75) < 0.1 {
			v.Value = 0.2
		}
	}
	return meaning.Value{Quantity: v}
}

// What the vocabulary says of each parameter holds in the engine: one that it plays changes what is rendered, one that it does not says why. So no
// parameter is weighed and never heard without the vocabulary saying so.
func TestEveryParameterIsPlayedOrSaysWhyNot(t *testing.T) {
	notes := []phrase.Note{{Start: 0, End: 0.3, Key: 45, Velocity: 100}, {Start: 0.2, End: 0.5, Key: 57, Velocity: 60}, {Start: 0.55, End: 0.8, Key: 50, Velocity: 127}}
	render := func(m *meaning.Meaning) *Sound {
		s, err := Render([]Layer{{Meaning: m}}, notes, Options{Seed: 5, Raw: true, Tail: 0.6})
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	for _, spec := range meaning.Kinds {
		base, ok := working[spec.Kind]
		if !ok {
			if spec.Kind != meaning.Atten && spec.Kind != meaning.RouteKind { // parts of routes
				t.Errorf("%s: nothing says how it is at work", spec.Kind)
			}
			continue
		}
		for _, p := range spec.Params {
			name := meaning.Ref(string(spec.Kind), p.Name)
			t.Run(name, func(t *testing.T) {
				ps := params{}
				for n, v := range base {
					ps[n] = v
				}
				for n, v := range situations[name] {
					ps[n] = v
				}
				was := inUse(spec.Kind, p.Name, ps)
				find := func(m *meaning.Meaning) *meaning.Module {
					if d := m.Module("x"); d != nil {
						return d
					}
					return m.Module(map[meaning.Kind]string{meaning.Amp: "amp", meaning.Mixer: "mixer"}[spec.Kind])
				}
				is := inUse(spec.Kind, p.Name, ps)
				d := find(is)
				now, _ := d.Get(p.Name)
				d.Params[p.Name] = other(spec.Kind, p, now)
				if p.Name == meaning.POn {
					d.Idle = "switched off"
				}
				a, b := render(was), render(is)
				differs := fmt.Sprint(a.Assumed) != fmt.Sprint(b.Assumed) || len(a.Left) != len(b.Left)
				for i := 0; i < min(len(a.Left), len(b.Left)) && !differs; i++ {
					differs = math.Abs(a.Left[i]-b.Left[i]) > 1e-7 || math.Abs(a.Right[i]-b.Right[i]) > 1e-7
				}
				if differs == (p.Unplayed != "") {
					t.Errorf("%s: changes the sound: %v; the vocabulary says %q", name, differs, p.Unplayed)
				}
			})
		}
	}
}
