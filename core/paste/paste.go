// Package paste reads free notes, such as "Osc 2 level ~ 3/4" or "cutoff 61, reso 20", as readings
// of a panel's controls.
//
// It guesses and says how sure it is; nothing is taken without the user's word. Neighbours: panel
// knows the controls and reads what is after the name.
package paste

import (
	"fmt"
	"maps"
	"regexp"
	"sort"
	"strconv"
	"strings"
	"unicode"

	"glossator/core/meaning"
	"glossator/core/panel"
)

// Guess is one reading found in the notes.
type Guess struct {
	// Line counts the lines of the notes from 1; Text is the piece of it that was read.
	Line int    `json:"line"`
	Text string `json:"text"`
	// Control is the id of the control it is taken for; Label and Section name it.
	Control string `json:"control"`
	Label   string `json:"label"`
	Section string `json:"section"`
	Reading string `json:"reading"`
	// Certainty is from 0 to 1: how much of the name was found, less where others fit as well.
	Certainty float64 `json:"certainty"`
	// Sure is set where that is enough to take the reading without being asked (common practice, no source).
	Sure bool `json:"sure"`
	// Others are the labels of controls that would fit nearly as well.
	Others []string `json:"others"`
}

// Unmatched is a piece of the notes that fits no control.
type Unmatched struct {
	Line int    `json:"line"`
	Text string `json:"text"`
	Why  string `json:"why"`
}

// Result is what was found.
type Result struct {
	Guesses   []Guess     `json:"guesses"`
	Unmatched []Unmatched `json:"unmatched"`
}

// MaxNotes is the longest text that is read, in bytes.
const MaxNotes = 64 << 10

// synonyms are words that mean the same on panels and in notes; common practice, no source.
var synonyms = map[string]string{
	"osc": "oscillator", "oscs": "oscillator", "vco": "oscillator", "dco": "oscillator", "env": "envelope", "eg": "envelope", "filt": "filter", "flt": "filter", "vcf": "filter", "vca": "amplifier",
	"amp": "amplifier", "lvl": "level", "vol": "level", "volume": "level", "reso": "resonance", "res": "resonance", "freq": "cutoff", "frequency": "cutoff", "att": "attack", "atk": "attack", "dec": "decay",
	"sus": "sustain", "rel": "release", "amt": "amount", "dest": "destination", "oct": "octave", "pw": "width", "pulsewidth": "width", "wav": "wave", "waveform": "wave", "shape": "wave", "kbd": "key", "keyboard": "key",
	"track": "tracking", "emphasis": "resonance", "loudness": "amplifier", "det": "detune", "op": "operator", "porta": "glide", "portamento": "glide", "fx": "effect", "rev": "reverb", "verb": "reverb", "dly": "delay", "vel": "velocity", "mod": "modulation", "footage": "range",
	"tri": "triangle", "sqr": "square", "sin": "sine", "sawtooth": "saw", "semi": "semitones", "semis": "semitones", "fb": "feedback", "i": "1", "ii": "2", "iii": "3", "iv": "4", "v": "5", "vi": "6", "one": "1", "two": "2", "three": "3",
}

// noise are words that say nothing about which control is meant.
var noise = map[string]bool{"set": true, "to": true, "at": true, "is": true, "the": true, "of": true, "on": false, "a": true, "and": true, "page": true, "=": true, ":": true}

// Read finds readings in notes. Pieces are parted by lines, commas and semicolons, and where one reading is over and the next name begins ("A 0 D 52 S 20 R 30"). What names a module or a
// section ("osc 2:") holds for what comes after it, until another is named. A word that only one switch there has needs no name ("osc 1 saw 16'").
func Read(c *panel.Compiled, notes string) Result {
	out := Result{Guesses: []Guess{}, Unmatched: []Unmatched{}}
	if len(notes) > MaxNotes {
		notes = strings.ToValidUTF8(notes[:MaxNotes], "")
	}
	r := &reader{c: c, index: indexOf(c), context: map[string]bool{}}
	for n, line := range strings.Split(notes, "\n") {
		for _, piece := range strings.FieldsFunc(spelt(line), func(r rune) bool { return r == ',' || r == ';' || r == '|' || r == '\t' }) {
			if piece = strings.TrimSpace(piece); strings.Trim(piece, "-*•.: ") == "" {
				continue
			}
			all, why := r.piece(strings.TrimLeft(piece, "-*• "))
			if why != "" {
				out.Unmatched = append(out.Unmatched, Unmatched{Line: n + 1, Text: piece, Why: why})
				continue
			}
			for _, g := range all {
				g.Line = n + 1
				out.Guesses = append(out.Guesses, g)
			}
		}
	}
	return out
}

