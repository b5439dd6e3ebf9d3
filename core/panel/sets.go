package panel

import (
	"slices"
	"sort"
	"strings"
	"sync"
	"unicode"

	"glossator/core/fault"
	"glossator/core/meaning"
)

// Sets is something that a control may set, in the trade's words.
type Sets struct {
	// Param and Part are what a binding names: "osc1.interval", "fine".
	Param string `json:"param"`
	Part  string `json:"part,omitempty"`
	// Label is what the trade calls it: "fine tune of oscillator 1".
	Label string `json:"label"`
	// Taken is how many controls set it already.
	Taken int `json:"taken,omitempty"`

	rare   bool // how a route is switched and bent, not how far it goes
	weight float64
	module string   // whose it is
	names  []string // the words of its own name, lower case
	others []string // other words that it is found by
	whose  []string // the words of what it belongs to
}

// sums are what several controls may add to a pitch.
var sums = []struct{ part, label, words string }{
	{"octave", "octave", "range footage feet register coarse transpose"},
	{"semi", "semitones", "coarse interval transpose tune pitch semi note"},
	{"fine", "fine tune", "detune detuning cents tuning pitch frequency"},
}

// named is what the trade calls a parameter where the vocabulary's word says less, and byWords what else it is looked for by (common practice, no source).
var (
	named = map[meaning.ParamName]string{
		meaning.PInterval: "pitch", meaning.PCutoff: "cutoff", meaning.PTrack: "key tracking", meaning.PFM: "frequency modulation", meaning.PTo: "which filter it goes to",
		meaning.PFrame: "table position", meaning.PKey: "key follow", meaning.POn: "switch", meaning.PMode: "mode", meaning.PT60: "decay time",
	}
	byWords = map[meaning.ParamName]string{
		meaning.PInterval: "frequency", meaning.PCutoff: "frequency freq brightness filter colour tone", meaning.PResonance: "res reso q emphasis peak feedback", meaning.PTrack: "keyboard kbd follow keyfollow tracking",
		meaning.PWave: "waveform shape wf", meaning.PWidth: "pulse pw pwm symmetry duty", meaning.PLevel: "volume vol gain mix output", meaning.PSync: "hard", meaning.PFM: "fm cross mod xmod",
		meaning.PAttack: "a att rise", meaning.PDecay: "d dec fall", meaning.PSustain: "s sus", meaning.PRelease: "r rel", meaning.PRate: "speed frequency freq", meaning.PDelay: "onset wait time",
		meaning.PFade: "fade in", meaning.PDepth: "amount amt mod intensity level", meaning.PAmount: "depth amt", meaning.PGlide: "portamento porta slide lag", meaning.PUnison: "stack", meaning.PSpread: "detune",
		meaning.PTune: "master fine pitch", meaning.PTranspose: "octave semitones", meaning.PBend: "pitch wheel range", meaning.PMode: "type", meaning.PPoles: "slope db", meaning.PDrive: "overdrive saturation distortion",
		meaning.PMix: "wet dry amount balance level effect", meaning.PTime: "length ms", meaning.PFeedback: "regeneration repeats", meaning.PT60: "time length reverb", meaning.PTone: "high cut treble damp", meaning.POn: "on off enable",
		meaning.PFrame: "wavetable index wave", meaning.PFreq: "hz", meaning.PGain: "amount boost", meaning.PVelocity: "touch", meaning.PColour: "type", meaning.PPan: "panorama balance", meaning.PPredelay: "delay",
		meaning.PCount: "polyphony voices", meaning.PTrigger: "retrigger legato", meaning.PLowcut: "bass highpass", meaning.PCentre: "frequency manual", meaning.PDamping: "high damp",
	}
)

// entry is a parameter of a kind of module with the words that it is found by.
type entry struct {
	name          meaning.ParamName
	part, label   string
	names, others []string
	weight        float64 // how much it matters in its module
}

