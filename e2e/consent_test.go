package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/findings"
	"mastflag/core/results"
	"mastflag/core/schedule"
	"mastflag/internal/demo"
	"mastflag/internal/history"
	"mastflag/internal/inspect"
	"mastflag/internal/store"
)

// asks reports whether the consent question stands on a visitor's page.
const asks = `[...document.querySelectorAll('mastflag-notice')].some(h => h.shadowRoot.querySelector('.ask'))`

// inAsk presses a button of the consent notice, by its act or a selector.
func (p *tab) inAsk(selector string) {
	p.t.Helper()
	const root = `[...document.querySelectorAll('mastflag-notice')].map(h => h.shadowRoot).find(r => ` +
		`r.querySelector('.ask'))`
	if !strings.ContainsAny(selector, "[.") {
		selector = "[data-act=" + selector + "]"
	}
	p.until(root + "?.querySelector('" + selector + "')")
	p.at("(e => { e.scrollIntoView({ block: 'nearest' }); const r = e.getBoundingClientRect(); return [r.x + r.width / " +
		"2, r.y + r.height / 2] })(" + root + ".querySelector('" + selector + "'))")
}

// again presses the control that asks again.
func (p *tab) again() {
	p.t.Helper()
	const button = `[...document.querySelectorAll('mastflag-notice')].map(h => ` +
		`h.shadowRoot.querySelector('.again')).find(Boolean)`
	p.until(button)
	p.at("(r => [r.x + r.width / 2, r.y + r.height / 2])(" + button + ".getBoundingClientRect())")
	p.until(asks)
}

// kept is what the vendors keep on a visitor's machine.
const kept = `[...document.cookie.split('; ').map(c => c.split('=')[0]).filter(Boolean), ` +
	`...Object.keys(localStorage).filter(k => !k.startsWith('mastflag.'))].sort().join(' ')`

func (p *tab) keeps(what ...string) {
	p.t.Helper()
	p.until(kept + " === '" + strings.Join(what, " ") + "'")
}

// records are the answers that the program has kept beside those of the demo,
// the first first.
func (w *world) records() []consent.Record {
	w.t.Helper()
	var out []consent.Record
	for l, err := range w.server.Store.ConsentLinks(w.t.Context(), demo.Key) {
		require.NoError(w.t, err)
		if l.Seq <= w.answered {
			continue
		}
		var r consent.Record
		if l.Body != nil {
			require.NoError(w.t, json.Unmarshal(l.Body, &r))
		}
		out = append(out, r)
	}
	return out
}

// told waits until so many answers are kept and returns the last.
func (w *world) told(n int) consent.Record {
	w.t.Helper()
	require.Eventually(w.t, func() bool { return len(w.records()) == n }, patience, 30*time.Millisecond)
	return w.records()[n-1]
}

// rename changes the demo's consent notice and publishes it.
func (w *world) rewrite(change func(*bundle.Notice)) {
	w.t.Helper()
	n, err := w.server.Store.Notice(w.t.Context(), demo.Key, "privacy")
	require.NoError(w.t, err)
	_, err = w.server.Store.Change(
		w.t.Context(),
		demo.Key,
		"privacy",
		n.Revision,
		func(n *store.Notice, number int) (store.Entry, error) {
			next := *n.Published
			change(&next)
			n.Published, n.Number, n.PublishedAt = &next, number, w.clock.Now()
			return store.Entry{At: w.clock.Now(), Deed: history.Published.With(), Number: number}, nil
		},
	)
	require.NoError(w.t, err)
	require.NoError(w.t, w.server.Hub.Reload(w.t.Context(), demo.Key))
}

