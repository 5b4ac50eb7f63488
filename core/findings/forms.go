package findings

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/document"
	"mastflag/core/fault"
	"mastflag/core/form"
	"mastflag/core/markup"
)

// partAt is where a part of a notice lies.
type partAt struct {
	bundle.Part
	pointer string
}

func partsOf(n bundle.Notice) (out []partAt) {
	for i, r := range n.Rows() {
		for j, c := range r.Columns {
			for k, p := range c.Parts {
				out = append(out, partAt{p, fault.Pointer("content", "rows", i, "columns", j, "parts", k)})
			}
		}
	}
	return out
}

// forms reports what keeps a form from being sent, or from being understood.
func (c *checker) forms(i int, n bundle.Notice, title string) {
	parts := partsOf(n)
	_, sends := n.SendButton()
	switch {
	case n.HasForm() && !sends:
		last := slices.IndexFunc(parts, func(p partAt) bool { return p.Kind == bundle.PartField })
		for at, p := range parts {
			if p.Kind == bundle.PartField {
				last = at
			}
		}
		column := parts[last].pointer[:strings.LastIndexByte(parts[last].pointer, '/')]
		c.add(
			NoSend,
			Error,
			i,
			parts[last].pointer,
			title+" asks for something, and nothing sends it.",
			"Add a send button.",
			add("Add a send button", column+"/-", bundle.Part{ID: freeID(n, "send"), Kind: bundle.PartSend}),
		)
	case !n.HasForm() && sends:
		for _, p := range parts {
			if p.Kind == bundle.PartSend {
				c.add(NoSend, Warning, i, p.pointer, title+" has a button that sends, and nothing to fill in.",
					"Add a field, or remove the button.", remove("Remove the button", p.pointer))
			}
		}
	}
	if !n.HasForm() {
		return
	}
	for _, p := range parts {
		if p.Kind != bundle.PartField || p.Field == nil || p.Field.Kind == form.Hidden {
			continue
		}
		c.field(i, n, title, p)
	}
	after := n.Form().After
	switch after.Then {
	case form.ThenNotice:
		at := slices.IndexFunc(c.b.Notices, func(o bundle.Notice) bool { return o.ID == after.To })
		if at < 0 || c.b.Notices[at].GetState() == bundle.Draft {
			c.add(
				NoNext,
				Warning,
				i,
				"/content/form/after",
				title+" is followed by a notice that is not there, or not published.",
				"Choose another, or publish it.",
				remove("Have nothing follow", "/content/form/after"),
			)
		}
	case form.ThenPage, form.ThenFile:
		if after.To == "" {
			c.add(
				NoNext,
				Warning,
				i,
				"/content/form/after",
				title+" is to lead somewhere once it was sent, and does not say where.",
				"Write the address.",
				remove("Have nothing follow", "/content/form/after"),
			)
		}
	}
	if n.GetSlot() != bundle.Inline && n.GetMemory().HideAfterAnswer == "" {
		fix := add("Let it stay away once it was sent", "/memory/answered", bundle.PeriodEver)
		if n.Memory == nil {
			fix = add("Let it stay away once it was sent", "/memory", map[string]any{"answered": bundle.PeriodEver})
		}
		c.add(Returns, Info, i, "/memory", title+" comes back to those who have sent it.",
			"Let it stay away once it was sent.", fix)
	}
	if asksForContactDetails(n) && !linksPrivacyNotice(n, c.b.Site) {
		c.found = append(c.found, Finding{
			Code: NoPrivacy, Severity: Warning, Notices: []string{n.ID},
			Pointers: []string{fault.Pointer("notices", i) + "/content/wordings"},
			What:     title + " asks for an address or a number, and leads to no privacy notice.",
			Fix:      "Link the privacy notice in the words of an agreement, or in its message.",
			Source:   "GDPR Art. 13(1)",
		})
	}
}

// freeID is an id that no part of a notice has.
func freeID(n bundle.Notice, want string) string {
	for try := 1; ; try++ {
		id := want
		if try > 1 {
			id = fmt.Sprintf("%s-%d", want, try)
		}
		if !slices.ContainsFunc(n.Parts(), func(p bundle.Part) bool { return p.ID == id }) {
			return id
		}
	}
}

