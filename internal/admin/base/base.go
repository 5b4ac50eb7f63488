// Package base is what every area of the API stands on: what its calls can
// use, how a call is a function from one shape to another, and how errors are
// answered.
package base

import (
	"context"

	"mastflag/core/bundle"
	"mastflag/internal/clock"
	"mastflag/internal/compiled"
	"mastflag/internal/observe"
	"mastflag/internal/sources"
	"mastflag/internal/store"
)

// Base is what the program has for every area. All of it can be used by many
// calls at once.
type Base struct {
	Store    *store.Store
	Hub      *compiled.Hub
	Sources  *sources.Sources
	Clock    clock.Clock
	Observer *observe.Observer
	Address  string // the program's own, without a slash at its end
	Found    Findings
}

// An Area is a part of the API: the calls of a room.
type Area interface{ Routes() []Route }

// Using returns a function that lists the titles of a site's notices that use
// something, by what makes a notice do so.
func (a *Base) Using(ctx context.Context, site string) (func(uses func(bundle.Notice) bool) []string, error) {
	rows, err := a.Store.Notices(ctx, site)
	return func(uses func(bundle.Notice) bool) []string {
		titles := []string{}
		for _, row := range rows {
			if row.Draft != nil && uses(*row.Draft) || row.Published != nil && uses(*row.Published) {
				titles = append(titles, row.Working().GetTitle())
			}
		}
		return titles
	}, err
}
