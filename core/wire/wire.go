package wire

import (
	"bytes"
	"fmt"
	"maps"
	"slices"
	"sort"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/scale"
)

// Message is one MIDI message: the status byte and what follows it. The data of a system
// exclusive message (status 0xF0) is without F0 and F7.
type Message struct {
	Status byte
	Data   []byte
}

// Taken is a reading that messages gave.
type Taken struct {
	Control string `json:"control"`
	Section string `json:"section"`
	Label   string `json:"label"`
	Reading string `json:"reading"`
	// Stands is what the control stands at, Same is set where that is the same, as near as it was read.
	Stands string `json:"stands"`
	Same   bool   `json:"same"`
	// From says which message it was.
	From string `json:"from"`
	// Note warns where the message could not say exactly.
	Note string `json:"note,omitempty"`
	last int
}

// Found is what messages mean on a panel.
type Found struct {
	Taken []Taken `json:"taken"`
	// Other says what was there and is not a reading of the panel.
	Other []string `json:"other"`
}

// MaxOther is how many unknown addresses are listed.
const MaxOther = 40

type value struct {
	high, low int
	hasLow    bool
	// last is which message said so.
	last int
}

type address struct {
	channel, number int
}

// gathered holds the last value of every address.
type gathered struct {
	cc, nrpn map[address]value
	dumps    [][]byte
	lastDump int
	bends    int
	notes    int
}

// gather runs through messages as a receiver does, and holds what was said from one of them on: NRPN numbers stay chosen by channel until
// an RPN is chosen (99 and 98, 101 and 100, then 6 and 38).
func gather(all []Message, from int) *gathered {
	g := &gathered{cc: map[address]value{}, nrpn: map[address]value{}}
	var chosen [16]struct {
		msb, lsb int
		nrpn     bool
		anew     bool // chosen, and nothing entered yet
	}
	for i := range chosen {
		chosen[i].msb, chosen[i].lsb = -1, -1
	}
	for i, m := range all {
		ch := int(m.Status & 0x0F)
		switch {
		case m.Status == 0xF0 && i >= from:
			g.dumps, g.lastDump = append(g.dumps, m.Data), i
		case i >= from && (m.Status&0xF0 == 0x90 || m.Status&0xF0 == 0x80):
			g.notes++
		case i >= from && m.Status&0xF0 == 0xE0:
			g.bends++
		case m.Status&0xF0 == 0xB0 && len(m.Data) == 2:
			n, v, c := int(m.Data[0]), int(m.Data[1]), &chosen[ch]
			switch n {
			case 99:
				c.msb, c.nrpn, c.anew = v, true, true
			case 98:
				c.lsb, c.nrpn, c.anew = v, true, true
			case 101, 100:
				c.nrpn = false
			case 6, 38, 96, 97:
				if !c.nrpn || c.msb < 0 || c.lsb < 0 || c.msb == 127 && c.lsb == 127 { // none, or the null that nothing is entered to
					if n == 6 || n == 38 {
						g.setCC(address{ch, n}, v, i)
					}
					break
				}
				at := address{ch, c.msb<<7 | c.lsb}
				x := g.nrpn[at]
				switch n {
				case 6: // either half may come first
					if x.high = v; !c.anew {
						break
					}
					x = value{high: v}
				case 38:
					if c.anew {
						x = value{}
					}
					x.low, x.hasLow = v, true
				default:
					x.step(n == 96)
				}
				c.anew = false
				x.last = i
				g.nrpn[at] = x
			default:
				g.setCC(address{ch, n}, v, i)
			}
		}
	}
	for _, all := range []map[address]value{g.cc, g.nrpn} {
		maps.DeleteFunc(all, func(_ address, v value) bool { return v.last < from })
	}
	return g
}

// step is a data increment or decrement (controllers 96 and 97).
func (x *value) step(up bool) {
	by := 1
	if !up {
		by = -1
	}
	if !x.hasLow {
		x.high = min(max(x.high+by, 0), 127)
		return
	}
	all := min(max(x.high<<7+x.low+by, 0), 1<<14-1)
	x.high, x.low = all>>7, all&127
}

// setCC keeps a controller; one of 32 to 63 is also the low half of the one 32 below.
func (g *gathered) setCC(at address, v, last int) {
	g.cc[at] = value{high: v, last: last}
	if at.number >= 32 && at.number < 64 {
		pair := address{at.channel, at.number - 32}
		if x, ok := g.cc[pair]; ok {
			x.low, x.hasLow, x.last = v, true, last
			g.cc[pair] = x
		}
	}
}

