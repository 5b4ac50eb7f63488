package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/pages"
	"mastflag/internal/demo"
	"mastflag/internal/demosite"
	"mastflag/internal/history"
	"mastflag/internal/store"
)

// alt presses an arrow with Alt (1 in the protocol) held.
func (p *tab) alt(arrow string, code int64) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		for _, kind := range []input.DispatchKeyEventType{
			input.DispatchKeyEventTypeRawKeyDown, input.DispatchKeyEventTypeKeyUp,
		} {
			press := input.DispatchKeyEventParams{Type: kind, Modifiers: 1, Key: arrow, Code: arrow, WindowsVirtualKeyCode: code}
			if _, err := cdp.Call(ctx, t, input.DispatchKeyEvent, press); err != nil {
				return err
			}
		}
		return nil
	}))
}

// carry drags from one place to another as slowly as a hand does: what is carried is
// looked for under the mouse a few times a second.
func (p *tab) carry(from, to []float64) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		move := func(kind input.DispatchMouseEventType, x, y float64, buttons int64) error {
			_, err := cdp.Call(ctx, t, input.DispatchMouseEvent, input.DispatchMouseEventParams{
				Type: kind, X: x, Y: y, Button: input.MouseButtonLeft, Buttons: buttons, ClickCount: 1,
			})
			time.Sleep(120 * time.Millisecond)
			return err
		}
		if err := move(input.DispatchMouseEventTypeMousePressed, from[0], from[1], 1); err != nil {
			return err
		}
		const steps = 6
		for i := 1.0; i <= steps; i++ {
			x, y := from[0]+(to[0]-from[0])*i/steps, from[1]+(to[1]-from[1])*i/steps
			if err := move(input.DispatchMouseEventTypeMouseMoved, x, y, 1); err != nil {
				return err
			}
		}
		return move(input.DispatchMouseEventTypeMouseReleased, to[0], to[1], 0)
	}))
}

// sketched is what a block is made of, as its sketch shows it: "row: column, column".
const sketched = `[...document.querySelectorAll('.a-row')].map(r => [...r.querySelectorAll('[data-column]')].map(c =>` +
	` [...c.querySelectorAll('.chip')].map(x => x.dataset.part).join('+')).join(', ')).join(' | ')`

// made waits until a block is made of this, and kept.
func (p *tab) made(of string) {
	p.t.Helper()
	quoted, _ := json.Marshal(of)
	p.until(sketched + " === " + string(quoted))
	p.until("document.querySelector('.saving').textContent === 'Saved'")
}

