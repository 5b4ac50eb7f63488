package e2e

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/internal/delivery"
	"mastflag/internal/demo"
	"mastflag/internal/store"
)

// before has a script run on every page before its own.
func (p *tab) before(script string) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(
			ctx, t, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: script},
		)
		return err
	}))
}

// media has the page believe in a medium and its features.
func (p *tab) media(medium string, features ...*emulation.MediaFeature) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{
			Media:    medium,
			Features: features,
		})
		return err
	}))
}

// tap touches the page at a point with a finger.
func (p *tab) tap(x, y float64) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		touch := emulation.SetTouchEmulationEnabledParams{Enabled: true}
		if _, err := cdp.Call(ctx, t, emulation.SetTouchEmulationEnabled, touch); err != nil {
			return err
		}
		down := input.DispatchTouchEventParams{
			Type: input.DispatchTouchEventTypeTouchStart, TouchPoints: []*input.TouchPoint{{X: x, Y: y}},
		}
		if _, err := cdp.Call(ctx, t, input.DispatchTouchEvent, down); err != nil {
			return err
		}
		up := input.DispatchTouchEventParams{Type: input.DispatchTouchEventTypeTouchEnd, TouchPoints: []*input.TouchPoint{}}
		_, err := cdp.Call(ctx, t, input.DispatchTouchEvent, up)
		return err
	}))
}

func sticking(n *bundle.Notice) { n.Position = bundle.Sticking }
func atBottom(n *bundle.Notice) { n.Slot = bundle.Bottom }
func noteErrors(p *tab) {
	p.before(`window.faults = []; addEventListener('error', e => faults.push(e.message)); ` +
		`addEventListener('unhandledrejection', e => faults.push(String(e.reason))); ` +
		`addEventListener('securitypolicyviolation', e => faults.push('CSP ' + e.violatedDirective + ' ' + e.blockedURI))`)
}

// unharmed checks that nothing failed on the page; one that is just being left is asked again.
func (p *tab) unharmed() {
	p.t.Helper()
	var faults []string
	require.Eventually(p.t, func() bool {
		ctx, cancel := context.WithTimeout(p.ctx, patience)
		defer cancel()
		var err error
		faults, err = chromedp.Run(ctx, chromedp.Evaluate[[]string]("window.faults"))
		return err == nil
	}, patience, 40*time.Millisecond)
	assert.Empty(p.t, faults)
}

func noStorage(p *tab) {
	p.before(`for (const s of ['localStorage', 'sessionStorage']) Object.defineProperty(window, s, { get() { throw new ` +
		`DOMException('barred', 'SecurityError') } })`)
}

func TestVisitorWithoutStorage(t *testing.T) {
	w := newWorld(t)
	w.only(bar("a", "Hello"))
	v := person(t)
	noteErrors(v)
	noStorage(v)
	v.open(w.site + "/ports")
	v.shows("Hello")
	v.inBar(".close")
	v.shows()
	ask[bool](v, "document.dispatchEvent(new Event('visibilitychange', { bubbles: true }))")
	time.Sleep(1200 * time.Millisecond)
	ask[bool](v, "document.dispatchEvent(new Event('visibilitychange', { bubbles: true }))")
	v.settled()
	v.shows()
	v.unharmed()
	v.open(w.site + "/fares")
	v.shows("Hello") // it is forgotten with the page

	// A site can spare such visitors what would come back on every page.
	w.only(bar("a", "Hello"), bar("storm", "No ferries", func(n *bundle.Notice) { n.Level = bundle.Warning }))
	for says, shows := range map[bundle.NoStorage][]string{
		"":                     {"No ferries", "Hello"},
		bundle.StorageWarnings: {"No ferries"},
		bundle.StorageNone:     nil,
	} {
		w.changeSite(func(s *bundle.Site) { s.NoStorage = says })
		v.open(w.site + "/ports")
		v.settled()
		v.shows(shows...)
		other := person(t)
		other.open(w.site + "/ports")
		other.shows("No ferries", "Hello")
	}
	v.unharmed()
}

