package sound

import (
	"glossator/e2e/desk"
	"testing"
)

// By keys alone: a flavour is said in a line, what is not understood is told at its place with what was typed left in the field, a sheet lists what differs on the target, and the flavour becomes a patch of its own.
func TestFlavoursByKeys(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/patches/keel")
	d.Sees("Flavours", "A variant of the sound")
	d.Press("d")
	d.Holds(`document.activeElement.id === "flavour-line"`)
	d.Put("darker cutoff 2.0")
	d.Press("Enter")
	d.Sees("expected a name, a colon")
	d.Holds(`document.getElementById("flavour-line").value === "darker cutoff 2.0" && document.activeElement.id === "flavour-line"`)
	d.Put("darker: cutoff 2.0")
	d.Press("Enter")
	d.Sees("Filter Cutoff", "as a patch of its own")
	d.Holds(`document.getElementById("flavour-line").value === ""`)
	d.Put("darker: cutoff 300.0")
	d.Press("Enter")
	d.Sees("out of range")
	d.Press("Escape")
	d.Press("Ctrl+z")
	d.Sees("Redo: flavour: darker: cutoff 2.0")
	d.Press("Ctrl+Shift+z")
	d.Sees("Filter Cutoff")
	d.Opens("keel", "halyard")
	d.Sees("checks hold")
	d.Holds(`[...document.querySelectorAll("table[aria-label='What differs in each flavour'] td")].some(x => x.innerText === "darker")`)
	d.Visit("/patches/keel")
	d.Does("click", "as a patch of its own")
	d.Sees("Keel, darker")
}
