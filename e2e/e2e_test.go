// Package e2e drives the program in a browser as its users do.
package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"

	"glossator/e2e/browser"
	"glossator/e2e/desk"
)

// The way of a new user by mouse: desk, sheet, rule, override, undo, dial in, import, export.
func TestByMouse(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/")
	d.Sees("Keel bass on Windlass", "Fog Bank pad on Halyard")
	d.Set(`document.querySelectorAll(".go select")[1]`, "halyard")
	d.Click(".go button")
	d.Sees("Windlass to", "checks hold", "39 held")
	d.Holds("location.pathname === '/sheets/1'")

	d.Click("#g-filter\\.cutoff")
	d.Holds("location.search === '?line=filter.cutoff'")
	d.Sees("the pivot is C3 there, C4 here")
	d.Holds("document.querySelector('[role=slider]').getAttribute('aria-valuetext').includes('Windlass 3.2; Halyard 41')")
	box, err := browser.Eval[[]float64](d.Browser, "(r => [r.left, r.top, r.width])(document.querySelector('[role=slider]').getBoundingClientRect())")
	d.Must(err)
	d.Must(d.MoveMouse(box[0]+box[2]*0.75, box[1]+60))
	d.Holds("document.querySelector('.read').innerText.includes('kHz') && document.querySelector('.read button').innerText.startsWith('set Halyard to')")
	d.Click(".read button")
	d.Holds(desk.Row("filter.cutoff") + ".includes('bent')")
	d.Sees("2 bent", "checks hold", "set by hand")
	d.Click("button[aria-label^='Undo: set filter.cutoff'], header .tools button:first-child")
	d.Holds(desk.Row("filter.cutoff") + ".includes('held')")
	d.Sees("1 bent")

	// a reading that the instrument cannot show
	d.Click("aside form button")
	d.Holds("document.querySelector('#override')")
	_, err = browser.Eval[bool](d.Browser, "document.querySelector('#override').select(), true")
	d.Must(err)
	d.Press("9", "9", "9")
	d.Click("aside form button[type=submit]")
	d.Sees("0 to 127")
	d.Press("Escape")

	// only the losses, and back
	d.Click(".sum button:nth-child(2)")
	d.Holds("document.querySelectorAll('tbody tr.open').length === 1")
	d.Click(".sum button:nth-child(2)")

	d.Click("a[href='/sheets/1/dial-in']")
	d.Sees("Dial in Keel on Halyard", "Set Mode to legato", "Leave at init")
	d.Click("label[for='t-filter.cutoff']")
	d.Sees("1 of 29 done")
	d.Stop()
	d.Start() // a restart of the program: the tick is kept
	d.Visit("/sheets/1/dial-in")
	d.Sees("1 of 29 done")
	d.Holds("document.getElementById('t-filter.cutoff').checked")

	// import by button, with faults named by their place, and then a good one
	d.Visit("/patches")
	d.Sees("Keel")
	d.Must(d.Upload("input[type=file]", desk.KeelFile(t, func(s string) string { return strings.Replace(s, `"3.2"`, `"32"`, 1) })))
	d.Sees("One file", "from the hire firm.json not imported: /layers/0/readings/filter.cutoff", "0.0 to 10.0")
	d.Press("Escape")
	good := desk.KeelFile(t, func(s string) string {
		return strings.NewReplacer(`"keel"`, `"keel-hired"`, `"Keel"`, `"Keel, hired"`).Replace(s)
	})
	d.Must(d.Upload("input[type=file]", good))
	d.Sees("Keel, hired", "only what differs from init")
	d.Holds("location.pathname === '/patches/keel-hired'")

	// and by drop
	d.Visit("/patches")
	d.Sees("Keel, hired")
	text, err := os.ReadFile(good)
	d.Must(err)
	quoted, err := json.Marshal(strings.NewReplacer("keel-hired", "keel-dropped", "Keel, hired", "Keel, dropped").Replace(string(text)))
	d.Must(err)
	_, err = browser.Eval[bool](d.Browser, `(() => { const t = new DataTransfer(); t.items.add(new File([`+string(quoted)+`], "dropped.json", {type: "application/json"}));
		window.dispatchEvent(new DragEvent("dragenter", {dataTransfer: t, bubbles: true})); return window.dispatchEvent(new DragEvent("drop", {dataTransfer: t, bubbles: true, cancelable: true})), true })()`)
	d.Must(err)
	d.Holds("location.pathname === '/patches/keel-dropped'")
	d.Sees("Keel, dropped")

	// every export that the views offer is there and is a file
	for _, view := range []string{"/panels?line=new", "/sheets/1", "/patches/keel", "/panels/kedge"} { // all files
		d.Visit(view)
		d.Holds("document.querySelector('h1') && !document.body.innerText.includes('Loading')")
		d.Holds("document.querySelector('.more [role=menu]') || !document.querySelector('.more button') || (document.querySelector('.more button').click(), false)")
		d.Holds("document.querySelector('a[download], a[href^=\"/api/\"]')")
		n, err := browser.Await[int](d.Browser, `Promise.all([...document.querySelectorAll("a[download], a[href^='/api/']")].map(a => fetch(a.href).then(r => r.ok && r.headers.get("Content-Disposition").startsWith("attachment") ? 1 : -1000))).then(x => x.reduce((a, b) => a + b, 0))`)
		d.Must(err)
		if n < 1 {
			t.Errorf("%s: an export fails (%d)", view, n)
		}
	}
}

