package demo

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/pages"
	"mastflag/internal/compiled"
	"mastflag/internal/store"
)

// setup is what the demo site sets and asks about.
func setup() *consent.Setup {
	said := func(en, de, pl string) map[string]string { return map[string]string{"en": en, "de": de, "pl": pl} }
	return &consent.Setup{
		TableRead: consent.TableDate(),
		Purposes: []consent.Purpose{{ID: "preferences"}, {ID: "measurement"}, {ID: "marketing"},
			{ID: "films", Words: map[string]consent.PurposeWords{
				"en": {Name: "Films", Text: "Plays films that lie at Kelpcast."},
				"de": {Name: "Filme", Text: "Spielt Filme ab, die bei Kelpcast liegen."},
				"pl": {Name: "Filmy", Text: "Odtwarza filmy, które są w Kelpcast."}}}},
		Inventory: []consent.Item{
			{
				Kind:    consent.Cookie,
				Name:    "sundrey_basket",
				Purpose: consent.Necessary,
				Lasts:   "session",
				For: said(
					"Keeps the place you are booking.", "Hält den Platz, den Sie buchen.", "Trzyma miejsce, które rezerwujesz.",
				),
			},
			{
				Kind:    consent.Storage,
				Name:    "mastflag.*",
				Purpose: consent.Necessary,
				Lasts:   "ever",
				For: said(
					"Remembers which notices you closed, and your answer here.",
					"Merkt sich, welche Mitteilungen Sie geschlossen haben, und Ihre Antwort hier.",
					"Pamięta, które komunikaty zamknięto, i twoją odpowiedź tutaj.",
				),
			},
			{
				Kind:    consent.Cookie,
				Name:    "last_port",
				Purpose: "preferences",
				Lasts:   "P30D",
				For: said(
					"Remembers the last port you looked at.", "Merkt sich den Hafen, den Sie zuletzt ansahen.",
					"Pamięta ostatnio oglądany port.",
				),
			},
			{
				Kind:    consent.Cookie,
				Name:    "tw_visit",
				By:      "Tidewater Counts",
				Purpose: "measurement",
				Lasts:   "P1Y",
				For:     said("Tells visits apart.", "Unterscheidet Besuche.", "Odróżnia wizyty."),
			},
			{
				Kind:    consent.Storage,
				Name:    "tw.path",
				By:      "Tidewater Counts",
				Purpose: "measurement",
				Lasts:   "ever",
				For:     said("The page you saw last.", "Die zuletzt gesehene Seite.", "Ostatnio oglądana strona."),
			},
			{
				Kind:    consent.Request,
				Name:    "localhost",
				By:      "Tidewater Counts and Gannet Offers",
				Purpose: "measurement",
				For:     said("Counts a page view.", "Zählt einen Seitenaufruf.", "Liczy wyświetlenie strony."),
			},
			{
				Kind:    consent.Cookie,
				Name:    "gnt_*",
				By:      "Gannet Offers",
				Purpose: "marketing",
				Lasts:   "P90D",
				For:     said("Chooses offers for you.", "Wählt Angebote für Sie aus.", "Dobiera oferty."),
			},
			{
				Kind:    consent.Frame,
				Name:    "localhost",
				By:      "Kelpcast",
				Purpose: "films",
				For:     said("Shows the film of the seals.", "Zeigt den Robbenfilm.", "Pokazuje film o fokach."),
			},
		},
	}
}

// asking is the demo's consent notice.
func asking(at *time.Time) bundle.Notice {
	link := func(href, label string) *bundle.Link {
		return &bundle.Link{Href: href, Label: label, As: "link"}
	}
	closable := false
	return bundle.Notice{
		ID:          "privacy",
		Kind:        bundle.KindConsent,
		Title:       "Privacy choices",
		State:       bundle.Published,
		PublishedAt: at,
		Slot:        bundle.CornerStart,
		Pages:       &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
		Memory:      &bundle.Memory{Closable: &closable},
		Look:        &bundle.Look{Background: "#eef4f6"},
		Content: &bundle.Content{Consent: &consent.Question{ValidFor: "P180D"}, Wordings: map[string]bundle.Wording{
			"en": {Message: "<p>May we count visits, remember your port and show films and offers from others? You can change " +
				"your mind at any time.</p>", Link: link("document:privacy", "Privacy notice")},
			"de": {Message: "<p>Dürfen wir Besuche zählen, uns Ihren Hafen merken und Filme und Angebote anderer zeigen? Sie " +
				"können es sich jederzeit anders überlegen.</p>", Link: link("document:privacy", "Datenschutzerklärung")},
			"pl": {Message: "<p>Czy możemy liczyć wizyty, pamiętać twój port oraz pokazywać filmy i oferty innych? Zdanie " +
				"możesz zmienić w każdej chwili.</p>", Link: link(
				"document:privacy", "Informacja o ochronie danych",
			)}}},
	}
}

// answers are what invented visitors answered in the last four weeks, about
// seven a day.
func answers(site *compiled.Site, now time.Time) []store.NewRecord {
	hash := map[string]string{}
	for h, s := range site.Shown {
		if s.Rule == consent.OptIn {
			hash[s.Language] = h
		}
	}
	r := rand.New(rand.NewPCG(7, 11))
	asked := site.Bundle().Site.Setup().AskedPurposes()
	var out []store.NewRecord
	for day := 27; day >= 0; day-- {
		minutes := make([]int, 5+r.IntN(6))
		for i := range minutes {
			minutes[i] = r.IntN(10 * 60)
		}
		slices.Sort(minutes)
		for _, ago := range slices.Backward(minutes) {
			at := now.AddDate(0, 0, -day).Add(-time.Duration(ago) * time.Minute)
			tag := []string{"en", "en", "en", "de", "pl"}[r.IntN(5)]
			country := map[string]string{"en": "GB", "de": "DE", "pl": "PL"}[tag]
			shown := site.Shown[hash[tag]]
			tally := consent.Tally{
				Day:      at.In(site.Zone()).Format(time.DateOnly),
				Place:    country,
				Language: tag,
				Device:   []string{"phone", "phone", "desktop", "tablet"}[r.IntN(4)],
				Version:  shown.Notice + " " + shown.Version,
				Outcome:  "asked",
			}
			out = append(out, store.NewRecord{Site: Key, Tally: tally})
			told := consent.Submission{
				ID:   fmt.Sprintf("%016x%016x", r.Uint64(), r.Uint64()),
				Hash: hash[tag],
				How:  "button",
				Page: []string{"/", "/timetables", "/fares", "/ports/aldwick", "/offers", "/tours"}[r.IntN(6)],
			}
			if tag != "en" {
				told.Page = "/" + tag + told.Page
			}
			switch n := r.IntN(100); {
			case n < 18:
				continue // no answer
			case n < 52:
				told.Refused = asked
			case n < 84:
				told.Granted = asked
			default:
				k := 1 + r.IntN(len(asked)-1)
				told.Granted, told.Refused = asked[:k], asked[k:]
			}
			record, err := told.Record(asked, shown.Rule, at)
			if err != nil {
				panic(err) // the demo's own data
			}
			record.Notice, record.NoticeVersion = shown.Notice, shown.Version
			record.Language, record.Jurisdiction = shown.Language, country
			tally.Outcome = string(record.EventType)
			out = append(out, store.NewRecord{Site: Key, Record: &record, Tally: tally})
		}
	}
	return out
}
