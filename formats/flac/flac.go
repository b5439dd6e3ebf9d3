// Package flac writes sounds as FLAC (RFC 9639), by github.com/mewkiz/flac.
package flac

import (
	"errors"
	"fmt"
	"io"
	"math"

	"github.com/mewkiz/flac"
	"github.com/mewkiz/flac/frame"
	"github.com/mewkiz/flac/meta"

	"glossator/formats/wav"
)

// block is how many samples stand in a frame.
const block = 4096

// Bytes gives a sound of 16 or 24 bits a sample as a file. What passes full level is held there. It refuses floats, which the format has none of, and a sound without a sample.
func Bytes(s *wav.Sound) ([]byte, error) {
	bits := s.Bits
	switch {
	case s.Float || bits != 0 && bits != 16 && bits != 24:
		return nil, fmt.Errorf("expected 16 or 24 bits for FLAC, got %d%s", bits, map[bool]string{true: " (float)"}[s.Float])
	case bits == 0:
		bits = 16
	case len(s.Left) == 0:
		return nil, errors.New("there is no sound to write")
	}
	sides, channels := [][]float64{s.Left}, frame.ChannelsMono
	if s.Right != nil {
		if len(s.Right) != len(s.Left) {
			return nil, fmt.Errorf("expected channels of one length, got %d and %d samples", len(s.Left), len(s.Right))
		}
		sides, channels = append(sides, s.Right), frame.ChannelsLR
	}
	var out memory
	e, err := flac.NewEncoder(&out, &meta.StreamInfo{BlockSizeMin: block, BlockSizeMax: block, SampleRate: uint32(s.Rate), NChannels: uint8(len(sides)), BitsPerSample: uint8(bits)})
	if err != nil {
		return nil, err
	}
	e.EnablePredictionAnalysis(true)
	full := math.Exp2(float64(bits - 1))
	for from, n := 0, uint64(0); from < len(s.Left); from, n = from+block, n+1 {
		to := min(from+block, len(s.Left))
		f := &frame.Frame{Header: frame.Header{HasFixedBlockSize: true, BlockSize: uint16(to - from), SampleRate: uint32(s.Rate), Channels: channels, BitsPerSample: uint8(bits), Num: n}}
		for _, x := range sides {
			sub := &frame.Subframe{SubHeader: frame.SubHeader{Pred: frame.PredVerbatim}, NSamples: to - from, Samples: make([]int32, to-from)}
			for i, v := range x[from:to] {
				sub.Samples[i] = int32(min(max(math.Round(v*full), -full), full-1))
			}
			f.Subframes = append(f.Subframes, sub)
		}
		if err := e.WriteFrame(f); err != nil {
			return nil, err
		}
	}
	if err := e.Close(); err != nil {
		return nil, err
	}
	return out.data, nil
}

// memory is a file in memory: the encoder goes back to fill in the checksum.
type memory struct {
	data []byte
	at   int
}

func (m *memory) Write(b []byte) (int, error) {
	if more := m.at + len(b) - len(m.data); more > 0 {
		m.data = append(m.data, make([]byte, more)...)
	}
	copy(m.data[m.at:], b)
	m.at += len(b)
	return len(b), nil
}

func (m *memory) Seek(offset int64, whence int) (int64, error) {
	from := map[int]int64{io.SeekStart: 0, io.SeekCurrent: int64(m.at), io.SeekEnd: int64(len(m.data))}[whence]
	if from+offset < 0 || from+offset > int64(len(m.data)) {
		return 0, errors.New("expected a place in the file")
	}
	m.at = int(from + offset)
	return from + offset, nil
}
