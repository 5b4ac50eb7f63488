// Package store keeps sites, pages, notices with their versions, and people
// in one SQLite file. It decides nothing.
package store

import (
	"context"
	"crypto/rand"
	"database/sql"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver

	"mastflag/core/bundle"
	"mastflag/core/pages"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Errors that callers tell apart.
var (
	ErrNotFound = errors.New("not found")
	ErrExists   = errors.New("already exists")
)

// A Stale error refuses a write that started from an older revision than the
// one that is there.
type Stale struct{ From, Is int }

func (s Stale) Error() string {
	return fmt.Sprintf("this was changed meanwhile: you started from revision %d, it is now %d", s.From, s.Is)
}

// Store is the open file. All methods may be called at once.
type Store struct {
	DB *sql.DB // for the session store alone
}

// FileName is the name of the file within the data folder.
const FileName = "mastflag.db"

// Open opens the file in dir, making folder and file where they are missing,
// and brings its tables up to date.
func Open(ctx context.Context, dir string) (*Store, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("data folder: %w", err)
	}
	dsn := "file:" + filepath.Join(dir, FileName) + "?_txlock=immediate&_pragma=busy_timeout(5000)&_pragma=journal_mode(WAL)&_pragma=synchronous(NORMAL)&_pragma=foreign_keys(1)"
	db, err := sql.Open("sqlite", dsn)
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(8)
	db.SetMaxIdleConns(8)
	sub, _ := fs.Sub(migrations, "migrations")
	p, err := goose.NewProvider(goose.DialectSQLite3, db, sub)
	if err == nil {
		_, err = p.Up(ctx)
	}
	if err != nil {
		db.Close()
		return nil, fmt.Errorf("opening %s: %w", filepath.Join(dir, FileName), err)
	}
	return &Store{DB: db}, nil
}

func (s *Store) Close() error { return s.DB.Close() }

// Ready returns an error if the file cannot be read.
func (s *Store) Ready(ctx context.Context) error { return s.DB.PingContext(ctx) }

// Backup writes a consistent copy to path, which must not exist yet. Readers
// and writers go on meanwhile.
func (s *Store) Backup(ctx context.Context, path string) error {
	if _, err := os.Stat(path); err == nil {
		return fmt.Errorf("%s exists already: name a new file", path)
	}
	_, err := s.DB.ExecContext(ctx, "VACUUM INTO ?", path)
	return err
}

// A Watch notices writes of other processes.
type Watch struct {
	conn *sql.Conn
	last int
}

// Watch returns a Watch; close it when done.
func (s *Store) Watch(ctx context.Context) (*Watch, error) {
	conn, err := s.DB.Conn(ctx)
	if err != nil {
		return nil, err
	}
	w := &Watch{conn: conn}
	_, err = w.Changed(ctx)
	return w, err
}

// Changed reports whether anyone wrote since it was last asked.
func (w *Watch) Changed(ctx context.Context) (bool, error) {
	var v int
	if err := w.conn.QueryRowContext(ctx, "PRAGMA data_version").Scan(&v); err != nil {
		return false, err
	}
	changed := w.last != 0 && v != w.last
	w.last = v
	return changed, nil
}

func (w *Watch) Close() error { return w.conn.Close() }

// Stamp is a text that changes with the sites, pages and notices, and not with
// what visitors do.
func (s *Store) Stamp(ctx context.Context) (stamp string, err error) {
	err = s.DB.QueryRowContext(ctx, `SELECT (SELECT count(*) || ' ' || total(revision) || ' ' || total(surveyed_at) FROM site) || ' ' ||
		(SELECT count(*) || ' ' || total(revision) FROM notice) || ' ' || (SELECT count(*) || ' ' || total(length(doc) + length(path)) FROM page) || ' ' || (SELECT coalesce(max(id), 0) FROM history)`).Scan(&stamp)
	return stamp, err
}

// tx runs f in a transaction that holds the write lock.
func (s *Store) tx(ctx context.Context, f func(*sql.Tx) error) error {
	tx, err := s.DB.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	if err := f(tx); err != nil {
		return err
	}
	return tx.Commit()
}

// Secret returns the random 32 bytes kept under a name, made when first asked for.
func (s *Store) Secret(ctx context.Context, name string) ([]byte, error) {
	fresh := make([]byte, 32)
	if _, err := rand.Read(fresh); err != nil {
		return nil, err
	}
	if _, err := s.DB.ExecContext(ctx, "INSERT INTO secret(name, value) VALUES(?, ?) ON CONFLICT DO NOTHING", name, fresh); err != nil {
		return nil, err
	}
	var kept []byte
	err := s.DB.QueryRowContext(ctx, "SELECT value FROM secret WHERE name = ?", name).Scan(&kept)
	return kept, err
}

