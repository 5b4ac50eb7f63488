package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/internal/delivery"
	"mastflag/internal/demo"
	"mastflag/internal/store"
)

// inPage is a block on every page that says something in English, at a spot.
func inPage(id, message, selector string, where bundle.Where, alter ...func(*bundle.Notice)) bundle.Notice {
	return bar(id, "<p>"+message+"</p>", append([]func(*bundle.Notice){func(n *bundle.Notice) {
		n.Kind, n.Spot, n.Memory = bundle.KindBlock, &bundle.Spot{
			Selector: selector,
			Where:    where,
		}, &bundle.Memory{Closable: new(bool)}
	}}, alter...)...)
}

// standing are the blocks of a page by id, in the order in which they stand.
const standing = `[...document.querySelectorAll('main mastflag-notice, body > mastflag-notice')].map(h => ` +
	`h.dataset.id).join()`

// Two at one spot stand by rank, what matches 500 elements stands at the first, what
// finds nothing nowhere, and none in another; nothing moves on the second view.
func TestWhereBlocksStand(t *testing.T) {
	w := newWorld(t)
	rank := func(r int) func(*bundle.Notice) { return func(n *bundle.Notice) { n.Rank = &r } }
	w.only(
		inPage("low", "Second", "main h1", bundle.After, rank(10)),
		inPage("high", "First", "main h1", bundle.After, rank(90)),
		inPage("many", "Of five hundred", "main .of-many", bundle.Before),
		inPage("lost", "Nowhere", "#not-there", bundle.After),
		inPage("inside", "In another", "p.inner", bundle.After),
		inPage("top", "Above the text", "main", bundle.First),
	)
	v := person(t)
	noteErrors(v)
	// A page whose script adds what is looked for before and after the blocks come.
	v.before(`addEventListener('DOMContentLoaded', () => {
		const main = document.querySelector('main')
		for (let i = 0; i < 500; i++) main.append(Object.assign(document.createElement('p'), { className: 'of-many', ` +
		`textContent: i }))
		const came = Object.assign(document.createElement('div'), { innerHTML: '<p class="inner">came with the page</p>' })
		came.dataset.mastflag = 'another'
		main.append(came)
	})`)
	v.open(w.site + "/ports/aldwick")
	v.until(standing + " === 'top,high,low,many'")
	assert.Equal(t, "0", ask[string](v, "document.querySelector('[data-id=many]').nextElementSibling.textContent"))
	assert.Equal(t, "H1", ask[string](v, "document.querySelector('[data-id=high]').previousElementSibling.tagName"))
	v.unharmed()

	// The site's own page: no room is kept before it is known, and none is lost after.
	w.only(
		inPage("first", "First in the text", "main", bundle.First),
		inPage("after", "After the heading", "main h1", bundle.After),
		inPage("before", "Before the sections", ".sections", bundle.Before),
		inPage("last", "Last in the text", "main", bundle.Last),
		inPage("above", "Above the text", "main", bundle.Before),
	)
	for _, width := range []int64{1280, 390} {
		v = person(t)
		v.size(width, 800)
		v.open(w.site + "/ports/aldwick")
		v.until(standing + ".split(',').length === 5")
		first := ask[float64](v, shift)
		v.open(w.site + "/ports/aldwick")
		v.until(standing + ".split(',').length === 5")
		again := ask[float64](v, shift)
		t.Logf("layout shift of five blocks at %d px: first view %.4f, second view %.4f", width, first, again)
		assert.Greater(t, first, 0.02)
		assert.LessOrEqual(t, again, 0.02)
	}
	// Taken off, the view after the next keeps nothing free.
	w.only()
	v.open(w.site + "/ports/aldwick")
	v.settled()
	v.until("!document.mastflag?.blocks?.cssRules.length")
	v.open(w.site + "/ports/aldwick")
	v.settled()
	assert.Less(t, ask[float64](v, shift), 0.001, "room that was kept would move the page by hundredths")
}

