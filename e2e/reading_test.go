package e2e

import (
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"

	"mastflag/core/bundle"
	"mastflag/internal/delivery"
	"mastflag/internal/demo"
	"mastflag/internal/outbound"
	"mastflag/internal/survey"
)

// A large site is read: it is said how far that is, it is stopped and resumed; what
// was left out is said, and what differs the next time. Languages that its pages are in are
// offered, and a section that does not say its own gets one by hand: its visitors read
// that.
func TestReadingALargeSite(t *testing.T) {
	w := newWorld(t)
	hold, held := make(chan struct{}), atomic.Bool{}
	var more, fewer atomic.Bool
	snippet := delivery.NewSnippet(w.address, demo.Key).HTML()
	const pages = 1500
	outside := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		switch {
		case r.URL.Path == "/robots.txt":
			fmt.Fprintf(rw, "User-agent: *\nDisallow: /closed\nSitemap: http://%s/list.txt\n", r.Host)
		case r.URL.Path == "/list.txt":
			for i := range pages {
				if fewer.Load() && i > 600 {
					break
				}
				fmt.Fprintf(rw, "http://%s/%s/%d\n", r.Host, []string{"docs", "ar", "manual"}[i%3], i)
			}
			fmt.Fprintf(rw, "http://%s/closed\nhttp://%[1]s/timetable.pdf\nhttps://elsewhere.example/\n", r.Host)
			if more.Load() {
				fmt.Fprintf(rw, "http://%s/docs/new\n", r.Host)
			}
		case strings.HasSuffix(r.URL.Path, ".pdf"):
			rw.Header().Set("Content-Type", "application/pdf")
		default:
			if strings.HasSuffix(r.URL.Path, "/900") && held.CompareAndSwap(false, true) {
				<-hold
			}
			lang := map[string]string{"d": `lang="en"`, "a": `lang="ar"`}[r.URL.Path[1:2]]
			rw.Header().Set("Content-Type", "text/html; charset=utf-8")
			io.WriteString(
				rw,
				"<!doctype html><html "+lang+"><head><title>"+r.URL.Path+"</title>"+snippet+"</head><body><h1>"+r.URL.Path+
					"</h1></body></html>",
			)
		}
	}))
	t.Cleanup(outside.Close)
	manual := "http://manual.test:" + portOf(outside.URL)
	w.server.Survey.Surveyor = survey.New(outbound.New(outbound.Options{
		Allowed: []string{hostOf(manual)},
		Names:   onThisMachine,
	}))
	w.changeSite(func(s *bundle.Site) { s.Origins = []string{manual} })
	w.only(bar("hello", "Good morning", func(n *bundle.Notice) {
		n.Content.Wordings["pl"] = bundle.Wording{Message: "Dzień dobry"}
	}))
	ines := person(t)
	ines.size(1280, 800)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/site")
	ines.press("Read the pages again")
	ines.until("/\\d+ of 1,502 pages read/.test(document.querySelector('[role=status]')?.innerText)")
	ines.press("Stop")
	ines.has("Stopped after")
	close(hold)
	ines.press("Resume")
	ines.has("Found on all 1,500 pages")
	ines.press("Left out: one file that is no web page")
	ines.has("/timetable.pdf application/pdf")
	ines.press("Left out: one page that robots.txt asks programs not to read: known by address alone")
	ines.has("/closed")
	more.Store(true)
	ines.press("Read the pages again")
	ines.press("New since the reading before: one page")
	ines.has("/docs/new")
	fewer.Store(true)
	ines.press("Read the pages again")
	ines.has("The site now lists 604 pages; of those known before 899 are no longer there.")
	ines.has("Found on all 1,501 pages")
	ines.press("They are gone")
	ines.has("Found on all 602 pages")
	ines.press("Gone since the reading before: 899 pages")
	fewer.Store(false)
	ines.press("Read the pages again")
	ines.has("Found on all 1,501 pages")

	// Arabic is offered; the manual's Polish has to be said by hand.
	v := person(t)
	v.open(manual + "/manual/2")
	v.shows("Good morning")
	ines.open(w.address + "/sundrey/site/about")
	ines.press("Add Arabic 500 pages")
	ines.until("document.body.innerText.includes('Pages that do not say their language')")
	ines.press("/manual 500 pages")
	ines.press("Language of /manual")
	ines.press("Polish")
	// Languages are found by their own names too, and home pages among the pages, or typed.
	ines.press("All languages")
	ines.key("češt")
	ines.press("Czech · Čeština cs")
	ines.key(kb.Escape)
	ines.press("Home pages")
	ines.key("/cs")
	ines.press("/cs not a known page")
	ines.key(kb.Escape)
	ines.press("Save")
	ines.has("Saved.")
	site, err := w.server.Store.Site(t.Context(), demo.Key)
	assert.NoError(t, err)
	assert.Subset(t, site.Languages, []string{"ar", "cs"})
	assert.Contains(t, site.HomePaths, "/cs")
	assert.Equal(t, []bundle.SectionLanguage{{Path: "/manual", Language: "pl"}}, site.SectionLanguages)
	v.open(manual + "/manual/2")
	v.shows("Dzień dobry")
	v.open(manual + "/manual/not-listed")
	v.shows("Dzień dobry")
	v.open(manual + "/docs/0")
	v.shows("Good morning")
}
