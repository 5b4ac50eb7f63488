package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/internal/delivery"
	"mastflag/internal/demo"
)

// A layout is a small page that makes it hard for bars: what stands in its head and body. Elements with the class see
// have to be in sight, uncovered, as the page opens; end is its last element, target one in its middle.
type layout struct{ name, head, body string }

const (
	gallop  = `<p>Ferries between the islands, every day of the year.</p>`
	article = `<main><h1 class="see">Timetable</h1>` + gallop + gallop + gallop + gallop + `<h2 id="target">Winter</h2>` +
		gallop + gallop + gallop + gallop + `<p id="end">The end</p></main>`
	tall    = `<style>main p { min-height: 160px }</style>`
	heading = `<header class="see">Sundrey Isles Ferries</header>`
)

// css is rules as an element of style.
func css(rules string) string { return "<style>" + rules + "</style>" }

var layouts = []layout{
	{"plain", tall, heading + article},
	{"fixed header", tall + css(`header { position: fixed; top: 0; left: 0; right: 0; height: 60px; background: #dde }
		body { margin: 0; padding-top: 60px }`), heading + article},
	{"fixed header without a top", tall + css(`header { position: fixed; left: 0; right: 0; height: 60px; margin: 0;
		background: #dde } body { margin: 0 } main { padding-top: 70px }`), heading + article},
	{"fixed header that glides", tall + css(`header { position: fixed; top: 0; left: 0; right: 0; height: 60px;
		background: #dde; transition: all 2s } body { margin: 0; padding-top: 60px }`), heading + article},
	{"fixed header with a fixed menu below", tall + css(`header, nav { position: fixed; left: 0; right: 0; height: 50px;
		background: #dde } header { top: 0 } nav { top: 50px } body { margin: 0; padding-top: 100px }`),
		heading + `<nav class="see">Menu</nav>` + article},
	{"fixed column of full height", tall + css(`aside { position: fixed; top: 0; bottom: 0; left: 0; width: 200px;
		overflow: auto } main { margin-left: 220px }`),
		`<aside><p class="see">First</p><div style="height:3000px"></div><p class="reach">Last</p></aside>` + article},
	{"fixed column of the window's height", tall + css(`aside { position: fixed; top: 0; left: 0; width: 200px;
		height: 100vh; overflow: auto } main { margin-left: 220px } body { margin: 0 }`),
		`<aside><p class="see">First</p><div style="height:3000px"></div><p class="reach">Last</p></aside>` + article},
	{"fixed button at the bottom", tall + css(`.help { position: fixed; bottom: 0; right: 0; height: 40px }`),
		heading + article + `<button class="see help">Help</button>`},
	{"fixed header within a fixed one", tall + css(`.outer { position: fixed; top: 0; left: 0; right: 0; height: 60px;
		background: #dde } .inner { position: fixed; top: 10px; right: 10px } body { margin: 0; padding-top: 60px }`),
		`<div class="outer"><b class="see">Sundrey</b><span class="inner see">Sign in</span></div>` + article},
	{"fixed within what is transformed", tall + css(`.stage { transform: translateZ(0); padding-top: 40px }
		.pin { position: fixed; top: 0; left: 0 } body { margin: 0 }`),
		`<div class="stage"><b class="pin see">Pinned</b>` + article + `</div>`},
	{"the body is transformed", tall + css(`body { transform: translateX(0); margin: 0; padding-top: 60px }
		header { position: fixed; top: 0; left: 0; right: 0; height: 60px; background: #dde }`), heading + article},
	{"fixed by an inline style", tall + css(`body { margin: 0; padding-top: 60px }`),
		`<header class="see" style="position:fixed;top:0;left:0;right:0;height:60px">Sundrey</header>` + article},
	{"fixed by an inline style that nothing goes before", tall + css(`body { margin: 0; padding-top: 60px }`),
		`<header class="see" style="position:fixed;top:0!important;left:0;right:0;height:60px">Sundrey</header>` + article},
	{"fixed in a layer of styles", tall + css(`@layer site { header { position: fixed; top: 0; height: 60px; left: 0;
		right: 0 } } body { margin: 0; padding-top: 60px }`), heading + article},
	{"sticky header", tall + css(`header { position: sticky; top: 0; height: 60px; background: #dde } body { margin: 0 }`),
		heading + article},
	{"sticky heads of sections", tall + css(`h2 { position: sticky; top: 0; background: #fff } body { margin: 0 }`),
		heading + article},
	{"sticky column", tall + css(`.two { display: grid; grid-template-columns: 200px 1fr } aside { position: sticky;
		top: 0; height: 100vh; overflow: auto } body { margin: 0 }`),
		`<div class="two"><aside><p class="see">First</p><div style="height:3000px"></div><p class="reach">Last</p>` +
			`</aside>` + article + `</div>`},
	{"sticky within what scrolls by itself", css(`.box { height: 300px; overflow: auto } th { position: sticky; top: 0 }
		td { height: 400px }`) + tall, heading + `<div class="box"><table><tr><th class="see">Ship</th></tr>
		<tr><td>Puffin</td></tr></table></div>` + article},
	{"absolute header of the page", tall + css(`header { position: absolute; top: 0; left: 0; right: 0; height: 60px;
		background: #dde } body { margin: 0; padding-top: 60px }`), heading + article},
	{"absolute header without a top", tall + css(`header { position: absolute; left: 0; right: 0; height: 60px }
		main { padding-top: 60px } body { margin: 0 }`), heading + article},
	{"absolute in a body that is its frame", tall + css(`body { position: relative; margin: 0; padding-top: 60px }
		header { position: absolute; top: 0; left: 0; right: 0; height: 60px }`), heading + article},
	{"absolute shell of full size", css(`.shell { position: absolute; inset: 0; overflow: auto }`) + tall,
		`<div class="shell">` + heading + article + `</div>`},
	{"absolute shell of the window's height", css(`.shell { position: absolute; top: 0; left: 0; right: 0; height: 100%;
		overflow: auto }`) + tall, `<div class="shell">` + heading + article + `</div>`},
	{"flex shell of the window's height", css(`.shell { display: flex; flex-direction: column; height: 100vh }
		.scroll { flex: 1; overflow: auto } body { margin: 0 }`) + tall,
		`<div class="shell">` + heading + `<div class="scroll">` + article + `</div><footer class="see">Foot</footer></div>`},
	{"grid shell of the window's height", css(`.shell { display: grid; grid-template-rows: auto 1fr auto; height: 100dvh;
		overflow: hidden } .scroll { overflow: auto } body { margin: 0 }`) + tall,
		`<div class="shell">` + heading + `<div class="scroll">` + article + `</div><footer class="see">Foot</footer></div>`},
	{"shell by percentages", css(`html, body, .shell { height: 100%; margin: 0 } .shell { display: flex;
		flex-direction: column } .scroll { flex: 1; overflow: auto; min-height: 0 }`) + tall,
		`<div class="shell">` + heading + `<div class="scroll">` + article + `</div><footer class="see">Foot</footer></div>`},
	{"shell that nothing scrolls", css(`html, body { height: 100%; margin: 0; overflow: hidden } .shell { height: 100vh;
		display: grid; grid-template-rows: auto 1fr auto } .scroll { overflow: auto }`) + tall,
		`<div class="shell">` + heading + `<div class="scroll">` + article + `</div><footer class="see">Foot</footer></div>`},
	{"two shells, one in the other", css(`body { margin: 0 } .outer, .shell { height: 100vh; overflow: hidden }
		.shell { display: flex; flex-direction: column } .scroll { overflow: auto; flex: 1 }`) + tall,
		`<div class="outer"><div class="shell">` + heading + `<div class="scroll">` + article +
			`</div><footer class="see">Foot</footer></div></div>`},
	{"fixed shell", css(`.shell { position: fixed; inset: 0; overflow: auto }`) + tall,
		`<div class="shell">` + heading + article + `</div>`},
	{"the body scrolls", css(`html { height: 100%; overflow: hidden } body { height: 100%; overflow: auto; margin: 0 }`) +
		tall, heading + article},
	{"the body is fixed", css(`html { overflow: hidden }
		body { position: fixed; inset: 0; overflow: auto; margin: 0 }`) + tall, heading + article},
	{"a short page with its foot at the bottom", css(`body { min-height: 100vh; margin: 0; display: flex;
		flex-direction: column } main { flex: 1 }`), heading + `<main><h1 class="see" id="target">Hello</h1></main>
		<footer class="see" id="end">Foot</footer>`},
	{"the page is a flex box", css(`html { display: flex; flex-direction: column }`) + tall, heading + article},
	{"the page is a grid", css(`html { display: grid }`) + tall, heading + article},
	{"margins that collapse", tall + css(`body { margin: 0 } h1 { margin-top: 80px }`), article},
	{"padding for anchors", tall + css(`html { scroll-padding-top: 70px } header { position: sticky; top: 0; height: 60px }
		body { margin: 0 }`), heading + article},
	{"scrolling that glides", tall + css(`html { scroll-behavior: smooth }`), heading + article},
	{"snaps while it scrolls", tall + css(`html { scroll-snap-type: y proximity } h2 { scroll-snap-align: start }`),
		heading + article},
	{"from right to left", tall + css(`html { direction: rtl } header { position: fixed; top: 0; inset-inline: 0;
		height: 60px } body { margin: 0; padding-top: 60px }`), heading + article},
	{"zoomed", tall + css(`body { zoom: 1.5; margin: 0 }`), heading + article},
	{"an element of ours is styled by the page", tall + css(`* { margin: 3px !important; line-height: 3 !important }`),
		heading + article},
}

