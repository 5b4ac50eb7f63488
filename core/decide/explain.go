package decide

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/moment"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// A Gate is one of the questions a notice has to pass to show.
type Gate string

// The gates, in the order in which they are asked.
const (
	GateDisplay  Gate = "display"
	GateState    Gate = "state"
	GateSchedule Gate = "schedule"
	GatePages    Gate = "pages"
	GateMemory   Gate = "memory"
	GateSlot     Gate = "slot"
)

// A Step is one gate's answer for one notice.
type Step struct {
	Gate   Gate   `json:"gate"`
	Rule   string `json:"rule"`
	Passed bool   `json:"passed"`
	// The values the gate saw, as text by name.
	Saw map[string]string `json:"saw,omitempty"`
	// One plain sentence.
	Why string `json:"why"`
	// Pointer is where in the notice the deciding value stands; "" if nowhere.
	Pointer string `json:"pointer,omitempty"`
}

// An Account is all gates' answers for one notice. A gate is asked even where
// an earlier one fails, so that all reasons are seen at once; the slot is
// asked only where all others pass.
type Account struct {
	ID    string `json:"id"`
	Shows bool   `json:"shows"`
	Steps []Step `json:"steps"`
}

// Reason returns the first gate that fails; ok is false if none does.
func (a Account) Reason() (s Step, ok bool) {
	for _, s := range a.Steps {
		if !s.Passed {
			return s, true
		}
	}
	return Step{}, false
}

// A Result is a decision in full: what shows, what waits, and what is held
// back by which gate. Explain has an account of each notice if asked for.
type Result struct {
	At         time.Time  `json:"at"`
	ValidUntil *time.Time `json:"validUntil"`
	Show       []Shown    `json:"show"`
	Waiting    []Waiting  `json:"waiting"`
	Held       []Held     `json:"held"`
	Explain    []Account  `json:"explain,omitempty"`
}

// MarshalJSON writes instants in RFC 3339, UTC.
func (r Result) MarshalJSON() ([]byte, error) {
	type plain Result
	p := plain(r)
	p.At = p.At.UTC()
	if p.ValidUntil != nil {
		u := p.ValidUntil.UTC()
		p.ValidUntil = &u
	}
	return json.Marshal(p)
}

// Explain answers a visit as Decide does, with an account of every notice.
func (s *Site) Explain(v Visit) Result {
	d := s.Decide(v)
	r := Result{At: v.At, Show: append([]Shown{}, d.Show...), Waiting: []Waiting{}, Held: []Held{}}
	if !d.ValidUntil.IsZero() {
		r.ValidUntil = &d.ValidUntil
	}
	path, err := pages.NormalPath(pathOf(v.URL))
	if err != nil {
		path = ""
	}
	loc := s.visitorZone(v)
	shown := map[string]bool{}
	for _, n := range d.Show {
		shown[n.ID] = true
	}
	for i := range s.notices {
		n := &s.notices[i]
		a := Account{ID: n.ID, Shows: shown[n.ID], Steps: []Step{
			s.display(), n.state(), n.when(v, loc, s.zone), n.where(path), n.remembered(v, loc),
		}}
		if _, failed := a.Reason(); !failed {
			a.Steps = append(a.Steps, s.slot(n, d, a.Shows))
		}
		if why, failed := a.Reason(); failed {
			r.Held = append(r.Held, Held{ID: n.ID, Gate: why.Gate, Rule: why.Rule, Why: why.Why})
		}
		r.Explain = append(r.Explain, a)
	}
	return r
}

func (s *Site) display() Step {
	st := Step{Gate: GateDisplay, Rule: "G1", Passed: s.displays, Why: "The site's master switch is on."}
	if !s.displays {
		st.Why = "The site's master switch is off: no notice shows anywhere."
	}
	return st
}

func (n *notice) state() Step {
	st := Step{Gate: GateState, Rule: "G2", Passed: n.GetState() == bundle.Published, Saw: map[string]string{"state": string(n.GetState())}, Pointer: "/state"}
	switch n.GetState() {
	case bundle.Published:
		st.Why = "It is published."
	case bundle.Paused:
		st.Why = "It is paused. Resume it to show it again."
	default:
		st.Why = "It is a draft. Visitors see it once you publish it."
	}
	return st
}

