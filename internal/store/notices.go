package store

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/rights"
	"mastflag/internal/history"
)

// A Notice is a notice as kept: perhaps a version that is out, perhaps a
// draft of the next.
type Notice struct {
	ID          string
	Revision    int
	State       bundle.State
	Draft       *bundle.Notice // nil if there is none
	Published   *bundle.Notice // the version that is out or paused, nil if none is
	Number      int            // of Published, 0 if there is none
	PublishedAt time.Time
	ChangedAt   time.Time
	ChangedBy   By
	Deleted     bool
}

// Working returns what is being worked on: the draft, or else what is out.
func (n Notice) Working() bundle.Notice {
	d := n.Published
	if n.Draft != nil {
		d = n.Draft
	}
	return n.with(*d)
}

// Out returns what the bundle holds of it: the published version with its
// state, or the draft where none is out.
func (n Notice) Out() bundle.Notice {
	if n.Published == nil {
		return n.with(*n.Draft)
	}
	return n.with(*n.Published)
}

func (n Notice) with(d bundle.Notice) bundle.Notice {
	d.ID, d.State, d.PublishedAt = n.ID, n.State, nil
	if n.State != bundle.Draft && !n.PublishedAt.IsZero() {
		at := n.PublishedAt
		d.PublishedAt = &at
	}
	return d
}

// Rights are what rights to the notice depend on.
func (n Notice) Rights() rights.Notice {
	return rights.Notice{State: n.State, Published: n.Published, Draft: n.Draft, Deleted: n.Deleted}
}

// By is who did something: a person by e-mail address, or what has only a name: a feed, a
// command. Name is the person's name at that time.
type By struct{ Person, Name string }

// ID returns what two deeds of the same one share.
func (b By) ID() string { return cmp.Or(b.Person, b.Name) }

// An Entry is one line of a notice's history.
type Entry struct {
	ID     int64
	At     time.Time
	By     By
	Deed   history.Deed
	Line   string // the order line after it
	Number int    // of the version it made or used, 0 for none
	Doc    *bundle.Notice
}

const noticeColumns = `SELECT n.id, n.revision, n.state, n.draft, v.doc, n.published, n.published_at, n.changed_at, ` +
	`n.changed_by, n.changed_by_person, n.deleted_at IS NOT NULL
	FROM notice n LEFT JOIN version v ON v.site = n.site AND v.notice = n.id AND v.number = n.published `

func scanNotice(row *sql.Rows) (Notice, error) {
	var n Notice
	var draft, published sql.NullString
	var number, publishedAt sql.NullInt64
	var changedAt int64
	err := row.Scan(
		&n.ID, &n.Revision, &n.State, &draft, &published, &number, &publishedAt, &changedAt, &n.ChangedBy.Name,
		&n.ChangedBy.Person, &n.Deleted,
	)
	if err != nil {
		return n, err
	}
	n.Number, n.PublishedAt, n.ChangedAt = int(number.Int64), fromMillis(publishedAt.Int64), fromMillis(changedAt)
	if n.Draft, err = decodeNotice(draft); err != nil {
		return n, err
	}
	n.Published, err = decodeNotice(published)
	return n, err
}

func decodeNotice(s sql.NullString) (*bundle.Notice, error) {
	if !s.Valid {
		return nil, nil
	}
	var n bundle.Notice
	return &n, json.Unmarshal([]byte(s.String), &n)
}

// Notices returns the notices of a site that are not deleted, by id.
func (s *Store) Notices(ctx context.Context, site string) ([]Notice, error) {
	return query(ctx, s.on(), scanNotice, noticeColumns+"WHERE n.site = ? AND n.deleted_at IS NULL ORDER BY n.id", site)
}

// A Status is what of a notice is not in what visitors get.
type Status struct {
	Revision int
	HasDraft bool // a draft of the next version waits behind what is out
}

// Statuses returns the status of each notice that is not deleted, by id.
func (s *Store) Statuses(ctx context.Context, site string) (map[string]Status, error) {
	out := map[string]Status{}
	_, err := query(ctx, s.on(), func(row *sql.Rows) (none struct{}, err error) {
		var id string
		var st Status
		err = row.Scan(&id, &st.Revision, &st.HasDraft)
		out[id] = st
		return none, err
	}, "SELECT id, revision, draft IS NOT NULL AND published IS NOT NULL FROM notice WHERE site = ? AND deleted_at IS "+
		"NULL", site)
	return out, err
}

// Notice returns one notice, deleted or not, or ErrNotFound.
func (s *Store) Notice(ctx context.Context, site, id string) (Notice, error) {
	return one(query(ctx, s.on(), scanNotice, noticeColumns+"WHERE n.site = ? AND n.id = ?", site, id))
}

// AddNotice keeps a new notice as a draft; ErrExists if its id is taken.
func (s *Store) AddNotice(ctx context.Context, site string, doc bundle.Notice, h Entry) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		r, err := tx.ExecContext(
			ctx,
			"INSERT INTO notice(site, id, revision, state, draft, changed_at, changed_by, changed_by_person) "+
				"VALUES(?, ?, 1, 'draft', ?, ?, ?, ?) ON CONFLICT DO NOTHING",
			site, doc.ID, encode(plain(doc)), h.At.UnixMilli(), h.By.Name, h.By.Person,
		)
		if err != nil {
			return err
		}
		if n, _ := r.RowsAffected(); n == 0 {
			return ErrExists
		}
		if err := stamp(ctx, tx, site); err != nil {
			return err
		}
		return addHistory(ctx, tx, site, doc.ID, h)
	})
}

