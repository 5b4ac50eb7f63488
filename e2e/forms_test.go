package e2e

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/form"
	"mastflag/internal/demo"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// popUp is a pop-up on every page.
func popUp(id string, slot bundle.Slot, alter ...func(*bundle.Notice)) bundle.Notice {
	return bar(id, "<p>Hello.</p>", append([]func(*bundle.Notice){func(n *bundle.Notice) {
		n.Kind, n.Slot = bundle.KindPopUp, slot
	}}, alter...)...)
}

// asking gives a notice fields and a button that sends them.
func asking(fields ...form.NamedField) func(*bundle.Notice) {
	return func(n *bundle.Notice) {
		words := map[string]bundle.PartWords{"send": {Heading: "Send", Text: "<p>Thank you.</p>"}}
		var parts []bundle.Part
		for _, f := range fields {
			parts = append(parts, bundle.Part{ID: f.ID, Kind: bundle.PartField, Field: &f.Field})
			w := bundle.PartWords{Heading: "Your " + f.ID}
			for _, o := range f.Options {
				w.Answers = append(w.Answers, "Option "+o)
			}
			if f.Kind == form.Agreement {
				w.Text = "<p>Write to me.</p>"
			}
			words[f.ID] = w
		}
		parts = append(parts, bundle.Part{ID: "send", Kind: bundle.PartSend})
		n.Content.Rows = []bundle.Row{{Columns: []bundle.Column{{Parts: parts}}}}
		w := n.Content.Wordings["en"]
		w.Parts = words
		n.Content.Wordings["en"] = w
	}
}

// contacts are what was filled in on the demo's site, the latest first.
func (w *world) contacts() []form.Contact {
	w.t.Helper()
	list, err := w.server.Store.Contacts(w.t.Context(), demo.Key, store.ContactFilter{})
	require.NoError(w.t, err)
	return list
}

// later moves the clock on by some seconds.
func (w *world) later(seconds int) {
	w.clock.Set(w.clock.Now().Add(time.Duration(seconds) * time.Second))
}

