package server_test

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	netmail "net/mail"
	"net/netip"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/core/rights"
	"mastflag/core/schedule"
	"mastflag/internal/access"
	"mastflag/internal/admin/library"
	"mastflag/internal/admin/notices"
	"mastflag/internal/admin/now"
	"mastflag/internal/admin/people"
	"mastflag/internal/admin/sites"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/importing"
	"mastflag/internal/outbound"
	"mastflag/internal/problem"
	"mastflag/internal/standin"
	"mastflag/internal/store"
	"mastflag/internal/survey"
)

// as returns someone of a role on some sites who is signed in; nobody if role is "".
func (b *bench) as(role string, sites ...string) *http.Cookie {
	b.t.Helper()
	if role == "" {
		return &http.Cookie{Name: "mastflag", Value: "a guess"}
	}
	p := store.Person{Email: role + strings.Join(sites, "-") + "@s.example", Name: role, Role: role, Sites: sites}
	if _, err := b.server.Store.Person(b.t.Context(), p.Email); err != nil {
		require.NoError(b.t, b.server.Store.AddPerson(b.t.Context(), p))
	}
	w := httptest.NewRecorder()
	require.NoError(b.t, b.server.Access.Begin(b.t.Context(), w, p, access.From{Address: netip.MustParseAddr("9.9.9.9")}))
	return w.Result().Cookies()[0]
}

// Every route for every kind of caller, made from the table of routes: who may
// not is told so before anything is looked at, and nothing is changed; who may is
// let through to what the route does.
func TestEveryRouteAndEveryCaller(t *testing.T) {
	b := newBench(t).signIn()
	b.begin("Hello")
	require.NoError(t, b.server.Store.AddSite(t.Context(), bundle.Site{
		Key:      "other",
		Name:     "Other",
		TimeZone: "UTC",
		Language: "en",
	}))
	require.NoError(t, b.server.Hub.ReloadAll(t.Context()))
	callers := []struct {
		says, role string
		sites      []string
	}{
		{"a stranger", "", nil},
		{"a viewer of the site", rights.Viewer, []string{"s"}},
		{"a viewer of another", rights.Viewer, []string{"other"}},
		{"an editor of the site", rights.Editor, []string{"s"}},
		{"an editor of another", rights.Editor, []string{"other"}},
		{"an administrator of the site", rights.Administrator, []string{"s"}},
		{"an administrator of another", rights.Administrator, []string{"other"}},
		{"an administrator of all sites", rights.Administrator, nil},
	}
	state := func() string {
		var out string
		require.NoError(
			t,
			b.server.Store.DB().QueryRow(`SELECT (SELECT group_concat(doc || revision) FROM site) || (SELECT group_concat(id `+
				`|| revision || state) FROM notice) || (SELECT count(*) FROM history) ||
			(SELECT group_concat(email || role || sites || password) FROM person) || (SELECT count(*) FROM invitation) || `+
				`(SELECT count(*) FROM message) || (SELECT count(*) FROM image) || (SELECT group_concat(path) FROM page)`,
			).Scan(&out),
		)
		return out
	}
	refused, let := 0, 0
	for _, caller := range callers {
		for _, r := range b.server.Admin.Routes() {
			path := strings.NewReplacer(":site", "s", ":notice", "hello").Replace(r.Path)
			says := fmt.Sprintf("%s: %s %s", caller.says, r.Method, r.Path)
			ofSite := strings.Contains(r.Path, ":site")
			here := !ofSite || len(caller.sites) == 0 || caller.sites[0] == "s"
			may := r.Open || caller.role != "" && here && rights.May(caller.role, r.Needs) &&
				(!r.Contacts || caller.role == rights.Administrator) // nobody else was given the right
			cookie := b.as(caller.role, caller.sites...)
			before := state()
			// What is no JSON: so that nothing is done by those who may.
			req, err := http.NewRequest(r.Method, b.url+path, strings.NewReader("not json"))
			require.NoError(t, err)
			req.AddCookie(cookie)
			res, err := http.DefaultClient.Do(req)
			require.NoError(t, err)
			body, err := io.ReadAll(res.Body)
			require.NoError(t, err)
			res.Body.Close()
			assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"), says)
			assert.Equal(t, "no-store", res.Header.Get("Cache-Control"), says)
			gate := res.StatusCode == http.StatusUnauthorized || res.StatusCode == http.StatusForbidden ||
				res.StatusCode == http.StatusNotFound && !here
			if !may {
				refused++
				assert.True(t, gate, "%s: %d %s", says, res.StatusCode, body)
				assert.Equal(t, before, state(), says)
				continue
			}
			let++
			assert.False(t, gate, "%s: %d %s", says, res.StatusCode, body)
		}
	}
	t.Logf("%d calls refused, %d let through", refused, let)
	assert.Greater(t, refused, 250)
}

