package server_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/findings"
	"mastflag/core/pages"
	"mastflag/core/rights"
	"mastflag/core/schedule"
	"mastflag/internal/access"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/notices"
	"mastflag/internal/admin/now"
	"mastflag/internal/admin/people"
	"mastflag/internal/admin/sites"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/clock"
	"mastflag/internal/delivery"
	"mastflag/internal/demo"
	"mastflag/internal/demosite"
	"mastflag/internal/importing"
	"mastflag/internal/problem"
	"mastflag/internal/server"
	"mastflag/internal/sources"
	"mastflag/internal/store"
	"mastflag/internal/survey"
)

var regexpAsset = regexp.MustCompile(`/a/site\.[0-9a-f]{16}\.js`)

var start = time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)

// bench is a running program with one site, and someone signed in to it.
type bench struct {
	t      testing.TB
	dir    string
	clock  *clock.Settable
	door   *clock.Settable // of sign-in and sessions
	server *server.Server
	url    string
	client *http.Client
}

const origin = "https://www.s.example"

// beside are the tests that run beside others.
var beside sync.Map

func newBench(t testing.TB) *bench {
	t.Helper()
	if test, ok := t.(*testing.T); ok { // each bench has a folder and a clock of its own
		if _, again := beside.LoadOrStore(test, true); !again {
			test.Parallel()
		}
	}
	b := &bench{t: t, dir: t.TempDir(), clock: &clock.Settable{}, door: &clock.Settable{}}
	b.clock.StandStill(start)
	b.door.StandStill(start)
	st, err := store.Open(t.Context(), b.dir)
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	require.NoError(t, st.AddPerson(t.Context(), store.Person{
		Email:    "ines@s.example",
		Name:     "Ines",
		Role:     rights.Administrator,
		Password: hashed(t, "right"),
	}))
	site := bundle.Site{
		Key:       "s",
		Name:      "S",
		TimeZone:  "Europe/London",
		Language:  "en",
		FillIns:   &bundle.FillIns{Telephone: "+44 1632 960100", Email: "office@s.example", Address: "1 Quay"},
		Languages: []string{"en"},
		Origins:   []string{origin},
	}
	require.NoError(t, st.AddSite(t.Context(), site))
	require.NoError(t, st.PutPages(t.Context(), "s", []store.Page{
		{Page: bundle.Page{Path: "/"}}, {Page: bundle.Page{Path: "/book"}},
	}, time.Time{}))
	b.server, err = server.New(t.Context(), st, server.Options{
		Base:         "http://notices.example",
		Clock:        b.clock,
		Settable:     b.clock,
		SessionClock: b.door,
		Sources:      sources.Options{Proxies: []string{"127.0.0.1"}},
	})
	require.NoError(t, err)
	hs := httptest.NewServer(b.server.Handler)
	t.Cleanup(hs.Close)
	b.url = hs.URL
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	b.client = &http.Client{Jar: jar}
	return b
}

// served is the address of an empty program that believes to be at base.
func served(t *testing.T, base string) string {
	t.Helper()
	st, err := store.Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	s, err := server.New(t.Context(), st, server.Options{Base: base, Clock: clock.System{}})
	require.NoError(t, err)
	hs := httptest.NewServer(s.Handler)
	t.Cleanup(hs.Close)
	return hs.URL
}

// hashed is the hash of a password.
func hashed(t testing.TB, password string) string {
	t.Helper()
	h, err := access.HashPassword(t.Context(), password)
	require.NoError(t, err)
	return h
}

// call makes a call of the API and reads what it answers into out.
func (b *bench) call(method, path string, in, out any) (status int) {
	b.t.Helper()
	var body io.Reader
	switch in := in.(type) {
	case nil:
	case string:
		body = strings.NewReader(in)
	default:
		raw, err := json.Marshal(in)
		require.NoError(b.t, err)
		body = bytes.NewReader(raw)
	}
	r, err := http.NewRequest(method, b.url+path, body)
	require.NoError(b.t, err)
	res, err := b.client.Do(r)
	require.NoError(b.t, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(b.t, err)
	if p, ok := out.(*problem.Problem); ok {
		assert.Equal(b.t, "application/problem+json", res.Header.Get("Content-Type"), string(raw))
		require.NoError(b.t, json.Unmarshal(raw, p))
		assert.Equal(b.t, res.StatusCode, p.Status, "RFC 9457 §3.1.2")
	} else if out != nil {
		require.Equal(b.t, http.StatusOK, res.StatusCode, string(raw))
		require.NoError(b.t, json.Unmarshal(raw, out))
	}
	return res.StatusCode
}

func (b *bench) signIn() *bench {
	b.t.Helper()
	require.Equal(b.t, http.StatusOK, b.call("POST", "/api/sign-in", people.Credentials{
		Email:    "ines@s.example",
		Password: "right",
	}, nil))
	return b
}

// begin begins a bar that says hello, and returns it.
func (b *bench) begin(title string) notices.NoticeDetail {
	b.t.Helper()
	var d notices.NoticeDetail
	b.call("POST", "/api/sites/s/notices", notices.NewNotice{Title: title}, &d)
	return b.write(d, "Hello")
}

// write changes what a notice says.
func (b *bench) write(d notices.NoticeDetail, message string) notices.NoticeDetail {
	b.t.Helper()
	d.Notice.Content = &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: message}}}
	var out notices.NoticeDetail
	b.call("PUT", "/api/sites/s/notices/"+d.Notice.ID, notices.NoticeChange{
		Revision: d.Card.Revision,
		Notice:   d.Notice,
	}, &out)
	return out
}

