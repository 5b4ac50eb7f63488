package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"net/url"
	"strings"
	"time"

	"mastflag/core/form"
)

// A NewContact is a contact to be kept, and what is to go out once it is. Without Confirms that
// is what it is passed on to; else the letter that has that address confirmed.
type NewContact struct {
	Site string
	form.Contact
	Confirms string // the address that is to be confirmed first; "" if none is
	Outgoing []Outgoing
	// Made ready by Ready where many can do so side by side.
	words, doc string
}

// Ready returns the contact with all made ready that writing it needs.
func (n NewContact) Ready() NewContact {
	if n.doc == "" {
		n.words, n.doc = searchText(n.Contact), encode(n.Contact)
	}
	return n
}

// searchText is a contact's answers in small letters, by field, as they are searched.
func searchText(c form.Contact) string {
	out := map[string]string{}
	for _, a := range c.Answers {
		out[a.Field] = strings.ToLower(c.Text(a.Field))
	}
	return encode(out)
}

const addContact = "INSERT INTO contact(site, id, at, notice, waiting, expires, words, doc, address) " +
	"VALUES(?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO NOTHING"

// AddContacts keeps contacts, all or none; what is wrong with single ones is in the list of
// errors: nil for those that are kept, or were before, ErrOther or ErrErased.
func (s *Store) AddContacts(ctx context.Context, list []NewContact) ([]error, error) {
	wrong := make([]error, len(list))
	err := s.tx(ctx, func(tx *sql.Tx) error {
		insert, err := tx.PrepareContext(ctx, addContact)
		if err != nil {
			return err
		}
		defer insert.Close()
		for i, n := range list {
			n = n.Ready()
			address, open := strings.ToLower(n.Confirms), false
			if address != "" {
				if open, err = letterIsOpen(ctx, tx, n.Site, n.Notice, address); err != nil {
					return err
				}
			}
			r, err := insert.ExecContext(
				ctx, n.Site, n.ID, n.At.UnixMilli(), n.Notice, address != "", n.Expires.UnixMilli(), n.words, n.doc, address,
			)
			if err != nil {
				return err
			}
			if added, _ := r.RowsAffected(); added == 0 {
				wrong[i] = sameContact(ctx, tx, n)
				continue
			}
			if open {
				continue
			}
			for _, o := range n.Outgoing {
				if err := addOutgoing(ctx, tx, o); err != nil {
					return err
				}
			}
		}
		return nil
	})
	return wrong, err
}

// waitingFor is the condition of contacts of a form whose address waits to be confirmed.
const waitingFor = "contact.site = ? AND notice = ? AND address = ? AND address <> ''"

// letterIsOpen reports whether a letter that has an address confirmed for a form is on its way, or
// is unanswered.
func letterIsOpen(ctx context.Context, tx *sql.Tx, site, notice, address string) (open bool, err error) {
	err = tx.QueryRowContext(
		ctx, "SELECT EXISTS (SELECT 1 FROM contact JOIN outgoing ON outgoing.site = contact.site AND outgoing.contact = "+
			"contact.id AND kind = 'confirm' AND state <> 'given-up' WHERE "+waitingFor+")",
		site, notice, address,
	).Scan(&open)
	return open, err
}

// WaitingContacts returns the contacts of a form whose address waits to be confirmed.
func (s *Store) WaitingContacts(ctx context.Context, site, notice, address string) ([]form.Contact, error) {
	return query(
		ctx, s.on(), scanContact, "SELECT doc FROM contact WHERE doc <> '' AND "+waitingFor, site, notice,
		strings.ToLower(address),
	)
}

// sameContact returns nil if the contact that is kept under the same id says the same.
func sameContact(ctx context.Context, tx *sql.Tx, n NewContact) error {
	doc, err := one(query(ctx, tx, scanText, "SELECT doc FROM contact WHERE site = ? AND id = ?", n.Site, n.ID))
	if err != nil {
		return err
	}
	if doc == "" {
		return ErrErased
	}
	var have form.Contact
	if err := json.Unmarshal([]byte(doc), &have); err != nil {
		return err
	}
	if !have.Same(n.Contact) {
		return ErrOther
	}
	return nil
}

