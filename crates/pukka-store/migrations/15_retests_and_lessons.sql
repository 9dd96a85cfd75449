-- An amplifier that comes to the bench again has a session for each time. The one in hand is shown and logged into: the one that
-- was taken in hand last.
ALTER TABLE session ADD COLUMN occasion TEXT;
ALTER TABLE session ADD COLUMN in_hand_at TEXT NOT NULL DEFAULT '';
UPDATE session SET in_hand_at = created_at;
DROP INDEX session_by_amplifier;
CREATE INDEX session_by_amplifier ON session (amplifier_id, in_hand_at);

-- What a session adds to what the bench taught, made with its summary.
ALTER TABLE summary ADD COLUMN lesson TEXT;
UPDATE summary SET fresh = 0;