// Nothing before the answer; refused, it stays so; agreed to, it is set; a part
// of it; withdrawn, it goes.
func TestConsent(t *testing.T) {
	w := newWorld(t)
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/ports/aldwick")
	v.until(asks)
	assert.Empty(t, v.axe())
	v.keeps()
	assert.Empty(
		t,
		ask[[]string](
			v, "performance.getEntriesByType('resource').map(r => r.name).filter(n => /tidewater|gannet|collect/.test(n))",
		),
		"nothing of the vendors is even fetched",
	)
	assert.Empty(t, w.records())

	v.inAsk("reject")
	r := w.told(1)
	assert.Equal(t, consent.Refused, r.EventType)
	assert.Equal(t, "button", r.Method)
	assert.Equal(t, "/ports/aldwick", r.Page)
	assert.Equal(t, consent.OptIn, r.PlaceRule)
	assert.Empty(t, r.Jurisdiction)
	v.until("!(" + asks + ")")
	v.open(w.site + "/ports/fennay?from=mail")
	v.settled()
	v.keeps()
	assert.False(t, ask[bool](v, asks), "answered, it is not asked again")

	v.again()
	v.inAsk("accept")
	assert.Equal(t, consent.Accepted, w.told(2).EventType)
	assert.Equal(t, "/ports/fennay", w.records()[1].Page, "without its query")
	v.keeps("gnt_id", "gnt_seen_ports", "last_port", "tw.path", "tw_visit")
	v.until("performance.getEntriesByType('resource').some(r => r.name.includes('vendors.test') && " +
		"r.name.includes('collect.gif'))")

	// Withdrawing is as near as giving, by the site's own link here.
	ask[bool](v, "document.querySelector('[data-privacy]').click() || true")
	v.until(asks)
	// And it stays, whatever has the page ask the server once more, until it is answered or closed.
	decisions := "performance.getEntriesByType('resource').filter(r => r.name.includes('/d/') && r.responseEnd > 0).length"
	before := ask[int](v, decisions)
	ask[bool](v, "new Promise(r => setTimeout(r, 1100)).then(() => document.dispatchEvent("+
		"new Event('visibilitychange', { bubbles: true })))")
	v.until(fmt.Sprintf("%s > %d", decisions, before))
	v.drawn()
	assert.True(t, ask[bool](v, asks))
	ask[bool](v, "window.before = true")
	v.inAsk("reject")
	assert.Equal(t, consent.Refused, w.told(3).EventType)
	v.until("!window.before && document.readyState === 'complete'") // what has run is gone with the page
	v.settled()
	v.keeps()

	// What was written on the page is not lost to it.
	v.again()
	v.inAsk("accept")
	w.told(4)
	v.keeps("gnt_id", "gnt_seen_ports", "last_port", "tw.path", "tw_visit")
	ask[bool](
		v,
		"(document.querySelector('main').insertAdjacentHTML('beforeend', '<textarea></textarea>'), "+
			"document.querySelector('textarea').value = 'A letter', window.before = true)",
	)
	v.again()
	v.inAsk("reject")
	w.told(5)
	v.keeps()
	assert.Equal(t, "A letter", ask[string](v, "document.querySelector('textarea').value"))
	v.open(w.site + "/ports/fennay")

	v.again()
	v.inAsk("choose")
	assert.Empty(t, v.axe())
	assert.Equal(t, []bool{
		true, false, false, false, false,
	}, ask[[]bool](
		v,
		`[...[...document.querySelectorAll('mastflag-notice')].map(h => h.shadowRoot).find(r => `+
			`r.querySelector('.ask')).querySelectorAll('input')].map(b => b.checked)`,
	), "nothing is ticked beforehand")
	v.inAsk("input[value=measurement]")
	v.inAsk("save")
	chosen := w.told(6)
	assert.Equal(t, consent.Chosen, chosen.EventType)
	assert.Equal(t, []consent.Outcome{
		{Purpose: "preferences", EventState: consent.Denied}, {Purpose: "measurement", EventState: consent.Given},
		{Purpose: "marketing", EventState: consent.Denied}, {Purpose: "films", EventState: consent.Denied},
	}, chosen.Purposes)
	v.keeps("tw.path", "tw_visit")
	assert.Equal(
		t, []any{true, false, true},
		ask[[]any](
			v, "[mastflag.consent.granted('measurement'), mastflag.consent.granted('marketing'), mastflag.consent.answered]",
		),
	)

	// A visitor sees the receipt and has the answer erased; the chain holds.
	receipt := ask[string](
		v, `fetch('`+w.address+`/r/sundrey/' + JSON.parse(localStorage['mastflag.sundrey']).consent.id).then(r => r.text())`,
	)
	assert.Contains(t, receipt, chosen.RecordID)
	assert.Contains(t, receipt, "May we count visits", "what was shown is in it")
	v.again()
	v.inAsk("choose")
	v.inAsk("erase")
	v.until("!JSON.parse(localStorage['mastflag.sundrey']).consent")
	v.until(asks)
	assert.Empty(t, w.told(7).RecordID, "the erasure is a record")
	assert.Empty(t, w.records()[5].RecordID)
	head, err := w.server.Store.ConsentHead(t.Context(), demo.Key)
	require.NoError(t, err)
	proof, err := consent.Verify(w.server.Store.ConsentLinks(t.Context(), demo.Key), head)
	require.NoError(t, err)
	assert.EqualValues(t, 1, proof.Erased)
	v.unharmed()
}

// A frame stands back and can be allowed by itself; a script that comes later
// waits too; by keyboard alone; in three languages.
func TestConsentHoldsBack(t *testing.T) {
	w := newWorld(t)
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/de/tours")
	v.until(asks)
	const gap = `[...document.querySelectorAll('main mastflag-notice')].map(h => ` +
		`h.shadowRoot.querySelector('.gap')).find(Boolean)`
	v.until(gap + "?.textContent.includes('Dieser Teil kommt von vendors.test und braucht Ihre Einwilligung zu: Filme.')")
	assert.Empty(t, v.axe())
	v.at("(e => { e.scrollIntoView({ block: 'center' }); const r = e.getBoundingClientRect(); return [r.x + r.width / " +
		"2, r.y + r.height / 2] })(" + gap + ".querySelector('button'))")
	r := w.told(1)
	assert.Equal(t, "frame", r.Method)
	assert.Equal(t, "de", r.Language)
	assert.Equal(t, []consent.Outcome{{Purpose: "films", EventState: consent.Given}}, r.Purposes, "just that")
	v.until("document.querySelector('iframe').src.includes('vendors.test') && !document.querySelector('iframe').hidden " +
		"&& !" + gap)
	v.keeps()
	assert.True(t, ask[bool](v, asks), "the rest is still asked")
	v.inAsk("reject")
	w.told(2)
	v.until("document.readyState === 'complete' && !(" + asks + ") && " + gap)

	late := person(t)
	noteErrors(late)
	late.open(w.site + "/pl/offers")
	late.until(asks)
	late.until("document.querySelector('[data-late] script')")
	late.keeps()
	// By keyboard: to the question, and an answer.
	for range 60 {
		late.key(kb.Tab)
		if ask[bool](late, "document.activeElement.shadowRoot?.activeElement?.dataset.act === 'accept'") {
			break
		}
	}
	assert.Equal(
		t, "Zgadzam się na wszystko", ask[string](late, "document.activeElement.shadowRoot.activeElement.textContent"),
	)
	late.key(kb.Enter)
	assert.Equal(t, "pl", w.told(3).Language)
	late.until(kept + ".includes('gnt_seen_pl')")
	late.until("!document.querySelector('[data-late] script').type")
	v.unharmed()
	late.unharmed()

	// In the middle it is a dialog that the focus does not leave, and goes back from.
	w.rewrite(func(n *bundle.Notice) { n.Slot = bundle.Centre })
	modal := person(t)
	noteErrors(modal)
	modal.open(w.site + "/fares")
	modal.until("document.querySelector('[role=dialog][aria-modal=true]') && " +
		"document.activeElement.shadowRoot?.activeElement?.dataset.act === 'accept'")
	assert.Empty(t, modal.axe())
	modal.key(kb.Escape)
	assert.True(t, ask[bool](modal, asks), "there is nothing to close it with: it is answered")
	for range 3 {
		modal.key(kb.Tab)
	}
	assert.True(t, ask[bool](modal, "document.body.inert"))
	modal.inAsk("reject")
	w.told(4)
	modal.until("!document.querySelector('[role=dialog]') && !document.body.inert")
	modal.unharmed()
}

