package calibrate

import (
	"slices"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

// Recipe is a way to measure a parameter.
type Recipe struct {
	Name  string `json:"name"`
	Label string `json:"label"`
	// Needs says what the instrument must have for it.
	Needs string `json:"needs"`
	// Traps are what commonly spoils it.
	Traps []string `json:"traps"`
	// Caution is what to mind before the first take; empty for the usual.
	Caution string `json:"caution,omitempty"`

	fits func(t *target) bool
	// ways lists set-ups to try in turn: each brings in what is needed, and says whether it could.
	ways     func(t *target) []func(s *setup) bool
	notes    func(value float64) []phrase.Note
	features []feature
	// trial lets the figures be chosen by trials, as for likeness: none of them stands for the parameter by itself.
	trial bool
}

// target is a parameter that is to be measured by one control.
type target struct {
	c             *panel.Compiled
	control, bind int
	ref           string
	name          meaning.ParamName
	module        *panel.Module // nil for a route
	kind          meaning.Kind
	from          string   // of a route: what moves
	to            []string // and what it moves
}

func (t *target) law() *panel.Bind { return &t.c.Controls[t.control].Means[t.bind] }

// targetOf finds what a binding sets.
func targetOf(c *panel.Compiled, control, bind int) *target {
	t := &target{c: c, control: control, bind: bind}
	t.ref = t.law().Param
	owner, name := meaning.Split(t.ref)
	t.name = name
	if i, ok := c.ModuleIndex(owner); ok {
		t.module = &c.Modules[i]
		t.kind = t.module.Kind
		return t
	}
	t.kind = meaning.RouteKind
	if i, ok := c.RouteIndex(owner); ok {
		t.from, t.to = c.Routes[i].From, c.Routes[i].To
	}
	return t
}

// kindOf gives the kind of what a reference is of.
func (t *target) kindOf(ref string) meaning.Kind {
	id, _ := meaning.Split(ref)
	if i, ok := t.c.ModuleIndex(id); ok {
		return t.c.Modules[i].Kind
	}
	return ""
}

// modules lists the ids of the modules of kinds, the panel's order within each.
func (t *target) modules(kinds ...meaning.Kind) []string {
	var out []string
	for _, k := range kinds {
		for i := range t.c.Modules {
			if t.c.Modules[i].Kind == k {
				out = append(out, t.c.Modules[i].ID)
			}
		}
	}
	return out
}

// is makes a condition for parameters of kinds.
func is(names []meaning.ParamName, kinds ...meaning.Kind) func(t *target) bool {
	return func(t *target) bool { return slices.Contains(names, t.name) && slices.Contains(kinds, t.kind) }
}

// bringing makes set-ups, one a source of the kinds, with what is done besides.
func bringing(waves []string, kinds []meaning.Kind, also ...func(t *target, s *setup) bool) func(t *target) []func(s *setup) bool {
	return func(t *target) []func(s *setup) bool {
		var out []func(s *setup) bool
		ids := t.modules(kinds...)
		if t.module != nil && slices.Contains(kinds, t.kind) { // what is measured sounds itself
			ids = []string{t.module.ID}
		}
		for _, id := range ids {
			out = append(out, func(s *setup) bool {
				if !s.bring(id, waves...) {
					return false
				}
				for _, f := range also {
					if !f(t, s) {
						return false
					}
				}
				return true
			})
		}
		return out
	}
}

// sets makes a step that sets a parameter of the module that is measured.
func sets(name meaning.ParamName, want q.Quantity) func(t *target, s *setup) bool {
	return func(t *target, s *setup) bool {
		if t.module != nil {
			s.put(meaning.Ref(t.module.ID, name), want)
		}
		return true
	}
}

func hertz(v float64) q.Quantity  { return q.Quantity{Dim: q.DimFrequency, Value: v} }
func second(v float64) q.Quantity { return q.Quantity{Dim: q.DimDuration, Value: v} }
func ratio(v float64) q.Quantity  { return q.Quantity{Dim: q.DimRatio, Value: v} }

var (
	saws      = []string{q.WaveSaw, q.WavePulse, q.WaveTriangle, q.WaveSine}
	onlySaw   = []string{q.WaveSaw}
	tonal     = []meaning.Kind{meaning.Osc, meaning.Operator, meaning.Sub}
	movedFx   = []meaning.Kind{meaning.Chorus, meaning.Flanger, meaning.Phaser}
	anySource = []meaning.Kind{meaning.Osc, meaning.Operator, meaning.Noise, meaning.Sub}
)

// inUse puts the effect that is measured in.
func inUse(t *target, s *setup) bool {
	if t.module == nil {
		return true
	}
	s.meet(t.module.When)
	s.put(meaning.Ref(t.module.ID, meaning.POn), q.Named(q.DimName, "on"))
	s.put(meaning.Ref(t.module.ID, meaning.PMix), ratio(0.5))
	return true
}

// one is a note held for a time, with how long it is listened on after it.
func one(key, seconds float64) []phrase.Note {
	return []phrase.Note{{End: seconds, Key: key, Velocity: 100}}
}

func held(key, seconds float64) func(float64) []phrase.Note {
	return func(float64) []phrase.Note { return one(key, seconds) }
}

// The usual traps.
var (
	sameSide  = "Come to every reading from the same side: knobs have play."
	warmUp    = "Let the instrument warm up for half an hour: it is out of tune until then."
	fxOff     = "Effects and drive have to be off: they are on the list."
	steadyIn  = "Leave the recording level as it is from the first take to the last."
	notHot    = "Nothing may clip, in the instrument or in the recording."
	selfLoud  = "A filter that oscillates by itself is loud at once: turn the monitors down first."
	clickPlay = "Play the note short and let what follows die away."
)

// Recipes lists the ways to measure, the better ones for a parameter first.
var Recipes = slices.Concat(cutoffRecipes, stageRecipes, pitchRecipes, levelRecipes, motionRecipes, playedRecipes, effectRecipes, colourRecipes, likenessRecipes)

// RecipeOf finds a recipe by its name; nil where there is none.
func RecipeOf(name string) *Recipe {
	for _, r := range Recipes {
		if r.Name == name {
			return r
		}
	}
	return nil
}

func cents(v float64) q.Quantity { return q.Quantity{Dim: q.DimInterval, Value: v} }
func level(v float64) q.Quantity { return q.Quantity{Dim: q.DimLevel, Value: v} }

var tableWave = q.Named(q.DimWave, "table")
