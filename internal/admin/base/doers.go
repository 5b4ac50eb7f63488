package base

import (
	"cmp"
	"context"

	"mastflag/core/bundle"
	"mastflag/core/orderline"
	"mastflag/internal/history"
	"mastflag/internal/store"
)

// PeopleNames are what people are called now, by e-mail address.
type PeopleNames map[string]string

// PeopleNames reads what people are called now.
func (a *Base) PeopleNames(ctx context.Context) (PeopleNames, error) {
	people, err := a.Store.People(ctx)
	out := PeopleNames{}
	for _, p := range people {
		out[p.Email] = p.Name
	}
	return out, err
}

// Of returns the name of who did something; as it was then, of who is no longer here.
func (n PeopleNames) Of(b store.By) string { return cmp.Or(n[b.Person], b.Name) }

// By is the person of the call, as history keeps it.
func (c *Call) By() store.By { return store.By{Person: c.Person.Email, Name: c.Person.Name} }

// Entry is a line of history about a notice as it now is.
func (a *Base) Entry(c *Call, site bundle.Site, n bundle.Notice, deed history.Deed) store.Entry {
	now := a.Clock.Now()
	return store.Entry{At: now, By: c.By(), Deed: deed, Line: orderline.Of(n, site, now).String()}
}
