package starting

import (
	"cmp"
	"net/url"

	"mastflag/core/bundle"
	"mastflag/core/pages"
)

// section is a ready block before it is made for a site.
type section struct {
	key, name, when string
	spot            bundle.Spot
	rows            []bundle.Row
	says            [3]map[string]bundle.PartWords // English, German, Polish
}

// oneColumn is a row of one column.
func oneColumn(parts ...bundle.Part) bundle.Row {
	return bundle.Row{Columns: []bundle.Column{{Parts: parts}}}
}

// twoColumns is a row of two columns, the first twice as wide.
func twoColumns(first, second []bundle.Part) bundle.Row {
	return bundle.Row{Columns: []bundle.Column{{Share: 2, Parts: first}, {Parts: second}}}
}

func part(id string, kind bundle.PartKind) bundle.Part { return bundle.Part{ID: id, Kind: kind} }

// inThreeLanguages are words of one part, in the three languages.
func inThreeLanguages(id string, en, de, pl bundle.PartWords) [3]map[string]bundle.PartWords {
	return [3]map[string]bundle.PartWords{{id: en}, {id: de}, {id: pl}}
}

// with adds words of another part.
func with(says [3]map[string]bundle.PartWords, id string, en, de, pl bundle.PartWords) [3]map[string]bundle.PartWords {
	for i, w := range []bundle.PartWords{en, de, pl} {
		says[i][id] = w
	}
	return says
}

func headed(s string) bundle.PartWords { return bundle.PartWords{Heading: s} }
func texted(s string) bundle.PartWords { return bundle.PartWords{Text: s} }
func linked(s string) bundle.PartWords {
	return bundle.PartWords{Links: []bundle.Link{{Href: "/", Label: s}}}
}
func questionWords(question, yes, no, thanks string) bundle.PartWords {
	return bundle.PartWords{Heading: question, Answers: []string{yes, no}, Thanks: thanks}
}

// The mail address of a part of kind contact stands for that of the site.
var (
	reach = bundle.Part{ID: "reach", Kind: bundle.PartContact, Contact: []bundle.ContactLine{{By: "mail"}}}
	open  = bundle.Part{ID: "open", Kind: bundle.PartHours, Hours: []bundle.Opening{
		{Days: []int{1, 2, 3, 4, 5}, From: "09:00", Until: "17:00"}, {Days: []int{6}, From: "10:00", Until: "13:00"},
	}}
	documents = bundle.Part{ID: "documents", Kind: bundle.PartDocuments, Documents: []string{bundle.AllDocuments}}
	useful    = bundle.Part{ID: "useful", Kind: bundle.PartQuestion, Events: []string{"useful-yes", "useful-no"}}
)

var inMain = bundle.Spot{Selector: "main", Where: bundle.Last}

