// Package form is what a notice asks its visitors to fill in: the fields, the checking of what
// was sent, and the contacts that come of it (rules F2 to F6).
package form

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/nyaruka/phonenumbers"

	"mastflag/core/closed"
	"mastflag/core/fault"
	"mastflag/core/markup"
	"mastflag/core/schedule"
)

// A Kind is what sort of answer a field takes.
type Kind string

const (
	Email     Kind = "email"
	Telephone Kind = "telephone"
	Text      Kind = "text"
	Long      Kind = "long"
	Choice    Kind = "choice"  // one of its options
	Choices   Kind = "choices" // any of them
	Number    Kind = "number"
	Date      Kind = "date"
	Agreement Kind = "agreement" // a tick, never there beforehand
	Hidden    Kind = "hidden"    // a fact of the visit
)

// Kinds is every kind, in the order in which people choose.
var Kinds = []Kind{Email, Telephone, Text, Long, Choice, Choices, Number, Date, Agreement, Hidden}

func (Kind) Values() []string { return closed.Strings(Kinds...) }

// A Fill is what a browser may fill in by itself: a token of the HTML Standard, autofill.
type Fill string

// fills are those of contact, address and work that a form of a notice may ask for.
var fills = []Fill{
	"name", "given-name", "family-name", "organization", "organization-title", "street-address", "postal-code",
	"address-level2", "country-name", "bday", "email", "tel", "url", "off",
}

func (Fill) Values() []string { return closed.Strings(fills...) }

// Limits of a form.
const (
	MaxFields  = 30
	MaxShort   = 300      // characters of a text, if the field says nothing
	MaxLong    = 5000     // of a long one
	MaxEmail   = 254      // RFC 5321 §4.5.3.1.3, less the brackets
	MaxBody    = 64 << 10 // bytes of what is sent
	MaxDeliver = 10       // addresses that contacts are passed on to
)

// A Field is one thing that a form asks. What it is called, its options' words and the words
// of an agreement stand in each wording's parts, by the id of the part that it is.
type Field struct {
	Kind     Kind `json:"kind"`
	Required bool `json:"required,omitempty"`
	// What a browser may fill in by itself; by the kind of the field if absent.
	Fill Fill `json:"fill,omitempty"`
	// Characters of a text at most; 300 if absent, 5000 of a long one.
	MaxLength int `json:"maxLength,omitempty" jsonschema:"minimum=1,maximum=5000"`
	// Of a number.
	Min *float64 `json:"min,omitempty"`
	Max *float64 `json:"max,omitempty"`
	// Of a date, such as 2026-11-30.
	Earliest string `json:"earliest,omitempty" jsonschema:"maxLength=10"`
	Latest   string `json:"latest,omitempty" jsonschema:"maxLength=10"`
	// Of a choice: what is kept for each option; its words stand in each wording, in this order.
	Options []string `json:"options,omitempty" jsonschema:"maxItems=30"`
	// Of a telephone number: where numbers without a country’s own in front are, ISO 3166-1.
	Country string `json:"country,omitempty" jsonschema:"pattern=^[A-Z]{2}$"`
	// Of a hidden field: the fact that it holds, such as utm.campaign.
	Fact string `json:"fact,omitempty" jsonschema:"maxLength=200"`
}

// A NamedField is a field with the id by which its answer is known.
type NamedField struct {
	ID string `json:"id"`
	Field
}

// A Form is what holds for a notice that has fields. Every field of it may be absent.
type Form struct {
	// How long what was sent is kept, such as P1Y, which it is if absent.
	Keep string `json:"keep,omitempty" jsonschema:"maxLength=40"`
	// Id of an e-mail field: what was sent counts once a letter to that address was answered.
	Confirm string   `json:"confirm,omitempty" jsonschema:"maxLength=40"`
	After   FollowUp `json:"after,omitzero"`
	// Where each contact is passed on to.
	PassOn []Receiver `json:"passOn,omitempty" jsonschema:"maxItems=10"`
}