// boxOf is where an element is in the window. An engine that does not know currentCSSZoom yet (CSSOM View) measures
// within the zoom of the body.
const boxOf = `const boxOf = (e) => {
	const r = e.getBoundingClientRect()
	const zoom = 'currentCSSZoom' in e || !document.body.contains(e) ? 1 : parseFloat(getComputedStyle(document.body).zoom)
	return new DOMRect(r.x * zoom, r.y * zoom, r.width * zoom, r.height * zoom)
}`

// boxesOfSite are where the site's own elements are.
const boxesOfSite = `[...document.body.querySelectorAll('*')].map((e) => {
	const r = e.getBoundingClientRect()
	return [e.localName, e.className, r.x, r.y + scrollY, r.width, r.height].join(' ')
})`

// standsFree is what is wrong with where things are as the page opens: elements to be seen that a bar covers, or that
// lie outside the window.
const standsFree = `(() => {
	` + boxOf + `
	const wrong = []
	for (const e of document.querySelectorAll('.see')) {
		const r = boxOf(e)
		if (!r.height) continue
		const [x, y] = [r.x + Math.min(r.width / 2, 40), r.y + Math.min(r.height / 2, 10)]
		const hit = document.elementFromPoint(x, y)
		if (!hit || !(e.contains(hit) || hit.contains(e)) || hit.localName.startsWith('mastflag'))
			wrong.push([e.className, e.localName, 'at', Math.round(x), Math.round(y), 'is under', hit?.localName].join(' '))
		for (const bar of document.querySelectorAll('mastflag-top,mastflag-over,mastflag-under')) {
			const b = bar.getBoundingClientRect()
			if (b.height && r.top < b.bottom - 1 && r.bottom > b.top + 1 && r.height < innerHeight / 2)
				wrong.push([e.localName, r.top, r.bottom, 'lies under', bar.localName, b.top, b.bottom].join(' '))
		}
	}
	return wrong
})()`

