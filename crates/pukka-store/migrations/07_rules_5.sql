-- What version 5 of the rules reads of a run: a total alone, readings off a moving display, where a climbing one started, and
-- whether the mode was stated. An opened gate names the switch and the tone as well.
ALTER TABLE run ADD COLUMN total_power_w REAL CHECK (total_power_w >= 0);
ALTER TABLE run ADD COLUMN approximate TEXT;
ALTER TABLE run ADD COLUMN climbed_from_w REAL CHECK (climbed_from_w >= 0);
ALTER TABLE run ADD COLUMN mode_stated INTEGER;
ALTER TABLE gate ADD COLUMN setting TEXT;
ALTER TABLE gate ADD COLUMN tone_hz REAL CHECK (tone_hz > 0);
-- A reason that came in with a file is kept, and opens nothing here.
ALTER TABLE gate ADD COLUMN from_file INTEGER NOT NULL DEFAULT 0;
-- What was mended after a death.
ALTER TABLE session ADD COLUMN repairs TEXT;
