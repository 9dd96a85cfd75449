-- Everything that was written, for a search. Its text is the program's own, made again whenever a summary is: the summaries are made
-- anew at the next start, and this with them.
CREATE TABLE written_doc (doc INTEGER PRIMARY KEY, amplifier_id TEXT NOT NULL UNIQUE REFERENCES amplifier (id)) STRICT;
CREATE VIRTUAL TABLE written USING fts5 (text, tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3');
UPDATE summary SET fresh = 0;
