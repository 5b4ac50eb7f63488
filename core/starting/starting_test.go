package starting_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/findings"
	"mastflag/core/starting"
)

var site = bundle.Site{
	Key:       "s",
	Name:      "S",
	TimeZone:  "Europe/Warsaw",
	Language:  "en",
	Languages: []string{"en", "de-AT", "pl"},
	Palette:   []bundle.Colour{{Name: "red", Value: "#b02020"}, {Name: "navy", Value: "#102040"}},
}

// Each is right as it comes: published at any hour of any day it is live, now
// or within hours, it ends, it says the same in all languages, and nothing
// stands against it.
func TestEachIsRightAsItComes(t *testing.T) {
	for hour := 0; hour < 24*8; hour += 5 {
		now := time.Date(2026, 3, 25, hour, 30, 0, 0, time.UTC) // over a change of the clock
		all := starting.Of(site, now)
		require.Len(t, all, 43)
		last := -1
		for _, p := range all {
			purpose := slices.IndexFunc(starting.Purposes, func(r starting.PurposeRow) bool { return r.Purpose == p.Purpose })
			require.GreaterOrEqual(t, purpose, last, "%s: by purpose", p.Key)
			last = purpose
			name := fmt.Sprint(p.Key, " at ", now)
			n := p.Notice
			n.ID, n.State, n.PublishedAt = "n", bundle.Published, &now
			b := bundle.Bundle{Format: bundle.Format, Site: site, Notices: []bundle.Notice{n}}
			require.Empty(t, b.Check(), name)
			s, err := decide.Compile(b)
			require.NoError(t, err, name)
			live, next := s.Schedule("n").SiteAt(now)
			if !live {
				require.False(t, next.IsZero(), name)
				require.Less(t, next.Sub(now), 24*time.Hour, name)
			}
			if n.Schedule != nil {
				end, ends := s.Schedule("n").End()
				require.True(t, ends && end.After(now), name)
			}
			for _, f := range findings.Check(s, now) {
				assert.Fail(t, name, "%s: %s", f.Code, f.What)
			}
			for _, tag := range site.AllLanguages() {
				require.True(t, n.Content.Wordings[tag].HasWords(), name)
			}
		}
	}
}

func TestOwnComeFirst(t *testing.T) {
	s := site
	s.StartingPoints = []bundle.StartingPoint{{
		Name:   "Ours",
		For:    "regattas",
		Notice: bundle.Notice{ID: "old", Kind: bundle.KindBar, State: bundle.Published},
	}}
	all := starting.Of(s, time.Now())
	require.Len(t, all, 44)
	assert.Equal(t, starting.Point{
		Key:    "Ours",
		Name:   "Ours",
		For:    "regattas",
		Own:    true,
		Notice: bundle.Notice{Kind: bundle.KindBar},
	}, all[0])
}

// What the time of the year suggests comes first among what is for the same.
func TestInSeasonFirst(t *testing.T) {
	first := func(month time.Month, purpose starting.Purpose) string {
		for _, p := range starting.Of(site, time.Date(2026, month, 10, 12, 0, 0, 0, time.UTC)) {
			if p.Purpose == purpose {
				return p.Key
			}
		}
		return ""
	}
	assert.Equal(t, "greeting", first(time.December, starting.News))
	assert.NotEqual(t, "greeting", first(time.July, starting.News))
	assert.Equal(t, "exams", first(time.June, starting.Hours))
	assert.Equal(t, "precautions", first(time.February, starting.Hours))
	assert.Equal(t, "special-day", first(time.May, starting.Offers))
}

func TestNearestColour(t *testing.T) {
	assert.Equal(t, "#b02020", starting.Nearest(site.Palette, "#a3271f"))
	assert.Equal(t, "#102040", starting.Nearest(site.Palette, "#123a56"))
	assert.Equal(t, "#123a56", starting.Nearest(nil, "#123a56"))
	// A site in another language begins in English.
	other := site
	other.Language, other.Languages = "fi", nil
	assert.Contains(t, starting.Of(other, time.Now())[0].Notice.Content.Wordings, "en")
}
