// Package bundle is the document that holds a whole site: its shapes, its
// JSON Schema, and the reading and checking of it.
//
// The schema (schema.json here, docs/bundle.schema.json for people) is
// generated from the types of this file.
package bundle

import (
	"cmp"
	"fmt"
	"math"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"time"

	"golang.org/x/net/publicsuffix"

	"mastflag/core/audience"
	"mastflag/core/closed"
	"mastflag/core/consent"
	"mastflag/core/countdown"
	"mastflag/core/document"
	"mastflag/core/fault"
	"mastflag/core/form"
	"mastflag/core/icon"
	"mastflag/core/pages"
	"mastflag/core/phrase"
	"mastflag/core/schedule"
)

// Format names the version of the document. The one before is read too (Parse).
const Format = "mastflag.bundle/2"

// A Bundle is one site with its pages and notices.
type Bundle struct {
	Format  string   `json:"format" jsonschema:"enum=mastflag.bundle/2"`
	Site    Site     `json:"site"`
	Pages   []Page   `json:"pages,omitempty" jsonschema:"maxItems=50000"`
	Notices []Notice `json:"notices,omitempty" jsonschema:"maxItems=10000"`
}

// A Site is what holds for every notice on it.
type Site struct {
	// Short name in addresses: lower-case letters, digits and hyphens.
	Key string `json:"key" jsonschema:"pattern=^[a-z0-9]+(-[a-z0-9]+)*$,maxLength=64"`
	// What people call the site.
	Name string `json:"name" jsonschema:"minLength=1,maxLength=200"`
	// Origins that may load the site script; a host and the same host under www. count as one.
	Origins []string `json:"origins,omitempty" jsonschema:"maxItems=50"`
	// IANA zone name, such as Europe/London.
	TimeZone string `json:"timeZone" jsonschema:"minLength=1,maxLength=64"`
	// BCP 47 tag of the language used where no better one is there.
	Language string `json:"language" jsonschema:"minLength=2,maxLength=35"`
	// BCP 47 tags of all languages of the site.
	Languages []string `json:"languages,omitempty" jsonschema:"maxItems=50"`
	// Languages of pages that do not say their own.
	SectionLanguages []SectionLanguage `json:"sectionLanguages,omitempty" jsonschema:"maxItems=200"`
	// Paths that are the home page, one for each language perhaps; "/" if there are none.
	HomePaths []string `json:"homePaths,omitempty" jsonschema:"maxItems=50"`
	// What stands behind a # in addresses names a page of its own, if it begins with / or !/ (rule P4): /#/ports.
	Routes bool `json:"routes,omitempty"`
	// The master switch: false shows nothing to anyone. On if absent.
	Display *bool `json:"display,omitempty"`
	// How many notices a slot holds, where that differs from the rule (D2).
	Capacity map[Slot]int `json:"capacity,omitempty"`
	// The site's own colours, offered for notices.
	Palette []Colour `json:"palette,omitempty" jsonschema:"maxItems=40"`
	// Looks under names, for notices that name them.
	Themes []Theme `json:"themes,omitempty" jsonschema:"maxItems=100"`
	// Font families of the site's own styles, offered for notices.
	Fonts []string `json:"fonts,omitempty" jsonschema:"maxItems=20"`
	// Page conditions under names, for entries that match "set".
	PageSets []pages.SavedSet `json:"pageSets,omitempty" jsonschema:"maxItems=200"`
	// Audiences under names, for parts that say "saved".
	Audiences []audience.SavedAudience `json:"audiences,omitempty" jsonschema:"maxItems=200"`
	// Notices to begin others with.
	StartingPoints []StartingPoint `json:"startingPoints,omitempty" jsonschema:"maxItems=200"`
	// What the site sets on its visitors' machines, and asks them about.
	Consent *consent.Setup `json:"consent,omitempty"`
	// Where alerts come from.
	Feeds []Feed `json:"feeds,omitempty" jsonschema:"maxItems=50"`
	// How often an open page asks again for what shows, such as PT1M; if absent, every minute where the site has feeds or
	// published alerts, else only when something changes by its time.
	Refresh Period `json:"refresh,omitempty" jsonschema:"maxLength=40"`
	// What shows where a visitor's browser keeps nothing, so that all would return on every page (rule M5); all if absent.
	NoStorage NoStorage `json:"noStorage,omitempty"`
	// What a visitor's browser remembers holds for all hosts of the registrable domain, by a cookie (rule M6).
	SharedMemory bool `json:"sharedMemory,omitempty"`
	// Texts to use again.
	Wordings []SavedWording `json:"wordings,omitempty" jsonschema:"maxItems=500"`
	// What texts of notices leave a place for.
	FillIns *FillIns `json:"fillIns,omitempty"`
	// Pages, audience, time and memory under names, to be given to notices together.
	Rules []RuleSet `json:"rules,omitempty" jsonschema:"maxItems=200"`
	// What the program says to visitors, in the site's own words, by BCP 47 tag.
	Words map[string]phrase.PhraseSet `json:"words,omitempty"`
	// Texts that have versions: privacy notice, terms and the like.
	Documents []document.Document `json:"documents,omitempty" jsonschema:"maxItems=100"`
	// The purpose that has to be agreed to before a visitor is put into a group by chance, where agreement is needed
	// first (rule E8); measurement if absent.
	Experiments string `json:"experiments,omitempty" jsonschema:"maxLength=60"`
}

