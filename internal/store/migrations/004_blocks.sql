-- +goose Up
-- Where on the page the spots are that were looked for and found, when it was last
-- read: bundle.Extent by selector, as JSON.
ALTER TABLE page ADD COLUMN spots TEXT NOT NULL DEFAULT '{}';

-- When the page was first found on the site, ms since 1970; 0 where it was among the
-- first that were.
ALTER TABLE page ADD COLUMN since INTEGER NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE page DROP COLUMN since;
ALTER TABLE page DROP COLUMN spots;
