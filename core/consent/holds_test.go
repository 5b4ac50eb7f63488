package consent_test

import (
	"encoding/json"
	"math/rand/v2"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/consent"
)

// The cases that the guard in pages is tested with, too (sitescript/src/guard.test.ts).
func TestHolds(t *testing.T) {
	var table struct {
		Inventory []consent.Item
		Hosts     []string
		Holds     consent.Holds
		Cases     [][3]string
	}
	raw, err := os.ReadFile("testdata/holds.json")
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(raw, &table))
	h := consent.Setup{Inventory: table.Inventory}.Holds(table.Hosts)
	assert.Equal(t, table.Holds, h, "what browsers are tested with is what they get")
	for _, c := range table.Cases {
		assert.Equal(t, c[2], h.Of(consent.What(c[0]), c[1]), "%s %s", c[0], c[1])
	}
	for range 20 { // equal sites give equal lists
		rand.Shuffle(len(table.Inventory), func(i, j int) {
			table.Inventory[i], table.Inventory[j] = table.Inventory[j], table.Inventory[i]
		})
		slices.Reverse(table.Hosts)
		assert.Equal(t, h, consent.Setup{Inventory: table.Inventory}.Holds(append(table.Hosts, "isles.EXAMPLE")))
	}
	assert.Equal(t, consent.Holds{Rows: [][3]string{}, Own: []string{}}, consent.Setup{}.Holds(nil), "no null in JSON")
}

// Rules H1 and H3 read one by one, on random inventories.
func TestHoldsFollowTheRules(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 30))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	host := func() string {
		return pick("", "a.", "b.", "a.b.") + pick("a", "b", "ab") + pick(".example", ".test", "")
	}
	form := func(pattern string) *regexp.Regexp {
		return regexp.MustCompile("^" + strings.ReplaceAll(regexp.QuoteMeta(pattern), `\*`, ".*") + "$")
	}
	met := map[string]int{}
	for range 10_000 {
		var s consent.Setup
		for range r.IntN(8) {
			name := host() + pick("", "", "/", "/a", "/a*b", "/*")
			if r.IntN(4) == 0 {
				name = strings.Replace(name, pick("a", "b", "."), "*", 1)
			}
			s.Inventory = append(s.Inventory, consent.Item{
				Kind: consent.ItemKind(pick("request", "request", "frame", "cookie", "storage")), Name: name,
				Purpose: pick("", "necessary", "p", "q", "r"),
			})
		}
		own := []string{host()}
		what := consent.What(pick("script", "frame", "image", "request", "cookie", "storage"))
		h, path := host(), pick("/", "/a", "/ab", "/acb", "/b?a")
		subject := "https://" + h + path
		if what == consent.HeldCookie || what == consent.HeldKey {
			subject = h
		}
		got := s.Holds(own).Of(what, subject)

		// The most exact of the rows that fit: a frame's own, an address, a host; by what stands for itself; by name.
		type fit struct {
			rank          []int
			name, purpose string
		}
		var fits []fit
		for _, i := range s.Inventory {
			of, at, isAddress := strings.Cut(i.Name, "/")
			length := len(strings.ReplaceAll(i.Name, "*", ""))
			switch {
			case i.Kind == consent.Cookie || i.Kind == consent.Storage:
				if string(i.Kind) == string(what) && i.Purpose != "" && i.Purpose != "necessary" &&
					form(i.Name).MatchString(subject) {
					fits = append(fits, fit{[]int{0, 0, length}, i.Name, i.Purpose})
				}
			case what == consent.HeldCookie || what == consent.HeldKey || i.Kind == consent.Frame && what != consent.HeldFrame:
			case (form(of).MatchString(h) || !strings.Contains(of, "*") && strings.HasSuffix(h, "."+of)) &&
				(!isAddress || form("/"+at+"*").MatchString(path)):
				rank := []int{0, 0, length}
				if i.Kind == consent.Frame {
					rank[0] = 1
				}
				if isAddress {
					rank[1] = 1
				}
				purpose := i.Purpose
				if purpose == "" {
					purpose = "?"
				}
				fits = append(fits, fit{rank, i.Name, purpose})
			}
		}
		want := map[string]bool{}
		for _, f := range fits {
			if !slices.ContainsFunc(fits, func(g fit) bool {
				c := slices.Compare(g.rank, f.rank)
				return c > 0 || c == 0 && (g.name < f.name || g.name == f.name && g.purpose < f.purpose)
			}) {
				want[f.purpose] = true
			}
		}
		if len(fits) == 0 {
			want[""] = true
			if what != consent.HeldCookie && what != consent.HeldKey && h != own[0] {
				want = map[string]bool{"?": true}
			}
		}
		require.True(t, want[got], "%s %s on %v with %+v: %q, not %v", what, subject, own, s.Inventory, got, want)
		met[got]++
	}
	for _, outcome := range []string{"", "?", "necessary", "p", "q", "r"} {
		assert.Greater(t, met[outcome], 50, outcome)
	}
}
