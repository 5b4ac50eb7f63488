package viewpoint

import (
	"time"

	"mastflag/core/bundle"
	"mastflag/core/closed"
	"mastflag/core/decide"
	"mastflag/core/orderline"
	"mastflag/core/wording"
)

// The flags.
const (
	FlagDraft     Flag = "draft"
	FlagScheduled Flag = "scheduled"
	FlagLive      Flag = "live"
	FlagPaused    Flag = "paused"
	FlagEnded     Flag = "ended"
)

// A LanguageState is how a notice's words in a language stand.
type LanguageState struct {
	Tag   string         `json:"tag"`
	State wording.Status `json:"state"`
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
