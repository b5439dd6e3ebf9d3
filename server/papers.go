package server

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"glossator/core/dialin"
	"glossator/formats/paper"
	"glossator/store"
)

type paperRequest struct {
	ID   uint   `path:"id"`
	Name string `path:"name"`
	// From is the sheet that a changeover comes from.
	From uint `query:"from"`
}

// sheetPaper gives a sheet, its dial-in list or a changeover to it as a document: sheet, dial-in or changeover, and .md, .csv, .xlsx or .pdf.
func (s *Server) sheetPaper(ctx context.Context, in paperRequest) (none File[None], err error) {
	what, form, _ := strings.Cut(in.Name, ".")
	media, ok := paper.Forms[form]
	if !ok {
		return none, store.ErrNotFound
	}
	var p *paper.Paper
	name := ""
	switch what {
	case "sheet", "dial-in":
		j, sheet, err := s.made(in.ID)
		if err != nil {
			return none, err
		}
		name = fmt.Sprintf("%s-to-%s", j.row.Patch, j.row.Target)
		if p = paper.Sheet(sheet); what == "dial-in" {
			ticks, err := s.store.Ticks(in.ID)
			if err != nil {
				return none, err
			}
			list := dialin.Of(sheet)
			p = paper.DialIn(sheet, &list, func(key string) bool { return slices.Contains(ticks, key) })
			name += "-dial-in"
		}
	case "changeover":
		v, err := s.changeover(ctx, changeoverRequest{ID: in.ID, From: in.From})
		if err != nil {
			return none, err
		}
		if v.From == 0 {
			return none, badRequest{fmt.Errorf("there is no other sheet on %s to come from", v.Changeover.On)}
		}
		name, p = fmt.Sprintf("changeover-%d-%d", v.From, v.ID), paper.Changeover(&v.Changeover)
	default:
		return none, store.ErrNotFound
	}
	b, err := p.Write(form)
	if err != nil {
		return none, err
	}
	return download(name+"."+form, media, b)
}
