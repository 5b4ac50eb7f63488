package decide_test

import (
	"encoding/json"
	"slices"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/decide"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

var noon = time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)

// bar is a published bar on every page, altered.
func bar(id string, alter ...func(*bundle.Notice)) bundle.Notice {
	at := noon.AddDate(0, 0, -10)
	n := bundle.Notice{
		ID:          id,
		Kind:        bundle.KindBar,
		State:       bundle.Published,
		PublishedAt: &at,
		Pages:       &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
		Content:     &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: id}}},
	}
	for _, f := range alter {
		f(&n)
	}
	return n
}

func site(notices ...bundle.Notice) bundle.Bundle {
	return bundle.Bundle{
		Format:  bundle.Format,
		Site:    bundle.Site{Key: "s", Name: "S", TimeZone: "Europe/London", Language: "en"},
		Pages:   []bundle.Page{{Path: "/"}, {Path: "/book"}, {Path: "/de/", Language: "de"}},
		Notices: notices,
	}
}

func compile(t testing.TB, b bundle.Bundle) *decide.Site {
	t.Helper()
	s, err := decide.Compile(b)
	require.NoError(t, err)
	return s
}

func windows(w ...schedule.Window) func(*bundle.Notice) {
	return func(n *bundle.Notice) { n.Schedule = &schedule.Plan{Windows: w} }
}
func level(l bundle.Level) func(*bundle.Notice) { return func(n *bundle.Notice) { n.Level = l } }
func rank(r int) func(*bundle.Notice)           { return func(n *bundle.Notice) { n.Rank = &r } }
func slot(s bundle.Slot) func(*bundle.Notice)   { return func(n *bundle.Notice) { n.Slot = s } }
func state(s bundle.State) func(*bundle.Notice) { return func(n *bundle.Notice) { n.State = s } }
func closed(p bundle.Period) func(*bundle.Notice) {
	return func(n *bundle.Notice) { n.Memory = &bundle.Memory{HideAfterClose: p} }
}
func published(daysAgo int) func(*bundle.Notice) {
	return func(n *bundle.Notice) { at := noon.AddDate(0, 0, -daysAgo); n.PublishedAt = &at }
}
func except(path string) func(*bundle.Notice) {
	return func(n *bundle.Notice) { n.Pages.Exclude = []pages.Entry{{Match: pages.Page, Path: path}} }
}

func ids(shown []decide.Shown) []string {
	out := []string{}
	for _, s := range shown {
		out = append(out, s.ID)
	}
	return out
}