// An answer holds for its time, and as long as nothing is set that it did not
// speak of: not a colour, not a word.
func TestConsentIsAskedAgain(t *testing.T) {
	w := newWorld(t)
	v := person(t)
	v.open(w.site + "/fares")
	v.inAsk("accept")
	w.told(1)
	v.keeps("gnt_id", "gnt_seen_fares", "tw.path", "tw_visit")

	w.rewrite(func(n *bundle.Notice) {
		n.Look = &bundle.Look{Background: "#123a56"}
		words := n.Content.Wordings["en"]
		words.Message = "<p>Other words for the same.</p>"
		n.Content = &bundle.Content{Consent: n.Content.Consent, Wordings: map[string]bundle.Wording{"en": words}}
	})
	v.open(w.site + "/status")
	v.settled()
	assert.False(t, ask[bool](v, asks), "other words for the same things need no new answer")

	w.changeSite(func(s *bundle.Site) {
		s.Consent.Inventory = append(s.Consent.Inventory, consent.Item{
			Kind:    consent.Cookie,
			Name:    "gnt_more",
			By:      "Gannet Offers",
			Purpose: "marketing",
			Lasts:   "P2Y",
		})
	})
	v.open(w.site + "/ports")
	v.until(asks)
	v.keeps("tw.path", "tw_visit") // what changed goes until there is a new answer; the rest stays
	v.inAsk("accept")
	w.told(2)
	v.keeps("gnt_id", "gnt_seen_ports", "tw.path", "tw_visit")

	w.moves(v, w.clock.Now().AddDate(0, 0, 181))
	v.until(asks)
	v.keeps()

	// Agreement that holds for a year, and a refusal that holds for a day.
	w.rewrite(func(n *bundle.Notice) {
		q := *n.Content.Consent
		q.ValidFor, q.RefusalValidFor = "P1Y", "P1D"
		n.Content = &bundle.Content{Consent: &q, Wordings: n.Content.Wordings}
	})
	given := w.clock.Now()
	agreed, refused := person(t), person(t)
	for i, by := range []*tab{agreed, refused} {
		by.open(w.site + "/fares")
		by.inAsk([]string{"accept", "reject"}[i])
		w.told(3 + i)
	}
	for _, c := range []struct {
		after                   time.Duration
		asksAgreed, asksRefused bool
	}{{23 * time.Hour, false, false}, {25 * time.Hour, false, true}, {364 * 24 * time.Hour, false, true},
		{366 * 24 * time.Hour, true, true}} {
		w.clock.Set(given.Add(c.after))
		for by, asked := range map[*tab]bool{agreed: c.asksAgreed, refused: c.asksRefused} {
			by.open(w.site + "/status")
			by.settled()
			if asked { // the page may begin anew, because of what ran on it
				by.until(asks)
				continue
			}
			assert.False(t, ask[bool](by, asks), "%v: %v", by == agreed, c.after)
		}
	}
}

