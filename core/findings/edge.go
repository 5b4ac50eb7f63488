package findings

import (
	"fmt"
	"strings"

	"mastflag/core/bundle"
)

// maxNamed is how many pages a finding names.
const maxNamed = 3

// BlockedTop returns the finding that a notice for the top stands at the bottom of some of the pages that it is on,
// where something of theirs cannot be moved away from the top (rule G4); none if it does not.
func BlockedTop(n bundle.Notice, on, blocked []string) []Finding {
	if n.GetSlot() != bundle.Top {
		return nil
	}
	is := map[string]bool{}
	for _, page := range on {
		is[page] = true
	}
	var where []string
	for _, page := range blocked {
		if is[page] {
			where = append(where, page)
		}
	}
	if len(where) == 0 {
		return nil
	}
	named := strings.Join(where[:min(len(where), maxNamed)], ", ")
	if more := len(where) - maxNamed; more > 0 {
		named += fmt.Sprintf(" and %d more", more)
	}
	return []Finding{{
		Code: AtBottom, Severity: Info, Notices: []string{n.ID}, Pointers: []string{"/slot"},
		What: fmt.Sprintf(
			"“%s” is for the top and stands at the bottom on %s: the page keeps something at the top that cannot be moved.",
			n.GetTitle(), named,
		),
		Fix: "Take “!important” out of the page’s own style attribute, or leave it at the bottom there.",
	}}
}
