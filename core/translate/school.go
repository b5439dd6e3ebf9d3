package translate

import (
	"fmt"
	"math"

	"glossator/core/dsp"
	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/core/rules"
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
	slope, bass, loudness, half bool
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
		slope:       true, bass: true, loudness: true,
		weights: weights{kinds: map[meaning.Kind]float64{meaning.Filter: 1.2, meaning.Chorus: 1.3, meaning.Drive: 1.2, meaning.Voice: 0.8},
			params:  map[string]float64{"osc.wave": 1.3, "filter.cutoff": 1.4, "filter.resonance": 1.2, "env.decay": 1.2, "osc.phase": 0.5, "voice.priority": 0.3, "filter.track": 0.8},
			sources: map[string]float64{"velocity": 0.7, "wheel": 0.7, "aftertouch": 0.6, "bend": 0.5}}},
	{School: Feel, Label: "by feel", Says: "how it plays before how it sounds: velocity, tracking, wheel, legato, glide",
		Compensates: []string{"resonance for an equal peak", "cutoff for another pivot", "decay and release by half-life where the curves differ"},
		half:        true,
		weights: weights{kinds: map[meaning.Kind]float64{meaning.Voice: 2, meaning.Env: 1.3, meaning.Reverb: 0.6, meaning.Delay: 0.7, meaning.Chorus: 0.6, meaning.EQ: 0.5},
			params:  map[string]float64{"voice.glide": 2, "voice.glideWhen": 2, "voice.trigger": 2, "voice.mode": 1.5, "voice.bend": 1.5, "filter.track": 2, "env.attack": 1.5, "env.release": 1.3, "env.trigger": 2, "osc.wave": 0.8},
			sources: map[string]float64{"velocity": 2, "wheel": 2, "aftertouch": 1.6, "key": 1.6, "bend": 1.6}}},
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

// policy weighs the parts of one patch by a school.
type policy struct {
	school *SchoolSpec
	patch  weights
	parts  map[string]float64 // what somebody has chosen, by the id of the source's part
	heard  map[string]float64 // how much each is heard
}

func policyOf(s *SchoolSpec, kind string, c Choices, heard map[string]float64) *policy {
	return &policy{s, byPatch[kind], c.Weight, heard}
}

func factor[K comparable](m map[K]float64, k K) float64 {
	if f, ok := m[k]; ok {
		return f
	}
	return 1
}

func (p *policy) kind(k meaning.Kind) float64 {
	return factor(p.school.kinds, k) * factor(p.patch.kinds, k)
}

func (p *policy) param(k meaning.Kind, name meaning.ParamName) float64 {
	if len(p.school.params) == 0 && len(p.patch.params) == 0 {
		return 1
	}
	key := meaning.Ref(string(k), name)
	return factor(p.school.params, key) * factor(p.patch.params, key)
}

func (p *policy) source(name string) float64 {
	return factor(p.school.sources, name) * factor(p.patch.sources, name)
}

// adjusted is a parameter that is set otherwise than by its number.
type adjusted struct {
	value float64
	note  string
}

