package decide

import (
	"fmt"
	"slices"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/draw"
	"mastflag/core/pages"
)

// experiment is how visitors of a notice are told apart, compiled (rules E3 to E5).
type experiment struct {
	holdout  int      // per cent
	variants []string // ids
	weights  []int
}

// compileExperiment returns nil where nobody is told apart.
func compileExperiment(n bundle.Notice) *experiment {
	if !n.Experiment.Compares() {
		return nil
	}
	x := &experiment{holdout: n.Experiment.Holdout}
	for _, v := range n.Experiment.Variants {
		x.variants, x.weights = append(x.variants, v.ID), append(x.weights, v.GetWeight())
	}
	return x
}

// Published returns how many notices are published.
func (s *Site) Published() int { return s.published }

// Draws reports whether any published notice tells visitors apart by chance.
func (s *Site) Draws() bool { return s.draws }

// mayMeasure reports whether the visitor's browser may keep a draw, and what else helps to count
// (rule E8).
func (s *Site) mayMeasure(e *evaluation) bool {
	if e.visit.Memory.NoStorage {
		return false
	}
	purpose := s.bundle.Site.ExperimentPurpose()
	state := e.consent
	if state == nil { // nothing asks now; what was answered before still counts
		visitor := e.consentVisitor()
		if visitor.Answer.At.IsZero() && s.consent.Place(visitor.Country, visitor.Region).Rule == consent.OptIn {
			return false
		}
		now := s.consent.At(visitor)
		state = &now
	}
	if slices.Contains(state.Granted, purpose) {
		return true
	}
	return state.Rule != consent.OptIn && !slices.Contains(s.consent.Asked(), purpose)
}

// unasked reports whether the site asks nobody about anything, and the visitor's place is not
// known either: there a draw that exists was made where it may be.
func (e *evaluation) unasked() bool {
	return len(e.site.consent.Asked()) == 0 && e.visit.text("place.country") == "" && !e.visit.Memory.NoStorage
}

// draw returns the draw of the visit, "" where there is none or it must not be used.
func (e *evaluation) draw() draw.Draw {
	if !e.drawKnown {
		e.drawKnown = true
		if e.drawn = e.visit.Memory.Draw; e.drawn != "" && !e.site.mayMeasure(e) && !e.unasked() {
			e.drawn = ""
		}
	}
	return e.drawn
}

// holdoutGate reports whether a notice is kept from this visitor for comparison (rule E5).
func (n *notice) holdoutGate(e *evaluation) (heldOut bool) {
	return n.experiment != nil && n.experiment.holdout > 0 && e.draw() != "" &&
		e.draw().HeldOut(e.site.bundle.Site.Key, n.ID, n.experiment.holdout)
}

// variant returns the id of the variant that the visitor gets; "" where there are none. Who has
// no draw gets the first.
func (n *notice) variant(e *evaluation) string {
	switch {
	case n.experiment == nil || len(n.experiment.variants) == 0:
		return ""
	case e.draw() == "":
		return n.experiment.variants[0]
	}
	return n.experiment.variants[e.draw().Variant(e.site.bundle.Site.Key, n.ID, n.experiment.weights)]
}

// holdoutStep is the gate of those who are held out, with the variant of those who are not.
func (s *Site) holdoutStep(n *notice, e *evaluation) Step {
	st := Step{Gate: GateHoldout, Rule: "G3", Passed: true, Why: "No visitors are held out of it."}
	x := n.experiment
	if x == nil {
		return st
	}
	st.Pointer = "/experiment"
	if x.holdout > 0 {
		st.Why = fmt.Sprintf("Visitors are held out of it by chance, %d %%, and this one is not among them", x.holdout)
	} else {
		st.Why = "No visitors are held out of it"
	}
	variant := n.variant(e)
	if variant != "" {
		st.Saw = map[string]string{"variant": variant}
	}
	name := "“" + n.Experiment.VariantNames()[variant] + "”"
	switch {
	case n.holdoutGate(e):
		st.Passed, st.Saw = false, map[string]string{"held out": fmt.Sprintf("%d %%", x.holdout)}
		st.Why = fmt.Sprintf(
			"This visitor is among the %d %% who never see it, so that what it brings about can be compared", x.holdout,
		)
	case e.draw() != "" && variant != "":
		st.Rule = "E4"
		st.Why += "; by their draw they get variant " + name
	case e.draw() != "":
	case e.visit.Memory.Draw != "":
		st.Rule = "E8"
		st.Why = fmt.Sprintf(
			"The visitor is in no experiment: “%s” is not agreed to, so their draw does not count",
			s.bundle.Site.ExperimentPurpose(),
		)
	default:
		st.Rule = "E8"
		st.Why = "The visitor is in no experiment: their browser has no draw"
	}
	if st.Rule == "E8" && variant != "" {
		st.Why += "; they get the first variant, " + name
	}
	st.Why += "."
	return st
}

// A goalPages is the pages that are a notice's goal.
type goalPages struct {
	id    string
	pages pages.Set
}

// GoalsOn returns the ids of the published notices whose goal the page at an address is.
func (s *Site) GoalsOn(address string) (ids []string) {
	if len(s.goals) == 0 {
		return nil
	}
	p, _, ok := s.knownPage(address)
	if !ok {
		return nil
	}
	for _, g := range s.goals {
		if g.pages.Test(p.Subject).Shows {
			ids = append(ids, g.id)
		}
	}
	return ids
}

// KnownPath returns the path, in normal form, of the page at an address; ok is false if the site
// has no such page.
func (s *Site) KnownPath(address string) (path string, ok bool) {
	p, listed, ok := s.knownPage(address)
	return p.Path, ok && listed
}
