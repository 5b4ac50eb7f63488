package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/core/schedule"
	"mastflag/internal/delivery"
	"mastflag/internal/demo"
)

func to(t *testing.T, tree string) func(*bundle.Notice) {
	return func(n *bundle.Notice) {
		n.Audience = new(audience.Node)
		require.NoError(t, json.Unmarshal([]byte(tree), n.Audience))
	}
}

func in(s bundle.Slot) func(*bundle.Notice) { return func(n *bundle.Notice) { n.Slot = s } }
func rank(r int) func(*bundle.Notice)       { return func(n *bundle.Notice) { n.Rank = &r } }

// headers sends extra headers with every request.
func (p *tab) headers(h map[string]any) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		if _, err := cdp.Call(ctx, t, network.Enable, network.EnableParams{}); err != nil {
			return err
		}
		raw, err := json.Marshal(h)
		if err != nil {
			return err
		}
		var headers network.Headers
		if err := json.Unmarshal(raw, &headers); err != nil {
			return err
		}
		_, err = cdp.Call(ctx, t, network.SetExtraHTTPHeaders, network.SetExtraHTTPHeadersParams{Headers: headers})
		return err
	}))
}

// away has the next page find the visitor gone for so long, as their own
// browser remembers it.
func (p *tab) away(d time.Duration) {
	p.t.Helper()
	p.before(`{ const k = JSON.parse(localStorage['mastflag.sundrey']); k.visits.last -= ` +
		fmt.Sprint(d.Milliseconds()) + `; localStorage['mastflag.sundrey'] = JSON.stringify(k) }`)
}

// What waits on a page: for a scroll, for time, for the way out, for a click.
// Each comes true as the visitor acts, without asking the server again.
func TestWaitsForWhatTheVisitorDoes(t *testing.T) {
	w := newWorld(t)
	w.only(
		bar("scroll", "Read on", to(t, `{"fact":"view.scroll","is":"gte","value":30}`)),
		bar(
			"leave", "Before you go", in(bundle.CornerEnd),
			to(t, `{"all":[{"fact":"view.leaving","is":"eq","value":true},{"fact":"visits.number","is":"lte","value":9}]}`),
		),
		bar("click", "You clicked", in(bundle.Bottom), to(t, `{"fact":"view.clicked","is":"has","value":"h1"}`)),
		bar(
			"wait", "Still here", in(bundle.CornerStart),
			to(
				t, `{"all":[{"fact":"view.seconds","is":"gte","value":1},{"none":[{"fact":"view.seconds","is":"lt","value":2}]}]}`,
			),
		))
	v := person(t)
	noteErrors(v)
	// a page that fits the window has been read at once
	v.before("document.addEventListener('DOMContentLoaded', () => (document.body.style.minHeight = '4000px'))")
	v.open(w.site + "/timetables")
	v.settled()
	v.shows()
	asked := func() int {
		return ask[int](v, "performance.getEntriesByType('resource').filter(r => r.name.includes('/d/')).length")
	}
	before := asked()
	ask[bool](v, "(scrollTo(0, (document.documentElement.scrollHeight - innerHeight) * 0.25), true)")
	v.drawn()
	assert.NotContains(t, ask[[]string](v, bars), "Read on", "a quarter of the page is not enough")
	ask[bool](v, "(scrollTo(0, (document.documentElement.scrollHeight - innerHeight) * 0.31), true)")
	v.until(bars + ".includes('Read on')")
	v.until(bars + ".includes('Still here')")
	ask[bool](v, "(scrollTo(0, 0), true)")
	v.at("(e => { const r = e.getBoundingClientRect(); return [r.x + 5, r.y + r.height / 2] " +
		"})(document.querySelector('h1'))")
	v.until(bars + ".includes('You clicked')")
	assert.NotContains(t, ask[[]string](v, bars), "Before you go")
	// The pointer of the test browser does not leave the window; the event that it would make does.
	ask[bool](v, "document.dispatchEvent(new MouseEvent('mouseout', { clientY: -1, relatedTarget: null }))")
	v.until(bars + ".includes('Before you go')")
	assert.Equal(t, before, asked(), "nothing of this asks the server")

	// Another page without a load is another page view: all begins anew.
	ask[bool](v, "(history.pushState({}, '', '/fares'), true)")
	v.until("!" + bars + ".includes('Read on') && !" + bars + ".includes('You clicked') && !" + bars +
		".includes('Before you go')")
	v.unharmed()
}

