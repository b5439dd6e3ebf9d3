package build

import (
	"math"
	"slices"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
	q "glossator/core/quantity"
	"glossator/core/scale"
)

// usual is the span that a parameter commonly has where the instrument does not print it (common practice, no source): in unit, by equal ratios where geometric.
type usual struct {
	unit     string
	min, max float64
	off      bool // the bottom is off
}

var usualSpans = map[meaning.ParamName]usual{
	meaning.PCutoff: {"Hz", 20, 20000, false}, meaning.PFreq: {"Hz", 30, 16000, false}, meaning.PTone: {"Hz", 200, 20000, false}, meaning.PLowcut: {"Hz", 20, 1000, false}, meaning.PCentre: {"Hz", 100, 5000, false},
	meaning.PLow: {"Hz", 50, 1000, false}, meaning.PHigh: {"Hz", 1000, 10000, false}, meaning.PFixed: {"Hz", 1, 10000, true}, meaning.PRate: {"Hz", 0.05, 50, false},
	meaning.PAttack: {"ms", 1, 10000, false}, meaning.PDecay: {"ms", 5, 15000, false}, meaning.PDecay2: {"ms", 5, 15000, false}, meaning.PRelease: {"ms", 5, 15000, false}, meaning.PHold: {"ms", 1, 5000, true}, meaning.PDelay: {"ms", 1, 5000, true},
	meaning.PFade: {"ms", 10, 10000, true}, meaning.PGlide: {"ms", 5, 3000, true}, meaning.PTime: {"ms", 10, 1500, false}, meaning.PTimeRight: {"ms", 10, 1500, true}, meaning.PT60: {"s", 0.1, 20, false}, meaning.PPredelay: {"ms", 1, 250, true},
	meaning.PWidth: {"%", 50, 95, false}, meaning.PPan: {"%", -100, 100, false}, meaning.PFeedback: {"%", 0, 100, false},
	meaning.PGain: {"dB", 0, 36, false}, meaning.PDrive: {"dB", 0, 30, false}, meaning.PThreshold: {"dB", -60, 0, false}, meaning.PMakeup: {"dB", 0, 24, false},
	meaning.PSpread: {"ct", 0, 50, false}, meaning.PTune: {"ct", -100, 100, false}, meaning.PDrift: {"ct", 0, 20, false}, meaning.POffset: {"ct", -1200, 1200, false}, meaning.PBend: {"ct", 0, 1200, false}, meaning.PTranspose: {"ct", -2400, 2400, false},
	meaning.PRatio: {"count", 1, 20, false}, meaning.PQ: {"count", 0.3, 10, false}, meaning.PVoices: {"count", 1, 8, false}, meaning.PUnison: {"count", 1, 8, false}, meaning.PPoles: {"count", 2, 4, false},
}

// ofKind has the spans that are others in one kind of module.
var ofKind = map[meaning.Kind]map[meaning.ParamName]usual{
	meaning.EQ:     {meaning.PGain: {"dB", -15, 15, false}},
	meaning.Chorus: {meaning.PRate: {"Hz", 0.05, 10, false}, meaning.PDelay: {"ms", 1, 30, false}, meaning.PDepth: {"ms", 0.1, 8, true}}, meaning.Flanger: {meaning.PRate: {"Hz", 0.02, 10, false}, meaning.PDelay: {"ms", 0.5, 15, false}, meaning.PDepth: {"ms", 0.1, 5, true}},
	meaning.Delay:      {meaning.PRate: {"Hz", 0.05, 10, false}, meaning.PDepth: {"ms", 0.1, 8, true}},
	meaning.Phaser:     {meaning.PRate: {"Hz", 0.02, 10, false}},
	meaning.Compressor: {meaning.PAttack: {"ms", 0.1, 100, false}, meaning.PRelease: {"ms", 10, 2000, false}}, meaning.Multiband: {meaning.PAttack: {"ms", 0.1, 100, false}, meaning.PRelease: {"ms", 10, 2000, false}},
	meaning.Sub:      {meaning.PWidth: {"%", 50, 95, false}},
	meaning.Operator: {meaning.PInterval: {"ct", -1200, 4800, false}},
}

// Standard uncertainties of what is only assumed: an end of a printed scale may lie a good way off, the middle further (common practice, no source).
const (
	uRatio = 0.2  // of frequencies and times, relative
	uShare = 0.05 // of shares, as a share of the range
	uLevel = 1.5  // of levels, in dB
)

