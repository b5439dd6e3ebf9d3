package server

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"glossator/core/calibrate"
	"glossator/core/hear"
	"glossator/core/panel"
	q "glossator/core/quantity"
	"glossator/core/scale"
	"glossator/core/translate"
	"glossator/formats/wav"
	"glossator/standin"
	"glossator/store"
)

// BenchView is what of a panel can be measured.
type BenchView struct {
	Panel     string         `json:"panel"`
	PanelName string         `json:"panelName"`
	Revision  int            `json:"revision"`
	Controls  []BenchControl `json:"controls"`
	// Walk is the order in which the assumed laws that are not measured yet are gone through with few changes of set-up, Changes how many those are, Minutes about how long it takes.
	Walk    []calibrate.Stop `json:"walk"`
	Changes int              `json:"changes"`
	Minutes float64          `json:"minutes"`
	// Hour are those that are worth an hour, where it takes longer: what lessens the doubt of one's patches the most; HourGain is by how much of Doubt.
	Hour     []string `json:"hour"`
	HourGain float64  `json:"hourGain"`
	Doubt    float64  `json:"doubt"`
	Pending  Pending  `json:"pending"`
}

// anHour is a sitting, in minutes.
const anHour = 60

// plan puts what is left to measure in order, from what the instrument is set up for now; empty for nothing.
func (v *BenchView) plan(c *panel.Compiled, from string) {
	var left []string
	for _, x := range v.Controls {
		if x.toMeasure() {
			left = append(left, x.Control)
		}
	}
	v.Walk, v.Hour = calibrate.Walk(c, left, from), []string{}
	for _, s := range v.Walk {
		v.Changes += s.Changes
		v.Minutes += calibrate.MinutesOf(s.Changes)
	}
	each, used := v.Minutes/float64(max(1, len(v.Walk))), 0.0
	for _, x := range v.Controls { // the most doubtful come first
		v.Doubt += x.Gain
		if used += each; x.toMeasure() && x.Gain > 0 && used <= anHour && v.Minutes > anHour {
			v.Hour = append(v.Hour, x.Control)
			v.HourGain += x.Gain
		}
	}
}

// toMeasure tells whether a control has an assumed law that is not measured yet and can be.
func (x *BenchControl) toMeasure() bool {
	return x.Why == "" && x.Takes == 0 && x.Source == string(scale.Assumed)
}

// BenchControl is a control at the bench.
type BenchControl struct {
	Control string `json:"control"`
	Section string `json:"section"`
	Label   string `json:"label"`
	// Law says what the panel has, Source where that is from: stated, measured or assumed.
	Law    string `json:"law"`
	Source string `json:"source"`
	// Patches counts the patches that set it, Gain is by how much the mean reading of theirs is in doubt, in just-noticeable differences: what measuring it would lessen.
	Patches int     `json:"patches"`
	Gain    float64 `json:"gain"`
	// Takes counts those that there are; Recipes are the ways to measure it, Why says why there is none.
	Takes   int          `json:"takes"`
	Recipes []RecipeName `json:"recipes"`
	Why     string       `json:"why,omitempty"`
}

// RecipeName names a recipe.
type RecipeName struct {
	Name  string `json:"name"`
	Label string `json:"label"`
}

// bench lists what of a panel can be measured, what is in doubt and used the most first.
func (s *Server) bench(ctx context.Context, in named) (none BenchView, err error) {
	c, err := s.compiled(in.ID, 0)
	if err != nil {
		return none, err
	}
	out, err := s.benchList(c)
	if err != nil {
		return none, err
	}
	out.plan(c, "")
	out.Pending, err = s.pending()
	return out, err
}

