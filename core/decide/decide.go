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
	"mastflag/core/consent"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// A Site is a compiled bundle. It is never altered; any number of goroutines
// may ask it.
type Site struct {
	bundle   bundle.Bundle
	sections bundle.Sections // languages of pages that do not say their own
	zone     *time.Location
	displays bool
	notices  []notice         // in the order of rule D1, the strongest first
	ids      map[string]int32 // the index of each
	quick    []quick          // of the notice at the same index
	shown    []Shown          // the same
	capacity [places]int
	pages    map[string]page // by path in normal form
	index    *pages.Index    // of the published notices, by index
	consents []int32         // the published notices that ask for consent, the strongest first
	demands  []int32         // the published disclaimers that have to be answered
	spotted  []int32         // the published notices whose spots depend on the page
	consent  consent.Compiled
	table    *audience.Table
	readings readings
	standing atomic.Pointer[standing]
	// Worked out when first asked for.
	classed   sync.Once
	classesOf []class
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
	// Where the spots of notices are that were found on it, by selector.
	spots map[string]bundle.Extent
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
	demand   *demand     // of a disclaimer that has to be answered
	spots    []pages.Set // for which each of its spots is; nil if none depends on the page
	counting
}

// place is a slot as an index; centre and cover share theirs.
type place uint8

const (
	placeCentre = place(4)
	places      = 8
)

func placeOf(s bundle.Slot) place {
	return place(slices.Index([]bundle.Slot{bundle.Top, bundle.Bottom, bundle.CornerStart, bundle.CornerEnd, bundle.Centre, bundle.TabTitle, bundle.Inline, bundle.InCode}, s.Shared()))
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
	counts      bool // a countdown that only the visit can tell of keeps it away at some time (rule C4)
	timed       bool // it has a countdown
	consent     bool // it asks for consent
	demands     bool // it is a disclaimer that has to be acknowledged or declared
	storage     bool // it stays away where the visitor's browser keeps nothing (rule M5)
	purposes    bool // it is code that runs only once its purposes are agreed to (rule B7)
}

const (
	always = math.MinInt64
	never  = math.MaxInt64
)

// A Shown is a notice that shows, in its slot.
type Shown struct {
	ID   string      `json:"id"`
	Slot bundle.Slot `json:"slot"`
	// The moment that its countdown is about for this visitor.
	Ends time.Time `json:"ends,omitzero"`
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
	Ends      time.Time      `json:"ends,omitzero"`
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
	// Consent is what holds for the visitor; nil where the site asks for none.
	Consent *consent.State
}

var levels = map[bundle.Level]int{bundle.Emergency: 4, bundle.Warning: 3, bundle.Information: 2, bundle.Promotion: 1}

// Rivals orders two notices that want one slot, the stronger first: emergencies,
// what asks for consent, then by level, then rank, then the later publishedAt, then
// id (rule D1).
func Rivals(a, b bundle.Notice) int {
	return cmp.Or(
		cmp.Compare(strength(b), strength(a)),
		cmp.Compare(b.GetRank(), a.GetRank()),
		b.GetPublishedAt().Compare(a.GetPublishedAt()),
		cmp.Compare(a.ID, b.ID),
	)
}

