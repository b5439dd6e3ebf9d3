// Package views goes over all views in a browser: by keys, for everybody, on a phone, in the workshop's forms.
package views

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"glossator/e2e/browser"
	"glossator/e2e/desk"
	"glossator/testutil/whole"
)

// every view and drawer, with the keys that open it.
var views = []struct {
	path string
	keys []string
}{
	{"/", nil}, {"/", []string{"ArrowDown", "x"}}, {"/patches", nil}, {"/patches", []string{"ArrowDown", "x"}}, {"/patches", []string{"n"}}, {"/patches/keel", nil}, {"/patches/keel", []string{"e"}}, {"/patches/keel", []string{"f"}}, {"/patches/keel", []string{"p"}},
	{"/patches/keel", []string{"v"}}, {"/patches/foghorn", []string{"k"}}, {"/patches/foghorn", []string{"y"}}, {"/panels", nil}, {"/panels", []string{"ArrowDown", "x"}}, {"/panels/halyard", nil}, {"/panels?line=new", nil},
	{"/panels/kedge/workshop", nil}, {"/panels/kedge/bench", nil}, {"/panels/kedge/bench/mix.noise", []string{"Space"}}, {"/panels/halyard/workshop?line=controls:filter.cutoff", nil}, {"/panels/halyard/workshop?line=modules:filter", nil}, {"/log", nil}, {"/keep", nil}, {"/panels/halyard/slots", nil}, {"/shows", nil}, {"/ear", nil}, {"/shows/1", []string{"F1"}}, {"/shows/1", []string{"ArrowDown", "e"}}, {"/shows/1/h2/hire", nil}, {"/shows/1/h1/rehearse/1", []string{"s"}}, {"/patches/keel", []string{"s"}}, {"/sheets/1/changeover", nil}, {"/sheets/1/dial-in?line=filter.cutoff", []string{"c"}}, {"/sheets/1/dial-in", []string{"m"}}, {"/bank", nil}, {"/reckoner", nil},
	{"/sheets/1", nil}, {"/sheets/1?line=filter.cutoff", nil}, {"/sheets/1", []string{"p"}}, {"/sheets/1/dial-in", nil}, {"/sheets/1/listen", nil}, {"/patches/keel/targets", nil}, {"/attic", nil},
}

// On a phone no view is wider than the page, nothing that axe-core looks for is wrong, by day and by night, and at 200 % (the same width in larger letters: 640 pixels at half size) likewise.
func TestEveryViewOnAPhone(t *testing.T) {
	for part := range 2 {
		t.Run(fmt.Sprint(part+1), func(t *testing.T) { onAPhone(t, part) })
	}
}

func onAPhone(t *testing.T, part int) {
	axe, err := os.ReadFile(filepath.Join("..", "..", "web", "node_modules", "axe-core", "axe.min.js"))
	if err != nil {
		t.Fatalf("axe-core is missing: npm ci in web: %v", err)
	}
	d := desk.Open(t, true)
	d.Opens("keel", "halyard")
	d.Sees("checks hold")
	for i, v := range views {
		if i%2 != part {
			continue
		}
		d.Must(d.Size(390, 800))
		d.Visit(v.path)
		d.Holds("document.querySelector('h1, h2') && !document.body.innerText.includes('Loading')")
		d.Press(v.keys...)
		for _, width := range []int{390, 640} {
			d.Must(d.Size(int64(width), 800))
			wide, err := browser.Eval[int](d.Browser, "document.documentElement.scrollWidth")
			d.Must(err)
			if wide > width {
				by, err := browser.Eval[string](d.Browser, fmt.Sprintf(`[...document.querySelectorAll("main *")].filter(e => e.getBoundingClientRect().right > %d && !e.closest("[class*=scroll], .visually-hidden")).slice(0, 4).map(e => e.tagName + "." + e.className).join(" ")`, width+1))
				d.Must(err)
				t.Errorf("%s %v is %d wide at %d: %s", v.path, v.keys, wide, width, by)
			}
		}
		d.Must(d.Size(390, 800))
		_, err = browser.Eval[bool](d.Browser, string(axe)+"; true")
		d.Must(err)
		looks := [][2]string{{"white", ""}, {"g90", `, runOnly: ["color-contrast"]`}}
		if i%3 > 0 && !whole.Asked() { // the colours of the night are those of the wide page, which TestAccess goes over
			looks = looks[:1]
		}
		for _, look := range looks {
			_, err = browser.Eval[bool](d.Browser, "document.documentElement.setAttribute('theme', '"+look[0]+"'), true")
			d.Must(err)
			found, err := browser.Await[string](d.Browser, `axe.run(document, {resultTypes: ["violations"]`+look[1]+`}).then(r => r.violations.map(v => v.id + ": " + v.nodes.slice(0, 3).map(n => n.target.join(" ") + " " + (n.any[0]?.message ?? n.all[0]?.message ?? n.none[0]?.message ?? "")).join(" | ")).join("\n"))`)
			d.Must(err)
			if found != "" {
				t.Errorf("%s %v %s: %s", v.path, v.keys, look[0], found)
			}
		}
	}
}

// Beside the instrument the buttons of the dial-in list are large enough for a thumb (44 pixels: WCAG 2.2, 2.5.5), the reading is large, a card of the sheet says reading, target and verdict, and a tick is seen at once.
func TestDialInOnAPhone(t *testing.T) {
	d := desk.Open(t, true)
	d.Must(d.Size(390, 800))
	d.Opens("keel", "halyard")
	d.Holds(`[...document.querySelectorAll("tr.open")].some(r => r.querySelector(".from")?.dataset.of === "Windlass" && getComputedStyle(r.querySelector(".to"), "::before").content.includes("Halyard") && r.innerText.includes("held"))`)
	d.Visit("/sheets/1?line=filter.cutoff")
	d.Holds(`document.querySelector("tr.about aside svg") !== null`) // its picture is in the card
	d.Visit("/sheets/1/dial-in")
	d.Sees("Set Mode to", "0 of 29 done")
	small, err := browser.Eval[[]string](d.Browser, `[...document.querySelectorAll(".now button")].filter(b => b.offsetParent && b.getBoundingClientRect().height < 44).map(b => b.innerText)`)
	d.Must(err)
	if len(small) > 0 {
		t.Errorf("smaller than a thumb: %v", small)
	}
	size, err := browser.Eval[float64](d.Browser, `parseFloat(getComputedStyle(document.querySelector(".now .big b.num")).fontSize)`)
	d.Must(err)
	if size < 40 {
		t.Errorf("the reading is %v pixels high", size)
	}
	// seen in the frame after the press, before the program has answered
	seen, err := browser.Await[bool](d.Browser, `new Promise(done => { document.querySelector(".now .do").click(); requestAnimationFrame(() => requestAnimationFrame(() => { done(document.body.innerText.includes("1 of 29 done")) })) })`)
	d.Must(err)
	if !seen {
		t.Error("a tick waits for the program's answer")
	}
	d.Sees("1 of 29 done")
}
