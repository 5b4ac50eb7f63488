package form

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"
)

// Values are what a visitor sent, by the id of the field: a text, several of a field of kind
// choices, true or false of an agreement.
type Values map[string]any

// A Flaw is why the answer to a field is not taken. It is the key of the phrase that says so
// to the visitor.
type Flaw string

const (
	Missing       Flaw = "missing-answer"
	NotTicked     Flaw = "not-ticked"
	NoEmail       Flaw = "no-email"
	NoTelephone   Flaw = "no-telephone"
	NoNumber      Flaw = "no-number"
	OutOfRange    Flaw = "out-of-range"
	NoDate        Flaw = "no-date"
	NoOption      Flaw = "no-option"
	TooLong       Flaw = "too-long"
	NotUnderstood Flaw = "not-understood" // of another type, or with characters that nothing shows
)

// An Answer is one field of a contact.
type Answer struct {
	Field  string   `json:"field"`
	Kind   Kind     `json:"kind"`
	Values []string `json:"values"`
}

// An UnknownField error refuses what was sent for a field that the form does not have.
type UnknownField string

func (u UnknownField) Error() string { return fmt.Sprintf("the form has no field %q", string(u)) }

// Read returns the answers in the order of the fields, each in one form: addresses without
// spaces, telephone numbers as E.164 has them, numbers in decimals, days as 2026-11-30. fact
// gives the text of a fact of the visit, for hidden fields, which nobody sends. What is wrong
// is listed by field; the error is an UnknownField.
func Read(fields []NamedField, sent Values, fact func(name string) string) ([]Answer, map[string]Flaw, error) {
	for id := range sent {
		if !slices.ContainsFunc(fields, func(f NamedField) bool { return f.ID == id && f.Kind != Hidden }) {
			return nil, nil, UnknownField(id)
		}
	}
	var out []Answer
	wrong := map[string]Flaw{}
	for _, f := range fields {
		var values []string
		var why Flaw
		if f.Kind == Hidden {
			if v := readable(fact(f.Fact)); v != "" {
				values = []string{v}
			}
		} else if values, why = f.read(sent[f.ID]); why == "" && f.Required && len(values) == 0 {
			why = f.missing()
		}
		if why != "" {
			wrong[f.ID] = why
		} else if len(values) > 0 {
			out = append(out, Answer{f.ID, f.Kind, values})
		}
	}
	return out, wrong, nil
}

// missing returns what is said where a field has no answer and has to have one.
func (f Field) missing() Flaw {
	switch f.Kind {
	case Agreement:
		return NotTicked
	case Choice, Choices:
		return NoOption
	}
	return Missing
}

// readable returns a fact of the visit as it is kept: one line, without characters that nothing
// shows, no longer than a text. Addresses may hold anything.
func readable(s string) string {
	s = strings.Map(func(r rune) rune {
		switch {
		case r == '\t' || r == '\n' || r == '\r':
			return ' '
		case r == utf8.RuneError || unseen(r):
			return -1
		}
		return r
	}, s)
	if r := []rune(s); len(r) > MaxShort {
		s = string(r[:MaxShort])
	}
	return strings.TrimSpace(s)
}

// read returns the answer to a field, none where nothing was given.
func (f Field) read(sent any) ([]string, Flaw) {
	switch sent := sent.(type) {
	case nil:
		return nil, ""
	case bool:
		switch {
		case f.Kind != Agreement:
			return nil, NotUnderstood
		case sent:
			return []string{"yes"}, ""
		}
		return nil, ""
	case []any:
		if f.Kind != Choices || len(sent) > len(f.Options) {
			return nil, NotUnderstood
		}
		return f.chosen(sent)
	case string:
		if f.Kind == Agreement || f.Kind == Choices {
			return nil, NotUnderstood
		}
		said, why := f.text(sent)
		if said == "" || why != "" {
			return nil, why
		}
		return []string{said}, ""
	}
	return nil, NotUnderstood
}

// chosen returns which options were chosen, in the order of the field.
func (f Field) chosen(sent []any) (out []string, why Flaw) {
	met := map[string]bool{}
	for _, s := range sent {
		o, ok := s.(string)
		if !ok || !slices.Contains(f.Options, o) {
			return nil, NoOption
		}
		met[o] = true
	}
	for _, o := range f.Options {
		if met[o] {
			out = append(out, o)
		}
	}
	return out, ""
}

