package e2e

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/core/schedule"
	"mastflag/internal/demo"
	"mastflag/internal/store"
)

// decisions counts what someone has to decide on the way.
type decisions struct {
	*tab
	made  []string
	since time.Time
}

func (d *decisions) press(name string) {
	d.t.Helper()
	d.made = append(d.made, name)
	d.tab.press(name)
}

func (d *decisions) took(what string, most int) {
	d.t.Helper()
	d.t.Logf(
		"%s: %d decisions (%s), %.1f s by machine", what, len(d.made), strings.Join(d.made, "; "),
		time.Since(d.since).Seconds(),
	)
	assert.LessOrEqual(d.t, len(d.made), most, what)
	d.made, d.since = nil, time.Now()
}

// What people come for takes few decisions, from the door to the visitor.
func TestShortJourneys(t *testing.T) {
	w := newWorld(t)
	w.only()
	ines := &decisions{tab: person(t), since: time.Now()}
	w.signIn(ines.tab)

	// A plain bar on all pages, now, until Monday noon.
	ines.begin()
	ines.until("document.querySelector('.tiptap')")
	ines.do(chromedp.Click(chromedp.CSS(".tiptap")))
	ines.key("The office is closed.")
	ines.made = append(ines.made, "its words")
	ines.press("from when you publish it, with no end")
	ines.press("Until Monday noon")
	ines.has("until Mon 7 Dec 12:00")
	ines.press("Publish")
	ines.has("Published. It is up on 66 pages.")
	v := person(t)
	v.open(w.site + "/fares")
	v.shows("The office is closed.")
	ines.took("a plain bar until Monday noon, seen on the site", 6)

	// The same in German.
	ines.press("German, missing")
	ines.until("document.querySelector('.tiptap') && document.querySelector('[aria-label=\"Message in German\"]')")
	ines.do(chromedp.Click(chromedp.CSS(".tiptap")))
	ines.key("Das Büro ist geschlossen.")
	ines.made = append(ines.made, "its words")
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	ines.press("Publish the changes")
	ines.has("Published.")
	v.open(w.site + "/de/fares")
	v.shows("Das Büro ist geschlossen.")
	ines.took("a German version, seen on the site", 3)

	// Why do I not see it? From Now & next: the page, and why.
	w.only(bar("pier", "The pier is closed", func(n *bundle.Notice) {
		n.Pages.Exclude = []pages.Entry{{Match: pages.Page, Path: "/book"}}
	}))
	ines.open(w.address + "/sundrey/now")
	ines.has("pier")
	ines.made, ines.since = nil, time.Now()
	ines.at("(e => { const r = e.getBoundingClientRect(); return [r.x + 30, r.y + 10] " +
		"})(document.querySelector('.viewpoint .page'))")
	ines.key("/book" + kb.Enter)
	ines.made = append(ines.made, "the page /book")
	ines.has("It leaves out the page /book")
	ines.press("Why? pier")
	ines.has("It leaves out the page /book, so it is not on /book. P1")
	ines.took("why do I not see it", 2)

	// A starting point, right as it comes.
	w.only()
	ines.press("New notice")
	ines.has("Closed")
	ines.at("(e => { const r = e.getBoundingClientRect(); return [r.x + 20, r.y + 10] " +
		"})([...document.querySelectorAll('.starting-menu li')].find(l => l.textContent.includes('You are closed for a " +
		"day')))")
	ines.made = append(ines.made, "Closed")
	ines.has("until Sat 5 Dec 00:00")
	ines.press("Publish")
	ines.has("Published. It is up on 66 pages.")
	v.open(w.site + "/pl/book")
	v.shows("Dziś nieczynne. Jutro znów jesteśmy do dyspozycji.")
	ines.took("a starting point, seen on the site in Polish", 3)
}

// filePNG draws a file to upload.
func filePNG(t *testing.T) string {
	t.Helper()
	i := image.NewRGBA(image.Rect(0, 0, 64, 32))
	for x := range 64 {
		i.Set(x, 8, color.RGBA{200, 30, 30, 255})
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, i))
	path := filepath.Join(t.TempDir(), "pier.png")
	require.NoError(t, os.WriteFile(path, b.Bytes(), 0o600))
	return path
}

func (p *tab) upload(selector, path string) {
	p.t.Helper()
	p.until("document.querySelector('" + selector + "')")
	p.do(chromedp.SetUploadFiles(chromedp.CSS(selector), []string{path}))
}

