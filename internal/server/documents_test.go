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
	"mastflag/core/document"
	"mastflag/core/pages"
	"mastflag/core/xliff"
	"mastflag/internal/admin/consents"
	"mastflag/internal/admin/documents"
	"mastflag/internal/admin/languages"
	"mastflag/internal/admin/notices"
	"mastflag/internal/admin/sites"
	"mastflag/internal/compiled"
	"mastflag/internal/importing"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// written begins a document of one's own and publishes some texts, one version each.
func (b *bench) written(title string, texts ...string) documents.DocumentDetail {
	b.t.Helper()
	var d documents.DocumentDetail
	b.call("POST", "/api/sites/s/documents", documents.NewDocument{Kind: document.Own, Title: title}, &d)
	for _, text := range texts {
		b.call(
			"PUT",
			"/api/sites/s/documents/"+d.ID,
			documents.DocumentChange{
				Mark:   d.Mark,
				Titles: d.Titles,
				Own:    map[string]map[string]string{"text": {"en": text}},
			},
			&d,
		)
		b.call(
			"POST",
			"/api/sites/s/documents/"+d.ID+"/publish",
			documents.DocumentPublish{Mark: d.Mark, Change: document.Material},
			&d,
		)
	}
	return d
}

// demanded publishes a disclaimer about a document.
func (b *bench) demanded(id string, ask bundle.Ask) {
	b.t.Helper()
	site, err := b.server.Store.Site(b.t.Context(), "s")
	require.NoError(b.t, err)
	at := start.AddDate(0, 0, -1)
	_, err = importing.Bundle(
		b.t.Context(),
		b.server.Store,
		bundle.Bundle{
			Format: bundle.Format,
			Site:   site.Site,
			Notices: []bundle.Notice{
				{ID: "risk", Kind: bundle.KindDisclaimer, State: bundle.Published, PublishedAt: &at,
					Pages: &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
					Content: &bundle.Content{
						Disclaimer: &bundle.Disclaimer{Document: id, Ask: ask, OnDecline: "/book"},
						Wordings:   map[string]bundle.Wording{"en": {Message: "Risk"}},
					}},
			},
		},
		store.By{Name: "test"},
		start,
	)
	require.NoError(b.t, err)
	require.NoError(b.t, b.server.Hub.Reload(b.t.Context(), "s"))
}

// What a visitor answered is called by what they have read: by the published title of
// its document, or by the first words. Working titles, and titles of drafts, are for
// those who write.
func TestDisclaimersAreCalledByWhatVisitorsRead(t *testing.T) {
	b := newBench(t).signIn()
	const says = `"titles":{"%s":"%s"}`
	b.demanded("", bundle.AskDeclare)
	n, err := b.server.Store.Notice(t.Context(), "s", "risk")
	require.NoError(t, err)
	n.Published.Title = "Legal insists on this one"
	_, err = b.server.Store.Change(
		t.Context(),
		"s",
		"risk",
		n.Revision,
		func(row *store.Notice, _ int) (store.Entry, error) {
			row.Published = n.Published
			return store.Entry{At: start}, nil
		},
	)
	require.NoError(t, err)
	require.NoError(t, b.server.Hub.Reload(t.Context(), "s"))
	_, body, _ := b.visit(origin, aVisit)
	assert.Contains(t, body, fmt.Sprintf(says, "notice:risk", "Risk"))
	assert.NotContains(t, body, "Legal insists")

	d := b.written("House rules", "<h2>Rules</h2><p>One.</p>")
	b.demanded(d.ID, bundle.AskAcknowledge)
	b.call("PUT", "/api/sites/s/documents/house-rules", documents.DocumentChange{
		Mark: d.Mark, Titles: map[string]string{"en": "House rules, if the board agrees"}, Own: d.Own}, &d)
	require.NoError(t, b.server.Hub.Reload(t.Context(), "s"))
	_, body, _ = b.visit(origin, aVisit)
	assert.Contains(t, body, fmt.Sprintf(says, "house-rules", "House rules"))
	assert.NotContains(t, body, "if the board agrees")
}

