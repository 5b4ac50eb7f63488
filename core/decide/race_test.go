package decide_test

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/schedule"
)

// A site answers many at once, at moments near and far: what it finds as it is
// asked is found for all alike.
func TestManyAskAtOnce(t *testing.T) {
	var notices []bundle.Notice
	for i, rule := range []string{
		"FREQ=DAILY", "FREQ=WEEKLY;BYDAY=MO,FR", "FREQ=MONTHLY;BYMONTHDAY=-1", "FREQ=HOURLY;INTERVAL=5",
	} {
		notices = append(notices, bar(fmt.Sprintf("r%d", i), slot(bundle.Inline), to(returning), windows(schedule.Window{
			From:  "2026-12-01T09:00",
			Until: "2026-12-01T12:30",
			Rule:  rule,
		})))
	}
	notices[1].Schedule.Clock = "visitor"
	s, alone := compile(t, site(notices...)), compile(t, site(notices...))
	ask := func(s *decide.Site, i int) string {
		v := decide.Visit{
			At:    noon.Add(time.Duration(i*i*7) * time.Hour),
			URL:   "/",
			Facts: map[string]any{"visits.number": float64(i % 4), "locale.zone": []string{"Europe/London", "Asia/Tokyo"}[i%2]},
		}
		d := s.Decide(v)
		return fmt.Sprint(ids(d.Show), d.ValidUntil)
	}
	want := make([]string, 60)
	for i := range want {
		want[i] = ask(alone, i)
	}
	var wg sync.WaitGroup
	for g := range 8 {
		wg.Go(func() {
			for k := range want {
				i := (k*7 + g*13) % len(want)
				assert.Equal(t, want[i], ask(s, i))
			}
		})
	}
	wg.Wait()
}
