package calibrate

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"golang.org/x/sync/errgroup"
	"gonum.org/v1/gonum/interp"

	"glossator/core/hear"
	"glossator/core/jnd"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/core/scale"
	"glossator/core/synth"
)

// HandU is how far off a control is set with care, as a share of the uncertainty with which it is read by eye (common practice, no source).
const HandU = 0.5

// seed is that of the model's renders; a second one tells how much a figure hangs on chance.
const seed = 7

// seeds are those of its set (synth.Takes), itself first: with all of them is played what is brief, in seconds, and the mean figure taken. In a few
// cycles of a wave it hangs on where they begin.
var seeds = []uint64{seed, 5, 6, 8, 9}

const brief = 1.0

// noisy tells whether what is played is a noise.
func (b *Bench) noisy() bool {
	st := *b.set.at
	m := b.Panel.Interpret(&st, panel.DefaultTempo)
	return slices.ContainsFunc(m.Modules, func(d meaning.Module) bool { return d.Kind == meaning.Noise && d.Used() })
}

// nodes is at how many places of the travel the model is played.
const nodes = 13

// ErrNoRecipe is returned where a control cannot be measured; the error that wraps it says why.
var ErrNoRecipe = errors.New("no recipe fits")

// Bench is a control that can be measured by a recipe.
type Bench struct {
	Panel   *panel.Compiled
	Control int
	// Bind is which of the control's meanings is measured.
	Bind   int
	Recipe *Recipe
	// Figure says what is taken from a recording.
	Figure string

	law    scale.Law
	dim    q.Dim
	param  meaning.Param
	set    *setup
	module *meaning.Module // as the model has it, for what turns a figure into a value directly; nil for a route
	feat   feature
	model  *curve
	span   float64   // how far the law goes, in the domain of the fit
	looked []float64 // travels at which the law is looked at: up to 33
	uses   []float64 // travels at which it has to be known; empty for everywhere
	many   bool      // the model is heard at twice its rate, or at more times of it
	rest   others    // how far off values may be because of the other laws
}

// For gives the bench for somebody who needs the law at some travels above all: takes are planned, and what is known is told, by them.
func (b *Bench) For(uses []float64) *Bench {
	out := *b
	out.uses = uses
	return &out
}

// Uses counts the places that the bench is for.
func (b *Bench) Uses() int { return len(b.uses) }

// weights gives how much it counts that the law is known at travels; they sum to one.
func (b *Bench) weights(ps []float64) []float64 {
	const near = 0.06
	out, sum := make([]float64, len(ps)), 0.0
	for i, p := range ps {
		out[i] = 1
		if len(b.uses) > 0 {
			out[i] = 0.05
			for _, u := range b.uses {
				out[i] += math.Exp(-(p - u) * (p - u) / (2 * near * near))
			}
		}
		sum += out[i]
	}
	for i := range out {
		out[i] /= sum
	}
	return out
}

// Begin finds the recipe for a control and sets the panel up for it; name is that of a recipe, empty for the first that fits. It plays the model, which takes about a second. The error wraps ErrNoRecipe where none fits.
func Begin(c *panel.Compiled, control, name string) (*Bench, error) {
	k, ok := c.ControlIndex(control)
	if !ok {
		return nil, fmt.Errorf("%s has no control %q", c.Name, control)
	}
	x := &c.Controls[k]
	bind := slices.IndexFunc(x.Means, func(b panel.Bind) bool { return b.Law.Kind != scale.Listed })
	switch {
	case len(x.Means) == 0:
		return nil, fmt.Errorf("%w: %s sets nothing that sounds", ErrNoRecipe, x.Label)
	case bind < 0:
		return nil, fmt.Errorf("%w: %s has a value for each position, and no law to find out", ErrNoRecipe, x.Label)
	case x.Face.Exact && x.Means[bind].Law.Dim() == q.DimCount:
		return nil, fmt.Errorf("%w: %s counts, and there is no law to find out", ErrNoRecipe, x.Label)
	}
	if name != "" && RecipeOf(name) == nil {
		return nil, fmt.Errorf("expected a recipe: %s, got %q", strings.Join(RecipeNames(), ", "), name)
	}
	t := targetOf(c, k, bind)
	var why []string
	for _, r := range Recipes {
		if name != "" && r.Name != name || !r.fits(t) {
			continue
		}
		b, err := begin(t, r)
		if err == nil {
			return b, nil
		}
		why = append(why, r.Label+": "+err.Error())
	}
	if len(why) == 0 {
		why = []string{"it is not built for " + t.ref}
		if name != "" {
			why = []string{fmt.Sprintf("%s is not for %s", RecipeOf(name).Label, x.Label)}
		}
	}
	return nil, fmt.Errorf("%w: %s", ErrNoRecipe, strings.Join(why, "; "))
}

