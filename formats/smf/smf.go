package smf

import (
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"slices"
	"sort"

	"glossator/core/patch"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/core/wire"
)

// Limits of what is read.
const (
	MaxSize   = 5 << 20
	MaxEvents = 500_000
	MaxTracks = 1000
)

// Event is one event of a track: Tick counts from the track's start, Status is 0x80 to 0xEF
// for channel messages, 0xF0 and 0xF7 for system exclusive (data without F0, and without F7 at its end),
// 0xFF for a meta event of type Meta. Data points into the file.
type Event struct {
	Tick   int64
	Status byte
	Meta   byte
	Data   []byte
}

// File is a Standard MIDI File. Division is ticks to the quarter note, or, where PerSecond is
// set, ticks to the second (the file counts SMPTE frames).
type File struct {
	Format    int
	Division  int
	PerSecond bool
	Tracks    [][]Event

	rate float64 // ticks to the second, where it counts seconds
}

// Read reads a Standard MIDI File. Errors name the byte at which something else was expected.
func Read(data []byte) (*File, error) {
	if len(data) > MaxSize {
		return nil, fmt.Errorf("expected at most %d MB, got %.1f MB", MaxSize>>20, float64(len(data))/(1<<20))
	}
	if len(data) < 14 || string(data[:4]) != "MThd" {
		return nil, errors.New("byte 0: expected MThd, the start of a Standard MIDI File")
	}
	length := binary.BigEndian.Uint32(data[4:8])
	if length < 6 || int64(length) > int64(len(data)-8) {
		return nil, fmt.Errorf("byte 4: expected a header of at least 6 bytes that the file holds, got %d", length)
	}
	f := &File{Format: int(binary.BigEndian.Uint16(data[8:10]))}
	if f.Format > 2 {
		return nil, fmt.Errorf("byte 8: expected format 0, 1 or 2, got %d", f.Format)
	}
	want := int(binary.BigEndian.Uint16(data[10:12]))
	if want > MaxTracks {
		return nil, fmt.Errorf("byte 10: expected at most %d tracks, got %d", MaxTracks, want)
	}
	if err := f.division(int16(binary.BigEndian.Uint16(data[12:14]))); err != nil {
		return nil, err
	}
	at, events := 8+int(length), 0
	for at < len(data) && len(f.Tracks) < want {
		if len(data)-at < 8 {
			return nil, fmt.Errorf("byte %d: expected a chunk, the file ends", at)
		}
		name, size := string(data[at:at+4]), int64(binary.BigEndian.Uint32(data[at+4:at+8]))
		at += 8
		if size > int64(len(data)-at) {
			return nil, fmt.Errorf("byte %d: expected a chunk of %d bytes, the file has %d more", at-4, size, len(data)-at)
		}
		body := data[at : at+int(size)]
		if name == "MTrk" { // chunks of other names are skipped, as the standard asks
			t, err := readTrack(body, at, MaxEvents-events)
			if err != nil {
				return nil, err
			}
			events += len(t)
			f.Tracks = append(f.Tracks, t)
		}
		at += int(size)
	}
	if len(f.Tracks) < want {
		return nil, fmt.Errorf("byte %d: expected %d tracks, got %d", at, want, len(f.Tracks))
	}
	return f, nil
}

func (f *File) division(d int16) error {
	if d > 0 {
		f.Division = int(d)
		return nil
	}
	frames, sub := -int(d>>8), int(d&0xFF)
	if (frames != 24 && frames != 25 && frames != 29 && frames != 30) || sub == 0 {
		return fmt.Errorf("byte 12: expected ticks to the quarter note, or 24, 25, 29 or 30 frames a second, got %#04x", uint16(d))
	}
	f.Division, f.PerSecond = frames*sub, true
	f.rate = float64(f.Division)
	if frames == 29 { // of drop-frame video: 30000/1001 frames a second
		f.rate = 30000.0 / 1001 * float64(sub)
	}
	return nil
}

// ReadVar reads a variable-length quantity of at most four bytes and says how many it took;
// 0 where there is none.
func ReadVar(b []byte) (v, n int) {
	for n < len(b) && n < 4 {
		v = v<<7 | int(b[n]&0x7F)
		n++
		if b[n-1] < 0x80 {
			return v, n
		}
	}
	return 0, 0
}

