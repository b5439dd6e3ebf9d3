package server

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"glossator/testutil/memory"
)

// fill repeats a text up to just below the largest file.
func fillText(before, part, after string) string {
	n := (BodyLimit - 64 - len(before) - len(after)) / len(part)
	return before + strings.Repeat(part, n) + after
}

// midiFile is a MIDI file of many tracks, or of one with many events.
func midiFile(tracks, bytesEach int, event []byte) string {
	var b bytes.Buffer
	b.WriteString("MThd\x00\x00\x00\x06\x00\x01")
	_ = binary.Write(&b, binary.BigEndian, uint16(tracks))
	b.Write([]byte{0, 96})
	for range tracks {
		body := append(bytes.Repeat(event, bytesEach/len(event)), 0, 0xFF, 0x2F, 0)
		b.WriteString("MTrk")
		_ = binary.Write(&b, binary.BigEndian, uint32(len(body)))
		b.Write(body)
	}
	return b.String()
}

// Five megabytes of anything at any importer: an answer that is not the program's own fault,
// soon, and less than 200 MB of memory above what the program needs anyway.
func TestFiveMegabytes(t *testing.T) {
	const most = 200 // MB
	c := newClient(t, true)
	s := New(Config{Store: c.st})
	panel := func(more string) string {
		return fillText(`{"format":"glossator-panel","version":1,"id":"x","name":"X","revision":1,"kind":"instrument","memory":true,`+more+`:[`, "@", `]}`)
	}
	many := func(text, part string) string {
		i := strings.IndexByte(text, '@')
		end := strings.LastIndexByte(text, '@')
		before, after := text[:i], text[end+1:]
		n := (BodyLimit - 64 - len(before) - len(after)) / (len(part) + 1)
		return before + strings.TrimSuffix(strings.Repeat(part+",", n), ",") + after
	}
	sections := ""
	for i := range 1900 {
		sections += fmt.Sprintf("Oscillator %d,Level %d,0-10,level\n", i%100, i)
	}
	notes := `{"notes":"` + strings.Repeat("cutoff 61, reso 20\\n", 240000) + `"}`
	for _, x := range []struct{ name, method, path, body string }{
		{"one long text", "POST", "/panels?file=x", fillText("", "a", "")},
		{"deep", "POST", "/panels?file=x", fillText("", "[", "")},
		{"deep objects", "POST", "/patches?file=x", fillText("", `{"a":`, "")},
		{"many empty controls", "POST", "/panels?file=x", many(panel(`"controls"`), `{}`)},
		{"many small controls", "POST", "/panels?file=x", many(panel(`"controls"`), `{"id":"a","label":"b","section":"c","init":"0","face":{"kind":"numeric","max":9,"step":1}}`)},
		{"controls of many positions", "POST", "/panels?file=x", many(panel(`"controls"`), `{"id":"a","label":"b","section":"c","init":"0","face":{"kind":"numeric","max":16384,"step":1}}`)},
		{"many modules", "POST", "/panels?file=x", many(panel(`"modules"`), `{"id":"m","kind":"osc","label":"M"}`)},
		{"many marks", "POST", "/panels?file=x", many(panel(`"sections"`), `0`)},
		{"a long number", "POST", "/patches?file=x", fillText(`{"format":"glossator-patch","version":`, "9", "}")},
		{"many readings", "POST", "/patches?file=x", fillText(`{"format":"glossator-patch","version":1,"id":"x","name":"X","panel":"kedge","kind":"bass","layers":[{"id":"a","readings":{"`, `a":"1","`, `b":"1"}}]}`)},
		{"many layers", "POST", "/patches?file=x", fillText(`{"format":"glossator-patch","version":1,"id":"x","name":"X","panel":"kedge","kind":"bass","layers":[`, `{"id":"a","readings":{}},`, `{}]}`)},
		{"a table of many rows", "PUT", "/panels/kedge/controls.csv?file=x", fillText("id,label,section,face,init\n", "a,b,c,numeric,0\n", "")},
		{"a plain table of many rows", "PUT", "/panels/kedge/controls.csv?file=x", fillText("Section,Control,Printed\n", "a,b,0-10\n", "")},
		{"a plain table of many sections", "POST", "/panels/table?file=x", "Section,Control,Printed,Sets\n" + sections},
		{"a plain table of long faces", "POST", "/panels/table?file=x", fillText("Section,Control,Printed\na,b,", "0 ", "\n")},
		{"a table of one row", "PUT", "/panels/kedge/controls.csv?file=x", fillText("id,label,section,face,init\na", ",", "\n")},
		{"a table of many columns", "PUT", "/panels/kedge/controls.csv?file=x", fillText("id,label,section,face,init", ",x", "\n")},
		{"a table of one quote", "PUT", "/panels/kedge/controls.csv?file=x", fillText("id,label,section,face,init\n\"", "a\n", "")},
		{"a table of many entries", "PUT", "/panels/kedge/controls.csv?file=x", fillText("id,label,section,face,init,entries\na,b,c,list,a,", "a|", "b\n")},
		{"a MIDI file of many tracks", "POST", "/patches/keel/phrase/midi?file=x", midiFile(60000, 70, []byte{0, 0x90, 60, 100})},
		{"a MIDI file of many notes", "POST", "/patches/keel/phrase/midi?file=x", midiFile(1, 5<<20-100, []byte{0, 0x90, 60, 100})},
		{"running status", "POST", "/patches/fog-bank/layers/a/midi?file=x", midiFile(1, 5<<20-100, []byte{0, 0xB0, 1, 2, 0, 3, 4})},
		{"raw bytes", "POST", "/patches/fog-bank/layers/a/midi?file=x", fillText("", "\xB0\x01\x02", "")},
		{"one long dump", "POST", "/patches/fog-bank/layers/a/midi?file=x", fillText("\xF0", "\x7D", "\xF7")},
		{"many dumps", "POST", "/patches/fog-bank/layers/a/midi?file=x", fillText("", "\xF0\x7D\xF7", "")},
		{"notes by the thousand", "POST", "/patches/fog-bank/layers/a/paste", notes},
		{"one endless line of notes", "POST", "/patches/fog-bank/layers/a/paste", `{"notes":"` + strings.Repeat("cutoff 61 reso ", 250000) + `"}`},
		{"marks by the thousand", "POST", "/panels/kedge/workshop/marks", `{"face":{"kind":"numeric","max":127,"step":1},"unit":"Hz","marks":"` + strings.Repeat("1 = 20 Hz\\n", 400000) + `"}`},
		{"an edit of many steps", "POST", "/panels/kedge/workshop", fillText(`{"what":"x","ops":[`, `{"op":"add","path":"/name","value":"x"},`, `{"op":"add","path":"/name","value":"x"}]}`)},
		{"an edit that copies", "POST", "/panels/kedge/workshop", `{"what":"x","ops":[` + strings.TrimSuffix(strings.Repeat(`{"op":"copy","from":"/controls","path":"/controls/0"},`, 40), ",") + `]}`},
	} {
		t.Run(x.name, func(t *testing.T) {
			began := time.Now()
			w := httptest.NewRecorder()
			used := memory.Peak(t, func() {
				s.ServeHTTP(w, httptest.NewRequest(x.method, "http://127.0.0.1"+Base+x.path, strings.NewReader(x.body)))
			})
			t.Logf("%v, status %d, %d MB", time.Since(began).Round(time.Millisecond), w.Code, used)
			if used > most {
				t.Errorf("%d MB of memory", used)
			}
			if w.Code >= 500 || w.Code == 404 {
				t.Errorf("status %d: %.200s", w.Code, w.Body)
			}
			if w.Code >= 400 && w.Body.Len() > 1<<20 {
				t.Errorf("a refusal of %d bytes", w.Body.Len())
			}
		})
	}
	if fmt.Sprint(ask[Desk](c, "GET", "/desk", "", 200).Drafts) != "[]" {
		ask[Done](c, "POST", "/undo", "", 200)
	}
}