// Where what people type comes out as something else, it comes out as itself: a
// table of the places, each tried with every hostile value, is in hostile_test.go.

// Pages tell no more than they may: of one network, and of one site in all; what
// is refused says when to come again, and others go on.
func TestFloods(t *testing.T) {
	b := newBench(t)
	b.asking()
	_, body, _ := b.visit(origin, `{"url":"/"}`)
	var d struct{ Consent struct{ Hash, Mark string } }
	require.NoError(t, json.Unmarshal([]byte(body), &d))
	n := 0
	tell := func(address string) *http.Response {
		n++
		r, err := http.NewRequest(
			"POST", b.url+"/r/s?mark="+d.Consent.Mark,
			strings.NewReader(fmt.Sprintf(
				`{"id":"%032x","hash":"%s","granted":[],"refused":["measurement","marketing"],"how":"button","page":"/"}`, n,
				d.Consent.Hash,
			)),
		)
		require.NoError(t, err)
		r.Header.Set("Origin", origin)
		r.Header.Set("X-Forwarded-For", address)
		res, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		res.Body.Close()
		return res
	}
	taken := 0
	var last *http.Response
	for range 350 {
		if last = tell("2620:fe::1"); last.StatusCode == http.StatusNoContent {
			taken++
		}
	}
	assert.InDelta(t, 300, taken, 20)
	assert.Equal(t, http.StatusTooManyRequests, last.StatusCode)
	assert.NotEmpty(t, last.Header.Get("Retry-After"))
	assert.Equal(t, origin, last.Header.Get("Access-Control-Allow-Origin"), "the page can read why")
	assert.Equal(
		t, http.StatusTooManyRequests, tell("2620:fe::2:3:4:5").StatusCode, "another address of the same subscriber",
	)
	assert.Equal(t, http.StatusNoContent, tell("9.9.9.9").StatusCode)
	r, err := http.NewRequest("DELETE", b.url+"/r/s/"+strings.Repeat("0", 32), nil)
	require.NoError(t, err)
	r.Header.Set("Origin", origin)
	r.Header.Set("X-Forwarded-For", "2620:fe::1")
	res, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, http.StatusTooManyRequests, res.StatusCode, "erasing writes too")
	status, _, _ := b.visit(origin, `{"url":"/"}`)
	assert.Equal(t, 200, status, "reading goes on")
	b.clock.Set(b.clock.Now().Add(time.Minute))
	assert.Equal(t, http.StatusNoContent, tell("2620:fe::1").StatusCode)
}

// What the program fetches stays on the public internet, by whatever way it is
// led: reading a site, its styles, a redirect, a name for a private address.
func TestReachingInward(t *testing.T) {
	inside := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		t.Error("a private address was reached")
		io.WriteString(w, `<html><title>Secret</title>`)
	}))
	defer inside.Close()
	outside := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Path {
		case "/sitemap.xml":
			fmt.Fprintf(
				w,
				`<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"><url><loc>http://%s/led</loc></url><url><loc>`+
					`http://%s/</loc></url></urlset>`,
				r.Host, r.Host,
			)
		case "/led":
			http.Redirect(w, r, strings.Replace(inside.URL, "127.0.0.1", "inside.test", 1)+"/", http.StatusFound)
		default:
			io.WriteString(
				w,
				`<title>Home</title><link rel=stylesheet href="`+strings.Replace(inside.URL, "127.0.0.1", "inside.test", 1)+
					`/a.css">`,
			)
		}
	}))
	defer outside.Close()
	b := newBench(t).signIn()
	var p problem.Problem
	for _, address := range []string{
		inside.URL, strings.Replace(inside.URL, "127.0.0.1", "localhost", 1),
		strings.Replace(inside.URL, "127.0.0.1", "[::1]", 1), "http://169.254.169.254",
	} {
		var d sites.SiteDetail
		b.call("GET", "/api/sites/s", nil, &d)
		d.Site.Origins = []string{address}
		require.Equal(t, 200, b.call("PUT", "/api/sites/s", sites.SiteChange{Revision: d.Revision, Site: d.Site}, nil))
		assert.Equal(t, http.StatusBadGateway, b.call("POST", "/api/sites/s/survey", sites.SurveyAsk{}, &p), address)
		assert.Contains(t, p.Detail, "private network", address)
		assert.Equal(t, http.StatusBadGateway, b.call("GET", "/api/sites/s/styles", nil, &p), address)
		assert.Contains(t, p.Detail, "private network", address)
	}
	// A site that may be read leads nowhere else, though both are the same "site".
	s := survey.New(outbound.New(outbound.Options{
		Flag:    "--site-hosts",
		Allowed: []string{strings.TrimPrefix(outside.URL, "http://")},
		Names: func(host string) string {
			if strings.HasSuffix(host, ".test") {
				return "127.0.0.1"
			}
			return ""
		},
	}))
	found, err := s.Survey(t.Context(), outside.URL, survey.Sought{Marker: "/s/s.js"})
	require.NoError(t, err)
	require.Len(t, found, 2)
	assert.Contains(t, found[1].Snippet, "could not be read")
	_, _, err = s.Styles(t.Context(), outside.URL, "/")
	require.NoError(t, err)
}

