// Package post has what is to go out go out: letters, by a mail server or the stand-in for
// one, and contacts that are passed on. What fails is tried again, later and later, under the
// same key. Each receiver has a queue of its own, so that one that hangs holds up nobody else.
package post

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"
	"sync"
	"time"

	"mastflag/core/form"
	"mastflag/core/phrase"
	"mastflag/internal/clock"
	"mastflag/internal/compiled"
	"mastflag/internal/contacts"
	"mastflag/internal/delivery"
	"mastflag/internal/mail"
	"mastflag/internal/outbound"
	"mastflag/internal/signature"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

const (
	giveUpAfter = 4 * 24 * time.Hour  // after that something is given up
	showFor     = 30 * 24 * time.Hour // for so long it is shown that it went out
)

// A Carrier carries what is to go out.
type Carrier struct {
	Store  *store.Store
	Clock  clock.Clock
	Office standin.PostOffice
	Server *mail.Server // nil where the stand-in keeps all letters
	Web    http.RoundTripper
	Secret []byte // that confirming links are made with
	Base   string // the program's own address

	once sync.Once
	wake chan struct{}
	lines
}

// Wake has the carrier look now whether something is to go out.
func (c *Carrier) Wake() {
	select {
	case c.bell() <- struct{}{}:
	default:
	}
}

func (c *Carrier) bell() chan struct{} {
	c.once.Do(func() { c.wake = make(chan struct{}, 1) })
	return c.wake
}

// shortened is an error as people read it, without its end where that is long.
func shortened(err error) string {
	s := outbound.FailureOf(err).Error()
	if r := []rune(s); len(r) > 300 {
		s = string(r[:300]) + "…"
	}
	return s
}

// backoff is how long is waited after so many tries: half a minute, then twice as long each
// time, up to six hours.
func backoff(tries int) time.Duration { return min(longestWait, 30*time.Second<<min(tries-1, 12)) }

// longestWait is how long anything waits for its next try.
const longestWait = 6 * time.Hour

// Queue has a letter that lies in the outbox under a name go out, as a write of st; without a
// mail server it stays there, and the stand-in mailbox shows it.
func (c *Carrier) Queue(ctx context.Context, st *store.Store, name, to string, at time.Time) error {
	if c.Server == nil {
		return nil
	}
	return st.AddOutgoing(ctx, store.Outgoing{
		Kind: store.OutLetter, Letter: name, Recipient: to, Key: strings.TrimSuffix(name, ".eml"), At: at,
	})
}

// letter sends a file of the outbox, which is then errErased: what lets somebody in stands in it.
func (c *Carrier) letter(ctx context.Context, o store.Outgoing) error {
	raw, err := c.Office.Raw(o.Letter)
	if err != nil {
		return mail.Refused{Why: "the letter is not there any more: it was used or withdrawn"}
	}
	if c.Server == nil {
		return errors.New("there is no mail server: start the program with --smtp")
	}
	if err := failed(c.Server.Send(ctx, raw)); err != nil {
		return err
	}
	return c.Office.Destroy(o.Letter)
}

// errErased says that what was to go out is no more.
var errErased = mail.Refused{Why: "the contact was erased"}

// mail sends the letter that has an address confirmed, or a contact.
func (c *Carrier) mail(ctx context.Context, o store.Outgoing) error {
	contact, site, shown, err := c.subject(ctx, o)
	if err != nil {
		return err
	}
	l := mail.Letter{Key: o.Key, At: o.At, To: o.Recipient}
	if site.FillIns != nil && site.FillIns.Email != "" {
		l.From = site.FillIns.Email
	}
	if o.Kind == store.OutConfirm {
		if contact.Confirmed != nil {
			return nil
		}
		fill := map[string]string{"site": site.Name}
		l.Subject = phrase.Fill(shown.Form.Words[phrase.ConfirmSubject], fill)
		l.Body = phrase.Fill(shown.Form.Words[phrase.ConfirmText], fill) + "\n\n" +
			delivery.ConfirmAddress(c.Secret, c.Base, o.Site, contact.ID) + "\n"
	} else {
		l.Subject, l.Body = site.Name+": "+contact.Notice, Text(contact)
		l.Reply = contact.First(form.Email)
	}
	if c.Server != nil {
		raw, err := c.Office.Write(l)
		if err != nil {
			return mail.Refused{Why: err.Error()}
		}
		return failed(c.Server.Send(ctx, raw))
	}
	// The stand-in: the letter lies in the folder, and the mailbox shows it. What it says is in the
	// file alone, which goes with the contact.
	name := o.Key + ".eml"
	if err := c.Office.Send(name, l); err != nil {
		return mail.Refused{Why: err.Error()}
	}
	return c.Store.AddMessage(ctx, store.Message{
		At: c.Clock.Now(), From: "", To: o.Recipient, Subject: l.Subject, Body: "…", Letter: name,
	})
}

