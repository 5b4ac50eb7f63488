package server_test

import (
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/internal/admin"
	"mastflag/internal/clock"
	"mastflag/internal/server"
	"mastflag/internal/store"
)

const (
	connections = 64
	requests    = 20_000
)

// BenchmarkDecisionOverHTTP measures the decision over HTTP against a fixed
// reply of 2 KB from the same kind of server, in turn and in one run, with 64
// connections on the loopback address. It prints the ratio of their
// throughputs and of their 99th percentiles.
func BenchmarkDecisionOverHTTP(b *testing.B) {
	st, err := store.Open(b.Context(), b.TempDir())
	require.NoError(b, err)
	defer st.Close()
	in := bundle.Bundle{Format: bundle.Format, Site: bundle.Site{Key: "s", Name: "S", TimeZone: "Europe/London", Language: "en", Origins: []string{origin}}}
	for i := range 500 {
		in.Pages = append(in.Pages, bundle.Page{Path: fmt.Sprintf("/s%d/p%d", i%50, i)})
		n := bundle.Notice{ID: fmt.Sprintf("n%d", i), Kind: bundle.KindBar, State: bundle.Published, Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "<p>The <strong>winter timetable</strong> is in force until the end of March.</p>"}}},
			Pages: &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}}}
		if i%10 < 6 {
			n.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.Section, Path: fmt.Sprintf("/s%d", i%50)}}}
		}
		if i%3 == 0 { // conditions on what comes from headers, referrer and the visitor's browser
			n.Audience = &audience.Node{Group: audience.All, Parts: []audience.Node{{Fact: "visits.number", Is: audience.Gte, Value: 2.0},
				{Group: audience.Any, Parts: []audience.Node{{Fact: "device.kind", Is: audience.Ne, Value: "phone"}, {Fact: "referrer.class", Is: audience.Eq, Value: "search"}}}}}
		}
		in.Notices = append(in.Notices, n)
	}
	_, err = admin.Import(b.Context(), st, in, "bench", start)
	require.NoError(b, err)
	srv, err := server.New(b.Context(), st, server.Options{Base: "http://127.0.0.1", Clock: clock.System{}})
	require.NoError(b, err)
	fixed := gin.New()
	reply := []byte(strings.Repeat("x", 2048))
	fixed.GET("/", func(c *gin.Context) { c.Data(http.StatusOK, "application/json", reply) })
	ours, theirs := httptest.NewServer(srv.Handler), httptest.NewServer(fixed)
	defer ours.Close()
	defer theirs.Close()

	bodies := make([]string, 500) // made before, as a browser's work is not the server's
	for i := range bodies {
		bodies[i] = fmt.Sprintf(
			`{"url":"https://www.s.example/s%d/p%d","wants":"`+srv.Hub.Site("s").Script.Version+`","facts":{"locale.zone":"Europe/Berlin","visits.number":%d,"referrer.url":"https://www.search.example/?q=ferry"},"memory":{"session":"2026-12-04T11:00:00Z","view":"2026-12-04T11:58:00Z","notices":{"n3":{"closed":"2026-12-04T11:00:00Z"}}}}`, i%50, i, 1+i%4)
	}
	decision := func(i int) *http.Request {
		r, _ := http.NewRequest("POST", ours.URL+"/d/s", strings.NewReader(bodies[i%len(bodies)]))
		r.Header.Set("Origin", origin)
		r.Header.Set("User-Agent", "Mozilla/5.0 (Windows NT 10.0; Win64; x64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/126.0.0.0 Safari/537.36")
		return r
	}
	plain := func(int) *http.Request { r, _ := http.NewRequest("GET", theirs.URL+"/", nil); return r }
	var ratios, tails []float64
	for b.Loop() {
		fixedTime, fixedTail := load(b, plain)
		ourTime, ourTail := load(b, decision)
		ratios = append(ratios, fixedTime.Seconds()/ourTime.Seconds())
		tails = append(tails, float64(ourTail)/float64(fixedTail))
	}
	slices.Sort(ratios)
	slices.Sort(tails)
	b.ReportMetric(ratios[len(ratios)/2], "of-fixed-throughput")
	b.ReportMetric(tails[len(tails)/2], "×fixed-p99")
	b.ReportMetric(0, "ns/op")
}

// load sends the requests over the connections and returns how long all took
// and the 99th percentile of one.
func load(b *testing.B, request func(int) *http.Request) (all, p99 time.Duration) {
	client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: connections, MaxConnsPerHost: connections}}
	defer client.CloseIdleConnections()
	took := make([]time.Duration, requests)
	var wg sync.WaitGroup
	began := time.Now()
	for c := range connections {
		wg.Go(func() {
			for i := c; i < requests; i += connections {
				at := time.Now()
				res, err := client.Do(request(i))
				if err != nil {
					b.Error(err)
					return
				}
				io.Copy(io.Discard, res.Body)
				res.Body.Close()
				if res.StatusCode != http.StatusOK {
					b.Errorf("status %d", res.StatusCode)
				}
				took[i] = time.Since(at)
			}
		})
	}
	wg.Wait()
	all = time.Since(began)
	slices.Sort(took)
	return all, took[requests*99/100]
}