// text returns the answer to a field that takes one text.
func (f Field) text(s string) (string, Flaw) {
	if !utf8.ValidString(s) || strings.ContainsFunc(s, unseen) {
		return "", NotUnderstood
	}
	if f.Kind == Long {
		s = strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(s)
	} else if strings.ContainsAny(s, "\r\n") {
		return "", NotUnderstood // a field of one line has none
	}
	s = strings.TrimSpace(s)
	if s == "" {
		return "", ""
	}
	if utf8.RuneCountInString(s) > f.Length() && f.Kind != Choice {
		return "", TooLong
	}
	switch f.Kind {
	case Email:
		if !IsEmail(s) {
			return "", NoEmail
		}
	case Telephone:
		n, ok := E164(s, f.Country)
		if !ok {
			return "", NoTelephone
		}
		return n, ""
	case Number:
		n, err := strconv.ParseFloat(s, 64)
		switch {
		case err != nil || !number.MatchString(s):
			return "", NoNumber
		case f.Min != nil && n < *f.Min || f.Max != nil && n > *f.Max:
			return "", OutOfRange
		}
		return strconv.FormatFloat(n+0, 'f', -1, 64), "" // nought has no sign
	case Date:
		switch {
		case !isDay(s):
			return "", NoDate
		case f.Earliest != "" && s < f.Earliest || f.Latest != "" && s > f.Latest:
			return "", OutOfRange
		}
	case Choice:
		if !slices.Contains(f.Options, s) {
			return "", NoOption
		}
	}
	return s, ""
}

// number is a valid floating-point number of the HTML Standard, which is what browsers send.
var number = regexp.MustCompile(`^-?(?:[0-9]+(?:\.[0-9]+)?|\.[0-9]+)(?:[eE][-+]?[0-9]+)?$`)

// unseen reports whether a character shows nothing and changes what stands around it: a
// control character other than a tab or the end of a line, or one that turns the direction of
// letters (Unicode Standard Annex 9, explicit directional formatting).
func unseen(r rune) bool {
	return unicode.IsControl(r) && r != '\t' && r != '\n' && r != '\r' ||
		r >= '\u202a' && r <= '\u202e' || r >= '\u2066' && r <= '\u2069'
}

// A Contact is what a visitor sent, and what they agreed to.
type Contact struct {
	// Made by the visitor's browser: sent twice, it is kept once.
	ID string    `json:"id"`
	At time.Time `json:"at"`
	// Which notice, which version of it (when it was published, RFC 3339), and in which language.
	Notice   string `json:"notice"`
	Version  string `json:"version"`
	Language string `json:"language"`
	// SHA-256 of exactly what was shown, in hex.
	Shown string `json:"shown"`
	// The page's path.
	Page    string   `json:"page"`
	Answers []Answer `json:"answers"`
	// What the fields and their options were called when it was sent, by id, and by id and option.
	Labels map[string]string `json:"labels,omitempty"`
	// The words of what was agreed to, as they stood there, by field.
	Agreed map[string]string `json:"agreed,omitempty"`
	// When the letter was answered, of a form that has its address confirmed.
	Confirmed *time.Time `json:"confirmed,omitempty"`
	// When it is erased.
	Expires time.Time `json:"expires"`
}

// First returns the first answer to a field of one of these kinds, "" if there is none.
func (c Contact) First(kinds ...Kind) string {
	for _, a := range c.Answers {
		if slices.Contains(kinds, a.Kind) {
			return a.Values[0]
		}
	}
	return ""
}

// Text returns the answer to a field, its values with a comma between them, in the words that
// the form had for options.
func (c Contact) Text(field string) string {
	for _, a := range c.Answers {
		if a.Field != field {
			continue
		}
		said := make([]string, len(a.Values))
		for i, v := range a.Values {
			said[i] = v
			if label := c.Labels[field+"/"+v]; label != "" && (a.Kind == Choice || a.Kind == Choices) {
				said[i] = label
			}
		}
		return strings.Join(said, ", ")
	}
	return ""
}

// Label returns what a field was called.
func (c Contact) Label(field string) string {
	if l := c.Labels[field]; l != "" {
		return l
	}
	return field
}

// Same reports whether another contact says the same, when it came aside.
func (c Contact) Same(other Contact) bool {
	return c.ID == other.ID && c.Notice == other.Notice && c.Shown == other.Shown &&
		slices.EqualFunc(c.Answers, other.Answers, func(a, b Answer) bool {
			return a.Field == b.Field && slices.Equal(a.Values, b.Values)
		})
}
