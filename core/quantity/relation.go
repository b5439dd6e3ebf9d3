package quantity

import "math"

// Relation is a formula between two numbers that can be worked both ways. What converts, what a typed field means and what the reckoner shows all go through these.
type Relation struct {
	// Formula as people write it, Source where it is from.
	Formula, Source string
	There, Back     func(x float64, c Context) float64
}

// The relations of the trade's arithmetic.
var (
	// FeetToCents: organ footage and the interval to the key.
	FeetToCents = Relation{"c = 1200 log2(8/feet)", "organ practice: 8' sounds as written",
		free(func(x float64) float64 { return 1200 * math.Log2(8/x) }), free(func(x float64) float64 { return 8 / math.Exp2(x/1200) })}
	// CentsToRatio: interval and frequency ratio.
	CentsToRatio = Relation{"r = 2^(c/1200)", "Ellis",
		free(func(x float64) float64 { return Interval(x).Ratio() }), free(func(x float64) float64 { return 1200 * math.Log2(x) })}
	// OctavesToSemitones: equal temperament.
	OctavesToSemitones = Relation{"1 oct = 12 st", "equal temperament", scaled(12), scaled(1. / 12)}
	// CentsToBeats: a detune at the note played and what it beats, in hertz.
	CentsToBeats = Relation{"b = f (2^(c/1200) - 1)", "difference of the two frequencies",
		func(x float64, c Context) float64 { return float64(Interval(x).Beating(c.At)) }, func(x float64, c Context) float64 { return float64(c.At.Detune(Frequency(x))) }}
	// NoteToHertz: note number and frequency.
	NoteToHertz = Relation{"f = 440 Hz x 2^((n - 69)/12)", "ISO 16:1975",
		free(func(x float64) float64 { return float64(Note(x).Frequency()) }), free(func(x float64) float64 { return float64(Frequency(x).Note()) })}
	// BeatsToSeconds: a note value at the tempo.
	BeatsToSeconds = Relation{"t = 60/BPM x quarter notes", "MIDI 1.0",
		func(x float64, c Context) float64 { return float64(Beats(x).At(c.Tempo)) }, func(x float64, c Context) float64 { return float64(BeatsOf(Duration(x), c.Tempo)) }}
	// BeatsToHertz: a note value at the tempo, as a rate.
	BeatsToHertz = Relation{"f = BPM/60 / quarter notes", "MIDI 1.0",
		func(x float64, c Context) float64 { return float64(Beats(x).At(c.Tempo).Rate()) }, func(x float64, c Context) float64 { return float64(BeatsOf(Frequency(x).Period(), c.Tempo)) }}
	// SecondsToHertz: period and frequency; a comb or echo of length t rings at f.
	SecondsToHertz = Relation{"f = 1/t, and its multiples", "period and frequency",
		free(func(x float64) float64 { return 1 / x }), free(func(x float64) float64 { return 1 / x })}
	// DecibelsToRatio: level and amplitude.
	DecibelsToRatio = Relation{"a = 10^(dB/20)", "definition of the decibel",
		free(func(x float64) float64 { return Level(x).Amplitude() }), free(func(x float64) float64 { return 20 * math.Log10(x) })}
	// FeedbackToSeconds: the feedback of an echo and its time to -60 dB.
	FeedbackToSeconds = Relation{"g = 10^(-3 t/T60)", "Schroeder, JAES 10(3), 1962",
		func(x float64, c Context) float64 { return float64(DecayOf(c.Time, Ratio(x))) }, func(x float64, c Context) float64 { return float64(FeedbackFor(c.Time, Duration(x))) }}
)

// free makes a function that needs no context one of a relation.
func free(f func(float64) float64) func(float64, Context) float64 {
	return func(x float64, _ Context) float64 { return f(x) }
}

func scaled(k float64) func(float64, Context) float64 {
	return free(func(x float64) float64 { return k * x })
}

// Scaled gives the relation with its numbers in other units: k of the left and m of the right one make one of its own.
func (r Relation) Scaled(k, m float64) Relation {
	there, back := r.There, r.Back
	r.There = func(x float64, c Context) float64 { return there(x/k, c) * m }
	r.Back = func(x float64, c Context) float64 { return back(x/m, c) * k }
	return r
}
