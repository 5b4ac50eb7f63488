package main

import (
	"encoding/json"
	"net/http"
	"os"
	"strings"
	"testing"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/internal/delivery"
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

	// Each operation has a name of its own, for generated clients, and each route of sites is there.
	ids := map[any]string{}
	for path, operations := range doc.Paths {
		for method, op := range operations {
			id := op.(map[string]any)["operationId"]
			assert.NotEmpty(t, id, "%s %s", method, path)
			assert.Empty(t, ids[id], "%s %s is called as", method, path)
			ids[id] = method + " " + path
		}
	}
	assert.Equal(t, "put /api/sites/{site}/notices/{notice}", ids["putSitesBySiteNoticesByNotice"])
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	new(delivery.Delivery).Routes(r)
	served := []string{}
	for _, route := range r.Routes() {
		if route.Method == http.MethodOptions {
			continue
		}
		path := pathParam.ReplaceAllString(route.Path, "{$1}")
		served = append(served, route.Method+" "+path)
		assert.Contains(t, doc.Paths[path], strings.ToLower(route.Method), path)
	}
	assert.Len(t, public, len(served), served)
}
