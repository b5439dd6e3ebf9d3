// Package desk is a running program with a browser before it: what the browser tests of e2e and of the folders in it are written with.
package desk

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

	"glossator/core/panel"
	"glossator/demo"
	"glossator/e2e/browser"
	"glossator/server"
	"glossator/store"
	"glossator/web"
)

// Desk is a running program with a browser before it.
type Desk struct {
	*browser.Browser
	T      *testing.T
	DB     string
	Store  *store.Store
	Server *httptest.Server
	// Each answer to an edit of a draft is held back until something is sent here.
	Answers chan struct{}
	// How long every answer takes, in nanoseconds: the way to a program far off.
	Late atomic.Int64
	// The program does not answer while it is down.
	Down atomic.Bool
}

// begun has the tests that have opened a desk.
var begun sync.Map

// Open starts the program and a browser before it, with the sample or without; both end with the test. Tests that open one run beside each other.
func Open(t *testing.T, sample bool) *Desk {
	t.Helper()
	if _, again := begun.LoadOrStore(t, true); !again {
		t.Parallel() // each has a program, a store and a browser of its own
	}
	if _, ok := web.App(); !ok {
		t.Fatal("the front end is not built: make build")
	}
	d := &Desk{T: t, DB: filepath.Join(t.TempDir(), "e2e.db")}
	d.Start()
	if sample {
		_, err := server.LoadSample(d.Store)
		d.Must(err)
	}
	b, err := browser.Open(1280, 800)
	d.Must(err)
	d.Browser = b
	t.Cleanup(func() { b.Close(); d.Stop() })
	return d
}

// Start starts the program on the file that is there.
func (d *Desk) Start() {
	st, err := store.Open(d.DB)
	d.Must(err)
	d.Store = st
	program := server.New(server.Config{Store: st, Sounds: filepath.Join(filepath.Dir(d.DB), "sounds")})
	d.Server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		time.Sleep(time.Duration(d.Late.Load()))
		if d.Down.Load() {
			panic(http.ErrAbortHandler)
		}
		if d.Answers == nil || r.Method != http.MethodPost || !strings.HasSuffix(r.URL.Path, "/workshop") {
			program.ServeHTTP(w, r)
			return
		}
		late := httptest.NewRecorder()
		program.ServeHTTP(late, r)
		<-d.Answers
		maps.Copy(w.Header(), late.Header())
		w.WriteHeader(late.Code)
		_, _ = w.Write(late.Body.Bytes())
	}))
}

// Stop stops it.
func (d *Desk) Stop() {
	d.Server.Close()
	_ = d.Store.Close()
}

// Must ends the test with an error.
func (d *Desk) Must(err error) {
	d.T.Helper()
	if err != nil {
		d.T.Fatal(err)
	}
}

// Visit loads a page and waits for its view, which takes keys from then on.
func (d *Desk) Visit(path string) {
	d.T.Helper()
	d.Must(d.Go(d.Server.URL + path))
	d.Holds("document.readyState === 'complete' && document.querySelector('main h1, main .missing, main p')")
}

// Sees waits for texts, one after the other.
func (d *Desk) Sees(texts ...string) {
	d.T.Helper()
	for _, text := range texts {
		d.Must(d.Text(text))
	}
}

// Press presses keys, as Browser.Press.
func (d *Desk) Press(keys ...string) { d.T.Helper(); d.Must(d.Browser.Press(keys...)) }

// Click clicks what a CSS selector finds first.
func (d *Desk) Click(css string) { d.T.Helper(); d.Must(d.Browser.Click(css)) }

// Holds waits for an expression in the page to be true.
func (d *Desk) Holds(js string) { d.T.Helper(); d.Must(d.Until(js)) }

// Set puts a value into a select or a text field, given as a JavaScript expression, as a person's
// choice does.
func (d *Desk) Set(js, value string) {
	d.T.Helper()
	d.Holds(js)
	quoted, err := json.Marshal(value)
	d.Must(err)
	_, err = browser.Eval[bool](d.Browser, `(s => { s.value = `+string(quoted)+`; return s.dispatchEvent(new Event(s.tagName === "SELECT" ? "change" : "input", {bubbles: true})) })(`+js+`)`)
	d.Must(err)
}

