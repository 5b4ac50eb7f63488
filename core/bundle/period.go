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

// An ActPeriod is how long a notice stays away after one kind of act.
type ActPeriod struct {
	Name   string // closed, clicked, converted or answered
	Period Period // "" if the act has no effect
}

// Acts lists the acts after which a notice stays away, with their periods as
// written.
func (m Memory) Acts() []ActPeriod {
	return []ActPeriod{
		{"closed", m.HideAfterClose}, {"clicked", m.HideAfterClick}, {"converted", m.HideAfterConversion},
		{"answered", m.HideAfterAnswer},
	}
}