// What is refused, and that nothing is lost by it.
func TestDocumentsOverTheAPI(t *testing.T) {
	b := newBench(t).signIn()
	d := b.written("House rules", "<h2>Rules</h2><p>One.</p>")
	assert.Equal(t, []any{"house-rules", 1, "House rules"}, []any{d.ID, d.Version, d.Title})
	path := "/api/sites/s/documents/house-rules"
	put := func(change func(*documents.DocumentChange)) (int, problem.Problem) {
		in := documents.DocumentChange{Mark: d.Mark, Titles: d.Titles, Own: d.Own}
		change(&in)
		var p problem.Problem
		status := b.call("PUT", path, in, nil)
		if status != 200 {
			b.call("PUT", path, in, &p)
		}
		return status, p
	}
	for want, change := range map[string]func(*documents.DocumentChange){
		"Someone else changed this document after you opened it.": func(c *documents.DocumentChange) { c.Mark = "0123" },
		`a document of kind "own" has no section "who"`: func(c *documents.DocumentChange) {
			c.Own = map[string]map[string]string{"who": {"en": "x"}}
		},
		`"x y" is not a language tag`: func(c *documents.DocumentChange) {
			c.Own = map[string]map[string]string{"text": {"x y": "x"}}
		},
		`a document of kind "own" is not asked "operator"`: func(c *documents.DocumentChange) {
			c.Answers = map[string]string{"operator": "S"}
		},
		"the text is too long, 50001 characters. Give at most 50000": func(c *documents.DocumentChange) {
			c.Own["text"] = map[string]string{
				"en": strings.Repeat("x", 50_001),
			}
		},
		"the title is longer than 200 characters": func(c *documents.DocumentChange) {
			c.Titles = map[string]string{
				"en": strings.Repeat("x", 201),
			}
		},
	} {
		status, p := put(change)
		assert.GreaterOrEqual(t, status, 400, want)
		assert.Contains(t, p.Detail, want)
		b.call("GET", path, nil, &d)
		assert.Equal(t, "<h2>Rules</h2><p>One.</p>", d.Own["text"]["en"], want)
	}
	// Markup that does something is taken out on the way in.
	status, _ := put(func(c *documents.DocumentChange) {
		c.Own["text"] = map[string]string{
			"en": `<h2 onclick="x()">Rules</h2><p>Two <script>x()</script><a href="javascript:x()">here</a></p>`,
		}
	})
	require.Equal(t, 200, status)
	b.call("GET", path, nil, &d)
	assert.Equal(t, `<h2>Rules</h2><p>Two <a>here</a></p>`, d.Own["text"]["en"])
	assert.Equal(t, []string{"en"}, d.Behind)

	// Publishing from a stale draft, and what is no kind of change.
	var p problem.Problem
	b.call("POST", path+"/publish", documents.DocumentPublish{Mark: "0123", Change: document.Editorial}, &p)
	assert.Equal(t, 409, p.Status)
	b.call("POST", path+"/publish", documents.DocumentPublish{Mark: d.Mark, Change: "small"}, &p)
	assert.Contains(t, p.Detail, `"small" is no kind of change`)
	b.call(
		"POST",
		path+"/publish",
		documents.DocumentPublish{Mark: d.Mark, Change: document.Editorial, Why: "Shorter."},
		&d,
	)
	assert.Equal(t, []any{2, 1, "Shorter."}, []any{d.Version, d.Material, d.Versions[0].Why})
	b.call("POST", path+"/publish", documents.DocumentPublish{Mark: d.Mark, Change: document.Editorial}, &p)
	assert.Contains(t, p.Detail, "nothing has changed since version 2")

	// The site's own call cannot slip another text under a version.
	var site sites.SiteDetail
	b.call("GET", "/api/sites/s", nil, &site)
	text := site.Site.Documents[0].Published["en"]
	text.Text = "<p>Three.</p>"
	site.Site.Documents[0].Published["en"] = text
	b.call("PUT", "/api/sites/s", sites.SiteChange{Revision: site.Revision, Site: site.Site}, &p)
	assert.Contains(t, p.Detail, "Documents are changed and published in their own rooms")

	// Nor can an import; and documents that a bundle does not name stay.
	kept, err := compiled.Load(t.Context(), b.server.Store, "s")
	require.NoError(t, err)
	other := kept
	other.Site.Documents = []document.Document{site.Site.Documents[0]}
	_, err = importing.Bundle(t.Context(), b.server.Store, other, store.By{Name: "test"}, start)
	assert.ErrorContains(
		t,
		err,
		"version 2 of “house-rules” is kept here and says something else: a version is never altered",
	)
	other.Site.Documents = []document.Document{{ID: "house-rules", Kind: document.Own}}
	_, err = importing.Bundle(t.Context(), b.server.Store, other, store.By{Name: "test"}, start)
	assert.ErrorContains(t, err, "version 2 of “house-rules” is out here, and the bundle has version 0")
	other.Site.Documents = []document.Document{{ID: "more", Kind: document.Terms}}
	_, err = importing.Bundle(t.Context(), b.server.Store, other, store.By{Name: "test"}, start)
	require.NoError(t, err)
	now, err := compiled.Load(t.Context(), b.server.Store, "s")
	require.NoError(t, err)
	assert.Len(t, now.Site.Documents, 2)

	// It is not removed while something leads to it; afterwards its versions stay.
	b.demanded("house-rules", bundle.AskAcknowledge)
	b.call("POST", path+"/delete", nil, &p)
	assert.Equal(t, "“risk” leads to it. Take it out there first. Nothing was removed.", p.Detail)
	row, err := b.server.Store.Notice(t.Context(), "s", "risk")
	require.NoError(t, err)
	b.call("POST", "/api/sites/s/notices/risk/delete", notices.Step{Revision: row.Revision}, nil)
	var list documents.DocumentList
	b.call("POST", path+"/delete", nil, &list)
	assert.Len(t, list.Documents, 1)
	_, page := b.page("/t/s/house-rules/en/1", "")
	assert.Contains(t, page, "<p>One.</p>")
	var again documents.DocumentDetail
	b.call("POST", "/api/sites/s/documents", documents.NewDocument{Kind: document.Own, Title: "House rules"}, &again)
	assert.Equal(t, "house-rules-2", again.ID, "an address is never given twice")
}

