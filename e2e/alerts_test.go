package e2e

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/countdown"
	"mastflag/internal/demo"
)

// An alert arrives by a feed, is let through, closed, updated and cancelled,
// while a visitor's tab stays open.
func TestAlertInAnOpenTab(t *testing.T) {
	w := newWorld(t)
	w.only(bar("winter", "Winter timetable"))
	w.changeSite(func(s *bundle.Site) { s.Refresh = "PT5S" })
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/ports/fennay")
	v.shows("Winter timetable")
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/site/alerts")
	ines.press("A warning")
	ines.has("waits for you")
	ines.has("New alert, emergency: Severe gale in the western sound until tonight.")
	assert.Empty(t, ines.axe())
	ines.open(w.address + "/sundrey")
	ines.has("New alert, emergency: Severe gale in the western sound until tonight.")
	v.shows("Winter timetable")
	ines.press("Publish it")
	ines.has("Published.")

	const gale = "EmergencySevere gale in the western sound until tonight. Stay off piers and open decks."
	shows := func(words string) { v.until("(" + bars + ").some(b => b.startsWith('" + words + "'))") }
	shows(gale)
	assert.True(
		t,
		ask[bool](
			v,
			`(h => h.shadowRoot.querySelector('[role=alert]').textContent.includes('Emergency') && `+
				`!!h.shadowRoot.querySelector('svg'))(document.querySelector('mastflag-over mastflag-notice'))`,
		),
		"said at once, in a word and by a sign",
	)
	assert.Empty(t, v.axe())
	// On another place's pages it does not show; in German it speaks German.
	other := person(t)
	other.open(w.site + "/ports/aldwick")
	other.shows("Winter timetable")
	other.open(w.site + "/de/ports/fennay")
	other.until("(" + bars + ").some(b => b.startsWith('NotfallSchwerer Sturm'))")

	// Closed, it is gone from this page view; an update brings it back.
	v.at("(e => { const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] " +
		"})(document.querySelector('mastflag-over mastflag-notice').shadowRoot.querySelector('[data-act=close]'))")
	v.shows("Winter timetable")
	v.open(w.site + "/ports/little-skarn")
	shows(gale)
	v.at("(e => { const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] " +
		"})(document.querySelector('mastflag-over mastflag-notice').shadowRoot.querySelector('[data-act=close]'))")
	v.shows("Winter timetable")
	time.Sleep(1100 * time.Millisecond) // the update is of a later second
	ines.open(w.address + "/sundrey/site/alerts")
	ines.press("An update of it")
	ines.has("was updated")
	shows("EmergencyThe gale grows: western sound closed to all boats.")

	ines.press("A broken message")
	ines.has("this is not well-formed XML")
	ines.press("Its end")
	ines.has("has ended")
	v.shows("Winter timetable")
	v.unharmed()
}

// A feed is set up by hand: its rules are read and changed, a message is pasted,
// and what is no message says so.
func TestFeedByHand(t *testing.T) {
	w := newWorld(t)
	w.only()
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/site/alerts")
	ines.press("Add a feed")
	ines.until("document.querySelector('.feed')")
	ines.fill("What you call it", "Harbour master")
	ines.at("(e => { const r = e.getBoundingClientRect(); return [r.x + 20, r.y + r.height / 2] " +
		"})([...document.querySelectorAll('summary')].find(s => s.textContent.includes('Which level')))")
	ines.has("Extreme or severe; immediate or expected; observed or likely: emergency.")
	ines.press("Remove rule 1")
	ines.press("Keep")
	ines.has("Harbour master")
	s, err := w.server.Store.Site(t.Context(), demo.Key)
	require.NoError(t, err)
	require.Len(t, s.Feeds, 2)
	assert.Len(t, s.Feeds[1].Levels, 1)
	ines.fill("A message in XML", "boats late")
	ines.press("Take it in")
	ines.has("this is not well-formed XML")
	assert.Equal(t, "boats late", ask[string](ines, "document.querySelector('textarea').value"), "nothing written is lost")
}

