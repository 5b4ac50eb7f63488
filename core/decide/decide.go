// Package decide answers what shows: on this page, at this moment, to this
// visitor. It compiles a bundle into an immutable Site, decides on visits,
// and explains each decision gate by gate. Rules M and D.
package decide

import (
	"cmp"
	"math"
	"slices"
	"strings"
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
	bundle     bundle.Bundle
	sections   bundle.Sections // languages of pages that do not say their own
	zone       *time.Location
	displays   bool
	notices    []notice         // in the order of rule D1, the strongest first
	ids        map[string]int32 // the index of each
	candidates []candidate      // of the notice at the same index
	shown      []Shown          // the same
	capacity   [bundle.SlotCount]int
	names      pages.Names
	pages      map[string]page // by path in normal form
	index      *pages.Index    // of the published notices, by index
	consents   []int32         // the published notices that ask for consent, the strongest first
	demands    []int32         // the published disclaimers that have to be answered
	spotted    []int32         // the published notices whose spots depend on the page

	consent     consent.Compiled
	published   int         // how many notices are
	hasGoals    bool        // one of them has a goal
	goals       []goalPages // of the published notices whose goal is a page
	draws       bool        // a published notice has an experiment that tells visitors apart
	table       *audience.Table
	evaluations evaluations
	liveSet     atomic.Pointer[liveSet]
	// Of the known pages.
	candidateClasses, decisionClasses pageClasses
}

// liveSet is which of the notices of every page are live, and of those whose
// time is not simple all, while nothing of that changes: on the half-open
// stretch between two instants in microseconds.
type liveSet struct {
	from, until int64
	live        []int32
}

// page is what is known of a listed page.
type page struct {
	pages.Subject
	title string
	// The published notices that take this page beside those that take every
	// page, and those of the latter that leave it out. Both strongest first.
	included, excluded []int32
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
	demand   *demand // of a disclaimer that has to be answered
	// How its visitors are told apart; nil if they are not.
	experiment *experiment
	goal       pages.Set   // the pages that are its goal, if those are
	spots      []pages.Set // for which each of its spots is; nil if none depends on the page
	countdownRules
}

// candidate is what a decision looks at in every candidate, small and side by
// side in memory. Instants are microseconds since 1970.
type candidate struct {
	from, until     int64 // the one stretch in which it is live, of most notices
	program         audience.Program
	slot            uint8 // the one whose places it takes, as Slot.Index
	needsSchedule   bool  // its time is not that simple: ask its schedule
	everyone        bool  // it has no conditions on the visitor
	deferred        bool  // its audience depends on what is not known at load
	waitsForConsent bool  // it waits while a consent question is open (rule D4)
	needsCountdown  bool  // a countdown that only the visit can tell of keeps it away at some time (rule C4)
	hasCountdown    bool  // it has a countdown
	hasVisitGates   bool  // a gate of those below, or a countdown or an acknowledgement, asks about the visit
	asksConsent     bool  // it asks for consent
	needsStorage    bool  // it stays away where the visitor's browser keeps nothing (rule M5)
	needsPurposes   bool  // it is code that runs only once its purposes are agreed to (rule B7)
	hasExperiment   bool  // its visitors are told apart by chance (rule E4)
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
	// The variant that the visitor gets, "" where it has none.
	Variant string `json:"variant,omitempty"`
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
	Variant   string         `json:"variant,omitempty"`
	Remainder *audience.Node `json:"remainder"`
}

// A HeldOut is a notice that would show, at once or once its remainder comes true, but for the
// visitor being held out of it (rule E5).
type HeldOut struct {
	ID        string
	Remainder *audience.Node // nil: at once
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
	// HeldOut is in the same order.
	HeldOut []HeldOut
	// MayMeasure is whether the visitor's browser may keep what helps to count, Drawn whether their draw puts them into
	// experiments (rule E8).
	MayMeasure, Drawn bool
	// Consent is what holds for the visitor; nil where the site asks for none.
	Consent *consent.State
}

// CompareRivals orders two notices that want one slot, the stronger first: emergencies,
// what asks for consent, then by level, then rank, then the later publishedAt, then
// id (rule D1).
func CompareRivals(a, b bundle.Notice) int {
	return cmp.Or(
		cmp.Compare(strength(b), strength(a)),
		cmp.Compare(b.GetRank(), a.GetRank()),
		b.GetPublishedAt().Compare(a.GetPublishedAt()),
		cmp.Compare(a.ID, b.ID),
	)
}

