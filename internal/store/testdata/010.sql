BEGIN TRANSACTION;
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
INSERT INTO consent_count VALUES('sundrey','2026-11-27','','en','','ask 2026-11-20T10:00:00Z','chosen',1);
INSERT INTO consent_count VALUES('sundrey','2026-11-27','','en','','ask 2026-11-20T10:00:00Z','refused',1);
CREATE TABLE consent_head (
  site TEXT PRIMARY KEY REFERENCES site(key) ON DELETE CASCADE,
  seq  INTEGER NOT NULL,
  hash BLOB NOT NULL
) STRICT, WITHOUT ROWID;
INSERT INTO consent_head VALUES('sundrey',3,X'9bc8d5c87ee240ad7f020e803a5163c11a07d504f65265ee7299acea30a825fb');
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
INSERT INTO consent_record VALUES('sundrey',1,X'5947d7c33d783f94b3b4c1a96ebc8991ed28f1b069b71e03376cba8caa98a720',1795751790910,X'cae5dca1661d2f0f17e3996e307f9a2e','{"schema_version":"mastflag.record/1","record_id":"00112233445566778899aabbccddeeff","event_time":"2026-11-27T03:56:30.91Z","event_type":"chosen","notice":"ask","notice_version":"2026-11-20T10:00:00Z","notice_hash":"07dca887d75ecf9ed064cd97a45226ce3beafaf59167f1ac2b1ac2ea7f2dd77b","language":"en","place_rule":"opt-in","purposes":[{"purpose":"measurement","event_state":"consent_given"},{"purpose":"marketing","event_state":"consent_refused"}],"method":"button","page":"/book"}',X'0b92b4584eed99072e8329ab1864eaaa3d3ccf309c17fada1b8ca0b8c14d5406',X'650628becbc729c73c9b2537dc0c09e7ab4353091b8e16ea287f088fbd3358ee');
INSERT INTO consent_record VALUES('sundrey',2,X'50e5b331e06734883d9a0e9608919e2fb2ec3f1a701d095b967e525ae466e779',1795751790923,NULL,NULL,X'b9e6eba8fb085204fa618313904be8317182a6af18f7236da234f1625f1ce43b',X'3dc2f33e226702b1cc73875ca72eca4c8af01e18b96a021b0f23873bba683870');
INSERT INTO consent_record VALUES('sundrey',3,NULL,1795751790933,X'd04eebcb191b85dc480f5f2aaa1c349f','{"schema_version":"mastflag.record/1","event_time":"2026-11-27T03:56:30.933Z","event_type":"erased","why":"visitor","erased":[2]}',X'9dc36811cc5d223b539627430050258a02d72a6ef9a9f2f1a8e006eab603d5ba',X'9bc8d5c87ee240ad7f020e803a5163c11a07d504f65265ee7299acea30a825fb');
CREATE TABLE consent_shown (
  site TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  hash TEXT NOT NULL,
  doc  TEXT NOT NULL, ended INTEGER,                     -- compiled.Shown as JSON
  PRIMARY KEY (site, hash)
) STRICT, WITHOUT ROWID;
INSERT INTO consent_shown VALUES('sundrey','07dca887d75ecf9ed064cd97a45226ce3beafaf59167f1ac2b1ac2ea7f2dd77b','{"notice":"ask","version":"2026-11-20T10:00:00Z","language":"en","rule":"opt-in","html":"<section class=\"bar ask\" aria-label=\"Announcement: May we?\" lang=\"en\" dir=\"ltr\">\n<div class=\"words\">May we?</div><p class=\"signal\" hidden>Your browser asks sites not to sell or share what they learn of you. We do as it says.</p>\n<div class=\"choices\"><button type=\"button\" class=\"button\" data-act=\"accept\">Accept all</button><button type=\"button\" class=\"button\" data-act=\"reject\">Reject all</button><button type=\"button\" class=\"button plain\" data-act=\"choose\" aria-expanded=\"false\" aria-controls=\"detail\">Choose</button></div>\n<div class=\"detail\" id=\"detail\" hidden>\n<fieldset><legend><label><input type=\"checkbox\" name=\"purpose\" value=\"necessary\" checked disabled> Strictly necessary</label> <small>always on</small></legend>\n<p>What the site cannot do without: it is always on.</p></fieldset>\n<fieldset><legend><label><input type=\"checkbox\" name=\"purpose\" value=\"measurement\"> Audience measurement</label></legend>\n<p>Counts visits, so that we learn what is used.</p><div class=\"table\" tabindex=\"0\" role=\"region\" aria-label=\"Audience measurement\"><table><thead><tr><th scope=\"col\">Name</th><th scope=\"col\">From</th><th scope=\"col\">What for</th><th scope=\"col\">Kept for</th></tr></thead><tbody><tr><td>tw</td><td>Tidewater</td><td></td><td>1 day</td></tr></tbody></table></div></fieldset>\n<fieldset><legend><label><input type=\"checkbox\" name=\"purpose\" value=\"marketing\"> Marketing</label></legend>\n<p>Shows you offers that fit you, here and on other sites.</p><div class=\"table\" tabindex=\"0\" role=\"region\" aria-label=\"Marketing\"><table><thead><tr><th scope=\"col\">Name</th><th scope=\"col\">From</th><th scope=\"col\">What for</th><th scope=\"col\">Kept for</th></tr></thead><tbody><tr><td>gnt</td><td>Gannet</td><td></td><td>1 day</td></tr></tbody></table></div></fieldset>\n<div class=\"choices\"><button type=\"button\" class=\"button\" data-act=\"save\">Save my choice</button></div>\n<div class=\"yours\" hidden><strong>Your answer</strong> <code></code> <button type=\"button\" class=\"button plain\" data-act=\"receipt\">Download the receipt</button><button type=\"button\" class=\"button plain\" data-act=\"erase\">Erase my answer</button></div>\n</div><button type=\"button\" class=\"close\" aria-label=\"Close this announcement\" data-act=\"close\"><svg viewBox=\"0 0 16 16\" width=\"16\" height=\"16\" aria-hidden=\"true\"><path d=\"M3 3l10 10M13 3L3 13\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"2\"/></svg></button></section>","css":".ask{max-height:85vh;overflow:auto}.ask .words{text-align:start}.choices{display:flex;flex-wrap:wrap;align-items:center;gap:8px}.bar .choices .button{order:0;flex:0 1 auto;min-height:36px}.bar .plain{border-width:1px;font-weight:400}.signal{flex:1 0 100%;font-weight:600}.detail{flex:1 0 100%;order:3;max-width:72ch;margin:0 auto;padding:8px 0;font-size:15px}.detail[hidden],.yours[hidden],.signal[hidden]{display:none}.detail fieldset{margin:0 0 10px;padding:0;border:0;border-top:1px solid color-mix(in srgb,var(--text) 40%,transparent);min-width:0}.detail legend{padding:8px 8px 2px 0;font-weight:600}.detail label{display:inline-flex;align-items:center;gap:8px;min-height:24px;vertical-align:middle}.detail input{width:20px;height:20px;margin:2px;accent-color:var(--text)}.detail small{font-weight:400;margin-inline-start:8px;vertical-align:middle}.table{overflow-x:auto;margin-top:4px}.detail table{width:100%;border-collapse:collapse;font-size:13px}.detail th,.detail td{padding:2px 8px 2px 0;text-align:start;vertical-align:top;overflow-wrap:normal}.detail td:first-child{overflow-wrap:anywhere;min-width:10ch}.yours{display:flex;flex-wrap:wrap;align-items:center;gap:8px;margin-top:12px}.yours code{font-size:13px}:host{--field:#16202e;--text:#ffffff}","asked":["measurement","marketing"],"of":"19c9b34c.eca2d2f2"}',0);
INSERT INTO consent_shown VALUES('sundrey','4d2635e8c178268a48a6f5977b46718919871680aa1dd4dc3277fffe3a98f9c2','{"notice":"ask","version":"2026-11-20T10:00:00Z","language":"en","rule":"opt-out","html":"<section class=\"bar ask\" aria-label=\"Announcement: May we?\" lang=\"en\" dir=\"ltr\">\n<div class=\"words\">May we?</div><p class=\"signal\" hidden>Your browser asks sites not to sell or share what they learn of you. We do as it says.</p>\n<div class=\"choices\"><button type=\"button\" class=\"button\" data-act=\"fine\">All right</button><button type=\"button\" class=\"button\" data-act=\"reject\">Do Not Sell or Share My Personal Information</button><button type=\"button\" class=\"button plain\" data-act=\"choose\" aria-expanded=\"false\" aria-controls=\"detail\">Choose</button></div>\n<div class=\"detail\" id=\"detail\" hidden>\n<fieldset><legend><label><input type=\"checkbox\" name=\"purpose\" value=\"necessary\" checked disabled> Strictly necessary</label> <small>always on</small></legend>\n<p>What the site cannot do without: it is always on.</p></fieldset>\n<fieldset><legend><label><input type=\"checkbox\" name=\"purpose\" value=\"measurement\" checked> Audience measurement</label></legend>\n<p>Counts visits, so that we learn what is used.</p><div class=\"table\" tabindex=\"0\" role=\"region\" aria-label=\"Audience measurement\"><table><thead><tr><th scope=\"col\">Name</th><th scope=\"col\">From</th><th scope=\"col\">What for</th><th scope=\"col\">Kept for</th></tr></thead><tbody><tr><td>tw</td><td>Tidewater</td><td></td><td>1 day</td></tr></tbody></table></div></fieldset>\n<fieldset><legend><label><input type=\"checkbox\" name=\"purpose\" value=\"marketing\" checked> Marketing</label></legend>\n<p>Shows you offers that fit you, here and on other sites.</p><div class=\"table\" tabindex=\"0\" role=\"region\" aria-label=\"Marketing\"><table><thead><tr><th scope=\"col\">Name</th><th scope=\"col\">From</th><th scope=\"col\">What for</th><th scope=\"col\">Kept for</th></tr></thead><tbody><tr><td>gnt</td><td>Gannet</td><td></td><td>1 day</td></tr></tbody></table></div></fieldset>\n<div class=\"choices\"><button type=\"button\" class=\"button\" data-act=\"save\">Save my choice</button></div>\n<div class=\"yours\" hidden><strong>Your answer</strong> <code></code> <button type=\"button\" class=\"button plain\" data-act=\"receipt\">Download the receipt</button><button type=\"button\" class=\"button plain\" data-act=\"erase\">Erase my answer</button></div>\n</div><button type=\"button\" class=\"close\" aria-label=\"Close this announcement\" data-act=\"close\"><svg viewBox=\"0 0 16 16\" width=\"16\" height=\"16\" aria-hidden=\"true\"><path d=\"M3 3l10 10M13 3L3 13\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"2\"/></svg></button></section>","css":".ask{max-height:85vh;overflow:auto}.ask .words{text-align:start}.choices{display:flex;flex-wrap:wrap;align-items:center;gap:8px}.bar .choices .button{order:0;flex:0 1 auto;min-height:36px}.bar .plain{border-width:1px;font-weight:400}.signal{flex:1 0 100%;font-weight:600}.detail{flex:1 0 100%;order:3;max-width:72ch;margin:0 auto;padding:8px 0;font-size:15px}.detail[hidden],.yours[hidden],.signal[hidden]{display:none}.detail fieldset{margin:0 0 10px;padding:0;border:0;border-top:1px solid color-mix(in srgb,var(--text) 40%,transparent);min-width:0}.detail legend{padding:8px 8px 2px 0;font-weight:600}.detail label{display:inline-flex;align-items:center;gap:8px;min-height:24px;vertical-align:middle}.detail input{width:20px;height:20px;margin:2px;accent-color:var(--text)}.detail small{font-weight:400;margin-inline-start:8px;vertical-align:middle}.table{overflow-x:auto;margin-top:4px}.detail table{width:100%;border-collapse:collapse;font-size:13px}.detail th,.detail td{padding:2px 8px 2px 0;text-align:start;vertical-align:top;overflow-wrap:normal}.detail td:first-child{overflow-wrap:anywhere;min-width:10ch}.yours{display:flex;flex-wrap:wrap;align-items:center;gap:8px;margin-top:12px}.yours code{font-size:13px}:host{--field:#16202e;--text:#ffffff}","asked":["measurement","marketing"],"of":"19c9b34c.eca2d2f2"}',0);
INSERT INTO consent_shown VALUES('sundrey','54689a68d7cedb0ffe0206c2b03b10aaf924aa2e5b6c78ec691c72a60e6c0b98','{"notice":"ask","version":"2026-11-20T10:00:00Z","language":"en","rule":"notice","html":"<section class=\"bar ask\" aria-label=\"Announcement: May we?\" lang=\"en\" dir=\"ltr\">\n<div class=\"words\">May we?</div><p class=\"signal\" hidden>Your browser asks sites not to sell or share what they learn of you. We do as it says.</p>\n<div class=\"choices\"><button type=\"button\" class=\"button\" data-act=\"fine\">All right</button><button type=\"button\" class=\"button plain\" data-act=\"choose\" aria-expanded=\"false\" aria-controls=\"detail\">Choose</button></div>\n<div class=\"detail\" id=\"detail\" hidden>\n<fieldset><legend><label><input type=\"checkbox\" name=\"purpose\" value=\"necessary\" checked disabled> Strictly necessary</label> <small>always on</small></legend>\n<p>What the site cannot do without: it is always on.</p></fieldset>\n<fieldset><legend><label><input type=\"checkbox\" name=\"purpose\" value=\"measurement\" checked> Audience measurement</label></legend>\n<p>Counts visits, so that we learn what is used.</p><div class=\"table\" tabindex=\"0\" role=\"region\" aria-label=\"Audience measurement\"><table><thead><tr><th scope=\"col\">Name</th><th scope=\"col\">From</th><th scope=\"col\">What for</th><th scope=\"col\">Kept for</th></tr></thead><tbody><tr><td>tw</td><td>Tidewater</td><td></td><td>1 day</td></tr></tbody></table></div></fieldset>\n<fieldset><legend><label><input type=\"checkbox\" name=\"purpose\" value=\"marketing\" checked> Marketing</label></legend>\n<p>Shows you offers that fit you, here and on other sites.</p><div class=\"table\" tabindex=\"0\" role=\"region\" aria-label=\"Marketing\"><table><thead><tr><th scope=\"col\">Name</th><th scope=\"col\">From</th><th scope=\"col\">What for</th><th scope=\"col\">Kept for</th></tr></thead><tbody><tr><td>gnt</td><td>Gannet</td><td></td><td>1 day</td></tr></tbody></table></div></fieldset>\n<div class=\"choices\"><button type=\"button\" class=\"button\" data-act=\"save\">Save my choice</button></div>\n<div class=\"yours\" hidden><strong>Your answer</strong> <code></code> <button type=\"button\" class=\"button plain\" data-act=\"receipt\">Download the receipt</button><button type=\"button\" class=\"button plain\" data-act=\"erase\">Erase my answer</button></div>\n</div><button type=\"button\" class=\"close\" aria-label=\"Close this announcement\" data-act=\"close\"><svg viewBox=\"0 0 16 16\" width=\"16\" height=\"16\" aria-hidden=\"true\"><path d=\"M3 3l10 10M13 3L3 13\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"2\"/></svg></button></section>","css":".ask{max-height:85vh;overflow:auto}.ask .words{text-align:start}.choices{display:flex;flex-wrap:wrap;align-items:center;gap:8px}.bar .choices .button{order:0;flex:0 1 auto;min-height:36px}.bar .plain{border-width:1px;font-weight:400}.signal{flex:1 0 100%;font-weight:600}.detail{flex:1 0 100%;order:3;max-width:72ch;margin:0 auto;padding:8px 0;font-size:15px}.detail[hidden],.yours[hidden],.signal[hidden]{display:none}.detail fieldset{margin:0 0 10px;padding:0;border:0;border-top:1px solid color-mix(in srgb,var(--text) 40%,transparent);min-width:0}.detail legend{padding:8px 8px 2px 0;font-weight:600}.detail label{display:inline-flex;align-items:center;gap:8px;min-height:24px;vertical-align:middle}.detail input{width:20px;height:20px;margin:2px;accent-color:var(--text)}.detail small{font-weight:400;margin-inline-start:8px;vertical-align:middle}.table{overflow-x:auto;margin-top:4px}.detail table{width:100%;border-collapse:collapse;font-size:13px}.detail th,.detail td{padding:2px 8px 2px 0;text-align:start;vertical-align:top;overflow-wrap:normal}.detail td:first-child{overflow-wrap:anywhere;min-width:10ch}.yours{display:flex;flex-wrap:wrap;align-items:center;gap:8px;margin-top:12px}.yours code{font-size:13px}:host{--field:#16202e;--text:#ffffff}","asked":["measurement","marketing"],"of":"19c9b34c.eca2d2f2"}',0);
INSERT INTO consent_shown VALUES('sundrey','d0742c4152d4378095129a544ec129ce2f7120f05504d02b0b184d3a6a283037','{"notice":"ask","version":"2026-11-20T10:00:00Z","language":"en","rule":"opt-out","html":"<section class=\"bar ask\" aria-label=\"Announcement: May we?\" lang=\"en\" dir=\"ltr\">\n<div class=\"words\">May we?</div><p class=\"signal\" hidden>Your browser asks sites not to sell or share what they learn of you. We do as it says.</p>\n<div class=\"choices\"><button type=\"button\" class=\"button\" data-act=\"fine\">All right</button><button type=\"button\" class=\"button\" data-act=\"reject\">Object</button><button type=\"button\" class=\"button plain\" data-act=\"choose\" aria-expanded=\"false\" aria-controls=\"detail\">Choose</button></div>\n<div class=\"detail\" id=\"detail\" hidden>\n<fieldset><legend><label><input type=\"checkbox\" name=\"purpose\" value=\"necessary\" checked disabled> Strictly necessary</label> <small>always on</small></legend>\n<p>What the site cannot do without: it is always on.</p></fieldset>\n<fieldset><legend><label><input type=\"checkbox\" name=\"purpose\" value=\"measurement\" checked> Audience measurement</label></legend>\n<p>Counts visits, so that we learn what is used.</p><div class=\"table\" tabindex=\"0\" role=\"region\" aria-label=\"Audience measurement\"><table><thead><tr><th scope=\"col\">Name</th><th scope=\"col\">From</th><th scope=\"col\">What for</th><th scope=\"col\">Kept for</th></tr></thead><tbody><tr><td>tw</td><td>Tidewater</td><td></td><td>1 day</td></tr></tbody></table></div></fieldset>\n<fieldset><legend><label><input type=\"checkbox\" name=\"purpose\" value=\"marketing\" checked> Marketing</label></legend>\n<p>Shows you offers that fit you, here and on other sites.</p><div class=\"table\" tabindex=\"0\" role=\"region\" aria-label=\"Marketing\"><table><thead><tr><th scope=\"col\">Name</th><th scope=\"col\">From</th><th scope=\"col\">What for</th><th scope=\"col\">Kept for</th></tr></thead><tbody><tr><td>gnt</td><td>Gannet</td><td></td><td>1 day</td></tr></tbody></table></div></fieldset>\n<div class=\"choices\"><button type=\"button\" class=\"button\" data-act=\"save\">Save my choice</button></div>\n<div class=\"yours\" hidden><strong>Your answer</strong> <code></code> <button type=\"button\" class=\"button plain\" data-act=\"receipt\">Download the receipt</button><button type=\"button\" class=\"button plain\" data-act=\"erase\">Erase my answer</button></div>\n</div><button type=\"button\" class=\"close\" aria-label=\"Close this announcement\" data-act=\"close\"><svg viewBox=\"0 0 16 16\" width=\"16\" height=\"16\" aria-hidden=\"true\"><path d=\"M3 3l10 10M13 3L3 13\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"2\"/></svg></button></section>","css":".ask{max-height:85vh;overflow:auto}.ask .words{text-align:start}.choices{display:flex;flex-wrap:wrap;align-items:center;gap:8px}.bar .choices .button{order:0;flex:0 1 auto;min-height:36px}.bar .plain{border-width:1px;font-weight:400}.signal{flex:1 0 100%;font-weight:600}.detail{flex:1 0 100%;order:3;max-width:72ch;margin:0 auto;padding:8px 0;font-size:15px}.detail[hidden],.yours[hidden],.signal[hidden]{display:none}.detail fieldset{margin:0 0 10px;padding:0;border:0;border-top:1px solid color-mix(in srgb,var(--text) 40%,transparent);min-width:0}.detail legend{padding:8px 8px 2px 0;font-weight:600}.detail label{display:inline-flex;align-items:center;gap:8px;min-height:24px;vertical-align:middle}.detail input{width:20px;height:20px;margin:2px;accent-color:var(--text)}.detail small{font-weight:400;margin-inline-start:8px;vertical-align:middle}.table{overflow-x:auto;margin-top:4px}.detail table{width:100%;border-collapse:collapse;font-size:13px}.detail th,.detail td{padding:2px 8px 2px 0;text-align:start;vertical-align:top;overflow-wrap:normal}.detail td:first-child{overflow-wrap:anywhere;min-width:10ch}.yours{display:flex;flex-wrap:wrap;align-items:center;gap:8px;margin-top:12px}.yours code{font-size:13px}:host{--field:#16202e;--text:#ffffff}","asked":["measurement","marketing"],"of":"19c9b34c.eca2d2f2"}',0);
CREATE TABLE contact (
  site    TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  id      TEXT NOT NULL,                  -- made by the visitor's browser
  at      INTEGER NOT NULL,
  notice  TEXT NOT NULL,
  waiting INTEGER NOT NULL,               -- 1 while its address is not confirmed
  expires INTEGER NOT NULL,
  words   TEXT NOT NULL,                  -- its answers in small letters, a JSON object by field
  doc     TEXT NOT NULL, address TEXT NOT NULL DEFAULT '',                  -- form.Contact as JSON, '' once it is erased
  PRIMARY KEY (site, id)
) STRICT, WITHOUT ROWID;
INSERT INTO contact VALUES('sundrey','0123456789abcdef0123456789abcdef',1795687200000,'storm',0,1827223200000,'{"mail":"ada@aldwick.example"}','{"id":"0123456789abcdef0123456789abcdef","at":"2026-11-26T10:00:00Z","notice":"storm","version":"2026-11-20T10:00:00Z","language":"en","shown":"","page":"/","answers":[{"field":"mail","kind":"email","values":["ada@aldwick.example"]}],"expires":"2027-11-26T10:00:00Z"}','');
CREATE TABLE counted (
  site  TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  mark  INTEGER NOT NULL,
  acts  BLOB NOT NULL,                    -- a bit for each act of each notice of the view
  until INTEGER NOT NULL,
  PRIMARY KEY (site, mark)
) STRICT, WITHOUT ROWID;
CREATE TABLE document_version (
  site   TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  id     TEXT NOT NULL,                   -- of the document
  number INTEGER NOT NULL,                -- from 1
  doc    TEXT NOT NULL,                   -- document.Version as JSON
  PRIMARY KEY (site, id, number)
) STRICT, WITHOUT ROWID;
INSERT INTO document_version VALUES('sundrey','privacy',1,'{"number":1,"at":"2026-11-26T09:00:00Z","by":"Ines Harrow","change":"material","proposed":"material","material":1,"texts":{"en":{"title":"Privacy notice","text":"<p>Who we are.</p>"}}}');
CREATE TABLE familiar (
  person TEXT NOT NULL REFERENCES person(email) ON DELETE CASCADE,
  mark   BLOB NOT NULL,                   -- HMAC of person and network
  at     INTEGER NOT NULL,
  PRIMARY KEY (person, mark)
) STRICT, WITHOUT ROWID;
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
CREATE TABLE goose_db_version (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		version_id INTEGER NOT NULL,
		is_applied INTEGER NOT NULL,
		tstamp TIMESTAMP DEFAULT (datetime('now'))
	);
