package base

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"reflect"
	"slices"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/internal/access"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// Together has f write as the person of a call, all of it or nothing: refused where what they may
// do was changed since the call began, however long it took until here.
func (a *Base) Together(c *Call, f func(*store.Store) error) error {
	ctx := c.Request.Context()
	return a.Store.Together(ctx, func(st *store.Store) error {
		if err := c.unchanged(ctx, st); err != nil {
			return err
		}
		return f(st)
	})
}

// unchanged refuses a call whose person is gone, or may do other things than when it began.
func (c *Call) unchanged(ctx context.Context, st *store.Store) error {
	now, err := st.Person(ctx, c.Person.Email)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	if err == nil && now.Role == c.Person.Role && now.Contacts == c.Person.Contacts &&
		slices.Equal(now.Sites, c.Person.Sites) {
		return nil
	}
	return problem.Problem{
		Status: http.StatusForbidden,
		Title:  "You do not have permission",
		Detail: "What you may do was changed just now. Nothing of this was saved. Load the page again.",
	}
}

// ChangeNotice is store.Change by the person of a call: refused where they may not change it so
// (MayChange).
func (a *Base) ChangeNotice(
	c *Call, st *store.Store, id string, revision int, change func(n *store.Notice, next int) (store.Entry, error),
) (row store.Notice, err error) {
	ctx := c.Request.Context()
	err = st.Together(ctx, func(st *store.Store) error {
		if err := c.unchanged(ctx, st); err != nil {
			return err
		}
		row, err = st.Change(ctx, c.Site, id, revision, func(n *store.Notice, next int) (store.Entry, error) {
			before := *n
			entry, err := change(n, next)
			if err == nil {
				err = MayChange(c.Person, before, *n)
			}
			return entry, err
		})
		return err
	})
	return row, err
}

// AddNotice is store.AddNotice by the person of a call, of a notice made from a text, or from none:
// refused where they may not.
func (a *Base) AddNotice(c *Call, from *bundle.Notice, n bundle.Notice, e store.Entry) error {
	after := store.Notice{State: bundle.Draft, Draft: &n}
	if err := errors.Join(
		mayCode(c.Person, store.Notice{}, after), mayPassOn(c.Person, store.Notice{Draft: from}, after),
	); err != nil {
		return err
	}
	ctx := c.Request.Context()
	return a.Store.Together(ctx, func(st *store.Store) error {
		if err := c.unchanged(ctx, st); err != nil {
			return err
		}
		return st.AddNotice(ctx, c.Site, n, e)
	})
}

// MayChange decides, for every way in which a notice can be changed, whether a person may: by
// what it was before and what it is after, so that no way is forgotten. The error says what is
// refused.
//
//   - Code that runs on pages belongs to administrators (rule B7). Others may make it less: pause
//     it, unpublish it, delete it, drop its draft, and take it off pages.
//   - Where contacts go, and that an address is confirmed first, belongs to those who may see
//     contacts (rule F4).
func MayChange(p store.Person, before, after store.Notice) error {
	if err := mayCode(p, before, after); err != nil {
		return err
	}
	return mayPassOn(p, before, after)
}

func mayCode(p store.Person, before, after store.Notice) error {
	if p.Role == access.Administrator || !HasCode(before) && !HasCode(after) || isLess(before, after) {
		return nil
	}
	return problem.Problem{
		Status: http.StatusForbidden,
		Title:  "Administrators write code",
		Detail: fmt.Sprintf("“%s” puts code into pages, and only administrators write or publish that. "+
			"You can pause it, unpublish it, or take it off a page. Nothing was changed.", after.Working().GetTitle()),
	}
}

func mayPassOn(p store.Person, before, after store.Notice) error {
	if MaySeeContacts(p) ||
		!slices.ContainsFunc(texts(after), func(n bundle.Notice) bool { return !sendsAsBefore(before, n) }) {
		return nil
	}
	return problem.Problem{
		Status: http.StatusForbidden,
		Title:  "Contacts are not for you",
		Detail: "Where contacts go, and whether an address is confirmed first, is up to people who may see contacts. " +
			"Ask an administrator: Site, People. Nothing was changed.",
	}
}