// A look beyond colours, from the editor to the visitor: icon, picture with its
// alternative text, corners, motion, dark colours, style of its own.
func TestLookReachesTheVisitor(t *testing.T) {
	w := newWorld(t)
	w.only(bar("pier", "The pier is closed"))
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/notices/pier")
	ines.until("document.querySelector('.look summary')")
	ines.at("(e => { const r = e.getBoundingClientRect(); return [r.x + 60, r.y + 10] })(document.querySelector('.look " +
		"summary'))")
	ines.press("Choose an icon")
	ines.fill("Find an icon", "anchor")
	ines.until("document.querySelector('.icon-picker .grid button')?.ariaLabel === 'anchor'")
	ines.press("anchor")
	ines.press("Choose a picture")

	// What is no image is refused with its reason, and nothing is lost.
	bad := filepath.Join(t.TempDir(), "pier.png")
	require.NoError(t, os.WriteFile(bad, []byte("%PDF-1.7 not a picture"), 0o600))
	ines.upload(".picture-picker input[type=file]", bad)
	ines.has("“pier.png” is not an image that can be shown: its content looks like application/pdf.")
	ines.upload(".picture-picker input[type=file]", filePNG(t))
	ines.has("What the picture shows")
	ines.has("has no alternative text in English")
	ines.fill("What the picture shows, in English", "The pier")
	ines.press("round")
	ines.fill("Own style", ".words { letter-spacing: 3px }")
	ines.key(kb.Tab)
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	ines.press("Other colours where a visitor’s system is dark")
	ines.has("In the dark")
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	ines.press("Publish the changes")
	ines.has("Published.")

	v := person(t)
	v.open(w.site + "/fares")
	v.shows("The pier is closed")
	root := "document.querySelector('mastflag-notice').shadowRoot"
	v.until(root + ".querySelector('img')?.naturalWidth === 64")
	assert.Equal(t, "The pier", ask[string](v, root+".querySelector('img').alt"))
	assert.True(t, ask[bool](v, "!!"+root+".querySelector('svg.icon path')"))
	assert.Equal(t, "3px", ask[string](v, "getComputedStyle("+root+".querySelector('.words')).letterSpacing"))
	light := ask[string](v, "getComputedStyle("+root+".querySelector('.bar')).backgroundColor")
	v.media("screen", &emulation.MediaFeature{Name: "prefers-color-scheme", Value: "dark"})
	assert.Equal(
		t, "rgb(22, 32, 46)", ask[string](v, "getComputedStyle("+root+".querySelector('.bar')).backgroundColor"), "not %s",
		light,
	)
	assert.Empty(t, v.axe())
	v.size(320, 700)
	assert.LessOrEqual(t, ask[int](v, "document.documentElement.scrollWidth"), 320)

	// A style that is none is refused where it is written, and what was saved stands.
	ines.fill("Own style", ".words { background: url(https://x.test/a.png) }")
	ines.key(kb.Tab)
	ines.has("the style uses url(), which would fetch something on the visitor’s page")
	n, err := w.server.Store.Notice(t.Context(), demo.Key, "pier")
	require.NoError(t, err)
	assert.Equal(t, ".words { letter-spacing: 3px }", n.Working().Look.CSS)
}

// Motion is none by default, and none for those who want less of it.
func TestMotion(t *testing.T) {
	w := newWorld(t)
	w.only(
		bar("still", "Still", func(n *bundle.Notice) { n.Slot = bundle.Bottom }),
		bar("moving", "Moving", func(n *bundle.Notice) { n.Look = &bundle.Look{Motion: bundle.Slide} }),
	)
	animation := func(p *tab) []string {
		return ask[[]string](
			p,
			"[...document.querySelectorAll('mastflag-notice')].map(h => "+
				"getComputedStyle(h.shadowRoot.querySelector('.bar')).animationName)",
		)
	}
	v := person(t)
	v.open(w.site + "/fares")
	v.shows("Moving", "Still")
	assert.Equal(t, []string{"in", "none"}, animation(v))
	v.media("screen", &emulation.MediaFeature{Name: "prefers-reduced-motion", Value: "reduce"})
	assert.Equal(t, []string{"none", "none"}, animation(v))
}

