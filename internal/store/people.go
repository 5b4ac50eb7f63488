package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"slices"
	"time"

	"mastflag/core/rights"
)

// A Person may sign in, once they have a password; until then they are invited.
type Person struct {
	Email, Name, Role string
	Sites             []string // keys of the sites they work on; all if empty
	Password          string   // its hash, "" of whoever is invited
	// They may see what visitors filled in; administrators may in any case.
	Contacts bool
}

// On reports whether the person works on a site.
func (p Person) On(site string) bool { return len(p.Sites) == 0 || slices.Contains(p.Sites, site) }

// MayTouch reports whether an administrator may change another person: every
// site that the other works on is theirs.
func (p Person) MayTouch(other Person) bool {
	return len(p.Sites) == 0 || len(other.Sites) > 0 && !slices.ContainsFunc(
		other.Sites, func(site string) bool { return !p.On(site) },
	)
}

// Rights are what rights depend on of the person.
func (p Person) Rights() rights.Person { return rights.Person{Role: p.Role, Contacts: p.Contacts} }

const personColumns = "SELECT email, name, role, sites, password, contacts FROM person "

func scanPerson(row *sql.Rows) (p Person, err error) {
	var sites string
	if err := row.Scan(&p.Email, &p.Name, &p.Role, &sites, &p.Password, &p.Contacts); err != nil {
		return p, err
	}
	return p, json.Unmarshal([]byte(sites), &p.Sites)
}

// Person returns the person of that address, or ErrNotFound.
func (s *Store) Person(ctx context.Context, email string) (Person, error) {
	return one(query(ctx, s.on(), scanPerson, personColumns+"WHERE email = ?", email))
}

// People returns all people, by name.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	return query(ctx, s.on(), scanPerson, personColumns+"ORDER BY name, email")
}

// errIfNone is what a write that found no row returns: wrong.
func errIfNone(r sql.Result, err, wrong error) error {
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n > 0 {
		return err
	}
	return wrong
}

// AddPerson keeps a new person; ErrExists if the address is taken. One without a password is
// invited.
func (s *Store) AddPerson(ctx context.Context, p Person) error {
	r, err := s.exec(
		ctx, "INSERT INTO person(email, name, role, sites, password, contacts) VALUES(?, ?, ?, ?, ?, ?) "+
			"ON CONFLICT DO NOTHING",
		p.Email, p.Name, p.Role, encode(siteList(p.Sites)), p.Password, p.Contacts,
	)
	return errIfNone(r, err, ErrExists)
}

func siteList(sites []string) []string { return append([]string{}, sites...) }

// SetRights keeps what a person may do, and nothing else of them. Letters to them end now, and so
// do those they sent that they could not send any more; it returns those.
func (s *Store) SetRights(ctx context.Context, p Person, now time.Time) (ended []Invitation, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		r, err := tx.ExecContext(
			ctx, "UPDATE person SET role = ?, sites = ?, contacts = ? WHERE email = ?", p.Role, encode(siteList(p.Sites)),
			p.Contacts, p.Email,
		)
		if err := errIfNone(r, err, ErrNotFound); err != nil {
			return err
		}
		ended, err = endLetters(ctx, tx, now, func(i Invitation) bool {
			return i.Email == p.Email ||
				i.Sender == p.Email && i.Purpose == ToJoin && (p.Role != rights.Administrator || !p.MayTouch(i.Person))
		})
		return err
	})
	return ended, err
}

// GiveSite adds a site to those a person works on, unless they work on all.
func (s *Store) GiveSite(ctx context.Context, email, site string) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		p, err := one(query(ctx, tx, scanPerson, personColumns+"WHERE email = ?", email))
		if err != nil || p.On(site) {
			return err
		}
		_, err = tx.ExecContext(
			ctx, "UPDATE person SET sites = ? WHERE email = ?", encode(append(siteList(p.Sites), site)), email,
		)
		return err
	})
}

// SetPassword puts the hash of a password in place of the one that was read; ErrNotFound where
// that is not there any more. Letters to the person end now; it returns those.
func (s *Store) SetPassword(
	ctx context.Context, email, was, hash string, now time.Time,
) (ended []Invitation, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		if err := rehash(ctx, tx, email, was, hash); err != nil {
			return err
		}
		ended, err = endLetters(ctx, tx, now, func(i Invitation) bool { return i.Email == email })
		return err
	})
	return ended, err
}

