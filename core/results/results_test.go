package results_test

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/results"
)

// The interval's ends are those of Newcombe 1998, 48/80 and 56/70 (from memory).
func TestCompare(t *testing.T) {
	groups, err := results.Read(strings.NewReader(`
{"notice": "sale", "variant": "a", "visitors": 80, "reached": 48}
{"notice": "news", "variant": "", "visitors": 29, "reached": 29}

{"notice": "sale", "variant": "b", "visitors": 70, "reached": 56}
{"notice": "sale", "variant": "held-out", "visitors": 29, "reached": 1}
`))
	require.NoError(t, err)
	var keys []string
	for _, r := range results.Compare(groups) {
		line, err := json.Marshal(r)
		require.NoError(t, err)
		keys = append(keys, regexp.MustCompile(`[-0-9.]+`).ReplaceAllString(string(line), "0"))
	}
	const group, share = `{"notice":"%s","variant":"%s","visitors":0,"reached":0`, `,"share":0,"low":0,"high":0`
	difference := share + `,"difference":{"share":0,"low":0,"high":0,"always":{"low":0,"high":0}}`
	assert.Equal(t, []string{
		fmt.Sprintf(group, "sale", "a") + share + "}",
		fmt.Sprintf(group, "news", "") + "}",
		fmt.Sprintf(group, "sale", "b") + difference + "}",
		fmt.Sprintf(group, "sale", "held0out") + "}",
	}, keys)
	b := results.Compare(groups)[2]
	assert.InDelta(t, 0.8, *b.Share, 1e-9)
	assert.InDelta(t, 0.2, b.Difference.Share, 1e-9)
	assert.InDelta(t, 0.0524, b.Difference.Low, 5e-5)
	assert.InDelta(t, 0.3339, b.Difference.High, 5e-5)
	assert.Less(t, b.Difference.Always.Low, b.Difference.Low)
	assert.Greater(t, b.Difference.Always.High, b.Difference.High)
	assert.False(t, b.Difference.Decided(), "one look would have been misled")
}

func TestRead(t *testing.T) {
	for line, want := range map[string]string{
		`{"notice": "x", "variant": "a", "visitors": 10, "reached": 11}`:    `"reached" is 11 of 10`,
		`{"notice": "x", "variant": "a", "visitors": -1, "reached": 0}`:     `"visitors" is -1`,
		`{"notice": "x", "variant": "a", "visitors": 1, "reached": -1}`:     `"reached" is -1`,
		`{"variant": "a", "visitors": 10, "reached": 1}`:                    `"notice" is missing`,
		`{"notice": "x", "variant": "a", "visitors": 10.5, "reached": 1}`:   `visitors`,
		`{"notice": "x", "variant": "a", "visitors": "10", "reached": 1}`:   `visitors`,
		`{"notice": "x", "variant": "a", "visitors": 10, "seen": 1}`:        `seen`,
		`{"notice": "first", "variant": "a", "visitors": 10, "reached": 1}`: `on line 1 already`,
		`{"notice": "x"`: `line 2`,
		`[]`:             `line 2`,
	} {
		first := `{"notice": "first", "variant": "a", "visitors": 10, "reached": 1}` + "\n"
		_, err := results.Read(strings.NewReader(first + line))
		require.Error(t, err, line)
		assert.Contains(t, err.Error(), want)
		assert.Contains(t, err.Error(), "line 2")
	}
}