// Rows stack on phones in the order chosen, from right to left where the language is;
// a question takes its answer; nothing is wrong with it for axe.
func TestRowsAsVisitorsSeeThem(t *testing.T) {
	w := newWorld(t)
	w.ferries.Add("/ar/about", "/about")
	row, err := w.server.Store.Notice(t.Context(), demo.Key, "harbour-office")
	require.NoError(t, err)
	office := row.Out()
	office.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}}
	office.Content.Wordings["ar"] = bundle.Wording{Parts: map[string]bundle.PartWords{
		"heading": {
			Heading: "مكتب الميناء",
		}, "text": {
			Text: "<p>على الرصيف.</p>",
		}, "question": {Heading: "هل كان ذلك مفيدًا؟", Answers: []string{"نعم", "لا"}, Thanks: "شكرًا"},
	}}
	w.changeSite(func(s *bundle.Site) { s.Languages = append(s.Languages, "ar") })
	list, err := w.server.Store.Pages(t.Context(), demo.Key)
	require.NoError(t, err)
	list = append(list, store.Page{Page: bundle.Page{Path: "/ar/about", Language: "ar"}})
	require.NoError(t, w.server.Store.PutPages(t.Context(), demo.Key, list, time.Time{}))
	thanks := bar("thanks", "Tell us what was missing", func(n *bundle.Notice) {
		n.Audience = &audience.Node{Fact: "event.useful-no.count", Is: audience.Gte, Value: 1}
	})
	w.only(office, thanks)

	v := person(t)
	noteErrors(v)
	v.open(w.site + "/about")
	const part = `(name => document.querySelector('[data-id=harbour-office]').shadowRoot.querySelector('.part-' + ` +
		`name).getBoundingClientRect())`
	v.until("document.querySelector('[data-id=harbour-office]')")
	assert.True(
		t, ask[bool](v, part+"('text').left < "+part+"('contact').left && "+part+"('contact').left < "+part+"('hours').left"),
	)
	assert.Empty(t, v.axe())
	v.shows()
	v.at(`(e => { const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] ` +
		`})(document.querySelector('[data-id=harbour-office]').shadowRoot.querySelector('[data-event=useful-no]'))`)
	v.until("document.querySelector('[data-id=harbour-office]').shadowRoot.querySelector('.thanks').textContent === " +
		"'Thank you. That helps us.'")
	assert.Zero(
		t,
		ask[int](v, "document.querySelector('[data-id=harbour-office]').shadowRoot.querySelectorAll('[data-event]').length"),
	)
	v.shows("Tell us what was missing")
	v.unharmed()

	v.size(390, 844)
	v.open(w.site + "/about")
	v.until("document.querySelector('[data-id=harbour-office]')")
	assert.True(
		t,
		ask[bool](v, part+"('hours').bottom <= "+part+"('text').top && "+part+"('text').bottom <= "+part+"('contact').top"),
		"in the order chosen for phones",
	)
	assert.Zero(t, ask[int](v, "Math.max(0, document.documentElement.scrollWidth - innerWidth)"))
	v.size(1280, 800)
	v.open(w.site + "/ar/about")
	v.until("document.querySelector('[data-id=harbour-office]')?.shadowRoot.textContent.includes('مكتب الميناء')")
	assert.True(t, ask[bool](v, part+"('text').left > "+part+"('contact').left"), "from right to left")
	assert.Empty(t, v.axe())
}