// compensate works out, from how the target stands now, what a school sets otherwise, and puts it
// into the meaning that is played. It tells whether anything was changed.
func (j *job) compensate() bool {
	s := j.t.policy.school
	j.adjust = map[string]adjusted{}
	level, why := 0.0, ""
	more := func(db float64, reason string) {
		if math.Abs(db) >= 0.1 {
			level += db
			why += "; " + reason
		}
	}
	for i := range j.wanted.Modules {
		m := &j.wanted.Modules[i]
		if !m.Used() {
			continue
		}
		id, there := j.castID(m.ID)
		ti, placed := j.plan.module[id]
		if !there || !placed {
			if s.loudness && m.Kind == meaning.Drive && j.recastOf(m.ID) == nil {
				g, _ := m.Get(meaning.PGain)
				more(dsp.OverloadDB(g.Value), fmt.Sprintf("%s for the drive that is not there", signedDB(dsp.OverloadDB(g.Value))))
			}
			continue
		}
		r := j.got.Module(j.t.Modules[ti].ID)
		switch m.Kind {
		case meaning.Filter:
			j.slope(m, r, id)
			if s.bass && lowpass(m) && lowpass(r) {
				if db, ok := j.filterLevel(m, r, id); ok {
					more(db, fmt.Sprintf("%s for what the filters let through there and here", signedDB(db)))
				} else {
					a, b := bassLoss(m), bassLoss(r)
					more(b-a, fmt.Sprintf("%s for the bass that resonance takes there and here", signedDB(b-a)))
				}
			}
		case meaning.Env:
			j.halfLife(m, r, id)
		case meaning.Osc:
			if n, k := count(m, meaning.PUnison), count(r, meaning.PUnison); s.loudness && n != k && j.recastOf(m.ID) == nil {
				db := 10 * math.Log10(n/k)
				if v, ok := m.Params[meaning.PLevel]; ok && !v.Off {
					j.adjust[meaning.Ref(id, meaning.PLevel)] = adjusted{v.Value + db, fmt.Sprintf("%s for unison of %g there and %g here", signedDB(db), n, k)}
				}
			}
		}
	}
	if level != 0 {
		for i := range j.cast.Modules {
			m := &j.cast.Modules[i]
			if v, ok := m.Params[meaning.PLevel]; ok && m.Kind == meaning.Amp && m.Used() && !v.Off {
				j.adjust[meaning.Ref(m.ID, meaning.PLevel)] = adjusted{v.Value + level, why[2:]}
				break
			}
		}
	}
	if len(j.adjust) == 0 {
		return false
	}
	cast := *j.cast
	cast.Modules = append([]meaning.Module(nil), j.cast.Modules...)
	for i := range cast.Modules {
		m := &cast.Modules[i]
		params := make(map[meaning.ParamName]meaning.Value, len(m.Params))
		changed := false
		for name, v := range m.Params {
			if a, ok := j.adjust[meaning.Ref(m.ID, name)]; ok {
				v.Value, changed = a.value, true
			}
			params[name] = v
		}
		if !changed {
			continue
		}
		m.Params = params
		delete(j.plan.fit, m.ID) // it was worked out for what it was
	}
	j.cast = &cast
	return true
}

// slope adjusts a cutoff where the number of poles differs.
func (j *job) slope(m, r *meaning.Module, id string) {
	from, to := int(count(m, meaning.PPoles)), int(count(r, meaning.PPoles))
	moved := j.opened(j.wanted, m.ID) - j.opened(j.got, r.ID)
	if !j.t.policy.school.slope || from == to && math.Abs(moved) < openedMatters || !lowpass(m) || !lowpass(r) {
		return
	}
	c, ok := m.Params[meaning.PCutoff]
	if !ok || c.Off {
		return
	}
	if j.wanted.Graph().Past() {
		return // part of the sound does not go through it: its brightness is not the filter's alone
	}
	note := j.note()
	track, _ := m.Get(meaning.PTrack)
	fc := c.Value * math.Pow(float64(note)/float64(q.Note(60).Frequency()), track.Value) * math.Exp2(j.opened(j.wanted, m.ID))
	a, _ := m.Get(meaning.PResonance)
	b, _ := r.Get(meaning.PResonance)
	there, here := toneOf(j.wanted, float64(note)), toneOf(j.got, float64(note))
	on := "what the oscillators play"
	if there == nil || here == nil {
		there, here, on = dsp.SawTone(float64(note)), dsp.SawTone(float64(note)), "a saw"
	}
	f := dsp.EqualBrightnessOf(there, here, fc, from, to, a.Value, b.Value)
	if from == to {
		f = 1 // the oscillators alone do not move it: their waves have lines of their own
	}
	f *= math.Exp2(moved)
	if math.Abs(math.Log(f)) < 0.01 {
		return
	}
	why := fmt.Sprintf("%d poles there, %d here, ", from, to)
	if from == to {
		why = ""
	}
	if math.Abs(moved) >= openedMatters {
		why += fmt.Sprintf("%s of what opens it missing here, ", q.Quantity{Dim: q.DimOctaves, Value: moved})
	}
	j.adjust[meaning.Ref(id, meaning.PCutoff)] = adjusted{c.Value * f, fmt.Sprintf("%s of the cutoff: %sas bright on %s at %s", q.Number(f, 3), why, on, note.Note().NoteName())}
}

