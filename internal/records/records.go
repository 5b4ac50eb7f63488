// Package records takes in the answers that pages tell of: many at once in one
// write, and none is acknowledged before it is kept.
package records

import (
	"context"
	"time"

	"mastflag/core/schedule"
	"mastflag/internal/gather"
	"mastflag/internal/store"
)

// A Keeper writes answers. It needs no start and no stop.
type Keeper struct {
	*store.Store
	queue *gather.Queue[store.NewRecord]
}

// NewKeeper returns a keeper that writes to the store.
func NewKeeper(st *store.Store) *Keeper { return &Keeper{st, gather.NewQueue(st.AddRecords)} }

// Add returns once an answer is kept, or why it is not: gather.ErrBusy; ErrOther,
// ErrErased and BrokenChain of the store; what went wrong in writing; or the
// error of ctx, where it is not known whether it will be.
func (k *Keeper) Add(ctx context.Context, r store.NewRecord) error {
	return k.queue.Add(ctx, r.Ready())
}

// Waiting is how many answers wait to be written.
func (k *Keeper) Waiting() int { return k.queue.Waiting() }

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