var sections = []section{
	{
		key: "block-strip", name: "Header strip", when: "A line above every page, with how to reach you.",
		spot: bundle.Spot{Selector: "main", Where: bundle.Before},
		rows: []bundle.Row{twoColumns([]bundle.Part{part("says", bundle.PartText)}, []bundle.Part{reach})},
		says: inThreeLanguages("says", texted("<p>Questions? We are glad to help.</p>"),
			texted("<p>Fragen? Wir helfen gern.</p>"), texted("<p>Pytania? Chętnie pomożemy.</p>")),
	},
	{
		key: "block-footer", name: "Footer with documents", when: "Privacy, terms and the like, on every page.",
		spot: bundle.Spot{Selector: "footer", Where: bundle.First},
		rows: []bundle.Row{twoColumns([]bundle.Part{part("title", bundle.PartHeading), documents}, []bundle.Part{reach})},
		says: inThreeLanguages("title", headed("Good to know"), headed("Gut zu wissen"), headed("Warto wiedzieć")),
	},
	{
		key: "block-quotation", name: "Quotation", when: "What someone says about you.", spot: inMain,
		rows: []bundle.Row{oneColumn(part("quote", bundle.PartText), part("who", bundle.PartText))},
		says: with(inThreeLanguages("quote", texted("<p><em>“I come back every year.”</em></p>"),
			texted("<p><em>„Ich komme jedes Jahr wieder.“</em></p>"), texted("<p><em>„Wracam tu co roku.”</em></p>")),
			"who", texted("<p>A guest, this summer</p>"), texted("<p>Ein Gast, diesen Sommer</p>"),
			texted("<p>Gość, tego lata</p>")),
	},
	{
		key: "block-offer", name: "Offer", when: "Something to take up, with a button.", spot: inMain,
		rows: []bundle.Row{
			twoColumns([]bundle.Part{
				part("title", bundle.PartHeading), part("says", bundle.PartText),
			}, []bundle.Part{part("more", bundle.PartLinks)}),
		},
		says: with(
			with(
				inThreeLanguages(
					"title", headed("For a short time"), headed("Nur für kurze Zeit"), headed("Tylko przez krótki czas"),
				),
				"says", texted("<p>Lower prices, for as long as there are places.</p>"),
				texted("<p>Günstigere Preise, solange Plätze frei sind.</p>"),
				texted("<p>Niższe ceny, dopóki są wolne miejsca.</p>"),
			),
			"more", linked("See the offer"), linked("Zum Angebot"), linked("Zobacz ofertę"),
		),
	},
	{
		key: "block-status", name: "Status line", when: "How things are today, on many pages at once.",
		spot: bundle.Spot{Selector: "main h1", Where: bundle.After},
		rows: []bundle.Row{oneColumn(part("says", bundle.PartText))},
		says: inThreeLanguages("says", texted("<p><strong>Everything runs as planned.</strong></p>"),
			texted("<p><strong>Alles läuft nach Plan.</strong></p>"), texted("<p><strong>Wszystko działa zgodnie z "+
				"planem.</strong></p>")),
	},
	{
		key: "block-contact", name: "Contact", when: "How to reach you, and when.", spot: inMain,
		rows: []bundle.Row{
			oneColumn(part("title", bundle.PartHeading)), twoColumns([]bundle.Part{reach}, []bundle.Part{open}),
		},
		says: inThreeLanguages("title", headed("Ask us"), headed("Fragen Sie uns"), headed("Zapytaj nas")),
	},
	{
		key: "block-hours", name: "Opening hours", when: "Days and times, in every language of the site.", spot: inMain,
		rows: []bundle.Row{oneColumn(part("title", bundle.PartHeading), open)},
		says: inThreeLanguages("title", headed("Opening hours"), headed("Öffnungszeiten"), headed("Godziny otwarcia")),
	},
	{
		key: "block-note", name: "Author’s note", when: "A word from whoever wrote the page.", spot: inMain,
		rows: []bundle.Row{oneColumn(part("says", bundle.PartText), reach)},
		says: inThreeLanguages("says", texted("<p><em>Written with care. If you find a mistake, please tell us.</em></p>"),
			texted("<p><em>Mit Sorgfalt geschrieben. Wenn Sie einen Fehler finden, sagen Sie es uns bitte.</em></p>"),
			texted("<p><em>Napisane z dbałością. Jeśli zauważą Państwo błąd, prosimy o wiadomość.</em></p>")),
	},
	{
		key: "block-useful", name: "Was this useful?", when: "A question at the end of a page, answered with one press.",
		spot: inMain,
		rows: []bundle.Row{oneColumn(useful)},
		says: inThreeLanguages("useful", questionWords("Was this page useful?", "Yes", "No", "Thank you. That helps us."),
			questionWords("War diese Seite hilfreich?", "Ja", "Nein", "Danke. Das hilft uns."),
			questionWords("Czy ta strona była pomocna?", "Tak", "Nie", "Dziękujemy. To nam pomaga.")),
	},
}

// notice makes the block for a site: on every page, in those of its languages that
// there are words for, with the site's own address.
func (s section) notice(site bundle.Site) bundle.Notice {
	spot := s.spot
	n := bundle.Notice{Kind: bundle.KindBlock, Title: s.name, Slot: bundle.Inline, Spot: &spot,
		Pages:  &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
		Memory: &bundle.Memory{Closable: new(bool)}, Look: &bundle.Look{Background: "#f3f4f1"},
		Content: &bundle.Content{}}
	for _, r := range s.rows {
		row := bundle.Row{}
		for _, c := range r.Columns {
			column := bundle.Column{Share: c.Share}
			for _, p := range c.Parts {
				if p.Kind == bundle.PartContact {
					p.Contact = []bundle.ContactLine{{By: "mail", Value: address(site)}}
				}
				column.Parts = append(column.Parts, p)
			}
			row.Columns = append(row.Columns, column)
		}
		n.Content.Rows = append(n.Content.Rows, row)
	}
	n.Content.Wordings = inLanguages(site, func(i int) bundle.Wording { return bundle.Wording{Parts: s.says[i]} })
	return n
}

// address is where mail to the site goes, as one of its documents says, or as is
// common.
func address(site bundle.Site) string {
	for _, d := range site.Documents {
		if mail := d.Answers["email"]; mail != "" {
			return mail
		}
	}
	host := "example.org"
	if len(site.Origins) > 0 {
		if u, err := url.Parse(site.Origins[0]); err == nil {
			host = cmp.Or(u.Hostname(), host)
		}
	}
	return "office@" + host
}
