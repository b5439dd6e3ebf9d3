package server

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/hear"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/refine"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/formats/wav"
	"glossator/store"
)

// ListenTo says what is to be played.
type ListenTo struct {
	// Phrase is the id of a preset; empty for the patch's own phrase.
	Phrase  string `json:"phrase"`
	Octaves int    `json:"octaves"`
	// Off lists the parts of the source that are switched off, on both sides.
	Off []string `json:"off"`
	// Plain asks for the target as it is without readings set by hand.
	Plain bool `json:"plain"`
}

// Take is one sound with what is drawn of it.
type Take struct {
	// Key names the sound in /sounds/{key}.wav.
	Key     string  `json:"key"`
	Label   string  `json:"label"`
	Seconds float64 `json:"seconds"`
	// Loop is the length of the phrase in whole beats, in seconds; 0 for a recording.
	Loop     float64       `json:"loop"`
	Loudness float64       `json:"loudness"`
	Peak     float64       `json:"peak"`
	Limited  float64       `json:"limited"`
	Stages   []synth.Stage `json:"stages"`
	Assumed  []string      `json:"assumed"`
	// Hop is the time between the points of Level (dB) and Brightness (Hz; 0 where it is silent).
	Hop        float64   `json:"hop"`
	Level      []float64 `json:"level"`
	Brightness []float64 `json:"brightness"`
	// Spectrum is the mean level in each auditory band, Filter the gain of the filters there, both in dB; Filter
	// is empty for a recording.
	Spectrum []float64 `json:"spectrum"`
	Filter   []float64 `json:"filter"`
	// Wave is 20 ms at the loudest place of the source.
	Wave      []float64 `json:"wave"`
	Recording bool      `json:"recording"`
}

// Listening is both sides of a sheet, ready to be played.
type Listening struct {
	Source Take             `json:"source"`
	Target *Take            `json:"target"`
	Parts  []audition.Part  `json:"parts"`
	Lines  []phrase.Preset  `json:"lines"`
	Line   string           `json:"line"`
	Bands  []float64        `json:"bands"`
	Apart  compare.Distance `json:"apart"`
	// Trials are the blind tests of the sheet, the newest first.
	Trials []TrialRow `json:"trials"`
	// Refined is set where readings set by ear are on the sheet, so that before and after can be heard.
	Refined bool `json:"refined"`
	// Level is the reading of the target's volume that would make it as loud as the source, where it is not and has one; not with parts
	// switched off.
	Level *audition.LevelStep `json:"level,omitempty"`
}

// Contrasts is the table of differences.
type Contrasts struct {
	Apart compare.Distance   `json:"apart"`
	Rows  []compare.Contrast `json:"rows"`
}

// Blind is the result of a blind test.
type Blind struct {
	Right int `json:"right"`
	Of    int `json:"of"`
	// Sounds is what was compared, in words.
	Sounds string `json:"sounds"`
}

// TrialRow is a blind test in the log.
type TrialRow struct {
	At     string `json:"at"`
	Right  int    `json:"right"`
	Of     int    `json:"of"`
	Sounds string `json:"sounds"`
	// P is the probability of as many right by guessing (binomial, one-sided).
	P float64 `json:"p"`
}

// LiveNote asks for one note on one side.
type LiveNote struct {
	Key  int      `json:"key"`
	Side string   `json:"side"`
	Off  []string `json:"off"`
}

// Refining is a search by ear on its way or done.
type Refining struct {
	Running  bool            `json:"running"`
	Done     int             `json:"done"`
	Most     int             `json:"most"`
	Distance float64         `json:"distance"`
	Result   *refine.Outcome `json:"result"`
	Error    string          `json:"error,omitempty"`
}

const engineVersion = 3 // of what renders: sounds of another are made again

// sampled is the seed of what is played: the same patch sounds the same.
const seed = 1

// Rendering says how far what is being rendered is.
type Rendering struct {
	// Running counts the sounds that are being rendered; Share is how far they are together, 0 to 1.
	Running int     `json:"running"`
	Share   float64 `json:"share"`
}

// renders keeps how far each rendering is.
type renders struct {
	mu   sync.Mutex
	next int
	at   map[int]float64
}

// begin notes that a rendering has begun; end has to be called when it is over.
func (r *renders) begin() (tell func(share float64), end func()) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.at == nil {
		r.at = map[int]float64{}
	}
	id := r.next
	r.next++
	r.at[id] = 0
	tell = func(x float64) {
		r.mu.Lock()
		defer r.mu.Unlock()
		r.at[id] = x
	}
	end = func() {
		r.mu.Lock()
		defer r.mu.Unlock()
		delete(r.at, id)
	}
	return tell, end
}

