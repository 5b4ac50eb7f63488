package admin

import (
	"time"

	"mastflag/core/alert"
	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/closed"
	"mastflag/core/code"
	"mastflag/core/consent"
	"mastflag/core/decide"
	"mastflag/core/document"
	"mastflag/core/findings"
	"mastflag/core/icon"
	"mastflag/core/orderline"
	"mastflag/core/pages"
	"mastflag/core/wording"
	"mastflag/internal/inspect"
	"mastflag/internal/store"
	"mastflag/internal/survey"
)

// Me is who is signed in, and what there is to work on.
type Me struct {
	Person Person     `json:"person"`
	Sites  []SiteName `json:"sites"`
	// The clock is a stand-in that can be set, as in the demo.
	ClockCanBeSet bool `json:"clockCanBeSet"`
}

// A Person is someone who may work here.
type Person struct {
	Email string `json:"email"`
	Name  string `json:"name"`
	Role  string `json:"role" jsonschema:"enum=viewer,enum=editor,enum=administrator"`
	// Keys of the sites they work on; all if empty.
	Sites []string `json:"sites"`
}

// A SiteName is a site in a list of sites.
type SiteName struct {
	Key  string `json:"key"`
	Name string `json:"name"`
	// Tags of all its languages, the main one first.
	Languages []string `json:"languages"`
}

// Credentials sign someone in.
type Credentials struct {
	Email    string `json:"email"`
	Password string `json:"password"`
}

// A NewSite is what is needed to begin with a site.
type NewSite struct {
	Name     string `json:"name"`
	Address  string `json:"address"`
	TimeZone string `json:"timeZone"`
	Language string `json:"language"`
}

// SiteDetail is a site as the Site room shows it.
type SiteDetail struct {
	Site     bundle.Site `json:"site"`
	Revision int         `json:"revision"`
	// What to paste into every page of the site.
	Snippet string `json:"snippet"`
	// What a Content-Security-Policy's script-src must list for its first line.
	ScriptSource string `json:"scriptSource"`
	// When all pages were read last, and how far a reading is.
	SurveyedAt *time.Time `json:"surveyedAt,omitempty"`
	SurveyState
	Pages []SitePage `json:"pages"`
	Saved []Saved    `json:"saved"`
	// The registrable domains of its addresses.
	Domains []string `json:"domains"`
	// Languages that known pages are in and the site is not, the commonest first.
	OtherLanguages []PageLanguage `json:"otherLanguages"`
	// Sections with pages that do not say their language, those with most of them first.
	Silent []SilentSection `json:"silent"`
}

// A PageLanguage is a language that known pages are in.
type PageLanguage struct {
	Language string `json:"language"`
	Pages    int    `json:"pages"`
}

// A SilentSection has pages that do not say their language.
type SilentSection struct {
	// "/" for the pages of no section.
	Path  string `json:"path"`
	Pages int    `json:"pages"`
}

// Saved is something that a site keeps for use in many notices.
type Saved struct {
	Kind string `json:"kind" jsonschema:"enum=audience,enum=page set,enum=wording"`
	Name string `json:"name"`
	// What it says, in words.
	Words string `json:"words"`
	// Titles of the notices that use it.
	UsedBy []string `json:"usedBy"`
}

// A SitePage is a known page of the site.
type SitePage struct {
	Path     string   `json:"path"`
	Title    string   `json:"title"`
	Language string   `json:"language"`
	Type     string   `json:"type"`
	Tags     []string `json:"tags"`
	// found, missing, why it could not be read, or "" where it was not looked at.
	Snippet string `json:"snippet"`
}

// SiteChange is a site as its person left it.
type SiteChange struct {
	Revision int         `json:"revision"`
	Site     bundle.Site `json:"site"`
}

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

// The flags.
const (
	FlagDraft     Flag = "draft"
	FlagScheduled Flag = "scheduled"
	FlagLive      Flag = "live"
	FlagPaused    Flag = "paused"
	FlagEnded     Flag = "ended"
)

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

