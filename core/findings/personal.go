package findings

import (
	"fmt"
	"maps"
	"slices"

	"mastflag/core/bundle"
	"mastflag/core/fault"
)

// personal reports places for what the site tells of a visitor that are none, or at which the others
// read nothing, and pictures of which they see none.
func (c *checker) personal(i int, n bundle.Notice, title string) {
	for _, tag := range slices.Sorted(maps.Keys(n.Wordings())) {
		for _, what := range n.Wordings()[tag].MistakenPlaces() {
			c.add(EmptyFillIn, Warning, i, fault.Pointer("content", "wordings", tag),
				fmt.Sprintf("%s says %s as it stands: nothing is put in there.", title, what),
				"Write it like {person.name|words} or {event.order.product|words}, with words that are plain text.")
		}
		places := n.Wordings()[tag].PersonalPlaces()
		for _, pointer := range slices.Sorted(maps.Keys(places)) {
			for _, p := range places[pointer] {
				if p.Words != "" {
					continue
				}
				c.add(NoWords, Warning, i, fault.Pointer("content", "wordings", tag)+pointer,
					fmt.Sprintf("%s says {%s}, and nothing to those of whom the site does not tell it.", title, p.Name),
					fmt.Sprintf("Write words for them: {%s|words}.", p.Name))
			}
		}
	}
	pictures := n.Pictures()
	for _, pointer := range slices.Sorted(maps.Keys(pictures)) {
		if p := pictures[pointer]; p.OthersHaveNone() {
			c.add(NoPicture, Warning, i, pointer+"/file",
				fmt.Sprintf("%s has a picture for some, by %s, and none for all others.", title, p.Table.By),
				"Choose a picture for them.")
		}
	}
}