func (b *bench) act(d notices.NoticeDetail, what string) notices.NoticeDetail {
	b.t.Helper()
	var out notices.NoticeDetail
	b.call("POST", "/api/sites/s/notices/"+d.Notice.ID+"/"+what, notices.Step{Revision: d.Card.Revision}, &out)
	return out
}

// visit asks for a decision as a page of the origin does.
func (b *bench) visit(from, body string) (int, string, http.Header) {
	b.t.Helper()
	r, err := http.NewRequest("POST", b.url+"/d/s", strings.NewReader(body))
	require.NoError(b.t, err)
	if from != "" {
		r.Header.Set("Origin", from)
	}
	res, err := http.DefaultClient.Do(r)
	require.NoError(b.t, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(b.t, err)
	if res.StatusCode == http.StatusOK { // what was joined is of the shape that the site script is told of
		d := json.NewDecoder(bytes.NewReader(raw))
		d.DisallowUnknownFields()
		require.NoError(b.t, d.Decode(new(delivery.Answer)), string(raw))
	}
	return res.StatusCode, string(raw), res.Header
}

func TestTheDoor(t *testing.T) {
	b := newBench(t)
	var p problem.Problem
	b.call("GET", "/api/me", nil, &p)
	assert.Equal(t, 401, p.Status)
	for range 2 {
		b.call("POST", "/api/sign-in", people.Credentials{Email: "ines@s.example", Password: "wrong"}, &p)
		assert.Equal(t, 401, p.Status)
		b.call("POST", "/api/sign-in", people.Credentials{Email: "nobody@s.example", Password: "right"}, &p)
		assert.Equal(t, "The address or the password is not right.", p.Detail, "it does not say which")
	}
	b.signIn()
	var me people.Me
	b.call("GET", "/api/me", nil, &me)
	assert.Equal(t, "Ines", me.Person.Name)

	// A request that another site makes in the same browser.
	r, err := http.NewRequest("POST", b.url+"/api/sites/s/display", strings.NewReader(`{"revision":1,"on":false}`))
	require.NoError(t, err)
	r.Header.Set("Origin", "https://evil.example")
	r.Header.Set("Sec-Fetch-Site", "cross-site")
	res, err := b.client.Do(r)
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 403, res.StatusCode)

	require.Equal(t, 200, b.call("POST", "/api/sign-out", nil, nil))
	assert.Equal(t, 401, b.call("GET", "/api/me", nil, nil))

	for range 6 {
		b.call("POST", "/api/sign-in", people.Credentials{Email: "ines@s.example", Password: "wrong"}, nil)
	}
	b.call("POST", "/api/sign-in", people.Credentials{Email: "ines@s.example", Password: "right"}, &p)
	assert.Equal(t, 429, p.Status, "after many tries even the right password has to wait")
	b.door.Set(b.door.Now().Add(time.Minute))
	b.signIn()
}

func TestLifeOfANotice(t *testing.T) {
	b := newBench(t).signIn()
	d := b.begin("Storm closure")
	assert.Equal(t, "storm-closure", d.Notice.ID)
	assert.Equal(t, viewpoint.FlagDraft, d.Card.Flag)
	_, body, _ := b.visit(origin, `{"url":"/"}`)
	assert.Contains(t, body, `"show":[]`, "visitors do not see a draft")

	d = b.act(d, "publish")
	assert.Equal(t, viewpoint.FlagLive, d.Card.Flag)
	_, body, _ = b.visit(origin, `{"url":"/"}`)
	assert.Contains(t, body, "Hello")

	d = b.write(d, "Changed")
	assert.True(t, d.Card.HasDraft)
	_, body, _ = b.visit(origin, `{"url":"/"}`)
	assert.Contains(t, body, "Hello", "what is out is not altered by editing")
	assert.NotContains(t, body, "Changed")
	d = b.act(d, "publish")
	_, body, _ = b.visit(origin, `{"url":"/"}`)
	assert.Contains(t, body, "Changed")

	d = b.act(d, "pause")
	assert.Equal(t, viewpoint.FlagPaused, d.Card.Flag)
	_, body, _ = b.visit(origin, `{"url":"/"}`)
	assert.Contains(t, body, `"show":[]`)
	d = b.act(d, "resume")

	d = b.write(d, "Third")
	d = b.act(d, "discard")
	assert.Equal(t, "Changed", d.Notice.Content.Wordings["en"].Message)

	var h notices.History
	b.call("GET", "/api/sites/s/notices/storm-closure/history", nil, &h)
	acts := []string{}
	var first int64
	for _, l := range h.Lines {
		acts = append(acts, l.Act)
		assert.Equal(t, "Ines", l.Who)
		assert.True(t, strings.HasPrefix(l.Line, "Show this bar at the top of every page"), l.Line)
		if l.Number == 1 && l.Restorable {
			first = l.ID
		}
	}
	assert.Equal(t, []string{
		"discarded the draft", "began a draft of the next version", "resumed it", "paused it", "published it",
		"began a draft of the next version", "published it", "began it",
	}, acts)
	var back notices.NoticeDetail
	b.call("POST", "/api/sites/s/notices/storm-closure/restore", notices.Step{
		Revision: d.Card.Revision,
		History:  first,
	}, &back)
	assert.Equal(t, "Hello", back.Notice.Content.Wordings["en"].Message)
	assert.True(t, back.Card.HasDraft)

	d = b.act(back, "unpublish")
	assert.Equal(t, viewpoint.FlagDraft, d.Card.Flag)
	var copied notices.NoticeDetail
	b.call("POST", "/api/sites/s/notices", notices.NewNotice{CopyOf: "storm-closure"}, &copied)
	assert.Equal(t, "Copy of Storm closure", copied.Notice.Title)
	assert.Equal(t, "Hello", copied.Notice.Content.Wordings["en"].Message)

	require.Equal(
		t, 200, b.call("POST", "/api/sites/s/notices/storm-closure/delete", notices.Step{Revision: d.Card.Revision}, nil),
	)
	assert.Equal(t, 404, b.call("GET", "/api/sites/s/notices/storm-closure", nil, nil))
	require.Equal(t, 200, b.call("POST", "/api/sites/s/notices/storm-closure/undelete", notices.Step{}, nil))
	assert.Equal(t, 200, b.call("GET", "/api/sites/s/notices/storm-closure", nil, nil))
}

