package smf

import (
	"bytes"
	"encoding/hex"
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"

	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/quantity"
	"glossator/core/wire"
)

func unhex(t testing.TB, s string) []byte {
	t.Helper()
	b, err := hex.DecodeString(strings.NewReplacer(" ", "", "\n", "", "\t", "").Replace(s))
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// The table of variable-length quantities of Standard MIDI Files 1.0.
func TestVariableLength(t *testing.T) {
	for v, want := range map[int]string{0: "00", 0x40: "40", 0x7F: "7F", 0x80: "8100", 0x2000: "C000", 0x3FFF: "FF7F", 0x4000: "818000", 0x100000: "C08000",
		0x1FFFFF: "FFFF7F", 0x200000: "81808000", 0x8000000: "C0808000", 0xFFFFFFF: "FFFFFF7F"} {
		if got := strings.ToUpper(hex.EncodeToString(AppendVar(nil, v))); got != want {
			t.Errorf("%#x is written %s, want %s", v, got, want)
		}
		if got, n := ReadVar(unhex(t, want)); got != v || n != len(want)/2 {
			t.Errorf("%s is read %#x in %d bytes, want %#x", want, got, n, v)
		}
	}
	for _, bad := range []string{"", "80", "FFFFFFFF7F", "81808080"} {
		if _, n := ReadVar(unhex(t, bad)); n != 0 {
			t.Errorf("%q was read as %d bytes", bad, n)
		}
	}
}

// The two example files of Standard MIDI Files 1.0, the same music in format 0 and 1 (bytes
// from memory; the chunk lengths in them agree).
const example0 = `4D546864 00000006 0000 0001 0060  4D54726B 0000003B
 00 FF 58 04 04 02 18 08  00 FF 51 03 07 A1 20  00 C0 05  00 C1 2E  00 C2 46  00 92 30 60  00 3C 60  60 91 43 40  60 90 4C 20
 8140 82 30 40  00 3C 40  00 81 43 40  00 80 4C 40  00 FF 2F 00`

const example1 = `4D546864 00000006 0001 0004 0060  4D54726B 00000014 00 FF 58 04 04 02 18 08 00 FF 51 03 07 A1 20 83 00 FF 2F 00
 4D54726B 00000010 00 C0 05 81 40 90 4C 20 81 40 4C 00 00 FF 2F 00
 4D54726B 0000000F 00 C1 2E 60 91 43 40 82 20 43 00 00 FF 2F 00
 4D54726B 00000015 00 C2 46 00 92 30 60 00 3C 60 83 00 30 00 00 3C 00 00 FF 2F 00`

func TestTheStandardsExamples(t *testing.T) {
	want := "0 C3 for 1/1 at 96; 0 C4 for 1/1 at 96; 1/4 G4 for 3/4 at 64; 1/2 E5 for 1/2 at 32"
	for name, text := range map[string]string{"format 0": example0, "format 1": example1} {
		f, err := Read(unhex(t, text))
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		p, tempo, err := f.Phrase()
		if err != nil || tempo != 120 || f.Division != 96 {
			t.Fatalf("%s: tempo %v, division %d, %v", name, tempo, f.Division, err)
		}
		if got := noteText(p); got != want {
			t.Errorf("%s:\ngot  %s\nwant %s", name, got, want)
		}
	}
}

func noteText(p *patch.Phrase) string {
	var out []string
	for _, n := range p.Notes {
		out = append(out, fmt.Sprintf("%s %s for %s at %d", n.At, n.Note, n.For, n.Velocity))
	}
	return strings.Join(out, "; ")
}

// A phrase written and read again is the phrase, for presets on all octaves and several tempos.
func TestPhraseRoundTrip(t *testing.T) {
	for _, preset := range phrase.Presets {
		for _, tempo := range []float64{33, 96, 120, 271} {
			p, err := phrase.Make(preset.ID, 48)
			if err != nil {
				t.Fatal(err)
			}
			before, _ := phrase.Beats(p)
			f, err := OfPhrase(p, quantity.Tempo(tempo))
			if err != nil {
				t.Fatal(err)
			}
			again, err := Read(f.Write())
			if err != nil {
				t.Fatal(err)
			}
			back, gotTempo, err := again.Phrase()
			if err != nil || math.Abs(float64(gotTempo)-tempo) > 1e-3 || back.Name != p.Name {
				t.Fatalf("%s at %v: tempo %v, name %q, %v", preset.ID, tempo, gotTempo, back.Name, err)
			}
			after, _ := phrase.Beats(back)
			if len(after) != len(before) {
				t.Fatalf("%s: %d notes became %d", preset.ID, len(before), len(after))
			}
			for i := range before {
				a, b := before[i], after[i]
				if a.Key != b.Key || a.Velocity != b.Velocity || math.Abs(a.At-b.At) > 1./3840 || math.Abs(a.End-b.End) > 1./3840 {
					t.Errorf("%s note %d: %+v became %+v", preset.ID, i, a, b)
				}
			}
		}
	}
}

func TestFaultsNameTheByte(t *testing.T) {
	good := unhex(t, example0)
	with := func(at int, b ...byte) []byte {
		return append(append(append([]byte{}, good[:at]...), b...), good[at+len(b):]...)
	}
	for _, c := range []struct {
		name string
		data []byte
		says string
	}{
		{"empty", nil, "byte 0: expected MThd"},
		{"another file", []byte("RIFF....WAVEfmt "), "byte 0: expected MThd"},
		{"cut off in the header", good[:13], "byte 0"},
		{"header too short", with(7, 5), "byte 4"},
		{"format 3", with(9, 3), "byte 8: expected format 0, 1 or 2, got 3"},
		{"division 0", with(12, 0, 0), "byte 12"},
		{"frames that are none", with(12, 0xF0, 4), "byte 12"},
		{"cut off in a chunk", good[:60], "byte 18: expected a chunk of 59 bytes"},
		{"a track missing", with(11, 2), "expected 2 tracks, got 1"},
		{"no status byte", with(22, 0, 0x40, 0x41), "byte 23: expected a status byte"},
		{"data above 127", with(48, 0xC8), "data byte below 128"},
		{"no end of track", with(78, 0xFF, 0x01, 0x00), "end-of-track"},
		{"too large", make([]byte, MaxSize+1), "at most 5 MB"},
	} {
		if _, err := Read(c.data); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: got %v, want %q", c.name, err, c.says)
		}
	}
	for _, c := range []struct{ name, hex, says string }{
		{"empty", "", "empty"}, {"data first", "40 41", "byte 0: expected a MIDI message"}, {"dump without end", "F0 7D 01 02", "expected F7"},
		{"status within a dump", "F0 7D B0 01 02 F7", "byte 2: expected F7"}, {"cut off", "B0 07", "byte 1: expected 2 data bytes"},
		{"a status byte for data", "B0 07 B0 07 40", "data byte below 128"},
	} {
		if _, err := Stream(unhex(t, c.hex)); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: got %v, want %q", c.name, err, c.says)
		}
	}
}

