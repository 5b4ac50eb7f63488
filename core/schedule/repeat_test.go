package schedule_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/teambition/rrule-go"

	"mastflag/core/fault"
	"mastflag/core/schedule"
)

// days writes "1997-09 2 3 4; 10 1" out as 1997-09-02, 03, 04 and 1997-10-01,
// at 09:00.
func days(s string) []string {
	var out []string
	year, month := 0, 0
	for _, part := range strings.Split(s, ";") {
		for i, f := range strings.Fields(part) {
			var n int
			switch {
			case i == 0 && strings.Contains(f, "-"):
				fmt.Sscanf(f, "%d-%d", &year, &month)
				continue
			case i == 0:
				fmt.Sscanf(f, "%d", &month)
				continue
			}
			fmt.Sscanf(f, "%d", &n)
			out = append(out, fmt.Sprintf("%04d-%02d-%02dT09:00", year, month, n))
		}
	}
	return out
}

// span lists every n-th day from one to another, both included.
func span(from, until string, n int) []string {
	var out []string
	end, _ := time.Parse("2006-01-02", until)
	for d, _ := time.Parse("2006-01-02", from); !d.After(end); d = d.AddDate(0, 0, n) {
		out = append(out, d.Format("2006-01-02")+"T09:00")
	}
	return out
}

func hours(day string, at ...string) []string {
	for i := range at {
		at[i] = day + "T" + at[i]
	}
	return at
}

