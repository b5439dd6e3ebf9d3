package server

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/color"
	"image/jpeg"
	"strings"
	"testing"
)

// A backup is made, downloaded, and restored from the list and from the file; the page shows what stood then, though panels of the same id and revision were here meanwhile. What is none is refused.
func TestBackupsByThePage(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	made := ask[Backups](c, "POST", "/backups", "", 200)
	if len(made.Backups) != 1 || made.Backups[0].Kind != "made" || made.Backups[0].Bytes == 0 || made.Kept != 14 {
		t.Fatalf("%+v", made)
	}
	name := made.Backups[0].Name
	res, data := c.do("GET", Base+"/backups/"+name, "", nil)
	if res.StatusCode != 200 || !strings.HasPrefix(string(data), "SQLite format 3") || int64(len(data)) != made.Backups[0].Bytes {
		t.Fatalf("%d, %d bytes", res.StatusCode, len(data))
	}
	wasName := ask[SheetView](c, "GET", "/sheets/1", "", 200).Sheet.Target.Name
	ask[any](c, "POST", "/undo", "", 200) // the sample is gone
	res, panelFile := c.do("GET", Base+"/backups/../../etc/passwd", "", nil)
	if res.StatusCode != 404 {
		t.Errorf("%d: %.80s", res.StatusCode, panelFile)
	}
	for i, restore := range []func() Restored{
		func() Restored { return ask[Restored](c, "POST", "/backups/"+name+"/restore", "", 200) },
		func() Restored { return ask[Restored](c, "POST", "/restore", string(data), 200) },
	} {
		if i == 1 {
			ask[any](c, "DELETE", "/sheets/1", "", 204)
		}
		r := restore()
		if r.Before.Kind != "before" {
			t.Errorf("%+v", r)
		}
		v := ask[SheetView](c, "GET", "/sheets/1", "", 200)
		if v.Sheet.Target.Name != wasName || v.Sheet.PatchName != "Keel" {
			t.Errorf("%s on %s", v.Sheet.PatchName, v.Sheet.Target.Name)
		}
	}
	for _, bad := range []string{"", "dear diary", string(data[:5000])} {
		res, got := c.do("POST", Base+"/restore", bad, nil)
		if res.StatusCode != 422 || !strings.Contains(string(got), "cannot be restored") {
			t.Errorf("%.10q: %d %s", bad, res.StatusCode, got)
		}
	}
	if list := ask[Backups](c, "DELETE", "/backups/"+name, "", 200); len(list.Backups) != 2 {
		t.Errorf("%+v", list.Backups)
	}
	if list := ask[Backups](c, "PUT", "/backups", `{"kept": 3}`, 200); list.Kept != 3 {
		t.Errorf("%+v", list)
	}
	for path, status := range map[string]int{"/backups/none.db": 404, "/backups/" + name: 404} {
		ask[any](c, "DELETE", path, "", status)
	}
	ask[any](c, "PUT", "/backups", `{"kept": -1}`, 422)
}

// A job goes out of one program and into another, whole; what cannot be taken is refused, and nothing changes.
func TestArchivesByThePage(t *testing.T) {
	one, two := newClient(t, true), newClient(t, false)
	ask[Opened](one, "POST", "/sheets", `{"patch": "tide-pool", "target": "halyard", "school": "numbers"}`, 200)
	ask[SheetView](one, "PUT", "/sheets/1/corrections/env1.release", `{"reading": "47", "why": "longer"}`, 200)
	res, data := one.do("GET", Base+"/archive?patches=tide-pool&sounds=true", "", nil)
	if res.StatusCode != 200 || !strings.Contains(res.Header.Get("Content-Disposition"), "tide-pool.glossator.zip") || !bytes.Contains(data, []byte("sounds/1-target.wav")) {
		t.Fatalf("%d, %d bytes", res.StatusCode, len(data))
	}
	got := ask[ArchiveTaken](two, "POST", "/archive?name=job.zip", string(data), 200)
	if got.Patches != 1 || got.Sheets != 1 || got.Panels != 2 || !strings.Contains(got.Pending.Undo, "job.zip") {
		t.Errorf("%+v", got)
	}
	a, b := ask[SheetView](one, "GET", "/sheets/1", "", 200), ask[SheetView](two, "GET", "/sheets/1", "", 200)
	if len(b.Entries) != 1 || len(a.Sheet.Settings) != len(b.Sheet.Settings) {
		t.Fatalf("%+v", b.Entries)
	}
	for i := range a.Sheet.Settings {
		if a.Sheet.Settings[i].Reading != b.Sheet.Settings[i].Reading {
			t.Errorf("%s: %s there, %s here", a.Sheet.Settings[i].Label, b.Sheet.Settings[i].Reading, a.Sheet.Settings[i].Reading)
		}
	}
	ask[any](one, "GET", "/archive?patches=none", "", 404)
	if res, got := two.do("POST", Base+"/archive", "dear diary", nil); res.StatusCode != 422 || !strings.Contains(string(got), "no ZIP") {
		t.Errorf("%d %s", res.StatusCode, got)
	}
}

