package panel

import (
	"cmp"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"glossator/core/fault"
	"glossator/core/meaning"
	"glossator/core/scale"
)

// mostTold is how many modules and routes a panel may have whose faults are told by name; a tenth of it is how many faults are told.
const mostTold = 2500

// Told gives the faults of a panel in sentences (Words): "Cutoff does not say what it sets yet". They name parts by their labels, and no word of the file's form.
func (p *Panel) Told(l fault.List) fault.List {
	labels := map[string]string{}
	if len(l) > 0 && len(p.Modules)+len(p.Routes) <= mostTold {
		for _, s := range p.AllSets() {
			if s.Part == "" {
				labels[s.Param] = s.Label
			}
		}
	}
	out := make(fault.List, len(l))
	for i, f := range l {
		if i < mostTold/10 {
			f.Words = p.told(f, labels)
		}
		out[i] = f
	}
	return out
}

// formWords are words of the file's form that say nothing to whoever turns knobs.
var formWords = regexp.MustCompile(`(?i)\bnull\b|\bjson\b|schema|minItems|maxItems|additionalProp|\benum\b|\bconst\b|\bminimum:|\bmaximum:|\bpattern\b|'/|"/|/(controls|modules|routes|audio|matrix|points|sections|means|law|face)\b|\bMODULE\b|\bSLOT\b|\bROUTE\b|\bobject\b|\barray\b|\bstring\b|\bboolean\b|\bid\b`)

// plainly gives a message as it is or, where it speaks of the file's form, what is said instead.
func plainly(message, instead string) string {
	if message == "" || formWords.MatchString(message) {
		return instead
	}
	return message
}