// openedMatters is how many octaves of what opens a filter have to be missing to count: about a third of an octave
// is heard (common practice, no source).
const openedMatters = 0.3

// opened gives how many octaves a filter stands open while a note is held, beyond its cutoff: envelopes at a third of
// the way from their sustain to full, velocity at 100 (common practice, no source).
func (j *job) opened(m *meaning.Meaning, filter string) float64 {
	sum := 0.0
	for i := range m.Routes {
		r := &m.Routes[i]
		if !r.Used() || r.Via != "" && r.Via != "velocity" || r.Depth.Dim != q.DimOctaves {
			continue
		}
		for _, to := range r.To {
			if to != meaning.Ref(filter, meaning.PCutoff) {
				continue
			}
			d := r.Depth.Value
			if r.Via == "velocity" {
				d *= 100.0 / 127
			}
			switch e := m.Module(r.From); {
			case r.From == "velocity":
				sum += d * 100 / 127
			case e != nil && e.Kind == meaning.Env:
				s, _ := e.Get(meaning.PSustain)
				sum += d * (s.Value + (1-s.Value)/3)
			}
		}
	}
	return sum
}

// filterLevel gives how much louder the target's oscillators have to be behind its filter to be as loud as the source's
// behind its own: A-weighted power of what passes, with what resonance takes from the bass.
func (j *job) filterLevel(m, r *meaning.Module, id string) (db float64, ok bool) {
	note := float64(j.note())
	there, here := toneOf(j.wanted, note), toneOf(j.got, note)
	if there == nil || here == nil || j.wanted.Graph().Past() {
		return 0, false
	}
	pass := func(of *meaning.Meaning, f *meaning.Module, tone []dsp.Partial, cutoff float64) float64 {
		track, _ := f.Get(meaning.PTrack)
		res, _ := f.Get(meaning.PResonance)
		fc := cutoff * math.Pow(note/float64(q.Note(60).Frequency()), track.Value) * math.Exp2(j.opened(of, f.ID))
		sum := 0.0
		for _, p := range tone {
			g := dsp.LowpassGain(int(count(f, meaning.PPoles)), res.Value, p.Hz/fc)
			sum += g * g * p.Power * math.Pow(10, q.AWeight(p.Hz)/10)
		}
		return 10*math.Log10(sum) - bassLoss(f)
	}
	a, _ := m.Get(meaning.PCutoff)
	b, _ := r.Get(meaning.PCutoff)
	if a.Off || b.Off {
		return 0, false
	}
	cutoff := b.Value
	if x, is := j.adjust[meaning.Ref(id, meaning.PCutoff)]; is {
		cutoff = x.value // it is set to that next
	}
	return pass(j.wanted, m, there, a.Value) - pass(j.got, r, here, cutoff), true
}

// toneOf gives the partials of the oscillators of a meaning on a note; nil where there is none whose wave is known,
// or other sources besides.
func toneOf(m *meaning.Meaning, note float64) (out []dsp.Partial) {
	for i := range m.Modules {
		d := &m.Modules[i]
		if !d.Used() {
			continue
		}
		switch d.Kind {
		case meaning.Operator, meaning.Ring:
			return nil
		case meaning.Osc, meaning.Sub:
		default:
			continue
		}
		level, _ := d.Get(meaning.PLevel)
		if level.Off {
			continue
		}
		interval, _ := d.Get(meaning.PInterval)
		f := note * q.Interval(interval.Value).Ratio()
		amplitudes := rules.Harmonics(d, min(400, max(1, int(16000/f))))
		if amplitudes == nil {
			return nil
		}
		power := math.Pow(10, level.Value/10)
		for n, a := range amplitudes {
			if hz := float64(n+1) * f; hz < 16000 {
				out = append(out, dsp.Partial{Hz: hz, Power: power * a * a})
			}
		}
	}
	return out
}

