package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/countdown"
	"mastflag/core/pages"
	"mastflag/core/phrase"
	"mastflag/internal/demo"
)

// part is an expression for what a selector finds in the notice of that id.
func part(id, selector string) string {
	return fmt.Sprintf(
		"document.querySelector('mastflag-notice[data-id=%s]')?.shadowRoot.querySelector('%s')",
		id,
		selector,
	)
}

// inNotice presses what a selector finds in the notice of that id.
func (p *tab) inNotice(id, selector string) {
	p.t.Helper()
	p.until(part(id, selector))
	p.at("(e => { e.scrollIntoView({ block: 'nearest' }); const r = e.getBoundingClientRect(); return [r.x + r.width / " +
		"2, r.y + r.height / 2] })(" + part(id, selector) + ")")
}

// tabs are the words on the tabs of notices that were folded away.
const tabs = `[...document.querySelectorAll('mastflag-notice')].map(h => ` +
	`h.shadowRoot.querySelector('.tab')?.textContent).filter(Boolean)`

// Two actions, a button with words that closes, and a longer message that opens as a dialog,
// from anywhere on the bar.
func TestWaysOutAndOn(t *testing.T) {
	w := newWorld(t)
	w.only(
		bar("two", "Sales have begun.", func(n *bundle.Notice) {
			n.Content.Wordings["en"] = bundle.Wording{
				Headline: "Winter fares",
				Message:  "Sales have begun.",
				Link:     &bundle.Link{Href: "/fares", Label: "See the fares"},
				Second:   &bundle.Link{Href: "/book", Label: "Book", As: "link"},
			}
			n.Memory.CloseWith = bundle.Button
		}),
		bar("long", "Works at the quay.", atBottom, func(n *bundle.Notice) {
			n.Content.DetailsAs, n.Content.DetailsBy = bundle.Dialog, bundle.ByPress
			n.Content.Wordings["en"] = bundle.Wording{
				Message: "Works at the quay.",
				Details: "<h2>Until March</h2><p>Use the north ramp.</p><p><a href=\"/ports\">Ports</a></p>",
			}
		}),
	)
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/timetables")
	v.shows("Winter faresSales have begun.", "Works at the quay.")
	assert.Empty(t, v.axe())
	assert.Equal(t, "Announcement: Winter fares", ask[string](v, part("two", ".bar")+".getAttribute('aria-label')"))

	// The dialog: the page behind is out of reach, Escape closes it alone, the focus comes back.
	open := part("long", "dialog") + "?.open === "
	v.inNotice("long", ".words")
	v.until(open + "true")
	assert.Empty(t, v.axe())
	assert.True(
		t,
		ask[bool](v, part("long", "dialog")+".matches(':modal') && document.activeElement.dataset.id === 'long'"),
	)
	v.key(kb.Escape)
	v.until(open + "false")
	v.shows("Winter faresSales have begun.", "Works at the quay.")
	ask[bool](v, part("long", "button[data-act=more]")+".focus() || true")
	v.key(kb.Enter)
	v.until(open + "true")
	v.inNotice("long", "dialog > button")
	v.until(open + "false")
	assert.Equal(t, "more", ask[string](
		v, "document.activeElement.shadowRoot.activeElement.dataset.act",
	), "the focus is back where it was")
	v.inNotice("long", ".words")
	v.until(open + "true")
	v.at("[4, 400]") // beside the dialog
	v.until(open + "false")
	v.shows("Winter faresSales have begun.", "Works at the quay.")

	// Both actions lead on.
	v.inNotice("two", ".link")
	v.until("location.pathname === '/book'")
	v.shows("Winter faresSales have begun.", "Works at the quay.")
	v.inNotice("two", "a.button")
	v.until("location.pathname === '/fares'")
	v.shows("Winter faresSales have begun.", "Works at the quay.")

	// Closed by its button; there is no cross.
	assert.False(t, ask[bool](v, "!!("+part("two", ".close")+")"))
	assert.Equal(t, "Close", ask[string](v, part("two", "button[data-act=close]")+".textContent"))
	v.inNotice("two", "button[data-act=close]")
	v.shows("Works at the quay.")
	v.unharmed()
}

