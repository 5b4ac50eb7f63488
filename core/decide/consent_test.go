package decide_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/decide"
)

func asking(n *bundle.Notice) { n.Kind = bundle.KindConsent }

// sets gives a site something to ask about.
func sets(b bundle.Bundle) bundle.Bundle {
	b.Site.Consent = &consent.Setup{Purposes: []consent.Purpose{{ID: "measurement"}, {ID: "marketing"}},
		Inventory: []consent.Item{
			{Kind: consent.Cookie, Name: "tw", Purpose: "measurement"},
			{Kind: consent.Cookie, Name: "gnt", Purpose: "marketing"},
		}}
	return b
}

// What a decision says of consent: whether the question shows, by which rule,
// what may go ahead, and until when that holds.
func TestConsentInDecisions(t *testing.T) {
	yes := consent.Answer{
		At:      noon.AddDate(0, 0, -10),
		Granted: []string{"measurement"},
		Refused: []string{"marketing"},
		Of:      sets(site()).Site.Consent.Marks(),
	}
	summer := time.Date(2027, 5, 23, 11, 0, 0, 0, time.UTC) // calendar days: noon in London is an hour earlier then
	middle := func(n *bundle.Notice) { n.Slot = bundle.Centre }
	never := func(n *bundle.Notice) { n.State = bundle.Draft }
	from := func(country, region string) map[string]any {
		return map[string]any{"place.country": country, "place.region": region}
	}
	for _, c := range []struct {
		name    string
		notices []bundle.Notice
		visit   decide.Visit
		shows   []string
		granted []string // nil where nothing is asked
		held    string   // of the consent notice, as gate, rule and sentence
		until   time.Time
	}{
		{
			"an open question", []bundle.Notice{bar("ask", asking)}, decide.Visit{}, []string{"ask"}, []string{"necessary"}, "",
			time.Time{},
		},
		{
			"what stands in the middle waits for it (D4)", []bundle.Notice{bar("ask", asking), bar("card", middle)},
			decide.Visit{}, []string{"ask"}, []string{"necessary"}, "", time.Time{},
		},
		{
			"and comes once it is answered, which holds for 180 days", []bundle.Notice{bar("ask", asking), bar("card", middle)},
			decide.Visit{Memory: decide.Memory{Consent: yes}}, []string{"card"}, []string{"necessary", "measurement"},
			"memory K2 The visitor has answered, and the answer holds until 23 May 2027.", summer,
		},
		{
			"where it is only told nothing waits", []bundle.Notice{bar("ask", asking), bar("card", middle)},
			decide.Visit{Facts: from("US", "US-CA")}, []string{"ask", "card"}, []string{"necessary", "measurement", "marketing"},
			"", time.Time{},
		},
		{
			"seen again by wish it holds nothing up", []bundle.Notice{bar("ask", asking), bar("card", middle)},
			decide.Visit{Again: true, Memory: decide.Memory{Consent: yes}}, []string{"ask", "card"},
			[]string{"necessary", "measurement"}, "", summer,
		},
		{
			"on a page that it leaves out what was answered holds", []bundle.Notice{bar("ask", asking, except("/"))},
			decide.Visit{Memory: decide.Memory{Consent: yes}}, nil, []string{"necessary", "measurement"},
			"pages P1 It leaves out the page /, so it is not on /.", summer,
		},
		{
			"there nothing waits for it", []bundle.Notice{bar("ask", asking, except("/")), bar("card", middle)}, decide.Visit{},
			[]string{"card"}, []string{"necessary"}, "pages P1 It leaves out the page /, so it is not on /.", time.Time{},
		},
		{
			"a draft asks nobody", []bundle.Notice{bar("ask", asking, never)}, decide.Visit{}, nil, nil,
			"state G2 It is a draft. Visitors see it once you publish it.", time.Time{},
		},
	} {
		s := compile(t, sets(site(c.notices...)))
		c.visit.URL, c.visit.At = "/", noon
		r := s.Explain(c.visit)
		assert.ElementsMatch(t, c.shows, ids(r.Show), c.name)
		if c.granted == nil {
			assert.Nil(t, r.Consent, c.name)
		} else if assert.NotNil(t, r.Consent, c.name) {
			assert.Equal(t, c.granted, r.Consent.Granted, c.name)
		}
		held := ""
		for _, h := range r.Held {
			if h.ID == "ask" {
				held = string(h.Gate) + " " + h.Rule + " " + h.Why
			}
		}
		assert.Equal(t, c.held, held, c.name)
		if c.until.IsZero() {
			assert.Nil(t, r.ValidUntil, c.name)
		} else if assert.NotNil(t, r.ValidUntil, c.name) {
			assert.True(t, c.until.Equal(*r.ValidUntil), "%s: %s", c.name, r.ValidUntil)
		}
	}

	// A place that wants nothing is the audience's gate.
	b := sets(site(bar("ask", asking)))
	b.Site.Consent.Places = []consent.PlaceRule{{Place: "XX", Rule: consent.Nothing}}
	r := compile(t, b).Explain(decide.Visit{URL: "/", At: noon, Facts: from("XX", "")})
	require.Len(t, r.Held, 1)
	assert.Equal(t, decide.Held{
		ID:   "ask",
		Gate: decide.GateAudience,
		Rule: "K1",
		Why:  "In XX nothing is asked and nothing is told.",
	}, r.Held[0])

	// The facts that audiences ask about follow from the answer; and the server is
	// asked where visitors are.
	var granted, answered bundle.Notice
	require.NoError(
		t, json.Unmarshal([]byte(`{"audience":{"fact":"consent.granted","is":"has","value":"measurement"}}`), &granted),
	)
	require.NoError(t, json.Unmarshal([]byte(`{"audience":{"fact":"consent.answered","is":"unset"}}`), &answered))
	s := compile(
		t,
		sets(site(
			bar("ask", asking), bar("thanks", func(n *bundle.Notice) { n.Audience = granted.Audience }),
			bar("please", func(n *bundle.Notice) { n.Audience = answered.Audience; n.Slot = bundle.CornerEnd }),
		)),
	)
	assert.ElementsMatch(t, []string{"ask", "please"}, ids(s.Decide(decide.Visit{URL: "/", At: noon}).Show))
	assert.ElementsMatch(t, []string{"thanks"}, ids(s.Decide(decide.Visit{
		URL:    "/",
		At:     noon,
		Memory: decide.Memory{Consent: yes},
	}).Show))
	assert.Subset(t, s.Wants(), []string{"place.country", "place.region", "consent.signal"})
	assert.Empty(t, compile(t, site(bar("a"))).Wants(), "nobody is located where nothing is asked")

	// A visit without memory, as a viewpoint has it, can say what was agreed to.
	r = s.Explain(decide.Visit{URL: "/", At: noon, Facts: map[string]any{"consent.granted": []any{"measurement"}}})
	assert.Equal(t, []string{"necessary", "measurement"}, r.Consent.Granted)
	assert.True(t, r.Consent.Answered)
	assert.ElementsMatch(t, []string{"thanks"}, ids(r.Show))

	// A rehearsal shows it whatever was answered.
	first, err := decide.CompileFirst(sets(site(bar("ask", asking))), "ask")
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"ask"}, ids(first.Decide(decide.Visit{
		URL:    "/",
		At:     noon,
		Memory: decide.Memory{Consent: yes},
	}).Show))
}