// RecipeNames lists the names of the recipes.
func RecipeNames() []string {
	var out []string
	for _, r := range Recipes {
		out = append(out, r.Name)
	}
	return out
}

// Fitting lists the recipes that are for a control, the better ones first; which of them the instrument has what it needs for, Begin tells.
func Fitting(c *panel.Compiled, control int) []*Recipe {
	out := []*Recipe{}
	x := &c.Controls[control]
	bind := slices.IndexFunc(x.Means, func(b panel.Bind) bool { return b.Law.Kind != scale.Listed })
	if bind < 0 {
		return out
	}
	t := targetOf(c, control, bind)
	for _, r := range Recipes {
		if r.fits(t) {
			out = append(out, r)
		}
	}
	return out
}

// begin tries the set-ups of a recipe.
func begin(t *target, r *Recipe) (*Bench, error) {
	b := &Bench{Panel: t.c, Control: t.control, Bind: t.bind, Recipe: r, law: t.law().Law}
	b.dim = b.law.Dim()
	if p, err := t.c.Param(t.ref); err == nil {
		b.param = p
	}
	b.span = b.spanOf()
	for _, p := range b.measurable(33) {
		b.looked = append(b.looked, p.Travel)
	}
	ways := r.ways(t)
	if len(ways) == 0 {
		return nil, fmt.Errorf("needs %s", r.Needs)
	}
	why := "needs " + r.Needs
	for n, way := range ways {
		if n >= 6 { // what six sources do not show, a seventh will not
			break
		}
		s := readied(t, way)
		if s == nil {
			continue
		}
		b.set = s
		if err := b.calibrate(); err != nil {
			why = err.Error()
			continue
		}
		if t.module != nil {
			i, _ := t.c.ModuleIndex(t.module.ID)
			m := t.c.Module(i, s.at, panel.DefaultTempo)
			b.module = &m
		}
		b.many = b.feat.octaves && b.twice()
		return b, nil
	}
	return nil, errors.New(why)
}

// Settings lists what everything else is to be set to.
func (b *Bench) Settings() []Stand { return b.set.settings() }

// Held is which of the player's means (patch.PlayersMeans) is to be held all the way while a take is played, and what it is called; both are empty where none is.
func (b *Bench) Held() (what, label string) { return b.set.player, heldLabels[b.set.player] }

// heldLabels are what a player's means are called beside "all the way".
var heldLabels = map[string]string{"wheel": "Modulation wheel", "bend": "Bender, upwards", "aftertouch": "Pressure on the key", "pedal": "Pedal", "breath": "Breath"}

// Tail is the most that is listened to what goes on after the notes of a take, in seconds: it is recorded until it is gone.
const Tail = 30

// Holding is how one of the player's means goes through a take where it is held all the way: nil where what is empty.
func Holding(what string) []phrase.Gesture {
	if what == "" {
		return nil
	}
	return []phrase.Gesture{{What: what, Points: []phrase.Point{{Value: 1}}}}
}

// Notes gives what is to be played at a reading, in seconds.
func (b *Bench) Notes(at scale.Position) []phrase.Note {
	v, _ := b.law.Quantity(at)
	return b.Recipe.notes(v.Value)
}

// Position reads a reading of the control.
func (b *Bench) Position(reading string) (scale.Position, error) {
	return b.Panel.Parse(b.Control, reading)
}

