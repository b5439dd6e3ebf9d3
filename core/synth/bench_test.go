package synth

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"testing"
	"time"

	"glossator/core/meaning"
	"glossator/core/phrase"
)

// ladderPatch is three band-limited saws, a ladder of four poles and two envelopes.
func ladderPatch() *meaning.Meaning {
	env := func(id string, a, d, s, r float64) meaning.Module {
		return part(id, meaning.Env, params{"attack": a, "decay": d, "sustain": s, "release": r})
	}
	return simple([]meaning.Route{{ID: "f", From: "fenv", To: []string{"f.cutoff"}, Polarity: "unipolar", Depth: number(3)}, {ID: "a", From: "aenv", To: []string{"amp.level"}, Polarity: "unipolar", Depth: number(1)}},
		part("o1", meaning.Osc, params{"wave": "saw", "level": -9.0}), part("o2", meaning.Osc, params{"wave": "saw", "level": -9.0, "interval": 7.0}), part("o3", meaning.Osc, params{"wave": "saw", "level": -9.0, "interval": -1200.0}),
		part("f", meaning.Filter, params{"mode": "lowpass", "poles": 4.0, "cutoff": 400.0, "resonance": 0.4}), env("fenv", 0.01, 0.3, 0.3, 0.07), env("aenv", 0.005, 0.4, 0.7, 0.07)) // silent 0.3 s after the key is let go, as the other is
}

func number(x float64) meaning.Value {
	var v meaning.Value
	v.Value = x
	return v
}

func notesFor(seconds float64, voices int) []phrase.Note {
	var out []phrase.Note
	for t := 0.0; t+0.5 <= seconds; t += 0.5 {
		for v := range voices {
			out = append(out, phrase.Note{Start: t, End: t + 0.4, Key: 40 + float64(5*v), Velocity: 100})
		}
	}
	return out
}

// The same patch for csound: vco2, moogladder and two expseg envelopes, one instance a note, at 48 kHz with
// control every 16 samples.
func csoundOf(notes []phrase.Note, length float64) string {
	score := ""
	for _, n := range notes {
		score += fmt.Sprintf("i1 %v %v %v\n", n.Start, n.End-n.Start, n.Key)
	}
	return fmt.Sprintf(`<CsoundSynthesizer>
<CsInstruments>
sr = 48000
ksmps = 16
nchnls = 2
0dbfs = 1
instr 1
kf madsr 0.01, 0.3, 0.3, 0.3
ka madsr 0.005, 0.4, 0.7, 0.3
icps = cpsmidinn(p4)
a1 vco2 0.3, icps
a2 vco2 0.3, icps*cent(7)
a3 vco2 0.3, icps/2
af moogladder a1+a2+a3, 400*octave(3*kf), 0.4
a4 = af*ka
outs a4, a4
endin
</CsInstruments>
<CsScore>
%se %v
</CsScore>
</CsoundSynthesizer>
`, score, length)
}

// BenchmarkAgainstCsound renders the same patch here, on one core, and by csound from Debian's packages,
// in one run. The factor is csound's time over ours, of each the best of several; csound's time to start and read the score
// is taken off.
func BenchmarkAgainstCsound(b *testing.B) {
	path, err := exec.LookPath("csound")
	if err != nil {
		b.Fatal("csound is missing: apt-get install -y csound")
	}
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(1))
	const seconds = 10.0
	for _, voices := range []int{1, 4} {
		b.Run(fmt.Sprintf("%d voices", voices), func(b *testing.B) {
			notes := notesFor(seconds, voices)
			run := func(notes []phrase.Note, length float64) time.Duration {
				file := filepath.Join(b.TempDir(), "x.csd")
				if err := os.WriteFile(file, []byte(csoundOf(notes, length)), 0o600); err != nil {
					b.Fatal(err)
				}
				best := time.Hour
				for range 8 {
					start := time.Now()
					if out, err := exec.Command(path, "-d", "-m0", "-W", "-o", filepath.Join(b.TempDir(), "x.wav"), file).CombinedOutput(); err != nil {
						b.Fatalf("%v: %s", err, out)
					}
					best = min(best, time.Since(start))
				}
				return best
			}
			theirs := run(notes, seconds) - run(notes[:1], 0.01)
			m := ladderPatch()
			ours := time.Hour
			for b.Loop() {
				start := time.Now()
				if _, err := Render([]Layer{{Meaning: m}}, notes, Options{Seed: 1, Workers: 1, Tail: 0.1}); err != nil {
					b.Fatal(err)
				}
				ours = min(ours, time.Since(start))
			}
			b.ReportMetric(theirs.Seconds()*1000, "csound-ms")
			b.ReportMetric(float64(theirs)/float64(ours), "times-faster")
		})
	}
}

// BenchmarkGrowth shows that the cost grows with length and voices, no faster: the time for a second of a voice.
func BenchmarkGrowth(b *testing.B) {
	m := ladderPatch()
	for _, x := range []struct {
		seconds float64
		voices  int
	}{{2, 1}, {10, 1}, {60, 1}, {10, 2}, {10, 8}} {
		b.Run(fmt.Sprintf("%v s, %d voices", x.seconds, x.voices), func(b *testing.B) {
			notes := notesFor(x.seconds, x.voices)
			b.ReportAllocs()
			for b.Loop() {
				if _, err := Render([]Layer{{Meaning: m}}, notes, Options{Seed: 1, Workers: 1, Tail: 0.1}); err != nil {
					b.Fatal(err)
				}
			}
			b.ReportMetric(float64(b.Elapsed().Microseconds())/float64(b.N)/x.seconds/float64(x.voices), "us/voice-second")
		})
	}
}
