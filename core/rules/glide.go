package rules

import (
	"fmt"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var glide = Rule{ID: "glide", Name: "Glide by another law, or at other times",
	Needs: "a glide whose law or mode the target has not", Uses: "the glide time of the target",
	Penalty: 0.1, Why: "intervals other than an octave take another time, or notes glide that did not", Source: "arithmetic: a constant rate takes n/12 of the time of an octave for n semitones",
	says: func(l *Line) string {
		if l.From == nil || l.To == nil {
			return ""
		}
		there, here := named(l.From, l.Param.Name), named(l.To, l.Param.Name)
		switch {
		case there == here || off(l.From, meaning.PGlide):
			return ""
		case l.Param.Name == meaning.PGlideLaw && here == "rate":
			t := get(l.From, meaning.PGlide)
			return fmt.Sprintf("alike over an octave: a fifth takes %s here, %s there", text(q.DimDuration, t*7/12), text(q.DimDuration, t))
		case l.Param.Name == meaning.PGlideLaw && there == "rate":
			t := get(l.From, meaning.PGlide)
			return fmt.Sprintf("alike over an octave: a fifth takes %s here, %s there", text(q.DimDuration, t), text(q.DimDuration, t*7/12))
		case l.Param.Name == meaning.PGlideWhen && there == "legato":
			return "it glides between all notes here: set the glide to none for those that are to start plainly"
		case l.Param.Name == meaning.PGlideWhen:
			return "it glides between tied notes only here: play them over one another"
		}
		return ""
	}}
