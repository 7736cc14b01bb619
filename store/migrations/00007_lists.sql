-- +goose Up
-- When a document was deleted: it stays for a while, so that it can be brought back.
ALTER TABLE documents ADD COLUMN deleted TEXT NOT NULL DEFAULT '';
-- When a piece was last rendered, and as it stood at which revision; renders may be cleared away.
ALTER TABLE documents ADD COLUMN rendered TEXT NOT NULL DEFAULT '';
ALTER TABLE documents ADD COLUMN rendered_revision INTEGER NOT NULL DEFAULT 0;
-- The revision of the piece that a render shows, and whether it is one picture: those don't wait behind films.
ALTER TABLE renders ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
ALTER TABLE renders ADD COLUMN single INTEGER NOT NULL DEFAULT 0;
UPDATE renders SET single = json_extract(job, '$.kind') = 'png' WHERE json_valid(job) AND json_extract(job, '$.kind') IS NOT NULL;
UPDATE renders SET revision = COALESCE((SELECT MAX(o.revision) FROM operations o WHERE o.document = renders.piece AND o.created <= renders.created), 0);
UPDATE documents SET
  rendered = COALESCE((SELECT MAX(ended) FROM renders WHERE piece = documents.id AND state = 'done'), ''),
  rendered_revision = COALESCE((SELECT MAX(revision) FROM renders WHERE piece = documents.id AND state = 'done'), 0);