// A form with every kind of field: by keyboard alone, wrong and then right, its answer lost on
// the way and sent once more, kept once, confirmed by its letter and passed on.
func TestFormOfAVisitor(t *testing.T) {
	w := newWorld(t)
	seeded := len(w.contacts())
	least := 1.0
	w.only(popUp("ask", bundle.CornerEnd, asking(
		form.NamedField{ID: "mail", Field: form.Field{Kind: form.Email, Required: true}},
		form.NamedField{ID: "call", Field: form.Field{Kind: form.Telephone, Country: "GB"}},
		form.NamedField{ID: "say", Field: form.Field{Kind: form.Long}},
		form.NamedField{ID: "which", Field: form.Field{Kind: form.Choice, Required: true, Options: []string{"a", "b"}}},
		form.NamedField{ID: "any", Field: form.Field{Kind: form.Choices, Options: []string{"c", "d"}}},
		form.NamedField{ID: "many", Field: form.Field{Kind: form.Number, Min: &least}},
		form.NamedField{ID: "day", Field: form.Field{Kind: form.Date}},
		form.NamedField{ID: "agree", Field: form.Field{Kind: form.Agreement, Required: true}},
		form.NamedField{ID: "from", Field: form.Field{Kind: form.Hidden, Fact: "utm.source"}},
	), func(n *bundle.Notice) {
		n.Content.Form = &form.Form{Confirm: "mail", PassOn: []form.Receiver{{
			Address: w.address + standin.ReceiverPath + "/" + demo.Key,
		}}}
		n.Memory.HideAfterAnswer = bundle.PeriodEver
	}))
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/fares?utm_source=poster")
	v.until(part("ask", "form"))
	assert.Empty(t, v.axe())
	field := func(name string) string { return part("ask", "[name="+name+"]") }
	assert.Equal(
		t,
		"email tel off off",
		ask[string](v, fmt.Sprintf("[%s, %s, %s, %s].map(e => e.autocomplete).join(' ')",
			field("mail"), field("call"), field("say"), field("many"))),
	)
	assert.Equal(t, "email tel number date", ask[string](v, fmt.Sprintf("[%s, %s, %s, %s].map(e => e.type).join(' ')",
		field("mail"), field("call"), field("many"), field("day"))))
	assert.False(t, ask[bool](v, field("agree")+".checked"), "never ticked beforehand")

	// Nothing filled in, then something wrong: said beside the field, which gets the focus.
	said := func(name string) string { return ask[string](v, part("ask", "#w-"+name)+".textContent") }
	v.inNotice("ask", "[type=submit]")
	v.until(part("ask", "#w-mail") + ".textContent")
	assert.Equal(t, "Please fill this in.", said("mail"))
	assert.Equal(t, "Please choose one of these.", said("which"))
	assert.Equal(t, "Please tick this.", said("agree"))
	assert.Equal(t, "mail", ask[string](v, "document.activeElement.shadowRoot.activeElement.name"))
	assert.Empty(t, v.axe())
	v.key("ada at home" + kb.Tab)
	v.until(part("ask", "#w-mail") + ".textContent.startsWith('Please give an e-mail')")

	// By keyboard, in the order in which it is read.
	ask[bool](v, "("+field("mail")+".select(), "+field("mail")+".focus(), true)")
	v.key(
		"ada@visitor.example" + kb.Tab + "01632 960199" + kb.Tab + "One" + kb.Enter + "Two" + kb.Tab + " " + kb.Tab + " " +
			kb.Tab + kb.Tab + "3" + kb.Tab,
	)
	ask[bool](v, "(Object.assign("+field("day")+", { value: '2026-12-24' }), "+field("agree")+".focus(), true)")
	v.key(" ")
	v.until(field("agree") + ".checked && " + field("which") + ".checked")
	assert.Empty(t, said("mail"))
	w.calm(v)
	w.later(3)
	w.lost.Store(100) // browsers try again by themselves
	ask[bool](v, "("+part("ask", "[type=submit]")+".focus(), true)")
	v.key(kb.Enter)
	v.until(part("ask", ".told") + ".textContent.startsWith('It could not be sent')")
	assert.Equal(t, "ada@visitor.example", ask[string](v, field("mail")+".value"), "nothing that was typed is lost")
	require.Len(t, w.contacts(), seeded+1, "it had arrived all the same")
	w.lost.Store(0)
	w.calm(v)
	w.later(3)
	v.key(kb.Enter)
	v.until("!" + part("ask", ".sent") + ".hidden")
	assert.Equal(
		t,
		"Thank you.We have written to ada@visitor.example. Please open that letter and confirm your address.",
		ask[string](v, part("ask", ".sent")+".textContent"),
	)
	assert.True(t, ask[bool](v, "document.activeElement.shadowRoot.activeElement === "+part("ask", ".sent")))
	assert.Empty(t, v.axe())
	list := w.contacts()
	require.Len(t, list, seeded+1, "and was kept once")
	got := map[string]string{}
	for _, a := range list[0].Answers {
		got[a.Field] = strings.Join(a.Values, "+")
	}
	assert.Equal(t, map[string]string{
		"mail": "ada@visitor.example", "call": "+441632960199", "say": "One\nTwo", "which": "a", "any": "c", "many": "3",
		"day": "2026-12-24", "agree": "yes", "from": "poster",
	}, got)
	// It does not come back to whoever has sent it.
	v.open(w.site + "/ports")
	v.settled()
	w.calm(v)
	assert.True(t, ask[bool](v, "!"+part("ask", "form")))

	// The letter: its link asks, a press confirms; then the stand-in receiver has it, signed.
	require.NoError(t, w.server.Carrier.Carry(t.Context()))
	p := person(t)
	w.giveSession(p)
	p.open(w.address + "/sundrey/site/mailbox")
	p.has("please confirm your address")
	p.press("Sundrey Isles Ferries: please confirm your address to ada@visitor.example, Fri 4 Dec 12:00")
	link := ask[string](p, "[...document.querySelectorAll('pre a')].map(a => a.href).find(h => h.includes('/forms/'))")
	v.open(link)
	v.has("Is this address yours")
	assert.Empty(t, v.axe())
	v.press("Yes, confirm it")
	v.has("Your address is confirmed")
	require.NoError(t, w.server.Carrier.Carry(t.Context()))

	// In Results: found, read, and erased.
	p.open(w.address + "/sundrey/results")
	p.has("ada@visitor.example")
	assert.Empty(t, p.axe())
	p.fill("Find", "two")
	p.until("document.querySelectorAll('.contacts > li').length === 1")
	p.at("(r => [r.x + 100, r.y + r.height / 2])(document.querySelector('.contacts summary').getBoundingClientRect())")
	p.has("Option a")
	p.has("Agreed to")
	p.has("Write to me.")
	p.has("arrived")
	assert.Empty(t, p.axe())
	p.press("Passing contacts on to another program")
	p.has("the signature holds")
	p.press("Erase")
	p.press("Erase it for good")
	p.has("Nothing like that was filled in.")
	require.Len(t, w.contacts(), seeded)
}

