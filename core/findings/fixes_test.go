package findings_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/findings"
)

// Each mend of each finding, applied to random notices, leaves the finding gone and
// nothing graver in its place.
func TestMendsMendRandomNotices(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	entry := func() string {
		return pick(
			`{"match":"all"}`, `{"match":"home"}`, `{"match":"page","path":"/book"}`, `{"match":"page","path":"/gone"}`,
			`{"match":"section","path":"/ports"}`, `{"match":"page","path":"/ports/a"}`,
			`{"match":"pattern","pattern":"/ports/*"}`, `{"match":"type","value":"x"}`,
		)
	}
	list := func(least, most int) string {
		var out []string
		for range least + r.IntN(most-least+1) {
			out = append(out, entry())
		}
		return "[" + strings.Join(out, ",") + "]"
	}
	leaf := func() string {
		return pick(
			`{"fact":"visits.number","is":"gte","value":5}`, `{"fact":"visits.number","is":"lt","value":3}`,
			`{"fact":"visits.number","is":"gte","value":1}`, `{"fact":"device.kind","is":"eq","value":"phone"}`,
			`{"fact":"device.kind","is":"ne","value":"phone"}`, `{"fact":"visits.number","is":"unset"}`,
		)
	}
	group := func() string {
		var parts []string
		for range 1 + r.IntN(3) {
			parts = append(parts, pick(leaf(), leaf(), fmt.Sprintf(`{%q:[%s,%s]}`, pick("any", "all", "none"), leaf(), leaf())))
		}
		return fmt.Sprintf(`{%q:[%s]}`, pick("all", "any"), strings.Join(parts, ","))
	}
	colour := func() string { return pick("#ffffff", "#eeeeee", "#777777", "#0b5a66", "#000000") }
	notice := func(id string) string {
		fields := []string{
			fmt.Sprintf(`"id":%q`, id), `"kind":` + pick(`"bar"`, `"bar"`, `"alert"`, `"block"`), `"state":"published"`,
			`"publishedAt":"2026-12-01T00:00:00Z"`, fmt.Sprintf(`"rank":%d`, r.IntN(3)*10),
			fmt.Sprintf(`"pages":{"include":%s,"exclude":%s}`, list(0, 3), list(0, 2)),
		}
		if r.IntN(2) == 0 {
			fields = append(fields, `"audience":`+group())
		}
		if r.IntN(2) == 0 {
			more := pick(
				"", "", fmt.Sprintf(`,"buttons":{"background":%q,"text":%q}`, colour(), colour()), `,"theme":"none"`,
				fmt.Sprintf(`,"headline":{"colour":%q}`, colour()), fmt.Sprintf(`,"icon":"anchor","iconColour":%q`, colour()),
			)
			fields = append(fields, fmt.Sprintf(`"look":{"background":%q,"text":%q%s}`, colour(), colour(), more))
		} else if r.IntN(2) == 0 {
			fields = append(fields, `"look":{"theme":"pale"}`)
		}
		if r.IntN(3) == 0 {
			fields = append(fields, `"memory":{"closable":false}`)
		}
		if r.IntN(3) == 0 {
			fields = append(
				fields,
				`"schedule":{"windows":[`+pick(
					`{"until":"2026-11-01T00:00"}`, `{"from":"2026-12-01T00:00","until":"2026-12-02T00:00"}`,
					`{"from":"2026-12-20T00:00"}`,
				)+`]}`,
			)
		}
		if r.IntN(4) == 0 {
			fields = append(fields, `"slot":"inline"`)
		}
		return "{" + strings.Join(append(fields, `"content":{"wordings":{"en":{"headline":"h","message":"x"}}}`), ",") + "}"
	}
	grave := map[findings.Severity]int{findings.Info: 1, findings.Warning: 2, findings.Error: 3}
	type kind struct {
		code findings.Code
		of   string
	}
	count := func(list []findings.Finding) map[kind]int {
		out := map[kind]int{}
		for _, f := range list {
			out[kind{f.Code, f.Notices[0]}]++
		}
		return out
	}
	const room = `"capacity":{"top":1,"bottom":1},"themes":[{"name":"pale","look":{"background":"#ffffff","text":` +
		`"#eeeeee","buttons":{"background":"#777777","text":"#eeeeee"},"headline":{"size":20,"colour":"#777777"},` +
		`"dark":{"background":"#777777","text":"#eeeeee"}}}]`
	tried := map[findings.Code]int{}
	for range 250 {
		notices := []string{notice("a"), notice("b"), sound("c", `"rank":15`)}
		before := checkSite(t, room, notices...)
		for _, f := range before {
			for _, m := range f.Fixes {
				tried[f.Code]++
				i := slices.Index([]string{"a", "b", "c"}, f.Notices[0])
				mended := slices.Clone(notices)
				mended[i] = patched(t, notices[i], m)
				name, err := json.Marshal([]any{f.Code, f.What, m, notices[i]})
				require.NoError(t, err)
				after := checkSite(t, room, mended...)
				was, is := count(before), count(after)
				require.Less(t, is[kind{f.Code, f.Notices[0]}], was[kind{f.Code, f.Notices[0]}], "%s", name)
				for _, g := range after {
					k := kind{g.Code, g.Notices[0]}
					require.False(t, grave[g.Severity] > grave[f.Severity] && is[k] > was[k], "%s\ngets %s: %s", name, g.Code, g.What)
				}
			}
		}
	}
	for _, code := range []findings.Code{
		findings.AllExcluded, findings.Redundant, findings.UnknownPage, findings.NoPages, findings.MatchesNone,
		findings.Nobody, findings.IdlePart,
		findings.LowContrast, findings.NotClosable, findings.Over, findings.NoSpot, findings.Rival,
		findings.NoTheme,
	} {
		assert.Greater(t, tried[code], 20, code)
	}
}