func TestPublishedVersionsAreFinal(t *testing.T) {
	b := newBench(t).signIn()
	b.act(b.begin("a"), "publish")
	_, err := b.server.Store.DB().Exec("UPDATE version SET doc = '{}'")
	assert.ErrorContains(t, err, "never altered")
}

func TestStaleWriteLosesNothing(t *testing.T) {
	b := newBench(t).signIn()
	mine := b.begin("a")
	theirs := b.write(mine, "Theirs")
	mine.Notice.Content = &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "Mine"}}}
	var p problem.Problem
	b.call("PUT", "/api/sites/s/notices/a", notices.NoticeChange{Revision: mine.Card.Revision, Notice: mine.Notice}, &p)
	assert.Equal(t, 409, p.Status)
	assert.Equal(t, theirs.Card.Revision, p.Revision)

	var now notices.NoticeDetail
	b.call("GET", "/api/sites/s/notices/a", nil, &now)
	assert.Equal(t, "Theirs", now.Notice.Content.Wordings["en"].Message)
	var h notices.History
	b.call("GET", "/api/sites/s/notices/a/history", nil, &h)
	assert.Equal(t, "wrote this while someone else changed it", h.Lines[0].Act)
	var back notices.NoticeDetail
	b.call("POST", "/api/sites/s/notices/a/restore", notices.Step{
		Revision: now.Card.Revision,
		History:  h.Lines[0].ID,
	}, &back)
	assert.Equal(t, "Mine", back.Notice.Content.Wordings["en"].Message, "the refused text can be gone back to")

	for _, act := range []string{"publish", "pause", "unpublish", "delete"} {
		assert.Equal(t, 409, b.call("POST", "/api/sites/s/notices/a/"+act, notices.Step{Revision: 1}, nil), act)
	}
	assert.Equal(t, 409, b.call("PUT", "/api/sites/s", sites.SiteChange{
		Revision: 99,
		Site:     bundle.Site{Key: "s", Name: "S", TimeZone: "UTC", Language: "en"},
	}, nil))
}

func TestBadInputOfTheAPI(t *testing.T) {
	b := newBench(t).signIn()
	d := b.begin("a")
	put := func(alter func(*bundle.Notice)) problem.Problem {
		n := d.Notice
		alter(&n)
		var p problem.Problem
		b.call("PUT", "/api/sites/s/notices/a", notices.NoticeChange{Revision: d.Card.Revision, Notice: n}, &p)
		return p
	}
	say := func(w bundle.Wording) func(*bundle.Notice) {
		return func(n *bundle.Notice) { n.Content = &bundle.Content{Wordings: map[string]bundle.Wording{"en": w}} }
	}
	for _, c := range []struct {
		name           string
		p              problem.Problem
		status         int
		pointer, words string
	}{
		{
			"a link and a longer message", put(say(bundle.Wording{Message: "a", Link: &bundle.Link{Href: "/"}, Details: "b"})),
			422, "/content/wordings/en/details", "not both",
		},
		{
			"a long message", put(say(bundle.Wording{Message: strings.Repeat("a", 30000)})), 422, "/content/wordings/en/message",
			"too long",
		},
		{"10 MB", put(say(bundle.Wording{Message: strings.Repeat("a", 10<<20)})), 413, "", "1 MB"},
		{"a slot that is none", put(func(n *bundle.Notice) { n.Slot = "left" }), 422, "/slot", "not accepted"},
		{
			"a period that is none", put(func(n *bundle.Notice) { n.Memory = &bundle.Memory{HideAfterClose: "a while"} }), 422,
			"/memory/closed", "ISO 8601",
		},
	} {
		assert.Equal(t, c.status, c.p.Status, c.name)
		assert.Contains(t, c.p.Detail, c.words, c.name)
		if c.pointer != "" && assert.NotEmpty(t, c.p.Faults, c.name) {
			assert.Equal(t, c.pointer, c.p.Faults[0].Pointer, c.name)
		}
	}
	var p problem.Problem
	for path, in := range map[string]string{
		"/api/sites/s/notices/a/publish": `{"revision":1,"force":true}`,
		"/api/sites/s/notices/a/pause":   `{"revision":`,
		"/api/clock":                     `{"at":"noon"}`,
	} {
		b.call("POST", path, in, &p)
		assert.Equal(t, 400, p.Status, path)
	}
	for _, q := range []string{
		"at=noon", "zone=Mars", "page=book", "from=2026-12-05T00:00:00Z&until=2026-12-04T00:00:00Z",
	} {
		assert.Equal(t, 400, b.call("GET", "/api/sites/s/view?"+q, nil, nil), q)
	}
	assert.Equal(t, 404, b.call("GET", "/api/sites/none/view", nil, nil))
	assert.Equal(t, 404, b.call("GET", "/api/nothing", nil, nil))

	// Script in a message is taken out, and it is said.
	out := b.write(d, `<p onclick="x()">Hello<script>alert(1)</script></p>`)
	assert.Equal(t, "<p>Hello</p>", out.Notice.Content.Wordings["en"].Message)
	assert.Equal(t, []string{"<script>", "onclick on <p>"}, out.Removed)

	// Nothing said, nowhere shown: not published.
	empty := b.write(out, "")
	b.call("POST", "/api/sites/s/notices/a/publish", notices.Step{Revision: empty.Card.Revision}, &p)
	assert.Equal(t, 422, p.Status)
	assert.Contains(t, p.Detail, "says nothing yet")
}

