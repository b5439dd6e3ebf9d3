// Package e2e drives the program in a browser as its users do.
package e2e

import (
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"glossator/demo"
	"glossator/e2e/browser"
	"glossator/server"
	"glossator/store"
	"glossator/web"
)

// desk is a running program with a browser before it.
type desk struct {
	*browser.Browser
	t   *testing.T
	db  string
	st  *store.Store
	srv *httptest.Server
	// Each answer to an edit of a draft is held back until something is sent here.
	answers chan struct{}
	// How long the answers to what is asked of the workshop take.
	late time.Duration
	// The program does not answer while it is down.
	down atomic.Bool
}

// begun has the tests that have opened a desk.
var begun sync.Map

func open(t *testing.T, sample bool) *desk {
	t.Helper()
	if _, again := begun.LoadOrStore(t, true); !again {
		t.Parallel() // each has a program, a store and a browser of its own
	}
	if _, ok := web.App(); !ok {
		t.Fatal("the front end is not built: make build")
	}
	d := &desk{t: t, db: filepath.Join(t.TempDir(), "e2e.db")}
	d.start()
	if sample {
		_, err := server.LoadSample(d.st)
		d.must(err)
	}
	b, err := browser.Open(1280, 800)
	d.must(err)
	d.Browser = b
	t.Cleanup(func() { b.Close(); d.stop() })
	return d
}

func (d *desk) start() {
	st, err := store.Open(d.db)
	d.must(err)
	d.st = st
	program := server.New(server.Config{Store: st, Sounds: filepath.Join(filepath.Dir(d.db), "sounds")})
	d.srv = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if d.down.Load() {
			panic(http.ErrAbortHandler)
		}
		if d.late > 0 && strings.Contains(r.URL.Path, "/workshop") {
			time.Sleep(d.late) // the way to a program far off
		}
		if d.answers == nil || r.Method != http.MethodPost || !strings.HasSuffix(r.URL.Path, "/workshop") {
			program.ServeHTTP(w, r)
			return
		}
		late := httptest.NewRecorder()
		program.ServeHTTP(late, r)
		<-d.answers
		maps.Copy(w.Header(), late.Header())
		w.WriteHeader(late.Code)
		_, _ = w.Write(late.Body.Bytes())
	}))
}

func (d *desk) stop() {
	d.srv.Close()
	_ = d.st.Close()
}

func (d *desk) must(err error) {
	d.t.Helper()
	if err != nil {
		d.t.Fatal(err)
	}
}

// visit loads a page and waits for its view, which takes keys from then on.
func (d *desk) visit(path string) {
	d.t.Helper()
	d.must(d.Go(d.srv.URL + path))
	d.holds("document.readyState === 'complete' && document.querySelector('main h1, main .missing, main p')")
}
func (d *desk) sees(texts ...string) {
	d.t.Helper()
	for _, text := range texts {
		d.must(d.Text(text))
	}
}
func (d *desk) press(keys ...string) { d.t.Helper(); d.must(d.Press(keys...)) }
func (d *desk) click(css string)     { d.t.Helper(); d.must(d.Click(css)) }
func (d *desk) holds(js string)      { d.t.Helper(); d.must(d.Until(js)) }

// set puts a value into a select or a text field, given as a JavaScript expression, as a person's
// choice does.
func (d *desk) set(js, value string) {
	d.t.Helper()
	d.holds(js)
	quoted, err := json.Marshal(value)
	d.must(err)
	_, err = browser.Eval[bool](d.Browser, `(s => { s.value = `+string(quoted)+`; return s.dispatchEvent(new Event(s.tagName === "SELECT" ? "change" : "input", {bubbles: true})) })(`+js+`)`)
	d.must(err)
}

// row is a JavaScript expression for the text of a line of the sheet.
func row(id string) string {
	return fmt.Sprintf("document.getElementById(%q).innerText.replace(/\\s+/g, ' ')", "g-"+id)
}

func keelFile(t *testing.T, change func(string) string) string {
	t.Helper()
	for _, f := range demo.Patches() {
		if f.Name == "keel.json" {
			path := filepath.Join(t.TempDir(), "from the hire firm.json")
			if err := os.WriteFile(path, []byte(change(string(f.Data))), 0o600); err != nil {
				t.Fatal(err)
			}
			return path
		}
	}
	t.Fatal("no keel")
	return ""
}

