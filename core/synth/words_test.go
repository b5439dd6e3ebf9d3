package synth

import (
	"os"
	"strings"
	"testing"

	"glossator/core/meaning"
	"glossator/core/phrase"
	"glossator/testutil/build"
)

// A word that is not known is said to be replaced, one that is known is not, for every word of every row; and the page on formats lists them all.
func TestUnknownWordsAreTold(t *testing.T) {
	page, err := os.ReadFile("../../docs/formats/README.md")
	if err != nil {
		t.Fatal(err)
	}
	said := func(k meaning.Kind, param meaning.ParamName, word string) string {
		m := build.Row([]meaning.Route{build.Route("gate", "amp.level", 1, "unipolar")}, build.Module("osc", meaning.Osc, build.Params{"level": 0}), build.Module("x", k, build.Params{param: word}))
		s, err := Render([]Layer{{Meaning: m}}, []phrase.Note{{Start: 0, End: 0.05, Key: 60, Velocity: 100}}, Options{Seed: 1})
		if err != nil {
			t.Fatal(err)
		}
		return strings.Join(s.Assumed, "; ")
	}
	for _, w := range meaning.KnownWords {
		for _, word := range w.Words {
			if text := said(w.Kind, w.Param, word); strings.Contains(text, "not known") {
				t.Errorf("%s %s %s: %q", w.Kind, w.Param, word, text)
			}
		}
		if text := said(w.Kind, w.Param, "velvet"); !strings.Contains(text, "velvet") || !strings.Contains(text, "not known here") {
			t.Errorf("%s %s velvet: %q", w.Kind, w.Param, text)
		}
		if list := "`" + string(w.Param) + "`: " + strings.Join(w.Words, ", "); !strings.Contains(string(page), list) {
			t.Errorf("the page on formats does not list %s", list)
		}
	}
}
