package e2e

import (
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/internal/delivery"
	"mastflag/internal/demo"
	"mastflag/internal/store"
)

// included is nginx as docs/blocks.md has it, with the program and the folders of
// this test.
const included = `daemon off; pid %[1]s/nginx.pid; error_log %[1]s/error.log;
worker_processes 1;
events { worker_connections 64; }
http {
	access_log off; types { text/html html; }
	client_body_temp_path %[1]s/body; proxy_temp_path %[1]s/proxy; fastcgi_temp_path %[1]s/fastcgi;
	uwsgi_temp_path %[1]s/uwsgi; scgi_temp_path %[1]s/scgi;
	server {
		listen 127.0.0.1:%[2]d; root %[1]s/site;
%[3]s
	}
}`

// nginx serves a folder as the documentation's example does, and returns its origin.
func (w *world) nginx(pages map[string]string) string {
	t := w.t
	t.Helper()
	guide, err := os.ReadFile("../docs/blocks.md")
	require.NoError(t, err)
	_, example, ok := strings.Cut(string(guide), "```nginx\n")
	require.True(t, ok)
	example, _, _ = strings.Cut(example, "```")
	require.Contains(t, example, "http://127.0.0.1:8080/")
	example = strings.ReplaceAll(example, "http://127.0.0.1:8080/", w.address+"/")
	dir := t.TempDir()
	require.NoError(t, os.Mkdir(filepath.Join(dir, "site"), 0o755))
	for name, text := range pages {
		require.NoError(t, os.WriteFile(filepath.Join(dir, "site", name), []byte(text), 0o644))
	}
	// Its workers run as another user where the tests run as root.
	for _, folder := range []string{filepath.Dir(dir), dir, filepath.Join(dir, "site")} {
		require.NoError(t, os.Chmod(folder, 0o755))
	}
	free, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	port := free.Addr().(*net.TCPAddr).Port
	free.Close()
	conf := filepath.Join(dir, "nginx.conf")
	require.NoError(t, os.WriteFile(conf, fmt.Appendf(nil, included, dir, port, example), 0o644))
	path, err := exec.LookPath("nginx")
	if err != nil {
		path = "/usr/sbin/nginx"
	}
	serving := exec.Command(path, "-e", dir+"/error.log", "-c", conf, "-p", dir)
	require.NoError(t, serving.Start(), "Debian’s nginx: run make test, which installs it")
	t.Cleanup(func() {
		serving.Process.Signal(os.Interrupt)
		serving.Wait()
	})
	origin := fmt.Sprintf("http://127.0.0.1:%d", port)
	require.Eventually(t, func() bool {
		res, err := http.Get(origin + "/index.html")
		if err == nil {
			res.Body.Close()
		}
		return err == nil
	}, patience, 50*time.Millisecond)
	return origin
}

// Put into the page by the site's own server, a block is there without script,
// stands once, and moves nothing; without the program the page comes without it.
func TestBlockComesWithThePage(t *testing.T) {
	w := newWorld(t)
	row, err := w.server.Store.Notice(t.Context(), demo.Key, "footer-documents")
	require.NoError(t, err)
	footer := row.Out()
	footer.Pages.Exclude = footer.Pages.Exclude[:0]
	w.only(footer)
	const page = `<!doctype html><html lang="en"><head><title>Page</title><meta charset="utf-8">%s</head><body>
<main><h1>Page</h1><p>Text.</p></main><footer><!--# include virtual="/blocks/footer-documents?page=$uri" -->` +
		`</footer></body></html>`
	snippet := delivery.NewSnippet(w.address, demo.Key).HTML()
	origin := w.nginx(map[string]string{"index.html": fmt.Sprintf(page, snippet), "out.html": fmt.Sprintf(page, snippet)})
	w.changeSite(func(s *bundle.Site) { s.Origins = append(s.Origins, origin) })
	get := func(path string) string {
		t.Helper()
		res, err := http.Get(origin + path)
		require.NoError(t, err)
		defer res.Body.Close()
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Equal(t, 200, res.StatusCode, string(body))
		return string(body)
	}
	body := get("/index.html")
	assert.Contains(t, body, `<div class="notice-footer-documents" data-mastflag="footer-documents"`)
	assert.Contains(t, body, `href="`+w.address+`/t/sundrey/privacy/en"`)

	v := person(t)
	noteErrors(v)
	v.open(origin + "/index.html")
	v.settled()
	assert.Equal(
		t, 1,
		ask[int](v, "[...document.querySelectorAll('footer a')].filter(a => a.textContent === 'Privacy notice').length"),
	)
	assert.Zero(t, ask[int](v, "document.querySelectorAll('mastflag-notice').length"), "it is not placed a second time")
	assert.Zero(t, ask[float64](v, shift))
	assert.Empty(t, v.axe())
	v.unharmed()

	// Taken off a page, unpublished, and with the program gone.
	n, err := w.server.Store.Notice(t.Context(), demo.Key, "footer-documents")
	require.NoError(t, err)
	footer = n.Out()
	footer.Pages.Exclude = append(footer.Pages.Exclude, footer.Pages.Include[0])
	footer.Pages.Exclude[0].Match, footer.Pages.Exclude[0].Path = "page", "/out.html"
	w.only(footer)
	assert.Contains(t, get("/index.html"), "Cookie statement")
	assert.NotContains(t, get("/out.html"), "Cookie statement")
	w.stop()
	assert.Contains(t, get("/index.html"), "<footer></footer>", "the page comes without it")
}