// A page loads of the script what its notices need, and nothing else.
func TestPartsAreLoadedWhereTheyAreNeeded(t *testing.T) {
	w := newWorld(t)
	v := person(t)
	loaded := func(page string, notices ...bundle.Notice) string {
		w.only(notices...)
		v.open(w.site + page)
		v.until("document.querySelector('mastflag-notice')")
		w.calm(v)
		return ask[string](
			v,
			"[...new Set(performance.getEntriesByType('resource').map(e => /\\/a\\/([a-z]+)\\./.exec(e.name)?.[1]))]"+
				".filter(Boolean).sort().join(' ')",
		)
	}
	assert.Equal(t, "edges results site", loaded("/fares", bar("b", "Hello.")))
	assert.Equal(t, "popup results site", loaded("/ports", popUp("p", bundle.CornerEnd)))
	assert.Equal(t, "form popup results site ways", loaded("/book", popUp("f", bundle.CornerEnd, asking(
		form.NamedField{ID: "say", Field: form.Field{Kind: form.Text}}))))
	assert.Equal(
		t,
		"edges results site ways",
		loaded("/offers", bar("m", "Hello.", func(n *bundle.Notice) { n.Memory.Foldable = true })),
	)
}

// E-mail addresses as the browser's own check sees them (HTML Standard, valid e-mail address).
func TestAddressesAsBrowsersSeeThem(t *testing.T) {
	p := person(t)
	p.open("about:blank")
	list := []string{
		"a@b", "a@b.c", "ada@visitor.example", "a.b+c@d-e.f", ".a@b", "a.@b", "a..b@c", "a@-b", "a@b-", "a@b..c", "a@b.",
		"@b",
		"a@", "a", "a b@c", "a@b c", "a@b@c", "\"a\"@b", "a@[127.0.0.1]", "a@127.0.0.1", "!#$%&'*+/=?^_`{|}~-@b",
		"a,b@c", "a<b@c",
		"a@" + strings.Repeat(
			"b",
			63,
		), "a@" + strings.Repeat("b", 64), "a@b_c", "a@b.c_d", "A@B.C", "a(b)@c", "a:b@c", "a@b.1",
	}
	raw, err := json.Marshal(list)
	require.NoError(t, err)
	seen := ask[[]bool](p, fmt.Sprintf(
		"(i => %s.map(a => (i.value = a, i.checkValidity())))("+
			"Object.assign(document.createElement('input'), { type: 'email' }))",
		raw,
	))
	for i, address := range list {
		assert.Equal(t, seen[i], form.IsEmail(address), address)
	}
}

