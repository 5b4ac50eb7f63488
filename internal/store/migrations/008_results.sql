-- +goose Up
-- What was counted of notices: sums only.
CREATE TABLE result (
  site     TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  notice   TEXT NOT NULL,
  day      TEXT NOT NULL,                 -- on the site's clock
  version  INTEGER NOT NULL,              -- when it was published, Unix time
  wording  TEXT NOT NULL,
  variant  TEXT NOT NULL,                 -- '' of those in no experiment
  page     TEXT NOT NULL,                 -- '' of pages that are not known
  device   TEXT NOT NULL,
  seen     INTEGER NOT NULL,
  visitors INTEGER NOT NULL,
  clicked  INTEGER NOT NULL,
  closed   INTEGER NOT NULL,
  answered INTEGER NOT NULL,
  sent     INTEGER NOT NULL,
  reached  INTEGER NOT NULL,
  left     INTEGER NOT NULL,
  back     INTEGER NOT NULL,
  PRIMARY KEY (site, notice, day, version, wording, variant, page, device)
) STRICT, WITHOUT ROWID;

-- What was counted already of page views whose marks can still be used, so that it is counted once.
CREATE TABLE counted (
  site  TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  mark  INTEGER NOT NULL,
  acts  BLOB NOT NULL,                    -- a bit for each act of each notice of the view
  until INTEGER NOT NULL,
  PRIMARY KEY (site, mark)
) STRICT, WITHOUT ROWID;
CREATE INDEX counted_until ON counted(until);

-- +goose Down
DROP TABLE result; DROP TABLE counted;
