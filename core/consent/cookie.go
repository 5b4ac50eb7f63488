package consent

import (
	"fmt"
	"strconv"
	"strings"
	"time"
)

// A SetCookie is a cookie as a user agent takes it in.
type SetCookie struct {
	Name, Value string
	// "" for the host that set it alone.
	Domain           string
	Path             string // "" for the default, the folder of the page
	Secure, HTTPOnly bool
	// When it goes by itself; zero at the end of the session.
	Expires time.Time
	// It is gone at once: its time had passed when it came.
	Gone bool
}

// ParseSetCookie reads the value of a Set-Cookie header, or what a script gives
// to document.cookie, at an instant, by the algorithm of RFC 6265 §5.2; ok is
// false where that ignores the whole.
func ParseSetCookie(line string, now time.Time) (c SetCookie, ok bool) {
	pair, rest, _ := strings.Cut(line, ";")
	name, value, has := strings.Cut(pair, "=")
	if !has {
		return c, false // §5.2 step 2
	}
	c.Name, c.Value = strings.Trim(name, " \t"), strings.Trim(value, " \t")
	if c.Name == "" {
		return c, false // step 5
	}
	var maxAge, expires *time.Time
	for rest != "" {
		var attribute string
		attribute, rest, _ = strings.Cut(rest, ";")
		name, value, _ := strings.Cut(attribute, "=")
		value = strings.Trim(value, " \t")
		switch strings.ToLower(strings.Trim(name, " \t")) {
		case "expires": // §5.2.1
			if t, ok := cookieDate(value); ok {
				expires = &t
			}
		case "max-age": // §5.2.2
			if value == "" || value[0] != '-' && (value[0] < '0' || value[0] > '9') ||
				strings.Trim(value[1:], "0123456789") != "" {
				continue
			}
			seconds, err := strconv.ParseInt(value, 10, 64)
			var t time.Time
			switch {
			case value[0] == '-' || err == nil && seconds <= 0:
				t = time.Unix(0, 0).UTC()
			case err != nil || seconds > longest:
				t = now.Add(longest * time.Second)
			default:
				t = now.Add(time.Duration(seconds) * time.Second)
			}
			maxAge = &t
		case "domain": // §5.2.3
			if value != "" {
				c.Domain = strings.ToLower(strings.TrimPrefix(value, "."))
			}
		case "path": // §5.2.4
			c.Path = ""
			if strings.HasPrefix(value, "/") {
				c.Path = value
			}
		case "secure":
			c.Secure = true
		case "httponly":
			c.HTTPOnly = true
		}
	}
	// §5.3 step 3: Max-Age goes before Expires.
	if t := maxAge; t == nil {
		t = expires
		if t != nil {
			c.Expires = *t
		}
	} else {
		c.Expires = *t
	}
	c.Gone = !c.Expires.IsZero() && !c.Expires.After(now)
	return c, true
}

// longest is the most seconds that a cookie is reckoned with here; a century.
const longest = 100 * 366 * 86_400

var months = map[string]time.Month{
	"jan": 1,
	"feb": 2,
	"mar": 3,
	"apr": 4,
	"may": 5,
	"jun": 6,
	"jul": 7,
	"aug": 8,
	"sep": 9,
	"oct": 10,
	"nov": 11,
	"dec": 12,
}

// cookieDate reads a date by the algorithm of RFC 6265 §5.1.1.
func cookieDate(s string) (time.Time, bool) {
	delimiter := func(r rune) bool {
		return r == 0x09 || r >= 0x20 && r <= 0x2f || r >= 0x3b && r <= 0x40 || r >= 0x5b && r <= 0x60 ||
			r >= 0x7b && r <= 0x7e
	}
	var hour, minute, second, day, year int
	var month time.Month
	var foundTime, foundDay, foundMonth, foundYear bool
	for _, token := range strings.FieldsFunc(s, delimiter) {
		if h, m, sec, ok := clockOf(token); ok && !foundTime {
			hour, minute, second, foundTime = h, m, sec, true
			continue
		}
		if n, ok := digits(token, 1, 2); ok && !foundDay {
			day, foundDay = n, true
			continue
		}
		if len(token) >= 3 && !foundMonth {
			if m, ok := months[strings.ToLower(token[:3])]; ok {
				month, foundMonth = m, true
				continue
			}
		}
		if n, ok := digits(token, 2, 4); ok && !foundYear {
			year, foundYear = n, true
		}
	}
	switch {
	case year >= 70 && year <= 99:
		year += 1900
	case year >= 0 && year <= 69:
		year += 2000
	}
	if !foundTime || !foundDay || !foundMonth || !foundYear || day < 1 || day > 31 || year < 1601 || hour > 23 ||
		minute > 59 || second > 59 {
		return time.Time{}, false
	}
	t := time.Date(year, month, day, hour, minute, second, 0, time.UTC)
	return t, t.Day() == day // there is such a day
}

// digits reads a number of at least and at most so many digits at the beginning
// of a token; what follows them is no digit.
func digits(token string, least, most int) (int, bool) {
	n := 0
	for n < len(token) && token[n] >= '0' && token[n] <= '9' {
		n++
	}
	if n < least || n > most {
		return 0, false
	}
	v, _ := strconv.Atoi(token[:n])
	return v, true
}

// clockOf reads hours, minutes and seconds of one or two digits each.
func clockOf(token string) (h, m, s int, ok bool) {
	parts := strings.SplitN(token, ":", 3)
	if len(parts) < 3 {
		return 0, 0, 0, false
	}
	var n [3]int
	for i, p := range parts {
		v, ok := digits(p, 1, 2)
		if !ok || i < 2 && len(p) > 2 || i < 2 && strings.Trim(p, "0123456789") != "" {
			return 0, 0, 0, false
		}
		n[i] = v
	}
	return n[0], n[1], n[2], true
}

// Lasting says how long a cookie that came at an instant is kept: session, or a
// duration in whole days, hours or seconds.
func (c SetCookie) Lasting(now time.Time) string {
	if c.Expires.IsZero() {
		return "session"
	}
	d := c.Expires.Sub(now).Round(time.Second)
	switch day := 24 * time.Hour; {
	case d >= day:
		return fmt.Sprintf("P%dD", d.Round(day)/day)
	case d >= time.Hour && d%time.Hour == 0:
		return fmt.Sprintf("PT%dH", d/time.Hour)
	}
	return fmt.Sprintf("PT%dS", max(d/time.Second, 1))
}