func (p *Panel) told(f fault.Fault, labels map[string]string) string {
	path := strings.Split(strings.TrimPrefix(f.Path, "/"), "/")
	for i := range path {
		path[i] = strings.NewReplacer("~1", "/", "~0", "~").Replace(path[i])
	}
	at := func(i int) string {
		if i < len(path) {
			return path[i]
		}
		return ""
	}
	n, _ := strconv.Atoi(at(1))
	switch at(0) {
	case "controls":
		if at(1) == "" || n >= len(p.Controls) {
			return "The panel has no control yet: put in a block, or write one into the table."
		}
		return sentence(p.toldControl(&p.Controls[n], path[2:], f.Message, labels))
	case "modules":
		if at(1) == "" || n >= len(p.Modules) {
			return "The panel has nothing that sounds or moves yet: put in a block."
		}
		m := &p.Modules[n]
		who := called(m.Label, "a module without a label")
		switch at(2) {
		case "id":
			return sentence(who, "has the same short name as another part: give it another one")
		case "kind":
			return sentence(who, "does not say what it is: an oscillator, a filter, an envelope")
		case "label":
			return sentence(called(m.ID, "a module"), unlabelled(m.Label, f.Message))
		case "fixed":
			return sentence(who, "has a fixed property that is none of its kind, or not written as one: "+at(3)+" "+quoted(m.Fixed[meaning.ParamName(at(3))]))
		case "pivot":
			return sentence(who, "follows the keys from a note that is none: "+quoted(m.Pivot)+"; write one such as C4")
		case "when":
			return sentence(who, "is there only while a control stands somewhere, and "+p.toldWhen(m.When, path[2:], f.Message))
		case "quiet":
			return sentence(who, "is said to be quiet by a control or a reading that is not here: "+at(3))
		}
		return sentence(who, "is not described in full: "+plainly(f.Message, "something of it is missing"))
	case "routes":
		if n >= len(p.Routes) {
			return "There is a route too many."
		}
		r := &p.Routes[n]
		who := "The route " + called(r.Label, "without a label")
		if at(2) == "label" {
			return sentence("The route "+r.ID, unlabelled(r.Label, f.Message))
		}
		switch at(2) {
		case "id":
			return sentence(who, "has the same short name as another part: give it another one")
		case "from":
			return sentence(who, "comes from nothing that is here "+quoted(r.From))
		case "via":
			return sentence(who, "is scaled by nothing that is here "+quoted(r.Via))
		case "to":
			if len(r.To) == 0 {
				return sentence(who, "does not say where it goes yet")
			}
			k, _ := strconv.Atoi(at(3))
			return sentence(who, "goes to something that is not here "+quoted(r.To[min(k, len(r.To)-1)]))
		case "depth":
			if r.Depth == "" {
				return sentence(who, "does not say how far it goes: fix that, or let a control set it")
			}
			return sentence(who, "goes "+r.Depth+" far, which is no depth for where it goes: write one such as 2 oct, 50 % or 100 ct")
		case "normal":
			return sentence(who, "is broken by a patch point that is not here "+quoted(r.Normal))
		case "when":
			return sentence(who, "is there only while a control stands somewhere, and "+p.toldWhen(r.When, path[2:], f.Message))
		}
		return sentence(who, "is not described in full: "+plainly(f.Message, "something of it is missing"))
	case "audio":
		if at(1) == "" || n >= len(p.Audio) {
			return "The signal path is not described."
		}
		e := &p.Audio[n]
		who := "The connection from " + p.moduleLabel(e.From) + " to " + p.moduleLabel(e.To)
		switch at(2) {
		case "from":
			return sentence(who, "comes from nothing that is here")
		case "to":
			return sentence(who, "goes to nothing that is here")
		case "when":
			return sentence(who, "is there only while a control stands somewhere, and "+p.toldWhen(e.When, path[2:], f.Message))
		}
		return sentence(who, "leads back to where it came from: only a feedback path may do that")
	case "sections":
		if at(1) == "" || n >= len(p.Sections) {
			return "The panel has no section yet."
		}
		who := "The section " + called(p.Sections[n].Label, "without a label")
		switch at(2) {
		case "id":
			return sentence(who, "has the same short name as another one")
		case "step":
			return sentence(who, "does not say at which step of the work it is set")
		}
		return sentence("The section "+p.Sections[n].ID, unlabelled(p.Sections[n].Label, f.Message))
	case "matrix":
		return p.toldMatrix(path[1:], f.Message)
	case "points":
		if n >= len(p.Points) {
			return "There is a patch point too many."
		}
		x := &p.Points[n]
		who := "The patch point " + called(x.Label, "without a label")
		switch at(2) {
		case "id":
			return sentence(who, "has the same short name as another one")
		case "label":
			return sentence("The patch point "+x.ID, unlabelled(x.Label, f.Message))
		case "of":
			return sentence(who, "gives nothing that is here "+quoted(x.Of))
		case "to":
			return sentence(who, "moves nothing that is here "+quoted(strings.Join(x.To, ", ")))
		case "full":
			return sentence(who, "does not say how far a full signal moves it: write that as 5 oct, 100 % or 24 st")
		case "dir":
			return sentence(who, "is neither an input nor an output")
		}
		return sentence(who, "is not described in full")
	case "name":
		if strings.TrimSpace(p.Name) != "" {
			return sentence("The panel", "has a name that cannot be: "+plainly(f.Message, "write it in ordinary letters"))
		}
		return "The panel has no name yet."
	case "dump":
		return sentence("The dump", "is not described in full: "+plainly(f.Message, "it needs its header and its length"))
	case "kind":
		return "The panel is neither an instrument nor a rack of outboard."
	case "summary":
		return "What the panel is takes too many words: 2000 letters are the most."
	case "format", "version", "revision":
		return "This is no panel that this program reads."
	case "hidden":
		return "A note on what the panel does not show is not written in full."
	}
	return plainly(f.Message, "The panel is not described in full.")
}