// Folded away, a notice leaves a tab that opens it again, by keyboard too; that is remembered,
// and a preview remembers nothing.
func TestFoldedAway(t *testing.T) {
	w := newWorld(t)
	foldable := func(n *bundle.Notice) { n.Memory.Foldable = true }
	w.only(
		bar("top", "Works at the quay until March.", foldable),
		bar("card", "A word from the office.", foldable, func(n *bundle.Notice) { n.Slot = bundle.CornerEnd }),
		bar("middle", "Before you go on.", foldable, func(n *bundle.Notice) {
			n.Slot = bundle.Centre
			off := false
			n.Memory.Closable = &off
		}),
	)
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/timetables")
	v.shows("Works at the quay until March.", "Before you go on.", "A word from the office.")
	assert.Empty(t, v.axe())

	// In the middle it holds the page; folded away it does not, and the dark behind it is gone.
	v.key(kb.Escape) // it cannot be closed: it folds
	v.until("JSON.stringify(" + tabs + ") === '[\"Before you go on.\"]'")
	v.until("!document.body.inert && getComputedStyle(document.querySelector('mastflag-centre')).display === 'none'")

	v.inNotice("top", ".fold")
	v.until(tabs + ".length === 2")
	v.until(
		"document.querySelector('mastflag-bars')?.offsetHeight === 0 || " + part("top", ".bar") + ".offsetHeight === 0",
	)
	assert.Equal(t, "Show again: Works at the quay until March.", ask[string](
		v, "document.activeElement.shadowRoot.activeElement.getAttribute('aria-label')",
	), "the focus goes to the tab")
	v.inNotice("card", ".fold")
	v.until(tabs + ".length === 3")
	assert.Empty(t, v.axe())

	// It stays so on other pages, and takes no room there.
	v.open(w.site + "/fares")
	v.until(tabs + ".length === 3")
	assert.Zero(t, ask[int](v, part("top", ".bar")+".offsetHeight"))
	for _, width := range []int64{390, 320} {
		v.size(width, 800)
		v.drawn()
		assert.LessOrEqual(t, ask[int64](v, "document.documentElement.scrollWidth"), width)
	}
	v.size(1280, 800)

	// By keyboard it comes back, and the focus with it.
	ask[bool](v, "[...document.querySelectorAll('mastflag-notice')].find(h => "+
		"h.shadowRoot.querySelector('.tab')?.textContent.startsWith('Works')).shadowRoot.querySelector('.tab').focus() "+
		"|| true")
	v.key(kb.Enter)
	v.until(tabs + ".length === 2 && " + part("top", ".bar") + ".offsetHeight > 40")
	assert.Equal(t, "top", ask[string](v, "document.activeElement.dataset.id"))
	v.open(w.site + "/timetables")
	v.until(tabs + ".length === 2 && " + part("top", ".bar") + ".offsetHeight > 40")

	// Closed, it is gone; and there is no tab of it.
	v.inNotice("top", "[data-act=close]")
	v.until("!document.querySelector('mastflag-notice[data-id=top]') && " + tabs + ".length === 2")
	v.unharmed()
}