// A FollowUp is what comes once a form was sent (rule F5): its words, which are said in any case
// (message), a page, a file or the next notice besides.
type FollowUp struct {
	Then FollowUpKind `json:"then,omitempty"`
	// The address of a page or a file, or the id of a notice.
	To string `json:"to,omitempty" jsonschema:"maxLength=2048"`
}

// A FollowUpKind is what comes once a form was sent.
type FollowUpKind string

const (
	ThenMessage FollowUpKind = "message"
	ThenPage    FollowUpKind = "page"
	ThenFile    FollowUpKind = "file"
	ThenNotice  FollowUpKind = "notice"
)

func (FollowUpKind) Values() []string {
	return closed.Strings(ThenMessage, ThenPage, ThenFile, ThenNotice)
}

// A Receiver is where contacts are passed on to: one of the two.
type Receiver struct {
	Mail    string `json:"mail,omitempty" jsonschema:"maxLength=254"`
	Address string `json:"address,omitempty" jsonschema:"maxLength=2048"`
}

func (r Receiver) String() string { return cmp.Or(r.Mail, r.Address) }

// usualKeep is how long contacts are kept if a form says nothing (common practice).
const usualKeep = "P1Y"

// KeptFor returns how long what was sent is kept.
func (f Form) KeptFor() string { return cmp.Or(f.Keep, usualKeep) }

// Expires returns when what was sent at an instant is erased.
func (f Form) Expires(at time.Time, zone *time.Location) time.Time {
	span, err := schedule.ParseSpan(f.KeptFor())
	if err != nil { // Check has refused it
		span, _ = schedule.ParseSpan(usualKeep)
	}
	return span.After(at, zone)
}

// Next returns the id of the notice that follows, "" if none does.
func (f Form) Next() string {
	if f.After.Then == ThenNotice {
		return f.After.To
	}
	return ""
}

// Length returns how many characters a text may have.
func (f Field) Length() int {
	switch {
	case f.Kind == Email:
		return MaxEmail
	case f.Kind == Telephone:
		return 40
	case f.Kind == Long:
		return cmp.Or(f.MaxLength, MaxLong)
	}
	return cmp.Or(f.MaxLength, MaxShort)
}

// AutoFill returns what a browser may fill in by itself.
func (f Field) AutoFill() Fill {
	switch {
	case f.Fill != "":
		return f.Fill
	case f.Kind == Email:
		return "email"
	case f.Kind == Telephone:
		return "tel"
	}
	return "off"
}

// email is a valid e-mail address of the HTML Standard, "E-mail state (type=email)": the
// expression that stands there.
var email = regexp.MustCompile("^[a-zA-Z0-9.!#$%&'*+/=?^_`{|}~-]+@[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?" +
	`(?:\.[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?)*$`)

// IsEmail reports whether a text is a valid e-mail address of the HTML Standard that mail can
// be sent to.
func IsEmail(s string) bool { return len(s) <= MaxEmail && email.MatchString(s) }

// E164 returns a telephone number as E.164 has it, +441632960199; ok is false if it is none.
// country is where numbers without a country's own in front are, "" where that is not known.
func E164(s, country string) (number string, ok bool) {
	n, err := phonenumbers.Parse(s, cmp.Or(country, "ZZ"))
	if err != nil || !phonenumbers.IsPossibleNumber(n) {
		return "", false
	}
	return phonenumbers.Format(n, phonenumbers.E164), true
}

// optionName is what is kept for an option.
var optionName = regexp.MustCompile(`^[a-z0-9]+(-[a-z0-9]+)*$`)

