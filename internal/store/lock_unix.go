//go:build unix

package store

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"syscall"
)

// lockName is the file that every program which works on a folder holds: many
// share it, and who replaces the data has it alone.
const lockName = ".lock"

// lock holds the folder until the file is closed; ErrInUse if somebody else
// has it who cannot share it, or is to be shared with.
func lock(dir string, alone bool) (*os.File, error) {
	f, err := os.OpenFile(filepath.Join(dir, lockName), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, err
	}
	if err := hold(f, alone); err != nil {
		f.Close()
		return nil, fmt.Errorf("%s: %w", dir, err)
	}
	return f, nil
}

// hold changes whether the folder is held alone or shared; ErrInUse as with lock.
func hold(f *os.File, alone bool) error {
	how := syscall.LOCK_SH
	if alone {
		how = syscall.LOCK_EX
	}
	err := syscall.Flock(int(f.Fd()), how|syscall.LOCK_NB)
	if errors.Is(err, syscall.EWOULDBLOCK) {
		return ErrInUse
	}
	return err
}
