package server

import (
	"context"
	"fmt"

	"glossator/core/dialin"
	"glossator/core/translate"
)

// ChangeoverView is what is to be changed on an instrument between two patches.
type ChangeoverView struct {
	ID uint `json:"id"`
	// Others are the other sheets on the same instrument, to come from.
	Others []SheetName `json:"others"`
	// From is the sheet that is come from; 0 where there is none to come from.
	From       uint              `json:"from"`
	Changeover dialin.Changeover `json:"changeover"`
	Count      int               `json:"count"`
	// Pace is how long a line has taken on this instrument.
	Pace    dialin.Pace `json:"pace"`
	Pending Pending     `json:"pending"`
}

// SheetName names a sheet.
type SheetName struct {
	ID   uint   `json:"id"`
	Name string `json:"name"`
}

type changeoverRequest struct {
	ID   uint `path:"id"`
	From uint `query:"from"`
}

// changeover lists what is to be changed from another sheet on the same instrument, the first that there is where none is named.
func (s *Server) changeover(ctx context.Context, in changeoverRequest) (none ChangeoverView, err error) {
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	out := ChangeoverView{ID: in.ID, Others: []SheetName{}, From: in.From, Changeover: dialin.Changeover{Moves: []dialin.Turn{}, Pull: []string{}, Run: []string{}, On: j.dst.Name, To: j.patch.Name}}
	rows, err := s.store.Sheets()
	if err != nil {
		return none, err
	}
	var ticks [][]float64
	for i := range rows {
		if rows[i].Target != j.row.Target {
			continue
		}
		at, err := s.store.TickTimes(rows[i].ID, true)
		if err != nil {
			return none, err
		}
		ticks = append(ticks, at)
		if rows[i].ID != in.ID {
			name := rows[i].Title
			if name == "" {
				name = rows[i].PatchName
			}
			out.Others = append(out.Others, SheetName{rows[i].ID, name})
		}
	}
	out.Pace = dialin.PaceOf(ticks)
	if out.From == 0 && len(out.Others) > 0 {
		out.From = out.Others[0].ID
	}
	if out.From > 0 {
		k, err := s.sheet(out.From)
		if err != nil {
			return none, err
		}
		from, err := translate.Translate(k.src, k.patch, k.dst, k.options())
		if err != nil {
			return none, err
		}
		to, err := translate.Translate(j.src, j.patch, j.dst, j.options())
		if err != nil {
			return none, err
		}
		if out.Changeover, err = dialin.Between(j.dst, from, to); err != nil {
			return none, badRequest{err}
		}
		out.Count = out.Changeover.Count()
	}
	out.Pending, err = s.pending()
	return out, err
}

// changeoverMarkdown gives the same to print.
func (s *Server) changeoverMarkdown(ctx context.Context, in changeoverRequest) (none File[None], err error) {
	v, err := s.changeover(ctx, in)
	if err != nil {
		return none, err
	}
	return download(fmt.Sprintf("changeover-%d-%d.md", v.From, v.ID), "text/markdown", []byte(v.Changeover.Markdown()))
}
