package panel_test

import (
	"encoding/json"
	"regexp"
	"slices"
	"strings"
	"testing"

	"glossator/core/build"
	"glossator/core/fault"
	"glossator/core/panel"
	"glossator/core/scale"
	"glossator/formats"
	"glossator/testutil/testrack"
)

// formOf finds words of a file's form in what is said to people.
var formOf = regexp.MustCompile(`(?i)\bnull\b|json|schema|minItems|maxItems|additionalProp|\benum\b|/(controls|modules|routes|audio|matrix|sections|means)|\[\d+\]|%!`)

func began(t *testing.T) *panel.Panel {
	t.Helper()
	p, err := build.Begin("blank", "mine", "Mine", "")
	if err != nil {
		t.Fatal(err)
	}
	for _, b := range []string{"lfo", "matrix", "ring"} {
		if p, _, err = build.Add(p, b, build.Want{Count: 1}); err != nil {
			t.Fatal(err)
		}
	}
	p.Points = []panel.Point{{ID: "in-cutoff", Label: "Cutoff in", Dir: "in", To: []string{"filter.cutoff"}, Full: "5 oct"}, {ID: "out-lfo", Label: "LFO out", Dir: "out", Of: "lfo"}}
	for i := range p.Controls {
		if p.Controls[i].ID == "filter.resonance" {
			p.Controls[i].Means[0].When = []panel.When{{Control: "osc.wave", In: []string{"saw"}}}
		}
	}
	return p
}

// Each fault that can be made of a panel, by taking away, emptying or spoiling any part of it, is told in a sentence without a word of the file's form.
func TestFaultsInWords(t *testing.T) {
	p := began(t)
	whole, err := json.Marshal(p)
	if err != nil {
		t.Fatal(err)
	}
	var doc any
	if err := json.Unmarshal(whole, &doc); err != nil {
		t.Fatal(err)
	}
	if l := formats.CheckPanel(p); len(l) > 0 {
		t.Fatal(l)
	}
	told, sentences := 0, map[string]bool{}
	check := func(what string) {
		b, _ := json.Marshal(doc)
		var now panel.Panel
		if json.Unmarshal(b, &now) != nil {
			return // no edit of a draft gets so far
		}
		for _, f := range now.Told(formats.CheckPanel(&now)) {
			told++
			sentences[f.Words] = true
			if f.Words == "" || formOf.MatchString(f.Words) || !strings.HasSuffix(f.Words, ".") && !strings.HasPrefix(f.Words, "expected") || len(f.Words) > 400 {
				t.Errorf("%s: %s %q is told as %q", what, f.Path, f.Message, f.Words)
			}
		}
	}
	// each place of a document is spoilt in turn; of long lists the first two
	var walk func(at string, v any, set func(any))
	walk = func(at string, v any, set func(any)) {
		for _, bad := range []any{nil, "", "nonsense", -1.0, []any{}} {
			set(bad)
			check(at)
		}
		set(v)
		switch x := v.(type) {
		case map[string]any:
			for k, old := range x {
				delete(x, k)
				check(at + " without " + k)
				x[k] = old
				walk(at+" "+k, old, func(n any) { x[k] = n })
			}
		case []any:
			for i := range min(2, len(x)) {
				old := x[i]
				walk(at+" "+string(rune('0'+i)), old, func(n any) { x[i] = n })
			}
		}
	}
	for k, old := range doc.(map[string]any) {
		m := doc.(map[string]any)
		walk(k, old, func(n any) { m[k] = n })
	}
	if told < 300 || len(sentences) < 60 {
		t.Errorf("only %d faults in %d sentences", told, len(sentences))
	}
	t.Logf("%d faults in %d sentences", told, len(sentences))
}

// Sentences name the part by its label and say what is to be done.
func TestWhatIsSaidOfFaults(t *testing.T) {
	for want, spoil := range map[string]func(p *panel.Panel){
		"Cutoff does not say what it sets yet.":                    func(p *panel.Panel) { controlOf(p, "filter.cutoff").Means[0].Param = "" },
		"Cutoff sets something that is not here (gone.cutoff)":     func(p *panel.Panel) { controlOf(p, "filter.cutoff").Means[0].Param = "gone.cutoff" },
		"Cutoff has a law for the cutoff of filter that cannot be": func(p *panel.Panel) { controlOf(p, "filter.cutoff").Means[0].Law.Min = 0 },
		"Cutoff cannot stand at its init (200); it takes 0 to 127": func(p *panel.Panel) { controlOf(p, "filter.cutoff").Init = "200" },
		"Wave does not say for each of its positions what the wave of oscillator is there": func(p *panel.Panel) {
			controlOf(p, "osc.wave").Means[0].Law.Values = nil
		},
		"The route Envelope to level does not say how far it goes": func(p *panel.Panel) {
			for i := range p.Routes {
				p.Routes[i].Depth = ""
			}
		},
		"The connection from Filter to nothing goes to nothing that is here":                   func(p *panel.Panel) { p.Audio[1].To = "" },
		"Filter.cutoff has a label that cannot be: expected a text without control characters": func(p *panel.Panel) { controlOf(p, "filter.cutoff").Label = "a\x00b" },
		"Filter has a label that cannot be":                                                    func(p *panel.Panel) { p.Modules[2].Label = "\u202eab" },
		"The panel has no name yet.":                                                           func(p *panel.Panel) { p.Name = "" },
		"Resonance sets the resonance of filter only while a control stands somewhere, and Wave takes one of": func(p *panel.Panel) {
			controlOf(p, "filter.resonance").Means[0].When[0].In = []string{"brass"}
		},
	} {
		p := began(t)
		spoil(p)
		var all []string
		for _, f := range p.Told(formats.CheckPanel(p)) {
			all = append(all, f.Words)
		}
		if !strings.Contains(strings.Join(all, "\n"), want) {
			t.Errorf("want %q, got %q", want, all)
		}
	}
}

