package synth

import (
	"glossator/core/meaning"
	"glossator/core/phrase"
)

// Effort estimates the work of a rendering, in thousandths of a second of one core (of the machine on which it was fitted): for how often somebody can
// afford it, whatever the clock says.
func Effort(layers []Layer, notes []phrase.Note, tail float64) float64 {
	sum := 0.0
	for i := range layers {
		m := layers[i].Meaning
		perVoice, perSecond, voices, mono := 1.0, 1.5, 1.0, false
		for k := range m.Modules {
			d := &m.Modules[k]
			if !d.Used() {
				continue
			}
			switch d.Kind {
			case meaning.Osc, meaning.Sub:
				perVoice += 0.6 * max(1, min(16, num(d, meaning.PUnison)))
			case meaning.Operator:
				perVoice += 1.1
			case meaning.Filter:
				perVoice += 2
			case meaning.Drive:
				perVoice += 0.5
				perSecond += 3
			case meaning.Voice:
				voices = max(1, min(16, num(d, meaning.PUnison)))
				mono = word(d, meaning.PMode) == "mono"
			case meaning.Reverb:
				perSecond += 5
			case meaning.Chorus, meaning.Flanger, meaning.Phaser, meaning.Delay:
				perSecond += 4
			case meaning.Compressor, meaning.Multiband, meaning.EQ, meaning.Widener:
				perSecond++
			case meaning.Mixer, meaning.Amp:
				if num(d, meaning.PDrive) > 0 {
					perVoice += 1.5
				}
			}
		}
		end, held := 0.0, 0.0
		for _, n := range notes {
			end = max(end, n.End)
			held += n.End - n.Start + tail
		}
		if mono {
			held = min(held, end+tail) // one note at a time
		}
		sum += voices*held*perVoice + (end+tail)*perSecond
	}
	return sum
}
