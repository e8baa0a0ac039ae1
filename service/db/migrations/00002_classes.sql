-- +goose Up
-- Classes, the people in them, and the order of work around marks. What the first schema held moves into a class of its
-- own, one account for each student's name.

ALTER TABLE account ADD COLUMN full_name TEXT NOT NULL DEFAULT '';
ALTER TABLE account ADD COLUMN disabled INTEGER NOT NULL DEFAULT 0;
UPDATE account SET full_name = name, name = lower(name), role = 'admin';

CREATE INDEX account_by_name ON account (full_name, id);

CREATE TABLE setting (
	key   TEXT PRIMARY KEY,
	value TEXT NOT NULL
);

-- Ways in: a browser's session, or a personal token with a name and a scope.
DROP TABLE session;
CREATE TABLE session (
	id         INTEGER PRIMARY KEY AUTOINCREMENT,
	token_hash BLOB NOT NULL UNIQUE, -- SHA-256 of the token
	account_id INTEGER NOT NULL REFERENCES account(id) ON DELETE CASCADE,
	kind       TEXT NOT NULL, -- session or token
	name       TEXT NOT NULL DEFAULT '',
	scope      TEXT NOT NULL DEFAULT 'all',
	agent      TEXT NOT NULL DEFAULT '',
	address    TEXT NOT NULL DEFAULT '',
	created_at TIMESTAMP NOT NULL,
	seen_at    TIMESTAMP,
	expires_at TIMESTAMP NOT NULL
);
CREATE INDEX session_by_account ON session (account_id);

-- One-time links.
CREATE TABLE link (
	token_hash BLOB PRIMARY KEY,
	account_id INTEGER NOT NULL REFERENCES account(id) ON DELETE CASCADE,
	created_at TIMESTAMP NOT NULL,
	expires_at TIMESTAMP NOT NULL,
	used_at    TIMESTAMP
);

CREATE TABLE class (
	id         INTEGER PRIMARY KEY,
	name       TEXT NOT NULL UNIQUE,
	title      TEXT NOT NULL,
	join_code  TEXT UNIQUE, -- NULL: nobody can join
	archived   INTEGER NOT NULL DEFAULT 0,
	created_at TIMESTAMP NOT NULL
);

CREATE TABLE member (
	class_id   INTEGER NOT NULL REFERENCES class(id),
	account_id INTEGER NOT NULL REFERENCES account(id),
	role       TEXT NOT NULL, -- instructor, assistant, student
	team       TEXT NOT NULL DEFAULT '', -- the group
	number     TEXT NOT NULL DEFAULT '', -- at the school
	created_at TIMESTAMP NOT NULL,
	PRIMARY KEY (class_id, account_id)
);
CREATE INDEX member_by_account ON member (account_id);

-- The files of a revision's folder beside exercise.yaml.
CREATE TABLE revision_file (
	revision_id INTEGER NOT NULL REFERENCES revision(id),
	path        TEXT NOT NULL,
	blob        TEXT NOT NULL,
	PRIMARY KEY (revision_id, path)
);
ALTER TABLE revision ADD COLUMN account_id INTEGER REFERENCES account(id);

CREATE TABLE library (
	class_id   INTEGER NOT NULL REFERENCES class(id),
	name       TEXT NOT NULL,
	headers    TEXT NOT NULL, -- one in a line
	blob       TEXT NOT NULL, -- a zip archive
	created_at TIMESTAMP NOT NULL,
	PRIMARY KEY (class_id, name)
);

-- An exercise opened to a class.
CREATE TABLE opening (
	id          INTEGER PRIMARY KEY,
	class_id    INTEGER NOT NULL REFERENCES class(id),
	exercise_id INTEGER NOT NULL REFERENCES exercise(id),
	revision_id INTEGER NOT NULL REFERENCES revision(id), -- in force
	opens       TIMESTAMP NOT NULL,
	due         TIMESTAMP,
	closes      TIMESTAMP,
	late        TEXT NOT NULL,
	per_day     INTEGER NOT NULL DEFAULT 0,
	grace       INTEGER NOT NULL DEFAULT 0,
	attempts    INTEGER NOT NULL DEFAULT 0,
	wait        INTEGER NOT NULL DEFAULT 0,
	counts      TEXT NOT NULL,
	show_sheet  TEXT NOT NULL,
	show_marks  TEXT NOT NULL,
	released    TIMESTAMP,
	created_at  TIMESTAMP NOT NULL,
	UNIQUE (class_id, exercise_id)
);

