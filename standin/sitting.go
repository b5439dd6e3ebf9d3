package standin

import (
	"glossator/core/calibrate"
	"glossator/core/hear"
)

// WarmUp is how long a unit is left on before it is measured, in minutes.
const WarmUp = 30

// SetUp sets everything but the control that is measured, by hand, on a unit that has warmed up.
func (u *Unit) SetUp(b *calibrate.Bench) error {
	u.Wait(WarmUp)
	what, _ := b.Held()
	u.Hold(what)
	for _, s := range b.Settings() {
		if err := u.Hand(s.Control, s.Reading); err != nil {
			return err
		}
	}
	return nil
}

// Take sets the control that is measured to a reading, plays what is to be played and hears it.
func (u *Unit) Take(b *calibrate.Bench, reading string) (calibrate.Recorded, error) {
	out, _, err := u.TakeSound(b, reading)
	return out, err
}

// TakeSound is Take, with what was heard.
func (u *Unit) TakeSound(b *calibrate.Bench, reading string) (out calibrate.Recorded, w hear.Wave, err error) {
	at, err := b.Position(reading)
	if err != nil {
		return out, w, err
	}
	if err := u.Hand(b.Panel.Controls[b.Control].ID, reading); err != nil {
		return out, w, err
	}
	notes := b.Notes(at)
	if w, err = u.Play(notes, 0); err != nil {
		return out, w, err
	}
	out, err = b.Hear(reading, &calibrate.Sound{Wave: w, Notes: notes})
	return out, w, err
}

// Sit takes as many takes as are given, or with 0 as many as the plan wants, and fits the law.
func (u *Unit) Sit(b *calibrate.Bench, takes int) (*calibrate.Result, error) {
	if err := u.SetUp(b); err != nil {
		return nil, err
	}
	var all []calibrate.Recorded
	for {
		r := b.Fit(b.Takes(all))
		next := r.Next()
		if next.Reading == "" || next.Done && takes == 0 || takes > 0 && len(all) >= takes || len(all) >= 2*calibrate.MostTakes {
			return r, nil
		}
		got, err := u.Take(b, next.Reading)
		if err != nil {
			return nil, err
		}
		all = append(all, got)
	}
}
