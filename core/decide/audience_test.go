package decide_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

func to(tree string) func(*bundle.Notice) {
	return func(n *bundle.Notice) {
		n.Audience = new(audience.Node)
		if err := json.Unmarshal([]byte(tree), n.Audience); err != nil {
			panic(err)
		}
	}
}

func kind(k bundle.Kind) func(*bundle.Notice) { return func(n *bundle.Notice) { n.Kind = k } }

const (
	scrolled  = `{"fact":"view.scroll","is":"gte","value":30}`
	returning = `{"fact":"visits.number","is":"gte","value":2}`
)

// Each row: the address and memory of a visit, and a leaf that is true of it
// by what is derived from them; nothing is given as a fact.
func TestDerivedFacts(t *testing.T) {
	b := site()
	b.Pages = []bundle.Page{{
		Path:     "/ports/aldwick",
		Title:    "Aldwick",
		Type:     "port",
		Tags:     []string{"winter"},
		Language: "en-GB",
	}}
	at := time.Date(2026, 12, 6, 23, 30, 0, 0, time.UTC) // Sunday in London, Monday in Berlin
	visit := decide.Visit{
		At:    at,
		URL:   "https://www.s.example/ports/x/../aldwick/?utm_source=Poster&utm_campaign=a+b&from=&from=2#top",
		Facts: map[string]any{"locale.zone": "Europe/Berlin", "event.booking.route": "Fennay", "event.booking.value": 49.5},
		Memory: decide.Memory{
			Events: map[string][]time.Time{"booking": {at.Add(-time.Hour), at.AddDate(0, 0, -3), at.AddDate(0, 0, -30)},
				"purchase": {at.AddDate(0, 0, -40), at.AddDate(0, 0, -3), at.Add(time.Hour)}},
			Notices: map[string]decide.Acts{"storm": {
				Closed: at.Add(-time.Minute),
				Shown:  []time.Time{at, at},
				Counts: decide.Counts{Clicked: 4},
			}},
		},
	}
	for _, leaf := range []string{
		`{"fact":"page.path","is":"eq","value":"/ports/aldwick"}`,
		`{"fact":"page.url","is":"starts","value":"https://www.s.example/ports/x/"}`,
		`{"fact":"page.title","is":"eq","value":"aldwick"}`,
		`{"fact":"page.type","is":"eq","value":"port"}`,
		`{"fact":"page.tags","is":"has","value":"winter"}`,
		`{"fact":"page.language","is":"eq","value":"en-gb"}`,
		`{"fact":"page.query.from","is":"eq","value":""}`,
		`{"fact":"page.query.to","is":"unset"}`,
		`{"fact":"utm.source","is":"eq","value":"poster"}`,
		`{"fact":"utm.campaign","is":"eq","value":"a b"}`,
		`{"fact":"utm.term","is":"unset"}`,
		`{"fact":"clock.weekday","is":"eq","value":1}`,
		`{"fact":"clock.weekday","is":"eq","value":7,"clock":"site"}`,
		`{"fact":"clock.hour","is":"eq","value":0}`,
		`{"fact":"clock.hour","is":"eq","value":18,"clock":"America/New_York"}`,
		`{"fact":"clock.date","is":"between","value":["2026-12-07","2026-12-07"]}`,
		`{"fact":"clock.date","is":"before","value":"2026-12-07","clock":"site"}`,
		`{"fact":"event.booking.count","is":"eq","value":3}`,
		`{"fact":"event.booking.count","is":"eq","value":2,"within":"P7D"}`,
		`{"fact":"event.booking.count","is":"eq","value":1,"within":"PT2H"}`,
		`{"fact":"event.booking.daysSince","is":"eq","value":1}`,
		`{"fact":"event.booking.count","is":"eq","value":3,"since":"never"}`,
		`{"fact":"event.booking.count","is":"eq","value":1,"since":"purchase"}`,
		`{"fact":"event.purchase.count","is":"eq","value":1,"within":"P7D","since":"booking"}`,
		`{"fact":"event.booking.route","is":"eq","value":"fennay"}`,
		`{"fact":"event.booking.value","is":"gte","value":49.5}`,
		`{"fact":"event.booking.berth","is":"unset"}`,
		`{"fact":"event.other.count","is":"eq","value":0}`,
		`{"fact":"event.other.daysSince","is":"unset"}`,
		`{"fact":"notice.storm.shown","is":"eq","value":2}`,
		`{"fact":"notice.storm.closed","is":"eq","value":1}`,
		`{"fact":"notice.storm.clicked","is":"eq","value":4}`,
		`{"fact":"notice.other.shown","is":"eq","value":0}`,
		`{"fact":"visits.number","is":"unset"}`,
	} {
		b.Notices = []bundle.Notice{bar("a", to(leaf))}
		s := compile(t, b)
		require.NoError(t, visit.Check())
		assert.Equal(t, []string{"a"}, ids(s.Decide(visit).Show), leaf)
		b.Notices = []bundle.Notice{bar("a", to(`{"none":[`+leaf+`]}`))}
		assert.Empty(t, compile(t, b).Decide(visit).Show, "not %s", leaf)
	}
	bare := decide.Visit{At: at, URL: "https://www.s.example?utm_source=poster"}
	b.Notices = []bundle.Notice{
		bar("a", to(`{"all":[{"fact":"utm.source","is":"eq","value":"poster"},{"fact":"page.path","is":"eq","value":"/"}]}`)),
	}
	assert.Len(t, compile(t, b).Decide(bare).Show, 1, "a host with a query and no path is the root")
	given := visit
	given.Facts = map[string]any{"page.type": "island", "clock.hour": 3.0, "event.booking.count": 9.0}
	b.Notices = []bundle.Notice{
		bar(
			"a",
			to(`{"all":[{"fact":"page.type","is":"eq","value":"island"},{"fact":"clock.hour","is":"eq","value":3},`+
				`{"fact":"event.booking.count","is":"eq","value":9}]}`),
		),
	}
	assert.Len(t, compile(t, b).Decide(given).Show, 1, "what is given goes before what is derived")
}