func (r *renders) state() Rendering {
	r.mu.Lock()
	defer r.mu.Unlock()
	out := Rendering{Running: len(r.at)}
	for _, x := range r.at {
		out.Share += x / float64(len(r.at))
	}
	return out
}

// rendering tells how far what is being rendered is.
func (s *Server) rendering(c *echo.Context) error {
	return c.JSON(http.StatusOK, s.renders.state())
}

func takeOf(key string, k *kept, s *compare.Sketch, at int, curve []float64) Take {
	t := Take{Key: key, Label: k.Label, Seconds: float64(len(k.Left)) / float64(k.Rate), Loop: float64(k.Loop) / float64(k.Rate), Loudness: k.Loudness, Peak: k.Peak, Limited: k.Limited,
		Stages: k.Stages, Assumed: k.Assumed, Hop: s.Hop, Spectrum: slices.Clone(s.Mean), Filter: curve, Recording: k.Recording}
	if t.Stages == nil {
		t.Stages = []synth.Stage{}
	}
	if t.Assumed == nil {
		t.Assumed = []string{}
	}
	if t.Filter == nil {
		t.Filter = []float64{}
	}
	for i := range s.Contour {
		t.Level = append(t.Level, math.Round(10*s.Contour[i])/10)
		b := 0.0
		if !math.IsNaN(s.Centre[i]) {
			b = math.Round(hear.ERBFrequency(s.Centre[i]))
		}
		t.Brightness = append(t.Brightness, b)
	}
	for i := range t.Spectrum {
		t.Spectrum[i] = math.Round(10*t.Spectrum[i]) / 10
	}
	n := k.Rate / 50
	for i := at; i < at+n && i < len(k.Left); i += 2 {
		t.Wave = append(t.Wave, math.Round(1e4*(k.Left[i]+k.Right[i])/2)/1e4)
	}
	return t
}

// loudestPlace finds where a sound is loudest, for the picture of its wave.
func loudestPlace(k *kept) int {
	best, at := -1.0, 0
	for i := range k.Left {
		if x := math.Abs(k.Left[i] + k.Right[i]); x > best {
			best, at = x, i
		}
	}
	return max(0, at-k.Rate/200)
}

// renderLayers gives the sound of layers.
// Where nobody waits for it any more (ctx), it is given up.
func (s *Server) renderLayers(ctx context.Context, label string, layers []synth.Layer, notes []phrase.Note, wheel float64) (string, *kept, error) {
	key := keyOf(engineVersion, layers, notes, wheel, seed)
	k, err := s.sounds.render(key, func() (*kept, error) {
		tell, end := s.renders.begin()
		defer end()
		out, err := synth.Render(layers, notes, synth.Options{Seed: seed, Wheel: wheel, Progress: tell, Stop: func() bool { return ctx.Err() != nil }})
		if errors.Is(err, synth.ErrStopped) {
			return nil, err
		}
		if err != nil {
			return nil, badRequest{err}
		}
		k := &kept{Rate: synth.Rate, Loop: out.Loop, Label: label, Stages: out.Stages, Limited: out.Limited, Assumed: out.Assumed, Left: out.Left, Right: out.Right, Times: audition.Times(notes)}
		e := hear.Listen(k.wave())
		k.Loudness, k.Peak = -90, -120
		if l, ok := hear.Loudness(k.wave()); ok {
			k.Loudness = l
		}
		if p := e.Peak(); p.Known {
			k.Peak = p.Value
		}
		return k, nil
	})
	if k != nil {
		k.Label = label
	}
	return key, k, err
}

// offOn lists the target's modules that play parts of the source.
func offOn(parts []audition.Part, off []string) []string {
	var out []string
	for _, p := range parts {
		if slices.Contains(off, p.ID) {
			out = append(out, p.Target...)
		}
	}
	return out
}

func bandMiddles() []float64 {
	out := make([]float64, hear.Bands)
	for b := range out {
		out[b] = math.Round(hear.ERBFrequency(float64(b) + 0.5))
	}
	return out
}

// sides is what a sheet's two sides are rendered from.
type sides struct {
	source  synth.Layer
	target  []synth.Layer // a second layer, where there is one, goes along
	parts   []audition.Part
	refined bool
	sheet   *gloss.Sheet
}

