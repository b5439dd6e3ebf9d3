package server

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/quantity"
	"glossator/core/wire"
	"glossator/formats/smf"
	"glossator/store"
)

// changePatch changes the patch of a request in one step, checks it with its panel, and answers
// with it.
func (s *Server) changePatch(c *echo.Context, what string, change func(p *patch.Patch) error) error {
	p, err := s.store.ChangePatch(c.Param("id"), what, func(p *patch.Patch) error {
		if err := change(p); err != nil {
			return err
		}
		if l := p.Check(); len(l) > 0 {
			return l
		}
		on, _, err := s.panelOf(p)
		if err != nil {
			return err
		}
		for i := range p.Layers {
			if _, err := on.Read(&p.Layers[i], fmt.Sprintf("/layers/%d", i)); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	return s.answerPatch(c, p)
}

// layerIn finds the layer of a request in a patch.
func layerIn(p *patch.Patch, id string) (int, error) {
	for i := range p.Layers {
		if p.Layers[i].ID == id {
			return i, nil
		}
	}
	return -1, store.ErrNotFound
}

func (s *Server) layerAdd(c *echo.Context) error {
	b, err := body[NewLayer](c)
	if err != nil {
		return err
	}
	return s.changePatch(c, "add a layer", func(p *patch.Patch) error {
		if len(p.Layers) >= 8 {
			return badRequest{errors.New("expected at most 8 layers")}
		}
		l := patch.Layer{Label: strings.TrimSpace(b.Label), Readings: map[string]string{}}
		if b.Like != "" {
			i, err := layerIn(p, b.Like)
			if err != nil {
				return err
			}
			for id, r := range p.Layers[i].Readings {
				l.Readings[id] = r
			}
			l.Cables = append(l.Cables, p.Layers[i].Cables...)
		}
		for n := range 26 {
			l.ID = string(rune('a' + n))
			if _, err := layerIn(p, l.ID); err != nil {
				break
			}
		}
		p.Layers = append(p.Layers, l)
		return nil
	})
}

func (s *Server) layerSet(c *echo.Context) error {
	b, err := body[LayerHead](c)
	if err != nil {
		return err
	}
	return s.changePatch(c, "change layer "+c.Param("layer"), func(p *patch.Patch) error {
		i, err := layerIn(p, c.Param("layer"))
		if err != nil {
			return err
		}
		l := &p.Layers[i]
		l.Label, l.Transpose, l.Level = strings.TrimSpace(b.Label), strings.TrimSpace(b.Transpose), strings.TrimSpace(b.Level)
		return nil
	})
}

func (s *Server) layerDrop(c *echo.Context) error {
	return s.changePatch(c, "delete layer "+c.Param("layer"), func(p *patch.Patch) error {
		i, err := layerIn(p, c.Param("layer"))
		if err != nil {
			return err
		}
		if len(p.Layers) == 1 {
			return badRequest{errors.New("a patch keeps at least one layer")}
		}
		p.Layers = append(p.Layers[:i], p.Layers[i+1:]...)
		return nil
	})
}

// cablesSet plugs the cables of a layer, all at once.
func (s *Server) cablesSet(c *echo.Context) error {
	b, err := body[Cables](c)
	if err != nil {
		return err
	}
	return s.changePatch(c, "plug cables", func(p *patch.Patch) error {
		i, err := layerIn(p, c.Param("layer"))
		if err != nil {
			return err
		}
		p.Layers[i].Cables = b.Cables
		return nil
	})
}

func (s *Server) phraseSet(c *echo.Context) error {
	b, err := body[PhraseBody](c)
	if err != nil {
		return err
	}
	return s.changePatch(c, "change the phrase", func(p *patch.Patch) error {
		p.Phrase = b.Phrase
		if p.Phrase != nil && len(p.Phrase.Notes) == 0 {
			p.Phrase = nil
		}
		if p.Phrase != nil && len(p.Phrase.Notes) > phrase.MaxNotes {
			return badRequest{fmt.Errorf("expected at most %d notes", phrase.MaxNotes)}
		}
		return nil
	})
}

// phrasePresets lists the lines that can be made, and the lines of the other patches of the same cue
// (that share a tag).
func (s *Server) phrasePresets(c *echo.Context) error {
	p, err := s.patch(c.Param("id"))
	if err != nil {
		return err
	}
	out := PhrasePresets{Presets: phrase.Presets, Cue: []CueLine{}}
	rows, err := s.store.Patches()
	if err != nil {
		return err
	}
	for i := range rows {
		other, err := patchOf(rows[i].Document)
		if err != nil {
			return err
		}
		if other.ID == p.ID || other.Phrase == nil {
			continue
		}
		if tag := shared(p.Tags, other.Tags); tag != "" {
			out.Cue = append(out.Cue, CueLine{Patch: other.ID, Name: other.Name, Tag: tag, Phrase: *other.Phrase})
		}
	}
	return c.JSON(http.StatusOK, out)
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

func (s *Server) phraseMake(c *echo.Context) error {
	b, err := body[MakePhrase](c)
	if err != nil {
		return err
	}
	e, err := quantity.Parse(b.Note)
	if err != nil {
		return badRequest{err}
	}
	if e.Form != quantity.FormNote {
		return badRequest{fmt.Errorf("expected a note such as A1, got %q", b.Note)}
	}
	made, err := phrase.Make(b.Preset, int(quantity.Frequency(e.Value).Note()+0.5))
	if err != nil {
		return badRequest{err}
	}
	return s.changePatch(c, "phrase: "+made.Name, func(p *patch.Patch) error { p.Phrase = made; return nil })
}

func (s *Server) phraseMIDI(c *echo.Context) error {
	p, err := s.patch(c.Param("id"))
	if err != nil {
		return err
	}
	if p.Phrase == nil {
		return store.ErrNotFound
	}
	f, err := smf.OfPhrase(p.Phrase, tempoOf(p))
	if err != nil {
		return badRequest{err}
	}
	return download(c, p.ID+".mid", "audio/midi", f.Write())
}

func tempoOf(p *patch.Patch) quantity.Tempo {
	if p.Tempo > 0 {
		return quantity.Tempo(p.Tempo)
	}
	return panel.DefaultTempo
}

func (s *Server) phraseFromMIDI(c *echo.Context) error {
	data, err := io.ReadAll(c.Request().Body)
	if err != nil {
		return err
	}
	f, err := smf.Read(data)
	if err != nil {
		return badRequest{fmt.Errorf("%s: %w", fileName(c, "file"), err)}
	}
	made, tempo, err := f.Phrase()
	if err != nil {
		return badRequest{fmt.Errorf("%s: %w", fileName(c, "file"), err)}
	}
	return s.changePatch(c, "phrase from "+fileName(c, "file"), func(p *patch.Patch) error {
		p.Phrase = made
		if p.Tempo == 0 && tempo >= 10 && tempo <= 400 {
			p.Tempo = float64(tempo)
		}
		return nil
	})
}

// midiRead tells what MIDI bytes mean on the panel; nothing is stored.
func (s *Server) midiRead(c *echo.Context) error {
	data, err := io.ReadAll(c.Request().Body)
	if err != nil {
		return err
	}
	pl, err := s.layer(c)
	if err != nil {
		return err
	}
	all, err := smf.Messages(data)
	if err != nil {
		return badRequest{fmt.Errorf("%s: %w", fileName(c, "file"), err)}
	}
	return c.JSON(http.StatusOK, wire.Read(pl.panel, all))
}

// midiWrite gives a layer as MIDI: a file, or with form=raw the plain bytes.
func (s *Server) midiWrite(c *echo.Context) error {
	pl, err := s.layer(c)
	if err != nil {
		return err
	}
	channel := 1
	if text := c.QueryParam("channel"); text != "" {
		if channel, err = strconv.Atoi(text); err != nil {
			return badRequest{fmt.Errorf("expected a channel from 1 to 16, got %q", text)}
		}
	}
	w, err := wire.Write(pl.panel, &pl.patch.Layers[pl.layer], channel)
	if err != nil {
		return badRequest{err}
	}
	if len(w.Messages) == 0 {
		return badRequest{fmt.Errorf("%s has no MIDI address on any control: give them in the workshop", pl.panel.Name)}
	}
	if c.QueryParam("form") == "raw" {
		return download(c, pl.patch.ID+".syx", "application/octet-stream", smf.Bytes(w.Messages))
	}
	return download(c, pl.patch.ID+".controls.mid", "audio/midi", smf.OfMessages(w.Messages).Write())
}

func (s *Server) versions(c *echo.Context) error {
	p, err := s.patch(c.Param("id"))
	if err != nil {
		return err
	}
	rows, err := s.store.Versions(p.ID)
	if err != nil {
		return err
	}
	on, _, err := s.panelOf(p)
	if err != nil {
		return err
	}
	out := Versions{Versions: []VersionRow{}}
	for _, r := range rows {
		old, err := patchOf(r.Document)
		if err != nil {
			return err
		}
		d := panel.DiffPatch(on, old, p)
		if d == nil {
			d = []panel.Difference{}
		}
		out.Versions = append(out.Versions, VersionRow{Number: r.Number, Note: r.Note, At: r.At.UTC().Format(time.RFC3339), Since: d})
	}
	if out.Pending, err = s.pending(); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

func (s *Server) versionKeep(c *echo.Context) error {
	b, err := body[KeepVersion](c)
	if err != nil {
		return err
	}
	if len(b.Note) > 500 {
		return badRequest{errors.New("expected a note of at most 500 characters")}
	}
	if _, err := s.store.KeepVersion(c.Param("id"), strings.TrimSpace(b.Note)); err != nil {
		return err
	}
	return s.versions(c)
}

func (s *Server) versionRestore(c *echo.Context) error {
	n, err := strconv.Atoi(c.Param("number"))
	if err != nil {
		return store.ErrNotFound
	}
	rows, err := s.store.Versions(c.Param("id"))
	if err != nil {
		return err
	}
	for i := range rows {
		if rows[i].Number != n {
			continue
		}
		old, err := patchOf(rows[i].Document)
		if err != nil {
			return err
		}
		p, err := s.store.RestoreVersion(c.Param("id"), old, n)
		if err != nil {
			return err
		}
		return s.answerPatch(c, p)
	}
	return store.ErrNotFound
}
