package decide_test

import (
	"encoding/json"
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
		Inventory: []consent.Item{{Kind: consent.Cookie, Name: "tw", Purpose: "measurement"}, {Kind: consent.Cookie, Name: "gnt", Purpose: "marketing"}}}
	return b
}

// What a decision says of consent: whether the question shows, by which rule,
// what may go ahead, and until when that holds.
func TestConsentInDecisions(t *testing.T) {
	yes := consent.Answer{At: noon.AddDate(0, 0, -10), Granted: []string{"measurement"}, Refused: []string{"marketing"}, Of: sets(site()).Site.Consent.Marks()}
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
		{"an open question", []bundle.Notice{bar("ask", asking)}, decide.Visit{}, []string{"ask"}, []string{"necessary"}, "", time.Time{}},
		{"what stands in the middle waits for it (D4)", []bundle.Notice{bar("ask", asking), bar("card", middle)}, decide.Visit{}, []string{"ask"}, []string{"necessary"}, "", time.Time{}},
		{"and comes once it is answered, which holds for 180 days", []bundle.Notice{bar("ask", asking), bar("card", middle)}, decide.Visit{Memory: decide.Memory{Consent: yes}}, []string{"card"}, []string{"necessary", "measurement"},
			"memory K2 The visitor has answered, and the answer holds until 23 May 2027.", summer},
		{"where it is only told nothing waits", []bundle.Notice{bar("ask", asking), bar("card", middle)}, decide.Visit{Facts: from("US", "US-CA")}, []string{"ask", "card"}, []string{"necessary", "measurement", "marketing"}, "", time.Time{}},
		{"seen again by wish it holds nothing up", []bundle.Notice{bar("ask", asking), bar("card", middle)}, decide.Visit{Again: true, Memory: decide.Memory{Consent: yes}}, []string{"ask", "card"}, []string{"necessary", "measurement"}, "", summer},
		{"on a page that it leaves out what was answered holds", []bundle.Notice{bar("ask", asking, except("/"))}, decide.Visit{Memory: decide.Memory{Consent: yes}}, nil, []string{"necessary", "measurement"}, "pages P1 It leaves out the page /, so it is not on /.", summer},
		{"there nothing waits for it", []bundle.Notice{bar("ask", asking, except("/")), bar("card", middle)}, decide.Visit{}, []string{"card"}, []string{"necessary"}, "pages P1 It leaves out the page /, so it is not on /.", time.Time{}},
		{"a draft asks nobody", []bundle.Notice{bar("ask", asking, never)}, decide.Visit{}, nil, nil, "state G2 It is a draft. Visitors see it once you publish it.", time.Time{}},
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
	assert.Equal(t, decide.Held{ID: "ask", Gate: decide.GateAudience, Rule: "K1", Why: "In XX nothing is asked and nothing is told."}, r.Held[0])

	// The facts that audiences ask about follow from the answer; and the server is
	// asked where visitors are.
	var granted, answered bundle.Notice
	require.NoError(t, json.Unmarshal([]byte(`{"audience":{"fact":"consent.granted","is":"has","value":"measurement"}}`), &granted))
	require.NoError(t, json.Unmarshal([]byte(`{"audience":{"fact":"consent.answered","is":"unset"}}`), &answered))
	s := compile(t, sets(site(bar("ask", asking), bar("thanks", func(n *bundle.Notice) { n.Audience = granted.Audience }), bar("please", func(n *bundle.Notice) { n.Audience = answered.Audience; n.Slot = bundle.CornerEnd }))))
	assert.ElementsMatch(t, []string{"ask", "please"}, ids(s.Decide(decide.Visit{URL: "/", At: noon}).Show))
	assert.ElementsMatch(t, []string{"thanks"}, ids(s.Decide(decide.Visit{URL: "/", At: noon, Memory: decide.Memory{Consent: yes}}).Show))
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
	assert.ElementsMatch(t, []string{"ask"}, ids(first.Decide(decide.Visit{URL: "/", At: noon, Memory: decide.Memory{Consent: yes}}).Show))
}
