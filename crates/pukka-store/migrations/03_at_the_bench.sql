-- At the bench: level steps, counted cycles, holds, second meters; remarks on runs; rest voltages; runs that were driven live.

ALTER TABLE run ADD COLUMN steps TEXT NOT NULL DEFAULT '[]';
ALTER TABLE run ADD COLUMN cycles TEXT;
ALTER TABLE run ADD COLUMN hold TEXT;
ALTER TABLE run ADD COLUMN supply_also TEXT NOT NULL DEFAULT '[]';
ALTER TABLE run ADD COLUMN bank TEXT;
ALTER TABLE run ADD COLUMN evidence TEXT;
ALTER TABLE rung ADD COLUMN bank TEXT;

-- A reading struck, a check accepted: rows beside the run, which stays as it was read. The newest row of a kind and a word says
-- whether it stands.
CREATE TABLE run_remark (
  seq INTEGER PRIMARY KEY AUTOINCREMENT, run_id TEXT NOT NULL REFERENCES run (id), at TEXT NOT NULL, who TEXT NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('strike', 'accept')), what TEXT NOT NULL CHECK (what <> ''),
  stands INTEGER NOT NULL, reason TEXT NOT NULL CHECK (reason <> '')
) STRICT;
CREATE INDEX run_remark_by_run ON run_remark (run_id, seq);
CREATE TRIGGER run_remark_is_kept BEFORE UPDATE ON run_remark BEGIN SELECT RAISE (ABORT, 'a remark is never changed'); END;
CREATE TRIGGER run_remark_stays BEFORE DELETE ON run_remark BEGIN SELECT RAISE (ABORT, 'a remark is never deleted'); END;

-- Rows of level steps as they are typed; they become a run at once, and are kept afterwards.
CREATE TABLE step_row (
  seq INTEGER PRIMARY KEY AUTOINCREMENT, id TEXT NOT NULL UNIQUE, session_id TEXT NOT NULL REFERENCES session (id),
  rung TEXT NOT NULL, mode TEXT NOT NULL, at TEXT NOT NULL, who TEXT NOT NULL, entry TEXT NOT NULL, body TEXT NOT NULL,
  run_id TEXT REFERENCES run (id), dropped_at TEXT
) STRICT;
CREATE INDEX step_row_by_session ON step_row (session_id, run_id, dropped_at);
CREATE TRIGGER step_row_is_kept BEFORE UPDATE OF body, entry, at, who, rung, mode ON step_row BEGIN SELECT RAISE (ABORT, 'a reading is never changed'); END;

-- The supply between runs.
CREATE TABLE rest_reading (
  seq INTEGER PRIMARY KEY AUTOINCREMENT, session_id TEXT NOT NULL REFERENCES session (id), at TEXT NOT NULL, who TEXT NOT NULL,
  volts REAL NOT NULL CHECK (volts > 0), dropped_at TEXT
) STRICT;
CREATE INDEX rest_reading_by_session ON rest_reading (session_id, seq);

-- Where the instruments are, one row a task; the profile is the TOML text it was read from.
CREATE TABLE instrument_link (
  role TEXT PRIMARY KEY, at TEXT NOT NULL, who TEXT NOT NULL, address TEXT NOT NULL, profile TEXT NOT NULL, meter TEXT
) STRICT;

-- A run that Pukka drives. A level that is raised is written down before it is raised: a row without `zeroed_at` at the next
-- start means that the level may still be up.
CREATE TABLE live_run (
  seq INTEGER PRIMARY KEY AUTOINCREMENT, id TEXT NOT NULL UNIQUE, session_id TEXT NOT NULL REFERENCES session (id),
  rung TEXT NOT NULL, mode TEXT NOT NULL, method TEXT NOT NULL, started_at TEXT NOT NULL, who TEXT NOT NULL,
  raised_at TEXT, zeroed_at TEXT, ended_at TEXT, outcome TEXT, says TEXT, run_id TEXT REFERENCES run (id)
) STRICT;
CREATE INDEX live_run_by_run ON live_run (run_id);
CREATE INDEX live_run_open ON live_run (ended_at, zeroed_at);

-- Every sample, before it is shown. `t_ms` counts from the start of the run by a clock that never goes back.
CREATE TABLE live_sample (
  live_id INTEGER NOT NULL REFERENCES live_run (seq), n INTEGER NOT NULL, t_ms INTEGER NOT NULL, role TEXT NOT NULL, quantity TEXT NOT NULL,
  value REAL NOT NULL, level_db REAL,
  PRIMARY KEY (live_id, n)
) STRICT, WITHOUT ROWID;
CREATE TRIGGER live_sample_is_kept BEFORE UPDATE ON live_sample BEGIN SELECT RAISE (ABORT, 'a sample is never changed'); END;
CREATE TRIGGER live_sample_stays BEFORE DELETE ON live_sample BEGIN SELECT RAISE (ABORT, 'a sample is never deleted'); END;
