package main

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is committed is what the Go types say.
func TestDerivedFilesAreCurrent(t *testing.T) {
	t.Chdir("../..")
	derived, err := files()
	require.NoError(t, err)
	for path, want := range derived {
		have, err := os.ReadFile(path)
		require.NoError(t, err)
		assert.True(t, string(want) == string(have), "%s is not current: run make generate", path)
	}
	var doc struct {
		OpenAPI    string                    `json:"openapi"`
		Paths      map[string]map[string]any `json:"paths"`
		Components struct {
			Schemas map[string]any `json:"schemas"`
		} `json:"components"`
	}
	require.NoError(t, json.Unmarshal(derived["docs/openapi.json"], &doc))
	assert.Equal(t, "3.1.0", doc.OpenAPI)
	assert.Contains(t, doc.Paths["/api/sites/{site}/notices/{notice}"], "put")
	assert.Contains(t, doc.Components.Schemas, "Problem")
}
