package starting

import (
	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/document"
	"mastflag/core/form"
	"mastflag/core/pages"
)

// popUp is a ready pop-up that asks for something or offers it, before it is made for a site.
type popUp struct {
	key, name, when string
	slot            bundle.Slot
	hint, icon      string
	closed          bundle.Period
	audience        audience.Node
	headline        [3]string // English, German, Polish
	message         [3]string
	rows            []bundle.Row
	says            [3]map[string]bundle.PartWords
	form            *form.Form
}

// atLeast is a condition that a number is so large at least.
func atLeast(fact string, least float64) audience.Node {
	return audience.Node{Fact: fact, Is: audience.Gte, Value: least}
}

func allOf(parts ...audience.Node) audience.Node {
	return audience.Node{Group: audience.All, Parts: parts}
}
func anyOf(parts ...audience.Node) audience.Node {
	return audience.Node{Group: audience.Any, Parts: parts}
}

func fieldPart(id string, f form.Field) bundle.Part {
	return bundle.Part{ID: id, Kind: bundle.PartField, Field: &f}
}

func optionWords(question string, options ...string) bundle.PartWords {
	return bundle.PartWords{Heading: question, Answers: options}
}

func sendWords(button, after string) bundle.PartWords {
	return bundle.PartWords{Heading: button, Text: "<p>" + after + "</p>"}
}

var send = part("send", bundle.PartSend)