// A block is made once: changed, it is another on all its pages; its copy goes its
// own way, is told that the original has changed, and takes that text if asked to
// (rule B3).
func TestABlockAndItsCopy(t *testing.T) {
	w := newWorld(t)
	ines := person(t)
	w.signIn(ines)
	ines.open(w.address + "/sundrey/notices/port-status?page=/ports/aldwick")
	ines.has("The draft, on the real page.")
	ines.press("More commands")
	ines.press("Duplicate")
	ines.until("location.pathname.endsWith('/copy-of-status-line-of-the-ports')")
	ines.has("A copy of “Status line of the ports”. Changing one does not change the other.")
	ines.press("Publish")
	ines.until("document.querySelector('.halyard').textContent.includes('Live')")

	v := person(t)
	stands := func(page string, want ...string) {
		t.Helper()
		v.open(w.site + page)
		v.settled()
		js, err := json.Marshal(append([]string{}, want...))
		require.NoError(t, err)
		v.until(`JSON.stringify([...document.querySelectorAll('main mastflag-notice')].map(h => ` +
			`h.shadowRoot.querySelector('.words').textContent.trim())) === ` + "`" + string(js) + "`")
	}
	const first, second = "Ferries call here as in the timetable. Service status", "No ferry calls today. Service status"
	stands("/ports/aldwick", first, first)

	// Changed once, it is another on each of its pages, and on none of the others.
	ines.press("“Status line of the ports”")
	ines.until("location.pathname.endsWith('/port-status')")
	n, err := w.server.Store.Notice(t.Context(), demo.Key, "port-status")
	require.NoError(t, err)
	d := n.Out()
	words := maps.Clone(d.Wordings())
	en := words["en"]
	en.Message = `<p>No ferry calls today. <a href="/status">Service status</a></p>`
	words["en"] = en
	content := *d.Content
	content.Wordings, d.Content = words, &content
	_, err = w.server.Store.Change(
		t.Context(),
		demo.Key,
		"port-status",
		n.Revision,
		func(row *store.Notice, _ int) (store.Entry, error) {
			row.Draft = &d
			return store.Entry{At: w.clock.Now()}, nil
		},
	)
	require.NoError(t, err)
	ines.open(w.address + "/sundrey/notices/port-status?page=/ports/aldwick")
	ines.press("Publish the changes")
	ines.until("document.querySelector('.halyard').textContent.trim() === 'Live'")
	for _, page := range []string{"/ports/aldwick", "/ports/fennay", "/ports/sundrey"} {
		stands(page, second, first)
	}
	stands("/ports/little-skarn")
	stands("/ports")

	// The copy says so, with both texts, and takes the other's only if asked to.
	ines.open(w.address + "/sundrey/notices/copy-of-status-line-of-the-ports?page=/ports/aldwick")
	ines.has("The original’s text has changed since they were last compared.")
	ines.has(first)
	ines.has(second)
	ines.press("Take the original’s text")
	ines.until("document.querySelector('.tiptap').textContent === '" + second + "'")
	ines.until("document.querySelector('.saving').textContent === 'Saved' && !document.querySelector('.copy .wait')")
	ines.press("Undo")
	ines.until("document.querySelector('.tiptap').textContent === '" + first + "'")
	ines.press("Keep this one’s")
	ines.until("document.querySelector('.saving').textContent === 'Saved' && !document.querySelector('.copy .wait')")
	ines.has("Both texts, side by side")
	stands("/ports/fennay", second, first)
}
