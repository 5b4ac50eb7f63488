package delivery

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Each part of the site script is at most so large, gzip: what every page loads, and what few
// need. The build puts them where the program embeds them.
func TestPartsAreSmall(t *testing.T) {
	const kb = 1024
	limits := map[string]int{"site": 7 * kb, "popup": 4 * kb, "form": 6 * kb, "video": 3 * kb}
	for _, name := range parts {
		code, err := built.ReadFile("dist/" + name + ".js")
		require.NoError(t, err, "run make build")
		a, err := newAsset(name, code)
		require.NoError(t, err)
		limit := limits[name]
		if limit == 0 {
			limit = 6 * kb
		}
		if name == "picture" { // for the stage alone
			continue
		}
		assert.LessOrEqual(t, len(a.gzip), limit, name)
	}
	line, err := newAsset("guarded", []byte(NewGuardedSnippet("https://notices.example", "site", false).Inline))
	require.NoError(t, err)
	assert.LessOrEqual(t, len(line.gzip), 5*kb/2, "the line in the page that holds back")
	assert.Contains(t, NewGuardedSnippet("https://notices.example", "site", true).HTML(), GuardMark)
	assert.NotContains(t, NewSnippet("https://notices.example", "site").HTML(), GuardMark)
}
