package decide_test

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

	"mastflag/core/bundle"
	"mastflag/core/decide"
)

// Code runs where everything that it is for may go ahead, and is explained by that
// (rules B7, K3): against every set of purposes named and every set granted.
func TestCodeForPurposes(t *testing.T) {
	at := time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	all := []string{"preferences", "measurement", "marketing"}
	some := func(mask int) (out []string) {
		for i, p := range all {
			if mask>>i&1 == 1 {
				out = append(out, p)
			}
		}
		return out
	}
	const ask = `{"id":"ask","kind":"consent","state":%q,"publishedAt":"2026-11-01T10:00:00Z",` +
		`"pages":{"include":[{"match":"all"}]},
		"content":{"consent":{},"wordings":{"en":{"message":"May we?"}}}},`
	const wait = `"audience":{"fact":"view.seconds","is":"gte","value":30},`
	for k := range 4 {
		asks, when := []string{"published", "draft"}[k&1], []string{"", wait}[k>>1]
		for named := range 8 {
			raw, err := json.Marshal(some(named))
			require.NoError(t, err)
			b, err := bundle.Parse(fmt.Appendf(
				nil, `{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"UTC","language":"en",
				"consent":{"purposes":[{"id":"preferences"},{"id":"measurement"},{"id":"marketing"}]}},
				"notices":[`+ask+`{"id":"code","kind":"code","state":"published","publishedAt":"2026-11-01T10:00:00Z",`+
					when+`"pages":{"include":[{"match":"all"}]},
				"content":{"code":{"head":"<meta>","purposes":%s}}}]}`,
				asks, strings.Replace(string(raw), "null", "[]", 1),
			))
			require.NoError(t, err)
			s, err := decide.Compile(b)
			require.NoError(t, err)
			for granted := range 8 {
				res := s.Explain(decide.Visit{At: at, URL: "/", Facts: map[string]any{"consent.granted": some(granted)}})
				shows := slices.ContainsFunc(
					res.Show, func(n decide.Shown) bool { return n.ID == "code" && n.Slot == bundle.InCode },
				)
				want := named&^granted == 0 && (asks == "published" || named == 0)
				waits := slices.ContainsFunc(res.Waiting, func(n decide.Waiting) bool { return n.ID == "code" })
				assert.Equal(
					t, []bool{want && when == "", want && when != ""}, []bool{shows, waits}, "asked %s, named %v, granted %v",
					asks, some(named), some(granted),
				)
				i := slices.IndexFunc(res.Held, func(h decide.Held) bool { return h.ID == "code" })
				if want {
					assert.Negative(t, i)
					continue
				}
				require.GreaterOrEqual(t, i, 0)
				lacks := some(named &^ granted)
				if asks == "draft" {
					lacks = some(named)
				}
				assert.Equal(t, []any{decide.GateAudience, "K3"}, []any{res.Held[i].Gate, res.Held[i].Rule})
				assert.Contains(t, res.Held[i].Why, "It runs once "+lacks[0]+" is agreed to")
			}
		}
	}
}

// Over random conditions, spots and ranks: no page has a block twice; blocks stand in
// the order of the places where their spots were found, and those at one spot in the
// order of D1 (rules B2, B5). The places are those of the page written out with the
// blocks in it.
func TestBlocksStandOnce(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	at := time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	// <main><h1/><p/></main><footer/>, by beginnings and ends.
	page := []string{"<main", "<h1", ">h1", "<p", ">p", ">main", "<footer", ">footer"}
	extents := map[string]bundle.Extent{}
	for i, event := range page {
		e := extents[event[1:]]
		if event[0] == '<' {
			e.From = i
		} else {
			e.To = i
		}
		extents[event[1:]] = e
	}
	for range 500 {
		var notices []string
		n := 1 + r.IntN(6)
		for i := range n {
			spot := func() string {
				return fmt.Sprintf(`{"selector":%q,"where":%q}`, []string{"main", "h1", "p", "footer", "gone"}[r.IntN(5)],
					[]string{"before", "after", "first", "last"}[r.IntN(4)])
			}
			include := []string{
				`{"match":"all"}`, `{"match":"all"},{"match":"page","path":"/x"}`, `{"match":"page","path":"/y"}`,
			}[r.IntN(3)]
			notices = append(
				notices, fmt.Sprintf(`{"id":"b%d","kind":"block","rank":%d,"state":"published","publishedAt":"2026-11-01T10:00:00Z",
				"pages":{"include":[%s]},"spots":[%s],"spot":%s,`+
					`"content":{"wordings":{"en":{"message":"x"}}}}`, i, r.IntN(3)*10, include, spot(), spot()),
			)
		}
		b, err := bundle.Parse(fmt.Appendf(nil, included, strings.Join(notices, ",")))
		require.NoError(t, err)
		b.Pages = append(b.Pages, bundle.Page{Path: "/x", Spots: extents})
		s, err := decide.Compile(b)
		require.NoError(t, err)
		var shown []string
		for _, n := range s.Decide(decide.Visit{At: at, URL: "/x"}).Show {
			shown = append(shown, n.ID)
		}
		got := s.PlacementOrder(shown, "/x")
		sorted := slices.Clone(got)
		slices.Sort(sorted)
		require.Len(t, slices.Compact(sorted), len(got), "none twice")
		require.Len(t, got, len(shown))

		// The page written out: each block where its spot is, behind those that stand there.
		written := slices.Clone(page)
		var lost []string
		last := map[string]string{}
		for _, id := range shown {
			i := slices.IndexFunc(b.Notices, func(n bundle.Notice) bool { return n.ID == id })
			all := b.Notices[i].AllSpots()
			k := slices.IndexFunc(all, func(s bundle.Spot) bool { return s.Selector != "gone" })
			if k < 0 {
				lost = append(lost, id)
				continue
			}
			name, where := all[k].Selector, all[k].GetWhere()
			begin, end := slices.Index(written, "<"+name), slices.Index(written, ">"+name)
			place := map[bundle.Where]int{
				bundle.Before: begin,
				bundle.First:  begin + 1,
				bundle.Last:   end,
				bundle.After:  end + 1,
			}[where]
			spot := string(where) + name
			if before, ok := last[spot]; ok {
				place = slices.Index(written, before) + 1
			}
			written = slices.Insert(written, place, "#"+id)
			last[spot] = "#" + id
		}
		var want []string
		for _, event := range written {
			if event[0] == '#' {
				want = append(want, event[1:])
			}
		}
		// Two spots that are the same gap (after h1, before p) may be filled in either order.
		for i := range got {
			if i < len(want) && got[i] != want[i] {
				gap := func(id string) int {
					at := slices.Index(written, "#"+id)
					for at >= 0 && written[at][0] == '#' {
						at--
					}
					return at
				}
				require.Equal(t, gap(want[i]), gap(got[i]), "%v instead of %v in %v", got, want, written)
			}
		}
		require.Equal(t, lost, append([]string(nil), got[len(want):]...))
	}
}
