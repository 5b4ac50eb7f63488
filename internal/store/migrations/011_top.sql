-- +goose Up
-- Pages on which bars for the top stood at the bottom, because something of the site's cannot be moved.
CREATE TABLE blocked_top (
  site TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  page TEXT NOT NULL,
  day  TEXT NOT NULL,                     -- of the last such view, on the site's clock
  PRIMARY KEY (site, page)
) STRICT, WITHOUT ROWID;

-- +goose Down
DROP TABLE blocked_top;
