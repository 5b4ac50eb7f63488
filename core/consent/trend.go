package consent

import (
	"maps"
	"slices"

	"mastflag/core/proportion"
)

// Outcomes count what became of questions.
type Outcomes struct {
	Asked    int `json:"asked"`
	Accepted int `json:"accepted"`
	Refused  int `json:"refused"`
	Chosen   int `json:"chosen"`
}

// Add counts n of an outcome: asked, or an EventType.
func (o *Outcomes) Add(outcome string, n int) {
	switch outcome {
	case "asked":
		o.Asked += n
	case string(Accepted):
		o.Accepted += n
	case string(Refused):
		o.Refused += n
	case string(Chosen):
		o.Chosen += n
	}
}

// A Tally is one thing to count of a consent question: that it was shown, or
// how it was answered.
type Tally struct {
	Day, Place, Language, Device, Version string
	// As Outcomes.Add takes it.
	Outcome string
}

// A Count is how often something was counted.
type Count struct {
	Tally
	N int
}

// TrendsBy sums up what was counted: all of it, and by day, place, language,
// device or version, in their order. ok is false where by is none of these.
func TrendsBy(by string, counts []Count) (all Trend, rows []Trend, ok bool) {
	key := map[string]func(Tally) string{
		"day": func(t Tally) string {
			return t.Day
		}, "place": func(t Tally) string { return t.Place }, "language": func(t Tally) string { return t.Language },
		"device": func(t Tally) string { return t.Device }, "version": func(t Tally) string { return t.Version },
	}[by]
	if key == nil {
		return all, nil, false
	}
	sum, each := Outcomes{}, map[string]*Outcomes{}
	for _, n := range counts {
		k := key(n.Tally)
		if each[k] == nil {
			each[k] = &Outcomes{}
		}
		each[k].Add(n.Outcome, n.N)
		sum.Add(n.Outcome, n.N)
	}
	rows = []Trend{}
	for _, k := range slices.Sorted(maps.Keys(each)) {
		rows = append(rows, each[k].Trend(k))
	}
	return sum.Trend(""), rows, true
}

// A Share is how many of those asked, and the 95 % interval of the proportion.
type Share struct {
	N    int     `json:"n"`
	Of   float64 `json:"of"` // the proportion, 0 to 1
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// A Trend is what became of the questions of one day, place, language, device
// or version.
type Trend struct {
	Key        string `json:"key"`
	Asked      int    `json:"asked"`
	Accepted   Share  `json:"accepted"`
	Refused    Share  `json:"refused"`
	Chosen     Share  `json:"chosen"`
	Unanswered Share  `json:"unanswered"`
}

// Trend sums outcomes up. Who was asked on another day, or is asked again by
// their own wish, can answer without having been counted as asked; then all
// who answered are taken as asked.
func (o Outcomes) Trend(key string) Trend {
	answered := o.Accepted + o.Refused + o.Chosen
	n := max(o.Asked, answered)
	share := func(k int) Share { return shareOf(k, n) }
	return Trend{key, n, share(o.Accepted), share(o.Refused), share(o.Chosen), share(n - answered)}
}

// shareOf returns k of n with its score interval.
func shareOf(k, n int) Share {
	c := proportion.Count{K: k, N: n}
	i := c.Wilson()
	return Share{N: k, Of: c.Share(), Low: i.Low, High: i.High}
}
