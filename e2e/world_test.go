// Package e2e drives the real interface and a real site in headless Chromium.
package e2e

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/internal/access"
	"mastflag/internal/clock"
	"mastflag/internal/demo"
	"mastflag/internal/demosite"
	"mastflag/internal/history"
	"mastflag/internal/importing"
	"mastflag/internal/server"
	"mastflag/internal/sources"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// patience is how long something may take to come about.
const patience = 45 * time.Second

// start is when the tests' time begins: a Friday noon in London.
var start = time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)

// resolver is how names are found: the tests' own are this machine, and there
// are no others.
const resolver = "MAP *.test 127.0.0.1 , MAP * ~NOTFOUND , EXCLUDE 127.0.0.1 , EXCLUDE localhost"

// onThisMachine is the same for what the program itself fetches.
func onThisMachine(host string) string {
	if strings.HasSuffix(host, ".test") {
		return "127.0.0.1"
	}
	return ""
}

func hostOf(address string) string { return strings.TrimPrefix(address, "http://") }
func portOf(address string) string { return address[strings.LastIndexByte(address, ':')+1:] }

// browser is the one Chromium that all tests share, at the path chromium.
var (
	browser  context.Context
	chromium string
)

func TestMain(m *testing.M) {
	// The shell is the same Chromium without its windows, which take half of the time.
	for _, name := range []string{"chromium-headless-shell", "chromium"} {
		if path, err := exec.LookPath(name); err == nil {
			chromium = path
			break
		}
	}
	if chromium == "" {
		fmt.Fprintln(os.Stderr, "e2e: there is no Chromium here: make browser")
		os.Exit(1)
	}
	dir, err := os.MkdirTemp("", "mastflag-e2e")
	if err != nil {
		panic(err)
	}
	alloc, stop := chromedp.NewExecAllocator(context.Background(), append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(chromium), chromedp.UserDataDir(dir), chromedp.WindowSize(1280, 800), chromedp.NoSandbox,
		chromedp.DisableGPU,
		chromedp.Flag("site-per-process", true), // a page in a frame has a process of its own, as in every browser
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-domain-reliability", true), chromedp.Flag("no-pings", true),
		chromedp.Flag("force-device-scale-factor", "1"), chromedp.Flag("lang", "en-US"),
		chromedp.Flag("host-resolver-rules", resolver))...)
	var end context.CancelFunc
	browser, end = chromedp.NewContext(alloc)
	if err := chromedp.Do(browser); err != nil {
		fmt.Fprintln(os.Stderr, "e2e: chromium does not start:", err)
		os.Exit(1)
	}
	access.MakeHashesCheap()
	code := m.Run()
	end()
	stop()
	os.RemoveAll(dir)
	os.Exit(code)
}

// world is the program with the demo's data, and the demo site on an origin of
// its own, ferries.test.
type world struct {
	t       *testing.T
	clock   *clock.Settable
	server  *server.Server
	address string       // of the program
	site    string       // of the demo site
	stop    func()       // stops the program, not the site
	from    atomic.Value // the address that visitors come from, a string; none if not set
	// The demo site forbids other pages to frame its own.
	noFrames atomic.Bool
	// How long each call of the API about a notice is held back, ns.
	slow atomic.Int64
	// How many forms are taken in without their answers arriving.
	lost atomic.Int64
	// How many batches of counts are taken in without their answers arriving.
	lostCounts atomic.Int64
	// Nothing that is counted reaches the program.
	away atomic.Bool
	// The status that decisions fail with; 0 where they do not. How often one was asked for.
	fails, decisions atomic.Int64
	// How long each decision takes besides, ns.
	decisionsTake atomic.Int64
	// Where all that pages send to the program is written, if anywhere.
	heard atomic.Pointer[strings.Builder]
	// How long what takes answers and forms is on its way to the page, ns.
	late    atomic.Int64
	hearing sync.Mutex
	// How many requests to the program and to the site are not answered yet.
	asked    atomic.Int64
	ferries  *demosite.Site
	answered int64 // how many answers the demo begins with
}

