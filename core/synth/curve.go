package synth

import "glossator/core/meaning"

// FilterGain gives the complex gain of a filter module on a note (MIDI number) at a frequency in hertz, by
// its closed form; what the rendered filter does below saturation (see TestFiltersAgainstClosedForms).
func FilterGain(d *meaning.Module, key, hz float64) complex128 { return d.FilterGain(key, hz) }
