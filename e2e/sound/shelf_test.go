package sound

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"glossator/e2e/browser"
	"glossator/e2e/desk"
)

// By the keyboard alone: two patches are chosen, put into a set, ordered, archived, brought back; one is renamed, duplicated and deleted, and undo brings it back. The focus is never lost.
func TestShelfByKeys(t *testing.T) {
	d := desk.Open(t, true)
	focus := func(what string) {
		t.Helper()
		d.Holds("document.activeElement && document.activeElement !== document.body")
		_ = what
	}
	d.Visit("/patches")
	d.Sees("Fog Bank")
	d.Press("ArrowDown", "x", "ArrowDown", "x")
	d.Sees("2 chosen", "Archive")
	d.Set(`document.querySelector(".into select")`, "new")
	d.Holds(`document.activeElement.closest("form")?.innerText.includes("Name of the set")`)
	d.Put("First night")
	d.Press("Enter")
	d.Sees("Set begun", "2 in this order")
	focus("after the set was begun")
	order := `[...document.querySelectorAll("tr[data-id]")].map(r => r.dataset.id).join(" ")`
	d.Holds(order + ` === "fog-bank foghorn"`)
	d.Holds(`(document.querySelector("tr[data-id=foghorn] a").focus(), true)`)
	d.Press("[")
	d.Holds(order + ` === "foghorn fog-bank"`)
	d.Set(`document.querySelector(".bar select")`, "all")
	d.Holds(order + `.split(" ").length === 10`)
	d.Holds(`(document.querySelector("tr[data-id=keel] a").focus(), true)`)
	d.Press("x")
	d.Does("click", "Rename")
	d.Holds(`document.activeElement.tagName === "INPUT"`)
	d.Put("Keel, low")
	d.Press("Enter")
	d.Sees("Renamed", "Keel, low")
	focus("after a rename")
	d.Holds(`(document.querySelector("tr[data-id=keel] a").focus(), true)`)
	d.Press("x")
	d.Does("click", "Duplicate")
	d.Sees("Duplicated", "Keel, low (copy)")
	d.Holds(`(document.querySelector("tr[data-id=gulls] a").focus(), true)`)
	d.Press("x")
	d.Does("click", "Delete")
	d.Sees("Deleted", "undo takes it back")
	d.Holds(`!document.querySelector("tr[data-id=gulls]")`)
	focus("after a removal")
	d.Press("Ctrl+z")
	d.Sees("Took back: delete patch Gulls")
	d.Holds(`!!document.querySelector("tr[data-id=gulls]")`)
	d.Visit("/panels")
	d.Sees("Halyard")
	d.Holds(`(document.querySelector("tr[data-id=halyard] a").focus(), true)`)
	d.Press("x")
	d.Does("click", "Delete")
	d.Sees("In use", "Halyard is in use: Fog Bank")
	// the sample goes in one step, but for what was renamed, and what stands on what stays
	d.Visit("/")
	d.Does("click", "take the sample away")
	d.Sees("The sample is gone", "Keel, low")
	d.Press("Ctrl+z")
	d.Sees("Took back: take the sample away", "Tide Pool")
}

// Files that are dropped: panels before patches, one report of all, a wrong one told by what it is, and a question where one of its id is here.
func TestImportAsks(t *testing.T) {
	d := desk.Open(t, true)
	dir := t.TempDir()
	file := func(name, content string) string {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, []byte(content), 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	keel := desk.KeelFile(t, func(s string) string { return s })
	raw, err := os.ReadFile(keel)
	d.Must(err)
	d.Visit("/patches")
	d.Sees("Keel")
	d.Must(d.Upload("input[type=file]", file("same.json", string(raw))))
	d.Sees("Here already", "is here already, just as it is")
	d.Visit("/patches")
	d.Sees("Keel")
	d.Must(d.Upload("input[type=file]", file("take.wav", "RIFF\x24\x00\x00\x00WAVEfmt ")))
	d.Sees("One file", "this is a sound")
	d.Press("Escape")
	d.Holds(`!document.querySelector(".bx--modal.is-visible")`)
	d.Must(d.Upload("input[type=file]", desk.KeelFile(t, func(s string) string { return strings.Replace(s, `"424 ms"`, `"500 ms"`, 1) })))
	d.Sees("Keel is here already, and differs")
	d.Does("click", "Beside it")
	d.Sees("Keel 2", "imported beside the one that was here")
	d.Holds(`location.pathname === "/patches/keel-2"`)
}

// What is moved while a phrase is played is said in a line, drawn by keys, and stands on the sheet with the target's readings at both ends.
func TestMovesOfAPhrase(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/patches/keel")
	d.Press("f")
	d.Holds(`document.querySelector("#move-line") !== null`)
	d.Holds(`(document.querySelector("#move-line").focus(), true)`)
	d.Put("cutof 2 to 8")
	d.Press("Enter")
	d.Sees("expected when it is moved")
	d.Put("cutoff 2.5 to 8, bar 2")
	d.Press("Enter")
	d.Sees("Filter Cutoff", "2.5 to 8.0", "bar 2")
	d.Holds(`(document.querySelector(".move").focus(), true)`)
	d.Press("ArrowUp")
	d.Sees("2.5 to 8.1")
	d.Holds(`(document.querySelector(".move").focus(), true)`)
	d.Press("ArrowLeft")
	d.Sees("bar 1, beat 4.75")
	d.Opens("keel", "halyard")
	d.Sees("While playing", "Filter Cutoff", "2.5 to 8.1")
	d.Visit("/sheets/1/dial-in")
	d.Sees("While playing", "move Filter Cutoff from")
}

// What is set while the sound goes round is heard within 250 ms: a stretch of it takes the place of what played.
func TestHeardAsItIsSet(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/patches/undertow?line=filter.cutoff")
	d.Press("a")
	d.Holds(`document.getElementById("r-filter.cutoff") !== null`)
	d.Press(" ")
	d.Sees("Stop", "LUFS")
	const asked = `performance.getEntriesByType("resource").filter(e => e.name.endsWith("/live"))`
	d.Holds(asked + ".length === 1") // the whole of it
	d.Press("ArrowRight")
	d.Holds(asked + ".length === 3") // a stretch, then the whole
	took, err := browser.Eval[float64](d.Browser, asked+"[1].duration")
	d.Must(err)
	t.Logf("a stretch came after %.0f ms", took)
	d.Press("ArrowRight", "ArrowRight")
	d.Holds(asked + ".length >= 5")
	d.Sees("Stop", "LUFS")
	d.Press(" ")
	d.Sees("Play")
	d.Opens("undertow", "kedge")
	d.Press(" ")
	d.Holds(`[...document.querySelectorAll("button")].some(b => b.innerText === "Stop")`)
	d.Press(" ")
	d.Holds(`[...document.querySelectorAll("button")].some(b => b.innerText === "Hear")`)
}
