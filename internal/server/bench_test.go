package server_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"runtime/metrics"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/core/results"
	"mastflag/core/rights"
	"mastflag/internal/access"
	"mastflag/internal/clock"
	"mastflag/internal/delivery"
	"mastflag/internal/importing"
	"mastflag/internal/server"
	"mastflag/internal/sources"
	"mastflag/internal/store"
)

const (
	connections = 64
	requests    = 20_000
)

// BenchmarkDecisionOverHTTP measures the decision over HTTP against a fixed
// reply of 2 KB from the same kind of server, in turn and in one run, with 64
// connections on the loopback address. It prints the ratio of their
// throughputs and of their 99th percentiles: beside a bare GET, and of the
// throughput beside the same requests, whose bodies that server reads and
// drops. Between the two lies what the requests cost, whatever is done with them.
func BenchmarkDecisionOverHTTP(b *testing.B) {
	l := newLoaded(b)
	var ratios, same, tails []float64
	for b.Loop() {
		fixedTime, fixedTail := load(b, l.plain)
		ourTime, ourTail := load(b, l.decision)
		sameTime, _ := load(b, l.dropped)
		ratios = append(ratios, fixedTime.Seconds()/ourTime.Seconds())
		same = append(same, sameTime.Seconds()/ourTime.Seconds())
		tails = append(tails, float64(ourTail)/float64(fixedTail))
	}
	slices.Sort(ratios)
	slices.Sort(same)
	slices.Sort(tails)
	b.ReportMetric(ratios[len(ratios)/2], "of-fixed-throughput")
	b.ReportMetric(same[len(same)/2], "of-same-requests")
	b.ReportMetric(tails[len(tails)/2], "×fixed-p99")
	b.ReportMetric(0, "ns/op")
}

// BenchmarkWhilePublishing is the same while notices are published as fast as
// they can be, one after the other.
func BenchmarkWhilePublishing(b *testing.B) {
	l := newLoaded(b)
	var tails []float64
	published := 0
	for b.Loop() {
		_, fixedTail := load(b, l.plain)
		stop := make(chan struct{})
		var wg sync.WaitGroup
		wg.Go(func() {
			for {
				select {
				case <-stop:
					return
				default:
					l.publish(b, published)
					published++
				}
			}
		})
		_, ourTail := load(b, l.decision)
		close(stop)
		wg.Wait()
		tails = append(tails, float64(ourTail)/float64(fixedTail))
	}
	slices.Sort(tails)
	b.ReportMetric(tails[len(tails)/2], "×fixed-p99")
	b.ReportMetric(float64(published)/float64(len(tails)), "published")
	b.ReportMetric(0, "ns/op")
}

// BenchmarkWhileCounting is BenchmarkDecisionOverHTTP while 5,000 acts a second come in and are
// acknowledged, in batches of 18.
func BenchmarkWhileCounting(b *testing.B) {
	l := newLoaded(b)
	const acts, each = 18, time.Second * 18 / 5000
	client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: connections}}
	defer client.CloseIdleConnections()
	var reports []string
	address := ""
	for i := range 2000 {
		r := l.decision(i)
		address = strings.Replace(r.URL.String(), "/d/s", "/r/s/counts", 1)
		res, err := client.Do(r)
		require.NoError(b, err)
		var a struct{ Results *delivery.CountState }
		require.NoError(b, json.NewDecoder(res.Body).Decode(&a))
		res.Body.Close()
		told := delivery.CountReport{Mark: a.Results.Mark, Page: a.Results.Page, Shown: a.Results.Shown}
		for of := range 2 {
			for _, act := range results.Acts {
				told.Acts = append(told.Acts, delivery.ReportedAct{Of: of, Act: act})
			}
		}
		require.Len(b, told.Acts, acts)
		raw, err := json.Marshal(told)
		require.NoError(b, err)
		reports = append(reports, string(raw))
	}
	var ratios []float64
	counted, took := 0, time.Duration(0)
	for b.Loop() {
		fixedTime, _ := load(b, l.plain)
		ctx, stop := context.WithCancel(b.Context())
		var wg sync.WaitGroup
		var taken atomic.Int64
		wg.Go(func() {
			tick := time.NewTicker(each)
			defer tick.Stop()
			for n := 0; ; n++ {
				select {
				case <-ctx.Done():
					return
				case <-tick.C:
				}
				wg.Go(func() {
					r, _ := http.NewRequest("POST", address, strings.NewReader(reports[n%len(reports)]))
					r.Header.Set("Origin", origin)
					r.Header.Set("X-Forwarded-For", fmt.Sprintf("203.0.113.%d", n%250))
					res, err := client.Do(r)
					if err != nil {
						b.Error(err)
						return
					}
					res.Body.Close()
					if res.StatusCode != http.StatusNoContent {
						b.Errorf("status %d", res.StatusCode)
					}
					taken.Add(1)
				})
			}
		})
		ourTime, _ := load(b, l.decision)
		stop()
		wg.Wait()
		counted, took = counted+int(taken.Load())*acts, took+ourTime
		ratios = append(ratios, fixedTime.Seconds()/ourTime.Seconds())
	}
	slices.Sort(ratios)
	b.ReportMetric(ratios[len(ratios)/2], "of-fixed-throughput")
	b.ReportMetric(float64(counted)/took.Seconds(), "acts/s")
	b.ReportMetric(0, "ns/op")
}