// takers are the parts of the site script that take answers and forms.
var takers = regexp.MustCompile(`/(consent|disclaimer|form)\.[0-9a-f]+\.js$`)

func newWorld(t *testing.T) *world {
	t.Helper()
	t.Parallel() // each world has its own addresses, data and clock
	w := &world{t: t, clock: &clock.Settable{}}
	w.clock.Set(start)
	ours, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	theirs, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	w.address = "http://" + ours.Addr().String()
	w.site = "http://ferries.test:" + theirs.Addr().String()[strings.LastIndexByte(theirs.Addr().String(), ':')+1:]
	st, err := store.Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	w.ferries = demo.Site(w.address)
	site := http.Server{Handler: http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		if w.noFrames.Load() {
			rw.Header().Set("X-Frame-Options", "DENY")
		}
		defer w.counted()()
		w.ferries.ServeHTTP(rw, r)
	})}
	go site.Serve(theirs)
	require.NoError(t, demo.Fill(t.Context(), st, "http://"+theirs.Addr().String(), w.address, w.clock.Now()))
	w.server, err = server.New(t.Context(), st, server.Options{Base: w.address, Clock: w.clock, Settable: w.clock,
		Sources: sources.Options{Proxies: []string{"127.0.0.1"}}, Vendor: &standin.Vendor{Site: demo.Key, On: &w.ferries.Bad},
		Chromium: chromium, WithoutSandbox: os.Geteuid() == 0, SiteHosts: []string{
			hostOf(w.site), "vendors.test:" + portOf(w.site),
		}, Names: onThisMachine})
	require.NoError(t, err)
	// As a proxy in front of it would: it says where requests come from.
	program := http.Server{Handler: http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		if from, ok := w.from.Load().(string); ok {
			r.Header.Set("X-Forwarded-For", from)
		}
		if strings.Contains(r.URL.Path, "/notices") {
			time.Sleep(time.Duration(w.slow.Load()))
		}
		if takers.MatchString(r.URL.Path) {
			time.Sleep(time.Duration(w.late.Load()))
		}
		defer w.counted()()
		if strings.HasPrefix(r.URL.Path, "/d/") {
			w.decisions.Add(1)
			time.Sleep(time.Duration(w.decisionsTake.Load()))
			if status := w.fails.Load(); status != 0 {
				rw.Header().Set("Access-Control-Allow-Origin", "*")
				rw.WriteHeader(int(status))
				return
			}
		}
		if w.away.Load() && strings.HasSuffix(r.URL.Path, "/counts") {
			panic(http.ErrAbortHandler)
		}
		if to := w.heard.Load(); to != nil {
			w.hears(to, r)
		}
		if r.Method == http.MethodPost && (strings.HasPrefix(r.URL.Path, "/forms/") && w.lost.Add(-1) >= 0 ||
			strings.HasSuffix(r.URL.Path, "/counts") && w.lostCounts.Add(-1) >= 0) {
			w.server.Handler.ServeHTTP(httptest.NewRecorder(), r)
			panic(http.ErrAbortHandler)
		}
		w.server.Handler.ServeHTTP(rw, r)
	})}
	go program.Serve(ours)
	w.stop = sync.OnceFunc(func() { program.Close() })
	t.Cleanup(func() {
		w.stop()
		site.Close()
		st.Close()
	})
	w.changeSite(func(s *bundle.Site) { s.Origins = []string{w.site} })
	head, err := st.ConsentHead(t.Context(), demo.Key)
	require.NoError(t, err)
	w.answered = head.Seq
	return w
}

// hears writes down a request, one at a time.
func (w *world) hears(to *strings.Builder, r *http.Request) {
	body, err := io.ReadAll(r.Body)
	if err != nil {
		return // it broke off
	}
	r.Body = io.NopCloser(bytes.NewReader(body))
	w.hearing.Lock()
	defer w.hearing.Unlock()
	fmt.Fprintln(to, r.Method, r.URL, r.Referer(), string(body))
}

