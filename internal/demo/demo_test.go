package demo_test

import (
	"net/http/httptest"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/decide"
	"mastflag/core/document"
	"mastflag/core/findings"
	"mastflag/core/results"
	"mastflag/internal/compiled"
	"mastflag/internal/demo"
	"mastflag/internal/importing"
	"mastflag/internal/store"
)

// Whenever the demo is started, its notices are sound and show every state.
func TestScenarioAtAnyTime(t *testing.T) {
	for _, at := range []string{
		"2026-01-01T00:00:00Z", "2026-03-29T01:30:00Z", "2026-10-25T01:30:00Z", "2026-12-04T12:00:00Z",
		"2028-02-29T23:59:00Z",
	} {
		now, err := time.Parse(time.RFC3339, at)
		require.NoError(t, err)
		b, versions := demo.Bundle("http://127.0.0.1:8090", "http://127.0.0.1:8080", now)
		require.Empty(t, b.Check(), at)
		s, err := decide.Compile(b)
		require.NoError(t, err)
		states := map[bundle.State]int{}
		for _, n := range b.Notices {
			states[n.GetState()]++
		}
		assert.Equal(t, map[bundle.State]int{bundle.Published: 18, bundle.Paused: 1, bundle.Draft: 1}, states)
		assert.Len(
			t, s.Decide(decide.Visit{At: now, URL: "/timetables"}).Show, 5,
			"%s: the storm, the winter timetable, the consent question, the feedback and the documents", at,
		)
		shown := s.Decide(decide.Visit{
			At:     now,
			URL:    "/book",
			Memory: decide.Memory{Consent: consent.Answer{At: now, Refused: b.Site.Consent.AskedPurposes()}},
		}).Show
		assert.Len(t, shown, 2, "%s: the documents, and the tab title", at)
		found, err := findings.Check(t.Context(), s, now)
		require.NoError(t, err)
		for _, f := range found {
			assert.Empty(t, f.Document, f.What)
		}
		list := versions["tour-safety"]
		require.Len(t, list, 3)
		assert.Equal(t, []document.Change{
			document.Material, document.Editorial, document.Material,
		}, []document.Change{list[0].Change, list[1].Change, list[2].Change})
		for _, d := range b.Site.Documents {
			assert.Len(t, d.Published, 3, d.ID)
			assert.Equal(t, d.Published, versions[d.ID][d.Version-1].Texts)
		}
	}
}

func TestFillLeavesWhatIsThere(t *testing.T) {
	site := httptest.NewServer(demo.Site("http://127.0.0.1:1"))
	defer site.Close()
	st, err := store.Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	defer st.Close()
	now := time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	require.NoError(t, demo.Fill(t.Context(), st, site.URL, "http://127.0.0.1:1", now))
	first, err := compiled.Load(t.Context(), st, demo.Key)
	require.NoError(t, err)
	assert.Len(t, first.Pages, 66)
	require.NoError(t, demo.Fill(t.Context(), st, site.URL, "http://127.0.0.1:1", now.AddDate(0, 1, 0)))
	again, err := compiled.Load(t.Context(), st, demo.Key)
	require.NoError(t, err)
	assert.Equal(t, first, again)

	// An import names some notices; the others stay as they are.
	one := first
	one.Notices = first.Notices[:1]
	_, err = importing.Bundle(t.Context(), st, one, store.By{Name: "test"}, now)
	require.NoError(t, err)
	after, err := compiled.Load(t.Context(), st, demo.Key)
	require.NoError(t, err)
	assert.Equal(t, first, after)
}

// The demo's sums are what its visitors really do, within what chance allows: each share lies in the range that holds
// whenever one looks, and what is decided is what is so.
func TestOutcomes(t *testing.T) {
	now := time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	b, _ := demo.Bundle("http://127.0.0.1:8090", "http://127.0.0.1:8080", now)
	site, err := compiled.New(b, "", "http://127.0.0.1:8080")
	require.NoError(t, err)
	rows := demo.Outcomes(site, now)
	assert.Less(t, len(rows), 20_000, "the demo starts quickly")
	first := rows[0].Day
	for _, r := range rows {
		first = min(first, r.Day)
		require.LessOrEqual(t, r.Clicked, r.Seen)
		require.LessOrEqual(t, r.Reached, r.Visitors)
	}
	assert.LessOrEqual(t, first, "2026-09-06", "three months")
	decided := map[string]bool{}
	for _, n := range b.Notices {
		truth, counted := demo.Truths[n.ID]
		if !counted || n.Experiment == nil {
			continue
		}
		var ids []string
		for _, v := range n.Experiment.Variants {
			ids = append(ids, v.ID)
		}
		list := results.Compare(results.Groups(n.ID, ids, 0, rows))
		require.Len(t, list, 2, n.ID)
		d := list[1].Difference
		really := truth.Reached[list[1].Variant] - truth.Reached[list[0].Variant]
		assert.False(t, d.Always.Excludes(really), "%s: %v is not in %v", n.ID, really, d.Always)
		decided[n.ID] = d.Decided()
	}
	assert.Equal(t, map[string]bool{"service-news": true, "regatta": true, "christmas-countdown": false}, decided)
}
