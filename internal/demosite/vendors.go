package demosite

import (
	"embed"
	"net"
	"net/http"
	"strings"
)

// The invented firms whose scripts the site carries: Tidewater Counts counts
// visits, Gannet Offers sells offers, Kelpcast shows films. Their scripts
// cannot tell whether they may run: that is for the marks in the page.
//
//go:embed vendors
var vendors embed.FS

// elsewhere is the host of the vendors as seen from a host of the site: another
// name of the same machine, so that browsers take it for another site.
func elsewhere(host string) string {
	name, port, err := net.SplitHostPort(host)
	if err != nil {
		name, port = host, "80"
	}
	other := "localhost"
	if strings.HasSuffix(name, ".test") {
		other = "vendors.test"
	}
	return net.JoinHostPort(other, port)
}

// vendor answers for the vendors; ok is false if the path is none of theirs.
func (s *Site) vendor(w http.ResponseWriter, r *http.Request) (ok bool) {
	name, ok := strings.CutPrefix(r.URL.Path, "/vendors/")
	if !ok {
		return false
	}
	h := w.Header()
	h.Set("Cache-Control", "no-store")
	switch name {
	case "collect.gif": // what a counter or a seller of offers gets to know
		h.Set("Content-Type", "image/gif")
		w.Write([]byte("GIF89a\x01\x00\x01\x00\x00\x00\x00;"))
		return true
	case "film.html":
		h.Set("Content-Type", "text/html; charset=utf-8")
		h.Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'")
	case "tidewater.js", "gannet.js", "brine.js", "harbour.js":
		h.Set("Content-Type", "text/javascript; charset=utf-8")
	default:
		http.NotFound(w, r)
		return true
	}
	body, err := vendors.ReadFile("vendors/" + name)
	if err != nil {
		http.NotFound(w, r)
		return true
	}
	w.Write(body)
	return true
}
