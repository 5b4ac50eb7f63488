package consent_test

import (
	"encoding/json"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/consent"
	"mastflag/core/fault"
)

// RFC 6265 §5.2. The same lines are given to a browser in the end-to-end tests.
func TestParseSetCookie(t *testing.T) {
	raw, err := os.ReadFile("testdata/cookies.json")
	require.NoError(t, err)
	var table []struct{ Line, Name, Value, Lasts string }
	require.NoError(t, json.Unmarshal(raw, &table))
	for _, c := range table {
		got, ok := consent.ParseSetCookie(c.Line, at)
		require.True(t, ok, c.Line)
		assert.Equal(t, [2]string{c.Name, c.Value}, [2]string{got.Name, got.Value}, c.Line)
		assert.Equal(t, c.Lasts == "gone", got.Gone, c.Line)
		if !got.Gone {
			assert.Equal(t, c.Lasts, got.Lasting(at), c.Line)
		}
	}
	// What the RFC ignores whole (steps 2 and 5); browsers have since come to take
	// some of it, by its successor.
	for _, line := range []string{"", "a", "=b", " =b", "; path=/"} {
		_, ok := consent.ParseSetCookie(line, at)
		assert.False(t, ok, line)
	}
	got, _ := consent.ParseSetCookie("a=b; Domain=.Example.COM; Path=/x; Secure; HttpOnly", at)
	assert.Equal(t, consent.SetCookie{
		Name:     "a",
		Value:    "b",
		Domain:   "example.com",
		Path:     "/x",
		Secure:   true,
		HTTPOnly: true,
	}, got)
	got, _ = consent.ParseSetCookie("a=b; Path=/x; Path=y; Domain=", at)
	assert.Equal(
		t, consent.SetCookie{Name: "a", Value: "b"}, got, "the last path counts, and one that is none is the default",
	)
}

// RFC 6265 §5.1.1: dates of all the forms there have been.
func TestCookieDates(t *testing.T) {
	want := time.Date(2094, 11, 6, 8, 49, 37, 0, time.UTC)
	for _, date := range []string{
		"Sat, 06 Nov 2094 08:49:37 GMT", "Saturday, 06-Nov-2094 08:49:37 GMT", "Sat Nov  6 08:49:37 2094",
		"6 nov 2094 8:49:37", "08:49:37 06 November 2094", "06-NOVEMBRE-2094 08:49:37x",
	} {
		got, _ := consent.ParseSetCookie("a=b; expires="+date, at)
		assert.True(t, want.Equal(got.Expires), "%s: %v", date, got.Expires)
	}
	two := func(year string) int {
		got, _ := consent.ParseSetCookie("a=b; expires=Sun, 06 Nov "+year+" 08:49:37 GMT", at)
		return got.Expires.Year()
	}
	assert.Equal(t, []int{1994, 2069, 1970, 2000}, []int{
		two("94"), two("69"), two("70"), two("00"),
	}, "years of two digits")
	// All that may stand between, and nothing else (the grammar's delimiter); a semicolon ends the attribute.
	for c := rune(1); c < 0x80; c++ {
		if c == ';' {
			continue
		}
		got, _ := consent.ParseSetCookie("a=b; expires="+strings.ReplaceAll("06 Nov 2094 08:49:37", " ", string(c)), at)
		between := c == 0x09 || slices.Contains([]rune(" !\"#$%&'()*+,-./<=>?@[\\]^_`{|}~"), c)
		assert.Equal(t, between, got.Expires.Equal(want), "%q", c)
	}
	for date, want := range map[string]time.Time{
		"01 Jan 1601 00:00:00": time.Date(1601, 1, 1, 0, 0, 0, 0, time.UTC),
		"31 Dec 2094 23:59:59": time.Date(2094, 12, 31, 23, 59, 59, 0, time.UTC),
		"31 Dec 99 23:59:59":   time.Date(1999, 12, 31, 23, 59, 59, 0, time.UTC),
	} {
		got, _ := consent.ParseSetCookie("a=b; expires="+date, at)
		assert.True(t, want.Equal(got.Expires), "%s: %v", date, got.Expires)
	}
	for _, date := range []string{
		"00 Nov 2094 08:49:37", "06 Nov 2094 08:49:60", "06 Nov 100 08:49:37",
		"06 Nov 2094", "08:49:37 Nov 2094", "06 2094 08:49:37", "06 Nov 08:49:37", "32 Nov 2094 08:49:37",
		"06 Nov 1600 08:49:37", "06 Nov 2094 24:00:00", "06 Nov 2094 08:60:37", "06 Nov 2094 08:49", "30 Feb 2094 08:49:37",
	} {
		got, _ := consent.ParseSetCookie("a=b; expires="+date, at)
		assert.True(t, got.Expires.IsZero(), date)
	}
}