// The way of a new user by mouse: desk, sheet, rule, override, undo, dial in, import, export.
func TestByMouse(t *testing.T) {
	d := open(t, true)
	d.visit("/")
	d.sees("Keel bass on Windlass", "Fog Bank pad on Halyard")
	d.set(`document.querySelectorAll(".go select")[1]`, "halyard")
	d.click(".go button")
	d.sees("Windlass to", "checks hold", "39 held")
	d.holds("location.pathname === '/sheets/1'")

	d.click("#g-filter\\.cutoff")
	d.holds("location.search === '?line=filter.cutoff'")
	d.sees("the pivot is C3 there, C4 here")
	d.holds("document.querySelector('[role=slider]').getAttribute('aria-valuetext').includes('Windlass 3.2; Halyard 41')")
	box, err := browser.Eval[[]float64](d.Browser, "(r => [r.left, r.top, r.width])(document.querySelector('[role=slider]').getBoundingClientRect())")
	d.must(err)
	d.must(d.MoveMouse(box[0]+box[2]*0.75, box[1]+60))
	d.holds("document.querySelector('.read').innerText.includes('kHz') && document.querySelector('.read button').innerText.startsWith('set Halyard to')")
	d.click(".read button")
	d.holds(row("filter.cutoff") + ".includes('bent')")
	d.sees("2 bent", "checks hold", "set by hand")
	d.click("button[aria-label^='Undo: set filter.cutoff'], header .tools button:first-child")
	d.holds(row("filter.cutoff") + ".includes('held')")
	d.sees("1 bent")

	// a reading that the instrument cannot show
	d.click("aside form button")
	d.holds("document.querySelector('#override')")
	_, err = browser.Eval[bool](d.Browser, "document.querySelector('#override').select(), true")
	d.must(err)
	d.press("9", "9", "9")
	d.click("aside form button[type=submit]")
	d.sees("0 to 127")
	d.press("Escape")

	// only the losses, and back
	d.click(".sum button:nth-child(2)")
	d.holds("document.querySelectorAll('tbody tr.open').length === 1")
	d.click(".sum button:nth-child(2)")

	d.click("a[href='/sheets/1/dial-in']")
	d.sees("Dial in Keel on Halyard", "Set Mode to legato", "Leave at init")
	d.click("label[for='t-filter.cutoff']")
	d.sees("1 of 29 done")
	d.stop()
	d.start() // a restart of the program: the tick is kept
	d.visit("/sheets/1/dial-in")
	d.sees("1 of 29 done")
	d.holds("document.getElementById('t-filter.cutoff').checked")

	// import by button, with faults named by their place, and then a good one
	d.visit("/patches")
	d.sees("Keel")
	d.must(d.Upload("input[type=file]", keelFile(t, func(s string) string { return strings.Replace(s, `"3.2"`, `"32"`, 1) })))
	d.sees("One file", "from the hire firm.json not imported: /layers/0/readings/filter.cutoff", "0.0 to 10.0")
	d.press("Escape")
	good := keelFile(t, func(s string) string {
		return strings.NewReplacer(`"keel"`, `"keel-hired"`, `"Keel"`, `"Keel, hired"`).Replace(s)
	})
	d.must(d.Upload("input[type=file]", good))
	d.sees("Keel, hired", "only what differs from init")
	d.holds("location.pathname === '/patches/keel-hired'")

	// and by drop
	d.visit("/patches")
	d.sees("Keel, hired")
	text, err := os.ReadFile(good)
	d.must(err)
	quoted, err := json.Marshal(strings.NewReplacer("keel-hired", "keel-dropped", "Keel, hired", "Keel, dropped").Replace(string(text)))
	d.must(err)
	_, err = browser.Eval[bool](d.Browser, `(() => { const t = new DataTransfer(); t.items.add(new File([`+string(quoted)+`], "dropped.json", {type: "application/json"}));
		window.dispatchEvent(new DragEvent("dragenter", {dataTransfer: t, bubbles: true})); return window.dispatchEvent(new DragEvent("drop", {dataTransfer: t, bubbles: true, cancelable: true})), true })()`)
	d.must(err)
	d.holds("location.pathname === '/patches/keel-dropped'")
	d.sees("Keel, dropped")

	// every export that the views offer is there and is a file
	for _, view := range []string{"/panels?line=new", "/sheets/1", "/patches/keel", "/panels/kedge"} { // all files
		d.visit(view)
		d.holds("document.querySelector('h1') && !document.body.innerText.includes('Loading')")
		d.holds("document.querySelector('.more [role=menu]') || !document.querySelector('.more button') || (document.querySelector('.more button').click(), false)")
		d.holds("document.querySelector('a[download], a[href^=\"/api/\"]')")
		n, err := browser.Await[int](d.Browser, `Promise.all([...document.querySelectorAll("a[download], a[href^='/api/']")].map(a => fetch(a.href).then(r => r.ok && r.headers.get("Content-Disposition").startsWith("attachment") ? 1 : -1000))).then(x => x.reduce((a, b) => a + b, 0))`)
		d.must(err)
		if n < 1 {
			t.Errorf("%s: an export fails (%d)", view, n)
		}
	}
}

