-- Labs with their versions, papers by the hash of their contents, and results.
-- Nothing here is ever changed in place: a new version, paper or result is a new row.

CREATE TABLE setting (
  key   TEXT PRIMARY KEY,
  value TEXT NOT NULL
) STRICT;

CREATE TABLE lab (
  id         INTEGER PRIMARY KEY,
  slug       TEXT NOT NULL UNIQUE,
  created_at TEXT NOT NULL
) STRICT;

CREATE TABLE lab_version (
  id       INTEGER PRIMARY KEY,
  lab      INTEGER NOT NULL REFERENCES lab (id),
  number   INTEGER NOT NULL,
  text     TEXT NOT NULL,
  saved_at TEXT NOT NULL,
  UNIQUE (lab, number)
) STRICT;

CREATE TABLE content (
  hash  TEXT PRIMARY KEY,
  bytes BLOB NOT NULL
) STRICT;

CREATE TABLE paper (
  id          INTEGER PRIMARY KEY,
  lab         INTEGER NOT NULL REFERENCES lab (id),
  learner     TEXT NOT NULL,
  hash        TEXT NOT NULL,
  remarks     TEXT NOT NULL,
  received_at TEXT NOT NULL,
  UNIQUE (lab, learner, hash)
) STRICT;

CREATE TABLE paper_file (
  paper  INTEGER NOT NULL REFERENCES paper (id),
  device TEXT NOT NULL,
  path   TEXT NOT NULL,
  hash   TEXT NOT NULL REFERENCES content (hash),
  PRIMARY KEY (paper, device)
) STRICT;

CREATE TABLE result (
  paper     INTEGER NOT NULL REFERENCES paper (id),
  version   INTEGER NOT NULL REFERENCES lab_version (id),
  engine    TEXT NOT NULL,
  json      TEXT NOT NULL,
  marked_at TEXT NOT NULL,
  PRIMARY KEY (paper, version, engine)
) STRICT;
