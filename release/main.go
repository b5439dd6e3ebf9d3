// Command release makes what is handed on: static binaries for Linux, macOS and Windows with version and checksums, a bill of materials (CycloneDX 1.6, ECMA-424) and the licences of
// everything inside.
//
//	release licences FILE          writes the licences of all Go modules and of what the page is built from
//	release build [-out DIR] [-version V] [-only GOOS/GOARCH] [-quick]
//
// It is run from the root of the project with the page built (make release). The same source gives the same bytes.
package main

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"io/fs"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"sort"
	"strings"
	"time"
)

// targets are what binaries are made for.
var targets = []string{"linux/amd64", "linux/arm64", "darwin/amd64", "darwin/arm64", "windows/amd64", "windows/arm64"}

// bom is the command that lists modules: CycloneDX's own for Go.
const bom = "github.com/CycloneDX/cyclonedx-gomod/cmd/cyclonedx-gomod@v1.10.0"

func main() {
	log.SetFlags(0)
	if err := run(os.Args[1:]); err != nil {
		log.Fatal(err)
	}
}

func run(args []string) error {
	if len(args) == 0 {
		return errors.New("expected licences or build")
	}
	switch args[0] {
	case "licences":
		if len(args) != 2 {
			return errors.New("licences: expected the file to write")
		}
		b, err := licences(".")
		if err != nil {
			return err
		}
		return os.WriteFile(args[1], b, 0o644)
	case "build":
		f := flag.NewFlagSet("build", flag.ContinueOnError)
		out := f.String("out", "dist", "folder to write into")
		version := f.String("version", "", "version; that of the source where empty")
		only := f.String("only", "", "one target alone, as GOOS/GOARCH")
		quick := f.Bool("quick", false, "leave the paths of this machine in: what is compiled already is used again")
		if err := f.Parse(args[1:]); err != nil {
			return err
		}
		todo := targets
		if *only != "" {
			if !slices.Contains(targets, *only) {
				return fmt.Errorf("-only: expected one of %s, got %q", strings.Join(targets, ", "), *only)
			}
			todo = []string{*only}
		}
		return build(*out, *version, todo, *quick)
	}
	return fmt.Errorf("expected licences or build, got %q", args[0])
}

var versions = regexp.MustCompile(`^\d+\.\d+\.\d+([-+][0-9A-Za-z.-]+)?$`)

// build makes the archives of some targets, the bills of materials and the checksums.
func build(out, version string, todo []string, quick bool) error {
	if version == "" {
		source, err := os.ReadFile("cmd/glossator/main.go")
		if err != nil {
			return err
		}
		m := regexp.MustCompile(`Version = "([^"]+)"`).FindSubmatch(source)
		if m == nil {
			return errors.New("cmd/glossator/main.go: expected a version")
		}
		version = string(m[1])
	}
	if !versions.MatchString(version) {
		return fmt.Errorf("-version: expected one such as 1.2.3, got %q", version)
	}
	words, err := os.ReadFile("web/dist/app/licences.txt")
	if err != nil {
		return fmt.Errorf("the page is not built (make build): %w", err)
	}
	readme, err := os.ReadFile("README.md")
	if err != nil {
		return err
	}
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	sums := map[string]string{}
	keep := func(name string, data []byte) error {
		sums[name] = fmt.Sprintf("%x", sha256.Sum256(data))
		fmt.Printf("%s  %.1f MB\n", name, float64(len(data))/1e6)
		return os.WriteFile(filepath.Join(out, name), data, 0o644)
	}
	for _, t := range todo {
		goos, arch, _ := strings.Cut(t, "/")
		name := fmt.Sprintf("glossator-%s-%s-%s", version, goos, arch)
		bin := "glossator"
		if goos == "windows" {
			bin += ".exe"
		}
		tmp, err := os.MkdirTemp("", "glossator-release-")
		if err != nil {
			return err
		}
		program, list, err := compile(tmp, bin, goos, arch, version, quick)
		if rerr := os.RemoveAll(tmp); err == nil {
			err = rerr
		}
		if err != nil {
			return err
		}
		files := []member{{bin, program, 0o755}, {"LICENCES.txt", words, 0o644}, {"README.md", readme, 0o644}, {"bill-of-materials.cdx.json", list, 0o644}}
		var data []byte
		end := ".tar.gz"
		if goos == "windows" {
			end = ".zip"
			data, err = zipped(name, files)
		} else {
			data, err = tarred(name, files)
		}
		if err == nil {
			err = keep(name+end, data)
		}
		if err == nil {
			err = keep(name+".cdx.json", list)
		}
		if err != nil {
			return err
		}
	}
	if err := keep("LICENCES.txt", words); err != nil {
		return err
	}
	var lines []string
	for name, sum := range sums {
		lines = append(lines, fmt.Sprintf("%s  %s\n", sum, name))
	}
	sort.Slice(lines, func(a, b int) bool { return lines[a][66:] < lines[b][66:] })
	return os.WriteFile(filepath.Join(out, "SHA256SUMS"), []byte(strings.Join(lines, "")), 0o644)
}