// The same work by the keyboard alone.
func TestByKeyboard(t *testing.T) {
	d := open(t, false)
	d.visit("/")
	d.sees("Nothing is on the desk yet")
	d.press("s") // the sample translation is one key away
	d.sees("Keel", "Windlass to", "checks hold")
	d.press("?")
	d.sees("move through the lines", "take the last change back")
	d.press("Escape")
	d.holds("!document.body.innerText.includes('move through the lines')")
	d.press("Home")
	for range 100 {
		d.press("ArrowDown")
		at, err := browser.Eval[string](d.Browser, "new URLSearchParams(location.search).get('line')")
		d.must(err)
		if at == "filter.cutoff" {
			break
		}
	}
	d.holds("document.activeElement.id === 'g-filter.cutoff'")
	d.press("8") // typing a number starts an override
	d.holds("document.activeElement.id === 'override' && document.activeElement.value === '8'")
	d.press("0", "Enter")
	d.holds(row("filter.cutoff") + ".includes('80') && " + row("filter.cutoff") + ".includes('bent')")
	d.holds("document.activeElement.id === 'g-filter.cutoff'")
	d.press("Ctrl+z")
	d.holds(row("filter.cutoff") + ".includes(' 41 ')")
	d.press("r", "ArrowRight")
	d.holds("document.activeElement.getAttribute('role') === 'slider' && document.activeElement.getAttribute('aria-valuetext').includes('Halyard 42')")
	d.press("ArrowLeft", "ArrowLeft", "Enter")
	d.holds(row("filter.cutoff") + ".includes(' 40 ')")
	d.press("x")
	d.holds(row("filter.cutoff") + ".includes(' 41 ')")
	d.press("l")
	d.holds("(rows => rows.length > 0 && rows.every(r => /bent|recast|left out|near/.test(r.innerText)))([...document.querySelectorAll('tbody tr.open')])")
	d.press("l", "v")
	d.holds("![...document.querySelectorAll('tbody tr.open')].some(r => r.innerText.includes('idle'))")

	d.press("d")
	d.sees("0 of 29 done", "Set Mode to legato")
	d.press("Space", "Space", "ArrowDown", "Space")
	d.sees("3 of 29 done", "Undo: tick Wave on Halyard") // kept by the server, too
	d.holds("document.activeElement !== document.body")
	d.press("Backspace")
	d.sees("2 of 29 done")
	d.must(d.Reload())
	d.sees("2 of 29 done")
	d.press("Escape")
	d.holds("location.pathname === '/sheets/1'")
	d.press("t")
	d.holds("document.documentElement.getAttribute('theme') === 'g90'")
	d.press("g", "i")
	d.holds("location.pathname === '/panels'")
	d.sees("Kedge")
	d.press("/")
	d.holds("document.activeElement.id === 'find-controls'")
	_, err := browser.Eval[bool](d.Browser, "document.activeElement.select(), true")
	d.must(err)
	d.press("r", "e", "s", "o", " ", "k", "e", "d", "g", "e")
	d.sees("1 found")
	d.press("ArrowDown", "Enter")
	d.holds("location.pathname + location.search === '/panels/kedge?line=lowpass.resonance'")
	d.sees("revision 1")
	d.press("ArrowDown", "ArrowDown")
	d.holds("document.querySelector('tr[aria-current]')")
	d.press("Escape", "g", "p")
	d.holds("location.pathname === '/patches'")
	d.sees("Fog Bank")
	d.press("ArrowDown", "Enter")
	d.sees("only what differs from init")
	d.press("a")
	d.sees("all readings")
	d.press("o")
	d.holds("location.pathname.startsWith('/sheets/')")
	d.must(d.Back())
	d.holds("location.pathname.startsWith('/patches/')")
}

