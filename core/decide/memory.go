package decide

import (
	"slices"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/schedule"
)

// act is one kind of act after which the notice stays away (rule M1).
type act struct {
	name   string
	period bundle.Period
	span   schedule.Span // where the period is a duration
}

// limit is how often the notice is shown within a period (rule M2).
type limit struct {
	times   int
	session bool
	span    schedule.Span
	per     bundle.Period
}

// A kept is why a notice stays away from a visitor: an act of theirs, or a
// limit that is reached; until is zero if that is no instant.
type absence struct {
	act     *act
	limit   *limit
	actedAt time.Time // when the act was
	shown   int       // how often within the limit's period
	until   time.Time
}

// keptAway reports whether the notice stays away because of what the visitor did
// or has seen (rules M1, M2 and M4), and why.
func (n *notice) keptAway(e *evaluation) (bool, absence) {
	memory := &e.visit.Memory
	acts, remembered := memory.Notices[n.ID]
	switch {
	case !remembered:
		return false, absence{}
	case n.GetLevel() == bundle.Emergency:
		return n.closedOnThisView(acts, memory)
	}
	for i := range n.acts {
		if away, why := n.acts[i].keepsAway(acts, e); away {
			return true, why
		}
	}
	for i := range n.limits {
		if reached, why := n.limits[i].reached(acts, e); reached {
			return true, why
		}
	}
	return false, absence{}
}

// closedOnThisView is rule M4: of an emergency only closing counts, on this page
// view, until it is updated.
func (n *notice) closedOnThisView(acts Acts, memory *Memory) (bool, absence) {
	if memory.View.IsZero() || acts.Closed.Before(memory.View) || acts.Closed.Before(n.GetPublishedAt()) {
		return false, absence{}
	}
	return true, absence{act: &act{name: "closed", period: bundle.PeriodPage}, actedAt: acts.Closed}
}

// moment returns when an act of that name was; zero if it was not.
func (a Acts) moment(name string) time.Time {
	switch name {
	case "closed":
		return a.Closed
	case "clicked":
		return a.Clicked
	case "converted":
		return a.Converted
	case "answered":
		return a.Answered
	}
	return time.Time{}
}

// keepsAway reports whether an act keeps the notice away still (rule M1).
func (a *act) keepsAway(acts Acts, e *evaluation) (bool, absence) {
	actedAt := acts.moment(a.name)
	if actedAt.IsZero() {
		return false, absence{}
	}
	why := absence{act: a, actedAt: actedAt}
	memory := &e.visit.Memory
	switch a.period {
	case bundle.PeriodEver:
		return true, why
	case bundle.PeriodPage:
		return !memory.View.IsZero() && !actedAt.Before(memory.View), why
	case bundle.PeriodSession:
		return !memory.Session.IsZero() && !actedAt.Before(memory.Session), why
	}
	why.until = a.span.After(actedAt, e.zone())
	return e.visit.At.Before(why.until), why
}

// reached reports whether the notice was shown as often as the limit allows (rule
// M2). The showing on this page view does not count: it is the one being decided.
func (l *limit) reached(acts Acts, e *evaluation) (bool, absence) {
	why := absence{limit: l}
	memory := &e.visit.Memory
	var ends []time.Time // of the showings that count, when each no longer does
	for _, shown := range acts.Shown {
		if !memory.View.IsZero() && !shown.Before(memory.View) {
			continue
		}
		if l.session {
			if memory.Session.IsZero() || shown.Before(memory.Session) {
				continue
			}
		} else {
			end := l.span.After(shown, e.zone())
			if !end.After(e.visit.At) {
				continue
			}
			ends = append(ends, end)
		}
		why.shown++
	}
	if why.shown < l.times {
		return false, absence{}
	}
	if ends != nil { // there is room once fewer are left than it allows
		slices.SortFunc(ends, time.Time.Compare)
		why.until = ends[why.shown-l.times]
	}
	return true, why
}
