package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"reflect"
	"regexp"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"glossator/formats"
	"glossator/store"
)

// Route is one entry of the API. It is made by route from a function, whose request and answer types say all that is decoded, encoded and described.
type Route struct {
	Method, Path, Summary string
	// Status of an answer.
	Status int
	// Media of an answer that is a file; empty for JSON.
	Media string
	// Limit is the largest body in bytes.
	Limit int64

	request, answer reflect.Type
	serve           func(s *Server, c *echo.Context) error
}

// None is the answer of a request that has none, and the body of one without.
type None struct{}

// Upload is a request body that is taken as it comes: a file of the form T, or any bytes where T is None.
type Upload[T any] struct{ Data []byte }

func (Upload[T]) form() any { var v T; return v }

type upload interface{ form() any }

// Inflow is a request body that is read while it comes, for what is too large to be held.
type Inflow struct{ Reader io.Reader }

func (Inflow) form() any { return None{} }

// Stream is an answer that is a file, written while it is made. An error after its first byte breaks the connection off, so that nobody takes a part for the whole.
type Stream struct {
	Name, Media string
	Write       func(w io.Writer) error
}

func (Stream) form() any { return None{} }

func (f Stream) send(c *echo.Context) error {
	h := c.Response().Header()
	h.Set("Content-Type", f.Media)
	h.Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", f.Name))
	w := &begun{Writer: c.Response()}
	err := f.Write(w)
	if err != nil && w.begun {
		panic(http.ErrAbortHandler)
	}
	return err
}

// begun is a writer that knows whether anything has been written.
type begun struct {
	io.Writer
	begun bool
}

func (w *begun) Write(b []byte) (int, error) {
	w.begun = true
	return w.Writer.Write(b)
}

// File is an answer that is a file of the form T, to be kept under a name; of any bytes where T is None.
type File[T any] struct {
	Name, Media string
	Data        []byte
	// Forever is set where the address is of this content alone.
	Forever bool
}

func (File[T]) form() any { var v T; return v }

func (f File[T]) send(c *echo.Context) error {
	h := c.Response().Header()
	if f.Name != "" {
		h.Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", f.Name))
	}
	if f.Forever {
		h.Set("Cache-Control", "private, max-age=31536000, immutable")
	}
	return c.Blob(http.StatusOK, f.Media, f.Data)
}

type sender interface {
	form() any
	send(c *echo.Context) error
}

// versioned is an answer that shows a version of what can be changed.
type versioned interface{ version() string }

// named, ofSheet, ofLayer and ofReading are requests that only name what they are of.
type (
	named struct {
		ID string `path:"id"`
	}
	ofSheet struct {
		ID uint `path:"id"`
	}
	ofLayer struct {
		ID    string `path:"id"`
		Layer string `path:"layer"`
	}
	ofReading struct {
		ID      string `path:"id"`
		Layer   string `path:"layer"`
		Control string `path:"control"`
	}
)

// option changes a route from what is usual.
type option func(r *Route)

func created(r *Route) { r.Status = http.StatusCreated }

func media(m string) option { return func(r *Route) { r.Media = m } }

func limit(bytes int64) option { return func(r *Route) { r.Limit = bytes } }

// route makes an entry of the API from a function. A field of the request is filled from the path where it is tagged `path:"name"`, from the query where it
// is tagged `query:"name"`, and from the body where it is called Body: strict JSON, or the bytes as they are for an Upload.
func route[In, Out any](method, path, summary string, f func(s *Server, ctx context.Context, in In) (Out, error), options ...option) Route {
	r := Route{Method: method, Path: path, Summary: summary, Status: http.StatusOK, Limit: BodyLimit, request: reflect.TypeFor[In](), answer: reflect.TypeFor[Out]()}
	if r.answer == reflect.TypeFor[None]() {
		r.Status = http.StatusNoContent
	}
	for _, o := range options {
		o(&r)
	}
	if err := r.check(); err != nil {
		panic(err) // a fault of the program's own table
	}
	r.serve = func(s *Server, c *echo.Context) error {
		if r.Limit > BodyLimit {
			if err := s.large.Acquire(c.Request().Context(), 1); err != nil {
				return err // nobody waits for it any more
			}
			defer s.large.Release(1)
		}
		var in In
		if err := decode(c, &r, reflect.ValueOf(&in).Elem()); err != nil {
			return err
		}
		// what is changed is changed for the version that was shown (If-Match: RFC 9110)
		ctx := store.Based(c.Request().Context(), strings.Trim(c.Request().Header.Get("If-Match"), `"* `))
		out, err := f(s, ctx, in)
		if err != nil {
			return err
		}
		if v, ok := any(out).(versioned); ok && v.version() != "" {
			c.Response().Header().Set("ETag", strconv.Quote(v.version()))
		}
		switch x := any(out).(type) {
		case None:
			return c.NoContent(r.Status)
		case sender:
			return x.send(c)
		}
		return c.JSON(r.Status, out)
	}
	return r
}

