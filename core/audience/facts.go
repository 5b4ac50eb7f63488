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
	// Every visit has it: it is never absent.
	always bool
	// What the fact is, as a noun phrase.
	Label string `json:"label"`
	// The label is in the plural.
	plural bool
	// Of a number: who has it, as a clause in which # stands for an amount such as
	// "at least 2 pages"; "" where the label says it.
	clause string
	// What it means, a use of it, and what it cannot know, each a sentence.
	Means   string `json:"means"`
	Example string `json:"example"`
	Limits  string `json:"limits"`
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

// What several facts cannot know.
const (
	inThisBrowser    = "This browser alone remembers it: another device, or a browser that forgets, begins anew."
	sinceAsked       = "It is counted from when a published notice first asks, in this browser alone."
	asTheBrowserSays = "It is what the browser says of itself, which people can change."
	byAddress        = "It is guessed from the network: company networks and VPNs seem to be elsewhere, and some " +
		"addresses are in no table."
	asThePagesSay = "It is known where the site’s pages say it, in this browser alone."
)

// Facts is every fact there is, in the order in which people choose.
var Facts = []Fact{
	{
		Name:    "visits.number",
		Means:   "Which visit to the site this is; a visit ends after 30 minutes without a page.",
		Example: "Greet people from their second visit on.",
		Limits:  sinceAsked,
		sends:   itself,
		Kind:    Number,
		Label:   "the visit number",
		clause:  "who have made # to the site",
		Room:    "Visits",
		Unit:    "visit",
		Whole:   true,
	},
	{
		Name:    "visits.daysSinceFirst",
		Means:   "How many days ago this browser first came to the site.",
		Example: "Explain the site to those who have known it for less than a week.",
		Limits:  sinceAsked,
		sends:   itself,
		Kind:    Number,
		Label:   "the days since the first visit",
		plural:  true,
		clause:  "whose first visit was # ago",
		Room:    "Visits",
		Unit:    "day",
		Whole:   true,
	},
	{
		Name:    "visits.daysSinceLast",
		Means:   "How many days ago the visit before this one was.",
		Example: "Say what is new to people who were away for 30 days.",
		Limits:  sinceAsked,
		sends:   itself,
		Kind:    Number,
		Label:   "the days since the visit before",
		plural:  true,
		clause:  "whose last visit was # ago",
		Room:    "Visits",
		Unit:    "day",
		Whole:   true,
	},
	{
		Name:    "visits.pages",
		Means:   "How many pages of this visit have been seen, this one among them.",
		Example: "Offer help after the fourth page.",
		Limits:  sinceAsked,
		sends:   itself,
		Kind:    Number,
		Label:   "the pages seen on this visit",
		plural:  true,
		clause:  "who have seen # on this visit",
		Room:    "Visits",
		Unit:    "page",
		Whole:   true,
	},
	{
		Name:    "visits.pagesTotal",
		Means:   "How many pages have been seen on all visits, this one among them.",
		Example: "Thank people who have seen more than 50 pages.",
		Limits:  sinceAsked,
		sends:   itself,
		Kind:    Number,
		Label:   "the pages seen on all visits",
		plural:  true,
		clause:  "who have seen # in all",
		Room:    "Visits",
		Unit:    "page",
		Whole:   true,
	},
	{
		Name:    "visits.seconds",
		Means:   "How many seconds were spent on the site before this page, on all visits.",
		Example: "Ask those who stayed for five minutes what they miss.",
		Limits:  sinceAsked,
		sends:   itself,
		Kind:    Number,
		Label:   "the seconds spent on the site before",
		plural:  true,
		clause:  "who have spent # on the site before",
		Room:    "Visits",
		Unit:    "second",
	},
	{
		Name:    "visits.landing",
		Means:   "The path of the page on which this visit began.",
		Example: "Repeat an offer to those who came in by /offers.",
		Limits:  sinceAsked,
		sends:   itself,
		Kind:    Text,
		Label:   "the page this visit began on",
		Room:    "Visits",
	},
	{
		Name:    "visits.seen",
		Means:   "The paths of the pages that were seen before, the last hundred.",
		Example: "Leave out those who have read /fares already.",
		Limits:  sinceAsked,
		sends:   itself,
		Kind:    List,
		Label:   "the pages seen before",
		plural:  true,
		Room:    "Visits",
	},

	{
		Name:    "referrer.class",
		Means:   "What kind of site the visitor came from: a search, a social network, mail, another site, or none.",
		Example: "Greet visitors from a search with what they may be looking for.",
		Limits:  "Many sites and programs hide where a visitor comes from: then it counts as coming directly.",
		sends:   "referrer.url",
		Kind:    Text,
		Label:   "where the visitor comes from",
		Room:    "Coming from",
		Choices: []Choice{
			{"direct", "a bookmark or a typed address"}, {"internal", "this site"}, {"search", "a search"},
			{"social", "a social network"}, {"mail", "an e-mail"}, {"other", "another site"},
		},
	},
	{
		Name:    "referrer.host",
		Means:   "The host of the site the visitor came from.",
		Example: "Welcome the readers of harbour.example.",
		Limits:  "Many sites and programs hide where a visitor comes from: then it is not known.",
		sends:   "referrer.url",
		Kind:    Text,
		Label:   "the site the visitor comes from",
		Room:    "Coming from",
	},
	{
		Name:    "referrer.url",
		Means:   "The address of the page the visitor came from.",
		Example: "Answer what a certain article said.",
		Limits:  "Most browsers give other sites’ addresses without their path: test the host instead where you can.",
		sends:   itself,
		Kind:    Text,
		Label:   "the address the visitor comes from",
		Room:    "Coming from",
	},
	{
		Name:    "utm.source",
		Means:   "The parameter utm_source of the address this page was opened with.",
		Example: "Greet the readers of a newsletter.",
		Limits:  "Only the page that the link leads to has it, not those after it.",
		Kind:    Text,
		Label:   "the campaign’s source",
		Room:    "Coming from",
	},
	{
		Name:    "utm.medium",
		Means:   "The parameter utm_medium of the address this page was opened with.",
		Example: "Tell those who come by mail what the mail left out.",
		Limits:  "Only the page that the link leads to has it, not those after it.",
		Kind:    Text,
		Label:   "the campaign’s medium",
		Room:    "Coming from",
	},
	{
		Name:    "utm.campaign",
		Means:   "The parameter utm_campaign of the address this page was opened with.",
		Example: "Repeat the promise of the spring campaign.",
		Limits:  "Only the page that the link leads to has it, not those after it.",
		Kind:    Text,
		Label:   "the campaign’s name",
		Room:    "Coming from",
	},
	{
		Name:    "utm.term",
		Means:   "The parameter utm_term of the address this page was opened with.",
		Example: "Answer a word that was searched for.",
		Limits:  "Only the page that the link leads to has it, not those after it.",
		Kind:    Text,
		Label:   "the campaign’s term",
		Room:    "Coming from",
	},
	{
		Name:    "utm.content",
		Means:   "The parameter utm_content of the address this page was opened with.",
		Example: "Tell two pictures of a campaign apart.",
		Limits:  "Only the page that the link leads to has it, not those after it.",
		Kind:    Text,
		Label:   "the campaign’s content",
		Room:    "Coming from",
	},

	{
		Name:     "view.scroll",
		Means:    "How far down the page has been scrolled; a page that fits the window counts as read.",
		Example:  "Offer more to read after 70 % of the page.",
		Limits:   "Scrolled is not read: people may look for something, or look away.",
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
		Means:    "How many seconds this page has been open.",
		Example:  "Offer help after 30 seconds.",
		Limits:   "Whether someone sits before the page nobody knows.",
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
		Means:    "The longest time, in seconds, in which nothing was done on this page.",
		Example:  "Ask after a minute without a move whether help is wanted.",
		Limits:   "Someone who reads without scrolling looks idle.",
		Kind:     Number,
		Deferred: true,
		Label:    "the longest pause on this page, in seconds",
		clause:   "who have paused for #",
		Room:     "On this page",
		Unit:     "second",
	},
	{
		Name:     "view.leaving",
		Means:    "Whether the pointer has left the window by its top edge, or another tab has come to the front.",
		Example:  "Mention what would be missed.",
		Limits:   "It is a guess: many who do so come back, and phones have no pointer.",
		Kind:     Number,
		Deferred: true,
		Label:    "whether the visitor is about to leave",
		Room:     "On this page",
		Max:      floatPointer(1),
		Whole:    true,
	},
	{
		Name:     "view.clicked",
		Means:    "What has been clicked on this page, as CSS selectors.",
		Example:  "Explain fares once someone presses #fares.",
		Limits:   "A selector stops working when the site’s pages are built otherwise.",
		Kind:     List,
		Deferred: true,
		Label:    "what has been clicked",
		Room:     "On this page",
	},
	{
		Name:     "site.seconds",
		Means:    "How many seconds of this visit have been spent on the site’s pages.",
		Example:  "Invite those who have looked around for two minutes.",
		Limits:   sinceAsked,
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
		Means:   "Whether the page is on a phone, a tablet or a computer.",
		Example: "Send phones to the timetable that fits them.",
		Limits:  asTheBrowserSays,
		Kind:    Text,
		Label:   "the kind of device",
		Room:    "Device",
		Choices: []Choice{{"phone", "a phone"}, {"tablet", "a tablet"}, {"desktop", "a computer"}},
	},
	{
		Name:    "device.os",
		Means:   "The name of the operating system.",
		Example: "Point people with Android to the application.",
		Limits:  asTheBrowserSays,
		Kind:    Text,
		Label:   "the operating system",
		Room:    "Device",
	},
	{
		Name:    "device.browser",
		Means:   "The name of the browser.",
		Example: "Warn people whose browser cannot book.",
		Limits:  asTheBrowserSays,
		Kind:    Text,
		Label:   "the browser",
		Room:    "Device",
	},
	{
		Name:    "device.width",
		Means:   "How wide the window is, in CSS pixels.",
		Example: "Leave a long text to windows of 900 pixels and more.",
		Limits:  "It is the window’s, not the screen’s, and as it was when the page was opened.",
		sends:   itself,
		Kind:    Number,
		Label:   "the width of the window in pixels",
		clause:  "whose window is # wide",
		Room:    "Device",
		Unit:    "pixel",
	},

	{
		Name:    "place.country",
		Means:   "The country that the visitor’s network address belongs to.",
		Example: "Tell visitors from Germany when the office there is closed.",
		Limits:  byAddress,
		Kind:    Text,
		Label:   "the country (ISO 3166-1)",
		Room:    "Place and language",
	},
	{
		Name:    "place.region",
		Means:   "The region, such as US-CA, that the visitor’s network address belongs to.",
		Example: "Tell people in California of a right they have.",
		Limits:  byAddress,
		Kind:    Text,
		Label:   "the region (ISO 3166-2)",
		Room:    "Place and language",
	},
	{
		Name:    "place.group",
		Means:   "Groups of countries that the country belongs to, such as the European Union.",
		Example: "Say something to the whole European Economic Area.",
		Limits:  byAddress,
		Kind:    List,
		Label:   "the groups of countries",
		plural:  true,
		Room:    "Place and language",
	},
	{
		Name:    "locale.languages",
		Means:   "The languages that the browser asks for.",
		Example: "Offer the Polish pages to those who read Polish.",
		Limits:  asTheBrowserSays,
		Kind:    List,
		Label:   "the languages the visitor reads",
		plural:  true,
		Room:    "Place and language",
	},
	{
		Name:    "locale.zone",
		Means:   "The time zone of the visitor’s clock.",
		Example: "Say opening hours again for those who live elsewhere.",
		Limits:  "A computer can be set to a zone that its user is not in.",
		Kind:    Text,
		Label:   "the visitor’s time zone",
		Room:    "Place and language",
	},

	{
		Name:    "clock.date",
		Means:   "The date and time.",
		Example: "Say something else from Christmas Eve at noon.",
		Limits:  "The visitor’s clock is worked out from their zone; where that is not known the site’s counts.",
		Kind:    Time,
		Label:   "the date and time",
		Room:    "Time",
		always:  true,
	},
	{
		Name:    "clock.weekday",
		Means:   "The weekday, from 1 for Monday to 7 for Sunday.",
		Example: "Say on Sundays that nobody answers the phone.",
		Limits:  "The visitor’s clock is worked out from their zone; where that is not known the site’s counts.",
		Kind:    Number,
		Label:   "the weekday (1 is Monday)",
		Room:    "Time",
		Min:     1,
		Max:     floatPointer(7),
		Whole:   true,
		always:  true,
	},
	{
		Name:    "clock.hour",
		Means:   "The hour of the day, from 0 to 23.",
		Example: "Say from 18 on that the office is closed.",
		Limits:  "The visitor’s clock is worked out from their zone; where that is not known the site’s counts.",
		Kind:    Number,
		Label:   "the hour of the day",
		Room:    "Time",
		Max:     floatPointer(23),
		Whole:   true,
		always:  true,
	},

	{
		Name:    "page.path",
		Means:   "The page’s path, such as /fares.",
		Example: "Leave out all below /legal.",
		Limits:  "What stands after ? or # is not part of it.",
		Kind:    Text,
		Label:   "the page’s path",
		Room:    "Page",
		always:  true,
	},
	{
		Name:    "page.url",
		Means:   "The page’s whole address.",
		Example: "Tell two hosts of the site apart.",
		Limits:  "What stands after # is not sent.",
		Kind:    Text,
		Label:   "the page’s address",
		Room:    "Page",
		always:  true,
	},
	{
		Name:    "page.title",
		Means:   "The page’s title, as it is in the browser’s tab.",
		Example: "Take all pages whose title holds “Offer”.",
		Limits:  "A script of the site may change the title later; that is not seen.",
		sends:   itself,
		Kind:    Text,
		Label:   "the page’s title",
		Room:    "Page",
	},
	{
		Name:    "page.type",
		Means:   "The type that the page has in the site’s list of pages, such as article.",
		Example: "Say something below every article.",
		Limits:  "Types come with a file that is imported: reading the site’s pages finds none.",
		Kind:    Text,
		Label:   "the page’s type",
		Room:    "Page",
	},
	{
		Name:    "page.tags",
		Means:   "The tags that the page has in the site’s list of pages.",
		Example: "Take all pages tagged “island”.",
		Limits:  "Tags come with a file that is imported: reading the site’s pages finds none.",
		Kind:    List,
		Label:   "the page’s tags",
		plural:  true,
		Room:    "Page",
	},
	{
		Name:    "page.language",
		Means:   "The language that the page says it is in.",
		Example: "Say something on German pages alone.",
		Limits:  "A page that does not say it has the language of its section, or the site’s.",
		Kind:    Text,
		Label:   "the page’s language",
		Room:    "Page",
		always:  true,
	},
	{
		Name:    "page.query.NAME",
		Means:   "A parameter of the page’s address.",
		Example: "Show a code to those who come with ?code=….",
		Limits:  "Anyone can write one into an address: nothing secret depends on it.",
		Kind:    Text,
		Label:   "the query parameter NAME",
		Room:    "Page",
	},

	{
		Name:    "person.signedIn",
		Means:   "Whether the site’s pages say that someone is signed in.",
		Example: "Ask guests to make an account.",
		Limits:  asThePagesSay,
		sends:   itself,
		Kind:    Trait,
		Label:   "whether the visitor is signed in",
		Room:    "Person",
	},
	{
		Name:    "person.NAME",
		Means:   "Something that the site’s pages say of who is signed in.",
		Example: "Show traders their terms: person.trader.",
		Limits:  asThePagesSay,
		sends:   itself,
		Kind:    Trait,
		Label:   "the visitor’s NAME",
		Room:    "Person",
	},
	{
		Name:    "event.NAME.count",
		Means:   "How often the site’s pages have said that something happened.",
		Example: "Ask for an opinion after the first booking.",
		Limits:  asThePagesSay,
		sends:   "event.NAME",
		Kind:    Number,
		Label:   "how often NAME has happened",
		clause:  "for whom NAME has happened #",
		Room:    "Person",
		Unit:    "time",
		Whole:   true,
		always:  true,
	},
	{
		Name:    "event.NAME.daysSince",
		Means:   "How many days ago the site’s pages last said that something happened.",
		Example: "Remind people 30 days after a booking.",
		Limits:  asThePagesSay,
		sends:   "event.NAME",
		Kind:    Number,
		Label:   "the days since NAME",
		plural:  true,
		clause:  "for whom NAME last happened # ago",
		Room:    "Person",
		Unit:    "day",
		Whole:   true,
	},
	{
		Name:    "event.NAME.PROPERTY",
		Means:   "What the site’s pages said with an event when it last happened.",
		Example: "Tell those whose last booking was for Fennay of the new pier: event.booking.route.",
		Limits:  asThePagesSay,
		sends:   itself,
		Kind:    Trait,
		Label:   "the PROPERTY of the last NAME",
		Room:    "Person",
	},
	{
		Name:    "consent.granted",
		Means:   "The purposes that may go ahead: agreed to, or in no need of consent where the visitor is.",
		Example: "Show films to those who agreed to films.",
		Limits:  "Whether someone has agreed, or only was not asked, it does not tell.",
		Kind:    List,
		Label:   "the purposes agreed to",
		plural:  true,
		Room:    "Person",
	},
	{
		Name:    "consent.signal",
		Means:   "Whether the browser sends a privacy signal.",
		Example: "Say that the site keeps to it.",
		Limits:  "It says what the browser was set to, not what the person wants on this site.",
		Kind:    Text,
		Label:   "the browser’s privacy signal",
		Room:    "Person",
		Choices: []Choice{{"gpc", "Global Privacy Control"}},
	},
	{
		Name:    "consent.answered",
		Means:   "Whether the consent question has been answered.",
		Example: "Keep everything else back until it has.",
		Limits:  inThisBrowser,
		Kind:    Text,
		Label:   "whether the consent question is answered",
		Room:    "Person",
	},

	{
		Name:    "notice.ID.shown",
		Means:   "How often another notice was shown.",
		Example: "Say something else after three times.",
		Limits:  inThisBrowser,
		Kind:    Number,
		Label:   "how often the notice ID was shown",
		clause:  "who have seen the notice ID #",
		Room:    "Other notices",
		Unit:    "time",
		Whole:   true,
		always:  true,
	},
	{
		Name:    "notice.ID.closed",
		Means:   "How often another notice was closed.",
		Example: "Leave those alone who closed it.",
		Limits:  inThisBrowser,
		Kind:    Number,
		Label:   "how often the notice ID was closed",
		clause:  "who have closed the notice ID #",
		Room:    "Other notices",
		Unit:    "time",
		Whole:   true,
		always:  true,
	},
	{
		Name:    "notice.ID.clicked",
		Means:   "How often the link of another notice was followed.",
		Example: "Follow up with those who looked at the offer.",
		Limits:  inThisBrowser,
		Kind:    Number,
		Label:   "how often the notice ID was clicked",
		clause:  "who have followed the link of the notice ID #",
		Room:    "Other notices",
		Unit:    "time",
		Whole:   true,
		always:  true,
	},
	{
		Name:    "notice.ID.converted",
		Means:   "How often another notice led to its goal.",
		Example: "Thank those who booked because of it.",
		Limits:  inThisBrowser,
		Kind:    Number,
		Label:   "how often the notice ID led to its goal",
		clause:  "who have reached the goal of the notice ID #",
		Room:    "Other notices",
		Unit:    "time",
		Whole:   true,
		always:  true,
	},
	{
		Name:    "notice.ID.answered",
		Means:   "How often the form of another notice was sent.",
		Example: "Ask those for more who subscribed.",
		Limits:  inThisBrowser,
		Kind:    Number,
		Label:   "how often the form of the notice ID was sent",
		clause:  "who have sent the form of the notice ID #",
		Room:    "Other notices",
		Unit:    "time",
		Whole:   true,
		always:  true,
	},
}