// How far a page is scrolled is known once it stands: not while an app has still to draw itself; of the part that
// scrolls, where the page does not; and where nothing scrolls all of it is in sight.
func TestScrollOnceThePageStands(t *testing.T) {
	w := newWorld(t)
	w.only(bar("scroll", "Read on", to(t, `{"fact":"view.scroll","is":"gte","value":30}`)))
	const early = `document.addEventListener('DOMContentLoaded', () => { document.body.innerHTML = '' });`
	const late = `addEventListener('load', () => setTimeout(() => { document.body.innerHTML = window.came = ` +
		"`<main style=\"height:4000px\">Here</main>`" + ` }, 900))`
	const part = "`<main style=\"height:90vh;overflow:auto\"><div style=\"height:4000px\">Here</div></main>`"
	for name, page := range map[string]struct{ script, scroll string }{
		"an app that comes late": {early + late,
			"scrollTo(0, (document.documentElement.scrollHeight - innerHeight) * 0.4)"},
		"a part that scrolls": {
			`document.addEventListener('DOMContentLoaded', () => (document.body.innerHTML = window.came = ` + part + `))`,
			"(e => { e.scrollTop = (e.scrollHeight - e.clientHeight) * 0.4 })(document.querySelector('main'))",
		},
	} {
		v := person(t)
		v.before(page.script)
		v.open(w.site + "/fares")
		v.until("window.came")
		ask[bool](v, "new Promise((then) => setTimeout(() => then(true), 1500))")
		assert.Empty(t, ask[[]string](v, bars), "%s: nobody has scrolled", name)
		ask[bool](v, "("+page.scroll+", true)")
		v.shows("Read on")
	}
	v := person(t)
	v.before(`document.addEventListener('DOMContentLoaded', () => { document.body.innerHTML = 'Short' })`)
	v.open(w.site + "/fares")
	v.shows("Read on")
}

// An app that goes on by itself is asked about anew, by its path or its query, whatever the browser tells of it.
func TestAppsGoOn(t *testing.T) {
	w := newWorld(t)
	w.only(
		bar("fares", "For fares", func(n *bundle.Notice) {
			n.Pages.Include = []pages.Entry{{Match: pages.Page, Path: "/fares"}}
		}),
		bar("poster", "From the poster", func(n *bundle.Notice) {
			n.Pages.Include = []pages.Entry{{Match: pages.Query, Name: "from"}}
		}),
		bar("winter", "For winter", func(n *bundle.Notice) {
			n.Pages.Include = []pages.Entry{{Match: pages.Section, Path: "/fares#/winter"}}
		}),
	)
	// That pages go on behind a # is seen on the stage, and said of the site there.
	lines := delivery.NewSnippet(w.address, demo.Key).HTML()
	app := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, _ *http.Request) {
		rw.Header().Set("Content-Type", "text/html; charset=utf-8")
		io.WriteString(rw, `<!doctype html><html lang="en"><head><title>App</title><script>`+
			`if (!location.hash.startsWith("#/")) location.hash = "#/winter"</script>`+lines+`</head><body>App</body></html>`)
	}))
	t.Cleanup(app.Close)
	w.changeSite(func(s *bundle.Site) { s.Origins = []string{app.URL} })
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/notices/fares?page=/fares")
	ines.has("The address goes on behind a #: #/winter. Conditions do not tell such pages apart yet. Tell them apart")
	ines.press("Tell them apart")
	ines.until("document.querySelector('#routes')?.getBoundingClientRect().bottom < innerHeight")
	ines.press("Pages are told apart behind a #")
	ines.press("Save")
	ines.has("Saved.")
	w.changeSite(func(s *bundle.Site) { s.Origins = []string{w.site} })
	ines = person(t) // browsers keep for five minutes what they know of a site
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/notices/winter?page=" + url.QueryEscape("/fares#/winter/tuesdays"))
	ines.has("The draft, on the real page.")
	require.False(t, ask[bool](ines, "document.body.innerText.includes('goes on behind a #')"))

	for name, script := range map[string]string{
		"told": "", "not told": "Object.defineProperty(window, 'navigation', { value: undefined })",
	} {
		v := person(t)
		v.before(script)
		v.open(w.site + "/ports")
		v.settled()
		for _, step := range []struct {
			js    string
			shows []string
		}{
			{"history.pushState({}, '', '/ports?from=poster')", []string{"From the poster"}},
			{"history.replaceState({}, '', '/fares?from=poster')", []string{"For fares", "From the poster"}},
			{"history.pushState({}, '', '/fares')", []string{"For fares"}},
			{"history.back()", []string{"For fares", "From the poster"}},
			{"location.hash = '#/winter/tuesdays'", []string{"From the poster", "For winter"}},
			{"location.hash = '#top'", []string{"For fares", "From the poster"}},
			{"history.pushState({}, '', '/fares#/winter#from')", []string{"For winter"}},
			{"history.pushState({}, '', '/fares#/?from=mail')", []string{"For fares", "From the poster"}},
		} {
			ask[bool](v, "("+step.js+", true)")
			v.shows(step.shows...)
			t.Log(name, step.js)
		}
	}
}

