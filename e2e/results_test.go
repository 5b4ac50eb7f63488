package e2e

import (
	"fmt"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/draw"
	"mastflag/core/pages"
	"mastflag/core/results"
	"mastflag/internal/demo"
	"mastflag/internal/store"
)

// byHand has the page's longer waits (a second in view, what is gathered, what is told again) pass when the test
// says so: pass(ms).
const byHand = `{
	const set = setTimeout, clear = clearTimeout, waits = new Map()
	let now = 0, last = 1e6
	window.setTimeout = (f, ms, ...with_) =>
		[200, 1000, 2000, 20000].includes(ms) ? (waits.set(++last, [now + ms, f, with_]), last) : set(f, ms, ...with_)
	window.clearTimeout = (id) => void (waits.delete(id) || clear(id))
	window.pass = (ms) => {
		now += ms
		for (const [id, [at, f, with_]] of [...waits]) if (at <= now && waits.delete(id)) f(...with_)
		return true
	}
}`

// passes lets time pass on the page.
func (p *tab) passes(ms int) {
	p.t.Helper()
	p.drawn()
	require.True(p.t, ask[bool](p, fmt.Sprintf("pass(%d)", ms)))
}

// sums are what was counted of a notice, by variant.
func (w *world) sums(notice string) map[string]results.Sums {
	w.t.Helper()
	rows, err := w.server.Store.Results(w.t.Context(), demo.Key, store.ResultFilter{Notice: notice})
	require.NoError(w.t, err)
	out := map[string]results.Sums{}
	for _, r := range rows {
		s := out[r.Variant]
		s.Add(r.Sums)
		out[r.Variant] = s
	}
	return out
}

// total is what was counted of a notice, once nothing is asked any more.
func (w *world) total(p *tab, notice string) (all results.Sums) {
	w.t.Helper()
	w.calm(p)
	for _, s := range w.sums(notice) {
		all.Add(s)
	}
	return all
}

// below is a bar at the end of the page, which scrolls with it.
func below(n *bundle.Notice) { n.Slot, n.Position = bundle.Bottom, bundle.Scrolling }

// aims gives a bar a link and a goal.
func aims(g bundle.Goal, alter ...func(*bundle.Experiment)) func(*bundle.Notice) {
	return func(n *bundle.Notice) {
		w := n.Content.Wordings["en"]
		w.Link = &bundle.Link{Href: "/offers", Label: "Offers"}
		n.Content.Wordings["en"] = w
		n.Experiment = &bundle.Experiment{Goal: g}
		for _, f := range alter {
			f(n.Experiment)
		}
	}
}

const (
	down = "(scrollTo(0, document.documentElement.scrollHeight), true)"
	up   = "(scrollTo(0, 0), true)"
)