// isReached is what is wrong with the end of the page, and of what scrolls by itself: each can be brought into sight,
// above the bar at the bottom.
const isReached = `(async () => {
	` + boxOf + `
	const wrong = []
	for (const e of document.querySelectorAll('#end,.reach')) {
		e.scrollIntoView({ block: 'end', behavior: 'instant' })
		for (let at = e.parentElement; at; at = at.parentElement) at.scrollTop = 1e6
		await new Promise((then) => requestAnimationFrame(() => requestAnimationFrame(then)))
		const r = boxOf(e)
		const hit = document.elementFromPoint(r.x + 5, r.y + r.height / 2)
		if (!hit || hit !== e && !e.contains(hit))
			wrong.push([e.id || e.className, 'at', r.y, 'is under', hit?.localName].join(' '))
	}
	return wrong
})()`

// isBelow is how far below the bars at the top what the address names arrives, px.
const isBelow = `(async () => {
	` + boxOf + `
	const wait = () => new Promise((then) => setTimeout(then, 30))
	document.getElementById('target').scrollIntoView({ behavior: 'instant' })
	await wait()
	await wait()
	const over = document.querySelector('mastflag-over')?.getBoundingClientRect().bottom ?? 0
	const flow = document.querySelector('mastflag-top')?.getBoundingClientRect().bottom ?? 0
	return boxOf(document.getElementById('target')).top - Math.max(over, flow, 0)
})()`

// noteFaults has a page keep what fails on it.
const noteFaults = `<script>window.faults = []
	addEventListener('error', (e) => faults.push(e.message))
	addEventListener('unhandledrejection', (e) => faults.push(String(e.reason)))</script>`

