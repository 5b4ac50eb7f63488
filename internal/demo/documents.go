package demo

import (
	"time"

	"mastflag/core/bundle"
	"mastflag/core/document"
	"mastflag/core/pages"
)

// tours is the document that people acknowledge before they book a tour.
const tours = "tour-safety"

// threeOf are texts in the demo's languages.
func threeOf(en, de, pl string) map[string]string {
	return map[string]string{"en": en, "de": de, "pl": pl}
}

// documents puts the demo's documents into its site, published one after the
// other, and returns their versions by id, the first one first.
func documents(b *bundle.Bundle, now time.Time) map[string][]document.Version {
	versions := map[string][]document.Version{}
	site := &b.Site
	publish := func(id string, days int, change document.Change, why string) {
		for i, d := range site.Documents {
			if d.ID != id {
				continue
			}
			d, v, err := d.Publish(
				site.Making(b.Notices),
				site.AllLanguages(),
				change,
				why,
				Name,
				now.AddDate(0, 0, -days),
			)
			if err != nil {
				panic(err) // it is tested
			}
			site.Documents[i], versions[id] = d, append(versions[id], v)
		}
	}
	alter := func(id string, how func(*document.Document)) {
		for i := range site.Documents {
			if site.Documents[i].ID == id {
				how(&site.Documents[i])
			}
		}
	}
	site.Documents = []document.Document{
		{ID: "privacy", Kind: document.Privacy, Answers: map[string]string{
			"operator": "Sundrey Isles Ferries", "address": "Ferry House, Quay 1\nSundrey", "email": "privacy@sundrey.example",
			"phone":   "+44 1632 960 123",
			"officer": "named", "officerContact": "Maud Tarrant, data@sundrey.example",
			"uses": "visits,contact,orders,newsletter", "logs": "P14D",
			"recipients": "hosting,payment,mail", "abroad": "no", "automated": "no", "authority": "Isles Data Office, Sundrey"}},
		{ID: "cookies", Kind: document.Cookies},
		{
			ID:   "terms",
			Kind: document.Terms,
			Answers: map[string]string{
				"email":         "office@sundrey.example",
				"register":      "yes",
				"registerEntry": "Isles Register of Trade, 4711",
				"licensed":      "yes",
				"supervisor":    "Isles Harbour Board, Aldwick",
				"regulated":     "no",
				"taxed":         "no",
				"prices":        "all",
				"law":           "the Isles of Sundrey",
			},
		},
		{
			ID:   "accessibility",
			Kind: document.Accessibility,
			Answers: map[string]string{
				"act":        "Isles Access Act 2019",
				"status":     "partial",
				"burden":     "no",
				"outside":    "no",
				"method":     "self",
				"preparedOn": now.AddDate(0, 0, -30).Format(time.DateOnly),
				"enforcer":   "Isles Access Office\nHarbour Street 9, Sundrey",
			},
			Own: map[string]map[string]string{
				"gaps": threeOf(
					"<p>The film of the seals has no captions yet.</p>",
					"<p>Der Film über die Robben hat noch keine Untertitel.</p>",
					"<p>Film o fokach nie ma jeszcze napisów.</p>",
				),
			},
		},
		{
			ID:      tours,
			Kind:    document.Disclaimer,
			Titles:  threeOf("Tour safety", "Sicherheit bei Touren", "Bezpieczeństwo na rejsie"),
			Answers: map[string]string{"topic": "safety"},
		},
	}
	publish("privacy", 210, document.Material, "")
	publish("cookies", 90, document.Material, "")
	publish("terms", 210, document.Material, "")
	publish("accessibility", 30, document.Material, "")
	publish(tours, 400, document.Material, "")
	alter(tours, func(d *document.Document) { d.Own = map[string]map[string]string{"text": safety("", "", "")} })
	publish(tours, 180, document.Editorial, "Said more plainly, and for our boats.")
	alter(tours, func(d *document.Document) {
		d.Own = map[string]map[string]string{
			"text": safety(
				" Children under four stay ashore.",
				" Kinder unter vier bleiben an Land.",
				" Dzieci do lat czterech zostają na lądzie.",
			),
		}
	})
	publish(tours, 20, document.Material, "Since the autumn children under four are not taken along.")
	// The cookie statement is out now: the privacy notice leads to it.
	publish("privacy", 60, document.Editorial, "")
	return versions
}