func scanText(row *sql.Rows) (text string, err error) { return text, row.Scan(&text) }

func scanContact(row *sql.Rows) (c form.Contact, err error) {
	doc, err := scanText(row)
	if err == nil {
		err = json.Unmarshal([]byte(doc), &c)
	}
	return c, err
}

// A ContactFilter is which contacts are meant; all of the site's if it is zero.
type ContactFilter struct {
	Notice      string
	From, Until time.Time // half-open
	// What an answer holds, whatever its case: that to Field, or any if that is "".
	Find, Field string
	// Before is the contact after whom the list goes on; nil from its beginning.
	Before *form.Contact
	Limit  int // at most so many; all if 0
}

// where returns the condition of SQL that a filter is, and its arguments.
func (f ContactFilter) where(site string) (string, []any) {
	text, args := "WHERE site = ? AND doc <> ''", []any{site}
	and := func(condition string, more ...any) {
		text += " AND " + condition
		args = append(args, more...)
	}
	if f.Notice != "" {
		and("notice = ?", f.Notice)
	}
	if !f.From.IsZero() {
		and("at >= ?", f.From.UnixMilli())
	}
	if !f.Until.IsZero() {
		and("at < ?", f.Until.UnixMilli())
	}
	if f.Find != "" || f.Field != "" {
		and("EXISTS (SELECT 1 FROM json_each(words) WHERE ? IN ('', key) AND instr(value, ?) > 0)", f.Field,
			strings.ToLower(f.Find))
	}
	return text, args
}

// Contacts returns those that a filter means, the latest first.
func (s *Store) Contacts(ctx context.Context, site string, f ContactFilter) ([]form.Contact, error) {
	where, args := f.where(site)
	if f.Before != nil {
		at := f.Before.At.UnixMilli()
		where += " AND (at < ? OR at = ? AND id < ?)"
		args = append(args, at, at, f.Before.ID)
	}
	limit := f.Limit
	if limit == 0 {
		limit = -1
	}
	return query(
		ctx,
		s.on(),
		scanContact,
		"SELECT doc FROM contact "+where+" ORDER BY at DESC, id DESC LIMIT ?",
		append(args, limit)...,
	)
}

// CountContacts returns how many a filter means.
func (s *Store) CountContacts(ctx context.Context, site string, f ContactFilter) (n int, err error) {
	where, args := f.where(site)
	return n, s.on().QueryRowContext(ctx, "SELECT count(*) FROM contact "+where, args...).Scan(&n)
}

// Contact returns the one of an id; ErrNotFound, or ErrErased if it was.
func (s *Store) Contact(ctx context.Context, site, id string) (form.Contact, error) {
	doc, err := one(query(ctx, s.on(), scanText, "SELECT doc FROM contact WHERE site = ? AND id = ?", site, id))
	var c form.Contact
	switch {
	case err != nil:
		return c, err
	case doc == "":
		return c, ErrErased
	}
	return c, json.Unmarshal([]byte(doc), &c)
}

// ContactWaits reports whether the address of a contact is still to be confirmed.
func (s *Store) ContactWaits(ctx context.Context, site, id string) (bool, error) {
	return one(query(
		ctx, s.on(), func(row *sql.Rows) (waits bool, err error) { return waits, row.Scan(&waits) },
		"SELECT waiting FROM contact WHERE site = ? AND id = ?", site, id,
	))
}

