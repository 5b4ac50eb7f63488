package bundle

import (
	"cmp"
	"fmt"
	"html"
	"maps"
	"slices"
	"strings"

	"mastflag/core/closed"
	"mastflag/core/document"
	"mastflag/core/fault"
	"mastflag/core/lookup"
	"mastflag/core/markup"
	"mastflag/core/pages"
)

// An Ask is what a disclaimer wants of visitors (rule T6).
type Ask string

const (
	AskRead        Ask = "read"        // nothing: it is shown, and closed like a bar
	AskAcknowledge Ask = "acknowledge" // a press of one button
	AskDeclare     Ask = "declare"     // one of two: something is so of the visitor, or not
)

func (Ask) Values() []string { return closed.Strings(AskRead, AskAcknowledge, AskDeclare) }

// Asks is every ask, in the order in which people choose.
var Asks = []Ask{AskRead, AskAcknowledge, AskDeclare}

// A Disclaimer is how a notice of kind disclaimer asks.
type Disclaimer struct {
	// Id of the document that it is about; its own text if absent.
	Document string `json:"document,omitempty" jsonschema:"maxLength=64"`
	// read (the default), acknowledge or declare.
	Ask Ask `json:"ask,omitempty"`
	// How long an acknowledgement or a declaration holds; ever if absent.
	ValidFor Period `json:"holds,omitempty" jsonschema:"maxLength=40"`
	// Where those are led of whom it is not so, or who do not acknowledge: a path of the site or an address.
	OnDecline string `json:"else,omitempty" jsonschema:"maxLength=2048"`
	// In the middle or over everything it does not wait until the consent question is answered (rule T9).
	BeforeConsent bool `json:"beforeConsent,omitempty"`
}

func (d Disclaimer) GetAsk() Ask         { return cmp.Or(d.Ask, AskRead) }
func (d Disclaimer) GetValidFor() Period { return cmp.Or(d.ValidFor, PeriodEver) }

// Answered reports whether it has to be acknowledged or declared.
func (d Disclaimer) Answered() bool { return d.GetAsk() != AskRead }

// Disclaimer returns how a notice of kind disclaimer asks; ok is false for others.
func (n Notice) Disclaimer() (d Disclaimer, ok bool) {
	if n.Kind != KindDisclaimer {
		return d, false
	}
	if n.Content != nil && n.Content.Disclaimer != nil {
		d = *n.Content.Disclaimer
	}
	return d, true
}

// AcknowledgementKey returns under which name a visitor's answer to a disclaimer is
// remembered: the document's id, or that of the notice that stands for itself.
func (n Notice) AcknowledgementKey() string {
	d, _ := n.Disclaimer()
	return cmp.Or(d.Document, "notice:"+n.ID)
}

// OwnMark returns a mark of the notice's own text, for a disclaimer that is about
// no document: it changes with what is said in the site's language, or in the
// first there is.
func (n Notice) OwnMark(site string) string {
	w := n.Wordings()
	return w[lookup.Choose(slices.Collect(maps.Keys(w)), site)].Mark()
}

func (d Disclaimer) check() fault.Faults {
	var faults fault.Faults
	if err := d.ValidFor.check(); err != nil {
		faults = append(
			faults,
			fault.Fault{
				Pointer: "/holds",
				What:    err.Error(),
				Remedy:  "use page, session, ever, or a duration such as P1Y (a year)",
			},
		)
	}
	if d.OnDecline != "" {
		if what := markup.HrefFault(d.OnDecline); what != "" {
			faults = append(
				faults,
				fault.Fault{
					Pointer: "/else",
					What:    what,
					Remedy:  "give a path of the site such as /tours, or an http or https address",
				},
			)
		}
	}
	return faults
}

// checkDocuments returns what is wrong with how a notice uses documents.
func (n Notice) checkDocuments() fault.Faults {
	if n.Content == nil {
		return nil
	}
	var faults fault.Faults
	if d := n.Content.Disclaimer; d != nil {
		if n.Kind != KindDisclaimer {
			faults = append(
				faults,
				fault.Fault{
					Pointer: "/content/disclaimer",
					What:    fmt.Sprintf("a notice of kind %q is no disclaimer", n.Kind),
					Remedy:  "remove it, or make the kind disclaimer",
				},
			)
		}
		faults = append(faults, d.check().Under("/content/disclaimer")...)
	}
	return faults
}

// AllDocuments stands in a list of documents for all that are out.
const AllDocuments = "*"