func (s *Server) benchList(c *panel.Compiled) (none BenchView, err error) {
	out := BenchView{Panel: c.ID, PanelName: c.Name, Revision: c.Revision, Controls: []BenchControl{}}
	sittings, err := s.store.Sittings(c.ID)
	if err != nil {
		return none, err
	}
	uses, err := s.usesOf(c)
	if err != nil {
		return none, err
	}
	for k := range c.Controls {
		x := &c.Controls[k]
		i := slices.IndexFunc(x.Means, func(b panel.Bind) bool { return b.Law.Kind != scale.Listed })
		if i < 0 {
			continue
		}
		l := x.Means[i].Law
		v := BenchControl{Control: x.ID, Section: c.SectionLabel(k), Label: x.Label, Law: l.String(), Source: string(l.Source), Patches: len(uses[k]), Recipes: []RecipeName{}}
		for _, at := range uses[k] {
			v.Gain += doubt(c, panel.BindRef{Control: k, Bind: i}, at)
		}
		v.Gain = math.Round(100*v.Gain) / 100
		for _, r := range calibrate.Fitting(c, k) {
			v.Recipes = append(v.Recipes, RecipeName{r.Name, r.Label})
		}
		if len(v.Recipes) == 0 {
			v.Why = "no recipe is built for it yet"
		}
		for _, y := range sittings {
			if y.Control == x.ID {
				if all, err := y.Recorded(); err == nil {
					v.Takes = len(all)
				}
			}
		}
		out.Controls = append(out.Controls, v)
	}
	slices.SortStableFunc(out.Controls, func(a, b BenchControl) int {
		switch {
		case (a.Why == "") != (b.Why == ""):
			return map[bool]int{true: -1, false: 1}[a.Why == ""]
		case a.Gain > b.Gain:
			return -1
		case a.Gain < b.Gain:
			return 1
		}
		return 0
	})
	return out, nil
}

// doubt gives the uncertainty of a control's law at a place, in just-noticeable differences.
func doubt(c *panel.Compiled, b panel.BindRef, at scale.Position) float64 {
	bind := c.Bind(b)
	p, err := c.Param(bind.Param)
	if err != nil || p.JND.Size <= 0 {
		return 0
	}
	at.U = 0
	v, ok := bind.Law.Quantity(at)
	if !ok || v.Off {
		return 0
	}
	size := p.JND.Size
	if p.JND.Share && !v.Dim.Geometric() {
		size *= math.Max(math.Abs(v.Value), 1e-9)
	}
	return v.Tol / size
}

// usesOf gives at which places the patches of a panel set each control.
func (s *Server) usesOf(c *panel.Compiled) (map[int][]scale.Position, error) {
	rows, err := s.store.Patches()
	if err != nil {
		return nil, err
	}
	out := map[int][]scale.Position{}
	for i := range rows {
		if rows[i].Panel != c.ID {
			continue
		}
		p, err := patchOf(rows[i].Document)
		if err != nil {
			continue
		}
		for n := range p.Layers {
			st, err := c.Read(&p.Layers[n], "")
			if err != nil {
				continue
			}
			for k := range c.Controls {
				if !c.AtInit(k, st.At[k]) {
					out[k] = append(out[k], st.At[k])
				}
			}
		}
	}
	return out, nil
}

// SittingView is the measuring of one control.
type SittingView struct {
	Panel     string       `json:"panel"`
	PanelName string       `json:"panelName"`
	Control   string       `json:"control"`
	Section   string       `json:"section"`
	Label     string       `json:"label"`
	Recipe    string       `json:"recipe"`
	Recipes   []RecipeName `json:"recipes"`
	// Figure says what is taken from a recording, Needs what the instrument must have for it.
	Figure     string            `json:"figure"`
	Needs      string            `json:"needs"`
	Traps      []string          `json:"traps"`
	Caution    string            `json:"caution"`
	Instrument string            `json:"instrument"`
	Settings   []calibrate.Stand `json:"settings"`
	// Hold is what the player is to hold all the way, such as the modulation wheel; empty for nothing.
	Hold  string      `json:"hold"`
	Takes []TakeView  `json:"takes"`
	Band  []BandPoint `json:"band"`
	// Kinds are the kinds of law, the likeliest first.
	Kinds []LawFit `json:"kinds"`
	Law   string   `json:"law"`
	Was   string   `json:"was"`
	Unit  string   `json:"unit"`
	// Log is set where equal steps are ratios.
	Log bool `json:"log"`
	// Odd is the place of a take that no kind agrees with; -1 for none.
	Odd    int     `json:"odd"`
	Unsure float64 `json:"unsure"`
	// Used counts the readings of one's patches that the takes are planned for; 0 for the whole travel.
	Used int    `json:"used"`
	Note string `json:"note"`
	// Sides says how takes hang on the side that the control was brought from; empty where that is not known.
	Sides string `json:"sides"`
	Next  Ask    `json:"next"`
	// Then is the control that is worth measuring next, with what the set-up has in common with this one first; Left counts those that nobody has measured.
	Then *Then `json:"then" jsonschema:"nullable"`
	Left int   `json:"left"`
	// Readings are what the control can be set to, at most MostPlaces of them.
	Readings []string `json:"readings"`
	// Sounds is how much of the recordings of takes is kept.
	Sounds  TakesKept `json:"sounds"`
	Pending Pending   `json:"pending"`
}