// ConfirmContact notes that the address of a contact was confirmed, which sends out what it is
// passed on to; it does nothing where it was before. ErrNotFound or ErrErased if it is not there.
func (s *Store) ConfirmContact(ctx context.Context, site, id string, at time.Time, out []Outgoing) error {
	return s.Together(ctx, func(st *Store) error {
		c, err := st.Contact(ctx, site, id)
		if err != nil || c.Confirmed != nil {
			return err
		}
		c.Confirmed = &at
		if _, err := st.exec(
			ctx, "UPDATE contact SET waiting = 0, address = '', doc = ? WHERE site = ? AND id = ?", encode(c), site, id,
		); err != nil {
			return err
		}
		for _, o := range out {
			if err := addOutgoing(ctx, st.txn, o); err != nil {
				return err
			}
		}
		return nil
	})
}

const eraseContacts = "UPDATE contact SET doc = '', words = '', address = '', waiting = 0, expires = ? " +
	"WHERE doc <> '' AND "

// keptIDs is for how long the id of an erased contact is kept.
const keptIDs = 30 * 24 * time.Hour

// EraseContact erases one, with all that goes out of it, and returns the letters that the
// stand-in may have of it; ErrNotFound or ErrErased if it is not there.
func (s *Store) EraseContact(ctx context.Context, site, id string, now time.Time) (letters []string, err error) {
	err = s.Together(ctx, func(st *Store) error {
		if _, err := st.Contact(ctx, site, id); err != nil {
			return err
		}
		if _, err := st.exec(ctx, eraseContacts+"site = ? AND id = ?", now.Add(keptIDs).UnixMilli(), site, id); err != nil {
			return err
		}
		letters, err = dropOutgoing(ctx, st.txn, "site = ? AND contact = ?", site, id)
		return err
	})
	if err == nil {
		s.scrub(ctx)
	}
	return letters, err
}

// ExpireContacts erases those that have been kept long enough, and those whose address nobody
// has confirmed since an instant; it returns how many, and the letters as EraseContact does.
func (s *Store) ExpireContacts(
	ctx context.Context, now, unconfirmed time.Time,
) (n int64, letters []string, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(
			ctx, "DELETE FROM contact WHERE doc = '' AND expires <= ?", now.UnixMilli(),
		); err != nil {
			return err
		}
		r, err := tx.ExecContext(
			ctx,
			eraseContacts+"(expires <= ? OR waiting = 1 AND at < ?)",
			now.Add(keptIDs).UnixMilli(),
			now.UnixMilli(),
			unconfirmed.UnixMilli(),
		)
		if err != nil {
			return err
		}
		if n, err = r.RowsAffected(); err != nil || n == 0 {
			return err
		}
		letters, err = dropOutgoing(ctx, tx, `EXISTS (SELECT 1 FROM contact
			WHERE contact.site = outgoing.site AND contact.id = outgoing.contact AND contact.doc = '')`)
		return err
	})
	if err == nil && n > 0 {
		s.scrub(ctx)
	}
	return n, letters, err
}

// dropOutgoing removes what goes out of contacts, by a condition of SQL, with what the mailbox
// shows of it, and returns the letters that the stand-in may have of it.
func dropOutgoing(ctx context.Context, tx *sql.Tx, where string, args ...any) ([]string, error) {
	const letter = " key || '.eml'"
	where = " outgoing WHERE contact <> '' AND " + where
	if _, err := tx.ExecContext(
		ctx, "DELETE FROM message WHERE letter IN (SELECT"+letter+" FROM"+where+")", args...,
	); err != nil {
		return nil, err
	}
	return query(ctx, tx, scanText, "DELETE FROM"+where+" RETURNING"+letter, args...)
}

// An OutgoingKind is what goes out.
type OutgoingKind string

const (
	OutLetter  OutgoingKind = "letter"  // a file of the outbox
	OutConfirm OutgoingKind = "confirm" // the letter that has an address confirmed
	OutMail    OutgoingKind = "mail"    // a contact, by mail
	OutWeb     OutgoingKind = "web"     // a contact, to a web address
)

