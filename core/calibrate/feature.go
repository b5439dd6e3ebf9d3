package calibrate

import (
	"math"
	"slices"
	"strings"

	"glossator/core/hear"
	"glossator/core/meaning"
)

// Figure is what a recording says, as one number that goes with the parameter.
type Figure struct {
	Value float64
	// U is one standard uncertainty.
	U float64
	// Why says what is in the way; the figure is not known then.
	Why string
}

func (f Figure) known() bool { return f.Why == "" }

// reference says which take a figure holds against.
type reference int

const (
	absolute reference = iota
	againstTop
	againstNone
)

// against gives the figure relative to that at a reference.
func (f feature) against(r reference) feature {
	f.relative = r
	return f
}

// feature takes a figure from a sound.
type feature struct {
	name string
	// of takes it; ref is the take that others are relative to, nil for the sound itself.
	of func(s *Sound) Figure
	// relative figures hold against those of a reference take, what nobody knows is in both: a level against that at the top, an amount against that at nothing.
	relative reference
	// signless figures are the same either way of nothing: which way, the reading says.
	signless bool
	// octaves is set for rates: what moves is heard at twice its rate now and then, and is taken for what is nearer to the panel's.
	octaves bool
	// direct turns the figure into the parameter's value, in the units of a meaning, without the model; nil where only the model can.
	direct func(v float64, d *meaning.Module) float64
}

// from picks a figure of hear by its label; log takes its binary logarithm.
func from(all []hear.Measured, log bool, labels ...string) Figure {
	why := "it is not told by the sound"
	for _, label := range labels {
		i := slices.IndexFunc(all, func(m hear.Measured) bool { return m.Label == label })
		if i < 0 {
			continue
		}
		m := all[i]
		if !m.Known {
			why = strings.TrimPrefix(m.Why, "cannot tell: ")
			continue
		}
		if !log {
			return Figure{Value: m.Value, U: m.Uncertainty}
		}
		if m.Value <= 0 {
			continue
		}
		return Figure{Value: math.Log2(m.Value), U: m.Uncertainty / m.Value / math.Ln2}
	}
	return Figure{Why: why}
}

func exp2(v float64, _ *meaning.Module) float64 { return math.Exp2(v) }
func same(v float64, _ *meaning.Module) float64 { return v }

// stage turns a time of a stage that was measured to a share of its way into t90: by the envelope's curve.
func stage(curved, straight float64) func(v float64, d *meaning.Module) float64 {
	return func(v float64, d *meaning.Module) float64 {
		c, _ := d.Get(meaning.PCurve)
		if c.Name == "linear" {
			return math.Exp2(v) * straight
		}
		return math.Exp2(v) * curved
	}
}

