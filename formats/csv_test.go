package formats

import (
	"reflect"
	"strings"
	"testing"

	"glossator/core/build"
	"glossator/core/panel"
	"glossator/core/scale"
)

func controlsOf(t testing.TB, p *panel.Panel) string {
	t.Helper()
	data, err := WriteControls(p)
	must(t, err)
	return string(data)
}

// The controls of every shipped panel come back from their table as they were, also with the
// separators and line ends that spreadsheets write.
func TestControlsTableRoundTrips(t *testing.T) {
	for id, p := range rack(t) {
		table := controlsOf(t, p.Panel)
		forms := map[string]string{"as written": table, "with CR LF and a byte order mark": "\ufeff" + strings.ReplaceAll(table, "\n", "\r\n")}
		for name, text := range forms {
			got, rows, err := ReadControls(id+".csv", []byte(text))
			if err != nil {
				t.Errorf("%s %s: %v", id, name, err)
				continue
			}
			now := *p.Panel
			now.Controls = got
			if d := panel.Diff(p.Panel, &now); len(d) > 0 {
				t.Errorf("%s %s: %d differences, the first %v", id, name, len(d), d[0])
			}
			if again := controlsOf(t, &now); again != table {
				t.Errorf("%s %s: the table written again is another", id, name)
			}
			if len(rows) != len(got) || rows[0] != 2 {
				t.Errorf("%s %s: rows %v", id, name, rows[:2])
			}
		}
	}
}

// Each kind of law goes through the table with all the numbers that it has: a kind that is added needs nothing here.
func TestEveryLawInATable(t *testing.T) {
	for _, k := range scale.LawKinds {
		l := scale.Law{Kind: k.Kind, Unit: "%", Source: scale.Stated}
		for n, f := range k.Fields {
			for _, x := range scale.LawNumbers {
				if x.Name == f.Name {
					*x.Of(&l) = 0.25 + float64(n)
				}
			}
		}
		if k.Points {
			l.Points = [][2]float64{{0, 1}, {1, 7.5}}
		}
		if k.Values {
			l.Values = []any{1.0, nil, "off"}
		}
		p, err := build.Begin("blank", "x", "X", "")
		must(t, err)
		p.Controls[0].Means[0].Law = l
		got, _, err := ReadControls("x.csv", []byte(controlsOf(t, p)))
		must(t, err)
		if !reflect.DeepEqual(got[0].Means[0].Law, l) {
			t.Errorf("%s: %+v came back as %+v", k.Kind, l, got[0].Means[0].Law)
		}
	}
}

// simple is a small table that tests change.
const simple = "id,label,section,face,min,max,step,init,sets,law,unit,law min,law max,source,uncertainty\n" +
	"a,A,osc,numeric,0,10,1,0,filter.cutoff,exponential,Hz,20,2000,measured,3 %\n"

func TestControlsTableForms(t *testing.T) {
	want, _, err := ReadControls("t", []byte(simple))
	must(t, err)
	for name, text := range map[string]string{
		"semicolons and decimal commas": strings.ReplaceAll(strings.Replace(simple, ",3 %", ",3,0 %", 1), ",", ";"),
		"tabs":                          strings.ReplaceAll(simple, ",", "\t"),
		"empty rows":                    strings.Replace(simple, "\na,", "\n,,,\n\na,", 1),
		"names in capitals":             strings.Replace(simple, "id,label", "ID, Label", 1),
	} {
		text = strings.ReplaceAll(text, "3;0 %", "3,0 %")
		got, _, err := ReadControls("t", []byte(text))
		if err != nil || !reflect.DeepEqual(got, want) {
			t.Errorf("%s: %v, %+v", name, err, got)
		}
	}
	c := want[0]
	if u := c.Means[0].Law.Uncertainty; u == nil || !u.Relative || u.U != 0.03 || c.Face.Max != 10 {
		t.Errorf("read as %+v", c)
	}
}

