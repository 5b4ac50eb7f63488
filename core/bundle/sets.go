package bundle

import (
	"slices"

	"mastflag/core/closed"
	"mastflag/core/lookup"
)

// The tables of the closed sets that decisions depend on. A member has one row, and
// what is particular to it stands there alone.

// A Kind is what sort of thing a notice is.
type Kind string

const (
	KindBar        Kind = "bar"        // an announcement across the top or the bottom
	KindAlert      Kind = "alert"      // a bar with a level, from an authority or an operator
	KindCountdown  Kind = "countdown"  // time to or since something
	KindConsent    Kind = "consent"    // asks for a choice by purpose
	KindDisclaimer Kind = "disclaimer" // a statement that is shown, or has to be acknowledged
	KindBlock      Kind = "block"      // a section that stands in the page
	KindCode       Kind = "code"       // HTML for the head, the start and the end of the body
	KindPopUp      Kind = "pop-up"     // a card over the page
	KindTabTitle   Kind = "tab-title"  // words in the title of the browser's tab
)

// A KindRow is a kind with where its notices stand if they do not say it themselves.
type KindRow struct {
	Kind     Kind
	Slot     Slot
	Position Position
}

// Kinds is every kind, in the order in which people choose.
var Kinds = []KindRow{
	{KindBar, Top, Scrolling},
	{KindAlert, Top, Scrolling},
	{KindCountdown, Top, Scrolling},
	{KindConsent, Bottom, Sticking},
	{KindDisclaimer, Top, Scrolling},
	{KindBlock, Inline, Scrolling},
	{KindCode, InCode, Scrolling},
	{KindPopUp, Centre, Scrolling},
	{KindTabTitle, TabTitle, Scrolling},
}

func (Kind) Values() []string { return closed.Column(Kinds, func(r KindRow) Kind { return r.Kind }) }

// row returns the row of a kind; that of a bar for one that is none.
func (k Kind) row() KindRow {
	if i := slices.IndexFunc(Kinds, func(r KindRow) bool { return r.Kind == k }); i >= 0 {
		return Kinds[i]
	}
	return Kinds[0]
}

// A Slot is a place on the visitor's screen.
type Slot string

const (
	Top         Slot = "top"
	Bottom      Slot = "bottom"
	CornerStart Slot = "corner-start" // where lines of text begin
	CornerEnd   Slot = "corner-end"
	Centre      Slot = "centre" // over the middle of the page
	Cover       Slot = "cover"  // over all of it
	TabTitle    Slot = "title"  // of the browser's tab
	Inline      Slot = "inline" // in the page
	InCode      Slot = "code"   // in the page's code, where nothing is seen: of every notice of kind code, and of no other
)

// A SlotRow is a slot with what is particular to it.
type SlotRow struct {
	Slot Slot
	// Where it is, in words, as on pages whose lines begin on the left; Mirrored on others.
	Where, Mirrored string
	// How many notices it holds if the site says nothing else (rule D2); 0 for any number.
	Capacity int
	// The slot whose places it takes; its own if "".
	Shares Slot
	// At an edge of the window, across it.
	Edge bool
	// Over the page, which waits until it is closed; it waits while consent is asked for (rule D4).
	Over bool
}

// SlotTable is every slot, in the order in which people choose.
var SlotTable = [...]SlotRow{
	{Slot: Top, Where: "at the top", Capacity: 2, Edge: true},
	{Slot: Bottom, Where: "at the bottom", Capacity: 1, Edge: true},
	{Slot: CornerStart, Where: "in the bottom left corner", Mirrored: "in the bottom right corner", Capacity: 1},
	{Slot: CornerEnd, Where: "in the bottom right corner", Mirrored: "in the bottom left corner", Capacity: 1},
	{Slot: Centre, Where: "in the middle", Capacity: 1, Over: true},
	{Slot: Cover, Where: "over everything", Capacity: 1, Over: true, Shares: Centre},
	{Slot: TabTitle, Where: "in the tab title", Capacity: 1},
	{Slot: Inline, Where: "in the page"},
	{Slot: InCode, Where: "into the code"},
}

// SlotCount is how many slots there are.
const SlotCount = len(SlotTable)

func (Slot) Values() []string {
	return closed.Column(SlotTable[:], func(r SlotRow) Slot { return r.Slot })
}

// Index returns the place of a slot in SlotTable, from 0; that of the top for one that
// is none.
func (s Slot) Index() int {
	return max(0, slices.IndexFunc(SlotTable[:], func(r SlotRow) bool { return r.Slot == s }))
}

// Row returns the row of a slot; that of the top for one that is none.
func (s Slot) Row() SlotRow { return SlotTable[s.Index()] }

// Unlimited reports whether a slot holds any number of notices.
func (s Slot) Unlimited() bool { return s.Row().Capacity == 0 }

// Where says the slot in words, as it is on pages in a language: "at the top", "in the
// bottom left corner".
func (s Slot) Where(tag string) string {
	row := s.Row()
	if row.Mirrored != "" && lookup.Direction(tag) == "rtl" {
		return row.Mirrored
	}
	return row.Where
}

// Shared returns the slot whose places this one takes: centre and cover have
// theirs between them (rule D2).
func (s Slot) Shared() Slot { return or(s.Row().Shares, s.Row().Slot) }

// A Position is what a bar does when the page scrolls.
type Position string

const (
	Sticking  Position = "sticking"
	Scrolling Position = "scrolling"
)

func (Position) Values() []string { return closed.Strings(Sticking, Scrolling) }

// A State is what its people have decided about a notice.
type State string

const (
	Draft     State = "draft"
	Published State = "published"
	Paused    State = "paused"
)

func (State) Values() []string { return closed.Strings(Draft, Published, Paused) }

// A Level is how much a notice matters.
type Level string

const (
	Promotion   Level = "promotion"
	Information Level = "information"
	Warning     Level = "warning"
	Emergency   Level = "emergency"
)

// Levels is every level; rivals for a slot are ordered by it, the last goes first (rule D1).
var Levels = []Level{Promotion, Information, Warning, Emergency}

func (Level) Values() []string { return closed.Strings(Levels...) }

// Strength returns how a level ranks among rivals: more goes first.
func (l Level) Strength() int { return slices.Index(Levels, l) }

// shared returns the slots that a number of places can be given for.
func shared() (out []Slot) {
	for _, r := range SlotTable {
		if r.Capacity > 0 && r.Shares == "" {
			out = append(out, r.Slot)
		}
	}
	return out
}