// While somebody else holds the data, publishing says that nothing was changed,
// and nothing is; visitors go on getting what they got; reading goes on.
func TestPublishingWhileTheDataIsHeld(t *testing.T) {
	b := newBench(t).signIn()
	d := b.act(b.begin("Hello"), "publish")
	d = b.write(d, "Second")
	db, err := sql.Open("sqlite", "file:"+filepath.Join(b.dir, store.FileName)+"?_txlock=immediate")
	require.NoError(t, err)
	defer db.Close()
	hold, err := db.Begin()
	require.NoError(t, err)
	var p problem.Problem
	assert.Equal(
		t, http.StatusServiceUnavailable,
		b.call("POST", "/api/sites/s/notices/hello/publish", notices.Step{Revision: d.Card.Revision}, &p),
	)
	assert.Contains(t, p.Detail, "Nothing was changed")
	var v now.View
	b.call("GET", "/api/sites/s/view", nil, &v)
	require.Len(t, v.Troubles, 1)
	assert.Contains(t, v.Troubles[0], "Nothing can be kept: another program holds the data")
	status, why := b.read("/readyz")
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.Contains(t, why, "Nothing can be kept")
	_, body, _ := b.visit(origin, `{"url":"/"}`)
	assert.Contains(t, body, "Hello")
	require.NoError(t, hold.Rollback())
	var again notices.NoticeDetail
	b.call("GET", "/api/sites/s/notices/hello", nil, &again)
	assert.Equal(t, d.Card.Revision, again.Card.Revision)
	b.act(again, "publish")
	_, body, _ = b.visit(origin, `{"url":"/"}`)
	assert.Contains(t, body, "Second")
	status, _ = b.read("/readyz")
	assert.Equal(t, 200, status)
}

// A change that is kept and cannot reach visitors yet is no failure of whoever
// made it: it is said, and tried again until it has.
func TestWhatIsKeptReachesVisitorsLater(t *testing.T) {
	b := newBench(t).signIn()
	b.asking()
	n, err := b.server.Store.Notice(t.Context(), "s", "ask")
	require.NoError(t, err)
	_, err = b.server.Store.Change(
		t.Context(),
		"s",
		"ask",
		n.Revision,
		func(n *store.Notice, number int) (store.Entry, error) {
			next := *n.Published
			next.Content = &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "May we now?"}}}
			n.Published, n.Number, n.PublishedAt = &next, number, b.clock.Now()
			return store.Entry{Number: number}, nil
		},
	)
	require.NoError(t, err)
	db, err := sql.Open("sqlite", "file:"+filepath.Join(b.dir, store.FileName)+"?_txlock=immediate")
	require.NoError(t, err)
	defer db.Close()
	hold, err := db.Begin() // what is shown of it cannot be kept
	require.NoError(t, err)
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	b.server.Hub.Changed(gone, "s") // whoever asked is gone at once
	require.Eventually(t, func() bool { return len(b.server.Hub.Behind()) == 1 }, 15*time.Second, 10*time.Millisecond)
	var v now.View
	b.call("GET", "/api/sites/s/view", nil, &v)
	assert.Contains(t, strings.Join(v.Troubles, "\n"), "Visitors of s do not get the last change yet")
	status, why := b.read("/readyz")
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.Contains(t, why, "do not get the last change yet")
	_, body, _ := b.visit(origin, `{"url":"/"}`)
	assert.Contains(t, body, "May we?")
	require.NoError(t, hold.Rollback())
	running, stop := context.WithCancel(t.Context())
	defer stop()
	go b.server.Hub.Run(running)
	require.Eventually(t, func() bool {
		_, body, _ := b.visit(origin, `{"url":"/"}`)
		return strings.Contains(body, "May we now?")
	}, 15*time.Second, 20*time.Millisecond)
	assert.Empty(t, b.server.Hub.Behind())
}

