package orderline

import (
	"fmt"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/countdown"
	"mastflag/core/moment"
	"mastflag/core/schedule"
)

// Counts says a countdown: "counts down to Fri 4 Dec 18:00 and then
// disappears". site is the name of the site's zone.
func Counts(c countdown.Countdown, now time.Time, site string) string {
	clock := ""
	switch c.Clock {
	case "", schedule.ClockSite, site:
	case schedule.ClockVisitor:
		clock = " on each visitor’s own clock"
	default:
		clock = " (" + c.Clock + " time)"
	}
	at := sayEnd(c.At, now)
	lasting := func(p string) string { return strings.TrimPrefix(moment.Period(bundle.Period(p)), "for ") }
	var s string
	switch c.Kind {
	case countdown.Visitor:
		s = "counts down " + lasting(c.For) + " from when each visitor first meets it"
	case countdown.Repeating:
		s = "counts down to the next of " + moment.Repeat(schedule.Window{From: c.At, Rule: c.Rule, Except: c.Except, Also: c.Also}, now) + clock
	case countdown.Since:
		return "counts up from " + at + clock
	case countdown.Number:
		s = fmt.Sprintf("counts from %d", c.From)
		if c.To != nil {
			s += fmt.Sprintf(" to %d", *c.To)
		}
		if c.Until != "" {
			s += " between " + at + " and " + sayEnd(c.Until, now) + clock
		} else {
			s += fmt.Sprintf(" by %+d every %s, from %s", c.Step, strings.TrimPrefix(strings.TrimPrefix(lasting(c.Every), "an "), "a "), at) + clock
			if c.To == nil {
				return s
			}
		}
	default:
		s = "counts down to " + at + clock
	}
	switch c.GetThen() {
	case countdown.Disappear:
		s += " and then disappears"
	case countdown.Say:
		s += " and then says something else"
	case countdown.Stay:
		s += " and then stays as it is"
	case countdown.Again:
		s += " and then begins again"
	case countdown.HandOver:
		s += " and then hands over to " + c.HandTo
	}
	if c.Go != "" {
		s += "; a page on which it runs out goes to " + c.Go
	}
	return s
}