// With the purposes listed at once, on the narrowest window: rows stack, nothing is cut off, no word is broken in its
// middle, in long German words and from right to left. The control that asks again can be a tab in the notice's
// colours, and a link of the page's own does the same.
func TestConsentOnNarrowWindows(t *testing.T) {
	w := newWorld(t)
	w.changeSite(func(s *bundle.Site) {
		s.Consent.Inventory = append(s.Consent.Inventory, consent.Item{
			Kind:    consent.Cookie,
			Name:    "reichweitenmessung_einwilligungsnachweis_sitzung",
			By:      "Gannet Offers",
			Purpose: "marketing",
			Lasts:   "P2Y",
			For:     map[string]string{"de": "Donaudampfschifffahrtsgesellschaftsangebote, die zu Ihnen passen."},
		})
	})
	w.speaks("ar")
	shown := func(slot bundle.Slot) {
		w.rewrite(func(n *bundle.Notice) {
			q := *n.Content.Consent
			q.PurposeList, q.AskAgainForm, q.AskAgainColours = "shown", "tab", "notice"
			wordings := maps.Clone(n.Content.Wordings)
			wordings["ar"] = bundle.Wording{Message: "<p>هل تسمح لنا بذلك؟</p>"}
			n.Content = &bundle.Content{Consent: &q, Wordings: wordings}
			n.Slot = slot
		})
	}
	const root = `[...document.querySelectorAll('mastflag-notice')].map(h => h.shadowRoot).find(r => ` +
		`r.querySelector('.ask'))`
	// The words of which a part stands on another line, but for those that end in what a line may end with.
	const broken = `(r => {
		const out = [], walk = document.createTreeWalker(r.querySelector('.detail'), NodeFilter.SHOW_TEXT)
		for (let n; (n = walk.nextNode()); )
			for (const m of n.data.matchAll(/[^\s\u00ad-]+/g)) {
				const range = document.createRange()
				range.setStart(n, m.index); range.setEnd(n, m.index + m[0].length)
				const tops = new Set([...range.getClientRects()].map(b => Math.round(b.top)))
				if (tops.size > 1 && m[0].length < 30) out.push(m[0])
			}
		return out
	})(` + root + `)`
	for _, slot := range []bundle.Slot{bundle.CornerStart, bundle.Bottom, bundle.Centre} {
		shown(slot)
		for _, path := range []string{"/fares", "/de/fares", "/ar/fares"} {
			v := person(t)
			v.size(320, 640)
			v.open(w.site + path)
			v.until(asks)
			where := string(slot) + path
			assert.Equal(
				t,
				path == "/ar/fares",
				ask[bool](v, "getComputedStyle("+root+".querySelector('td')).direction === 'rtl'"),
			)
			assert.False(
				t,
				ask[bool](v, "!!"+root+".querySelector('[data-act=choose]')"),
				"%s: nothing is to be chosen first",
				where,
			)
			assert.Empty(t, ask[[]string](v, broken), where)
			assert.Empty(
				t, ask[[]string](
					v, "[..."+root+".querySelectorAll('.ask, .detail, .table, td')].filter(e => e.scrollWidth > e.clientWidth + 1)."+
						"map(e => e.className + e.textContent)",
				), "%s: cut off", where,
			)
			assert.Equal(t, "block", ask[string](v, "getComputedStyle("+root+".querySelector('td')).display"), where)
			assert.Empty(t, v.axe(), where)
		}
	}

	shown(bundle.CornerStart)
	v := person(t)
	noteErrors(v)
	v.size(390, 844)
	v.open(w.site + "/fares")
	v.inAsk("save") // as it stands: nothing but what is necessary
	assert.Equal(t, consent.Refused, w.told(1).EventType)
	const tab = `[...document.querySelectorAll('*')].map(e => e.shadowRoot?.querySelector('.again')).find(Boolean)`
	v.until(tab)
	// How far the tab is from both sides of the window, and how much higher than wide it is.
	const where = "(b => { const r = b.getBoundingClientRect(); return [r.left, document.documentElement.clientWidth - " +
		"r.right, r.height - r.width] })(" + tab + ")"
	at := ask[[]float64](v, where)
	assert.InDelta(t, 0, at[0], 1, "at the edge")
	assert.Greater(t, at[1], 300.0)
	assert.Positive(t, at[2], "upright")
	ask[bool](v, "(document.documentElement.dir = 'rtl', true)")
	at = ask[[]float64](v, where)
	assert.InDelta(t, 0, at[1], 1, "at the other edge where the page runs from right to left")
	ask[bool](v, "(document.documentElement.dir = '', true)")
	assert.Equal(t, "rgb(238, 244, 246)", ask[string](v, "getComputedStyle("+tab+").backgroundColor"))
	assert.Empty(t, v.axe())
	ask[bool](v, "(document.querySelector('footer, main').insertAdjacentHTML('beforeend', "+
		"'<a id=own href=\"#\" data-mastflag-consent>Privacy choices</a>'), true)")
	ask[bool](v, "(document.querySelector('#own').focus(), true)")
	v.key(kb.Enter)
	v.until(asks)
	assert.Equal(t, "/fares", ask[string](v, "location.pathname + location.hash"))
	v.inAsk("accept")
	w.told(2)
	v.until("!(" + asks + ") && document.activeElement.id === 'own'")
	w.rewrite(func(n *bundle.Notice) {
		q := *n.Content.Consent
		q.AskAgainCorner = "end"
		n.Content = &bundle.Content{Consent: &q, Wordings: n.Content.Wordings}
	})
	v.open(w.site + "/status")
	v.until(tab)
	assert.InDelta(t, 0, ask[[]float64](v, where)[1], 1, "at the other edge")
	v.unharmed()
}

// Global Privacy Control, and what places want.
func TestConsentByPlaceAndSignal(t *testing.T) {
	w := newWorld(t)
	v := person(t)
	v.headers(map[string]any{"Sec-GPC": "1"})
	w.from.Store("198.51.100.130") // California
	v.open(w.site + "/fares")
	v.until(asks)
	v.keeps("tw.path", "tw_visit") // told of, not asked: but the signal refuses what sells
	r := w.told(1)
	assert.Equal(t, "signal", r.Method)
	assert.Equal(t, "US-CA", r.Jurisdiction)
	assert.Equal(t, consent.OptOut, r.PlaceRule)
	assert.Equal(t, consent.Outcome{Purpose: "marketing", EventState: consent.Denied}, r.Purposes[2])
	const root = `[...document.querySelectorAll('mastflag-notice')].map(h => h.shadowRoot).find(r => ` +
		`r.querySelector('.ask'))`
	v.until(root + `.querySelector('.ask').innerText.includes('Your browser asks sites not to sell or share')`)
	v.until(root + `.querySelector('[data-act=reject]').textContent === 'Do Not Sell or Share My Personal Information'`)
	v.inAsk("fine")
	r = w.told(2)
	assert.True(t, r.Signal)
	assert.Equal(t, consent.Chosen, r.EventType, "all right does not mean what the signal refuses")
	v.keeps("tw.path", "tw_visit")
	v.open(w.site + "/status")
	v.settled()
	v.keeps("tw.path", "tw_visit")

	// Having been told in California is no consent in Hamburg.
	w.from.Store("192.0.2.70")
	v.open(w.site + "/fares")
	v.until(asks + " && " + root + ".querySelector('[data-act=accept]')")
	v.keeps()
	w.from.Store("198.51.100.130")

	// Where something took the header out, the property counts.
	p := person(t)
	p.before("Object.defineProperty(navigator, 'globalPrivacyControl', { value: true })")
	p.open(w.site + "/fares")
	assert.Equal(t, "signal", w.told(3).Method)
	p.until("!document.cookie.includes('gnt_id')")

	// Without a signal the same place lets it be set, until the visitor objects.
	q := person(t)
	q.open(w.site + "/fares")
	q.until(asks)
	q.keeps("gnt_id", "gnt_seen_fares", "tw.path", "tw_visit")
	q.inAsk("reject")
	assert.Equal(t, consent.Refused, w.told(4).EventType)
	q.keeps()

	// The strictest rule where nobody knows where the visitor is, and in Hamburg.
	for _, from := range []string{"127.0.0.1", "192.0.2.70"} {
		w.from.Store(from)
		s := person(t)
		s.open(w.site + "/fares")
		s.until(asks)
		s.keeps()
	}
}

