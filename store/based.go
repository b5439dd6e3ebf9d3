package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"glossator/core/panel"
	"glossator/core/patch"
)

// A change says which version of a row it was made for. Where the row has changed since, what both have changed is put together field by field, lists of things with ids by
// their ids; what both have changed in different ways is refused with both of it, and nothing is lost.

type baseKey struct{}

// Based gives a context whose changes are made for a version of what they change (Tag); empty for what stands there now.
func Based(ctx context.Context, tag string) context.Context {
	return context.WithValue(ctx, baseKey{}, tag)
}

// BasedOn gives the version that the changes of a context are made for; empty for what stands there now.
func BasedOn(ctx context.Context) string {
	tag, _ := ctx.Value(baseKey{}).(string)
	return tag
}

// On gives the store with the changes of a context made for its version (Based).
func (s *Store) On(ctx context.Context) *Store {
	tag := BasedOn(ctx)
	if tag == "" || tag == s.based {
		return s
	}
	out := *s
	out.based = tag
	return &out
}

// Tag names a version of a row by what is in it.
func Tag(parts ...[]byte) string {
	h := sha256.New()
	for _, p := range parts {
		fmt.Fprintf(h, "%d:", len(p))
		h.Write(p)
	}
	return hex.EncodeToString(h.Sum(nil)[:12])
}

// Tag names the version of a patch, of a sheet (what has been set and decided on it), of a draft.
func (p *Patch) Tag() string { return TagOf[patch.Patch](p.Document) }

// TagOf names a version of a document of a form by what this program understands of it: one that an older program has written is the same.
func TagOf[T any](doc []byte) string {
	var x T
	if err := json.Unmarshal(doc, &x); err != nil {
		return Tag(doc)
	}
	return TagFor(&x)
}

// TagFor names the version of a document that has been read.
func TagFor[T any](x *T) string {
	doc, err := json.Marshal(x)
	if err != nil {
		return ""
	}
	return Tag(doc)
}

// Tag names the version.
func (x *Sheet) Tag() string { return Tag(x.Overrides, x.Choices) }

// Tag names the version.
func (d *Draft) Tag() string { return TagOf[panel.Panel](d.Document) }

// Clash is a field that two have changed in different ways, as text.
type Clash struct {
	// Field is a JSON pointer.
	Field string `json:"field"`
	Was   string `json:"was"`
	// Here is what was to be stored, There what is stored.
	Here  string `json:"here"`
	There string `json:"there"`
}

// ErrStale is returned where a row has changed since the version that a change was made for, and the two cannot be put together.
type ErrStale struct {
	// Clashes are what both have changed; none where the version is not known any more, or where the row was to be deleted.
	Clashes []Clash
}

func (e ErrStale) Error() string {
	if len(e.Clashes) == 0 {
		return "it has been changed elsewhere since it was shown here"
	}
	var list []string
	for _, c := range e.Clashes[:min(3, len(e.Clashes))] {
		list = append(list, fmt.Sprintf("%s was %s, is %s now, and was to be %s", strings.TrimPrefix(c.Field, "/"), c.Was, c.There, c.Here))
	}
	if n := len(e.Clashes); n > 3 {
		list = append(list, fmt.Sprintf("and %d more", n-3))
	}
	return "it has been changed elsewhere since it was shown here: " + strings.Join(list, "; ")
}

// fresh gives ErrStale where a change was made for another version than that of a row which is to go.
func (s *Store) fresh(tag string) error {
	if s.based != "" && s.based != tag {
		return ErrStale{}
	}
	return nil
}

// before finds a row as it was in a version, among the changes that are kept.
func before[T any](c *changing, table, id, tag string, key func(x *T) (id, tag string)) (*T, error) {
	const batch = 50
	for from := 0; from < KeptChanges; from += batch {
		var list []Change
		if err := c.tx.Order("id DESC").Offset(from).Limit(batch).Find(&list).Error; err != nil {
			return nil, err
		}
		for _, ch := range list {
			rows, err := unpack(ch.Rows)
			if err != nil {
				return nil, err
			}
			for _, r := range rows {
				if r.Table != table {
					continue
				}
				for _, doc := range []json.RawMessage{r.After, r.Before} {
					var x T
					if doc == nil || json.Unmarshal(doc, &x) != nil {
						continue
					}
					if i, t := key(&x); i == id && t == tag {
						return &x, nil
					}
				}
			}
		}
		if len(list) < batch {
			break
		}
	}
	return nil, ErrStale{}
}