INSERT INTO goose_db_version VALUES(1,0,1,'2026-11-27 03:56:28');
INSERT INTO goose_db_version VALUES(2,1,1,'2026-11-27 03:56:28');
INSERT INTO goose_db_version VALUES(3,2,1,'2026-11-27 07:22:15');
INSERT INTO goose_db_version VALUES(4,3,1,'2026-11-27 11:07:24');
INSERT INTO goose_db_version VALUES(5,4,1,'2026-11-27 11:07:24');
INSERT INTO goose_db_version VALUES(6,5,1,'2026-11-27 17:54:28');
INSERT INTO goose_db_version VALUES(7,6,1,'2026-11-27 17:54:28');
INSERT INTO goose_db_version VALUES(8,7,1,'2026-11-28 07:12:11');
INSERT INTO goose_db_version VALUES(9,8,1,'2026-11-28 11:03:06');
INSERT INTO goose_db_version VALUES(10,9,1,'2026-12-01 02:18:28');
INSERT INTO goose_db_version VALUES(11,10,1,'2026-12-02 15:00:20');
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
, person TEXT NOT NULL DEFAULT '', args TEXT NOT NULL DEFAULT '[]') STRICT;
INSERT INTO history VALUES(1,'sundrey','storm',1795751788389,'import','imported','Show this warning alert at the top of every page but the page /book, to visitors in “regulars” or for whom the visitor’s “tier” is gold, from Tue 1 Dec 09:00 to Sat 5 Dec 18:00; closed, it stays away for a day; it scrolls away with the page.',NULL,'{"id":"storm","kind":"alert","content":{"wordings":{"en":{"message":"Dropped.","details":"<p>Until noon.</p>","afterEnd":"Over."},"de":{"message":"Wenige Fahrten.","unread":true,"source":"0123456789ab"}}},"position":"sticking"}','','[]');
INSERT INTO history VALUES(2,'sundrey','storm',1795751788389,'import','published','Show this warning alert at the top of every page but the page /book, to visitors in “regulars” or for whom the visitor’s “tier” is gold, from Tue 1 Dec 09:00 to Sat 5 Dec 18:00; closed, it stays away for a day; it scrolls away with the page.',1,NULL,'','[]');
INSERT INTO history VALUES(3,'sundrey','fridays',1795751788389,'import','imported','Show this bar at the top of every page, to everyone, every Friday 12:00 to 18:00, from 27 Nov; closed, it stays away until the next page; it scrolls away with the page; it counts down to Thu 24 Dec 18:00 and then disappears.',NULL,NULL,'','[]');
INSERT INTO history VALUES(4,'sundrey','fridays',1795751788389,'import','published','Show this bar at the top of every page, to everyone, every Friday 12:00 to 18:00, from 27 Nov; closed, it stays away until the next page; it scrolls away with the page; it counts down to Thu 24 Dec 18:00 and then disappears.',1,NULL,'','[]');
INSERT INTO history VALUES(5,'sundrey','ask',1795751788389,'import','imported','Show this consent notice at the bottom, always in sight, on every page, to everyone, until you unpublish it; closed, it stays away until the next page; it asks about 2 purposes, and an answer holds for 180 days.',NULL,NULL,'','[]');
INSERT INTO history VALUES(6,'sundrey','ask',1795751788389,'import','published','Show this consent notice at the bottom, always in sight, on every page, to everyone, until you unpublish it; closed, it stays away until the next page; it asks about 2 purposes, and an answer holds for 180 days.',1,NULL,'','[]');
INSERT INTO history VALUES(7,'sundrey','later',1795751788389,'import','imported','Show this bar at the top of the home page, to everyone, from when you publish it, with no end; closed, it stays away until the next page; it scrolls away with the page.',NULL,NULL,'','[]');
INSERT INTO history VALUES(8,'sundrey','later',1795751788389,'import','imported','Show this bar at the top of the home page, to everyone, from when you publish it, with no end; closed, it stays away until the next page; it scrolls away with the page.',NULL,NULL,'','[]');
INSERT INTO history VALUES(9,'','',1795751790654,'admin@example.org','said','as editor',NULL,NULL,'admin@example.org','["invited ines@sundrey.example"]');
INSERT INTO history VALUES(10,'','',1795751790846,'Ines Harrow','said','as editor',NULL,NULL,'ines@sundrey.example','["joined"]');
INSERT INTO history VALUES(11,'','',1795751790862,'admin@example.org','said','as viewer',NULL,NULL,'admin@example.org','["invited orla@sundrey.example"]');
INSERT INTO history VALUES(12,'','',1795751790880,'admin@example.org','said','as editor',NULL,NULL,'admin@example.org','["let ines@sundrey.example choose a new password"]');
INSERT INTO history VALUES(13,'sundrey','storm',1795751790974,'admin@example.org','began-draft','Show this alert at the top of every page, to everyone, from when you publish it, with no end; closed, it stays away until the next page; it scrolls away with the page.',NULL,NULL,'admin@example.org','[]');
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
INSERT INTO image VALUES('sundrey','a1abfd410973b011.png','dot.png',1,1,X'89504e470d0a1a0a0000000d49484452000000010000000108000000003a7e9b550000000a49444154789c636800000082008177cd72b60000000049454e44ae426082',1795751791448,'admin@example.org');
CREATE TABLE inspection (
  id    INTEGER PRIMARY KEY,
  site  TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  began INTEGER NOT NULL,
  doc   TEXT NOT NULL                     -- consent.Run as JSON
, checked TEXT NOT NULL DEFAULT '') STRICT;
CREATE TABLE message (
  id        INTEGER PRIMARY KEY,
  at        INTEGER NOT NULL,
  sender    TEXT NOT NULL,                -- whoever had it sent
  recipient TEXT NOT NULL,
  subject   TEXT NOT NULL,
  body      TEXT NOT NULL
, letter TEXT NOT NULL DEFAULT '', private INTEGER NOT NULL DEFAULT 0) STRICT;
INSERT INTO message VALUES(1,1795751790654,'admin@example.org','ines@sundrey.example','An invitation to Mast Flag',replace('Hello Ines Harrow,\n\nadmin@example.org invites you to work on notices as editor.\nOpen this address within a week and choose a password:\n\nhttp://127.0.0.1:8997/join#…\n','\n',char(10)),'',0);
INSERT INTO message VALUES(2,1795751790862,'admin@example.org','orla@sundrey.example','An invitation to Mast Flag',replace('Hello Orla Quint,\n\nadmin@example.org invites you to work on notices as viewer.\nOpen this address within a week and choose a password:\n\nhttp://127.0.0.1:8997/join#…\n','\n',char(10)),'',0);
INSERT INTO message VALUES(3,1795751790880,'admin@example.org','ines@sundrey.example','A new password for Mast Flag',replace('Hello Ines Harrow,\n\nadmin@example.org lets you choose a new password. Until you do, the old one holds.\nOpen this address within a week and choose a password:\n\nhttp://127.0.0.1:8997/join#…\n','\n',char(10)),'',0);
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
  deleted_at   INTEGER, changed_by_person TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (site, id)
) STRICT;
INSERT INTO notice VALUES('sundrey','storm',3,'published','{"id":"storm","kind":"alert","title":"Storm, second thoughts","pages":{"include":[{"match":"all"}]},"content":{"wordings":{"en":{"message":"Few sailings.","details":"<p>Until noon.</p>","afterEnd":"Over."},"de":{"message":"Wenige Fahrten.","unread":true,"source":"0123456789ab"}}},"position":"sticking"}',1,1795168800000,1795751790974,'admin@example.org',NULL,'admin@example.org');
INSERT INTO notice VALUES('sundrey','fridays',2,'paused',NULL,1,1795168800000,1795751788389,'import',NULL,'');
INSERT INTO notice VALUES('sundrey','ask',2,'published',NULL,1,1795168800000,1795751788389,'import',NULL,'');
INSERT INTO notice VALUES('sundrey','later',2,'draft','{"id":"later","kind":"bar","title":"Later","pages":{"include":[{"match":"home"}]},"content":{"wordings":{"en":{"message":"A draft."}}}}',NULL,NULL,1795751788389,'import',NULL,'');
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
, receiver TEXT NOT NULL DEFAULT '') STRICT;
CREATE TABLE page (
  site    TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  path    TEXT NOT NULL,                  -- normal form
  doc     TEXT NOT NULL,                  -- bundle.Page as JSON
  snippet TEXT NOT NULL DEFAULT '', lost TEXT NOT NULL DEFAULT '[]', spots TEXT NOT NULL DEFAULT '{}', since INTEGER NOT NULL DEFAULT 0,       -- '' not looked at, found, missing, or why it could not be read
  PRIMARY KEY (site, path)
) STRICT, WITHOUT ROWID;
INSERT INTO page VALUES('sundrey','/','{"path":"/","title":"Home"}','','["#port"]','{"main":{"from":3,"to":9}}',1764000000000);
INSERT INTO page VALUES('sundrey','/book','{"path":"/book","title":"Booking","type":"booking","tags":["money"]}','','[]','{}',0);
INSERT INTO page VALUES('sundrey','/ports/aldwick','{"path":"/ports/aldwick","title":"Aldwick"}','','[]','{}',0);
CREATE TABLE person (
  email    TEXT PRIMARY KEY,
  name     TEXT NOT NULL,
  role     TEXT NOT NULL,
  sites    TEXT NOT NULL,                 -- keys of the sites they work on as a JSON list, [] for all
  password TEXT NOT NULL                  -- argon2id, with its parameters
, contacts INTEGER NOT NULL DEFAULT 0) STRICT;
INSERT INTO person VALUES('admin@example.org','admin@example.org','administrator','[]','$argon2id$v=19$m=65536,t=3,p=4$qoZki3nh7oAbh+W/qaCGpg$2klfnoP4SqA6amTYVv/MnDgqvtOKBy7IK33UQN1WwLU',0);
INSERT INTO person VALUES('ines@sundrey.example','Ines Harrow','editor','["sundrey"]','$argon2id$v=19$m=65536,t=3,p=4$phamTIVIYv6y2Czdj0bdcA$shm9sdGgstxUAbHStUAoNWXchWSmppD0soujdlTIrFI',0);
INSERT INTO person VALUES('orla@sundrey.example','Orla Quint','viewer','["sundrey"]','',0);
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
INSERT INTO received VALUES(1,'sundrey','weather','duty@weather.sundrey.example','SWO-3204-17',1796378220000,1795751791131,'alert','waiting','alert-26474de522a4','SEVERE GALE WARNING','','{"Kind":"alert","Sender":"duty@weather.sundrey.example","ID":"SWO-3204-17","Sent":"2026-12-04T09:57:00Z","NotPublic":"","Refers":null,"From":"2026-12-04T13:00:00+01:00","Until":"2026-12-04T23:00:00+01:00","Event":"SEVERE GALE","Category":"Met","Severity":"Severe","Urgency":"Immediate","Certainty":"Observed","Areas":["Little Skarn","SWO-ZONE=W2","Western isles"],"Texts":{"":{"Headline":"SEVERE GALE WARNING","Description":"At 9:54 a storm front lay over the western sound, moving east at 45 knots.\nWaves of 5 m \u0026 more are likely.","Instruction":"Stay away from piers and open decks.","Web":""}},"Whole":""}',X'3c3f786d6c2076657273696f6e3d22312e302220656e636f64696e673d225554462d38223f3e0a3c212d2d204275696c74206166746572207468652073657665726520776561746865722073616d706c65206f662043415020312e322c20417070656e64697820412e322c2066726f6d206d656d6f72793b20706c6163657320616e642073656e646572732061726520696e76656e7465642e202d2d3e0a3c616c65727420786d6c6e733d2275726e3a6f617369733a6e616d65733a74633a656d657267656e63793a6361703a312e32223e0a20203c6964656e7469666965723e53574f2d333230342d31373c2f6964656e7469666965723e0a20203c73656e6465723e6475747940776561746865722e73756e647265792e6578616d706c653c2f73656e6465723e0a20203c73656e743e323032362d31322d30345430393a35373a30302d30303a30303c2f73656e743e0a20203c7374617475733e41637475616c3c2f7374617475733e0a20203c6d7367547970653e416c6572743c2f6d7367547970653e0a20203c73636f70653e5075626c69633c2f73636f70653e0a20203c696e666f3e0a202020203c63617465676f72793e4d65743c2f63617465676f72793e0a202020203c6576656e743e5345564552452047414c453c2f6576656e743e0a202020203c726573706f6e7365547970653e41766f69643c2f726573706f6e7365547970653e0a202020203c757267656e63793e496d6d6564696174653c2f757267656e63793e0a202020203c73657665726974793e5365766572653c2f73657665726974793e0a202020203c6365727461696e74793e4f627365727665643c2f6365727461696e74793e0a202020203c6576656e74436f64653e3c76616c75654e616d653e53574f3c2f76616c75654e616d653e3c76616c75653e5356473c2f76616c75653e3c2f6576656e74436f64653e0a202020203c6f6e7365743e323032362d31322d30345431333a30303a30302b30313a30303c2f6f6e7365743e0a202020203c657870697265733e323032362d31322d30345432333a30303a30302b30313a30303c2f657870697265733e0a202020203c73656e6465724e616d653e53756e647265792057656174686572204f66666963653c2f73656e6465724e616d653e0a202020203c686561646c696e653e5345564552452047414c45205741524e494e473c2f686561646c696e653e0a202020203c6465736372697074696f6e3e417420393a353420612073746f726d2066726f6e74206c6179206f76657220746865207765737465726e20736f756e642c206d6f76696e672065617374206174203435206b6e6f74732e0a5761766573206f662035206d2026616d703b206d6f726520617265206c696b656c792e3c2f6465736372697074696f6e3e0a202020203c696e737472756374696f6e3e5374617920617761792066726f6d20706965727320616e64206f70656e206465636b732e3c2f696e737472756374696f6e3e0a202020203c636f6e746163743e776561746865722e73756e647265792e6578616d706c653c2f636f6e746163743e0a202020203c617265613e0a2020202020203c61726561446573633e5765737465726e2069736c65733c2f61726561446573633e0a2020202020203c706f6c79676f6e3e33382e34372c2d3132302e31342033382e33342c2d3131392e39352033382e35322c2d3131392e37342033382e36322c2d3131392e38392033382e34372c2d3132302e31343c2f706f6c79676f6e3e0a2020202020203c67656f636f64653e3c76616c75654e616d653e53574f2d5a4f4e453c2f76616c75654e616d653e3c76616c75653e57323c2f76616c75653e3c2f67656f636f64653e0a202020203c2f617265613e0a202020203c617265613e3c61726561446573633e4c6974746c6520536b61726e3c2f61726561446573633e3c2f617265613e0a20203c2f696e666f3e0a3c2f616c6572743e0a');
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
INSERT INTO result VALUES('sundrey','storm','2026-12-04',1796256000,'en','','/fares','phone',7,5,2,1,0,0,0,0,0);
CREATE TABLE secret (
  name  TEXT PRIMARY KEY,
  value BLOB NOT NULL
) STRICT;
INSERT INTO secret VALUES('preview',X'88366b80bf6b0b17bf9f0e5eca1100ab6b318451705afc6f9d6f17bc41225a2c');
INSERT INTO secret VALUES('calendar sundrey',X'64cd3b5cd30b463e6bc6a47a0b84705b838d69811b43089d4fde09204f80e032');
CREATE TABLE session (
  mark    BLOB PRIMARY KEY,               -- SHA-256 of what the browser holds
  person  TEXT NOT NULL REFERENCES person(email) ON DELETE CASCADE,
  began   INTEGER NOT NULL,
  seen    INTEGER NOT NULL,               -- when it was last used, a minute late at most
  address TEXT NOT NULL,                  -- that it began from, '' where it is not known
  agent   TEXT NOT NULL                   -- browser and system, for people
) STRICT, WITHOUT ROWID;
INSERT INTO session VALUES(X'000102030405060708090a0b0c0d0e0f101112131415161718191a1b1c1d1e1f','admin@example.org',1764200000000,1764200000000,'127.0.0.1','Firefox on Debian');
CREATE TABLE site (
  key        TEXT PRIMARY KEY,
  doc        TEXT NOT NULL,               -- bundle.Site as JSON
  revision   INTEGER NOT NULL,
  surveyed_at INTEGER NOT NULL DEFAULT 0  -- milliseconds since 1970, 0 for never
, stamp INTEGER NOT NULL DEFAULT 1) STRICT;
INSERT INTO site VALUES('sundrey','{"key":"sundrey","name":"Sundrey Isles Ferries","origins":["http://127.0.0.1:8999"],"timeZone":"Europe/London","language":"en","languages":["en","de"],"pageSets":[{"name":"ports","include":[{"match":"section","path":"/ports"}]}],"audiences":[{"name":"regulars","audience":{"all":[{"fact":"visits.number","is":"gte","value":3}]}}],"consent":{"purposes":[{"id":"measurement"},{"id":"marketing"}],"inventory":[{"kind":"cookie","name":"tw","by":"Tidewater","purpose":"measurement","lasts":"P1D"},{"kind":"cookie","name":"gnt","by":"Gannet","purpose":"marketing","lasts":"P1D"}]},"feeds":[{"name":"weather","title":"Weather office"}],"startingPoints":[{"name":"Ours","notice":{"id":"ours","kind":"bar","content":{"wordings":{"en":{"message":"Ours.","details":"<p>Until noon.</p>","afterEnd":"Over."},"de":{"message":"Wenige Fahrten.","unread":true,"source":"0123456789ab"}}},"position":"sticking"}}],"wordings":[{"name":"hours","wordings":{"en":{"message":"Open.","details":"<p>All week.</p>"}}}]}',1,0,1);
CREATE TABLE speed (
  id   INTEGER PRIMARY KEY AUTOINCREMENT,
  site TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  at   INTEGER NOT NULL,                  -- Unix time in milliseconds
  doc  TEXT NOT NULL                      -- speed.Measure in JSON
) STRICT;
INSERT INTO speed VALUES(1,'sundrey',1796000000000,'{}');
CREATE TABLE survey (
  site   TEXT PRIMARY KEY REFERENCES site(key) ON DELETE CASCADE,
  doc    TEXT NOT NULL,
  listed TEXT NOT NULL DEFAULT '[]'
) STRICT;
CREATE TABLE survey_part (
  id   INTEGER PRIMARY KEY,
  site TEXT NOT NULL REFERENCES survey(site) ON DELETE CASCADE,
  doc  TEXT NOT NULL
) STRICT;
CREATE TABLE version (
  site   TEXT NOT NULL,
  notice TEXT NOT NULL,
  number INTEGER NOT NULL,
  doc    TEXT NOT NULL,
  PRIMARY KEY (site, notice, number),
  FOREIGN KEY (site, notice) REFERENCES notice(site, id) ON DELETE CASCADE
) STRICT;
INSERT INTO version VALUES('sundrey','storm',1,'{"id":"storm","kind":"alert","title":"Storm","level":"warning","schedule":{"windows":[{"from":"2026-12-01T09:00","until":"2026-12-05T18:00"}]},"pages":{"include":[{"match":"all"}],"exclude":[{"match":"page","path":"/book"}]},"audience":{"any":[{"saved":"regulars"},{"fact":"person.tier","is":"eq","value":"gold"}]},"memory":{"closed":"P1D"},"content":{"wordings":{"de":{"message":"Keine Fahrten.","unread":true,"source":"0123456789ab"},"en":{"message":"No sailings.","details":"<p>Until noon.</p>","afterEnd":"Over."}}},"position":"sticking"}');
INSERT INTO version VALUES('sundrey','fridays',1,'{"id":"fridays","kind":"bar","title":"Friday fares","schedule":{"windows":[{"from":"2026-11-27T12:00","until":"2026-11-27T18:00","rule":"FREQ=WEEKLY;BYDAY=FR"}]},"pages":{"include":[{"match":"all"}]},"content":{"wordings":{"en":{"message":"Half fare for {countdown}."}},"countdown":{"kind":"to","at":"2026-12-24T18:00"}}}');
INSERT INTO version VALUES('sundrey','ask',1,'{"id":"ask","kind":"consent","title":"Consent","pages":{"include":[{"match":"all"}]},"content":{"wordings":{"en":{"message":"May we?"}}}}');
CREATE TABLE IF NOT EXISTS "invitation" (
  token   TEXT PRIMARY KEY,               -- SHA-256 of what the letter holds
  person  TEXT NOT NULL UNIQUE REFERENCES person(email) ON DELETE CASCADE,
  sender  TEXT NOT NULL,                  -- address of whoever sent it, '' where that is not known
  purpose TEXT NOT NULL,                  -- join, password
  ends    INTEGER NOT NULL                -- Unix time in milliseconds
) STRICT;
INSERT INTO invitation VALUES('1bbebd026edfd3afaef5f113bf017c4efe83f2098ae07362a61fab9a42abe69f','orla@sundrey.example','admin@example.org','join',1796356590862);
INSERT INTO invitation VALUES('c17e5bc1ad0c4cf28923b43f7e044114d33a7547031267f4f5e20a217323e645','ines@sundrey.example','admin@example.org','password',1796356590880);
CREATE TABLE set_aside (
  site   TEXT NOT NULL REFERENCES site(key) ON DELETE CASCADE,
  notice TEXT NOT NULL,
  day    TEXT NOT NULL,                   -- on the site's calendar
  acts   INTEGER NOT NULL,
  PRIMARY KEY (site, notice, day)
) STRICT, WITHOUT ROWID;
DELETE FROM sqlite_sequence;
INSERT INTO sqlite_sequence VALUES('goose_db_version',11);
INSERT INTO sqlite_sequence VALUES('speed',1);
CREATE INDEX history_of ON history(site, notice, id);
CREATE INDEX received_of ON received(site, id);
CREATE INDEX received_for ON received(site, notice);
CREATE INDEX received_waiting ON received(site) WHERE state = 'waiting';
CREATE INDEX inspection_of ON inspection(site, id);
CREATE INDEX session_of ON session(person);
CREATE INDEX survey_part_of ON survey_part(site);
CREATE INDEX contact_of ON contact(site, at);
CREATE INDEX contact_until ON contact(expires);
CREATE INDEX outgoing_of ON outgoing(site, contact);
CREATE INDEX counted_until ON counted(until);
CREATE INDEX speed_site ON speed(site, id);
CREATE INDEX outgoing_due ON outgoing(receiver, site, next) WHERE state = 'waiting';
CREATE INDEX contact_waiting ON contact(site, notice, address) WHERE address <> '';
CREATE TRIGGER version_is_final BEFORE UPDATE ON version
BEGIN SELECT RAISE(ABORT, 'a published version is never altered'); END;
COMMIT;