// compile makes the binary of a target, and lists what is in it: its Go modules, and what the page is built from.
func compile(dir, bin, goos, arch, version string, quick bool) (program, list []byte, err error) {
	file := filepath.Join(dir, bin)
	env := []string{"CGO_ENABLED=0", "GOOS=" + goos, "GOARCH=" + arch}
	if !quick {
		env = append(env, "GOFLAGS=-trimpath")
	}
	if err := command(env, "go", "build", "-ldflags", "-s -w -X main.Version="+version, "-o", file, "./cmd/glossator"); err != nil {
		return nil, nil, err
	}
	if program, err = os.ReadFile(file); err != nil {
		return nil, nil, err
	}
	listed := filepath.Join(dir, "bom.json")
	// run for this machine, told of the other
	if err := command(nil, "env", "-u", "GOOS", "-u", "GOARCH", "go", "run", bom, "bin", "-json", "-std", "-noserial", "-output-version", "1.6", "-version", "v"+version, "-output", listed, file); err != nil {
		return nil, nil, err
	}
	b, err := os.ReadFile(listed)
	if err != nil {
		return nil, nil, err
	}
	list, err = withPage(b)
	return program, list, err
}

func command(env []string, name string, args ...string) error {
	c := exec.Command(name, args...)
	c.Env = append(os.Environ(), env...)
	if out, err := c.CombinedOutput(); err != nil {
		return fmt.Errorf("%s %s: %w\n%s", name, strings.Join(args, " "), err, out)
	}
	return nil
}

// bundled is a package that the page is built from, as the bundler lists them.
type bundled struct {
	Name       string `json:"name"`
	Version    string `json:"version"`
	Identifier string `json:"identifier"`
	Text       string `json:"text"`
}

func ofPage() (out []bundled, err error) {
	b, err := os.ReadFile("web/dist/app/licences.json")
	if err != nil {
		return nil, fmt.Errorf("the page is not built (make build): %w", err)
	}
	err = json.Unmarshal(b, &out)
	return out, err
}

// withPage adds what the page is built from to a bill of materials, and leaves out when it was made: the same source gives the same.
func withPage(b []byte) ([]byte, error) {
	var doc map[string]any
	if err := json.Unmarshal(b, &doc); err != nil {
		return nil, err
	}
	if meta, ok := doc["metadata"].(map[string]any); ok {
		delete(meta, "timestamp")
	}
	list, _ := doc["components"].([]any)
	all, err := ofPage()
	if err != nil {
		return nil, err
	}
	for _, x := range all {
		ref := fmt.Sprintf("pkg:npm/%s@%s", strings.Replace(x.Name, "@", "%40", 1), x.Version)
		list = append(list, map[string]any{"bom-ref": ref, "type": "library", "name": x.Name, "version": x.Version, "scope": "required", "purl": ref,
			"licenses": []any{map[string]any{"license": map[string]any{"id": x.Identifier}}}})
	}
	doc["components"] = list
	return json.MarshalIndent(doc, "", "  ")
}

// member is a file of an archive.
type member struct {
	name string
	data []byte
	mode fs.FileMode
}

// made is when all files of archives were made: what is when stands nowhere, so that the same source gives the same bytes.
var made = time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)