// Read gives the readings that messages hold for a panel, in working order. Where several
// channels give the same control, the lowest counts and the others are told of.
func Read(p *panel.Compiled, all []Message) Found { return read(p, all, 0) }

// Since gives the readings of messages that came after others, in the order in which they were last said; what the others chose (an NRPN, the upper half of a pair) counts for them.
func Since(p *panel.Compiled, before, now []Message) Found {
	out := read(p, append(slices.Clone(before), now...), len(before))
	slices.SortStableFunc(out.Taken, func(a, b Taken) int { return a.last - b.last })
	return out
}

func read(p *panel.Compiled, all []Message, from int) Found {
	g := gather(all, from)
	out := Found{Taken: []Taken{}, Other: []string{}}
	used := map[string]bool{}
	owned := owners(p)
	dump, notes := g.dump(p)
	out.Other = append(out.Other, notes...)
	for _, k := range p.Order {
		c := &p.Controls[k]
		m, n := c.MIDI, c.Face.Len()
		if m == nil || n == 0 {
			continue
		}
		take := func(i, last int, from, note string) {
			if i < 0 || i >= n {
				out.Other = append(out.Other, fmt.Sprintf("%s says %d for %s, which has %d positions, counted from 0", from, i, c.Label, n))
				return
			}
			out.Taken = append(out.Taken, Taken{Control: c.ID, Section: p.SectionLabel(k), Label: c.Label, Reading: c.Face.At(i).Reading, From: from, Note: note, last: last})
		}
		if m.Byte != nil && dump != nil {
			i := int(dump[*m.Byte])
			if n > 128 {
				i = i<<7 | int(dump[*m.Byte+1])
			}
			take(position(i, n, bitsOf(n), orElse(m.Values, "index")), g.lastDump, fmt.Sprintf("dump byte %d", *m.Byte), "")
			continue
		}
		if m.NRPN != nil {
			if at, v, ok := lowest(g.nrpn, *m.NRPN); ok {
				used["nrpn"+fmt.Sprint(at)] = true
				take(v.nrpnPosition(n, orElse(m.Values, "index")), v.last, fmt.Sprintf("NRPN %d", at.number), "")
				continue
			}
		}
		if m.CC == nil {
			continue
		}
		if at, v, ok := lowest(g.cc, *m.CC); ok {
			used["cc"+fmt.Sprint(at)] = true
			low := address{at.channel, at.number + 32}
			if n > 128 && v.hasLow && *m.CC < 32 && owned[*m.CC+32] == "" {
				used["cc"+fmt.Sprint(low)] = true
				take(position(v.high<<7|v.low, n, 14, "full"), v.last, fmt.Sprintf("CC %d and %d", at.number, low.number), "")
				continue
			}
			if n > 128 {
				take(position(ScaleUp(v.high, 7, 14), n, 14, "full"), v.last, fmt.Sprintf("CC %d", at.number), fmt.Sprintf("a CC tells 128 of its %d positions apart", n))
				continue
			}
			take(position(v.high, n, 7, orElse(m.Values, "full")), v.last, fmt.Sprintf("CC %d", at.number), "")
		}
	}
	out.Other = append(out.Other, g.rest(used)...)
	if n := len(out.Other); n > MaxOther {
		out.Other = append(out.Other[:MaxOther], fmt.Sprintf("and %d more", n-MaxOther))
	}
	return out
}

// dump finds the panel's dump; the data is that after its header.
func (g *gathered) dump(p *panel.Compiled) (data []byte, notes []string) {
	if p.Dump == nil {
		if len(g.dumps) > 0 {
			notes = append(notes, fmt.Sprintf("%d system exclusive: %s describes no dump", len(g.dumps), p.Name))
		}
		return nil, notes
	}
	header, err := p.Dump.HeaderBytes()
	if err != nil {
		return nil, []string{err.Error()}
	}
	for _, d := range g.dumps {
		rest, ok := bytes.CutPrefix(d, header)
		switch {
		case !ok:
			notes = append(notes, fmt.Sprintf("a system exclusive message of %d bytes with another header", len(d)))
		case len(rest) != p.Dump.Length:
			notes = append(notes, fmt.Sprintf("a dump of %d bytes after its header: expected %d", len(rest), p.Dump.Length))
		default:
			if data != nil {
				notes = append(notes, "more than one dump: the last counts")
			}
			data = rest
		}
	}
	return data, notes
}

