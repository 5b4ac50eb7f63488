package e2e

import (
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/internal/delivery"
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
						localStorage.setItem('mastflag.s.room', JSON.stringify({ '/': { width: innerWidth, height: 50, until: 0 } }))
						onload = () => { window.loaded = performance.now() }
						</script>%s</head><body><h1>Hello</h1></body></html>`, lines)
				}))
				defer site.Close()
				v := person(t)
				v.open(site.URL + "/")
				v.until("window.loaded")
				assert.Less(t, ask[float64](v, "window.loaded"), 3000.0)
				v.until("document.querySelector('h1').getBoundingClientRect().top < 50")
				assert.Empty(t, ask[[]string](v, "window.wrong"))
			})
		}
	}
}
