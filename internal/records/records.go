// Package records takes in the answers that pages tell of: many at once in one
// write, and none is acknowledged before it is kept.
package records

import (
	"context"
	"errors"
	"sync"
	"time"

	"mastflag/core/schedule"
	"mastflag/internal/store"
)

// ErrBusy says that more has come than can be written now: it may come again
// a little later.
var ErrBusy = errors.New("too many answers at once")

// MaxWaiting is how many answers wait to be written at most; BatchSize how many are
// written at once.
const (
	MaxWaiting = 4096
	BatchSize  = 512
)

// A Keeper writes answers. It needs no start and no stop: whoever comes first
// sets off the writing, until nothing waits.
type Keeper struct {
	*store.Store
	mu      sync.Mutex
	waiting []job
	writing bool
}

type job struct {
	record store.NewRecord
	done   chan error
}

// NewKeeper returns a keeper that writes to the store.
func NewKeeper(st *store.Store) *Keeper { return &Keeper{Store: st} }

// Add returns once an answer is kept, or why it is not: ErrBusy; ErrOther,
// ErrErased and BrokenChain of the store; what went wrong in writing; or the
// error of ctx, where it is not known whether it will be.
func (k *Keeper) Add(ctx context.Context, r store.NewRecord) error {
	j := job{r.Ready(), make(chan error, 1)}
	k.mu.Lock()
	if len(k.waiting) >= MaxWaiting {
		k.mu.Unlock()
		return ErrBusy
	}
	k.waiting = append(k.waiting, j)
	first := !k.writing
	k.writing = true
	k.mu.Unlock()
	if first {
		// Whoever asked may be gone before it is their turn.
		go k.write(context.WithoutCancel(ctx))
	}
	select {
	case err := <-j.done:
		return err
	case <-ctx.Done(): // it may be kept all the same: told again, it is kept once
		return ctx.Err()
	}
}

// write writes until nothing waits.
func (k *Keeper) write(ctx context.Context) {
	for {
		k.mu.Lock()
		n := min(len(k.waiting), BatchSize)
		if n == 0 {
			k.writing, k.waiting = false, nil
			k.mu.Unlock()
			return
		}
		jobs := k.waiting[:n:n]
		k.waiting = k.waiting[n:]
		k.mu.Unlock()
		list := make([]store.NewRecord, n)
		for i, j := range jobs {
			list[i] = j.record
		}
		wrong, err := k.AddRecords(ctx, list)
		for i, j := range jobs {
			if err != nil {
				j.done <- err
			} else {
				j.done <- wrong[i]
			}
		}
	}
}

// Expire erases the records that each site has kept long enough, and returns
// how many.
func (k *Keeper) Expire(ctx context.Context, now time.Time) (int, error) {
	sites, err := k.Sites(ctx)
	if err != nil {
		return 0, err
	}
	all := 0
	for _, s := range sites {
		keep, err := schedule.ParseSpan(s.Setup().GetKeep())
		if err != nil {
			continue // Check of the site refuses it
		}
		for {
			n, err := k.EraseRecordsBefore(ctx, s.Key, keep.Before(now, time.UTC), now)
			if all += n; err != nil {
				return all, err
			}
			if n == 0 {
				break
			}
		}
	}
	return all, nil
}
