package views

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/e2e/browser"
	"glossator/e2e/desk"
)

// ready waits until a view has loaded.
const ready = "document.querySelector('h1') && !document.body.innerText.includes('Loading') && !document.body.innerText.includes('Rendering both')"

// The list of keys of every view says how to move, how to get away, and what
// works everywhere; it closes by the key that opened it, and no key stands in it twice.
func TestKeysOfEveryView(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/")
	d.Press("s")
	d.Sees("checks hold")
	for path, has := range map[string][]string{
		"/": {"move through patches and sheets", "open the sample translation"}, "/patches": {"start a new patch", "find"}, "/panels": {"import files"},
		"/patches/keel": {"a step down or up", "play or stop; changes are heard as they are made", "back to where you came from"}, "/patches/keel/targets": {"back to where you came from"},
		"/panels/kedge": {"open the workshop at the chosen control"}, "/panels/kedge/workshop": {"to the next fault", "move it up or down", "back to the panel"},
		"/bank": {"run, or stop"}, "/keep": {"make a backup now"}, "/shows": {"begin a show", "what this view is for"}, "/ear": {"sit down to a patch"}, "/shows/1": {"a new cue after it"}, "/shows/1/h2/hire": {"sets of two"}, "/shows/1/h1/rehearse/1": {"let the clock go"}, "/panels/halyard/slots": {"go to the next free slot"}, "/log": {"find in the log", "back to where you came from"}, "/reckoner": {"from sum to sum, also while typing"},
		"/sheets/1": {"go to the rule", "the next school", "back to where you came from"}, "/sheets/1/listen": {"begin a blind test", "X is A, X is B", "back to where you came from"}, "/sheets/1/dial-in": {"tick the line and go on to the next"},
	} {
		d.Visit(path)
		d.Holds(ready)
		d.Press("?")
		d.Holds("document.querySelector('.keys dt')")
		list, err := browser.Eval[[]string](d.Browser, "[...document.querySelectorAll('.keys div')].map(x => x.innerText.replace(/\\s+/g, ' '))")
		d.Must(err)
		all := strings.Join(list, "\n")
		for _, text := range append(has, "show or hide this list", "take the last change back", "light or dark") {
			if !strings.Contains(all, text) {
				t.Errorf("%s: the list of keys has no %q:\n%s", path, text, all)
			}
		}
		seen := map[string]bool{}
		for _, row := range list {
			if seen[row] {
				t.Errorf("%s: %q stands in the list twice", path, row)
			}
			seen[row] = true
		}
		d.Press("?")
		d.Holds("!document.querySelector('.keys dt')")
	}
}

// The page writes a quantity as the program does: the hairline of each line stands where the line says, in the line's words.
func TestHairlineIsWrittenAsTheLine(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/")
	d.Press("s")
	d.Sees("checks hold")
	lines, err := browser.Await[[]gloss.Gloss](d.Browser, "fetch('/api/v1/sheets/1').then(r => r.json()).then(v => v.sheet.glosses)")
	d.Must(err)
	dims := map[string]int{}
	for i := range lines {
		g := &lines[i]
		if g.Wanted == nil || g.Wanted.Quantity.Off || g.Wanted.Quantity.Dim.Named() || g.Wanted.Text != g.Wanted.Quantity.String() || dims[string(g.Wanted.Quantity.Dim)] > 1 {
			continue
		}
		d.Visit("/sheets/1?line=" + g.ID)
		d.Holds(fmt.Sprintf("document.querySelector('tr[aria-selected=true]')?.id === %q", "g-"+g.ID))
		d.Holds(fmt.Sprintf("document.querySelector('[role=slider]')?.getAttribute('aria-valuetext').startsWith(%q)", g.Wanted.Text+";"))
		dims[string(g.Wanted.Quantity.Dim)]++
		// the marks of its axis lie in order, and none runs into the next
		d.Holds("(m => m.length > 0 && m.every((x, i) => i === 0 || x > m[i - 1] + 20))([...document.querySelectorAll('text.axis')].map(x => Number(x.getAttribute('x'))))")
	}
	if len(dims) < 5 {
		t.Errorf("only lines of %v were looked at", dims)
	}
}

// A stored panel that does not open is shown with what is wrong, on the desk and in the list, and leads to the workshop; the rest goes on.
func TestBrokenPanelIsShown(t *testing.T) {
	d := desk.Open(t, true)
	row, err := d.Store.Panel("kedge", 0)
	d.Must(err)
	var p panel.Panel
	d.Must(json.Unmarshal(row.Document, &p))
	p.Controls[0].Section = "attic"
	p.Name = "Kedge Under a Very Long Name That Somebody Once Gave It"
	_, err = d.Store.PutPanel(&p)
	d.Must(err)
	for _, path := range []string{"/", "/panels"} {
		d.Visit(path)
		d.Sees("attic", "workshop", "Windlass")
		d.Holds("[...document.querySelectorAll('a')].some(a => a.getAttribute('href') === '/panels/kedge/workshop')")
	}
	d.Visit("/")
	d.Press("s")
	d.Sees("checks hold")
	d.Visit("/panels/kedge/workshop")
	d.Sees("1 fault; it stops only the saving", "attic")
}

