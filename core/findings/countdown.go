package findings

import (
	"fmt"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/countdown"
	"mastflag/core/fault"
	"mastflag/core/markup"
	"mastflag/core/moment"
	"mastflag/core/schedule"
)

// countdown finds what is wrong with a countdown whatever the time.
func (c *checker) countdown(i int, n bundle.Notice, title string) {
	d := n.Countdown()
	if d == nil {
		return
	}
	const at = "/content/countdown"
	if d.Kind == countdown.Visitor && d.Then != countdown.Again {
		// Directive 2005/29/EC, Annex I no. 7, calls it unfair to state falsely
		// that an offer stands for a very limited time only.
		what := "The deadline"
		if d.IsNumber() {
			what = "The number"
		}
		c.add(
			OwnDeadline, Warning, i, at,
			fmt.Sprintf("%s of %s is each visitor’s own: nothing ends at one moment for all.", what, title),
			"If its words say that an offer ends then, count to the moment at which it really does; to press people with a "+
				"deadline that is none is unfair in the EU (Directive 2005/29/EC, Annex I no. 7).",
		)
	}
	if d.GetThen() == countdown.Say {
		f := Finding{Code: NoAfter, Severity: Warning, Notices: []string{n.ID}, Fix: "Write what it says then."}
		var lacks []string
		for _, tag := range c.b.Site.AllLanguages() {
			if w := n.Wordings()[tag]; w.Message != "" && markup.Text(w.ExpiredMessage) == "" {
				lacks = append(lacks, tag)
				f.Pointers = append(f.Pointers, fault.Pointer("notices", i, "content", "wordings", tag))
			}
		}
		if lacks != nil {
			f.What = fmt.Sprintf(
				"%s is to say something else once its countdown has run out, and has no words for that in %s.", title,
				languages(lacks...),
			)
			c.found = append(c.found, f)
		}
	}
	if d.Go != "" {
		c.add(
			GoesAway, Info, i, at+"/go",
			fmt.Sprintf(
				"A page on which the countdown of %s runs out goes to %s by itself: who reads slowly, or writes there, loses "+
					"their place (WCAG 2.2 §2.2.1).",
				title, d.Go,
			),
			"Say so in its words, or link there instead.", remove("Do not go there by itself", at+"/go"),
		)
	}
	if path, own := c.ownPath(d.Go); d.Go != "" && own && !c.knows(path) {
		c.add(
			DeadLink, Warning, i, at+"/go",
			fmt.Sprintf("The countdown of %s goes to %s, which is no known page of this site.", title, d.Go),
			"Check the address, or read the site's pages again.",
		)
	}
	if d.GetThen() == countdown.HandOver {
		c.brokenHandover(i, n, title)
	}
}

// brokenHandover finds what is wrong with the notice that one hands over to.
func (c *checker) brokenHandover(i int, n bundle.Notice, title string) {
	const at = "/content/countdown/handTo"
	byID := func(id string) *bundle.Notice {
		if k, ok := c.place[id]; ok {
			return &c.b.Notices[k]
		}
		return nil
	}
	heir := byID(n.Countdown().HandTo)
	disappear := Fix{
		"Let it disappear",
		[]Operation{{Op: "remove", Path: at}, {Op: "replace", Path: "/content/countdown/then", Value: countdown.Disappear}},
	}
	switch {
	case heir == nil:
		c.add(
			BrokenHandover, Error, i, at,
			fmt.Sprintf("%s hands over to %q, and there is no notice of that id.", title, n.Countdown().HandTo),
			"Choose another, or let it disappear.", disappear,
		)
		return
	case c.site.Countdown(n.ID).Endless():
		c.add(
			BrokenHandover, Error, i, at,
			fmt.Sprintf(
				"%s hands over to “%s”, and its countdown goes on without end: that never shows.", title, heir.GetTitle(),
			),
			"Give it an end, or hand over to nobody.", disappear,
		)
		return
	case heir.GetState() != bundle.Published && n.GetState() == bundle.Published:
		c.add(
			BrokenHandover, Warning, i, at,
			fmt.Sprintf("%s hands over to “%s”, which is not published: nothing follows it.", title, heir.GetTitle()),
			"Publish it too.",
		)
	}
	// Whoever hands over to one that comes before it.
	path, met := []string{n.ID}, map[string]bool{n.ID: true}
	for next := heir; ; next = byID(next.Countdown().HandTo) {
		switch {
		case next == nil || next.Countdown() == nil || next.Countdown().GetThen() != countdown.HandOver || c.ends[next.ID]:
			for _, id := range path {
				c.ends[id] = true
			}
			return
		case next.ID == n.ID:
			circle := strings.Join(append(path, n.ID), " → ")
			c.add(
				BrokenHandover, Error, i, at,
				fmt.Sprintf("%s hands over in a circle: %s. Each waits for the other.", title, circle),
				"Let one of them disappear at its end instead.", disappear,
			)
			return
		case met[next.ID]: // a circle that it leads to
			return
		}
		path, met[next.ID] = append(path, next.ID), true
	}
}