// page reads a page of a document as a browser of some languages does.
func (b *bench) page(path, languages string) (*http.Response, string) {
	b.t.Helper()
	return b.fetch(path, "Accept-Language", languages)
}

// fetch reads what anyone can, asking with a header.
func (b *bench) fetch(path, header, value string) (*http.Response, string) {
	b.t.Helper()
	r, err := http.NewRequest("GET", b.url+path, nil)
	require.NoError(b.t, err)
	r.Header.Set(header, value)
	res, err := http.DefaultClient.Do(r)
	require.NoError(b.t, err)
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	require.NoError(b.t, err)
	return res, string(body)
}

// Each version has a lasting address in each language, without script and cookies.
func TestDocumentPages(t *testing.T) {
	b := newBench(t).signIn().german()
	d := b.written("Rules & <i>more</i>", "<h2>Rules</h2><p>One rule.</p>", "<h2>Rules</h2><p>Two rules.</p>")
	b.call(
		"PUT",
		"/api/sites/s/documents/"+d.ID,
		documents.DocumentChange{Mark: d.Mark, Titles: map[string]string{"en": "Rules & <i>more</i>", "de": "Regeln"},
			Own: map[string]map[string]string{
				"text": {"en": "<h2>Rules</h2><p>Two rules.</p>", "de": "<h2>Regeln</h2><p>Zwei Regeln.</p>"},
			}},
		&d,
	)
	b.call(
		"POST",
		"/api/sites/s/documents/"+d.ID+"/publish",
		documents.DocumentPublish{Mark: d.Mark, Change: document.Editorial},
		&d,
	)
	require.Equal(t, 3, d.Version)
	at := "/t/s/" + d.ID
	for _, c := range []struct {
		path, languages string
		status          int
		has             []string
	}{
		{
			at, "", 200,
			[]string{
				`<html lang="en"`, "Rules &amp; &lt;i&gt;more&lt;/i&gt;</h1>", "<p>Two rules.</p>", "Version 3, since",
				"what changed",
			},
		},
		{at, "fr, de-CH;q=0.8, en;q=0.5", 200, []string{`<html lang="de"`, "<p>Zwei Regeln.</p>", "Fassung 3, seit"}},
		{at + "/de-AT", "en", 200, []string{`<html lang="de"`}},
		{at + "/en/1", "", 200, []string{"<p>One rule.</p>", "A later one is out.", `href="` + at + `/en"`}},
		{
			at + "/en/2?from=1", "", 200,
			[]string{"<del>One rule. </del>", "<ins>Two rules. </ins>", "What changed from version 1 to version 2"},
		},
		{"/t/s", "", 200, []string{`href="` + at + `/en"`}},
		{"/t/s", "de", 200, []string{">Regeln</a>"}},
		{at + "/en/4", "", 404, []string{"There is no such document here"}},
		{at + "/en/2?from=9", "", 404, nil},
		{at + "/en/x", "", 404, nil},
		{"/t/s/gone", "de", 404, []string{"Dieses Dokument gibt es hier nicht"}},
		{"/t/gone/privacy", "", 404, nil},
		{"/t/s/%3Cscript%3E", "", 404, nil},
		{at + "/%22%3E%3Cscript%3E", "", 200, []string{"<p>Two rules.</p>"}},
	} {
		res, body := b.page(c.path, c.languages)
		assert.Equal(t, c.status, res.StatusCode, c.path)
		for _, want := range c.has {
			assert.Contains(t, body, want, c.path)
		}
		assert.NotContains(t, body, "<script", c.path)
		assert.Empty(t, res.Header.Get("Set-Cookie"), c.path)
		assert.Contains(t, res.Header.Get("Content-Security-Policy"), "default-src 'none'", c.path)
	}
	for as, want := range map[string]string{
		"html":     "<h1>Rules &amp; &lt;i&gt;more&lt;/i&gt;</h1>",
		"markdown": "## Rules\n\nTwo rules.",
		"text":     "Rules\n\nTwo rules.",
	} {
		res, body := b.page(at+"/en?as="+as, "")
		assert.Contains(t, body, want)
		assert.Contains(t, res.Header.Get("Content-Disposition"), `attachment; filename="`+d.ID+`.en.`)
	}
	res, _ := b.page(at+"/en?as=exe", "")
	assert.Equal(t, 404, res.StatusCode)
}

