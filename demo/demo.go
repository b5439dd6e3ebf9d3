// Package demo holds the invented demo data: the panels that ship with the program, and the
// patches and the show of a stage piece that does not exist, The Lamp at Skerry Point.
package demo

import (
	"embed"
	"io/fs"
	"path"
	"sort"
)

//go:embed panels/*.json patches/*.json shows/*.json
var files embed.FS

// File is one document of the demo.
type File struct {
	Name string
	Data []byte
}

// Panels gives the panel files in the order of their names.
func Panels() []File { return read("panels") }

// Patches gives the patch files in the order of their names.
func Patches() []File { return read("patches") }

// Shows gives the show files in the order of their names.
func Shows() []File { return read("shows") }

func read(dir string) []File {
	entries, err := fs.ReadDir(files, dir)
	if err != nil {
		panic(err) // embedded: cannot be missing
	}
	out := make([]File, 0, len(entries))
	for _, e := range entries {
		data, err := files.ReadFile(path.Join(dir, e.Name()))
		if err != nil {
			panic(err)
		}
		out = append(out, File{Name: e.Name(), Data: data})
	}
	sort.Slice(out, func(a, b int) bool { return out[a].Name < out[b].Name })
	return out
}