// AppendVar writes a variable-length quantity of 0 to 0x0FFFFFFF.
func AppendVar(b []byte, v int) []byte {
	v = min(max(v, 0), 0x0FFFFFFF)
	for shift := 21; shift > 0; shift -= 7 {
		if v>>shift != 0 {
			b = append(b, byte(v>>shift&0x7F|0x80))
		}
	}
	return append(b, byte(v&0x7F))
}

// dataBytes of a channel message, by the upper half of its status.
func dataBytes(status byte) int {
	if s := status & 0xF0; s == 0xC0 || s == 0xD0 {
		return 1
	}
	return 2
}

func readTrack(b []byte, base, room int) ([]Event, error) {
	var out []Event
	var tick int64
	running, open := byte(0), -1
	for i := 0; i < len(b); {
		delta, n := ReadVar(b[i:])
		if n == 0 {
			return nil, fmt.Errorf("byte %d: expected a time of at most four bytes", base+i)
		}
		i += n
		tick += int64(delta)
		if i >= len(b) {
			return nil, fmt.Errorf("byte %d: expected an event, the track ends", base+i)
		}
		if len(out) >= room {
			return nil, fmt.Errorf("byte %d: expected at most %d events in a file", base+i, MaxEvents)
		}
		status := b[i]
		if status >= 0x80 {
			i++
		} else {
			status = running
		}
		e := Event{Tick: tick, Status: status}
		switch {
		case status == 0:
			return nil, fmt.Errorf("byte %d: expected a status byte, got %#02x", base+i, b[i])
		case status < 0xF0:
			running = status
			size := dataBytes(status)
			if len(b)-i < size {
				return nil, fmt.Errorf("byte %d: expected %d data bytes, the track ends", base+i, size)
			}
			e.Data = b[i : i+size : i+size]
			for k, d := range e.Data {
				if d > 127 {
					return nil, fmt.Errorf("byte %d: expected a data byte below 128, got %#02x", base+i+k, d)
				}
			}
			i += size
		case status == 0xFF || status == 0xF0 || status == 0xF7:
			running = 0 // these end running status
			if status == 0xFF {
				if i >= len(b) {
					return nil, fmt.Errorf("byte %d: expected the type of a meta event, the track ends", base+i)
				}
				e.Meta = b[i]
				i++
			}
			size, n := ReadVar(b[i:])
			if n == 0 || size > len(b)-i-n {
				return nil, fmt.Errorf("byte %d: expected a length that the track holds", base+i)
			}
			i += n
			e.Data = b[i : i+size : i+size]
			i += size
			ended := size > 0 && e.Data[size-1] == 0xF7
			switch {
			case status == 0xF7 && open >= 0: // the dump goes on
				if ended {
					e.Data = e.Data[:size-1]
				}
				out[open].Data = append(slices.Clone(out[open].Data), e.Data...)
				if ended {
					open = -1
				}
				continue
			case status == 0xF0 && ended:
				e.Data = e.Data[:size-1]
			case status == 0xF0: // it comes in packets
				open = len(out)
			}
			if status == 0xFF && e.Meta == 0x2F {
				return append(out, e), nil
			}
		default:
			return nil, fmt.Errorf("byte %d: expected an event of a file, got status %#02x", base+i-1, status)
		}
		out = append(out, e)
	}
	return nil, fmt.Errorf("byte %d: expected the end-of-track event, the track ends without", base+len(b))
}

// Messages gives the messages of a file or of a plain byte stream (system exclusive dumps,
// controllers), in order of time; meta events are left out.
func Messages(data []byte) ([]wire.Message, error) {
	if len(data) >= 4 && string(data[:4]) == "MThd" {
		f, err := Read(data)
		if err != nil {
			return nil, err
		}
		var out []wire.Message
		for _, e := range f.merged() {
			switch {
			case e.Status == 0xF7: // bytes as they are: an escape (RP-001), in which whole messages may stand
				if more, err := Stream(e.Data); err == nil {
					out = append(out, more...)
				}
			case e.Status != 0xFF:
				out = append(out, wire.Message{Status: e.Status, Data: e.Data})
			}
		}
		return out, nil
	}
	return Stream(data)
}