// Rehash is SetPassword of the same password, hashed anew: letters hold.
func (s *Store) Rehash(ctx context.Context, email, was, hash string) error {
	return s.tx(ctx, func(tx *sql.Tx) error { return rehash(ctx, tx, email, was, hash) })
}

func rehash(ctx context.Context, tx *sql.Tx, email, was, hash string) error {
	r, err := tx.ExecContext(ctx, "UPDATE person SET password = ? WHERE email = ? AND password = ?", hash, email, was)
	return errIfNone(r, err, ErrNotFound)
}

// RemovePerson has someone sign in no more: person, sessions and the letter to them are gone, and
// the invitations that they sent end now. It returns the letters that hold no longer.
func (s *Store) RemovePerson(ctx context.Context, email string, now time.Time) (ended []Invitation, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		ended, err = endLetters(ctx, tx, now, func(i Invitation) bool {
			return i.Email == email || i.Sender == email && i.Purpose == ToJoin
		})
		if err != nil {
			return err
		}
		r, err := tx.ExecContext(ctx, "DELETE FROM person WHERE email = ?", email)
		return errIfNone(r, err, ErrNotFound)
	})
	return ended, err
}

// What an invitation is for.
const (
	ToJoin   = "join"     // someone who is invited
	Password = "password" // someone who works here chooses a new one
)

// An Invitation lets in the person whom its letter is for. It ends with every change of what they
// may do and of their password; one to join also once its sender could not send it any more.
type Invitation struct {
	Person         // as they are now
	Token   string // SHA-256 of what the letter holds
	Sender  string // address
	Purpose string // ToJoin, Password
	Ends    time.Time
}

const invitationColumns = "SELECT i.token, i.sender, i.purpose, i.ends, p.email, p.name, p.role, p.sites, " +
	"p.password, p.contacts FROM invitation i JOIN person p ON p.email = i.person "

func scanInvitation(row *sql.Rows) (i Invitation, err error) {
	var sites string
	var ends int64
	if err := row.Scan(
		&i.Token, &i.Sender, &i.Purpose, &ends, &i.Email, &i.Name, &i.Role, &sites, &i.Password, &i.Contacts,
	); err != nil {
		return i, err
	}
	i.Ends = fromMillis(ends)
	return i, json.Unmarshal([]byte(sites), &i.Sites)
}

// Invitations returns those that nobody has taken yet, by address, those that have ended too.
func (s *Store) Invitations(ctx context.Context) ([]Invitation, error) {
	return query(ctx, s.on(), scanInvitation, invitationColumns+"ORDER BY p.email")
}

// Invitation returns the one with a token, or ErrNotFound.
func (s *Store) Invitation(ctx context.Context, token string) (Invitation, error) {
	return one(query(ctx, s.on(), scanInvitation, invitationColumns+"WHERE i.token = ?", token))
}

// InvitationTo returns the one to an address, or ErrNotFound.
func (s *Store) InvitationTo(ctx context.Context, email string) (Invitation, error) {
	return one(query(ctx, s.on(), scanInvitation, invitationColumns+"WHERE p.email = ?", email))
}

// endLetters ends those that hold and that f is true of, and returns them.
func endLetters(
	ctx context.Context, tx *sql.Tx, now time.Time, f func(Invitation) bool,
) (ended []Invitation, err error) {
	all, err := query(ctx, tx, scanInvitation, invitationColumns+"WHERE i.ends > ?", now.UnixMilli())
	if err != nil {
		return nil, err
	}
	for _, i := range all {
		if !f(i) {
			continue
		}
		if _, err := tx.ExecContext(
			ctx, "UPDATE invitation SET ends = ? WHERE token = ?", now.UnixMilli(), i.Token,
		); err != nil {
			return nil, err
		}
		ended = append(ended, i)
	}
	return ended, nil
}

