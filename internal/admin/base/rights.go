package base

import (
	"context"
	"errors"
	"net/http"
	"slices"

	"mastflag/core/bundle"
	"mastflag/core/rights"
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
// (rights.MayChange).
func (a *Base) ChangeNotice(
	c *Call, st *store.Store, id string, revision int, change func(n *store.Notice, next int) (store.Entry, error),
) (row store.Notice, err error) {
	ctx := c.Request.Context()
	err = st.Together(ctx, func(st *store.Store) error {
		if err := c.unchanged(ctx, st); err != nil {
			return err
		}
		row, err = st.Change(ctx, c.Site, id, revision, func(n *store.Notice, next int) (store.Entry, error) {
			before := n.Rights()
			entry, err := change(n, next)
			if err == nil {
				err = rights.MayChange(c.Person.Rights(), before, n.Rights())
			}
			return entry, err
		})
		return err
	})
	return row, err
}

// AddNotice is store.AddNotice by the person of a call, of a notice made from a text, or from none:
// refused where they may not (rights.MayAdd).
func (a *Base) AddNotice(c *Call, from *bundle.Notice, n bundle.Notice, e store.Entry) error {
	if err := rights.MayAdd(c.Person.Rights(), from, n); err != nil {
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
