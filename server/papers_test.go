package server

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"fmt"
	"os/exec"
	"strings"
	"testing"
)

// A sheet, its dial-in list and a changeover come in every form, told apart by another program's look at the bytes; what there is nothing of is said.
func TestPapersOfASheet(t *testing.T) {
	c := newClient(t, true)
	for _, x := range []string{`{"patch":"keel","target":"kedge","school":"numbers"}`, `{"patch":"undertow","target":"kedge","school":"numbers"}`, `{"patch":"keel","target":"halyard","school":"numbers"}`} {
		ask[Opened](c, "POST", "/sheets", x, 200)
	}
	for _, name := range []string{"sheet", "dial-in", "changeover"} {
		for form, begins := range map[string]string{"md": "# ", "csv": "Part,", "xlsx": "PK\x03\x04", "pdf": "%PDF-1"} {
			res, data := c.do("GET", fmt.Sprintf("%s/sheets/1/papers/%s.%s?from=2", Base, name, form), "", nil)
			if res.StatusCode != 200 || !strings.HasPrefix(string(data), begins) || !strings.Contains(res.Header.Get("Content-Disposition"), "."+form) {
				t.Errorf("%s.%s: %d, %q, %.20q", name, form, res.StatusCode, res.Header.Get("Content-Disposition"), data)
			}
		}
	}
	_, data := c.do("GET", Base+"/sheets/1/papers/dial-in.csv", "", nil)
	rows, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
	if err != nil || len(rows) < 10 || rows[0][len(rows[0])-1] != "Done" {
		t.Fatal(err, rows)
	}
	for _, x := range []struct {
		path   string
		status int
	}{{"/sheets/1/papers/sheet.exe", 404}, {"/sheets/1/papers/diary.pdf", 404}, {"/sheets/99/papers/sheet.pdf", 404}, {"/sheets/3/papers/changeover.pdf", 422}, {"/sheets/1/papers/changeover.pdf?from=3", 422}} {
		if res, _ := c.do("GET", Base+x.path, "", nil); res.StatusCode != x.status {
			t.Errorf("%s: %d, want %d", x.path, res.StatusCode, x.status)
		}
	}
}

// A patch and the target of a sheet come as instruments of samples, and a render as FLAC that another program (sox) decodes.
func TestSamplesAndFLAC(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch":"tide-pool","target":"halyard","school":"numbers"}`, 200)
	for _, path := range []string{"/patches/tide-pool/samples", "/sheets/1/samples"} {
		res, data := c.do("GET", Base+path, "", nil)
		z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
		if err != nil {
			t.Fatalf("%s: %d %v", path, res.StatusCode, err)
		}
		if len(z.File) < 8 || !strings.HasSuffix(z.File[0].Name, ".sfz") {
			t.Errorf("%s holds %d files, %s first", path, len(z.File), z.File[0].Name)
		}
	}
	if res, _ := c.do("GET", Base+"/patches/tide-pool/samples?layer=none", "", nil); res.StatusCode != 422 {
		t.Errorf("a layer that is not there: %d", res.StatusCode)
	}
	res, data := c.do("GET", Base+"/sounds/"+ask[Listening](c, "POST", "/sheets/1/listen", `{}`, 200).Source.Key+".flac", "", nil)
	play := exec.Command("sox", "-t", "flac", "-", "-n", "stat")
	play.Stdin = bytes.NewReader(data)
	if out, err := play.CombinedOutput(); err != nil || !strings.Contains(string(out), "Length") {
		t.Errorf("%d: %v: %s", res.StatusCode, err, out)
	}
}