// PutInvitation keeps an invitation, replacing one to the same person, and the message that
// carries it. Its person is there already.
func (s *Store) PutInvitation(ctx context.Context, i Invitation, m Message) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(
			ctx, "INSERT INTO invitation(token, person, sender, purpose, ends) VALUES(?, ?, ?, ?, ?) "+
				"ON CONFLICT(person) DO UPDATE SET token = excluded.token, sender = excluded.sender, "+
				"purpose = excluded.purpose, ends = excluded.ends",
			i.Token, i.Email, i.Sender, i.Purpose, i.Ends.UnixMilli(),
		); err != nil {
			return err
		}
		return addMessage(ctx, tx, m)
	})
}

// Join has the person of an invitation that holds sign in with a password from now on, under a
// name, and returns them; the invitation is then gone, and their sessions are. ErrNotFound if it
// is gone already, or has ended.
func (s *Store) Join(ctx context.Context, token, name, hash string, now time.Time) (p Person, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		i, err := one(query(
			ctx, tx, scanInvitation, invitationColumns+"WHERE i.token = ? AND i.ends > ?", token, now.UnixMilli(),
		))
		if err != nil {
			return err
		}
		p = i.Person
		p.Name, p.Password = name, hash
		for _, write := range []struct {
			text string
			args []any
		}{
			{"UPDATE person SET name = ?, password = ? WHERE email = ?", []any{name, hash, p.Email}},
			{"DELETE FROM invitation WHERE token = ?", []any{token}},
			// Whoever was signed in with the old password is no longer.
			{"DELETE FROM session WHERE person = ?", []any{p.Email}},
		} {
			if _, err := tx.ExecContext(ctx, write.text, write.args...); err != nil {
				return err
			}
		}
		return nil
	})
	return p, err
}

// A Message is mail that the program sent.
type Message struct {
	ID                int64
	At                time.Time
	From              string // address of whoever had it sent
	To, Subject, Body string
	// The file that holds the whole of it, where what lets someone in is left out
	// of Body; and whether nobody but the recipient is to read that.
	Letter  string
	Private bool
}

// AddMessage puts a message into the mailbox.
func (s *Store) AddMessage(ctx context.Context, m Message) error {
	return s.tx(ctx, func(tx *sql.Tx) error { return addMessage(ctx, tx, m) })
}

func addMessage(ctx context.Context, tx *sql.Tx, m Message) error {
	_, err := tx.ExecContext(
		ctx, "INSERT INTO message(at, sender, recipient, subject, body, letter, private) VALUES(?, ?, ?, ?, ?, ?, ?)",
		m.At.UnixMilli(), m.From, m.To, m.Subject, m.Body, m.Letter, m.Private,
	)
	return err
}

// Messages returns the latest messages of a sender, or of all if from is "",
// the newest first, 100 at most.
func (s *Store) Messages(ctx context.Context, from string) ([]Message, error) {
	return query(ctx, s.on(), func(row *sql.Rows) (m Message, err error) {
		var at int64
		err = row.Scan(&m.ID, &at, &m.From, &m.To, &m.Subject, &m.Body, &m.Letter, &m.Private)
		m.At = fromMillis(at)
		return m, err
	}, "SELECT id, at, sender, recipient, subject, body, letter, private FROM message WHERE ? IN ('', sender) ORDER BY "+
		"id DESC LIMIT 100", from)
}

// An Activity is a line of history with the notice it is about; "" for the site.
type Activity struct {
	Entry
	Notice string
}

// Activity returns the latest lines of all history of a site, and of what was done
// about people if people is set; of one, by By.ID, or of all if who is "". The
// newest come first, 200 at most.
func (s *Store) Activity(ctx context.Context, site, who string, people bool) ([]Activity, error) {
	return query(ctx, s.on(), func(row *sql.Rows) (d Activity, err error) {
		var at int64
		var args string
		err = row.Scan(&d.ID, &d.Notice, &at, &d.By.Name, &d.By.Person, &d.Deed.Act, &args, &d.Line)
		d.At = fromMillis(at)
		if err == nil {
			err = json.Unmarshal([]byte(args), &d.Deed.Args)
		}
		return d, err
	}, `SELECT id, notice, at, who, person, act, args, line FROM history WHERE (site = ? OR ? AND site = '')
		AND ? IN ('', iif(person = '', who, person)) ORDER BY id DESC LIMIT 200`, site, people, who)
}
