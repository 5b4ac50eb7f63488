package pages_test

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/pages"
)

// Taken off a page, or put on one, a notice is on every other page as it was; off and
// on again, or on and off, it is where it was (rule B4). By random conditions.
func TestOneMoreOneLess(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	all := []string{
		"/", "/de", "/ports", "/ports/aldwick", "/ports/fennay", "/ports/a", "/x/y", "/x?from=poster", "/ports/aldwick?from=",
	}
	entries := []pages.Entry{
		{Match: pages.All}, {Match: pages.Home}, {
			Match: pages.Page,
			Path:  "/ports/a",
		}, {Match: pages.Page, Path: "/ports/aldwick/"},
		{Match: pages.Page, Path: "/x/y"}, {Match: pages.Page, Path: "/de"}, {Match: pages.Section, Path: "/ports"},
		{
			Match:   pages.Pattern,
			Pattern: "/ports/*",
		}, {Match: pages.Type, Value: ptr("port")}, {Match: pages.Tag, Value: ptr("winter")},
		{Match: pages.Query, Name: "from"}, {Match: pages.InSet, Name: "ports in winter"},
	}
	draw := func(most int) (out []pages.Entry) {
		for range r.IntN(most + 1) {
			out = append(out, entries[r.IntN(len(entries))])
		}
		return out
	}
	shows := func(c pages.Conditions) []string {
		on := []string{}
		set, faults := pages.Compile(c, names(t))
		require.Empty(t, faults)
		for _, p := range all {
			if set.Test(subject(p)).Shows {
				on = append(on, p)
			}
		}
		return on
	}
	// The page itself is meant whatever its address asks for.
	but := func(list []string, path string) []string {
		return slices.DeleteFunc(slices.Clone(list), func(p string) bool { return subject(p).Path == path })
	}
	did := map[string]int{}
	for range 4000 {
		c := pages.Conditions{Include: draw(3), Exclude: draw(2)}
		before := shows(c)
		kept := pages.Conditions{Include: slices.Clone(c.Include), Exclude: slices.Clone(c.Exclude)}
		page := subject(all[r.IntN(7)])
		off := c.Off(page, names(t))
		require.Equal(t, kept, c, "what was there is not altered")
		require.NotContains(t, shows(off), page.Path, "%+v off %s", c, page.Path)
		require.Equal(t, but(before, page.Path), but(shows(off), page.Path), "%+v off %s: %+v", c, page.Path, off)
		require.LessOrEqual(t, len(off.Include)+len(off.Exclude), len(c.Include)+len(c.Exclude)+1)
		if slices.Contains(before, page.Path) {
			did["taken off"]++
			again, by := off.On(page, names(t))
			require.Nil(t, by)
			require.Contains(t, shows(again), page.Path)
		}

		on, by := c.On(page, names(t))
		require.Equal(t, kept, c)
		if by != nil {
			did["refused"]++
			require.Equal(t, c, on)
			only, _ := pages.Compile(pages.Conditions{Include: []pages.Entry{*by}}, names(t))
			require.True(t, only.Test(page).Shows, "%+v keeps %s out", by, page.Path)
			continue
		}
		require.Contains(t, shows(on), page.Path, "%+v on %s", c, page.Path)
		require.Equal(t, but(before, page.Path), but(shows(on), page.Path), "%+v on %s: %+v", c, page.Path, on)
		if !slices.Contains(before, page.Path) {
			did["put on"]++
			require.NotContains(t, shows(on.Off(page, names(t))), page.Path)
		}
	}
	for _, what := range []string{"taken off", "put on", "refused"} {
		assert.Greater(t, did[what], 100, what)
	}
}
