-- +goose Up
-- When media was last put into a pocket, and when it was cleared away; its file
-- stays for a while, so that clearing can be undone.
ALTER TABLE media ADD COLUMN used TEXT NOT NULL DEFAULT '';
ALTER TABLE media ADD COLUMN cleared TEXT NOT NULL DEFAULT '';
-- Operations on several pieces that are undone as one.
ALTER TABLE operations ADD COLUMN stroke TEXT NOT NULL DEFAULT '';
CREATE INDEX operations_stroke ON operations (stroke) WHERE stroke <> '';
CREATE TABLE settings (
  name  TEXT PRIMARY KEY,
  value TEXT NOT NULL
);

-- +goose Down
DROP TABLE settings;
DROP INDEX operations_stroke;
ALTER TABLE operations DROP COLUMN stroke;
ALTER TABLE media DROP COLUMN cleared;
ALTER TABLE media DROP COLUMN used;