// A theme is changed once, and seen on all notices that have it; a look of one's own goes
// before it.
func TestThemes(t *testing.T) {
	w := newWorld(t)
	w.changeSite(func(s *bundle.Site) {
		s.Themes = []bundle.Theme{{Name: "Winter", Look: bundle.Look{
			Background: "#14324d",
			Buttons:    &bundle.Buttons{Background: "#f2d49b"},
		}}}
	})
	winter := func(n *bundle.Notice) {
		n.Look = &bundle.Look{Theme: "Winter"}
		n.Content.Wordings["en"] = bundle.Wording{
			Message: n.Content.Wordings["en"].Message, Link: &bundle.Link{Href: "/fares", Label: "Fares"},
		}
	}
	w.only(
		bar("one", "The first.", winter),
		bar("two", "The second.", winter, atBottom),
		bar("three", "The third.", winter, func(n *bundle.Notice) { n.Slot = bundle.CornerEnd }),
		bar("own", "A field of its own.", winter, func(n *bundle.Notice) {
			n.Slot, n.Look.Background = bundle.CornerStart, "#f7f3e8"
		}),
	)
	ids := []string{"one", "two", "three", "own"}
	colours := func(p *tab) string {
		var all []string
		for _, id := range ids {
			all = append(all, ask[string](p, "(e => e && [getComputedStyle(e).backgroundColor, getComputedStyle("+
				part(id, ".button")+").backgroundColor].join(' '))("+part(id, ".bar")+") ?? ''"))
		}
		return strings.Join(all, "\n")
	}
	v := person(t)
	v.open(w.site + "/timetables")
	v.until("document.querySelectorAll('mastflag-notice[data-id]').length === 4")
	same := "rgb(20, 50, 77) rgb(242, 212, 155)"
	assert.Equal(t, strings.Join([]string{same, same, same, "rgb(247, 243, 232) rgb(242, 212, 155)"}, "\n"), colours(v))
	assert.Empty(t, v.axe())

	// Changed once, in the Library.
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/library")
	ines.has("on “one”, “own”, “three”, “two”")
	ines.press("Change Winter")
	ines.until("document.querySelector('[data-theme=Winter] form')")
	ask[bool](ines, `(e => { e.value = '#2c5a3b'; return e.dispatchEvent(new Event('input', { bubbles: true })) })`+
		`(document.querySelector('[data-theme=Winter] [aria-label="Field: any colour"]'))`)
	ines.press("Save")
	ines.has("Changed on 4 notices, for visitors too.")
	assert.Empty(t, ines.axe())
	v.open(w.site + "/timetables")
	v.until("document.querySelectorAll('mastflag-notice[data-id]').length === 4")
	same = "rgb(44, 90, 59) rgb(242, 212, 155)"
	assert.Equal(t, strings.Join([]string{same, same, same, "rgb(247, 243, 232) rgb(242, 212, 155)"}, "\n"), colours(v))

	// One made of the site's colours at a press; another kept from a notice's own look.
	ines.press("Keep the theme Buoy red")
	ines.has("“Buoy red” is a theme now.")
	ines.open(w.address + "/sundrey/notices/own")
	ines.has("and looks of its own besides")
	ines.press("Keep this look as a theme")
	ines.fill("Name of the theme", "Winter")
	ines.press("Keep")
	ines.has("a second theme is called \"Winter\"")
	ines.fill("Name of the theme", "Sail")
	ines.press("Keep")
	ines.has("The theme is kept.")
	s, err := w.server.Store.Site(t.Context(), demo.Key)
	require.NoError(t, err)
	kept, ok := s.Theme("Sail")
	require.True(t, ok)
	assert.Equal(t, "#f7f3e8", kept.Look.Background)
	ines.until("!document.body.innerText.includes('looks of its own')")
}

// Every look is whole and readable at the widths of a phone and of a desk, from right to left,
// in the dark, and with long words; and moves the page no more than a plain bar.
func TestLooks(t *testing.T) {
	w := newWorld(t)
	w.speaks("ar")
	upload, err := w.server.Store.Images(t.Context(), demo.Key)
	require.NoError(t, err)
	require.NotEmpty(t, upload, "the demo has a picture")
	picture := func(place bundle.PicturePlace) *bundle.Picture {
		return &bundle.Picture{
			Image:      upload[0].Image,
			Place:      place,
			Decorative: true,
			Focus:      &bundle.FocalPoint{X: 20, Y: 80},
		}
	}
	words := map[string]bundle.Wording{
		"en": {Headline: "Winter fares", Message: "Sales have begun.", Link: &bundle.Link{Href: "/book", Label: "Book"},
			Second: &bundle.Link{Href: "/offers", Label: "Offers"}},
		"de": {Headline: "Verkehrsinfrastrukturmaßnahmen", Message: "Donaudampfschifffahrtsgesellschaftskapitänsmützen " +
			"sind im Rindfleischetikettierungsüberwachungsaufgabenübertragungsgesetz erwähnt.",
			Link:   &bundle.Link{Href: "/book", Label: "Geschwindigkeitsbegrenzungsbestimmungen"},
			Second: &bundle.Link{Href: "/offers", Label: "Angebote"}},
		"ar": {Headline: "أسعار الشتاء", Message: "بدأ البيع.", Link: &bundle.Link{Href: "/book", Label: "احجز"},
			Second: &bundle.Link{Href: "/offers", Label: "العروض"}},
	}
	look := bundle.Look{
		Background: "#f2d49b", Dark: &bundle.Pair{Background: "#14324d"}, Size: "large", Align: bundle.AlignEnd,
		Headline: &bundle.TextLook{Size: 30}, Icon: "ship", IconColour: "#9a5b00",
		Buttons: &bundle.Buttons{Background: "#14324d", Shape: bundle.Round},
		Border:  &bundle.Border{Width: 4, Colour: "#a3241f"},
	}
	at := 0
	for _, slot := range []bundle.Slot{bundle.Top, bundle.Bottom, bundle.CornerEnd, bundle.Centre} {
		for _, place := range []bundle.PicturePlace{
			bundle.PictureStart, bundle.PictureEnd, bundle.PictureAbove, bundle.PictureBehind,
		} {
			w.only(bar("n", "", func(n *bundle.Notice) {
				n.ID = fmt.Sprintf("n%d", at)
				n.Slot, n.Look, n.Memory.Foldable = slot, &look, true
				n.Content.Wordings, n.Content.Picture = words, picture(place)
			}))
			id, name := fmt.Sprintf("n%d", at), fmt.Sprintf("%s, picture %s", slot, place)
			at++
			v := person(t)
			for path, dark := range map[string]string{"/timetables": "light", "/ar/fares": "dark", "/de/timetables": "light"} {
				v.media("screen", &emulation.MediaFeature{Name: "prefers-color-scheme", Value: dark})
				for _, width := range []int64{1280, 390, 320} {
					v.size(width, 800)
					v.open(w.site + path)
					v.until(part(id, ".headline"))
					v.drawn()
					assert.Empty(t, ask[string](v, whole(id)), "%s at %d on %s", name, width, path)
					assert.LessOrEqual(t, ask[int64](v, "document.documentElement.scrollWidth"), width, "%s on %s", name, path)
				}
				if path == "/timetables" {
					assert.Empty(t, v.axe(), "%s on %s", name, path)
				}
			}
		}
	}
}