// merged gives all events by time; of those at one time the earlier track's come first.
func (f *File) merged() []Event {
	var all []Event
	base := int64(0)
	for _, t := range f.Tracks {
		for _, e := range t {
			e.Tick += base
			all = append(all, e)
		}
		if f.Format == 2 && len(t) > 0 { // independent patterns: one after the other
			base += t[len(t)-1].Tick
		}
	}
	sort.SliceStable(all, func(a, b int) bool { return all[a].Tick < all[b].Tick })
	return all
}

// Stream reads a plain MIDI byte stream with running status; real-time bytes may stand
// anywhere and are left out.
func Stream(data []byte) ([]wire.Message, error) {
	if len(data) > MaxSize {
		return nil, fmt.Errorf("expected at most %d MB, got %.1f MB", MaxSize>>20, float64(len(data))/(1<<20))
	}
	if len(data) == 0 {
		return nil, errors.New("the file is empty: expected a Standard MIDI File or MIDI bytes")
	}
	r := receiver{begun: -1}
	for i, b := range data {
		if err := r.take(i, b); err != nil {
			return nil, err
		}
		if len(r.out) > MaxEvents {
			return nil, fmt.Errorf("byte %d: expected at most %d messages in a file", i, MaxEvents)
		}
	}
	switch {
	case r.status == 0xF0:
		return nil, fmt.Errorf("byte %d: expected F7 at the end of the message that begins at byte %d", len(data), r.begun)
	case len(r.data) > 0 || r.waits:
		return nil, fmt.Errorf("byte %d: expected %d data bytes, the file ends", len(data)-len(r.data), r.want)
	}
	return r.out, nil
}

// receiver takes a MIDI byte stream byte by byte, as an instrument does (MIDI 1.0 Detailed Specification, from memory): real-time bytes stand anywhere, also inside of other messages; system common
// messages end running status; what is no message of a channel and no dump is left out.
type receiver struct {
	out    []wire.Message
	status byte // of the message under way; of a channel it runs on
	begun  int
	want   int  // its data bytes
	waits  bool // a status byte was the last
	data   []byte
}

func (r *receiver) take(i int, b byte) error {
	switch {
	case b >= 0xF8: // real time
		return nil
	case r.status == 0xF0 && b < 0x80:
		r.data = append(r.data, b)
		return nil
	case r.status == 0xF0 && b == 0xF7:
		r.out = append(r.out, wire.Message{Status: 0xF0, Data: r.data})
		r.status, r.data = 0, nil
		return nil
	case r.status == 0xF0:
		return fmt.Errorf("byte %d: expected F7 at the end of the message that begins at byte %d", i, r.begun)
	case b >= 0x80:
		if len(r.data) > 0 || r.waits && r.want > 0 {
			return fmt.Errorf("byte %d: expected a data byte below 128, got %#02x", i, b)
		}
		r.status, r.begun, r.data, r.waits = b, i, nil, b != 0xF0
		switch b {
		case 0xF0:
			r.want = 0
		case 0xF1, 0xF3:
			r.want = 1
		case 0xF2:
			r.want = 2
		case 0xF4, 0xF5, 0xF6, 0xF7:
			r.status, r.want, r.waits = 0, 0, false
		default:
			r.want = dataBytes(b)
		}
		return nil
	case r.status == 0:
		return fmt.Errorf("byte %d: expected a MIDI message (a status byte), got %#02x", i, b)
	}
	r.waits = false
	if r.data = append(r.data, b); len(r.data) < r.want {
		return nil
	}
	if r.status < 0xF0 {
		r.out = append(r.out, wire.Message{Status: r.status, Data: r.data})
	} else {
		r.status = 0
	}
	r.data = nil
	return nil
}

// Bytes gives messages as a plain byte stream.
func Bytes(all []wire.Message) []byte {
	var b []byte
	for _, m := range all {
		b = append(append(b, m.Status), m.Data...)
		if m.Status == 0xF0 {
			b = append(b, 0xF7)
		}
	}
	return b
}

// Ticks is the division of the files that are written: ticks to the quarter note.
const Ticks = 960