// Each row: which notices show, and for each that does not, gate and rule.
func TestGates(t *testing.T) {
	off := false
	for _, c := range []struct {
		name  string
		in    bundle.Bundle
		visit decide.Visit
		show  []string
		held  map[string]string
	}{
		{"all gates pass", site(bar("a")), decide.Visit{URL: "/"}, []string{"a"}, nil},
		{
			"master switch", func() bundle.Bundle { b := site(bar("a")); b.Site.Display = &off; return b }(),
			decide.Visit{URL: "/"}, nil, map[string]string{"a": "display G1"},
		},
		{
			"draft and paused", site(bar("a", state(bundle.Draft)), bar("b", state(bundle.Paused))), decide.Visit{URL: "/"}, nil,
			map[string]string{"a": "state G2", "b": "state G2"},
		},
		{
			"the first gate that fails is the reason", site(bar("a", state(bundle.Draft), except("/book"))),
			decide.Visit{URL: "/book"}, nil, map[string]string{"a": "state G2"},
		},
		{"before, in and after its time", site(
			bar("soon", windows(schedule.Window{From: "2026-12-04T12:01"})), bar("now", windows(schedule.Window{
				From:  "2026-12-04T12:00",
				Until: "2026-12-04T12:01",
			})), bar("over", windows(schedule.Window{Until: "2026-12-04T12:00"}))),
			decide.Visit{URL: "/"}, []string{"now"}, map[string]string{"soon": "schedule S1", "over": "schedule S1"}},
		{
			"a page excluded", site(bar("a", except("/book/"))), decide.Visit{URL: "https://www.s.example/book?x=1#y"}, nil,
			map[string]string{"a": "pages P1"},
		},
		{
			"an address of host alone is the root", site(bar("a", except("/"))), decide.Visit{URL: "https://www.s.example"}, nil,
			map[string]string{"a": "pages P1"},
		},
		{
			"a page that is not listed", site(bar("a", except("/book"))), decide.Visit{URL: "/no/such/page"}, []string{"a"}, nil,
		},
		{
			"top holds two, bottom one (D2)",
			site(bar("a"), bar("b"), bar("c"), bar("d", slot(bundle.Bottom)), bar("e", slot(bundle.Bottom))),
			decide.Visit{URL: "/"}, []string{"a", "b", "d"}, map[string]string{"c": "slot D2", "e": "slot D2"},
		},
		{"capacity of the site's own (D2)", func() bundle.Bundle {
			b := site(bar("a"), bar("b"), bar("d", slot(bundle.Bottom)))
			b.Site.Capacity = map[bundle.Slot]int{bundle.Top: 1, bundle.Bottom: 0}
			return b
		}(), decide.Visit{URL: "/"}, []string{"a"}, map[string]string{"b": "slot D2", "d": "slot D2"}},
		{
			"rivals by level, rank, publishedAt, id (D1)",
			site(
				bar("z", level(bundle.Promotion), rank(100)), bar("y", rank(10)), bar("x", rank(60)),
				bar("w", level(bundle.Emergency), rank(0)),
			),
			decide.Visit{URL: "/"}, []string{"w", "x"}, map[string]string{"y": "slot D2", "z": "slot D2"},
		},
		{
			"the later published goes first, then the id (D1)",
			site(bar("a", published(9)), bar("c", published(5)), bar("b", published(5)), bar("d", published(1))),
			decide.Visit{URL: "/"}, []string{"d", "b"}, map[string]string{"a": "slot D2", "c": "slot D2"},
		},
		{
			"who has closed it gives the place away", site(bar("a", closed("P1D")), bar("b"), bar("c")),
			decide.Visit{URL: "/", Memory: decide.Memory{Notices: map[string]decide.Acts{"a": {Closed: noon.Add(-time.Hour)}}}},
			[]string{"b", "c"}, map[string]string{"a": "memory M1"},
		},
		{"a visitor's clock (S2)", site(bar("a", func(n *bundle.Notice) {
			n.Schedule = &schedule.Plan{
				Clock:   "visitor",
				Windows: []schedule.Window{{From: "2026-12-04T13:00", Until: "2026-12-04T14:00"}},
			}
		})), decide.Visit{URL: "/", Facts: map[string]any{"locale.zone": "Europe/Berlin"}}, []string{"a"}, nil},
		{"without a zone the site's clock is read (S2)", site(bar("a", func(n *bundle.Notice) {
			n.Schedule = &schedule.Plan{
				Clock:   "visitor",
				Windows: []schedule.Window{{From: "2026-12-04T13:00", Until: "2026-12-04T14:00"}},
			}
		})), decide.Visit{URL: "/"}, nil, map[string]string{"a": "schedule S2"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			c.visit.At = noon
			require.NoError(t, c.visit.Check())
			r := compile(t, c.in).Explain(c.visit)
			assert.ElementsMatch(t, c.show, ids(r.Show))
			if c.show != nil {
				assert.Equal(t, c.show, ids(r.Show), "strongest first")
			}
			held := map[string]string{}
			for _, h := range r.Held {
				held[h.ID] = string(h.Gate) + " " + h.Rule
				assert.Regexp(t, `^[A-Z].*\.$`, h.Why, "a sentence")
			}
			assert.Len(t, held, len(c.held))
			for id, want := range c.held {
				assert.Equal(t, want, held[id], id)
			}
		})
	}
}