// strength is a notice's level, with what asks for consent right below emergencies.
func strength(n bundle.Notice) float64 {
	if n.Kind == bundle.KindConsent && n.GetLevel() != bundle.Emergency {
		return float64(bundle.Emergency.Strength()) - 0.5
	}
	return float64(n.GetLevel().Strength())
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
	if len(s.consents) > 0 || s.hasGoals {
		out = append(out, "place.country", "place.region", "consent.signal")
	}
	for i := range s.notices {
		if s.notices[i].GetState() == bundle.Published {
			out = append(out, s.notices[i].audience.Facts()...)
			for _, f := range s.notices[i].FormFields() {
				if f.Fact != "" {
					out = append(out, f.Fact)
				}
			}
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

// Names are what page conditions of the site may refer to.
func (s *Site) Names() pages.Names { return s.names }

// Subject returns the page at an address, as page conditions see it; ok is
// false if the address is none.
func (s *Site) Subject(address string) (p pages.Subject, ok bool) {
	known, _, ok := s.knownPage(address)
	return known.Subject, ok
}

// takes reports whether a published notice's page conditions take a page.
func (s *Site) takes(p page, i int32) bool {
	_, everywhere := slices.BinarySearch(s.index.Everywhere(), i)
	_, excluded := slices.BinarySearch(p.excluded, i)
	_, included := slices.BinarySearch(p.included, i)
	return included || everywhere && !excluded
}

// pageAt returns the page at an address with its notices.
func (s *Site) pageAt(address string) (page, bool) {
	p, listed, ok := s.knownPage(address)
	if ok && (!listed || p.Query != "" && (s.index.AsksQuery() || len(s.spotted) > 0)) {
		p.included, p.excluded = s.noticesOf(p.Subject)
	}
	return p, ok
}

// knownPage returns what is known of the page at an address; its notices are right if it
// is listed and nothing asks for its query.
func (s *Site) knownPage(address string) (p page, listed, ok bool) {
	rest := pathOf(address)
	if !s.bundle.Site.Routes {
		rest, _, _ = strings.Cut(rest, "#") // rule P4
	}
	path, err := pages.NormalPath(rest)
	if err != nil {
		return page{}, false, false
	}
	if p, listed = s.pages[path]; !listed {
		path = s.names.Listed.Find(path)
		p, listed = s.pages[path]
	}
	if !listed {
		p.Subject = pages.Subject{Path: path, Language: s.sections.Language(path)}
	}
	p.Query = pages.QueryOf(rest)
	return p, listed, true
}

// Decide answers a visit. The visit must be right by its Check; an address
// that is not decides as if no notice had the page.
func (s *Site) Decide(v Visit) Decision { return s.decide(v, nil) }

// DecideWithHeldBack is Decide, with the ids of the notices that the visit would show if there were room,
// which takes longer.
func (s *Site) DecideWithHeldBack(v Visit) (d Decision, heldBack []string) {
	var held []int32
	d = s.decide(v, &held)
	for _, i := range held {
		heldBack = append(heldBack, s.notices[i].ID)
	}
	return d, heldBack
}

// decide is Decide. Where held is given, it also finds whom there is no room for.
func (s *Site) decide(v Visit, held *[]int32) Decision {
	p, ok := s.pageAt(v.URL)
	if !ok || !s.displays {
		return Decision{At: v.At}
	}
	return s.decideOn(p, v, held)
}

// decideOn is decide on a page with its candidates.
func (s *Site) decideOn(p page, v Visit, held *[]int32) Decision {
	e := s.newEvaluation(v)
	defer e.release()
	e.page, e.title = p.Subject, p.title
	r := round{site: s, evaluation: e, now: v.At.UnixMicro(), next: never, held: held, decision: Decision{At: v.At}}
	if len(s.consents) > 0 {
		r.decision.Consent, r.next = s.consentOf(e, r.now)
	}
	everywhere, included, excluded := s.index.Everywhere(), p.included, p.excluded
	if len(excluded) == 0 {
		set := s.liveEverywhere(r.now)
		everywhere, r.next = set.live, min(r.next, set.until)
	}
	// The candidates are those of every page but the excluded, and those of this
	// page, merged in the order of rule D1. All lists are in that order, and no
	// notice is in both everywhere and included.
	for len(everywhere) > 0 || len(included) > 0 {
		var i int32
		if len(included) == 0 || len(everywhere) > 0 && everywhere[0] < included[0] {
			i, everywhere = everywhere[0], everywhere[1:]
			if len(excluded) > 0 && excluded[0] == i {
				excluded = excluded[1:]
				continue
			}
		} else {
			i, included = included[0], included[1:]
		}
		r.consider(i)
	}
	return r.result()
}

// A round is one decision under way. The candidates are put to it in the order of
// rule D1, so that what has found a place keeps it.
type round struct {
	site       *Site
	evaluation *evaluation
	now, next  int64 // microseconds since 1970: the visit's moment, and the next change known so far
	taken      [bundle.SlotCount]int
	// A consent question that is open shows: it comes before all that wait for it.
	questionShows bool
	held          *[]int32 // whom there is no room for, where that is asked for
	decision      Decision
}

// consider asks the gates of one candidate, whose page is settled, until one of
// them keeps it away. What passes all of them shows, waits, or finds no room.
func (r *round) consider(i int32) {
	s, e := r.site, r.evaluation
	c, n := &s.candidates[i], &s.notices[i]
	live, change := c.simpleTime(r.now) // with the next lines timeGate, without its call
	if c.needsSchedule {
		live, change = n.scheduleTime(e)
	}
	r.next = min(r.next, change)
	if !live || c.hasVisitGates && !r.visitGates(c, n) {
		return
	}
	full := r.taken[c.slot] >= s.capacity[c.slot]
	if full && !c.deferred && r.held == nil || r.questionShows && c.waitsForConsent {
		return
	}
	switch answer, remainder := s.audienceGate(i, e); {
	case answer == audience.NotYet:
		switch away, _ := n.memoryGate(c, e); {
		case away:
		case c.hasExperiment && n.holdoutGate(e):
			r.decision.HeldOut = append(r.decision.HeldOut, HeldOut{n.ID, remainder})
		default:
			r.decision.Waiting = append(r.decision.Waiting, Waiting{
				ID: n.ID, Slot: n.slot, Ends: s.ends(i, e), Variant: n.variant(e), Remainder: remainder,
			})
		}
		return
	case answer == audience.False || full && r.held == nil:
		return
	}
	if len(e.visit.Memory.Notices) > 0 {
		if away, _ := n.memoryGate(c, e); away {
			return
		}
	}
	if c.hasExperiment && n.holdoutGate(e) {
		if !full {
			r.decision.HeldOut = append(r.decision.HeldOut, HeldOut{ID: n.ID})
		}
		return
	}
	if full {
		*r.held = append(*r.held, i)
		return
	}
	r.taken[c.slot]++
	r.questionShows = r.questionShows || c.asksConsent && r.decision.Consent.Open
	e.shows = append(e.shows, i)
}

// visitGates asks what depends on the visit but not on its audience: consent,
// countdowns, acknowledgements and storage. It brings the next change forward.
func (r *round) visitGates(c *candidate, n *notice) bool {
	e := r.evaluation
	if !c.consentGate(r.decision.Consent) {
		return false
	}
	if c.needsCountdown {
		release := r.site.countdownGate(n, e)
		r.changesAt(release.next)
		if release.blocker != nil {
			return false
		}
	}
	if asks, status := n.demandGate(e); !asks {
		r.changesAt(status.until)
		return false
	}
	return n.purposesGate(r.decision.Consent) && c.storageGate(e)
}

// changesAt brings the next change forward to an instant; zero is none.
func (r *round) changesAt(t time.Time) {
	if !t.IsZero() {
		r.next = min(r.next, t.UnixMicro())
	}
}

func (r *round) result() Decision {
	d := r.decision
	if r.site.published > 0 {
		d.MayMeasure = r.site.mayMeasure(r.evaluation)
		d.Drawn = r.site.draws && r.evaluation.draw() != ""
	}
	if shows := r.evaluation.shows; len(shows) > 0 {
		d.Show = make([]Shown, len(shows))
		for x, i := range shows {
			d.Show[x] = r.site.shown[i]
			d.Show[x].Ends = r.site.ends(i, r.evaluation)
			d.Show[x].Variant = r.site.notices[i].variant(r.evaluation)
		}
	}
	if r.next != never {
		d.ValidUntil = time.UnixMicro(r.next).UTC()
	}
	return d
}

// ends returns the moment that a notice's countdown is about for the visit;
// zero if it has none.
func (s *Site) ends(i int32, e *evaluation) time.Time {
	if !s.candidates[i].hasCountdown {
		return time.Time{}
	}
	n := &s.notices[i]
	ends := n.count.Target(e.visit.At, e.zone(), e.visit.Memory.Notices[n.ID].Met)
	if ends.IsZero() {
		return ends // a number without end
	}
	return ends.UTC()
}

// liveEverywhere returns which notices of every page are live now. It is worked out
// once for each stretch of time in which that does not change.
func (s *Site) liveEverywhere(now int64) *liveSet {
	if set := s.liveSet.Load(); set != nil && set.from <= now && now < set.until {
		return set
	}
	set := &liveSet{from: always, until: never}
	for _, i := range s.index.Everywhere() {
		c := &s.candidates[i]
		for _, change := range [2]int64{c.from, c.until} {
			if c.needsSchedule {
				break
			}
			if change <= now {
				set.from = max(set.from, change)
			} else {
				set.until = min(set.until, change)
			}
		}
		if c.needsSchedule || c.from <= now && now < c.until {
			set.live = append(set.live, i)
		}
	}
	s.liveSet.Store(set)
	return set
}
