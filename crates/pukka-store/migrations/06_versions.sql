-- What was loaded of a session stays good as long as its version is the same. A version is drawn at random, not counted: that
-- of a write that was rolled back never comes again.
ALTER TABLE session ADD COLUMN version INTEGER NOT NULL DEFAULT 0;

CREATE TRIGGER session_version AFTER UPDATE OF revision, bench, policy, idle, run_order, rest_v, gain, extra, bench_profile_id,
    cautions_read_at, ticked, deleted_at ON session
BEGIN UPDATE session SET version = random() WHERE id = NEW.id; END;

CREATE TRIGGER run_version AFTER INSERT ON run
BEGIN UPDATE session SET version = random() WHERE id = NEW.session_id; END;
CREATE TRIGGER run_changed_version AFTER UPDATE ON run
BEGIN UPDATE session SET version = random() WHERE id = NEW.session_id; END;
CREATE TRIGGER run_remark_version AFTER INSERT ON run_remark
BEGIN UPDATE session SET version = random() WHERE id = (SELECT session_id FROM run WHERE id = NEW.run_id); END;
CREATE TRIGGER run_standing_version AFTER INSERT ON run_standing
BEGIN UPDATE session SET version = random() WHERE id = (SELECT session_id FROM run WHERE id = NEW.run_id); END;
CREATE TRIGGER rung_version AFTER INSERT ON rung
BEGIN UPDATE session SET version = random() WHERE id = NEW.session_id; END;
CREATE TRIGGER rung_changed_version AFTER UPDATE ON rung
BEGIN UPDATE session SET version = random() WHERE id = NEW.session_id; END;
CREATE TRIGGER gate_version AFTER INSERT ON gate
BEGIN UPDATE session SET version = random() WHERE id = NEW.session_id; END;
CREATE TRIGGER gate_changed_version AFTER UPDATE ON gate
BEGIN UPDATE session SET version = random() WHERE id = NEW.session_id; END;
CREATE TRIGGER claim_version AFTER INSERT ON claim
BEGIN UPDATE session SET version = random() WHERE amplifier_id = NEW.amplifier_id; END;
CREATE TRIGGER claim_changed_version AFTER UPDATE ON claim
BEGIN UPDATE session SET version = random() WHERE amplifier_id = NEW.amplifier_id; END;
CREATE TRIGGER amplifier_changed_version AFTER UPDATE ON amplifier
BEGIN UPDATE session SET version = random() WHERE amplifier_id = NEW.id; END;

-- A summary is made anew when the records are at rest, or when it is asked for; until then it is not fresh.
ALTER TABLE summary ADD COLUMN fresh INTEGER NOT NULL DEFAULT 1;

-- Keys of writes are kept for 30 days.
CREATE INDEX idempotency_at ON idempotency (at);
