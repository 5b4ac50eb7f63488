package server_test

import (
	"encoding/json"
	"io"
	"net/http"
	"net/url"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/core/schedule"
	"mastflag/internal/admin/notices"
	"mastflag/internal/admin/now"
	"mastflag/internal/admin/sites"
	"mastflag/internal/problem"
)

// reply is what delivery answers, as far as it is looked at here.
type reply struct {
	Show    []struct{ ID string }
	Waiting []struct {
		ID        string
		Order     int
		Keep      []string
		Remainder audience.Node
	}
	Capacity map[string]int
	Wants    string
}

// change changes a notice's draft.
func (b *bench) change(d notices.NoticeDetail, change func(*bundle.Notice)) notices.NoticeDetail {
	b.t.Helper()
	change(&d.Notice)
	var out notices.NoticeDetail
	b.call("PUT", "/api/sites/s/notices/"+d.Notice.ID, notices.NoticeChange{
		Revision: d.Card.Revision,
		Notice:   d.Notice,
	}, &out)
	return out
}

func TestDeliveryOfWhatWaits(t *testing.T) {
	b := newBench(t).signIn()
	ask := func(body string) (r reply) {
		status, raw, _ := b.visit(origin, body)
		require.Equal(t, 200, status, raw)
		require.NoError(t, json.Unmarshal([]byte(raw), &r))
		return r
	}
	d := b.act(b.begin("Plain"), "publish")
	r := ask(`{"url":"/"}`)
	assert.Empty(t, r.Waiting)
	nothing := r.Wants
	require.Regexp(t, `^[0-9a-f]{8}:$`, nothing, "nobody asks about anything")
	assert.Empty(t, ask(`{"url":"/","wants":"`+nothing[:8]+`"}`).Wants, "what is known is not said again")

	d = b.change(d, func(n *bundle.Notice) {
		n.Audience = &audience.Node{
			Group: audience.All,
			Parts: []audience.Node{
				{Fact: "visits.number", Is: audience.Gte, Value: 2}, {Fact: "view.scroll", Is: audience.Gte, Value: 30},
				{Fact: "device.kind", Is: audience.Ne, Value: "phone"}, {Fact: "event.booking.count", Is: audience.Eq, Value: 0},
				{Fact: "referrer.class", Is: audience.Eq, Value: "direct"}, {Fact: "person.tier", Is: audience.Ne, Value: "gold"},
			},
		}
		n.Memory = &bundle.Memory{Limits: []bundle.Limit{{Times: 3, Per: "P7D"}}}
	})
	b.act(d, "publish")
	r = ask(`{"url":"/","wants":"` + nothing[:8] + `","facts":{"visits.number":2}}`)
	require.Len(t, r.Waiting, 1)
	assert.Equal(t, audience.Node{Fact: "view.scroll", Is: audience.Gte, Value: 30.0}, r.Waiting[0].Remainder)
	assert.Equal(t, []string{"shown"}, r.Waiting[0].Keep)
	assert.Equal(t, 2, r.Capacity["top"])
	assert.Contains(
		t, r.Wants, ":event.booking,person.tier,referrer.url,visits.number", "what only the page can tell, and no more",
	)
	assert.Len(t, ask(`{"url":"/","facts":{"visits.number":2,"view.scroll":40}}`).Show, 1)
	assert.Empty(t, ask(`{"url":"/","facts":{"visits.number":1}}`).Waiting)
	assert.Empty(
		t,
		ask(
			`{"url":"/","facts":{"visits.number":2,"device.kind":"phone","referrer.url":"https://www.search.example/"}}`,
		).Waiting,
		"what the server knows, it knows better",
	)

	for _, bad := range []string{
		`{"url":"/","facts":{"visits.number":"two"}}`, `{"url":"/","facts":{"nonsense":1}}`,
		`{"url":"/","facts":{"view.scroll":-1}}`,
	} {
		status, raw, _ := b.visit(origin, bad)
		assert.Equal(t, 400, status, raw)
	}
}

