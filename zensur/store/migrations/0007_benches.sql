-- Benches that were kept to come back to, or to hand on as an address: sheets of devices and questions asked, as JSON.

CREATE TABLE bench (
  id INTEGER PRIMARY KEY,
  lab INTEGER NOT NULL REFERENCES lab (id),
  name TEXT NOT NULL,
  stage TEXT NOT NULL,
  work TEXT NOT NULL,
  kept_at TEXT NOT NULL
) STRICT;

CREATE INDEX bench_of_lab ON bench (lab);