CREATE TABLE extension (
	opening_id INTEGER NOT NULL REFERENCES opening(id),
	kind       TEXT NOT NULL, -- student or group
	who        TEXT NOT NULL, -- login or group
	due        TIMESTAMP,
	closes     TIMESTAMP,
	attempts   INTEGER NOT NULL DEFAULT 0,
	reason     TEXT NOT NULL,
	PRIMARY KEY (opening_id, kind, who)
);

CREATE TABLE new_submission (
	id           TEXT PRIMARY KEY,
	opening_id   INTEGER NOT NULL REFERENCES opening(id),
	account_id   INTEGER NOT NULL REFERENCES account(id),
	attempt      INTEGER NOT NULL,
	file         TEXT NOT NULL,
	blob         TEXT NOT NULL,
	wiring       TEXT NOT NULL DEFAULT '', -- blob of a wiring file
	comment      TEXT NOT NULL DEFAULT '',
	by_id        INTEGER NOT NULL REFERENCES account(id), -- who handed it in
	job_id       INTEGER, -- whose result counts
	marks        TEXT NOT NULL DEFAULT '', -- of that result, with overrides; '' where there is none
	touched      INTEGER NOT NULL DEFAULT 0, -- it has overrides
	submitted_at TIMESTAMP NOT NULL,
	UNIQUE (opening_id, account_id, attempt)
);

-- Marking a submission with one revision and one engine. epoch is that of the service that claimed the job, claim a
-- number that grows with each claim: a result from any other claim is refused.
CREATE TABLE new_job (
	id            INTEGER PRIMARY KEY AUTOINCREMENT,
	submission_id TEXT NOT NULL REFERENCES new_submission(id),
	revision_id   INTEGER NOT NULL REFERENCES revision(id),
	engine        TEXT NOT NULL,
	kind          TEXT NOT NULL, -- first: a student waits; again: a remark
	state         TEXT NOT NULL DEFAULT 'queued',
	epoch         INTEGER NOT NULL DEFAULT 0,
	claim         INTEGER NOT NULL DEFAULT 0,
	error         TEXT NOT NULL DEFAULT '',
	queued_at     TIMESTAMP NOT NULL,
	finished_at   TIMESTAMP,
	UNIQUE (submission_id, revision_id, engine)
);

CREATE TABLE new_result (
	job_id     INTEGER PRIMARY KEY REFERENCES new_job(id),
	marks      TEXT NOT NULL,
	of_marks   TEXT NOT NULL,
	met        INTEGER NOT NULL,
	partly     INTEGER NOT NULL,
	missed     INTEGER NOT NULL,
	first      TEXT NOT NULL,
	alike      TEXT NOT NULL DEFAULT '', -- the same for look-alikes
	sheet      BLOB NOT NULL, -- JSON, gzip
	marked_at  TIMESTAMP NOT NULL
);

INSERT INTO account (name, full_name, role, password, created_at)
	SELECT 'student-' || row_number() OVER (ORDER BY student), student, 'person', '', min(submitted_at) FROM submission GROUP BY student;
INSERT INTO class (id, name, title, created_at) SELECT 1, 'first-class', 'First class', min(created_at) FROM exercise HAVING count(*) > 0;
INSERT INTO member (class_id, account_id, role, created_at)
	SELECT 1, id, CASE role WHEN 'admin' THEN 'instructor' ELSE 'student' END, created_at FROM account WHERE EXISTS (SELECT 1 FROM class);
INSERT INTO opening (class_id, exercise_id, revision_id, opens, late, counts, show_sheet, show_marks, created_at)
	SELECT 1, e.id, (SELECT id FROM revision WHERE exercise_id = e.id ORDER BY number DESC LIMIT 1), e.created_at, 'full', 'last', 'at-once', 'at-once', e.created_at FROM exercise e;
INSERT INTO new_submission (id, opening_id, account_id, attempt, file, blob, by_id, submitted_at)
	SELECT s.id, o.id, a.id, s.attempt, s.file, s.blob, a.id, s.submitted_at
	FROM submission s JOIN opening o ON o.exercise_id = s.exercise_id JOIN account a ON a.full_name = s.student AND a.role = 'person';
INSERT INTO new_job (submission_id, revision_id, engine, kind, state, epoch, claim, error, queued_at, finished_at)
	SELECT j.submission_id, s.revision_id, '3', 'first', j.state, j.epoch, j.claim, j.error, j.queued_at, j.finished_at
	FROM job j JOIN submission s ON s.id = j.submission_id ORDER BY j.queued_at, s.id;
INSERT INTO new_result (job_id, marks, of_marks, met, partly, missed, first, sheet, marked_at)
	SELECT j.id, r.marks, r.of_marks, r.met, r.partly, r.missed, r.first, r.sheet, r.marked_at
	FROM result r JOIN new_job j ON j.submission_id = r.submission_id;
