package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"net"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"glossator/core/wire"
	"glossator/formats/smf"
	"glossator/standin"
	"glossator/testutil/testrack"
)

// The bench on the command line finds the law of a unit: band and truth stand at the same readings, and the truth lies in it.
func TestBenchOnTheCommandLine(t *testing.T) {
	var truth struct {
		Panel    string
		Unit     int
		Controls map[string][]struct {
			Reading, Unit string
			Value         *float64
		}
	}
	out, errs, status := run(t, "stand-in", "kedge", "--unit", "7", "--truth", "--json")
	if status != 0 || json.Unmarshal([]byte(out), &truth) != nil || truth.Panel != "kedge" || truth.Unit != 7 {
		t.Fatalf("%d %.200s %s", status, out, errs)
	}
	var got struct {
		Panel, Control, Recipe string
		Takes                  []struct {
			Reading, Unit string
			Value, U      float64
		}
		Law       struct{ Kind, Source string }
		RunnersUp []struct{ Kind string } `json:"runners_up"`
		Band      []struct {
			Reading, Unit    string
			Value, Low, High *float64
		}
	}
	out, errs, status = run(t, "bench", "kedge", "--control", "mix.noise", "--stand-in", "7", "--takes", "8", "--json")
	if status != 0 || json.Unmarshal([]byte(out), &got) != nil {
		t.Fatalf("%d %.200s %s", status, out, errs)
	}
	if got.Recipe != "level" || len(got.Takes) != 8 || got.Law.Source != "measured" || len(got.RunnersUp) < 2 || len(got.Band) != len(truth.Controls["mix.noise"]) {
		t.Fatalf("%+v", got)
	}
	in := 0
	for i, y := range got.Band {
		x := truth.Controls["mix.noise"][i]
		if x.Reading != y.Reading || x.Unit != y.Unit || (x.Value == nil) != (y.Value == nil) {
			t.Fatalf("place %d: %+v and %+v", i, x, y)
		}
		if y.Value == nil || *x.Value >= *y.Low-1e-9 && *x.Value <= *y.High+1e-9 {
			in++
		}
	}
	if in < len(got.Band)*9/10 {
		t.Errorf("the truth lies in the band at %d of %d readings", in, len(got.Band))
	}
}

// Recordings that a stand-in has played into files are measured as those of any instrument are.
func TestBenchTakesRecordings(t *testing.T) {
	dir := t.TempDir()
	args := []string{"bench", "kedge", "--control", "osc2.tune", "--json"}
	readings := []string{"7:30", "9:00", "11:00", "12:00", "1:30", "3:00", "4:30"}
	for i, r := range readings {
		file := filepath.Join(dir, fmt.Sprintf("%d.wav", i))
		if _, errs, status := run(t, "stand-in", "kedge", "--unit", "9", "--set", "mix.osc2=12:00", "--set", "env.sustain=5:00", "--set", "osc2.tune="+r, "--note", "A3", "--seconds", "1.2", "--out", file); status != 0 {
			t.Fatal(errs)
		}
		args = append(args, "--take", r+"="+file)
	}
	var got struct {
		Takes []struct {
			Reading, Why string
			Value        float64
		}
	}
	out, errs, status := run(t, args...)
	if status != 0 || json.Unmarshal([]byte(out), &got) != nil || len(got.Takes) != len(readings) {
		t.Fatalf("%d %.300s %s", status, out, errs)
	}
	for i, k := range got.Takes {
		if k.Why != "" || k.Reading != readings[i] || i > 0 && k.Value <= got.Takes[i-1].Value {
			t.Errorf("take %d: %+v", i, k)
		}
	}
}

