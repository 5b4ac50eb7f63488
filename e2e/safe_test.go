package e2e

import (
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/internal/demo"
	"mastflag/internal/history"
	"mastflag/internal/inspect"
	"mastflag/internal/outbound"
	"mastflag/internal/store"
)

// hostile is a text that does something wherever it is not taken for text.
const hostile = `"><img src=x onerror="window.__pwn=1"></script><script>window.__pwn=1</script>';window.__pwn=1;` +
	`//${window.__pwn=1}`

// What people type runs nowhere: neither on the pages of the site, by a name of a
// fact that an earlier version accepted or by any other text, nor in any room.
func TestWhatPeopleTypeRunsNowhere(t *testing.T) {
	w := newWorld(t)
	ctx := t.Context()
	w.only(bar("plain", "<p>Plain</p>"), bar("worst", "<p>Worst</p>", func(n *bundle.Notice) {
		n.Title = hostile
		n.Content.Wordings = map[string]bundle.Wording{"en": {
			Message: hostile + "<p>Worst</p>",
			Link:    &bundle.Link{Href: "/fares?q=" + strings.ReplaceAll(hostile, " ", "+"), Label: hostile},
		}}
		n.Audience = &audience.Node{
			Group: audience.Any,
			Parts: []audience.Node{
				{Fact: "person.tier", Is: audience.Ne, Value: hostile}, {Fact: "page.title", Is: audience.Contains, Value: hostile},
			},
		}
	}))
	w.changeSite(func(s *bundle.Site) {
		s.Name = hostile[:90]
		s.Audiences = []audience.SavedAudience{{
			Name:     hostile[:90],
			Audience: audience.Node{Fact: "visits.number", Is: audience.Gte, Value: 1.0},
		}}
		s.StartingPoints = []bundle.StartingPoint{{
			Name: hostile[:90],
			For:  hostile,
			Notice: bundle.Notice{Kind: bundle.KindBar, Content: &bundle.Content{
				Wordings: map[string]bundle.Wording{"en": {Message: "<p>Ours</p>" + hostile}},
			}},
		}}
		s.Palette = []bundle.Colour{{Name: hostile[:40], Value: "#0b5a66"}}
	})
	require.NoError(t, w.server.Store.AddHistory(ctx, demo.Key, "worst", store.Entry{
		At:   w.clock.Now(),
		By:   store.By{Name: hostile},
		Deed: history.Said.With(hostile),
		Line: hostile,
	}))
	require.NoError(t, w.server.Store.AddMessage(ctx, store.Message{
		At:      w.clock.Now(),
		From:    demo.Email,
		To:      "x@y.example",
		Subject: hostile,
		Body:    hostile,
	}))
	// As an earlier version accepted it.
	n, err := w.server.Store.Notice(ctx, demo.Key, "plain")
	require.NoError(t, err)
	_, err = w.server.Store.Change(
		ctx,
		demo.Key,
		"plain",
		n.Revision,
		func(n *store.Notice, next int) (store.Entry, error) {
			old := *n.Published
			old.Audience = &audience.Node{Fact: `person.x";window.__pwn=1;"`, Is: audience.IsUnset}
			n.Published, n.Number = &old, next
			return store.Entry{At: w.clock.Now()}, nil
		},
	)
	require.NoError(t, err)
	require.NoError(t, w.server.Hub.Reload(ctx, demo.Key))

	visitor := person(t)
	visitor.open(w.site + "/")
	visitor.until("document.querySelectorAll('mastflag-notice').length === 1")
	visitor.settled()
	assert.Equal(t, "undefined", ask[string](visitor, "typeof window.__pwn"))

	ines := person(t)
	w.giveSession(ines)
	for _, room := range []string{
		"now", "notices/worst", "notices/plain", "pages", "library", "consent", "consent/asks", "consent/answers", "site",
		"site/about", "site/people", "site/activity", "site/mailbox",
	} {
		ines.open(w.address + "/sundrey/" + room)
		ines.until("document.querySelector('main h1, main h2')")
		w.calm(ines)
		assert.Equal(t, "undefined", ask[string](ines, "typeof window.__pwn"), room)
	}
	ines.open(w.address + "/sundrey/now")
	ines.has("is left out")
	ines.press("New notice")
	ines.until("document.querySelectorAll('.starting-menu li').length > 40")
	w.calm(ines)
	assert.Equal(t, "undefined", ask[string](ines, "typeof window.__pwn"), "what can be begun")
}