// toldControl says what is wrong with a control.
func (p *Panel) toldControl(c *Control, path []string, message string, labels map[string]string) (who, what string) {
	who = called(c.Label, "a control without a label")
	at := func(i int) string {
		if i < len(path) {
			return path[i]
		}
		return ""
	}
	switch at(0) {
	case "id":
		return who, "has the same short name as another control: give it another one"
	case "label":
		return called(c.ID, "a control"), unlabelled(c.Label, message)
	case "section":
		return who, "stands in a section that is not here " + quoted(c.Section)
	case "face":
		return who, "is printed in a way that cannot be: " + plainly(message, "write what stands beside it, as in 0 to 10, clock, or saw / pulse")
	case "init":
		return who, "cannot stand at its init " + quoted(c.Init) + "; it takes " + c.Face.Expects()
	case "midi":
		return who, "has an address that cannot be: " + plainly(message, "it is another control's, or beyond what MIDI has")
	case "aliases":
		return who, "has other names that cannot be: " + plainly(message, "write each once, without an empty one")
	case "means":
		j, _ := strconv.Atoi(at(1))
		if j >= len(c.Means) {
			return who, "does not say what it sets yet"
		}
		b := &c.Means[j]
		label, known := labels[b.Param]
		switch {
		case strings.TrimSpace(b.Param) == "":
			return who, "does not say what it sets yet"
		case at(2) == "param" || !known:
			return who, "sets something that is not here " + quoted(b.Param) + ": choose what it sets, or put in the block that it belongs to"
		case at(2) == "part":
			return who, "adds only a part to the " + label + ", which is no sum"
		case at(2) == "when":
			return who, "sets the " + label + " only while a control stands somewhere, and " + p.toldWhen(b.When, path[2:], message)
		case at(2) == "law" && at(3) == "unit":
			return who, fmt.Sprintf("sets the %s, which is not counted in %s", label, called(b.Law.Unit, "a unit that is known"))
		case at(2) == "law" && at(3) == "uncertainty":
			return who, "is known by measuring, but not how well: give the uncertainty of that"
		case at(2) == "law" && at(3) == "values":
			return who, "does not say for each of its positions what the " + label + " is there"
		case at(2) == "law":
			return who, "has a law for the " + label + " that cannot be: " + plainly(message, "it needs its ends, its points or its values")
		}
		return who, "does not say in full how it sets the " + label
	}
	return who, "is not described in full: " + plainly(message, "something of it is missing")
}

// toldWhen says what is wrong with a condition.
func (p *Panel) toldWhen(ws []When, path []string, message string) string {
	for i, part := range path {
		if part != "when" || i+1 >= len(path) {
			continue
		}
		k, _ := strconv.Atoi(path[i+1])
		if k >= len(ws) {
			break
		}
		w := &ws[k]
		for _, c := range p.Controls {
			if c.ID != w.Control {
				continue
			}
			if !c.Face.Discrete() {
				return c.Label + " has no positions that could be named"
			}
			return c.Label + " takes " + c.Face.Expects()
		}
		return "that control is not here " + quoted(w.Control)
	}
	return plainly(message, "that is not written in full")
}

func (p *Panel) toldMatrix(path []string, message string) string {
	at := func(i int) string {
		if i < len(path) {
			return path[i]
		}
		return ""
	}
	n, _ := strconv.Atoi(at(1))
	switch at(0) {
	case "slots":
		if at(1) == "" || p.Matrix == nil || n >= len(p.Matrix.Slots) {
			return "The matrix has no slots yet."
		}
		s := &p.Matrix.Slots[n]
		who := called(s.Label, "a slot without a label")
		switch at(2) {
		case "id":
			return sentence(who, "has the same short name as another part: give it another one")
		case "label":
			return sentence(s.ID, unlabelled(s.Label, message))
		case "source":
			return sentence(who, "comes from nothing that is here "+quoted(s.Source))
		case "via":
			return sentence(who, "is scaled by nothing that is here "+quoted(s.Via))
		case "dest":
			return sentence(who, "goes to nothing that slots can move "+quoted(s.Dest))
		case "when":
			return sentence(who, "is there only while a control stands somewhere, and "+p.toldWhen(s.When, path[1:], message))
		}
	case "destinations":
		if at(1) == "" || p.Matrix == nil || n >= len(p.Matrix.Destinations) {
			return "The matrix has nothing yet that its slots could move."
		}
		d := &p.Matrix.Destinations[n]
		who := "What slots call " + called(d.Name, "nothing")
		switch at(2) {
		case "name":
			return sentence(who, "needs a name that no other has")
		case "to":
			return sentence(who, "moves something that is not here "+quoted(strings.Join(d.To, ", ")))
		case "full":
			return sentence(who, "does not say how far 100 % moves it: write that as 5 oct, 100 % or 24 st")
		}
	case "sources":
		return sentence("What slots call "+called(at(1), "nothing"), "comes from nothing that is here")
	}
	return "The matrix is not described in full."
}

