-- +goose Up
-- Small tables that are kept with templates, to fill pieces from.
CREATE TABLE kept_lists (
  template TEXT PRIMARY KEY REFERENCES templates(id) ON DELETE CASCADE,
  revision INTEGER NOT NULL,
  content  TEXT NOT NULL,
  changed  TEXT NOT NULL
);

-- +goose Down
DROP TABLE kept_lists;
