package sound

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
	"glossator/e2e/desk"
	"glossator/formats/wav"
)

const meter = `Number(document.querySelector("[role=meter]").getAttribute("aria-valuenow"))`

// heard is which side is pressed.
const heard = `document.querySelector(".switch button[aria-pressed=true]").textContent.trim()`

// Sound really plays (the analyser's level), the switch keeps the place, parts go on both sides, and the
// table follows; all by the keyboard.
func TestListen(t *testing.T) {
	d := desk.Open(t, true)
	d.Listen()
	d.Holds(`document.querySelectorAll(".findings tbody tr").length > 8`)
	d.Holds(meter + " <= -60")
	d.Press(" ")
	d.Holds(meter + " > -50")
	d.Holds(`document.querySelectorAll("line.cursor").length === 2`)
	// where the line stands before and after the switch: it goes on, it does not begin again
	at := func() float64 {
		x, err := browser.Eval[float64](d.Browser, `Number(document.querySelector("line.cursor").getAttribute("x1"))`)
		d.Must(err)
		return x
	}
	d.Holds(`Number(document.querySelector("line.cursor").getAttribute("x1")) > 120`)
	was := at()
	d.Press("s")
	d.Holds(heard + ` === "Target"`)
	if now := at(); now < was {
		t.Errorf("after the switch the place is %.0f, it was %.0f", now, was)
	}
	d.Holds(meter + " > -50")
	d.Press("s")
	d.Holds(heard + ` === "Source"`)

	// a part off, on both sides, while it plays
	before, err := browser.Eval[string](d.Browser, `document.querySelector("path.target").getAttribute("d")`)
	d.Must(err)
	d.Press("ArrowDown", "ArrowDown", "o")
	d.Holds(`document.querySelectorAll(".parts li.off").length === 1`)
	d.Holds(fmt.Sprintf(`document.querySelector("path.target").getAttribute("d") !== %q`, before))
	d.Holds(meter + " > -60")
	d.Press("a")
	d.Holds(`document.querySelectorAll(".parts li.off").length === 0`)
	d.Press(" ")
	d.Holds(meter + " <= -60")

	// another line, and a note from the keyboard
	d.Set(`document.querySelectorAll(".transport select")[0]`, "held")
	d.Sees("pitch")
	d.Press("3")
	d.Holds(meter + " > -60")
	d.Press("Escape")
	d.Holds("location.pathname === '/sheets/1'")
}

// A search by ear is begun, its findings put on the sheet, heard as before, and undone.
func TestSearchByEar(t *testing.T) {
	d := desk.Open(t, true)
	d.Opens("lamp-room", "bowline") // where a longer search finds what is much nearer
	d.Press("h")
	d.Sees("just-noticeable differences apart")
	d.Does("click", "By ear")
	d.Does("click", "Search by ear")
	for range 8 { // a search takes seconds, and longer beside other tests
		if d.Until(`document.body.innerText.includes("just-noticeable differences in")`) == nil {
			break
		}
	}
	d.Sees("just-noticeable differences in")
	d.Does("click", "Put them on the sheet")
	d.Sees("The readings found by ear are on the sheet", "as it was before")
	d.Click("header .tools button:first-child")
	d.Sees("Took back")
	d.Does("click", "Stages")
	d.Sees("mixer", "output")
}

// A blind test by the keyboard, kept with its probability; and a recording in the place of a side.
func TestBlindTestAndRecording(t *testing.T) {
	d := desk.Open(t, true)
	d.Listen()
	d.Set(`document.querySelector(".blind select")`, "8")
	d.Does("click", "Begin a blind test")
	d.Sees("Round 1 of 8")
	d.Press("a", "b", "x")
	for range 8 {
		d.Press("ArrowLeft")
	}
	d.Sees("of 8 right", "p = ")

	s := &wav.Sound{Rate: 44100, Bits: 16, Left: make([]float64, 44100)}
	for k := range s.Left {
		s.Left[k] = 0.3 * math.Sin(2*math.Pi*220*float64(k)/44100)
	}
	var b bytes.Buffer
	d.Must(wav.Write(&b, s))
	file := filepath.Join(t.TempDir(), "the real one.wav")
	d.Must(os.WriteFile(file, b.Bytes(), 0o600))
	d.Does("click", "Recordings")
	d.Must(d.Upload("#rec-target", file))
	d.Sees("the real one.wav stands for the target", "back to the render")
	d.Holds(`document.querySelector(".legend").innerText.includes("the real one.wav")`)

	bad := filepath.Join(t.TempDir(), "no wave.wav")
	d.Must(os.WriteFile(bad, []byte("nothing of the kind"), 0o600))
	d.Must(d.Upload("#rec-source", bad))
	d.Sees("expected a WAVE file")
}

// EQ sections against the BiquadFilterNode of the test browser (W3C Web Audio API), within 0.1 dB.
func TestBiquadsAgainstBrowser(t *testing.T) {
	d := desk.Open(t, false)
	d.Visit("/")
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
		d.Must(err)
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
	d := desk.Open(t, true)
	d.Opens("gulls", "bowline")
	d.Sees("Ballast could play")
	d.Does("click", "Put it behind Bowline")
	d.Sees("Outside, Ballast plays Delay, Treble", "checks hold")
	d.Press("d")
	d.Sees("Outside: Ballast", "Connect Ballast behind Bowline")
	d.Press("Escape")
	d.Sees("Outside, Ballast plays")
	d.Press("Ctrl+z")
	d.Sees("Ballast could play")

	d.Opens("keel", "coracle")
	d.Does("click", "Make a second layer of Coracle")
	d.Sees("A second layer: what the first one plays is left out here.", "The first layer’s sheet", "checks hold")
	d.Press("h")
	d.Sees("just-noticeable differences apart")

	d.Opens("keel", "halyard")
	d.Press("p")
	d.Does("click", "Next best plans")
	d.Does("click", "take this plan")
	d.Sees("This is not the best plan", "checks hold")
	d.Does("click", "back to the best plan")
	d.Holds(`!document.body.innerText.includes("This is not the best plan")`)
	d.Does("click", "Weigh parts by how much they are heard")
	d.Sees("Parts count for as much as they are heard.")
	d.Press("Ctrl+z")
	d.Holds(`!document.body.innerText.includes("Parts count for as much")`)
}

