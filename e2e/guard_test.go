package e2e

import (
	"fmt"
	"maps"
	"net/http"
	"net/http/httptest"
	"os"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/internal/delivery"
	"mastflag/internal/demo"
)

// A way is how something of another host gets into a page: HTML of the page, or JavaScript of its own that runs once
// the page has been read. VENDOR is the vendor's origin; what it sends for /x/NAME notes that NAME ran.
type way struct{ name, html, js string }

// late makes JavaScript of a script element of the vendor's, in s, and puts it in.
func late(name, js string) way {
	return way{name: name, js: `const s = document.createElement('script'); s.src = 'VENDOR/x/NAME.js'; ` + js}
}

var ways = []way{
	{name: "a script", html: `<script src="VENDOR/x/NAME.js"></script>`},
	{name: "an async script", html: `<script async src="VENDOR/x/NAME.js"></script>`},
	{name: "a deferred script", html: `<script defer src="VENDOR/x/NAME.js"></script>`},
	{name: "a module", html: `<script type="module" src="VENDOR/x/NAME.js"></script>`},
	{name: "a frame", html: `<iframe src="VENDOR/x/NAME.html"></iframe>`},
	{name: "a picture", html: `<img alt="" src="VENDOR/x/NAME.gif">`},
	late("appendChild", "document.head.appendChild(s)"),
	late("insertBefore", "document.head.insertBefore(s, document.head.firstChild)"),
	late("replaceChild", "const i = document.body.firstElementChild; const c = i.cloneNode(); i.before(c);"+
		"document.body.replaceChild(s, c)"),
	late("append", "document.body.append('x', s)"),
	late("prepend", "document.body.prepend(s)"),
	late("before", "document.body.firstElementChild.before(s)"),
	late("after", "document.body.firstElementChild.after(s)"),
	late("replaceWith", "const i = document.body.appendChild(document.createElement('i')); i.replaceWith(s)"),
	late("insertAdjacentElement", "document.body.insertAdjacentElement('beforeend', s)"),
	late("insertNode of a range", "const r = new Range(); r.selectNodeContents(document.body); r.insertNode(s)"),
	late("a fragment", "const f = new DocumentFragment(); f.append(s); document.body.append(f)"),
	late("within another element", "const d = document.createElement('div'); d.appendChild(s); document.body.append(d)"),
	{name: "a src set later", js: `const s = document.createElement('script'); document.head.append(s);
		s.src = 'VENDOR/x/NAME.js'`},
	{name: "setAttribute", js: `const s = document.createElement('script'); document.head.append(s);
		s.setAttribute('src', 'VENDOR/x/NAME.js')`},
	{name: "a template", html: `<template id="tNAME"><script src="VENDOR/x/NAME.js"></script></template>`,
		js: `document.body.append(document.getElementById('tNAME').content.cloneNode(true))`},
	{name: "createContextualFragment", js: `document.body.append(document.createRange().createContextualFragment(
		'<script src="VENDOR/x/NAME.js"><\/script>'))`},
	{name: "a script by document.write",
		html: `<script>document.write('<script src="VENDOR/x/NAME.js"><\/script>')</script>`},
	{name: "a picture by document.write", html: `<script>document.write('<img alt src=VENDOR/x/NAME.gif>')</script>`},
	{name: "a frame by innerHTML", js: `document.body.appendChild(document.createElement('p')).innerHTML =
		'<b>x</b><iframe title="&quot;>" src="VENDOR/x/NAME.html"></iframe>'`},
	{name: "a picture by innerHTML", js: `document.createElement('p').innerHTML = '<img src=VENDOR/x/NAME.gif>'`},
	{name: "insertAdjacentHTML",
		js: `document.body.insertAdjacentHTML('beforeend', '<iframe src="VENDOR/x/NAME.html"></iframe>')`},
	{name: "outerHTML", js: `const p = document.createElement('p'); document.body.append(p)
		p.outerHTML = '<img src="VENDOR/x/NAME.gif">'`},
	{name: "innerHTML of a shadow root", js: `const p = document.body.appendChild(document.createElement('p'))
		p.attachShadow({ mode: 'open' }).innerHTML = '<iframe src="VENDOR/x/NAME.html"></iframe>'`},
	{name: "a frame by script", js: `const f = document.createElement('iframe'); f.src = 'VENDOR/x/NAME.html';
		document.body.append(f)`},
	{name: "new Image", js: `new Image().src = 'VENDOR/x/NAME.gif'`},
	{name: "fetch", js: `fetch('VENDOR/x/NAME', { mode: 'no-cors' }).catch(() => {})`},
	{name: "XMLHttpRequest", js: `const x = new XMLHttpRequest(); x.open('GET', 'VENDOR/x/NAME'); x.send()`},
	{name: "sendBeacon", js: `navigator.sendBeacon('VENDOR/x/NAME', 'x')`},
	{name: "WebSocket", js: `new WebSocket('VENDOR/x/NAME'.replace('http', 'ws'))`},
	{name: "EventSource", js: `new EventSource('VENDOR/x/NAME')`},
	{name: "a cookie", js: `document.cookie = '_vNAME=1;path=/'`},
	{name: "localStorage", js: `localStorage.setItem('v.NAME', '1')`},
	{name: "sessionStorage", js: `sessionStorage.setItem('v.NAME', '1')`},
}

