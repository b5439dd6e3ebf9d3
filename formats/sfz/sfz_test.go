package sfz_test

import (
	"archive/zip"
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"glossator/core/sampled"
	"glossator/formats/sfz"
)

func tone(n int) []float64 {
	out := make([]float64, n)
	for i := range out {
		out[i] = 0.1 * float64(i%100) / 100
	}
	return out
}

// The text is regions of opcodes as the format has them; every sample is a file beside it that another program (sox) reads, as long as its loop needs.
func TestFiles(t *testing.T) {
	set := &sampled.Set{Name: "A\nname // with breaks", Mono: true, Bend: 200, Left: []string{"Glide:\nnone"}, Regions: []sampled.Region{
		{Key: 60, Low: 58, High: 61, Velocity: 100, Softest: 1, Hardest: 127, Left: tone(48000), Right: tone(48000), LoopFrom: 1000, LoopTo: 40000, Release: 0.25},
		{Key: 63, Low: 62, High: 64, Velocity: 100, Softest: 1, Hardest: 127, Left: tone(900), Right: tone(900), Release: 0.002},
	}}
	files, err := sfz.Files("keel", set)
	if err != nil {
		t.Fatal(err)
	}
	var z bytes.Buffer
	if err := sfz.Zip(&z, files, time.Date(2026, 1, 2, 3, 4, 5, 0, time.UTC)); err != nil {
		t.Fatal(err)
	}
	r, err := zip.NewReader(bytes.NewReader(z.Bytes()), int64(z.Len()))
	if err != nil || len(r.File) != 3 {
		t.Fatal(err, len(r.File))
	}
	dir := t.TempDir()
	if err := os.CopyFS(dir, r); err != nil {
		t.Fatal(err)
	}
	text, err := os.ReadFile(filepath.Join(dir, "keel.sfz"))
	if err != nil {
		t.Fatal(err)
	}
	var regions []map[string]string
	group := map[string]string{}
	now := group
	for _, line := range strings.Split(string(text), "\n") {
		line, _, _ = strings.Cut(line, "//")
		switch line = strings.TrimSpace(line); line {
		case "", "<group>":
		case "<region>":
			now = map[string]string{}
			regions = append(regions, now)
		default:
			name, value, ok := strings.Cut(line, "=")
			if !ok || strings.ContainsAny(name, " <>") {
				t.Fatalf("a line is no opcode: %q", line)
			}
			now[name] = value
		}
	}
	if group["off_by"] != "1" || group["bend_up"] != "200" || group["bend_down"] != "-200" || len(regions) != 2 {
		t.Errorf("%v, %d regions", group, len(regions))
	}
	for i, x := range regions {
		out, err := exec.Command("soxi", "-s", filepath.Join(dir, filepath.FromSlash(x["sample"]))).Output()
		if err != nil {
			t.Fatal(err)
		}
		n, _ := strconv.Atoi(strings.TrimSpace(string(out)))
		if n != len(set.Regions[i].Left) {
			t.Errorf("%s has %d samples, want %d", x["sample"], n, len(set.Regions[i].Left))
		}
		if end, ok := x["loop_end"]; ok {
			if e, err := strconv.Atoi(end); err != nil || e >= n || x["loop_mode"] != "loop_sustain" {
				t.Errorf("a loop to %s in %d samples, %s", end, n, x["loop_mode"])
			}
		}
	}
	if regions[0]["ampeg_release"] != "0.250" || regions[1]["loop_mode"] != "no_loop" || regions[0]["pitch_keycenter"] != "60" || regions[0]["lokey"] != "58" || regions[1]["hikey"] != "64" {
		t.Errorf("%v", regions)
	}
}