// MayKeep decides whether a person may change what a site keeps for its notices: starting points
// with code, or that pass contacts on, as MayChange has it; and a page set or an audience that
// decides where code runs, or for whom. rows are the site's notices.
func MayKeep(p store.Person, before, after bundle.Site, rows []store.Notice) error {
	for _, point := range after.StartingPoints {
		from := store.Notice{State: bundle.Draft}
		for _, was := range before.StartingPoints {
			if was.Name == point.Name {
				from.Draft = &was.Notice
			}
		}
		if err := MayChange(p, from, store.Notice{State: bundle.Draft, Draft: &point.Notice}); err != nil {
			return err
		}
	}
	if p.Role == access.Administrator {
		return nil
	}
	changed := map[string]func(bundle.Notice) bool{} // what uses something that is not as it was, by what that is called
	for _, s := range before.PageSets {
		if !slices.ContainsFunc(after.PageSets, func(t pages.SavedSet) bool { return reflect.DeepEqual(s, t) }) {
			changed["The page set “"+s.Name+"”"] = func(n bundle.Notice) bool { return n.UsesSet(s.Name) }
		}
	}
	for _, s := range before.Audiences {
		if !slices.ContainsFunc(after.Audiences, func(t audience.SavedAudience) bool { return reflect.DeepEqual(s, t) }) {
			changed["The audience “"+s.Name+"”"] = func(n bundle.Notice) bool { return n.GetAudience().Uses(s.Name) }
		}
	}
	for what, uses := range changed {
		for _, row := range rows {
			if HasCode(row) && slices.ContainsFunc(texts(row), uses) {
				return problem.Problem{
					Status: http.StatusForbidden,
					Title:  "Administrators decide where code runs",
					Detail: fmt.Sprintf("%s decides where the code “%s” runs. Ask an administrator to change it, or keep "+
						"yours under another name. Nothing was changed.", what, row.Working().GetTitle()),
				}
			}
		}
	}
	return nil
}

// texts are those that a notice has: what is out, and the draft.
func texts(n store.Notice) (out []bundle.Notice) {
	for _, d := range []*bundle.Notice{n.Published, n.Draft} {
		if d != nil {
			out = append(out, *d)
		}
	}
	return out
}

// isCode reports whether a notice puts code into pages.
func isCode(n bundle.Notice) bool {
	return n.Kind == bundle.KindCode || n.Content != nil && n.Content.Code != nil
}

// HasCode reports whether a text of a notice puts code into pages.
func HasCode(n store.Notice) bool { return slices.ContainsFunc(texts(n), isCode) }

// states are those of a notice, each further out than the one before.
var states = []bundle.State{bundle.Draft, bundle.Paused, bundle.Published}

// isLess reports whether a notice says nothing that it did not say before, on no page more, and
// is no further out.
func isLess(before, after store.Notice) bool {
	if before.Deleted && !after.Deleted || slices.Index(states, after.State) > slices.Index(states, before.State) {
		return false
	}
	if after.Published != nil && (before.Published == nil || !narrower(*before.Published, *after.Published)) {
		return false
	}
	return after.Draft == nil ||
		slices.ContainsFunc(texts(before), func(n bundle.Notice) bool { return narrower(n, *after.Draft) })
}

// narrower reports whether two texts differ at most in that the second includes fewer pages, or
// excludes more.
func narrower(before, after bundle.Notice) bool {
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
	return Same(before, after)
}

// sendsAsBefore reports whether a text passes contacts on to the addresses of a text before it, or
// to none, and confirms as that does. Where there was no form, none is passed on.
func sendsAsBefore(before store.Notice, n bundle.Notice) bool {
	is, forms := n.Form(), 0
	for _, b := range texts(before) {
		was := b.Form()
		if !b.HasForm() && len(was.PassOn) == 0 {
			continue
		}
		forms++
		if (len(is.PassOn) == 0 || slices.Equal(is.PassOn, was.PassOn)) &&
			(was.Confirm == "" || is.Confirm == was.Confirm || !n.HasForm()) {
			return true
		}
	}
	return forms == 0 && len(is.PassOn) == 0
}

// Same reports whether two notices say the same.
func Same(a, b bundle.Notice) bool {
	a.State, a.PublishedAt, b.State, b.PublishedAt = "", nil, "", nil
	x, errX := json.Marshal(a)
	y, errY := json.Marshal(b)
	return errX == nil && errY == nil && bytes.Equal(x, y)
}
