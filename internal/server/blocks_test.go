package server_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/core/schedule"
	"mastflag/internal/admin"
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
		_, err = admin.Import(t.Context(), b.server.Store, bundle.Bundle{Format: bundle.Format, Site: site.Site, Notices: []bundle.Notice{n}}, "test", start)
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
		assert.Equal(t, strings.Contains(path, "part=css"), strings.HasPrefix(res.Header.Get("Content-Type"), "text/css"), path)
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
		n.Schedule = &schedule.Plan{Windows: []schedule.Window{{Until: start.Add(20 * time.Second).Format("2006-01-02T15:04:05")}}, Clock: "UTC"}
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
		"/b/s/hours?page=/":           {409, "It cannot come with the page: visitors can close it. Let the site script place it."},
		"/b/s/none?page=/":            {404, "This site has no published block"},
		"/b/gone/hours?page=/":        {404, "There is no site"},
		"/b/s/hours?page=book":        {400, "Give the path of the page"},
		"/b/s/hours?page=/&part=head": {400, "part=html or part=css"},
		"/b/s/%3Cscript%3E?page=/":    {404, `\u003cscript\u003e`},
	} {
		res, body := b.include(path, "")
		assert.Equal(t, want.status, res.StatusCode, path)
		assert.Contains(t, body, want.says, path)
		assert.Equal(t, "application/problem+json", res.Header.Get("Content-Type"), path)
	}
}
