package decide

import (
	"fmt"
	"slices"
	"strings"
	"time"
)

// A Visit is one page view: what is known of it when the decision is asked for.
type Visit struct {
	// The instant, by the program's clock.
	At time.Time `json:"at"`
	// The page's address, absolute or from the root.
	URL string `json:"url"`
	// What is known about the visitor, by fact name.
	Facts map[string]any `json:"facts,omitempty"`
	// What the visitor's own browser remembers.
	Memory Memory `json:"memory,omitzero"`
}

// Memory is what a visitor's browser remembers of the site (rule M3).
type Memory struct {
	// When this visit to the site, and when this page view, began; acts since then count for "session" and "page".
	Session time.Time `json:"session,omitzero"`
	View    time.Time `json:"view,omitzero"`
	// By notice id.
	Notices map[string]Acts `json:"notices,omitempty"`
}

// Acts are what a visitor last did with a notice.
type Acts struct {
	Closed time.Time `json:"closed,omitzero"`
}

// Check returns an error that says what is wrong with a visit, or nil.
func (v Visit) Check() error {
	if v.At.IsZero() {
		return fmt.Errorf(`"at" is missing: give an instant such as 2026-12-04T10:00:00Z`)
	}
	if v.URL == "" {
		return fmt.Errorf(`"url" is missing: give the page's address`)
	}
	if p := pathOf(v.URL); p == "" || p[0] != '/' {
		return fmt.Errorf(`"url" %q is not an address: give one such as https://www.example.org/book, or a path`, v.URL)
	}
	for name := range v.Facts {
		if !knownFact(name) {
			return fmt.Errorf("unknown fact %q", name)
		}
	}
	if z, ok := v.Facts["locale.zone"]; ok {
		if s, ok := z.(string); !ok || zone(s) == nil {
			return fmt.Errorf(`"locale.zone" %v is not an IANA zone name`, z)
		}
	}
	return nil
}

// zone returns where the visitor's clock is, or nil if that is not known.
func (v Visit) zone() *time.Location {
	if s, ok := v.Facts["locale.zone"].(string); ok {
		return zone(s)
	}
	return nil
}

// pathOf returns the part of an address that begins with its path.
func pathOf(url string) string {
	if strings.HasPrefix(url, "/") && !strings.HasPrefix(url, "//") {
		return url
	}
	_, rest, ok := strings.Cut(url, "//")
	if !ok {
		return ""
	}
	i := strings.IndexAny(rest, "/?#")
	if i < 0 || rest[i] != '/' {
		return "/"
	}
	return rest[i:]
}

// factNames are the facts of a visit; a name that ends in "." takes a name of
// the site's own after it.
var factNames = []string{
	"page.url", "page.path", "page.query.", "page.title", "page.type", "page.tags", "page.language",
	"utm.source", "utm.medium", "utm.campaign", "utm.term", "utm.content",
	"referrer.url", "referrer.host", "referrer.class",
	"device.kind", "device.os", "device.browser", "device.width",
	"locale.languages", "locale.zone",
	"place.country", "place.region", "place.group",
	"clock.date", "clock.weekday", "clock.hour",
	"visits.number", "visits.daysSinceFirst", "visits.daysSinceLast", "visits.pages", "visits.pagesTotal",
	"visits.landing", "visits.seconds", "visits.seen",
	"person.", "event.", "consent.granted", "consent.answered", "notice.",
	"view.seconds", "view.scroll", "view.idle", "view.leaving", "view.clicked", "site.seconds",
}

func knownFact(name string) bool {
	return slices.ContainsFunc(factNames, func(f string) bool {
		return name == f || strings.HasSuffix(f, ".") && len(name) > len(f) && strings.HasPrefix(name, f)
	})
}