// BenchmarkSignInStorm measures visitors' 99th percentile while forty people at
// a time try to sign in, beside that of the same load without them, and the most
// memory that the whole takes. The visitors' requests are paced, as a machine
// that has nothing to spare for a hash has nothing to spare for visitors either.
func BenchmarkSignInStorm(b *testing.B) {
	l := newLoaded(b)
	hash := hashed(b, "five islands")
	for i := range 40 {
		require.NoError(b, l.server.Store.AddPerson(b.Context(), store.Person{
			Email:    fmt.Sprintf("p%d@s.example", i),
			Role:     rights.Viewer,
			Password: hash,
		}))
	}
	var ratios []float64
	var most uint64
	for b.Loop() {
		idle := paced(b, l.decision)
		ctx, stop := context.WithCancel(b.Context())
		var wg sync.WaitGroup
		for i := range 40 {
			wg.Go(func() {
				for n := 0; ctx.Err() == nil; n++ {
					from := access.From{Address: netip.AddrFrom4([4]byte{20, byte(i), byte(n >> 8), byte(n)})}
					_, _ = l.server.Access.Check(ctx, fmt.Sprintf("p%d@s.example", i), "a guess", from)
				}
			})
		}
		wg.Go(func() {
			// Read so that nothing else has to stop for it.
			memory := []metrics.Sample{{Name: "/memory/classes/total:bytes"}, {Name: "/memory/classes/heap/released:bytes"}}
			for ctx.Err() == nil {
				metrics.Read(memory)
				most = max(most, memory[0].Value.Uint64()-memory[1].Value.Uint64())
				time.Sleep(20 * time.Millisecond)
			}
		})
		time.Sleep(300 * time.Millisecond)
		storm := paced(b, l.decision)
		stop()
		wg.Wait()
		ratios = append(ratios, float64(storm)/float64(idle))
	}
	slices.Sort(ratios)
	b.ReportMetric(ratios[len(ratios)/2], "×idle-p99")
	b.ReportMetric(float64(most>>20), "MB")
	b.ReportMetric(0, "ns/op")
}

// paced sends 200 requests a second for five seconds, each when it is due, and
// returns the 99th percentile of how long after that it was answered.
func paced(b *testing.B, request func(int) *http.Request) time.Duration {
	const each, n = 5 * time.Millisecond, 1000
	client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: connections}}
	defer client.CloseIdleConnections()
	took := make([]time.Duration, n)
	var wg sync.WaitGroup
	began := time.Now()
	for i := range n {
		due := began.Add(time.Duration(i) * each)
		time.Sleep(time.Until(due))
		wg.Go(func() {
			res, err := client.Do(request(i))
			if err != nil {
				b.Error(err)
				return
			}
			io.Copy(io.Discard, res.Body)
			res.Body.Close()
			took[i] = time.Since(due)
		})
	}
	wg.Wait()
	slices.Sort(took)
	return took[n*99/100]
}

// loaded is a program with a site of 500 notices and pages, and requests to it
// and to a fixed reply.
type loaded struct {
	server   *server.Server
	decision func(int) *http.Request
	// To the fixed reply: a bare request, and the requests of decisions.
	plain, dropped func(int) *http.Request
}

