package e2e

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/speed"
	"mastflag/internal/demo"
	"mastflag/internal/store"
)

// What notices cost a page is measured without the program and with it, said beside what was measured before, and
// counted as nobody's visit. Where nothing can be measured that is said, and what was measured stays.
func TestSpeedIsMeasured(t *testing.T) {
	w := newWorld(t)
	w.only(bar("hello", "Hello"))
	w.changeSite(func(s *bundle.Site) {
		s.Consent.InspectPages = 1
		s.HomePaths = []string{"/fares"}
	})
	cost := speed.PageCost{
		Path:    "/fares",
		Without: speed.Load{Requests: 3, Bytes: 7000},
		With:    speed.Load{Requests: 9, Bytes: 19_345, Task: 61},
		Own:     speed.Load{Requests: 6, Bytes: 12_345},
	}
	ctx := t.Context()
	require.NoError(t, w.server.Store.AddMeasure(ctx, demo.Key, speed.Measure{
		At: w.clock.Now().Add(-7 * 24 * time.Hour), Pages: []speed.PageCost{cost}, Slowed: 4,
	}))
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/site/speed")
	ines.has("At most, on /fares, notices take 6 requests and 12.3 kB; the page itself takes 3 requests and 7 kB. " +
		"The longest task takes 61 ms with notices, and none 50 ms or longer without them.")
	ines.press("Measure again")
	ines.has("Measuring")
	ines.until("document.body.innerText.includes('Over time')")
	measures, err := w.server.Store.Measures(ctx, demo.Key)
	require.NoError(t, err)
	require.Len(t, measures, 2)
	latest := measures[0]
	require.Len(t, latest.Pages, 1)
	assert.Empty(t, latest.Faults)
	p := latest.Pages[0]
	assert.Equal(t, p.With.Requests, p.Without.Requests+p.Own.Requests)
	assert.InDelta(t, p.With.Bytes, p.Without.Bytes+p.Own.Bytes, 500, "headers differ by a few bytes from visit to visit")
	assert.Equal(t, 5, p.Own.Requests, "the line that loads the script, the script, the decision, the parts that make "+
		"room for the bar and that count")
	assert.Less(t, p.Own.Bytes, 15_000)
	assert.Greater(t, p.Own.Bytes, 6_000)
	ines.has(latest.Sentence())
	assert.Empty(t, ines.axe())
	rows, err := w.server.Store.Results(ctx, demo.Key, store.ResultFilter{Notice: "hello"})
	require.NoError(t, err)
	assert.Empty(t, rows, "nobody was there")

	// The site is away, and then has no address.
	w.changeSite(func(s *bundle.Site) { s.Origins = []string{"http://away.test:1"} })
	ines.press("Measure again")
	ines.has("The last measure failed: no page of http://away.test:1 could be measured: /fares: ")
	w.changeSite(func(s *bundle.Site) { s.Origins = nil })
	ines.press("Measure again")
	ines.has("The speed cannot be measured: the site has no address yet: give it one in the Site room.")
	measures, err = w.server.Store.Measures(ctx, demo.Key)
	require.NoError(t, err)
	assert.Len(t, measures, 2)
}
