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
// instant it is set to, or stands still there once it was made to. Production never has one.
type Settable struct {
	mu    sync.RWMutex
	shift time.Duration
	// Where it stands still; zero where it runs.
	still time.Time
}

func (c *Settable) Now() time.Time {
	c.mu.RLock()
	defer c.mu.RUnlock()
	if !c.still.IsZero() {
		return c.still
	}
	return time.Now().Add(c.shift).UTC()
}

// StandStill makes it t, and from then on whatever it is set to, without running on: for tests, which do
// not lean on how long they take.
func (c *Settable) StandStill(t time.Time) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.still = t.UTC()
}

// Set makes it t now.
func (c *Settable) Set(t time.Time) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.still.IsZero() {
		c.shift = time.Until(t)
	} else {
		c.still = t.UTC()
	}
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
	c.shift, c.still = 0, time.Time{}
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