// Row is a JavaScript expression for the text of a line of the sheet.
func Row(id string) string {
	return fmt.Sprintf("document.getElementById(%q).innerText.replace(/\\s+/g, ' ')", "g-"+id)
}

// KeelFile writes the demo's first patch, changed, to a file.
func KeelFile(t *testing.T, change func(string) string) string {
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

// Drops gives a file to a field for files.
func (d *Desk) Drops(js, name, media, text string) {
	d.T.Helper()
	d.Holds(`(() => { const f = ` + js + `; if (!f) return false; const t = new DataTransfer(); t.items.add(new File(["` + text + `"], "` + name + `", {type: "` + media + `"})); f.files = t.files;
		f.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`)
}

// Opens goes to the sheet of a patch on a target.
func (d *Desk) Opens(patch, target string) {
	d.T.Helper()
	d.Visit("/")
	d.Sees("Keel bass on Windlass")
	d.Set(`document.querySelectorAll(".go select")[0]`, patch)
	d.Set(`document.querySelectorAll(".go select")[1]`, target)
	d.Click(".go button")
	d.Sees("checks hold")
}

// Does waits for the tab, button or label with a text to be seen, and clicks it or gives it the focus.
func (d *Desk) Does(what, text string) {
	d.T.Helper()
	js := fmt.Sprintf(`[...document.querySelectorAll("[role=tab], button, label")].find(b => b.textContent.includes(%q) && b.offsetParent)`, text)
	d.Holds("!!" + js)
	_, err := browser.Eval[bool](d.Browser, js+"."+what+"(), true")
	d.Must(err)
}

// Listen opens the sheet of Keel on Halyard and goes to listen to it.
func (d *Desk) Listen() {
	d.T.Helper()
	d.Visit("/")
	d.Sees("Keel bass on Windlass")
	d.Set(`document.querySelectorAll(".go select")[1]`, "halyard")
	d.Click(".go button")
	d.Sees("checks hold")
	d.Press("h")
	d.Holds("location.pathname === '/sheets/1/listen'")
	d.Sees("just-noticeable differences apart")
}

// Settled waits until everything that was typed has been answered.
func (d *Desk) Settled() {
	d.T.Helper()
	d.Holds("!document.querySelector('tr.coming')")
	d.Holds(`document.querySelector(".page").dataset.busy !== "yes"`)
}

// Draft is the panel that is being edited, as the store has it.
func (d *Desk) Draft(id string) *panel.Panel {
	d.T.Helper()
	row, err := d.Store.Draft(id)
	d.Must(err)
	var p panel.Panel
	d.Must(json.Unmarshal(row.Document, &p))
	return &p
}

// Focused is the id of the element that has the focus.
func (d *Desk) Focused() string {
	d.T.Helper()
	id, err := browser.Eval[string](d.Browser, "document.activeElement.id")
	d.Must(err)
	return strings.TrimSpace(id)
}

// Picks puts a field of a form that is labelled so to a value.
func (d *Desk) Picks(label, value string) {
	d.T.Helper()
	d.Set(`[...document.querySelectorAll("form.fields label")].find((l) => l.innerText.trim().startsWith("`+label+`"))?.querySelector("input, select")`, value)
}

// Put types a text in place of what stands in the field that has the focus, once one has it.
func (d *Desk) Put(text string) {
	d.T.Helper()
	d.Holds(`typeof document.activeElement.select === "function"`)
	_, err := browser.Eval[bool](d.Browser, "document.activeElement.select(), true")
	d.Must(err)
	for _, c := range text {
		d.Press(string(c))
	}
}

// Field is a JavaScript expression for the field with a label in the editor.
func Field(label string) string {
	return `[...document.querySelectorAll(".editor label")].find(l => l.textContent.trim() === "` + label + `")?.parentElement.querySelector("input, select, textarea")`
}

// Focus gives the focus to an element, given as a JavaScript expression.
func (d *Desk) Focus(js string) {
	d.T.Helper()
	d.Holds(js)
	_, err := browser.Eval[bool](d.Browser, "("+js+").focus(), true")
	d.Must(err)
}