// plain is a notice without what the row itself keeps.
func plain(d bundle.Notice) bundle.Notice {
	d.State, d.PublishedAt = "", nil
	return d
}

// Change alters a notice that is at the given revision, by a function that
// alters the value and says what to put into the history; Stale if it is at
// another. next is the number that a new version gets; where the function sets
// Number to it, Published becomes that version, for good.
func (s *Store) Change(
	ctx context.Context,
	site, id string,
	revision int,
	change func(n *Notice, next int) (Entry, error),
) (Notice, error) {
	var n Notice
	err := s.tx(ctx, func(tx *sql.Tx) error {
		var err error
		if n, err = one(query(ctx, tx, scanNotice, noticeColumns+"WHERE n.site = ? AND n.id = ?", site, id)); err != nil {
			return err
		}
		if n.Revision != revision {
			return Stale{revision, n.Revision}
		}
		before, wasDeleted := encode(n.Out()), n.Deleted
		var next int
		if err := tx.QueryRowContext(
			ctx, "SELECT coalesce(max(number), 0) + 1 FROM version WHERE site = ? AND notice = ?", site, id,
		).Scan(&next); err != nil {
			return err
		}
		h, err := change(&n, next)
		if err != nil {
			return err
		}
		if n.Draft == nil && n.Published == nil {
			return fmt.Errorf("notice %s would be left without any text", id)
		}
		if n.Number == next {
			if _, err := tx.ExecContext(
				ctx, "INSERT INTO version(site, notice, number, doc) VALUES(?, ?, ?, ?)", site, id, n.Number,
				encode(plain(*n.Published)),
			); err != nil {
				return err
			}
		}
		var draft, number, publishedAt, deletedAt any
		if n.Draft != nil {
			draft = encode(plain(*n.Draft))
		}
		if n.Published != nil {
			number = n.Number
		}
		if !n.PublishedAt.IsZero() {
			publishedAt = n.PublishedAt.UnixMilli()
		}
		if n.Deleted {
			deletedAt = h.At.UnixMilli()
		}
		n.Revision, n.ChangedAt, n.ChangedBy = n.Revision+1, h.At, h.By
		if _, err := tx.ExecContext(
			ctx,
			"UPDATE notice SET revision = ?, state = ?, draft = ?, published = ?, published_at = ?, changed_at = ?, "+
				"changed_by = ?, changed_by_person = ?, deleted_at = ? WHERE site = ? AND id = ?",
			n.Revision, n.State, draft, number, publishedAt, h.At.UnixMilli(), h.By.Name, h.By.Person, deletedAt, site, id,
		); err != nil {
			return err
		}
		if encode(n.Out()) != before || n.Deleted != wasDeleted {
			if err := stamp(ctx, tx, site); err != nil {
				return err
			}
		}
		if h.Deed.Act == "" {
			return nil
		}
		return addHistory(ctx, tx, site, id, h)
	})
	return n, err
}

// Version returns one published version, or ErrNotFound.
func (s *Store) Version(ctx context.Context, site, id string, number int) (bundle.Notice, error) {
	return one(query(ctx, s.on(), func(row *sql.Rows) (n bundle.Notice, err error) {
		var doc string
		if err = row.Scan(&doc); err != nil {
			return n, err
		}
		return n, json.Unmarshal([]byte(doc), &n)
	}, "SELECT doc FROM version WHERE site = ? AND notice = ? AND number = ?", site, id, number))
}

// AddHistory puts a line into the history of a notice, or of the site where
// notice is "".
func (s *Store) AddHistory(ctx context.Context, site, notice string, h Entry) error {
	return s.tx(ctx, func(tx *sql.Tx) error { return addHistory(ctx, tx, site, notice, h) })
}

func addHistory(ctx context.Context, tx *sql.Tx, site, notice string, h Entry) error {
	var number, doc any
	if h.Number != 0 {
		number = h.Number
	}
	if h.Doc != nil {
		doc = encode(plain(*h.Doc))
	}
	_, err := tx.ExecContext(
		ctx, "INSERT INTO history(site, notice, at, who, person, act, args, line, number, doc) VALUES(?, ?, ?, ?, ?, ?, ?, "+
			"?, ?, ?)",
		site, notice, h.At.UnixMilli(), h.By.Name, h.By.Person, h.Deed.Act, encode(h.Deed.Args), h.Line, number, doc,
	)
	return err
}

// History returns the latest lines of a notice's history, the newest first,
// 200 at most.
func (s *Store) History(ctx context.Context, site, notice string) ([]Entry, error) {
	return query(ctx, s.on(), func(row *sql.Rows) (Entry, error) {
		var h Entry
		var at int64
		var number sql.NullInt64
		var doc sql.NullString
		var args string
		if err := row.Scan(&h.ID, &at, &h.By.Name, &h.By.Person, &h.Deed.Act, &args, &h.Line, &number, &doc); err != nil {
			return h, err
		}
		h.At, h.Number = fromMillis(at), int(number.Int64)
		err := json.Unmarshal([]byte(args), &h.Deed.Args)
		if err != nil {
			return h, err
		}
		h.Doc, err = decodeNotice(doc)
		return h, err
	}, `SELECT id, at, who, person, act, args, line, number, doc FROM history
		WHERE site = ? AND notice = ? ORDER BY id DESC LIMIT 200`, site, notice)
}
