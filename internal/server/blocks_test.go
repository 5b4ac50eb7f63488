package server_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/core/schedule"
	"mastflag/internal/admin/notices"
	"mastflag/internal/admin/sites"
	"mastflag/internal/importing"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// include asks for a block as a site's server does.
func (b *bench) include(path, etag string) (*http.Response, string) {
	b.t.Helper()
	return b.fetch(path, "If-None-Match", etag)
}

// A block for a site's server: what it says in each language, when that changes,
// and what is refused.
func TestBlocksForServers(t *testing.T) {
	b := newBench(t).signIn().german()
	put := func(alter func(*bundle.Notice)) {
		t.Helper()
		site, err := b.server.Store.Site(t.Context(), "s")
		require.NoError(t, err)
		at := start.AddDate(0, 0, -1)
		n := bundle.Notice{
			ID: "hours", Kind: bundle.KindBlock, State: bundle.Published, PublishedAt: &at,
			Spot: &bundle.Spot{Selector: "main"}, Memory: &bundle.Memory{Closable: new(bool)},
			Pages: &pages.Conditions{
				Include: []pages.Entry{{Match: pages.All}},
				Exclude: []pages.Entry{{Match: pages.Page, Path: "/book"}},
			},
			Content: &bundle.Content{Wordings: map[string]bundle.Wording{
				"en": {Message: "<p>Open at <strong>nine</strong></p>"}, "de": {Message: "<p>Offen ab neun</p>"},
			}},
		}
		alter(&n)
		_, err = importing.Bundle(t.Context(), b.server.Store, bundle.Bundle{
			Format:  bundle.Format,
			Site:    site.Site,
			Notices: []bundle.Notice{n},
		}, store.By{Name: "test"}, start)
		require.NoError(t, err)
		require.NoError(t, b.server.Hub.Reload(t.Context(), "s"))
	}
	put(func(*bundle.Notice) {})
	res, body := b.include("/b/s/hours?page=/", "")
	assert.Equal(t, "public, max-age=60", res.Header.Get("Cache-Control"))
	assert.Contains(t, body, `data-mastflag="hours"`)
	assert.Contains(t, body, "<p>Open at <strong>nine</strong></p>")
	etag := res.Header.Get("ETag")
	for path, says := range map[string]string{
		"/b/s/hours":                       "Open at",
		"/b/s/hours?page=/&language=de-AT": "Offen ab neun",
		"/b/s/hours?page=/&language=fr":    "Open at",
		"/b/s/hours?page=/new&part=html":   `<div class="notice-hours"`,
		"/b/s/hours?page=/&part=css":       ".notice-hours{box-sizing",
	} {
		res, body = b.include(path, "")
		assert.Equal(t, 200, res.StatusCode, path)
		assert.Contains(t, body, says, path)
		assert.Equal(
			t, strings.Contains(path, "part=css"), strings.HasPrefix(res.Header.Get("Content-Type"), "text/css"), path,
		)
		assert.Equal(t, !strings.Contains(path, "part="), strings.Contains(body, "<style>"), path)
	}
	res, body = b.include("/b/s/hours?page=/book", "")
	assert.Equal(t, []any{200, ""}, []any{res.StatusCode, body}, "it does not stand there")

	// The mark changes exactly when it does.
	res, _ = b.include("/b/s/hours?page=/", etag)
	assert.Equal(t, 304, res.StatusCode)
	put(func(n *bundle.Notice) { n.Title = "Another working title" })
	res, _ = b.include("/b/s/hours?page=/", etag)
	assert.Equal(t, 304, res.StatusCode)
	put(func(n *bundle.Notice) {
		n.Content.Wordings["en"] = bundle.Wording{Message: "<p>Open at ten</p>"}
		n.Schedule = &schedule.Plan{
			Windows: []schedule.Window{{Until: start.Add(20 * time.Second).Format("2006-01-02T15:04:05")}},
			Clock:   "UTC",
		}
	})
	res, body = b.include("/b/s/hours?page=/", etag)
	assert.Equal(t, 200, res.StatusCode)
	assert.Contains(t, body, "Open at ten")
	var age int
	_, err := fmt.Sscanf(res.Header.Get("Cache-Control"), "public, max-age=%d", &age)
	require.NoError(t, err)
	assert.LessOrEqual(t, age, 20, "until it ends")

	// Refused, with what would be accepted.
	put(func(n *bundle.Notice) { n.Memory = nil })
	for path, want := range map[string]struct {
		status int
		says   string
	}{
		"/b/s/hours?page=/": {
			409, "It cannot come with the page: visitors can close it. Let the site script place it.",
		},
		"/b/s/none?page=/":            {404, "This site has no published block"},
		"/b/gone/hours?page=/":        {404, "There is no site"},
		"/b/s/hours?page=book":        {400, "Give the path of the page"},
		"/b/s/hours?page=/&part=head": {400, "part=html or part=css"},
		"/b/s/%3Cscript%3E?page=/":    {404, "script"},
		// A header is of one line, whatever stands in it.
		"/b/s/x%0D%0ASet-Cookie:%20a=b?page=/": {404, `x\\r\\nSet-Cookie: a=b`},
	} {
		res, body := b.include(path, "")
		assert.Equal(t, []any{want.status, ""}, []any{res.StatusCode, body}, "%s: nothing to put into a page", path)
		assert.Contains(t, res.Header.Get("Mastflag-Refusal"), want.says, path)
		assert.Empty(t, res.Header.Get("Set-Cookie"), path)
		res, said := b.fetch(path, "Accept", "application/problem+json")
		assert.Equal(t, want.status, res.StatusCode, path)
		assert.Contains(t, said, want.says, path)
		assert.Equal(t, "application/problem+json", res.Header.Get("Content-Type"), path)
	}
}

