package schedule_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/teambition/rrule-go"

	"mastflag/core/schedule"
)

// What a schedule remembers of each zone is what it would answer anew, in
// whatever order instants and zones are asked about, back in time too.
func TestRememberedAnswersAreTheSame(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 1))
	london, err := schedule.Zone("Europe/London")
	require.NoError(t, err)
	var zones []*time.Location
	for _, name := range []string{
		"Europe/London", "Europe/Berlin", "America/St_Johns", "Pacific/Apia", "Australia/Lord_Howe", "UTC",
	} {
		z, err := schedule.Zone(name)
		require.NoError(t, err)
		zones = append(zones, z)
	}
	begins := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	for range 30 {
		p := schedule.Plan{Clock: schedule.ClockVisitor}
		for range 1 + r.IntN(3) {
			from := begins.Add(time.Duration(r.IntN(200*24)) * time.Hour)
			w := schedule.Window{
				From:  from.Format("2006-01-02T15:04"),
				Until: from.Add(time.Duration(1+r.IntN(30)) * time.Hour).Format("2006-01-02T15:04"),
			}
			w.Rule = []string{
				"", "FREQ=DAILY", "FREQ=HOURLY;INTERVAL=7", "FREQ=WEEKLY;BYDAY=MO,FR;COUNT=9", "FREQ=MONTHLY;BYDAY=-1SU",
				"FREQ=DAILY;UNTIL=20270101T000000Z",
			}[r.IntN(6)]
			p.Windows = append(p.Windows, w)
		}
		s, faults := schedule.Compile(p, london, begins)
		require.Empty(t, faults)
		for range 60 {
			at, zone := begins.Add(time.Duration(r.IntN(700*24*60))*time.Minute), zones[r.IntN(len(zones))]
			fresh, _ := schedule.Compile(p, london, begins)
			live, next := s.At(at, zone)
			wantLive, wantNext := fresh.At(at, zone)
			require.Equal(t, wantLive, live, "%+v at %s in %s", p, at, zone)
			require.Equal(t, wantNext, next, "%+v at %s in %s", p, at, zone)
			end, ends := s.EndIn(zone)
			wantEnd, wantEnds := fresh.EndIn(zone)
			require.Equal(t, wantEnds, ends)
			require.Equal(t, wantEnd, end)
		}
	}
}

// estimate is how many occurrences a rule that starts on 1 January 2026 counts as, written from the text of rule S6.
func estimate(rule string) int {
	part := map[string][]string{}
	for _, p := range strings.Split(rule, ";") {
		name, values, _ := strings.Cut(p, "=")
		part[name] = strings.Split(values, ",")
	}
	has := func(names ...string) bool {
		return slices.ContainsFunc(names, func(n string) bool { return part[n] != nil })
	}
	count := func(name string, without int) int {
		if part[name] == nil {
			return without
		}
		return len(part[name])
	}
	weekdays := func(numbered, plain int) (n int) {
		for _, d := range part["BYDAY"] {
			if len(d) > 2 {
				n += numbered
			} else {
				n += plain
			}
		}
		return n
	}
	days := 3660
	if until := part["UNTIL"]; until != nil {
		end, _ := time.Parse("20060102", until[0][:8])
		days = min(days, int(end.Sub(time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)).Hours())/24+1)
	}
	weeks, months, years := days/7+2, days/30+3, days/365+2
	every := func(p int) int {
		n := 1
		if i := part["INTERVAL"]; i != nil {
			n, _ = strconv.Atoi(i[0])
		}
		return (p + n - 1) / n
	}
	month := 31
	if !has("BYMONTHDAY", "BYDAY") {
		month = 1
	}
	if has("BYMONTHDAY") {
		month = min(month, count("BYMONTHDAY", 0))
	}
	if has("BYDAY") {
		month = min(month, weekdays(1, 5))
	}
	year := 31 * count("BYMONTH", 12)
	if !has("BYMONTHDAY", "BYYEARDAY", "BYWEEKNO", "BYDAY") {
		year = count("BYMONTH", 1)
	}
	if has("BYMONTHDAY") {
		year = min(year, count("BYMONTH", 12)*count("BYMONTHDAY", 0))
	}
	if has("BYYEARDAY") {
		year = min(year, count("BYYEARDAY", 0))
	}
	if has("BYWEEKNO") {
		year = min(year, 7*count("BYWEEKNO", 0))
	}
	if has("BYDAY") {
		numbered, plain := 1, 53
		if has("BYMONTH") {
			numbered, plain = count("BYMONTH", 0), 5*count("BYMONTH", 0)
		}
		year = min(year, weekdays(numbered, plain))
	}
	on := min(days+1, months*count("BYMONTHDAY", 31), years*31*count("BYMONTH", 12))
	if has("BYDAY") {
		on = min(on, weeks*count("BYDAY", 0))
	}
	minutes := count("BYMINUTE", 1) * count("BYSECOND", 1)
	hours := count("BYHOUR", 1) * minutes
	row := map[string][2]int{
		"YEARLY":  {every(years), year * hours},
		"MONTHLY": {min(every(months), years*count("BYMONTH", 12)), month * hours},
		"WEEKLY":  {every(weeks), count("BYDAY", 1) * hours},
		"DAILY":   {min(every(days+1), on), hours},
		"HOURLY":  {min(every(24*days+1), on*count("BYHOUR", 24)), minutes},
	}[part["FREQ"][0]]
	if has("BYSETPOS") {
		row[1] = min(row[1], count("BYSETPOS", 0))
	}
	n := row[0] * row[1]
	if c := part["COUNT"]; c != nil {
		most, _ := strconv.Atoi(c[0])
		n = min(n, most)
	}
	return min(n, 100_000)
}

