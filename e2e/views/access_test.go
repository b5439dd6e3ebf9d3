package views

import (
	"fmt"
	"glossator/e2e/browser"
	"glossator/e2e/desk"
	"os"
	"path/filepath"
	"testing"
)

// cut lists what text stands in boxes that are lower than its letters and hide what hangs over: the tails of g and p are gone there (letters of a fifth more than the size of their type: CSS 2.1, 10.8, takes 1.0 to 1.2 for a normal line).
const cut = `[...document.querySelectorAll("body *")].filter(e => { const s = getComputedStyle(e); return e instanceof HTMLElement && s.overflowY !== "visible" && e.clientHeight > 4 && [...e.childNodes].some(n => n.nodeType === 3 && n.data.trim() || n.nodeType === 1 && n.textContent.trim() && getComputedStyle(n).display === "inline") && e.clientHeight < 1.15 * parseFloat(s.fontSize) }).map(e => e.tagName + "." + e.className + ": " + e.textContent.trim().slice(0, 40)).join("\n")`

// axe-core finds no violations in any view, in either theme, and no letters are cut off below.
func TestAccess(t *testing.T) {
	for part := range 3 {
		t.Run(fmt.Sprint(part+1), func(t *testing.T) { access(t, part) })
	}
}

// access runs over each third view from part on.
func access(t *testing.T, part int) {
	axe, err := os.ReadFile(filepath.Join("..", "..", "web", "node_modules", "axe-core", "axe.min.js"))
	if err != nil {
		t.Fatalf("axe-core is missing: npm ci in web: %v", err)
	}
	d := desk.Open(t, true)
	d.Visit("/")
	d.Press("s")
	d.Sees("checks hold")
	empty := desk.Open(t, false)
	// the rules run over each view by day; by night, which is other colours on the same page, the contrasts alone
	run := func(only string) string {
		return `axe.run(document, {resultTypes: ["violations"]` + only + `}).then(r => r.violations.map(v => v.id + ": " + v.nodes.slice(0, 3).map(n => n.target.join(" ") + " " + (n.any[0]?.message ?? n.all[0]?.message ?? n.none[0]?.message ?? "")).join(" | ")).join("\n"))`
	}
	for i, v := range []struct {
		d    *desk.Desk
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
		v.d.Visit(v.path)
		v.d.Holds("document.querySelector('h1') && !document.body.innerText.includes('Loading')")
		v.d.Press(v.keys...)
		_, err = browser.Eval[bool](v.d.Browser, "document.documentElement.setAttribute('theme', 'white'), true")
		v.d.Must(err)
		low, err := browser.Eval[string](v.d.Browser, cut)
		v.d.Must(err)
		if low != "" {
			t.Errorf("%s %v: cut off below: %s", v.path, v.keys, low)
		}
		_, err = browser.Eval[bool](v.d.Browser, string(axe)+"; true")
		v.d.Must(err)
		for _, look := range [][2]string{{"white", ""}, {"g90", `, runOnly: ["color-contrast"]`}} {
			_, err = browser.Eval[bool](v.d.Browser, "document.documentElement.setAttribute('theme', '"+look[0]+"'), true")
			v.d.Must(err)
			found, err := browser.Await[string](v.d.Browser, run(look[1]))
			v.d.Must(err)
			if found != "" {
				t.Errorf("%s %v %s: %s", v.path, v.keys, look[0], found)
			}
		}
	}
}
