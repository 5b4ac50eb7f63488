package e2e

import (
	"fmt"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/countdown"
	"mastflag/core/schedule"
)

// The site script's figures and words, asked in the browser, on the cases that
// the core is tested with; its plurals and lists are the browser's own Intl.
func TestFiguresInTheBrowser(t *testing.T) {
	cases, err := os.ReadFile("../core/countdown/testdata/cases.json")
	require.NoError(t, err)
	code, err := os.ReadFile("../sitescript/build/countdown.js")
	require.NoError(t, err, "run make build")
	units, err := os.ReadFile("../core/countdown/units.json")
	require.NoError(t, err)
	p := person(t)
	p.open("data:text/html,<title>x</title>")
	wrong := ask[[]string](p, fmt.Sprintf(`(() => { %s; const cases = %s, words = %s, out = []
		const lengths = { weeks: 604800, days: 86400, hours: 3600, minutes: 60, seconds: 1 }
		for (const c of cases) {
			const lang = words[c.lang] ? c.lang : words[c.lang.split('-')[0]] ? c.lang.split('-')[0] : 'en'
			const full = c.units.map(u => words[lang].full[u]), beside = c.labels === 'short' ? c.units.map(u => `+
		`words[lang].short[u]) : full
			const figures = countdown.split(c.left, c.units.map(u => lengths[u]), c.up)
			const labels = c.labels === 'none' ? figures.map(() => '') : figures.map((n, i) => countdown.label(beside[i], n, `+
		`lang))
			const same = (a, b) => JSON.stringify(a) === JSON.stringify(b) || out.push(c.what + ': ' + JSON.stringify(a) + ',`+
		` not ' + JSON.stringify(b))
			same(figures, c.figures)
			if (c.beside) same(labels, c.beside)
			same(countdown.sentence(figures, { full, lang }), c.sentence)
		}
		if (cases.length < 20) out.push('only ' + cases.length + ' cases')
		return out })()`, code, cases, units))
	assert.Empty(t, wrong)
}

// counting gives a bar a countdown.
func counting(c countdown.Countdown) func(*bundle.Notice) {
	return func(n *bundle.Notice) { n.Content.Countdown = &c }
}

// local is an instant on the demo site's wall clock.
func local(t *testing.T, at time.Time) string {
	london, err := schedule.Zone("Europe/London")
	require.NoError(t, err)
	return schedule.LocalAt(at, london).String()
}

// figures are what the countdowns on a visitor's page read.
const figures = `[...document.querySelectorAll('mastflag-notice')].flatMap(h => ` +
	`[...h.shadowRoot.querySelectorAll('.figures')].map(e => e.textContent.replace(/\s+/g, ' ').trim())).join(', ')`

// said are the same in words, as a screen reader has them.
const said = `[...document.querySelectorAll('mastflag-notice')].flatMap(h => ` +
	`[...h.shadowRoot.querySelectorAll('[role=timer] .unseen')].map(e => e.textContent)).join(', ')`

// moves sets the program's clock, as if time had gone by while the page was out
// of sight, and lets the page be looked at again.
func (w *world) moves(v *tab, to time.Time) {
	w.t.Helper()
	time.Sleep(1100 * time.Millisecond) // a page looked at twice within a second asks once
	w.clock.Set(to)
	ask[bool](v, "(document.dispatchEvent(new Event('visibilitychange', { bubbles: true })), true)")
}

