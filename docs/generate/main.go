// Command generate makes the documents that follow from the code: the JSON Schemas of the
// file formats and the OpenAPI description, from which the front end's types are made. Run it by `make generate`; `make check`
// fails where its output is not what is committed.
package main

import (
	"bytes"
	"encoding/json"
	"log"
	"os"
	"path/filepath"

	"github.com/invopop/jsonschema"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/server"
)

func main() {
	log.SetFlags(0)
	root := "."
	if len(os.Args) > 1 {
		root = os.Args[1]
	}
	schema(root, "panel", &panel.Panel{}, "Glossator panel, version 1")
	schema(root, "patch", &patch.Patch{}, "Glossator patch, version 1")
	write(filepath.Join(root, "docs", "openapi.json"), server.OpenAPI())
}

// schema writes docs/formats/NAME.schema.json, with the doc comments of the types as
// descriptions.
func schema(root, name string, v any, title string) {
	r := &jsonschema.Reflector{DoNotReference: false, ExpandedStruct: true, Anonymous: true}
	for _, dir := range []string{"core/panel", "core/patch", "core/scale"} {
		if err := r.AddGoComments("glossator", dir); err != nil {
			log.Fatal(err)
		}
	}
	s := r.Reflect(v)
	s.Title = title
	write(filepath.Join(root, "docs", "formats", name+".schema.json"), s)
}

func write(path string, v any) {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	if err := enc.Encode(v); err != nil {
		log.Fatal(err)
	}
	if err := os.WriteFile(path, b.Bytes(), 0o644); err != nil {
		log.Fatal(err)
	}
}