// field reports a field without words in a language, or without anything to choose from.
func (c *checker) field(i int, n bundle.Notice, title string, p partAt) {
	several := p.Field.Kind == form.Choice || p.Field.Kind == form.Choices
	if several && len(p.Field.Options) == 0 {
		c.add(NoLabel, Error, i, p.pointer, title+" has a field with nothing to choose from.", "Give it options.")
		return
	}
	for tag, w := range n.Wordings() {
		if !w.Says() {
			continue
		}
		words := w.Parts[p.ID]
		said := strings.TrimSpace(words.Heading) != ""
		if p.Field.Kind == form.Agreement {
			said = said || markup.Text(words.Text) != ""
		}
		lacks := !said
		for at := range p.Field.Options {
			lacks = lacks || at >= len(words.Answers) || strings.TrimSpace(words.Answers[at]) == ""
		}
		if lacks {
			c.add(
				NoLabel,
				Warning,
				i,
				fault.Pointer("content", "wordings", tag, "parts", p.ID),
				fmt.Sprintf(
					"A field of %s, or an option of it, has no words in %s: visitors read “%s”.",
					title,
					languages(tag),
					p.ID,
				),
				"Write them.",
			)
			return
		}
	}
}

// asksForContactDetails reports whether a notice asks for what tells who somebody is.
func asksForContactDetails(n bundle.Notice) bool {
	return slices.ContainsFunc(n.FormFields(), func(f form.NamedField) bool {
		return f.Kind == form.Email || f.Kind == form.Telephone || f.Fill != "" && f.Fill != "off"
	})
}

// linksPrivacyNotice reports whether each wording of a notice leads to a privacy notice: a document of
// that kind, or any page, whose words the program does not know.
func linksPrivacyNotice(n bundle.Notice, site bundle.Site) bool {
	leads := func(href string) bool {
		if id := document.Named(href); id != "" {
			d, ok := document.Get(site.Documents, id)
			return ok && d.Kind == document.Privacy
		}
		return href != ""
	}
	for _, w := range n.Wordings() {
		found := false
		w.MapHTML(func(_, html string) string {
			found = found || slices.ContainsFunc(markup.Links(html), leads)
			return html
		})
		w.MapLinks(func(_ string, l bundle.Link) (bundle.Link, bool) { found = found || leads(l.Href); return l, true })
		if w.Says() && !found {
			return false
		}
	}
	return true
}

// contacts reports lines that lead to no known page of the site, and lines for hours that their part does not say.
func (c *checker) contacts(i int, n bundle.Notice, title string) {
	for _, p := range partsOf(n) {
		timed := false
		for k, l := range p.Contact {
			timed = timed || l.When != ""
			if l.By == "link" || l.By == "map" {
				c.deadLink(i, p.pointer+fault.Pointer("contact", k, "value"), title, l.Value)
			}
		}
		if timed && len(p.Hours) == 0 {
			c.add(NoHours, Warning, i, p.pointer+"/contact",
				title+" has ways to reach someone for when it is open or closed, and no hours: they are offered at all times.",
				"Say the hours.")
		}
	}
}

// videos reports films that some cannot follow, and frames that are loaded unasked.
func (c *checker) videos(i int, n bundle.Notice, title string) {
	for _, p := range partsOf(n) {
		v := p.Video
		if v == nil {
			continue
		}
		if v.File != "" {
			for tag, w := range n.Wordings() {
				if w.Says() && w.Parts[p.ID].Captions == "" {
					c.found = append(c.found, Finding{
						Code: NoCaptions, Severity: Warning, Notices: []string{n.ID},
						Pointers: []string{
							fault.Pointer("notices", i) + fault.Pointer("content", "wordings", tag, "parts", p.ID),
						},
						What: fmt.Sprintf("A video of %s has no captions in %s.", title, languages(tag)),
						Fix:  "Add captions, a WebVTT file.", Source: "WCAG 2.2 §1.2.2",
					})
					break
				}
			}
		}
		far := ""
		if u, err := url.Parse(v.Frame); err == nil {
			far = u.Hostname()
		}
		switch {
		case far != "" && v.Purpose == "":
			c.add(UngatedFrame, Warning, i, p.pointer+"/video",
				fmt.Sprintf("A frame of %s from %s is loaded on a press, whatever was agreed to.", title, far),
				"Name the purpose that it waits for, if the host learns anything of visitors.")
		case v.Purpose != "" && !slices.Contains(c.b.Site.Setup().AskedPurposes(), v.Purpose):
			c.add(
				Unasked,
				Error,
				i,
				p.pointer+"/video/purpose",
				fmt.Sprintf("A frame of %s never shows: nobody is asked about “%s”.", title, v.Purpose),
				"Ask about it, or have it wait for nothing.",
				remove("Have it wait for nothing", p.pointer+"/video/purpose"),
			)
		}
	}
}
