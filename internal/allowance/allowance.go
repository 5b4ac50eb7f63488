// Package allowance counts how often something is done, by whom and about what, and says when it
// may be done again.
package allowance

import (
	"maps"
	"sync"
	"time"

	"golang.org/x/time/rate"
)

// An Allowance is how often something may be done: a second, and at once.
type Allowance struct {
	Rate  rate.Limit
	Burst int
}

// Each is so many within a stretch of time, all of them at once if need be.
func Each(d time.Duration, n int) Allowance {
	return Allowance{rate.Limit(float64(n) / d.Seconds()), n}
}

// A Key is what is counted by itself.
type Key struct {
	Name string
	Allowance
	// What is counted instead once there are MaxKeys; the name itself if "".
	Shared string
}

// MaxKeys is how many keys are counted each by itself.
const MaxKeys = 100_000

// Limits counts by keys. What has been quiet long enough to be as if new is forgotten. The zero
// value has counted nothing, and may be used by many at once.
type Limits struct {
	mu    sync.Mutex
	by    map[string]*rate.Limiter
	swept time.Time
}

// Wait counts one by all keys, or returns how long it has to wait by the first that is used up,
// and counts nothing.
func (l *Limits) Wait(now time.Time, keys ...Key) time.Duration {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.by == nil {
		l.by = map[string]*rate.Limiter{}
	}
	if now.Sub(l.swept).Abs() > time.Minute {
		l.swept = now
		maps.DeleteFunc(l.by, func(_ string, r *rate.Limiter) bool { return r.TokensAt(now) >= float64(r.Burst()) })
	}
	used := make([]*rate.Limiter, 0, len(keys))
	for _, k := range keys {
		name := k.Name
		if k.Shared != "" && l.by[name] == nil && len(l.by) >= MaxKeys {
			name = k.Shared
		}
		r := l.by[name]
		if r == nil {
			r = rate.NewLimiter(k.Rate, k.Burst)
			l.by[name] = r
		}
		if lacks := 1 - r.TokensAt(now); lacks > 0 {
			return time.Duration(lacks / float64(r.Limit()) * float64(time.Second))
		}
		used = append(used, r)
	}
	for _, r := range used {
		r.AllowN(now, 1)
	}
	return 0
}
