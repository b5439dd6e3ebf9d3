package e2e

import (
	"fmt"
	"testing"
	"time"

	"glossator/e2e/browser"
	"glossator/e2e/desk"
)

// The guide goes through the real views: a step is noticed when it has been done there, by the keyboard alone; it stays over a reload, and help for every view stands beside it.
func TestGuideByKeys(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/")
	d.Press("F1")
	d.Holds(`document.querySelector("aside.help")?.innerText.includes("The desk shows what is on the go")`)
	d.Does("click", "The first half hour, as a guide")
	d.Sees("1 of 13", "The desk")
	noticed := func() { d.T.Helper(); d.Holds(`!!document.querySelector(".guide .done")`) }
	d.Press("s")
	d.Sees("checks hold")
	noticed()
	d.Press("F2")
	d.Sees("2 of 13")
	d.Press("ArrowDown", "ArrowDown")
	noticed()
	d.Press("F2")
	d.Sees("Another reading")
	d.Holds(`!document.querySelector(".guide .done")`)
	d.Visit("/sheets/1?line=filter.cutoff")
	d.Sees("3 of 13", "checks hold")
	d.Press("9")
	d.Holds(`document.activeElement?.tagName === "INPUT"`)
	d.Press("0", "Enter")
	noticed()
	d.Press("F2")
	d.Sees("4 of 13")
	d.Press("h")
	d.Holds(`location.pathname === "/sheets/1/listen"`)
	noticed()
	d.Press("F2", "F2", "F2", "F2")
	d.Sees("8 of 13", "Which instrument")
	d.Press("F1")
	d.Holds(`!!document.querySelector("aside.help p")`)
	d.Does("click", "Leave it")
	d.Holds(`!document.querySelector(".guide")`)
	for _, path := range []string{"/patches", "/shows/1", "/ear", "/panels/halyard", "/keep", "/reckoner"} {
		d.Visit(path)
		d.Press("F1")
		d.Holds(`(document.querySelector("aside.help p")?.innerText.length ?? 0) > 60`)
	}
}

// Ear practice by keys: a sitting is begun on a patch, its three sounds are there, right and wrong answers are told with what differed and by how much; it goes on after a reload. Ears that have been found can
// judge the lines of a sheet.
func TestEarPracticeByKeys(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/ear")
	d.Press("n")
	d.Put("keys one")
	d.Set(`document.querySelector("form.fields select")`, "undertow")
	d.Press("Enter")
	d.Sees("Ear practice: Undertow", "Trial 1")
	d.Holds(`!document.body.innerText.includes("Rendering")`)
	d.Press("ArrowRight")
	d.Sees("and it differs in", "I cannot say")
	d.Press("Escape")
	d.Holds(`!document.body.innerText.includes("and it differs in")`)
	for n := range 3 {
		d.Holds(fmt.Sprintf(`document.body.innerText.includes("Trial %d,") && !document.body.innerText.includes("Rendering")`, n+1))
		d.Press([]string{"ArrowLeft", "ArrowRight"}[n%2])
		d.Sees("and it differs in")
		d.Press([]string{"Enter", "1", "2"}[n])
		d.Sees("was the other one", "of the published difference")
	}
	d.Visit("/ear/1")
	d.Sees("Trial 4")
	row, err := d.Store.EarSitting(1)
	d.Must(err)
	if row.Who != "keys one" || row.Patch != "undertow" {
		t.Errorf("%+v", row)
	}
	// a whole sitting, answered by somebody who guesses
	seen := map[string]bool{}
	for range 400 {
		answered, err := browser.Await[string](d.Browser, fmt.Sprintf(`fetch("/api/v1/ear/1").then((r) => r.json()).then(async (v) => { if (!v.trial) return "end";
			const a = await (await fetch("/api/v1/ear/1/answers", {method: "POST", headers: {"Content-Type": "application/json"}, body: JSON.stringify({trial: v.trial, second: %v, named: ""})})).json(); return a.last ? a.last.part : "no"; })`, len(seen)%2 == 0))
		d.Must(err)
		if answered == "end" {
			break
		}
		seen[answered] = true
	}
	d.Visit("/ear/1")
	d.Sees("The sitting has ended")
	if len(seen) != 3 {
		t.Errorf("of three things that may differ %v did", seen)
	}
}

// What is pressed before a view has what it shows is done as soon as it has, in its order: in ear practice somebody's name, where every answer takes two seconds, and the last line of a sheet.
func TestKeysBeforeAViewIsThere(t *testing.T) {
	d := desk.Open(t, true)
	d.Opens("keel", "windlass")
	d.Late.Store(int64(2 * time.Second))
	d.Visit("/ear")
	d.Press("n")
	d.Put("keys early")
	d.Holds(`document.activeElement?.value === "keys early"`)
	d.Visit("/sheets/1")
	d.Press("End", "0")
	d.Holds(`document.activeElement?.tagName === "INPUT" && document.activeElement.value === "0"`)
	d.Press("Escape")
	d.Visit("/ear")
	d.Press("n", "Escape") // at once, and what was pressed before it is not done in another view
	d.Holds(`location.pathname === "/"`)
}
