package standin_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"mastflag/core/bundle"
	"mastflag/core/starting"
	"mastflag/internal/standin"
)

// What it knows it says, the rest it leaves in brackets; tags stay as they are.
func TestTranslate(t *testing.T) {
	out := standin.Translate(bundle.Wording{
		Message: `<p>No <strong>boats</strong> &amp; <a href="/x">ferries</a></p>`,
		Alt:     "A gale",
		Link:    &bundle.Link{Href: "/x", Label: "Book now"},
	}, "en", "de-AT")
	assert.Equal(
		t, `<p>[de-AT: No] <strong>[de-AT: boats]</strong> [de-AT: &amp;] <a href="/x">[de-AT: ferries]</a></p>`, out.Message,
	)
	assert.Equal(t, "Jetzt buchen", out.Link.Label)
	assert.Equal(t, "[de-AT: A gale]", out.Alt)
	assert.Empty(t, out.Details)
	site := bundle.Site{TimeZone: "UTC", Language: "en", Languages: []string{"pl"}}
	for _, p := range starting.Ready(site, time.Unix(0, 0)) {
		known := p.Notice.Wordings()
		assert.Equal(t, known["pl"].Message, standin.Translate(known["en"], "en", "pl").Message, p.Key)
	}
}
