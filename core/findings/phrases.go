package findings

import (
	"fmt"
	"maps"
	"slices"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/fault"
	"mastflag/core/moment"
	"mastflag/core/phrase"
)

// phrases finds languages of the site in which visitors get English where the program
// itself says something, and words of the site that nobody has read.
func (c *checker) phrases() {
	site := c.b.Site
	tags := site.AllLanguages()
	for _, n := range c.b.Notices {
		for tag, w := range n.Wordings() {
			if w.Says() && !slices.Contains(tags, tag) {
				tags = append(tags, tag)
			}
		}
	}
	slices.Sort(tags[1:])
	for _, tag := range tags {
		at := fault.Pointer("site", "words", tag)
		if own, ok := site.Words[tag]; ok && own.Unread {
			c.found = append(c.found, Finding{
				Code:     Unread,
				Severity: Warning,
				Notices:  []string{},
				Pointers: []string{at},
				What: fmt.Sprintf(
					"The words on buttons in %s are a draft that nobody has read. Visitors do not get them.", languages(tag),
				),
				Fix: "Read them in Site, Words.",
			})
			continue
		}
		if phrase.Speaks(tag) {
			continue
		}
		lacks, titles := c.lacking(tag)
		if len(lacks) == 0 {
			continue
		}
		f := Finding{
			Code:     NoPhrases,
			Severity: Warning,
			Notices:  []string{},
			Pointers: []string{at},
			What: fmt.Sprintf(
				"Visitors who read %s get “%s” on %s, in English.", languages(tag), phrase.In("en")[lacks[0]], named(titles),
			),
			Fix: "Write the words in Site, Words.",
		}
		if draft := phrase.Draft(tag); draft != nil {
			f.Fix = "Read the draft that is ready, or write the words, in Site, Words."
			op := Operation{Op: "add", Path: fault.Pointer("words", tag), Value: phrase.PhraseSet{Words: draft, Unread: true}}
			if site.Words == nil {
				op = Operation{Op: "add", Path: "/words", Value: map[string]phrase.PhraseSet{tag: {Words: draft, Unread: true}}}
			}
			f.Fixes = []Fix{{"Take the draft, to be read", []Operation{op}}}
		}
		c.found = append(c.found, f)
	}
}

// lacking returns the phrases that visitors who read a language get in English, and the
// titles of the notices on which they do.
func (c *checker) lacking(tag string) (lacks []phrase.Key, titles []string) {
	have := c.b.Site.OwnWords(tag)
	for _, n := range c.b.Notices {
		w, ok := n.Wordings()[tag]
		if !ok || !w.Says() || n.GetState() == bundle.Draft {
			continue
		}
		here := c.b.Site.Lacking(n, w, w.Words, tag)
		if n.Kind == bundle.KindConsent {
			for _, p := range c.b.Site.Setup().Purposes {
				if k := phrase.Key(p.ID); consent.Known(p.ID) && !speaks(p, tag) && have[k] == "" {
					here = append(here, k)
				}
			}
		}
		if len(here) > 0 {
			lacks, titles = append(lacks, here...), append(titles, n.GetTitle())
		}
	}
	slices.SortStableFunc(lacks, func(a, b phrase.Key) int { return unseen(a) - unseen(b) })
	return lacks, titles
}

// speaks reports whether a purpose has own words in a language, or in the one that it is a
// kind of.
func speaks(p consent.Purpose, tag string) bool {
	return gives(slices.Collect(maps.Keys(p.Words)), tag)
}

// unseen orders phrases that are only read out behind those that are seen.
func unseen(k phrase.Key) int {
	if k == phrase.Region || k == phrase.Close {
		return 1
	}
	return 0
}

// named says which notices: by their titles, the first of many.
func named(titles []string) string {
	if len(titles) > 2 {
		return fmt.Sprintf("“%s” and %s", titles[0], moment.Count(len(titles)-1, "other notice"))
	}
	for i, t := range titles {
		titles[i] = "“" + t + "”"
	}
	return moment.And(titles)
}