// Each thing that can follow the end of a countdown, on a page that is open when
// it comes.
func TestCountdownEnds(t *testing.T) {
	w := newWorld(t)
	v := person(t)
	noteErrors(v)
	noon := start.Add(time.Hour)
	soon := func(then countdown.Then) countdown.Countdown {
		return countdown.Countdown{
			Kind:  countdown.To,
			At:    local(t, noon),
			Then:  then,
			Units: []countdown.Unit{"minutes", "seconds"},
		}
	}
	runs := func(page string, notices ...bundle.Notice) {
		t.Helper()
		w.clock.Set(noon.Add(-30 * time.Minute))
		w.only(notices...)
		v.open(w.site + page)
		v.until("/^(30 minutes 0|29 minutes \\d+) seconds?$/.test(" + figures + ")")
		w.moves(v, noon.Add(-2*time.Second))
	}
	// Said sparingly: the figures run on, the sentence does not under the reader.
	w.clock.Set(noon.Add(-30 * time.Minute))
	w.only(bar("calm", "Boarding ends in {countdown}.", counting(soon(countdown.Stay))))
	v.open(w.site + "/ports")
	v.until(figures + " !== ''")
	v.until("(window.first ??= [" + figures + ", " + said + "]) && " + figures + " !== first[0]")
	assert.True(t, ask[bool](v, said+" === first[1]"))
	assert.Equal(
		t, "off",
		ask[string](
			v, "(e => e.ariaLive ?? 'off')(document.querySelector('mastflag-notice').shadowRoot.querySelector('[role=timer]'))",
		),
		"a timer is not announced by itself",
	)

	message := func(id, words string, c countdown.Countdown) bundle.Notice { return bar(id, words, counting(c)) }

	runs("/ports", message("stays", "Boarding ends in {countdown}.", soon(countdown.Stay)))
	v.until(figures + " === '0 minutes 0 seconds'")
	v.until(said + " === '0 seconds'")
	v.shows("Boarding ends in 0 seconds0 minutes 0 seconds.")

	says := message("says", "Boarding ends in {countdown}.", soon(countdown.Say))
	says.Content.Wordings["en"] = bundle.Wording{
		Message:        "Boarding ends in {countdown}.",
		ExpiredMessage: "<p>Boarding has ended.</p>",
	}
	runs("/ports", says)
	const visible = `document.querySelector('mastflag-notice').shadowRoot.querySelector('.words').innerText.trim()`
	v.until(visible + " === 'Boarding has ended.'")
	v.open(w.site + "/fares")
	v.until("document.querySelector('mastflag-notice') && " + visible + " === 'Boarding has ended.'")

	runs("/ports", message("goes-away", "Soon", soon("")))
	v.until("document.querySelectorAll('mastflag-notice').length === 0")
	v.open(w.site + "/fares")
	v.settled()
	v.shows()

	handing := soon(countdown.HandOver)
	handing.HandTo = "heir"
	runs("/ports", message("hands", "Soon", handing), bar("heir", "Now it is on"))
	v.shows("Now it is on")

	// To an address, but not from the page it is on, and once in a session.
	going := soon(countdown.Stay)
	going.Go = "/offers"
	goes := message("goes", "Sale in", going)
	goes.Content.Countdown.Labels = countdown.Full
	runs("/ports", goes)
	v.until("location.pathname === '/offers'")
	v.until(figures + " === '0 minutes 0 seconds'")
	runs("/fares", goes)
	v.until(figures + " === '0 minutes 0 seconds'")
	w.calm(v)
	assert.Equal(t, "/fares", ask[string](v, "location.pathname"), "not twice in a session")
	other := person(t)
	w.clock.Set(noon.Add(-30 * time.Minute))
	other.open(w.site + "/offers?from=mail")
	other.until(figures + " !== ''")
	w.moves(other, noon.Add(-2*time.Second))
	other.until(figures + " === '0 minutes 0 seconds'")
	w.calm(other)
	assert.Equal(t, "?from=mail", ask[string](other, "location.search"), "not to the page it is on")

	// A number that has reached its end does so too.
	ten := 10
	w.clock.Set(noon.Add(-30 * time.Minute))
	w.only(message("number", "Places left", countdown.Countdown{
		Kind:  countdown.Number,
		At:    local(t, noon.Add(-time.Hour)),
		Until: local(t, noon),
		From:  20,
		To:    &ten,
		Go:    "/offers",
	}))
	v.open(w.site + "/tours")
	v.until("/^1[56]$/.test(" + figures + ")")
	w.moves(v, noon.Add(-2*time.Second))
	v.until("location.pathname === '/offers' && " + figures + " === '10'")

	// In the tab title it goes on as well.
	w.clock.Set(noon.Add(-30 * time.Minute))
	w.only(bar("title", "Boarding in {countdown}", in(bundle.TabTitle), counting(soon(countdown.Stay))))
	v.open(w.site + "/ports")
	v.until("/^Boarding in (30 minutes 0|29 minutes \\d+) seconds?$/.test(document.title)")
	w.moves(v, noon.Add(-2*time.Second))
	v.until("document.title === 'Boarding in 0 minutes 0 seconds'")

	// Of many moments the next.
	daily := countdown.Countdown{
		Kind:   countdown.Repeating,
		At:     local(t, noon),
		Rule:   "FREQ=DAILY",
		Units:  []countdown.Unit{"minutes", "seconds"},
		Labels: countdown.None,
	}
	w.clock.Set(noon.Add(-30 * time.Minute))
	w.only(message("daily", "Next boat", daily))
	v.open(w.site + "/ports")
	v.until("/^(30 00|29 \\d\\d)$/.test(" + figures + ")")
	w.moves(v, noon.Add(-2*time.Second))
	v.until("/^14(40|39) \\d\\d$/.test(" + figures + ")")

	// A visitor's own, begun again.
	w.only(message("again", "Every few seconds", countdown.Countdown{
		Kind:  countdown.Visitor,
		For:   "PT4S",
		Then:  countdown.Again,
		Units: []countdown.Unit{"seconds"},
		Frame: countdown.Square,
	}))
	v.open(w.site + "/ports")
	v.until("(window.seen ??= new Set()).add(" + figures +
		") && ['1 second', '4 seconds'].every(x => seen.has(x)) && seen.size >= 3")
	v.until("(window.then ??= []).push(" + figures + ") && then.join().includes('1 second,4 seconds') || " +
		"then.join().includes('1 second,3 seconds')")
	v.unharmed()
}

