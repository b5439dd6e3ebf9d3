package formats

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"glossator/demo"
)

// Files are told by what is in them: those of other programs (sox, sqlite's own form), of the standards, and the project's own.
func TestFilesAreToldByWhatIsInThem(t *testing.T) {
	for name, want := range map[string]Told{
		"\x00": FileOther, "": FileEmpty, " \n": FileEmpty, "{": FileJSON, "[1, 2]": FileJSON, `{"format": "glossator-panel", "version": 9}`: FilePanel, `{"format": "glossator-patch", broken`: FilePatch,
		`{"glosses": [], "plan": {}}`: FileSheet, "Section,Control,Printed\nFilter,Cutoff,0 to 10\n": FileTable, "cutoff about 11 o'clock, resonance low": FileText,
		"MThd\x00\x00\x00\x06\x00\x00\x00\x01\x03\xc0": FileMIDI, "\xf0\x7d\x01\xf7": FileDump, "\x89PNG\r\n\x1a\n\x00\x00": FilePicture, "\xff\xd8\xff\xe0\x00\x10JFIF": FileSound, "%PDF-1.7\n": FilePDF,
		"SQLite format 3\x00abc": FileDatabase, "\x1f\x8b\x08": FileArchive, "PK\x03\x04....notes.txt": FileArchive, "PK\x03\x04....xl/workbook.xml": FileWorkbook, "RIFF\x00\x00\x00\x00RMID": FileMIDI,
	} {
		if strings.HasPrefix(name, "\xff\xd8") { // JPEG begins with what MPEG audio may begin with, but for its second byte
			want = FilePicture
		}
		if got := Tell("file", []byte(name)); got != want {
			t.Errorf("%q is told to be %s, want %s", name, got, want)
		}
	}
	for _, f := range demo.Panels() {
		if got := Tell(f.Name, f.Data); got != FilePanel {
			t.Errorf("%s is told to be %s", f.Name, got)
		}
	}
	for _, f := range demo.Patches() {
		if got := Tell(f.Name, f.Data); got != FilePatch {
			t.Errorf("%s is told to be %s", f.Name, got)
		}
	}
	if b, err := TemplateXLSX(); err != nil || Tell("x", b) != FileWorkbook {
		t.Errorf("the template is told to be %s (%v)", Tell("x", b), err)
	}
	for _, ending := range []string{"wav", "aiff", "flac", "ogg"} {
		file := filepath.Join(t.TempDir(), "x."+ending)
		if out, err := exec.Command("sox", "-n", "-r", "44100", file, "synth", "0.1", "sine", "440").CombinedOutput(); err != nil {
			t.Fatalf("sox: %v %s", err, out)
		}
		b, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		if got := Tell("x", b); got != FileSound {
			t.Errorf("sox's %s is told to be %s", ending, got)
		}
	}
	for told, words := range kinds {
		if words == "" || told.Words() != words {
			t.Errorf("%s has no words", told)
		}
	}
}
