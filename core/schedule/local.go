package schedule

import (
	"fmt"
	"math"
	"time"
)

// A Local is a date and time of day on some wall clock, without zone or
// offset, to the second. It is held as the seconds that have passed since
// 1970-01-01T00:00:00 on that clock, so two Locals compare and subtract as
// numbers. The zero Local is that date.
type Local int64

const localLayout = "2006-01-02T15:04:05"

// ParseLocal reads "2026-12-01T09:00" or "2026-12-01T09:00:30".
// A value with a zone or an offset is an error: a Local has none.
func ParseLocal(s string) (Local, error) {
	for _, layout := range []string{"2006-01-02T15:04", localLayout} {
		if len(s) == len(layout) {
			if t, err := time.Parse(layout, s); err == nil {
				return Local(t.Unix()), nil
			}
		}
	}
	return 0, fmt.Errorf("%q is not a local date and time", s)
}

// LocalAt returns what a wall clock in loc shows at instant t.
func LocalAt(t time.Time, loc *time.Location) Local {
	_, offset := t.In(loc).Zone()
	return Local(t.Unix() + int64(offset))
}

// String returns l as "2026-12-01T09:00", with seconds only if it has some.
func (l Local) String() string {
	t := l.clock()
	if t.Second() == 0 {
		return t.Format("2006-01-02T15:04")
	}
	return t.Format(localLayout)
}

// clock returns l as a time whose UTC fields are the wall clock's.
func (l Local) clock() time.Time { return time.Unix(int64(l), 0).UTC() }

// In returns the instant at which a wall clock in loc shows l (rule S3).
// A time that the clock skips is read with the offset before the gap; one
// that occurs twice is its first occurrence (RFC 5545 §3.3.5).
func (l Local) In(loc *time.Location) time.Time {
	// Offsets lie within a day and two hours of UTC, so the instant sought
	// lies in one of the zone's periods that touch this span.
	const reach = 26 * 60 * 60
	last := int64(l) + reach

	var before time.Time // the reading by the last period that l has gone past
	for period := time.Unix(int64(l)-reach, 0).In(loc); ; {
		_, offset := period.Zone()
		reading := time.Unix(int64(l)-int64(offset), 0).UTC()
		if LocalAt(reading, loc) == l {
			return reading
		}
		end := PeriodEnd(period)
		if !end.IsZero() && !reading.Before(end) {
			before = reading
		}
		if end.IsZero() || end.Unix() > last {
			return before
		}
		period = end.In(loc)
	}
}

// PeriodEnd returns the end of the stretch of time that begins at or before
// t and in which the zone of t keeps one offset: after t, and zero if there
// is no end. Two neighbouring stretches may have the same offset.
func PeriodEnd(t time.Time) time.Time {
	_, end := t.ZoneBounds()
	if !end.IsZero() && !end.After(t) {
		// Beyond the years that its data lists, ZoneBounds ends a leap year a
		// day early, at an instant that may lie behind t.
		end = t.Add(time.Hour)
	}
	return end
}

// A reader reads many Locals on the clock of one zone. It remembers the
// stretch of one offset that it was last in.
type reader struct {
	loc    *time.Location
	offset int64
	lo, hi int64 // instants for which the offset surely holds, and no earlier one shows the same
}

func (r *reader) read(l Local) time.Time {
	if at := int64(l) - r.offset; r.hi != 0 && at >= r.lo && at < r.hi {
		return time.Unix(at, 0).UTC()
	}
	t := l.In(r.loc)
	from, _ := t.In(r.loc).ZoneBounds()
	until := PeriodEnd(t.In(r.loc))
	_, offset := t.In(r.loc).Zone()
	const margin = 2 * 86_400
	r.offset, r.lo, r.hi = int64(offset), math.MinInt64, math.MaxInt64
	if !from.IsZero() {
		r.lo = from.Unix() + margin
	}
	if !until.IsZero() {
		r.hi = until.Unix() - margin
	}
	return t
}
