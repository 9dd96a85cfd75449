-- Before the bench: the whole amplifier record, photos, bench profiles, how the gain was set, what was ticked, arming.

ALTER TABLE amplifier ADD COLUMN serial TEXT;
ALTER TABLE amplifier ADD COLUMN year INTEGER CHECK (year BETWEEN 1900 AND 2200);
ALTER TABLE amplifier ADD COLUMN inputs TEXT;
ALTER TABLE amplifier ADD COLUMN controls TEXT;
ALTER TABLE amplifier ADD COLUMN terminals TEXT;
ALTER TABLE amplifier ADD COLUMN size TEXT;
ALTER TABLE amplifier ADD COLUMN weight_kg REAL CHECK (weight_kg > 0);
ALTER TABLE amplifier ADD COLUMN accessories TEXT;
ALTER TABLE amplifier ADD COLUMN condition TEXT;
ALTER TABLE amplifier ADD COLUMN loan TEXT;
ALTER TABLE amplifier ADD COLUMN inside TEXT;
ALTER TABLE amplifier ADD COLUMN notes TEXT;

-- A photo as it was encoded anew: the file lies beside the database, named by its own hash.
CREATE TABLE photo (
  id TEXT PRIMARY KEY, revision INTEGER NOT NULL CHECK (revision > 0),
  created_at TEXT NOT NULL, updated_at TEXT NOT NULL, deleted_at TEXT, who TEXT NOT NULL,
  amplifier_id TEXT NOT NULL REFERENCES amplifier (id),
  sha256 TEXT NOT NULL, width_px INTEGER NOT NULL CHECK (width_px > 0), height_px INTEGER NOT NULL CHECK (height_px > 0),
  bytes INTEGER NOT NULL CHECK (bytes > 0), caption TEXT NOT NULL DEFAULT '', extra TEXT NOT NULL DEFAULT '{}'
) STRICT;
CREATE INDEX photo_by_amplifier ON photo (amplifier_id, created_at);

-- A bench as it stands now; a session keeps a copy of it as it was.
CREATE TABLE bench_profile (
  id TEXT PRIMARY KEY, revision INTEGER NOT NULL CHECK (revision > 0),
  created_at TEXT NOT NULL, updated_at TEXT NOT NULL, deleted_at TEXT, who TEXT NOT NULL,
  name TEXT NOT NULL CHECK (name <> ''), supply TEXT NOT NULL, loads TEXT, meters TEXT, leads TEXT, extra TEXT NOT NULL DEFAULT '{}'
) STRICT;

ALTER TABLE session ADD COLUMN bench_profile_id TEXT REFERENCES bench_profile (id);
ALTER TABLE session ADD COLUMN gain TEXT;
-- Codes of the cautions that were ticked: remembered a session, not for ever.
ALTER TABLE session ADD COLUMN ticked TEXT NOT NULL DEFAULT '[]';
CREATE INDEX session_by_bench ON session (bench_profile_id);

ALTER TABLE rung ADD COLUMN made_of TEXT;

ALTER TABLE gate ADD COLUMN second_reason TEXT;
ALTER TABLE gate ADD COLUMN withdrawn_by TEXT;
ALTER TABLE gate ADD COLUMN withdrawn_why TEXT;

-- A run that may be started. What its gates were judged on is in `body`, as it was then; the newest row without an end is armed.
CREATE TABLE arming (
  seq INTEGER PRIMARY KEY AUTOINCREMENT, session_id TEXT NOT NULL REFERENCES session (id),
  at TEXT NOT NULL, who TEXT NOT NULL, body TEXT NOT NULL, ended_at TEXT, ended_by TEXT
) STRICT;
CREATE INDEX arming_by_session ON arming (session_id, ended_at);
CREATE TRIGGER arming_is_kept BEFORE UPDATE OF body, at, who, session_id ON arming BEGIN SELECT RAISE (ABORT, 'what was armed is frozen'); END;