// Law is the law as the panel has it.
func (b *Bench) Law() scale.Law { return b.law }

// render plays the model with the control at a position.
func (b *Bench) render(at scale.Position, seed uint64) (*Sound, error) {
	return b.renderOn(b.Panel, b.set.at.At, at, seed)
}

// renderOn plays a panel with its controls where they stand, and the one that is measured at a position.
func (b *Bench) renderOn(c *panel.Compiled, stands []scale.Position, at scale.Position, seed uint64) (*Sound, error) {
	st := *b.set.at
	st.At = slices.Clone(stands)
	at.U = 0
	st.At[b.Control] = at
	notes := b.Notes(at)
	s, err := synth.Render([]synth.Layer{{Meaning: c.Interpret(&st, panel.DefaultTempo), Played: Holding(b.set.player)}}, notes, synth.Options{Seed: seed, Raw: true, Workers: 1, Tail: Tail})
	if err != nil {
		return nil, err
	}
	return &Sound{Wave: hear.Wave{Rate: synth.Rate, Left: s.Left, Right: s.Right}, Notes: notes}, nil
}

// Places thins places out to so many, in even steps with both ends; fewer stay as they are.
func Places(all []scale.Position, most int) []scale.Position {
	if len(all) <= most {
		return all
	}
	out := make([]scale.Position, most)
	for i := range out {
		out[i] = all[int(math.Round(float64(i)*float64(len(all)-1)/float64(most-1)))]
	}
	return out
}

// measurable lists the positions of the control that mean something, at most so many.
func (b *Bench) measurable(most int) []scale.Position {
	var all []scale.Position
	for _, p := range b.Panel.Places(b.Control) {
		if _, ok := b.law.Raw(p.Travel); ok {
			all = append(all, p)
		}
	}
	return Places(all, most)
}

// curve goes from a figure to the value that the model had, both ways.
type curve struct {
	travel, value, figure []float64 // in rising travel; value in the domain of the fit
	noise                 float64   // of the figure by chance, one standard deviation
	between               []float64 // how far off a value between two nodes may be, at each node, in the domain of the fit
	toValue, toFigure     func(float64) float64
	low, high             float64 // the figures that it holds between
}

// calibrate plays the model over the travel, and picks the first of the recipe's figures that goes with the parameter.
func (b *Bench) calibrate() error {
	places := b.measurable(nodes)
	if len(places) < 3 {
		return errors.New("it has fewer than three positions to measure")
	}
	all, err := b.playAt(places, 3)
	if err != nil {
		return err
	}
	why := "nothing is heard of it"
	var likely []candidate // figures of likeness, where none of its own holds over most of the travel
	var own *candidate
	for _, f := range b.Recipe.features {
		c, said := b.curveOf(f, all)
		if c == nil {
			if said != "" {
				why = said
			}
			continue
		}
		least := 0.5
		if f.signless {
			least = 0.25
		}
		whole := c.travel[len(c.travel)-1]-c.travel[0] >= least*(places[len(places)-1].Travel-places[0].Travel)
		if !isLikeness(f) && whole && !b.Recipe.trial {
			own = &candidate{c, f}
			break
		}
		likely = append(likely, candidate{c, f})
		if f.relative == absolute && (isLikeness(f) || b.Recipe.trial) && b.hasNone(places) { // what it is without any of it is the same in both
			likely = append(likely, candidate{c, f.against(againstNone)})
		}
	}
	if own != nil {
		likely = []candidate{*own}
	}
	if len(likely) == 0 {
		return errors.New(why)
	}
	best, err := b.surest(likely, places)
	if err != nil {
		return err
	}
	b.model, b.feat, b.Figure = best.curve, best.feature, best.name
	return b.refine(all)
}

// played is what the model plays at a position: with one seed or more, and again with another where that is asked.
type played struct {
	at     scale.Position
	sounds []*Sound
	again  *Sound
}

