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
UPDATE audit SET action = CASE action
	WHEN 'class made' THEN 'class created'
	WHEN 'exercise opened' THEN 'exercise assigned'
	WHEN 'exercise taken away' THEN 'exercise unassigned'
	WHEN 'extension given' THEN 'extension granted'
	WHEN 'extension taken back' THEN 'extension withdrawn'
	WHEN 'library dropped' THEN 'library deleted'
	WHEN 'library registered' THEN 'library uploaded'
	WHEN 'member taken out' THEN 'member removed'
	WHEN 'override taken back' THEN 'override withdrawn'
	WHEN 'proposed marks taken over' THEN 'proposed marks applied'
	WHEN 'roster taken in' THEN 'roster imported'
	WHEN 'sign-in link made' THEN 'sign-in link created'
	WHEN 'join code made' THEN 'join code created'
	WHEN 'join code taken away' THEN 'join code removed'
	ELSE action END;