// The same work by the keyboard alone.
func TestByKeyboard(t *testing.T) {
	d := desk.Open(t, false)
	d.Visit("/")
	d.Sees("Nothing is on the desk yet")
	d.Press("s") // the sample translation is one key away
	d.Sees("Keel", "Windlass to", "checks hold")
	d.Press("?")
	d.Sees("move through the lines", "take the last change back")
	d.Press("Escape")
	d.Holds("!document.body.innerText.includes('move through the lines')")
	d.Press("Home")
	for range 100 {
		d.Press("ArrowDown")
		at, err := browser.Eval[string](d.Browser, "new URLSearchParams(location.search).get('line')")
		d.Must(err)
		if at == "filter.cutoff" {
			break
		}
	}
	d.Holds("document.activeElement.id === 'g-filter.cutoff'")
	d.Press("8") // typing a number starts an override
	d.Holds("document.activeElement.id === 'override' && document.activeElement.value === '8'")
	d.Press("0", "Enter")
	d.Holds(desk.Row("filter.cutoff") + ".includes('80') && " + desk.Row("filter.cutoff") + ".includes('bent')")
	d.Holds("document.activeElement.id === 'g-filter.cutoff'")
	d.Press("Ctrl+z")
	d.Holds(desk.Row("filter.cutoff") + ".includes(' 41 ')")
	d.Press("r", "ArrowRight")
	d.Holds("document.activeElement.getAttribute('role') === 'slider' && document.activeElement.getAttribute('aria-valuetext').includes('Halyard 42')")
	d.Press("ArrowLeft", "ArrowLeft", "Enter")
	d.Holds(desk.Row("filter.cutoff") + ".includes(' 40 ')")
	d.Press("x")
	d.Holds(desk.Row("filter.cutoff") + ".includes(' 41 ')")
	d.Press("l")
	d.Holds("(rows => rows.length > 0 && rows.every(r => /bent|recast|left out|near/.test(r.innerText)))([...document.querySelectorAll('tbody tr.open')])")
	d.Press("l", "v")
	d.Holds("![...document.querySelectorAll('tbody tr.open')].some(r => r.innerText.includes('idle'))")

	d.Press("d")
	d.Sees("0 of 29 done", "Set Mode to legato")
	d.Press("Space", "Space", "ArrowDown", "Space")
	d.Sees("3 of 29 done", "Undo: tick Wave on Halyard") // kept by the server, too
	d.Holds("document.activeElement !== document.body")
	d.Press("Backspace")
	d.Sees("2 of 29 done")
	d.Must(d.Reload())
	d.Sees("2 of 29 done")
	d.Press("Escape")
	d.Holds("location.pathname === '/sheets/1'")
	d.Press("t")
	d.Holds("document.documentElement.getAttribute('theme') === 'g90'")
	d.Press("g", "i")
	d.Holds("location.pathname === '/panels'")
	d.Sees("Kedge")
	d.Press("/")
	d.Holds("document.activeElement.id === 'find-controls'")
	_, err := browser.Eval[bool](d.Browser, "document.activeElement.select(), true")
	d.Must(err)
	d.Press("r", "e", "s", "o", " ", "k", "e", "d", "g", "e")
	d.Sees("1 found")
	d.Press("ArrowDown", "Enter")
	d.Holds("location.pathname + location.search === '/panels/kedge?line=lowpass.resonance'")
	d.Sees("revision 1")
	d.Press("ArrowDown", "ArrowDown")
	d.Holds("document.querySelector('tr[aria-current]')")
	d.Press("Escape", "g", "p")
	d.Holds("location.pathname === '/patches'")
	d.Sees("Fog Bank")
	d.Press("ArrowDown", "Enter")
	d.Sees("only what differs from init")
	d.Press("a")
	d.Sees("all readings")
	d.Press("o")
	d.Holds("location.pathname.startsWith('/sheets/')")
	d.Must(d.Back())
	d.Holds("location.pathname.startsWith('/patches/')")
}

