package decide

import (
	"fmt"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/countdown"
	"mastflag/core/fault"
	"mastflag/core/moment"
	"mastflag/core/schedule"
)

// countdownRules is what a countdown, its own or another's, does to when a notice
// shows (rule C4).
type countdownRules struct {
	count *countdown.Count
	// The notice's time as it is written, before countdowns that run out for
	// everyone at once shorten it.
	fullSchedule schedule.Schedule
	// Who hands over to it, by index; it does not show before one of them has.
	predecessors []int32
	// When the first of them can, and whether none ever does.
	firstRelease  time.Time
	neverReleased bool
	// That depends on the visitor, or on the visitor's clock.
	dependsOnVisit bool
}

// linkHandOvers lets each notice that another hands over to begin when that
// happens. What runs out for everyone at once becomes part of its time.
func (s *Site) linkHandOvers(first string) {
	for i := range s.notices {
		n := &s.notices[i]
		if n.count == nil || n.count.GetThen() != countdown.HandOver || n.GetState() != bundle.Published {
			continue
		}
		if to, ok := s.ids[n.count.HandTo]; ok && to != int32(i) && n.count.HandTo != first {
			s.notices[to].predecessors = append(s.notices[to].predecessors, int32(i))
		}
	}
	for i := range s.notices {
		s.notices[i].fullSchedule = s.notices[i].schedule
	}
	settled := make([]bool, len(s.notices))
	for i := range s.notices {
		if s.notices[i].ID != first { // a rehearsal shows it whatever the time
			s.settle(int32(i), settled)
		}
	}
}

// settle shortens a notice's time by its countdown and by those that hand over to
// it. An heir begins when the first of them can have run out for anyone: a visitor's own
// countdown by the time of its notice, which is settled before; in a circle of such as far
// as that goes.
func (s *Site) settle(i int32, settled []bool) {
	n := &s.notices[i]
	if settled[i] {
		return
	}
	settled[i] = true
	if n.count != nil && n.count.Leaves() {
		over, fixed := n.count.Fixed()
		if fixed {
			n.schedule = n.schedule.Within(time.Time{}, over)
		}
		n.dependsOnVisit = !fixed
	}
	var earliest time.Time
	for _, a := range n.predecessors {
		predecessor := &s.notices[a]
		if predecessor.count.Kind == countdown.Visitor {
			s.settle(a, settled)
		}
		if _, fixed := predecessor.count.Fixed(); !fixed {
			n.dependsOnVisit = true
		}
		if over := predecessor.soonest(); !over.IsZero() && (earliest.IsZero() || over.Before(earliest)) {
			earliest = over
		}
	}
	switch {
	case len(n.predecessors) == 0:
	case earliest.IsZero():
		n.neverReleased = true
		n.schedule = n.schedule.Within(time.Unix(0, 0), time.Unix(0, 0))
	default:
		n.firstRelease = earliest
		n.schedule = n.schedule.Within(earliest, time.Time{})
	}
}

// soonest returns the earliest instant at which the countdown of a notice can have
// run out for anyone; zero if it never does.
func (n *notice) soonest() time.Time {
	if n.count.Kind != countdown.Visitor {
		return n.count.Soonest(time.Time{})
	}
	live, met := n.schedule.SiteAt(time.Time{})
	switch {
	case live: // from publishing, or ever since
		met = n.GetPublishedAt()
	case met.IsZero():
		return met
	}
	return n.count.Soonest(met)
}

// over returns when the countdown of a notice has run out for good for the
// visit, zero for never.
func (n *notice) over(e *evaluation) time.Time {
	return n.count.Over(e.visit.At, e.zone(), e.visit.Memory.Notices[n.ID].Met)
}

// begun reports whether the countdown of a notice runs for the visit: a visitor's own
// begins when they first see it.
func (n *notice) begun(e *evaluation) bool {
	return n.count.Kind != countdown.Visitor || !e.visit.Memory.Notices[n.ID].Met.IsZero()
}

