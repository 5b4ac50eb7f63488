package decide

import (
	"fmt"
	"strings"
	"sync"
	"time"

	"mastflag/core/audience"
	"mastflag/core/consent"
	"mastflag/core/draw"
	"mastflag/core/schedule"
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
	// The visitor wants to see the consent question again.
	Again bool `json:"again,omitempty"`
}

// Memory is what a visitor's browser remembers of the site (rule M3).
type Memory struct {
	// When this visit to the site, and when this page view, began; acts since then count for "session" and "page".
	Session time.Time `json:"session,omitzero"`
	View    time.Time `json:"view,omitzero"`
	// The browser keeps nothing: what is remembered ends with this page view.
	NoStorage bool `json:"noStorage,omitempty"`
	// By notice id.
	Notices map[string]Acts `json:"notices,omitempty"`
	// When the site told of events, by name.
	Events map[string][]time.Time `json:"events,omitempty"`
	// What was answered to the consent question.
	Consent consent.Answer `json:"consent,omitzero"`
	// What puts the visitor into groups by chance (rule E4).
	Draw draw.Draw `json:"draw,omitempty"`
	// What was acknowledged or declared last, by document, or by "notice:" and the id of a notice that stands for itself.
	Acknowledged map[string]Acknowledgement `json:"acknowledged,omitempty"`
}

// An Acknowledgement is what a visitor acknowledged or declared (rule T7).
type Acknowledgement struct {
	// Of its record.
	ID string `json:"id,omitempty"`
	// Of the document.
	Version int `json:"version,omitempty"`
	// Of a notice's own text: its mark.
	Of string    `json:"of,omitempty"`
	At time.Time `json:"at"`
}

// Acts are what a visitor did with a notice: when last, and how often in all.
type Acts struct {
	Closed    time.Time `json:"closed,omitzero"`
	Clicked   time.Time `json:"clicked,omitzero"`
	Converted time.Time `json:"converted,omitzero"`
	Answered  time.Time `json:"answered,omitzero"`
	// When the visitor first met its countdown, where that runs for each visitor (rule C1).
	Met time.Time `json:"met,omitzero"`
	// When it was shown, once a page view.
	Shown []time.Time `json:"shown,omitempty"`
	// How often each was done in all, where that is more than is listed here.
	Counts Counts `json:"counts,omitzero"`
}

// Counts are how often a visitor did things with a notice.
type Counts struct {
	Shown     int `json:"shown,omitempty"`
	Closed    int `json:"closed,omitempty"`
	Clicked   int `json:"clicked,omitempty"`
	Converted int `json:"converted,omitempty"`
	Answered  int `json:"answered,omitempty"`
}

// count returns how often an act was done, by its name in facts.
func (a Acts) count(act string) int {
	once := func(t time.Time, n int) int {
		if n == 0 && !t.IsZero() {
			return 1
		}
		return n
	}
	switch act {
	case "shown":
		return max(a.Counts.Shown, len(a.Shown))
	case "closed":
		return once(a.Closed, a.Counts.Closed)
	case "clicked":
		return once(a.Clicked, a.Counts.Clicked)
	case "answered":
		return once(a.Answered, a.Counts.Answered)
	}
	return once(a.Converted, a.Counts.Converted)
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
	for name, value := range v.Facts {
		f, ok := audience.Lookup(name)
		if !ok {
			return fmt.Errorf("unknown fact %.100q", name)
		}
		if _, err := f.Read(value); err != nil {
			return err
		}
	}
	if v.Memory.Draw != "" {
		if err := v.Memory.Draw.Check(); err != nil {
			return fmt.Errorf(`"memory": %w`, err)
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
	switch {
	case i < 0:
		return "/"
	case rest[i] != '/':
		return "/" + rest[i:]
	}
	return rest[i:]
}

var zoneCache sync.Map // of *time.Location by name, nil where there is none

// zone returns the IANA zone of that name, or nil.
func zone(name string) *time.Location {
	if loc, ok := zoneCache.Load(name); ok {
		return loc.(*time.Location)
	}
	if len(name) > 64 {
		return nil
	}
	loc, err := schedule.Zone(name)
	if err != nil {
		return nil // not kept: a stranger must not be able to fill the memory
	}
	zoneCache.Store(name, loc)
	return loc
}