// ExperimentPurpose returns the purpose that rule E8 names.
func (s Site) ExperimentPurpose() string { return cmp.Or(s.Experiments, consent.Measurement) }

// NoStorage is what shows where a visitor's browser keeps nothing.
type NoStorage string

const (
	StorageAll      NoStorage = "all"      // everything, on each page anew
	StorageWarnings NoStorage = "warnings" // warnings and above
	StorageNone     NoStorage = "none"     // emergencies alone
)

func (NoStorage) Values() []string { return closed.Strings(StorageAll, StorageWarnings, StorageNone) }

// A SectionLanguage is the language of a page and all below it, of those that do not say
// their own.
type SectionLanguage struct {
	Path string `json:"path" jsonschema:"minLength=1,maxLength=2048"`
	// BCP 47 tag.
	Language string `json:"language" jsonschema:"minLength=2,maxLength=35"`
}

// A StartingPoint is a notice that others are begun with. Its state and id do not count.
type StartingPoint struct {
	Name string `json:"name" jsonschema:"minLength=1,maxLength=100"`
	// The other sites of the installation can begin notices with it too.
	Shared bool `json:"shared,omitempty"`
	// When to use it.
	For    string `json:"for,omitempty" jsonschema:"maxLength=300"`
	Notice Notice `json:"notice"`
}

// A RuleSet is rules that are given to notices together, under a name. What is absent is left
// as a notice has it.
type RuleSet struct {
	Name     string            `json:"name" jsonschema:"minLength=1,maxLength=100"`
	Pages    *pages.Conditions `json:"pages,omitempty"`
	Audience *audience.Node    `json:"audience,omitempty"`
	Schedule *schedule.Plan    `json:"schedule,omitempty"`
	Memory   *Memory           `json:"memory,omitempty"`
}

// Notice returns a notice that has these rules and nothing else.
func (r RuleSet) Notice() Notice {
	return Notice{Kind: KindBar, Pages: r.Pages, Audience: r.Audience, Schedule: r.Schedule, Memory: r.Memory}
}

// A SavedWording is a text in one or more languages, by BCP 47 tag.
type SavedWording struct {
	Name     string             `json:"name" jsonschema:"minLength=1,maxLength=100"`
	Wordings map[string]Wording `json:"wordings"`
}

