package audience

import (
	"regexp"
	"slices"
	"strings"

	"mastflag/core/closed"
)

// A Kind is the type of a fact.
type Kind string

const (
	Text   Kind = "text"
	Number Kind = "number"
	List   Kind = "set"       // a set of text
	Time   Kind = "date-time" // a wall clock's
	Trait  Kind = "trait"     // text or a number, as the site gives it
)

func (Kind) Values() []string { return closed.Strings(Text, Number, List, Time, Trait) }

// A Fact is something that can be known of a visit.
type Fact struct {
	// The name; one that holds NAME or ID stands for all names of that form.
	Name string `json:"name"`
	Kind Kind   `json:"kind"`
	// Not known at load: it grows on one page view.
	Deferred bool `json:"later,omitempty"`
	// What the fact is, as a noun phrase.
	Label string `json:"label"`
	// The label is in the plural.
	plural bool
	// Of a number: who has it, as a clause in which # stands for an amount such as
	// "at least 2 pages"; "" where the label says it.
	clause string
	// What people choose it under.
	Room string `json:"room"`
	// For a number: what it counts, such as "second" or "visit".
	Unit string `json:"unit,omitempty"`
	// The values a text may have; empty for any.
	Choices []Choice `json:"choices,omitempty"`
	// The least and greatest value of a number, and whether it is whole.
	Min   float64  `json:"min"`
	Max   *float64 `json:"max,omitempty"`
	Whole bool     `json:"whole,omitempty"`
	// What the site script is asked to send for it: itself, another fact, or event.NAME; ""
	// where the server knows it by other means, or only the page view will.
	sends string
}

// itself says that the site script sends a fact under its own name.
const itself = "itself"

// A Choice is a value that a text may have.
type Choice struct {
	Value string `json:"value"`
	Label string `json:"label"`
}

func floatPointer(n float64) *float64 { return &n }

