// Command generate makes the documents that follow from the code: the JSON Schemas of the
// file formats, the catalogue of rules, and the OpenAPI description, from which the front end's types are made. Run it by `make generate`; `make check`
// fails where its output is not what is committed.
package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"log"
	"os"
	"path/filepath"

	"github.com/invopop/jsonschema"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/translate/rules"
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
	catalogue(filepath.Join(root, "docs", "rules.md"))
}

// catalogue writes the table of rules as a document.
func catalogue(path string) {
	var b bytes.Buffer
	b.WriteString("# Rules\n\nWays to make a part by other means, in the order in which they are tried. Generated from core/translate/rules by `make generate`.\n" +
		"The penalty is what a rule costs even where it fits exactly, as a share of losing the part.\n\n" +
		"| rule | needs | uses | penalty, for what | source |\n|---|---|---|---|---|\n")
	for _, r := range rules.Table {
		fmt.Fprintf(&b, "| **%s** (`%s`) | %s | %s | %.2g: %s | %s |\n", r.Name, r.ID, r.Needs, r.Uses, r.Penalty, r.Why, r.Source)
	}
	if err := os.WriteFile(path, b.Bytes(), 0o644); err != nil {
		log.Fatal(err)
	}
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