// Countdown returns the countdown of the notice of that id, nil if it has none.
func (s *Site) Countdown(id string) *countdown.Count { return s.byID(id).count }

// FullSchedule returns when the notice of that id would be live if no countdown
// shortened its time.
func (s *Site) FullSchedule(id string) schedule.Schedule { return s.byID(id).fullSchedule }

// compileCountdown reads the countdown of a notice, if it has one.
func compileCountdown(n bundle.Notice, zone *time.Location) (*countdown.Count, fault.Faults) {
	c := n.Countdown()
	if c == nil {
		return nil, nil
	}
	k, faults := countdown.Compile(*c, zone)
	return k, faults.Under("/content/countdown")
}

// countdownStep says what countdowns do to a notice's time; kept is false where
// they are not what keeps it away.
func (s *Site) countdownStep(n *notice, e *evaluation) (st Step, kept bool) {
	st = Step{Gate: GateSchedule, Rule: "C4", Pointer: "/content/countdown"}
	say := func(t time.Time) string { return moment.Say(t, e.visit.At, s.zone) }
	at := e.visit.At
	whole := n.fullSchedule
	if n.count != nil && n.count.Leaves() {
		over, fixed := n.count.Fixed()
		switch {
		case fixed && !over.After(n.GetPublishedAt()):
			st.Why = fmt.Sprintf("Its countdown ran out %s, before it was published, so it never shows.", say(over))
			return st, true
		case fixed && !n.firstRelease.IsZero() && !over.After(n.firstRelease):
			st.Why = fmt.Sprintf(
				"Its countdown runs out %s, before “%s” hands over to it, so it never shows.", say(over),
				s.notices[n.predecessors[0]].GetTitle(),
			)
			return st, true
		}
		if live, _ := whole.At(at, e.zone()); fixed && live && !at.Before(over) {
			st.Why = fmt.Sprintf("Its countdown ran out %s, so it %s.", say(over), departure(n.count))
			return st, true
		}
	}
	if len(n.predecessors) > 0 && !n.dependsOnVisit {
		live, _ := whole.At(at, e.zone())
		if begun, next := n.schedule.At(at, e.zone()); live && !begun && !next.IsZero() {
			predecessor := &s.notices[n.predecessors[0]]
			st.Why = fmt.Sprintf("It takes the place of “%s”, whose countdown runs out %s.", predecessor.GetTitle(), say(next))
			return st, true
		}
	}
	if n.neverReleased {
		st.Why = fmt.Sprintf(
			"It takes the place of “%s”, whose countdown goes on without end.", s.notices[n.predecessors[0]].GetTitle(),
		)
		return st, true
	}
	if !n.dependsOnVisit {
		return st, false
	}
	release := s.countdownGate(n, e)
	blocker, next := release.blocker, release.next
	if blocker == nil {
		return st, false
	}
	if blocker.count.Kind == countdown.Visitor {
		st.Gate = GateMemory
	}
	switch {
	case blocker == n:
		st.Why = fmt.Sprintf(
			"Its countdown ran out for this visitor %s, so it %s.", moment.Say(n.over(e), at, e.zone()), departure(n.count),
		)
	case blocker.count.Kind == countdown.Visitor && next.IsZero():
		st.Why = fmt.Sprintf("It takes the place of “%s”, which this visitor has not met yet.", blocker.GetTitle())
	case next.IsZero():
		st.Why = fmt.Sprintf("It takes the place of “%s”, whose countdown goes on without end.", blocker.GetTitle())
	default:
		st.Why = fmt.Sprintf(
			"It takes the place of “%s”, whose countdown runs out for this visitor %s.", blocker.GetTitle(),
			moment.Say(next, at, e.zone()),
		)
	}
	return st, true
}

func departure(c *countdown.Count) string {
	if c.GetThen() == countdown.HandOver {
		return "gave way to the next"
	}
	return "disappeared"
}
