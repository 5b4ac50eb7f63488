package feeds

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/internal/outbound"
)

func TestFetchingIsSafe(t *testing.T) {
	done := make(chan struct{})
	elsewhere := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Write([]byte("secret"))
	}))
	defer elsewhere.Close()
	mux := http.NewServeMux()
	mux.HandleFunc("/good", func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("ETag", `"1"`)
		w.Header().Set("Last-Modified", "Fri, 04 Dec 2026 12:00:00 GMT")
		if r.Header.Get("If-None-Match") == `"1"` && r.Header.Get("If-Modified-Since") != "" {
			w.WriteHeader(http.StatusNotModified)
			return
		}
		w.Write([]byte("<a/>"))
	})
	mux.Handle("/here", http.RedirectHandler("/good", http.StatusFound))
	mux.Handle("/round", http.RedirectHandler("/round", http.StatusFound))
	mux.Handle("/elsewhere", http.RedirectHandler(elsewhere.URL, http.StatusFound))
	mux.Handle("/file", http.RedirectHandler("file:///etc/passwd", http.StatusFound))
	mux.HandleFunc("/gone", func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusGone) })
	mux.HandleFunc("/huge", func(w http.ResponseWriter, _ *http.Request) { w.Header().Set("Content-Length", "104857600") })
	mux.HandleFunc("/endless", func(w http.ResponseWriter, _ *http.Request) {
		for chunk := []byte(strings.Repeat(" ", 1<<16)); ; {
			if _, err := w.Write(chunk); err != nil {
				return
			}
		}
	})
	mux.HandleFunc("/silent", func(_ http.ResponseWriter, r *http.Request) {
		select {
		case <-done:
		case <-r.Context().Done():
		}
	})
	mux.HandleFunc("/drip", func(w http.ResponseWriter, r *http.Request) {
		for {
			select {
			case <-done:
				return
			case <-r.Context().Done():
				return
			case <-time.After(5 * time.Millisecond):
				w.Write([]byte(" "))
				w.(http.Flusher).Flush()
			}
		}
	})
	hs := httptest.NewServer(mux)
	defer hs.Close()
	defer close(done)

	f := NewFetcher(outbound.New(outbound.Options{
		Flag:    "--feed-hosts",
		Allowed: []string{strings.TrimPrefix(hs.URL, "http://")},
	}))
	assert.Equal(t, 10*time.Second, f.patience)
	f.patience = 300 * time.Millisecond
	get := func(address string) string {
		_, err := f.get(t.Context(), address, "", "")
		require.Error(t, err, address)
		return err.Error()
	}
	assert.Equal(t, "it answered 410 Gone", get(hs.URL+"/gone"))
	assert.Equal(t, "it is larger than 4 MB", get(hs.URL+"/huge"))
	assert.Equal(t, "it is larger than 4 MB", get(hs.URL+"/endless"))
	assert.Contains(t, get(hs.URL+"/silent"), "did not answer within")
	assert.Contains(t, get(hs.URL+"/drip"), "did not answer")
	assert.Contains(t, get(hs.URL+"/elsewhere"), "leads elsewhere")
	assert.Contains(t, get(hs.URL+"/file"), "leads elsewhere")
	assert.Contains(t, get(hs.URL+"/round"), "circles")
	assert.Contains(t, get("file:///etc/passwd"), "no http or https address")
	assert.Contains(t, get("gopher://weather.example/"), "no http or https address")
	assert.Contains(t, get(elsewhere.URL), "private network", "another port of this machine is not allowed")
	assert.Contains(
		t, get(strings.Replace(hs.URL, "127.0.0.1", "localhost", 1)+"/good"), "private network",
		"a name for a private address is no way round",
	)
	assert.Contains(t, get("http://127.0.0.1:1/"), "private network")
	assert.Contains(t, get("http://[::1]:1/"), "private network")
	assert.Contains(t, get("http://169.254.169.254/latest"), "private network", "what clouds tell their machines")

	got, err := f.get(t.Context(), hs.URL+"/here", "", "")
	require.NoError(t, err)
	assert.Equal(t, "<a/>", string(got.body))
	again, err := f.get(t.Context(), hs.URL+"/good", got.etag, got.modified)
	require.NoError(t, err)
	assert.True(t, again.same)
	assert.Equal(t, got.etag, again.etag)
}
