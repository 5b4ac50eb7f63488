-- +goose Up
-- Tokens lie here as their SHA-256 alone: whoever reads this file, or a copy,
-- gets in by none of them. The sessions that were held in clear end.
DROP TABLE sessions;

CREATE TABLE session (
  mark    BLOB PRIMARY KEY,               -- SHA-256 of what the browser holds
  person  TEXT NOT NULL REFERENCES person(email) ON DELETE CASCADE,
  began   INTEGER NOT NULL,
  seen    INTEGER NOT NULL,               -- when it was last used, a minute late at most
  address TEXT NOT NULL,                  -- that it began from, '' where it is not known
  agent   TEXT NOT NULL                   -- browser and system, for people
) STRICT, WITHOUT ROWID;
CREATE INDEX session_of ON session(person);

-- Networks that people have signed in from: their guesses of a password are
-- told from a stranger's.
CREATE TABLE familiar (
  person TEXT NOT NULL REFERENCES person(email) ON DELETE CASCADE,
  mark   BLOB NOT NULL,                   -- HMAC of person and network
  at     INTEGER NOT NULL,
  PRIMARY KEY (person, mark)
) STRICT, WITHOUT ROWID;

-- What lets someone in stands in the letter alone, a file that goes once it is used.
ALTER TABLE message ADD COLUMN letter TEXT NOT NULL DEFAULT '';
ALTER TABLE message ADD COLUMN private INTEGER NOT NULL DEFAULT 0; -- 1: nobody but the recipient reads the letter
UPDATE message SET body = substr(body, 1, instr(body, '/join#') + 5) || '…' || substr(body, instr(body, '/join#') + 38)
  WHERE instr(body, '/join#') > 0;

-- Grows with every change of what visitors get of the site.
ALTER TABLE site ADD COLUMN stamp INTEGER NOT NULL DEFAULT 1;

-- +goose Down
ALTER TABLE site DROP COLUMN stamp;
DROP TABLE session; DROP TABLE familiar;
ALTER TABLE message DROP COLUMN letter; ALTER TABLE message DROP COLUMN private;
CREATE TABLE sessions (token TEXT PRIMARY KEY, data BLOB NOT NULL, expiry REAL NOT NULL) STRICT;
CREATE INDEX sessions_expiry ON sessions(expiry);