// entries has the parameters of each kind: a pitch three times more, by what controls may add to it.
var entries = sync.OnceValue(func() map[meaning.Kind][]entry {
	out := map[meaning.Kind][]entry{}
	for i := range meaning.Kinds {
		k := &meaning.Kinds[i]
		if k.Kind == meaning.RouteKind {
			continue
		}
		add := func(name meaning.ParamName, part, label, others string) {
			x, _ := k.Param(name)
			e := entry{name, part, label, wordsOf(label), wordsOf(others + " " + byWords[name]), x.Weight}
			if part == "fine" {
				e.names = append(e.names, "detune")
			}
			out[k.Kind] = append(out[k.Kind], e)
		}
		for _, x := range k.Params {
			label, others := x.Label, x.Label
			if n, ok := named[x.Name]; ok {
				label = n
			}
			if x.Name == meaning.PInterval {
				for _, s := range sums {
					add(x.Name, s.part, s.label, s.words)
				}
				others += " tune tuning coarse"
				if k.Kind == meaning.Operator {
					label = "ratio"
				}
			}
			add(x.Name, "", label, others)
		}
	}
	for _, n := range slices.Concat(routeParams, slotParams) {
		label := map[meaning.ParamName]string{meaning.PDepth: "amount", meaning.POn: "switch", meaning.PAmount: "amount", meaning.PSource: "source", meaning.PDest: "destination", meaning.PScaler: "scaling"}[n]
		if label == "" {
			label = string(n)
		}
		if !slices.ContainsFunc(out[meaning.RouteKind], func(e entry) bool { return e.name == n }) {
			out[meaning.RouteKind] = append(out[meaning.RouteKind], entry{n, "", label, wordsOf(label), wordsOf("modulation " + byWords[n]), 0.5})
		}
	}
	return out
})

// AllSets lists what controls of the panel may set, by module in the panel's order, then routes and free slots. The panel need not be without faults.
func (p *Panel) AllSets() []Sets {
	taken := map[[2]string]int{}
	for i := range p.Controls {
		for _, b := range p.Controls[i].Means {
			taken[[2]string{b.Param, b.Part}]++
		}
	}
	var out []Sets
	seen := map[string]bool{} // a draft may hold an id twice
	add := func(owner, label string, kind meaning.Kind, only []meaning.ParamName) {
		if seen[owner] {
			return
		}
		seen[owner] = true
		whose := wordsOf(label + " " + owner + " " + string(kind))
		if k := meaning.SpecOf(kind); k != nil {
			whose = append(whose, wordsOf(k.Label)...)
		}
		label = LowerFirst(label)
		for i := range entries()[kind] {
			e := &entries()[kind][i]
			if only != nil && !slices.Contains(only, e.name) {
				continue
			}
			s := Sets{Param: meaning.Ref(owner, e.name), Part: e.part, Label: e.label + " of " + label, weight: e.weight, module: owner, names: e.names, others: e.others, whose: whose}
			s.Taken = taken[[2]string{s.Param, e.part}]
			s.rare = kind == meaning.RouteKind && (e.name == meaning.POn || e.name == meaning.PCurve || e.name == meaning.PPolarity)
			out = append(out, s)
		}
	}
	for _, m := range p.Modules {
		spec := meaning.SpecOf(m.Kind)
		if spec == nil || m.Kind == meaning.RouteKind {
			continue
		}
		whose := m.Label
		if strings.TrimSpace(whose) == "" {
			whose = spec.Label
		}
		add(m.ID, whose, m.Kind, nil)
	}
	for _, r := range p.Routes {
		add(r.ID, r.Label, meaning.RouteKind, routeParams)
	}
	if p.Matrix != nil {
		for _, s := range p.Matrix.Slots {
			add(s.ID, s.Label, meaning.RouteKind, slotParams)
		}
	}
	return out
}

// LowerFirst writes a label within a sentence: "Oscillator 1" is "oscillator 1", "LFO" stays.
func LowerFirst(s string) string {
	r := []rune(s)
	if len(r) > 1 && unicode.IsUpper(r[0]) && unicode.IsLower(r[1]) {
		r[0] = unicode.ToLower(r[0])
	}
	return string(r)
}

// wordsOf parts a text into its words, in lower case; figures are words of their own: "osc1" is "osc" and "1".
func wordsOf(text string) []string {
	var out []string
	var word []rune
	flush := func() {
		if w := string(word); w != "" && w != "of" && w != "the" && w != "to" {
			out = append(out, w)
		}
		word = word[:0]
	}
	for _, r := range strings.ToLower(text) {
		switch {
		case !unicode.IsLetter(r) && !unicode.IsDigit(r):
			flush()
		case len(word) > 0 && unicode.IsDigit(r) != unicode.IsDigit(word[len(word)-1]):
			flush()
			word = append(word, r)
		default:
			word = append(word, r)
		}
	}
	flush()
	return out
}

