package schedule_test

import (
	"fmt"
	"time"

	"mastflag/core/schedule"
)

func Example() {
	zone, err := schedule.Zone("Europe/London")
	if err != nil {
		fmt.Println(err)
		return
	}
	// Every Friday afternoon; live at its beginning, no longer live at its end.
	plan := schedule.Plan{Windows: []schedule.Window{
		{From: "2026-12-04T12:00", Until: "2026-12-04T18:00", Rule: "FREQ=WEEKLY;BYDAY=FR"},
	}}
	published := time.Date(2026, 12, 1, 8, 0, 0, 0, time.UTC)
	s, faults := schedule.Compile(plan, zone, published)
	if len(faults) > 0 {
		fmt.Println(faults)
		return
	}
	live, next := s.At(time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC), zone)
	fmt.Println(live, next.Format(time.RFC3339))
	for _, in := range s.Range(published, published.AddDate(0, 0, 14)) {
		fmt.Println(in.From.In(zone).Format(time.DateTime), in.Until.In(zone).Format(time.TimeOnly))
	}
	// Output:
	// true 2026-12-04T18:00:00Z
	// 2026-12-04 12:00:00 18:00:00
	// 2026-12-11 12:00:00 18:00:00
}