// moduleLabel is what a module is called; its short name where it is not here.
func (p *Panel) moduleLabel(id string) string {
	if id == "out" {
		return "the output"
	}
	for _, m := range p.Modules {
		if m.ID == id {
			return called(m.Label, id)
		}
	}
	return called(quoted(id), "nothing")
}

func called(label, otherwise string) string { return cmp.Or(strings.TrimSpace(label), otherwise) }

// quoted names a short name in brackets; nothing for an empty one.
func quoted(text string) string {
	if text = strings.TrimSpace(text); text == "" || formWords.MatchString(text) {
		return ""
	}
	return "(" + text + ")"
}

// unlabelled says what is wrong with a label: there is none, or it has what cannot be written.
func unlabelled(label, message string) string {
	if strings.TrimSpace(label) == "" {
		return "has no label yet"
	}
	return "has a label that cannot be: " + plainly(message, "write it in ordinary letters")
}

// sentence joins a subject and what is said of it.
func sentence(who, what string) string {
	s := []rune(strings.NewReplacer(" ;", ";", " :", ":").Replace(strings.Join(strings.Fields(who+" "+what), " ")))
	s[0] = unicode.ToUpper(s[0])
	return string(s) + "."
}

// Doubts tells what of a panel is likely to have been forgotten, in sentences; none of it stops the panel from working: equal connections, sound that leads nowhere, and parts that no control
// sets and no route moves.
func (p *Panel) Doubts() fault.List {
	var out fault.List
	seen := map[string]bool{}
	to, from := map[string]bool{}, map[string]bool{}
	for i, e := range p.Audio {
		key := e.From + ">" + e.To + ">" + WhenText(e.When)
		if seen[key] {
			out = append(out, fault.Fault{Path: fmt.Sprintf("/audio/%d", i), Message: "the same connection twice", Words: sentence(p.moduleLabel(e.From), "is connected to "+p.moduleLabel(e.To)+" twice")})
		}
		seen[key] = true
		from[e.From], to[e.To] = true, true
	}
	out = append(append(out, p.together()...), p.ratios()...)
	reached := map[string]bool{}
	for _, c := range p.Controls {
		for _, b := range c.Means {
			owner, _ := meaning.Split(b.Param)
			reached[owner] = true
		}
	}
	for _, r := range p.Routes {
		reached[r.From] = true
		for _, t := range r.To {
			owner, _ := meaning.Split(t)
			reached[owner] = true
		}
	}
	if p.Matrix != nil {
		for _, id := range p.Matrix.Sources {
			reached[id] = true
		}
		for _, d := range p.Matrix.Destinations {
			for _, t := range d.To {
				owner, _ := meaning.Split(t)
				reached[owner] = true
			}
		}
	}
	for _, x := range p.Points {
		reached[x.Of] = true
		for _, t := range x.To {
			owner, _ := meaning.Split(t)
			reached[owner] = true
		}
	}
	for i, m := range p.Modules {
		at := fmt.Sprintf("/modules/%d", i)
		sounds := m.Kind == meaning.Osc || m.Kind == meaning.Sub || m.Kind == meaning.Noise || m.Kind == meaning.Ring || m.Kind == meaning.Operator
		passes := sounds || m.Kind == meaning.Filter || m.Kind == meaning.Mixer || m.Kind == meaning.Amp || m.Kind == meaning.Feedback
		for _, k := range meaning.EffectKinds {
			passes = passes || m.Kind == k
		}
		switch {
		case sounds && !from[m.ID] && !reached[m.ID]:
			out = append(out, fault.Fault{Path: at, Message: "wired to nothing", Words: sentence(m.Label, "is wired to nothing and set by nothing")})
		case passes && !from[m.ID] && m.Kind != meaning.Send && !(sounds && p.modulates(m.ID)):
			out = append(out, fault.Fault{Path: at, Message: "wired to nothing", Words: sentence(m.Label, "is wired to nothing: what it makes is not heard")})
		case !sounds && passes && !to[m.ID] && p.Kind == "instrument":
			out = append(out, fault.Fault{Path: at, Message: "nothing comes in", Words: sentence(m.Label, "has nothing coming in")})
		case !reached[m.ID] && !passes && len(m.Fixed) == 0 && m.Kind != meaning.Voice:
			out = append(out, fault.Fault{Path: at, Message: "reached by nothing", Words: sentence(m.Label, "is set by no control and moved by no route")})
		case !reached[m.ID] && sounds && len(m.Fixed) == 0:
			out = append(out, fault.Fault{Path: at, Message: "reached by nothing", Words: sentence(m.Label, "is set by no control and moved by no route")})
		}
	}
	return out
}

