-- +goose Up
-- The last reading of a site's pages, whether it goes on, was stopped or is done:
-- store.Survey as JSON; and until it is done the pages that it is about, a list of
-- store.Listed as JSON.
CREATE TABLE survey (
  site   TEXT PRIMARY KEY REFERENCES site(key) ON DELETE CASCADE,
  doc    TEXT NOT NULL,
  listed TEXT NOT NULL DEFAULT '[]'
) STRICT;

-- What it has read so far, until it is done: readings as a JSON list, some in each row.
CREATE TABLE survey_part (
  id   INTEGER PRIMARY KEY,
  site TEXT NOT NULL REFERENCES survey(site) ON DELETE CASCADE,
  doc  TEXT NOT NULL
) STRICT;
CREATE INDEX survey_part_of ON survey_part(site);

-- +goose Down
DROP TABLE survey_part;
DROP TABLE survey;
