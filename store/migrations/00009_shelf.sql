-- +goose Up
-- When a template was put in the bin: its pieces stay, and it can be brought back.
ALTER TABLE templates ADD COLUMN deleted TEXT NOT NULL DEFAULT '';
