-- +goose Up
-- Pieces and drafts are documents whose changes stand in one log.
CREATE TABLE documents (
  id       TEXT PRIMARY KEY,
  kind     TEXT NOT NULL CHECK (kind IN ('piece', 'draft')),
  name     TEXT NOT NULL,
  -- The release that a piece fills, or that a draft began from; '' and 0 is none.
  template TEXT NOT NULL,
  number   INTEGER NOT NULL,
  revision INTEGER NOT NULL,
  content  TEXT NOT NULL,
  created  TEXT NOT NULL,
  changed  TEXT NOT NULL
);
INSERT INTO documents (id, kind, name, template, number, revision, content, created, changed)
  SELECT id, 'piece', CASE WHEN json_valid(content) THEN COALESCE(json_extract(content, '$.name'), '') ELSE '' END, template, number, revision, content, created, changed FROM pieces;
CREATE TABLE log (
  id       TEXT PRIMARY KEY,
  document TEXT NOT NULL REFERENCES documents(id) ON DELETE CASCADE,
  revision INTEGER NOT NULL,
  author   TEXT NOT NULL,
  title    TEXT NOT NULL,
  changes  TEXT NOT NULL,
  -- done, undone, gone (undone and overtaken by a newer one), or step (an undo or redo itself)
  state    TEXT NOT NULL,
  created  TEXT NOT NULL,
  stroke   TEXT NOT NULL DEFAULT '',
  UNIQUE (document, revision)
);
INSERT INTO log (id, document, revision, author, title, changes, state, created, stroke)
  SELECT id, piece, revision, author, title, changes, state, created, stroke FROM operations;
CREATE TABLE tried (
  id      TEXT PRIMARY KEY,
  piece   TEXT NOT NULL REFERENCES documents(id) ON DELETE CASCADE,
  report  TEXT NOT NULL,
  created TEXT NOT NULL
);
INSERT INTO tried (id, piece, report, created) SELECT id, piece, report, created FROM trials;
DROP TABLE trials;
DROP TABLE operations;
DROP TABLE pieces;
ALTER TABLE log RENAME TO operations;
ALTER TABLE tried RENAME TO trials;
CREATE INDEX operations_stroke ON operations (stroke) WHERE stroke <> '';
CREATE INDEX documents_changed ON documents (kind, changed);
