package demo

import (
	"fmt"
	"time"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/form"
	"mastflag/core/pages"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// inThree are page entries of a path in the three languages.
func inThree(match pages.Match, path string) (out []pages.Entry) {
	for _, under := range []string{"", "/de", "/pl"} {
		out = append(out, pages.Entry{Match: match, Path: under + path})
	}
	return out
}

// asks is a part that asks something.
func asks(id string, f form.Field) bundle.Part {
	return bundle.Part{ID: id, Kind: bundle.PartField, Field: &f}
}

// column is one row of parts, one below the other.
func column(parts ...bundle.Part) []bundle.Row {
	return []bundle.Row{{Columns: []bundle.Column{{Parts: parts}}}}
}

// wordings marks the German and the Polish as made from the English.
func wordings(en, de, pl bundle.Wording) map[string]bundle.Wording {
	de.SourceMark, pl.SourceMark = en.Mark(), en.Mark()
	return map[string]bundle.Wording{"en": en, "de": de, "pl": pl}
}

// serviceNews is the demo's form: whoever confirms an address hears of changes, and the
// stand-in receiver is told.
func serviceNews(base string, since *time.Time) bundle.Notice {
	says := func(headline, message, mail, route, all, agree, button, after string) bundle.Wording {
		return bundle.Wording{Headline: headline, Message: "<p>" + message + "</p>", Parts: map[string]bundle.PartWords{
			"mail":  {Heading: mail},
			"route": {Heading: route, Answers: []string{all, "Aldwick", "Corran Holm", "Fennay"}},
			"agree": {Text: "<p>" + agree + "</p>"},
			"send":  {Heading: button, Text: "<p>" + after + "</p>"},
		}}
	}
	return bundle.Notice{
		ID: "service-news", Kind: bundle.KindPopUp, Title: "Subscribe to service changes",
		State: bundle.Published, PublishedAt: since, Slot: bundle.CornerEnd,
		Pages:    &pages.Conditions{Include: inThree(pages.Page, "/status")},
		Audience: &audience.Node{Fact: "view.scroll", Is: audience.Gte, Value: float64(30)},
		Memory:   &bundle.Memory{HideAfterClose: "P30D", HideAfterAnswer: bundle.PeriodEver},
		Look:     &bundle.Look{Background: "#123a56"},
		Experiment: &bundle.Experiment{Goal: bundle.Goal{Form: true}, Variants: []bundle.Variant{
			{ID: "plain", Name: "Hear of changes first"},
			{ID: "first", Name: "Know before you leave home", Wordings: map[string]bundle.Wording{
				"en": {Headline: "Know before you leave home"},
				"de": {Headline: "Vor dem Losfahren Bescheid wissen"},
				"pl": {Headline: "Wiedz, zanim wyjdziesz z domu"},
			}},
		}},
		Content: &bundle.Content{
			Form: &form.Form{
				Confirm: "mail",
				PassOn:  []form.Receiver{{Address: base + standin.ReceiverPath + "/" + Key}},
			},
			Rows: column(asks("mail", form.Field{Kind: form.Email, Required: true}), asks("route", form.Field{
				Kind: form.Choice, Options: []string{"all", "aldwick", "corran-holm", "fennay"},
			}), asks("agree", form.Field{Kind: form.Agreement, Required: true}),
				bundle.Part{ID: "send", Kind: bundle.PartSend}),
			Wordings: wordings(
				says(
					"Hear of changes first",
					"A line by mail when a sailing is cancelled or late.",
					"E-mail",
					"Which route?",
					"All of them",
					`Write to me about service changes. <a href="document:privacy">Privacy `+
						`notice</a>`,
					"Subscribe",
					"Thank you.",
				),
				says(
					"Änderungen zuerst erfahren",
					"Eine Zeile per Mail, wenn eine Fahrt ausfällt oder sich verspätet.",
					"E-Mail",
					"Welche Strecke?",
					"Alle",
					`Schreiben Sie mir über Änderungen. <a href="document:privacy">`+
						`Datenschutzerklärung</a>`,
					"Abonnieren",
					"Danke.",
				),
				says(
					"Pierwsi o zmianach",
					"Krótka wiadomość, gdy rejs jest odwołany lub opóźniony.",
					"E-mail",
					"Która trasa?",
					"Wszystkie",
					`Proszę pisać do mnie o zmianach. <a href="document:privacy">Informacja o `+
						`prywatności</a>`,
					"Zapisz mnie",
					"Dziękujemy.",
				),
			),
		},
	}
}

// timetableFeedback is a form at the end of each timetable.
func timetableFeedback(since *time.Time) bundle.Notice {
	says := func(useful, yes, no, why, button, after string) bundle.Wording {
		return bundle.Wording{Parts: map[string]bundle.PartWords{
			"useful": {Heading: useful, Answers: []string{yes, no}}, "why": {Heading: why},
			"send": {Heading: button, Text: "<p>" + after + "</p>"},
		}}
	}
	where := inThree(pages.Section, "/timetables")
	return bundle.Notice{
		ID: "timetable-feedback", Kind: bundle.KindBlock, Title: "Feedback on the timetables",
		State: bundle.Published, PublishedAt: since,
		Slot: bundle.Inline, Spot: &bundle.Spot{Selector: "main", Where: bundle.Last},
		Pages:  &pages.Conditions{Include: where},
		Memory: &bundle.Memory{Closable: new(bool), HideAfterAnswer: "P30D"},
		Look:   &bundle.Look{Background: "#eef4f6"},
		Content: &bundle.Content{
			Form: &form.Form{Keep: "P6M"},
			Rows: column(
				asks("useful", form.Field{Kind: form.Choice, Required: true, Options: []string{"yes", "no"}}),
				asks("why", form.Field{Kind: form.Long, MaxLength: 1000}),
				asks("page", form.Field{Kind: form.Hidden, Fact: "page.path"}),
				bundle.Part{ID: "send", Kind: bundle.PartSend},
			),
			Wordings: wordings(
				says("Is this timetable easy to read?", "Yes", "No", "What would make it better?", "Send",
					"Thank you. That helps us."),
				says("Ist dieser Fahrplan gut zu lesen?", "Ja", "Nein", "Was würde ihn besser machen?", "Senden",
					"Danke. Das hilft uns."),
				says("Czy ten rozkład jest czytelny?", "Tak", "Nie", "Co by go ulepszyło?", "Wyślij",
					"Dziękujemy. To nam pomaga."),
			),
		},
	}
}

// sealCaptions are the words of the film of the tours.
func sealCaptions(first, second string) string {
	return "WEBVTT\n\n00:00.000 --> 00:03.000\n" + first + "\n\n00:03.000 --> 00:06.000\n" + second + "\n"
}

// sealFilm is a film in a page, of the site's own.
func sealFilm(since *time.Time) bundle.Notice {
	says := func(title, first, second string) bundle.Wording {
		return bundle.Wording{Parts: map[string]bundle.PartWords{
			"film": {Heading: title, Captions: sealCaptions(first, second)},
		}}
	}
	return bundle.Notice{
		ID: "seal-film", Kind: bundle.KindBlock, Title: "Film of the tours",
		State: bundle.Published, PublishedAt: since,
		Slot: bundle.Inline, Spot: &bundle.Spot{Selector: "main h1", Where: bundle.After},
		Pages:  &pages.Conditions{Include: inThree(pages.Page, "/tours")},
		Memory: &bundle.Memory{Closable: new(bool)},
		Look:   &bundle.Look{Background: "#eef4f6"},
		Content: &bundle.Content{
			Rows: column(bundle.Part{ID: "film", Kind: bundle.PartVideo, Video: &bundle.Video{
				File: "/films/seals.webm", Still: &sealImage, BySelf: true,
			}}),
			Wordings: wordings(
				says("Two hours among the skerries", "A seal looks up.", "And swims along for a while."),
				says("Zwei Stunden zwischen den Schären", "Eine Robbe schaut auf.", "Und schwimmt ein Stück mit."),
				says("Dwie godziny wśród szkierów", "Foka wychyla głowę.", "I płynie kawałek obok."),
			),
		},
	}
}

// portOffice offers a call while the office is open, and a letter while it is not.
func portOffice(since *time.Time) bundle.Notice {
	says := func(question, call, write string) bundle.Wording {
		return bundle.Wording{Message: "<p><strong>" + question + "</strong></p>", Parts: map[string]bundle.PartWords{
			"reach": {Answers: []string{call, write}},
		}}
	}
	return bundle.Notice{
		ID: "port-office", Kind: bundle.KindPopUp, Title: "Call the port office",
		State: bundle.Published, PublishedAt: since, Slot: bundle.CornerEnd,
		Pages:    &pages.Conditions{Include: inThree(pages.Page, "/ports/aldwick")},
		Audience: &audience.Node{Fact: "view.seconds", Is: audience.Gte, Value: float64(20)},
		Memory:   &bundle.Memory{HideAfterClose: bundle.PeriodSession, Foldable: true},
		Look:     &bundle.Look{Background: "#2f6d8f", Icon: "phone"},
		Content: &bundle.Content{
			Rows: column(bundle.Part{ID: "reach", Kind: bundle.PartContact, Buttons: true,
				Contact: []bundle.ContactLine{
					{By: "telephone", Value: "+44 1632 960 143", When: "open"},
					{By: "mail", Value: "office@sundrey.example", When: "closed"},
				},
				Hours: []bundle.Opening{
					{
						Days:  []int{1, 2, 3, 4, 5},
						From:  "07:30",
						Until: "18:00",
					}, {Days: []int{6, 7}, From: "09:00", Until: "13:00"},
				}}),
			Wordings: wordings(
				says("A question about this port?", "Call us now", "Leave a message"),
				says("Eine Frage zu diesem Hafen?", "Jetzt anrufen", "Nachricht hinterlassen"),
				says("Pytanie o ten port?", "Zadzwoń teraz", "Zostaw wiadomość"),
			),
		},
	}
}

// unfinishedBooking speaks in the tab of whoever left a booking for another tab.
func unfinishedBooking(since *time.Time) bundle.Notice {
	return bundle.Notice{
		ID: "unfinished-booking", Kind: bundle.KindTabTitle, Title: "Unfinished bookings",
		State: bundle.Published, PublishedAt: since,
		Pages: &pages.Conditions{Include: inThree(pages.Page, "/book")},
		Content: &bundle.Content{
			Tab: &bundle.Tab{Icon: &bundle.TabIcon{Name: "ship", Field: "#123a56", Number: 1}},
			Wordings: wordings(
				bundle.Wording{Message: "<p>Your booking is not finished</p><p>We keep your place for a while</p>"},
				bundle.Wording{
					Message: "<p>Ihre Buchung ist nicht fertig</p><p>Ihr Platz bleibt noch eine Weile frei</p>",
				},
				bundle.Wording{Message: "<p>Rezerwacja nie jest skończona</p><p>Miejsce jeszcze czeka</p>"},
			),
		},
	}
}

// filledIn are what some invented visitors have filled in, each by what was shown then: hashes
// of that by notice.
func filledIn(hashes map[string]string, now time.Time) (out []store.NewContact) {
	add := func(hours int, notice, page string, labels map[string]string, answers ...form.Answer) {
		at := now.Add(-time.Duration(hours) * time.Hour)
		confirmed := at.Add(20 * time.Minute)
		c := form.Contact{
			ID: fmt.Sprintf(
				"%032x",
				0xfe441+hours,
			), At: at, Notice: notice, Language: "en", Shown: hashes[notice], Page: page,
			Version: now.AddDate(0, 0, -30).UTC().Format(time.RFC3339), Answers: answers, Labels: labels,
			Expires: at.AddDate(1, 0, 0),
		}
		if notice == "service-news" {
			c.Confirmed = &confirmed
			c.Agreed = map[string]string{"agree": "Write to me about service changes. Privacy notice"}
		}
		out = append(out, store.NewContact{Site: Key, Contact: c})
	}
	route := map[string]string{
		"mail":          "E-mail",
		"route":         "Which route?",
		"route/all":     "All of them",
		"route/fennay":  "Fennay",
		"route/aldwick": "Aldwick",
	}
	useful := map[string]string{"useful": "Is this timetable easy to read?", "useful/yes": "Yes", "useful/no": "No",
		"why": "What would make it better?"}
	subscribe := func(hours int, mail, to string) {
		add(
			hours,
			"service-news",
			"/status",
			route,
			form.Answer{Field: "mail", Kind: form.Email, Values: []string{mail}},
			form.Answer{Field: "route", Kind: form.Choice, Values: []string{to}},
			form.Answer{Field: "agree", Kind: form.Agreement, Values: []string{"yes"}},
		)
	}
	feedback := func(hours int, page, answer, why string) {
		answers := []form.Answer{{Field: "useful", Kind: form.Choice, Values: []string{answer}}}
		if why != "" {
			answers = append(answers, form.Answer{Field: "why", Kind: form.Long, Values: []string{why}})
		}
		add(hours, "timetable-feedback", page, useful,
			append(answers, form.Answer{Field: "page", Kind: form.Hidden, Values: []string{page}})...)
	}
	subscribe(200, "m.oakes@fennay-school.example", "fennay")
	subscribe(121, "brother.aldan@aldwick-abbey.example", "aldwick")
	feedback(96, "/timetables", "no", "Please say which boats take bicycles.")
	subscribe(53, "kestrel.haulage@sundrey.example", "all")
	feedback(30, "/timetables", "yes", "")
	feedback(8, "/timetables", "no", "The Sunday times are hard to find on a phone.")
	return out
}