// Pausing all is done whole or not at all.
func TestPauseAllIsWhole(t *testing.T) {
	b := newBench(t).signIn()
	for _, title := range []string{"One", "Two", "Three"} {
		b.act(b.begin(title), "publish")
	}
	_, err := b.server.Store.DB().Exec("CREATE TRIGGER fails BEFORE UPDATE ON notice WHEN NEW.id = 'two' BEGIN SELECT " +
		"RAISE(ABORT, 'no'); END")
	require.NoError(t, err)
	var p problem.Problem
	assert.Equal(t, 500, b.call("POST", "/api/sites/s/pause", notices.PauseAll{Pause: true}, &p))
	list, err := b.server.Store.Notices(t.Context(), "s")
	require.NoError(t, err)
	for _, n := range list {
		assert.Equal(t, bundle.Published, n.State, n.ID)
	}
	_, err = b.server.Store.DB().Exec("DROP TRIGGER fails")
	require.NoError(t, err)
	var done notices.Paused
	b.call("POST", "/api/sites/s/pause", notices.PauseAll{Pause: true}, &done)
	assert.Len(t, done.Notices, 3)
}

// A write of our own compiles its site once, and no other; a draft that visitors
// do not get compiles nothing.
func TestOnlyWhatChangedIsCompiled(t *testing.T) {
	b := newBench(t).signIn()
	require.NoError(t, b.server.Store.AddSite(t.Context(), bundle.Site{
		Key:      "other",
		Name:     "Other",
		TimeZone: "UTC",
		Language: "en",
	}))
	require.NoError(t, b.server.Hub.ReloadAll(t.Context()))
	d := b.act(b.begin("Hello"), "publish")
	running, stop := context.WithCancel(t.Context())
	defer stop()
	go b.server.Hub.Run(running)
	s, other := b.server.Hub.Site("s"), b.server.Hub.Site("other")
	b.write(d, "A draft of the next")
	assert.Same(t, s, b.server.Hub.Site("s"), "a draft behind what is out")
	var page sites.SiteDetail
	b.call("GET", "/api/sites/s", nil, &page)
	page.Site.Name = "S again"
	b.call("PUT", "/api/sites/s", sites.SiteChange{Revision: page.Revision, Site: page.Site}, &page)
	after := b.server.Hub.Site("s")
	assert.NotSame(t, s, after)
	assert.Same(t, other, b.server.Hub.Site("other"))

	// Another process writes: once that has been noticed, all that was written before has been.
	elsewhere, err := store.Open(t.Context(), b.server.Store.Dir())
	require.NoError(t, err)
	defer elsewhere.Close()
	row, err := elsewhere.Site(t.Context(), "other")
	require.NoError(t, err)
	row.Site.Name = "Other again"
	require.NoError(t, elsewhere.PutSite(t.Context(), row.Site, row.Revision, store.Entry{At: time.Now()}))
	require.Eventually(
		t, func() bool { return b.server.Hub.Site("other") != other }, 20*time.Second, 20*time.Millisecond,
	)
	assert.Same(t, after, b.server.Hub.Site("s"), "compiled once")
}

