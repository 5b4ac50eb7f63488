package schedule

import (
	"fmt"
	"regexp"
	"strconv"
	"time"
)

// A Span is a duration in ISO 8601's parts. Years to days are counted on the
// calendar, hours to seconds exactly (rule M1).
type Span struct {
	Years, Months, Days int
	Exact               time.Duration
}

var isoDuration = regexp.MustCompile(`^P(?:(\d{1,4})Y)?(?:(\d{1,4})M)?(?:(\d{1,4})W)?(?:(\d{1,5})D)?(?:T(?:(\d{1,` +
	`6})H)?(?:(\d{1,7})M)?(?:(\d{1,9})S)?)?$`)

// ParseSpan reads an ISO 8601 duration in whole units that is longer than nothing.
func ParseSpan(s string) (Span, error) {
	m := isoDuration.FindStringSubmatch(s)
	if m == nil || s[len(s)-1] == 'T' {
		return Span{}, fmt.Errorf("%q is not an ISO 8601 duration", s)
	}
	n := make([]int, len(m))
	for i := 1; i < len(m); i++ {
		n[i], _ = strconv.Atoi(m[i])
	}
	sp := Span{Years: n[1], Months: n[2], Days: 7*n[3] + n[4],
		Exact: time.Duration(n[5])*time.Hour + time.Duration(n[6])*time.Minute + time.Duration(n[7])*time.Second}
	if sp == (Span{}) {
		return Span{}, fmt.Errorf("%q lasts no time", s)
	}
	return sp, nil
}

// Length returns how long the span lasts with days of 86,400 s; ok is false if
// it has years or months, whose length depends on when they begin.
func (s Span) Length() (d time.Duration, ok bool) {
	return time.Duration(s.Days)*24*time.Hour + s.Exact, s.Years|s.Months == 0
}

// After returns the end of the span that begins at t for someone whose
// calendar is in loc. Years and months lead to the same day of a later month, or to
// its last where it has no such day; the time of day is then read as rule S3 does.
func (s Span) After(t time.Time, loc *time.Location) time.Time {
	return calendar(t, loc, s.Years, s.Months, s.Days).Add(s.Exact)
}

// Before returns the latest beginning of a span that has ended by t for someone
// whose calendar is in loc, by whole days where it is counted on the calendar.
func (s Span) Before(t time.Time, loc *time.Location) time.Time {
	begin := calendar(t.Add(-s.Exact), loc, -s.Years, -s.Months, -s.Days)
	if s.Years|s.Months == 0 {
		return begin
	}
	// Months are of different lengths: it is found within a few days.
	for s.After(begin, loc).After(t) {
		begin = calendar(begin, loc, 0, 0, -1)
	}
	for next := calendar(begin, loc, 0, 0, 1); !s.After(next, loc).After(t); next = calendar(begin, loc, 0, 0, 1) {
		begin = next
	}
	return begin
}

// calendar returns t with years, months and days added on the calendar of loc.
func calendar(t time.Time, loc *time.Location, years, months, days int) time.Time {
	if years|months|days == 0 {
		return t
	}
	clock := LocalAt(t, loc).clock()
	first := time.Date(clock.Year()+years, clock.Month()+time.Month(months), 1, 0, 0, 0, 0, time.UTC)
	day := min(clock.Day(), first.AddDate(0, 1, -1).Day()) + days
	at := time.Date(first.Year(), first.Month(), day, clock.Hour(), clock.Minute(), clock.Second(), 0, time.UTC)
	return Local(at.Unix()).In(loc).Add(time.Duration(t.Nanosecond()))
}
