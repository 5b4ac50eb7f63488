package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/document"
	"mastflag/core/pages"
	"mastflag/internal/demo"
	"mastflag/internal/store"
)

// stated is the shadow root of the disclaimer that stands on a visitor's page.
const stated = `[...document.querySelectorAll('mastflag-notice')].map(h => h.shadowRoot).find(r => ` +
	`r.querySelector('.disclaim'))`

// panel is the shadow root of what says to a visitor what they answered.
const panel = `[...document.querySelectorAll('mastflag-notice')].map(h => h.shadowRoot).find(r => ` +
	`r.querySelector('.panel'))`

// inStated presses what a selector finds in the disclaimer.
func (p *tab) inStated(selector string) {
	p.t.Helper()
	p.until(stated + "?.querySelector('" + selector + "')")
	p.at(
		"(e => { e.scrollIntoView({ block: 'nearest' }); const r = e.getBoundingClientRect(); return [r.x + r.width / 2, " +
			"r.y + r.height / 2] })(" + stated + ".querySelector('" + selector + "'))",
	)
}

// question answers a question of a document by choosing an option.
func (p *tab) question(ask, option string) {
	p.t.Helper()
	quoted, _ := json.Marshal(ask)
	field := "document.querySelector(`[aria-label=" + string(quoted) + "]`)"
	p.until(field)
	p.at(
		"(e => { e.scrollIntoView({ block: 'center' }); const r = e.closest('.el-select').getBoundingClientRect(); return " +
			"[r.x + 30, r.y + r.height / 2] })(" + field + ")",
	)
	p.press(option)
}

// saved waits until a document's room has saved what was written.
func (p *tab) saved() {
	p.t.Helper()
	p.until(
		"document.querySelector('.saving')?.textContent === 'Saved' && dispatchEvent(new Event('beforeunload', { " +
			"cancelable: true }))",
	)
}

