// Package moment says instants, periods and counts in words, for the sentences that
// the core makes about them.
package moment

import (
	"strconv"
	"strings"
	"time"

	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"mastflag/core/bundle"
	"mastflag/core/plural"
	"mastflag/core/schedule"
)

// Say returns t on a wall clock in loc as "Fri 27 Nov 09:00", with the year
// where it differs from that of now, and seconds where there are some.
func Say(t, now time.Time, loc *time.Location) string {
	return say(t.In(loc), now.In(loc).Year())
}

// SayLocal is Say of a local date and time as written in a plan.
func SayLocal(l interface {
	In(*time.Location) time.Time
}, now time.Time) string {
	return say(l.In(time.UTC), now.Year())
}

func say(t time.Time, year int) string {
	layout := "Mon 2 Jan"
	if t.Year() != year {
		layout += " 2006"
	}
	layout += " 15:04"
	if t.Second() != 0 {
		layout += ":05"
	}
	return t.Format(layout)
}

// Count returns how many in words: "one notice", "3 notices".
func Count(n int, what string) string {
	if plural.Of("en", n) == plural.One {
		return "one " + what
	}
	return Figure(n) + " " + what + "s"
}

var english = message.NewPrinter(language.English)

// Figure returns a number in figures, as English writes it: 4,312.
func Figure(n int) string { return english.Sprint(n) }

// Times returns how often in words: "once", "twice", "3 times".
func Times(n int) string {
	switch n {
	case 1:
		return "once"
	case 2:
		return "twice"
	}
	return Figure(n) + " times"
}

// Period returns how long a period is: "for a day", "for 12 hours", "for good",
// "until the next page", "for the rest of the visit".
func Period(p bundle.Period) string {
	switch p {
	case bundle.PeriodPage, "":
		return "until the next page"
	case bundle.PeriodSession:
		return "for the rest of the visit"
	case bundle.PeriodEver:
		return "for good"
	}
	s, err := schedule.ParseSpan(string(p))
	if err != nil {
		return "for " + string(p)
	}
	var parts []string
	add := func(n int, unit string) {
		switch {
		case n == 1 && unit == "hour":
			parts = append(parts, "an hour")
		case n == 1:
			parts = append(parts, "a "+unit)
		case n > 1:
			parts = append(parts, strconv.Itoa(n)+" "+unit+"s")
		}
	}
	add(s.Years, "year")
	add(s.Months, "month")
	if s.Days%7 == 0 {
		add(s.Days/7, "week")
	} else {
		add(s.Days, "day")
	}
	exact := int(s.Exact.Seconds())
	add(exact/3600, "hour")
	add(exact/60%60, "minute")
	add(exact%60, "second")
	return "for " + strings.Join(parts, " and ")
}
