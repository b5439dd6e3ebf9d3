package synth

import (
	"math"
	"slices"
	"sort"

	"glossator/core/meaning"
	"glossator/core/phrase"
)

// lives works out which voice plays which note.
func (e *engine) lives(notes []phrase.Note) []life {
	var bare []life
	if e.voice.mono {
		bare = e.monoLife(notes)
	} else {
		bare = e.polyLives(notes)
	}
	chord := append([]float64{0}, e.voice.chord...)
	n := e.voice.unison
	var out []life
	for i, l := range bare {
		for c, cents := range chord {
			for u := range n {
				x := l
				x.number = uint64(i*256 + c*32 + u)
				x.offset, x.gain = cents, 1/math.Sqrt(float64(n))
				if n > 1 {
					place := float64(u)/float64(n-1) - 0.5
					x.offset += e.voice.spread * place
					x.pan = 2 * place * e.voice.width
				}
				if e.amp.spread > 0 { // voices in turn to the left and right
					x.pan += e.amp.spread * []float64{-0.5, 0.5, -1, 1, 0}[(i+c)%5]
				}
				out = append(out, x)
			}
		}
	}
	return out
}

// handed gives the notes as hands play them that make up for what the instrument has not.
func handed(h *meaning.Hands, notes []phrase.Note) []phrase.Note {
	if h == nil {
		return notes
	}
	var out []phrase.Note
	for _, n := range notes {
		n.Key += 12 * float64(h.Octaves)
		out = append(out, n)
		for _, st := range h.Chord {
			with := n
			with.Key += float64(st)
			out = append(out, with)
		}
	}
	return out
}

func frameOf(seconds float64) int { return int(math.Round(seconds * Rate)) }

func (e *engine) polyLives(notes []phrase.Note) []life {
	var out []life
	release := int(e.longestRelease() * Rate)
	last := 0.0
	for i, n := range notes {
		l := life{events: []event{{at: frameOf(n.Start), on: true, key: n.Key, velocity: float64(n.Velocity) / 127, fresh: true}, {at: frameOf(n.End)}}}
		if e.voice.glide > 0 && i > 0 && last != n.Key && (!e.voice.glideLegato || n.Slide) {
			// a voice of its own that comes from the key before
			l.events = append([]event{{at: l.events[0].at, on: true, key: last, velocity: l.events[0].velocity, fresh: true}}, l.events...)
			l.events[1].fresh, l.events[1].glide = false, true
		}
		last = n.Key
		// the oldest gives way, one that has been let go first
		for {
			busy, pick := 0, -1
			for k := range out {
				off := out[k].events[len(out[k].events)-1].at
				start := out[k].events[0].at
				if out[k].stop > 0 || off+release <= l.events[0].at || start > l.events[0].at {
					continue
				}
				busy++
				freed := off <= l.events[0].at
				if pick < 0 || freed && out[pick].events[len(out[pick].events)-1].at > l.events[0].at {
					pick = k
				}
			}
			if busy < e.voice.count || pick < 0 {
				break
			}
			out[pick].stop = max(1, l.events[0].at)
		}
		out = append(out, l)
	}
	return out
}

// monoLife makes one voice of all the notes.
func (e *engine) monoLife(notes []phrase.Note) []life {
	type change struct {
		at   int
		on   bool
		note int
	}
	var all []change
	for i, n := range notes {
		all = append(all, change{frameOf(n.Start), true, i}, change{frameOf(n.End), false, i})
	}
	sort.SliceStable(all, func(a, b int) bool {
		if all[a].at != all[b].at {
			return all[a].at < all[b].at
		}
		return !all[a].on && all[b].on
	})
	var held []int
	pick := func() int {
		best := held[len(held)-1]
		for _, h := range held {
			if e.voice.priority == "low" && notes[h].Key < notes[best].Key || e.voice.priority == "high" && notes[h].Key > notes[best].Key {
				best = h
			}
		}
		return best
	}
	l := life{}
	sounding := -1
	for _, c := range all {
		if c.on {
			held = append(held, c.note)
		} else {
			held = slices.DeleteFunc(held, func(h int) bool { return h == c.note })
		}
		if len(held) == 0 {
			l.events = append(l.events, event{at: c.at})
			sounding = -1
			continue
		}
		now := pick()
		if now == sounding {
			continue
		}
		n := notes[now]
		slur := sounding >= 0
		l.events = append(l.events, event{at: c.at, on: true, key: n.Key, velocity: float64(n.Velocity) / 127, fresh: !slur || !e.voice.legato && c.on, glide: slur || !e.voice.glideLegato})
		sounding = now
	}
	return []life{l}
}
