package render_test

import (
	"strings"
	"testing"

	"github.com/andybalholm/cascadia"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/render"
)

// A consent notice as each rule wants it, and what it says of the inventory.
func TestConsentNotice(t *testing.T) {
	site := bundle.Site{Name: "Ferries", Language: "en", Consent: &consent.Setup{
		Purposes: []consent.Purpose{
			{ID: "measurement"},
			{
				ID: "films",
				Words: map[string]consent.PurposeWords{
					"en": {Name: "Films <b>", Text: "Plays <script>x</script>"},
					"de": {Name: "Filme"},
				},
			},
		},
		Inventory: []consent.Item{
			{
				Kind:    consent.Cookie,
				Name:    "tw",
				By:      "Tidewater",
				Purpose: "measurement",
				Lasts:   "P1Y2M",
				For:     map[string]string{"en": "Counts", "de": "Zählt"},
			},
			{Kind: consent.Cookie, Name: "basket", Purpose: consent.Necessary, Lasts: "session"},
		}}}
	ask := func(q consent.Question, tag string, place consent.PlaceRule) (*html.Node, render.Asking) {
		t.Helper()
		n := bundle.Notice{
			ID:   "ask",
			Kind: bundle.KindConsent,
			Content: &bundle.Content{Consent: &q, Wordings: map[string]bundle.Wording{
				"en": {Message: "<p>May we?</p>", Link: &bundle.Link{Href: "/legal", Label: "Privacy", As: "link"}},
				"de": {
					Message: "Dürfen wir?",
				}, "pl": {Message: "Czy możemy?"}, "ar": {Message: "هل تسمح؟"}, "xx": {Message: "Xx?"}}},
		}
		a, err := render.Consent(n, site, tag, place, "/i/")
		require.NoError(t, err)
		doc, err := html.Parse(strings.NewReader(a.HTML))
		require.NoError(t, err)
		return doc, a
	}
	all := func(doc *html.Node, selector string) (out []string) {
		for _, n := range cascadia.QueryAll(doc, cascadia.MustCompile(selector)) {
			var text func(*html.Node) string
			text = func(n *html.Node) string {
				if n.Type == html.TextNode {
					return n.Data
				}
				s := ""
				for c := n.FirstChild; c != nil; c = c.NextSibling {
					s += text(c)
				}
				return s
			}
			out = append(out, strings.TrimSpace(text(n)))
		}
		return out
	}
	optIn := consent.PlaceRule{Rule: consent.OptIn}
	doc, first := ask(consent.Question{}, "en", optIn)
	const choices = ".ask > .choices button"
	assert.Equal(t, []string{"Accept all", "Reject all", "Choose"}, all(doc, choices))
	assert.Equal(
		t, cascadia.Query(doc, cascadia.MustCompile("[data-act=accept]")).Attr[1],
		cascadia.Query(doc, cascadia.MustCompile("[data-act=reject]")).Attr[1], "both look the same",
	)
	assert.Equal(t, []string{"Strictly necessary", "Audience measurement", "Films <b>"}, all(doc, "legend label"))
	assert.Len(t, all(doc, "input[checked]"), 1, "nothing but what is always on is ticked")
	assert.Len(t, all(doc, "input[checked][disabled][value=necessary]"), 1)
	assert.Equal(t, []string{
		"basket", "Ferries", "", "this visit", "tw", "Tidewater", "Counts", "1 year and 2 months",
	}, all(doc, "tbody td"))
	assert.Empty(t, all(doc, "script"))
	assert.Len(t, first.Hash, 64)

	doc, _ = ask(consent.Question{RefusePlacement: "behind", Preticked: []string{"films"}}, "en", optIn)
	assert.Equal(t, []string{"Accept all", "Choose"}, all(doc, choices))
	assert.Equal(t, []string{"Save my choice", "Reject all"}, all(doc, ".detail .choices button"))
	assert.Len(t, all(doc, "input[checked]"), 1, "where the rule is opt-in nothing is ticked, whatever is set (K6)")

	doc, _ = ask(consent.Question{Preticked: []string{"films"}}, "en", consent.PlaceRule{Rule: consent.Notice})
	assert.Equal(t, []string{"All right", "Choose"}, all(doc, choices))
	assert.Len(t, all(doc, "input[checked]"), 3, "what goes ahead there is shown as it is")
	doc, _ = ask(consent.Question{}, "en", consent.PlaceRule{
		Rule:  consent.OptOut,
		Words: "Do Not Sell or Share My Personal Information",
	})
	assert.Equal(t, []string{"All right", "Do Not Sell or Share My Personal Information", "Choose"}, all(doc, choices))
	assert.Len(t, all(doc, "input[checked]"), 3, "until the visitor objects")

	for tag, words := range map[string][]string{
		"de": {"Alle annehmen", "Unbedingt erforderlich", "Filme", "Zählt", "1 Jahr und 2 Monate"},
		"pl": {"Odrzucam wszystko", "Films <b>", "1 rok i 2 miesiące"},
		"ar": {"قبول الكل"},
		"xx": {"Accept all"},
	} {
		doc, a := ask(consent.Question{}, tag, optIn)
		for _, w := range words {
			assert.Contains(t, strings.Join(all(doc, "section"), " "), w, tag)
		}
		assert.Equal(t, tag == "ar", strings.Contains(a.HTML, `dir="rtl"`), tag)
		assert.NotEqual(t, first.Hash, a.Hash)
	}
	// The fingerprint is of what is shown, and of nothing else.
	_, again := ask(consent.Question{ValidFor: "P30D"}, "en", optIn)
	assert.Equal(t, first.Hash, again.Hash)
	site.Consent.Inventory[0].Lasts = "P2Y"
	_, other := ask(consent.Question{}, "en", optIn)
	assert.NotEqual(t, first.Hash, other.Hash)
}
