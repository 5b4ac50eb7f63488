package delivery

import (
	"mastflag/core/audience"
	"mastflag/core/consent"
	"mastflag/internal/compiled"
)

// The shapes of the answer to a page view. It is joined from pieces that were encoded when
// the site was compiled (reply), so these are never written whole: they are what its
// readers have, and the site script's are derived from them.

// An Answer says what shows on a page view. Instants are ms since 1970 by the server's clock.
type Answer struct {
	At int64 `json:"at"`
	// When the answer runs out; null for never.
	Until *int64 `json:"until"`
	Show  []Bar  `json:"show"`
	// What shows once its remainder holds.
	Waiting []Waiting `json:"waiting,omitempty"`
	// The moment that each notice's countdown is about, by id.
	Ends map[string]int64 `json:"ends,omitempty"`
	// What holds of the visitor's consent, where the site asks for it.
	Consent *ConsentState `json:"consent,omitempty"`
	// What takes answers to disclaimers needs, where the page carries one.
	Disclaimer *DisclaimerState `json:"disclaimer,omitempty"`
	// What it takes to tell what became of the notices.
	Results *CountState `json:"results,omitempty"`
	// How many notices each slot holds; with waiting.
	Capacity map[string]int `json:"capacity,omitempty"`
	// The facts to send from now on, as version:names; absent where they are known.
	Wants string `json:"wants,omitempty"`
	// When the preview ends, if this is one.
	Preview int64 `json:"preview,omitempty"`
}

// A Bar is a notice, in whatever slot, as the site script places it. Of one whose tag the page has said it has, only
// id, tag and what is of this page come.
type Bar struct {
	compiled.Piece
	// Which of its spots are for this page, in the order in which they are tried; all if absent.
	At []int `json:"at,omitempty"`
}

// Waiting is a notice that shows once its remainder holds.
type Waiting struct {
	Bar
	Remainder *audience.Node `json:"remainder"`
}

// ConsentState is what holds of a visitor's consent.
type ConsentState struct {
	Rule     consent.Rule `json:"rule"`
	Granted  []string     `json:"granted"`
	Answered bool         `json:"answered"`
	// The browser's privacy signal counts here.
	Signal bool `json:"signal,omitempty"`
	// The fingerprint of what the notice that asks shows here.
	Hash string `json:"hash"`
	// Lets this page tell what was answered, for a while.
	Mark string `json:"mark"`
	// Encoded when the site was compiled; only its tag where the page has said that it has that.
	Part *compiled.ConsentPart `json:"part"`
}

// DisclaimerState is what a page that carries disclaimers needs to take answers.
type DisclaimerState struct {
	compiled.DisclaimerPart
	// Lets this page tell what was answered, for a while.
	Mark string `json:"mark"`
}
