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

-- The class that an account was made in: its instructors go on to answer for it, whatever other class takes it in.
ALTER TABLE account ADD COLUMN home_class_id INTEGER REFERENCES class(id);
UPDATE account SET home_class_id = (SELECT class_id FROM member m WHERE m.account_id = account.id ORDER BY m.created_at, m.class_id LIMIT 1) WHERE role = 'person';
