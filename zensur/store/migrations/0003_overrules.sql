-- What an instructor decides against the marking, with the reason. Nothing is changed in place: the latest entry for a
-- criterion counts, an empty criterion is the total, and marks NULL take an overrule back.

CREATE TABLE overrule (
  id        INTEGER PRIMARY KEY,
  paper     INTEGER NOT NULL REFERENCES paper (id),
  criterion TEXT NOT NULL,
  marks     REAL,
  reason    TEXT NOT NULL,
  made_at   TEXT NOT NULL
) STRICT;
