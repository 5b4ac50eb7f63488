package base

import (
	"context"

	"mastflag/core/starting"
	"mastflag/internal/store"
)

// StartingPoints returns what notices of a site can be begun with: its own, those that other
// sites share, and those that ship.
func (b *Base) StartingPoints(ctx context.Context, site store.Site) ([]starting.Point, error) {
	now := b.Clock.Now()
	all, err := b.Store.Sites(ctx)
	if err != nil {
		return nil, err
	}
	own := 0
	points := starting.Of(site.Site, now)
	for own < len(points) && points[own].Own {
		own++
	}
	var shared []starting.Point
	for _, other := range all {
		if other.Key != site.Key {
			shared = append(shared, starting.FromOther(other.Site, site.Site, now)...)
		}
	}
	return append(points[:own:own], append(shared, points[own:]...)...), nil
}
