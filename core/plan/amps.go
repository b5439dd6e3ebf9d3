package plan

import (
	"slices"

	"glossator/core/meaning"
	"glossator/core/rules"
)

// wrongAmp is the share of what a source of sound is worth that is lost where it goes through an amplifier that plays the one of another line: it has that line's envelope.
const wrongAmp = 0.6

// findAmps lists through which amplifiers each source of sound of the target goes however it is set, where there are several.
func (t *Target) findAmps() {
	amps := t.ofKind[meaning.Amp]
	if len(amps) < 2 {
		return
	}
	var m meaning.Meaning
	for _, e := range t.Audio {
		if len(e.When) == 0 {
			m.Audio = append(m.Audio, meaning.Edge{From: e.From, To: e.To})
		}
	}
	t.through = map[int][]int{}
	for j := range t.Modules {
		for _, k := range amps {
			if sounding(t.Modules[j].Kind) && m.Leads(t.Modules[j].ID, t.Modules[k].ID) {
				t.through[j] = append(t.through[j], k)
			}
		}
	}
}

// inLine is a source of sound and the amplifier of a line, by their places: of its own, or of another. click is set where it makes a click of what goes through it.
type inLine struct {
	source, amp int
	own, click  bool
}

// prepareLines lists them, where the source has several amplifiers that something opens.
func (s *moduleSearch) prepareLines() {
	if len(s.src.Audio) == 0 {
		return
	}
	type line struct {
		amp   int
		click bool
	}
	var opened []line
	for a, i := range s.mods {
		amp := &s.src.Modules[i]
		if amp.Kind != meaning.Amp {
			continue
		}
		k := slices.IndexFunc(s.src.Routes, func(r meaning.Route) bool {
			return r.Used() && slices.Contains(r.To, meaning.Ref(amp.ID, meaning.PLevel)) && s.src.Opens(&r)
		})
		if k < 0 {
			continue
		}
		env := s.src.Module(s.src.Routes[k].From)
		opened = append(opened, line{a, env != nil && env.Kind == meaning.Env && rules.Clicks(env)})
	}
	if len(opened) < 2 {
		return
	}
	for _, x := range opened {
		for p, k := range s.mods {
			if m := &s.src.Modules[k]; source(m) {
				s.lines = append(s.lines, inLine{p, x.amp, s.src.Leads(m.ID, s.src.Modules[s.mods[x.amp]].ID), x.click})
			}
		}
	}
}

// misled gives what it costs that sources go through the amplifier of another line in the assignment as it stands, or that their own has no place: a click that goes on is
// worse than none.
func (s *moduleSearch) misled() float64 {
	sum := 0.0
	for _, x := range s.lines {
		j, k := s.now[x.source], s.now[x.amp]
		switch {
		case j < 0:
		case x.own && k < 0 && x.click:
			sum += s.lost[x.source] + 1
		case x.own && k < 0 || !x.own && k >= 0 && slices.Contains(s.t.through[j], k):
			sum += wrongAmp * s.lost[x.source]
		}
	}
	return sum
}