// Then names the next control of a sitting.
type Then struct {
	Control string `json:"control"`
	Label   string `json:"label"`
	// Changes counts the controls that have to be set anew for it.
	Changes int `json:"changes"`
}

// then finds the next control of a sitting: the one that needs the fewest changes of what is set now.
func (s *Server) then(ctx context.Context, v *SittingView) error {
	c, err := s.compiled(v.Panel, 0)
	if err != nil {
		return err
	}
	list, err := s.benchList(c)
	if err != nil {
		return err
	}
	list.plan(c, v.Control) // from where the instrument stands
	for _, x := range list.Walk {
		if x.Control == v.Control {
			continue
		}
		if v.Left++; v.Then == nil {
			k, _ := c.ControlIndex(x.Control)
			v.Then = &Then{x.Control, strings.TrimSpace(c.SectionLabel(k) + " " + c.Controls[k].Label), x.Changes}
		}
	}
	return nil
}

// TakeView is a take with its place on the control.
type TakeView struct {
	calibrate.Take
	Travel float64 `json:"travel"`
	// Off is how far it lies from the law, in its own uncertainties; 0 where it is not used.
	Off float64 `json:"off"`
	// Sound names its recording (GET /takes/{name}); empty where only its figures are kept.
	Sound string `json:"sound,omitempty"`
}

// BandPoint is how well the law is known at a reading, and what the panel has had there; nil where it means none.
type BandPoint struct {
	calibrate.Band
	Travel float64  `json:"travel"`
	Was    *float64 `json:"was" jsonschema:"nullable"`
}

// LawFit is a kind of law as it was fitted.
type LawFit struct {
	Label  string  `json:"label"`
	AICc   float64 `json:"aicc"`
	Weight float64 `json:"weight"`
	Chi    float64 `json:"chi"`
}

// Ask says which take is next.
type Ask struct {
	Reading string  `json:"reading"`
	Gain    float64 `json:"gain"`
	Done    bool    `json:"done"`
	Why     string  `json:"why"`
	// Play says what is to be played, Seconds how long the recording has to be.
	Play    string  `json:"play"`
	Seconds float64 `json:"seconds"`
}

type ofControl struct {
	ID      string `path:"id"`
	Control string `path:"control"`
	Recipe  string `query:"recipe"`
}

// benchOf makes the bench for a control; it is kept, since playing the model takes a while.
func (s *Server) benchOf(ctx context.Context, c *panel.Compiled, control, recipe string) (*calibrate.Bench, error) {
	if _, ok := c.ControlIndex(control); !ok {
		return nil, store.ErrNotFound
	}
	key := hashOf(engineVersion, c.Panel, control, recipe)
	b, err := cached(s.cache, "bench", key, func() (b *calibrate.Bench, err error) {
		err = s.queue.run(ctx, func() error {
			b, err = calibrate.Begin(c, control, recipe)
			return err
		})
		return b, err
	})
	if err != nil && errors.Is(err, calibrate.ErrNoRecipe) {
		return nil, badRequest{err}
	}
	return b, err
}

// sittingOf gives a control's bench and what has been measured.
func (s *Server) sittingOf(ctx context.Context, id, control, recipe string) (*calibrate.Bench, []calibrate.Recorded, *store.Sitting, error) {
	c, err := s.compiled(id, 0)
	if err != nil {
		return nil, nil, nil, err
	}
	y, err := s.store.Sitting(id, control)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, nil, nil, err
	}
	var takes []calibrate.Recorded
	if y != nil {
		if takes, err = y.Recorded(); err != nil {
			return nil, nil, nil, err
		}
		if recipe == "" {
			recipe = y.Recipe
		} else if recipe != y.Recipe {
			takes = nil
		}
	}
	b, err := s.benchOf(ctx, c, control, recipe)
	if err != nil {
		return nil, nil, nil, err
	}
	uses, err := s.usesOf(c)
	if err != nil {
		return nil, nil, nil, err
	}
	var at []float64
	for _, p := range uses[b.Control] {
		at = append(at, p.Travel)
	}
	return b.For(at), takes, y, nil // takes are planned for what one's patches need
}

