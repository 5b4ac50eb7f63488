package results

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"mastflag/core/moment"
	"mastflag/core/proportion"
)

// A Rate is what part of those who saw a notice did something, from 0 to 1, with its 95 % score
// interval (rule E2). It has none where too few visitors are known by whom that was.
type Rate struct {
	Of   float64  `json:"of"`
	Low  *float64 `json:"low,omitempty"`
	High *float64 `json:"high,omitempty"`
}

// A Tally is the sums of one day, page, device, wording, version or variant.
type Tally struct {
	Key string `json:"key"`
	Sums
	// Of what was counted at all: of the times it was seen, and Reached of its visitors. Empty where too few have seen it.
	Shares map[Act]Rate `json:"shares,omitempty"`
}

// newTally returns sums with their shares.
func newTally(key string, s Sums) Tally {
	p := Tally{Key: key, Sums: s}
	for i, n := range s.Each() {
		act, of := Acts[i], s.Seen
		switch act {
		case Seen, Visitors, Back:
			continue
		case Reached:
			of = s.Visitors
		}
		// More acts than views, of visitors who pressed before it counted as seen, are no share of these.
		if c := (proportion.Count{K: *n, N: of}); 0 < *n && *n <= of && of >= MinSeen {
			if p.Shares == nil {
				p.Shares = map[Act]Rate{}
			}
			rate := Rate{Of: c.Share()}
			if s.Visitors >= MinSeen {
				w := c.Among(min(of, s.Visitors))
				rate.Low, rate.High = &w.Low, &w.High
			}
			p.Shares[act] = rate
		}
	}
	return p
}

// dimensions are what sums can be told apart by.
var dimensions = map[string]func(Key) string{
	"notice":  func(k Key) string { return k.Notice },
	"day":     func(k Key) string { return k.Day },
	"page":    func(k Key) string { return k.Page },
	"device":  func(k Key) string { return k.Device },
	"wording": func(k Key) string { return k.Wording },
	"variant": func(k Key) string { return k.Variant },
	"version": func(k Key) string { return strconv.FormatInt(k.Version, 10) },
}

// TallyBy sums up what was counted of those who were not held out: all of it, and by notice, day, page,
// device, wording, variant or version. Days are in their order, all else with the most seen first.
// ok is false where by is none of these.
func TallyBy(by string, rows []Row) (all Tally, list []Tally, ok bool) {
	key := dimensions[by]
	if key == nil {
		return Tally{}, nil, false
	}
	var total Sums
	sums := map[string]Sums{}
	for _, r := range rows {
		if r.Variant == HeldOut {
			continue
		}
		s := sums[key(r.Key)]
		s.Add(r.Sums)
		sums[key(r.Key)] = s
		total.Add(r.Sums)
	}
	list = make([]Tally, 0, len(sums))
	for _, k := range slices.Sorted(maps.Keys(sums)) {
		list = append(list, newTally(k, sums[k]))
	}
	if by != "day" {
		slices.SortStableFunc(list, func(a, b Tally) int { return cmp.Compare(b.Seen, a.Seen) })
	}
	return newTally("", total), list, true
}

// Groups returns the visitors of a notice's variants, in this order, and of those held out if
// there are any: of versions from one on, Unix time in seconds.
func Groups(notice string, variants []string, since int64, rows []Row) []Group {
	order := variants
	if len(order) == 0 {
		order = []string{""}
	}
	groups := make([]Group, 0, len(order)+1)
	for _, v := range append(slices.Clone(order), HeldOut) {
		g := Group{Notice: notice, Variant: v}
		for _, r := range rows {
			if r.Notice == notice && r.Variant == v && r.Version >= since {
				g.Visitors += r.Visitors
				g.Reached += r.Reached
			}
		}
		g.Reached = min(g.Reached, g.Visitors) // whose visitors were counted by an earlier version
		if v != HeldOut || g.Visitors > 0 {
			groups = append(groups, g)
		}
	}
	return groups
}

