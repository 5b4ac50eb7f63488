package schedule

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/teambition/rrule-go"

	"mastflag/core/fault"
)

// MaxOccurrences is how many occurrences of one window are looked at. What
// lies behind them is not live.
const MaxOccurrences = 100_000

// How many occurrences the windows of one plan, and all published plans of a
// site together, may have in their first ten years (rule S6). Measured: a site
// at its bound takes four seconds to bring up to date, and visitors none.
const (
	MaxPlan = 200_000
	MaxSite = 5_000_000
)

// counted is how long from its first start the occurrences of a window count:
// 3,660 days.
const counted = 10 * 366 * day

// Limits on a rule that keep its expansion small.
const (
	maxInterval  = 10_000
	timesPerDay  = 288 // every five minutes
	maxRuleItems = 400
)

// The Gregorian calendar, weekdays included, repeats after 400 years. Rules
// are expanded near the end of the years the library knows, so that one that
// never comes true ends after a few centuries instead of eight thousand years.
const (
	cycle     = 146_097 * 86_400 // seconds in 400 years
	lastStart = 9_849            // the latest year in which an expansion begins
)

// A repeat is the starts of a repeating window (rule S4): what its rule
// gives, without those left out, and the extra ones. Starts are found as they
// are asked for, and kept. What is found is read without a lock; finding more
// takes one.
type repeat struct {
	length Local // from the start of an occurrence to its end, on the wall clock
	except map[Local]bool
	also   []Local // sorted
	until  time.Time
	ends   bool // the rule has an end of its own
	most   int  // occurrences in the time that counts, as atMost has them

	mu    sync.Mutex
	next  rrule.Next // nil once the rule has given all
	shift Local
	last  Local
	given []Local // by the rule, ascending; without those left out
	cut   bool    // given was cut off at MaxOccurrences
	seen  int
	found atomic.Pointer[starts]
}

// starts are all that the rule gives before reach. They are never altered.
type starts struct {
	given []Local
	reach Local
	all   bool // the rule gives none after these
	cut   bool
	last  Local
}

// start is the local start of an occurrence. An extra one does not heed the
// rule's UNTIL.
type start struct {
	at    Local
	extra bool
}

// parseRule reads an RRULE value (RFC 5545 §3.3.10) for a window that starts
// at from. UNTIL in UTC is returned as an instant: what it takes in depends
// on the zone.
func parseRule(value string, from Local) (opt rrule.ROption, untilUTC time.Time, err error) {
	value = strings.ToUpper(strings.TrimSpace(value))
	if strings.HasPrefix(value, "RRULE") || strings.Contains(value, "DTSTART") {
		return opt, untilUTC, errors.New("it is to be the value of an RRULE alone, such as FREQ=WEEKLY;BYDAY=FR; its start " +
			"is the window's from")
	}
	var rest []string
	seen := map[string]string{}
	for _, part := range strings.Split(strings.TrimSuffix(value, ";"), ";") {
		name, v, ok := strings.Cut(part, "=")
		if !ok || v == "" {
			return opt, untilUTC, fmt.Errorf("%q in it is not a name and a value", part)
		}
		if _, twice := seen[name]; twice {
			return opt, untilUTC, fmt.Errorf("%s stands in it twice", name)
		}
		seen[name] = v
		if strings.Count(v, ",") > maxRuleItems {
			return opt, untilUTC, fmt.Errorf("%s lists too much", name)
		}
		if name != "UNTIL" {
			rest = append(rest, part)
		}
	}
	switch seen["FREQ"] {
	case "YEARLY", "MONTHLY", "WEEKLY", "DAILY", "HOURLY":
	case "MINUTELY", "SECONDLY":
		return opt, untilUTC, errors.New("it repeats more often than hourly")
	case "":
		return opt, untilUTC, errors.New("FREQ is missing")
	default:
		return opt, untilUTC, fmt.Errorf("FREQ=%s is not a frequency", seen["FREQ"])
	}
	if _, ok := seen["BYEASTER"]; ok {
		return opt, untilUTC, errors.New("BYEASTER is not part of RFC 5545")
	}
	parsed, err := rrule.StrToROption(strings.Join(rest, ";"))
	if err != nil {
		return opt, untilUTC, err
	}
	opt = *parsed
	if err := checkRule(opt, seen, from); err != nil {
		return opt, untilUTC, err
	}
	opt.Dtstart = from.clock()
	if u := seen["UNTIL"]; u != "" {
		utc := strings.HasSuffix(u, "Z")
		t, err := time.Parse("20060102T150405", strings.TrimSuffix(u, "Z"))
		if err != nil {
			if t, err = time.Parse("20060102", u); err != nil {
				return opt, untilUTC, fmt.Errorf("UNTIL=%s is not a date and time such as 20261224T180000", u)
			}
			t = t.Add(24*time.Hour - time.Second) // to the end of that day
		}
		opt.Until = t
		if utc {
			// The widest reading; what is too late by the clock at hand is left out later.
			untilUTC, opt.Until = t, t.Add(26*time.Hour)
		}
	}
	return opt, untilUTC, nil
}

