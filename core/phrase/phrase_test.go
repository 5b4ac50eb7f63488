package phrase_test

import (
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/phrase"
)

var everyLanguage = append(slices.Clone(phrase.Ready), "es", "it", "nl", "pt", "sv", "cs", "uk", "tr")

// Every language says all that is said, with the values that English has, in words that
// could be written as own ones; none but English says it in English.
func TestWordsOfEveryLanguage(t *testing.T) {
	values := regexp.MustCompile(`\{[a-z]+\}`)
	english := phrase.In("en")
	for _, tag := range everyLanguage {
		words := phrase.Own(phrase.In(tag))
		if draft := phrase.Draft(tag); draft != nil {
			words = draft
			assert.False(t, phrase.Speaks(tag), tag)
			assert.NotEmpty(t, phrase.DraftedMay(tag))
			assert.Equal(t, english, phrase.In(tag), "nobody gets a draft")
		}
		said := phrase.Own{}
		for _, r := range phrase.Table {
			said[r.Key] = words[r.Key]
			assert.ElementsMatch(t, values.FindAllString(english[r.Key], -1), values.FindAllString(words[r.Key], -1),
				"%s in %s", r.Key, tag)
		}
		assert.Empty(t, said.Check(), tag)
		same := 0
		for _, r := range phrase.Table {
			if said[r.Key] == english[r.Key] {
				same++
			}
		}
		if tag != "en" {
			assert.Less(t, same, 5, "%s has English words", tag)
		}
	}
	assert.Equal(t, "Alle annehmen", phrase.In("de-AT")[phrase.Accept])
	assert.Equal(t, "Accept all", phrase.In("xx")[phrase.Accept])
	assert.Equal(t, "Aceptar todo", phrase.Draft("es-MX")[phrase.Accept])
	assert.Nil(t, phrase.Draft("de"))
}

func TestOwnWords(t *testing.T) {
	said := phrase.Over("de", phrase.Own{phrase.Accept: "Ja, alle", phrase.Reject: ""}, phrase.Own{
		phrase.Accept: "Alle", phrase.Reject: "Keine",
	})
	assert.Equal(t, "Ja, alle", said[phrase.Accept], "the notice's before the site's")
	assert.Equal(t, "Keine", said[phrase.Reject], "the site's before the program's")
	assert.Equal(t, "Auswählen", said[phrase.Choose])
	assert.Equal(t, "Read “{title}” {x}, version 3", phrase.Fill("Read “{title}” {x}, version {version}",
		map[string]string{"version": "3"}))
	assert.Equal(t, "{version}", phrase.Fill("{title}", map[string]string{"title": "{version}", "version": "3"}),
		"a value is not read again")

	for name, c := range map[string]struct {
		key  phrase.Key
		said string
		what string
	}{
		"nothing of that name":     {"acept", "Yes", "the program says nothing that is called"},
		"the message is not one":   {phrase.May, "May we?", "the program says nothing that is called"},
		"markup":                   {phrase.Accept, "<b>Yes</b>", "it holds HTML"},
		"10,000 characters":        {phrase.Accept, strings.Repeat("ja ", 3334)[:10_000], "too long, 10000 characters"},
		"a sentence may be longer": {phrase.Missing, strings.Repeat("{host} {purposes} ", 50), "too long, 900 characters"},
		"right-to-left override":   {phrase.Reject, "\u202eon llA", "U+202E"},
		"an embedding not closed":  {phrase.Reject, "\u2067No", "does not change it back"},
		"closed before it opens":   {phrase.Reject, "No\u2069", "does not change it back"},
		"a control character":      {phrase.Reject, "No\x07", "U+0007"},
		"a value left out":         {phrase.Missing, "{host} is held back.", "it leaves out {purposes}"},
	} {
		faults := phrase.Own{c.key: c.said}.Check()
		require.Len(t, faults, 1, name)
		assert.Contains(t, faults[0].What, c.what, name)
		assert.NotEmpty(t, faults[0].Remedy, name)
		assert.Equal(t, "/"+string(c.key), faults[0].Pointer, name)
	}
	for _, fine := range []string{"", "Yes & no < 3", "{host}", "\u2068أ\u2069 نعم"} {
		assert.Empty(t, phrase.Own{phrase.Accept: fine}.Check(), fine)
	}
}
