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
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

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

// Store is the open file, or within Together one transaction on it. All methods
// may be called at once.
type Store struct {
	db       *sql.DB
	dir      string
	txn      *sql.Tx // within Together; nil otherwise
	health   *health
	lockFile *os.File // the folder, shared with other programs
}

// FileName is the name of the file within the data folder.
const FileName = "mastflag.db"

// settings of every connection. FULL: a commit that was answered outlives a
// power cut (SQLite, "PRAGMA synchronous"). secure_delete: what is erased is
// overwritten, so that no copy of the file holds it.
const settings = "?_txlock=immediate&_pragma=busy_timeout(5000)&_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_" +
	"pragma=foreign_keys(1)&_pragma=secure_delete(1)"

// Open opens the file in dir, making folder and file where they are missing,
// and brings its tables up to date. Both are for nobody but the program's user.
// Data of a newer program is refused.
func Open(ctx context.Context, dir string) (*Store, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("data folder: %w", err)
	}
	path := filepath.Join(dir, FileName)
	if err := writable(dir, path); err != nil {
		return nil, folderError(dir, err)
	}
	held, err := lock(dir, false)
	if err != nil {
		return nil, err
	}
	db, err := sql.Open("sqlite", "file:"+path+settings)
	if err != nil {
		held.Close()
		return nil, err
	}
	db.SetMaxOpenConns(8)
	db.SetMaxIdleConns(2) // each holds 2 MB of pages
	if err := migrate(ctx, db, held); err != nil {
		db.Close()
		held.Close()
		return nil, fmt.Errorf("opening %s: %w", path, err)
	}
	return &Store{db: db, dir: dir, health: &health{}, lockFile: held}, nil
}

// folderError says that a data folder cannot be written, and what to do.
func folderError(dir string, err error) error {
	return fmt.Errorf(
		"the data folder %s cannot be written: %w. Nothing was changed. See that there is room on the disk, that it can be "+
			"written, and that the folder and its files belong to the user that the program runs as; then start again",
		dir, err,
	)
}

// ErrEarlier says that data is of an earlier version of the program.
var ErrEarlier = errors.New("the data is of an earlier version of the program. Nothing was changed. Make a backup " +
	"with that version and stop it; then start this one with serve, which brings the data up to date")

// Current returns nil if the data in dir is of this version of the program,
// ErrEarlier if it is of an earlier one. It changes nothing.
func Current(ctx context.Context, dir string) error {
	db, err := sql.Open("sqlite", "file:"+filepath.Join(dir, FileName)+"?mode=rw")
	if err != nil {
		return err
	}
	defer db.Close()
	has, known, err := steps(ctx, db)
	var e *sqlite.Error
	switch {
	case err == nil && has < known:
		return ErrEarlier
	case errors.As(err, &e) && e.Code()&0xff == sqlite3.SQLITE_CANTOPEN: // even reading writes beside the file
		return folderError(dir, err)
	}
	return err
}

// steps returns up to which step of the migrations the tables are, 0 where there
// are none yet, and the last step that the program knows; an error if the tables
// are beyond it.
func steps(ctx context.Context, db *sql.DB) (has, known int64, err error) {
	all, err := migrations.ReadDir("migrations")
	if err != nil {
		return 0, 0, err
	}
	if known, err = goose.NumericComponent(all[len(all)-1].Name()); err != nil {
		return 0, 0, err
	}
	var there bool
	if err := db.QueryRowContext(
		ctx, "SELECT count(*) FROM sqlite_schema WHERE name = 'goose_db_version'",
	).Scan(&there); err != nil || !there {
		return 0, known, err
	}
	err = db.QueryRowContext(ctx, "SELECT coalesce(max(version_id), 0) FROM goose_db_version").Scan(&has)
	if err == nil && has > known {
		err = fmt.Errorf(
			"the data was written by a newer version of the program: it is at step %d, and this version knows %d. Nothing was "+
				"changed. Start the newer version, or restore a backup from before",
			has, known,
		)
	}
	return has, known, err
}

