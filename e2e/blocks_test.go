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
	"regexp"
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

// frame is what stands around the servers of nginx: all its files lie in a folder of the test.
const frame = `daemon off; pid %[1]s/nginx.pid; error_log %[1]s/error.log;
worker_processes 1;
events { worker_connections 256; }
http {
	access_log off; types { text/html html; }
	client_body_temp_path %[1]s/body; proxy_temp_path %[1]s/proxy; fastcgi_temp_path %[1]s/fastcgi;
	uwsgi_temp_path %[1]s/uwsgi; scgi_temp_path %[1]s/scgi;
%[2]s
}`

// example is what docs/blocks.md has below a heading in a language of code, with the program's own address.
func (w *world) example(heading, language string) string {
	w.t.Helper()
	guide, err := os.ReadFile("../docs/blocks.md")
	require.NoError(w.t, err)
	_, below, ok := strings.Cut(string(guide), "## "+heading+"\n")
	require.True(w.t, ok, heading)
	_, code, ok := strings.Cut(below, "```"+language+"\n")
	require.True(w.t, ok, heading)
	code, _, _ = strings.Cut(code, "\n```")
	return strings.ReplaceAll(code, "127.0.0.1:8080", hostOf(w.address))
}

// freePort is a port of this machine that nothing listens on.
func freePort(t *testing.T) int {
	t.Helper()
	free, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer free.Close()
	return free.Addr().(*net.TCPAddr).Port
}

// serves starts a program that serves an origin, and waits for it.
func serves(t *testing.T, origin string, serving *exec.Cmd) {
	t.Helper()
	require.NoError(t, serving.Start(), "%s of Debian: run make test, which installs it", serving.Path)
	t.Cleanup(func() {
		serving.Process.Signal(os.Interrupt)
		serving.Wait()
	})
	require.Eventually(t, func() bool {
		res, err := http.Get(origin + "/index.html")
		if err == nil {
			res.Body.Close()
		}
		return err == nil
	}, patience, 50*time.Millisecond)
}

// debian is where a program of Debian's lies that may not be in the path.
func debian(name string) string {
	if path, err := exec.LookPath(name); err == nil {
		return path
	}
	return "/usr/sbin/" + name
}

// included serves a folder by nginx as the documentation's example does, and returns its origin.
func (w *world) included(pages map[string]string) string {
	t := w.t
	t.Helper()
	example := w.example("nginx", "nginx")
	dir := t.TempDir()
	require.NoError(t, os.Mkdir(filepath.Join(dir, "site"), 0o755))
	for name, text := range pages {
		require.NoError(t, os.WriteFile(filepath.Join(dir, "site", name), []byte(text), 0o644))
	}
	return nginx(t, dir, func(port int) string {
		return fmt.Sprintf("server { listen 127.0.0.1:%d; root %s/site;\n%s\n}", port, dir, example)
	})
}

// nginx runs servers with their files in a folder, and returns the origin of the one at the port.
func nginx(t *testing.T, dir string, servers func(port int) string) string {
	t.Helper()
	// Its workers run as another user where the tests run as root.
	require.NoError(t, filepath.WalkDir(dir, func(path string, d os.DirEntry, err error) error {
		if err != nil || !d.IsDir() {
			return err
		}
		return os.Chmod(path, 0o755)
	}))
	require.NoError(t, os.Chmod(filepath.Dir(dir), 0o755))
	port := freePort(t)
	conf := filepath.Join(dir, "nginx.conf")
	require.NoError(t, os.WriteFile(conf, fmt.Appendf(nil, frame, dir, servers(port)), 0o644))
	origin := fmt.Sprintf("http://127.0.0.1:%d", port)
	serves(t, origin, exec.Command(debian("nginx"), "-e", dir+"/error.log", "-c", conf, "-p", dir))
	return origin
}