// reader reads the notes from their beginning.
type reader struct {
	c       *panel.Compiled
	index   []entry
	context map[string]bool // what was named last
	tries   int             // how often words have been parted otherwise
}

// mostTries is how often words are parted otherwise over all of the notes: some two seconds on the largest panel. What comes after is read as one reading a piece.
const mostTries = 6000

var (
	noteWords = regexp.MustCompile(`(?i)\b(dotted|triplet)?\s*\b(whole|half|quarter|eighth|sixteenth|8th|16th|4th)s?(?:\s+notes?)?(?:\s+(dotted|triplet)s?)?(?:\s+(?:at|@)\s*(\d+(?:\.\d+)?)(?:\s*bpm)?)?`)
	fourOf    = regexp.MustCompile(`(?i)\badsr\b\s*[=:]?\s*([\d.]+(?:\s*m?s)?)[\s/-]+([\d.]+(?:\s*m?s)?)[\s/-]+([\d.]+\s*%?)[\s/-]+([\d.]+(?:\s*m?s)?)`)
)

// spelt writes out what notes shorten: the stages of an envelope by their letters, note values by their names.
func spelt(line string) string {
	if len(line) > 2000 {
		return line
	}
	line = fourOf.ReplaceAllString(line, "attack $1, decay $2, sustain $3, release $4")
	line = stages(line)
	return noteWords.ReplaceAllStringFunc(line, func(s string) string {
		m := noteWords.FindStringSubmatch(s)
		value := map[string]string{"whole": "1/1", "half": "1/2", "quarter": "1/4", "4th": "1/4", "eighth": "1/8", "8th": "1/8", "sixteenth": "1/16", "16th": "1/16"}[strings.ToLower(m[2])]
		kind := strings.ToLower(m[1] + m[3])
		if strings.ToLower(m[2]) == "half" && kind == "" && m[4] == "" && !strings.Contains(strings.ToLower(s), "note") {
			return s // half of the travel
		}
		if m[4] == "" {
			return value + map[string]string{"dotted": ".", "triplet": "t"}[kind]
		}
		bpm, err := strconv.ParseFloat(m[4], 64)
		var num, den float64
		if _, e := fmt.Sscanf(value, "%f/%f", &num, &den); e != nil || err != nil || bpm < 1 || bpm > 1000 {
			return s
		}
		beats := 4 * num / den * map[string]float64{"dotted": 1.5, "triplet": 2. / 3, "": 1}[kind]
		return fmt.Sprintf("%.4g ms", 60000/bpm*beats)
	})
}

var stageAt = regexp.MustCompile(`(?i)^([adsr])[=:]?(-?~?\d.*)?$`)

// stages writes the letters of an envelope's stages out where at least two of them have a value: "A 0 D 52 S 20 R 30". A lone s behind a number is seconds.
func stages(line string) string {
	fields := strings.Fields(line)
	long := map[string]string{"a": "attack", "d": "decay", "s": "sustain", "r": "release"}
	isValue := func(w string) bool {
		w = strings.ToLower(strings.Trim(w, ",;"))
		return w != "" && (w[0] >= '0' && w[0] <= '9' || strings.ContainsRune("-~", rune(w[0])) && len(w) > 1 || w == "max" || w == "min" || w == "full" || w == "off" || w == "zero")
	}
	var out []string
	seen := map[string]bool{}
	for i, f := range fields {
		m := stageAt.FindStringSubmatch(f)
		if m == nil || m[2] == "" && (i+1 == len(fields) || !isValue(fields[i+1])) {
			out = append(out, f)
			continue
		}
		letter := strings.ToLower(m[1])
		seen[letter] = true
		out = append(out, ",", long[letter])
		if m[2] != "" {
			out = append(out, m[2])
		}
	}
	if len(seen) < 2 {
		return line
	}
	text := strings.Join(out, " ")
	if i := strings.Index(text, " ,"); i > 0 { // the part stays with its first stage
		text = text[:i] + text[i+2:]
	}
	return text
}

// longest is how many words of a piece are parted into several readings.
const longest = 24

