package survey_test

import (
	"bytes"
	"compress/gzip"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/internal/outbound"
	"mastflag/internal/store"
	"mastflag/internal/survey"
)

// to is a guard that lets a test reach a server of this machine.
func to(address string) *outbound.Guard {
	return outbound.New(outbound.Options{Flag: "--site-hosts", Allowed: []string{strings.TrimPrefix(address, "http://")}})
}

const ns = `xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"`

// outside is a site whose answers are given by path; HOST in them is its own
// address.
func outside(t *testing.T, answers map[string]string) *httptest.Server {
	t.Helper()
	var hs *httptest.Server
	hs = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, ok := answers[r.URL.Path]
		switch {
		case !ok:
			http.NotFound(w, r)
		case strings.HasPrefix(body, "-> "):
			http.Redirect(w, r, strings.ReplaceAll(body[3:], "HOST", hs.URL), http.StatusFound)
		default:
			fmt.Fprint(w, strings.ReplaceAll(body, "HOST", hs.URL))
		}
	}))
	t.Cleanup(hs.Close)
	return hs
}

func packed(t *testing.T, s string) string {
	t.Helper()
	var b bytes.Buffer
	zw := gzip.NewWriter(&b)
	_, err := zw.Write([]byte(s))
	require.NoError(t, err)
	require.NoError(t, zw.Close())
	return b.String()
}

func TestSurvey(t *testing.T) {
	const tag = `<script src="https://notices.example/s/x.js" async></script>`
	hs := outside(t, map[string]string{
		"/sitemap.xml": `<sitemapindex ` + ns + `><sitemap><loc>HOST/a.xml</loc></sitemap><sitemap><loc> HOST/b.xml </loc></sitemap><sitemap><loc>https://elsewhere.example/c.xml</loc></sitemap></sitemapindex>`,
		"/a.xml":       `<urlset ` + ns + `><url><loc>HOST/</loc><lastmod>2026-01-01</lastmod></url><url><loc>HOST/caf%c3%a9/?x=1</loc></url><url><loc>https://elsewhere.example/other</loc></url></urlset>`,
		"/b.xml":       `<urlset ` + ns + `><url><loc>HOST/gone</loc></url><url><loc>HOST/moved</loc></url><url><loc>HOST/away</loc></url><url><loc>HOST/</loc></url></urlset>`,
		"/":            `<!doctype html><html lang=de-at><head><title>Fähren &amp; Boote – Die Inseln</title>` + tag,
		"/café": `<html><title> Kaffee
			– Die Inseln</title><!-- ` + tag + ` --><p>` + "https://notices.example/s/x.js",
		"/moved": `-> HOST/`,
		"/away":  `-> http://elsewhere.invalid/`,
	})
	got, err := survey.New(to(hs.URL)).Survey(t.Context(), hs.URL, "/s/x.js", []string{"html > body > p", "!", "title", "tbody"})
	require.NoError(t, err)
	type row struct{ path, title, lang, snippet, lost string }
	rows := []row{}
	for _, p := range got {
		if strings.HasPrefix(p.Snippet, "could not be read") {
			assert.Contains(t, p.Snippet, "another site")
			p.Snippet = "could not be read"
		}
		rows = append(rows, row{p.Path, p.Title, p.Language, p.Snippet, strings.Join(p.Lost, ", ")})
	}
	assert.Equal(t, []row{
		{"/", "Fähren & Boote", "de-AT", store.SnippetFound, "html > body > p, tbody"},
		{"/away", "", "", "could not be read", ""},
		{"/caf%C3%A9", "Kaffee", "", store.SnippetMissing, "tbody"}, // in a comment and as words it does not count
		{"/gone", "", "", "answered with status 404", ""},
		{"/moved", "Fähren & Boote", "de-AT", store.SnippetFound, "html > body > p, tbody"},
	}, rows)
}

func TestSitemapsOfAllSorts(t *testing.T) {
	for _, c := range []struct {
		name, body, wrong string
		pages             int
	}{
		{"plain", `<urlset ` + ns + `><url><loc>HOST/a</loc></url></urlset>`, "", 1},
		{"packed", "gzip", "", 1},
		{"none at all: the home page", "", "", 1},
		{"not XML", "hello", "is not a sitemap", 0},
		{"another document", "<html></html>", "its root is <html>", 0},
		{"an entity bomb", `<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><urlset ` + ns + `><url><loc>&b;</loc></url></urlset>`, "is not a sitemap", 0},
		{"packed beyond measure", "bomb", "larger than 10 MB", 0},
		{"an index that names itself, without end", `<sitemapindex ` + ns + `><sitemap><loc>HOST/sitemap.xml</loc></sitemap></sitemapindex>`, "", 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			answers := map[string]string{"/a": "<title>a", "/": "<title>home"}
			switch c.body {
			case "":
			case "gzip":
				answers["/sitemap.xml"] = packed(t, `<urlset `+ns+`></urlset>`)
				c.pages = 0
			case "bomb":
				answers["/sitemap.xml"] = packed(t, strings.Repeat(" ", 11<<20))
			default:
				answers["/sitemap.xml"] = c.body
			}
			there := outside(t, answers).URL
			got, err := survey.New(to(there)).Survey(t.Context(), there, "/s/x.js", nil)
			if c.wrong != "" {
				assert.ErrorContains(t, err, c.wrong)
				return
			}
			require.NoError(t, err)
			assert.Len(t, got, c.pages)
		})
	}
	_, err := survey.New(to("http://127.0.0.1:1")).Survey(t.Context(), "http://127.0.0.1:1", "/s/x.js", nil)
	assert.ErrorContains(t, err, "Check the site’s address")
	_, err = survey.New(to("")).Survey(t.Context(), "file:///etc/passwd", "/s/x.js", nil)
	assert.ErrorContains(t, err, "not an http or https address")
}

// Colours and fonts are those that the site's own sheets use, in any form of
// CSS Color 4 that names one solid colour; what is see-through or another
// site's is none.
func TestStyles(t *testing.T) {
	hs := outside(t, map[string]string{
		"/de": `<html><head><link rel="stylesheet" href="/a.css"><link rel="preload stylesheet" href="b.css"><link rel="stylesheet" href="https://elsewhere.test/c.css"><link rel=icon href=/i>
			<style>a{color:#abc} b{color:rgb(1, 2, 3)} i{color:rgba(1,2,3,.5)}</style></head></html>`,
		"/a.css": `:root{--brand-blue:#102030;--gap:4px} h1{color:#102030;font-family:"Sea Sans",serif} p{font:italic 17px/1.6 Georgia , serif;border:1px solid #AABBCC80} u{color:#102030ff;background:rgb(10%,2%,3%)} q{font-family:inherit} broken{`,
		"/b.css": `s{color:#abc;font-family:Georgia, serif}`,
	})
	colours, fonts, err := survey.New(to(hs.URL)).Styles(t.Context(), hs.URL, "/de")
	require.NoError(t, err)
	assert.Equal(t, []survey.Found{{Value: "#102030", Times: 3, Name: "brand-blue"}, {Value: "#aabbcc", Times: 2}, {Value: "#010203", Times: 1}}, colours)
	assert.Equal(t, []string{"Georgia, serif", `"Sea Sans", serif`}, fonts)
	_, _, err = survey.New(to(hs.URL)).Styles(t.Context(), hs.URL, "/none")
	assert.ErrorContains(t, err, "status 404")
	_, _, err = survey.New(to("")).Styles(t.Context(), "ftp://x", "/")
	assert.Error(t, err)
}