// Assume gives the law of a control from what it sets and what is printed beside it. Printed quantities are taken at their word: the law is stated. Names
// that are known, footages and numbers of semitones are too. All else is the usual span of the parameter, marked assumed with its uncertainty. missing
// lists the positions of a list that say nothing that is known.
func Assume(p *panel.Panel, param, part string, f scale.Face) (law scale.Law, missing []string, err error) {
	x, kind, err := p.Lookup(param)
	if err != nil {
		return law, nil, err
	}
	if f.Discrete() {
		law, missing = listLaw(p, x, kind, param, part, f)
		return law, missing, nil
	}
	if law, ok := printedLaw(x, kind, part, f); ok {
		return law, nil, nil
	}
	if x.Dim.Named() {
		law, missing = wordsOnTravel(p, x, kind, param, part, f)
		return law, missing, nil
	}
	law = assumed(x, kind, part, f)
	if f.Kind == scale.Clock && law.Kind == scale.Linear && fromEnvelope(p, param) { // an envelope's amount rests in the middle of its knob
		law = about(f, law.Unit, law.Max)
	}
	return law, nil, nil
}

// fromEnvelope tells whether a parameter is the depth of what an envelope moves.
func fromEnvelope(p *panel.Panel, param string) bool {
	owner, name := meaning.Split(param)
	for _, r := range p.Routes {
		for _, m := range p.Modules {
			if r.ID == owner && name == meaning.PDepth && m.ID == r.From && m.Kind == meaning.Env {
				return true
			}
		}
	}
	return false
}

// timesAre sets what a time counts as where stages are meant: none of it is printed.
func timesAre(l scale.Law, x meaning.Param) scale.Law {
	if l.Dim() == q.DimDuration && slices.Contains([]meaning.ParamName{meaning.PAttack, meaning.PDecay, meaning.PDecay2, meaning.PRelease, meaning.PGlide}, x.Name) {
		l.Convention = scale.T90
	}
	return l
}

// printedLaw takes quantities that stand beside the control at their word.
func printedLaw(x meaning.Param, kind meaning.Kind, part string, f scale.Face) (scale.Law, bool) {
	unit := unitFor(x.Dim)
	if isRatio(x, kind, part) {
		if law, ok := ratioLaw(f); ok {
			return law, true
		}
	}
	switch f.Kind {
	case scale.Marks:
		if unit == "" {
			return scale.Law{}, false
		}
		law := scale.Law{Kind: scale.Segments, Unit: unit, Source: scale.Stated}
		for i, m := range f.Marks {
			v, off, ok := valueOf(m.Legend, x.Dim, unit)
			if !ok || off && i != 0 && i != len(f.Marks)-1 {
				return scale.Law{}, false
			}
			if off {
				law.Off = map[bool]string{true: "bottom", false: "top"}[i == 0]
				continue
			}
			law.Points = append(law.Points, [2]float64{m.At, v})
		}
		if len(law.Points) < 2 || law.Off != "" && x.Dim.Geometric() {
			return scale.Law{}, false
		}
		if law.Off == "bottom" {
			law.Points = append([][2]float64{{0, law.Points[0][1]}}, law.Points...)
		}
		if law.Off != "" || len(law.Check(f)) > 0 {
			return scale.Law{}, false
		}
		return timesAre(law, x), true
	case scale.Numeric:
		u, ok := quantityUnit(f.Suffix, x.Dim)
		if !ok {
			break
		}
		law := scale.Law{Kind: scale.Linear, Unit: u.Symbol, Min: f.Min, Max: f.Max, Source: scale.Stated}
		if x.Dim == q.DimResonance && u.Symbol == "%" {
			law.Unit, law.Min, law.Max, law.Source = "fraction", f.Min/100, f.Max/100, scale.Assumed
		}
		if law.Dim().Geometric() && law.Min <= 0 {
			if law.Min < 0 || f.Step <= 0 {
				break
			}
			law.Off = "bottom" // 0 Hz and 0 ms are none
		}
		if len(law.Check(f)) > 0 {
			break
		}
		return timesAre(law, x), true
	}
	if x.Sums && f.Kind == scale.Numeric && strings.TrimSpace(f.Suffix) == "" {
		step := map[string]float64{"octave": 1200, "semi": 100}[part]
		if part == "" && x.Name == meaning.PTranspose {
			step = 100
		}
		if step > 0 && f.Min < 0 || step > 0 && x.Name == meaning.PTranspose {
			return scale.Law{Kind: scale.Linear, Unit: "ct", Min: f.Min * step, Max: f.Max * step, Source: scale.Stated}, true
		}
		if part == "fine" && f.Min == -f.Max && (f.Max == 50 || f.Max == 100) {
			return scale.Law{Kind: scale.Linear, Unit: "ct", Min: f.Min, Max: f.Max, Source: scale.Assumed, Uncertainty: &scale.Uncertainty{U: f.Max / 20}}, true
		}
	}
	if x.Dim == q.DimCount && f.Kind == scale.Numeric && x.Name != meaning.PQ {
		return scale.Law{Kind: scale.Linear, Unit: "count", Min: f.Min, Max: f.Max, Source: scale.Stated}, true
	}
	return scale.Law{}, false
}