// piece reads one piece: as one reading, as what names the part that the next ones are of, or as several readings one after the other.
func (r *reader) piece(piece string) ([]Guess, string) {
	if head, rest, ok := heading(piece); ok {
		if words := tokens(head); r.names(words) {
			if _, why := guess(r.c, r.index, piece, r.context); why != "" || strings.TrimSpace(rest) == "" {
				r.enter(words)
				if rest = strings.TrimSpace(rest); rest == "" {
					return nil, ""
				}
				return r.piece(rest)
			}
		}
	}
	if words := tokens(piece); r.names(words) { // "Osc 2" alone
		r.enter(words)
		return nil, ""
	}
	g, why := guess(r.c, r.index, piece, r.context)
	if why == "" {
		return []Guess{g}, ""
	}
	fields := strings.Fields(spaced(piece))
	if len(fields) > longest {
		return nil, why
	}
	// the part that it begins with, as in "osc 1 saw 16'"
	for n := min(3, len(fields)-1); n > 0; n-- {
		words := tokens(strings.Join(fields[:n], " "))
		if !r.names(words) {
			continue
		}
		before := maps.Clone(r.context)
		r.enter(words)
		if all, _ := r.several(fields[n:]); all != nil {
			return all, ""
		}
		r.context = before
	}
	if all, _ := r.several(fields); all != nil {
		return all, ""
	}
	if div.MatchString(piece) || strings.HasSuffix(piece, " ms") && len(fields) == 2 { // an echo's time, as a rule
		if g, w := guess(r.c, r.index, "delay time "+piece, map[string]bool{}); w == "" {
			g.Text, g.Certainty = piece, g.Certainty*0.8
			g.Sure = g.Certainty >= 0.6
			return []Guess{g}, ""
		}
	}
	return nil, why
}

var div = regexp.MustCompile(`^\d+/\d+[.t]?$`)

// heading parts "filter env: ..." into what stands before the colon and after it; the colon of a clock is none.
func heading(piece string) (head, rest string, ok bool) {
	for i, x := range piece {
		if x == ':' && !(i > 0 && i+1 < len(piece) && piece[i-1] >= '0' && piece[i-1] <= '9' && piece[i+1] >= '0' && piece[i+1] <= '9') {
			return piece[:i], piece[i+1:], true
		}
	}
	return "", "", false
}

// names tells whether all the words name a part that some control belongs to.
func (r *reader) names(words []string) bool {
	if len(words) == 0 {
		return false
	}
	for i := range r.index {
		all := true
		for _, w := range words {
			all = all && r.index[i].around[w]
		}
		if all {
			return true
		}
	}
	return false
}

// enter makes a part the one that what follows is of.
func (r *reader) enter(words []string) {
	r.context = map[string]bool{}
	for _, w := range words {
		r.context[w] = true
	}
}

// several parts words into readings one after the other; nil where that cannot be.
func (r *reader) several(fields []string) ([]Guess, float64) {
	if len(fields) == 0 {
		return []Guess{}, 0
	}
	var best []Guess
	top := 0.0
	for n := 1; n <= min(7, len(fields)); n++ {
		if r.tries++; r.tries > mostTries {
			return nil, 0
		}
		text := strings.Join(fields[:n], " ")
		context := maps.Clone(r.context)
		g, why := guess(r.c, r.index, text, context)
		if n == 1 || why != "" {
			if g, why = r.unnamed(text); why != "" {
				if g, why = r.silent(text); why != "" {
					continue
				}
			}
		}
		rest, score := r.several(fields[n:])
		if rest == nil {
			continue
		}
		// fewer, surer readings first
		if score += g.Certainty - 0.35; best == nil || score > top {
			best, top = append([]Guess{g}, rest...), score
		}
	}
	return best, top
}

// positions are other names of positions than those that are printed.
var positions = map[string][]string{"s&h": {"sample and hold", "random"}, "s/h": {"sample and hold", "random"}, "random": {"sample and hold", "smooth random"}, "ramp": {"saw"}, "lp": {"lowpass", "low-pass"}, "hp": {"highpass", "high-pass"}, "bp": {"bandpass", "band-pass"}, "square": {"pulse"}, "pulse": {"square"}}