// What repeats too often is refused before it is kept: in one notice, and in all
// of a site together. What an earlier version accepted is left out, and said.
func TestTooManyOccurrences(t *testing.T) {
	b := newBench(t).signIn()
	d := b.begin("Hello")
	hourly := func(n int) *schedule.Plan {
		p := &schedule.Plan{}
		for i := range n {
			p.Windows = append(p.Windows, schedule.Window{
				From:  fmt.Sprintf("2026-12-01T00:%02d", i),
				Until: fmt.Sprintf("2026-12-01T00:%02d", i+1),
				Rule:  "FREQ=HOURLY",
			})
		}
		return p
	}
	d.Notice.Schedule = hourly(50)
	var p problem.Problem
	began := time.Now()
	assert.Equal(t, 422, b.call("PUT", "/api/sites/s/notices/hello", notices.NoticeChange{
		Revision: d.Card.Revision,
		Notice:   d.Notice,
	}, &p))
	assert.Contains(t, p.Detail, "more than 200000 occurrences in ten years")
	assert.Less(t, time.Since(began), 5*time.Second, "5 KB that took half a minute")
	d.Notice.Schedule = hourly(2)
	b.call("PUT", "/api/sites/s/notices/hello", notices.NoticeChange{Revision: d.Card.Revision, Notice: d.Notice}, &d)
	d = b.act(d, "publish")
	// With 27 like it there is room for one more.
	site, err := b.server.Store.Site(t.Context(), "s")
	require.NoError(t, err)
	in := bundle.Bundle{Format: bundle.Format, Site: site.Site}
	another := func(i int) bundle.Notice {
		n := d.Notice
		n.ID, n.State, n.PublishedAt = fmt.Sprint("more-", i), bundle.Published, &start
		return n
	}
	for i := range 26 {
		in.Notices = append(in.Notices, another(i))
	}
	_, err = importing.Bundle(t.Context(), b.server.Store, in, store.By{Name: "test"}, start)
	require.NoError(t, err)
	require.NoError(t, b.server.Hub.ReloadAll(t.Context()))
	publishCopy := func(out any) int {
		var more notices.NoticeDetail
		b.call("POST", "/api/sites/s/notices", notices.NewNotice{CopyOf: "hello"}, &more)
		return b.call(
			"POST", "/api/sites/s/notices/"+more.Notice.ID+"/publish", notices.Step{Revision: more.Card.Revision}, out,
		)
	}
	assert.Equal(t, 200, publishCopy(nil))
	assert.Equal(t, 422, publishCopy(&p))
	assert.Contains(t, p.Detail, "more than 5000000 occurrences in ten years")
	in.Notices = []bundle.Notice{another(26)}
	_, err = importing.Bundle(t.Context(), b.server.Store, in, store.By{Name: "test"}, start)
	require.ErrorContains(t, err, "more than 5000000 occurrences")
	_, err = b.server.Store.Notice(t.Context(), "s", "more-26")
	require.ErrorIs(t, err, store.ErrNotFound)
	_, body, _ := b.visit(origin, `{"url":"/"}`)
	assert.Contains(t, body, "Hello")

	// As an earlier version kept it: that one is left out, all others are there.
	n, err := b.server.Store.Notice(t.Context(), "s", "hello")
	require.NoError(t, err)
	_, err = b.server.Store.Change(
		t.Context(),
		"s",
		"hello",
		n.Revision,
		func(n *store.Notice, next int) (store.Entry, error) {
			heavy := *n.Published
			heavy.Schedule = hourly(50)
			heavy.Audience = &audience.Node{Fact: `person.x";window.__pwn=1;"`, Is: audience.IsSet}
			n.Published, n.Number = &heavy, next
			return store.Entry{}, nil
		},
	)
	require.NoError(t, err)
	require.NoError(t, b.server.Hub.Reload(t.Context(), "s"))
	_, body, _ = b.visit(origin, `{"url":"/"}`)
	assert.Contains(t, body, "Hello", "the copies")
	assert.NotContains(t, body, `"id":"hello"`)
	var v now.View
	b.call("GET", "/api/sites/s/view", nil, &v)
	assert.Contains(t, strings.Join(v.Troubles, "\n"), "“Hello” is left out")
	b.call("GET", "/api/sites/s/notices/hello", nil, &d)
	assert.Equal(t, viewpoint.FlagPaused, d.Card.Flag)
	assert.NotEmpty(t, d.Card.LeftOut)
	_, loader := b.read("/s/s.js")
	assert.NotContains(t, loader, "__pwn")
}

// An answer that a slow or broken network swallowed is taken up: the same text
// told again is no change of somebody else's.
func TestASaveToldAgain(t *testing.T) {
	b := newBench(t).signIn()
	d := b.begin("Hello")
	d.Notice.Title = "Told twice"
	change := notices.NoticeChange{Revision: d.Card.Revision, Notice: d.Notice}
	var first, again notices.NoticeDetail
	b.call("PUT", "/api/sites/s/notices/hello", change, &first)
	b.call("PUT", "/api/sites/s/notices/hello", change, &again)
	assert.Equal(t, first.Card.Revision, again.Card.Revision)
	change.Notice.Title = "Something else"
	assert.Equal(t, http.StatusConflict, b.call("PUT", "/api/sites/s/notices/hello", change, nil))
}

// A sitemap that lists far fewer pages than are known wipes nothing before
// someone has said so.
func TestAnEmptySitemapIsAsked(t *testing.T) {
	b := newBench(t).signIn()
	outside := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/sitemap.xml" {
			io.WriteString(w, `<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"></urlset>`)
		}
	}))
	defer outside.Close()
	b.server.Survey.Surveyor = survey.New(to(outside.URL))
	var d sites.SiteDetail
	b.call("GET", "/api/sites/s", nil, &d)
	require.Len(t, d.Pages, 2)
	d.Site.Origins = []string{outside.URL}
	b.call("PUT", "/api/sites/s", sites.SiteChange{Revision: d.Revision, Site: d.Site}, &d)
	var p problem.Problem
	assert.Equal(t, http.StatusConflict, b.call("POST", "/api/sites/s/survey", sites.SurveyAsk{}, &p))
	assert.Contains(t, p.Detail, "lists no page; of those known before 2 are no longer there")
	b.call("GET", "/api/sites/s", nil, &d)
	assert.Len(t, d.Pages, 2)
	b.call("POST", "/api/sites/s/survey", sites.SurveyAsk{Fewer: true}, &d)
	assert.Empty(t, d.Pages)
}

