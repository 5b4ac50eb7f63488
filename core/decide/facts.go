package decide

import (
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"

	"mastflag/core/audience"
	"mastflag/core/consent"
	"mastflag/core/draw"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// A reading is one visit as the gates ask about it. It is used again for
// other visits.
type evaluation struct {
	site       *Site
	visit      Visit
	page       pages.Subject // of the visit's address
	title      string
	frame      *audience.Frame
	frameStale bool // the frame has not been reset for this visit yet
	query      url.Values
	parsed     bool
	loc        *time.Location // of the visitor's clock; nil until asked for
	shows      []int32        // the notices that show
	// What holds of the visitor's consent; nil where nothing is asked.
	consent *consent.State
	// What evaluation.draw returns, once that was asked.
	drawn     draw.Draw
	drawKnown bool
}

// evaluations gives out readings of one site.
type evaluations struct{ pool sync.Pool }

func (s *Site) newEvaluation(v Visit) *evaluation {
	e, _ := s.evaluations.pool.Get().(*evaluation)
	if e == nil {
		e = &evaluation{site: s}
		e.frame = s.table.NewFrame(e.fact)
	}
	e.visit, e.frameStale, e.parsed, e.query, e.loc, e.shows, e.consent = v, true, false, nil, nil, e.shows[:0], nil
	e.drawKnown = false
	return e
}

func (e *evaluation) release() {
	e.visit = Visit{}
	e.site.evaluations.pool.Put(e)
}

// FactText returns a fact of a visit as people read it, "" where it is not known.
func (s *Site) FactText(v Visit, name string) string {
	f, ok := audience.Lookup(name)
	if !ok {
		return ""
	}
	e := s.newEvaluation(v)
	defer e.release()
	if p, ok := s.pageAt(v.URL); ok {
		e.page, e.title = p.Subject, p.title
	}
	return e.fact(audience.Key{Name: name}, f).String()
}

// facts returns the frame, ready for this visit.
func (e *evaluation) facts() *audience.Frame {
	if e.frameStale {
		e.frame.Reset()
		e.frameStale = false
	}
	return e.frame
}

// zone returns where the visitor's clock is; the site's if that is not known
// (rule S2).
func (e *evaluation) zone() *time.Location {
	if e.loc == nil {
		if e.loc = e.visit.zone(); e.loc == nil {
			e.loc = e.site.zone
		}
	}
	return e.loc
}

// fact finds a fact: as the visit gives it, or from what the visit and the
// site have of it.
func (e *evaluation) fact(k audience.Key, f audience.Fact) audience.Value {
	if given, ok := e.visit.Facts[k.Name]; ok {
		v, _ := f.Read(given) // Check has refused what cannot be read
		return v
	}
	room, name, _ := strings.Cut(k.Name, ".")
	switch room {
	case "page":
		return e.pageFact(name)
	case "utm":
		return e.param("utm_" + name)
	case "clock":
		return e.clockFact(name, k.Clock)
	case "notice":
		if id, act, ok := cutLast(name); ok {
			return audience.NumberValue(float64(e.visit.Memory.Notices[id].count(act)))
		}
	case "consent":
		return e.consentFact(name)
	case "event":
		if event, what, ok := cutLast(name); ok && f.Kind == audience.Number { // properties are given, or not known
			return e.eventFact(event, what, k)
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

func (e *evaluation) pageFact(name string) audience.Value {
	switch name {
	case "url":
		return text(e.visit.URL)
	case "path":
		return text(e.page.Path)
	case "title":
		return text(e.title)
	case "type":
		return text(e.page.Type)
	case "language":
		return text(e.page.Language)
	case "tags":
		if len(e.page.Tags) == 0 {
			return audience.Value{}
		}
		return audience.ListValue(e.page.Tags)
	}
	return e.param(strings.TrimPrefix(name, "query."))
}

// param is a parameter of the address's query; the first of several.
func (e *evaluation) param(name string) audience.Value {
	if e.page.Query == "" {
		return audience.Value{}
	}
	if !e.parsed {
		e.parsed = true
		e.query, _ = url.ParseQuery(e.page.Query) // what can be read of it
	}
	if values, ok := e.query[name]; ok {
		return audience.TextValue(values[0])
	}
	return audience.Value{}
}

func (e *evaluation) clockFact(name, clock string) audience.Value {
	loc := e.zone()
	switch clock {
	case "", schedule.ClockVisitor:
	case schedule.ClockSite:
		loc = e.site.zone
	default:
		if z := zone(clock); z != nil {
			loc = z
		}
	}
	t := e.visit.At.In(loc)
	switch name {
	case "date":
		return audience.LocalValue(schedule.LocalAt(e.visit.At, loc))
	case "hour":
		return audience.NumberValue(float64(t.Hour()))
	}
	return audience.NumberValue(float64((int(t.Weekday())+6)%7 + 1)) // ISO 8601: Monday is 1
}

// consentFact is what holds of the visitor's consent: the purposes that were
// agreed to or need no consent here, and whether an answer holds.
func (e *evaluation) consentFact(name string) audience.Value {
	switch {
	case e.consent == nil:
	case name == "granted":
		return audience.ListValue(e.consent.Granted)
	case name == "answered" && e.consent.Answered:
		return audience.TextValue("yes")
	}
	return audience.Value{}
}

// eventFact counts events, or the calendar days since the last one on the
// visitor's clock.
func (e *evaluation) eventFact(event, what string, k audience.Key) audience.Value {
	times := e.visit.Memory.Events[event]
	if k.Since != "" {
		if last := e.lastOf(k.Since); !last.IsZero() {
			times = slices.DeleteFunc(slices.Clone(times), func(t time.Time) bool { return !t.After(last) })
		}
	}
	if what == "daysSince" {
		last := e.lastOf(event)
		if last.IsZero() {
			return audience.Value{}
		}
		day := func(t time.Time) int64 { return int64(schedule.LocalAt(t, e.zone())) / 86_400 }
		return audience.NumberValue(float64(day(e.visit.At) - day(last)))
	}
	n := len(times)
	if span, err := schedule.ParseSpan(k.Within); err == nil {
		n = 0
		for _, t := range times {
			if span.After(t, e.zone()).After(e.visit.At) {
				n++
			}
		}
	}
	return audience.NumberValue(float64(n))
}

// lastOf is when an event was last told of, as of the visit; zero if it never was.
func (e *evaluation) lastOf(event string) (last time.Time) {
	for _, t := range e.visit.Memory.Events[event] {
		if t.After(last) && !t.After(e.visit.At) {
			last = t
		}
	}
	return last
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

// TooMany reports whether a page that shows so many notices, and has no room
// for so many more, carries more than it should: a third is one too many.
func TooMany(shows, held int) bool { return held > 0 || shows > 2 }