// Merged puts two changes of a JSON document together: here and there as each has made it of base. It gives ErrStale with what both have changed in different ways.
func Merged(base, here, there []byte) ([]byte, error) {
	if bytes.Equal(base, there) {
		return here, nil
	}
	var docs [3]any
	for i, b := range [][]byte{base, here, there} {
		if len(b) == 0 {
			b = []byte("null")
		}
		d := json.NewDecoder(bytes.NewReader(b))
		d.UseNumber()
		if err := d.Decode(&docs[i]); err != nil {
			return nil, err
		}
	}
	var clashes []Clash
	out := merge("", docs[0], docs[1], docs[2], &clashes)
	if len(clashes) > 0 {
		return nil, ErrStale{clashes}
	}
	return json.Marshal(out)
}

// nothing stands for a field that is not there.
type nothing struct{}

func text(x any) string {
	if _, ok := x.(nothing); ok {
		return "nothing"
	}
	b, err := json.Marshal(x)
	if err != nil {
		return "?"
	}
	if len(b) > 120 {
		b = append(b[:117], "..."...)
	}
	return string(b)
}

func same(a, b any) bool {
	_, x := a.(nothing)
	_, y := b.(nothing)
	if x || y {
		return x == y
	}
	p, err := json.Marshal(a)
	q, err2 := json.Marshal(b)
	return err == nil && err2 == nil && bytes.Equal(p, q)
}

func merge(path string, base, here, there any, clashes *[]Clash) any {
	switch {
	case same(here, there), same(here, base):
		return there
	case same(there, base):
		return here
	}
	if _, ok := here.(map[string]any); ok || base == nil {
		b, _ := base.(map[string]any)
		h, okH := here.(map[string]any)
		t, okT := there.(map[string]any)
		if okH && okT {
			return mergeFields(path, b, h, t, clashes)
		}
	}
	h, okH := here.([]any)
	t, okT := there.([]any)
	b, okB := base.([]any)
	if okH && okT && okB {
		if ids, ok := named(b, h, t); ok {
			return mergeList(path, ids, clashes)
		}
	}
	*clashes = append(*clashes, Clash{Field: path, Was: text(base), Here: text(here), There: text(there)})
	return there
}

func mergeFields(path string, base, here, there map[string]any, clashes *[]Clash) any {
	out := map[string]any{}
	get := func(m map[string]any, k string) any {
		if v, ok := m[k]; ok {
			return v
		}
		return nothing{}
	}
	keys := map[string]bool{}
	for _, m := range []map[string]any{base, here, there} {
		for k := range m {
			keys[k] = true
		}
	}
	for k := range keys {
		v := merge(path+"/"+strings.ReplaceAll(strings.ReplaceAll(k, "~", "~0"), "/", "~1"), get(base, k), get(here, k), get(there, k), clashes)
		if _, gone := v.(nothing); !gone {
			out[k] = v
		}
	}
	return out
}

// listed is a list of things with ids.
type listed struct {
	order []string
	by    map[string]any
}

// named gives lists by the ids of what is in them; ok is false where something has none, or two have one.
func named(lists ...[]any) (out []listed, ok bool) {
	for _, list := range lists {
		l := listed{by: map[string]any{}}
		for _, x := range list {
			m, isMap := x.(map[string]any)
			id, isText := m["id"].(string)
			if !isMap || !isText || l.by[id] != nil {
				return nil, false
			}
			l.order = append(l.order, id)
			l.by[id] = x
		}
		out = append(out, l)
	}
	return out, true
}

// mergeList puts lists of things with ids together: in the order that stands there, unless only here it was changed, with what is new here behind what it came after.
func mergeList(path string, l []listed, clashes *[]Clash) any {
	base, here, there := l[0], l[1], l[2]
	get := func(x listed, id string) any {
		if v, ok := x.by[id]; ok {
			return v
		}
		return nothing{}
	}
	order := slices.Clone(there.order)
	if slices.Equal(base.order, there.order) {
		order = slices.Clone(here.order)
	} else {
		for i, id := range here.order {
			if slices.Contains(order, id) || base.by[id] != nil {
				continue
			}
			at := 0
			if i > 0 {
				at = slices.Index(order, here.order[i-1]) + 1
			}
			order = slices.Insert(order, at, id)
		}
	}
	for _, id := range there.order {
		if !slices.Contains(order, id) { // gone here: merge decides
			order = append(order, id)
		}
	}
	out := []any{}
	for _, id := range order {
		v := merge(path+"/"+id, get(base, id), get(here, id), get(there, id), clashes)
		if _, gone := v.(nothing); !gone {
			out = append(out, v)
		}
	}
	return out
}

// IsStale tells whether an error is ErrStale, and gives it.
func IsStale(err error) (stale ErrStale, ok bool) {
	ok = errors.As(err, &stale)
	return stale, ok
}
