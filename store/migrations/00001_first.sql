-- +goose Up
CREATE TABLE media (
  hash    TEXT PRIMARY KEY,
  name    TEXT NOT NULL,
  bytes   INTEGER NOT NULL,
  meta    TEXT NOT NULL,
  created TEXT NOT NULL
);
CREATE TABLE templates (
  id       TEXT PRIMARY KEY,
  name     TEXT NOT NULL,
  category TEXT NOT NULL,
  family   TEXT NOT NULL
);
-- A release is frozen: rows are added, never changed.
CREATE TABLE releases (
  template TEXT NOT NULL REFERENCES templates(id),
  number   INTEGER NOT NULL,
  document TEXT NOT NULL,
  created  TEXT NOT NULL,
  PRIMARY KEY (template, number)
);
CREATE TABLE pieces (
  id       TEXT PRIMARY KEY,
  template TEXT NOT NULL,
  number   INTEGER NOT NULL,
  revision INTEGER NOT NULL,
  content  TEXT NOT NULL,
  created  TEXT NOT NULL,
  changed  TEXT NOT NULL,
  FOREIGN KEY (template, number) REFERENCES releases(template, number)
);
CREATE TABLE operations (
  id       TEXT PRIMARY KEY,
  piece    TEXT NOT NULL REFERENCES pieces(id) ON DELETE CASCADE,
  revision INTEGER NOT NULL,
  author   TEXT NOT NULL,
  title    TEXT NOT NULL,
  changes  TEXT NOT NULL,
  -- done, undone, gone (undone and overtaken by a newer one), or step (an undo or redo itself)
  state    TEXT NOT NULL,
  created  TEXT NOT NULL,
  UNIQUE (piece, revision)
);
CREATE TABLE renders (
  id       TEXT PRIMARY KEY,
  number   INTEGER NOT NULL UNIQUE,
  piece    TEXT NOT NULL,
  job      TEXT NOT NULL,
  state    TEXT NOT NULL,
  done     INTEGER NOT NULL,
  failure  TEXT NOT NULL,
  bytes    INTEGER NOT NULL,
  created  TEXT NOT NULL,
  started  TEXT NOT NULL,
  ended    TEXT NOT NULL
);
CREATE TABLE trials (
  id      TEXT PRIMARY KEY,
  piece   TEXT NOT NULL REFERENCES pieces(id) ON DELETE CASCADE,
  report  TEXT NOT NULL,
  created TEXT NOT NULL
);

-- +goose Down
DROP TABLE trials;
DROP TABLE renders;
DROP TABLE operations;
DROP TABLE pieces;
DROP TABLE releases;
DROP TABLE templates;
DROP TABLE media;
