package ear

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"glossator/core/compare"
	"glossator/core/hear"
	"glossator/core/jnd"
	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/core/synth"
)

// Part is one thing of a patch that can be made to differ.
type Part struct {
	// ID is "module.parameter" or "route.depth"; Label says it in words.
	ID    string `json:"id"`
	Label string `json:"label"`
	// Differs is the just-noticeable difference that it is counted in.
	Differs jnd.Difference `json:"differs"`
	// Most is the largest difference that there is room for, each way.
	Most float64 `json:"most"`

	module, route string
	param         meaning.ParamName
	weight        float64
}

// Loudness is the level that all sounds are brought to, in LUFS (ITU-R BS.1770), and Peak what none passes, in dBFS: quiet, so that the listener turns up, and not down in fright.
const (
	Loudness         = -30.0
	Peak     q.Level = -9
)

// faintest is how loud a sound has to be to be brought up, in LUFS: what is fainter is its own noise (common practice, no source).
const faintest = -70

// leastRoom is how many just-noticeable differences there has to be room for.
const leastRoom = 3

// dims are those in which numbers are heard as more or less.
var dims = []q.Dim{q.DimInterval, q.DimFrequency, q.DimDuration, q.DimLevel, q.DimRatio, q.DimOctaves, q.DimResonance}

// room gives how far a value can be moved down and up, in the sense of quantity.Distance.
func room(v q.Quantity) (down, up float64) {
	far := math.Inf(1)
	switch v.Dim {
	case q.DimRatio:
		return v.Value, 1 - v.Value
	case q.DimResonance: // short of oscillating by itself, which is loud
		return v.Value, max(0, 0.9-v.Value)
	case q.DimLevel:
		return far, 12
	case q.DimFrequency:
		return math.Log(max(v.Value, 1) / 0.02), math.Log(20000 / max(v.Value, 1e-3))
	case q.DimDuration:
		return far, math.Log(30 / max(v.Value, 1e-4))
	case q.DimOctaves:
		return math.Abs(v.Value) + 2, 2
	}
	return far, far
}

// Parts lists what of a patch can be made to differ, what matters the most first. Whether it is heard at the note that is played, Heard tells.
func Parts(m *meaning.Meaning) []Part {
	var out []Part
	add := func(x Part, v q.Quantity) {
		if v.Off || !v.Finite() || x.Differs.Size < 1e-4 || !slices.Contains(dims, v.Dim) || v.Dim.Geometric() && v.Value <= 0 {
			return
		}
		down, up := room(v)
		if x.Most = min(Largest, max(down, up)/x.Differs.Size); x.Most >= leastRoom {
			out = append(out, x)
		}
	}
	for i := range m.Modules {
		d := &m.Modules[i]
		if !d.Used() || d.Absent {
			continue
		}
		spec := meaning.SpecOf(d.Kind)
		for _, p := range spec.Params {
			v, has := d.Params[p.Name]
			if !has || p.Name == meaning.PKey || !p.Heard(d) || // at one note key follow is a pitch or a cutoff
				p.Weight < 0.4 || p.Unplayed != "" || p.Dim.Named() {
				continue
			}
			add(Part{ID: meaning.Ref(d.ID, p.Name), Label: d.Label + ": " + p.Label, Differs: p.JND, module: d.ID, param: p.Name, weight: p.Weight}, v.Quantity)
		}
	}
	for i := range m.Routes {
		r := &m.Routes[i]
		if r.Idle != "" || r.Depth.Dim != q.DimOctaves || r.Depth.Value == 0 {
			continue
		}
		add(Part{ID: r.ID + ".depth", Label: r.Label + ": depth", Differs: jnd.Octaves, route: r.ID, weight: 0.7}, r.Depth.Quantity)
	}
	sort.SliceStable(out, func(a, b int) bool { return out[a].weight > out[b].weight })
	return out
}

