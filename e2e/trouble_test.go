package e2e

import (
	"net"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/internal/demo"
)

// restart has the program answer again where it did before.
func (w *world) restart() {
	w.t.Helper()
	l, err := net.Listen("tcp", strings.TrimPrefix(w.address, "http://"))
	require.NoError(w.t, err)
	program := http.Server{Handler: w.server.Handler}
	go program.Serve(l)
	w.t.Cleanup(func() { program.Close() })
}

// The connection breaks while someone writes, and their session ends: what
// they wrote stands, they are told, and it is saved once that works again.
func TestNothingWrittenIsLost(t *testing.T) {
	w := newWorld(t)
	ines := person(t)
	w.giveSession(ines)
	ines.open(w.address + "/sundrey/notices/booking-deadline")
	ines.until("document.querySelector('.tiptap')")
	kept := func() string {
		n, err := w.server.Store.Notice(t.Context(), demo.Key, "booking-deadline")
		require.NoError(t, err)
		return n.Working().Content.Wordings["en"].Message
	}
	write := func(words string) {
		ines.do(chromedp.Click(chromedp.CSS(".tiptap")))
		ines.do(chromedp.KeyEvent("a", chromedp.KeyModifiers(chromedp.ModifierCtrl)))
		ines.key(words)
	}

	w.stop()
	write("Written without a connection")
	ines.has("What you wrote is kept here and saved as soon as that works again.")
	assert.NotContains(t, kept(), "without a connection")
	w.restart()
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	assert.Contains(t, kept(), "Written without a connection")

	w.calm(ines) // what the save brought about has been answered
	_, err := w.server.Store.DB().Exec("DELETE FROM session")
	require.NoError(t, err)
	write("Written without a session")
	ines.until("document.querySelector('.again input[name=email]')")
	assert.Equal(t, "Written without a session", ask[string](ines, "document.querySelector('.tiptap').textContent"))
	ines.do(
		chromedp.SendKeys(chromedp.CSS(".again input[name=email]"), demo.Email),
		chromedp.SendKeys(chromedp.CSS(".again input[name=password]"), demo.Password+kb.Enter),
	)
	ines.until("!document.querySelector('.again') && document.querySelector('.saving').textContent === 'Saved'")
	assert.Equal(t, "Written without a session", ask[string](ines, "document.querySelector('.tiptap').textContent"))
	assert.Contains(t, kept(), "Written without a session")

	// What the server refuses is said where it was written, and stands.
	ines.press("a link")
	ines.fill("Address it leads to", "javascript:alert(1)")
	ines.has("uses javascript:, which a notice may not")
	ines.until("document.querySelector('.saving').textContent === 'Not saved yet'")
	ines.press("Publish")
	w.calm(ines)
	n, err := w.server.Store.Notice(t.Context(), demo.Key, "booking-deadline")
	require.NoError(t, err)
	assert.Nil(t, n.Published, "nothing half-right goes out")
	ines.do(chromedp.Evaluate[chromedp.Void]("document.querySelector('[aria-label=\"Address it leads to\"]').select()"))
	ines.key("/book")
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
}

// The main job by keyboard alone: a bar begun, written, published, and taken
// off again.
func TestByKeyboardAlone(t *testing.T) {
	w := newWorld(t)
	w.only()
	ines := person(t)
	w.signIn(ines)
	ines.has("No notices yet")
	ask[bool](ines, "document.activeElement.blur() || true")
	ines.key("n")
	ines.beginPlain()
	ines.until("document.querySelector('.tiptap')")

	// tabTo goes on by Tab until the focus is on what JavaScript finds.
	tabTo := func(what string) {
		t.Helper()
		for last := time.Now().Add(patience); time.Now().Before(last); {
			if ask[bool](ines, "(e => "+what+")(document.activeElement)") {
				visible := ask[bool](
					ines,
					"(e => { const s = getComputedStyle(e); return e.matches(':focus-visible') && (s.outlineStyle !== 'none' || "+
						"getComputedStyle(e.closest('.rich, .el-input__wrapper') ?? e).borderColor !== '') })(document.activeElement)",
				)
				assert.True(t, visible, "the focus is seen: %s", what)
				return
			}
			ines.key(kb.Tab)
		}
		require.Fail(t, "Tab does not reach it: "+what)
	}
	tabTo("e.classList.contains('tiptap')")
	ines.key("Written by hand")
	ines.until("document.querySelector('.saving').textContent === 'Saved'")
	tabTo("e.dataset.control === 'slot'")
	ines.key(kb.Enter)
	ines.until("document.activeElement.matches('.editor input[type=radio]')")
	ines.key(kb.ArrowDown)
	ines.has("Show this bar at the bottom of every page")
	ines.key(kb.Escape)
	ines.until("document.activeElement.dataset.control === 'slot'")
	tabTo("e.textContent.trim() === 'Publish'")
	ines.key(kb.Enter)
	ines.has("Published. It is up on 66 pages.")
	visitor := person(t)
	visitor.open(w.site + "/ports")
	visitor.shows("Written by hand")
	tabTo("e.textContent.trim() === 'Unpublish'")
	ines.key(kb.Enter)
	ines.has("It is a draft again.")
	visitor.open(w.site + "/ports")
	visitor.settled()
	visitor.shows()
	ask[bool](ines, "document.activeElement.blur() || true")
	ines.key("g")
	ines.key("p")
	ines.has("66 known pages")

	// From a starting point, in German too, by keys alone.
	tabTo("e.textContent.trim() === 'New notice'")
	ines.key(kb.Enter)
	ines.until("document.querySelectorAll('.starting-menu li').length > 12 && " +
		"document.activeElement.closest('.starting-menu')")
	ines.key("closed")
	ines.until("document.querySelector('.starting-menu li')?.textContent.startsWith('Closed')")
	ines.key(kb.ArrowDown)
	ines.until("document.activeElement.closest('.starting-menu li')?.textContent.startsWith('Closed')")
	ines.key(kb.ArrowUp)
	ines.until("document.activeElement.localName === 'input'")
	ines.key(kb.Enter)
	ines.until("document.querySelector('.tiptap')?.textContent.includes('We are closed today.')")
	tabTo("e.textContent.trim() === 'Side by side'")
	ines.key(kb.Enter)
	ines.has("German up to date")
	tabTo("e.textContent.trim() === 'Have it drafted by the machine'")
	ines.key(kb.Enter)
	ines.has("German a machine’s draft, unread")
	tabTo("e.textContent.trim() === 'I have read it'")
	ines.key(kb.Enter)
	ines.has("German up to date")
	tabTo("e.textContent.trim() === 'Publish'")
	ines.key(kb.Enter)
	ines.has("Published. It is up on 66 pages.")
	visitor.open(w.site + "/de/ports")
	visitor.shows("Heute geschlossen. Morgen sind wir wieder für Sie da.")
}