// Begun from a ready one, edited by hand, by keyboard and where it stands, put on all
// pages but one, and taken off: one page, everywhere, for good; each with its pages
// beforehand and a way back.
func TestABlockFromBeginningToEnd(t *testing.T) {
	w := newWorld(t)
	w.only()
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/library?page=/ports/aldwick")
	ines.has("No blocks yet. Begin with one of these.")
	ines.press("Use it: Contact")
	ines.until("location.pathname.endsWith('/notices/contact')")
	ines.made("title | reach, open")
	ines.has("Show this block in the page, last in main, on every page")

	// A part more, moved by key and by hand, written where it stands.
	ines.press("Add a part to row 1, column 1")
	ines.press("Text Words, lists and links.")
	ines.made("title+text | reach, open")
	ines.until("document.querySelector('[aria-label=\"Text in English\"].tiptap')")
	ask[bool](ines, "(document.querySelector('[aria-label=\"Text in English\"]').focus(), true)")
	ines.key("Come in, or ring.")
	ines.made("title+text | reach, open")
	ask[bool](ines, "(document.querySelector('.chip[data-part=text] button').focus(), true)")
	ines.alt("ArrowDown", 40)
	ines.made("title | text+reach, open")
	ines.alt("ArrowRight", 39)
	ines.made("title | reach, text+open")
	ines.alt("ArrowUp", 38)
	ines.made("title+text | reach, open")
	ines.has("Moved: row 1 of 2, place 2 of 2.")
	ines.alt("ArrowLeft", 37)
	ines.made("title+text | reach, open")
	const middle = `(s => { const r = document.querySelector(s).getBoundingClientRect(); return [r.x + 12, r.y + ` +
		`r.height / 2] })`
	ines.carry(
		ask[[]float64](ines, middle+"('.chip[data-part=open] .grip')"),
		ask[[]float64](ines, middle+"('.chip[data-part=reach]')"),
	)
	ines.until(sketched + ".includes('open+') || " + sketched + ".includes('+open')")
	ines.press("Undo")
	ines.made("title+text | reach, open")
	ines.press("Done")
	stage := w.stage(ines)
	stage.until("document.querySelector('[data-id=contact]')?.shadowRoot.textContent.includes('Come in, or ring.')")
	stage.at(`(r => [r.x + 20, r.y + r.height / ` +
		`2])(document.querySelector('[data-id=contact]').shadowRoot.querySelector('.part-title h2').getBoundingClientRect())`)
	stage.until("document.querySelector('[data-id=contact]').shadowRoot.activeElement?.localName === 'h2'")
	stage.key(" anything")
	ask[bool](stage, "(document.querySelector('[data-id=contact]').shadowRoot.activeElement.blur(), true)")
	ines.until("document.querySelector('[aria-label=\"Heading in English\"]')?.value === 'Ask us anything'")
	ines.made("title+text | reach, open")
	assert.Empty(t, ines.axe())

	// Refused, said in words, and nothing of it lost.
	ines.press("Contact, privacy@sundrey.example")
	ines.fill("Number or address 1", "")
	ines.fill("Number or address 1", "nobody at home")
	ines.has("is not an e-mail address")
	ines.has("Give one such as office@sundrey.example.")
	ines.fill("Number or address 1", "quay@sundrey.example")
	ines.made("title+text | reach, open")

	// Published, it is on every page; off one, on all but that one, and on what comes later.
	ines.press("Publish")
	ines.until("document.querySelector('.halyard').textContent.includes('Live')")
	v := person(t)
	on := func(page string, want bool) {
		t.Helper()
		v.open(w.site + page)
		v.settled()
		v.until(fmt.Sprintf("!!document.querySelector('[data-id=contact]') === %v", want))
	}
	on("/ports/aldwick", true)
	known := len(w.ferries.Paths())
	ines.press("Take it off")
	ines.has(fmt.Sprintf("1 page: /ports/aldwick. It stays on %d other known pages.", known-1))
	ines.has(fmt.Sprintf(
		"%d known pages, and every page that would carry it later. It stays in the Library, as a draft.", known,
	))
	ines.press("Take it off this page")
	ines.has(fmt.Sprintf("It is off /ports/aldwick, and still on %d known pages.", known-1))
	on("/ports/aldwick", false)
	on("/ports/fennay", true)
	w.ferries.Add("/ports/new-quay", "/ports/fennay")
	on("/ports/new-quay", true)

	// In the Library: put on again by one press; where it is already it is said why not.
	ines.open(w.address + "/sundrey/library?page=/ports/fennay")
	ines.until("document.querySelector('[data-block=contact] .act button').disabled")
	ines.has("It is on this page already, and stands once a page.")
	ines.open(w.address + "/sundrey/library?page=/ports/aldwick")
	ines.press("Put it on this page")
	ines.has("“Contact” is on /ports/aldwick now.")
	on("/ports/aldwick", true)
	ines.press("Undo")
	ines.until("!document.querySelector('[data-block=contact] .act button').disabled")
	on("/ports/aldwick", false)

	// A way back that is no longer there says so.
	ines.until("!document.body.innerText.includes('“Contact” is on /ports/aldwick now.')") // said the first time
	ines.press("Put it on this page")
	ines.has("“Contact” is on /ports/aldwick now.")
	row, err := w.server.Store.Notice(t.Context(), demo.Key, "contact")
	require.NoError(t, err)
	_, err = w.server.Store.Change(
		t.Context(),
		demo.Key,
		"contact",
		row.Revision,
		func(n *store.Notice, next int) (store.Entry, error) {
			where := *n.Published
			where.Pages = &pages.Conditions{
				Include: []pages.Entry{{Match: pages.All}},
				Exclude: []pages.Entry{{Match: pages.Page, Path: "/ports/aldwick"}},
			}
			n.Published, n.Number = &where, next
			return store.Entry{At: w.clock.Now(), By: store.By{Name: "Bela"}, Deed: history.PagesBack.With()}, nil
		},
	)
	require.NoError(t, err)
	require.NoError(t, w.server.Hub.Reload(t.Context(), demo.Key))
	ines.press("Undo")
	ines.has("Someone else changed this after you opened it.")
	on("/ports/aldwick", false)

	// Off everywhere and back; deleted and back.
	ines.open(w.address + "/sundrey/notices/contact?page=/ports/fennay")
	ines.press("Take it off")
	ines.press("Take it off everywhere")
	ines.has(fmt.Sprintf("It is off everywhere: %d known pages.", known-1))
	on("/ports/fennay", false)
	ines.press("Undo")
	ines.until("document.querySelector('.halyard').textContent.includes('Live')")
	on("/ports/fennay", true)
	on("/ports/aldwick", false)
	ines.press("Take it off")
	ines.press("Delete it")
	ines.has("“Contact” is deleted.")
	on("/ports/fennay", false)
	gone := "!document.querySelector('main a[href*=\"/notices/contact\"]')"
	ines.until(gone)
	ines.press("Undo")
	ines.until("!(" + gone + ")") // what was said names it too: a page that is opened sooner is decided without it
	on("/ports/fennay", true)
}

