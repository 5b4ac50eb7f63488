package speed_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"mastflag/core/speed"
)

func TestMedian(t *testing.T) {
	assert.Equal(t, speed.Load{Requests: 2, Bytes: 20, Task: 0}, speed.Median([]speed.Load{
		{Requests: 3, Bytes: 10}, {Requests: 1, Bytes: 30, Task: 90}, {Requests: 2, Bytes: 20, Task: 0},
	}), "each figure by itself")
	assert.Equal(t, 1, speed.Median([]speed.Load{{Requests: 1}, {Requests: 2}}).Requests)
	assert.Zero(t, speed.Median(nil))
}

func TestSentence(t *testing.T) {
	page := func(without, with int) speed.PageCost {
		return speed.PageCost{
			Path:    "/fares",
			Without: speed.Load{Requests: 21, Bytes: 830_400, Task: without},
			With:    speed.Load{Requests: 26, Bytes: 850_000, Task: with},
			Own:     speed.Load{Requests: 5, Bytes: 14_040},
		}
	}
	const begins = "notices take 5 requests and 14 kB; the page itself takes 21 requests and 830 kB. "
	for want, p := range map[string]speed.PageCost{
		begins + "No task takes 50 ms or longer, with notices or without.":                           page(0, 0),
		begins + "The longest task takes 61 ms with notices, and none 50 ms or longer without them.": page(0, 61),
		begins + "The longest task takes 61 ms without notices, and none 50 ms or longer with them.": page(61, 0),
		begins + "The longest task takes 72 ms with notices, and 61 ms without.":                     page(61, 72),
	} {
		assert.Equal(t, "At most, on /fares, "+want, speed.Measure{Pages: []speed.PageCost{p}}.Sentence())
	}
	small := page(0, 0)
	small.Path, small.Own = "/", speed.Load{Requests: 1, Bytes: 6_144}
	m := speed.Measure{Pages: []speed.PageCost{small, page(0, 0)}}
	assert.Regexp(t, "^At most, on /fares, notices take 5 requests", m.Sentence())
	assert.Contains(t, speed.Measure{Pages: []speed.PageCost{small}}.Sentence(), "one request and 6.1 kB")
	assert.Equal(t, "Nothing of the program is loaded: the pages lack its two lines.",
		speed.Measure{Pages: []speed.PageCost{{Path: "/fares"}}}.Sentence())
	assert.Equal(t, "Nothing could be measured.", speed.Measure{}.Sentence())
}