// Whoever closed the question, or has seen it as often as it may be shown, gets it when they
// ask for it (rule K4): so they can always withdraw.
func TestTheQuestionComesToWhoeverAsks(t *testing.T) {
	w := newWorld(t)
	w.rewrite(func(n *bundle.Notice) {
		closable := true
		n.Memory = &bundle.Memory{
			Closable: &closable, HideAfterClose: bundle.PeriodEver, HideAfterAnswer: bundle.PeriodEver,
			Limits: []bundle.Limit{{Times: 1, Per: "P30D"}},
		}
	})
	w.from.Store("198.51.100.130") // California: it is a notice there, and can be closed
	v := person(t)
	v.open(w.site + "/fares")
	v.until(asks)
	v.inAsk("close")
	v.until("!(" + asks + ")")
	v.open(w.site + "/status")
	v.settled()
	assert.False(t, ask[bool](v, asks), "it was closed, and shown as often as it may be")
	v.keeps("gnt_id", "gnt_seen_fares", "gnt_seen_status", "tw.path", "tw_visit")
	v.again()
	v.inAsk("reject")
	assert.Equal(t, consent.Refused, w.told(1).EventType)
	v.keeps()
	v.again()
	v.inAsk("fine")
	assert.Equal(t, consent.Accepted, w.told(2).EventType)
}

// Two tabs, storage barred, a page that never told the server.
func TestConsentInTrouble(t *testing.T) {
	w := newWorld(t)
	v := person(t)
	v.open(w.site + "/fares")
	v.until(asks)
	other := v.another()
	other.open(w.site + "/status")
	other.until(asks)
	v.inAsk("reject")
	other.until("!(" + asks + ")") // the answer is the visitor's, whatever the tab
	w.told(1)
	other.again()
	v.again()
	// Both at once: each answer is kept, and both pages end with the one that holds.
	const press = `[...document.querySelectorAll('mastflag-notice')].map(h => ` +
		`h.shadowRoot.querySelector('[data-act=%s]')).find(Boolean).click() || true`
	var both sync.WaitGroup
	both.Go(func() { ask[bool](other, fmt.Sprintf(press, "accept")) })
	both.Go(func() { ask[bool](v, fmt.Sprintf(press, "reject")) })
	both.Wait()
	w.told(3)
	const state = "(c => [c.id, c.granted.includes('marketing'), window.mastflag?.consent?.answered && " +
		"mastflag.consent.granted('marketing'), " +
		"document.cookie.includes('gnt_id')].join())(JSON.parse(localStorage['mastflag.sundrey']).consent)"
	// A page that is just beginning anew may leave the question without an answer.
	read := func(p *tab) string {
		ctx, cancel := context.WithTimeout(p.ctx, time.Second)
		defer cancel()
		said, err := chromedp.Run(ctx, chromedp.Evaluate[string](state))
		if err != nil {
			return ""
		}
		return said
	}
	require.Eventually(t, func() bool {
		one, two := read(v), read(other)
		return one == two && (strings.HasSuffix(one, ",true,true,true") || strings.HasSuffix(one, ",false,false,false"))
	}, patience, 100*time.Millisecond)

	// What another tab answered counts, even where this one has read it in passing, before it was told.
	told := 3
	p := person(t)
	p.before("addEventListener('storage', () => dispatchEvent(new Event('pagehide')))") // keeps how long the page was seen
	p.open(w.site + "/fares")
	p.until(asks)
	beside := p.another()
	beside.open(w.site + "/status")
	beside.until(asks)
	beside.inAsk("accept")
	told++
	w.told(told)
	p.until("mastflag.consent.granted('films')")
	// A decision that comes late does not undo a later one.
	ask[bool](p, `(() => {
		const real = window.fetch
		window.fetch = async (...all) => {
			const reply = await real(...all)
			if (!window.letGo && String(all[0]).includes('/d/')) await new Promise((go) => (window.letGo = go))
			return reply
		}
		// What is written keeps the page from beginning anew.
		document.body.append(Object.assign(document.createElement('input'), { value: 'half written' }))
		mastflag.consent.open()
		return true
	})()`)
	p.until("window.letGo")
	ask[bool](beside, "mastflag.consent.withdraw() || true")
	told++
	w.told(told)
	p.until("!mastflag.consent.granted('films')")
	ask[bool](p, "letGo() || true")
	p.settled()
	assert.False(t, ask[bool](p, "mastflag.consent.granted('films')"))

	barred := person(t)
	noteErrors(barred)
	noStorage(barred)
	barred.open(w.site + "/fares")
	barred.inAsk("accept")
	assert.Equal(t, consent.Accepted, w.told(told+1).EventType)
	barred.until("document.cookie.includes('gnt_id')")
	barred.open(w.site + "/status")
	barred.until(asks) // it is forgotten with the page, and what was set goes
	barred.until("!document.cookie.includes('gnt_id')")

	// The server is away while it is answered: the answer holds on the page, and is told later.
	gone := person(t)
	gone.open(w.site + "/fares")
	gone.until(asks)
	w.stop()
	gone.inAsk("accept")
	gone.until("document.cookie.includes('gnt_id')")
	gone.until("JSON.parse(localStorage['mastflag.sundrey']).untold?.length > 0")
	assert.Len(t, w.records(), told+1)
	w.restart()
	gone.open(w.site + "/status")
	w.told(told + 2)
	gone.until("!JSON.parse(localStorage['mastflag.sundrey']).untold?.length")
	gone.settled()
	assert.False(t, ask[bool](gone, asks))
}