// A decision that takes more than a packet is packed for whoever wants that, and is the same.
func TestDecisionsArePacked(t *testing.T) {
	b := newBench(t).signIn()
	b.act(b.begin("a"), "publish")
	decision := func(accepts string) (http.Header, []byte) {
		r, err := http.NewRequest(http.MethodPost, b.url+"/d/s", strings.NewReader(`{"url":"https://s.example/"}`))
		require.NoError(t, err)
		r.Header.Set("Origin", "https://s.example")
		r.Header.Set("Accept-Encoding", accepts)
		res, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		defer res.Body.Close()
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Equal(t, 200, res.StatusCode, string(body))
		return res.Header, body
	}
	h, small := decision("gzip, br")
	assert.Empty(t, h.Get("Content-Encoding"), "%d bytes fit a packet", len(small))
	row, err := b.server.Store.Notice(t.Context(), "s", "a")
	require.NoError(t, err)
	site, err := b.server.Store.Site(t.Context(), "s")
	require.NoError(t, err)
	large := row.Out()
	large.ID, large.State = "large", bundle.Published
	large.Content = &bundle.Content{Wordings: map[string]bundle.Wording{
		"en": {Message: "<p>" + strings.Repeat("Many words. ", 300) + "</p>"},
	}}
	_, err = importing.Bundle(t.Context(), b.server.Store, bundle.Bundle{
		Format: bundle.Format, Site: site.Site, Notices: []bundle.Notice{large},
	}, store.By{Name: "test"}, start)
	require.NoError(t, err)
	require.NoError(t, b.server.Hub.Reload(t.Context(), "s"))
	_, plain := decision("identity")
	h, packed := decision("gzip, br")
	assert.Equal(t, "gzip", h.Get("Content-Encoding"))
	assert.Less(t, len(packed), len(plain)/4)
	r, err := gzip.NewReader(bytes.NewReader(packed))
	require.NoError(t, err)
	again, err := io.ReadAll(r)
	require.NoError(t, err)
	at := regexp.MustCompile(`"(at|mark)":[^,]+`)
	assert.True(t, at.ReplaceAllString(string(plain), "") == at.ReplaceAllString(string(again), ""))
}

// Of what a page says it has only its tag comes again, with what is of that page alone; what has changed comes whole.
func TestWhatAPageHasIsNotSentAgain(t *testing.T) {
	b := newBench(t).signIn()
	ferries, versions := demo.Bundle("http://127.0.0.1:1", b.url, start)
	require.NoError(t, b.server.Store.AddSite(t.Context(), ferries.Site))
	for id, list := range versions {
		for _, v := range list {
			require.NoError(t, b.server.Store.AddDocumentVersion(t.Context(), demo.Key, id, v))
		}
	}
	_, err := importing.Bundle(t.Context(), b.server.Store, ferries, store.By{Name: "test"}, start)
	require.NoError(t, err)
	require.NoError(t, b.server.Hub.Reload(t.Context(), demo.Key))
	type shown struct{ ID, Tag, HTML string }
	type decision struct {
		Show, Waiting []shown
		Consent       struct{ Part map[string]any }
	}
	ask := func(have ...string) (d decision, size int) {
		body, err := json.Marshal(map[string]any{"url": "http://127.0.0.1:1/timetables", "have": have})
		require.NoError(t, err)
		r, err := http.NewRequest(http.MethodPost, b.url+"/d/"+demo.Key, bytes.NewReader(body))
		require.NoError(t, err)
		r.Header.Set("Origin", "http://127.0.0.1:1")
		res, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		defer res.Body.Close()
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Equal(t, 200, res.StatusCode, string(raw))
		require.NoError(t, json.Unmarshal(raw, &d))
		return d, len(raw)
	}
	first, whole := ask()
	require.Greater(t, len(first.Show), 2)
	tags := []string{first.Consent.Part["tag"].(string)}
	for _, n := range append(first.Show, first.Waiting...) {
		assert.Regexp(t, "^[0-9a-f]{10}$", n.Tag)
		assert.NotEmpty(t, n.HTML)
		tags = append(tags, n.Tag)
	}
	second, short := ask(tags...)
	require.Len(t, second.Show, len(first.Show))
	for i, n := range append(second.Show, second.Waiting...) {
		assert.Equal(t, shown{ID: append(first.Show, first.Waiting...)[i].ID, Tag: tags[i+1]}, n)
	}
	assert.Equal(t, map[string]any{"tag": tags[0]}, second.Consent.Part)
	t.Logf("%d bytes, then %d", whole, short)
	assert.Less(t, short, whole/4)

	third, _ := ask(append([]string{"", tags[1] + "0", strings.Repeat("x", 9000)}, tags[2:]...)...)
	assert.Equal(t, first.Show[0], third.Show[0], "the page does not have this one")
	assert.Empty(t, third.Show[1].HTML)
	long := make([]string, 40, 41)
	fourth, _ := ask(append(long, tags[1])...)
	assert.Equal(t, first.Show[0], fourth.Show[0], "so many tags count")
}