// A page lists its blocks in the order in which they stand, once it was read; one is
// taken off it there.
func TestPagesListTheirBlocks(t *testing.T) {
	w := newWorld(t)
	w.only(
		inPage("foot", "Below", "footer", "first"), inPage("late", "Last", "main", "last"),
		inPage("head", "At the heading", "main h1", "after"),
	)
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/site")
	ines.press("Read the pages again")
	ines.has(fmt.Sprintf("%d pages", len(demosite.New("", "", "").Paths())))
	ines.open(w.address + "/sundrey/pages?page=/ports/aldwick")
	ines.until("[...document.querySelectorAll('[data-standing]')].map(e => e.dataset.standing).join() === " +
		"'head,late,foot'")
	// A page that the site makes later takes them by itself, and is marked once it is found.
	w.ferries.Add("/ports/new-quay", "/ports/fennay")
	ines.open(w.address + "/sundrey/site")
	ines.press("Read the pages again")
	ines.has(fmt.Sprintf("%d pages", len(w.ferries.Paths())))
	ines.open(w.address + "/sundrey/notices/late?page=/ports/new-quay")
	ines.press("every page")
	ines.has("/ports/new-quay new, took it by itself")
	ines.open(w.address + "/sundrey/pages?page=/ports/aldwick")
	ines.until("[...document.querySelectorAll('[data-standing]')].map(e => e.dataset.standing).join() === " +
		"'head,late,foot'")
	ines.press("Take it off this page: late")
	ines.until("[...document.querySelectorAll('[data-standing]')].map(e => e.dataset.standing).join() === 'head,foot'")
	ines.press("Undo")
	ines.until("[...document.querySelectorAll('[data-standing]')].map(e => e.dataset.standing).join() === " +
		"'head,late,foot'")
}

// Code is written with its mistakes said as it is typed, and what the site's policy
// has to allow; an editor reads it.
func TestCodeIsWritten(t *testing.T) {
	w := newWorld(t)
	w.only()
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/library")
	ines.press("code for pages")
	ines.until("location.pathname.endsWith('/new-code')")
	ines.until("document.querySelector('[data-code=\"At the end of the " +
		"body\"]')?.shadowRoot?.querySelector('.cm-content')")
	ask[bool](
		ines,
		"(document.querySelector('[data-code=\"At the end of the "+
			"body\"]').shadowRoot.querySelector('.cm-content').focus(), true)",
	)
	ines.key("<script>let a b")
	ines.has("Line 1, column 15: this is not JavaScript")
	ines.until("document.querySelector('[data-code=\"At the end of the " +
		"body\"]').shadowRoot.querySelector('.cm-lint-marker-error')")
	ines.until("document.querySelector('.saving').textContent === 'Not saved yet'")
	ask[bool](
		ines,
		`(() => { const c = document.querySelector('[data-code="At the end of the `+
			`body"]').shadowRoot.querySelector('.cm-content'); c.focus(); document.execCommand('selectAll'); `+
			`document.execCommand('insertText', false, '<script>window.timed = 1</script>'); return true })()`,
	)
	ines.has("script-src 'sha256-")
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	ines.has("Put this code at the end of the body of every page, for everyone")
	ines.press("Measurement")
	ines.has("it runs once measurement is agreed to")
	ines.has("runs only once measurement is agreed to, and no published consent notice asks.")
	assert.Empty(t, ines.axe())
	ines.press("Publish")
	ines.until("document.querySelector('.halyard').textContent.includes('Live')")
	ines.press("History")
	ines.has("Ines Harrow published it, version 1")

	p, err := w.server.Store.Person(t.Context(), demo.Email)
	require.NoError(t, err)
	p.Role = "editor"
	_, err = w.server.Store.SetRights(t.Context(), p, w.clock.Now())
	require.NoError(t, err)
	ines.open(w.address + "/sundrey/notices/new-code")
	ines.has("Administrators write code, and publish it.")
	ines.until("document.querySelector('[data-code=\"At the end of the " +
		"body\"]')?.shadowRoot?.querySelector('.cm-content')?.textContent.includes('window.timed')")
	ines.press("Pause")
	ines.has("Paused.")
	ines.press("Resume")
	ines.has("only administrators write or publish that")
	var paused store.Notice
	paused, err = w.server.Store.Notice(t.Context(), demo.Key, "new-code")
	require.NoError(t, err)
	assert.Equal(t, "paused", string(paused.State))
}
