package countdown_test

import (
	"encoding/json"
	"math/rand/v2"
	"os"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/countdown"
	"mastflag/core/plural"
	"mastflag/core/schedule"
)

func zone(t testing.TB, name string) *time.Location {
	t.Helper()
	loc, err := time.LoadLocation(name)
	require.NoError(t, err)
	return loc
}

func compile(t testing.TB, c countdown.Countdown) *countdown.Count {
	t.Helper()
	k, faults := countdown.Compile(c, zone(t, "Europe/London"))
	require.Empty(t, faults)
	return k
}

func utc(t testing.TB, s string) time.Time {
	t.Helper()
	at, err := time.Parse(time.RFC3339, s)
	require.NoError(t, err, s)
	return at
}

func ptr(n int) *int { return &n }

// The cases of testdata/cases.json, which the site script is put to as well,
// in a browser. The words are Unicode CLDR's; the figures are reckoned by hand.
func TestFiguresAndWords(t *testing.T) {
	raw, err := os.ReadFile("testdata/cases.json")
	require.NoError(t, err)
	var cases []struct {
		What, Lang string
		Left       int64
		Units      []countdown.Unit
		Up         bool
		Labels     countdown.Labels
		Figures    []int64
		Beside     []string
		Sentence   string
	}
	require.NoError(t, json.Unmarshal(raw, &cases))
	for _, c := range cases {
		t.Run(c.What, func(t *testing.T) {
			figures := countdown.Split(time.Duration(c.Left)*time.Millisecond, c.Units, c.Up)
			assert.Equal(t, c.Figures, figures)
			w := countdown.Countdown{Kind: countdown.To, Units: c.Units, Labels: c.Labels}.WordsIn(c.Lang, nil)
			assert.Equal(t, c.Sentence, w.Sentence(figures))
			for i, beside := range c.Beside {
				assert.Equal(t, beside, w.Label(i, figures[i]))
			}
		})
	}
}

func TestOwnLabels(t *testing.T) {
	own := countdown.OwnLabels{"days": {plural.One: "sleep", plural.Other: "sleeps"}}
	w := countdown.Countdown{
		Kind:   countdown.To,
		Units:  []countdown.Unit{"days", "hours"},
		Labels: countdown.Own,
	}.WordsIn("en", own)
	assert.Equal(t, "sleeps", w.Label(0, 3))
	assert.Equal(t, "hour", w.Label(1, 1), "a unit without words of its own has the usual ones")
	assert.Equal(t, "1 sleep and 2 hours", w.Sentence([]int64{1, 2}))
	assert.Empty(t, own.Check())
	assert.Equal(t, "/days", countdown.OwnLabels{"days": {plural.One: "sleep"}}.Check()[0].Pointer)
	assert.Equal(t, "/years", countdown.OwnLabels{"years": {plural.Other: "years"}}.Check()[0].Pointer)
}

// For any time and any run of units (rule C2): no figure is negative or
// reaches the next larger unit shown; the sum is what is left, rounded up in
// the smallest unit; it reads zero at the moment and not before.
func TestFiguresSumUp(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	for range 20_000 {
		first := r.IntN(5)
		units := countdown.Units[first : first+1+r.IntN(5-first)]
		left := time.Duration(r.Int64N(int64(400*24*time.Hour))) - 24*time.Hour
		if r.IntN(3) == 0 {
			left = left.Truncate(units[len(units)-1].Length())
		}
		least := units[len(units)-1].Length()
		up, down := countdown.Split(left, units, false), countdown.Split(left, units, true)
		sum := func(figures []int64) (d time.Duration) {
			for i, n := range figures {
				require.GreaterOrEqual(t, n, int64(0))
				if i > 0 {
					require.Less(t, time.Duration(n)*units[i].Length(), units[i-1].Length())
				}
				d += time.Duration(n) * units[i].Length()
			}
			return d
		}
		if left <= 0 {
			require.Zero(t, sum(up))
			require.Zero(t, sum(down))
			continue
		}
		require.NotZero(t, sum(up), "%v in %v", left, units)
		require.GreaterOrEqual(t, sum(up), left)
		require.Less(t, sum(up)-left, least)
		require.LessOrEqual(t, sum(down), left)
		require.Less(t, left-sum(down), least)
	}
}