// playAt plays the model at places, at so many of them again.
func (b *Bench) playAt(places []scale.Position, again int) ([]played, error) {
	out := make([]played, len(places))
	var g errgroup.Group
	g.SetLimit(2)
	for i := range out {
		x := &out[i]
		x.at = places[i]
		g.Go(func() error {
			for _, s := range seeds {
				y, err := b.render(x.at, s)
				if err != nil {
					return err
				}
				if x.sounds = append(x.sounds, y); float64(len(y.Left)) > brief*y.Rate {
					break
				}
			}
			return nil
		})
	}
	for i := range again {
		x := &out[(2*i+1)*len(places)/(2*again)]
		g.Go(func() (err error) {
			x.again, err = b.render(x.at, seed+1)
			return err
		})
	}
	return out, g.Wait()
}

// refine plays the model also between places where its curve bends so much that it may be off by what counts there, and takes the curve of all.
func (b *Bench) refine(all []played) error {
	var more []scale.Position
	places := b.Panel.Places(b.Control)
	for i := 1; i < len(all); i++ {
		off := 0.0
		for k, t := range b.model.travel {
			if t == all[i-1].at.Travel || t == all[i].at.Travel {
				off = max(off, b.model.between[k])
			}
		}
		from := slices.IndexFunc(places, func(p scale.Position) bool { return p.Travel >= all[i-1].at.Travel })
		to := slices.IndexFunc(places, func(p scale.Position) bool { return p.Travel >= all[i].at.Travel })
		if to-from > 1 && off > bends*b.JND() {
			more = append(more, places[(from+to)/2])
		}
	}
	if len(more) == 0 {
		return nil
	}
	extra, err := b.playAt(more, 0)
	if err != nil {
		return err
	}
	all = append(slices.Clone(all), extra...)
	slices.SortStableFunc(all, func(x, y played) int { return cmp.Compare(x.at.Travel, y.at.Travel) })
	if c, _ := b.curveOf(b.feat, all); c != nil {
		b.model = c
	}
	return nil
}

// bends is how far off the model's curve may be between two places, in just-noticeable differences, before it is played there too.
const bends = 0.15

// candidate is a figure with what the model has of it.
type candidate struct {
	*curve
	feature
}

// hasNone tells whether the control can be set to nothing, which it is on the instrument, too.
func (b *Bench) hasNone(places []scale.Position) bool {
	return !b.law.Dim().Geometric() && slices.ContainsFunc(places, func(p scale.Position) bool {
		raw, ok := b.law.Raw(p.Travel)
		return ok && raw == 0
	})
}

func isLikeness(f feature) bool {
	return slices.ContainsFunc(likeness, func(x feature) bool { return x.name == f.name })
}

// domain turns a value of the law, in its own unit, into that of the fit: the binary logarithm where equal steps are ratios. back undoes it.
func (b *Bench) domain(raw float64) float64 { return intoDomain(b.law, raw) }

func (b *Bench) back(y float64) float64 { return outOfDomain(b.law, y) }

func intoDomain(l scale.Law, raw float64) float64 {
	if l.Dim().Geometric() {
		return math.Log2(max(raw, 1e-12))
	}
	return raw
}

func outOfDomain(l scale.Law, y float64) float64 {
	if l.Dim().Geometric() {
		return math.Exp2(y)
	}
	return y
}

