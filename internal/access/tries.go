package access

import (
	"maps"
	"sync"
	"time"
)

// A pace is how soon after tries without success the next is taken: at once for
// the free ones, then after the first wait, twice that, and so on up to the
// longest.
type pace struct {
	free           int
	first, longest time.Duration
}

// One person may well mistype five times; a network may be a whole office.
var (
	ofPair    = pace{5, 10 * time.Second, 15 * time.Minute}
	ofNetwork = pace{30, 10 * time.Second, 15 * time.Minute}
	ofPerson  = pace{20, 10 * time.Second, 15 * time.Minute}
)

func (p pace) wait(failed int) time.Duration {
	if failed <= p.free {
		return 0
	}
	return min(p.first<<min(failed-p.free-1, 20), p.longest)
}

// A counter is what tries are counted by, and its pace.
type counter struct {
	name string
	pace pace
}

// tries counts tries to sign in until they are known to have worked: so that
// many at once count as many. What nobody has tried for an hour is forgotten.
// Each entry has cost a password hash, of which few are worked out in a second:
// that bounds how many there can be.
type tries struct {
	mu    sync.Mutex
	by    map[string]try
	swept time.Time
}

type try struct {
	failed int
	last   time.Time
}

const forgetAfter = time.Hour

// begin counts a try by all counters, or returns how long it has to wait and
// counts nothing.
func (t *tries) begin(keys []counter, now time.Time) time.Duration {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.by == nil {
		t.by = map[string]try{}
	}
	if now.Sub(t.swept).Abs() > time.Minute {
		t.swept = now
		maps.DeleteFunc(t.by, func(_ string, e try) bool { return now.Sub(e.last).Abs() > forgetAfter })
	}
	var wait time.Duration
	for _, k := range keys {
		e := t.by[k.name]
		if now.Before(e.last) { // the machine's clock was set back: it waits from now
			e.last = now
			t.by[k.name] = e
		}
		if left := k.pace.wait(e.failed) - now.Sub(e.last); e.failed > 0 && k.pace.wait(e.failed) > 0 && left > wait {
			wait = left
		}
	}
	if wait > 0 {
		return wait
	}
	for _, k := range keys {
		t.by[k.name] = try{t.by[k.name].failed + 1, now}
	}
	return 0
}

// worked takes back the try that begin counted; of the first counter all are.
func (t *tries) worked(keys []counter) {
	t.mu.Lock()
	defer t.mu.Unlock()
	for i, k := range keys {
		e := t.by[k.name]
		if e.failed--; i == 0 || e.failed <= 0 {
			delete(t.by, k.name)
			continue
		}
		t.by[k.name] = e
	}
}
