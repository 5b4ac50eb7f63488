package decide

import (
	"net/url"
	"strings"
	"time"

	"mastflag/core/audience"
)

// A Trial is a page view of which all is settled but what audiences ask of the
// visitor: its page, its moment, the visitor's clock, what was answered to the
// consent question. It answers whether the site displays anything or not.
type Trial struct {
	page page
	e    *evaluation
}

// Try returns the trial of a visit; ok is false if its address is none.
func (s *Site) Try(v Visit) (t Trial, ok bool) {
	p, ok := s.pageAt(v.URL)
	if !ok {
		return Trial{}, false
	}
	e := s.newEvaluation(v)
	e.page, e.title = p.Subject, p.title
	s.consentOf(e, v.At.UnixMicro())
	return Trial{p, e}, true
}

// Done gives back what the trial is worked out with; it answers nothing after.
func (t Trial) Done() { t.e.release() }

// Passes reports whether nothing but its audience, or room, can keep the
// published notice of that id from this page view.
func (t Trial) Passes(id string) bool {
	s, e := t.e.site, t.e
	i, ok := s.ids[id]
	if !ok {
		return false
	}
	n := &s.notices[i]
	if live, _ := s.timeGate(i, e, e.visit.At.UnixMicro()); !live || !s.takes(t.page, i) {
		return false
	}
	if s.candidates[i].needsCountdown && s.countdownGate(n, e).blocker != nil {
		return false
	}
	return n.purposesGate(e.consent)
}

// Known returns what the trial has of a fact; ok is false of what only the
// visitor knows.
func (t Trial) Known(k audience.Key) (v audience.Value, ok bool) {
	room, rest, _ := strings.Cut(k.Name, ".")
	switch room {
	case "page":
		ok = !strings.HasPrefix(rest, "query.")
	case "clock":
		ok = true
	case "consent":
		ok = rest != "signal"
	case "locale":
		ok = rest == "zone"
	}
	if !ok {
		return audience.Value{}, false
	}
	f, _ := audience.Lookup(k.Name)
	return t.e.fact(k, f), true
}

// Decide decides the trial for a visitor of whom facts are known, who acted on
// notices as early as could be where they ask for that. held are those there is
// no room for.
func (t Trial) Decide(facts map[string]any) (d Decision, held []string) {
	s, v := t.e.site, t.e.visit
	own := map[string]any{}
	for name, value := range v.Facts {
		own[name] = value
	}
	query := url.Values{}
	acts := map[string]Acts{}
	for id, a := range v.Memory.Notices {
		acts[id] = a
	}
	for name, value := range facts {
		if parameter, ok := strings.CutPrefix(name, "page.query."); ok {
			query.Set(parameter, value.(string))
			continue
		}
		id, act, ok := cutLast(strings.TrimPrefix(name, "notice."))
		if !ok || !strings.HasPrefix(name, "notice.") {
			own[name] = value
			continue
		}
		acts[id] = acts[id].with(act, int(value.(float64)), s.earliest(id, v.At))
	}
	v.Facts, v.Memory.Notices = own, acts
	p := t.page
	if len(query) > 0 {
		v.URL += "?" + query.Encode()
		p, _ = s.pageAt(v.URL)
	}
	var list []int32
	d = s.decideOn(p, v, &list)
	for _, i := range list {
		held = append(held, s.notices[i].ID)
	}
	return d, held
}

// earliest returns when a visitor can first have acted on a notice, before now.
func (s *Site) earliest(id string, now time.Time) time.Time {
	if at := s.byID(id).GetPublishedAt().Add(time.Second); at.Before(now) {
		return at
	}
	return now.Add(-time.Second)
}

// with returns the acts with one of them done n times, at an instant.
func (a Acts) with(act string, n int, at time.Time) Acts {
	if n < 1 {
		return a
	}
	switch act {
	case "shown":
		for range min(n, maxShown) {
			a.Shown = append(a.Shown, at)
		}
		a.Counts.Shown = n
	case "closed":
		a.Closed, a.Counts.Closed = at, n
	case "clicked":
		a.Clicked, a.Counts.Clicked = at, n
	case "converted":
		a.Converted, a.Counts.Converted = at, n
	case "answered":
		a.Answered, a.Counts.Answered = at, n
	}
	return a
}

// maxShown is how many times of being shown are listed.
const maxShown = 100
