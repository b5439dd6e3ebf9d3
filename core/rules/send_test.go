package rules

import (
	"testing"

	"glossator/core/meaning"
)

var _ = used(&send,
	use{"a send of 0 dB is a mix of half", targetOf{params: []string{"reverb.mix"}}.case_(sound([]meaning.Module{mod("s", meaning.Send, p{"level": 0.0, "to": "reverb"}), mod("r", meaning.Reverb, p{"t60": 2.0, "mix": 1.0})}), "s"),
		figures{"r~.mix": 0.5}, []string{"s"}, "50 %"},
	// wet / (wet + dry) at -6.02 dB is a third
	use{"a parallel compressor", targetOf{params: []string{"compressor.mix"}}.case_(sound([]meaning.Module{mod("s", meaning.Send, p{"level": -6.0206, "to": "compressor"}), mod("k", meaning.Compressor, p{"threshold": -30.0, "ratio": 8.0})}), "s"),
		figures{"k~.mix": 1.0 / 3}, []string{"s"}, "33.3 %"},
)

// A parallel compressor is not one in line: where the target's has no mix, the rule does not apply.
func TestParallelIsNotInLine(t *testing.T) {
	c := targetOf{}.case_(sound([]meaning.Module{mod("s", meaning.Send, p{"level": 0.0, "to": "compressor"}), mod("k", meaning.Compressor, p{"threshold": -30.0, "ratio": 8.0})}), "s")
	if list := send.try(c); len(list) > 0 {
		t.Errorf("%q", list[0].Text)
	}
}
