package server

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"glossator/core/fault"
	"glossator/core/panel"
	"glossator/core/paste"
	"glossator/core/patch"
	"glossator/core/quantity"
	"glossator/core/scale"
	"glossator/core/translate"
	"glossator/store"
)

// Step asks for a reading so many of the face's steps further.
type Step struct {
	By int `json:"by"`
}

// Notes are free notes about a patch.
type Notes struct {
	Notes string `json:"notes"`
}

// ReadingsBody carries several readings, by control.
type ReadingsBody struct {
	Readings map[string]string `json:"readings"`
}

// ReadingBody carries a reading as it is typed.
type ReadingBody struct {
	Reading string `json:"reading"`
}

// place is a control of a layer of a stored patch, as a request names it.
type place struct {
	patch   *patch.Patch
	panel   *panel.Compiled
	layer   int
	control int
}

func (s *Server) place(patch, layer, control string) (*place, error) {
	pl, err := s.layer(patch, layer)
	if err != nil {
		return nil, err
	}
	k, ok := pl.panel.ControlIndex(control)
	if !ok {
		return nil, store.ErrNotFound
	}
	pl.control = k
	return pl, nil
}

// layer finds the layer of a request.
func (s *Server) layer(id, layer string) (*place, error) {
	p, on, err := s.patchOn(id)
	if err != nil {
		return nil, err
	}
	pl := &place{patch: p, panel: on, layer: -1}
	for i := range p.Layers {
		if p.Layers[i].ID == layer {
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
func (pl *place) put(p *patch.Patch, reading string) error {
	i, err := layerIn(p, pl.patch.Layers[pl.layer].ID) // by its id: layers may have come and gone since
	if err != nil {
		return err
	}
	layer := &p.Layers[i]
	if layer.Readings == nil {
		layer.Readings = map[string]string{}
	}
	if reading == "" {
		delete(layer.Readings, pl.id())
		return nil
	}
	layer.Readings[pl.id()] = reading
	return nil
}

// storeReading writes a reading and answers with the patch.
func (s *Server) storeReading(ctx context.Context, pl *place, reading string) (none PatchView, err error) {
	label := pl.panel.Controls[pl.control].Label
	what := fmt.Sprintf("%s: %s to %s", pl.patch.Name, label, reading)
	if reading == "" {
		what = fmt.Sprintf("%s: %s to init", pl.patch.Name, label)
	}
	p, err := s.store.On(ctx).ChangePatch(pl.patch.ID, what, func(p *patch.Patch) error { return pl.put(p, reading) }, s.fits)
	if err != nil {
		return none, err
	}
	return s.answerPatch(p)
}

type readingSetRequest struct {
	ID      string `path:"id"`
	Layer   string `path:"layer"`
	Control string `path:"control"`
	Body    ReadingBody
}

func (s *Server) readingSet(ctx context.Context, in readingSetRequest) (none PatchView, err error) {
	b := in.Body
	pl, err := s.place(in.ID, in.Layer, in.Control)
	if err != nil {
		return none, err
	}
	pos, err := pl.panel.Parse(pl.control, strings.TrimSpace(b.Reading))
	if err != nil {
		return none, badRequest{err}
	}
	return s.storeReading(ctx, pl, pos.Reading)
}

type readingsSetRequest struct {
	ID    string `path:"id"`
	Layer string `path:"layer"`
	Body  ReadingsBody
}

// readingsSet sets several readings at once, all or none.
func (s *Server) readingsSet(ctx context.Context, in readingsSetRequest) (none PatchView, err error) {
	b := in.Body
	pl, err := s.layer(in.ID, in.Layer)
	if err != nil {
		return none, err
	}
	if len(b.Readings) == 0 {
		return none, badRequest{errors.New("expected at least one reading")}
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
		return none, err
	}
	p, err := s.store.On(ctx).ChangePatch(pl.patch.ID, fmt.Sprintf("%s: %d readings", pl.patch.Name, len(good)), func(p *patch.Patch) error {
		i, err := layerIn(p, in.Layer)
		if err != nil {
			return err
		}
		layer := &p.Layers[i]
		if layer.Readings == nil {
			layer.Readings = map[string]string{}
		}
		for id, text := range good {
			layer.Readings[id] = text
		}
		return nil
	}, s.fits)
	if err != nil {
		return none, err
	}
	return s.answerPatch(p)
}

type pasteNotesRequest struct {
	ID    string `path:"id"`
	Layer string `path:"layer"`
	Body  Notes
}

// pasteNotes guesses what notes mean.
func (s *Server) pasteNotes(ctx context.Context, in pasteNotesRequest) (none paste.Result, err error) {
	b := in.Body
	pl, err := s.layer(in.ID, in.Layer)
	if err != nil {
		return none, err
	}
	if len(b.Notes) > paste.MaxNotes {
		return none, badRequest{fmt.Errorf("expected notes of at most %d kB", paste.MaxNotes>>10)}
	}
	return paste.Read(pl.panel, b.Notes), nil
}

func (s *Server) readingDrop(ctx context.Context, in ofReading) (none PatchView, err error) {
	pl, err := s.place(in.ID, in.Layer, in.Control)
	if err != nil {
		return none, err
	}
	return s.storeReading(ctx, pl, "")
}

type readingStepRequest struct {
	ID      string `path:"id"`
	Layer   string `path:"layer"`
	Control string `path:"control"`
	Body    Step
}

func (s *Server) readingStep(ctx context.Context, in readingStepRequest) (none PatchView, err error) {
	b := in.Body
	pl, err := s.place(in.ID, in.Layer, in.Control)
	if err != nil {
		return none, err
	}
	at := pl.panel.Init(pl.control)
	if text, ok := pl.patch.Layers[pl.layer].Readings[pl.id()]; ok {
		if at, err = pl.panel.Parse(pl.control, text); err != nil {
			return none, badRequest{err}
		}
	}
	f := &pl.panel.Controls[pl.control].Face
	if f.Len() == 0 {
		return none, badRequest{errors.New("a text has no steps")}
	}
	i := at.Index
	if i < 0 { // between two places: the first step goes to the nearest
		i = f.Nearest(at.Travel).Index
	}
	return s.storeReading(ctx, pl, f.At(i+b.By).Reading)
}

// loosely tells whether a reading is said otherwise than the face shows it: in words, from where to where, by the clock on what is no clock.
func loosely(reading string, f *scale.Face) bool {
	e, err := quantity.Parse(reading)
	return err != nil || e.Form == quantity.FormWord || e.Form == quantity.FormClock && f.Kind != scale.Clock
}

type readingTryRequest struct {
	ID      string `path:"id"`
	Layer   string `path:"layer"`
	Control string `path:"control"`
	Text    string `query:"text"`
}

func (s *Server) readingTry(ctx context.Context, in readingTryRequest) (none PatchLine, err error) {
	pl, err := s.place(in.ID, in.Layer, in.Control)
	if err != nil {
		return none, err
	}
	pos, err := pl.panel.Parse(pl.control, strings.TrimSpace(in.Text))
	if err != nil {
		return none, badRequest{err}
	}
	pl.put(pl.patch, pos.Reading)
	sheet, err := translate.Translate(pl.panel, pl.patch, pl.panel, translate.Options{Layer: in.Layer})
	if err != nil {
		return none, err
	}
	for i := range sheet.Glosses {
		for _, l := range patchLines(pl.panel, &sheet.Glosses[i]) {
			if l.Control == pl.id() {
				if f := &pl.panel.Controls[pl.control].Face; pos.Index < 0 && f.Len() > 0 && loosely(pos.Reading, f) {
					l.Near = f.Nearest(pos.Travel).Reading
				}
				return l, nil
			}
		}
	}
	return none, store.ErrNotFound
}

// TasteBody tells whether a reading is to taste.
type TasteBody struct {
	Taste bool `json:"taste"`
}

type tasteRequest struct {
	ID      string `path:"id"`
	Layer   string `path:"layer"`
	Control string `path:"control"`
	Body    TasteBody
}

// tasteSet says of a reading that it is to taste, or that it is not.
func (s *Server) tasteSet(ctx context.Context, in tasteRequest) (none PatchView, err error) {
	pl, err := s.place(in.ID, in.Layer, in.Control)
	if err != nil {
		return none, err
	}
	what := fmt.Sprintf("%s: %s is to taste", pl.patch.Name, pl.panel.Controls[pl.control].Label)
	if !in.Body.Taste {
		what = fmt.Sprintf("%s: %s is not to taste", pl.patch.Name, pl.panel.Controls[pl.control].Label)
	}
	return s.changePatch(ctx, in.ID, what, func(p *patch.Patch) error {
		i := slices.IndexFunc(p.Layers, func(y patch.Layer) bool { return y.ID == in.Layer })
		if i < 0 {
			return store.ErrNotFound
		}
		y := &p.Layers[i]
		y.Taste = slices.DeleteFunc(y.Taste, func(id string) bool { return id == in.Control })
		if in.Body.Taste {
			y.Taste = append(y.Taste, in.Control)
		}
		if len(y.Taste) == 0 {
			y.Taste = nil
		}
		return nil
	})
}