// sitting gives the measuring of one control as it stands.
func (s *Server) sitting(ctx context.Context, in ofControl) (none SittingView, err error) {
	b, takes, y, err := s.sittingOf(ctx, in.ID, in.Control, in.Recipe)
	if err != nil {
		return none, err
	}
	return s.viewOfSitting(ctx, b, takes, y)
}

func (s *Server) viewOfSitting(ctx context.Context, b *calibrate.Bench, recorded []calibrate.Recorded, y *store.Sitting) (none SittingView, err error) {
	r := b.Fit(b.Takes(recorded))
	c, x, l := b.Panel, &b.Panel.Controls[b.Control], b.Law()
	_, hold := b.Held()
	v := SittingView{Panel: c.ID, PanelName: c.Name, Control: x.ID, Section: c.SectionLabel(b.Control), Label: x.Label, Recipe: b.Recipe.Name, Recipes: []RecipeName{}, Figure: b.Figure, Needs: b.Recipe.Needs,
		Traps: b.Recipe.Traps, Caution: b.Recipe.Caution, Settings: b.Settings(), Hold: hold, Takes: []TakeView{}, Band: []BandPoint{}, Kinds: []LawFit{}, Law: r.Law.String(), Was: l.String(), Unit: l.Unit,
		Log: l.Dim().Geometric(), Odd: r.Odd, Unsure: r.Unsure(), Used: b.Uses(), Note: r.Note, Sides: r.Sides(), Readings: []string{}}
	if y != nil {
		v.Instrument = y.Instrument
	}
	for _, f := range calibrate.Fitting(c, b.Control) {
		v.Recipes = append(v.Recipes, RecipeName{f.Name, f.Label})
	}
	for i, t := range r.Takes {
		v.Takes = append(v.Takes, TakeView{t, recorded[i].Travel, r.Off(i), recorded[i].Sound})
	}
	for _, p := range r.Band() {
		at, err := b.Position(p.Reading)
		if err != nil {
			return none, err
		}
		k := BandPoint{Band: p, Travel: at.Travel}
		if was, ok := l.Raw(at.Travel); ok {
			k.Was = &was
		}
		v.Band = append(v.Band, k)
		v.Readings = append(v.Readings, p.Reading)
	}
	for _, f := range r.All {
		v.Kinds = append(v.Kinds, LawFit{f.Label, f.AICc, f.Weight, f.Chi})
	}
	n := r.Next()
	v.Next = Ask{Reading: n.Reading, Gain: n.Gain, Done: n.Done, Why: n.Why}
	for i, k := range n.Notes {
		words := fmt.Sprintf("%s for %.2g s", q.Note(k.Key).NoteName(), k.End-k.Start)
		if len(n.Notes) > 1 {
			words += fmt.Sprintf(" at velocity %d", k.Velocity)
		}
		switch {
		case k.Slide:
			v.Next.Play += ", held into " + words
		case i > 0:
			v.Next.Play += ", then " + words
		default:
			v.Next.Play = words
		}
		v.Next.Seconds = max(v.Next.Seconds, k.End+1)
	}
	if v.Sounds, err = s.takesKept(ctx, None{}); err != nil {
		return none, err
	}
	if err := s.then(ctx, &v); err != nil {
		return none, err
	}
	v.Pending, err = s.pending()
	return v, err
}

// keep adds takes to a sitting.
func (s *Server) keep(ctx context.Context, b *calibrate.Bench, instrument string, more []calibrate.Recorded) (none SittingView, err error) {
	x := &b.Panel.Controls[b.Control]
	what := fmt.Sprintf("measure %s %s at %s", b.Panel.Name, x.Label, more[0].Reading)
	y, err := s.store.Sit(b.Panel.ID, x.ID, what, func(y *store.Sitting, takes []calibrate.Recorded) ([]calibrate.Recorded, error) {
		if y.Recipe != b.Recipe.Name {
			takes = nil
		}
		y.Recipe = b.Recipe.Name
		if instrument != "" {
			y.Instrument = instrument
		}
		return append(takes, more...), nil
	})
	if err != nil {
		return none, err
	}
	all, err := y.Recorded()
	if err != nil {
		return none, err
	}
	return s.viewOfSitting(ctx, b, all, y)
}