func TestInventoryAsCSV(t *testing.T) {
	list := []consent.Item{
		{
			Kind:    consent.Cookie,
			Name:    "tw_*",
			Host:    "a.example",
			By:      "Tidewater, Ltd \"T\"",
			Purpose: "measurement",
			Lasts:   "P1Y",
			For:     map[string]string{"en": "Counts,\nall of it", "fr": "Compte"},
		},
		{Kind: consent.Frame, Name: "films.example", By: "=SUM(A1)", Purpose: "films", For: map[string]string{"de": "Filme"}},
	}
	var out strings.Builder
	require.NoError(t, consent.WriteInventory(&out, list, []string{"en", "de"}))
	assert.True(
		t, strings.HasPrefix(out.String(), `"kind","name","host","by","purpose","lasts","for en","for de","for fr"`+"\r\n"),
		out.String(),
	)
	assert.Contains(t, out.String(), "'=SUM(A1)", "no formula for spreadsheets")
	back, err := consent.ReadInventory(out.String())
	require.NoError(t, err)
	assert.Equal(t, list, back)
	again, err := consent.ReadInventory("\ufeffKind;Name;For EN\ncookie;a;What, indeed\n\n;;\n")
	require.NoError(t, err)
	assert.Equal(t, []consent.Item{{
		Kind: consent.Cookie,
		Name: "a",
		For:  map[string]string{"en": "What, indeed"},
	}}, again, "with semicolons, and empty rows")
	most, err := consent.ReadInventory("kind,name\n" + strings.Repeat("cookie,a\n", 1000))
	require.NoError(t, err)
	assert.Len(t, most, 1000)
	for text, want := range map[string]string{
		"":                               "there is no row",
		"kind\ncookie":                   `the column "name" is missing`,
		"kind,name,colour\ncookie,a,red": `there is no column "colour"`,
		"kind,name\nbiscuit,a":           `row 2: "biscuit" is no kind`,
		"kind,name\ncookie,\nframe,":     "row 3: there is no name",
		"kind,name\ncookie,a,b":          "row 2: 3 fields under 2 columns",
		"kind,name\ncookie,\"a":          "line 2 is not CSV",
		"kind,name\n" + strings.Repeat("cookie,a\n", 1001): "there are 1001 rows",
	} {
		_, err := consent.ReadInventory(text)
		var faults fault.Faults
		require.ErrorAs(t, err, &faults, text)
		assert.Contains(t, err.Error(), want)
		assert.NotEmpty(t, faults[0].Remedy)
	}
}