// vendors is an origin that notes what it is asked for: by the number of a way.
type vendors struct {
	*httptest.Server
	lock  sync.Mutex
	asked map[string]bool
}

func newVendors(t *testing.T) *vendors {
	v := &vendors{asked: map[string]bool{}}
	v.Server = httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		name, kind, _ := strings.Cut(strings.TrimPrefix(r.URL.Path, "/x/"), ".")
		v.lock.Lock()
		v.asked[name] = true
		v.lock.Unlock()
		rw.Header().Set("Access-Control-Allow-Origin", "*")
		rw.Header().Set("Cache-Control", "no-store")
		switch kind {
		case "js":
			rw.Header().Set("Content-Type", "text/javascript")
			fmt.Fprintf(rw, "(window.ran ??= []).push(%q)", name)
		case "html":
			time.Sleep(150 * time.Millisecond) // as far away as others are
			rw.Header().Set("Content-Type", "text/html")
			fmt.Fprintf(rw, "<script>parent.postMessage({ ran: %q }, '*')</script>", name)
		case "gif":
			rw.Header().Set("Content-Type", "image/gif")
			fmt.Fprint(rw, "GIF89a\x01\x00\x01\x00\x80\x00\x00\xff\xff\xff\x00\x00\x00!\xf9\x04\x01\x00\x00\x00\x00,"+
				"\x00\x00\x00\x00\x01\x00\x01\x00\x00\x02\x02D\x01\x00;")
		}
	}))
	t.Cleanup(v.Close)
	return v
}

// requests are the ways that the vendor was asked by since the last call.
func (v *vendors) requests() map[string]bool {
	v.lock.Lock()
	defer v.lock.Unlock()
	out := v.asked
	v.asked = map[string]bool{}
	return out
}

