package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"reflect"
	"strings"
	"sync"

	"github.com/invopop/jsonschema"
)

// OpenAPI gives the description of the API (OpenAPI 3.1), made from Routes and the Go types.
var OpenAPI = sync.OnceValue(func() map[string]any {
	schemas := map[string]any{}
	ref := func(v any) map[string]any {
		return map[string]any{"$ref": "#/components/schemas/" + schemaOf(v, schemas)}
	}
	problem := map[string]any{"description": "What is wrong, as a problem (RFC 9457)",
		"content": map[string]any{"application/problem+json": map[string]any{"schema": ref(Problem{})}}}
	paths := map[string]any{}
	for _, r := range Routes {
		op := map[string]any{"summary": r.Summary, "operationId": operationID(r)}
		params := []any{}
		for _, f := range reflect.VisibleFields(r.request) {
			if name, ok := f.Tag.Lookup("path"); ok {
				params = append(params, map[string]any{"name": name, "in": "path", "required": true, "schema": simple(f.Type)})
			} else if name, ok := f.Tag.Lookup("query"); ok {
				params = append(params, map[string]any{"name": name, "in": "query", "schema": simple(f.Type)})
			} else if f.Name == "Body" {
				op["requestBody"] = map[string]any{"required": true, "content": content(reflect.Zero(f.Type).Interface(), "application/octet-stream", ref)}
			}
		}
		if r.Method != http.MethodGet && r.answer.Implements(reflect.TypeFor[versioned]()) {
			params = append(params, map[string]any{"name": "If-Match", "in": "header", "schema": map[string]any{"type": "string"},
				"description": "The ETag of the version that the change is made for (RFC 9110). What others have changed since is kept; what cannot be put together is refused with 412 and what clashes. Left out, the change has the last word."})
		}
		if len(params) > 0 {
			op["parameters"] = params
		}
		answer := map[string]any{"description": http.StatusText(r.Status)}
		if r.answer != reflect.TypeFor[None]() {
			answer["content"] = content(reflect.Zero(r.answer).Interface(), r.Media, ref)
		}
		op["responses"] = map[string]any{fmt.Sprint(r.Status): answer, "default": problem}
		item, _ := paths[Base+r.Path].(map[string]any)
		if item == nil {
			item = map[string]any{}
			paths[Base+r.Path] = item
		}
		item[strings.ToLower(r.Method)] = op
	}
	return map[string]any{
		"openapi":    "3.1.0",
		"info":       map[string]any{"title": "Glossator", "version": "1", "description": "The API of the program that this page is served by. Loopback only by default."},
		"paths":      paths,
		"components": map[string]any{"schemas": schemas},
	}
})

// simple gives the schema of a value in a path or query.
func simple(t reflect.Type) map[string]any {
	switch t.Kind() {
	case reflect.Pointer:
		return simple(t.Elem())
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	case reflect.Int, reflect.Uint:
		return map[string]any{"type": "integer"}
	}
	return map[string]any{"type": "string"}
}

// content gives what a body has: JSON of a type's schema, a file of a known form, or bytes.
func content(v any, media string, ref func(any) map[string]any) map[string]any {
	if f, ok := v.(upload); ok { // an upload or a file
		if v = f.form(); v == (None{}) {
			return map[string]any{media: map[string]any{"schema": map[string]any{"type": "string", "format": "binary"}}}
		}
	}
	return map[string]any{"application/json": map[string]any{"schema": ref(v)}}
}

func operationID(r Route) string {
	words := strings.FieldsFunc(r.Path, func(c rune) bool { return c == '/' || c == '{' || c == '}' || c == '.' })
	return strings.ToLower(r.Method) + "-" + strings.Join(words, "-")
}

// schemaOf adds the schemas of a type and of those it uses, and gives its name.
func schemaOf(v any, into map[string]any) string {
	r := &jsonschema.Reflector{Anonymous: true}
	for name, def := range r.Reflect(v).Definitions {
		text, err := json.Marshal(def)
		if err != nil {
			panic(err) // the types are the program's own
		}
		var tree any
		if err := json.Unmarshal(bytes.ReplaceAll(text, []byte("#/$defs/"), []byte("#/components/schemas/")), &tree); err != nil {
			panic(err)
		}
		if old, ok := into[name]; ok && !reflect.DeepEqual(old, tree) {
			panic("two types of the API are called " + name)
		}
		into[name] = tree
	}
	return reflect.TypeOf(v).Name()
}
