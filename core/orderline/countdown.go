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
	var clock string
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
		if c.IsNumber() {
			s = fmt.Sprintf(
				"counts from %d to %d within %s from when each visitor first meets it", c.From, *c.To, lasting(c.For),
			)
			break
		}
		s = "counts down " + lasting(c.For) + " from when each visitor first meets it"
	case countdown.Repeating:
		s = "counts down to " + moment.Repeat(schedule.Window{
			From:   c.At,
			Rule:   c.Rule,
			Except: c.Except,
			Also:   c.Also,
		}, now) + clock
		if rule := strings.ToUpper(c.Rule); !strings.Contains(rule, "COUNT=") && !strings.Contains(rule, "UNTIL=") {
			return s + leads(c) // there is no last of them
		}
		return s + "; after the last of them it " + follows(c) + leads(c)
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
			every := strings.TrimPrefix(strings.TrimPrefix(lasting(c.Every), "an "), "a ")
			s += fmt.Sprintf(" in steps of %d, one every %s from %s", max(c.Step, -c.Step), every, at) + clock
			if c.To == nil {
				if c.Step < 0 {
					s = strings.Replace(s, "counts", "counts down", 1)
				}
				return s
			}
			s += ","
		}
	default:
		s = "counts down to " + at + clock
	}
	return s + " and then " + follows(c) + leads(c)
}

// follows says what becomes of the notice at the end.
func follows(c countdown.Countdown) string {
	switch c.GetThen() {
	case countdown.Say:
		return "says something else"
	case countdown.Stay:
		if c.IsNumber() {
			return "stays there"
		}
		return "stays at zero"
	case countdown.Again:
		return "begins again"
	case countdown.HandOver:
		return "hands over to “" + c.HandTo + "”"
	}
	return "disappears"
}

// leads says where a page goes at the end, "" if nowhere.
func leads(c countdown.Countdown) string {
	if c.Go == "" {
		return ""
	}
	return "; a page on which it runs out goes to " + c.Go
}