// unitFor is the unit that a law of a dimension is written in.
func unitFor(d q.Dim) string {
	return map[q.Dim]string{q.DimFrequency: "Hz", q.DimDuration: "ms", q.DimLevel: "dB", q.DimRatio: "%", q.DimInterval: "ct", q.DimOctaves: "oct", q.DimCount: "count", q.DimResonance: "fraction"}[d]
}

// quantityUnit finds the unit that stands behind a number, where it is one of the dimension; a per cent is a share of a resonance too.
func quantityUnit(suffix string, d q.Dim) (q.Unit, bool) {
	u, ok := q.UnitOf(strings.TrimSpace(suffix))
	return u, ok && (u.Dim == d || d == q.DimResonance && u.Symbol == "%")
}

// valueOf reads a legend as a quantity in the unit; off tells that it says off.
func valueOf(legend string, d q.Dim, unit string) (v float64, off, ok bool) {
	e, err := q.Parse(legend)
	if err != nil {
		return 0, false, false
	}
	switch {
	case e.Form == q.FormOff:
		return 0, true, true
	case e.Form == q.FormShare && d == q.DimRatio:
		return e.Value * 100, false, true
	case e.Form == q.FormBeats && d == q.DimRatio: // 1/2 of the key
		return e.Value * 100, false, true
	case e.Form == q.FormFootage && d == q.DimInterval:
		return 1200 * math.Log2(8/e.Value), false, true
	case e.Form == q.FormOctaves && d == q.DimInterval:
		return 1200 * e.Value, false, true
	case e.Form == q.FormNumber && d == q.DimCount:
		return e.Value, false, true
	case e.Form == q.FormNumber:
		return 0, false, false
	}
	x, err := e.Quantity()
	if err != nil || x.Dim != d {
		return 0, false, false
	}
	v, err = x.In(unit)
	return v, false, err == nil
}

// assumed is the usual span of a parameter over the travel of a face.
func assumed(x meaning.Param, kind meaning.Kind, part string, f scale.Face) scale.Law {
	both := f.Kind == scale.Numeric && f.Min < 0 // both ways from nothing
	span, has := ofKind[kind][x.Name]
	if !has {
		span, has = usualSpans[x.Name]
	}
	if has && span.unit != unitFor(x.Dim) && span.unit != "s" { // a depth that bears the name of another parameter
		has = false
	}
	if x.Name == meaning.PDepth && kind == meaning.RouteKind || !has {
		span = map[q.Dim]usual{q.DimFrequency: {"Hz", 20, 20000, false}, q.DimDuration: {"ms", 1, 5000, false}, q.DimLevel: {"dB", -60, 0, false}, q.DimRatio: {"%", 0, 100, false},
			q.DimInterval: {"ct", 0, 1200, false}, q.DimOctaves: {"oct", 0, 5, false}, q.DimCount: {"count", 1, 8, false}, q.DimResonance: {"fraction", 0, 1, false}, q.DimBeats: {"beats", 0.25, 16, false}}[x.Dim]
	}
	l := scale.Law{Kind: scale.Linear, Unit: span.unit, Min: span.min, Max: span.max, Source: scale.Assumed}
	reach := math.Max(math.Abs(l.Min), math.Abs(l.Max))
	switch part {
	case "octave":
		reach, both = 2400, true
	case "semi":
		reach, both = 1200, true
	case "fine":
		reach, both = 100, true
	case "":
		if x.Name == meaning.PInterval {
			reach, both = 1200, true
		}
	}
	switch {
	case x.Dim.Geometric():
		l.Kind, l.Uncertainty = scale.Exponential, &scale.Uncertainty{U: uRatio, Relative: true}
		if span.off {
			l.Off = "bottom"
		}
	case x.Dim == q.DimLevel && (x.Name == meaning.PLevel || x.Name == meaning.POutput):
		l = scale.Law{Kind: scale.Decibel, Unit: "dB", Exponent: 2, Off: "bottom", Source: scale.Assumed, Uncertainty: &scale.Uncertainty{U: uLevel}}
	case both || l.Min < 0 && l.Min == -l.Max:
		l = about(f, span.unit, reach)
	default:
		u := uShare * math.Abs(l.Max-l.Min)
		if x.Dim == q.DimLevel {
			u = uLevel
		}
		l.Uncertainty = &scale.Uncertainty{U: u}
	}
	return timesAre(l, x)
}