// plainFacts are the facts with nothing of the site's own in their names.
var plainFacts = func() map[string]Fact {
	m := map[string]Fact{}
	for _, f := range Facts {
		if !marks.MatchString(f.Name) {
			m[f.Name] = f
		}
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

// A form is a row of Facts that stands for all names with something of the site's own in
// the places of its marks.
type form struct {
	fact    Fact
	before  string // what stands before the first mark
	pattern *regexp.Regexp
	marks   []string // in the order in which they stand in the name
}

// marks stand in names of rows of Facts for what is the site's own: names of events, traits and
// parameters, of notices, and of properties of events.
var marks = regexp.MustCompile(`NAME|ID|PROPERTY`)

var forms = func() (out []form) {
	for _, f := range Facts {
		found := marks.FindAllString(f.Name, -1)
		if found == nil {
			continue
		}
		before := f.Name[:marks.FindStringIndex(f.Name)[0]]
		letters := ownLetters
		if before == queryFacts {
			letters = queryLetters
		}
		pattern := marks.ReplaceAllLiteralString(regexp.QuoteMeta(f.Name), "("+letters+")")
		out = append(out, form{f, before, regexp.MustCompile("^" + pattern + "$"), found})
	}
	return out
}()

// queryFacts begins the names of facts of parameters.
const queryFacts = "page.query."

// own returns what stands in a name in place of each mark, as pairs that replace them; nil if
// the name is not of the form.
func (f form) own(name string) (pairs []string) {
	if !strings.HasPrefix(name, f.before) {
		return nil
	}
	for i, own := range f.pattern.FindStringSubmatch(name) {
		switch {
		case i == 0:
		case f.before != queryFacts && Reserved(own):
			return nil
		default:
			pairs = append(pairs, f.marks[i-1], own)
		}
	}
	return pairs
}

// Lookup returns the fact of that name; ok is false if there is none. The
// label of a fact of the site's own names it.
func Lookup(name string) (f Fact, ok bool) {
	if f, ok = plainFacts[name]; ok {
		return f, true
	}
	for _, form := range forms {
		pairs := form.own(name)
		if pairs == nil {
			continue
		}
		f = form.fact
		f.sends = strings.NewReplacer(pairs...).Replace(f.sends)
		for i := 1; i < len(pairs); i += 2 {
			pairs[i] = "“" + pairs[i] + "”"
		}
		said := strings.NewReplacer(pairs...)
		f.Name, f.Label, f.clause = name, said.Replace(f.Label), said.Replace(f.clause)
		return f, true
	}
	return Fact{}, false
}

// PropertyOf returns the event and the property that a name event.NAME.PROPERTY is of; ok is
// false if it is no such name.
func PropertyOf(name string) (event, property string, ok bool) {
	f, _ := Lookup(name)
	rest, is := strings.CutPrefix(name, "event.")
	if f.Kind != Trait || !is {
		return "", "", false
	}
	event, property, _ = strings.Cut(rest, ".")
	return event, property, true
}

// Sent returns what the site script is asked to send so that the fact of a name is known: nothing
// where that is known by other means. Of a property of an event it is the event too, because the
// page is decided anew once that has happened.
func Sent(name string) []string {
	f, _ := Lookup(name)
	event, _, ofEvent := PropertyOf(name)
	switch {
	case f.sends == "":
		return nil
	case ofEvent:
		return []string{name, "event." + event}
	case f.sends == itself:
		return []string{name}
	}
	return []string{f.sends}
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