func TestDelivery(t *testing.T) {
	b := newBench(t).signIn()
	b.act(b.begin("a"), "publish")
	for _, from := range []string{origin, "https://s.example", "https://www.s.example:443"} {
		status, body, h := b.visit(from, `{"url":"https://www.s.example/"}`)
		assert.Equal(t, 200, status)
		assert.Equal(t, from, h.Get("Access-Control-Allow-Origin"))
		assert.Equal(t, "Origin", h.Get("Vary"))
		assert.Contains(t, body, "Hello")
		var answer struct {
			At    int64            `json:"at"`
			Until *int64           `json:"until"`
			Show  []map[string]any `json:"show"`
		}
		require.NoError(t, json.Unmarshal([]byte(body), &answer))
		assert.InDelta(t, start.UnixMilli(), answer.At, 60_000, "the program's clock")
	}
	for _, c := range []struct {
		name, from, body string
		status           int
	}{
		{"a foreign origin", "https://evil.example", `{"url":"/"}`, 403},
		{"the same host by another scheme", "http://www.s.example", `{"url":"/"}`, 403},
		{"no origin", "", `{"url":"/"}`, 403},
		{"an origin that is none", "null", `{"url":"/"}`, 403},
		{"broken JSON", origin, `{"url":`, 400},
		{"not a visit", origin, `{}`, 400},
		{"a wrong instant", origin, `{"url":"/","memory":{"view":"noon"}}`, 400},
		{"an unknown fact", origin, `{"url":"/","facts":{"shoe.size":44}}`, 400},
		{"too much", origin, `{"url":"/` + strings.Repeat("x", 70_000) + `"}`, 413},
		{"a forged preview", origin, `{"url":"/","preview":"x.y"}`, 410},
	} {
		status, body, _ := b.visit(c.from, c.body)
		assert.Equal(t, c.status, status, c.name)
		var p problem.Problem
		require.NoError(t, json.Unmarshal([]byte(body), &p), c.name)
		assert.NotEmpty(t, p.Detail, c.name)
	}
	r, err := http.NewRequest("OPTIONS", b.url+"/d/s", nil)
	require.NoError(t, err)
	r.Header.Set("Origin", origin)
	res, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 204, res.StatusCode)
	assert.Equal(t, "POST", res.Header.Get("Access-Control-Allow-Methods"))
	assert.Equal(t, 404, b.call("GET", "/s/none.js", nil, nil))

	res, err = http.Get(b.url + "/s/s.js")
	require.NoError(t, err)
	code, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	res.Body.Close()
	assert.Contains(t, res.Header.Get("Cache-Control"), "max-age=300")
	if name := regexpAsset.FindString(string(code)); assert.NotEmpty(
		t, name, "the interface and the site script must be built first: make build",
	) {
		r, err = http.NewRequest("GET", b.url+name, nil)
		require.NoError(t, err)
		r.Header.Set("Accept-Encoding", "br, gzip")
		res, err = http.DefaultTransport.RoundTrip(r)
		require.NoError(t, err)
		res.Body.Close()
		assert.Equal(t, "br", res.Header.Get("Content-Encoding"))
		assert.Contains(t, res.Header.Get("Cache-Control"), "immutable")
		assert.Equal(t, 404, b.call("GET", "/a/sight.0000000000000000.js", nil, nil))
		// A page that holds the loader of another version gets what there is now, and does not keep it.
		status, now := b.read("/a/site.0000000000000000.js")
		assert.Equal(t, 200, status)
		_, current := b.read(name)
		assert.Equal(t, current, now)
	}
}