// silent says that a part is not used: its switch or its level is set so.
func (r *reader) silent(text string) (Guess, string) {
	switch strings.ToLower(text) {
	case "off", "none", "out", "muted", "silent", "unused":
	default:
		return Guess{}, "says no silence"
	}
	for _, name := range []meaning.ParamName{meaning.POn, meaning.PLevel, meaning.PMix} {
		for i := range r.index {
			k := r.index[i].control
			c := &r.c.Controls[k]
			if len(c.Means) == 0 || !within(r.context, r.index[i].around) {
				continue
			}
			owner, is := meaning.Split(c.Means[0].Param)
			if _, module := r.c.ModuleIndex(owner); is != name || !module {
				continue
			}
			if at, err := r.c.Parse(k, "off"); err == nil {
				return Guess{Text: text, Control: c.ID, Label: c.Label, Section: r.c.SectionLabel(k), Reading: at.Reading, Certainty: 0.65, Sure: true, Others: []string{}}, ""
			}
		}
	}
	return Guess{}, "nothing of what was named can be silenced"
}

// unnamed takes a word that only one switch of the part that was named has for that switch's reading.
func (r *reader) unnamed(text string) (Guess, string) {
	found := -1
	var reading string
	for i := range r.index {
		k := r.index[i].control
		if len(r.context) == 0 || !within(r.context, r.index[i].around) || !r.c.Controls[k].Face.Discrete() {
			continue
		}
		for _, try := range append([]string{text, long(text)}, positions[strings.ToLower(text)]...) {
			for n := range r.c.Controls[k].Face.Len() {
				if e := r.c.Controls[k].Face.At(n).Reading; strings.EqualFold(e, try) && (found < 0 || found == k) {
					found, reading = k, e
				} else if strings.EqualFold(e, try) {
					return Guess{}, "several switches have this position"
				}
			}
		}
	}
	if found < 0 {
		return Guess{}, "no switch of what was named has this position"
	}
	c := r.c.Controls[found]
	return Guess{Text: text, Control: c.ID, Label: c.Label, Section: r.c.SectionLabel(found), Reading: reading, Certainty: 0.7, Sure: true, Others: []string{}}, ""
}

// long is the long form of a short word.
func long(text string) string {
	if l, ok := synonyms[strings.ToLower(strings.TrimSpace(text))]; ok {
		return l
	}
	return text
}

// entry is a control with the words of its names.
type entry struct {
	control int
	own     []map[string]bool // the label and each alias
	around  map[string]bool   // section, modules and kinds of what it sets
}

func indexOf(c *panel.Compiled) []entry {
	out := make([]entry, len(c.Controls))
	for i := range c.Controls {
		k := &c.Controls[i]
		e := entry{control: i, around: map[string]bool{}}
		for _, name := range append([]string{k.Label}, k.Aliases...) {
			e.own = append(e.own, set(tokens(name)))
		}
		texts := []string{c.SectionLabel(i)}
		for j := range k.Means {
			owner, _ := meaning.Split(k.Means[j].Param)
			if m, ok := c.ModuleIndex(owner); ok {
				texts = append(texts, c.Modules[m].Label)
				if c.Modules[m].Kind == meaning.Env {
					texts = append(texts, movedBy(c, owner)...)
				}
			}
		}
		for _, t := range texts {
			for _, w := range tokens(t) {
				e.around[w] = true
			}
		}
		out[i] = e
	}
	return out
}

// movedBy names what an envelope moves: the filter's, the amplifier's.
func movedBy(c *panel.Compiled, id string) []string {
	var out []string
	for _, r := range c.Routes {
		if r.From != id {
			continue
		}
		for _, to := range r.To {
			owner, _ := meaning.Split(to)
			if m, ok := c.ModuleIndex(owner); ok && (c.Modules[m].Kind == meaning.Filter || c.Modules[m].Kind == meaning.Amp) {
				out = append(out, string(c.Modules[m].Kind))
			}
		}
	}
	return out
}

func set(words []string) map[string]bool {
	m := map[string]bool{}
	for _, w := range words {
		m[w] = true
	}
	return m
}

// tokens splits a text into folded words; figures stand apart from letters ("LFO1" is "lfo 1").
func tokens(text string) []string {
	var out []string
	var b strings.Builder
	flush := func() {
		if b.Len() == 0 {
			return
		}
		w := b.String()
		b.Reset()
		if s, ok := synonyms[w]; ok {
			w = s
		}
		if !noise[w] {
			out = append(out, w)
		}
	}
	var last rune
	for _, r := range strings.ToLower(text) {
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			if b.Len() > 0 && unicode.IsDigit(r) != unicode.IsDigit(last) {
				flush()
			}
			b.WriteRune(r)
		default:
			flush()
		}
		last = r
	}
	flush()
	return out
}