// migrate brings the tables up to date, which nobody else may be at work on; an
// error if they are ahead of the program.
func migrate(ctx context.Context, db *sql.DB, held *os.File) error {
	var broken string
	if err := db.QueryRowContext(ctx, "PRAGMA quick_check(1)").Scan(&broken); err != nil {
		return fmt.Errorf("the file is damaged: %w. Restore a backup: mastflag restore --help", err)
	} else if broken != "ok" {
		return fmt.Errorf("the file is damaged: %s. Restore a backup: mastflag restore --help", broken)
	}
	has, known, err := steps(ctx, db)
	if err != nil || has == known {
		return err
	}
	if has > 0 {
		if err := hold(held, true); errors.Is(err, ErrInUse) {
			return fmt.Errorf(
				"another program is at work on it, and it is of an earlier version: %w. Nothing was changed. Stop the other "+
					"program first",
				err,
			)
		} else if err != nil {
			return err
		}
	}
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectSQLite3, db, sub)
	if err != nil {
		return err
	}
	if _, err := p.Up(ctx); err != nil || has == 0 {
		return err
	}
	// What steps took out is in no free page either.
	if _, err := db.ExecContext(ctx, "VACUUM"); err != nil {
		return err
	}
	if _, err := db.ExecContext(ctx, "PRAGMA wal_checkpoint(TRUNCATE)"); err != nil {
		return err
	}
	return hold(held, false)
}

// Dir is the data folder.
func (s *Store) Dir() string { return s.dir }

func (s *Store) Close() error {
	err := s.db.Close()
	if s.lockFile != nil {
		err = errors.Join(err, s.lockFile.Close())
	}
	return err
}

// DB is the open file, for tests that read or harm it.
func (s *Store) DB() *sql.DB { return s.db }

// Backup writes a consistent copy to path, which must not exist yet, for
// nobody but the program's user. Readers and writers go on meanwhile. What
// cannot be finished is removed.
func (s *Store) Backup(ctx context.Context, path string) error {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if errors.Is(err, fs.ErrExist) {
		return fmt.Errorf("%s exists already: name a new file", path)
	}
	if err != nil {
		return err
	}
	f.Close()
	if _, err = s.db.ExecContext(ctx, "VACUUM INTO ?", path); err == nil {
		err = syncFile(path)
	}
	if err != nil {
		os.Remove(path)
		return fmt.Errorf("the backup was not finished, and is removed: %w", err)
	}
	return nil
}

func syncFile(path string) error {
	f, err := os.OpenFile(path, os.O_RDWR, 0)
	if err != nil {
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}

// A Watch notices writes of all other connections, this program's too.
type Watch struct {
	conn *sql.Conn
	last int
}

// Watch returns a Watch; close it when done.
func (s *Store) Watch(ctx context.Context) (*Watch, error) {
	conn, err := s.db.Conn(ctx)
	if err != nil {
		return nil, err
	}
	return &Watch{conn: conn}, nil
}

// Changed reports whether anyone wrote since it was last asked; asked for the first time, that
// somebody may have.
func (w *Watch) Changed(ctx context.Context) (bool, error) {
	var v int
	if err := w.conn.QueryRowContext(ctx, "PRAGMA data_version").Scan(&v); err != nil {
		return false, err
	}
	changed := v != w.last
	w.last = v
	return changed, nil
}

func (w *Watch) Close() error { return w.conn.Close() }

// Stamps returns a number for each site, by key, that grows with every change
// of what visitors get of it: the site, its pages, what is out of its notices.
func (s *Store) Stamps(ctx context.Context) (map[string]int64, error) {
	out := map[string]int64{}
	_, err := query(ctx, s.on(), func(row *sql.Rows) (none struct{}, err error) {
		var key string
		var stamp int64
		err = row.Scan(&key, &stamp)
		out[key] = stamp
		return none, err
	}, "SELECT key, stamp FROM site")
	return out, err
}

// stamp notes that what visitors get of a site has changed.
func stamp(ctx context.Context, tx *sql.Tx, site string) error {
	_, err := tx.ExecContext(ctx, "UPDATE site SET stamp = stamp + 1 WHERE key = ?", site)
	return err
}

// Snapshot gives f a Store that reads everything as it is at one moment.
func (s *Store) Snapshot(ctx context.Context, f func(*Store) error) error {
	if s.txn != nil {
		return f(s)
	}
	tx, err := s.db.BeginTx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return err
	}
	defer tx.Rollback()
	return f(&Store{db: s.db, dir: s.dir, txn: tx, health: s.health})
}