// Running status, real-time bytes in between, and dumps, as MIDI 1.0 has them on the wire.
func TestStream(t *testing.T) {
	got, err := Stream(unhex(t, "B0 07 64 F8 0A 40 F0 7D 01 7F F7 C3 05 06 FE 93 3C 00"))
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, m := range got {
		out = append(out, fmt.Sprintf("%X:%X", m.Status, m.Data))
	}
	if text := strings.Join(out, " "); text != "B0:0764 B0:0A40 F0:7D017F C3:05 C3:06 93:3C00" {
		t.Errorf("got %s", text)
	}
	again, err := Messages(OfMessages(got).Write())
	if err != nil || !bytes.Equal(Bytes(again), Bytes(got)) {
		t.Errorf("by file: %X, want %X (%v)", Bytes(again), Bytes(got), err)
	}
}

func FuzzRead(f *testing.F) {
	for _, s := range []string{example0, example1, "4D546864 00000006 0002 0001 E728 4D54726B 00000008 00 F0 03 7D01F7 00 FF2F00"} {
		f.Add(unhex(f, s))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		file, err := Read(data)
		if err != nil {
			return
		}
		p, _, err := file.Phrase()
		if err != nil {
			return
		}
		if _, err := phrase.Beats(p); err != nil {
			t.Errorf("a phrase from a file cannot be laid out: %v", err)
		}
	})
}

func FuzzStream(f *testing.F) {
	f.Add(unhex(f, "B0 63 01 62 00 06 40 26 01 F0 7D 11 00 F7 90 3C 40"))
	f.Fuzz(func(t *testing.T, data []byte) {
		got, err := Stream(data)
		if err != nil {
			return
		}
		again, err := Stream(Bytes(got))
		if len(got) > 0 && (err != nil || !bytes.Equal(Bytes(again), Bytes(got))) {
			t.Errorf("%X became %X (%v)", Bytes(got), Bytes(again), err)
		}
	})
}