// rest tells of messages that were no readings.
func (g *gathered) rest(used map[string]bool) []string {
	var out []string
	list := func(name, key string, all map[address]value) {
		var at []address
		for a := range all {
			if !used[key+fmt.Sprint(a)] {
				at = append(at, a)
			}
		}
		sort.Slice(at, func(i, j int) bool {
			return at[i].channel < at[j].channel || at[i].channel == at[j].channel && at[i].number < at[j].number
		})
		for _, a := range at {
			v := all[a]
			text := fmt.Sprint(v.high)
			if v.hasLow {
				text = fmt.Sprint(v.high<<7 | v.low)
			}
			out = append(out, fmt.Sprintf("%s %d on channel %d at %s: no control of the panel", name, a.number, a.channel+1, text))
		}
	}
	list("CC", "cc", g.cc)
	list("NRPN", "nrpn", g.nrpn)
	if g.notes > 0 {
		out = append(out, fmt.Sprintf("%d note messages", g.notes))
	}
	if g.bends > 0 {
		out = append(out, fmt.Sprintf("%d pitch bends", g.bends))
	}
	return out
}

func lowest(all map[address]value, number int) (address, value, bool) {
	for ch := range 16 {
		if v, ok := all[address{ch, number}]; ok {
			return address{ch, number}, v, true
		}
	}
	return address{}, value{}, false
}

// owners gives which control has which CC.
func owners(p *panel.Compiled) map[int]string {
	out := map[int]string{}
	for i := range p.Controls {
		if m := p.Controls[i].MIDI; m != nil && m.CC != nil {
			out[*m.CC] = p.Controls[i].ID
		}
	}
	return out
}

func orElse(s, d string) string {
	if s == "" {
		return d
	}
	return s
}

func bitsOf(n int) int {
	if n > 128 {
		return 14
	}
	return 7
}

// nrpnPosition takes the data entry pair as 14 bits where its low half was sent; else the high
// half alone is the number of a position, or the upper half of a wide one.
func (v value) nrpnPosition(n int, values string) int {
	switch {
	case v.hasLow && values == "full":
		return position(v.high<<7|v.low, n, 14, "full")
	case v.hasLow:
		return v.high<<7 | v.low
	case values == "full":
		return position(v.high, n, 7, "full")
	case n > 128:
		return v.high << 7
	}
	return v.high
}

// position gives which of n positions a number of so many bits stands for: its own number
// ("index"), or the zone of the range that it falls into ("full").
func position(v, n, bits int, values string) int {
	if values == "index" {
		return v
	}
	return v * n >> bits
}

// number undoes position: the middle of the zone.
func number(i, n, bits int, values string) int {
	if values == "index" {
		return i
	}
	least := func(i int) int { return (i<<bits + n - 1) / n }
	return (least(i) + least(i+1) - 1) / 2
}

// ScaleUp widens a number from a few bits to more so that least, centre and most stay so:
// the min-centre-max scaling of MIDI 2.0 (M2-115-U).
func ScaleUp(v, from, to int) int {
	more := to - from
	out := v << more
	if v <= 1<<(from-1) {
		return out
	}
	repeat := from - 1
	bits := v & (1<<repeat - 1)
	if more > repeat {
		bits <<= more - repeat
	} else {
		bits >>= repeat - more
	}
	for ; bits != 0; bits >>= repeat {
		out |= bits
	}
	return out
}

// Written is what Write made.
type Written struct {
	Messages []Message
	// Notes tells of controls that cannot be sent, or not exactly.
	Notes []string
}