// Together gives f a Store whose writes are kept all together, or not at all
// where f returns an error. Nobody else writes meanwhile.
func (s *Store) Together(ctx context.Context, f func(*Store) error) error {
	return s.tx(ctx, func(tx *sql.Tx) error { return f(&Store{db: s.db, dir: s.dir, txn: tx, health: s.health}) })
}

// tx runs f in a transaction that holds the write lock, or in the one of
// Together.
func (s *Store) tx(ctx context.Context, f func(*sql.Tx) error) error {
	if s.txn != nil {
		return f(s.txn)
	}
	tx, err := s.db.BeginTx(ctx, nil)
	if err != nil {
		return s.health.wrote(err)
	}
	defer tx.Rollback()
	if err := f(tx); err != nil {
		return s.health.wrote(err)
	}
	return s.health.wrote(tx.Commit())
}

// exec is one write.
func (s *Store) exec(ctx context.Context, text string, args ...any) (r sql.Result, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		r, err = tx.ExecContext(ctx, text, args...)
		return err
	})
	return r, err
}

// on is what reads go to.
func (s *Store) on() queryer {
	if s.txn != nil {
		return s.txn
	}
	return s.db
}

// Secret returns the random 32 bytes kept under a name, made when first asked for.
func (s *Store) Secret(ctx context.Context, name string) ([]byte, error) {
	kept := func() ([]byte, error) {
		return one(query(
			ctx, s.on(), func(row *sql.Rows) (b []byte, err error) { return b, row.Scan(&b) },
			"SELECT value FROM secret WHERE name = ?", name,
		))
	}
	if have, err := kept(); !errors.Is(err, ErrNotFound) {
		return have, err
	}
	fresh := make([]byte, 32)
	if _, err := rand.Read(fresh); err != nil {
		return nil, err
	}
	if _, err := s.exec(
		ctx, "INSERT INTO secret(name, value) VALUES(?, ?) ON CONFLICT DO NOTHING", name, fresh,
	); err != nil {
		return nil, err
	}
	return kept()
}

// A Site is a site as kept.
type Site struct {
	bundle.Site
	Revision   int
	SurveyedAt time.Time // zero for never
}

// Sites returns all sites, the first made first.
func (s *Store) Sites(ctx context.Context) ([]Site, error) {
	return query(ctx, s.on(), scanSite, "SELECT doc, revision, surveyed_at FROM site ORDER BY rowid")
}

// Site returns one site, or ErrNotFound.
func (s *Store) Site(ctx context.Context, key string) (Site, error) {
	return one(query(ctx, s.on(), scanSite, "SELECT doc, revision, surveyed_at FROM site WHERE key = ?", key))
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
	r, err := s.exec(
		ctx, "INSERT INTO site(key, doc, revision) VALUES(?, ?, 1) ON CONFLICT DO NOTHING", site.Key, encode(site),
	)
	if err != nil {
		return err
	}
	if n, _ := r.RowsAffected(); n == 0 {
		return ErrExists
	}
	return nil
}

// PutSite replaces a site that is at the given revision; Stale if it is not.
// h is put into the history, if it says what was done.
func (s *Store) PutSite(ctx context.Context, site bundle.Site, revision int, h Entry) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		have, err := one(query(ctx, tx, scanSite, "SELECT doc, revision, surveyed_at FROM site WHERE key = ?", site.Key))
		if err != nil {
			return err
		}
		if have.Revision != revision {
			return Stale{revision, have.Revision}
		}
		if _, err := tx.ExecContext(
			ctx, "UPDATE site SET doc = ?, revision = revision + 1, stamp = stamp + 1 WHERE key = ?", encode(site), site.Key,
		); err != nil {
			return err
		}
		if h.Deed.Act == "" {
			return nil
		}
		return addHistory(ctx, tx, site.Key, "", h)
	})
}

