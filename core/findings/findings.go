// Package findings says what can be known of a bundle before anyone visits:
// notices that never show, rivals, links that lead nowhere, words that cannot
// be read. Each finding is sound: it is reported only where it is so.
package findings

import (
	"cmp"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/colour"
	"mastflag/core/decide"
	"mastflag/core/fault"
	"mastflag/core/markup"
	"mastflag/core/moment"
	"mastflag/core/pages"
	"mastflag/core/render"
	"mastflag/core/schedule"
)

// A Severity says how much a finding matters.
type Severity string

const (
	Alarm   Severity = "alarm"   // it does not do what it is meant to
	Caution Severity = "caution" // it may surprise someone
	Remark  Severity = "remark"  // it could be simpler
)

// A Code names a kind of finding.
type Code string

const (
	Over         Code = "over"         // all its windows are past
	NoPages      Code = "no-pages"     // no include entry
	MatchesNone  Code = "matches-none" // no known page
	AllExcluded  Code = "all-excluded" // an include wholly covered by excludes
	Redundant    Code = "redundant"    // an include entry that another covers
	Rival        Code = "rival"        // held back by others at some time, on some page
	DeadLink     Code = "dead-link"    // leads to a page the site does not have
	NotClosable  Code = "not-closable" // the visitor cannot close it
	LowContrast  Code = "low-contrast" // below WCAG 2.2 AA
	NoWording    Code = "no-wording"   // says nothing
	Untranslated Code = "untranslated" // a language of the site has no wording
)

// A Finding is one thing known.
type Finding struct {
	Code     Code     `json:"code"`
	Severity Severity `json:"severity" jsonschema:"enum=alarm,enum=caution,enum=remark"`
	// The notices concerned, the one to mend first.
	Notices []string `json:"notices"`
	// JSON Pointers into the bundle.
	Pointers []string `json:"pointers"`
	// One sentence that says what is so.
	What string `json:"what"`
	// What would mend it.
	Mend string `json:"mend"`
}

// Check returns the findings of a site at an instant, the gravest first.
// Drafts are checked as if they were published, but compete with no one.
func Check(s *decide.Site, at time.Time) []Finding {
	b := s.Bundle()
	c := checker{site: s, b: b, at: at, known: map[string]bool{}}
	c.homes = b.Site.Homes()
	for _, p := range b.Pages {
		if n, err := pages.NormalPath(p.Path); err == nil {
			c.known[n] = true
			c.paths = append(c.paths, n)
		}
	}
	for i, n := range b.Notices {
		c.notice(i, n)
	}
	c.rivals()
	order := map[Severity]int{Alarm: 0, Caution: 1, Remark: 2}
	slices.SortStableFunc(c.found, func(a, b Finding) int { return cmp.Compare(order[a.Severity], order[b.Severity]) })
	return c.found
}

type checker struct {
	site  *decide.Site
	b     bundle.Bundle
	at    time.Time
	homes []string
	known map[string]bool
	paths []string
	found []Finding
}

func (c *checker) add(code Code, sev Severity, i int, pointer, what, mend string) {
	c.found = append(c.found, Finding{code, sev, []string{c.b.Notices[i].ID}, []string{fault.Pointer("notices", i) + pointer}, what, mend})
}

func (c *checker) notice(i int, n bundle.Notice) {
	title := "“" + n.GetTitle() + "”"
	if in := c.site.Schedule(n.ID).Site(); n.GetState() != bundle.Draft || n.Schedule != nil {
		if last := len(in) - 1; last < 0 {
			c.add(Over, Alarm, i, "/schedule", title+" never shows: its time lies before it is published.", "Move the end of its time, or remove it.")
		} else if u := in[last].Until; !u.IsZero() && !u.After(c.at) {
			c.add(Over, Caution, i, "/schedule", fmt.Sprintf("%s ended %s and still stands here.", title, moment.Say(u, c.at, c.site.Zone())), "Unpublish it, or give it a new time.")
		}
	}
	c.pages(i, n, title)
	c.words(i, n, title)
	bg, ink := render.Colours(n)
	if ratio, err := colour.Contrast(ink, bg); err == nil && ratio < colour.Minimum {
		near, _ := colour.Nearest(ink, bg)
		c.add(LowContrast, Alarm, i, "/look", fmt.Sprintf("The words of %s are hard to read: contrast %.1f, and %.1f is needed.", title, ratio, colour.Minimum), "Use "+near+" for the words.")
	}
	if !n.Closable() {
		c.add(NotClosable, Caution, i, "/memory/closable", title+" cannot be closed.", "Let visitors close it, unless they must not miss it.")
	}
}