// What is closed while a decision is on its way does not come back with it.
func TestClosedMeanwhile(t *testing.T) {
	w := newWorld(t)
	w.only(bar("a", "Hello"), bar("b", "Still here"), bar("c", "And this", in(bundle.Bottom)))
	v := person(t)
	noteErrors(v)
	v.before(`window.held = []
		const real = fetch.bind(window)
		window.fetch = (...all) => real(...all).then((reply) =>
			window.holding && String(all[0]).includes('/d/') ? new Promise((go) => window.held.push(() => go(reply))) : reply)`)
	v.open(w.site + "/ports")
	v.shows("Hello", "Still here", "And this")
	closeLast := func() {
		ask[bool](
			v, "[...document.querySelectorAll('mastflag-notice')].at(-1).shadowRoot.querySelector('.close').click() || true",
		)
	}
	ask[bool](v, "window.holding = true")
	closeLast()
	v.until("window.held.length === 1")
	closeLast()
	v.until("window.held.length === 2")
	v.shows("Hello")
	ask[bool](v, `window.held[0]() || new Promise((then) => setTimeout(() => then(true), 100))`)
	v.shows("Hello")
	ask[bool](v, "window.held[1]() || true")
	v.shows("Hello")
	v.unharmed()
}

// One memory for all hosts of a domain, where the site has chosen that: what is closed
// and answered on one holds on all, in a cookie that stays short. Otherwise each host
// remembers for itself.
func TestOneMemoryForADomain(t *testing.T) {
	w := newWorld(t)
	shop := strings.Replace(w.site, "ferries.test", "shop.ferries.test", 1)
	share := func(on bool) {
		w.changeSite(func(s *bundle.Site) { s.Origins, s.SharedMemory = []string{w.site, shop}, on })
	}
	share(false)
	apart := person(t)
	apart.open(w.site + "/fares")
	apart.until(asks)
	apart.inAsk("accept")
	w.told(1)
	apart.open(shop + "/fares")
	apart.until(asks)
	assert.NotContains(t, ask[string](apart, "document.cookie"), "mastflag")

	share(true)
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/fares")
	v.until(asks)
	v.inAsk("accept")
	w.told(2)
	v.open(shop + "/fares")
	v.until("window.mastflag?.consent?.granted('films')")
	assert.False(t, ask[bool](v, asks))
	ask[bool](v, "mastflag.consent.withdraw() || true")
	w.told(3)
	v.until("performance.getEntriesByType('navigation')[0].type === 'reload'") // what has run begins anew
	v.open(w.site + "/fares")
	v.until("window.mastflag?.consent?.answered")
	assert.False(t, ask[bool](v, "mastflag.consent.granted('films')"))
	assert.False(t, ask[bool](v, asks))

	// What is closed, for good and for the session; and what the page told while the memory was still on its way.
	w.only(bar("a", "Hello", func(n *bundle.Notice) { n.Memory = &bundle.Memory{HideAfterClose: bundle.PeriodEver} }),
		bar("b", "Till you leave", func(n *bundle.Notice) {
			n.Memory = &bundle.Memory{
				HideAfterClose: bundle.PeriodSession,
			}
		}),
		bar("c", "You have booked", in(bundle.Bottom), to(t, `{"fact":"event.booking.count","is":"gte","value":1}`)))
	v.unharmed()
	v = person(t)
	noteErrors(v)
	v.before("(window.mastflag ??= { q: [] }).q.push(['event', 'booking'])")
	v.open(w.site + "/ports")
	v.shows("Hello", "Till you leave", "You have booked")
	for _, left := range [][]string{{"Hello", "Till you leave"}, {"Hello"}, nil} {
		ask[bool](
			v, "[...document.querySelectorAll('mastflag-notice')].at(-1).shadowRoot.querySelector('.close').click() || true",
		)
		v.shows(left...)
	}
	v.open(shop + "/ports")
	v.settled()
	v.shows()
	v.unharmed()
	fresh := person(t)
	fresh.open(shop + "/ports")
	fresh.shows("Hello", "Till you leave")

	// Without it a session is a tab's, on one host: on its next page too.
	share(false)
	one := person(t)
	one.open(w.site + "/ports")
	one.shows("Hello", "Till you leave")
	one.inBar(".close")
	one.shows("Hello")
	one.open(w.site + "/fares")
	one.settled()
	one.shows("Hello")
	two := one.another()
	two.open(w.site + "/fares")
	two.shows("Hello", "Till you leave")

	// What another host of the domain has written and cannot be read is none.
	share(true)
	w.changeSite(func(s *bundle.Site) { s.NoStorage = bundle.StorageNone })
	odd := person(t)
	noteErrors(odd)
	for _, broken := range []string{"%", "{", "'", "null", "%7B%22notices%22"} {
		odd.open(w.site + "/ports")
		set := "document.cookie = `mastflag.sundrey%s=" + broken + ";domain=ferries.test;path=/`"
		ask[string](odd, fmt.Sprintf(set, "")+"; "+fmt.Sprintf(set, ".session"))
		odd.open(w.site + "/fares")
		odd.shows("Hello", "Till you leave")
		odd.unharmed()
	}
	w.changeSite(func(s *bundle.Site) { s.NoStorage = "" })

	// However much there is to remember, the cookie stays one that browsers keep, and the newest stays in it.
	said := ask[[]string](v, `(async () => {
		const { name: shared } = performance.getEntriesByType('resource').find((e) => e.name.includes('/a/shared.'))
		const { fitting } = await import(shared)
		const name = "o'clock " + String.fromCharCode(34) + "; é"
		const at = i => new Date(1.7e12 + i * 6e4).toISOString()
		const out = []
		for (const [notices, shown] of [[0, 0], [3, 5], [5, 100], [300, 100], [300, 0]]) {
			const kept = { notices: {}, events: { [name]: Array.from({ length: shown }, (_, i) => at(i)) }, untold: `+
		`['x'.repeat(9000)] }
			for (let n = 0; n < notices; n++) kept.notices['notice-' + n] = { closed: at(n), shown: Array.from({ length: `+
		`shown }, (_, i) => at(i)), counts: { shown, closed: 1 } }
			const value = fitting(kept)
			const back = JSON.parse(decodeURIComponent(value.replace(/'/g, '%22')))
			const newest = back.notices['notice-' + (notices - 1)]
			out.push([value.length < 3900, /^[!#-+\--:<-[\]-~]*$/.test(value), notices ? newest?.closed === at(notices - 1) `+
		`: true, !back.untold, Object.keys(back.events)[0] === name].join())
		}
		return out
	})()`)
	assert.Equal(t, slices.Repeat([]string{"true,true,true,true,true"}, 5), said)
}

