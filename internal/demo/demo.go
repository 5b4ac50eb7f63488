// Package demo fills an empty store with the demo's scenario: the invented
// Sundrey Isles Ferries and its notices.
package demo

import (
	"context"
	"crypto/sha256"
	_ "embed"
	"encoding/hex"
	"fmt"
	"strings"
	"time"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/countdown"
	"mastflag/core/document"
	"mastflag/core/pages"
	"mastflag/core/rights"
	"mastflag/core/schedule"
	"mastflag/internal/access"
	"mastflag/internal/clock"
	"mastflag/internal/compiled"
	"mastflag/internal/delivery"
	"mastflag/internal/demosite"
	"mastflag/internal/importing"
	"mastflag/internal/outbound"
	"mastflag/internal/standin"
	"mastflag/internal/store"
	"mastflag/internal/survey"
)

// The sign-in of the demo. It is printed at the start and is no secret.
const (
	Email    = "ines@sundrey.example"
	Name     = "Ines Harrow"
	Password = "five-islands"
	Key      = "sundrey"

	// HarbourKey is the second site.
	HarbourKey = "harbour-trust"
)

// Site returns the demo site with the snippet of a program at the address base.
func Site(base string) *demosite.Site {
	s := delivery.NewSnippet(base, Key)
	return demosite.New(s.HTML(), base, s.Source())
}

// Fill puts the scenario into a store that has no site yet. siteAddress is
// the demo site's origin, base the program's own address, now the moment around
// which its notices lie.
func Fill(ctx context.Context, st *store.Store, siteAddress, base string, now time.Time) error {
	sites, err := st.Sites(ctx)
	if err != nil || len(sites) > 0 {
		return err
	}
	password, err := access.HashPassword(ctx, Password)
	if err != nil {
		return err
	}
	for _, p := range []store.Person{
		{Email: Email, Name: Name, Role: rights.Administrator},
		{Email: "tomasz@sundrey.example", Name: "Tomasz Reede", Role: rights.Editor, Sites: []string{Key}, Contacts: true},
		{Email: "clerk@harbour.example", Name: "Orla Quint", Role: rights.Viewer, Sites: []string{HarbourKey}},
	} {
		p.Password = password
		if err := st.AddPerson(ctx, p); err != nil {
			return err
		}
	}
	b, versions := Bundle(siteAddress, base, now)
	guard := outbound.New(outbound.Options{Allowed: []string{strings.TrimPrefix(siteAddress, "http://")}})
	found, err := survey.New(guard).Survey(ctx, siteAddress, survey.Sought{
		Marker: delivery.ScriptPath(Key), Selectors: bundle.Selectors(b.Notices), Languages: b.Site.AllLanguages(),
	})
	if err != nil {
		return fmt.Errorf("reading the demo site: %w", err)
	}
	if err := st.AddSite(ctx, b.Site); err != nil {
		return err
	}
	for id, list := range versions {
		for _, v := range list {
			if err := st.AddDocumentVersion(ctx, Key, id, v); err != nil {
				return err
			}
		}
	}
	if _, err := importing.Bundle(ctx, st, b, store.By{Person: Email, Name: Name}, now); err != nil {
		return err
	}
	for i := range found {
		found[i].Type, found[i].Tags = describe(found[i].Path)
	}
	if err := st.PutPages(ctx, Key, found, now); err != nil {
		return err
	}
	if err := st.AddImage(ctx, Key, store.Image{
		Image:   sealImage,
		Name:    "seal.png",
		AddedAt: now,
		AddedBy: Name,
	}, sealPNG); err != nil {
		return err
	}
	hub, err := compiled.NewHub(ctx, st, base, clock.System{})
	if err != nil {
		return err
	}
	if _, err := st.AddRecords(ctx, answers(hub.Site(Key), now)); err != nil {
		return err
	}
	shown := map[string]string{}
	for hash, s := range hub.Site(Key).Shown {
		if s.Form != nil && s.Language == "en" {
			shown[s.Notice] = hash
		}
	}
	if _, err := st.AddContacts(ctx, filledIn(shown, now)); err != nil {
		return err
	}
	if err := st.AddResults(ctx, Key, Outcomes(hub.Site(Key), now)); err != nil {
		return err
	}
	_, err = importing.Bundle(ctx, st, Harbour(now), store.By{Person: Email, Name: Name}, now)
	return err
}