// checkRule refuses what RFC 5545 §3.3.10 forbids and what would take too
// long to expand.
func checkRule(opt rrule.ROption, seen map[string]string, from Local) error {
	if v, ok := seen["INTERVAL"]; ok && (opt.Interval < 1 || opt.Interval > maxInterval) {
		return fmt.Errorf("INTERVAL=%s is not a number from 1 to %d", v, maxInterval)
	}
	if v, ok := seen["COUNT"]; ok && opt.Count < 1 {
		return fmt.Errorf("COUNT=%s is not a number from 1 on", v)
	}
	_, until := seen["UNTIL"]
	if until && opt.Count > 0 {
		return errors.New("it has both COUNT and UNTIL")
	}
	for _, w := range opt.Byweekday {
		if w.N() != 0 && opt.Freq != rrule.MONTHLY && opt.Freq != rrule.YEARLY {
			return errors.New("BYDAY with a number goes with FREQ=MONTHLY or YEARLY only")
		}
		if n := max(w.N(), -w.N()); n > 5 && (opt.Freq == rrule.MONTHLY || len(opt.Bymonth) > 0) {
			return fmt.Errorf("no month has a weekday %d times", n)
		}
		if w.N() != 0 && opt.Freq == rrule.YEARLY && len(opt.Byweekno) > 0 {
			return errors.New("BYDAY with a number does not go with BYWEEKNO")
		}
	}
	switch {
	case len(opt.Bymonthday) > 0 && opt.Freq == rrule.WEEKLY:
		return errors.New("BYMONTHDAY does not go with FREQ=WEEKLY")
	case len(opt.Byyearday) > 0 && opt.Freq != rrule.YEARLY && opt.Freq != rrule.HOURLY:
		return fmt.Errorf("BYYEARDAY does not go with FREQ=%s", seen["FREQ"])
	case len(opt.Byweekno) > 0 && opt.Freq != rrule.YEARLY:
		return errors.New("BYWEEKNO goes with FREQ=YEARLY only")
	case len(opt.Bysetpos) > 0 && len(opt.Bymonth)+len(opt.Bymonthday)+len(opt.Byyearday)+len(opt.Byweekno)+
		len(opt.Byweekday)+len(opt.Byhour)+len(opt.Byminute)+len(opt.Bysecond) == 0:
		return errors.New("BYSETPOS needs another BY… beside it")
	}
	if n := max(1, len(opt.Byhour)) * max(1, len(opt.Byminute)) * max(1, len(opt.Bysecond)); n > timesPerDay {
		return fmt.Errorf("it starts %d times a day; at most %d are accepted", n, timesPerDay)
	}
	if opt.Freq == rrule.HOURLY && len(opt.Byhour) > 0 {
		// An interval that never lands on one of the hours gives nothing.
		step := gcd(max(1, opt.Interval), 24)
		if !slices.ContainsFunc(opt.Byhour, func(h int) bool { return (h-from.clock().Hour())%step == 0 }) {
			return errNoOccurrence
		}
	}
	return nil
}

var errNoOccurrence = errors.New("it yields no occurrence")

