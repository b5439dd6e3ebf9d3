package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"glossator/core/gloss"
	"glossator/core/heard"
	"glossator/core/plan"
	"glossator/core/quantity"
	"glossator/demo"
	"glossator/formats/wav"
	"glossator/testutil/whole"
	"io"
	"math"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
)

// program is the binary, built once for all tests of this package.
var program string

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "glossator-cli-")
	if err != nil {
		panic(err)
	}
	program = filepath.Join(dir, "glossator")
	if out, err := exec.Command("go", "build", "-o", program, ".").CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "build: %v\n%s", err, out)
		os.Exit(1)
	}
	code := m.Run()
	_ = os.RemoveAll(dir)
	os.Exit(code)
}

func run(t *testing.T, args ...string) (stdout, stderr string, status int) {
	t.Helper()
	c := exec.Command(program, args...)
	var out, errs bytes.Buffer
	c.Stdout, c.Stderr = &out, &errs
	err := c.Run()
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		t.Fatal(err)
	}
	return out.String(), errs.String(), c.ProcessState.ExitCode()
}

func file(t *testing.T, name, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

func demoFile(t *testing.T, files []demo.File, name string) string {
	t.Helper()
	for _, f := range files {
		if f.Name == name {
			return file(t, name, string(f.Data))
		}
	}
	t.Fatalf("the demo has no %s", name)
	return ""
}

func TestExitStatusAndWords(t *testing.T) {
	keel, kedge := demoFile(t, demo.Patches(), "keel.json"), demoFile(t, demo.Panels(), "kedge.json")
	broken := file(t, "broken.json", `{"format": "glossator-panel", "version": 1, "id": "Bad Id"}`)
	huge := file(t, "huge.json", strings.Repeat(" ", 5<<20+1))
	for _, c := range []struct {
		name        string
		args        []string
		status      int
		out, errors string
	}{
		{"footage", []string{"convert", "16'", "--to", "ct"}, 0, "-1200 ct\n", ""},
		{"beats", []string{"convert", "1/8.", "--to", "s", "--tempo", "96"}, 0, "0.46875 s\n", ""},
		{"beating", []string{"convert", "5 ct", "--to", "Hz", "--note", "A4"}, 0, "1.27", ""},
		{"a note", []string{"convert", "350 Hz", "--to", "note"}, 0, "F4 +3.8 ct\n", ""},
		{"comb", []string{"convert", "40 ms", "--to", "Hz"}, 0, "25 Hz\n", ""},
		{"a level below nothing", []string{"convert", "-9.5 dB", "--to", "%"}, 0, "33.4965 %\n", ""},
		{"a decimal comma", []string{"convert", "1,5 s", "--to", "ms"}, 0, "1500 ms\n", ""},
		{"a comma that may be either", []string{"convert", "1,000 Hz", "--to", "kHz"}, 1, "", "one or a thousand"},
		{"a flag that is no number", []string{"render", "--patch", keel, "--out", filepath.Join(t.TempDir(), "a.wav"), "--octaves", "x"}, 2, "", "--octaves: expected a whole number, got \"x\""},
		{"a file that is there", []string{"render", "--patch", keel, "--out", file(t, "there.wav", "kept")}, 2, "", "--force"},
		{"an ending that is none", []string{"render", "--patch", keel, "--out", keel}, 2, "", "ends in .wav"},
		{"a panel from a starting point", []string{"panel", "make", "--start", "mono", "--name", "My own", "--printed", "clock"}, 0, `"id": "my-own"`, ""},
		{"a starting point that is none", []string{"panel", "make", "--start", "harp", "--name", "X"}, 1, "", "mono, poly"},
		{"a panel from a table", []string{"panel", "make", file(t, "mine.csv", "Control,Range\nCutoff,0-10\nAttack,0-10\n")}, 0, `"name": "mine"`, ""},
		{"a table with a row that cannot be", []string{"panel", "make", file(t, "some.csv", "Control,Range\nCutoff,0-10\nSpring,loose\n")}, 1, `"name": "some"`, "Row 3, Spring: expected what is printed"},
		{"an unknown command below one", []string{"panel", "sing"}, 2, "", "unknown command"},
		{"no command below one", []string{"panel"}, 2, "", "check"},
		{"a panel in capitals", []string{"translate", "--patch", keel, "--to", "KEDGE", "--school", "numbers"}, 0, "# Keel: Windlass to Kedge", ""},
		{"panels as a file", []string{"translate", "--patch", keel, "--to", "kedge", "--school", "numbers", "--panels", kedge}, 0, "# Keel: Windlass to Kedge", ""},
		{"no host", []string{"serve", "--host", "", "--db", filepath.Join(t.TempDir(), "a.db")}, 2, "", "--host"},
		{"a level that looks like a flag", []string{"convert", "--to", "%", "--", "-6 dB"}, 0, "50.1187 %\n", ""},
		{"no tempo", []string{"convert", "1/8.", "--to", "s"}, 1, "", "--tempo"},
		{"nonsense", []string{"convert", "12:7", "--to", "ct"}, 1, "", "at character 4"},
		{"bad note", []string{"convert", "5 ct", "--to", "Hz", "--note", "H4"}, 1, "", "--note"},
		{"bad tempo", []string{"convert", "1/4", "--to", "s", "--tempo", "0"}, 1, "", "1 to 1000"},
		{"no expression", []string{"convert"}, 2, "", "accepts 1 arg"},
		{"unknown flag", []string{"convert", "1", "--two", "ct"}, 2, "", "unknown flag"},
		{"unknown command", []string{"sing"}, 2, "", "unknown command"},
		{"good panel", []string{"panel", "check", kedge}, 0, "Kedge, revision 1", ""},
		{"broken panel", []string{"panel", "check", kedge, broken}, 1, "Kedge", "broken.json: /id: expected lower-case"},
		{"huge panel", []string{"panel", "check", huge}, 1, "", "at most 5 MB"},
		{"no such file", []string{"panel", "check", "nowhere.json"}, 1, "", "nowhere.json"},
		{"a folder", []string{"panel", "check", t.TempDir()}, 1, "", "expected a file"},
		{"no files", []string{"panel", "check"}, 2, "", "requires at least 1"},
		{"sheet", []string{"translate", "--patch", keel, "--to", "halyard"}, 0, "# Keel: Windlass to Halyard", ""},
		{"sheet onto a file", []string{"translate", "--patch", keel, "--to", kedge, "--markdown"}, 0, "# Keel: Windlass to Kedge", ""},
		{"no target", []string{"translate", "--patch", keel}, 2, "", "--to"},
		{"no such target", []string{"translate", "--patch", keel, "--to", "anchor"}, 1, "", "halyard, kedge"},
		{"both forms", []string{"translate", "--patch", keel, "--to", "kedge", "--json", "--markdown"}, 2, "", "exclude"},
		{"a panel for a patch", []string{"translate", "--patch", kedge, "--to", "kedge"}, 1, "", `expected "glossator-patch"`},
		{"a school that is none", []string{"translate", "--patch", keel, "--to", "kedge", "--school", "charm"}, 1, "", "numbers, ear or feel"},
		{"listening on every address", []string{"serve", "--host", "0.0.0.0", "--db", filepath.Join(t.TempDir(), "a.db")}, 1, "", "name the address"},
		{"no such folder", []string{"translate", "--patch", keel, "--to", "kedge", "--panels", "nowhere"}, 1, "", "nowhere"},
	} {
		out, errs, status := run(t, c.args...)
		if status != c.status || !strings.Contains(out, c.out) || !strings.Contains(errs, c.errors) || (c.errors == "") != (errs == "") {
			t.Errorf("%s: status %d, want %d; out %.200q, want %q; errors %.300q, want %q", c.name, status, c.status, out, c.out, errs, c.errors)
		}
	}
}

// What cannot be printed is said, and the status is not 0; a device without an end is not read to it; of a folder the panels that are at fault are named and the others used.
func TestOddFiles(t *testing.T) {
	full, err := os.OpenFile("/dev/full", os.O_WRONLY, 0)
	if err != nil {
		t.Skip("there is no full device here")
	}
	defer full.Close()
	keel, kedge := demoFile(t, demo.Patches(), "keel.json"), demoFile(t, demo.Panels(), "kedge.json")
	for _, args := range [][]string{{"convert", "1 s", "--to", "ms"}, {"panel", "check", kedge}, {"translate", "--patch", keel, "--to", "kedge", "--school", "numbers"}} {
		c := exec.Command(program, args...)
		c.Stdout = full
		if err := c.Run(); err == nil || c.ProcessState.ExitCode() != 1 {
			t.Errorf("%v onto a full disk: %v", args, err)
		}
	}
	for _, args := range [][]string{{"panel", "check", "/dev/zero"}, {"measure", "/dev/zero"}, {"translate", "--patch", "/dev/zero", "--to", "kedge"}, {"translate", "--patch", keel, "--to", "/dev/zero"}} {
		if _, errs, status := run(t, args...); status != 1 || errs == "" {
			t.Errorf("%v: %d %s", args, status, errs)
		}
	}
	dir := t.TempDir()
	for name, text := range map[string]string{"patch.json": mustRead(t, keel), "broken.json": `{"format": "glossator-panel"}`, "kedge.json": strings.Replace(mustRead(t, kedge), `"Kedge"`, `"Kedge of the folder"`, 1)} {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	out, errs, status := run(t, "translate", "--patch", keel, "--to", "kedge", "--school", "numbers", "--panels", dir)
	if status != 0 || !strings.Contains(out, "Kedge of the folder") || !strings.Contains(errs, "broken.json") || strings.Contains(errs, "patch.json") {
		t.Errorf("%d %.100s %s", status, out, errs)
	}
}

func mustRead(t *testing.T, file string) string {
	t.Helper()
	data, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	return string(data)
}

func TestJSONOut(t *testing.T) {
	out, _, _ := run(t, "convert", "1/8.", "--to", "Hz", "--tempo", "96", "--json")
	var v quantity.Conversion
	if err := json.Unmarshal([]byte(out), &v); err != nil || v.Unit != "Hz" || v.Value < 2.1333 || v.Value > 2.1334 {
		t.Errorf("convert: %v, %v", v, err)
	}
	out, _, _ = run(t, "translate", "--patch", demoFile(t, demo.Patches(), "keel.json"), "--to", "kedge", "--json")
	var s gloss.Sheet
	if err := json.Unmarshal([]byte(out), &s); err != nil || s.Target.ID != "kedge" || !s.Clean() || len(s.Settings) == 0 || len(s.Glosses) == 0 || s.Plan.Cost == 0 {
		t.Errorf("translate: %v", err)
	}
}

// By ear is the default; --listen tells how far apart the two sound, as text and as JSON, and what is found is in the sheet: by numbers it is farther.
func TestListenOnTheCommandLine(t *testing.T) {
	keel := demoFile(t, demo.Patches(), "keel.json")
	apart := map[string]float64{}
	for _, school := range []string{"ear", "numbers"} {
		out, errs, _ := run(t, "translate", "--patch", keel, "--to", "kedge", "--school", school, "--listen", "--json")
		var s struct {
			gloss.Sheet
			Heard heard.Report `json:"heard"`
		}
		if err := json.Unmarshal([]byte(out), &s); err != nil || s.Heard.Headline == "" || len(s.Heard.Checks) != 2 || len(s.Heard.Lines) == 0 || len(s.Glosses) == 0 {
			t.Fatalf("%s: %v %s", school, err, errs)
		}
		apart[school] = s.Heard.Apart.Total
		if (s.Choices.Tuned != nil) != (school == "ear") {
			t.Errorf("%s: %+v", school, s.Choices.Tuned)
		}
	}
	if apart["ear"] >= apart["numbers"] {
		t.Errorf("apart: %v", apart)
	}
	out, _, _ := run(t, "translate", "--patch", keel, "--to", "kedge", "--listen")
	if !strings.Contains(out, "## As it sounds") || !strings.Contains(out, "just-noticeable differences apart in sound") || !strings.Contains(out, "by ear") {
		t.Errorf("as text: %.300q", out[max(0, len(out)-600):])
	}
}

// --aim comes near to a recording: what is found for one through a low-pass is not what is found for the patch itself; it needs a file, and the school that listens.
func TestAimOnTheCommandLine(t *testing.T) {
	keel := demoFile(t, demo.Patches(), "keel.json")
	take := filepath.Join(t.TempDir(), "take.wav")
	if _, errs, code := run(t, "render", "--patch", keel, "--to", "kedge", "--school", "numbers", "--out", take); code != 0 {
		t.Fatal(errs)
	}
	found := func(args ...string) string {
		out, errs, code := run(t, append([]string{"translate", "--patch", keel, "--to", "halyard", "--json"}, args...)...)
		var s gloss.Sheet
		if err := json.Unmarshal([]byte(out), &s); err != nil || code != 0 || s.Choices.Tuned == nil {
			t.Fatalf("%v: %v %s", args, err, errs)
		}
		return fmt.Sprint(s.Choices.Tuned.Readings)
	}
	if a, b := found(), found("--aim", take); a == b {
		t.Errorf("with and without a recording: %s", a)
	}
	for _, x := range [][]string{{"--aim", take + ".none"}, {"--aim", take, "--school", "numbers"}, {"--aim", keel}} {
		if _, errs, code := run(t, append([]string{"translate", "--patch", keel, "--to", "halyard"}, x...)...); code == 0 || errs == "" {
			t.Errorf("%v: %d %q", x, code, errs)
		}
	}
}

// serve starts the program on a database and gives its address.
func serve(t *testing.T, db string) (*exec.Cmd, string) {
	t.Helper()
	c := exec.Command(program, "serve", "--db", db, "--port", "0")
	out, err := c.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait() })
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if _, rest, ok := strings.Cut(lines.Text(), "http://"); ok {
			address, _, _ := strings.Cut(rest, "/")
			return c, "http://" + address
		}
	}
	t.Fatal("the program printed no address")
	return nil, ""
}

