package outcomes

import (
	"time"

	"mastflag/core/bundle"
	"mastflag/core/results"
	"mastflag/internal/admin/viewpoint"
)

// A ResultQuery is which days are meant; the last 30 if it is empty.
type ResultQuery struct {
	// Days on the site's calendar, both included.
	From  string `json:"from,omitempty" form:"from"`
	Until string `json:"until,omitempty" form:"until"`
	// Of a notice: what its sums are told apart by besides days.
	By string `json:"by,omitempty" form:"by" jsonschema:"enum=page,enum=device,enum=wording,enum=variant,enum=version"`
}

// SiteResults is what came of a site's notices.
type SiteResults struct {
	From  string `json:"from"`
	Until string `json:"until"`
	// These days as instants.
	Strip Strip `json:"strip"`
	// Those that were seen in these days, the most seen first.
	Notices []NoticeSummary `json:"notices"`
	// All of them together.
	All  results.Tally   `json:"all"`
	Days []results.Tally `json:"days"`
}

// A NoticeSummary is what came of one notice.
type NoticeSummary struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	// "" of one that is deleted.
	Kind string        `json:"kind,omitempty"`
	Slot bundle.Slot   `json:"slot,omitempty"`
	All  results.Tally `json:"all"`
	// In one sentence.
	Says string `json:"says"`
}

// NoticeResults is what came of one notice in full.
type NoticeResults struct {
	NoticeSummary
	From  string          `json:"from"`
	Until string          `json:"until"`
	Days  []results.Tally `json:"days"`
	By    string          `json:"by"`
	Parts []NamedTally    `json:"parts"`
	// These days as instants, and when in them it is live by the times that are out.
	Strip Strip `json:"strip"`
	// How many acts were set aside in these days, because far too many came from one network.
	Aside int `json:"aside"`
	// What was done with it in these days.
	Deeds []NoticeDeed `json:"deeds"`
	// If it has a goal.
	Experiment *ExperimentResults `json:"experiment,omitempty"`
}

// A Strip is a stretch of the strip of time.
type Strip struct {
	From      time.Time            `json:"from"`
	Until     time.Time            `json:"until"`
	Intervals []viewpoint.Interval `json:"intervals"`
}

// A NamedTally is a part with what people call it.
type NamedTally struct {
	results.Tally
	Name string `json:"name"`
}

// A NoticeDeed is something that was done with a notice, on a day of the site's calendar.
type NoticeDeed struct {
	Day  string    `json:"day"`
	At   time.Time `json:"at"`
	Says string    `json:"says"`
}

// ExperimentResults is how many of those who met a notice reached its goal, as it is out now.
type ExperimentResults struct {
	// What visitors are to do: "follow its link".
	Goal string `json:"goal"`
	// When what is compared was published as it is; all is counted from then.
	Since  time.Time     `json:"since"`
	Groups []NamedResult `json:"groups"`
	// In one sentence, where there is something to compare.
	Verdict string `json:"verdict,omitempty"`
	// How many visitors meet it a day, on average since then.
	Daily float64 `json:"daily"`
	// How many it takes to find a difference of so many points of a hundred, at the first group's share.
	Plans []results.SamplePlan `json:"plans"`
}

// A NamedResult is the result of a group with what people call it.
type NamedResult struct {
	results.Result
	Name string `json:"name"`
}
