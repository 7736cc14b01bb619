-- +goose Up
-- Sets of guides that were made here; the ready-made ones are the program's.
CREATE TABLE guide_sets (
  id       TEXT PRIMARY KEY,
  revision INTEGER NOT NULL,
  content  TEXT NOT NULL,
  made     TEXT NOT NULL,
  changed  TEXT NOT NULL
);

-- +goose Down
DROP TABLE guide_sets;
