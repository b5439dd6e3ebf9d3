// Package wav reads and writes WAVE files: 8 to 192 kHz, 16, 24 or 32 bit, or float, one or two channels.
// Source: Microsoft and IBM, Multimedia Programming Interface and Data Specifications 1.0 (RIFF, WAVE);
// Microsoft, Multiple Channel Audio Data and WAVE Files (extensible form); both from memory.
//
// Its neighbours: core/hear measures what is read, core/synth makes what is written.
package wav

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"io"
	"math"

	"golang.org/x/sync/errgroup"

	"glossator/core/dsp"
)

// MaxSize is the largest file that is read, in bytes: a minute in stereo at 192 kHz and 32 bit is 92 MB.
const MaxSize = 96 << 20

// Sound is what a file holds; Right is nil for one channel. Full level is 1.
type Sound struct {
	Rate        int
	Bits        int
	Float       bool
	Left, Right []float64
	// Peak is the highest sample of the file, of either channel; of a sound that was read at a lower rate it may not be in it.
	Peak float64
}

const (
	pcm        = 1
	ieee       = 3
	extensible = 0xFFFE
)

// Read reads a file. What lies outside of full level in a float file is kept. Errors say what was expected
// at which byte.
func Read(data []byte) (*Sound, error) { return ReadFor(data, math.MaxInt) }

// ReadFor reads a file at its rate, or at that halved until it is at most highest: what is above is filtered away a second at a time, so that a long file of a high rate
// takes no more room than one of a low rate. Errors as of Read.
func ReadFor(data []byte, highest int) (*Sound, error) {
	if len(data) > MaxSize {
		return nil, fmt.Errorf("expected at most %d MB, got %.1f MB", MaxSize>>20, float64(len(data))/(1<<20))
	}
	if len(data) < 12 || string(data[:4]) != "RIFF" || string(data[8:12]) != "WAVE" {
		return nil, fmt.Errorf("byte 0: expected a WAVE file (RIFF ... WAVE)")
	}
	le := binary.LittleEndian
	s := &Sound{}
	channels, block := 0, 0
	at := 12
	for at+8 <= len(data) {
		id, size := string(data[at:at+4]), int64(le.Uint32(data[at+4:]))
		body := at + 8
		end := int64(body) + size
		switch id {
		case "fmt ":
			if size < 16 || end > int64(len(data)) {
				return nil, fmt.Errorf("byte %d: expected a format of at least 16 bytes, got %d", at, size)
			}
			tag := le.Uint16(data[body:])
			channels, s.Rate = int(le.Uint16(data[body+2:])), int(le.Uint32(data[body+4:]))
			block, s.Bits = int(le.Uint16(data[body+12:])), int(le.Uint16(data[body+14:]))
			if tag == extensible {
				if size < 40 {
					return nil, fmt.Errorf("byte %d: expected an extensible format of 40 bytes, got %d", at, size)
				}
				tag = le.Uint16(data[body+24:])
			}
			s.Float = tag == ieee
			switch {
			case tag != pcm && tag != ieee:
				return nil, fmt.Errorf("byte %d: expected samples as they are (format 1 or 3), got format %d, which is compressed", body, tag)
			case channels != 1 && channels != 2:
				return nil, fmt.Errorf("byte %d: expected one or two channels, got %d", body+2, channels)
			case s.Rate < 8000 || s.Rate > 192000:
				return nil, fmt.Errorf("byte %d: expected 8000 to 192000 samples a second, got %d", body+4, s.Rate)
			case s.Float && s.Bits != 32 && s.Bits != 64 || !s.Float && s.Bits != 16 && s.Bits != 24 && s.Bits != 32:
				return nil, fmt.Errorf("byte %d: expected 16, 24 or 32 bit, or float of 32 or 64, got %d", body+14, s.Bits)
			case block != channels*s.Bits/8:
				return nil, fmt.Errorf("byte %d: expected frames of %d bytes, got %d", body+12, channels*s.Bits/8, block)
			}
		case "data":
			if channels == 0 {
				return nil, fmt.Errorf("byte %d: expected the format before the samples", at)
			}
			if end > int64(len(data)) { // programs that stream leave the length open
				end = int64(len(data))
			}
			return s, s.samples(data[body:end], channels, block, body, highest)
		}
		next := end + size&1
		if next > int64(len(data)) {
			break
		}
		at = int(next)
	}
	return nil, fmt.Errorf("byte %d: expected samples (a chunk named data) before the end", at)
}