// With answers that take long, what is written stays in its notice, and reaches
// it, by whatever way people leave: a new notice, another room, back, forward, a
// copy, undo.
func TestWritingStaysInItsNotice(t *testing.T) {
	w := newWorld(t)
	w.only(bar("one", "<p>One</p>"), bar("two", "<p>Two</p>"))
	ines := person(t)
	w.giveSession(ines)
	title := func(id string) string {
		n, err := w.server.Store.Notice(t.Context(), demo.Key, id)
		require.NoError(t, err)
		return n.Working().GetTitle()
	}
	const field = "document.querySelector('.title')"
	opened := func(id, title string) {
		t.Helper()
		ines.until("location.pathname.endsWith('/notices/" + id + "') && " + field + "?.value === '" + title + "'")
	}
	write := func(text string) {
		ask[bool](ines, field+".focus() || "+field+".select() || true")
		ines.key(text)
	}
	ines.open(w.address + "/sundrey/notices/one")
	opened("one", "one")
	w.slow.Store(int64(500 * time.Millisecond))

	// A new notice is begun while the last key has not been saved.
	write("First, written")
	ask[bool](ines, "document.activeElement.blur() || true")
	ines.key("n")
	ines.beginPlain()
	opened("new-bar", "New bar")
	require.Eventually(t, func() bool { return title("one") == "First, written" }, patience, 20*time.Millisecond)
	assert.Equal(t, "New bar", title("new-bar"))

	// Another room, at once after the last key.
	write("A new one")
	ask[bool](ines, "[...document.querySelectorAll('nav a')].find(a => a.textContent === 'Pages').click() || true")
	ines.until("location.pathname.endsWith('/pages')")
	require.Eventually(t, func() bool { return title("new-bar") == "A new one" }, patience, 20*time.Millisecond)

	// Back and forth between two of one revision; the browser lets one leave once
	// the reply is there, which the store is ahead of.
	ines.until("dispatchEvent(new Event('beforeunload', { cancelable: true }))")
	ines.open(w.address + "/sundrey/notices/one")
	opened("one", "First, written")
	write("One again")
	ask[bool](ines, "history.pushState === undefined || (document.querySelector('.mark').click(), true)")
	ines.until("location.pathname.endsWith('/now')")
	ines.press("two")
	opened("two", "two")
	write("Two now")
	ask[bool](ines, "(setTimeout(() => history.go(-2)), true)")
	opened("one", "One again")
	ask[bool](ines, "(setTimeout(() => history.go(2)), true)")
	opened("two", "Two now")
	require.Eventually(
		t, func() bool { return title("one") == "One again" && title("two") == "Two now" }, patience, 20*time.Millisecond,
	)

	// Undo after a copy is undo of the copy.
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	ines.press("More commands")
	ines.press("Duplicate")
	ines.until(field + "?.value === 'Copy of Two now'")
	ask[bool](ines, "document.activeElement.blur() || true")
	ines.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl)))
	w.calm(ines)
	assert.Equal(t, "Copy of Two now", ask[string](ines, field+".value"))
	assert.Equal(t, "Two now", title("two"))
	assert.Equal(t, "Copy of Two now", title("copy-of-two-now"))
	for id, want := range map[string]string{"one": "One again", "new-bar": "A new one"} {
		assert.Equal(t, want, title(id))
	}
}

// The stage takes words from the site's own page alone: a page of another origin
// that the frame was led to says nothing.
func TestTheStageListensToTheSiteAlone(t *testing.T) {
	w := newWorld(t)
	w.only(bar("one", "<p>One</p>"))
	evil := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, _ *http.Request) {
		rw.Header().Set("Content-Type", "text/html")
		rw.Write([]byte(`<script>
			const say = m => parent.postMessage(m, '*')
			say({ mastflag: 'placed', ids: ['one'] })
			say({ mastflag: 'words', html: '<p>Evil</p>' })
			say({ mastflag: 'pointed', selector: '#evil' })
			say({ mastflag: 'edit', id: 'one', part: 'words' })
			parent.postMessage({ evil: 'said' }, '*')</script>`))
	}))
	defer evil.Close()
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/notices/one")
	ines.has("The draft, on the real page.")
	ask[bool](ines, "addEventListener('message', e => e.data?.evil && (window.evilSaid = true)) || true")
	ask[bool](
		ines, "(document.querySelector('iframe').src = '"+strings.Replace(evil.URL, "127.0.0.1", "evil.test", 1)+"') && true",
	)
	ines.until("window.evilSaid")
	w.calm(ines)
	assert.Equal(t, "Saved", ask[string](ines, "document.querySelector('.saving').textContent"))
	n, err := w.server.Store.Notice(t.Context(), demo.Key, "one")
	require.NoError(t, err)
	assert.Nil(t, n.Draft)
	assert.NotContains(t, ask[string](ines, "document.body.innerText"), "Evil")
}

