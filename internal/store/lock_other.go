//go:build !unix

package store

import "os"

// lock does nothing: this system has no locks that end with the program.
func lock(string, bool) (*os.File, error) { return nil, nil }

func hold(*os.File, bool) error { return nil }