// Facts is every fact there is, in the order in which people choose.
var Facts = []Fact{
	{
		Name:   "visits.number",
		sends:  itself,
		Kind:   Number,
		Label:  "the visit number",
		clause: "who have made # to the site",
		Room:   "Visits",
		Unit:   "visit",
		Whole:  true,
	},
	{
		Name:   "visits.daysSinceFirst",
		sends:  itself,
		Kind:   Number,
		Label:  "the days since the first visit",
		plural: true,
		clause: "whose first visit was # ago",
		Room:   "Visits",
		Unit:   "day",
		Whole:  true,
	},
	{
		Name:   "visits.daysSinceLast",
		sends:  itself,
		Kind:   Number,
		Label:  "the days since the visit before",
		plural: true,
		clause: "whose last visit was # ago",
		Room:   "Visits",
		Unit:   "day",
		Whole:  true,
	},
	{
		Name:   "visits.pages",
		sends:  itself,
		Kind:   Number,
		Label:  "the pages seen on this visit",
		plural: true,
		clause: "who have seen # on this visit",
		Room:   "Visits",
		Unit:   "page",
		Whole:  true,
	},
	{
		Name:   "visits.pagesTotal",
		sends:  itself,
		Kind:   Number,
		Label:  "the pages seen on all visits",
		plural: true,
		clause: "who have seen # in all",
		Room:   "Visits",
		Unit:   "page",
		Whole:  true,
	},
	{
		Name:   "visits.seconds",
		sends:  itself,
		Kind:   Number,
		Label:  "the seconds spent on the site before",
		plural: true,
		clause: "who have spent # on the site before",
		Room:   "Visits",
		Unit:   "second",
	},
	{Name: "visits.landing", sends: itself, Kind: Text, Label: "the page this visit began on", Room: "Visits"},
	{Name: "visits.seen", sends: itself, Kind: List, Label: "the pages seen before", plural: true, Room: "Visits"},

	{
		Name:  "referrer.class",
		sends: "referrer.url",
		Kind:  Text,
		Label: "where the visitor comes from",
		Room:  "Coming from",
		Choices: []Choice{
			{"direct", "a bookmark or a typed address"}, {"internal", "this site"}, {"search", "a search"},
			{"social", "a social network"}, {"mail", "an e-mail"}, {"other", "another site"},
		},
	},
	{
		Name:  "referrer.host",
		sends: "referrer.url",
		Kind:  Text,
		Label: "the site the visitor comes from",
		Room:  "Coming from",
	},
	{Name: "referrer.url", sends: itself, Kind: Text, Label: "the address the visitor comes from", Room: "Coming from"},
	{Name: "utm.source", Kind: Text, Label: "the campaign’s source", Room: "Coming from"},
	{Name: "utm.medium", Kind: Text, Label: "the campaign’s medium", Room: "Coming from"},
	{Name: "utm.campaign", Kind: Text, Label: "the campaign’s name", Room: "Coming from"},
	{Name: "utm.term", Kind: Text, Label: "the campaign’s term", Room: "Coming from"},
	{Name: "utm.content", Kind: Text, Label: "the campaign’s content", Room: "Coming from"},

	{
		Name:     "view.scroll",
		Kind:     Number,
		Deferred: true,
		Label:    "how much of the page has been read",
		clause:   "who have read # of the page",
		Room:     "On this page",
		Unit:     "%",
		Max:      floatPointer(100),
	},
	{
		Name:     "view.seconds",
		Kind:     Number,
		Deferred: true,
		Label:    "the seconds on this page",
		plural:   true,
		clause:   "who have been on the page for #",
		Room:     "On this page",
		Unit:     "second",
	},
	{
		Name:     "view.idle",
		Kind:     Number,
		Deferred: true,
		Label:    "the longest pause on this page, in seconds",
		clause:   "who have paused for #",
		Room:     "On this page",
		Unit:     "second",
	},
	{
		Name:     "view.leaving",
		Kind:     Number,
		Deferred: true,
		Label:    "whether the visitor is about to leave",
		Room:     "On this page",
		Max:      floatPointer(1),
		Whole:    true,
	},
	{Name: "view.clicked", Kind: List, Deferred: true, Label: "what has been clicked", Room: "On this page"},
	{
		Name:     "site.seconds",
		sends:    itself,
		Kind:     Number,
		Deferred: true,
		Label:    "the seconds on the site this visit",
		plural:   true,
		clause:   "who have been on the site for #",
		Room:     "On this page",
		Unit:     "second",
	},

	{
		Name:    "device.kind",
		Kind:    Text,
		Label:   "the kind of device",
		Room:    "Device",
		Choices: []Choice{{"phone", "a phone"}, {"tablet", "a tablet"}, {"desktop", "a computer"}},
	},
	{Name: "device.os", Kind: Text, Label: "the operating system", Room: "Device"},
	{Name: "device.browser", Kind: Text, Label: "the browser", Room: "Device"},
	{
		Name:   "device.width",
		sends:  itself,
		Kind:   Number,
		Label:  "the width of the window in pixels",
		clause: "whose window is # wide",
		Room:   "Device",
		Unit:   "pixel",
	},

	{Name: "place.country", Kind: Text, Label: "the country (ISO 3166-1)", Room: "Place and language"},
	{Name: "place.region", Kind: Text, Label: "the region (ISO 3166-2)", Room: "Place and language"},
	{Name: "place.group", Kind: List, Label: "the groups of countries", plural: true, Room: "Place and language"},
	{
		Name:   "locale.languages",
		Kind:   List,
		Label:  "the languages the visitor reads",
		plural: true,
		Room:   "Place and language",
	},
	{Name: "locale.zone", Kind: Text, Label: "the visitor’s time zone", Room: "Place and language"},

	{Name: "clock.date", Kind: Time, Label: "the date and time", Room: "Time"},
	{
		Name:  "clock.weekday",
		Kind:  Number,
		Label: "the weekday (1 is Monday)",
		Room:  "Time",
		Min:   1,
		Max:   floatPointer(7),
		Whole: true,
	},
	{Name: "clock.hour", Kind: Number, Label: "the hour of the day", Room: "Time", Max: floatPointer(23), Whole: true},

	{Name: "page.path", Kind: Text, Label: "the page’s path", Room: "Page"},
	{Name: "page.url", Kind: Text, Label: "the page’s address", Room: "Page"},
	{Name: "page.title", sends: itself, Kind: Text, Label: "the page’s title", Room: "Page"},
	{Name: "page.type", Kind: Text, Label: "the page’s type", Room: "Page"},
	{Name: "page.tags", Kind: List, Label: "the page’s tags", plural: true, Room: "Page"},
	{Name: "page.language", Kind: Text, Label: "the page’s language", Room: "Page"},
	{Name: "page.query.NAME", Kind: Text, Label: "the query parameter NAME", Room: "Page"},

	{Name: "person.signedIn", sends: itself, Kind: Trait, Label: "whether the visitor is signed in", Room: "Person"},
	{Name: "person.NAME", sends: itself, Kind: Trait, Label: "the visitor’s NAME", Room: "Person"},
	{
		Name:   "event.NAME.count",
		sends:  "event.NAME",
		Kind:   Number,
		Label:  "how often NAME has happened",
		clause: "for whom NAME has happened #",
		Room:   "Person",
		Unit:   "time",
		Whole:  true,
	},
	{
		Name:   "event.NAME.daysSince",
		sends:  "event.NAME",
		Kind:   Number,
		Label:  "the days since NAME",
		plural: true,
		clause: "for whom NAME last happened # ago",
		Room:   "Person",
		Unit:   "day",
		Whole:  true,
	},
	{Name: "consent.granted", Kind: List, Label: "the purposes agreed to", plural: true, Room: "Person"},
	{
		Name:    "consent.signal",
		Kind:    Text,
		Label:   "the browser’s privacy signal",
		Room:    "Person",
		Choices: []Choice{{"gpc", "Global Privacy Control"}},
	},
	{Name: "consent.answered", Kind: Text, Label: "whether the consent question is answered", Room: "Person"},

	{
		Name:   "notice.ID.shown",
		Kind:   Number,
		Label:  "how often the notice ID was shown",
		clause: "who have seen the notice ID #",
		Room:   "Other notices",
		Unit:   "time",
		Whole:  true,
	},
	{
		Name:   "notice.ID.closed",
		Kind:   Number,
		Label:  "how often the notice ID was closed",
		clause: "who have closed the notice ID #",
		Room:   "Other notices",
		Unit:   "time",
		Whole:  true,
	},
	{
		Name:   "notice.ID.clicked",
		Kind:   Number,
		Label:  "how often the notice ID was clicked",
		clause: "who have followed the link of the notice ID #",
		Room:   "Other notices",
		Unit:   "time",
		Whole:  true,
	},
	{
		Name:   "notice.ID.converted",
		Kind:   Number,
		Label:  "how often the notice ID led to its goal",
		clause: "who have reached the goal of the notice ID #",
		Room:   "Other notices",
		Unit:   "time",
		Whole:  true,
	},
}

