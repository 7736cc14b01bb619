-- +goose Up
-- What authors are called by others, who see what they did.
CREATE TABLE authors (id TEXT PRIMARY KEY, name TEXT NOT NULL);