// counted counts a request until what it returns is called.
func (w *world) counted() func() {
	w.asked.Add(1)
	return func() { w.asked.Add(-1) }
}

// calm waits until nothing is asked of the program or of the site, and what was answered is drawn.
func (w *world) calm(p *tab) {
	w.t.Helper()
	last := time.Now().Add(patience)
	for quiet := 0; quiet < 8; quiet++ { // a busy machine takes its time from an answer to what it leads to
		require.True(w.t, time.Now().Before(last), "it does not come to rest")
		p.drawn()
		if w.asked.Load() > 0 {
			quiet = -1
		}
	}
}

func (w *world) changeSite(change func(*bundle.Site)) {
	w.t.Helper()
	s, err := w.server.Store.Site(w.t.Context(), demo.Key)
	require.NoError(w.t, err)
	change(&s.Site)
	require.NoError(w.t, w.server.Store.PutSite(w.t.Context(), s.Site, s.Revision, store.Entry{At: w.clock.Now()}))
	require.NoError(w.t, w.server.Hub.Reload(w.t.Context(), demo.Key))
}

// speaks adds a language to the site, with a page in it: /TAG/fares.
func (w *world) speaks(tag string) {
	w.t.Helper()
	path := "/" + tag + "/fares"
	w.ferries.Add(path, "/fares")
	list, err := w.server.Store.Pages(w.t.Context(), demo.Key)
	require.NoError(w.t, err)
	list = append(list, store.Page{Page: bundle.Page{Path: path, Language: tag}})
	require.NoError(w.t, w.server.Store.PutPages(w.t.Context(), demo.Key, list, time.Time{}))
	w.changeSite(func(s *bundle.Site) { s.Languages = append(s.Languages, tag) })
}

// only takes all notices off the site but these, which are published now.
func (w *world) only(notices ...bundle.Notice) {
	w.t.Helper()
	ctx := w.t.Context()
	old, err := w.server.Store.Notices(ctx, demo.Key)
	require.NoError(w.t, err)
	for _, n := range old {
		_, err := w.server.Store.Change(ctx, demo.Key, n.ID, n.Revision, func(n *store.Notice, _ int) (store.Entry, error) {
			n.Deleted = true
			return store.Entry{At: w.clock.Now(), Deed: history.Deleted.With()}, nil
		})
		require.NoError(w.t, err)
	}
	s, err := w.server.Store.Site(ctx, demo.Key)
	require.NoError(w.t, err)
	for i := range notices {
		notices[i].State = bundle.Published
	}
	_, err = importing.Bundle(ctx, w.server.Store, bundle.Bundle{
		Format:  bundle.Format,
		Site:    s.Site,
		Notices: notices,
	}, store.By{Name: "test"}, w.clock.Now().Add(-time.Hour))
	require.NoError(w.t, err)
	require.NoError(w.t, w.server.Hub.Reload(ctx, demo.Key))
}

// bar is a bar on every page that says something in English.
func bar(id, message string, alter ...func(*bundle.Notice)) bundle.Notice {
	n := bundle.Notice{
		ID:      id,
		Kind:    bundle.KindBar,
		Title:   id,
		Pages:   &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
		Memory:  &bundle.Memory{HideAfterClose: "P1D"},
		Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: message}}},
	}
	for _, f := range alter {
		f(&n)
	}
	return n
}

// tab is a browser tab. Tabs of one person share cookies and storage.
type tab struct {
	t   *testing.T
	ctx context.Context
}

// person opens a tab in a profile of its own: cookies and storage are empty.
func person(t *testing.T) *tab {
	t.Helper()
	ctx, cancel := chromedp.NewContext(browser, chromedp.WithNewBrowserContext())
	t.Cleanup(cancel)
	require.NoError(t, chromedp.Do(ctx))
	p := &tab{t, ctx}
	p.size(1280, 800)
	return p
}