// A patch is made and its readings are typed, stepped, put back and undone, by the keyboard.
func TestPatchDesk(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/patches")
	d.Sees("Foghorn")
	d.Press("n")
	d.Holds("document.activeElement.id === 'new-name'")
	_, err := browser.Eval[bool](d.Browser, "document.activeElement.select(), true")
	d.Must(err)
	d.Press("S", "p", "r", "a", "y")
	d.Set(`document.querySelector("form.new select")`, "thole")
	d.Press("Enter")
	d.Holds("location.pathname === '/patches/spray'")
	d.Sees("Everything stands at init")
	d.Press("a")
	d.Sees("all readings", "Osc")
	d.Visit("/patches/spray?line=filter.cutoff")
	d.Press("a")
	d.Holds("document.querySelector('tr[aria-selected=true]')?.id === 'r-filter.cutoff'")
	d.Press("4", "2")
	d.Holds("document.querySelector('#typed-says').innerText.includes('Hz')") // its meaning, as it is typed
	d.Press("0")
	d.Holds("document.querySelector('#typed-says').innerText.includes('expected 0 to 99')")
	d.Press("Enter")
	d.Holds("document.querySelector('#typed')") // refused, and nothing lost
	d.Press("Backspace", "Enter")
	cutoff := "document.getElementById('r-filter.cutoff').innerText.replace(/\\s+/g, ' ')"
	d.Holds(cutoff + ".includes(' 42 ')")
	d.Holds("document.querySelector('tr[aria-selected=true]')?.id !== 'r-filter.cutoff'") // the next one is at hand
	d.Press("ArrowUp", "ArrowRight")
	d.Holds(cutoff + ".includes(' 43 ')")
	d.Press("Delete")
	d.Holds(cutoff + ".includes(' 99 ')")
	d.Press("Ctrl+z")
	d.Holds(cutoff + ".includes(' 43 ')")
	d.Press("p")
	d.Holds("document.activeElement.id === 'paste-notes'")
	d.Set("document.activeElement", "cutoff 55, reso 20\nflux 3")
	d.Click("section form button[type=submit]")
	d.Sees("Take 2 of 2 readings", "Not matched", "no control of Thole")
	d.Click("section > .bar button")
	d.Sees("2 readings taken")
	d.Holds(cutoff + ".includes(' 55 ')")
	d.Press("c")
	d.Holds("location.pathname === '/patches/spray-copy'")
	d.Sees("Spray (copy)")
}

// The reckoner works either way, by the tempo and the note, and says what it cannot read.
func TestReckoner(t *testing.T) {
	d := desk.Open(t, false)
	d.Visit("/")
	d.Sees("Nothing is on the desk yet")
	d.Press("=")
	d.Holds("location.pathname === '/reckoner'")
	field := func(sum string, side int) string {
		return fmt.Sprintf("document.querySelectorAll('input[data-sum=%s]')[%d]", sum, side)
	}
	d.Holds(field("division", 1) + "?.value === '468.75 ms'")
	d.Press("ArrowDown")
	d.Holds("document.activeElement === " + field("footage", 0))
	d.Press("3", "2", "'")
	d.Holds(field("footage", 1) + ".value === '-2400 ct'")
	d.Press("Tab")
	_, err := browser.Eval[bool](d.Browser, "document.activeElement.select(), true")
	d.Must(err)
	d.Press("1", "2", " ", "s", "t")
	d.Holds(field("footage", 0) + `.value === "4'"`)
	d.Press("x")
	d.Sees("expected a unit")
}

