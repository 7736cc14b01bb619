-- +goose Up
-- The window that a change was made in: what it changed itself is never in its way.
ALTER TABLE operations ADD COLUMN sender TEXT NOT NULL DEFAULT '';
