package plan

import "glossator/core/meaning"

// School is the policy of a translation.
type School string

// The schools; see Schools for what they do.
const (
	Numbers School = "numbers"
	Ear     School = "ear"
	Feel    School = "feel"
)

// SchoolSpec is the policy of a school: what weighs more or less than usual, and what is set
// otherwise than by its number.
type SchoolSpec struct {
	School School `json:"school"`
	Label  string `json:"label"`
	Says   string `json:"says"`
	// Compensates lists what is set otherwise, in words.
	Compensates []string `json:"compensates"`

	weights
	// What is set otherwise than by its number: cutoffs for another slope, levels for bass lost to resonance, levels for unison and drive that are
	// not there, times by half-life where the curves differ.
	Slope    bool `json:"-"`
	Bass     bool `json:"-"`
	Loudness bool `json:"-"`
	Half     bool `json:"-"`
}

// weights multiply the weights of meaning's vocabulary; what is not named counts as it stands.
type weights struct {
	kinds   map[meaning.Kind]float64
	params  map[string]float64 // "env.attack"
	sources map[string]float64 // of routes: a source of play, or a kind of module
}

// Schools is the table of schools (common practice, no source: the weights are judgements, adjust
// them here).
var Schools = []SchoolSpec{
	{School: Numbers, Label: "by numbers", Says: "physical values control by control",
		Compensates: []string{"resonance for an equal peak", "cutoff for another pivot"}},
	{School: Ear, Label: "by ear", Says: "brightness, shape, motion and weight before the numbers",
		Compensates: []string{"resonance for an equal peak", "cutoff for another pivot", "cutoff for another slope, as bright at the phrase's notes", "level for bass lost to resonance", "level for unison and drive that are not there"},
		Slope:       true, Bass: true, Loudness: true,
		weights: weights{kinds: map[meaning.Kind]float64{meaning.Filter: 1.2, meaning.Chorus: 1.3, meaning.Drive: 1.2, meaning.Voice: 0.8},
			params:  map[string]float64{"osc.wave": 1.3, "filter.cutoff": 1.4, "filter.resonance": 1.2, "env.decay": 1.2, "osc.phase": 0.5, "voice.priority": 0.3, "filter.track": 0.8},
			sources: map[string]float64{"velocity": 0.7, "wheel": 0.7, "aftertouch": 0.6, "bend": 0.5}}},
	{School: Feel, Label: "by feel", Says: "how it plays before how it sounds: velocity, tracking, wheel, legato, glide",
		Compensates: []string{"resonance for an equal peak", "cutoff for another pivot", "decay and release by half-life where the curves differ"},
		Half:        true,
		weights: weights{kinds: map[meaning.Kind]float64{meaning.Voice: 2, meaning.Env: 1.3, meaning.Reverb: 0.6, meaning.Delay: 0.7, meaning.Chorus: 0.6, meaning.EQ: 0.5},
			params:  map[string]float64{"voice.glide": 2, "voice.glideWhen": 2, "voice.trigger": 2, "voice.mode": 1.5, "voice.bend": 1.5, "filter.track": 2, "env.attack": 1.5, "env.release": 1.3, "env.trigger": 2, "osc.wave": 0.8},
			sources: map[string]float64{"velocity": 4, "wheel": 4, "aftertouch": 3, "key": 3, "bend": 3}}},
}

// byPatch are the weights by the kind of patch (common practice, no source).
var byPatch = map[string]weights{
	"bass":  {kinds: map[meaning.Kind]float64{meaning.Sub: 1.5, meaning.Reverb: 0.5, meaning.Chorus: 0.7, meaning.Delay: 0.6}, params: map[string]float64{"osc.interval": 1.2, "env.decay": 1.2}},
	"lead":  {kinds: map[meaning.Kind]float64{meaning.Delay: 1.2, meaning.Sub: 0.8}, params: map[string]float64{"voice.glide": 1.4, "voice.trigger": 1.3}, sources: map[string]float64{"wheel": 1.3, "aftertouch": 1.3, "bend": 1.3}},
	"pad":   {kinds: map[meaning.Kind]float64{meaning.LFO: 1.3, meaning.Chorus: 1.4, meaning.Reverb: 1.4}, params: map[string]float64{"env.attack": 1.3, "env.release": 1.4, "voice.glide": 0.6}},
	"pluck": {kinds: map[meaning.Kind]float64{meaning.Env: 1.3}, params: map[string]float64{"env.attack": 1.4, "env.decay": 1.4, "env.release": 1.1}, sources: map[string]float64{"velocity": 1.3}},
}

// SpecOfSchool finds a school in the table; nil where there is none.
func SpecOfSchool(s School) *SchoolSpec {
	for i := range Schools {
		if Schools[i].School == s {
			return &Schools[i]
		}
	}
	return nil
}

// Plainly gives a school without its weights and without what it sets otherwise than by its number.
func (s *SchoolSpec) Plainly() *SchoolSpec {
	return &SchoolSpec{School: s.School, Label: s.Label, Says: s.Says, Compensates: s.Compensates}
}

// Policy weighs the parts of one patch by a school.
type Policy struct {
	School *SchoolSpec
	patch  weights
	parts  map[string]float64 // what somebody has chosen, by the id of the source's part
	heard  map[string]float64 // how much each is heard; nil where that has not been found out
	loud   map[string]float64 // how loud each source of sound is beside the loudest, as far as that can be reckoned
	// anyPitch lets a part be played at another pitch than it asks for: where all else would be silence.
	anyPitch bool
	// mustSound has what sounds count for more than anything else: where else nothing would.
	mustSound bool
}

// PolicyOf makes the policy of a school for a kind of patch, with what somebody has decided and how much each part is heard.
func PolicyOf(s *SchoolSpec, kind string, c Choices, heard map[string]float64) *Policy {
	return &Policy{School: s, patch: byPatch[kind], parts: c.Weight, heard: heard}
}

func factor[K comparable](m map[K]float64, k K) float64 {
	if f, ok := m[k]; ok {
		return f
	}
	return 1
}

func (p *Policy) kind(k meaning.Kind) float64 {
	return factor(p.School.kinds, k) * factor(p.patch.kinds, k)
}

// Param gives the factor on a parameter of a kind of module.
func (p *Policy) Param(k meaning.Kind, name meaning.ParamName) float64 {
	if len(p.School.params) == 0 && len(p.patch.params) == 0 {
		return 1
	}
	key := meaning.Ref(string(k), name)
	return factor(p.School.params, key) * factor(p.patch.params, key)
}

func (p *Policy) source(name string) float64 {
	return factor(p.School.sources, name) * factor(p.patch.sources, name)
}

// unheard is the least that a part counts for that is not heard at all: it may go wherever something is to be
// gained by it.
const unheard = 0.02

// chosen gives the factor on a part by what somebody has decided about it and how much it is heard.
func (p *Policy) chosen(id string) float64 {
	if p.heard == nil {
		return factor(p.parts, id) * factor(p.loud, id)
	}
	return factor(p.parts, id) * max(unheard, factor(p.heard, id))
}
