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

-- Filters and orders that the user gave a name.
CREATE TABLE saved_view (
  id TEXT PRIMARY KEY, revision INTEGER NOT NULL CHECK (revision > 0),
  created_at TEXT NOT NULL, updated_at TEXT NOT NULL, deleted_at TEXT, who TEXT NOT NULL,
  page TEXT NOT NULL, name TEXT NOT NULL CHECK (name <> ''), query TEXT NOT NULL, on_site INTEGER, extra TEXT NOT NULL DEFAULT '{}'
) STRICT;
CREATE INDEX saved_view_by_name ON saved_view (page, name) WHERE deleted_at IS NULL;