// Source: RFC 5545 §3.8.5.3, every worked example, with its DTSTART, in
// America/New_York. Lists that go on are compared as far as they are given
// there. The examples finer than hourly are in TestRefusedRules.
func TestRFC5545Examples(t *testing.T) {
	for _, c := range []struct {
		name, from, rule string
		except           []string
		want             []string
		more             bool
	}{
		{"daily for 10 occurrences", "1997-09-02", "FREQ=DAILY;COUNT=10", nil, span("1997-09-02", "1997-09-11", 1), false},
		{
			"daily until 24 December 1997", "1997-09-02", "FREQ=DAILY;UNTIL=19971224T000000Z", nil,
			span("1997-09-02", "1997-12-23", 1), false,
		},
		{"every other day, for ever", "1997-09-02", "FREQ=DAILY;INTERVAL=2", nil, span("1997-09-02", "1997-12-03", 2), true},
		{
			"every 10 days, 5 occurrences", "1997-09-02", "FREQ=DAILY;INTERVAL=10;COUNT=5", nil,
			days("1997-09 2 12 22; 10 2 12"), false,
		},
		{
			"every day in January for 3 years, yearly", "1998-01-01",
			"FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA", nil,
			slices.Concat(
				span("1998-01-01", "1998-01-31", 1), span("1999-01-01", "1999-01-31", 1),
				span("2000-01-01", "2000-01-31", 1),
			),
			false,
		},
		{
			"every day in January for 3 years, daily", "1998-01-01", "FREQ=DAILY;UNTIL=20000131T140000Z;BYMONTH=1", nil,
			slices.Concat(
				span("1998-01-01", "1998-01-31", 1), span("1999-01-01", "1999-01-31", 1),
				span("2000-01-01", "2000-01-31", 1),
			),
			false,
		},
		{
			"weekly for 10 occurrences", "1997-09-02", "FREQ=WEEKLY;COUNT=10", nil,
			days("1997-09 2 9 16 23 30; 10 7 14 21 28; 11 4"), false,
		},
		{
			"weekly until 24 December 1997", "1997-09-02", "FREQ=WEEKLY;UNTIL=19971224T000000Z", nil,
			span("1997-09-02", "1997-12-23", 7), false,
		},
		{
			"every other week, for ever", "1997-09-02", "FREQ=WEEKLY;INTERVAL=2;WKST=SU", nil,
			days("1997-09 2 16 30; 10 14 28; 11 11 25; 12 9 23; 1998-01 6 20; 02 3 17"), true,
		},
		{
			"weekly on Tuesday and Thursday for five weeks, until", "1997-09-02",
			"FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH", nil, days("1997-09 2 4 9 11 16 18 23 25 30; 10 2"), false,
		},
		{
			"weekly on Tuesday and Thursday for five weeks, counted", "1997-09-02", "FREQ=WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH",
			nil, days("1997-09 2 4 9 11 16 18 23 25 30; 10 2"), false,
		},
		{
			"every other week on Monday, Wednesday and Friday until 24 December 1997", "1997-09-01",
			"FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR", nil,
			days("1997-09 1 3 5 15 17 19 29; 10 1 3 13 15 17 27 29 31; 11 10 12 14 24 26 28; 12 8 10 12 22"), false,
		},
		{
			"every other week on Tuesday and Thursday, 8 occurrences", "1997-09-02",
			"FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH", nil, days("1997-09 2 4 16 18 30; 10 2 14 16"), false,
		},
		{
			"monthly on the first Friday, 10 occurrences", "1997-09-05", "FREQ=MONTHLY;COUNT=10;BYDAY=1FR", nil,
			days("1997-09 5; 10 3; 11 7; 12 5; 1998-01 2; 02 6; 03 6; 04 3; 05 1; 06 5"), false,
		},
		{
			"monthly on the first Friday until 24 December 1997", "1997-09-05", "FREQ=MONTHLY;UNTIL=19971224T000000Z;BYDAY=1FR",
			nil, days("1997-09 5; 10 3; 11 7; 12 5"), false,
		},
		{
			"every other month on the first and last Sunday, 10 occurrences", "1997-09-07",
			"FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU", nil,
			days("1997-09 7 28; 11 2 30; 1998-01 4 25; 03 1 29; 05 3 31"), false,
		},
		{
			"monthly on the second-to-last Monday for 6 months", "1997-09-22", "FREQ=MONTHLY;COUNT=6;BYDAY=-2MO", nil,
			days("1997-09 22; 10 20; 11 17; 12 22; 1998-01 19; 02 16"), false,
		},
		{
			"monthly on the third-to-last day, for ever", "1997-09-28", "FREQ=MONTHLY;BYMONTHDAY=-3", nil,
			days("1997-09 28; 10 29; 11 28; 12 29; 1998-01 29; 02 26"), true,
		},
		{
			"monthly on the 2nd and 15th, 10 occurrences", "1997-09-02", "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15", nil,
			days("1997-09 2 15; 10 2 15; 11 2 15; 12 2 15; 1998-01 2 15"), false,
		},
		{
			"monthly on the first and last day, 10 occurrences", "1997-09-30", "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1", nil,
			days("1997-09 30; 10 1 31; 11 1 30; 12 1 31; 1998-01 1 31; 02 1"), false,
		},
		{
			"every 18 months on the 10th to 15th, 10 occurrences", "1997-09-10",
			"FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15", nil,
			days("1997-09 10 11 12 13 14 15; 1999-03 10 11 12 13"), false,
		},
		{
			"every Tuesday, every other month", "1997-09-02", "FREQ=MONTHLY;INTERVAL=2;BYDAY=TU", nil,
			days("1997-09 2 9 16 23 30; 11 4 11 18 25; 1998-01 6 13 20 27; 03 3 10 17 24 31"), true,
		},
		{
			"yearly in June and July, 10 occurrences", "1997-06-10", "FREQ=YEARLY;COUNT=10;BYMONTH=6,7", nil,
			days("1997-06 10; 07 10; 1998-06 10; 07 10; 1999-06 10; 07 10; 2000-06 10; 07 10; 2001-06 10; 07 10"), false,
		},
		{
			"every other year in January, February and March, 10 occurrences", "1997-03-10",
			"FREQ=YEARLY;INTERVAL=2;COUNT=10;BYMONTH=1,2,3", nil,
			days("1997-03 10; 1999-01 10; 02 10; 03 10; 2001-01 10; 02 10; 03 10; 2003-01 10; 02 10; 03 10"), false,
		},
		{
			"every third year on the 1st, 100th and 200th day, 10 occurrences", "1997-01-01",
			"FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200", nil,
			days("1997-01 1; 04 10; 07 19; 2000-01 1; 04 9; 07 18; 2003-01 1; 04 10; 07 19; 2006-01 1"), false,
		},
		{
			"every 20th Monday of the year, for ever", "1997-05-19", "FREQ=YEARLY;BYDAY=20MO", nil,
			days("1997-05 19; 1998-05 18; 1999-05 17"), true,
		},
		{
			"Monday of week 20, for ever", "1997-05-12", "FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO", nil,
			days("1997-05 12; 1998-05 11; 1999-05 17"), true,
		},
		{
			"every Thursday in March, for ever", "1997-03-13", "FREQ=YEARLY;BYMONTH=3;BYDAY=TH", nil,
			days("1997-03 13 20 27; 1998-03 5 12 19 26; 1999-03 4 11 18 25"), true,
		},
		{
			"every Thursday in June, July and August, for ever", "1997-06-05", "FREQ=YEARLY;BYDAY=TH;BYMONTH=6,7,8", nil,
			slices.Concat(
				span("1997-06-05", "1997-08-28", 7), span("1998-06-04", "1998-08-27", 7),
				span("1999-06-03", "1999-08-26", 7),
			),
			true,
		},
		{
			"every Friday the 13th, for ever", "1997-09-02", "FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13", []string{"1997-09-02T09:00"},
			days("1998-02 13; 03 13; 11 13; 1999-08 13; 2000-10 13"), true,
		},
		{
			"the first Saturday after the first Sunday of the month, for ever", "1997-09-13",
			"FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13", nil,
			days("1997-09 13; 10 11; 11 8; 12 13; 1998-01 10; 02 7; 03 7; 04 11; 05 9; 06 13"), true,
		},
		{
			"every 4 years, the first Tuesday after a Monday in November (US election day)", "1996-11-05",
			"FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8", nil, days("1996-11 5; 2000-11 7; 2004-11 2"),
			true,
		},
		{
			"the third instance of Tuesday, Wednesday or Thursday, for 3 months", "1997-09-04",
			"FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3", nil, days("1997-09 4; 10 7; 11 6"), false,
		},
		{
			"the second-to-last weekday of the month", "1997-09-29", "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2", nil,
			days("1997-09 29; 10 30; 11 27; 12 30; 1998-01 29; 02 26; 03 30"), true,
		},
		{
			"every 3 hours from 9:00 to 17:00 on a day", "1997-09-02", "FREQ=HOURLY;INTERVAL=3;UNTIL=19970902T210000Z", nil,
			hours("1997-09-02", "09:00", "12:00", "15:00"), false,
		},
		{
			"every 20 minutes from 9:00 to 16:40 every day, daily", "1997-09-02",
			"FREQ=DAILY;BYHOUR=9,10,11,12,13,14,15,16;BYMINUTE=0,20,40", nil,
			hours("1997-09-02", "09:00", "09:20", "09:40", "10:00", "10:20"), true,
		},
		{
			"an example where WKST matters: Monday", "1997-08-05", "FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO", nil,
			days("1997-08 5 10 19 24"), false,
		},
		{
			"an example where WKST matters: Sunday", "1997-08-05", "FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU", nil,
			days("1997-08 5 17 19 31"), false,
		},
		{
			"an invalid date (30 February) is ignored", "2007-01-15", "FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5", nil,
			days("2007-01 15 30; 02 15; 03 15 30"), false,
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			ny := zone(t, "America/New_York")
			s, faults := schedule.Compile(schedule.Plan{Windows: []window{{
				From:   c.from + "T09:00",
				Until:  c.from + "T09:10",
				Rule:   c.rule,
				Except: c.except,
			}}}, ny, time.Time{})
			require.Empty(t, faults)
			n := len(c.want)
			if !c.more {
				n++
			}
			var got []string
			for _, o := range s.Occurrences(0, instant(t, "1990-01-01T00:00:00Z"), n, ny) {
				got = append(got, schedule.LocalAt(o.From, ny).String())
			}
			assert.Equal(t, c.want, got)
			_, ends := s.End()
			assert.Equal(t, !c.more, ends)
		})
	}
}