// Two corners side by side, and on a phone one on the other, whatever grows.
func TestCornersDoNotCoverEachOther(t *testing.T) {
	w := newWorld(t)
	w.only(bar("start", "Here lines begin", in(bundle.CornerStart), func(n *bundle.Notice) {
		n.Content.Wordings["en"] = bundle.Wording{
			Message: "Here lines begin",
			Details: "<p>" + strings.Repeat("More of it. ", 30) + "</p>",
		}
	}), bar("end", "Here lines end", in(bundle.CornerEnd)))
	v := person(t)
	const apart = `(([a, b]) => a.width > 200 && b.width > 200 && (a.right <= b.left || b.bottom <= a.top))(['start', ` +
		`'end'].map(c => document.querySelector('mastflag-corner-' + c)?.getBoundingClientRect() ?? {}))`
	v.open(w.site + "/fares")
	v.until(apart)
	v.size(390, 800)
	v.until(apart)
	ask[bool](
		v,
		"document.querySelector('mastflag-corner-start "+
			"mastflag-notice').shadowRoot.querySelector('[data-act=more]').click() || true",
	)
	v.until("document.querySelector('mastflag-corner-start').offsetHeight > 200 && " + apart)
	v.size(1280, 800)
	v.until(apart)
}

// The server is down, slow to refuse, or talks nonsense: the page is unharmed.
func TestPageIsUnharmed(t *testing.T) {
	w := newWorld(t)
	w.only(bar("a", "Hello"))
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/ports")
	v.shows("Hello")
	w.stop()
	v.open(w.site + "/fares")
	v.until("document.readyState === 'complete'")
	assert.Equal(t, "Fares", ask[string](v, "document.querySelector('h1').textContent"))
	v.shows()
	v.unharmed()

	l, err := net.Listen("tcp", strings.TrimPrefix(w.address, "http://"))
	require.NoError(t, err)
	broken := http.Server{Handler: http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		rw.Header().Set("Access-Control-Allow-Origin", "*")
		if strings.HasPrefix(r.URL.Path, "/d/") {
			fmt.Fprint(rw, `{"show":[{"id":7`)
			return
		}
		w.server.Handler.ServeHTTP(rw, r)
	})}
	go broken.Serve(l)
	defer broken.Close()
	v.open(w.site + "/offers")
	v.settled()
	v.shows()
	v.unharmed()
}