func tarred(dir string, files []member) ([]byte, error) {
	var b bytes.Buffer
	z, err := gzip.NewWriterLevel(&b, gzip.BestCompression)
	if err != nil {
		return nil, err
	}
	w := tar.NewWriter(z)
	for _, f := range files {
		if err := w.WriteHeader(&tar.Header{Name: dir + "/" + f.name, Mode: int64(f.mode), Size: int64(len(f.data)), ModTime: made, Format: tar.FormatUSTAR}); err != nil {
			return nil, err
		}
		if _, err := w.Write(f.data); err != nil {
			return nil, err
		}
	}
	if err := errors.Join(w.Close(), z.Close()); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

func zipped(dir string, files []member) ([]byte, error) {
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for _, f := range files {
		h := &zip.FileHeader{Name: dir + "/" + f.name, Method: zip.Deflate, Modified: made}
		h.SetMode(f.mode)
		x, err := w.CreateHeader(h)
		if err != nil {
			return nil, err
		}
		if _, err := x.Write(f.data); err != nil {
			return nil, err
		}
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// module is a Go module with where its source is.
type module struct {
	Path, Version, Dir string
	Main               bool
	Replace            *module
}

// modules lists the Go modules that the program is made of, on any target.
func modules(root string) ([]module, error) {
	by := map[string]module{}
	for _, t := range targets {
		goos, arch, _ := strings.Cut(t, "/")
		c := exec.Command("go", "list", "-deps", "-f", "{{with .Module}}{{.Path}}{{end}}", "./cmd/glossator")
		c.Dir, c.Env = root, append(os.Environ(), "CGO_ENABLED=0", "GOOS="+goos, "GOARCH="+arch)
		out, err := c.Output()
		if err != nil {
			return nil, fmt.Errorf("go list for %s: %w", t, err)
		}
		for _, path := range strings.Fields(string(out)) {
			by[path] = module{}
		}
	}
	c := exec.Command("go", "list", "-m", "-json", "all")
	c.Dir = root
	out, err := c.Output()
	if err != nil {
		return nil, fmt.Errorf("go list -m: %w", err)
	}
	var list []module
	dec := json.NewDecoder(bytes.NewReader(out))
	for {
		var m module
		if err := dec.Decode(&m); errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			return nil, err
		}
		if _, used := by[m.Path]; used && !m.Main {
			if m.Replace != nil {
				m.Dir = m.Replace.Dir
			}
			list = append(list, m)
		}
	}
	sort.Slice(list, func(a, b int) bool { return list[a].Path < list[b].Path })
	return list, nil
}

var licenceFile = regexp.MustCompile(`(?i)^(un)?(licen[cs]e|copying|notice|copyright|patents)([-._].*)?$`)

// licences gives the licences of all that is inside, each in full. A part without one is an error.
func licences(root string) ([]byte, error) {
	var b strings.Builder
	list, err := modules(root)
	if err != nil {
		return nil, err
	}
	page, err := ofPage()
	if err != nil {
		return nil, err
	}
	fmt.Fprintf(&b, "Glossator is made with what follows: the Go language with its library, %d Go modules, and %d packages in the page. The licence of each stands below its name.\n", len(list), len(page))
	goroot, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		return nil, err
	}
	version, err := exec.Command("go", "env", "GOVERSION").Output()
	if err != nil {
		return nil, err
	}
	parts := append([]module{{Path: "the Go language and its library", Version: strings.TrimSpace(string(version)), Dir: strings.TrimSpace(string(goroot))}}, list...)
	for _, m := range parts {
		entries, err := os.ReadDir(m.Dir)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", m.Path, err)
		}
		found := false
		for _, e := range entries {
			if e.IsDir() || !licenceFile.MatchString(e.Name()) {
				continue
			}
			text, err := os.ReadFile(filepath.Join(m.Dir, e.Name()))
			if err != nil {
				return nil, err
			}
			if !found {
				title(&b, m.Path, m.Version)
			}
			found = true
			fmt.Fprintf(&b, "%s\n", strings.TrimSpace(strings.ReplaceAll(string(text), "\r\n", "\n")))
		}
		if !found {
			return nil, fmt.Errorf("%s %s has no licence at its root: it cannot be handed on", m.Path, m.Version)
		}
	}
	for _, x := range page {
		if strings.TrimSpace(x.Text) == "" {
			return nil, fmt.Errorf("%s %s comes without its licence: it cannot be handed on", x.Name, x.Version)
		}
		title(&b, x.Name, x.Version+", "+x.Identifier)
		fmt.Fprintf(&b, "%s\n", strings.TrimSpace(strings.ReplaceAll(x.Text, "\r\n", "\n")))
	}
	return []byte(b.String()), nil
}

func title(b *strings.Builder, name, version string) {
	fmt.Fprintf(b, "\n%s\n%s %s\n\n", strings.Repeat("-", 72), name, version)
}