// Rules A5, D2 to D4 and M2. Each row: who shows, who waits, and gate and rule
// of those held back.
func TestAudienceAndSlots(t *testing.T) {
	shown := func(ago ...time.Duration) decide.Memory {
		var a decide.Acts
		for _, d := range ago {
			a.Shown = append(a.Shown, noon.Add(-d))
		}
		return decide.Memory{
			View:    noon.Add(-time.Minute),
			Session: noon.Add(-time.Hour),
			Notices: map[string]decide.Acts{"a": a},
		}
	}
	limits := func(l ...bundle.Limit) func(*bundle.Notice) {
		return func(n *bundle.Notice) { n.Memory = &bundle.Memory{Limits: l} }
	}
	const day = 24 * time.Hour
	for _, c := range []struct {
		name  string
		in    bundle.Bundle
		visit decide.Visit
		show  []string
		wait  []string
		held  map[string]string
	}{
		{
			"an audience that the visitor is in", site(bar("a", to(returning))),
			decide.Visit{Facts: map[string]any{"visits.number": 2.0}}, []string{"a"}, nil, nil,
		},
		{
			"an audience that the visitor is not in", site(bar("a", to(returning))),
			decide.Visit{Facts: map[string]any{"visits.number": 1.0}}, nil, nil, map[string]string{"a": "audience A1"},
		},
		{
			"what is not known yet waits (A5)", site(bar("a", to(`{"all":[`+scrolled+`,`+returning+`]}`))),
			decide.Visit{Facts: map[string]any{"visits.number": 2.0}}, nil, []string{"a"}, nil,
		},
		{
			"a later fact given as a value is known", site(bar("a", to(scrolled))),
			decide.Visit{Facts: map[string]any{"view.scroll": 30.0}}, []string{"a"}, nil, nil,
		},
		{
			"a later fact given as a value, too little", site(bar("a", to(scrolled))),
			decide.Visit{Facts: map[string]any{"view.scroll": 29.0}}, nil, nil, map[string]string{"a": "audience A1"},
		},
		{
			"who waits takes no place (D3)", site(bar("a", to(scrolled), rank(90)), bar("b"), bar("c"), bar("d", rank(10))),
			decide.Visit{}, []string{"b", "c"}, []string{"a"}, map[string]string{"d": "slot D2"},
		},
		{
			"who waits and was closed does not wait", site(bar("a", to(scrolled), closed("P1D"))),
			decide.Visit{Memory: decide.Memory{Notices: map[string]decide.Acts{"a": {Closed: noon.Add(-time.Hour)}}}}, nil, nil,
			map[string]string{"a": "memory M1"},
		},
		{
			"set-aside conditions count for nothing (A2)",
			site(bar("a", to(`{"all":[{"fact":"visits.number","is":"gte","value":2,"off":true}]}`))), decide.Visit{},
			[]string{"a"}, nil, nil,
		},
		{
			"slots and their capacity (D2)",
			site(
				bar("t1"), bar("t2"), bar("t3", rank(1)), bar("s1", slot(bundle.CornerStart)),
				bar("s2", slot(bundle.CornerStart), rank(1)), bar("e1", slot(bundle.CornerEnd)),
				bar("e2", slot(bundle.CornerEnd), rank(1)), bar("c1", slot(bundle.Centre)), bar("v1", slot(bundle.Cover), rank(1)),
				bar("h1", slot(bundle.TabTitle)), bar("h2", slot(bundle.TabTitle), rank(1)), bar("i1", kind(bundle.KindBlock)),
				bar("i2", kind(bundle.KindBlock)), bar("i3", kind(bundle.KindBlock)),
			),
			decide.Visit{}, []string{"t1", "t2", "s1", "e1", "c1", "h1", "i1", "i2", "i3"}, nil,
			map[string]string{"t3": "slot D2", "s2": "slot D2", "e2": "slot D2", "v1": "slot D2", "h2": "slot D2"},
		},
		{
			"an open consent question makes the middle wait (D4)",
			site(
				bar("ask", kind(bundle.KindConsent), slot(bundle.Bottom)), bar("a", slot(bundle.Centre)),
				bar("b", slot(bundle.Cover), level(bundle.Emergency)), bar("t"),
			),
			decide.Visit{}, []string{"ask", "b", "t"}, nil, map[string]string{"a": "slot D4"},
		},
		{
			"an answered consent question does not (D4)",
			site(
				bar(
					"ask", kind(bundle.KindConsent), slot(bundle.Bottom),
					func(n *bundle.Notice) { n.Memory = &bundle.Memory{HideAfterAnswer: "P180D"} },
				),
				bar("a", slot(bundle.Centre)),
			),
			decide.Visit{Memory: decide.Memory{Notices: map[string]decide.Acts{"ask": {Answered: noon.AddDate(0, 0, -10)}}}},
			[]string{"a"}, nil, map[string]string{"ask": "memory M1"},
		},
		{
			"a link followed (M1)",
			site(bar("a", func(n *bundle.Notice) {
				n.Memory = &bundle.Memory{
					HideAfterClick:      "P30D",
					HideAfterConversion: "ever",
				}
			})),
			decide.Visit{Memory: decide.Memory{Notices: map[string]decide.Acts{"a": {Clicked: noon.AddDate(0, 0, -29)}}}}, nil,
			nil, map[string]string{"a": "memory M1"},
		},
		{
			"a goal reached (M1)",
			site(bar("a", func(n *bundle.Notice) { n.Memory = &bundle.Memory{HideAfterConversion: "ever"} })),
			decide.Visit{Memory: decide.Memory{Notices: map[string]decide.Acts{"a": {Converted: noon.AddDate(-3, 0, 0)}}}}, nil,
			nil, map[string]string{"a": "memory M1"},
		},
		{
			"below the limit (M2)", site(bar("a", limits(bundle.Limit{Times: 3, Per: "P7D"}))),
			decide.Visit{Memory: shown(day, 2*day)}, []string{"a"}, nil, nil,
		},
		{
			"at the limit (M2)", site(bar("a", limits(bundle.Limit{Times: 3, Per: "P7D"}))),
			decide.Visit{Memory: shown(day, 2*day, 6*day)}, nil, nil, map[string]string{"a": "memory M2"},
		},
		{
			"a showing that has fallen out of the period (M2)", site(bar("a", limits(bundle.Limit{Times: 3, Per: "P7D"}))),
			decide.Visit{Memory: shown(day, 2*day, 7*day)}, []string{"a"}, nil, nil,
		},
		{
			"the showing on this page view is the one decided on (M2)",
			site(bar("a", limits(bundle.Limit{Times: 3, Per: "P7D"}))), decide.Visit{Memory: shown(day, 2*day, 30*time.Second)},
			[]string{"a"}, nil, nil,
		},
		{
			"all limits hold together (M2)",
			site(bar("a", limits(bundle.Limit{Times: 3, Per: "P7D"}, bundle.Limit{Times: 1, Per: "session"}))),
			decide.Visit{Memory: shown(30 * time.Minute)}, nil, nil, map[string]string{"a": "memory M2"},
		},
		{
			"another session (M2)", site(bar("a", limits(bundle.Limit{Times: 1, Per: "session"}))),
			decide.Visit{Memory: shown(2 * time.Hour)}, []string{"a"}, nil, nil,
		},
		{"pages by query", site(bar("a", func(n *bundle.Notice) {
			n.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.Query, Name: "from"}}}
		})), decide.Visit{URL: "/book?from=x"}, []string{"a"}, nil, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			c.visit.At = noon
			if c.visit.URL == "" {
				c.visit.URL = "/"
			}
			require.NoError(t, c.visit.Check())
			s := compile(t, c.in)
			r := s.Explain(c.visit)
			assert.ElementsMatch(t, c.show, ids(r.Show))
			var waits []string
			for _, w := range r.Waiting {
				waits = append(waits, w.ID)
				assert.NotNil(t, w.Remainder)
			}
			assert.Equal(t, c.wait, waits)
			held := map[string]string{}
			for _, h := range r.Held {
				held[h.ID] = string(h.Gate) + " " + h.Rule
			}
			if c.held == nil {
				c.held = map[string]string{}
			}
			assert.Equal(t, c.held, held)
			for _, a := range r.Explain {
				for _, st := range a.Steps {
					assert.Regexp(t, `^[A-Z“].*\.$`, st.Why, "a sentence")
				}
			}
		})
	}
}