// What stands over the page: the focus goes in, stays and comes back; a press outside, Escape and
// time close it; nothing behind can be reached; two that want the same moment come one after
// the other, the stronger first.
func TestPopUpsOverThePage(t *testing.T) {
	w := newWorld(t)
	dark := 30
	w.only(
		popUp("first", bundle.Centre, func(n *bundle.Notice) {
			n.Memory = &bundle.Memory{Closable: new(bool), CloseOutside: true}
			n.Look = &bundle.Look{Behind: &dark, MotionOut: bundle.Fade}
			n.Level = bundle.Warning
		}, asking(form.NamedField{ID: "mail", Field: form.Field{Kind: form.Email}})),
		popUp("second", bundle.Cover, func(n *bundle.Notice) { n.Memory = &bundle.Memory{CloseAfter: "PT20S"} }),
		popUp("corner", bundle.CornerStart, func(n *bundle.Notice) { n.Look = &bundle.Look{Motion: bundle.Slide} }),
	)
	v := person(t)
	noteErrors(v)
	for _, width := range []int64{1280, 320} {
		v.size(width, 700)
		v.open(w.site + "/fares")
		v.until(part("first", "form"))
		w.calm(v)
		assert.True(t, ask[bool](v, "document.body.inert && document.activeElement.dataset.id === 'first'"))
		assert.Equal(t, "mail", ask[string](v, "document.activeElement.shadowRoot.activeElement.name"), "its first field")
		assert.Equal(t, "rgba(0, 0, 0, 0.3)",
			ask[string](v, "getComputedStyle(document.querySelector('mastflag-centre')).backgroundColor"))
		assert.True(t, ask[bool](v, "document.documentElement.scrollWidth <= innerWidth"))
		assert.Empty(t, v.axe())
		for range 8 { // round and round, never out
			v.key(kb.Tab)
			assert.True(
				t,
				ask[bool](v, "[document.body, document.querySelector('mastflag-notice[data-id=first]')].includes("+
					"document.activeElement)"),
			)
		}
		// A press outside: by the mouse, and on the narrow one by a finger.
		if width > 500 {
			v.do(chromedp.MouseClickXY(8, 690))
		} else {
			v.tap(8, 690)
		}
		v.until(part("second", ".bar") + " && !" + part("first", ".bar"))
		w.calm(v)
		v.key(kb.Escape)
		v.until("!" + part("second", ".bar"))
		v.until("!document.body.inert")
		assert.True(t, ask[bool](v, "!!"+part("corner", ".bar")), "the page beside it can be used")
		ask[bool](v, "(localStorage.clear(), sessionStorage.clear(), true)")
	}
	// By itself, once nothing was done with it for 20 seconds, by the browser's clock.
	w.only(popUp("second", bundle.Cover, func(n *bundle.Notice) { n.Memory = &bundle.Memory{CloseAfter: "PT20S"} }))
	v.open(w.site + "/ports")
	v.until(part("second", ".bar"))
	w.calm(v)
	ask[bool](v, "(window.real = Date.now, Date.now = () => real() + 19000, true)")
	v.key(kb.Tab) // that is something: it counts anew
	ask[bool](v, "(Date.now = () => real() + 30000, true)")
	time.Sleep(1200 * time.Millisecond)
	assert.True(t, ask[bool](v, "!!"+part("second", ".bar")))
	ask[bool](v, "(Date.now = () => real() + 60000, true)")
	v.until("!" + part("second", ".bar"))
	// Less motion: it goes at once.
	v.media("", &emulation.MediaFeature{Name: "prefers-reduced-motion", Value: "reduce"})
	w.only(popUp("calm", bundle.Centre, func(n *bundle.Notice) {
		n.Look = &bundle.Look{Motion: bundle.Slide, MotionOut: bundle.Slide}
	}))
	v.open(w.site + "/ports")
	v.until(part("calm", ".bar"))
	assert.Equal(t, "none", ask[string](v, "getComputedStyle("+part("calm", ".bar")+").animationName"))
	v.key(kb.Escape)
	v.until("!document.querySelector('mastflag-notice')")
}

// What is pressed before the part of the script that takes it has arrived waits for it.
func TestPressedEarly(t *testing.T) {
	w := newWorld(t)
	w.late.Store(int64(1500 * time.Millisecond))
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/fares")
	v.inAsk("accept")
	assert.Equal(t, consent.Accepted, w.told(1).EventType)
	v.until("!" + asks)

	mail := form.NamedField{ID: "mail", Field: form.Field{Kind: form.Email, Required: true}}
	w.only(popUp("ask", bundle.CornerEnd, asking(mail)))
	v.open(w.site + "/fares")
	v.inNotice("ask", "[type=submit]")
	v.until(part("ask", "#w-mail") + ".textContent === 'Please fill this in.'")
	assert.Equal(t, w.site+"/fares", ask[string](v, "location.href"), "browsers send nothing by themselves")
}

