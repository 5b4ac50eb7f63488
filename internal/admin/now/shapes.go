package now

import (
	"time"

	"mastflag/core/findings"
	"mastflag/core/schedule"
	"mastflag/internal/admin/alerts"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/viewpoint"
)

// A ViewAsk is a viewpoint, and which notices to list.
type ViewAsk struct {
	base.Moment
	// What the title, the state or the sentence of those listed holds; all if empty.
	Find string `json:"find,omitempty" form:"find"`
	// How many to list at most; 100 if empty, 1000 at most.
	Most string `json:"most,omitempty" form:"most"`
}

// A NameAsk is what the titles of notices that are wanted hold; all if empty.
type NameAsk struct {
	Find string `json:"find,omitempty" form:"find"`
}

// NameList is notices in short, by title.
type NameList struct {
	Names []viewpoint.NoticeName `json:"names"`
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
	Zone         string                 `json:"zone"`
	VisitorZone  string                 `json:"visitorZone"`
	ClockChanges []schedule.ClockChange `json:"clockChanges"`
	Display      bool                   `json:"display"`
	Page         viewpoint.ViewPage     `json:"page"`
	// Ids of the notices that show, strongest first.
	Shows []string `json:"shows"`
	// Those of them that stand in the page, in the order in which they stand there, as far as it was read.
	Standing []string `json:"standing"`
	// Ids of those that wait for what the visitor does on the page.
	Waits []string `json:"waits"`
	// The notices that were asked for, live ones first, as many as were asked for.
	Notices []viewpoint.Card `json:"notices"`
	// How many were found, how many there are, and how many of these are live or
	// scheduled.
	Found   int `json:"found"`
	All     int `json:"all"`
	Running int `json:"running"`
	// Those named elsewhere here, in short.
	Names []viewpoint.NoticeName `json:"names"`
	// What changes next, ten at most; and when something last changed on the strip.
	Next []viewpoint.Change `json:"next"`
	Last *time.Time         `json:"last,omitempty"`
	// What needs someone, the gravest first, a hundred at most, and how many more there are.
	Findings     []findings.Finding `json:"findings"`
	FindingsMore int                `json:"findingsMore"`
	// How many known pages were found without the snippet; -1 where none was looked at.
	SnippetMissing int `json:"snippetMissing"`
	Pages          int `json:"pages"`
	// Messages that came by feeds and wait for approval.
	Received []alerts.ReceivedCard `json:"received"`
	// Feeds that did not answer as they should.
	Ailing []alerts.FeedDetail `json:"ailing"`
	// What keeps the program from doing all it should, in sentences.
	Troubles []string `json:"troubles"`
}

// Carried is which notices each known page carries at a moment.
type Carried struct {
	Pages []CarryingPage `json:"pages"`
	// What pages carry, once for all that carry the same.
	Sets []CarriedSet `json:"sets"`
	// The notices that stand in them, in short.
	Notices []viewpoint.NoticeName `json:"notices"`
}

// A CarryingPage is a known page.
type CarryingPage struct {
	Path     string   `json:"path"`
	Title    string   `json:"title"`
	Language string   `json:"language"`
	Type     string   `json:"type"`
	Tags     []string `json:"tags"`
	// Its place in Sets.
	Set int `json:"set"`
}

// A CarriedSet is what pages carry, strongest first.
type CarriedSet struct {
	Shows []string `json:"shows"`
	// What they carry at some time in the 30 days from the moment on, for a
	// visitor who has met nothing and does all that notices wait for; fifty at most, and how many more.
	Soon     []string `json:"soon"`
	SoonMore int      `json:"soonMore"`
	// They carry more than they should at the moment.
	TooMuch bool `json:"tooMuch"`
}

// A TableRow is a page.
type TableRow struct {
	Path     string `json:"path"`
	Title    string `json:"title"`
	Language string `json:"language"`
	// Its place in Sets.
	Set int `json:"set"`
}

// Table is pages by notices over a time.
type Table struct {
	Notices []string `json:"notices"` // ids, the columns, the strongest first, 200 at most
	Titles  []string `json:"titles"`
	// How many notices there was no room for.
	More int        `json:"more"`
	Rows []TableRow `json:"rows"`
	// The cells of rows, once for all that are the same: what a page has of each notice: shows, waits,
	// soon (within 30 days), held (no room), or nothing.
	Sets [][]string `json:"sets"`
}
