-- The records: amplifier, its claims, its sessions, their rungs, gates, runs and readings.
-- Quantities carry their unit in the column's name; a ratio is a fraction. `extra` keeps keys of an imported file that
-- this version does not know. Lists and small objects are JSON.

CREATE TABLE amplifier (
  id TEXT PRIMARY KEY, revision INTEGER NOT NULL CHECK (revision > 0),
  created_at TEXT NOT NULL, updated_at TEXT NOT NULL, deleted_at TEXT, who TEXT NOT NULL,
  make TEXT NOT NULL CHECK (make <> ''), model TEXT NOT NULL CHECK (model <> ''), class TEXT NOT NULL, purpose TEXT NOT NULL,
  supply_type TEXT NOT NULL, channels INTEGER NOT NULL CHECK (channels BETWEEN 1 AND 16),
  fuses_a TEXT NOT NULL DEFAULT '[]', recommended_fuse_a REAL CHECK (recommended_fuse_a > 0), output_fuses_a TEXT NOT NULL DEFAULT '[]',
  max_supply_v REAL CHECK (max_supply_v > 0), topology TEXT, floors TEXT NOT NULL DEFAULT '[]', price TEXT, provenance TEXT NOT NULL,
  extra TEXT NOT NULL DEFAULT '{}'
) STRICT;

CREATE TABLE claim (
  id TEXT PRIMARY KEY, revision INTEGER NOT NULL CHECK (revision > 0),
  created_at TEXT NOT NULL, updated_at TEXT NOT NULL, deleted_at TEXT, who TEXT NOT NULL,
  amplifier_id TEXT NOT NULL REFERENCES amplifier (id), position INTEGER NOT NULL,
  source TEXT NOT NULL, wiring TEXT, setting TEXT, load_ohm REAL CHECK (load_ohm > 0), power_w REAL CHECK (power_w > 0),
  per TEXT NOT NULL, kind TEXT NOT NULL, supply_v REAL CHECK (supply_v > 0), thd_limit_ratio REAL CHECK (thd_limit_ratio > 0),
  tone_hz REAL CHECK (tone_hz > 0), used INTEGER NOT NULL DEFAULT 1, extra TEXT NOT NULL DEFAULT '{}'
) STRICT;
CREATE INDEX claim_by_amplifier ON claim (amplifier_id, position);

CREATE TABLE session (
  id TEXT PRIMARY KEY, revision INTEGER NOT NULL CHECK (revision > 0),
  created_at TEXT NOT NULL, updated_at TEXT NOT NULL, deleted_at TEXT, who TEXT NOT NULL,
  amplifier_id TEXT NOT NULL REFERENCES amplifier (id), rules_version INTEGER NOT NULL,
  bench TEXT NOT NULL, policy TEXT NOT NULL, idle TEXT, run_order TEXT NOT NULL, rest_v REAL CHECK (rest_v > 0),
  cautions_read_at TEXT, cautions_read_by TEXT, extra TEXT NOT NULL DEFAULT '{}'
) STRICT;
CREATE INDEX session_by_amplifier ON session (amplifier_id, created_at);

CREATE TABLE rung (
  id TEXT PRIMARY KEY, revision INTEGER NOT NULL CHECK (revision > 0),
  created_at TEXT NOT NULL, updated_at TEXT NOT NULL, deleted_at TEXT, who TEXT NOT NULL,
  session_id TEXT NOT NULL REFERENCES session (id),
  wiring TEXT NOT NULL, setting TEXT, load_ohm REAL NOT NULL CHECK (load_ohm > 0), tone_hz REAL CHECK (tone_hz > 0),
  load_measured_ohm REAL CHECK (load_measured_ohm > 0), rest_v REAL CHECK (rest_v > 0), charger_on INTEGER, extra_drive_db REAL,
  modes TEXT NOT NULL, extra TEXT NOT NULL DEFAULT '{}'
) STRICT;
CREATE INDEX rung_by_session ON rung (session_id);

CREATE TABLE gate (
  id TEXT PRIMARY KEY, created_at TEXT NOT NULL, who TEXT NOT NULL, withdrawn_at TEXT,
  session_id TEXT NOT NULL REFERENCES session (id),
  code TEXT NOT NULL, wiring TEXT, load_ohm REAL NOT NULL CHECK (load_ohm > 0), mode TEXT, reason TEXT NOT NULL CHECK (reason <> ''),
  "by" TEXT NOT NULL, owner_consent TEXT, extra TEXT NOT NULL DEFAULT '{}'
) STRICT;
CREATE INDEX gate_by_session ON gate (session_id);

