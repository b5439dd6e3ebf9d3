// Package fault says where data is wrong, and what was expected there.
//
// Every check of a panel, a patch or a scale gives its faults in this one form, so that the
// command line and the interface name them alike.
package fault

import (
	"fmt"
	"strings"
)

// Fault is one thing wrong at one place. Path is a JSON Pointer (RFC 6901) into the
// document; empty means the document as a whole.
type Fault struct {
	File    string `json:"file,omitempty"`
	Path    string `json:"path"`
	Message string `json:"message"`
	// Words says it in a sentence that needs no knowledge of the document's form, where there is one.
	Words string `json:"words,omitempty"`
}

func (f Fault) String() string {
	var b strings.Builder
	if f.File != "" {
		b.WriteString(f.File + ": ")
	}
	if f.Path != "" {
		b.WriteString(f.Path + ": ")
	}
	return b.String() + f.Message
}

// List collects faults.
type List []Fault

// Add notes a fault; the message is formatted as by fmt.Sprintf.
func (l *List) Add(path, format string, args ...any) {
	*l = append(*l, Fault{Path: path, Message: fmt.Sprintf(format, args...)})
}

// Under adds the faults of a part of the document, below path.
func (l *List) Under(path string, part List) {
	for _, f := range part {
		f.Path = path + f.Path
		*l = append(*l, f)
	}
}

// Err gives the list as an error, or nil where it is empty.
func (l List) Err() error {
	if len(l) == 0 {
		return nil
	}
	return l
}

// Error joins the faults, one a line.
func (l List) Error() string {
	lines := make([]string, len(l))
	for i, f := range l {
		lines[i] = f.String()
	}
	return strings.Join(lines, "\n")
}

// In sets the file of every fault.
func (l List) In(file string) List {
	for i := range l {
		l[i].File = file
	}
	return l
}

// Path makes a JSON Pointer (RFC 6901) of names and places, escaping what has a meaning in it.
func Path(parts ...any) string {
	var b strings.Builder
	for _, p := range parts {
		b.WriteString("/" + strings.NewReplacer("~", "~0", "/", "~1").Replace(fmt.Sprint(p)))
	}
	return b.String()
}