// match is a control that a piece may mean, with the reading that is left of it.
type match struct {
	control int
	reading string
	score   float64
	named   bool // the piece itself named the surroundings
}

// guess reads one piece: every way to part it into a name and a reading is tried.
func guess(c *panel.Compiled, index []entry, piece string, context map[string]bool) (Guess, string) {
	fields := strings.Fields(spaced(piece))
	best := map[int]match{}
	refused := ""
	for cut := 1; cut < len(fields); cut++ {
		name := tokens(strings.Join(fields[:cut], " "))
		text := strings.TrimLeft(strings.Join(fields[cut:], " "), "=: ")
		if len(name) == 0 || text == "" {
			continue
		}
		for i := range index {
			score, named := fits(&index[i], name, context)
			if score <= 0 {
				continue
			}
			if raw := strings.Join(fields[:cut], " "); strings.EqualFold(raw, c.Controls[index[i].control].Label) {
				score += 0.12 // its very label, not a word that means the same
			}
			at, err := c.Parse(index[i].control, reading(c, index[i].control, text))
			if err != nil {
				if score > 0.6 && refused == "" || score > 0.8 {
					refused = c.Controls[index[i].control].Label + ": " + err.Error()
				}
				continue
			}
			if m, ok := best[i]; !ok || score > m.score {
				best[i] = match{index[i].control, at.Reading, score, named}
			}
		}
	}
	if len(best) == 0 {
		if refused != "" {
			return Guess{}, refused
		}
		return Guess{}, "no control of " + c.Name + " is called so"
	}
	list := make([]match, 0, len(best))
	for _, m := range best {
		list = append(list, m)
	}
	sort.Slice(list, func(a, b int) bool {
		if list[a].score != list[b].score {
			return list[a].score > list[b].score
		}
		return list[a].control < list[b].control
	})
	top := list[0]
	g := Guess{Text: piece, Control: c.Controls[top.control].ID, Label: c.Controls[top.control].Label, Section: c.SectionLabel(top.control), Reading: top.reading, Certainty: top.score, Others: []string{}}
	for _, m := range list[1:] {
		if m.score > top.score-0.1 {
			g.Others = append(g.Others, c.SectionLabel(m.control)+" "+c.Controls[m.control].Label)
		}
	}
	g.Certainty = min(1, g.Certainty) / float64(1+len(g.Others))
	g.Sure = g.Certainty >= 0.6
	if len(g.Others) > 5 {
		g.Others = g.Others[:5]
	}
	if top.named || len(context) == 0 {
		clear(context)
		for w := range index[top.control].around {
			context[w] = true
		}
	}
	return g, ""
}

// spaced sets "=" and ":" apart, but not the colon of a clock position.
func spaced(s string) string {
	var b strings.Builder
	r := []rune(s)
	for i, x := range r {
		if x == '=' || x == ':' && !(i > 0 && i+1 < len(r) && unicode.IsDigit(r[i-1]) && unicode.IsDigit(r[i+1])) {
			b.WriteRune(' ')
			continue
		}
		b.WriteRune(x)
	}
	return b.String()
}

// reading tries a word of the notes by its long form where the control has a list.
func reading(c *panel.Compiled, control int, text string) string {
	if _, err := c.Parse(control, text); err == nil {
		return text
	}
	if long, ok := synonyms[strings.ToLower(strings.TrimSpace(text))]; ok {
		return long
	}
	return text
}

// fits gives how well a name fits a control, 0 to 1: all words of one of its names must be
// there, every other word must be of its surroundings.
func fits(e *entry, name []string, context map[string]bool) (score float64, named bool) {
	for n, own := range e.own {
		used, stray, around := 0, 0, 0
		for _, w := range name {
			switch {
			case own[w]:
				used++
			case e.around[w]:
				around++
			default:
				stray++
			}
		}
		short := used == len(own)-1 && own["amount"] // "env 30" is its amount
		if used == 0 || stray > 0 || used < len(own) && !short {
			continue
		}
		s := 0.7
		if short {
			s = 0.6
		}
		if n > 0 {
			s -= 0.05 // an alias, not the label
		}
		if around > 0 {
			s += 0.3
			named = true
		} else if len(context) > 0 && (within(e.around, context) || within(context, e.around)) {
			s += 0.15
		}
		score = max(score, s)
	}
	return score, named
}

func within(words, context map[string]bool) bool {
	for w := range words {
		if !context[w] {
			return false
		}
	}
	return true
}