// popUps are what people ask with most. When each comes is common practice: after 5 seconds,
// once 30 % of the page was read, with 15 % read or when about to leave, on the second visit.
var popUps = []popUp{
	{
		key: "pop-up-welcome", name: "Welcome for the first visit",
		when: "Somebody is here for the first time, and has looked around for 5 seconds.",
		hint: calm, icon: "heart-handshake", closed: bundle.PeriodEver,
		audience: allOf(
			atLeast("view.seconds", 5),
			audience.Node{Fact: "visits.number", Is: audience.Lte, Value: float64(1)},
		),
		headline: [3]string{"Welcome", "Willkommen", "Witamy"},
		message: [3]string{"<p>Good to have you here. Where would you like to begin?</p>",
			"<p>Schön, dass Sie da sind. Womit möchten Sie anfangen?</p>", "<p>Miło nam. Od czego zacząć?</p>"},
		rows: []bundle.Row{oneColumn(part("ways", bundle.PartLinks))},
		says: inThreeLanguages("ways", linked("To the start"), linked("Zum Anfang"), linked("Na początek")),
	},
	{
		key: "pop-up-subscribe", name: "Subscribe by e-mail",
		when: "Somebody has read 30 % of a page: offer to write to them. The address is confirmed by a letter.",
		hint: calm, icon: "mail", closed: "P30D", audience: atLeast("view.scroll", 30),
		headline: [3]string{"Hear of changes first", "Änderungen zuerst erfahren", "Pierwsi o zmianach"},
		message: [3]string{"<p>We write when something changes, and never otherwise.</p>",
			"<p>Wir schreiben, wenn sich etwas ändert, und sonst nie.</p>",
			"<p>Piszemy, gdy coś się zmienia, i tylko wtedy.</p>"},
		rows: []bundle.Row{oneColumn(fieldPart("mail", form.Field{Kind: form.Email, Required: true}),
			fieldPart("agree", form.Field{Kind: form.Agreement, Required: true}), send)},
		says: with(with(inThreeLanguages("mail", headed("E-mail"), headed("E-Mail"), headed("E-mail")), "agree",
			texted("<p>Write to me about changes. I can end this at any time.</p>"),
			texted("<p>Schreiben Sie mir über Änderungen. Ich kann das jederzeit beenden.</p>"),
			texted("<p>Proszę pisać do mnie o zmianach. W każdej chwili mogę to zakończyć.</p>")), "send",
			sendWords("Subscribe", "Thank you."), sendWords("Abonnieren", "Danke."), sendWords("Zapisz mnie", "Dziękujemy.")),
		form: &form.Form{Confirm: "mail"},
	},
	{
		key: "pop-up-offer", name: "Offer before they leave",
		when: "Somebody has read 15 % of a page, or is about to leave: mention what they would miss.",
		hint: glad, icon: "discount", closed: "P7D", audience: anyOf(atLeast("view.scroll", 15), atLeast("view.leaving", 1)),
		headline: [3]string{"Before you go", "Bevor Sie gehen", "Zanim wyjdziesz"},
		message: [3]string{"<p>Lower prices, for as long as there are places.</p>",
			"<p>Günstigere Preise, solange Plätze frei sind.</p>", "<p>Niższe ceny, dopóki są wolne miejsca.</p>"},
		rows: []bundle.Row{oneColumn(part("ways", bundle.PartLinks))},
		says: inThreeLanguages("ways", linked("See the offer"), linked("Zum Angebot"), linked("Zobacz ofertę")),
	},
	{
		key: "pop-up-contact", name: "Call us, or write",
		when: "Somebody has been on a page for 20 seconds: call while you are open, a letter while you are not.",
		slot: bundle.CornerEnd, hint: calm, icon: "phone", closed: bundle.PeriodSession,
		audience: atLeast("view.seconds", 20),
		message: [3]string{"<p><strong>A question?</strong></p>", "<p><strong>Eine Frage?</strong></p>",
			"<p><strong>Pytanie?</strong></p>"},
		rows: []bundle.Row{
			oneColumn(bundle.Part{ID: "reach", Kind: bundle.PartContact, Buttons: true, Hours: open.Hours,
				Contact: []bundle.ContactLine{{By: "telephone", When: "open"}, {By: "mail"}}}),
		},
		says: inThreeLanguages("reach", optionWords("", "Call us now", "Leave a message"),
			optionWords("", "Jetzt anrufen", "Nachricht hinterlassen"), optionWords("", "Zadzwoń teraz", "Zostaw wiadomość")),
	},
	{
		key: "pop-up-survey", name: "Short survey",
		when: "Somebody is here for the second time: ask two things.",
		hint: calm, icon: "clipboard-list", closed: "P30D",
		audience: allOf(atLeast("visits.number", 2), atLeast("view.seconds", 5)),
		headline: [3]string{"Two short questions", "Zwei kurze Fragen", "Dwa krótkie pytania"},
		message:  [3]string{"", "", ""},
		rows: []bundle.Row{oneColumn(fieldPart("found", form.Field{Kind: form.Choice, Required: true,
			Options: []string{"yes", "partly", "no"}}), fieldPart("missing", form.Field{Kind: form.Long}), send)},
		says: with(with(inThreeLanguages("found", optionWords("Did you find what you came for?", "Yes", "Partly", "No"),
			optionWords("Haben Sie gefunden, was Sie gesucht haben?", "Ja", "Teilweise", "Nein"),
			optionWords("Czy udało się znaleźć to, czego szukano?", "Tak", "Częściowo", "Nie")), "missing",
			headed("What was missing?"), headed("Was hat gefehlt?"), headed("Czego zabrakło?")), "send",
			sendWords("Send", "Thank you. That helps us."), sendWords("Senden", "Danke. Das hilft uns."),
			sendWords("Wyślij", "Dziękujemy. To nam pomaga.")),
		form: &form.Form{Keep: "P6M"},
	},
	{
		key: "pop-up-leaving", name: "A hand before they leave",
		when: "Somebody is about to leave a page: offer help, not more of the same.",
		hint: calm, icon: "help", closed: bundle.PeriodSession, audience: atLeast("view.leaving", 1),
		headline: [3]string{"Not found it yet?", "Noch nicht gefunden?", "Jeszcze nie znaleziono?"},
		message:  [3]string{"<p>We are glad to help.</p>", "<p>Wir helfen gern.</p>", "<p>Chętnie pomożemy.</p>"},
		rows: []bundle.Row{oneColumn(bundle.Part{ID: "reach", Kind: bundle.PartContact, Buttons: true,
			Contact: []bundle.ContactLine{{By: "mail"}}})},
		says: inThreeLanguages(
			"reach",
			optionWords("", "Write to us"),
			optionWords("", "Schreiben Sie uns"),
			optionWords("", "Napisz do nas"),
		),
	},
	{
		key: "pop-up-feedback", name: "Feedback on a page",
		when: "Somebody has read 30 % of a page: ask how good it is, in a corner that is not in the way.",
		slot: bundle.CornerEnd, hint: calm, icon: "message", closed: bundle.PeriodSession,
		audience: atLeast("view.scroll", 30),
		message:  [3]string{"", "", ""},
		rows: []bundle.Row{oneColumn(fieldPart("useful", form.Field{Kind: form.Choice, Required: true,
			Options: []string{"yes", "no"}}), fieldPart("why", form.Field{Kind: form.Long, MaxLength: 1000}),
			fieldPart("page", form.Field{Kind: form.Hidden, Fact: "page.path"}), send)},
		says: with(with(
			inThreeLanguages(
				"useful",
				optionWords("Is this page useful?", "Yes", "No"),
				optionWords(
					"Ist diese Seite hilfreich?",
					"Ja",
					"Nein",
				),
				optionWords("Czy ta strona jest pomocna?", "Tak", "Nie"),
			),
			"why",
			headed(
				"What would make it better?",
			),
			headed("Was würde sie besser machen?"),
			headed("Co by ją ulepszyło?"),
		),
			"send", sendWords("Send", "Thank you. That helps us."), sendWords("Senden", "Danke. Das hilft uns."),
			sendWords("Wyślij", "Dziękujemy. To nam pomaga.")),
		form: &form.Form{Keep: "P6M"},
	},
}