func (s *Server) sides(j *job, off []string, plain bool) (*sides, error) {
	opt := j.options()
	if plain {
		opt.Overrides = nil
	}
	sheet, err := translate.Translate(j.src, j.patch, j.dst, opt)
	if err != nil {
		return nil, err
	}
	layers, err := audition.Layers(j.src, j.patch, j.layer())
	if err != nil {
		return nil, badRequest{err}
	}
	x := &sides{source: layers[0], parts: audition.Parts(layers[0].Meaning, sheet), refined: len(j.choices.Why) > 0, sheet: sheet}
	first, err := j.targetLayer(sheet)
	if err != nil {
		return nil, err
	}
	first.Meaning = audition.Without(first.Meaning, offOn(x.parts, off)...)
	x.target = []synth.Layer{first}
	if err := s.addOther(x, j, off); err != nil {
		return nil, err
	}
	x.source.Meaning = audition.Without(x.source.Meaning, off...)
	return x, nil
}

// otherLayer gives the sheet of a target's second layer where a sheet is of the first, and the first where it is of the
// second; nil where there is none.
func (s *Server) otherLayer(j *job) (*job, *gloss.Sheet, error) {
	row, err := s.store.Second(j.row.ID)
	if j.row.First != 0 {
		row, err = s.store.Sheet(j.row.First)
	}
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil, nil
	}
	if err != nil {
		return nil, nil, err
	}
	k, err := s.job(row)
	if err != nil {
		return nil, nil, err
	}
	sheet, err := translate.Translate(k.src, k.patch, k.dst, k.options())
	return k, sheet, err
}

// addOther puts the other layer of a target beside the one of a sheet.
func (s *Server) addOther(x *sides, j *job, off []string) error {
	k, sheet, err := s.otherLayer(j)
	if k == nil || err != nil {
		return err
	}
	second, err := k.targetLayer(sheet)
	if err != nil {
		return err
	}
	mine := audition.Parts(x.source.Meaning, sheet)
	second.Meaning = audition.Without(second.Meaning, offOn(mine, off)...)
	x.target = append(x.target, second)
	for i := range x.parts { // what it plays is not of the source alone any more
		if len(x.parts[i].Target) == 0 {
			x.parts[i].Target = mine[i].Target
		}
	}
	return nil
}

// targetLayer gives the target as a sheet sets it, with the outboard rack where one is used.
func (j *job) targetLayer(sheet *gloss.Sheet) (synth.Layer, error) {
	y, err := audition.Target(j.dst, j.patch, sheet)
	if err != nil || sheet.Rig == nil || j.rack == nil {
		return y, err
	}
	y.Meaning, err = audition.WithRack(y.Meaning, j.rack, sheet.Rig, y.Meaning.Tempo)
	return y, err
}

// layer gives the id of the layer that a sheet is of.
func (j *job) layer() string {
	if j.row.Layer != "" {
		return j.row.Layer
	}
	return j.patch.Layers[0].ID
}