// about goes both ways from nothing: in the middle of a knob, at 0 where numbers go below it, at 64 of 0 to 127.
func about(f scale.Face, unit string, reach float64) scale.Law {
	l := scale.Law{Kind: scale.Bipolar, Unit: unit, Max: reach, Source: scale.Assumed, Uncertainty: &scale.Uncertainty{U: uShare * reach}}
	if f.Kind != scale.Numeric || f.Min == -f.Max {
		return l
	}
	mid := 0.5
	switch {
	case f.Min < 0 && f.Max > 0:
		mid = -f.Min / (f.Max - f.Min)
	case f.Len()%2 == 0: // no position stands in the middle
		mid = float64(f.Len()/2) / float64(f.Len()-1)
	default:
		return l
	}
	l.Kind, l.Max, l.Points = scale.Segments, 0, [][2]float64{{0, -reach}, {math.Round(1e9*mid) / 1e9, 0}, {1, reach}}
	return l
}

// waveWords are the waves by what is printed for them (common practice, no source).
var waveWords = map[string]string{
	"saw": q.WaveSaw, "sawtooth": q.WaveSaw, "ramp": q.WaveSaw, "pulse": q.WavePulse, "square": q.WavePulse, "rectangle": q.WavePulse, "rect": q.WavePulse, "sqr": q.WavePulse, "sq": q.WavePulse, "pwm": q.WavePulse,
	"triangle": q.WaveTriangle, "tri": q.WaveTriangle, "sine": q.WaveSine, "sin": q.WaveSine, "table": "table", "wavetable": "table", "random": "sample and hold", "s&h": "sample and hold", "s/h": "sample and hold", "sample and hold": "sample and hold", "sample": "sample and hold", "smooth random": "smooth random", "smooth": "smooth random",
}

// nameWords are the words of the vocabulary by what is printed for them.
var nameWords = map[meaning.ParamName]map[string]string{
	meaning.PMode: {"lp": "lowpass", "low-pass": "lowpass", "low pass": "lowpass", "hp": "highpass", "high-pass": "highpass", "high pass": "highpass", "bp": "bandpass", "band-pass": "bandpass", "band pass": "bandpass", "band": "bandpass",
		"low": "lowpass", "high": "highpass", "br": "notch", "polyphonic": "poly", "monophonic": "mono", "solo": "mono", "bell": "peak"},
	meaning.PTrigger: {"single": "legato", "multi": "retrigger", "multiple": "retrigger", "retrig": "retrigger", "legato": "legato"}, meaning.PGlideWhen: {"overlapping": "legato", "legato": "legato", "on": "always"},
	meaning.PColour: {"white noise": "white", "pink noise": "pink"}, meaning.PSync: {"hard": "on", "sync": "on"}, meaning.PPattern: {"ping-pong": "pingpong", "ping pong": "pingpong"}, meaning.PPriority: {"lowest": "low", "highest": "high"},
	meaning.PLoop: {"loop": "on"}, meaning.PCycle: {"one-shot": "once", "one shot": "once", "single": "once", "loop": "repeat"},
}

