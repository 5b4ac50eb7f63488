-- +goose Up
-- What visitors filled in. What is erased leaves its id alone, for a month, so that it is not
-- kept again when a browser tells it once more.
CREATE TABLE contact (
  site    TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  id      TEXT NOT NULL,                  -- made by the visitor's browser
  at      INTEGER NOT NULL,
  notice  TEXT NOT NULL,
  waiting INTEGER NOT NULL,               -- 1 while its address is not confirmed
  expires INTEGER NOT NULL,
  words   TEXT NOT NULL,                  -- its answers in small letters, a JSON object by field
  doc     TEXT NOT NULL,                  -- form.Contact as JSON, '' once it is erased
  PRIMARY KEY (site, id)
) STRICT, WITHOUT ROWID;
CREATE INDEX contact_of ON contact(site, at);
CREATE INDEX contact_until ON contact(expires);

-- What is to go out: letters, and contacts that are passed on. Tried again later and later.
CREATE TABLE outgoing (
  id        INTEGER PRIMARY KEY,
  site      TEXT NOT NULL,                -- '' for letters about people
  kind      TEXT NOT NULL,                -- letter, confirm, mail, web
  contact   TEXT NOT NULL DEFAULT '',     -- that it is about
  letter    TEXT NOT NULL DEFAULT '',     -- the file that holds it, of a letter
  recipient TEXT NOT NULL,                -- an e-mail address, or that of the web
  key       TEXT NOT NULL UNIQUE,         -- the same however often it is tried
  at        INTEGER NOT NULL,
  state     TEXT NOT NULL,                -- waiting, done, given-up
  tries     INTEGER NOT NULL DEFAULT 0,
  next      INTEGER NOT NULL,             -- when it is tried next
  ended     INTEGER NOT NULL DEFAULT 0,
  why       TEXT NOT NULL DEFAULT ''      -- what went wrong last
) STRICT;
CREATE INDEX outgoing_due ON outgoing(next) WHERE state = 'waiting';
CREATE INDEX outgoing_of ON outgoing(site, contact);

-- Whether somebody who is no administrator may see contacts: 1 if so.
ALTER TABLE person ADD COLUMN contacts INTEGER NOT NULL DEFAULT 0;
ALTER TABLE invitation ADD COLUMN contacts INTEGER NOT NULL DEFAULT 0;

-- +goose Down
DROP TABLE contact; DROP TABLE outgoing;
ALTER TABLE person DROP COLUMN contacts; ALTER TABLE invitation DROP COLUMN contacts;
