package server

import (
	"context"
	"errors"
	"fmt"

	"glossator/core/dialin"
	"glossator/core/gloss"
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
	sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return none, err
	}
	out := Sending{Lines: []SendLine{}, Left: []SendLeft{}}
	var dumped []string // lines that only the dump sets
	for _, g := range dialin.Of(sheet).Groups {
		for _, l := range g.Lines {
			k, ok := j.dst.ControlIndex(l.Key)
			if !ok {
				out.Left = append(out.Left, SendLeft{l.Label, l.Reading, "it is no control of the instrument"})
				continue
			}
			at, err := j.dst.Parse(k, l.Reading)
			if err != nil {
				return none, err
			}
			all, why := wire.One(j.dst, k, at, channel)
			if m := j.dst.Controls[k].MIDI; why != "" && m != nil && m.Byte != nil && j.dst.Dump != nil {
				dumped = append(dumped, l.Key)
				continue
			}
			if why != "" {
				out.Left = append(out.Left, SendLeft{l.Section + " " + l.Label, l.Reading, why})
				continue
			}
			x := SendLine{Keys: []string{l.Key}, Section: l.Section, Label: l.Label, Reading: l.Reading, Caution: l.Caution, Bytes: []int{}}
			for _, b := range smf.Bytes(all) {
				x.Bytes = append(x.Bytes, int(b))
			}
			out.Lines = append(out.Lines, x)
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
	y := &patch.Layer{ID: "a", Readings: map[string]string{}}
	for _, s := range sheet.Settings {
		y.Readings[s.Control] = s.Reading
	}
	w, err := wire.Write(j.dst, y, channel)
	if err != nil {
		return x, err
	}
	x = SendLine{Section: j.dst.Name, Label: "dump", Reading: "whole", Caution: "it goes where the instrument puts dumps, mostly in place of what is being edited: keep that first", Bytes: []int{}}
	for _, m := range w.Messages {
		if m.Status == 0xF0 {
			for _, b := range smf.Bytes([]wire.Message{m}) {
				x.Bytes = append(x.Bytes, int(b))
			}
		}
	}
	return x, nil
}

type sheetMIDIRequest struct {
	ID      uint   `path:"id"`
	Channel int    `query:"channel"`
	Form    string `query:"form"`
}

// sheetMIDI gives what can be sent of a sheet as a file: one to play to the instrument, or with form=raw the plain bytes.
func (s *Server) sheetMIDI(ctx context.Context, in sheetMIDIRequest) (none File[None], err error) {
	out, err := s.sheetSend(ctx, sendRequest{ID: in.ID, Channel: in.Channel})
	if err != nil {
		return none, err
	}
	var data []byte
	for _, l := range out.Lines {
		for _, b := range l.Bytes {
			data = append(data, byte(b))
		}
	}
	if len(data) == 0 {
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