func TestUnknownSiteAndForeignOrigin(t *testing.T) {
	w := newWorld(t)
	w.only(bar("a", "Hello"))
	w.changeSite(func(s *bundle.Site) { s.Origins = []string{"https://www.elsewhere.example"} })
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/ports")
	v.settled()
	v.shows()
	v.unharmed()
	// With and without www count as one.
	w.changeSite(func(s *bundle.Site) { s.Origins = []string{strings.Replace(w.site, "://", "://www.", 1)} })
	v.open(w.site + "/ports")
	v.shows("Hello")
}

// Layout shift is read from the browser's own measure (Layout Instability).
const shift = `new Promise(done => { let sum = 0; new PerformanceObserver(l => l.getEntries().forEach(e => { if ` +
	`(!e.hadRecentInput) sum += e.value })).observe({ type: 'layout-shift', buffered: true }); setTimeout(() => ` +
	`done(sum), 900) })`

func TestNoLayoutShift(t *testing.T) {
	w := newWorld(t)
	w.only(bar("over", "Floats at the top", sticking), bar("under", "Floats at the bottom", sticking, atBottom))
	v := person(t)
	v.open(w.site + "/ports")
	v.shows("Floats at the top", "Floats at the bottom")
	first := ask[float64](v, shift)
	v.open(w.site + "/ports")
	v.shows("Floats at the top", "Floats at the bottom")
	assert.LessOrEqual(t, ask[float64](v, shift), 0.01, "their room is kept free on a repeat view; first view %.4f", first)
	assert.True(
		t, ask[bool](v, "(() => { const [logo, name] = document.querySelector('header .name').children; const whole = "+
			"logo.getBoundingClientRect().top; name.remove(); return logo.getBoundingClientRect().top === whole })()"),
		"nor does the page itself, painted before its name has come: what is measured is ours",
	)
	assert.NotEmpty(
		t, ask[int](v, "parseInt(getComputedStyle(document.documentElement).scrollPaddingTop)"),
		"what gets the focus is not under it (WCAG 2.2 §2.4.11)",
	)

	w.only(bar("over", "Floats at the top", sticking), bar("in", "Lies in the page"))
	v = person(t)
	v.open(w.site + "/ports")
	v.until(bars + ".length === 2")
	assert.True(
		t,
		ask[bool](
			v,
			"document.querySelector('mastflag-over').getBoundingClientRect().bottom <= document.querySelector('mastflag-top "+
				"mastflag-notice').getBoundingClientRect().top",
		),
		"a floating bar does not cover one in the page",
	)

	w.only(bar("in", "Lies in the page"))
	v = person(t)
	v.open(w.site + "/ports")
	v.shows("Lies in the page")
	first = ask[float64](v, shift)
	v.open(w.site + "/ports")
	v.shows("Lies in the page")
	again := ask[float64](v, shift)
	assert.LessOrEqual(t, again, 0.02, "its room is kept free on a repeat view")
	t.Logf("layout shift of a bar in the page: first view %.4f, repeat view %.4f", first, again)
	v.inBar(".close")
	v.shows()
	v.open(w.site + "/ports")
	v.settled()
	assert.Zero(t, ask[float64](v, shift), "closed, no room is kept")
}