// An inspection of the demo site finds exactly what its vendors set, on which
// page, by which script; nothing leaks, until the bad vendor is let in.
func TestInspection(t *testing.T) {
	w := newWorld(t)
	w.changeSite(func(s *bundle.Site) {
		s.HomePaths = nil
		for i := range s.Consent.Inventory {
			if s.Consent.Inventory[i].Name == "localhost" {
				s.Consent.Inventory[i].Name = "vendors.test"
			}
		}
	})
	var known []store.Page
	for _, p := range []string{"/ports/aldwick", "/tours", "/book"} {
		known = append(known, store.Page{Page: bundle.Page{Path: p}})
	}
	require.NoError(t, w.server.Store.PutPages(t.Context(), demo.Key, known, time.Time{}))
	require.NoError(t, w.server.Hub.Reload(t.Context(), demo.Key))
	counted := func() []results.Row {
		rows, err := w.server.Store.Results(t.Context(), demo.Key, store.ResultFilter{})
		require.NoError(t, err)
		return rows
	}
	before := counted()
	inspected := func() (consent.Setup, consent.Run) {
		t.Helper()
		require.NoError(t, w.server.Inspect.Start(t.Context(), demo.Key, false))
		assert.ErrorIs(t, w.server.Inspect.Start(t.Context(), demo.Key, false), inspect.ErrRunning)
		require.Eventually(
			t, func() bool { _, going, _ := w.server.Inspect.Progress(demo.Key); return !going }, 3*time.Minute,
			50*time.Millisecond,
		)
		_, _, failed := w.server.Inspect.Progress(demo.Key)
		require.Empty(t, failed)
		runs, err := w.server.Store.Runs(t.Context(), demo.Key, 1)
		require.NoError(t, err)
		site, err := w.server.Store.Site(t.Context(), demo.Key)
		require.NoError(t, err)
		return site.Setup(), runs[0]
	}
	setup, run := inspected()
	assert.Equal(t, "browser", run.How)
	assert.Empty(t, run.Faults)
	assert.False(t, run.NoQuestion)
	found := map[string]string{}
	for _, x := range setup.Detected(run) {
		var phases []string
		for _, s := range x.Seen {
			phases = append(phases, string(s.Phase))
		}
		found[string(x.Kind)+" "+x.Name] = x.Purpose + ": " + strings.Join(phases, " ")
		assert.False(t, x.Leaks, x)
		assert.False(t, x.Longer, x)
		assert.GreaterOrEqual(t, x.Item, 0, x)
	}
	assert.Equal(t, map[string]string{
		"cookie sundrey_basket": "necessary: unanswered accepted refused",
		"storage mastflag.*":    "necessary: unanswered accepted refused",
		"cookie last_port":      "preferences: accepted", "cookie tw_visit": "measurement: accepted",
		"storage tw.path": "measurement: accepted",
		"cookie gnt_*":    "marketing: accepted", "request vendors.test": "measurement: accepted",
		"frame vendors.test": "films: accepted"}, found)
	assert.Empty(t, setup.Unseen(run))
	byName := func(r consent.Run, name string) consent.Sighting {
		for _, s := range r.Found {
			if s.Name == name {
				return s
			}
		}
		return consent.Sighting{}
	}
	assert.Equal(t, "/book", byName(run, "sundrey_basket").Page)
	assert.Equal(t, w.site+"/book", byName(run, "sundrey_basket").By)
	assert.True(t, strings.HasSuffix(byName(run, "tw_visit").By, "/vendors/tidewater.js"), byName(run, "tw_visit").By)
	assert.Equal(t, "P365D", byName(run, "tw_visit").Lasts)
	assert.Equal(t, "session", byName(run, "sundrey_basket").Lasts)
	assert.Empty(t, w.records(), "an inspection's answers are told to nobody")
	assert.Empty(t, findings.InspectionFindings(setup, run))
	assert.Equal(t, before, counted(), "nobody was there")

	w.ferries.Bad.Store(true)
	w.clock.Set(start.Add(time.Hour))
	_, worse := inspected()
	leaks := findings.InspectionFindings(setup, worse)
	require.Len(t, leaks, 1)
	assert.Equal(t, findings.Leak, leaks[0].Code)
	assert.Regexp(
		t,
		`^Cookie “brine_uid” is set before any answer: on /, by http://ferries\.test:\d+/vendors/brine\.js, \d\.\d s after `+
			`the page was asked for; and after a refusal too\.$`,
		leaks[0].What,
	)
	assert.Equal(t, []consent.Difference{{
		What: "new",
		Kind: consent.Cookie,
		Name: "brine_uid",
		Now:  "P730D unanswered, accepted, refused",
	}}, setup.Compare(run, worse))

	// The earlier one opens with all it found, and what differs; what another site of the installation lists is
	// offered, and taken.
	harbour, err := w.server.Store.Site(t.Context(), demo.HarbourKey)
	require.NoError(t, err)
	row := consent.Item{Kind: consent.Cookie, Name: "brine_*", By: "Brine Metrics", Purpose: "measurement", Lasts: "P2Y"}
	harbour.Consent = &consent.Setup{Purposes: []consent.Purpose{{ID: "measurement"}}, Inventory: []consent.Item{row}}
	require.NoError(t, w.server.Store.PutSite(
		t.Context(), harbour.Site, harbour.Revision, store.Entry{At: w.clock.Now()},
	))
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/consent")
	ines.press("Earlier inspections")
	ask[bool](ines, "document.querySelector('.runs summary').click() || true")
	ines.has("Unlike the one after new brine_uid")
	ines.has("All it found")
	ines.until("[...document.querySelectorAll('.runs table tr')].some(r => r.textContent.includes('tw_visit') && " +
		"r.textContent.includes('measurement'))")
	assert.Empty(t, ines.axe())
	ines.press("As in Harbour Trust of Sundrey: measurement")
	ines.until("!document.querySelector('.strangers')")
	s, err := w.server.Store.Site(t.Context(), demo.Key)
	require.NoError(t, err)
	assert.Contains(t, s.Consent.Inventory, row)
	ines.fill("Pages visited in an inspection", "2\t")
	require.Eventually(
		t, func() bool { return w.server.Hub.Site(demo.Key).Bundle().Site.Setup().GetInspectPages() == 2 },
		patience, 50*time.Millisecond,
	)

	// Stopped, it keeps what it found until then.
	require.NoError(t, w.server.Inspect.Start(t.Context(), demo.Key, false))
	w.server.Inspect.Stop(demo.Key)
	runs, err := w.server.Store.Runs(t.Context(), demo.Key, 5)
	require.NoError(t, err)
	require.Len(t, runs, 3)
	assert.True(t, runs[0].Stopped)
	assert.Len(t, runs[0].Pages, 2)

	// Planned: once in each stretch, however often it is asked.
	w.changeSite(func(s *bundle.Site) {
		s.Consent.Inspect = &schedule.Window{From: "2026-12-04T11:00", Until: "2026-12-04T13:00", Rule: "FREQ=WEEKLY"}
		s.Origins = []string{"http://nowhere.test:1"}
	})
	w.clock.Set(start.AddDate(0, 0, 7))
	w.server.Inspect.Due(t.Context())
	require.Eventually(
		t, func() bool { _, going, failed := w.server.Inspect.Progress(demo.Key); return !going && failed != "" }, patience,
		50*time.Millisecond,
	)
	_, _, failed := w.server.Inspect.Progress(demo.Key)
	assert.Contains(t, failed, "no page of http://nowhere.test:1 could be visited")
}