// A Colour is a named colour of a site.
type Colour struct {
	Name string `json:"name" jsonschema:"minLength=1,maxLength=60"`
	// Six hex digits, such as #0b5a66.
	Value string `json:"value" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
}

// A Page is a known page of the site.
type Page struct {
	Path     string   `json:"path" jsonschema:"minLength=1,maxLength=2048"`
	Title    string   `json:"title,omitempty" jsonschema:"maxLength=500"`
	Type     string   `json:"type,omitempty" jsonschema:"maxLength=60"`
	Language string   `json:"language,omitempty" jsonschema:"maxLength=35"`
	Tags     []string `json:"tags,omitempty" jsonschema:"maxItems=100"`
	// Selectors of spots that were looked for on it and not found, when it was last
	// read. No part of the document.
	Lost []string `json:"-"`
	// Where those are that were found, by selector. No part of the document.
	Spots map[string]Extent `json:"-"`
	// When it was first found on the site; zero where it was among the first that were.
	// No part of the document.
	Since time.Time `json:"-"`
}

// An Extent is where an element lies in a page: how many beginnings and ends of
// elements come before its own beginning, and before its end.
type Extent struct {
	From int `json:"from"`
	To   int `json:"to"`
}

// Of returns where a side of the element is, so that what comes first in the page
// has the lesser number.
func (e Extent) Of(w Where) int {
	switch w {
	case Before, Instead:
		return 4*e.From - 1
	case First:
		return 4*e.From + 1
	case Last:
		return 4*e.To - 1
	}
	return 4*e.To + 1
}

// A Notice is something the site tells its visitors. With every optional
// field missing it is a valid draft.
type Notice struct {
	ID    string `json:"id" jsonschema:"pattern=^[a-z0-9]+(-[a-z0-9]+)*$,maxLength=64"`
	Kind  Kind   `json:"kind"`
	Title string `json:"title,omitempty" jsonschema:"maxLength=200"` // a working title; visitors never see it
	State State  `json:"state,omitempty"`
	// Nothing is live before it.
	PublishedAt *time.Time `json:"publishedAt,omitempty"`
	Level       Level      `json:"level,omitempty"`
	// Among notices of one level the higher rank goes first; 50 if absent.
	Rank *int `json:"rank,omitempty" jsonschema:"minimum=0,maximum=100"`
	Slot Slot `json:"slot,omitempty"`
	// sticking: floats at its edge of the window. scrolling (the default): lies in the page and scrolls away with it.
	Position Position `json:"position,omitempty"`
	// Where in the page it stands, in the slot inline.
	Spot *Spot `json:"spot,omitempty"`
	// Spots on pages of another make: those for the page are tried in this order, before spot.
	Spots    []Spot            `json:"spots,omitempty" jsonschema:"maxItems=20"`
	Schedule *schedule.Plan    `json:"schedule,omitempty"`
	Pages    *pages.Conditions `json:"pages,omitempty"`
	// Whom it is for; everyone if absent.
	Audience *audience.Node `json:"audience,omitempty"`
	// The notice that it is a copy of; it goes its own way.
	CopyOf *Copy `json:"copyOf,omitempty"`
	// The message it was made from, if it came by a feed.
	Source  *Source  `json:"source,omitempty"`
	Memory  *Memory  `json:"memory,omitempty"`
	Look    *Look    `json:"look,omitempty"`
	Content *Content `json:"content,omitempty"`
	// What it is to bring about, and how that is found out.
	Experiment *Experiment `json:"experiment,omitempty"`
}

// Memory is what keeps a notice from a visitor who has met it: acts of theirs
// (rule M1) and how often it was shown (rule M2), both remembered in the
// visitor's own browser. A period is page, session, ever, or an ISO 8601
// duration such as P1D or PT12H.
type Memory struct {
	// Whether the visitor can close it; true if absent.
	Closable *bool `json:"closable,omitempty"`
	// What closes it: a cross (the default), a button with words, or both.
	CloseWith CloseWith `json:"closeWith,omitempty"`
	// A visitor can fold it away; a tab at the edge then opens it again.
	Foldable bool `json:"foldable,omitempty"`
	// In the middle or over everything: a press outside closes it too.
	CloseOutside bool `json:"closeOutside,omitempty"`
	// It closes by itself once nothing was done with it for so long, PT20S at least (WCAG 2.2 §2.2.1).
	CloseAfter Period `json:"closeAfter,omitempty" jsonschema:"maxLength=40"`
	// How long it stays away once closed; "page" if absent.
	HideAfterClose Period `json:"closed,omitempty" jsonschema:"maxLength=40"`
	// How long it stays away once its link was followed; not at all if absent.
	HideAfterClick Period `json:"clicked,omitempty" jsonschema:"maxLength=40"`
	// How long it stays away once its goal was reached; not at all if absent.
	HideAfterConversion Period `json:"converted,omitempty" jsonschema:"maxLength=40"`
	// How long it stays away once its question was answered; not at all if absent.
	HideAfterAnswer Period `json:"answered,omitempty" jsonschema:"maxLength=40"`
	// All of them hold.
	Limits []Limit `json:"limits,omitempty" jsonschema:"maxItems=10"`
}

// A CloseWith is what a visitor closes a notice by.
type CloseWith string

const (
	Cross  CloseWith = "cross"
	Button CloseWith = "button"
	Both   CloseWith = "both"
)

func (CloseWith) Values() []string { return closed.Strings(Cross, Button, Both) }

// A Limit is how often a notice is shown to a visitor within a rolling period.
type Limit struct {
	Times int `json:"times" jsonschema:"minimum=1,maximum=1000"`
	// session, or a duration such as P7D.
	Per Period `json:"per" jsonschema:"minLength=1,maxLength=40"`
}

// Content is what a notice says, in each language.
type Content struct {
	// By BCP 47 tag.
	Wordings map[string]Wording `json:"wordings,omitempty"`
	Picture  *Picture           `json:"picture,omitempty"`
	// How the longer message comes: it unfolds below (the default), or stands in a dialog; by a button (the default), or
	// by a press anywhere on the notice besides.
	DetailsAs DetailsAs `json:"detailsAs,omitempty"`
	DetailsBy DetailsBy `json:"detailsBy,omitempty"`
	// Stands where a message has {countdown}, or at its end.
	Countdown *countdown.Countdown `json:"countdown,omitempty"`
	// How a notice of kind consent asks.
	Consent *consent.Question `json:"consent,omitempty"`
	// How a notice of kind disclaimer asks.
	Disclaimer *Disclaimer `json:"disclaimer,omitempty"`
	// Id of a document whose text stands below the message.
	Document string `json:"document,omitempty" jsonschema:"maxLength=64"`
	// Ids of documents that are listed as links below the message; * for all that are out.
	Documents []string `json:"documents,omitempty" jsonschema:"maxItems=100"`
	// What a notice is made of below its message, a block above all.
	Rows []Row `json:"rows,omitempty" jsonschema:"maxItems=20"`
	// What holds for the form that its fields are.
	Form *form.Form `json:"form,omitempty"`
	// What a notice of kind code puts into pages.
	Code *PageCode `json:"code,omitempty"`
	// A short sound as it comes, once the visitor has done something on the page.
	Sound Sound `json:"sound,omitempty"`
	// In the tab title: each paragraph of the message is a title, shown in turn while the visitor is in another tab.
	// Without it the message stands in the title all the time.
	Tab *Tab `json:"tab,omitempty"`
}

// A Sound is one of those that ship.
type Sound string

const (
	Bell  Sound = "bell"
	Knock Sound = "knock"
)

func (Sound) Values() []string { return closed.Strings(Bell, Knock) }

// A Tab is how titles are shown in the tab of a visitor who is elsewhere (rule F7).
type Tab struct {
	// How long after they left the first is shown, and how long each stays; PT2S if absent.
	First Period `json:"first,omitempty" jsonschema:"maxLength=40"`
	Gap   Period `json:"gap,omitempty" jsonschema:"maxLength=40"`
	// In place of the page's own icon.
	Icon *TabIcon `json:"icon,omitempty"`
}

// A TabIcon is a file of the site, or an icon of the set that ships on a field.
type TabIcon struct {
	File string `json:"file,omitempty" jsonschema:"pattern=^[0-9a-f]{16}[.](jpg|png|webp|gif)$"`
	Name string `json:"name,omitempty" jsonschema:"maxLength=60"`
	// Its field, six hex digits.
	Field string `json:"field,omitempty" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
	// A number on it.
	Number int `json:"number,omitempty" jsonschema:"minimum=1,maximum=99"`
}

