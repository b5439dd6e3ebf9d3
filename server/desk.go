package server

import (
	"errors"
	"fmt"
	"net/http"
	"regexp"
	"strings"

	"github.com/labstack/echo/v5"

	"glossator/core/fault"
	"glossator/core/panel"
	"glossator/core/paste"
	"glossator/core/patch"
	"glossator/core/translate"
	"glossator/store"
)

// place is a control of a layer of a stored patch, as a request names it.
type place struct {
	patch   *patch.Patch
	panel   *panel.Compiled
	layer   int
	control int
}

func (s *Server) place(c *echo.Context) (*place, error) {
	pl, err := s.layer(c)
	if err != nil {
		return nil, err
	}
	k, ok := pl.panel.ControlIndex(c.Param("control"))
	if !ok {
		return nil, store.ErrNotFound
	}
	pl.control = k
	return pl, nil
}

// layer finds the layer of a request.
func (s *Server) layer(c *echo.Context) (*place, error) {
	p, err := s.patch(c.Param("id"))
	if err != nil {
		return nil, err
	}
	pl := &place{patch: p, layer: -1}
	if pl.panel, _, err = s.panelOf(p); err != nil {
		return nil, err
	}
	for i := range p.Layers {
		if p.Layers[i].ID == c.Param("layer") {
			pl.layer = i
		}
	}
	if pl.layer < 0 {
		return nil, store.ErrNotFound
	}
	return pl, nil
}

func (pl *place) id() string { return pl.panel.Controls[pl.control].ID }

// put sets a reading in a patch; an empty one puts the control back to init.
func (pl *place) put(p *patch.Patch, reading string) {
	layer := &p.Layers[pl.layer]
	if layer.Readings == nil {
		layer.Readings = map[string]string{}
	}
	if reading == "" {
		delete(layer.Readings, pl.id())
		return
	}
	layer.Readings[pl.id()] = reading
}

// store writes a reading and answers with the patch.
func (s *Server) storeReading(c *echo.Context, pl *place, reading string) error {
	label := pl.panel.Controls[pl.control].Label
	what := fmt.Sprintf("%s: %s to %s", pl.patch.Name, label, reading)
	if reading == "" {
		what = fmt.Sprintf("%s: %s to init", pl.patch.Name, label)
	}
	p, err := s.store.ChangePatch(pl.patch.ID, what, func(p *patch.Patch) error {
		pl.put(p, reading)
		return nil
	})
	if err != nil {
		return err
	}
	return s.answerPatch(c, p)
}

func (s *Server) answerPatch(c *echo.Context, p *patch.Patch) error {
	v, err := s.viewOfPatch(p)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, v)
}

func (s *Server) readingSet(c *echo.Context) error {
	b, err := body[ReadingBody](c)
	if err != nil {
		return err
	}
	pl, err := s.place(c)
	if err != nil {
		return err
	}
	pos, err := pl.panel.Parse(pl.control, strings.TrimSpace(b.Reading))
	if err != nil {
		return badRequest{err}
	}
	return s.storeReading(c, pl, pos.Reading)
}

// readingsSet sets several readings at once, all or none.
func (s *Server) readingsSet(c *echo.Context) error {
	b, err := body[ReadingsBody](c)
	if err != nil {
		return err
	}
	pl, err := s.layer(c)
	if err != nil {
		return err
	}
	if len(b.Readings) == 0 {
		return badRequest{errors.New("expected at least one reading")}
	}
	var faults fault.List
	good := map[string]string{}
	for id, text := range b.Readings {
		k, ok := pl.panel.ControlIndex(id)
		if !ok {
			faults.Add("/readings/"+id, "expected a control of %s", pl.panel.Name)
			continue
		}
		pos, err := pl.panel.Parse(k, strings.TrimSpace(text))
		if err != nil {
			faults.Add("/readings/"+id, "%v", err)
			continue
		}
		good[id] = pos.Reading
	}
	if err := faults.Err(); err != nil {
		return err
	}
	p, err := s.store.ChangePatch(pl.patch.ID, fmt.Sprintf("%s: %d readings", pl.patch.Name, len(good)), func(p *patch.Patch) error {
		layer := &p.Layers[pl.layer]
		if layer.Readings == nil {
			layer.Readings = map[string]string{}
		}
		for id, text := range good {
			layer.Readings[id] = text
		}
		return nil
	})
	if err != nil {
		return err
	}
	return s.answerPatch(c, p)
}

