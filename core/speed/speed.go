// Package speed says what the program costs the pages of a site: how much more they load, and for how long
// at a time they are kept busy, measured without it and with it.
package speed

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"mastflag/core/moment"
)

// LongTask is from when on a task on a page's main thread counts as long, ms (W3C, Long Tasks API). Shorter ones
// are not seen.
const LongTask = 50

// A Load is what one visit to a page takes, with nothing kept from before.
type Load struct {
	// All that was fetched: how many requests, and how many bytes came over the line for them.
	Requests int `json:"requests"`
	Bytes    int `json:"bytes"`
	// The longest task, ms; 0 where none was long.
	Task int `json:"task"`
}

// A PageCost is a page without the program and with it: of several visits each the median.
type PageCost struct {
	Path    string `json:"path"`
	Without Load   `json:"without"`
	With    Load   `json:"with"`
	// What of With came from the program itself.
	Own Load `json:"own"`
}

// A Measure is what was measured at one time.
type Measure struct {
	At    time.Time  `json:"at"`
	Pages []PageCost `json:"pages"`
	// How many times slower than this machine the processor was made: a middling phone's (common practice).
	Slowed int `json:"slowed"`
	// What could not be measured, each a sentence.
	Faults []string `json:"faults,omitempty"`
}

// Median returns of each figure the median, the lower one of two; nothing of none.
func Median(loads []Load) Load {
	of := func(figure func(Load) int) int {
		if len(loads) == 0 {
			return 0
		}
		all := make([]int, len(loads))
		for i, s := range loads {
			all[i] = figure(s)
		}
		slices.Sort(all)
		return all[(len(all)-1)/2]
	}
	return Load{
		Requests: of(func(s Load) int { return s.Requests }),
		Bytes:    of(func(s Load) int { return s.Bytes }),
		Task:     of(func(s Load) int { return s.Task }),
	}
}

// Worst returns the page on which the program loads the most; ok is false where none was measured.
func (m Measure) Worst() (worst PageCost, ok bool) {
	if len(m.Pages) == 0 {
		return worst, false
	}
	return slices.MaxFunc(m.Pages, func(a, b PageCost) int { return cmp.Compare(a.Own.Bytes, b.Own.Bytes) }), true
}

// Sentence says what the program costs the page on which it loads the most.
func (m Measure) Sentence() string {
	worst, ok := m.Worst()
	switch {
	case !ok:
		return "Nothing could be measured."
	case worst.Own.Requests == 0:
		return "Nothing of the program is loaded: the pages lack its two lines."
	}
	return "At most, on " + worst.Path + ", " + worst.sentence()
}

// sentence says what the program costs the page, without a capital.
func (p PageCost) sentence() string {
	return fmt.Sprintf("notices take %s and %s; the page itself takes %s and %s. %s",
		moment.Count(p.Own.Requests, "request"), kilobytes(p.Own.Bytes),
		moment.Count(p.Without.Requests, "request"), kilobytes(p.Without.Bytes), p.tasks())
}

func (p PageCost) tasks() string {
	long := func(task int) string { return fmt.Sprintf("%d ms", task) }
	switch {
	case p.With.Task == 0 && p.Without.Task == 0:
		return fmt.Sprintf("No task takes %d ms or longer, with notices or without.", LongTask)
	case p.With.Task == 0:
		return fmt.Sprintf("The longest task takes %s without notices, and none %d ms or longer with them.",
			long(p.Without.Task), LongTask)
	case p.Without.Task == 0:
		return fmt.Sprintf("The longest task takes %s with notices, and none %d ms or longer without them.",
			long(p.With.Task), LongTask)
	}
	return fmt.Sprintf("The longest task takes %s with notices, and %s without.", long(p.With.Task), long(p.Without.Task))
}

// kilobytes says a number of bytes in kB of 1,000, to a tenth where it is small.
func kilobytes(n int) string {
	kb := float64(n) / 1000
	if kb < 100 {
		return strings.TrimSuffix(fmt.Sprintf("%.1f", kb), ".0") + " kB"
	}
	return fmt.Sprintf("%.0f kB", kb)
}