// A DetailsAs is what a longer message comes as.
type DetailsAs string

const (
	Unfold DetailsAs = "unfold"
	Dialog DetailsAs = "dialog"
)

func (DetailsAs) Values() []string { return closed.Strings(Unfold, Dialog) }

// A DetailsBy is what opens a longer message.
type DetailsBy string

const (
	ByButton DetailsBy = "button"
	ByPress  DetailsBy = "bar"
)

func (DetailsBy) Values() []string { return closed.Strings(ByButton, ByPress) }

// A Wording is one language's text of a notice. Link and Details exclude each other.
type Wording struct {
	// Stands above the message, apart from it.
	Headline string `json:"headline,omitempty" jsonschema:"maxLength=200"`
	// HTML of the safe subset: p, br, strong, b, em, i, a, ul, ol, li, span.
	Message string `json:"message,omitempty" jsonschema:"maxLength=20000"`
	// Where the notice leads.
	Link *Link `json:"link,omitempty"`
	// Where a second button leads, beside the first.
	Second *Link `json:"second,omitempty"`
	// A longer message that a press of More opens: HTML of the same subset, with h2, h3 and pictures of the site besides,
	// <img src="image:FILE" alt="…">.
	Details string `json:"details,omitempty" jsonschema:"maxLength=20000"`
	// What the message becomes once the countdown has run out, if it is to say something else then; HTML of the same
	// subset.
	ExpiredMessage string `json:"afterEnd,omitempty" jsonschema:"maxLength=20000"`
	// Own words for the countdown's units, by unit and plural form (CLDR): {"days": {"one": "sleep", "other": "sleeps"}}.
	Labels countdown.OwnLabels `json:"labels,omitempty"`
	// What the picture shows, for those who do not see it.
	Alt string `json:"alt,omitempty" jsonschema:"maxLength=500"`
	// Own words on the buttons of a disclaimer: that acknowledges or says yes, and that says no.
	Confirm string `json:"confirm,omitempty" jsonschema:"maxLength=100"`
	Decline string `json:"decline,omitempty" jsonschema:"maxLength=100"`
	// What the program says to visitors, in words of this notice: {"accept": "Yes to all"}.
	Words phrase.Own `json:"words,omitempty"`
	// What the parts of a block say, by their ids.
	Parts map[string]PartWords `json:"parts,omitempty"`
	// A machine drafted it and nobody has read it: it is not delivered.
	Unread bool `json:"unread,omitempty"`
	// Mark (Wording.Mark) of the text in the site's language that it was translated from.
	SourceMark string `json:"source,omitempty" jsonschema:"maxLength=64"`
	// HTML of the documents that stand below the message, put there by Linked and safe.
	DocumentLinks string `json:"-"`
	// Words of the site in place of the program's, put there by Prepared.
	SiteWords phrase.Own `json:"-"`
}

