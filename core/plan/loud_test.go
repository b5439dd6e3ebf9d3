package plan

import (
	"math"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
	"glossator/testutil/build"
)

// The loudest source counts whole, and another by half its distance in decibels: as its level, its wave and the filters on its way have it. Worked out beside the
// reckoning: a square has 3 dB less than twice its amplitude, a sine far below a high-pass hardly anything.
func TestLoudness(t *testing.T) {
	mod := build.Module
	osc := func(id, wave string, level, interval float64) meaning.Module {
		return mod(id, meaning.Osc, build.Params{"wave": wave, "level": level, "interval": interval})
	}
	for _, x := range []struct {
		name   string
		mods   []meaning.Module
		routes []meaning.Route
		want   map[string]float64
		near   float64
	}{
		{"by level", []meaning.Module{osc("a", "saw", 0, 0), osc("b", "saw", -20, 0)}, nil, map[string]float64{"a": 1, "b": math.Pow(10, -20.0/40)}, 1e-9},
		{"one alone", []meaning.Module{osc("a", "saw", -40, 0)}, nil, map[string]float64{"a": 1}, 1e-9},
		{"a sine below a high-pass", []meaning.Module{osc("a", "saw", 0, 0), osc("b", "sine", 0, 0), mod("f", meaning.Filter, build.Params{"mode": "highpass", "poles": 4, "cutoff": 4000})}, nil, map[string]float64{"a": 1, "b": leastLoud}, 1e-9},
		{"opened by an envelope", []meaning.Module{osc("a", "sine", 0, 0), osc("b", "sine", 0, 3600), mod("f", meaning.Filter, build.Params{"mode": "lowpass", "poles": 4, "cutoff": 262}), mod("e", meaning.Env, nil)},
			[]meaning.Route{build.Route("e", "f.cutoff", 5, "unipolar")}, map[string]float64{"a": 1, "b": 1}, 0.06},
		{"not opened", []meaning.Module{osc("a", "sine", 0, 0), osc("b", "sine", 0, 3600), mod("f", meaning.Filter, build.Params{"mode": "lowpass", "poles": 4, "cutoff": 262})}, nil, map[string]float64{"a": 1, "b": leastLoud}, 1e-9},
		{"what only modulates is not reckoned", []meaning.Module{osc("a", "saw", 0, 0), mod("b", meaning.Osc, build.Params{"level": nil})}, nil, map[string]float64{"a": 1}, 1e-9},
	} {
		got := loudness(build.Row(x.routes, x.mods...), q.MiddleC)
		if len(got) != len(x.want) {
			t.Errorf("%s: %v, want %v", x.name, got, x.want)
		}
		for id, w := range x.want {
			if math.Abs(got[id]-w) > x.near {
				t.Errorf("%s: %s counts %.4f, want %.4f", x.name, id, got[id], w)
			}
		}
	}
}
