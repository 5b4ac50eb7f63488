package consents

import (
	"mastflag/core/consent"
)

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