// Every kind of law that the program knows is offered, with its own fields; one that is set so is kept, written in the table, and told as a difference.
func TestEveryLawInTheForm(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/panels/halyard/workshop?line=controls:filter.cutoff")
	d.Holds(desk.Field("Law"))
	type law struct {
		Kind   string
		Label  string
		Fields []struct{ Name, Label string }
		Points bool
		Values bool
	}
	laws, err := browser.Await[[]law](d.Browser, "fetch('/api/v1/vocabulary').then(r => r.json()).then(v => v.laws)")
	d.Must(err)
	if len(laws) < 9 {
		t.Fatalf("%d kinds of law", len(laws))
	}
	offered, err := browser.Eval[[]string](d.Browser, "[...("+desk.Field("Law")+").options].map(o => o.textContent)")
	d.Must(err)
	for i, l := range laws {
		if offered[i] != l.Label {
			t.Errorf("kind %d is %q in the form, %q in the program", i, offered[i], l.Label)
		}
		d.Set(desk.Field("Law"), l.Kind)
		d.Holds("(" + desk.Field("Law") + ").value === '" + l.Kind + "'")
		for _, f := range l.Fields {
			d.Holds(desk.Field(f.Label))
		}
		switch {
		case l.Points:
			d.Holds("document.querySelector('.editor').innerText.includes('Points, one a line')")
		case l.Values:
			d.Holds("document.querySelector('.editor').innerText.includes('Values, one a position') || document.querySelector('.editor .values')")
		}
	}
	d.Set(desk.Field("Law"), "logistic")
	d.Holds(desk.Field("Steepness") + ".value === '6'")
	d.Focus(desk.Field("At the bottom"))
	_, err = browser.Eval[bool](d.Browser, "document.activeElement.select(), true")
	d.Must(err)
	d.Put("20")
	d.Press("Enter")
	d.Sees("No faults.")
	d.Press("Escape", "s")
	d.Sees("Saved as revision 2")
	table, err := browser.Await[string](d.Browser, "fetch('/api/v1/panels/halyard/controls.csv').then(r => r.text())")
	d.Must(err)
	if !strings.Contains(table, "logistic") {
		t.Error("the table does not have the law")
	}
	differs, err := browser.Await[string](d.Browser, "fetch('/api/v1/panels/halyard/difference?from=1&to=2').then(r => r.text())")
	d.Must(err)
	if !strings.Contains(differs, "S-shaped") && !strings.Contains(differs, "logistic") {
		t.Errorf("the difference does not tell of it: %s", differs)
	}
}

// A condition is typed in words: what is wrong is told beside the field and stays there; what is right is kept as it was typed.
func TestConditionInTheForm(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/panels/halyard/workshop?line=controls:filter.cutoff")
	d.Focus(desk.Field("Only while"))
	d.Put("wave saw")
	d.Press("Enter")
	d.Sees("expected control = reading")
	d.Holds(desk.Field("Only while") + ".getAttribute('aria-invalid') === 'true'")
	_, err := browser.Eval[bool](d.Browser, "document.activeElement.select(), true")
	d.Must(err)
	d.Put("osc1.wave = saw | pulse")
	d.Press("Enter")
	d.Holds(desk.Field("Only while") + ".value === 'Oscillator 1 Wave = saw | pulse' && " + desk.Field("Only while") + ".getAttribute('aria-invalid') === 'false'")
	d.Sees("1 change")
	d.Press("Escape", "Ctrl+z")
	d.Holds(`!/\d change/.test(document.querySelector("main").innerText)`)
}

