// Package countdown reckons the time that is left to a moment, or has passed
// since one, and says it in any language. Rules C1 to C5.
package countdown

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"mastflag/core/closed"
	"mastflag/core/fault"
	"mastflag/core/markup"
	"mastflag/core/plural"
	"mastflag/core/schedule"
)

// A Countdown is a stretch of time, or a number that changes with time, that a
// notice shows, as written.
type Countdown struct {
	Kind Kind `json:"kind"`
	// Local date and time without offset, such as 2026-12-04T18:00: the moment (to, since), the first one (repeating),
	// when the number begins (number).
	At string `json:"at,omitempty" jsonschema:"maxLength=19"`
	// Whose wall clock at and until are read on: "site" (the default), "visitor", or an IANA zone name.
	Clock string `json:"clock,omitempty" jsonschema:"maxLength=64"`
	// Of repeating: the value of an RRULE (RFC 5545) that starts at at. Not finer than hourly.
	Rule string `json:"rule,omitempty" jsonschema:"maxLength=1000"`
	// Of repeating: local moments to leave out, and extra ones.
	Except []string `json:"except,omitempty" jsonschema:"maxItems=1000"`
	Also   []string `json:"also,omitempty" jsonschema:"maxItems=1000"`
	// Of visitor: how long from when the visitor first meets it, such as PT2H. A day is 86,400 seconds.
	For string `json:"for,omitempty" jsonschema:"maxLength=40"`
	// Of number: where it begins, and where it ends. Of visitor: a number that goes from one to the other in that time, in
	// place of the time that is left.
	From int  `json:"from,omitempty" jsonschema:"minimum=-1000000,maximum=1000000"`
	To   *int `json:"to,omitempty" jsonschema:"minimum=-1000000,maximum=1000000"`
	// Of number: when it reaches to, local; or instead by how much it changes, and how often.
	Until string `json:"until,omitempty" jsonschema:"maxLength=19"`
	Step  int    `json:"step,omitempty" jsonschema:"minimum=-1000000,maximum=1000000"`
	Every string `json:"every,omitempty" jsonschema:"maxLength=40"`
	// A run of weeks, days, hours, minutes, seconds; days to seconds if absent. What is not shown is carried into the next
	// smaller unit shown.
	Units []Unit `json:"units,omitempty" jsonschema:"maxItems=5"`
	// What stands beside the figures: full (the default) or short names of the units, own words (labels of a wording), or
	// none, as on a clock.
	Labels Labels `json:"labels,omitempty"`
	// line (the default): in a line with the words. The others set each figure above its name: open without a frame, or in
	// square or round ones.
	Frame Frame `json:"frame,omitempty"`
	Size  Size  `json:"size,omitempty"`
	// What becomes of the notice at the end; disappear if absent, and stay for a number.
	Then Then `json:"then,omitempty"`
	// Of hand-over: the id of the notice that takes its place.
	HandTo string `json:"handTo,omitempty" jsonschema:"maxLength=64"`
	// Where a page goes on which it runs out, if anywhere: a path of the site, or an http or https address. Never to the
	// page it is on, never twice in a session.
	Go string `json:"go,omitempty" jsonschema:"maxLength=2048"`
}

// A Kind is what a countdown counts (rule C1).
type Kind string

const (
	To        Kind = "to"        // the time to a moment
	Visitor   Kind = "visitor"   // a period from when each visitor first meets it
	Repeating Kind = "repeating" // the time to the next of many moments
	Since     Kind = "since"     // the time since a moment
	Number    Kind = "number"    // no time: a number that changes with it
)

func (Kind) Values() []string { return closed.Strings(To, Visitor, Repeating, Since, Number) }

// A Unit is a unit of time (rule C2).
type Unit string

// Units is every unit, the largest first.
var Units = []Unit{"weeks", "days", "hours", "minutes", "seconds"}

var lengths = map[Unit]time.Duration{
	"weeks":   7 * 24 * time.Hour,
	"days":    24 * time.Hour,
	"hours":   time.Hour,
	"minutes": time.Minute,
	"seconds": time.Second,
}

// Length returns how long a unit is. A day is 86,400 seconds.
func (u Unit) Length() time.Duration { return lengths[u] }

