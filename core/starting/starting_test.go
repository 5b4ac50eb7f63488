package starting_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/document"
	"mastflag/core/findings"
	"mastflag/core/pages"
	"mastflag/core/schedule"
	"mastflag/core/starting"
)

// since is when the site's privacy notice went out.
var since = time.Date(2026, 3, 1, 9, 0, 0, 0, time.UTC)

var site = bundle.Site{
	Key:       "s",
	Name:      "S",
	TimeZone:  "Europe/Warsaw",
	Language:  "en",
	Languages: []string{"en", "de-AT", "pl"},
	FillIns:   &bundle.FillIns{Telephone: "+44 1632 960100", Email: "office@s.example", Address: "1 Quay"},
	Palette:   []bundle.Colour{{Name: "red", Value: "#b02020"}, {Name: "navy", Value: "#102040"}},
	Documents: []document.Document{{
		ID: "privacy", Kind: document.Privacy, Version: 1, Material: 1, Since: &since,
		Published: map[string]document.Text{"en": {Text: "<p>x</p>"}, "de-AT": {Text: "<p>x</p>"}, "pl": {Text: "<p>x</p>"}},
	}},
}

// Each is right as it comes: published at any hour of any day it is live, now
// or within hours, it ends, it says the same in all languages, and nothing
// stands against it.
func TestEachIsRightAsItComes(t *testing.T) {
	for hour := 0; hour < 24*8; hour += 5 {
		now := time.Date(2026, 3, 25, hour, 30, 0, 0, time.UTC) // over a change of the clock
		all := starting.Ready(site, now)
		require.Len(t, all, 51)
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
			found, err := findings.Check(t.Context(), s, now)
			require.NoError(t, err)
			for _, f := range found {
				if f.Document == "" { // the privacy notice itself says nothing here
					assert.Fail(t, name, "%s: %s", f.Code, f.What)
				}
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
	all := starting.Of(s, nil, time.Now())
	require.Len(t, all, 52)
	assert.Equal(t, starting.Point{
		Key:    "Ours",
		Name:   "Ours",
		For:    "regattas",
		Own:    true,
		Notice: bundle.Notice{Kind: bundle.KindBar},
	}, all[0])
}

// A site's own keep their rules, languages and time; one that is over is moved on by whole
// weeks. What another site shares stands for itself.
func TestOwnKeepTheirRules(t *testing.T) {
	now := time.Date(2026, 12, 2, 12, 0, 0, 0, time.UTC) // a Wednesday
	plan := func(w ...schedule.Window) *schedule.Plan { return &schedule.Plan{Windows: w} }
	fridays := schedule.Window{From: "2026-01-02T12:00", Until: "2026-01-02T18:00", Rule: "FREQ=WEEKLY"}
	regulars := audience.Node{Fact: "visits.number", Is: audience.Gte, Value: 5.0}
	s := site
	s.Audiences = []audience.SavedAudience{{Name: "regulars", Audience: regulars}}
	s.PageSets = []pages.SavedSet{{Name: "ports", Conditions: pages.Conditions{
		Include: []pages.Entry{{Match: pages.Section, Path: "/ports"}},
		Exclude: []pages.Entry{{Match: pages.Page, Path: "/ports/a"}},
	}}}
	s.Themes = []bundle.Theme{{Name: "Winter", Look: bundle.Look{Background: "#14324d"}}}
	point := func(name string, shared bool, p *schedule.Plan) bundle.StartingPoint {
		return bundle.StartingPoint{Name: name, Shared: shared, Notice: bundle.Notice{
			ID: name, Kind: bundle.KindBar, Schedule: p,
			Audience: &audience.Node{Group: audience.Any, Parts: []audience.Node{{Saved: "regulars"}}},
			Pages:    &pages.Conditions{Include: []pages.Entry{{Match: pages.InSet, Name: "ports"}}},
			Look:     &bundle.Look{Theme: "Winter", Icon: "anchor"},
			Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "a"}, "pl": {Message: "b"}},
				Picture: &bundle.Picture{Image: bundle.Image{File: "0123456789abcdef.png", Width: 1, Height: 1}}},
		}}
	}
	s.StartingPoints = []bundle.StartingPoint{
		point("past", true, plan(schedule.Window{From: "2026-05-01T09:00", Until: "2026-05-04T18:00"})),
		point("repeats", false, plan(fridays)),
		point("ahead", false, plan(schedule.Window{From: "2026-12-24T09:00", Until: "2026-12-27T18:00"})),
		point("open", false, plan(schedule.Window{From: "2026-05-01T09:00"})),
		point("under way", false, plan(
			schedule.Window{From: "2023-05-01T09:00", Until: "2023-05-04T18:00"},
			schedule.Window{From: "2024-05-01T09:00", Until: "2027-05-04T18:00"},
		)),
		point("twice past", false, plan( // the one that ends first stands second
			schedule.Window{From: "2026-11-23T09:00", Until: "2026-11-27T18:00"},
			schedule.Window{From: "2026-11-20T09:00", Until: "2026-11-21T18:00"},
		)),
	}
	require.Empty(t, s.Check())
	windows := map[string]schedule.Window{}
	for _, p := range starting.Of(s, nil, now) {
		if p.Own {
			windows[p.Key] = p.Notice.Schedule.Windows[0]
			assert.Len(t, p.Notice.Wordings(), 2)
			assert.NotNil(t, p.Notice.Audience)
		}
	}
	assert.Equal(t, map[string]schedule.Window{
		"past":       {From: "2026-12-04T09:00", Until: "2026-12-07T18:00"}, // Friday to Monday still
		"repeats":    fridays,
		"ahead":      {From: "2026-12-24T09:00", Until: "2026-12-27T18:00"},
		"open":       {From: "2026-05-01T09:00"},
		"under way":  {From: "2023-05-01T09:00", Until: "2023-05-04T18:00"},
		"twice past": {From: "2026-12-07T09:00", Until: "2026-12-11T18:00"},
	}, windows)

	other := bundle.Site{Key: "o", Name: "Other", TimeZone: "UTC", Language: "en"}
	got := starting.Of(other, []bundle.Site{s}, now)
	require.Len(t, got, 1+len(starting.Ready(other, now)), "the one that is shared, before those that ship")
	n := got[0].Notice
	assert.Equal(t, "S", got[0].From)
	assert.Equal(t, regulars, n.Audience.Parts[0])
	assert.Equal(t, &pages.Conditions{
		Include: []pages.Entry{{Match: pages.Section, Path: "/ports"}},
		Exclude: []pages.Entry{{Match: pages.Page, Path: "/ports/a"}},
	}, n.Pages)
	assert.Equal(t, &bundle.Look{Background: "#14324d", Icon: "anchor"}, n.Look)
	assert.Nil(t, n.Picture(), "it is kept with the other site")
	assert.Equal(t, "Winter", s.StartingPoints[0].Notice.Look.Theme, "that site's own is as it was")
	assert.Empty(t, n.Check(other))
}

// What the time of the year suggests comes first among what is for the same.
func TestInSeasonFirst(t *testing.T) {
	first := func(month time.Month, purpose starting.Purpose) string {
		for _, p := range starting.Ready(site, time.Date(2026, month, 10, 12, 0, 0, 0, time.UTC)) {
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
	assert.Contains(t, starting.Ready(other, time.Now())[0].Notice.Content.Wordings, "en")
}
