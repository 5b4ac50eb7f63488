package e2e

import (
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/csp"
	"mastflag/core/pages"
	"mastflag/internal/delivery"
	"mastflag/internal/demo"
)

// What a page of the site carries: both lines, the second alone, and both three times over, as where
// a template was pasted into a template.
func pasted(address string) map[string]string {
	lines := strings.Split(delivery.NewSnippet(address, "s").HTML(), "\n")
	return map[string]string{
		"both lines":  lines[0] + lines[1],
		"second line": lines[1],
		"three times": strings.Repeat(lines[0]+lines[1], 3),
	}
}

// Whatever the program does, the page's load event does not wait for it, no error reaches the page,
// and room that was kept for a bar that does not come is given back (HTML Standard, "delay the load
// event").
func TestLoadWaitsForNothingOfOurs(t *testing.T) {
	t.Parallel()
	ends := make(chan struct{})
	t.Cleanup(func() { close(ends) })
	hang := func(rw http.ResponseWriter, part string) {
		rw.Header().Set("Content-Type", "text/javascript")
		rw.Header().Set("Access-Control-Allow-Origin", "*")
		rw.Header().Set("Content-Length", "4000")
		io.WriteString(rw, part)
		rw.(http.Flusher).Flush()
	}
	stopped, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	require.NoError(t, stopped.Close())
	program := func(answer http.HandlerFunc) string {
		s := httptest.NewServer(answer)
		t.Cleanup(s.CloseClientConnections)
		return s.URL
	}
	// The loader is there, and what it brings in hangs.
	loader, err := os.ReadFile("../internal/delivery/dist/loader.js")
	require.NoError(t, err)
	known := `{server:"http://%s",script:"/a/site.js",mastflag:"s"}`
	for says, address := range map[string]string{
		"stopped": "http://" + stopped.Addr().String(),
		"hanging": program(func(http.ResponseWriter, *http.Request) { <-ends }),
		"slow": program(func(rw http.ResponseWriter, _ *http.Request) {
			select {
			case <-ends:
			case <-time.After(8 * time.Second):
			}
			rw.Header().Set("Access-Control-Allow-Origin", "*")
		}),
		"cut off": program(func(rw http.ResponseWriter, _ *http.Request) {
			hang(rw, "(()=>{try{let a=")
			panic(http.ErrAbortHandler)
		}),
		"half an answer": program(func(rw http.ResponseWriter, _ *http.Request) {
			hang(rw, "(()=>{")
			<-ends
		}),
		"a wrong answer": program(func(rw http.ResponseWriter, _ *http.Request) {
			rw.Header().Set("Access-Control-Allow-Origin", "*")
			rw.Header().Set("Content-Type", "text/html")
			io.WriteString(rw, "<h1>Bad gateway</h1>")
		}),
		"hanging behind the loader": program(func(rw http.ResponseWriter, r *http.Request) {
			if strings.HasPrefix(r.URL.Path, "/a/") {
				<-ends
			}
			rw.Header().Set("Content-Type", "text/javascript")
			rw.Header().Set("Access-Control-Allow-Origin", "*")
			io.WriteString(rw, strings.Replace(string(loader), "__MASTFLAG__", fmt.Sprintf(known, r.Host), 1))
		}),
	} {
		for how, lines := range pasted(address) {
			t.Run(says+", "+how, func(t *testing.T) {
				t.Parallel()
				site := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
					rw.Header().Set("Content-Type", "text/html")
					fmt.Fprintf(rw, `<!doctype html><html><head><title>A page</title><script>
						window.wrong = []
						addEventListener('error', (e) => wrong.push(e.message))
						addEventListener('unhandledrejection', (e) => wrong.push(String(e.reason)))
						localStorage.setItem('mastflag.s.room', JSON.stringify({ '/': {
							width: innerWidth, edges: 'html{padding-top:50px}', until: Date.now() + 1e6 } }))
						onload = () => { window.loaded = performance.now() }
						</script>%s</head><body><h1>Hello</h1></body></html>`, lines)
				}))
				defer site.Close()
				v := person(t)
				v.open(site.URL + "/")
				v.until("window.loaded")
				assert.Less(t, ask[float64](v, "window.loaded"), 7000.0, "before what is slow has answered")
				v.until("document.querySelector('h1').getBoundingClientRect().top < 50")
				assert.Empty(t, ask[[]string](v, "window.wrong"))
			})
		}
	}
}

