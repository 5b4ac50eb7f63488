package core_test

import (
	"go/build"
	"io/fs"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Imports go one way: the core knows nothing of the rest of the program, and
// has no network, database, clock or randomness of its own.
func TestCoreKnowsNothingOfTheRest(t *testing.T) {
	barred := []string{"net/http", "database/sql", "math/rand", "crypto/rand", "os", "log", "log/slog"}
	packages := 0
	require.NoError(t, filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !d.IsDir() || path == "." || strings.Contains(path, "testdata") {
			return err
		}
		p, err := build.ImportDir(path, 0)
		if err != nil {
			return err
		}
		packages++
		for _, i := range p.Imports {
			assert.False(
				t, strings.HasPrefix(i, "mastflag/") && !strings.HasPrefix(i, "mastflag/core/"), "%s imports %s", path, i,
			)
			assert.NotContains(t, barred, i, path)
		}
		return nil
	}))
	assert.Greater(t, packages, 8)
}
