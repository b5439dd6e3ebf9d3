// Package after drives in a browser the workshop, and what comes after a translation: corrections, files, shows.
package after

import (
	"testing"

	"glossator/e2e/browser"
	"glossator/e2e/desk"
)

// By keys: a translation goes into a slot of its target, what stands in a slot is written over only after a question, a protected one not at all; undo takes each back.
func TestSlotsByKeys(t *testing.T) {
	d := desk.Open(t, true)
	d.Opens("keel", "halyard")
	d.Visit("/panels/halyard")
	d.Sees("Halyard")
	d.Press("m")
	d.Sees("Slots of Halyard", "128 free")
	at := func(text string) {
		d.T.Helper()
		d.Holds(`document.querySelector(".slots [aria-current]")?.innerText.includes("` + text + `")`)
	}
	d.Press("ArrowDown", "ArrowDown")
	at("free")
	d.Press("e")
	d.Put("Old brass")
	d.Press("Enter")
	d.Sees("1 in use or protected", "Old brass")
	d.Holds(`(() => { const s = document.querySelector(".one select"); if (s.value !== "1") { s.value = "1"; s.dispatchEvent(new Event("change", {bubbles: true})); } return s.value === "1"; })()`)
	d.Does("click", "Put it there")
	d.Sees("stands there", "Write over it")
	d.Press("Escape")
	d.Holds(`!document.querySelector("[role=alertdialog]")`)
	at("Old brass")
	d.Does("click", "Put it there")
	d.Does("click", "Write over it")
	d.Sees("Its sheet")
	at("Keel")
	d.Visit("/panels/halyard/slots")
	d.Sees("1 in use or protected")
	d.Press("ArrowDown", "ArrowDown", "p")
	at("protected")
	d.Holds(`!document.querySelector(".one form")`)
	d.Press("Ctrl+z")
	d.Sees("Took back: protect")
	d.Press("Ctrl+z")
	at("Old brass")
	d.Press("f")
	at("free")
	d.Visit("/panels/kedge/slots")
	d.Sees("It has no memory")
	d.Press("Escape")
	d.Holds(`location.pathname === "/panels/kedge"`)
}

// A backup is made by a key; restoring asks, and brings back what was deleted since; what stood before is a backup, too. A file that is no backup is refused at its place.
func TestBackupsByKeys(t *testing.T) {
	d := desk.Open(t, true)
	d.Opens("keel", "halyard")
	d.Visit("/")
	d.Sees("Keel")
	d.Press("g", "k")
	d.Sees("Keep", "Make one now")
	d.Press("m")
	d.Sees("A backup is made", "asked for")
	d.Visit("/")
	d.Does("click", "take the sample away")
	d.Sees("The sample is gone")
	d.Visit("/keep")
	d.Click(`.acts button[aria-label^="Restore"]`)
	d.Sees("It takes the place of all that is here")
	d.Press("Escape")
	d.Holds(`!document.body.innerText.includes("It takes the place of all that is here")`)
	d.Click(`.acts button[aria-label^="Restore"]`)
	d.Does("click", "Restore it")
	d.Sees("before a restore")
	d.Visit("/patches")
	d.Sees("Gulls", "Keel")
	d.Visit("/keep")
	d.Sees("asked for")
	d.Drops(`document.querySelector("input[accept='.db']")`, "diary.db", "text/plain", "dear diary")
	d.Sees("diary.db", "takes the place of all that is here")
	d.Does("click", "Restore it")
	d.Sees("It cannot be restored", "Nothing was changed")
	d.Drops(`document.querySelector("input[accept^='.zip']")`, "job.zip", "application/zip", "dear diary")
	d.Sees("it is no ZIP file")
}

