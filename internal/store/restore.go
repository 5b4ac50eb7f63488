package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"mastflag/core/consent"
)

// ErrInUse says that a program is at work on the folder, or is replacing what is
// in it.
var ErrInUse = errors.New("the data folder is in use")

// Restore puts a copy that Backup wrote in place of the data in dir, which no
// program may be using. The copy is looked at first: whether it is whole, of a
// version that this program knows, and its chains of records sound. What was
// there is kept in a folder of its own within dir, whose path is returned; "" if
// nothing was. The copy itself stays as it is.
func Restore(ctx context.Context, from, dir string, now time.Time) (kept string, err error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return "", err
	}
	held, err := lock(dir, true)
	if err != nil {
		return "", err
	}
	defer held.Close()
	if _, err := os.Stat(from); err != nil {
		return "", err
	}
	// It is tried where it is out of the way, and under the name it will have.
	trial, err := os.MkdirTemp(dir, ".restore-")
	if err != nil {
		return "", err
	}
	defer os.RemoveAll(trial)
	fresh := filepath.Join(trial, FileName)
	if err := copyFile(from, fresh); err != nil {
		return "", err
	}
	if err := sound(ctx, trial); err != nil {
		return "", fmt.Errorf("%s cannot be restored: %w. Nothing was changed", from, err)
	}
	path := filepath.Join(dir, FileName)
	if _, err := os.Stat(path); err == nil {
		kept = filepath.Join(dir, "before-restore-"+now.UTC().Format("20060102-150405"))
		if err := os.Mkdir(kept, 0o700); err != nil {
			return "", err
		}
		// The file goes last: without it the others say nothing.
		for _, end := range []string{"-shm", "-wal", ""} {
			if err := os.Rename(path+end, filepath.Join(kept, FileName+end)); err != nil && !errors.Is(err, os.ErrNotExist) {
				return kept, err
			}
		}
	}
	if err := os.Rename(fresh, path); err != nil {
		return kept, err
	}
	return kept, syncFolder(dir)
}

// sound opens a copy, brings it up to date, and proves its chains.
func sound(ctx context.Context, dir string) error {
	st, err := Open(ctx, dir)
	if err != nil {
		return err
	}
	defer st.Close()
	var wrong string
	if err := st.db.QueryRowContext(ctx, "PRAGMA integrity_check(1)").Scan(&wrong); err != nil || wrong != "ok" {
		return fmt.Errorf("it is damaged: %s", wrong)
	}
	sites, err := st.Sites(ctx)
	if err != nil {
		return err
	}
	for _, s := range sites {
		head, err := st.ConsentHead(ctx, s.Key)
		if err == nil {
			_, err = consent.Verify(st.ConsentLinks(ctx, s.Key), head)
		}
		if err != nil {
			return fmt.Errorf("the records of %s: %w", s.Key, err)
		}
	}
	// All of it goes into the one file.
	var busy, log, done sql.NullInt64
	return st.db.QueryRowContext(ctx, "PRAGMA wal_checkpoint(TRUNCATE)").Scan(&busy, &log, &done)
}

func copyFile(from, to string) error {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.OpenFile(to, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, in)
	return errors.Join(err, out.Sync(), out.Close())
}

func syncFolder(dir string) error {
	f, err := os.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}
