-- +goose Up
CREATE TABLE site (
  key        TEXT PRIMARY KEY,
  doc        TEXT NOT NULL,               -- bundle.Site as JSON
  revision   INTEGER NOT NULL,
  surveyed_at INTEGER NOT NULL DEFAULT 0  -- milliseconds since 1970, 0 for never
) STRICT;

CREATE TABLE page (
  site    TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  path    TEXT NOT NULL,                  -- normal form
  doc     TEXT NOT NULL,                  -- bundle.Page as JSON
  snippet TEXT NOT NULL DEFAULT '',       -- '' not looked at, found, missing, or why it could not be read
  PRIMARY KEY (site, path)
) STRICT, WITHOUT ROWID;

CREATE TABLE notice (
  site         TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  id           TEXT NOT NULL,
  revision     INTEGER NOT NULL,          -- grows with each write
  state        TEXT NOT NULL,
  draft        TEXT,                      -- bundle.Notice as JSON, what the next version will say
  published    INTEGER,                   -- number of the version that is out
  published_at INTEGER,
  changed_at   INTEGER NOT NULL,
  changed_by   TEXT NOT NULL,
  deleted_at   INTEGER,
  PRIMARY KEY (site, id)
) STRICT;

-- What has been published, for good.
CREATE TABLE version (
  site   TEXT NOT NULL,
  notice TEXT NOT NULL,
  number INTEGER NOT NULL,
  doc    TEXT NOT NULL,
  PRIMARY KEY (site, notice, number),
  FOREIGN KEY (site, notice) REFERENCES notice(site, id) ON DELETE CASCADE
) STRICT;
-- +goose StatementBegin
CREATE TRIGGER version_is_final BEFORE UPDATE ON version
BEGIN SELECT RAISE(ABORT, 'a published version is never altered'); END;
-- +goose StatementEnd

CREATE TABLE history (
  id     INTEGER PRIMARY KEY,
  site   TEXT NOT NULL,
  notice TEXT NOT NULL,                   -- '' for the site itself
  at     INTEGER NOT NULL,
  who    TEXT NOT NULL,
  act    TEXT NOT NULL,
  line   TEXT NOT NULL,                   -- the order line after it
  number INTEGER,                         -- of the version, where the act made or used one
  doc    TEXT                             -- a text that was refused or dropped, kept
) STRICT;
CREATE INDEX history_of ON history(site, notice, id);

-- What came by the feeds of sites, as it came.
CREATE TABLE received (
  id         INTEGER PRIMARY KEY,
  site       TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  feed       TEXT NOT NULL,               -- name
  sender     TEXT NOT NULL,
  identifier TEXT NOT NULL,
  sent       INTEGER NOT NULL,
  at         INTEGER NOT NULL,            -- when it came
  kind       TEXT NOT NULL,               -- alert, update, cancel, other; broken where it cannot be read
  state      TEXT NOT NULL,               -- waiting, out, replaced, ended, refused, expired, ignored, broken
  notice     TEXT NOT NULL DEFAULT '',    -- the notice that it makes, changes or ends
  headline   TEXT NOT NULL,
  why        TEXT NOT NULL DEFAULT '',
  message    TEXT NOT NULL DEFAULT '',    -- alert.Message as JSON, '' where it cannot be read
  raw        BLOB NOT NULL,
  UNIQUE (site, feed, sender, identifier, sent)
) STRICT;
CREATE INDEX received_of ON received(site, id);
CREATE INDEX received_for ON received(site, notice);
CREATE INDEX received_waiting ON received(site) WHERE state = 'waiting';

-- How asking each feed last went.
CREATE TABLE feed (
  site     TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  name     TEXT NOT NULL,
  etag     TEXT NOT NULL DEFAULT '',
  modified TEXT NOT NULL DEFAULT '',
  asked    INTEGER NOT NULL DEFAULT 0,
  answered INTEGER NOT NULL DEFAULT 0,    -- when it last answered as it should
  failures INTEGER NOT NULL DEFAULT 0,    -- one after another
  why      TEXT NOT NULL DEFAULT '',      -- what the last failure was
  PRIMARY KEY (site, name)
) STRICT, WITHOUT ROWID;