// shown returns the ids of what a visitor of a page gets.
func (b *bench) shown(path string) (ids []string) {
	b.t.Helper()
	status, raw, _ := b.visit(origin, fmt.Sprintf(`{"url":%q}`, origin+path))
	require.Equal(b.t, 200, status, raw)
	var r struct{ Show []struct{ ID string } }
	require.NoError(b.t, json.Unmarshal([]byte(raw), &r))
	for _, n := range r.Show {
		ids = append(ids, n.ID)
	}
	return ids
}

// Off one page, off everywhere, deleted: each is what it says, and is undone as it was
// (rule B4). A draft that waits goes along, and keeps its words.
func TestTakenOff(t *testing.T) {
	b := newBench(t).signIn()
	var d notices.NoticeDetail
	b.call("POST", "/api/sites/s/notices", notices.NewNotice{Title: "Status", Kind: "block"}, &d)
	d = b.change(d, func(n *bundle.Notice) {
		n.Spot = &bundle.Spot{Selector: "main"}
		n.Content = &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "<p>As planned</p>"}}}
	})
	d = b.act(d, "publish")
	since := d.Notice.PublishedAt
	d = b.write(d, "<p>Another text</p>")
	assert.Equal(t, []string{"/", "/book"}, d.OutOn)
	place := func(in notices.Placing) (p notices.Placed) {
		t.Helper()
		in.Revision = d.Card.Revision
		b.call("POST", "/api/sites/s/notices/status/place", in, &p)
		d = p.Detail
		return p
	}
	on := func(path string) bool { t.Helper(); return len(b.shown(path)) == 1 }

	before := d.Notice
	p := place(notices.Placing{Off: "/book/"})
	assert.Equal(t, []bool{true, false, true}, []bool{on("/"), on("/book"), on("/later")})
	assert.Equal(t, []string{"/"}, d.OutOn)
	assert.Equal(t, "<p>Another text</p>", d.Notice.Wordings()["en"].Message, "the draft keeps its words")
	assert.True(t, d.Card.HasDraft)
	row, err := b.server.Store.Notice(t.Context(), "s", "status")
	require.NoError(t, err)
	assert.Equal(t, "<p>As planned</p>", row.Out().Wordings()["en"].Message, "and what is out its own")
	assert.Equal(t, since, row.Out().PublishedAt, "it is no newer for that")
	place(notices.Placing{Put: &p.Was})
	assert.Equal(t, []bool{true, true}, []bool{on("/"), on("/book")})
	assert.Equal(t, before.Pages, d.Notice.Pages)
	place(notices.Placing{Off: "/book"})
	place(notices.Placing{On: "/book"})
	assert.Equal(t, before.Pages, d.Notice.Pages)
	var history notices.History
	b.call("GET", "/api/sites/s/notices/status/history", nil, &history)
	var acts []string
	for _, l := range history.Lines[:4] {
		acts = append(acts, l.Act)
	}
	assert.Equal(t, []string{
		"put it on /book", "took it off /book", "put its pages back as they were", "took it off /book",
	}, acts)

	// Off everywhere, and back as it was, with the draft beside it.
	d = b.act(d, "unpublish")
	assert.False(t, on("/"))
	assert.Equal(t, []string{}, d.OutOn)
	d = b.act(d, "republish")
	assert.True(t, on("/"))
	row, err = b.server.Store.Notice(t.Context(), "s", "status")
	require.NoError(t, err)
	assert.Equal(t, "<p>As planned</p>", row.Out().Wordings()["en"].Message)
	assert.Equal(t, since, row.Out().PublishedAt)
	assert.Equal(t, "<p>Another text</p>", d.Notice.Wordings()["en"].Message)
	d = b.act(b.act(d, "discard"), "unpublish")
	d = b.act(d, "republish")
	assert.False(t, d.Card.HasDraft, "there was none")
	b.call("POST", "/api/sites/s/notices/status/delete", notices.Step{Revision: d.Card.Revision}, nil)
	assert.False(t, on("/"))
	b.call("POST", "/api/sites/s/notices/status/undelete", notices.Step{}, &d)
	assert.True(t, on("/"))

	// The Library: where it is, and why it cannot be put where one looks from.
	var list notices.BlockList
	b.call("GET", "/api/sites/s/blocks?page=/book", nil, &list)
	require.Len(t, list.Blocks, 1)
	card := list.Blocks[0]
	assert.Equal(t, []any{
		"Status", "Ines", "It is on this page already, and stands once a page.",
	}, []any{card.Title, card.ChangedBy, card.Why})
	assert.Contains(t, card.HTML, "As planned")
	d = b.change(d, func(n *bundle.Notice) {
		n.Pages = &pages.Conditions{
			Include: []pages.Entry{{Match: pages.All}},
			Exclude: []pages.Entry{{Match: pages.Section, Path: "/book"}},
		}
	})
	b.call("GET", "/api/sites/s/blocks?page=/book", nil, &list)
	assert.Equal(t, "It leaves out the pages under /book, and so this page with them.", list.Blocks[0].Why)

	// Refused, with nothing changed.
	for name, c := range map[string]struct {
		in     notices.Placing
		status int
		says   string
	}{
		"a section leaves it out": {
			notices.Placing{On: "/book"}, 409, "“Status” leaves out the pages under /book, and so this page with them.",
		},
		"no page":                 {notices.Placing{Off: "//evil.example"}, 422, "Give the path of a page"},
		"nothing said":            {notices.Placing{}, 400, "Give one of off, on and put"},
		"someone else was faster": {notices.Placing{Revision: 1, Off: "/"}, 409, "Someone else changed this"},
	} {
		if c.in.Revision == 0 {
			c.in.Revision = d.Card.Revision
		}
		var p problem.Problem
		assert.Equal(t, c.status, b.call("POST", "/api/sites/s/notices/status/place", c.in, &p), name)
		assert.Contains(t, p.Detail, c.says, name)
	}
	row, err = b.server.Store.Notice(t.Context(), "s", "status")
	require.NoError(t, err)
	assert.Equal(t, d.Card.Revision, row.Revision)
}