// curveOf takes a figure from the model's sounds; nil where it does not go with the parameter.
func (b *Bench) curveOf(f feature, places []played) (*curve, string) {
	c := &curve{}
	why, said := 0, ""
	var us []float64
	type node struct{ travel, value, figure float64 }
	var all []node
	for _, p := range places {
		raw, _ := b.law.Raw(p.at.Travel)
		if f.signless && raw < 0 {
			continue
		}
		fig := f.of(p.sounds[0])
		if !fig.known() {
			why++
			said = fig.Why
			continue
		}
		times := 1.0
		for _, s := range p.sounds[1:] {
			if x := f.of(s); x.known() {
				fig.Value, times = fig.Value+x.Value, times+1
			}
		}
		fig.Value /= times
		us = append(us, fig.U)
		all = append(all, node{p.at.Travel, b.domain(raw), fig.Value})
	}
	if len(all) < 3 {
		return nil, said
	}
	sort.Float64s(us)
	c.noise = us[len(us)/2]
	var chance, n float64
	for _, p := range places {
		if p.again == nil {
			continue
		}
		one, two := f.of(p.sounds[0]), f.of(p.again)
		if one.known() && two.known() {
			chance, n = chance+(one.Value-two.Value)*(one.Value-two.Value)/2, n+1
		}
	}
	if n > 0 {
		c.noise = math.Hypot(c.noise/2, math.Sqrt(chance/n))
	}
	c.noise = max(c.noise, 1e-6)
	// the most places over which the figure goes on in one way: one that was taken for its double stands out
	row := longest
	if isLikeness(f) { // one that turns back means two things at once
		row = unbroken
	}
	run := row(len(all), func(i, k int) bool { return all[k].figure > all[i].figure+c.noise/2 })
	if down := row(len(all), func(i, k int) bool { return all[k].figure < all[i].figure-c.noise/2 }); len(down) > len(run) {
		run = down
	}
	kept := all[:0:0]
	for _, i := range run {
		kept = append(kept, all[i])
	}
	all = kept
	enough := 4 * len(places)
	if f.signless {
		enough /= 2
	}
	if len(all) < 3 || 10*len(all) < enough && len(places) > 4 || math.Abs(all[len(all)-1].figure-all[0].figure) < 6*c.noise || all[len(all)-1].travel-all[0].travel < 0.3 {
		return nil, "what is heard does not go with it"
	}
	for _, x := range all {
		c.travel, c.value, c.figure = append(c.travel, x.travel), append(c.value, x.value), append(c.figure, x.figure)
	}
	c.low, c.high = min(c.figure[0], c.figure[len(all)-1]), max(c.figure[0], c.figure[len(all)-1])
	var err error
	if c.toValue, err = through(c.figure, c.value); err == nil {
		c.toFigure, err = through(c.travel, c.figure)
	}
	if err != nil {
		return nil, err.Error()
	}
	c.between = make([]float64, len(all))
	for i := 1; i+1 < len(all) && len(all) > 3; i++ { // a curve without a node: with it, it is a quarter as far off and less (the error of a cubic goes with the fourth power of the steps)
		x, y := slices.Delete(slices.Clone(c.figure), i, i+1), slices.Delete(slices.Clone(c.value), i, i+1)
		if f, err := through(x, y); err == nil {
			c.between[i] = math.Abs(f(c.figure[i])-c.value[i]) / 5
		}
	}
	if n := len(all); n > 3 {
		c.between[0], c.between[n-1] = 2*c.between[1], 2*c.between[n-2]
	}
	return c, ""
}

// unsureAt gives how far off the curve itself may be at a figure, in the domain of the fit.
func (c *curve) unsureAt(figure float64) float64 {
	best := 0
	for i := range c.figure {
		if math.Abs(c.figure[i]-figure) < math.Abs(c.figure[best]-figure) {
			best = i
		}
	}
	return c.between[best]
}

// unbroken gives the places of the longest stretch in which each goes on from the one before.
func unbroken(n int, goes func(i, k int) bool) (out []int) {
	from := 0
	for k := 0; k <= n; k++ {
		if k > 0 && k < n && goes(k-1, k) {
			continue
		}
		if k-from > len(out) {
			out = out[:0]
			for i := from; i < k; i++ {
				out = append(out, i)
			}
		}
		from = k
	}
	return out
}

// longest gives the places of the longest row in which each goes on from the one before.
func longest(n int, goes func(i, k int) bool) []int {
	length, before := make([]int, n), make([]int, n)
	last := 0
	for k := range n {
		length[k], before[k] = 1, -1
		for i := range k {
			if goes(i, k) && length[i]+1 > length[k] {
				length[k], before[k] = length[i]+1, i
			}
		}
		if length[k] > length[last] {
			last = k
		}
	}
	var out []int
	for k := last; n > 0 && k >= 0; k = before[k] {
		out = append(out, k)
	}
	slices.Reverse(out)
	return out
}

