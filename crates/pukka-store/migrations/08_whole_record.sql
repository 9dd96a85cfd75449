-- Version 5 of the open file: all that is known of an amplifier and of a session has a place.
ALTER TABLE amplifier ADD COLUMN signal_to_noise_db REAL;
ALTER TABLE amplifier ADD COLUMN printed_thd_ratio REAL;
ALTER TABLE amplifier ADD COLUMN accessories_missing TEXT;
ALTER TABLE amplifier ADD COLUMN tour TEXT;
ALTER TABLE amplifier ADD COLUMN likes TEXT;
ALTER TABLE amplifier ADD COLUMN consider TEXT;
ALTER TABLE amplifier ADD COLUMN relations TEXT;
ALTER TABLE amplifier ADD COLUMN prices TEXT;
ALTER TABLE session ADD COLUMN measured_on TEXT;
ALTER TABLE session ADD COLUMN footage_from TEXT;
ALTER TABLE session ADD COLUMN claps TEXT;
ALTER TABLE session ADD COLUMN listening TEXT;
ALTER TABLE session ADD COLUMN guesses TEXT;
ALTER TABLE session ADD COLUMN traces TEXT;
ALTER TABLE rung ADD COLUMN bursts TEXT;
ALTER TABLE bench_profile ADD COLUMN step_box_ohm TEXT;
-- Where a second tone comes in the order of the runs.
ALTER TABLE session ADD COLUMN tone_order TEXT;
