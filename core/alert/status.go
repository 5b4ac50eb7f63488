package alert

import (
	"time"

	"mastflag/core/bundle"
	"mastflag/core/closed"
)

// A Status is what became of a message that came by a feed.
type Status string

const (
	Waiting  Status = "waiting"  // for a person to let it through
	Out      Status = "out"      // its notice is published
	Replaced Status = "replaced" // an update of it came
	Ended    Status = "ended"    // it was cancelled
	Refused  Status = "refused"  // a person refused it
	Expired  Status = "expired"  // its time was over when it came, or while it waited
	Ignored  Status = "ignored"  // not for the public, or not for show
	Broken   Status = "broken"   // it cannot be read
)

func (Status) Values() []string {
	return closed.Strings(Waiting, Out, Replaced, Ended, Refused, Expired, Ignored, Broken)
}

// Assess returns what becomes of a message of the feed at now, and why: Waiting
// if it is to make, change or end a notice. refers is whether what it updates,
// cancels or replaces is here and out, or waits.
func Assess(m Message, f bundle.Feed, refers bool, now time.Time) (Status, string) {
	switch {
	case m.NotPublic != "":
		return Ignored, "It is not for the public: " + m.NotPublic + "."
	case m.Kind == Other:
		return Ignored, "It answers another message; there is nothing to show."
	case m.Kind == Cancel && !refers:
		return Ignored, "It cancels a message that never came here."
	case Over(m, f, now):
		return Expired, "Its time was over."
	}
	return Waiting, ""
}

// Over reports whether the time of a message that shows something is over.
func Over(m Message, f bundle.Feed, now time.Time) bool {
	return m.Kind != Cancel && !Until(m, f).After(now)
}

// NeedsNoApproval reports whether a message of the feed that waits needs no person:
// before is the status of what it refers to, "" if that is nothing.
func NeedsNoApproval(m Message, f bundle.Feed, before Status) bool {
	switch f.GetApprove() {
	case "none":
		return true
	case "new":
		return m.Kind == Cancel || before == Out && m.Kind == Update
	}
	return false
}
