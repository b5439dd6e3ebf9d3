package server

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"glossator/core/dialin"
	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/translate"
	"glossator/core/wire"
	"glossator/formats/smf"
)

// Sending is what of a sheet can be sent to its instrument.
type Sending struct {
	// Lines are in the order of the dial-in list, and go by its keys.
	Lines []SendLine `json:"lines"`
	// Left are those that stay for the hands.
	Left []SendLeft `json:"left"`
	// Before comes first: the change to a program; empty for none.
	Before []int `json:"before"`
	// Ask is the message that asks the instrument for its dump, empty where nothing does.
	Ask []int `json:"ask"`
}

// SendLine is a setting with the bytes of its messages, one after another.
type SendLine struct {
	// Keys are the lines of the list that it sets: one, or all that the instrument's dump holds.
	Keys    []string `json:"keys"`
	Section string   `json:"section"`
	Label   string   `json:"label"`
	Reading string   `json:"reading"`
	Caution string   `json:"caution"`
	Bytes   []int    `json:"bytes"`
}

// SendLeft is a line of the list that cannot be sent.
type SendLeft struct {
	Label   string `json:"label"`
	Reading string `json:"reading"`
	Why     string `json:"why"`
}

type sendRequest struct {
	ID      uint `path:"id"`
	Channel int  `query:"channel"`
	// Control at another reading than the sheet has, Reading; empty for none.
	Control string `query:"control"`
	Reading string `query:"reading"`
	// All asks for what stands at init too, after the lines of the list: a control that goes back to it has to be told.
	All bool `query:"all"`
	// Program is changed to before the settings, from 1, in Bank, from 0; -1 in either for none.
	Program int `query:"program"`
	Bank    int `query:"bank"`
}

// programs and banks are as many as MIDI 1.0 has.
const (
	programs = 128
	banks    = 1 << 14
)

// programChange gives the bytes that choose a program: bank select first where a bank is given (MIDI 1.0; a program of 1 is sent as 0).
func programChange(program, bank, channel int) ([]int, error) {
	out := []int{}
	if program == 0 && bank == 0 || program < 0 {
		return out, nil
	}
	if program < 1 || program > programs {
		return nil, badRequest{fmt.Errorf("program: expected 1 to %d, got %d", programs, program)}
	}
	if bank >= banks {
		return nil, badRequest{fmt.Errorf("bank: expected 0 to %d, got %d", banks-1, bank)}
	}
	if bank >= 0 {
		out = append(out, 0xB0+channel-1, 0, bank>>7, 0xB0+channel-1, 32, bank&127)
	}
	return append(out, 0xC0+channel-1, program-1), nil
}

// sheetSend gives the settings of a sheet as MIDI messages.
func (s *Server) sheetSend(ctx context.Context, in sendRequest) (none Sending, err error) {
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	channel := in.Channel
	if channel == 0 {
		channel = 1
	}
	if channel < 1 || channel > 16 {
		return none, badRequest{fmt.Errorf("channel: expected 1 to 16, got %d", channel)}
	}
	if err := j.with(in.Control, in.Reading); err != nil {
		return none, err
	}
	sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return none, err
	}
	out := Sending{Lines: []SendLine{}, Left: []SendLeft{}, Ask: asks(j.dst)}
	if err := s.notProtected(j.row.Target, in.Bank, in.Program); err != nil {
		return none, err
	}
	if out.Before, err = programChange(in.Program, in.Bank, channel); err != nil {
		return none, err
	}
	var dumped []string // lines that only the dump sets
	send := func(key, section, label, reading, caution string) error {
		k, ok := j.dst.ControlIndex(key)
		if !ok {
			out.Left = append(out.Left, SendLeft{label, reading, "it is no control of the instrument"})
			return nil
		}
		at, err := j.dst.Parse(k, reading)
		if err != nil {
			return err
		}
		all, why := wire.One(j.dst, k, at, channel)
		switch m := j.dst.Controls[k].MIDI; {
		case why != "" && m != nil && m.Byte != nil && j.dst.Dump != nil:
			dumped = append(dumped, key)
		case why != "":
			out.Left = append(out.Left, SendLeft{section + " " + label, reading, why})
		default:
			out.Lines = append(out.Lines, SendLine{Keys: []string{key}, Section: section, Label: label, Reading: reading, Caution: caution, Bytes: ints(smf.Bytes(all))})
		}
		return nil
	}
	for _, g := range dialin.Of(sheet).Groups {
		for _, l := range g.Lines {
			if err := send(l.Key, l.Section, l.Label, l.Reading, l.Caution); err != nil {
				return none, err
			}
		}
	}
	if in.All {
		for _, x := range sheet.Settings {
			if x.Action == gloss.Leave {
				if err := send(x.Control, x.Section, x.Label, x.Reading, ""); err != nil {
					return none, err
				}
			}
		}
	}
	if len(dumped) > 0 {
		x, err := dumpOf(j, sheet, channel)
		if err != nil {
			return none, err
		}
		x.Keys = dumped
		out.Lines = append([]SendLine{x}, out.Lines...)
	}
	return out, nil
}

