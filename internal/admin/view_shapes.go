package admin

import (
	"time"

	"mastflag/core/bundle"
	"mastflag/core/closed"
	"mastflag/core/decide"
	"mastflag/core/findings"
	"mastflag/core/orderline"
)

// A Moment is a viewpoint's page, moment and visitor.
type Moment struct {
	// Path of the page; the home page if empty.
	Page string `json:"page,omitempty" form:"page"`
	// The instant, RFC 3339, or a local time of the site; now if empty.
	At string `json:"at,omitempty" form:"at"`
	// Language of the page, where it is to be another than its own.
	Language string `json:"language,omitempty" form:"language"`
	// Width of the visitor's window, px.
	Width string `json:"width,omitempty" form:"width"`
	// The visitor's zone; the site's if empty.
	Zone string `json:"zone,omitempty" form:"zone"`
	// What else is known of the visitor, a JSON object of facts by name; nothing if empty.
	Visitor string `json:"visitor,omitempty" form:"visitor"`
	// The ends of the strip of time; a week back to five weeks on if empty. RFC 3339.
	From  string `json:"from,omitempty" form:"from"`
	Until string `json:"until,omitempty" form:"until"`
}

// A ViewAsk is a viewpoint, and which notices to list.
type ViewAsk struct {
	Moment
	// What the title, the state or the sentence of those listed holds; all if empty.
	Find string `json:"find,omitempty" form:"find"`
	// How many to list at most; 100 if empty, 1000 at most.
	Most string `json:"most,omitempty" form:"most"`
}

// A NoticeName is a notice in short.
type NoticeName struct {
	ID         string      `json:"id"`
	Title      string      `json:"title"`
	Flag       Flag        `json:"flag"`
	Kind       bundle.Kind `json:"kind"`
	Slot       bundle.Slot `json:"slot"`
	Background string      `json:"background"`
}

// A NameAsk is what the titles of notices that are wanted hold; all if empty.
type NameAsk struct {
	Find string `json:"find,omitempty" form:"find"`
}

// NameList is notices in short, by title.
type NameList struct {
	Names []NoticeName `json:"names"`
	// How many there are in all.
	Found int `json:"found"`
}

// A View is everything that is so at a viewpoint.
type View struct {
	At    time.Time `json:"at"`
	Now   time.Time `json:"now"`
	From  time.Time `json:"from"`
	Until time.Time `json:"until"`
	// The site's zone, the visitor's, and the clock changes of the site's zone on the strip.
	Zone         string        `json:"zone"`
	VisitorZone  string        `json:"visitorZone"`
	ClockChanges []ClockChange `json:"clockChanges"`
	Display      bool          `json:"display"`
	Page         ViewPage      `json:"page"`
	// Ids of the notices that show, strongest first.
	Shows []string `json:"shows"`
	// Those of them that stand in the page, in the order in which they stand there, as far as it was read.
	Standing []string `json:"standing"`
	// Ids of those that wait for what the visitor does on the page.
	Waits []string `json:"waits"`
	// The notices that were asked for, live ones first, as many as were asked for.
	Notices []Card `json:"notices"`
	// How many were found, how many there are, and how many of these are live or
	// scheduled.
	Found   int `json:"found"`
	All     int `json:"all"`
	Running int `json:"running"`
	// Those named elsewhere here, in short.
	Names []NoticeName `json:"names"`
	// What changes next, ten at most; and when something last changed on the strip.
	Next []Change   `json:"next"`
	Last *time.Time `json:"last,omitempty"`
	// What needs someone, the gravest first, a hundred at most, and how many more there are.
	Findings     []findings.Finding `json:"findings"`
	FindingsMore int                `json:"findingsMore"`
	// How many known pages were found without the snippet; -1 where none was looked at.
	SnippetMissing int `json:"snippetMissing"`
	Pages          int `json:"pages"`
	// Messages that came by feeds and wait for approval.
	Received []ReceivedCard `json:"received"`
	// Feeds that did not answer as they should.
	Ailing []FeedDetail `json:"ailing"`
	// What keeps the program from doing all it should, in sentences.
	Troubles []string `json:"troubles"`
}

