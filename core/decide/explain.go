package decide

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/moment"
)

// A Gate is one of the questions a notice has to pass to show.
type Gate string

// The gates, in the order in which they are asked.
const (
	GateDisplay  Gate = "display"
	GateState    Gate = "state"
	GateSchedule Gate = "schedule"
	GatePages    Gate = "pages"
	GateAudience Gate = "audience"
	GateMemory   Gate = "memory"
	GateHoldout  Gate = "holdout"
	GateSlot     Gate = "slot"
)

// A Step is one gate's answer for one notice.
type Step struct {
	Gate   Gate   `json:"gate"`
	Rule   string `json:"rule"`
	Passed bool   `json:"passed"`
	// It neither passes nor fails yet: it depends on what the visitor does on this page.
	Waits bool `json:"waits,omitempty"`
	// The values the gate saw, as text by name.
	Saw map[string]string `json:"saw,omitempty"`
	// One plain sentence.
	Why string `json:"why"`
	// Of the audience: what each part of it answered.
	Parts []audience.Verdict `json:"parts,omitempty"`
	// Pointer is where in the notice the deciding value stands; "" if nowhere.
	Pointer string `json:"pointer,omitempty"`
}

// An Account is all gates' answers for one notice. A gate is asked even where
// an earlier one fails, so that all reasons are seen at once; the slot is
// asked only where all others pass.
type Account struct {
	ID    string `json:"id"`
	Shows bool   `json:"shows"`
	Waits bool   `json:"waits,omitempty"`
	Steps []Step `json:"steps"`
}

// Reason returns the first gate that fails; ok is false if none does.
func (a Account) Reason() (s Step, ok bool) {
	for _, s := range a.Steps {
		if !s.Passed && !s.Waits {
			return s, true
		}
	}
	return Step{}, false
}

// A Result is a decision in full: what shows, what waits, and what is held
// back by which gate. Explain has an account of each notice if asked for.
type Result struct {
	At         time.Time  `json:"at"`
	ValidUntil *time.Time `json:"validUntil"`
	Show       []Shown    `json:"show"`
	Waiting    []Waiting  `json:"waiting"`
	Held       []Held     `json:"held"`
	// The visitor's draw counts: they are in the experiments of what shows (rule E8).
	Drawn bool `json:"drawn,omitempty"`
	// What holds of the visitor's consent, where the site asks for it.
	Consent *consent.State `json:"consent,omitempty"`
	Explain []Account      `json:"explain,omitempty"`
}

// MarshalJSON writes instants in RFC 3339, UTC.
func (r Result) MarshalJSON() ([]byte, error) {
	type plain Result
	p := plain(r)
	p.At = p.At.UTC()
	if p.ValidUntil != nil {
		u := p.ValidUntil.UTC()
		p.ValidUntil = &u
	}
	return json.Marshal(p)
}

// Explain answers a visit as Decide does, with an account of every notice.
func (s *Site) Explain(v Visit) Result {
	return s.explain(v, func(string) bool { return true })
}

// ExplainOf is Explain with an account of the notices of these ids alone, and
// of nothing else that is held.
func (s *Site) ExplainOf(v Visit, ids []string) Result {
	return s.explain(v, func(id string) bool { return slices.Contains(ids, id) })
}

func (s *Site) explain(v Visit, wanted func(id string) bool) Result {
	d := s.Decide(v)
	r := Result{
		At:      v.At,
		Show:    append([]Shown{}, d.Show...),
		Waiting: []Waiting{},
		Held:    []Held{},
		Consent: d.Consent,
		Drawn:   d.Drawn,
	}
	if !d.ValidUntil.IsZero() {
		r.ValidUntil = &d.ValidUntil
	}
	r.Waiting = append(r.Waiting, d.Waiting...)
	p, ok := s.pageAt(v.URL)
	if !ok {
		p.excluded = s.index.Everywhere()
	}
	e := s.newEvaluation(v)
	defer e.release()
	e.page, e.title = p.Subject, p.title
	e.consent = d.Consent
	shown, waiting := map[string]bool{}, map[string]bool{}
	for _, n := range d.Waiting {
		waiting[n.ID] = true
	}
	open := false // a question that shows is open
	for _, n := range d.Show {
		shown[n.ID] = true
		open = open || s.candidates[s.ids[n.ID]].asksConsent && d.Consent.Open
	}
	for i := range s.notices {
		if !wanted(s.notices[i].ID) {
			continue
		}
		a := s.account(int32(i), p, e)
		a.Shows, a.Waits = shown[a.ID], waiting[a.ID]
		if _, failed := a.Reason(); !failed && !a.Waits {
			a.Steps = append(a.Steps, s.slotStep(&s.notices[i], d, a.Shows, open && s.candidates[i].waitsForConsent))
		}
		if why, failed := a.Reason(); failed {
			r.Held = append(r.Held, Held{ID: a.ID, Gate: why.Gate, Rule: why.Rule, Why: why.Why})
		}
		r.Explain = append(r.Explain, a)
	}
	return r
}