// What a rule can give in ten years is counted without finding it: never less
// than the library finds, asked directly, and for everyday rules hardly more.
// What is over the bound is refused.
func TestOccurrencesAreCounted(t *testing.T) {
	zone := time.UTC
	from := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	counts := func(rule string) (counted, found int) {
		s, faults := schedule.Compile(schedule.Plan{Windows: []schedule.Window{{
			From:  "2026-01-01T00:00",
			Until: "2026-01-01T00:30",
			Rule:  rule,
		}}}, zone, time.Time{})
		if faults != nil { // it gives nothing, or is not what RFC 5545 allows
			return 0, 0
		}
		opt, err := rrule.StrToROption(rule)
		require.NoError(t, err, rule)
		opt.Dtstart = from
		if last := from.AddDate(0, 0, 3660).Add(-time.Second); opt.Until.IsZero() || opt.Until.After(last) {
			opt.Until = last
		}
		plain, err := rrule.NewRRule(*opt)
		require.NoError(t, err, rule)
		next := plain.Iterator()
		for _, more := next(); more && found < schedule.MaxOccurrences; _, more = next() {
			found++
		}
		return s.Count(), found
	}
	for _, rule := range []string{
		"FREQ=DAILY", "FREQ=WEEKLY", "FREQ=WEEKLY;BYDAY=MO,TU", "FREQ=WEEKLY;INTERVAL=2;BYDAY=FR", "FREQ=HOURLY",
		"FREQ=HOURLY;INTERVAL=3",
		"FREQ=HOURLY;BYHOUR=9", "FREQ=MONTHLY", "FREQ=MONTHLY;BYDAY=-1SU", "FREQ=MONTHLY;BYMONTHDAY=1,15",
		"FREQ=DAILY;COUNT=17", "FREQ=DAILY;UNTIL=20280101T000000", "FREQ=YEARLY", "FREQ=YEARLY;BYDAY=20MO",
		"FREQ=YEARLY;BYMONTH=12;BYMONTHDAY=24", "FREQ=DAILY;BYHOUR=1,2,3", "FREQ=DAILY;BYDAY=MO,TU,WE,TH,FR",
		"FREQ=HOURLY;BYDAY=MO;BYHOUR=9,10", "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1",
	} {
		counted, found := counts(rule)
		assert.GreaterOrEqual(t, counted, found, rule)
		assert.LessOrEqual(t, counted, found+found/50+12, rule)
		assert.Equal(t, estimate(rule), counted, rule)
	}
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 3))
	list := func(name string, most int, of ...int) string {
		if r.IntN(3) > 0 {
			return ""
		}
		var some []string
		for range 1 + r.IntN(most) {
			some = append(some, fmt.Sprint(of[0]+r.IntN(of[1]-of[0]+1)))
		}
		return ";" + name + "=" + strings.Join(some, ",")
	}
	for range 150 {
		freq := []string{"YEARLY", "MONTHLY", "WEEKLY", "DAILY", "HOURLY"}[r.IntN(5)]
		rule := "FREQ=" + freq + []string{
			"", ";INTERVAL=2", ";INTERVAL=5", ";INTERVAL=40",
		}[r.IntN(4)] + []string{"", "", ";COUNT=100", ";UNTIL=20290704"}[r.IntN(4)] +
			list("BYMONTH", 3, 1, 12) + list("BYHOUR", 3, 0, 23) + list("BYMINUTE", 2, 0, 59)
		if r.IntN(2) == 0 {
			number := ""
			if freq == "MONTHLY" {
				number = []string{"", "2", "-1"}[r.IntN(3)]
			}
			rule += ";BYDAY=" + number + []string{"MO", "TU", "SU"}[r.IntN(3)] + []string{"", ",FR", ",WE,SA"}[r.IntN(3)]
		}
		if freq != "WEEKLY" {
			rule += list("BYMONTHDAY", 4, 1, 31)
		}
		if freq == "YEARLY" {
			rule += list("BYYEARDAY", 4, 1, 366) + list("BYWEEKNO", 4, 1, 53)
		}
		if strings.Contains(rule, "BYDAY") && r.IntN(4) == 0 {
			rule += ";BYSETPOS=1,-1"
		}
		counted, found := counts(rule)
		assert.GreaterOrEqual(t, counted, found, rule)
		if counted > 0 {
			assert.Equal(t, estimate(rule), counted, rule)
		}
	}
	windows := func(n int) (p schedule.Plan) {
		for i := range n {
			p.Windows = append(p.Windows, schedule.Window{
				From:  fmt.Sprintf("2026-01-01T00:%02d", i),
				Until: fmt.Sprintf("2026-01-01T00:%02d", i+1),
				Rule:  "FREQ=HOURLY",
			})
		}
		return p
	}
	_, faults := schedule.Compile(windows(2), zone, time.Time{})
	assert.Empty(t, faults)
	_, faults = schedule.Compile(windows(3), zone, time.Time{})
	require.Len(t, faults, 1)
	assert.Equal(t, "/windows", faults[0].Pointer)
	assert.Contains(t, faults[0].What, "more than 200000 occurrences")
}