// Labels are what stands beside the figures (rule C3).
type Labels string

const (
	Full  Labels = "full"
	Short Labels = "short"
	Own   Labels = "own"
	None  Labels = "none"
)

func (Labels) Values() []string { return closed.Strings(Full, Short, Own, None) }

// A Frame is how the figures are set.
type Frame string

const (
	Line   Frame = "line"
	Open   Frame = "open"
	Square Frame = "square"
	Round  Frame = "round"
)

func (Frame) Values() []string { return closed.Strings(Line, Open, Square, Round) }

// A Size is how large the figures are.
type Size string

const (
	Small  Size = "small"
	Medium Size = "medium"
	Large  Size = "large"
)

func (Size) Values() []string { return closed.Strings(Small, Medium, Large) }

// A Then is what becomes of a notice whose countdown has run out (rule C4).
type Then string

const (
	Disappear Then = "disappear" // it no longer shows
	Say       Then = "say"       // it says its wording's after
	Stay      Then = "stay"      // it stays, at zero or at its last number
	Again     Then = "again"     // it begins anew
	HandOver  Then = "hand-over" // another shows in its place, and not before
)

func (Then) Values() []string { return closed.Strings(Disappear, Say, Stay, Again, HandOver) }

// The accessors below give an absent field its meaning.

func (c Countdown) GetLabels() Labels { return cmp.Or(c.Labels, Full) }
func (c Countdown) GetFrame() Frame   { return cmp.Or(c.Frame, Line) }
func (c Countdown) GetSize() Size     { return cmp.Or(c.Size, Medium) }
func (c Countdown) GetUnits() []Unit {
	switch {
	case c.IsNumber():
		return nil
	case len(c.Units) == 0:
		return Units[1:]
	}
	return c.Units
}
func (c Countdown) GetThen() Then {
	switch {
	case c.Kind == Since:
		return Stay
	case c.IsNumber():
		return cmp.Or(c.Then, Stay)
	}
	return cmp.Or(c.Then, Disappear)
}

// IsNumber reports whether a number is shown, and not a time.
func (c Countdown) IsNumber() bool { return c.Kind == Number || c.Kind == Visitor && c.To != nil }

// Leaves reports whether the notice is gone once the countdown has run out.
func (c Countdown) Leaves() bool { t := c.GetThen(); return t == Disappear || t == HandOver }

// Split returns how many of each unit make up a time, in their order. Time
// that is left is rounded up in the smallest of them, so that it reads zero
// exactly at the moment and never before; time that has passed is rounded
// down. Less than nothing is nothing (rule C2).
func Split(d time.Duration, units []Unit, up bool) []int64 {
	least := units[len(units)-1].Length()
	n := int64(max(d, 0) / least)
	if !up && max(d, 0)%least > 0 {
		n++
	}
	out := make([]int64, len(units))
	for i, u := range units {
		size := int64(u.Length() / least)
		out[i], n = n/size, n%size
	}
	return out
}

// A Count is a compiled Countdown: a value that answers when. It never changes.
type Count struct {
	Countdown
	clock    *time.Location // nil for each visitor's own
	at       schedule.Local
	until    schedule.Local // number over a period
	period   time.Duration  // visitor; number by steps: one step
	moments  schedule.Schedule
	lastOnly bool // repeating: it has a last moment
}

