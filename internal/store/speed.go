package store

import (
	"context"
	"database/sql"
	"encoding/json"

	"mastflag/core/speed"
)

// maxMeasures is how many measures of a site are kept: those of two years, week by week.
const maxMeasures = 104

// AddMeasure keeps what a site's pages were found to take.
func (s *Store) AddMeasure(ctx context.Context, site string, m speed.Measure) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(
			ctx, "INSERT INTO speed(site, at, doc) VALUES(?, ?, ?)", site, m.At.UnixMilli(), encode(m),
		); err != nil {
			return err
		}
		_, err := tx.ExecContext(
			ctx, "DELETE FROM speed WHERE site = ? AND id NOT IN (SELECT id FROM speed WHERE site = ? ORDER BY id DESC LIMIT ?)",
			site, site, maxMeasures,
		)
		return err
	})
}

// Measures returns what was measured of a site, the latest first.
func (s *Store) Measures(ctx context.Context, site string) ([]speed.Measure, error) {
	return query(ctx, s.on(), func(row *sql.Rows) (m speed.Measure, err error) {
		var doc []byte
		if err := row.Scan(&doc); err != nil {
			return m, err
		}
		err = json.Unmarshal(doc, &m)
		return m, err
	}, "SELECT doc FROM speed WHERE site = ? ORDER BY id DESC", site)
}
