// Package schemas holds the JSON Schemas of the program's file formats. They are made from
// the Go types by `make generate`.
package schemas

import _ "embed"

// Panel is the JSON Schema of a panel file.
//
//go:embed panel.schema.json
var Panel []byte

// Patch is the JSON Schema of a patch file.
//
//go:embed patch.schema.json
var Patch []byte

// Show is the JSON Schema of a show file.
//
//go:embed show.schema.json
var Show []byte