// Rule S4: what is ours beyond RFC 5545. Each row: the live intervals in London.
func TestRepeats(t *testing.T) {
	for _, c := range []struct {
		name   string
		window window
		want   [][2]string
	}{
		{
			"hours stay hours across the spring change",
			window{From: "2027-03-27T09:00", Until: "2027-03-27T17:00", Rule: "FREQ=DAILY;COUNT=2"},
			[][2]string{{"2027-03-27T09:00:00Z", "2027-03-27T17:00:00Z"}, {"2027-03-28T08:00:00Z", "2027-03-28T16:00:00Z"}},
		},
		{
			"hours stay hours across the autumn change",
			window{From: "2026-10-24T09:00", Until: "2026-10-24T17:00", Rule: "FREQ=DAILY;COUNT=2"},
			[][2]string{{"2026-10-24T08:00:00Z", "2026-10-24T16:00:00Z"}, {"2026-10-25T09:00:00Z", "2026-10-25T17:00:00Z"}},
		},
		{
			"over midnight, as many days later as the first",
			window{From: "2027-03-26T22:00", Until: "2027-03-28T02:30", Rule: "FREQ=WEEKLY;COUNT=1"},
			[][2]string{{"2027-03-26T22:00:00Z", "2027-03-28T01:30:00Z"}},
		},
		{
			"an occurrence left without length by the gap is dropped",
			window{From: "2027-03-27T01:15", Until: "2027-03-27T02:00", Rule: "FREQ=DAILY;COUNT=3"},
			[][2]string{{"2027-03-27T01:15:00Z", "2027-03-27T02:00:00Z"}, {"2027-03-29T00:15:00Z", "2027-03-29T01:00:00Z"}},
		},
		{
			"exceptions and extras",
			window{
				From:   "2026-12-04T09:00",
				Until:  "2026-12-04T10:00",
				Rule:   "FREQ=WEEKLY;COUNT=3",
				Except: []string{"2026-12-11T09:00"},
				Also:   []string{"2026-12-09T15:00", "2026-12-18T09:00"},
			},
			[][2]string{
				{"2026-12-04T09:00:00Z", "2026-12-04T10:00:00Z"}, {"2026-12-09T15:00:00Z", "2026-12-09T16:00:00Z"},
				{"2026-12-18T09:00:00Z", "2026-12-18T10:00:00Z"},
			},
		},
		{
			"extras without a rule",
			window{From: "2026-12-04T09:00", Until: "2026-12-04T10:00", Also: []string{"2026-12-06T09:00"}},
			[][2]string{{"2026-12-04T09:00:00Z", "2026-12-04T10:00:00Z"}, {"2026-12-06T09:00:00Z", "2026-12-06T10:00:00Z"}},
		},
		{
			"UNTIL local includes an occurrence that starts at it",
			window{From: "2026-07-01T09:00", Until: "2026-07-01T10:00", Rule: "FREQ=DAILY;UNTIL=20260702T090000"},
			[][2]string{{"2026-07-01T08:00:00Z", "2026-07-01T09:00:00Z"}, {"2026-07-02T08:00:00Z", "2026-07-02T09:00:00Z"}},
		},
		{
			"UNTIL in UTC includes an occurrence that starts at it",
			window{From: "2026-07-01T09:00", Until: "2026-07-01T10:00", Rule: "FREQ=DAILY;UNTIL=20260702T080000Z"},
			[][2]string{{"2026-07-01T08:00:00Z", "2026-07-01T09:00:00Z"}, {"2026-07-02T08:00:00Z", "2026-07-02T09:00:00Z"}},
		},
		{
			"UNTIL in UTC, a second too early",
			window{From: "2026-07-01T09:00", Until: "2026-07-01T10:00", Rule: "FREQ=DAILY;UNTIL=20260702T075959Z"},
			[][2]string{{"2026-07-01T08:00:00Z", "2026-07-01T09:00:00Z"}},
		},
		{
			"UNTIL as a date takes in that day",
			window{From: "2026-07-01T09:00", Until: "2026-07-01T10:00", Rule: "FREQ=DAILY;UNTIL=20260702"},
			[][2]string{{"2026-07-01T08:00:00Z", "2026-07-01T09:00:00Z"}, {"2026-07-02T08:00:00Z", "2026-07-02T09:00:00Z"}},
		},
		{
			"occurrences longer than their spacing merge (S5)",
			window{From: "2026-12-01T09:00", Until: "2026-12-02T12:00", Rule: "FREQ=DAILY;COUNT=3"},
			[][2]string{{"2026-12-01T09:00:00Z", "2026-12-04T12:00:00Z"}},
		},
		{
			"touching occurrences merge (S5)",
			window{From: "2026-12-01T09:00", Until: "2026-12-01T10:00", Rule: "FREQ=HOURLY;COUNT=4"},
			[][2]string{{"2026-12-01T09:00:00Z", "2026-12-01T13:00:00Z"}},
		},
		{
			"a start that the rule does not give is none",
			window{From: "2026-11-25T09:00", Until: "2026-11-25T10:00", Rule: "FREQ=WEEKLY;BYDAY=FR;COUNT=1"},
			[][2]string{{"2026-11-27T09:00:00Z", "2026-11-27T10:00:00Z"}},
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			s, faults := schedule.Compile(schedule.Plan{Windows: []window{c.window}}, zone(t, "Europe/London"), time.Time{})
			require.Empty(t, faults)
			var got [][2]string
			for _, i := range s.Range(instant(t, "2026-01-01T00:00:00Z"), instant(t, "2028-01-01T00:00:00Z")) {
				got = append(got, [2]string{i.From.Format(time.RFC3339), i.Until.Format(time.RFC3339)})
			}
			assert.Equal(t, c.want, got)
			// The changes, walked one by one, are the ends of the intervals.
			at := instant(t, "2026-01-01T00:00:00Z")
			for _, w := range c.want {
				for i, end := range w {
					live, next := s.At(at, time.UTC)
					require.Equal(t, i == 1, live)
					require.Equal(t, end, next.Format(time.RFC3339))
					at = next
				}
			}
			live, next := s.At(at, time.UTC)
			require.False(t, live)
			require.Zero(t, next)
		})
	}
}