func TestPreviewLinks(t *testing.T) {
	b := newBench(t).signIn()
	d := b.begin("a")
	var link notices.PreviewLink
	b.call("POST", "/api/sites/s/notices/a/preview", base.Moment{Page: "/book"}, &link)
	page, token, ok := strings.Cut(link.Address, "#mastflag-preview=")
	assert.Equal(t, "https://s.example/app#/ports?mastflag-preview=a%2Bb",
		delivery.PreviewAddress("https://s.example/app#/ports", "a+b"))
	require.True(t, ok)
	assert.Equal(t, origin+"/book", page)
	ask := `{"url":"/book","preview":"` + token + `"}`
	status, body, _ := b.visit(origin, ask)
	assert.Equal(t, 200, status)
	assert.Contains(t, body, "Hello", "the draft is seen by the link")
	assert.Contains(t, body, `"preview":`)
	_, body, _ = b.visit(origin, `{"url":"/book"}`)
	assert.NotContains(t, body, "Hello", "and by nobody else")
	b.write(d, "Later words")
	_, body, _ = b.visit(origin, ask)
	assert.Contains(t, body, "Later words", "the link shows the draft as it is now")

	status, _, _ = b.visit(origin, strings.Replace(ask, token, token[:len(token)-4]+"AAAA", 1))
	assert.Equal(t, 410, status, "forged")
	b.clock.Set(b.clock.Now().Add(24*time.Hour + time.Second))
	status, body, _ = b.visit(origin, ask)
	assert.Equal(t, 410, status)
	assert.Contains(t, body, "no longer works")
}

func TestMasterSwitch(t *testing.T) {
	b := newBench(t).signIn()
	b.act(b.begin("a"), "publish")
	var site sites.SiteDetail
	b.call("POST", "/api/sites/s/display", sites.DisplaySwitch{Revision: 1, On: false}, &site)
	_, body, _ := b.visit(origin, `{"url":"/"}`)
	assert.Contains(t, body, `"show":[]`)
	b.call("POST", "/api/sites/s/display", sites.DisplaySwitch{Revision: site.Revision, On: true}, &site)
	_, body, _ = b.visit(origin, `{"url":"/"}`)
	assert.Contains(t, body, "Hello")
}

func TestSurveyReadsTheSite(t *testing.T) {
	b := newBench(t).signIn()
	demo := demosite.New(`<script src="http://notices.example/s/s.js" async></script>`, "http://notices.example", "")
	var asked atomic.Int64
	outside := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch {
		case r.URL.Path == "/book": // a page that someone forgot
			io.WriteString(w, `<html lang=en><title>Booking</title><meta http-equiv="content-security-policy" content="`+
				`script-src &quot;x&quot; 'none'"><body><meta http-equiv="Content-Security-Policy" content="img-src 'none'">`+
				`<a class=x href="#/cabins"><a HREF='/app/#!/cars?from=a&amp;b'><a href=#top><a data-href="#/no"><a href=`+
				`"http://other.example/#/x"><a href=#/cabins/>Cabins</a><a href="#/">Home</a><a href="#/%zz"><a href="#/cars">`+
				`<a href="#/fares">`)
			return
		case strings.HasPrefix(r.URL.Path, "/de/"): // this one has policies of its own
			had := httptest.NewRecorder()
			demo.ServeHTTP(had, r)
			w.Header().Set("Content-Security-Policy", fmt.Sprintf("default-src 'self', script-src 'nonce-%d'", asked.Add(1)))
			io.Copy(w, had.Body)
			return
		case r.URL.Path == "/fares":
			had := httptest.NewRecorder()
			demo.ServeHTTP(had, r)
			w.Header().Set("Content-Security-Policy", "default-src * 'unsafe-inline'")
			w.Header().Set("Content-Security-Policy-Report-Only", "default-src 'none'")
			io.Copy(w, had.Body)
			return
		}
		demo.ServeHTTP(w, r)
	}))
	defer outside.Close()
	b.server.Survey.Surveyor = survey.New(to(outside.URL))
	site := bundle.Site{Key: "s", Name: "S", TimeZone: "Europe/London", Language: "en", Origins: []string{outside.URL}}
	require.Equal(t, 200, b.call("PUT", "/api/sites/s", sites.SiteChange{Revision: 1, Site: site}, nil))
	var d sites.SiteDetail
	// A block’s spot is looked for on the pages that are read.
	n := b.begin("block")
	n.Notice.Slot, n.Notice.Spot = bundle.Inline, &bundle.Spot{Selector: "main > h1"}
	n.Notice.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}}
	n = b.act(b.write(n, "Hello"), "publish")
	assert.Empty(t, n.Unplaced, "nothing was read yet")
	b.call("POST", "/api/sites/s/survey", sites.SurveyAsk{}, &d)
	b.call("GET", "/api/sites/s/notices/block", nil, &n)
	assert.Equal(t, []string{"/book"}, n.Unplaced)
	assert.True(t, slices.ContainsFunc(n.Findings, func(f findings.Finding) bool {
		return f.Code == findings.NoSpot && strings.Contains(f.What, "has no spot on /book,")
	}), n.Findings)
	assert.Len(t, d.Pages, 66, "a sitemap index of three packed sitemaps (sitemaps.org protocol)")
	for _, p := range d.Pages {
		want := store.SnippetFound
		if p.Path == "/book" {
			want = store.SnippetMissing
		}
		assert.Equal(t, want, p.Snippet, p.Path)
		if p.Path == "/de/ports" {
			assert.Equal(t, "de", p.Language)
			assert.Equal(t, "Häfen", p.Title)
		}
	}
	// Under which policies the lines do not work as they are.
	german := 0
	for _, p := range d.Pages {
		if strings.HasPrefix(p.Path, "/de/") {
			german++
		}
	}
	require.Len(t, d.Survey.Policies, 5)
	require.Len(t, d.Policies, 4, "one lets everything through")
	own, self, nonce, none := d.Policies[0], d.Policies[1], d.Policies[2], d.Policies[3]
	assert.Equal(t, []int{64 - german, german, german, 1}, []int{own.Pages, self.Pages, nonce.Pages, none.Pages})
	assert.Equal(t, "/book", none.Page)
	assert.Equal(t, []bool{false, false, true, false}, []bool{own.Nonce, self.Nonce, nonce.Nonce, none.Nonce})
	assert.Equal(t, []int{1, 3, 0, 1}, []int{len(own.Add), len(self.Add), len(nonce.Add), len(none.Add)})
	assert.Contains(t, none.Policy, d.ScriptSource)
	// And which pages behind a # are linked to.
	assert.Equal(t, []string{"/book#/cabins", "/app#!/cars", "/book#/cars"}, d.Survey.Routes)

	outside.Close()
	var p problem.Problem
	b.call("POST", "/api/sites/s/survey", sites.SurveyAsk{}, &p)
	assert.Equal(t, 502, p.Status)
	assert.Contains(t, p.Detail, "pages known before are kept")
}