// The address bar returns to the view and the line; a place that is not there says so.
func TestAddresses(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/")
	d.Press("s")
	d.Sees("checks hold")
	d.Visit("/sheets/1?line=glide")
	d.Holds("document.querySelector('tr[aria-selected=true]')?.id === 'g-glide'")
	d.Holds("(r => r.top > 80 && r.bottom < 620)(document.getElementById('g-glide').getBoundingClientRect())")
	d.Visit("/panels/kedge?line=lowpass.cutoff")
	d.Holds("document.querySelector('tr[aria-current]')?.id === 'c-lowpass.cutoff'")
	for path, says := range map[string]string{"/sheets/77": "No such sheet", "/panels/anchor": "No such panel", "/patches/anchor": "No such patch", "/attic": "Nothing here", "/sheets/77/dial-in": "No such sheet"} {
		d.Visit(path)
		d.Sees(says)
	}
}

// Nothing is fetched from elsewhere, nothing breaks the page's own policy.
func TestStandsAlone(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/")
	d.Press("s")
	d.Sees("checks hold")
	for _, path := range []string{"/", "/sheets/1?line=filter.cutoff", "/sheets/1/dial-in", "/panels/halyard", "/patches/keel"} {
		d.Visit(path)
		d.Holds("document.querySelector('h1') && !document.body.innerText.includes('Loading')")
		foreign, err := browser.Eval[[]string](d.Browser, "performance.getEntriesByType('resource').map(e => e.name).filter(n => !n.startsWith(location.origin))")
		d.Must(err)
		reports, err := browser.Await[[]string](d.Browser, `new Promise(done => { const seen = []; const o = new ReportingObserver(r => seen.push(...r.map(x => JSON.stringify(x.body))), {types: ["csp-violation"], buffered: true}); o.observe(); setTimeout(() => done(seen), 100) })`)
		d.Must(err)
		fonts, err := browser.Await[[]string](d.Browser, "document.fonts.ready.then(f => [...f].filter(x => x.status === 'loaded').map(x => x.family))")
		d.Must(err)
		if len(foreign) > 0 || len(reports) > 0 || !strings.Contains(strings.Join(fonts, ","), "IBM Plex Sans") {
			t.Errorf("%s: foreign %v, policy %v, fonts %v", path, foreign, reports, fonts)
		}
	}
}

// Two on one patch: what the other has changed elsewhere comes with the next answer; what both have changed is told with both of it, and what stands there is shown.
func TestChangedElsewhere(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/patches/keel?line=filter.cutoff")
	d.Press("a")
	d.Holds("document.getElementById('r-filter.cutoff') !== null && document.getElementById('r-filter.resonance') !== null")
	elsewhere := func(control, reading string) {
		t.Helper()
		d.Holds(fmt.Sprintf(`(() => { const k = %q; window.sent ??= {}; if (!window.sent[k]) { window.sent[k] = 1;
			fetch("/api/v1/patches/keel/layers/a/readings/" + k, {method: "PUT", headers: {"Content-Type": "application/json"}, body: JSON.stringify({reading: %q})}).then((r) => (window.sent[k] = r.ok ? 2 : 3)); }
			return window.sent[k] === 2; })()`, control, reading))
	}
	row := func(control string) string {
		return fmt.Sprintf("document.getElementById('r-%s').innerText.replace(/\\s+/g, ' ')", control)
	}
	elsewhere("filter.resonance", "2.7")
	d.Press("4", ".", "2", "Enter")
	d.Holds(row("filter.cutoff") + ".includes(' 4.2 ')")
	d.Holds(row("filter.resonance") + ".includes(' 2.7 ')") // it is in the answer
	elsewhere("filter.cutoff", "5.5")
	d.Press("ArrowUp")
	d.Holds("document.querySelector('tr[aria-selected=true]')?.id === 'r-filter.cutoff'")
	d.Press("6", ".", "1", "Enter")
	d.Sees("Changed elsewhere", "was \"4.2\"", "is \"5.5\" now", "was to be \"6.1\"")
	d.Holds("document.querySelector('#typed').value === '6.1'") // nothing that was typed is lost
	d.Press("Escape")
	d.Holds(row("filter.cutoff") + ".includes(' 5.5 ')")
}