func TestFloatingRepeats(t *testing.T) {
	s, faults := schedule.Compile(schedule.Plan{
		Clock:   "visitor",
		Windows: []window{{From: "2026-11-27T16:00", Until: "2026-11-27T20:00", Rule: "FREQ=WEEKLY;BYDAY=FR"}},
	}, zone(t, "Europe/London"), time.Time{})
	require.Empty(t, faults)
	kiritimati, la := zone(t, "Pacific/Kiritimati"), zone(t, "America/Los_Angeles")
	at := instant(t, "2026-12-04T03:00:00Z") // Friday 17:00 in Kiritimati, Thursday evening in Los Angeles
	live, next := s.At(at, kiritimati)
	assert.True(t, live)
	assert.Equal(t, instant(t, "2026-12-04T06:00:00Z"), next)
	live, next = s.At(at, la)
	assert.False(t, live)
	assert.Equal(t, instant(t, "2026-12-05T00:00:00Z"), next)
	assert.Equal(t, []schedule.Interval{{
		From:  instant(t, "2026-12-04T02:00:00Z"),
		Until: instant(t, "2026-12-05T08:00:00Z"),
	}},
		s.Range(instant(t, "2026-12-03T00:00:00Z"), instant(t, "2026-12-10T00:00:00Z")), "partly live from UTC+14 to UTC-12")
}