// While the visitor is in another tab its titles take turns, with an icon; then the page's own are
// back exactly, also where the site has changed its title meanwhile.
func TestElsewhereInTheTab(t *testing.T) {
	w := newWorld(t)
	w.only(bar("tab", "<p>Still there?</p><p>We kept your place</p>", func(n *bundle.Notice) {
		n.Kind = bundle.KindTabTitle
		n.Content.Tab = &bundle.Tab{
			First: "PT1S",
			Gap:   "PT1S",
			Icon:  &bundle.TabIcon{Name: "ship", Field: "#123a56", Number: 2},
		}
	}))
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/book")
	v.settled()
	w.calm(v)
	ask[bool](
		v,
		`(document.head.insertAdjacentHTML('afterbegin', '<link rel="icon" href="/own.png" id="own"><meta id="next">'),
		window.hide = on => { Object.defineProperty(document, 'hidden', { value: on, configurable: true });
			document.dispatchEvent(new Event('visibilitychange', { bubbles: true })) }, true)`,
	)
	own, icons := ask[string](
		v,
		"document.title",
	), ask[float64](
		v,
		"document.querySelectorAll('link[rel=icon]').length",
	)
	assert.NotContains(t, own, "Still there?", "not while they are here")
	v.until("!!window.mastflag")
	ask[bool](v, "(hide(true), true)")
	v.until("document.title === 'Still there?'")
	icon := ask[string](v, "document.querySelector('link[rel=icon]').href")
	assert.Contains(t, icon, "/icon/ship.svg?field=123a56&number=2")
	assert.Equal(t, "image/svg+xml", ask[string](v, fmt.Sprintf(
		"new Promise(r => { const i = new Image(); i.onload = () => r('image/svg+xml'); "+
			"i.onerror = () => r('broken'); i.src = %q })",
		icon,
	)))
	v.until("document.title === 'We kept your place'")
	v.until("document.title === 'Still there?'")
	// The page counts messages meanwhile.
	ask[bool](v, "(document.title = '(1) "+own+"', true)")
	v.until("document.title !== '(1) " + own + "'")
	ask[bool](v, "(hide(false), true)")
	v.until("document.title === '(1) " + own + "'")
	assert.Equal(
		t,
		"own next",
		ask[string](v, "[document.head.children[0].id, document.head.children[1].id].join(' ')"),
	)
	assert.Equal(t, icons, ask[float64](v, "document.querySelectorAll('link[rel=icon]').length"))
}