// whole says which part of a notice stands out of it, or of the window, "" if none does.
func whole(id string) string {
	return `(root => { const bar = root.querySelector('.bar').getBoundingClientRect()
	for (const e of root.querySelectorAll('.words, .headline, .button, .link, .close, .icon')) {
		const r = e.getBoundingClientRect()
		if (r.left < bar.left - 1 || r.right > bar.right + 1 || r.top < bar.top - 1 || ` +
		`r.bottom > bar.bottom + 1 || r.width < 8)
			return e.className + ' ' + JSON.stringify([r.toJSON(), bar.toJSON()])
		for (const o of root.querySelectorAll('.words, .button, .link, .close')) {
			const s = o.getBoundingClientRect()
			if (e !== o && !e.contains(o) && !o.contains(e) && r.left < s.right - 1 && s.left < r.right - 1 && ` +
		`r.top < s.bottom - 1 && s.top < r.bottom - 1) return e.className + ' lies over ' + o.className
		}
	}
	return '' })(document.querySelector('mastflag-notice[data-id=` + id + `]').shadowRoot)`
}

// A visitor's own number goes on from page to page.
func TestAVisitorsOwnNumber(t *testing.T) {
	w := newWorld(t)
	three := 3
	w.only(bar("left", "<p>Places left: {countdown}</p>", func(n *bundle.Notice) {
		n.Content.Countdown = &countdown.Countdown{Kind: countdown.Visitor, For: "PT20M", From: 23, To: &three}
	}))
	number := part("left", ".count b") + "?.textContent"
	v := person(t)
	v.open(w.site + "/timetables")
	v.until(number + " === '23'")
	w.clock.Set(w.clock.Now().Add(450 * 1e9)) // seven and a half of twenty minutes
	v.open(w.site + "/fares")
	v.until(number + " === '16'")
	w.clock.Set(w.clock.Now().Add(1800 * 1e9))
	v.open(w.site + "/book")
	v.until(number + " === '3'")
}