// Whatever order it is asked in, a schedule that repeats gives the same
// answers, and they are those of its occurrences one by one.
func TestRepeatsAgreeWithOccurrencesOneByOne(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	rules := []string{
		"FREQ=DAILY", "FREQ=DAILY;INTERVAL=3", "FREQ=WEEKLY;BYDAY=MO,TH", "FREQ=MONTHLY;BYDAY=-1SU",
		"FREQ=MONTHLY;BYMONTHDAY=31", "FREQ=HOURLY;INTERVAL=7", "FREQ=YEARLY;BYMONTH=3,10;BYDAY=-1SU", "FREQ=DAILY;COUNT=40",
		"FREQ=WEEKLY;UNTIL=20270331T010000Z",
	}
	clocks := []string{"Europe/London", "visitor", "Australia/Lord_Howe", "America/Havana"}
	for range 120 {
		w := window{From: "2026-09-24T01:15", Rule: rules[r.IntN(len(rules))]}
		from, _ := schedule.ParseLocal(w.From)
		w.Until = (from + schedule.Local(900*(1+r.IntN(300)))).String()
		plan := schedule.Plan{
			Clock:   clocks[r.IntN(len(clocks))],
			Windows: []window{w, {From: "2026-12-24T00:00", Until: "2026-12-27T00:00"}},
		}
		fresh := func() schedule.Schedule {
			s, faults := schedule.Compile(plan, zone(t, "Europe/London"), instant(t, "2026-10-01T00:00:00Z"))
			require.Empty(t, faults)
			return s
		}
		s, here := fresh(), zone(t, "America/New_York")
		for range 10 {
			at := instant(t, "2026-09-01T00:00:00Z").Add(time.Duration(r.IntN(400*24*60)) * time.Minute)
			live, next := s.At(at, here)
			again, nextAgain := fresh().At(at, here)
			require.Equal(t, []any{live, next}, []any{again, nextAgain}, "%v at %s", plan, at)
			want := false
			for i := range plan.Windows {
				if in := s.Occurrences(i, at, 1, here); len(in) > 0 && in[0].Contains(at) {
					want = true
				}
			}
			require.Equal(t, want && !at.Before(instant(t, "2026-10-01T00:00:00Z")), live, "%v at %s", plan, at)
			if !next.IsZero() {
				after, _ := s.At(next, here)
				before, _ := s.At(next.Add(-time.Second), here)
				require.NotEqual(t, before, after)
			}
		}
	}
}