// Verdict says in one sentence what the results of a notice's groups amount to. names are what
// variants are called, by id; the first result is what the others are compared with.
func Verdict(list []Result, names map[string]string) string {
	name := func(variant string) string { return "“" + cmp.Or(names[variant], variant) + "”" }
	var said []string
	for _, r := range list[min(1, len(list)):] {
		d := r.Difference
		if d == nil {
			continue
		}
		low, high := d.Always.Low, d.Always.High
		if r.Variant == HeldOut { // said of what the notice does, not of its absence
			low, high = -high, -low
			what := "see it"
			if list[0].Variant != "" {
				what = "see " + name(list[0].Variant)
			}
			said = append(said, heldOutVerdict(what, low, high, d.Decided()))
			continue
		}
		first, this := name(list[0].Variant), name(r.Variant)
		switch {
		case !d.Decided():
			said = append(said, fmt.Sprintf(
				"Too early to tell about %s: between %s worse and %s better than %s.",
				this,
				points(-low),
				points(high),
				first,
			))
		case low > 0:
			said = append(said, fmt.Sprintf("%s is better than %s, by %s to %s.", this, first, bare(low), points(high)))
		default:
			said = append(said, fmt.Sprintf("%s is worse than %s, by %s to %s.", this, first, bare(high), points(low)))
		}
	}
	if said == nil {
		return fmt.Sprintf("Too early to tell: at least %d visitors have to have met each side.", MinSeen)
	}
	return strings.Join(said, " ")
}

// heldOutVerdict says whether those who see a notice reach its goal more often than those who do
// not, by how many points at least and at most.
func heldOutVerdict(what string, low, high float64, decided bool) string {
	switch {
	case !decided:
		return fmt.Sprintf(
			"Too early to tell whether it does anything: those who %s reach the goal between %s less and %s more often "+
				"than those held out.",
			what,
			points(-low),
			points(high),
		)
	case low > 0:
		return fmt.Sprintf("Those who %s reach the goal more often than those held out, by %s to %s.",
			what, bare(low), points(high))
	}
	return fmt.Sprintf("Those who %s reach the goal less often than those held out, by %s to %s.",
		what, bare(high), points(low))
}

// bare is a share, or a difference of shares, in points of a hundred: with one place, and more where
// it would read as nought and is not, up to four.
func bare(d float64) string {
	points := math.Abs(100 * d)
	places := 1
	for places < 4 && points > 0 && points < 0.5*math.Pow10(-places) {
		places++
	}
	return strconv.FormatFloat(points, 'f', places, 64)
}

// points is the same with its unit.
func points(d float64) string { return bare(d) + " points" }

// Sentence says what was counted of a notice, on so many pages: "Seen 4,312 times on 61 pages, by
// 3,901 visitors; 212 followed its link (4.9 %, 4.3 to 5.6)."
func Sentence(p Tally, pages int) string {
	if p.Seen == 0 {
		return "Nobody has seen it in these days."
	}
	out := "Seen " + moment.Times(p.Seen) + " on " + moment.Count(pages, "page")
	if p.Visitors > 0 {
		out += ", by " + moment.Count(p.Visitors, "visitor")
	}
	for _, a := range []struct {
		act   Act
		n     int
		words string
	}{
		{Clicked, p.Clicked, "followed a link"},
		{Sent, p.Sent, "sent its form"},
		{Answered, p.Answered, "answered"},
		{Closed, p.Closed, "closed it"},
		{Reached, p.Reached, "reached its goal"},
	} {
		if a.n == 0 {
			continue
		}
		out += "; " + moment.Figure(a.n) + " " + a.words
		if s, ok := p.Shares[a.act]; ok {
			out += fmt.Sprintf(" (%s %%", bare(s.Of))
			if s.Low != nil {
				out += fmt.Sprintf(", %s to %s", bare(*s.Low), bare(*s.High))
			}
			out += ")"
		}
	}
	return out + "."
}
