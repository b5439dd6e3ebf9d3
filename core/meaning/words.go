package meaning

import "slices"

// WordParam is a parameter whose values are words of which the program knows what they sound like.
type WordParam struct {
	Kind  Kind
	Param ParamName
	// Words are those that are known; the first is played in the place of one that is not.
	Words []string
}

// KnownWords lists, by kind and parameter, the words that are played as what they say. docs/formats has the same table.
var KnownWords = []WordParam{
	{Osc, PWarp, []string{"none", "fold", "mirror", "bend", "quantise"}},
	{Noise, PColour, []string{"white", "pink", "brown", "air", "grit"}},
	{Filter, PMode, []string{"lowpass", "highpass", "bandpass", "notch", "peak", "morph", "comb", "flange"}},
	{Drive, PCurve, []string{"soft", "hard", "fold", "tube", "diode"}},
	{EQ, PMode, []string{"peak", "low shelf", "high shelf", "low-pass", "high-pass"}},
	{Delay, PPattern, []string{"stereo", "cross", "pingpong"}},
}

// Unknown gives the word of a parameter of a module that is not known, and what is played in its place; empty where it is known, or not stated.
func (w *WordParam) Unknown(m *Module) (word, instead string) {
	v, ok := m.Params[w.Param]
	if m.Kind != w.Kind || !ok || v.Name == "" || slices.Contains(w.Words, v.Name) {
		return "", ""
	}
	return v.Name, w.Words[0]
}