// Sections go to a translator and come back; what they were made from may have
// changed meanwhile, and is then to be read again.
func TestDocumentsAreTranslated(t *testing.T) {
	b := newBench(t).signIn().german()
	d := b.written("Rules", "<h2>Rules</h2><p>One <strong>rule</strong>.</p>")
	var f languages.XLIFFFile
	b.call("GET", "/api/sites/s/xliff?language=de&document=rules", nil, &f)
	assert.Equal(t, "rules.en-de.xlf", f.Name)
	x, err := xliff.Read(strings.NewReader(f.Text))
	require.NoError(t, err)
	require.Len(t, x.Texts, 1)
	assert.Equal(
		t,
		[]string{"document:rules:text", "<h2>Rules</h2><p>One <strong>rule</strong>.</p>"},
		[]string{x.Texts[0].Notice, x.Texts[0].From.Message},
	)
	x.Texts[0].To.Message = "<h2>Regeln</h2><p>Eine <strong>Regel</strong>.</p>"
	foreign := x.Texts[0]
	foreign.Notice = "document:gone:text"
	wrong := x.Texts[0]
	wrong.Notice = "document:rules:who"
	x.Texts = append(x.Texts, foreign, wrong)
	var back strings.Builder
	require.NoError(t, xliff.Write(&back, x))
	var taken languages.Translated
	b.call("POST", "/api/sites/s/xliff", languages.XLIFFFile{Name: f.Name, Text: back.String()}, &taken)
	assert.Equal(t, []string{"Rules"}, taken.Changed)
	assert.Equal(
		t,
		[]string{
			"document:gone:text: there is no such text",
			`document:rules:who: a document of kind "own" has no section "who"`,
		},
		taken.Left,
	)
	section := func() document.Section {
		b.call("GET", "/api/sites/s/documents/rules?language=de", nil, &d)
		return d.Sections[0]
	}
	assert.Equal(
		t,
		[]any{document.ByHand, "<h2>Regeln</h2><p>Eine <strong>Regel</strong>.</p>"},
		[]any{section().From, section().HTML},
	)
	change := documents.DocumentChange{Mark: d.Mark, Titles: d.Titles, Own: d.Own, Language: "de"}
	change.Own["text"]["en"] = "<h2>Rules</h2><p>Two rules.</p>"
	b.call("PUT", "/api/sites/s/documents/rules", change, &d)
	assert.Equal(t, document.Again, section().From)
	// Read again, it still holds.
	change.Mark, change.Read = d.Mark, []document.SectionRef{{Section: "text", Language: "de"}}
	b.call("PUT", "/api/sites/s/documents/rules", change, &d)
	assert.Equal(t, document.ByHand, section().From)
}