// The margin names the rule by which a line goes over and what it costs; the plan lists the rules that rewrite parts. A slow rendering
// says how far it is, and is forgotten when one goes elsewhere: what is heard next is what was asked for last.
func TestRulesAndProgress(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/")
	d.Sees("Keel bass on Windlass")
	d.Set(`document.querySelectorAll(".go select")[1]`, "sheave")
	d.Click(".go button")
	d.Sees("checks hold")
	d.Visit("/sheets/1?line=filter.cutoff")
	d.Sees("the pivot is C3 there, C4 here", "By the rule", "Cutoff counted from another key", "common practice, no source")
	d.Visit("/sheets/1?line=target:wheel.vibrato")
	d.Sees("What init leaves on is switched off")
	// a line that goes over as it is names no rule
	d.Visit("/sheets/1?line=filter.resonance")
	d.Holds(`document.querySelector("aside h2")?.textContent === "Resonance"`)
	d.Holds(`!document.querySelector("aside .rule")`)
	d.Press("h")
	d.Holds("location.pathname === '/sheets/1/listen'")
	d.Sees("just-noticeable differences apart")
	// parts off and on again in quick succession: the last wins
	before, err := browser.Eval[string](d.Browser, `document.querySelector("path.target").getAttribute("d")`)
	d.Must(err)
	d.Press("ArrowDown", "ArrowDown", "o", "o", "o")
	d.Holds(`document.querySelectorAll(".parts li.off").length === 1`)
	d.Holds(`!document.body.textContent.includes("Rendering")`)
	d.Holds(fmt.Sprintf(`document.querySelector("path.target").getAttribute("d") !== %q`, before))
	d.Sees("just-noticeable differences apart")
}

// A translation that is quieter is told how its volume would make it as loud, and set so by the keyboard; undone, it is offered again. A
// recording is dropped anywhere on its box; beside it nothing happens.
func TestAsLoudAndDrop(t *testing.T) {
	d := desk.Open(t, true)
	d.Opens("storm-front", "kedge")
	d.Set("document.querySelectorAll('.top select')[1]", "numbers") // by ear it would be as loud
	d.Holds("location.pathname === '/sheets/2'")
	d.Sees("checks hold")
	d.Press("h")
	d.Sees("The translation is", "dB quieter than the source. Volume at", "makes it about as loud", "just-noticeable differences apart", "±")
	const level = `Number(document.querySelector(".bit .num").textContent)`
	d.Holds(level + " > 2")
	d.Does("focus", "Set Volume to")
	d.Press("Enter")
	d.Sees("Volume set to")
	d.Holds(level + " < 1.5")
	d.Holds(`!document.body.innerText.includes("quieter than the source")`)
	d.Press("Ctrl+z")
	d.Sees("dB quieter than the source")

	d.Does("click", "Recordings")
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
	d.Holds(drop("h1")) // it would leave the page if it were not kept from it
	d.Holds(`location.pathname === '/sheets/2/listen'`)
	d.Holds(drop(`.drop[aria-label="Recording of the target"]`))
	d.Sees("take.wav: 0.5 s")
	d.Does("click", "keep it in the log")
	d.Sees("The recording is kept")
	d.Press("g", "l")
	d.Sees("take.wav, of ", "0.5 s", "hear it")
}

// A sheet answers for what is heard: the headline comes after the lines without moving them, each loss says how much it is heard alone, and where only losses are shown the
// most heard comes first. The targets are listened to by a key, and put in that order.
func TestSheetIsHeard(t *testing.T) {
	d := desk.Open(t, true)
	d.Opens("keel", "bowline")
	const first = `document.querySelector("tbody tr.open").getBoundingClientRect().top`
	at, err := browser.Eval[float64](d.Browser, first)
	d.Must(err)
	d.Sees("just-noticeable differences apart in sound")
	d.Holds(fmt.Sprintf("Math.abs(%s - %v) < 1", first, at))
	d.Holds(`[...document.querySelectorAll("td.heard")].some(x => Number(x.textContent) > 1)`)
	d.Press("l")
	d.Holds(`(v => v.length > 3 && v.every((x, i) => i === 0 || x <= v[i - 1]))([...document.querySelectorAll("td.heard")].map(x => Number(x.textContent)))`)
	d.Press("ArrowDown")
	d.Sees("Heard alone:")
	d.Press("b")
	d.Holds("location.pathname === '/patches/keel/targets'")
	d.Sees("Apart in sound")
	d.Press("h")
	d.Holds(`document.body.innerText.includes("Stop listening")`)
	for range 8 { // a few seconds for each of nine
		if d.Until(`[...document.querySelectorAll("td.apart")].filter(x => Number(x.textContent) >= 0 && x.textContent.trim() !== "").length >= 3`) == nil {
			break
		}
	}
	d.Press("o")
	d.Holds(`(v => v.length >= 3 && v.every((x, i) => i === 0 || x >= v[i - 1]))([...document.querySelectorAll("td.apart")].map(x => x.textContent.trim()).filter(x => /^[0-9.]+$/.test(x)).map(Number))`)
	d.Press("h")
	d.Holds(`!document.body.innerText.includes("Stop listening")`)
}