// safety is what the demo says to people before a tour, with one sentence more.
func safety(en, de, pl string) map[string]string {
	return threeOf(
		"<h2>On the water</h2><p>The boats are open and the sea is cold. Waves can throw people off their "+
			"feet.</p><h2>What we ask of you</h2><ul><li>Wear the life jacket from quay to quay.</li><li>Stay seated while "+
			"the boat moves."+en+"</li><li>Tell the skipper beforehand of an illness, an injury or a pregnancy.</li></ul>",
		"<h2>Auf dem Wasser</h2><p>Die Boote sind offen, und die See ist kalt. Wellen können Menschen von den Füßen "+
			"werfen.</p><h2>Worum wir Sie bitten</h2><ul><li>Tragen Sie die Schwimmweste von Kai zu Kai.</li><li>Bleiben Sie "+
			"sitzen, solange das Boot fährt."+de+"</li><li>Sagen Sie dem Schiffer vorher von einer Krankheit, einer "+
			"Verletzung oder einer Schwangerschaft.</li></ul>",
		"<h2>Na wodzie</h2><p>Łodzie są odkryte, a morze zimne. Fala może zwalić z nóg.</p><h2>O co "+
			"prosimy</h2><ul><li>Kamizelkę nosi się od nabrzeża do nabrzeża.</li><li>Podczas rejsu należy siedzieć."+pl+
			"</li><li>O chorobie, urazie lub ciąży trzeba wcześniej powiedzieć sternikowi.</li></ul>",
	)
}

// documentNotices are the demo's notices that documents stand behind: the
// disclaimer before a tour is booked, and the list of documents in the footer.
func documentNotices(safetySince, footerSince *time.Time) []bundle.Notice {
	book := []pages.Entry{
		{Match: pages.Page, Path: "/tours/book"},
		{Match: pages.Page, Path: "/de/tours/book"},
		{Match: pages.Page, Path: "/pl/tours/book"},
	}
	words := func(messages map[string]string) map[string]bundle.Wording {
		out := map[string]bundle.Wording{}
		for tag, m := range messages {
			out[tag] = bundle.Wording{Message: m}
		}
		return out
	}
	return []bundle.Notice{
		{
			ID:          "tour-safety",
			Kind:        bundle.KindDisclaimer,
			Title:       "Before a tour is booked",
			State:       bundle.Published,
			PublishedAt: safetySince,
			Slot:        bundle.Centre,
			Pages:       &pages.Conditions{Include: book},
			Look:        &bundle.Look{Background: "#eef4f6", Icon: "lifebuoy"},
			Content: &bundle.Content{
				Disclaimer: &bundle.Disclaimer{
					Document:  tours,
					Ask:       bundle.AskAcknowledge,
					OnDecline: "/tours",
					ValidFor:  "P1Y",
				},
				Wordings: words(
					threeOf(
						"<p><strong>Before you book a tour:</strong> please read what can happen on the water, and what we ask of "+
							"you.</p>",
						"<p><strong>Bevor Sie eine Tour buchen:</strong> Bitte lesen Sie, was auf dem Wasser geschehen kann und worum "+
							"wir Sie bitten.</p>",
						"<p><strong>Przed rezerwacją rejsu:</strong> prosimy przeczytać, co może się zdarzyć na wodzie i o co "+
							"prosimy.</p>",
					),
				),
			},
		},
		{
			ID:          "footer-documents",
			Kind:        bundle.KindBlock,
			Title:       "Documents in the footer",
			State:       bundle.Published,
			PublishedAt: footerSince,
			Slot:        bundle.Inline,
			Spot:        &bundle.Spot{Selector: "footer", Where: bundle.First},
			Pages: &pages.Conditions{
				Include: []pages.Entry{{Match: pages.All}},
			},
			Memory: &bundle.Memory{Closable: new(bool)},
			Look:   &bundle.Look{Background: "#eef4f6"},
			Content: &bundle.Content{Documents: []string{"privacy", "cookies", "terms", "accessibility"},
				Wordings: words(
					threeOf(
						"<p><strong>Documents</strong></p>",
						"<p><strong>Dokumente</strong></p>",
						"<p><strong>Dokumenty</strong></p>",
					),
				)},
		},
	}
}
