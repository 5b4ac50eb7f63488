package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"slices"
	"time"
)

// A Person may sign in.
type Person struct {
	Email, Name, Role string
	Sites             []string // keys of the sites they work on; all if empty
	Password          string   // its hash
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

const putPerson = "INSERT INTO person(email, name, role, sites, password, contacts) VALUES(?, ?, ?, ?, ?, ?) ON " +
	"CONFLICT DO UPDATE SET name = excluded.name, role = excluded.role, sites = excluded.sites, password = " +
	"excluded.password, contacts = excluded.contacts"

// PutPerson keeps a person, replacing one of the same address.
func (s *Store) PutPerson(ctx context.Context, p Person) error {
	_, err := s.exec(ctx, putPerson, p.Email, p.Name, p.Role, encode(siteList(p.Sites)), p.Password, p.Contacts)
	return err
}

func siteList(sites []string) []string { return append([]string{}, sites...) }

// ChangePeople replaces, in one step, whom f says of all people; those it
// leaves out may not sign in any more.
func (s *Store) ChangePeople(ctx context.Context, f func([]Person) ([]Person, error)) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		before, err := query(ctx, tx, scanPerson, personColumns+"ORDER BY name, email")
		if err != nil {
			return err
		}
		after, err := f(slices.Clone(before))
		if err != nil {
			return err
		}
		for _, p := range before {
			if !slices.ContainsFunc(after, func(q Person) bool { return q.Email == p.Email }) {
				if _, err := tx.ExecContext(ctx, "DELETE FROM person WHERE email = ?", p.Email); err != nil {
					return err
				}
			}
		}
		for _, p := range after {
			if _, err := tx.ExecContext(
				ctx, putPerson, p.Email, p.Name, p.Role, encode(siteList(p.Sites)), p.Password, p.Contacts,
			); err != nil {
				return err
			}
		}
		return nil
	})
}

// An Invitation lets someone in who has its token.
type Invitation struct {
	Person
	Token string // SHA-256 of what the message holds
	Ends  time.Time
}

const invitationColumns = "SELECT token, email, name, role, sites, ends, contacts FROM invitation "

func scanInvitation(row *sql.Rows) (i Invitation, err error) {
	var sites string
	var ends int64
	if err := row.Scan(&i.Token, &i.Email, &i.Name, &i.Role, &sites, &ends, &i.Contacts); err != nil {
		return i, err
	}
	i.Ends = fromMillis(ends)
	return i, json.Unmarshal([]byte(sites), &i.Sites)
}

// Invitations returns those that nobody has taken yet, by address.
func (s *Store) Invitations(ctx context.Context) ([]Invitation, error) {
	return query(ctx, s.on(), scanInvitation, invitationColumns+"ORDER BY email")
}

// Invitation returns the one with a token, or ErrNotFound.
func (s *Store) Invitation(ctx context.Context, token string) (Invitation, error) {
	return one(query(ctx, s.on(), scanInvitation, invitationColumns+"WHERE token = ?", token))
}

// PutInvitation keeps an invitation, replacing one to the same address, and
// the message that carries it.
func (s *Store) PutInvitation(ctx context.Context, i Invitation, m Message) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, "DELETE FROM invitation WHERE email = ?", i.Email); err != nil {
			return err
		}
		if _, err := tx.ExecContext(
			ctx, "INSERT INTO invitation(token, email, name, role, sites, ends, contacts) VALUES(?, ?, ?, ?, ?, ?, ?)",
			i.Token, i.Email, i.Name, i.Role, encode(siteList(i.Sites)), i.Ends.UnixMilli(), i.Contacts,
		); err != nil {
			return err
		}
		return addMessage(ctx, tx, m)
	})
}

// TakeInvitation makes a person of an invitation, which is then gone;
// ErrNotFound if it is gone already.
func (s *Store) TakeInvitation(ctx context.Context, token string, p Person) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		r, err := tx.ExecContext(ctx, "DELETE FROM invitation WHERE token = ?", token)
		if err != nil {
			return err
		}
		if n, _ := r.RowsAffected(); n == 0 {
			return ErrNotFound
		}
		if _, err = tx.ExecContext(
			ctx, putPerson, p.Email, p.Name, p.Role, encode(siteList(p.Sites)), p.Password, p.Contacts,
		); err != nil {
			return err
		}
		// Whoever was signed in with the old password is no longer.
		_, err = tx.ExecContext(ctx, "DELETE FROM session WHERE person = ?", p.Email)
		return err
	})
}

// InvitationTo returns the one to an address, or ErrNotFound.
func (s *Store) InvitationTo(ctx context.Context, email string) (Invitation, error) {
	return one(query(ctx, s.on(), scanInvitation, invitationColumns+"WHERE email = ?", email))
}

// DropInvitation takes back the invitation to an address.
func (s *Store) DropInvitation(ctx context.Context, email string) error {
	_, err := s.exec(ctx, "DELETE FROM invitation WHERE email = ?", email)
	return err
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