// The hairline goes by the target's own steps, in the order in which they lie on the axis, whichever way the control counts; Enter
// sets the reading that it stands on.
func TestHairlineGoesByTheTargetsSteps(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/")
	d.Press("s")
	d.Sees("checks hold")
	for _, line := range []string{"filter.cutoff", "filter.resonance"} {
		scales, err := browser.Await[gloss.Scales](d.Browser, "fetch('/api/v1/sheets/1/rule?gloss="+line+"').then(r => r.json())")
		d.Must(err)
		var ticks []float64
		reading := map[float64]string{}
		for _, x := range scales.Target.Ticks {
			if !x.Off {
				ticks = append(ticks, x.Value)
				reading[x.Value] = x.Reading
			}
		}
		slices.Sort(ticks)
		d.Visit("/sheets/1?line=" + line)
		d.Holds("document.querySelector('[role=slider]')")
		d.Press("r")
		d.Holds("document.activeElement.getAttribute('role') === 'slider'")
		now := "Number(document.activeElement.getAttribute('aria-valuenow'))"
		d.Press("Home")
		from, err := browser.Eval[float64](d.Browser, now)
		d.Must(err)
		at := slices.IndexFunc(ticks, func(v float64) bool { return v > from+1e-9*math.Max(math.Abs(from), 0.001) })
		for k := range 4 {
			d.Press("ArrowRight")
			got, err := browser.Eval[float64](d.Browser, now)
			d.Must(err)
			if want := ticks[at+k]; math.Abs(got-want) > 1e-9*math.Abs(want) {
				t.Fatalf("%s: step %d goes to %v, the next place of the target is %v", line, k, got, want)
			}
			d.Holds(fmt.Sprintf("document.activeElement.getAttribute('aria-valuetext').endsWith(%q)", " "+reading[ticks[at+k]]))
		}
		d.Press("ArrowLeft")
		back, err := browser.Eval[float64](d.Browser, now)
		d.Must(err)
		if math.Abs(back-ticks[at+2]) > 1e-9*math.Abs(back) {
			t.Errorf("%s: back to %v, from %v", line, back, ticks[at+3])
		}
		d.Press("w") // where the value that is wanted stands
		d.Holds(fmt.Sprintf("Math.abs(%s - %v) < 1e-6 * Math.abs(%v)", now, scales.Wanted.Quantity.Value, scales.Wanted.Quantity.Value))
		d.Press("End", "ArrowLeft", "Enter")
		last := len(ticks) - 1
		if ticks[last] > scales.Max-1e-6*math.Abs(scales.Max) {
			last-- // the axis ends with it
		}
		d.Sees("set to " + reading[ticks[last]])
		d.Press("Ctrl+z")
	}
}

// What is typed in the fields of a law is read as people write numbers, drawn at once, kept when it is left, and put back by Esc; what
// is no number is told beside the field and not kept.
func TestNumbersInFields(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/panels/windlass/workshop?line=controls:filter.cutoff")
	top := desk.Field("At the top")
	d.Holds(top + "?.value")
	was, err := browser.Eval[string](d.Browser, top+".value")
	d.Must(err)
	typed := func(text string) {
		d.Focus(top)
		_, err := browser.Eval[bool](d.Browser, "document.activeElement.select(), true")
		d.Must(err)
		d.Put(text)
	}
	typed("many")
	d.Sees(`expected a number, got "many"`)
	d.Press("Escape")
	d.Holds(top + ".value === '" + was + "'")
	d.Holds(`!/\d change/.test(document.querySelector("main").innerText)`)
	typed("17500,5")
	d.Press("Enter")
	d.Sees("1 change")
	d.Holds(top + ".value === '17500.5'")
	panel, err := browser.Await[string](d.Browser, "fetch('/api/v1/panels/windlass/workshop').then(r => r.text())")
	d.Must(err)
	if !strings.Contains(panel, "17500.5") {
		t.Error("the program has another number")
	}
	d.Focus(desk.Field("Give or take, two times of three"))
	_, err = browser.Eval[bool](d.Browser, "document.activeElement.select(), true")
	d.Must(err)
	d.Put("-3 %")
	d.Press("Enter")
	d.Sees("expected 0 or more")
	d.Press("Escape", "Escape", "Ctrl+z")
	d.Holds(`!/\d change/.test(document.querySelector("main").innerText)`)
}

// The line is entered in letters and numbers on the page, and is the same phrase in the program's words: the nearest octave, lengths that
// follow one another, a chord, an overlap, velocity, a slide; what is taken back is gone.
func TestLineOnThePage(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/patches/keel")
	d.Holds(ready)
	d.Press("f")
	d.Holds("document.activeElement.id === 'phrase-grid'")
	_, err := browser.Eval[bool](d.Browser, `[...document.querySelectorAll("button")].find(b => b.textContent === "No line").click(), true`)
	d.Must(err)
	d.Sees("0 notes, 0 long")
	d.Focus("document.getElementById('phrase-grid')")
	d.Press("a", "c", "+", "e", ".", "s", "ArrowLeft", "h", "ArrowUp")
	d.Sees("4 notes")
	type note struct {
		At, For, Note string
		Velocity      int
		Slide         bool
	}
	read := func() []note {
		list, err := browser.Await[[]note](d.Browser, "new Promise(r => setTimeout(r, 300)).then(() => fetch('/api/v1/patches/keel')).then(r => r.json()).then(v => v.phrase?.notes ?? [])")
		d.Must(err)
		return list
	}
	list := read()
	slices.SortFunc(list, func(a, b note) int { return strings.Compare(a.At+a.Note, b.At+b.Note) })
	if len(list) != 4 {
		t.Fatalf("%+v", list)
	}
	for _, n := range list {
		if n.For != "1/8" && n.For != "1/4" || n.Velocity < 100 || n.Note == "" {
			t.Errorf("%+v", n)
		}
	}
	for range 4 {
		d.Press("Delete")
	}
	d.Press("Home", "Delete", "Delete", "Delete", "Delete")
	d.Sees("0 notes")
	if left := read(); len(left) != 0 {
		t.Errorf("left: %+v", left)
	}
	d.Press("Escape")
	d.Holds("!document.getElementById('phrase-grid')")
}

