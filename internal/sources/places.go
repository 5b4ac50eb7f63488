package sources

import (
	"bytes"
	"context"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"sync/atomic"
	"time"

	"github.com/oschwald/maxminddb-golang/v2"

	"mastflag/internal/clock"
)

// A placesTable says where addresses are. It is held in memory as a whole, so that its file can be
// written over at any time; what is there then takes its place once it is whole.
type placesTable struct {
	file    string // "" for the stand-in
	now     atomic.Pointer[maxminddb.Reader]
	trouble atomic.Pointer[string]

	// Of Run alone: the file as it was last read, and as it was last looked at.
	read, seen stamp
}

// A stamp tells whether a file is as it was.
type stamp struct {
	changed time.Time
	size    int64
}

func stampOf(f fs.FileInfo) stamp { return stamp{f.ModTime(), f.Size()} }

// open reads the table, and puts it in place if it is sound.
func (t *placesTable) open() error {
	raw := places
	if t.file != "" {
		info, err := os.Stat(t.file)
		if err != nil {
			return err
		}
		t.read = stampOf(info)
		if raw, err = os.ReadFile(t.file); err != nil {
			return err
		}
	}
	// A copy: what the reader is given is nobody else's.
	r, err := maxminddb.OpenBytes(bytes.Clone(raw))
	if err == nil {
		err = sound(r)
	}
	if err == nil {
		t.now.Store(r)
	}
	return err
}

// sound reads all that a table says of networks, as visits do.
func sound(r *maxminddb.Reader) error {
	for network := range r.Networks() {
		var p place
		if err := network.Decode(&p); err != nil {
			return err
		}
	}
	return nil
}

// How often the file is looked at. It is read once it was the same twice, and so is written no
// longer.
const lookEvery = 10 * time.Second

// Run takes in the table's file whenever it changes, until ctx ends. One that cannot be read leaves
// the table as it is, and is reported by Trouble.
func (s *Sources) Run(ctx context.Context) {
	if s.table.file == "" {
		<-ctx.Done()
		return
	}
	clock.Every(ctx, lookEvery, s.table.look)
}

// look reads the file if it has changed, and was the same when it was last looked at.
func (t *placesTable) look() {
	info, err := os.Stat(t.file)
	if err != nil {
		t.report(err)
		return
	}
	is, was := stampOf(info), t.seen
	t.seen = is
	if is == t.read || is != was {
		return
	}
	if err := t.open(); err != nil {
		t.report(err)
		return
	}
	t.trouble.Store(nil)
	slog.Info("the file of places was read anew", "file", t.file)
}

// report keeps what is wrong with the file, and says it once.
func (t *placesTable) report(err error) {
	why := fmt.Sprintf("The file of places cannot be read: %v. The one read before it stays in use.", err)
	if before := t.trouble.Swap(&why); before == nil || *before != why {
		slog.Error("the file of places cannot be read; the table stays as it was", "file", t.file, "error", err)
	}
}

// Trouble is a sentence about what is wrong with the file of places; "" if nothing is.
func (s *Sources) Trouble() string {
	if why := s.table.trouble.Load(); why != nil {
		return *why
	}
	return ""
}
