-- Groups of learners, and sittings: a version of a lab given to learners under rules. The learners of a sitting are
-- written down with it, so that it stays what it was when a group changes.

CREATE TABLE class_group (
  id         INTEGER PRIMARY KEY,
  title      TEXT NOT NULL,
  made_at    TEXT NOT NULL,
  removed_at TEXT
) STRICT;

CREATE TABLE learner (
  class_group INTEGER NOT NULL REFERENCES class_group (id),
  code        TEXT NOT NULL,
  name        TEXT NOT NULL,
  export_id   TEXT NOT NULL,
  mail        TEXT NOT NULL,
  team        TEXT NOT NULL,
  PRIMARY KEY (class_group, code)
) STRICT, WITHOUT ROWID;

CREATE TABLE sitting (
  id          INTEGER PRIMARY KEY,
  version     INTEGER NOT NULL REFERENCES lab_version (id),
  stage       TEXT NOT NULL,
  title       TEXT NOT NULL,
  secret      TEXT NOT NULL,
  rules       TEXT NOT NULL,
  made_at     TEXT NOT NULL,
  released_at TEXT,
  removed_at  TEXT
) STRICT;

-- A learner's seat in a sitting. Papers of a team are handed in under the team's name, and are each member's.

CREATE TABLE seat (
  sitting   INTEGER NOT NULL REFERENCES sitting (id),
  code      TEXT NOT NULL,
  name      TEXT NOT NULL,
  export_id TEXT NOT NULL,
  mail      TEXT NOT NULL,
  team      TEXT NOT NULL,
  class_group TEXT NOT NULL,
  drawn     TEXT NOT NULL,
  PRIMARY KEY (sitting, code)
) STRICT, WITHOUT ROWID;

-- What arrived, byte for byte, when and by which way: its contents are kept by their hashes.

CREATE TABLE arrival (
  id          INTEGER PRIMARY KEY,
  way         TEXT NOT NULL,
  files       TEXT NOT NULL,
  remarks     TEXT NOT NULL,
  received_at TEXT NOT NULL
) STRICT;

ALTER TABLE paper ADD COLUMN sitting INTEGER REFERENCES sitting (id);
ALTER TABLE paper ADD COLUMN drawn TEXT NOT NULL DEFAULT '{}';
ALTER TABLE paper ADD COLUMN arrival INTEGER REFERENCES arrival (id);
ALTER TABLE paper ADD COLUMN came_as TEXT NOT NULL DEFAULT '';
CREATE INDEX paper_of_sitting ON paper (sitting);

-- Whether a paper was handed in, was chosen by hand to be the one that counts, or the rules are to decide again.

ALTER TABLE hand_in ADD COLUMN way TEXT NOT NULL DEFAULT 'handed in';

-- Who changed what about marks or access, when and why. Never changed.

CREATE TABLE entry (
  id      INTEGER PRIMARY KEY,
  made_at TEXT NOT NULL,
  who     TEXT NOT NULL,
  what    TEXT NOT NULL,
  sitting INTEGER REFERENCES sitting (id),
  paper   INTEGER REFERENCES paper (id),
  told    TEXT NOT NULL,
  reason  TEXT NOT NULL
) STRICT;
CREATE INDEX entry_of_paper ON entry (paper);
CREATE INDEX entry_of_sitting ON entry (sitting);
INSERT INTO entry (made_at, who, what, paper, told, reason)
SELECT made_at, '', CASE WHEN marks IS NULL THEN 'overrule taken back' ELSE 'overruled' END, paper,
       json_object('criterion', criterion, 'marks', marks), reason FROM overrule ORDER BY id;

-- What an instructor writes beside a paper: at a criterion, at a line of a sheet, or about the whole.

CREATE TABLE comment (
  id         INTEGER PRIMARY KEY,
  paper      INTEGER NOT NULL REFERENCES paper (id),
  criterion  TEXT NOT NULL,
  device     TEXT NOT NULL,
  line       INTEGER,
  text       TEXT NOT NULL,
  made_at    TEXT NOT NULL,
  removed_at TEXT
) STRICT;
CREATE INDEX comment_of_paper ON comment (paper);

-- Marking runs: which papers are to be marked, of which occasion, under which version of the lab and by which engine. A
-- paper is taken out in the transaction that stores its result, or why there is none. Whoever holds the desk marks.

CREATE TABLE run (
  id           INTEGER PRIMARY KEY,
  occasion     TEXT NOT NULL,
  version      INTEGER NOT NULL REFERENCES lab_version (id),
  engine       TEXT NOT NULL,
  started_at   TEXT NOT NULL,
  cancelled_at TEXT,
  UNIQUE (occasion, version, engine)
) STRICT;

CREATE TABLE queued (
  id      INTEGER PRIMARY KEY AUTOINCREMENT,
  run     INTEGER NOT NULL REFERENCES run (id),
  paper   INTEGER NOT NULL REFERENCES paper (id),
  version INTEGER NOT NULL REFERENCES lab_version (id),
  engine  TEXT NOT NULL,
  UNIQUE (paper, version, engine)
) STRICT;

CREATE TABLE desk_holder (
  id      INTEGER PRIMARY KEY CHECK (id = 1),
  name    TEXT NOT NULL,
  seen_at REAL NOT NULL
) STRICT;
