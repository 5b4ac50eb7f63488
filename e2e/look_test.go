package e2e

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// axe runs axe-core on the tab and returns what it finds at WCAG 2.2 A and AA
// and in its best practices, each as one line; of some rules alone if they are
// named. Frames are the sites' own matter and are left out.
func (p *tab) axe(rules ...string) []string {
	p.t.Helper()
	code, err := os.ReadFile("../node_modules/axe-core/axe.min.js")
	require.NoError(p.t, err, "run make install")
	p.until("!document.querySelector('[class*=-leave-active]') && document.getAnimations().every(a => " +
		"a.effect?.getComputedTiming().iterations === Infinity || a.playState !== 'running')")
	if ask[bool](p, "!window.axe") {
		ask[bool](p, string(code)+";true")
	}
	only, err := json.Marshal(rules)
	require.NoError(p.t, err)
	return ask[[]string](p, `(only => axe.run(document, { iframes: false, ...(only && { runOnly: only }) }))(`+
		string(only)+`).then(r => r.violations.flatMap(v => v.nodes.map(n => v.id + ': ' + n.target.join(' ') + ' ' + `+
		`(n.any[0]?.message ?? n.all[0]?.message ?? n.none[0]?.message ?? ''))))`)
}

// rooms are the screens, each with words that stand on it once it is there.
func rooms(w *world) map[string]string {
	return map[string]string{
		"/sundrey/now":                         "What needs you",
		"/sundrey/now?page=/timetables":        "Shows here",
		"/sundrey/notices/winter-timetable":    "Contrast",
		"/sundrey/notices/booking-deadline":    "a longer message",
		"/sundrey/pages?at=2026-12-25T09:00":   "66 known pages",
		"/sundrey/site":                        "Found on all 66 pages",
		"/sundrey/site/about":                  "Colours offered for notices",
		"/sundrey/site/words":                  "what opens the longer message",
		"/sundrey/documents/privacy":           "What it has to say",
		"/sundrey/consent":                     "The inventory",
		"/sundrey/consent/asks":                "Notices that ask",
		"/sundrey/consent/answers":             "visitors were asked",
		"/sundrey/consent/places":              "Austria",
		"/sundrey/library":                     "Welcome back",
		"/sundrey/results":                     "kestrel.haulage",
		"/sundrey/notices/service-news":        "Send button",
		"/sundrey/notices/unfinished-booking":  "as they see it elsewhere",
		"/sundrey/notices/seal-film":           "Two hours among the skerries",
		"/sundrey/notices/there-is-none":       "is not here",
		"/sundrey/now?at=2027-03-28T08:00":     "2027",
		"/sundrey/now?zone=America%2FNew_York": "their clock",
	}
}

func TestAxeFindsNothing(t *testing.T) {
	w := newWorld(t)
	ines := person(t)
	ines.open(w.address + "/")
	ines.has("Sign in")
	ines.axeInBothSchemes("the door")
	w.giveSession(ines)
	for path, words := range rooms(w) {
		ines.open(w.address + path)
		ines.has(words)
		if path == "/sundrey/notices/winter-timetable" {
			ines.until("document.querySelector('.tiptap')")
		}
		ines.axeInBothSchemes(path)
	}
	ines.open(w.address + "/sundrey/results?notice=regatta")
	ines.has("Day by day")
	ines.until("document.querySelector('.chart svg')")
	ines.axeInBothSchemes("results")
	for notice, controls := range map[string][]string{
		"winter-timetable":    {"level", "slot", "position", "pages", "schedule", "memory"},
		"christmas-countdown": {"experiment"},
	} {
		ines.open(w.address + "/sundrey/notices/" + notice)
		for _, control := range controls {
			ines.until("document.querySelector('[data-control=" + control + "]')")
			ask[bool](ines, "document.querySelector('[data-control="+control+"]').click() || true")
			ines.until("document.querySelector('.editor')")
			ines.axeInBothSchemes(control)
			assert.LessOrEqual(
				t, ask[float64](ines, "document.querySelector('.editor').getBoundingClientRect().right"), 1280.0,
				"%s stays within the window", control,
			)
			ask[bool](ines, "document.querySelector('.editor .done button').click() || true")
		}
	}

	// The bars on the site, whose own pages are sound.
	for _, path := range []string{"/timetables", "/de/timetables", "/book"} {
		v := person(t)
		v.open(w.site + path)
		v.settled()
		assert.Empty(t, v.axe(), path)
	}
}

// axeInBothSchemes has axe look at a screen, and again in the dark: at what colours are for.
func (p *tab) axeInBothSchemes(screen string) {
	p.t.Helper()
	assert.Empty(p.t, p.axe(), screen)
	p.media("screen", &emulation.MediaFeature{Name: "prefers-color-scheme", Value: "dark"})
	p.until("matchMedia('(prefers-color-scheme:dark)').matches")
	p.drawn()
	assert.Empty(p.t, p.axe("color-contrast", "link-in-text-block"), "%s, in the dark", screen)
	p.media("screen", &emulation.MediaFeature{Name: "prefers-color-scheme", Value: "light"})
}

// At 390 px nothing is cut off at the side, and the main commands are there.
func TestSmallScreens(t *testing.T) {
	w := newWorld(t)
	ines := person(t)
	ines.size(390, 844)
	w.giveSession(ines)
	for path, words := range rooms(w) {
		ines.open(w.address + path)
		ines.has(words)
		assert.LessOrEqual(t, ask[int](ines, "document.documentElement.scrollWidth"), 390, path)
	}
	ines.open(w.address + "/sundrey/now")
	ines.begin()
	ines.until("document.querySelector('.tiptap')")
	ines.has("Publish")
	ines.until("document.querySelector('[data-control=pages]')")
	ask[bool](ines, "document.querySelector('[data-control=pages]').click() || true")
	ines.has("known pages carry it")
	assert.LessOrEqual(t, ask[int](ines, "document.documentElement.scrollWidth"), 390)
}

// The moment can be moved by keyboard, and everything follows.
func TestViewpoint(t *testing.T) {
	w := newWorld(t)
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/now?page=/fares")
	ines.has("“Privacy choices”, “Winter timetable”, “Documents in the footer” and “Friday fare sale” show on /fares")
	ask[bool](ines, "document.activeElement.blur() || true")
	ines.key("]")
	ines.has("“Privacy choices”, “Winter timetable” and “Documents in the footer” show on /fares")
	ines.until("new URL(location).searchParams.get('at') === '2026-12-04T18:00'")
	ines.key("[")
	ines.until("new URL(location).searchParams.get('at') === '2026-12-04T12:00'")
	ines.key("?")
	ines.has("Step the moment on to the next change")

	// How long a change of viewpoint takes, from the key to the screen; printed, not judged.
	ines.open(w.address + "/sundrey/now?page=/fares")
	ines.has("Friday fare sale")
	ms := ask[float64](
		ines,
		`new Promise(done => { const was = document.querySelector('.summary').textContent; const t = performance.now(); `+
			`new MutationObserver((_, o) => { if (document.querySelector('.summary').textContent !== was) { o.disconnect(); `+
			`done(performance.now() - t) } }).observe(document.body, { subtree: true, childList: true, characterData: true });`+
			` document.activeElement.blur(); dispatchEvent(new KeyboardEvent('keydown', { key: ']', bubbles: true })); `+
			`document.body.dispatchEvent(new KeyboardEvent('keydown', { key: ']', bubbles: true })) })`,
	)
	t.Logf("a change of viewpoint took %.0f ms", ms)
}