// Half of a bar in view for 0.9 s is not seen, for 1 s it is. Each act counts once a view, over two tabs, when the page
// is left, where the network is away and where an answer is lost; the goal once a visitor.
func TestSeenAndCounted(t *testing.T) {
	w := newWorld(t)
	w.from.Store("198.51.100.130") // where nothing has to be agreed to first
	w.only(bar("sale", "Half fare", below, aims(bundle.Goal{Link: true})))
	v := person(t)
	v.size(900, 300)
	v.before(byHand)
	begin := func(p *tab, path string) {
		t.Helper()
		p.open(w.site + path)
		p.until("document.querySelector('mastflag-bottom mastflag-notice')")
		w.calm(p)
	}
	begin(v, "/fares")
	v.passes(1000)
	v.passes(2000)
	assert.Zero(t, w.total(v, "sale"), "it lies below")
	ask[bool](v, down)
	v.passes(900)
	ask[bool](v, up)
	v.passes(1000)
	v.passes(2000)
	assert.Zero(t, w.total(v, "sale"), "0.9 s")
	ask[bool](v, down)
	v.passes(999)
	v.passes(1)
	v.passes(2000)
	assert.Equal(t, results.Sums{Seen: 1, Visitors: 1}, w.total(v, "sale"))
	ask[bool](v, up)
	v.drawn()
	ask[bool](v, down)
	v.passes(1000)
	v.passes(2000)
	assert.Equal(t, results.Sums{Seen: 1, Visitors: 1}, w.total(v, "sale"), "once a view")

	other := v.another()
	other.before(byHand)
	other.size(900, 300)
	begin(other, "/ports")
	ask[bool](other, down)
	other.passes(1000)
	other.open(w.site + "/legal") // it is left before anything was told
	assert.Equal(t, results.Sums{Seen: 2, Visitors: 1}, w.total(other, "sale"))

	// What was taken in without an answer, and what could not be sent, is told again and counted once.
	begin(v, "/status")
	w.lostCounts.Store(1)
	ask[bool](v, down)
	v.passes(1000)
	v.passes(2000)
	assert.Equal(t, 3, w.total(v, "sale").Seen)
	v.passes(20_000)
	assert.Equal(t, 3, w.total(v, "sale").Seen)
	begin(v, "/news")
	w.away.Store(true)
	ask[bool](v, down)
	v.passes(1000)
	v.passes(2000)
	assert.Equal(t, 3, w.total(v, "sale").Seen)
	w.away.Store(false)
	v.passes(20_000)
	assert.Equal(t, 4, w.total(v, "sale").Seen)

	// A press is an act, and this one the goal: in time, and once.
	v.inBar("a.button")
	v.until("location.pathname === '/offers'")
	assert.Equal(t, results.Sums{Seen: 4, Visitors: 1, Clicked: 1, Reached: 1}, w.total(v, "sale"))
	begin(v, "/about")
	ask[bool](v, down)
	v.inBar("a.button")
	v.until("location.pathname === '/offers'")
	assert.Equal(t, results.Sums{Seen: 5, Visitors: 1, Clicked: 2, Reached: 1}, w.total(v, "sale"))
	begin(v, "/about")
	ask[bool](v, down)
	v.inBar("[data-act=close]")
	v.until("!document.querySelector('mastflag-bottom')")
	v.passes(2000)
	assert.Equal(t, results.Sums{Seen: 6, Visitors: 1, Clicked: 2, Closed: 1, Reached: 1}, w.total(v, "sale"))

	// Somebody else comes back a week later: too late for the goal.
	late := person(t)
	late.before(byHand)
	begin(late, "/fares")
	ask[bool](late, down)
	late.passes(1000)
	late.passes(2000)
	assert.Equal(t, 2, w.total(late, "sale").Visitors)
	w.clock.Set(w.clock.Now().Add(6 * 24 * time.Hour))
	begin(late, "/fares")
	ask[bool](late, down)
	late.inBar("a.button")
	late.until("location.pathname === '/offers'")
	after := w.total(late, "sale")
	assert.Equal(t, []int{3, 1}, []int{after.Clicked, after.Reached})
}

// A block counts as seen though it comes once the page is at rest, and though an app takes it out and it comes back
// before the second is over.
func TestBlocksAreCounted(t *testing.T) {
	w := newWorld(t)
	w.from.Store("198.51.100.130") // where nothing has to be agreed to first
	w.only(inPage("calm", "Below the heading", "main h1", bundle.After),
		inPage("moved", "Above the heading", "main h1", bundle.Before))
	v := person(t)
	v.open(w.site + "/fares")
	v.until(standing + " === 'moved,calm'")
	ask[bool](v, "(document.querySelector('[data-id=moved]').remove(), true)")
	for _, id := range []string{"calm", "moved"} {
		require.Eventually(t, func() bool { return w.total(v, id).Seen == 1 }, patience, 100*time.Millisecond, id)
	}
}

