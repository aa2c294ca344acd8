-- A lab that was removed is off the shelf, and all of it is kept: it can be put back.

ALTER TABLE lab ADD COLUMN removed_at TEXT;
