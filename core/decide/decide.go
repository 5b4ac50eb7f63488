// Package decide answers what shows: on this page, at this moment, to this
// visitor. It compiles a bundle into an immutable Site, decides on visits,
// and explains each decision gate by gate. Rules M and D.
package decide

import (
	"cmp"
	"math"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"mastflag/core/audience"
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
	shown    []Shown  // the same
	capacity [places]int
	pages    map[string]page // by path in normal form
	index    *pages.Index    // of the published notices, by index
	consents []int32         // the published notices that ask for consent
	table    *audience.Table
	readings readings
	standing atomic.Pointer[standing]
}

// standing is which of the notices of every page are live, and of those whose
// time is not simple all, while nothing of that changes: on the half-open
// stretch between two instants in microseconds.
type standing struct {
	from, until int64
	live        []int32
}

// page is what is known of a listed page.
type page struct {
	pages.Subject
	title string
	// The published notices that take this page beside those that take every
	// page, and those of the latter that leave it out. Both strongest first.
	here, barred []int32
}

// notice is a Notice with its rules compiled.
type notice struct {
	bundle.Notice
	schedule schedule.Schedule
	pages    pages.Set
	audience audience.Audience
	slot     bundle.Slot
	acts     []act
	limits   []limit
}

// act is one kind of act after which the notice stays away (rule M1).
type act struct {
	name   string
	period bundle.Period
	span   schedule.Span // where the period is a duration
}

// limit is how often the notice is shown within a period (rule M2).
type limit struct {
	times   int
	session bool
	span    schedule.Span
	said    bundle.Period
}

// place is a slot as an index; centre and cover share theirs.
type place uint8

const (
	placeCentre = place(4)
	places      = 7
)

func placeOf(s bundle.Slot) place {
	return place(slices.Index([]bundle.Slot{bundle.Top, bundle.Bottom, bundle.CornerStart, bundle.CornerEnd, bundle.Centre, bundle.TabTitle, bundle.Inline}, s.Shared()))
}

// quick is what a decision looks at in every candidate, small and side by
// side in memory. Instants are microseconds since 1970.
type quick struct {
	from, until int64 // the one stretch in which it is live, of most notices
	program     audience.Program
	place       place
	more        bool // its time is not that simple: ask its schedule
	everyone    bool // it has no conditions on the visitor
	later       bool // its audience depends on what is not known at load
	yields      bool // it waits while a consent question is open (rule D4)
}

const (
	always = math.MinInt64
	never  = math.MaxInt64
)