// A patch is made and its readings are typed, stepped, put back and undone, by the keyboard.
func TestPatchDesk(t *testing.T) {
	d := open(t, true)
	d.visit("/patches")
	d.sees("Foghorn")
	d.press("n")
	d.holds("document.activeElement.id === 'new-name'")
	_, err := browser.Eval[bool](d.Browser, "document.activeElement.select(), true")
	d.must(err)
	d.press("S", "p", "r", "a", "y")
	d.set(`document.querySelector("form.new select")`, "thole")
	d.press("Enter")
	d.holds("location.pathname === '/patches/spray'")
	d.sees("Everything stands at init")
	d.press("a")
	d.sees("all readings", "Osc")
	d.visit("/patches/spray?line=filter.cutoff")
	d.press("a")
	d.holds("document.querySelector('tr[aria-selected=true]')?.id === 'r-filter.cutoff'")
	d.press("4", "2")
	d.holds("document.querySelector('#typed-says').innerText.includes('Hz')") // its meaning, as it is typed
	d.press("0")
	d.holds("document.querySelector('#typed-says').innerText.includes('expected 0 to 99')")
	d.press("Enter")
	d.holds("document.querySelector('#typed')") // refused, and nothing lost
	d.press("Backspace", "Enter")
	cutoff := "document.getElementById('r-filter.cutoff').innerText.replace(/\\s+/g, ' ')"
	d.holds(cutoff + ".includes(' 42 ')")
	d.holds("document.querySelector('tr[aria-selected=true]')?.id !== 'r-filter.cutoff'") // the next one is at hand
	d.press("ArrowUp", "ArrowRight")
	d.holds(cutoff + ".includes(' 43 ')")
	d.press("Delete")
	d.holds(cutoff + ".includes(' 99 ')")
	d.press("Ctrl+z")
	d.holds(cutoff + ".includes(' 43 ')")
	d.press("p")
	d.holds("document.activeElement.id === 'paste-notes'")
	d.set("document.activeElement", "cutoff 55, reso 20\nflux 3")
	d.click("section form button[type=submit]")
	d.sees("Take 2 of 2 readings", "Not matched", "no control of Thole")
	d.click("section > .bar button")
	d.sees("2 readings taken")
	d.holds(cutoff + ".includes(' 55 ')")
	d.press("c")
	d.holds("location.pathname === '/patches/spray-copy'")
	d.sees("Spray (copy)")
}

// The reckoner works either way, by the tempo and the note, and says what it cannot read.
func TestReckoner(t *testing.T) {
	d := open(t, false)
	d.visit("/")
	d.sees("Nothing is on the desk yet")
	d.press("=")
	d.holds("location.pathname === '/reckoner'")
	field := func(sum string, side int) string {
		return fmt.Sprintf("document.querySelectorAll('input[data-sum=%s]')[%d]", sum, side)
	}
	d.holds(field("division", 1) + "?.value === '468.75 ms'")
	d.press("ArrowDown")
	d.holds("document.activeElement === " + field("footage", 0))
	d.press("3", "2", "'")
	d.holds(field("footage", 1) + ".value === '-2400 ct'")
	d.press("Tab")
	_, err := browser.Eval[bool](d.Browser, "document.activeElement.select(), true")
	d.must(err)
	d.press("1", "2", " ", "s", "t")
	d.holds(field("footage", 0) + `.value === "4'"`)
	d.press("x")
	d.sees("expected a unit")
}

// The address bar returns to the view and the line; a place that is not there says so.
func TestAddresses(t *testing.T) {
	d := open(t, true)
	d.visit("/")
	d.press("s")
	d.sees("checks hold")
	d.visit("/sheets/1?line=glide")
	d.holds("document.querySelector('tr[aria-selected=true]')?.id === 'g-glide'")
	d.holds("(r => r.top > 80 && r.bottom < 620)(document.getElementById('g-glide').getBoundingClientRect())")
	d.visit("/panels/kedge?line=lowpass.cutoff")
	d.holds("document.querySelector('tr[aria-current]')?.id === 'c-lowpass.cutoff'")
	for path, says := range map[string]string{"/sheets/77": "No such sheet", "/panels/anchor": "No such panel", "/patches/anchor": "No such patch", "/attic": "Nothing here", "/sheets/77/dial-in": "No such sheet"} {
		d.visit(path)
		d.sees(says)
	}
}

