package gloss

import (
	"fmt"
	"math"
	"strings"

	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/settle"
)

// joined puts sentences in a row, leaving out what is empty.
func joined(parts ...string) string {
	var out []string
	for _, p := range parts {
		if p != "" {
			out = append(out, p)
		}
	}
	return strings.Join(out, "; ")
}

// whyNot says why a route is left out.
func whyNot(w plan.Why) string {
	switch w.Code {
	case plan.NoSource:
		return w.From + " has no place"
	case plan.NoScaler:
		return "what scales it has no place"
	case plan.NoDestination:
		return "what it moves has no place"
	case plan.NoWay:
		if w.Via != "" {
			return "there is no way from " + w.From + " to it scaled by " + w.Via
		}
		return "there is no way from " + w.From + " to it"
	case plan.Taken:
		if w.From != "" {
			return w.From + " has taken the way that could make it"
		}
		return "other routes have taken every way that could make it"
	case plan.Further:
		return "what there is would be further off than nothing"
	case plan.TooFine:
		return "it is finer than the first step of " + w.From
	case plan.Deaf:
		return "as " + w.From + " stands, what it would move does nothing"
	}
	return ""
}

// moved says why a control was moved.
func moved(w settle.Why) string {
	switch w.Code {
	case settle.BringsIn:
		return "chosen for what it brings in"
	case settle.Carries:
		return "carries " + w.Part
	case settle.Alike:
		return "set as " + w.Part + " is, in another line of the sound"
	case settle.SwitchedOff:
		return "the patch has none: switched off"
	case settle.Written:
		return "as it is written down"
	case settle.AtTempo:
		return "the patch's tempo: what counts in note values here hangs on it"
	case settle.ByHand:
		return byHand
	}
	return ""
}

const byHand = "set by hand"

// forWhat says for what a parameter is set otherwise than by its number.
func forWhat(notes []settle.Note) string {
	var out []string
	for _, n := range notes {
		switch n.Code {
		case settle.ForDrive:
			out = append(out, signedDB(n.By)+" for the drive that is not there")
		case settle.ForFilters:
			out = append(out, signedDB(n.By)+" for what the filters let through there and here")
		case settle.ForBass:
			out = append(out, signedDB(n.By)+" for the bass that resonance takes there and here")
		case settle.ForUnison:
			out = append(out, fmt.Sprintf("%s for unison of %g there and %g here", signedDB(n.By), n.There, n.Here))
		case settle.AsBright:
			why, on := "", "a saw"
			if n.There != n.Here {
				why = fmt.Sprintf("%d poles there, %d here, ", int(n.There), int(n.Here))
			}
			if n.Missing != 0 {
				why += fmt.Sprintf("%s of what opens it missing here, ", q.Quantity{Dim: q.DimOctaves, Value: n.Missing})
			}
			if n.Oscillators {
				on = "what the oscillators play"
			}
			out = append(out, fmt.Sprintf("%s of the cutoff: %sas bright on %s at %s", q.Number(n.By, 3), why, on, n.Note.NoteName()))
		case settle.ForKey:
			out = append(out, fmt.Sprintf("%s: where it is at %s, as the pitch follows the keys otherwise here", q.Quantity{Dim: q.DimInterval, Value: n.By}, n.Note.NoteName()))
		case settle.ForIndex:
			out = append(out, signedDB(n.By)+" for the depth of "+n.From+" here: the same index")
		case settle.ForOutput:
			out = append(out, signedDB(n.By)+" for the output, which has no control here: the level makes it")
		case settle.ForHeld:
			out = append(out, fmt.Sprintf("%s: where %s has the pitch while a note is held, as it does not move it here", q.Quantity{Dim: q.DimInterval, Value: n.By}, n.From))
		case settle.ForBeats:
			out = append(out, fmt.Sprintf("%s: %s cannot be tuned as finely here, so that this one is moved against it and the beats are kept", q.Quantity{Dim: q.DimInterval, Value: n.By}, n.From))
		case settle.ForOthers:
			out = append(out, fmt.Sprintf("%s: it cannot be tuned as finely here, so that the others are moved against it and the beats are kept", q.Quantity{Dim: q.DimInterval, Value: n.By}))
		case settle.ForTune:
			out = append(out, fmt.Sprintf("%s: the oscillators were moved the other way for their beats", q.Quantity{Dim: q.DimInterval, Value: n.By}))
		case settle.ForVelocity:
			out = append(out, signedDB(n.By)+" as velocity moves the level otherwise here: as loud at a velocity of 100")
		case settle.ForHeadroom:
			if n.By < 0 {
				out = append(out, fmt.Sprintf("a level lies beyond the top of the scale here: all sources go down by %s dB, and the volume up", q.Number(-n.By, 2)))
			} else {
				out = append(out, signedDB(n.By)+" as the sources stand lower: one of them would be beyond the top of its scale")
			}
		case settle.ForNotes:
			why := ""
			if math.Abs(n.There-n.Here) > 0.005 {
				why = fmt.Sprintf("tracking %s there, %s here", q.Quantity{Dim: q.DimRatio, Value: n.There}, q.Quantity{Dim: q.DimRatio, Value: n.Here})
			}
			if n.Missing != 0 {
				if why != "" {
					why += ", "
				}
				why += fmt.Sprintf("%s of velocity missing here", q.Quantity{Dim: q.DimOctaves, Value: n.Missing})
			}
			out = append(out, fmt.Sprintf("%s of the cutoff: where it is at %s, %s", q.Number(n.By, 3), n.Note.NoteName(), why))
		case settle.ForHalfLife:
			out = append(out, fmt.Sprintf("half way at the same time: %s there, %s here", n.From, n.To))
		}
	}
	return strings.Join(out, "; ")
}

func signedDB(x float64) string {
	s := q.Number(x, 2) + " dB"
	if x > 0 {
		s = "+" + s
	}
	return s
}