// On pages that take HTML and scripts by name alone (Trusted Types), everything of ours goes in by
// one policy, called mastflag: notices show, consent is asked, code and what waits for consent run.
// Where the page allows no such name nothing shows, and no error reaches the page.
func TestTrustedTypes(t *testing.T) {
	w := newWorld(t)
	w.only(
		bar("hello", "Hello"),
		bundle.Notice{ID: "timing", Kind: bundle.KindCode, Pages: &pages.Conditions{
			Include: []pages.Entry{{Match: pages.All}},
		}, Content: &bundle.Content{Code: &bundle.PageCode{End: "<script>window.timed = 1</script>"}}},
		bar("ask", "May we?", func(n *bundle.Notice) {
			n.Kind, n.Slot, n.Memory = bundle.KindConsent, bundle.Bottom, &bundle.Memory{Closable: new(bool)}
			n.Content.Consent = &consent.Question{}
		}),
	)
	site := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		rw.Header().Set("Content-Type", "text/html")
		rw.Header().Set(
			"Content-Security-Policy", "require-trusted-types-for 'script'; trusted-types "+r.URL.Query().Get("types"),
		)
		fmt.Fprintf(rw, `<!doctype html><html lang="en"><head><title>A page</title><script>
			window.wrong = []
			addEventListener('error', (e) => wrong.push(e.message))
			addEventListener('unhandledrejection', (e) => wrong.push(String(e.reason)))
			</script>%s</head><body><h1>Hello</h1>
			<script type="text/plain" data-purpose="measurement">window.measured = 1</script>
			</body></html>`, delivery.NewSnippet(w.address, demo.Key).HTML())
	}))
	defer site.Close()
	w.changeSite(func(s *bundle.Site) { s.Origins = append(s.Origins, site.URL) })

	v := person(t)
	v.open(site.URL + "/?types=mastflag")
	v.until("document.querySelector('[data-id=hello]')?.shadowRoot.textContent.includes('Hello')")
	v.until("window.timed")
	v.until(asks)
	v.inAsk("accept")
	v.until("window.measured")
	assert.Empty(t, ask[[]string](v, "window.wrong"))

	refused := person(t)
	before := w.asked.Load()
	refused.open(site.URL + "/?types=%27none%27")
	refused.until("document.readyState === 'complete' && performance.getEntriesByType('resource').some((e) => " +
		"e.name.includes('/a/site.'))")
	w.calm(refused)
	assert.Equal(t, before, w.asked.Load())
	assert.Zero(t, ask[int](refused, "document.querySelectorAll('mastflag-notice').length"))
	assert.Empty(t, ask[[]string](refused, "window.wrong"))
}

// The lines work in pages of XHTML, and under a policy that trusts scripts by a nonce alone and what they bring in
// (CSP Level 3, strict-dynamic), where both lines carry it: bars, blocks, pop-ups and the question show.
func TestLinesUnderEachPolicy(t *testing.T) {
	w := newWorld(t)
	w.only(
		bar("hello", "Hello <b>everyone</b>,<br>welcome"), inPage("block", "In the text", "h1", bundle.After),
		popUp("corner", bundle.CornerEnd),
		bar("ask", "May we?", func(n *bundle.Notice) {
			n.Kind, n.Slot, n.Memory = bundle.KindConsent, bundle.Bottom, &bundle.Memory{Closable: new(bool)}
			n.Content.Consent = &consent.Question{}
		}),
	)
	lines := delivery.NewSnippet(w.address, demo.Key).HTML()
	site := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		const note = `<script nonce="n">window.faults = [];
			addEventListener('error', (e) => faults.push(e.message));
			addEventListener('securitypolicyviolation', (e) => faults.push(e.violatedDirective + e.blockedURI))</script>`
		switch r.URL.Path {
		case "/xhtml":
			rw.Header().Set("Content-Type", "application/xhtml+xml")
			fmt.Fprintf(rw, `<?xml version="1.0" encoding="UTF-8"?><html xmlns="http://www.w3.org/1999/xhtml" xml:lang="en">
				<head><title>A page</title>%s%s</head><body><h1>Hello</h1><p>Text.</p></body></html>`,
				strings.ReplaceAll(note, "=>", "=&gt;"), lines)
		default:
			rw.Header().Set("Content-Type", "text/html")
			rw.Header().Set("Content-Security-Policy", "script-src 'nonce-n' 'strict-dynamic'; object-src 'none'")
			fmt.Fprintf(rw, `<!doctype html><html lang="en"><head><title>A page</title>%s%s</head><body><h1>Hello</h1>
				<p>Text.</p></body></html>`, note, strings.ReplaceAll(lines, "<script>", `<script nonce="n">`))
		}
	}))
	defer site.Close()
	w.changeSite(func(s *bundle.Site) { s.Origins = append(s.Origins, site.URL) })
	for _, path := range []string{"/xhtml", "/nonce"} {
		for range 2 {
			v := person(t)
			v.open(site.URL + path)
			v.until("document.querySelector('[data-id=hello]')?.shadowRoot.querySelector('br')")
			v.until("document.querySelector('h1').nextElementSibling.dataset.id === 'block'")
			v.until("document.querySelector('mastflag-corner-end [data-id=corner]')")
			v.until(asks)
			v.inAsk("accept")
			v.until("!" + asks)
			assert.Empty(t, ask[[]string](v, "window.faults"), path)
		}
	}
}