// listLaw gives each named position what it says.
func listLaw(p *panel.Panel, x meaning.Param, kind meaning.Kind, param, part string, f scale.Face) (scale.Law, []string) {
	names := make([]string, f.Len())
	for i := range names {
		names[i] = f.At(i).Reading
	}
	l := scale.Law{Kind: scale.Listed, Unit: unitFor(x.Dim), Source: scale.Stated}
	var missing []string
	switch x.Dim {
	case q.DimWave:
		l.Unit = "wave"
	case q.DimName:
		l.Unit = "name"
	}
	plain := 0 // numbers that say nothing but their place
	for i, n := range names {
		v := wordValue(p, x, param, n)
		if v == nil && !x.Dim.Named() {
			v = numberValue(x, kind, part, n, l.Unit)
		}
		if v == nil {
			plain++
			missing = append(missing, n)
		}
		l.Values = append(l.Values, v)
		_ = i
	}
	if plain > 0 && !x.Dim.Named() && len(names) > 1 { // steps of the usual span
		way := assumed(x, kind, part, scale.Face{Kind: scale.Numeric, Max: float64(len(names) - 1), Step: 1})
		l.Source, l.Uncertainty, missing = scale.Assumed, way.Uncertainty, nil
		if l.Unit == "ms" && way.Unit == "s" {
			l.Unit = "s"
		}
		for i := range l.Values {
			at := scale.Position{Travel: float64(i) / float64(len(names)-1), Index: i}
			v, _ := way.Quantity(at)
			switch w := l.Values[i]; {
			case w == "off" || w == nil && v.Off:
				l.Values[i] = "off"
			default:
				if n, err := v.In(l.Unit); err == nil {
					l.Values[i] = math.Round(1e6*n) / 1e6
				}
			}
		}
		if !x.Dim.Geometric() && x.Dim != q.DimLevel {
			for i, w := range l.Values {
				if w == "off" {
					l.Values[i] = 0.0
				}
			}
		}
	}
	return timesAre(l, x), missing
}

// wordValue gives what a named position says; nil for nothing that is known.
func wordValue(p *panel.Panel, x meaning.Param, param, name string) any {
	low := strings.ToLower(strings.TrimSpace(name))
	switch x.Dim {
	case q.DimWave:
		if w, ok := waveWords[low]; ok {
			return w
		}
		for _, word := range strings.FieldsFunc(low, func(r rune) bool { return r == ' ' || r == '+' || r == '-' }) {
			if w, ok := waveWords[word]; ok {
				return w
			}
		}
		return nil
	case q.DimName:
		if x.Name == meaning.PSource || x.Name == meaning.PDest || x.Name == meaning.PScaler {
			return endOf(p, x.Name, name)
		}
		if w, ok := nameWords[x.Name][low]; ok {
			return w
		}
		for _, known := range knownFor(x) {
			if known == low {
				return known
			}
		}
		for _, known := range knownFor(x) {
			if len(low) >= 2 && strings.HasPrefix(known, low) {
				return known
			}
		}
		if first, _, ok := strings.Cut(low, " "); ok && wordValue(p, x, param, first) != nil { // low-pass 24
			return wordValue(p, x, param, first)
		}
		return nil
	}
	switch low {
	case "off", "none":
		if x.Dim == q.DimRatio || x.Dim == q.DimInterval || x.Dim == q.DimOctaves || x.Dim == q.DimResonance {
			return 0.0
		}
		if x.Dim == q.DimCount {
			return 1.0
		}
		return "off"
	case "full", "on":
		if x.Dim == q.DimRatio {
			return 100.0
		}
	}
	return nil
}

// endOf finds a source or destination of the matrix by its name.
func endOf(p *panel.Panel, what meaning.ParamName, name string) any {
	low := strings.ToLower(strings.TrimSpace(name))
	if low == "none" || low == "off" || low == "-" || low == "–" {
		return "none"
	}
	if p.Matrix == nil {
		return nil
	}
	if what == meaning.PDest {
		for _, d := range p.Matrix.Destinations {
			if strings.EqualFold(d.Name, low) {
				return d.Name
			}
		}
		return nil
	}
	for n := range p.Matrix.Sources {
		if strings.EqualFold(n, low) {
			return n
		}
	}
	return nil
}

// knownFor lists the words that a parameter may have, as far as the program tells them apart.
func knownFor(x meaning.Param) []string {
	for _, w := range meaning.KnownWords {
		if w.Param == x.Name && slices.Contains(w.Words, x.Neutral.Name) {
			return w.Words
		}
	}
	return map[meaning.ParamName][]string{
		meaning.PMode: {"poly", "mono"}, meaning.POn: {"off", "on"}, meaning.PSync: {"off", "on"}, meaning.PTrigger: {"retrigger", "legato"}, meaning.PGlideWhen: {"always", "legato"}, meaning.PPriority: {"last", "low", "high"},
		meaning.PPhase: {"free", "reset"}, meaning.PLoop: {"off", "on"}, meaning.PCycle: {"repeat", "once"}, meaning.PScope: {"voice", "global"}, meaning.PRouting: {"series", "parallel"}, meaning.PCurve: {"linear", "exponential"},
		meaning.PGlideLaw: {"time", "rate"}, meaning.PPolarity: {"both", "bipolar", "unipolar"}, meaning.PToneMode: {"after", "before"},
	}[x.Name]
}

