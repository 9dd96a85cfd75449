-- The shelf is sorted and filtered by what its lines say: read out of the summaries, which stay the one place that holds it.
ALTER TABLE summary ADD COLUMN name TEXT GENERATED ALWAYS AS (json_extract(body, '$.name')) VIRTUAL;
ALTER TABLE summary ADD COLUMN verdict TEXT GENERATED ALWAYS AS (json_extract(body, '$.overall')) VIRTUAL;
ALTER TABLE summary ADD COLUMN stage TEXT GENERATED ALWAYS AS (json_extract(body, '$.stage')) VIRTUAL;
ALTER TABLE summary ADD COLUMN class TEXT GENERATED ALWAYS AS (json_extract(body, '$.class')) VIRTUAL;
ALTER TABLE summary ADD COLUMN purpose TEXT GENERATED ALWAYS AS (json_extract(body, '$.purpose')) VIRTUAL;
ALTER TABLE summary ADD COLUMN price REAL GENERATED ALWAYS AS (json_extract(body, '$.price_amount')) VIRTUAL;
ALTER TABLE summary ADD COLUMN clean_w REAL GENERATED ALWAYS AS (json_extract(body, '$.clean_w')) VIRTUAL;
ALTER TABLE summary ADD COLUMN headline_w REAL GENERATED ALWAYS AS (json_extract(body, '$.headline_w')) VIRTUAL;
ALTER TABLE summary ADD COLUMN words TEXT GENERATED ALWAYS AS (json_extract(body, '$.search')) VIRTUAL;
CREATE INDEX summary_shelf ON summary (session_id, fresh, rules_version, name, verdict, stage, class, purpose, price, clean_w, headline_w, words);
-- They are made again at the next start, with what they did not say before.
UPDATE summary SET fresh = 0;
