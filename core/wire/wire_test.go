package wire_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"glossator/core/build"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/wire"
	"glossator/formats/smf"
	"glossator/testutil/testrack"
)

// Min-centre-max scaling: the examples and the properties of M2-115-U, Bit Scaling and
// Resolution, 3.1 (from memory of that text).
func TestScaleUp(t *testing.T) {
	for _, x := range []struct{ v, from, to, want int }{
		{0, 7, 16, 0}, {64, 7, 16, 0x8000}, {65, 7, 16, 0x8208}, {127, 7, 16, 0xFFFF},
		{0, 7, 14, 0}, {64, 7, 14, 0x2000}, {127, 7, 14, 0x3FFF}, {0x2000, 14, 32, 0x80000000}, {0x3FFF, 14, 32, 0xFFFFFFFF},
	} {
		if got := wire.ScaleUp(x.v, x.from, x.to); got != x.want {
			t.Errorf("%d from %d to %d bits: %#x, want %#x", x.v, x.from, x.to, got, x.want)
		}
	}
	for v := 1; v < 128; v++ { // it rises, and cutting it off again gives the number back
		if a, b := wire.ScaleUp(v-1, 7, 14), wire.ScaleUp(v, 7, 14); a >= b || b>>7 != v {
			t.Errorf("%d gives %d after %d", v, b, a)
		}
	}
}

// Every reading of every control that has an address comes back through a real file and
// through plain bytes.
func TestEveryReadingComesBack(t *testing.T) {
	rack := testrack.Panels(t)
	addressed := 0
	for _, id := range testrack.IDs(rack) {
		p := rack[id]
		most := 0
		for i := range p.Controls {
			if p.Controls[i].MIDI != nil {
				addressed++
				most = max(most, p.Controls[i].Face.Len())
			}
		}
		for i := range most { // all controls at once, each at its ith place
			readings := map[string]string{}
			for k := range p.Controls {
				c := &p.Controls[k]
				if c.MIDI != nil && i < c.Face.Len() {
					readings[c.ID] = c.Face.At(i).Reading
				}
			}
			layer := patch.Layer{ID: "a", Readings: readings}
			w, err := wire.Write(p, &layer, i%16+1)
			if err != nil {
				continue // readings that exclude each other (cables, voices) are no business of the wire
			}
			for form, data := range map[string][]byte{"file": smf.OfMessages(w.Messages).Write(), "bytes": smf.Bytes(w.Messages)} {
				back, err := smf.Messages(data)
				if err != nil {
					t.Fatalf("%s: %v", id, err)
				}
				found := wire.Read(p, back)
				if len(found.Other) > 0 {
					t.Fatalf("%s, %s: left over %v", id, form, found.Other)
				}
				got := map[string]string{}
				for _, x := range found.Taken {
					got[x.Control] = x.Reading
				}
				for c, want := range readings {
					k, _ := p.ControlIndex(c)
					if m := p.Controls[k].MIDI; m.NRPN == nil && m.Byte == nil && p.Controls[k].Face.Len() > 128 && len(w.Notes) > 0 {
						continue // told of in the notes: a CC is too coarse
					}
					if got[c] != want {
						t.Errorf("%s %s: %s came back by %s as %q, want %q", id, c, want, form, got[c], want)
					}
				}
			}
		}
	}
	if addressed < 150 {
		t.Errorf("only %d controls have addresses", addressed)
	}
}

