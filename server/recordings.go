package server

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"strings"

	"glossator/core/compare"
	"glossator/core/hear"
	"glossator/core/synth"
	"glossator/formats/flac"
	"glossator/formats/wav"
	"glossator/store"
)

// Contrasts is the table of differences.
type Contrasts struct {
	Apart compare.Distance   `json:"apart"`
	Rows  []compare.Contrast `json:"rows"`
}

type soundFileRequest struct {
	Key  string `path:"key"`
	Loop bool   `query:"loop"`
}

// soundFile gives a sound as a WAVE file, or as FLAC; with loop=true with its tail folded onto its beginning.
func (s *Server) soundFile(ctx context.Context, in soundFileRequest) (none File[None], err error) {
	key, form, _ := strings.Cut(in.Key, ".")
	if form != "wav" && form != "flac" {
		return none, store.ErrNotFound
	}
	k, err := s.sounds.get(key)
	if err != nil {
		return none, err
	}
	left, right := k.Left, k.Right
	if in.Loop && k.Loop > 0 {
		left, right = (&synth.Sound{Left: k.Left, Right: k.Right, Loop: k.Loop}).Looped()
	}
	x := &wav.Sound{Rate: k.Rate, Bits: 24, Left: left, Right: right}
	if form == "flac" {
		data, err := flac.Bytes(x)
		return File[None]{Name: key + ".flac", Media: "audio/flac", Data: data, Forever: true}, err
	}
	var b bytes.Buffer
	if err := wav.Write(&b, x); err != nil {
		return none, err
	}
	return File[None]{Media: "audio/wav", Data: b.Bytes(), Forever: true}, nil // a key is of one content
}

type contrastsRequest struct {
	A string `query:"a"`
	B string `query:"b"`
}

// contrasts measures two sounds and says what differs.
func (s *Server) contrasts(ctx context.Context, in contrastsRequest) (none Contrasts, err error) {
	a, err := s.sounds.get(in.A)
	if err != nil {
		return none, err
	}
	b, err := s.sounds.get(in.B)
	if err != nil {
		return none, err
	}
	err = s.queue.runAs(ctx, weightOf(2*len(a.Left)+2*len(b.Left)), nil, func() error {
		if a.Recording || b.Recording {
			none = Contrasts{Apart: compare.Recordings(a.wave(), b.wave()), Rows: compare.Table(a.wave(), b.wave(), compare.Times{})}
			return nil
		}
		none = Contrasts{Apart: compare.Apart(compare.Sketched(a.wave()), compare.Sketched(b.wave()), false), Rows: compare.Table(a.wave(), b.wave(), a.Times)}
		return nil
	})
	return none, err
}

// RecordingLimit is the largest recording that is taken, in bytes.
const RecordingLimit = 64 << 20

type recordingRequest struct {
	File string `query:"file"`
	Body Upload[None]
}

// recording takes a WAVE file of a real instrument.
func (s *Server) recording(ctx context.Context, in recordingRequest) (none Take, err error) {
	err = s.queue.runAs(ctx, weightOf(len(in.Body.Data)/3), nil, func() (err error) {
		none, err = s.recorded(in.File, in.Body.Data)
		return err
	})
	return none, err
}

// recorded reads and measures a recording, and keeps it.
func (s *Server) recorded(name string, data []byte) (none Take, err error) {
	w, err := wav.Read(data)
	if err != nil {
		return none, badRequest{err}
	}
	if n := float64(len(w.Left)) / float64(w.Rate); n > 60 {
		return none, badRequest{fmt.Errorf("expected at most 60 s of sound, got %.0f s", n)}
	}
	k := &kept{Rate: w.Rate, Label: fileName(name, "recording"), Recording: true, Left: w.Left, Right: w.Right, Loudness: -90, Peak: -120}
	if k.Right == nil {
		k.Right = k.Left
	}
	if l, ok := hear.Loudness(k.wave()); ok {
		k.Loudness = l
	} else {
		return none, badRequest{errors.New("expected a recording with sound in it: it is quieter than -70 LUFS")}
	}
	if p := hear.Listen(k.wave()).Peak(); p.Known {
		k.Peak = p.Value
	}
	key := hashOf("recording", k.Label, data)
	if err := s.sounds.put(key, k); err != nil {
		return none, err
	}
	return takeOf(key, k, compare.Sketched(k.wave()), loudestPlace(k), 0, nil), nil
}
