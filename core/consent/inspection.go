package consent

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"mastflag/core/closed"
	"mastflag/core/schedule"
)

// A Phase is how an inspection visited: before any answer, or after one.
type Phase string

const (
	Unanswered  Phase = "unanswered"
	AllAccepted Phase = "accepted"
	AllRefused  Phase = "refused"
)

func (Phase) Values() []string { return closed.Strings(Unanswered, AllAccepted, AllRefused) }

// Phases is every phase, in the order in which an inspection goes through them.
var Phases = []Phase{Unanswered, AllAccepted, AllRefused}

// A Sighting is one thing that an inspection found set or fetched.
type Sighting struct {
	Phase Phase    `json:"phase"`
	Kind  ItemKind `json:"kind"`
	// Of a cookie or key; the host of a frame or request.
	Name string `json:"name"`
	// The host that a cookie is for, where that is not the site's.
	Host string `json:"host,omitempty"`
	// The page it was found on first, and what set it: the address of a script or of a response.
	Page string `json:"page"`
	By   string `json:"by,omitempty"`
	// How long it is kept, as Item.Lasts; "" of a frame or request.
	Lasts string `json:"lasts,omitempty"`
	// Milliseconds after the page was asked for.
	After int `json:"after"`
}

// A Run is one inspection.
type Run struct {
	ID    int64     `json:"id,omitempty"`
	Began time.Time `json:"began"`
	Ended time.Time `json:"ended"`
	// browser: pages were opened in one, three times. http: they were only read,
	// which sees what responses set and what is written in the page, and nothing that scripts do.
	How string `json:"how" jsonschema:"enum=browser,enum=http"`
	// Paths that were visited, and why some could not be.
	Pages  []string   `json:"pages"`
	Faults []RunFault `json:"faults,omitempty"`
	// It was stopped before its end.
	Stopped bool `json:"stopped,omitempty"`
	// In no page was a consent notice found that could be answered.
	NoQuestion bool       `json:"noQuestion,omitempty"`
	Found      []Sighting `json:"found"`
}

// A RunFault is a page that could not be visited.
type RunFault struct {
	Page string `json:"page"`
	Why  string `json:"why"`
}

// A DetectedItem is what was found, once for all pages and phases, beside what the
// inventory has of it.
type DetectedItem struct {
	Kind ItemKind `json:"kind"`
	Name string   `json:"name"`
	Host string   `json:"host,omitempty"`
	// Place in the inventory, -1 if it has none.
	Item int `json:"item"`
	// "" where the inventory does not say.
	Purpose string `json:"purpose,omitempty"`
	Lasts   string `json:"lasts,omitempty"`
	// Where it was seen first in each phase.
	Seen []Sighting `json:"seen"`
	// It is set before an answer or after a refusal, and is not strictly necessary.
	Leaks bool `json:"leaks,omitempty"`
	// It is kept longer than the inventory says.
	Longer bool `json:"longer,omitempty"`
}

// A what tells one thing from another.
type itemKey struct {
	kind       ItemKind
	name, host string
}

func (t DetectedItem) key() itemKey { return itemKey{t.Kind, t.Name, t.Host} }

// Offered returns the row of another site's inventory for something that this one's does not
// list: one that it fits, for a purpose that this site has too. ok is false if there is none.
func (s Setup) Offered(t DetectedItem, other Setup) (row Item, ok bool) {
	if t.Item >= 0 {
		return Item{}, false
	}
	purposes := append([]string{Necessary}, s.AskedPurposes()...)
	i := slices.IndexFunc(other.Inventory, func(i Item) bool {
		return i.Fits(t.Kind, t.Name, t.Host) && slices.Contains(purposes, i.Purpose)
	})
	if i < 0 {
		return Item{}, false
	}
	return other.Inventory[i], true
}