// sheetListen renders both sides of a sheet.
func (s *Server) sheetListen(c *echo.Context) error {
	b, err := body[ListenTo](c)
	if err != nil {
		return err
	}
	j, err := s.sheet(c)
	if err != nil {
		return err
	}
	x, err := s.sides(j, b.Off, b.Plain)
	if err != nil {
		return err
	}
	notes, line, err := audition.Notes(j.patch, b.Phrase, b.Octaves)
	if err != nil {
		return badRequest{err}
	}
	var keys [2]string
	var takes [2]*kept
	var errs [2]error
	var sketches [2]*compare.Sketch
	var both sync.WaitGroup
	onTarget := "the translation on " + j.dst.Name
	if len(x.target) > 1 {
		onTarget += ", both layers"
	}
	for i, y := range [][]synth.Layer{{x.source}, x.target} {
		both.Go(func() {
			defer func() {
				if fault := recover(); fault != nil {
					errs[i] = fmt.Errorf("render: %v", fault)
				}
			}()
			label := []string{j.patch.Name + " on " + j.src.Name, onTarget}[i]
			if keys[i], takes[i], errs[i] = s.renderLayers(c.Request().Context(), label, y, notes, j.patch.Wheel); errs[i] == nil {
				sketches[i] = compare.Sketched(takes[i].wave())
			}
		})
	}
	both.Wait()
	if err := errors.Join(errs[:]...); err != nil {
		return err
	}
	at := loudestPlace(takes[0])
	out := Listening{Parts: x.parts, Lines: phrase.Presets, Line: line, Bands: bandMiddles(), Refined: x.refined}
	curve := func(y synth.Layer) []float64 { return audition.Curve(y.Meaning, notes[0].Key, out.Bands) }
	out.Source = takeOf(keys[0], takes[0], sketches[0], at, curve(x.source))
	t := takeOf(keys[1], takes[1], sketches[1], at, curve(x.target[0]))
	out.Target = &t
	out.Apart = compare.Apart(sketches[0], sketches[1], false)
	if l, ok := audition.AsLoud(j.dst, x.sheet, x.target[0].Meaning, takes[0].Loudness-takes[1].Loudness); ok && len(x.target) == 1 && len(b.Off) == 0 && !b.Plain {
		out.Level = &l
	}
	if out.Trials, err = s.trialRows(j.row.ID); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

// patchListen renders a patch with all of its layers.
func (s *Server) patchListen(c *echo.Context) error {
	b, err := body[ListenTo](c)
	if err != nil {
		return err
	}
	p, err := s.patch(c.Param("id"))
	if err != nil {
		return err
	}
	src, _, err := s.panelOf(p)
	if err != nil {
		return err
	}
	out, err := s.listenPatch(c.Request().Context(), src, p, b)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

func (s *Server) listenPatch(ctx context.Context, src *panel.Compiled, p *patch.Patch, b ListenTo) (*Listening, error) {
	layers, err := audition.Layers(src, p, "")
	if err != nil {
		return nil, err
	}
	notes, line, err := audition.Notes(p, b.Phrase, b.Octaves)
	if err != nil {
		return nil, badRequest{err}
	}
	out := &Listening{Parts: audition.Parts(layers[0].Meaning, nil), Lines: phrase.Presets, Line: line, Bands: bandMiddles(), Trials: []TrialRow{}}
	for i := range layers {
		layers[i].Meaning = audition.Without(layers[i].Meaning, b.Off...)
	}
	key, k, err := s.renderLayers(ctx, p.Name+" on "+src.Name, layers, notes, p.Wheel)
	if err != nil {
		return nil, err
	}
	out.Source = takeOf(key, k, compare.Sketched(k.wave()), loudestPlace(k), audition.Curve(layers[0].Meaning, notes[0].Key, out.Bands))
	return out, nil
}

// soundFile gives a sound as a WAVE file; with loop=true with its tail folded onto its beginning.
func (s *Server) soundFile(c *echo.Context) error {
	key, ok := strings.CutSuffix(c.Param("key"), ".wav")
	if !ok {
		return store.ErrNotFound
	}
	k, err := s.sounds.get(key)
	if err != nil {
		return err
	}
	left, right := k.Left, k.Right
	if c.QueryParam("loop") == "true" && k.Loop > 0 {
		left, right = (&synth.Sound{Left: k.Left, Right: k.Right, Loop: k.Loop}).Looped()
	}
	var b bytes.Buffer
	if err := wav.Write(&b, &wav.Sound{Rate: k.Rate, Bits: 24, Left: left, Right: right}); err != nil {
		return err
	}
	c.Response().Header().Set("Cache-Control", "private, max-age=31536000, immutable") // a key is of one content
	return c.Blob(http.StatusOK, "audio/wav", b.Bytes())
}

// contrasts measures two sounds and says what differs.
func (s *Server) contrasts(c *echo.Context) error {
	a, err := s.sounds.get(c.QueryParam("a"))
	if err != nil {
		return err
	}
	b, err := s.sounds.get(c.QueryParam("b"))
	if err != nil {
		return err
	}
	align := a.Recording || b.Recording
	times := a.Times
	if align {
		times = compare.Times{}
	}
	return c.JSON(http.StatusOK, Contrasts{Apart: compare.Apart(compare.Sketched(a.wave()), compare.Sketched(b.wave()), align), Rows: compare.Table(a.wave(), b.wave(), times)})
}

// RecordingLimit is the largest recording that is taken, in bytes.
const RecordingLimit = 64 << 20

// recording takes a WAVE file of a real instrument.
func (s *Server) recording(c *echo.Context) error {
	data, err := io.ReadAll(c.Request().Body)
	if err != nil {
		return err
	}
	w, err := wav.Read(data)
	if err != nil {
		return badRequest{err}
	}
	if n := float64(len(w.Left)) / float64(w.Rate); n > 60 {
		return badRequest{fmt.Errorf("expected at most 60 s of sound, got %.0f s", n)}
	}
	k := &kept{Rate: w.Rate, Label: fileName(c, "recording"), Recording: true, Left: w.Left, Right: w.Right, Loudness: -90, Peak: -120}
	if k.Right == nil {
		k.Right = k.Left
	}
	if l, ok := hear.Loudness(k.wave()); ok {
		k.Loudness = l
	} else {
		return badRequest{errors.New("expected a recording with sound in it: it is quieter than -70 LUFS")}
	}
	if p := hear.Listen(k.wave()).Peak(); p.Known {
		k.Peak = p.Value
	}
	key := keyOf("recording", k.Label, data)
	if err := s.sounds.put(key, k); err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, takeOf(key, k, compare.Sketched(k.wave()), loudestPlace(k), nil))
}

// note renders one note of one side, for playing from the computer keyboard.
func (s *Server) note(c *echo.Context) error {
	b, err := body[LiveNote](c)
	if err != nil {
		return err
	}
	if b.Key < 0 || b.Key > 127 || b.Side != "source" && b.Side != "target" {
		return badRequest{fmt.Errorf("expected a key of 0 to 127 and the side source or target, got %d and %q", b.Key, b.Side)}
	}
	j, err := s.sheet(c)
	if err != nil {
		return err
	}
	x, err := s.sides(j, b.Off, false)
	if err != nil {
		return err
	}
	y := []synth.Layer{x.source}
	if b.Side == "target" {
		y = x.target
	}
	_, k, err := s.noteOf(c.Request().Context(), y, b.Key, j.patch.Wheel)
	if err != nil {
		return err
	}
	var out bytes.Buffer
	if err := wav.Write(&out, &wav.Sound{Rate: k.Rate, Bits: 16, Left: k.Left, Right: k.Right}); err != nil {
		return err
	}
	return c.Blob(http.StatusOK, "audio/wav", out.Bytes())
}

func (s *Server) noteOf(ctx context.Context, y []synth.Layer, key int, wheel float64) (string, *kept, error) {
	return s.renderLayers(ctx, "note", y, []phrase.Note{{Start: 0, End: 0.8, Key: float64(key), Velocity: 100}}, wheel)
}

// blind keeps the result of a blind test.
func (s *Server) blind(c *echo.Context) error {
	b, err := body[Blind](c)
	if err != nil {
		return err
	}
	j, err := s.sheet(c)
	if err != nil {
		return err
	}
	if b.Of < 1 || b.Of > 100 || b.Right < 0 || b.Right > b.Of || len(b.Sounds) > 400 {
		return badRequest{fmt.Errorf("expected 1 to 100 answers and no more right ones than that, got %d of %d", b.Right, b.Of)}
	}
	if err := s.store.AddTrial(j.row.ID, b.Right, b.Of, b.Sounds); err != nil {
		return err
	}
	rows, err := s.trialRows(j.row.ID)
	if err != nil {
		return err
	}
	pending, err := s.pending()
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, Trials{Trials: rows, Pending: pending})
}

