package main

import (
	"bufio"
	"bytes"
	"context"
	"debug/elf"
	"encoding/json"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"strings"
	"syscall"
	"testing"
	"time"
)

// What is handed on for this machine: its checksums hold for sha256sum, tar unpacks it, it needs no library of the system, it starts as a user who may write nothing beside it, serves
// its page, and lists its licences; what Go itself reads out of the binary stands in the bill of materials and among the licences.
func TestReleaseOnThisMachine(t *testing.T) {
	if runtime.GOOS != "linux" {
		t.Fatal("this test is of Linux: what is made for other systems is not started here")
	}
	t.Chdir("..")
	out := t.TempDir()
	if err := run([]string{"build", "-out", out, "-version", "1.2.3-test", "-only", "linux/" + runtime.GOARCH, "-quick"}); err != nil {
		t.Fatal(err)
	}
	does := func(name string, args ...string) string {
		t.Helper()
		c := exec.Command(name, args...)
		c.Dir = out
		b, err := c.CombinedOutput()
		if err != nil {
			t.Fatalf("%s %v: %v %s", name, args, err, b)
		}
		return string(b)
	}
	if said := does("sha256sum", "--strict", "-c", "SHA256SUMS"); strings.Count(said, ": OK") != 3 {
		t.Error(said)
	}
	name := "glossator-1.2.3-test-linux-" + runtime.GOARCH
	does("tar", "-xzf", name+".tar.gz")
	dir := filepath.Join(out, name)
	program := filepath.Join(dir, "glossator")
	f, err := elf.Open(program)
	if err != nil {
		t.Fatal(err)
	}
	if libs, err := f.ImportedLibraries(); err != nil || len(libs) > 0 {
		t.Errorf("it needs %v, %v", libs, err)
	}
	_ = f.Close()

	home := t.TempDir()
	for _, d := range []string{out, filepath.Dir(out), home, filepath.Dir(home), filepath.Dir(filepath.Dir(out))} {
		if err := os.Chmod(d, 0o755); err != nil {
			t.Fatal(err)
		}
	}
	nobody := &syscall.SysProcAttr{}
	if os.Getuid() == 0 {
		nobody.Credential = &syscall.Credential{Uid: 65534, Gid: 65534}
		if err := os.Chown(home, 65534, 65534); err != nil {
			t.Fatal(err)
		}
	}
	for _, d := range []string{dir, program} {
		if err := os.Chmod(d, 0o555); err != nil {
			t.Fatal(err)
		}
	}
	t.Cleanup(func() { _ = os.Chmod(dir, 0o755) })
	ctx, stop := context.WithTimeout(t.Context(), time.Minute)
	defer stop()
	starts := func(args ...string) *exec.Cmd {
		c := exec.CommandContext(ctx, program, args...)
		c.Dir, c.SysProcAttr, c.Env = dir, nobody, []string{"HOME=" + home}
		return c
	}
	said, err := starts("licences").Output()
	if err != nil {
		t.Fatal(err)
	}
	if v, err := starts("--version").Output(); err != nil || !strings.Contains(string(v), "1.2.3-test") {
		t.Errorf("%v %s", err, v)
	}
	list, err := os.ReadFile(filepath.Join(dir, "bill-of-materials.cdx.json"))
	if err != nil {
		t.Fatal(err)
	}
	var doc struct {
		Format     string `json:"bomFormat"`
		Components []struct {
			Name, Version, Purl string
		}
	}
	if err := json.Unmarshal(list, &doc); err != nil || doc.Format != "CycloneDX" {
		t.Fatal(doc.Format, err)
	}
	listed := map[string]bool{}
	for _, c := range doc.Components {
		listed[c.Name+" "+c.Version] = true
		if c.Version == "" || !strings.HasPrefix(c.Purl, "pkg:") {
			t.Errorf("%+v", c)
		}
	}
	inside := 0
	for _, m := range regexp.MustCompile(`(?m)^\s+dep\s+(\S+)\s+(\S+)`).FindAllStringSubmatch(does("go", "version", "-m", program), -1) {
		inside++
		if !listed[m[1]+" "+m[2]] {
			t.Errorf("%s %s is in the binary, and not in the bill of materials", m[1], m[2])
		}
		if !bytes.Contains(said, []byte("\n"+m[1]+" "+m[2]+"\n")) {
			t.Errorf("%s %s is in the binary, and its licence is not told", m[1], m[2])
		}
	}
	if inside < 10 || !listed["svelte "+version(t, "svelte")] || !bytes.Contains(said, []byte("SIL OPEN FONT LICENSE")) || !bytes.Contains(said, []byte("the Go language and its library go1.")) {
		t.Errorf("%d modules, %d listed", inside, len(listed))
	}

	c := starts("serve", "--port", "0")
	r, err := c.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	defer func() { _ = c.Process.Kill(); _ = c.Wait() }()
	at := ""
	for s := bufio.NewScanner(r); at == "" && s.Scan(); {
		if m := regexp.MustCompile(`http://[0-9.:]+`).FindString(s.Text()); m != "" {
			at = m
		}
	}
	for _, path := range []string{"/", "/api/v1/desk", "/licences.txt"} {
		res, err := http.Get(at + path)
		if err != nil {
			t.Fatal(err)
		}
		_ = res.Body.Close()
		if res.StatusCode != http.StatusOK {
			t.Errorf("%s: %s", path, res.Status)
		}
	}
}

// version gives the version of a package that the page is built from, as npm has it.
func version(t *testing.T, name string) string {
	t.Helper()
	b, err := os.ReadFile(filepath.Join("web", "node_modules", name, "package.json"))
	if err != nil {
		t.Fatal(err)
	}
	var p struct{ Version string }
	if err := json.Unmarshal(b, &p); err != nil {
		t.Fatal(err)
	}
	return p.Version
}

// Archives of the same files have the same bytes, and are read by unzip and tar.
func TestArchivesAreTheSame(t *testing.T) {
	files := []member{{"program", []byte("#!"), 0o755}, {"README.md", bytes.Repeat([]byte("word "), 2000), 0o644}}
	dir := t.TempDir()
	for end, write := range map[string]func(string, []member) ([]byte, error){"a.tar.gz": tarred, "a.zip": zipped} {
		one, err := write("x-1", files)
		if err != nil {
			t.Fatal(err)
		}
		if two, err := write("x-1", files); err != nil || !bytes.Equal(one, two) {
			t.Errorf("%s differs from itself: %v", end, err)
		}
		file := filepath.Join(dir, end)
		if err := os.WriteFile(file, one, 0o600); err != nil {
			t.Fatal(err)
		}
		list := exec.Command("tar", "-tzvf", file)
		if end == "a.zip" {
			list = exec.Command("python3", "-m", "zipfile", "-l", file)
		}
		b, err := list.CombinedOutput()
		if err != nil || !strings.Contains(string(b), "x-1/program") || !strings.Contains(string(b), "10000") {
			t.Errorf("%s: %v %s", end, err, b)
		}
	}
}

// What cannot be is refused before anything is made.
func TestBadReleases(t *testing.T) {
	t.Chdir("..")
	for _, args := range [][]string{nil, {"sing"}, {"licences"}, {"build", "-only", "plan9/386"}, {"build", "-version", "soon", "-out", t.TempDir()}} {
		if err := run(args); err == nil {
			t.Errorf("%v is done", args)
		}
	}
}
