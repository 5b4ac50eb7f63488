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

var isoDuration = regexp.MustCompile(`^P(?:(\d{1,4})Y)?(?:(\d{1,4})M)?(?:(\d{1,4})W)?(?:(\d{1,5})D)?(?:T(?:(\d{1,6})H)?(?:(\d{1,7})M)?(?:(\d{1,9})S)?)?$`)

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
// calendar is in loc.
func (s Span) After(t time.Time, loc *time.Location) time.Time {
	if s.Years|s.Months|s.Days != 0 {
		t = t.In(loc).AddDate(s.Years, s.Months, s.Days)
	}
	return t.Add(s.Exact)
}

// Before returns the beginning of the span that ends at t for someone whose
// calendar is in loc.
func (s Span) Before(t time.Time, loc *time.Location) time.Time {
	t = t.Add(-s.Exact)
	if s.Years|s.Months|s.Days != 0 {
		t = t.In(loc).AddDate(-s.Years, -s.Months, -s.Days)
	}
	return t
}
