// Package gather writes what many give at once in few writes, and tells each of them once
// theirs is kept.
package gather

import (
	"context"
	"errors"
	"sync"
)

// ErrBusy says that more has come than can be written now: it may come again a little later.
var ErrBusy = errors.New("too much at once")

// MaxWaiting is how much waits to be written at most; BatchSize how much is written at once.
const (
	MaxWaiting = 4096
	BatchSize  = 512
)

// A Queue needs no start and no stop: whoever comes first sets off the writing, until nothing
// waits.
type Queue[T any] struct {
	// Writes values, all or none; what is wrong with single ones is in the list.
	write   func(context.Context, []T) ([]error, error)
	mu      sync.Mutex
	waiting []job[T]
	writing bool
}

type job[T any] struct {
	value T
	done  chan error
}

// NewQueue returns a queue of what write writes.
func NewQueue[T any](write func(context.Context, []T) ([]error, error)) *Queue[T] {
	return &Queue[T]{write: write}
}

// Add returns once a value is kept, or why it is not: ErrBusy; what write says of it, or of all;
// or the error of ctx, where it is not known whether it will be.
func (q *Queue[T]) Add(ctx context.Context, v T) error {
	j := job[T]{v, make(chan error, 1)}
	q.mu.Lock()
	if len(q.waiting) >= MaxWaiting {
		q.mu.Unlock()
		return ErrBusy
	}
	q.waiting = append(q.waiting, j)
	first := !q.writing
	q.writing = true
	q.mu.Unlock()
	if first {
		// Whoever asked may be gone before it is their turn.
		go q.run(context.WithoutCancel(ctx))
	}
	select {
	case err := <-j.done:
		return err
	case <-ctx.Done(): // it may be kept all the same: told again, it is kept once
		return ctx.Err()
	}
}

// Waiting is how much waits to be written.
func (q *Queue[T]) Waiting() int {
	q.mu.Lock()
	defer q.mu.Unlock()
	return len(q.waiting)
}

// run writes until nothing waits.
func (q *Queue[T]) run(ctx context.Context) {
	for {
		q.mu.Lock()
		n := min(len(q.waiting), BatchSize)
		if n == 0 {
			q.writing, q.waiting = false, nil
			q.mu.Unlock()
			return
		}
		jobs := q.waiting[:n:n]
		q.waiting = q.waiting[n:]
		q.mu.Unlock()
		list := make([]T, n)
		for i, j := range jobs {
			list[i] = j.value
		}
		wrong, err := q.write(ctx, list)
		for i, j := range jobs {
			if err != nil {
				j.done <- err
			} else {
				j.done <- wrong[i]
			}
		}
	}
}
