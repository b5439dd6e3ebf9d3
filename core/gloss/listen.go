package gloss

import (
	"fmt"
	"strings"

	"glossator/core/meaning"
)

// listenFor says what to listen for when a parameter is set (common practice, no source).
var listenFor = map[meaning.ParamName]string{
	meaning.PWave: "its colour alone, with the others down", meaning.PInterval: "the octave first, then how far it is from the others", meaning.PWidth: "thin or round; the pitch stays", meaning.PLevel: "its share beside the others",
	meaning.PSync: "a harder edge: off and on in turn", meaning.PFM: "what it adds to the tone: off and on in turn", meaning.PPM: "what it adds to the tone: off and on in turn", meaning.PRatio: "the pitch, then whether it rings like a bell",
	meaning.PUnison: "one voice or several", meaning.PSpread: "how fast the voices beat against each other", meaning.PFrame: "the colour, not the pitch", meaning.PFeedback: "where it begins to growl, or how often it comes back",
	meaning.PCutoff: "how bright it is where it rests, on a low note and on a high one", meaning.PResonance: "a ring at the cutoff; it takes some of what lies below", meaning.PDrive: "grit, and the level that it adds",
	meaning.PTrack: "low and high notes in turn: as bright as each other, or not", meaning.PPoles: "how much is left above the cutoff",
	meaning.PAttack: "how it begins: a click, a breath, a swell", meaning.PDecay: "how long it falls after the beginning", meaning.PSustain: "what is left while the key is held", meaning.PRelease: "what is left when the key is up", meaning.PHold: "how long it stays up before it falls",
	meaning.PDelay: "how late it comes", meaning.PRate: "its speed, against the beat where it has one", meaning.PFade: "how late the movement comes in", meaning.PDepth: "how far it moves: too much first, then back", meaning.PAmount: "how far it moves: too much first, then back",
	meaning.PGlide: "how long it slides from key to key, played over an octave", meaning.PVelocity: "soft and hard in turn",
	meaning.PMix: "how much of it: off and on in turn", meaning.PTime: "the echo against the beat", meaning.PT60: "how long the room rings after a short note", meaning.PPredelay: "how far the room is behind the note", meaning.PSize: "how large the room is",
	meaning.PStereo: "in the middle or wide; once in mono", meaning.PPan: "left or right", meaning.PTone: "how dull what is added is", meaning.PThreshold: "from which level it is held", meaning.PTune: "against a note of another instrument",
}

// listenForKind are those that mean something else on a kind of module.
var listenForKind = map[meaning.Kind]map[meaning.ParamName]string{
	meaning.Drive: {meaning.PGain: "grit, and the level that it adds"}, meaning.Atten: {meaning.PGain: "how far it moves: too much first, then back"},
	meaning.Amp:    {meaning.PLevel: "as loud as the original", meaning.PGain: "as loud as the original"},
	meaning.Filter: {meaning.PMode: "what is let through: off and on in turn"},
	meaning.Voice:  {meaning.PMode: "one note at a time, tied or not, or several"},
}

// listen says what to listen for when a control of the target is set; empty where there is nothing to say.
func (in *Input) listen(k int) string {
	for _, b := range in.Target.Controls[k].Means {
		id, name, _ := strings.Cut(b.Param, ".")
		if i, ok := in.Target.ModuleIndex(id); ok {
			if text := listenForKind[in.Target.Modules[i].Kind][meaning.ParamName(name)]; text != "" {
				return text
			}
		}
		if text := listenFor[meaning.ParamName(name)]; text != "" {
			return text
		}
	}
	return ""
}

// part gives the module of the target that a control belongs to, where that sounds by itself.
func (in *Input) part(k int) string {
	for _, b := range in.Target.Controls[k].Means {
		id, _, _ := strings.Cut(b.Param, ".")
		if i, ok := in.Target.ModuleIndex(id); ok {
			switch in.Target.Modules[i].Kind {
			case meaning.Osc, meaning.Sub, meaning.Noise, meaning.Ring, meaning.Operator:
				return id
			}
		}
	}
	return ""
}

// where says how to get to a control that the panel does not show: what is noted of it, or of its section; empty where nothing is.
func (in *Input) where(k int) string {
	c := &in.Target.Controls[k]
	if !c.Hidden {
		return ""
	}
	if c.Note != "" {
		return c.Note
	}
	for _, n := range in.Target.Panel.Hidden {
		if strings.EqualFold(n.About, c.Label) || strings.EqualFold(n.About, in.Target.SectionLabel(k)) {
			return n.Text
		}
	}
	return ""
}

// beating tells the controls of an interval that beats what to listen for: how often a second.
func (in *Input) beating(s *Sheet) {
	for i := range s.Glosses {
		g := &s.Glosses[i]
		if g.beat == "" {
			continue
		}
		for n := range s.Settings {
			if x := &s.Settings[n]; x.Control == g.beatBy && x.Action == Set {
				x.Listen = g.beat
			}
		}
	}
}

// beatsAs says what to hear of two oscillators that beat.
func beatsAs(against, often, note, hair string) string {
	if hair != "" {
		return fmt.Sprintf("%s, until it beats %s times a second against %s at %s", hair, often, against, note)
	}
	return fmt.Sprintf("beats against %s: %s a second at %s", against, often, note)
}