// Trials lists blind tests.
type Trials struct {
	Trials  []TrialRow `json:"trials"`
	Pending Pending    `json:"pending"`
}

func (s *Server) trialRows(sheet uint) ([]TrialRow, error) {
	list, err := s.store.Trials(sheet)
	if err != nil {
		return nil, err
	}
	out := []TrialRow{}
	for _, t := range list {
		out = append(out, TrialRow{At: t.At.UTC().Format(time.RFC3339), Right: t.Right, Of: t.Of, Sounds: t.Sounds, P: compare.Chance(t.Right, t.Of)})
	}
	return out, nil
}

// search is a refinement that runs.
type search struct {
	mu    sync.Mutex
	state Refining
	stop  bool
}

// refineStart begins a search by ear on a sheet; one that runs is left to run.
func (s *Server) refineStart(c *echo.Context) error {
	b, err := body[ListenTo](c)
	if err != nil {
		return err
	}
	j, err := s.sheet(c)
	if err != nil {
		return err
	}
	sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return err
	}
	sheet.Layer = j.layer()
	notes, _, err := audition.Notes(j.patch, b.Phrase, b.Octaves)
	if err != nil {
		return badRequest{err}
	}
	beside, err := s.beside(j)
	if err != nil {
		return err
	}
	x := &search{state: Refining{Running: true, Most: refine.Budget}}
	if old, running := s.searches.LoadOrStore(j.row.ID, x); running {
		o := old.(*search)
		o.mu.Lock()
		still := o.state.Running
		o.mu.Unlock()
		if still {
			return s.answerSearch(c, o)
		}
		s.searches.Store(j.row.ID, x)
	}
	go func() {
		defer func() {
			if fault := recover(); fault != nil {
				s.log.Error("search by ear", "fault", fault)
				x.mu.Lock()
				x.state.Running, x.state.Error = false, "The search failed, which is a fault of the program."
				x.mu.Unlock()
			}
		}()
		r, err := refine.Search(refine.Task{Source: j.src, Target: j.dst, Patch: j.patch, Sheet: sheet, Notes: notes, Rack: j.rack, Beside: beside,
			Stop: func() bool {
				x.mu.Lock()
				defer x.mu.Unlock()
				return x.stop
			},
			Progress: func(done, most int, d float64) {
				x.mu.Lock()
				defer x.mu.Unlock()
				x.state.Done, x.state.Most, x.state.Distance = done, most, d
			}})
		x.mu.Lock()
		defer x.mu.Unlock()
		x.state.Running, x.state.Result = false, r
		if err != nil {
			x.state.Error = err.Error()
		}
	}()
	return s.answerSearch(c, x)
}

