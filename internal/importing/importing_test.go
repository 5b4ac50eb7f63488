package importing_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/internal/importing"
	"mastflag/internal/store"
)

// What was found when a page was last read stays with it: a bundle does not know of it.
func TestPagesKeepWhatReadingFound(t *testing.T) {
	now := time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	st, err := store.Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	site := bundle.Site{Key: "s", Name: "S", TimeZone: "Europe/London", Language: "en"}
	require.NoError(t, st.AddSite(t.Context(), site))
	read := func(path, title string) store.Page {
		return store.Page{
			Page: bundle.Page{
				Path: path, Title: title, Language: "en", Type: "old", Lost: []string{".gone"},
				Spots: map[string]bundle.Extent{"h1": {From: 1, To: 2}},
			},
			Snippet: store.SnippetFound,
		}
	}
	first := []store.Page{read("/", "Home"), read("/fares", "Fares")}
	require.NoError(t, st.PutPages(t.Context(), "s", first, now.Add(-time.Hour)))
	require.NoError(t, st.PutPages(t.Context(), "s", append(first, read("/book", "Book")), now))

	in := bundle.Bundle{Format: bundle.Format, Site: site, Pages: []bundle.Page{
		{Path: "/fares/", Type: "prices"}, {Path: "/book", Title: "Booking", Language: "de"}, {Path: "/new"},
	}}
	_, err = importing.Bundle(t.Context(), st, in, store.By{Name: "test"}, now)
	require.NoError(t, err)
	got, err := st.Pages(t.Context(), "s")
	require.NoError(t, err)
	fares, book := read("/fares", "Fares"), read("/book", "Booking")
	fares.Type, book.Type, book.Language, book.Since = "prices", "", "de", now
	for i := range got {
		got[i].Since = got[i].Since.UTC()
	}
	assert.Equal(t, []store.Page{book, fares, {Page: bundle.Page{Path: "/new"}}}, got)

	in.Pages = []bundle.Page{{Path: "no path"}}
	_, err = importing.Bundle(t.Context(), st, in, store.By{Name: "test"}, now)
	assert.ErrorContains(t, err, "does not begin with /")
	kept, err := st.Pages(t.Context(), "s")
	require.NoError(t, err)
	assert.Len(t, kept, 3, "nothing is lost by it")
}
