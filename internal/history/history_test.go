package history_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"mastflag/internal/history"
)

// What was done is said as it goes on after a name, whatever its arguments hold; what this
// program does not know says itself.
func TestDeedsInWords(t *testing.T) {
	for _, c := range []struct {
		deed history.Deed
		want string
	}{
		{history.Published.With(), "published it"},
		{history.BeganCopy.With("Storm"), "copied it from “Storm”"},
		{history.BeganCopy.With("50 %s off, %L"), "copied it from “50 %s off, %L”"},
		{history.TranslatedDocument.With("%s", "pl"), "took in a translation of “%s” into Polish"},
		{history.Translated.With("no tag"), "took in a translation into “no tag”"},
		{history.Made.With("ada@s.example", "editor"), "made ada@s.example editor"},
		{history.Made.With("ada@s.example"), "made ada@s.example %s"},
		{history.Published.With("one too many"), "published it"},
		{history.Said.With("rang the bell"), "rang the bell"},
		{history.Deed{Act: "from-a-later-version", Args: []string{"x"}}, "from-a-later-version x"},
		{history.Deed{}, ""},
	} {
		assert.Equal(t, c.want, c.deed.String())
	}
}