func TestAudienceIsExplained(t *testing.T) {
	s := compile(
		t,
		site(
			bar("a", to(`{"all":[`+scrolled+`,`+returning+`]}`)),
			bar("b", func(n *bundle.Notice) { n.Memory = &bundle.Memory{Limits: []bundle.Limit{{Times: 3, Per: "P7D"}}} }),
		),
	)
	why := func(facts map[string]any) decide.Step {
		r := s.Explain(decide.Visit{
			At:    noon,
			URL:   "/",
			Facts: facts,
			Memory: decide.Memory{Notices: map[string]decide.Acts{"b": {Shown: []time.Time{
				noon.AddDate(0, 0, -6), noon.AddDate(0, 0, -2), noon.AddDate(0, 0, -1),
			}}}},
		})
		for _, st := range r.Explain[1].Steps {
			if st.Gate == decide.GateMemory {
				assert.Equal(
					t, "This visitor has seen it 3 times; the limit is 3 times in a week. It can come again Sat 5 Dec 12:00.", st.Why,
				)
			}
		}
		return r.Explain[0].Steps[4]
	}
	step := why(map[string]any{"view.scroll": 12.0, "visits.number": 2.0})
	assert.Equal(t, []any{
		decide.GateAudience, false, false, "/audience/all/0", "This visitor has read 12 % of the page; it waits for 30 %.",
	}, []any{step.Gate, step.Passed, step.Waits, step.Pointer, step.Why})
	step = why(map[string]any{"visits.number": 2.0})
	assert.Equal(t, []any{
		"A5", false, true, "It waits until this visitor has read 30 % of the page.",
	}, []any{step.Rule, step.Passed, step.Waits, step.Why})
	step = why(map[string]any{"view.scroll": 40.0, "visits.number": 2.0})
	assert.Equal(
		t, "It is for visitors who have read 30 % of the page and who have been here before, this visitor among them.",
		step.Why,
	)
	assert.Len(t, step.Parts, 3)
}

