package inspect

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/cdproto/storage"
	"github.com/chromedp/chromedp"

	"mastflag/core/consent"
	"mastflag/core/document"
	"mastflag/core/pages"
	"mastflag/internal/outbound"
)

// watch is put before every page's own scripts: it tells who sets cookies and
// keys, and when.
const watch = `(() => {
	const tell = window.mastflagSees
	const who = () => (new Error().stack || '').split('\n').map(l => (l.match(/(https?:\/\/\S+?):\d+:\d+\)?$/) || ` +
	`[])[1]).find(Boolean) || ''
	const say = (kind, text) => { try { tell(JSON.stringify([kind, text, who(), Math.round(performance.now())])) } ` +
	`catch {} }
	const jar = Object.getOwnPropertyDescriptor(Document.prototype, 'cookie')
	Object.defineProperty(document, 'cookie', { configurable: true, get: () => jar.get.call(document), set(v) { ` +
	`say('cookie', String(v)); jar.set.call(document, v) } })
	const put = Storage.prototype.setItem
	Storage.prototype.setItem = function (k, v) { say(this === window.sessionStorage ? 'session' : 'storage', ` +
	`String(k)); return put.call(this, k, v) }
})()`

// withhold returns a script that keeps a page from telling what it tells as it is left, which is not blocked.
func (j Job) withhold() string {
	to, err := json.Marshal(strings.TrimSuffix(j.Answers, "*"))
	if err != nil {
		return ""
	}
	return fmt.Sprintf(`(() => {
	const send = navigator.sendBeacon.bind(navigator)
	navigator.sendBeacon = (to, what) => new URL(to, location).href.startsWith(%s) || send(to, what)
})();`, to)
}

// storedKeysJS is what lies on the page in the end: keys that were set past the watch,
// and frames.
const storedKeysJS = `(() => { const keys = s => { try { return Object.keys(s()) } catch { return [] } }
	return { storage: keys(() => localStorage), session: keys(() => sessionStorage), frames: ` +
	`[...document.querySelectorAll('iframe[src],frame[src]')].map(f => f.src), at: location.href } })()`

// answer presses the consent notice's button; whether there was one.
const answer = `(act => { const b = [...document.querySelectorAll('mastflag-notice')].map(h => ` +
	`h.shadowRoot?.querySelector('.ask')).filter(Boolean).map(a => a.querySelector(act)).find(Boolean); b?.click(); ` +
	`return !!b })`

var acts = map[consent.Phase]string{
	consent.AllAccepted: "[data-act=accept],[data-act=fine]",
	consent.AllRefused:  "[data-act=reject]",
}

// noUDP are the settings of a profile by which calls between browsers (WebRTC) send nothing past
// the proxy. A Chromium with windows heeds them, and not the flag of the same meaning.
const noUDP = `{"webrtc":{"ip_handling_policy":"disable_non_proxied_udp","multiple_routes_enabled":false,` +
	`"nonproxied_udp_enabled":false}}`

// newProfile makes the folder of a new browser’s profile.
func newProfile() (string, error) {
	dir, err := os.MkdirTemp("", "mastflag-inspect")
	if err != nil {
		return "", err
	}
	if err = os.Mkdir(filepath.Join(dir, "Default"), 0o700); err == nil {
		err = os.WriteFile(filepath.Join(dir, "Default", "Preferences"), []byte(noUDP), 0o600)
	}
	if err != nil {
		return "", errors.Join(err, os.RemoveAll(dir))
	}
	return dir, nil
}