func photograph(t *testing.T, w, h int) string {
	img := image.NewGray(image.Rect(0, 0, w, h))
	img.SetGray(1, 1, color.Gray{200})
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, nil); err != nil {
		t.Fatal(err)
	}
	return b.String()
}

// Photographs of a patch and of a sheet are kept, shown, captioned and taken away; what is none, or of nothing, is refused.
func TestPhotographsByThePage(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	for _, of := range []string{"/patches/keel", "/sheets/1"} {
		v := ask[Photographs](c, "POST", of+"/photographs?caption=left%20half", photograph(t, 3000, 30), 200)
		if len(v.Photographs) != 1 || v.Photographs[0].Width != 2000 || v.Photographs[0].Height != 20 || v.Photographs[0].Caption != "left half" {
			t.Fatalf("%+v", v)
		}
		id := v.Photographs[0].ID
		path := "/photographs/" + string(rune('0'+id))
		res, data := c.do("GET", Base+path, "", nil)
		if _, form, err := image.DecodeConfig(bytes.NewReader(data)); err != nil || form != "jpeg" || res.Header.Get("Content-Type") != "image/jpeg" {
			t.Errorf("%s: %v", res.Header.Get("Content-Type"), err)
		}
		ask[any](c, "PUT", path, `{"caption": "right half"}`, 204)
		ask[any](c, "PUT", path, `{"caption": "`+strings.Repeat("x", 301)+`"}`, 422)
		if v = ask[Photographs](c, "GET", of+"/photographs", "", 200); v.Photographs[0].Caption != "right half" {
			t.Errorf("%+v", v)
		}
		ask[any](c, "DELETE", path, "", 204)
		ask[any](c, "GET", path, "", 404)
	}
	huge := []byte(photograph(t, 30, 30))
	at := bytes.Index(huge, []byte{0xFF, 0xC0})
	binary.BigEndian.PutUint16(huge[at+5:], 10000)
	binary.BigEndian.PutUint16(huge[at+7:], 10000)
	for name, x := range map[string]struct{ body, says string }{"a text": {"dear diary", "JPEG or PNG"}, "100 megapixels": {string(huge), "10000 x 10000"}} {
		if res, got := c.do("POST", Base+"/patches/keel/photographs", x.body, nil); res.StatusCode != 422 || !strings.Contains(string(got), x.says) {
			t.Errorf("%s: %d %s", name, res.StatusCode, got)
		}
	}
	for _, path := range []string{"/patches/none/photographs", "/sheets/9/photographs", "/sheets/x/photographs"} {
		ask[any](c, "POST", path, photograph(t, 3, 3), 404)
	}
}

// Slots by the page: a translation goes into one, overwriting asks, a protected one is not sent to, and none is beyond the memory.
func TestSlotsByThePage(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	v := ask[Slots](c, "PUT", "/panels/halyard/slots/0/4", `{"sheet": 1}`, 200)
	if len(v.Slots) != 1 || v.Slots[0].Name != "Keel" || v.Slots[0].Sheet != 1 || v.Free != 127 || !v.Remembers || len(v.Sheets) != 1 {
		t.Fatalf("%+v", v)
	}
	ask[any](c, "PUT", "/panels/halyard/slots/0/4", `{"name": "Old brass"}`, 409)
	ask[any](c, "PUT", "/panels/halyard/slots/0/4", `{"name": "Old brass", "over": "what stood there before"}`, 409)
	ask[Slots](c, "PUT", "/panels/halyard/slots/0/4", `{"name": "Old brass", "over": "Keel"}`, 200)
	ask[Slots](c, "PUT", "/panels/halyard/slots/0/4/protection", `{"protected": true}`, 200)
	ask[any](c, "PUT", "/panels/halyard/slots/0/4", `{"name": "x", "over": "Old brass"}`, 409)
	ask[any](c, "DELETE", "/panels/halyard/slots/0/4", "", 409)
	ask[any](c, "GET", "/sheets/1/send?channel=1&program=5&bank=-1", "", 409)
	ask[any](c, "GET", "/sheets/1/send?channel=1&program=5&bank=0", "", 409)
	ask[Sending](c, "GET", "/sheets/1/send?channel=1&program=6&bank=-1", "", 200)
	ask[any](c, "PUT", "/panels/halyard/slots/0/128", `{"name": "x"}`, 422)
	ask[any](c, "PUT", "/panels/halyard/slots/0/5", `{"name": ""}`, 422)
	ask[any](c, "PUT", "/panels/kedge/slots/0/5", `{"sheet": 1}`, 422)
	ask[any](c, "PUT", "/panels/none/slots/0/5", `{"name": "x"}`, 404)
	if v = ask[Slots](c, "PUT", "/panels/halyard/memory", `{"banks": 8, "programs": 16, "first": 1}`, 200); v.Banks != 8 || v.Free != 127 {
		t.Errorf("%+v", v)
	}
	ask[any](c, "PUT", "/panels/halyard/memory", `{"banks": 8, "programs": 2, "first": 1}`, 409)
	ask[any](c, "PUT", "/panels/halyard/memory", `{"banks": 0, "programs": 2, "first": 1}`, 422)
	if v = ask[Slots](c, "GET", "/panels/kedge/slots", "", 200); v.Remembers {
		t.Error("an instrument without memory remembers")
	}
}
