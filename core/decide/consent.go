package decide

import (
	"time"

	"mastflag/core/bundle"
	"mastflag/core/consent"
)

// consentOf returns what holds for a visitor, and when that changes, in
// microseconds since 1970; nil where none of the site's consent notices is
// live, on whatever page.
func (s *Site) consentOf(r *reading, now int64) (*consent.State, int64) {
	next, live := int64(never), false
	for _, i := range s.consents {
		live = s.live(i, r, now, &next) || live
	}
	if !live {
		return nil, next
	}
	answer := r.visit.Memory.Consent
	if given, ok := r.visit.Facts["consent.granted"]; ok && answer.At.IsZero() {
		answer = s.consent.Given(texts(given), r.visit.At) // as a viewpoint has it, which remembers nothing
	}
	state := s.consent.At(consent.Visitor{At: r.visit.At, Zone: r.zone(), Country: r.visit.text("place.country"), Region: r.visit.text("place.region"),
		Signal: r.visit.text("consent.signal") != "", Answer: answer, Again: r.visit.Again})
	if !state.Until.IsZero() {
		next = min(next, state.Until.UnixMicro())
	}
	r.consent = &state
	return r.consent, next
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

// consented is the gate of a notice that asks for consent: what its place
// wants (rule K1), and whether an answer holds (rule K2). kept is false where
// it shows.
func (n *notice) consented(state *consent.State) (st Step, kept bool) {
	if n.Kind != bundle.KindConsent || state == nil {
		return Step{}, false
	}
	st = Step{Gate: GateMemory, Rule: state.By, Passed: state.Shows, Saw: map[string]string{"place": state.Place, "rule": string(state.Rule)}, Pointer: "/content/consent", Why: state.Why}
	if state.By == "K1" {
		st.Gate, st.Pointer = GateAudience, ""
	}
	if !state.Until.IsZero() {
		st.Saw["until"] = state.Until.UTC().Format(time.RFC3339)
	}
	return st, !state.Shows
}

// Consent returns the rules by which the site's answers are weighed.
func (s *Site) Consent() consent.Compiled { return s.consent }

// Asks returns the id of the notice that asks for consent, the strongest of
// several; "" if none does.
func (s *Site) Asks() string {
	if len(s.consents) == 0 {
		return ""
	}
	return s.notices[s.consents[0]].ID
}
