package schedule_test

import (
	"cmp"
	"math/rand/v2"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/schedule"
)

func zone(t *testing.T, name string) *time.Location {
	t.Helper()
	loc, err := schedule.Zone(name)
	require.NoError(t, err)
	return loc
}

func instant(t *testing.T, s string) time.Time {
	t.Helper()
	if s == "" {
		return time.Time{}
	}
	at, err := time.Parse(time.RFC3339, s)
	require.NoError(t, err)
	return at.UTC()
}

// Sources: RFC 5545 §3.3.5 (a skipped time is read with the offset before the
// gap, a doubled one is its first occurrence); offsets and changes from the
// IANA tz database. The browser's own Intl.DateTimeFormat is asked about the
// same clocks in the end-to-end tests.
func TestLocalTimesAcrossClockChanges(t *testing.T) {
	for _, c := range []struct{ name, zone, local, want string }{
		{
			"RFC 5545: 2:30 on 11 March 2007 in New York is skipped, read as 3:30 EDT", "America/New_York", "2007-03-11T02:30",
			"2007-03-11T07:30:00Z",
		},
		{
			"RFC 5545: 1:30 on 4 November 2007 in New York comes twice, the first is EDT", "America/New_York",
			"2007-11-04T01:30", "2007-11-04T05:30:00Z",
		},
		{"an ordinary summer time", "Europe/London", "2026-07-01T09:00", "2026-07-01T08:00:00Z"},
		{"the first skipped minute", "Europe/London", "2027-03-28T01:00", "2027-03-28T01:00:00Z"},
		{"the last skipped minute", "Europe/London", "2027-03-28T01:59", "2027-03-28T01:59:00Z"},
		{"the first minute after the gap", "Europe/London", "2027-03-28T02:00", "2027-03-28T01:00:00Z"},
		{"the first doubled minute", "Europe/London", "2026-10-25T01:00", "2026-10-25T00:00:00Z"},
		{"the first minute after the overlap", "Europe/London", "2026-10-25T02:00", "2026-10-25T02:00:00Z"},
		{"a gap of half an hour: Lord Howe", "Australia/Lord_Howe", "2026-10-04T02:15", "2026-10-03T15:45:00Z"},
		{"an overlap of half an hour: Lord Howe", "Australia/Lord_Howe", "2026-04-05T01:45", "2026-04-04T14:45:00Z"},
		{"a gap at midnight: Beirut", "Asia/Beirut", "2026-03-29T00:30", "2026-03-28T22:30:00Z"},
		{"a whole day skipped: Samoa went over the date line", "Pacific/Apia", "2011-12-30T12:00", "2011-12-30T22:00:00Z"},
		{"a zone without changes, off the hour", "Asia/Kathmandu", "2026-01-01T00:00", "2025-12-31T18:15:00Z"},
		{"UTC", "UTC", "2026-02-28T23:59:59", "2026-02-28T23:59:59Z"},
	} {
		t.Run(c.name, func(t *testing.T) {
			l, err := schedule.ParseLocal(c.local)
			require.NoError(t, err)
			assert.Equal(t, instant(t, c.want), l.In(zone(t, c.zone)))
		})
	}
}

// Whatever instant a clock shows, reading what it shows gives that instant,
// or an earlier one that shows the same.
func TestLocalRoundTrip(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	names := []string{
		"Europe/London", "America/St_Johns", "Australia/Lord_Howe", "Asia/Gaza", "Africa/Casablanca", "Pacific/Apia",
		"America/Havana", "Antarctica/Troll",
	}
	for range 20000 {
		loc := zone(t, names[r.IntN(len(names))])
		at := time.Unix(r.Int64N(80*365*86400), 0).UTC()
		shown := schedule.LocalAt(at, loc)
		back := shown.In(loc)
		require.Equal(t, shown, schedule.LocalAt(back, loc), "%s at %s", loc, at)
		require.False(t, back.After(at), "%s at %s: %s is not the first", loc, at, back)
	}
}