// A Site is a site as kept.
type Site struct {
	bundle.Site
	Revision   int
	SurveyedAt time.Time // zero for never
}

// Sites returns all sites, the first made first.
func (s *Store) Sites(ctx context.Context) ([]Site, error) {
	return query(ctx, s.DB, scanSite, "SELECT doc, revision, surveyed_at FROM site ORDER BY rowid")
}

// Site returns one site, or ErrNotFound.
func (s *Store) Site(ctx context.Context, key string) (Site, error) {
	return one(query(ctx, s.DB, scanSite, "SELECT doc, revision, surveyed_at FROM site WHERE key = ?", key))
}

func scanSite(row *sql.Rows) (Site, error) {
	var doc string
	var at int64
	var site Site
	if err := row.Scan(&doc, &site.Revision, &at); err != nil {
		return site, err
	}
	site.SurveyedAt = fromMillis(at)
	return site, json.Unmarshal([]byte(doc), &site.Site)
}

// AddSite keeps a new site; ErrExists if its key is taken.
func (s *Store) AddSite(ctx context.Context, site bundle.Site) error {
	r, err := s.DB.ExecContext(ctx, "INSERT INTO site(key, doc, revision) VALUES(?, ?, 1) ON CONFLICT DO NOTHING", site.Key, encode(site))
	if err != nil {
		return err
	}
	if n, _ := r.RowsAffected(); n == 0 {
		return ErrExists
	}
	return nil
}

// PutSite replaces a site that is at the given revision; Stale if it is not.
// h is put into the history.
func (s *Store) PutSite(ctx context.Context, site bundle.Site, revision int, h Entry) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		have, err := one(query(ctx, tx, scanSite, "SELECT doc, revision, surveyed_at FROM site WHERE key = ?", site.Key))
		if err != nil {
			return err
		}
		if have.Revision != revision {
			return Stale{revision, have.Revision}
		}
		if _, err := tx.ExecContext(ctx, "UPDATE site SET doc = ?, revision = revision + 1 WHERE key = ?", encode(site), site.Key); err != nil {
			return err
		}
		return addHistory(ctx, tx, site.Key, "", h)
	})
}

// What is known about the snippet on a page, other than why it could not be read.
const (
	SnippetFound   = "found"
	SnippetMissing = "missing"
)

// A Page is a page as kept.
type Page struct {
	bundle.Page
	Snippet string
}

// Pages returns the known pages of a site, by path.
func (s *Store) Pages(ctx context.Context, site string) ([]Page, error) {
	return query(ctx, s.DB, func(row *sql.Rows) (Page, error) {
		var doc string
		var p Page
		if err := row.Scan(&doc, &p.Snippet); err != nil {
			return p, err
		}
		return p, json.Unmarshal([]byte(doc), &p.Page)
	}, "SELECT doc, snippet FROM page WHERE site = ? ORDER BY path", site)
}

// PutPages replaces the known pages of a site. at is when they were read from
// the site itself; zero if they were not.
func (s *Store) PutPages(ctx context.Context, site string, list []Page, at time.Time) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, "DELETE FROM page WHERE site = ?", site); err != nil {
			return err
		}
		for _, p := range list {
			path, err := pages.PagePath(p.Path)
			if err != nil {
				return err
			}
			p.Path = path
			if _, err := tx.ExecContext(ctx, "INSERT INTO page(site, path, doc, snippet) VALUES(?, ?, ?, ?) ON CONFLICT DO UPDATE SET doc = excluded.doc, snippet = excluded.snippet", site, path, encode(p.Page), p.Snippet); err != nil {
				return err
			}
		}
		if at.IsZero() {
			return nil
		}
		_, err := tx.ExecContext(ctx, "UPDATE site SET surveyed_at = ? WHERE key = ?", at.UnixMilli(), site)
		return err
	})
}

type queryer interface {
	QueryContext(context.Context, string, ...any) (*sql.Rows, error)
}

// query returns what scan makes of each row.
func query[T any](ctx context.Context, q queryer, scan func(*sql.Rows) (T, error), text string, args ...any) ([]T, error) {
	rows, err := q.QueryContext(ctx, text, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []T
	for rows.Next() {
		v, err := scan(rows)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, rows.Err()
}

// one returns the first of what query found, or ErrNotFound.
func one[T any](list []T, err error) (T, error) {
	var none T
	if err != nil {
		return none, err
	}
	if len(list) == 0 {
		return none, ErrNotFound
	}
	return list[0], nil
}

// encode writes a value of the bundle's shapes, all of which can be written.
func encode(v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		panic(fmt.Sprintf("store: %T cannot be written as JSON: %v", v, err))
	}
	return string(b)
}

func fromMillis(ms int64) time.Time {
	if ms == 0 {
		return time.Time{}
	}
	return time.UnixMilli(ms).UTC()
}
