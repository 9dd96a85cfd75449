-- Redo: rows of level steps know which run they were freed from; the journal is asked what took an act back, and what came
-- after it on the same record.

ALTER TABLE step_row ADD COLUMN freed_from TEXT;
CREATE INDEX act_undoes ON act (undoes) WHERE undoes IS NOT NULL;
CREATE INDEX act_by_entity ON act (entity, entity_id, id);