// StandInTake asks a stand-in for a take.
type StandInTake struct {
	// Unit is its serial number.
	Unit    int    `json:"unit"`
	Reading string `json:"reading"`
	Recipe  string `json:"recipe,omitempty"`
}

type standInRequest struct {
	ID      string `path:"id"`
	Control string `path:"control"`
	Body    StandInTake
}

func goodUnit(n int) error {
	if n < 1 || n > 9999 {
		return badRequest{fmt.Errorf("unit: expected 1 to 9999, got %d", n)}
	}
	return nil
}

// standInTake sets a stand-in by hand, plays it and measures what it plays.
func (s *Server) standInTake(ctx context.Context, in standInRequest) (none SittingView, err error) {
	if err := goodUnit(in.Body.Unit); err != nil {
		return none, err
	}
	b, takes, _, err := s.sittingOf(ctx, in.ID, in.Control, in.Body.Recipe)
	if err != nil {
		return none, err
	}
	var got calibrate.Recorded
	err = s.queue.run(ctx, func() error {
		u, err := standin.New(b.Panel, in.Body.Unit)
		if err != nil {
			return err
		}
		if err := u.SetUp(b); err != nil {
			return err
		}
		u.Went(len(takes))
		var sound hear.Wave
		got, sound, err = u.TakeSound(b, in.Body.Reading)
		if err != nil {
			return err
		}
		got.Sound, err = s.keepSound(sound)
		return err
	})
	if err != nil {
		return none, badRequest{err}
	}
	return s.keep(ctx, b, fmt.Sprintf("stand-in %d", in.Body.Unit), []calibrate.Recorded{got})
}

type takeRecordingRequest struct {
	ID      string `path:"id"`
	Control string `path:"control"`
	Recipe  string `query:"recipe"`
	// Readings are what the control stood at, by commas: one for each take that the recording holds.
	Readings string `query:"readings"`
	Body     Upload[None]
}

// keepSound keeps the recording of a take with the database, as long as there is room for it; empty where there is none.
func (s *Server) keepSound(w hear.Wave) (string, error) {
	var b bytes.Buffer
	right := w.Right
	if slices.Equal(w.Left, w.Right) {
		right = nil
	}
	if err := wav.Write(&b, &wav.Sound{Rate: int(w.Rate), Bits: 16, Left: w.Left, Right: right}); err != nil {
		return "", err
	}
	return s.store.KeepTake(b.Bytes())
}

type takeSoundRequest struct {
	Name string `path:"name"`
}

// takeSound gives the recording of a take.
func (s *Server) takeSound(ctx context.Context, in takeSoundRequest) (none File[None], err error) {
	data, err := s.store.TakeSound(in.Name)
	if err != nil {
		return none, err
	}
	return File[None]{Media: "audio/wav", Data: data}, nil
}

// TakesKept is how much of recordings is kept, in bytes.
type TakesKept struct {
	Kept  int64 `json:"kept"`
	Bound int64 `json:"bound"`
}

func (s *Server) takesKept(ctx context.Context, _ None) (out TakesKept, err error) {
	out.Kept, out.Bound, err = s.store.TakesKept()
	return out, err
}

type boundRequest struct {
	Body TakesBound
}

// TakesBound is up to how many bytes recordings of takes are kept.
type TakesBound struct {
	Bound int64 `json:"bound"`
}

// takesBound sets up to how many bytes recordings of takes are kept.
func (s *Server) takesBound(ctx context.Context, in boundRequest) (out TakesKept, err error) {
	if b := in.Body.Bound; b < 0 || b > store.MostTakesBound {
		return out, badRequest{fmt.Errorf("bound: expected 0 to %d bytes, got %d", int64(store.MostTakesBound), b)}
	}
	if err := s.store.BoundTakes(in.Body.Bound); err != nil {
		return out, err
	}
	return s.takesKept(ctx, None{})
}

// maxTake is the longest recording of takes, in seconds.
const maxTake = 120