// A way to a new password is read by nobody but whom it is for, and lies nowhere
// in the data; that of an invitation by whoever sent it.
func TestLettersAreRead(t *testing.T) {
	b := newBench(t).signIn()
	letter := func() (name, token string) {
		list, err := os.ReadDir(filepath.Join(b.dir, standin.OutboxName))
		require.NoError(t, err)
		require.NotEmpty(t, list)
		for _, e := range list {
			at, err := e.Info()
			require.NoError(t, err)
			assert.Equal(t, os.FileMode(0o600), at.Mode().Perm())
		}
		raw, err := os.ReadFile(filepath.Join(b.dir, standin.OutboxName, list[len(list)-1].Name()))
		require.NoError(t, err)
		return list[len(list)-1].Name(), joinAddress.FindStringSubmatch(string(raw))[1]
	}
	var list people.PeopleList
	b.call("POST", "/api/people/invite", people.Person{
		Email: "jo@s.example",
		Name:  "Jo\r\nBcc: all@s.example",
		Role:  "editor",
		Sites: []string{"s"},
	}, &list)
	_, token := letter()
	var box people.Mailbox
	b.call("GET", "/api/mailbox", nil, &box)
	assert.Contains(t, box.Messages[0].Body, token)
	for _, file := range []string{store.FileName, store.FileName + "-wal"} {
		raw, err := os.ReadFile(filepath.Join(b.dir, file))
		require.NoError(t, err)
		assert.NotContains(t, string(raw), token, file)
	}
	jo := b.another()
	var who people.Person
	jo.call("POST", "/api/join", people.Join{Token: token, Name: "Jo", Password: "long enough words"}, &who)
	left, err := os.ReadDir(filepath.Join(b.dir, standin.OutboxName))
	require.NoError(t, err)
	assert.Empty(t, left, "a letter that was taken up goes")

	b.call("POST", "/api/people/invite", people.Person{Email: "jo@s.example", Role: "editor", Sites: []string{"s"}}, &list)
	name, token := letter()
	b.call("GET", "/api/mailbox", nil, &box)
	assert.True(t, box.Messages[0].Private)
	assert.NotContains(t, box.Messages[0].Body, token, "Ines, who sent it, could be Jo with it")
	raw, err := os.ReadFile(filepath.Join(b.dir, standin.OutboxName, name))
	require.NoError(t, err)
	sent, err := netmail.ReadMessage(bytes.NewReader(raw))
	require.NoError(t, err)
	assert.NotEmpty(t, sent.Header.Get("From"))
	assert.Contains(t, sent.Header.Get("To"), "jo@s.example")
	assert.Empty(t, sent.Header.Get("Bcc"))

	// Where people are signed in they see, and end.
	var sessions people.SessionList
	jo.call("GET", "/api/me/sessions", nil, &sessions)
	require.Len(t, sessions.Sessions, 1)
	assert.True(t, sessions.Sessions[0].This)
	elsewhere := b.another()
	require.Equal(t, 200, elsewhere.call("POST", "/api/sign-in", people.Credentials{
		Email:    "jo@s.example",
		Password: "long enough words",
	}, nil))
	jo.call("GET", "/api/me/sessions", nil, &sessions)
	require.Len(t, sessions.Sessions, 2)
	for _, s := range sessions.Sessions {
		if !s.This {
			jo.call("POST", "/api/me/sessions/end", people.SessionName{ID: s.ID}, &sessions)
		}
	}
	assert.Len(t, sessions.Sessions, 1)
	assert.Equal(t, 401, elsewhere.call("GET", "/api/me", nil, nil))
}

// What a browser is told besides: over https it stays there, and no other window
// holds on to the interface; what is not named by its content is asked for again.
func TestHeaders(t *testing.T) {
	b := newBench(t)
	res, err := http.Get(b.url + "/nowhere/at/all")
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, "no-cache", res.Header.Get("Cache-Control"))
	assert.Empty(t, res.Header.Get("Strict-Transport-Security"), "it is not https")
	assert.NotEmpty(t, res.Header.Get("X-Request-Id"))
	for _, path := range []string{"/favicon.svg", "/index.html"} {
		res, err := http.Get(b.url + path)
		require.NoError(t, err)
		res.Body.Close()
		assert.NotContains(t, res.Header.Get("Cache-Control"), "immutable", path)
	}
	secure := served(t, "https://notices.example")
	for _, path := range []string{"/", "/api/me", "/api/none", "/d/none", "/s/none.js"} {
		res, err := http.Get(secure + path)
		require.NoError(t, err)
		res.Body.Close()
		assert.Equal(t, "max-age=31536000", res.Header.Get("Strict-Transport-Security"), path)
		assert.Equal(t, "same-origin", res.Header.Get("Cross-Origin-Opener-Policy"), path)
		assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"), path)
		if strings.HasPrefix(path, "/api/") {
			assert.Equal(t, "no-store", res.Header.Get("Cache-Control"), path)
		}
	}
}