func TestMoments(t *testing.T) {
	const winter = "2026-12-04T18:00"
	noon := utc(t, "2026-12-04T12:00:00Z")
	warsaw := zone(t, "Europe/Warsaw")
	for _, c := range []struct {
		name   string
		c      countdown.Countdown
		at     string // noon if ""
		met    string
		target string
		over   string // "" for never
	}{
		{
			"a moment on the site's clock", countdown.Countdown{Kind: countdown.To, At: winter}, "", "", "2026-12-04T18:00:00Z",
			"2026-12-04T18:00:00Z",
		},
		{
			"on another zone's", countdown.Countdown{Kind: countdown.To, At: winter, Clock: "America/New_York"}, "", "",
			"2026-12-04T23:00:00Z", "2026-12-04T23:00:00Z",
		},
		{
			"on the visitor's own", countdown.Countdown{Kind: countdown.To, At: winter, Clock: "visitor"}, "", "",
			"2026-12-04T17:00:00Z", "2026-12-04T17:00:00Z",
		},
		{
			"a moment that the clock skips is read with the offset before (RFC 5545 §3.3.5)",
			countdown.Countdown{Kind: countdown.To, At: "2027-03-28T01:30"}, "", "", "2027-03-28T01:30:00Z",
			"2027-03-28T01:30:00Z",
		},
		{
			"one that comes twice is the first (RFC 5545 §3.3.5)",
			countdown.Countdown{Kind: countdown.To, At: "2027-10-31T01:30"}, "", "", "2027-10-31T00:30:00Z",
			"2027-10-31T00:30:00Z",
		},
		{
			"since has no end", countdown.Countdown{Kind: countdown.Since, At: "2026-12-01T00:00"}, "", "",
			"2026-12-01T00:00:00Z", "",
		},
		{
			"for a visitor who has not met it", countdown.Countdown{Kind: countdown.Visitor, For: "PT2H"}, "", "",
			"2026-12-04T14:00:00Z", "2026-12-04T14:00:00Z",
		},
		{
			"for one who met it before", countdown.Countdown{Kind: countdown.Visitor, For: "P1DT30M"}, "",
			"2026-12-04T09:00:00Z", "2026-12-05T09:30:00Z", "2026-12-05T09:30:00Z",
		},
		{
			"days of a period are 86,400 s, also over a change of the clock",
			countdown.Countdown{Kind: countdown.Visitor, For: "P1W"}, "2027-03-29T00:00:00Z", "2027-03-25T09:00:00Z",
			"2027-04-01T09:00:00Z", "2027-04-01T09:00:00Z",
		},
		{
			"a meeting that lies ahead does not lengthen it", countdown.Countdown{Kind: countdown.Visitor, For: "PT2H"}, "",
			"2027-01-01T00:00:00Z", "2026-12-04T14:00:00Z", "2026-12-04T14:00:00Z",
		},
		{
			"run out", countdown.Countdown{Kind: countdown.Visitor, For: "PT2H"}, "", "2026-12-04T09:00:00Z",
			"2026-12-04T11:00:00Z", "2026-12-04T11:00:00Z",
		},
		{
			"begun again", countdown.Countdown{Kind: countdown.Visitor, For: "PT2H", Then: countdown.Again}, "",
			"2026-12-04T08:00:00Z", "2026-12-04T14:00:00Z", "",
		},
		{
			"the next of many", countdown.Countdown{Kind: countdown.Repeating, At: "2026-11-06T12:00", Rule: "FREQ=WEEKLY"}, "",
			"", "2026-12-11T12:00:00Z", "",
		},
		{
			"but one",
			countdown.Countdown{
				Kind:   countdown.Repeating,
				At:     "2026-11-06T12:00",
				Rule:   "FREQ=WEEKLY",
				Except: []string{"2026-12-11T12:00"},
			},
			"", "", "2026-12-18T12:00:00Z", "",
		},
		{
			"before the first",
			countdown.Countdown{Kind: countdown.Repeating, At: "2026-12-06T12:00", Rule: "FREQ=DAILY;COUNT=3"}, "", "",
			"2026-12-06T12:00:00Z", "2026-12-08T12:00:00Z",
		},
		{
			"after the last", countdown.Countdown{Kind: countdown.Repeating, At: "2026-11-06T12:00", Rule: "FREQ=DAILY;COUNT=3"},
			"", "", "2026-11-08T12:00:00Z", "2026-11-08T12:00:00Z",
		},
		{
			"keeps to the wall clock over a change of it",
			countdown.Countdown{Kind: countdown.Repeating, At: "2027-03-27T12:00", Rule: "FREQ=DAILY"}, "2027-03-27T13:00:00Z",
			"", "2027-03-28T11:00:00Z", "",
		},
		{
			"a number over a period",
			countdown.Countdown{Kind: countdown.Number, At: "2026-12-04T10:00", Until: winter, To: ptr(100)}, "", "",
			"2026-12-04T18:00:00Z", "2026-12-04T18:00:00Z",
		},
		{
			"by steps that reach an end",
			countdown.Countdown{Kind: countdown.Number, At: "2026-12-04T10:00", From: 10, To: ptr(3), Step: -2, Every: "PT30M"},
			"", "", "2026-12-04T12:00:00Z", "2026-12-04T12:00:00Z",
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			k := compile(t, c.c)
			at, met := noon, time.Time{}
			if c.at != "" {
				at = utc(t, c.at)
			}
			if c.met != "" {
				met = utc(t, c.met)
			}
			assert.Equal(t, c.target, k.Target(at, warsaw, met).UTC().Format(time.RFC3339))
			over := ""
			if o := k.Over(at, warsaw, met); !o.IsZero() {
				over = o.UTC().Format(time.RFC3339)
			}
			assert.Equal(t, c.over, over)
			fixed, ok := k.Fixed()
			assert.Equal(t, c.over != "" && c.c.Kind != countdown.Visitor && c.c.Clock != "visitor", ok)
			if ok {
				assert.Equal(t, c.over, fixed.UTC().Format(time.RFC3339))
			}
		})
	}
	// On each visitor's own clock a moment comes from the first place on Earth to
	// the last, 26 hours later; what has begun before the range is in it.
	eve := compile(t, countdown.Countdown{Kind: countdown.To, At: "2027-01-01T00:00", Clock: "visitor"})
	whole := []schedule.Interval{{From: utc(t, "2026-12-31T10:00:00Z"), Until: utc(t, "2027-01-01T12:00:00Z")}}
	for _, from := range []string{"2026-12-01T00:00:00Z", "2026-12-31T23:00:00Z", "2027-01-01T12:00:00Z"} {
		got := eve.Stretches(utc(t, from), noon.AddDate(1, 0, 0))
		require.Len(t, got, 1, from)
		assert.Equal(t, whole, []schedule.Interval{{From: got[0].From.UTC(), Until: got[0].Until.UTC()}})
	}
	assert.Empty(t, eve.Stretches(utc(t, "2027-01-01T12:00:01Z"), noon.AddDate(1, 0, 0)))

	k := compile(t, countdown.Countdown{Kind: countdown.Repeating, At: "2026-12-04T12:00", Rule: "FREQ=WEEKLY;COUNT=5"})
	assert.Len(
		t, k.Moments(noon, noon.AddDate(0, 0, 21), warsaw), 3, "from the first, included, to the fourth, not included",
	)
	assert.Empty(t, compile(t, countdown.Countdown{
		Kind: countdown.Visitor,
		For:  "PT2H",
	}).Moments(noon, noon.AddDate(1, 0, 0), warsaw))
}