// The example of nginx in front lets people in under whatever port it has: what the door compares is the whole origin.
func TestSignInThroughNginx(t *testing.T) {
	w := newWorld(t)
	conf, err := os.ReadFile("../deploy/nginx.conf")
	require.NoError(t, err)
	own, _, ok := strings.Cut(string(conf), "\nserver {\n\tlisten 80;")
	require.True(t, ok)
	origin := nginx(t, t.TempDir(), func(port int) string {
		for _, change := range [][2]string{
			{`(?m)^\s*(listen \[::\]|ssl_|server_name).*\n`, ""},
			{`listen 443 ssl http2;`, fmt.Sprintf("listen 127.0.0.1:%d;", port)},
			{`127\.0\.0\.1:8080`, hostOf(w.address)},
		} {
			was := own
			own = regexp.MustCompile(change[0]).ReplaceAllString(own, change[1])
			require.NotEqual(t, was, own, change[0])
		}
		return own
	})
	ines := person(t)
	ines.open("http://notices.test:" + portOf(origin) + "/")
	ines.signInHere()
}

// fetched is the page that an address answers with.
func fetched(t *testing.T, address string) string {
	t.Helper()
	res, err := http.Get(address)
	require.NoError(t, err)
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, res.StatusCode, string(body))
	return string(body)
}

// footer is the demo's list of documents, on every page.
func (w *world) footer() bundle.Notice {
	w.t.Helper()
	row, err := w.server.Store.Notice(w.t.Context(), demo.Key, "footer-documents")
	require.NoError(w.t, err)
	n := row.Out()
	n.Pages.Exclude = n.Pages.Exclude[:0]
	return n
}

// apacheWith is Apache with what docs/blocks.md needs, and nothing else.
const apacheWith = `ServerRoot %[1]s
ServerName localhost
PidFile %[1]s/pid
ErrorLog %[1]s/error.log
Mutex file:%[1]s
Listen 127.0.0.1:%[2]d
TypesConfig /dev/null
LoadModule mpm_event_module /usr/lib/apache2/modules/mod_mpm_event.so
LoadModule authz_core_module /usr/lib/apache2/modules/mod_authz_core.so
LoadModule mime_module /usr/lib/apache2/modules/mod_mime.so
LoadModule dir_module /usr/lib/apache2/modules/mod_dir.so
LoadModule include_module /usr/lib/apache2/modules/mod_include.so
LoadModule proxy_module /usr/lib/apache2/modules/mod_proxy.so
LoadModule proxy_http_module /usr/lib/apache2/modules/mod_proxy_http.so
AddType text/html .html
DocumentRoot %[1]s/site
%[3]s
`

