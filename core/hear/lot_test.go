package hear_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"glossator/core/hear"
	"glossator/testutil/whole"
)

// byLot gives a sound of sox: a wave, a note and an envelope drawn by lot, through one of its effects. What the effect sets has to be found where it is told; what
// neither the wave nor the effect has must not be told.
func byLot(rnd *rand.Rand, i int) sounding {
	between := func(a, b float64) float64 { return math.Exp(math.Log(a) + rnd.Float64()*math.Log(b/a)) }
	one := func(list ...float64) float64 { return list[rnd.IntN(len(list))] }
	wave := []string{"sine", "square", "sawtooth", "triangle", "sawtooth", "square"}[rnd.IntN(6)]
	f, seconds := math.Round(100*between(45, 1000))/100, between(0.4, 4)
	attack, release := between(0.004, 0.2), between(0.03, 0.3)
	if attack+release > 0.6*seconds {
		attack, release = 0.005, 0.05
	}
	s := sounding{rate: []int{44100, 48000, 96000}[rnd.IntN(3)], seconds: seconds, never: []string{"FM ratio", "FM index", "glide time", "filter envelope depth", "cutoff at the peak", "cutoff where it settles", "cutoff rate", "pulse width rate"}}
	moving := []string{"level rate", "pitch rate", "brightness rate"}
	echo := []string{"delay time", "delay feedback"}
	several := []string{"detune", "sub level"}
	never := func(lists ...[]string) { s.never = append(s.never, slices.Concat(lists...)...) }
	// sox says its trapezoid from nothing to all: 10 to 90 % takes 0.8 of it
	plain := func() {
		s.want = append(s.want, told{"attack (10-90 %)", 0.8 * attack, 0.004}, told{"pitch", f, 0.003 * f})
	}
	more, effect := "", ""
	kind := []string{"none", "echo", "echoes", "tremolo", "reverb", "low-pass", "high-pass", "chorus", "two", "sub", "compand", "silence"}[i%12]
	switch kind {
	case "none":
		never(moving, echo, several)
		plain()
	case "echo":
		d, g := 120+rnd.IntN(480), one(0.3, 0.5, 0.7)
		effect = fmt.Sprintf("pad 0 2.5 echo 0.6 0.9 %d %v", d, g)
		never(moving, several)
		s.want = append(s.want, told{"delay time", float64(d) / 1000, 0.002})
	case "echoes":
		d, g := 120+rnd.IntN(380), one(0.4, 0.5, 0.6)
		effect = fmt.Sprintf("pad 0 3 echo 0.6 0.9 %d %.4f %d %.4f %d %.4f", d, g, 2*d, g*g, 3*d, g*g*g)
		never(moving, several)
		s.want = append(s.want, told{"delay time", float64(d) / 1000, 0.002})
	case "tremolo":
		r := math.Round(10*between(2.5, 9)) / 10
		effect = fmt.Sprintf("tremolo %v %v", r, one(30, 50, 80))
		never(moving[1:2], echo, several)
		s.want = append(s.want, told{"level rate", r, 0})
	case "reverb":
		effect = fmt.Sprintf("pad 0 2 reverb %v", one(30, 60, 90))
		never(moving, several)
	case "low-pass":
		fc := math.Round(min(15000, between(2, 30)*f))
		effect = fmt.Sprintf("lowpass -%v %v", one(1, 2), fc)
		if strings.Contains(effect, "-2") {
			effect += " 0.707q"
		}
		never(moving, echo, several)
		plain()
		if wave != "sine" {
			s.want = append(s.want, told{"cutoff", fc, 0})
		}
	case "high-pass":
		effect = fmt.Sprintf("highpass -2 %.0f 0.707q", between(0.5, 8)*f)
		never(moving, echo, several)
	case "chorus":
		effect = "chorus 0.7 0.9 30 0.4 1.2 2 -s"
		never([]string{"sub level"})
	case "two":
		ct := 4 + 20*rnd.Float64()
		more = fmt.Sprintf("%s %.4f", wave, f*math.Exp2(ct/1200))
		never(moving, echo, several[1:])
		if wave != "sine" {
			s.want = append(s.want, told{"detune", ct, 0})
		}
	case "sub":
		more = fmt.Sprintf("square %.4f", f/2)
		never(moving, echo, several[:1])
	case "compand":
		effect = "compand 0.01,0.2 -40,-15,0,-8 -3"
		never(moving, echo, several)
	case "silence":
		effect = fmt.Sprintf("pad %v 0.5", one(0.02, 0.3, 0.7))
		never(moving, echo, several)
		plain()
	}
	mix := ""
	if more != "" {
		mix = "remix 1,2 "
	}
	s.name = fmt.Sprintf("%d: %s %.2f Hz, %.2f s, rise %.3f, fall %.3f, %s %s", i, wave, f, seconds, attack, release, kind, effect)
	s.body = fmt.Sprintf("sox:synth %.4f %s %v %s vol 0.35 %sfade t %.4f %.4f %.4f %s", seconds, wave, f, more, mix, attack, seconds, release, effect)
	return s
}

// Sounds that are drawn by lot, through the effects of another program: of what is told, nothing is far off but one figure in a hundred, and nothing that is not there but of one sound
// in twenty. What is still told wrongly is listed.
func TestSoundsByLot(t *testing.T) {
	n := 30
	if whole.Asked() {
		n = 600
	}
	rnd := rand.New(rand.NewPCG(9, 30))
	var right, doubted, unknowns int
	var off, phantoms []string
	for i := range n {
		s := byLot(rnd, i)
		e := hear.Listen(s.wave(t))
		got := e.All(s.off)
		for _, c := range s.want {
			k := slices.IndexFunc(got, func(m hear.Measured) bool { return m.Label == c.label })
			switch m := got[k]; c.judge(t, m) {
			case unknown:
				unknowns++
			case hedged:
				doubted++
			case wrong:
				off = append(off, fmt.Sprintf("%s: %s %.4g ± %.2g %s, is %.4g", s.name, c.label, m.Value, m.Uncertainty, m.Unit, c.want))
			default:
				right++
			}
		}
		if x := s.phantoms(got); len(x) > 0 {
			phantoms = append(phantoms, strings.Join(x, "; "))
		}
	}
	told := right + doubted + len(off)
	t.Logf("%d sounds: %d figures told, %d right, %d with doubt, %d off; %d cannot be told; of %d sounds something is told that is not there", n, told, right, doubted, len(off), unknowns, len(phantoms))
	for _, x := range append(off, phantoms...) {
		t.Log(x)
	}
	if 100*len(off) > told || right < told*9/10 {
		t.Errorf("%d of %d figures that are told are wrong, %d right", len(off), told, right)
	}
	if 20*len(phantoms) > n {
		t.Errorf("of %d of %d sounds something is told that is not there", len(phantoms), n)
	}
	if unknowns > told {
		t.Errorf("%d cannot be told beside %d that are", unknowns, told)
	}
}