// M1: how long a closed notice stays away. The visitor is in New York, where
// clocks went back on 1 November 2026 at 06:00 UTC.
func TestClosedStaysAway(t *testing.T) {
	at := func(s string) time.Time {
		v, err := time.Parse(time.RFC3339, s)
		require.NoError(t, err)
		return v
	}
	act := at("2026-10-31T18:00:00Z") // 14:00 in New York
	for _, c := range []struct {
		name          string
		period        bundle.Period
		session, view string
		at            string
		shows         bool
	}{
		{"page: this view", "page", "2026-10-31T17:00:00Z", "2026-10-31T17:59:00Z", "2026-10-31T18:00:01Z", false},
		{"page: the next view", "page", "2026-10-31T17:00:00Z", "2026-10-31T18:01:00Z", "2026-10-31T18:01:00Z", true},
		{"page: a first ask, whose view has not begun", "page", "2026-10-31T17:00:00Z", "", "2026-10-31T18:01:00Z", true},
		{
			"session: another page of it", "session", "2026-10-31T17:00:00Z", "2026-10-31T18:30:00Z", "2026-10-31T18:30:00Z",
			false,
		},
		{"session: the next", "session", "2026-11-01T08:00:00Z", "2026-11-01T08:00:00Z", "2026-11-01T08:00:00Z", true},
		{"hours are exact, over a clock change: not yet", "PT24H", "", "", "2026-11-01T17:59:59Z", false},
		{"hours are exact, over a clock change: over", "PT24H", "", "", "2026-11-01T18:00:00Z", true},
		{"a day is the visitor's calendar's, 25 hours here: not yet", "P1D", "", "", "2026-11-01T18:59:59Z", false},
		{"a day is the visitor's calendar's, 25 hours here: over", "P1D", "", "", "2026-11-01T19:00:00Z", true},
		{"ever", "ever", "", "", "2099-01-01T00:00:00Z", false},
	} {
		t.Run(c.name, func(t *testing.T) {
			v := decide.Visit{
				URL:    "/",
				At:     at(c.at),
				Facts:  map[string]any{"locale.zone": "America/New_York"},
				Memory: decide.Memory{Notices: map[string]decide.Acts{"a": {Closed: act}}},
			}
			if c.session != "" {
				v.Memory.Session = at(c.session)
			}
			if c.view != "" {
				v.Memory.View = at(c.view)
			}
			r := compile(t, site(bar("a", closed(c.period), published(60)))).Explain(v)
			assert.Equal(t, c.shows, len(r.Show) == 1)
			if !c.shows {
				assert.Equal(t, decide.GateMemory, r.Held[0].Gate)
				assert.Contains(t, r.Held[0].Why, "closed it Sat 31 Oct", "in the visitor's zone")
			}
		})
	}
}

// D5: the answer holds until the next schedule change of any notice of the page.
func TestValidUntil(t *testing.T) {
	w := func(from, until string) func(*bundle.Notice) {
		return windows(schedule.Window{From: from, Until: until})
	}
	for _, c := range []struct {
		name string
		in   bundle.Bundle
		want string
	}{
		{"no change ahead", site(bar("a")), ""},
		{"the end of one that shows", site(bar("a", w("", "2026-12-05T18:00"))), "2026-12-05T18:00:00Z"},
		{
			"the start of one that does not yet", site(bar("a", w("2026-12-04T13:00", "")), bar("b", w("", "2026-12-05T18:00"))),
			"2026-12-04T13:00:00Z",
		},
		{"not of another page's", site(bar("a", w("", "2026-12-05T18:00"), except("/"))), ""},
		{
			"not of a draft's or a paused one's",
			site(
				bar("a", w("", "2026-12-05T18:00"), state(bundle.Draft)), bar("b", w("", "2026-12-05T18:00"), state(bundle.Paused)),
			),
			"",
		},
		{
			"of one held back by rivals", site(bar("a", rank(90)), bar("b", rank(90)), bar("c", w("", "2026-12-05T18:00"))),
			"2026-12-05T18:00:00Z",
		},
		{"of one the visitor has closed", site(bar("a", w("", "2026-12-05T18:00"), closed("ever"))), "2026-12-05T18:00:00Z"},
	} {
		v := decide.Visit{
			URL:    "/",
			At:     noon,
			Memory: decide.Memory{Notices: map[string]decide.Acts{"a": {Closed: noon.Add(-time.Minute)}}},
		}
		r := compile(t, c.in).Explain(v)
		raw, err := json.Marshal(r)
		require.NoError(t, err)
		if c.want == "" {
			assert.Contains(t, string(raw), `"validUntil":null`, c.name)
		} else {
			assert.Contains(t, string(raw), `"validUntil":"`+c.want+`"`, c.name)
		}
	}
}