// addressed gives a panel of one control with an address.
func addressed(t *testing.T, steps int, m panel.MIDI, dump *panel.Dump) *panel.Compiled {
	t.Helper()
	p, err := build.Begin("blank", "one", "One", "")
	if err != nil {
		t.Fatal(err)
	}
	p.Dump = dump
	c := &p.Controls[0]
	c.Face.Kind, c.Face.Min, c.Face.Max, c.Face.Step, c.Face.Entries = "numeric", 0, float64(steps-1), 1, nil
	c.Init, c.MIDI, c.Means = "0", &m, nil
	out, err := panel.Compile(p)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func at(n int) *int { return &n }

func TestReadAsAReceiverDoes(t *testing.T) {
	cc := func(pairs ...byte) (out []wire.Message) {
		for i := 0; i < len(pairs); i += 2 {
			out = append(out, wire.Message{Status: 0xB2, Data: pairs[i : i+2]})
		}
		return out
	}
	sysex := func(data ...byte) []wire.Message { return []wire.Message{{Status: 0xF0, Data: data}} }
	for _, x := range []struct {
		name  string
		steps int
		midi  panel.MIDI
		dump  *panel.Dump
		send  []wire.Message
		want  string // the reading, or nothing
		other string // in what is left over
	}{
		{"a CC's number over all positions", 128, panel.MIDI{CC: at(20)}, nil, cc(20, 64), "64", ""},
		{"two positions split the range", 2, panel.MIDI{CC: at(20)}, nil, cc(20, 63), "0", ""},
		{"the upper half is on", 2, panel.MIDI{CC: at(20)}, nil, cc(20, 64), "1", ""},
		{"by index", 4, panel.MIDI{CC: at(20), Values: "index"}, nil, cc(20, 3), "3", ""},
		{"an index beyond the last", 4, panel.MIDI{CC: at(20), Values: "index"}, nil, cc(20, 4), "", "4 positions"},
		{"the last of several counts", 128, panel.MIDI{CC: at(20)}, nil, cc(20, 1, 20, 2), "2", ""},
		{"a fine half", 16384, panel.MIDI{CC: at(20)}, nil, cc(20, 1, 52, 5), "133", ""},
		{"no fine half: the centre stays the centre", 16384, panel.MIDI{CC: at(20)}, nil, cc(20, 64), "8192", ""},
		{"an address of nobody", 128, panel.MIDI{CC: at(20)}, nil, cc(21, 5), "", "CC 21 on channel 3 at 5"},
		{"NRPN, both halves", 1000, panel.MIDI{NRPN: at(300)}, nil, cc(99, 2, 98, 44, 6, 3, 38, 16), "400", ""},
		{"NRPN, coarse alone", 100, panel.MIDI{NRPN: at(300)}, nil, cc(99, 2, 98, 44, 6, 40), "40", ""},
		{"an RPN ends the NRPN", 100, panel.MIDI{NRPN: at(300)}, nil, cc(99, 2, 98, 44, 101, 0, 100, 0, 6, 2), "", "CC 6"},
		{"data entry without a number", 100, panel.MIDI{NRPN: at(0)}, nil, cc(6, 2), "", "CC 6"},
		{"a dump", 128, panel.MIDI{Byte: at(1)}, &panel.Dump{Header: "7D 01", Length: 3}, sysex(0x7D, 1, 9, 77, 9), "77", ""},
		{"a wide dump value", 300, panel.MIDI{Byte: at(1)}, &panel.Dump{Header: "7D 01", Length: 3}, sysex(0x7D, 1, 9, 2, 1), "257", ""},
		{"a dump cut short", 128, panel.MIDI{Byte: at(1)}, &panel.Dump{Header: "7D 01", Length: 3}, sysex(0x7D, 1, 9), "", "expected 3"},
		{"somebody else's dump", 128, panel.MIDI{Byte: at(1)}, &panel.Dump{Header: "7D 01", Length: 3}, sysex(0x7D, 2, 9, 9, 9), "", "another header"},
		{"NRPN over the whole range, both halves", 128, panel.MIDI{NRPN: at(300), Values: "full"}, nil, cc(99, 2, 98, 44, 6, 64, 38, 0), "64", ""},
		{"NRPN over the whole range, coarse alone", 128, panel.MIDI{NRPN: at(300), Values: "full"}, nil, cc(99, 2, 98, 44, 6, 127), "127", ""},
		{"NRPN, coarse alone of a wide one", 1000, panel.MIDI{NRPN: at(300)}, nil, cc(99, 2, 98, 44, 6, 3), "384", ""},
		{"NRPN beyond the last", 1000, panel.MIDI{NRPN: at(300)}, nil, cc(99, 2, 98, 44, 6, 127), "", "1000 positions"},
		{"two dumps: the last counts", 128, panel.MIDI{Byte: at(0)}, &panel.Dump{Header: "7D 01", Length: 1}, append(sysex(0x7D, 1, 5), sysex(0x7D, 1, 6)...), "6", "more than one dump"},
		{"a dump that the panel does not describe", 128, panel.MIDI{CC: at(20)}, nil, append(sysex(0x7D, 1, 5), cc(20, 9)...), "9", "describes no dump"},
		{"pitch bends are no readings", 128, panel.MIDI{CC: at(20)}, nil, append(cc(20, 3), wire.Message{Status: 0xE2, Data: []byte{0, 64}}), "3", "1 pitch bend"},
		{"an NRPN of nobody", 128, panel.MIDI{NRPN: at(300)}, nil, cc(99, 2, 98, 45, 6, 40), "", "NRPN 301 on channel 3 at 40"},
		{"the fine half of another control", 128, panel.MIDI{CC: at(20)}, nil, cc(20, 1, 52, 5), "1", "CC 52"},
		{"notes are no readings", 128, panel.MIDI{CC: at(20)}, nil, []wire.Message{{Status: 0x90, Data: []byte{60, 100}}}, "", "1 note"},
	} {
		found := wire.Read(addressed(t, x.steps, x.midi, x.dump), x.send)
		got := ""
		if len(found.Taken) > 0 {
			got = found.Taken[0].Reading
		}
		if got != x.want || x.other == "" && len(found.Other) > 0 || !strings.Contains(strings.Join(found.Other, "\n"), x.other) {
			t.Errorf("%s: got %q and %q, want %q and %q", x.name, got, found.Other, x.want, x.other)
		}
	}
}

// The bytes of an NRPN are those of the MIDI 1.0 Detailed Specification: 99, 98, 6, 38; and after all of them the null, 101 and 100 at 127.
func TestWriteBytes(t *testing.T) {
	p := addressed(t, 1000, panel.MIDI{NRPN: at(300)}, nil)
	w, err := wire.Write(p, &patch.Layer{ID: "a", Readings: map[string]string{p.Controls[0].ID: "400"}}, 2)
	if err != nil {
		t.Fatal(err)
	}
	if got, want := smf.Bytes(w.Messages), []byte{0xB1, 99, 2, 0xB1, 98, 44, 0xB1, 6, 3, 0xB1, 38, 16, 0xB1, 101, 127, 0xB1, 100, 127}; !bytes.Equal(got, want) {
		t.Errorf("got % X, want % X", got, want)
	}
	if _, err := wire.Write(p, &patch.Layer{ID: "a"}, 17); err == nil {
		t.Error("channel 17 was taken")
	}
}

// The halves of an NRPN come in either order, and steps go on from what was entered; to the null nothing is entered.
func TestEntries(t *testing.T) {
	p := addressed(t, 1000, panel.MIDI{NRPN: at(300), Values: "index"}, nil)
	send := func(pairs ...byte) (out []wire.Message) {
		for i := 0; i < len(pairs); i += 2 {
			out = append(out, wire.Message{Status: 0xB0, Data: pairs[i : i+2]})
		}
		return out
	}
	for _, x := range []struct {
		name string
		send []wire.Message
		want string
	}{
		{"coarse, then fine", send(99, 2, 98, 44, 6, 3, 38, 16), "400"},
		{"fine, then coarse", send(99, 2, 98, 44, 38, 16, 6, 3), "400"},
		{"the address in the other order", send(98, 44, 99, 2, 6, 3, 38, 16), "400"},
		{"two up, one down", send(99, 2, 98, 44, 6, 3, 38, 16, 96, 0, 96, 0, 97, 0), "401"},
		{"over the end of a half", send(99, 2, 98, 44, 6, 3, 38, 127, 96, 0), "512"},
		{"chosen anew it begins anew", send(99, 2, 98, 44, 6, 3, 38, 16, 99, 2, 98, 44, 38, 5, 6, 1), "133"},
		{"after the null", send(99, 2, 98, 44, 6, 3, 38, 16, 101, 127, 100, 127, 6, 7), "400"},
		{"after a null of its own", send(99, 2, 98, 44, 6, 3, 38, 16, 99, 127, 98, 127, 6, 7, 96, 0), "400"},
	} {
		found := wire.Read(p, x.send)
		if len(found.Taken) != 1 || found.Taken[0].Reading != x.want {
			t.Errorf("%s: %+v, want %s", x.name, found.Taken, x.want)
		}
	}
}

func TestFewOthersAreListed(t *testing.T) {
	var all []wire.Message
	for n := range 90 { // 98 and 99 choose NRPNs
		all = append(all, wire.Message{Status: 0xB0, Data: []byte{byte(n), 1}})
	}
	found := wire.Read(addressed(t, 128, panel.MIDI{NRPN: at(1)}, nil), all)
	if n := len(found.Other); n != wire.MaxOther+1 || found.Other[n-1] != fmt.Sprintf("and %d more", 90-wire.MaxOther) {
		t.Errorf("%d lines, the last %q", n, found.Other[n-1])
	}
}

// A control that is moved after others is the only one that is read, also where only its value comes and what chose it came before (an NRPN, the upper half of a pair); several come in the order in which they were moved. Second witness: the messages that Write makes.
func TestSinceReadsOnlyWhatMoved(t *testing.T) {
	moved := 0
	for id, p := range testrack.Panels(t) {
		at := func(k, i int) []wire.Message {
			all, why := wire.One(p, k, p.Controls[k].Face.At(i), 1)
			if why != "" {
				return nil
			}
			return all
		}
		before, last := []wire.Message{{Status: 0x90, Data: []byte{60, 100}}}, []string{}
		var now []wire.Message
		for k := range p.Controls {
			c := &p.Controls[k]
			if c.MIDI == nil || c.MIDI.CC == nil && c.MIDI.NRPN == nil || c.Face.Len() < 2 {
				continue
			}
			n := c.Face.Len()
			first, second := at(k, 0), at(k, n-1)
			if c.MIDI.NRPN != nil { // chosen before, and only the value now: what an encoder sends
				first, second = first[:len(first)-2], second[2:4]
			}
			got := wire.Since(p, append(before, first...), second)
			moved++
			if len(got.Taken) != 1 || got.Taken[0].Control != c.ID || got.Taken[0].Reading != c.Face.At(n-1).Reading || len(got.Other) > 0 {
				t.Errorf("%s %s: %+v, left over %v, want %s", id, c.ID, got.Taken, got.Other, c.Face.At(n-1).Reading)
			}
			now = append(at(k, 0), now...)
			last = append([]string{c.ID}, last...)
		}
		got := []string{}
		for _, x := range wire.Since(p, before, now).Taken {
			got = append(got, x.Control)
		}
		if fmt.Sprint(got) != fmt.Sprint(last) {
			t.Errorf("%s: came as %v, moved as %v", id, got, last)
		}
		if some := wire.Since(p, now, nil); len(some.Taken)+len(some.Other) > 0 {
			t.Errorf("%s: nothing came, %+v", id, some)
		}
	}
	if moved < 100 {
		t.Errorf("%d controls were moved", moved)
	}
}
