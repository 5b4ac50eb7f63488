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
	out := &demand{as: n.AcknowledgementKey(), period: d.GetValidFor()}
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

// answerStatus is how a visitor stands to a demand.
type answerStatus struct {
	holds bool
	// Something was acknowledged once; of which version, and when.
	given   bool
	version int
	at      time.Time
	// It was of an earlier text, or dated in the future, or has run out.
	outdated, future, expired bool
	until                     time.Time // zero if that is no instant
}

// status weighs what a visitor remembers against the demand (rule T7).
func (d *demand) status(e *evaluation) answerStatus {
	a, ok := e.visit.Memory.Acknowledged[d.as]
	if !ok || a.At.IsZero() {
		return answerStatus{}
	}
	status := answerStatus{given: true, version: a.Version, at: a.At}
	now := e.visit.At
	switch {
	case a.At.After(now.Add(consent.ClockSkew)):
		status.future = true
	case d.mark != "" && a.Of != d.mark || d.mark == "" && (a.Version < max(d.material, 1) || a.Version > d.version):
		status.outdated = true
	case d.period == bundle.PeriodPage:
		status.expired = e.visit.Memory.View.IsZero() || a.At.Before(e.visit.Memory.View)
	case d.period == bundle.PeriodSession:
		status.expired = e.visit.Memory.Session.IsZero() || a.At.Before(e.visit.Memory.Session)
	case d.period != bundle.PeriodEver:
		status.until = d.span.After(a.At, e.zone())
		status.expired = !now.Before(status.until)
	}
	status.holds = !status.future && !status.outdated && !status.expired
	return status
}

// HasDisclaimer reports whether the page at an address carries a published disclaimer
// that has to be answered, whether it still is by this visitor or not.
func (s *Site) HasDisclaimer(address string) bool {
	if len(s.demands) == 0 {
		return false
	}
	p, ok := s.pageAt(address)
	return ok && slices.ContainsFunc(s.demands, func(i int32) bool { return s.takes(p, i) })
}

// disclaimerStep is the memory gate of a disclaimer that demands an answer.
func (n *notice) disclaimerStep(e *evaluation) Step {
	d := n.demand
	asks, status := n.demandGate(e)
	st := Step{Gate: GateMemory, Rule: "T7", Passed: asks, Pointer: "/content/disclaimer"}
	say := func(t time.Time) string { return moment.Say(t, e.visit.At, e.zone()) }
	what := "it"
	if d.title != "" {
		what = fmt.Sprintf("version %d of “%s”", status.version, d.title)
	}
	if status.given {
		st.Saw = map[string]string{"acknowledged": say(status.at)}
		if d.title != "" {
			st.Saw["version"], st.Saw["material"] = fmt.Sprint(status.version), fmt.Sprint(d.material)
		}
	}
	switch {
	case status.holds:
		st.Why = fmt.Sprintf("This visitor acknowledged %s %s, and that holds", what, say(status.at))
		if !status.until.IsZero() {
			st.Why += " until " + say(status.until)
		}
		st.Why += "."
	case !status.given:
		st.Why = "This visitor has not acknowledged it yet."
	case status.future:
		st.Why = "What this visitor acknowledged is dated in the future, and does not count."
	case status.outdated && status.version > d.version:
		st.Why = fmt.Sprintf("This visitor acknowledged %s %s, which is not out.", what, say(status.at))
	case status.outdated && d.title != "":
		st.Why = fmt.Sprintf(
			"This visitor acknowledged %s %s; version %d changed what it says.",
			what,
			say(status.at),
			d.material,
		)
	case status.outdated:
		st.Why = fmt.Sprintf("This visitor acknowledged it %s; its text has changed since.", say(status.at))
	default:
		st.Why = fmt.Sprintf("This visitor acknowledged %s %s; that held %s.", what, say(status.at), moment.Period(d.period))
	}
	return st
}
