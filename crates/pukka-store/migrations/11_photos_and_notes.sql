-- Marks on photos, the run a photo was taken in, and whether the sheet shows it.
ALTER TABLE photo ADD COLUMN marks TEXT;
ALTER TABLE photo ADD COLUMN run_id TEXT;
ALTER TABLE photo ADD COLUMN on_sheet INTEGER;
-- Findings after a death.
ALTER TABLE session ADD COLUMN post_mortem TEXT;
-- A note on a run is a remark too: the table is made again, as its check knew two kinds only.
CREATE TABLE run_remark_11 (
  seq INTEGER PRIMARY KEY AUTOINCREMENT, run_id TEXT NOT NULL REFERENCES run (id), at TEXT NOT NULL, who TEXT NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('strike', 'accept', 'note')), what TEXT NOT NULL CHECK (what <> ''),
  stands INTEGER NOT NULL, reason TEXT NOT NULL CHECK (reason <> '' OR kind = 'note')
) STRICT;
INSERT INTO run_remark_11 (seq, run_id, at, who, kind, what, stands, reason)
  SELECT seq, run_id, at, who, kind, what, stands, reason FROM run_remark;
DROP TABLE run_remark;
ALTER TABLE run_remark_11 RENAME TO run_remark;
CREATE INDEX run_remark_by_run ON run_remark (run_id, seq);
CREATE TRIGGER run_remark_is_kept BEFORE UPDATE ON run_remark BEGIN SELECT RAISE (ABORT, 'a remark is never changed'); END;
CREATE TRIGGER run_remark_stays BEFORE DELETE ON run_remark BEGIN SELECT RAISE (ABORT, 'a remark is never deleted'); END;
CREATE TRIGGER run_remark_version AFTER INSERT ON run_remark
BEGIN UPDATE session SET version = random() WHERE id = (SELECT session_id FROM run WHERE id = NEW.run_id); END;