// Visits whose facts are not what they should be, beside one that is right.
func TestRefusedVisits(t *testing.T) {
	good := `{"at":"2026-12-04T10:00:00Z","url":"https://www.s.example/book","facts":{"device.kind":"phone",` +
		`"visits.number":2,"person.tier":"gold"}}`
	for _, c := range []struct{ facts, what string }{
		{`{"device.kinds":"phone"}`, `unknown fact "device.kinds"`},
		{`{"device.kind":"watch"}`, "one of phone, tablet, desktop"},
		{`{"visits.number":"two"}`, "a number"},
		{`{"visits.number":1.5}`, "a whole number"},
		{`{"view.scroll":140}`, "from 0 to 100"},
		{`{"page.tags":"winter"}`, "a list of text"},
		{`{"locale.zone":"Europe/Atlantis"}`, "not an IANA zone name"},
	} {
		var v decide.Visit
		require.NoError(t, json.Unmarshal([]byte(good), &v))
		require.NoError(t, v.Check())
		v.Facts = nil
		require.NoError(t, json.Unmarshal([]byte(c.facts), &v.Facts))
		assert.ErrorContains(t, v.Check(), c.what)
	}
}

// Whom there is no room for is whom the explanation holds back at the slot.
func TestHeldBack(t *testing.T) {
	s := compile(
		t,
		site(
			bar("a", rank(90)), bar("b", rank(80)), bar("c", rank(70)), bar("d", rank(60), to(returning)),
			bar("e", rank(50), to(`{"all":[`+scrolled+`,`+returning+`]}`)), bar("f", closed("P1D")), bar("g", except("/")),
			bar("h", windows(schedule.Window{From: "2026-12-04T18:00"})),
		),
	)
	for _, facts := range []map[string]any{{}, {"visits.number": 2.0}, {"visits.number": 2.0, "view.scroll": 50.0}} {
		v := decide.Visit{
			At:     noon,
			URL:    "/",
			Facts:  facts,
			Memory: decide.Memory{Notices: map[string]decide.Acts{"f": {Closed: noon}}},
		}
		var want []string
		for _, h := range s.Explain(v).Held {
			if h.Rule == "D2" {
				want = append(want, h.ID)
			}
		}
		d, got := s.DecideWithHeldBack(v)
		assert.Equal(t, want, got, facts)
		assert.Equal(t, s.Decide(v), d)
	}
}