// What pages may tell of disclaimers, and what they may not: an answer about a
// version that never was, or to a text that was never shown, makes no record.
func TestAcknowledgementsOverHTTP(t *testing.T) {
	b := newBench(t).signIn()
	b.written("Rules", "<p>One.</p>", "<p>Two.</p>")
	b.demanded("rules", bundle.AskAcknowledge)
	_, body, _ := b.visit(origin, `{"url":"/book"}`)
	var answer struct {
		Show []struct {
			HTML      string
			Disclaims struct {
				Hash, Ask, As, Else string
				Version             int
			}
		}
		Disclaimer struct {
			Mark   string
			Titles map[string]string
		}
	}
	require.NoError(t, json.Unmarshal([]byte(body), &answer))
	require.Len(t, answer.Show, 1)
	shown := answer.Show[0].Disclaims
	assert.Equal(t, []any{"acknowledge", "rules", "/book", 2}, []any{shown.Ask, shown.As, shown.Else, shown.Version})
	assert.Equal(t, map[string]string{"rules": "Rules"}, answer.Disclaimer.Titles)
	assert.Contains(t, answer.Show[0].HTML, "<p>Two.</p>")
	const id = "0123456789abcdef0123456789abcdef"
	path := "/r/s?mark=" + answer.Disclaimer.Mark
	says := func(outcome, hash string, version int, more string) string {
		return fmt.Sprintf(
			`{"id":%q,"hash":%q,"outcome":%q,"version":%d,"page":"/book?x=1"%s}`,
			id,
			hash,
			outcome,
			version,
			more,
		)
	}
	for want, forged := range map[string]string{
		"version 3 was not what was shown: that was 2":              says("acknowledged", shown.Hash, 3, ""),
		"version 1 was not what was shown: that was 2":              says("acknowledged", shown.Hash, 1, ""),
		"The answer is to no question that this site ever showed":   says("acknowledged", strings.Repeat("ab", 32), 2, ""),
		`"outcome" "declared" is neither acknowledged nor declined`: says("declared", shown.Hash, 2, ""),
		`"outcome" "" is neither`:                                   says("", shown.Hash, 2, ""),
		"no purpose was asked about": says(
			"acknowledged", shown.Hash, 2, `,"granted":["marketing"]`,
		),
		`"id" is not 32 hexadecimal digits`: strings.Replace(
			says("acknowledged", shown.Hash, 2, ""), id, "x", 1,
		),
		`"page" "//evil" is not the path of a page`: strings.Replace(
			says("acknowledged", shown.Hash, 2, ""), "/book?x=1", "evil", 1,
		),
	} {
		status, reply := b.tell("POST", path, origin, forged)
		assert.Equal(t, 422, status, want)
		if !strings.Contains(want, "//evil") {
			assert.Contains(t, reply, strings.ReplaceAll(want, `"`, `\"`))
		}
	}
	status, _ := b.tell("POST", "/r/s?mark=x", origin, says("acknowledged", shown.Hash, 2, ""))
	assert.Equal(t, 428, status)
	head, err := b.server.Store.ConsentHead(t.Context(), "s")
	require.NoError(t, err)
	assert.Zero(t, head.Seq, "nothing of that is a record")

	for range 2 { // told twice, kept once
		status, _ = b.tell("POST", path, origin, says("acknowledged", shown.Hash, 2, ""))
		assert.Equal(t, 204, status)
		b.tell("POST", path, origin, `{"asked":true,"hash":"`+shown.Hash+`"}`)
	}
	_, receipt := b.tell("GET", "/r/s/"+id, origin, "")
	var got struct {
		Record consent.Record
		Shown  compiled.Shown
	}
	require.NoError(t, json.Unmarshal([]byte(receipt), &got))
	site, err := b.server.Store.Site(t.Context(), "s")
	require.NoError(t, err)
	assert.Equal(
		t,
		[]any{consent.Acknowledged, "rules", 2, site.Documents[0].Published["en"].Hash(), "/book"},
		[]any{
			got.Record.EventType,
			got.Record.Document,
			got.Record.DocumentVersion,
			got.Record.DocumentHash,
			got.Record.Page,
		},
	)
	assert.Contains(t, got.Shown.HTML, "<p>Two.</p>")
	var counts consents.DisclaimerCounts
	b.call("GET", "/api/sites/s/acknowledgements", nil, &counts)
	require.Len(t, counts.Rows, 1)
	assert.Equal(
		t,
		[]any{2, 2, 1, 0, 1},
		[]any{
			counts.Rows[0].Version,
			counts.Rows[0].Shown,
			counts.Rows[0].Agreed.N,
			counts.Rows[0].Declined.N,
			counts.Rows[0].Left.N,
		},
	)
	var trends consents.Trends
	b.call("GET", "/api/sites/s/consent/trends", nil, &trends)
	assert.Zero(t, trends.All.Asked, "questions about consent are counted apart")
	_, table := b.file("/api/sites/s/consent/records.csv")
	assert.Contains(t, table, `"acknowledged","risk"`)
	status, _ = b.tell("DELETE", "/r/s/"+id, origin, "")
	assert.Equal(t, 204, status)
	var proof consents.ProofCard
	b.call("POST", "/api/sites/s/consent/verify", nil, &proof)
	assert.True(t, proof.Whole)
	assert.EqualValues(t, 1, proof.Erased)
	// One that says nothing shows nothing, and harms no decision.
	site, err = b.server.Store.Site(t.Context(), "s")
	require.NoError(t, err)
	at := start.AddDate(0, 0, -1)
	_, err = importing.Bundle(
		t.Context(),
		b.server.Store,
		bundle.Bundle{
			Format: bundle.Format,
			Site:   site.Site,
			Notices: []bundle.Notice{
				{ID: "risk", Kind: bundle.KindDisclaimer, State: bundle.Published, PublishedAt: &at,
					Pages: &pages.Conditions{
						Include: []pages.Entry{{Match: pages.All}},
					}, Content: &bundle.Content{Disclaimer: &bundle.Disclaimer{Ask: bundle.AskDeclare}}},
			},
		},
		store.By{Name: "test"},
		start,
	)
	require.NoError(t, err)
	require.NoError(t, b.server.Hub.Reload(t.Context(), "s"))
	status, body, _ = b.visit(origin, `{"url":"/book"}`)
	assert.Equal(t, 200, status)
	assert.Contains(t, body, `"show":[]`)
	b.demanded("rules", bundle.AskAcknowledge)
	// A version that is over is known all the same: who had the page open answers to what they saw.
	var d documents.DocumentDetail
	b.call("GET", "/api/sites/s/documents/rules", nil, &d)
	b.call(
		"PUT",
		"/api/sites/s/documents/rules",
		documents.DocumentChange{
			Mark:   d.Mark,
			Titles: d.Titles,
			Own:    map[string]map[string]string{"text": {"en": "<p>Three.</p>"}},
		},
		&d,
	)
	b.call(
		"POST",
		"/api/sites/s/documents/rules/publish",
		documents.DocumentPublish{Mark: d.Mark, Change: document.Material},
		&d,
	)
	status, _ = b.tell(
		"POST",
		path,
		origin,
		strings.Replace(says("acknowledged", shown.Hash, 2, ""), id, strings.Repeat("c", 32), 1),
	)
	assert.Equal(t, 204, status)
}
