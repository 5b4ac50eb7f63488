package results

import "mastflag/core/closed"

// An Act is something that is counted of a notice (rule E1).
type Act string

const (
	Seen     Act = "seen"     // half of it was in the window for one second without a break
	Visitors Act = "visitors" // seen for the first time by this browser
	Clicked  Act = "clicked"
	Closed   Act = "closed"
	Answered Act = "answered"
	Sent     Act = "sent"    // its form
	Reached  Act = "reached" // its goal
	Left     Act = "left"    // for another tab, while it waited there
	Back     Act = "back"    // from there
)

// Acts is all of them, in the order in which they are kept. What is kept depends on it: a new one
// is added at the end.
var Acts = []Act{Seen, Visitors, Clicked, Closed, Answered, Sent, Reached, Left, Back}

func (Act) Values() []string { return closed.Strings(Acts...) }

// Sums are how often each act was counted.
type Sums struct {
	Seen     int `json:"seen"`
	Visitors int `json:"visitors"`
	Clicked  int `json:"clicked"`
	Closed   int `json:"closed"`
	Answered int `json:"answered"`
	Sent     int `json:"sent"`
	Reached  int `json:"reached"`
	Left     int `json:"left"`
	Back     int `json:"back"`
}

// Each returns where each act is counted, in the order of Acts.
func (s *Sums) Each() []*int {
	return []*int{
		&s.Seen, &s.Visitors, &s.Clicked, &s.Closed, &s.Answered, &s.Sent, &s.Reached, &s.Left, &s.Back,
	}
}

// Add adds other sums.
func (s *Sums) Add(other Sums) {
	theirs := other.Each()
	for i, n := range s.Each() {
		*n += *theirs[i]
	}
}

// A Key is what acts are counted by, and by nothing else: no row is about one visitor (rule E1).
type Key struct {
	Notice string `json:"notice"`
	// When it was published, Unix time in seconds.
	Version int64 `json:"version"`
	// BCP 47 tag of the text that was shown.
	Wording string `json:"wording"`
	// "" of those in no experiment.
	Variant string `json:"variant"`
	// On the site's clock, as 2026-12-04.
	Day string `json:"day"`
	// Path of a known page; "" of all others.
	Page string `json:"page"`
	// Kind of device; "" where it is not known.
	Device string `json:"device"`
}

// A Row is the sums of one key.
type Row struct {
	Key
	Sums
}
