package consent

import (
	"cmp"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"golang.org/x/net/idna"
)

// Unsorted stands for the purpose of what comes from another host and has none yet: no row of the inventory names it,
// or one without a purpose does. No purpose has that id.
const Unsorted = "?"

// A What is what a page may be kept from, as the guard in it sees it.
type What string

const (
	HeldScript  What = "script"
	HeldFrame   What = "frame"
	HeldImage   What = "image"
	HeldRequest What = "request" // by script: fetch, beacons, sockets, workers
	HeldCookie  What = "cookie"
	HeldKey     What = "storage"
)

// Holds are what a browser needs to tell what is to be held back (rules H1 and H3): nothing of it is about a person,
// and equal sites have equal ones.
type Holds struct {
	// Kind, regular expression and purpose of what the inventory lists, the most exact first. The expression is one of
	// ECMAScript and of Go alike; it is of names, or of host, path and query of an address, as count.example/c.js?n=1.
	Rows [][3]string `json:"rows"`
	// The site's own hosts, in lower case.
	Own []string `json:"own"`
}

// Holds returns what is to be held back on a site with these hosts.
func (s Setup) Holds(hosts []string) Holds {
	h := Holds{Rows: [][3]string{}, Own: []string{}}
	for _, host := range hosts {
		h.Own = append(h.Own, strings.ToLower(host))
	}
	slices.Sort(h.Own)
	h.Own = slices.Compact(h.Own)
	type row struct {
		score int
		name  string
		row   [3]string
	}
	var rows []row
	for _, i := range s.Inventory {
		r := row{score: len(i.Name) - strings.Count(i.Name, "*"), name: i.Name}
		expression, purpose := "", i.Purpose
		switch i.Kind {
		case Cookie, Storage:
			// Those of other hosts are out of a page's reach, and what has no purpose yet may be necessary.
			own := i.Host == "" || slices.Contains(h.Own, strings.ToLower(strings.TrimPrefix(i.Host, ".")))
			if !own || purpose == "" || purpose == Necessary {
				continue
			}
			expression = "^" + likeExpression(i.Name, ".*") + "$"
		default:
			host, path, isAddress := strings.Cut(i.Name, "/")
			host = strings.ToLower(host)
			if ascii, err := idna.Lookup.ToASCII(host); err == nil {
				host = ascii // as browsers have it
			}
			r.name = host + "/" + path
			expression = "^" + likeExpression(host, "[^/]*") + "/"
			if !strings.Contains(host, "*") {
				expression = `^([^/]+\.)?` + likeExpression(host, "") + "/"
			}
			if isAddress {
				expression += likeExpression(path, ".*")
				r.score += 1000
			}
			if i.Kind == Frame {
				r.score += 2000
			}
			purpose = cmp.Or(purpose, Unsorted)
		}
		r.row = [3]string{string(i.Kind), expression, purpose}
		rows = append(rows, r)
	}
	slices.SortFunc(rows, func(a, b row) int {
		return cmp.Or(b.score-a.score, strings.Compare(a.name, b.name), slices.Compare(a.row[:], b.row[:]))
	})
	for _, r := range rows {
		h.Rows = append(h.Rows, r.row)
	}
	h.Rows = slices.Compact(h.Rows)
	return h
}

// likeExpression is a pattern as a regular expression, in which * is any run of what the star stands for.
func likeExpression(pattern, star string) string {
	return strings.ReplaceAll(regexp.QuoteMeta(pattern), `\*`, star)
}

// Of returns the purpose that has to be agreed to before something may go ahead: that of the row that fits most
// exactly, Unsorted where none fits what another host has, "" where nothing holds it. subject is an absolute address,
// or the name of a cookie or key.
func (h Holds) Of(what What, subject string) string {
	host, isName := "", what == HeldCookie || what == HeldKey
	if isName && strings.HasPrefix(subject, "mastflag.") {
		return "" // the program's own
	}
	if !isName {
		u, err := url.Parse(subject)
		if err != nil || !slices.Contains([]string{"http", "https", "ws", "wss"}, u.Scheme) {
			return ""
		}
		host = strings.ToLower(u.Hostname())
		if subject = host + cmp.Or(u.EscapedPath(), "/"); u.RawQuery != "" {
			subject += "?" + u.RawQuery
		}
	}
	for _, r := range h.Rows {
		applies := r[0] == string(what) || r[0] == string(Request) && !isName
		if fits, err := regexp.MatchString(r[1], subject); applies && err == nil && fits {
			return r[2]
		}
	}
	if isName || slices.Contains(h.Own, host) {
		return ""
	}
	return Unsorted
}