// At a spot in the page, on every side of it; one that comes late is waited for,
// and what was put aside comes back.
func TestSpotsInThePage(t *testing.T) {
	w := newWorld(t)
	at := func(where bundle.Where, selector string) bundle.Notice {
		return bar("spot", "Here", func(n *bundle.Notice) {
			n.Slot, n.Spot, n.Memory = bundle.Inline, &bundle.Spot{
				Selector: selector,
				Where:    where,
			}, &bundle.Memory{HideAfterClose: "page"}
		})
	}
	for where, stands := range map[bundle.Where]string{
		bundle.Before: "h.nextElementSibling === at", bundle.After: "at.nextElementSibling === h",
		bundle.First: "at.firstChild === h", bundle.Last: "at.lastChild === h",
		bundle.Instead: "at.hidden && h.nextElementSibling === at",
	} {
		w.only(at(where, "main h1"))
		v := person(t)
		v.open(w.site + "/fares")
		v.shows("Here")
		assert.True(
			t,
			ask[bool](
				v,
				"(() => { const h = document.querySelector('mastflag-notice'), at = document.querySelector('main h1'); return "+
					stands+" })()",
			),
			where,
		)
		if where == bundle.Instead {
			v.inBar(".close")
			v.until("!document.querySelector('main h1').hidden")
		}
		// Two at one spot stand in the order of rank (rule D1).
		weak, strong := at(where, "main h1"), at(where, "main h1")
		weak.ID, weak.Content = "weak", &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "Weak"}}}
		strong.Level = bundle.Warning
		w.only(weak, strong)
		v.open(w.site + "/status")
		v.shows("Here", "Weak")
	}
	// Pages of another make have other spots: the first that is for the page, and that
	// the page has; without any it stands nowhere (rule B1).
	several := at(bundle.Last, "main")
	only := func(e pages.Entry) *pages.Conditions { return &pages.Conditions{Include: []pages.Entry{e}} }
	several.Spot.Pages = only(pages.Entry{Match: pages.Page, Path: "/fares"})
	several.Spots = []bundle.Spot{
		{Selector: "#nowhere"},
		{Selector: "main h1", Where: bundle.First, Pages: only(pages.Entry{Match: pages.Section, Path: "/ports"})},
		{Selector: "main h1", Where: bundle.After, Pages: only(pages.Entry{Match: pages.Page, Path: "/ports/aldwick"})},
	}
	w.only(several)
	v := person(t)
	for page, in := range map[string]string{"/ports/aldwick": "h1", "/ports": "h1", "/fares": "main"} {
		v.open(w.site + page)
		v.shows("Here")
		assert.Equal(t, in, ask[string](v, "document.querySelector('mastflag-notice').parentElement.localName"), page)
	}
	several.Spots = several.Spots[1:]
	w.only(several)
	v.open(w.site + "/status")
	v.settled()
	v.shows()
	w.only(at(bundle.After, "#late"))
	v.open(w.site + "/fares")
	v.settled()
	v.shows()
	ask[bool](v, "document.querySelector('main').insertAdjacentHTML('beforeend', '<p id=late>late</p>') || true")
	v.shows("Here")
}

