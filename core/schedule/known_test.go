package schedule

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// However many drafts are read, what is kept of their repeats stays bounded.
func TestKnownRepeatsAreBounded(t *testing.T) {
	const inTenYears = 3653 // of each rule here
	defer func(before int) { maxKnownStarts = before }(maxKnownStarts)
	maxKnownStarts = 10 * inTenYears
	knownMu.Lock()
	clear(known) // of other tests
	knownMu.Unlock()
	for i := range 24 {
		var p Plan
		for k := range 2 {
			p.Windows = append(p.Windows, Window{
				From:  fmt.Sprintf("2026-01-%02dT00:%02d", 1+i/2, 30*(i%2)+k),
				Until: fmt.Sprintf("2026-01-%02dT00:%02d", 1+i/2, 30*(i%2)+k+1),
				Rule:  "FREQ=DAILY",
			})
		}
		s, faults := Compile(p, time.UTC, time.Time{})
		require.Empty(t, faults)
		s.SiteAt(time.Date(2036, 1, 1, 0, 0, 0, 0, time.UTC))
		knownMu.Lock()
		n := knownStarts()
		knownMu.Unlock()
		assert.LessOrEqual(t, n, maxKnownStarts+recount*inTenYears)
	}
}