// hasNoDay reports whether no day of any year is what a rule's parts ask for, such as the 30th of
// February. Years are of 14 sorts: of 365 or 366 days, and by the weekday that they begin with.
func hasNoDay(opt rrule.ROption) bool {
	if len(opt.Bymonthday)+len(opt.Byyearday)+len(opt.Bymonth) == 0 {
		return false
	}
	has := func(list []int, n, ofAll int) bool {
		return len(list) == 0 || slices.Contains(list, n) || slices.Contains(list, n-ofAll-1)
	}
	for sort := range 14 {
		year := 365 + sort%2
		day := 0 // of the year, from 1
		for month := 1; month <= 12; month++ {
			days := [...]int{31, 28 + sort%2, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31}[month-1]
			if len(opt.Bymonth) > 0 && !slices.Contains(opt.Bymonth, month) {
				day += days
				continue
			}
			for d := 1; d <= days; d++ {
				day++
				if !has(opt.Bymonthday, d, days) || !has(opt.Byyearday, day, year) {
					continue
				}
				weekday := (day - 1 + sort/2) % 7
				if len(opt.Byweekday) == 0 || slices.ContainsFunc(opt.Byweekday, func(w rrule.Weekday) bool {
					nth := []int{w.N()}
					return w.Day() == weekday && (w.N() == 0 || has(nth, (d+6)/7, (d+6)/7+(days-d)/7) ||
						has(nth, (day+6)/7, (day+6)/7+(year-day)/7))
				}) {
					return false
				}
			}
		}
	}
	return true
}

// picksNothing reports whether BYSETPOS asks for places alone that an hour, or a day, does not have.
func picksNothing(opt rrule.ROption) bool {
	if len(opt.Bysetpos) == 0 || opt.Freq != rrule.HOURLY && opt.Freq != rrule.DAILY {
		return false
	}
	places := max(1, len(opt.Byminute)) * max(1, len(opt.Bysecond))
	if opt.Freq == rrule.DAILY {
		places *= max(1, len(opt.Byhour))
	}
	return !slices.ContainsFunc(opt.Bysetpos, func(n int) bool { return max(n, -n) <= places })
}

