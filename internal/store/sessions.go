package store

import (
	"context"
	"database/sql"
	"time"
)

// A Session is a browser in which someone is signed in.
type Session struct {
	Mark        []byte // SHA-256 of what the browser holds
	Person      string // address
	Began, Seen time.Time
	Address     string // on the network, that it began from
	Agent       string // browser and system, for people
}

const sessionColumns = "SELECT mark, person, began, seen, address, agent FROM session "

func scanSession(row *sql.Rows) (s Session, err error) {
	var began, seen int64
	err = row.Scan(&s.Mark, &s.Person, &began, &seen, &s.Address, &s.Agent)
	s.Began, s.Seen = fromMillis(began), fromMillis(seen)
	return s, err
}

// familiarNetworks is how many networks are remembered of each person.
const familiarNetworks = 20

// AddSession keeps a session, and that its person has signed in from a network,
// by its mark; ErrNotFound unless the hash of their password is still the one that
// they signed in with.
func (s *Store) AddSession(ctx context.Context, n Session, network []byte, password string) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		r, err := tx.ExecContext(
			ctx, "INSERT INTO session(mark, person, began, seen, address, agent) SELECT ?, email, ?, ?, ?, ? FROM person "+
				"WHERE email = ? AND password = ?",
			n.Mark, n.Began.UnixMilli(), n.Seen.UnixMilli(), n.Address, n.Agent, n.Person, password,
		)
		if err := errIfNone(r, err, ErrNotFound); err != nil {
			return err
		}
		_, err = tx.ExecContext(
			ctx, "INSERT INTO familiar(person, mark, at) VALUES(?, ?, ?) ON CONFLICT DO UPDATE SET at = excluded.at", n.Person,
			network, n.Began.UnixMilli(),
		)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(
			ctx,
			"DELETE FROM familiar WHERE person = ? AND mark NOT IN (SELECT mark FROM familiar WHERE person = ? ORDER BY at "+
				"DESC LIMIT ?)",
			n.Person, n.Person, familiarNetworks,
		)
		return err
	})
}

// Familiar reports whether a person has signed in from a network before.
func (s *Store) Familiar(ctx context.Context, person string, network []byte) (bool, error) {
	list, err := query(
		ctx, s.on(), func(row *sql.Rows) (n int, err error) { return n, row.Scan(&n) },
		"SELECT 1 FROM familiar WHERE person = ? AND mark = ?", person, network,
	)
	return len(list) > 0, err
}

// Session returns the session of a mark and its person, or ErrNotFound.
func (s *Store) Session(ctx context.Context, mark []byte) (Session, Person, error) {
	n, err := one(query(ctx, s.on(), scanSession, sessionColumns+"WHERE mark = ?", mark))
	if err != nil {
		return n, Person{}, err
	}
	p, err := s.Person(ctx, n.Person)
	return n, p, err
}

// Sessions returns the sessions of a person, the last used first.
func (s *Store) Sessions(ctx context.Context, person string) ([]Session, error) {
	return query(ctx, s.on(), scanSession, sessionColumns+"WHERE person = ? ORDER BY seen DESC, mark", person)
}

// SeeSessions notes when sessions were last used, by mark.
func (s *Store) SeeSessions(ctx context.Context, seen map[string]time.Time) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		for mark, at := range seen {
			if _, err := tx.ExecContext(
				ctx, "UPDATE session SET seen = max(seen, ?) WHERE mark = ?", at.UnixMilli(), []byte(mark),
			); err != nil {
				return err
			}
		}
		return nil
	})
}

// EndSession ends one session of a person.
func (s *Store) EndSession(ctx context.Context, person string, mark []byte) error {
	_, err := s.exec(ctx, "DELETE FROM session WHERE person = ? AND mark = ?", person, mark)
	return err
}

// EndSessions ends all sessions of a person but the one with that mark, which
// may be nil.
func (s *Store) EndSessions(ctx context.Context, person string, but []byte) error {
	_, err := s.exec(ctx, "DELETE FROM session WHERE person = ? AND mark IS NOT ?", person, but)
	return err
}

// ForgetSessions removes the sessions that began, or were last used, before.
func (s *Store) ForgetSessions(ctx context.Context, began, seen time.Time) error {
	_, err := s.exec(ctx, "DELETE FROM session WHERE began < ? OR seen < ?", began.UnixMilli(), seen.UnixMilli())
	return err
}
