package server

import (
	"bytes"
	"context"
	"errors"
	"time"

	"glossator/core/audition"
	"glossator/core/build"
	"glossator/core/patch"
	"glossator/core/sampled"
	"glossator/core/synth"
	"glossator/formats/sfz"
)

// samplesWeight is what making samples takes of the queue: it keeps two cores busy for some seconds.
const samplesWeight = 2

type patchSamplesRequest struct {
	ID    string `path:"id"`
	Layer string `query:"layer"`
}

// patchSamples gives a patch as an instrument of samples (SFZ in a ZIP).
func (s *Server) patchSamples(ctx context.Context, in patchSamplesRequest) (none File[None], err error) {
	p, src, err := s.patchOn(in.ID)
	if err != nil {
		return none, err
	}
	layers, err := audition.Layers(src, p, in.Layer)
	if err != nil {
		return none, badRequest{err}
	}
	return s.samplesOf(ctx, p, p.ID, p.Name, layers)
}

// sheetSamples gives the target of a sheet as it is set as an instrument of samples.
func (s *Server) sheetSamples(ctx context.Context, in ofSheet) (none File[None], err error) {
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	x, err := s.sides(j, nil, false)
	if err != nil {
		return none, err
	}
	return s.samplesOf(ctx, j.patch, j.row.Patch+"-on-"+j.row.Target, j.patch.Name+" on "+j.dst.Name, x.target)
}

func (s *Server) samplesOf(ctx context.Context, p *patch.Patch, file, name string, layers []synth.Layer) (none File[None], err error) {
	low, high := sampled.Range(p)
	var b bytes.Buffer
	err = s.queue.runAs(ctx, samplesWeight, nil, func() error {
		set, err := sampled.Make(sampled.Task{Name: name, Layers: layers, Low: low, High: high, Wheel: p.Wheel, Seed: 1, Stop: func() bool { return ctx.Err() != nil }})
		if err != nil {
			return err
		}
		files, err := sfz.Files(build.Slug(name), set)
		if err != nil {
			return err
		}
		return sfz.Zip(&b, files, time.Now())
	})
	if errors.Is(err, synth.ErrNothing) {
		return none, badRequest{errors.New("it is silent: there is nothing to sample")}
	}
	if err != nil {
		return none, err
	}
	return download(file+".sfz.zip", "application/zip", b.Bytes())
}
