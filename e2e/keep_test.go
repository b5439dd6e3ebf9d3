package e2e

import (
	"testing"

	"glossator/e2e/browser"
)

// By keys: a translation goes into a slot of its target, what stands in a slot is written over only after a question, a protected one not at all; undo takes each back.
func TestSlotsByKeys(t *testing.T) {
	d := open(t, true)
	d.opens("keel", "halyard")
	d.visit("/panels/halyard")
	d.sees("Halyard")
	d.press("m")
	d.sees("Slots of Halyard", "128 free")
	at := func(text string) {
		d.t.Helper()
		d.holds(`document.querySelector(".slots [aria-current]")?.innerText.includes("` + text + `")`)
	}
	d.press("ArrowDown", "ArrowDown")
	at("free")
	d.press("e")
	d.put("Old brass")
	d.press("Enter")
	d.sees("1 in use or protected", "Old brass")
	d.holds(`(() => { const s = document.querySelector(".one select"); if (s.value !== "1") { s.value = "1"; s.dispatchEvent(new Event("change", {bubbles: true})); } return s.value === "1"; })()`)
	d.does("click", "Put it there")
	d.sees("stands there", "Write over it")
	d.press("Escape")
	d.holds(`!document.querySelector("[role=alertdialog]")`)
	at("Old brass")
	d.does("click", "Put it there")
	d.does("click", "Write over it")
	d.sees("Its sheet")
	at("Keel")
	d.visit("/panels/halyard/slots")
	d.sees("1 in use or protected")
	d.press("ArrowDown", "ArrowDown", "p")
	at("protected")
	d.holds(`!document.querySelector(".one form")`)
	d.press("Ctrl+z")
	d.sees("Took back: protect")
	d.press("Ctrl+z")
	at("Old brass")
	d.press("f")
	at("free")
	d.visit("/panels/kedge/slots")
	d.sees("It has no memory")
	d.press("Escape")
	d.holds(`location.pathname === "/panels/kedge"`)
}

// A backup is made by a key; restoring asks, and brings back what was deleted since; what stood before is a backup, too. A file that is no backup is refused at its place.
func TestBackupsByKeys(t *testing.T) {
	d := open(t, true)
	d.opens("keel", "halyard")
	d.visit("/")
	d.sees("Keel")
	d.press("g", "k")
	d.sees("Keep", "Make one now")
	d.press("m")
	d.sees("A backup is made", "asked for")
	d.visit("/")
	d.does("click", "take the sample away")
	d.sees("The sample is gone")
	d.visit("/keep")
	d.click(`.acts button[aria-label^="Restore"]`)
	d.sees("It takes the place of all that is here")
	d.press("Escape")
	d.holds(`!document.body.innerText.includes("It takes the place of all that is here")`)
	d.click(`.acts button[aria-label^="Restore"]`)
	d.does("click", "Restore it")
	d.sees("before a restore")
	d.visit("/patches")
	d.sees("Gulls", "Keel")
	d.visit("/keep")
	d.sees("asked for")
	d.drops(`document.querySelector("input[accept='.db']")`, "diary.db", "text/plain", "dear diary")
	d.sees("diary.db", "takes the place of all that is here")
	d.does("click", "Restore it")
	d.sees("It cannot be restored", "Nothing was changed")
	d.drops(`document.querySelector("input[accept^='.zip']")`, "job.zip", "application/zip", "dear diary")
	d.sees("it is no ZIP file")
}

// drops gives a file to a field for files.
func (d *desk) drops(js, name, media, text string) {
	d.t.Helper()
	d.holds(`(() => { const f = ` + js + `; if (!f) return false; const t = new DataTransfer(); t.items.add(new File(["` + text + `"], "` + name + `", {type: "` + media + `"})); f.files = t.files;
		f.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`)
}

// A photograph that is dropped stands beside the readings, with words under it; it is still there after a reload, and undo takes it away. What is no photograph is refused, and nothing is lost.
func TestPhotographsByHand(t *testing.T) {
	d := open(t, true)
	d.visit("/patches/keel")
	d.sees("Oscillator 1")
	d.press("s")
	d.sees("Photographs", "Place and owner are not kept")
	d.drops(`document.querySelector(".photographs input[type=file]")`, "notes.jpg", "image/jpeg", "dear diary")
	d.sees("Expected a photograph as JPEG or PNG")
	d.holds(`(() => { if (window.dropped) return document.querySelector(".photographs figure img")?.naturalWidth === 300; window.dropped = 1; const c = document.createElement("canvas"); c.width = 300; c.height = 200; c.getContext("2d").fillRect(9, 9, 90, 90);
		c.toBlob((b) => { const t = new DataTransfer(); t.items.add(new File([b], "panel.png", {type: "image/png"}));
			document.querySelector(".photographs").dispatchEvent(new DragEvent("drop", {bubbles: true, cancelable: true, dataTransfer: t})); }); return false; })()`)
	d.holds(`(() => { const i = document.querySelector(".photographs figcaption input"); i.value = "left half, of Sunday"; i.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`)
	d.sees("Undo: caption a photograph")
	d.visit("/patches/keel")
	d.holds(`document.querySelector(".photographs figure img")?.alt === "left half, of Sunday"`)
	d.press("Ctrl+z")
	d.sees("Took back: caption a photograph")
	d.press("Ctrl+z")
	d.holds(`!document.querySelector(".photographs figure")`)
}