func call(method, url, body string) (string, error) {
	req, err := http.NewRequest(method, url, strings.NewReader(body))
	if err != nil {
		return "", err
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return "", err
	}
	defer func() { _ = res.Body.Close() }()
	text, err := io.ReadAll(res.Body)
	if err == nil && res.StatusCode >= 300 {
		err = fmt.Errorf("%s %s: %s: %s", method, url, res.Status, text)
	}
	return string(text), err
}

// shortTake is 0.6 s of a tone as a WAVE file.
func shortTake(t *testing.T) string {
	t.Helper()
	x := make([]float64, 4800)
	for i := range x {
		x[i] = 0.3 * math.Sin(2*math.Pi*440*float64(i)/8000)
	}
	var b bytes.Buffer
	if err := wav.Write(&b, &wav.Sound{Rate: 8000, Bits: 16, Left: x}); err != nil {
		t.Fatal(err)
	}
	return b.String()
}

// stream is one kind of change that is made again and again while the program is killed: change makes the n-th, holds tells whether what stands there
// after n that were acknowledged, and perhaps one more that was not answered, is what it has to be.
type stream struct {
	name   string
	n      int
	change func(api string, n int) error
	holds  func(api string, n int) error
}

// put makes a change by a request whose body is a form with the number.
func put(method, path, body string) func(api string, n int) error {
	return func(api string, n int) error {
		at := path
		if strings.Contains(path, "%") {
			at = fmt.Sprintf(path, n)
		}
		text := body
		if strings.Contains(body, "%") {
			text = fmt.Sprintf(body, n)
		}
		_, err := call(method, api+at, text)
		return err
	}
}