// A film plays on a press, and by itself after the first act on the page on a desktop alone, with
// its captions; a frame of another host waits for its purpose; what is offered follows the
// opening hours by the site's clock.
func TestFilmsAndHours(t *testing.T) {
	w := newWorld(t)
	open := []bundle.Opening{{Days: []int{5}, From: "09:00", Until: "12:00"}}
	film := func(bySelf bool) func(*bundle.Notice) {
		return func(n *bundle.Notice) {
			n.Content.Rows = []bundle.Row{{Columns: []bundle.Column{{Parts: []bundle.Part{
				{ID: "film", Kind: bundle.PartVideo, Video: &bundle.Video{File: "/films/seals.webm", BySelf: bySelf}},
				{ID: "reach", Kind: bundle.PartContact, Buttons: true, Hours: open, Contact: []bundle.ContactLine{
					{By: "telephone", Value: "+44 1632 960 143", When: "open"},
					{
						By:    "mail",
						Value: "office@sundrey.example",
						When:  "closed",
					}, {By: "link", Value: "https://map.example/"},
				}},
			}}}}}
			n.Content.Wordings["en"] = bundle.Wording{Message: "Seals.", Parts: map[string]bundle.PartWords{
				"film":  {Heading: "Seals", Captions: "WEBVTT\n\n00:00.000 --> 00:03.000\nA seal.\n"},
				"reach": {Answers: []string{"Call us now", "Leave a message", "Map"}},
			}}
		}
	}
	w.only(popUp("seals", bundle.CornerEnd, film(true)))
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/tours")
	v.until(part("seals", ".play"))
	w.calm(v)
	assert.Empty(t, v.axe())
	offered := `[...document.querySelector('mastflag-notice[data-id=seals]').shadowRoot.querySelectorAll('.contact li')]` +
		`.filter(e => !e.hidden).map(e => e.textContent.trim()).join(', ')`
	v.until(offered + " === 'Leave a message, Map'") // noon on Friday: it has just closed
	assert.Equal(t, "mailto:office@sundrey.example", ask[string](v, part("seals", "[data-when=closed] a")+".href"))
	v.key("x") // the first act
	v.until(part("seals", "video") + "?.muted")
	v.until(part("seals", "video") + ".currentTime > 0")
	assert.Equal(t, "A seal.", ask[string](v, part("seals", "video")+".textTracks[0].cues[0].text"))
	assert.Equal(t, "Seals", ask[string](v, part("seals", "video")+".getAttribute('aria-label')"))

	w.clock.Set(start.Add(-time.Hour))
	v.size(390, 800) // a phone: not by itself, on a press with sound
	v.open(w.site + "/tours")
	v.until(offered + " === 'Call us now, Map'")
	v.key("x")
	w.calm(v)
	assert.True(t, ask[bool](v, "!!"+part("seals", ".play")))
	v.inNotice("seals", ".play")
	v.until(part("seals", "video") + " && !" + part("seals", "video") + ".muted")

	// A frame of another host.
	w.only(popUp("frame", bundle.CornerEnd, func(n *bundle.Notice) {
		n.Content.Rows = []bundle.Row{
			{Columns: []bundle.Column{{Parts: []bundle.Part{{ID: "film", Kind: bundle.PartVideo,
				Video: &bundle.Video{Frame: "https://films.example/embed/1", Purpose: "marketing"}}}}}},
		}
		n.Content.Wordings["en"] = bundle.Wording{Message: "Seals.", Parts: map[string]bundle.PartWords{
			"film": {Heading: "Seals", Text: "<p>Films come from another firm.</p>"},
		}}
	}))
	v.size(1280, 800)
	v.open(w.site + "/offers")
	v.inNotice("frame", ".play")
	v.until("!" + part("frame", ".held") + ".hidden")
	assert.Contains(t, ask[string](v, part("frame", ".held")+".textContent"), "Films come from another firm.")
	assert.True(t, ask[bool](v, "!"+part("frame", "iframe")), "nothing of it is loaded")
}

// A form from nothing: a pop-up is begun, fields are added and moved where they stand, and a
// visitor gets them.
func TestFormMadeInTheInterface(t *testing.T) {
	w := newWorld(t)
	p := person(t)
	w.signIn(p)
	p.press("New notice")
	p.fill("What do you want to do?", "subscribe")
	p.until("document.querySelectorAll('.starting-menu li').length === 1")
	p.key(kb.Enter)
	p.until("location.pathname.includes('/notices/') && document.querySelector('.block')")
	p.has("asks for “E-mail”")
	p.has("once the address is confirmed")
	assert.Empty(t, p.axe())
	p.press("Add a part to row 1, column 1")
	p.press("Field Something to fill in: an address, a number, a choice …")
	p.has("has to be filled in")
	ask[bool](p, "(window.placed = 0, addEventListener('message', e => (placed += e.data.mastflag === 'placed')), true)")
	p.fill("What the field is called, in English", "Your name")
	p.until(`document.querySelector('[aria-label="What is filled in"]')`)
	p.until("placed > 0")
	w.calm(p)
	assert.Equal(t, "What the field is called, in English",
		ask[string](p, "document.activeElement.ariaLabel ?? document.activeElement.localName"), "the draft takes no focus")
	id := strings.TrimPrefix(
		regexp.MustCompile(`notices/[^/?]+`).FindString(ask[string](p, "location.href")),
		"notices/",
	)
	p.until("document.querySelector('.order').innerText.includes('Your name')")
	w.calm(p)
	n, err := w.server.Store.Notice(t.Context(), demo.Key, id)
	require.NoError(t, err)
	fields := n.Working().FormFields()
	require.Len(t, fields, 3)
	assert.Equal(t, "Your name", n.Working().Wordings()["en"].Parts[fields[2].ID].Heading)
	assert.Equal(t, audience.Gte, n.Working().GetAudience().Is)
}