var plainFacts = func() map[string]Fact {
	m := map[string]Fact{}
	for _, f := range Facts {
		m[f.Name] = f
	}
	return m
}()

// The letters of a site's own names: those of traits and events, and the wider
// ones of query parameters. Names stand in scripts, in addresses and in lists
// with commas between; nothing in these alphabets means anything there.
const (
	ownLetters   = `[A-Za-z0-9_-]{1,100}`
	queryLetters = `[A-Za-z0-9_.~:\[\]-]{1,100}`
)

// FactPattern is what every name of a fact matches, in the syntax that Go and
// JSON Schema (ECMA-262) share.
const FactPattern = `^(page\.query\.` + queryLetters + `|[A-Za-z]+(\.` + ownLetters + `){1,2})$`

// FactLetters says in words what FactPattern asks for.
const FactLetters = "use letters, digits, _ and - in names, such as person.tier or event.booking.count"

var (
	ownName   = regexp.MustCompile(`^` + ownLetters + `$`)
	queryName = regexp.MustCompile(`^` + queryLetters + `$`)
)

// Reserved reports whether every object of the site script's language has a
// property of that name already (ECMA-262 §20.1.3), so that nothing can be kept
// under it there.
func Reserved(name string) bool {
	switch name {
	case "constructor", "hasOwnProperty", "isPrototypeOf", "propertyIsEnumerable", "toLocaleString", "toString", "valueOf",
		"__proto__", "__defineGetter__", "__defineSetter__", "__lookupGetter__", "__lookupSetter__":
		return true
	}
	return false
}