// Compile reads a countdown of a site in the zone site. Faults point into it.
func Compile(c Countdown, site *time.Location) (*Count, fault.Faults) {
	k := &Count{Countdown: c, clock: site}
	var faults fault.Faults
	wrong := func(field, what, remedy string) {
		faults = append(faults, fault.Fault{Pointer: "/" + field, What: what, Remedy: remedy})
	}
	switch c.Clock {
	case "", schedule.ClockSite:
	case schedule.ClockVisitor:
		k.clock = nil
	default:
		loc, err := schedule.Zone(c.Clock)
		if err != nil {
			wrong("clock", err.Error(), `use "site", "visitor" or an IANA zone name such as "Europe/London"`)
		} else {
			k.clock = loc
		}
	}
	// What each kind is told by; all else would be without effect.
	for _, f := range []struct {
		name  string
		given bool
		kinds []Kind
	}{
		{
			"at", c.At != "", []Kind{To, Repeating, Since, Number},
		}, {"clock", c.Clock != "", []Kind{To, Repeating, Since, Number}}, {"rule", c.Rule != "", []Kind{Repeating}},
		{
			"except", len(c.Except) > 0, []Kind{Repeating},
		}, {"also", len(c.Also) > 0, []Kind{Repeating}}, {"for", c.For != "", []Kind{Visitor}},
		{
			"from", c.From != 0, []Kind{Number, Visitor},
		}, {
			"to", c.To != nil, []Kind{Number, Visitor},
		}, {
			"until", c.Until != "", []Kind{Number},
		}, {"step", c.Step != 0, []Kind{Number}}, {"every", c.Every != "", []Kind{Number}},
		{
			"units", len(c.Units) > 0, []Kind{To, Visitor, Repeating, Since},
		}, {"labels", c.Labels != "", []Kind{To, Visitor, Repeating, Since}},
	} {
		if f.given && !slices.Contains(f.kinds, c.Kind) {
			wrong(f.name, fmt.Sprintf("a countdown of kind %q has no %q", c.Kind, f.name), "remove it")
		}
	}
	local := func(field, s string) (l schedule.Local) {
		if s == "" {
			wrong(
				field, fmt.Sprintf("a countdown of kind %q needs %q", c.Kind, field),
				"give a local date and time such as 2026-12-04T18:00",
			)
			return 0
		}
		l, err := schedule.ParseLocal(s)
		if err != nil {
			wrong(field, err.Error(), "write it like 2026-12-04T18:00, without zone or offset")
		}
		return l
	}
	span := func(field, s string) time.Duration {
		sp, err := schedule.ParseSpan(s)
		d, fixed := sp.Length()
		if err == nil && (!fixed || d > 366*24*time.Hour) {
			err = fmt.Errorf("%q is no stretch of at most 366 days", s)
		}
		if err != nil {
			wrong(field, err.Error(), "write it in weeks, days, hours, minutes and seconds, such as PT2H or P3D")
		}
		return d
	}
	if c.Kind != Visitor {
		k.at = local("at", c.At)
	}
	switch c.Kind {
	case Visitor:
		k.period = span("for", c.For)
		if c.From != 0 && c.To == nil || c.To != nil && *c.To == c.From {
			wrong("to", "the number goes nowhere", "give to, other than from; without both it counts the time that is left")
		}
		if c.IsNumber() && (len(c.Units) > 0 || c.Labels != "") {
			wrong("units", "a number has no units and no labels", "remove them")
		}
	case Repeating:
		faults = append(faults, k.repeat(faults == nil)...)
	case Number:
		k.number(wrong, local, span)
	}
	faults = append(faults, c.units()...)
	faults = append(faults, c.ending()...)
	return k, faults
}

// repeat compiles the moments of a repeating countdown: the starts of windows
// of a second.
func (c *Count) repeat(readable bool) fault.Faults {
	if c.Rule == "" {
		return fault.Faults{{
			Pointer: "/rule",
			What:    "a repeating countdown needs a rule",
			Remedy:  "give one such as FREQ=WEEKLY;BYDAY=FR",
		}}
	}
	if !readable {
		return nil
	}
	w := schedule.Window{From: c.At, Until: (c.at + 1).String(), Rule: c.Rule, Except: c.Except, Also: c.Also}
	var wrong fault.Faults
	c.moments, wrong = schedule.Compile(schedule.Plan{
		Clock:   c.Clock,
		Windows: []schedule.Window{w},
	}, c.clockOr(time.UTC), time.Time{})
	var out fault.Faults
	for _, f := range wrong {
		f.Pointer = strings.TrimPrefix(f.Pointer, "/windows/0")
		out = append(out, f)
	}
	if out == nil {
		_, c.lastOnly = c.moments.EndIn(c.clockOr(time.UTC))
	}
	return out
}

