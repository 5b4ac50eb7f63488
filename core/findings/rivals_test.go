package findings_test

import (
	"fmt"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/findings"
	"mastflag/core/moment"
)

// rivalSite is a site with room for one notice at the top, whose pages have
// types, tags and languages.
func rivalSite(t *testing.T, notices ...string) *decide.Site {
	t.Helper()
	b, err := bundle.Parse([]byte(`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S",` +
		`"timeZone":"Europe/London","language":"en","languages":["en","de"],
		"origins":["https://www.s.example"],"capacity":{"top":1}},
		"pages":[{"path":"/"},{"path":"/book","type":"shop","tags":["fares"]},{"path":"/ports/a","type":"port",` +
		`"tags":["fares","north"]},{"path":"/ports/b","type":"port","language":"de"}],
		"notices":[` + strings.Join(notices, ",") + `]}`))
	require.NoError(t, err)
	s, err := decide.Compile(b)
	require.NoError(t, err)
	return s
}

func rivalsOf(s *decide.Site, at time.Time) (out []findings.Finding) {
	for _, f := range checked(s, at) {
		if f.Code == findings.Rival {
			out = append(out, f)
		}
	}
	return out
}

// What no visitor can meet is not claimed; what one can is, with a page and a
// moment at which it happens.
func TestRivalsAsVisitorsMeetThem(t *testing.T) {
	visitors := func(from, until string) string {
		return `"schedule":{"clock":"visitor","windows":[{"from":"2026-12-07T` + from + `","until":"2026-12-07T` + until +
			`"}]}`
	}
	to := func(node string) string { return `"audience":` + node }
	fact := func(name, is, value string) string {
		return to(`{"fact":"` + name + `","is":"` + is + `","value":` + value + `}`)
	}
	hands := func(kind string) string {
		return `"content":{"countdown":{` + kind + `,"then":"hand-over","handTo":"b"},"wordings":{"en":{"message":"x"}}}`
	}
	const top = `"rank":90`
	tests := []struct {
		name, a, b, want string
	}{
		{
			"visitors' windows that never meet for one visitor", top + "," + visitors("09:00", "10:00"),
			visitors("10:00", "11:00"), "",
		},
		{"visitors' windows that do", top + "," + visitors("09:00", "10:01"), visitors("10:00", "11:00"),
			"“b” can be held back on / from Mon 7 Dec 10:00: “a” takes the place at the top."},
		{"a visitor's window and the site's, elsewhere on Earth", top + "," + visitors("09:00", "10:00"),
			`"schedule":{"windows":[{"from":"2026-12-06T19:30","until":"2026-12-06T19:45"}]}`,
			"“b” can be held back on / from Sun 6 Dec 19:30, to a visitor whose clock is in Pacific/Kiritimati: “a” takes the " +
				"place at the top."},
		{"the heir of a moment", top + "," + hands(`"kind":"to","at":"2026-12-08T12:00"`), "", ""},
		{"the heir of each visitor's own deadline", top + "," + hands(`"kind":"visitor","for":"PT1H"`), "", ""},
		{"one page or the other", top + "," + fact("page.path", "eq", `"/book"`), fact("page.path", "eq", `"/"`), ""},
		{"two tags of one page", top + "," + fact("page.tags", "has", `"fares"`), fact("page.tags", "has", `"north"`),
			"“b” can be held back on /ports/a from Fri 4 Dec 12:00: “a” takes the place at the top."},
		{
			"a tag and a type that no page has both of", top + "," + fact("page.tags", "has", `"north"`),
			fact("page.type", "eq", `"shop"`), "",
		},
		{"a page of another language", top + "," + fact("page.language", "eq", `"de"`), "",
			"“b” can be held back on /ports/b from Fri 4 Dec 12:00: “a” takes the place at the top."},
		{"weekdays", top + "," + fact("clock.weekday", "eq", "1"), fact("clock.weekday", "eq", "2"), ""},
		{
			"a weekday and a window of another", top + "," + fact("clock.weekday", "eq", "1"),
			`"schedule":{"clock":"visitor","windows":[{"from":"2026-12-08T00:00","until":"2026-12-09T00:00"}]}`, "",
		},
		{"a weekday, later than both begin", top + "," + fact("clock.weekday", "eq", "1"), "",
			"“b” can be held back on / from Mon 7 Dec 00:00: “a” takes the place at the top."},
		{"dates", top + "," + fact("clock.date", "before", `"2026-12-10"`), fact("clock.date", "after", `"2026-12-10"`), ""},
		{"a far date", top + "," + fact("clock.date", "after", `"2027-05-01"`), "",
			"“b” can be held back on / from Sun 2 May 2027 00:00: “a” takes the place at the top."},
		{
			"clocks of two places", top + "," + fact("locale.zone", "eq", `"Asia/Tokyo"`),
			fact("locale.zone", "eq", `"Asia/Kathmandu"`), "",
		},
		{"a clock that an audience names", top + "," + fact("locale.zone", "eq", `"Asia/Kathmandu"`), "",
			"“b” can be held back on / from Fri 4 Dec 12:00, to a visitor whose clock is in Asia/Kathmandu: “a” takes the " +
				"place at the top."},
		{
			"who closed it for good is not held back by it",
			top + `,"memory":{"closed":"ever"},` + fact("notice.a.closed", "gte", "1"), "", "",
		},
		{"purposes, where nobody asks", top + "," + fact("consent.granted", "has", `"marketing"`), "", ""},
	}
	for _, c := range tests {
		s := rivalSite(t, sound("a", c.a), sound("b", c.b))
		got := rivalsOf(s, at)
		assert.Equal(t, got, rivalsOf(s, at.Add(time.Nanosecond)), "%s, at any fraction of a second", c.name)
		if c.want == "" {
			assert.Empty(t, got, c.name)
			continue
		}
		if assert.Len(t, got, 1, c.name) {
			assert.Equal(t, c.want, got[0].What, c.name)
		}
	}
}

