// Command shots takes the screenshots of docs/screenshots from the demo data, or of any
// address of a running program: shots -url http://127.0.0.1:8737 -out shot.png /sheets/1
package main

import (
	"flag"
	"fmt"
	"log"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"time"

	"glossator/core/audition"
	"glossator/core/nearest"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/demo"
	"glossator/e2e/browser"
	"glossator/formats"
	"glossator/server"
	"glossator/store"
)

// shot is one picture: where, after which keys, and in which theme.
type shot struct {
	heard      bool // what listening has shown has to be there
	name, path string
	keys       []string
	clicks     []string // then the tabs and buttons with these texts
	dark       bool
	width      int64
}

var shots = []shot{
	{name: "desk", path: "/"},
	{name: "patch", path: "/patches/keel"},
	{name: "reckoner", path: "/reckoner?value=600+Hz&of=Foghorn%3A+Filter+Cutoff&tempo=60"},
	{name: "panel", path: "/panels/windlass"},
	{name: "workshop-table", path: "/panels/kedge/workshop?line=table:all", keys: []string{"n", "S", "n", "a", "r", "l", "Tab", "0", " ", "t", "o", " ", "1", "0", "Tab", "d", "r", "i"}},
	{name: "bench", path: "/panels/kedge/bench/env.attack", clicks: []string{"Go on until it is known"}},
	{name: "sheet", path: "/sheets/1?line=filter.cutoff", heard: true},
	{name: "sheet-phone", path: "/sheets/1?line=filter.cutoff", width: 390, heard: true},
	{name: "sheet-losses", path: "/sheets/2?line=filter.track", keys: []string{"l"}, dark: true, heard: true},
	{name: "targets", path: "/patches/keel/targets", clicks: []string{"Listen to all"}},
	{name: "listen", path: "/sheets/1/listen"},
	{name: "log", path: "/log"},
	{name: "dial-in", path: "/sheets/1/dial-in"},
	{name: "changeover", path: "/sheets/4/changeover", keys: []string{"Space", "Space"}, dark: true},
	{name: "show", path: "/shows/1/h1"},
	{name: "hire", path: "/shows/1/h2/hire", keys: []string{"3"}, dark: true},
	{name: "rehearse", path: "/shows/1/h1/rehearse/1", keys: []string{"s", " ", " ", " "}},
	{name: "ear", path: "/ear/1", keys: []string{"ArrowRight"}},
	{name: "dial-in-phone", path: "/sheets/1/dial-in", width: 390},
}

func main() {
	log.SetFlags(0)
	url := flag.String("url", "", "a running program; absent: one of its own with the demo data")
	out := flag.String("out", "docs/screenshots", "folder, or with -url the file")
	dark := flag.Bool("dark", false, "dark theme")
	width := flag.Int64("width", 1280, "width of the page")
	var clicks keyList
	flag.Var(&clicks, "click", "then click the tab or button with this text; may be repeated")
	var keys keyList
	flag.Var(&keys, "key", "press a key first; may be repeated")
	flag.Parse()
	if *url != "" {
		one(*url, []shot{{name: filepath.Base(*out), path: flag.Arg(0), keys: keys, clicks: clicks, dark: *dark, width: *width}}, func(shot) string { return *out })
		return
	}
	dir, err := os.MkdirTemp("", "glossator-shots-")
	check(err)
	defer func() { _ = os.RemoveAll(dir) }()
	st, err := store.Open(filepath.Join(dir, "shots.db"))
	check(err)
	check(fill(st))
	srv := httptest.NewServer(server.New(server.Config{Store: st, Sounds: filepath.Join(dir, "sounds")}))
	defer srv.Close()
	check(os.MkdirAll(*out, 0o755))
	check(corrected(srv.URL))
	one(srv.URL, shots, func(s shot) string { return filepath.Join(*out, s.name+".png") })
}

type keyList []string

func (k *keyList) String() string     { return "" }
func (k *keyList) Set(s string) error { *k = append(*k, s); return nil }