func (c *Count) number(
	wrong func(field, what, remedy string),
	local func(string, string) schedule.Local,
	span func(string, string) time.Duration,
) {
	overPeriod, bySteps := c.Until != "", c.Step != 0 || c.Every != ""
	switch {
	case overPeriod == bySteps:
		wrong("until", "a number changes over a period, or by steps", "give to and until, or step and every")
	case overPeriod:
		if c.until = local("until", c.Until); c.until <= c.at {
			wrong("until", fmt.Sprintf("until %s is not after at %s", c.Until, c.At), "end it later than it begins")
		}
		if c.To == nil || *c.To == c.From {
			wrong("to", "the number goes nowhere", "give to, other than from")
		}
	default:
		c.period = span("every", c.Every)
		if c.Step == 0 {
			wrong("step", "the number goes nowhere", "give a step such as 1 or -1")
		} else if c.To != nil && (*c.To > c.From) != (c.Step > 0) {
			wrong(
				"to", fmt.Sprintf("steps of %d from %d never reach %d", c.Step, c.From, *c.To), "turn the step round, or change to",
			)
		}
	}
}

// units refuses what is no run (rule C2).
func (c Countdown) units() fault.Faults {
	if len(c.Units) == 0 {
		return nil
	}
	first := slices.Index(Units, c.Units[0])
	for i, u := range c.Units {
		if first < 0 || first+i >= len(Units) || Units[first+i] != u {
			return fault.Faults{{
				Pointer: fault.Pointer("units", i),
				What:    fmt.Sprintf("%q does not continue a run of units", u),
				Remedy:  "give neighbours, the largest first: weeks, days, hours, minutes, seconds",
			}}
		}
	}
	return nil
}

// ending refuses ends that make no sense together (rule C4).
func (c Countdown) ending() fault.Faults {
	var faults fault.Faults
	wrong := func(field, what, remedy string) {
		faults = append(faults, fault.Fault{Pointer: "/" + field, What: what, Remedy: remedy})
	}
	endless := c.Kind == Since || c.Kind == Number && c.Until == "" && c.To == nil
	switch {
	case endless && (c.Then != "" && c.Then != Stay || c.Go != ""):
		field := "then"
		if c.Then == "" || c.Then == Stay {
			field = "go"
		}
		wrong(field, "it has no end, so nothing follows it", "remove it")
	case c.Then == Again && c.Kind != Visitor && c.Kind != Number:
		wrong(
			"then", fmt.Sprintf("a countdown of kind %q cannot begin again", c.Kind),
			"use the kind repeating, which goes on to its next moment, or another end",
		)
	case c.Then == Again && c.Go != "" && c.Kind == Number:
		wrong("go", "a number that begins again has no moment to go at", "remove it, or choose another end")
	case c.Then == HandOver && c.HandTo == "":
		wrong("handTo", "nobody takes its place", "name the notice that does, by its id")
	case c.HandTo != "" && c.Then != HandOver:
		wrong("handTo", "only a countdown that hands over names another notice", `remove it, or use "hand-over"`)
	}
	if c.Go != "" {
		what := markup.HrefFault(c.Go)
		if what == "" && !strings.HasPrefix(c.Go, "/") && !strings.HasPrefix(c.Go, "http://") &&
			!strings.HasPrefix(c.Go, "https://") {
			what = fmt.Sprintf("%q is no page to go to", c.Go)
		}
		if what != "" {
			wrong("go", what, "give a path of the site such as /offers, or an http or https address")
		}
	}
	return faults
}

func (c *Count) clockOr(loc *time.Location) *time.Location {
	if c.clock == nil {
		return loc
	}
	return c.clock
}

// Target returns the moment that the countdown is about for a visitor whose
// clock is in loc, at the instant at: when it next runs out, or when that last
// was; of since, when it began; zero of a number without end. met is when the
// visitor first met it, zero for now.
func (c *Count) Target(at time.Time, loc *time.Location, met time.Time) time.Time {
	loc = c.clockOr(loc)
	switch c.Kind {
	case To, Since:
		return c.at.In(loc)
	case Visitor:
		if met.IsZero() || met.After(at) {
			met = at
		}
		return c.round(met, c.period, at)
	case Repeating:
		for _, i := range c.moments.Occurrences(0, at, 2, loc) {
			if i.From.After(at) {
				return i.From
			}
		}
		return c.last(loc)
	}
	if c.Until == "" && c.To == nil {
		return time.Time{}
	}
	return c.round(c.at.In(loc), c.lasts(loc), at)
}

