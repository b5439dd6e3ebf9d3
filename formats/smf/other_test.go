package smf

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"glossator/core/wire"
	"glossator/testutil/testrack"
)

// events gives what another program (Debian's midicsv) reads in a file: its rows without the track, the ends and the names.
func events(t *testing.T, data []byte) (rows []string) {
	t.Helper()
	file := filepath.Join(t.TempDir(), "x.mid")
	if err := os.WriteFile(file, data, 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("midicsv", file).Output()
	if err != nil {
		t.Fatal(err)
	}
	r := csv.NewReader(bytes.NewReader(out))
	r.FieldsPerRecord, r.TrimLeadingSpace = -1, true
	all, err := r.ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range all {
		if kind := x[2]; strings.HasSuffix(kind, "_c") || strings.HasPrefix(kind, "System_exclusive") || kind == "Tempo" {
			rows = append(rows, strings.Join(x[1:], " "))
		}
	}
	return rows
}

// The settings of every demo panel that listens to MIDI, as a file: another program reads each message as it was written, in its order, system exclusive with its bytes.
func TestAnotherReadsSettings(t *testing.T) {
	seen := 0
	for id, c := range testrack.Panels(t) {
		p := testrack.Generate(c, 5, 0.6)
		w, err := wire.Write(c, &p.Layers[0], 3)
		if err != nil || len(w.Messages) == 0 {
			continue
		}
		seen++
		var want []string
		for _, m := range w.Messages {
			switch m.Status & 0xF0 {
			case 0xB0:
				want = append(want, fmt.Sprintf("Control_c %d %d %d", m.Status&15, m.Data[0], m.Data[1]))
			case 0xC0:
				want = append(want, fmt.Sprintf("Program_c %d %d", m.Status&15, m.Data[0]))
			case 0xF0:
				row := fmt.Sprintf("System_exclusive %d", len(m.Data)+1)
				for _, b := range append(slices.Clone(m.Data), 0xF7) {
					row += fmt.Sprint(" ", b)
				}
				want = append(want, row)
			}
		}
		var got []string
		for _, x := range events(t, OfMessages(w.Messages).Write()) {
			if _, what, _ := strings.Cut(x, " "); !strings.HasPrefix(what, "Tempo") {
				got = append(got, what)
			}
		}
		if !slices.Equal(got, want) {
			t.Errorf("%s: %d messages are read, %d were written", id, len(got), len(want))
		}
	}
	if seen < 3 {
		t.Errorf("%d panels", seen)
	}
}

// The phrase of every demo patch, as a file: another program reads as many notes, at the same times and pitches, and the tempo.
func TestAnotherReadsPhrases(t *testing.T) {
	for id, p := range testrack.Patches(t) {
		if p.Phrase == nil {
			continue
		}
		f, err := OfPhrase(p.Phrase, 96)
		if err != nil {
			t.Fatal(err)
		}
		rows := events(t, f.Write())
		var got, want []string
		for _, x := range rows {
			if strings.Contains(x, "Note_on_c") && !strings.HasSuffix(x, " 0") {
				got = append(got, x)
			}
		}
		at := int64(0)
		for _, e := range f.Tracks[0] {
			if at = e.Tick; e.Status&0xF0 == 0x90 && e.Data[1] > 0 {
				want = append(want, fmt.Sprintf("%d Note_on_c %d %d %d", at, e.Status&15, e.Data[0], e.Data[1]))
			}
		}
		if !slices.Equal(got, want) || len(got) != len(p.Phrase.Notes) {
			t.Errorf("%s: %d notes are read, %d were written, the phrase has %d", id, len(got), len(want), len(p.Phrase.Notes))
		}
		if !slices.ContainsFunc(rows, func(x string) bool { return strings.HasSuffix(x, "Tempo 625000") }) { // 60,000,000 / 96 microseconds a quarter note (SMF 1.0)
			t.Errorf("%s: the tempo is not read: %v", id, rows[:min(4, len(rows))])
		}
	}
}
