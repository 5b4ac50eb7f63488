package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"

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
		return keepLatest(ctx, tx, "speed", site, maxMeasures)
	})
}

// keepLatest deletes all of a site's rows in a table but the latest, so many.
func keepLatest(ctx context.Context, tx *sql.Tx, table, site string, most int) error {
	_, err := tx.ExecContext(ctx, fmt.Sprintf(
		"DELETE FROM %[1]s WHERE site = ? AND id NOT IN (SELECT id FROM %[1]s WHERE site = ? ORDER BY id DESC LIMIT ?)",
		table,
	), site, site, most)
	return err
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
