// Package schedule turns the windows in which a notice publishes into the
// intervals of real time in which it is live. Rules S1 to S6.
package schedule

import (
	"fmt"
	"slices"
	"time"

	"mastflag/core/fault"
)

// A Plan is when a notice is live, as written: windows on one clock.
// No windows: live from the moment it is published until it is unpublished.
type Plan struct {
	// Whose wall clock the windows are read on: "site" (the default), "visitor", or an IANA zone name.
	Clock string `json:"clock,omitempty"`
	// The windows; the notice is live in the union of them.
	Windows []Window `json:"windows,omitempty" jsonschema:"maxItems=500"`
}

// A Window is one stretch of wall-clock time, half open: live at From, no
// longer live at Until. A missing end is open.
type Window struct {
	// Local date and time without offset, such as 2026-12-01T09:00.
	From string `json:"from,omitempty" jsonschema:"maxLength=19"`
	// Local date and time without offset, such as 2026-12-05T18:00.
	Until string `json:"until,omitempty" jsonschema:"maxLength=19"`
}

// The clocks of a plan that are not zone names.
const (
	ClockSite    = "site"
	ClockVisitor = "visitor"
)

// An Interval is a half-open stretch of real time in whole seconds.
// A zero From has no beginning, a zero Until has no end.
type Interval struct {
	From, Until time.Time
}

// Contains reports whether t lies in the interval.
func (i Interval) Contains(t time.Time) bool {
	return (i.From.IsZero() || !t.Before(i.From)) && (i.Until.IsZero() || t.Before(i.Until))
}

// A Schedule is a compiled Plan: an immutable value that answers when.
// The zero Schedule is always live.
type Schedule struct {
	floating bool       // rule S2: each visitor's own clock
	windows  []span     // as written; read in a visitor's zone when floating
	fixed    []Interval // sorted, disjoint, not touching; partly-live ones when floating
	notUntil time.Time  // published at: nothing is live before it
}

// span is a Window parsed.
type span struct {
	from, until         Local
	openFrom, openUntil bool
}

// in returns the span as an interval on a clock in loc.
func (s span) in(loc *time.Location) Interval {
	var i Interval
	if !s.openFrom {
		i.From = s.from.In(loc)
	}
	if !s.openUntil {
		i.Until = s.until.In(loc)
	}
	return i
}

// The first and the last place on Earth to enter a wall-clock time.
var (
	firstPlace = time.FixedZone("UTC+14", 14*60*60)
	lastPlace  = time.FixedZone("UTC-12", -12*60*60)
)

// Zone returns the IANA zone of that name.
func Zone(name string) (*time.Location, error) {
	if name == "" || name == "Local" {
		return nil, fmt.Errorf("unknown time zone %q", name)
	}
	loc, err := time.LoadLocation(name)
	if err != nil {
		return nil, fmt.Errorf("unknown time zone %q", name)
	}
	return loc, nil
}

// Compile reads a plan for a site in the zone site. Nothing is live before
// publishedAt, which may be zero. Faults point into the plan (rule S6).
func Compile(p Plan, site *time.Location, publishedAt time.Time) (Schedule, fault.Faults) {
	var faults fault.Faults
	s := Schedule{notUntil: publishedAt, floating: p.Clock == ClockVisitor}
	loc := site
	if p.Clock != "" && p.Clock != ClockSite && p.Clock != ClockVisitor {
		var err error
		if loc, err = Zone(p.Clock); err != nil {
			faults = append(faults, fault.Fault{Pointer: "/clock", What: err.Error(),
				Remedy: `use "site", "visitor" or an IANA zone name such as "Europe/London"`})
			loc = site
		}
	}
	for i, w := range p.Windows {
		sp, wrong := w.parse()
		if len(wrong) > 0 {
			faults = append(faults, wrong.Under(fault.Pointer("windows", i))...)
			continue
		}
		s.windows = append(s.windows, sp)
		var iv Interval
		if s.floating {
			iv = Interval{From: sp.in(firstPlace).From, Until: sp.in(lastPlace).Until}
		} else {
			iv = sp.in(loc)
			if !iv.From.IsZero() && !iv.Until.IsZero() && !iv.From.Before(iv.Until) {
				// A clock change leaves it without length: dropped, as an occurrence would be.
				continue
			}
		}
		s.fixed = append(s.fixed, iv)
	}
	if len(p.Windows) == 0 {
		s.floating = false
		s.fixed = []Interval{{}}
	}
	s.fixed = clip(union(s.fixed), publishedAt)
	return s, faults
}

