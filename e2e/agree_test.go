package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/pages"
	"mastflag/core/plural"
	"mastflag/core/schedule"
)

// The browser's own URLPattern (WHATWG URL Pattern Standard) and the core say
// the same of every pattern and path.
func TestURLPatternsAgreeWithTheBrowser(t *testing.T) {
	patterns := []string{
		"/", "/*", "*", "/ports/*", "/ports/:name", "/:lang/ports/:name", "/ports/:name?", "/ports/:name+", "/ports/:name*",
		"/ports{/:name}?", "{/:lang(de|pl)}?/ports/*", "/news/:year(\\d{4})", "/news/:year(\\d+)/:slug", "/a.b", "/a\\+b",
		"/caf%C3%A9", "/café", "/x(.*)", "/x{y}z", "/:a-:b", "/:file.html", "/(de|pl)/*", "/ports/fennay/", "/\\:literal",
	}
	paths := []string{
		"/", "/ports", "/ports/", "/ports/fennay", "/ports/fennay/", "/ports/fennay/berths", "/de/ports/fennay",
		"/pl/ports/fennay", "/fr/ports/fennay", "/de", "/de/", "/de/x", "/news/2026", "/news/26", "/news/2026/storm", "/a.b",
		"/aXb", "/a+b", "/aab", "/caf%C3%A9", "/x", "/xy", "/xyz", "/x/y/z", "/a-b", "/index.html", "/indexXhtml",
		"/:literal", "/Ports/Fennay",
	}
	p := person(t)
	p.open("data:text/html,<title>x</title>")
	in, err := json.Marshal(map[string]any{"patterns": patterns, "paths": paths})
	require.NoError(t, err)
	theirs := ask[[][]bool](
		p,
		fmt.Sprintf(
			`(({patterns, paths}) => patterns.map(pathname => { const u = new URLPattern({ pathname }); return `+
				`paths.map(pathname => u.test({ pathname })) }))(%s)`,
			in,
		),
	)
	compared := 0
	for i, pattern := range patterns {
		set, faults := pages.Compile(pages.Conditions{Include: []pages.Entry{{
			Match:   pages.Pattern,
			Pattern: pattern,
		}}}, pages.Names{})
		if !assert.Empty(t, faults, pattern) {
			continue
		}
		for j, path := range paths {
			assert.Equal(t, theirs[i][j], set.Test(pages.Subject{Path: path}).Shows, "%s on %s", pattern, path)
			compared++
		}
	}
	assert.Equal(t, len(patterns)*len(paths), compared)

	for _, bad := range []string{"/(", "/:a/:a", "/{a", "/x(?<n>y)", "/:", "/(?:"} {
		_, faults := pages.Compile(pages.Conditions{Include: []pages.Entry{{
			Match:   pages.Pattern,
			Pattern: bad,
		}}}, pages.Names{})
		refused := ask[bool](
			p, fmt.Sprintf(`(() => { try { new URLPattern({ pathname: %q }); return false } catch { return true } })()`, bad),
		)
		assert.Equal(t, refused, len(faults) > 0, bad)
	}
}

// The browser's Intl.DateTimeFormat, with its own copy of the tz database,
// shows on each clock what the core read from it. Around every clock change
// of these zones in two years, to the quarter of an hour.
func TestClocksAgreeWithTheBrowser(t *testing.T) {
	type reading struct {
		Zone  string `json:"zone"`
		At    int64  `json:"at"`
		Shown string `json:"shown"`
	}
	var readings []reading
	for _, name := range []string{
		"Europe/London", "America/New_York", "Australia/Lord_Howe", "America/St_Johns", "Asia/Kathmandu", "Pacific/Chatham",
		"Pacific/Kiritimati", "America/Santiago",
	} {
		loc, err := schedule.Zone(name)
		require.NoError(t, err)
		for at := time.Date(2024, 1, 1, 0, 0, 0, 0, time.UTC); at.Year() < 2026; {
			end := schedule.PeriodEnd(at.In(loc))
			if end.IsZero() || end.Year() > 2026 { // no change in these years
				end = at.AddDate(2, 0, 0)
			}
			for quarter := -10; quarter <= 10; quarter++ {
				local := schedule.LocalAt(end.Add(time.Duration(quarter)*15*time.Minute), loc)
				readings = append(readings, reading{name, local.In(loc).UnixMilli(), local.String()})
			}
			at = end
		}
	}
	in, err := json.Marshal(readings)
	require.NoError(t, err)
	p := person(t)
	p.open("data:text/html,<title>x</title>")
	wrong := ask[[]string](p, fmt.Sprintf(`(list => list.flatMap(r => {
		const shown = new Intl.DateTimeFormat('sv-SE', { timeZone: r.zone, dateStyle: 'short', timeStyle: 'short' `+
		`}).format(r.at).replace(' ', 'T')
		return shown === r.shown ? [] : [r.zone + ' ' + new Date(r.at).toISOString() + ': ' + r.shown + ' here, ' + shown `+
		`+ ' there']
	}))(%s)`, in))
	assert.Empty(t, wrong)
	assert.Greater(t, len(readings), 500)
}

// The site script's evaluation of remainders, asked in the browser, on the
// cases that the core is tested with.
func TestRemaindersInTheBrowser(t *testing.T) {
	cases, err := os.ReadFile("../core/audience/testdata/remainders.json")
	require.NoError(t, err)
	code, err := os.ReadFile("../sitescript/build/remainder.js")
	require.NoError(t, err, "run make build")
	p := person(t)
	p.open("data:text/html,<title>x</title>")
	wrong := ask[[]string](p, fmt.Sprintf(`(() => { %s; const out = []; let n = 0
		for (const row of %s) for (const c of row.cases) { n++; if (remainder.holds(row.remainder, c.known) !== c.holds) `+
		`out.push(JSON.stringify([row.remainder, c])) }
		if (n < 35) out.push('only ' + n + ' cases'); return out })()`, code, cases))
	assert.Empty(t, wrong)
}

// The browser's Intl.PluralRules, with its own copy of Unicode CLDR, takes the
// same form for whole numbers in all categories of these languages.
func TestPluralForms(t *testing.T) {
	p := person(t)
	p.open("data:text/html,<title>x</title>")
	numbers := []int{1000, 1001, 1002, 1003, 1012, 10000, 1000000}
	for n := range 250 {
		numbers = append(numbers, n)
	}
	for tag, want := range map[string]int{"en": 2, "de": 2, "pl": 3, "ar": 6} {
		in, err := json.Marshal(numbers)
		require.NoError(t, err)
		theirs := ask[[]string](p, fmt.Sprintf(`(r => %s.map(n => r.select(n)))(new Intl.PluralRules(%q))`, in, tag))
		seen := map[string]bool{}
		for i, n := range numbers {
			assert.Equal(t, theirs[i], string(plural.Of(tag, n)), "%d in %s", n, tag)
			seen[theirs[i]] = true
		}
		assert.Len(t, seen, want, "the categories of %s that whole numbers take", tag)
	}
}
