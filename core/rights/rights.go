// Package rights decides who may do what: by their role, and, of a notice, by what it was before
// and what it is after. It is the one place where that is decided.
package rights

import (
	"fmt"
	"reflect"
	"slices"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/pages"
)

// Roles, each of which may do what the ones before it may.
const (
	Viewer        = "viewer"        // sees everything, changes nothing
	Editor        = "editor"        // writes and publishes notices
	Administrator = "administrator" // sets up sites, and says who may work here
)

// Roles is every role, in order.
var Roles = []string{Viewer, Editor, Administrator}

// May reports whether a person of a role may do what needs another.
func May(role, needs string) bool {
	return slices.Contains(Roles, role) && slices.Index(Roles, role) >= slices.Index(Roles, needs)
}

// A Person is what somebody may do.
type Person struct {
	Role string
	// An editor may see what visitors filled in; an administrator may in any case.
	Contacts bool
}

// MaySeeContacts reports whether a person may see what visitors filled in (rule F4).
func (p Person) MaySeeContacts() bool {
	return p.Role == Administrator || p.Role == Editor && p.Contacts
}

// A Notice is what rights to a notice depend on. The zero value is one that there is not yet.
type Notice struct {
	State            bundle.State
	Published, Draft *bundle.Notice // nil if there is none
	Deleted          bool
}

// Texts are those that the notice has: what is out, and the draft.
func (n Notice) Texts() (out []bundle.Notice) {
	for _, text := range []*bundle.Notice{n.Published, n.Draft} {
		if text != nil {
			out = append(out, *text)
		}
	}
	return out
}

// IsCode reports whether a text of the notice puts code into pages.
func (n Notice) IsCode() bool {
	return slices.ContainsFunc(n.Texts(), func(text bundle.Notice) bool {
		return text.Kind == bundle.KindCode || text.Content != nil && text.Content.Code != nil
	})
}

// title is what the notice is called: in the draft, or else in what is out.
func (n Notice) title() (title string) {
	for _, text := range n.Texts() {
		title = text.GetTitle()
	}
	return title
}

// A Refusal says in words that a person may not do something: in short, and what to do instead.
type Refusal struct{ What, Remedy string }

func (r Refusal) Error() string { return r.What }

// MayChange returns a Refusal if a person may not change a notice so, whatever way it is changed by;
// nil if they may.
//
//   - Code that runs on pages belongs to administrators (rule B7). Others may make it less: pause
//     it, unpublish it, delete it, drop its draft, and take it off pages.
//   - Where contacts go, and that an address is confirmed first, belongs to those who may see
//     contacts (rule F4).
func MayChange(p Person, before, after Notice) error {
	if err := mayCode(p, before, after); err != nil {
		return err
	}
	return mayPassOn(p, before, after)
}

// MayAdd is MayChange of a new notice, made from the text of another or of a starting point, nil if
// from none: that where contacts go stood in that text is enough, that its code did is not.
func MayAdd(p Person, from *bundle.Notice, text bundle.Notice) error {
	added := Notice{State: bundle.Draft, Draft: &text}
	if err := mayCode(p, Notice{}, added); err != nil {
		return err
	}
	return mayPassOn(p, Notice{Draft: from}, added)
}

func mayCode(p Person, before, after Notice) error {
	if p.Role == Administrator || !before.IsCode() && !after.IsCode() || isLess(before, after) {
		return nil
	}
	return Refusal{
		"Administrators write code",
		fmt.Sprintf("“%s” puts code into pages, and only administrators write or publish that. You can pause it, "+
			"unpublish it, or take it off a page.", after.title()),
	}
}

func mayPassOn(p Person, before, after Notice) error {
	if p.MaySeeContacts() || !slices.ContainsFunc(
		after.Texts(), func(text bundle.Notice) bool { return !sendsAsBefore(before, text) },
	) {
		return nil
	}
	return Refusal{
		"Contacts are not for you",
		"Where contacts go, and whether an address is confirmed first, is up to people who may see contacts. Ask an " +
			"administrator: Site, People.",
	}
}

