// Package counting counts what visitors do with notices, many acts in one write, and none is
// acknowledged before it is counted.
package counting

import (
	"context"
	"time"

	"mastflag/internal/gather"
	"mastflag/internal/store"
)

// A Counter needs no start and no stop.
type Counter struct {
	store *store.Store
	queue *gather.Queue[store.CountBatch]
}

// New returns a counter that writes to the store.
func New(st *store.Store) *Counter {
	return &Counter{store: st, queue: gather.NewQueue(st.AddCounts)}
}

// Add returns once the acts of a batch are counted, or why they are not: gather.ErrBusy, what
// went wrong in writing, or the error of ctx. Told again, nothing is counted twice.
func (c *Counter) Add(ctx context.Context, b store.CountBatch) error { return c.queue.Add(ctx, b) }

// Waiting is how many batches wait to be written.
func (c *Counter) Waiting() int { return c.queue.Waiting() }

// Expire forgets what cannot be told again any more.
func (c *Counter) Expire(ctx context.Context, now time.Time) (int64, error) {
	return c.store.ExpireCounted(ctx, now)
}
