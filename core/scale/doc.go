// Package scale says how a control's travel becomes a reading and a quantity, and back.
//
// A control has a travel p from 0 to 1. Its Face turns travel into what the panel
// shows; its Law turns travel into a quantity. Neighbours: quantity has the
// values; panel binds scales to the controls of an instrument.
package scale
