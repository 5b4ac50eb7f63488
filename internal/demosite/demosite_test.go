package demosite_test

import (
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/internal/demosite"
)

var hrefs = regexp.MustCompile(`href="(/[^"#]*)"`)

// Every page is there in three languages, carries the snippet once, stands
// under a strict policy, and leads only to pages that are there.
func TestEveryPage(t *testing.T) {
	site := demosite.New(
		`<script src="http://notices.example/s/x.js" async></script>`, "http://notices.example", "'sha256-x'",
	)
	hs := httptest.NewServer(site)
	defer hs.Close()
	get := func(path string) (*http.Response, string) {
		res, err := http.Get(hs.URL + path)
		require.NoError(t, err)
		defer res.Body.Close()
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res, string(body)
	}
	require.Len(t, site.Paths(), 66)
	languages := map[string]int{}
	for _, path := range site.Paths() {
		res, body := get(path)
		require.Equal(t, http.StatusOK, res.StatusCode, path)
		assert.Equal(t, 1, strings.Count(body, "/s/x.js"), path)
		assert.Contains(
			t, res.Header.Get("Content-Security-Policy"),
			"script-src http://notices.example 'sha256-x' 'self' http://localhost:",
		)
		lang := regexp.MustCompile(`<html lang="(\w+)">`).FindStringSubmatch(body)
		require.NotNil(t, lang, path)
		languages[lang[1]]++
		assert.NotContains(t, body, "%!", path)
		for _, m := range hrefs.FindAllStringSubmatch(body, -1) {
			if m[1] != "/site.css" && !strings.HasPrefix(m[1], "/vendors/") {
				assert.Contains(t, site.Paths(), m[1], "from %s", path)
			}
		}
	}
	assert.Equal(t, map[string]int{"en": 22, "de": 22, "pl": 22}, languages)
	res, _ := get("/no/such/page")
	assert.Equal(t, http.StatusNotFound, res.StatusCode)
	// The Global Privacy Control specification, its support resource (from memory).
	_, body := get("/.well-known/gpc.json")
	var said struct {
		GPC        bool
		LastUpdate string
	}
	require.NoError(t, json.Unmarshal([]byte(body), &said))
	assert.True(t, said.GPC)
	_, body = get("/sitemap.xml")
	assert.Contains(t, body, "/sitemap-pl.xml.gz</loc>")
	res, _ = get("/sitemap-fr.xml.gz")
	assert.Equal(t, http.StatusNotFound, res.StatusCode)
}