func TestWhatTheScriptCosts(t *testing.T) {
	w := newWorld(t)
	w.only(bar("a", "Hello"))
	heard := &strings.Builder{}
	w.heard.Store(heard)
	v := person(t)
	v.open(w.site + "/ports")
	v.shows("Hello")
	asked := func() (out []string) {
		w.hearing.Lock()
		defer w.hearing.Unlock()
		for _, line := range strings.Split(strings.TrimSpace(heard.String()), "\n") {
			if f := strings.Fields(line); len(f) > 1 {
				out = append(out, regexp.MustCompile("[0-9a-f]{16}").ReplaceAllString(f[1], "HASH"))
			}
		}
		return out
	}
	want := []string{
		"/s/sundrey.js", "/a/site.HASH.js", "/d/sundrey", "/a/results.HASH.js", "/a/edges.HASH.js", "/r/sundrey/counts",
	}
	require.Eventually(t, func() bool { return len(asked()) >= len(want) }, patience, 40*time.Millisecond)
	w.calm(v)
	got := asked()
	if len(got) > 4 {
		slices.Sort(got[3:5]) // side by side
		slices.Reverse(got[3:5])
	}
	assert.Equal(t, want, got, "the stable address, the script, one request for the decision; what makes room for the "+
		"bar and what notes that it is seen; what it noted: each once, though it is fetched and then imported")
}

func TestBarForEveryone(t *testing.T) {
	w := newWorld(t)
	w.only(bar("a", "x", func(n *bundle.Notice) {
		n.Content.Wordings["en"] = bundle.Wording{Message: "<p>Hello</p>", Details: "<p>There is more to say.</p>"}
		n.Content.Wordings["ar"] = bundle.Wording{
			Message: "<p>مرحبا بكم</p>",
			Link:    &bundle.Link{Href: "/", Label: "البداية"},
		}
	}))
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/ports")
	v.shows("Hello")
	root := "document.querySelector('mastflag-notice').shadowRoot"
	assert.Equal(
		t, "Announcement: Hello", ask[string](v, root+".querySelector('section').getAttribute('aria-label')"),
		"a region landmark with a name",
	)
	assert.Equal(
		t, "SECTION", ask[string](v, root+".querySelector('[aria-label]').tagName"),
		"a section with a name is a region (HTML-AAM)",
	)

	// By keyboard: the longer message opens and closes, Escape closes the bar.
	ask[bool](v, root+".querySelector('[data-act=more]').focus() || true")
	v.key(kb.Enter)
	v.until("!" + root + ".getElementById('longer').hidden && " + root +
		".querySelector('[data-act=more]').getAttribute('aria-expanded') === 'true'")
	v.key(kb.Enter)
	v.until(root + ".getElementById('longer').hidden")
	v.key(kb.Escape)
	v.shows()

	// Targets are at least 24 by 24 px (WCAG 2.2 §2.5.8), at 390 and at 320 px nothing is wider than the window.
	w.only(bar("b", "Donaudampfschifffahrtsgesellschaftskapitänsmützenabzeichen, "+
		"Rindfleischetikettierungsüberwachungsaufgabenübertragungsgesetz", func(n *bundle.Notice) {
		t := n.Content.Wordings["en"]
		t.Link = &bundle.Link{Href: "/status", Label: "Betriebslagezusammenfassung"}
		n.Content.Wordings["en"] = t
	}))
	for _, width := range []int64{390, 320} {
		p := person(t)
		p.size(width, 800)
		p.open(w.site + "/ports")
		p.until(bars + ".length === 1")
		assert.True(
			t,
			ask[bool](
				p,
				"[..."+root+".querySelectorAll('a,button')].every(e => { const r = e.getBoundingClientRect(); return r.width >= "+
					"24 && r.height >= 24 && r.right <= innerWidth && r.left >= 0 })",
			),
			width,
		)
		assert.True(t, ask[bool](p, root+".querySelector('section').scrollWidth <= innerWidth"), width)
	}

	// From right to left.
	w.changeSite(func(s *bundle.Site) { s.Language, s.Languages = "ar", []string{"ar"} })
	w.only(bar("c", "x", func(n *bundle.Notice) {
		n.Content.Wordings = map[string]bundle.Wording{"ar": {
			Message: "<p>مرحبا بكم</p>",
			Link:    &bundle.Link{Href: "/", Label: "البداية"},
		}}
	}))
	p := person(t)
	p.open(w.site + "/ports")
	p.shows("مرحبا بكم")
	assert.Less(
		t, ask[float64](p, root+".querySelector('.close').getBoundingClientRect().right"), 200.0,
		"the close button is on the left",
	)

	// Not on paper; and without motion, unless it is asked for.
	p.media("print")
	assert.Equal(t, "none", ask[string](p, "getComputedStyle(document.querySelector('mastflag-notice')).display"))
	p.media("screen")
	assert.Equal(t, "none", ask[string](p, "getComputedStyle("+root+".querySelector('section')).animationName"))
	v.unharmed() // under the site's strict Content-Security-Policy
}

