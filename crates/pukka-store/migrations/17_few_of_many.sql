-- Few amplifiers have tags or are put away: a shelf of thousands is not looked through for them at each of its first pages.
CREATE INDEX amplifier_tagged ON amplifier (tags) WHERE tags IS NOT NULL AND deleted_at IS NULL;
CREATE INDEX amplifier_away ON amplifier (id) WHERE archived AND deleted_at IS NULL;