// Detected sums a run up against the inventory. What the inventory names with a
// pattern is one thing.
func (s Setup) Detected(r Run) []DetectedItem {
	var out []DetectedItem
	at := map[itemKey]int{}
	for _, f := range r.Found {
		t := DetectedItem{Kind: f.Kind, Name: f.Name, Host: f.Host, Item: s.find(f), Lasts: f.Lasts}
		if t.Item >= 0 {
			i := s.Inventory[t.Item]
			t.Name, t.Purpose = i.Name, i.Purpose
			t.Longer = days(f.Lasts) > days(i.Lasts) && i.Lasts != ""
		} else if (f.Kind == Storage || f.Kind == Cookie) && strings.HasPrefix(f.Name, "mastflag.") {
			t.Name, t.Purpose = "mastflag.*", Necessary // what visitors closed and answered
		}
		k, ok := at[t.key()]
		if !ok {
			k = len(out)
			at[t.key()] = k
			out = append(out, t)
		}
		have := &out[k]
		have.Longer = have.Longer || t.Longer
		if !slices.ContainsFunc(have.Seen, func(o Sighting) bool { return o.Phase == f.Phase }) {
			have.Seen = append(have.Seen, f)
		}
		have.Leaks = have.Leaks || f.Phase != AllAccepted && t.Purpose != Necessary
	}
	slices.SortStableFunc(out, func(a, b DetectedItem) int {
		return cmp.Or(
			rank(b)-rank(a), slices.Index(ItemKinds, a.Kind)-slices.Index(ItemKinds, b.Kind), strings.Compare(a.Name, b.Name),
		)
	})
	return out
}

// rank puts what needs someone first.
func rank(t DetectedItem) int {
	switch {
	case t.Leaks:
		return 2
	case t.Item < 0 && t.Purpose == "":
		return 1
	}
	return 0
}

// find returns the place in the inventory of what was found, -1 if it has none.
// A name that fits exactly goes before a pattern.
func (s Setup) find(f Sighting) int {
	found := -1
	for k, i := range s.Inventory {
		if i.Fits(f.Kind, f.Name, f.Host) && (found < 0 || i.Name == f.Name) {
			found = k
		}
	}
	return found
}

// days returns about how long something is kept, in days.
func days(lasts string) float64 {
	switch lasts {
	case "", "session":
		return 0
	case "ever":
		return 1e9
	}
	span, err := schedule.ParseSpan(lasts)
	if err != nil {
		return 0
	}
	from := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	return span.After(from, time.UTC).Sub(from).Hours() / 24
}

// Unseen returns the places in the inventory of what a run did not find.
func (s Setup) Unseen(r Run) []int {
	out := []int{}
	seen := map[int]bool{}
	for _, f := range r.Found {
		seen[s.find(f)] = true
	}
	for k := range s.Inventory {
		if !seen[k] {
			out = append(out, k)
		}
	}
	return out
}

// A Difference is how a thing of one run differs from the run before it.
type Difference struct {
	What string   `json:"what" jsonschema:"enum=new,enum=gone,enum=changed"`
	Kind ItemKind `json:"kind"`
	Name string   `json:"name"`
	Host string   `json:"host,omitempty"`
	// Of a change: how long it is kept, and in which phases it is set, before and now.
	Before string `json:"before,omitempty"`
	Now    string `json:"now,omitempty"`
}

// Compare returns what is new in a run, what is gone, and what has changed.
func (s Setup) Compare(before, now Run) []Difference {
	index := func(r Run) (list []DetectedItem, by map[itemKey]DetectedItem) {
		by = map[itemKey]DetectedItem{}
		list = s.Detected(r)
		for _, t := range list {
			by[t.key()] = t
		}
		return list, by
	}
	say := func(t DetectedItem) string {
		var phases []string
		for _, p := range Phases {
			if slices.ContainsFunc(t.Seen, func(f Sighting) bool { return f.Phase == p }) {
				phases = append(phases, string(p))
			}
		}
		return strings.TrimSpace(t.Lasts + " " + strings.Join(phases, ", "))
	}
	was, had := index(before)
	is, has := index(now)
	out := []Difference{}
	for _, t := range is {
		old, ok := had[t.key()]
		switch {
		case !ok:
			out = append(out, Difference{What: "new", Kind: t.Kind, Name: t.Name, Host: t.Host, Now: say(t)})
		case say(old) != say(t):
			out = append(out, Difference{
				What:   "changed",
				Kind:   t.Kind,
				Name:   t.Name,
				Host:   t.Host,
				Before: say(old),
				Now:    say(t),
			})
		}
	}
	for _, t := range was {
		if _, ok := has[t.key()]; !ok {
			out = append(out, Difference{What: "gone", Kind: t.Kind, Name: t.Name, Host: t.Host, Before: say(t)})
		}
	}
	return out
}