func (s *Site) quicken(n *notice) quick {
	q := quick{place: placeOf(n.slot)}
	q.yields = q.place == placeCentre && n.Kind != bundle.KindConsent && n.GetLevel() != bundle.Emergency
	var ok bool
	q.program, ok = s.table.Add(n.audience)
	q.later, q.everyone = !ok, n.audience.Everyone()
	in, none, simple := n.schedule.Simple()
	switch {
	case !simple:
		q.more = true
	case none:
		q.from, q.until = always, always // over since ever
	default:
		q.from, q.until = always, never
		if !in.From.IsZero() {
			q.from = in.From.Add(time.Microsecond - 1).UnixMicro()
		}
		if !in.Until.IsZero() {
			q.until = in.Until.UnixMicro()
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
	ID        string         `json:"id"`
	Slot      bundle.Slot    `json:"slot"`
	Remainder *audience.Node `json:"remainder"`
}

// A Decision is what shows on a page view, and until when that holds.
type Decision struct {
	At time.Time
	// ValidUntil is the next schedule change of any notice of the page; zero
	// if none is ahead (rule D5).
	ValidUntil time.Time
	// Show is in the order of rule D1. It is shared by no other decision.
	Show []Shown
	// Waiting is in the same order (rule D3).
	Waiting []Waiting
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
	s := &Site{bundle: b, zone: zone, displays: b.Site.Displays(), pages: make(map[string]page, len(b.Pages)), table: audience.NewTable()}
	for _, slot := range bundle.Slots {
		s.capacity[placeOf(slot)] = b.Site.SlotCapacity(slot)
	}
	names, faults := b.Site.Names()
	audiences, more := audience.NewNames(b.Site.Audiences)
	if faults = append(faults, more...); faults != nil {
		return nil, faults
	}
	for _, n := range b.Notices {
		c, err := compileNotice(n, zone, names, audiences)
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
	var published []int32
	for i := range s.notices {
		n := &s.notices[i]
		s.quick, s.shown = append(s.quick, s.quicken(n)), append(s.shown, Shown{n.ID, n.slot})
		if n.GetState() == bundle.Published {
			published = append(published, int32(i))
			if n.Kind == bundle.KindConsent {
				s.consents = append(s.consents, int32(i))
			}
		}
	}
	s.index = pages.NewIndex(published, func(i int32) pages.Set { return s.notices[i].pages })
	for _, p := range b.Pages {
		path, err := pages.NormalPath(p.Path)
		if err != nil {
			return nil, err
		}
		known := page{Subject: pages.Subject{Path: path, Type: p.Type, Tags: p.Tags, Language: cmp.Or(p.Language, b.Site.Language)}, title: p.Title}
		known.here, known.barred = s.index.Find(known.Subject)
		s.pages[path] = known
	}
	return s, nil
}

func compileNotice(n bundle.Notice, zone *time.Location, names pages.Names, audiences audience.Names) (notice, error) {
	c := notice{Notice: n, slot: n.GetSlot()}
	var faults fault.Faults
	if c.schedule, faults = schedule.Compile(n.GetSchedule(), zone, n.GetPublishedAt()); faults != nil {
		return c, faults
	}
	if c.pages, faults = pages.Compile(n.GetPages(), names); faults != nil {
		return c, faults
	}
	if c.audience, faults = audience.Compile(n.GetAudience(), audiences); faults != nil {
		return c, faults
	}
	m := n.GetMemory()
	m.Closed = n.ClosedFor()
	for _, a := range m.Acts() {
		switch a.Period {
		case "":
		case bundle.PeriodPage, bundle.PeriodSession, bundle.PeriodEver:
			c.acts = append(c.acts, act{name: a.Name, period: a.Period})
		default:
			span, err := schedule.ParseSpan(string(a.Period))
			if err != nil {
				return c, err
			}
			c.acts = append(c.acts, act{a.Name, a.Period, span})
		}
	}
	for _, l := range m.Limits {
		lim := limit{times: l.Times, session: l.Per == bundle.PeriodSession, said: l.Per}
		if !lim.session {
			var err error
			if lim.span, err = schedule.ParseSpan(string(l.Per)); err != nil {
				return c, err
			}
		}
		c.limits = append(c.limits, lim)
	}
	return c, nil
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

// Ordered returns all notices in the order of rule D1, the strongest first.
func (s *Site) Ordered() []bundle.Notice {
	out := make([]bundle.Notice, len(s.notices))
	for i := range s.notices {
		out[i] = s.notices[i].Notice
	}
	return out
}

// Zone returns where the site's clock is.
func (s *Site) Zone() *time.Location { return s.zone }

// Audience returns whom the notice of that id is for; everyone if there is none.
func (s *Site) Audience(id string) audience.Audience {
	for i := range s.notices {
		if s.notices[i].ID == id {
			return s.notices[i].audience
		}
	}
	return audience.Audience{}
}

// Wants returns the names of the facts that the published notices ask about,
// sorted.
func (s *Site) Wants() []string {
	var out []string
	for i := range s.notices {
		if s.notices[i].GetState() == bundle.Published {
			out = append(out, s.notices[i].audience.Facts()...)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

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
	if p, ok := s.Subject(url); ok {
		return p.Language
	}
	return s.bundle.Site.Language
}

// Subject returns the page at an address, as page conditions see it; ok is
// false if the address is none.
func (s *Site) Subject(address string) (p pages.Subject, ok bool) {
	known, ok := s.at(address)
	return known.Subject, ok
}

// at returns the page at an address, without its notices if it is not listed.
func (s *Site) at(address string) (page, bool) {
	rest := pathOf(address)
	path, err := pages.NormalPath(rest)
	if err != nil {
		return page{}, false
	}
	p, listed := s.pages[path]
	if !listed {
		p.Subject = pages.Subject{Path: path, Language: s.bundle.Site.Language}
	}
	if i := strings.IndexByte(rest, '?'); i >= 0 {
		p.Query, _, _ = strings.Cut(rest[i+1:], "#")
	}
	if !listed || p.Query != "" && s.index.AsksQuery() {
		p.here, p.barred = s.index.Find(p.Subject)
	}
	return p, true
}

// Decide answers a visit. The visit must be right by its Check; an address
// that is not decides as if no notice had the page.
func (s *Site) Decide(v Visit) Decision {
	d := Decision{At: v.At}
	p, ok := s.at(v.URL)
	if !ok || !s.displays {
		return d
	}
	r := s.reading(v)
	defer r.done()
	r.page, r.title = p.Subject, p.title
	next := int64(never)
	now := v.At.UnixMicro()
	var taken [places]int
	yield := len(s.consents) > 0 && s.questionOpen(r, p, now)

	// The candidates are those of every page but the barred, and those of this
	// page, merged in the order of rule D1.
	every, here, barred := s.index.Everywhere(), p.here, p.barred
	if len(barred) == 0 {
		st := s.stand(now)
		every, next = st.live, st.until
	}
	for len(every) > 0 || len(here) > 0 {
		var i int32
		if len(here) == 0 || len(every) > 0 && every[0] < here[0] {
			i, every = every[0], every[1:]
			if len(barred) > 0 && barred[0] == i {
				barred = barred[1:]
				continue
			}
		} else {
			i, here = here[0], here[1:]
		}
		q := &s.quick[i]
		if !s.live(i, r, now, &next) {
			continue
		}
		full := taken[q.place] >= s.capacity[q.place]
		if full && !q.later || yield && q.yields {
			continue
		}
		if q.later {
			n := &s.notices[i]
			switch answer, rest := n.audience.Decide(r.facts()); {
			case answer == audience.NotYet:
				if away, _ := n.away(r); !away {
					d.Waiting = append(d.Waiting, Waiting{n.ID, n.slot, rest})
				}
				continue
			case answer == audience.False || full:
				continue
			}
		} else if !q.everyone && !r.facts().Run(q.program) {
			continue
		}
		if len(v.Memory.Notices) > 0 {
			if away, _ := s.notices[i].away(r); away {
				continue
			}
		}
		taken[q.place]++
		r.shows = append(r.shows, i)
	}
	if len(r.shows) > 0 {
		d.Show = make([]Shown, len(r.shows))
		for x, i := range r.shows {
			d.Show[x] = s.shown[i]
		}
	}
	if next != never {
		d.ValidUntil = time.UnixMicro(next).UTC()
	}
	return d
}

// stand returns which notices of every page are live now. It is worked out
// once for each stretch of time in which that does not change.
func (s *Site) stand(now int64) *standing {
	if st := s.standing.Load(); st != nil && st.from <= now && now < st.until {
		return st
	}
	st := &standing{from: always, until: never}
	for _, i := range s.index.Everywhere() {
		q := &s.quick[i]
		for _, change := range [2]int64{q.from, q.until} {
			if q.more {
				break
			}
			if change <= now {
				st.from = max(st.from, change)
			} else {
				st.until = min(st.until, change)
			}
		}
		if q.more || q.from <= now && now < q.until {
			st.live = append(st.live, i)
		}
	}
	s.standing.Store(st)
	return st
}

// live reports whether the notice is within its time, and brings next forward
// to when that changes.
func (s *Site) live(i int32, r *reading, now int64, next *int64) bool {
	switch q := &s.quick[i]; {
	case q.more:
		live, change := s.notices[i].schedule.At(r.visit.At, r.zone())
		if !change.IsZero() {
			*next = min(*next, change.UnixMicro())
		}
		return live
	case now < q.from:
		*next = min(*next, q.from)
	case now < q.until:
		*next = min(*next, q.until)
		return true
	}
	return false
}

// questionOpen reports whether some notice asks this visitor for consent on
// this page now (rule D4).
func (s *Site) questionOpen(r *reading, p page, now int64) bool {
	for _, i := range s.consents {
		n := &s.notices[i]
		later := int64(never)
		if !n.pages.Test(p.Subject).Shows || !s.live(i, r, now, &later) || s.capacity[s.quick[i].place] < 1 {
			continue
		}
		if answer, _ := n.audience.Decide(r.facts()); answer != audience.True {
			continue
		}
		if away, _ := n.away(r); !away {
			return true
		}
	}
	return false
}

// A kept is why a notice stays away from a visitor: an act of theirs, or a
// limit that is reached; until is zero if that is no instant.
type kept struct {
	act   *act
	limit *limit
	done  time.Time // when the act was
	shown int       // how often within the limit's period
	until time.Time
}

// away reports whether the notice stays away because of what the visitor did
// or has seen (rules M1 and M2).
func (n *notice) away(r *reading) (bool, kept) {
	m := &r.visit.Memory
	acts, met := m.Notices[n.ID]
	if !met {
		return false, kept{}
	}
	for i := range n.acts {
		a := &n.acts[i]
		var done time.Time
		switch a.name {
		case "closed":
			done = acts.Closed
		case "clicked":
			done = acts.Clicked
		case "converted":
			done = acts.Converted
		case "answered":
			done = acts.Answered
		}
		if done.IsZero() {
			continue
		}
		k := kept{act: a, done: done}
		switch a.period {
		case bundle.PeriodEver:
			return true, k
		case bundle.PeriodPage:
			if !m.View.IsZero() && !done.Before(m.View) {
				return true, k
			}
		case bundle.PeriodSession:
			if !m.Session.IsZero() && !done.Before(m.Session) {
				return true, k
			}
		default:
			if k.until = a.span.After(done, r.zone()); r.visit.At.Before(k.until) {
				return true, k
			}
		}
	}
	for i := range n.limits {
		l := &n.limits[i]
		k := kept{limit: l}
		for _, shown := range acts.Shown {
			if !m.View.IsZero() && !shown.Before(m.View) {
				continue // on this page view: it is the showing that is being decided
			}
			if l.session {
				if m.Session.IsZero() || shown.Before(m.Session) {
					continue
				}
			} else {
				ends := l.span.After(shown, r.zone())
				if !ends.After(r.visit.At) {
					continue
				}
				if k.until.IsZero() || ends.Before(k.until) {
					k.until = ends // the first to fall out makes room
				}
			}
			k.shown++
		}
		if k.shown >= l.times {
			return true, k
		}
	}
	return false, kept{}
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