// sealPNG is a seal on a rock, drawn for the demo.
//
//go:embed seal.png
var sealPNG []byte

var sealImage = func() bundle.Image {
	sum := sha256.Sum256(sealPNG)
	return bundle.Image{File: hex.EncodeToString(sum[:8]) + ".png", Width: 320, Height: 160}
}()

// Harbour is a second, smaller site: one installation serves several.
func Harbour(now time.Time) bundle.Bundle {
	at := now.AddDate(0, 0, -3).Truncate(time.Second)
	return bundle.Bundle{
		Format: bundle.Format,
		Site: bundle.Site{
			Key:       HarbourKey,
			Name:      "Harbour Trust of Sundrey",
			Origins:   []string{"https://harbour.sundrey.example"},
			TimeZone:  "Europe/London",
			Language:  "en",
			Languages: []string{"en"},
			Palette:   []bundle.Colour{{Name: "Slate", Value: "#38424d"}, {Name: "Lichen", Value: "#7a8450"}},
		},
		Pages: []bundle.Page{
			{Path: "/", Title: "Harbour Trust"}, {Path: "/berths", Title: "Berths"}, {Path: "/tides", Title: "Tides"},
			{Path: "/notices-to-mariners", Title: "Notices to mariners"},
		},
		Notices: []bundle.Notice{{
			ID:          "dredging",
			Kind:        bundle.KindBar,
			Title:       "Dredging at the north quay",
			State:       bundle.Published,
			PublishedAt: &at,
			Pages:       &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
			Memory:      &bundle.Memory{HideAfterClose: "P1D"},
			Look:        &bundle.Look{Background: "#38424d", Icon: "anchor"},
			Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "<p>Dredging at the <strong>north " +
				"quay</strong>. Keep to the marked channel.</p>", Link: &bundle.Link{
				Href:  "/notices-to-mariners",
				Label: "Details",
			}}}},
		}},
	}
}

// describe says what type of page lies at a path of the demo site, and its tags.
func describe(path string) (kind string, tags []string) {
	for _, language := range []string{"/de", "/pl"} {
		path = strings.TrimPrefix(path, language)
	}
	room, rest, _ := strings.Cut(strings.TrimPrefix(path, "/"), "/")
	kind = map[string]string{
		"ports":      "port",
		"timetables": "timetable",
		"offers":     "offer",
		"tours":      "tour",
		"news":       "news",
	}[room]
	if strings.Contains(rest, "fennay") || strings.Contains(rest, "little-skarn") {
		tags = append(tags, "outer isles")
	}
	return kind, tags
}

