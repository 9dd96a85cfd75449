-- What compare and value read of a summary, in an index of its own, so that a shelf of thousands is read without its summaries.
ALTER TABLE summary ADD COLUMN value_w REAL GENERATED ALWAYS AS (json_extract(body, '$.clean.watts')) VIRTUAL;
ALTER TABLE summary ADD COLUMN value_u_w REAL GENERATED ALWAYS AS (json_extract(body, '$.clean.u_w')) VIRTUAL;
ALTER TABLE summary ADD COLUMN value_load TEXT GENERATED ALWAYS AS (json_extract(body, '$.clean.load')) VIRTUAL;
ALTER TABLE summary ADD COLUMN value_percent REAL GENERATED ALWAYS AS (json_extract(body, '$.clean.efficiency_percent')) VIRTUAL;
ALTER TABLE summary ADD COLUMN currency TEXT GENERATED ALWAYS AS (json_extract(body, '$.price_currency')) VIRTUAL;
ALTER TABLE summary ADD COLUMN price_on TEXT GENERATED ALWAYS AS (json_extract(body, '$.price_on')) VIRTUAL;
ALTER TABLE summary ADD COLUMN outputs INTEGER GENERATED ALWAYS AS (json_extract(body, '$.outputs')) VIRTUAL;
ALTER TABLE summary ADD COLUMN verdict_word TEXT GENERATED ALWAYS AS (json_extract(body, '$.state')) VIRTUAL;
ALTER TABLE summary ADD COLUMN tone TEXT GENERATED ALWAYS AS (json_extract(body, '$.tone')) VIRTUAL;
CREATE INDEX summary_value ON summary (session_id, fresh, rules_version, value_w, value_u_w, value_load, value_percent, price, currency, price_on, outputs,
  name, class, purpose, verdict_word, tone, headline_w, words);
-- Rates of exchange that the user keeps: one row at the most, as nothing is fetched.
CREATE TABLE money (
  id INTEGER PRIMARY KEY CHECK (id = 1), revision INTEGER NOT NULL CHECK (revision > 0), updated_at TEXT NOT NULL, who TEXT NOT NULL,
  base TEXT NOT NULL, rates TEXT NOT NULL
) STRICT;
UPDATE summary SET fresh = 0;
