package decide_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/decide"
)

const included = `{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"Europe/London",` +
	`"language":"en"},
	"pages":[{"path":"/"},{"path":"/book","type":"booking"},{"path":"/ports/a"},{"path":"/ports/b"}],"notices":[%s]}`

// What a block answers without a visitor is what every visitor gets, over random
// pages, conditions and times; and it changes when it says that it does (rule B6).
func TestIncludedAsDecided(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	stands := map[bool]int{}
	for range 200 {
		pick := func(of ...string) string { return of[r.IntN(len(of))] }
		entry := func() string {
			return pick(
				`{"match":"all"}`, `{"match":"home"}`, `{"match":"section","path":"/ports"}`, `{"match":"page","path":"/book"}`,
				`{"match":"type","value":"booking"}`,
			)
		}
		block := fmt.Sprintf(
			`{"id":"one","kind":"block","state":%q,"publishedAt":"2026-11-%02dT10:00:00Z","spot":{"selector":"main"},`+
				`"memory":{"closable":false},
			"pages":{"include":[%s],"exclude":[%s]},"schedule":{"windows":[%s]},`+
				`"content":{"wordings":{"en":{"message":"Here"}}}}`,
			pick("published", "published", "paused", "draft"), 1+r.IntN(28), entry(), pick("", entry()),
			pick(``, `{"from":"2026-11-10T09:00"}`, `{"until":"2026-12-04T18:00"}`, `{"from":"2026-11-20T09:00",`+
				`"until":"2026-11-20T17:00","rule":"FREQ=WEEKLY;BYDAY=FR"}`),
		)
		b, err := bundle.Parse(fmt.Appendf(nil, included, block))
		require.NoError(t, err)
		s, err := decide.Compile(b)
		require.NoError(t, err)
		for range 20 {
			at := time.Date(2026, 11, 1, r.IntN(24*50), r.IntN(60), 0, 0, time.UTC)
			page := pick("/", "/book", "/ports/a", "/ports/new", "/book?x=1")
			shows := func(at time.Time) bool {
				return slices.ContainsFunc(
					s.Decide(decide.Visit{At: at, URL: page}).Show, func(n decide.Shown) bool { return n.ID == "one" },
				)
			}
			in, err := s.Include("one", page, at)
			if b.Notices[0].GetState() != bundle.Published {
				require.ErrorIs(t, err, decide.ErrNoBlock)
				require.False(t, shows(at))
				continue
			}
			require.NoError(t, err)
			require.Equal(t, shows(at), in.Shows, "%s on %s at %s", block, page, at)
			stands[in.Shows]++
			if in.Shows && !in.Until.IsZero() {
				require.True(t, shows(in.Until.Add(-time.Second)))
				require.False(t, shows(in.Until), "%s on %s at %s", block, page, in.Until)
			}
		}
	}
	assert.Greater(t, min(stands[true], stands[false]), 200)
}

// What depends on the visitor is refused, with the reason.
func TestNotIncluded(t *testing.T) {
	const sound = `{"id":"one","kind":"block","state":"published","publishedAt":"2026-11-01T10:00:00Z",` +
		`"spot":{"selector":"main"},"memory":{"closable":false},"pages":{"include":[{"match":"all"}]},` +
		`"content":{"wordings":{"en":{"message":"Here"}}}}`
	swap := func(old, new string) string { return strings.Replace(sound, old, new, 1) }
	for want, block := range map[string]string{
		"":                              sound,
		"only blocks stand in the page": swap(`"block"`, `"bar"`),
		"visitors can close it":         swap(`{"closable":false}`, `{}`),
		"it is shown to each visitor only": swap(
			`{"closable":false}`, `{"closable":false,"limits":[{"times":1,"per":"P1D"}]}`,
		),
		"its times are on each visitor’s": swap(
			`"pages"`, `"schedule":{"clock":"visitor","windows":[{"from":"2026-11-01T09:00"}]},"pages"`,
		),
		"it is for visitors who use a phone": swap(
			`"pages"`, `"audience":{"fact":"device.kind","is":"eq","value":"phone"},"pages"`,
		),
		"chance decides which variant": swap(
			`"pages"`, `"experiment":{"goal":{"link":true},"variants":[{"id":"a"},{"id":"b"}]},"pages"`,
		),
		"chance decides which variant of it a visitor gets, if any": swap(
			`"pages"`, `"experiment":{"goal":{"link":true},"holdout":10},"pages"`,
		),
		"it stays away from visitors by what": swap(`{"closable":false}`, `{"closable":false,"clicked":"P1D"}`),
		"it stays away from visitors by what they did": swap(
			`{"closable":false}`, `{"closable":false,"converted":"page"}`,
		),
		"its countdown is each visitor’s": swap(`"content":{`, `"content":{"countdown":{"kind":"visitor","for":"PT2H"},`),
	} {
		b, err := bundle.Parse(fmt.Appendf(nil, included, block))
		require.NoError(t, err, block)
		s, err := decide.Compile(b)
		require.NoError(t, err)
		_, err = s.Include("one", "/", time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC))
		if want == "" {
			assert.NoError(t, err)
			_, err = s.Include("two", "/", time.Now())
			assert.ErrorIs(t, err, decide.ErrNoBlock)
			continue
		}
		var visitors decide.DependsOnVisitor
		require.ErrorAs(t, err, &visitors, want)
		assert.Contains(t, visitors.Error(), want)
	}
}