// through makes a monotone curve through points (Fritsch and Butland), straight beyond its ends.
func through(x, y []float64) (func(float64) float64, error) {
	x, y = slices.Clone(x), slices.Clone(y)
	if len(x) > 1 && x[0] > x[len(x)-1] {
		slices.Reverse(x)
		slices.Reverse(y)
	}
	var c interp.FritschButland
	if err := c.Fit(x, y); err != nil {
		return nil, err
	}
	n := len(x) - 1
	low, high := (y[1]-y[0])/(x[1]-x[0]), (y[n]-y[n-1])/(x[n]-x[n-1])
	return func(v float64) float64 {
		switch {
		case v < x[0]:
			return y[0] + low*(v-x[0])
		case v > x[n]:
			return y[n] + high*(v-x[n])
		}
		return c.Predict(v)
	}, nil
}

// Recorded is the figure of one take.
type Recorded struct {
	Reading string  `json:"reading"`
	Travel  float64 `json:"travel"`
	// TravelU is how far off the control may stand.
	TravelU float64 `json:"travelU"`
	Figure  float64 `json:"figure"`
	U       float64 `json:"u"`
	// Why says why the take says nothing, or is in doubt; empty for a good one.
	Why string `json:"why,omitempty"`
	// Doubt is what is odd about a take that is used all the same.
	Doubt string `json:"doubt,omitempty"`
	// Foreign is set for a recording of which it is not known what was played.
	Foreign bool `json:"foreign,omitempty"`
	// Sound names the recording where it is kept.
	Sound string `json:"sound,omitempty"`
}

// Hear takes the figure of a take with the control at a reading. What spoils it is said in Why: the figure is then not used.
func (b *Bench) Hear(reading string, s *Sound) (Recorded, error) {
	at, err := b.Position(reading)
	if err != nil {
		return Recorded{}, err
	}
	r := Recorded{Reading: at.Reading, Travel: at.Travel, Foreign: len(s.Notes) == 0}
	if f := &b.Panel.Controls[b.Control].Face; f.Kind == scale.Clock || f.Kind == scale.Marks {
		if at.Travel > 0 && at.Travel < 1 {
			r.TravelU = HandU * at.U
		}
	}
	if r.Foreign {
		notes := b.Notes(at)
		s.key, s.asked = notes[0].Key, len(notes)
		if notes[len(notes)-1].Slide { // one note that slides into the next has no silence
			s.asked = 1
		}
	}
	if s.Rate <= 0 || len(s.Left) == 0 {
		r.Why = "the recording is empty"
		return r, nil
	}
	if _, ok := b.law.Raw(at.Travel); !ok {
		r.Why = "this end means none: there is nothing to measure"
		return r, nil
	}
	if m := s.listen().Peak(); m.Known && strings.Contains(m.Why, "clip") {
		r.Why = "it clips: turn the recording level down and take it again"
		return r, nil
	} else if !m.Known || m.Value < -80 {
		r.Why = "it is silent: is the cable in, and the level up?"
		return r, nil
	}
	if why := b.wrongNote(s); why != "" {
		if !r.Foreign {
			r.Why = why
			return r, nil
		}
		r.Doubt = why // whoever played it may have meant to
	}
	f := b.feat.of(s)
	if !f.known() {
		r.Why = f.Why
		return r, nil
	}
	r.Figure, r.U = f.Value, math.Hypot(f.U/2, b.model.noise)
	return r, nil
}

// wrongNote tells whether another note than asked was played, where the pitch is not what is measured.
func (b *Bench) wrongNote(s *Sound) string {
	asked, key := len(s.Notes), s.key
	if asked == 0 {
		asked = s.asked
	} else {
		key = s.Notes[0].Key
	}
	if n := s.note(0); b.dim == q.DimInterval || asked != 1 || n.End-n.Start < 0.3 || b.feat.octaves || b.feat.signless { // what swings has no note
		return ""
	}
	if b.noisy() { // it has no note
		return ""
	}
	p := s.steady(0).listen().Pitch()
	if !p.Known {
		return ""
	}
	off := 12*math.Log2(p.Value/440) + 69 - key
	if n := math.Round(off); math.Mod(math.Abs(n), 12) == 0 || math.Abs(off-n) > 0.4 { // an octave is a matter of the range
		return ""
	} else if math.Abs(n) >= 1 {
		return fmt.Sprintf("another note was played: %+.0f semitones from the one that was asked for", n)
	}
	return ""
}