func (s *Sound) samples(data []byte, channels, block, from, highest int) error {
	n := len(data) / block
	if n == 0 {
		return fmt.Errorf("byte %d: expected at least one sample", from)
	}
	by := 1
	for s.Rate/by > highest && s.Rate%(2*by) == 0 {
		by *= 2
	}
	out := [2][]float64{make([]float64, 0, n/by+1), nil}
	if channels == 2 {
		out[1] = make([]float64, 0, n/by+1)
	}
	// a second at a time, with what the filter needs of its neighbours on either side
	piece, margin := s.Rate/by*by, 0
	if by > 1 {
		margin = 64 * by
	}
	var peaks [2]float64
	read := func(c, at int, buf []float64) error {
		first, last := max(0, at-margin), min(n, at+piece+margin)
		for i := first; i < last; i++ {
			x := s.sample(data[i*block+c*(s.Bits/8):])
			if math.IsNaN(x) || math.Abs(x) > 1e6 {
				return fmt.Errorf("byte %d: expected a number, got %v", from+i*block+c*(s.Bits/8), x)
			}
			peaks[c] = max(peaks[c], math.Abs(x))
			buf = append(buf, x)
		}
		slow := dsp.Resampled(buf, float64(s.Rate), float64(s.Rate/by))
		skip := (at - first) / by
		out[c] = append(out[c], slow[min(skip, len(slow)):min(skip+(min(n, at+piece)-at)/by, len(slow))]...)
		return nil
	}
	var both errgroup.Group
	for c := range channels {
		both.Go(func() error {
			buf := make([]float64, 0, piece+2*margin)
			for at := 0; at < n; at += piece {
				if err := read(c, at, buf); err != nil {
					return err
				}
			}
			return nil
		})
	}
	if err := both.Wait(); err != nil {
		return err
	}
	s.Peak = max(peaks[0], peaks[1])
	s.Rate /= by
	s.Left, s.Right = out[0], out[1]
	return nil
}

// sample reads the sample at the beginning of some bytes.
func (s *Sound) sample(b []byte) float64 {
	le := binary.LittleEndian
	switch {
	case s.Float && s.Bits == 32:
		return float64(math.Float32frombits(le.Uint32(b)))
	case s.Float:
		return math.Float64frombits(le.Uint64(b))
	case s.Bits == 16:
		return float64(int16(le.Uint16(b))) / (1 << 15)
	case s.Bits == 24:
		return float64(int32(uint32(b[0])<<8|uint32(b[1])<<16|uint32(b[2])<<24)>>8) / (1 << 23)
	}
	return float64(int32(le.Uint32(b))) / (1 << 31)
}

// Write writes a file of 16 or 24 bit, or of 32 bit float. What passes full level is held there in whole
// numbers.
func Write(w io.Writer, s *Sound) error {
	channels := 1
	if s.Right != nil {
		channels = 2
		if len(s.Right) != len(s.Left) {
			return fmt.Errorf("expected channels of one length, got %d and %d samples", len(s.Left), len(s.Right))
		}
	}
	bits, tag := 16, pcm
	switch {
	case s.Float:
		bits, tag = 32, ieee
	case s.Bits == 24:
		bits = 24
	case s.Bits != 0 && s.Bits != 16:
		return fmt.Errorf("expected 16 or 24 bit, or float, got %d", s.Bits)
	}
	block := channels * bits / 8
	size := block * len(s.Left)
	var b bytes.Buffer
	b.Grow(size + 64)
	le := binary.LittleEndian
	put := func(v any) { _ = binary.Write(&b, le, v) } // a Buffer does not fail
	b.WriteString("RIFF")
	extra := 0
	if s.Float {
		extra = 14 // a longer format and the count of frames, which float asks for
	}
	put(uint32(36 + extra + size + size&1))
	b.WriteString("WAVEfmt ")
	if s.Float {
		put(uint32(18))
	} else {
		put(uint32(16))
	}
	put(uint16(tag))
	put(uint16(channels))
	put(uint32(s.Rate))
	put(uint32(s.Rate * block))
	put(uint16(block))
	put(uint16(bits))
	if s.Float {
		put(uint16(0))
		b.WriteString("fact")
		put(uint32(4))
		put(uint32(len(s.Left)))
	}
	b.WriteString("data")
	put(uint32(size))
	var four [4]byte
	for i := range s.Left {
		for c := range channels {
			x := s.Left[i]
			if c == 1 {
				x = s.Right[i]
			}
			switch {
			case s.Float:
				le.PutUint32(four[:], math.Float32bits(float32(x)))
			case bits == 24:
				le.PutUint32(four[:], uint32(int32(math.Round(math.Min(math.Max(x*(1<<23), -1<<23), 1<<23-1)))))
			default:
				le.PutUint16(four[:], uint16(int16(math.Round(math.Min(math.Max(x*(1<<15), -1<<15), 1<<15-1)))))
			}
			b.Write(four[:bits/8])
		}
	}
	if size&1 == 1 {
		b.WriteByte(0)
	}
	_, err := w.Write(b.Bytes())
	return err
}
