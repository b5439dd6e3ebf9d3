package server

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"
)

// Every address with ids that are none and bodies that are none answers with a problem (RFC 9457) that says what to do, never with a
// fault of the program, and changes nothing.
func TestOddInputIsRefused(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch":"keel","target":"halyard","school":"numbers"}`, 200)
	pending := func() string {
		undo, redo, err := c.st.Pending("")
		if err != nil {
			t.Fatal(err)
		}
		return undo.What + "|" + redo.What
	}
	before := pending()
	ids := []string{"nobody", "0", "-1", "99999999999999999999", "1e3", "..%2f..%2fetc", "%00", strings.Repeat("x", 3000), "'%20or%201=1--"}
	bodies := []string{"", "{", "[]", "null", `{"nonsense":{"a":[1,2,3]}}`, `"text"`, "\x00\x01", `{"patch":1}`, strings.Repeat("[", 5000)}
	asked := 0
	for _, r := range Routes {
		if !strings.Contains(r.Path, "{") && r.Method == "GET" {
			continue // a list: it takes nothing
		}
		if r.Path == "/undo" || r.Path == "/redo" || r.Path == "/sample" {
			continue
		}
		paths := []string{r.Path}
		if strings.Contains(r.Path, "{") {
			paths = paths[:0]
			for _, id := range ids {
				p := r.Path
				for strings.Contains(p, "{") {
					a, b := strings.Index(p, "{"), strings.Index(p, "}")
					p = p[:a] + id + p[b+1:]
				}
				paths = append(paths, p)
			}
		}
		for _, p := range paths {
			list := bodies
			if r.Method == "GET" || r.Method == "DELETE" {
				list = bodies[:1]
			}
			for _, body := range list {
				asked++
				res, got := c.do(r.Method, Base+p, body, func(q *http.Request) { q.Header.Set("Content-Type", "application/json") })
				if res.StatusCode >= 500 {
					t.Errorf("%s %.60s with %.20q: status %d: %.200s", r.Method, p, body, res.StatusCode, got)
					continue
				}
				if res.StatusCode < 400 {
					continue // nothing to find fault with: a sum of nothing, a body that is not needed
				}
				var problem Problem
				if err := json.Unmarshal(got, &problem); err != nil || problem.Status != res.StatusCode || problem.Title == "" || problem.Detail == "" || !strings.HasPrefix(res.Header.Get("Content-Type"), "application/problem+json") {
					t.Errorf("%s %.60s with %.20q: status %d and no problem: %.200s", r.Method, p, body, res.StatusCode, got)
				}
			}
		}
	}
	if asked < 400 {
		t.Errorf("only %d requests were made", asked)
	}
	if now := pending(); now != before {
		t.Errorf("before there was %q to undo or redo, now %q", before, now)
	}
}