// pasteNotes guesses what notes mean.
func (s *Server) pasteNotes(c *echo.Context) error {
	b, err := body[Notes](c)
	if err != nil {
		return err
	}
	pl, err := s.layer(c)
	if err != nil {
		return err
	}
	if len(b.Notes) > paste.MaxNotes {
		return badRequest{fmt.Errorf("expected notes of at most %d kB", paste.MaxNotes>>10)}
	}
	return c.JSON(http.StatusOK, paste.Read(pl.panel, b.Notes))
}

func (s *Server) readingDrop(c *echo.Context) error {
	pl, err := s.place(c)
	if err != nil {
		return err
	}
	return s.storeReading(c, pl, "")
}

func (s *Server) readingStep(c *echo.Context) error {
	b, err := body[Step](c)
	if err != nil {
		return err
	}
	pl, err := s.place(c)
	if err != nil {
		return err
	}
	at := pl.panel.Init(pl.control)
	if text, ok := pl.patch.Layers[pl.layer].Readings[pl.id()]; ok {
		if at, err = pl.panel.Parse(pl.control, text); err != nil {
			return badRequest{err}
		}
	}
	f := &pl.panel.Controls[pl.control].Face
	if f.Len() == 0 {
		return badRequest{errors.New("a text has no steps")}
	}
	i := at.Index
	if i < 0 { // between two places: the first step goes to the nearest
		i = f.Nearest(at.Travel).Index
	}
	return s.storeReading(c, pl, f.At(i+b.By).Reading)
}

func (s *Server) readingTry(c *echo.Context) error {
	pl, err := s.place(c)
	if err != nil {
		return err
	}
	pos, err := pl.panel.Parse(pl.control, strings.TrimSpace(c.QueryParam("text")))
	if err != nil {
		return badRequest{err}
	}
	pl.put(pl.patch, pos.Reading)
	sheet, err := translate.Translate(pl.panel, pl.patch, pl.panel, translate.Options{Layer: c.Param("layer")})
	if err != nil {
		return err
	}
	for i := range sheet.Glosses {
		for _, l := range patchLines(pl.panel, &sheet.Glosses[i]) {
			if l.Control == pl.id() {
				return c.JSON(http.StatusOK, l)
			}
		}
	}
	return store.ErrNotFound
}

func (s *Server) patchHead(c *echo.Context) error {
	b, err := body[PatchHead](c)
	if err != nil {
		return err
	}
	p, err := s.store.ChangePatch(c.Param("id"), "change the head of "+b.Name, func(p *patch.Patch) error {
		p.Name, p.Kind, p.Tempo, p.Tags, p.Notes, p.Wheel = strings.TrimSpace(b.Name), b.Kind, b.Tempo, b.Tags, b.Notes, b.Wheel
		if l := p.Check(); len(l) > 0 {
			return l
		}
		return nil
	})
	if err != nil {
		return err
	}
	return s.answerPatch(c, p)
}

func (s *Server) patchCopy(c *echo.Context) error {
	p, err := s.patch(c.Param("id"))
	if err != nil {
		return err
	}
	p.Name += " (copy)"
	return s.newPatch(c, p)
}

func (s *Server) patchBlank(c *echo.Context) error {
	b, err := body[NewPatch](c)
	if err != nil {
		return err
	}
	on, err := s.compiled(b.Panel, 0)
	if err != nil {
		return err
	}
	return s.newPatch(c, &patch.Patch{Format: patch.Format, Version: patch.Version, Name: strings.TrimSpace(b.Name), Panel: on.ID, PanelRevision: on.Revision, Kind: b.Kind,
		Layers: []patch.Layer{{ID: "a", Readings: map[string]string{}}}})
}

var notID = regexp.MustCompile(`[^a-z0-9]+`)

// newPatch stores a patch under an id made from its name.
func (s *Server) newPatch(c *echo.Context, p *patch.Patch) error {
	id, err := freeID(p.Name, "patch", func(id string) error { _, err := s.store.Patch(id); return err })
	if err != nil {
		return err
	}
	p.ID = id
	if l := p.Check(); len(l) > 0 {
		return l
	}
	if err := s.store.PutPatch(p); err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, s.patchRow(p))
}
