package e2e

import (
	"bytes"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"glossator/core/dsp"
	"glossator/core/synth"
	"glossator/e2e/browser"
	"glossator/formats/wav"
)

// opens goes to the sheet of a patch on a target.
func (d *desk) opens(patch, target string) {
	d.t.Helper()
	d.visit("/")
	d.sees("Keel bass on Windlass")
	d.set(`document.querySelectorAll(".go select")[0]`, patch)
	d.set(`document.querySelectorAll(".go select")[1]`, target)
	d.click(".go button")
	d.sees("checks hold")
}

// does waits for the tab, button or label with a text to be seen, and clicks it or gives it the focus.
func (d *desk) does(what, text string) {
	d.t.Helper()
	js := fmt.Sprintf(`[...document.querySelectorAll("[role=tab], button, label")].find(b => b.textContent.includes(%q) && b.offsetParent)`, text)
	d.holds("!!" + js)
	_, err := browser.Eval[bool](d.Browser, js+"."+what+"(), true")
	d.must(err)
}

// sheet opens the sheet of Keel on Halyard and goes to listen to it.
func (d *desk) listen() {
	d.t.Helper()
	d.visit("/")
	d.sees("Keel bass on Windlass")
	d.set(`document.querySelectorAll(".go select")[1]`, "halyard")
	d.click(".go button")
	d.sees("checks hold")
	d.press("h")
	d.holds("location.pathname === '/sheets/1/listen'")
	d.sees("just-noticeable differences apart")
}

const meter = `Number(document.querySelector("[role=meter]").getAttribute("aria-valuenow"))`

// heard is which side is pressed.
const heard = `document.querySelector(".switch button[aria-pressed=true]").textContent.trim()`

// Sound really plays (the analyser's level), the switch keeps the place, parts go on both sides, and the
// table follows; all by the keyboard.
func TestListen(t *testing.T) {
	d := open(t, true)
	d.listen()
	d.holds(`document.querySelectorAll(".findings tbody tr").length > 8`)
	d.holds(meter + " <= -60")
	d.press(" ")
	d.holds(meter + " > -50")
	d.holds(`document.querySelectorAll("line.cursor").length === 2`)
	// where the line stands before and after the switch: it goes on, it does not begin again
	at := func() float64 {
		x, err := browser.Eval[float64](d.Browser, `Number(document.querySelector("line.cursor").getAttribute("x1"))`)
		d.must(err)
		return x
	}
	d.holds(`Number(document.querySelector("line.cursor").getAttribute("x1")) > 120`)
	was := at()
	d.press("s")
	d.holds(heard + ` === "Target"`)
	if now := at(); now < was {
		t.Errorf("after the switch the place is %.0f, it was %.0f", now, was)
	}
	d.holds(meter + " > -50")
	d.press("s")
	d.holds(heard + ` === "Source"`)

	// a part off, on both sides, while it plays
	before, err := browser.Eval[string](d.Browser, `document.querySelector("path.target").getAttribute("d")`)
	d.must(err)
	d.press("ArrowDown", "ArrowDown", "o")
	d.holds(`document.querySelectorAll(".parts li.off").length === 1`)
	d.holds(fmt.Sprintf(`document.querySelector("path.target").getAttribute("d") !== %q`, before))
	d.holds(meter + " > -60")
	d.press("a")
	d.holds(`document.querySelectorAll(".parts li.off").length === 0`)
	d.press(" ")
	d.holds(meter + " <= -60")

	// another line, and a note from the keyboard
	d.set(`document.querySelectorAll(".transport select")[0]`, "held")
	d.sees("pitch")
	d.press("3")
	d.holds(meter + " > -60")
	d.press("Escape")
	d.holds("location.pathname === '/sheets/1'")
}