// beside gives the other layer that sounds along with a sheet, as its own sheet sets it.
func (s *Server) beside(j *job) ([]synth.Layer, error) {
	other, sheet, err := s.otherLayer(j)
	if other == nil || err != nil {
		return nil, err
	}
	y, err := other.targetLayer(sheet)
	if err != nil {
		return nil, err
	}
	return []synth.Layer{y}, nil
}

func (s *Server) answerSearch(c *echo.Context, x *search) error {
	x.mu.Lock()
	state := x.state
	x.mu.Unlock()
	return c.JSON(http.StatusOK, state)
}

func (s *Server) findSearch(c *echo.Context) (*search, error) {
	id, err := sheetID(c)
	if err != nil {
		return nil, err
	}
	x, ok := s.searches.Load(id)
	if !ok {
		return nil, store.ErrNotFound
	}
	return x.(*search), nil
}

// refineState tells how far a search is.
func (s *Server) refineState(c *echo.Context) error {
	x, err := s.findSearch(c)
	if err != nil {
		return err
	}
	return s.answerSearch(c, x)
}

// refineStop stops a search; what it has found is kept.
func (s *Server) refineStop(c *echo.Context) error {
	x, err := s.findSearch(c)
	if err != nil {
		return err
	}
	x.mu.Lock()
	x.stop = true
	x.mu.Unlock()
	return s.answerSearch(c, x)
}

// refineAdopt puts what a search has found onto the sheet, in one step that can be undone.
func (s *Server) refineAdopt(c *echo.Context) error {
	x, err := s.findSearch(c)
	if err != nil {
		return err
	}
	x.mu.Lock()
	r := x.state.Result
	x.mu.Unlock()
	if r == nil || len(r.Changes) == 0 {
		return badRequest{errors.New("expected a search that has found something")}
	}
	j, err := s.sheet(c)
	if err != nil {
		return err
	}
	over, why := map[string]string{}, map[string]string{}
	for id, v := range j.over {
		over[id] = v
	}
	for id, v := range j.choices.Why {
		why[id] = v
	}
	for _, ch := range r.Changes {
		over[ch.Control], why[ch.Control] = ch.To, ch.To+": "+ch.Text
	}
	j.over, j.choices.Why = over, why
	if _, err := translate.Translate(j.src, j.patch, j.dst, j.options()); err != nil {
		return err
	}
	if j.row, err = s.store.Adopt(j.row.ID, "set "+strconv.Itoa(len(r.Changes))+" controls by ear", over, j.choices); err != nil {
		return err
	}
	s.searches.Delete(j.row.ID)
	return s.answerSheet(c, j)
}

// heardOf gives how much the parts of a patch are heard, kept by content.
func (s *Server) heardOf(src *panel.Compiled, p *patch.Patch, layer string) (map[string]float64, error) {
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		return nil, err
	}
	layers, err := audition.Layers(src, p, layer)
	if err != nil {
		return nil, err
	}
	key := keyOf(engineVersion, layers, notes, p.Wheel)
	if h, ok := s.heard.Load(key); ok {
		return h.(map[string]float64), nil
	}
	h, err := refine.Heard(src, p, layer, notes, nil)
	if err != nil {
		return nil, err
	}
	s.heard.Store(key, h)
	return h, nil
}
