//go:build unix

package doctor

import "syscall"

// freeSpace is how many bytes may still be written below a folder.
func freeSpace(dir string) (uint64, error) {
	var fs syscall.Statfs_t
	if err := syscall.Statfs(dir, &fs); err != nil {
		return 0, err
	}
	return fs.Bavail * uint64(fs.Bsize), nil
}
