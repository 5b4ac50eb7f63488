package server_test

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/pages"
	"mastflag/internal/admin/sites"
	"mastflag/internal/importing"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// asking gives the bench's site something to ask about, and a notice that asks.
func (b *bench) asking() {
	b.t.Helper()
	site, err := b.server.Store.Site(b.t.Context(), "s")
	require.NoError(b.t, err)
	site.Consent = &consent.Setup{Purposes: []consent.Purpose{{ID: "measurement"}, {ID: "marketing"}},
		Inventory: []consent.Item{
			{Kind: consent.Cookie, Name: "tw", By: "Tidewater", Purpose: "measurement", Lasts: "P1D"},
			{Kind: consent.Cookie, Name: "gnt", By: "Gannet", Purpose: "marketing", Lasts: "P1D"},
		}}
	require.NoError(b.t, b.server.Store.PutSite(b.t.Context(), site.Site, site.Revision, store.Entry{At: start}))
	at := start.AddDate(0, 0, -1)
	_, err = importing.Bundle(b.t.Context(), b.server.Store, bundle.Bundle{
		Format: bundle.Format,
		Site:   site.Site,
		Notices: []bundle.Notice{{ID: "ask", Kind: bundle.KindConsent, State: bundle.Published, PublishedAt: &at,
			Pages:   &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
			Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "May we?"}}}}},
	}, store.By{Name: "test"}, start)
	require.NoError(b.t, err)
	require.NoError(b.t, b.server.Hub.Reload(b.t.Context(), "s"))
}