// A countdown is begun, told what to count and what to do at its end, moved on the
// strip, and taken away again.
func TestCountdownIsMade(t *testing.T) {
	w := newWorld(t)
	w.only(bar("later", "Later"))
	ines := person(t)
	w.signIn(ines)
	ines.has("later")
	ines.press("New notice")
	const item = `[...document.querySelectorAll('.starting-menu li')].find(l => l.textContent.startsWith('A countdown'))`
	ines.until(item + "?.getClientRects().length")
	ines.at("(e => { const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] })(" + item + ")")
	ines.has("it counts down to Sat 5 Dec 12:00 and then disappears")
	ines.do(chromedp.Click(chromedp.CSS(".tiptap")))
	ines.key("Doors close in ")
	ines.press("Countdown")
	ines.until("document.querySelector('.editor .countdown')")
	ines.has("Reads now: 23 hours")
	assert.Empty(t, ines.axe())
	ines.choose("How the figures are set", "in round frames")
	ines.choose("What follows the end", "another notice takes its place")
	ines.has("and then hands over to “later”")
	ines.choose("What follows the end", "it says something else")
	ines.press("Done")
	ines.fill("What it says then, in English", "")
	ines.do(chromedp.Click(chromedp.CSS(".after .tiptap")))
	ines.key("Doors are closed.")
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	const end = `document.querySelector('[aria-label="End of the countdown"]')`
	ask[bool](ines, end+".focus() || true")
	ines.key(kb.ArrowRight)
	ines.has("it counts down to Sat 5 Dec 13:00")
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	from := ask[[]float64](
		ines,
		"(e => { e.scrollIntoView({ block: 'center' }); const r = e.getBoundingClientRect(); return [r.x + r.width / 2, "+
			"r.y + 6] })("+end+")",
	)
	ines.drag(from, []float64{from[0] + 60, from[1]})
	ines.until("!document.body.innerText.includes('counts down to Sat 5 Dec')")
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	n, err := w.server.Store.Notice(t.Context(), demo.Key, "new-countdown")
	require.NoError(t, err)
	c := n.Draft.Countdown()
	assert.Equal(t, countdown.Round, c.Frame)
	assert.Equal(t, countdown.Say, c.Then)
	assert.Contains(t, n.Draft.Wordings()["en"].Message, "Doors close in {countdown}")
	assert.Equal(t, "<p>Doors are closed.</p>", n.Draft.Wordings()["en"].ExpiredMessage)
	ines.at("(e => { e.scrollIntoView({ block: 'center' }); const r = e.getClientRects()[0]; return [r.x + 10, r.y + " +
		"r.height / 2] })(document.querySelector('[data-control=countdown]'))")
	ines.press("Remove the countdown")
	ines.until("!document.querySelector('[data-control=countdown]')")
	ines.until("!document.querySelector('.tiptap').textContent.includes('countdown')")

	// In a plain bar it begins with one press, and leaves the words as they were.
	ines.begin()
	ines.has("Show this bar at the top")
	ines.do(chromedp.Click(chromedp.CSS(".tiptap")))
	ines.key("To the ")
	ines.do(chromedp.KeyEvent("b", chromedp.KeyModifiers(chromedp.ModifierCtrl)))
	ines.key("quay")
	ines.do(chromedp.KeyEvent("b", chromedp.KeyModifiers(chromedp.ModifierCtrl)))
	ines.key(" in ")
	ines.press("Countdown")
	ines.has("Reads now: 23 hours")
	ines.press("Remove the countdown")
	ines.until("document.querySelector('.tiptap').textContent.trim() === 'To the quay in'")
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	n, err = w.server.Store.Notice(t.Context(), demo.Key, "new-bar")
	require.NoError(t, err)
	assert.Contains(t, n.Draft.Wordings()["en"].Message, "To the <strong>quay</strong> in")
	assert.Nil(t, n.Draft.Countdown())
}
