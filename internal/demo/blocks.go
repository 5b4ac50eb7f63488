package demo

import (
	"time"

	"mastflag/core/bundle"
	"mastflag/core/pages"
)

// statusBlock is the demo's block on every port’s page but one, those of ports still
// to come among them: Little Skarn is served on request alone.
func statusBlock(since *time.Time) bundle.Notice {
	var where pages.Conditions
	for _, under := range []string{"", "/de", "/pl"} {
		ports := under + "/ports"
		where.Include = append(where.Include, pages.Entry{Match: pages.Section, Path: ports})
		where.Exclude = append(where.Exclude,
			pages.Entry{Match: pages.Page, Path: ports}, pages.Entry{Match: pages.Page, Path: ports + "/little-skarn"})
	}
	return bundle.Notice{
		ID:          "port-status",
		Kind:        bundle.KindBlock,
		Title:       "Status line of the ports",
		State:       bundle.Published,
		PublishedAt: since,
		Slot:        bundle.Inline,
		Spot:        &bundle.Spot{Selector: "main h1", Where: bundle.After},
		Pages:       &where,
		Memory:      &bundle.Memory{Closable: new(bool)},
		Look:        &bundle.Look{Background: "#eef4f6", Icon: "anchor"},
		Content: &bundle.Content{Wordings: map[string]bundle.Wording{
			"en": {Message: `<p>Ferries call here as in the timetable. <a href="/status">Service status</a></p>`},
			"de": {Message: `<p>Die Fähren legen hier nach Fahrplan an. <a href="/de/status">Betriebslage</a></p>`},
			"pl": {Message: `<p>Promy zawijają tu zgodnie z rozkładem. <a href="/pl/status">Stan połączeń</a></p>`},
		}},
	}
}

// corranStatus is a copy of the status line that has gone its own way.
func corranStatus(original bundle.Notice, since *time.Time) bundle.Notice {
	n := original
	n.ID, n.Title, n.PublishedAt = "corran-holm-status", "Status line, Corran Holm", since
	n.CopyOf = &bundle.Copy{ID: original.ID, Mark: original.TextMark()}
	n.Pages = &pages.Conditions{}
	for _, under := range []string{"", "/de", "/pl"} {
		n.Pages.Include = append(n.Pages.Include, pages.Entry{Match: pages.Page, Path: under + "/ports/corran-holm"})
	}
	n.Content = &bundle.Content{Wordings: map[string]bundle.Wording{
		"en": {Message: `<p>The car ramp here is closed at low water this week. <a href="/status">Service status</a></p>`},
		"de": {
			Message: `<p>Die Autorampe ist hier diese Woche bei Niedrigwasser gesperrt. <a href="/de/status">Betriebslage</a>` +
				`</p>`,
		},
		"pl": {
			Message: `<p>Rampa samochodowa jest tu w tym tygodniu zamknięta przy niskiej wodzie. <a href="/pl/status">Stan ` +
				`połączeń</a></p>`,
		},
	}}
	return n
}

// harbourOffice is a block of rows, columns and parts.
func harbourOffice(since *time.Time) bundle.Notice {
	var where []pages.Entry
	for _, under := range []string{"", "/de", "/pl"} {
		where = append(where, pages.Entry{Match: pages.Page, Path: under + "/about"})
	}
	says := func(heading, text, label, href, question, yes, no, thanks string) bundle.Wording {
		return bundle.Wording{Parts: map[string]bundle.PartWords{
			"heading":  {Heading: heading},
			"text":     {Text: "<p>" + text + "</p>"},
			"links":    {Links: []bundle.Link{{Href: href, Label: label}}},
			"question": {Heading: question, Answers: []string{yes, no}, Thanks: thanks},
		}}
	}
	en := says("The harbour office", "On the pier at Sundrey, in the house with the green door. Come in, ring, or write.",
		"Book a place", "/book", "Was this page useful?", "Yes", "No", "Thank you. That helps us.")
	de := says(
		"Das Hafenbüro",
		"Auf dem Anleger von Sundrey, im Haus mit der grünen Tür. Kommen Sie vorbei, rufen Sie an oder schreiben Sie.",
		"Platz buchen", "/de/book", "War diese Seite hilfreich?", "Ja", "Nein", "Danke. Das hilft uns.",
	)
	pl := says(
		"Biuro portu", "Na przystani w Sundrey, w domu z zielonymi drzwiami. Zapraszamy, prosimy dzwonić lub pisać.",
		"Zarezerwuj", "/pl/book", "Czy ta strona była pomocna?", "Tak", "Nie", "Dziękujemy. To nam pomaga.",
	)
	de.SourceMark, pl.SourceMark = en.Mark(), en.Mark()
	return bundle.Notice{
		ID: "harbour-office", Kind: bundle.KindBlock, Title: "The harbour office",
		State: bundle.Published, PublishedAt: since,
		Slot: bundle.Inline, Spot: &bundle.Spot{Selector: "main", Where: bundle.Last},
		Pages:  &pages.Conditions{Include: where},
		Memory: &bundle.Memory{Closable: new(bool)},
		Look:   &bundle.Look{Background: "#f4f1e6"},
		Content: &bundle.Content{
			Rows: []bundle.Row{
				{Columns: []bundle.Column{{Parts: []bundle.Part{{ID: "heading", Kind: bundle.PartHeading}}}}},
				{Columns: []bundle.Column{
					{Share: 3, Parts: []bundle.Part{{ID: "text", Kind: bundle.PartText}, {ID: "links", Kind: bundle.PartLinks}}},
					{Share: 2, Parts: []bundle.Part{{ID: "contact", Kind: bundle.PartContact, Contact: []bundle.ContactLine{
						{By: "telephone", Value: "+44 1632 960 143"}, {By: "mail", Value: "office@sundrey.example"},
					}}}},
					{Share: 2, Stacked: 1, Parts: []bundle.Part{{ID: "hours", Kind: bundle.PartHours, Hours: []bundle.Opening{
						{Days: []int{1, 2, 3, 4, 5}, From: "07:30", Until: "18:00"}, {Days: []int{6, 7}, From: "09:00", Until: "13:00"},
					}}}},
				}},
				{Columns: []bundle.Column{{Parts: []bundle.Part{
					{ID: "question", Kind: bundle.PartQuestion, Events: []string{"useful-yes", "useful-no"}},
				}}}},
			},
			Wordings: map[string]bundle.Wording{"en": en, "de": de, "pl": pl},
		},
	}
}

// whoWeAre is the demo's piece of code: it says to search engines who runs the site.
func whoWeAre(since *time.Time) bundle.Notice {
	return bundle.Notice{
		ID: "who-we-are", Kind: bundle.KindCode, Title: "Who we are, for search engines",
		State: bundle.Published, PublishedAt: since,
		Pages: &pages.Conditions{Include: []pages.Entry{{Match: pages.Home}, {Match: pages.Section, Path: "/about"}}},
		Content: &bundle.Content{Code: &bundle.PageCode{Head: `<script type="application/ld+json">
{
  "@context": "https://schema.org",
  "@type": "Organization",
  "name": "Sundrey Isles Ferries",
  "telephone": "+44 1632 960 143"
}
</script>`}},
	}
}
