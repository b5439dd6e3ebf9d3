package phrase

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"glossator/core/patch"
	q "glossator/core/quantity"
)

// Point is where something stands at a time: At in seconds.
type Point struct{ At, Value float64 }

// Gesture is how something goes through a phrase: straight from point to point, and on at the last one. Before the first it stands where that does. Two points of one time are a jump.
type Gesture struct {
	What   string
	Points []Point
}

// Value gives where it stands at a time, in seconds; at a jump where it goes to.
func (g *Gesture) Value(at float64) float64 {
	p := g.Points
	i := sort.Search(len(p), func(i int) bool { return p[i].At > at })
	switch {
	case len(p) == 0:
		return 0
	case i == 0:
		return p[0].Value
	case i == len(p):
		return p[i-1].Value
	}
	a, b := p[i-1], p[i]
	return a.Value + (b.Value-a.Value)*(at-a.At)/(b.At-a.At)
}

// Moved is a move laid out: in whole notes from the beginning.
type Moved struct {
	*patch.Move
	Index      int // its place in the phrase
	Start, End float64
}

// Moves lays the moves of a phrase out in order of time; those that begin together stay in their order. A move that cannot be read is an error that names it.
func Moves(p *patch.Phrase) ([]Moved, error) {
	if p == nil {
		return nil, nil
	}
	var out []Moved
	for i := range p.Moves {
		m := &p.Moves[i]
		at, err := Value(m.At)
		if err != nil {
			return nil, fmt.Errorf("move %d: %w", i+1, err)
		}
		length, err := Value(m.For)
		if err != nil {
			return nil, fmt.Errorf("move %d: %w", i+1, err)
		}
		out = append(out, Moved{m, i, at, at + length})
	}
	sort.SliceStable(out, func(a, b int) bool { return out[a].Start < out[b].Start })
	return out, nil
}

// Seconds gives a place in whole notes as a time.
func Seconds(whole float64, tempo q.Tempo) float64 { return float64(q.Beats(4 * whole).At(tempo)) }

// Join makes a gesture of stretches in order of time, each from one value to another: it begins at rest, and jumps where a stretch begins elsewhere than the one before ended. A stretch ends
// where the next one begins.
func Join(what string, rest float64, stretches []Stretch) Gesture {
	g := Gesture{What: what, Points: []Point{{0, rest}}}
	now := rest
	put := func(at, v float64) {
		g.Points = append(g.Points, Point{at, v})
		now = v
	}
	for i, s := range stretches {
		if last := g.Points[len(g.Points)-1].At; s.From.At > last || now != s.From.Value {
			put(s.From.At, now)
			if now != s.From.Value {
				put(s.From.At, s.From.Value)
			}
		}
		to := s.To
		if i+1 < len(stretches) && stretches[i+1].From.At < to.At {
			cut := stretches[i+1].From.At
			share := 1.0
			if to.At > s.From.At {
				share = math.Max(0, (cut-s.From.At)/(to.At-s.From.At))
			}
			to = Point{math.Max(cut, s.From.At), s.From.Value + share*(to.Value-s.From.Value)}
		}
		put(to.At, to.Value)
	}
	return g
}

// Stretch is a part of a gesture.
type Stretch struct{ From, To Point }

// Played gives how the player's means go through a phrase, by their names, in the order of patch.PlayersMeans: the wheel from where it is held (0 to 1), the others from rest. Of those that are not moved
// there is none.
func Played(p *patch.Phrase, tempo q.Tempo, wheel float64) ([]Gesture, error) {
	moves, err := Moves(p)
	if err != nil {
		return nil, err
	}
	var out []Gesture
	for _, what := range patch.PlayersMeans {
		var list []Stretch
		for _, m := range moves {
			if m.What != what {
				continue
			}
			from, err := share(m.From)
			if err != nil {
				return nil, fmt.Errorf("move %d: %w", m.Index+1, err)
			}
			to, err := share(m.To)
			if err != nil {
				return nil, fmt.Errorf("move %d: %w", m.Index+1, err)
			}
			list = append(list, Stretch{Point{Seconds(m.Start, tempo), from}, Point{Seconds(m.End, tempo), to}})
		}
		if len(list) == 0 {
			continue
		}
		rest := 0.0
		if what == "wheel" {
			rest = wheel
		}
		out = append(out, Join(what, rest, list))
	}
	return out, nil
}

func share(text string) (float64, error) {
	e, err := q.Parse(text)
	if err != nil || e.Form != q.FormPercent {
		return 0, fmt.Errorf("expected per cent of the way, got %q", text)
	}
	return e.Value, nil
}

// held lets notes that end while the hold pedal is down (at half its way or more: MIDI 1.0, controller 64 from 64 on) ring on until it comes up, or until their key is struck again.
func held(p *patch.Phrase, notes []laid) ([]laid, error) {
	if !slices.ContainsFunc(p.Moves, func(m patch.Move) bool { return m.What == patch.Hold }) {
		return notes, nil
	}
	all, err := Played(p, 240, 0) // a whole note is a second
	if err != nil {
		return nil, err
	}
	hold := &all[slices.IndexFunc(all, func(g Gesture) bool { return g.What == patch.Hold })]
	for i := range notes {
		n := &notes[i]
		if hold.Value(n.end) < 0.5 {
			continue
		}
		up := n.end
		for k := 1; k < len(hold.Points); k++ { // the first place after the end where it comes up through its half
			a, b := hold.Points[k-1], hold.Points[k]
			if b.At < n.end || b.Value >= 0.5 {
				continue
			}
			up = b.At
			if a.Value > 0.5 && b.At > a.At {
				up = a.At + (b.At-a.At)*(a.Value-0.5)/(a.Value-b.Value)
			}
			break
		}
		if up <= n.end { // it stays down: to the end of the phrase
			for _, o := range notes {
				up = math.Max(up, o.end)
			}
		}
		for k := range notes {
			if notes[k].key == n.key && notes[k].at >= n.end && notes[k].at < up {
				up = notes[k].at
			}
		}
		n.end = math.Max(n.end, up)
	}
	return notes, nil
}

// Bars says when something is, in bars of four quarters: "bar 3", "bars 2 to 4", "bar 1, beat 3", "bar 1, beat 3 to bar 2". Bars and beats count from 1; what ends with a bar ends there.
func Bars(start, end float64) string {
	place := func(whole float64) (bar int, beat float64) {
		bar = int(math.Floor(whole + 1e-9))
		return bar + 1, 4*(whole-float64(bar)) + 1
	}
	name := func(bar int, beat float64) string {
		if math.Abs(beat-1) < 1e-6 {
			return fmt.Sprintf("bar %d", bar)
		}
		return fmt.Sprintf("bar %d, beat %s", bar, q.Number(beat, 4))
	}
	a, at := place(start)
	b, to := place(end)
	switch {
	case end-start < 1e-9:
		return name(a, at)
	case math.Abs(at-1) < 1e-6 && math.Abs(to-1) < 1e-6 && b == a+1:
		return fmt.Sprintf("bar %d", a)
	case math.Abs(at-1) < 1e-6 && math.Abs(to-1) < 1e-6:
		return fmt.Sprintf("bars %d to %d", a, b-1)
	}
	if a == b {
		return fmt.Sprintf("bar %d, beats %s to %s", a, q.Number(at, 4), q.Number(to, 4))
	}
	return name(a, at) + " to " + name(b, to)
}
