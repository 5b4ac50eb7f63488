package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"time"

	"mastflag/core/alert"
)

// A Received is a message that came by a feed of a site.
type Received struct {
	ID       int64
	Feed     string
	At       time.Time
	Message  alert.Message
	Kind     string // of the message, or "broken"
	Status   alert.Status
	Notice   string // the notice that it makes, changes or ends
	Headline string
	Why      string
	// As it came; read back its first part alone, and only of what waits or cannot be read.
	Raw []byte
}

// A FeedState is how asking a feed last went.
type FeedState struct {
	ETag, Modified  string
	Asked, Answered time.Time // zero for never
	Failures        int
	Why             string
}

const receivedColumns = "SELECT id, feed, at, kind, state, notice, headline, why, message, CASE WHEN state IN " +
	"('waiting', 'broken') THEN substr(raw, 1, 4000) ELSE x'' END FROM received "

func scanReceived(row *sql.Rows) (Received, error) {
	var r Received
	var at int64
	var message string
	if err := row.Scan(
		&r.ID, &r.Feed, &at, &r.Kind, &r.Status, &r.Notice, &r.Headline, &r.Why, &message, &r.Raw,
	); err != nil {
		return r, err
	}
	r.At = fromMillis(at)
	if message == "" {
		return r, nil
	}
	if err := json.Unmarshal([]byte(message), &r.Message); err != nil {
		return r, fmt.Errorf("message %d: %w", r.ID, err)
	}
	return r, nil
}

// AddReceived keeps a message that came; fresh is false if it came before.
func (s *Store) AddReceived(ctx context.Context, site string, r Received) (id int64, fresh bool, err error) {
	message := ""
	if r.Kind != string(alert.Broken) {
		b, err := json.Marshal(r.Message)
		if err != nil {
			return 0, false, err
		}
		message = string(b)
	}
	done, err := s.exec(
		ctx,
		"INSERT INTO received(site, feed, sender, identifier, sent, at, kind, state, notice, headline, why, message, raw) "+
			"VALUES(?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO NOTHING",
		site, r.Feed, r.Message.Sender, r.Message.ID, r.Message.Sent.UnixMilli(), r.At.UnixMilli(), r.Kind, r.Status,
		r.Notice, r.Headline, r.Why, message, r.Raw,
	)
	if err != nil {
		return 0, false, err
	}
	if n, _ := done.RowsAffected(); n == 0 {
		return 0, false, nil
	}
	id, err = done.LastInsertId()
	return id, true, err
}

// SetReceived says what became of a message.
func (s *Store) SetReceived(
	ctx context.Context,
	site string,
	id int64,
	standing alert.Status,
	notice, why string,
) error {
	_, err := s.exec(
		ctx, "UPDATE received SET state = ?, notice = ?, why = ? WHERE site = ? AND id = ?", standing, notice, why, site, id,
	)
	return err
}

// Received returns the latest messages of a site's feeds, the newest first, 200
// at most, and all that wait.
func (s *Store) Received(ctx context.Context, site string) ([]Received, error) {
	return query(
		ctx, s.on(), scanReceived,
		receivedColumns+"WHERE site = ? AND (state = 'waiting' OR id IN (SELECT id FROM received WHERE site = ? ORDER BY "+
			"id DESC LIMIT 200)) ORDER BY id DESC",
		site, site,
	)
}

// ReceivedWaiting returns the messages that wait, the newest first.
func (s *Store) ReceivedWaiting(ctx context.Context, site string) ([]Received, error) {
	return query(ctx, s.on(), scanReceived, receivedColumns+"WHERE site = ? AND state = 'waiting' ORDER BY id DESC", site)
}

// ReceivedMessage returns one message, or ErrNotFound.
func (s *Store) ReceivedMessage(ctx context.Context, site string, id int64) (Received, error) {
	return one(query(ctx, s.on(), scanReceived, receivedColumns+"WHERE site = ? AND id = ?", site, id))
}

// ReceivedAs returns the messages of a feed with a sender and an identifier,
// the newest first.
func (s *Store) ReceivedAs(ctx context.Context, site, feed, sender, identifier string) ([]Received, error) {
	return query(
		ctx, s.on(), scanReceived,
		receivedColumns+"WHERE site = ? AND feed = ? AND sender = ? AND identifier = ? ORDER BY sent DESC", site, feed,
		sender, identifier,
	)
}

// ForgetReceived removes the messages that came before an instant and neither
// wait nor are out.
func (s *Store) ForgetReceived(ctx context.Context, before time.Time) error {
	_, err := s.exec(ctx, "DELETE FROM received WHERE at < ? AND state NOT IN ('waiting', 'out')", before.UnixMilli())
	return err
}

// ReceivedFor returns the messages that belong to a notice, the newest first.
func (s *Store) ReceivedFor(ctx context.Context, site, notice string) ([]Received, error) {
	return query(
		ctx, s.on(), scanReceived, receivedColumns+"WHERE site = ? AND notice = ? AND notice <> '' ORDER BY sent DESC", site,
		notice,
	)
}

// FeedState returns how asking a feed last went; the zero state if it never was
// asked.
func (s *Store) FeedState(ctx context.Context, site, feed string) (FeedState, error) {
	st, err := one(query(ctx, s.on(), func(row *sql.Rows) (f FeedState, err error) {
		var asked, answered int64
		err = row.Scan(&f.ETag, &f.Modified, &asked, &answered, &f.Failures, &f.Why)
		f.Asked, f.Answered = fromMillis(asked), fromMillis(answered)
		return f, err
	}, "SELECT etag, modified, asked, answered, failures, why FROM feed WHERE site = ? AND name = ?", site, feed))
	if err == ErrNotFound {
		return FeedState{}, nil
	}
	return st, err
}

// PutFeedState keeps how asking a feed went.
func (s *Store) PutFeedState(ctx context.Context, site, feed string, f FeedState) error {
	millis := func(t time.Time) int64 {
		if t.IsZero() {
			return 0
		}
		return t.UnixMilli()
	}
	_, err := s.exec(
		ctx,
		"INSERT INTO feed(site, name, etag, modified, asked, answered, failures, why) VALUES(?, ?, ?, ?, ?, ?, ?, ?) ON "+
			"CONFLICT DO UPDATE SET etag = excluded.etag, modified = excluded.modified, asked = excluded.asked, answered = "+
			"excluded.answered, failures = excluded.failures, why = excluded.why",
		site, feed, f.ETag, f.Modified, millis(f.Asked), millis(f.Answered), f.Failures, f.Why,
	)
	return err
}

// DropSecret forgets a secret: what was made with it no longer holds, and the
// next that is asked for is another.
func (s *Store) DropSecret(ctx context.Context, name string) error {
	_, err := s.exec(ctx, "DELETE FROM secret WHERE name = ?", name)
	return err
}
