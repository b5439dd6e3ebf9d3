package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"glossator/e2e/browser"
)

// By the keyboard alone: two patches are chosen, put into a set, ordered, archived, brought back; one is renamed, duplicated and deleted, and undo brings it back. The focus is never lost.
func TestShelfByKeys(t *testing.T) {
	d := open(t, true)
	focus := func(what string) {
		t.Helper()
		d.holds("document.activeElement && document.activeElement !== document.body")
		_ = what
	}
	d.visit("/patches")
	d.sees("Fog Bank")
	d.press("ArrowDown", "x", "ArrowDown", "x")
	d.sees("2 chosen", "Archive")
	d.set(`document.querySelector(".into select")`, "new")
	d.holds(`document.activeElement.closest("form")?.innerText.includes("Name of the set")`)
	d.put("First night")
	d.press("Enter")
	d.sees("Set begun", "2 in this order")
	focus("after the set was begun")
	order := `[...document.querySelectorAll("tr[data-id]")].map(r => r.dataset.id).join(" ")`
	d.holds(order + ` === "fog-bank foghorn"`)
	d.holds(`(document.querySelector("tr[data-id=foghorn] a").focus(), true)`)
	d.press("[")
	d.holds(order + ` === "foghorn fog-bank"`)
	d.set(`document.querySelector(".bar select")`, "all")
	d.holds(order + `.split(" ").length === 10`)
	d.holds(`(document.querySelector("tr[data-id=keel] a").focus(), true)`)
	d.press("x")
	d.does("click", "Rename")
	d.holds(`document.activeElement.tagName === "INPUT"`)
	d.put("Keel, low")
	d.press("Enter")
	d.sees("Renamed", "Keel, low")
	focus("after a rename")
	d.holds(`(document.querySelector("tr[data-id=keel] a").focus(), true)`)
	d.press("x")
	d.does("click", "Duplicate")
	d.sees("Duplicated", "Keel, low (copy)")
	d.holds(`(document.querySelector("tr[data-id=gulls] a").focus(), true)`)
	d.press("x")
	d.does("click", "Delete")
	d.sees("Deleted", "undo takes it back")
	d.holds(`!document.querySelector("tr[data-id=gulls]")`)
	focus("after a removal")
	d.press("Ctrl+z")
	d.sees("Took back: delete patch Gulls")
	d.holds(`!!document.querySelector("tr[data-id=gulls]")`)
	d.visit("/panels")
	d.sees("Halyard")
	d.holds(`(document.querySelector("tr[data-id=halyard] a").focus(), true)`)
	d.press("x")
	d.does("click", "Delete")
	d.sees("In use", "Halyard is in use: Fog Bank")
	// the sample goes in one step, but for what was renamed, and what stands on what stays
	d.visit("/")
	d.does("click", "take the sample away")
	d.sees("The sample is gone", "Keel, low")
	d.press("Ctrl+z")
	d.sees("Took back: take the sample away", "Tide Pool")
}

// Files that are dropped: panels before patches, one report of all, a wrong one told by what it is, and a question where one of its id is here.
func TestImportAsks(t *testing.T) {
	d := open(t, true)
	dir := t.TempDir()
	file := func(name, content string) string {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, []byte(content), 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	keel := keelFile(t, func(s string) string { return s })
	raw, err := os.ReadFile(keel)
	d.must(err)
	d.visit("/patches")
	d.sees("Keel")
	d.must(d.Upload("input[type=file]", file("same.json", string(raw))))
	d.sees("Here already", "is here already, just as it is")
	d.visit("/patches")
	d.sees("Keel")
	d.must(d.Upload("input[type=file]", file("take.wav", "RIFF\x24\x00\x00\x00WAVEfmt ")))
	d.sees("One file", "this is a sound")
	d.press("Escape")
	d.holds(`!document.querySelector(".bx--modal.is-visible")`)
	d.must(d.Upload("input[type=file]", keelFile(t, func(s string) string { return strings.Replace(s, `"424 ms"`, `"500 ms"`, 1) })))
	d.sees("Keel is here already, and differs")
	d.does("click", "Beside it")
	d.sees("Keel 2", "imported beside the one that was here")
	d.holds(`location.pathname === "/patches/keel-2"`)
}

// What is moved while a phrase is played is said in a line, drawn by keys, and stands on the sheet with the target's readings at both ends.
func TestMovesOfAPhrase(t *testing.T) {
	d := open(t, true)
	d.visit("/patches/keel")
	d.press("f")
	d.holds(`document.querySelector("#move-line") !== null`)
	d.holds(`(document.querySelector("#move-line").focus(), true)`)
	d.put("cutof 2 to 8")
	d.press("Enter")
	d.sees("expected when it is moved")
	d.put("cutoff 2.5 to 8, bar 2")
	d.press("Enter")
	d.sees("Filter Cutoff", "2.5 to 8.0", "bar 2")
	d.holds(`(document.querySelector(".move").focus(), true)`)
	d.press("ArrowUp")
	d.sees("2.5 to 8.1")
	d.holds(`(document.querySelector(".move").focus(), true)`)
	d.press("ArrowLeft")
	d.sees("bar 1, beat 4.75")
	d.opens("keel", "halyard")
	d.sees("While playing", "Filter Cutoff", "2.5 to 8.1")
	d.visit("/sheets/1/dial-in")
	d.sees("While playing", "move Filter Cutoff from")
}

// What is set while the sound goes round is heard within 250 ms: a stretch of it takes the place of what played.
func TestHeardAsItIsSet(t *testing.T) {
	d := open(t, true)
	d.visit("/patches/undertow?line=filter.cutoff")
	d.press("a")
	d.holds(`document.getElementById("r-filter.cutoff") !== null`)
	d.press(" ")
	d.sees("Stop", "LUFS")
	const asked = `performance.getEntriesByType("resource").filter(e => e.name.endsWith("/live"))`
	d.holds(asked + ".length === 1") // the whole of it
	d.press("ArrowRight")
	d.holds(asked + ".length === 3") // a stretch, then the whole
	took, err := browser.Eval[float64](d.Browser, asked+"[1].duration")
	d.must(err)
	t.Logf("a stretch came after %.0f ms", took)
	d.press("ArrowRight", "ArrowRight")
	d.holds(asked + ".length >= 5")
	d.sees("Stop", "LUFS")
	d.press(" ")
	d.sees("Play")
	d.opens("undertow", "kedge")
	d.press(" ")
	d.holds(`[...document.querySelectorAll("button")].some(b => b.innerText === "Stop")`)
	d.press(" ")
	d.holds(`[...document.querySelectorAll("button")].some(b => b.innerText === "Hear")`)
}
