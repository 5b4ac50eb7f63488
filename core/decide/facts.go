package decide

import (
	"net/url"
	"strings"
	"sync"
	"time"

	"mastflag/core/audience"
	"mastflag/core/consent"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// A reading is one visit as the gates ask about it. It is used again for
// other visits.
type reading struct {
	site   *Site
	visit  Visit
	page   pages.Subject // of the visit's address
	title  string
	frame  *audience.Frame
	fresh  bool // the frame has not been reset for this visit yet
	query  url.Values
	parsed bool
	loc    *time.Location // of the visitor's clock; nil until asked for
	shows  []int32        // the notices that show
	// What holds of the visitor's consent; nil where nothing is asked.
	consent *consent.State
}

// readings gives out readings of one site.
type readings struct{ pool sync.Pool }

func (s *Site) reading(v Visit) *reading {
	r, _ := s.readings.pool.Get().(*reading)
	if r == nil {
		r = &reading{site: s}
		r.frame = s.table.NewFrame(r.fact)
	}
	r.visit, r.fresh, r.parsed, r.query, r.loc, r.shows, r.consent = v, true, false, nil, nil, r.shows[:0], nil
	return r
}

func (r *reading) done() {
	r.visit = Visit{}
	r.site.readings.pool.Put(r)
}

// facts returns the frame, ready for this visit.
func (r *reading) facts() *audience.Frame {
	if r.fresh {
		r.frame.Reset()
		r.fresh = false
	}
	return r.frame
}

// zone returns where the visitor's clock is; the site's if that is not known
// (rule S2).
func (r *reading) zone() *time.Location {
	if r.loc == nil {
		if r.loc = r.visit.zone(); r.loc == nil {
			r.loc = r.site.zone
		}
	}
	return r.loc
}

// fact finds a fact: as the visit gives it, or from what the visit and the
// site have of it.
func (r *reading) fact(k audience.Key, f audience.Fact) audience.Value {
	if given, ok := r.visit.Facts[k.Name]; ok {
		v, _ := f.Read(given) // Check has refused what cannot be read
		return v
	}
	room, name, _ := strings.Cut(k.Name, ".")
	switch room {
	case "page":
		return r.pageFact(name)
	case "utm":
		return r.param("utm_" + name)
	case "clock":
		return r.clockFact(name, k.Clock)
	case "notice":
		if id, act, ok := cutLast(name); ok {
			return audience.NumberValue(float64(r.visit.Memory.Notices[id].count(act)))
		}
	case "consent":
		return r.consentFact(name)
	case "event":
		if event, what, ok := cutLast(name); ok {
			return r.eventFact(event, what, k.Within)
		}
	}
	return audience.Value{}
}

func cutLast(s string) (before, after string, ok bool) {
	i := strings.LastIndexByte(s, '.')
	if i < 0 {
		return s, "", false
	}
	return s[:i], s[i+1:], true
}

func text(s string) audience.Value {
	if s == "" {
		return audience.Value{}
	}
	return audience.TextValue(s)
}

func (r *reading) pageFact(name string) audience.Value {
	switch name {
	case "url":
		return text(r.visit.URL)
	case "path":
		return text(r.page.Path)
	case "title":
		return text(r.title)
	case "type":
		return text(r.page.Type)
	case "language":
		return text(r.page.Language)
	case "tags":
		if len(r.page.Tags) == 0 {
			return audience.Value{}
		}
		return audience.ListValue(r.page.Tags)
	}
	return r.param(strings.TrimPrefix(name, "query."))
}

// param is a parameter of the address's query; the first of several.
func (r *reading) param(name string) audience.Value {
	if r.page.Query == "" {
		return audience.Value{}
	}
	if !r.parsed {
		r.parsed = true
		r.query, _ = url.ParseQuery(r.page.Query) // what can be read of it
	}
	if values, ok := r.query[name]; ok {
		return audience.TextValue(values[0])
	}
	return audience.Value{}
}

func (r *reading) clockFact(name, clock string) audience.Value {
	loc := r.zone()
	switch clock {
	case "", schedule.ClockVisitor:
	case schedule.ClockSite:
		loc = r.site.zone
	default:
		if z := zone(clock); z != nil {
			loc = z
		}
	}
	t := r.visit.At.In(loc)
	switch name {
	case "date":
		return audience.LocalValue(schedule.LocalAt(r.visit.At, loc))
	case "hour":
		return audience.NumberValue(float64(t.Hour()))
	}
	return audience.NumberValue(float64((int(t.Weekday())+6)%7 + 1)) // ISO 8601: Monday is 1
}

// consentFact is what holds of the visitor's consent: the purposes that were
// agreed to or need no consent here, and whether an answer holds.
func (r *reading) consentFact(name string) audience.Value {
	switch {
	case r.consent == nil:
	case name == "granted":
		return audience.ListValue(r.consent.Granted)
	case name == "answered" && r.consent.Answered:
		return audience.TextValue("yes")
	}
	return audience.Value{}
}

// eventFact counts events, or the calendar days since the last one on the
// visitor's clock.
func (r *reading) eventFact(event, what, within string) audience.Value {
	times := r.visit.Memory.Events[event]
	if what == "daysSince" {
		var last time.Time
		for _, t := range times {
			if t.After(last) && !t.After(r.visit.At) {
				last = t
			}
		}
		if last.IsZero() {
			return audience.Value{}
		}
		day := func(t time.Time) int64 { return int64(schedule.LocalAt(t, r.zone())) / 86_400 }
		return audience.NumberValue(float64(day(r.visit.At) - day(last)))
	}
	n := len(times)
	if span, err := schedule.ParseSpan(within); err == nil {
		n = 0
		for _, t := range times {
			if span.After(t, r.zone()).After(r.visit.At) {
				n++
			}
		}
	}
	return audience.NumberValue(float64(n))
}

// DeviceOf returns the device.kind that most windows of a width, px, are on;
// for a viewpoint, which has no device. Common practice.
func DeviceOf(width int) string {
	switch {
	case width < 600:
		return "phone"
	case width < 1100:
		return "tablet"
	}
	return "desktop"
}

// TooMuch reports whether a page that shows so many notices, and has no room
// for so many more, carries more than it should: a third is one too many.
func TooMuch(shows, held int) bool { return held > 0 || shows > 2 }
