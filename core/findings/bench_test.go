package findings_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/decide"
)

// many is a site of 500 pages and n notices with audiences, a third of them
// repeating, in four slots.
func many(n int) string {
	var pages, notices []string
	for i := range 500 {
		pages = append(pages, fmt.Sprintf(`{"path":"/s%d/p%d"}`, i%40, i))
	}
	slots := []string{"top", "bottom", "corner-end", "centre"}
	kinds := []string{"phone", "tablet", "desktop"}
	for i := range n {
		include, schedule := `{"match":"all"}`, ""
		if i%5 > 1 {
			include = fmt.Sprintf(`{"match":"section","path":"/s%d"}`, i%40)
		}
		if i%3 == 0 {
			schedule = `"schedule":{"windows":[{"from":"2026-11-23T09:00","until":"2026-11-23T17:00","rule":"FREQ=WEEKLY;` +
				`BYDAY=MO,WE,FR"}]},`
		}
		notices = append(
			notices,
			sound(
				fmt.Sprintf("n%d", i),
				fmt.Sprintf(`"rank":%d,"slot":%q,%s"pages":{"include":[%s],"exclude":[{"match":"page","path":"/s%d/p%d"}]},
			"audience":{"all":[{"fact":"visits.number","is":"gte","value":%d},{"any":[{"fact":"device.kind","is":"eq",`+
					`"value":%q},{"fact":"view.scroll","is":"gte","value":30}]},{"any":[{"fact":"place.country","is":"in",`+
					`"value":["DE","AT"]},{"fact":"referrer.class","is":"ne","value":"search"}]}]}`,
					i*37%100, slots[i*7%4], schedule, include, i%40, i, 1+i%3, kinds[i*5%3]),
			),
		)
	}
	return `{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"Europe/London","language":"en"},` +
		`"pages":[` + strings.Join(pages, ",") + `],"notices":[` + strings.Join(notices, ",") + `]}`
}

// BenchmarkCheck checks 200 notices on 500 pages, as every look from a new
// viewpoint does.
func BenchmarkCheck(b *testing.B) {
	in, err := bundle.Parse([]byte(many(200)))
	require.NoError(b, err)
	s, err := decide.Compile(in)
	require.NoError(b, err)
	for b.Loop() {
		checked(s, at)
	}
}