// A photograph that is dropped stands beside the readings, with words under it; it is still there after a reload, and undo takes it away. What is no photograph is refused, and nothing is lost.
func TestPhotographsByHand(t *testing.T) {
	d := desk.Open(t, true)
	d.Visit("/patches/keel")
	d.Sees("Oscillator 1")
	d.Press("s")
	d.Sees("Photographs", "Place and owner are not kept")
	d.Drops(`document.querySelector(".photographs input[type=file]")`, "notes.jpg", "image/jpeg", "dear diary")
	d.Sees("Expected a photograph as JPEG or PNG")
	d.Holds(`(() => { if (window.dropped) return document.querySelector(".photographs figure img")?.naturalWidth === 300; window.dropped = 1; const c = document.createElement("canvas"); c.width = 300; c.height = 200; c.getContext("2d").fillRect(9, 9, 90, 90);
		c.toBlob((b) => { const t = new DataTransfer(); t.items.add(new File([b], "panel.png", {type: "image/png"}));
			document.querySelector(".photographs").dispatchEvent(new DragEvent("drop", {bubbles: true, cancelable: true, dataTransfer: t})); }); return false; })()`)
	d.Holds(`(() => { const i = document.querySelector(".photographs figcaption input"); i.value = "left half, of Sunday"; i.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`)
	d.Sees("Undo: caption a photograph")
	d.Visit("/patches/keel")
	d.Holds(`document.querySelector(".photographs figure img")?.alt === "left half, of Sunday"`)
	d.Press("Ctrl+z")
	d.Sees("Took back: caption a photograph")
	d.Press("Ctrl+z")
	d.Holds(`!document.querySelector(".photographs figure")`)
}

// Sheets, lists and changeovers can be saved in every form from where they are looked at, and sounds from where they are heard.
func TestSavedFromWhereItIs(t *testing.T) {
	d := desk.Open(t, true)
	d.Opens("keel", "halyard")
	loads := func(css string, n int) {
		d.T.Helper()
		d.Holds(`(() => { const all = [...document.querySelectorAll('` + css + `')].map((a) => a.href); if (all.length < ` + string(rune('0'+n)) + `) return false; window.got ??= {};
			for (const a of all) if (!window.got[a]) { window.got[a] = 1; fetch(a).then((r) => (window.got[a] = r.ok && r.headers.get("Content-Disposition") ? 2 : 3)); } return all.every((a) => window.got[a] === 2); })()`)
	}
	d.Visit("/sheets/1/dial-in")
	d.Sees("0 of")
	d.Does("click", "More")
	loads(`a[href*="/papers/dial-in."]`, 4)
	d.Opens("undertow", "halyard")
	d.Visit("/sheets/2/changeover")
	d.Sees("to change")
	d.Does("click", "More")
	loads(`a[href*="/papers/changeover."]`, 4)
	d.Visit("/sheets/1")
	d.Sees("checks hold")
	d.Does("click", "More")
	loads(`a[href*="/papers/sheet."]`, 3)
}

// On the list: what is typed of the instrument is held against the plan, what agrees is ticked in one go; what another device ticks is seen; another round is a sheet of its own.
func TestReadBackAndRounds(t *testing.T) {
	d := desk.Open(t, true)
	d.Opens("keel", "halyard")
	d.Visit("/sheets/1/dial-in")
	d.Sees("0 of")
	planned, err := browser.Await[string](d.Browser, `fetch("/api/v1/sheets/1").then((r) => r.json()).then((v) => v.sheet.settings.find((x) => x.control === "filter.cutoff").reading)`)
	d.Must(err)
	d.Press("y")
	d.Holds(`document.activeElement.matches(".back textarea")`)
	d.Put("cutoff " + planned + ", filter resonance 126, blinkenlight 4")
	d.Does("click", "Hold it against the plan")
	d.Sees("1 does not stand as planned", "126", "1 stands as planned", "blinkenlight")
	d.Does("click", "Tick it")
	d.Sees("1 of")
	d.Holds(`(() => { window.sent ??= fetch("/api/v1/sheets/1/ticks/filter.resonance", {method: "PUT"}); return document.body.innerText.includes("2 of"); })()`) // another device
	d.Press("Escape")
	d.Press("e")
	d.Sees("Another round")
	d.Set(`[...document.querySelectorAll(".log input")].find((i) => i.placeholder.startsWith("darker"))`, "darker, longer")
	d.Does("click", "Begin it on a sheet of its own")
	d.Holds(`location.pathname === "/sheets/2"`)
	d.Visit("/log")
	d.Sees("darker, longer")
	d.Visit("/")
	d.Sees("Keel, round 2")
}

