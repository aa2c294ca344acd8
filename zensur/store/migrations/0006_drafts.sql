-- What a window of a browser has typed and not saved: kept as typed, each window its own, until it is saved or dropped.

CREATE TABLE draft (
  lab INTEGER NOT NULL REFERENCES lab (id),
  window TEXT NOT NULL,
  base INTEGER NOT NULL,
  text TEXT NOT NULL,
  kept_at TEXT NOT NULL,
  PRIMARY KEY (lab, window)
) STRICT, WITHOUT ROWID;
