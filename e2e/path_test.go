package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/internal/demo"
)

// From the administrator's hand to the visitor's page and away again.
func TestTheWholePath(t *testing.T) {
	w := newWorld(t)
	w.only()
	ines := person(t)
	noteErrors(ines)
	w.signIn(ines)
	ines.has("No notices yet")

	// Say it.
	ines.begin()
	ines.until("document.querySelector('.tiptap')")
	ines.fill("Working title, only you see it", "Pier closed")
	ines.do(chromedp.Click(chromedp.CSS(".tiptap")))
	ines.key("No sailings before ")
	ines.do(chromedp.KeyEvent("b", chromedp.KeyModifiers(chromedp.ModifierCtrl)))
	ines.key("noon")
	ines.press("a link")
	ines.fill("Address it leads to", "/status")
	ines.key(kb.Escape)
	ines.fill("Words on the link", "Service status")

	// Style: a pair that cannot be read is said, and the nearest that can is one press away.
	ines.press("Field: Sand")
	ines.press("Words: White")
	ines.has("too low: 4.5 is needed")
	ines.at("(e => { e.scrollIntoView({ block: 'nearest' }); const r = e.getBoundingClientRect(); return [r.x + 5, " +
		"r.y + 5] })(document.querySelector('.contrast .word'))")
	ines.has("Easy to read")

	// Place: the top, floating, on every page but one.
	ines.press("scrolls away with the page")
	ines.until("document.querySelector('.editor input[value=sticking]')")
	ines.do(chromedp.Click(chromedp.CSS(".editor input[value=sticking]")))
	ines.has("always in sight")
	ines.key(kb.Escape)
	ines.press("every page")
	ines.press("Leave a place out")
	ines.until("document.querySelectorAll('.editor [aria-label=\"Path 1\"]').length === 1")
	ines.fill("Path 1", "/book")
	ines.has("65 of 66 known pages carry it")
	ines.press("Done")
	ines.has("every page except /book")

	// When: for a day, from now.
	ines.press("from when you publish it, with no end")
	ines.press("For a day")
	ines.has("from Fri 4 Dec 12:00 to Sat 5 Dec 12:00")
	ines.press("Done")

	// The stage: the real page, the real script, the draft.
	ines.has("The draft, on the real page.")
	stage := w.stage(ines)
	stage.until("JSON.stringify(" + bars + ") === '[\"No sailings before noon\"]'")
	for _, width := range []string{"Phone 390", "Tablet 820", "Desktop 1280"} {
		ines.press(width)
		stage.until("innerWidth === " + width[strings.LastIndexByte(width, ' ')+1:])
	}
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	ines.unharmed()

	// A visitor sees nothing yet.
	visitor := person(t)
	visitor.open(w.site + "/ports")
	visitor.settled()
	visitor.shows()

	ines.press("Publish")
	ines.has("Published. It is up on 65 pages.")

	// The visitor sees it where it is to be seen, and not where it is left out.
	visitor.open(w.site + "/ports")
	visitor.shows("No sailings before noon")
	assert.Equal(t, "fixed", ask[string](visitor, "getComputedStyle(document.querySelector('mastflag-over')).position"))
	visitor.open(w.site + "/book")
	visitor.settled()
	visitor.shows()

	// Closed, it stays away, on other pages too, for a day.
	visitor.open(w.site + "/ports")
	visitor.shows("No sailings before noon")
	visitor.inBar(".close")
	visitor.shows()
	visitor.open(w.site + "/fares")
	visitor.settled()
	visitor.shows()

	// Someone else has the page open when its time runs out: it goes by itself.
	open := person(t)
	open.open(w.site + "/ports")
	open.shows("No sailings before noon")
	ask[bool](open, "window.sameView = true")
	w.clock.Set(start.Add(24*time.Hour - 2*time.Second))
	open.do(chromedp.Reload())
	open.shows("No sailings before noon")
	ask[bool](open, "window.sameView = true")
	open.shows()
	assert.True(t, ask[bool](open, "window.sameView"), "without a reload")

	// Why does this page not show it? The rule is named.
	ines.open(w.address + "/" + demo.Key + "/now?page=/book")
	ines.has("It ended Sat 5 Dec 12:00")
	ines.press("Why? Pier closed")
	ines.has("It leaves out the page /book, so it is not on /book. P1")
	ines.unharmed()
}

// stage returns the frame of the stage as a tab.
func (w *world) stage(p *tab) *tab {
	w.t.Helper()
	for last := time.Now().Add(patience); time.Now().Before(last); time.Sleep(50 * time.Millisecond) {
		targets, err := chromedp.Targets(p.ctx)
		require.NoError(w.t, err)
		for _, info := range targets {
			if info.Type == "iframe" && strings.HasPrefix(info.URL, w.site) {
				ctx, cancel := chromedp.NewContext(p.ctx, chromedp.WithTargetID(info.TargetID))
				w.t.Cleanup(cancel)
				require.NoError(w.t, chromedp.Do(ctx))
				return &tab{w.t, ctx}
			}
		}
	}
	require.Fail(w.t, "the stage has no frame")
	return nil
}