// A search by ear is begun, its findings put on the sheet, heard as before, and undone.
func TestSearchByEar(t *testing.T) {
	d := open(t, true)
	d.opens("undertow", "windlass") // where a longer search finds what is nearer
	d.press("h")
	d.sees("just-noticeable differences apart")
	d.does("click", "By ear")
	d.does("click", "Search by ear")
	for range 8 { // a search takes seconds, and longer beside other tests
		if d.Until(`document.body.innerText.includes("just-noticeable differences in")`) == nil {
			break
		}
	}
	d.sees("just-noticeable differences in")
	d.does("click", "Put them on the sheet")
	d.sees("The readings found by ear are on the sheet", "as it was before")
	d.click("header .tools button:first-child")
	d.sees("Took back")
	d.does("click", "Stages")
	d.sees("mixer", "output")
}

// A blind test by the keyboard, kept with its probability; and a recording in the place of a side.
func TestBlindTestAndRecording(t *testing.T) {
	d := open(t, true)
	d.listen()
	d.set(`document.querySelector(".blind select")`, "8")
	d.does("click", "Begin a blind test")
	d.sees("Round 1 of 8")
	d.press("a", "b", "x")
	for range 8 {
		d.press("ArrowLeft")
	}
	d.sees("of 8 right", "p = ")

	s := &wav.Sound{Rate: 44100, Bits: 16, Left: make([]float64, 44100)}
	for k := range s.Left {
		s.Left[k] = 0.3 * math.Sin(2*math.Pi*220*float64(k)/44100)
	}
	var b bytes.Buffer
	d.must(wav.Write(&b, s))
	file := filepath.Join(t.TempDir(), "the real one.wav")
	d.must(os.WriteFile(file, b.Bytes(), 0o600))
	d.does("click", "Recordings")
	d.must(d.Upload("#rec-target", file))
	d.sees("the real one.wav stands for the target", "back to the render")
	d.holds(`document.querySelector(".legend").innerText.includes("the real one.wav")`)

	bad := filepath.Join(t.TempDir(), "no wave.wav")
	d.must(os.WriteFile(bad, []byte("nothing of the kind"), 0o600))
	d.must(d.Upload("#rec-source", bad))
	d.sees("expected a WAVE file")
}

// EQ sections against the BiquadFilterNode of the test browser (W3C Web Audio API), within 0.1 dB.
func TestBiquadsAgainstBrowser(t *testing.T) {
	d := open(t, false)
	d.visit("/")
	for _, x := range []struct {
		mine, theirs      string
		hz, gain, quality float64
	}{
		{"peak", "peaking", 1000, 6, 1.4}, {"peak", "peaking", 120, -9, 0.7}, {"peak", "peaking", 8000, 3, 4}, {"low shelf", "lowshelf", 120, 6, 1}, {"low shelf", "lowshelf", 500, -8, 1},
		{"high shelf", "highshelf", 6000, 4, 1}, {"high shelf", "highshelf", 3000, -12, 1}, {"low-pass", "lowpass", 1000, 0, 2}, {"low-pass", "lowpass", 9000, 0, 0.7071},
		{"high-pass", "highpass", 80, 0, 0.7071}, {"high-pass", "highpass", 2500, 0, 3},
	} {
		freqs := []float64{20, 60, 120, 300, 700, 1000, 2500, 5000, 9000, 15000, 20000}
		q := x.quality
		if strings.HasSuffix(x.theirs, "pass") {
			q = 20 * math.Log10(x.quality) // their Q of low- and high-pass is in decibels
		}
		js := fmt.Sprintf(`(() => { const c = new OfflineAudioContext(1, 128, 48000); const f = c.createBiquadFilter();
			f.type = %q; f.frequency.value = %v; f.gain.value = %v; f.Q.value = %v;
			const hz = new Float32Array(%s), m = new Float32Array(hz.length), p = new Float32Array(hz.length);
			f.getFrequencyResponse(hz, m, p); return [...m] })()`, x.theirs, x.hz, x.gain, q, strings.ReplaceAll(fmt.Sprint(freqs), " ", ","))
		got, err := browser.Eval[[]float64](d.Browser, js)
		d.must(err)
		s := dsp.EQ(x.mine, x.hz, x.gain, x.quality, synth.Rate)
		for i, hz := range freqs {
			if want := s.Gain(hz, synth.Rate); got[i] > 1e-4 && math.Abs(20*math.Log10(want/got[i])) > 0.1 {
				t.Errorf("%s at %v Hz, %v dB, Q %v: %.3f dB at %v Hz, the browser has %.3f", x.mine, x.hz, x.gain, x.quality, 20*math.Log10(want), hz, 20*math.Log10(got[i]))
			}
		}
	}
}