// Changed gives a patch with one part moved by so many just-noticeable differences, up or down; where there is no room that way it goes the other. Did is how far it went, with its sign.
func Changed(m *meaning.Meaning, x Part, size float64, up bool) (out *meaning.Meaning, did float64) {
	c := *m
	c.Modules, c.Routes = slices.Clone(m.Modules), slices.Clone(m.Routes)
	move := func(v q.Quantity) q.Quantity {
		d := size * x.Differs.Size
		least, most := room(v)
		if up && d > most && least > most {
			up = false
		} else if !up && d > least && most > least {
			up = true
		}
		if d = min(d, most); !up {
			d = -min(size*x.Differs.Size, least)
		}
		did = d
		if v.Dim.Geometric() {
			v.Value *= math.Exp(d)
		} else {
			v.Value += d
		}
		return v
	}
	for i := range c.Modules {
		if d := &c.Modules[i]; x.module != "" && d.ID == x.module {
			params := map[meaning.ParamName]meaning.Value{}
			for k, v := range d.Params {
				params[k] = v
			}
			v := params[x.param]
			v.Quantity = move(v.Quantity)
			v.Beats, v.Parts = 0, nil
			params[x.param] = v
			d.Params = params
		}
	}
	for i := range c.Routes {
		if r := &c.Routes[i]; x.route != "" && r.ID == x.route {
			r.Depth.Quantity = move(r.Depth.Quantity)
		}
	}
	return &c, did
}

// Says says by how much a part was moved, as in "+1.2 dB" or "4 % less".
func Says(x Part, did float64) string {
	switch {
	case x.Differs.Share:
		return fmt.Sprintf("%+.0f %%", 100*(math.Exp(did)-1))
	case x.Differs.Unit == "of 1" || x.Differs.Unit == "of a cycle" || x.Differs.Unit == "of the way to self-oscillation":
		return fmt.Sprintf("%+.0f %% %s", 100*did, x.Differs.Unit)
	}
	return fmt.Sprintf("%+.2g %s", did, x.Differs.Unit)
}

// Note gives the one note that is played of a phrase: the middle key, long enough for what a patch does, short enough to be kept in mind.
func Note(notes []phrase.Note) []phrase.Note {
	key, velocity := 48.0, 96
	if len(notes) > 0 {
		by := slices.Clone(notes)
		sort.SliceStable(by, func(a, b int) bool { return by[a].Key < by[b].Key })
		key, velocity = by[len(by)/2].Key, by[len(by)/2].Velocity
	}
	return []phrase.Note{{Start: 0, End: 1.2, Key: key, Velocity: velocity}}
}

// longest is how long a sound lasts at most, in samples; it fades out before.
const longest = 9 * synth.Rate / 4

// Sound renders a patch at a note, at Loudness, and no higher than Peak. The error says that it is silent, or what cannot be rendered.
func Sound(m *meaning.Meaning, transpose q.Interval, notes []phrase.Note) (left, right []float64, err error) {
	s, err := synth.Render([]synth.Layer{{Meaning: m, Transpose: transpose}}, notes, synth.Options{})
	if err != nil {
		return nil, nil, err
	}
	left, right = s.Left, s.Right
	if len(left) > longest {
		left, right = left[:longest], right[:longest]
	}
	fade := min(len(left), synth.Rate/10)
	for k := range fade {
		g := float64(k) / float64(fade)
		left[len(left)-1-k] *= g
		right[len(right)-1-k] *= g
	}
	loud := compare.Sketched(hear.Wave{Rate: synth.Rate, Left: left, Right: right}).Loudness
	if !(loud > faintest) {
		return nil, nil, fmt.Errorf("it is silent")
	}
	g := math.Pow(10, (Loudness-loud)/20)
	for k := range left {
		left[k], right[k] = g*left[k], g*right[k]
	}
	synth.Limit(left, right, Peak)
	return left, right, nil
}

// heard is how far two sounds have to lie apart for a part to be practised, at its largest difference, in just-noticeable differences of what is heard.
const heard = 1.0

// Heard gives the parts of a patch that are heard at a note when they differ as much as they can, at most so many, of each just-noticeable difference the one that matters the most first.
func Heard(m *meaning.Meaning, transpose q.Interval, notes []phrase.Note, most int, stop func() bool) ([]Part, error) {
	all := Parts(m)
	left, right, err := Sound(m, transpose, notes)
	if err != nil {
		return nil, err
	}
	base := compare.Sketched(hear.Wave{Rate: synth.Rate, Left: left, Right: right})
	var out []Part
	had := map[string]int{}
	for round := range 2 { // first one of each kind
		for _, x := range all {
			if len(out) >= most || stop != nil && stop() {
				return out, nil
			}
			if had[x.Differs.Name] != round || slices.ContainsFunc(out, func(y Part) bool { return y.ID == x.ID }) {
				continue
			}
			moved, _ := Changed(m, x, min(x.Most, Largest), true)
			l, r, err := Sound(moved, transpose, notes)
			if err != nil {
				continue
			}
			if d := compare.Apart(base, compare.Sketched(hear.Wave{Rate: synth.Rate, Left: l, Right: r}), false); d.Total >= heard {
				had[x.Differs.Name]++
				out = append(out, x)
			}
		}
	}
	return out, nil
}