// Who waits competes by rank when its time comes: it takes the place of the
// weaker one, and a place in the middle is not taken from who is there.
func TestWhoWaitsCompetes(t *testing.T) {
	w := newWorld(t)
	click := func(selector string) string {
		return `{"fact":"view.clicked","is":"has","value":"` + selector + `"}`
	}
	w.only(bar("a", "First", rank(90)), bar("b", "Second", rank(20)), bar("c", "Late", rank(50), to(t, click("h1"))),
		bar(
			"d", "In the middle", in(bundle.Centre), rank(10), to(t, click("h1")),
		), bar(
			"e", "Stronger, but later", in(bundle.Centre), rank(80),
			to(t, `{"all":[`+click("h1")+`,{"fact":"view.seconds","is":"gte","value":2}]}`),
		), bar(
			"f", "As late, elsewhere", in(bundle.Bottom),
			to(t, `{"all":[`+click("h1")+`,{"fact":"view.seconds","is":"gte","value":2}]}`),
		))
	v := person(t)
	v.open(w.site + "/timetables")
	v.shows("First", "Second")
	v.at("(e => { const r = e.getBoundingClientRect(); return [r.x + 5, r.y + r.height / 2] " +
		"})(document.querySelector('h1'))")
	for _, words := range []string{"First", "Late", "In the middle"} {
		v.until(bars + ".includes('" + words + "')")
	}
	assert.NotContains(t, ask[[]string](v, bars), "Second")
	assert.True(
		t, ask[bool](v, "document.body.inert && document.querySelector('mastflag-centre').getAttribute('role') === 'dialog'"),
		"what stands in the middle is a modal dialog",
	)
	v.until(bars + ".includes('As late, elsewhere')")
	v.drawn()
	assert.NotContains(t, ask[[]string](v, bars), "Stronger, but later", "D3: it waits")
	v.key(kb.Escape)
	v.until(bars + ".includes('Stronger, but later')")
	assert.NotContains(t, ask[[]string](v, bars), "In the middle")
	v.key(kb.Escape)
	v.until("!document.body.inert")
}

func TestSecondVisit(t *testing.T) {
	w := newWorld(t)
	w.only(bar(
		"back", "Good to see you again",
		to(
			t, `{"all":[{"fact":"visits.number","is":"gte","value":2},{"fact":"visits.daysSinceFirst","is":"gte","value":0}]}`,
		),
	))
	v := person(t)
	v.open(w.site + "/ports")
	v.settled()
	v.shows()
	v.open(w.site + "/fares")
	v.settled()
	v.shows() // a second page is no second visit
	v.away(40 * time.Minute)
	v.open(w.site + "/ports")
	v.shows("Good to see you again")
}

func TestOnlyFromASearch(t *testing.T) {
	w := newWorld(t)
	w.only(bar("search", "Found us", to(t, `{"fact":"referrer.class","is":"eq","value":"search"}`)))
	v := person(t)
	v.open(w.site + "/ports")
	v.settled()
	v.shows()
	v.before("Object.defineProperty(document, 'referrer', { configurable: true, get: () => " +
		"'https://www.search.example/?q=ferry' })")
	v.open(w.site + "/fares")
	v.shows("Found us")
	v.before("Object.defineProperty(document, 'referrer', { configurable: true, get: () => location.origin + '/fares' })")
	v.open(w.site + "/book")
	v.settled()
	v.shows()
}