// Write gives the file's bytes: every event with its own status byte, every track ended.
func (f *File) Write() []byte {
	b := append([]byte("MThd\x00\x00\x00\x06"), byte(f.Format>>8), byte(f.Format), byte(len(f.Tracks)>>8), byte(len(f.Tracks)), byte(f.Division>>8), byte(f.Division))
	for _, t := range f.Tracks {
		var body []byte
		last := int64(0)
		for _, e := range t {
			body = AppendVar(body, int(e.Tick-last))
			last = e.Tick
			body = append(body, e.Status)
			switch e.Status {
			case 0xFF:
				body = append(AppendVar(append(body, e.Meta), len(e.Data)), e.Data...)
			case 0xF0, 0xF7:
				body = append(append(AppendVar(body, len(e.Data)+1), e.Data...), 0xF7)
			default:
				body = append(body, e.Data...)
			}
		}
		if len(t) == 0 || t[len(t)-1].Status != 0xFF || t[len(t)-1].Meta != 0x2F {
			body = append(body, 0, 0xFF, 0x2F, 0)
		}
		b = append(b, "MTrk"...)
		b = binary.BigEndian.AppendUint32(b, uint32(len(body)))
		b = append(b, body...)
	}
	return b
}

func tempoEvent(tempo q.Tempo) Event {
	us := uint32(math.Round(60e6 / float64(tempo)))
	return Event{Status: 0xFF, Meta: 0x51, Data: []byte{byte(us >> 16), byte(us >> 8), byte(us)}}
}

// OfMessages gives a file that sends messages, ten ticks apart so that a receiver keeps up.
func OfMessages(all []wire.Message) *File {
	t := []Event{tempoEvent(120)}
	for i, m := range all {
		t = append(t, Event{Tick: int64(i) * 10, Status: m.Status, Data: m.Data})
	}
	return &File{Division: Ticks, Tracks: [][]Event{t}}
}

// OfPhrase gives a file that plays a phrase on channel 1. Accents are in the velocities, a
// note before a slide overlaps it.
func OfPhrase(p *patch.Phrase, tempo q.Tempo) (*File, error) {
	notes, err := phrase.Beats(p)
	if err != nil {
		return nil, err
	}
	type edge struct {
		Event
		on bool
	}
	var edges []edge
	tick := func(whole float64) int64 { return int64(math.Round(whole * 4 * Ticks)) }
	for _, n := range notes {
		if n.Key < 0 || n.Key > 127 {
			return nil, fmt.Errorf("expected notes from C-1 to G9, got number %d", n.Key)
		}
		edges = append(edges, edge{Event{Tick: tick(n.At), Status: 0x90, Data: []byte{byte(n.Key), byte(n.Velocity)}}, true},
			edge{Event{Tick: max(tick(n.End), tick(n.At)+1), Status: 0x80, Data: []byte{byte(n.Key), 64}}, false})
	}
	sort.SliceStable(edges, func(a, b int) bool {
		if edges[a].Tick != edges[b].Tick {
			return edges[a].Tick < edges[b].Tick
		}
		return !edges[a].on && edges[b].on // a note ends before the same key begins again
	})
	t := []Event{tempoEvent(tempo)}
	if p.Name != "" {
		t = append(t, Event{Status: 0xFF, Meta: 0x03, Data: []byte(p.Name)})
	}
	moves, err := movesOf(p)
	if err != nil {
		return nil, err
	}
	var all []Event
	for _, e := range edges {
		all = append(all, e.Event)
	}
	all = append(moves, all...) // what is moved at the time of a note comes before it
	sort.SliceStable(all, func(a, b int) bool { return all[a].Tick < all[b].Tick })
	return &File{Division: Ticks, Tracks: [][]Event{append(t, all...)}}, nil
}

