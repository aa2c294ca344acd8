-- Which of a learner's papers counts: the one that was handed in or chosen last. A paper may be handed in again after
-- another, so that this is told beside the paper, as a row of its own each time.

CREATE TABLE hand_in (
  id      INTEGER PRIMARY KEY,
  paper   INTEGER NOT NULL REFERENCES paper (id),
  made_at TEXT NOT NULL
) STRICT;
CREATE INDEX hand_in_of_paper ON hand_in (paper);
INSERT INTO hand_in (paper, made_at) SELECT id, received_at FROM paper ORDER BY id;

-- What a list shows of a result, so that it need not be read: score, carried, out_of, grade, mistakes.

ALTER TABLE result ADD COLUMN summary TEXT NOT NULL DEFAULT '{}';
UPDATE result SET summary = json_object(
  'score', json_extract(json, '$.score'),
  'carried', json_extract(json, '$.carried'),
  'out_of', json_extract(json, '$.out_of'),
  'grade', json_extract(json, '$.grade'),
  'mistakes', (SELECT json_group_array(json_extract(value, '$.title')) FROM json_each(result.json, '$.faults')))
  WHERE json_valid(json);

-- Why a paper could not be marked, though it is stored and whole.

CREATE TABLE failure (
  paper   INTEGER NOT NULL REFERENCES paper (id),
  version INTEGER NOT NULL REFERENCES lab_version (id),
  engine  TEXT NOT NULL,
  why     TEXT NOT NULL,
  made_at TEXT NOT NULL,
  PRIMARY KEY (paper, version, engine)
) STRICT;

-- What the shelf shows of a version of a lab, as one engine made it.

CREATE TABLE card (
  version INTEGER NOT NULL REFERENCES lab_version (id),
  engine  TEXT NOT NULL,
  json    TEXT NOT NULL,
  PRIMARY KEY (version, engine)
) STRICT;

CREATE INDEX overrule_of_paper ON overrule (paper);
