package store

import (
	"context"
	"database/sql"
	"time"

	"mastflag/core/bundle"
)

// An Image is an image of a site as kept.
type Image struct {
	bundle.Image
	Name    string // as people know it
	Size    int    // bytes
	AddedAt time.Time
	AddedBy string
}

const imageColumns = "SELECT file, name, width, height, length(body), added_at, added_by FROM image "

func scanImage(row *sql.Rows) (i Image, err error) {
	var at int64
	err = row.Scan(&i.File, &i.Name, &i.Width, &i.Height, &i.Size, &at, &i.AddedBy)
	i.AddedAt = fromMillis(at)
	return i, err
}

// Images returns the images of a site, the newest first.
func (s *Store) Images(ctx context.Context, site string) ([]Image, error) {
	return query(ctx, s.on(), scanImage, imageColumns+"WHERE site = ? ORDER BY added_at DESC, file", site)
}

// AddImage keeps an image; one that is there already stays as it is.
func (s *Store) AddImage(ctx context.Context, site string, i Image, body []byte) error {
	_, err := s.exec(
		ctx,
		"INSERT INTO image(site, file, name, width, height, body, added_at, added_by) VALUES(?, ?, ?, ?, ?, ?, ?, ?) ON "+
			"CONFLICT DO NOTHING",
		site, i.File, i.Name, i.Width, i.Height, body, i.AddedAt.UnixMilli(), i.AddedBy,
	)
	return err
}

// ImageBody returns an image's content, or ErrNotFound.
func (s *Store) ImageBody(ctx context.Context, site, file string) ([]byte, error) {
	return one(query(
		ctx, s.on(), func(row *sql.Rows) (b []byte, err error) { return b, row.Scan(&b) },
		"SELECT body FROM image WHERE site = ? AND file = ?", site, file,
	))
}

// DropImage removes an image.
func (s *Store) DropImage(ctx context.Context, site, file string) error {
	_, err := s.exec(ctx, "DELETE FROM image WHERE site = ? AND file = ?", site, file)
	return err
}