var pathParam = regexp.MustCompile(`\{(\w+)\}`)

// check holds the names in the path against those that the request takes.
func (r *Route) check() error {
	taken := map[string]bool{}
	for _, f := range reflect.VisibleFields(r.request) {
		if name, ok := f.Tag.Lookup("path"); ok {
			taken[name] = true
		}
	}
	for _, m := range pathParam.FindAllStringSubmatch(r.Path, -1) {
		if !taken[m[1]] {
			return fmt.Errorf("%s %s: %s is not taken by %s", r.Method, r.Path, m[1], r.request)
		}
		delete(taken, m[1])
	}
	for name := range taken {
		return fmt.Errorf("%s %s: %s is not in the path", r.Method, r.Path, name)
	}
	return nil
}

// decode fills a request. What does not fit a path is not here; what does not fit a query or a body is the request's fault.
func decode(c *echo.Context, r *Route, in reflect.Value) error {
	for _, tag := range reflect.VisibleFields(in.Type()) {
		field := in.FieldByIndex(tag.Index)
		if name, ok := tag.Tag.Lookup("path"); ok {
			if err := fill(field, c.Param(name)); err != nil {
				return store.ErrNotFound
			}
		} else if name, ok := tag.Tag.Lookup("query"); ok {
			if text := c.QueryParam(name); text != "" {
				if err := fill(field, text); err != nil {
					return badRequest{fmt.Errorf("%s: %w", name, err)}
				}
			}
		} else if tag.Name == "Body" {
			if err := decodeBody(c, field); err != nil {
				return err
			}
		}
	}
	return nil
}

func fill(field reflect.Value, text string) error {
	switch field.Kind() {
	case reflect.Pointer: // one that may be left out
		field.Set(reflect.New(field.Type().Elem()))
		return fill(field.Elem(), text)
	case reflect.String:
		field.SetString(text)
	case reflect.Bool:
		field.SetBool(text == "true")
	case reflect.Uint:
		n, err := strconv.ParseUint(text, 10, 32)
		if err != nil {
			return fmt.Errorf("expected a whole number, got %q", text)
		}
		field.SetUint(n)
	case reflect.Int:
		n, err := strconv.ParseInt(text, 10, 32)
		if err != nil {
			return fmt.Errorf("expected a whole number, got %q", text)
		}
		field.SetInt(n)
	default:
		return fmt.Errorf("no way to read a %s", field.Kind())
	}
	return nil
}

func decodeBody(c *echo.Context, field reflect.Value) error {
	if _, streamed := field.Interface().(Inflow); streamed {
		field.Set(reflect.ValueOf(Inflow{c.Request().Body}))
		return nil
	}
	if _, raw := field.Interface().(upload); raw {
		data, err := io.ReadAll(c.Request().Body)
		if err != nil {
			return err
		}
		field.FieldByName("Data").SetBytes(data)
		return nil
	}
	dec := json.NewDecoder(c.Request().Body)
	dec.DisallowUnknownFields()
	if err := dec.Decode(field.Addr().Interface()); err != nil {
		var tooBig *http.MaxBytesError
		if errors.As(err, &tooBig) {
			return err
		}
		return badRequest{fmt.Errorf("expected a JSON object of the documented form: %v", err)}
	}
	return nil
}

// fileName is the name the user knows an upload by.
func fileName(name, fallback string) string {
	if name == "" || len(name) > 200 {
		return fallback
	}
	return name
}

// echoPath writes a path as the router has it.
func (r *Route) echoPath() string {
	return Base + strings.NewReplacer("{", ":", "}", "").Replace(r.Path)
}

// downloadJSON gives a value as the file that it is kept in.
func downloadJSON[T any](name string, v T) (File[T], error) {
	body, err := formats.Write(v)
	return File[T]{Name: name, Media: "application/json", Data: body}, err
}

func download(name, media string, body []byte) (File[None], error) {
	return File[None]{Name: name, Media: media, Data: body}, nil
}

func (v PatchView) version() string { return v.tag }
func (v SheetView) version() string { return v.tag }
func (v Workshop) version() string  { return v.tag }