func TestParseLocal(t *testing.T) {
	for _, bad := range []string{
		"", "2026-12-01", "2026-12-01T09:00Z", "2026-12-01T09:00+01:00", "2026-02-30T09:00", "2026-12-01T24:00",
		"2026-12-01 09:00", "tomorrow", "2026-12-01T09:00:00.5",
	} {
		_, err := schedule.ParseLocal(bad)
		assert.ErrorContains(t, err, "not a local date and time", bad)
	}
	l, err := schedule.ParseLocal("2026-12-01T09:00:30")
	require.NoError(t, err)
	assert.Equal(t, "2026-12-01T09:00:30", l.String())
}

type window = schedule.Window

// Each row: the live intervals of a plan in London, as from/until pairs; "" is open.
func TestIntervals(t *testing.T) {
	for _, c := range []struct {
		name      string
		plan      schedule.Plan
		published string
		want      [][2]string
	}{
		{
			"no windows: from publishing on (S1)", schedule.Plan{}, "2026-11-20T10:00:00Z",
			[][2]string{{"2026-11-20T10:00:00Z", ""}},
		},
		{
			"one window, half open (S1)",
			schedule.Plan{Windows: []window{{From: "2026-12-01T09:00", Until: "2026-12-05T18:00"}}}, "",
			[][2]string{{"2026-12-01T09:00:00Z", "2026-12-05T18:00:00Z"}},
		},
		{
			"open ends (S1)",
			schedule.Plan{Windows: []window{{From: "", Until: "2026-12-05T18:00"}, {From: "2026-12-07T00:00", Until: ""}}}, "",
			[][2]string{{"", "2026-12-05T18:00:00Z"}, {"2026-12-07T00:00:00Z", ""}},
		},
		{
			"nothing before publishing (S1)",
			schedule.Plan{Windows: []window{{From: "2026-12-01T09:00", Until: "2026-12-05T18:00"}}}, "2026-12-02T00:00:00Z",
			[][2]string{{"2026-12-02T00:00:00Z", "2026-12-05T18:00:00Z"}},
		},
		{
			"published too late: never (S1)",
			schedule.Plan{Windows: []window{{From: "2026-12-01T09:00", Until: "2026-12-05T18:00"}}}, "2026-12-05T18:00:00Z", nil,
		},
		{
			"another zone's clock (S2)",
			schedule.Plan{Clock: "America/New_York", Windows: []window{{From: "2026-12-01T09:00", Until: "2026-12-01T10:00"}}},
			"", [][2]string{{"2026-12-01T14:00:00Z", "2026-12-01T15:00:00Z"}},
		},
		{
			"a visitor's clock: from UTC+14 to UTC-12 (S2)",
			schedule.Plan{Clock: "visitor", Windows: []window{{From: "2026-12-01T09:00", Until: "2026-12-01T10:00"}}}, "",
			[][2]string{{"2026-11-30T19:00:00Z", "2026-12-01T22:00:00Z"}},
		},
		{
			"over the spring gap (S3)", schedule.Plan{Windows: []window{{From: "2027-03-28T00:30", Until: "2027-03-28T02:30"}}},
			"", [][2]string{{"2027-03-28T00:30:00Z", "2027-03-28T01:30:00Z"}},
		},
		{
			"within the spring gap, read with the offset before it (S3)",
			schedule.Plan{Windows: []window{{From: "2027-03-28T01:15", Until: "2027-03-28T01:45"}}}, "",
			[][2]string{{"2027-03-28T01:15:00Z", "2027-03-28T01:45:00Z"}},
		},
		{
			"left without length by the gap: dropped (S4)",
			schedule.Plan{Windows: []window{{From: "2027-03-28T01:30", Until: "2027-03-28T02:15"}}}, "", nil,
		},
		{
			"overlapping windows merge (S5)",
			schedule.Plan{Windows: []window{
				{From: "2026-12-02T00:00", Until: "2026-12-04T00:00"}, {From: "2026-12-01T00:00", Until: "2026-12-03T00:00"},
			}},
			"", [][2]string{{"2026-12-01T00:00:00Z", "2026-12-04T00:00:00Z"}},
		},
		{
			"touching windows merge (S5)",
			schedule.Plan{Windows: []window{
				{From: "2026-12-01T00:00", Until: "2026-12-02T00:00"}, {From: "2026-12-02T00:00", Until: "2026-12-03T00:00"},
			}},
			"", [][2]string{{"2026-12-01T00:00:00Z", "2026-12-03T00:00:00Z"}},
		},
		{
			"an open window swallows all after it (S5)",
			schedule.Plan{Windows: []window{
				{From: "2026-12-01T00:00", Until: ""}, {From: "2026-12-05T00:00", Until: "2026-12-06T00:00"},
			}},
			"", [][2]string{{"2026-12-01T00:00:00Z", ""}},
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			s, faults := schedule.Compile(c.plan, zone(t, "Europe/London"), instant(t, c.published))
			require.Empty(t, faults)
			want := []schedule.Interval{}
			for _, w := range c.want {
				want = append(want, schedule.Interval{
					From:  instant(t, cmp.Or(w[0], "1900-01-01T00:00:00Z")),
					Until: instant(t, cmp.Or(w[1], "2100-01-01T00:00:00Z")),
				})
			}
			assert.Equal(
				t, want, s.Range(instant(t, "1900-01-01T00:00:00Z"), instant(t, "2100-01-01T00:00:00Z")),
				"open ends are clipped to the range",
			)
			end, ends := s.End()
			switch last := len(c.want) - 1; {
			case last < 0:
				assert.True(t, ends && end.IsZero(), "never live")
			case c.want[last][1] == "":
				assert.False(t, ends)
			default:
				assert.True(t, ends)
				assert.Equal(t, instant(t, c.want[last][1]), end)
			}
		})
	}
}

