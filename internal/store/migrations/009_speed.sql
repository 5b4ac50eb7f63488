-- +goose Up
-- What the program costs a site's pages, as it was measured.
CREATE TABLE speed (
  id   INTEGER PRIMARY KEY AUTOINCREMENT,
  site TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  at   INTEGER NOT NULL,                  -- Unix time in milliseconds
  doc  TEXT NOT NULL                      -- speed.Measure in JSON
) STRICT;
CREATE INDEX speed_site ON speed(site, id);

-- +goose Down
DROP TABLE speed;
