package server

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"glossator/core/fault"
	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/paste"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/quantity"
	"glossator/formats/smf"
	"glossator/store"
)

// PhraseBody carries a phrase in words or, where Line is there, in numbers; none takes it away.
type PhraseBody struct {
	Phrase *patch.Phrase `json:"phrase" jsonschema:"nullable"`
	Line   *PhraseLine   `json:"line,omitempty"`
}

// PhraseLine is a phrase in numbers, as an editor steps through it.
type PhraseLine struct {
	Name  string            `json:"name"`
	Notes []phrase.LineNote `json:"notes"`
}

// PhrasePresets lists the lines that can be made and those of the same cue.
type PhrasePresets struct {
	Presets []phrase.Preset `json:"presets"`
	Cue     []CueLine       `json:"cue"`
}

// CueLine is the phrase of another patch of the same cue.
type CueLine struct {
	Patch  string       `json:"patch"`
	Name   string       `json:"name"`
	Tag    string       `json:"tag"`
	Line   PhraseLine   `json:"line"`
	Phrase patch.Phrase `json:"phrase"`
}

// MakePhrase asks for a preset on a note.
type MakePhrase struct {
	Preset string `json:"preset"`
	Note   string `json:"note"`
}

// check gives the faults of a line that its words would not show.
func (l *PhraseLine) check() (out fault.List) {
	for i, n := range l.Notes {
		at := fmt.Sprintf("/line/notes/%d", i)
		if n.At < 0 {
			out.Add(at+"/at", "expected 0 or more, got %d", n.At)
		}
		if n.For <= 0 {
			out.Add(at+"/for", "expected a length above 0, got %d", n.For)
		}
		if n.Key < 0 || n.Key > 127 {
			out.Add(at+"/key", "expected a MIDI note number from 0 to 127, got %d", n.Key)
		}
	}
	return out
}

type phraseSetRequest struct {
	ID   string `path:"id"`
	Body PhraseBody
}

func (s *Server) phraseSet(ctx context.Context, in phraseSetRequest) (none PatchView, err error) {
	b := in.Body
	return s.changePatch(ctx, in.ID, "change the phrase", func(p *patch.Patch) error {
		before := p.Phrase
		p.Phrase = b.Phrase
		if b.Line != nil {
			if l := b.Line.check(); len(l) > 0 {
				return l
			}
			moves := []patch.Move(nil)
			if before != nil {
				moves = before.Moves
			}
			p.Phrase = phrase.OfLine(b.Line.Name, b.Line.Notes)
			p.Phrase.Moves = moves
		}
		if p.Phrase != nil && len(p.Phrase.Notes) == 0 {
			p.Phrase = nil
		}
		if p.Phrase != nil && len(p.Phrase.Notes) > phrase.MaxNotes {
			return badRequest{fmt.Errorf("expected at most %d notes", phrase.MaxNotes)}
		}
		return nil
	})
}

// MoveView is a move of a phrase, with what it is called and when it is.
type MoveView struct {
	patch.Move
	Label string `json:"label"`
	When  string `json:"when"`
	// Start and End are in whole notes, First and Last where it begins and ends, as shares of the way or of the travel.
	Start float64 `json:"start"`
	End   float64 `json:"end"`
	First float64 `json:"first"`
	Last  float64 `json:"last"`
}

// moveViews lists the moves of a phrase in order of time.
func moveViews(c *panel.Compiled, p *patch.Patch) ([]MoveView, error) {
	out := []MoveView{}
	if p.Phrase == nil {
		return out, nil
	}
	all, err := phrase.Moves(p.Phrase)
	if err != nil {
		return nil, err
	}
	for _, m := range all {
		v := MoveView{Move: *m.Move, Label: m.What, When: phrase.Bars(m.Start, m.End), Start: m.Start, End: m.End}
		if k, ok := c.ControlIndex(m.What); ok && !m.ByPlayer() {
			v.Label = strings.TrimSpace(c.SectionLabel(k) + " " + c.Controls[k].Label)
			if a, err := c.Parse(k, m.From); err == nil {
				v.First = a.Travel
			}
			if b, err := c.Parse(k, m.To); err == nil {
				v.Last = b.Travel
			}
		} else if m.ByPlayer() {
			v.Label = gloss.MeansLabel(m.What)
			one := patch.Phrase{Moves: []patch.Move{*m.Move}}
			if g, err := phrase.Played(&one, 240, 0); err == nil && len(g) == 1 {
				v.First, v.Last = g[0].Value(m.Start), g[0].Value(m.End+1)
			}
		}
		out = append(out, v)
	}
	return out, nil
}