func TestFloatingForAVisitor(t *testing.T) {
	s, faults := schedule.Compile(schedule.Plan{
		Clock:   "visitor",
		Windows: []window{{From: "2026-12-01T09:00", Until: "2026-12-01T10:00"}},
	}, zone(t, "Europe/London"), time.Time{})
	require.Empty(t, faults)
	assert.True(t, s.Floating())
	for _, c := range []struct{ zone, from, until string }{
		{"Pacific/Kiritimati", "2026-11-30T19:00:00Z", "2026-11-30T20:00:00Z"},
		{"Europe/Berlin", "2026-12-01T08:00:00Z", "2026-12-01T09:00:00Z"},
		{"America/Los_Angeles", "2026-12-01T17:00:00Z", "2026-12-01T18:00:00Z"},
	} {
		loc, from, until := zone(t, c.zone), instant(t, c.from), instant(t, c.until)
		live, next := s.At(from.Add(-time.Second), loc)
		assert.False(t, live, c.zone)
		assert.Equal(t, from, next, c.zone)
		live, next = s.At(from, loc)
		assert.True(t, live, c.zone)
		assert.Equal(t, until, next, c.zone)
		live, next = s.At(until, loc)
		assert.False(t, live, c.zone)
		assert.Zero(t, next, c.zone)
		end, ends := s.EndIn(loc)
		assert.True(t, ends)
		assert.Equal(t, until, end, c.zone)
	}
}

func TestAtAndNextChange(t *testing.T) {
	s, faults := schedule.Compile(schedule.Plan{Windows: []window{
		{From: "2026-12-01T09:00", Until: "2026-12-01T18:00"}, {From: "2026-12-03T09:00", Until: ""},
	}}, time.UTC, time.Time{})
	require.Empty(t, faults)
	for _, c := range []struct {
		at   string
		live bool
		next string
	}{
		{"2026-11-30T00:00:00Z", false, "2026-12-01T09:00:00Z"},
		{"2026-12-01T08:59:59Z", false, "2026-12-01T09:00:00Z"},
		{"2026-12-01T09:00:00Z", true, "2026-12-01T18:00:00Z"},
		{"2026-12-01T17:59:59Z", true, "2026-12-01T18:00:00Z"},
		{"2026-12-01T18:00:00Z", false, "2026-12-03T09:00:00Z"},
		{"2030-01-01T00:00:00Z", true, ""},
	} {
		live, next := s.At(instant(t, c.at), time.UTC)
		assert.Equal(t, c.live, live, c.at)
		assert.Equal(t, instant(t, c.next), next, c.at)
	}
	clipped := s.Range(instant(t, "2026-12-01T12:00:00Z"), instant(t, "2026-12-04T09:00:00Z"))
	assert.Equal(t, 6*time.Hour+24*time.Hour, schedule.Total(clipped))
}

