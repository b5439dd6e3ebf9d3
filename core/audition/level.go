package audition

import (
	"math"

	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	q "glossator/core/quantity"
)

// LevelStep is a reading of a target's volume that makes it louder or quieter.
type LevelStep struct {
	Control string `json:"control"`
	Label   string `json:"label"`
	From    string `json:"from"`
	To      string `json:"to"`
	// By is how much louder that makes it in decibels, Missing what is wanted beyond: the end of the scale was in the way, or its steps are wide.
	By      float64 `json:"by"`
	Missing float64 `json:"missing"`
	// Behind names what stands behind it and does not pass levels on as they are: a drive, a compressor.
	Behind string `json:"behind,omitempty"`
}

// AsLoud gives the reading of the amplifier's level that makes a target louder by some decibels, or quieter; false where it has no control for
// that, the next position is no nearer, or what is wanted is less than is heard (1 dB). m is what is played, with what stands behind the target.
func AsLoud(dst *panel.Compiled, s *gloss.Sheet, m *meaning.Meaning, by float64) (LevelStep, bool) {
	if math.Abs(by) < 1 || math.IsInf(by, 0) || math.IsNaN(by) {
		return LevelStep{}, false
	}
	state, err := State(dst, s)
	if err != nil {
		return LevelStep{}, false
	}
	for i := range dst.Modules {
		if dst.Modules[i].Kind != meaning.Amp {
			continue
		}
		for _, b := range dst.Binds(meaning.Ref(dst.Modules[i].ID, meaning.PLevel)) {
			k := b.Control
			if !dst.Holds(dst.Bind(b).When, state) {
				continue
			}
			was, set := dst.Bind(b).Law.Quantity(state.At[k])
			if !set || was.Off || was.Dim != q.DimLevel {
				continue
			}
			to, err := dst.Scale(b).Inverse(q.Quantity{Dim: q.DimLevel, Value: was.Value + by})
			if err != nil || to.Reached.Off {
				continue
			}
			out := LevelStep{Control: dst.Controls[k].ID, Label: dst.Controls[k].Label, From: state.At[k].Reading, To: to.Reading, By: to.Reached.Value - was.Value, Behind: bends(m)}
			if out.Missing = by - out.By; math.Abs(out.Missing) < math.Abs(by)-0.5 {
				return out, true
			}
		}
	}
	return LevelStep{}, false
}

// bends names the first effect behind the amplifier that does not pass levels on as they are.
func bends(m *meaning.Meaning) string {
	graph := m.Graph()
	for i := range m.Modules {
		switch d := &m.Modules[i]; d.Kind {
		case meaning.Drive, meaning.Compressor, meaning.Multiband:
			if d.Used() && graph.Behind(d.ID) {
				return d.Label
			}
		case meaning.Amp:
			if v, _ := d.Get(meaning.PDrive); !v.Off && v.Value > 0 {
				return "its drive"
			}
		}
	}
	return ""
}