// Every word that a visitor reads of a consent notice is the site's or the notice's own in
// Spanish, which the program does not speak: none is left in English, and a draft that nobody
// has read is not delivered.
func TestConsentInOwnWords(t *testing.T) {
	w := newWorld(t)
	w.changeSite(func(s *bundle.Site) {
		s.Consent.Purposes = []consent.Purpose{{ID: "measurement"}, {ID: "marketing"}}
		s.Consent.Inventory = []consent.Item{{Kind: consent.Cookie, Name: "a", Purpose: "measurement", Lasts: "session"}}
	})
	w.speaks("es")
	set := func(state bool, words phrase.Own) {
		w.rewrite(func(n *bundle.Notice) {
			n.Content.Consent = &consent.Question{}
			n.Content.Wordings["es"] = bundle.Wording{
				Headline: "Privacidad",
				Message:  "<p>¿Podemos contar las visitas?</p>",
				Words:    words,
				Unread:   state,
			}
		})
	}
	own := phrase.Draft("es")
	for _, r := range phrase.Table {
		if r.Use != phrase.Asking && r.Use != phrase.Everywhere {
			delete(own, r.Key)
		}
	}
	own[phrase.Accept] = "Sí, a todo"
	question := "document.querySelector('mastflag-notice[data-id=privacy]')?.shadowRoot"

	// Unread: nobody gets it, not the message and not the buttons.
	set(true, own)
	v := person(t)
	v.open(w.site + "/es/fares")
	v.until(question + "?.querySelector('[data-act=accept]')?.textContent === 'Accept all'")
	assert.NotContains(t, ask[string](v, question+".textContent"), "Podemos")

	// Read: purposes, which notices do not say, are the site's; as long as nobody has read those they are English.
	set(false, own)
	purposes := phrase.DraftFor("es", phrase.Purposes)
	w.changeSite(func(s *bundle.Site) { s.Words = map[string]phrase.PhraseSet{"es": {Words: purposes, Unread: true}} })
	v = person(t)
	v.open(w.site + "/es/fares")
	v.until(question + "?.querySelector('[data-act=accept]')?.textContent === 'Sí, a todo'")
	assert.Contains(t, ask[string](v, question+".textContent"), "Audience measurement")
	w.changeSite(func(s *bundle.Site) { s.Words = map[string]phrase.PhraseSet{"es": {Words: purposes}} })
	v = person(t)
	v.before(`addEventListener('DOMContentLoaded', () => { const f = document.createElement('iframe');
		f.dataset.purpose = 'marketing'; f.dataset.src = 'https://films.example/1'; document.body.append(f) })`)
	v.open(w.site + "/es/fares")
	v.until(question + "?.querySelector('[data-act=accept]')?.textContent === 'Sí, a todo'")
	v.inAsk("[data-act=choose]")
	said := ask[string](v, question+`.querySelector('.bar').outerHTML.replace(/<svg.*?<\/svg>/gs, '')`)
	for _, r := range phrase.Table {
		english := phrase.In("en")[r.Key]
		if r.Use == phrase.Asking || r.Use == phrase.Purposes {
			assert.NotContains(t, said, ">"+english+"<", r.Key)
		}
	}
	assert.Contains(t, said, "Medición de audiencia")
	v.until(
		"[...document.querySelectorAll('mastflag-notice')].some(h => h.shadowRoot.querySelector('.gap p')?.textContent === " +
			"'Esta parte viene de films.example y necesita su consentimiento para: Marketing.')",
	)
	v.inAsk("[data-act=accept]")
	v.until("[...document.querySelectorAll('mastflag-notice')].some(h => " +
		"h.shadowRoot.querySelector('.again')?.textContent === 'Opciones de privacidad')")
	assert.Equal(t, "es", w.told(1).Language)

	// In the interface: the finding, its draft at a press, read, and gone.
	w.changeSite(func(s *bundle.Site) { s.Words = nil })
	set(false, nil)
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/now")
	const all = "[...document.querySelectorAll('.needs button')].find(b => b.textContent.startsWith('Show all'))"
	ines.until(all)
	ask[bool](ines, all+".click() || true")
	ines.has("Visitors who read Spanish get “Accept all” on “Privacy choices”, in English.")
	ines.press("Read the draft that is ready, or write the words, in Site, Words.")
	ines.press("Spanish a draft is ready")
	ines.has("The program does not speak Spanish.")
	ines.press("Show me the draft")
	ines.has("Nobody has read this draft yet.")
	assert.Empty(t, ines.axe())
	ines.fill("agrees to all, Spanish", "<b>Todo</b>")
	ines.press("I have read it")
	ines.has("it holds HTML, which would be shown as it is written")
	ines.fill("agrees to all, Spanish", "Acepto todo")
	ines.press("I have read it")
	ines.has("Visitors who read Spanish get these words now.")
	v = person(t)
	v.open(w.site + "/es/fares")
	v.until(question + "?.querySelector('[data-act=accept]')?.textContent === 'Acepto todo'")

	// In the notice, beside its text, for a translator too.
	ines.open(w.address + "/sundrey/notices/privacy?language=es")
	ines.until("document.querySelector('[aria-label=\"Headline in Spanish\"]')?.value === 'Privacidad'")
	ask[bool](ines, "[...document.querySelectorAll('.wording details')].at(-1).open = true")
	ines.fill("refuses all, Spanish", "No, gracias")
	require.Eventually(t, func() bool {
		n, err := w.server.Store.Notice(t.Context(), demo.Key, "privacy")
		return err == nil && n.Draft != nil && n.Draft.Wordings()["es"].Words[phrase.Reject] == "No, gracias"
	}, patience, patience/500)
	file := ask[string](
		ines,
		"fetch('/api/sites/sundrey/xliff?language=es&notice=privacy').then(r => r.json()).then(r => r.text)",
	)
	assert.Contains(t, file, `<unit id="words.reject">`)
	assert.Contains(t, file, "<target>No, gracias</target>")
}