// A question makes others wait only where it shows, and goes before everything below
// emergency in its slot (rules D1, D2, D4); whoever wants it again gets it, whatever
// they did before (rule K4).
func TestQuestionsWithoutRoom(t *testing.T) {
	notice := func(id, kind, more string) string {
		return fmt.Sprintf(
			`{"id":%q,"kind":%q,"state":"published","publishedAt":"2026-11-01T10:00:00Z","pages":{"include":[{"match":"all"}]},
			"content":{"wordings":{"en":{"message":"x"}}}%s}`,
			id, kind, more,
		)
	}
	ask := func(more string) string { return notice("ask", "consent", `,"slot":"bottom"`+more) }
	popUp := notice("pop", "pop-up", `,"slot":"centre"`)
	at := time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	closed := decide.Memory{Notices: map[string]decide.Acts{"ask": {
		Closed: at.Add(-time.Hour), Answered: at.Add(-time.Hour), Shown: []time.Time{
			at.Add(-time.Minute), at.Add(-2 * time.Minute),
		},
	}}}
	const memory = `,"memory":{"closed":"P1D","answered":"P1D","limits":[{"times":1,"per":"P1D"}]}`
	for _, c := range []struct {
		name, site, notices string
		visit               decide.Visit
		shows, held         string
	}{
		{"it shows, and others wait", "", ask("") + "," + popUp, decide.Visit{}, "ask", "pop D4"},
		{"nothing may stand there", `,"capacity":{"bottom":0}`, ask("") + "," + popUp, decide.Visit{}, "pop", "ask D2"},
		{
			"an emergency has the place", "",
			ask("") + "," + popUp + "," + notice("storm", "alert", `,"level":"emergency","slot":"bottom"`), decide.Visit{},
			"storm pop", "ask D2",
		},
		{
			"a warning of the highest rank gives way", "",
			ask("") + "," + popUp + "," + notice("fog", "alert", `,"level":"warning","rank":100,"slot":"bottom"`),
			decide.Visit{}, "ask", "fog D2, pop D4",
		},
		{
			"its own level does not count", "",
			ask(`,"level":"promotion"`) + "," + notice("fog", "alert", `,"level":"warning","slot":"bottom"`), decide.Visit{},
			"ask", "fog D2",
		},
		{
			"on another page it makes nobody wait", "",
			strings.Replace(ask(""), `"match":"all"`, `"match":"page","path":"/book"`, 1) + "," + popUp, decide.Visit{}, "pop",
			"ask P1",
		},
		{
			"closed, it stays away and makes nobody wait", "", ask(memory) + "," + popUp, decide.Visit{Memory: closed}, "pop",
			"ask M1",
		},
		{
			"wanted again, it is there", "", ask(memory) + "," + popUp, decide.Visit{Memory: closed, Again: true}, "ask pop", "",
		},
	} {
		b, err := bundle.Parse(fmt.Appendf(
			nil, `{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"UTC","language":"en",
			"consent":{"purposes":[{"id":"measurement"}]}%s},"notices":[%s]}`,
			c.site, c.notices,
		))
		require.NoError(t, err, c.name)
		s, err := decide.Compile(b)
		require.NoError(t, err, c.name)
		c.visit.At, c.visit.URL, c.visit.Facts = at, "/", map[string]any{"place.country": "DE"}
		res := s.Explain(c.visit)
		var shows, held []string
		for _, n := range res.Show {
			shows = append(shows, n.ID)
		}
		for _, h := range res.Held {
			held = append(held, h.ID+" "+h.Rule)
		}
		assert.Equal(t, c.shows, strings.Join(shows, " "), c.name)
		slices.Sort(held)
		assert.Equal(t, c.held, strings.Join(held, ", "), c.name)
		for _, a := range res.Explain {
			_, failed := a.Reason()
			assert.Equal(t, a.Shows, !failed, "%s: %s", c.name, a.ID)
			if a.ID == "ask" && a.Shows {
				assert.True(t, slices.ContainsFunc(a.Steps, func(s decide.Step) bool { return s.Rule == "K4" && s.Passed }), c.name)
			}
		}
	}
}