func TestInterfaceOfAudiencesAndRepeats(t *testing.T) {
	b := newBench(t).signIn()
	var facts notices.FactList
	b.call("GET", "/api/facts", nil, &facts)
	assert.Len(t, facts.Facts, len(audience.Facts))
	for _, e := range facts.Examples {
		raw, err := json.Marshal(e.Facts)
		require.NoError(t, err)
		var v now.View
		b.call("GET", "/api/sites/s/view?visitor="+url.QueryEscape(string(raw)), nil, &v)
	}

	d := b.begin("Fridays")
	d = b.change(d, func(n *bundle.Notice) {
		n.Schedule = &schedule.Plan{Windows: []schedule.Window{{
			From:  "2026-10-23T22:00",
			Until: "2026-10-25T04:00",
			Rule:  "FREQ=WEEKLY;BYDAY=FR",
		}}}
		n.Audience = &audience.Node{Fact: "visits.number", Is: audience.Gte, Value: 2}
	})
	require.Len(t, d.Times, 1)
	assert.Equal(t, "every Friday 22:00 to 04:00 2 days later, from 23 Oct", d.Times[0].Words)
	require.Len(t, d.Times[0].Next, 5)
	assert.Equal(t, 6*30.0, d.Hours, "six Fridays lie on the strip, a week back and five on")
	assert.Equal(t, notices.Occurrence{From: "2026-12-04T22:00", Until: "2026-12-06T04:00"}, d.Times[0].Next[0])
	var early notices.NoticeDetail
	b.call("GET", "/api/sites/s/notices/fridays?at=2026-10-20T12:00", nil, &early)
	assert.Equal(t, "The clock goes back within it: it lasts 60 minutes more.", early.Times[0].Next[0].Clock)
	var as notices.NoticeDetail
	b.call(
		"GET", "/api/sites/s/notices/fridays?at=2026-12-05T12:00&visitor="+url.QueryEscape(`{"visits.number":1}`), nil, &as,
	)
	assert.Equal(t, "The visit number is 1; it needs to be at least 2.", as.Rehearsal.Steps[4].Why)

	var p problem.Problem
	for query, says := range map[string]string{
		`visitor={"visits.number":"two"}`: "is to be a number",
		`visitor=[1]`:                     "JSON object of facts",
		`visitor={"x":1}`:                 "unknown fact",
	} {
		b.call("GET", "/api/sites/s/view?"+url.PathEscape(query), nil, &p)
		assert.Equal(t, 400, p.Status)
		assert.Contains(t, p.Detail, says)
	}
	// What is wrong is said with where it stands, and nothing is lost.
	bad := d.Notice
	bad.Schedule = &schedule.Plan{Windows: []schedule.Window{{
		From:  "2026-10-23T22:00",
		Until: "2026-10-25T04:00",
		Rule:  "FREQ=SECONDLY",
	}}}
	b.call("PUT", "/api/sites/s/notices/fridays", notices.NoticeChange{Revision: d.Card.Revision, Notice: bad}, &p)
	assert.Equal(t, 422, p.Status)
	assert.Equal(t, "/schedule/windows/0/rule", p.Faults[0].Pointer)
	deep := `{"revision":1,"notice":{"id":"x","kind":"bar","audience":`
	for range 5000 {
		deep += `{"all":[`
	}
	b.call("PUT", "/api/sites/s/notices/fridays", deep, &p)
	assert.Equal(t, 422, p.Status)
	assert.Contains(t, p.Detail, "nested more than 100 deep")
	var same notices.NoticeDetail
	b.call("GET", "/api/sites/s/notices/fridays", nil, &same)
	assert.Equal(t, d.Notice, same.Notice)
}

// The part for pop-ups is named by the loader, fetched as a module from
// another origin, and kept for ever.
func TestPopupPart(t *testing.T) {
	b := newBench(t)
	res, err := http.Get(b.url + "/s/s.js")
	require.NoError(t, err)
	loader, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	res.Body.Close()
	name := regexp.MustCompile(`/a/popup\.[0-9a-f]{16}\.js`).FindString(string(loader))
	require.NotEmpty(t, name, string(loader))
	res, err = http.Get(b.url + name)
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 200, res.StatusCode)
	assert.Equal(t, "*", res.Header.Get("Access-Control-Allow-Origin"))
	assert.Contains(t, res.Header.Get("Cache-Control"), "immutable")
}

// What is kept for use in many notices: who uses it is said, and it cannot be
// taken from under them.
func TestSavedForUseAgain(t *testing.T) {
	b := newBench(t).signIn()
	var d sites.SiteDetail
	b.call("GET", "/api/sites/s", nil, &d)
	site := d.Site
	site.Audiences = []audience.SavedAudience{{
		Name:     "regulars",
		Audience: audience.Node{Fact: "visits.number", Is: audience.Gte, Value: 5},
	}}
	site.PageSets = []pages.SavedSet{{
		Name:       "books",
		Conditions: pages.Conditions{Include: []pages.Entry{{Match: pages.Page, Path: "/book"}}},
	}}
	b.call("PUT", "/api/sites/s", sites.SiteChange{Revision: d.Revision, Site: site}, &d)
	b.change(b.begin("One"), func(n *bundle.Notice) {
		n.Audience = &audience.Node{Group: audience.Any, Parts: []audience.Node{{Saved: "regulars"}}}
		n.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.InSet, Name: "books"}}}
	})
	b.call("GET", "/api/sites/s", nil, &d)
	assert.Equal(t, []sites.Saved{
		{
			Kind:   "audience",
			Name:   "regulars",
			Words:  "visitors who have been here at least 4 times before",
			UsedBy: []string{"One"},
		},
		{Kind: "page set", Name: "books", Words: "the page /book", UsedBy: []string{"One"}},
	}, d.Saved)
	var p problem.Problem
	for _, take := range []func(*bundle.Site){
		func(s *bundle.Site) { s.Audiences = nil }, func(s *bundle.Site) { s.PageSets = nil },
	} {
		less := d.Site
		take(&less)
		b.call("PUT", "/api/sites/s", sites.SiteChange{Revision: d.Revision, Site: less}, &p)
		assert.Equal(t, 422, p.Status)
		assert.Contains(t, p.Detail, "“One” could not be read any more")
	}
}
