package base

import (
	"fmt"
	"maps"
	"slices"
)

// Troubles are sentences about what keeps the program from doing all it should
// for a site, or for any where site is "". Whoever reads them can see it in the
// log, and by /readyz.
func (a *Base) Troubles(site string) []string {
	out := []string{}
	if why := a.Store.Trouble(); why != "" {
		out = append(out, fmt.Sprintf("Nothing can be kept: %s. Visitors go on getting what was published.", why))
	}
	if why := a.Sources.Trouble(); why != "" {
		out = append(out, why)
	}
	for _, b := range a.Hub.Behind() {
		if site != "" && b.Site != site {
			continue
		}
		out = append(
			out,
			fmt.Sprintf(
				"Visitors of %s do not get the last change yet, since %s. It is kept, and tried again every second.", b.Site,
				b.Since.UTC().Format("2 Jan 15:04 UTC"),
			),
		)
	}
	broken := a.Store.BrokenChains()
	for _, key := range slices.Sorted(maps.Keys(broken)) {
		if site == "" || site == key {
			out = append(
				out,
				fmt.Sprintf(
					"The chain of consent records of %s is broken and is not continued: %s. Answers are not kept until a backup is "+
						"restored.",
					key, broken[key],
				),
			)
		}
	}
	if s := a.Hub.Site(site); s != nil {
		for _, l := range s.Uncompiled {
			out = append(
				out,
				fmt.Sprintf("“%s” is left out: %s. It is kept as it was; change it for visitors to get it.", l.Title, l.Why.What),
			)
		}
	}
	return out
}