// A spot is chosen by pointing at it on the stage.
func TestPointingAtASpot(t *testing.T) {
	w := newWorld(t)
	w.only(bar("spot", "Here"))
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/notices/spot?page=/fares")
	ines.has("The draft, on the real page.")
	ines.press("at the top")
	ines.until("document.querySelector('.editor input[value=inline]')")
	ines.do(chromedp.Click(chromedp.CSS(".editor input[value=inline]")))
	ines.has("Findings")
	ines.has("no spot in it is chosen")
	ines.press("Point at it on the stage")
	ines.has("Press the element that it is to stand at.")
	stage := w.stage(ines)
	stage.until("document.querySelector('main h1')")
	stage.at("(r => [r.x + 40, r.y + 20])(document.querySelector('main h1').getBoundingClientRect())")
	ines.has("in the page, after h1")
	ines.has("The draft, on the real page.")
	stage.until("document.querySelector('h1').nextElementSibling.localName === 'mastflag-notice'")
	// Its words are written where they stand.
	stage.at("(r => [r.x + r.width / 2, r.y + r.height / " +
		"2])(document.querySelector('mastflag-notice').shadowRoot.querySelector('.words').getBoundingClientRect())")
	stage.until("document.querySelector('mastflag-notice').shadowRoot.activeElement?.isContentEditable")
	stage.key(" and now")
	stage.key(kb.Escape)
	stage.until("document.querySelector('mastflag-notice').shadowRoot.querySelector('.words').textContent === 'Here'")
	stage.at("(r => [r.x + r.width / 2, r.y + r.height / " +
		"2])(document.querySelector('mastflag-notice').shadowRoot.querySelector('.words').getBoundingClientRect())")
	stage.until("document.querySelector('mastflag-notice').shadowRoot.activeElement?.isContentEditable")
	stage.key(" and now")
	stage.key(kb.Enter)
	ines.until("document.querySelector('.tiptap').textContent === 'Here and now'")
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	// Pages of another make get a spot of their own.
	ines.open(w.address + "/sundrey/notices/spot?page=/ports")
	ines.has("The draft, on the real page.")
	ines.press("in the page, after h1")
	ines.press("Add one for other pages")
	ines.has("Press the element that it is to stand at.")
	stage = w.stage(ines)
	stage.until("document.querySelector('footer')")
	ask[bool](stage, "(document.querySelector('footer').scrollIntoView(), true)")
	stage.at("(r => [r.x + 5, r.y + 2])(document.querySelector('footer').getBoundingClientRect())")
	ines.has("On /ports it stands after footer.")
	ines.has("in the page, after h1 or at one other spot")
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	stage.until("document.querySelector('footer').nextElementSibling?.localName === 'mastflag-notice'")
	ines.press("in the page, after h1 or at one other spot")
	ines.has("the page /ports")
	ines.press("Remove spot 1")
	ines.has("in the page, after h1, on")
	// On a page without that element the stage says so.
	n, err := w.server.Store.Notice(t.Context(), demo.Key, "spot")
	require.NoError(t, err)
	d := *n.Draft
	d.Spot = &bundle.Spot{Selector: "#nowhere"}
	_, err = w.server.Store.Change(
		t.Context(),
		demo.Key,
		"spot",
		n.Revision,
		func(row *store.Notice, _ int) (store.Entry, error) {
			row.Draft = &d
			return store.Entry{At: w.clock.Now()}, nil
		},
	)
	require.NoError(t, err)
	require.NoError(t, w.server.Hub.Reload(t.Context(), demo.Key))
	ines.open(w.address + "/sundrey/notices/spot?page=/fares&language=en")
	ines.has("Nothing on this page is #nowhere.")
}

// The stage: three widths at once, dark, slots, a picture; and a page that
// forbids frames.
func TestStage(t *testing.T) {
	w := newWorld(t)
	w.only(bar("pier", "The pier is closed"))
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/notices/pier?page=/fares")
	ines.has("The draft, on the real page.")
	stage := w.stage(ines)
	assert.False(t, ask[bool](stage, "matchMedia('(prefers-color-scheme: dark)').matches"))
	ines.press("Dark")
	stage.until("matchMedia('(prefers-color-scheme: dark)').matches")
	ines.press("Dark")
	ines.press("Slots")
	stage.until("[...document.querySelectorAll('mastflag-stage')].map(e => e.textContent).join() === 'top,bottom,bottom " +
		"left corner,bottom right corner,middle'")
	ines.press("Slots")
	stage.until("!document.querySelector('mastflag-stage')")

	// Words are written where they stand; with more there than the message, beside the stage.
	const words = "document.querySelector('mastflag-notice').shadowRoot.querySelector('.words')"
	ask[bool](stage, words+".click() || true")
	stage.until(words + ".isContentEditable")
	ask[bool](stage, words+".blur() || true")
	ines.fill("Headline in English", "Today")
	stage.until("document.querySelector('mastflag-notice')?.shadowRoot.querySelector('.headline')")
	ask[bool](stage, words+".click() || true")
	ines.until("document.activeElement.classList.contains('tiptap')")
	assert.False(t, ask[bool](stage, words+".isContentEditable"))
	ines.fill("Headline in English", kb.Backspace)
	stage.until("!document.querySelector('mastflag-notice')?.shadowRoot.querySelector('.headline')")

	// The picture is a PNG of the window, with the notice's own colour at its top.
	ask[bool](
		ines,
		"(HTMLAnchorElement.prototype.click = function () { window.saved = { name: this.download, href: this.href } }, true)",
	)
	ines.press("Picture")
	ines.until("window.saved")
	assert.Equal(t, "pier.png", ask[string](ines, "saved.name"))
	assert.Equal(
		t, []int{1280, 22, 32, 46, 255},
		ask[[]int](
			ines,
			`(async () => { const i = new Image(); i.src = saved.href; await i.decode(); const c = `+
				`document.createElement('canvas'); c.width = i.width; c.height = i.height; const x = c.getContext('2d'); `+
				`x.drawImage(i, 0, 0); return [i.width, ...x.getImageData(8, 8, 1, 1).data] })()`,
		),
	)

	// Each of the three frames says what stands on it.
	ask[bool](
		ines,
		"(window.placed = [], addEventListener('message', e => e.data.mastflag === 'placed' && "+
			"placed.push(document.querySelectorAll('.stage iframe').length + e.data.ids.join())), true)",
	)
	ines.press("All three")
	ines.until("document.querySelectorAll('.stage iframe').length === 3 && placed.filter(p => p === '3pier').length >= 3")
	assert.Equal(
		t, []string{"390px", "820px", "1280px"},
		ask[[]string](ines, "[...document.querySelectorAll('.stage iframe')].map(f => f.style.width)"),
	)

	w.noFrames.Store(true)
	ines.open(w.address + "/sundrey/notices/pier?page=/about")
	ines.has("forbid to be shown in a frame")
	link := ask[string](ines, "document.querySelector('.says a').href")
	v := person(t)
	v.open(link)
	v.shows("The pier is closed")
}

