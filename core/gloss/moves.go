package gloss

import "glossator/core/patch"

// Moving is a move of the phrase, and what is moved for it on the target.
type Moving struct {
	// Index is its place among the phrase's moves.
	Index int `json:"index"`
	// What is one of the player's means (patch.PlayersMeans) or a control of the source, Label what people call it.
	What  string `json:"what"`
	Label string `json:"label"`
	// At and For are note values, When the same in bars.
	At   string `json:"at"`
	For  string `json:"for"`
	When string `json:"when"`
	From string `json:"from"`
	To   string `json:"to"`
	// Target lists the controls to move there, with their readings at both ends. The player's means are moved as they are on the source.
	Target []MovedTo `json:"target"`
	// Verdict is the worst of both ends, and of the routes that a player's means drives.
	Verdict Verdict `json:"verdict"`
	Reason  string  `json:"reason"`
}

// MovedTo is a control of the target that is moved.
type MovedTo struct {
	Control string `json:"control"`
	Section string `json:"section"`
	Label   string `json:"label"`
	From    string `json:"from"`
	To      string `json:"to"`
}

// MeansLabel names one of the player's means.
func MeansLabel(what string) string {
	switch what {
	case "wheel":
		return "Modulation wheel"
	case "bend":
		return "Bender"
	case "aftertouch":
		return "Pressure"
	case "pedal":
		return "Pedal"
	case "breath":
		return "Breath"
	case patch.Hold:
		return "Hold pedal"
	}
	return what
}