// Uses returns the ids of the documents that a notice leads to, shows or is
// about, each once, in no order.
func (n Notice) Uses() []string {
	var out []string
	add := func(id string) {
		if id != "" && !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	if c := n.Content; c != nil {
		add(c.Document)
		for _, id := range c.Documents {
			if id != AllDocuments {
				add(id)
			}
		}
		if c.Disclaimer != nil {
			add(c.Disclaimer.Document)
			add(document.Named(c.Disclaimer.OnDecline))
		}
	}
	for _, p := range n.Parts() {
		for _, id := range p.Documents {
			if id != AllDocuments {
				add(id)
			}
		}
	}
	for _, w := range n.Wordings() {
		w.MapLinks(func(_ string, l Link) (Link, bool) {
			add(document.Named(l.Href))
			return l, true
		})
		w.MapHTML(func(_, html string) string {
			if strings.Contains(html, document.Scheme) { // most do not, and need not be read
				for _, href := range markup.Links(html) {
					add(document.Named(href))
				}
			}
			return html
		})
	}
	return out
}

// listsDocuments reports whether a notice lists documents.
func (n Notice) listsDocuments() bool {
	return n.Content != nil && len(n.Content.Documents) > 0 ||
		slices.ContainsFunc(n.Parts(), func(p Part) bool { return len(p.Documents) > 0 })
}

// Prepared returns a notice as it is rendered: with the site's own words in place of the
// program's, with words where frames wait for their purpose, and with links by name that lead to
// the documents that are out, each wording's in its own language; the documents that it shows or
// lists stand below its message, and what is not out is left out. base is the program's own address.
func (s Site) Prepared(n Notice, base string) Notice {
	n = s.Themed(s.filled(s.withPlaceholders(s.worded(n.impersonal()))))
	if n.Content == nil || len(n.Uses()) == 0 && !n.listsDocuments() {
		return n
	}
	content := *n.Content
	content.Wordings = maps.Clone(content.Wordings)
	for tag, w := range content.Wordings {
		to := func(id string) string { return s.DocumentAddress(id, tag, base) }
		w = w.MapHTML(func(_, html string) string { return document.Linked(html, to) })
		w = w.MapLinks(func(_ string, l Link) (Link, bool) {
			if id := document.Named(l.Href); id != "" {
				l.Href = to(id)
			}
			return l, l.Href != ""
		})
		w.DocumentLinks = s.below(content, tag, base)
		for _, p := range n.Parts() {
			if len(p.Documents) > 0 {
				words := w.Parts[p.ID]
				words.List = s.list(p.Documents, tag, base)
				if w.Parts == nil {
					w.Parts = map[string]PartWords{}
				}
				w.Parts[p.ID] = words
			}
		}
		// One that is only read leads to its document.
		if d, ok := n.Disclaimer(); ok && !d.Answered() && w.Link == nil && w.Details == "" {
			if address := to(d.Document); address != "" {
				doc, _ := document.Get(s.Documents, d.Document)
				text, _ := doc.In(tag, s.Language)
				w.Link = &Link{Href: address, Label: text.Title, As: "link"}
			}
		}
		content.Wordings[tag] = w
	}
	n.Content = &content
	return n
}

// below is what stands below a message: a document's text, and a list of links to
// documents.
func (s Site) below(c Content, tag, base string) string {
	var b strings.Builder
	if d, ok := document.Get(s.Documents, c.Document); ok {
		text, _ := d.In(tag, s.Language)
		b.WriteString(
			document.Linked(
				markup.SanitiseDocument(text.Text),
				func(id string) string { return s.DocumentAddress(id, tag, base) },
			),
		)
	}
	b.WriteString(s.list(c.Documents, tag, base))
	return b.String()
}

// list is a list of links to the documents of these ids that are out, "" if there
// are none.
func (s Site) list(ids []string, tag, base string) string {
	var list []string
	for _, d := range s.Documents {
		text, in := d.In(tag, s.Language)
		if in == "" || !slices.Contains(ids, d.ID) && !slices.Contains(ids, AllDocuments) {
			continue
		}
		list = append(
			list,
			fmt.Sprintf(
				`<li><a href="%s" lang="%s">%s</a></li>`,
				html.EscapeString(s.DocumentAddress(d.ID, tag, base)),
				html.EscapeString(in),
				html.EscapeString(text.Title),
			),
		)
	}
	if list == nil {
		return ""
	}
	return `<ul class="documents">` + strings.Join(list, "") + "</ul>"
}

// DocumentAddress returns where a document's version that is out lies in a
// language; "" if none is out. base is the program's own address.
func (s Site) DocumentAddress(id, tag, base string) string {
	d, ok := document.Get(s.Documents, id)
	_, tag = d.In(tag, s.Language)
	if !ok || tag == "" {
		return ""
	}
	return base + document.Path(s.Key, id, tag, 0)
}

// Making returns what the site's documents are made from. notices are those of
// the site.
func (s Site) Making(notices []Notice) document.Site {
	out := document.Site{Key: s.Key, Name: s.Name, Language: s.Language, Setup: s.Setup(), Documents: s.Documents}
	if len(s.Origins) > 0 {
		out.Address, _ = pages.Origin(s.Origins[0])
	}
	for _, n := range notices {
		if n.Kind == KindConsent && n.GetState() == Published {
			out.Asks = true
			out.Again = out.Again || n.Question().GetAskAgainCorner() != "none"
		}
	}
	return out
}