// A LanguageState is how a notice's words in a language stand.
type LanguageState struct {
	Tag   string         `json:"tag"`
	State wording.Status `json:"state"`
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
}

// A NoticeDetail is a notice as its room shows it.
type NoticeDetail struct {
	Card Card `json:"card"`
	// What is being worked on: the draft, or what is out.
	Notice bundle.Notice  `json:"notice"`
	Line   orderline.Line `json:"line"`
	// Its draft as if it were published, at the viewpoint.
	Rehearsal decide.Account `json:"rehearsal"`
	// When the draft would be live, clipped to the strip.
	Intervals []Interval `json:"intervals"`
	// How long that is in all, hours.
	Hours float64 `json:"hours"`
	// When there would be no room for the draft on the viewpoint's page.
	Held []Interval `json:"held"`
	// A part of a preview address, for the stage, that ends in some hours.
	Preview   string             `json:"preview"`
	Contrast  Contrast           `json:"contrast"`
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
	Languages []LanguageState `json:"languages"`
	// Its windows of time in words, with the next occurrences of each.
	Times []Times `json:"times"`
	// Its countdown, as the visitor of the viewpoint reads it.
	Count *CountReading `json:"count,omitempty"`
	// What was taken out of the text because a notice may not hold it.
	Removed []string `json:"removed,omitempty"`
}

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

// Alerts is what comes to a site by its feeds, and where its own go out.
type Alerts struct {
	Feeds []FeedDetail `json:"feeds"`
	// The newest first.
	Received []ReceivedCard `json:"received"`
	// How levels are given where a feed has no rules of its own.
	DefaultLevels []bundle.LevelRule `json:"defaultLevels"`
	// Where the site's live alerts are read as Atom, and from there as CAP 1.2.
	Atom string `json:"atom"`
	// Where the whole schedule is read as iCalendar; private.
	Calendar string `json:"calendar"`
	// What the stand-in weather office can be told to publish, and where it does; absent where there is none.
	Weather        []string `json:"weather,omitempty"`
	WeatherAddress string   `json:"weatherAddress,omitempty"`
}

// FeedDetail is a feed and how asking it last went.
type FeedDetail struct {
	Feed     bundle.Feed `json:"feed"`
	Asked    *time.Time  `json:"asked,omitempty"`
	Answered *time.Time  `json:"answered,omitempty"`
	// What is wrong with it, "" if nothing.
	Why string `json:"why"`
}

// ReceivedCard is a message that came by a feed.
type ReceivedCard struct {
	ID        int64        `json:"id"`
	Feed      string       `json:"feed"`
	FeedTitle string       `json:"feedTitle"`
	At        time.Time    `json:"at"`
	Kind      string       `json:"kind" jsonschema:"enum=alert,enum=update,enum=cancel,enum=other,enum=broken"`
	Status    alert.Status `json:"standing"`
	Headline  string       `json:"headline"`
	Text      string       `json:"text"`
	Sender    string       `json:"sender"`
	Level     bundle.Level `json:"level,omitempty"`
	// Severity, urgency and certainty as the message has them.
	Judged string     `json:"judged,omitempty"`
	Areas  []string   `json:"areas"`
	Until  *time.Time `json:"until,omitempty"`
	// The notice that it made or changes, "" for none.
	Notice string `json:"notice"`
	Why    string `json:"why"`
	// Its first part as it came, of what waits or cannot be read.
	Raw string `json:"raw,omitempty"`
}

// GivenAlert is a CAP 1.2 message or an Atom feed that someone pastes.
type GivenAlert struct {
	Feed string `json:"feed"`
	Text string `json:"text"`
}

func (GivenAlert) carriesFile() {}

// WhichAlert names a message that came.
type WhichAlert struct {
	ID int64 `json:"id"`
}

// WhichFeed names a feed.
type WhichFeed struct {
	Feed string `json:"feed"`
}