// Code is for administrators: editors take it out, and nothing else (rule B7). It is
// checked as it is written, delivered as it is, and refused where it does not parse.
func TestCodeIsForAdministrators(t *testing.T) {
	b := newBench(t).signIn()
	var d notices.NoticeDetail
	b.call("POST", "/api/sites/s/notices", notices.NewNotice{Title: "Timing", Kind: "code"}, &d)
	assert.Equal(
		t, "Put this code, which is not written yet, into every page, for everyone, from when you publish it, with no end.",
		d.Line.String(),
	)
	var p problem.Problem
	assert.Equal(
		t,
		422,
		b.call("POST", "/api/sites/s/notices/timing/publish", notices.Step{Revision: d.Card.Revision}, &p),
	)
	assert.Contains(t, p.Detail, "there is no code yet")
	put := func(c *bench, code bundle.PageCode, out any) int {
		n := d.Notice
		n.Content = &bundle.Content{Code: &code}
		return c.call("PUT", "/api/sites/s/notices/timing", notices.NoticeChange{Revision: d.Card.Revision, Notice: n}, out)
	}
	const script = "<script>\nwindow.timed = (window.timed ?? 0) + 1\n</script>"
	assert.Equal(t, 422, put(b, bundle.PageCode{End: "<p>\n<script>let a b</script></p>"}, &p))
	assert.Contains(t, p.Detail, "line 2, column 15: this is not JavaScript")
	put(b, bundle.PageCode{End: script}, &d)
	d = b.act(d, "publish")
	status, raw, _ := b.visit(origin, fmt.Sprintf(`{"url":%q}`, origin+"/"))
	require.Equal(t, 200, status)
	var r struct {
		Show []struct {
			ID, Slot, HTML string
			Code           map[string]string
		}
	}
	require.NoError(t, json.Unmarshal([]byte(raw), &r))
	require.Len(t, r.Show, 1)
	assert.Equal(t, []string{"timing", "code", "", script}, []string{
		r.Show[0].ID, r.Show[0].Slot, r.Show[0].HTML, r.Show[0].Code["end"],
	})

	var check notices.CodeCheck
	b.call("POST", "/api/code", bundle.PageCode{Head: "<div>", Start: "<b>x", End: script}, &check)
	require.Len(t, check.Faults, 2)
	assert.Equal(t, notices.CodeFault{
		Place:  "head",
		Line:   1,
		Column: 1,
		What:   "<div> cannot stand in the head",
		Remedy: "put it at the start or the end of the body",
	}, check.Faults[0])
	assert.Equal(t, "script-src", check.Policy[0].Directive)

	// An editor.
	cookie := b.as("editor")
	e := *b
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	at, err := url.Parse(b.url)
	require.NoError(t, err)
	jar.SetCookies(at, []*http.Cookie{cookie})
	e.client = &http.Client{Jar: jar}
	refused := func(method, path string, in any) {
		t.Helper()
		var p problem.Problem
		assert.Equal(t, 403, e.call(method, path, in, &p), "%s %s", method, path)
		assert.Contains(t, p.Title+p.Detail, "dministrator")
	}
	refused("POST", "/api/code", bundle.PageCode{Head: "x"})
	refused("POST", "/api/sites/s/notices", notices.NewNotice{Kind: "code"})
	refused("POST", "/api/sites/s/notices", notices.NewNotice{CopyOf: "timing"})
	assert.Equal(t, 403, put(&e, bundle.PageCode{End: "<b>x</b>"}, &p))
	var bar notices.NoticeDetail
	e.call("POST", "/api/sites/s/notices", notices.NewNotice{Title: "Bar"}, &bar)
	n := bar.Notice
	n.Kind, n.Content = bundle.KindCode, &bundle.Content{Code: &bundle.PageCode{End: script}}
	refused("PUT", "/api/sites/s/notices/bar", notices.NoticeChange{Revision: bar.Card.Revision, Notice: n})
	var placed notices.Placed
	e.call("POST", "/api/sites/s/notices/timing/place", notices.Placing{Revision: d.Card.Revision, Off: "/book"}, &placed)
	d = placed.Detail
	refused("POST", "/api/sites/s/notices/timing/place", notices.Placing{Revision: d.Card.Revision, On: "/book"})
	refused("POST", "/api/sites/s/notices/timing/place", notices.Placing{Revision: d.Card.Revision, Put: &placed.Was})
	assert.Equal(t, 400, e.call("POST", "/api/sites/s/notices/timing/place", notices.Placing{
		Revision: d.Card.Revision, Off: "/book", Put: &placed.Was,
	}, &p))
	assert.Contains(t, p.Detail, "Give one of off, on and put")
	step := func(what string) {
		t.Helper()
		e.call("POST", "/api/sites/s/notices/timing/"+what, notices.Step{Revision: d.Card.Revision}, &d)
	}
	step("pause")
	assert.Empty(t, b.shown("/"))
	refused("POST", "/api/sites/s/notices/timing/resume", notices.Step{Revision: d.Card.Revision})
	step("unpublish")
	refused("POST", "/api/sites/s/notices/timing/publish", notices.Step{Revision: d.Card.Revision})
	refused("POST", "/api/sites/s/notices/timing/republish", notices.Step{Revision: d.Card.Revision})
	assert.Equal(
		t,
		200,
		e.call("POST", "/api/sites/s/notices/timing/delete", notices.Step{Revision: d.Card.Revision}, nil),
	)
	refused("POST", "/api/sites/s/notices/timing/undelete", notices.Step{})
	assert.Empty(t, b.shown("/"))

	// The master switch takes it out too.
	b.call("POST", "/api/sites/s/notices/timing/undelete", notices.Step{}, &d)
	d = b.act(d, "publish")
	assert.Len(t, b.shown("/"), 1)
	site, err := b.server.Store.Site(t.Context(), "s")
	require.NoError(t, err)
	b.call("POST", "/api/sites/s/display", sites.DisplaySwitch{Revision: site.Revision, On: false}, nil)
	assert.Empty(t, b.shown("/"))
}
