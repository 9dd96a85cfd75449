-- The reviewer's name and mark, for cards: one row at the most.
CREATE TABLE signature (
  id INTEGER PRIMARY KEY CHECK (id = 1), revision INTEGER NOT NULL CHECK (revision > 0), updated_at TEXT NOT NULL, who TEXT NOT NULL,
  name TEXT NOT NULL DEFAULT '', mark BLOB
) STRICT;
