-- +goose Up
-- Access codes: who they are for, and the SHA-256 of their letters; the letters are kept nowhere.
CREATE TABLE codes (
  id        TEXT PRIMARY KEY,
  name      TEXT NOT NULL,
  role      TEXT NOT NULL CHECK (role IN ('designer', 'editor')),
  hash      TEXT NOT NULL UNIQUE,
  created   TEXT NOT NULL,
  used      TEXT NOT NULL DEFAULT '',
  withdrawn TEXT NOT NULL DEFAULT ''
);
-- Who is in: by the hash of what their browser shows.
CREATE TABLE sessions (
  token TEXT PRIMARY KEY,
  data  BLOB NOT NULL,
  ends  INTEGER NOT NULL -- seconds since 1970
);
-- Who changed and rendered what. Rows are added, and after a year removed.
CREATE TABLE audit (
  number  INTEGER PRIMARY KEY AUTOINCREMENT,
  at      TEXT NOT NULL,
  code    TEXT NOT NULL, -- '' is somebody at this machine
  name    TEXT NOT NULL,
  role    TEXT NOT NULL,
  act     TEXT NOT NULL, -- an operation of the API
  subject TEXT NOT NULL, -- what it was done to, by its id
  said    TEXT NOT NULL  -- both, for people
);
CREATE INDEX audit_subject ON audit (subject);
-- Whose code a render was asked for with.
ALTER TABLE renders ADD COLUMN code TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE renders DROP COLUMN code;
DROP TABLE audit;
DROP TABLE sessions;
DROP TABLE codes;