// Reading 5 MB of the smallest events stays within its bound.
func TestSizeIsBounded(t *testing.T) {
	var body []byte
	body = append(body, 0, 0xB0, 1, 1)
	for len(body) < MaxSize-100 {
		body = append(body, 0, 1, 1)
	}
	f := File{Division: 96, Tracks: [][]Event{{}}}
	head := f.Write()[:14]
	data := append(head, 'M', 'T', 'r', 'k', byte(len(body)>>24), byte(len(body)>>16), byte(len(body)>>8), byte(len(body)))
	data = append(data, body...)
	if _, err := Read(data); err == nil || !strings.Contains(err.Error(), "at most 500000 events") {
		t.Errorf("got %v", err)
	}
	many := make([]wire.Message, 0)
	if _, err := Messages(Bytes(many)); err == nil {
		t.Error("nothing was read as something")
	}
}

// Streams and files as others write them: real-time bytes anywhere, system common messages between, dumps in packets, escapes, frames of drop-frame video, several tempos
// (MIDI 1.0 Detailed Specification and RP-001, Standard MIDI Files 1.0, both from memory).
func TestAsOthersWriteIt(t *testing.T) {
	show := func(all []wire.Message) string {
		out := ""
		for _, m := range all {
			out += fmt.Sprintf("%02X:% X ", m.Status, m.Data)
		}
		return strings.TrimSpace(out)
	}
	for _, c := range []struct{ name, hex, want string }{
		{"a clock between status and data", "B0 F8 07 40", "B0:07 40"},
		{"a clock between data", "B0 07 F8 40 F8 08 41", "B0:07 40 B0:08 41"},
		{"active sensing in a dump", "F0 7D FE 01 F8 02 F7", "F0:7D 01 02"},
		{"a song position between", "B0 07 40 F2 01 02 B0 08 41", "B0:07 40 B0:08 41"},
		{"a quarter frame, a song, a tune request", "F1 31 F3 05 F6 C0 07", "C0:07"},
		{"an end that belongs to nothing", "F7 B0 07 40", "B0:07 40"},
		{"nothing for a channel", "F8 F2 00 00", ""},
	} {
		got, err := Stream(unhex(t, c.hex))
		if err != nil || show(got) != c.want {
			t.Errorf("%s: %q, %v, want %q", c.name, show(got), err, c.want)
		}
	}
	file := func(division string, track string) []byte {
		body := unhex(t, track+" 00 FF 2F 00")
		return append(unhex(t, "4D 54 68 64 00 00 00 06 00 00 00 01 "+division+" 4D 54 72 6B 00 00 00 "+fmt.Sprintf("%02X", len(body))), body...)
	}
	for _, c := range []struct{ name, track, want string }{
		{"a dump in packets", "00 F0 03 7D 01 02 10 F7 02 03 04 10 F7 02 05 F7", "F0:7D 01 02 03 04 05"},
		{"an escape with a whole message", "00 F7 03 B0 07 40", "B0:07 40"},
		{"an escape with real time alone", "00 F7 01 FA 00 B0 08 41", "B0:08 41"},
	} {
		got, err := Messages(file("03 C0", c.track))
		if err != nil || show(got) != c.want {
			t.Errorf("%s: %q, %v, want %q", c.name, show(got), err, c.want)
		}
	}
	// -29 frames of 100 parts: 30000/1001 frames a second, so 2997 ticks are a second, half a whole note at 120
	f, err := Read(file("E3 64", "00 90 3C 40 97 35 80 3C 40"))
	if err != nil {
		t.Fatal(err)
	}
	p, _, err := f.Phrase()
	if err != nil || p.Notes[0].For != "1/2" {
		t.Errorf("%v: %+v, want 1/2", err, p)
	}
	f, err = Read(file("03 C0", "00 FF 51 03 07 A1 20 00 90 3C 40 10 FF 51 03 09 27 C0 10 80 3C 40 10 FF 51 03 09 27 C0"))
	if err != nil {
		t.Fatal(err)
	}
	if got := f.Tempos(); len(got) != 2 || got[0] != 120 || got[1] != 100 {
		t.Errorf("tempos %v", got)
	}
}