// shows reads something and looks in it for the text of the n-th change or the next.
func shows(path, text string) func(api string, n int) error {
	return func(api string, n int) error {
		got, err := call("GET", api+path, "")
		if err != nil || n == 0 || strings.Contains(got, fmt.Sprintf(text, n)) || strings.Contains(got, fmt.Sprintf(text, n+1)) {
			return err
		}
		return fmt.Errorf("%s shows neither %s nor the next", path, fmt.Sprintf(text, n))
	}
}

// Kill -9 forty times (two hundred in make whole) in the middle of readings, edits of a panel and of a show, ticks of a rehearsal, overrides, choices, ticks and recordings, two of them at once and now and then all, leaves everything that was acknowledged.
func TestKill9(t *testing.T) {
	rounds := 40
	if whole.Asked() {
		rounds = 200
	}
	db := filepath.Join(t.TempDir(), "my data.db")
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	take := shortTake(t)
	var recordings, lines []string
	matters := []string{"as usual", "keep", "not needed"}
	streams := []*stream{
		{name: "readings", change: func(api string, n int) error {
			_, err := call("PUT", api+"/patches/keel/layers/a/readings/mix.osc1", fmt.Sprintf(`{"reading": "%.1f"}`, float64(n%100)/10))
			return err
		}, holds: func(api string, n int) error {
			got, err := call("GET", api+"/patches/keel/export", "")
			is := func(n int) bool {
				return strings.Contains(got, fmt.Sprintf(`"mix.osc1": "%.1f"`, float64(n%100)/10))
			}
			if err != nil || n == 0 || is(n) || is(n+1) {
				return err
			}
			return fmt.Errorf("neither the %d. reading nor the next is there", n)
		}},
		{name: "panel", change: put("POST", "/panels/thole/workshop", `{"what": "a name", "ops": [{"op": "replace", "path": "/name", "value": "Number %d of many"}]}`), holds: shows("/panels/thole/workshop", "Number %d of many")},
		{name: "a control as it is said", change: put("POST", "/panels/halyard/workshop/lines", `{"control": "filter.cutoff", "label": "Cutoff %d of many"}`), holds: shows("/panels/halyard/workshop", "Cutoff %d of many")},
		{name: "a show", change: put("PUT", "/shows/1", `{"format": "glossator-show", "version": 1, "name": "Night %d of many", "cues": [], "houses": [{"id": "h1", "name": "hall", "instruments": []}]}`), holds: shows("/shows/1", "Night %d of many")},
		{name: "a rehearsal", change: func(api string, n int) error {
			text, err := call("GET", api+"/shows/1/run/state?house=h1&evening=1", "")
			var run struct{ Run uint }
			if err == nil {
				err = json.Unmarshal([]byte(text), &run)
			}
			if err == nil && run.Run == 0 {
				if text, err = call("POST", api+"/shows/1/run?house=h1&evening=1", ""); err == nil {
					err = json.Unmarshal([]byte(text), &run)
				}
			}
			if err == nil {
				_, err = call("PUT", api+"/shows/1/run/ticks?house=h1&evening=1", fmt.Sprintf(`{"run": %d, "cue": "a", "key": "move %d", "done": true, "of": 9, "clock": 1, "start": 2}`, run.Run, n))
			}
			return err
		}, holds: func(api string, n int) error {
			got, err := call("GET", api+"/shows/1/run/state?house=h1&evening=1", "")
			for i := 1; err == nil && i <= n; i++ {
				if !strings.Contains(got, fmt.Sprintf(`"move %d"`, i)) {
					err = fmt.Errorf("tick %d of %d is gone", i, n)
				}
			}
			return err
		}},
		{name: "overrides", change: func(api string, n int) error {
			_, err := call("PUT", api+"/sheets/1/overrides/filter.cutoff", fmt.Sprintf(`{"reading": "%d"}`, n%127))
			return err
		}, holds: func(api string, n int) error {
			text, err := call("GET", api+"/sheets/1", "")
			if err != nil || n == 0 {
				return err
			}
			var v struct{ Sheet gloss.Sheet }
			if err := json.Unmarshal([]byte(text), &v); err != nil {
				return err
			}
			if got := v.Sheet.Overrides["filter.cutoff"]; got != fmt.Sprint(n%127) && got != fmt.Sprint((n+1)%127) {
				return fmt.Errorf("the cutoff is %q, acknowledged was %d", got, n%127)
			}
			return nil
		}},
		{name: "choices", change: func(api string, n int) error {
			_, err := call("PUT", api+"/sheets/2/choices", fmt.Sprintf(`{"part": "osc3", "matters": %q, "refuse": []}`, matters[n%3]))
			return err
		}, holds: func(api string, n int) error {
			text, err := call("GET", api+"/sheets/2", "")
			if err != nil || n == 0 {
				return err
			}
			var v struct{ Sheet gloss.Sheet }
			if err := json.Unmarshal([]byte(text), &v); err != nil {
				return err
			}
			w, set := v.Sheet.Choices.Weight["osc3"]
			now := 0
			if set && w == plan.Keep {
				now = 1
			} else if set {
				now = 2
			}
			if now != n%3 && now != (n+1)%3 {
				return fmt.Errorf("osc3 is %q, acknowledged was %q", matters[now], matters[n%3])
			}
			return nil
		}},
		{name: "ticks", change: func(api string, n int) error { // on, and in the next turn off
			method := "PUT"
			if (n-1)/len(lines)%2 == 1 {
				method = "DELETE"
			}
			_, err := call(method, api+"/sheets/3/ticks/"+lines[(n-1)%len(lines)], "")
			return err
		}, holds: func(api string, n int) error {
			text, err := call("GET", api+"/sheets/3", "")
			if err != nil || n == 0 {
				return err
			}
			var v struct{ Ticks []string }
			if err := json.Unmarshal([]byte(text), &v); err != nil {
				return err
			}
			for k, line := range lines {
				on := (n-1)/len(lines)%2 == 0 == (k <= (n-1)%len(lines))
				if k != n%len(lines) && slices.Contains(v.Ticks, line) != on {
					return fmt.Errorf("the tick of %s, the %d. of %d, is not what was acknowledged", line, k, len(lines))
				}
			}
			return nil
		}},
		{name: "recordings", change: func(api string, n int) error {
			got, err := call("POST", fmt.Sprintf("%s/sounds?file=take-%d.wav", api, n), take)
			var x struct{ Key string }
			if err == nil && json.Unmarshal([]byte(got), &x) == nil {
				recordings = append(recordings, x.Key)
			}
			return err
		}, holds: func(api string, n int) error {
			for _, key := range recordings[max(0, len(recordings)-3):] {
				if _, err := call("GET", api+"/sounds/"+key+".wav", ""); err != nil {
					return err
				}
			}
			return nil
		}},
	}
	lot := rand.New(rand.NewPCG(1, 9))
	running := streams
	for round := range rounds {
		c, url := serve(t, db)
		api := url + "/api/v1"
		if round == 0 {
			if _, err := call("POST", api+"/sample", ""); err != nil {
				t.Fatal(err)
			}
			for _, target := range []string{"halyard", "kedge", "binnacle"} {
				if _, err := call("POST", api+"/sheets", fmt.Sprintf(`{"patch": "keel", "target": %q, "school": "numbers"}`, target)); err != nil {
					t.Fatal(err)
				}
			}
		}
		if round == 0 {
			var v struct{ Sheet gloss.Sheet }
			if text, err := call("GET", api+"/sheets/3", ""); err != nil || json.Unmarshal([]byte(text), &v) != nil {
				t.Fatal(err)
			}
			for _, x := range v.Sheet.Settings {
				if _, err := call("PUT", api+"/sheets/3/ticks/"+x.Control, ""); err != nil {
					continue // it stays as it is
				}
				lines = append(lines, x.Control)
				if _, err := call("DELETE", api+"/sheets/3/ticks/"+x.Control, ""); err != nil {
					t.Fatal(err)
				}
			}
		}
		acknowledged := make(chan struct{}, 1000)
		var all sync.WaitGroup
		for _, s := range running {
			if err := s.holds(api, s.n); err != nil {
				t.Fatalf("round %d, %s: %v", round, s.name, err)
			}
		}
		running = nil
		for _, i := range lot.Perm(len(streams))[:2] {
			running = append(running, streams[i])
		}
		if round%40 == 39 {
			running = streams
		}
		for _, s := range running {
			all.Go(func() {
				for {
					if err := s.change(api, s.n+1); err != nil {
						if strings.Contains(err.Error(), api) && !strings.Contains(err.Error(), "EOF") && strings.Contains(err.Error(), `"status"`) {
							t.Errorf("%s: %v", s.name, err) // refused, not cut off
						}
						return
					}
					s.n++
					acknowledged <- struct{}{}
				}
			})
		}
		for range 1 + lot.IntN(12) {
			<-acknowledged
		}
		go func() {
			for range acknowledged { // until all have seen that it is gone
			}
		}()
		if err := c.Process.Kill(); err != nil {
			t.Fatal(err)
		}
		_ = c.Wait()
		all.Wait()
		close(acknowledged)
		http.DefaultClient.CloseIdleConnections()
	}
	for _, s := range streams {
		t.Logf("%s: %d acknowledged", s.name, s.n)
		if s.n == 0 {
			t.Errorf("%s: nothing was acknowledged", s.name)
		}
	}
}