// MovesBody carries the moves of a phrase, or a line that says one more in words.
type MovesBody struct {
	Moves []patch.Move `json:"moves"`
	// Line says a move in words, such as "cutoff 40 to 90, bars 5 to 8"; Layer whose controls it may be of.
	Line  string `json:"line,omitempty"`
	Layer string `json:"layer,omitempty"`
	// Step moves one end of a move of a control by steps of its face.
	Step *MoveStep `json:"step,omitempty"`
}

// MoveStep names a move by its place in Moves, one of its ends ("from" or "to"), and how many steps it is moved by.
type MoveStep struct {
	Index int    `json:"index"`
	End   string `json:"end"`
	By    int    `json:"by"`
}

// step moves an end of a control's move by steps of the control's face.
func (x *MoveStep) step(c *panel.Compiled, moves []patch.Move) error {
	if x.Index < 0 || x.Index >= len(moves) || x.End != "from" && x.End != "to" {
		return badRequest{errors.New("expected a move of the list, and from or to")}
	}
	m := &moves[x.Index]
	text := &m.From
	if x.End == "to" {
		text = &m.To
	}
	k, ok := c.ControlIndex(m.What)
	if !ok || m.ByPlayer() {
		return badRequest{fmt.Errorf("expected a control of %s, got %q", c.Name, m.What)}
	}
	at, err := c.Parse(k, *text)
	if err != nil {
		return badRequest{err}
	}
	f := &c.Controls[k].Face
	if f.Len() == 0 {
		return badRequest{errors.New("a text has no steps")}
	}
	i := at.Index
	if i < 0 {
		i = f.Nearest(at.Travel).Index
	}
	*text = f.At(min(max(i+x.By, 0), f.Len()-1)).Reading
	return nil
}

type movesRequest struct {
	ID   string `path:"id"`
	Body MovesBody
}

// movesSet stores what is moved while the phrase is played.
func (s *Server) movesSet(ctx context.Context, in movesRequest) (none PatchView, err error) {
	b := in.Body
	p, c, err := s.patchOn(in.ID)
	if err != nil {
		return none, err
	}
	if p.Phrase == nil {
		return none, badRequest{errors.New("expected a phrase with notes: what is moved is moved while it is played")}
	}
	moves := append([]patch.Move{}, b.Moves...)
	what := "change what is moved"
	if b.Step != nil {
		if err := b.Step.step(c, moves); err != nil {
			return none, err
		}
	}
	if strings.TrimSpace(b.Line) != "" {
		n := max(0, slices.IndexFunc(p.Layers, func(y patch.Layer) bool { return y.ID == b.Layer }))
		state, err := c.Read(&p.Layers[n], "")
		if err != nil {
			return none, err
		}
		more, err := paste.ReadMoves(c, b.Line, func(k int) string { return state.At[k].Reading })
		if err != nil {
			return none, badRequest{err}
		}
		for i := range more {
			if n > 0 && !more[i].ByPlayer() {
				more[i].Layer = p.Layers[n].ID
			}
		}
		moves = append(moves, more...)
		what = "move: " + strings.TrimSpace(b.Line)
	}
	if len(moves) > smf.MaxMoves {
		return none, badRequest{fmt.Errorf("expected at most %d moves", smf.MaxMoves)}
	}
	return s.changePatch(ctx, in.ID, what, func(p *patch.Patch) error {
		if p.Phrase == nil {
			return badRequest{errors.New("expected a phrase with notes")}
		}
		p.Phrase.Moves = moves
		if len(moves) == 0 {
			p.Phrase.Moves = nil
		}
		return nil
	})
}

// phrasePresets lists the lines that can be made, and the lines of the other patches of the same cue
// (that share a tag).
func (s *Server) phrasePresets(ctx context.Context, in named) (none PhrasePresets, err error) {
	p, err := s.patch(in.ID)
	if err != nil {
		return none, err
	}
	out := PhrasePresets{Presets: phrase.Presets, Cue: []CueLine{}}
	rows, err := s.store.Patches()
	if err != nil {
		return none, err
	}
	for i := range rows {
		other, err := patchOf(rows[i].Document)
		if err != nil {
			return none, err
		}
		if other.ID == p.ID || other.Phrase == nil {
			continue
		}
		if tag := shared(p.Tags, other.Tags); tag != "" {
			line, err := lineOf(other.Phrase)
			if err != nil {
				return none, err
			}
			out.Cue = append(out.Cue, CueLine{Patch: other.ID, Name: other.Name, Tag: tag, Phrase: *other.Phrase, Line: *line})
		}
	}
	return out, nil
}