func TestControlsTableFaults(t *testing.T) {
	for _, x := range []struct{ name, text, at, says string }{
		{"nothing", "", "", "heading"},
		{"no controls", "id,label,section,face,init\n", "", "at least one control"},
		{"a column nobody knows", strings.Replace(simple, "label", "lable", 1), "row 1, column 2", `"lable"`},
		{"a column twice", strings.Replace(simple, "label", "id", 1), "row 1, column 2", "once"},
		{"a column that must be there", strings.Replace(simple, "init", "", 1), "row 1", `"init"`},
		{"no number", strings.Replace(simple, ",10,", ",ten,", 1), "row 2, max", `"ten"`},
		{"a law that sets nothing", strings.Replace(simple, "filter.cutoff", "", 1), "row 2, law", `"sets"`},
		{"points without values", strings.Replace(simple, "source,", "points,", 1), "row 2, points", `"measured"`},
		{"not a number at all", strings.Replace(simple, ",20,", ",NaN,", 1), "row 2, law min", `"NaN"`},
		{"an open quote", simple + "b,\"B,osc", "row 3", "quote"},
		{"neither yes nor no", strings.Replace(strings.Replace(simple, "init,", "init,hidden,", 1), "1,0,filter", "1,0,maybe,filter", 1), "row 2, hidden", `"maybe"`},
		{"an address that is none", strings.Replace(strings.Replace(simple, "init,", "init,cc,", 1), "1,0,filter", "1,0,7.5,filter", 1), "row 2, cc", "whole number"},
		{"part of a step", strings.Replace(strings.Replace(simple, "init,", "init,between,", 1), "1,0,filter", "1,0,half,filter", 1), "row 2, between", "whole number"},
		{"marks without a legend", strings.Replace(strings.Replace(simple, "init,", "init,marks,", 1), "1,0,filter", "1,0,0.5,filter", 1), "row 2, marks", "travel = value"},
		{"a condition without a reading", strings.Replace(strings.Replace(simple, "init,", "init,when,", 1), "1,0,filter", "1,0,osc.wave,filter", 1), "row 2, when", "control | reading"},
		{"bytes that are no text", "id\xff\xfe", "", "UTF-8"},
	} {
		_, _, err := ReadControls("t.csv", []byte(x.text))
		if err == nil {
			t.Errorf("%s: taken", x.name)
			continue
		}
		found := false
		for _, line := range strings.Split(err.Error(), "\n") {
			found = found || strings.Contains(line, x.at) && strings.Contains(line, x.says)
		}
		if !found {
			t.Errorf("%s: %v, want %q and %q", x.name, err, x.at, x.says)
		}
	}
}

func FuzzReadControls(f *testing.F) {
	f.Add(simple)
	f.Add("id,label,section,face,init\n\"a")
	for _, p := range rack(f) {
		f.Add(controlsOf(f, p.Panel))
	}
	f.Fuzz(func(t *testing.T, text string) {
		got, _, err := ReadControls("f", []byte(text))
		if err != nil {
			return
		}
		table := controlsOf(t, &panel.Panel{Controls: got})
		again, _, err := ReadControls("f", []byte(table))
		if err != nil {
			t.Fatalf("what was read and written is not read again: %v\n%s", err, table)
		}
		if now := controlsOf(t, &panel.Panel{Controls: again}); now != table {
			t.Fatalf("another table:\n%s\n%s", table, now)
		}
	})
}

// Whatever words a panel uses, its table gives them back: bars, semicolons, equals signs, quotes, commas, backslashes at the end.
func TestOddWordsInTables(t *testing.T) {
	odd := []string{"a|b", "a;b", "a=b", `a\`, `\|`, `"a", 'b'`, "a , b", "ä−5", "a\tb", `\;`, "50 %", "=1+1", "-3", "+x", "@y"}
	three := 3
	var want []panel.Control
	for i, w := range odd {
		next := odd[(i+1)%len(odd)]
		want = append(want, panel.Control{
			ID: w, Label: w, Section: next, Aliases: []string{w, next}, Note: w, Init: w, Hidden: i%2 == 0,
			Face: scale.Face{Kind: scale.List, Entries: []string{w, next, "c"}},
			MIDI: &panel.MIDI{CC: &three, Values: "index"},
			Means: []panel.Bind{{Param: "x." + w, Law: scale.Law{Kind: scale.Listed, Unit: "name", Values: []any{w, nil, next}},
				When: []panel.When{{Control: w, In: []string{next, w}}, {Control: next, In: []string{w}}}}},
		}, panel.Control{
			ID: w + " marks", Label: w, Section: w, Init: "0",
			Face: scale.Face{Kind: scale.Marks, Between: 3, Marks: []scale.Mark{{At: 0, Legend: w}, {At: 0.25, Legend: next}, {At: 1, Legend: "end"}}},
		})
	}
	table := controlsOf(t, &panel.Panel{Controls: want})
	got, _, err := ReadControls("t.csv", []byte(table))
	must(t, err)
	if len(got) != len(want) {
		t.Fatalf("%d controls, want %d:\n%s", len(got), len(want), table)
	}
	for i := range want {
		if !reflect.DeepEqual(got[i], want[i]) {
			t.Errorf("%+v\ncomes back as\n%+v", want[i], got[i])
		}
	}
}
