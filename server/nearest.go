package server

import (
	"context"
	"errors"

	"glossator/core/audition"
	"glossator/core/gloss"
	"glossator/core/heard"
	"glossator/core/meaning"
	"glossator/core/nearest"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/translate"
)

// tuned finds what a sheet by ear is made with: the plan that sounds nearest, and where its controls are brought. It is kept by content, so that a pair that has
// been listened to opens at once.
func (s *Server) tuned(ctx context.Context, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, layer string) (*plan.Tuned, error) {
	return s.tunedWith(ctx, src, p, dst, translate.Options{Layer: layer})
}

// tunedWith is tuned with a rack behind the target, where the options have one.
func (s *Server) tunedWith(ctx context.Context, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt translate.Options) (*plan.Tuned, error) {
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		return nil, err
	}
	rack := ""
	if opt.Rack != nil {
		rack = hashOf(opt.Rack.Panel)
	}
	return cached(s.cache, "tuned", hashOf(engineVersion, src.Panel, dst.Panel, p.Layers, p.Kind, p.Tempo, notes, p.Wheel, opt.Layer, rack), func() (out *plan.Tuned, err error) {
		err = s.queue.run(ctx, func() error {
			out, err = nearest.Find(nearest.Task{Source: src, Target: dst, Patch: p, Options: opt, Notes: notes, Stop: func() bool { return ctx.Err() != nil }})
			return err
		})
		if err == nil && ctx.Err() != nil {
			err = ctx.Err()
		}
		return out, err
	})
}

// listened is what listening to a translation has shown, kept by what it is made from; with lines, how much each line is heard is among it.
func (s *Server) listened(ctx context.Context, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt translate.Options, lines bool) (*heard.Report, error) {
	opt.Ears = nil // sound is measured by the published differences
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		return nil, err
	}
	var rack *panel.Panel
	if opt.Rack != nil {
		rack = opt.Rack.Panel
	}
	key := hashOf(engineVersion, src.Panel, p, dst.Panel, opt.School, opt.Layer, opt.Overrides, opt.Choices, opt.Heard, rack, lines)
	return cached(s.cache, "listened", key, func() (out *heard.Report, err error) {
		err = s.queue.run(ctx, func() error {
			in, sheet, err := translate.Made(src, p, dst, opt)
			if err != nil {
				return err
			}
			t := heard.Task{In: in, Sheet: sheet, Notes: notes, Lines: lines, Held: lines, Stop: func() bool { return ctx.Err() != nil }}
			if opt.Rack != nil && sheet.Rig != nil {
				t.Rack = func(m *meaning.Meaning) (*meaning.Meaning, error) {
					return audition.WithRack(m, opt.Rack, sheet.Rig, m.Tempo)
				}
			}
			out, err = heard.Of(t)
			return err
		})
		if err == nil && ctx.Err() != nil {
			err = ctx.Err()
		}
		return out, err
	})
}

// sheetHeard answers for a sheet by listening.
func (s *Server) sheetHeard(ctx context.Context, in ofSheet) (none heard.Report, err error) {
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	r, err := s.listened(ctx, j.src, j.patch, j.dst, j.options(), true)
	if err != nil {
		return none, err
	}
	return *r, nil
}

// TargetHeard is how far a patch is from its translation by ear.
type TargetHeard struct {
	Target   string  `json:"target"`
	Apart    float64 `json:"apart"`
	Unsure   float64 `json:"unsure"`
	Silent   string  `json:"silent"`
	Headline string  `json:"headline"`
	// Clean tells whether the lines tell the whole difference.
	Clean bool `json:"clean"`
}

type targetHeardRequest struct {
	ID     string `path:"id"`
	Target string `path:"target"`
}

// targetHeard makes a patch by ear on a target, and listens to it; nothing is stored.
func (s *Server) targetHeard(ctx context.Context, in targetHeardRequest) (none TargetHeard, err error) {
	p, src, err := s.patchOn(in.ID)
	if err != nil {
		return none, err
	}
	dst, err := s.compiled(in.Target, 0)
	if err != nil {
		return none, err
	}
	if dst.Kind != "instrument" {
		return none, badRequest{errors.New("expected an instrument: a rack makes no sound of its own")}
	}
	tuned, err := s.tuned(ctx, src, p, dst, "")
	if err != nil {
		return none, err
	}
	r, err := s.listened(ctx, src, p, dst, translate.Options{School: plan.Ear, Choices: plan.Choices{Tuned: tuned}}, false)
	if err != nil {
		return none, err
	}
	out := TargetHeard{Target: dst.ID, Apart: gloss.Round(r.Apart.Total, 1), Unsure: r.Unsure, Silent: r.Silent, Headline: r.Headline, Clean: true}
	for _, c := range r.Checks {
		out.Clean = out.Clean && c.OK
	}
	return out, nil
}
