package notices

import (
	"time"

	"mastflag/core/bundle"
	"mastflag/core/code"
	"mastflag/core/pages"
	"mastflag/internal/admin/viewpoint"
)

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
	ID       string         `json:"id"`
	Title    string         `json:"title"`
	Kind     bundle.Kind    `json:"kind"`
	Flag     viewpoint.Flag `json:"flag"`
	Revision int            `json:"revision"`
	Line     string         `json:"line"` // as a sentence
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
