package e2e

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"

	"glossator/core/phrase"
	"glossator/formats/wav"
	"glossator/standin"
	"glossator/testutil/testrack"
)

// By keys alone: from the panel to the bench, takes from a stand-in until it is known, a look at what adopting changes, adopting, and undo.
func TestBenchByKeys(t *testing.T) {
	d := open(t, true)
	d.visit("/panels/kedge")
	d.sees("Measure its laws")
	d.press("b")
	d.sees("Bench for Kedge", "assumed laws are not measured yet")
	d.holds(`(document.querySelector('a[href$="bench/env.sustain"]').focus(), true)`)
	d.press("Enter")
	d.sees("Envelope Sustain", "Set first", "Turn monitors and headphones down", "none yet")
	d.press("Space")
	d.sees("stand-in 1")
	d.holds(`document.querySelectorAll(".takes tr").length === 1`)
	d.press("g")
	d.sees("Known")
	d.holds(`document.querySelectorAll(".takes tr").length >= 6`)
	d.press("a")
	d.sees("in a new revision of the panel")
	d.press("Escape")
	d.holds(`!document.querySelector(".adopt")`)
	d.press("a")
	d.sees("in a new revision of the panel")
	d.holds(`document.activeElement.closest(".adopt") !== null`)
	d.press("Enter")
	d.sees("The law is adopted")
	d.press("Ctrl+z")
	d.sees("Took back: adopt the law of Kedge Sustain")
	d.press("Escape")
	d.sees("Bench for Kedge")
	d.press("Escape")
	d.sees("Measure its laws")
}

// A recording from a file is measured at the reading that is set; another reading is typed; one that the control does not take is told at its place, and what was taken stays.
func TestBenchTakesAFile(t *testing.T) {
	d := open(t, true)
	u, err := standin.New(testrack.Panels(t)["kedge"], 2)
	d.must(err)
	d.must(u.Hand("mix.osc2", "12:00"))
	d.must(u.Hand("osc2.tune", "2:00"))
	w, err := u.Play([]phrase.Note{{End: 1, Key: 57, Velocity: 100}}, 0)
	d.must(err)
	var b bytes.Buffer
	d.must(wav.Write(&b, &wav.Sound{Rate: 48000, Bits: 24, Left: w.Left, Right: w.Right}))
	file := filepath.Join(t.TempDir(), "take.wav")
	d.must(os.WriteFile(file, b.Bytes(), 0o600))
	d.visit("/panels/kedge/bench/osc2.tune")
	d.sees("Set first")
	d.press("e")
	d.put("2:00")
	d.must(d.Upload("input[type=file]", file))
	d.holds(`document.querySelectorAll(".takes tr").length === 1 && document.querySelector(".takes").innerText.includes("2:00")`)
	d.press("e")
	d.put("6:30")
	d.must(d.Upload("input[type=file]", file))
	d.sees("7:00")
	d.holds(`!!document.querySelector("[role=status] .red") && document.querySelectorAll(".takes tr").length === 1`)
	d.holds(`document.querySelector("svg[role=img]").getAttribute("aria-label").includes("1 takes")`)
}