// Languages side by side: a machine's draft is not delivered before it is read.
func TestLanguagesSideBySide(t *testing.T) {
	w := newWorld(t)
	w.only(bar("pier", "<p>The pier is closed</p>"))
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/notices/pier")
	ines.press("Side by side")
	ines.has("German missing")
	ines.press("Have it drafted by the machine")
	ines.has("German a machine’s draft, unread")
	ines.press("Publish the changes")
	ines.has("Published.")
	v := person(t)
	v.open(w.site + "/de/fares")
	v.shows("The pier is closed")
	ines.press("I have read it")
	ines.has("German up to date")
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	ines.press("Publish the changes")
	v.open(w.site + "/de/fares")
	v.shows("[de: The pier is closed]")

	// The original changes: the other is old until it is looked at.
	ines.do(chromedp.Click(chromedp.CSS(".languages-panel .tiptap")))
	ines.key("Now. ")
	ines.has("German older than the original")
	ines.press("It is still right")
	ines.has("German up to date")
	assert.Empty(t, ines.axe())

	// To a translator and back.
	ask[bool](ines, "(URL.createObjectURL = b => { window.blob = b; return 'data:,' }, true)")
	ines.press("Polish missing")
	ines.press("Save for a translator (XLIFF)")
	ines.until("window.blob")
	text := ask[string](ines, "blob.text()")
	path := filepath.Join(t.TempDir(), "pier.en-pl.xlf")
	source := text[strings.Index(text, "<source>")+8 : strings.Index(text, "</source>")]
	require.NoError(
		t,
		os.WriteFile(
			path,
			[]byte(strings.Replace(
				text, "</source>",
				"</source><target>"+strings.Replace(source, "pier is closed", "molo jest zamknięte", 1)+"</target>", 1,
			)),
			0o600,
		),
	)
	ines.upload(".languages-panel input[type=file]", path)
	ines.has("Polish up to date")
	ines.has("molo jest zamknięte")
	require.NoError(t, os.WriteFile(path, []byte("no XML"), 0o600))
	ines.upload(".languages-panel input[type=file]", path)
	ines.has("this is not XML")
}

