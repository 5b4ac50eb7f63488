package compiled

import (
	"context"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"mastflag/internal/clock"
	"mastflag/internal/store"
)

// A Hub has the compiled value of every site, and brings each up to date with
// what is kept. Visitors read without a lock.
type Hub struct {
	store *store.Store
	base  string // the program's own address
	clock clock.Clock
	sites atomic.Pointer[map[string]*Site]

	mu sync.Mutex // one compile at a time

	behindMu sync.Mutex
	behind   map[string]Behind
}

// A Behind is a site of which visitors get an earlier state than is kept.
type Behind struct {
	Site  string
	Since time.Time
	Why   string
}

// How long a call waits for its change to reach visitors, and how long compiling
// a site may take.
const (
	maxWait    = 5 * time.Second
	maxCompile = time.Minute
)

// NewHub compiles all sites that are kept, for a program at the address base.
func NewHub(ctx context.Context, st *store.Store, base string, c clock.Clock) (*Hub, error) {
	h := &Hub{store: st, base: base, clock: c, behind: map[string]Behind{}}
	h.sites.Store(&map[string]*Site{})
	return h, h.ReloadAll(ctx)
}

// Site returns a site by key, nil if there is none.
func (h *Hub) Site(key string) *Site { return (*h.sites.Load())[key] }

// Behind lists the sites of which visitors get an earlier state than is kept, by
// key.
func (h *Hub) Behind() []Behind {
	h.behindMu.Lock()
	defer h.behindMu.Unlock()
	return slices.SortedFunc(maps.Values(h.behind), func(a, b Behind) int { return strings.Compare(a.Site, b.Site) })
}

// Changed brings a site up to date after a change that is kept, for visitors to
// have it. It waits for that a while, and no longer than ctx; whatever becomes of
// whoever waits, it is done, and tried again until it is. So it has no error:
// what was kept stays kept.
func (h *Hub) Changed(ctx context.Context, key string) {
	done := make(chan struct{})
	go func() {
		defer close(done)
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), maxCompile)
		defer cancel()
		h.try(ctx, key)
	}()
	select {
	case <-done:
	case <-ctx.Done():
	case <-time.After(maxWait):
	}
}

// try is Reload that remembers how it went.
func (h *Hub) try(ctx context.Context, key string) {
	err := h.Reload(ctx, key)
	h.behindMu.Lock()
	defer h.behindMu.Unlock()
	if err == nil {
		delete(h.behind, key)
		return
	}
	was, known := h.behind[key]
	if !known {
		was.Since = h.clock.Now()
	}
	if was.Why != err.Error() {
		slog.Error("a change has not reached visitors yet; it is tried again", "site", key, "error", err)
	}
	h.behind[key] = Behind{key, was.Since, err.Error()}
}

// ReloadAll brings every site up to date. One that cannot be keeps its last
// value, is listed by Behind, and is tried again by Run.
func (h *Hub) ReloadAll(ctx context.Context) error {
	stamps, err := h.store.Stamps(ctx)
	if err != nil {
		return err
	}
	for _, key := range slices.Sorted(maps.Keys(stamps)) {
		if s := h.Site(key); s == nil || s.stamp != stamps[key] {
			h.try(ctx, key)
		}
	}
	return nil
}

// Reload brings a site up to date: where what is kept is not what it was
// compiled from, it is compiled anew, made ready for visits, and put in place of
// its last value. It writes nothing but what is newly shown of consent notices.
func (h *Hub) Reload(ctx context.Context, key string) error {
	h.mu.Lock()
	defer h.mu.Unlock()
	var s *Site
	err := h.store.Snapshot(ctx, func(st *store.Store) error {
		stamps, err := st.Stamps(ctx)
		if err != nil {
			return err
		}
		stamp, ok := stamps[key]
		if !ok {
			return store.ErrNotFound
		}
		if have := h.Site(key); have != nil && have.stamp == stamp {
			return nil
		}
		b, err := Load(ctx, st, key)
		if err != nil {
			return err
		}
		if s, err = New(b, "", h.base); err != nil {
			return fmt.Errorf("compiling site %s: %w", key, err)
		}
		s.stamp = stamp
		return nil
	})
	if err != nil || s == nil {
		return err
	}
	if err := s.Prepare(ctx, h.clock.Now()); err != nil {
		return err
	}
	shown := map[string][]byte{}
	for hash, doc := range s.Shown {
		if shown[hash], err = encode(doc); err != nil {
			return err
		}
	}
	if err := h.store.KeepShown(ctx, key, shown, s.Bundle().Site.Displays(), h.clock.Now()); err != nil {
		return err
	}
	old := *h.sites.Load()
	next := maps.Clone(old)
	next[key] = s
	h.sites.Store(&next)
	for _, l := range s.Uncompiled {
		slog.Warn(
			"something that is kept cannot be used any more and is left out", "site", key, "notice", l.Notice, "title", l.Title,
			"why", l.Why.Error(),
		)
	}
	return nil
}

// ready is how often sites are made ready for the time ahead.
const ready = 24 * time.Hour

// Run brings sites up to date when another process writes to the store, and
// those that are behind, until ctx ends.
func (h *Hub) Run(ctx context.Context) {
	w, err := h.store.Watch(ctx)
	if err != nil {
		slog.Error("writes of other processes will not be noticed", "error", err)
		return
	}
	defer w.Close()
	prepared := time.Now()
	clock.Every(ctx, time.Second, func() {
		changed, err := w.Changed(ctx)
		if err == nil && changed {
			err = h.ReloadAll(ctx)
		}
		if err != nil && ctx.Err() == nil {
			slog.Error("following the store", "error", err)
		}
		for _, b := range h.Behind() {
			h.try(ctx, b.Site)
		}
		if time.Since(prepared) > ready {
			prepared = time.Now()
			for _, s := range *h.sites.Load() {
				if err := s.Prepare(ctx, h.clock.Now()); err != nil {
					return
				}
			}
		}
	})
}
