package findings

import (
	"fmt"
	"maps"
	"slices"

	"mastflag/core/bundle"
	"mastflag/core/fault"
	"mastflag/core/personal"
)

// personal reports places for what the site tells of a visitor at which the others read nothing, and
// pictures of which they see none.
func (c *checker) personal(i int, n bundle.Notice, title string) {
	for _, tag := range slices.Sorted(maps.Keys(n.Wordings())) {
		n.Wordings()[tag].MapHTML(func(pointer, html string) string {
			for _, what := range personal.Mistaken(html) {
				c.add(EmptyFillIn, Warning, i, fault.Pointer("content", "wordings", tag)+pointer,
					fmt.Sprintf("%s says %s as it stands: that is nothing which the site tells of a visitor.", title, what),
					"Write it like {person.name|words} or {event.order.product|words}, with words that are plain text.")
			}
			return html
		})
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
