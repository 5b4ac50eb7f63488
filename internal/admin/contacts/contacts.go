// Package contacts is what visitors filled in: found, exported, erased, and how it is passed on.
package contacts

import (
	"cmp"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strconv"
	"sync"
	"time"

	"mastflag/core/form"
	"mastflag/core/rights"
	"mastflag/internal/admin/base"
	"mastflag/internal/compiled"
	"mastflag/internal/history"
	"mastflag/internal/post"
	"mastflag/internal/problem"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// Area is that part of the API.
type Area struct {
	*base.Base
	Carrier  *post.Carrier
	Receiver *standin.Receiver // nil in production

	mu   sync.Mutex
	seen map[string]time.Time // when it was last noted that somebody looked, by person and site
}

// Routes are its calls.
func (a *Area) Routes() []base.Route {
	const table, cards = "text/csv; charset=utf-8", "text/vcard; charset=utf-8"
	return []base.Route{
		base.Get("/api/sites/:site/contacts", "What visitors filled in, the latest first.", a.list).ForContacts(),
		base.File("/api/sites/:site/contacts.csv", "Contacts as CSV.", table, a.table).ForContacts(),
		base.File("/api/sites/:site/contacts.jsonl", "Contacts as JSON Lines.", "application/jsonl", a.lines).ForContacts(),
		base.File("/api/sites/:site/contacts.vcf", "Contacts as vCard 4.0.", cards, a.cards).ForContacts(),
		base.Post("/api/sites/:site/contacts/erase", "Erase contacts.", a.erase).ForContacts(),
		base.Post("/api/sites/:site/contacts/retry", "Have a contact passed on once more.", a.retry).ForContacts(),
		base.Get("/api/sites/:site/contacts/passing", "What whoever takes contacts needs to know.", a.passing).
			For(rights.Administrator),
	}
}

// pageSize is how many contacts are listed at once.
const pageSize = 100

// filter reads which contacts are meant.
func (a *Area) filter(c *base.Call, in ContactQuery) (store.ContactFilter, error) {
	f := store.ContactFilter{Notice: in.Notice, Find: in.Find, Field: in.Field}
	site := a.Hub.Site(c.Site)
	if site == nil {
		return f, store.ErrNotFound
	}
	for _, d := range []struct {
		day  string
		to   *time.Time
		plus int
	}{{in.From, &f.From, 0}, {in.Until, &f.Until, 1}} {
		if d.day == "" {
			continue
		}
		at, err := time.ParseInLocation(time.DateOnly, d.day, site.Zone())
		if err != nil {
			return f, problem.Problem{
				Status: http.StatusUnprocessableEntity, Title: "No day",
				Detail: fmt.Sprintf("%q is no day. Write it like 2026-11-30.", d.day),
			}
		}
		*d.to = at.AddDate(0, 0, d.plus)
	}
	if in.After != "" {
		last, err := a.Store.Contact(c.Request.Context(), c.Site, in.After)
		if err != nil {
			return f, err
		}
		f.Before = &last
	}
	return f, nil
}

func (a *Area) list(c *base.Call, in ContactQuery) (ContactList, error) {
	f, err := a.filter(c, in)
	if err != nil {
		return ContactList{}, err
	}
	ctx := c.Request.Context()
	out := ContactList{Contacts: []ContactRow{}, Notices: a.notices(c.Site), Fields: []ContactName{}}
	if out.Total, err = a.Store.CountContacts(ctx, c.Site, f); err != nil {
		return out, err
	}
	f.Limit = pageSize
	list, err := a.Store.Contacts(ctx, c.Site, f)
	if err != nil {
		return out, err
	}
	for _, contact := range list {
		deliveries, err := a.deliveries(c, contact.ID)
		if err != nil {
			return out, err
		}
		row := ContactRow{Contact: contact, Deliveries: deliveries}
		if row.Waiting, err = a.Store.ContactWaits(ctx, c.Site, contact.ID); err != nil {
			return out, err
		}
		out.Contacts = append(out.Contacts, row)
		for _, answer := range contact.Answers {
			if answer.Kind != form.Agreement && // whose words are no name
				!slices.ContainsFunc(out.Fields, func(f ContactName) bool { return f.ID == answer.Field }) {
				out.Fields = append(out.Fields, ContactName{answer.Field, contact.Label(answer.Field)})
			}
		}
		if !slices.ContainsFunc(out.Notices, func(n ContactName) bool { return n.ID == contact.Notice }) {
			out.Notices = append(out.Notices, ContactName{contact.Notice, contact.Notice})
		}
	}
	return out, a.noteSeen(c)
}

// noteSeen notes in the activity that somebody looked at a site's contacts, once an hour.
func (a *Area) noteSeen(c *base.Call) error {
	now, who := a.Clock.Now(), c.Person.Email+" "+c.Site
	a.mu.Lock()
	last, known := a.seen[who]
	a.mu.Unlock()
	if known && now.Sub(last).Abs() < time.Hour {
		return nil
	}
	if err := a.note(c, history.SawContacts.With()); err != nil {
		return err
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.seen == nil {
		a.seen = map[string]time.Time{}
	}
	a.seen[who] = now
	return nil
}

func (a *Area) note(c *base.Call, deed history.Deed) error {
	return a.Store.AddHistory(c.Request.Context(), c.Site, "", store.Entry{At: a.Clock.Now(), By: c.By(), Deed: deed})
}

// notices are those that have a form, as they are out or in their draft.
func (a *Area) notices(site string) []ContactName {
	out := []ContactName{}
	s := a.Hub.Site(site)
	if s == nil {
		return out
	}
	for _, n := range s.Bundle().Notices {
		if n.HasForm() {
			out = append(out, ContactName{n.ID, n.GetTitle()})
		}
	}
	slices.SortFunc(out, func(x, y ContactName) int { return cmp.Compare(x.Name, y.Name) })
	return out
}

func (a *Area) deliveries(c *base.Call, contact string) ([]Delivery, error) {
	list, err := a.Store.Outgoing(c.Request.Context(), c.Site, contact, 50)
	out := []Delivery{}
	for _, o := range slices.Backward(list) {
		d := Delivery{ID: o.ID, Kind: string(o.Kind), To: o.Recipient, Key: o.Key, State: o.State, Tries: o.Tries, Why: o.Why}
		switch {
		case o.State == store.OutWaiting:
			d.Next = &o.Next
		case !o.Ended.IsZero():
			d.Ended = &o.Ended
		}
		out = append(out, d)
	}
	return out, err
}

// exported returns the contacts that are meant, and notes that they were exported.
func (a *Area) exported(c *base.Call, as string) ([]form.Contact, error) {
	var in ContactQuery
	if err := c.ShouldBindQuery(&in); err != nil {
		return nil, err
	}
	f, err := a.filter(c, in)
	if err != nil {
		return nil, err
	}
	list, err := a.Store.Contacts(c.Request.Context(), c.Site, f)
	if err != nil {
		return nil, err
	}
	return list, a.note(c, history.ExportedContacts.With(contactCount(len(list)), as))
}

func (a *Area) table(c *base.Call) (string, func(io.Writer) error, error) {
	list, err := a.exported(c, "CSV")
	zone := time.UTC
	if s := a.Hub.Site(c.Site); s != nil {
		zone = s.Zone()
	}
	return c.Site + "-contacts.csv", func(w io.Writer) error { return form.WriteCSV(w, list, zone) }, err
}

func (a *Area) lines(c *base.Call) (string, func(io.Writer) error, error) {
	list, err := a.exported(c, "JSON Lines")
	return c.Site + "-contacts.jsonl", func(w io.Writer) error { return form.WriteLines(w, list) }, err
}

func (a *Area) cards(c *base.Call) (string, func(io.Writer) error, error) {
	list, err := a.exported(c, "vCard")
	forms := map[string][]form.NamedField{}
	fields := func(contact form.Contact) []form.NamedField {
		if have, ok := forms[contact.Shown]; ok {
			return have
		}
		var shown compiled.Shown
		if doc, err := a.Store.Shown(c.Request.Context(), c.Site, contact.Shown); err == nil &&
			json.Unmarshal(doc, &shown) == nil && shown.Form != nil {
			forms[contact.Shown] = shown.Form.Fields
		}
		return forms[contact.Shown]
	}
	return c.Site + "-contacts.vcf", func(w io.Writer) error { return form.WriteCards(w, list, fields) }, err
}

func (a *Area) erase(c *base.Call, in ContactErasure) (base.Nothing, error) {
	erased := 0
	for _, id := range in.IDs {
		err := a.Carrier.EraseContact(c.Request.Context(), c.Site, id)
		if store.IsGone(err) {
			continue
		}
		if err != nil {
			return base.Nothing{}, err
		}
		erased++
	}
	if erased == 0 {
		return base.Nothing{}, store.ErrNotFound
	}
	return base.Nothing{}, a.note(c, history.ErasedContacts.With(contactCount(erased)))
}

func (a *Area) retry(c *base.Call, in DeliveryRetry) (base.Nothing, error) {
	if err := a.Store.RetryOutgoing(c.Request.Context(), c.Site, in.ID, a.Clock.Now()); err != nil {
		return base.Nothing{}, err
	}
	a.Carrier.Wake()
	return base.Nothing{}, a.note(c, history.RetriedContact.With())
}

func (a *Area) passing(c *base.Call, _ base.Nothing) (ReceiverSetup, error) {
	secret, err := a.Store.Secret(c.Request.Context(), post.SecretName(c.Site))
	out := ReceiverSetup{Secret: base64.StdEncoding.EncodeToString(secret), KeyID: c.Site}
	if a.Receiver != nil {
		out.StandIn, out.Received = a.Receiver.Address(c.Site), a.Receiver.Received(c.Site)
	}
	return out, err
}

func contactCount(n int) string {
	if n == 1 {
		return "one contact"
	}
	return strconv.Itoa(n) + " contacts"
}
