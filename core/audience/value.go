package audience

import (
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"

	"mastflag/core/schedule"
)

// A Value is a fact of a visit. The zero Value is absent.
type Value struct {
	shape shape
	num   float64  // of a number, and of a date-time: seconds on the wall clock
	text  string   // of a text, folded
	list  []string // of a set, folded
	raw   string   // as it was given, for sentences
}

type shape uint8

const (
	absentShape shape = iota
	textShape
	numberShape
	boolShape // both the text true or false, and the number 1 or 0
	listShape
)

// Absent reports whether the visit lacks the fact.
func (v Value) Absent() bool { return v.shape == absentShape }

// String returns the value as people read it, "" if it is absent.
func (v Value) String() string { return v.raw }

// TextValue, NumberValue, ListValue and LocalValue make values.
func TextValue(s string) Value { return Value{shape: textShape, text: Fold(s), raw: s} }

func NumberValue(n float64) Value { return Value{shape: numberShape, num: n, raw: number(n)} }

func ListValue(in []string) Value {
	v := Value{shape: listShape, list: make([]string, len(in)), raw: strings.Join(in, ", ")}
	for i, s := range in {
		v.list[i] = Fold(s)
	}
	return v
}

func LocalValue(l schedule.Local) Value {
	return Value{shape: numberShape, num: float64(l), raw: strings.Replace(l.String(), "T", " ", 1)}
}

func number(n float64) string { return strconv.FormatFloat(n, 'f', -1, 64) }

// Read reads a fact as a visit gives it in JSON: text, a number, true or
// false, or a list of text. The error says what would be accepted.
func (f Fact) Read(in any) (Value, error) {
	wrong := func(want string) error { return fmt.Errorf("%q is to be %s, not %v", f.Name, want, shortened(in)) }
	switch x := in.(type) {
	case nil:
		if f.always {
			return Value{}, fmt.Errorf("%q is known of every visit: leave it out, or give its value", f.Name)
		}
		return Value{}, nil
	case int:
		in = float64(x)
	case bool:
		switch f.Kind {
		case Number:
			in = 0.0
			if x {
				in = 1.0
			}
		case Text:
			in = strconv.FormatBool(x)
		case Trait:
			v := TextValue(strconv.FormatBool(x))
			v.shape = boolShape
			if x {
				v.num = 1
			}
			return v, nil
		}
	}
	switch f.Kind {
	case Text:
		s, ok := in.(string)
		if !ok {
			return Value{}, wrong("text")
		}
		v := TextValue(s)
		if len(f.Choices) > 0 && !f.offers(v.text) {
			return Value{}, wrong("one of " + f.choices())
		}
		return v, nil
	case Number:
		n, ok := in.(float64)
		if !ok || math.IsNaN(n) || math.IsInf(n, 0) {
			return Value{}, wrong("a number")
		}
		if n < f.Min || f.Max != nil && n > *f.Max || f.Whole && n != math.Trunc(n) {
			return Value{}, wrong(f.domain())
		}
		return NumberValue(n), nil
	case Time:
		s, ok := in.(string)
		if ok {
			if l, err := schedule.ParseLocal(s); err == nil {
				return LocalValue(l), nil
			}
			if l, err := schedule.ParseLocal(s + "T00:00"); err == nil {
				return LocalValue(l), nil
			}
		}
		return Value{}, wrong("a local date and time such as 2026-12-01T09:00")
	case List:
		switch x := in.(type) {
		case []string:
			return ListValue(x), nil
		case []any:
			out := make([]string, len(x))
			for i, e := range x {
				s, ok := e.(string)
				if !ok {
					return Value{}, wrong("a list of text")
				}
				out[i] = s
			}
			return ListValue(out), nil
		}
		return Value{}, wrong("a list of text")
	}
	switch x := in.(type) {
	case string:
		return TextValue(x), nil
	case float64:
		if !math.IsNaN(x) && !math.IsInf(x, 0) {
			return NumberValue(x), nil
		}
	}
	return Value{}, wrong("text or a number")
}

func (f Fact) offers(folded string) bool {
	for _, c := range f.Choices {
		if c.Value == folded {
			return true
		}
	}
	return false
}

func (f Fact) choices() string {
	out := make([]string, len(f.Choices))
	for i, c := range f.Choices {
		out[i] = c.Value
	}
	return strings.Join(out, ", ")
}

// domain says which numbers the fact may be.
func (f Fact) domain() string {
	what := "a number"
	if f.Whole {
		what = "a whole number"
	}
	if f.Max != nil {
		return fmt.Sprintf("%s from %s to %s", what, number(f.Min), number(*f.Max))
	}
	return fmt.Sprintf("%s from %s on", what, number(f.Min))
}

// shortened shows a value in an error, shortened.
func shortened(v any) string {
	said, err := json.Marshal(v)
	if err != nil { // a number that JSON has not
		return "this number"
	}
	s := []rune(string(said))
	if len(s) > 80 {
		return string(s[:80]) + "…"
	}
	return string(s)
}

// Fold returns a text as it is compared: in Unicode NFC, with case folded
// (rule A4).
func Fold(s string) string {
	lower := true
	for i := range len(s) {
		if s[i] >= utf8.RuneSelf {
			return norm.NFC.String(cases.Fold().String(norm.NFC.String(s)))
		}
		if 'A' <= s[i] && s[i] <= 'Z' {
			lower = false
		}
	}
	if lower {
		return s
	}
	return strings.ToLower(s)
}