// fill loads the sample, makes two sheets and works on the first.
func fill(st *store.Store) error {
	if _, err := server.LoadSample(st); err != nil {
		return err
	}
	rack := map[string]*panel.Compiled{}
	for _, f := range demo.Panels() {
		c, err := formats.ReadPanel(f.Name, f.Data)
		if err != nil {
			return err
		}
		rack[c.ID] = c
	}
	var keel *patch.Patch
	for _, f := range demo.Patches() {
		p, err := formats.ReadPatch(f.Name, f.Data)
		if err != nil {
			return err
		}
		if p.ID == "keel" {
			keel = p
		}
	}
	byEar := func(p *patch.Patch, target string) error {
		notes, _, err := audition.Notes(p, "", 0)
		if err != nil {
			return err
		}
		_, err = st.OpenSheet(p, "", rack[p.Panel], rack[target], plan.Ear, func() (c plan.Choices, err error) {
			c.Tuned, err = nearest.Find(nearest.Task{Source: rack[p.Panel], Target: rack[target], Patch: p, Notes: notes})
			return c, err
		})
		return err
	}
	for _, target := range []string{"halyard", "kedge"} {
		if err := byEar(keel, target); err != nil {
			return err
		}
	}
	under, err := formats.ReadPatch("undertow", undertow())
	if err != nil {
		return err
	}
	if err := byEar(under, "windlass"); err != nil {
		return err
	}
	if _, err := st.OpenSheet(under, "", rack[under.Panel], rack["kedge"], plan.Numbers); err != nil {
		return err
	}
	for _, key := range []string{"voice.mode", "osc1.range", "osc1.level", "osc2.wave"} {
		if err := st.SetTick(1, key, key, true); err != nil {
			return err
		}
	}
	return nil
}

// corrected writes into the log what was set otherwise than planned on the sheet of Undertow, and begins a sitting of ear practice, as a page does.
func corrected(url string) error {
	for _, x := range [][3]string{
		{"POST", "/ear", `{"who": "keys one", "patch": "undertow", "parts": 3}`},
		{"PUT", "corrections/filter.cutoff", `{"reading": "7.8", "tags": ["brighter"], "why": "lost behind the low strings"}`},
		{"PUT", "corrections/filter.cutoff", `{"reading": "7.3", "tags": ["brighter"], "why": "half of it is enough"}`},
		{"PUT", "corrections/filter.resonance", `{"reading": "0.3", "tags": ["softer"]}`},
		{"POST", "entries", `{"kind": "note", "why": "the end of the line swells more than on the old one"}`},
		{"POST", "entries", `{"kind": "sign-off", "why": "", "who": "musical director"}`},
	} {
		path := "/sheets/3/" + x[1]
		if strings.HasPrefix(x[1], "/") {
			path = x[1]
		}
		req, err := http.NewRequest(x[0], url+server.Base+path, strings.NewReader(x[2]))
		if err != nil {
			return err
		}
		req.Header.Set("Content-Type", "application/json")
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			return err
		}
		if err := res.Body.Close(); err != nil {
			return err
		}
		if res.StatusCode >= 300 {
			return fmt.Errorf("%s: %s", x[1], res.Status)
		}
	}
	return nil
}

func undertow() []byte {
	for _, f := range demo.Patches() {
		if f.Name == "undertow.json" {
			return f.Data
		}
	}
	return nil
}

func one(url string, list []shot, file func(shot) string) {
	b, err := browser.Open(1280, 800)
	check(err)
	defer b.Close()
	for _, s := range list {
		width, height := int64(1280), int64(800)
		if s.width > 0 {
			width = s.width
		}
		check(b.Size(width, height))
		check(b.Go(url + "/"))
		theme := "white"
		if s.dark {
			theme = "g90"
		}
		_, err := browser.Eval[bool](b, "localStorage.setItem('glossator-theme', '"+theme+"'), true")
		check(err)
		check(b.Go(url + s.path))
		check(b.Until("document.querySelector('h1') && !document.body.innerText.includes('Loading')"))
		check(b.Press(s.keys...))
		for _, text := range s.clicks {
			find := fmt.Sprintf(`[...document.querySelectorAll("[role=tab], button")].find(x => x.textContent.includes(%q))`, text)
			check(b.Until("!!" + find))
			_, err := browser.Eval[bool](b, find+".click(), true")
			check(err)
			if text == "Search by ear" {
				for range 8 { // a search takes seconds
					if b.Until(`document.body.innerText.includes("just-noticeable differences in")`) == nil {
						break
					}
				}
			}
			if text == "Go on until it is known" {
				check(b.Until(`document.querySelector(".next h2").textContent === "Known"`))
			}
			if text == "Listen to all" {
				for range 30 {
					if b.Until(`[...document.querySelectorAll("button")].filter(x => x.textContent.includes("Stop listening")).length === 0`) == nil {
						break
					}
				}
			}
		}
		if strings.HasSuffix(s.path, "/listen") {
			check(b.Until(`document.body.textContent.includes("differences apart")`))
			time.Sleep(time.Second)
		}
		if s.heard {
			check(b.Until(`document.querySelector(".heard")?.textContent.includes("just-noticeable")`))
		}
		time.Sleep(900 * time.Millisecond)
		check(b.Shot(file(s)))
	}
}

func check(err error) {
	if err != nil {
		log.Fatal(err)
	}
}