// What a site says of itself is written once: a starting point uses it, and where it is empty
// that is found. A site's own starting points keep their rules, and other sites have those
// that are shared; rules are taken whole from another notice, or from a set.
func TestBegunWithWhatIsKept(t *testing.T) {
	w := newWorld(t)
	w.only(bar("first", "The first.", func(n *bundle.Notice) {
		n.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.Section, Path: "/ports"}}}
		n.Audience = &audience.Node{Fact: "visits.number", Is: audience.Gte, Value: 2.0}
		n.Memory = &bundle.Memory{HideAfterClose: "P3D", Foldable: true}
	}))
	ines := person(t)
	w.signIn(ines)

	// With its fill-ins it is right as it comes; without them it is not, and says so.
	begin := func(name string) {
		ines.press("New notice")
		ines.fill("What do you want to do?", name)
		ines.until("document.querySelectorAll('.starting-menu li').length === 1")
		ines.key(kb.Enter)
		ines.until("location.pathname.includes('/notices/') && document.querySelector('.tiptap')")
	}
	ines.open(w.address + "/sundrey/now")
	begin("Fraud")
	ines.has("No problems found.")
	ines.press("Publish")
	ines.has("Published.")
	v := person(t)
	v.open(w.site + "/fares")
	v.until(part("fraud-in-our-name", "a[href=\"tel:+441632960100\"]") + "?.textContent === '+44 1632 960100'")
	ines.open(w.address + "/sundrey/site/about")
	ines.until("document.querySelector('input[type=tel]')?.value === '+44 1632 960100'")
	ask[bool](ines, "(e => { e.value = 'call us'; return e.dispatchEvent(new Event('input', { bubbles: true })) })"+
		"(document.querySelector('input[type=tel]'))")
	ines.press("Save")
	ines.has("is not a telephone number")
	ask[bool](ines, "(e => { e.value = ''; return e.dispatchEvent(new Event('input', { bubbles: true })) })"+
		"(document.querySelector('input[type=tel]'))")
	ines.press("Save")
	ines.has("Saved.")
	ines.open(w.address + "/sundrey/notices/fraud-in-our-name")
	ines.has("is to say the site’s telephone number, and the site has none.")

	// Kept as a starting point, with its rules, and shared.
	ines.open(w.address + "/sundrey/notices/first")
	ines.press("More commands")
	ines.press("Save as starting point")
	ines.has("“first” is a starting point now")
	ines.open(w.address + "/sundrey/library")
	ines.press("first: for the other sites too")
	ines.has("The other sites have “first” too now.")
	ines.open(w.address + "/harbour-trust/now")
	ines.press("New notice")
	ines.fill("What do you want to do?", "first")
	ines.has("Shared by Sundrey Isles Ferries.")
	ines.key(kb.Enter)
	ines.has("the pages under /ports")
	n, err := w.server.Store.Notice(t.Context(), demo.HarbourKey, "first")
	require.NoError(t, err)
	assert.Equal(t, "P3D", string(n.Draft.GetMemory().HideAfterClose))
	assert.NotNil(t, n.Draft.Audience)

	// Rules of another notice, but for whom.
	ines.open(w.address + "/sundrey/now")
	ines.begin()
	ines.press("Take the rules of…")
	choose := func(name string) {
		ines.choose("The rules of", name)
		ines.until("document.querySelector('.rules .el-checkbox')")
	}
	choose("first")
	ines.press("for whom")
	assert.Empty(t, ines.axe())
	ines.press("Take them")
	ines.has("closed, it stays away for 3 days; it can be folded away")
	ines.has("to everyone")
	ines.press("Take the rules of…")
	ines.fill("Name for these rules", "Ports")
	ines.press("Keep")
	ines.has("These rules can be given to every notice now.")
	ines.open(w.address + "/sundrey/notices/fraud-in-our-name")
	ines.press("Take the rules of…")
	choose("Ports")
	ines.press("Take them")
	ines.has("the pages under /ports")
	ines.open(w.address + "/sundrey/library")
	ines.has("Ports rules")
}
