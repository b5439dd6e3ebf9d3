package standin

import (
	"bytes"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"glossator/core/calibrate"
	"glossator/core/hear"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/quantity"
	"glossator/core/scale"
	"glossator/core/synth"
	"glossator/core/wire"
)

// What a unit adds to its sound; invented.
const (
	gain    = 0.12 // of the engine's full level of one oscillator, so that four of them are clear of clipping
	floor   = 3e-5 // of noise, about -90 dBFS
	hum     = 1e-5 // of the mains
	mains   = 50.0 // hertz
	bits    = 23   // of the converters, beside the sign
	takes   = 0.5  // minutes that a take lasts with what is done between
	warm    = 8.0  // minutes in which what it is out of tune halves nearly thrice
	outTune = 3.0  // cents, standard deviation, when cold
	longest = 60.0 // seconds that are played
)

// mostRecent is how many messages a unit remembers.
const mostRecent = 4096

// Unit is one simulated instrument. It is not safe for several goroutines.
type Unit struct {
	// Panel is what is printed on it.
	Panel *panel.Compiled
	// Number is its serial number.
	Number int

	hidden *panel.Compiled
	at     *panel.State // where its controls really stand
	hand   *rand.Rand
	tuning float64 // cents that it is out of tune when cold
	played int
	waited float64        // minutes
	recent []wire.Message // since a hand set something: an address may come in one call, and its value, or the lower half of it, in the next
	wheel  float64
	player string // which of the player's means is held all the way
}

// New gives a unit of a panel by its serial number, as it comes from its case: cold, at init.
func New(c *panel.Compiled, number int) (*Unit, error) {
	own, err := bent(c, number)
	if err != nil {
		return nil, fmt.Errorf("unit %d of %s: %w", number, c.Name, err)
	}
	return &Unit{Panel: c, Number: number, hidden: own, at: own.InitState(), hand: dice(c.Panel, number, "hand"), tuning: outTune * dice(c.Panel, number, "tuning").NormFloat64()}, nil
}

// Hand sets a control to about a reading, as a hand does: where it is read by eye it comes to stand a little off. The error says what the control takes.
func (u *Unit) Hand(control, reading string) error {
	k, ok := u.Panel.ControlIndex(control)
	if !ok {
		return fmt.Errorf("%s has no control %q", u.Panel.Name, control)
	}
	at, err := u.Panel.Parse(k, reading)
	if err != nil {
		return err
	}
	if f := u.Panel.Controls[k].Face; at.U > 0 && (f.Kind == scale.Clock || f.Kind == scale.Marks) && at.Travel > 0 && at.Travel < 1 { // at the ends there is a stop
		at.Travel = min(max(at.Travel+calibrate.HandU*at.U*u.hand.NormFloat64(), 0), 1)
		at.Index = -1
	}
	at.U = 0
	u.at.At[k], u.at.Given[k] = at, true
	u.recent = nil
	return nil
}

// Wait lets it warm up.
func (u *Unit) Wait(minutes float64) { u.waited += minutes }

// Wheel holds the modulation wheel, 0 to 1.
func (u *Unit) Wheel(at float64) { u.wheel = min(max(at, 0), 1) }

// Hold holds one of the player's means all the way, "wheel", "bend", "aftertouch", "pedal" or "breath", and lets go of the others; empty for none.
func (u *Unit) Hold(what string) { u.player = what }

// Went says how many takes it has played already, when it is taken up again.
func (u *Unit) Went(takes int) {
	u.played = takes
	u.hand = dice(u.Panel.Panel, u.Number, fmt.Sprintf("hand, take %d", takes))
}

// Patch puts cables in, in place of those that are there.
func (u *Unit) Patch(cables []patch.Cable) { u.at.Cables = cables }

// MIDI takes bytes as they come in, controllers, NRPN, dumps; a program change brings init back. What it answers comes out: to what asks for its dump (the dump's header with nothing after it, where the panel does not say), its dump.
func (u *Unit) MIDI(all []wire.Message) (answer []wire.Message) {
	u.recent = append(u.recent, all...)
	if i := u.last(0xC0, 0xF0); i >= 0 {
		u.at, u.recent = u.hidden.InitState(), slices.Clone(u.recent[i+1:])
	}
	u.recent = u.recent[max(0, len(u.recent)-mostRecent):]
	for _, x := range wire.Read(u.Panel, u.recent).Taken {
		if k, ok := u.Panel.ControlIndex(x.Control); ok {
			if at, err := u.Panel.Parse(k, x.Reading); err == nil {
				at.U = 0
				u.at.At[k], u.at.Given[k] = at, true
			}
		}
	}
	if i := u.last(0xF0, 0xFF); i >= 0 { // what comes after a dump goes over it
		u.recent = slices.Clone(u.recent[i+1:])
	}
	if u.asked(all) {
		if w, err := wire.Write(u.Panel, u.layer(), 1); err == nil {
			for _, m := range w.Messages {
				if m.Status == 0xF0 {
					answer = append(answer, m)
				}
			}
		}
	}
	return answer
}

