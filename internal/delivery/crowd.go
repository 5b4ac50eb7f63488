package delivery

import (
	"hash/maphash"
	"sync"

	"mastflag/core/results"
)

// Limits of what is kept: notices and days, of which the oldest go first, and networks of each.
const (
	maxCrowds   = 2_000
	maxInCrowds = 20_000
)

// crowds count acts of a day on each notice by the network that they come from, in memory alone,
// and by numbers that say nothing of it.
type crowds struct {
	mu    sync.Mutex
	seed  maphash.Seed
	by    map[crowdKey]*crowd
	order []crowdKey
}

type crowdKey struct{ site, notice, day string }

type crowd struct {
	all int
	of  map[uint64]int
}

func newCrowds() *crowds { return &crowds{seed: maphash.MakeSeed(), by: map[crowdKey]*crowd{}} }

// take counts so many acts of a network on a notice in a day, and reports whether they are to be
// set aside.
func (c *crowds) take(key crowdKey, network string, acts int) (aside bool) {
	from := maphash.String(c.seed, network)
	c.mu.Lock()
	defer c.mu.Unlock()
	k := c.by[key]
	if k == nil {
		if len(c.order) >= maxCrowds {
			delete(c.by, c.order[0])
			c.order = c.order[1:]
		}
		k = &crowd{of: map[uint64]int{}}
		c.by[key] = k
		c.order = append(c.order, key)
	}
	k.all += acts
	if _, known := k.of[from]; !known && len(k.of) >= maxInCrowds {
		return false
	}
	k.of[from] += acts
	return results.IsCrowd(k.of[from], k.all, len(k.of))
}