func TestBackupWhileRunningAndFollowingOtherProcesses(t *testing.T) {
	b := newBench(t).signIn()
	b.act(b.begin("a"), "publish")
	path := filepath.Join(t.TempDir(), "copy", store.FileName)
	require.NoError(t, os.Mkdir(filepath.Dir(path), 0o700))
	require.NoError(t, b.server.Store.Backup(t.Context(), path))
	require.ErrorContains(t, b.server.Store.Backup(t.Context(), path), "exists already")
	copied, err := store.Open(t.Context(), filepath.Dir(path))
	require.NoError(t, err)
	defer copied.Close()
	kept, err := copied.Notices(t.Context(), "s")
	require.NoError(t, err)
	require.Len(t, kept, 1)

	w, err := b.server.Store.Watch(t.Context())
	require.NoError(t, err)
	defer w.Close()
	other, err := store.Open(t.Context(), b.dir)
	require.NoError(t, err)
	defer other.Close()
	for _, want := range []bool{true, false} { // whoever begins to watch knows of nothing before
		changed, err := w.Changed(t.Context())
		require.NoError(t, err)
		assert.Equal(t, want, changed)
	}
	require.NoError(t, other.PutPages(t.Context(), "s", nil, time.Time{}))
	after, err := w.Changed(t.Context())
	require.NoError(t, err)
	assert.True(t, after)
}

func TestHealthAndTheInterface(t *testing.T) {
	b := newBench(t)
	assert.Equal(t, 200, b.call("GET", "/healthz", nil, nil))
	assert.Equal(t, 200, b.call("GET", "/readyz", nil, nil))
	res, err := http.Get(b.url + "/s/anything/of/the/interface")
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 200, res.StatusCode)
	assert.Contains(t, res.Header.Get("Content-Security-Policy"), "script-src 'self'")
	require.NoError(t, b.server.Store.Close())
	assert.Equal(t, 503, b.call("GET", "/readyz", nil, nil))
}

func TestProductionsClockCannotBeSet(t *testing.T) {
	b := newBench(t)
	srv, err := server.New(t.Context(), b.server.Store, server.Options{
		Base:  "http://notices.example",
		Clock: clock.System{},
	})
	require.NoError(t, err)
	hs := httptest.NewServer(srv.Handler)
	defer hs.Close()
	b.url = hs.URL
	b.signIn()
	var me people.Me
	b.call("GET", "/api/me", nil, &me)
	assert.False(t, me.ClockCanBeSet)
	assert.Equal(t, 404, b.call("POST", "/api/clock", people.ClockSetting{At: "2030-01-01T00:00:00Z"}, nil))
}

func TestTheDemosClock(t *testing.T) {
	b := newBench(t).signIn()
	require.Equal(t, 200, b.call("POST", "/api/clock", people.ClockSetting{At: "2030-01-01T00:00:00Z"}, nil))
	var v now.View
	b.call("GET", "/api/sites/s/view", nil, &v)
	assert.Equal(t, 2030, v.Now.Year())
	require.Equal(t, 200, b.call("POST", "/api/clock", people.ClockSetting{}, nil))
	assert.False(t, b.clock.Shifted())
}

// A clean stop finishes what it took in, and takes nothing more in.
func TestCleanStop(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	taken, release := make(chan struct{}), make(chan struct{})
	ctx, stop := context.WithCancel(t.Context())
	ended := make(chan error, 1)
	go func() {
		ended <- server.Serve(ctx, l, http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
			close(taken)
			<-release
			io.WriteString(w, "finished")
		}))
	}()
	answer := make(chan string, 1)
	go func() {
		res, err := http.Get("http://" + l.Addr().String())
		if err != nil {
			answer <- err.Error()
			return
		}
		defer res.Body.Close()
		body, _ := io.ReadAll(res.Body)
		answer <- string(body)
	}()
	<-taken
	stop()
	close(release)
	assert.Equal(t, "finished", <-answer)
	assert.NoError(t, <-ended)
	_, err = net.Dial("tcp", l.Addr().String())
	assert.Error(t, err)
}

