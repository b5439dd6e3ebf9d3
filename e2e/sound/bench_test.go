// Package sound drives in a browser what is heard and what goes to and from instruments.
package sound

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"

	"glossator/core/phrase"
	"glossator/e2e/desk"
	"glossator/formats/wav"
	"glossator/standin"
	"glossator/testutil/testrack"
)

// By keys alone: from the panel to the bench, takes from a stand-in until it is known, a look at what adopting changes, adopting, and undo.
func TestBenchByKeys(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/panels/kedge")
	d.Sees("Measure its laws")
	d.Press("b")
	d.Sees("Bench for Kedge", "assumed laws are not measured yet")
	d.Holds(`(document.querySelector('a[href$="bench/env.sustain"]').focus(), true)`)
	d.Press("Enter")
	d.Sees("Envelope Sustain", "Set first", "Turn monitors and headphones down", "none yet")
	d.Press("Space")
	d.Sees("stand-in 1")
	d.Holds(`document.querySelectorAll(".takes tr").length === 1`)
	d.Press("g")
	d.Sees("Known")
	d.Holds(`document.querySelectorAll(".takes tr").length >= 6`)
	d.Press("a")
	d.Sees("in a new revision of the panel")
	d.Press("Escape")
	d.Holds(`!document.querySelector(".adopt")`)
	d.Press("a")
	d.Sees("in a new revision of the panel")
	d.Holds(`document.activeElement.closest(".adopt") !== null`)
	d.Press("Enter")
	d.Sees("The law is adopted")
	d.Press("Ctrl+z")
	d.Sees("Took back: adopt the law of Kedge Sustain")
	d.Press("Escape")
	d.Sees("Bench for Kedge")
	d.Press("Escape")
	d.Sees("Measure its laws")
}

// A recording from a file is measured at the reading that is set; another reading is typed; one that the control does not take is told at its place, and what was taken stays.
func TestBenchTakesAFile(t *testing.T) {
	d := desk.Open(t, true)
	u, err := standin.New(testrack.Panels(t)["kedge"], 2)
	d.Must(err)
	d.Must(u.Hand("mix.osc2", "12:00"))
	d.Must(u.Hand("osc2.tune", "2:00"))
	w, err := u.Play([]phrase.Note{{End: 1, Key: 57, Velocity: 100}}, 0)
	d.Must(err)
	var b bytes.Buffer
	d.Must(wav.Write(&b, &wav.Sound{Rate: 48000, Bits: 24, Left: w.Left, Right: w.Right}))
	file := filepath.Join(t.TempDir(), "take.wav")
	d.Must(os.WriteFile(file, b.Bytes(), 0o600))
	d.Visit("/panels/kedge/bench/osc2.tune")
	d.Sees("Set first")
	d.Press("e")
	d.Put("2:00")
	d.Must(d.Upload("input[type=file]", file))
	d.Holds(`document.querySelectorAll(".takes tr").length === 1 && document.querySelector(".takes").innerText.includes("2:00")`)
	d.Press("e")
	d.Put("6:30")
	d.Must(d.Upload("input[type=file]", file))
	d.Sees("7:00")
	d.Holds(`!!document.querySelector("[role=status] .red") && document.querySelectorAll(".takes tr").length === 1`)
	d.Holds(`document.querySelector("svg[role=img]").getAttribute("aria-label").includes("1 takes")`)
}