// open starts a browser; end ends it. All that it fetches goes through out, which the guard has made: addresses of
// this machine too, and nothing past it by other protocols.
func (i *Inspector) open(ctx context.Context) (browser context.Context, out *outbound.Proxy, end func(), err error) {
	if os.Geteuid() == 0 && !i.WithoutSandbox {
		return nil, nil, nil, errors.New("Chromium has no sandbox where the program runs as root, and pages of a site are " +
			"strangers’ code: run the program as another user; or start it with --inspect-without-sandbox, where nothing " +
			"else is on the machine")
	}
	profile, err := newProfile()
	if err != nil {
		return nil, nil, nil, err
	}
	if out, err = i.Guard.Proxy(); err != nil {
		os.RemoveAll(profile)
		return nil, nil, nil, err
	}
	options := append(
		chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(i.Chromium), chromedp.DisableGPU,
		chromedp.WindowSize(1280, 800), chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-domain-reliability", true), chromedp.Flag("no-pings", true),
		chromedp.Flag("proxy-server", "http://"+out.Address), chromedp.Flag("proxy-bypass-list", "<-loopback>"),
		chromedp.Flag("disable-quic", true), chromedp.Flag("force-webrtc-ip-handling-policy", "disable_non_proxied_udp"),
		chromedp.UserDataDir(profile),
		// The proxy looks names up, and nothing else does.
		chromedp.Flag("host-resolver-rules", "MAP * ~NOTFOUND , EXCLUDE 127.0.0.1"),
	)
	if i.WithoutSandbox {
		options = append(options, chromedp.NoSandbox)
	}
	alloc, stop := chromedp.NewExecAllocator(ctx, options...)
	browser, shut := chromedp.NewContext(alloc)
	end = func() {
		shut()
		stop()
		out.Close()
		if err := os.RemoveAll(profile); err != nil {
			slog.Warn("a browser’s profile was not removed", "error", err)
		}
	}
	if err := chromedp.Do(browser); err != nil {
		end()
		return nil, nil, nil, fmt.Errorf("Chromium does not start: %w", err)
	}
	return browser, out, end, nil
}

func (i *Inspector) browse(ctx context.Context, j Job, r *consent.Run, told func(Progress)) (*document.Checked, error) {
	browser, out, end, err := i.open(ctx)
	if err != nil {
		return nil, err
	}
	defer end()
	b := &runBook{run: r, seen: map[string]bool{}}
	list := &checklist{failed: map[string]document.Failure{}}
	for n, phase := range consent.Phases {
		// A new visitor: nothing is kept from the phase before.
		tab, shut := chromedp.NewContext(browser, chromedp.WithNewBrowserContext())
		v := &visit{job: j, out: out, book: b, phase: phase, addresses: map[network.RequestID]string{}}
		err := v.begin(tab)
		for k, path := range j.Pages {
			if err != nil || ctx.Err() != nil {
				break
			}
			told(Progress{phase, path, n*len(j.Pages) + k, len(consent.Phases) * len(j.Pages)})
			if why := v.page(tab, path); why != nil && ctx.Err() == nil {
				if phase == consent.Unanswered {
					r.Faults = append(r.Faults, consent.RunFault{Page: path, Why: why.Error()})
				}
				continue
			}
			if j.Accessibility && phase == consent.Unanswered && axe != "" {
				if why := list.page(tab); why != nil && ctx.Err() == nil {
					r.Faults = append(r.Faults, consent.RunFault{Page: path, Why: why.Error()})
				}
			}
			if act, ok := acts[phase]; ok && !v.answered {
				if v.answered = v.press(tab, act); v.answered {
					if why := v.page(tab, path); why != nil { // once more, with the answer
						continue
					}
				}
			}
		}
		if phase != consent.Unanswered && !v.answered {
			r.NoQuestion = true
		}
		shut()
		if err != nil || ctx.Err() != nil {
			return list.result(r.Began), err
		}
	}
	return list.result(r.Began), nil
}

// A visit is one new visitor on the site.
type visit struct {
	job      Job
	out      *outbound.Proxy
	book     *runBook
	phase    consent.Phase
	answered bool

	mu        sync.Mutex
	path      string
	began     time.Time // when the page was asked for
	last      time.Time // when something last happened
	addresses map[network.RequestID]string
	waiting   []consent.Sighting // of the page that is being visited
}