// Where one is signed in is seen and ended; keys are commands as one wishes; and
// a file is not saved where there is none to save.
func TestOnesOwnSettings(t *testing.T) {
	w := newWorld(t)
	ines, elsewhere := person(t), person(t)
	w.signIn(ines)
	w.signIn(elsewhere)
	ines.press("Ines Harrow: account")
	ines.press("Where you are signed in")
	ines.has("this one")
	assert.Empty(t, ines.axe(), "where one is signed in")
	ines.press("Sign out everywhere else")
	ines.has("Signed out everywhere else.")
	elsewhere.open(w.address + "/sundrey/now")
	elsewhere.until("document.querySelector('input[name=email]')")
	ines.key(kb.Escape)
	ines.until("!document.querySelector('.el-overlay:not([style*=\"display: none\"])')")

	path := func(is string) { ines.until("location.pathname === '/sundrey/" + is + "'") }
	blur := func() { ask[bool](ines, "document.activeElement.blur() || true") }
	blur()
	ines.key("g")
	ines.key("l")
	path("library")
	ines.key("?")
	ines.has("Single keys are commands")
	assert.Empty(t, ines.axe(), "help with shortcuts")
	// Another key, one that is taken, and back.
	ines.press("Change the key for: Go to a room; its letter follows")
	ines.key("n")
	ines.has("“n” is taken: new notice.")
	ines.key("j")
	ines.until("[...document.querySelectorAll('kbd')].some(k => k.textContent === 'j')")
	ines.key(kb.Escape)
	ines.until("!document.querySelector('.el-overlay:not([style*=\"display: none\"])')")
	blur()
	ines.key("g")
	ines.key("s")
	w.calm(ines)
	path("library")
	ines.key("j")
	ines.key("s")
	path("site")
	// Switched off, letters do nothing; it holds after a reload.
	ines.press("Help")
	ines.press("Single keys are commands")
	ines.has("works better without them")
	ines.open(w.address + "/sundrey/now")
	ines.has("Now & next")
	blur()
	for _, k := range []string{"n", "j", "l", "p", "]", "?"} {
		ines.key(k)
	}
	w.calm(ines)
	path("now")
	assert.False(t, ask[bool](ines, "!!document.querySelector('.el-overlay:not([style*=\"display: none\"])')"))

	ines.open(w.address + "/sundrey/consent/answers")
	ines.has("All as CSV")
	ask[bool](ines, "(HTMLAnchorElement.prototype.click = function () { window.saved = this.download }) && true")
	ines.press("All as CSV")
	ines.until("window.saved === 'sundrey-records.csv'")
	_, err := w.server.Store.DB().Exec("DELETE FROM session")
	require.NoError(t, err)
	ask[bool](ines, "(window.saved = undefined) || true")
	ines.press("The chain as JSON Lines")
	ines.until("document.querySelector('.again input[name=email]')")
	assert.True(t, ask[bool](ines, "window.saved === undefined"), "what the server said instead is no file")
}

