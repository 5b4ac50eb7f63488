//go:build !unix

package doctor

import "errors"

// freeSpace is not known here.
func freeSpace(string) (uint64, error) { return 0, errors.New("this system is not known") }