// begin readies a tab and listens to it.
func (v *visit) begin(tab context.Context) error {
	if err := chromedp.Do(tab); err != nil {
		return err
	}
	if err := chromedp.Listen(tab, v.hear); err != nil {
		return err
	}
	return chromedp.Do(tab, chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		if _, err := cdp.Call(ctx, t, network.Enable, network.EnableParams{}); err != nil {
			return err
		}
		if _, err := cdp.Call(ctx, t, network.SetBlockedURLs, network.SetBlockedURLsParams{
			URLPatterns: []*network.BlockPattern{{URLPattern: v.job.Answers, Block: true}},
		}); err != nil {
			return err
		}
		if _, err := cdp.Call(ctx, t, runtime.AddBinding, runtime.AddBindingParams{Name: "mastflagSees"}); err != nil {
			return err
		}
		_, err := cdp.Call(
			ctx, t, page.AddScriptToEvaluateOnNewDocument,
			page.AddScriptToEvaluateOnNewDocumentParams{Source: v.job.withhold() + watch},
		)
		return err
	}))
}

// see notes a find of the page that is being visited; v.mu is held.
func (v *visit) see(s consent.Sighting) {
	s.Phase, s.Page = v.phase, v.path
	v.waiting = append(v.waiting, s)
}

// hear takes in what the browser says.
func (v *visit) hear(event any) {
	v.mu.Lock()
	defer v.mu.Unlock()
	v.last = time.Now()
	after := int(time.Since(v.began).Milliseconds())
	switch e := event.(type) {
	case *network.EventRequestWillBeSent:
		v.addresses[e.RequestID] = e.Request.URL
		host := v.job.host(e.Request.URL)
		if host == "" || e.Type == network.ResourceTypeDocument {
			return // frames are counted on the page
		}
		by := e.DocumentURL
		if i := e.Initiator; i != nil && i.URL != "" {
			by = i.URL
		} else if i != nil && i.Stack != nil && len(i.Stack.CallFrames) > 0 {
			by = i.Stack.CallFrames[0].URL
		}
		if v.job.ours(by) { // it let run what is marked in the page
			by = e.DocumentURL
		}
		v.see(consent.Sighting{Kind: consent.Request, Name: host, By: by, After: after})
	case *network.EventResponseReceivedExtraInfo:
		from := v.addresses[e.RequestID]
		for name, value := range e.Headers {
			text, ok := value.(string)
			if !ok || !strings.EqualFold(name, "Set-Cookie") {
				continue
			}
			for line := range strings.SplitSeq(text, "\n") {
				v.cookie(line, from, after)
			}
		}
	case *runtime.EventBindingCalled:
		var said [3]string
		var at float64
		if e.Name != "mastflagSees" || json.Unmarshal([]byte(e.Payload), &[]any{
			&said[0], &said[1], &said[2], &at,
		}) != nil || v.job.ours(said[2]) && said[0] == "cookie" {
			return
		}
		switch said[0] {
		case "cookie":
			v.cookie(said[1], said[2], int(at))
		case "session":
			v.see(consent.Sighting{Kind: consent.Storage, Name: said[1], By: said[2], Lasts: "session", After: int(at)})
		default:
			v.see(consent.Sighting{Kind: consent.Storage, Name: said[1], By: said[2], Lasts: "ever", After: int(at)})
		}
	}
}

// ours reports whether a script is the program's own.
func (j Job) ours(script string) bool { return strings.HasPrefix(script, j.Base+"/") }

// cookie notes a cookie that was set; v.mu is held.
func (v *visit) cookie(line, by string, after int) {
	now := time.Now()
	c, ok := consent.ParseSetCookie(line, now)
	if !ok || c.Gone {
		return
	}
	v.see(consent.Sighting{
		Kind:  consent.Cookie,
		Name:  c.Name,
		Host:  v.job.cookieHost(c, by),
		By:    by,
		Lasts: c.Lasting(now),
		After: after,
	})
}