// Text says a contact for a letter, a line for each field.
func Text(c form.Contact) string {
	var b strings.Builder
	for _, a := range c.Answers {
		label, value := c.Label(a.Field), c.Text(a.Field)
		if a.Kind == form.Agreement {
			label, value = "Agreed to", c.Agreed[a.Field]
		}
		fmt.Fprintf(&b, "%s: %s\n", label, strings.ReplaceAll(value, "\n", "\n  "))
	}
	fmt.Fprintf(&b, "\nSent from %s (%s) at %s. Number %s.\n", c.Page, c.Notice, c.At.UTC().Format(time.RFC3339), c.ID)
	return b.String()
}

// A Passed is a contact as web addresses get it.
type Passed struct {
	Site    string       `json:"site"`
	Contact form.Contact `json:"contact"`
}

// web sends a contact to a web address, signed.
func (c *Carrier) web(ctx context.Context, o store.Outgoing) error {
	contact, _, _, err := c.subject(ctx, o)
	if err != nil {
		return err
	}
	secret, err := c.Store.Secret(ctx, SecretName(o.Site))
	if err != nil {
		return err
	}
	body, err := json.Marshal(Passed{o.Site, contact})
	if err != nil {
		return err
	}
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, o.Recipient, bytes.NewReader(body))
	if err != nil {
		return mail.Refused{Why: err.Error()}
	}
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("User-Agent", "mastflag")
	// A string of Structured Fields (draft-ietf-httpapi-idempotency-key-header).
	r.Header.Set(signature.KeyHeader, `"`+o.Key+`"`)
	signature.Sign(r, body, o.Site, secret, c.Clock.Now())
	// A redirect is an answer, not an address: what is signed is signed for one.
	reply, err := c.Web.RoundTrip(r)
	if err != nil {
		return failed(err)
	}
	defer reply.Body.Close()
	io.Copy(io.Discard, io.LimitReader(reply.Body, 64<<10))
	switch {
	case reply.StatusCode/100 == 2:
		return nil
	case reply.StatusCode == http.StatusGone:
		return mail.Refused{Why: "the address answered 410: it wants nothing any more"}
	}
	err = fmt.Errorf("the address answered %s", reply.Status)
	if reply.StatusCode >= 500 || reply.StatusCode == http.StatusTooManyRequests {
		return failed(err)
	}
	return err
}

// SecretName is under which name the secret of a site's signatures is kept.
func SecretName(site string) string { return "contacts of " + site }

// subject returns the contact that something is about, its site, and what was shown.
func (c *Carrier) subject(ctx context.Context, o store.Outgoing) (form.Contact, store.Site, compiled.Shown, error) {
	var shown compiled.Shown
	site, err := c.Store.Site(ctx, o.Site)
	if errors.Is(err, store.ErrNotFound) {
		return form.Contact{}, site, shown, mail.Refused{Why: "the site is not there any more"}
	}
	if err != nil {
		return form.Contact{}, site, shown, err
	}
	contact, err := c.Store.Contact(ctx, o.Site, o.Contact)
	if store.IsGone(err) {
		return contact, site, shown, errErased
	}
	if err != nil {
		return contact, site, shown, err
	}
	doc, err := c.Store.Shown(ctx, o.Site, contact.Shown)
	if err == nil {
		err = json.Unmarshal(doc, &shown)
	}
	if err == nil && shown.Form == nil {
		err = errErased
	}
	return contact, site, shown, err
}

// Expire erases contacts that have been kept long enough, or that nobody confirmed, and forgets
// what went out long ago, with all that the stand-in has of either; it returns how many contacts.
func (c *Carrier) Expire(ctx context.Context, k *contacts.Keeper) (int64, error) {
	n, letters, err := k.Expire(ctx, c.Clock.Now())
	err = errors.Join(
		err, c.Store.GiveUpOutgoing(ctx, c.Clock.Now().Add(-giveUpAfter), c.Clock.Now()),
		c.Store.HurryOutgoing(ctx, c.Clock.Now().Add(longestWait)),
	)
	old, wrong := c.Store.ExpireOutgoing(ctx, c.Clock.Now().Add(-showFor))
	return n, errors.Join(err, wrong, c.destroy(letters), c.destroy(old))
}

// EraseContact erases a contact with all that the stand-in has of it.
func (c *Carrier) EraseContact(ctx context.Context, site, id string) error {
	letters, err := c.Store.EraseContact(ctx, site, id, c.Clock.Now())
	return errors.Join(err, c.destroy(letters))
}

func (c *Carrier) destroy(letters []string) (err error) {
	for _, name := range letters {
		err = errors.Join(err, c.Office.Destroy(name))
	}
	return err
}
