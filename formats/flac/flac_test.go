package flac_test

import (
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"glossator/formats/flac"
	"glossator/formats/wav"
)

// sound is a tone with noise, that passes full level now and then.
func sound(n, rate, bits int, stereo bool) *wav.Sound {
	r := rand.New(rand.NewPCG(1, uint64(n)))
	s := &wav.Sound{Rate: rate, Bits: bits, Left: make([]float64, n)}
	for i := range s.Left {
		s.Left[i] = 1.02*math.Sin(float64(i)/30) + 0.01*r.NormFloat64()
	}
	if stereo {
		s.Right = make([]float64, n)
		for i := range s.Right {
			s.Right[i] = 0.3 * math.Sin(float64(i)/17)
		}
	}
	return s
}

// Another program (sox) decodes the file to the same samples as those of the WAVE file of the same sound, and finds its checksum right.
func TestAnotherDecodesIt(t *testing.T) {
	dir := t.TempDir()
	for _, s := range []*wav.Sound{sound(1, 48000, 16, true), sound(4095, 48000, 24, true), sound(4096, 44100, 16, false), sound(48001, 48000, 24, true), sound(9000, 96000, 16, true), sound(300, 8000, 24, false)} {
		data, err := flac.Bytes(s)
		if err != nil {
			t.Fatal(err)
		}
		file, plain := filepath.Join(dir, "x.flac"), filepath.Join(dir, "x.wav")
		if err := os.WriteFile(file, data, 0o600); err != nil {
			t.Fatal(err)
		}
		out, err := os.Create(plain)
		if err != nil {
			t.Fatal(err)
		}
		if err := wav.Write(out, s); err != nil {
			t.Fatal(err)
		}
		out.Close()
		raw := func(from string) string {
			b, err := exec.Command("sox", from, "-t", "s32", "-").Output()
			if err != nil {
				t.Fatalf("%d samples: %v", len(s.Left), err)
			}
			return string(b)
		}
		if a, b := raw(file), raw(plain); a != b || len(a) == 0 {
			t.Errorf("%d samples of %d bits at %d Hz: %d bytes decoded, %d wanted", len(s.Left), s.Bits, s.Rate, len(a), len(b))
		}
		if len(s.Left) > 4000 && len(data) > len(s.Left)*s.Bits/8*map[bool]int{true: 2, false: 1}[s.Right != nil]*95/100 {
			t.Errorf("%d samples take %d bytes", len(s.Left), len(data))
		}
	}
}

// What the format has no place for is refused.
func TestRefuses(t *testing.T) {
	long := sound(10, 48000, 16, true)
	long.Right = long.Right[:5]
	float := sound(10, 48000, 32, false)
	float.Float = true
	for name, s := range map[string]*wav.Sound{"nothing": {Rate: 48000, Bits: 16}, "sides of two lengths": long, "floats": float, "eight bits": sound(10, 48000, 8, false)} {
		if _, err := flac.Bytes(s); err == nil {
			t.Errorf("%s is written", name)
		}
	}
}

// BenchmarkMinute writes a minute in stereo.
func BenchmarkMinute(b *testing.B) {
	s := sound(60*48000, 48000, 24, true)
	for b.Loop() {
		if _, err := flac.Bytes(s); err != nil {
			b.Fatal(err)
		}
	}
}