func (n *notice) when(v Visit, loc, site *time.Location) Step {
	st := Step{Gate: GateSchedule, Rule: "S1", Pointer: "/schedule"}
	clock := site
	if n.schedule.Floating() {
		st.Rule, clock = "S2", loc
	}
	in := n.schedule.In(loc)
	live, next := schedule.At(in, v.At)
	say := func(t time.Time) string { return moment.Say(t, v.At, clock) }
	now := say(v.At.Truncate(time.Minute))
	st.Passed = live
	st.Saw = map[string]string{"now": now, "clock": clock.String()}
	switch {
	case live && next.IsZero():
		st.Why = "It is within its time, and has no end."
	case live:
		st.Why = fmt.Sprintf("It is within its time, until %s.", say(next))
	case !next.IsZero():
		st.Why = fmt.Sprintf("It starts %s; now it is %s.", say(next), now)
		if !n.GetPublishedAt().IsZero() && next.Equal(n.GetPublishedAt()) {
			st.Why = fmt.Sprintf("It was not published before %s; this moment is %s.", say(next), now)
		}
	case len(in) == 0:
		st.Why = "Its time had passed before it was published, so it never shows."
	default:
		st.Why = fmt.Sprintf("It ended %s; now it is %s.", say(in[len(in)-1].Until), now)
	}
	return st
}

func (n *notice) where(path string) Step {
	o := n.pages.Test(path)
	st := Step{Gate: GatePages, Rule: "P1", Passed: o.Shows, Saw: map[string]string{"path": path}, Pointer: "/pages"}
	c := n.GetPages()
	switch {
	case o.Shows:
		st.Why = fmt.Sprintf("This page, %s, is among its pages: %s.", path, c.Include[o.Include])
		st.Pointer = fmt.Sprintf("/pages/include/%d", o.Include)
	case o.IncludeCount == 0:
		st.Why = "No pages are chosen yet, so it appears nowhere."
	case o.Exclude >= 0:
		st.Why = fmt.Sprintf("It leaves out %s, so it is not on %s.", c.Exclude[o.Exclude], path)
		st.Pointer = fmt.Sprintf("/pages/exclude/%d", o.Exclude)
	default:
		st.Why = fmt.Sprintf("This page, %s, is not among its pages.", path)
	}
	return st
}

func (n *notice) remembered(v Visit, loc *time.Location) Step {
	st := Step{Gate: GateMemory, Rule: "M1", Passed: true, Pointer: "/memory/closed", Why: "This visitor has not closed it."}
	closed := v.Memory.Notices[n.ID].Closed
	if closed.IsZero() {
		return st
	}
	away, until := n.away(v, loc)
	st.Passed = !away
	st.Saw = map[string]string{"closed": moment.Say(closed, v.At, loc)}
	was := fmt.Sprintf("This visitor closed it %s", st.Saw["closed"])
	switch {
	case !away:
		st.Why = was + "; that no longer counts."
	case until.IsZero():
		st.Why = fmt.Sprintf("%s; it stays away %s.", was, moment.Period(n.closed))
	default:
		st.Why = fmt.Sprintf("%s; it stays away %s, until %s.", was, moment.Period(n.closed), moment.Say(until, v.At, loc))
	}
	return st
}

// slot says who has the place. d is the decision on the same visit.
func (s *Site) slot(n *notice, d Decision, shows bool) Step {
	st := Step{Gate: GateSlot, Rule: "D2", Passed: shows, Pointer: "/slot"}
	capacity := s.bundle.Site.SlotCapacity(n.slot)
	if shows {
		st.Why = fmt.Sprintf("There is room for it at the %s.", n.slot)
		return st
	}
	var names []string
	var first *notice
	for _, sh := range d.Show {
		if sh.Slot != n.slot {
			continue
		}
		for i := range s.notices {
			if s.notices[i].ID == sh.ID {
				names = append(names, "“"+s.notices[i].GetTitle()+"”")
				first = &s.notices[i]
			}
		}
	}
	st.Saw = map[string]string{"capacity": fmt.Sprint(capacity), "taken by": strings.Join(names, ", ")}
	if first == nil {
		st.Why = fmt.Sprintf("The site allows no notice at the %s.", n.slot)
		return st
	}
	st.Why = fmt.Sprintf("The %s holds %s, and %s took the place: %s.", n.slot, moment.Count(capacity, "notice"), strings.Join(names, " and "), beats(first.Notice, n.Notice))
	return st
}

// beats says by which part of rule D1 the first of two rivals goes before the second.
func beats(a, b bundle.Notice) string {
	switch {
	case a.GetLevel() != b.GetLevel():
		return fmt.Sprintf("level %s goes before %s", a.GetLevel(), b.GetLevel())
	case a.GetRank() != b.GetRank():
		return fmt.Sprintf("rank %d goes before %d", a.GetRank(), b.GetRank())
	case !a.GetPublishedAt().Equal(b.GetPublishedAt()):
		return "it was published later"
	}
	return "with all else equal, names go by the alphabet"
}