// Bundle is the scenario around a moment, without its pages, for a program at
// the address base; and all versions of its documents, by id.
func Bundle(siteAddress, base string, now time.Time) (bundle.Bundle, map[string][]document.Version) {
	zone, err := schedule.Zone("Europe/London")
	if err != nil {
		panic(err) // the zone data ships with the program
	}
	today := now.In(zone)
	at := func(days, hour, minute int) string {
		return time.Date(
			today.Year(), today.Month(), today.Day()+days, hour, minute, 0, 0, time.UTC,
		).Format("2006-01-02T15:04")
	}
	friday := (int(time.Friday) - int(today.Weekday()) + 7) % 7
	published := func(days int) *time.Time {
		t := now.AddDate(0, 0, days).Truncate(time.Second)
		return &t
	}
	all := []pages.Entry{{Match: pages.All}}
	section := func(p string) []pages.Entry {
		return []pages.Entry{
			{Match: pages.Section, Path: p}, {Match: pages.Section, Path: "/de" + p}, {Match: pages.Section, Path: "/pl" + p},
		}
	}
	three := func(en, de, pl bundle.Wording) *bundle.Content {
		return &bundle.Content{Wordings: map[string]bundle.Wording{"en": en, "de": de, "pl": pl}}
	}
	withPicture := func(c *bundle.Content, alt ...string) *bundle.Content {
		c.Picture = &bundle.Picture{Image: sealImage}
		for i, tag := range []string{"en", "de", "pl"} {
			w := c.Wordings[tag]
			w.Alt = alt[i]
			c.Wordings[tag] = w
		}
		return c
	}
	counted := func(c *bundle.Content, d countdown.Countdown) *bundle.Content { c.Countdown = &d; return c }
	value := func(s string) *string { return &s }
	link := func(href, label string) *bundle.Link { return &bundle.Link{Href: href, Label: label} }

	b := bundle.Bundle{
		Format: bundle.Format,
		Site: bundle.Site{Key: Key, Name: "Sundrey Isles Ferries", Origins: []string{siteAddress}, TimeZone: "Europe/London",
			Language: "en", Languages: []string{"en", "de", "pl"}, HomePaths: []string{"/", "/de", "/pl"},
			Consent: setup(),
			Feeds: []bundle.Feed{{
				Name:    "weather",
				Title:   "Sundrey Weather Office",
				Address: base + standin.WeatherPath,
				Every:   "PT30S",
				Areas:   []bundle.AreaTag{{Area: "SWO-ZONE=W2", Tag: "outer isles"}},
			}},
			PageSets: []pages.SavedSet{{Name: "all ports", Conditions: pages.Conditions{Include: section("/ports")}}},
			Audiences: []audience.SavedAudience{{
				Name:     "people signed in",
				Audience: audience.Node{Fact: "person.signedIn", Is: audience.Eq, Value: true},
			}},
			FillIns: &bundle.FillIns{
				Telephone: "+44 1632 960100",
				Email:     "office@sundrey.example",
				Address:   "1 North Quay, Sundrey",
				Hours: map[string]string{
					"en": "daily from 6:00 to 21:00", "de": "täglich von 6 bis 21 Uhr", "pl": "codziennie od 6:00 do 21:00",
				},
			},
			Themes: []bundle.Theme{{Name: "Deep water", Look: bundle.Look{
				Background: "#123a56", Text: "#ffffff", Buttons: &bundle.Buttons{Background: "#f6d9a8", Text: "#16202e"},
			}}},
			Palette: []bundle.Colour{
				{Name: "Deep water", Value: "#123a56"}, {Name: "Shallows", Value: "#2f6d8f"}, {Name: "Foam", Value: "#eef4f6"},
				{Name: "Sand", Value: "#f6d9a8"}, {Name: "Buoy red", Value: "#a3271f"}, {Name: "Kelp", Value: "#2c5a3c"},
			}},
		Notices: []bundle.Notice{
			{
				ID:          "storm-warning",
				Kind:        bundle.KindAlert,
				Title:       "Storm warning, Fennay boats",
				State:       bundle.Published,
				PublishedAt: published(-1),
				Level:       bundle.Warning,
				Slot:        bundle.Top,
				Position:    bundle.Sticking,
				Schedule:    &schedule.Plan{Windows: []schedule.Window{{From: at(-1, 6, 0), Until: at(2, 12, 0)}}},
				Pages: &pages.Conditions{
					Include: append(
						append(section("/timetables"), section("/status")...),
						append(section("/ports/fennay"), section("/ports/little-skarn")...)...),
				},
				Memory: &bundle.Memory{HideAfterClose: "PT12H"},
				Look:   &bundle.Look{Background: "#f6d9a8", Icon: "storm"},
				Content: three(
					bundle.Wording{Message: "<p>No sailings to <strong>Fennay</strong> and <strong>Little Skarn</strong> before " +
						"noon: gale from the west.</p>", Link: link("/status", "Service status")},
					bundle.Wording{Message: "<p>Vor Mittag keine Fahrten nach <strong>Fennay</strong> und <strong>Little " +
						"Skarn</strong>: Sturm aus West.</p>", Link: link("/de/status", "Zur Betriebslage")},
					bundle.Wording{Message: "<p>Przed południem brak rejsów na <strong>Fennay</strong> i <strong>Little " +
						"Skarn</strong>: sztorm z zachodu.</p>", Link: link("/pl/status", "Stan połączeń")}),
			},
			{
				ID:          "winter-timetable",
				Kind:        bundle.KindBar,
				Title:       "Winter timetable",
				State:       bundle.Published,
				PublishedAt: published(-20),
				Pages:       &pages.Conditions{Include: all, Exclude: section("/book")},
				Memory:      &bundle.Memory{HideAfterClose: "P7D"},
				Look:        &bundle.Look{Background: "#123a56"},
				Schedule:    &schedule.Plan{Windows: []schedule.Window{{From: at(-20, 0, 0), Until: at(118, 0, 0)}}},
				Content: three(
					bundle.Wording{
						Message: "<p>The <strong>winter timetable</strong> is in force until the end of March.</p>",
						Link:    link("/timetables", "See the times"),
					},
					bundle.Wording{
						Message: "<p>Bis Ende März gilt der <strong>Winterfahrplan</strong>.</p>",
						Link:    link("/de/timetables", "Zu den Zeiten"),
					},
					bundle.Wording{
						Message: "<p>Do końca marca obowiązuje <strong>rozkład zimowy</strong>.</p>",
						Link:    link("/pl/timetables", "Zobacz godziny"),
					}),
			},
			asking(published(-15)),
			{
				ID:          "fare-sale",
				Kind:        bundle.KindBar,
				Title:       "Friday fare sale",
				State:       bundle.Published,
				PublishedAt: published(-2),
				Level:       bundle.Promotion,
				Slot:        bundle.Bottom,
				Position:    bundle.Sticking,
				Pages: &pages.Conditions{
					Include: append([]pages.Entry{{Match: pages.Home}}, append(section("/offers"), section("/fares")...)...),
				},
				Memory: &bundle.Memory{HideAfterClose: "P1D"},
				Look:   &bundle.Look{Background: "#2f6d8f", Text: "#ffffff"},
				Schedule: &schedule.Plan{Windows: []schedule.Window{{
					From:   at(friday, 12, 0),
					Until:  at(friday, 18, 0),
					Rule:   "FREQ=WEEKLY;BYDAY=FR;COUNT=8",
					Except: []string{at(friday+28, 12, 0)},
				}}},
				Content: counted(three(
					bundle.Wording{Message: "<p>This afternoon only: every day return at <strong>half fare</strong>. ⛴️ {countdown} " +
						"left</p>", Link: link("/book", "Book now")},
					bundle.Wording{Message: "<p>Nur heute Nachmittag: jede Tagesrückfahrt zum <strong>halben Preis</strong>. ⛴️ " +
						"Noch {countdown}</p>", Link: link("/de/book", "Jetzt buchen")},
					bundle.Wording{}),
					countdown.Countdown{
						Kind:  countdown.Repeating,
						At:    at(friday, 18, 0),
						Rule:  "FREQ=WEEKLY;BYDAY=FR;COUNT=8",
						Units: []countdown.Unit{"hours", "minutes", "seconds"},
					}),
			},
			{
				ID:          "seal-tours",
				Kind:        "pop-up",
				Title:       "Seal tours for people who come back",
				State:       bundle.Published,
				PublishedAt: published(-5),
				Level:       bundle.Promotion,
				Slot:        bundle.CornerEnd,
				Pages: &pages.Conditions{
					Include: append([]pages.Entry{
						{Match: pages.Home}, {Match: pages.Type, Value: value("offer")},
					}, section("/tours")...),
				},
				Audience: &audience.Node{Group: audience.All, Parts: []audience.Node{
					{Fact: "visits.number", Is: audience.Gte, Value: 2},
					{
						Group: audience.Any,
						Parts: []audience.Node{
							{Fact: "view.scroll", Is: audience.Gte, Value: 30}, {Fact: "view.seconds", Is: audience.Gte, Value: 20},
						},
					},
					{Saved: "people signed in", Off: true}}},
				Memory: &bundle.Memory{
					HideAfterClose: "P30D",
					HideAfterClick: "P30D",
					Limits:         []bundle.Limit{{Times: 3, Per: "P7D"}},
				},
				Look: &bundle.Look{Background: "#eef4f6", Shape: bundle.Round},
				Content: withPicture(three(
					bundle.Wording{
						Message: "<p>The seals are back at <strong>Little Skarn</strong>. Tours on the first boat.</p>",
						Link:    link("/tours", "See the tours"),
					},
					bundle.Wording{Message: "<p>Die Robben sind wieder vor <strong>Little Skarn</strong>. Fahrten mit dem ersten " +
						"Schiff.</p>", Link: link("/de/tours", "Zu den Fahrten")},
					bundle.Wording{
						Message: "<p>Foki wróciły na <strong>Little Skarn</strong>. Rejsy pierwszym statkiem.</p>",
						Link:    link("/pl/tours", "Zobacz rejsy"),
					}), "A seal on a rock", "Eine Robbe auf einem Felsen", "Foka na skale"),
			},
			{ID: "booking-deadline", Kind: bundle.KindBar, Title: "Christmas bookings close", State: bundle.Draft,
				Pages: &pages.Conditions{Include: all}, Memory: &bundle.Memory{HideAfterClose: "P3D"},
				Look:     &bundle.Look{Background: "#a3271f"},
				Schedule: &schedule.Plan{Windows: []schedule.Window{{From: at(6, 9, 0), Until: at(23, 18, 0)}}},
				Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {
					Message: "<p>Car places for Christmas week can be booked until <strong>18 December</strong>.</p>",
					Details: "<p>Cars over 2 metres high need a place on the early boat. Foot passengers need none at all.</p>",
				}}}},
			{
				ID:          "christmas-countdown",
				Kind:        bundle.KindCountdown,
				Title:       "Christmas week, time left to book",
				State:       bundle.Published,
				PublishedAt: published(-3),
				Pages:       &pages.Conditions{Include: section("/offers")},
				Memory:      &bundle.Memory{HideAfterClose: "P1D"},
				Look:        &bundle.Look{Background: "#2c5a3c"},
				Schedule:    &schedule.Plan{Windows: []schedule.Window{{From: at(-3, 9, 0), Until: at(24, 12, 0)}}},
				Experiment: &bundle.Experiment{Goal: bundle.Goal{Event: "booking"}, Variants: []bundle.Variant{
					{ID: "green", Name: "Kelp green"},
					{ID: "red", Name: "Buoy red", Look: &bundle.Look{Background: "#a3271f"}},
				}},
				Content: counted(three(
					bundle.Wording{
						Message:        "<p>Car places for Christmas week: book within {countdown}</p>",
						ExpiredMessage: "<p>Bookings for Christmas week are closed. Foot passengers are welcome on every boat.</p>",
						Link:           link("/book", "Book a place"),
					},
					bundle.Wording{
						Message: "<p>Autoplätze für die Weihnachtswoche: noch {countdown} zum Buchen</p>",
						ExpiredMessage: "<p>Die Buchung für die Weihnachtswoche ist geschlossen. Fußgänger sind auf jedem Schiff " +
							"willkommen.</p>",
						Link: link("/de/book", "Platz buchen"),
					},
					bundle.Wording{
						Message:        "<p>Miejsca dla aut w tygodniu świątecznym: na rezerwację zostało {countdown}</p>",
						ExpiredMessage: "<p>Rezerwacja na tydzień świąteczny jest zamknięta. Pieszych zapraszamy na każdy rejs.</p>",
						Link:           link("/pl/book", "Zarezerwuj"),
					}),
					countdown.Countdown{Kind: countdown.To, At: at(23, 18, 0), Frame: countdown.Square, Then: countdown.Say}),
			},
			{
				ID:          "pier-works",
				Kind:        bundle.KindBar,
				Title:       "Pier works, Corran Holm",
				State:       bundle.Paused,
				PublishedAt: published(-9),
				Pages:       &pages.Conditions{Include: section("/ports/corran-holm")},
				Memory:      &bundle.Memory{HideAfterClose: "PT12H"},
				Look:        &bundle.Look{Background: "#2c5a3c"},
				Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "<p>The car ramp at Corran Holm is " +
					"closed at low water. Allow twenty minutes more.</p>"}}},
			},
			{
				ID:          "regatta",
				Kind:        bundle.KindBar,
				Title:       "Autumn regatta",
				State:       bundle.Published,
				PublishedAt: published(-40),
				Level:       bundle.Promotion,
				Pages:       &pages.Conditions{Include: all},
				Look:        &bundle.Look{Background: "#eef4f6"},
				Schedule:    &schedule.Plan{Windows: []schedule.Window{{From: at(-38, 8, 0), Until: at(-3, 20, 0)}}},
				Experiment: &bundle.Experiment{Holdout: 10, Goal: bundle.Goal{Pages: &pages.Conditions{
					Include: []pages.Entry{{Match: pages.Section, Path: "/offers"}},
				}}},
				Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "<p>Regatta weekend: extra boats " +
					"to Aldwick.</p>", Link: link("/regatta", "Programme")}}},
			},
		},
	}
	b.Notices = append(b.Notices, documentNotices(published(-20), published(-60))...)
	status := statusBlock(published(-45))
	b.Notices = append(
		b.Notices, status, corranStatus(status, published(-9)), harbourOffice(published(-45)), whoWeAre(published(-45)),
		serviceNews(base, published(-30)), timetableFeedback(published(-30)), sealFilm(published(-30)),
		portOffice(published(-30)), unfinishedBooking(published(-30)),
	)
	return b, documents(&b, now)
}
