-- In and out: by which id a file knows what came from it; verdicts that were settled.

ALTER TABLE session ADD COLUMN file_id TEXT;
ALTER TABLE claim ADD COLUMN file_id TEXT;
ALTER TABLE run ADD COLUMN file_id TEXT;
ALTER TABLE live_run ADD COLUMN file_id TEXT;
CREATE INDEX session_by_file ON session (file_id) WHERE file_id IS NOT NULL;

-- A verdict as it stood when it was settled, with the whole session it was made of. The newest that was not taken back counts.
CREATE TABLE settled_verdict (
  seq INTEGER PRIMARY KEY AUTOINCREMENT, id TEXT NOT NULL UNIQUE, session_id TEXT NOT NULL REFERENCES session (id),
  at TEXT NOT NULL, who TEXT NOT NULL, rules_version INTEGER NOT NULL, body TEXT NOT NULL, withdrawn_at TEXT
) STRICT;
CREATE INDEX settled_verdict_by_session ON settled_verdict (session_id, seq);
CREATE TRIGGER settled_verdict_is_kept BEFORE UPDATE OF at, who, rules_version, body, session_id ON settled_verdict BEGIN SELECT RAISE (ABORT, 'a settled verdict is never changed: settle it anew'); END;
CREATE TRIGGER settled_verdict_stays BEFORE DELETE ON settled_verdict BEGIN SELECT RAISE (ABORT, 'a settled verdict is never deleted'); END;
