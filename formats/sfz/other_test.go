package sfz_test

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"glossator/core/sampled"
	"glossator/formats/sfz"
)

// Another program's reader (npm's @sfz-tools/core, for tests alone) finds the regions with the opcodes that were written, spaces in the names of samples among them.
func TestAnotherReadsTheText(t *testing.T) {
	set := &sampled.Set{Name: "Keel on Kedge", Mono: true, Bend: 700, Left: []string{"Glide: none"}}
	for key := 40; key < 58; key += 3 {
		set.Regions = append(set.Regions, sampled.Region{Key: key, Low: key - 1, High: key + 1, Velocity: 100, Softest: 1, Hardest: 127, Left: tone(100), Right: tone(100), LoopFrom: 10, LoopTo: 90, Release: 0.5})
	}
	files, err := sfz.Files("keel on kedge", set)
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "x.sfz")
	if err := os.WriteFile(file, files[0].Data, 0o600); err != nil {
		t.Fatal(err)
	}
	modules, err := filepath.Abs(filepath.Join("..", "..", "web", "package.json"))
	if err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("node", "-e", `
const { parseSfz } = require("node:module").createRequire(process.argv[1])("@sfz-tools/core/dist/parse");
parseSfz(require("node:fs").readFileSync(process.argv[2], "utf8"), "").then((all) => console.log(JSON.stringify(
  all.map((x) => ({ of: x.name, ...Object.fromEntries(x.elements.map((o) => [o.attributes.name, o.attributes.value])) })))));`, modules, file).Output()
	if err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	var all []map[string]string
	if err := json.Unmarshal(out, &all); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	if len(all) != 1+len(set.Regions) || all[0]["of"] != "group" || all[0]["bend_up"] != "700" || all[0]["off_by"] != "1" {
		t.Fatalf("%d parts: %v", len(all), all[:min(1, len(all))])
	}
	for i, r := range set.Regions {
		got := all[i+1]
		for name, want := range map[string]any{"of": "region", "sample": files[i+1].Name, "lokey": r.Low, "hikey": r.High, "pitch_keycenter": r.Key, "lovel": 1, "hivel": 127, "loop_start": 10, "loop_end": 90, "loop_mode": "loop_sustain", "ampeg_release": "0.500"} {
			if got[name] != fmt.Sprint(want) {
				t.Errorf("key %d: %s is %q, was %v", r.Key, name, got[name], want)
			}
		}
	}
}