// dumpOf gives the dump of the target as the sheet sets it.
func dumpOf(j *sheetInputs, sheet *gloss.Sheet, channel int) (x SendLine, err error) {
	w, err := wire.Write(j.dst, layerOf(sheet), channel)
	if err != nil {
		return x, err
	}
	x = SendLine{Section: j.dst.Name, Label: "dump", Reading: "whole", Caution: "it goes where the instrument puts dumps, mostly in place of what is being edited: keep that first"}
	x.Bytes = ints(smf.Bytes(slices.DeleteFunc(w.Messages, func(m wire.Message) bool { return m.Status != 0xF0 })))
	return x, nil
}

// layerOf gives the readings of a sheet's target.
func layerOf(sheet *gloss.Sheet) *patch.Layer {
	y := &patch.Layer{ID: "a", Readings: map[string]string{}}
	for _, s := range sheet.Settings {
		y.Readings[s.Control] = s.Reading
	}
	return y
}

// ints gives bytes as JSON has numbers.
func ints(all []byte) []int {
	out := make([]int, len(all))
	for i, b := range all {
		out[i] = int(b)
	}
	return out
}

// asks gives the message that asks an instrument for its dump.
func asks(c *panel.Compiled) []int {
	if c.Dump == nil {
		return []int{}
	}
	data, err := c.Dump.RequestBytes()
	if err != nil || len(data) == 0 {
		return []int{}
	}
	return ints(smf.Bytes([]wire.Message{{Status: 0xF0, Data: data}}))
}

type sheetMIDIRequest struct {
	ID      uint   `path:"id"`
	Channel int    `query:"channel"`
	Program int    `query:"program"`
	Bank    int    `query:"bank"`
	Form    string `query:"form"`
}

// sheetMIDI gives what can be sent of a sheet as a file: one to play to the instrument, or with form=raw the plain bytes.
func (s *Server) sheetMIDI(ctx context.Context, in sheetMIDIRequest) (none File[None], err error) {
	out, err := s.sheetSend(ctx, sendRequest{ID: in.ID, Channel: in.Channel, Program: in.Program, Bank: in.Bank})
	if err != nil {
		return none, err
	}
	var data []byte
	for _, b := range out.Before {
		data = append(data, byte(b))
	}
	own := len(data)
	for _, l := range out.Lines {
		for _, b := range l.Bytes {
			data = append(data, byte(b))
		}
	}
	if len(data) == own {
		return none, badRequest{errors.New("no control of the list has a MIDI address: give them in the workshop")}
	}
	name := fmt.Sprintf("sheet-%d", in.ID)
	if in.Form == "raw" {
		return download(name+".syx", "application/octet-stream", data)
	}
	all, err := smf.Stream(data)
	if err != nil {
		return none, err
	}
	return download(name+".mid", "audio/midi", smf.OfMessages(all).Write())
}
