package calibrate

import (
	"slices"

	"glossator/core/meaning"
	"glossator/core/patch"
)

// byPlayer tells whether a route takes one of the player's means to a parameter of a rank.
func byPlayer(n int) func(t *target) bool {
	return func(t *target) bool {
		return t.kind == meaning.RouteKind && t.name == meaning.PDepth && slices.Contains(patch.PlayersMeans, t.from) && len(t.to) > 0 && rank(t.to[0]) == n
	}
}

// heldUp has what the route comes from held all the way while takes are played.
func heldUp(t *target, s *setup) bool {
	s.player = t.from
	return routeOn(t, s)
}

const heldAll = "Hold it all the way for the whole of a take; what does not come to its end is measured as less."

var playedRecipes = []*Recipe{
	{Name: "player-cutoff", Label: "What the player opens the cutoff by", Needs: "a noise source or a sawtooth before the filter", Traps: []string{heldAll, sameSide},
		fits: byPlayer(3), ways: bringing(onlySaw, []meaning.Kind{meaning.Noise, meaning.Osc, meaning.Operator}, filterAt(600), heldUp), notes: held(36, 1.5), features: append([]feature{byMovedCutoff}, likeness...)},
	{Name: "player-pitch", Label: "What the player moves the pitch by", Needs: "an oscillator that is heard alone", Traps: []string{heldAll, warmUp},
		fits: byPlayer(0), ways: bringing(saws, tonal, heldUp), notes: held(57, 1.5), features: []feature{byPitch.against(againstNone)}},
	{Name: "player-level", Label: "What the player moves the level by", Needs: "a source that is heard alone", Traps: []string{heldAll, steadyIn},
		fits: byPlayer(1), ways: bringing(saws, sounding, heldUp), notes: held(57, 1.2), features: []feature{byLevel.against(againstNone)}},
}
