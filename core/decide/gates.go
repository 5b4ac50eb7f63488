package decide

import (
	"time"

	"mastflag/core/audience"
	"mastflag/core/consent"
)

// Each gate is asked in one function, which decides and has no words: Decide stops
// at the first that keeps a notice away, Explain asks all and says why. A gate that
// Decide has no time to ask of every notice (state, pages) is answered by the index
// of compiled conditions, which takes answers from.

// timeGate reports whether the notice at an index is within its time, its own
// countdown and what hands over to it included where they are the same for everyone
// (rules S1 to S7, C4), and when that changes, in microseconds since 1970; never if
// it does not.
func (s *Site) timeGate(i int32, e *evaluation, now int64) (live bool, change int64) {
	if s.candidates[i].needsSchedule {
		return s.notices[i].scheduleTime(e)
	}
	return s.candidates[i].simpleTime(now)
}

// simpleTime is timeGate of a notice with one stretch of time.
func (c *candidate) simpleTime(now int64) (live bool, change int64) {
	if now < c.from {
		return false, c.from
	}
	if now < c.until {
		return true, c.until
	}
	return false, never
}

// scheduleTime is timeGate of any notice.
func (n *notice) scheduleTime(e *evaluation) (live bool, change int64) {
	live, next := n.schedule.At(e.visit.At, e.zone())
	if next.IsZero() {
		return live, never
	}
	return live, next.UnixMicro()
}

// A release is how a notice stands to the countdowns that only the visit can tell
// of: its own and those that hand over to it.
type release struct {
	// The notice whose countdown keeps it away, itself or one before it; nil if none does.
	blocker *notice
	// When that changes; zero if it does not, or if nobody can know.
	next time.Time
}

// countdownGate asks a notice's countdowns of the visit (rule C4).
func (s *Site) countdownGate(n *notice, e *evaluation) (r release) {
	now := e.visit.At
	sooner := func(t time.Time) {
		if t.After(now) && (r.next.IsZero() || t.Before(r.next)) {
			r.next = t
		}
	}
	ended := func(over time.Time) bool { return !over.IsZero() && !now.Before(over) }
	for _, i := range n.predecessors {
		predecessor := &s.notices[i]
		r.blocker = predecessor
		if !predecessor.begun(e) {
			continue
		}
		over := predecessor.over(e)
		if ended(over) {
			r.blocker = nil
			break
		}
		sooner(over)
	}
	if r.blocker != nil || n.count == nil || !n.count.Leaves() {
		return r
	}
	over := n.over(e)
	if ended(over) {
		return release{blocker: n}
	}
	sooner(over)
	return r
}

// audienceGate asks whether the visitor is in the audience of the notice at an index
// (rules A1 to A6). Where the answer is not yet, remainder is what it waits for.
func (s *Site) audienceGate(i int32, e *evaluation) (answer audience.Truth, remainder *audience.Node) {
	switch c := &s.candidates[i]; {
	case c.everyone:
		return audience.True, nil
	case c.deferred:
		return s.notices[i].audience.Decide(e.facts())
	case e.facts().Run(c.program):
		return audience.True, nil
	}
	return audience.False, nil
}

// consentGate reports whether a notice that asks for consent asks this visitor now;
// true for any other (rules K1 and K2).
func (c *candidate) consentGate(state *consent.State) bool {
	return !c.asksConsent || state != nil && state.Shows
}

// demandGate reports whether a disclaimer that has to be answered still is; true for
// any other notice (rule T7).
func (n *notice) demandGate(e *evaluation) (asks bool, status answerStatus) {
	if n.demand == nil {
		return true, answerStatus{}
	}
	status = n.demand.status(e)
	return !status.holds, status
}

// purposesGate reports whether all purposes that code names are agreed to; true of
// what names none (rule B7).
func (n *notice) purposesGate(state *consent.State) bool { return n.missingPurpose(state) == "" }

// storageGate reports whether a notice shows where the visitor's browser keeps
// nothing, as far as that matters for the visit (rule M5). Whoever asks for the consent
// question gets it.
func (c *candidate) storageGate(e *evaluation) bool {
	return !e.visit.Memory.NoStorage || !c.needsStorage || c.asksConsent && e.visit.Again
}

// memoryGate reports whether what the visitor did or has seen keeps the notice away,
// and why. Whoever asks for the consent question gets it.
func (n *notice) memoryGate(c *candidate, e *evaluation) (away bool, why absence) {
	if c.asksConsent && e.visit.Again {
		return false, absence{}
	}
	return n.keptAway(e)
}