// Against the slow and plain way: whether an instant lies in any window. Site
// and visitor answers agree with it at every window end and next to it.
func TestIntervalsAgreeWithWindowsOneByOne(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	loc := zone(t, "Europe/London")
	base, err := schedule.ParseLocal("2026-10-20T00:00")
	require.NoError(t, err)
	for range 500 {
		var plan schedule.Plan
		var probes []time.Time
		for range 1 + r.IntN(6) {
			from := base + schedule.Local(r.IntN(12*24*4)*900)
			until := from + schedule.Local((1+r.IntN(200))*900)
			plan.Windows = append(plan.Windows, window{From: from.String(), Until: until.String()})
			probes = append(probes, from.In(loc), from.In(loc).Add(-time.Second), until.In(loc), until.In(loc).Add(-time.Second))
		}
		s, faults := schedule.Compile(plan, loc, time.Time{})
		require.Empty(t, faults)
		in := s.Range(instant(t, "2026-01-01T00:00:00Z"), instant(t, "2028-01-01T00:00:00Z"))
		for i, iv := range in {
			require.True(t, iv.From.Before(iv.Until))
			if i > 0 {
				require.True(t, in[i-1].Until.Before(iv.From), "sorted, disjoint, not touching")
			}
		}
		for _, at := range probes {
			want := false
			for _, w := range plan.Windows {
				from, _ := schedule.ParseLocal(w.From)
				until, _ := schedule.ParseLocal(w.Until)
				want = want || !at.Before(from.In(loc)) && at.Before(until.In(loc))
			}
			live, next := s.At(at, loc)
			require.Equal(t, want, live, "%v at %s", plan, at)
			if !next.IsZero() {
				before, _ := s.At(next.Add(-time.Second), loc)
				after, _ := s.At(next, loc)
				require.NotEqual(t, before, after, "a change is a change")
			}
		}
	}
}

func TestRefusedPlans(t *testing.T) {
	for _, c := range []struct {
		name    string
		plan    schedule.Plan
		pointer string
		what    string
	}{
		{
			"until before from", schedule.Plan{Windows: []window{{From: "2026-12-05T09:00", Until: "2026-12-01T09:00"}}},
			"/windows/0/until", "not after",
		},
		{
			"until at from", schedule.Plan{Windows: []window{{}, {From: "2026-12-05T09:00", Until: "2026-12-05T09:00"}}},
			"/windows/1/until", "not after",
		},
		{
			"a date that is none", schedule.Plan{Windows: []window{{From: "2026-13-05T09:00"}}}, "/windows/0/from",
			"not a local date",
		},
		{"an offset", schedule.Plan{Windows: []window{{Until: "2026-12-05T09:00Z"}}}, "/windows/0/until", "not a local date"},
		{"an unknown zone", schedule.Plan{Clock: "Europe/Atlantis"}, "/clock", "unknown time zone"},
		{"the machine's own zone", schedule.Plan{Clock: "Local"}, "/clock", "unknown time zone"},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, faults := schedule.Compile(c.plan, time.UTC, time.Time{})
			require.Len(t, faults, 1)
			assert.Equal(t, c.pointer, faults[0].Pointer)
			assert.Contains(t, faults[0].What, c.what)
			assert.NotEmpty(t, faults[0].Remedy)
		})
	}
}