// A draft is seen on the real site by a signed link alone, which ends.
func TestPreviewOnTheRealSite(t *testing.T) {
	w := newWorld(t)
	w.only(bar("a", "Out"))
	row, err := w.server.Store.Notice(t.Context(), demo.Key, "a")
	require.NoError(t, err)
	n := row.Working()
	n.Content = &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "The draft"}}}
	_, err = w.server.Store.Change(t.Context(), demo.Key, "a", row.Revision, draftOf(n, w))
	require.NoError(t, err)
	token := delivery.Token{Site: demo.Key, Notice: "a", Ends: w.clock.Now().Add(time.Hour)}.Sign(w.server.Admin.Secret)

	v := person(t)
	v.open(w.site + "/ports#mastflag-preview=" + token)
	v.until(bars + ".includes('The draft')")
	assert.Equal(t, "/ports", ask[string](v, "location.pathname + location.hash"), "the token is taken out of the address")
	v.open(w.site + "/fares")
	v.until(bars + ".includes('The draft')") // it goes along through the site
	w.calm(v)
	assert.Contains(
		t, ask[string](v, "[...document.querySelectorAll('mastflag-notice')].at(-1).shadowRoot.textContent"),
		"visitors do not see this yet",
	)
	v.inBar("button")
	v.shows("Out")

	w.clock.Set(w.clock.Now().Add(2 * time.Hour))
	v.open(w.site + "/ports#mastflag-preview=" + token)
	v.until("[...document.querySelectorAll('mastflag-notice')].some(h => h.shadowRoot.textContent.includes('no longer " +
		"works'))")
	v.until(bars + ".includes('Out')")
}

// draftOf makes a notice the draft of the next version.
func draftOf(n bundle.Notice, w *world) func(*store.Notice, int) (store.Entry, error) {
	return func(row *store.Notice, _ int) (store.Entry, error) {
		row.Draft = &n
		return store.Entry{At: w.clock.Now()}, nil
	}
}

// A page that the browser kept and takes out again as it was left, by Back, shows what holds now, however soon that is.
// The shell keeps no pages and loads them anew; the whole Chromium does keep them.
func TestBackToAKeptPage(t *testing.T) {
	w := newWorld(t)
	w.only(bar("old", "Until noon"))
	v := person(t)
	v.open(w.site + "/ports")
	v.shows("Until noon")
	ask[bool](v, "window.asItWasLeft = true")
	v.open(w.site + "/book")
	v.shows("Until noon")
	w.only(bar("new", "From noon on"))
	ask[bool](v, "(setTimeout(() => history.back()), true)") // a page that is being left may owe the answer
	v.until("location.pathname === '/ports'")
	v.shows("From noon on")
	t.Logf("kept: %t", ask[bool](v, "window.asItWasLeft === true"))
}