// What plays along is heard with both sides, in time with the line; what is no sound is refused, and what plays goes on.
func TestInTheMix(t *testing.T) {
	d := desk.Open(t, true)
	d.Opens("tide-pool", "halyard")
	d.Visit("/sheets/1/listen")
	d.Sees("Play")
	d.Does("click", "Recordings")
	d.Sees("In the mix")
	d.Drops(`document.querySelector("#backing")`, "diary.wav", "audio/wav", "dear diary")
	d.Sees("It cannot be played")
	d.Holds(`(() => { const n = 48000, b = new DataView(new ArrayBuffer(44 + 2 * n)); if (window.sent) return document.body.innerText.includes("plays along k") || document.body.innerText.includes("plays along"); window.sent = 1;
		const text = (at, s) => [...s].forEach((c, i) => b.setUint8(at + i, c.charCodeAt(0)));
		text(0, "RIFF"); b.setUint32(4, 36 + 2 * n, true); text(8, "WAVEfmt "); b.setUint32(16, 16, true); b.setUint16(20, 1, true); b.setUint16(22, 1, true); b.setUint32(24, 48000, true); b.setUint32(28, 96000, true); b.setUint16(32, 2, true); b.setUint16(34, 16, true);
		text(36, "data"); b.setUint32(40, 2 * n, true); for (let i = 0; i < n; i++) b.setInt16(44 + 2 * i, 20000 * Math.sin(i / 20), true);
		const f = document.querySelector("#backing"), t = new DataTransfer(); t.items.add(new File([b.buffer], "band.wav", {type: "audio/wav"})); f.files = t.files; f.dispatchEvent(new Event("change", {bubbles: true})); return false; })()`)
	d.Sees("band.wav", "1.0 s", "-12 dB")
	d.Press("k")
	d.Holds(`!document.querySelector(".drop input[type=checkbox]").checked`)
	d.Press("k")
	d.Holds(`document.querySelector(".drop input[type=checkbox]").checked`)
	d.Press("Space")
	d.Holds(`Number(document.querySelector("[role=meter]").getAttribute("aria-valuenow")) > -60`)
	d.Press("Space")
	d.Does("click", "take it away")
	d.Holds(`!document.body.innerText.includes("band.wav")`)
}

// The list by place on the panel: from the first control to the last, kept from list to list; each step says what to listen for, and when to save.
func TestSweepAndSave(t *testing.T) {
	d := desk.Open(t, true)
	d.Opens("keel", "halyard")
	d.Visit("/sheets/1/dial-in")
	d.Sees("Oscillators", "Listen for", "Save now")
	d.Press("w")
	d.Holds(`!document.body.innerText.includes("Voice set-up")`)
	d.Holds(`fetch && (window.places ??= fetch("/api/v1/sheets/1").then((r) => r.json()).then((v) => (window.order = v.dialIn.groups.flatMap((g) => g.lines).sort((a, b) => a.place - b.place).map((l) => "t-" + l.key)))) && window.order?.join() === [...document.querySelectorAll(".list input")].map((i) => i.id).join()`)
	d.Press("Space", "Space")
	d.Sees("2 of")
	d.Opens("undertow", "halyard")
	d.Visit("/sheets/2/dial-in")
	d.Sees("Listen for")
	d.Holds(`!document.body.innerText.includes("Voice set-up")`)
	d.Press("w")
	d.Sees("Oscillators")
}