// What an inspection found beside an inventory.
func TestThings(t *testing.T) {
	s := consent.Setup{Purposes: []consent.Purpose{{ID: "measurement"}}, Inventory: []consent.Item{
		{
			Kind:    consent.Cookie,
			Name:    "tw_*",
			Purpose: "measurement",
			Lasts:   "P30D",
		}, {Kind: consent.Cookie, Name: "tw_own", Purpose: consent.Necessary, Lasts: "session"},
		{
			Kind:    consent.Request,
			Name:    "count.example",
			Purpose: "measurement",
		}, {Kind: consent.Storage, Name: "gone", Purpose: consent.Necessary}}}
	see := func(phase consent.Phase, kind consent.ItemKind, name, lasts string) consent.Sighting {
		return consent.Sighting{Phase: phase, Kind: kind, Name: name, Lasts: lasts, Page: "/"}
	}
	run := consent.Run{Found: []consent.Sighting{
		see(
			consent.Unanswered, consent.Cookie, "tw_own", "session",
		), see(consent.AllAccepted, consent.Cookie, "tw_a", "P1D"), see(consent.AllAccepted, consent.Cookie, "tw_b", "P40D"),
		see(
			consent.AllRefused, consent.Request, "count.example", "",
		), see(consent.AllAccepted, consent.Cookie, "new", "P1D"), see(
			consent.Unanswered, consent.Storage, "mastflag.s", "ever",
		), see(consent.Unanswered, consent.Cookie, "bad", "P1D")}}
	type sum struct {
		name          string
		item          int
		leaks, longer bool
		seen          int
	}
	var got []sum
	for _, x := range s.Detected(run) {
		got = append(got, sum{x.Name, x.Item, x.Leaks, x.Longer, len(x.Seen)})
	}
	assert.Equal(t, []sum{
		{"bad", -1, true, false, 1}, {"count.example", 2, true, false, 1}, {"new", -1, false, false, 1},
		{"tw_*", 0, false, true, 1}, {"tw_own", 1, false, false, 1}, {"mastflag.*", -1, false, false, 1},
	}, got)
	assert.Equal(t, []int{3}, s.Unseen(run))
	assert.Empty(t, s.Compare(run, run))
	less := consent.Run{Found: slices.Clone(run.Found[1:])}
	less.Found[0].Lasts = "P2D"
	assert.Equal(t, []consent.Difference{
		{What: "changed", Kind: consent.Cookie, Name: "tw_*", Before: "P2D accepted", Now: "P1D accepted"},
		{What: "new", Kind: consent.Cookie, Name: "tw_own", Now: "session unanswered"},
	}, s.Compare(less, run))
	assert.Contains(t, s.Compare(run, less), consent.Difference{
		What:   "gone",
		Kind:   consent.Cookie,
		Name:   "tw_own",
		Before: "session unanswered",
	})
}

func TestTrend(t *testing.T) {
	var o consent.Outcomes
	for outcome, n := range map[string]int{"asked": 100, "accepted": 30, "refused": 40, "chosen": 10} {
		o.Add(outcome, n)
	}
	trend := o.Trend("en")
	assert.Equal(t, 20, trend.Unanswered.N)
	assert.InDelta(t, 0.3, trend.Accepted.Of, 1e-9)
	assert.InDelta(t, 0.2189, trend.Accepted.Low, 0.0001)
	assert.Equal(t, 100, trend.Asked)
	counts := []consent.Count{
		{Tally: consent.Tally{Day: "2026-12-04", Language: "pl", Outcome: "asked"}, N: 4},
		{Tally: consent.Tally{Day: "2026-12-04", Language: "en", Outcome: "asked"}, N: 2},
		{Tally: consent.Tally{Day: "2026-12-05", Language: "pl", Outcome: "refused"}, N: 3},
	}
	all, rows, ok := consent.TrendsBy("language", counts)
	require.True(t, ok)
	assert.Equal(t, consent.Outcomes{Asked: 6, Refused: 3}.Trend(""), all)
	assert.Equal(t, []consent.Trend{
		consent.Outcomes{Asked: 2}.Trend("en"), consent.Outcomes{Asked: 4, Refused: 3}.Trend("pl"),
	}, rows)
	_, _, ok = consent.TrendsBy("weather", counts)
	assert.False(t, ok)
	over := consent.Outcomes{Asked: 1, Refused: 3}
	assert.Equal(t, 3, over.Trend("").Asked, "who answers twice was asked")
	assert.Equal(t, 0, over.Trend("").Unanswered.N)
}