// publish publishes one notice of the site anew.
func (l loaded) publish(b *testing.B, n int) {
	ctx := b.Context()
	have, err := l.server.Store.Notice(ctx, "s", "n7")
	require.NoError(b, err)
	_, err = l.server.Store.Change(ctx, "s", "n7", have.Revision, func(row *store.Notice, next int) (store.Entry, error) {
		again := *row.Published
		again.Title = fmt.Sprint(n)
		row.Published, row.Number = &again, next
		return store.Entry{At: start}, nil
	})
	require.NoError(b, err)
	l.server.Hub.Changed(ctx, "s")
}

func newLoaded(b *testing.B) loaded {
	b.Helper()
	st, err := store.Open(b.Context(), b.TempDir())
	require.NoError(b, err)
	b.Cleanup(func() { st.Close() })
	in := bundle.Bundle{
		Format: bundle.Format,
		Site:   bundle.Site{Key: "s", Name: "S", TimeZone: "Europe/London", Language: "en", Origins: []string{origin}},
	}
	for i := range 500 {
		in.Pages = append(in.Pages, bundle.Page{Path: fmt.Sprintf("/s%d/p%d", i%50, i)})
		n := bundle.Notice{
			ID:    fmt.Sprintf("n%d", i),
			Kind:  bundle.KindBar,
			State: bundle.Published,
			Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {
				Message: "<p>The <strong>winter timetable</strong> is in force until the end of March.</p>",
			}}},
			Pages: &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
		}
		if i%10 < 6 {
			n.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.Section, Path: fmt.Sprintf("/s%d", i%50)}}}
		}
		if i%3 == 0 { // conditions on what comes from headers, referrer and the visitor's browser
			n.Audience = &audience.Node{
				Group: audience.All,
				Parts: []audience.Node{{Fact: "visits.number", Is: audience.Gte, Value: 2.0},
					{
						Group: audience.Any,
						Parts: []audience.Node{
							{Fact: "device.kind", Is: audience.Ne, Value: "phone"},
							{Fact: "referrer.class", Is: audience.Eq, Value: "search"},
						},
					}},
			}
		}
		in.Notices = append(in.Notices, n)
	}
	_, err = importing.Bundle(b.Context(), st, in, store.By{Name: "bench"}, start)
	require.NoError(b, err)
	now := &clock.Settable{} // whenever it runs, the notices are live
	now.Set(start.Add(time.Hour))
	srv, err := server.New(b.Context(), st, server.Options{
		Base: "http://127.0.0.1", Clock: now, Sources: sources.Options{Proxies: []string{"127.0.0.1"}},
	})
	require.NoError(b, err)
	fixed := gin.New()
	reply := []byte(strings.Repeat("x", 2048))
	fixed.GET("/", func(c *gin.Context) { c.Data(http.StatusOK, "application/json", reply) })
	fixed.POST("/d/s", func(c *gin.Context) {
		io.Copy(io.Discard, c.Request.Body)
		c.Data(http.StatusOK, "application/json", reply)
	})
	ours, theirs := httptest.NewServer(srv.Handler), httptest.NewServer(fixed)
	b.Cleanup(ours.Close)
	b.Cleanup(theirs.Close)

	bodies := make([]string, 500) // made before, as a browser's work is not the server's
	for i := range bodies {
		bodies[i] = fmt.Sprintf(
			`{"url":"https://www.s.example/s%d/p%d","wants":"`+srv.Hub.Site("s").Script.Version+
				`","facts":{"locale.zone":"Europe/Berlin","visits.number":%d,`+
				`"referrer.url":"https://www.search.example/?q=ferry"},"memory":{"session":"2026-12-04T11:00:00Z",`+
				`"view":"2026-12-04T11:58:00Z","notices":{"n3":{"closed":"2026-12-04T11:00:00Z"}}}}`, i%50, i, 1+i%4)
	}
	ask := func(server string, i int) *http.Request {
		r, _ := http.NewRequest("POST", server+"/d/s", strings.NewReader(bodies[i%len(bodies)]))
		r.Header.Set("Origin", origin)
		r.Header.Set(
			"User-Agent",
			"Mozilla/5.0 (Windows NT 10.0; Win64; x64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/126.0.0.0 Safari/537.36",
		)
		return r
	}
	plain := func(int) *http.Request { r, _ := http.NewRequest("GET", theirs.URL+"/", nil); return r }
	return loaded{
		srv,
		func(i int) *http.Request { return ask(ours.URL, i) },
		plain,
		func(i int) *http.Request { return ask(theirs.URL, i) },
	}
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
