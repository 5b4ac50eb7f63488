package decide

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/countdown"
)

// ErrNoBlock says that a site has no notice of an id, or none that is published.
var ErrNoBlock = errors.New("there is no such block")

// A DependsOnVisitor error refuses to answer for everyone what is different from
// visitor to visitor, with the reason as a clause.
type DependsOnVisitor string

func (d DependsOnVisitor) Error() string { return string(d) }

// An Inclusion is what holds of a block on a page for everyone.
type Inclusion struct {
	// It stands there now.
	Shows bool
	// When that changes next by its time; zero if never.
	Until time.Time
	// Language of the page.
	Language string
}

// Include answers a block for a page without any visitor (rule B6), as server-side
// includes and static builders ask for it: by the same schedule and page conditions
// as Decide. The error is ErrNoBlock, or DependsOnVisitor.
func (s *Site) Include(id, address string, at time.Time) (Inclusion, error) {
	i, ok := s.ids[id]
	if !ok || s.notices[i].GetState() != bundle.Published {
		return Inclusion{}, ErrNoBlock
	}
	n := &s.notices[i]
	if why := n.visitorDependence(); why != "" {
		return Inclusion{}, DependsOnVisitor(why)
	}
	p, ok := s.pageAt(address)
	if !ok {
		return Inclusion{}, fmt.Errorf("%q is not the path of a page", address)
	}
	live, change := n.schedule.At(at, s.zone)
	in := Inclusion{Until: change, Language: p.Language}
	in.Shows = s.displays && live && s.takes(p, i)
	return in, nil
}

// visitorDependence says what of a notice depends on who visits, "" if nothing does.
func (n *notice) visitorDependence() string {
	_, demands := n.Disclaimer()
	switch {
	case n.Kind != bundle.KindBlock || n.slot != bundle.Inline:
		return "only blocks stand in the page for everyone"
	case demands:
		return "it is a disclaimer"
	case !n.audience.Everyone():
		return "it is for " + n.audience.Phrase() + " alone"
	case n.schedule.Floating():
		return "its times are on each visitor’s own clock"
	case n.dependsOnVisit || n.count != nil && n.count.Kind == countdown.Visitor:
		return "its countdown is each visitor’s own"
	case n.Closable():
		return "visitors can close it"
	case slices.ContainsFunc(n.Parts(), func(p bundle.Part) bool { return p.Kind == bundle.PartQuestion }):
		return "it asks a question, and the site script takes the answers"
	case n.HasForm():
		return "it has a form, and the site script takes what is filled in"
	case slices.ContainsFunc(n.Parts(), func(p bundle.Part) bool { return p.Kind == bundle.PartVideo }):
		return "it has a video, which the site script plays"
	case slices.ContainsFunc(n.Parts(), func(p bundle.Part) bool {
		return slices.ContainsFunc(p.Contact, func(l bundle.ContactLine) bool { return l.When != "" })
	}):
		return "what it offers depends on the hour"
	case n.Experiment.Compares():
		return "chance decides which variant of it a visitor gets, if any"
	case slices.ContainsFunc(
		n.GetMemory().Acts(), func(a bundle.ActPeriod) bool { return a.Name != "closed" && a.Period != "" },
	):
		return "it stays away from visitors by what they did with it"
	case len(n.limits) > 0:
		return "it is shown to each visitor only so often"
	}
	return ""
}
