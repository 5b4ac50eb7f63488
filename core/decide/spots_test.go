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
	"mastflag/core/pages"
)

// The spots of a notice that are for a page, against trying each: without any it is
// not on that page, it is said why, and the count of its pages knows it (rule B1).
// Where the page was read and has none of them, that is known too.
func TestSpotsByPage(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	conditions := func() string {
		entry := func() string {
			return pick(`{"match":"all"}`, `{"match":"section","path":"/ports"}`, `{"match":"page","path":"/book"}`,
				`{"match":"type","value":"booking"}`, `{"match":"query","name":"x"}`)
		}
		return fmt.Sprintf(`{"include":[%s],"exclude":[%s]}`, entry(), pick("", "", entry()))
	}
	at := time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	outcomes := map[string]int{}
	for range 300 {
		var spots []string
		for i := range r.IntN(3) {
			of := fmt.Sprintf(`,"pages":%s`, conditions())
			spots = append(spots, fmt.Sprintf(`{"selector":"#s%d"%s}`, i, pick(of, of, "")))
		}
		notice := func(id string) string {
			return fmt.Sprintf(
				`{"id":%q,"kind":"block","slot":%q,"state":"published","publishedAt":"2026-11-01T10:00:00Z","pages":%s,`+
					`"spots":[%s]%s,
				"content":{"wordings":{"en":{"message":"Here"}}}}`,
				id, pick("inline", "inline", "top"), conditions(), strings.Join(spots, ","),
				pick("", `,"spot":{"selector":"main"}`, fmt.Sprintf(`,"spot":{"selector":"main","pages":%s}`, conditions())),
			)
		}
		b, err := bundle.Parse(fmt.Appendf(nil, included, notice("one")+","+notice("two")))
		require.NoError(t, err)
		for i := range b.Pages {
			b.Pages[i].Lost = strings.Fields(pick("", "#s0", "#s0 #s1 main", "main"))
		}
		s, err := decide.Compile(b)
		require.NoError(t, err)
		names, _ := b.Site.Names()
		test := func(c pages.Conditions, p pages.Subject) bool {
			set, faults := pages.Compile(c, names)
			require.Empty(t, faults)
			return set.Test(p).Shows
		}
		known, unplaced := map[string]int{}, map[string][]string{}
		for _, address := range []string{"/", "/book", "/ports/a", "/ports/b", "/ports/new", "/book?x=1"} {
			subject, _ := s.Subject(address)
			res := s.Explain(decide.Visit{At: at, URL: address})
			shows := map[string]bool{}
			for _, n := range res.Show {
				shows[n.ID] = true
			}
			for _, n := range b.Notices {
				var want []int
				some := false
				for i, spot := range n.AllSpots() {
					some = some || spot.Pages != nil && n.GetSlot() == bundle.Inline
					if test(spot.GetPages(), subject) {
						want = append(want, i)
					}
				}
				takes := test(n.GetPages(), subject)
				if at := slices.IndexFunc(b.Pages, func(p bundle.Page) bool { return p.Path == address }); at >= 0 && takes &&
					n.GetSlot() == bundle.Inline && len(n.AllSpots()) > 0 && !slices.ContainsFunc(want, func(i int) bool {
					return !slices.Contains(b.Pages[at].Lost, n.AllSpots()[i].Selector)
				}) {
					unplaced[n.ID] = append(unplaced[n.ID], address)
					outcomes["unplaced"]++
				}
				carries := takes && (!some || want != nil)
				require.Equal(t, carries, shows[n.ID], "%s on %s", notice, address)
				if carries && !strings.Contains(address, "?") && address != "/ports/new" {
					known[n.ID]++
				}
				if got, depends := s.Spots(n.ID, address); some {
					require.True(t, depends)
					require.Equal(t, want, got)
				} else {
					require.False(t, depends)
				}
				outcomes[fmt.Sprintf("carries %t, depends %t", carries, some)]++
				for _, held := range res.Held {
					if held.ID == n.ID && takes {
						require.Equal(t, "B1", held.Rule)
						require.Equal(t, "None of its spots is for this page, "+subject.Path+".", held.Why)
						outcomes["said why"]++
					}
				}
			}
		}
		on, err := s.PageCounts(t.Context(), decide.Visit{At: at})
		require.NoError(t, err)
		for _, n := range b.Notices {
			require.Equal(t, known[n.ID], on[n.ID])
			require.Equal(t, unplaced[n.ID], s.PagesWithoutSpot(n.ID))
		}
	}
	for outcome, n := range outcomes {
		assert.Greater(t, n, 20, outcome)
	}
	assert.Len(t, outcomes, 6)
}