// Addresses kept for documentation, behind a trusted proxy, and what other
// headers say.
func TestOnlyForACountry(t *testing.T) {
	w := newWorld(t)
	w.only(bar("de", "Willkommen", to(t, `{"fact":"place.group","is":"has","value":"eea"}`)),
		bar(
			"lang", "Dzień dobry", in(bundle.Bottom),
			to(
				t,
				`{"all":[{"fact":"locale.languages","is":"in","value":["pl"]},{"fact":"device.kind","is":"eq","value":"desktop"}]}`,
			),
		))
	german, american := person(t), person(t)
	w.from.Store("192.0.2.70")
	german.open(w.site + "/ports")
	german.shows("Willkommen")
	w.from.Store("198.51.100.200")
	american.headers(map[string]any{"Accept-Language": "pl-PL, en;q=0.5"})
	american.open(w.site + "/ports")
	american.shows("Dzień dobry")
}

func TestThreeTimesAWeek(t *testing.T) {
	w := newWorld(t)
	w.only(bar(
		"limited", "Not too often",
		func(n *bundle.Notice) { n.Memory = &bundle.Memory{Limits: []bundle.Limit{{Times: 3, Per: "P7D"}}} },
	))
	v := person(t)
	for _, path := range []string{"/ports", "/fares", "/book"} {
		v.open(w.site + path)
		v.shows("Not too often")
	}
	ask[bool](v, "document.dispatchEvent(new Event('visibilitychange', { bubbles: true }))")
	w.calm(v)
	v.shows("Not too often") // the third showing is not taken away
	v.open(w.site + "/news")
	v.settled()
	v.shows()
	w.clock.Set(start.AddDate(0, 0, 7).Add(time.Hour))
	v.open(w.site + "/ports")
	v.shows("Not too often")
}

// Once its link is followed, it stays away.
func TestStaysAwayOnceFollowed(t *testing.T) {
	w := newWorld(t)
	w.only(bar("follow", "See the fares", func(n *bundle.Notice) {
		n.Memory = &bundle.Memory{HideAfterClick: "P30D"}
		n.Content.Wordings["en"] = bundle.Wording{
			Message: "See the fares",
			Link:    &bundle.Link{Href: "/fares", Label: "Fares"},
		}
	}))
	v := person(t)
	v.open(w.site + "/ports")
	v.shows("See the fares")
	v.inBar("a.button")
	v.until("location.pathname === '/fares'")
	v.settled()
	v.shows()
	w.clock.Set(start.AddDate(0, 0, 31))
	v.open(w.site + "/ports")
	v.shows("See the fares")
}

// The site says who is signed in and what happened, before and after the
// script is there.
func TestTheSiteTells(t *testing.T) {
	w := newWorld(t)
	w.only(
		bar("in", "Your bookings", to(t, `{"fact":"person.tier","is":"eq","value":"gold"}`)),
		bar("booked", "Thank you", to(t, `{"fact":"event.booking.count","is":"gte","value":1,"within":"P7D"}`)),
	)
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/ports")
	v.settled()
	v.shows()
	ask[bool](v, "(mastflag.person({ tier: 'gold', address: { street: 1 } }), true)")
	v.shows("Your bookings")
	ask[bool](v, "(mastflag.event('booking'), mastflag.event('nothing anyone asks about'), true)")
	v.until(bars + ".includes('Thank you')")
	assert.NotContains(
		t, ask[string](v, "localStorage['mastflag.sundrey']"), "nothing anyone", "what no audience asks about is not kept",
	)
	v.open(w.site + "/fares")
	v.shows("Thank you")
	v.unharmed()
}

// What only the page itself can tell: its title, the window's width, and what
// was seen before.
func TestWhatThePageTells(t *testing.T) {
	w := newWorld(t)
	w.only(bar(
		"page", "A narrow window, after the fares",
		to(
			t,
			`{"all":[{"fact":"page.title","is":"contains","value":"PORTS"},{"fact":"device.width","is":"lt","value":600},`+
				`{"fact":"visits.seen","is":"has","value":"/fares"},
		{"fact":"visits.landing","is":"eq","value":"/fares"},{"fact":"visits.pages","is":"eq","value":2},`+
				`{"fact":"locale.zone","is":"set"}]}`,
		),
	))
	v := person(t)
	v.size(390, 800)
	v.open(w.site + "/fares")
	v.settled()
	v.open(w.site + "/ports")
	v.shows("A narrow window, after the fares")
}

