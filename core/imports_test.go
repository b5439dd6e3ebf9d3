package core_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
)

// The core imports the standard library (without I/O, clock and network), gonum and itself.
func TestCoreImports(t *testing.T) {
	banned := []string{"os", "net", "net/http", "time", "log", "log/slog", "io/fs", "os/exec", "math/rand", "syscall"}
	files := 0
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		files++
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, i := range f.Imports {
			name, err := strconv.Unquote(i.Path.Value)
			if err != nil {
				return err
			}
			own := strings.HasPrefix(name, "glossator/core/") || strings.HasPrefix(name, "gonum.org/v1/gonum/") || strings.HasPrefix(name, "golang.org/x/sync/") // goroutines that end with what began them
			standard := !strings.Contains(strings.Split(name, "/")[0], ".") && !strings.HasPrefix(name, "glossator/")
			if !own && !standard {
				t.Errorf("%s imports %s", path, name)
			}
			for _, b := range banned {
				if name == b {
					t.Errorf("%s imports %s: the core does no I/O and knows no clock", path, name)
				}
			}
		}
		return nil
	})
	if err != nil || files < 20 {
		t.Fatalf("%d files read (%v)", files, err)
	}
}