// isRatio tells whether plain numbers at a control are times the key's frequency: the pitch of an operator.
func isRatio(x meaning.Param, kind meaning.Kind, part string) bool {
	return kind == meaning.Operator && x.Name == meaning.PInterval && (part == "octave" || part == "")
}

// ratioOf reads a legend as a ratio of frequencies, without a sign; 0 is a half (common practice, no source).
func ratioOf(legend string) (cents float64, ok bool) {
	e, err := q.Parse(strings.TrimSpace(strings.Trim(strings.TrimSpace(legend), "x×:")))
	if err != nil || e.Form != q.FormNumber && e.Form != q.FormBeats || e.Signed || e.Value < 0 || e.Value > 64 {
		return 0, false
	}
	if e.Value == 0 {
		e.Value = 0.5
	}
	return math.Round(1e6*1200*math.Log2(e.Value)) / 1e6, true
}

// ratioGap is how far apart the points of a scale of ratios lie at the most where its steps are finer, in cents: straight between them is within a cent.
const ratioGap = 50.0

// ratioLaw takes ratios of frequencies that stand beside the control at their word: an octave for each doubling.
func ratioLaw(f scale.Face) (scale.Law, bool) {
	law := scale.Law{Kind: scale.Segments, Unit: "ct", Source: scale.Stated}
	switch {
	case f.Kind == scale.Marks:
		for _, m := range f.Marks {
			v, ok := ratioOf(m.Legend)
			if !ok {
				return law, false
			}
			law.Points = append(law.Points, [2]float64{m.At, v})
		}
	case f.Kind == scale.Numeric && f.Min >= 0 && f.Max <= 64 && f.Max > f.Min && strings.Trim(f.Suffix, " x×") == "":
		last := math.Inf(-1)
		for i := range f.Len() {
			at := f.At(i)
			v := f.Min + float64(i)*f.Step
			if v == 0 {
				v = min(0.5, f.Step)
			}
			cents := math.Round(1e6*1200*math.Log2(v)) / 1e6
			if i == 0 || i == f.Len()-1 || cents-last > ratioGap {
				law.Points, last = append(law.Points, [2]float64{at.Travel, cents}), cents
			}
		}
	}
	return law, len(law.Points) > 1 && len(law.Check(f)) == 0
}

// numberValue reads a legend as a number of the law's unit.
func numberValue(x meaning.Param, kind meaning.Kind, part, name, unit string) any {
	if isRatio(x, kind, part) {
		if v, ok := ratioOf(name); ok {
			return v
		}
	}
	if v, off, ok := valueOf(name, x.Dim, unit); ok && !off {
		return math.Round(1e6*v) / 1e6
	}
	e, err := q.Parse(name)
	if err != nil {
		return nil
	}
	if x.Dim == q.DimCount { // 24 dB of slope is four poles
		if e.Form == q.FormLevel && x.Name == meaning.PPoles {
			return math.Round(e.Value / 6)
		}
		return nil
	}
	if x.Sums && e.Form == q.FormNumber && (e.Signed || e.Value == 0) {
		switch part {
		case "octave":
			return 1200 * e.Value
		case "semi":
			return 100 * e.Value
		}
	}
	return nil
}

// wordsOnTravel divides the travel of a face that is not a switch among the words of a parameter.
func wordsOnTravel(p *panel.Panel, x meaning.Param, kind meaning.Kind, param, part string, f scale.Face) (scale.Law, []string) {
	words := knownFor(x)
	if x.Dim == q.DimWave {
		words = []string{q.WaveSaw, q.WavePulse, q.WaveTriangle, q.WaveSine}
	}
	if len(words) == 0 || f.Kind != scale.Numeric || f.Len() > 64 {
		return scale.Law{Kind: scale.Listed, Unit: map[bool]string{true: "wave", false: "name"}[x.Dim == q.DimWave]}, []string{"all positions"}
	}
	l := scale.Law{Kind: scale.Listed, Unit: map[bool]string{true: "wave", false: "name"}[x.Dim == q.DimWave], Source: scale.Assumed}
	for i := range f.Len() {
		l.Values = append(l.Values, words[min(i, len(words)-1)])
	}
	return l, nil
}