func TestRefusedRules(t *testing.T) {
	for _, c := range []struct{ rule, what string }{
		// RFC 5545 §3.8.5.3's examples finer than hourly (rule S6).
		{"FREQ=MINUTELY;INTERVAL=15;COUNT=6", "more often than hourly"},
		{"FREQ=MINUTELY;INTERVAL=90;COUNT=4", "more often than hourly"},
		{"FREQ=MINUTELY;INTERVAL=20;BYHOUR=9,10,11,12,13,14,15,16", "more often than hourly"},
		{"FREQ=SECONDLY", "more often than hourly"},
		{"every Friday", "not a name and a value"},
		{"FREQ=FORTNIGHTLY", "not a frequency"},
		{"BYDAY=FR", "FREQ is missing"},
		{"RRULE:FREQ=DAILY", "value of an RRULE alone"},
		{"DTSTART=19970902T090000;FREQ=DAILY", "value of an RRULE alone"},
		{"FREQ=DAILY;FREQ=DAILY", "twice"},
		{"FREQ=DAILY;COUNT=3;UNTIL=20270101T000000Z", "both COUNT and UNTIL"},
		{"FREQ=DAILY;COUNT=0", "COUNT=0"},
		{"FREQ=DAILY;INTERVAL=0", "INTERVAL=0"},
		{"FREQ=DAILY;INTERVAL=-1", "INTERVAL=-1"},
		{"FREQ=DAILY;UNTIL=tomorrow", "UNTIL=TOMORROW"},
		{"FREQ=DAILY;UNTIL=20200101T000000Z", "yields no occurrence"},
		{"FREQ=DAILY;BYDAY=XX", "undefined weekday"},
		{"FREQ=WEEKLY;BYDAY=1MO", "BYDAY with a number"},
		{"FREQ=WEEKLY;BYMONTHDAY=3", "BYMONTHDAY"},
		{"FREQ=MONTHLY;BYMONTHDAY=32", "bymonthday"},
		{"FREQ=MONTHLY;BYWEEKNO=3", "BYWEEKNO"},
		{"FREQ=DAILY;BYYEARDAY=3", "BYYEARDAY"},
		{"FREQ=DAILY;BYSETPOS=1", "BYSETPOS"},
		{"FREQ=YEARLY;BYEASTER=0", "not part of RFC 5545"},
		{"FREQ=DAILY;COLOUR=RED", "unknown"},
		{"FREQ=MONTHLY;BYDAY=8MO", "no month has a weekday 8 times"},
		{"FREQ=YEARLY;BYMONTH=3;BYDAY=-6SU", "no month has a weekday 6 times"},
		{"FREQ=YEARLY;BYDAY=54MO", "byday"},
		// Hostile: never true, or far too much. Each is refused at once.
		{"FREQ=HOURLY;BYMONTH=2;BYMONTHDAY=30", "yields no occurrence"},
		{"FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30", "yields no occurrence"},
		{"FREQ=MONTHLY;BYMONTH=2;BYMONTHDAY=30", "yields no occurrence"},
		{"FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30", "yields no occurrence"},
		{"FREQ=YEARLY;INTERVAL=10000;BYMONTH=2;BYMONTHDAY=29", "yields no occurrence"},
		{"FREQ=HOURLY;INTERVAL=24;BYHOUR=10", "yields no occurrence"},
		{"FREQ=HOURLY;INTERVAL=99999999999;BYHOUR=10", "INTERVAL="},
		{"FREQ=YEARLY;BYHOUR=" + counting(24) + ";BYMINUTE=" + counting(60) + ";BYSECOND=" + counting(60), "times a day"},
		{"FREQ=MONTHLY;BYSETPOS=" + strings.Repeat("1,", 5000) + "1;BYDAY=MO", "lists too much"},
		{strings.Repeat("FREQ=DAILY;", 3), "twice"},
	} {
		t.Run(shortName(c.rule), func(t *testing.T) {
			began := time.Now()
			_, faults := schedule.Compile(schedule.Plan{Windows: []window{{
				From:  "2026-12-01T09:00",
				Until: "2026-12-01T10:00",
				Rule:  c.rule,
			}}}, time.UTC, time.Time{})
			require.Len(t, faults, 1)
			assert.Equal(t, "/windows/0/rule", faults[0].Pointer)
			assert.Contains(t, faults[0].What, c.what)
			assert.Contains(t, faults[0].Remedy, "RRULE")
			assert.Less(t, time.Since(began), 5*time.Second, "a guard against runaway expansion, not a measure")
		})
	}
	for _, c := range []struct {
		name    string
		window  window
		pointer string
		what    string
	}{
		{"a repeat without from", window{Until: "2026-12-01T10:00", Rule: "FREQ=DAILY"}, "/windows/0", `no "from"`},
		{"a repeat without until", window{From: "2026-12-01T10:00", Rule: "FREQ=DAILY"}, "/windows/0", `no "until"`},
		{
			"an exception that is no date",
			window{
				From:   "2026-12-01T10:00",
				Until:  "2026-12-01T11:00",
				Rule:   "FREQ=DAILY",
				Except: []string{"2026-12-02T10:00", "Friday"},
			},
			"/windows/0/except/1", "not a local date",
		},
		{
			"an extra that is no date",
			window{From: "2026-12-01T10:00", Until: "2026-12-01T11:00", Also: []string{"2026-12-02T10:00Z"}},
			"/windows/0/also/0", "not a local date",
		},
		{
			"everything left out",
			window{
				From:   "2026-12-01T10:00",
				Until:  "2026-12-01T11:00",
				Rule:   "FREQ=DAILY;COUNT=1",
				Except: []string{"2026-12-01T10:00"},
			},
			"/windows/0/rule", "yields no occurrence",
		},
		{
			"everything left out, without a rule",
			window{From: "2026-12-01T10:00", Until: "2026-12-01T11:00", Except: []string{"2026-12-01T10:00"}},
			"/windows/0/except", "all occurrences",
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, faults := schedule.Compile(schedule.Plan{Windows: []window{c.window}}, time.UTC, time.Time{})
			require.NotEmpty(t, faults)
			assert.Equal(t, c.pointer, faults[0].Pointer)
			assert.Contains(t, faults[0].What, c.what)
		})
	}
}