// account asks all gates but the slot about one notice. Where two rules answer for
// one gate, the step is of the one that keeps the notice away.
func (s *Site) account(i int32, p page, e *evaluation) Account {
	c, n := &s.candidates[i], &s.notices[i]
	when, memory, whom := s.scheduleStep(i, e), n.memoryStep(c, e), s.audienceStep(i, e)
	if st, kept := s.countdownStep(n, e); kept && st.Gate == GateMemory {
		memory = st
	} else if kept {
		when = st
	}
	if !c.storageGate(e) {
		memory = s.noStorageStep()
	}
	if n.demand != nil && memory.Passed {
		memory = n.disclaimerStep(e)
	}
	if c.asksConsent && e.consent != nil {
		st := n.consentStep(c, e.consent)
		switch {
		case st.Gate == GateMemory && (!st.Passed || memory.Passed):
			memory = st
		case !st.Passed:
			whom = st
		}
	}
	if c.needsPurposes && (whom.Passed || whom.Waits) {
		if st := n.purposesStep(e.consent); whom.Passed || !st.Passed {
			whom = st
		}
	}
	return Account{ID: n.ID, Steps: []Step{
		s.displayStep(), n.stateStep(), when, s.pagesStep(i, p), whom, memory, s.holdoutStep(n, e),
	}}
}

func (s *Site) displayStep() Step {
	st := Step{Gate: GateDisplay, Rule: "G1", Passed: s.displays, Why: "The site's master switch is on."}
	if !s.displays {
		st.Why = "The site's master switch is off: no notice shows anywhere."
	}
	return st
}

func (n *notice) stateStep() Step {
	st := Step{
		Gate:    GateState,
		Rule:    "G2",
		Passed:  n.GetState() == bundle.Published,
		Saw:     map[string]string{"state": string(n.GetState())},
		Pointer: "/state",
	}
	switch n.GetState() {
	case bundle.Published:
		st.Why = "It is published."
	case bundle.Paused:
		st.Why = "It is paused. Resume it to show it again."
	default:
		st.Why = "It is a draft. Visitors see it once you publish it."
	}
	return st
}

func (s *Site) scheduleStep(i int32, e *evaluation) Step {
	n := &s.notices[i]
	at, visitors := e.visit.At, e.zone()
	st := Step{Gate: GateSchedule, Rule: "S1", Pointer: "/schedule"}
	clock := s.zone
	if n.schedule.Floating() {
		st.Rule, clock = "S2", visitors
	}
	live, _ := s.timeGate(i, e, at.UnixMicro())
	_, next := n.schedule.At(at, visitors)
	say := func(t time.Time) string { return moment.Say(t, at, clock) }
	now := say(at.Truncate(time.Minute))
	st.Passed = live
	st.Saw = map[string]string{"now": now, "clock": clock.String()}
	switch {
	case live && next.IsZero():
		st.Why = "It is within its time, and has no end."
	case live:
		st.Why = fmt.Sprintf("It is within its time, until %s.", say(next))
	case !next.IsZero():
		st.Why = fmt.Sprintf("It starts %s; now it is %s.", say(next), now)
		if !n.GetPublishedAt().IsZero() && next.Equal(n.GetPublishedAt()) {
			st.Why = fmt.Sprintf("It was not published before %s; this moment is %s.", say(next), now)
		}
	default:
		end, _ := n.schedule.EndIn(visitors)
		st.Why = fmt.Sprintf("It ended %s; now it is %s.", say(end), now)
		if end.IsZero() {
			st.Why = "Its time had passed before it was published, so it never shows."
		}
	}
	return st
}

