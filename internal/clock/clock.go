// Package clock is the one clock of the program.
package clock

import (
	"context"
	"sync"
	"time"
)

// A Clock says what time it is.
type Clock interface{ Now() time.Time }

// System is the machine's clock.
type System struct{}

func (System) Now() time.Time { return time.Now().UTC() }

// Settable is the demo's and the tests' stand-in: it runs on from whatever
// instant it is set to. Production never has one.
type Settable struct {
	mu    sync.RWMutex
	shift time.Duration
}

func (c *Settable) Now() time.Time {
	c.mu.RLock()
	defer c.mu.RUnlock()
	return time.Now().Add(c.shift).UTC()
}

// Set makes it t now.
func (c *Settable) Set(t time.Time) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.shift = time.Until(t)
}

// Shifted reports whether the clock has been set away from the machine's.
func (c *Settable) Shifted() bool {
	c.mu.RLock()
	defer c.mu.RUnlock()
	return c.shift != 0
}

// Reset goes back to the machine's clock.
func (c *Settable) Reset() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.shift = 0
}

// Every does something again and again on the machine's clock, first after d,
// until ctx ends.
func Every(ctx context.Context, d time.Duration, do func()) {
	tick := time.NewTicker(d)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			do()
		}
	}
}