// A rack put behind the target, a second layer, another plan, and weights by ear: each by one press, each undone.
func TestRigLayerAndPlan(t *testing.T) {
	d := open(t, true)
	d.opens("gulls", "bowline")
	d.sees("Ballast could play")
	d.does("click", "Put it behind Bowline")
	d.sees("Outside, Ballast plays Delay, Treble", "checks hold")
	d.press("d")
	d.sees("Outside: Ballast", "Connect Ballast behind Bowline")
	d.press("Escape")
	d.sees("Outside, Ballast plays")
	d.press("Ctrl+z")
	d.sees("Ballast could play")

	d.opens("keel", "coracle")
	d.does("click", "Make a second layer of Coracle")
	d.sees("A second layer: what the first one plays is left out here.", "The first layer’s sheet", "checks hold")
	d.press("h")
	d.sees("just-noticeable differences apart")

	d.opens("keel", "halyard")
	d.press("p")
	d.does("click", "Next best plans")
	d.does("click", "take this plan")
	d.sees("This is not the best plan", "checks hold")
	d.does("click", "back to the best plan")
	d.holds(`!document.body.innerText.includes("This is not the best plan")`)
	d.does("click", "Weigh parts by how much they are heard")
	d.sees("Parts count for as much as they are heard.")
	d.press("Ctrl+z")
	d.holds(`!document.body.innerText.includes("Parts count for as much")`)
}

// The margin names the rule by which a line goes over and what it costs; the plan lists the rules that rewrite parts. A slow rendering
// says how far it is, and is forgotten when one goes elsewhere: what is heard next is what was asked for last.
func TestRulesAndProgress(t *testing.T) {
	d := open(t, true)
	d.visit("/")
	d.sees("Keel bass on Windlass")
	d.set(`document.querySelectorAll(".go select")[1]`, "sheave")
	d.click(".go button")
	d.sees("checks hold")
	d.visit("/sheets/1?line=filter.cutoff")
	d.sees("the pivot is C3 there, C4 here", "By the rule", "Cutoff counted from another key", "common practice, no source")
	d.visit("/sheets/1?line=target:wheel.vibrato")
	d.sees("What init leaves on is switched off")
	// a line that goes over as it is names no rule
	d.visit("/sheets/1?line=filter.resonance")
	d.holds(`document.querySelector("aside h2")?.textContent === "Resonance"`)
	d.holds(`!document.querySelector("aside .rule")`)
	d.press("h")
	d.holds("location.pathname === '/sheets/1/listen'")
	d.sees("just-noticeable differences apart")
	// parts off and on again in quick succession: the last wins
	before, err := browser.Eval[string](d.Browser, `document.querySelector("path.target").getAttribute("d")`)
	d.must(err)
	d.press("ArrowDown", "ArrowDown", "o", "o", "o")
	d.holds(`document.querySelectorAll(".parts li.off").length === 1`)
	d.holds(`!document.body.textContent.includes("Rendering")`)
	d.holds(fmt.Sprintf(`document.querySelector("path.target").getAttribute("d") !== %q`, before))
	d.sees("just-noticeable differences apart")
}