// unmarked is a site without a mark in its HTML, with the guard in its first line, and the vendor on another host.
func unmarked(t *testing.T, w *world, vendor string, body func(path string) string) (address string) {
	t.Helper()
	lines := delivery.NewGuardedSnippet(w.address, demo.Key, false).HTML()
	site := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		if strings.HasSuffix(r.URL.Path, ".ico") {
			http.NotFound(rw, r)
			return
		}
		rw.Header().Set("Content-Type", "text/html; charset=utf-8")
		fmt.Fprintf(rw, `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Isles</title>%s%s</head>
			<body><h1>Isles</h1>%s</body></html>`, noteFaults, lines, body(r.URL.Path))
	}))
	t.Cleanup(site.Close)
	address = strings.Replace(site.URL, "127.0.0.1", "isles.test", 1)
	w.changeSite(func(s *bundle.Site) {
		s.Origins = append(s.Origins, address, site.URL)
		host := strings.Split(strings.TrimPrefix(vendor, "http://"), ":")[0]
		s.Consent = &consent.Setup{
			Purposes: []consent.Purpose{{ID: "measurement"}, {ID: "marketing"}},
			Inventory: []consent.Item{
				{Kind: consent.Request, Name: host, Purpose: "measurement"},
				{Kind: consent.Cookie, Name: "_v*", Purpose: "measurement"},
				{Kind: consent.Storage, Name: "v.*", Purpose: "measurement"},
			},
		}
	})
	return address
}

// tryWays opens a page with all ways in on a surface that has not seen it, and says of each what came of it: before an
// answer, on a page after refusing, once agreed to, on a page after that, and on a page after withdrawing.
func tryWays(t *testing.T, w *world, v surface, host string, here func(address string) string) [][]string {
	t.Helper()
	vendor := newVendors(t)
	origin := strings.Replace(vendor.URL, "127.0.0.1", host, 1)
	put := func(n int, text string) string {
		return strings.NewReplacer("VENDOR", origin, "NAME", fmt.Sprint(n)).Replace(text)
	}
	site := here(unmarked(t, w, origin, func(string) string {
		var b strings.Builder
		b.WriteString(`<script>window.ran = []
			addEventListener('message', (e) => e.data.ran && ran.push(e.data.ran))</script>`)
		for n, x := range ways {
			b.WriteString(put(n, x.html))
		}
		b.WriteString("<script>")
		for n, x := range ways {
			if x.js != "" {
				fmt.Fprintf(&b, "try { (() => { %s })() } catch { /* refused */ }\n", put(n, x.js))
			}
		}
		b.WriteString("</script>")
		return b.String()
	}))
	until := func(js string) {
		t.Helper()
		require.Eventually(t, func() bool {
			is := false
			return v.value("!!("+js+")", &is) == nil && is
		}, patience, 40*time.Millisecond, js)
	}
	press := func(selector string) {
		t.Helper()
		button := "[...document.querySelectorAll('mastflag-notice')].map((h) => h.shadowRoot.querySelector('" + selector +
			"')).find(Boolean)"
		until(button)
		require.NoError(t, v.value("("+button+".click(), 1)", new(int)))
	}
	outcome := make([][]string, len(ways))
	look := func(agreed bool) {
		t.Helper()
		// What has come about, once nothing more has for a while.
		var ran []string
		asked := vendor.requests()
		for quiet, before := 0, -1; quiet < 3; quiet++ {
			time.Sleep(600 * time.Millisecond)
			require.NoError(t, v.value(`[...ran, ...[...document.cookie.split('; '), ...Object.keys(localStorage),
				...Object.keys(sessionStorage)].map((name) => /^(_v|v[.])(\d+)/.exec(name)?.[2]).filter(Boolean),
				...[...document.images].map((i) => /x.(\d+)/.exec(i.getAttribute('src'))?.[1]).filter(Boolean)]`, &ran))
			maps.Copy(asked, vendor.requests())
			if now := len(ran) + len(asked); now != before {
				quiet, before = -1, now
			}
		}
		for n, x := range ways {
			id, is := fmt.Sprint(n), "held"
			tells := regexp.MustCompile(`[.](js|html)\b`).MatchString(x.html + x.js) // whether it ran; others are asked for
			switch {
			case slices.Contains(ran, id) || asked[id] && !tells && (agreed || x.html == ""):
				is = "ran"
			case asked[id], x.html != "" && x.js == "" && !strings.Contains(x.html, "write"):
				is = "asked for" // or not, as fast as the browser looks ahead
			}
			outcome[n] = append(outcome[n], is)
		}
	}
	next := func(path string, agreed bool) {
		t.Helper()
		v.open(site + path)
		until("window.mastflag?.consent?.answered")
		look(agreed)
	}
	v.open(site + "/")
	until(asks)
	look(false)
	press("[data-act=reject]")
	until("!" + asks)
	next("/2", false)
	press(".again")
	press("[data-act=accept]")
	until("!" + asks)
	look(true)
	next("/3", true)
	press(".again")
	press("[data-act=reject]")
	until("!window.mastflag?.consent?.granted('measurement')")
	next("/4", false)
	var faults []string
	require.NoError(t, v.value("window.faults", &faults))
	assert.Empty(t, faults)
	return outcome
}

