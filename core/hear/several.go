package hear

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/stat"
)

// Take is one of several recordings of a patch: the sound, and how hard the key was struck (1 to 127; 0 where it is not known).
type Take struct {
	Ear      *Ear
	Velocity float64
}

// Responses tells from two or more recordings of one patch how its cutoff follows the key and how level and cutoff follow the velocity. Recordings of other notes at one
// velocity tell of the key, of one note at other velocities of the velocity.
func Responses(takes []Take) []Measured {
	const keyed, louder, brighter = "key tracking of the cutoff", "velocity response of the level", "velocity response of the cutoff"
	// which wave goes in is the same in all of them: what one tells, the others need not
	wave := ""
	for _, t := range takes {
		if found, why := t.Ear.waves(); why == "" && wave == "" && (found[0].wave == "saw" || found[0].wave == "square" || found[0].wave == "triangle") {
			wave = found[0].wave
		}
	}
	cutoff := func(e *Ear) Measured {
		if c := e.Cutoff(""); c[0].Known || wave == "" {
			return c[0]
		}
		return e.Cutoff(wave)[0]
	}
	var notes, cutoffs, unsure []float64
	for _, t := range takes {
		p, c := t.Ear.Pitch(), cutoff(t.Ear)
		if !p.Known || !c.Known {
			continue
		}
		if t.Velocity != takes[0].Velocity {
			continue
		}
		notes, cutoffs, unsure = append(notes, math.Log2(p.Value)), append(cutoffs, math.Log2(c.Value)), append(unsure, c.Uncertainty/c.Value/math.Ln2)
	}
	var out []Measured
	switch lo, hi := span(notes); {
	case len(notes) < 2 || hi-lo < 0.45:
		out = append(out, cannot("responses", keyed, "%", "two notes are needed, half an octave or more apart, in both of which the cutoff can be told, struck alike"))
	default:
		slope, u := sloped(notes, cutoffs, unsure)
		out = append(out, known("responses", keyed, 100*slope, "%", 100*u))
	}
	var hard, level, cut, cutHard, cutUnsure, levelUnsure []float64
	first := takes[0].Ear.Pitch()
	for _, t := range takes {
		p := t.Ear.Pitch()
		if t.Velocity == 0 || p.Known != first.Known || p.Known && math.Abs(math.Log2(p.Value/first.Value)) > 0.04 {
			continue
		}
		if l := t.Ear.Loudness(); l.Known {
			hard, level, levelUnsure = append(hard, t.Velocity/127), append(level, l.Value), append(levelUnsure, 0.3)
		}
		if c := cutoff(t.Ear); c.Known {
			cutHard, cut, cutUnsure = append(cutHard, t.Velocity/127), append(cut, math.Log2(c.Value)), append(cutUnsure, c.Uncertainty/c.Value/math.Ln2)
		}
	}
	const need = "the same note is needed at two velocities, 30 or more apart"
	if lo, hi := span(hard); len(hard) < 2 || hi-lo < 30.0/127 {
		out = append(out, cannot("responses", louder, "dB", need))
	} else {
		slope, u := sloped(hard, level, levelUnsure)
		out = append(out, known("responses", louder, slope, "dB", u))
	}
	if lo, hi := span(cutHard); len(cutHard) < 2 || hi-lo < 30.0/127 {
		out = append(out, cannot("responses", brighter, "oct", need+", in both of which the cutoff can be told"))
	} else {
		slope, u := sloped(cutHard, cut, cutUnsure)
		out = append(out, known("responses", brighter, slope, "oct", u))
	}
	for i := range out[1:] {
		if m := &out[1+i]; m.Known {
			m.Why = fmt.Sprintf("from velocity 0 to 127, in a straight line through %d recordings", len(hard))
		}
	}
	return out
}

func span(x []float64) (lo, hi float64) {
	lo, hi = math.Inf(1), math.Inf(-1)
	for _, y := range x {
		lo, hi = min(lo, y), max(hi, y)
	}
	return lo, hi
}

// sloped fits a line and gives its slope with one standard uncertainty: from those of the points, and from how far they lie off it (JCGM 100:2008).
func sloped(x, y, u []float64) (slope, unsure float64) {
	alpha, beta := stat.LinearRegression(x, y, nil, false)
	mx := mean(x)
	var sxx, off, own float64
	for i := range x {
		sxx += (x[i] - mx) * (x[i] - mx)
		d := y[i] - alpha - beta*x[i]
		off += d * d
		own += (x[i] - mx) * (x[i] - mx) * u[i] * u[i]
	}
	unsure = math.Sqrt(own) / sxx
	if n := float64(len(x)); n > 2 {
		unsure = math.Hypot(unsure, math.Sqrt(off/(n-2)/sxx))
	}
	return beta, unsure
}
