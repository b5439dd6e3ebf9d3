// Package jnd has the one table of just-noticeable differences: how far two values have to lie apart to be told from each other.
//
// The lines of a sheet (meaning's vocabulary), the distance of two sounds and the table of what differs (compare) all read them here; a
// fact that is adjusted is adjusted for all of them. Its neighbours: quantity measures how far apart two values are.
package jnd

import "strings"

// Difference is one just-noticeable difference.
type Difference struct {
	Name string `json:"name"`
	// Size is in Unit, or a share of the value (its natural logarithm) where Share is set.
	Size  float64 `json:"size"`
	Share bool    `json:"share"`
	Unit  string  `json:"unit"`
	// Source is where it is known from.
	Source string `json:"source"`
}

const (
	common   = "common practice, no source"
	fastl    = "Zwicker & Fastl, Psychoacoustics (from memory)"
	room     = "ISO 3382-1:2009, table A.1"
	decided  = "by definition: words and counts are right or wrong"
	textbook = "arithmetic: "
)

// The differences. Adjust them here.
var (
	Level      = Difference{Name: "level", Size: 1, Unit: "dB", Source: fastl}
	Pitch      = Difference{Name: "pitch in a steady unison", Size: 5, Unit: "ct", Source: fastl}
	Time       = Difference{Name: "duration", Size: 0.10, Share: true, Source: fastl}
	ModDepth   = Difference{Name: "depth of a moved delay", Size: 0.15, Share: true, Source: common}
	Echo       = Difference{Name: "time of an echo", Size: 0.05, Share: true, Source: "half of that of a duration: " + common}
	T60        = Difference{Name: "reverberation time", Size: 0.05, Share: true, Source: room}
	Cutoff     = Difference{Name: "cutoff, about a semitone", Size: 0.06, Share: true, Source: common}
	Rate       = Difference{Name: "rate", Size: 0.08, Share: true, Source: common}
	Share      = Difference{Name: "a full share: sustain, mix, feedback, tracking", Size: 0.05, Unit: "of 1", Source: common}
	Width      = Difference{Name: "pulse width", Size: 0.03, Unit: "of a cycle", Source: common}
	Octaves    = Difference{Name: "octaves of modulation", Size: 0.12, Unit: "oct", Source: common}
	Resonance  = Difference{Name: "resonance", Size: 0.04, Unit: "of the way to self-oscillation", Source: common}
	Wave       = Difference{Name: "wave", Size: 0.1, Unit: "of its harmonics", Source: common}
	Count      = Difference{Name: "modulation of a count", Size: 0.5, Source: common}
	Exact      = Difference{Name: "words and counts", Size: 1e-6, Source: decided}
	Brightness = Difference{Name: "centre of the spectrum", Size: 0.25, Unit: "auditory bands", Source: common}
	Motion     = Difference{Name: "rate and amount of movement", Size: 0.25, Unit: "oct", Source: common}
)

// Table lists them.
var Table = []*Difference{&Level, &Pitch, &Time, &ModDepth, &Echo, &T60, &Cutoff, &Rate, &Share, &Width, &Octaves, &Resonance, &Wave, &Count, &Exact, &Brightness, &Motion}

// figures are the differences of what hear measures, by label, in the figure's own unit.
var figures = map[string]Difference{
	"pitch":    {Name: Pitch.Name, Size: 0.0029, Share: true, Source: textbook + "5 ct, " + fastl},
	"loudness": Level, "peak": Level, "resonant peak": Level, "true peak": Level, "sustain level": Level,
	"attack (10-90 %)": Time, "decay to 90 %": Time, "release to 10 %": Time,
	"pitch rate": Rate, "level rate": Rate, "brightness rate": Rate, "pulse width rate": Rate,
	"pitch depth":       Pitch,
	"level depth":       {Name: "depth of a moved level", Size: 6, Unit: "%", Source: common},
	"brightness depth":  Octaves,
	"pulse width":       inPercent(Width),
	"pulse width depth": inPercent(Width),
	"cutoff":            Cutoff,
	"high-pass":         Cutoff, "band-pass": Cutoff, "cutoff at the start": Cutoff, "cutoff at the end": Cutoff,
	"time of the sweep (10-90 %)": Time,
	"sub level":                   Level,
	"cutoff rate":                 Rate, "cutoff depth": Octaves, "filter envelope depth": Octaves,
	"filter attack (10-90 %)": Time, "filter decay to 90 %": Time,
	"cutoff at the peak": Cutoff, "cutoff where it settles": Cutoff,
	"voices":                {Name: "voices of a unison", Size: 0.5, Source: common},
	"unison spread":         {Name: "spread of a unison", Size: 2, Unit: "ct", Source: common},
	"FM ratio":              {Name: "ratio of FM", Size: 0.01, Share: true, Source: common},
	"FM index":              {Name: "index of FM", Size: 0.1, Share: true, Source: common},
	"noise beside the tone": {Name: "level of a noise beside a tone", Size: 2, Unit: "dB", Source: common},
	"glide time":            Time,
	"softer of two voices":  {Name: "balance of two voices", Size: 1.5, Unit: "dB", Source: common},
	"slope":                 {Name: "slope", Size: 6, Unit: "dB/oct", Source: "one pole: circuit theory"},
	"decay to -60 dB":       T60,
	"delay time":            Echo,
	"delay feedback":        inPercent(Share),
	"stereo width":          inPercent(Share),
	"detune":                {Name: "detune of two oscillators", Size: 2, Unit: "ct", Source: common},
	"brightness (centroid)": {Name: "centroid", Size: 0.1, Share: true, Source: common},
	"harmonic share":        {Name: "harmonic share", Size: 10, Unit: "%", Source: common},
}

func inPercent(d Difference) Difference {
	d.Size, d.Unit = 100*d.Size, "%"
	return d
}

// Figure gives the difference of a measured figure by its label (hear.Measured), in the figure's unit; ok is false for a figure that has none.
func Figure(label string) (d Difference, ok bool) {
	d, ok = figures[strings.TrimSuffix(strings.TrimSuffix(label, " left"), " right")] // of each side as of both
	return d, ok
}
