package e2e

import "testing"

// By keys alone: a flavour is said in a line, what is not understood is told at its place with what was typed left in the field, a sheet lists what differs on the target, and the flavour becomes a patch of its own.
func TestFlavoursByKeys(t *testing.T) {
	d := open(t, true)
	d.visit("/patches/keel")
	d.sees("Flavours", "A variant of the sound")
	d.press("d")
	d.holds(`document.activeElement.id === "flavour-line"`)
	d.put("darker cutoff 2.0")
	d.press("Enter")
	d.sees("expected a name, a colon")
	d.holds(`document.getElementById("flavour-line").value === "darker cutoff 2.0" && document.activeElement.id === "flavour-line"`)
	d.put("darker: cutoff 2.0")
	d.press("Enter")
	d.sees("Filter Cutoff", "as a patch of its own")
	d.holds(`document.getElementById("flavour-line").value === ""`)
	d.put("darker: cutoff 300.0")
	d.press("Enter")
	d.sees("out of range")
	d.press("Escape")
	d.press("Ctrl+z")
	d.sees("Redo: flavour: darker: cutoff 2.0")
	d.press("Ctrl+Shift+z")
	d.sees("Filter Cutoff")
	d.opens("keel", "halyard")
	d.sees("checks hold")
	d.holds(`[...document.querySelectorAll("table[aria-label='What differs in each flavour'] td")].some(x => x.innerText === "darker")`)
	d.visit("/patches/keel")
	d.does("click", "as a patch of its own")
	d.sees("Keel, darker")
}