// countdownNow finds what is wrong with a countdown at the instant of the check.
func (c *checker) countdownNow(i int, n bundle.Notice, title string) {
	d := n.Countdown()
	if d == nil {
		return
	}
	const at = "/content/countdown"
	over, fixed := c.site.Countdown(n.ID).Fixed()
	if d.Kind == countdown.Repeating || !fixed {
		if c.neverSeen(n) {
			c.add(
				EndsOutside, Warning, i, at,
				fmt.Sprintf(
					"The countdown of %s never runs out while it is live, on no visitor’s clock: nobody sees the end.", title,
				),
				"Count to a moment within its time, or change its time.",
			)
		}
		return
	}
	when := moment.Say(over, c.at, c.site.Zone())
	whole := c.site.FullSchedule(n.ID)
	live, _ := whole.SiteAt(c.at)
	switch {
	case !over.After(c.at) && live && d.GetThen() == countdown.Stay && n.GetState() == bundle.Published:
		mends := []Fix{add("Let it disappear at the end", at+"/then", countdown.Disappear)}
		if d.IsNumber() {
			mends = nil
		}
		c.add(RunOut, Warning, i, at, fmt.Sprintf(
			"The countdown of %s ran out %s, and the notice is still published.", title, when,
		), "Unpublish it, count to another moment, or let it disappear at the end.", mends...)
	case over.After(c.at):
		// Just before it runs out the visitor should have it in sight.
		if before, _ := whole.SiteAt(over.Add(-time.Second)); !before {
			f := fmt.Sprintf("The countdown of %s runs out %s, and it is not live then: no visitor sees the end.", title, when)
			var mends []Fix
			if p := n.GetSchedule(); len(p.Windows) == 1 && !p.Windows[0].Repeats() &&
				(p.Clock == "" || p.Clock == schedule.ClockSite) && p.Windows[0].Until != "" {
				if from, err := schedule.ParseLocal(p.Windows[0].From); p.Windows[0].From == "" ||
					err == nil && from < schedule.LocalAt(over, c.site.Zone()) {
					mends = append(
						mends, add("Let it live until then", "/schedule/windows/0/until", schedule.LocalAt(over, c.site.Zone()).String()),
					)
				}
			}
			c.add(EndsOutside, Warning, i, at+"/at", f, "Count to a moment within its time, or change its time.", mends...)
		}
	}
}

// neverSeen reports whether a countdown runs out again and again, or at one time on
// each visitor's clock, and never while its notice is live; false where that is not
// known of all the moments looked at.
func (c *checker) neverSeen(n bundle.Notice) bool {
	count, whole := c.site.Countdown(n.ID), c.site.FullSchedule(n.ID)
	runsOut := false
	for _, zone := range append([]string{c.site.Zone().String()}, clocks...) {
		loc, err := schedule.Zone(zone)
		if err != nil {
			return false
		}
		moments := count.Moments(c.at, c.at.Add(ahead), loc)
		if len(moments) == countdown.MaxMoments {
			return false
		}
		for _, t := range moments {
			runsOut = true
			if live, _ := whole.At(t.Add(-time.Second), loc); live {
				return false
			}
		}
	}
	return runsOut
}
