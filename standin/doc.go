// Package standin has simulated units of any panel, which stand in for an instrument where none is at hand: to try the bench on, and to test it with.
//
// A unit has laws of its own, which no other package may know: what its panel states or assumes, bent within and now and then beyond the stated uncertainty. It is reached only as an instrument
// is: by a hand that sets a control to about a reading, by MIDI bytes, and by the sound that it plays to notes. It is deterministic by its number.
//
// Its neighbours: core/synth makes its sound, core/wire reads the bytes, core/calibrate finds out its laws.
package standin