// An interrupt ends the program in good order.
func TestGracefulStop(t *testing.T) {
	c, url := serve(t, filepath.Join(t.TempDir(), "a.db"))
	if _, err := call("GET", url+"/api/v1/desk", ""); err != nil {
		t.Fatal(err)
	}
	if err := c.Process.Signal(os.Interrupt); err != nil {
		t.Fatal(err)
	}
	if err := c.Wait(); err != nil {
		t.Errorf("an interrupt ended the program with %v", err)
	}
}

// Two programs cannot share a port; the second says what to do.
func TestPortInUse(t *testing.T) {
	_, url := serve(t, filepath.Join(t.TempDir(), "a.db"))
	_, port, _ := strings.Cut(strings.TrimPrefix(url, "http://"), ":")
	_, errs, status := run(t, "serve", "--db", filepath.Join(t.TempDir(), "b.db"), "--port", port)
	if status != 1 || !strings.Contains(errs, "--port") {
		t.Errorf("status %d: %s", status, errs)
	}
}

// BenchmarkFirstPage is the time from starting the binary on the demo data to the first page
// and its desk.
func BenchmarkFirstPage(b *testing.B) {
	for b.Loop() {
		c := exec.Command(program, "demo", "--port", "0")
		out, err := c.StdoutPipe()
		if err != nil {
			b.Fatal(err)
		}
		if err := c.Start(); err != nil {
			b.Fatal(err)
		}
		line, err := bufio.NewReader(out).ReadString('\n')
		if err != nil {
			b.Fatal(err)
		}
		_, rest, _ := strings.Cut(line, "http://")
		address, _, _ := strings.Cut(rest, "/")
		for _, path := range []string{"/", "/api/v1/desk"} {
			if _, err := call("GET", "http://"+address+path, ""); err != nil {
				b.Fatal(err)
			}
		}
		b.StopTimer()
		_ = c.Process.Kill()
		_ = c.Wait()
		b.StartTimer()
	}
}

