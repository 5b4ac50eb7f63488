package moment

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"mastflag/core/schedule"
)

var dayNames = map[string]string{
	"MO": "Monday",
	"TU": "Tuesday",
	"WE": "Wednesday",
	"TH": "Thursday",
	"FR": "Friday",
	"SA": "Saturday",
	"SU": "Sunday",
}

var ordinals = map[int]string{
	1:  "first",
	2:  "second",
	3:  "third",
	4:  "fourth",
	5:  "fifth",
	-1: "last",
	-2: "second-to-last",
}

// Repeat reads a repeating window back in words: "every Friday 12:00 to
// 18:00, from 27 Nov"; without an end, as moments: "every Friday 12:00, from
// 27 Nov". A rule that has no plain words is quoted.
func Repeat(w schedule.Window, now time.Time) string {
	from, errFrom := schedule.ParseLocal(w.From)
	at := w.Until == ""
	if at {
		w.Until = w.From
	}
	until, errUntil := schedule.ParseLocal(w.Until)
	if errFrom != nil || errUntil != nil {
		return "by the rule " + w.Rule
	}
	first, last := from.In(time.UTC), until.In(time.UTC)
	often, plain := rule(w.Rule, first)
	if !plain {
		often = "by the rule " + w.Rule
	}
	s := often
	hourly := strings.Contains(strings.ToUpper(w.Rule), "FREQ=HOURLY")
	switch days := int64(until)/86_400 - int64(from)/86_400; {
	case hourly && !at:
		s += ", for " + lasting(last.Sub(first)) + " each time"
	case at && !hourly:
		s += " " + first.Format("15:04")
	case at:
	case last.Sub(first) == 24*time.Hour && first.Hour() == 0 && first.Minute() == 0:
		s += ", the whole day"
	case days == 0:
		s += " " + first.Format("15:04") + " to " + last.Format("15:04")
	case days == 1:
		s += " " + first.Format("15:04") + " to " + last.Format("15:04") + " the next day"
	default:
		s += fmt.Sprintf(" %s to %s %d days later", first.Format("15:04"), last.Format("15:04"), days)
	}
	if w.Rule != "" {
		s += ", from " + day(first, now.Year())
		if hourly {
			s += first.Format(" 15:04")
		}
	}
	s += ends(w.Rule, now)
	one := func(list []string, otherwise string) string {
		if l, err := schedule.ParseLocal(list[0]); len(list) == 1 && err == nil {
			return day(l.In(time.UTC), now.Year())
		}
		return Count(len(list), otherwise)
	}
	if len(w.Except) > 0 {
		s += ", but not " + one(w.Except, "time")
	}
	if len(w.Also) > 0 {
		s += ", and " + one(w.Also, "more time")
	}
	return s
}

// lasting says how long something is, in its largest units: "1 hour 30 minutes".
func lasting(d time.Duration) string {
	var out []string
	for _, u := range []struct {
		of   time.Duration
		name string
	}{{24 * time.Hour, "day"}, {time.Hour, "hour"}, {time.Minute, "minute"}, {time.Second, "second"}} {
		if n := int(d / u.of); n > 0 {
			out = append(out, Count(n, u.name))
			d %= u.of
		}
	}
	return strings.Join(out, " ")
}

func day(t time.Time, year int) string {
	if t.Year() != year {
		return t.Format("2 Jan 2006")
	}
	return t.Format("2 Jan")
}

// ends says when a rule ends, after a comma.
func ends(value string, now time.Time) string {
	for _, part := range strings.Split(strings.ToUpper(value), ";") {
		name, v, _ := strings.Cut(part, "=")
		switch name {
		case "COUNT":
			if n, err := strconv.Atoi(v); err == nil {
				return ", " + Count(n, "time")
			}
		case "UNTIL":
			if t, err := time.Parse("20060102", v[:min(8, len(v))]); err == nil {
				return " until " + day(t, now.Year())
			}
		}
	}
	return ""
}

// rule says how often a rule comes; ok is false if it has no plain words.
func rule(value string, first time.Time) (said string, ok bool) {
	if value == "" {
		return "on " + first.Format("2 Jan 2006"), true
	}
	parts := map[string]string{}
	for _, part := range strings.Split(strings.ToUpper(value), ";") {
		name, v, _ := strings.Cut(part, "=")
		parts[name] = v
	}
	for name := range parts {
		if !slices.Contains([]string{"FREQ", "INTERVAL", "COUNT", "UNTIL", "WKST", "BYDAY", "BYMONTHDAY"}, name) {
			return "", false
		}
	}
	n := 1
	if v, has := parts["INTERVAL"]; has {
		n, _ = strconv.Atoi(v)
	}
	every := func(unit string) string {
		switch n {
		case 1:
			return "every " + unit
		case 2:
			return "every other " + unit
		}
		return fmt.Sprintf("every %d %ss", n, unit)
	}
	var days []string
	if v := parts["BYDAY"]; v != "" {
		for _, d := range strings.Split(v, ",") {
			name := dayNames[d[max(0, len(d)-2):]]
			if nth := d[:max(0, len(d)-2)]; nth != "" {
				i, err := strconv.Atoi(nth)
				if err != nil || ordinals[i] == "" {
					return "", false
				}
				name = "the " + ordinals[i] + " " + name
			}
			days = append(days, name)
		}
	}
	switch parts["FREQ"] {
	case "HOURLY":
		return every("hour"), len(days) == 0 && parts["BYMONTHDAY"] == ""
	case "DAILY":
		return every("day"), len(days) == 0 && parts["BYMONTHDAY"] == ""
	case "WEEKLY":
		if days == nil {
			days = []string{first.Format("Monday")}
		}
		switch set := strings.Join(days, " "); {
		case n == 1 && set == "Monday Tuesday Wednesday Thursday Friday":
			return "Monday to Friday", true
		case n == 1 && set == "Saturday Sunday":
			return "every weekend", true
		case n == 1:
			return "every " + And(days), true
		}
		return every("week") + " on " + And(days), true
	case "MONTHLY":
		switch v := parts["BYMONTHDAY"]; {
		case v != "" && days != nil:
			return "", false
		case days != nil:
			return "on " + And(days) + " of " + every("month"), !slices.ContainsFunc(
				days, func(d string) bool { return !strings.HasPrefix(d, "the ") },
			)
		case v == "-1":
			return "on the last day of " + every("month"), true
		case v == "":
			return "on day " + strconv.Itoa(first.Day()) + " of " + every("month"), true
		default:
			return "on day " + And(strings.Split(v, ",")) + " of " + every("month"), !strings.Contains(v, "-")
		}
	case "YEARLY":
		return every("year") + " on " + first.Format("2 January"), days == nil && parts["BYMONTHDAY"] == ""
	}
	return "", false
}

// And lists words: "a, b and c"; "" if there are none.
func And(words []string) string {
	if len(words) < 2 {
		return strings.Join(words, "")
	}
	return strings.Join(words[:len(words)-1], ", ") + " and " + words[len(words)-1]
}