// From a site without a document or a notice to a privacy notice that the consent
// notice leads to, and a disclaimer that is acknowledged, in nine decisions; and
// what becomes of it with visitors.
func TestDocumentsFromNothing(t *testing.T) {
	w := newWorld(t)
	w.only()
	w.changeSite(func(s *bundle.Site) { s.Documents = nil })
	doc := func(id string) document.Document {
		s, err := w.server.Store.Site(t.Context(), demo.Key)
		require.NoError(t, err)
		d, _ := document.Get(s.Documents, id)
		return d
	}
	decisions := 0
	ines := person(t)
	w.signIn(ines)
	decide := func(name string) {
		t.Helper()
		decisions++
		ines.press(name)
	}
	begin := func(kind string) {
		ines.press("Library")
		ines.has("There is none yet")
		ines.press("New document ▾")
		decide(kind)
		ines.has("What the program knows of the site is not asked.")
	}
	begin("Privacy notice")
	ines.has("9 of 12 are open.")
	ines.fill("Who runs the site?", "Sundrey Isles Ferries")
	ines.fill("Their postal address?", "Ferry House, Quay 1")
	ines.fill("E-mail address for questions?", "nobody")
	ines.has("\"nobody\" is not an e-mail address. Write it like harbour@example.org.")
	ines.fill("E-mail address for questions?", "privacy@sundrey.example")
	ines.question("Do you have a data protection officer?", "No, we need none")
	ines.press("Orders or bookings")
	ines.press("Newsletter")
	ines.press("Payment services")
	ines.question("Does any of them work outside the European Economic Area?", "No")
	ines.question("Does a machine alone decide anything about people?", "No")
	ines.has("Nothing is open.")
	ines.has("Marketing: Shows you offers that fit you")
	ines.saved()
	assert.Empty(t, ines.axe())
	decide("Publish version 1")
	ines.has("Nothing has changed since version 1.")
	require.Equal(t, 1, doc("privacy-2").Version)
	assert.Len(t, doc("privacy-2").Published, 3)

	// The consent notice leads to it, as it comes.
	ines.press("New notice")
	decide("A consent noticeAsks for a choice by purpose, and keeps the proof.")
	ines.until("location.pathname.endsWith('/notices/new-consent-notice')")
	decide("Publish")
	ines.has("Published.")

	// A disclaimer: its text, then where it is asked.
	ines.press("Library")
	ines.press("New document ▾")
	decide("Disclaimer")
	ines.question("What is it about?", "Safety before an activity")
	ines.has("Taking part has risks that nobody can remove.")
	ines.saved()
	decide("Publish version 1")
	ines.has("Nothing has changed since version 1.")
	decide("Have it acknowledged")
	ines.has("it stays until they have acknowledged “Safety”, version 1, again after each material change")
	assert.Empty(t, ines.axe())
	decide("Publish")
	ines.has("Published.")
	assert.LessOrEqual(t, decisions, 12)

	// On the page: the question first, then the disclaimer, in the middle.
	v := person(t)
	noteErrors(v)
	v.open(w.site + "/tours")
	v.until(asks)
	assert.False(t, ask[bool](v, "!!("+stated+")"), "it waits while the question is open")
	assert.Equal(
		t,
		w.address+"/t/sundrey/privacy-2/en",
		ask[string](
			v,
			"[...document.querySelectorAll('mastflag-notice')].map(h => h.shadowRoot.querySelector('.ask "+
				"a')).find(Boolean).href",
		),
	)
	v.inAsk("reject")
	v.until(stated)
	// WAI-ARIA modal dialog: named, the focus within, the page behind out of reach, and no Escape past it.
	assert.Equal(
		t,
		[]string{"dialog", "true", "Announcement: Safety"},
		ask[[]string](
			v,
			"(b => [b.getAttribute('role'), b.getAttribute('aria-modal'), "+
				"b.getAttribute('aria-label')])(document.querySelector('mastflag-centre'))",
		),
	)
	assert.True(t, ask[bool](v, stated+".activeElement?.dataset.act === 'more' && document.body.inert"))
	v.key(kb.Escape)
	v.key(kb.Tab)
	assert.Equal(t, "confirm", ask[string](v, stated+".activeElement.dataset.act"))
	v.inStated("[data-act=more]")
	v.until(stated + ".querySelector('.text').checkVisibility()")
	assert.Contains(t, ask[string](v, stated+".querySelector('.text').textContent"), "Taking part has risks")
	assert.Equal(
		t,
		[]string{"Read “Safety”, version 1", "I have read this", "Leave this page"},
		ask[[]string](v, "[..."+stated+".querySelectorAll('button')].map(b => b.textContent)"),
	)
	assert.Empty(t, v.axe())
	ask[bool](v, stated+".querySelector('[data-act=confirm]').focus() || true")
	v.key(kb.Enter)
	v.until(panel)
	r := w.told(2)
	published := doc("disclaimer")
	assert.Equal(
		t,
		[]any{consent.Acknowledged, "disclaimer", 1, published.Published["en"].Hash(), "/tours", "en"},
		[]any{r.EventType, r.Document, r.DocumentVersion, r.DocumentHash, r.Page, r.Language},
	)
	comesBack := func() bool {
		t.Helper()
		v.open(w.site + "/tours")
		v.settled()
		w.calm(v) // a statement shows once what takes its answer is there
		return ask[bool](v, "!!("+stated+")")
	}
	assert.False(t, comesBack(), "who acknowledged it is not asked")

	// An editorial version: not asked. A material one: asked.
	publish := func(words, kind string, version int) {
		t.Helper()
		ines.open(w.address + "/sundrey/documents/disclaimer")
		ines.press("Write by hand: Text")
		ines.until("document.querySelector('.tiptap')")
		ines.do(chromedp.Click(chromedp.CSS(".tiptap")))
		ines.do(chromedp.KeyEvent("a", chromedp.KeyModifiers(chromedp.ModifierCtrl)))
		ines.key(words)
		ines.saved()
		ines.until("[...document.querySelectorAll('ins')].some(i => i.textContent.includes('" + words[len(words)-8:] + "'))")
		ines.press(kind)
		ines.press(fmt.Sprintf("Publish version %d", version))
		ines.has(fmt.Sprintf("Nothing has changed since version %d.", version))
	}
	publish("Taking part is not without risk.", "Editorial: only words. What was acknowledged holds.", 2)
	assert.False(t, comesBack(), "an editorial change asks nobody again")
	publish("Children under four stay ashore.", "Material: it says something else. It is acknowledged anew.", 3)
	v.open(w.site + "/tours")
	v.until(stated) // a material one does
	v.inStated("[data-act=confirm]")
	v.until(panel)
	r = w.told(3)
	assert.Equal(t, 3, r.DocumentVersion)
	require.NotEqual(t, published.Published["en"].Hash(), r.DocumentHash)

	// The receipt, and erasure.
	reply, err := http.NewRequest("GET", w.address+"/r/sundrey/"+r.RecordID, nil)
	require.NoError(t, err)
	reply.Header.Set("Origin", w.site)
	got, err := http.DefaultClient.Do(reply)
	require.NoError(t, err)
	var receipt struct {
		Record consent.Record
		Shown  struct{ HTML string }
	}
	require.NoError(t, json.NewDecoder(got.Body).Decode(&receipt))
	got.Body.Close()
	assert.Equal(t, r, receipt.Record)
	assert.Contains(t, receipt.Shown.HTML, "Children under four stay ashore.")
	v.open(w.site + "/tours/book")
	v.settled()
	v.until(
		"[...document.querySelectorAll('a')].find(a => a.getAttribute('href') === '#mastflag-answers').click() || " + panel,
	)
	assert.Contains(t, ask[string](v, panel+".textContent"), "Safety")
	assert.Empty(t, v.axe())
	v.at(
		"(r => [r.x + r.width / 2, r.y + r.height / 2])([..." + panel +
			".querySelectorAll('button')].find(b => b.textContent === 'Erase my answer').getBoundingClientRect())",
	)
	v.until(stated)
	head, err := w.server.Store.ConsentHead(t.Context(), demo.Key)
	require.NoError(t, err)
	proof, err := consent.Verify(w.server.Store.ConsentLinks(t.Context(), demo.Key), head)
	require.NoError(t, err)
	assert.EqualValues(t, 1, proof.Erased)
	ines.open(w.address + "/sundrey/consent/answers")
	ines.has("Acknowledged “disclaimer”, version 1")
	ines.press("Check the chain")
	ines.has("Whole:")
	ines.has("Disclaimers")
	assert.Empty(t, ines.axe())

	// Who does not acknowledge it is led elsewhere, and that is a record too.
	v.inStated("[data-act=decline]")
	v.until("location.pathname === '/'")
	assert.Equal(t, consent.Declined, w.told(5).EventType, "after the erasure")
	assert.False(t, ask[bool](v, "!!("+stated+")"))

	// In each language; the document too, for whom no script runs.
	for tag, words := range map[string]string{
		"de": "Ich habe das gelesen",
		"pl": "Zapoznałem się lub zapoznałam się z tym",
	} {
		v.open(w.site + "/" + tag + "/tours")
		v.until(stated)
		assert.Equal(t, words, ask[string](v, stated+".querySelector('[data-act=confirm]').textContent"), tag)
	}
	noScript := person(t)
	noScript.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(
			ctx,
			t,
			emulation.SetScriptExecutionDisabled,
			emulation.SetScriptExecutionDisabledParams{Value: true},
		)
		return err
	}))
	noScript.open(w.site + "/tours")
	assert.Contains(
		t,
		ask[string](noScript, "document.body.innerText"),
		"Life jackets are worn by all.",
		"it is no lock",
	)
	noScript.open(w.address + "/t/sundrey/privacy-2")
	assert.Contains(
		t,
		ask[string](noScript, "document.body.innerText"),
		"Sundrey Isles Ferries is responsible for the personal data",
	)
	v.unharmed()
}