func (c *checker) pages(i int, n bundle.Notice, title string) {
	cond := n.GetPages()
	if len(cond.Include) == 0 {
		c.add(NoPages, Alarm, i, "/pages", title+" appears nowhere: no pages are chosen.", "Choose its pages.")
		return
	}
	set, faults := pages.Compile(cond, c.homes)
	if faults != nil {
		return // Compile of the site has refused it
	}
	if len(c.paths) > 0 && !slices.ContainsFunc(c.paths, func(p string) bool { return set.Test(p).Shows }) {
		c.add(MatchesNone, Alarm, i, "/pages", title+" matches no page that is known of this site.", "Choose other pages, or read the site's pages again.")
	}
	for j, e := range cond.Include {
		at := fmt.Sprintf("/pages/include/%d", j)
		if k := slices.IndexFunc(cond.Exclude, func(x pages.Entry) bool { return pages.Covers(x, e, c.homes) }); k >= 0 {
			c.add(AllExcluded, Alarm, i, at, fmt.Sprintf("%s includes %s, and excludes all of it by %s.", title, e, cond.Exclude[k]), "Remove one of the two.")
		}
		for k, other := range cond.Include {
			if k != j && pages.Covers(other, e, c.homes) && (k < j || !pages.Covers(e, other, c.homes)) {
				c.add(Redundant, Remark, i, at, fmt.Sprintf("%s includes %s already by %s.", title, e, other), "Remove it; nothing changes.")
				break
			}
		}
	}
}

func (c *checker) words(i int, n bundle.Notice, title string) {
	w := n.Wordings()
	says := 0
	for _, tag := range c.b.Site.AllLanguages() {
		if markup.Text(w[tag].Message) != "" {
			says++
		}
	}
	for tag, text := range w {
		if !slices.Contains(c.b.Site.AllLanguages(), tag) && markup.Text(text.Message) != "" {
			says++
		}
	}
	if says == 0 {
		c.add(NoWording, Alarm, i, "/content", title+" says nothing yet.", "Write its message.")
		return
	}
	f := Finding{Code: Untranslated, Severity: Caution, Notices: []string{n.ID}, Mend: "Write them; until then those pages get another language."}
	var lacks []string
	for _, tag := range c.b.Site.AllLanguages() {
		if markup.Text(w[tag].Message) == "" {
			f.Pointers = append(f.Pointers, fault.Pointer("notices", i, "content", "wordings", tag))
			lacks = append(lacks, tag)
			continue
		}
		c.links(i, n, title, tag)
	}
	if lacks != nil {
		f.What = fmt.Sprintf("%s has no words in %s.", title, strings.Join(lacks, " and "))
		c.found = append(c.found, f)
	}
}

// links reports addresses on the site's own origins that no known page has.
func (c *checker) links(i int, n bundle.Notice, title, tag string) {
	if len(c.paths) == 0 {
		return
	}
	w := n.Wordings()[tag]
	at := fault.Pointer("content", "wordings", tag)
	type link struct{ pointer, href string }
	var links []link
	if w.Link != nil {
		links = append(links, link{at + "/link/href", w.Link.Href})
	}
	for _, h := range markup.Links(w.Message) {
		links = append(links, link{at + "/message", h})
	}
	for _, h := range markup.Links(w.Longer) {
		links = append(links, link{at + "/longer", h})
	}
	for _, l := range links {
		path, own := c.ownPath(l.href)
		if own && !c.known[path] {
			c.add(DeadLink, Caution, i, l.pointer, fmt.Sprintf("%s leads to %s, which is no known page of this site.", title, l.href), "Check the address, or read the site's pages again.")
		}
	}
}