// A patch rendered, measured and compared from the command line.
func TestSoundFromCommandLine(t *testing.T) {
	var keel []byte
	for _, f := range demo.Patches() {
		if strings.HasPrefix(f.Name, "keel") {
			keel = f.Data
		}
	}
	in := file(t, "keel.json", string(keel))
	dir := t.TempDir()
	a, b := filepath.Join(dir, "a.wav"), filepath.Join(dir, "b.wav")
	out, errs, status := run(t, "render", "--patch", in, "--preset", "held", "--out", a)
	if status != 0 || !strings.Contains(out, "LUFS") || !strings.Contains(out, "amplifier") {
		t.Fatalf("render: %d %s %s", status, out, errs)
	}
	if _, errs, status := run(t, "render", "--patch", in, "--preset", "held", "--to", "halyard", "--bits", "32", "--out", b, "--json"); status != 0 {
		t.Fatalf("render to halyard: %s", errs)
	}
	again := filepath.Join(dir, "again.wav")
	if _, errs, status := run(t, "render", "--patch", in, "--preset", "held", "--out", again); status != 0 {
		t.Fatal(errs)
	}
	x, _ := os.ReadFile(a)
	y, _ := os.ReadFile(again)
	if len(x) == 0 || !bytes.Equal(x, y) {
		t.Error("the same patch gave another file")
	}
	out, errs, status = run(t, "measure", a, "--what", "pitch", "--json")
	var figures []struct {
		Value float64
		Known bool
	}
	if err := json.Unmarshal([]byte(out), &figures); status != 0 || err != nil || len(figures) != 1 || !figures[0].Known {
		t.Fatalf("measure: %d %v %s %s", status, err, out, errs)
	}
	if out, errs, status := run(t, "measure", a, "--what", "spectrum"); status != 0 || !strings.Contains(out, "band at") || !strings.Contains(out, "brightness at 0.25 s") {
		t.Errorf("spectrum: %d %s %s", status, out, errs)
	}
	out, errs, status = run(t, "compare", a, b)
	if status != 0 || !strings.HasPrefix(out, "distance ") || !strings.Contains(out, "brightness (centroid)") {
		t.Errorf("compare: %d %s %s", status, out, errs)
	}
	if out, _, _ := run(t, "compare", a, a); !strings.HasPrefix(out, "distance 0.00") {
		t.Errorf("a file and itself: %s", out)
	}
	for _, args := range [][]string{{"render", "--patch", in}, {"measure"}, {"measure", a, "--what", "colour"}, {"measure", a, "--off", "soon"}, {"compare", a}, {"render", "--patch", in, "--out", b, "--force", "--bits", "8"}, {"render", "--patch", in, "--out", b}} {
		if _, errs, status := run(t, args...); status != 2 || errs == "" {
			t.Errorf("%v: status %d, %q", args, status, errs)
		}
	}
	for _, args := range [][]string{{"measure", in}, {"compare", a, filepath.Join(dir, "none.wav")}, {"render", "--patch", in, "--out", b, "--force", "--preset", "none"}, {"render", "--patch", in, "--out", b, "--force", "--octaves", "9"}} {
		if _, errs, status := run(t, args...); status != 1 || errs == "" {
			t.Errorf("%v: status %d, %q", args, status, errs)
		}
	}
}
