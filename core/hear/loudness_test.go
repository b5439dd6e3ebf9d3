package hear_test

import (
	"bytes"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"testing"

	"glossator/core/hear"
	"glossator/formats/wav"
)

// tones is a stereo sine of 1 kHz in steps: level in dBFS and seconds.
func tones(rate float64, steps ...[2]float64) hear.Wave {
	w := hear.Wave{Rate: rate}
	for _, s := range steps {
		a := math.Pow(10, s[0]/20)
		for k := range int(s[1] * rate) {
			y := a * math.Sin(2*math.Pi*1000*float64(k)/rate)
			w.Left, w.Right = append(w.Left, y), append(w.Right, y)
		}
	}
	return w
}

// The test signals of EBU Tech 3341 for integrated loudness, cases 1 to 5, within 0.1 LU, and the calibration
// of ITU-R BS.1770: 997 Hz at full level in one channel is -3.01 LKFS.
func TestLoudnessCases(t *testing.T) {
	one := tones(48000, [2]float64{0, 3})
	for k := range one.Left {
		one.Left[k] = math.Sin(2 * math.Pi * 997 * float64(k) / 48000)
		one.Right[k] = 0
	}
	for _, x := range []struct {
		name string
		wave hear.Wave
		want float64
	}{
		{"case 1", tones(48000, [2]float64{-23, 20}), -23},
		{"case 2", tones(48000, [2]float64{-33, 20}), -33},
		{"case 3", tones(48000, [2]float64{-36, 10}, [2]float64{-23, 60}, [2]float64{-36, 10}), -23},
		{"case 4", tones(48000, [2]float64{-72, 10}, [2]float64{-36, 10}, [2]float64{-23, 60}, [2]float64{-36, 10}, [2]float64{-72, 10}), -23},
		{"case 5", tones(48000, [2]float64{-26, 20}, [2]float64{-20, 20.1}, [2]float64{-26, 20}), -23},
		{"case 1 at 44.1 kHz", tones(44100, [2]float64{-23, 20}), -23},
		{"case 1 at 192 kHz", tones(192000, [2]float64{-23, 5}), -23},
		{"997 Hz in one channel", one, -3.01},
	} {
		got, ok := hear.Loudness(x.wave)
		if !ok || math.Abs(got-x.want) > 0.1 {
			t.Errorf("%s: %.2f LUFS, want %.2f", x.name, got, x.want)
		}
	}
	if _, ok := hear.Loudness(tones(48000, [2]float64{-90, 2})); ok {
		t.Error("what is below the absolute gate has a loudness")
	}
}

// The same figure as a loudness meter from Debian's packages (ebur128 of ebumeter), which gives tenths. On
// sounds that die away it gates otherwise than ITU-R BS.1770 says, so these are steady.
func TestLoudnessAgainstMeter(t *testing.T) {
	path, err := exec.LookPath("ebur128")
	if err != nil {
		t.Fatal("ebur128 is missing: apt-get install -y ebumeter")
	}
	figure := regexp.MustCompile(`Integrated loudness:\s+(-?[\d.]+) LU`)
	for name, w := range map[string]hear.Wave{
		"noise":     soxFile(t, 48000, "synth 8 pinknoise vol 0.4"),
		"saw":       csoundFile(t, 48000, 8, "a1 vco2 0.5, 82.4\na2 = a1*0.3"),
		"low sines": soxFile(t, 44100, "synth 8 sine 45 sine 63 vol 0.8 remix 1 2"),
	} {
		file := filepath.Join(t.TempDir(), "x.wav")
		var b bytes.Buffer
		right := w.Right
		if right == nil { // the meter counts one channel as two
			right = w.Left
		}
		if err := wav.Write(&b, &wav.Sound{Rate: int(w.Rate), Left: w.Left, Right: right, Float: true}); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(file, b.Bytes(), 0o600); err != nil {
			t.Fatal(err)
		}
		out, err := exec.Command(path, "--lufs", file).CombinedOutput()
		m := figure.FindStringSubmatch(string(out))
		if err != nil || m == nil {
			t.Fatalf("%v: %s", err, out)
		}
		want, _ := strconv.ParseFloat(m[1], 64)
		got, _ := hear.Loudness(hear.Wave{Rate: w.Rate, Left: w.Left, Right: right})
		if math.Abs(got-want) > 0.15 {
			t.Errorf("%s: %.2f LUFS, the meter says %.1f", name, got, want)
		}
	}
}

func BenchmarkMeasureAll(b *testing.B) {
	w := csoundFile(b, 48000, 10, "k1 oscili 20, 5\na1 vco2 0.4, 110*cent(k1)\na2 = a1*0.7")
	for b.Loop() {
		hear.Listen(w).All(0)
	}
}
