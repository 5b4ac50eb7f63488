package decide_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/pages"
)

// Counting by classes of pages is as counting page by page, whatever page
// conditions are and whether or not an audience asks about the page.
func TestCarriersAreThoseOfEachPage(t *testing.T) {
	var known []bundle.Page
	for i := range 60 {
		known = append(known, bundle.Page{
			Path: fmt.Sprintf("/%c/%d", 'a'+i%4, i), Title: fmt.Sprintf("Page %d", i/2), Type: []string{"", "port", "news"}[i%3],
			Language: []string{"en", "de"}[i%2], Tags: [][]string{nil, {"boats"}, {"boats", "cars"}}[i/20],
		})
	}
	for _, audience := range []string{
		`{"all":[]}`, `{"all":[{"fact":"page.path","is":"starts","value":"/a"}]}`,
		`{"all":[{"fact":"device.kind","is":"eq","value":"phone"}]}`,
		`{"all":[{"fact":"page.type","is":"eq","value":"port"}]}`,
		`{"all":[{"fact":"page.language","is":"eq","value":"de"}]}`,
		`{"all":[{"fact":"page.tags","is":"has","value":"cars"}]}`,
		`{"all":[{"fact":"page.title","is":"eq","value":"Page 4"}]}`,
		`{"all":[{"fact":"page.query.from","is":"eq","value":"poster"}]}`,
	} {
		b := bundle.Bundle{
			Format: bundle.Format,
			Site: bundle.Site{
				Key:      "s",
				Name:     "S",
				TimeZone: "UTC",
				Language: "en",
				Capacity: map[bundle.Slot]int{bundle.Top: 2}, Languages: []string{"en", "de"},
			},
			Pages: known,
		}
		for i, c := range []pages.Conditions{
			{Include: []pages.Entry{{Match: pages.All}}},
			{
				Include: []pages.Entry{{Match: pages.Section, Path: "/a"}},
				Exclude: []pages.Entry{{Match: pages.Page, Path: "/a/8"}},
			},
			{Include: []pages.Entry{{Match: pages.Type, Value: new("port")}}},
			{Include: []pages.Entry{{Match: pages.Pattern, Pattern: "/:part/1*"}}},
		} {
			n := bundle.Notice{ID: fmt.Sprintf("n%d", i), Kind: bundle.KindBar, State: bundle.Published, Pages: &c, Rank: &i}
			if i == 1 {
				require.NoError(t, bundle.Decode([]byte(`{"id":"n1","kind":"bar","audience":`+audience+`}`), "Notice", &n))
				n.State, n.Pages = bundle.Published, &c
			}
			b.Notices = append(b.Notices, n)
		}
		s, err := decide.Compile(b)
		require.NoError(t, err)
		v := decide.Visit{At: noon, Facts: map[string]any{"device.kind": "phone"}}
		want := map[string]int{}
		for _, p := range known {
			v.URL = p.Path
			for _, n := range s.Decide(v).Show {
				want[n.ID]++
			}
		}
		// Pages of one class are decided alike.
		classes, count := s.PageClasses()
		type outcome struct {
			decision decide.Decision
			heldBack []string
		}
		first := map[int]outcome{}
		for _, p := range known {
			v.URL = p.Path
			n := classes[p.Path]
			assert.Less(t, n, count)
			var o outcome
			o.decision, o.heldBack = s.DecideWithHeldBack(v)
			if other, has := first[n]; has {
				assert.Equal(t, other, o, p.Path)
			}
			first[n] = o
		}
		assert.Len(t, first, count)
		v.URL = "/"
		got, err := s.PageCounts(t.Context(), v)
		require.NoError(t, err)
		assert.Equal(t, want, got, audience)
		assert.Greater(t, len(want), 2)
	}
}