// another opens one more tab of the same person.
func (p *tab) another() *tab {
	p.t.Helper()
	ctx, cancel := chromedp.NewContext(
		browser, chromedp.WithExistingBrowserContext(chromedp.FromContext(p.ctx).BrowserContextID),
	)
	p.t.Cleanup(cancel)
	require.NoError(p.t, chromedp.Do(ctx))
	return &tab{p.t, ctx}
}

func (p *tab) do(steps ...chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	require.NoError(p.t, chromedp.Do(ctx, steps...))
}

func (p *tab) size(width, height int64) { p.do(chromedp.EmulateViewport(width, height)) }
func (p *tab) open(address string)      { p.t.Helper(); p.do(chromedp.Navigate(address)) }

// ask evaluates JavaScript on the tab.
func ask[T any](p *tab, js string) T {
	p.t.Helper()
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	v, err := chromedp.Run(ctx, chromedp.Evaluate[T](js, chromedp.EvalAwaitPromise))
	require.NoError(p.t, err, js)
	return v
}

// until waits for JavaScript to come true.
func (p *tab) until(js string) {
	p.t.Helper()
	last := time.Now().Add(patience)
	for {
		// A page that is just beginning anew may leave the question without an answer.
		ctx, cancel := context.WithTimeout(p.ctx, patience/5)
		ok, err := chromedp.Run(ctx, chromedp.Evaluate[bool]("!!("+js+")"))
		cancel()
		if err == nil && ok {
			return
		}
		if time.Now().After(last) {
			ctx, cancel := context.WithTimeout(p.ctx, patience)
			seen, _ := chromedp.Run(
				ctx, chromedp.Evaluate[string]("location.href + '\\n' + document.body.innerText.slice(0, 3000)"),
			)
			cancel()
			require.Fail(p.t, "did not come true: "+js, "%v\n%s", err, seen)
		}
		time.Sleep(40 * time.Millisecond)
	}
}

// named finds what can be pressed by its accessible name or its words, the
// last one in the document, in view; null while something said in passing covers it.
const named = `(name => {
	const words = e => (e.getAttribute('aria-label') || e.textContent).replace(/\s+/g, ' ').trim()
	const hits = [...document.querySelectorAll('button,a,[role=button],[role=menuitem],[role=radio],[role=option],` +
	`[role=switch],[role=tab],[role=treeitem],label,input,summary,li')].filter(e => words(e) === name && ` +
	`e.getClientRects().length)
	const e = hits.at(-1)
	if (!e) return null
	e.scrollIntoView({ block: 'nearest' })
	const r = e.getClientRects()[0] // words may go over two lines
	const [x, y] = [r.x + r.width / 2, r.y + r.height / 2]
	const passing = document.elementFromPoint(x, y)?.closest('.el-message')
	return passing && !passing.contains(e) ? null : [x, y]
})`

func (p *tab) log(what string) {
	p.t.Logf("%6.1fs %s", time.Since(began).Seconds(), what)
}

var began = time.Now()

// press presses what has that name, with the mouse.
func (p *tab) press(name string) {
	p.t.Helper()
	p.log("press " + name)
	quoted, _ := json.Marshal(name)
	p.until(named + "(" + string(quoted) + ")")
	p.at(named + "(" + string(quoted) + ")")
}

// under notes what lies at a point, and what the mouse does next and to what;
// false if it is no longer the point.
const under = `((x, y, now) => {
	if (x !== now[0] || y !== now[1]) return false
	let e = document.elementFromPoint(x, y)
	while (e?.shadowRoot?.elementFromPoint(x, y) && e.shadowRoot.elementFromPoint(x, y) !== e) e = ` +
	`e.shadowRoot.elementFromPoint(x, y)
	const told = window.pressed = { e, at: e?.getBoundingClientRect(), frame: e?.localName === 'iframe' }
	for (const type of ['pointerdown', 'click'])
		addEventListener(type, ev => (told[type] = ev.composedPath().includes(e)), { capture: true, once: true })
	return true
})`

