package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"maps"

	"mastflag/core/consent"
	"mastflag/core/document"
)

// AddDocumentVersion keeps a version of a document for good; ErrExists if another
// text is kept under its number.
func (s *Store) AddDocumentVersion(ctx context.Context, site, id string, v document.Version) error {
	r, err := s.exec(
		ctx,
		"INSERT INTO document_version(site, id, number, doc) VALUES(?, ?, ?, ?) ON CONFLICT DO NOTHING",
		site,
		id,
		v.Number,
		encode(v),
	)
	if err != nil {
		return err
	}
	if n, _ := r.RowsAffected(); n == 0 {
		have, err := s.DocumentVersion(ctx, site, id, v.Number)
		if err == nil && !maps.Equal(have.Texts, v.Texts) {
			err = ErrExists
		}
		return err
	}
	return nil
}

// DocumentVersion returns a version of a document, or ErrNotFound.
func (s *Store) DocumentVersion(ctx context.Context, site, id string, number int) (document.Version, error) {
	return one(
		query(
			ctx,
			s.on(),
			scanVersion,
			"SELECT doc FROM document_version WHERE site = ? AND id = ? AND number = ?",
			site,
			id,
			number,
		),
	)
}

// DocumentVersions returns all versions of a document, the first one first.
func (s *Store) DocumentVersions(ctx context.Context, site, id string) ([]document.Version, error) {
	return query(
		ctx,
		s.on(),
		scanVersion,
		"SELECT doc FROM document_version WHERE site = ? AND id = ? ORDER BY number",
		site,
		id,
	)
}

func scanVersion(row *sql.Rows) (v document.Version, err error) {
	var doc []byte
	if err := row.Scan(&doc); err != nil {
		return v, err
	}
	return v, json.Unmarshal(doc, &v)
}

// Evidence returns what the last inspection of a site's consent, and the last
// check of its pages for accessibility, found; nil if there was neither.
func (s *Store) Evidence(ctx context.Context, site string) (*document.Evidence, error) {
	var out document.Evidence
	runs, err := s.Runs(ctx, site, 1)
	if err != nil {
		return nil, err
	}
	if len(runs) > 0 {
		r := runs[0]
		out.Inspected = &document.Inspected{
			Day:   r.Ended.Format("2006-01-02"),
			How:   r.How,
			Pages: len(r.Pages) - len(r.Faults),
		}
	}
	checked, err := query(ctx, s.on(), func(row *sql.Rows) (c document.Checked, err error) {
		var doc []byte
		if err := row.Scan(&doc); err != nil {
			return c, err
		}
		return c, json.Unmarshal(doc, &c)
	}, "SELECT checked FROM inspection WHERE site = ? AND checked <> '' ORDER BY id DESC LIMIT 1", site)
	if err != nil {
		return nil, err
	}
	if len(checked) > 0 {
		out.Checked = &checked[0]
	}
	if out == (document.Evidence{}) {
		return nil, nil
	}
	return &out, nil
}

// DisclaimerCounts returns what was counted of a site's disclaimers from one day
// to another, both included.
func (s *Store) DisclaimerCounts(ctx context.Context, site, from, to string) ([]consent.Count, error) {
	return s.counts(ctx, site, from, to, "outcome IN ('shown', 'acknowledged', 'declared', 'declined')")
}