// A Link leads from a notice to a page.
type Link struct {
	// A path of the site, an http, https, mailto or tel address, or document: and the id of a document.
	Href  string `json:"href" jsonschema:"minLength=1,maxLength=2048"`
	Label string `json:"label,omitempty" jsonschema:"maxLength=200"`
	// same (the default): in this tab. new: in a new one.
	Opens string `json:"opens,omitempty" jsonschema:"enum=same,enum=new"`
	// button (the default): a button beside the words. link: words beside them. bar: the whole bar is the link.
	As string `json:"as,omitempty" jsonschema:"enum=button,enum=link,enum=bar"`
}

// Displays reports whether the master switch is on.
func (s Site) Displays() bool { return s.Display == nil || *s.Display }

// Homes returns the home paths in normal form, "/" if none are named. What is
// no path is left out; Check says so.
func (s Site) Homes() []string {
	if len(s.HomePaths) == 0 {
		return []string{"/"}
	}
	var homes []string
	for _, h := range s.HomePaths {
		if p, err := pages.NormalPath(h); err == nil {
			homes = append(homes, p)
		}
	}
	return homes
}

// Names returns what page conditions of the site may refer to, but for its pages. The faults are
// those of the page sets.
func (s Site) Names() (pages.Names, fault.Faults) { return pages.NewNames(s.Homes(), nil, s.PageSets) }

// Names returns what page conditions of the site may refer to. The faults are
// those of the page sets.
func (b Bundle) Names() (pages.Names, fault.Faults) {
	listed := make([]string, 0, len(b.Pages))
	for _, p := range b.Pages {
		if path, err := pages.NormalPath(p.Path); err == nil { // Check has refused the others
			listed = append(listed, path)
		}
	}
	return pages.NewNames(b.Site.Homes(), listed, b.Site.PageSets)
}

// AllLanguages returns the site's languages, the fallback first.
func (s Site) AllLanguages() []string {
	out := []string{s.Language}
	for _, l := range s.Languages {
		if l != s.Language {
			out = append(out, l)
		}
	}
	return out
}

// Sections are the languages of a site's sections, the innermost first, with their paths
// in normal form: so the first that a page lies in is the one that counts. A section that
// is named as a language of the site, /de, counts as one of them, unless it is listed.
type Sections struct {
	list      []SectionLanguage
	languages []string
	other     string
}

