package formats

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"glossator/core/fault"
)

// texts refuses what a text may not hold wherever it comes from: control characters (lines and tabs are let be), marks that turn the direction of writing round, so that a name reads as another
// (Unicode Standard Annex 9: LRE to PDF, LRI to PDI), and names in which nothing can be seen.
func texts(path string, v any, l *fault.List) {
	switch x := v.(type) {
	case map[string]any:
		for _, k := range sortedKeys(x) {
			at := path + "/" + strings.ReplaceAll(strings.ReplaceAll(k, "~", "~0"), "/", "~1")
			if why := Unfit(k); why != "" {
				l.Add(path, "expected a name %s, got %q", why, k)
			}
			if s, ok := x[k].(string); ok && s != "" && (k == "name" || k == "label") && !visible(s) {
				l.Add(at, "expected something that can be seen, got %q", s)
			}
			texts(at, x[k], l)
		}
	case []any:
		for i, y := range x {
			texts(fmt.Sprintf("%s/%d", path, i), y, l)
		}
	case string:
		if why := Unfit(x); why != "" {
			l.Add(path, "expected a text %s, got %q", why, x)
		}
	}
}

func sortedKeys(m map[string]any) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

// Unfit says what a text should be without; empty where it is fit.
func Unfit(s string) string {
	for _, r := range s {
		switch {
		case unicode.IsControl(r) && r != '\n' && r != '\t' && r != '\r':
			return "without control characters"
		case r >= 0x202A && r <= 0x202E, r >= 0x2066 && r <= 0x2069:
			return "without marks that turn the direction of writing round"
		}
	}
	return ""
}

// visible tells whether anything of a text can be seen.
func visible(s string) bool {
	return strings.ContainsFunc(s, func(r rune) bool { return unicode.IsGraphic(r) && !unicode.IsSpace(r) && !unicode.Is(unicode.Cf, r) })
}

// CheckName tells why a text cannot be the name of a thing; nil where it can: 1 to 120 characters, of which some can be seen.
func CheckName(name string) error {
	if why := Unfit(name); why != "" {
		return fmt.Errorf("expected a name %s", why)
	}
	if n := utf8.RuneCountInString(name); n == 0 || n > 120 || strings.ContainsAny(name, "\n\r\t") {
		return fmt.Errorf("expected a name of 1 to 120 characters in one line, got %d", n)
	}
	if !visible(name) {
		return errors.New("expected a name in which something can be seen")
	}
	return nil
}
