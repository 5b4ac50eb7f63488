package post

import (
	"cmp"
	"context"
	"errors"
	"log/slog"
	"slices"
	"sync"
	"time"

	"mastflag/internal/mail"
	"mastflag/internal/store"
)

// How many tries are under way at once. Letters and web addresses have places of their own, so
// that neither waits for the other.
const (
	mailPlaces     = 4
	webPlaces      = 16
	ofReceiver     = 2 // of one web address’s host
	ofSite         = 4 // of one site, to all web addresses
	failuresToHold = 3 // in a row; then the receiver is left alone for a while
	longestHold    = time.Hour
)

// How long a try may take: less of a receiver whose last tries failed.
const (
	longestTry  = 20 * time.Second
	shortestTry = 5 * time.Second
)

// How long something waits whose last try could not be kept.
const unkeptWait = 5 * time.Second

// How long a try that is under way may go on once the program stops; what is not done then is
// tried again after the next start.
const finishWithin = 5 * time.Second

// lines are the receivers that things go out to, each with what is under way and how the last
// tries went. The zero value has none.
type lines struct {
	mu       sync.Mutex
	underway map[int64]store.Queue // by id of what goes out
	failures map[string]int        // tries of a receiver that failed in a row
	turn     map[string]int        // when a site had its last turn, as a number that grows
	turns    int
	finished chan struct{} // something is under way no longer
}

// A failure is an error that says that a receiver cannot be had now, whatever is given to it.
type failure struct{ error }

// failed is an error of a receiver as a failure, but where it refuses for good.
func failed(err error) error {
	var refused mail.Refused
	if err == nil || errors.As(err, &refused) {
		return err
	}
	return failure{err}
}

func (f failure) Unwrap() error { return f.error }

// Run carries until ctx ends, and finishes what it took up where that does not take long.
func (c *Carrier) Run(ctx context.Context) {
	trying, stop := context.WithCancel(context.WithoutCancel(ctx))
	defer stop()
	tick := time.NewTicker(30 * time.Second)
	defer tick.Stop()
	for {
		if _, err := c.begin(trying); err != nil {
			slog.Error("what is to go out was not read", "error", err)
		}
		select {
		case <-ctx.Done():
			c.finish(stop)
			return
		case <-c.bell():
		case <-c.done():
		case <-tick.C:
		}
	}
}

// finish waits for what is under way, ends it by stop where that takes too long, and returns
// soon after in any case.
func (c *Carrier) finish(stop func()) {
	ends := time.NewTimer(finishWithin)
	defer ends.Stop()
	for stopped := false; c.count() > 0; {
		select {
		case <-c.done():
		case <-ends.C:
			if stopped {
				return
			}
			stop()
			stopped = true
			ends.Reset(time.Second)
		}
	}
}

// Carry tries all that is due, each once, and returns when that is done.
func (c *Carrier) Carry(ctx context.Context) error {
	for {
		n, err := c.begin(ctx)
		if err != nil || n == 0 && c.count() == 0 {
			return err
		}
		<-c.done()
	}
}

func (c *Carrier) done() chan struct{} {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.finished == nil {
		c.finished = make(chan struct{}, 1)
	}
	return c.finished
}

func (c *Carrier) count() int {
	c.mu.Lock()
	defer c.mu.Unlock()
	return len(c.underway)
}

// begin begins to try what is due, as far as there are places, and returns how much it began. The
// site that had its last turn longest ago is first.
func (c *Carrier) begin(ctx context.Context) (begun int, err error) {
	now := c.Clock.Now()
	queues, err := c.Store.DueQueues(ctx, now)
	if err != nil {
		return 0, err
	}
	finished := c.done()
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.underway == nil {
		c.underway, c.failures, c.turn = map[int64]store.Queue{}, map[string]int{}, map[string]int{}
	}
	for again := true; again; { // one of each queue, then the next of each
		again = false
		slices.SortStableFunc(queues, func(a, b store.Queue) int { return cmp.Compare(c.turn[a.Site], c.turn[b.Site]) })
		for _, q := range queues {
			if !c.hasPlace(q) {
				continue
			}
			due, err := c.Store.DueOutgoing(ctx, q, now, len(c.underway)+1)
			if err != nil {
				return begun, err
			}
			due = slices.DeleteFunc(due, func(o store.Outgoing) bool { _, is := c.underway[o.ID]; return is })
			if len(due) == 0 {
				continue
			}
			o := due[0]
			c.turns++
			c.underway[o.ID], c.turn[q.Site], again = q, c.turns, true
			begun++
			within := tryFor(c.failures[q.Receiver])
			go func() {
				c.attempt(ctx, o, q.Receiver, within)
				c.mu.Lock()
				delete(c.underway, o.ID)
				c.mu.Unlock()
				select {
				case finished <- struct{}{}:
				default:
				}
			}()
		}
	}
	return begun, nil
}