// Whatever way something of another host takes into a page that nobody has marked: nothing of it runs before an answer,
// nor after a refusal; all of it runs once it is agreed to, and nothing once that is withdrawn.
func TestWaysIn(t *testing.T) {
	outcome := tryWays(t, newWorld(t), person(t), "vendors.test", func(address string) string { return address })
	var rows []string
	places := map[string]int{}
	for n, x := range ways {
		is := strings.Join(outcome[n], " | ")
		at, met := places[is]
		if !met {
			at = len(rows)
			places[is], rows = at, append(rows, "")
		}
		rows[at] = strings.TrimPrefix(rows[at]+", "+x.name, ", ")
	}
	table := "| way in | before an answer | refused | just agreed to | agreed to | withdrawn |\n" +
		"|---|---|---|---|---|---|\n"
	for is, at := range places {
		rows[at] = "| " + rows[at] + " | " + is + " |\n"
	}
	table += strings.Join(rows, "")
	docs, err := os.ReadFile("../docs/consent.md")
	require.NoError(t, err)
	assert.Contains(t, string(docs), table, "the table in docs/consent.md is what is so")
}

// Where a frame is held, its place says so, from the first view on, and lets it be allowed. What the page wrote as HTML
// meanwhile is what it was once it may run.
func TestPlaceOfAHeldFrame(t *testing.T) {
	w := newWorld(t)
	vendor := newVendors(t)
	origin := strings.Replace(vendor.URL, "127.0.0.1", "vendors.test", 1)
	site := unmarked(t, w, origin, func(string) string {
		return fmt.Sprintf(`<script>window.ran = []
			addEventListener('message', (e) => e.data.ran && ran.push(e.data.ran))</script>
			<iframe title="Seals" width="400" height="200" src="%[1]s/x/seals.html"></iframe>
			<script>document.write('<script type="module" id="m" src="%[1]s/x/m.js"><\/script>')</script>
			<script>{ const s = document.createElement('script'); s.src = '%[1]s/x/made.js'
				const first = document.querySelector('script[src]'); first.parentNode.insertBefore(s, first) }</script>`, origin)
	})
	const gap = "[...document.querySelectorAll('mastflag-notice')].map((h) => h.shadowRoot.querySelector('.gap'))" +
		".find(Boolean)"
	v := person(t)
	for _, path := range []string{"/", "/2"} {
		v.open(site + path)
		v.until(asks)
		v.until(gap)
		said := ask[string](v, gap+".innerText")
		assert.Contains(t, said, "vendors.test")
		assert.Contains(t, said, "Audience measurement")
		assert.Equal(t, 400.0, ask[float64](v, gap+".getBoundingClientRect().width"))
		assert.Empty(t, ask[[]string](v, "ran"))
	}
	v.at("(r => [r.x + r.width / 2, r.y + r.height / 2])(" + gap + ".querySelector('button').getBoundingClientRect())")
	v.until("ran.length === 3")
	assert.ElementsMatch(t, []string{"seals", "m", "made"}, ask[[]string](v, "ran"))
	v.until("!(" + gap + ") && !document.querySelector('iframe').hidden")
	assert.Equal(t, "module", ask[string](v, "document.getElementById('m').type"))
	assert.Zero(t, ask[int](v, "document.querySelectorAll('[type=\"text/plain\"],iframe:not([src])').length"))
	assert.Empty(t, ask[[]string](v, "window.faults"))
}

