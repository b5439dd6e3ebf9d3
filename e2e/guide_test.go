package e2e

import (
	"fmt"
	"testing"

	"glossator/e2e/browser"
)

// The guide goes through the real views: a step is noticed when it has been done there, by the keyboard alone; it stays over a reload, and help for every view stands beside it.
func TestGuideByKeys(t *testing.T) {
	d := open(t, true)
	d.visit("/")
	d.press("F1")
	d.holds(`document.querySelector("aside.help")?.innerText.includes("The desk shows what is on the go")`)
	d.does("click", "The first half hour, as a guide")
	d.sees("1 of 13", "The desk")
	noticed := func() { d.t.Helper(); d.holds(`!!document.querySelector(".guide .done")`) }
	d.press("s")
	d.sees("checks hold")
	noticed()
	d.press("F2")
	d.sees("2 of 13")
	d.press("ArrowDown", "ArrowDown")
	noticed()
	d.press("F2")
	d.sees("Another reading")
	d.holds(`!document.querySelector(".guide .done")`)
	d.visit("/sheets/1?line=filter.cutoff")
	d.sees("3 of 13", "checks hold")
	d.press("9")
	d.holds(`document.activeElement?.tagName === "INPUT"`)
	d.press("0", "Enter")
	noticed()
	d.press("F2")
	d.sees("4 of 13")
	d.press("h")
	d.holds(`location.pathname === "/sheets/1/listen"`)
	noticed()
	d.press("F2", "F2", "F2", "F2")
	d.sees("8 of 13", "Which instrument")
	d.press("F1")
	d.holds(`!!document.querySelector("aside.help p")`)
	d.does("click", "Leave it")
	d.holds(`!document.querySelector(".guide")`)
	for _, path := range []string{"/patches", "/shows/1", "/ear", "/panels/halyard", "/keep", "/reckoner"} {
		d.visit(path)
		d.press("F1")
		d.holds(`(document.querySelector("aside.help p")?.innerText.length ?? 0) > 60`)
	}
}

// Ear practice by keys: a sitting is begun on a patch, its three sounds are there, right and wrong answers are told with what differed and by how much; it goes on after a reload. Ears that have been found can
// judge the lines of a sheet.
func TestEarPracticeByKeys(t *testing.T) {
	d := open(t, true)
	d.visit("/ear")
	d.press("n")
	d.put("keys one")
	d.set(`document.querySelector("form.fields select")`, "undertow")
	d.press("Enter")
	d.sees("Ear practice: Undertow", "Trial 1")
	d.holds(`!document.body.innerText.includes("Rendering")`)
	d.press("ArrowRight")
	d.sees("and it differs in", "I cannot say")
	d.press("Escape")
	d.holds(`!document.body.innerText.includes("and it differs in")`)
	for n := range 3 {
		d.holds(fmt.Sprintf(`document.body.innerText.includes("Trial %d,") && !document.body.innerText.includes("Rendering")`, n+1))
		d.press([]string{"ArrowLeft", "ArrowRight"}[n%2])
		d.sees("and it differs in")
		d.press([]string{"Enter", "1", "2"}[n])
		d.sees("was the other one", "of the published difference")
	}
	d.visit("/ear/1")
	d.sees("Trial 4")
	row, err := d.st.EarSitting(1)
	d.must(err)
	if row.Who != "keys one" || row.Patch != "undertow" {
		t.Errorf("%+v", row)
	}
	// a whole sitting, answered by somebody who guesses
	seen := map[string]bool{}
	for range 400 {
		answered, err := browser.Await[string](d.Browser, fmt.Sprintf(`fetch("/api/v1/ear/1").then((r) => r.json()).then(async (v) => { if (!v.trial) return "end";
			const a = await (await fetch("/api/v1/ear/1/answers", {method: "POST", headers: {"Content-Type": "application/json"}, body: JSON.stringify({trial: v.trial, second: %v, named: ""})})).json(); return a.last ? a.last.part : "no"; })`, len(seen)%2 == 0))
		d.must(err)
		if answered == "end" {
			break
		}
		seen[answered] = true
	}
	d.visit("/ear/1")
	d.sees("The sitting has ended")
	if len(seen) != 3 {
		t.Errorf("of three things that may differ %v did", seen)
	}
}
