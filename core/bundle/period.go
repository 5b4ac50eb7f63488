package bundle

import "mastflag/core/schedule"

// A Period is how long an act of a visitor's has effect: "page" (this page
// view), "session", "ever", or an ISO 8601 duration such as P1D or PT12H.
type Period string

const (
	PeriodPage    Period = "page"
	PeriodSession Period = "session"
	PeriodEver    Period = "ever"
)

// check returns what is wrong with the period, or nil.
func (p Period) check() error {
	switch p {
	case "", PeriodPage, PeriodSession, PeriodEver:
		return nil
	}
	_, err := schedule.ParseSpan(string(p))
	return err
}
