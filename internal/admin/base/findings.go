package base

import (
	"context"
	"sync"
	"time"

	"mastflag/core/findings"
	"mastflag/internal/compiled"
)

// Findings keeps what is known of each site, and its findings for the moment
// last looked at: they depend on neither page nor visitor.
type Findings struct {
	mu   sync.Mutex
	last map[string]check
}

type check struct {
	site  *compiled.Site
	known findings.Known
	at    time.Time
	found []findings.Finding
}

// Of returns the findings of a site at a moment; the slice is shared, and never altered. The error is
// that of a context that ended.
func (cache *Findings) Of(ctx context.Context, s *compiled.Site, at time.Time) ([]findings.Finding, error) {
	key := s.Bundle().Site.Key
	cache.mu.Lock()
	last := cache.last[key]
	cache.mu.Unlock()
	if last.site != s {
		known, err := findings.NewKnown(ctx, s.Site)
		if err != nil {
			return nil, err
		}
		last = check{site: s, known: known}
	} else if last.at.Equal(at) {
		return last.found, nil
	}
	found, err := last.known.Check(ctx, at)
	if err != nil {
		return nil, err
	}
	last.at, last.found = at, append([]findings.Finding{}, found...)
	cache.mu.Lock()
	defer cache.mu.Unlock()
	if cache.last == nil {
		cache.last = map[string]check{}
	}
	cache.last[key] = last
	return last.found, nil
}