// Phrase takes the notes of a file as a phrase: all tracks and channels together, note values
// as the file counts them (for a file that counts seconds, at the tempo of 120). tempo is the file's
// first, 0 where it gives none; Tempos tells how many there are.
func (f *File) Phrase() (p *patch.Phrase, tempo q.Tempo, err error) {
	p = &patch.Phrase{}
	whole := float64(f.Division) * 4
	if f.PerSecond {
		whole = f.rate * 2 // a whole note at 120 lasts two seconds
	}
	held := map[[2]byte][]int{}
	var starts, ends []int64
	last := int64(0)
	stop := func(key [2]byte, at int64) {
		if s := held[key]; len(s) > 0 {
			ends[s[0]] = at
			held[key] = s[1:]
		}
	}
	for _, e := range f.merged() {
		last = max(last, e.Tick)
		key := [2]byte{e.Status & 0x0F}
		if len(e.Data) > 0 {
			key[1] = e.Data[0]
		}
		switch {
		case e.Status == 0xFF && e.Meta == 0x51 && len(e.Data) == 3 && tempo == 0:
			if us := int(e.Data[0])<<16 | int(e.Data[1])<<8 | int(e.Data[2]); us > 0 {
				tempo = q.Tempo(60e6 / float64(us))
			}
		case e.Status == 0xFF && e.Meta == 0x03 && p.Name == "" && len(e.Data) <= 120:
			p.Name = printable(e.Data)
		case e.Status&0xF0 == 0x90 && e.Data[1] > 0:
			if len(p.Notes) == phrase.MaxNotes {
				return nil, 0, fmt.Errorf("expected at most %d notes: take a shorter part of the file", phrase.MaxNotes)
			}
			held[key] = append(held[key], len(p.Notes))
			p.Notes = append(p.Notes, patch.PhraseNote{Note: q.Note(e.Data[0]).NoteName(), Velocity: int(e.Data[1])})
			starts, ends = append(starts, e.Tick), append(ends, -1)
		case e.Status&0xF0 == 0x80 || e.Status&0xF0 == 0x90:
			stop(key, e.Tick)
		}
	}
	if len(p.Notes) == 0 {
		return nil, 0, errors.New("expected notes: the file has none")
	}
	all := f.movers()
	first := starts[0]
	bar := int64(whole)
	first -= first % max(bar, 1) // whole bars of rest before the first note are cut
	for i := range p.Notes {
		if ends[i] < 0 {
			ends[i] = max(last, starts[i]+1)
		}
		n := &p.Notes[i]
		n.At = phrase.Text(float64(starts[i]-first) / whole)
		n.For = phrase.Text(math.Max(float64(ends[i]-starts[i])/whole, 1.0/3840))
	}
	for i := range all {
		all[i].shift(first)
		p.Moves = append(p.Moves, all[i].moves(whole)...)
	}
	if len(p.Moves) > MaxMoves {
		p.Moves = p.Moves[:MaxMoves]
	}
	sort.SliceStable(p.Moves, func(a, b int) bool {
		x, _ := phrase.Value(p.Moves[a].At)
		y, _ := phrase.Value(p.Moves[b].At)
		return x < y
	})
	return p, tempo, nil
}

// Tempos lists the tempos of a file in order of time, of those at one time the last, without those that change nothing.
func (f *File) Tempos() (out []q.Tempo) {
	at := int64(-1)
	for _, e := range f.merged() {
		if e.Status != 0xFF || e.Meta != 0x51 || len(e.Data) != 3 {
			continue
		}
		us := int(e.Data[0])<<16 | int(e.Data[1])<<8 | int(e.Data[2])
		if us == 0 {
			continue
		}
		t := q.Tempo(60e6 / float64(us))
		if e.Tick == at && len(out) > 0 {
			out = out[:len(out)-1]
		}
		if at = e.Tick; len(out) == 0 || out[len(out)-1] != t {
			out = append(out, t)
		}
	}
	return out
}

// printable keeps what can be shown of a name.
func printable(b []byte) string {
	out := make([]rune, 0, len(b))
	for _, r := range string(b) {
		if r >= ' ' && r != 0x7F && r != '\uFFFD' {
			out = append(out, r)
		}
	}
	return string(out)
}

// Receiver takes a stream that goes on, in whatever pieces it comes, with running status from one to the next. The zero value is ready.
type Receiver struct {
	r  receiver
	at int
}

// Take gives the messages that are whole with a piece more. What is no message is let go, up to the next status byte, as an instrument does.
func (x *Receiver) Take(piece []byte) []wire.Message {
	for _, b := range piece {
		if err := x.r.take(x.at, b); err != nil || len(x.r.data) > MaxSize {
			x.r = receiver{out: x.r.out}
			if b >= 0x80 && err != nil {
				_ = x.r.take(x.at, b) // a status byte begins anew
			}
		}
		x.at++
	}
	out := x.r.out
	x.r.out = nil
	return out
}
