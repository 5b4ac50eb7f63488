package consent

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
)

// A DisclaimerTrend is what became of a disclaimer about one version of a
// document, or about its own text, which is version 0.
type DisclaimerTrend struct {
	Notice  string `json:"notice"`
	Version int    `json:"version"`
	Shown   int    `json:"shown"`
	// Acknowledged, or declared to be so.
	Agreed Share `json:"agreed"`
	// Said that it is not so, or went elsewhere without acknowledging.
	Declined Share `json:"declined"`
	// Did neither.
	Left Share `json:"left"`
}

// DisclaimerTrends sums up what was counted of disclaimers, by notice, the later
// version first. Who was shown it on another day can answer without having been
// counted as shown; then all who answered are taken as shown.
func DisclaimerTrends(counts []Count) []DisclaimerTrend {
	type key struct {
		notice  string
		version int
	}
	sums := map[key]map[string]int{}
	for _, c := range counts {
		notice, number, _ := strings.Cut(c.Version, " ")
		version, err := strconv.Atoi(number)
		if err != nil {
			continue
		}
		k := key{notice, version}
		if sums[k] == nil {
			sums[k] = map[string]int{}
		}
		sums[k][c.Outcome] += c.N
	}
	var out []DisclaimerTrend
	for k, n := range sums {
		agreed, declined := n[string(Acknowledged)]+n[string(Declared)], n[string(Declined)]
		shown := max(n["shown"], agreed+declined)
		out = append(
			out,
			DisclaimerTrend{
				k.notice,
				k.version,
				shown,
				shareOf(agreed, shown),
				shareOf(declined, shown),
				shareOf(shown-agreed-declined, shown),
			},
		)
	}
	slices.SortFunc(out, func(a, b DisclaimerTrend) int {
		return cmp.Or(strings.Compare(a.Notice, b.Notice), b.Version-a.Version)
	})
	return out
}
