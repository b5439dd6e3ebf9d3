package formats

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"sort"
	"strconv"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/santhosh-tekuri/jsonschema/v6/kind"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"glossator/core/fault"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/show"
	schemas "glossator/docs/formats"
)

// Bounds of what is read: MaxSize in bytes, MaxDepth of nesting, MaxValues names and values in a
// file, MaxItems in one list or object. No more than MaxFaults are told at once.
const (
	MaxSize   = 5 << 20
	MaxDepth  = 32
	MaxValues = 400000
	MaxItems  = 20000
	MaxFaults = 200
)

// ReadPatch reads and checks a patch file, apart from what only its panel can tell. The error
// is a fault.List.
func ReadPatch(file string, data []byte) (*patch.Patch, error) {
	var p patch.Patch
	if err := read(file, data, patch.Format, patch.Version, patch.Version, patchSchema, &p); err != nil {
		return nil, err
	}
	if l := p.Check(); len(l) > 0 {
		return nil, l.In(file)
	}
	return &p, nil
}

// ReadShow reads and checks a show file, apart from its patches and instruments. The error is a fault.List.
func ReadShow(file string, data []byte) (*show.Doc, error) {
	var d show.Doc
	if err := read(file, data, show.Format, show.Version, show.Version, showSchema, &d); err != nil {
		return nil, err
	}
	if err := CheckShow(&d); err != nil {
		var l fault.List
		if errors.As(err, &l) {
			return nil, l.In(file)
		}
		return nil, err
	}
	return &d, nil
}

// CheckShow gives what of a show cannot be at all, as a fault.List: also texts that are not fit to be shown.
func CheckShow(d *show.Doc) error {
	var l fault.List
	if err := d.Valid(); err != nil && !errors.As(err, &l) {
		return err
	}
	for _, x := range d.Texts() {
		if why := Unfit(x[1]); why != "" {
			l.Add(x[0], "%s", why)
		}
	}
	return l.Err()
}

// ReadPanel reads and checks a panel file. The error is a fault.List.
func ReadPanel(file string, data []byte) (*panel.Compiled, error) {
	var p panel.Panel
	if err := read(file, data, panel.Format, panel.Oldest, panel.Version, panelSchema, &p); err != nil {
		var l fault.List
		var own panel.Panel
		if errors.As(err, &l) && len(data) < MaxSize/4 && json.Unmarshal(data, &own) == nil && own.Format == panel.Format {
			return nil, own.Told(l)
		}
		return nil, err
	}
	c, err := panel.Compile(&p)
	if err != nil {
		var l fault.List
		if errors.As(err, &l) {
			return nil, p.Told(l).In(file)
		}
		return nil, err
	}
	return c, nil
}

// CheckPanel gives the faults that a panel would have as a file; the panel is left as it is.
func CheckPanel(p *panel.Panel) fault.List {
	var own panel.Panel
	data, err := json.Marshal(p)
	if err == nil {
		err = decode("", data, panel.Format, panel.Oldest, panel.Version, panelSchema, &own)
	}
	if err == nil {
		_, err = panel.Compile(&own)
	}
	var l fault.List
	if err != nil && !errors.As(err, &l) {
		l.Add("", "%v", err)
	}
	return l
}

// CheckPatch gives the faults that a patch would have as a file: what can be stored can be exported, and read again.
func CheckPatch(p *patch.Patch) fault.List {
	if l := p.Check(); len(l) > 0 {
		return l
	}
	var own patch.Patch
	data, err := json.Marshal(p)
	if err == nil {
		err = decode("", data, patch.Format, patch.Version, patch.Version, patchSchema, &own)
	}
	var l fault.List
	if err != nil && !errors.As(err, &l) {
		l.Add("", "%v", err)
	}
	if len(data) > MaxSize {
		l.Add("", "expected at most %d MB, got %.1f MB", MaxSize>>20, float64(len(data))/(1<<20))
	}
	return l
}

