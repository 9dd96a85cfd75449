-- A line of the shelf has its clean power at every claimed load, and the day of the test: value is told by load and by date.
DROP INDEX summary_value;
ALTER TABLE summary DROP COLUMN value_w;
ALTER TABLE summary DROP COLUMN value_u_w;
ALTER TABLE summary DROP COLUMN value_load;
ALTER TABLE summary DROP COLUMN value_percent;
ALTER TABLE summary ADD COLUMN value_w REAL GENERATED ALWAYS AS (json_extract(body, '$.powers[0].watts')) VIRTUAL;
ALTER TABLE summary ADD COLUMN value_u_w REAL GENERATED ALWAYS AS (json_extract(body, '$.powers[0].u_w')) VIRTUAL;
ALTER TABLE summary ADD COLUMN value_load TEXT GENERATED ALWAYS AS (json_extract(body, '$.powers[0].load')) VIRTUAL;
ALTER TABLE summary ADD COLUMN value_load_ohm REAL GENERATED ALWAYS AS (json_extract(body, '$.powers[0].load_ohm')) VIRTUAL;
ALTER TABLE summary ADD COLUMN value_percent REAL GENERATED ALWAYS AS (json_extract(body, '$.powers[0].efficiency_percent')) VIRTUAL;
ALTER TABLE summary ADD COLUMN powers TEXT GENERATED ALWAYS AS (json_extract(body, '$.powers')) VIRTUAL;
ALTER TABLE summary ADD COLUMN tested_on TEXT GENERATED ALWAYS AS (json_extract(body, '$.tested_on')) VIRTUAL;
CREATE INDEX summary_value ON summary (session_id, fresh, rules_version, value_w, value_u_w, value_load, value_load_ohm, value_percent, price, currency, price_on, outputs,
  name, class, purpose, verdict_word, tone, headline_w, words, stage, tested_on, powers);
UPDATE summary SET fresh = 0;

-- Every captured wave that was ever kept, removed ones too: undo brings them back, and a backup has them.
CREATE TABLE trace_file (sha256 TEXT PRIMARY KEY, bytes INTEGER NOT NULL, kept_at TEXT NOT NULL) STRICT;

-- Filters and orders that the user gave a name.
CREATE TABLE saved_view (
  id TEXT PRIMARY KEY, revision INTEGER NOT NULL CHECK (revision > 0),
  created_at TEXT NOT NULL, updated_at TEXT NOT NULL, deleted_at TEXT, who TEXT NOT NULL,
  page TEXT NOT NULL, name TEXT NOT NULL CHECK (name <> ''), query TEXT NOT NULL, on_site INTEGER, extra TEXT NOT NULL DEFAULT '{}'
) STRICT;
CREATE INDEX saved_view_by_name ON saved_view (page, name) WHERE deleted_at IS NULL;

-- The session in hand stands with its amplifier: a shelf of thousands does not look each of them up.
ALTER TABLE amplifier ADD COLUMN session_in_hand TEXT REFERENCES session (id);
UPDATE amplifier SET session_in_hand = (SELECT n.id FROM session n WHERE n.amplifier_id = amplifier.id AND n.deleted_at IS NULL
  ORDER BY n.in_hand_at DESC, n.id DESC LIMIT 1);
CREATE TRIGGER in_hand_of_new AFTER INSERT ON session BEGIN
  UPDATE amplifier SET session_in_hand = (SELECT n.id FROM session n WHERE n.amplifier_id = NEW.amplifier_id AND n.deleted_at IS NULL
    ORDER BY n.in_hand_at DESC, n.id DESC LIMIT 1) WHERE id = NEW.amplifier_id;
END;
CREATE TRIGGER in_hand_of_changed AFTER UPDATE OF in_hand_at, deleted_at ON session BEGIN
  UPDATE amplifier SET session_in_hand = (SELECT n.id FROM session n WHERE n.amplifier_id = NEW.amplifier_id AND n.deleted_at IS NULL
    ORDER BY n.in_hand_at DESC, n.id DESC LIMIT 1) WHERE id = NEW.amplifier_id;
END;
CREATE INDEX amplifier_shelf ON amplifier (id, session_in_hand, updated_at, archived, tags) WHERE deleted_at IS NULL;
CREATE INDEX session_shelf ON session (id, updated_at);
