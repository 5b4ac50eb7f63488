// Package counting counts what visitors do with notices, many acts in one write, and none is
// acknowledged before it is counted.
package counting

import (
	"context"
	"sync/atomic"
	"time"

	"mastflag/core/results"
	"mastflag/internal/gather"
	"mastflag/internal/store"
)

// A Counter needs no start and no stop.
type Counter struct {
	store *store.Store
	queue *gather.Queue[store.CountBatch]
	// Since the program started: batches that were acknowledged, and acts in them.
	batches, acts atomic.Int64
}

// New returns a counter that writes to the store.
func New(st *store.Store) *Counter {
	return &Counter{store: st, queue: gather.NewQueue(st.AddCounts)}
}

// Add returns once the acts of a batch are counted, or why they are not: gather.ErrBusy, what
// went wrong in writing, or the error of ctx. Told again, nothing is counted twice.
func (c *Counter) Add(ctx context.Context, b store.CountBatch) error {
	err := c.queue.Add(ctx, b)
	if err == nil {
		c.batches.Add(1)
		c.acts.Add(int64(len(b.Acts)))
	}
	return err
}

// Waiting is how many batches wait to be written.
func (c *Counter) Waiting() int { return c.queue.Waiting() }

// Taken is how many batches were acknowledged since the program started, and how many acts were in
// them, those that were told again among them.
func (c *Counter) Taken() (batches, acts int64) { return c.batches.Load(), c.acts.Load() }

// Expire forgets what cannot be told again any more.
func (c *Counter) Expire(ctx context.Context, now time.Time) (int64, error) {
	return c.store.ExpireCounted(ctx, now)
}

// Groups returns the visitors of each of a notice's groups, in the days that the filter names; and
// since when what is compared is out as it is now: all is counted from then.
func Groups(
	ctx context.Context, st *store.Store, site string, n store.Notice, f store.ResultFilter,
) (since time.Time, groups []results.Group, err error) {
	out := n.Out()
	since = n.PublishedAt
	entries, err := st.History(ctx, site, n.ID)
	if err != nil {
		return since, nil, err
	}
	for _, e := range entries { // the newest first
		if e.Number == 0 || !e.At.Before(since) {
			continue
		}
		earlier, err := st.Version(ctx, site, n.ID, e.Number)
		if err != nil {
			return since, nil, err
		}
		if earlier.ExperimentMark() != out.ExperimentMark() {
			break
		}
		since = e.At.Truncate(time.Second)
	}
	f.Notice = n.ID
	rows, err := st.Results(ctx, site, f)
	if err != nil {
		return since, nil, err
	}
	var ids []string
	if out.Experiment != nil {
		for _, v := range out.Experiment.Variants {
			ids = append(ids, v.ID)
		}
	}
	return since, results.Groups(n.ID, ids, since.Unix(), rows), nil
}
