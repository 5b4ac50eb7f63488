package bundle

import (
	"fmt"
	"time"

	"mastflag/core/fault"
	"mastflag/core/schedule"
)

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

// clock returns a period of hours, minutes and seconds; ok is false if it is none.
func (p Period) clock() (d time.Duration, ok bool) {
	span, err := schedule.ParseSpan(string(p))
	if err != nil {
		return 0, false
	}
	at := time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC)
	return span.After(at, time.UTC).Sub(at), true
}

// checkBetween refuses a period of seconds, minutes and hours beyond its bounds.
func checkBetween(at string, p Period, least, most time.Duration) fault.Faults {
	if p == "" {
		return nil
	}
	d, ok := p.clock()
	if ok && d >= least && d <= most {
		return nil
	}
	return fault.Faults{{
		Pointer: at,
		What:    fmt.Sprintf("%q is no time between %s and %s", string(p), least, most),
		Remedy:  "write it like PT30S (30 seconds)",
	}}
}