// withLayouts is a world with three bars, and a site that has the layouts, by number; with ?bare without the snippet.
func withLayouts(t *testing.T) (w *world, address string) {
	t.Helper()
	w = newWorld(t)
	w.only(bar("over", "Floats at the top", sticking), bar("flow", "Lies in the page"),
		bar("under", "Floats at the bottom", sticking, atBottom))
	lines := delivery.NewSnippet(w.address, demo.Key).HTML()
	site := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		var n int
		if _, err := fmt.Sscanf(r.URL.Path, "/%d", &n); err != nil || n >= len(layouts) {
			http.NotFound(rw, r)
			return
		}
		l := layouts[n]
		rw.Header().Set("Content-Type", "text/html; charset=utf-8")
		with := lines
		if r.URL.RawQuery == "bare" {
			with = ""
		}
		fmt.Fprintf(rw, `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>%s</title>%s%s%s</head><body>%s
			</body></html>`, l.name, noteFaults, with, l.head, l.body)
	}))
	t.Cleanup(site.Close)
	w.changeSite(func(s *bundle.Site) { s.Origins = append(s.Origins, site.URL) })
	return w, site.URL
}

// A surface is where a page is looked at, in whatever engine.
type surface interface {
	open(address string)
	// value evaluates JavaScript, and waits for what it promises.
	value(js string, to any) error
}

func (p *tab) value(js string, to any) error {
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	text, err := chromedp.Run(
		ctx, chromedp.Evaluate[string]("(async () => JSON.stringify([await ("+js+")]))()", chromedp.EvalAwaitPromise),
	)
	if err != nil {
		return err
	}
	return json.Unmarshal([]byte(text), &[]any{to})
}

// checkLayout looks at the page of a layout on a surface that has not seen it: nothing of the site's is covered, out of
// reach or left behind; what was on the page before is where it was once the bars are gone; nothing fails, and nothing
// moves on the second view, where the engine measures that.
func checkLayout(t *testing.T, v surface, address string) {
	t.Helper()
	list := func(js string) (out []string) {
		t.Helper()
		require.NoError(t, v.value(js, &out))
		return out
	}
	number := func(js string) (out float64) {
		t.Helper()
		require.NoError(t, v.value(js, &out))
		return out
	}
	until := func(js string) {
		t.Helper()
		require.Eventually(t, func() bool {
			is := false
			return v.value("!!("+js+")", &is) == nil && is
		}, patience, 40*time.Millisecond, js)
	}
	for round := range 2 {
		v.open(address)
		until("document.querySelectorAll('mastflag-notice').length === 3")
		until("document.readyState === 'complete'")
		moved := number("PerformanceObserver.supportedEntryTypes.includes('layout-shift') ? " + shift + " : 0")
		assert.Empty(t, list(standsFree), "view %d", round)
		if round == 1 {
			assert.LessOrEqual(t, moved, 0.01, "nothing moves on the second view")
		}
	}
	// Within a zoom an engine may scroll elsewhere by itself (WebKitGTK 2.50, without the snippet too).
	scrolls := false
	const measured = "'currentCSSZoom' in document.body || getComputedStyle(document.body).zoom === '1'"
	require.NoError(t, v.value(measured, &scrolls))
	if scrolls {
		assert.GreaterOrEqual(t, number(isBelow), -1.0, "what the address names is below the bars")
		assert.Empty(t, list(isReached))
	}
	assert.Empty(t, list("window.faults"))
	v.open(address)
	for left := 3; left > 0; left-- {
		until(fmt.Sprintf("document.querySelectorAll('mastflag-notice').length === %d", left))
		number("(document.querySelector('mastflag-notice').shadowRoot.querySelector('.close').click(), 1)")
	}
	until("!document.querySelector('mastflag-notice')")
	after := list(boxesOfSite)
	v.open(address + "?bare")
	assert.Equal(t, list(boxesOfSite), after, "the page is as it was without")
}

// On pages that are hard on bars all is in its place.
func TestLayouts(t *testing.T) {
	_, gallery := withLayouts(t)
	t.Run("all", func(t *testing.T) {
		for n, l := range layouts {
			t.Run(l.name, func(t *testing.T) {
				t.Parallel()
				checkLayout(t, person(t), fmt.Sprintf("%s/%d", gallery, n))
			})
		}
	})
}

// A page on which something changes all the time has its blocks three seconds after loading.
func TestNeverAtRest(t *testing.T) {
	w := newWorld(t)
	w.only(inPage("after", "After the heading", "h1", bundle.After))
	v := person(t)
	v.before(`const i = document.createElement('i')
		addEventListener('DOMContentLoaded', () => document.body.insertAdjacentHTML('beforeend', '<div id="app"></div>'))
		setInterval(() => i.isConnected ? i.remove() : document.body?.append(i), 20)`)
	v.open(w.site + "/fares")
	v.until(standing + " === 'after'")
}