CREATE TABLE run (
  seq INTEGER PRIMARY KEY AUTOINCREMENT, id TEXT NOT NULL UNIQUE, session_id TEXT NOT NULL REFERENCES session (id),
  at TEXT NOT NULL, who TEXT, entry TEXT, past_gates TEXT NOT NULL DEFAULT '[]',
  wiring TEXT NOT NULL, setting TEXT, load_nominal_ohm REAL NOT NULL CHECK (load_nominal_ohm > 0),
  load_measured_ohm REAL CHECK (load_measured_ohm > 0), mode TEXT NOT NULL, method TEXT, tone_hz REAL NOT NULL CHECK (tone_hz > 0),
  limit_ratio REAL, extra_drive_db REAL, rest_v REAL CHECK (rest_v > 0), charger_on INTEGER, efficiency_read_ratio REAL,
  struck TEXT NOT NULL DEFAULT '[]', accepted TEXT NOT NULL DEFAULT '[]', supersedes TEXT REFERENCES run (id), reason TEXT,
  incident TEXT, incomplete INTEGER NOT NULL DEFAULT 0, note TEXT, extra TEXT NOT NULL DEFAULT '{}',
  CHECK (supersedes IS NULL OR reason IS NOT NULL)
) STRICT;
CREATE INDEX run_by_session ON run (session_id, seq);

-- One row a reading, as read. `second` counts other meters on the same output, from 1.
CREATE TABLE reading (
  run_id TEXT NOT NULL REFERENCES run (id), position INTEGER NOT NULL,
  output INTEGER, output_name TEXT, second INTEGER NOT NULL DEFAULT 0,
  quantity TEXT NOT NULL, value REAL NOT NULL, meter TEXT,
  PRIMARY KEY (run_id, position)
) STRICT, WITHOUT ROWID;

-- A run taken back, or put back again: the last row of a run says whether it stands.
CREATE TABLE run_standing (
  seq INTEGER PRIMARY KEY AUTOINCREMENT, run_id TEXT NOT NULL REFERENCES run (id), at TEXT NOT NULL, who TEXT NOT NULL,
  stands INTEGER NOT NULL, reason TEXT NOT NULL
) STRICT;
CREATE INDEX run_standing_by_run ON run_standing (run_id, seq);

-- As read, never overwritten: the database itself refuses.
CREATE TRIGGER run_is_kept BEFORE UPDATE ON run BEGIN SELECT RAISE (ABORT, 'a run is never changed: log a correction'); END;
CREATE TRIGGER run_stays BEFORE DELETE ON run BEGIN SELECT RAISE (ABORT, 'a run is never deleted: take it back'); END;
CREATE TRIGGER reading_is_kept BEFORE UPDATE ON reading BEGIN SELECT RAISE (ABORT, 'a reading is never changed'); END;
CREATE TRIGGER reading_stays BEFORE DELETE ON reading BEGIN SELECT RAISE (ABORT, 'a reading is never deleted'); END;

-- What was done, by whom, in which tab: undo is an act of its own that names the one it takes back.
CREATE TABLE act (
  id INTEGER PRIMARY KEY AUTOINCREMENT, at TEXT NOT NULL, who TEXT NOT NULL, tab TEXT NOT NULL,
  entity TEXT NOT NULL, entity_id TEXT NOT NULL, amplifier_id TEXT NOT NULL, says TEXT NOT NULL,
  before TEXT, after TEXT, revision_after INTEGER, undoes INTEGER REFERENCES act (id),
  batch TEXT  -- acts that were done at once are taken back at once
) STRICT;
CREATE INDEX act_by_tab ON act (tab, id);

-- A write that is sent twice is done once.
CREATE TABLE idempotency (
  key TEXT PRIMARY KEY, at TEXT NOT NULL, request_sha256 TEXT NOT NULL, response TEXT NOT NULL
) STRICT;

-- One row a session, made by the rules of that version: listing never judges.
CREATE TABLE summary (
  session_id TEXT PRIMARY KEY REFERENCES session (id), rules_version INTEGER NOT NULL, body TEXT NOT NULL
) STRICT;
