package schedule

import "time"

// A ClockChange is when a zone's clock is put forward, by so many minutes, or
// back, by minutes below zero.
type ClockChange struct {
	At      time.Time `json:"at"`
	Minutes int       `json:"minutes"`
}

// ClockChanges are the zone's between two instants, a hundred at most.
func ClockChanges(zone *time.Location, from, until time.Time) []ClockChange {
	out := []ClockChange{}
	for t := from.In(zone); len(out) < 100; {
		end := PeriodEnd(t)
		if end.IsZero() || !end.Before(until) {
			return out
		}
		_, before := t.Zone()
		_, after := end.In(zone).Zone()
		if before != after {
			out = append(out, ClockChange{end.UTC(), (after - before) / 60})
		}
		t = end.In(zone)
	}
	return out
}