// Code runs once a page view, in its places; after consent alone where it is for a
// purpose; it is taken out when it is unpublished, and by the master switch.
func TestCodeOnPages(t *testing.T) {
	w := newWorld(t)
	piece := func(id string, code bundle.PageCode) bundle.Notice {
		return bundle.Notice{
			ID:      id,
			Kind:    bundle.KindCode,
			Title:   id,
			Pages:   &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
			Content: &bundle.Content{Code: &code},
		}
	}
	row, err := w.server.Store.Notice(t.Context(), demo.Key, "privacy")
	require.NoError(t, err)
	free := piece("free", bundle.PageCode{
		Head:  `<meta name="code" content="free"><script>window.ran = (window.ran ?? 0) + 1</script>`,
		Start: `<p id="at-start">At the start</p>`,
		End:   `<p id="at-end">At the end</p><script id="own" src="/vendors/harbour.js"></script>`,
	})
	counted := piece("counted", bundle.PageCode{
		End:      `<script>window.counted = (window.counted ?? 0) + 1</script>`,
		Purposes: []string{"measurement"},
	})
	w.only(row.Out(), free, counted)

	// What the policy of the site's pages has to allow, as the editor says, and no more.
	allow := func(v *tab) {
		v.before(`document.addEventListener('securitypolicyviolation', e => (window.refused ??= ` +
			`[]).push(e.violatedDirective))`)
	}
	v := person(t)
	allow(v)
	v.open(w.site + "/ports")
	v.until("document.querySelector('#at-end')")
	assert.Contains(
		t, ask[[]string](v, "window.refused ?? []"), "script-src-elem",
		"the demo site allows no inline script that it does not know",
	)
	assert.Equal(t, "At the start", ask[string](v, "document.body.firstElementChild.textContent"))
	assert.Equal(t, "meta", ask[string](v, "document.head.lastElementChild.previousElementSibling?.localName ?? ''"))

	// On a site without a policy.
	origin := w.included(map[string]string{"index.html": fmt.Sprintf(
		`<!doctype html><html lang="en"><head><title>Page</title>%s</head><body><main><h1>Page</h1></main></body></html>`,
		delivery.NewSnippet(w.address, demo.Key).HTML(),
	)})
	w.changeSite(func(s *bundle.Site) { s.Origins = append(s.Origins, origin) })
	v = person(t)
	noteErrors(v)
	v.open(origin + "/index.html")
	v.until("window.ran === 1")
	assert.Nil(t, ask[any](v, "window.counted ?? null"), "nobody has agreed to it")
	ask[bool](v, "(dispatchEvent(new Event('visibilitychange')), true)")
	v.inAsk("accept")
	v.until("window.counted === 1")
	assert.Equal(t, 1, ask[int](v, "window.ran"), "once a page view")
	v.open(origin + "/index.html?again")
	v.until("window.ran === 1 && window.counted === 1")
	ask[bool](v, "(history.pushState({}, '', '/another'), true)")
	v.until("window.ran === 2 && window.counted === 2")
	assert.Equal(t, 1, ask[int](v, "document.querySelectorAll('#at-end').length"))

	// Unpublished, what was put in is taken out; what has run has run.
	n, err := w.server.Store.Notice(t.Context(), demo.Key, "free")
	require.NoError(t, err)
	_, err = w.server.Store.Change(
		t.Context(),
		demo.Key,
		"free",
		n.Revision,
		func(row *store.Notice, _ int) (store.Entry, error) {
			row.State = bundle.Paused
			return store.Entry{At: w.clock.Now()}, nil
		},
	)
	require.NoError(t, err)
	require.NoError(t, w.server.Hub.Reload(t.Context(), demo.Key))
	ask[bool](v, "(history.pushState({}, '', '/third'), true)")
	v.until("window.counted === 3")
	assert.Zero(t, ask[int](v, "document.querySelectorAll('#at-end, #at-start, meta[name=code]').length"))
	assert.Equal(t, 2, ask[int](v, "window.ran"))
	w.changeSite(func(s *bundle.Site) { s.Display = new(bool) })
	ask[bool](v, "(history.pushState({}, '', '/fourth'), true)")
	v.until("!document.body.innerHTML.includes('window.counted')")
	assert.Equal(t, 3, ask[int](v, "window.counted"))
	v.unharmed()
	assert.False(t, strings.Contains(ask[string](v, "document.documentElement.outerHTML"), "at-start"))
}