// arrived tells whether a press reached what it was meant for: a page that has
// gone on, or what vanished under the mouse, was reached too.
const arrived = `(() => {
	const p = window.pressed
	if (!p || p.frame || p.click) return 'yes'
	const gone = !p.e?.isConnected
	const still = !gone && p.e.getBoundingClientRect().y === p.at.y && p.e.getBoundingClientRect().x === p.at.x
	if (p.click === false) return p.pointerdown && (gone || still) ? 'yes' : 'no'
	return p.pointerdown && gone ? 'yes' : ''
})()`

// moves tells whether something slides or fades for a moment: on a busy machine it may stand still between
// two looks and go on after them.
const moves = `document.getAnimations().some(a => a.playState === 'running' && ` +
	`a.effect?.getComputedTiming().endTime < 2000)`

// at presses where JavaScript says, once that has come to rest. What slides
// away under the mouse on a busy machine is pressed again, as a person would.
func (p *tab) at(js string) {
	p.t.Helper()
	last := time.Now().Add(patience)
	for {
		var xy []float64
		for {
			time.Sleep(80 * time.Millisecond) // what slides into place has stopped
			before := xy
			if ask[bool](p, moves) && time.Now().Before(last) {
				xy = nil
				continue
			}
			xy = ask[[]float64](p, js)
			// What was there a moment ago may be made anew just now.
			if len(xy) == 2 && slices.Equal(before, xy) || time.Now().After(last) {
				break
			}
		}
		require.Len(p.t, xy, 2, js)
		point, _ := json.Marshal(xy)
		if !ask[bool](p, fmt.Sprintf("%s(...%s, %s)", under, point, js)) && time.Now().Before(last) {
			continue
		}
		p.do(chromedp.MouseClickXY(xy[0], xy[1]))
		var reached string
		for range 20 {
			// A page that is just being left has no answer, and was reached.
			ctx, cancel := context.WithTimeout(p.ctx, patience)
			var err error
			reached, err = chromedp.Run(ctx, chromedp.Evaluate[string](arrived))
			cancel()
			if err != nil {
				return
			}
			if reached != "" {
				break
			}
			time.Sleep(50 * time.Millisecond)
		}
		if reached == "yes" || time.Now().After(last) {
			return
		}
		p.log("slid away, again: " + js[max(0, len(js)-60):])
	}
}

// begin begins a plain bar, by the one control that begins everything.
func (p *tab) begin() {
	p.t.Helper()
	p.press("New notice")
	p.beginPlain()
	p.until("location.pathname.includes('/notices/new-bar') && document.querySelector('.tiptap')")
}

// beginPlain takes the first of what can be begun, where nothing was typed: a plain bar.
func (p *tab) beginPlain() {
	p.t.Helper()
	p.until("document.activeElement.getAttribute('aria-label') === 'What do you want to do?'")
	p.key(kb.Enter)
}

// fill replaces what stands in the field of that name.
func (p *tab) fill(name, text string) {
	p.t.Helper()
	quoted, _ := json.Marshal(name)
	field := "document.querySelector(`[aria-label=" + string(quoted) + "]`)"
	p.until(field)
	ask[bool](p, field+".focus() || "+field+".select?.() || true")
	p.do(chromedp.KeyEvent(text))
}

// choose chooses an option from the list of that name.
func (p *tab) choose(list, option string) {
	p.t.Helper()
	quoted, _ := json.Marshal(list)
	field := "document.querySelector(`[aria-label=" + string(quoted) + "]`)"
	p.until(field)
	p.at("(e => { const r = e.closest('.el-select').getBoundingClientRect(); return [r.x + 30, r.y + r.height / 2] " +
		"})(" + field + ")")
	p.press(option)
}