// By Apache, by Caddy and by a static builder, as the documentation has them, a block comes with the page; where it is
// refused, or the program is gone, the page comes without it and without a word of that.
func TestBlocksByEachServer(t *testing.T) {
	w := newWorld(t)
	footer := w.footer()
	closed := footer
	closed.ID, closed.Memory = "for-some", nil // visitors can close it
	w.only(footer, closed)
	const page = `<!doctype html><html lang="en"><head><title>Page</title></head><body>%s</body></html>`
	// folder makes a site of pages with the block, with one that is refused, and with one that there is not.
	folder := func(line string) string {
		dir := t.TempDir()
		require.NoError(t, os.Mkdir(filepath.Join(dir, "site"), 0o755))
		for name, id := range map[string]string{"index": "footer-documents", "refused": "for-some", "none": "there-is-none"} {
			text := fmt.Sprintf(page, strings.ReplaceAll(line, "footer-documents", id))
			require.NoError(t, os.WriteFile(filepath.Join(dir, "site", name+".html"), []byte(text), 0o644))
		}
		for _, d := range []string{filepath.Dir(dir), dir, filepath.Join(dir, "site")} {
			require.NoError(t, os.Chmod(d, 0o755))
		}
		return dir
	}
	servers := map[string]string{}

	dir, port := folder(w.example("Apache", "html")), freePort(t)
	example := strings.ReplaceAll(w.example("Apache", "apache"), "/var/www/site", dir+"/site")
	conf := filepath.Join(dir, "apache.conf")
	require.NoError(t, os.WriteFile(conf, fmt.Appendf(nil, apacheWith, dir, port, example), 0o644))
	servers["Apache"] = fmt.Sprintf("http://127.0.0.1:%d", port)
	serves(t, servers["Apache"], exec.Command(debian("apache2"), "-f", conf, "-DFOREGROUND"))

	dir, port = folder(w.example("Caddy", "html")), freePort(t)
	servers["Caddy"] = fmt.Sprintf("http://127.0.0.1:%d", port)
	example = strings.NewReplacer("/var/www/site", dir+"/site", "http://site.example", servers["Caddy"],
		"127.0.0.1:8081", fmt.Sprintf("127.0.0.1:%d", freePort(t))).Replace(w.example("Caddy", "caddyfile"))
	conf = filepath.Join(dir, "Caddyfile")
	require.NoError(t, os.WriteFile(conf, []byte("{\n\tadmin off\n\tauto_https off\n}\n"+example+"\n"), 0o644))
	caddy := exec.Command(debian("caddy"), "run", "--config", conf, "--adapter", "caddyfile")
	caddy.Env = append(os.Environ(), "HOME="+dir, "XDG_CONFIG_HOME="+dir, "XDG_DATA_HOME="+dir)
	serves(t, servers["Caddy"], caddy)

	without := func(body string) string {
		_, body, _ = strings.Cut(body, "<body>")
		return strings.ReplaceAll(strings.TrimSuffix(body, "</body></html>"), "<!-- -->", "")
	}
	for name, origin := range servers {
		assert.Contains(t, fetched(t, origin+"/index.html?from=a+friend"), `data-mastflag="footer-documents"`, name)
		for _, path := range []string{"/refused.html", "/none.html"} {
			assert.Equal(t, "<footer></footer>", without(fetched(t, origin+path)), name+path)
		}
	}

	dir = folder("<footer><!-- block: footer-documents --></footer>")
	build := func() string {
		t.Helper()
		script := strings.ReplaceAll(w.example("A static builder", "sh"), "find public ", "find site ")
		sh := exec.Command("sh", "-c", strings.ReplaceAll(script, "#public/", "#site/"))
		sh.Dir = dir
		out, err := sh.CombinedOutput()
		require.NoError(t, err, string(out))
		text, err := os.ReadFile(filepath.Join(dir, "site", "index.html"))
		require.NoError(t, err)
		return string(text)
	}
	assert.Contains(t, build(), `data-mastflag="footer-documents"`)

	w.stop()
	for name, origin := range servers {
		assert.Equal(t, "<footer></footer>", without(fetched(t, origin+"/index.html")), name)
	}
	dir = folder("<footer><!-- block: footer-documents --></footer>")
	assert.Equal(t, "<footer></footer>", without(build()))
}

// Put into the page by the site's own server, a block is there without script,
// stands once, and moves nothing; without the program the page comes without it.
func TestBlockComesWithThePage(t *testing.T) {
	w := newWorld(t)
	footer := w.footer()
	w.only(footer)
	const page = `<!doctype html><html lang="en"><head><title>Page</title><meta charset="utf-8">%s</head><body>
<main><h1>Page</h1><p>Text.</p></main><footer><!--# include virtual="/blocks/footer-documents?page=$uri" -->` +
		`</footer></body></html>`
	snippet := delivery.NewSnippet(w.address, demo.Key).HTML()
	origin := w.included(map[string]string{
		"index.html": fmt.Sprintf(page, snippet), "out.html": fmt.Sprintf(page, snippet)})
	w.changeSite(func(s *bundle.Site) { s.Origins = append(s.Origins, origin) })
	get := func(path string) string { return fetched(t, origin+path) }
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
	w.giveSession(ines)
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