// strength is a notice's level, with what asks for consent right below emergencies.
func strength(n bundle.Notice) float64 {
	level := levels[n.GetLevel()]
	if n.Kind == bundle.KindConsent && n.GetLevel() != bundle.Emergency {
		return float64(levels[bundle.Emergency]) - 0.5
	}
	return float64(level)
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

// byID returns the notice of that id, an empty one if there is none.
func (s *Site) byID(id string) *notice {
	if i, ok := s.ids[id]; ok {
		return &s.notices[i]
	}
	return &notice{}
}

// Audience returns whom the notice of that id is for; everyone if there is none.
func (s *Site) Audience(id string) audience.Audience { return s.byID(id).audience }

// Wants returns the names of the facts that the published notices ask about,
// sorted.
func (s *Site) Wants() []string {
	var out []string
	if len(s.consents) > 0 {
		out = append(out, "place.country", "place.region", "consent.signal")
	}
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
func (s *Site) Schedule(id string) schedule.Schedule { return s.byID(id).schedule }

// Language returns the language of the page at that address: its own, that of its
// section, or the site's.
func (s *Site) Language(url string) string {
	if p, ok := s.Subject(url); ok {
		return p.Language
	}
	return s.bundle.Site.Language
}

// Subject returns the page at an address, as page conditions see it; ok is
// false if the address is none.
func (s *Site) Subject(address string) (p pages.Subject, ok bool) {
	known, _, ok := s.about(address)
	return known.Subject, ok
}

// Carries returns the ids of the published notices whose page conditions take
// the page at an address, whatever else keeps them from it, the strongest first.
func (s *Site) Carries(address string) []string {
	p, ok := s.at(address)
	if !ok {
		return nil
	}
	var out []string
	for i := range s.notices {
		if s.takes(p, int32(i)) {
			out = append(out, s.notices[i].ID)
		}
	}
	return out
}

// takes reports whether a published notice's page conditions take a page.
func (s *Site) takes(p page, i int32) bool {
	_, everywhere := slices.BinarySearch(s.index.Everywhere(), i)
	_, barred := slices.BinarySearch(p.barred, i)
	_, here := slices.BinarySearch(p.here, i)
	return here || everywhere && !barred
}

// at returns the page at an address with its notices.
func (s *Site) at(address string) (page, bool) {
	p, listed, ok := s.about(address)
	if ok && (!listed || p.Query != "" && (s.index.AsksQuery() || len(s.spotted) > 0)) {
		p.here, p.barred = s.find(p.Subject)
	}
	return p, ok
}

// about returns what is known of the page at an address; its notices are right if it
// is listed and nothing asks for its query.
func (s *Site) about(address string) (p page, listed, ok bool) {
	rest := pathOf(address)
	path, err := pages.NormalPath(rest)
	if err != nil {
		return page{}, false, false
	}
	p, listed = s.pages[path]
	if !listed {
		p.Subject = pages.Subject{Path: path, Language: s.sections.Language(path)}
	}
	if i := strings.IndexByte(rest, '?'); i >= 0 {
		p.Query, _, _ = strings.Cut(rest[i+1:], "#")
	}
	return p, listed, true
}

// Decide answers a visit. The visit must be right by its Check; an address
// that is not decides as if no notice had the page.
func (s *Site) Decide(v Visit) Decision { return s.decide(v, nil) }

// HeldBack returns the ids of the notices that a visit would show if there
// were room, and until when the decision holds; zero if no change is ahead.
func (s *Site) HeldBack(v Visit) (ids []string, validUntil time.Time) {
	var held []int32
	d := s.decide(v, &held)
	for _, i := range held {
		ids = append(ids, s.notices[i].ID)
	}
	return ids, d.ValidUntil
}

// decide is Decide. Where held is given, it also finds whom there is no room for.
func (s *Site) decide(v Visit, held *[]int32) Decision {
	p, ok := s.at(v.URL)
	if !ok || !s.displays {
		return Decision{At: v.At}
	}
	return s.decideOn(p, v, held)
}

// decideOn is decide on a page with its candidates.
func (s *Site) decideOn(p page, v Visit, held *[]int32) Decision {
	d := Decision{At: v.At}
	r := s.reading(v)
	defer r.done()
	r.page, r.title = p.Subject, p.title
	next := int64(never)
	now := v.At.UnixMicro()
	var taken [places]int
	yield := false // a question that is open shows: it comes before all that wait for it
	if len(s.consents) > 0 {
		d.Consent, next = s.consentOf(r, now)
	}

	// The candidates are those of every page but the barred, and those of this
	// page, merged in the order of rule D1.
	every, here, barred := s.index.Everywhere(), p.here, p.barred
	if len(barred) == 0 {
		st := s.stand(now)
		every, next = st.live, min(next, st.until)
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
		if !s.live(i, r, now, &next) || q.consent && !d.Consent.Shows {
			continue
		}
		if q.counts {
			shows, _, change := s.counts(&s.notices[i], r)
			if !change.IsZero() {
				next = min(next, change.UnixMicro())
			}
			if !shows {
				continue
			}
		}
		if q.demands {
			m := s.notices[i].demand.met(r)
			if m.holds {
				if !m.until.IsZero() {
					next = min(next, m.until.UnixMicro())
				}
				continue
			}
		}
		if q.purposes && s.notices[i].lacks(d.Consent) != "" {
			continue
		}
		if v.Memory.NoStorage && q.storage && !(q.consent && v.Again) {
			continue
		}
		full := taken[q.place] >= s.capacity[q.place]
		if full && !q.later && held == nil || yield && q.yields {
			continue
		}
		if q.later {
			n := &s.notices[i]
			switch answer, rest := n.audience.Decide(r.facts()); {
			case answer == audience.NotYet:
				if away, _ := n.away(r); !away {
					d.Waiting = append(d.Waiting, Waiting{n.ID, n.slot, s.ends(i, r), rest})
				}
				continue
			case answer == audience.False || full && held == nil:
				continue
			}
		} else if !q.everyone && !r.facts().Run(q.program) {
			continue
		}
		if len(v.Memory.Notices) > 0 && !(q.consent && v.Again) {
			if away, _ := s.notices[i].away(r); away {
				continue
			}
		}
		if full {
			*held = append(*held, i)
			continue
		}
		taken[q.place]++
		yield = yield || q.consent && d.Consent.Open
		r.shows = append(r.shows, i)
	}
	if len(r.shows) > 0 {
		d.Show = make([]Shown, len(r.shows))
		for x, i := range r.shows {
			d.Show[x] = s.shown[i]
			d.Show[x].Ends = s.ends(i, r)
		}
	}
	if next != never {
		d.ValidUntil = time.UnixMicro(next).UTC()
	}
	return d
}

// ends returns the moment that a notice's countdown is about for the visit;
// zero if it has none.
func (s *Site) ends(i int32, r *reading) time.Time {
	if !s.quick[i].timed {
		return time.Time{}
	}
	n := &s.notices[i]
	ends := n.count.Target(r.visit.At, r.zone(), r.visit.Memory.Notices[n.ID].Met)
	if ends.IsZero() {
		return ends // a number without end
	}
	return ends.UTC()
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