func TestNumbers(t *testing.T) {
	begins := utc(t, "2026-12-04T10:00:00Z")
	for _, c := range []struct {
		name string
		c    countdown.Countdown
		want map[time.Duration]int
	}{
		{
			"up over a period", countdown.Countdown{To: ptr(100), Until: "2026-12-04T20:00"},
			map[time.Duration]int{
				-time.Hour:       0,
				0:                0,
				time.Hour:        10,
				10*time.Hour - 1: 99,
				10 * time.Hour:   100,
				30 * time.Hour:   100,
			},
		},
		{
			"down over a period", countdown.Countdown{From: 5, To: ptr(2), Until: "2026-12-04T11:00"},
			map[time.Duration]int{0: 5, 19 * time.Minute: 5, 20 * time.Minute: 4, time.Hour - 1: 3, time.Hour: 2},
		},
		{
			"by steps without end", countdown.Countdown{From: 1000, Step: 7, Every: "PT1M"},
			map[time.Duration]int{59 * time.Second: 1000, time.Minute: 1007, 100 * time.Minute: 1700},
		},
		{
			"by steps that pass the end", countdown.Countdown{From: 10, To: ptr(3), Step: -2, Every: "PT30M"},
			map[time.Duration]int{30 * time.Minute: 8, 90 * time.Minute: 4, 2 * time.Hour: 3, 9 * time.Hour: 3},
		},
		{
			"again and again", countdown.Countdown{To: ptr(4), Until: "2026-12-04T12:00", Then: countdown.Again},
			map[time.Duration]int{time.Hour: 2, 2 * time.Hour: 0, 3 * time.Hour: 2},
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			c.c.Kind, c.c.At = countdown.Number, "2026-12-04T10:00"
			k := compile(t, c.c)
			for gone, want := range c.want {
				assert.Equal(t, want, k.Value(begins.Add(gone), time.UTC, time.Time{}), "after %v", gone)
				if c.c.Until == "" || gone < 0 {
					continue
				}
				// The same for each visitor, from when they met it.
				own := c.c
				own.Kind, own.At, own.Until = countdown.Visitor, "", ""
				lasts := utc(t, c.c.Until+":00Z").Sub(begins)
				own.For = "PT" + strconv.Itoa(int(lasts.Minutes())) + "M"
				met := begins.AddDate(0, 1, 3)
				assert.Equal(t, want, compile(t, own).Value(met.Add(gone), time.UTC, met), "of a visitor's own, after %v", gone)
			}
		})
	}
}