// cookies are all that the browser keeps for the page.
func (p *tab) cookies() (list []*network.Cookie) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		got, err := cdp.Call(ctx, t, network.GetCookies, network.GetCookiesParams{})
		list = got.Cookies
		return err
	}))
	return list
}

// The privacy officer's work in the interface: what was found is placed, what is
// asked is changed, what would not hold up in law is mended, an answer is found again,
// a place gets a row of its own.
func TestConsentRoom(t *testing.T) {
	w := newWorld(t)
	w.ferries.Bad.Store(true)
	require.NoError(
		t, w.server.Store.PutPages(t.Context(), demo.Key, []store.Page{{Page: bundle.Page{Path: "/tours"}}}, time.Time{}),
	)
	w.changeSite(func(s *bundle.Site) {
		s.HomePaths = []string{"/tours"}
		s.Consent.Inventory[3].For = nil
	})
	setup := func() consent.Setup {
		t.Helper()
		s, err := w.server.Store.Site(t.Context(), demo.Key)
		require.NoError(t, err)
		return s.Setup()
	}
	ines := person(t)
	w.signIn(ines)
	ask[bool](ines, "document.activeElement.blur() || true")
	ines.key("g")
	ines.key("c")
	ines.has("Nobody has looked yet what the site really sets.")
	ines.press("Inspect the site")
	ines.has("The site is being inspected.")
	ines.has("Inspect again")
	ines.has("One thing is set before an answer or after a refusal, and not strictly necessary.")
	ines.has("Cookie “brine_uid” is set before any answer: on /tours, by " + w.site + "/vendors/brine.js")
	assert.Empty(t, ines.axe())
	// What was found is placed; who sets it is said.
	ask[bool](
		ines,
		"[...document.querySelectorAll('.strangers li')].find(l => "+
			"l.textContent.includes('brine_uid')).querySelector('button').click() || true",
	)
	ines.until("document.querySelector('[aria-label=Name]')?.value === 'brine_uid'")
	assert.Empty(t, ines.axe())
	ines.fill("Who sets it", "Brine Metrics")
	ines.fill("What for, in English", "Counts, it says.")
	ines.at("(e => { const r = e.closest('.el-select').getBoundingClientRect(); return [r.x + 30, r.y + r.height / 2] " +
		"})(document.querySelector('.item [aria-label=Purpose]'))")
	ines.press("Audience measurement")
	ines.press("Put it there")
	ines.until("![...document.querySelectorAll('.strangers li')].some(l => l.textContent.includes('brine_uid'))")
	list := setup().Inventory
	assert.Equal(t, consent.Item{
		Kind:    consent.Cookie,
		Name:    "brine_uid",
		By:      "Brine Metrics",
		Purpose: "measurement",
		Lasts:   "P730D",
		For:     map[string]string{"en": "Counts, it says."},
	}, list[len(list)-1])
	ines.until("[...document.querySelectorAll('tr')].find(r => " +
		"r.textContent.includes('brine_uid')).textContent.includes('leaks')")

	// By CSV; a broken one changes nothing.
	csv := filepath.Join(t.TempDir(), "rows.csv")
	require.NoError(t, os.WriteFile(csv, []byte("kind,name,purpose\nbiscuit,a,measurement\n"), 0o600))
	ines.upload("input[type=file]", csv)
	ines.has("row 2: \"biscuit\" is no kind. Use cookie, storage, frame or request.")
	require.NoError(
		t,
		os.WriteFile(
			csv,
			[]byte("kind,name,by,purpose,lasts,for en\ncookie,tw_visit,Tidewater Counts,measurement,P1Y,Tells visits apart "+
				"again.\nrequest,gulls.example,,marketing,,\n"),
			0o600,
		),
	)
	ines.upload("input[type=file]", csv)
	ines.has("2 rows read, one of them new.")
	ines.has("Request to “gulls.example” does not say who gets what it tells.")
	assert.Len(t, setup().Inventory, len(list)+1)

	// A purpose of one's own, asked about.
	ines.press("What do we ask?")
	ines.press("A purpose of your own")
	ines.fill("What it is called, in English", "Maps")
	ines.press("Ask about it")
	ines.has("Visitors are asked about “Maps”, and nothing in the inventory is for it.")
	assert.Equal(t, "maps", setup().Purposes[4].ID)
	ines.press("Maps: further up")
	require.Eventually(t, func() bool { return setup().Purposes[3].ID == "maps" }, patience, 50*time.Millisecond)
	ines.until("[...document.querySelectorAll('.purposes b')].map(b => b.textContent).join() === 'Strictly " +
		"necessary,Preferences,Audience measurement,Marketing,Maps,Films'")

	// What would not hold up in law says by which text, and is mended at a press, in the draft.
	w.rewrite(func(n *bundle.Notice) {
		n.Content = &bundle.Content{Wordings: n.Content.Wordings, Consent: &consent.Question{RefusePlacement: "behind"}}
	})
	ines.open(w.address + "/sundrey/consent/asks")
	ines.has("GDPR Art. 4(11) and 7(3)")
	assert.Empty(t, ines.axe())
	ines.press("Put it beside accepting")
	ines.until("!document.body.innerText.includes('GDPR Art. 4(11) and 7(3)') || document.body.innerText.includes('It " +
		"is in the notice’s draft')")
	require.Eventually(t, func() bool {
		n, err := w.server.Store.Notice(t.Context(), demo.Key, "privacy")
		return err == nil && n.Draft != nil && n.Draft.Question().RefusePlacement == ""
	}, patience, 50*time.Millisecond)

	// Over any days, and beside others.
	ines.press("What was answered?")
	ines.has("visitors were asked from Thu 5 Nov to Fri 4 Dec")
	ines.press("7 days")
	ines.has("from Sat 28 Nov to Fri 4 Dec")
	ines.press("Beside another period")
	ines.has("from Sat 21 Nov to Fri 27 Nov")
	ines.until("document.querySelectorAll('.trends figure').length === 2")
	assert.Empty(t, ines.axe())

	// The records: the chain is whole, one is found by how its id begins.
	ines.press("Check the chain")
	ines.has(fmt.Sprintf("Whole: %d records.", w.answered))
	links, err := w.server.Store.ConsentLinksBefore(t.Context(), demo.Key, 6, 1)
	require.NoError(t, err)
	var r consent.Record
	require.NoError(t, json.Unmarshal(links[0].Body, &r))
	ines.fill("Find a record by its id", r.RecordID[:8])
	ines.press("Find")
	ines.until("document.querySelectorAll('.list li').length === 1 && " +
		"document.querySelector('.list').textContent.includes('" + r.RecordID[:8] + "')")
	ask[bool](ines, "document.querySelector('.list summary').click() || true")
	ines.until("document.querySelector('.list details').textContent.includes(" + map[string]string{
		"en": "'May we count visits'",
		"de": "'Dürfen wir Besuche'",
		"pl": "'Czy możemy liczyć'",
	}[r.Language] + ")")
	raw := ask[string](ines, "fetch('/api/sites/sundrey/consent/records.jsonl').then(r => r.text())")
	assert.EqualValues(t, w.answered, strings.Count(raw, "\n"))
	table := ask[string](ines, "fetch('/api/sites/sundrey/consent/records.csv').then(r => r.text())")
	assert.EqualValues(t, w.answered+1, strings.Count(table, "\n"))

	// A row of one's own goes before the table's, and away again.
	ines.press("What does each place want?")
	ines.fill("Find a place", "swi")
	ines.press("Switzerland")
	ines.at("(e => { const r = e.closest('.el-select').getBoundingClientRect(); return [r.x + 30, r.y + r.height / 2] " +
		"})(document.querySelector('.editor [aria-label=\"It wants\"]'))")
	ines.press("Opt-in: nothing before the visitor agrees")
	ines.press("Keep it")
	ines.has("instead of opt-out")
	assert.Equal(t, []consent.PlaceRule{{Place: "CH", Rule: consent.OptIn, Signal: "honour"}}, setup().Places)
	ines.press("Switzerland")
	ines.press("Remove your row")
	ines.until("!document.body.innerText.includes('instead of')")
	assert.Empty(t, setup().Places)

	// A later version's rows show as a difference, until someone has read them.
	assert.Equal(t, consent.TableDate(), setup().TableRead)
	w.changeSite(func(s *bundle.Site) { s.Consent.TableRead = "2026-10-31" })
	ines.open(w.address + "/sundrey/consent/places")
	ines.has("The table says something new")
	ines.has("Switzerland: new, opt-out")
	assert.Empty(t, ines.axe())
	ines.press("I have read it")
	ines.until("!document.body.innerText.includes('The table says something new')")
	assert.Equal(t, consent.TableDate(), setup().TableRead)

	// Whoever only looks changes nothing.
	_, err = w.server.Store.SetRights(t.Context(), store.Person{Email: demo.Email, Role: "viewer"}, w.clock.Now())
	require.NoError(t, err)
	ines.open(w.address + "/sundrey/consent")
	ines.has("The inventory")
	assert.False(
		t,
		ask[bool](ines, "[...document.querySelectorAll('main button')].some(b => /Add a row|Inspect/.test(b.textContent))"),
	)
}

