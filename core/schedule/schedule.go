// Package schedule turns the windows in which a notice publishes into the
// intervals of real time in which it is live. Rules S1 to S6.
package schedule

import (
	"fmt"
	"slices"
	"sync"
	"sync/atomic"
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
// longer live at Until. A missing end is open. It may repeat (rule S4): then
// From and Until are those of the first occurrence.
type Window struct {
	// Local date and time without offset, such as 2026-12-01T09:00.
	From string `json:"from,omitempty" jsonschema:"maxLength=19"`
	// Local date and time without offset, such as 2026-12-05T18:00.
	Until string `json:"until,omitempty" jsonschema:"maxLength=19"`
	// The value of an RRULE (RFC 5545) that starts at from, such as FREQ=WEEKLY;BYDAY=FR. Not finer than hourly.
	Rule string `json:"rule,omitempty" jsonschema:"maxLength=1000"`
	// Local starts of occurrences to leave out (EXDATE).
	Except []string `json:"except,omitempty" jsonschema:"maxItems=1000"`
	// Local starts of extra occurrences (RDATE).
	Also []string `json:"also,omitempty" jsonschema:"maxItems=1000"`
}

// Repeats reports whether the window has more than one occurrence.
func (w Window) Repeats() bool { return w.Rule != "" || len(w.Except) > 0 || len(w.Also) > 0 }

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

// A Schedule is a compiled Plan: a value that answers when. It never changes;
// occurrences are found as they are asked for, and kept. The zero Schedule is
// always live.
type Schedule struct {
	floating  bool     // rule S2: each visitor's own clock
	windows   []window // none: always live
	repeats   bool
	clock     *time.Location // of a schedule that does not float
	notBefore time.Time      // published at: nothing is live before it
	notAfter  time.Time      // nothing is live from it on; zero for no such end
	site      *stretches     // what the site as a whole sees
	zones     *zoneStates    // of a schedule that floats
	count     int            // of occurrences in the first ten years, at most
}

// window is a Window parsed.
type window struct {
	from, until         Local
	openFrom, openUntil bool
	repeat              *repeat // nil if it does not
}

// stretches are the intervals found so far.
type stretches struct {
	mu    sync.Mutex
	found atomic.Pointer[expansion]
}

// expansion are all intervals that begin before reach; those that end before it
// are whole.
type expansion struct {
	in    []Interval // sorted, disjoint, not touching
	reach time.Time
	all   bool // there are none after these
}

// The first and the last place on Earth to enter a wall-clock time.
var (
	FirstPlace = time.FixedZone("UTC+14", 14*60*60)
	LastPlace  = time.FixedZone("UTC-12", -12*60*60)
)

// Zone returns the IANA zone of that name.
func Zone(name string) (*time.Location, error) {
	if name == "" || name == "Local" {
		return nil, fmt.Errorf("unknown time zone %q", name)
	}
	if loc, known := zones.Load(name); known {
		return loc.(*time.Location), nil
	}
	loc, err := time.LoadLocation(name)
	if err != nil {
		return nil, fmt.Errorf("unknown time zone %q", name)
	}
	zones.Store(name, loc)
	return loc, nil
}

// zones are those that were asked for, by name: reading one takes a while.
var zones sync.Map

// maxFaults is how many faults of a plan are looked for: whether a rule never matches may take a search
// through 400 years.
const maxFaults = 20

// Compile reads a plan for a site in the zone site. Nothing is live before
// publishedAt, which may be zero. Faults point into the plan (rule S6).
func Compile(p Plan, site *time.Location, publishedAt time.Time) (Schedule, fault.Faults) {
	var faults fault.Faults
	s := Schedule{
		notBefore: publishedAt,
		floating:  p.Clock == ClockVisitor,
		clock:     site,
		site:      &stretches{},
		zones:     &zoneStates{},
	}
	if p.Clock != "" && p.Clock != ClockSite && p.Clock != ClockVisitor {
		loc, err := Zone(p.Clock)
		if err != nil {
			faults = append(faults, fault.Fault{Pointer: "/clock", What: err.Error(),
				Remedy: `use "site", "visitor" or an IANA zone name such as "Europe/London"`})
			loc = site
		}
		s.clock = loc
	}
	for i, w := range p.Windows {
		c, wrong := w.compile()
		if len(wrong) > 0 {
			if faults = append(faults, wrong.Under(fault.Pointer("windows", i))...); len(faults) >= maxFaults {
				return s, faults
			}
			continue
		}
		s.windows = append(s.windows, c)
		if c.repeat == nil {
			continue
		}
		s.repeats = true
		if s.count += c.repeat.most; s.count > MaxPlan {
			return s, append(faults, fault.Fault{
				Pointer: "/windows",
				What:    fmt.Sprintf("its windows have more than %d occurrences in ten years", MaxPlan),
				Remedy:  "repeat less often, give the repeats an end, or make one long window of many short ones",
			})
		}
	}
	if len(p.Windows) == 0 {
		s.floating = false
	}
	return s, faults
}

func (w Window) compile() (window, fault.Faults) {
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
	var c window
	c.from, c.openFrom = end("from", w.From)
	c.until, c.openUntil = end("until", w.Until)
	if faults == nil && !c.openFrom && !c.openUntil && c.until <= c.from {
		faults = append(faults, fault.Fault{Pointer: "/until",
			What:   fmt.Sprintf("until %s is not after from %s", w.Until, w.From),
			Remedy: "end the window later than it starts"})
	}
	if !w.Repeats() || faults != nil {
		return c, faults
	}
	for _, e := range []struct {
		name string
		open bool
	}{{"from", c.openFrom}, {"until", c.openUntil}} {
		if e.open {
			faults = append(faults, fault.Fault{
				What:   fmt.Sprintf("a window that repeats has no %q", e.name),
				Remedy: "say when its first occurrence starts and ends",
			})
		}
	}
	if faults == nil {
		c.repeat, faults = readRepeat(w, c.from, c.until)
	}
	return c, faults
}

// interval returns a stretch of wall-clock time as an interval between clocks
// at its two ends; ok is false if a clock change leaves it without length.
func interval(from, until Local, opens, closes *reader) (i Interval, ok bool) {
	i = Interval{From: opens.read(from), Until: closes.read(until)}
	return i, i.From.Before(i.Until)
}

// expand returns the union of the windows' occurrences that start in
// [lo, hi), those without repeat whole, and whether none start later.
func (s Schedule) expand(lo, hi Local, first, last *time.Location) (in []Interval, all bool) {
	all = true
	if len(s.windows) == 0 {
		return s.clip([]Interval{{}}), true
	}
	opens := &reader{loc: first}
	closes := opens
	if first != last {
		closes = &reader{loc: last}
	}
	for _, w := range s.windows {
		if w.repeat == nil {
			var i Interval
			ok := true
			switch {
			case !w.openFrom && !w.openUntil:
				i, ok = interval(w.from, w.until, opens, closes)
			case !w.openFrom:
				i.From = opens.read(w.from)
			case !w.openUntil:
				i.Until = closes.read(w.until)
			}
			if ok {
				in = append(in, i)
			}
			continue
		}
		starts, none := w.repeat.between(lo, hi)
		all = all && none
		for _, st := range starts {
			if i, ok := w.repeat.occurrence(st, opens, closes); ok {
				in = append(in, i)
			}
		}
	}
	return s.clip(union(in)), all
}

// The ends of the wall clocks that are looked at.
const (
	firstLocal = Local(-62_135_596_800) // year 1
	lastLocal  = Local(253_402_300_799) // year 9999
	day        = Local(86_400)
)

// upTo returns the intervals that the site as a whole sees: at least all that
// begin before t, and as many more as it takes to know when the last of those
// ends.
func (s Schedule) upTo(t time.Time) *expansion {
	if s.site == nil {
		return &expansion{in: []Interval{{}}, all: true}
	}
	if f := s.site.found.Load(); f != nil && (f.all || t.Before(f.reach)) {
		return f
	}
	s.site.mu.Lock()
	defer s.site.mu.Unlock()
	f := s.site.found.Load()
	if f != nil && (f.all || t.Before(f.reach)) {
		return f
	}
	first, last := s.clock, s.clock
	if s.floating {
		first, last = FirstPlace, LastPlace
	}
	// Beginning with a year beyond what is asked, and twice as far each time,
	// the work grows with what is asked for.
	hi := Local(t.Unix()) + 400*day
	if f != nil {
		hi = max(hi, 2*Local(f.reach.Unix())-s.begins())
	}
	hi = min(hi, lastLocal)
	in, all := s.expand(firstLocal, hi, first, last)
	// What starts later on the wall clock begins at least this late.
	f = &expansion{in: in, all: all || hi == lastLocal, reach: time.Unix(int64(hi-2*day), 0).UTC()}
	f.all = f.all || !s.notAfter.IsZero() && f.reach.After(s.notAfter)
	s.site.found.Store(f)
	return f
}

// Occurrences of a rule without end that go on touching each other for so
// long are taken to do so for ever.
const (
	farFuture      = 9 * 366 * 24 * time.Hour
	farFutureLocal = 2 * 366 * day // worked out anew for each visitor
)

// endless reports whether some window repeats for ever.
func (s Schedule) endless() bool {
	return s.notAfter.IsZero() && slices.ContainsFunc(
		s.windows, func(w window) bool { return w.repeat != nil && !w.repeat.ends },
	)
}

// Within returns the schedule without what lies before from and from until on;
// a zero end is open.
func (s Schedule) Within(from, until time.Time) Schedule {
	if from.After(s.notBefore) {
		s.notBefore = from
	}
	if s.notAfter.IsZero() || !until.IsZero() && until.Before(s.notAfter) {
		s.notAfter = until
	}
	if s.site == nil {
		s.clock = time.UTC
	}
	s.site, s.zones = &stretches{}, &zoneStates{}
	return s
}

// begins returns the first start of any repeating window.
func (s Schedule) begins() Local {
	b := lastLocal
	for _, w := range s.windows {
		if w.repeat != nil {
			b = min(b, w.from)
		}
	}
	return b
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

// clip removes what lies before notUntil and from notAfter on.
func (s Schedule) clip(in []Interval) []Interval {
	if s.notBefore.IsZero() && s.notAfter.IsZero() {
		return in
	}
	out := make([]Interval, 0, len(in))
	for _, i := range in {
		if i.From.Before(s.notBefore) {
			i.From = s.notBefore
		}
		if !s.notAfter.IsZero() && (i.Until.IsZero() || i.Until.After(s.notAfter)) {
			i.Until = s.notAfter
		}
		if i.Until.IsZero() || i.Until.After(i.From) {
			out = append(out, i)
		}
	}
	return out
}

// Count returns how many occurrences the repeating windows can have in their
// first ten years, as rule S6 counts them; MaxSite bounds their sum.
func (s Schedule) Count() int { return s.count }

// Prepared is how far ahead Prepare looks.
const Prepared = 400 * 24 * time.Hour

// Prepare finds what At and SiteAt need for instants from t until Prepared
// later, so that whoever asks them then waits for nothing.
func (s Schedule) Prepare(t time.Time) {
	f := s.upTo(t.Add(Prepared))
	if n := len(f.in); n > 0 && !f.all && !f.in[n-1].Until.Before(f.reach) {
		s.SiteAt(f.in[n-1].From) // it goes on: until when, or for ever
	}
}

// zoneStates is what At last answered for visitors in each zone: so that one
// of many looks far ahead.
type zoneStates struct {
	mu   sync.Mutex
	last sync.Map // zone name to zoneState
	ends sync.Map // zone name to when it is over
	size atomic.Int32
}

// A zoneState holds from one instant until another.
type zoneState struct {
	from, until time.Time
	live        bool
	next        time.Time
}

const (
	maxZones  = 1024
	keptFor   = 24 * time.Hour // an answer that nothing changes any more
	firstLook = 8 * day
)

func (z *zoneStates) at(t time.Time, zone string) (zoneState, bool) {
	if e, ok := z.last.Load(zone); ok {
		st := e.(zoneState)
		return st, !t.Before(st.from) && t.Before(st.until)
	}
	return zoneState{}, false
}

func (z *zoneStates) keep(zone string, st zoneState) {
	z.room()
	z.last.Store(zone, st)
}

// room makes room for one more, so that zones cannot fill the memory.
func (z *zoneStates) room() {
	if z.size.Add(1) > maxZones {
		z.size.Store(0)
		z.last.Clear()
		z.ends.Clear()
	}
}

// Floating reports whether each visitor's own clock decides (rule S2).
func (s Schedule) Floating() bool { return s.floating }

// At reports whether the schedule is live at t for a visitor in loc, and when
// that next changes; next is zero if it never does. loc matters to a floating
// schedule only.
func (s Schedule) At(t time.Time, loc *time.Location) (live bool, next time.Time) {
	if !s.floating {
		return s.SiteAt(t)
	}
	if !s.notAfter.IsZero() && !t.Before(s.notAfter) {
		return false, time.Time{}
	}
	if s.zones == nil {
		return s.lookAhead(t, loc)
	}
	zone := loc.String()
	if st, ok := s.zones.at(t, zone); ok {
		return st.live, st.next
	}
	s.zones.mu.Lock()
	defer s.zones.mu.Unlock()
	if st, ok := s.zones.at(t, zone); ok {
		return st.live, st.next
	}
	live, next = s.lookAhead(t, loc)
	st := zoneState{t, next, live, next}
	if next.IsZero() {
		st.until = t.Add(keptFor)
	}
	s.zones.keep(zone, st)
	return live, next
}

// lookAhead is At of a floating schedule.
func (s Schedule) lookAhead(t time.Time, loc *time.Location) (live bool, next time.Time) {
	here, longest := LocalAt(t, loc), s.longest()
	for ahead := firstLook; ; ahead *= 4 {
		hi := min(here+ahead, lastLocal)
		in, all := s.expand(here-longest-2*day, hi, loc, loc)
		live, next = At(in, t)
		if all || hi == lastLocal || !next.IsZero() && LocalAt(next, loc) < hi-2*day {
			return live, next
		}
		if live && s.endless() && ahead > farFutureLocal {
			return live, time.Time{}
		}
	}
}

// SiteAt is At as the site as a whole sees it: a floating schedule is live
// from the first place on Earth that enters a window to the last that leaves
// it (partly live).
func (s Schedule) SiteAt(t time.Time) (live bool, next time.Time) {
	for f := s.upTo(t); ; f = s.upTo(f.reach) {
		live, next = At(f.in, t)
		if live && s.endless() && (next.IsZero() || next.Sub(t) > farFuture) && (f.all || f.reach.Sub(t) > farFuture) {
			return live, time.Time{}
		}
		if f.all || !next.IsZero() && next.Before(f.reach) {
			return live, next
		}
	}
}

// Range returns the live intervals in [from, until), clipped to it, as the
// site as a whole sees them. They are sorted, disjoint and do not touch.
func (s Schedule) Range(from, until time.Time) []Interval {
	return Range(s.upTo(until).in, from, until)
}

// longest returns how long the longest of the repeating windows is.
func (s Schedule) longest() (longest Local) {
	for _, w := range s.windows {
		if w.repeat != nil {
			longest = max(longest, w.repeat.length)
		}
	}
	return longest
}

// RangeIn is Range for a visitor in loc.
func (s Schedule) RangeIn(from, until time.Time, loc *time.Location) []Interval {
	if !s.floating {
		return s.Range(from, until)
	}
	in, _ := s.expand(LocalAt(from, loc)-s.longest()-2*day, LocalAt(until, loc)+2*day, loc, loc)
	return Range(in, from, until)
}

// End returns when the schedule is over for the site as a whole. ends is
// false if it never is; a zero end that ends is one that is never live.
func (s Schedule) End() (end time.Time, ends bool) {
	return s.end(func() []Interval {
		if !s.notAfter.IsZero() {
			return s.upTo(s.notAfter).in
		}
		return s.upTo(lastLocal.clock()).in
	})
}

// EndIn is End for a visitor in loc.
func (s Schedule) EndIn(loc *time.Location) (end time.Time, ends bool) {
	if !s.floating {
		return s.End()
	}
	if s.zones != nil {
		if e, known := s.zones.ends.Load(loc.String()); known {
			if end := e.(time.Time); !end.Equal(noEnd) {
				return end, true
			}
			return time.Time{}, false
		}
	}
	end, ends = s.end(func() []Interval {
		hi := lastLocal
		if !s.notAfter.IsZero() {
			hi = LocalAt(s.notAfter, loc) + 2*day
		}
		in, _ := s.expand(firstLocal, hi, loc, loc)
		return in
	})
	if s.zones != nil {
		kept := end
		if !ends {
			kept = noEnd
		}
		s.zones.room()
		s.zones.ends.Store(loc.String(), kept)
	}
	return end, ends
}

// noEnd is kept in place of the end of a schedule that has none.
var noEnd = time.Unix(1<<40, 0)

func (s Schedule) end(all func() []Interval) (time.Time, bool) {
	if s.notAfter.IsZero() && (len(s.windows) == 0 || s.endless() ||
		slices.ContainsFunc(s.windows, func(w window) bool { return w.openUntil })) {
		return time.Time{}, false
	}
	in := all()
	if len(in) == 0 {
		return time.Time{}, true
	}
	return in[len(in)-1].Until, true
}

// Cut reports whether a window has so many occurrences before t that not all
// were looked at.
func (s Schedule) Cut(t time.Time) bool {
	s.upTo(t)
	for _, w := range s.windows {
		if w.repeat == nil {
			continue
		}
		f := w.repeat.found.Load()
		cut := f != nil && f.cut && f.last <= Local(t.Unix())
		if cut {
			return true
		}
	}
	return false
}

// Simple returns the intervals, at most one, of a schedule that neither floats
// nor repeats; ok is false if it is not so simple.
func (s Schedule) Simple() (in []Interval, ok bool) {
	if s.floating || s.repeats {
		return nil, false
	}
	in = s.upTo(time.Time{}).in
	return in, len(in) <= 1
}

// Occurrences returns the next n occurrences of the i-th window that end
// after t, each by itself, on the schedule's clock, or on one in loc if it floats.
func (s Schedule) Occurrences(i int, t time.Time, n int, loc *time.Location) []Interval {
	if !s.floating {
		loc = s.clock
	}
	w := s.windows[i]
	if w.repeat == nil {
		in, _ := Schedule{windows: s.windows[i : i+1]}.expand(firstLocal, lastLocal, loc, loc)
		return slices.DeleteFunc(in, func(i Interval) bool { return !i.Until.IsZero() && !i.Until.After(t) })
	}
	var out []Interval
	clock := &reader{loc: loc}
	from := LocalAt(t, loc) - w.repeat.length - 2*day
	for ahead := 32 * day; ; ahead *= 4 {
		hi := min(from+ahead, lastLocal)
		starts, last := w.repeat.between(from, hi)
		out = out[:0]
		for _, st := range starts {
			if iv, ok := w.repeat.occurrence(st, clock, clock); ok && iv.Until.After(t) {
				if out = append(out, iv); len(out) == n {
					return out
				}
			}
		}
		if last || hi == lastLocal {
			return out
		}
	}
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

// EndingAt returns the plan with nothing after a local moment: windows that
// would go on end there, later ones go. ok is false where the plan repeats or
// is not read on the site's clock.
func (p Plan) EndingAt(until Local) (out Plan, ok bool) {
	if p.Clock != "" && p.Clock != ClockSite {
		return p, false
	}
	out = Plan{Clock: p.Clock}
	if len(p.Windows) == 0 {
		return Plan{Windows: []Window{{Until: until.String()}}}, true
	}
	for _, w := range p.Windows {
		if w.Repeats() {
			return p, false
		}
		from, err := ParseLocal(w.From)
		if w.From != "" && err == nil && from >= until {
			continue
		}
		if end, err := ParseLocal(w.Until); w.Until == "" || err != nil || until < end {
			w.Until = until.String()
		}
		out.Windows = append(out.Windows, w)
	}
	return out, len(out.Windows) > 0
}
