package e2e

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/performance"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/internal/delivery"
	"mastflag/internal/demo"
)

// metrics are what the browser has spent on the page of the tab, s, by name.
func (p *tab) metrics() map[string]float64 {
	p.t.Helper()
	out := map[string]float64{}
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		r, err := cdp.Call(ctx, t, performance.GetMetrics, cdp.Empty{})
		for _, m := range r.Metrics {
			out[m.Name] = m.Value
		}
		return err
	}))
	return out
}

// What the script costs a page, on a machine four times slower: printed by `make bench`, beside the same page without
// the lines, with nothing to show, and with eight notices.
func TestScriptTime(t *testing.T) {
	if os.Getenv("BENCH") == "" {
		t.Skip("make bench prints it")
	}
	const rounds = 5
	w := newWorld(t)
	lines := delivery.NewSnippet(w.address, demo.Key).HTML()
	site := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		rw.Header().Set("Content-Type", "text/html; charset=utf-8")
		with := lines
		if r.URL.Path == "/without" {
			with = ""
		}
		fmt.Fprintf(rw, `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Fares</title>%s</head><body>
			%s</body></html>`, with, article)
	}))
	t.Cleanup(site.Close)
	spent := func(path string, notices int) (script, all float64) {
		var scripts, tasks []float64
		for range rounds {
			v := person(t)
			v.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
				if _, err := cdp.Call(ctx, t, performance.Enable, performance.EnableParams{}); err != nil {
					return err
				}
				_, err := cdp.Call(ctx, t, emulation.SetCPUThrottlingRate, emulation.SetCPUThrottlingRateParams{Rate: 4})
				return err
			}))
			v.open(site.URL + path)
			// Nothing is asked of the page meanwhile: that would be counted, too.
			m := v.metrics()
			for quiet := 0; quiet < 8; {
				time.Sleep(500 * time.Millisecond)
				now := v.metrics()
				if quiet++; now["ScriptDuration"] != m["ScriptDuration"] || w.asked.Load() > 0 {
					quiet = 0
				}
				m = now
			}
			scripts, tasks = append(scripts, m["ScriptDuration"]*1000), append(tasks, m["TaskDuration"]*1000)
			require.Equal(t, notices, ask[int](v, "document.querySelectorAll('mastflag-notice').length"))
		}
		slices.Sort(scripts)
		slices.Sort(tasks)
		return scripts[rounds/2], tasks[rounds/2]
	}
	w.only()
	w.changeSite(func(s *bundle.Site) { s.Origins = append(s.Origins, site.URL) })
	baseScript, baseAll := spent("/without", 0)
	nothingScript, nothingAll := spent("/with", 0)
	var eight []bundle.Notice
	for i := range 8 {
		n := inPage(fmt.Sprint("n", i), fmt.Sprint("Notice ", i), "main h1", bundle.After)
		if i < 2 {
			n = bar(fmt.Sprint("n", i), fmt.Sprint("Bar ", i))
		}
		eight = append(eight, n)
	}
	w.only(eight...)
	require.NoError(t, w.server.Hub.Reload(t.Context(), demo.Key))
	eightScript, eightAll := spent("/with", 8)
	fmt.Printf("script time, median of %d, four times slowed: %.1f ms without, %.1f with nothing to show, %.1f with "+
		"eight notices; all of the page: %.1f, %.1f, %.1f ms\n",
		rounds, baseScript, nothingScript, eightScript, baseAll, nothingAll, eightAll)
}
