-- +goose Up
-- What a designer says of a release, and the hash of its document (SHA-256, hex): a release
-- that reads otherwise is not the one that was made. '' is of before hashes were kept.
ALTER TABLE releases ADD COLUMN note TEXT NOT NULL DEFAULT '';
ALTER TABLE releases ADD COLUMN hash TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE releases DROP COLUMN hash;
ALTER TABLE releases DROP COLUMN note;
