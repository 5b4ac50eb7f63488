package notices

import (
	"time"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/findings"
	"mastflag/core/orderline"
	"mastflag/internal/admin/viewpoint"
)

// An EndAt gives what is out an end.
type EndAt struct {
	Revision int `json:"revision"`
	// Local time of the site, such as 2026-11-30T12:00.
	Until string `json:"until"`
}

// A PauseAll pauses all that is out, or resumes what it paused.
type PauseAll struct {
	Pause bool `json:"pause"`
	// For resuming: which; those that pausing returned.
	Notices []string `json:"notices,omitempty"`
}

// Paused are the notices that were paused or resumed.
type Paused struct {
	Notices []string `json:"notices"`
	// Titles of those that stay paused because the person may not resume them: code.
	Left []string `json:"left"`
}

// A NoticeDetail is a notice as its room shows it.
type NoticeDetail struct {
	Card viewpoint.Card `json:"card"`
	// What is being worked on: the draft, or what is out.
	Notice bundle.Notice  `json:"notice"`
	Line   orderline.Line `json:"line"`
	// Its draft as if it were published, at the viewpoint.
	Rehearsal decide.Account `json:"rehearsal"`
	// When the draft would be live, clipped to the strip.
	Intervals []viewpoint.Interval `json:"intervals"`
	// How long that is in all, hours.
	Hours float64 `json:"hours"`
	// When there would be no room for the draft on the viewpoint's page.
	Held []viewpoint.Interval `json:"held"`
	// A part of a preview address, for the stage, that ends in some hours.
	Preview string `json:"preview"`
	// A part of a preview address for each of its variants.
	Variants  []VariantPreview   `json:"variants"`
	Contrast  viewpoint.Contrast `json:"contrast"`
	Findings  []findings.Finding `json:"findings"`
	ChangedAt time.Time          `json:"changedAt"`
	ChangedBy string             `json:"changedBy"`
	// The known pages it takes, by path.
	OnPages []string `json:"onPages"`
	// The known pages that what is out of it takes, by path.
	OutOn []string `json:"outOn"`
	// Those of the pages it takes that the site made since it was published: they took it by themselves.
	NewPages []string `json:"newPages"`
	// Those of the pages it takes on which it has no spot: none is for the page, or none of those that are was found on
	// it.
	Unplaced []string `json:"unplaced"`
	// What it is a copy of, if that is still there.
	Original *Original `json:"original,omitempty"`
	// How the words of what is being worked on stand in each language.
	Languages []viewpoint.LanguageState `json:"languages"`
	// Its windows of time in words, with the next occurrences of each.
	Times []Times `json:"times"`
	// Its countdown, as the visitor of the viewpoint reads it.
	Count *CountReading `json:"count,omitempty"`
	// What was taken out of the text because a notice may not hold it.
	Removed []string `json:"removed,omitempty"`
}

// OfMoment says that it is for a viewpoint.
func (NoticeDetail) OfMoment() {}

// An Original is the notice that another is a copy of, as it is out.
type Original struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	// Of its text; a copy keeps the one it was last compared with.
	Mark string `json:"mark"`
	// It says something new since then.
	Changed  bool                      `json:"changed"`
	Wordings map[string]bundle.Wording `json:"wordings"`
	// What it is made of, whose parts the wordings speak of.
	Rows []bundle.Row `json:"rows,omitempty"`
	// Languages in which the two do not say the same.
	Differs []Differing `json:"differs"`
}

// A Differing is what a copy and its original say in a language, as plain text.
type Differing struct {
	Language string `json:"language"`
	Here     string `json:"here"`
	There    string `json:"there"`
}

// A CountReading is a countdown at a moment.
type CountReading struct {
	// As a sentence, in the language of the words: "2 days and 4 hours".
	Says string `json:"says"`
	// The moment it is about; absent of a number without end.
	Ends *time.Time `json:"ends,omitempty"`
}

// Times is a window of a notice's schedule read back.
type Times struct {
	Words string `json:"words"`
	// The next five occurrences; of a floating schedule on the visitor's clock.
	Next []Occurrence `json:"next"`
}

// An Occurrence is a stretch of time on the clock of its schedule. An end that
// is open is "".
type Occurrence struct {
	From  string `json:"from"`
	Until string `json:"until"`
	// What a change of the clock does to it, in words; "" if nothing.
	Clock string `json:"clock,omitempty"`
}

// FactList is every fact that an audience can ask about, and visitors to try
// it on.
type FactList struct {
	Facts    []FactChoice     `json:"facts"`
	Examples []VisitorExample `json:"examples"`
}

// A FactChoice is a fact with the tests that go with it.
type FactChoice struct {
	audience.Fact
	Tests []audience.Test `json:"tests"`
}

// A VisitorExample is a visitor made of facts.
type VisitorExample struct {
	Name  string         `json:"name"`
	Facts map[string]any `json:"facts"`
}

// A NewNotice begins a notice: from nothing, as a copy of another, or from a
// starting point.
type NewNotice struct {
	Title    string `json:"title,omitempty"`
	CopyOf   string `json:"copyOf,omitempty"`
	Starting string `json:"starting,omitempty"` // key
	// bar if absent.
	Kind bundle.Kind `json:"kind,omitempty"`
	// Of a block or a disclaimer: id of the document that it shows or is about; * for a list of all.
	Document string `json:"document,omitempty"`
}

// A NoticeChange is a notice as its person left it.
type NoticeChange struct {
	Revision int           `json:"revision"`
	Notice   bundle.Notice `json:"notice"`
}

// A Step is a revision to act on.
type Step struct {
	Revision int `json:"revision"`
	// For restore: the line of history to go back to.
	History int64 `json:"history,omitempty"`
	// For settle: the variant that all get from now on.
	Variant string `json:"variant,omitempty"`
}

// A HistoryLine is one act in a notice's life.
type HistoryLine struct {
	ID     int64     `json:"id"`
	At     time.Time `json:"at"`
	Who    string    `json:"who"`
	Act    string    `json:"act"`
	Line   string    `json:"line"`
	Number int       `json:"number"` // of the version, 0 for none
	// Its text can be gone back to.
	Restorable bool `json:"restorable"`
}

// History is a notice's life, the newest first.
type History struct {
	Lines []HistoryLine `json:"lines"`
}

// A PreviewLink opens the real site with the draft in it, for a while.
type PreviewLink struct {
	Address string    `json:"address"`
	Ends    time.Time `json:"ends"`
}

// A PlainAsk names the language of a wording; the site's own if empty.
type PlainAsk struct {
	Language string `json:"language,omitempty" form:"language"`
}

// A PlainNotice is a notice as HTML and CSS to paste, without script.
type PlainNotice struct {
	HTML string `json:"html"`
	// What the notice has that the HTML leaves out, each in a sentence.
	Lacks []string `json:"lacks"`
}

// A VariantPreview is a variant as the stage shows it.
type VariantPreview struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Preview string `json:"preview"`
}
