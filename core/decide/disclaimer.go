package decide

import (
	"fmt"
	"slices"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/document"
	"mastflag/core/fault"
	"mastflag/core/moment"
	"mastflag/core/schedule"
)

// demand is what a disclaimer that has to be acknowledged or declared asks for,
// compiled: an answer holds if it is of the material version or a later one, or
// of this text where it is about no document, and not too long ago (rule T7).
type demand struct {
	as       string // under which it is remembered
	title    string // of the document, "" if it stands for itself
	version  int    // that is out
	material int
	mark     string // of its own text
	period   bundle.Period
	span     schedule.Span // where the period is a duration
}

// compileDemand returns what a notice demands; nil if it is no disclaimer, or one
// that is only read.
func compileDemand(n bundle.Notice, site bundle.Site) (*demand, fault.Faults) {
	d, ok := n.Disclaimer()
	if !ok || !d.Answered() {
		return nil, nil
	}
	out := &demand{as: n.AcknowledgedAs(), period: d.GetHolds()}
	if d.Document == "" {
		out.mark = n.OwnMark(site.Language)
	} else if doc, ok := document.Get(site.Documents, d.Document); ok {
		out.title, out.version, out.material = doc.Title(site.Language, site.Language), doc.Version, doc.Material
	} else {
		out.title = d.Document
	}
	switch out.period {
	case bundle.PeriodEver, bundle.PeriodPage, bundle.PeriodSession:
		return out, nil
	}
	var err error
	if out.span, err = schedule.ParseSpan(string(out.period)); err != nil {
		return nil, fault.Faults{{Pointer: "/content/disclaimer/holds", What: err.Error()}}
	}
	return out, nil
}

// met is how a visitor stands to a demand.
type met struct {
	holds bool
	// Something was acknowledged once; of which version, and when.
	given   bool
	version int
	at      time.Time
	// It was of an earlier text, or dated in the future, or has run out.
	outdated, future, over bool
	until                  time.Time // zero if that is no instant
}

// met weighs what a visitor remembers against the demand (rule T7).
func (d *demand) met(r *reading) met {
	a, ok := r.visit.Memory.Acknowledged[d.as]
	if !ok || a.At.IsZero() {
		return met{}
	}
	m := met{given: true, version: a.Version, at: a.At}
	now := r.visit.At
	switch {
	case a.At.After(now.Add(consent.ClockSkew)):
		m.future = true
	case d.mark != "" && a.Of != d.mark || d.mark == "" && (a.Version < max(d.material, 1) || a.Version > d.version):
		m.outdated = true
	case d.period == bundle.PeriodPage:
		m.over = r.visit.Memory.View.IsZero() || a.At.Before(r.visit.Memory.View)
	case d.period == bundle.PeriodSession:
		m.over = r.visit.Memory.Session.IsZero() || a.At.Before(r.visit.Memory.Session)
	case d.period != bundle.PeriodEver:
		m.until = d.span.After(a.At, r.zone())
		m.over = !now.Before(m.until)
	}
	m.holds = !m.future && !m.outdated && !m.over
	return m
}

// Demands reports whether the page at an address carries a published disclaimer
// that has to be answered, whether it still is by this visitor or not.
func (s *Site) Demands(address string) bool {
	if len(s.demands) == 0 {
		return false
	}
	p, ok := s.at(address)
	return ok && slices.ContainsFunc(s.demands, func(i int32) bool { return s.takes(p, i) })
}

// acknowledged is the memory gate of a disclaimer that demands an answer.
func (n *notice) acknowledged(r *reading) Step {
	d, m := n.demand, n.demand.met(r)
	st := Step{Gate: GateMemory, Rule: "T7", Passed: !m.holds, Pointer: "/content/disclaimer"}
	say := func(t time.Time) string { return moment.Say(t, r.visit.At, r.zone()) }
	what := "it"
	if d.title != "" {
		what = fmt.Sprintf("version %d of “%s”", m.version, d.title)
	}
	if m.given {
		st.Saw = map[string]string{"acknowledged": say(m.at)}
		if d.title != "" {
			st.Saw["version"], st.Saw["material"] = fmt.Sprint(m.version), fmt.Sprint(d.material)
		}
	}
	switch {
	case m.holds:
		st.Why = fmt.Sprintf("This visitor acknowledged %s %s, and that holds", what, say(m.at))
		if !m.until.IsZero() {
			st.Why += " until " + say(m.until)
		}
		st.Why += "."
	case !m.given:
		st.Why = "This visitor has not acknowledged it yet."
	case m.future:
		st.Why = "What this visitor acknowledged is dated in the future, and does not count."
	case m.outdated && m.version > d.version:
		st.Why = fmt.Sprintf("This visitor acknowledged %s %s, which is not out.", what, say(m.at))
	case m.outdated && d.title != "":
		st.Why = fmt.Sprintf(
			"This visitor acknowledged %s %s; version %d changed what it says.",
			what,
			say(m.at),
			d.material,
		)
	case m.outdated:
		st.Why = fmt.Sprintf("This visitor acknowledged it %s; its text has changed since.", say(m.at))
	default:
		st.Why = fmt.Sprintf("This visitor acknowledged %s %s; that held %s.", what, say(m.at), moment.Period(d.period))
	}
	return st
}