// Who is held out sees nothing and is counted; who is not gets the same variant on every page, in every session. What a
// site tells with an event never leaves the browser, but that the goal was reached does. Where nothing is agreed to
// nobody is drawn.
func TestExperimentsInTheBrowser(t *testing.T) {
	w := newWorld(t)
	w.from.Store("198.51.100.130")
	least := 40.0
	w.only(bar("sale", "Half fare", aims(bundle.Goal{Event: "booking", Least: &least}, func(x *bundle.Experiment) {
		x.Holdout = 30
		x.Variants = []bundle.Variant{
			{ID: "a"},
			{ID: "b", Wordings: map[string]bundle.Wording{"en": {Message: "<p>Pay half</p>"}}},
		}
	})), bar("ports", "Call at a port", aims(bundle.Goal{Pages: &pages.Conditions{
		Include: []pages.Entry{{Match: pages.Section, Path: "/ports"}},
	}})))
	var heard strings.Builder
	w.heard.Store(&heard)
	groups := map[string]draw.Draw{}
	for i := 0; len(groups) < 3 && i < 1000; i++ {
		d := draw.Draw(fmt.Sprintf("%032x", i))
		group := []string{"a", "b"}[d.Variant(demo.Key, "sale", []int{1, 1})]
		if d.HeldOut(demo.Key, "sale", 30) {
			group = results.HeldOut
		}
		groups[group] = d
	}
	require.Len(t, groups, 3)
	for group, d := range groups {
		v := person(t)
		v.before(byHand)
		v.before(fmt.Sprintf(`localStorage['mastflag.%s'] ??= '{"notices":{},"draw":"%s"}'`, demo.Key, d))
		for range 2 { // a session is forgotten with its tab
			for _, path := range []string{"/fares", "/book", "/news"} {
				v.open(w.site + path)
				v.until("document.querySelector('mastflag-notice[data-id=ports]')")
				w.calm(v)
				says := ask[string](
					v,
					"document.querySelector('mastflag-notice[data-id=sale]')?.shadowRoot"+
						".querySelector('.words').textContent.trim() ?? ''",
				)
				assert.Equal(t, map[string]string{"a": "Half fare", "b": "Pay half", results.HeldOut: ""}[group], says)
				v.passes(1000)
				v.passes(2000)
			}
			v = v.another()
			v.before(byHand)
		}
		v.open(w.site + "/book")
		v.until("window.mastflag?.event && document.querySelector('mastflag-notice')")
		w.calm(v)
		ask[bool](v, "mastflag.event('booking', {value: 39.5, secret: 'oak-and-brass'}) || true")
		v.passes(2000)
		w.calm(v)
		assert.Zero(t, w.sums("sale")[group].Reached, "of too little worth")
		ask[bool](v, "mastflag.event('booking', {value: 40, secret: 'oak-and-brass'}) || true")
		ask[bool](v, "mastflag.event('booking', {value: 400}) || true")
		v.passes(2000)
		v.open(w.site + "/ports")
		v.settled()
		w.calm(v)
		v.passes(2000)
		w.calm(v)
		s := w.sums("sale")[group]
		assert.Equal(t, []int{1, 1}, []int{s.Visitors, s.Reached}, group)
		assert.Equal(t, group == results.HeldOut, s.Seen == 0)
	}
	assert.Equal(t, 3, w.sums("ports")[""].Reached)
	w.hearing.Lock()
	assert.NotContains(t, heard.String(), "oak-and-brass")
	assert.NotContains(t, heard.String(), "39.5")
	assert.Contains(t, heard.String(), `"reached"`)
	w.hearing.Unlock()

	// A visitor without a draw gets one, where that may be kept; elsewhere nobody is drawn, and all get the first.
	kept := fmt.Sprintf("JSON.parse(localStorage['mastflag.%s'] ?? '{}')", demo.Key)
	fresh := person(t)
	fresh.before(byHand) // what it sees is not counted while that of another is
	fresh.open(w.site + "/fares")
	fresh.until("document.querySelector('mastflag-notice[data-id=ports]')")
	assert.Regexp(t, "^[0-9a-f]{32}$", ask[string](fresh, kept+".draw"))
	w.from.Store("192.0.2.70") // where consent comes first
	fresh.open(w.site + "/book")
	fresh.until("document.querySelector('mastflag-notice[data-id=sale]')")
	w.calm(fresh)
	fresh.until(kept + ".draw === undefined")
	assert.Equal(t, "Half fare", ask[string](
		fresh,
		"document.querySelector('mastflag-notice[data-id=sale]').shadowRoot.querySelector('.words').textContent.trim()",
	))
	refused := person(t)
	refused.before(byHand)
	refused.open(w.site + "/fares")
	refused.until("document.querySelector('mastflag-notice[data-id=sale]')")
	w.calm(refused)
	before := w.total(refused, "sale")
	refused.passes(1000)
	refused.passes(2000)
	after := w.total(refused, "sale")
	assert.Equal(
		t,
		[]int{before.Seen + 1, before.Visitors},
		[]int{after.Seen, after.Visitors},
		"seen, by nobody in particular",
	)
	assert.True(t, ask[bool](refused, fmt.Sprintf("!(%s.draw || %s.met)", kept, kept)))

	// What lies below is met once its place is in sight for a second, by those who are held out of it too.
	w.from.Store("198.51.100.130")
	w.only(bar("berths", "Winter berths", aims(bundle.Goal{Link: true}, func(x *bundle.Experiment) {
		x.Holdout = 30
	}), func(n *bundle.Notice) {
		n.Kind, n.Slot, n.Spot = bundle.KindBlock, "", &bundle.Spot{Selector: "footer", Where: bundle.Before}
	}))
	sides := map[string]draw.Draw{}
	for i := 0; len(sides) < 2 && i < 1000; i++ {
		d := draw.Draw(fmt.Sprintf("%032x", i))
		sides[map[bool]string{true: results.HeldOut}[d.HeldOut(demo.Key, "berths", 30)]] = d
	}
	require.Len(t, sides, 2)
	for group, d := range sides {
		visitors := func() int { return w.sums("berths")[group].Visitors }
		before := visitors()
		v := person(t)
		v.before(byHand)
		v.before(fmt.Sprintf(`localStorage['mastflag.%s'] ??= '{"notices":{},"draw":"%s"}'`, demo.Key, d))
		v.size(900, 300)
		for i, path := range []string{"/fares", "/book"} {
			v.open(w.site + path)
			v.until("window.mastflag?.event && window.pass")
			w.calm(v)
			for _, step := range []int{200, 1000, 200, 1000, 2000} {
				v.passes(step)
			}
			w.calm(v)
			assert.Equal(t, before+i, visitors(), "it lies below, or was met")
			for _, step := range []int{200, 700} {
				ask[bool](v, down)
				v.passes(step)
			}
			ask[bool](v, up)
			v.passes(200)
			v.passes(2000)
			w.calm(v)
			assert.Equal(t, before+i, visitors(), "0.9 s")
			ask[bool](v, down)
			v.passes(200)
			v.passes(1000)
			v.passes(2000)
			w.calm(v)
			assert.Equal(t, before+1, visitors(), group)
		}
	}
}