// Write gives the messages that set a layer on a panel's instrument: its dump, where it has
// one and any of its controls a place there, then NRPN and CC for the controls that the dump
// lacks. Every control with an address is sent, those at init too.
func Write(p *panel.Compiled, layer *patch.Layer, channel int) (Written, error) {
	if channel < 1 || channel > 16 {
		return Written{}, fmt.Errorf("expected a channel from 1 to 16, got %d", channel)
	}
	st, err := p.Read(layer, "")
	if err != nil {
		return Written{}, err
	}
	var out Written
	var data []byte
	if p.Dump != nil {
		data = make([]byte, p.Dump.Length)
	}
	owned := owners(p)
	status := byte(0xB0 + channel - 1)
	inDump, chosen := false, false
	for _, k := range p.Order {
		c := &p.Controls[k]
		n := c.Face.Len()
		if n == 0 {
			if st.Given[k] {
				out.Notes = append(out.Notes, fmt.Sprintf("%s is a text: it is not sent", c.Label))
			}
			continue
		}
		m := c.MIDI
		if m == nil || m.CC == nil && m.NRPN == nil && m.Byte == nil {
			if st.Given[k] {
				out.Notes = append(out.Notes, fmt.Sprintf("%s has no address: set it by hand to %s", c.Label, st.At[k].Reading))
			}
			continue
		}
		i, near := nearest(&c.Face, st.At[k])
		if near {
			out.Notes = append(out.Notes, fmt.Sprintf("%s stands between two positions: %s is sent for %s", c.Label, c.Face.At(i).Reading, st.At[k].Reading))
		}
		switch {
		case m.Byte != nil && data != nil:
			inDump = true
			v := number(i, n, bitsOf(n), orElse(m.Values, "index"))
			if n > 128 {
				data[*m.Byte], data[*m.Byte+1] = byte(v>>7), byte(v&127)
			} else {
				data[*m.Byte] = byte(v)
			}
		default:
			all, note := single(c, i, status, owned)
			out.Messages = append(out.Messages, all...)
			if note != "" {
				out.Notes = append(out.Notes, note)
			}
			chosen = chosen || m.NRPN != nil
		}
	}
	if chosen {
		out.Messages = append(out.Messages, null(status)...)
	}
	if inDump {
		header, err := p.Dump.HeaderBytes()
		if err != nil {
			return Written{}, err
		}
		out.Messages = append([]Message{{0xF0, append(header, data...)}}, out.Messages...)
	}
	return out, nil
}

// null ends what NRPN has chosen: what is entered by hand after it goes nowhere (MIDI 1.0, from memory).
func null(status byte) []Message {
	return []Message{{status, []byte{101, 127}}, {status, []byte{100, 127}}}
}

// single gives the messages that set one control with an address of its own to its i-th position, by NRPN where it has one, else by CC.
func single(c *panel.Control, i int, status byte, owned map[int]string) (all []Message, note string) {
	cc := func(n, v int) { all = append(all, Message{status, []byte{byte(n), byte(v)}}) }
	n, m := c.Face.Len(), c.MIDI
	switch {
	case m.NRPN != nil:
		v := number(i, n, 14, orElse(m.Values, "index"))
		cc(99, *m.NRPN>>7)
		cc(98, *m.NRPN&127)
		cc(6, v>>7)
		cc(38, v&127)
	case n > 128 && *m.CC < 32 && owned[*m.CC+32] == "":
		v := number(i, n, 14, "full")
		cc(*m.CC, v>>7)
		cc(*m.CC+32, v&127)
	default:
		if n > 128 {
			note = fmt.Sprintf("CC %d tells 128 of the %d positions of %s apart", *m.CC, n, c.Label)
		}
		cc(*m.CC, number(i, n, 7, orElse(m.Values, "full")))
	}
	return all, note
}

// One gives the messages that set one control, by its own address. why says why there are none: it has no address, or only a place in the dump, which holds all of them.
func One(p *panel.Compiled, control int, at scale.Position, channel int) (all []Message, why string) {
	c := &p.Controls[control]
	switch m := c.MIDI; {
	case channel < 1 || channel > 16:
		return nil, fmt.Sprintf("expected a channel from 1 to 16, got %d", channel)
	case c.Face.Len() == 0:
		return nil, "a text is not sent"
	case m == nil || m.CC == nil && m.NRPN == nil && m.Byte == nil:
		return nil, "it has no MIDI address"
	case m.CC == nil && m.NRPN == nil:
		return nil, "it has no address of its own, only a place in the dump"
	}
	i, _ := nearest(&c.Face, at)
	status := byte(0xB0 + channel - 1)
	all, _ = single(c, i, status, owners(p))
	if c.MIDI.NRPN != nil {
		all = append(all, null(status)...)
	}
	return all, ""
}

func nearest(f *scale.Face, at scale.Position) (i int, near bool) {
	if at.Index >= 0 {
		return at.Index, false
	}
	return f.Nearest(at.Travel).Index, true
}

// Against says of each reading what its control stands at in a state.
func (f *Found) Against(c *panel.Compiled, s *panel.State) {
	for i := range f.Taken {
		t := &f.Taken[i]
		k, _ := c.ControlIndex(t.Control)
		at, err := c.Parse(k, t.Reading)
		t.Stands = s.At[k].Reading
		t.Same = err == nil && at.Index >= 0 && at.Index == s.At[k].Index
	}
}
