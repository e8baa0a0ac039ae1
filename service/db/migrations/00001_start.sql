-- +goose Up
CREATE TABLE account (
	id         INTEGER PRIMARY KEY,
	name       TEXT NOT NULL UNIQUE,
	role       TEXT NOT NULL,
	password   TEXT NOT NULL, -- bcrypt
	created_at TIMESTAMP NOT NULL
);

CREATE TABLE session (
	token_hash BLOB PRIMARY KEY, -- SHA-256 of the token
	account_id INTEGER NOT NULL REFERENCES account(id) ON DELETE CASCADE,
	created_at TIMESTAMP NOT NULL,
	expires_at TIMESTAMP NOT NULL
);

CREATE TABLE exercise (
	id         INTEGER PRIMARY KEY,
	name       TEXT NOT NULL UNIQUE,
	created_at TIMESTAMP NOT NULL
);

-- A revision never changes once it is there.
CREATE TABLE revision (
	id          INTEGER PRIMARY KEY,
	exercise_id INTEGER NOT NULL REFERENCES exercise(id),
	number      INTEGER NOT NULL,
	title       TEXT NOT NULL,
	brief       TEXT NOT NULL,
	marks       TEXT NOT NULL,
	blob        TEXT NOT NULL,
	created_at  TIMESTAMP NOT NULL,
	UNIQUE (exercise_id, number)
);

CREATE TABLE submission (
	id           TEXT PRIMARY KEY,
	exercise_id  INTEGER NOT NULL REFERENCES exercise(id),
	revision_id  INTEGER NOT NULL REFERENCES revision(id),
	student      TEXT NOT NULL,
	file         TEXT NOT NULL,
	blob         TEXT NOT NULL,
	attempt      INTEGER NOT NULL,
	submitted_at TIMESTAMP NOT NULL
);
CREATE INDEX submission_by_exercise ON submission (exercise_id, submitted_at);

-- One job for each submission. epoch is that of the service that claimed it, claim a number that
-- grows with each claim: a result from any other claim is refused.
CREATE TABLE job (
	submission_id TEXT PRIMARY KEY REFERENCES submission(id),
	state         TEXT NOT NULL DEFAULT 'queued',
	epoch         INTEGER NOT NULL DEFAULT 0,
	claim         INTEGER NOT NULL DEFAULT 0,
	error         TEXT NOT NULL DEFAULT '',
	queued_at     TIMESTAMP NOT NULL,
	finished_at   TIMESTAMP
);
CREATE INDEX job_by_state ON job (state, queued_at);

CREATE TABLE result (
	submission_id TEXT PRIMARY KEY REFERENCES submission(id),
	marks         TEXT NOT NULL,
	of_marks      TEXT NOT NULL,
	met           INTEGER NOT NULL,
	partly        INTEGER NOT NULL,
	missed        INTEGER NOT NULL,
	first         TEXT NOT NULL,
	sheet         TEXT NOT NULL, -- JSON
	marked_at     TIMESTAMP NOT NULL
);

CREATE TABLE epoch (
	number     INTEGER PRIMARY KEY AUTOINCREMENT,
	started_at TIMESTAMP NOT NULL
);