// A form is a row of Facts that stands for all names with something of the site's own
// between before and after.
type form struct {
	before, after, mark string // mark is NAME or ID, as it stands in the row
	letters             *regexp.Regexp
	fact                Fact
}

var forms = func() (out []form) {
	for _, f := range Facts {
		for _, mark := range []string{"NAME", "ID"} {
			before, after, found := strings.Cut(f.Name, mark)
			if !found {
				continue
			}
			letters := ownName
			if before == "page.query." {
				letters = queryName
			}
			out = append(out, form{before, after, mark, letters, f})
		}
	}
	return out
}()

// own returns what stands between before and after in a name; ok is false if the name
// is not of the form.
func (f form) own(name string) (own string, ok bool) {
	own, begins := strings.CutPrefix(name, f.before)
	own, ends := strings.CutSuffix(own, f.after)
	if !begins || !ends || !f.letters.MatchString(own) {
		return "", false
	}
	return own, f.letters == queryName || !Reserved(own)
}

// Lookup returns the fact of that name; ok is false if there is none. The
// label of a fact of the site's own names it.
func Lookup(name string) (f Fact, ok bool) {
	if f, ok = plainFacts[name]; ok && !strings.Contains(name, "NAME") && !strings.Contains(name, "ID") {
		return f, true
	}
	for _, form := range forms {
		if own, ok := form.own(name); ok {
			f = form.fact
			f.Name, f.Label = name, strings.ReplaceAll(f.Label, form.mark, "“"+own+"”")
			f.clause = strings.ReplaceAll(f.clause, form.mark, "“"+own+"”")
			f.sends = strings.ReplaceAll(f.sends, form.mark, own)
			return f, true
		}
	}
	return Fact{}, false
}

// Sent returns what the site script is asked to send so that the fact of a name is known;
// "" if nothing.
func Sent(name string) string {
	f, _ := Lookup(name)
	if f.sends == itself {
		return name
	}
	return f.sends
}

// Tests returns the tests that a fact of that name and kind can be put to.
func (f Fact) Tests() []Test {
	switch f.Kind {
	case Text:
		return []Test{Eq, Ne, In, NotIn, Contains, Starts, Ends, Like, IsSet, IsUnset}
	case Number:
		return []Test{Gte, Lte, Gt, Lt, Eq, Ne, Between, IsSet, IsUnset}
	case List:
		if f.Name == "locale.languages" {
			return []Test{In, NotIn, Has, HasAny, HasNone, IsSet, IsUnset}
		}
		return []Test{Has, HasAny, HasNone, IsSet, IsUnset}
	case Time:
		return []Test{Before, After, Between}
	}
	return []Test{Eq, Ne, In, NotIn, Contains, Starts, Ends, Like, Gte, Lte, Gt, Lt, Between, IsSet, IsUnset}
}

func (f Fact) takes(t Test) bool { return slices.Contains(f.Tests(), t) }