// The figures that stand for a parameter by themselves. Levels are in decibels, frequencies and times binary logarithms.
var (
	byPitch = feature{name: "pitch", of: func(s *Sound) Figure {
		n := s.note(0)
		f := from([]hear.Measured{s.steady(0).listen().Pitch()}, true, "pitch")
		f.Value, f.U = 1200*(f.Value-math.Log2(440*math.Exp2((n.Key-69)/12))), math.Hypot(1200*f.U, 0.7) // a warm instrument wanders by that much (common practice, no source)
		return f
	}, direct: same}
	byLevel = feature{name: "level", relative: againstTop, of: func(s *Sound) Figure {
		p := decibels(s.steady(0).power())
		if p < -85 {
			return Figure{Why: "it is silent"}
		}
		return Figure{Value: p, U: 0.05}
	}}
	byPan = feature{name: "balance of the channels", of: func(s *Sound) Figure {
		l, r := s.steady(0).sides()
		if l+r < 1e-9 {
			return Figure{Why: "it is silent"}
		}
		return Figure{Value: math.Atan2(math.Sqrt(r), math.Sqrt(l)), U: 0.002}
	}, direct: func(v float64, _ *meaning.Module) float64 { return v/(math.Pi/4) - 1 }}
	byWidth = feature{name: "pulse width", of: func(s *Sound) Figure {
		f := from([]hear.Measured{s.steady(0).listen().PulseWidth()}, false, "pulse width")
		f.Value, f.U = f.Value/100, f.U/100
		return f
	}, direct: same}
	byAttack = feature{name: "attack", of: func(s *Sound) Figure {
		return from([]hear.Measured{s.listen().Attack(s.off())}, true, "attack (10-90 %)")
	}, direct: stage(2.302585/2.197225, 0.9/0.8)}
	byDecay   = feature{name: "decay", of: func(s *Sound) Figure { return from([]hear.Measured{s.listen().Decay(s.off())}, true, "decay to 90 %") }, direct: exp2}
	byRelease = feature{name: "release", of: func(s *Sound) Figure {
		return from([]hear.Measured{s.listen().Release(s.off())}, true, "release to 10 %")
	}, direct: exp2}
	byRate = feature{name: "rate of what moves", octaves: true, of: func(s *Sound) Figure {
		// what moves the pitch moves the level too, and often twice as fast: the pitch is asked first
		x := s.steady(0)
		f := from(x.listen().Modulation(), true, "pitch rate", "pulse width rate", "level rate", "brightness rate")
		if f.known() && math.Exp2(f.Value)*x.Seconds() < 2.2 {
			return Figure{Why: "the recording holds too few periods: hold the note longer"}
		}
		return f
	}, direct: exp2}
	byDepth = func(what string) feature {
		return feature{name: what + " depth", signless: true, of: func(s *Sound) Figure {
			return from(s.steady(0).listen().Modulation(), false, what+" depth")
		}}
	}
	byGlide    = feature{name: "glide", of: func(s *Sound) Figure { return from([]hear.Measured{s.listen().Glide()}, true, "glide time") }, direct: exp2}
	byEcho     = feature{name: "time of the echo", of: func(s *Sound) Figure { return from(s.listen().Delay(), true, "delay time") }, direct: exp2}
	byFeedback = feature{name: "feedback", of: func(s *Sound) Figure {
		f := from(s.listen().Delay(), false, "delay feedback")
		f.Value, f.U = f.Value/100, f.U/100
		return f
	}, direct: same}
	byT60 = feature{name: "time of decay", of: func(s *Sound) Figure {
		f := from([]hear.Measured{s.listen().T60(s.off())}, true, "decay to -60 dB")
		if f.known() && f.Value < math.Log2(shortestT60) {
			return Figure{Why: "it dies away as fast as the note itself may"}
		}
		return f
	}, direct: exp2}
	// how a filter's envelope goes
	byFilterAttack = feature{name: "attack of the cutoff", of: func(s *Sound) Figure { return from(s.listen().FilterCourse(), true, "filter attack (10-90 %)") }, direct: stage(2.302585/2.197225, 0.9/0.8)}
	byFilterDecay  = feature{name: "decay of the cutoff", of: func(s *Sound) Figure { return from(s.listen().FilterCourse(), true, "filter decay to 90 %") }, direct: exp2}
	// differences of two notes
	byTwoLevels = feature{name: "level of the harder note over the softer", of: func(s *Sound) Figure {
		a, b := decibels(s.steady(0).power()), decibels(s.steady(1).power())
		if a < -85 || b < -85 {
			return Figure{Why: "one of the notes is silent"}
		}
		return Figure{Value: b - a, U: 0.07}
	}}
	byTwoCentres = feature{name: "brightness of the second note over the first", of: func(s *Sound) Figure {
		a, b := centre(s.steady(0)), centre(s.steady(1))
		if a == 0 || b == 0 {
			return Figure{Why: "one of the notes is silent"}
		}
		return Figure{Value: math.Log2(b / a), U: 0.01}
	}}
)

// shortestT60 is the time of a decay below which it may be the release of the note that is heard, in seconds.
const shortestT60 = 0.15

// byCutoff fits filters to a spectrum.
func byCutoff(source string) feature {
	return feature{name: "cutoff", of: func(s *Sound) Figure {
		return from(s.steady(0).listen().Cutoff(source), true, "cutoff", "high-pass", "band-pass")
	}, direct: exp2}
}