-- Answers to consent questions, as a chain. What is erased loses salt and body.
CREATE TABLE consent_record (
  site       TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  seq        INTEGER NOT NULL,            -- from 1
  mark       BLOB,                        -- SHA-256 of the record's id, NULL of what is no answer
  at         INTEGER NOT NULL,
  salt       BLOB,
  body       TEXT,                        -- consent.Record or consent.Erasure as JSON
  commitment BLOB NOT NULL,
  hash       BLOB NOT NULL,
  PRIMARY KEY (site, seq),
  UNIQUE (site, mark)
) STRICT, WITHOUT ROWID;

-- Where each chain ends.
CREATE TABLE consent_head (
  site TEXT PRIMARY KEY REFERENCES site(key) ON DELETE CASCADE,
  seq  INTEGER NOT NULL,
  hash BLOB NOT NULL
) STRICT, WITHOUT ROWID;

-- What was shown to whoever answered, for good.
CREATE TABLE consent_shown (
  site TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  hash TEXT NOT NULL,
  doc  TEXT NOT NULL,                     -- compiled.Shown as JSON
  PRIMARY KEY (site, hash)
) STRICT, WITHOUT ROWID;

-- How often the question was shown and answered, apart from the records.
CREATE TABLE consent_count (
  site     TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  day      TEXT NOT NULL,                 -- on the site's calendar
  place    TEXT NOT NULL,                 -- ISO 3166-1, '' where it is not known
  language TEXT NOT NULL,
  device   TEXT NOT NULL,
  version  TEXT NOT NULL,                 -- notice and when it was published
  outcome  TEXT NOT NULL,                 -- asked, accepted, refused, chosen; partly where the question stays open
  n        INTEGER NOT NULL,
  PRIMARY KEY (site, day, place, language, device, version, outcome)
) STRICT, WITHOUT ROWID;

-- What inspections of sites found.
CREATE TABLE inspection (
  id    INTEGER PRIMARY KEY,
  site  TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  began INTEGER NOT NULL,
  doc   TEXT NOT NULL                     -- consent.Run as JSON
) STRICT;
CREATE INDEX inspection_of ON inspection(site, id);

CREATE TABLE person (
  email    TEXT PRIMARY KEY,
  name     TEXT NOT NULL,
  role     TEXT NOT NULL,
  sites    TEXT NOT NULL,                 -- keys of the sites they work on as a JSON list, [] for all
  password TEXT NOT NULL                  -- argon2id, with its parameters
) STRICT;

CREATE TABLE invitation (
  token TEXT PRIMARY KEY,                 -- SHA-256 of what the message holds
  email TEXT NOT NULL UNIQUE,
  name  TEXT NOT NULL,
  role  TEXT NOT NULL,
  sites TEXT NOT NULL,
  ends  INTEGER NOT NULL
) STRICT;

-- Mail that the program sent; nothing leaves the machine.
CREATE TABLE message (
  id        INTEGER PRIMARY KEY,
  at        INTEGER NOT NULL,
  sender    TEXT NOT NULL,                -- whoever had it sent
  recipient TEXT NOT NULL,
  subject   TEXT NOT NULL,
  body      TEXT NOT NULL
) STRICT;

CREATE TABLE image (
  site     TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  file     TEXT NOT NULL,                 -- named by its content
  name     TEXT NOT NULL,                 -- as people know it
  width    INTEGER NOT NULL,
  height   INTEGER NOT NULL,
  body     BLOB NOT NULL,
  added_at INTEGER NOT NULL,
  added_by TEXT NOT NULL,
  PRIMARY KEY (site, file)
) STRICT;

CREATE TABLE sessions (
  token  TEXT PRIMARY KEY,
  data   BLOB NOT NULL,
  expiry REAL NOT NULL
) STRICT;
CREATE INDEX sessions_expiry ON sessions(expiry);

CREATE TABLE secret (
  name  TEXT PRIMARY KEY,
  value BLOB NOT NULL
) STRICT;

-- +goose Down
DROP TABLE consent_record; DROP TABLE consent_head; DROP TABLE consent_shown; DROP TABLE consent_count; DROP TABLE inspection; DROP TABLE received; DROP TABLE feed; DROP TABLE image; DROP TABLE message; DROP TABLE invitation; DROP TABLE secret; DROP TABLE sessions; DROP TABLE person; DROP TABLE history;
DROP TABLE version; DROP TABLE notice; DROP TABLE page; DROP TABLE site;
