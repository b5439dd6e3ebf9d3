package server

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"sync"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/hear"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
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
	// Wave is two periods of the note that sounds at the loudest place of the source, WaveSeconds long; of a recording 20 ms.
	Wave        []float64 `json:"wave"`
	WaveSeconds float64   `json:"waveSeconds"`
	Recording   bool      `json:"recording"`
}

// Listening is both sides of a sheet, ready to be played.
type Listening struct {
	Source Take             `json:"source"`
	Target *Take            `json:"target" jsonschema:"nullable"`
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
	// Unkept says why sounds are not kept, where the folder for them is in the way.
	Unkept string `json:"unkept,omitempty"`
}

// LiveNote asks for one note on one side.
type LiveNote struct {
	Key  int      `json:"key"`
	Side string   `json:"side"`
	Off  []string `json:"off"`
}

func takeOf(key string, k *kept, s *compare.Sketch, at int, period float64, curve []float64) Take {
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
	if period <= 0 {
		period = 0.01
	}
	n := min(k.Rate/5, max(16, int(math.Round(2*period*float64(k.Rate)))))
	t.WaveSeconds = float64(n) / float64(k.Rate)
	for i, by := at, max(1, n/800); i < at+n && i < len(k.Left); i += by {
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

func (s *Server) sides(j *sheetInputs, off []string, plain bool) (*sides, error) {
	opt := j.options()
	if plain {
		opt.Overrides = nil
		if t := opt.Choices.Tuned; t != nil { // the plan stays, its controls are as the plan alone has them
			bare := *t
			bare.Readings = nil
			opt.Choices.Tuned = &bare
		}
	}
	sheet, err := translate.Translate(j.src, j.patch, j.dst, opt)
	if err != nil {
		return nil, err
	}
	layers, err := audition.Played(j.src, j.patch, j.layer())
	if err != nil {
		return nil, badRequest{err}
	}
	x := &sides{source: layers[0], parts: audition.Parts(layers[0].Meaning, sheet), refined: len(j.choices.Why) > 0 || j.choices.Tuned != nil && len(j.choices.Tuned.Readings) > 0, sheet: sheet}
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

// played gives a patch as it is played with a preset: what is moved in its own phrase stands still then.
func played(p *patch.Patch, preset string) *patch.Patch {
	if preset == "" || p.Phrase == nil || len(p.Phrase.Moves) == 0 {
		return p
	}
	out, still := *p, *p.Phrase
	still.Moves = nil
	out.Phrase = &still
	return &out
}

// otherLayer gives the sheet of a target's second layer where a sheet is of the first, and the first where it is of the
// second; nil where there is none.
func (s *Server) otherLayer(j *sheetInputs) (*sheetInputs, *gloss.Sheet, error) {
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
	k, err := s.inputs(row)
	if err != nil {
		return nil, nil, err
	}
	sheet, err := translate.Translate(k.src, k.patch, k.dst, k.options())
	return k, sheet, err
}

// addOther puts the other layer of a target beside the one of a sheet.
func (s *Server) addOther(x *sides, j *sheetInputs, off []string) error {
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
func (j *sheetInputs) targetLayer(sheet *gloss.Sheet) (synth.Layer, error) {
	y, err := audition.PlayedTarget(j.dst, j.patch, sheet)
	if err != nil || sheet.Rig == nil || j.rack == nil {
		return y, err
	}
	y.Meaning, err = audition.WithRack(y.Meaning, j.rack, sheet.Rig, y.Meaning.Tempo)
	return y, err
}

// layer gives the id of the layer that a sheet is of.
func (j *sheetInputs) layer() string {
	if j.row.Layer != "" {
		return j.row.Layer
	}
	return j.patch.Layers[0].ID
}

type sheetListenRequest struct {
	ID   uint `path:"id"`
	Body ListenTo
}

// sheetListen renders both sides of a sheet.
func (s *Server) sheetListen(ctx context.Context, in sheetListenRequest) (none Listening, err error) {
	b := in.Body
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	j.patch = played(j.patch, b.Phrase)
	x, err := s.sides(j, b.Off, b.Plain)
	if err != nil {
		return none, err
	}
	notes, line, err := audition.Notes(j.patch, b.Phrase, b.Octaves)
	if err != nil {
		return none, badRequest{err}
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
			if keys[i], takes[i], errs[i] = s.renderLayers(ctx, label, y, notes, j.patch.Wheel); errs[i] == nil {
				sketches[i] = compare.Sketched(takes[i].wave())
			}
		})
	}
	both.Wait()
	if err := errors.Join(errs[:]...); err != nil {
		return none, err
	}
	at := loudestPlace(takes[0])
	out := Listening{Parts: x.parts, Lines: phrase.Presets, Line: line, Bands: bandMiddles(), Refined: x.refined, Unkept: s.sounds.unkept()}
	period := audition.Period(x.source.Meaning, notes, float64(at)/float64(takes[0].Rate))
	curve := func(y synth.Layer) []float64 { return audition.Curve(y.Meaning, notes[0].Key, out.Bands) }
	out.Source = takeOf(keys[0], takes[0], sketches[0], at, period, curve(x.source))
	t := takeOf(keys[1], takes[1], sketches[1], at, period, curve(x.target[0]))
	out.Target = &t
	out.Apart = compare.Apart(sketches[0], sketches[1], false)
	if l, ok := audition.AsLoud(j.dst, x.sheet, x.target[0].Meaning, takes[0].Loudness-takes[1].Loudness); ok && len(x.target) == 1 && len(b.Off) == 0 && !b.Plain {
		out.Level = &l
	}
	if out.Trials, err = s.trialRows(j.row.ID); err != nil {
		return none, err
	}
	return out, nil
}

type patchListenRequest struct {
	ID   string `path:"id"`
	Body ListenTo
}

// patchListen renders a patch with all of its layers.
func (s *Server) patchListen(ctx context.Context, in patchListenRequest) (none Listening, err error) {
	b := in.Body
	p, src, err := s.patchOn(in.ID)
	if err != nil {
		return none, err
	}
	out, err := s.listenPatch(ctx, src, p, b)
	if err != nil {
		return none, err
	}
	return *out, nil
}

func (s *Server) listenPatch(ctx context.Context, src *panel.Compiled, p *patch.Patch, b ListenTo) (*Listening, error) {
	layers, err := audition.Played(src, played(p, b.Phrase), "")
	if err != nil {
		return nil, err
	}
	notes, line, err := audition.Notes(p, b.Phrase, b.Octaves)
	if err != nil {
		return nil, badRequest{err}
	}
	out := &Listening{Parts: audition.Parts(layers[0].Meaning, nil), Lines: phrase.Presets, Line: line, Bands: bandMiddles(), Trials: []TrialRow{}, Unkept: s.sounds.unkept()}
	for i := range layers {
		layers[i].Meaning = audition.Without(layers[i].Meaning, b.Off...)
	}
	key, k, err := s.renderLayers(ctx, p.Name+" on "+src.Name, layers, notes, p.Wheel)
	if err != nil {
		return nil, err
	}
	at := loudestPlace(k)
	out.Source = takeOf(key, k, compare.Sketched(k.wave()), at, audition.Period(layers[0].Meaning, notes, float64(at)/float64(k.Rate)), audition.Curve(layers[0].Meaning, notes[0].Key, out.Bands))
	return out, nil
}

type noteRequest struct {
	ID   uint `path:"id"`
	Body LiveNote
}

// note renders one note of one side, for playing from the computer keyboard.
func (s *Server) note(ctx context.Context, in noteRequest) (none File[None], err error) {
	b := in.Body
	if b.Key < 0 || b.Key > 127 || b.Side != "source" && b.Side != "target" {
		return none, badRequest{fmt.Errorf("expected a key of 0 to 127 and the side source or target, got %d and %q", b.Key, b.Side)}
	}
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	j.patch = played(j.patch, "note")
	x, err := s.sides(j, b.Off, false)
	if err != nil {
		return none, err
	}
	y := []synth.Layer{x.source}
	if b.Side == "target" {
		y = x.target
	}
	_, k, err := s.noteOf(ctx, y, b.Key, j.patch.Wheel)
	if err != nil {
		return none, err
	}
	var out bytes.Buffer
	if err := wav.Write(&out, &wav.Sound{Rate: k.Rate, Bits: 16, Left: k.Left, Right: k.Right}); err != nil {
		return none, err
	}
	return File[None]{Media: "audio/wav", Data: out.Bytes()}, nil
}
