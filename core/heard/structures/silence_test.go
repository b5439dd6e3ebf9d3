package structures

import (
	"testing"

	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/testutil/hearing"
	"glossator/testutil/testrack"
)

// What sounds by unusual means is heard on every instrument, if by other means: noise alone where there is none, a filter that whistles where none does. The renders are the witness: both were silent on Fairlead, the
// noise on Coracle too. A whistle is within half a semitone and a little where oscillators or operators can be tuned as finely (a just-noticeable difference of pitch is 5 ct).
func TestNothingIsSilent(t *testing.T) {
	rack := testrack.Panels(t)
	src := rack["kedge"]
	made := func(id string, readings map[string]string) *patch.Patch {
		for control, reading := range map[string]string{"mix.osc1": "7:00", "mix.osc2": "7:00", "amp.by": "gate"} {
			if _, own := readings[control]; !own {
				readings[control] = reading
			}
		}
		return &patch.Patch{Format: patch.Format, Version: patch.Version, ID: id, Name: id, Panel: src.ID, PanelRevision: src.Revision, Kind: "lead", Tempo: 120, Layers: []patch.Layer{{ID: "a", Readings: readings}},
			Phrase: &patch.Phrase{Notes: []patch.PhraseNote{{At: "0", For: "1/4", Note: "C4", Velocity: 100}, {At: "1/4", For: "1/4", Note: "G4", Velocity: 100}}}}
	}
	hiss := made("hiss", map[string]string{"mix.noise": "13:00", "lowpass.cutoff": "2 kHz", "lowpass.resonance": "13:00"})
	whistle := made("whistle", map[string]string{"mix.noise": "7:15", "lowpass.cutoff": "600 Hz", "lowpass.resonance": "17:00", "lowpass.track": "full"})
	for _, id := range testrack.IDs(rack) {
		if rack[id].Kind != "instrument" || id == src.ID {
			continue
		}
		for _, p := range []*patch.Patch{hiss, whistle} {
			_, _, r := hearing.Listen(t, src, p, rack[id], plan.Numbers, false)
			if r.Silent != "" {
				t.Errorf("%s on %s is silent: %q", p.ID, id, r.Silent)
			}
			if x := hearing.Check(r, "I8"); x == nil || !x.OK {
				t.Errorf("%s on %s: %+v", p.ID, id, x)
			}
			if tuned := id == "halyard" || id == "thole" || id == "binnacle" || id == "sheave"; p == whistle && tuned && r.Apart.Pitch > 12 {
				t.Errorf("the whistle on %s is %.1f just-noticeable differences out of tune", id, r.Apart.Pitch)
			}
			t.Logf("%s on %s: %+v", p.ID, id, r.Apart)
		}
	}
}
