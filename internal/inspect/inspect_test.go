package inspect_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/internal/inspect"
	"mastflag/internal/outbound"
)

var now = time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)

// Without a browser pages are read: what responses set and what is written in
// them is found, what is marked is not, and other sites are not entered.
func TestReadingWithoutABrowser(t *testing.T) {
	elsewhere := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) {
		t.Error("another site was entered")
	}))
	defer elsewhere.Close()
	site := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Path {
		case "/":
			http.SetCookie(w, &http.Cookie{Name: "basket", Value: "1"})
			w.Header().Add("Set-Cookie", "old=; max-age=0")
			w.Header().Add("Set-Cookie", "uid=7; max-age=86400; domain=tracker.example")
			w.Write([]byte(`<link rel="stylesheet" href="https://fonts.example/a.css"><link rel="canonical" ` +
				`href="https://canon.example/"><script src="//count.example/c.js"></script>
				<script type="text/plain" data-purpose="marketing" src="https://offers.example/o.js"></script><iframe ` +
				`src="https://films.example/1"></iframe><iframe data-purpose="films" data-src="https://held.example/"></iframe>` +
				`<img src="/own.png"><script src="/s/s.js"></script>`))
		case "/away":
			http.Redirect(w, r, strings.Replace(elsewhere.URL, "127.0.0.1", "localhost", 1)+"/", http.StatusFound)
		case "/broken":
			w.WriteHeader(http.StatusBadGateway)
		}
	}))
	defer site.Close()
	guard := outbound.New(outbound.Options{
		Flag:    "--site-hosts",
		Allowed: []string{strings.TrimPrefix(site.URL, "http://")},
	})
	var told []inspect.Progress
	job := inspect.Job{
		Origin: site.URL,
		Pages:  []string{"/", "/away", "/broken"},
		Own:    func(h string) bool { return h == "127.0.0.1" },
		Base:   "http://notices.example",
	}
	run, _, err := (&inspect.Inspector{Guard: guard}).Run(
		t.Context(), job, now, func(p inspect.Progress) { told = append(told, p) },
	)
	require.NoError(t, err)
	assert.Equal(t, "http", run.How)
	assert.True(t, run.NoQuestion, "it cannot answer")
	assert.Len(t, told, 3)
	var found []string
	for _, s := range run.Found {
		found = append(found, string(s.Kind)+" "+s.Name+" "+s.Host+" "+s.Lasts)
		assert.Equal(t, consent.Unanswered, s.Phase)
	}
	assert.ElementsMatch(t, []string{
		"cookie basket  session", "cookie uid tracker.example P1D", "request fonts.example  ", "request count.example  ",
		"frame films.example  ",
	}, found)
	require.Len(t, run.Faults, 2)
	assert.Contains(t, run.Faults[0].Why, "leads to another site")
	assert.Contains(t, run.Faults[1].Why, "502")

	stopped, cancel := context.WithCancel(t.Context())
	cancel()
	run, _, err = (&inspect.Inspector{Guard: guard}).Run(stopped, job, now, func(inspect.Progress) {})
	require.NoError(t, err)
	assert.True(t, run.Stopped)
	site.Close()
	_, _, err = (&inspect.Inspector{Guard: guard}).Run(t.Context(), job, now, func(inspect.Progress) {})
	assert.ErrorContains(t, err, "no page of "+site.URL+" could be visited")
	_, _, err = (&inspect.Inspector{
		Chromium:       "/nowhere/chromium",
		Guard:          guard,
		WithoutSandbox: true,
	}).Run(t.Context(), job, now, func(inspect.Progress) {})
	assert.ErrorContains(t, err, "Chromium does not start")
}

// Few pages stand for all: home, each type and section, each language.
func TestChoose(t *testing.T) {
	known := []bundle.Page{
		{Path: "/"}, {Path: "/a/1", Type: "x"}, {Path: "/a/2", Type: "x"}, {Path: "/a/3", Type: "y"}, {Path: "/b"},
		{Path: "/de/a", Language: "de", Type: "x"},
	}
	assert.Equal(t, []string{"/", "/de", "/a/1", "/a/3", "/de/a"}, inspect.Choose(known, []string{"/", "/de"}, 5))
	assert.Len(t, inspect.Choose(known, []string{"/"}, 100), 6, "all, where there is room")
	assert.Equal(t, []string{"/"}, inspect.Choose(nil, []string{"/"}, 5))
}
