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
	said    bundle.Period
}

// A kept is why a notice stays away from a visitor: an act of theirs, or a
// limit that is reached; until is zero if that is no instant.
type kept struct {
	act   *act
	limit *limit
	done  time.Time // when the act was
	shown int       // how often within the limit's period
	until time.Time
}

// away reports whether the notice stays away because of what the visitor did
// or has seen (rules M1 and M2).
func (n *notice) away(r *reading) (bool, kept) {
	m := &r.visit.Memory
	acts, met := m.Notices[n.ID]
	if !met {
		return false, kept{}
	}
	if n.GetLevel() == bundle.Emergency {
		// Rule M4: only closing counts, on this page view, until it is updated.
		if a := (act{name: "closed", period: bundle.PeriodPage}); !m.View.IsZero() && !acts.Closed.Before(m.View) && !acts.Closed.Before(n.GetPublishedAt()) {
			return true, kept{act: &a, done: acts.Closed}
		}
		return false, kept{}
	}
	for i := range n.acts {
		a := &n.acts[i]
		var done time.Time
		switch a.name {
		case "closed":
			done = acts.Closed
		case "clicked":
			done = acts.Clicked
		case "converted":
			done = acts.Converted
		case "answered":
			done = acts.Answered
		}
		if done.IsZero() {
			continue
		}
		k := kept{act: a, done: done}
		switch a.period {
		case bundle.PeriodEver:
			return true, k
		case bundle.PeriodPage:
			if !m.View.IsZero() && !done.Before(m.View) {
				return true, k
			}
		case bundle.PeriodSession:
			if !m.Session.IsZero() && !done.Before(m.Session) {
				return true, k
			}
		default:
			if k.until = a.span.After(done, r.zone()); r.visit.At.Before(k.until) {
				return true, k
			}
		}
	}
	for i := range n.limits {
		l := &n.limits[i]
		k := kept{limit: l}
		var ends []time.Time // of the showings that count, when each no longer does
		for _, shown := range acts.Shown {
			if !m.View.IsZero() && !shown.Before(m.View) {
				continue // on this page view: it is the showing that is being decided
			}
			if l.session {
				if m.Session.IsZero() || shown.Before(m.Session) {
					continue
				}
			} else {
				end := l.span.After(shown, r.zone())
				if !end.After(r.visit.At) {
					continue
				}
				ends = append(ends, end)
			}
			k.shown++
		}
		if k.shown < l.times {
			continue
		}
		if ends != nil { // there is room once fewer are left than it allows
			slices.SortFunc(ends, time.Time.Compare)
			k.until = ends[k.shown-l.times]
		}
		return true, k
	}
	return false, kept{}
}