// A limit frees again when fewer showings than it allows are left in the period
// (rule M2).
func TestWhenALimitFrees(t *testing.T) {
	at := time.Date(2026, 12, 4, 11, 0, 0, 0, time.UTC)
	minutes := func(list ...int) (out []time.Time) {
		for _, m := range list {
			out = append(out, at.Add(-time.Duration(m)*time.Minute))
		}
		return out
	}
	for times, want := range map[int]string{
		1: "It can come again Fri 4 Dec 11:50.",
		2: "It can come again Fri 4 Dec 11:30.",
		3: "It can come again Fri 4 Dec 11:05.",
	} {
		b, err := bundle.Parse(fmt.Appendf(
			nil, `{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"UTC","language":"en"},"notices":[
			{"id":"n","kind":"bar","state":"published","publishedAt":"2026-11-01T10:00:00Z",`+
				`"pages":{"include":[{"match":"all"}]},
			"memory":{"limits":[{"times":%d,"per":"PT1H"}]},"content":{"wordings":{"en":{"message":"x"}}}}]}`,
			times,
		))
		require.NoError(t, err)
		s, err := decide.Compile(b)
		require.NoError(t, err)
		res := s.Explain(decide.Visit{
			At:     at,
			URL:    "/",
			Memory: decide.Memory{Notices: map[string]decide.Acts{"n": {Shown: minutes(10, 55, 30)}}},
		})
		require.Len(t, res.Held, 1)
		assert.Contains(t, res.Held[0].Why, want)
	}
}