// What the site tells of a visitor stands in messages as text, whatever it is, on this page and later ones; for all
// others, and once it is taken back, the words do. It is not sent.
func TestPersonalWords(t *testing.T) {
	w := newWorld(t)
	image := func(name string) bundle.Image { return bundle.Image{Address: "/" + name + ".png"} }
	phone := image("phone")
	w.only(bar(
		"hello",
		"<p>Welcome {person.name|aboard}! {event.booking.route|Fennay} is calm.</p>",
		func(n *bundle.Notice) {
			n.Content.Picture = &bundle.Picture{
				Image: image("all"), Phone: &phone, Decorative: true,
				Table: &bundle.PictureTable{By: "event.booking.route", Rows: []bundle.PictureRow{
					{Value: "ALDWICK", Image: image("aldwick")},
				}},
			}
		},
	))
	var heard strings.Builder
	w.heard.Store(&heard)
	v := person(t)
	v.open(w.site + "/fares")
	says := func(want string) {
		t.Helper()
		v.until(fmt.Sprintf("document.querySelector('mastflag-notice')?.shadowRoot.querySelector('.words')"+
			".textContent.trim() === %q", want))
	}
	says("Welcome aboard! Fennay is calm.")
	const shown = "document.querySelector('mastflag-notice').shadowRoot.querySelector('picture').innerHTML"
	pictured := func(want ...string) {
		t.Helper()
		has := ask[string](v, shown)
		for _, name := range []string{"all", "phone", "aldwick"} {
			assert.Equal(t, slices.Contains(want, name), strings.Contains(has, name+".png"), has)
		}
	}
	pictured("all", "phone")
	w.calm(v)
	ask[bool](v, `mastflag.person({name: '<img src=x onerror=alert(1)>'}) || true`)
	says("Welcome <img src=x onerror=alert(1)>! Fennay is calm.")
	assert.False(t, ask[bool](v, "!!document.querySelector('mastflag-notice').shadowRoot.querySelector('.words img')"))
	ask[bool](v, `mastflag.event('booking', {route: 'Aldwick', price: 49.25, nested: {a: 1}}) || true`)
	says("Welcome <img src=x onerror=alert(1)>! Aldwick is calm.")
	pictured("aldwick")
	v.open(w.site + "/ports")
	says("Welcome aboard! Aldwick is calm.")
	pictured("aldwick")
	ask[bool](v, `mastflag.event('booking', {route: ''}) || true`)
	says("Welcome aboard! Fennay is calm.")
	pictured("all", "phone")
	ask[bool](v, `mastflag.event('booking', {route: 'Aldwick'}) || true`)
	says("Welcome aboard! Aldwick is calm.")
	ask[bool](v, `mastflag.person({name: 'Ada'}) || mastflag.person({name: undefined}) || true`)
	says("Welcome aboard! Aldwick is calm.")
	w.calm(v)
	assert.NotContains(t, ask[string](v, "localStorage['mastflag."+demo.Key+"']"), "49.25", "no text wants it")
	w.hearing.Lock()
	assert.NotContains(t, heard.String(), "onerror")
	assert.NotContains(t, heard.String(), "Aldwick")
	w.hearing.Unlock()

	// The stage shows them to the viewpoint's visitor.
	ines := person(t)
	w.giveSession(ines)
	ada := url.QueryEscape(`{"person.name":"Ada <b>"}`)
	ines.open(w.address + "/sundrey/notices/hello?page=/fares&visitor=" + ada)
	on := w.stage(ines)
	staged := "document.querySelector('mastflag-notice')?.shadowRoot.querySelector('.words').textContent.trim() === "
	on.until(staged + "'Welcome Ada <b>! Fennay is calm.'")
	ines.press("someone of whom one fact is known")
	ines.choose("Another fact", "the … of the last …")
	ines.fill("Its name", "booking")
	ines.fill("Which property", "route")
	ines.press("Add")
	ines.fill("the route of the last booking", "Aldwick")
	ines.key(kb.Enter)
	on.until(staged + "'Welcome Ada <b>! Aldwick is calm.'")

	// What an audience asks about of the last event is sent, and nothing else of it; told of before the script was there
	// it counts as well, for goals too.
	w.from.Store("198.51.100.130")
	w.only(
		bar("hello", "{event.booking.route|Fennay} is calm.", aims(bundle.Goal{Event: "booking"})),
		bar("fennay", "A new pier", func(n *bundle.Notice) {
			n.Slot, n.Audience = bundle.Bottom, &audience.Node{
				Fact: "event.booking.route", Is: audience.Eq, Value: "Aldwick",
			}
		}),
	)
	early := person(t)
	early.before(byHand)
	early.open(w.site + "/fares")
	early.until("window.mastflag?.event && document.querySelector('mastflag-notice[data-id=hello]')")
	w.calm(early)
	early.passes(1000)
	assert.Zero(t, ask[int](early, "document.querySelectorAll('mastflag-notice[data-id=fennay]').length"))
	early.before(`if (location.pathname === '/book')
		window.mastflag = { q: [['event', 'booking', { route: 'Aldwick', price: 49.25 }]], event() {} }`)
	early.open(w.site + "/book")
	early.until("document.querySelector('mastflag-notice[data-id=fennay]')")
	early.passes(2000)
	assert.Equal(t, 1, w.total(early, "hello").Reached)
	early.open(w.site + "/ports")
	early.until("document.querySelector('mastflag-notice[data-id=fennay]')")
	ask[bool](early, "mastflag.event('booking', {route: 'Port Sundrey'}) || true")
	early.until("!document.querySelector('mastflag-notice[data-id=fennay]')")
	w.only(bar("hello", "Good day"))
	early.open(w.site + "/legal")
	early.until("document.querySelector('mastflag-notice')")
	early.until("!localStorage['mastflag." + demo.Key + "'].includes('Port Sundrey')") // nothing wants it any more
	w.hearing.Lock()
	assert.Contains(t, heard.String(), "Aldwick")
	assert.NotContains(t, heard.String(), "49.25")
	w.hearing.Unlock()
}