// Nothing is fetched from elsewhere, nothing breaks the page's own policy.
func TestStandsAlone(t *testing.T) {
	d := open(t, true)
	d.visit("/")
	d.press("s")
	d.sees("checks hold")
	for _, path := range []string{"/", "/sheets/1?line=filter.cutoff", "/sheets/1/dial-in", "/panels/halyard", "/patches/keel"} {
		d.visit(path)
		d.holds("document.querySelector('h1') && !document.body.innerText.includes('Loading')")
		foreign, err := browser.Eval[[]string](d.Browser, "performance.getEntriesByType('resource').map(e => e.name).filter(n => !n.startsWith(location.origin))")
		d.must(err)
		reports, err := browser.Await[[]string](d.Browser, `new Promise(done => { const seen = []; const o = new ReportingObserver(r => seen.push(...r.map(x => JSON.stringify(x.body))), {types: ["csp-violation"], buffered: true}); o.observe(); setTimeout(() => done(seen), 100) })`)
		d.must(err)
		fonts, err := browser.Await[[]string](d.Browser, "document.fonts.ready.then(f => [...f].filter(x => x.status === 'loaded').map(x => x.family))")
		d.must(err)
		if len(foreign) > 0 || len(reports) > 0 || !strings.Contains(strings.Join(fonts, ","), "IBM Plex Sans") {
			t.Errorf("%s: foreign %v, policy %v, fonts %v", path, foreign, reports, fonts)
		}
	}
}

// axe-core finds no violations in any view, in either theme.
func TestAccess(t *testing.T) {
	for part := range 3 {
		t.Run(fmt.Sprint(part+1), func(t *testing.T) { access(t, part) })
	}
}