// Two buttons, for a fact that visitors state about themselves: no leads elsewhere,
// and nothing is said twice where the connection breaks.
func TestDeclaring(t *testing.T) {
	w := newWorld(t)
	age := bar("age", "<p>This is for people of 18 years or more.</p>", func(n *bundle.Notice) {
		n.Kind, n.Slot, n.Memory = bundle.KindDisclaimer, bundle.Cover, nil
		n.Pages.Exclude = []pages.Entry{{Match: pages.Page, Path: "/status"}}
		n.Content.Disclaimer = &bundle.Disclaimer{
			Ask:           bundle.AskDeclare,
			OnDecline:     "/status",
			ValidFor:      "P1D",
			BeforeConsent: true,
		}
	})
	w.only(age)
	v := person(t)
	v.open(w.site + "/fares")
	v.inStated("[data-act=decline]")
	v.until("location.pathname === '/status'")
	assert.Equal(t, consent.Declined, w.told(1).EventType)
	v.open(w.site + "/fares")
	v.until(stated)
	v.until("!JSON.parse(localStorage['mastflag.sundrey']).unsent?.length") // a page that is left may tell once more
	w.stop()
	v.inStated("[data-act=confirm]")
	v.until(panel)
	v.until("JSON.parse(localStorage['mastflag.sundrey']).unsent?.length === 1")
	w.restart()
	v.open(w.site + "/fares")
	r := w.told(2)
	assert.Equal(t, []any{consent.Declared, "", 0}, []any{r.EventType, r.Document, r.DocumentVersion})
	v.until("!JSON.parse(localStorage['mastflag.sundrey']).unsent?.length")
	v.settled()
	assert.False(t, ask[bool](v, "!!("+stated+")"), "it holds for a day")
}

