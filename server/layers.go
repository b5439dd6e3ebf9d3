package server

import (
	"context"
	"errors"
	"strings"

	"glossator/core/patch"
	"glossator/store"
)

// layerIn finds the layer of a request in a patch.
func layerIn(p *patch.Patch, id string) (int, error) {
	for i := range p.Layers {
		if p.Layers[i].ID == id {
			return i, nil
		}
	}
	return -1, store.ErrNotFound
}

type layerAddRequest struct {
	ID   string `path:"id"`
	Body NewLayer
}

func (s *Server) layerAdd(ctx context.Context, in layerAddRequest) (none PatchView, err error) {
	b := in.Body
	return s.changePatch(ctx, in.ID, "add a layer", func(p *patch.Patch) error {
		if len(p.Layers) >= 8 {
			return badRequest{errors.New("expected at most 8 layers")}
		}
		l := patch.Layer{Label: strings.TrimSpace(b.Label), Readings: map[string]string{}}
		if b.Like != "" {
			i, err := layerIn(p, b.Like)
			if err != nil {
				return err
			}
			for id, r := range p.Layers[i].Readings {
				l.Readings[id] = r
			}
			l.Cables = append(l.Cables, p.Layers[i].Cables...)
		}
		for n := range 26 {
			l.ID = string(rune('a' + n))
			if _, err := layerIn(p, l.ID); err != nil {
				break
			}
		}
		p.Layers = append(p.Layers, l)
		return nil
	})
}

type layerSetRequest struct {
	ID    string `path:"id"`
	Layer string `path:"layer"`
	Body  LayerHead
}

func (s *Server) layerSet(ctx context.Context, in layerSetRequest) (none PatchView, err error) {
	b := in.Body
	return s.changePatch(ctx, in.ID, "change layer "+in.Layer, func(p *patch.Patch) error {
		i, err := layerIn(p, in.Layer)
		if err != nil {
			return err
		}
		l := &p.Layers[i]
		l.Label, l.Transpose, l.Level = strings.TrimSpace(b.Label), strings.TrimSpace(b.Transpose), strings.TrimSpace(b.Level)
		return nil
	})
}

func (s *Server) layerDrop(ctx context.Context, in ofLayer) (none PatchView, err error) {
	return s.changePatch(ctx, in.ID, "delete layer "+in.Layer, func(p *patch.Patch) error {
		i, err := layerIn(p, in.Layer)
		if err != nil {
			return err
		}
		if len(p.Layers) == 1 {
			return badRequest{errors.New("a patch keeps at least one layer")}
		}
		p.Layers = append(p.Layers[:i], p.Layers[i+1:]...)
		return nil
	})
}

type cablesSetRequest struct {
	ID    string `path:"id"`
	Layer string `path:"layer"`
	Body  Cables
}

// cablesSet plugs the cables of a layer, all at once.
func (s *Server) cablesSet(ctx context.Context, in cablesSetRequest) (none PatchView, err error) {
	b := in.Body
	return s.changePatch(ctx, in.ID, "plug cables", func(p *patch.Patch) error {
		i, err := layerIn(p, in.Layer)
		if err != nil {
			return err
		}
		p.Layers[i].Cables = b.Cables
		return nil
	})
}

// NewLayer asks for a layer, like another one or at init.
type NewLayer struct {
	Label string `json:"label"`
	Like  string `json:"like,omitempty"`
}

// LayerHead is what is written about a layer.
type LayerHead struct {
	Label     string `json:"label"`
	Transpose string `json:"transpose"`
	Level     string `json:"level"`
}

// Cables are all the cables of a layer.
type Cables struct {
	Cables []patch.Cable `json:"cables"`
}