// What is known about the snippet on a page, other than why it could not be read.
const (
	SnippetFound   = "found"
	SnippetMissing = "missing"
	// It has the form that holds nothing back, and the site wants the other.
	SnippetUnguarded = "the lines that hold nothing back"
)

// A Page is a page as kept.
type Page struct {
	bundle.Page
	Snippet string
}

// Pages returns the known pages of a site, by path.
func (s *Store) Pages(ctx context.Context, site string) ([]Page, error) {
	return query(ctx, s.on(), func(row *sql.Rows) (Page, error) {
		var doc, lost, spots string
		var since int64
		var p Page
		if err := row.Scan(&doc, &p.Snippet, &lost, &spots, &since); err != nil {
			return p, err
		}
		if err := json.Unmarshal([]byte(doc), &p.Page); err != nil {
			return p, err
		}
		if since != 0 {
			p.Since = fromMillis(since)
		}
		if lost != "[]" {
			if err := json.Unmarshal([]byte(lost), &p.Lost); err != nil {
				return p, err
			}
		}
		if spots == "{}" {
			return p, nil
		}
		return p, json.Unmarshal([]byte(spots), &p.Spots)
	}, "SELECT doc, snippet, lost, spots, since FROM page WHERE site = ? ORDER BY path", site)
}

// A PageCount is how many pages of a site are known, how many of them were
// looked at for the snippet, and how many lack it.
type PageCount struct{ Known, Looked, Missing int }

// CountPages counts the known pages of a site.
func (s *Store) CountPages(ctx context.Context, site string) (c PageCount, err error) {
	err = s.on().QueryRowContext(
		ctx,
		"SELECT count(*), coalesce(sum(snippet <> ''), 0), coalesce(sum(snippet NOT IN ('', ?)), 0) FROM page WHERE site = ?",
		SnippetFound, site,
	).
		Scan(&c.Known, &c.Looked, &c.Missing)
	return c, err
}

// PutPages replaces the known pages of a site. at is when they were read from
// the site itself; zero if they were not. A page that was not known among others is
// there since then.
func (s *Store) PutPages(ctx context.Context, site string, list []Page, at time.Time) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		known := map[string]int64{}
		_, err := query(ctx, tx, func(row *sql.Rows) (none struct{}, err error) {
			var path string
			var since int64
			err = row.Scan(&path, &since)
			known[path] = since
			return none, err
		}, "SELECT path, since FROM page WHERE site = ?", site)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, "DELETE FROM page WHERE site = ?", site); err != nil {
			return err
		}
		insert, err := tx.PrepareContext(
			ctx, `INSERT INTO page(site, path, doc, snippet, lost, spots, since) VALUES(?, ?, ?, ?, ?, ?, ?)
			ON CONFLICT DO UPDATE SET doc = excluded.doc, snippet = excluded.snippet, lost = excluded.lost, spots = `+
				`excluded.spots`,
		)
		if err != nil {
			return err
		}
		defer insert.Close()
		for _, p := range list {
			path, err := pages.PagePath(p.Path)
			if err != nil {
				return err
			}
			p.Path = path
			spots := p.Spots
			if spots == nil {
				spots = map[string]bundle.Extent{}
			}
			since, was := known[path]
			if !was && len(known) > 0 && !at.IsZero() {
				since = at.UnixMilli()
			}
			if _, err := insert.ExecContext(ctx,
				site, path, encode(p.Page), p.Snippet, encode(append([]string{}, p.Lost...)), encode(spots), since); err != nil {
				return err
			}
		}
		if !at.IsZero() {
			if _, err := tx.ExecContext(ctx, "UPDATE site SET surveyed_at = ? WHERE key = ?", at.UnixMilli(), site); err != nil {
				return err
			}
		}
		return stamp(ctx, tx, site)
	})
}

type queryer interface {
	QueryContext(context.Context, string, ...any) (*sql.Rows, error)
	QueryRowContext(context.Context, string, ...any) *sql.Row
}

// query returns what scan makes of each row.
func query[T any](
	ctx context.Context,
	q queryer,
	scan func(*sql.Rows) (T, error),
	text string,
	args ...any,
) ([]T, error) {
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