// Cookies are read as the browser reads them (RFC 6265 §5.2), lines of the
// table that the core is tested with.
func TestCookiesAsTheBrowserReadsThem(t *testing.T) {
	w := newWorld(t)
	w.only()
	v := person(t)
	v.open(w.site + "/fares")
	raw, err := os.ReadFile("../core/consent/testdata/cookies.json")
	require.NoError(t, err)
	var table []struct{ Line, Name, Value, Lasts string }
	require.NoError(t, json.Unmarshal(raw, &table))
	for _, c := range table {
		quoted, _ := json.Marshal(c.Line)
		for _, old := range v.cookies() {
			ask[string](v, fmt.Sprintf("(document.cookie = %q, document.cookie)", old.Name+"=;max-age=0;path="+old.Path))
		}
		set := time.Now()
		// Read back on the page, whose writes the browser's other processes learn of later.
		ask[string](v, "(document.cookie = "+string(quoted)+", document.cookie)")
		got := v.cookies()
		if c.Lasts == "gone" {
			assert.Empty(t, got, c.Line)
			continue
		}
		require.Len(t, got, 1, c.Line)
		assert.Equal(t, [2]string{c.Name, c.Value}, [2]string{got[0].Name, got[0].Value}, c.Line)
		assert.Equal(t, c.Lasts == "session", got[0].Session, c.Line)
		if got[0].Session {
			continue
		}
		span, err := schedule.ParseSpan(c.Lasts)
		require.NoError(t, err)
		length, _ := span.Length()
		// Browsers keep no cookie for more than 400 days (the RFC's successor, §5.5).
		assert.InDelta(t, min(length.Seconds(), 400*86_400), got[0].Expires-float64(set.Unix()), 5, c.Line)
	}
}
