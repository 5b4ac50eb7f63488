package findings

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/document"
	"mastflag/core/fault"
	"mastflag/core/markup"
	"mastflag/core/moment"
	"mastflag/core/pages"
)

const (
	OpenItem   Code = "open-item"   // a document does not say what it has to say
	OldTable   Code = "old-table"   // the inventory has changed since a cookie statement was published
	Behind     Code = "behind"      // what is out is not what a document would say now
	ReadAgain  Code = "read-again"  // a section written by hand beside a text that has changed
	NoDocument Code = "no-document" // leads to a document that is not there, or not published
	NoWayOut   Code = "no-way-out"  // a disclaimer that some visitor can neither answer nor leave
)

// documents finds what is wrong with the site's documents.
func (c *checker) documents() {
	site := c.b.Site
	making := site.Making(c.b.Notices)
	for i, d := range site.Documents {
		title := "“" + d.Title(site.Language, site.Language) + "”"
		at := fault.Pointer("site", "documents", i)
		add := func(code Code, sev Severity, pointer, what, mend, source string) {
			c.found = append(
				c.found,
				Finding{
					Code:     code,
					Severity: sev,
					Notices:  []string{},
					Pointers: []string{at + pointer},
					What:     what,
					Fix:      mend,
					Source:   source,
					Document: d.ID,
				},
			)
		}
		sections, points := d.Sections(making, site.Language)
		for _, p := range points {
			if p.State != document.Open {
				continue
			}
			sev, pointer := Warning, ""
			if d.Version > 0 {
				sev = Error
			}
			if p.Question != "" {
				pointer = fault.Pointer("answers", p.Question)
			}
			add(OpenItem, sev, pointer, fmt.Sprintf("%s does not say: %s.", title, lowerFirst(p.What)), p.Why, p.Source)
		}
		for _, tag := range site.AllLanguages() {
			if tag != site.Language {
				sections, _ = d.Sections(making, tag)
			}
			var again, missing []string
			for _, s := range sections {
				switch s.From {
				case document.Again:
					again = append(again, "“"+sectionName(s)+"”")
				case document.Missing:
					missing = append(missing, "“"+sectionName(s)+"”")
				}
			}
			if again != nil {
				add(
					ReadAgain,
					Warning,
					"/own",
					fmt.Sprintf(
						"In %s, %s of %s was written beside a text that has changed since.",
						languages(tag),
						moment.And(again),
						title,
					),
					"Read it again: change it, or say that it still holds.",
					"",
				)
			}
			if missing != nil {
				add(
					Untranslated,
					Warning,
					"/own",
					fmt.Sprintf("%s has no words in %s for %s.", title, languages(tag), moment.And(missing)),
					"Translate it beside the text in the site’s language.",
					"",
				)
			}
		}
		behind := d.Behind(making)
		if len(behind) == 0 {
			continue
		}
		rows := []document.Row{}
		if d.Kind == document.Cookies && d.Basis != nil {
			rows = document.Rows(d.Basis.Inventory, site.Setup().Inventory)
		}
		if len(rows) > 0 {
			var says []string
			for _, r := range rows {
				says = append(says, r.String())
			}
			add(
				OldTable,
				Error,
				"/version",
				fmt.Sprintf(
					"The inventory has changed since version %d of %s went out: %s.",
					d.Version,
					title,
					strings.Join(says, ", "),
				),
				"Publish the next version.",
				"ePrivacy Directive Art. 5(3); CJEU C-673/17, 75 to 81",
			)
			continue
		}
		add(
			Behind,
			Warning,
			"/version",
			fmt.Sprintf(
				"Version %d of %s is out, and its answers or the site’s set-up have changed since, in %s.",
				d.Version,
				title,
				languages(behind...),
			),
			"Read what changed, and publish the next version.",
			"",
		)
	}
}

// sectionName is what a section is called; one without a heading is the text.
func sectionName(s document.Section) string {
	if s.Title == "" {
		return "text"
	}
	return s.Title
}

// lowerFirst begins a clause with a small letter, unless it begins with an
// abbreviation.
func lowerFirst(s string) string {
	if len(s) > 1 && s[1] >= 'A' && s[1] <= 'Z' || strings.HasPrefix(s, "E-") {
		return s
	}
	return strings.ToLower(s[:1]) + s[1:]
}

