// Package results says what came of notices: how many met them, how many reached their goal,
// and whether one variant did better than another (rules E2, E6 and E9).
package results

import (
	"math"

	"mastflag/core/proportion"
)

// MinSeen is how many visitors there have to be before a share is said (rule E2).
const MinSeen = 30

// HeldOut is the variant of those who never see a notice, though they would have.
const HeldOut = "held-out"

// A Group is the visitors of a notice who got one variant, "" where it has none, and how many
// of them reached its goal: 0 <= Reached <= Visitors.
type Group struct {
	Notice   string `json:"notice"`
	Variant  string `json:"variant"`
	Visitors int    `json:"visitors"`
	Reached  int    `json:"reached"`
}

func (g Group) count() proportion.Count { return proportion.Count{K: g.Reached, N: g.Visitors} }

// A Result is a group with its share, and the difference from its notice's first group. What
// is left out is not said, because the numbers are too small; the first has no difference.
type Result struct {
	Group
	Share      *float64 `json:"share,omitempty"`
	Low        *float64 `json:"low,omitempty"`
	High       *float64 `json:"high,omitempty"`
	Difference *Effect  `json:"difference,omitempty"`
}

// An Effect is how much larger a group's share is than that of its notice's first group.
type Effect struct {
	Share float64 `json:"share"`
	// As of one look, at a time that was fixed beforehand.
	proportion.Range
	// As of any number of looks.
	Always proportion.Range `json:"always"`
}

// Decided reports whether there is a difference, whenever one looks.
func (d Effect) Decided() bool { return d.Always.Excludes(0) }

// Compare returns the result of each group, in their order.
func Compare(groups []Group) []Result {
	first, comparisons := map[string]Group{}, map[string]int{}
	for _, g := range groups {
		comparisons[g.Notice]++
	}
	out := make([]Result, 0, len(groups))
	for _, g := range groups {
		r := Result{Group: g}
		if g.Visitors >= MinSeen {
			share, w := g.count().Share(), g.count().Wilson()
			r.Share, r.Low, r.High = &share, &w.Low, &w.High
		}
		base, compared := first[g.Notice]
		if !compared {
			first[g.Notice] = g
		} else if g.Visitors >= MinSeen && base.Visitors >= MinSeen {
			a, b := base.count(), g.count()
			r.Difference = &Effect{
				b.Share() - a.Share(), proportion.Newcombe(a, b), proportion.Always(a, b, comparisons[g.Notice]-1),
			}
		}
		out = append(out, r)
	}
	return out
}

// A SamplePlan is how many visitors it takes to find a difference, and how long that takes (rule E7).
type SamplePlan struct {
	// The difference, in points of a hundred.
	Points float64 `json:"points"`
	proportion.Plan
	// Days until as many have met the notice; 0 where nobody meets it.
	Days int `json:"days"`
}

// Plans returns what it takes to find differences of 1, 2 and 5 points from the share of the first
// of these groups, where daily visitors of all groups meet the notice a day; nothing where that
// share is not said, or there is but one group.
func Plans(list []Result, daily float64) []SamplePlan {
	out := []SamplePlan{}
	if len(list) == 0 || list[0].Share == nil {
		return out
	}
	for _, points := range []float64{1, 2, 5} {
		plan, ok := proportion.Needed(*list[0].Share, points/100, len(list))
		if !ok {
			continue
		}
		p := SamplePlan{Points: points, Plan: plan}
		if daily > 0 {
			p.Days = int(math.Ceil(float64(plan.Daily) / daily))
		}
		out = append(out, p)
	}
	return out
}
