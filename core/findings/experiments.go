package findings

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/fault"
	"mastflag/core/markup"
	"mastflag/core/pages"
)

// experiments reports what a notice's experiment can never find out.
func (c *checker) experiments(i int, n bundle.Notice, title string) {
	x := n.Experiment
	if x == nil {
		return
	}
	linked := hasLink(n) || slices.ContainsFunc(x.Variants, func(v bundle.Variant) bool {
		return hasLink(n.InVariant(v.ID))
	})
	if x.Goal.Link && !linked {
		c.add(NoGoal, Error, i, "/experiment/goal/link",
			fmt.Sprintf("%s is to make visitors follow its link, and has none.", title),
			"Give it a link, or choose another goal.")
	}
	if goal := x.Goal.Pages; goal != nil {
		if set, faults := pages.Compile(*goal, c.names); faults == nil && c.none(set) {
			c.add(NoGoal, Error, i, "/experiment/goal/pages",
				title+" is to bring visitors to pages that this site does not have.",
				"Choose other pages, or read the site's pages again.")
		}
		c.unknownPages(i, "/experiment/goal/pages", *goal, title)
	}
	c.variants(i, n, title)
	for v := range x.Variants {
		for w := range v {
			if c.visible(n.InVariant(x.Variants[v].ID)) != c.visible(n.InVariant(x.Variants[w].ID)) {
				continue
			}
			names := x.VariantNames()
			c.add(Alike, Warning, i, fault.Pointer("experiment", "variants", v),
				fmt.Sprintf("The variants “%s” and “%s” of %s are alike.",
					names[x.Variants[w].ID], names[x.Variants[v].ID], title),
				"Give one of them other words or another look.")
		}
	}
	purpose := c.b.Site.ExperimentPurpose()
	asks := slices.ContainsFunc(c.b.Notices, func(o bundle.Notice) bool {
		return o.Kind == bundle.KindConsent && o.GetState() == bundle.Published
	})
	if x.Compares() && (!asks || !slices.Contains(c.b.Site.Setup().AskedPurposes(), purpose)) {
		c.add(NoDraw, Info, i, "/experiment",
			fmt.Sprintf("Where agreement comes first, nobody is in the experiment of %s: nobody is asked about “%s”.",
				title, purpose),
			"Ask about it in Consent, if visitors from such places are to be in it.")
	}
}

// variants reports what is wrong with how a variant looks and with what it says, where the notice itself is not. What
// would mend it stands in words: a step for the notice would change all variants.
func (c *checker) variants(i int, n bundle.Notice, title string) {
	shown := func(n bundle.Notice) []Finding {
		all := c.found
		c.found = nil
		c.look(i, n, title)
		c.personal(i, n, title)
		for _, tag := range slices.Sorted(maps.Keys(n.Wordings())) {
			c.links(i, n, title, tag)
		}
		found := c.found
		c.found = all
		return found
	}
	said := map[string]bool{}
	for _, f := range shown(n) {
		said[f.Pointers[0]+f.What] = true
	}
	at, names := fault.Pointer("notices", i), n.Experiment.VariantNames()
	for k, v := range n.Experiment.Variants {
		for _, tag := range slices.Sorted(maps.Keys(v.Wordings)) {
			if v.Wordings[tag].Unread {
				c.add(Unread, Warning, i, fault.Pointer("experiment", "variants", k, "wordings", tag),
					fmt.Sprintf("Variant “%s” of %s has a machine’s draft in %s that nobody has read. Visitors get the words of "+
						"the notice.", names[v.ID], title, languages(tag)),
					"Read it, correct it, and mark it as read.")
			}
		}
		for _, f := range shown(n.InVariant(v.ID)) {
			if said[f.Pointers[0]+f.What] {
				continue
			}
			within := strings.TrimPrefix(strings.TrimPrefix(f.Pointers[0], at), "/content")
			f.Pointers, f.Fixes = []string{at + fault.Pointer("experiment", "variants", k) + within}, nil
			f.What = strings.Replace(f.What, title, fmt.Sprintf("%s, variant “%s”,", title, names[v.ID]), 1)
			c.found = append(c.found, f)
		}
	}
}

// hasLink reports whether anything in the notice can be followed.
func hasLink(n bundle.Notice) (has bool) {
	for _, p := range n.Parts() {
		has = has || p.Kind == bundle.PartLinks || p.Kind == bundle.PartContact
	}
	for _, w := range n.Wordings() {
		w.MapLinks(func(_ string, l bundle.Link) (bundle.Link, bool) { has = true; return l, true })
		w.MapHTML(func(_, html string) string { has = has || len(markup.Links(html)) > 0; return html })
	}
	return has
}

// visible is all that visitors get of a notice, in a text.
func (c *checker) visible(n bundle.Notice) string {
	look := c.b.Site.Themed(n).GetLook()
	look.Theme, look.Shape, look.Width = "", look.GetShape(), look.GetWidth() // a theme is in the rest
	raw, err := json.Marshal([]any{n.Wordings(), look})
	if err != nil {
		return "" // it is not alike to anything that can be written
	}
	return string(raw)
}