// hasPlace reports whether one more of a queue may be under way. A receiver that failed is tried
// by one at a time.
func (l *lines) hasPlace(q store.Queue) bool {
	letters, web, same, site := 0, 0, 0, 0
	for _, u := range l.underway {
		if u.Receiver == store.MailServer {
			letters++
		} else {
			web++
			if u.Site == q.Site {
				site++
			}
		}
		if u.Receiver == q.Receiver {
			same++
		}
	}
	if l.failures[q.Receiver] >= failuresToHold && same > 0 {
		return false
	}
	if q.Receiver == store.MailServer {
		return letters < mailPlaces
	}
	return web < webPlaces && same < ofReceiver && site < ofSite
}

// tryFor is how long a try may take at a receiver after so many failures in a row.
func tryFor(failures int) time.Duration { return max(shortestTry, longestTry>>min(failures, 8)) }

// holdAfter is for how long a receiver is left alone after so many failures in a row: from the third
// half a minute, then twice as long each time, up to an hour.
func holdAfter(failures int) time.Duration {
	if failures < failuresToHold {
		return 0
	}
	return min(longestHold, 30*time.Second<<min(failures-failuresToHold, 12))
}

// attempt tries something once and keeps how it went.
func (c *Carrier) attempt(ctx context.Context, o store.Outgoing, receiver string, within time.Duration) {
	trying, cancel := context.WithTimeout(ctx, within)
	defer cancel()
	o, err := c.try(trying, o)
	if ctx.Err() != nil { // the program stops: it was no try
		return
	}
	if kept := c.Store.SettleOutgoing(ctx, o); kept != nil {
		slog.Error("how something went out was not kept; it is tried again", "key", o.Key, "error", kept)
		err = failure{kept}
		select { // it is due still, and would be tried again at once
		case <-ctx.Done():
		case <-time.After(unkeptWait):
		}
	}
	var wrong failure
	c.mu.Lock()
	if errors.As(err, &wrong) {
		c.failures[receiver]++
	} else if err == nil {
		delete(c.failures, receiver)
	}
	failures := c.failures[receiver]
	c.mu.Unlock()
	hold := holdAfter(failures)
	if wrong.error == nil || hold == 0 {
		return
	}
	slog.Warn("a receiver failed and is left alone for a while", "receiver", receiver, "failures", failures, "for", hold)
	if err := c.Store.HoldOutgoing(ctx, receiver, c.Clock.Now().Add(hold)); err != nil {
		slog.Error("a receiver that failed is tried again at once", "receiver", receiver, "error", err)
	}
}

// try sends something and returns it as it stands then, with what went wrong.
func (c *Carrier) try(ctx context.Context, o store.Outgoing) (store.Outgoing, error) {
	var err error
	switch o.Kind {
	case store.OutLetter:
		err = c.letter(ctx, o)
	case store.OutConfirm, store.OutMail:
		err = c.mail(ctx, o)
	default:
		err = c.web(ctx, o)
	}
	now := c.Clock.Now()
	o.Tries++
	var refused mail.Refused
	switch {
	case err == nil:
		o.State, o.Ended, o.Why = store.OutDone, now, ""
	case errors.As(err, &refused) || now.Sub(o.At) > giveUpAfter:
		o.State, o.Ended, o.Why = store.OutGivenUp, now, shortened(err)
		slog.Warn("something did not go out and is given up", "kind", o.Kind, "key", o.Key, "why", o.Why)
	default:
		o.Next, o.Why = now.Add(backoff(o.Tries)), shortened(err)
	}
	return o, err
}
