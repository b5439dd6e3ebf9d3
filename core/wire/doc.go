// Package wire turns controller messages (CC, NRPN, dumps) into readings of a panel, and readings
// into messages, by the addresses that the panel gives its controls.
//
// Its neighbours: panel has the addresses; formats/smf takes messages out of files and byte
// streams. The numbers follow the MIDI 1.0 Detailed Specification 4.2.
package wire