// What the player moves goes into a file and comes back within half a step of seven bits (a bender within one of fourteen), at every time; mido's and midicsv's reading of controllers is the table of MIDI 1.0:
// 1 the wheel, 2 breath, 4 the foot, 64 hold; D0 pressure, E0 the bender.
func TestMovesGoThroughAFile(t *testing.T) {
	p := &patch.Phrase{Notes: []patch.PhraseNote{{At: "0", For: "4/1", Note: "C3", Velocity: 90}}, Moves: []patch.Move{
		{What: "wheel", At: "0", For: "1/1", From: "0 %", To: "100 %"}, {What: "wheel", At: "2/1", For: "1/2", From: "100 %", To: "20 %"},
		{What: "bend", At: "1/2", For: "1/8", From: "0 %", To: "-100 %"}, {What: "bend", At: "1/1", For: "0", From: "-100 %", To: "0 %"},
		{What: "aftertouch", At: "1/4", For: "3/4", From: "10 %", To: "60 %"}, {What: "pedal", At: "3/1", For: "1/4", From: "50 %", To: "100 %"},
		{What: patch.Hold, At: "1/1", For: "0", From: "0 %", To: "100 %"}, {What: patch.Hold, At: "3/1", For: "0", From: "100 %", To: "0 %"},
	}}
	f, err := OfPhrase(p, 120)
	if err != nil {
		t.Fatal(err)
	}
	seen := map[string]bool{}
	for _, e := range f.Tracks[0] {
		switch e.Status {
		case 0xB0:
			seen[fmt.Sprint("cc", e.Data[0])] = true
		case 0xD0, 0xE0:
			seen[fmt.Sprintf("%X", e.Status)] = true
		}
	}
	if fmt.Sprint(seen) != "map[D0:true E0:true cc1:true cc4:true cc64:true]" {
		t.Errorf("the file has %v", seen)
	}
	again, err := Read(f.Write())
	if err != nil {
		t.Fatal(err)
	}
	back, _, err := again.Phrase()
	if err != nil {
		t.Fatal(err)
	}
	want, err := phrase.Played(p, 120, 0)
	if err != nil {
		t.Fatal(err)
	}
	got, err := phrase.Played(back, 120, 0)
	if err != nil || len(got) != len(want) {
		t.Fatalf("%d gestures come back of %d (%v): %+v", len(got), len(want), err, back.Moves)
	}
	for i := range want {
		for n := range 800 {
			at := 0.0013 + float64(n)*0.01
			if a, b := want[i].Value(at), got[i].Value(at); got[i].What != want[i].What || math.Abs(a-b) > 0.03 {
				t.Errorf("%s at %.3f s is %.3f, was %.3f", want[i].What, at, b, a)
				break
			}
		}
	}
	if len(back.Moves) > 40 {
		t.Errorf("%d moves come back of %d", len(back.Moves), len(p.Moves))
	}
	// a second time it is the same
	f2, err := OfPhrase(back, 120)
	if err != nil {
		t.Fatal(err)
	}
	third, _, err := f2.Phrase()
	if err != nil || len(third.Moves) > len(back.Moves)+2 {
		t.Errorf("a second time %d moves of %d (%v)", len(third.Moves), len(back.Moves), err)
	}
	// a file that only puts things at rest moves nothing
	quiet := &File{Division: 96, Tracks: [][]Event{{{Status: 0xB0, Data: []byte{1, 0}}, {Status: 0xE0, Data: []byte{0, 64}}, {Status: 0x90, Data: []byte{60, 90}}, {Tick: 96, Status: 0x80, Data: []byte{60, 0}}}}}
	if q, _, err := quiet.Phrase(); err != nil || len(q.Moves) != 0 {
		t.Errorf("%+v, %v", q.Moves, err)
	}
}

// A stream that comes in pieces, cut anywhere, with running status and real time in it, gives the messages that it gives as a whole.
func TestStreamInPieces(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 1))
	for range 300 {
		var data []byte
		for range 1 + r.IntN(12) {
			switch r.IntN(5) {
			case 0:
				data = append(data, 0xF0, 0x7D)
				for range r.IntN(6) {
					data = append(data, byte(r.IntN(128)))
				}
				data = append(data, 0xF7)
			case 1:
				data = append(data, 0xC0|byte(r.IntN(16)), byte(r.IntN(128)))
			default:
				data = append(data, 0xB0|byte(r.IntN(16)))
				for range 1 + r.IntN(3) { // running status
					data = append(data, byte(r.IntN(128)), byte(r.IntN(128)))
				}
			}
			if r.IntN(4) == 0 {
				data = append(data, 0xF8)
			}
		}
		want, err := Stream(data)
		if err != nil {
			t.Fatalf("% x: %v", data, err)
		}
		var got []wire.Message
		var x Receiver
		if r.IntN(3) == 0 { // a broken beginning is let go
			got = append(got, x.Take([]byte{5, 0x90, 3})...)
		}
		for rest := data; len(rest) > 0; {
			n := 1 + r.IntN(len(rest))
			got = append(got, x.Take(rest[:n])...)
			rest = rest[n:]
		}
		if !reflect.DeepEqual(got, want) {
			t.Fatalf("% x: in pieces %v, as a whole %v", data, got, want)
		}
	}
}