// Sections returns the languages of pages that do not say their own.
func (s Site) Sections() Sections {
	out := Sections{languages: s.AllLanguages(), other: s.Language}
	for _, l := range s.SectionLanguages {
		if path, err := pages.NormalPath(l.Path); err == nil { // Check has refused the others
			out.list = append(out.list, SectionLanguage{path, l.Language})
		}
	}
	slices.SortStableFunc(out.list, func(a, b SectionLanguage) int { return cmp.Compare(len(b.Path), len(a.Path)) })
	return out
}

// Language returns the language of a page at a path in normal form that does not say its
// own: that of the innermost section that has one, or the site's.
func (s Sections) Language(path string) string {
	named := pages.NamedLanguage(path, s.languages)
	for _, l := range s.list {
		if pages.Below(path, l.Path) && (named == "" || l.Path != "/") {
			return l.Language
		}
	}
	return cmp.Or(named, s.other)
}

// NeedsStorage reports whether a notice stays away where a visitor's browser keeps
// nothing (rule M5): not what is part of the page, nor what has to be answered to go on.
func (s Site) NeedsStorage(n Notice) bool {
	if d, is := n.Disclaimer(); is && d.GetAsk() != AskRead || n.GetSlot().Unlimited() || n.GetLevel() == Emergency {
		return false
	}
	return s.NoStorage == StorageNone || s.NoStorage == StorageWarnings && n.GetLevel() != Warning
}

// Hosts returns the hosts of the site's addresses, each with and without www., in lower case.
func (s Site) Hosts() []string {
	var out []string
	for _, o := range s.Origins {
		if origin, err := pages.Origin(o); err == nil {
			u, _ := url.Parse(origin) // it is one
			bare := strings.TrimPrefix(u.Hostname(), "www.")
			out = append(out, bare)
			if _, err := netip.ParseAddr(bare); err != nil {
				out = append(out, "www."+bare)
			}
		}
	}
	return out
}

// Domains returns the registrable domains of the site's addresses, as the public suffix
// list has them; none of an address that is a number, or within nobody's domain.
func (s Site) Domains() []string {
	var out []string
	for _, o := range s.Origins {
		u, err := url.Parse(o)
		if err != nil {
			continue
		}
		if _, err := netip.ParseAddr(u.Hostname()); err == nil {
			continue
		}
		d, err := publicsuffix.EffectiveTLDPlusOne(u.Hostname())
		if err == nil && !slices.Contains(out, d) {
			out = append(out, d)
		}
	}
	return out
}

// OwnCookie is the name of the cookie in which the program keeps what visitors' browsers
// remember, where the site shares that between its hosts (rule M6).
func (s Site) OwnCookie() string { return "mastflag." + s.Key }

// HidesOwnCookie reports whether the site shares that, and its inventory does not list the
// cookie.
func (s Site) HidesOwnCookie() bool {
	return s.SharedMemory && !slices.ContainsFunc(s.Setup().Inventory, func(i consent.Item) bool {
		return i.Fits(consent.Cookie, s.OwnCookie(), "")
	})
}

// SlotCapacity returns how many notices a slot holds at once (rule D2).
func (s Site) SlotCapacity(slot Slot) int {
	slot = slot.Shared()
	if n, ok := s.Capacity[slot]; ok {
		return n
	}
	if n := slot.Row().Capacity; n > 0 {
		return n
	}
	return math.MaxInt32
}

// The accessors below give an absent field its meaning.

func (n Notice) GetState() State       { return or(n.State, Draft) }
func (n Notice) GetLevel() Level       { return or(n.Level, Information) }
func (n Notice) GetSlot() Slot         { return or(n.Slot, n.Kind.row().Slot) }
func (n Notice) GetPosition() Position { return or(n.Position, n.Kind.row().Position) }
func (n Notice) GetTitle() string {
	return or(n.Title, n.ID)
}
func (n Notice) GetRank() int {
	if n.Rank == nil {
		return 50
	}
	return *n.Rank
}
func (n Notice) GetPublishedAt() time.Time {
	if n.PublishedAt == nil {
		return time.Time{}
	}
	return *n.PublishedAt
}
func (n Notice) GetSchedule() schedule.Plan {
	if n.Schedule == nil {
		return schedule.Plan{}
	}
	return *n.Schedule
}
func (n Notice) GetPages() pages.Conditions {
	if n.Pages == nil {
		return pages.Conditions{}
	}
	return *n.Pages
}
func (n Notice) GetAudience() audience.Node {
	if n.Audience == nil {
		return audience.Node{Group: audience.All}
	}
	return *n.Audience
}
func (n Notice) GetMemory() Memory {
	if n.Memory == nil {
		return Memory{}
	}
	return *n.Memory
}