// fits tells how well a word that is looked for fits a word that is there: 1 whole, less where only its beginning is typed, 0 not at all.
func fits(want, have string) float64 {
	switch {
	case want == have:
		return 1
	case unicode.IsDigit(rune(want[0])): // 1 is not 12
		return 0
	case strings.HasPrefix(have, want):
		return 0.5 + 0.3*float64(len(want))/float64(len(have))
	case len(have) > 3 && strings.HasPrefix(want, have) && len(want)-len(have) <= 3: // levels, tuning
		return 0.5
	}
	return 0
}

func best(want string, have []string) float64 {
	top := 0.0
	for _, h := range have {
		top = max(top, fits(want, h))
	}
	return top
}

// FindSets looks for what a control may set by words: the beginnings of the trade's words for it and of what it is part of ("det", "osc 2 fine"), best
// first. What belongs to the modules that the section's controls set comes before the rest, and what no control sets before what one does. A text that is the label of a setting, or names its
// parameter ("osc1.width"), finds that alone. With some set, words that fit nothing are passed over: a control's own label is looked at so.
func (p *Panel) FindSets(text, section string, some bool) []Sets {
	all := p.AllSets()
	bare := strings.TrimSpace(text)
	for _, s := range all {
		if strings.EqualFold(s.Label, bare) || s.Param == bare && s.Part == "" || s.Part != "" && s.Param+" "+s.Part == bare {
			return []Sets{s}
		}
	}
	want := wordsOf(text)
	here := p.ModulesOf(section)
	type found struct {
		s     Sets
		score float64
	}
	var hits []found
	for _, s := range all {
		score, missed, own := 0.0, 0, false
		for _, w := range want {
			a, b, c := 4*best(w, s.names), 2.8*best(w, s.others), 2*best(w, s.whose)
			top := max(a, b, c)
			if top == 0 {
				missed++
				continue
			}
			own = own || max(a, b) >= c
			score += top
		}
		if missed > 0 && (!some || missed == len(want)) || len(want) > 0 && some && !own {
			continue
		}
		score += 2*s.weight - float64(missed) - 0.3*float64(len(s.names))
		if here[s.module] {
			score += 2.5
		}
		if s.Taken > 0 {
			score -= 0.05
		}
		if s.rare {
			score -= 0.5
		}
		hits = append(hits, found{s, score})
	}
	sort.SliceStable(hits, func(a, b int) bool { return hits[a].score > hits[b].score })
	out := make([]Sets, len(hits))
	for i, h := range hits {
		out[i] = h.s
	}
	return out
}

// ModulesOf lists the modules that a section is about: those which its controls set or, where it has none, whose name it bears.
func (p *Panel) ModulesOf(section string) map[string]bool {
	out := map[string]bool{}
	for i := range p.Controls {
		if p.Controls[i].Section != section {
			continue
		}
		for _, b := range p.Controls[i].Means {
			owner, _ := meaning.Split(b.Param)
			out[owner] = true
			for _, r := range p.Routes {
				if r.ID == owner && len(r.To) > 0 {
					m, _ := meaning.Split(r.To[0])
					out[m] = out[m] || m != "voice" && m != "amp"
				}
			}
		}
	}
	if len(out) > 0 {
		return out
	}
	i := slices.IndexFunc(p.Sections, func(s Section) bool { return s.ID == section })
	for _, m := range p.Modules {
		if i >= 0 && (m.ID == section || strings.EqualFold(m.Label, p.Sections[i].Label)) {
			out[m.ID] = true
		}
	}
	return out
}

// Lookup gives the vocabulary's entry for a parameter of a panel that may have faults, and the kind of module that it belongs to.
func (p *Panel) Lookup(ref string) (meaning.Param, meaning.Kind, error) {
	c := &Compiled{Panel: p, control: map[string]int{}, module: map[string]int{}, route: map[string]int{}, slot: map[string]int{}, dest: map[string]int{}, point: map[string]int{},
		stepOf: map[string]meaning.Step{}, sectionN: map[string]string{}}
	var l fault.List
	c.names(&l)
	x, err := c.Param(ref)
	owner, _ := meaning.Split(ref)
	kind := meaning.RouteKind
	if i, ok := c.module[owner]; ok {
		kind = p.Modules[i].Kind
	}
	return x, kind, err
}

// SetsOf finds a setting by what a binding names.
func (p *Panel) SetsOf(param, part string) (Sets, bool) {
	for _, s := range p.AllSets() {
		if s.Param == param && s.Part == part {
			return s, true
		}
	}
	return Sets{}, false
}