func TestExplanationsArePlain(t *testing.T) {
	b := site(
		bar("storm", level(bundle.Emergency)), bar("winter", rank(90)), bar("sale"),
		bar("late", windows(schedule.Window{From: "2026-12-07T09:00", Until: "2027-01-08T18:00"})),
		bar("over", windows(schedule.Window{From: "2026-11-26T09:00", Until: "2026-12-01T18:00"})),
		bar("book", except("/")), bar("shut", closed("P1D")),
	)
	b.Notices[0].Title, b.Notices[1].Title = "Storm closure", "Winter timetable"
	r := compile(t, b).Explain(decide.Visit{
		At:     noon,
		URL:    "/",
		Memory: decide.Memory{Notices: map[string]decide.Acts{"shut": {Closed: noon.Add(-2 * time.Hour)}}},
	})
	why := map[string]string{}
	for _, h := range r.Held {
		why[h.ID] = h.Why
	}
	assert.Equal(t, map[string]string{
		"sale": "There is room for 2 notices at the top, and “Storm closure” and “Winter timetable” took the place: rank " +
			"90 comes before 50.",
		"late": "It starts Mon 7 Dec 09:00; now it is Fri 4 Dec 12:00.",
		"over": "It ended Tue 1 Dec 18:00; now it is Fri 4 Dec 12:00.",
		"book": "It leaves out the page /, so it is not on /.",
		"shut": "This visitor closed it Fri 4 Dec 10:00; it stays away for a day, until Sat 5 Dec 10:00.",
	}, why)
	for _, a := range r.Explain {
		assert.GreaterOrEqual(t, len(a.Steps), 5, "every gate is asked")
	}
}

func TestVisitCheck(t *testing.T) {
	for _, c := range []struct{ raw, want string }{
		{`{"url":"/"}`, `"at" is missing`},
		{`{"at":"2026-12-04T10:00:00Z"}`, `"url" is missing`},
		{`{"at":"2026-12-04T10:00:00Z","url":"book"}`, `"book" is not an address`},
		{`{"at":"2026-12-04T10:00:00Z","url":"/","facts":{"shoe.size":44}}`, `unknown fact "shoe.size"`},
		{`{"at":"2026-12-04T10:00:00Z","url":"/","facts":{"locale.zone":"Mars/Olympus"}}`, "not an IANA zone name"},
		{`{"at":"2026-12-04T10:00:00Z","url":"/","facts":{"device.kind":"phone","page.query.x":"1"}}`, ""},
	} {
		var v decide.Visit
		require.NoError(t, json.Unmarshal([]byte(c.raw), &v))
		if err := v.Check(); c.want == "" {
			assert.NoError(t, err)
		} else {
			assert.ErrorContains(t, err, c.want)
		}
	}
}

func TestFirstGoesBeforeAllRivals(t *testing.T) {
	b := site(
		bar("a", level(bundle.Emergency)), bar("b", level(bundle.Emergency)), bar("draft", level(bundle.Promotion), rank(0)),
	)
	s, err := decide.CompileFirst(b, "draft")
	require.NoError(t, err)
	assert.Equal(t, []string{"draft", "a"}, ids(s.Decide(decide.Visit{At: noon, URL: "/"}).Show))
}