// MayChangeSite returns a Refusal if a person may not change what a site keeps for its notices:
// starting points with code, or that pass contacts on, as MayChange has it; and a page set or an
// audience that decides where code runs, or for whom. notices are all of the site.
func MayChangeSite(p Person, before, after bundle.Site, notices []Notice) error {
	for _, point := range after.StartingPoints {
		was := Notice{State: bundle.Draft}
		i := slices.IndexFunc(before.StartingPoints, func(s bundle.StartingPoint) bool { return s.Name == point.Name })
		if i >= 0 {
			was.Draft = &before.StartingPoints[i].Notice
		}
		if err := MayChange(p, was, Notice{State: bundle.Draft, Draft: &point.Notice}); err != nil {
			return err
		}
	}
	if p.Role == Administrator {
		return nil
	}
	for _, s := range before.PageSets {
		if slices.ContainsFunc(after.PageSets, func(t pages.SavedSet) bool { return reflect.DeepEqual(s, t) }) {
			continue
		}
		if err := decidesNoCode(
			"The page set", s.Name, notices, func(text bundle.Notice) bool { return text.UsesSet(s.Name) },
		); err != nil {
			return err
		}
	}
	for _, s := range before.Audiences {
		if slices.ContainsFunc(after.Audiences, func(t audience.SavedAudience) bool { return reflect.DeepEqual(s, t) }) {
			continue
		}
		if err := decidesNoCode(
			"The audience", s.Name, notices, func(text bundle.Notice) bool { return text.GetAudience().Uses(s.Name) },
		); err != nil {
			return err
		}
	}
	return nil
}

// decidesNoCode refuses to change something of a site that a notice with code uses.
func decidesNoCode(what, name string, notices []Notice, uses func(bundle.Notice) bool) error {
	for _, n := range notices {
		if n.IsCode() && slices.ContainsFunc(n.Texts(), uses) {
			return Refusal{
				"Administrators decide where code runs",
				fmt.Sprintf("%s “%s” decides where the code “%s” runs. Ask an administrator to change it, or keep yours under "+
					"another name.", what, name, n.title()),
			}
		}
	}
	return nil
}

// states are those of a notice, each further out than the one before.
var states = []bundle.State{bundle.Draft, bundle.Paused, bundle.Published}

// isLess reports whether a notice says nothing that it did not say before, on no page more, and
// is no further out.
func isLess(before, after Notice) bool {
	if before.Deleted && !after.Deleted || slices.Index(states, after.State) > slices.Index(states, before.State) {
		return false
	}
	if after.Published != nil && (before.Published == nil || !isNarrower(*before.Published, *after.Published)) {
		return false
	}
	return after.Draft == nil ||
		slices.ContainsFunc(before.Texts(), func(text bundle.Notice) bool { return isNarrower(text, *after.Draft) })
}

// isNarrower reports whether two texts differ at most in that the second includes fewer pages, or
// excludes more.
func isNarrower(before, after bundle.Notice) bool {
	was, is := before.GetPages(), after.GetPages()
	within := func(less, more []pages.Entry) bool {
		return !slices.ContainsFunc(less, func(e pages.Entry) bool {
			return !slices.ContainsFunc(more, func(m pages.Entry) bool { return reflect.DeepEqual(e, m) })
		})
	}
	if !within(is.Include, was.Include) || !within(was.Exclude, is.Exclude) {
		return false
	}
	before.Pages, after.Pages, before.ID, after.ID = nil, nil, "", ""
	return bundle.SameText(before, after)
}

// sendsAsBefore reports whether a text passes contacts on to the addresses of a text before it, or
// to none, and confirms as that does. Where there was no form, none is passed on.
func sendsAsBefore(before Notice, text bundle.Notice) bool {
	is, forms := text.Form(), 0
	for _, b := range before.Texts() {
		was := b.Form()
		if !b.HasForm() && len(was.PassOn) == 0 {
			continue
		}
		forms++
		if (len(is.PassOn) == 0 || slices.Equal(is.PassOn, was.PassOn)) &&
			(was.Confirm == "" || is.Confirm == was.Confirm || !text.HasForm()) {
			return true
		}
	}
	return forms == 0 && len(is.PassOn) == 0
}
