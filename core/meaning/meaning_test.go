package meaning

import (
	"testing"
)

// The vocabulary is consistent: parameters are named once, silences exist, weights and
// thresholds are above 0, neutrals have the parameter's dimension.
func TestVocabulary(t *testing.T) {
	seen := map[Kind]bool{}
	for _, k := range Kinds {
		if seen[k.Kind] || k.Label == "" || k.Plural == "" || k.Weight <= 0 {
			t.Errorf("kind %q is there twice or has no label or weight", k.Kind)
		}
		seen[k.Kind] = true
		names := map[ParamName]bool{}
		for _, p := range k.Params {
			if names[p.Name] || p.Weight <= 0 || p.JND.Size <= 0 || p.Label == "" || p.Neutral.Dim != p.Dim {
				t.Errorf("%s.%s: named twice, or without weight, threshold, label or neutral", k.Kind, p.Name)
			}
			names[p.Name] = true
		}
		for _, s := range k.Silence {
			if !names[s] {
				t.Errorf("%s is silenced by %q, which it has not", k.Kind, s)
			}
		}
	}
	if m, p := Split("osc1.width"); m != "osc1" || p != "width" {
		t.Errorf("split gave %q and %q", m, p)
	}
}