// modulates tells whether a sound goes somewhere as a modulation.
func (p *Panel) modulates(id string) bool {
	for _, r := range p.Routes {
		if r.From == id {
			return true
		}
	}
	if p.Matrix != nil {
		for _, s := range p.Matrix.Sources {
			if s == id {
				return true
			}
		}
	}
	for _, x := range p.Points {
		if x.Of == id {
			return true
		}
	}
	return false
}

// ratios lists operators whose pitch has plain numbers from above nothing on it that are only assumed to be something else than ratios: instruments that were begun before such numbers
// were read as ratios are out of tune by it.
func (p *Panel) ratios() (out fault.List) {
	for i := range p.Controls {
		c := &p.Controls[i]
		for k := range c.Means {
			l := &c.Means[k].Law
			owner, name := meaning.Split(c.Means[k].Param)
			if name != meaning.PInterval || l.Kind != scale.Listed || l.Source != scale.Assumed || l.Unit != "ct" || !slices.ContainsFunc(p.Modules, func(m Module) bool { return m.ID == owner && m.Kind == meaning.Operator }) {
				continue
			}
			for n, reading := range c.Face.Entries {
				ratio, err := strconv.ParseFloat(reading, 64)
				if err != nil || ratio <= 0 || strings.HasPrefix(reading, "+") || n >= len(l.Values) {
					break
				}
				if cents, ok := l.Values[n].(float64); ok && math.Abs(cents-1200*math.Log2(ratio)) > 50 {
					out = append(out, fault.Fault{Path: fmt.Sprintf("/controls/%d/means/%d/law", i, k), Message: "plain numbers that are no ratios",
						Words: sentence(p.moduleLabel(owner)+", "+c.Label, fmt.Sprintf("is not tuned by ratios: %s is %g ct", reading, cents))})
					break
				}
			}
		}
	}
	return out
}

// together lists parameters that two controls set at once where they do not add: only the later one counts then.
func (p *Panel) together() (out fault.List) {
	type by struct {
		control int
		bind    *Bind
	}
	seen := map[string][]by{}
	for i := range p.Controls {
		for k := range p.Controls[i].Means {
			b := &p.Controls[i].Means[k]
			owner, name := meaning.Split(b.Param)
			m := slices.IndexFunc(p.Modules, func(m Module) bool { return m.ID == owner })
			if m < 0 || b.Law.Kind == scale.Listed && slices.Contains(b.Law.Values, any(nil)) {
				continue
			}
			spec := meaning.SpecOf(p.Modules[m].Kind)
			if spec == nil {
				continue
			}
			x, ok := spec.Param(name)
			if !ok || x.Sums {
				continue
			}
			for _, o := range seen[b.Param] {
				if o.control != i && !exclude(o.bind.When, b.When) {
					first, second := p.Controls[o.control].Label, p.Controls[i].Label
					out = append(out, fault.Fault{Path: fmt.Sprintf("/controls/%d/means/%d", i, k), Message: "set by two controls at once",
						Words: sentence(first+" and "+second, fmt.Sprintf("both set the %s of %s: where both do, only %s counts; give one of them a condition", x.Label, p.Modules[m].Label, second))})
				}
			}
			seen[b.Param] = append(seen[b.Param], by{i, b})
		}
	}
	return out
}

// exclude tells whether two conditions can not hold together.
func exclude(a, b []When) bool {
	for _, x := range a {
		for _, y := range b {
			if x.Control == y.Control && !slices.ContainsFunc(x.In, func(r string) bool { return slices.Contains(y.In, r) }) {
				return true
			}
		}
	}
	return false
}
