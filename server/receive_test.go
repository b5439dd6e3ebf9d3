package server

import (
	"encoding/json"
	"fmt"
	"math"
	"net/url"
	"slices"
	"testing"

	"glossator/core/synth"
	"glossator/core/wire"
	"glossator/formats/smf"
	"glossator/formats/wav"
	"glossator/testutil/testrack"
)

func body(t *testing.T, v any) string {
	t.Helper()
	out, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return string(out)
}

// A sheet is sent to a stand-in as to a port, with a program change before it; its dump, asked for and read, stands as planned; what is then moved on it is the one that does not. Its sound is heard through the limiter, and is another than that of one that got nothing.
func TestSentAndReadBack(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "fairlead"}`, 200)
	got := ask[Sending](c, "GET", "/sheets/1/send?program=12&bank=130", "", 200)
	if want := []int{0xB0, 0, 1, 0xB0, 32, 2, 0xC0, 11}; !slices.Equal(got.Before, want) { // bank select and program change (MIDI 1.0)
		t.Errorf("before: %v, want %v", got.Before, want)
	}
	had := slices.Clone(got.Before)
	for _, l := range got.Lines {
		had = append(had, l.Bytes...)
	}
	if len(got.Ask) == 0 {
		t.Fatal("nothing asks for the dump")
	}
	dump := ask[Answered](c, "POST", "/panels/fairlead/stand-in", body(t, ToStandIn{Unit: 7, Before: had, Bytes: got.Ask}), 200)
	found := ask[wire.Found](c, "POST", "/sheets/1/received", body(t, Received{Bytes: dump.Bytes}), 200)
	if len(found.Taken) < 20 {
		t.Fatalf("%d readings in the dump, %v", len(found.Taken), found.Other)
	}
	for _, x := range found.Taken {
		if !x.Same {
			t.Errorf("%s stands at %s, planned is %s", x.Control, x.Reading, x.Stands)
		}
	}
	// a hand moves something
	p := testrack.Panels(t)["fairlead"]
	hand := func(data []int) (off []wire.Taken) {
		all, _ := messages("", data)
		for i := range all {
			if all[i].Status == 0xF0 {
				all[i].Data = slices.Clone(all[i].Data)
				all[i].Data[len(all[i].Data)-1] ^= 1 // the last byte of all
				for k := range p.Controls {
					if m := p.Controls[k].MIDI; m != nil && m.Byte != nil && *m.Byte == 5 {
						all[i].Data[2+5] ^= 1
					}
				}
			}
		}
		for _, x := range ask[wire.Found](c, "POST", "/sheets/1/received", body(t, Received{Bytes: ints(smf.Bytes(all))}), 200).Taken {
			if !x.Same {
				off = append(off, x)
			}
		}
		return off
	}
	if off := hand(dump.Bytes); len(off) == 0 || len(off) > 2 {
		t.Errorf("what was moved: %+v", off)
	}
	sound := func(bytesSent []int) *wav.Sound {
		res, data := c.do("POST", Base+"/sheets/1/stand-in", body(t, ToStandIn{Unit: 7, Bytes: bytesSent}), nil)
		if res.StatusCode != 200 {
			t.Fatalf("%d %s", res.StatusCode, data)
		}
		s, err := wav.Read(data)
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	level := func(s *wav.Sound) (rms, peak float64) {
		for i := range s.Left {
			rms += s.Left[i] * s.Left[i]
			peak = max(peak, math.Abs(s.Left[i]), math.Abs(s.Right[i]))
		}
		return math.Sqrt(rms / float64(len(s.Left))), peak
	}
	set, peak := level(sound(had))
	if over := math.Pow(10, float64(synth.Ceiling)/20); peak > over*1.001 {
		t.Errorf("it peaks at %g, over %g", peak, over)
	}
	if init, _ := level(sound([]int{})); math.Abs(20*math.Log10(set/init)) < 0.5 {
		t.Errorf("it sounds as at init: %g and %g", set, init)
	}
}

// What comes in pieces is read with what came before, for a patch, a sheet and a panel; what is no MIDI is refused by name and place.
func TestReceived(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	p := testrack.Panels(t)["halyard"]
	k := p.Order[slices.IndexFunc(p.Order, func(k int) bool { return p.Controls[k].MIDI != nil && p.Controls[k].MIDI.CC != nil })]
	ctl := p.Controls[k]
	all, why := wire.One(p, k, ctl.Face.At(ctl.Face.Len()-1), 5)
	if why != "" {
		t.Fatal(why)
	}
	for _, at := range []string{"/sheets/1/received", "/panels/halyard/received", "/patches/fog-bank/layers/a/received"} {
		f := ask[wire.Found](c, "POST", at, body(t, Received{Before: []int{0x90, 60, 100, 0x80, 60, 0}, Bytes: ints(smf.Bytes(all))}), 200)
		if len(f.Taken) != 1 || f.Taken[0].Control != ctl.ID || f.Taken[0].Reading != ctl.Face.At(ctl.Face.Len()-1).Reading {
			t.Errorf("%s: %+v", at, f)
		}
		for _, bad := range []Received{{Bytes: []int{256}}, {Bytes: []int{-1}}, {Bytes: []int{0xF0, 1, 2}}, {Before: []int{0xB0, 1}, Bytes: []int{}}, {Bytes: make([]int, mostReceived+1)}} {
			ask[any](c, "POST", at, body(t, bad), 422)
		}
	}
	for _, bad := range []string{"?program=129", "?program=1&bank=16384", "?channel=17", "?control=nothing&reading=1", "?control=" + ctl.ID + "&reading=loud"} {
		ask[any](c, "GET", "/sheets/1/send"+bad, "", 422)
	}
	for _, bad := range []int{-1, 1 << 40} {
		ask[any](c, "POST", "/panels/halyard/stand-in", body(t, ToStandIn{Unit: bad, Bytes: []int{}}), 422)
	}
	ask[any](c, "POST", "/panels/nothing/received", `{"bytes": []}`, 404)
	// with the hairline elsewhere one line differs
	a := ask[Sending](c, "GET", "/sheets/1/send", "", 200)
	b := ask[Sending](c, "GET", fmt.Sprintf("/sheets/1/send?control=%s&reading=%s", ctl.ID, ctl.Face.At(1).Reading), "", 200)
	differ := 0
	for _, x := range b.Lines {
		if !slices.ContainsFunc(a.Lines, func(y SendLine) bool { return slices.Equal(x.Bytes, y.Bytes) }) {
			differ++
		}
	}
	if differ != 1 {
		t.Errorf("%d lines differ", differ)
	}
	// back at init it is on no list, and has to be told all the same
	at := func(s Sending) string {
		for _, x := range s.Lines {
			if x.Keys[0] == ctl.ID {
				return x.Reading
			}
		}
		return ""
	}
	init := p.Init(k).Reading
	to := fmt.Sprintf("/sheets/1/send?control=%s&reading=%s", ctl.ID, url.QueryEscape(init))
	if all := ask[Sending](c, "GET", to+"&all=true", "", 200); at(all) != init || len(all.Lines) < 2*len(a.Lines) {
		t.Errorf("of all, %s is sent as %q, init is %s; %d lines", ctl.ID, at(all), init, len(all.Lines))
	}
}
