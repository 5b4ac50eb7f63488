package feeds

import (
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestFetchingIsSafe(t *testing.T) {
	done := make(chan struct{})
	elsewhere := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { w.Write([]byte("secret")) }))
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

	f := NewFetcher([]string{strings.TrimPrefix(hs.URL, "http://")})
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
	assert.Contains(t, get(strings.Replace(hs.URL, "127.0.0.1", "localhost", 1)+"/good"), "private network", "a name for a private address is no way round")
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

func TestPrivateNetworks(t *testing.T) {
	for address, want := range map[string]bool{
		"10.1.2.3": false, "172.16.0.1": false, "192.168.1.1": false, "127.0.0.1": false, "0.0.0.0": false, "169.254.1.1": false, "100.64.0.1": false, "224.0.0.1": false, "255.255.255.255": false,
		"::1": false, "fe80::1": false, "fc00::1": false, "::ffff:10.0.0.1": false, "64:ff9b::a00:1": false, "2001:db8::1": false, "203.0.113.7": false,
		"9.9.9.9": true, "172.32.0.1": true, "2620:fe::fe": true,
	} {
		assert.Equal(t, want, public(netip.MustParseAddr(address)), address)
	}
}
