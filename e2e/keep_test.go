package e2e

import "testing"

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
	loads(`a[href*="/papers/dial-in."]`, 4)
	d.opens("undertow", "halyard")
	d.visit("/sheets/2/changeover")
	d.sees("to change")
	loads(`a[href*="/papers/changeover."]`, 4)
	d.visit("/sheets/1")
	d.sees("checks hold")
	d.does("click", "More")
	loads(`a[href*="/papers/sheet."]`, 3)
}