// Take is a value of the law that a take has told.
type Take struct {
	Reading string  `json:"reading"`
	Value   float64 `json:"value"`
	// U is one standard uncertainty in the same unit, with that of setting the control.
	U    float64 `json:"u"`
	Unit string  `json:"unit"`
	// Why says why it is not used, Doubt what is odd about one that is.
	Why   string `json:"why,omitempty"`
	Doubt string `json:"doubt,omitempty"`

	travel, y, uy float64 // in the domain of the fit
	used          bool
}

// Takes turns figures into values. Relative figures hold against the take at the place where the law is the highest.
func (b *Bench) Takes(all []Recorded) []Take {
	ref, high := -1, math.Inf(-1)
	for i := range all {
		if x, ok := b.referenceAt(all[i].Travel); ok && all[i].Why == "" && x > high {
			ref, high = i, x
		}
	}
	out := make([]Take, len(all))
	for i, r := range all {
		t := Take{Reading: r.Reading, Unit: b.law.Unit, Why: r.Why, Doubt: r.Doubt, travel: r.Travel}
		if r.Why == "" && !r.Foreign && !b.holds(r.Travel) {
			t.Why = "at this reading what is heard does not tell it: take one nearer the middle"
		}
		if t.Why == "" {
			b.value(&t, r, all, ref)
		}
		out[i] = t
	}
	b.stood(out)
	return out
}

// stood finds takes at other readings that sound just as the one before them, where the panel's law has them apart: the control was not moved.
func (b *Bench) stood(all []Take) {
	last := -1
	for i := range all {
		t := &all[i]
		if !t.used {
			continue
		}
		if last >= 0 && t.Doubt == "" {
			p := &all[last]
			was, okA := b.law.Raw(p.travel)
			is, okB := b.law.Raw(t.travel)
			u := math.Hypot(t.uy, p.uy)
			if okA && okB && math.Abs(b.domain(is)-b.domain(was)) > 10*u && math.Abs(t.y-p.y) < 0.3*u {
				t.Doubt = fmt.Sprintf("it sounds just as at %s: was the control moved?", p.Reading)
			}
		}
		last = i
	}
}

// referenceAt tells how well a take at a travel serves as the one that others hold against: the higher the better.
func (b *Bench) referenceAt(travel float64) (worth float64, ok bool) {
	return b.worthAs(b.feat.relative, travel)
}

// worthAs is referenceAt for figures that hold against r.
func (b *Bench) worthAs(r reference, travel float64) (worth float64, ok bool) {
	raw, ok := b.law.Raw(travel)
	if r == againstNone {
		return -math.Abs(raw), ok
	}
	return b.domain(raw), ok
}

func (b *Bench) value(t *Take, r Recorded, all []Recorded, ref int) {
	f, u := r.Figure, r.U
	foreign := r.Foreign && b.feat.direct != nil
	if b.feat.relative != absolute && !foreign {
		f += b.model.toFigure(all[ref].Travel) - all[ref].Figure
		u = math.Hypot(u, all[ref].U)
	}
	var y, slope float64
	if foreign {
		own := func(f float64) float64 { return b.domain(b.law.Own(b.feat.direct(f, b.moduleAsSet()))) }
		y = own(f)
		slope = (own(f+0.01) - own(f-0.01)) / 0.02
	} else {
		y = b.model.toValue(f)
		if raw, _ := b.law.Raw(r.Travel); b.feat.signless && raw < 0 {
			y = -y
		}
		slope = b.model.slope(f)
		if over := max(b.model.low-f, f-b.model.high); over > 0 { // beyond what the model has played
			u = math.Hypot(u, over/2)
		}
	}
	uy := math.Abs(slope) * u
	if !foreign {
		uy = math.Hypot(uy, b.model.unsureAt(f))
	}
	if short := b.shortest(); short > 0 && !foreign {
		uy = math.Hypot(uy, short/max(b.back(y), 1e-3)/math.Ln2)
	}
	d := 0.01
	a, okA := b.law.Raw(max(r.Travel-d, 1e-6))
	z, okZ := b.law.Raw(min(r.Travel+d, 1-1e-6))
	if okA && okZ {
		per := (b.domain(z) - b.domain(a)) / (min(r.Travel+d, 1) - max(r.Travel-d, 0))
		uy = math.Hypot(uy, per*r.TravelU)
	}
	if math.IsNaN(y) || math.IsInf(y, 0) || math.IsNaN(uy) {
		t.Why = "it says nothing that the law could be"
		return
	}
	t.y, t.uy, t.used = y, max(uy, 1e-6), true
	t.Value = b.back(y)
	t.U = uy
	if b.dim.Geometric() {
		t.U = t.Value * math.Ln2 * uy
	}
}