// Where no audience asks, nothing about visits is kept or sent.
func TestNothingIsKeptThatNobodyAsksFor(t *testing.T) {
	w := newWorld(t)
	w.only(bar("a", "Hello"))
	v := person(t)
	v.open(w.site + "/ports")
	v.shows("Hello")
	v.open(w.site + "/fares")
	v.shows("Hello")
	assert.Empty(t, ask[string](v, "localStorage['mastflag.sundrey'] ?? ''"))
	assert.False(
		t, ask[bool](v, "performance.getEntriesByType('resource').some(r => r.name.includes('popup'))"),
		"nor is more script loaded than a bar needs",
	)
}

// Two rivals and a third held back: seen by the visitor, told by the interface,
// and mended there by what the finding offers.
func TestRivalsFoundAndMended(t *testing.T) {
	w := newWorld(t)
	w.only(bar("a", "First", rank(60)), bar("b", "Second", rank(60)), bar("c", "Third", rank(40)))
	v := person(t)
	v.open(w.site + "/ports")
	v.until("JSON.stringify(" + bars + ".sort()) === JSON.stringify(['First', 'Second'])")
	p := person(t)
	w.giveSession(p)
	p.open(w.address + "/sundrey/notices/c")
	p.has("“c” can be held back on")
	p.press("Raise its rank to 61")
	p.until("document.querySelector('.saving').textContent === 'Saved'")
	p.until("!document.body.innerText.includes('“c” can be held back')")
	p.press("Publish the changes")
	p.has("Published.")
	v.open(w.site + "/ports")
	v.until(bars + ".includes('Third')")
}

// The audience, the repeat and the places of a notice, made by hand in the
// interface, as a visitor then meets them; seen as another visitor first.
func TestAudienceByHand(t *testing.T) {
	w := newWorld(t)
	w.only(bar("a", "For those who return"))
	p := person(t)
	w.giveSession(p)
	p.open(w.address + "/sundrey/notices/a")
	p.press("everyone")
	p.press("have been here before")
	p.press("use a phone")
	p.has("visitors who have been here before and who use a phone")
	p.press("Move this condition: arrow keys up, down, out, into the group before")
	p.key(kb.ArrowUp)
	p.has("visitors who use a phone and who have been here before")
	assert.Empty(t, p.axe(), "the audience editor")
	p.press("Set this condition aside")
	p.has("Set aside; it counts for nothing.")
	p.press("Remove this condition")
	p.has("visitors who use a phone")
	p.press("Save this group as an audience")
	p.fill("Name of the audience", "phone people")
	p.press("Save for use elsewhere")
	p.has("can be used in every notice now")
	p.has("to visitors who are in “phone people”")
	p.press("Done")
	p.until("document.querySelector('.saving').textContent === 'Saved'")
	p.press("Publish the changes")
	p.has("Published.")
	p.press("Library")
	p.has("phone people audience visitors who use a phone Used by a")
	p.open(w.address + "/sundrey/notices/a")
	p.has("it needs to be a phone")
	p.press("anyone")
	p.press("someone from a search, on a phone")
	p.has("There is room for it at the top.")
	assert.Empty(t, p.axe(), "the visitor of the viewpoint")

	v := person(t)
	v.open(w.site + "/ports")
	v.settled()
	v.shows()
	phone := person(t)
	phone.headers(map[string]any{
		"User-Agent": "Mozilla/5.0 (iPhone; CPU iPhone OS 17_5 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like " +
			"Gecko) Version/17.5 Mobile/15E148 Safari/604.1",
		"Sec-CH-UA-Platform": `"iOS"`,
		"Sec-CH-UA-Mobile":   "?1",
	})
	phone.open(w.site + "/ports")
	phone.shows("For those who return")
}