// A browser that inspects a site reaches what the site's pages lead it to on the
// public internet alone: not this machine, whatever it is called and however the
// page asks; nor does it run without its sandbox unless that was said.
func TestInspectionsReachNothingInside(t *testing.T) {
	var reached atomic.Int32
	inside := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { reached.Add(1) }))
	defer inside.Close()
	port := portOf(inside.URL)
	// What is sent by UDP: calls between browsers (STUN, RFC 8489) and WebTransport.
	udp, err := net.ListenPacket("udp", "127.0.0.1:0")
	require.NoError(t, err)
	defer udp.Close()
	go func() {
		for b := make([]byte, 2000); ; reached.Add(1) {
			if _, _, err := udp.ReadFrom(b); err != nil {
				return
			}
		}
	}()
	site := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/led" {
			http.Redirect(rw, r, "http://inside.test:"+port+"/", http.StatusFound)
			return
		}
		rw.Header().Set("Content-Type", "text/html")
		fmt.Fprintf(
			rw,
			`<title>Home</title><img src="http://127.0.0.1:%[1]s/img"><iframe src="http://localhost:%[1]s/frame"></iframe>`+
				`<link rel=stylesheet href="http://[::1]:%[1]s/css">
			<script>document.cookie = 'ran=1'
				for (const host of ['127.0.0.1', 'localhost', 'inside.test', '2130706433', '127.1']) { fetch('http://' + host + `+
				`':%[1]s/fetch', { mode: 'no-cors' }).catch(() => 0); try { new WebSocket('ws://' + host + ':%[1]s/ws') } catch `+
				`{} ; navigator.sendBeacon('http://' + host + ':%[1]s/beacon') }
				const call = (host) => { try {
					const c = new RTCPeerConnection({ iceServers: [{ urls: 'stun:' + host + ':%[2]s' }] })
					c.createDataChannel('x'); c.createOffer().then((o) => c.setLocalDescription(o))
				} catch {} ; try { new WebTransport('https://' + host + ':%[2]s/').ready.catch(() => 0) } catch {} }
				call('127.0.0.1'); call('localhost'); call('inside.test')
				const frame = document.createElement('iframe')
				document.documentElement.append(frame)
				const own = frame.contentWindow
				try { const c = new own.RTCPeerConnection({ iceServers: [{ urls: 'stun:127.0.0.1:%[2]s' }] })
					c.createDataChannel('x'); c.createOffer().then((o) => c.setLocalDescription(o)) } catch {}
			</script>`,
			port, udp.LocalAddr().String()[strings.LastIndexByte(udp.LocalAddr().String(), ':')+1:],
		)
	}))
	defer site.Close()
	origin := strings.Replace(site.URL, "127.0.0.1", "site.test", 1)
	guard := func(allowed ...string) *outbound.Guard {
		return outbound.New(outbound.Options{Flag: "--site-hosts", Allowed: allowed, Names: onThisMachine})
	}
	job := inspect.Job{
		Origin:  origin,
		Pages:   []string{"/", "/led"},
		Own:     func(host string) bool { return host == "site.test" },
		Base:    "http://notices.example",
		Answers: "http://notices.example/r/s*",
	}
	run, _, err := (&inspect.Inspector{
		Chromium:       chromium,
		Guard:          guard(hostOf(origin)),
		WithoutSandbox: os.Geteuid() == 0,
	}).Run(t.Context(), job, start, func(inspect.Progress) {})
	require.NoError(t, err)
	assert.Zero(t, reached.Load())
	assert.True(
		t, slices.ContainsFunc(run.Found, func(s consent.Sighting) bool { return s.Name == "ran" }),
		"the page itself was visited, and its script ran",
	)
	require.Len(t, run.Faults, 1)
	assert.Equal(t, "/led", run.Faults[0].Page)

	_, _, err = (&inspect.Inspector{
		Chromium:       chromium,
		Guard:          guard(),
		WithoutSandbox: os.Geteuid() == 0,
	}).Run(t.Context(), job, start, func(inspect.Progress) {})
	assert.ErrorContains(t, err, "private network")
	assert.ErrorContains(t, err, "--site-hosts")
	if os.Geteuid() == 0 {
		_, _, err = (&inspect.Inspector{
			Chromium: chromium,
			Guard:    guard(hostOf(origin)),
		}).Run(t.Context(), job, start, func(inspect.Progress) {})
		assert.ErrorContains(t, err, "--inspect-without-sandbox")
	}
	// Read over plain HTTP it is the same.
	_, _, err = (&inspect.Inspector{Guard: guard()}).Run(t.Context(), job, start, func(inspect.Progress) {})
	assert.ErrorContains(t, err, "private network")
	assert.Zero(t, reached.Load())
}

// A notice's own style, whatever it says, stays within the picture of the notice: it covers nothing
// of the interface.
func TestOwnStylesStayInTheirPicture(t *testing.T) {
	w := newWorld(t)
	w.changeSite(func(s *bundle.Site) {
		s.StartingPoints = []bundle.StartingPoint{{Name: "Covers all", Notice: bundle.Notice{
			Kind: bundle.KindBar, Look: &bundle.Look{
				CSS: ":host { position: fixed !important; inset: 0 !important; z-index: 2147483647 } " +
					".bar { position: fixed; inset: 0 }",
			},
			Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "Everywhere"}}},
		}}}
	})
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/library")
	ines.has("Covers all")
	const own = `[...document.querySelectorAll('.picture')].filter(p => p.firstElementChild.shadowRoot?.textContent.` +
		`includes('Everywhere'))`
	ines.until(own + ".length > 0")
	assert.True(t, ask[bool](ines, own+`.every(p => {
		const [all, is] = [p.getBoundingClientRect(), p.firstElementChild.getBoundingClientRect()]
		return getComputedStyle(p.firstElementChild).position === 'fixed' && is.left >= all.left &&
			is.top >= all.top && is.right <= all.right && is.bottom <= all.bottom + 2 // its border
	})`), "fixed to its picture")
}
