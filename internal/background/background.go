// Package background has work that goes on beside all else, one piece for each key,
// with how far it is.
package background

import (
	"context"
	"maps"
	"slices"
	"sync"
)

// Jobs are pieces of work that go on. The zero value has none.
type Jobs[Progress any] struct {
	mu      sync.Mutex
	running map[string]*job[Progress] // by key, until it has ended
}

type job[Progress any] struct {
	progress Progress
	stop     context.CancelFunc
	done     chan struct{} // closed when it has ended
}

// Start begins a piece of work that outlives ctx; tell says how far it is. Where one of
// that key goes on, nothing begins and fresh is false. The channel is closed when it ends.
func (j *Jobs[Progress]) Start(
	ctx context.Context,
	key string,
	begun Progress,
	work func(ctx context.Context, tell func(Progress)),
) (done <-chan struct{}, fresh bool) {
	j.mu.Lock()
	defer j.mu.Unlock()
	if was := j.running[key]; was != nil {
		return was.done, false
	}
	ctx, stop := context.WithCancel(context.WithoutCancel(ctx))
	r := &job[Progress]{progress: begun, stop: stop, done: make(chan struct{})}
	if j.running == nil {
		j.running = map[string]*job[Progress]{}
	}
	j.running[key] = r
	go func() {
		defer close(r.done)
		defer func() {
			stop()
			j.mu.Lock()
			delete(j.running, key)
			j.mu.Unlock()
		}()
		work(ctx, func(p Progress) {
			j.mu.Lock()
			r.progress = p
			j.mu.Unlock()
		})
	}()
	return r.done, true
}

// Stop ends the work of a key, and returns once it has ended.
func (j *Jobs[Progress]) Stop(key string) {
	j.mu.Lock()
	r := j.running[key]
	j.mu.Unlock()
	if r != nil {
		r.stop()
		<-r.done
	}
}

// StopAll ends all work, and returns once it has ended.
func (j *Jobs[Progress]) StopAll() {
	j.mu.Lock()
	for _, r := range j.running {
		r.stop()
	}
	keys := slices.Collect(maps.Keys(j.running))
	j.mu.Unlock()
	for _, key := range keys {
		j.Stop(key)
	}
}

// Progress returns how far the work of a key is; going is false if there is none.
func (j *Jobs[Progress]) Progress(key string) (p Progress, going bool) {
	j.mu.Lock()
	defer j.mu.Unlock()
	if r := j.running[key]; r != nil {
		return r.progress, true
	}
	return p, false
}
