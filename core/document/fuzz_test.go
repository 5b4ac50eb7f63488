package document_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/document"
	"mastflag/core/markup"
)

// FuzzText: whatever is written, a text stays within the subset, says the same
// when it is sanitised again, and can be taken away and compared.
func FuzzText(f *testing.F) {
	for _, seed := range []string{
		"<h2>Who</h2><p>We <a href=\"document:privacy\">are</a>.</p>", "<table><tr><td>a<td>b</table>",
		"<a href=javascript:x>y</a>", "<ul><li>1<ul><li>2</ul></ul>", "<<script>p>", "&lt;b&gt;&#0;", "</td></tr>x",
	} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, html string) {
		clean := markup.SanitiseDocument(html)
		require.Equal(t, clean, markup.SanitiseDocument(clean))
		require.Empty(t, markup.CheckDocument(clean), "%q", clean)
		same := document.Linked(clean, func(id string) string { return document.Scheme + id })
		require.Empty(t, markup.CheckDocument(same), "%q", same)
		require.Equal(t, markup.Blocks(clean), markup.Blocks(same))
		text := document.Text{Title: "T", Text: clean}
		for _, form := range []string{"html", "markdown", "text"} {
			file, err := text.As(form, "en")
			require.NoError(t, err)
			assert.NotEmpty(t, file.Text)
		}
		for _, p := range document.Compare(text, text) {
			require.Equal(t, "same", p.Op)
		}
	})
}