// WeatherSend tells the stand-in weather office what to publish.
type WeatherSend struct {
	What string `json:"what"`
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

// A ContrastAsk asks for a Contrast.
type ContrastAsk struct {
	Background string `json:"background" form:"background"`
	Text       string `json:"text" form:"text"`
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
}

// A Placing takes a notice off a page, puts it on one, or puts its pages back: one of
// the three.
type Placing struct {
	Revision int    `json:"revision"`
	Off      string `json:"off,omitempty"` // path of a page
	On       string `json:"on,omitempty"`  // the same
	// What an earlier reply had in was.
	Put *Placement `json:"put,omitempty"`
}

// A Placement is the page conditions of a notice, out and in its draft; absent where
// there is none of the two.
type Placement struct {
	Out   *pages.Conditions `json:"out,omitempty"`
	Draft *pages.Conditions `json:"draft,omitempty"`
}

// Placed is a notice whose pages were changed, and how they were before.
type Placed struct {
	Detail NoticeDetail `json:"detail"`
	Was    Placement    `json:"was"`
}

// A CodeCheck is what was found in code.
type CodeCheck struct {
	// The first of each place.
	Faults []CodeFault `json:"faults"`
	// What a page's Content-Security-Policy has to allow.
	Policy []code.PolicySource `json:"policy"`
}

// A CodeFault is what in code would not be read as it was meant.
type CodeFault struct {
	Place code.Place `json:"place"`
	// From 1; the column in characters.
	Line   int    `json:"line"`
	Column int    `json:"column"`
	What   string `json:"what"`
	Remedy string `json:"remedy"`
}

// BlockList is the blocks and the code of a site, by title.
type BlockList struct {
	Blocks []BlockCard `json:"blocks"`
}

// A BlockCard is a block as the Library shows it.
type BlockCard struct {
	ID       string      `json:"id"`
	Title    string      `json:"title"`
	Kind     bundle.Kind `json:"kind"`
	Flag     Flag        `json:"flag"`
	Revision int         `json:"revision"`
	Line     string      `json:"line"` // as a sentence
	// The known pages it takes, by path.
	OnPages []string `json:"onPages"`
	// Why it cannot be put on the viewpoint's page; "" if it can.
	Why string `json:"why"`
	// Title of the block that it is a copy of, "" if it is none.
	CopyOf    string    `json:"copyOf"`
	ChangedAt time.Time `json:"changedAt"`
	ChangedBy string    `json:"changedBy"`
	// What a visitor sees of it, "" of code.
	HTML string `json:"html"`
	CSS  string `json:"css"`
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

// A DisplaySwitch sets the master switch.
type DisplaySwitch struct {
	Revision int  `json:"revision"`
	On       bool `json:"on"`
}

// A ClockSetting sets the stand-in clock; back to the machine's if At is empty.
type ClockSetting struct {
	At string `json:"at,omitempty"`
}

// Nothing is an empty body.
type Nothing struct{}

// An IconAsk looks for icons.
type IconAsk struct {
	Find string `json:"find,omitempty" form:"find"`
}

// IconList is icons found.
type IconList struct {
	Icons []icon.Icon `json:"icons"`
}

// PeopleList is who may work here, and who is invited.
type PeopleList struct {
	People  []Person  `json:"people"`
	Invited []Invited `json:"invited"`
}

// An Invited person has not come yet.
type Invited struct {
	Person
	Ends time.Time `json:"ends"`
}

// An InvitationAsk names an invitation by what its message holds.
type InvitationAsk struct {
	Token string `json:"token"`
}

// A Join takes up an invitation.
type Join struct {
	Token    string `json:"token"`
	Name     string `json:"name"`
	Password string `json:"password"`
}

// A PasswordChange puts a new password in place of the old one.
type PasswordChange struct {
	Old string `json:"old"`
	New string `json:"new"`
}

// An Address names a person.
type Address struct {
	Email string `json:"email"`
}

// A SurveyAsk has a site's pages read.
type SurveyAsk struct {
	// It is known that there are far fewer than before.
	Fewer bool `json:"fewer,omitempty"`
	// The reading that was stopped is resumed, if there is one.
	Resume bool `json:"resume,omitempty"`
}

// SurveyState is how far the reading of a site's pages is, or what became of the last.
type SurveyState struct {
	Survey *store.Survey `json:"survey,omitempty"`
}

// SessionList is where a person is signed in, the last used first.
type SessionList struct {
	Sessions []SessionCard `json:"sessions"`
}

// A SessionCard is a browser in which a person is signed in.
type SessionCard struct {
	ID      string    `json:"id"`
	Began   time.Time `json:"began"`
	Seen    time.Time `json:"seen"`
	Address string    `json:"address"`
	Agent   string    `json:"agent"`
	This    bool      `json:"this"` // the one that asks
}

// A SessionName names one session; all others than the one that asks if empty.
type SessionName struct {
	ID string `json:"id"`
}

// Mailbox is what the program sent, the newest first. Nothing left the machine.
type Mailbox struct {
	Messages []Mail `json:"messages"`
}

// A Mail is a message in the mailbox.
type Mail struct {
	ID      int64     `json:"id"`
	At      time.Time `json:"at"`
	To      string    `json:"to"`
	Subject string    `json:"subject"`
	Body    string    `json:"body"`
	// Its way in stands in the letter alone, which only the recipient is to read.
	Private bool `json:"private"`
}

// An ActivityAsk names who did something by the id of a Doer; everyone if empty.
type ActivityAsk struct {
	Who string `json:"who,omitempty" form:"who"`
}

// Activity is who did what, the newest first.
type Activity struct {
	Deeds []Deed `json:"deeds"`
	// All who did something.
	People []Doer `json:"people"`
}

// A Doer is a person, or a feed or command.
type Doer struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// A Deed is one act.
type Deed struct {
	ID     int64     `json:"id"`
	At     time.Time `json:"at"`
	Who    string    `json:"who"`
	Act    string    `json:"act"`
	Notice string    `json:"notice"` // id, "" for the site itself
	Title  string    `json:"title"`
	Line   string    `json:"line"`
}

// Styles are colours and fonts found in a site's styles, the commonest first.
type Styles struct {
	Colours []survey.Found `json:"colours"`
	Fonts   []string       `json:"fonts"`
}

// StartingList is what a notice can be begun with.
type StartingList struct {
	Points []StartingChoice `json:"points"`
}

// A StartingChoice is a starting point as people choose it.
type StartingChoice struct {
	Kind bundle.Kind `json:"kind"`
	Key  string      `json:"key"`
	Name string      `json:"name"`
	For  string      `json:"for"`
	Own  bool        `json:"own"`
	// What a visitor sees of it, in the site's language: HTML and CSS of a bar.
	HTML string `json:"html"`
	CSS  string `json:"css"`
	// As a sentence.
	Line string `json:"line"`
}

// ImageList is a site's images, the newest first.
type ImageList struct {
	Images []ImageDetail `json:"images"`
}

// An ImageDetail is an image of a site.
type ImageDetail struct {
	bundle.Image
	Name    string    `json:"name"`
	Size    int       `json:"size"` // bytes
	Address string    `json:"address"`
	AddedAt time.Time `json:"addedAt"`
	AddedBy string    `json:"addedBy"`
	// Titles of the notices that show it.
	UsedBy []string `json:"usedBy"`
}

// A NewImage is a file to keep: jpeg, png, webp or gif up to 1 MB.
type NewImage struct {
	Name string `json:"name"`
	Data []byte `json:"data"` // in base64
}

func (NewImage) carriesFile() {}

// An ImageName names an image.
type ImageName struct {
	File string `json:"file"`
}

// An XLIFFAsk names the language to translate into, and perhaps one notice.
type XLIFFAsk struct {
	Language string `json:"language" form:"language"`
	Notice   string `json:"notice,omitempty" form:"notice"`
	// Id of a document, for its texts alone.
	Document string `json:"document,omitempty" form:"document"`
}

// An XLIFFFile is a document for a translator.
type XLIFFFile struct {
	Name string `json:"name"`
	Text string `json:"text"`
}

func (XLIFFFile) carriesFile() {}

// Translated is what came of a translator's document.
type Translated struct {
	Language string `json:"language"`
	// Titles of the notices whose drafts have the new texts now.
	Changed []string `json:"changed"`
	// What could not be taken in, and why.
	Left []string `json:"left"`
}

// A TranslateAsk asks for a machine's draft in a language.
type TranslateAsk struct {
	Revision int    `json:"revision"`
	Language string `json:"language"`
}

// Table is pages by notices over a time.
type Table struct {
	Notices []string   `json:"notices"` // ids, the columns
	Titles  []string   `json:"titles"`
	Rows    []TableRow `json:"rows"`
	// The same as CSV (RFC 4180).
	CSV string `json:"csv"`
}

// A TableRow is a page; each cell says what it has of a notice: shows, waits,
// soon (within 30 days), held (no room), or nothing.
type TableRow struct {
	Path  string   `json:"path"`
	Title string   `json:"title"`
	Cells []string `json:"cells"`
}

// ConsentRoom is what the Consent room shows.
type ConsentRoom struct {
	// strictly necessary, those asked about in their order, those that could be
	Purposes []PurposeCard      `json:"purposes"`
	Notices  []ConsentNotice    `json:"notices"` // that ask
	Findings []findings.Finding `json:"findings"`
	// There is a browser to inspect with; otherwise pages are only read.
	Browser   bool              `json:"browser"`
	MostPages int               `json:"mostPages"` // that are visited in one inspection
	Progress  *inspect.Progress `json:"progress,omitempty"`
	Failed    string            `json:"failed,omitempty"` // why the last inspection failed
	// The last one, and what it found beside the inventory.
	Run    *consent.Run           `json:"run,omitempty"`
	Things []consent.DetectedItem `json:"things"`
	// Places in the inventory of what it did not find.
	Unseen []int `json:"unseen"`
	// How it differs from the one before.
	Differences []consent.Difference `json:"differences"`
	Runs        []RunCard            `json:"runs"` // the latest first
	// What places want: all rows that hold, and what the shipped table says anew.
	Rows      []PlaceRow            `json:"rows"`
	Changes   []consent.TableChange `json:"changes"`
	TableDate string                `json:"tableDate"`
	Head      consent.Head          `json:"head"`
	// Whether the demo site's badly behaved vendor is on; absent for other sites.
	BadVendor *bool `json:"badVendor,omitempty"`
}

// PurposeCard is a purpose in the site's language.
type PurposeCard struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Text  string `json:"text"`
	Known bool   `json:"known"` // it brings its words along
	Asked bool   `json:"asked"` // visitors are asked about it
	// A browser's privacy signal refuses it.
	Signalled bool `json:"signalled"`
}

// ConsentNotice is a notice that asks.
type ConsentNotice struct {
	ID    string           `json:"id"`
	Title string           `json:"title"`
	Flag  Flag             `json:"flag"`
	Line  []orderline.Word `json:"line"`
}

// RunCard is an inspection in short.
type RunCard struct {
	Began   time.Time `json:"began"`
	How     string    `json:"how"`
	Pages   int       `json:"pages"`
	Stopped bool      `json:"stopped"`
	Things  int       `json:"things"`
	Leaks   int       `json:"leaks"`
}

// PlaceRow is a row that holds. Of an own one, what ships in its place.
type PlaceRow struct {
	consent.PlaceRule
	Own     bool               `json:"own"`
	Shipped *consent.PlaceRule `json:"shipped,omitempty"`
}

// VendorSwitch switches the demo site's badly behaved vendor.
type VendorSwitch struct {
	On bool `json:"on"`
}

// InventoryText is an inventory as CSV.
type InventoryText struct {
	Text string `json:"text"`
}

// InventoryItems is an inventory that was read.
type InventoryItems struct {
	Items []consent.Item `json:"items"`
}

// TrendAsk says which days, and by what: day, place, language, device or version.
type TrendAsk struct {
	From string `form:"from"`
	To   string `form:"to"`
	By   string `form:"by"`
}

// Trends are what became of the questions.
type Trends struct {
	From string          `json:"from"`
	To   string          `json:"to"`
	All  consent.Trend   `json:"all"`
	Rows []consent.Trend `json:"rows"`
}

// RecordAsk asks for the records whose id begins so, or those before a place in the chain.
type RecordAsk struct {
	ID     string `form:"id"`
	Before string `form:"before"`
}

// RecordList is a part of the records.
type RecordList struct {
	Head    consent.Head `json:"head"`
	Records []RecordCard `json:"records"`
}

// RecordCard is one place in the chain: a record, an erasure, or what was erased.
type RecordCard struct {
	Seq     int64            `json:"seq"`
	Hash    string           `json:"hash"`
	Erased  bool             `json:"erased"`
	Record  *consent.Record  `json:"record,omitempty"`
	Erasure *consent.Erasure `json:"erasure,omitempty"`
}

// ShownAsk asks what was shown under a fingerprint.
type ShownAsk struct {
	Hash string `form:"hash"`
}

// ShownCard is what was shown.
type ShownCard struct {
	Notice   string `json:"notice"`
	Version  string `json:"version"`
	Language string `json:"language"`
	Rule     string `json:"rule"`
	HTML     string `json:"html"`
	CSS      string `json:"css"`
}

// ProofCard says whether the chain of records is whole.
type ProofCard struct {
	consent.Proof
	Whole bool   `json:"whole"`
	Why   string `json:"why,omitempty"`
}

// DocumentList is a site's documents, and the kinds that one can be begun as.
type DocumentList struct {
	Documents []DocumentCard `json:"documents"`
	Kinds     []KindChoice   `json:"kinds"`
}

// A DocumentCard is a document in short.
type DocumentCard struct {
	ID       string        `json:"id"`
	Kind     document.Kind `json:"kind"`
	KindName string        `json:"kindName"`
	Title    string        `json:"title"`
	// 0 where none is out.
	Version int        `json:"version"`
	Since   *time.Time `json:"since,omitempty"`
	// What is out no longer says what the document would.
	Behind bool `json:"behind"`
	// How many items it has to say, and how many of them are open.
	Items  int `json:"items"`
	Open   int `json:"open"`
	UsedBy int `json:"usedBy"`
}

// A KindChoice is a kind of document with its name.
type KindChoice struct {
	Kind document.Kind `json:"kind"`
	Name string        `json:"name"`
}

// NewDocument is what a document is begun with.
type NewDocument struct {
	Kind document.Kind `json:"kind"`
	// In the site's language; the kind's name if empty.
	Title string `json:"title"`
}

// A DocumentAsk names the language to see a document in; the site's if empty.
type DocumentAsk struct {
	Language string `json:"language,omitempty" form:"language"`
}

// A DocumentUse is something that leads to a document, shows it or is about it: a
// notice, or another document.
type DocumentUse struct {
	Notice string `json:"notice"`
	Title  string `json:"title"`
	Kind   string `json:"kind"`
	// Id of a document, where it is one.
	Document string `json:"document,omitempty"`
}

// A QuestionCard is a question with its answer, "" if there is none yet.
type QuestionCard struct {
	document.Question
	Answer string `json:"answer"`
	// Title of the document that it was answered in, where it is shared.
	From string `json:"from,omitempty"`
}

// A DocumentLanguage is how far a document is in a language.
type DocumentLanguage struct {
	Tag string `json:"tag"`
	// Computed sections have words in it.
	Ready bool `json:"ready"`
	// It has all its words, and would be published.
	Complete bool `json:"complete"`
	// It is in the version that is out.
	Out bool `json:"out"`
	// Sections without words, and the title where it has none; and sections to be read again.
	Missing int `json:"missing"`
	Again   int `json:"again"`
}

// A VersionCard is a version in short.
type VersionCard struct {
	Number   int             `json:"number"`
	Change   document.Change `json:"change"`
	Proposed document.Change `json:"proposed"`
	Why      string          `json:"why"`
	At       time.Time       `json:"at"`
	By       string          `json:"by"`
	// Where it can be read.
	Address string `json:"address"`
}

// DocumentDetail is a document in its room, in one language.
type DocumentDetail struct {
	ID       string        `json:"id"`
	Kind     document.Kind `json:"kind"`
	KindName string        `json:"kindName"`
	// Of the document as it was opened: a change says it again.
	Mark string `json:"mark"`
	// What it is called in this language.
	Title   string                       `json:"title"`
	Titles  map[string]string            `json:"titles,omitempty"`
	Answers map[string]string            `json:"answers,omitempty"`
	Own     map[string]map[string]string `json:"own,omitempty"`

	Language  string             `json:"language"`
	Ready     bool               `json:"ready"`
	Languages []DocumentLanguage `json:"languages"`

	Questions []QuestionCard     `json:"questions"`
	Sections  []document.Section `json:"sections"`
	Points    []document.Point   `json:"points"`

	Version  int        `json:"version"`
	Material int        `json:"material"`
	Since    *time.Time `json:"since,omitempty"`
	// Languages in which what is out no longer says what it would.
	Behind   []string          `json:"behind"`
	Proposal document.Proposal `json:"proposal"`
	// What changed since the version that is out, as words in and out.
	Changed  []document.Piece `json:"changed"`
	Versions []VersionCard    `json:"versions"`

	Uses []DocumentUse `json:"uses"`
	// Notices that could lead to it and lead nowhere yet.
	Offers []DocumentUse `json:"offers"`
	// Where the version that is out is read.
	Address  string             `json:"address"`
	Evidence *document.Evidence `json:"evidence,omitempty"`
}

// DocumentChange is a document as its person left it.
type DocumentChange struct {
	Mark    string                       `json:"mark"`
	Titles  map[string]string            `json:"titles"`
	Answers map[string]string            `json:"answers"`
	Own     map[string]map[string]string `json:"own"`
	// Sections written by hand that were read again, and stay as they are.
	Read []document.SectionRef `json:"read"`
	// To see it in afterwards.
	Language string `json:"language"`
}

// DocumentPublish publishes the next version.
type DocumentPublish struct {
	Mark     string          `json:"mark"`
	Change   document.Change `json:"change"`
	Why      string          `json:"why"`
	Language string          `json:"language"`
}

// A DocumentLink names a notice that is to lead to a document.
type DocumentLink struct {
	Notice string `json:"notice"`
}

// A DocumentFileAsk names a form and a language to take a document away in.
type DocumentFileAsk struct {
	As       string `json:"as" form:"as" jsonschema:"enum=html,enum=markdown,enum=text"`
	Language string `json:"language,omitempty" form:"language"`
}

// A DocumentFile is a document to take away.
type DocumentFile struct {
	Name string `json:"name"`
	Text string `json:"text"`
}

// DisclaimerCounts are what became of a site's disclaimers on some days.
type DisclaimerCounts struct {
	From string            `json:"from"`
	To   string            `json:"to"`
	Rows []DisclaimerCount `json:"rows"`
}

// A DisclaimerCount is one disclaimer about one version of its document.
type DisclaimerCount struct {
	consent.DisclaimerTrend
	// Of the notice.
	Title string `json:"title"`
}

// InspectionAsk says what an inspection looks at besides.
type InspectionAsk struct {
	// Pages are checked for accessibility too.
	Accessibility bool `json:"accessibility"`
}