func TestBenchSaysWhatIsWrong(t *testing.T) {
	text := file(t, "a.wav", "no sound")
	for _, c := range []struct {
		name   string
		args   []string
		status int
		says   string
	}{
		{"no control", []string{"bench", "kedge"}, 2, "--control"},
		{"no such control", []string{"bench", "kedge", "--control", "osc9"}, 1, "has no control"},
		{"no such panel", []string{"bench", "anchor", "--control", "x"}, 1, "halyard"},
		{"no such recipe", []string{"bench", "kedge", "--control", "lfo.rate", "--recipe", "divining"}, 2, "cutoff-noise"},
		{"a choice of words", []string{"bench", "kedge", "--control", "osc1.wave"}, 1, "a value for each position"},
		{"too many takes", []string{"bench", "kedge", "--control", "lfo.rate", "--stand-in", "1", "--takes", "1000"}, 2, "at most"},
		{"both", []string{"bench", "kedge", "--control", "lfo.rate", "--stand-in", "1", "--take", "12:00=" + text}, 2, "one or the other"},
		{"no recording", []string{"bench", "kedge", "--control", "mix.osc1", "--take", "12:00=" + text}, 1, "WAVE"},
		{"no reading", []string{"bench", "kedge", "--control", "mix.osc1", "--take", text}, 2, "READING=FILE"},
		{"a stand-in that does nothing", []string{"stand-in", "kedge"}, 2, "--out"},
		{"a reading that is none", []string{"stand-in", "kedge", "--set", "mix.osc1=6:30", "--out", text + "x"}, 1, "7:00"},
		{"a set that is none", []string{"stand-in", "kedge", "--set", "mix.osc1", "--out", text + "x"}, 2, "CONTROL=READING"},
		{"a note that is none", []string{"stand-in", "kedge", "--note", "H", "--out", text + "x"}, 2, "--note"},
		{"a file that is there", []string{"stand-in", "kedge", "--out", text}, 2, "--force"},
		{"another machine's address", []string{"stand-in", "kedge", "--serve", "192.0.2.1:7700"}, 2, "on this machine"},
	} {
		if out, errs, status := run(t, c.args...); status != c.status || !strings.Contains(errs, c.says) {
			t.Errorf("%s: status %d, want %d; %.200s; %s", c.name, status, c.status, out, errs)
		}
	}
	out, _, status := run(t, "bench", "kedge", "--control", "lfo.rate")
	if status != 0 || !strings.Contains(out, "Turn monitors and headphones down") || !strings.Contains(out, "LFO To pitch: on") || !strings.Contains(out, "Next: set it to") {
		t.Errorf("the plan: %s", out)
	}
}

// A stand-in takes MIDI bytes in whatever pieces they come, and answers a dump request: the dump holds what was sent. Over a pipe with every size of piece, and over the socket of the program itself.
func TestStandInTakesBytesInPieces(t *testing.T) {
	p := testrack.Panels(t)["fairlead"]
	want := testrack.Generate(p, 5, 0.6)
	sent, err := wire.Write(p, &want.Layers[0], 1)
	if err != nil {
		t.Fatal(err)
	}
	request, err := p.Dump.RequestBytes()
	if err != nil {
		t.Fatal(err)
	}
	st, err := p.Read(&want.Layers[0], "")
	if err != nil {
		t.Fatal(err)
	}
	data := smf.Bytes(append(sent.Messages, wire.Message{Status: 0xF0, Data: request}))
	check := func(name string, conn net.Conn, piece int) {
		t.Helper()
		go func() {
			for rest := data; len(rest) > 0; rest = rest[min(piece, len(rest)):] {
				if _, err := conn.Write(rest[:min(piece, len(rest))]); err != nil {
					return
				}
			}
		}()
		_ = conn.SetReadDeadline(time.Now().Add(time.Minute))
		var answer []byte
		buf := make([]byte, 4096)
		for len(answer) == 0 || answer[len(answer)-1] != 0xF7 {
			n, err := conn.Read(buf)
			if err != nil {
				t.Fatalf("%s in pieces of %d: no answer: %v", name, piece, err)
			}
			answer = append(answer, buf[:n]...)
		}
		all, err := smf.Stream(answer)
		if err != nil {
			t.Fatal(err)
		}
		found := wire.Read(p, all)
		found.Against(p, st)
		if len(found.Taken) < 20 {
			t.Fatalf("%s in pieces of %d: the dump holds %d readings", name, piece, len(found.Taken))
		}
		for _, x := range found.Taken {
			if !x.Same {
				t.Errorf("%s in pieces of %d: %s is %s in the dump, %s was sent", name, piece, x.Label, x.Reading, x.Stands)
			}
		}
	}
	for _, piece := range []int{1, 2, 3, 7, 64, 1 << 20} {
		u, err := standin.New(p, 3)
		if err != nil {
			t.Fatal(err)
		}
		here, there := net.Pipe()
		go serveBytes(there, u)
		check("a pipe", here, piece)
		here.Close()
	}
	c := exec.Command(program, "stand-in", "fairlead", "--unit", "3", "--serve", "127.0.0.1:0")
	out, err := c.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	defer func() { _ = c.Process.Kill(); _ = c.Wait() }()
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		t.Fatal(err)
	}
	_, rest, ok := strings.Cut(line, " at ")
	address, _, _ := strings.Cut(rest, ". ")
	if !ok {
		t.Fatalf("no address: %s", line)
	}
	conn, err := net.Dial("tcp", address)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	check("the socket", conn, 7)
}
