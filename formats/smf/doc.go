// Package smf reads and writes Standard MIDI Files 1.0 and plain MIDI byte streams: events in,
// events out, and phrases and controller messages made of them.
//
// It is our own because the usual package is not to be had from the registry, and because a file
// from anywhere must cost bounded memory: events point into the file's bytes.
// Its neighbours: core/wire says what controllers mean on a panel, core/phrase what a phrase is.
package smf