// A key that opens a form is not for the form: the page takes it for itself. Keys that are typed into the field that they open go on to it.
// (The browser that is driven sends what is typed as an event of its own; so the press is looked at.)
func TestKeysThatOpenFormsAreNotTyped(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/")
	d.Press("s")
	d.Sees("checks hold")
	for _, x := range []struct {
		path, key, focus string
		typed            bool
	}{
		{"/patches/keel", "e", "head-name", false}, {"/patches/keel", "p", "paste-notes", false}, {"/patches/keel", "f", "phrase-grid", false}, {"/patches/keel", "4", "typed", true}, {"/patches/keel", "Enter", "typed", false},
		{"/patches", "n", "new-name", false}, {"/patches", "/", "find", false}, {"/panels", "/", "find-controls", false}, {"/panels", "n", "new-panel-name", false},
		{"/panels/kedge/workshop", "/", "find-part", false}, {"/sheets/1?line=filter.cutoff", "6", "override", true}, {"/sheets/1?line=filter.cutoff", "~", "override", true}, {"/sheets/1?line=filter.cutoff", "Enter", "override", false},
	} {
		d.Visit(x.path)
		d.Holds(ready)
		_, err := browser.Eval[bool](d.Browser, "window.presses = [], addEventListener('keydown', e => setTimeout(() => window.presses.push(e.defaultPrevented))), true")
		d.Must(err)
		d.Press(x.key)
		d.Holds(fmt.Sprintf("document.activeElement.id === %q", x.focus))
		d.Holds(fmt.Sprintf("window.presses.length === 1 && window.presses[0] === %v", !x.typed))
	}
}

// Choosers act once, and only when somebody chooses: target and school open another sheet, the plan weighs by ear, the line is heard an octave lower.
func TestChoosersActOnce(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/")
	d.Press("s")
	d.Sees("checks hold")
	count := func() int {
		n, err := browser.Await[int](d.Browser, "fetch('/api/v1/desk').then(r => r.json()).then(v => v.sheets.length)")
		d.Must(err)
		return n
	}
	if n := count(); n != 1 {
		t.Fatalf("%d sheets after one was opened", n)
	}
	d.Set("document.querySelectorAll('.top select')[0]", "thole")
	d.Holds("location.pathname === '/sheets/2'")
	d.Sees("Thole", "checks hold")
	d.Set("document.querySelectorAll('.top select')[1]", "numbers")
	d.Holds("location.pathname === '/sheets/3' && document.querySelectorAll('.top select')[1].value === 'numbers'")
	d.Sees("checks hold")
	if n := count(); n != 3 {
		t.Errorf("%d sheets after two choices more", n)
	}
	d.Press("p")
	d.Holds("document.querySelector('section[aria-label=Plan] input[type=checkbox]')?.checked === false")
	d.Click("section[aria-label=Plan] .bx--checkbox-label")
	d.Holds("document.querySelector('section[aria-label=Plan] input[type=checkbox]')?.checked === true && document.body.innerText.includes('Weigh parts')")
	byEar, err := browser.Await[bool](d.Browser, "new Promise(r => setTimeout(r, 500)).then(() => fetch('/api/v1/sheets/3')).then(r => r.json()).then(v => !!v.sheet.choices.byEar)")
	d.Must(err)
	if !byEar {
		t.Error("the sheet is not weighed by ear")
	}
	d.Press("Ctrl+z")
	d.Visit("/sheets/1/listen")
	d.Holds(ready)
	asked := "performance.getEntriesByType('resource').filter(e => e.name.endsWith('/sheets/1/listen')).length"
	before, err := browser.Eval[int](d.Browser, asked)
	d.Must(err)
	d.Set("document.querySelectorAll('.transport select')[1]", "-1")
	d.Holds(asked + fmt.Sprintf(" === %d", before+1))
	if before != 1 {
		t.Errorf("both sides were asked for %d times as the view opened", before)
	}
}
