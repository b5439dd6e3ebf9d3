// Package web is the browser's side of the program: the Svelte app and the embedding of its
// build.
package web

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// App gives the built app; ok is false where the program was compiled before it was built.
func App() (app fs.FS, ok bool) {
	sub, err := fs.Sub(dist, "dist/app")
	if err != nil {
		return nil, false
	}
	_, err = fs.Stat(sub, "index.html")
	return sub, err == nil
}
