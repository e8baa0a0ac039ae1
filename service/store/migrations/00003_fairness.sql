-- +goose Up
-- What changes depend on: a number for each class, exercise and account, that grows with each change of it.
CREATE TABLE version (
	key    TEXT PRIMARY KEY,
	number INTEGER NOT NULL
) WITHOUT ROWID;

-- When each class, and each person who hands in, had a turn at the workers last: a number that grows with each turn.
CREATE TABLE turn (
	key    TEXT PRIMARY KEY,
	served INTEGER NOT NULL
) WITHOUT ROWID;

-- Wrong tries to sign in, by login and by address.
CREATE TABLE wrong_try (
	key     TEXT PRIMARY KEY,
	count   INTEGER NOT NULL,
	until   TIMESTAMP, -- locked out until then
	last_at TIMESTAMP NOT NULL
) WITHOUT ROWID;

-- The kinds of work that an opening takes, as words with spaces between; '' where the exercise decides.
ALTER TABLE opening ADD COLUMN takes TEXT NOT NULL DEFAULT '';

CREATE INDEX submission_by_person ON submission (by_id);