// Figures are for whoever runs the machine, or has the token.
func TestMetrics(t *testing.T) {
	b := newBench(t).signIn()
	b.visit(origin, `{"url":"/"}`)
	status, body := b.read("/metrics")
	require.Equal(t, 200, status)
	for _, says := range []string{
		`mastflag_http_requests_total{method="POST",route="/d/:key",status="200"} 1`, "mastflag_sites_behind 0",
		"mastflag_store_writable 1", "mastflag_chains_broken 0", "mastflag_build_info",
		"mastflag_count_batches_total 0", "mastflag_counted_acts_total 0", "mastflag_counts_queued 0",
		"mastflag_answers_queued 0", "mastflag_contacts_queued 0",
		`mastflag_sign_ins_total{outcome="done"} 1`, "go_goroutines",
	} {
		assert.Contains(t, body, says)
	}
	r, err := http.NewRequest("GET", b.url+"/metrics", nil)
	require.NoError(t, err)
	r.Header.Set("X-Forwarded-For", "9.9.9.9")
	res, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, http.StatusNotFound, res.StatusCode, "through a proxy it may be anybody")
}

// Requests of any kind that are no requests are refused plainly.
func TestForeignBytes(t *testing.T) {
	b := newBench(t).signIn()
	d := b.begin("Hello")
	good, err := json.Marshal(notices.NoticeChange{Revision: d.Card.Revision, Notice: d.Notice})
	require.NoError(t, err)
	var p problem.Problem
	for says, body := range map[string]string{
		"something after it":    string(good) + `{"revision":1}`,
		"U+0000":                strings.Replace(string(good), `"Hello"`, `"Hel\u0000lo"`, 1),
		"nothing":               "",
		"an unknown field":      strings.Replace(string(good), `{`, `{"x":1,`, 1),
		"an array":              "[]",
		"nested without end":    strings.Repeat("[", 100_000),
		"a number out of range": strings.Replace(string(good), `"revision":`, `"revision":1e999,"x":`, 1),
	} {
		status := b.call("PUT", "/api/sites/s/notices/hello", body, &p)
		assert.GreaterOrEqual(t, status, 400, says)
		assert.Less(t, status, 500, says)
		assert.NotEmpty(t, p.Detail, says)
		assert.NotEmpty(t, p.Request, says)
	}
	for says, body := range map[string]string{
		"something after it": `{"url":"/"}{"url":"/book"}`,
		"nothing":            "",
		"not UTF-8":          "{\"url\":\"/\xff\"}",
	} {
		status, answer, _ := b.visit(origin, body)
		if status == 200 {
			assert.True(t, json.Valid([]byte(answer)), says)
			continue
		}
		assert.Equal(t, 400, status, says)
	}
	// An image is looked at to its end.
	var img bytes.Buffer
	img.WriteString("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x01\x00\x00\x00\x01\x08\x00\x00\x00\x00\x3a\x7e\x9b" +
		"\x55")
	assert.Equal(t, 422, b.call("POST", "/api/sites/s/images", library.NewImage{Name: "cut.png", Data: img.Bytes()}, &p))
	assert.Contains(t, p.Detail, "damaged or cut off")
}

// While notices are published one after the other, each answer is of one state:
// never the one of before beside another of after.
func TestNoAnswerIsTorn(t *testing.T) {
	b := newBench(t)
	say := func(n int) bundle.Bundle {
		site, err := b.server.Store.Site(t.Context(), "s")
		require.NoError(t, err)
		out := bundle.Bundle{Format: bundle.Format, Site: site.Site}
		for _, id := range []string{"one", "two"} {
			at := start.AddDate(0, 0, -1)
			out.Notices = append(out.Notices, bundle.Notice{
				ID:          id,
				Kind:        bundle.KindBar,
				State:       bundle.Published,
				PublishedAt: &at,
				Pages:       &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
				Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {
					Message: fmt.Sprintf("state %d, %d again", n, n),
					Details: fmt.Sprintf("still %d", n),
				}}},
			})
		}
		return out
	}
	publish := func(n int) {
		_, err := importing.Bundle(t.Context(), b.server.Store, say(n), store.By{Name: "test"}, start)
		require.NoError(t, err)
		b.server.Hub.Changed(t.Context(), "s")
	}
	publish(0)
	number := regexp.MustCompile(`(?:state|still|,) (\d+)`)
	done := make(chan struct{})
	var wg sync.WaitGroup
	var answers atomic.Int64
	for range 8 {
		wg.Go(func() {
			for {
				select {
				case <-done:
					return
				default:
				}
				_, body, _ := b.visit(origin, `{"url":"/"}`)
				found := number.FindAllStringSubmatch(body, -1)
				if !assert.Len(t, found, 10, body) { // words and names of two notices
					return
				}
				for _, m := range found {
					if !assert.Equal(t, found[0][1], m[1], body) {
						return
					}
				}
				answers.Add(1)
			}
		})
	}
	for n := 1; n <= 60; n++ {
		publish(n)
	}
	close(done)
	wg.Wait()
	t.Logf("%d answers while 60 states were published", answers.Load())
	assert.Positive(t, answers.Load())
}

