package orderline

import (
	"fmt"
	"strconv"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/moment"
)

// goalPhrase says what a notice is to bring about, and how that is found out: "is to make visitors
// follow its link within 5 days; 10 % of them never see it, and the others get one of 2 variants".
func goalPhrase(e bundle.Experiment) string {
	out := "is to make visitors " + GoalOf(e.Goal) + " " +
		strings.Replace(moment.Period(e.GetWithin()), "for ", "within ", 1)
	switch {
	case e.Holdout > 0 && len(e.Variants) > 0:
		out += fmt.Sprintf("; %d %% of them never see it, and the others get one of %d variants", e.Holdout, len(e.Variants))
	case e.Holdout > 0:
		out += fmt.Sprintf("; %d %% of them never see it", e.Holdout)
	case len(e.Variants) > 0:
		out += fmt.Sprintf("; each of them gets one of %d variants", len(e.Variants))
	}
	return out
}

// GoalOf says what visitors are to do: "reach /book/thanks".
func GoalOf(g bundle.Goal) string {
	switch {
	case g.Pages != nil:
		return "reach " + PagesOf(*g.Pages)
	case g.Event != "" && g.Least != nil:
		return fmt.Sprintf("bring about “%s” of %s or more", g.Event, strconv.FormatFloat(*g.Least, 'f', -1, 64))
	case g.Event != "":
		return "bring about “" + g.Event + "”"
	case g.Form:
		return "send its form"
	}
	return "follow its link"
}