// Sheets, lists and changeovers can be saved in every form from where they are looked at, and sounds from where they are heard.
func TestSavedFromWhereItIs(t *testing.T) {
	d := open(t, true)
	d.opens("keel", "halyard")
	loads := func(css string, n int) {
		d.t.Helper()
		d.holds(`(() => { const all = [...document.querySelectorAll('` + css + `')].map((a) => a.href); if (all.length < ` + string(rune('0'+n)) + `) return false; window.got ??= {};
			for (const a of all) if (!window.got[a]) { window.got[a] = 1; fetch(a).then((r) => (window.got[a] = r.ok && r.headers.get("Content-Disposition") ? 2 : 3)); } return all.every((a) => window.got[a] === 2); })()`)
	}
	d.visit("/sheets/1/dial-in")
	d.sees("0 of")
	d.does("click", "More")
	loads(`a[href*="/papers/dial-in."]`, 4)
	d.opens("undertow", "halyard")
	d.visit("/sheets/2/changeover")
	d.sees("to change")
	d.does("click", "More")
	loads(`a[href*="/papers/changeover."]`, 4)
	d.visit("/sheets/1")
	d.sees("checks hold")
	d.does("click", "More")
	loads(`a[href*="/papers/sheet."]`, 3)
}

// On the list: what is typed of the instrument is held against the plan, what agrees is ticked in one go; what another device ticks is seen; another round is a sheet of its own.
func TestReadBackAndRounds(t *testing.T) {
	d := open(t, true)
	d.opens("keel", "halyard")
	d.visit("/sheets/1/dial-in")
	d.sees("0 of")
	planned, err := browser.Await[string](d.Browser, `fetch("/api/v1/sheets/1").then((r) => r.json()).then((v) => v.sheet.settings.find((x) => x.control === "filter.cutoff").reading)`)
	d.must(err)
	d.press("y")
	d.holds(`document.activeElement.matches(".back textarea")`)
	d.put("cutoff " + planned + ", filter resonance 126, blinkenlight 4")
	d.does("click", "Hold it against the plan")
	d.sees("1 does not stand as planned", "126", "1 stands as planned", "blinkenlight")
	d.does("click", "Tick it")
	d.sees("1 of")
	d.holds(`(() => { window.sent ??= fetch("/api/v1/sheets/1/ticks/filter.resonance", {method: "PUT"}); return document.body.innerText.includes("2 of"); })()`) // another device
	d.press("Escape")
	d.press("e")
	d.sees("Another round")
	d.set(`[...document.querySelectorAll(".log input")].find((i) => i.placeholder.startsWith("darker"))`, "darker, longer")
	d.does("click", "Begin it on a sheet of its own")
	d.holds(`location.pathname === "/sheets/2"`)
	d.visit("/log")
	d.sees("darker, longer")
	d.visit("/")
	d.sees("Keel, round 2")
}

// What plays along is heard with both sides, in time with the line; what is no sound is refused, and what plays goes on.
func TestInTheMix(t *testing.T) {
	d := open(t, true)
	d.opens("tide-pool", "halyard")
	d.visit("/sheets/1/listen")
	d.sees("Play")
	d.does("click", "Recordings")
	d.sees("In the mix")
	d.drops(`document.querySelector("#backing")`, "diary.wav", "audio/wav", "dear diary")
	d.sees("It cannot be played")
	d.holds(`(() => { const n = 48000, b = new DataView(new ArrayBuffer(44 + 2 * n)); if (window.sent) return document.body.innerText.includes("plays along k") || document.body.innerText.includes("plays along"); window.sent = 1;
		const text = (at, s) => [...s].forEach((c, i) => b.setUint8(at + i, c.charCodeAt(0)));
		text(0, "RIFF"); b.setUint32(4, 36 + 2 * n, true); text(8, "WAVEfmt "); b.setUint32(16, 16, true); b.setUint16(20, 1, true); b.setUint16(22, 1, true); b.setUint32(24, 48000, true); b.setUint32(28, 96000, true); b.setUint16(32, 2, true); b.setUint16(34, 16, true);
		text(36, "data"); b.setUint32(40, 2 * n, true); for (let i = 0; i < n; i++) b.setInt16(44 + 2 * i, 20000 * Math.sin(i / 20), true);
		const f = document.querySelector("#backing"), t = new DataTransfer(); t.items.add(new File([b.buffer], "band.wav", {type: "audio/wav"})); f.files = t.files; f.dispatchEvent(new Event("change", {bubbles: true})); return false; })()`)
	d.sees("band.wav", "1.0 s", "-12 dB")
	d.press("k")
	d.holds(`!document.querySelector(".drop input[type=checkbox]").checked`)
	d.press("k")
	d.holds(`document.querySelector(".drop input[type=checkbox]").checked`)
	d.press("Space")
	d.holds(`Number(document.querySelector("[role=meter]").getAttribute("aria-valuenow")) > -60`)
	d.press("Space")
	d.does("click", "take it away")
	d.holds(`!document.body.innerText.includes("band.wav")`)
}

// The list by place on the panel: from the first control to the last, kept from list to list; each step says what to listen for, and when to save.
func TestSweepAndSave(t *testing.T) {
	d := open(t, true)
	d.opens("keel", "halyard")
	d.visit("/sheets/1/dial-in")
	d.sees("Oscillators", "Listen for", "Save now")
	d.press("w")
	d.holds(`!document.body.innerText.includes("Voice set-up")`)
	d.holds(`fetch && (window.places ??= fetch("/api/v1/sheets/1").then((r) => r.json()).then((v) => (window.order = v.dialIn.groups.flatMap((g) => g.lines).sort((a, b) => a.place - b.place).map((l) => "t-" + l.key)))) && window.order?.join() === [...document.querySelectorAll(".list input")].map((i) => i.id).join()`)
	d.press("Space", "Space")
	d.sees("2 of")
	d.opens("undertow", "halyard")
	d.visit("/sheets/2/dial-in")
	d.sees("Listen for")
	d.holds(`!document.body.innerText.includes("Voice set-up")`)
	d.press("w")
	d.sees("Oscillators")
}