// States of what goes out.
const (
	OutWaiting = "waiting"
	OutDone    = "done"
	OutGivenUp = "given-up"
)

// An Outgoing is something that goes out: at least once, and always under the same key.
type Outgoing struct {
	ID        int64
	Site      string
	Kind      OutgoingKind
	Contact   string
	Letter    string
	Recipient string
	Key       string
	At        time.Time
	State     string
	Tries     int
	Next      time.Time
	Ended     time.Time
	Why       string
}

// MailServer is the receiver of all letters.
const MailServer = "mail"

// receiver is who takes it: the mail server, or the host of a web address. What waited already when
// queues were begun (migration 010) has the whole web address, which does as well.
func (o Outgoing) receiver() string {
	if o.Kind != OutWeb {
		return MailServer
	}
	if u, err := url.Parse(o.Recipient); err == nil && u.Host != "" {
		return strings.ToLower(u.Host)
	}
	return o.Recipient
}

func addOutgoing(ctx context.Context, tx *sql.Tx, o Outgoing) error {
	_, err := tx.ExecContext(
		ctx, "INSERT INTO outgoing(site, kind, contact, letter, recipient, receiver, key, at, state, next) "+
			"VALUES(?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
		o.Site, o.Kind, o.Contact, o.Letter, o.Recipient, o.receiver(), o.Key, o.At.UnixMilli(), OutWaiting, o.At.UnixMilli(),
	)
	return err
}

// AddOutgoing keeps something that is to go out.
func (s *Store) AddOutgoing(ctx context.Context, o Outgoing) error {
	return s.tx(ctx, func(tx *sql.Tx) error { return addOutgoing(ctx, tx, o) })
}

const outgoingColumns = "SELECT id, site, kind, contact, letter, recipient, key, at, state, tries, next, ended, why " +
	"FROM outgoing "

func scanOutgoing(row *sql.Rows) (o Outgoing, err error) {
	var at, next, ended int64
	err = row.Scan(&o.ID, &o.Site, &o.Kind, &o.Contact, &o.Letter, &o.Recipient, &o.Key, &at, &o.State, &o.Tries, &next,
		&ended, &o.Why)
	o.At, o.Next, o.Ended = fromMillis(at), fromMillis(next), fromMillis(ended)
	return o, err
}

// A Queue is what is to go out of one site, "" for letters about people, to one receiver.
type Queue struct{ Receiver, Site string }

// DueQueues returns those in which something is to be tried now, the longest overdue first.
func (s *Store) DueQueues(ctx context.Context, now time.Time) ([]Queue, error) {
	return query(
		ctx, s.on(), func(row *sql.Rows) (q Queue, err error) { return q, row.Scan(&q.Receiver, &q.Site) },
		"SELECT receiver, site FROM outgoing WHERE state = 'waiting' AND next <= ? GROUP BY receiver, site "+
			"ORDER BY min(next)",
		now.UnixMilli(),
	)
}

// DueOutgoing returns what of a queue is to be tried now, the longest overdue first, limit at most.
func (s *Store) DueOutgoing(ctx context.Context, q Queue, now time.Time, limit int) ([]Outgoing, error) {
	return query(
		ctx, s.on(), scanOutgoing,
		outgoingColumns+"WHERE state = 'waiting' AND receiver = ? AND site = ? AND next <= ? ORDER BY next, id LIMIT ?",
		q.Receiver, q.Site, now.UnixMilli(), limit,
	)
}

// HoldOutgoing has all that waits for a receiver wait until an instant at least.
func (s *Store) HoldOutgoing(ctx context.Context, receiver string, until time.Time) error {
	_, err := s.exec(
		ctx, "UPDATE outgoing SET next = ? WHERE state = 'waiting' AND receiver = ? AND next < ?", until.UnixMilli(),
		receiver, until.UnixMilli(),
	)
	return err
}

