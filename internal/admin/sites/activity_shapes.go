package sites

import (
	"time"
)

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