// Two tabs write the same notice: the second is told, and loses nothing.
func TestTwoTabsWriteTheSameNotice(t *testing.T) {
	w := newWorld(t)
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/notices/booking-deadline")
	ines.until("document.querySelector('.tiptap')")
	other := ines.another()
	other.open(w.address + "/sundrey/notices/booking-deadline")
	other.until("document.querySelector('.tiptap')")

	write := func(p *tab, words string) {
		p.do(chromedp.Click(chromedp.CSS(".tiptap")))
		p.do(chromedp.KeyEvent("a", chromedp.KeyModifiers(chromedp.ModifierCtrl)))
		p.key(words)
	}
	write(other, "Theirs")
	other.until("document.querySelector('.saving').textContent === 'Saved'")
	write(ines, "Mine")
	ines.has("Someone else changed this notice after you opened it.")
	assert.Contains(
		t, ask[string](ines, "document.querySelector('.tiptap').textContent"), "Mine", "what was written stands",
	)
	kept, err := w.server.Store.Notice(t.Context(), demo.Key, "booking-deadline")
	require.NoError(t, err)
	assert.Contains(t, kept.Draft.Content.Wordings["en"].Message, "Theirs", "nothing is overwritten")

	write(ines, "Mine, to the last word")
	ines.press("See theirs")
	ines.until("document.querySelector('.tiptap').textContent === 'Theirs'")
	ines.press("History")
	ines.has("wrote this while someone else changed it")
	// The newest comes first.
	ines.at("(e => { e.scrollIntoView({block: 'nearest'}); const r = e.getBoundingClientRect(); " +
		"return [r.x + r.width / 2, r.y + r.height / 2] })(" +
		"[...document.querySelectorAll('button')].find(e => e.textContent.trim() === 'Go back to this'))")
	ines.until("document.querySelector('.tiptap').textContent === 'Mine, to the last word'")
}

// Unpublishing, pausing, deleting and undoing, by hand.
func TestCommands(t *testing.T) {
	w := newWorld(t)
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/results/of/no/room")
	ines.has("There is nothing at this address")
	ines.press("Go to Now & next")
	ines.until("location.pathname === '/sundrey/now'")
	ines.open(w.address + "/sundrey/notices/winter-timetable")
	ines.press("Pause")
	ines.has("No visitor sees it until you resume it.")
	ines.press("Resume")
	ines.until("document.querySelector('.halyard').textContent.includes('Live')")
	ines.press("Unpublish")
	ines.has("It is a draft again.")
	ines.press("More commands")
	ines.press("Duplicate")
	ines.has("This is the copy.")
	ines.press("More commands")
	ines.press("Delete")
	ines.has("“Copy of Winter timetable” is deleted.")
	assert.False(
		t, ask[bool](ines, "[...document.querySelectorAll('.notice')].some(n => n.innerText.includes('Copy of'))"),
	)
	ines.press("Undo")
	ines.until("[...document.querySelectorAll('.notice')].some(n => n.innerText.includes('Copy of'))")

	// The master switch.
	ines.press("Site")
	ines.has("Found on all 66 pages")
	ines.at("(e => { const r = e.getBoundingClientRect(); return [r.x + 10, r.y + 10] " +
		"})(document.querySelector('.el-switch'))")
	ines.has("The master switch is off")
	visitor := person(t)
	visitor.open(w.site + "/timetables")
	visitor.settled()
	visitor.shows()

	// A session that ends is taken up again in place.
	_, err := w.server.Store.DB().Exec("DELETE FROM session")
	require.NoError(t, err)
	ines.press("Pages")
	ines.until("document.querySelector('.again input[name=email]')")
}

// Ten lines for whom ten lines do: copied in the interface, and right on a
// phone without anything else.
func TestPlainHTML(t *testing.T) {
	w := newWorld(t)
	p := person(t)
	w.giveSession(p)
	p.open(w.address + "/sundrey/notices/storm-warning")
	p.press("More commands")
	p.press("Copy as plain HTML")
	p.until("document.querySelector('[aria-label=\"Plain HTML\"]')?.value")
	html := ask[string](p, "document.querySelector('[aria-label=\"Plain HTML\"]').value")
	assert.Less(t, len(html), 3000)
	v := person(t)
	v.size(390, 800)
	v.open("data:text/html,<title>x</title>")
	ask[bool](
		v,
		fmt.Sprintf(
			"(document.documentElement.innerHTML = %q, document.documentElement.lang = 'en', true)",
			"<head><title>A page</title><meta name=viewport content='width=device-width'></head><body style='margin:0'><main>"+
				html+"<h1>Page</h1></main></body>",
		),
	)
	assert.Equal(
		t, "Warning No sailings to Fennay and Little Skarn before noon: gale from the west.",
		ask[string](v, "document.querySelector('.notice-storm-warning-words').textContent.trim()"),
	)
	assert.LessOrEqual(t, ask[int](v, "document.documentElement.scrollWidth"), 390)
	assert.Equal(
		t, "rgb(246, 217, 168)",
		ask[string](v, "getComputedStyle(document.querySelector('.notice-storm-warning')).backgroundColor"),
	)
	assert.Empty(t, v.axe())
}
