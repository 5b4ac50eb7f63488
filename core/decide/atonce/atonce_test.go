// Package atonce tests that a site answers many at once. It stands by itself because the race detector has all that
// a test depends on compiled anew.
package atonce

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// A site answers many at once, at moments near and far: what it finds as it is
// asked is found for all alike.
func TestManyAskAtOnce(t *testing.T) {
	noon := time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	published := noon.AddDate(0, 0, -10)
	b := bundle.Bundle{
		Format: bundle.Format,
		Site:   bundle.Site{Key: "s", Name: "S", TimeZone: "Europe/London", Language: "en"},
		Pages:  []bundle.Page{{Path: "/"}},
	}
	for i, rule := range []string{
		"FREQ=DAILY", "FREQ=WEEKLY;BYDAY=MO,FR", "FREQ=MONTHLY;BYMONTHDAY=-1", "FREQ=HOURLY;INTERVAL=5",
	} {
		id := fmt.Sprintf("r%d", i)
		b.Notices = append(b.Notices, bundle.Notice{
			ID: id, Kind: bundle.KindBar, State: bundle.Published, PublishedAt: &published, Slot: bundle.Inline,
			Pages:    &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
			Content:  &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: id}}},
			Audience: &audience.Node{Fact: "visits.number", Is: audience.Gte, Value: 2.0},
			Schedule: &schedule.Plan{
				Windows: []schedule.Window{{From: "2026-12-01T09:00", Until: "2026-12-01T12:30", Rule: rule}},
			},
		})
	}
	b.Notices[1].Schedule.Clock = "visitor"
	s, err := decide.Compile(b)
	require.NoError(t, err)
	alone, err := decide.Compile(b)
	require.NoError(t, err)
	ask := func(s *decide.Site, i int) string {
		d := s.Decide(decide.Visit{
			At:    noon.Add(time.Duration(i*i*7) * time.Hour),
			URL:   "/",
			Facts: map[string]any{"visits.number": float64(i % 4), "locale.zone": []string{"Europe/London", "Asia/Tokyo"}[i%2]},
		})
		var shown []string
		for _, n := range d.Show {
			shown = append(shown, n.ID)
		}
		return fmt.Sprint(shown, d.ValidUntil)
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
