package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/internal/delivery"
	"mastflag/internal/demo"
)

// apps builds the apps of npm's frameworks, once: pages as their servers render them, by app and path.
var apps = sync.OnceValues(func() (map[string]map[string]string, error) {
	build := exec.Command("npm", "run", "--silent", "build")
	build.Dir = "apps"
	if out, err := build.CombinedOutput(); err != nil {
		return nil, fmt.Errorf("%w: %s", err, out)
	}
	text, err := os.ReadFile("apps/build/pages.json")
	if err != nil {
		return nil, err
	}
	var pages map[string]map[string]string
	return pages, json.Unmarshal(text, &pages)
})

// linesOf are the program's two lines, without the elements around them.
func linesOf(w *world) []string {
	all := delivery.NewSnippet(w.address, demo.Key).HTML()
	return strings.Split(strings.TrimSuffix(strings.TrimPrefix(all, "<script>"), "</script>"), "</script>\n<script>")
}

// appSite serves an app of npm's frameworks with the program's lines in its head. The app's script takes as long as
// slow says, ns.
func appSite(t *testing.T, w *world, app string, slow *atomic.Int64) *httptest.Server {
	t.Helper()
	pages, err := apps()
	require.NoError(t, err)
	lines := linesOf(w)
	require.Len(t, lines, 2)
	script := app
	if app == "document" {
		script = "react"
	}
	site := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/"+script+".js" {
			time.Sleep(time.Duration(slow.Load()))
			http.ServeFile(rw, r, "apps/build/"+script+".js")
			return
		}
		page, ok := pages[app][r.URL.Path]
		if !ok {
			http.NotFound(rw, r)
			return
		}
		rw.Header().Set("Content-Type", "text/html; charset=utf-8")
		if app != "document" {
			page = fmt.Sprintf(`<!doctype html><html lang="en"><head><meta charset="utf-8"><title>An app</title>
				<script>FIRST</script><script>SECOND</script></head><body><div id="app">%s</div>
				<script type="module" src="/%s.js"></script></body></html>`, page, script)
		}
		fmt.Fprint(rw, strings.NewReplacer("FIRST", lines[0], "SECOND", lines[1]).Replace(page))
	}))
	t.Cleanup(site.Close)
	w.changeSite(func(s *bundle.Site) { s.Origins = append(s.Origins, site.URL) })
	return site
}

// On apps that a server rendered nothing of ours stands in the way of what the browser makes of them: no hydration
// fails, whenever the app or the program comes, and no notice is lost on 100 navigations.
func TestFrameworks(t *testing.T) {
	for _, app := range []string{"react", "document", "vue", "svelte"} {
		t.Run(app, func(t *testing.T) {
			w := newWorld(t)
			w.only(
				bar("top", "At the top"), bar("low", "At the bottom", atBottom), bar("stay", "Staying", sticking),
				inPage("after", "After the heading", "h1", bundle.After),
				inPage("first", "First in the text", "main", bundle.First),
				inPage("end", "Before the end", "#end", bundle.Before),
				inPage("instead", "Instead of the lead", ".lead", bundle.Instead),
			)
			var slow atomic.Int64
			site := appSite(t, w, app, &slow)
			v := person(t)
			lines, err := json.Marshal(linesOf(w))
			require.NoError(t, err)
			noteErrors(v)
			v.before(`window.wrong = []; window.lines = ` + string(lines) + `
				window.late = Number(new URLSearchParams(location.search).get('late'))
				for (const say of ['warn', 'error']) {
					const own = console[say]
					console[say] = (...said) => { wrong.push(said.join(' ')); own(...said) }
				}`)
			for _, delay := range []struct{ app, late, program time.Duration }{
				{}, {app: 700 * time.Millisecond}, {late: 600 * time.Millisecond}, {program: 700 * time.Millisecond},
			} {
				slow.Store(int64(delay.app))
				w.decisionsTake.Store(int64(delay.program))
				for round := range 2 {
					v.open(fmt.Sprintf("%s/?late=%d", site.URL, delay.late.Milliseconds()))
					v.until("window.hydrated")
					v.until(allStand)
					assert.Empty(t, ask[[]string](v, "window.wrong"), "%v, view %d", delay, round)
				}
			}
			w.decisionsTake.Store(0)
			assert.Empty(t, ask[[]int](v, `(async () => {
				const lost = []
				const frame = () => new Promise(requestAnimationFrame)
				for (let i = 0; i < 100; i++) {
					go(['/fares', '/islands', '/'][i % 3])
					const last = performance.now() + 2000
					do await frame()
					while (!(`+allStand+`) && performance.now() < last)
					if (performance.now() >= last) lost.push(i)
				}
				return lost
			})()`), "notices lost on a navigation")
			assert.Equal(t, 7, ask[int](v, "document.querySelectorAll('mastflag-notice').length"))
			assert.Empty(t, ask[[]string](v, "window.wrong"))
			v.unharmed()
		})
	}
}

// allStand is whether seven notices stand where they are meant to.
const allStand = `(() => {
	const of = (id) => document.querySelector('mastflag-notice[data-id=' + id + ']')
	const h1 = document.querySelector('h1')
	return ['top', 'low', 'stay', 'after', 'first', 'end', 'instead'].every((id) => of(id)?.isConnected) &&
		of('after').previousElementSibling === h1 && of('first') === document.querySelector('main').firstElementChild &&
		of('end').nextElementSibling.id === 'end' && of('instead').nextElementSibling.className === 'lead' &&
		document.querySelector('.lead').hidden
})()`