// A deadline of the visitor's own is the same on every page, in another tab and
// on another visit; reloading does not win it back; over, it stays over.
func TestOwnDeadline(t *testing.T) {
	w := newWorld(t)
	w.only(bar("offer", "Yours for {countdown}", counting(countdown.Countdown{
		Kind:  countdown.Visitor,
		For:   "PT1H",
		Units: []countdown.Unit{"minutes"},
	})))
	v := person(t)
	v.open(w.site + "/ports")
	v.until(figures + " === '60 minutes'")
	w.clock.Set(w.clock.Now().Add(20 * time.Minute))
	v.open(w.site + "/fares")
	v.until(figures + " === '40 minutes'")
	v.open(w.site + "/fares")
	v.until(figures + " === '40 minutes'")
	w.clock.Set(w.clock.Now().Add(10 * time.Minute))
	later := v.another() // a tab of its own: a session of its own
	later.open(w.site + "/")
	later.until(figures + " === '30 minutes'")
	stranger := person(t)
	stranger.open(w.site + "/ports")
	stranger.until(figures + " === '60 minutes'")
	w.clock.Set(w.clock.Now().Add(31 * time.Minute))
	for _, page := range []string{"/ports", "/offers"} {
		later.open(w.site + page)
		later.settled()
		later.shows()
	}
	// Where nothing can be kept it lasts as long as the page.
	barred := person(t)
	noteErrors(barred)
	noStorage(barred)
	barred.open(w.site + "/ports")
	barred.until(figures + " === '60 minutes'")
	barred.unharmed()
}

// The server's clock decides: neither a wrong clock, nor one that is set while
// the page is open, nor a sleep changes what is left.
func TestWrongClock(t *testing.T) {
	w := newWorld(t)
	w.only(bar("gate", "Gate closes in {countdown}", counting(countdown.Countdown{
		Kind:  countdown.To,
		At:    local(t, start.Add(10*time.Hour)),
		Units: []countdown.Unit{"hours"},
	})),
		bar("own", "On your own clock {countdown}", counting(countdown.Countdown{
			Kind:  countdown.To,
			At:    local(t, start.Add(10*time.Hour)),
			Clock: schedule.ClockVisitor,
			Units: []countdown.Unit{"hours"},
		})))
	v := person(t)
	v.before(`{ const Real = Date; window.shift = 5 * 3600e3
		window.Date = class extends Real { constructor(...a) { if (a.length) super(...a); else super(Real.now() + shift) ` +
		`} static now() { return Real.now() + shift } } }`)
	v.open(w.site + "/ports")
	v.until("/^10 hours, \\d+ hours$/.test(" + figures + ")")
	// Someone sets the machine's clock.
	ask[bool](v, "(shift = -90 * 60e3, true)")
	time.Sleep(1500 * time.Millisecond)
	v.until("/^10 hours, /.test(" + figures + ")")
	// It sleeps for three hours: one of its clocks goes on, the other does not.
	w.clock.Set(w.clock.Now().Add(3 * time.Hour))
	ask[bool](v, "(shift += 3 * 3600e3, true)")
	v.until("/^7 hours, /.test(" + figures + ")")
}

// Framed figures are read at 320 px, in a dark window too, and axe finds nothing.
func TestFramedFigures(t *testing.T) {
	w := newWorld(t)
	for _, frame := range []countdown.Frame{countdown.Open, countdown.Square, countdown.Round} {
		w.only(bar("f", "<p>Booking for Christmas closes in</p>", counting(countdown.Countdown{
			Kind:  countdown.To,
			At:    local(t, start.AddDate(0, 0, 12)),
			Units: countdown.Units,
			Frame: frame,
			Size:  countdown.Large,
		})))
		v := person(t)
		v.size(320, 640)
		v.open(w.site + "/ports")
		v.until(figures + " !== ''")
		assert.LessOrEqual(
			t,
			ask[float64](
				v,
				`(e => Math.max(...[...e.querySelectorAll('.unit')].map(u => `+
					`u.getBoundingClientRect().right)))(document.querySelector('mastflag-notice').shadowRoot)`,
			),
			320.0, frame,
		)
		assert.Equal(
			t, "tabular-nums",
			ask[string](
				v,
				`getComputedStyle(document.querySelector('mastflag-notice').shadowRoot.querySelector('.count `+
					`b')).fontVariantNumeric`,
			),
		)
		assert.Empty(t, v.axe(), frame)
	}
}