func (s *Site) pagesStep(i int32, p page) Step {
	n := &s.notices[i]
	path := p.Path
	o := n.pages.Test(p.Subject)
	st := Step{Gate: GatePages, Rule: "P1", Passed: o.Shows, Saw: map[string]string{"path": path}, Pointer: "/pages"}
	if n.GetState() == bundle.Published { // only those are in the index
		st.Passed = s.takes(p, i)
	}
	c := n.GetPages()
	switch {
	case path == "":
		st.Passed, st.Pointer, st.Why = false, "", "This address is not that of a page."
	case o.Shows && n.spots != nil && len(n.spotsOn(p.Subject)) == 0:
		st.Rule, st.Passed, st.Pointer = "B1", false, "/spots"
		st.Why = fmt.Sprintf("None of its spots is for this page, %s.", path)
	case o.Shows:
		st.Why = fmt.Sprintf("This page, %s, is among its pages: %s.", path, c.Include[o.Include])
		st.Pointer = fmt.Sprintf("/pages/include/%d", o.Include)
	case o.IncludeCount == 0:
		st.Why = "No pages are chosen yet, so it appears nowhere."
	case o.Exclude >= 0:
		st.Why = fmt.Sprintf("It leaves out %s, so it is not on %s.", c.Exclude[o.Exclude], path)
		st.Pointer = fmt.Sprintf("/pages/exclude/%d", o.Exclude)
	default:
		st.Why = fmt.Sprintf("This page, %s, is not among its pages.", path)
	}
	return st
}

func (s *Site) audienceStep(i int32, e *evaluation) Step {
	n := &s.notices[i]
	st := Step{Gate: GateAudience, Rule: "A1", Passed: true, Pointer: "/audience", Why: "It is for everyone."}
	if n.audience.Everyone() {
		if n.Audience != nil && len(n.Audience.Parts) > 0 {
			st.Rule, st.Why = "A2", "It is for everyone: all its conditions are set aside."
		}
		return st
	}
	answer, _ := s.audienceGate(i, e)
	st.Parts = n.audience.Explain(e.facts())
	st.Passed, st.Waits = answer == audience.True, answer == audience.NotYet
	settled := false
	// The part that settles it: the first condition that answers as the whole does.
	for _, part := range st.Parts {
		if part.Group == "" && part.Answer == answer.String() {
			st.Why, st.Pointer, settled = part.Why, "/audience"+part.Pointer, true
			break
		}
	}
	phrase := n.audience.Phrase()
	switch answer {
	case audience.True:
		st.Why = "It is for " + phrase + ", this visitor among them."
	case audience.False:
		if !settled {
			st.Why = "It is for " + phrase + ", not for this visitor."
		}
	default:
		st.Rule = "A5"
	}
	return st
}

// noStorageStep is the memory gate where the visitor's browser keeps nothing.
func (s *Site) noStorageStep() Step {
	st := Step{
		Gate: GateMemory,
		Rule: "M5",
		Why:  "This visitor’s browser keeps nothing; there the site shows only emergencies.",
	}
	if s.bundle.Site.NoStorage == bundle.StorageWarnings {
		st.Why = "This visitor’s browser keeps nothing; there the site shows only warnings and emergencies."
	}
	return st
}

var actWords = map[string]string{
	"closed":    "closed it",
	"clicked":   "followed its link",
	"converted": "reached its goal",
	"answered":  "answered it",
}