// Once it is prepared, asking about any instant of the year ahead finds nothing
// new: it takes no memory, and so no time that grows with the windows.
func TestPreparedAsksNothingNew(t *testing.T) {
	at := time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	for _, p := range []schedule.Plan{
		{Windows: []schedule.Window{
			{From: "2026-01-01T00:00", Until: "2026-01-01T00:30", Rule: "FREQ=HOURLY"},
			{From: "2026-01-01T00:40", Until: "2026-01-01T00:50", Rule: "FREQ=HOURLY"},
		}},
		{Windows: []schedule.Window{{
			From:  "2026-01-01T00:00",
			Until: "2026-01-01T01:00",
			Rule:  "FREQ=HOURLY",
		}}}, // it never ends
		{Windows: []schedule.Window{{From: "2026-01-01T00:00", Until: "2026-01-01T06:00", Rule: "FREQ=WEEKLY;BYDAY=FR"}}},
	} {
		s, faults := schedule.Compile(p, time.UTC, time.Time{})
		require.Empty(t, faults)
		s.Prepare(at)
		for _, later := range []time.Duration{0, 30 * 24 * time.Hour, 390 * 24 * time.Hour} {
			assert.Zero(t, testing.AllocsPerRun(1, func() { s.SiteAt(at.Add(later)) }), "%+v, %s later", p, later)
		}
	}
}
