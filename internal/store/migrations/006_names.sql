-- +goose Up
-- Four values have other names (bundle.Format 2): position was stay; in wordings details
-- was longer, afterEnd was after, source was of. JSON merge patches (RFC 7396): null takes
-- a name away, and a value that is not there stays away. What a subquery returns is read
-- by json() where it goes into a document: it is text without it.
CREATE TEMP TABLE notice_text (id INTEGER PRIMARY KEY, doc TEXT);

INSERT INTO notice_text (doc)
SELECT draft FROM notice WHERE draft IS NOT NULL
UNION SELECT doc FROM version
UNION SELECT doc FROM history WHERE doc IS NOT NULL AND notice <> ''
UNION SELECT json_extract(p.value, '$.notice') FROM site, json_each(site.doc, '$.startingPoints') p;

CREATE TEMP TABLE notice_now AS
SELECT doc AS before, json_patch(json_patch(doc, json_object('stay', NULL, 'position', json_extract(doc, '$.stay'))),
  CASE WHEN json_type(doc, '$.content.wordings') = 'object' THEN json_object('content', json_object('wordings', json((
    SELECT json_group_object(w.key, json_object(
      'longer', NULL, 'details', json_extract(w.value, '$.longer'),
      'after', NULL, 'afterEnd', json_extract(w.value, '$.after'),
      'of', NULL, 'source', json_extract(w.value, '$.of')))
    FROM json_each(doc, '$.content.wordings') w)))) ELSE '{}' END) AS doc
FROM notice_text;
CREATE INDEX temp.notice_now_before ON notice_now(before);

UPDATE notice SET draft = (SELECT doc FROM notice_now WHERE before = draft) WHERE draft IS NOT NULL;

-- A published version says the same under its new names.
DROP TRIGGER version_is_final;
UPDATE version SET doc = (SELECT n.doc FROM notice_now n WHERE n.before = version.doc);
-- +goose StatementBegin
CREATE TRIGGER version_is_final BEFORE UPDATE ON version
BEGIN SELECT RAISE(ABORT, 'a published version is never altered'); END;
-- +goose StatementEnd

UPDATE history SET doc = (SELECT n.doc FROM notice_now n WHERE n.before = history.doc)
WHERE doc IS NOT NULL AND notice <> '';

UPDATE site SET doc = json_set(doc, '$.startingPoints', json((
  SELECT json_group_array(json(json_set(p.value, '$.notice', json((
    SELECT n.doc FROM notice_now n WHERE n.before = json_extract(p.value, '$.notice'))))))
  FROM json_each(doc, '$.startingPoints') p))) WHERE json_type(doc, '$.startingPoints') = 'array';

UPDATE site SET doc = json_set(doc, '$.wordings', json((
  SELECT json_group_array(json(json_patch(s.value, json_object('wordings', json((
    SELECT json_group_object(w.key, json_object(
      'longer', NULL, 'details', json_extract(w.value, '$.longer'),
      'after', NULL, 'afterEnd', json_extract(w.value, '$.after'),
      'of', NULL, 'source', json_extract(w.value, '$.of')))
    FROM json_each(s.value, '$.wordings') w))))))
  FROM json_each(doc, '$.wordings') s))) WHERE json_type(doc, '$.wordings') = 'array';

DROP TABLE notice_now;
DROP TABLE notice_text;

-- What was done is a code with arguments (JSON), and who did it a person by e-mail address, where
-- it is known. Of what was kept as words, those without arguments become codes; others stay words.
ALTER TABLE history ADD COLUMN person TEXT NOT NULL DEFAULT '';
ALTER TABLE history ADD COLUMN args TEXT NOT NULL DEFAULT '[]';
ALTER TABLE notice ADD COLUMN changed_by_person TEXT NOT NULL DEFAULT '';

CREATE TEMP TABLE act_code (words TEXT PRIMARY KEY, code TEXT NOT NULL);
INSERT INTO act_code VALUES
  ('began it', 'began'),
  ('began a draft of the next version', 'began-draft'),
  ('wrote this while someone else changed it', 'overtaken'),
  ('published it', 'published'),
  ('unpublished it', 'unpublished'),
  ('published it again as it was', 'republished'),
  ('paused it', 'paused'),
  ('resumed it', 'resumed'),
  ('paused it with all others', 'paused-all'),
  ('resumed it with the others', 'resumed-all'),
  ('gave it an end', 'gave-end'),
  ('discarded the draft', 'discarded'),
  ('went back to an earlier text', 'restored'),
  ('deleted it', 'deleted'),
  ('brought it back', 'undeleted'),
  ('imported it', 'imported'),
  ('put its pages back as they were', 'pages-back'),
  ('took it in', 'taken-in'),
  ('changed the site', 'site-changed'),
  ('switched everything off', 'switched-off'),
  ('switched everything on', 'switched-on'),
  ('imported a bundle', 'bundle-imported');

UPDATE history SET args = json_array(act), act = 'said'
WHERE act NOT IN (SELECT words FROM act_code);
UPDATE history SET act = (SELECT code FROM act_code WHERE words = history.act)
WHERE act IN (SELECT words FROM act_code);
DROP TABLE act_code;

UPDATE history SET person = (SELECT email FROM person WHERE name = history.who)
WHERE (SELECT count(*) FROM person WHERE name = history.who) = 1;
UPDATE notice SET changed_by_person = (SELECT email FROM person WHERE name = notice.changed_by)
WHERE (SELECT count(*) FROM person WHERE name = notice.changed_by) = 1;