// A document in a language that is not ready, from two people at once, taken away,
// in the footer; and not removed while something leads to it.
func TestDocumentRoom(t *testing.T) {
	w := newWorld(t)
	w.changeSite(func(s *bundle.Site) { s.Languages = append(s.Languages, "fr") })
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/documents/terms")
	ines.has("Nothing is open.")
	// An item shows its section, and a section its items.
	ines.at(
		"(e => { const r = e.getBoundingClientRect(); return [r.x + 40, r.y + 10] })([...document.querySelectorAll('.items " +
			"button')].find(b => b.textContent.includes('Supervisory authority')))",
	)
	ines.until("document.querySelector('[data-section=supervision].marked')")
	ines.at(
		"(e => { e.scrollIntoView({ block: 'center' }); const r = e.getBoundingClientRect(); return [r.x + 10, r.y + " +
			"r.height / 2] })(document.querySelector('[data-section=register] .bar button'))",
	)
	ines.until("document.querySelector('.items .marked').textContent.includes('Trade or similar register')")
	assert.Empty(t, ines.axe())

	// French, beside the English: by hand, and by a translator's file.
	ines.press("French 7 missing")
	ines.has("no words in French yet")
	ines.press("Write by hand: Provider")
	ines.until("document.querySelector('.tiptap')")
	ines.do(chromedp.Click(chromedp.CSS(".tiptap")))
	ines.key("Ce site est celui de la compagnie.")
	ines.saved()
	ines.until("[...document.querySelectorAll('.tabs button')].some(b => b.textContent.includes('6 missing'))")
	// Taken out by mistake, it comes back.
	const french = "document.querySelector('[data-section=provider]').innerText.includes('Ce site est celui de la " +
		"compagnie.')"
	ines.press("Take out: Provider")
	ines.until("!" + french)
	ines.press("Undo")
	ines.until(french)
	ines.saved()
	ines.press("Save for a translator (XLIFF)")
	ines.has("terms.en-fr.xlf is saved.")

	// Someone else was there meanwhile: nothing is overwritten, and mine still stands.
	other := ines.another()
	other.open(w.address + "/sundrey/documents/terms")
	other.until("document.querySelector('[aria-label=\"The law of which country applies?\"]')?.value")
	other.fill("The law of which country applies?", "GB")
	other.has("The law of this country applies: United Kingdom.")
	other.saved()
	ines.fill("The law of which country applies?", "PL")
	ines.has("Someone else changed this document after you opened it.")
	assert.Equal(
		t,
		"PL",
		ask[string](ines, "document.querySelector('[aria-label=\"The law of which country applies?\"]').value"),
	)
	ines.press("Load theirs; mine is dropped")
	ines.until("document.querySelector('[aria-label=\"The law of which country applies?\"]').value === 'GB'")
	ines.press("English")
	ines.has("Proposed: material. The answer to “The law of which country applies” changed.")
	ines.press("Remove this document")
	ines.has("“Documents in the footer” leads to it. Take it out there first. Nothing was removed.")
	// One that nothing leads to is removed once that is said again.
	ines.press("Library")
	ines.press("New document ▾")
	ines.press("Disclaimer")
	ines.has("Nothing leads to it yet.")
	for _, answer := range []string{"Keep it", "Remove it"} {
		ines.press("Remove this document")
		ines.has("Its answers and what was written by hand are gone then.")
		ines.press(answer)
		ines.until("!document.querySelector('.el-message-box')?.checkVisibility()")
	}
	ines.has("The document is removed.")
	ines.has("New document")

	// What it leads to: the footer's list, in each language, and the address of each version.
	v := person(t)
	v.open(w.site + "/de/about")
	const list = "[...document.querySelectorAll('footer mastflag-notice')].map(h => " +
		"[...h.shadowRoot.querySelectorAll('a')].map(a => a.textContent + ' ' + new URL(a.href).pathname)).flat()"
	v.until(list + ".length === 4")
	assert.Equal(
		t,
		[]string{
			"Datenschutzerklärung /t/sundrey/privacy/de",
			"Cookie-Erklärung /t/sundrey/cookies/de",
			"Nutzungsbedingungen /t/sundrey/terms/de",
			"Erklärung zur Barrierefreiheit /t/sundrey/accessibility/de",
		},
		ask[[]string](v, list),
	)
	assert.Empty(t, v.axe())
	for _, page := range []string{"privacy/de", "cookies/en", "tour-safety/pl/1", "tour-safety/en/3?from=2"} {
		v.size(390, 800)
		v.open(w.address + "/t/sundrey/" + page)
		assert.Empty(t, v.axe(), page)
		assert.LessOrEqual(t, ask[int](v, "document.documentElement.scrollWidth"), 390, page)
	}
	assert.Equal(
		t,
		" Children under four stay ashore.",
		ask[string](v, "' ' + document.querySelector('ins').textContent.trim()"),
	)

	// At the width of a phone the room still works.
	ines.size(390, 844)
	ines.open(w.address + "/sundrey/documents/accessibility")
	ines.has("What it has to say")
	assert.LessOrEqual(t, ask[int](ines, "document.documentElement.scrollWidth"), 390)
}

