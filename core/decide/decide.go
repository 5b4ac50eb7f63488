// Package decide answers what shows: on this page, at this moment, to this
// visitor. It compiles a bundle into an immutable Site, decides on visits,
// and explains each decision gate by gate. Rules M and D.
package decide

import (
	"cmp"
	"math"
	"slices"
	"sync"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/fault"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// A Site is a compiled bundle. It is never altered; any number of goroutines
// may ask it.
type Site struct {
	bundle   bundle.Bundle
	zone     *time.Location
	displays bool
	notices  []notice // in the order of rule D1, the strongest first
	quick    []quick  // of the notice at the same index
	top      int      // how many bars each slot holds
	bottom   int
	pages    map[string]page // by path in normal form
	// published holds the notices that can show at all, as indexes of notices.
	published []int32
}

// page is what is known of a listed page.
type page struct {
	bundle.Page
	// candidates are the published notices whose page conditions take this
	// page, strongest first: exact, so no condition is tried again.
	candidates []int32
}

// notice is a Notice with its rules compiled.
type notice struct {
	bundle.Notice
	schedule schedule.Schedule
	pages    pages.Set
	slot     bundle.Slot
	closed   bundle.Period
	span     schedule.Span // of closed, where that is a duration
}

// quick is what a decision looks at in every candidate, small and side by
// side in memory. Instants are microseconds since 1970.
type quick struct {
	from, until int64 // the one stretch in which it is live, of most notices
	more        bool  // it is not that simple: ask its schedule
	bottom      bool
}

const (
	always = math.MinInt64
	never  = math.MaxInt64
)

func (n *notice) quick() quick {
	q := quick{bottom: n.slot == bundle.Bottom}
	in := n.schedule.Site()
	switch {
	case n.schedule.Floating() || len(in) > 1:
		q.more = true
	case len(in) == 0:
		q.from, q.until = always, always // over since ever
	default:
		q.from, q.until = always, never
		if !in[0].From.IsZero() {
			q.from = in[0].From.Add(time.Microsecond - 1).UnixMicro()
		}
		if !in[0].Until.IsZero() {
			q.until = in[0].Until.UnixMicro()
		}
	}
	return q
}

// A Shown is a notice that shows, in its slot.
type Shown struct {
	ID   string      `json:"id"`
	Slot bundle.Slot `json:"slot"`
}

// A Held is a notice that does not show, and the first gate that keeps it.
type Held struct {
	ID   string `json:"id"`
	Gate Gate   `json:"gate"`
	// The number of the rule that decided.
	Rule string `json:"rule"`
	// One plain sentence.
	Why string `json:"why"`
}

// A Waiting is a notice that would show once its remainder comes true.
type Waiting struct {
	ID        string      `json:"id"`
	Slot      bundle.Slot `json:"slot"`
	Remainder any         `json:"remainder"`
}

// A Decision is what shows on a page view, and until when that holds.
type Decision struct {
	At time.Time
	// ValidUntil is the next schedule change of any notice of the page; zero
	// if none is ahead (rule D5).
	ValidUntil time.Time
	// Show is in the order of rule D1. It is shared by no other decision.
	Show []Shown
}

// Compile makes a Site of a bundle. The error is fault.Faults.
func Compile(b bundle.Bundle) (*Site, error) { return CompileFirst(b, "") }

// CompileFirst is Compile with one notice put before all its rivals, as a
// preview wants it.
func CompileFirst(b bundle.Bundle, first string) (*Site, error) {
	if faults := b.Check(); len(faults) > 0 {
		return nil, faults
	}
	zone, err := schedule.Zone(b.Site.TimeZone)
	if err != nil {
		return nil, err
	}
	s := &Site{bundle: b, zone: zone, displays: b.Site.Displays(), top: b.Site.SlotCapacity(bundle.Top), bottom: b.Site.SlotCapacity(bundle.Bottom), pages: make(map[string]page, len(b.Pages))}
	homes := b.Site.Homes()
	for _, n := range b.Notices {
		c, err := compileNotice(n, zone, homes)
		if err != nil {
			return nil, err
		}
		s.notices = append(s.notices, c)
	}
	slices.SortFunc(s.notices, func(a, b notice) int {
		if (a.ID == first) != (b.ID == first) {
			return cmp.Compare(boolInt(b.ID == first), boolInt(a.ID == first))
		}
		return Rivals(a.Notice, b.Notice)
	})
	for i := range s.notices {
		s.quick = append(s.quick, s.notices[i].quick())
		if s.notices[i].GetState() == bundle.Published {
			s.published = append(s.published, int32(i))
		}
	}
	for _, p := range b.Pages {
		path, err := pages.NormalPath(p.Path)
		if err != nil {
			return nil, err
		}
		s.pages[path] = page{Page: p, candidates: s.candidates(path)}
	}
	return s, nil
}

func compileNotice(n bundle.Notice, zone *time.Location, homes []string) (notice, error) {
	c := notice{Notice: n, slot: n.GetSlot(), closed: n.ClosedFor()}
	var faults fault.Faults
	if c.schedule, faults = schedule.Compile(n.GetSchedule(), zone, n.GetPublishedAt()); faults != nil {
		return c, faults
	}
	if c.pages, faults = pages.Compile(n.GetPages(), homes); faults != nil {
		return c, faults
	}
	if c.closed != bundle.PeriodPage && c.closed != bundle.PeriodSession && c.closed != bundle.PeriodEver {
		var err error
		if c.span, err = schedule.ParseSpan(string(c.closed)); err != nil {
			return c, err
		}
	}
	return c, nil
}

// candidates returns the published notices that show on a page, strongest first.
func (s *Site) candidates(path string) []int32 {
	var out []int32
	for _, i := range s.published {
		if s.notices[i].pages.Test(path).Shows {
			out = append(out, i)
		}
	}
	return out
}

var levels = map[bundle.Level]int{bundle.Emergency: 4, bundle.Warning: 3, bundle.Information: 2, bundle.Promotion: 1}

// Rivals orders two notices that want one slot, the stronger first: by level,
// then rank, then the later publishedAt, then id (rule D1).
func Rivals(a, b bundle.Notice) int {
	return cmp.Or(
		cmp.Compare(levels[b.GetLevel()], levels[a.GetLevel()]),
		cmp.Compare(b.GetRank(), a.GetRank()),
		b.GetPublishedAt().Compare(a.GetPublishedAt()),
		cmp.Compare(a.ID, b.ID),
	)
}

func boolInt(b bool) int {
	if b {
		return 1
	}
	return 0
}

// Bundle returns what the site was compiled from. It must not be altered.
func (s *Site) Bundle() bundle.Bundle { return s.bundle }

// Zone returns where the site's clock is.
func (s *Site) Zone() *time.Location { return s.zone }

// Schedule returns when the notice of that id is live; the zero Schedule if
// there is none.
func (s *Site) Schedule(id string) schedule.Schedule {
	for i := range s.notices {
		if s.notices[i].ID == id {
			return s.notices[i].schedule
		}
	}
	return schedule.Schedule{}
}

// Language returns the language of the page at that address: its own, or the
// site's.
func (s *Site) Language(url string) string {
	if path, err := pages.NormalPath(pathOf(url)); err == nil {
		if p, ok := s.pages[path]; ok && p.Language != "" {
			return p.Language
		}
	}
	return s.bundle.Site.Language
}

// Decide answers a visit. The visit must be right by its Check; an address
// that is not decides as if no notice had the page.
func (s *Site) Decide(v Visit) Decision {
	d := Decision{At: v.At}
	path, err := pages.NormalPath(pathOf(v.URL))
	if err != nil || !s.displays {
		return d
	}
	var candidates []int32
	if p, listed := s.pages[path]; listed {
		candidates = p.candidates
	} else {
		candidates = s.candidates(path)
	}
	now := v.At.UnixMicro()
	next := int64(never)
	var top, bottom int
	var loc *time.Location
	for _, i := range candidates {
		q := &s.quick[i]
		var live bool
		switch {
		case q.more:
			if loc == nil {
				loc = s.visitorZone(v)
			}
			var change time.Time
			live, change = s.notices[i].schedule.At(v.At, loc)
			if !change.IsZero() {
				next = min(next, change.UnixMicro())
			}
		case now < q.from:
			next = min(next, q.from)
		case now < q.until:
			live = true
			next = min(next, q.until)
		}
		if !live {
			continue
		}
		taken, capacity := &top, s.top
		if q.bottom {
			taken, capacity = &bottom, s.bottom
		}
		if *taken >= capacity {
			continue
		}
		n := &s.notices[i]
		if len(v.Memory.Notices) > 0 {
			if loc == nil {
				loc = s.visitorZone(v)
			}
			if away, _ := n.away(v, loc); away {
				continue
			}
		}
		*taken++
		if d.Show == nil {
			d.Show = make([]Shown, 0, 4)
		}
		d.Show = append(d.Show, Shown{ID: n.ID, Slot: n.slot})
	}
	if next != never {
		d.ValidUntil = time.UnixMicro(next).UTC()
	}
	return d
}

// visitorZone returns where the visitor's clock is; the site's if that is not
// known (rule S2).
func (s *Site) visitorZone(v Visit) *time.Location {
	if loc := v.zone(); loc != nil {
		return loc
	}
	return s.zone
}

// away reports whether the notice stays away because the visitor closed it
// (rule M1), and until when; zero if that is no instant.
func (n *notice) away(v Visit, loc *time.Location) (bool, time.Time) {
	closed := v.Memory.Notices[n.ID].Closed
	if closed.IsZero() {
		return false, time.Time{}
	}
	switch n.closed {
	case bundle.PeriodEver:
		return true, time.Time{}
	case bundle.PeriodPage:
		return !v.Memory.View.IsZero() && !closed.Before(v.Memory.View), time.Time{}
	case bundle.PeriodSession:
		return !v.Memory.Session.IsZero() && !closed.Before(v.Memory.Session), time.Time{}
	}
	until := n.span.After(closed, loc)
	return v.At.Before(until), until
}

var zones sync.Map // of *time.Location by name, nil where there is none

// zone returns the IANA zone of that name, or nil.
func zone(name string) *time.Location {
	if loc, ok := zones.Load(name); ok {
		return loc.(*time.Location)
	}
	if len(name) > 64 {
		return nil
	}
	loc, err := schedule.Zone(name)
	if err != nil {
		return nil // not kept: a stranger must not be able to fill the memory
	}
	zones.Store(name, loc)
	return loc
}