// Patterns that are tried on every page are bounded for a site (rule P2): a notice with
// one too many is refused when it is published or imported, and the rest stays.
func TestLoosePatternsOfASite(t *testing.T) {
	b := newBench(t).signIn()
	loose := func(id string, k int) bundle.Notice {
		return bundle.Notice{ID: id, Kind: bundle.KindBar, Title: id, State: bundle.Published, PublishedAt: &start,
			Pages:   &pages.Conditions{Include: []pages.Entry{{Match: pages.Pattern, Pattern: fmt.Sprintf("/(a%d|b)", k)}}},
			Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "Hello"}}}}
	}
	site, err := b.server.Store.Site(t.Context(), "s")
	require.NoError(t, err)
	in := bundle.Bundle{Format: bundle.Format, Site: site.Site}
	for i := range pages.MaxUnanchored {
		in.Notices = append(in.Notices, loose(fmt.Sprint("n-", i), i))
	}
	in.Notices = append(in.Notices, loose("same", 0)) // the same pattern once more is none more
	assert.Empty(t, in.Check())
	_, err = importing.Bundle(t.Context(), b.server.Store, in, store.By{Name: "test"}, start)
	require.NoError(t, err)
	require.NoError(t, b.server.Hub.ReloadAll(t.Context()))
	in.Notices = append(in.Notices, loose("more", 99))
	assert.ErrorContains(
		t, in.Check(), "/notices/21/pages: with it the site’s published notices have more than 20 patterns",
	)
	_, err = importing.Bundle(t.Context(), b.server.Store, bundle.Bundle{
		Format:  bundle.Format,
		Site:    site.Site,
		Notices: in.Notices[21:],
	}, store.By{Name: "test"}, start)
	require.ErrorContains(t, err, "more than 20 patterns")
	d := b.begin("late")
	d.Notice.Pages = in.Notices[21].Pages
	d = b.write(d, "Hello")
	var p problem.Problem
	assert.Equal(t, 422, b.call("POST", "/api/sites/s/notices/late/publish", notices.Step{Revision: d.Card.Revision}, &p))
	assert.Contains(t, p.Detail, "more than 20 patterns")
	d.Notice.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.Pattern, Pattern: "/(a|b)/ports/*"}}}
	b.act(b.write(d, "Hello"), "publish")
}

// Nothing that a stranger sends in a header decides where somebody is led; an address with a slash
// too much is none.
func TestNoHeaderLeadsElsewhere(t *testing.T) {
	b := newBench(t)
	for _, path := range []string{"/healthz/", "/api/me/", "/s/s.js/", "/d/s/", "/t/s/privacy/"} {
		for _, header := range []string{"X-Forwarded-Prefix", "X-Forwarded-Host", "Host", "X-Original-URL"} {
			r, err := http.NewRequest("GET", b.url+path, nil)
			require.NoError(t, err)
			r.Header.Set(header, "/evil.example")
			res, err := http.DefaultTransport.RoundTrip(r)
			require.NoError(t, err)
			res.Body.Close()
			assert.Empty(t, res.Header.Get("Location"), path)
			for _, values := range res.Header {
				assert.NotContains(t, strings.Join(values, " "), "evil.example")
			}
		}
	}
}

// An invitation that cannot be written leaves nothing: no letter, not half of one, and nobody
// who is invited.
func TestAnInvitationThatCannotBeWritten(t *testing.T) {
	b := newBench(t).signIn()
	outbox := filepath.Join(b.dir, standin.OutboxName)
	require.NoError(t, os.WriteFile(outbox, nil, 0o600)) // where the folder would be
	var p problem.Problem
	b.call("POST", "/api/people/invite", people.Person{Email: "new@s.example", Role: rights.Viewer}, &p)
	assert.Contains(t, p.Detail, "Nothing was changed")
	require.NoError(t, os.Remove(outbox))
	var list people.PeopleList
	b.call("GET", "/api/people", nil, &list)
	assert.Empty(t, list.Invited)
	require.NoError(t, os.Mkdir(outbox, 0o700))
	// Of a program that was killed while it wrote.
	require.NoError(t, os.WriteFile(filepath.Join(outbox, ".letter-1"), []byte("half"), 0o600))
	require.NoError(t, b.server.Post.Clear(time.Now().Add(time.Hour)))
	left, err := os.ReadDir(outbox)
	require.NoError(t, err)
	assert.Empty(t, left)
	b.call("POST", "/api/people/invite", people.Person{Email: "new@s.example", Role: rights.Viewer}, &list)
	assert.Len(t, list.Invited, 1)
}
