package server

import (
	"context"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"glossator/formats"
	"glossator/formats/photo"
	"glossator/store"
)

// PhotographLimit is the largest photograph that is taken, in bytes.
const PhotographLimit = 40 << 20

const mostCaption = 300

// Photographs are the pictures of a patch on its instrument, or of a sheet as it was dialled in.
type Photographs struct {
	Photographs []PhotographRow `json:"photographs"`
	Pending     Pending         `json:"pending"`
}

// PhotographRow is one of them; its image is at /photographs/{id}.
type PhotographRow struct {
	ID      uint   `json:"id"`
	Caption string `json:"caption"`
	Width   int    `json:"width"`
	Height  int    `json:"height"`
	At      string `json:"at"`
}

func (s *Server) photographsOf(kind, ref string) (none Photographs, err error) {
	all, err := s.store.Photographs(kind, ref)
	if err != nil {
		return none, err
	}
	out := Photographs{Photographs: []PhotographRow{}}
	for _, x := range all {
		out.Photographs = append(out.Photographs, PhotographRow{x.ID, x.Caption, x.Width, x.Height, x.At.Format(time.RFC3339)})
	}
	out.Pending, err = s.pending()
	return out, err
}

func (s *Server) patchPhotographs(ctx context.Context, in named) (none Photographs, err error) {
	if _, err := s.store.Patch(in.ID); err != nil {
		return none, err
	}
	return s.photographsOf(store.KindPatch, in.ID)
}

func (s *Server) sheetPhotographs(ctx context.Context, in ofSheet) (none Photographs, err error) {
	if _, err := s.store.Sheet(in.ID); err != nil {
		return none, err
	}
	return s.photographsOf(store.KindSheet, strconv.FormatUint(uint64(in.ID), 10))
}

type photographRequest struct {
	ID      string `path:"id"`
	Caption string `query:"caption"`
	Body    Upload[None]
}

// goodCaption is what may stand under a picture.
func goodCaption(text string) (string, error) {
	text = strings.TrimSpace(text)
	if bad := formats.Unfit(text); bad != "" || len(text) > mostCaption {
		return "", badRequest{fmt.Errorf("caption: expected at most %d bytes of plain text%s", mostCaption, map[bool]string{true: ", got " + bad}[bad != ""])}
	}
	return text, nil
}

func (s *Server) patchPhotograph(ctx context.Context, in photographRequest) (none Photographs, err error) {
	if _, err := s.store.Patch(in.ID); err != nil {
		return none, err
	}
	return s.photograph(ctx, store.KindPatch, in)
}

func (s *Server) sheetPhotograph(ctx context.Context, in photographRequest) (none Photographs, err error) {
	n, err := strconv.ParseUint(in.ID, 10, 32)
	if err != nil {
		return none, store.ErrNotFound
	}
	if _, err := s.store.Sheet(uint(n)); err != nil {
		return none, err
	}
	in.ID = strconv.FormatUint(n, 10)
	return s.photograph(ctx, store.KindSheet, in)
}

func (s *Server) photograph(ctx context.Context, kind string, in photographRequest) (none Photographs, err error) {
	caption, err := goodCaption(in.Caption)
	if err != nil {
		return none, err
	}
	var x *photo.Taken
	err = s.queue.run(ctx, func() (err error) {
		x, err = photo.Take(in.Body.Data)
		return err
	})
	if err != nil {
		return none, err
	}
	if _, err := s.store.AddPhotograph(store.Photograph{Kind: kind, Ref: in.ID, Caption: caption, Width: x.Width, Height: x.Height}, x.Data); err != nil {
		return none, err
	}
	return s.photographsOf(kind, in.ID)
}

type ofPhotograph struct {
	ID uint `path:"id"`
}

func (s *Server) photographImage(ctx context.Context, in ofPhotograph) (none File[None], err error) {
	data, err := s.store.PhotographImage(in.ID)
	if err != nil {
		return none, err
	}
	return File[None]{Media: http.DetectContentType(data), Data: data, Forever: true}, nil
}

// CaptionBody is what is under a photograph.
type CaptionBody struct {
	Caption string `json:"caption"`
}

type captionRequest struct {
	ID   uint `path:"id"`
	Body CaptionBody
}

func (s *Server) photographCaption(ctx context.Context, in captionRequest) (none None, err error) {
	caption, err := goodCaption(in.Body.Caption)
	if err != nil {
		return none, err
	}
	return none, s.store.CaptionPhotograph(in.ID, caption)
}

func (s *Server) photographDrop(ctx context.Context, in ofPhotograph) (none None, err error) {
	return none, s.store.DropPhotograph(in.ID)
}