func (w Window) parse() (span, fault.Faults) {
	var faults fault.Faults
	end := func(field, s string) (Local, bool) {
		if s == "" {
			return 0, true
		}
		l, err := ParseLocal(s)
		if err != nil {
			faults = append(faults, fault.Fault{Pointer: "/" + field, What: err.Error(),
				Remedy: "write it like 2026-12-01T09:00, without zone or offset"})
		}
		return l, false
	}
	var s span
	s.from, s.openFrom = end("from", w.From)
	s.until, s.openUntil = end("until", w.Until)
	if faults == nil && !s.openFrom && !s.openUntil && s.until <= s.from {
		faults = append(faults, fault.Fault{Pointer: "/until",
			What:   fmt.Sprintf("until %s is not after from %s", w.Until, w.From),
			Remedy: "end the window later than it starts"})
	}
	return s, faults
}

// union returns the sorted union; overlapping and touching intervals merge (rule S5).
func union(in []Interval) []Interval {
	slices.SortFunc(in, func(a, b Interval) int { return a.From.Compare(b.From) })
	var out []Interval
	for _, i := range in {
		if n := len(out); n > 0 && (out[n-1].Until.IsZero() || !i.From.After(out[n-1].Until)) {
			if last := &out[n-1]; !last.Until.IsZero() && (i.Until.IsZero() || i.Until.After(last.Until)) {
				last.Until = i.Until
			}
			continue
		}
		out = append(out, i)
	}
	return out
}

// clip removes what lies before at, which may be zero.
func clip(in []Interval, at time.Time) []Interval {
	if at.IsZero() {
		return in
	}
	var out []Interval
	for _, i := range in {
		if !i.Until.IsZero() && !i.Until.After(at) {
			continue
		}
		if i.From.Before(at) {
			i.From = at
		}
		out = append(out, i)
	}
	return out
}

// Floating reports whether each visitor's own clock decides (rule S2).
func (s Schedule) Floating() bool { return s.floating }

// In returns the live intervals for a visitor whose clock is in loc, sorted,
// disjoint and unclipped. loc matters to a floating schedule only.
func (s Schedule) In(loc *time.Location) []Interval {
	if !s.floating {
		return s.fixed
	}
	out := make([]Interval, len(s.windows))
	for i, w := range s.windows {
		out[i] = w.in(loc)
	}
	out = slices.DeleteFunc(out, func(i Interval) bool {
		return !i.From.IsZero() && !i.Until.IsZero() && !i.From.Before(i.Until)
	})
	return clip(union(out), s.notUntil)
}

// Site returns the live intervals as the site as a whole sees them: those of
// a floating schedule are the partly-live ones, from the first place on Earth
// that enters a window to the last that leaves it.
func (s Schedule) Site() []Interval { return s.fixed }

// At reports whether the schedule is live at t for a visitor in loc, and when
// that next changes; next is zero if it never does.
func (s Schedule) At(t time.Time, loc *time.Location) (live bool, next time.Time) {
	return At(s.In(loc), t)
}

// At reports whether one of the sorted, disjoint intervals holds t, and the
// first instant after t at which that changes; zero if it never does.
func At(in []Interval, t time.Time) (live bool, next time.Time) {
	i, _ := slices.BinarySearchFunc(in, t, func(i Interval, t time.Time) int {
		if i.Until.IsZero() || i.Until.After(t) {
			return 1
		}
		return -1
	})
	if i == len(in) {
		return false, time.Time{}
	}
	if in[i].Contains(t) {
		return true, in[i].Until
	}
	return false, in[i].From
}

// Range returns what of the intervals lies in [from, until), clipped to it.
func Range(in []Interval, from, until time.Time) []Interval {
	out := []Interval{}
	for _, i := range in {
		if i.From.IsZero() || i.From.Before(from) {
			i.From = from
		}
		if i.Until.IsZero() || i.Until.After(until) {
			i.Until = until
		}
		if i.From.Before(i.Until) {
			out = append(out, i)
		}
	}
	return out
}

// Total returns how long the intervals last together; each must have both ends.
func Total(in []Interval) time.Duration {
	var sum time.Duration
	for _, i := range in {
		sum += i.Until.Sub(i.From)
	}
	return sum
}
