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

// counting is what a countdown, its own or another's, does to when a notice
// shows (rule C4).
type counting struct {
	count *countdown.Count
	// The notice's time as it is written, before countdowns that run out for
	// everyone at once shorten it.
	whole schedule.Schedule
	// Who hands over to it, by index; it does not show before one of them has.
	after []int32
	// When the first of them can, and whether none ever does.
	begins time.Time
	never  bool
	// That depends on the visitor, or on the visitor's clock.
	asks bool
}

// handOvers lets each notice that another hands over to begin when that
// happens. What runs out for everyone at once becomes part of its time.
func (s *Site) handOvers(first string) {
	for i := range s.notices {
		n := &s.notices[i]
		if n.count == nil || n.count.GetThen() != countdown.HandOver || n.GetState() != bundle.Published {
			continue
		}
		if to, ok := s.ids[n.count.HandTo]; ok && to != int32(i) && n.count.HandTo != first {
			s.notices[to].after = append(s.notices[to].after, int32(i))
		}
	}
	for i := range s.notices {
		s.notices[i].whole = s.notices[i].schedule
	}
	settled := make([]bool, len(s.notices))
	for i := range s.notices {
		if s.notices[i].ID != first { // a rehearsal shows it whatever the time
			s.settle(int32(i), settled)
		}
	}
}

// settle shortens a notice's time by its countdown and by those that hand over to
// it, whose times are settled before; in a circle as far as that goes. An heir begins
// when the first of them can have run out for anyone.
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
		n.asks = !fixed
	}
	var earliest time.Time
	for _, a := range n.after {
		giver := &s.notices[a]
		s.settle(a, settled)
		if _, fixed := giver.count.Fixed(); !fixed {
			n.asks = true
		}
		if over := giver.soonest(); !over.IsZero() && (earliest.IsZero() || over.Before(earliest)) {
			earliest = over
		}
	}
	switch {
	case len(n.after) == 0:
	case earliest.IsZero():
		n.never = true
		n.schedule = n.schedule.Within(time.Unix(0, 0), time.Unix(0, 0))
	default:
		n.begins = earliest
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
	if live {
		met = n.GetPublishedAt()
	}
	if met.IsZero() {
		return met
	}
	return n.count.Soonest(met)
}

// over returns when the countdown of a notice has run out for good for the
// visit, zero for never.
func (n *notice) over(r *reading) time.Time {
	return n.count.Over(r.visit.At, r.zone(), r.visit.Memory.Notices[n.ID].Met)
}

// counts reports whether the countdowns that only the visit can tell of let
// the notice show, which one does not if it does not, and when that changes.
func (s *Site) counts(n *notice, r *reading) (shows bool, because *notice, next time.Time) {
	sooner := func(t time.Time) {
		if !t.IsZero() && t.After(r.visit.At) && (next.IsZero() || t.Before(next)) {
			next = t
		}
	}
	came := len(n.after) == 0
	for _, i := range n.after {
		giver := &s.notices[i]
		if giver.count.Kind == countdown.Visitor && r.visit.Memory.Notices[giver.ID].Met.IsZero() {
			because = giver
			continue // this visitor's has not begun
		}
		over := giver.over(r)
		if came = !over.IsZero() && !r.visit.At.Before(over); came {
			break
		}
		because = giver
		sooner(over)
	}
	if !came {
		return false, because, next
	}
	if n.count != nil && n.count.Leaves() {
		over := n.over(r)
		if !over.IsZero() && !r.visit.At.Before(over) {
			return false, n, time.Time{}
		}
		sooner(over)
	}
	return true, nil, next
}

// Countdown returns the countdown of the notice of that id, nil if it has none.
func (s *Site) Countdown(id string) *countdown.Count { return s.byID(id).count }

// Whole returns when the notice of that id would be live if no countdown
// shortened its time.
func (s *Site) Whole(id string) schedule.Schedule { return s.byID(id).whole }

// compileCountdown reads the countdown of a notice, if it has one.
func compileCountdown(n bundle.Notice, zone *time.Location) (*countdown.Count, fault.Faults) {
	c := n.Countdown()
	if c == nil {
		return nil, nil
	}
	k, faults := countdown.Compile(*c, zone)
	return k, faults.Under("/content/countdown")
}

// counted says what countdowns do to a notice's time; ok is false where they
// are not what keeps it away.
func (s *Site) counted(n *notice, r *reading, site *time.Location) (st Step, ok bool) {
	st = Step{Gate: GateSchedule, Rule: "C4", Pointer: "/content/countdown"}
	say := func(t time.Time) string { return moment.Say(t, r.visit.At, site) }
	at := r.visit.At
	whole := n.whole
	if n.count != nil && n.count.Leaves() {
		over, fixed := n.count.Fixed()
		switch {
		case fixed && !over.After(n.GetPublishedAt()):
			st.Why = fmt.Sprintf("Its countdown ran out %s, before it was published, so it never shows.", say(over))
			return st, true
		case fixed && !n.begins.IsZero() && !over.After(n.begins):
			st.Why = fmt.Sprintf("Its countdown runs out %s, before “%s” hands over to it, so it never shows.", say(over), s.notices[n.after[0]].GetTitle())
			return st, true
		}
		if live, _ := whole.At(at, r.zone()); fixed && live && !at.Before(over) {
			st.Why = fmt.Sprintf("Its countdown ran out %s, so it %s.", say(over), leaves(n.count))
			return st, true
		}
	}
	if len(n.after) > 0 && !n.asks {
		live, _ := whole.At(at, r.zone())
		if begun, next := n.schedule.At(at, r.zone()); live && !begun && !next.IsZero() {
			giver := &s.notices[n.after[0]]
			st.Why = fmt.Sprintf("It takes the place of “%s”, whose countdown runs out %s.", giver.GetTitle(), say(next))
			return st, true
		}
	}
	if n.never {
		st.Why = fmt.Sprintf("It takes the place of “%s”, whose countdown goes on without end.", s.notices[n.after[0]].GetTitle())
		return st, true
	}
	if !n.asks {
		return st, false
	}
	shows, because, next := s.counts(n, r)
	if shows {
		return st, false
	}
	if because.count.Kind == countdown.Visitor {
		st.Gate = GateMemory
	}
	switch {
	case because == n:
		st.Why = fmt.Sprintf("Its countdown ran out for this visitor %s, so it %s.", moment.Say(n.over(r), at, r.zone()), leaves(n.count))
	case because.count.Kind == countdown.Visitor && next.IsZero():
		st.Why = fmt.Sprintf("It takes the place of “%s”, which this visitor has not met yet.", because.GetTitle())
	case next.IsZero():
		st.Why = fmt.Sprintf("It takes the place of “%s”, whose countdown goes on without end.", because.GetTitle())
	default:
		st.Why = fmt.Sprintf("It takes the place of “%s”, whose countdown runs out for this visitor %s.", because.GetTitle(), moment.Say(next, at, r.zone()))
	}
	return st, true
}

func leaves(c *countdown.Count) string {
	if c.GetThen() == countdown.HandOver {
		return "gave way to the next"
	}
	return "disappeared"
}