// Check returns what is wrong with a field. known reports whether a fact of that name can be
// asked for.
func (f Field) Check(known func(fact string) bool) fault.Faults {
	var faults fault.Faults
	wrong := func(at, what, remedy string) {
		faults = append(faults, fault.Fault{Pointer: at, What: what, Remedy: remedy})
	}
	only := func(at string, is bool, kinds ...Kind) {
		if is && !slices.Contains(kinds, f.Kind) {
			wrong(at, fmt.Sprintf("a field of kind %q has none", f.Kind), "remove it, or choose another kind")
		}
	}
	only("/maxLength", f.MaxLength != 0, Text, Long)
	if f.Kind == Text && f.MaxLength > MaxShort {
		wrong("/maxLength", fmt.Sprintf("one line has %d characters at most", MaxShort), "give less, or take several lines")
	}
	only("/min", f.Min != nil, Number)
	only("/max", f.Max != nil, Number)
	only("/earliest", f.Earliest != "", Date)
	only("/latest", f.Latest != "", Date)
	only("/options", f.Options != nil, Choice, Choices)
	only("/country", f.Country != "", Telephone)
	only("/fact", f.Fact != "", Hidden)
	only("/fill", f.Fill != "", Email, Telephone, Text, Long, Number, Date)
	if f.Kind == Hidden && f.Required {
		wrong("/required", "nobody fills in a hidden field", "leave it away")
	}
	if f.Min != nil && f.Max != nil && *f.Min > *f.Max {
		wrong("/max", "the most is less than the least", "give a greater one")
	}
	for _, d := range []struct{ at, day string }{{"/earliest", f.Earliest}, {"/latest", f.Latest}} {
		if d.day != "" && !isDay(d.day) {
			wrong(d.at, fmt.Sprintf("%q is no day", d.day), "write it like 2026-11-30")
		}
	}
	if f.Earliest != "" && f.Latest != "" && f.Latest < f.Earliest {
		wrong("/latest", "the last day is before the first", "give a later one")
	}
	met := map[string]bool{}
	for i, o := range f.Options {
		at := fault.Pointer("options", i)
		switch {
		case len(o) > 60 || !optionName.MatchString(o):
			wrong(at, fmt.Sprintf("%q cannot be kept for an option", o), "use small letters, digits and hyphens")
		case met[o]:
			wrong(at, fmt.Sprintf("two options are kept as %q", o), "give each its own")
		}
		met[o] = true
	}
	if f.Fact != "" && !known(f.Fact) {
		wrong("/fact", fmt.Sprintf("there is no fact %q", f.Fact), "use one such as page.path or utm.campaign")
	}
	return faults
}

// Check returns what is wrong with a form of these fields.
func (f Form) Check(fields []NamedField) fault.Faults {
	var faults fault.Faults
	wrong := func(at, what, remedy string) {
		faults = append(faults, fault.Fault{Pointer: at, What: what, Remedy: remedy})
	}
	if f.Keep != "" {
		if _, err := schedule.ParseSpan(f.Keep); err != nil {
			wrong("/keep", err.Error(), "use a duration such as P6M (six months)")
		}
	}
	if i := slices.IndexFunc(fields, func(n NamedField) bool { return n.ID == f.Confirm }); f.Confirm != "" {
		if i < 0 || fields[i].Kind != Email {
			wrong("/confirm", fmt.Sprintf("there is no e-mail field %q", f.Confirm), "name one, or have nothing confirmed")
		}
	}
	to := f.After.To
	switch f.After.Then {
	case ThenPage, ThenFile:
		if what := markup.HrefFault(to); to != "" && what != "" {
			wrong("/after/to", what, "give a path of the site such as /thanks, or an http or https address")
		}
	case ThenNotice:
	default:
		if to != "" {
			wrong("/after/to", "a message leads nowhere", "remove the address, or have a page, a file or a notice follow")
		}
	}
	for i, r := range f.PassOn {
		at := fault.Pointer("passOn", i)
		switch {
		case (r.Mail == "") == (r.Address == ""):
			wrong(at, "a receiver has either an e-mail address or a web address", "give one of the two")
		case r.Mail != "" && !IsEmail(r.Mail):
			wrong(at+"/mail", fmt.Sprintf("%q is not an e-mail address", r.Mail), "write it like office@example.org")
		case r.Address != "" && !strings.HasPrefix(r.Address, "https://") && !strings.HasPrefix(r.Address, "http://"):
			wrong(at+"/address", fmt.Sprintf("%q is no web address", r.Address), "write it like https://example.org/contacts")
		}
	}
	return faults
}

func isDay(s string) bool {
	t, err := time.Parse(time.DateOnly, s)
	return err == nil && t.Year() > 0
}