func controlOf(p *panel.Panel, id string) *panel.Control {
	for i := range p.Controls {
		if p.Controls[i].ID == id {
			return &p.Controls[i]
		}
	}
	return &panel.Control{}
}

// What is likely to have been forgotten is found, and nothing in panels that are whole.
func TestDoubtsAboutAPanel(t *testing.T) {
	for id, c := range testrack.Panels(t) {
		if l := c.Doubts(); len(l) > 0 {
			t.Errorf("%s: %v", id, l)
		}
	}
	for _, s := range build.Starts {
		p, err := build.Begin(s.ID, "a", "A", "")
		if err != nil {
			t.Fatal(err)
		}
		if l := p.Doubts(); len(l) > 0 {
			t.Errorf("%s: %v", s.ID, l)
		}
	}
	for want, spoil := range map[string]func(p *panel.Panel){
		"Oscillator is connected to Filter twice.": func(p *panel.Panel) { p.Audio = append(p.Audio, p.Audio[0]) },
		"Second oscillator is wired to nothing and set by nothing.": func(p *panel.Panel) {
			p.Modules = append(p.Modules, panel.Module{ID: "o2", Kind: "osc", Label: "Second oscillator"})
		},
		"Oscillator is wired to nothing: what it makes is not heard.": func(p *panel.Panel) { p.Audio = p.Audio[1:] },
		"Filter has nothing coming in.":                               func(p *panel.Panel) { p.Audio = p.Audio[1:] },
		"Vibrato is set by no control and moved by no route.": func(p *panel.Panel) {
			p.Modules = append(p.Modules, panel.Module{ID: "v", Kind: "lfo", Label: "Vibrato"})
		},
	} {
		p, _ := build.Begin("blank", "a", "A", "")
		spoil(p)
		found := false
		var l fault.List = p.Doubts()
		for _, f := range l {
			found = found || f.Words == want
		}
		if !found {
			t.Errorf("want %q, got %v", want, l)
		}
	}
}

// An instrument that was begun while an operator's plain numbers were spread over four octaves is told of it; one that is tuned by ratios, or says otherwise itself, is not.
func TestNumbersThatAreNoRatiosAreDoubted(t *testing.T) {
	for _, x := range []struct {
		source scale.Source
		values []any
		told   bool
	}{
		{scale.Assumed, []any{-2400.0, -1800.0, -1200.0, -600.0, 0.0, 600.0, 1200.0, 1800.0, 2400.0}, true},
		{scale.Stated, []any{-2400.0, -1800.0, -1200.0, -600.0, 0.0, 600.0, 1200.0, 1800.0, 2400.0}, false},
		{scale.Assumed, []any{-1200.0, 0.0, 1200.0, 1902.0, 2400.0, 2786.0, 3102.0, 3369.0, 3600.0}, false},
	} {
		p, err := build.Begin("operators", "a", "A", "")
		if err != nil {
			t.Fatal(err)
		}
		i := slices.IndexFunc(p.Controls, func(c panel.Control) bool { return c.ID == "operator1.ratio" })
		p.Controls[i].Means[0].Law.Source, p.Controls[i].Means[0].Law.Values = x.source, x.values
		var words []string
		for _, f := range p.Doubts() {
			words = append(words, f.Words)
		}
		if told := slices.Contains(words, "Operator 1, Ratio is not tuned by ratios: 0.5 is -2400 ct."); told != x.told || len(words) > 1 {
			t.Errorf("%v, %v: %q", x.source, x.values, words)
		}
	}
}

// Two controls that set one parameter at once, where it does not add, are told; those that exclude each other and those of a sum are not. No shipped panel is told so.
func TestTwoControlsAtOnceAreTold(t *testing.T) {
	for id, c := range testrack.Panels(t) {
		for _, d := range c.Panel.Doubts() {
			if strings.Contains(d.Words, "both set") {
				t.Errorf("%s: %s", id, d.Words)
			}
		}
	}
	whole := testrack.Panels(t)["halyard"]
	b, err := json.Marshal(whole.Panel)
	if err != nil {
		t.Fatal(err)
	}
	var p panel.Panel
	if err := json.Unmarshal(b, &p); err != nil {
		t.Fatal(err)
	}
	for i := range p.Controls {
		if p.Controls[i].ID == "lfo1.division" {
			p.Controls[i].Means[0].When = nil
		}
	}
	said := ""
	for _, d := range p.Doubts() {
		said += d.Words + "\n"
	}
	if !strings.Contains(said, "Rate and Division both set the rate of LFO 1") {
		t.Errorf("told: %s", said)
	}
}