// What is taken out of a page comes back to its place, where the page does not insist.
func TestTakenOut(t *testing.T) {
	w := newWorld(t)
	w.only(bar("top", "At the top"), bar("low", "At the bottom", sticking, atBottom),
		inPage("after", "After the heading", "main h1", bundle.After),
		inPage("other", "Behind that", "main h1", bundle.After, func(n *bundle.Notice) { n.Rank = new(int) }))
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/fares")
	v.until(standing + " === 'after,other'")
	for what, js := range map[string]string{
		"all": "document.querySelectorAll('main mastflag-notice,mastflag-top,mastflag-under').forEach((e) => e.remove())",
		"the heading": "(h => { const next = h.nextElementSibling, at = h.parentElement; h.remove(); at.append(h) " +
			"})(document.querySelector('main h1'))",
		"the body": "(b => { document.body.replaceWith(b) })(document.body.cloneNode(true))",
		"another heading": "document.querySelector('main h1').replaceWith(Object.assign(document.createElement('h1'), " +
			"{ textContent: 'Another' }))",
	} {
		ask[bool](v, "("+js+", true)")
		v.until(standing + " === 'after,other'")
		v.until("document.querySelector('main h1').nextElementSibling.dataset.id === 'after'")
		v.until(bars + ".length === 4")
		t.Log(what)
	}
	ask[bool](v, "(document.querySelector('main h1').remove(), true)")
	v.until("document.querySelectorAll('main mastflag-notice').length === 0")
	// A page that takes a block out each time has its way, and goes on.
	ask[bool](v, `(window.taken = 0, new MutationObserver(() => document.querySelectorAll('main mastflag-notice')`+
		`.forEach((e) => { e.remove(); taken++ })).observe(document, { childList: true, subtree: true }),`+
		`document.querySelector('main').prepend(document.createElement('h1')), true)`)
	v.until("window.taken > 0")
	w.calm(v)
	assert.Less(t, ask[int](v, "window.taken"), 500)
	v.unharmed()
}

// Room that was kept is given back where no decision comes.
func TestRoomIsGivenBack(t *testing.T) {
	w := newWorld(t)
	w.only(bar("top", "At the top"))
	v := person(t)
	v.open(w.site + "/fares")
	v.shows("At the top")
	w.decisionsTake.Store(int64(time.Hour))
	v.open(w.site + "/fares")
	v.until("document.mastflag")
	v.until("document.querySelector('header').getBoundingClientRect().top < 1")
	assert.Less(t, ask[float64](v, "performance.now()"), 15_000.0, "long before asking has failed")
	assert.Empty(t, ask[[]string](v, "[...document.querySelectorAll('mastflag-notice')]"))
}

// Where something of the site's cannot be moved away from the top, bars go to the bottom, and the notice's room names
// the page.
func TestTopThatCannotMove(t *testing.T) {
	w := newWorld(t)
	w.only(bar("top", "Meant for the top"))
	v := person(t)
	v.before(`addEventListener('DOMContentLoaded', () => {
		const header = document.querySelector('header')
		header.style.position = 'fixed'
		header.style.setProperty('top', '0', 'important')
	})`)
	v.open(w.site + "/fares")
	v.shows("Meant for the top")
	v.until("document.querySelector('mastflag-under mastflag-notice')")
	require.Eventually(t, func() bool {
		blocked, err := w.server.Store.BlockedTops(t.Context(), demo.Key)
		return err == nil && slices.Equal(blocked, []string{"/fares"})
	}, patience, 100*time.Millisecond)
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/notices/top")
	ines.has("is for the top and stands at the bottom on /fares: the page keeps something at the top")
}

// What the site does with an element at the edge is heeded though the page is scrolled at once.
func TestHeaderChangesAsThePageScrolls(t *testing.T) {
	w := newWorld(t)
	w.only(bar("over", "Floats at the top", sticking))
	v := person(t)
	v.before(`addEventListener('DOMContentLoaded', () => {
		const style = new CSSStyleSheet()
		style.replaceSync('#fixed { position: fixed; top: 0 } #fixed.low { top: 30px } body { min-height: 3000px }')
		document.adoptedStyleSheets.push(style)
		document.body.insertAdjacentHTML('afterbegin', '<p id=fixed>Fixed</p>')
	})`)
	v.open(w.site + "/fares")
	v.shows("Floats at the top")
	const top = "Math.round(document.getElementById('fixed').getBoundingClientRect().top - " +
		"document.querySelector('mastflag-over').getBoundingClientRect().bottom)"
	v.until("document.readyState === 'complete'")
	w.calm(v)
	before := ask[int](v, top)
	ask[bool](v, "(document.getElementById('fixed').className = 'low', scrollTo(0, 500), true)")
	v.until(fmt.Sprintf("%s === %d", top, before+30))
}
