package quantity

import (
	"fmt"
	"math"
)

// A4 is the tuning reference in hertz (ISO 16:1975).
const A4 Frequency = 440

// MiddleC is the MIDI number of the note at which the meaning of a patch
// states key-tracked frequencies.
const MiddleC Note = 60

type (
	// Interval is a pitch interval in cents (1200 to the octave, Ellis).
	Interval float64
	// Frequency is in hertz.
	Frequency float64
	// Duration is in seconds.
	Duration float64
	// Level is in decibels of amplitude; the reference is the context's.
	Level float64
	// Ratio is a share, 0 to 1 (or -1 to 1 for a signed amount).
	Ratio float64
	// Beats is a length in quarter notes, as a tempo counts them: 1 is a quarter, 0.5 an eighth.
	Beats float64
	// Note is a MIDI note number; the fraction is in semitones.
	Note float64
	// Tempo is in quarter notes a minute.
	Tempo float64
	// Resonance is the fraction of the way to self-oscillation; 1 and more oscillates. The
	// height of the peak follows from the number of poles (dsp.PeakDB).
	Resonance float64
)

// Ratio gives the frequency ratio of the interval.
//
//	r = 2^(c/1200)
func (i Interval) Ratio() float64 { return math.Exp2(float64(i) / 1200) }

// FootageInterval gives the interval of an organ footage to the key: 8' sounds as
// written, half the length an octave higher. Feet must be above zero.
//
//	c = 1200 log2(8/feet)
func FootageInterval(feet float64) (Interval, error) {
	if !(feet > 0) || math.IsInf(feet, 0) {
		return 0, fmt.Errorf("a footage must be above 0, not %v", feet)
	}
	return Interval(1200 * math.Log2(8/feet)), nil
}

// Frequency gives the frequency of the note in equal temperament (ISO 16:1975).
//
//	f = 440 Hz * 2^((n-69)/12)
func (n Note) Frequency() Frequency {
	return A4 * Frequency(math.Exp2((float64(n)-69)/12))
}

// Note gives the note number, with its fraction, of a frequency above zero.
func (f Frequency) Note() Note {
	return Note(69 + 12*math.Log2(float64(f/A4)))
}

// Transpose moves a frequency by an interval.
func (f Frequency) Transpose(i Interval) Frequency { return f * Frequency(i.Ratio()) }

// Beating gives the beats per second between a note and the same note detuned: the
// difference of the two frequencies.
//
//	b = f |2^(c/1200) - 1|
func (i Interval) Beating(at Frequency) Frequency {
	return Frequency(math.Abs(float64(at.Transpose(i) - at)))
}

// Detune gives the (upward) interval that beats at rate when the lower of the two
// sounds at the frequency given.
func (f Frequency) Detune(rate Frequency) Interval {
	return Interval(1200 * math.Log2(float64((f+rate)/f)))
}

// Period gives the time of one cycle: the length of an echo that rings at f, or the
// delay of a comb whose first peak is f.
func (f Frequency) Period() Duration { return Duration(1 / f) }

// Rate gives the frequency whose period is the duration.
func (d Duration) Rate() Frequency { return Frequency(1 / d) }

// At gives the time of a note value at a tempo (MIDI 1.0: a quarter is 60/BPM seconds).
func (b Beats) At(t Tempo) Duration { return Duration(float64(b) * 60 / float64(t)) }

// BeatsOf gives the note value that lasts d at tempo t.
func BeatsOf(d Duration, t Tempo) Beats { return Beats(float64(d) * float64(t) / 60) }

// Amplitude gives the amplitude ratio of a level.
//
//	a = 10^(dB/20)
func (l Level) Amplitude() float64 { return math.Pow(10, float64(l)/20) }

// Constants of exponential stages (circuit theory): how many time constants
// it takes to go 90 % of the way, to fall by 60 dB, and to fall by half.
var (
	TausTo90   = math.Ln10
	TausTo60dB = 3 * math.Ln10
	TausToHalf = math.Ln2
)

// RampTo90 is the part of a full linear ramp after which 90 % is reached.
const RampTo90 = 0.9

// FeedbackFor gives the feedback of an echo of length t that dies away to -60 dB in
// t60 (Schroeder, JAES 10(3), 1962).
//
//	g = 10^(-3 t/T60)
func FeedbackFor(t, t60 Duration) Ratio { return Ratio(math.Pow(10, -3*float64(t/t60))) }

// DecayOf gives the time to -60 dB of an echo of length t and feedback g, 0 < g < 1.
func DecayOf(t Duration, g Ratio) Duration { return Duration(-3 * float64(t) / math.Log10(float64(g))) }