// key presses keys. Enter is one press, as a keyboard makes it: chromedp sends
// its character by itself, which a handler of the key could not take back.
func (p *tab) key(keys string) {
	p.t.Helper()
	if keys != kb.Enter {
		p.do(chromedp.KeyEvent(keys))
		return
	}
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		for _, press := range []input.DispatchKeyEventParams{
			{Type: input.DispatchKeyEventTypeKeyDown, Text: "\r", UnmodifiedText: "\r"}, {Type: input.DispatchKeyEventTypeKeyUp},
		} {
			press.Key, press.Code, press.WindowsVirtualKeyCode, press.NativeVirtualKeyCode = "Enter", "Enter", 13, 13
			if _, err := cdp.Call(ctx, t, input.DispatchKeyEvent, press); err != nil {
				return err
			}
		}
		return nil
	}))
}

// has waits for words to stand on the page, in any case.
func (p *tab) has(words string) {
	p.t.Helper()
	p.log("sees " + words)
	quoted, _ := json.Marshal(words)
	p.until("document.body.innerText.replace(/\\s+/g, ' ').includes(" + string(quoted) + ")")
}

// bars are the words of the bars on a visitor's page, in order; what stands in the
// site's own footer is none.
const bars = `[...document.querySelectorAll('mastflag-notice')].filter(h => !h.closest('footer')).map(h => ` +
	`h.shadowRoot.querySelector('.words')?.textContent.trim()).filter(Boolean)`

// shows waits for exactly these bars to be on the visitor's page.
func (p *tab) shows(words ...string) {
	p.t.Helper()
	if words == nil {
		words = []string{}
	}
	quoted, _ := json.Marshal(words)
	p.until("document.readyState === 'complete' && JSON.stringify(" + bars + ") === `" + string(quoted) + "`")
}

// settled waits until the page's script has had its answer.
func (p *tab) settled() {
	p.t.Helper()
	p.until("performance.getEntriesByType('resource').some(r => r.name.includes('/d/') && r.responseEnd > 0)")
	p.drawn()
}

// drawn waits until what was brought about before is drawn: the frame after the next.
func (p *tab) drawn() {
	p.t.Helper()
	ask[bool](p, "new Promise(r => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(r, 0, true))))")
}

// inBar presses what a selector finds in the shadow root of the last bar.
func (p *tab) inBar(selector string) {
	p.t.Helper()
	p.at("(e => { const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] " +
		"})([...document.querySelectorAll('mastflag-notice')].at(-1).shadowRoot.querySelector('" + selector + "'))")
}

// giveSession gives a person's browser a session, as if they had come in by the door some time ago.
func (w *world) giveSession(p *tab) {
	w.t.Helper()
	who, err := json.Marshal(map[string]string{"email": demo.Email, "password": demo.Password})
	require.NoError(w.t, err)
	reply, err := http.Post(w.address+"/api/sign-in", "application/json", bytes.NewReader(who))
	require.NoError(w.t, err)
	reply.Body.Close()
	require.Len(w.t, reply.Cookies(), 1)
	session := reply.Cookies()[0]
	httpOnly := true
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, network.SetCookie, network.SetCookieParams{Name: session.Name, Value: session.Value,
			URL: w.address, HTTPOnly: &httpOnly, SameSite: network.CookieSameSiteStrict})
		return err
	}))
}

// signIn signs in by the door.
func (w *world) signIn(p *tab) {
	w.t.Helper()
	p.open(w.address + "/")
	p.signInHere()
}

// signInHere signs in by the door that the tab is at.
func (p *tab) signInHere() {
	p.t.Helper()
	p.until("document.querySelector('input[name=email]')")
	p.do(
		chromedp.SendKeys(chromedp.CSS("input[name=email]"), demo.Email),
		chromedp.SendKeys(chromedp.CSS("input[name=password]"), demo.Password),
	)
	p.press("Sign in")
	p.has("Now & next")
}