// A rival that is claimed is met by a visit that a plain search finds, on the page
// and at the moment that are named; one that a search finds is claimed.
func TestRivalsHaveWitnesses(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	leaf := func() string {
		return pick(
			`{"fact":"page.path","is":"eq","value":"/book"}`, `{"fact":"page.path","is":"starts","value":"/ports"}`,
			`{"fact":"page.type","is":"ne","value":"port"}`, `{"fact":"page.tags","is":"has","value":"north"}`,
			`{"fact":"page.language","is":"eq","value":"de"}`, `{"fact":"clock.weekday","is":"eq","value":1}`,
			`{"fact":"clock.weekday","is":"gte","value":6}`, `{"fact":"clock.hour","is":"between","value":[9,11]}`,
			`{"fact":"clock.hour","is":"lt","value":3,"clock":"site"}`,
			`{"fact":"clock.date","is":"after","value":"2026-12-09"}`, `{"fact":"clock.date","is":"before",`+
				`"value":"2026-12-09T10:00"}`,
			`{"fact":"locale.zone","is":"eq","value":"Asia/Tokyo"}`, `{"fact":"place.country","is":"eq","value":"DE"}`,
			`{"fact":"place.country","is":"ne","value":"DE"}`, `{"fact":"device.kind","is":"eq","value":"phone"}`,
		)
	}
	ids := []string{"a", "b", "c", "d"}
	notice := func(id string) string {
		fields := fmt.Sprintf(`"rank":%d`, r.IntN(4)*10)
		switch r.IntN(4) {
		case 0, 1:
			day := 5 + r.IntN(4)
			hour := 8 + r.IntN(4)
			rule := pick("", "", `,"rule":"FREQ=DAILY;COUNT=4"`)
			fields += fmt.Sprintf(
				`,"schedule":{"clock":%q,"windows":[{"from":"2026-12-%02dT%02d:00","until":"2026-12-%02dT%02d:00"%s}]}`,
				pick("visitor", "visitor", "site"), day, hour, day, hour+1+r.IntN(3), rule,
			)
		}
		switch r.IntN(4) {
		case 0:
			fields += `,"audience":` + leaf()
		case 1:
			fields += fmt.Sprintf(`,"audience":{%q:[%s,%s]}`, pick("all", "any", "none"), leaf(), leaf())
		}
		if r.IntN(4) == 0 {
			fields += fmt.Sprintf(
				`,"pages":{"include":[{"match":%s}]}`, pick(`"home"`, `"section","path":"/ports"`, `"page","path":"/book"`),
			)
		}
		if r.IntN(3) == 0 {
			count := pick(
				`"kind":"to","at":"2026-12-07T09:00"`, `"kind":"to","at":"2026-12-07T09:00","clock":"visitor"`,
				`"kind":"visitor","for":"PT2H"`,
			)
			then := pick(`"disappear"`, fmt.Sprintf(`"hand-over","handTo":%q`, ids[r.IntN(4)]))
			fields += `,"content":{"countdown":{` + count + `,"then":` + then + `},"wordings":{"en":{"message":"x"}}}`
		}
		return sound(id, fields)
	}
	zones := []string{
		"", "Europe/London", "Asia/Tokyo", "Asia/Kolkata", "Europe/Berlin", "America/New_York", "America/Los_Angeles",
		"Pacific/Kiritimati", "Etc/GMT+12",
	}
	london, err := time.LoadLocation("Europe/London")
	require.NoError(t, err)
	said := map[string]time.Time{}
	var grid []time.Time
	for i := range 48 * 14 {
		when := at.Add(time.Duration(i) * 30 * time.Minute)
		grid = append(grid, when)
		said[moment.Say(when, at, london)] = when
	}
	named := regexp.MustCompile(`held back on (\S+) from ([^:]+:\d\d)(?:, to a visitor whose clock is in (\S+))?: `)
	visit := func(path string, when time.Time, zone, country, device string, met bool) decide.Visit {
		v := decide.Visit{At: when, URL: "https://www.s.example" + path, Facts: map[string]any{}}
		for name, value := range map[string]string{"locale.zone": zone, "place.country": country, "device.kind": device} {
			if value != "" {
				v.Facts[name] = value
			}
		}
		if met {
			v.Memory.Notices = map[string]decide.Acts{}
			for _, id := range ids {
				v.Memory.Notices[id] = decide.Acts{Met: at.AddDate(0, 0, -3)}
			}
		}
		return v
	}
	claimed, missed, found := 0, 0, 0
	for range 200 {
		s := rivalSite(t, notice("a"), notice("b"), notice("c"), notice("d"))
		told := map[string]bool{}
		for _, f := range rivalsOf(s, at) {
			told[f.Notices[0]] = true
			m := named.FindStringSubmatch(f.What)
			require.NotNil(t, m, f.What)
			when, ok := said[m[2]]
			require.True(t, ok, "%s is no moment looked at", m[2])
			claimed++
			witness := false
			for _, zone := range zones {
				for _, country := range []string{"", "DE", "FR"} {
					for _, device := range []string{"phone", "desktop"} {
						for _, met := range []bool{false, true} {
							if witness || m[3] != "" && zone != m[3] {
								continue
							}
							v := visit(m[1], when, zone, country, device, met)
							_, held := s.DecideWithHeldBack(v)
							witness = slices.Contains(held, f.Notices[0]) &&
								slices.ContainsFunc(s.Decide(v).Show, func(d decide.Shown) bool { return d.ID == f.Notices[1] })
						}
					}
				}
			}
			require.True(t, witness, "%s\n%s", f.What, bundleText(t, s))
		}
		for range 300 {
			v := visit(
				pick("/", "/book", "/ports/a", "/ports/b"), grid[r.IntN(len(grid))], pick(zones...), pick("", "DE", "FR"),
				pick("phone", "desktop"), r.IntN(2) == 0,
			)
			_, held := s.DecideWithHeldBack(v)
			for _, id := range held {
				found++
				if !told[id] {
					missed++
				}
			}
		}
	}
	t.Logf("%d claimed, %d found, %d of them missed", claimed, found, missed)
	assert.Greater(t, claimed, 100)
	assert.LessOrEqual(t, missed, found/100, "what is not looked at is not claimed, and is rare")
}

// bundleText is the bundle of a site as it is written.
func bundleText(t *testing.T, s *decide.Site) string {
	t.Helper()
	var out strings.Builder
	require.NoError(t, bundle.Write(&out, s.Bundle()))
	return out.String()
}