// The bounds of rule S6, and what lies on either side of each.
func TestBoundsOfRepeats(t *testing.T) {
	daily := func(hours, minutes int) fault.Faults {
		_, faults := schedule.Compile(schedule.Plan{Windows: []window{{
			From: "2026-12-01T00:00", Until: "2026-12-01T00:01",
			Rule: fmt.Sprintf("FREQ=DAILY;COUNT=1000;BYHOUR=%s;BYMINUTE=%s", counting(hours), counting(minutes)),
		}}}, time.UTC, time.Time{})
		return faults
	}
	assert.Empty(t, daily(24, 12), "288 times a day")
	assert.Contains(t, daily(17, 17).Error(), "289 times a day")

	hourly, faults := schedule.Compile(schedule.Plan{Windows: []window{{
		From: "2026-12-01T00:00", Until: "2026-12-01T00:30", Rule: "FREQ=HOURLY",
	}}}, time.UTC, time.Time{})
	require.Empty(t, faults)
	last := instant(t, "2026-12-01T00:00:00Z").Add(99_999 * time.Hour)
	live, next := hourly.At(last, time.UTC)
	assert.True(t, live, "the 100,000th is looked at")
	assert.Equal(t, last.Add(30*time.Minute), next)
	live, next = hourly.At(last.Add(time.Hour), time.UTC)
	assert.False(t, live, "and no other")
	assert.Zero(t, next)

	// Occurrences that keep touching each other, until one is left out after so many days: for nine
	// years of 366 days that end is known, beyond there is none.
	from := instant(t, "2026-12-01T00:00:00Z")
	for days, known := range map[int]bool{9 * 366: true, 9*366 + 1: false} {
		out := from.AddDate(0, 0, days)
		touching, faults := schedule.Compile(schedule.Plan{Windows: []window{{
			From: "2026-12-01T00:00", Until: "2026-12-02T00:00", Rule: "FREQ=DAILY",
			Except: []string{out.Format("2006-01-02T15:04")},
		}}}, time.UTC, time.Time{})
		require.Empty(t, faults)
		live, next := touching.SiteAt(from)
		assert.True(t, live)
		if known {
			assert.Equal(t, out, next)
		} else {
			assert.Zero(t, next)
		}
	}
}

