package schedule_test

import (
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/schedule"
)

// Periods on the calendar end at the same time of day, read as rule S3 does: the
// first of two, and past a gap with the offset before it; a month from the 31st ends
// on the last day of a shorter one (rule M1).
func TestSpansOnTheCalendar(t *testing.T) {
	for _, c := range []struct{ zone, span, from, until string }{
		{"Europe/London", "P1D", "2026-10-24T01:30:00+01:00", "2026-10-25T01:30:00+01:00"},
		{"America/New_York", "P1D", "2026-10-31T01:30:00-04:00", "2026-11-01T01:30:00-04:00"},
		{"Europe/Berlin", "P1D", "2026-10-24T02:30:00+02:00", "2026-10-25T02:30:00+02:00"},
		{"America/Los_Angeles", "P1W", "2026-10-25T01:15:00-07:00", "2026-11-01T01:15:00-07:00"},
		{"Australia/Sydney", "P1D", "2026-04-04T02:30:00+11:00", "2026-04-05T02:30:00+11:00"},
		{"Europe/London", "P1D", "2026-03-28T01:30:00Z", "2026-03-29T02:30:00+01:00"},
		{"UTC", "P1M", "2026-01-31T09:00:00Z", "2026-02-28T09:00:00Z"},
		{"UTC", "P1M", "2028-01-31T09:00:00Z", "2028-02-29T09:00:00Z"},
		{"UTC", "P1Y", "2028-02-29T09:00:00Z", "2029-02-28T09:00:00Z"},
		{"UTC", "P1M1D", "2026-01-31T09:00:00Z", "2026-03-01T09:00:00Z"},
		{"UTC", "P11M", "2026-03-31T23:00:00Z", "2027-02-28T23:00:00Z"},
		{"UTC", "PT36H", "2026-01-31T09:00:00.5Z", "2026-02-01T21:00:00.5Z"},
		{"Europe/London", "P1DT12H", "2026-10-24T12:00:00.25+01:00", "2026-10-26T00:00:00.25Z"},
	} {
		loc, err := time.LoadLocation(c.zone)
		require.NoError(t, err)
		s, err := schedule.ParseSpan(c.span)
		require.NoError(t, err)
		from, err := time.Parse(time.RFC3339Nano, c.from)
		require.NoError(t, err)
		assert.Equal(
			t, c.until, s.After(from, loc).In(loc).Format(time.RFC3339Nano), "%s from %s in %s", c.span, c.from, c.zone,
		)
	}
	// What has ended by a moment began at the latest before it, whatever the months.
	r := rand.New(rand.NewPCG(1, 2))
	for range 5000 {
		s := schedule.Span{Years: r.IntN(2), Months: r.IntN(14), Days: r.IntN(3)}
		if s == (schedule.Span{}) {
			continue
		}
		at := time.Date(2026, 1, 1+r.IntN(1200), 9, 0, 0, 0, time.UTC)
		begin := s.Before(at, time.UTC)
		require.False(t, s.After(begin, time.UTC).After(at), "%+v before %s", s, at)
		require.True(t, s.After(begin.AddDate(0, 0, 1), time.UTC).After(at), "%+v before %s", s, at)
	}
}