// tell makes a call as a page of the site does.
func (b *bench) tell(method, path, from, body string) (int, string) {
	b.t.Helper()
	r, err := http.NewRequest(method, b.url+path, strings.NewReader(body))
	require.NoError(b.t, err)
	r.Header.Set("Origin", from)
	res, err := http.DefaultClient.Do(r)
	require.NoError(b.t, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(b.t, err)
	if res.StatusCode >= 400 {
		var p problem.Problem
		require.NoError(b.t, json.Unmarshal(raw, &p), string(raw))
		assert.NotEmpty(b.t, p.Detail)
	}
	return res.StatusCode, string(raw)
}

// What pages may tell, and what they may not: a forged answer makes no record.
func TestAnswers(t *testing.T) {
	b := newBench(t)
	b.asking()
	_, body, _ := b.visit(origin, `{"url":"/book"}`)
	var answer struct {
		Show    []struct{ Hash, HTML string }
		Consent struct {
			Rule     string
			Granted  []string
			Answered bool
			Hash     string
			Mark     string
			Part     struct{ Of string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(body), &answer))
	require.Len(t, answer.Show, 1)
	hash := answer.Show[0].Hash
	assert.Equal(t, hash, answer.Consent.Hash)
	assert.Equal(t, []string{"necessary"}, answer.Consent.Granted)
	assert.False(t, answer.Consent.Answered)

	at := "/r/s?mark=" + answer.Consent.Mark
	const id = "00112233445566778899aabbccddeeff"
	told := func(alter ...string) string {
		fields := map[string]string{
			"id":      `"` + id + `"`,
			"hash":    `"` + hash + `"`,
			"granted": `["measurement"]`,
			"refused": `["marketing"]`,
			"how":     `"button"`,
			"page":    `"/book?x=1"`,
		}
		for i := 0; i < len(alter); i += 2 {
			fields[alter[i]] = alter[i+1]
		}
		var parts []string
		for k, v := range fields {
			parts = append(parts, fmt.Sprintf("%q:%s", k, v))
		}
		return "{" + strings.Join(parts, ",") + "}"
	}
	status, _ := b.tell("POST", at, origin, told())
	require.Equal(t, 204, status)
	status, _ = b.tell("POST", at, origin, told())
	assert.Equal(t, 204, status, "told again, it is kept once")
	for _, c := range []struct {
		says, path, from, body string
		status                 int
	}{
		{
			"another answer under the same id", at, origin, told("granted", `["measurement","marketing"]`, "refused", "[]"), 409,
		},
		{"a foreign origin", at, "https://evil.example", told(), 403},
		{"an unknown site", "/r/none?mark=" + answer.Consent.Mark, origin, told(), 404},
		{"without a mark", "/r/s", origin, told(), 428},
		{"a mark of one’s own", "/r/s?mark=" + strings.Repeat("A", 22), origin, told(), 428},
		{"what was never shown", at, origin, told("hash", `"`+strings.Repeat("0", 64)+`"`), 422},
		{
			"an unknown purpose", at, origin,
			told("id", `"11112233445566778899aabbccddeeff"`, "granted", `["measurement","films"]`), 422,
		},
		{"a purpose left out", at, origin, told("id", `"11112233445566778899aabbccddeeff"`, "refused", "[]"), 422},
		{"an id of someone’s own", at, origin, told("id", `"ines@s.example"`), 422},
		{
			"going on as an answer, where the rule is opt-in", at, origin,
			told("id", `"11112233445566778899aabbccddeeff"`, "how", `"going-on"`), 422,
		},
		{"no JSON", at, origin, "accept", 400},
		{"a megabyte", at, origin, told("page", `"/`+strings.Repeat("x", 1<<20)+`"`), 413},
	} {
		status, _ := b.tell("POST", c.path, c.from, c.body)
		assert.Equal(t, c.status, status, c.says)
	}
	head, err := b.server.Store.ConsentHead(t.Context(), "s")
	require.NoError(t, err)
	assert.EqualValues(t, 1, head.Seq, "none of it is kept")

	// The receipt proves itself: anyone can work the commitment out.
	status, body = b.tell("GET", "/r/s/"+id, origin, "")
	require.Equal(t, 200, status)
	var receipt struct {
		Record                 json.RawMessage
		Salt, Commitment, Hash string
		Shown                  struct{ HTML string }
	}
	require.NoError(t, json.Unmarshal([]byte(body), &receipt))
	assert.Contains(t, receipt.Shown.HTML, "May we?")
	var salt []byte
	_, err = fmt.Sscanf(receipt.Salt, "%x", &salt)
	require.NoError(t, err)
	link := consent.Head{}.Next(salt, receipt.Record)
	assert.Equal(t, receipt.Commitment, link.Commitment.String())
	assert.Equal(t, receipt.Hash, link.Hash.String())
	var r consent.Record
	require.NoError(t, json.Unmarshal(receipt.Record, &r))
	assert.Equal(t, "/book", r.Page)
	assert.Equal(t, "2026-12-03T12:00:00Z", r.NoticeVersion)

	status, _ = b.tell("DELETE", "/r/s/"+id, "https://evil.example", "")
	assert.Equal(t, 403, status)
	status, _ = b.tell("DELETE", "/r/s/"+id, origin, "")
	assert.Equal(t, 204, status)
	for _, method := range []string{"GET", "DELETE"} {
		status, _ = b.tell(method, "/r/s/"+id, origin, "")
		assert.Equal(t, 410, status)
	}
	status, _ = b.tell("POST", at, origin, told())
	assert.Equal(t, 410, status, "what was erased does not come back")
	status, _ = b.tell("GET", "/r/s/"+strings.Repeat("0", 32), origin, "")
	assert.Equal(t, 404, status)

	// An answer to a version that is out no more is still one.
	b.clock.Set(start.AddDate(0, 0, 1))
	n, err := b.server.Store.Notice(t.Context(), "s", "ask")
	require.NoError(t, err)
	_, err = b.server.Store.Change(
		t.Context(),
		"s",
		"ask",
		n.Revision,
		func(n *store.Notice, number int) (store.Entry, error) {
			next := *n.Published
			next.Content = &bundle.Content{Wordings: map[string]bundle.Wording{
				"en": {Message: "May we now?"},
				"de": {Message: "Dürfen wir?", Unread: true},
			}}
			n.Published, n.Number, n.PublishedAt = &next, number, b.clock.Now()
			return store.Entry{Number: number}, nil
		},
	)
	require.NoError(t, err)
	require.NoError(t, b.server.Hub.Reload(t.Context(), "s"))
	site := b.server.Hub.Site("s")
	require.Len(t, site.Shown, 4, "a form for each rule, and for each wording that a place prescribes")
	for _, shown := range site.Shown {
		assert.Contains(t, shown.HTML, "May we now?", "nothing of the German draft, which nobody has read")
	}
	status, _ = b.tell("POST", at, origin, told("id", `"22112233445566778899aabbccddeeff"`))
	assert.Equal(t, 428, status, "the mark of yesterday’s decision has run out")
	_, body, _ = b.visit(origin, `{"url":"/book"}`)
	require.NoError(t, json.Unmarshal([]byte(body), &answer))
	status, _ = b.tell("POST", "/r/s?mark="+answer.Consent.Mark, origin, told("id", `"22112233445566778899aabbccddeeff"`))
	assert.Equal(t, 204, status)
	counts, err := b.server.Store.ConsentCounts(t.Context(), "s", "2026-12-01", "2026-12-31")
	require.NoError(t, err)
	assert.Len(t, counts, 2, "each on its day")
}

// Who begins to use the table of places has read it up to today's version.
func TestTableIsReadFromTheBeginning(t *testing.T) {
	b := newBench(t).signIn()
	var d sites.SiteDetail
	b.call("GET", "/api/sites/s", nil, &d)
	d.Site.Consent = &consent.Setup{Purposes: []consent.Purpose{{ID: "marketing"}}}
	var after sites.SiteDetail
	b.call("PUT", "/api/sites/s", sites.SiteChange{Revision: d.Revision, Site: d.Site}, &after)
	assert.Equal(t, consent.TableDate(), after.Site.Consent.TableRead)
	after.Site.Consent.TableRead = "2026-01-01"
	b.call("PUT", "/api/sites/s", sites.SiteChange{Revision: after.Revision, Site: after.Site}, &d)
	assert.Equal(t, "2026-01-01", d.Site.Consent.TableRead, "what is said stays")
}