// centre gives the centre of a sound's spectrum in hertz, by energy; 0 for silence.
func centre(s *Sound) float64 {
	m := s.listen().Brightness()
	if !m.Known {
		return 0
	}
	return m.Value
}

// under is what a part of a sound is told down to, as a share of its power: below lie noise and hum, of which the model has none (common practice, no source).
const under = 1e-5

// share gives how much of a sound lies from one frequency to another, in decibels against the whole.
func share(s *Sound, from, to float64) float64 {
	b := s.listen().Bands()
	var part, whole float64
	for i, x := range b {
		hz := hear.ERBFrequency(float64(i) + 0.5)
		p := math.Pow(10, x/10)
		whole += p
		if hz >= from && hz < to {
			part += p
		}
	}
	return 10 * math.Log10(part/max(whole, 1e-12)+under)
}

// byWhatIsLeft is what sounds after a note has ended.
var byWhatIsLeft = feature{name: "what is left after the note", of: func(s *Sound) Figure {
	n := s.note(0)
	after := s.cut(n.End+0.1, n.End+0.6)
	return Figure{Value: decibels(after.power()/max(s.steady(0).power(), 1e-9) + under), U: 0.1}
}}

// byCentre is how bright a sound is.
var byCentre = feature{name: "centre of the spectrum", of: func(s *Sound) Figure {
	hz := centre(s.steady(0))
	if hz == 0 {
		return Figure{Why: "it is silent"}
	}
	return Figure{Value: math.Log2(hz), U: 0.01}
}}

// likeness are figures of which the model tells whether one goes with a parameter: for what no figure stands by itself.
var likeness = []feature{
	{name: "level", relative: againstTop, of: byLevel.of},
	byCentre,
	{name: "share below 300 Hz", of: shareOf(0, 300)}, {name: "share from 300 to 1200 Hz", of: shareOf(300, 1200)}, {name: "share from 1.2 to 4 kHz", of: shareOf(1200, 4000)}, {name: "share above 4 kHz", of: shareOf(4000, 20000)},
	{name: "peaks over the mean", of: func(s *Sound) Figure {
		x := s.steady(0)
		high := 0.0
		for _, v := range x.Left {
			high = max(high, math.Abs(v))
		}
		return Figure{Value: 20*math.Log10(max(high, 1e-9)) - decibels(x.power()), U: 0.05}
	}},
	byWhatIsLeft,
	{name: "how the level moves", of: func(s *Sound) Figure { return Figure{Value: math.Log2(moving(s.steady(0)) + 0.02), U: 0.05} }},
	{name: "difference of the channels", of: func(s *Sound) Figure {
		x := s.steady(0)
		var mid, side float64
		for i, l := range x.Left {
			r := l
			if x.Right != nil {
				r = x.Right[i]
			}
			mid, side = mid+(l+r)*(l+r), side+(l-r)*(l-r)
		}
		return Figure{Value: 10 * math.Log10(side/(mid+1e-12)+under), U: 0.1}
	}},
}

func shareOf(from, to float64) func(s *Sound) Figure {
	return func(s *Sound) Figure {
		x := s.steady(0)
		if x.power() < 1e-9 {
			return Figure{Why: "it is silent"}
		}
		return Figure{Value: share(x, from, to), U: 0.1}
	}
}

// moving gives the standard deviation of the level over a sound, in decibels, by stretches of 20 ms.
func moving(s *Sound) float64 {
	n := int(0.02 * s.Rate)
	var sum, squares, count float64
	for i := 0; i+n <= len(s.Left); i += n {
		var p float64
		for k := i; k < i+n; k++ {
			p += s.Left[k] * s.Left[k]
		}
		x := decibels(p/float64(n) + 1e-9)
		sum, squares, count = sum+x, squares+x*x, count+1
	}
	if count < 2 {
		return 0
	}
	return math.Sqrt(max(0, squares/count-sum/count*sum/count))
}
