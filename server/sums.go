package server

import (
	"context"
	"errors"
	"fmt"
	"strconv"

	"glossator/core/quantity"
	"glossator/core/reckon"
	"glossator/store"
)

type sumsRequest struct {
	Value string `query:"value"`
	sumContext
}

// sums lists the sums; with a value, those that it fits are worked out with it.
func (s *Server) sums(ctx context.Context, in sumsRequest) (none Sums, err error) {
	p, err := s.pending()
	if err != nil {
		return none, err
	}
	out := Sums{Sums: reckon.Sums, Taken: []reckon.SumFit{}, Pending: p}
	if v := in.Value; v != "" {
		with, err := in.read()
		if err != nil {
			return none, err
		}
		out.Taken = append(out.Taken, reckon.Taking(v, with)...)
	}
	return out, nil
}

type sumRequest struct {
	ID    string `path:"id"`
	Left  string `query:"left"`
	Right string `query:"right"`
	sumContext
}

func (s *Server) sum(ctx context.Context, in sumRequest) (none reckon.Answer, err error) {
	sum := reckon.Find(in.ID)
	if sum == nil {
		return none, store.ErrNotFound
	}
	with, err := in.read()
	if err != nil {
		return none, err
	}
	left, right := in.Left, in.Right
	if (left == "") == (right == "") {
		return none, badRequest{errors.New("expected a value on one side")}
	}
	a, err := sum.Work(left+right, left != "", with)
	if err != nil {
		return none, badRequest{err}
	}
	return a, nil
}

// sumContext is what some sums need beside their values.
type sumContext struct {
	Tempo string `query:"tempo"`
	Note  string `query:"note"`
	Time  string `query:"time"`
	Track string `query:"track"`
}

// read reads tempo, note and echo.
func (in *sumContext) read() (ctx quantity.Context, err error) {
	if text := in.Tempo; text != "" {
		v, err := strconv.ParseFloat(text, 64)
		if err != nil || !(v >= 1 && v <= 1000) {
			return ctx, badRequest{fmt.Errorf("tempo: expected 1 to 1000 quarter notes a minute, got %q", text)}
		}
		ctx.Tempo = quantity.Tempo(v)
	}
	ctx.Track = 1
	if text := in.Track; text != "" {
		e, err := quantity.Parse(text)
		switch {
		case err != nil || e.Form != quantity.FormPercent && e.Form != quantity.FormNumber && e.Form != quantity.FormShare && e.Form != quantity.FormBeats:
			return ctx, badRequest{fmt.Errorf("tracking: expected per cent such as 50 %%, or a share such as 1/3, got %q", text)}
		case e.Form == quantity.FormNumber:
			ctx.Track = e.Value / 100
		default:
			ctx.Track = e.Value
		}
	}
	for _, f := range []struct {
		name  string
		text  string
		forms []quantity.Form
		set   func(float64)
	}{
		{"note", in.Note, []quantity.Form{quantity.FormNote, quantity.FormFreq}, func(v float64) { ctx.At = quantity.Frequency(v) }},
		{"time", in.Time, []quantity.Form{quantity.FormDuration}, func(v float64) { ctx.Time = quantity.Duration(v) }},
	} {
		text := f.text
		if text == "" {
			continue
		}
		e, err := quantity.Parse(text)
		if err != nil {
			return ctx, badRequest{fmt.Errorf("%s: %w", f.name, err)}
		}
		if e.Form != f.forms[0] && e.Form != f.forms[len(f.forms)-1] {
			return ctx, badRequest{fmt.Errorf("%s: expected a %s, got %q", f.name, f.forms[0], text)}
		}
		f.set(e.Value)
	}
	return ctx, nil
}

// Sums lists the reckoner's lines.
type Sums struct {
	Sums []reckon.Sum `json:"sums"`
	// Taken are the sums that a given value fits.
	Taken   []reckon.SumFit `json:"taken"`
	Pending Pending         `json:"pending"`
}