// last finds the last message with a status, under a mask, that the unit remembers; -1 for none.
func (u *Unit) last(status, mask byte) int {
	for i := len(u.recent) - 1; i >= 0; i-- {
		if u.recent[i].Status&mask == status {
			return i
		}
	}
	return -1
}

// asked tells whether messages ask for the dump.
func (u *Unit) asked(all []wire.Message) bool {
	if u.Panel.Dump == nil {
		return false
	}
	asks, err := u.Panel.Dump.RequestBytes()
	if len(asks) == 0 {
		asks, err = u.Panel.Dump.HeaderBytes()
	}
	return err == nil && slices.ContainsFunc(all, func(m wire.Message) bool { return m.Status == 0xF0 && bytes.Equal(m.Data, asks) })
}

// layer gives the readings at which its controls stand, as it shows them itself.
func (u *Unit) layer() *patch.Layer {
	y := &patch.Layer{ID: "a", Readings: map[string]string{}}
	for k := range u.Panel.Controls {
		f := &u.Panel.Controls[k].Face
		at := u.at.At[k]
		if at.Index < 0 && f.Len() > 0 {
			at = f.Nearest(at.Travel)
		}
		y.Readings[u.Panel.Controls[k].ID] = at.Reading
	}
	return y
}

// Play gives the sound that it makes to notes as a recording has it: with its noise, its hum and its drifting tune, clipped at full level.
func (u *Unit) Play(notes []phrase.Note, tempo quantity.Tempo) (hear.Wave, error) {
	if tempo == 0 {
		tempo = panel.DefaultTempo
	}
	for _, n := range notes {
		if !(n.End <= longest) {
			return hear.Wave{}, fmt.Errorf("expected notes within %g s", longest)
		}
	}
	u.played++
	minutes := u.waited + takes*float64(u.played)
	d := dice(u.Panel.Panel, u.Number, fmt.Sprintf("take %d", u.played))
	cents := u.tuning*math.Exp(-3*minutes/warm) + 0.3*d.NormFloat64()
	s, err := synth.Render([]synth.Layer{{Meaning: u.hidden.Interpret(u.at, tempo), Transpose: quantity.Interval(cents), Played: calibrate.Holding(u.player)}}, notes, synth.Options{Seed: d.Uint64(), Raw: true, Wheel: u.wheel, Tail: calibrate.Tail})
	if err != nil {
		return hear.Wave{}, err
	}
	phase := 2 * math.Pi * d.Float64()
	full := float64(int(1) << bits)
	for _, x := range [][]float64{s.Left, s.Right} {
		for i := range x {
			v := gain*x[i] + floor*d.NormFloat64() + hum*math.Sin(phase+2*math.Pi*mains*float64(i)/synth.Rate)
			x[i] = math.Round(min(max(v, -1), 1)*full) / full
		}
	}
	return hear.Wave{Rate: synth.Rate, Left: s.Left, Right: s.Right}, nil
}

// Truth is what the laws of a unit really are.
type Truth struct {
	Panel    string             `json:"panel"`
	Unit     int                `json:"unit"`
	Controls map[string][]Value `json:"controls"`
}

// Value is what a reading really is, in the unit of its panel's law; Value is nil where it means none.
type Value struct {
	Reading string   `json:"reading"`
	Value   *float64 `json:"value"`
	Unit    string   `json:"unit"`
}

// Truth tells the laws of the controls that go by a law of numbers. It is for tests and for those who ask the command line for it: nothing else in the program may.
func (u *Unit) Truth() Truth {
	out := Truth{Panel: u.Panel.ID, Unit: u.Number, Controls: map[string][]Value{}}
	for k := range u.hidden.Controls {
		x := &u.hidden.Controls[k]
		for i := range x.Means {
			l := x.Means[i].Law
			if l.Kind == scale.Listed {
				continue
			}
			for _, p := range calibrate.Places(u.hidden.Places(k), calibrate.MostPlaces) {
				v := Value{Reading: p.Reading, Unit: l.Unit}
				if got, ok := l.Raw(p.Travel); ok {
					v.Value = &got
				}
				out.Controls[x.ID] = append(out.Controls[x.ID], v)
			}
			break
		}
	}
	return out
}