// Someone is invited, takes it up, and finds what the role lets them do.
func TestPeopleComeIn(t *testing.T) {
	w := newWorld(t)
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/site/people")
	ines.has("Tomasz Reede")
	fill := func(label, text string) {
		ask[bool](
			ines,
			fmt.Sprintf(
				"[...document.querySelectorAll('.invite label')].find(l => "+
					"l.textContent.includes(%q)).querySelector('input').focus() || true",
				label,
			),
		)
		ines.key(text)
	}
	ines.press("New password for Tomasz Reede")
	ines.has("A letter with the way to a new password is for tomasz@sundrey.example alone.")
	fill("Their e-mail", "ada@sundrey.example")
	fill("Their name", "Ada")
	ines.at("(r => [r.x + 40, r.y + 10])(document.querySelector('[aria-label=\"Role of the new " +
		"person\"]').getBoundingClientRect())")
	ines.press("viewer: looks, changes nothing")
	ines.press("Invite")
	ines.has("invited until Fri 11 Dec")
	assert.Empty(t, ines.axe(), "people")
	ines.press("Mailbox")
	ines.has("An invitation to Mast Flag")
	ask[bool](ines, "document.querySelector('.site-room details').open = true")
	link := ask[string](ines, "document.querySelector('pre a').href")
	assert.Empty(t, ines.axe(), "mailbox")

	ada := person(t)
	ada.open(link)
	ada.has("You are invited as viewer, as ada@sundrey.example.")
	assert.Empty(t, ada.axe(), "the door for the invited")
	ada.do(chromedp.SendKeys(chromedp.CSS("input[type=password]"), "short"))
	ada.press("Come in")
	ada.has("A password has 10 characters at least")
	ada.do(chromedp.SendKeys(chromedp.CSS("input[type=password]"), " enough words"))
	ada.press("Come in")
	ada.has("Now & next")
	assert.False(
		t,
		ask[bool](ada, "[...document.querySelectorAll('button')].some(b => "+
			"/New notice|Pause|Unpublish/.test(b.textContent))"),
		"a viewer is offered nothing to change",
	)
	ada.open(w.address + "/sundrey/notices/winter-timetable")
	ada.has("You are a viewer")
	ada.do(chromedp.Click(chromedp.CSS(".tiptap")))
	ada.key("x")
	ada.has("this needs editor")
	ines.press("Activity")
	ines.has("Ada joined")
	assert.Empty(t, ines.axe(), "activity")

	// The other site, by the switcher.
	ines.press("Sundrey Isles Ferries ▾")
	ines.press("Harbour Trust of Sundrey")
	ines.has("Dredging at the north quay")

	// And one more.
	ines.press("Harbour Trust of Sundrey ▾")
	ines.press("Add a site")
	ines.has("Which site is it for?")
	ask[bool](ines, "document.querySelector('.first input').focus() || true")
	ines.key("Parish of St Brannoc" + kb.Tab + "parish.example")
	ines.press("Begin")
	ines.has("Two lines on every page")
	ines.until("location.pathname === '/parish-of-st-brannoc/site'")

	again := person(t)
	again.open(link)
	again.has("This invitation is over. It was used or withdrawn")
}

// From Now & next: an end, a pause, everything paused, each with a way back.
func TestActionsInPlace(t *testing.T) {
	w := newWorld(t)
	w.only(bar("one", "One"), bar("two", "Two"))
	ines := person(t)
	w.signIn(ines)
	v := person(t)
	shows := func(words ...string) {
		t.Helper()
		v.open(w.site + "/fares")
		if len(words) == 0 {
			v.settled()
		}
		v.shows(words...)
	}
	shows("One", "Two")
	ines.press("Pause one")
	ines.has("“one” is paused.")
	shows("Two")
	ines.press("Undo")
	ines.has("Shows here, and on 65 more pages")
	shows("One", "Two")
	ines.press("Pause all")
	ines.has("2 notices are paused. No visitor sees them.")
	shows()
	ines.press("Undo")
	ines.until("document.querySelectorAll('.halyard.live').length === 2")
	shows("One", "Two")
	ines.press("End at… one")
	ines.until("document.querySelector('.ending input').value.includes('5 Dec 2026 12:00')")
	ines.press("End it then")
	ines.has("“one” ends Sat 5 Dec 12:00.")
	ines.has("24 hours more")
	w.clock.Set(start.Add(24 * time.Hour))
	shows("Two")
	ines.press("Unpublish two now")
	ines.has("“two” is unpublished")
	shows()
}

// In the Pages room: a notice is placed by pressing pages; the table compares.
func TestPlacingInThePagesRoom(t *testing.T) {
	w := newWorld(t)
	w.only(bar("pier", "The pier is closed"))
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/pages")
	ines.has("66 known pages. At Fri 4 Dec 12:00 all carry a notice")
	ines.at("(r => [r.x + 40, r.y + 10])(document.querySelector('[aria-label=\"Notice to " +
		"place\"]').getBoundingClientRect())")
	ines.press("pier")
	ines.has("“pier” takes 66 of 66 pages.")
	node := func(path string) string {
		return "(e => { e.scrollIntoView({ block: 'center' }); const r = e.getBoundingClientRect(); return [r.x + r.width " +
			"/ 2, r.y + r.height / 2] })([...document.querySelectorAll('.twig')].find(t => " +
			"t.querySelector('.label').textContent === '" + path + "').querySelector('.label'))"
	}
	ines.at(node("/book"))
	ines.has("takes 65 of 66 pages")
	ines.press("/ports and all below it")
	ines.has("takes 59 of 66 pages")
	ines.press("Undo")
	ines.has("takes 65 of 66 pages")
	n, err := w.server.Store.Notice(t.Context(), demo.Key, "pier")
	require.NoError(t, err)
	assert.Equal(t, []pages.Entry{{Match: pages.Page, Path: "/book"}}, n.Draft.Pages.Exclude)
	assert.Empty(t, ines.axe(), "while a notice is placed")

	ines.open(w.address + "/sundrey/pages?page=/fares")
	ines.has("66 known pages")
	ines.press("Table")
	ines.has("shows")
	ines.until("document.querySelectorAll('.scroll tbody tr').length === 66 && " +
		"document.querySelectorAll('td.shows').length === 66")
	ines.fill("Find a page", "book")
	ines.until("document.querySelectorAll('.scroll tbody tr').length === 6")
	ask[bool](ines, "(URL.createObjectURL = b => { window.blob = b; return 'data:,' }, true)")
	ines.press("Save as CSV")
	ines.until("window.blob")
	assert.True(t, strings.HasPrefix(ask[string](ines, "blob.text()"), `"Path","Title","Language","pier"`+"\r\n"+`"/",`))
	assert.Empty(t, ines.axe(), "the table")
}