// Nothing is live after the end that a plan is given, and before it all is as
// it was.
func TestEndingAt(t *testing.T) {
	w := func(from, until string) schedule.Window { return schedule.Window{From: from, Until: until} }
	const end = "2026-12-04T12:00"
	until, err := schedule.ParseLocal(end)
	require.NoError(t, err)
	for _, c := range []struct {
		name string
		in   schedule.Plan
		out  []schedule.Window
	}{
		{"no windows", schedule.Plan{}, []schedule.Window{w("", end)}},
		{
			"one without end", schedule.Plan{Windows: []schedule.Window{w("2026-12-01T00:00", "")}},
			[]schedule.Window{w("2026-12-01T00:00", end)},
		},
		{
			"one that ends before stays",
			schedule.Plan{Windows: []schedule.Window{w("", "2026-12-02T00:00"), w("2026-12-03T00:00", "2026-12-05T00:00")}},
			[]schedule.Window{w("", "2026-12-02T00:00"), w("2026-12-03T00:00", end)},
		},
		{
			"a later one goes",
			schedule.Plan{Clock: "site", Windows: []schedule.Window{w("", "2026-12-06T00:00"), w(end, "2026-12-08T00:00")}},
			[]schedule.Window{w("", end)},
		},
		{"all later", schedule.Plan{Windows: []schedule.Window{w("2026-12-07T00:00", "")}}, nil},
		{
			"a repeat",
			schedule.Plan{Windows: []schedule.Window{{From: "2026-12-01T00:00", Until: "2026-12-01T01:00", Rule: "FREQ=DAILY"}}},
			nil,
		},
		{
			"the visitor's clock",
			schedule.Plan{Clock: schedule.ClockVisitor, Windows: []schedule.Window{w("", "2026-12-09T00:00")}}, nil,
		},
	} {
		got, ok := c.in.EndingAt(until)
		assert.Equal(t, c.out != nil, ok, c.name)
		if ok {
			assert.Equal(t, c.out, got.Windows, c.name)
		}
	}
}

// A schedule within two instants is live where it was and they allow, whatever
// it is made of.
func TestWithin(t *testing.T) {
	london := zone(t, "Europe/London")
	from, until := instant(t, "2026-12-01T00:00:00Z"), instant(t, "2027-02-01T00:00:00Z")
	for name, plan := range map[string]schedule.Plan{
		"always":      {},
		"one window":  {Windows: []schedule.Window{{From: "2026-12-05T09:00", Until: "2026-12-20T18:00"}}},
		"an open end": {Windows: []schedule.Window{{From: "2026-12-05T09:00"}}},
		"a rule without end": {Windows: []schedule.Window{{
			From:  "2026-11-05T09:00",
			Until: "2026-11-05T18:00",
			Rule:  "FREQ=DAILY",
		}}},
		"a rule with one": {Windows: []schedule.Window{{
			From:  "2026-11-05T09:00",
			Until: "2026-11-05T18:00",
			Rule:  "FREQ=DAILY;COUNT=50",
		}}},
		"floating": {
			Clock:   "visitor",
			Windows: []schedule.Window{{From: "2026-11-05T09:00", Until: "2026-11-05T18:00", Rule: "FREQ=DAILY"}},
		},
	} {
		whole, faults := schedule.Compile(plan, london, time.Time{})
		require.Empty(t, faults)
		for _, ends := range [][2]string{
			{"2026-12-10T12:00:00Z", "2026-12-12T10:00:00Z"}, {"", "2026-12-12T10:00:00Z"}, {"2026-12-10T12:00:00Z", ""},
			{"2026-12-12T10:00:00Z", "2026-12-10T12:00:00Z"},
		} {
			var a, z time.Time
			if ends[0] != "" {
				a = instant(t, ends[0])
			}
			if ends[1] != "" {
				z = instant(t, ends[1])
			}
			part := whole.Within(a, z)
			for at := from; at.Before(until); at = at.Add(31 * time.Hour) {
				for _, loc := range []*time.Location{london, zone(t, "Pacific/Auckland")} {
					was, _ := whole.At(at, loc)
					is, next := part.At(at, loc)
					require.Equal(t, was && !at.Before(a) && (z.IsZero() || at.Before(z)), is, "%s within %v, at %s", name, ends, at)
					if is {
						require.True(
							t, next.IsZero() || next.After(at) && (z.IsZero() || !next.After(z)), "%s within %v, at %s", name, ends, at,
						)
					}
				}
			}
			if end, over := part.End(); ends[1] != "" {
				require.True(t, over, name)
				require.False(t, end.After(z), name)
			}
		}
	}
}