// A goal and a variant are made below the order line; the stage shows the variant; given to all it is the draft.
func TestGoalIsSaid(t *testing.T) {
	w := newWorld(t)
	ines := person(t)
	w.giveSession(ines)
	working := func() bundle.Notice {
		n, err := w.server.Store.Notice(t.Context(), demo.Key, "winter-timetable")
		require.NoError(t, err)
		return n.Working()
	}
	ines.open(w.address + "/sundrey/notices/winter-timetable?page=/timetables")
	ines.press("Say what it is to bring about")
	ines.has("follow its link within 5 days")
	ines.press("Compare with a variant")
	ines.has("each of them gets one of 2 variants")
	ines.fill("Headline of variant b", "Winter is here")
	ines.press("Done")
	ines.until("[...document.querySelectorAll('.variants label')].length === 2")
	require.Eventually(t, func() bool {
		return working().InVariant("b").Wordings()["en"].Headline == "Winter is here"
	}, patience, 100*time.Millisecond, "it is saved by itself")
	const stage = "document.querySelector('iframe').name"
	before := ask[string](ines, stage)
	ask[bool](ines, "[...document.querySelectorAll('.variants input')].at(-1).click() || true")
	ines.until(fmt.Sprintf("%s !== %q", stage, before))

	ask[bool](ines, "document.querySelector('[data-control=experiment]').click() || true")
	ines.until("document.querySelectorAll('.aim .variant').length === 2")
	ask[bool](ines, "[...document.querySelectorAll('.aim .variant:last-of-type button')]"+
		".find(b => b.textContent.includes('Give it to all')).click() || true")
	ines.has("Your draft says it to all now")
	assert.Equal(t, "Winter is here", working().Wordings()["en"].Headline)
	assert.Empty(t, working().Experiment.Variants)

	// What came of a notice stands in its room, and leads to its results.
	ines.open(w.address + "/sundrey/notices/service-news")
	ines.press("Results of the last 30 days")
	ines.has("is better than “Hear of changes first”")
	ines.until("document.querySelectorAll('.strip .tick').length > 5")
	ines.until("document.querySelector('.strip .stretch:not(.would)')")
	ines.press("As a table")
	ines.until("document.querySelectorAll('.result tbody tr').length > 20")
}