// HurryOutgoing has what is to be tried after an instant be tried then: the clock was ahead when
// that was worked out.
func (s *Store) HurryOutgoing(ctx context.Context, until time.Time) error {
	_, err := s.exec(
		ctx, "UPDATE outgoing SET next = ? WHERE state = 'waiting' AND next > ?", until.UnixMilli(), until.UnixMilli(),
	)
	return err
}

// GiveUpOutgoing gives up what was to go out before an instant and was tried.
func (s *Store) GiveUpOutgoing(ctx context.Context, before, now time.Time) error {
	_, err := s.exec(
		ctx, "UPDATE outgoing SET state = 'given-up', ended = ? WHERE state = 'waiting' AND at < ? AND tries > 0",
		now.UnixMilli(), before.UnixMilli(),
	)
	return err
}

// SettleOutgoing keeps how a try went. What was erased meanwhile stays so.
func (s *Store) SettleOutgoing(ctx context.Context, o Outgoing) error {
	ended := int64(0)
	if !o.Ended.IsZero() {
		ended = o.Ended.UnixMilli()
	}
	_, err := s.exec(
		ctx,
		"UPDATE outgoing SET state = ?, tries = ?, next = max(next, ?), ended = ?, why = ? WHERE id = ?",
		o.State,
		o.Tries,
		o.Next.UnixMilli(),
		ended,
		o.Why,
		o.ID,
	)
	return err
}

// RetryOutgoing has something of a site tried again now; ErrNotFound if it is not there or has
// gone out.
func (s *Store) RetryOutgoing(ctx context.Context, site string, id int64, now time.Time) error {
	r, err := s.exec(
		ctx,
		"UPDATE outgoing SET state = 'waiting', tries = 0, next = ? WHERE id = ? AND site = ? AND state "+
			"<> 'done'",
		now.UnixMilli(),
		id,
		site,
	)
	if err != nil {
		return err
	}
	if n, _ := r.RowsAffected(); n == 0 {
		return ErrNotFound
	}
	return nil
}

// Outgoing returns what goes out of a site, or of what is about people where site is "": of one
// contact, or of all where that is ""; the latest first, limit at most.
func (s *Store) Outgoing(ctx context.Context, site, contact string, limit int) ([]Outgoing, error) {
	return query(
		ctx,
		s.on(),
		scanOutgoing,
		outgoingColumns+"WHERE site = ? AND ? IN ('', contact) ORDER BY id DESC LIMIT ?",
		site,
		contact,
		limit,
	)
}

// OutgoingOfLetter returns how the letter of a file goes out; ErrNotFound if it does not.
func (s *Store) OutgoingOfLetter(ctx context.Context, letter string) (Outgoing, error) {
	return one(query(ctx, s.on(), scanOutgoing, outgoingColumns+"WHERE letter = ?", letter))
}

// CountOutgoing returns how much waits to go out, and how much was given up.
func (s *Store) CountOutgoing(ctx context.Context) (waiting, givenUp int, err error) {
	err = s.on().QueryRowContext(
		ctx, "SELECT count(*) FILTER (WHERE state = 'waiting'), count(*) FILTER (WHERE state = 'given-up') FROM outgoing",
	).
		Scan(&waiting, &givenUp)
	return waiting, givenUp, err
}

// ExpireOutgoing removes what went out, or was given up, before an instant, and returns the
// letters as EraseContact does.
func (s *Store) ExpireOutgoing(ctx context.Context, before time.Time) (letters []string, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		const ended = "state <> 'waiting' AND ended < ?"
		if letters, err = dropOutgoing(ctx, tx, ended, before.UnixMilli()); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, "DELETE FROM outgoing WHERE "+ended, before.UnixMilli())
		return err
	})
	if err == nil && len(letters) > 0 {
		s.scrub(ctx)
	}
	return letters, err
}

// IsGone reports whether an error says that something is not there, or not any more.
func IsGone(err error) bool { return errors.Is(err, ErrNotFound) || errors.Is(err, ErrErased) }