// takeRecording measures a recording of one take, or of several that are parted by silences.
func (s *Server) takeRecording(ctx context.Context, in takeRecordingRequest) (none SittingView, err error) {
	b, _, _, err := s.sittingOf(ctx, in.ID, in.Control, in.Recipe)
	if err != nil {
		return none, err
	}
	w, err := wav.Read(in.Body.Data)
	if err != nil {
		return none, badRequest{err}
	}
	if n := float64(len(w.Left)) / float64(w.Rate); n > maxTake {
		return none, badRequest{fmt.Errorf("expected at most %d s of sound, got %.0f s", maxTake, n)}
	}
	var readings []string
	for _, r := range strings.Split(in.Readings, ",") {
		if r = strings.TrimSpace(r); r != "" {
			readings = append(readings, r)
		}
	}
	if len(readings) == 0 {
		return none, badRequest{errors.New("readings: expected what the control stood at, by commas where the recording holds several takes")}
	}
	sound := &calibrate.Sound{Wave: hear.Wave{Rate: float64(w.Rate), Left: w.Left, Right: w.Right}}
	parts := []*calibrate.Sound{sound}
	if len(readings) > 1 {
		if parts = calibrate.Cut(sound); len(parts) != len(readings) {
			return none, badRequest{fmt.Errorf("the recording holds %d takes parted by silence, and %d readings are given: leave half a second between two", len(parts), len(readings))}
		}
	}
	var all []calibrate.Recorded
	err = s.queue.run(ctx, func() error {
		for i, p := range parts {
			got, err := b.Hear(readings[i], p)
			if err != nil {
				return badRequest{err}
			}
			if got.Sound, err = s.keepSound(p.Wave); err != nil {
				return err
			}
			all = append(all, got)
		}
		return nil
	})
	if err != nil {
		return none, err
	}
	return s.keep(ctx, b, "", all)
}

type takeDropRequest struct {
	ID      string `path:"id"`
	Control string `path:"control"`
	Index   int    `path:"index"`
}

// takeDrop takes a take out.
func (s *Server) takeDrop(ctx context.Context, in takeDropRequest) (none SittingView, err error) {
	b, _, _, err := s.sittingOf(ctx, in.ID, in.Control, "")
	if err != nil {
		return none, err
	}
	what := fmt.Sprintf("take a take of %s %s out", b.Panel.Name, b.Panel.Controls[b.Control].Label)
	y, err := s.store.Sit(in.ID, in.Control, what, func(_ *store.Sitting, takes []calibrate.Recorded) ([]calibrate.Recorded, error) {
		if in.Index < 0 || in.Index >= len(takes) {
			return nil, badRequest{fmt.Errorf("expected one of %d takes, from 0, got %d", len(takes), in.Index)}
		}
		return slices.Delete(takes, in.Index, in.Index+1), nil
	})
	if err != nil {
		return none, err
	}
	all, err := y.Recorded()
	if err != nil {
		return none, err
	}
	return s.viewOfSitting(ctx, b, all, y)
}

// sittingDrop forgets what has been measured of a control.
func (s *Server) sittingDrop(ctx context.Context, in ofControl) (none Done, err error) {
	c, err := s.compiled(in.ID, 0)
	if err != nil {
		return none, err
	}
	k, ok := c.ControlIndex(in.Control)
	if !ok {
		return none, store.ErrNotFound
	}
	_, err = s.store.Sit(in.ID, in.Control, fmt.Sprintf("forget the takes of %s %s", c.Name, c.Controls[k].Label), func(*store.Sitting, []calibrate.Recorded) ([]calibrate.Recorded, error) { return nil, nil })
	if err != nil {
		return none, err
	}
	return s.done()
}

// Adoption is what taking a measured law over changes.
type Adoption struct {
	Law string `json:"law"`
	Was string `json:"was"`
	// Sheets are those on this panel, with how many of their target readings would be others.
	Sheets []AdoptedSheet `json:"sheets"`
	// Panel and Revision are what it was stored as; empty before.
	Panel    string  `json:"panel,omitempty"`
	Revision int     `json:"revision,omitempty"`
	Pending  Pending `json:"pending"`
}

// AdoptedSheet is a sheet that a new law changes.
type AdoptedSheet struct {
	ID      uint   `json:"id"`
	Name    string `json:"name"`
	Changed int    `json:"changed"`
	// Example is the largest of the changes, in words.
	Example string `json:"example"`
}