// A ClockChange is when a zone's clock is put forward or back.
type ClockChange struct {
	At      time.Time `json:"at"`
	Minutes int       `json:"minutes"`
}

// A ViewPage is the page of a viewpoint.
type ViewPage struct {
	Path     string `json:"path"`
	Title    string `json:"title"`
	Language string `json:"language"`
	Known    bool   `json:"known"`
	// The page's address on the site.
	Address string `json:"address"`
}

// A Flag is the state of a notice at a moment.
type Flag string

func (Flag) Values() []string {
	return closed.Strings(FlagDraft, FlagScheduled, FlagLive, FlagPaused, FlagEnded)
}

// A Card is a notice as lists show it.
type Card struct {
	ID       string       `json:"id"`
	Title    string       `json:"title"`
	Kind     bundle.Kind  `json:"kind"`
	Level    bundle.Level `json:"level"`
	Slot     bundle.Slot  `json:"slot"`
	Flag     Flag         `json:"flag"`
	Revision int          `json:"revision"`
	// A draft of the next version waits behind what is out.
	HasDraft   bool           `json:"hasDraft"`
	Line       orderline.Line `json:"line"`
	Background string         `json:"background"`
	Text       string         `json:"text"`
	// When it is live, or would be once published, clipped to the strip.
	Intervals []Interval `json:"intervals"`
	// When there is no room for it on the viewpoint's page, for its visitor.
	Held []Interval `json:"held"`
	// All gates' answers at the viewpoint.
	Account decide.Account `json:"account"`
	// How many known pages carry it at the viewpoint's moment.
	OnPages int `json:"onPages"`
	// How its words stand in each language of the site.
	Languages []LanguageState `json:"languages"`
	// Until when it stays as it is; absent if nothing is planned.
	Until *time.Time `json:"until,omitempty"`
	// Why it is left out of what visitors get, though it is kept; "" if it is not.
	LeftOut string `json:"leftOut,omitempty"`
}

// An Interval is a stretch of a strip of time. Partly: live for some visitors.
type Interval struct {
	From   time.Time `json:"from"`
	Until  time.Time `json:"until"`
	Partly bool      `json:"partly"`
}

// A Change is a notice going up or coming down.
type Change struct {
	At     time.Time `json:"at"`
	Notice string    `json:"notice"`
	Starts bool      `json:"starts"`
	// The notice's sentence.
	Line orderline.Line `json:"line"`
}

// A Contrast is how well words read on a field.
type Contrast struct {
	Background string `json:"background"`
	Text       string `json:"text"`
	// The contrast ratio of WCAG 2.2, 1 to 21.
	Ratio  float64 `json:"ratio"`
	Passes bool    `json:"passes"`
	// The nearest colour for the words that passes.
	Nearest string `json:"nearest"`
}

// Carried is which notices each known page carries at a moment.
type Carried struct {
	Pages []CarryingPage `json:"pages"`
	// The notices that stand in them, in short.
	Notices []NoticeName `json:"notices"`
}

// A CarryingPage is a known page with the notices it carries, strongest first.
type CarryingPage struct {
	Path     string   `json:"path"`
	Title    string   `json:"title"`
	Language string   `json:"language"`
	Type     string   `json:"type"`
	Tags     []string `json:"tags"`
	Shows    []string `json:"shows"`
	// What it carries at some time in the 30 days from the moment on, for a
	// visitor who has met nothing and does all that notices wait for.
	Soon []string `json:"soon"`
	// It carries more than it should at the moment.
	TooMuch bool `json:"tooMuch"`
}

// A TableRow is a page; each cell says what it has of a notice: shows, waits,
// soon (within 30 days), held (no room), or nothing.
type TableRow struct {
	Path  string   `json:"path"`
	Title string   `json:"title"`
	Cells []string `json:"cells"`
}

// Table is pages by notices over a time.
type Table struct {
	Notices []string   `json:"notices"` // ids, the columns
	Titles  []string   `json:"titles"`
	Rows    []TableRow `json:"rows"`
	// The same as CSV (RFC 4180).
	CSV string `json:"csv"`
}