func gcd(a, b int) int {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

// compileRepeat reads the repeating part of a window that starts at from and
// ends at until. Faults point into the window.
func compileRepeat(w Window, from, until Local) (*repeat, fault.Faults) {
	var faults fault.Faults
	r := &repeat{length: until - from, except: map[Local]bool{}, ends: true}
	list := func(field string, in []string) (out []Local) {
		for i, s := range in {
			l, err := ParseLocal(s)
			if err != nil {
				faults = append(faults, fault.Fault{
					Pointer: fault.Pointer(field, i),
					What:    err.Error(),
					Remedy:  "write it like 2026-12-01T09:00, without zone or offset",
				})
			}
			out = append(out, l)
		}
		return out
	}
	for _, l := range list("except", w.Except) {
		r.except[l] = true
	}
	r.also = list("also", w.Also)
	if w.Rule == "" {
		r.also = append(r.also, from)
	}
	r.also = slices.DeleteFunc(r.also, func(l Local) bool { return r.except[l] })
	slices.Sort(r.also)
	r.also = slices.Compact(r.also)
	if w.Rule != "" {
		opt, untilUTC, err := parseRule(w.Rule, from)
		if err == nil {
			r.until, r.ends = untilUTC, opt.Count > 0 || !opt.Until.IsZero()
			r.shift = Local(max(0, (lastStart-from.clock().Year())/400)) * cycle
			r.most = atMost(opt)
			opt.Dtstart = (from + r.shift).clock()
			if !opt.Until.IsZero() {
				opt.Until = (Local(opt.Until.Unix()) + r.shift).clock()
			}
			if r.next, err = iterator(opt); err == nil && (hasNoDay(opt) || picksNothing(opt)) {
				err = errNoOccurrence
			}
		}
		if err == nil && len(faults) == 0 && len(r.also) == 0 {
			for reach := from; len(r.given) == 0 && r.next != nil; reach = reach*2 - from + 366*86_400 {
				r.grow(reach)
			}
			if len(r.given) == 0 {
				err = errNoOccurrence
			}
		}
		if err != nil {
			faults = append(faults, fault.Fault{
				Pointer: "/rule",
				What:    fmt.Sprintf("rule %s: %s", strconv.Quote(shorten(w.Rule)), err),
				Remedy:  "give the value of an RRULE (RFC 5545), such as FREQ=WEEKLY;BYDAY=MO,FR",
			})
		}
	} else if len(r.also) == 0 {
		faults = append(faults, fault.Fault{
			Pointer: "/except",
			What:    "all occurrences are left out",
			Remedy:  "leave one, or remove the window",
		})
	}
	r.most += len(r.also)
	return r, faults
}

// atMost returns how many occurrences a rule can give in the time that counts:
// as many as its frequency, interval, parts and end allow, without finding them.
// What its parts leave of each other is not looked at, so it may be more than it
// gives, and is never less.
func atMost(opt rrule.ROption) int {
	days := int(counted / day)
	if !opt.Until.IsZero() {
		days = max(0, min(days, int(opt.Until.Sub(opt.Dtstart)/(24*time.Hour))+1))
	}
	every := func(periods int) int { return (periods + max(1, opt.Interval) - 1) / max(1, opt.Interval) }
	some := func(list []int, without int) int { // how many of a part, where it stands
		if len(list) == 0 {
			return without
		}
		return len(list)
	}
	weeks, months, years := days/7+2, days/30+3, days/365+2
	inHour := some(opt.Byminute, 1) * some(opt.Bysecond, 1)
	inDay := some(opt.Byhour, 1) * inHour
	var n, each int // periods, and occurrences in each
	switch opt.Freq {
	case rrule.YEARLY:
		n, each = every(years), daysOfYear(opt)*inDay
	case rrule.MONTHLY:
		n, each = every(months), daysOfMonth(opt)*inDay
		if len(opt.Bymonth) > 0 {
			n = min(n, years*len(opt.Bymonth))
		}
	case rrule.WEEKLY:
		n, each = every(weeks), max(1, len(opt.Byweekday))*inDay
	default:
		on := days + 1 // which its parts let through
		if len(opt.Byweekday) > 0 {
			on = min(on, weeks*len(opt.Byweekday))
		}
		if len(opt.Bymonthday) > 0 {
			on = min(on, months*len(opt.Bymonthday))
		}
		if len(opt.Bymonth) > 0 {
			on = min(on, years*31*len(opt.Bymonth))
		}
		n, each = min(every(days+1), on), inDay
		if opt.Freq == rrule.HOURLY {
			n, each = min(every(24*days+1), on*some(opt.Byhour, 24)), inHour
		}
	}
	if len(opt.Bysetpos) > 0 {
		each = min(each, len(opt.Bysetpos))
	}
	if n *= each; opt.Count > 0 {
		n = min(n, opt.Count)
	}
	return min(n, MaxOccurrences)
}

// daysOfMonth is how many days of a month the parts of a rule take at most.
func daysOfMonth(opt rrule.ROption) int {
	if len(opt.Bymonthday)+len(opt.Byweekday) == 0 {
		return 1
	}
	n := 31
	if len(opt.Bymonthday) > 0 {
		n = min(n, len(opt.Bymonthday))
	}
	if len(opt.Byweekday) > 0 {
		n = min(n, weekdays(opt, 1, 5))
	}
	return n
}

// daysOfYear is how many days of a year the parts of a rule take at most.
func daysOfYear(opt rrule.ROption) int {
	months, within := 12, len(opt.Bymonth)
	if within > 0 {
		months = within
	}
	if len(opt.Bymonthday)+len(opt.Byyearday)+len(opt.Byweekno)+len(opt.Byweekday) == 0 {
		return max(1, within)
	}
	n := 31 * months
	if len(opt.Bymonthday) > 0 {
		n = min(n, months*len(opt.Bymonthday))
	}
	if len(opt.Byyearday) > 0 {
		n = min(n, len(opt.Byyearday))
	}
	if len(opt.Byweekno) > 0 {
		n = min(n, 7*len(opt.Byweekno))
	}
	switch {
	case len(opt.Byweekday) > 0 && within > 0:
		n = min(n, weekdays(opt, within, 5*within))
	case len(opt.Byweekday) > 0:
		n = min(n, weekdays(opt, 1, 53))
	}
	return n
}

// weekdays counts the days that BYDAY takes, where a numbered one, such as 2MO,
// is so many and another so many.
func weekdays(opt rrule.ROption, numbered, other int) (n int) {
	for _, w := range opt.Byweekday {
		if w.N() == 0 {
			n += other
		} else {
			n += numbered
		}
	}
	return n
}

// iterator guards the library against rules on which it gives up by panic:
// what it has given until then is all there is.
func iterator(opt rrule.ROption) (next rrule.Next, err error) {
	defer func() {
		if recover() != nil {
			next, err = nil, errors.New("it cannot be expanded")
		}
	}()
	rule, err := rrule.NewRRule(opt)
	if err != nil {
		return nil, err
	}
	step := rule.Iterator()
	return func() (t time.Time, more bool) {
		defer func() {
			if recover() != nil {
				t, more = time.Time{}, false
			}
		}()
		return step()
	}, nil
}

func shorten(s string) string {
	if len(s) > 120 {
		return s[:120] + "…"
	}
	return s
}

// grow finds all starts that the rule gives before reach. The caller holds mu
// or is alone.
func (r *repeat) grow(reach Local) {
	for r.next != nil && r.last < reach {
		t, more := r.next()
		if !more || r.seen == MaxOccurrences {
			r.cut = more
			r.next = nil
			break
		}
		r.last = Local(t.Unix()) - r.shift
		r.seen++
		if n := len(r.given); !r.except[r.last] && (n == 0 || r.given[n-1] != r.last) {
			r.given = append(r.given, r.last)
		}
	}
	r.found.Store(&starts{r.given, reach, r.next == nil, r.cut, r.last})
}

// before returns at least all starts that the rule gives before reach.
func (r *repeat) before(reach Local) *starts {
	if f := r.found.Load(); f != nil && (f.all || reach <= f.reach) {
		return f
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	if f := r.found.Load(); f == nil || !f.all && f.reach < reach {
		r.grow(reach)
	}
	return r.found.Load()
}

// between returns the starts in [lo, hi), ascending, and whether there are
// none at hi or later.
func (r *repeat) between(lo, hi Local) (list []start, last bool) {
	f := r.before(hi)
	given := f.given
	i, _ := slices.BinarySearch(given, lo)
	j, _ := slices.BinarySearch(given, hi)
	k, _ := slices.BinarySearch(r.also, lo)
	l, _ := slices.BinarySearch(r.also, hi)
	last = f.all && j == len(given) && l == len(r.also)
	list = make([]start, 0, j-i+l-k)
	for i < j || k < l {
		if k == l || i < j && given[i] < r.also[k] {
			list = append(list, start{given[i], false})
			i++
			continue
		}
		if i < j && given[i] == r.also[k] {
			i++
		}
		list = append(list, start{r.also[k], true})
		k++
	}
	return list, last
}

// The repeats that were read last, by what is written: the same window, met
// again when a site is compiled anew, is expanded once.
var (
	knownMu sync.Mutex
	known   = map[string]*repeat{}
)

// How many repeats are kept, and about how many starts they have found; when
// there are more it begins anew. Starts are found after a repeat is kept, so they
// are counted now and then.
const (
	maxKnown = 4096
	recount  = 16
)

// maxKnownStarts is a variable for its test alone.
var maxKnownStarts = 2_000_000

// knownStarts counts the starts that the known repeats have found; knownMu is
// held.
func knownStarts() (n int) {
	for _, r := range known {
		if f := r.found.Load(); f != nil {
			n += len(f.given)
		}
	}
	return n
}

// readRepeat is compileRepeat of a window that may have been read before.
func readRepeat(w Window, from, until Local) (*repeat, fault.Faults) {
	key := strings.Join(slices.Concat([]string{
		w.From, w.Until, w.Rule, "\x00",
	}, w.Except, []string{"\x00"}, w.Also), "\x01")
	knownMu.Lock()
	r := known[key]
	knownMu.Unlock()
	if r != nil {
		return r, nil
	}
	r, faults := compileRepeat(w, from, until)
	if faults == nil {
		knownMu.Lock()
		defer knownMu.Unlock()
		if n := len(known); n >= maxKnown || n%recount == 0 && knownStarts() > maxKnownStarts {
			clear(known)
		}
		known[key] = r
	}
	return r, faults
}

// occurrence returns the one with that start, between clocks at its two ends;
// ok is false if a clock change leaves it without length, or it starts after
// an UNTIL in UTC.
func (r *repeat) occurrence(st start, opens, closes *reader) (i Interval, ok bool) {
	i, ok = interval(st.at, st.at+r.length, opens, closes)
	return i, ok && (st.extra || r.until.IsZero() || !i.From.After(r.until))
}