// Closable reports whether a visitor can close the notice. One that has to be
// acknowledged or declared stays until it is; what stands over the page and asks for
// nothing of the kind can always be closed, or else folded away (rule F1).
func (n Notice) Closable() bool {
	if d, ok := n.Disclaimer(); ok && d.Answered() {
		return false
	}
	if n.GetSlot().Row().Over && n.Kind != KindConsent && !n.GetMemory().Foldable {
		return true
	}
	return n.Memory == nil || n.Memory.Closable == nil || *n.Memory.Closable
}

// Foldable reports whether a visitor can fold the notice away. A question stays until it is
// answered, and what stands nowhere on the page cannot be folded.
func (n Notice) Foldable() bool {
	d, _ := n.Disclaimer()
	return n.GetMemory().Foldable && n.Kind != KindConsent && n.Kind != KindCode && !d.Answered() &&
		n.GetSlot() != TabTitle
}

// ClosesOutside reports whether a press outside closes the notice: only what stands over the
// page has an outside.
func (n Notice) ClosesOutside() bool {
	return n.GetMemory().CloseOutside && n.Closable() && n.GetSlot().Row().Over
}

// ClosesAfter returns after how long without anything done with it the notice closes by
// itself; 0 if it does not.
func (n Notice) ClosesAfter() time.Duration {
	if !n.Closable() || n.Kind == KindConsent || n.GetSlot() == Inline {
		return 0
	}
	d, _ := n.GetMemory().CloseAfter.clock()
	return d
}

// Tab returns how titles are shown in the tab, nil if they are not.
func (n Notice) Tab() *Tab {
	if n.Content == nil || n.GetSlot() != TabTitle {
		return nil
	}
	return n.Content.Tab
}

// Sound returns the sound that the notice comes with, "" if none.
func (n Notice) Sound() Sound {
	if n.Content == nil {
		return ""
	}
	return n.Content.Sound
}

// Delays returns how long after a visitor left the first title is shown, and how long each
// stays.
func (t Tab) Delays() (first, gap time.Duration) {
	const usual = 2 * time.Second
	first, gap = usual, usual
	if d, ok := t.First.clock(); ok {
		first = d
	}
	if d, ok := t.Gap.clock(); ok {
		gap = d
	}
	return first, gap
}

func (t Tab) check() fault.Faults {
	var faults fault.Faults
	faults = append(faults, checkBetween("/first", t.First, time.Second, time.Hour)...)
	faults = append(faults, checkBetween("/gap", t.Gap, time.Second, time.Hour)...)
	if i := t.Icon; i != nil {
		if (i.File == "") == (i.Name == "") {
			faults = append(faults, fault.Fault{
				Pointer: "/icon", What: "an icon is either a file or one of the set, and one of both",
				Remedy: "give file, or name",
			})
		}
		if _, ok := icon.Get(i.Name); i.Name != "" && !ok {
			faults = append(faults, fault.Fault{
				Pointer: "/icon/name", What: fmt.Sprintf("there is no icon %q", i.Name), Remedy: "choose one of the set",
			})
		}
	}
	return faults
}

// ClosedFor returns how long the notice stays away once closed.
func (n Notice) ClosedFor() Period {
	if n.Memory == nil {
		return PeriodPage
	}
	return or(n.Memory.HideAfterClose, PeriodPage)
}

// Wordings returns what the notice says, by language tag.
func (n Notice) Wordings() map[string]Wording {
	if n.Content == nil {
		return nil
	}
	return n.Content.Wordings
}

// Countdown returns the countdown of a notice, nil if it has none.
func (n Notice) Countdown() *countdown.Countdown {
	if n.Content == nil {
		return nil
	}
	return n.Content.Countdown
}

// Question returns how a notice of kind consent asks.
func (n Notice) Question() consent.Question {
	if n.Content == nil || n.Content.Consent == nil {
		return consent.Question{}
	}
	return *n.Content.Consent
}

// Setup returns what the site sets and asks about.
func (s Site) Setup() consent.Setup {
	if s.Consent == nil {
		return consent.Setup{}
	}
	return *s.Consent
}

func or[T comparable](v, absent T) T {
	var zero T
	if v == zero {
		return absent
	}
	return v
}