// round returns the end of a period from begins; of one that begins again, the
// first end after at.
func (c *Count) round(begins time.Time, lasts time.Duration, at time.Time) time.Time {
	end := begins.Add(lasts)
	if c.Then == Again && !end.After(at) && lasts > 0 {
		end = end.Add((at.Sub(end)/lasts + 1) * lasts)
	}
	return end
}

// last returns the last moment of a repeating countdown, zero if it has none.
func (c *Count) last(loc *time.Location) time.Time {
	end, ends := c.moments.EndIn(loc)
	if !ends || end.IsZero() {
		return time.Time{}
	}
	return end.Add(-time.Second)
}

// lasts returns how long a number takes from its beginning to its end, 0 if it
// has none, or if a change of the clock leaves it without length: it is at its end
// when it begins.
func (c *Count) lasts(loc *time.Location) time.Duration {
	switch {
	case c.Until != "":
		return max(0, c.until.In(loc).Sub(c.at.In(loc)))
	case c.To != nil:
		way, step := *c.To-c.From, c.Step
		if step < 0 {
			way, step = -way, -step
		}
		return time.Duration((way+step-1)/step) * c.period
	}
	return 0
}

// Period returns how long a visitor's own countdown runs.
func (c *Count) Period() time.Duration { return c.period }

// Over returns when the countdown has run out for good for a visitor whose
// clock is in loc and who first met it at met; zero if it never does.
func (c *Count) Over(at time.Time, loc *time.Location, met time.Time) time.Time {
	switch {
	case c.Kind == Since || c.Then == Again:
		return time.Time{}
	case c.Kind == Repeating:
		return c.last(c.clockOr(loc))
	}
	return c.Target(at, loc, met)
}

// Soonest returns the earliest instant at which the countdown can have run out for
// good for anyone, who met it at met at the earliest; zero if it never does.
func (c *Count) Soonest(met time.Time) time.Time {
	east := time.FixedZone("", 14*60*60) // where each moment comes first
	return c.Over(met, east, met)
}

// Endless reports whether it never runs out for anyone.
func (c *Count) Endless() bool {
	return c.Kind != Visitor && c.Over(time.Time{}, c.clockOr(time.UTC), time.Time{}).IsZero() || c.Then == Again
}

// Fixed returns when the countdown runs out for good for everyone at once; ok
// is false if it never does, or not for all at the same instant.
func (c *Count) Fixed() (over time.Time, ok bool) {
	if c.Kind == Visitor || c.clock == nil {
		return time.Time{}, false
	}
	over = c.Over(time.Time{}, c.clock, time.Time{})
	return over, !over.IsZero()
}

// MaxMoments is how many moments of a repeating countdown are listed at most.
const MaxMoments = 1000

// Moments returns the instants in [from, until) at which the countdown runs
// out, at most MaxMoments. Of one on each visitor's own clock they are those of
// loc; one that runs for each visitor has none.
func (c *Count) Moments(from, until time.Time, loc *time.Location) []time.Time {
	if c.Kind == Visitor || c.Kind == Since {
		return nil
	}
	var out []time.Time
	for at := from.Add(-1); len(out) < MaxMoments; {
		t := c.Target(at, loc, time.Time{})
		if t.IsZero() || !t.After(at) || !t.Before(until) {
			break
		}
		out, at = append(out, t), t
	}
	return out
}

// Occurrences counts the moments of a repeating countdown in its first ten years.
func (c *Count) Occurrences() int { return c.moments.Count() }

// Prepare finds the moments near an instant, and for a year from it, beforehand.
func (c *Count) Prepare(at time.Time) { c.moments.Prepare(at) }

// Stretches returns when the countdown runs out in [from, until): each from the
// first place on Earth to the last, which are one but where each visitor's own
// clock decides.
func (c *Count) Stretches(from, until time.Time) []schedule.Interval {
	if c.clock != nil {
		var out []schedule.Interval
		for _, t := range c.Moments(from, until, c.clock) {
			out = append(out, schedule.Interval{From: t, Until: t})
		}
		return out
	}
	var out []schedule.Interval
	const round = 26 * time.Hour // from the first place to the last
	for _, first := range c.Moments(from.Add(-round), until, schedule.FirstPlace) {
		if last := first.Add(round); !last.Before(from) {
			out = append(out, schedule.Interval{From: first, Until: last})
		}
	}
	return out
}