// On the strip a whole stretch is moved, by hand and by key.
func TestMovingAStretch(t *testing.T) {
	w := newWorld(t)
	w.only(bar("pier", "The pier is closed", func(n *bundle.Notice) {
		n.Schedule = &schedule.Plan{Windows: []schedule.Window{{From: "2026-12-10T09:00", Until: "2026-12-12T18:00"}}}
	}))
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/notices/pier")
	ines.until("document.querySelector('.whole')")
	ask[bool](ines, "document.querySelector('.whole').focus() || true")
	ines.key(kb.ArrowRight)
	ines.has("from Thu 10 Dec 10:00 to Sat 12 Dec 19:00")
	box := ask[[]float64](ines, "(e => { e.scrollIntoView({ block: 'center' }); const r = e.getBoundingClientRect(); "+
		"return [r.x + r.width / 2, r.y + r.height / 2] })(document.querySelector('.whole'))")
	week := ask[float64](ines, "document.querySelector('.time .row').getBoundingClientRect().width / 6")
	ines.drawn() // where it was scrolled to is where the mouse meets it
	ines.drag(box, []float64{box[0] + week, box[1]})
	ines.has("from Thu 17 Dec 10:00 to Sat 19 Dec 19:00")
	ines.press("Undo")
	ines.has("from Thu 10 Dec 10:00 to Sat 12 Dec 19:00")
}

// With 200 notices and 500 pages: how long a change of viewpoint takes from
// the key to the screen; with 300 how long a frame takes while the strip is
// worked on. Printed, not judged.
func TestLargeSite(t *testing.T) {
	w := newWorld(t)
	var list []store.Page
	for i := range 500 {
		list = append(list, store.Page{
			Page:    bundle.Page{Path: fmt.Sprintf("/part-%d/page-%d", i%25, i), Title: fmt.Sprintf("Page %d", i)},
			Snippet: store.SnippetFound,
		})
	}
	require.NoError(t, w.server.Store.PutPages(t.Context(), demo.Key, list, w.clock.Now()))
	notices := func(n int) (out []bundle.Notice) {
		for i := range n {
			at := start.Add(time.Duration(i-n/2) * 3 * time.Hour)
			out = append(out, bar(fmt.Sprintf("n%03d", i), fmt.Sprintf("Notice %d", i), func(n *bundle.Notice) {
				n.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.Section, Path: fmt.Sprintf("/part-%d", i%25)}}}
				n.Schedule = &schedule.Plan{Windows: []schedule.Window{{
					From:  at.Format("2006-01-02T15:04"),
					Until: at.AddDate(0, 0, 3).Format("2006-01-02T15:04"),
				}}}
			}))
		}
		return out
	}
	w.only(notices(200)...)
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/now?page=/part-3/page-3")
	ines.until("document.querySelectorAll('.notice').length === 100")
	ines.press("Show 100 more")
	ines.until("document.querySelectorAll('.notice').length === 200")
	const step = `new Promise(done => { const was = document.querySelector('.cursor b').textContent; ` +
		`document.activeElement.blur(); const t = performance.now(); document.body.dispatchEvent(new ` +
		`KeyboardEvent('keydown', { key: ']', bubbles: true })); (function look() { if (document.querySelector('.cursor ` +
		`b').textContent !== was) requestAnimationFrame(() => done(performance.now() - t)); else setTimeout(look, 1) })() })`
	var took, answered []float64
	for range 15 {
		took = append(took, ask[float64](ines, step))
		answered = append(
			answered,
			ask[float64](
				ines, "performance.getEntriesByType('resource').filter(e => e.name.includes('/view?')).at(-1).duration",
			),
		)
	}
	t.Logf(
		"200 notices, 500 pages: a change of moment took %.0f ms from the key to the screen, of which the answer %.0f; the "+
			"best %.0f and %.0f",
		median(took), median(answered), slices.Min(took), slices.Min(answered),
	)

	w.only(notices(300)...)
	ines.open(w.address + "/sundrey/now?page=/part-3/page-3")
	ines.press("Show 100 more")
	ines.until("document.querySelectorAll('.notice').length === 200")
	ines.press("Show 100 more")
	ines.until("document.querySelectorAll('.notice').length === 300")
	frames := ask[[]float64](
		ines,
		`new Promise(done => { const e = document.querySelector('.scale'), r = e.getBoundingClientRect(), times = []; let `+
			`x = r.x + 20, last = performance.now(); const at = (type) => e.dispatchEvent(new PointerEvent(type, { bubbles: `+
			`true, pointerId: 1, clientX: x, clientY: r.y + 5 })); e.setPointerCapture = () => {}; at('pointerdown'); `+
			`(function frame(t) { times.push(t - last); last = t; x += 4; at('pointermove'); if (times.length < 60) `+
			`requestAnimationFrame(frame); else { done(times.slice(1)) } })(last) })`,
	)
	t.Logf(
		"300 notices: a frame took %.0f ms while the cursor was dragged, the longest %.0f", median(frames),
		slices.Max(frames),
	)
}

