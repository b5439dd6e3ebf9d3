package formats_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"glossator/core/fault"
	"glossator/core/show"
	"glossator/demo"
	"glossator/formats"
)

// The show of the demo is read, and read again as it is written.
func TestShowsAreReadAsTheyAreWritten(t *testing.T) {
	for _, f := range demo.Shows() {
		d, err := formats.ReadShow(f.Name, f.Data)
		if err != nil {
			t.Fatal(err)
		}
		b, err := formats.Write(*d)
		if err != nil {
			t.Fatal(err)
		}
		back, err := formats.ReadShow(f.Name, b)
		if err != nil || !reflect.DeepEqual(back, d) {
			t.Errorf("%s is another when read back: %v", f.Name, err)
		}
		if told := formats.Tell(f.Name, f.Data); told != formats.FileShow {
			t.Errorf("%s is told to be %s", f.Name, told)
		}
	}
}

// What of a show cannot be is told at its place, all of it at once; the file is named.
func TestFaultsOfShows(t *testing.T) {
	var good map[string]any
	if err := json.Unmarshal(demo.Shows()[0].Data, &good); err != nil {
		t.Fatal(err)
	}
	long := strings.Repeat("x", 300)
	for _, c := range []struct {
		name   string
		change func(d map[string]any)
		at     []string
	}{
		{"as it is", func(d map[string]any) {}, nil},
		{"another format", func(d map[string]any) { d["format"] = "theirs" }, []string{"/format"}},
		{"a version to come", func(d map[string]any) { d["version"] = 2 }, []string{"/version"}},
		{"a field of nobody's", func(d map[string]any) { d["colour"] = "red" }, []string{"/colour"}},
		{"no cues", func(d map[string]any) { delete(d, "cues") }, []string{""}},
		{"a cue that is a text", func(d map[string]any) { d["cues"] = []any{"Gulls"} }, []string{"/cues/0"}},
		{"a time that is a number", func(d map[string]any) { cue(d, 2)["start"] = 520 }, []string{"/cues/2/start"}},
		{"a long name", func(d map[string]any) { cue(d, 1)["name"] = long }, []string{"/cues/1/name"}},
		{"a bell in a name", func(d map[string]any) { cue(d, 1)["name"] = "a\x07" }, []string{"/cues/1/name"}},
		{"two of an id", func(d map[string]any) { cue(d, 1)["id"] = cue(d, 0)["id"] }, []string{"/cues/1/id"}},
		{"a slow hand", func(d map[string]any) { d["pace"] = 601 }, []string{"/pace"}},
		{"two players of a name", func(d map[string]any) { d["players"] = []any{map[string]any{"name": "a"}, map[string]any{"name": "a"}} }, []string{"/players/1/name"}},
		{"a player without a name", func(d map[string]any) { d["players"] = []any{map[string]any{"name": " "}} }, []string{"/players/0/name"}},
		{"two houses of a name", func(d map[string]any) { house(d, 1)["name"] = house(d, 0)["name"] }, []string{"/houses/1/name"}},
		{"a price below nothing", func(d map[string]any) { house(d, 0)["instruments"].([]any)[1].(map[string]any)["price"] = -4 }, []string{"/houses/0/instruments/1/price"}},
		{"several at once", func(d map[string]any) { d["pace"], cue(d, 1)["name"], house(d, 2)["name"] = -1, long, "" }, []string{"/pace", "/cues/1/name", "/houses/2/name"}},
		{"too many cues", func(d map[string]any) {
			var all []any
			for i := range show.MostCues + 1 {
				all = append(all, map[string]any{"name": fmt.Sprint(i), "patch": "keel", "start": "0:00", "end": "0:01"})
			}
			d["cues"] = all
		}, []string{"/cues"}},
	} {
		var d map[string]any
		b, err := json.Marshal(good)
		if err != nil {
			t.Fatal(err)
		}
		if err := json.Unmarshal(b, &d); err != nil {
			t.Fatal(err)
		}
		c.change(d)
		if b, err = json.Marshal(d); err != nil {
			t.Fatal(err)
		}
		_, err = formats.ReadShow("night.json", b)
		var l fault.List
		if (err != nil) != (c.at != nil) || err != nil && !errors.As(err, &l) {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		places := map[string]bool{}
		for _, f := range l {
			places[f.Path] = true
			if f.File != "night.json" || f.Message == "" {
				t.Errorf("%s: %+v", c.name, f)
			}
		}
		for _, at := range c.at {
			if !places[at] {
				t.Errorf("%s: no fault at %q: %v", c.name, at, err)
			}
		}
	}
	for _, text := range []string{"", "{", "[]", "\x00", `{"format": "glossator-show"`, strings.Repeat("[", 5000)} {
		if _, err := formats.ReadShow("x.json", []byte(text)); err == nil {
			t.Errorf("%.20q is a show", text)
		}
	}
}

func cue(d map[string]any, i int) map[string]any   { return d["cues"].([]any)[i].(map[string]any) }
func house(d map[string]any, i int) map[string]any { return d["houses"].([]any)[i].(map[string]any) }

// FuzzShow reads anything without a fault of its own; what it takes can be written and read again.
func FuzzShow(f *testing.F) {
	for _, x := range demo.Shows() {
		f.Add(x.Data)
	}
	f.Add([]byte(`{"format": "glossator-show", "version": 1, "name": "x", "cues": [], "houses": []}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := formats.ReadShow("x.json", data)
		if err != nil {
			return
		}
		d.Identify()
		b, err := formats.Write(*d)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := formats.ReadShow("x.json", b); err != nil {
			t.Fatalf("what was taken is refused when it comes back: %v", err)
		}
	})
}
