package wav

import (
	"bytes"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

func sines(rate, channels int) *Sound {
	s := &Sound{Rate: rate, Left: make([]float64, rate/10)}
	if channels == 2 {
		s.Right = make([]float64, len(s.Left))
	}
	for k := range s.Left {
		s.Left[k] = 0.7 * math.Sin(2*math.Pi*440*float64(k)/float64(rate))
		if channels == 2 {
			s.Right[k] = -0.3 * math.Sin(2*math.Pi*220*float64(k)/float64(rate))
		}
	}
	return s
}

func TestRoundTrip(t *testing.T) {
	for _, rate := range []int{8000, 44100, 192000} {
		for _, channels := range []int{1, 2} {
			for _, form := range []struct {
				bits  int
				float bool
				step  float64
			}{{16, false, 1.0 / (1 << 16)}, {24, false, 1.0 / (1 << 24)}, {32, true, 1e-7}} {
				s := sines(rate, channels)
				s.Bits, s.Float = form.bits, form.float
				var b bytes.Buffer
				if err := Write(&b, s); err != nil {
					t.Fatal(err)
				}
				got, err := Read(b.Bytes())
				if err != nil {
					t.Fatal(err)
				}
				if got.Rate != rate || got.Float != form.float || got.Bits != form.bits || len(got.Left) != len(s.Left) || (got.Right != nil) != (channels == 2) {
					t.Fatalf("%d Hz, %d channels, %+v: got %d Hz, %d bit, %d samples", rate, channels, form, got.Rate, got.Bits, len(got.Left))
				}
				for k := range s.Left {
					if math.Abs(got.Left[k]-s.Left[k]) > form.step || channels == 2 && math.Abs(got.Right[k]-s.Right[k]) > form.step {
						t.Fatalf("%d bit: sample %d is %v, was %v", form.bits, k, got.Left[k], s.Left[k])
					}
				}
			}
		}
	}
}

// Files by another program (sox, from Debian's packages), in every form that is read.
func TestFilesOfAnother(t *testing.T) {
	sox, err := exec.LookPath("sox")
	if err != nil {
		t.Fatal("sox is missing: apt-get install -y sox")
	}
	dir := t.TempDir()
	for _, form := range []string{"-b 16", "-b 24", "-b 32", "-b 32 -e floating-point", "-b 64 -e floating-point"} {
		for _, rate := range []int{8000, 48000, 96000, 192000} {
			for _, channels := range []int{1, 2} {
				file := filepath.Join(dir, "x.wav")
				args := append([]string{"-D", "-n", "-r", fmt.Sprint(rate), "-c", fmt.Sprint(channels)}, strings.Fields(form)...)
				args = append(args, file, "synth", "0.1", "sine", "440", "vol", "0.5")
				if out, err := exec.Command(sox, args...).CombinedOutput(); err != nil {
					t.Fatalf("%v: %s", err, out)
				}
				data, err := os.ReadFile(file)
				if err != nil {
					t.Fatal(err)
				}
				s, err := Read(data)
				if err != nil {
					t.Fatalf("%s, %d Hz: %v", form, rate, err)
				}
				if s.Rate != rate || len(s.Left) != rate/10 || (s.Right != nil) != (channels == 2) {
					t.Errorf("%s: %d Hz and %d samples, want %d and %d", form, s.Rate, len(s.Left), rate, rate/10)
				}
				// 44 whole periods of half level: the square of the effective value is 1/8
				sum := 0.0
				for _, x := range s.Left {
					sum += x * x
				}
				if got := sum / float64(len(s.Left)); math.Abs(got-0.125) > 1e-4 {
					t.Errorf("%s, %d Hz: mean square %v, want 1/8", form, rate, got)
				}
			}
		}
	}
}

func TestFaults(t *testing.T) {
	var b bytes.Buffer
	if err := Write(&b, sines(8000, 2)); err != nil {
		t.Fatal(err)
	}
	good := b.Bytes()
	with := func(at int, v ...byte) []byte {
		x := bytes.Clone(good)
		copy(x[at:], v)
		return x
	}
	for _, x := range []struct {
		data []byte
		says string
	}{
		{nil, "expected a WAVE file"}, {[]byte("MThd and more than twelve"), "expected a WAVE file"}, {good[:20], "at least 16 bytes"}, {good[:36], "before the end"},
		{with(20, 85, 0), "compressed"}, {with(22, 6, 0), "one or two channels"}, {with(24, 1, 0, 0, 0), "8000 to 192000"}, {with(34, 8, 0), "16, 24 or 32 bit"},
		{with(32, 3, 0), "frames of 4 bytes"}, {good[:44], "at least one sample"}, {with(16, 2, 0, 0, 0), "at least 16 bytes"},
	} {
		if _, err := Read(x.data); err == nil || !strings.Contains(err.Error(), x.says) {
			t.Errorf("got %v, want %q", err, x.says)
		}
	}
	if s, err := Read(with(40, 0xFF, 0xFF, 0xFF, 0xFF)); err != nil || len(s.Left) != 800 {
		t.Errorf("a length left open: %v", err)
	}
}

func FuzzRead(f *testing.F) {
	var b bytes.Buffer
	s := sines(8000, 2)
	s.Left, s.Right = s.Left[:40], s.Right[:40]
	if err := Write(&b, s); err != nil {
		f.Fatal(err)
	}
	f.Add(b.Bytes())
	f.Fuzz(func(t *testing.T, data []byte) {
		s, err := Read(data)
		if err != nil {
			return
		}
		if len(s.Left) == 0 || s.Right != nil && len(s.Right) != len(s.Left) {
			t.Errorf("%d and %d samples", len(s.Left), len(s.Right))
		}
		var out bytes.Buffer
		if err := Write(&out, &Sound{Rate: s.Rate, Left: s.Left, Right: s.Right, Float: true}); err != nil {
			t.Error(err)
		}
	})
}
