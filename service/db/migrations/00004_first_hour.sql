-- +goose Up
-- Whose a file of a bulk may be, as logins with spaces between.
ALTER TABLE bulk_file ADD COLUMN candidates TEXT NOT NULL DEFAULT '';
