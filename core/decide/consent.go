package decide

import (
	"time"

	"mastflag/core/consent"
)

// consentOf returns what holds for a visitor, and when that changes, in
// microseconds since 1970; nil where none of the site's consent notices is
// live, on whatever page.
func (s *Site) consentOf(e *evaluation, now int64) (*consent.State, int64) {
	next, live := int64(never), false
	for _, i := range s.consents {
		asks, change := s.timeGate(i, e, now)
		live, next = live || asks, min(next, change)
	}
	if !live {
		return nil, next
	}
	state := s.consent.At(e.consentVisitor())
	if !state.Until.IsZero() {
		next = min(next, state.Until.UnixMicro())
	}
	e.consent = &state
	return e.consent, next
}

// consentVisitor is the visitor as their consent is weighed.
func (e *evaluation) consentVisitor() consent.Visitor {
	answer := e.visit.Memory.Consent
	if given, ok := e.visit.Facts["consent.granted"]; ok && answer.At.IsZero() {
		answer = e.site.consent.Given(texts(given), e.visit.At) // as a viewpoint has it, which remembers nothing
	}
	return consent.Visitor{
		At:      e.visit.At,
		Zone:    e.zone(),
		Country: e.visit.text("place.country"),
		Region:  e.visit.text("place.region"),
		Signal:  e.visit.text("consent.signal") != "",
		Answer:  answer,
		Again:   e.visit.Again,
	}
}

// texts returns the members of a fact that is a set, as a visit gives it.
func texts(v any) (out []string) {
	switch v := v.(type) {
	case []string:
		return v
	case []any:
		for _, x := range v {
			if s, ok := x.(string); ok {
				out = append(out, s)
			}
		}
	}
	return out
}

// text returns a fact of a visit that is a text; "" if it is none.
func (v Visit) text(fact string) string {
	s, _ := v.Facts[fact].(string)
	return s
}

// consentStep is the gate of a notice that asks for consent: what its place
// wants (rule K1), and whether an answer holds (rule K2).
func (n *notice) consentStep(c *candidate, state *consent.State) Step {
	st := Step{
		Gate: GateMemory, Rule: state.By, Passed: c.consentGate(state), Pointer: "/content/consent", Why: state.Why,
		Saw: map[string]string{"place": state.Place, "rule": string(state.Rule)},
	}
	if state.By == "K1" {
		st.Gate, st.Pointer = GateAudience, ""
	}
	if !state.Until.IsZero() {
		st.Saw["until"] = state.Until.UTC().Format(time.RFC3339)
	}
	return st
}

// Consent returns the rules by which the site's answers are weighed.
func (s *Site) Consent() consent.Compiled { return s.consent }

// ConsentNotice returns the id of the notice that asks for consent, the strongest of
// several; "" if none does.
func (s *Site) ConsentNotice() string {
	if len(s.consents) == 0 {
		return ""
	}
	return s.notices[s.consents[0]].ID
}
