package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"reflect"
	"regexp"
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
	param := regexp.MustCompile(`\{(\w+)\}`)
	for _, r := range Routes {
		op := map[string]any{"summary": r.Summary, "operationId": operationID(r)}
		params := []any{}
		for _, m := range param.FindAllStringSubmatch(r.Path, -1) {
			params = append(params, map[string]any{"name": m[1], "in": "path", "required": true, "schema": map[string]any{"type": "string"}})
		}
		for _, q := range r.Query {
			params = append(params, map[string]any{"name": q, "in": "query", "schema": map[string]any{"type": "string"}})
		}
		if len(params) > 0 {
			op["parameters"] = params
		}
		if r.Body != nil {
			op["requestBody"] = map[string]any{"required": true, "content": map[string]any{"application/json": map[string]any{"schema": ref(r.Body)}}}
		}
		status := r.Status
		if status == 0 {
			status = http.StatusOK
		}
		answer := map[string]any{"description": http.StatusText(status)}
		switch {
		case r.Media != "":
			answer["content"] = map[string]any{r.Media: map[string]any{"schema": map[string]any{"type": "string"}}}
		case r.Answer != nil:
			answer["content"] = map[string]any{"application/json": map[string]any{"schema": ref(r.Answer)}}
		}
		op["responses"] = map[string]any{fmt.Sprint(status): answer, "default": problem}
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