// Holding back is switched on in Consent, and Site shows the lines that do it.
func TestHoldingBackIsSwitchedOn(t *testing.T) {
	w := newWorld(t)
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/consent")
	ines.choose("Hold back", "what the inventory lists")
	ines.has("Now copy the two lines anew")
	ines.choose("What comes from elsewhere and has no purpose yet", "is held back too, where people are asked first")
	require.Eventually(t, func() bool {
		s, err := w.server.Store.Site(t.Context(), demo.Key)
		return err == nil && s.Setup().Guard == "let-go" && s.Setup().Unsorted == "held"
	}, patience, 50*time.Millisecond)
	ines.open(w.address + "/sundrey/site")
	ines.press("For the site’s developer")
	ines.has("and holds back what is not agreed to")
	ines.until(fmt.Sprintf("document.querySelector('code.whole').textContent === %q",
		delivery.NewGuardedSnippet(w.address, demo.Key, false).HTML()))
}

// Where the program does not answer, what waits for it goes ahead after two seconds, in the order of the page; with the
// strict form of the snippet it stays held. What comes from another host and has no purpose is held where the site says
// so.
func TestNobodyAnswersTheGuard(t *testing.T) {
	w := newWorld(t)
	vendor := newVendors(t)
	origin := strings.Replace(vendor.URL, "127.0.0.1", "vendors.test", 1)
	scripts := func(how ...string) string {
		var b strings.Builder
		for n, attributes := range how {
			fmt.Fprintf(&b, `<script %s src="%s/x/%d.js"></script>`, attributes, origin, n)
		}
		return b.String()
	}
	site := unmarked(t, w, origin, func(string) string { return scripts("defer", "", "type=module", "", "async", "") })
	v := person(t)
	w.decisionsTake.Store(int64(time.Hour))
	v.open(site + "/")
	v.until("window.ran?.length === 6")
	assert.Greater(t, ask[float64](v, "performance.now()"), 1900.0)
	order := ask[string](v, "ran.filter(n => n !== '4').join()")
	assert.Equal(t, "1,3,5,0,2", order, "those that wait for nothing, then those that wait for the page")
	assert.Empty(t, ask[[]string](v, "window.faults"))

	w.decisionsTake.Store(0)
	w.changeSite(func(s *bundle.Site) { s.Consent.Inventory, s.Consent.Unsorted = nil, "held" })
	v.open(site + "/sorted")
	v.until(asks)
	v.inAsk("accept")
	v.until("!" + asks)
	v.open(site + "/again")
	v.until("window.mastflag?.consent?.answered")
	time.Sleep(time.Second) // one answer is still held back
	assert.Empty(t, ask[[]string](v, "window.ran ?? []"), "nobody has sorted it")
	w.changeSite(func(s *bundle.Site) { s.Consent.Unsorted = "" })
	v.open(site + "/let-through")
	v.until("window.ran?.length === 6")

	strict := delivery.NewGuardedSnippet(w.address, demo.Key, true)
	assert.NotEqual(t, strict.Hashes()[0], delivery.NewGuardedSnippet(w.address, demo.Key, false).Hashes()[0])
	assert.Equal(t, strict, delivery.SnippetOf(w.address, bundle.Site{
		Key: demo.Key, Consent: &consent.Setup{Guard: "keep"},
	}))
	assert.Equal(t, delivery.NewSnippet(w.address, demo.Key), delivery.SnippetOf(w.address, bundle.Site{Key: demo.Key}))
}

