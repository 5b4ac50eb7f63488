package base

import (
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

// Of returns the findings of a site at a moment; the slice is shared, and never altered.
func (cache *Findings) Of(s *compiled.Site, at time.Time) []findings.Finding {
	key := s.Bundle().Site.Key
	cache.mu.Lock()
	last := cache.last[key]
	cache.mu.Unlock()
	if last.site != s {
		last = check{site: s, known: findings.NewKnown(s.Site)}
	} else if last.at.Equal(at) {
		return last.found
	}
	last.at, last.found = at, append([]findings.Finding{}, last.known.Check(at)...)
	cache.mu.Lock()
	defer cache.mu.Unlock()
	if cache.last == nil {
		cache.last = map[string]check{}
	}
	cache.last[key] = last
	return last.found
}
