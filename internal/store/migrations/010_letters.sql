-- +goose Up
-- Someone who is invited is a person without a password, and what they may do stands in person alone.
INSERT INTO person(email, name, role, sites, password, contacts)
SELECT email, name, role, sites, '', contacts FROM invitation WHERE email NOT IN (SELECT email FROM person);

-- An invitation says whom its letter lets in, and for what: no rights.
CREATE TABLE invitation_010 (
  token   TEXT PRIMARY KEY,               -- SHA-256 of what the letter holds
  person  TEXT NOT NULL UNIQUE REFERENCES person(email) ON DELETE CASCADE,
  sender  TEXT NOT NULL,                  -- address of whoever sent it, '' where that is not known
  purpose TEXT NOT NULL,                  -- join, password
  ends    INTEGER NOT NULL                -- Unix time in milliseconds
) STRICT;
INSERT INTO invitation_010(token, person, sender, purpose, ends)
SELECT token, email,
  coalesce(
    (SELECT sender FROM message WHERE letter = substr(invitation.token, 1, 16) || '.eml'),
    (SELECT sender FROM message WHERE recipient = invitation.email ORDER BY id DESC LIMIT 1), ''
  ),
  iif((SELECT password FROM person WHERE person.email = invitation.email) = '', 'join', 'password'), ends
FROM invitation;
DROP TABLE invitation;
ALTER TABLE invitation_010 RENAME TO invitation;

-- What goes out waits in a queue for each receiver: the mail server, or the host of a web address.
ALTER TABLE outgoing ADD COLUMN receiver TEXT NOT NULL DEFAULT '';
UPDATE outgoing SET receiver = iif(kind = 'web', recipient, 'mail');
DROP INDEX outgoing_due;
CREATE INDEX outgoing_due ON outgoing(receiver, site, next) WHERE state = 'waiting';

-- When what was shown was on offer no longer; NULL while it is.
ALTER TABLE consent_shown ADD COLUMN ended INTEGER;
UPDATE consent_shown SET ended = 0; -- compiling the sites says which are on offer

-- The address that waits to be confirmed, in small letters; '' once it is, or where none has to be.
ALTER TABLE contact ADD COLUMN address TEXT NOT NULL DEFAULT '';
CREATE INDEX contact_waiting ON contact(site, notice, address) WHERE address <> '';

-- How many acts on a notice were set aside: far too many came from one network.
CREATE TABLE set_aside (
  site   TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  notice TEXT NOT NULL,
  day    TEXT NOT NULL,                   -- on the site's calendar
  acts   INTEGER NOT NULL,
  PRIMARY KEY (site, notice, day)
) STRICT, WITHOUT ROWID;

-- +goose Down
DROP TABLE set_aside;
DROP INDEX contact_waiting;
ALTER TABLE contact DROP COLUMN address;
ALTER TABLE consent_shown DROP COLUMN ended;
DROP INDEX outgoing_due;
ALTER TABLE outgoing DROP COLUMN receiver;
CREATE INDEX outgoing_due ON outgoing(next) WHERE state = 'waiting';
DROP TABLE invitation;
CREATE TABLE invitation (
  token TEXT PRIMARY KEY, email TEXT NOT NULL UNIQUE, name TEXT NOT NULL, role TEXT NOT NULL, sites TEXT NOT NULL,
  ends INTEGER NOT NULL, contacts INTEGER NOT NULL DEFAULT 0
) STRICT;
DELETE FROM person WHERE password = '';
