package delivery

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/consent"
)

// Whatever name the site script keeps something under is in the docs, and what visitors' browsers keep is in the
// document about cookies, but for what only an administrator's has.
func TestStorageIsDocumented(t *testing.T) {
	docs, err := os.ReadFile("../../docs/pages.md")
	require.NoError(t, err)
	memory, room, held, guard := consent.OwnStorage("SITE")
	listed := map[string]bool{"mastflag.SITE.preview": true}
	for _, own := range []consent.Item{memory, room, held, guard} {
		listed[own.Name] = true
	}
	sources, err := filepath.Glob("../../sitescript/src/*.ts")
	require.NoError(t, err)
	found := map[string]bool{}
	for _, name := range sources {
		code, err := os.ReadFile(name)
		require.NoError(t, err)
		if strings.HasSuffix(name, ".test.ts") {
			continue
		}
		for _, m := range regexp.MustCompile("`mastflag\\.\\$\\{[^}]+\\}([^`]*)`").FindAllSubmatch(code, -1) {
			found["mastflag.SITE"+string(m[1])] = true
		}
	}
	assert.Equal(t, listed, found)
	for name := range found {
		assert.Contains(t, string(docs), "| `"+name+"` |")
	}
}
