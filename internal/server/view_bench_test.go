package server_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/core/schedule"
	"mastflag/internal/importing"
	"mastflag/internal/store"
)

// BenchmarkViewpoint moves the viewpoint of sites of several sizes: each time to
// another moment, or to another page.
func BenchmarkViewpoint(b *testing.B) {
	for _, size := range []struct{ notices, pages int }{{200, 500}, {2000, 50_000}, {10_000, 500}, {9990, 49_000}} {
		b.Run(
			fmt.Sprintf("%d-notices-%d-pages", size.notices, size.pages),
			func(b *testing.B) { viewpoints(b, size.notices, size.pages) },
		)
	}
}

func viewpoints(b *testing.B, notices, known int) {
	d := newBench(b).signIn()
	d.large(notices, known)
	b.Run("moment", func(b *testing.B) {
		for i := 0; b.Loop(); i++ {
			d.call(
				"GET", "/api/sites/s/view?page=/part-3/page-3&at="+start.Add(time.Duration(i)*time.Hour).Format("2006-01-02T15:04"),
				nil, nil,
			)
		}
	})
	for _, what := range []string{"carried", "table"} {
		b.Run(what, func(b *testing.B) {
			for i := 0; b.Loop(); i++ {
				d.call(
					"GET", "/api/sites/s/"+what+"?at="+start.Add(time.Duration(i)*time.Hour).Format("2006-01-02T15:04"), nil, nil,
				)
			}
		})
	}
	b.Run("page", func(b *testing.B) {
		for i := 0; b.Loop(); i++ {
			d.call("GET", fmt.Sprintf("/api/sites/s/view?at=2026-12-04T12:00&page=/part-%d/page-%d", i%25, i%500), nil, nil)
		}
	})
}

// large gives the bench's site so many published notices and pages: each notice
// on a section, and up for three days of a month.
func (b *bench) large(notices, known int) {
	b.t.Helper()
	require.NoError(b.t, b.server.Store.PutPages(b.t.Context(), "s", manyPages(known), time.Time{}))
	in := bundle.Bundle{
		Format: bundle.Format,
		Site: bundle.Site{
			Key:       "s",
			Name:      "S",
			TimeZone:  "Europe/London",
			Language:  "en",
			Languages: []string{"en", "de"},
			Origins:   []string{origin},
		},
	}
	at := start.AddDate(0, -1, 0)
	for i := range notices {
		from := start.Add(time.Duration(i%200-100) * 3 * time.Hour)
		in.Notices = append(in.Notices, bundle.Notice{
			ID:          fmt.Sprintf("n%d", i),
			Kind:        bundle.KindBar,
			Title:       fmt.Sprintf("Notice %d", i),
			State:       bundle.Published,
			PublishedAt: &at,
			Pages:       &pages.Conditions{Include: []pages.Entry{{Match: pages.Section, Path: fmt.Sprintf("/part-%d", i%25)}}},
			Schedule: &schedule.Plan{Windows: []schedule.Window{{
				From:  from.Format("2006-01-02T15:04"),
				Until: from.AddDate(0, 0, 3).Format("2006-01-02T15:04"),
			}}},
			Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "x"}}},
		})
	}
	_, err := importing.Bundle(b.t.Context(), b.server.Store, in, store.By{Name: "bench"}, at)
	require.NoError(b.t, err)
	require.NoError(b.t, b.server.Hub.ReloadAll(b.t.Context()))
}

func manyPages(n int) (list []store.Page) {
	for i := range n {
		list = append(list, store.Page{
			Page:    bundle.Page{Path: fmt.Sprintf("/part-%d/page-%d", i%25, i), Title: fmt.Sprintf("Page %d", i)},
			Snippet: store.SnippetFound,
		})
	}
	return list
}