func TestRepeatsAndPagesByHand(t *testing.T) {
	w := newWorld(t)
	w.only(bar("a", "On Fridays"))
	p := person(t)
	w.giveSession(p)
	p.open(w.address + "/sundrey/notices/a")
	p.press("until you unpublish it")
	p.press("For a day")
	p.at(`(e => { const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] ` +
		`})(document.querySelector('[aria-label="How time 1 repeats"]').closest('.el-select'))`)
	p.press("every week, on")
	p.has("every Friday 12:00 to 12:00 the next day, from 4 Dec")
	p.has("Fri, 11 Dec 2026 12:00")
	p.press("Leave out Fri, 11 Dec 2026 12:00")
	p.has("but not 11 Dec")
	p.has("Fri, 1 Jan 2027 12:00")
	assert.Empty(t, p.axe(), "the editor of repeats")
	p.press("Done")
	p.press("every page")
	ask[bool](
		p, `([...document.querySelectorAll('.tree .toggle')].find(b => b.textContent.includes('/book')).click(), true)`,
	)
	p.has("every page except /book")
	p.has("65 of 66 known pages carry it.")
	assert.Empty(t, p.axe(), "the editor of places")
	p.press("Done")
	p.until("document.querySelector('.saving').textContent === 'Saved'")
	p.press("Publish the changes")
	p.has("Published.")
	v := person(t)
	v.open(w.site + "/ports")
	v.shows("On Fridays") // it is Friday noon
	v.open(w.site + "/book")
	v.settled()
	v.shows()
	w.clock.Set(start.AddDate(0, 0, 7).Add(time.Hour)) // the Friday left out
	v.open(w.site + "/ports")
	v.settled()
	v.shows()
	w.clock.Set(start.AddDate(0, 0, 14).Add(time.Hour))
	v.open(w.site + "/ports")
	v.shows("On Fridays")
}

// drag presses the mouse at one place and lets it go at another.
func (p *tab) drag(from, to []float64) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		for _, step := range []struct {
			kind    input.DispatchMouseEventType
			at      []float64
			buttons int64
		}{
			{
				input.DispatchMouseEventTypeMousePressed, from, 1,
			}, {input.DispatchMouseEventTypeMouseMoved, []float64{(from[0] + to[0]) / 2, from[1]}, 1},
			{input.DispatchMouseEventTypeMouseMoved, to, 1}, {input.DispatchMouseEventTypeMouseReleased, to, 0},
		} {
			if _, err := cdp.Call(ctx, t, input.DispatchMouseEvent, input.DispatchMouseEventParams{
				Type:       step.kind,
				X:          step.at[0],
				Y:          step.at[1],
				Button:     input.MouseButtonLeft,
				Buttons:    step.buttons,
				ClickCount: 1,
			}); err != nil {
				return err
			}
		}
		return nil
	}))
}

// The ends of a notice's time are moved on the strip, by hand and by key.
func TestEndsMoveOnTheStrip(t *testing.T) {
	w := newWorld(t)
	w.only(bar("a", "For a while", func(n *bundle.Notice) {
		n.Schedule = &schedule.Plan{Windows: []schedule.Window{{From: "2026-12-04T09:00", Until: "2026-12-10T18:00"}}}
	}))
	p := person(t)
	w.giveSession(p)
	p.open(w.address + "/sundrey/notices/a")
	p.has("from Fri 4 Dec 09:00 to Thu 10 Dec 18:00")
	const end = `document.querySelector('[aria-label="End of time 1"]')`
	ask[bool](p, end+".focus() || true")
	p.key(kb.ArrowRight)
	p.key(kb.ArrowRight)
	p.has("to Thu 10 Dec 20:00")
	p.key(kb.PageDown)
	p.has("to Wed 9 Dec 20:00")
	assert.Empty(t, p.axe())
	ask[bool](p, "(scrollTo(0, 0), "+end+".scrollIntoView({ block: 'center' }), true)")
	p.until("document.querySelector('.saving').textContent === 'Saved'")
	w.calm(p) // what comes into place has come
	at := ask[[]float64](
		p,
		"(e => { const r = e.getBoundingClientRect(); return [r.x + 12, r.y + 12, "+
			"e.parentElement.getBoundingClientRect().width] })("+end+")",
	)
	p.drag(at[:2], []float64{at[0] + at[2]/6, at[1]}) // a sixth of six weeks
	p.has("to Wed 16 Dec 20:00")
	p.until("document.querySelector('.saving').textContent === 'Saved'")
	p.press("Undo")
	p.has("to Wed 9 Dec 20:00")
	p.press("Redo")
	p.has("to Wed 16 Dec 20:00")
}