// What `mastflag import` writes while the program runs is out within moments.
func TestImportsOfAnotherProcessAreFollowed(t *testing.T) {
	b := newBench(t)
	other, err := store.Open(t.Context(), b.dir)
	require.NoError(t, err)
	defer other.Close()
	by := func(words string) {
		t.Helper()
		in, err := bundle.Parse([]byte(`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"UTC",` +
			`"language":"en","origins":["` + origin + `"]},
		 "notices":[{"id":"a","kind":"bar","state":"published","publishedAt":"2026-01-01T00:00:00Z",` +
			`"pages":{"include":[{"match":"all"}]},"content":{"wordings":{"en":{"message":"` + words + `"}}}}]}`))
		require.NoError(t, err)
		_, err = importing.Bundle(t.Context(), other, in, store.By{Name: "import"}, start)
		require.NoError(t, err)
	}
	shows := func(words string) {
		t.Helper()
		require.Eventually(t, func() bool {
			_, body, _ := b.visit(origin, `{"url":"/"}`)
			return strings.Contains(body, words)
		}, 10*time.Second, 50*time.Millisecond)
	}
	by("While it starts") // the program has read its sites, and does not follow yet
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	ctx, stop := context.WithCancel(t.Context())
	ended := make(chan error, 1)
	go func() { ended <- b.server.Run(ctx, l) }()
	defer func() { stop(); assert.NoError(t, <-ended) }()
	b.url = "http://" + l.Addr().String()
	shows("While it starts")
	by("While it runs")
	shows("While it runs")
}

func TestBeginningWithASite(t *testing.T) {
	b := newBench(t).signIn()
	var d sites.SiteDetail
	b.call("POST", "/api/sites", sites.NewSite{
		Name:     "Pfarrei St. Märten",
		Address:  "HTTPS://www.Pfarrei.Example/start",
		TimeZone: "Europe/Berlin",
		Language: "de",
	}, &d)
	assert.Equal(t, "pfarrei-st-marten", d.Site.Key)
	assert.Equal(t, []string{"https://www.pfarrei.example"}, d.Site.Origins)
	assert.Contains(t, d.Snippet, "http://notices.example/s/pfarrei-st-marten.js")
	b.call("POST", "/api/sites", sites.NewSite{
		Name:     "Pfarrei St. Märten",
		Address:  "x.example",
		TimeZone: "Europe/Berlin",
	}, &d)
	assert.Equal(t, "pfarrei-st-marten-2", d.Site.Key)
	for _, bad := range []sites.NewSite{
		{Name: "", Address: "https://x.example", TimeZone: "UTC"},
		{Name: "X", Address: "ftp://x.example", TimeZone: "UTC"},
		{Name: "X", Address: "", TimeZone: "UTC"},
		{Name: "X", Address: "https://x.example", TimeZone: "Mars"},
		{Name: "X", Address: "https://x.example", TimeZone: "UTC", Language: "d_e"},
	} {
		assert.Equal(t, 422, b.call("POST", "/api/sites", bad, nil), bad)
	}
	var me people.Me
	b.call("GET", "/api/me", nil, &me)
	assert.Len(t, me.Sites, 3)

	var c viewpoint.Contrast
	b.call("GET", "/api/contrast?background=%23ffffff&text=%23777777", nil, &c)
	assert.False(t, c.Passes)
	assert.Equal(t, 422, b.call("GET", "/api/contrast?background=white&text=black", nil, nil))
}

// The viewpoint's moment may be a local time of the site; its strip shows
// what the core computed.
func TestView(t *testing.T) {
	b := newBench(t).signIn()
	d := b.begin("a")
	d.Notice.Schedule = &schedule.Plan{Windows: []schedule.Window{{From: "2027-03-28T00:30", Until: "2027-03-28T02:30"}}}
	b.call("PUT", "/api/sites/s/notices/a", notices.NoticeChange{Revision: d.Card.Revision, Notice: d.Notice}, &d)
	b.act(d, "publish")
	var v now.View
	b.call("GET", "/api/sites/s/view?at=2027-03-28T02:15&page=/book", nil, &v)
	assert.Equal(t, "2027-03-28T01:15:00Z", v.At.Format(time.RFC3339), "02:15 is summer time already")
	assert.Equal(t, []string{"a"}, v.Shows)
	assert.Equal(t, viewpoint.FlagLive, v.Notices[0].Flag)
	assert.Equal(t, 2, v.Notices[0].OnPages)
	require.Len(t, v.Notices[0].Intervals, 1)
	assert.Equal(t, time.Hour, v.Notices[0].Intervals[0].Until.Sub(v.Notices[0].Intervals[0].From))
	require.Len(t, v.ClockChanges, 1)
	assert.Equal(t, schedule.ClockChange{At: time.Date(2027, 3, 28, 1, 0, 0, 0, time.UTC), Minutes: 60}, v.ClockChanges[0])
	require.Len(t, v.Next, 1)
	assert.False(t, v.Next[0].Starts)
	b.call("GET", "/api/sites/s/view?at=2027-03-28T02:30", nil, &v)
	assert.Equal(t, viewpoint.FlagEnded, v.Notices[0].Flag)
	assert.Empty(t, v.Shows)
	var c now.Carried
	b.call("GET", "/api/sites/s/carried?at=2027-03-28T02:15", nil, &c)
	assert.Equal(t, []string{"a"}, c.Sets[c.Pages[1].Set].Shows)
}

// The log of a thousand calls hides what failed.
func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelError + 1})))
	access.MakeHashesCheap()
	os.Exit(m.Run())
}
