package icon_test

import (
	"encoding/xml"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"mastflag/core/icon"
)

// Every icon is well-formed XML of shapes alone: nothing that runs, nothing
// that is fetched.
func TestIconsAreInert(t *testing.T) {
	var all []icon.Icon
	for letter := 'a'; letter <= 'z'; letter++ {
		all = append(all, icon.Find(string(letter), 10_000)...)
	}
	assert.Greater(t, len(all), 4000)
	for _, i := range all {
		d := xml.NewDecoder(strings.NewReader(i.SVG))
		for {
			tok, err := d.Token()
			if tok == nil {
				assert.ErrorContains(t, err, "EOF", i.Name)
				break
			}
			if e, ok := tok.(xml.StartElement); ok {
				assert.Contains(t, []string{"svg", "path", "g", "circle", "rect", "line", "ellipse"}, e.Name.Local, i.Name)
				for _, a := range e.Attr {
					assert.False(
						t,
						strings.HasPrefix(a.Name.Local, "on") || strings.Contains(a.Name.Local, "href") ||
							strings.Contains(a.Value, "url("),
						i.Name,
					)
				}
			}
		}
	}
}

func TestFind(t *testing.T) {
	names := func(words string) (out []string) {
		for _, i := range icon.Find(words, 60) {
			out = append(out, i.Name)
		}
		return out
	}
	assert.Contains(t, names(""), "alert-triangle", "what people want most")
	assert.Equal(t, "alert-triangle", names("warn")[0], "by what it is for")
	assert.Equal(t, "anchor", names("anchor")[0], "by its name")
	assert.Equal(t, "search", names("search")[0], "whole words before beginnings of words")
	assert.NotContains(t, names("ear"), "search", "words are found from their beginning")
	assert.Contains(t, names("alert triangle"), "alert-triangle", "by all words")
	assert.Empty(t, names("xyzzy"))
	assert.NotNil(t, icon.Find("xyzzy", 1), "an empty list, not none")
	assert.LessOrEqual(t, len(names("a")), 60)
	_, ok := icon.Get("xyzzy")
	assert.False(t, ok)
}
