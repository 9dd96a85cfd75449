-- Words of one's own on an amplifier, and whether it is put away.
ALTER TABLE amplifier ADD COLUMN tags TEXT;
ALTER TABLE amplifier ADD COLUMN archived INTEGER;