// Under a policy as the core completes it notices show and the browser objects to nothing; under the same policy as
// it was they do not, where the core says that something is missing for more than pictures.
func TestPoliciesAsTheyAreCompleted(t *testing.T) {
	w := newWorld(t)
	w.only(bar("hello", "Hello"))
	snippet := delivery.NewSnippet(w.address, demo.Key)
	var policy atomic.Value
	site := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		rw.Header().Set("Content-Type", "text/html")
		rw.Header().Set("Content-Security-Policy", policy.Load().(string))
		lines := snippet.HTML()
		if r.URL.Path == "/nonce" {
			lines = strings.ReplaceAll(lines, "<script>", `<script nonce="n">`)
		}
		fmt.Fprintf(rw, `<!doctype html><html lang="en"><head><title>A page</title>%s</head><body><h1>Hi</h1></body></html>`,
			lines)
	}))
	defer site.Close()
	w.changeSite(func(s *bundle.Site) { s.Origins = append(s.Origins, site.URL) })
	needs := csp.Needs{Origin: w.address, Hashes: snippet.Hashes(), TrustedTypes: delivery.TrustedTypes}
	const other = "'sha256-47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU='"
	for _, p := range []string{
		"default-src 'self'", "default-src 'none'", "default-src *", "default-src http: 'unsafe-inline'",
		"script-src 'self'", "script-src 'self' 'unsafe-inline'", "script-src 'unsafe-inline' " + other + " " + w.address,
		"script-src 'nonce-n'; default-src 'self'", "script-src 'nonce-n' 'unsafe-inline'",
		"script-src 'strict-dynamic' " + other, "script-src-elem 'self'; script-src * 'unsafe-inline'",
		"connect-src 'none'", "connect-src 127.0.0.1:*; img-src 'none'", "connect-src " + w.address + "/r/",
		"trusted-types other; require-trusted-types-for 'script'", "require-trusted-types-for 'script'",
		"trusted-types *; require-trusted-types-for 'script'",
	} {
		advice := csp.Advise(p, site.URL, needs)
		path := "/plain"
		if advice.Nonce {
			path = "/nonce"
		}
		open := func(under string) *tab {
			policy.Store(strings.ReplaceAll(under, csp.AnyNonce, "'nonce-n'"))
			v := person(t)
			v.before(`window.objections = []
				addEventListener('securitypolicyviolation', (e) => objections.push(e.effectiveDirective + ' ' + e.blockedURI))`)
			v.open(site.URL + path)
			return v
		}
		t.Logf("%s became %s", p, advice.Policy)
		v := open(advice.Policy)
		v.shows("Hello")
		assert.Empty(t, ask[[]string](v, "objections"), p)
		if !slices.ContainsFunc(advice.Add, func(a csp.Addition) bool { return a.Directive != "img-src" }) {
			v = open(p)
			v.shows("Hello")
			continue
		}
		v = open(p)
		v.until("objections.length > 0")
		w.calm(v)
		assert.Empty(t, ask[[]string](v, bars), p)
	}
}

// Lines that are pasted three times show each notice once; and a page that had them before, as a
// script element, goes on working.
func TestTheLinesThreeTimes(t *testing.T) {
	w := newWorld(t)
	w.only(bar("hello", "Hello"), bar("second", "And welcome"))
	lines := pasted(w.address)
	former := `<script src="` + w.address + `/s/sundrey.js" async></script>`
	site := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		rw.Header().Set("Content-Type", "text/html")
		fmt.Fprintf(rw, `<!doctype html><html lang="en"><head><title>A page</title>%s</head><body><h1>Hi</h1></body></html>`,
			strings.ReplaceAll(map[string]string{
				"/three": lines["three times"], "/former": former, "/mixed": lines["both lines"] + former + former,
			}[r.URL.Path], "/s/s.js", "/s/sundrey.js"))
	}))
	defer site.Close()
	w.changeSite(func(s *bundle.Site) { s.Origins = append(s.Origins, site.URL) })
	for _, path := range []string{"/three", "/former", "/mixed"} {
		v := person(t)
		noteErrors(v)
		v.open(site.URL + path)
		v.shows("Hello", "And welcome")
		w.calm(v)
		assert.Equal(t, 2, ask[int](v, "document.querySelectorAll('mastflag-notice').length"), path)
		v.unharmed()
	}
}

// A server that answers with an error is asked again, later and later; what it refuses is not.
func TestAskedAgain(t *testing.T) {
	w := newWorld(t)
	w.fails.Store(http.StatusServiceUnavailable)
	w.only(bar("hello", "Hello"))
	v := person(t)
	noteErrors(v)
	const hurry = "const wait = setTimeout; window.setTimeout = (f, ms, ...a) => wait(f, ms >= 6e4 ? ms / 100 : ms, ...a)"
	v.before(hurry)
	v.open(w.site + "/fares")
	for deadline := time.Now().Add(patience); w.decisions.Load() < 3; {
		require.True(t, time.Now().Before(deadline), "it is asked again")
		time.Sleep(20 * time.Millisecond)
	}
	w.fails.Store(0)
	v.shows("Hello")
	v.unharmed()
	v.open("about:blank") // it asks no more

	w.fails.Store(http.StatusForbidden)
	other := person(t)
	other.before(hurry)
	before := w.decisions.Load()
	other.open(w.site + "/fares")
	time.Sleep(2 * time.Second)
	assert.Equal(t, before+1, w.decisions.Load(), "what is refused would be refused again")
}
