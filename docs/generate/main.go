// Command generate makes the documents that follow from the code: the JSON Schemas of the
// file formats, the catalogue of rules, and the OpenAPI description, from which the front end's types are made, and the words that it is built with. Run it by `make generate`; `make check`
// fails where its output is not what is committed.
package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"reflect"
	"strings"

	"github.com/invopop/jsonschema"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/rules"
	"glossator/core/scale"
	"glossator/core/show"
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
	schema(root, "show", &show.Doc{}, "Glossator show, version 1")
	write(filepath.Join(root, "docs", "openapi.json"), server.OpenAPI())
	write(filepath.Join(root, "web", "src", "lib", "vocabulary.json"), server.Words())
	catalogue(filepath.Join(root, "docs", "rules.md"))
	laws(filepath.Join(root, "docs", "formats", "laws.md"))
}

// catalogue writes the table of rules as a document.
func catalogue(path string) {
	var b bytes.Buffer
	b.WriteString("# Rules\n\nGenerated from core/rules by `make generate`.\n\n## Parts made by other means\n\n" +
		"Which of them are used is decided by a search over their sets (docs/decisions.md, 65).\n" +
		"The penalty is what a rule costs even where it fits exactly, as a share of losing the part.\n\n")
	table(&b, rules.Table)
	b.WriteString("\n## Single settings that go over otherwise\n\n" +
		"They rewrite nothing: the allocation sets a control so, and the line says why. The penalty is what is usually lost by it;\n" +
		"what it costs in a plan is worked out from the difference itself.\n\n")
	table(&b, rules.InPlace)
	if err := os.WriteFile(path, b.Bytes(), 0o644); err != nil {
		log.Fatal(err)
	}
}

func table(b *bytes.Buffer, list []*rules.Rule) {
	b.WriteString("| rule | needs | uses | penalty, for what | source |\n|---|---|---|---|---|\n")
	for _, r := range list {
		fmt.Fprintf(b, "| **%s** (`%s`) | %s | %s | %.2g: %s | %s |\n", r.Name, r.ID, r.Needs, r.Uses, r.Penalty, r.Why, r.Source)
	}
}

// schema writes docs/formats/NAME.schema.json, with the doc comments of the types as
// descriptions.
func schema(root, name string, v any, title string) {
	r := &jsonschema.Reflector{DoNotReference: false, ExpandedStruct: true, Anonymous: true, Mapper: words}
	for _, dir := range []string{"core/panel", "core/patch", "core/scale", "core/show"} {
		if err := r.AddGoComments("glossator", dir); err != nil {
			log.Fatal(err)
		}
	}
	s := r.Reflect(v)
	s.Title = title
	for def, property := range map[string]string{"Module": "fixed", "Law": "values"} { // where a panel has words
		if d := s.Definitions[def]; d != nil {
			if x, ok := d.Properties.Get(property); ok {
				x.Description += "\n" + known()
			}
		}
	}
	write(filepath.Join(root, "docs", "formats", name+".schema.json"), s)
}

// known says which words are played as what they say.
func known() string {
	var list []string
	for _, w := range meaning.KnownWords {
		k := meaning.SpecOf(w.Kind)
		p, _ := k.Param(w.Param)
		list = append(list, fmt.Sprintf("%s of a module of kind %s: %s", p.Label, w.Kind, strings.Join(w.Words, ", ")))
	}
	return "Words that are played as what they say. " + strings.Join(list, "; ") + ". Another word is kept, the first is played in its place, and what plays it says so."
}

// words gives the schema of types whose values are a table's.
func words(t reflect.Type) *jsonschema.Schema {
	if t != reflect.TypeFor[scale.LawKind]() {
		return nil
	}
	out := &jsonschema.Schema{Type: "string"}
	for _, k := range scale.LawKinds {
		out.Enum = append(out.Enum, k.Kind)
	}
	return out
}

// laws writes the table of kinds of law as a document.
func laws(path string) {
	var b bytes.Buffer
	b.WriteString("# Laws\n\nGenerated from core/scale by `make generate`. p is the travel, 0 to 1; columns are those of a controls table.\n\n| kind | what it is | numbers | a value at p |\n|---|---|---|---|\n")
	for _, k := range scale.LawKinds {
		var fields []string
		for _, f := range k.Fields {
			fields = append(fields, fmt.Sprintf("`%s` %s", f.Name, strings.ToLower(f.Label)))
		}
		if k.Points {
			fields = append(fields, "`points`")
		}
		if k.Values {
			fields = append(fields, "`values`")
		}
		fmt.Fprintf(&b, "| `%s` | %s | %s | %s |\n", k.Kind, k.Label, strings.Join(fields, ", "), strings.ReplaceAll(k.Formula, "|", "\\|"))
	}
	if err := os.WriteFile(path, b.Bytes(), 0o644); err != nil {
		log.Fatal(err)
	}
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
