package countdown_test

import (
	"fmt"
	"time"

	"mastflag/core/countdown"
)

func Example() {
	c, faults := countdown.Compile(countdown.Countdown{Kind: countdown.To, At: "2026-12-24T18:00"}, time.UTC)
	if len(faults) > 0 {
		fmt.Println(faults)
		return
	}
	now := time.Date(2026, 12, 4, 10, 30, 0, 0, time.UTC)
	// The figures are of the units days, hours, minutes and seconds.
	r := c.Read(now, time.UTC, time.Time{})
	fmt.Println(r.Ends.Format(time.RFC3339), r.Figures)
	// Output:
	// 2026-12-24T18:00:00Z [20 7 30 0]
}