// A rule that has a day, by asking the library day after day for a cycle of weekdays and leap years, is
// never taken for one that has none; and one that is refused has none (rule S6).
func TestRulesWithoutADay(t *testing.T) {
	seed := rand.Uint64()
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	some := func(name string, least, most int) string {
		if r.IntN(2) == 0 {
			return ""
		}
		n := least + r.IntN(most-least+1)
		if n == 0 {
			n = 1
		}
		return fmt.Sprintf(";%s=%d", name, n)
	}
	has := map[bool]int{}
	for range 400 {
		rule := "FREQ=" + []string{"DAILY", "MONTHLY", "YEARLY"}[r.IntN(3)]
		rule += some("BYMONTH", 1, 12) + some("BYMONTHDAY", -31, 31)
		if strings.HasPrefix(rule, "FREQ=Y") {
			rule += some("BYYEARDAY", -366, 366)
		}
		if r.IntN(2) == 0 {
			nth := ""
			if !strings.HasPrefix(rule, "FREQ=D") && r.IntN(2) == 0 {
				nth = []string{"1", "5", "-1", "-5"}[r.IntN(4)]
			}
			rule += ";BYDAY=" + nth + []string{"MO", "TH", "SU"}[r.IntN(3)]
		}
		opt, err := rrule.StrToROption(rule)
		require.NoError(t, err, rule)
		opt.Dtstart, opt.Until = time.Date(2027, 1, 1, 9, 0, 0, 0, time.UTC), time.Date(2056, 1, 1, 0, 0, 0, 0, time.UTC)
		all, err := rrule.NewRRule(*opt)
		require.NoError(t, err, rule)
		_, faults := schedule.Compile(schedule.Plan{Windows: []window{{
			From: "2027-01-01T09:00", Until: "2027-01-01T10:00", Rule: rule,
		}}}, time.UTC, time.Time{})
		_, found := all.Iterator()()
		has[found]++
		assert.Equal(t, found, len(faults) == 0, "%s: %v", rule, faults)
	}
	assert.Greater(t, has[true], 50)
	assert.Greater(t, has[false], 50)
}

func counting(n int) string {
	out := make([]string, n)
	for i := range out {
		out[i] = fmt.Sprint(i)
	}
	return strings.Join(out, ",")
}

func shortName(s string) string { return s[:min(len(s), 60)] }

// An hourly rule without end has more occurrences than are looked at: what
// lies behind them is said to be cut, never guessed.
func TestOccurrencesAreLimited(t *testing.T) {
	s, faults := schedule.Compile(schedule.Plan{Windows: []window{{
		From:  "2026-01-01T00:00",
		Until: "2026-01-01T00:30",
		Rule:  "FREQ=HOURLY",
	}}}, time.UTC, time.Time{})
	require.Empty(t, faults)
	assert.False(t, s.Cut(instant(t, "2030-01-01T00:00:00Z")))
	live, next := s.At(instant(t, "2036-06-01T00:10:00Z"), time.UTC)
	assert.True(t, live)
	assert.Equal(t, instant(t, "2036-06-01T00:30:00Z"), next)
	assert.True(t, s.Cut(instant(t, "2040-01-01T00:00:00Z")), "100,000 hours end in 2037")
}

// FuzzRule: no rule makes the expansion hang, panic or give starts out of order.
func FuzzRule(f *testing.F) {
	for _, s := range []string{
		"FREQ=WEEKLY;BYDAY=FR", "FREQ=HOURLY;INTERVAL=5;BYHOUR=1,2", "FREQ=YEARLY;BYWEEKNO=53;BYDAY=MO;BYSETPOS=-1",
		"FREQ=MONTHLY;BYDAY=5MO;COUNT=3", "FREQ=YEARLY;BYYEARDAY=366;UNTIL=99991231T235959Z",
	} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, rule string) {
		s, faults := schedule.Compile(schedule.Plan{Windows: []window{{
			From:  "2026-12-01T09:00",
			Until: "2026-12-01T10:00",
			Rule:  rule,
		}}}, time.UTC, time.Time{})
		if faults != nil {
			return
		}
		at := time.Date(2026, 12, 1, 0, 0, 0, 0, time.UTC)
		in := s.Range(at, at.AddDate(3, 0, 0))
		for i := 1; i < len(in); i++ {
			require.True(t, in[i-1].Until.Before(in[i].From))
		}
	})
}