func (n *notice) memoryStep(c *candidate, e *evaluation) Step {
	st := Step{
		Gate:    GateMemory,
		Rule:    "M1",
		Passed:  true,
		Pointer: "/memory",
		Why:     "Nothing that this visitor did keeps it away.",
	}
	acts := e.visit.Memory.Notices[n.ID]
	say := func(t time.Time) string { return moment.Say(t, e.visit.At, e.zone()) }
	away, a := n.memoryGate(c, e)
	switch {
	case n.GetLevel() == bundle.Emergency:
		st.Rule, st.Passed = "M4", !away
		switch {
		case away:
			st.Pointer, st.Saw = "/level", map[string]string{"closed": say(acts.Closed)}
			st.Why = fmt.Sprintf(
				"This visitor closed it %s, on this page view. An emergency is back on the next, or once it is updated.",
				say(acts.Closed),
			)
		default:
			st.Why = "An emergency shows whatever this visitor did before."
		}
	case !away && !acts.Closed.IsZero():
		st.Saw = map[string]string{"closed": say(acts.Closed)}
		st.Why = fmt.Sprintf("This visitor closed it %s; that no longer counts.", say(acts.Closed))
	case !away && len(n.limits) > 0:
		st.Rule, st.Why = "M2", "It has not been shown to this visitor too often."
	case !away:
	case a.act != nil:
		st.Passed, st.Pointer = false, "/memory/"+a.act.name
		st.Saw = map[string]string{a.act.name: say(a.actedAt)}
		st.Why = fmt.Sprintf(
			"This visitor %s %s; it stays away %s", actWords[a.act.name], say(a.actedAt), moment.Period(a.act.period),
		)
		if !a.until.IsZero() {
			st.Why += ", until " + say(a.until)
		}
		st.Why += "."
	default:
		st.Passed, st.Rule, st.Pointer = false, "M2", "/memory/limits"
		st.Saw = map[string]string{"shown": fmt.Sprint(a.shown)}
		per := "on this visit"
		if !a.limit.session {
			per = "in " + strings.TrimPrefix(moment.Period(a.limit.per), "for ")
		}
		st.Why = fmt.Sprintf(
			"This visitor has seen it %s; the limit is %s %s", moment.Times(a.shown), moment.Times(a.limit.times), per,
		)
		if !a.until.IsZero() {
			st.Why += ". It can come again " + say(a.until)
		}
		st.Why += "."
	}
	return st
}

// slotStep says who has the place. d is the decision on the same visit; yields is
// whether the notice waits for an open consent question.
func (s *Site) slotStep(n *notice, d Decision, shows, yields bool) Step {
	st := Step{Gate: GateSlot, Rule: "D2", Passed: shows, Pointer: "/slot"}
	where := n.slot.Where(s.bundle.Site.Language)
	if shows {
		st.Why = fmt.Sprintf("There is room for it %s.", where)
		return st
	}
	if yields {
		st.Rule, st.Why = "D4", "It waits until the consent question is answered."
		return st
	}
	var names []string
	var first *notice
	for _, sh := range d.Show {
		if sh.Slot.Shared() != n.slot.Shared() {
			continue
		}
		for i := range s.notices {
			if s.notices[i].ID == sh.ID {
				names = append(names, "“"+s.notices[i].GetTitle()+"”")
				first = &s.notices[i]
			}
		}
	}
	capacity := s.bundle.Site.SlotCapacity(n.slot)
	st.Saw = map[string]string{"capacity": fmt.Sprint(capacity), "taken by": strings.Join(names, ", ")}
	if first == nil {
		st.Why = fmt.Sprintf("The site allows no notice %s.", where)
		return st
	}
	st.Why = fmt.Sprintf(
		"There is room for %s %s, and %s took the place: %s.", moment.Count(capacity, "notice"), where,
		strings.Join(names, " and "), precedence(first.Notice, n.Notice),
	)
	return st
}

// precedence says by which part of rule D1 the first of two rivals goes before the second.
func precedence(a, b bundle.Notice) string {
	switch {
	case strength(a) != strength(b) && a.Kind == bundle.KindConsent && a.GetLevel() != bundle.Emergency:
		return "a question of consent comes before all but emergencies"
	case a.GetLevel() != b.GetLevel():
		return fmt.Sprintf("%s comes before %s", a.GetLevel(), b.GetLevel())
	case a.GetRank() != b.GetRank():
		return fmt.Sprintf("rank %d comes before %d", a.GetRank(), b.GetRank())
	case !a.GetPublishedAt().Equal(b.GetPublishedAt()):
		return "it was published later"
	}
	return fmt.Sprintf("with all else equal their ids decide, “%s” before “%s”", a.ID, b.ID)
}