// access runs over each third view from part on.
func access(t *testing.T, part int) {
	axe, err := os.ReadFile(filepath.Join("..", "web", "node_modules", "axe-core", "axe.min.js"))
	if err != nil {
		t.Fatalf("axe-core is missing: npm ci in web: %v", err)
	}
	d := open(t, true)
	d.visit("/")
	d.press("s")
	d.sees("checks hold")
	empty := open(t, false)
	// the rules run over each view by day; by night, which is other colours on the same page, the contrasts alone
	run := func(only string) string {
		return `axe.run(document, {resultTypes: ["violations"]` + only + `}).then(r => r.violations.map(v => v.id + ": " + v.nodes.slice(0, 3).map(n => n.target.join(" ") + " " + (n.any[0]?.message ?? n.all[0]?.message ?? n.none[0]?.message ?? "")).join(" | ")).join("\n"))`
	}
	for i, v := range []struct {
		d    *desk
		path string
		keys []string
	}{
		{d, "/", nil}, {empty, "/", nil}, {empty, "/patches", nil}, {empty, "/panels", nil}, {d, "/patches", nil}, {d, "/patches/keel", []string{"a"}}, {d, "/panels", nil}, {d, "/panels/halyard", nil}, {d, "/panels/kedge", nil},
		{d, "/sheets/1?line=filter.cutoff", nil}, {d, "/sheets/1?line=osc2.wave", []string{"Enter"}}, {d, "/sheets/1", []string{"l"}}, {d, "/sheets/1", []string{"?"}},
		{d, "/sheets/1/dial-in", []string{"Space"}}, {d, "/sheets/1/dial-in?line=filter.cutoff", []string{"m", "c"}}, {d, "/sheets/1/dial-in", []string{"e"}}, {d, "/log", nil}, {d, "/keep", nil}, {d, "/panels/halyard/slots", nil}, {d, "/shows", nil}, {d, "/ear", nil}, {d, "/", []string{"F1"}}, {d, "/shows/1", []string{"ArrowDown", "e"}}, {d, "/shows/1/h2/hire", nil}, {d, "/shows/1/h1/rehearse/1", []string{"s", "Space"}}, {d, "/patches/keel", []string{"s"}}, {d, "/sheets/1/changeover", nil}, {d, "/reckoner", nil}, {d, "/patches/foghorn", []string{"Enter"}}, {d, "/patches/keel", []string{"e"}}, {d, "/patches", []string{"n"}}, {d, "/patches/keel", []string{"p"}}, {d, "/panels/binnacle", nil}, {d, "/panels/kedge/workshop?line=controls:lowpass.cutoff", nil}, {d, "/panels/thole/workshop?line=controls:osc1.wave", []string{"h"}}, {d, "/panels/binnacle/workshop?line=modules:osc1", []string{"Delete"}}, {d, "/panels", []string{"n"}},
		{d, "/patches/keel", []string{"f"}}, {d, "/patches/keel", []string{"v"}}, {d, "/patches/foghorn", []string{"k"}}, {d, "/patches/foghorn", []string{"y"}}, {d, "/patches/morning-light/targets", nil}, {d, "/bank", []string{"r"}}, {empty, "/bank", nil}, {d, "/sheets/1", []string{"p"}},
		{d, "/sheets/1/listen", nil}, {d, "/sheets/1/listen", []string{"b"}},
		{d, "/panels/coracle/workshop", []string{"a"}}, {d, "/panels/coracle/workshop", []string{"n"}}, {empty, "/panels", []string{"n"}},
		{d, "/panels/kedge/bench", nil}, {d, "/panels/kedge/bench/env.sustain", []string{"Space"}}, {d, "/panels/kedge/bench/osc1.wave", nil},
		{d, "/attic", nil}, {d, "/sheets/77", nil},
	} {
		if i%3 != part {
			continue
		}
		v.d.visit(v.path)
		v.d.holds("document.querySelector('h1') && !document.body.innerText.includes('Loading')")
		v.d.press(v.keys...)
		_, err = browser.Eval[bool](v.d.Browser, "document.documentElement.setAttribute('theme', 'white'), true")
		v.d.must(err)
		_, err = browser.Eval[bool](v.d.Browser, string(axe)+"; true")
		v.d.must(err)
		for _, look := range [][2]string{{"white", ""}, {"g90", `, runOnly: ["color-contrast"]`}} {
			_, err = browser.Eval[bool](v.d.Browser, "document.documentElement.setAttribute('theme', '"+look[0]+"'), true")
			v.d.must(err)
			found, err := browser.Await[string](v.d.Browser, run(look[1]))
			v.d.must(err)
			if found != "" {
				t.Errorf("%s %v %s: %s", v.path, v.keys, look[0], found)
			}
		}
	}
}

// Two on one patch: what the other has changed elsewhere comes with the next answer; what both have changed is told with both of it, and what stands there is shown.
func TestChangedElsewhere(t *testing.T) {
	d := open(t, true)
	d.visit("/patches/keel?line=filter.cutoff")
	d.press("a")
	d.holds("document.getElementById('r-filter.cutoff') !== null && document.getElementById('r-filter.resonance') !== null")
	elsewhere := func(control, reading string) {
		t.Helper()
		d.holds(fmt.Sprintf(`(() => { const k = %q; window.sent ??= {}; if (!window.sent[k]) { window.sent[k] = 1;
			fetch("/api/v1/patches/keel/layers/a/readings/" + k, {method: "PUT", headers: {"Content-Type": "application/json"}, body: JSON.stringify({reading: %q})}).then((r) => (window.sent[k] = r.ok ? 2 : 3)); }
			return window.sent[k] === 2; })()`, control, reading))
	}
	row := func(control string) string {
		return fmt.Sprintf("document.getElementById('r-%s').innerText.replace(/\\s+/g, ' ')", control)
	}
	elsewhere("filter.resonance", "2.7")
	d.press("4", ".", "2", "Enter")
	d.holds(row("filter.cutoff") + ".includes(' 4.2 ')")
	d.holds(row("filter.resonance") + ".includes(' 2.7 ')") // it is in the answer
	elsewhere("filter.cutoff", "5.5")
	d.press("ArrowUp")
	d.holds("document.querySelector('tr[aria-selected=true]')?.id === 'r-filter.cutoff'")
	d.press("6", ".", "1", "Enter")
	d.sees("Changed elsewhere", "was \"4.2\"", "is \"5.5\" now", "was to be \"6.1\"")
	d.holds("document.querySelector('#typed').value === '6.1'") // nothing that was typed is lost
	d.press("Escape")
	d.holds(row("filter.cutoff") + ".includes(' 5.5 ')")
}