// A translation that is quieter is told how its volume would make it as loud, and set so by the keyboard; undone, it is offered again. A
// recording is dropped anywhere on its box; beside it nothing happens.
func TestAsLoudAndDrop(t *testing.T) {
	d := open(t, true)
	d.opens("storm-front", "kedge")
	d.set("document.querySelectorAll('.top select')[1]", "numbers") // by ear it would be as loud
	d.holds("location.pathname === '/sheets/2'")
	d.sees("checks hold")
	d.press("h")
	d.sees("The translation is", "dB quieter than the source. Volume at", "makes it about as loud", "just-noticeable differences apart", "±")
	const level = `Number(document.querySelector(".bit .num").textContent)`
	d.holds(level + " > 2")
	d.does("focus", "Set Volume to")
	d.press("Enter")
	d.sees("Volume set to")
	d.holds(level + " < 1.5")
	d.holds(`!document.body.innerText.includes("quieter than the source")`)
	d.press("Ctrl+z")
	d.sees("dB quieter than the source")

	d.does("click", "Recordings")
	drop := func(css string) string {
		return `(() => { const rate = 48000, n = 24000, b = new DataView(new ArrayBuffer(44 + 2 * n));
			const word = (at, s) => [...s].forEach((c, i) => b.setUint8(at + i, c.charCodeAt(0)));
			word(0, "RIFF"); b.setUint32(4, 36 + 2 * n, true); word(8, "WAVEfmt "); b.setUint32(16, 16, true); b.setUint16(20, 1, true); b.setUint16(22, 1, true);
			b.setUint32(24, rate, true); b.setUint32(28, 2 * rate, true); b.setUint16(32, 2, true); b.setUint16(34, 16, true); word(36, "data"); b.setUint32(40, 2 * n, true);
			for (let k = 0; k < n; k++) b.setInt16(44 + 2 * k, 8000 * Math.sin(k * 0.03), true);
			const t = new DataTransfer(); t.items.add(new File([b.buffer], "take.wav", { type: "audio/wav" }));
			const e = new DragEvent("drop", { dataTransfer: t, bubbles: true, cancelable: true });
			document.querySelector(` + fmt.Sprintf("%q", css) + `).dispatchEvent(e); return e.defaultPrevented })()`
	}
	d.holds(drop("h1")) // it would leave the page if it were not kept from it
	d.holds(`location.pathname === '/sheets/2/listen'`)
	d.holds(drop(`.drop[aria-label="Recording of the target"]`))
	d.sees("take.wav: 0.5 s")
	d.does("click", "keep it in the log")
	d.sees("The recording is kept")
	d.press("g", "l")
	d.sees("take.wav, of ", "0.5 s", "hear it")
}

// A sheet answers for what is heard: the headline comes after the lines without moving them, each loss says how much it is heard alone, and where only losses are shown the
// most heard comes first. The targets are listened to by a key, and put in that order.
func TestSheetIsHeard(t *testing.T) {
	d := open(t, true)
	d.opens("keel", "bowline")
	const first = `document.querySelector("tbody tr.open").getBoundingClientRect().top`
	at, err := browser.Eval[float64](d.Browser, first)
	d.must(err)
	d.sees("just-noticeable differences apart in sound, mostly in")
	d.holds(fmt.Sprintf("Math.abs(%s - %v) < 1", first, at))
	d.holds(`[...document.querySelectorAll("td.heard")].some(x => Number(x.textContent) > 1)`)
	d.press("l")
	d.holds(`(v => v.length > 3 && v.every((x, i) => i === 0 || x <= v[i - 1]))([...document.querySelectorAll("td.heard")].map(x => Number(x.textContent)))`)
	d.press("ArrowDown")
	d.sees("Heard alone:")
	d.press("b")
	d.holds("location.pathname === '/patches/keel/targets'")
	d.sees("Apart in sound")
	d.press("h")
	d.holds(`document.body.innerText.includes("Stop listening")`)
	for range 8 { // a few seconds for each of nine
		if d.Until(`[...document.querySelectorAll("td.apart")].filter(x => Number(x.textContent) >= 0 && x.textContent.trim() !== "").length >= 3`) == nil {
			break
		}
	}
	d.press("o")
	d.holds(`(v => v.length >= 3 && v.every((x, i) => i === 0 || x >= v[i - 1]))([...document.querySelectorAll("td.apart")].map(x => x.textContent.trim()).filter(x => /^[0-9.]+$/.test(x)).map(Number))`)
	d.press("h")
	d.holds(`!document.body.innerText.includes("Stop listening")`)
}
