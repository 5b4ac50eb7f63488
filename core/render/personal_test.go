package render_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/render"
)

// A place for what the site tells of a visitor is one in messages and texts alone; wherever else it was written, and in
// what runs no script, stand the words for everyone, and nowhere the braces.
func TestPersonalPlaces(t *testing.T) {
	const place = "{person.name|sailor}"
	raw := strings.ReplaceAll(`{"id":"n","kind":"pop-up","state":"published","memory":{"foldable":true},"content":{
		"rows":[{"columns":[{"parts":[{"id":"head","kind":"heading"},{"id":"text","kind":"text"},
			{"id":"mail","kind":"field","field":{"kind":"email"}},{"id":"agree","kind":"field","field":{"kind":"agreement"}},
			{"id":"send","kind":"send"},{"id":"film","kind":"video","video":{"file":"/f.webm"}}]}]}],
		"wordings":{"en":{"headline":"H P","message":"<p>M P</p>","link":{"href":"/a","label":"L P"},"parts":{
			"head":{"heading":"Q P"},"text":{"text":"<p>T P</p>"},"mail":{"heading":"F P","text":"<p>G P</p>"},
			"agree":{"text":"<p>A P</p>"},"send":{"heading":"S P","text":"<p>D P</p>"},"film":{"text":"<p>V P</p>"}}}}}}`,
		"P", place)
	var n bundle.Notice
	require.NoError(t, json.Unmarshal([]byte(raw), &n))
	site := bundle.Site{Key: "s", Name: "S", TimeZone: "UTC", Language: "en"}
	bar, err := render.Notice(site.Prepared(n, "https://n.example"), "en", "/i/", time.UTC)
	require.NoError(t, err)
	assert.NotContains(t, bar.HTML, "{person")
	assert.Equal(t, 2, strings.Count(bar.HTML, `<bdi data-personal="person.name">sailor</bdi>`), "message and text")
	for _, says := range []string{"H sailor", "L sailor", "Q sailor", "F sailor", "G sailor", "A sailor", "S sailor"} {
		assert.Contains(t, bar.HTML, says)
	}
	assert.NotContains(t, strings.Join(bar.Fold, " "), "{person")
}
