package smf

import (
	"math"

	"glossator/core/patch"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

// MaxMoves is the most moves of a phrase that are read.
const MaxMoves = 500

// The controllers of the player's means (MIDI 1.0, table of controllers).
var controllers = map[string]byte{"wheel": 1, "breath": 2, "pedal": 4, patch.Hold: 64}

// stretch is how far apart, in ticks, the events of a move are written: a 1/64 note.
const stretch = Ticks / 16

// event gives the message that puts one of the player's means at a share of its way.
func event(what string, at int64, v float64) Event {
	switch what {
	case "bend":
		n := int(math.Round(8192 + v*8192))
		n = min(max(n, 0), 16383)
		return Event{Tick: at, Status: 0xE0, Data: []byte{byte(n & 0x7F), byte(n >> 7)}}
	case "aftertouch":
		return Event{Tick: at, Status: 0xD0, Data: []byte{byte(math.Round(127 * min(max(v, 0), 1)))}}
	}
	return Event{Tick: at, Status: 0xB0, Data: []byte{controllers[what], byte(math.Round(127 * min(max(v, 0), 1)))}}
}

// movesOf gives the events of what the player moves: each change of value once, at most every 1/64 note. Moves of controls are not among them: their addresses are the instrument's.
func movesOf(p *patch.Phrase) (out []Event, err error) {
	all, err := phrase.Played(p, 240, 0) // a whole note is a second
	if err != nil {
		return nil, err
	}
	for i := range all {
		g := &all[i]
		tick := func(at float64) int64 { return int64(math.Round(at * 4 * Ticks)) }
		var last []byte
		put := func(at int64, v float64) {
			e := event(g.What, at, v)
			if string(e.Data) == string(last) {
				return
			}
			if n := len(out); n > 0 && out[n-1].Tick == at && out[n-1].Status == e.Status && (e.Status != 0xB0 || out[n-1].Data[0] == e.Data[0]) {
				out = out[:n-1] // the later of two at one time counts
			}
			last = e.Data
			out = append(out, e)
		}
		for k := 1; k < len(g.Points); k++ {
			a, b := g.Points[k-1], g.Points[k]
			for t := tick(a.At); t < tick(b.At) && a.Value != b.Value; t += stretch {
				put(t, a.Value+(b.Value-a.Value)*(float64(t)/(4*Ticks)-a.At)/(b.At-a.At))
			}
			put(tick(b.At), b.Value)
		}
	}
	return out, nil
}

// mover is one of the player's means through a file.
type mover struct {
	what string
	at   []int64
	v    []float64
}

// movers gathers what the player moves in a file, in the order of patch.PlayersMeans.
func (f *File) movers() []mover {
	found := map[string]*mover{}
	take := func(what string, at int64, v float64) {
		m := found[what]
		if m == nil {
			m = &mover{what: what}
			found[what] = m
		}
		if n := len(m.at); n > 0 && m.at[n-1] == at {
			m.v[n-1] = v
			return
		}
		m.at, m.v = append(m.at, at), append(m.v, v)
	}
	for _, e := range f.merged() {
		switch e.Status & 0xF0 {
		case 0xE0:
			n := int(e.Data[0]) | int(e.Data[1])<<7
			v := float64(n-8192) / 8192
			if n == 16383 {
				v = 1
			}
			take("bend", e.Tick, v)
		case 0xD0:
			take("aftertouch", e.Tick, float64(e.Data[0])/127)
		case 0xB0:
			for what, cc := range controllers {
				if e.Data[0] == cc {
					take(what, e.Tick, float64(e.Data[1])/127)
				}
			}
		}
	}
	var out []mover
	for _, what := range patch.PlayersMeans {
		m := found[what]
		if m == nil {
			continue
		}
		moves := false
		for _, v := range m.v {
			moves = moves || v != 0
		}
		if moves { // what is only put at rest, as many files do at their beginning, is no move
			out = append(out, *m)
		}
	}
	return out
}

// shift takes away what is before the first bar: there it only comes to where it stands.
func (m *mover) shift(first int64) {
	for i := range m.at {
		m.at[i] = max(0, m.at[i]-first)
	}
}

// resolution is how near, as a share of the way, a straight line comes to what was played: half a step of seven bits.
const resolution = 0.5 / 127

// moves gives straight moves that go through what was played within resolution. A value that stands for longer than stretch before the next jumps there.
func (m *mover) moves(whole float64) (out []patch.Move) {
	text := func(v float64) string { return q.Number(math.Round(1e4*v)/100, 5) + " %" }
	add := func(from, to int64, a, b float64) {
		length := "0"
		if to > from {
			length = phrase.Text(float64(to-from) / whole)
		}
		out = append(out, patch.Move{What: m.what, At: phrase.Text(float64(from) / whole), For: length, From: text(a), To: text(b)})
	}
	gap := int64(math.Round(1.5 * stretch / (4 * Ticks) * whole))
	now := 0.0
	for i := 0; i < len(m.at); {
		// the longest straight run from here
		j := i
		for k := i + 1; k < len(m.at) && m.at[k]-m.at[k-1] <= max(gap, 1); k++ {
			straight := true
			for n := i + 1; n < k && straight; n++ {
				share := float64(m.at[n]-m.at[i]) / float64(max(1, m.at[k]-m.at[i]))
				straight = math.Abs(m.v[i]+share*(m.v[k]-m.v[i])-m.v[n]) <= 2*resolution
			}
			if !straight {
				break
			}
			j = k
		}
		if j == i {
			if m.v[i] != now {
				add(m.at[i], m.at[i], now, m.v[i])
				now = m.v[i]
			}
			i++
			continue
		}
		add(m.at[i], m.at[j], m.v[i], m.v[j])
		now = m.v[j]
		i = j
		if i == len(m.at)-1 {
			break
		}
		if m.at[i+1]-m.at[i] > max(gap, 1) {
			i++
		}
	}
	return out
}
