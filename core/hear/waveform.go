package hear

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"glossator/core/dsp"
)

// Waveform tells which wave sounds, through whatever low-pass, and the level of a square an octave below it ("sub level", decibels over the wave itself).
func (e *Ear) Waveform() []Measured {
	none := func(why string) []Measured {
		return []Measured{cannot("wave", "wave", "", why), cannot("wave", "sub level", "dB", why)}
	}
	found, why := e.waves()
	if why != "" {
		return none(why)
	}
	best := found[0]
	word := Measured{What: "wave", Label: "wave", Word: best.wave, Known: true}
	sub := cannot("wave", "sub level", "dB", "no wave with a square an octave below is found")
	if best.wave == "saw with a sub" {
		sub = known("wave", "sub level", best.sub, "dB", 0.3+0.7*best.residual)
	}
	return []Measured{word, sub}
}

// buried tells whether the third harmonic of a triangle, or the second of anything duller, could lie under a noise: what is between the first harmonics is less than buriedUnder
// below the tone.
func (e *Ear) buried(f, tone float64) bool {
	power, bin := e.power(dsp.PowerUpTo(float64(min(e.to-e.from, int(4*e.Rate)))), stretch{e.from, e.to})
	worst := 0.0
	for h := 2; h <= 3; h++ {
		sum := 0.0
		for i := int((float64(h) + 0.08) * f / bin); i <= int((float64(h)+0.92)*f/bin) && i < len(power); i++ {
			sum += power[i]
		}
		worst = max(worst, sum)
	}
	return 10*math.Log10(max(worst, 1e-30)) > tone-buriedUnder
}

// buriedUnder is how far under a tone its third harmonic lies where it is a triangle (19 dB), with what a harmonic needs to stand out.
const buriedUnder = 19 + aboveFloor

// noiseTried is the width of the bands, in hertz, in which a sound without a tone is asked whether it is a noise.
const noiseTried = 150

// unfiltered is how far a wave without a filter may lie off its closed form, in decibels.
const unfiltered = 0.4

// leastOfPulse is how many harmonics tell that it is a pulse, surePulse how near its harmonics have to be to those of one for its width to be believed beside another wave.
const (
	leastOfPulse = 12
	surePulse    = 0.03
)

// waveFit is a wave with the low-pass that fits best.
type waveFit struct {
	fit
	sub float64 // of a saw with a sub: the level of the sub
}

// findWaves lists the waves that may sound, the likeliest first; why where it cannot be told which.
func (e *Ear) findWaves() ([]waveFit, string) {
	whole := stretch{e.from, e.to}
	p := e.pitch()
	if !p.near {
		if p.several {
			return nil, "several tones sound at once: play one note"
		}
		if all := e.noiseLevels(whole); len(all.f) > 6 && e.hisses(noiseTried) {
			return []waveFit{{fit: fit{wave: "noise"}}}, ""
		}
		return nil, "no tone is found"
	}
	if m, ok := e.brightness(); ok && m.share >= 0.55 && m.depth > movingCutoff && !e.beats(m.rate) {
		return nil, "the brightness moves: play it without what moves it"
	}
	if !p.ok || p.clarity <= 0.85 {
		return nil, "it is no plain tone"
	}
	all := e.harmonicLevels(p.f, whole)
	if len(all.f) == 0 {
		return nil, "the sound is too short"
	}
	strongest := slices.Max(all.level)
	others := 0
	for i, l := range all.level {
		if all.h[i] != 1 && l > strongest-45 {
			others++
		}
	}
	if others == 0 && all.h[0] == 1 {
		if e.buried(p.f, strongest) {
			return nil, "what would tell lies under a noise"
		}
		if e.wavers() {
			return nil, "its pitch wavers: it may be a narrow noise"
		}
		return []waveFit{{fit: fit{wave: "sine"}}}, ""
	}
	if !e.inHarmonics(p.f, whole) {
		return nil, "it is no plain tone"
	}
	_, list, limit, _, why := e.heardOf("", whole)
	if why != "" {
		return nil, why
	}
	x := e.whole()
	used := x.used
	if len(x.found) == 0 || len(used.f) < 5 {
		return nil, tooFew
	}
	// one that is there without any filter is that one, whatever a filter makes of others
	for _, w := range list {
		plain := make([]float64, len(used.h))
		for i, h := range used.h {
			plain[i] = w.level(h)
		}
		if w.apart {
			continue
		}
		if r := off(used.level, plain, nil); r < unfiltered {
			return []waveFit{{fit: fit{wave: w.name, residual: r}}}, ""
		}
	}
	best := map[string]fit{}
	for _, x := range x.found {
		if was, ok := best[x.wave]; !ok || x.residual < was.residual {
			best[x.wave] = x
		}
	}
	var found []waveFit
	for _, x := range best {
		found = append(found, waveFit{fit: x})
	}
	slices.SortFunc(found, func(a, b waveFit) int { // by name where they fit alike: a map has no order
		return cmp.Or(cmp.Compare(a.residual, b.residual), cmp.Compare(a.wave, b.wave))
	})
	if len(found) == 0 || found[0].residual > limit {
		return nil, "no low-pass makes it of a saw, a pulse, a square or a triangle"
	}
	if found[0].fc < 0.9*used.f[0] {
		return nil, "it would have passed a low-pass below its lowest partial: another wave without one sounds the same"
	}
	if found[0].wave == driven {
		return nil, "it may be a " + driven
	}
	if used.exponential() < found[0].residual*alikeShare+2*alikeDB {
		return nil, "it may be a driven sine"
	}
	if found[0].wave == "pulse" && len(used.f) < leastOfPulse {
		return nil, tooFew // of a pulse the width is free, too
	}
	if found[0].wave == "saw with a sub" {
		if p := e.parts(); len(p.amp) >= 5 {
			if d, _, bad := pulseWidth(p.amplitudes()); bad < surePulse {
				return nil, fmt.Sprintf("a saw with a sub and a pulse of %.0f %% fit alike", 100*d)
			}
		}
	}
	// a saw is a square with a saw an octave above it, as loud as it: the simpler name holds, where it is no worse
	i := slices.IndexFunc(found, func(x waveFit) bool { return x.wave == "saw" })
	if found[0].wave == "saw with a sub" && i > 0 && found[i].residual < found[0].residual*alikeShare+alikeDB {
		found[0], found[i] = found[i], found[0]
	}
	for k := range found {
		if found[k].wave == "saw with a sub" {
			found[k].sub = used.odds(found[k].fit)
		}
	}
	for _, x := range found[1:] {
		if x.residual < found[0].residual*alikeShare+alikeDB && !(found[0].wave == "saw" && x.wave == "saw with a sub") {
			return nil, fmt.Sprintf("%s and %s through a low-pass fit alike", found[0].wave, x.wave)
		}
	}
	return found, ""
}

// odds gives how much louder the odd harmonics are than a saw an octave higher makes the even ones, through a low-pass, in decibels: the level of the square that makes them. Fourier
// series (Bronshtein): a square has 4/(pi n) at odd n, a saw an octave above 4/(pi n) at even n.
func (p *points) odds(f fit) float64 {
	q := *p
	q.warp = f.warp
	gain := q.gains(low, f.poles, f.fc, f.res)
	var sum, n [2]float64
	for i, h := range p.h {
		sum[h%2] += p.level[i] - gain[i] + 20*math.Log10(float64(h))
		n[h%2]++
	}
	return sum[1]/n[1] - sum[0]/n[0]
}