// ReadPatchOn reads a patch file and checks its readings against its panel.
func ReadPatchOn(file string, data []byte, panelByID func(id string) *panel.Compiled) (*patch.Patch, *panel.Compiled, error) {
	p, err := ReadPatch(file, data)
	if err != nil {
		return nil, nil, err
	}
	c := panelByID(p.Panel)
	if c == nil {
		return nil, nil, fault.List{{File: file, Path: "/panel", Message: fmt.Sprintf("expected a panel that is here, got %q: import the panel first", p.Panel)}}
	}
	var l fault.List
	for i := range p.Layers {
		if _, err := c.Read(&p.Layers[i], fmt.Sprintf("/layers/%d", i)); err != nil {
			var part fault.List
			errors.As(err, &part)
			sort.SliceStable(part, func(a, b int) bool { return part[a].Path < part[b].Path })
			l = append(l, part...)
		}
	}
	var moved fault.List
	if errors.As(c.CheckPlayed(p), &moved) {
		l = append(l, moved...)
	}
	if len(l) > 0 {
		return nil, nil, l.In(file)
	}
	return p, c, nil
}

// Write gives a value as indented JSON with a newline at its end.
func Write(v any) ([]byte, error) {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	if err := enc.Encode(v); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

func read(file string, data []byte, format string, oldest, version int, schema func() *jsonschema.Schema, into any) error {
	fail := func(path, msg string, args ...any) error {
		return fault.List{{File: file, Path: path, Message: fmt.Sprintf(msg, args...)}}
	}
	if len(data) > MaxSize {
		return fail("", "expected at most %d MB, got %.1f MB", MaxSize>>20, float64(len(data))/(1<<20))
	}
	if !utf8.Valid(data) {
		return fail("", "expected UTF-8 text")
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if l := walk(data); len(l) > 0 {
		return l.In(file)
	}
	return decode(file, data, format, oldest, version, schema, into)
}

// decode checks JSON by its schema, then reads it.
func decode(file string, data []byte, format string, oldest, version int, schema func() *jsonschema.Schema, into any) error {
	fail := func(path, msg string, args ...any) error {
		return fault.List{{File: file, Path: path, Message: fmt.Sprintf(msg, args...)}}
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
	if err != nil {
		return fail("", "expected JSON: %v", err)
	}
	top, ok := doc.(map[string]any)
	if !ok {
		return fail("", "expected a JSON object at the top")
	}
	if got, _ := top["format"].(string); got != format {
		return fail("/format", "expected %q, got %s", format, shown(top["format"]))
	}
	if got, err := strconv.Atoi(fmt.Sprint(top["version"])); err != nil || got < oldest || got > version {
		return fail("/version", "expected version %d, got %s: this program reads no other", version, shown(top["version"]))
	}
	if err := schema().Validate(doc); err != nil {
		var v *jsonschema.ValidationError
		if errors.As(err, &v) {
			var l fault.List
			leaves(v, &l)
			return l.In(file)
		}
		return fail("", "%v", err)
	}
	var l fault.List
	if texts("", doc, &l); len(l) > 0 {
		return l.In(file)
	}
	if err := json.Unmarshal(data, into); err != nil {
		return fail("", "%v", err)
	}
	return nil
}

func shown(v any) string {
	if v == nil {
		return "nothing"
	}
	b, _ := json.Marshal(v)
	if len(b) > 60 {
		b = append(b[:57], "..."...)
	}
	return string(b)
}

// walk checks what a decoder forgives: syntax with its place, names given twice, and depth.
func walk(data []byte) fault.List {
	var l fault.List
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.UseNumber()
	type level struct {
		object bool
		keys   map[string]bool
		key    string
		index  int
		wait   bool // an object that waits for a key
	}
	var stack []level
	path := func() string {
		var b strings.Builder
		for _, s := range stack {
			if s.object {
				b.WriteString("/" + strings.ReplaceAll(strings.ReplaceAll(s.key, "~", "~0"), "/", "~1"))
			} else {
				fmt.Fprintf(&b, "/%d", s.index)
			}
		}
		return b.String()
	}
	done := func() {
		if n := len(stack); n > 0 {
			if stack[n-1].object {
				stack[n-1].wait = true
			} else {
				stack[n-1].index++
			}
		}
	}
	for seen := 0; ; seen++ {
		tok, err := dec.Token()
		if err == io.EOF && len(stack) == 0 && seen > 0 {
			return l
		}
		if err != nil {
			at := dec.InputOffset()
			var s *json.SyntaxError
			if errors.As(err, &s) {
				at = s.Offset
			}
			line, col := place(data, at)
			msg := err.Error()
			if err == io.EOF || err == io.ErrUnexpectedEOF {
				msg = "the text ends too early"
			}
			l.Add(path(), "expected JSON; line %d, column %d: %s", line, col, msg)
			return l
		}
		if seen > MaxValues {
			l.Add("", "expected at most %d names and values in a file", MaxValues)
			return l
		}
		if n := len(stack); n > 0 && (stack[n-1].index >= MaxItems || len(stack[n-1].keys) >= MaxItems) {
			l.Add(path(), "expected at most %d entries in a list", MaxItems)
			return l
		}
		if n := len(stack); n > 0 && stack[n-1].object && stack[n-1].wait {
			if key, ok := tok.(string); ok {
				s := &stack[n-1]
				s.key, s.wait = key, false
				if s.keys[key] {
					line, col := place(data, dec.InputOffset())
					l.Add(path(), "expected each name once: %q is here again at line %d, column %d", key, line, col)
					if len(l) >= MaxFaults {
						return l
					}
				}
				s.keys[key] = true
				continue
			}
		}
		switch d := tok.(type) {
		case json.Delim:
			switch d {
			case '{', '[':
				if len(stack) >= MaxDepth {
					l.Add(path(), "expected at most %d levels of nesting", MaxDepth)
					return l
				}
				next := level{object: d == '{', wait: d == '{'}
				if next.object {
					next.keys = map[string]bool{}
				}
				stack = append(stack, next)
			default:
				stack = stack[:len(stack)-1]
				done()
			}
		default:
			done()
		}
	}
}

func place(data []byte, offset int64) (line, col int) {
	before := data[:min(max(int(offset)-1, 0), len(data))]
	line = bytes.Count(before, []byte("\n")) + 1
	col = len(before) - bytes.LastIndexByte(before, '\n')
	return line, col
}

// leaves gives the innermost causes of a schema's complaint in words.
func leaves(v *jsonschema.ValidationError, l *fault.List) {
	if len(*l) >= MaxFaults {
		return
	}
	if len(v.Causes) > 0 {
		for _, c := range v.Causes {
			leaves(c, l)
		}
		return
	}
	var b strings.Builder
	for _, s := range v.InstanceLocation {
		b.WriteString("/" + strings.ReplaceAll(strings.ReplaceAll(s, "~", "~0"), "/", "~1"))
	}
	switch k := v.ErrorKind.(type) {
	case *kind.AdditionalProperties:
		for _, p := range k.Properties[:min(len(k.Properties), MaxFaults)] {
			l.Add(b.String()+"/"+p, "expected no such name here")
		}
	case *kind.Required:
		l.Add(b.String(), "expected %s", strings.Join(k.Missing, ", "))
	case *kind.Enum:
		want := make([]string, len(k.Want))
		for i, w := range k.Want {
			want[i] = fmt.Sprint(w)
		}
		l.Add(b.String(), "expected one of %s, got %s", strings.Join(want, ", "), shown(k.Got))
	case *kind.Type:
		l.Add(b.String(), "expected %s, got %s", strings.Join(k.Want, " or "), k.Got)
	case *kind.MinLength:
		l.Add(b.String(), "expected a text of at least %d characters, got %d", k.Want, k.Got)
	case *kind.MaxLength:
		l.Add(b.String(), "expected a text of at most %d characters, got %d", k.Want, k.Got)
	case *kind.Pattern:
		l.Add(b.String(), "expected lower-case letters, figures and hyphens, got %q", k.Got)
	default:
		l.Add(b.String(), "%s", v.ErrorKind.LocalizedString(message.NewPrinter(language.English)))
	}
}

var (
	panelSchema = sync.OnceValue(func() *jsonschema.Schema { return compile("panel.schema.json", schemas.Panel) })
	showSchema  = sync.OnceValue(func() *jsonschema.Schema { return compile("show.schema.json", schemas.Show) })
	patchSchema = sync.OnceValue(func() *jsonschema.Schema { return compile("patch.schema.json", schemas.Patch) })
)

// compile panics on a schema that is wrong: they ship with the program and are tested.
func compile(name string, data []byte) *jsonschema.Schema {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
	if err != nil {
		panic(err)
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource(name, doc); err != nil {
		panic(err)
	}
	return c.MustCompile(name)
}