// The statement on accessibility takes what a check of the pages found, and says
// nothing that was not looked at.
func TestAccessibilityEvidence(t *testing.T) {
	w := newWorld(t)
	w.only()
	known := []store.Page{{Page: bundle.Page{Path: "/"}}, {Page: bundle.Page{Path: "/about"}}}
	require.NoError(t, w.server.Store.PutPages(t.Context(), demo.Key, known, time.Time{}))
	w.changeSite(func(s *bundle.Site) { s.HomePaths = nil })
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/documents/accessibility")
	ines.has("No page was checked yet.")
	ines.press("Inspect the site now")
	require.Eventually(t, func() bool {
		e, err := w.server.Store.Evidence(t.Context(), demo.Key)
		require.NoError(t, err)
		return e != nil && e.Checked != nil
	}, time.Minute, 100*time.Millisecond)
	ines.open(w.address + "/sundrey/documents/accessibility")
	ines.has("2 pages were checked on 2026-12-04 with axe-core")
	ines.has("It finds only a part of what can be wrong.")
	text := ask[string](ines, "document.querySelector('[data-section=prepared]').innerText")
	assert.Contains(t, text, "On 4 December 2026 2 pages were checked with axe-core")
	assert.Contains(t, text, "it proves nothing of the rest")
	_, err := os.Stat(filepath.Join("..", "internal", "inspect", "dist", "axe.js"))
	require.NoError(t, err)
	assert.NotContains(t, strings.ToLower(text), "every page")
}
