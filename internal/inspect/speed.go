package inspect

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"

	"mastflag/core/speed"
	"mastflag/internal/outbound"
)

// Of a measure: so many pages are visited, so often with and without, on a processor made so many times slower.
const (
	measuredPages  = 3
	measuredVisits = 3
	slowed         = 4
)

// ErrNoChromium says that what it takes to measure is not on this machine.
var ErrNoChromium = errors.New("there is no Chromium on this machine")

// watchTasks notes the longest task of a page.
const watchTasks = `window.mastflagTask = 0
new PerformanceObserver(list => {
	for (const e of list.getEntries()) mastflagTask = Math.max(mastflagTask, Math.round(e.duration))
}).observe({ type: 'longtask', buffered: true })`

// Measure finds what the program costs a site's first pages: each is visited with nothing kept from before, without
// the program and with it in turn. told is called before each page. What was measured until ctx ends is returned.
func (i *Inspector) Measure(
	ctx context.Context, j Job, now time.Time, told func(Progress),
) (m speed.Measure, err error) {
	m = speed.Measure{At: now, Slowed: slowed, Pages: []speed.PageCost{}}
	if i.Chromium == "" {
		return m, ErrNoChromium
	}
	browser, out, end, err := i.open(ctx)
	if err != nil {
		return m, err
	}
	defer end()
	paths := j.Pages[:min(len(j.Pages), measuredPages)]
	for k, path := range paths {
		told(Progress{Page: path, Done: k, Of: len(paths)})
		cost, why := measurePage(browser, j, out, path)
		switch {
		case ctx.Err() != nil:
			return m, nil
		case why != nil:
			m.Faults = append(m.Faults, fmt.Sprintf("%s: %s.", path, why))
		default:
			m.Pages = append(m.Pages, cost)
		}
	}
	if len(m.Pages) == 0 && len(m.Faults) > 0 {
		return m, fmt.Errorf("no page of %s could be measured: %s", j.Origin, m.Faults[0])
	}
	return m, nil
}

// measurePage visits a page several times, without the program and with it in turn.
func measurePage(browser context.Context, j Job, out *outbound.Proxy, path string) (speed.PageCost, error) {
	var without, with, own []speed.Load
	for range measuredVisits {
		all, _, err := sample(browser, j, out, path, true)
		if err != nil {
			return speed.PageCost{}, err
		}
		without = append(without, all)
		all, ours, err := sample(browser, j, out, path, false)
		if err != nil {
			return speed.PageCost{}, err
		}
		with, own = append(with, all), append(own, ours)
	}
	return speed.PageCost{
		Path: path, Without: speed.Median(without), With: speed.Median(with), Own: speed.Median(own),
	}, nil
}

// A meter counts what a page fetches.
type meter struct {
	base string

	mu        sync.Mutex
	last      time.Time
	own       map[network.RequestID]bool // what came over the line, and whether from the program
	cached    map[network.RequestID]bool
	all, ours speed.Load
}

func (m *meter) hear(event any) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.last = time.Now()
	switch e := event.(type) {
	case *network.EventRequestServedFromCache:
		m.cached[e.RequestID] = true
	case *network.EventResponseReceived:
		if !e.Response.FromDiskCache && !m.cached[e.RequestID] {
			m.own[e.RequestID] = strings.HasPrefix(e.Response.URL, m.base+"/")
		}
	case *network.EventLoadingFinished:
		own, came := m.own[e.RequestID]
		if !came {
			return
		}
		m.all.Requests++
		m.all.Bytes += int(e.EncodedDataLength)
		if own {
			m.ours.Requests++
			m.ours.Bytes += int(e.EncodedDataLength)
		}
	}
}

// sample visits a page once: all that it fetched, and what of that the program gave.
func sample(browser context.Context, j Job, out *outbound.Proxy, path string, without bool) (
	all, own speed.Load, err error,
) {
	ctx, cancel := context.WithTimeout(browser, pageTimeout+quietTimeout)
	defer cancel()
	tab, shut := chromedp.NewContext(ctx, chromedp.WithNewBrowserContext())
	defer shut()
	m := &meter{base: j.Base, last: time.Now(), own: map[network.RequestID]bool{}, cached: map[network.RequestID]bool{}}
	if err := chromedp.Do(tab); err != nil {
		return all, own, err
	}
	if err := chromedp.Listen(tab, m.hear); err != nil {
		return all, own, err
	}
	block := j.Answers // what is told of this visit is told to nobody
	if without {
		block = j.Base + "/*"
	}
	if err := chromedp.Do(tab, chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		if _, err := cdp.Call(ctx, t, network.Enable, network.EnableParams{}); err != nil {
			return err
		}
		if _, err := cdp.Call(ctx, t, network.SetBlockedURLs, network.SetBlockedURLsParams{
			URLPatterns: []*network.BlockPattern{{URLPattern: block, Block: true}},
		}); err != nil {
			return err
		}
		if _, err := cdp.Call(
			ctx, t, emulation.SetCPUThrottlingRate, emulation.SetCPUThrottlingRateParams{Rate: slowed},
		); err != nil {
			return err
		}
		_, err := cdp.Call(
			ctx, t, page.AddScriptToEvaluateOnNewDocument,
			page.AddScriptToEvaluateOnNewDocumentParams{Source: j.withhold() + watchTasks},
		)
		return err
	}), chromedp.Navigate(j.Origin+path)); err != nil {
		if ctx.Err() != nil && browser.Err() == nil {
			return all, own, fmt.Errorf("it did not load within %s", pageTimeout)
		}
		if why := out.Refused(outbound.HostPort(j.Origin)); why != nil {
			return all, own, why
		}
		return all, own, err
	}
	untilQuiet(ctx, 0, func() time.Time {
		m.mu.Lock()
		defer m.mu.Unlock()
		return m.last
	})
	said, err := chromedp.Run(tab, chromedp.Evaluate[struct {
		Task int
		At   string
	}]("({ task: mastflagTask, at: location.href })"))
	if err != nil {
		return all, own, err
	}
	if !j.onSite(said.At) {
		return all, own, fmt.Errorf("%w, %s", errElsewhere, said.At)
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	m.all.Task = said.Task
	return m.all, m.ours, nil
}