// A Reading is a countdown at an instant.
type Reading struct {
	// The moment that it is about, zero of a number without end.
	Ends time.Time
	// How many of each unit; of a number, that number alone.
	Figures []int64
}

// Read reads the countdown at an instant for a visitor whose clock is in loc and
// who first met it at met, zero for now.
func (c *Count) Read(at time.Time, loc *time.Location, met time.Time) Reading {
	r := Reading{Ends: c.Target(at, loc, met)}
	switch {
	case c.IsNumber():
		r.Figures = []int64{int64(c.Value(at, loc, met))}
	case c.Kind == Since:
		r.Figures = Split(at.Sub(r.Ends), c.GetUnits(), true)
	default:
		r.Figures = Split(r.Ends.Sub(at), c.GetUnits(), false)
	}
	return r
}

// Value returns the number at an instant for a visitor whose clock is in loc and who first
// met it at met, zero for now. It reaches its end exactly at the end, and never before.
func (c *Count) Value(at time.Time, loc *time.Location, met time.Time) int {
	if met.IsZero() || met.After(at) {
		met = at
	}
	r := c.Run(loc, met)
	gone := at.Sub(r.Begins)
	if c.Then == Again && gone >= r.Lasts && r.Lasts > 0 {
		gone %= r.Lasts
	}
	return r.at(gone)
}

// A Run is how a number goes: Size is added Times times in each Per from
// Begins on, until To.
type Run struct {
	Begins time.Time
	From   int
	To     *int
	Size   int
	Times  int64
	Per    time.Duration
	Lasts  time.Duration // 0 without end
}

// Run returns how the number goes for a visitor whose clock is in loc and who first met it
// at met.
func (c *Count) Run(loc *time.Location, met time.Time) Run {
	loc = c.clockOr(loc)
	if c.Kind == Visitor {
		r := Run{Begins: met, From: c.From, To: c.To, Per: c.period, Lasts: c.period}
		return r.evenly()
	}
	r := Run{Begins: c.at.In(loc), From: c.From, To: c.To, Size: c.Step, Times: 1, Per: c.period, Lasts: c.lasts(loc)}
	if c.Until != "" {
		r.Per = r.Lasts
		return r.evenly()
	}
	return r
}

// evenly returns a run that goes from its beginning to its end by ones in Per.
func (r Run) evenly() Run {
	r.Size, r.Times = 1, int64(*r.To-r.From)
	if r.Times < 0 {
		r.Size, r.Times = -1, -r.Times
	}
	return r
}

func (r Run) at(gone time.Duration) int {
	if gone < 0 || gone == 0 && r.Per > 0 {
		return r.From
	}
	if r.Per <= 0 {
		return *r.To
	}
	// In milliseconds, as the site script has it.
	v := r.From + r.Size*int(gone.Milliseconds()*r.Times/r.Per.Milliseconds())
	if r.To != nil && (r.Size > 0 && v > *r.To || r.Size < 0 && v < *r.To) {
		return *r.To
	}
	return v
}

// OwnLabels are a language's own words for units, by plural form: {"days":
// {"one": "sleep", "other": "sleeps"}}.
type OwnLabels map[Unit]map[plural.Form]string

// Check returns what is wrong with own labels.
func (o OwnLabels) Check() fault.Faults {
	var faults fault.Faults
	for _, u := range Units {
		forms, ok := o[u]
		if ok && forms[plural.Other] == "" {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer(string(u)),
				What:    fmt.Sprintf("%s have no word for the form %q", u, plural.Other),
				Remedy:  `give {"other": "…"}, and the language's other forms`,
			})
		}
	}
	for u := range o {
		if !slices.Contains(Units, u) {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer(string(u)),
				What:    fmt.Sprintf("%q is no unit of time", u),
				Remedy:  "use weeks, days, hours, minutes or seconds",
			})
		}
	}
	return faults
}
