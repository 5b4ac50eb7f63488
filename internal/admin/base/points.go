package base

import (
	"context"

	"mastflag/core/bundle"
	"mastflag/core/starting"
	"mastflag/internal/store"
)

// StartingPoints returns what notices of a site can be begun with, those that the other sites
// of the installation share among them.
func (b *Base) StartingPoints(ctx context.Context, site store.Site) ([]starting.Point, error) {
	all, err := b.Store.Sites(ctx)
	if err != nil {
		return nil, err
	}
	var others []bundle.Site
	for _, other := range all {
		if other.Key != site.Key {
			others = append(others, other.Site)
		}
	}
	return starting.Of(site.Site, others, b.Clock.Now()), nil
}
