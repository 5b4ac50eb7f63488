package demo

import (
	"math/rand/v2"
	"slices"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/results"
	"mastflag/internal/compiled"
)

// A Truth is what visitors of the demo really do: the rates that its sums are made with.
type Truth struct {
	// How many see it on a usual day, and for how many days it has been seen, the last of them Ago.
	Daily, Days, Ago int
	// Of those who see it.
	Clicked, Closed, Answered, Sent float64
	// How many of its visitors reach the goal, by variant.
	Reached map[string]float64
}

// Truths are those of the demo's notices, by id.
var Truths = map[string]Truth{
	"storm-warning":      {Daily: 420, Days: 2, Clicked: 0.11, Closed: 0.05},
	"winter-timetable":   {Daily: 640, Days: 20, Clicked: 0.06, Closed: 0.12},
	"fare-sale":          {Daily: 300, Days: 2, Clicked: 0.049, Closed: 0.08},
	"seal-tours":         {Daily: 60, Days: 5, Clicked: 0.08, Closed: 0.4},
	"port-status":        {Daily: 210, Days: 45, Clicked: 0.03},
	"timetable-feedback": {Daily: 150, Days: 30, Sent: 0.02},
	"service-news": {
		Daily: 170, Days: 90, Closed: 0.6, Sent: 0.05, Reached: map[string]float64{"plain": 0.045, "first": 0.085},
	},
	"christmas-countdown": {
		Daily: 110, Days: 3, Clicked: 0.09, Closed: 0.06, Reached: map[string]float64{"green": 0.07, "red": 0.075},
	},
	"regatta": {
		Daily: 380, Days: 35, Ago: 3, Clicked: 0.05, Closed: 0.1,
		Reached: map[string]float64{"": 0.065, results.HeldOut: 0.021},
	},
}

// heldOut is the share of visitors who never see a notice of which some are held out.
const heldOut = 0.1

// Outcomes returns what was counted of the demo's notices in three months, by a simulation of its
// visitors: each does by chance what Truths say. It is the same whenever it is made anew.
func Outcomes(site *compiled.Site, now time.Time) (rows []results.Row) {
	random := rand.New(rand.NewPCG(18, 90))
	for _, n := range site.Bundle().Notices {
		truth, ok := Truths[n.ID]
		if !ok {
			continue
		}
		places := placesOf(site, n)
		for back := truth.Days; back > 0; back-- {
			at := now.AddDate(0, 0, -back-truth.Ago+1)
			day, seen := at.In(site.Zone()), truth.Daily
			if wd := day.Weekday(); wd == time.Saturday || wd == time.Sunday {
				seen = seen * 13 / 10
			}
			seen = seen * (80 + random.IntN(41)) / 100
			version := n.GetPublishedAt().Unix()
			if at.Before(n.GetPublishedAt()) { // the one before
				version = n.GetPublishedAt().AddDate(0, 0, truth.Ago-truth.Days).Unix()
			}
			sums := map[results.Key]*results.Sums{}
			for range seen {
				truth.visit(random, n, places, day.Format(time.DateOnly), version, sums)
			}
			for key, s := range sums {
				rows = append(rows, results.Row{Key: key, Sums: *s})
			}
		}
	}
	return rows
}

// visit adds what one visitor of a notice does on a day.
func (t Truth) visit(
	random *rand.Rand,
	n bundle.Notice,
	places []results.Key,
	day string,
	version int64,
	sums map[results.Key]*results.Sums,
) {
	chance := func(p float64) int {
		if random.Float64() < p {
			return 1
		}
		return 0
	}
	key := places[min(int(random.ExpFloat64()), len(places)-1)]
	key.Notice, key.Day, key.Version = n.ID, day, version
	key.Device = []string{"phone", "desktop", "phone"}[random.IntN(3)]
	var s results.Sums
	s.Visitors = chance(0.7)
	switch x := n.Experiment; {
	case x == nil:
	case x.Holdout > 0 && chance(heldOut) == 1:
		key.Variant = results.HeldOut
	case len(x.Variants) > 0:
		key.Variant = x.Variants[random.IntN(len(x.Variants))].ID
	}
	if key.Variant != results.HeldOut {
		s.Seen, s.Clicked, s.Closed, s.Answered = 1, chance(t.Clicked), chance(t.Closed), chance(t.Answered)
		s.Sent = chance(t.Sent)
	}
	if s.Visitors == 1 {
		s.Reached = chance(t.Reached[key.Variant])
	}
	if sums[key] == nil {
		sums[key] = &results.Sums{}
	}
	sums[key].Add(s)
}

// placesOf returns some of the pages that a notice is on, each with the language that it is in, those that are
// seen most first.
func placesOf(site *compiled.Site, n bundle.Notice) (out []results.Key) {
	for _, p := range site.Bundle().Pages {
		if len(out) < 6 && slices.Contains(site.PlacedOn(p.Path), n.ID) {
			out = append(out, results.Key{Page: p.Path, Wording: site.Language(p.Path)})
		}
	}
	if out == nil {
		out = []results.Key{{Wording: "en"}} // none of its pages is known
	}
	return out
}
