package store

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"maps"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// An Unwritable error says that nothing can be kept just now, though everything
// can be read. Nothing was changed.
type Unwritable struct {
	Why  string // a clause, such as "the disk is full"
	Busy bool   // somebody else is writing: it may do a little later
	err  error
}

func (u Unwritable) Error() string { return u.Why }
func (u Unwritable) Unwrap() error { return u.err }

// health remembers whether the last write worked.
type health struct {
	mu     sync.Mutex
	why    string
	since  time.Time
	chains map[string]string // why a site's chain of records is broken

	// What was erased is in the write-ahead log yet; and who takes it out.
	unscrubbed atomic.Bool
	scrubbing  sync.Mutex
}

func (h *health) chain(site string, wrong error) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if wrong == nil {
		delete(h.chains, site)
		return
	}
	if h.chains == nil {
		h.chains = map[string]string{}
	}
	h.chains[site] = wrong.Error()
}

// BrokenChains returns why chains of records are broken, by site, as they were
// last looked at.
func (s *Store) BrokenChains() map[string]string {
	s.health.mu.Lock()
	defer s.health.mu.Unlock()
	return maps.Clone(s.health.chains)
}

// wrote takes in how a write went, and returns its error: an Unwritable where
// the file, not what was written, is why.
func (h *health) wrote(err error) error {
	err = unwritable(err)
	var u Unwritable
	switch {
	case errors.As(err, &u):
		h.mu.Lock()
		defer h.mu.Unlock()
		if h.why == "" {
			h.since = time.Now()
		}
		h.why = u.Why
	case err == nil:
		h.mu.Lock()
		defer h.mu.Unlock()
		h.why, h.since = "", time.Time{}
	}
	return err
}

// FileError returns why a file of the data folder could not be written, as an Unwritable where
// the disk or the folder is to blame.
func FileError(err error) error {
	switch {
	case errors.Is(err, syscall.ENOSPC), errors.Is(err, syscall.EDQUOT):
		return Unwritable{Why: "the disk is full", err: err}
	case errors.Is(err, fs.ErrPermission), errors.Is(err, syscall.EROFS):
		return Unwritable{Why: "the data folder cannot be written", err: err}
	case errors.Is(err, syscall.EIO):
		return Unwritable{Why: "the disk does not take what is written", err: err}
	}
	return err
}

func unwritable(err error) error {
	var e *sqlite.Error
	if !errors.As(err, &e) {
		return err
	}
	switch e.Code() & 0xff { // the primary result code (SQLite, "Result and Error Codes")
	case sqlite3.SQLITE_FULL:
		return Unwritable{Why: "the disk is full", err: err}
	case sqlite3.SQLITE_READONLY, sqlite3.SQLITE_PERM, sqlite3.SQLITE_CANTOPEN:
		return Unwritable{Why: "the data folder cannot be written", err: err}
	case sqlite3.SQLITE_IOERR:
		return Unwritable{Why: "the disk does not take what is written", err: err}
	case sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED:
		return Unwritable{Why: "another program holds the data", Busy: true, err: err}
	}
	return err
}

// Trouble returns why nothing can be kept, "" where the last write worked. Where
// it did not, a write of nothing is tried once more.
func (s *Store) Trouble() string {
	s.health.mu.Lock()
	why := s.health.why
	s.health.mu.Unlock()
	if why == "" {
		return ""
	}
	if err := writable(s.dir, filepath.Join(s.dir, FileName)); err != nil {
		return why
	}
	tx, err := s.db.Begin() // takes the write lock
	if err == nil {
		_, err = tx.Exec("UPDATE site SET stamp = stamp WHERE key = (SELECT min(key) FROM site)")
		err = errors.Join(err, tx.Commit())
	}
	if s.health.wrote(err) != nil {
		return why
	}
	return ""
}

// room is how much has to fit on the disk for the program to start, bytes.
const room = 1 << 20

// writable makes folder and file private, and returns why they cannot be
// written.
func writable(dir, path string) error {
	probe, err := os.CreateTemp(dir, ".probe-")
	if err != nil {
		return err
	}
	_, err = probe.Write(make([]byte, room))
	err = errors.Join(err, probe.Close(), os.Remove(probe.Name()))
	if err != nil {
		return err
	}
	if err := os.Chmod(dir, 0o700); err != nil {
		return fmt.Errorf("making it private: %w", err)
	}
	for _, name := range []string{path, path + "-wal", path + "-shm"} {
		err := os.Chmod(name, 0o600)
		if errors.Is(err, os.ErrNotExist) && name == path {
			var f *os.File
			if f, err = os.OpenFile(name, os.O_CREATE|os.O_RDWR, 0o600); err == nil {
				err = f.Close()
			}
		}
		if err != nil && !errors.Is(err, os.ErrNotExist) {
			return fmt.Errorf("making it private: %w", err)
		}
		if f, err := os.OpenFile(name, os.O_RDWR, 0); err == nil {
			f.Close()
		} else if !errors.Is(err, os.ErrNotExist) {
			return err
		}
	}
	return nil
}

// scrub takes what was erased out of the write-ahead log too: all of it goes into the file, where
// what is freed is overwritten, and the log is emptied. Within Together, and where somebody reads
// meanwhile, that is left to ScrubLater.
func (s *Store) scrub(ctx context.Context) {
	s.health.unscrubbed.Store(true)
	if s.txn == nil {
		s.ScrubLater(ctx)
	}
}

// ScrubLater does what scrub left, if it left anything; it is tried again the next time where it
// cannot be done.
func (s *Store) ScrubLater(ctx context.Context) {
	s.health.scrubbing.Lock()
	defer s.health.scrubbing.Unlock()
	if !s.health.unscrubbed.Swap(false) {
		return
	}
	if busy, err := s.emptyLog(context.WithoutCancel(ctx)); err != nil || busy {
		s.health.unscrubbed.Store(true)
		slog.Warn("what was erased is still in the write-ahead log; it is tried again", "busy", busy, "error", err)
	}
}

// emptyLog puts all of the write-ahead log into the file. Who reads meanwhile is waited for
// briefly, because nobody writes while it waits; busy is whether somebody still did.
func (s *Store) emptyLog(ctx context.Context) (busy bool, err error) {
	conn, err := s.db.Conn(ctx)
	if err != nil {
		return false, err
	}
	defer conn.Close()
	if _, err := conn.ExecContext(ctx, "PRAGMA busy_timeout = 200"); err != nil {
		return false, err
	}
	var pages, done int
	err = conn.QueryRowContext(ctx, "PRAGMA wal_checkpoint(TRUNCATE)").Scan(&busy, &pages, &done)
	_, back := conn.ExecContext(ctx, "PRAGMA busy_timeout = 5000")
	return busy, errors.Join(err, back)
}