func TestRefused(t *testing.T) {
	at := "2026-12-04T18:00"
	for _, c := range []struct {
		name, pointer string
		c             countdown.Countdown
	}{
		{"no moment", "/at", countdown.Countdown{Kind: countdown.To}},
		{"a moment with an offset", "/at", countdown.Countdown{Kind: countdown.To, At: "2026-12-04T18:00Z"}},
		{"an unknown clock", "/clock", countdown.Countdown{Kind: countdown.To, At: at, Clock: "Sundrey/Pier"}},
		{"a period of a kind that has none", "/for", countdown.Countdown{Kind: countdown.To, At: at, For: "PT1H"}},
		{
			"a visitor's clock for a visitor's period", "/clock",
			countdown.Countdown{Kind: countdown.Visitor, For: "PT1H", Clock: "visitor"},
		},
		{"no period", "/for", countdown.Countdown{Kind: countdown.Visitor}},
		{"a visitor's number without an end", "/to", countdown.Countdown{Kind: countdown.Visitor, For: "PT1H", From: 3}},
		{"that goes nowhere", "/to", countdown.Countdown{Kind: countdown.Visitor, For: "PT1H", From: 3, To: ptr(3)}},
		{
			"that has units", "/units",
			countdown.Countdown{Kind: countdown.Visitor, For: "PT1H", To: ptr(3), Units: []countdown.Unit{"hours"}},
		},
		{"months are no fixed time", "/for", countdown.Countdown{Kind: countdown.Visitor, For: "P1M"}},
		{"no rule", "/rule", countdown.Countdown{Kind: countdown.Repeating, At: at}},
		{"a rule that is none", "/rule", countdown.Countdown{Kind: countdown.Repeating, At: at, Rule: "FREQ=OFTEN"}},
		{"a rule finer than hourly", "/rule", countdown.Countdown{Kind: countdown.Repeating, At: at, Rule: "FREQ=MINUTELY"}},
		{
			"units with a gap", "/units/1",
			countdown.Countdown{Kind: countdown.To, At: at, Units: []countdown.Unit{"days", "minutes"}},
		},
		{
			"units upside down", "/units/1",
			countdown.Countdown{Kind: countdown.To, At: at, Units: []countdown.Unit{"minutes", "hours"}},
		},
		{
			"units of a number", "/units",
			countdown.Countdown{Kind: countdown.Number, At: at, Step: 1, Every: "PT1H", Units: []countdown.Unit{"days"}},
		},
		{"a number that goes nowhere", "/to", countdown.Countdown{Kind: countdown.Number, At: at, Until: "2026-12-05T18:00"}},
		{
			"a number by both ways", "/until",
			countdown.Countdown{Kind: countdown.Number, At: at, Until: "2026-12-05T18:00", To: ptr(3), Step: 1, Every: "PT1H"},
		},
		{
			"a number that ends before it begins", "/until",
			countdown.Countdown{Kind: countdown.Number, At: at, Until: "2026-12-03T18:00", To: ptr(3)},
		},
		{
			"steps that lead away", "/to",
			countdown.Countdown{Kind: countdown.Number, At: at, To: ptr(3), Step: -1, Every: "PT1H"},
		},
		{"an end of what has none", "/then", countdown.Countdown{Kind: countdown.Since, At: at, Then: countdown.Disappear}},
		{
			"a way on from what has no end", "/go",
			countdown.Countdown{Kind: countdown.Number, At: at, Step: 1, Every: "PT1H", Go: "/offers"},
		},
		{"a moment that begins again", "/then", countdown.Countdown{Kind: countdown.To, At: at, Then: countdown.Again}},
		{"handing over to nobody", "/handTo", countdown.Countdown{Kind: countdown.To, At: at, Then: countdown.HandOver}},
		{"a heir who is never asked", "/handTo", countdown.Countdown{Kind: countdown.To, At: at, HandTo: "b"}},
		{"going by script", "/go", countdown.Countdown{Kind: countdown.To, At: at, Go: "javascript:alert(1)"}},
		{
			"going from a number that has no end", "/go",
			countdown.Countdown{
				Kind:  countdown.Number,
				At:    at,
				Until: "2026-12-05T18:00",
				To:    ptr(3),
				Then:  countdown.Again,
				Go:    "/offers",
			},
		},
		{"going by mail", "/go", countdown.Countdown{Kind: countdown.To, At: at, Go: "mailto:a@sundrey.example"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, faults := countdown.Compile(c.c, time.UTC)
			require.Len(t, faults, 1)
			assert.Equal(t, c.pointer, faults[0].Pointer)
			assert.NotEmpty(t, faults[0].Remedy)
		})
	}
}