func median(v []float64) float64 { return slices.Sorted(slices.Values(v))[len(v)/2] }

// Begun from the Library, kept there again, and its words used elsewhere.
func TestLibrary(t *testing.T) {
	w := newWorld(t)
	w.only()
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/library")
	ines.has("Each is right as it comes")
	ines.until("document.querySelectorAll('[data-point]').length === 51")
	ines.fill("Find in the Library", "storm")
	ines.until("document.querySelectorAll('[data-point]').length === 1")
	ines.press("Use it: Storm")
	ines.has("until Sat 5 Dec 12:00")
	ines.fill("Working title, only you see it", "Our storm")
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	ines.press("More commands")
	ines.press("Save as starting point")
	ines.has("“Our storm” is a starting point now")
	ines.press("More commands")
	ines.press("Keep its words")
	ines.has("can be used in every notice now")
	ines.begin()
	ines.until("location.pathname.endsWith('/new-bar') && document.querySelector('.tiptap')?.textContent === ''")
	ines.press("More commands")
	ines.press("Use the words of “Our storm”")
	ines.until("document.querySelector('.tiptap').textContent.includes('Storm.')")
	ines.press("Library")
	ines.has("Your own")
	ines.press("Remove Our storm")
	ines.has("“Our storm” is removed.")
}

// A draft without words says that it has none, and is not kept if nothing was done to
// it; Escape closes what is open behind a word, wherever in it the focus is.
func TestAnEmptyDraftIsNotKept(t *testing.T) {
	w := newWorld(t)
	w.only()
	ines := person(t)
	w.signIn(ines)
	ines.begin()
	ines.until("location.pathname.endsWith('/new-bar')")
	ines.has("It has no words yet. Write some, and it stands here.")
	ines.press("every page")
	ines.until("document.querySelector('[role=dialog] .el-select input, [role=dialog] input')")
	ask[bool](ines, "(document.querySelector('[role=dialog] .el-select input').focus(), true)")
	ines.key(kb.Escape)
	ines.until("!document.querySelector('.editor[role=dialog]')")
	ines.press("Now & next")
	ines.has("The empty draft is not kept.")
	ines.until("!document.body.innerText.includes('Show this bar')")
	ines.press("Undo")
	ines.has("New bar")
	ines.until("document.body.innerText.includes('Show this bar')")

	// One that something was done to stays.
	ask[bool](ines, "document.activeElement.blur() || true")
	ines.key("n")
	ines.beginPlain()
	ines.until("location.pathname.endsWith('/new-bar-2')")
	ines.do(chromedp.Click(chromedp.CSS(".tiptap")))
	ines.key("Hello")
	ines.until("document.querySelector('.saving').textContent === 'Saved' && " +
		"[...document.querySelectorAll('button')].some(b => b.textContent.trim() === 'Undo')")
	ines.press("Now & next")
	ines.until("document.querySelectorAll('[data-notice]').length === 2 || document.body.innerText.match(/Show this " +
		"bar/g)?.length === 2")
}
