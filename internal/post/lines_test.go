package post

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"mastflag/internal/store"
)

// How many may be under way at once, of what, and how long is waited, as rule F4 has it.
func TestPlacesAndWaits(t *testing.T) {
	webs := func(sites, receivers int) (out []store.Queue) {
		for s := range sites {
			for r := range receivers {
				out = append(out, store.Queue{Site: fmt.Sprint("s", s), Receiver: fmt.Sprintf("r%d.%d", s, r)})
			}
		}
		return out
	}
	letters := func(n int) (out []store.Queue) {
		for i := range n {
			out = append(out, store.Queue{Site: fmt.Sprint("s", i), Receiver: store.MailServer})
		}
		return out
	}
	one := func(n int) (out []store.Queue) {
		for range n {
			out = append(out, store.Queue{Site: "s", Receiver: "r"})
		}
		return out
	}
	for _, c := range []struct {
		says     string
		underway []store.Queue
		failures int
		next     store.Queue
		has      bool
	}{
		{"the second to a receiver", one(1), 0, store.Queue{Site: "s", Receiver: "r"}, true},
		{"the third", one(2), 0, store.Queue{Site: "s", Receiver: "r"}, false},
		{"the second to one that failed twice in a row", one(1), 2, store.Queue{Site: "s", Receiver: "r"}, true},
		{"the second to one that failed three times", one(1), 3, store.Queue{Site: "s", Receiver: "r"}, false},
		{"the first to one that failed", nil, 9, store.Queue{Site: "s", Receiver: "r"}, true},
		{"the fourth of a site", webs(1, 3), 0, store.Queue{Site: "s0", Receiver: "new"}, true},
		{"the fifth of a site", webs(1, 4), 0, store.Queue{Site: "s0", Receiver: "new"}, false},
		{"the sixteenth of all", webs(5, 3), 0, store.Queue{Site: "new", Receiver: "new"}, true},
		{"the seventeenth of all", webs(4, 4), 0, store.Queue{Site: "new", Receiver: "new"}, false},
		{"a letter beside them", webs(4, 4), 0, store.Queue{Site: "s", Receiver: store.MailServer}, true},
		{"the fourth letter", letters(3), 0, store.Queue{Site: "s", Receiver: store.MailServer}, true},
		{"the fifth letter", letters(4), 0, store.Queue{Site: "s", Receiver: store.MailServer}, false},
		{"a web address beside letters", letters(4), 0, store.Queue{Site: "s0", Receiver: "r"}, true},
	} {
		l := lines{underway: map[int64]store.Queue{}, failures: map[string]int{c.next.Receiver: c.failures}}
		for i, q := range c.underway {
			l.underway[int64(i)] = q
		}
		assert.Equal(t, c.has, l.hasPlace(c.next), c.says)
	}
	minutes := func(of func(n int) time.Duration, most int) (out []float64) {
		for n := 1; n <= most; n++ {
			out = append(out, of(n).Minutes())
		}
		return out
	}
	assert.Equal(t, []float64{0.5, 1, 2, 4, 8, 16, 32, 64, 128, 256, 360, 360, 360}, minutes(backoff, 13))
	assert.Equal(t, []float64{0, 0, 0.5, 1, 2, 4, 8, 16, 32, 60, 60, 60}, minutes(holdAfter, 12))
	assert.Equal(t, 360., backoff(1000).Minutes())
	assert.Equal(t, 60., holdAfter(1000).Minutes())
	seconds := []float64{}
	for failures := range 5 {
		seconds = append(seconds, tryFor(failures).Seconds())
	}
	assert.Equal(t, []float64{20, 10, 5, 5, 5}, seconds)
}