func (s *Server) adoption(b *calibrate.Bench, r *calibrate.Result) (out Adoption, next *panel.Compiled, err error) {
	p := calibrate.WithLaw(b.Panel, b.Control, b.Bind, r.Law, "")
	if next, err = panel.Compile(p); err != nil {
		return out, nil, badRequest{fmt.Errorf("the law that was measured does not fit the control: %w", err)}
	}
	out = Adoption{Law: r.Law.String(), Was: b.Law().String(), Sheets: []AdoptedSheet{}}
	rows, err := s.store.Sheets()
	if err != nil {
		return out, nil, err
	}
	for i := range rows {
		if rows[i].Source != p.ID && rows[i].Target != p.ID {
			continue
		}
		j, err := s.inputs(&rows[i])
		if err != nil {
			continue
		}
		now, err := translate.Translate(j.src, j.patch, j.dst, j.options())
		if err != nil {
			continue
		}
		if j.src.ID == p.ID {
			j.src = next
		}
		if j.dst.ID == p.ID {
			j.dst = next
		}
		then, err := translate.Translate(j.src, j.patch, j.dst, j.options())
		if err != nil {
			continue
		}
		x := AdoptedSheet{ID: rows[i].ID, Name: now.PatchName + " on " + j.dst.Name}
		at := map[string]string{}
		for _, y := range now.Settings {
			at[y.Control] = y.Reading
		}
		for _, y := range then.Settings {
			if was := at[y.Control]; was != y.Reading {
				if x.Changed++; x.Example == "" {
					x.Example = fmt.Sprintf("%s %s: %s to %s", y.Section, y.Label, was, y.Reading)
				}
			}
		}
		out.Sheets = append(out.Sheets, x)
	}
	slices.SortStableFunc(out.Sheets, func(a, b AdoptedSheet) int { return b.Changed - a.Changed })
	return out, next, nil
}

// adoptTry says what taking the measured law over would change.
func (s *Server) adoptTry(ctx context.Context, in ofControl) (none Adoption, err error) {
	b, takes, _, err := s.sittingOf(ctx, in.ID, in.Control, "")
	if err != nil {
		return none, err
	}
	out, _, err := s.adoption(b, b.Fit(b.Takes(takes)))
	return out, err
}

// AdoptBody says how a law is taken over.
type AdoptBody struct {
	// As is the name of a panel of its own for this unit; empty for the panel itself.
	As string `json:"as,omitempty"`
}

type adoptRequest struct {
	ID      string `path:"id"`
	Control string `path:"control"`
	Body    AdoptBody
}

// adoptLaw takes the measured law over, into a new revision of the panel or into a panel of its own for the unit that was measured.
func (s *Server) adoptLaw(ctx context.Context, in adoptRequest) (none Adoption, err error) {
	b, takes, y, err := s.sittingOf(ctx, in.ID, in.Control, "")
	if err != nil {
		return none, err
	}
	r := b.Fit(b.Takes(takes))
	used := 0
	for _, t := range r.Takes {
		if t.Why == "" {
			used++
		}
	}
	if used < 4 {
		return none, badRequest{fmt.Errorf("expected at least 4 takes that say something, got %d: take more", used)}
	}
	out, _, err := s.adoption(b, r)
	if err != nil {
		return none, err
	}
	unit := "the instrument"
	if y != nil && y.Instrument != "" {
		unit = y.Instrument
	}
	label := b.Panel.Controls[b.Control].Label
	p := calibrate.WithLaw(b.Panel, b.Control, b.Bind, r.Law, fmt.Sprintf("Measured on %s on %s: %s, %d takes, known to %.2g just-noticeable differences.", unit, time.Now().UTC().Format("2006-01-02"), strings.ToLower(b.Recipe.Label), used, r.Unsure()))
	what := fmt.Sprintf("adopt the law of %s %s", b.Panel.Name, label)
	if name := strings.TrimSpace(in.Body.As); name != "" {
		if len(name) > 120 {
			return none, badRequest{errors.New("as: expected a name of at most 120 characters")}
		}
		p.Name, p.Revision = name, 1
		if p.ID, err = freeID(name, "panel", func(id string) error { _, err := s.store.Panel(id, 0); return err }); err != nil {
			return none, err
		}
		what = fmt.Sprintf("%s, as %s", what, name)
	}
	if out.Revision, err = s.store.PutPanelAs(what, p); err != nil {
		return none, err
	}
	s.cache.kept.Purge()
	s.views.Purge()
	out.Panel = p.ID
	out.Pending, err = s.pending()
	return out, err
}