// ownPath returns the path on this site that href leads to; own is false if
// it leads elsewhere.
func (c *checker) ownPath(href string) (path string, own bool) {
	u, err := url.Parse(href)
	if err != nil || u.Opaque != "" {
		return "", false
	}
	if u.Host != "" {
		o, err := pages.Origin(href)
		if err != nil || !slices.ContainsFunc(c.b.Site.Origins, func(have string) bool {
			h, err := pages.Origin(have)
			return err == nil && pages.SameSite(h, o)
		}) {
			return "", false
		}
	}
	p := u.EscapedPath()
	if p == "" && u.Host != "" {
		p = "/"
	}
	if !strings.HasPrefix(p, "/") {
		return "", false // relative to the page it stands on
	}
	n, err := pages.NormalPath(p)
	return n, err == nil
}

// rivals reports each published notice that others keep from its slot at
// some time from now on, on some known page, with when, where and who wins.
func (c *checker) rivals() {
	type rival struct {
		i   int
		n   bundle.Notice
		in  []schedule.Interval
		set pages.Set
	}
	far := c.at.AddDate(10, 0, 0)
	bySlot := map[bundle.Slot][]rival{}
	for i, n := range c.b.Notices {
		if n.GetState() != bundle.Published {
			continue
		}
		set, faults := pages.Compile(n.GetPages(), c.homes)
		in := schedule.Range(c.site.Schedule(n.ID).Site(), c.at, far)
		if faults == nil && len(in) > 0 {
			bySlot[n.GetSlot()] = append(bySlot[n.GetSlot()], rival{i, n, in, set})
		}
	}
	for _, slot := range []bundle.Slot{bundle.Top, bundle.Bottom} {
		rs := bySlot[slot]
		capacity := c.b.Site.SlotCapacity(slot)
		if len(rs) <= capacity || capacity < 1 {
			continue
		}
		slices.SortFunc(rs, func(a, b rival) int { return decide.Rivals(a.n, b.n) })
		var starts []time.Time
		for _, r := range rs {
			for _, in := range r.in {
				starts = append(starts, in.From)
			}
		}
		slices.SortFunc(starts, time.Time.Compare)
		starts = slices.CompactFunc(starts, time.Time.Equal)
		told := map[int]bool{}
		// Whatever meets, meets when the last of it starts.
		for _, t := range starts {
			var live []rival
			for _, r := range rs {
				if on, _ := schedule.At(r.in, t); on {
					live = append(live, r)
				}
			}
			if len(live) <= capacity {
				continue
			}
			for _, p := range c.paths {
				var here []rival
				for _, r := range live {
					if r.set.Test(p).Shows {
						here = append(here, r)
					}
				}
				for k := capacity; k < len(here); k++ {
					loser := here[k]
					if told[loser.i] {
						continue
					}
					told[loser.i] = true
					f := Finding{Code: Rival, Severity: Caution, Notices: []string{loser.n.ID}, Pointers: []string{fault.Pointer("notices", loser.i)},
						Mend: "Raise its rank, give it another slot, or part them by time or pages."}
					var names []string
					for _, w := range here[:capacity] {
						f.Notices = append(f.Notices, w.n.ID)
						f.Pointers = append(f.Pointers, fault.Pointer("notices", w.i))
						names = append(names, "“"+w.n.GetTitle()+"”")
					}
					f.What = fmt.Sprintf("“%s” is held back on %s from %s: %s take the %s.", loser.n.GetTitle(), p, moment.Say(t, c.at, c.site.Zone()), strings.Join(names, " and "), slot)
					c.found = append(c.found, f)
				}
			}
		}
	}
}
