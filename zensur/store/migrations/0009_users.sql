-- Who may sign in, and where somebody is signed in. Of a password there is its scrypt hash (RFC 7914), of a session the
-- SHA-256 of what its cookie holds. Nobody has to sign in as long as there is no user.

CREATE TABLE user (
  id       INTEGER PRIMARY KEY,
  name     TEXT NOT NULL UNIQUE COLLATE NOCASE,
  password TEXT NOT NULL,
  made_at  TEXT NOT NULL
) STRICT;

CREATE TABLE session (
  hash    TEXT PRIMARY KEY,
  user    INTEGER NOT NULL REFERENCES user (id) ON DELETE CASCADE,
  made_at TEXT NOT NULL,
  seen_at REAL NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX session_of_user ON session (user);
