// Package paste reads free notes, such as "Osc 2 level ~ 3/4" or "cutoff 61, reso 20", as readings
// of a panel's controls.
//
// It guesses and says how sure it is; nothing is taken without the user's word. Neighbours: panel
// knows the controls and reads what is after the name.
package paste

import (
	"sort"
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
	"track": "tracking", "det": "detune", "op": "operator", "porta": "glide", "portamento": "glide", "fx": "effect", "rev": "reverb", "verb": "reverb", "dly": "delay", "vel": "velocity", "mod": "modulation", "footage": "range",
	"tri": "triangle", "sqr": "square", "sin": "sine", "sawtooth": "saw", "semi": "semitones", "semis": "semitones", "fb": "feedback", "i": "1", "ii": "2", "iii": "3", "iv": "4", "v": "5", "vi": "6", "one": "1", "two": "2", "three": "3",
}

// noise are words that say nothing about which control is meant.
var noise = map[string]bool{"set": true, "to": true, "at": true, "is": true, "the": true, "of": true, "on": false, "a": true, "and": true, "page": true, "=": true, ":": true}

// Read finds readings in notes. Pieces are parted by lines, commas and semicolons; a piece
// that names no section of its own belongs to the section of the piece before on its line.
func Read(c *panel.Compiled, notes string) Result {
	out := Result{Guesses: []Guess{}, Unmatched: []Unmatched{}}
	if len(notes) > MaxNotes {
		notes = strings.ToValidUTF8(notes[:MaxNotes], "")
	}
	index := indexOf(c)
	for n, line := range strings.Split(notes, "\n") {
		context := map[string]bool{}
		for _, piece := range strings.FieldsFunc(line, func(r rune) bool { return r == ',' || r == ';' || r == '|' || r == '\t' }) {
			if piece = strings.TrimSpace(piece); piece == "" {
				continue
			}
			g, why := guess(c, index, piece, context)
			if why != "" {
				out.Unmatched = append(out.Unmatched, Unmatched{Line: n + 1, Text: piece, Why: why})
				continue
			}
			g.Line = n + 1
			out.Guesses = append(out.Guesses, g)
		}
	}
	return out
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
			at, err := c.Parse(index[i].control, reading(c, index[i].control, text))
			if err != nil {
				if score > 0.8 {
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
		return Guess{}, "no control of " + c.Name + " has this name with such a reading"
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
	g.Certainty /= float64(1 + len(g.Others))
	g.Sure = g.Certainty >= 0.6
	if len(g.Others) > 5 {
		g.Others = g.Others[:5]
	}
	clear(context)
	for w := range index[top.control].around {
		context[w] = true
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
		if used == 0 || stray > 0 || used < len(own) {
			continue
		}
		s := 0.7
		if n > 0 {
			s = 0.65 // an alias, not the label
		}
		if around > 0 {
			s += 0.3
			named = true
		} else if len(context) > 0 && within(e.around, context) {
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
