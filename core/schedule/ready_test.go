package schedule_test

import (
	"fmt"
	"math/rand/v2"
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
	for range 60 {
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
		"FREQ=HOURLY;INTERVAL=3", "FREQ=MONTHLY", "FREQ=MONTHLY;BYDAY=-1SU", "FREQ=MONTHLY;BYMONTHDAY=1,15",
		"FREQ=DAILY;COUNT=17", "FREQ=DAILY;UNTIL=20280101T000000", "FREQ=YEARLY", "FREQ=YEARLY;BYDAY=20MO",
		"FREQ=YEARLY;BYMONTH=12;BYMONTHDAY=24", "FREQ=DAILY;BYHOUR=1,2,3", "FREQ=DAILY;BYDAY=MO,TU,WE,TH,FR",
		"FREQ=HOURLY;BYDAY=MO;BYHOUR=9,10", "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1",
	} {
		counted, found := counts(rule)
		assert.GreaterOrEqual(t, counted, found, rule)
		assert.LessOrEqual(t, counted, found+found/50+12, rule)
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