// shortest is how exactly a stage of an envelope is told at all, however short it is, in the law's unit: a level has to be taken over a period and more (common practice, no source); 0 for what has no such bound.
func (b *Bench) shortest() float64 {
	if b.dim != q.DimDuration || b.module == nil || b.module.Kind != meaning.Env {
		return 0
	}
	switch b.param.Name {
	case meaning.PAttack:
		return b.law.Own(0.0015)
	case meaning.PDecay, meaning.PRelease:
		return b.law.Own(0.004)
	}
	return 0
}

// slope gives the change of the value by the figure.
func (c *curve) slope(f float64) float64 {
	d := max(c.noise, 1e-3*(c.high-c.low))
	return (c.toValue(f+d) - c.toValue(f-d)) / (2 * d)
}

// topU is how well the value is known that others are held against, in the domain of the fit: exactly where it is all of something, or the full level that the rest is counted from.
func (b *Bench) topU(travel float64) float64 {
	raw, ok := b.law.Raw(travel)
	if !ok || b.dim == q.DimLevel && b.param.Name != meaning.PGain || whole(b.law, math.Abs(raw)) {
		return 0
	}
	u := lawU(b.law, math.Abs(raw))
	if b.dim.Geometric() {
		return math.Log2(1 + u)
	}
	return u * math.Abs(raw)
}

func (b *Bench) moduleAsSet() *meaning.Module {
	if b.module != nil {
		return b.module
	}
	return &meaning.Module{}
}

// JND is a just-noticeable difference of the parameter in the domain of the fit.
func (b *Bench) JND() float64 {
	d := b.param.JND
	if d == jnd.Exact { // a Q, say
		d = jnd.Count
	}
	switch {
	case d.Size <= 0:
		return 0.05 * b.span
	case d.Share && b.dim.Geometric():
		return math.Log2(1 + d.Size)
	case d.Share:
		return d.Size * b.span
	}
	return math.Abs(b.law.Own(d.Size))
}

// spanOf is how far the law as the panel has it goes, in the domain of the fit.
func (b *Bench) spanOf() float64 {
	places := b.measurable(nodes)
	if len(places) < 2 {
		return 1
	}
	a, _ := b.law.Raw(places[0].Travel)
	z, _ := b.law.Raw(places[len(places)-1].Travel)
	return max(math.Abs(b.domain(z)-b.domain(a)), 1e-9)
}

// floor is the least value of which more or less makes no difference, in the domain of the fit; minus infinity for none.
func (b *Bench) floor() float64 {
	least := b.param.Floor
	if b.dim == q.DimDuration { // an ear does not tell shorter ones apart (common practice, no source)
		least = max(least, 0.008)
	}
	if least <= 0 {
		return math.Inf(-1)
	}
	return b.domain(b.law.Own(least))
}

// sure gives the uncertainty that all takes share, in just-noticeable differences.
func (b *Bench) sure() float64 {
	switch {
	case isLikeness(b.feat) && b.feat.name != "level" || b.feat.direct == nil && b.feat.relative == absolute && !b.feat.signless:
		return sysLikely
	case b.feat.relative == againstTop:
		return sysHeld
	case b.dim == q.DimInterval:
		return sysExact
	}
	return sysFigure
}