// usesDocuments finds documents that a notice leads to or is about, and that are
// not there or not out; and disclaimers that nobody can leave.
func (c *checker) usesDocuments(i int, n bundle.Notice, title string) {
	uses := n.Uses()
	slices.Sort(uses)
	for _, id := range uses {
		d, ok := document.Get(c.b.Site.Documents, id)
		name := "“" + d.Title(c.b.Site.Language, c.b.Site.Language) + "”"
		at := c.pointerOf(n, id)
		switch {
		case !ok:
			c.add(
				NoDocument,
				Error,
				i,
				at,
				fmt.Sprintf("%s leads to the document “%s”, which is not there.", title, id),
				"Choose another document, or begin one.",
			)
		case d.Version == 0:
			c.add(
				NoDocument,
				Error,
				i,
				at,
				fmt.Sprintf("%s leads to %s, which is not published.", title, name),
				"Publish the document.",
			)
		default:
			for _, tag := range slices.Sorted(maps.Keys(n.Wordings())) {
				in := gives(slices.Collect(maps.Keys(d.Published)), tag)
				if !in && n.Wordings()[tag].Says() && document.ReadyIn(tag) == "" {
					c.add(
						Untranslated,
						Warning,
						i,
						at,
						fmt.Sprintf("%s leads to %s, which is not published in %s.", title, name, languages(tag)),
						"Translate the document, and publish it.",
					)
				}
			}
		}
	}
	d, ok := n.Disclaimer()
	if !ok || !d.Answered() {
		return
	}
	const at = "/content/disclaimer"
	over := n.GetSlot().Row().Over
	home := Fix{"Lead them to the home page", []Operation{{Op: "add", Path: at + "/else", Value: c.home()}}}
	set, faults := pages.Compile(n.GetPages(), c.names)
	// covers reports whether the notice lies over a page of the site.
	covers := func(path string) (pages.Subject, bool) {
		subject, known := c.site.Subject(path)
		return subject, known && over && faults == nil && set.Test(subject).Shows
	}
	without := func(path string) Operation {
		return Operation{
			Op:    "add",
			Path:  "/pages/exclude",
			Value: append(slices.Clone(n.GetPages().Exclude), pages.Entry{Match: pages.Page, Path: path}),
		}
	}
	if subject, lies := covers(c.home()); lies {
		home.Label, home.Patch = "Lead them to the home page, and leave that out", append(
			home.Patch,
			without(subject.Path),
		)
	}
	if n.Content == nil || n.Content.Disclaimer == nil {
		return // nothing is asked yet
	}
	switch {
	case n.GetSlot() == bundle.TabTitle:
		c.add(NoWayOut, Error, i, "/slot", title+" stands in the tab title, where nothing can be pressed.",
			"Show it elsewhere.", add("Show it in the middle", "/slot", bundle.Centre))
	case d.OnDecline == "" && d.GetAsk() == bundle.AskDeclare:
		c.add(
			NoWayOut,
			Error,
			i,
			at+"/else",
			title+" asks what is so of a visitor, and those of whom it is not so can go nowhere.",
			"Say where they are led.",
			home,
		)
	case d.OnDecline == "" && over:
		c.add(
			NoWayOut,
			Warning,
			i,
			at+"/else",
			title+" lies over the page, and who does not acknowledge it can only leave the site.",
			"Say where they are led.",
			home,
		)
	case strings.HasPrefix(d.OnDecline, "/"):
		if subject, lies := covers(d.OnDecline); lies {
			c.add(
				NoWayOut,
				Error,
				i,
				at+"/else",
				fmt.Sprintf("%s leads who does not agree to %s, and lies over that page too.", title, subject.Path),
				"Lead them elsewhere, or leave that page out.",
				Fix{"Leave out " + subject.Path, []Operation{without(subject.Path)}},
			)
		}
	}
}

// home is the site's home page.
func (c *checker) home() string { return c.b.Site.Homes()[0] }

// pointerOf points at what of a notice leads to a document.
func (c *checker) pointerOf(n bundle.Notice, id string) string {
	switch content := n.Content; {
	case content.Disclaimer != nil && content.Disclaimer.Document == id:
		return "/content/disclaimer/document"
	case content.Document == id:
		return "/content/document"
	case slices.Contains(content.Documents, id):
		return "/content/documents"
	}
	for _, tag := range slices.Sorted(maps.Keys(n.Wordings())) {
		w := n.Wordings()[tag]
		at := fault.Pointer("content", "wordings", tag)
		if w.Link != nil && document.Named(w.Link.Href) == id {
			return at + "/link/href"
		}
		if slices.Contains(markup.Links(w.Message), document.Scheme+id) {
			return at + "/message"
		}
	}
	return "/content"
}
