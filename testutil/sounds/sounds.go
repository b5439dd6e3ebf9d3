// Package sounds makes sounds of known settings by other programs, from Debian's packages, for tests of what is measured.
package sounds

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"glossator/core/hear"
	"glossator/formats/wav"
)

// tool finds a program from Debian's packages.
func tool(t testing.TB, name string) string {
	t.Helper()
	path, err := exec.LookPath(name)
	if err != nil {
		t.Fatalf("%s is missing: apt-get install -y %s", name, name)
	}
	return path
}

func load(t testing.TB, file string) hear.Wave {
	t.Helper()
	data, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	s, err := wav.Read(data)
	if err != nil {
		t.Fatal(err)
	}
	return hear.Wave{Rate: float64(s.Rate), Left: s.Left, Right: s.Right}
}

// Sox makes a sound; args stand behind the name of the file.
func Sox(t testing.TB, rate int, args string) hear.Wave {
	t.Helper()
	file := filepath.Join(t.TempDir(), "s.wav")
	cmd := append([]string{"-D", "-n", "-r", fmt.Sprint(rate), "-b", "24", file}, strings.Fields(args)...)
	if out, err := exec.Command(tool(t, "sox"), cmd...).CombinedOutput(); err != nil {
		t.Fatalf("sox %s: %v: %s", args, err, out)
	}
	return load(t, file)
}

// Csound makes a sound of an orchestra's body, which writes to a1 (and a2), in seconds.
func Csound(t testing.TB, rate int, seconds float64, body string) hear.Wave {
	t.Helper()
	dir := t.TempDir()
	channels, out := 1, "out a1"
	if strings.Contains(body, "a2 =") {
		channels, out = 2, "outs a1, a2"
	}
	csd := fmt.Sprintf(`<CsoundSynthesizer>
<CsInstruments>
sr = %d
ksmps = 8
nchnls = %d
0dbfs = 1
seed 17
instr 1
%s
%s
endin
</CsInstruments>
<CsScore>
i1 0 %v
</CsScore>
</CsoundSynthesizer>
`, rate, channels, body, out, seconds)
	in, file := filepath.Join(dir, "x.csd"), filepath.Join(dir, "x.wav")
	if err := os.WriteFile(in, []byte(csd), 0o600); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command(tool(t, "csound"), "-d", "-m0", "-W", "-f", "-o", file, in).CombinedOutput(); err != nil {
		t.Fatalf("csound: %v: %s", err, out)
	}
	return load(t, file)
}
