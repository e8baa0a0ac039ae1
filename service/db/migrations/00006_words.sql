-- +goose Up
-- The words of the glossary.
ALTER TABLE opening RENAME TO assignment;
ALTER TABLE submission RENAME COLUMN opening_id TO assignment_id;
ALTER TABLE extension RENAME COLUMN opening_id TO assignment_id;
ALTER TABLE proposal RENAME COLUMN opening_id TO assignment_id;
ALTER TABLE bulk RENAME COLUMN opening_id TO assignment_id;
ALTER TABLE phrase RENAME TO saved_comment;
ALTER TABLE submission RENAME COLUMN touched TO overridden;
ALTER TABLE override RENAME COLUMN dropped_at TO withdrawn_at;
UPDATE proposed SET state = CASE state WHEN 'taken' THEN 'applied' WHEN 'dropped' THEN 'discarded' ELSE state END;