UPDATE new_submission SET job_id = (SELECT id FROM new_job WHERE submission_id = new_submission.id),
	marks = coalesce((SELECT r.marks FROM new_result r JOIN new_job j ON j.id = r.job_id WHERE j.submission_id = new_submission.id), '');

DROP TABLE result;
DROP TABLE job;
DROP TABLE submission;
ALTER TABLE new_submission RENAME TO submission;
ALTER TABLE new_job RENAME TO job;
ALTER TABLE new_result RENAME TO result;
CREATE INDEX submission_by_opening ON submission (opening_id, account_id, attempt);
CREATE INDEX submission_by_blob ON submission (opening_id, account_id, blob);
CREATE INDEX job_by_state ON job (state, kind, claim, id);
CREATE INDEX result_by_alike ON result (alike);

-- A person's word on marks. trial and verdict, or hand_row, say of what; none of them, of the whole.
CREATE TABLE override (
	id            INTEGER PRIMARY KEY AUTOINCREMENT,
	submission_id TEXT NOT NULL REFERENCES submission(id),
	trial         INTEGER,
	verdict       INTEGER,
	hand_row      INTEGER,
	marks         TEXT NOT NULL,
	reason        TEXT NOT NULL,
	account_id    INTEGER NOT NULL REFERENCES account(id),
	created_at    TIMESTAMP NOT NULL,
	dropped_at    TIMESTAMP
);
CREATE INDEX override_by_submission ON override (submission_id);

CREATE TABLE comment (
	id            INTEGER PRIMARY KEY AUTOINCREMENT,
	submission_id TEXT NOT NULL REFERENCES submission(id),
	text          TEXT NOT NULL,
	account_id    INTEGER NOT NULL REFERENCES account(id),
	created_at    TIMESTAMP NOT NULL
);
CREATE INDEX comment_by_submission ON comment (submission_id);

CREATE TABLE phrase (
	id       INTEGER PRIMARY KEY AUTOINCREMENT,
	class_id INTEGER NOT NULL REFERENCES class(id),
	text     TEXT NOT NULL,
	used     INTEGER NOT NULL DEFAULT 0,
	UNIQUE (class_id, text)
);

CREATE TABLE proposal (
	id          INTEGER PRIMARY KEY AUTOINCREMENT,
	opening_id  INTEGER NOT NULL REFERENCES opening(id),
	revision_id INTEGER NOT NULL REFERENCES revision(id),
	engine      TEXT NOT NULL,
	account_id  INTEGER NOT NULL REFERENCES account(id),
	created_at  TIMESTAMP NOT NULL,
	closed_at   TIMESTAMP
);

CREATE TABLE proposed (
	proposal_id   INTEGER NOT NULL REFERENCES proposal(id),
	submission_id TEXT NOT NULL REFERENCES submission(id),
	job_id        INTEGER NOT NULL REFERENCES job(id),
	state         TEXT NOT NULL DEFAULT 'proposed', -- or taken, dropped
	was_job       INTEGER, -- whose result counted when this was decided
	was           TEXT NOT NULL DEFAULT '', -- and the marks
	PRIMARY KEY (proposal_id, submission_id)
);

-- Files handed in together, until they are confirmed.
CREATE TABLE bulk (
	id         TEXT PRIMARY KEY,
	opening_id INTEGER NOT NULL REFERENCES opening(id),
	account_id INTEGER NOT NULL REFERENCES account(id),
	created_at TIMESTAMP NOT NULL,
	done_at    TIMESTAMP
);

CREATE TABLE bulk_file (
	bulk_id       TEXT NOT NULL REFERENCES bulk(id),
	number        INTEGER NOT NULL,
	name          TEXT NOT NULL,
	size          INTEGER NOT NULL,
	blob          TEXT NOT NULL,
	login         TEXT NOT NULL,
	how           TEXT NOT NULL,
	sure          INTEGER NOT NULL,
	problem       TEXT NOT NULL,
	submission_id TEXT NOT NULL DEFAULT '',
	PRIMARY KEY (bulk_id, number)
);

-- What changed a mark or a right.
CREATE TABLE audit (
	id       INTEGER PRIMARY KEY AUTOINCREMENT,
	at       TIMESTAMP NOT NULL,
	by_name  TEXT NOT NULL,
	class_id INTEGER,
	action   TEXT NOT NULL,
	subject  TEXT NOT NULL,
	detail   TEXT NOT NULL
);
CREATE INDEX audit_by_class ON audit (class_id, id);
