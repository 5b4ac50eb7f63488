package bundle_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
)

// JSON is read as the standard has it (RFC 8259), or refused with its place: numbers
// and instants however they are written, keys that stand twice or in other letters.
func TestJSONAsWritten(t *testing.T) {
	type inner struct {
		At    time.Time `json:"at"`
		Times *int      `json:"times"`
	}
	type shape struct {
		Rank  int            `json:"rank"`
		Share float64        `json:"share"`
		Name  string         `json:"name"`
		On    *bool          `json:"on"`
		List  []inner        `json:"list"`
		Any   any            `json:"any"`
		Map   map[string]int `json:"map"`
	}
	for raw, want := range map[string]string{
		`{"rank": 50.0, "share": 5e1}`: `{"rank":50,"share":50}`,
		`{"rank": 5e1}`:                `{"rank":50}`,
		`{"rank": -0.5e1}`:             `{"rank":-5}`,
		`{"list": [{"times": 3.00, "at": "2026-12-04T10:00:00.5+01:00"}]}`: `{"list":[{"at":"2026-12-04T10:00:00.5+01:00",` +
			`"times":3}]}`,
		`{"any": {"a": [1.50, true, null]}}`: `{"any":{"a":[1.5,true,null]}}`,
		`{"rank": 50.5}`: `/rank: 50.5 is not a whole number that can be ` +
			`used; give a whole number`,
		`{"rank": 1e400}`:        `/rank: 1e400 is not a whole number`,
		`{"rank": 1e-400000000}`: `/rank: 1e-400000000 is not a whole number`,
		`{"any": 1e400}`:         `/any: the number 1e400 is too large`,
		`{"rank": "5"}`: `/rank: "5" does not belong here; give a whole ` +
			`number`,
		`{"name": 5}`: `/name: 5 does not belong here; give a text, ` +
			`in quotes`,
		`{"on": 1}`: `/on: 1 does not belong here; give true or false`,
		`{"list": {}}`: `/list: this object does not belong here; give ` +
			`a list`,
		`{"list": [[]]}`: `/list/0: this list does not belong here; give ` +
			`an object`,
		`{"list": [{"at": "2026-12-04t10:00:00z"}]}`: `/list/0/at: "2026-12-04t10:00:00z" is not an ` +
			`instant; write it like 2026-11-20T10:00:00Z (RFC 3339)`,
		`{"list": [{"at": "2026-12-31T23:59:60Z"}]}`: `/list/0/at: "2026-12-31T23:59:60Z" is not an ` +
			`instant`,
		`{"list": [{"at": 5}]}`: `/list/0/at: 5 does not belong here; give an ` +
			`instant, like`,
		`{"rank": 1, "rank": 2}`: `/rank: the key "rank" stands twice; keep one ` +
			`of them`,
		`{"any": [{"a": 1, "b": {"a": 2, "a": 3}}]}`: `/any/0/b/a: the key "a" stands twice`,
		`{"map": {"x": 1, "x": 1}}`:                  `/map/x: the key "x" stands twice`,
		`{"Rank": 1}`:                                `/Rank: unknown field "Rank"`,
		`{"list": [{"AT": null}]}`:                   `/list/0/AT: unknown field "AT"`,
		`{"rank": 1} {}`:                             `this is not JSON: line 1, column 13`,
		`{"rank": 1`:                                 `this is not JSON: line 1`,
		`[]`: `document: this list does not belong here; ` +
			`give an object`,
	} {
		var v shape
		err := bundle.Unmarshal([]byte(raw), &v)
		if strings.HasPrefix(want, "{") {
			require.NoError(t, err, raw)
			var got map[string]any
			require.NoError(t, json.Unmarshal([]byte(want), &got))
			for key, value := range got {
				has, err := json.Marshal(map[string]any{"rank": v.Rank, "share": v.Share, "list": v.List, "any": v.Any}[key])
				require.NoError(t, err)
				is, err := json.Marshal(value)
				require.NoError(t, err)
				assert.JSONEq(t, string(is), string(has), raw)
			}
		} else if assert.Error(t, err, raw) {
			assert.Contains(t, err.Error(), want, raw)
		}
	}
	_, err := bundle.Parse([]byte(strings.Replace(full, `"rank":50`, `"rank":5e1`, 1)))
	require.NoError(t, err)
	_, err = bundle.Parse([]byte(strings.Replace(full, `"key"`, `"key": "x", "key"`, 1)))
	require.ErrorContains(t, err, `/site/key: the key "key" stands twice`)
}

// ours are words of the program and of Go that no message for people may hold.
var ours = regexp.MustCompile(`\bGo\b|golang|json: |struct|cannot ` +
	`unmarshal|\b(u?int|float)(8|16|32|64)?\b|reflect|parsing time|2006-01-02|panic|nil\b|bundle\.|audience\.|schedule\.`)

// Whatever is put in the place of any value of a document, the message names the place
// and nothing of the program.
func TestMessagesNameNothingOfTheProgram(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	var whole any
	require.NoError(t, json.Unmarshal([]byte(full), &whole))
	var places []func(any)
	var walk func(v any, put func(any))
	walk = func(v any, put func(any)) {
		places = append(places, put)
		switch v := v.(type) {
		case map[string]any:
			for k := range v {
				walk(v[k], func(x any) { v[k] = x })
			}
		case []any:
			for i := range v {
				walk(v[i], func(x any) { v[i] = x })
			}
		}
	}
	refused := 0
	for range 1500 {
		require.NoError(t, json.Unmarshal([]byte(full), &whole))
		places = nil
		walk(whole, func(x any) { whole = x })
		values := []any{
			nil, true, 1.5, -7, 1e300, "", "x", "2026-12-04t10:00:00z", "2026-02-30T10:00", []any{}, []any{1}, map[string]any{},
			map[string]any{"x": 1},
		}
		places[r.IntN(len(places))](values[r.IntN(len(values))])
		raw, err := json.Marshal(whole)
		require.NoError(t, err)
		_, err = bundle.Parse(raw)
		if err == nil {
			continue
		}
		refused++
		for _, line := range strings.Split(err.Error(), "\n") {
			require.False(t, ours.MatchString(line), fmt.Sprintf("%s\n%s", line, ours.FindString(line)))
		}
	}
	assert.Greater(t, refused, 500)
}