// A page of the site's own scripts, of all kinds, is with the guard as it is without.
func TestOwnScriptsAreLeftAlone(t *testing.T) {
	w := newWorld(t)
	const page = `<script>window.order = []; const note = (n) => order.push(n)
		addEventListener('load', () => note('load')); addEventListener('DOMContentLoaded', () => note('ready'))</script>
		<script src="/own/1.js"></script><script>note('inline')</script><script defer src="/own/2.js"></script>
		<script type="importmap">{ "imports": { "named": "/own/3.js" } }</script>
		<script type="module">import 'named'; note('module')</script><script type="module" src="/own/4.js"></script>
		<script>document.write('<script src="/own/5.js"><\/script><b id=w>written</b>')</script>
		<script type="application/json" id="data">{"a":1}</script><script>note(JSON.parse(data.textContent).a)
		document.body.append(Object.assign(document.createElement('script'), { text: "note('made')" }))
		document.body.insertAdjacentHTML('beforeend', '<p data-purpose="none">x<iframe srcdoc="y"></iframe></p>')
		document.body.appendChild(document.createElement('div')).innerHTML = '<img alt="a > b" src="/own/p.gif">'</script>
		<script>Object.assign(document.body.appendChild(document.createElement('script')), { async: false, src: '/own/6.js' })
		</script><iframe src="/own/frame"></iframe>`
	bare := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		if strings.HasSuffix(r.URL.Path, ".js") {
			rw.Header().Set("Content-Type", "text/javascript")
			fmt.Fprintf(rw, "order.push(%q)", r.URL.Path)
			return
		}
		lines := delivery.NewGuardedSnippet(w.address, demo.Key, true).HTML()
		if r.URL.Path != "/guarded" {
			lines = ""
		}
		rw.Header().Set("Content-Type", "text/html")
		fmt.Fprintf(rw, `<!doctype html><html lang="en"><head><title>Isles</title>%s%s</head><body>%s</body></html>`,
			noteFaults, lines, page)
	}))
	t.Cleanup(bare.Close)
	w.only()
	w.changeSite(func(s *bundle.Site) { s.Origins = append(s.Origins, bare.URL) })
	seen := func(path string, answers time.Duration) (order, dom string) {
		w.decisionsTake.Store(int64(answers))
		v := person(t)
		v.open(bare.URL + path)
		v.until("window.order?.includes('load') && order.includes('/own/6.js')")
		assert.Empty(t, ask[[]string](v, "window.faults"), path)
		return ask[string](v, "order.filter((n) => !/[46]/.test(n)).join(' ')"), ask[string](v, "document.body.innerHTML")
	}
	order, dom := seen("/bare", 0)
	require.Contains(t, order, "ready")
	for _, answers := range []time.Duration{0, time.Hour} {
		guarded, same := seen("/guarded", answers)
		assert.Equal(t, order, guarded)
		assert.Equal(t, dom, same)
	}
}

// The same in the engines that ENGINES names, with another name of this machine for the vendor. What stands in a page's
// HTML may be asked for or not: that is a race with what looks ahead.
func TestWaysInOtherEngines(t *testing.T) {
	names := strings.Fields(strings.ReplaceAll(os.Getenv("ENGINES"), ",", " "))
	if len(names) == 0 {
		t.Skip("make engines runs it")
	}
	for _, name := range names {
		t.Run(name, func(t *testing.T) {
			e := engines[name](t)
			e.ready()
			for n, outcome := range tryWays(t, newWorld(t), e, "localhost", func(address string) string {
				return strings.Replace(address, "isles.test", "127.0.0.1", 1)
			}) {
				first := outcome[0] == "ran" && regexp.MustCompile("WebSocket|EventSource").MatchString(ways[n].name)
				for k, is := range outcome {
					switch {
					case k == 3:
						assert.Equal(t, "ran", is, "%s, agreed to", ways[n].name)
					case k != 2 && (k != 0 || !first):
						assert.NotEqual(t, "ran", is, "%s, look %d of %v", ways[n].name, k, outcome)
					}
				}
			}
		})
	}
}
