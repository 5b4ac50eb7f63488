-- +goose Up
-- Where on the page the spots are that were looked for and found, when it was last
-- read: bundle.Extent by selector, as JSON.
ALTER TABLE page ADD COLUMN spots TEXT NOT NULL DEFAULT '{}';

-- +goose Down
ALTER TABLE page DROP COLUMN spots;