// page visits a page until nothing happens on it any more.
func (v *visit) page(tab context.Context, path string) error {
	v.mu.Lock()
	v.path, v.began, v.waiting, v.addresses = path, time.Now(), nil, map[network.RequestID]string{}
	v.mu.Unlock()
	ctx, cancel := context.WithTimeout(tab, pageTimeout)
	defer cancel()
	asked := time.Now()
	if err := chromedp.Do(ctx, chromedp.Navigate(v.job.Origin+path)); err != nil {
		if ctx.Err() != nil && tab.Err() == nil {
			return fmt.Errorf("it did not load within %s", pageTimeout)
		}
		if why := v.out.Refused(outbound.HostPort(v.job.Origin)); why != nil {
			return why
		}
		return err
	}
	untilQuiet(ctx, time.Since(asked), func() time.Time {
		v.mu.Lock()
		defer v.mu.Unlock()
		return v.last
	})
	end, err := chromedp.Run(ctx, chromedp.Evaluate[struct {
		Storage, Session, Frames []string
		At                       string
	}](storedKeysJS))
	if err != nil {
		return err
	}
	if !v.job.onSite(end.At) {
		return fmt.Errorf("%w, %s", errElsewhere, end.At)
	}
	var cookies []*network.Cookie
	err = chromedp.Do(ctx, chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		got, err := cdp.Call(ctx, t, storage.GetCookies, storage.GetCookiesParams{})
		cookies = got.Cookies
		return err
	}))
	if err != nil {
		return err
	}
	v.mu.Lock()
	defer v.mu.Unlock()
	after := int(time.Since(v.began).Milliseconds())
	for _, s := range v.waiting {
		v.book.add(s)
	}
	late := func(s consent.Sighting) {
		s.Phase, s.Page, s.After = v.phase, path, after
		v.book.add(s)
	}
	// What came past the watch: frames, cookies and keys of ways it does not know.
	for _, address := range end.Frames {
		if host := v.job.host(address); host != "" {
			late(consent.Sighting{Kind: consent.Frame, Name: host, By: address})
		}
	}
	for _, k := range end.Storage {
		late(consent.Sighting{Kind: consent.Storage, Name: k, Lasts: "ever"})
	}
	for _, k := range end.Session {
		late(consent.Sighting{Kind: consent.Storage, Name: k, Lasts: "session"})
	}
	now := time.Now()
	for _, c := range cookies {
		kept := consent.SetCookie{Name: c.Name, Domain: strings.ToLower(strings.TrimPrefix(c.Domain, "."))}
		if !c.Session {
			kept.Expires = time.Unix(int64(c.Expires), 0)
		}
		late(consent.Sighting{
			Kind:  consent.Cookie,
			Name:  c.Name,
			Host:  v.job.cookieHost(kept, v.job.Origin),
			Lasts: kept.Lasting(now),
		})
	}
	return nil
}

// onSite reports whether an address is of the site.
func (j Job) onSite(address string) bool {
	here, err := pages.Origin(address)
	if err != nil {
		return false
	}
	u, err := url.Parse(here)
	return err == nil && j.Own(strings.ToLower(u.Hostname()))
}

// untilQuiet waits until nothing has happened on a page for a while, or for long enough: longer on one that took long
// to load, because the site or this machine is slow.
func untilQuiet(ctx context.Context, loading time.Duration, last func() time.Time) {
	period, timeout := max(quietPeriod, loading/3), max(quietTimeout, 3*loading)
	for began := time.Now(); time.Since(began) < timeout && ctx.Err() == nil; time.Sleep(50 * time.Millisecond) {
		if time.Since(last()) > period {
			return
		}
	}
}

// press answers the question, once it is there; false if it does not come.
func (v *visit) press(tab context.Context, act string) bool {
	ctx, cancel := context.WithTimeout(tab, pageTimeout)
	defer cancel()
	for began := time.Now(); time.Since(began) < 4*time.Second && ctx.Err() == nil; time.Sleep(100 * time.Millisecond) {
		if ok, err := chromedp.Run(ctx, chromedp.Evaluate[bool](answer+"('"+act+"')")); err == nil && ok {
			time.Sleep(quietPeriod)
			return true
		}
	}
	return false
}
