-- +goose Up
-- Versions of documents, as they were published; none is ever altered.
CREATE TABLE document_version (
  site   TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  id     TEXT NOT NULL,                   -- of the document
  number INTEGER NOT NULL,                -- from 1
  doc    TEXT NOT NULL,                   -- document.Version as JSON
  PRIMARY KEY (site, id, number)
) STRICT, WITHOUT ROWID;

-- The last check of a site's pages for accessibility lies beside its inspections:
-- document.Checked as JSON, '' where there was none.
ALTER TABLE inspection ADD COLUMN checked TEXT NOT NULL DEFAULT '';

-- Selectors of spots that were looked for on the page and not found, when it was
-- last read: a list as JSON.
ALTER TABLE page ADD COLUMN lost TEXT NOT NULL DEFAULT '[]';

-- +goose Down
DROP TABLE document_version;
ALTER TABLE inspection DROP COLUMN checked;
ALTER TABLE page DROP COLUMN lost;