// Where a browser keeps nothing (rule M5): what is part of the page stays, what has to
// be answered is asked, and the consent question comes to whoever wants it.
func TestWhereNothingIsKept(t *testing.T) {
	kind := func(k bundle.Kind, c bundle.Content) func(*bundle.Notice) {
		return func(n *bundle.Notice) {
			c.Wordings = n.Content.Wordings
			n.Kind, n.Slot, n.Content = k, "", &c
		}
	}
	later := func(n *bundle.Notice) {
		n.Audience = &audience.Node{Fact: "view.scroll", Is: audience.Gte, Value: 50.0}
		n.Slot = bundle.CornerEnd
	}
	asked := bundle.Disclaimer{Ask: bundle.AskAcknowledge}
	b := site(
		bar("news"), bar("storm", level(bundle.Warning)), bar("flood", level(bundle.Emergency)), bar("later", later),
		bar("block", kind(bundle.KindBlock, bundle.Content{})),
		bar("terms", kind(bundle.KindDisclaimer, bundle.Content{Disclaimer: &asked}), slot(bundle.Bottom)),
		bar("read", kind(bundle.KindDisclaimer, bundle.Content{}), slot(bundle.CornerStart)),
		bar("ask", kind(bundle.KindConsent, bundle.Content{}), slot(bundle.CornerEnd)),
	)
	b.Site.Consent = &consent.Setup{Purposes: []consent.Purpose{{ID: "marketing"}}}
	for _, c := range []struct {
		no    bundle.NoStorage
		again bool
		shows []string
	}{
		{"", false, []string{"ask", "block", "flood", "read", "storm", "terms"}},
		{bundle.StorageAll, false, []string{"ask", "block", "flood", "read", "storm", "terms"}},
		{bundle.StorageWarnings, false, []string{"block", "flood", "storm", "terms"}},
		{bundle.StorageNone, false, []string{"block", "flood", "terms"}},
		{bundle.StorageNone, true, []string{"ask", "block", "flood", "terms"}},
	} {
		b.Site.NoStorage = c.no
		s := compile(t, b)
		v := decide.Visit{At: noon, URL: "/", Memory: decide.Memory{NoStorage: true}, Again: c.again}
		d := s.Decide(v)
		got := ids(d.Show)
		slices.Sort(got)
		assert.Equal(t, c.shows, got, c)
		assert.Equal(t, c.no == "" || c.no == bundle.StorageAll, len(d.Waiting) == 1, c)
		for _, h := range s.Explain(v).Held {
			if h.Rule == "M5" {
				assert.Equal(t, decide.GateMemory, h.Gate)
				assert.Contains(t, h.Why, map[bundle.NoStorage]string{
					bundle.StorageWarnings: "shows only warnings and emergencies",
					bundle.StorageNone:     "shows only emergencies",
				}[c.no])
			}
			assert.True(t, h.ID == "news" || h.Rule == "M5" || h.ID == "later", h)
		}
		v.Memory.NoStorage = false
		assert.Len(t, s.Decide(v).Show, 6, "where something is kept all is as it was")
	}
}

// The showing on the current page view does not count against itself, also where it is of the very
// instant at which the view began (rule M2); one a moment before does.
func TestTheShowingOfThisView(t *testing.T) {
	for _, per := range []bundle.Period{"P1D", bundle.PeriodSession} {
		s := compile(t, site(bar("a", func(n *bundle.Notice) {
			n.Memory = &bundle.Memory{Limits: []bundle.Limit{{Times: 1, Per: per}}}
		})))
		began := noon.Add(-time.Minute)
		for shown, shows := range map[time.Time]bool{
			began: true, began.Add(time.Millisecond): true, began.Add(-time.Millisecond): false, noon: true,
		} {
			d := s.Decide(decide.Visit{At: noon, URL: "/", Memory: decide.Memory{
				Session: noon.Add(-time.Hour), View: began,
				Notices: map[string]decide.Acts{"a": {Shown: []time.Time{shown}}},
			}})
			assert.Equal(t, shows, len(d.Show) == 1, "%s: shown %s after the view began", per, shown.Sub(began))
		}
	}
}
