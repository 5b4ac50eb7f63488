// Package fault is how the core says that a value it was given is wrong:
// where it stands, what is wrong with it, and what would be accepted.
package fault

import (
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// A Fault is one wrong value in a document.
//
// Pointer is an RFC 6901 JSON Pointer to the value, relative to the document
// the function was given ("" is the whole document). What says what is wrong
// and quotes the value; Remedy says what would be accepted.
type Fault struct {
	Pointer string `json:"pointer"`
	What    string `json:"what"`
	Remedy  string `json:"remedy"`
}

func (f Fault) Error() string {
	where := f.Pointer
	if where == "" {
		where = "document"
	}
	if f.Remedy == "" {
		return where + ": " + f.What
	}
	return where + ": " + f.What + "; " + f.Remedy
}

// Faults is every wrong value found in a document, in document order.
// As an error it prints one line per fault.
type Faults []Fault

func (fs Faults) Error() string {
	lines := make([]string, len(fs))
	for i, f := range fs {
		lines[i] = f.Error()
	}
	return strings.Join(lines, "\n")
}

// Err returns fs as an error, or nil if there are none.
func (fs Faults) Err() error {
	if len(fs) == 0 {
		return nil
	}
	return fs
}

// Under returns the faults with their pointers moved below prefix.
func (fs Faults) Under(prefix string) Faults {
	moved := make(Faults, len(fs))
	for i, f := range fs {
		f.Pointer = prefix + f.Pointer
		moved[i] = f
	}
	return moved
}

var escape = strings.NewReplacer("~", "~0", "/", "~1")

// Pointer joins reference tokens (strings and ints) into a JSON Pointer.
func Pointer(tokens ...any) string {
	var b strings.Builder
	for _, t := range tokens {
		b.WriteByte('/')
		switch t := t.(type) {
		case int:
			b.WriteString(strconv.Itoa(t))
		case string:
			b.WriteString(escape.Replace(t))
		}
	}
	return b.String()
}

// Sentence makes a clause, such as what is wrong, a sentence.
func Sentence(clause string) string {
	first, n := utf8.DecodeRuneInString(clause)
	if n == 0 {
		return ""
	}
	return string(unicode.ToUpper(first)) + strings.TrimSuffix(clause[n:], ".") + "."
}