// tabTitle is a ready message for visitors who are in another tab.
var tabTitles = [3]string{"<p>Still there?</p><p>Your visit is not over</p>",
	"<p>Noch da?</p><p>Ihr Besuch ist nicht zu Ende</p>", "<p>Jesteś tam jeszcze?</p><p>To jeszcze nie koniec</p>"}

// notice makes the pop-up for a site: on every page, with the site's own number and address.
func (p popUp) notice(site bundle.Site) bundle.Notice {
	whom := p.audience
	n := bundle.Notice{Kind: bundle.KindPopUp, Title: p.name, Slot: p.slot, Audience: &whom,
		Pages:   &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
		Memory:  &bundle.Memory{HideAfterClose: p.closed},
		Look:    &bundle.Look{Background: Nearest(site.Palette, p.hint), Icon: p.icon},
		Content: &bundle.Content{}}
	if p.rows[0].Columns[0].Parts[0].Kind == bundle.PartField {
		n.Look.Icon = ""
	}
	if p.form != nil {
		f := *p.form
		n.Content.Form = &f
		n.Memory.HideAfterAnswer = bundle.PeriodEver
	}
	for _, r := range p.rows {
		row := bundle.Row{}
		for _, c := range r.Columns {
			column := bundle.Column{Share: c.Share}
			for _, part := range c.Parts {
				part.Contact = contactLines(part.Contact, site)
				column.Parts = append(column.Parts, part)
			}
			row.Columns = append(row.Columns, column)
		}
		n.Content.Rows = append(n.Content.Rows, row)
	}
	privacy := ""
	for _, d := range site.Documents {
		if d.Kind == document.Privacy && d.Version > 0 {
			privacy = d.ID
		}
	}
	n.Content.Wordings = inLanguages(site, func(i int) bundle.Wording {
		parts := map[string]bundle.PartWords{}
		for id, w := range p.says[i] {
			if id == "agree" && privacy != "" { // what is agreed to says what becomes of it
				w.Text += `<p><a href="` + document.Scheme + privacy + `">` +
					[3]string{"Privacy notice", "Datenschutzerklärung", "Informacja o prywatności"}[i] + "</a></p>"
			}
			parts[id] = w
		}
		return bundle.Wording{Headline: p.headline[i], Message: p.message[i], Parts: parts}
	})
	return n
}

// reached returns contact lines with the site's own number and address; those that it has none
// for are left out.
func contactLines(lines []bundle.ContactLine, site bundle.Site) (out []bundle.ContactLine) {
	for _, l := range lines {
		switch {
		case l.Value != "":
		case l.By == "mail":
			if l.Value = address(site); site.FillIns != nil && site.FillIns.Email != "" {
				l.Value = site.FillIns.Email
			}
		case site.FillIns != nil && site.FillIns.Telephone != "":
			l.Value = site.FillIns.Telephone
		default:
			l.Value = "+44 1632 960 000" // a number of nobody, to be replaced
		}
		out = append(out, l)
	}
	return out
}

// elsewhere makes the message for visitors in another tab.
func elsewhere(site bundle.Site) bundle.Notice {
	return bundle.Notice{Kind: bundle.KindTabTitle, Title: "For visitors in another tab",
		Pages: &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
		Content: &bundle.Content{
			Tab:      &bundle.Tab{},
			Wordings: inLanguages(site, func(i int) bundle.Wording { return bundle.Wording{Message: tabTitles[i]} }),
		}}
}