// halfLife adjusts decay and release where one envelope falls straight and the other curved: both
// are then half way at the same time.
func (j *job) halfLife(m, r *meaning.Module, id string) {
	if !j.t.policy.school.half {
		return
	}
	a, _ := m.Get(meaning.PCurve)
	b, _ := r.Get(meaning.PCurve)
	if a.Name == b.Name {
		return
	}
	f := halfOfT90(a.Name) / halfOfT90(b.Name)
	if math.Abs(f-1) < 0.01 {
		return
	}
	for _, name := range []meaning.ParamName{meaning.PDecay, meaning.PRelease} {
		if v, ok := m.Params[name]; ok && !v.Off {
			j.adjust[meaning.Ref(id, name)] = adjusted{v.Value * f, fmt.Sprintf("half way at the same time: %s there, %s here", a.Name, b.Name)}
		}
	}
}

// halfOfT90 gives the time to half way over that to 90 % (circuit theory; a straight ramp).
func halfOfT90(curve string) float64 {
	if curve == "linear" {
		return 0.5 / 0.9
	}
	return math.Ln2 / math.Log(10)
}

// note gives the middle of the notes that the patch is played at: of its phrase by their lengths, else
// what is usual for its kind (common practice, no source).
func (j *job) note() q.Frequency {
	if p := j.patch.Phrase; p != nil {
		if beats, err := phrase.Beats(p); err == nil {
			var sum, weighed float64
			for _, b := range beats {
				sum += b.End - b.At
				weighed += (b.End - b.At) * float64(b.Key)
			}
			if sum > 0 {
				return q.Note(math.Round(weighed / sum)).Frequency()
			}
		}
	}
	key := map[string]float64{"bass": 33, "lead": 69, "pad": 60, "pluck": 64}[j.patch.Kind]
	if key == 0 {
		key = 60
	}
	return q.Note(key).Frequency()
}

func lowpass(m *meaning.Module) bool {
	v, _ := m.Get(meaning.PMode)
	return v.Name == "lowpass"
}

func bassLoss(m *meaning.Module) float64 {
	r, _ := m.Get(meaning.PResonance)
	return dsp.BassLossDB(int(count(m, meaning.PPoles)), r.Value)
}

func count(m *meaning.Module, name meaning.ParamName) float64 {
	v, _ := m.Get(name)
	return math.Max(1, math.Round(v.Value))
}

func signedDB(x float64) string {
	s := q.Number(x, 2) + " dB"
	if x > 0 {
		s = "+" + s
	}
	return s
}

// Change is a setting that is not the same on two sheets of one patch on one target.
type Change struct {
	Control string `json:"control"`
	Label   string `json:"label"`
	Was     string `json:"was"`
	Is      string `json:"is"`
	Why     string `json:"why"`
}

// Changes lists the settings in which a sheet differs from another one, in working order.
func Changes(was, is *Sheet) []Change {
	old := map[string]string{}
	for _, s := range was.Settings {
		old[s.Control] = s.Reading
	}
	why := map[string]string{}
	for i := range is.Glosses {
		for _, r := range is.Glosses[i].Target {
			if why[r.Control] == "" {
				why[r.Control] = is.Glosses[i].Reason
			}
		}
	}
	out := []Change{}
	for _, s := range is.Settings {
		if before, ok := old[s.Control]; ok && before != s.Reading {
			reason := why[s.Control]
			if reason == "" {
				reason = s.Why
			}
			out = append(out, Change{s.Control, s.Section + ": " + s.Label, before, s.Reading, reason})
		}
	}
	return out
}
