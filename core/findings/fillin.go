package findings

import (
	"fmt"
	"maps"
	"slices"

	"mastflag/core/bundle"
	"mastflag/core/fault"
)

// called is what people call each fill-in.
var called = map[string]string{
	"name": "name", "telephone": "telephone number", "email": "e-mail address", "address": "address",
	"hours": "opening hours",
}

// fillIns reports places in texts that nothing is put into: the site does not say it, or there
// is no such fill-in.
func (c *checker) fillIns(i int, n bundle.Notice, title string) {
	said := map[string]bool{}
	for _, tag := range slices.Sorted(maps.Keys(n.Wordings())) {
		at := fault.Pointer("content", "wordings", tag)
		for _, name := range n.Wordings()[tag].Blanks() {
			if said[name] {
				continue
			}
			said[name] = true
			switch what, known := called[name]; {
			case known && c.b.Site.FillIn(name, tag) == "":
				c.add(EmptyFillIn, Error, i, at, fmt.Sprintf("%s is to say the site’s %s, and the site has none.", title, what),
					fmt.Sprintf("Write it in Site, About, or take {%s} out.", name))
			case !known:
				c.add(EmptyFillIn, Warning, i, at, fmt.Sprintf("%s says {%s} as it stands: nothing fills it in.", title, name),
					"Write what belongs there.")
			}
		}
	}
}