// lineOf gives a phrase in numbers; none for none.
func lineOf(p *patch.Phrase) (*PhraseLine, error) {
	if p == nil {
		return nil, nil
	}
	notes, err := phrase.Line(p)
	if err != nil {
		return nil, err
	}
	return &PhraseLine{Name: p.Name, Notes: notes}, nil
}

func shared(a, b []string) string {
	for _, x := range a {
		for _, y := range b {
			if strings.EqualFold(x, y) {
				return x
			}
		}
	}
	return ""
}

type phraseMakeRequest struct {
	ID   string `path:"id"`
	Body MakePhrase
}

func (s *Server) phraseMake(ctx context.Context, in phraseMakeRequest) (none PatchView, err error) {
	b := in.Body
	e, err := quantity.Parse(b.Note)
	if err != nil {
		return none, badRequest{err}
	}
	if e.Form != quantity.FormNote {
		return none, badRequest{fmt.Errorf("expected a note such as A1, got %q", b.Note)}
	}
	made, err := phrase.Make(b.Preset, int(quantity.Frequency(e.Value).Note()+0.5))
	if err != nil {
		return none, badRequest{err}
	}
	return s.changePatch(ctx, in.ID, "phrase: "+made.Name, func(p *patch.Patch) error { p.Phrase = made; return nil })
}

func (s *Server) phraseMIDI(ctx context.Context, in named) (none File[None], err error) {
	p, err := s.patch(in.ID)
	if err != nil {
		return none, err
	}
	if p.Phrase == nil {
		return none, store.ErrNotFound
	}
	f, err := smf.OfPhrase(p.Phrase, tempoOf(p))
	if err != nil {
		return none, badRequest{err}
	}
	return download(p.ID+".mid", "audio/midi", f.Write())
}

func tempoOf(p *patch.Patch) quantity.Tempo {
	if p.Tempo > 0 {
		return quantity.Tempo(p.Tempo)
	}
	return panel.DefaultTempo
}

type phraseFromMIDIRequest struct {
	ID   string `path:"id"`
	File string `query:"file"`
	Body Upload[None]
}

func (s *Server) phraseFromMIDI(ctx context.Context, in phraseFromMIDIRequest) (none PatchView, err error) {
	data := in.Body.Data
	f, err := smf.Read(data)
	if err != nil {
		return none, badRequest{fmt.Errorf("%s: %w", fileName(in.File, "file"), err)}
	}
	made, tempo, err := f.Phrase()
	if err != nil {
		return none, badRequest{fmt.Errorf("%s: %w", fileName(in.File, "file"), err)}
	}
	said := ""
	v, err := s.changePatch(ctx, in.ID, "phrase from "+fileName(in.File, "file"), func(p *patch.Patch) error {
		p.Phrase, said = made, saidOfTempo(p.Tempo, tempo, len(f.Tempos()))
		if p.Tempo == 0 && tempo >= 10 && tempo <= 400 {
			p.Tempo = float64(tempo)
		}
		return nil
	})
	v.Said = said
	return v, err
}

// saidOfTempo tells what becomes of the tempo of a file: taken, left, or one of several.
func saidOfTempo(has float64, tempo quantity.Tempo, tempos int) string {
	var said []string
	switch {
	case tempo == 0:
	case !(tempo >= 10 && tempo <= 400):
		said = append(said, fmt.Sprintf("The file plays at %.4g, which is not taken: a patch has 10 to 400.", float64(tempo)))
	case has == 0:
		said = append(said, fmt.Sprintf("The tempo of the file is taken: %.4g.", float64(tempo)))
	case math.Abs(has-float64(tempo)) > 0.01:
		said = append(said, fmt.Sprintf("The file plays at %.4g; the patch stays at its %.4g.", float64(tempo), has))
	}
	if tempos > 1 {
		said = append(said, fmt.Sprintf("It changes its tempo: of %d the first counts.", tempos))
	}
	return strings.Join(said, " ")
}
